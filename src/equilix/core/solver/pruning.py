"""Changes that could stay undone are left out of a plan: it does what it promises without them, or loses very little.

A search holds none by its price of work; what is put together of two answers, or settled on figures that bend, may.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import combinations

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, new_warnings
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.errors import AssemblyError
from equilix.core.solver.changes import Change, ChangeKind, changes_of, effort, with_changes
from equilix.core.solver.effort import STEP
from equilix.core.solver.plan import NOTHING, PRICE_SHARE, PRICE_STEPS, Plan, PlanStatus, Target
from equilix.core.solver.search_space import lens_followers
from equilix.core.solver.targets import beyond_now, form_value, target_of

#: m by which what is set to the lens may stand beyond where it may: rounding.
_HAIR = 1e-5


def price(target: Target, before: float) -> float:
    """Return what a second of work must take off (kg m) of what lies beyond `before` it."""
    return max(target.tolerance, PRICE_SHARE * before) / (PRICE_STEPS * STEP)


def pruned(plan: Plan, analysis: Analysis, after: Analysis, kit: Kit, operator: Operator, tolerance: float) -> Plan:
    """Return a plan without the changes that could stay undone; `after` is the rig with all of them."""
    target, whole = target_of(analysis, tolerance), {**kit, **plan.kit}
    if target is None or target_of(after, tolerance) is None:
        return plan

    def left(one: Analysis) -> float:
        then = target_of(one, tolerance)
        return math.inf if then is None else beyond_now(one, then)

    cost = price(target, beyond_now(analysis, target))
    changes = list(changes_of(analysis, plan.build, whole))
    before, whole_rig = len(changes), after
    # Settled on figures that bend, or put together of two answers.
    bent = target.closely or any(one.kind is ChangeKind.TURN for one in changes)
    dropped = True
    while dropped and len(changes) > 1:
        dropped = False
        for gone in _left_out(changes, pairs=bent):
            rest = [one for one in changes if one not in gone]
            without = _tried(analysis, plan.build, rest, whole, operator)
            if without is None or new_warnings(whole_rig, without):
                continue
            now, was = left(without), left(after)
            if now <= NOTHING or (was > NOTHING and now - was < cost * effort(gone)):
                changes, after, dropped = rest, without, True
                break
    return plan if len(changes) == before else _with(plan, after, target_of(after, tolerance) or target, len(changes))


def _left_out(changes: Sequence[Change], pairs: bool) -> Iterator[tuple[Change, ...]]:
    """Yield what is tried without: each change, the dearest first, and with `pairs` each two that may cancel out."""
    ordered = sorted(changes, key=lambda one: -one.seconds)
    yield from ((one,) for one in ordered)
    if pairs and len(changes) > 2:
        yield from combinations(ordered, 2)


def _tried(analysis: Analysis, build: Build, changes: list[Change], kit: Kit, operator: Operator) -> Analysis | None:
    """Return the rig with these changes alone; None where they do not go, or the lens loses what is set to it."""
    try:
        changed = with_changes(analysis.build, build, changes)
        there = {placed.id: placed.setting for placed in changed.parts}
        here = {placed.id: placed.setting for placed in analysis.build.parts}
        for one in lens_followers(analysis):
            if one.leader in there and one.follower in there:
                by = (there[one.follower] - here[one.follower]) - (there[one.leader] - here[one.leader])
                if not one.back - _HAIR <= by <= one.ahead + _HAIR:
                    return None
        return analyse(changed, kit, operator, analysis)
    except AssemblyError:
        return None


def _with(plan: Plan, after: Analysis, target: Target, changes: int) -> Plan:
    """Return the plan that leads to `after` with so many changes."""
    there = {placed.id: placed for placed in after.build.parts}
    settings = {placed.id: placed.setting for placed in plan.build.parts}
    return replace(
        plan,
        build=after.build,
        moved={i: to for i, to in plan.moved.items() if i in there and there[i].setting == settings[i] == to},
        taken=tuple(option for option in plan.taken if option.placed.id in there),
        values=np.array([form_value(after, target, form) for form in target.forms]),
        changes=changes,
        status=PlanStatus.GOOD,
        assembly=None,
    )
