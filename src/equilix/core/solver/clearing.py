"""Ways to clear parts that meet: slide, turn, hang elsewhere, swap; least change first. And slides out of travel."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from enum import StrEnum

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.clash import find_clashes
from equilix.core.assembly.fit import first_setting
from equilix.core.assembly.mounts import free_mounts, mount_of
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import Category, Connection
from equilix.core.solver.choices import Variable, carried_parts, fits, holds_together
from equilix.core.solver.plan import LEAST_EFFORT, Limits, Target
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import SET_TO_LENS, lens_followers
from equilix.core.sources import common_practice

_NO_TARGET = Target(np.zeros(3), None, (), 0.0)
#: rad. Rosettes and joints are tried in steps no finer than this; common practice: 60 teeth.
_LEAST_TURN = common_practice(math.radians(6.0))
#: Parts that people swap for a smaller one; a camera or a lens is not swapped to clear a clash.
_SWAPPED = frozenset(
    {
        Category.MATTE_BOX,
        Category.MONITOR,
        Category.ARM,
        Category.BATTERY,
        Category.FOCUS,
        Category.RODS,
        Category.SENDER,
    }
)


#: Parts whose mount is what they are for; hanging them elsewhere clears nothing that anybody wants.
_STAYS_WHERE_IT_IS = SET_TO_LENS | {Category.BODY, Category.LENS, Category.PLATE, Category.PAD, Category.GRIP}


class ClearingKind(StrEnum):
    """How a clash is cleared, in the order in which people would rather do it."""

    SLIDE = "slide"
    TURN = "turn"
    HANG = "hang elsewhere"
    SWAP = "swap"


class Clearing(Struct, frozen=True):
    """A way to clear it: the changed `build`; `moved` are the placed parts that differ, `amount` the largest way
    (m) or turn (rad)."""

    kind: ClearingKind
    build: Build
    moved: tuple[str, ...]
    amount: float


def clearings(
    analysis: Analysis, kit: Kit, pair: tuple[str, str], go_on: Callable[[], bool] = lambda: True
) -> tuple[Clearing, ...]:
    """Return ways to take two placed parts apart that bring no new clash, the least change first, one of each kind.

    Sliding is solved for the fewest and shortest moves; turns, mounts and swaps are tried one by one.
    """
    build = analysis.build
    known = _pairs(build, kit)
    found = []
    for search in (_by_sliding, _by_turning, _by_hanging, _by_swapping):
        if not go_on():
            break
        way = search(analysis, kit, pair, known, go_on)
        if way is not None:
            found.append(way)
    return tuple(found)


def into_travel(analysis: Analysis) -> Clearing | None:
    """Return every slide that is out of its travel set to its stop; None if all are within."""
    out = {f.placed_ids[0] for f in analysis.findings if f.kind is FindingKind.OUT_OF_TRAVEL}
    if not out:
        return None
    build, moved, most = analysis.build, [], 0.0
    for i, mount in zip(analysis.assembly.slide_parts, analysis.assembly.slide_mounts, strict=True):
        placed = build.parts[i]
        if placed.id in out:
            setting = mount.snap(placed.setting)
            most = max(most, abs(setting - placed.setting))
            moved.append(placed.id)
            build = build.with_placed(replace(placed, setting=setting))
    return Clearing(ClearingKind.SLIDE, build, tuple(moved), most)


def _pairs(build: Build, kit: Kit) -> frozenset[frozenset[str]]:
    assembly = prepare(build, kit)
    clashes = find_clashes(assembly, assembly.at(assembly.settings(build)))
    return frozenset(frozenset((build.parts[c.first].id, build.parts[c.second].id)) for c in clashes)


def _clears(build: Build, kit: Kit, pair: tuple[str, str], known: frozenset[frozenset[str]]) -> bool:
    now = _pairs(build, kit)
    return frozenset(pair) not in now and now <= known


def _by_sliding(
    analysis: Analysis, kit: Kit, pair: tuple[str, str], known: frozenset[frozenset[str]], go_on: Callable[[], bool]
) -> Clearing | None:
    assembly, build = analysis.assembly, analysis.build
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    slides = {
        build.parts[i].id
        for j, i in enumerate(assembly.slide_parts)
        # A slide that carries both moves neither against the other.
        if assembly.parts_two(j, index[pair[0]], index[pair[1]])
    }
    if not slides:
        return None
    variable = Variable(frozenset(slides), (), lens_followers(analysis))
    plan = find_plan(build, kit, _NO_TARGET, variable, (LEAST_EFFORT,), Limits(apart=(pair,)), go_on)
    if not plan.found or not plan.moved or not _clears(plan.build, kit, pair, known):
        return None
    ways = [abs(setting - build.placed(placed_id).setting) for placed_id, setting in plan.moved.items()]
    return Clearing(ClearingKind.SLIDE, plan.build, tuple(plan.moved), max(ways))


def _chain(build: Build, placed_id: str) -> Iterator[Placed]:
    """Go from a placed part down to what carries it."""
    placed: Placed | None = build.placed(placed_id)
    while placed is not None:
        yield placed
        placed = build.placed(placed.parent) if placed.parent is not None else None


def _by_turning(
    analysis: Analysis, kit: Kit, pair: tuple[str, str], known: frozenset[frozenset[str]], go_on: Callable[[], bool]
) -> Clearing | None:
    build = analysis.build
    best: Clearing | None = None
    for placed_id in pair:
        for placed in _chain(build, placed_id):
            mount = mount_of(placed, build, kit)
            if mount is not None and mount.joint is Connection.TURN:
                step = max(mount.step, _LEAST_TURN)
                count = int((mount.high - mount.low) / step) + 1
                for k in sorted(range(-count, count + 1), key=abs):
                    if not go_on():
                        return None
                    if k == 0 or (best is not None and abs(k) * step >= best.amount):
                        continue
                    setting = mount.snap(placed.setting + k * step)
                    turned = build.with_placed(replace(placed, setting=setting))
                    if setting != placed.setting and _clears(turned, kit, pair, known):
                        best = Clearing(ClearingKind.TURN, turned, (placed.id,), abs(setting - placed.setting))
                        break
            if placed.id != placed_id or kit[placed.part_id].category in (Category.LENS, Category.BODY):
                continue
            for quarters in (1, 3, 2):
                amount = math.pi / 2 * min(quarters, 4 - quarters)
                if best is not None and amount >= best.amount:
                    continue
                turned = build.with_placed(replace(placed, quarter_turns=(placed.quarter_turns + quarters) % 4))
                if _clears(turned, kit, pair, known):
                    best = Clearing(ClearingKind.TURN, turned, (placed.id,), amount)
    return best


def _by_hanging(
    analysis: Analysis, kit: Kit, pair: tuple[str, str], known: frozenset[frozenset[str]], go_on: Callable[[], bool]
) -> Clearing | None:
    build = analysis.build
    best: Clearing | None = None
    for placed_id in pair:
        placed = build.placed(placed_id)
        part = kit[placed.part_id]
        if placed.parent is None or placed.reversed or part.category in _STAYS_WHERE_IT_IS:
            continue
        carried = carried_parts(build, placed_id)
        gone = {placed_id, *(p.id for p in carried)}
        stays = replace(build, parts=tuple(p for p in build.parts if p.id not in gone))
        at = analysis.positions.centre[next(i for i, p in enumerate(build.parts) if p.id == placed_id)]
        for free in free_mounts(stays, kit):
            if not go_on():
                return None
            foot = fits(part, free.mount)
            if foot is None or (free.placed_id, free.mount.id) == (placed.parent, placed.mount):
                continue
            setting = first_setting(stays, kit, free, part)
            moved = replace(placed, parent=free.placed_id, mount=free.mount.id, foot=foot, setting=setting, own=None)
            changed = replace(stays, parts=(*stays.parts, moved, *carried))
            if not holds_together(changed, kit) or not _clears(changed, kit, pair, known):
                continue
            assembly = prepare(changed, kit)
            there = assembly.at(assembly.settings(changed)).centre[len(stays.parts)]
            way = float(np.linalg.norm(there - at))
            if best is None or way < best.amount:
                best = Clearing(ClearingKind.HANG, changed, (placed_id,), way)
    return best


def _by_swapping(
    analysis: Analysis, kit: Kit, pair: tuple[str, str], known: frozenset[frozenset[str]], go_on: Callable[[], bool]
) -> Clearing | None:
    build = analysis.build
    on_build = {placed.part_id for placed in build.parts}
    best: tuple[float, Clearing] | None = None
    for placed_id in pair:
        placed = build.placed(placed_id)
        old = kit[placed.part_id]
        if old.category not in _SWAPPED or placed.parent is None or placed.own is not None or placed.reversed:
            continue
        for part in kit.values():
            if not go_on():
                return None
            if part.category is not old.category or part.id in on_build or part.mass is None:
                continue
            foot = next((i for i, f in enumerate(part.feet) if f.kind is old.feet[placed.foot].kind), None)
            if foot is None:
                continue
            changed = build.with_placed(replace(placed, part_id=part.id, foot=foot))
            if not holds_together(changed, kit) or not _clears(changed, kit, pair, known):
                continue
            heavier = abs((part.mass or 0.0) - (old.mass or 0.0))
            if best is None or heavier < best[0]:
                best = (heavier, Clearing(ClearingKind.SWAP, changed, (placed_id,), heavier))
    return best[1] if best is not None else None
