"""What carrying the rig costs the body, in words and as a drawing: figure, joints, reserve, and what else there is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from equilix.core.analyse import Analysis
from equilix.core.assembly.build import Build, Operator, Side, SupportKind, Take
from equilix.core.assembly.parts import Category
from equilix.core.assembly.resolve import outline_corners
from equilix.core.carry import DISC_LIMIT, Carry, Hindrance, JointLoad, reserves, rest_for, usual_hold
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.lighten import Lighter, LighterKind
from equilix.core.operator.endurance import HoldTime, hold_time
from equilix.core.operator.fatigue import SAFE_SHARE, Reserve
from equilix.core.operator.lifting import PLACES, lift_from, recommended_limit
from equilix.core.operator.strength import CAPACITY_DOUBT, Joint
from equilix.core.supports.shoulder import SORE_PRESSURE, pad_pressure
from equilix.present.balance import FigureRow, Verdict
from equilix.present.scene import Anchor, Region, Scene, circle, ellipse, polygon, polyline, rect
from equilix.present.units import MINUS, Kind, System, figure, number, unit_of
from equilix.present.ways import short_name

#: The drawing when a build has no takes yet.
ONE_TAKE = (Take(600.0, 300.0),)
#: s: nobody was watched holding a light load for longer.
MOST_SAID = 1800.0
_NAMES = {
    Joint.NECK: ("Neck", "neck", False),
    Joint.SHOULDER: ("Shoulders", "shoulders", True),
    Joint.ELBOW: ("Elbows", "elbows", True),
    Joint.WRIST: ("Wrists", "wrists", True),
    Joint.HAND: ("Grip", "grip", False),
    Joint.LOW_BACK: ("Low back", "low back", False),
}
SUPPORT_WORDS = {SupportKind.SHOULDER: "Shoulder", SupportKind.HANDHELD: "Handheld"}
HINDRANCES = {
    Hindrance.NO_MASS: ("No masses yet.", "Weigh a part, or write its mass, and this fills."),
    Hindrance.NO_PAD: ("No shoulder pad.", "Put a pad on the build, or carry it in the hands."),
    Hindrance.NO_GRIPS: ("Nothing to hold.", "Put two handgrips on the build."),
    Hindrance.NOT_HELD: ("It can’t be held.", "No hands at these grips hold it level; move a grip."),
}
CAUTIONS = (
    "An estimate for planning, not medical advice. People differ from the tables far more than rigs do: times are "
    "ranges for a strength within 30 % of the mean. Pain ends a take at once.",
    "Makers’ limits, local work-safety rules and the set’s own rules come first.",
)


def minutes(seconds: float) -> str:
    """Return a time as people say it: whole minutes, tens of seconds below two minutes."""
    if seconds < 115.0:
        return f"{max(round(seconds / 10.0), 1) * 10} s"
    return f"{round(seconds / 60.0)} min" if seconds < 5400.0 else f"{seconds / 3600.0:.1f} h"


def hold_words(hold: HoldTime) -> str:
    """Return how long, as a range; where the rules were never fitted "over" the low end, and never over 30 min."""
    if hold.beyond:
        return f"over {minutes(min(hold.low, MOST_SAID))}"
    low, high = minutes(hold.low), minutes(hold.high)
    if high.endswith(" min") and hold.low >= 30.0:
        low = f"{max(round(hold.low / 60.0), 1)} min"
    if low == high:
        return f"about {high}"
    return f"{low.split()[0]} to {high}" if low.split()[1] == high.split()[1] else f"{low} to {high}"


def said_span(hold: HoldTime) -> float:
    """Return the time (s) that stands for a hold in comparisons: no more than is said."""
    return min(hold.low, MOST_SAID) if hold.beyond else hold.likely


def share_for(joint: Joint, seconds: float) -> float:
    """Return the share of capacity that a joint holds for about `seconds` (bisection: longer is less)."""
    low, high = 0.001, 2.0
    for _ in range(40):
        middle = math.sqrt(low * high)
        if hold_time(joint, middle).likely > seconds:
            low = middle
        else:
            high = middle
    return low


def verdict(carried: Carry | Hindrance) -> Verdict:
    """Return the answer in a sentence."""
    if isinstance(carried, Hindrance):
        return Verdict(*HINDRANCES[carried])
    worst = carried.worst
    _, words, several = _NAMES[worst.joint]
    time = hold_words(worst.hold)
    head = f"{'Over' if worst.hold.beyond else 'About'} {time.removeprefix('over ').removeprefix('about ')}."
    gives = "give" if several else "gives"
    return Verdict(head, f"The {words} {gives} out first.", "forward" if worst.hold.likely < 60.0 else "")


def figures(carried: Carry, takes: Sequence[Take], system: System) -> tuple[FigureRow, ...]:
    """Return the figures of the panel."""
    weight = carried.mass
    rows = []
    if carried.pad is not None:
        rows.append(FigureRow("On the shoulder", figure(float(carried.held.pad_force[2]), Kind.FORCE, system), ""))
    for arm, hand in zip(carried.arms, carried.held.hands, strict=True):
        up = "up" if hand.force[2] >= 0.0 else "down"
        words = f"{figure(hand.size, Kind.FORCE, system)} {up}"
        if hand.size > 0.5 and abs(hand.force[2]) < 0.5 * hand.size:
            words = f"{figure(hand.size, Kind.FORCE, system)} level"
        rows.append(FigureRow(f"In the {arm.side} hand", words, ""))
    back = math.hypot(float(carried.back_moment[0]), float(carried.back_moment[1]))
    rows.append(FigureRow("Low back", figure(back, Kind.MOMENT, system), ""))
    limit = figure(DISC_LIMIT, Kind.FORCE, system)
    note = f"action limit {limit} (NIOSH 1981); less is not yet safe"
    rows.append(FigureRow("Lowest disc", figure(carried.compression, Kind.FORCE, system), "", note))
    if carried.see_saw is not None and carried.pad is None:
        side = "ahead of" if carried.see_saw >= 0.0 else "behind"
        note = (
            f"CG {side} the line through the grips: wrists hold it. Stagger or slide them until it passes under the CG"
        )
        level = abs(carried.see_saw) < 0.05
        rows.append(FigureRow("See-saw", figure(abs(carried.see_saw), Kind.MOMENT, system), "", "" if level else note))
    if carried.gaze is not None:
        degrees = math.degrees(carried.gaze)
        note = (
            ""
            if 0.0 <= degrees <= 30.0
            else ("raise" if degrees > 30.0 else "lower") + " the screen: easy is level to 30° down"
        )
        rows.append(
            FigureRow("Gaze to the screen", f"{abs(degrees):.0f}° {'down' if degrees >= 0.0 else 'up'}", "", note)
        )
    heavier = max(carried.right_leg, 1.0 - carried.right_leg)
    if heavier >= 0.515:
        leg = "right" if carried.right_leg > 0.5 else "left"
        rows.append(FigureRow(f"On the {leg} leg", f"{100 * heavier:.0f} %", "", "of body and rig, feet 30 cm apart"))
    hung = carried.handle
    if hung is not None and carried.pad is None:
        if hung.turns_over:
            rows.append(FigureRow("By the handle", "turns over", "", "the CG is not below the grip"))
        else:
            way = "forward" if hung.ahead > 0.0 else "back"
            by, couple = figure(abs(hung.ahead), Kind.LENGTH, system), figure(abs(hung.holds), Kind.MOMENT, system)
            pull = figure(STANDARD_GRAVITY * weight, Kind.FORCE, system)
            note = f"low mode: slide the handle {by} {way}, or hold {couple} with the wrist; {pull} in one hand"
            nose = "nose down" if hung.pitch >= 0.0 else "nose up"
            rows.append(FigureRow("By the handle", f"{abs(math.degrees(hung.pitch)):.0f}° {nose}", "", note))
    if takes:
        longest = max(take.length for take in takes)
        rest = rest_for(carried, longest)
        words = "split it" if math.isinf(rest) else ("none to speak of" if rest < 5.0 else f"{minutes(rest)} or more")
        rows.append(FigureRow(f"Rest after {minutes(longest)}", words, ""))
    if carried.steady is not None:
        roll, pitch, yaw = carried.steady
        note = f"roll × {number(roll, 0)}, pan × {number(yaw, 0)}; the bare camera is 1"
        rows.append(FigureRow("Steadier in tilt", f"× {number(pitch, 0)}", "", note))
    lifts = []
    for place in PLACES:
        begin, end = lift_from(place, float(carried.body.shoulder_right[2]))
        lifts.append((place, min(recommended_limit(begin), recommended_limit(end))))
    place, least = min(lifts, key=lambda pair: pair[1])
    good = [name for name, most in lifts if weight <= most]
    note = (
        f"from the {place}, the worst place; for {figure(weight, Kind.MASS, system, extra=-1)}, rare two-handed lifts"
    )
    if weight > least:
        note += f"; from {' or '.join(good)} it is within" if good else "; let two people lift it"
    rows.append(FigureRow("To lift, NIOSH", f"up to {figure(least, Kind.MASS, system, extra=-1)}", "", note))
    return tuple(rows)


def cautions(carried: Carry, analysis: Analysis) -> tuple[str, ...]:
    """Return what stands beside the figures."""
    said = []
    if carried.out_of_reach:
        said.append("A grip is out of this operator’s reach: the arm is drawn as far as it goes.")
    if carried.gaze is None and any(part.category is Category.MONITOR for part in analysis.assembly.parts):
        said.append("The screen is beside or behind the eye: it can’t be watched like this. Move it forward.")
    if math.isfinite(carried.posture):
        if carried.posture == 0.0:
            said.append("An upper arm is raised beyond 60°: not recommended at all (ISO 11226). Lower the grips.")
        else:
            said.append(
                f"Arms raised like this alone: {minutes(carried.posture)} at most (ISO 11226), without any rig."
            )
    if carried.pad is not None:
        pressure = pad_pressure(carried.held.pad_force, analysis.build.shoulder)
        if pressure > SORE_PRESSURE:
            said.append(
                f"The pad presses with {pressure / 1e3:.0f} kPa; over {SORE_PRESSURE / 1e3:.0f} kPa gets sore. "
                "A wider pad helps."
            )
    worst = carried.worst
    classic, power, model = worst.hold.by_classic, worst.hold.by_power, worst.hold.by_model
    if any(joint.hold.beyond for joint in carried.joints):
        said.append(
            "“Over”: below 15 % of strength no rule was ever fitted; it is the cautious end of where they point, "
            "and nothing lasts for ever."
        )
    if not worst.hold.beyond:
        said.append(
            f"The rules disagree for the {_NAMES[worst.joint][1]}: {minutes(power)} (power law, 2010), "
            f"{minutes(model) if math.isfinite(model) else 'no end'} (fatigue model, 2008), "
            f"{minutes(classic) if math.isfinite(classic) else 'no end'} (classic curve, 1960). The shortest counts."
        )
    return (*said, *CAUTIONS)


def spoken(carried: Carry, system: System) -> str:
    """Return the joints in words, for a screen reader."""
    return ". ".join(
        f"{_NAMES[j.joint][0]} {100 * j.share:.0f} % of strength, {hold_words(j.hold)}" for j in carried.joints
    )


# What would make it lighter


@dataclass(frozen=True, eq=False, slots=True)
class LightWay:
    """One way to lighten, as a card: shares of strength `before` and `after`, and the edit's build if there is one."""

    way: Lighter
    title: str
    cost: str
    before: float
    after: float
    after_text: str
    lines: tuple[str, ...]
    build: Build | None

    @property
    def possible(self) -> bool:
        return True

    @property
    def kind(self) -> LighterKind:
        return self.way.kind


