"""In which order ways stand: what does all of it without a serious worsening first, by what it costs.

Groups and thresholds are common practice. Serious is what makes a rig unusable or a danger: it can't be held, it falls,
a screen out of sight, parts that meet, a maker's limit, much dead weight. Lesser worsenings break ties alone.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from equilix.core.analysis import Analysis, Finding, worse_warnings
from equilix.core.assembly.wish import Wish
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.solver.effort import ADDED_KG, DEAD_KG
from equilix.core.solver.strategies import Strategy, StrategyKind
from equilix.core.solver.under_limit import over_limit
from equilix.core.sources import common_practice

#: kg of dead weight, and its share of the rig, from which it is serious.
_MUCH_DEAD, _MUCH_OF_RIG = common_practice((2.0, 0.25))
#: Share of what is wrong that a way which falls short must take off to help.
_HELPS = common_practice(0.3)
#: s: ways whose costs differ by less are as good as each other; what dead weight that has to be found costs more.
_COST_STEP, _TO_FIND = common_practice((15.0, 60.0))
#: N that the larger hand must hold more, and m that the CG must lie farther outside, to be worse.
_FELT, _SEEN = common_practice((0.5, 0.0005))
#: N m: what is left is told apart to this.
_LEFT = common_practice(0.01)


class Worsening(Struct, frozen=True, eq=False):
    """Something that a way makes worse: its name, whether it is serious, and the warning that says so, if one does."""

    kind: str
    serious: bool
    finding: Finding | None = None


#: Names of worsenings that no warning is of.
JOINT, HAND, OUTSIDE, DEAD_WEIGHT, REACH = "joint", "larger hand", "outside", "dead weight", "out of reach"


def worsenings(before: Analysis, way: Strategy) -> tuple[Worsening, ...]:
    """Return what a way makes worse, serious things first."""
    after, found = way.after, []
    for finding in worse_warnings(before, after):
        found.append(Worsening(str(finding.kind), after.support.warning_type(finding.kind).serious, finding))
    mass = before.body.mass if before.body is not None else 0.0
    if way.kind is not StrategyKind.STEADY and way.plan.dead_mass > min(_MUCH_DEAD, _MUCH_OF_RIG * mass):
        found.append(Worsening(DEAD_WEIGHT, True))
    if way.out_of_reach:
        found.append(Worsening(REACH, True))
    if way.tires is not None:
        found.append(Worsening(JOINT, False))
    hands = [largest_hand(one) for one in (before, after)]
    if hands[0] is not None and hands[1] is not None and hands[1] > hands[0] + _FELT:
        found.append(Worsening(HAND, False))
    if outside(after) > outside(before) + _SEEN:
        found.append(Worsening(OUTSIDE, False))
    return tuple(sorted(found, key=lambda one: not one.serious))


def largest_hand(analysis: Analysis) -> float | None:
    """Return what the larger of both hands holds (N), None where none does."""
    holding = analysis.equilibrium.holding if analysis.equilibrium is not None else None
    return holding.larger if holding is not None else None


def outside(analysis: Analysis) -> float:
    """Return how far (m) the CG lies outside the room that it has, 0 inside."""
    return analysis.equilibrium.outside if analysis.equilibrium is not None else 0.0


def group(way: Strategy, worse: Sequence[Worsening]) -> float:
    """Return the group in which a way stands, the best one 0."""
    serious = any(one.serious for one in worse)
    if way.kind is StrategyKind.STEADY:
        return 4.0
    if way.full:
        return 2.0 if serious else 0.0
    if serious:
        return 3.0
    return 1.0 if way.cut >= _HELPS else 2.5


def cost(way: Strategy) -> float:
    """Return what a way costs (s): its work, and each kg that it adds."""
    plan = way.plan
    to_find = _TO_FIND if any(option.part is not None for option in plan.taken) else 0.0
    return way.effort + DEAD_KG * plan.dead_mass + ADDED_KG * max(plan.added_mass - plan.dead_mass, 0.0) + to_find


def ordered(ways: Sequence[Strategy], before: Analysis) -> tuple[Strategy, ...]:
    """Return the ways in the order in which they are shown: by the build's wish, then by what they cost.

    What gets it under a maker's limit comes first: nobody may use it before.
    """
    too_much = over_limit(before) is not None

    def key(way: Strategy) -> tuple[float, ...]:
        worse = worsenings(before, way)
        place = group(way, worse)
        if too_much and over_limit(way.after) is None:
            place -= 10.0
        left = 0.0 if way.full else round(way.left * STANDARD_GRAVITY / _LEFT)
        wished = {
            Wish.NONE: 0.0,
            Wish.NO_MASS: float(way.plan.added_mass > 0.0),
            # Not for a tenth more: nobody feels that.
            Wish.STEADY: -round(way.steadier[1], 1),
            Wish.LIGHTER: round(way.plan.added_mass, 1),
        }[before.build.wish]
        if way.full:
            return (place, wished, round(cost(way) / _COST_STEP), len(worse), cost(way))
        return (place, wished, left, round(cost(way) / _COST_STEP), len(worse))

    return tuple(sorted(ways, key=key))
