"""The drawings of the Carry room: figure and joint bars, the reserve along takes, other supports, builds and bodies."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator, Side, Take
from equilix.core.assembly.resolve import outline_corners
from equilix.core.carry.carried import Carry
from equilix.core.carry.loads import JointLoad
from equilix.core.hull import convex_hull
from equilix.core.operator.strength import CAPACITY_UNCERTAINTY, BodyJoint
from equilix.core.statics.looking import screen_from_eye
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.present.balance.elevation import draw_nothing_yet
from equilix.present.carry.carry_view import ONE_TAKE, hold_words, share_for
from equilix.present.drawing.figures import draw_arm, draw_legs, draw_trunk
from equilix.present.drawing.person import draw_person, leaning
from equilix.present.drawing.rig_drawing import Projection, bounds, draw_cg, draw_parts
from equilix.present.drawing.scene import (
    Anchor,
    Region,
    Scene,
    arrow_head,
    circle,
    fitted,
    polygon,
    polyline,
    rect,
    text_width,
)
from equilix.present.drawing.silhouettes import View
from equilix.present.supports import text_for, text_of
from equilix.present.units import System, figure, unit_of
from equilix.present.words import JOINT_NAMES, minutes

#: px: below this width what stands side by side is stacked; the height of the figure then.
STACKED, _FIGURE = 480.0, 230.0


def load_height(width: float, room: float = math.inf) -> float:
    """Return the least height (px) at which figure and bars of `width` px can be read.

    A bar takes two lines if `room` (px) allows, else one. Below a certain width the figure stands above the bars,
    and the room scrolls.
    """
    full = 50.0 + 7.0 * 33.5
    if width < STACKED:
        return _FIGURE + 8.0 + 50.0 + 7.0 * 34.0
    return full if room >= full else 50.0 + 7.0 * 25.0


def draw_load(
    analysis: Analysis,
    carried: Carry,
    takes: Sequence[Take],
    system: System,
    width: float,
    height: float,
    chosen: BodyJoint | None = None,
) -> Scene:
    """Return figure and joint bars, regions ("joint", name); the `chosen` joint is outlined."""
    scene = Scene()
    stacked, narrow = width < STACKED, width < 640.0
    left = 0.0 if stacked else 150.0 if narrow else min(330.0, width * 0.42)
    tall = _FIGURE if stacked else height
    tallest = max(float(p[2] + analysis.assembly.edges[i, 2]) for i, p in enumerate(analysis.positions.centre))
    tallest = max(tallest + float(carried.shift[2]), 1.04 * carried.operator.stature)
    scale = (tall - 50.0) / tallest
    floor = tall - 14.0
    beside = width if stacked else left
    front_x, side_x = beside * (0.3 if stacked else 0.22), beside * (0.5 if narrow and not stacked else 0.60)
    scene.text(0, 18, "Load on the operator", 16, 600)
    views = ((1, front_x, "front"), (0, side_x, "from the right"))
    for axis, middle, words in views[1:] if narrow and not stacked else views:
        draw_figure(scene, analysis, carried, axis, middle, floor, scale)
        scene.text(middle, tall - 1.0, words, 12, 400, "ink3", Anchor.MIDDLE)
    scene.line(0.0, floor, beside - 8, floor, "ink3", 1.2)
    places = joint_spots(carried, side_x, floor, scale)
    _draw_bars(
        scene,
        carried,
        takes,
        system,
        places,
        left - 28.0 if stacked else left,
        tall + 8.0 if stacked else 0.0,
        width,
        height,
        chosen,
    )
    way = screen_from_eye(analysis.assembly, analysis.positions, carried.body, carried.shift)
    if way is not None and carried.gaze is not None:
        # After the leaders, which may run here.
        degrees = math.degrees(carried.gaze)
        x, y = _across(carried.body.eye + way, 0, side_x, floor, scale)
        words = f"{abs(degrees):.0f}° {'down' if degrees >= 0.0 else 'up'}"
        tone = "ink2" if 0.0 <= degrees <= 30.0 else "fwdT"
        end = x + 11.0 + text_width(words, 12) > (width if stacked else left)
        scene.note(x + (-9.0 if end else 9.0), max(y - 6.0, 34.0), words, 12, tone, Anchor.END if end else Anchor.START)
    return scene


def draw_no_load(operator: Operator, words: str, width: float, height: float) -> Scene:
    """Draw the operator alone, with `words` on why nothing is known of the load; none where there is no build."""
    scene = draw_nothing_yet(operator, width, height, "" if words else "The rig sits here.")
    scene.text(0, 18, "Load on the operator", 16, 600)
    if words:
        scene.text(0, 44, words, 14, 400, "ink2")
    return scene


def draw_standing(analysis: Analysis, words: str, width: float, height: float) -> Scene:
    """Return a rig that nobody carries, on what it stands on, with `words` below the title."""
    scene = Scene()
    scene.text(0, 18, "Load on the operator", 16, 600)
    scene.text(0, 44, fitted(words, 14, width), 14, 400, "ink2")
    equilibrium = analysis.equilibrium
    if equilibrium is None:
        return scene
    low, high = bounds(analysis)
    below, above = text_for(analysis.build.support).room
    low, high = low - np.array([0.0, 0.0, below]), high + np.array([0.0, 0.0, above])
    top, bottom = 66.0, height - 4.0
    scale = min((bottom - top) / max(float(high[2] - low[2]), 0.1), 0.8 * width / max(float(high[0] - low[0]), 0.1))
    scale = max(scale, 50.0)
    middle = (low + high) / 2.0
    side = Projection(View.SIDE, scale, width / 2.0, (top + bottom) / 2.0, float(middle[0]), float(middle[2]))
    view, spot = text_for(analysis.build.support), side.point(equilibrium.point)
    view.draw_point(scene, *spot, height - 4.0, height - 4.0, scale)
    draw_parts(scene, analysis.assembly, analysis.positions, side)
    draw_cg(scene, *side.point(analysis.body.cg if analysis.body is not None else equilibrium.point), 9.0)
    return scene


def _across(v: np.ndarray, axis: int, middle: float, floor: float, scale: float) -> tuple[float, float]:
    """Return px of a place: from the front the operator's left is on the right."""
    return middle + float(v[axis]) * scale, floor - float(v[2]) * scale