def light_ways(found: Sequence[Lighter], now: Carry, analysis: Analysis, system: System) -> tuple[LightWay, ...]:
    """Return the ways as cards."""
    return tuple(_light_way(way, now, analysis, system) for way in found)


def _light_way(way: Lighter, now: Carry, analysis: Analysis, system: System) -> LightWay:
    before, after = now.worst, way.carried.worst
    was, then = (f"{100 * joint.share:.0f} %" for joint in (before, after))
    words = f"{_NAMES[after.joint][1]} {was} to {then}"
    if before.joint is not after.joint:
        words = f"{_NAMES[before.joint][1]} {was}, then {_NAMES[after.joint][1]} {then}"
    gain = said_span(after.hold) - said_span(before.hold)
    cost = f"+{minutes(gain)}" if gain >= 10.0 else ""
    time = f"Holds {hold_words(after.hold)} instead of {hold_words(before.hold)}."
    build: Build | None = None
    lines: tuple[str, ...]
    match way.kind:
        case LighterKind.GRIPS:
            build = way.build
            pairs = zip(analysis.build.parts, analysis.assembly.parts, strict=True)
            names = {placed.id: short_name(part.name) for placed, part in pairs}
            moves = [
                f"{names[placed_id]} {figure(abs(by), Kind.LENGTH, system)} {'forward' if by > 0 else 'back'}"
                for placed_id, by in way.moved
            ]
            title = f"Slide {' and '.join(moves)}"
            elbow = max((arm.elbow_angle for arm in way.carried.arms), default=0.0)
            lines = (time, f"Elbows are bent to {180.0 - math.degrees(elbow):.0f}° then. Look at the balance again.")
        case LighterKind.HOLD:
            at = way.held_at or (0.0, 0.0)
            usual = usual_hold(now.operator)
            nearer, lower = usual[0] - at[0], at[1] - usual[1]
            parts = []
            if abs(nearer) > 0.008:
                parts.append(f"{figure(abs(nearer), Kind.LENGTH, system)} {'closer' if nearer > 0 else 'farther out'}")
            if abs(lower) > 0.008:
                parts.append(f"{figure(abs(lower), Kind.LENGTH, system)} {'lower' if lower > 0 else 'higher'}")
            title = f"Hold it {' and '.join(parts) or 'as it is'}"
            lines = (time, "A posture, nothing on the build changes; mind that the eye still meets the screen.")
        case LighterKind.SPLIT:
            build = replace(analysis.build, takes=way.takes)
            extra = sum(t.rest for t in way.takes) - sum(t.rest for t in analysis.build.takes)
            title = f"Split into {len(way.takes)} takes"
            cost = f"+{minutes(extra)} rest" if extra >= 30.0 else ""
            words = f"longest {minutes(max(t.length for t in way.takes))}"
            lines = ("No take goes beyond the safe half, with the rests that this needs.",)
    return LightWay(way, title, cost, before.share, after.share, words, lines, build)


