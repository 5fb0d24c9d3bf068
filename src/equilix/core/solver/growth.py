"""How a rig grows: what goes on next and where first, what the battery does for balance, and the order on the rods.

Orders and first mounts are common practice.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator, Placed
from equilix.core.assembly.clash import find_clashes, stands_free
from equilix.core.assembly.fit import step_of
from equilix.core.assembly.mounts import mount_of
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import RODS, Category
from equilix.core.rounding import lacking
from equilix.core.solver.choices import Variable
from equilix.core.solver.plan import Goal, Limits, Target
from equilix.core.solver.search import find_plan

#: Order on rods from the camera outwards; common practice.
_FROM_CAMERA = (
    Category.CLAMP,
    Category.LENS_SUPPORT,
    Category.FOCUS,
    Category.SENDER,
    Category.AUDIO,
    Category.BATTERY_PLATE,
    Category.WEIGHT,
    Category.MATTE_BOX,
)
#: The step of the order of work at which the battery goes on.
BATTERY_STEP = step_of(Category.BATTERY)


class Suggestion(Struct, frozen=True):
    """A part that could go on next and where first; CG ahead of the pad (m) before and after, None without a pad."""

    placed: Placed
    before: float | None
    after: float | None


def suggestions(
    analysis: Analysis, kit: Kit, operator: Operator, candidates: Sequence[Placed], most: int = 3
) -> tuple[Suggestion, ...]:
    """Return the first of the `candidates` to go on that the build takes, one of each kind that it still lacks."""
    there = {part.category for part in analysis.assembly.parts}
    found: list[Suggestion] = []
    for placed in candidates:
        part = kit[placed.part_id]
        if placed.parent is None or part.mass is None or part.category in there or len(found) >= most:
            continue
        one = _suggest(analysis, kit, operator, placed)
        if one is not None:
            there.add(part.category)
            found.append(one)
    return tuple(found)


def _suggest(analysis: Analysis, kit: Kit, operator: Operator, placed: Placed) -> Suggestion | None:
    """Return what putting a part there does, None if it meets another part there."""
    after = analyse(replace(analysis.build, parts=(*analysis.build.parts, placed)), kit, operator)
    if not stands_free(after.assembly, after.positions, len(after.build.parts) - 1):
        return None
    ahead = [a.equilibrium.ahead if a.equilibrium is not None else None for a in (analysis, after)]
    return Suggestion(placed, ahead[0], ahead[1])


def ahead_without(analysis: Analysis, steps: frozenset[int], up_to: int) -> float | None:
    """Return where the CG would be ahead of the support (m) after step `up_to`, without the parts of `steps`."""
    equilibrium = analysis.equilibrium
    if equilibrium is None:
        return None
    number = np.array([step_of(part.category) for part in analysis.assembly.parts])
    here = (number <= up_to) & ~np.isin(number, list(steps))
    mass = analysis.assembly.mass[here]
    if lacking(float(mass.sum())):
        return None
    return float(mass @ ((analysis.positions.cg[here] - equilibrium.point) @ equilibrium.forward) / mass.sum())


class RodOrder(Struct, frozen=True):
    """Parts on one pair of rods from the camera outwards: as they stand, and as people set them."""

    holder: str
    now: tuple[str, ...]
    better: tuple[str, ...]

    @property
    def as_wanted(self) -> bool:
        """Whether they stand so already."""
        return self.now == self.better


def rod_orders(analysis: Analysis) -> tuple[RodOrder, ...]:
    """Return the order on every pair of rods that holds at least two parts."""
    build, assembly = analysis.build, analysis.assembly
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    groups: dict[tuple[str, str], list[str]] = {}
    for placed in build.parts:
        mount = mount_of(placed, build, analysis.assembly.kit)
        if mount is None or placed.parent is None or placed.reversed:
            continue
        if mount.kind in RODS:
            groups.setdefault((placed.parent, placed.mount), []).append(placed.id)
    found = []
    for (holder, _), ids in groups.items():
        if len(ids) < 2:
            continue
        outward = math.copysign(1.0, float(analysis.positions.centre[index[holder], 0]) - _camera_x(analysis))
        now = sorted(ids, key=lambda i: outward * float(analysis.positions.origin[index[i], 0]))
        better = sorted(now, key=lambda i: _rank(assembly.parts[index[i]].category))
        found.append(RodOrder(holder, tuple(now), tuple(better)))
    return tuple(found)


def _camera_x(analysis: Analysis) -> float:
    sensor = analysis.assembly.sensor
    return float(analysis.positions.centre[sensor, 0]) if sensor is not None else 0.0


def _rank(category: Category) -> int:
    return _FROM_CAMERA.index(category) if category in _FROM_CAMERA else len(_FROM_CAMERA)


def reordered(analysis: Analysis, kit: Kit, order: RodOrder) -> Build | None:
    """Return the build with the parts on one pair of rods in the better order and apart; None if that can't be.

    They take each other's places, then as little more travel as keeps them apart.
    """
    build = analysis.build
    settings = [build.placed(i).setting for i in order.now]
    changed = build
    for placed_id, setting in zip(order.better, settings, strict=True):
        changed = changed.with_placed(replace(changed.placed(placed_id), setting=setting))
    assembly = prepare(changed, kit)
    ids = set(order.better)
    clashes = find_clashes(assembly, assembly.at(assembly.settings(changed)))
    pairs = [(changed.parts[c.first].id, changed.parts[c.second].id) for c in clashes]
    apart = tuple(pair for pair in pairs if ids.intersection(pair))
    target = Target(np.zeros(3), None, (), 0.0)
    plan = find_plan(changed, kit, target, Variable(frozenset(ids)), (Goal.TRAVEL,), Limits(apart=apart))
    return plan.build if plan.found else None
