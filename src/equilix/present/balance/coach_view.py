"""What the coach says: the next test or move in words, what was seen, and the region where scales belong."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from msgspec import Struct

from equilix.core.measurement.coach import Advice, Belief, Do, Look, Saw
from equilix.core.measurement.coaching import AxisBench, Coaching
from equilix.present.drawing.scene import Anchor, Scene, arrow_head, circle, polygon, rect
from equilix.present.units import Kind, System, figure, number
from equilix.present.words import Slider

#: By axis, what a stage does when it is let go: the positive way, the negative way, and neither.
FALLS: dict[str, tuple[str, str, str]] = {
    "tilt": ("Nose falls", "Falls back", "Stays"),
    "roll": ("Left side rises", "Left side falls", "Stays"),
    "pan": ("Drifts left", "Drifts right", "Stays"),
}
_SAW = (Saw.FALLS, Saw.BACK, Saw.STAYS)


class CoachWords(Struct, frozen=True):
    """`head` is what to do, `why` what for; `answers` are words for what may be seen, empty for a move."""

    head: str
    why: str
    answers: tuple[tuple[str, Saw], ...]
    seen: tuple[str, ...]
    warning: str


def coach_words(session: Coaching, advice: Advice, scales: Mapping[str, Slider], system: System) -> CoachWords:
    """Return the coach's words; `scales` has what moves on each slide."""
    if advice.do is Do.DONE:
        moves = "1 move" if session.moves == 1 else f"{session.moves} moves"
        names = [one.name for one in session.axes]
        where = (
            "all axes" if len(names) == len(FALLS) else " and ".join(names) + " alone: nothing slides for the others"
        )
        return CoachWords(f"Balanced on {where}.", f"It took {moves}. Switch the motors on.", (), (), "")
    axis = session.axis
    looks = session.looks.get(axis.name, [])
    belief = session.belief()
    seen = tuple(_seen_words(session, look) for look in looks)
    warning = ""
    if belief.contradicts:
        k = belief.contradicts[0]
        warning = f"Number {k + 1} does not go with the others: {seen[k]}. Try it again, or take it back."
    chance = f"{100.0 * belief.inside:.0f} % sure by now that {axis.name} is balanced"
    if advice.do is Do.MOVE:
        slider = scales[axis.scales[advice.scale]]
        now = session.standing(axis)[advice.scale]
        way = slider.way(advice.to - now)
        far, mark = (figure(v, Kind.LENGTH, system, extra=1) for v in (abs(advice.to - now), advice.to - slider.low))
        return CoachWords(f"Set the {slider.name} {way} {far}, to {mark}.", f"{chance}.", (), seen, warning)
    words = _test_words(axis.name, session.angle_of(advice.way))
    head = f"{words}, let go and look." if not session.effort else f"{words}, and read the motor."
    answers = tuple(zip(FALLS[axis.name], _SAW, strict=True))
    return CoachWords(head, f"{chance}.", answers, seen, warning)


def _test_words(axis: str, angle: float) -> str:
    degrees = f"{abs(math.degrees(angle)):.0f}°"
    if axis == "tilt":
        if angle == 0.0:
            return "Hold the camera level"
        return f"Tilt the lens {'down' if angle > 0.0 else 'up'} {degrees}"
    if axis == "roll":
        return "Hold the camera level sideways" if angle == 0.0 else f"Roll it {degrees}"
    return f"Lean the frame {degrees}, its {'left' if angle > 0.0 else 'right'} side up"


def _seen_words(session: Coaching, look: Look) -> str:
    axis = session.axis.name
    words = _test_words(axis, session.angle_of(look.way))
    if look.saw is None:
        return f"{words}: {number(look.effort, 3, sign=True)} N·m"
    said = FALLS[axis][_SAW.index(look.saw)]
    return f"{words}: {said[:1].lower()}{said[1:]}"


def draw_region(
    session: Coaching, belief: Belief, scales: Mapping[str, Slider], system: System, size: tuple[float, float]
) -> Scene:
    """Return where the present axis's scales belong, surely to 95 %, and where they stand, in `size` px."""
    scene = Scene()
    axis, (width, height) = session.axis, size
    if session.finished:
        scene.text(width / 2.0, height / 2.0, "All axes done", 15, 600, "ink2", Anchor.MIDDLE)
        return scene
    if axis.scales[1]:
        _draw_plane(scene, axis, belief, session.standing(axis), scales, system, width, height)
    else:
        _draw_line(scene, axis, belief, session.standing(axis), scales, system, width, height)
    return scene