# The upper drawing


def draw_load(
    analysis: Analysis, carried: Carry, takes: Sequence[Take], system: System, width: float, height: float
) -> Scene:
    """Return figure and joint bars."""
    scene = Scene()
    narrow = width < 640.0
    left = 150.0 if narrow else min(330.0, width * 0.42)
    tallest = max(float(p[2] + analysis.assembly.edges[i, 2]) for i, p in enumerate(analysis.positions.centre))
    tallest = max(tallest + float(carried.shift[2]), 1.04 * carried.body.stature)
    scale = (height - 50.0) / tallest
    floor = height - 14.0
    front_x, side_x = left * 0.22, left * (0.5 if narrow else 0.60)
    scene.text(0, 18, "Load on the operator", 16, 600)
    views = ((1, front_x, "front"), (0, side_x, "right side"))
    for axis, middle, words in views[1:] if narrow else views:
        _draw_figure(scene, analysis, carried, axis, middle, floor, scale)
        scene.text(middle, height - 1.0, words, 12, 400, "ink3", Anchor.MIDDLE)
    scene.line(0.0, floor, left - 8, floor, "ink3", 1.2)
    _draw_bars(scene, carried, takes, system, left, width, height, side_x, floor, scale)
    return scene


def _across(v: np.ndarray, axis: int, middle: float, floor: float, scale: float) -> tuple[float, float]:
    """Return px of a place: from the front the operator's left is on the right."""
    return middle + float(v[axis]) * scale, floor - float(v[2]) * scale


