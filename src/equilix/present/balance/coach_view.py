"""What the coach says: the next test or move in words, what was seen, and the region where scales belong."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from msgspec import Struct

from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.measurement.belief import CoachBelief, Observation, Response
from equilix.core.measurement.coach import Action, CoachAdvice, Left
from equilix.core.measurement.coaching import AxisBench, Coaching
from equilix.core.units import Kind
from equilix.present.drawing.scene import Anchor, Scene, arrow_head, circle, polygon, rect
from equilix.present.units import System, figure, number
from equilix.present.words import Slider

#: By axis, what a stage does when it is let go: the positive way, the negative way, and neither.
FALLS: dict[str, tuple[str, str, str]] = {
    "tilt": ("Nose falls", "Tail falls", "Stays"),
    "roll": ("Left side rises", "Left side falls", "Stays"),
    "pan": ("Turns left", "Turns right", "Stays"),
}
_SAW = (Response.FALLS, Response.BACK, Response.STAYS)
#: By axis and way: what a negative moment and a positive one are called, and where a weight takes each off.
_HEAVY: dict[tuple[str, int], tuple[tuple[str, str], tuple[str, str]]] = {
    ("tilt", 0): (("back-heavy", "ahead of"), ("nose-heavy", "behind")),
    ("tilt", 1): (("bottom-heavy", "above"), ("top-heavy", "below")),
    ("roll", 0): (("heavy on the left", "right of"), ("heavy on the right", "left of")),
    ("pan", 0): (("heavy ahead", "behind"), ("heavy behind", "ahead of")),
}
#: m: how far from an axis a weight is told that takes a moment off.
_ARM = 0.20
#: Looks that contradict the others from which these are what hinders.
_SEVERAL = 2


class CoachWords(Struct, frozen=True):
    """`head` is what to do, `why` what for; `answers` are words for what may be seen, empty for a move."""

    head: str
    why: str
    answers: tuple[tuple[str, Response], ...]
    seen: tuple[str, ...]
    warning: str


def coach_words(session: Coaching, advice: CoachAdvice, scales: Mapping[str, Slider], system: System) -> CoachWords:
    """Return the coach's words; `scales` has what moves on each slide."""
    if advice.do is Action.DONE:
        return _done_words(session, system)
    axis = session.axis
    looks = session.looks.get(axis.name, [])
    belief = session.belief()
    seen = tuple(_seen_words(session, look) for look in looks)
    warning = ""
    if belief.contradicts:
        k = belief.contradicts[0]
        warning = f"Observation {k + 1} contradicts the others: {seen[k]}. Repeat it or take it back."
    chance = f"{min(math.floor(100.0 * belief.inside), 99)} % certain that {axis.name} is balanced"
    if advice.do is Action.LEFT:
        return CoachWords(*_left_words(session, advice, belief, scales, system), (), seen, warning)
    if advice.do is Action.MOVE:
        slider = scales[axis.scales[advice.scale]]
        now = session.standing(axis)[advice.scale]
        way = slider.way(advice.to - now)
        far, mark = (figure(v, Kind.LENGTH, system, extra=1) for v in (abs(advice.to - now), advice.to - slider.low))
        why = "There it should fall, unless its bearing sticks." if advice.probe else f"{chance}."
        return CoachWords(f"Set the {slider.name} {way} {far}, to {mark}.", why, (), seen, warning)
    words = _test_words(axis.name, session.angle_of(advice.way))
    if advice.again:
        words = f"Once more: {words[:1].lower()}{words[1:]}"
    head = f"{words}, let go and look." if not session.effort else f"{words}, and read the motor."
    answers = tuple(zip(FALLS[axis.name], _SAW, strict=True))
    return CoachWords(head, f"{chance}.", answers, seen, warning)


def _done_words(session: Coaching, system: System) -> CoachWords:
    """Return what came of all axes: which are balanced, and what stays on the others."""
    balanced = [axis.name for axis in session.axes if session.is_balanced(axis)]
    where = "all axes" if len(balanced) == len(FALLS) else " and ".join(balanced) or "no axis"
    moves = "one change of a mark" if session.moves == 1 else f"{session.moves} changes of a mark"
    stays = [_stays(session, axis, system) for axis in session.axes if axis.name not in balanced]
    ending = "Switch the motors on." if not stays else "Then switch the motors on, if they hold that."
    why = " ".join([f"It took {moves}.", *stays, "What was found is in the figures now.", ending])
    return CoachWords(f"Balanced on {where}.", why, (), (), "")


def _worst(session: Coaching, axis: AxisBench) -> tuple[int, float, bool]:
    """Return the way along which most is left on an axis, how much (N m), and whether it surely is to that side."""
    moments, _ = session.found(axis)
    k = max((k for k in (0, 1) if axis.bench.sees[k]), key=lambda k: abs(float(moments[k])))
    low, high = session.between(axis, k)
    return k, float(moments[k]), low > 0.0 or high < 0.0


def _stays(session: Coaching, axis: AxisBench, system: System) -> str:
    """Return how an axis stands, as "Tilt stays nose-heavy, by 0.17 to 0.25 N·m."."""
    k, moment, sure = _worst(session, axis)
    least, most = sorted(abs(end) for end in session.between(axis, k))
    at_most = figure(most, Kind.MOMENT, system, extra=1)
    if not sure:
        return f"{axis.name.capitalize()} is balanced to {at_most}; no more is known."
    at_least = figure(least, Kind.MOMENT, system, unit=False, extra=1)
    return f"{axis.name.capitalize()} stays {_HEAVY[axis.name, k][moment > 0.0][0]}, by {at_least} to {at_most}."