def _draw_plane(
    scene: Scene,
    axis: AxisBench,
    belief: Belief,
    marks: tuple[float, float],
    scales: Mapping[str, Slider],
    system: System,
    width: float,
    height: float,
) -> None:
    left, right, top, base = 52.0, width - 10.0, 14.0, height - 34.0
    (a0, a1), (b0, b1) = axis.bench.limits

    def x(value: float) -> float:
        return left + (right - left) * (value - a0) / (a1 - a0)

    def y(value: float) -> float:
        return base - (base - top) * (value - b0) / (b1 - b0)

    scene.path(rect(left, top, right - left, base - top, 0), "panel", "rule2", 1.0)
    root = np.linalg.cholesky(belief.shape)
    angles = np.linspace(0.0, 2.0 * math.pi, 72, endpoint=False)
    rim = belief.centre + math.sqrt(max(belief.reach, 0.0)) * np.column_stack([np.cos(angles), np.sin(angles)]) @ root.T
    inside = [(min(max(x(float(p)), left), right), min(max(y(float(q)), top), base)) for p, q in rim]
    scene.path(polygon(inside), "accent", "accent", 1.4, (), 0.16)
    half = [axis.bench.window / max(abs(s), 1e-6) / math.sqrt(2.0) for s in axis.bench.slopes]
    goal = [min(max(float(c), lo), hi) for c, (lo, hi) in zip(belief.centre, axis.bench.limits, strict=True)]
    corner = x(goal[0] - half[0]), y(goal[1] + half[1])
    scene.path(
        rect(*corner, x(goal[0] + half[0]) - corner[0], y(goal[1] - half[1]) - corner[1], 0),
        None,
        "accent",
        1.0,
        (3, 3),
    )
    here = x(marks[0]), y(marks[1])
    scene.line(here[0] - 9, here[1], here[0] + 9, here[1], "ink", 1.6)
    scene.line(here[0], here[1] - 9, here[0], here[1] + 9, "ink", 1.6)
    scene.path(circle(*here, 4.0), "paper", "ink", 1.6)
    for value, place in ((a0, left), (a1, right)):
        words = figure(value - scales[axis.scales[0]].low, Kind.LENGTH, system)
        scene.text(place, base + 16.0, words, 12, 400, "ink2", Anchor.START if value == a0 else Anchor.END)
    scene.text((left + right) / 2.0, base + 16.0, scales[axis.scales[0]].name, 12, 500, "ink2", Anchor.MIDDLE)
    for value, place in ((b0, base), (b1, top + 9.0)):
        words = figure(value - scales[axis.scales[1]].low, Kind.LENGTH, system)
        scene.text(left - 5.0, place, words, 12, 400, "ink2", Anchor.END)
    scene.text(left + 6.0, top + 14.0, f"{scales[axis.scales[1]].name}", 12, 500, "ink2")
    scene.text(left, height - 2.0, "tinted: where they belong (95 %)", 12, 400, "ink2")


def _draw_line(
    scene: Scene,
    axis: AxisBench,
    belief: Belief,
    marks: tuple[float, float],
    scales: Mapping[str, Slider],
    system: System,
    width: float,
    height: float,
) -> None:
    left, right, y = 16.0, width - 16.0, height / 2.0
    low, high = axis.bench.limits[0]
    name, zero = scales[axis.scales[0]].name, scales[axis.scales[0]].low

    def x(value: float) -> float:
        return min(max(left + (right - left) * (value - low) / (high - low), left), right)

    half = math.sqrt(max(belief.reach * float(belief.shape[0, 0]), 0.0))
    centre = float(belief.centre[0])
    scene.path(
        rect(x(centre - half), y - 14.0, x(centre + half) - x(centre - half), 28.0, 0), "accent", None, 0.0, (), 0.2
    )
    scene.line(left, y, right, y, "ink2", 1.2)
    for value in (low, high):
        scene.line(x(value), y - 7.0, x(value), y + 7.0, "ink2", 1.4)
        anchor = Anchor.START if value == low else Anchor.END
        scene.text(x(value), y + 30.0, figure(value - zero, Kind.LENGTH, system), 12, 400, "ink2", anchor)
    scene.text((left + right) / 2.0, y + 30.0, name, 12, 500, "ink2", Anchor.MIDDLE)
    here = x(marks[0])
    scene.path(arrow_head(here, y - 3.0, math.pi / 2.0, 11.0), "ink")
    scene.text(here, y - 20.0, "stands here", 12, 500, "ink", Anchor.MIDDLE)
    scene.text(left, height - 2.0, "tinted: where it belongs, to 95 %", 12, 400, "ink2")