def _limb(
    scene: Scene, a: tuple[float, float], b: tuple[float, float], wide: float, narrow: float, fill: str = "p1"
) -> None:
    dx, dy = b[0] - a[0], b[1] - a[1]
    size = math.hypot(dx, dy)
    if size < 0.5:
        return
    nx, ny = -dy / size, dx / size
    corners = (
        (a[0] + nx * wide, a[1] + ny * wide),
        (b[0] + nx * narrow, b[1] + ny * narrow),
        (b[0] - nx * narrow, b[1] - ny * narrow),
        (a[0] - nx * wide, a[1] - ny * wide),
    )
    scene.path(polygon(corners), fill, "ghostL", 1.0)


def _draw_figure(
    scene: Scene, analysis: Analysis, carried: Carry, axis: int, middle: float, floor: float, scale: float
) -> None:
    """Draw the operator from the real proportions, then the rig, then the joints."""
    body = carried.body
    h = body.stature

    def at(x: float, y: float, z: float) -> tuple[float, float]:
        return _across(np.array([x, y, z]), axis, middle, floor, scale)

    hip, top = float(body.hips[2]), float(body.shoulder_left[2])
    foot = 0.5 * 0.152 * h
    for side in (-1.0, 1.0):
        y = side * 0.055 * h
        _limb(scene, at(0.0, y, hip), at(0.0, y, 0.285 * h), 0.045 * h * scale, 0.032 * h * scale)
        _limb(scene, at(0.0, y, 0.285 * h), at(-0.01, y, 0.045 * h), 0.032 * h * scale, 0.02 * h * scale)
        heel, toe = at(-0.4 * foot, y, 0.0), at(1.5 * foot, y, 0.0)
        if axis == 0:
            ankle = at(-0.01, y, 0.05 * h)
            scene.path(polygon((heel, (heel[0], ankle[1]), (ankle[0] + 5, ankle[1]), toe)), "p1", "ghostL", 1.0)
        else:
            x, z = at(0.0, y, 0.025 * h)
            scene.path(ellipse(x, z, 0.028 * h * scale, 0.025 * h * scale), "p1", "ghostL", 1.0)
    deep, broad = 0.062 * h, (0.129 + 0.012) * h
    half = deep if axis == 0 else broad
    waist = 0.055 * h if axis == 0 else 0.085 * h
    hips = 0.062 * h if axis == 0 else 0.098 * h
    trunk = [
        (half * 0.72, top + 0.012 * h),
        (half, top - 0.03 * h),
        (waist, (top + 2.0 * hip) / 3.0),
        (hips, hip),
        (hips * 0.8, hip - 0.03 * h),
    ]
    outline = [(w, z) for w, z in trunk] + [(-w, z) for w, z in reversed(trunk)]
    points = [at(w, 0.0, z) if axis == 0 else at(0.0, w, z) for w, z in outline]
    scene.path(polygon(points), "p1", "ghostL", 1.0)
    neck = float(body.neck[2])
    lean = analysis.shoulder.lean if carried.pad is not None and analysis.shoulder is not None else 0.0
    aside = lean if carried.operator.shoulder is Side.RIGHT else -lean
    eye = float(body.eye[2])
    _limb(scene, at(0.0, 0.0, neck - 0.02 * h), at(0.01, aside * 0.6, neck + 0.05 * h), 6, 5)
    cx, cz = at(0.02, aside, eye - 0.012)
    scene.path(ellipse(cx, cz, (0.0975 if axis == 0 else 0.0775) * scale, 0.066 * h * scale), "p1", "ghostL", 1.0)
    order = sorted(carried.arms, key=lambda arm: -float(arm.shoulder[1]))  # the right arm is nearer from the right
    behind = [arm for arm in order if axis == 0 and arm.side is Side.LEFT]
    for arm in behind:
        _draw_arm(scene, arm, axis, middle, floor, scale, h)
    for number_ in (
        np.argsort(analysis.positions.centre[:, 1])[::-1] if axis == 0 else np.argsort(analysis.positions.centre[:, 0])
    ):
        part = int(number_)
        if not analysis.assembly.sized[part]:
            continue
        corners = outline_corners(analysis.assembly, analysis.positions, part) + carried.shift
        xs = [_across(c, axis, middle, floor, scale) for c in corners]
        x0, x1 = min(p[0] for p in xs), max(p[0] for p in xs)
        y0, y1 = min(p[1] for p in xs), max(p[1] for p in xs)
        scene.path(rect(x0, y0, x1 - x0, y1 - y0, 1), "p3", "line", 0.8)
    for arm in order:
        if arm not in behind:
            _draw_arm(scene, arm, axis, middle, floor, scale, h)
    x, y = _across(carried.cg, axis, middle, floor, scale)
    scene.line(x, y, x, floor, "fwd", 1.1, (4.0, 3.0))
    scene.path(circle(x, y, 5.0), "panel", "ink", 1.4)
    scene.path((("M", x, y - 5), ("L", x, y), ("L", x + 5, y), ("C", x + 5, y - 2.8, x + 2.8, y - 5, x, y - 5)), "ink")
    scene.path((("M", x, y + 5), ("L", x, y), ("L", x - 5, y), ("C", x - 5, y + 2.8, x - 2.8, y + 5, x, y + 5)), "ink")