def draw_figure(
    scene: Scene, analysis: Analysis, carried: Carry, axis: int, middle: float, floor: float, scale: float
) -> None:
    """Draw the operator from the real proportions, then the rig, then the joints."""
    if axis == 0:
        case = case_of(analysis)
        gear = text_of(analysis).gear(case, carried.pose) if case is not None else None
        draw_person(scene, analysis, carried.pose, gear, middle, floor, scale)
    else:
        _draw_from_ahead(scene, analysis, carried, (middle, floor, scale))
    for arm in carried.arms:
        for joint in (arm.shoulder, arm.elbow):
            scene.path(circle(*_across(joint, axis, middle, floor, scale), 2.6), "panel", "ink2", 1.1)
    _draw_braces(scene, carried, axis, middle, floor, scale)
    x, y = _across(carried.cg, axis, middle, floor, scale)
    scene.line(x, y, x, floor, "fwd", 1.1, (4.0, 3.0))
    draw_cg(scene, x, y, 5.0)
    if axis == 0:
        _draw_eye_line(scene, analysis, carried, middle, floor, scale)


def _draw_from_ahead(scene: Scene, analysis: Analysis, carried: Carry, where: tuple[float, float, float]) -> None:
    """Draw operator and rig from ahead at `where` (middle, floor, px per m): the rig as blocks, those behind first."""
    body, scale = carried.body, where[2]
    off = leaning(body)

    def at(x: float, y: float, z: float) -> tuple[float, float]:
        return _across(np.array([x, y, z]) + off(z), 1, *where)

    draw_legs(scene, body, 1, at, scale)
    lean = carried.pose.lean
    draw_trunk(scene, body, 1, at, scale, lean if carried.operator.shoulder is Side.RIGHT else -lean)
    for part in np.argsort(analysis.positions.centre[:, 0]).tolist():
        if not analysis.assembly.sized[part]:
            continue
        corners = outline_corners(analysis.assembly, analysis.positions, part) + carried.shift
        seen = np.array([_across(c, 1, *where) for c in corners])
        shape = polygon([(float(x), float(y)) for x, y in convex_hull(seen)])
        if analysis.assembly.upright[part]:
            (x0, y0), (x1, y1) = seen.min(axis=0).tolist(), seen.max(axis=0).tolist()
            shape = rect(x0, y0, x1 - x0, y1 - y0, 1)
        scene.path(shape, "p3", "line", 0.8)
    for arm in carried.arms:
        a, b, c = (_across(p, 1, *where) for p in (arm.shoulder, arm.elbow, arm.grip))
        draw_arm(scene, a, b, c, body.stature, scale)