def _left_words(
    session: Coaching, advice: CoachAdvice, belief: CoachBelief, scales: Mapping[str, Slider], system: System
) -> tuple[str, str]:
    """Return why an axis is left as it is, what stays on it, and what would help."""
    axis = session.axis
    k, moment, sure = _worst(session, axis)
    stays = _stays(session, axis, system)
    side = _HEAVY[axis.name, k][moment > 0.0][1]
    weight = figure(abs(moment) / STANDARD_GRAVITY / _ARM, Kind.MASS, system)
    helps = f"About {weight}, {figure(_ARM, Kind.LENGTH, system)} {side} its axis, takes that off."
    if not sure:
        helps = ""
    if advice.why is Left.END:
        return f"The {scales[axis.scales[advice.scale]].name} is at its end.", f"{stays} {helps}".strip()
    if advice.why is Left.NO_SCALE:
        where = " up and down" if (axis.name, k) == ("tilt", 1) and axis.scales[0] else ""
        return f"Nothing slides{where} for {axis.name}.", f"{stays} {helps}".strip()
    chance = f"{min(math.floor(100.0 * belief.inside), 99)} % sure that it is balanced"
    if len(belief.contradicts) >= _SEVERAL:
        return f"The looks at {axis.name} contradict each other.", f"{chance.capitalize()}. Start over, or go on."
    if session.effort:
        return f"More looks tell no more of {axis.name}.", f"{chance.capitalize()}. {stays}"
    sticks = figure(float(np.median(belief.friction)), Kind.MOMENT, system, extra=1)
    return (
        f"More looks tell no more of {axis.name}.",
        f"{chance.capitalize()}: its bearing sticks with about {sticks}, which hides what is less. {stays}",
    )


def _test_words(axis: str, angle: float) -> str:
    degrees = f"{abs(math.degrees(angle)):.0f}°"
    if axis == "tilt":
        if angle == 0.0:
            return "Hold the camera level"
        return f"Tilt the lens {'down' if angle > 0.0 else 'up'} {degrees}"
    if axis == "roll":
        if angle == 0.0:
            return "Hold the camera level sideways"
        return f"Roll its {'left' if angle > 0.0 else 'right'} side up {degrees}"
    return f"Lean the frame {degrees}, its {'left' if angle > 0.0 else 'right'} side up"


def _seen_words(session: Coaching, look: Observation) -> str:
    axis = session.axis.name
    words = _test_words(axis, session.angle_of(look.way))
    if look.saw is None:
        return f"{words}: {number(look.effort, 3, sign=True)} N·m"
    said = FALLS[axis][_SAW.index(look.saw)]
    return f"{words}: {said[:1].lower()}{said[1:]}"


def draw_region(
    session: Coaching, belief: CoachBelief, scales: Mapping[str, Slider], system: System, size: tuple[float, float]
) -> Scene:
    """Return where the present axis's scales belong, surely to 95 %, and where they stand, in `size` px."""
    scene = Scene()
    axis, (width, height) = session.axis, size
    if session.finished:
        scene.text(width / 2.0, height / 2.0, "All axes done", 15, 600, "ink2", Anchor.MIDDLE)
        return scene
    has = [k for k in (0, 1) if axis.scales[k]]
    if len(has) > 1:
        _draw_plane(scene, axis, belief, session.standing(axis), scales, system, width, height)
    elif has:
        _draw_line(scene, axis, has[0], belief, session.standing(axis), scales, system, width, height)
    else:
        scene.text(width / 2.0, height / 2.0, f"Nothing slides for {axis.name}", 13, 500, "ink2", Anchor.MIDDLE)
    return scene


def _draw_plane(
    scene: Scene,
    axis: AxisBench,
    belief: CoachBelief,
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
    scene.text(left, height - 2.0, "tinted: where the marks belong (95 % certain)", 12, 400, "ink2")


def _draw_line(
    scene: Scene,
    axis: AxisBench,
    k: int,
    belief: CoachBelief,
    marks: tuple[float, float],
    scales: Mapping[str, Slider],
    system: System,
    width: float,
    height: float,
) -> None:
    left, right, y = 16.0, width - 16.0, height / 2.0
    low, high = axis.bench.limits[k]
    name, zero = scales[axis.scales[k]].name, scales[axis.scales[k]].low

    def x(value: float) -> float:
        return min(max(left + (right - left) * (value - low) / (high - low), left), right)

    half = math.sqrt(max(belief.reach * float(belief.shape[k, k]), 0.0))
    centre = float(belief.centre[k])
    scene.path(
        rect(x(centre - half), y - 14.0, x(centre + half) - x(centre - half), 28.0, 0), "accent", None, 0.0, (), 0.2
    )
    scene.line(left, y, right, y, "ink2", 1.2)
    for value in (low, high):
        scene.line(x(value), y - 7.0, x(value), y + 7.0, "ink2", 1.4)
        anchor = Anchor.START if value == low else Anchor.END
        scene.text(x(value), y + 30.0, figure(value - zero, Kind.LENGTH, system), 12, 400, "ink2", anchor)
    scene.text((left + right) / 2.0, y + 30.0, name, 12, 500, "ink2", Anchor.MIDDLE)
    here = x(marks[k])
    scene.path(arrow_head(here, y - 3.0, math.pi / 2.0, 11.0), "ink")
    scene.text(here, y - 20.0, "mark now", 12, 500, "ink", Anchor.MIDDLE)
    scene.text(left, height - 2.0, "tinted: where this mark belongs (95 % certain)", 12, 400, "ink2")