def _draw_arm(scene: Scene, arm: object, axis: int, middle: float, floor: float, scale: float, stature: float) -> None:
    from equilix.core.operator.body import Arm

    assert isinstance(arm, Arm)
    a, b, c = (_across(p, axis, middle, floor, scale) for p in (arm.shoulder, arm.elbow, arm.grip))
    _limb(scene, a, b, 0.026 * stature * scale, 0.021 * stature * scale)
    _limb(scene, b, c, 0.021 * stature * scale, 0.014 * stature * scale)
    for place in (a, b):
        scene.path(circle(*place, 2.6), "panel", "ink2", 1.1)
    scene.path(circle(*c, 3.6), "panel", "ink2", 1.3)


def _joint_place(carried: Carry, joint: JointLoad) -> np.ndarray:
    """Return where a joint is; of a pair the one that is loaded more."""
    arm = next((a for a in carried.arms if a.side is joint.side), carried.arms[0] if carried.arms else None)
    match joint.joint:
        case Joint.NECK:
            return carried.body.neck
        case Joint.LOW_BACK:
            return carried.body.low_back
    assert arm is not None
    return {
        Joint.SHOULDER: arm.shoulder,
        Joint.ELBOW: arm.elbow,
        Joint.WRIST: arm.wrist,
        Joint.HAND: arm.grip,
    }[joint.joint]


