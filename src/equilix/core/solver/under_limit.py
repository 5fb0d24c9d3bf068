"""What comes off a rig that is heavier than a maker allows: the least work first, then it is balanced again."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding, warnings_of
from equilix.core.assembly.build import Kit, Operator
from equilix.core.kit.parts import Category
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.rounding import ROUNDING
from equilix.core.solver.plan import LEAST_EFFORT, USUAL_GOALS, Limits, Plan, Target
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import shed_variable
from equilix.core.units import Kind

#: Parts without which a rig still films and is still held; common practice.
MAY_STAY_OFF = frozenset(
    {Category.WEIGHT, Category.PAD, Category.MATTE_BOX, Category.AUDIO, Category.SENDER, Category.CABLE}
)


def over_limit(analysis: Analysis) -> Finding | None:
    """Return the warning that a rig is heavier than a maker allows, None where none is."""
    support = analysis.support
    for finding in warnings_of(analysis):
        known = support.warning_type(finding.kind)
        if known.leads and known.makers and known.kind is Kind.MASS and not known.least and finding.limit is not None:
            return finding
    return None


def plans_under_limit(
    analysis: Analysis, kit: Kit, operator: Operator, target: Target, go_on: Callable[[], bool]
) -> list[Plan]:
    """Return plans after which a rig is within its maker's limit, surely where that can be: by the least work, and
    with what is left level as far as slides do it. None if it is within now, or what may stay off is not enough.
    """
    over = over_limit(analysis)
    variable = shed_variable(analysis, kit, analysis.support.removable | MAY_STAY_OFF)
    if over is None or over.limit is None or not variable.choices:
        return []
    excess = over.amount - over.limit
    found = []
    for goals in ((LEAST_EFFORT,), USUAL_GOALS):
        for least in (excess + COVERAGE * over.uncertainty, excess):
            limits = Limits(added=-max(least, ROUNDING))
            plan = find_plan(analysis.build, kit, target, variable, goals, limits, go_on, analysis.assembly)
            after = analyse(plan.build, kit, operator, analysis) if plan.found and plan.changes else None
            if after is not None and over_limit(after) is None:
                # What holds it is slid after that, where it slides at all.
                case = after.support.case(after)
                slid = after.support.with_slide(case) if case is not None else None
                found.append(plan if slid is None else replace(plan, build=slid, changes=plan.changes + 1))
                break
    return found