def _draw_eye_line(scene: Scene, analysis: Analysis, carried: Carry, middle: float, floor: float, scale: float) -> None:
    """Draw where the eye looks, and the easy range below level when it is missed."""
    way = screen_from_eye(analysis.assembly, analysis.positions, carried.body, carried.shift)
    if way is None or carried.gaze is None:
        return
    eye = carried.body.eye
    x, y = _across(eye, 0, middle, floor, scale)
    ex, ey = _across(eye + way, 0, middle, floor, scale)
    degrees = math.degrees(carried.gaze)
    easy = 0.0 <= degrees <= 30.0
    if not easy:
        length = max(40.0, math.hypot(ex - x, ey - y))
        corners = [(x, y)] + [
            (x + length * math.cos(math.radians(a)), y + length * math.sin(math.radians(a))) for a in (0.0, 15.0, 30.0)
        ]
        scene.path(polygon(corners), "accent", None, 0.0, (), 0.16)
    color = "accent" if easy else "fwd"
    scene.line(x, y, ex, ey, color, 1.4, (2.0, 2.5))
    scene.path(circle(x, y, 2.0), color)
    scene.path(circle(ex, ey, 2.6), "panel", color, 1.4)


def _draw_braces(scene: Scene, carried: Carry, axis: int, middle: float, floor: float, scale: float) -> None:
    """Draw where the body pushes besides the hands: an arrow into the rig, or into a tucked elbow."""
    pushes = [(push.point, push.force) for push in carried.held.braced]
    pushes += [
        (carried.arms[prop.hand].elbow, force)
        for prop, force in zip(carried.pose.props, carried.held.propped, strict=True)
    ]
    for point, force in pushes:
        x, y = _across(point, axis, middle, floor, scale)
        scene.path(circle(x, y, 4.0), "accent", "panel", 1.2)
        dx, dz = float(force[axis]), float(force[2])
        size = math.hypot(dx, dz)
        if size < 2.0:
            continue
        long = min(10.0 + 0.15 * size, 26.0)
        tip = (x + long * dx / size, y - long * dz / size)
        scene.line(x, y, *tip, "accent", 2.0)
        scene.path(arrow_head(*tip, math.atan2(-dz, dx), 6.0), "accent")


def joint_spots(carried: Carry, middle: float, floor: float, scale: float) -> list[tuple[float, float]]:
    """Return where the joints are (px) on the figure seen from the right, in their order."""
    return [_across(_joint_place(carried, joint), 0, middle, floor, scale) for joint in carried.joints]


def _joint_place(carried: Carry, joint: JointLoad) -> np.ndarray:
    """Return where a joint is; of a pair the one that is loaded more."""
    arm = next((a for a in carried.arms if a.side is joint.side), carried.arms[0] if carried.arms else None)
    match joint.joint:
        case BodyJoint.NECK:
            return carried.body.neck
        case BodyJoint.LOW_BACK:
            return carried.body.low_back
        case BodyJoint.HIP:
            return carried.body.hips
    assert arm is not None
    return {
        BodyJoint.SHOULDER: arm.shoulder,
        BodyJoint.ELBOW: arm.elbow,
        BodyJoint.WRIST: arm.wrist,
        BodyJoint.HAND: arm.grip,
    }[joint.joint]