def _draw_bars(
    scene: Scene,
    carried: Carry,
    takes: Sequence[Take],
    system: System,
    left: float,
    width: float,
    height: float,
    side_x: float,
    floor: float,
    scale: float,
) -> None:
    name_x, bar_x, right = left + 28.0, left + 136.0, width - 112.0
    most = max(0.4, *(1.3 * j.share for j in carried.joints))
    most = math.ceil(most * 10.0 + 0.2) / 10.0
    longest = max(take.length for take in takes) if takes else ONE_TAKE[0].length
    px = (right - bar_x) / most
    top = 34.0
    pitch = (height - top - 16.0) / max(len(carried.joints), 1)
    scene.text(name_x, 20, "of strength", 12.5, 400, "ink3")
    step = next((s for s in (0.1, 0.2, 0.5, 1.0) if s * px >= 40.0), 2.0)
    for k in range(int(most / step + 1e-9) + 1):
        x = bar_x + k * step * px
        scene.line(x, top - 6, x, top + pitch * len(carried.joints) - 8, "rule", 1.0)
        text = f"{100 * k * step:.0f} %" if k else "0"
        scene.text(x, 20, text, 12, 500, "ink3", Anchor.MIDDLE)
    scene.text(width, 20, "holds", 12.5, 400, "ink3", Anchor.END)
    worst = carried.worst
    for row, joint in enumerate(carried.joints):
        y = top + row * pitch
        on = joint is worst
        place = _across(_joint_place(carried, joint), 0, side_x, floor, scale)
        color = "accent" if on else "ink3"
        scene.path(polyline((place, (left - 4, y + 9), (name_x - 8, y + 9))), None, color, 1.6 if on else 0.8)
        scene.path(circle(*place, 3.6), "accent" if on else "panel", color, 1.2)
        if on:
            scene.path(rect(name_x - 8, y - 5, width - name_x + 8, min(pitch - 2, 46), 3), "tint")
        name = _NAMES[joint.joint][0]
        scene.text(name_x, y + 11, name, 15, 600, "ink")
        if joint.side is not None:
            scene.text(name_x, y + 28, f"{joint.side} more", 12.5, 400, "ink2")
        over = joint.share > share_for(joint.joint, longest)
        scene.path(rect(bar_x, y + 1, max(joint.share * px, 1.5), 12), "fwd" if over else "accent")
        low, high = joint.share / (1.0 + CAPACITY_DOUBT), joint.share / (1.0 - CAPACITY_DOUBT)
        high = min(high, most)
        scene.line(bar_x + low * px, y + 7, bar_x + high * px, y + 7, "ink", 1.2)
        for end in (low, high):
            scene.line(bar_x + end * px, y + 3, bar_x + end * px, y + 11, "ink", 1.2)
        limit = share_for(joint.joint, longest)
        if limit < most:
            x = bar_x + limit * px
            scene.line(x, y - 3, x, y + 17, "ink", 2.4)
        kind = Kind.FORCE if joint.joint is Joint.HAND else Kind.MOMENT
        words = (
            f"{figure(joint.load, kind, system, unit=False)} of {figure(joint.capacity, kind, system, unit=False)} "
            f"{unit_of(kind, system)}"
        )
        scene.text(bar_x, y + 28, words, 12.5, 400, "ink2")
        scene.text(width, y + 12, hold_words(joint.hold), 14, 600, "ink", Anchor.END)
        scene.text(width, y + 28, f"{100 * joint.share:.0f} %", 12.5, 400, "ink2", Anchor.END)
    x, y = min(bar_x, width - 270.0), height - 4.0
    scene.line(x + 1, y - 11, x + 1, y + 1, "ink", 2.4)
    scene.text(x + 9, y, f"gives out in {minutes(longest)}; bracket: strength ± 30 %", 12.5, 400, "ink2")


