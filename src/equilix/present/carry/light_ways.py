"""What would make a rig easier to carry, as cards in plain words."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Build
from equilix.core.carry.carried import Carry
from equilix.core.solver.lighten import Lighter, LighterKind
from equilix.core.statics.pose import usual_hold
from equilix.core.units import Kind
from equilix.present.card import Card
from equilix.present.carry.carry_view import hold_words
from equilix.present.units import System, figure
from equilix.present.words import JOINT_NAMES, MOST_SAID, minutes, short_name, times

_BRACE_TITLES = {
    Brace.ELBOWS: "Tuck the elbows against the ribs",
    Brace.CHEST: "Rest its rear against the chest",
    Brace.HIP: "Rest its rear on the hip",
    Brace.KNEES: "Sit, with the grips’ ends on the thighs",
    Brace.NONE: "Hold it free",
}


class LightWay(Card, frozen=True, eq=False):
    """One way to lighten: shares of strength `before` and `after`, and the edit's build if there is one."""

    way: Lighter
    build: Build | None

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
    gain = min(way.carried.safe, MOST_SAID) - min(now.safe, MOST_SAID)
    cost = f"+{minutes(gain)}" if gain >= 10.0 else ""
    takes = (minutes(min(c.safe, MOST_SAID)) if c.safe > 0.0 else "none" for c in (way.carried, now))
    time = f"Holds {hold_words(way.carried.lasts)}, takes of {' instead of '.join(takes)}."
    build = way.after.build if way.after is not None else None
    lines: tuple[str, ...]
    match way.kind:
        case LighterKind.GRIPS:
            title = grip_title(way, analysis, system)
            lines = (time, *hand_lines(way.carried, now, system))
        case LighterKind.HOLD:
            title, bent = hold_title(way, now, system), _elbows(way.carried)
            lines = (time, f"{bent} A posture: nothing on the build moves. Mind that the eye still meets the screen.")
        case LighterKind.SCREEN:
            title, gaze = screen_title(way, analysis, system), math.degrees(way.carried.gaze or 0.0)
            old = math.degrees(now.gaze or 0.0)
            lines = (
                time,
                f"Gaze {abs(old):.0f}° {_way(old)} to {abs(gaze):.0f}° {_way(gaze)}. Look at the balance again, "
                "and that cables reach.",
            )
        case LighterKind.BRACE:
            held = way.held
            title = _BRACE_TITLES[held.brace if held is not None else Brace.NONE]
            pushed = [float(np.linalg.norm(p.force)) for p in way.carried.held.braced]
            pushed += [float(np.linalg.norm(force)) for force in way.carried.held.propped]
            push = figure(max(pushed, default=0.0), Kind.FORCE, system)
            lines = (time, f"The body then pushes with {push}. {_elbows(way.carried)}")
        case LighterKind.STEADIER:
            title, cost = steadier_title(way, analysis), minutes_less(way.carried, now)
            lines = (time, steadier_words(way.carried, now) + " Look at the balance again.")
        case LighterKind.SPLIT:
            build = replace(analysis.build, takes=way.takes)
            extra = sum(t.rest for t in way.takes) - sum(t.rest for t in analysis.build.takes)
            title = f"Split into {len(way.takes)} takes"
            cost = f"+{minutes(extra)} rest" if extra >= 30.0 else ""
            words = f"longest {minutes(max(t.length for t in way.takes))}"
            lines = ("No take goes beyond the safe half, with the rests that this needs.",)
    return LightWay(title, cost, before.share, after.share, words, lines, way, build)


def minutes_less(then: Carry, now: Carry) -> str:
    """Return the price in holding time, "" where there is none to say."""
    lost = min(now.to_the_end, MOST_SAID) - min(then.to_the_end, MOST_SAID)
    return f"−{minutes(lost)}" if lost >= 10.0 else ""


def steadier_title(way: Lighter, analysis: Analysis) -> str:
    """Return what goes on or takes the place of what."""
    assert way.after is not None
    before = {placed.id: placed for placed in analysis.build.parts}
    pairs = zip(way.after.build.parts, way.after.assembly.parts, strict=True)
    new, part = next((placed, part) for placed, part in pairs if before.get(placed.id) != placed)
    words = f"Steadier: {short_name(part.name)}"
    if new.id in before:
        old = analysis.assembly.parts[[placed.id for placed in analysis.build.parts].index(new.id)]
        return f"{words} instead of {short_name(old.name)}"
    holder = way.after.assembly.parts[[placed.id for placed in way.after.build.parts].index(new.parent or "")]
    return f"{words} on {short_name(holder.name)}"


def steadier_words(then: Carry, now: Carry) -> str:
    """Return how much steadier it is each way."""
    assert then.steady is not None
    assert now.steady is not None
    roll, tilt, pan = (times(a / b) for a, b in zip(then.steady, now.steady, strict=True))
    return f"Against now: tilt {tilt}, pan {pan}, roll {roll}."