def _draw_bars(
    scene: Scene,
    carried: Carry,
    takes: Sequence[Take],
    system: System,
    places: Sequence[tuple[float, float]],
    left: float,
    above: float,
    width: float,
    height: float,
    chosen: BodyJoint | None,
) -> None:
    """Draw the joints' bars from x `left` and y `above` on, with leaders to the joints at `places` beside them."""
    name_x, bar_x, right = left + 28.0, left + 136.0, width - 112.0
    most = max(0.4, *(1.3 * j.share for j in carried.joints))
    most = math.ceil(most * 10.0 + 0.2) / 10.0
    longest = max(take.length for take in takes) if takes else ONE_TAKE[0].length
    px = (right - bar_x) / most
    top = above + 34.0
    pitch = min((height - top - 16.0) / max(len(carried.joints), 1), 60.0)
    two_lines = pitch >= 33.0
    scene.text(name_x, above + 20, "of strength", 12.5, 400, "ink3")
    step = next((s for s in (0.1, 0.2, 0.5, 1.0) if s * px >= 40.0), 2.0)
    for k in range(int(most / step + 1e-9) + 1):
        x = bar_x + k * step * px
        scene.line(x, top - 6, x, top + pitch * len(carried.joints) - 8, "rule", 1.0)
        text = f"{100 * k * step:.0f} %" if k else "0"
        scene.text(x, above + 20, text, 12, 500, "ink3", Anchor.MIDDLE)
    scene.text(width, above + 20, "holds", 12.5, 400, "ink3", Anchor.END)
    worst = carried.worst
    for row, (joint, place) in enumerate(zip(carried.joints, places, strict=True)):
        y = top + row * pitch
        on = joint is worst
        color = "accent" if on else "ink3"
        if above == 0.0:
            scene.path(polyline((place, (left - 4, y + 9), (name_x - 8, y + 9))), None, color, 1.6 if on else 0.8)
        scene.path(circle(*place, 3.6), "accent" if on else "panel", color, 1.2)
        if on:
            scene.path(rect(name_x - 8, y - 5, width - name_x + 8, min(pitch - 2, 46), 3), "tint")
        box = (name_x - 8.0, y - 5.0, width, y - 5.0 + min(pitch - 2.0, 46.0))
        if joint.joint is chosen:
            scene.path(rect(box[0] + 1, box[1], box[2] - box[0] - 2, box[3] - box[1], 3), None, "accent", 1.4)
        corners = ((box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3]))
        scene.regions.append(Region(("joint", joint.joint.value), corners))
        _draw_bar(scene, joint, share_for(joint.joint, longest), bar_x, y, px, most)
        name = JOINT_NAMES[joint.joint][0]
        scene.text(name_x, y + 11, name, 15, 600, "ink")
        scene.text(width, y + 12, hold_words(joint.hold), 14, 600, "ink", Anchor.END)
        if not two_lines:
            if joint.side is not None:
                scene.text(bar_x - 6.0, y + 11, joint.side.value, 12, 400, "ink2", Anchor.END)
            continue
        if joint.side is not None:
            scene.text(name_x, y + 28, f"{joint.side} more", 12.5, 400, "ink2")
        kind = Kind.FORCE if joint.joint is BodyJoint.HAND else Kind.MOMENT
        words = (
            f"{figure(joint.load, kind, system, unit=False)} of {figure(joint.capacity, kind, system, unit=False)} "
            f"{unit_of(kind, system)}"
        )
        scene.text(bar_x, y + 28, words, 12.5, 400, "ink2")
        scene.text(width, y + 28, f"{100 * joint.share:.0f} %", 12.5, 400, "ink2", Anchor.END)
    x, y = max(min(bar_x, width - 270.0), 0.0), height - 4.0
    scene.line(x + 1, y - 11, x + 1, y + 1, "ink", 2.4)
    words = f"gives out after {minutes(longest)}. Bracket: strength ± 30 %"
    # The same as a mark in the bars; the bracket is told in the guide too.
    if 1.06 * text_width(words, 12.5) > width - x - 12.0:
        words = f"gives out after {minutes(longest)}"
    scene.text(x + 9, y, words, 12.5, 400, "ink2")


def _draw_bar(scene: Scene, joint: JointLoad, limit: float, bar_x: float, y: float, px: float, most: float) -> None:
    """Draw one share of strength with its bracket, and the heavy line where the longest take would end."""
    scene.path(rect(bar_x, y + 1, max(joint.share * px, 1.5), 12), "fwd" if joint.share > limit else "accent")
    low, high = joint.share / (1.0 + CAPACITY_UNCERTAINTY), joint.share / (1.0 - CAPACITY_UNCERTAINTY)
    high = min(high, most)
    scene.line(bar_x + low * px, y + 7, bar_x + high * px, y + 7, "ink", 1.2)
    for end in (low, high):
        scene.line(bar_x + end * px, y + 3, bar_x + end * px, y + 11, "ink", 1.2)
    if limit < most:
        x = bar_x + limit * px
        scene.line(x, y - 3, x, y + 17, "ink", 2.4)


# The reserve


# What else there is
