"""The reserve over the takes, a lane for each joint, beside the operator in the pose."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Take
from equilix.core.carry.carried import Carry, reserves
from equilix.core.carry.loads import JointLoad
from equilix.core.operator.fatigue import Reserve, time_to_failure
from equilix.core.operator.strength import BodyJoint
from equilix.present.carry.carry_drawing import draw_figure, joint_spots
from equilix.present.carry.carry_view import hold_words
from equilix.present.drawing.scene import Anchor, Region, Scene, circle, fitted, polygon, polyline, rect, text_width
from equilix.present.words import JOINT_NAMES, MOST_SAID, minutes

#: px: the figure's column, the words before a lane, and those behind it.
_FIGURE, _WORDS, _SPARE = 168.0, 150.0, 92.0
#: px: the takes above, the minutes below, and the least height of a lane.
_ABOVE, _BELOW, LEAST_LANE = 62.0, 30.0, 42.0
_RING = 8.5


class Lane(Struct, frozen=True, eq=False):
    """One joint over the takes: what it carries, its reserve, and how long (s) it could go on at its tightest cut."""

    joint: JointLoad
    run: Reserve
    spare: float | None

    @property
    def gives_out(self) -> bool:
        """Whether it gives out before the last take ends, where rests give little back."""
        return self.run.fails_least is not None


def lanes_of(carried: Carry, takes: Sequence[Take]) -> tuple[Lane, ...]:
    """Return the lanes in the order of the joints."""
    step = max(1.0, sum(take.length + take.rest for take in takes) / 1500.0)
    found = []
    for joint, run in zip(carried.joints, reserves(carried, takes, step), strict=True):
        now, left = 0.0, list[float]()
        for take in takes:
            now += take.length
            tired = 1.0 - float(np.interp(now, run.time, run.least))
            left.append(time_to_failure(joint.joint, joint.share, tired))
            now += take.rest
        found.append(Lane(joint, run, min(left) if left and run.fails_least is None else None))
    return tuple(found)


def lanes_height(count: int) -> float:
    """Return the least height (px) at which so many lanes can be read."""
    return _ABOVE + _BELOW + LEAST_LANE * count


def draw_lanes(
    analysis: Analysis,
    carried: Carry,
    takes: Sequence[Take],
    made_up: bool,
    width: float,
    height: float,
    chosen: BodyJoint | None = None,
) -> Scene:
    """Return the lanes in an area of `width` by `height` px; regions ("joint", name) and ("take", number)."""
    scene = Scene()
    scene.text(0, 18, "Reserve over the takes", 16, 600)
    note = "Line: left in the joint. Band: slow to quick recovery. Bar: what the take asks"
    if made_up:
        note = "One take of 10 min, until you add takes. Line: left in the joint. Bar: what is asked"
    scene.text(190, 18, fitted(note, 13, width - 196.0), 13, 400, "ink3")
    figure = _FIGURE if width >= 640.0 else 0.0
    left, right = figure + _WORDS, width - _SPARE
    total = sum(take.length + take.rest for take in takes)
    lanes = lanes_of(carried, takes)
    spots: list[tuple[float, float]] = []
    if figure:
        middle, floor = 0.40 * figure, height - 12.0
        scale = _scale(analysis, carried, floor - 40.0)
        draw_figure(scene, analysis, carried, 0, middle, floor, scale)
        scene.line(0.0, floor, figure - 16.0, floor, "ink3", 1.2)
        spots = joint_spots(carried, middle, floor, scale)
    axis = _Axis(left, right, total)
    _draw_takes(scene, takes, axis, lanes)
    scene.text(width, 38.0, "spare at", 12, 400, "ink3", Anchor.END)
    scene.text(width, 53.0, "the cut", 12, 400, "ink3", Anchor.END)
    pitch = min((height - _ABOVE - _BELOW) / max(len(lanes), 1), 72.0)
    worst = min(lanes, key=_closeness)
    for row, lane in enumerate(lanes):
        top = _ABOVE + row * pitch
        lit = lane.joint.joint is chosen or (chosen is None and lane is worst)
        _draw_lane(scene, lane, row, (figure, width, top, pitch), axis, takes, lit)
        if figure:
            _draw_ring(scene, *spots[row], row, lit)
    base = _ABOVE + pitch * len(lanes)
    _draw_minutes(scene, axis, base + 4.0)
    return scene


class _Axis(Struct, frozen=True):
    """Time along the lanes: from `left` to `right` (px) go `total` seconds."""

    left: float
    right: float
    total: float

    def x(self, time: float) -> float:
        """Return where a time (s) is."""
        return self.left + (self.right - self.left) * time / max(self.total, 1.0)


def _scale(analysis: Analysis, carried: Carry, room: float) -> float:
    tops = analysis.positions.centre[:, 2] + analysis.assembly.edges[:, 2] + float(carried.shift[2])
    return room / max(float(tops.max()), 1.06 * carried.operator.stature)


def _closeness(lane: Lane) -> tuple[float, float]:
    end = lane.run.fails_least if lane.run.fails_least is not None else np.inf
    return float(end), float(lane.run.least.min()) - lane.joint.share


def _draw_ring(scene: Scene, x: float, y: float, row: int, lit: bool) -> None:
    scene.path(circle(x, y, _RING), "accent" if lit else "paper", "accent" if lit else "ink", 1.1)
    scene.text(x, y + 4.0, "abcdefghij"[row], 12, 600, "onaccent" if lit else "ink", Anchor.MIDDLE)


def _draw_takes(scene: Scene, takes: Sequence[Take], axis: _Axis, lanes: Sequence[Lane]) -> None:
    """Draw the takes as blocks with their numbers, the one in which a joint gives out in its own colour."""
    first = min((lane.run.fails_least for lane in lanes if lane.run.fails_least is not None), default=None)
    scene.text(axis.left - 8.0, 47.0, "Takes", 13, 600, "ink", Anchor.END)
    now = 0.0
    for k, take in enumerate(takes):
        a, b = axis.x(now), axis.x(now + take.length)
        over = first is not None and now < first + 1e-6 <= now + take.length + 1e-6
        scene.path(rect(a, 34.0, max(b - a, 2.0), 18.0, 2), "fwd" if over else "accent")
        words = f"Take {k + 1}" if b - a > 46.0 else str(k + 1)
        if b - a > 14.0:
            scene.text((a + b) / 2.0, 47.5, words, 12.5, 600, "onaccent", Anchor.MIDDLE)
        scene.regions.append(Region(("take", str(k)), ((a, 32.0), (b, 32.0), (b, 54.0), (a, 54.0))))
        now += take.length
        end, rest = axis.x(now + take.rest), minutes(take.rest) if take.rest > 0.0 else ""
        if rest and end - b > text_width(rest, 12) + 6.0:
            scene.text((b + end) / 2.0, 47.5, rest, 12, 400, "ink2", Anchor.MIDDLE)
        now += take.rest


def _draw_lane(
    scene: Scene,
    lane: Lane,
    row: int,
    area: tuple[float, float, float, float],
    axis: _Axis,
    takes: Sequence[Take],
    lit: bool,
) -> None:
    """Draw a lane in `area` (left, right, top, height px): name and minutes, the reserve, and what is to spare."""
    left, width, top, pitch = area
    bottom = top + pitch
    if lit:
        scene.path(rect(left, top, width - left, pitch - 2.0, 3), "tint")
        scene.path(rect(left, top, 3.0, pitch - 2.0), "accent")
    scene.line(left, bottom - 1.0, width, bottom - 1.0, "rule", 1.0)
    box = ((left, top), (width, top), (width, bottom), (left, bottom))
    scene.regions.append(Region(("joint", lane.joint.joint.value), box))
    _draw_ring(scene, left + 16.0, top + 14.0, row, lit)
    tone = "fwdT" if lane.gives_out else "accent"
    name = JOINT_NAMES[lane.joint.joint][0]
    name += f", {lane.joint.side}" if lane.joint.side is not None else ""
    scene.text(left + 30.0, top + 18.5, name, 14, 600)
    scene.text(left + 30.0, top + 35.5, hold_words(lane.joint.hold), 14, 600, tone)
    _draw_curve(scene, lane, (top + 5.0, bottom - 8.0), axis, takes)
    if lane.gives_out:
        early = minutes(lane.run.fails_least or 0.0)
        scene.text(width, top + 18.5, "none", 14, 600, "fwdT", Anchor.END)
        scene.text(width, top + 35.5, f"out at {early}", 12, 400, "ink2", Anchor.END)
    elif lane.spare is not None:
        over = lane.spare >= MOST_SAID
        words = f"over {minutes(MOST_SAID)}" if over else minutes(lane.spare)
        scene.text(width, top + 26.0, words, 14, 600, "ink", Anchor.END)


def _draw_curve(scene: Scene, lane: Lane, between: tuple[float, float], axis: _Axis, takes: Sequence[Take]) -> None:
    """Draw what is left in the joint, from all at the top to none at the bottom, and what each take asks."""
    top, base = between

    def y(share: float) -> float:
        return base - (base - top) * min(share, 1.0)

    run = lane.run
    stride = max(1, len(run.time) // 300)
    upper, lower = (
        [(axis.x(float(t)), y(float(v))) for t, v in zip(run.time[::stride], values[::stride], strict=True)]
        for values in (run.left, run.least)
    )
    scene.path(polygon((*upper, *reversed(lower))), "accent", None, 0.0, (), 0.18)
    scene.path(polyline(lower), None, "accent", 1.8)
    now, ask = 0.0, y(lane.joint.share)
    for take in takes:
        scene.line(axis.x(now), ask, axis.x(now + take.length), ask, "ink", 2.6)
        now += take.length + take.rest
    if run.fails_least is not None:
        x = axis.x(run.fails_least)
        scene.line(x, top, x, base, "fwd", 1.4)
        scene.path(circle(x, ask, 4.5), "panel", "fwd", 1.8)


def _draw_minutes(scene: Scene, axis: _Axis, y: float) -> None:
    """Draw the minutes below the lanes."""
    scene.line(axis.left, y, axis.right, y, "ink2", 1.0)
    step = next((m for m in (1, 2, 5, 10, 20, 30, 60) if (axis.right - axis.left) * 60.0 * m / axis.total >= 44.0), 120)
    for k in range(int(axis.total / 60.0 / step + 1e-9) + 1):
        x = axis.x(60.0 * step * k)
        scene.line(x, y, x, y + 5.0, "ink2", 1.0)
        scene.text(x, y + 19.0, str(step * k), 12, 500, "ink2", Anchor.MIDDLE)
    scene.text(axis.right + 12.0, y + 19.0, "min", 12, 400, "ink3")