# The reserve


@dataclass(frozen=True, slots=True)
class ReserveStory:
    """The joint that comes closest to its end over the takes, its reserve, and what is needed of it."""

    joint: JointLoad
    reserve: Reserve

    @property
    def safe(self) -> float:
        """What should be left (share of capacity): half-way from fresh to failing; common practice."""
        return 1.0 - SAFE_SHARE * (1.0 - min(self.joint.share, 1.0))


def reserve_story(carried: Carry, takes: Sequence[Take]) -> ReserveStory:
    """Return the reserve of the joint that fails first, or else comes closest to it."""
    runs = reserves(carried, takes, max(1.0, sum(t.length + t.rest for t in takes) / 1500.0))

    def closeness(pair: tuple[JointLoad, Reserve]) -> tuple[float, float]:
        joint, run = pair
        end = run.fails_least if run.fails_least is not None else math.inf
        return end, float(run.least.min()) - joint.share

    joint, run = min(zip(carried.joints, runs, strict=True), key=closeness)
    return ReserveStory(joint, run)


def draw_reserve(story: ReserveStory, takes: Sequence[Take], made_up: bool, width: float, height: float) -> Scene:
    """Return the reserve along takes and rests; regions ("take", number)."""
    scene = Scene()
    left, right, top, base = 46.0, width - 14.0, 46.0, height - 32.0
    total = sum(t.length + t.rest for t in takes)
    joint = story.joint
    name = _NAMES[joint.joint][1]
    scene.text(0, 18, "Reserve over the takes", 16, 600)
    note = f"{name}; of fresh strength; band: slow to quick recovery"
    scene.text(196, 18, ("one take of 10 min, until you add yours; " if made_up else "") + note, 13, 400, "ink3")

    def x(time: float) -> float:
        return left + (right - left) * time / total

    def y(share: float) -> float:
        return base - (base - top) * share

    for share in (0.0, 0.5, 1.0):
        scene.line(left, y(share), right, y(share), "rule", 1.0)
        scene.text(left - 8, y(share) + 4, f"{100 * share:.0f} %", 12, 500, "ink3", Anchor.END)
    run = story.reserve
    stride = max(1, len(run.time) // 400)
    upper = [(x(float(t)), y(float(v))) for t, v in zip(run.time[::stride], run.left[::stride], strict=True)]
    lower = [(x(float(t)), y(float(v))) for t, v in zip(run.time[::stride], run.least[::stride], strict=True)]
    scene.path(polygon((*upper, *reversed(lower))), "accent", None, 0.0, (), 0.16)
    scene.path(polyline(upper), None, "accent", 1.2)
    scene.path(polyline(lower), None, "accent", 2.0)
    need = y(min(joint.share, 1.0))
    scene.line(left, need, right, need, "fwd", 1.4)
    below = need + 14.0 if need + 14.0 < base else need - 4.0
    scene.text(right - 4, below, "can’t be held below this", 12.5, 500, "fwdT", Anchor.END)
    safe = y(story.safe)
    scene.line(left, safe, right, safe, "ink2", 1.0, (5.0, 4.0))
    scene.text(right - 4, safe - 4, "safe down to here", 12.5, 500, "ink2", Anchor.END)
    now = 0.0
    for k, take in enumerate(takes):
        a, b = x(now), x(now + take.length)
        over = run.fails_least is not None and now < run.fails_least + 1e-6 <= now + take.length + 1e-6
        scene.path(rect(a, base + 5, max(b - a, 2), 19, 2), "fwd" if over else "accent")
        if b - a > 46:
            scene.text((a + b) / 2, base + 19, f"Take {k + 1}", 12.5, 600, "onaccent", Anchor.MIDDLE)
        scene.regions.append(Region(("take", str(k)), ((a, base + 3), (b, base + 3), (b, base + 26), (a, base + 26))))
        now += take.length
        if take.rest > 0.0 and x(now + take.rest) - b > 40:
            scene.text((b + x(now + take.rest)) / 2, base + 19, minutes(take.rest), 12.5, 400, "ink2", Anchor.MIDDLE)
        now += take.rest
    if run.fails_least is not None:
        fx = x(run.fails_least)
        scene.line(fx, top, fx, base, "fwd", 1.4)
        scene.path(circle(fx, need, 4.0), "panel", "fwd", 1.6)
        early, late = run.fails_least, run.fails
        until = "" if late is None or minutes(late) == minutes(early) else f" to {minutes(late)}"
        words = f"gives out {minutes(early)}{until} after the start"
        anchor = Anchor.START if fx < (left + right) / 2 else Anchor.END
        scene.text(fx + (-4 if anchor is Anchor.START else 4), top - 6, words, 13, 600, "fwdT", anchor)
    return scene


# What else there is


def draw_others(
    options: Sequence[tuple[SupportKind, Carry | Hindrance]],
    chosen: SupportKind,
    table: Sequence[tuple[str, Sequence[Carry | Hindrance]]],
    operators: Sequence[Operator],
    current: tuple[int, int],
    width: float,
    height: float,
) -> Scene:
    """Return the supports side by side, regions ("support", kind), and builds by operators, ("cell", row, column)."""
    scene = Scene()
    scene.text(0, 18, "The same build, carried otherwise", 16, 600)
    narrow = width < 640.0
    left, card = (80.0, 112.0) if narrow else (96.0, 150.0)
    rows = ("Hold time", "Gives out", "Of strength", "Steadier")
    pitch = min(24.0, (height - 56.0) / len(rows))
    first = 62.0
    for k, words in enumerate(rows):
        scene.text(0, first + k * pitch, words, 13, 400, "ink2")
    for i, (kind, carried) in enumerate(options):
        x = left + i * card
        if kind is chosen:
            scene.path(rect(x - 8, 28, card - 8, height - 34, 4), "tint")
        scene.text(x, 45, SUPPORT_WORDS[kind], 15, 600, "accent" if kind is chosen else "ink")
        box = ((x - 8, 28.0), (x + card - 16, 28.0), (x + card - 16, height - 6), (x - 8, height - 6))
        scene.regions.append(Region(("support", kind.value), box))
        if isinstance(carried, Hindrance):
            scene.text(x, first, HINDRANCES[carried][0].rstrip("."), 13, 400, "ink2")
            continue
        worst = carried.worst
        steady = f"× {carried.steady[1]:.0f}" if carried.steady is not None else "–"
        for k, words in enumerate(
            (hold_words(worst.hold), _NAMES[worst.joint][1], f"{100 * worst.share:.0f} %", steady)
        ):
            scene.text(x, first + k * pitch, words, 14, 600 if k == 0 else 400)
    _draw_table(scene, table, operators, current, left + len(options) * card + 20, width, height)
    return scene


def _draw_table(
    scene: Scene,
    table: Sequence[tuple[str, Sequence[Carry | Hindrance]]],
    operators: Sequence[Operator],
    current: tuple[int, int],
    left: float,
    width: float,
    height: float,
) -> None:
    from equilix.present.scene import fitted

    wide = 90.0 if width < 640.0 else 130.0
    shown = operators[: max(1, int((width - left - wide) / 92))]
    scene.text(left, 18, fitted("Other builds, other shoulders", 16, width - left), 16, 600)
    column = (width - left - wide) / max(len(shown), 1)
    for j, operator in enumerate(shown):
        x = left + wide + j * column
        scene.text(x, 45, fitted(operator.name, 13, column - 8), 13, 600, "ink2")
    pitch = min(24.0, (height - 56.0) / 4)
    room = int((height - 62.0) / pitch) + 1
    for i, (name, cells) in enumerate(table[:room]):
        y = 62.0 + i * pitch
        scene.text(left, y, fitted(name, 13, wide - 6), 13, 400, "ink2")
        for j, carried in enumerate(cells[: len(shown)]):
            x = left + wide + j * column
            here = (i, j) == current
            if here:
                scene.path(rect(x - 6, y - 15, column - 4, 20, 3), "tint")
            words = MINUS
            if not isinstance(carried, Hindrance):
                words = hold_words(carried.worst.hold)
            scene.text(x, y, words, 13, 600 if here else 400)
            box = ((x - 6, y - 15), (x + column - 10, y - 15), (x + column - 10, y + 5), (x - 6, y + 5))
            scene.regions.append(Region(("cell", str(i), str(j)), box))
    if len(table) > room:
        scene.text(left, height - 2, f"and {len(table) - room} more builds", 12, 400, "ink3")
