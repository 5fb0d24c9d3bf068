"""Added dead weight against the moment that remains."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.solver.plan import Goal, Limits, Target
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import dead_weight_variable, slides_variable
from equilix.core.solver.targets import target_of


class TradePoint(Struct, frozen=True):
    """The least remaining moment (N m) with at most `added` kg of dead weight."""

    added: float
    remaining: float


#: kg: the curve goes as far at least.
_LEAST = 1e-3


def trade_off(
    analysis: Analysis, kit: Kit, slides: bool, points: int = 13, go_on: Callable[[], bool] = lambda: True
) -> tuple[TradePoint, ...]:
    """Return the curve of added dead weight against remaining moment, by an added-mass limit raised in steps.

    Epsilon constraint: Haimes, Lasdon and Wismer, IEEE Trans. SMC 1 (1971). With `slides` the rig is first
    slid as level as it gets; what then remains is what weight must do.
    """
    whole_target = target_of(analysis, 0.0)
    if whole_target is None:
        return ()
    # The curve is of the tip moment alone.
    target = replace(whole_target, forms=whole_target.forms[:1])
    build = analysis.build
    if slides:
        slid = find_plan(build, kit, target, slides_variable(analysis), (Goal.MOMENT,), go_on=go_on)
        if not slid.found:
            return ()
        build = slid.build
        target = replace(target, point=_pad_of(build, kit, target))
    base = replace_build(analysis, build, kit)
    variable = dead_weight_variable(base, kit, slides=False)
    if not variable.choices:
        return (TradePoint(0.0, abs(_moment(base))),)
    goals = (Goal.MOMENT, Goal.ADDED_MASS)
    whole = find_plan(build, kit, target, variable, goals, go_on=go_on)
    if not whole.found:
        return ()
    most = max(whole.added_mass, _LEAST)
    found = [TradePoint(0.0, abs(_moment(base)))]
    for k in range(1, points):
        if not go_on():
            return ()
        limit = most * k / (points - 1)
        plan = find_plan(build, kit, target, variable, goals, Limits(added=limit), go_on)
        if plan.found:
            found.append(TradePoint(plan.added_mass, plan.remaining(target) * STANDARD_GRAVITY))
    return tuple(found)


def replace_build(analysis: Analysis, build: Build, kit: Kit) -> Analysis:
    """Return the analysis of another build for the same person; body figures are not needed here."""
    return analyse(build, kit, Operator("nobody", "Nobody"), analysis)


def _pad_of(build: Build, kit: Kit, target: Target) -> np.ndarray:
    after = analyse(build, kit, Operator("nobody", "Nobody"))
    return after.equilibrium.point if after.equilibrium is not None else target.point


def _moment(analysis: Analysis) -> float:
    return analysis.equilibrium.tip_moment if analysis.equilibrium is not None else 0.0
