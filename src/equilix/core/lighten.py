"""What would make a build easier to carry: other places for the grips, another hold, shorter takes."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from equilix.core.analyse import Analysis, analyse, hand_points
from equilix.core.assembly.build import Build, Kit, Operator, SupportKind, Take
from equilix.core.carry import Carry, Hindrance, best_hold, carry, reserves, rest_for
from equilix.core.operator.fatigue import SAFE_SHARE

#: m between the places tried along a slide.
STEP = 0.010
#: kg that may ride on a slide with the grips: heavier ones are for balance, not for the hands.
MOST_ON_GRIP_SLIDE = 1.5
#: A way is worth naming from this much more holding time.
WORTH = 1.05
#: … and from this much less of the strength.
LEAST_SHARE = 0.01


class LighterKind(StrEnum):
    GRIPS = "grips"
    HOLD = "hold"
    SPLIT = "split"


@dataclass(frozen=True, eq=False, slots=True)
class Lighter:
    """One way: the build with moved grips, `after`, the place `held_at`, or other `takes`; `carried` is how it is then.

    `moved` gives placed part and way (m) of each slide that moves.
    """

    kind: LighterKind
    carried: Carry
    after: Analysis | None = None
    held_at: tuple[float, float] | None = None
    takes: tuple[Take, ...] = ()
    moved: tuple[tuple[str, float], ...] = ()


def ways_to_lighten(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    support: SupportKind,
    takes: Sequence[Take],
    go_on: Callable[[], bool] = lambda: True,
) -> tuple[Lighter, ...]:
    """Return the ways that make the first joint to give out last at least 5 % longer, the best first.

    Splitting takes comes last: it costs the day rather than the rig. `go_on` is asked between steps.
    """
    now = carry(analysis, operator, support)
    if isinstance(now, Hindrance):
        return ()
    found = []
    if go_on():
        moved = best_grips(analysis, kit, operator, support, go_on)
        if moved is not None:
            found.append(moved)
    if support is SupportKind.HANDHELD and go_on():
        place = best_hold(analysis, operator)
        held = carry(analysis, operator, support, place)
        if place is not None and not isinstance(held, Hindrance):
            found.append(Lighter(LighterKind.HOLD, held, held_at=place))
    found = [
        way
        for way in found
        if way.carried.worst.hold.likely >= WORTH * now.worst.hold.likely
        and way.carried.worst.share <= now.worst.share - LEAST_SHARE
    ]
    found.sort(key=lambda way: -way.carried.worst.hold.likely)
    split = split_takes(now, takes)
    if split is not None:
        found.append(Lighter(LighterKind.SPLIT, now, takes=split))
    return tuple(found)


def grip_slides(analysis: Analysis) -> tuple[int, ...]:
    """Return the slides nearest to the hands: of those that carry a grip and little else, the innermost of each."""
    assembly = analysis.assembly
    hands = {assembly.touch_points[i].part for i in hand_points(assembly, analysis.positions)}
    mass = assembly.carried_mass()
    nearest: set[int] = set()
    for part in sorted(hands):
        slides = [
            k
            for k in range(len(assembly.slide_parts))
            if assembly.carries(k, part)
            and mass[k] <= MOST_ON_GRIP_SLIDE
            and (assembly.sensor is None or not assembly.carries(k, assembly.sensor))
        ]
        if slides:
            nearest.add(min(slides, key=lambda k: float(mass[k])))
    return tuple(sorted(nearest))


def best_grips(
    analysis: Analysis, kit: Kit, operator: Operator, support: SupportKind, go_on: Callable[[], bool] = lambda: True
) -> Lighter | None:
    """Return the grips where this operator holds the rig the longest, None if they can't be moved or are best there.

    One slide after the other, twice round, over places 10 mm apart and the detents of each; clashing places
    are left out.
    """
    slides = grip_slides(analysis)
    assembly = analysis.assembly
    clashes = len(analysis.findings)
    best = analysis
    now = carry(analysis, operator, support)
    if isinstance(now, Hindrance) or not slides:
        return None
    first = lasts = now.worst.hold.likely
    found: Carry = now
    for _ in range(2):
        for k in slides:
            placed = assembly.build.parts[assembly.slide_parts[k]]
            mount = assembly.slide_mounts[k]
            for setting in np.arange(mount.low, mount.high + 1e-9, max(mount.step, STEP)):
                if not go_on():
                    return None
                build = _set(best.build, placed.id, float(setting))
                tried = analyse(build, kit, operator, analysis)
                if len(tried.findings) > clashes:
                    continue
                carried = carry(tried, operator, support)
                if isinstance(carried, Hindrance) or carried.out_of_reach:
                    continue
                if carried.worst.hold.likely > lasts * 1.001:
                    best, found, lasts = tried, carried, carried.worst.hold.likely
    if lasts <= first * 1.001:
        return None
    moved = tuple(
        (new.id, new.setting - old.setting)
        for old, new in zip(analysis.build.parts, best.build.parts, strict=True)
        if abs(new.setting - old.setting) > 1e-9
    )
    return Lighter(LighterKind.GRIPS, found, after=best, moved=moved)


def _set(build: Build, placed_id: str, setting: float) -> Build:
    parts = tuple(replace(p, setting=setting) if p.id == placed_id else p for p in build.parts)
    return replace(build, parts=parts)


def split_takes(carried: Carry, takes: Sequence[Take]) -> tuple[Take, ...] | None:
    """Return the takes with those cut that last longer than the safe half of what the first joint to give out holds.

    None if none needs it, if one would have to be cut more than four times, or if it fails even so.
    """
    safe = SAFE_SHARE * carried.worst.hold.likely
    cut: list[Take] = []
    for take in takes:
        pieces = math.ceil(take.length / safe - 1e-9)
        if pieces > 4:
            return None
        if pieces <= 1:
            cut.append(take)
            continue
        length = float(math.ceil(take.length / pieces))
        rest = rest_for(carried, length)
        if not math.isfinite(rest):
            return None
        pause = 60.0 * max(math.ceil(rest / 60.0), 1)
        cut += [Take(length, pause)] * (pieces - 1)
        cut.append(Take(length, max(take.rest, pause)))
    if tuple(cut) == tuple(takes) or any(run.fails is not None for run in reserves(carried, cut)):
        return None
    return tuple(cut)