def grip_title(way: Lighter, analysis: Analysis, system: System) -> str:
    """Return what to slide and to turn; parts that move alike are named once."""
    pairs = zip(analysis.build.parts, analysis.assembly.parts, strict=True)
    names = {placed.id: short_name(part.name) for placed, part in pairs}
    words = [
        f"{names[placed_id]} {figure(abs(by), Kind.LENGTH, system)} {'forward' if by > 0 else 'back'}"
        for placed_id, by in way.moved
    ]
    said = f"Slide {' and '.join(words)}" if words else ""
    alike: dict[int, list[str]] = {}
    for placed_id, by in way.turned:
        # Positive about the axis to the left swings what hangs down to the back.
        alike.setdefault(round(math.degrees(by)), []).append(placed_id)
    turns = []
    for degrees, ids in alike.items():
        who = "both grips" if len(ids) == 2 else f"the {_side_of(ids[0], way.carried, analysis)} grip"
        turns.append(f"{who} {abs(degrees)}° {'back' if degrees > 0 else 'forward'}")
    if turns:
        said += (", turn " if said else "Turn ") + " and ".join(turns)
    return said


def _side_of(placed_id: str, carried: Carry, analysis: Analysis) -> str:
    carries = set(analysis.build.carried_by(placed_id))
    for place, arm in zip(carried.pose.places, carried.arms, strict=True):
        if place.grasp.placed_id in carries:
            return arm.side.value
    return "other"


def hold_title(way: Lighter, now: Carry, system: System) -> str:
    """Return how a rig is held otherwise than `now`."""
    usual, held = usual_hold(now.operator), way.held
    assert held is not None
    from_ahead, from_below = (
        was if was is not None else u for was, u in zip((now.hold.ahead, now.hold.below), usual, strict=True)
    )
    nearer = from_ahead - (held.ahead if held.ahead is not None else usual[0])
    lower = (held.below if held.below is not None else usual[1]) - from_below
    parts = []
    if abs(lower) > 0.008:
        parts.append(f"{figure(abs(lower), Kind.LENGTH, system)} {'lower' if lower > 0 else 'higher'}")
    if abs(nearer) > 0.008:
        parts.append(f"{figure(abs(nearer), Kind.LENGTH, system)} {'closer' if nearer > 0 else 'farther out'}")
    return f"Hold it {' and '.join(parts) or 'as it is'}"


def _way(degrees: float) -> str:
    return "down" if degrees >= 0.0 else "up"


def screen_title(way: Lighter, analysis: Analysis, system: System) -> str:
    """Return where the screen goes: along its slide, or to another mount of which part."""
    assert way.after is not None
    before = {placed.id: placed for placed in analysis.build.parts}
    parts = {placed.id: part for placed, part in zip(way.after.build.parts, way.after.assembly.parts, strict=True)}
    new = [placed for placed in way.after.build.parts if placed.id not in before]
    for placed in way.after.build.parts:
        old = before.get(placed.id)
        if old is None or placed == old:
            continue
        name, holder = short_name(parts[placed.id].name), parts[placed.parent or ""]
        if (placed.parent, placed.mount) == (old.parent, old.mount):
            by = figure(abs(placed.setting - old.setting), Kind.LENGTH, system)
            return f"Slide {name} {by} {'forward' if placed.setting > old.setting else 'back'}"
        if new:
            on = parts[new[0].parent or ""]
            mount = on.mount(new[0].mount)
            if new[0].parent == old.parent:
                return f"Put {short_name(holder.name)} between {short_name(on.name)} and {name}"
            return f"Put {name} on {short_name(holder.name)}, that on {short_name(on.name)}, {mount.name or mount.id}"
        mount = holder.mount(placed.mount)
        return f"Put {name} on {short_name(holder.name)}, {mount.name or mount.id}"
    return "Move the screen"


def _elbows(carried: Carry) -> str:
    bent = max((arm.elbow_angle for arm in carried.arms), default=0.0)
    return f"Elbows come to {180.0 - math.degrees(bent):.0f}°."


def hand_lines(carried: Carry, now: Carry, system: System) -> tuple[str, ...]:
    """Return how the hands lie on the rig then, against `now`."""
    said = []
    if carried.see_saw is not None and now.see_saw is not None and carried.pad is None:
        first, second = (place.point for place in carried.pose.places)
        apart = abs(float(first[0] - second[0]))
        was, then = (figure(abs(v), Kind.MOMENT, system) for v in (now.see_saw, carried.see_saw))
        staggered = f"Staggered by {figure(apart, Kind.LENGTH, system)}: see-saw" if apart > 0.020 else "See-saw"
        said.append(f"{staggered} {was} to {then}.")
    return (*said, f"{_elbows(carried)} Look at the balance again.")
