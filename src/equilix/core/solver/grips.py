"""Grips turned on their rosettes, so that the line through the hands lies below the CG.

A turn is not linear: a hand goes along an arc. So each tooth is tried, both grips alike, and judged by the analysis.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind, new_warnings, serious_warnings
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.assembly.mounts import mount_of
from equilix.core.kit.parts import Category, Connection, MountKind
from equilix.core.rounding import negligible
from equilix.core.solver.targets import beyond_now, form_value, target_of
from equilix.core.sources import common_practice

#: rad: so far a grip is turned at most, and the step where its rosette has no teeth.
_FARTHEST, _STEP = common_practice((math.radians(60.0), math.radians(6.0)))
#: Of a unit vector: an axis with so much of it across the rig is one across.
_ACROSS = common_practice(0.9)
#: So many of the best turns are gone on from; shares of the best one that are tried too, with a slide beside it.
_BEST = 4
_SHARES = common_practice((0.33, 0.67))


class TurnedGrips(Struct, frozen=True, eq=False):
    """The rig after so many grips are turned, and the pairs of parts that meet there: they have to come apart."""

    count: int
    after: Analysis
    apart: tuple[tuple[str, str], ...]


def turned_grips(
    analysis: Analysis, kit: Kit, operator: Operator, tolerance: float, go_on: Callable[[], bool]
) -> tuple[TurnedGrips, ...]:
    """Return the rig with both grips turned alike: those that leave least, the best one first.

    What makes anything seriously worse is left out, but for what meets a grip then; so is what leaves no less than now.
    Of those that leave nothing the one that turns least is best.
    """
    turns = _turns(analysis, kit)
    target = target_of(analysis, tolerance)
    if not turns or target is None:
        return ()
    mounts = [mount_of(analysis.build.placed(i), analysis.build, kit) for i in turns]
    step = max((mount.step for mount in mounts if mount is not None), default=0.0) or _STEP
    tried: dict[int, tuple[float, float, Analysis] | None] = {}

    def tip(teeth: int) -> float:
        """Return what tips it then (kg m, signed), not a number where that can't be had or is seriously worse."""
        if teeth not in tried:
            tried[teeth] = None
            build = _turned(analysis.build, kit, turns, teeth * step) if go_on() else None
            after = analyse(build, kit, operator, analysis) if build is not None else None
            then = target_of(after, tolerance) if after is not None else None
            if after is not None and then is not None and not _worse(analysis, after):
                tried[teeth] = form_value(after, then, then.forms[0]), beyond_now(after, then), after
        one = tried[teeth]
        return math.nan if one is None else one[0]

    now, before = beyond_now(analysis, target), form_value(analysis, target, target.forms[0])
    sign = min((1, -1), key=lambda s: (math.isnan(tip(2 * s)), abs(tip(2 * s))))
    if not abs(tip(2 * sign)) < abs(before):
        return ()
    # The farther the nearer to level, until it tips the other way.
    low, high = 0, int(_FARTHEST / step)
    while math.isnan(tip(sign * high)) and high > 2:
        high -= 2
    if tip(sign * high) * before < 0.0:
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (low, middle) if tip(sign * middle) * before <= 0.0 else (middle, high)
    for share in _SHARES:
        tip(sign * max(round(share * high), 1))
    found = [(one[1], abs(teeth), one[2]) for teeth, one in tried.items() if one is not None]
    found = sorted((one for one in found if one[0] < now and not negligible(now - one[0])), key=lambda one: one[:2])
    return tuple(TurnedGrips(len(turns), after, _met(analysis, after)) for _, _, after in found[:_BEST])


def _worse(analysis: Analysis, after: Analysis) -> bool:
    return any(finding.kind is not FindingKind.CLASH for finding in serious_warnings(analysis, after))


def _met(analysis: Analysis, after: Analysis) -> tuple[tuple[str, str], ...]:
    """Return the pairs of placed parts that newly meet, by their ids."""
    found = [one.placed_ids for one in new_warnings(analysis, after) if one.kind is FindingKind.CLASH]
    return tuple((ids[0], ids[1]) for ids in found if len(ids) == 2)


def _turns(analysis: Analysis, kit: Kit) -> dict[str, float]:
    """Return the grips that hands hold and that turn about an axis across, each with its sense: +1 turns it back."""
    equilibrium, build = analysis.equilibrium, analysis.build
    found: dict[str, float] = {}
    if equilibrium is None:
        return found
    for place in equilibrium.pose.places:
        placed = build.parts[place.part]
        if kit[placed.part_id].category is not Category.GRIP or placed.parent is None:
            continue
        mount = mount_of(placed, build, kit)
        if mount is None or mount.joint is not Connection.TURN or mount.kind is not MountKind.ROSETTE:
            continue
        index = next(k for k, one in enumerate(build.parts) if one.id == placed.parent)
        axis = analysis.assembly.rotation[index] @ np.array(mount.unit_axis)
        if abs(float(axis[1])) > _ACROSS:
            found[placed.id] = math.copysign(1.0, float(axis[1]))
    return found


def _turned(build: Build, kit: Kit, turns: dict[str, float], by: float) -> Build | None:
    """Return a build with its grips turned `by` (rad) alike, None where one does not turn so far."""
    for placed_id, sense in turns.items():
        placed = build.placed(placed_id)
        mount = mount_of(placed, build, kit)
        to = placed.setting + sense * by
        if mount is None or not mount.low <= to <= mount.high:
            return None
        build = build.with_placed(replace(placed, setting=mount.snap(to)))
    return build
