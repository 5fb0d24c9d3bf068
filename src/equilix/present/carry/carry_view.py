"""What carrying the rig costs the body, in words and as a drawing: figure, joints, reserve, and what else there is."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Take
from equilix.core.carry.arrangements import CarryUncertainties
from equilix.core.carry.carried import DISC_LIMIT, Carry, head_bend, reserves, rest_for
from equilix.core.carry.loads import Hung, JointLoad
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.operator.body import body_of
from equilix.core.operator.endurance import HoldTime, head_posture_limit, hold_time
from equilix.core.operator.fatigue import SAFE_SHARE, Reserve
from equilix.core.operator.lifting import PLACES, lift_from, recommended_limit
from equilix.core.operator.strength import BodyJoint
from equilix.core.registry import support_for
from equilix.core.statics.pose import Hindrance
from equilix.core.units import Kind
from equilix.present.supports import text_for, text_of
from equilix.present.supports.text import FigureRow, Verdict
from equilix.present.units import System, figure, uncertainty, unit_of
from equilix.present.words import JOINT_NAMES, MOST_SAID, minutes, times

#: The drawing when a build has no takes yet.
ONE_TAKE = (Take(600.0, 300.0),)
BRACE_WORDS = {
    Brace.NONE: "none",
    Brace.ELBOWS: "elbows on the ribs",
    Brace.CHEST: "on the chest",
    Brace.HIP: "on the hip",
    Brace.KNEES: "sitting, on thighs",
}
_PUSHED_BY = {Brace.CHEST: "Chest carries", Brace.HIP: "Hip carries", Brace.KNEES: "Thighs carry"}
HINDRANCES = {
    Hindrance.NO_MASS: ("No masses yet.", "Weigh a part, or write its mass, and this fills."),
    Hindrance.NOBODY: ("Nobody carries it.", "It stands by itself: choose another support to see what it costs."),
    Hindrance.NO_HOOK: ("Nothing to hang from.", "Give the rig an eyelet, a top handle, or a camera with its size."),
    Hindrance.NO_BEARING: ("Nothing to hang in.", "Give the sled a bearing, or choose a place that it hangs by."),
    Hindrance.NO_PAD: ("No shoulder pad.", "Put a pad on the build, or carry it in the hands."),
    Hindrance.NO_GRIPS: ("Nothing to hold.", "Put two handgrips on the build."),
    Hindrance.NOT_HELD: ("It can’t be held.", "No hands at these grips hold it level; move a grip."),
}
CAUTIONS = (
    (
        "Estimates for planning, not medical advice. People differ far more than rigs do. The times "
        "are ranges for strength within 30 % of the mean. Stop at once when it hurts."
    ),
    "The limits of makers, work safety and the production come first.",
)

#: s: a shorter rest between two takes is none that anybody plans; common practice.
_NO_REST = 5.0


def hold_words(hold: HoldTime) -> str:
    """Return how long, as a range; where the rules were never fitted "over" the low end, and never over 30 min."""
    if hold.likely <= 0.0:
        return f"up to {minutes(hold.high)}" if hold.high > 0.0 else "cannot be held"
    if hold.low <= 0.0:
        return f"up to {minutes(hold.high)}"
    if hold.beyond:
        return f"over {minutes(min(hold.low, MOST_SAID))}"
    low, high = minutes(hold.low), minutes(hold.high)
    if high.endswith(" min") and hold.low >= 30.0:
        low = f"{max(round(hold.low / 60.0), 1)} min"
    if low == high:
        return f"about {high}"
    return f"{low.split()[0]} to {high}" if low.split()[1] == high.split()[1] else f"{low} to {high}"


def shown_times(carried: Carry) -> dict[str, float]:
    """Return the times (s) that are shown, by what they are of: what all lasts, a safe take, and each joint.

    Ends that are not shown, or not told apart, are left out or alike: a bound has no upper end, and none over
    MOST_SAID is told.
    """
    found = {"safe take": min(carried.safe, MOST_SAID)}
    for what, hold in (("all", carried.lasts), *((j.joint.value, j.hold) for j in carried.joints)):
        found[f"{what}, at least"] = min(hold.low, MOST_SAID) if hold.beyond else hold.low
        if not hold.beyond:
            found[f"{what}, at most"] = hold.high
    return found


def share_for(joint: BodyJoint, seconds: float) -> float:
    """Return the share of capacity that a joint holds for about `seconds` (bisection: longer is less)."""
    low, high = 0.001, 2.0
    for _ in range(40):
        middle = math.sqrt(low * high)
        if hold_time(joint, middle).likely > seconds:
            low = middle
        else:
            high = middle
    return low


def verdict(carried: Carry | Hindrance, previewed: bool = False, takes: Sequence[Take] = ()) -> Verdict:
    """Return the answer in a sentence; of a previewed change it says so, and in which take a joint gives out."""
    if isinstance(carried, Hindrance):
        return Verdict(*HINDRANCES[carried])
    worst = carried.worst
    _, words, several = JOINT_NAMES[worst.joint]
    time = hold_words(carried.lasts)
    then = "Then the" if previewed else "The"
    if worst.hold.likely <= 0.0:
        need = "need" if several else "needs"
        body = f"{then} {words} {need} {100 * worst.share:.0f} % of all strength there is."
        return Verdict("Cannot be held.", body, "forward")
    if carried.unwatched:
        last = "last" if several else "lasts"
        body = f"{then} {words} {last} {time}, without watching it."
        return Verdict("The screen is out of sight.", body, "forward")
    word = next((w for w in ("over", "up to", "about") if time.startswith(w)), "about")
    head = f"{word.capitalize()} {time.removeprefix(f'{word} ')}."
    gives = "give" if several else "gives"
    body = f"{then} {words} {gives} out first{_in_take(carried, takes)}."
    return Verdict(head, body, "forward" if worst.hold.likely < 60.0 else "")


def _in_take(carried: Carry, takes: Sequence[Take]) -> str:
    """Return in which take the first joint gives out, "" where none does."""
    ends = [run.fails_least for run in reserves(carried, takes, 10.0) if run.fails_least is not None] if takes else []
    now = 0.0
    for number, take in enumerate(takes, 1):
        now += take.length
        if ends and min(ends) <= now + 1e-6:
            return f", in take {number}" if len(takes) > 1 else ""
        now += take.rest
    return ""


def figures(
    carried: Carry, takes: Sequence[Take], system: System, sure: CarryUncertainties | None = None
) -> tuple[FigureRow, ...]:
    """Return the figures of the panel, each with its own uncertainty from the rig where `sure` gives it."""
    rows = _hand_rows(carried, system, sure)
    if takes:
        longest = max(take.length for take in takes)
        rest = rest_for(carried, longest)
        words, why = "none needed", ""
        if math.isinf(rest):
            words, why = "split it", "no rest is long enough"
        elif rest >= _NO_REST:
            words = f"{minutes(rest)} or more"
        safe = minutes(min(carried.safe, MOST_SAID)) if carried.safe > 0.0 else "none"
        note = "half the holding time (common practice)"
        if carried.by_posture:
            note = "the ISO 11226 limit for raised arms without support"
        rows.append(FigureRow("Safe take", safe, "", note))
        rows.append(FigureRow(f"Rest after {minutes(longest)}", words, "", why))
    return tuple(rows)


def more_figures(carried: Carry, system: System, sure: CarryUncertainties | None = None) -> tuple[FigureRow, ...]:
    """Return the figures that stand below the ways: posture, eye, legs, top handle, steadiness and lifting."""
    rows = [*_body_rows(carried, system, sure)]
    if carried.arms:
        rows.append(_arms_row(carried))
    if carried.gaze is not None:
        degrees = math.degrees(carried.gaze)
        note = (
            ""
            if 0.0 <= degrees <= 30.0
            else ("raise" if degrees > 30.0 else "lower") + " the screen. 0° to 30° down is easy"
        )
        way = "down" if degrees >= 0.0 else "up"
        rows.append(FigureRow("Gaze to the screen", f"{abs(degrees):.0f}° {way}", "", note))
    heavier = max(carried.right_leg, 1.0 - carried.right_leg)
    if heavier >= 0.515:
        leg = "right" if carried.right_leg > 0.5 else "left"
        pm = f"± {max(round(200.0 * sure.right_leg), 1)}" if sure is not None else ""
        rows.append(
            FigureRow(f"Load on the {leg} leg", f"{100 * heavier:.0f} %", pm, "operator and rig, feet 30 cm apart")
        )
    if carried.handle is not None and carried.pad is None:
        rows.append(_handle_row(carried.handle, carried.mass, system, sure))
    if carried.steady is not None:
        roll, pitch, yaw = carried.steady
        about = text_for(carried.support).noun if carried.pad is not None else "the grips"
        note = f"roll {times(roll)}, pan {times(yaw)}, compared with the bare camera about {about}"
        rows.append(FigureRow("Inertia in tilt", times(pitch), "", note))
    rows.append(_lift_row(carried, system))
    return tuple(rows)


def _pm(standard: float | None, kind: Kind, system: System) -> str:
    return uncertainty(standard, kind, system) if standard is not None else ""


def _hand_rows(carried: Carry, system: System, sure: CarryUncertainties | None) -> list[FigureRow]:
    rows = []
    if carried.pad is not None:
        words = figure(float(carried.held.pad_force[2]), Kind.FORCE, system)
        rows.append(
            FigureRow(
                f"{text_for(carried.support).bears}, arms resting on the rig",
                words,
                _pm(sure.on_pad if sure is not None else None, Kind.FORCE, system),
            )
        )
    for h, (arm, hand) in enumerate(zip(carried.arms, carried.held.hands, strict=True)):
        up = "up" if hand.force[2] >= 0.0 else "down"
        if hand.size > 0.5 and abs(hand.force[2]) < 0.5 * hand.size:
            up = "level"
        words = f"{figure(hand.size, Kind.FORCE, system)} {up}"
        rows.append(
            FigureRow(
                f"In the {arm.side} hand", words, _pm(sure.hands[h] if sure is not None else None, Kind.FORCE, system)
            )
        )
    if carried.pose.missed and carried.hold.brace not in support_for(carried.support).braces:
        rows.append(FigureRow("Brace", "not used", "", text_for(carried.support).no_brace))
    elif carried.pose.missed:
        rows.append(FigureRow("Brace", "out of reach", "", f"{BRACE_WORDS[carried.hold.brace]}: cannot reach"))
    elif carried.pose.props:
        push = max(float(np.linalg.norm(force)) for force in carried.held.propped)
        rows.append(FigureRow("Ribs carry", figure(push, Kind.FORCE, system), "", "most at one elbow"))
    elif carried.held.braced:
        push = float(np.linalg.norm(sum(p.force for p in carried.held.braced)))
        note = "" if push > 1.0 else "no effect: the CG is not over the grips"
        rows.append(FigureRow(_PUSHED_BY[carried.hold.brace], figure(push, Kind.FORCE, system), "", note))
    return rows


def _arms_row(carried: Carry) -> FigureRow:
    """Return elbow angles, how far the upper arms are raised and how far they stand out."""

    def both(values: Sequence[float]) -> str:
        texts = list(dict.fromkeys(f"{math.degrees(v):.0f}" for v in values))
        return " and ".join(texts) + "°"

    bent = both([math.pi - arm.elbow_angle for arm in carried.arms])
    raised = both([arm.elevation for arm in carried.arms])
    out = both([max(arm.tuck, 0.0) for arm in carried.arms])
    return FigureRow("Elbow angle", bent, "", f"upper arms raised {raised}, {out} out. Easy: 90° and tucked")


def _body_rows(carried: Carry, system: System, sure: CarryUncertainties | None) -> list[FigureRow]:
    back = math.hypot(float(carried.back_moment[0]), float(carried.back_moment[1]))
    limit = figure(DISC_LIMIT, Kind.FORCE, system, extra=-1)
    rows = [
        FigureRow(
            "Moment at the low back",
            figure(back, Kind.MOMENT, system),
            _pm(sure.back if sure is not None else None, Kind.MOMENT, system),
        ),
        FigureRow(
            "Load on the lowest disc (L5/S1)",
            figure(carried.compression, Kind.FORCE, system, extra=-1),
            _pm(sure.compression if sure is not None else None, Kind.FORCE, system),
            f"action limit {limit} (NIOSH 1981). Below it is not proven safe",
        ),
    ]
    if carried.see_saw is not None and carried.pad is None:
        side = "ahead of" if carried.see_saw >= 0.0 else "behind"
        note = f"the CG is {side} the line through both hands"
        if abs(carried.see_saw) < 0.05:
            note = ""
        words = figure(abs(carried.see_saw), Kind.MOMENT, system)
        rows.append(
            FigureRow("See-saw", words, _pm(sure.see_saw if sure is not None else None, Kind.MOMENT, system), note)
        )
    return rows


def _handle_row(hung: Hung, mass: float, system: System, sure: CarryUncertainties | None) -> FigureRow:
    if hung.turns_over:
        return FigureRow("Hung by its handle", "turns over", "", "the CG is above the handle")
    way = "forward" if hung.ahead > 0.0 else "back"
    couple = figure(abs(hung.holds), Kind.MOMENT, system)
    pull = figure(STANDARD_GRAVITY * mass, Kind.FORCE, system)
    time, joint = hold_words(hung.worst.hold), JOINT_NAMES[hung.worst.joint][1]
    if hung.slide is None:
        level = f"the handle has no slide. Move it {figure(abs(hung.ahead), Kind.LENGTH, system)} {way}"
    elif abs(hung.slide) > hung.room + 5e-4:
        most = figure(hung.room, Kind.LENGTH, system)
        level = f"slide the handle {figure(abs(hung.slide), Kind.LENGTH, system)} {way}. Its slide ends after {most}"
    else:
        level = f"slide the handle {figure(abs(hung.slide), Kind.LENGTH, system)} {way}"
    note = (
        f"Low mode: {level}, or hold {couple} with the wrist. One hand carries {pull}, arm down: {time}, {joint} first"
    )
    nose = "nose down" if hung.pitch >= 0.0 else "nose up"
    pm = f"± {max(round(math.degrees(2.0 * sure.hang)), 1)}°" if sure is not None else ""
    return FigureRow("Hung by its handle", f"{abs(math.degrees(hung.pitch)):.0f}° {nose}", pm, note)


def _lift_row(carried: Carry, system: System) -> FigureRow:
    lifts = []
    standing = float(body_of(carried.operator).shoulder_right[2])
    for place in PLACES:
        begin, end = lift_from(place, standing)
        lifts.append((place, min(recommended_limit(begin), recommended_limit(end))))
    _, least = min(lifts, key=lambda pair: pair[1])
    each = ", ".join(f"{place} {figure(most, Kind.MASS, system, extra=-1, unit=False)}" for place, most in lifts)
    good = [name for name, most in lifts if carried.mass <= most]
    note = f"{each} {unit_of(Kind.MASS, system)}. For rare two-handed lifts while standing"
    if carried.mass > least:
        note += f". Within the limit from {' or '.join(good)}" if good else ". Lift it with two people"
    return FigureRow("Lifting limit (NIOSH)", f"up to {figure(least, Kind.MASS, system, extra=-1)}", "", note)


_NUMBER = re.compile(r"^((?:× )?[\d.]+)(\D*)$")


def changed_figures(before: Sequence[FigureRow], after: Sequence[FigureRow]) -> tuple[FigureRow, ...]:
    """Return the figures `after` a previewed change, with what they were where they differ."""
    was = {row.label: row.value for row in before}
    found = []
    for row in after:
        old = was.get(row.label)
        if old is not None and old != row.value:
            first, second = _NUMBER.match(old), _NUMBER.match(row.value)
            if first and second and first[2] == second[2]:
                row = replace(row, value=f"{first[1]} → {row.value}")
            else:
                row = replace(row, note=f"before: {old}" + (f"; {row.note}" if row.note else ""))
        found.append(row)
    return tuple(found)


def cautions(
    carried: Carry, analysis: Analysis, chosen: BodyJoint | None = None, system: System = System.METRIC
) -> tuple[str, ...]:
    """Return what stands beside the figures; the rules for holding are compared for the `chosen` joint."""
    said = []
    if carried.unwatched:
        said.append("The screen is beside or behind the eye. Move it forward to watch it.")
    if carried.out_of_reach:
        said.append("A grip is out of reach. The arm is drawn as far as it goes.")
    if carried.hold.brace is Brace.CHEST and carried.held.braced:
        said.append("Breathing moves a rig braced on the chest. Hold your breath, for short takes only.")
    if carried.hold.brace is Brace.KNEES and carried.body.seated:
        said.append("Sit only for a locked-off shot. You need a helper to get up.")
    if math.isfinite(carried.posture):
        if carried.posture == 0.0:
            said.append("An upper arm is raised beyond 60° (ISO 11226: never). Lower the grips.")
        else:
            said.append(f"Arms raised like this, without any rig: {minutes(carried.posture)} at most (ISO 11226).")
    if carried.gaze is not None:
        bend = head_bend(carried.gaze)
        limit = head_posture_limit(bend)
        if bend < -math.radians(5.0):
            said.append(
                f"The head bends back by {-math.degrees(bend):.0f}°. ISO 11226 wants it fully supported. Lower "
                "the screen or bring it forward."
            )
        elif bend > 0.0 and math.isfinite(limit):
            words = f"{minutes(limit)} at most" if limit > 0.0 else "never recommended"
            said.append(f"The head bends forward by {math.degrees(bend):.0f}°: {words} (ISO 11226).")
    case = analysis.support.case(analysis)
    if case is not None and carried.support == analysis.build.support:
        said.extend(text_of(analysis).body_cautions(carried, case, system))
    worst = next((joint for joint in carried.joints if joint.joint is chosen), carried.worst)
    classic, power, model = worst.hold.by_classic, worst.hold.by_power, worst.hold.by_model
    if any(joint.hold.beyond for joint in carried.joints):
        said.append("“Over”: below 15 % of strength no rule was fitted. The time is the cautious end.")
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
        f"{JOINT_NAMES[j.joint][0]} use {100 * j.share:.0f} % of their strength, {hold_words(j.hold)}"
        for j in carried.joints
    )


# The reserve


class ReserveStory(Struct, frozen=True):
    """A joint, by itself the one that comes closest to its end over the takes, its reserve, and the other joints'."""

    joint: JointLoad
    reserve: Reserve
    others: tuple[Reserve, ...] = ()

    @property
    def safe(self) -> float:
        """What should be left (share of capacity): half-way from fresh to failing; common practice."""
        return 1.0 - SAFE_SHARE * (1.0 - min(self.joint.share, 1.0))


def reserve_story(carried: Carry, takes: Sequence[Take], chosen: BodyJoint | None = None) -> ReserveStory:
    """Return the reserve of the `chosen` joint, else of the one that fails first or comes closest to it."""
    runs = reserves(carried, takes, max(1.0, sum(t.length + t.rest for t in takes) / 1500.0))

    def closeness(pair: tuple[JointLoad, Reserve]) -> tuple[float, float]:
        joint, run = pair
        end = run.fails_least if run.fails_least is not None else math.inf
        return end, float(run.least.min()) - joint.share

    pairs = list(zip(carried.joints, runs, strict=True))
    wanted = [pair for pair in pairs if pair[0].joint is chosen]
    joint, run = wanted[0] if wanted else min(pairs, key=closeness)
    return ReserveStory(joint, run, tuple(other for other in runs if other is not run))
