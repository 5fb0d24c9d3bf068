"""Slides set until nothing is left of any form: the search to within its margin, then the linear rest exactly."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.rounding import negligible
from equilix.core.solver.nonlinear import closed_by_slides, forms_of
from equilix.core.solver.plan import LEAST_EFFORT, NO_LIMITS, Bundle, Goal, Limits, Plan, Target
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import slides_variable
from equilix.core.solver.targets import form_value, target_of

#: Least of all that is left, each form counted in its tolerance, then the least work.
_GOALS: tuple[Bundle, ...] = (Goal.MOMENT, LEAST_EFFORT)
#: kg m: what the search's margins leave of a form that it has closed.
_CLOSED = 2e-6


def closest(
    analysis: Analysis, kit: Kit, target: Target, go_on: Callable[[], bool], limits: Limits = NO_LIMITS
) -> Plan:
    """Return the plan by slides alone that leaves least, to rounding; proven or not as the search says."""
    variable, case = slides_variable(analysis), analysis.support.case(analysis)
    scales = None if case is None else analysis.support.scales(case)
    if scales is not None:
        variable = replace(variable, slides=scales)
    plan = find_plan(analysis.build, kit, target, variable, _GOALS, limits, go_on, analysis.assembly)
    # What is curved is set where it lies, see `curved`.
    return polished(plan, analysis, kit) if plan.found and plan.moved and not target.curved else plan


def polished(plan: Plan, analysis: Analysis, kit: Kit) -> Plan:
    """Return a plan with its moved slides set so that the forms that it closes are zero to rounding.

    The search keeps each optimum only to within its margin; those slides that are moved and stand within their travel
    are set exactly.
    """
    after = analyse(plan.build, kit, Operator("nobody", "Nobody"), analysis)
    target = target_of(after)
    if target is None:
        return plan
    values = np.array([form_value(after, target, form) for form in target.forms])
    closed = [f for f, form in enumerate(target.forms) if form.within is None and negligible(values[f], _CLOSED)]
    assembly = after.assembly
    numbers = {after.build.parts[i].id: j for j, i in enumerate(assembly.slide_parts)}
    free = [
        numbers[i]
        for i, setting in plan.moved.items()
        if i in numbers
        and not assembly.slide_mounts[numbers[i]].notched
        and assembly.slide_mounts[numbers[i]].low < setting < assembly.slide_mounts[numbers[i]].high
    ]
    if not closed or not free:
        return plan
    moved = dict(plan.moved)

    def move(there: Analysis, step: dict[int, float]) -> Build:
        build = there.build
        for j, setting in step.items():
            placed = build.parts[assembly.slide_parts[j]]
            build = build.with_placed(replace(placed, setting=setting))
            moved[placed.id] = setting
        return build

    done, exact, _ = closed_by_slides(after, kit, closed, lambda *_: free, move)
    return replace(plan, build=done.build, moved=moved, values=forms_of(done, exact)[0])
