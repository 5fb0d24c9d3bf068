"""What carrying the rig costs the body, in words and as a drawing: figure, joints, reserve, and what else there is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from equilix.core.analyse import Analysis
from equilix.core.assembly.build import Build, SupportKind, Take
from equilix.core.assembly.parts import Category
from equilix.core.carry import DISC_LIMIT, Carry, Hindrance, JointLoad, reserves, rest_for, usual_hold
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.lighten import Lighter, LighterKind
from equilix.core.operator.endurance import HoldTime, hold_time
from equilix.core.operator.fatigue import SAFE_SHARE, Reserve
from equilix.core.operator.lifting import PLACES, lift_from, recommended_limit
from equilix.core.operator.strength import Joint
from equilix.core.supports.shoulder import SORE_PRESSURE, pad_pressure
from equilix.present.balance import FigureRow, Verdict
from equilix.present.units import Kind, System, figure, number
from equilix.present.ways import short_name

#: The drawing when a build has no takes yet.
ONE_TAKE = (Take(600.0, 300.0),)
#: s: nobody was watched holding a light load for longer.
MOST_SAID = 1800.0
JOINT_NAMES = {
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
    _, words, several = JOINT_NAMES[worst.joint]
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
            f"The rules disagree for the {JOINT_NAMES[worst.joint][1]}: {minutes(power)} (power law, 2010), "
            f"{minutes(model) if math.isfinite(model) else 'no end'} (fatigue model, 2008), "
            f"{minutes(classic) if math.isfinite(classic) else 'no end'} (classic curve, 1960). The shortest counts."
        )
    return (*said, *CAUTIONS)


def spoken(carried: Carry) -> str:
    """Return the joints in words, for a screen reader."""
    return ". ".join(
        f"{JOINT_NAMES[j.joint][0]} {100 * j.share:.0f} % of strength, {hold_words(j.hold)}" for j in carried.joints
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
    words = f"{JOINT_NAMES[after.joint][1]} {was} to {then}"
    if before.joint is not after.joint:
        words = f"{JOINT_NAMES[before.joint][1]} {was}, then {JOINT_NAMES[after.joint][1]} {then}"
    gain = said_span(after.hold) - said_span(before.hold)
    cost = f"+{minutes(gain)}" if gain >= 10.0 else ""
    time = f"Holds {hold_words(after.hold)} instead of {hold_words(before.hold)}."
    build: Build | None = None
    lines: tuple[str, ...]
    match way.kind:
        case LighterKind.GRIPS:
            build = way.after.build if way.after is not None else None
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
