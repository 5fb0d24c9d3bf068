"""The ways to cure a rig that tips, side by side: slides, moved parts, another battery, dead weight, more steadiness.

Each way is a freedom and an order of goals for the same search. Which categories may do what is common
practice: grips, handle and screen stay where hands and eye want them.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, serious_warnings, stays, worse_warnings
from equilix.core.assembly.build import Kit, Operator
from equilix.core.kit.uncertainty import Certainty
from equilix.core.massprops.bodies import shift_inertia
from equilix.core.operator.strength import BodyJoint
from equilix.core.rounding import ROUNDING
from equilix.core.solver.changes import Change, changes_of, effort
from equilix.core.solver.choices import Option, carried_parts
from equilix.core.solver.dead_weight import MOST_DEAD_WEIGHT
from equilix.core.solver.effort import DEAD_KG
from equilix.core.solver.grips import TurnedGrips, turned_grips
from equilix.core.solver.nonlinear import settled
from equilix.core.solver.plan import (
    ALL_IT_TAKES,
    NO_LIMITS,
    NOTHING,
    USUAL_GOALS,
    Bundle,
    Goal,
    Limits,
    Plan,
    PlanStatus,
    Target,
)
from equilix.core.solver.pruning import pruned
from equilix.core.solver.refine import closest
from equilix.core.solver.relaxations import Relaxation, relaxations
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import (
    MOST_STEADYING,
    balance_slides,
    battery_variable,
    clamps_variable,
    dead_weight_variable,
    fill_variable,
    grips_variable,
    move_variable,
    shed_variable,
    slides_variable,
    steadying_variable,
)
from equilix.core.solver.targets import (
    TOLERANCE,
    beyond_now,
    form_value,
    greatest_now,
    is_level,
    robust_target,
    target_of,
)
from equilix.core.solver.under_limit import over_limit, plans_under_limit
from equilix.core.sources import common_practice

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry


class StrategyKind(StrEnum):
    HOLDER = "slide what holds it"
    GRIPS = "move what it is held by"
    SLIDES = "slides only"
    MOVE = "move what is there"
    BATTERY = "change the battery"
    FILL = "fill what is empty"
    LEAVE_OFF = "leave something off"
    UNDER_LIMIT = "get under a limit"
    CLAMPS = "move clamps and grips too"
    DEAD_WEIGHT = "dead weight"
    STEADY = "as heavy as steadies it"


class Strategy(Struct, frozen=True, eq=False):
    """One way: its `plan`, the `after` analysis of the changed build, and how it compares.

    `remaining` and `remaining_u` N m; `full` whether it is within the tolerance, `left` (kg m) what lies beyond it and
    `cut` which share of that it takes off; `changes` what is done; `out_of_reach` whether a hand no longer reaches its
    place; `steadier` the roll, pitch and yaw inertia about the pad over what it is now; `lasts` (s) how long it is held
    now and then; `relaxations` what else would do if it falls short.
    """

    kind: StrategyKind
    plan: Plan
    after: Analysis
    remaining: float
    remaining_u: float
    full: bool
    steadier: tuple[float, float, float]
    relaxations: tuple[Relaxation, ...]
    tires: Fatigue | None = None
    lasts: tuple[float, float] | None = None
    changes: tuple[Change, ...] = ()
    left: float = 0.0
    cut: float = 1.0
    out_of_reach: bool = False

    @property
    def effort(self) -> float:
        """How long the changes take (s)."""
        return effort(self.changes)


class Fatigue(Struct, frozen=True):
    """The joint that carries most after a way, more than any did before: shares of its strength."""

    joint: BodyJoint
    before: float
    after: float


#: Pitch inertia over what it is now from which a way may be called steadier.
_STEADIER = common_practice(1.05)
#: Share of what another way leaves beyond the tolerances that a way must better to be worth a change.
_BETTER = common_practice(0.05)
#: Share of what is left now below which setting slides finer is worth the work.
_LITTLE = common_practice(0.5)
#: Shares of what lies beyond now that a way may leave, where it falls short: to be worth doing, and for dead weight
#: to be worth hanging on.
_WORTH_DOING, _WORTH_ITS_WEIGHT = common_practice((0.9, 0.5))
#: Share of what is wrong that the last way of all must take off.
_SOME = common_practice(0.02)
#: Share of what grips that slide leave below which turning them is worth it, where both fall short.
_MUCH_LESS = common_practice(0.7)
#: So many turns are tried with slides of the grips alone.
_TURNS = 2
#: Rise of the greatest share of strength from which a way says so.
_MORE = common_practice(0.01)


def _carried(analysis: Analysis, operator: Operator) -> Carry | None:
    from equilix.core.carry.carried import Carry, carry

    found = carry(analysis, operator, analysis.build.support)
    return found if isinstance(found, Carry) else None


def _tires(now: Carry | None, then: Carry | None) -> Fatigue | None:
    """Return the joint that would give out first, if it carries noticeably more than the worst one does `now`."""
    if now is None or then is None or then.worst.share <= now.worst.share + _MORE:
        return None
    return Fatigue(then.worst.joint, now.worst.share, then.worst.share)


# The ways


def find_strategies(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    tolerance: float = TOLERANCE,
    go_on: Callable[[], bool] = lambda: True,
    tell: Callable[[tuple[Strategy, ...]], None] = lambda _found: None,
) -> tuple[Strategy, ...]:
    """Return the ways that change something, each with its proof; ways that come to the same plan stand once.

    Fewer than all if `go_on` said to stop. `tell` gets those found so far each time that there is one more, or a
    first one whose proof is still to come.
    """
    target = target_of(analysis, tolerance)
    if target is None or analysis.body is None:
        return ()
    found: list[Strategy] = []
    seen: set[tuple[object, ...]] = set()
    level, before = is_level(analysis, target), beyond_now(analysis, target)
    now = _carried(analysis, operator)
    turned: tuple[TurnedGrips, ...] | None = None
    # Nobody adds mass to what is over a maker's limit to steady it.
    steadies = analysis.support.gains_from_mass and over_limit(analysis) is None
    # What holds it goes first: no part of the rig is touched. Where it ends too soon, the rest is sought from there.
    slid = _slid(analysis, kit, operator, target, tolerance, now)
    if slid is not None and slid.full:
        slid = _seen_again(slid, analysis, kit, operator, target, tolerance, go_on, now)
    if slid is not None and (slid.full or not _no_better(slid.plan, (), target, _most(StrategyKind.HOLDER, before))):
        found.append(slid)
        tell((slid,))
    lighter = _under_limit(analysis, kit, operator, target, tolerance, go_on, now)
    if lighter is not None:
        found.append(lighter)
        seen.add(_key(lighter.plan))
        tell(tuple(found))
    for kind in StrategyKind:
        if not go_on():
            break
        if kind is StrategyKind.UNDER_LIMIT:
            continue  # sought first of all
        if kind is StrategyKind.GRIPS and not analysis.support.in_hands:
            continue
        # Where hands and eye want them they stay, unless nothing else does it.
        if kind is StrategyKind.CLAMPS and (target.closely or any(way.full for way in found)):
            continue
        if kind is not StrategyKind.STEADY and target.closely and _does_it(found, analysis):
            continue
        if kind is StrategyKind.HOLDER or (slid is not None and slid.full and kind in _NEEDLESS):
            continue
        # Where slides are set closely, they may still be where all is within the window.
        finer = target.closely and kind is StrategyKind.SLIDES
        if (level and kind is not StrategyKind.STEADY and not finer) or (kind is StrategyKind.STEADY and not steadies):
            continue

        def early(plan: Plan, kind: StrategyKind = kind, so_far: tuple[Strategy, ...] = tuple(found)) -> None:
            if plan.found and plan.changes and _key(plan) not in seen:
                tell((*so_far, _strategy(kind, plan, analysis, kit, operator, target)))

        plan = _plan(kind, analysis, kit, target, go_on, early, _worth(kind, found, target, before))
        if slid is not None and not slid.full and kind is not StrategyKind.STEADY:
            plan = _with_holder(kind, plan, slid, kit, target, tolerance, go_on)
        if kind is StrategyKind.DEAD_WEIGHT and not target.closely:
            plan = _after_slides(plan, found, kit, target, tolerance, go_on)
        if plan is not None and analysis.support.in_hands and kind in _BESIDE_GRIPS and not plan.meets(target):
            if turned is None:
                turned = turned_grips(analysis, kit, operator, tolerance, go_on)
            plan = _with_grips(kind, plan, turned, kit, target, tolerance, go_on)
        if plan is None or not plan.found or plan.changes == 0:
            continue
        # Slides that are set closely are the order of work: they leave nothing, and each has its mark.
        if kind is not StrategyKind.STEADY and not (target.closely and kind is StrategyKind.SLIDES):
            plan = _only_what_helps(plan, analysis, kit, operator, tolerance)
        key = _key(plan)
        if key in seen:
            continue
        seen.add(key)
        strategy = _strategy(kind, plan, analysis, kit, operator, target, now)
        if kind is StrategyKind.STEADY and strategy.steadier[1] < _STEADIER:
            continue
        if strategy.tires is not None and strategy.tires.after > 1.0:
            continue  # nobody could hold it then
        if finer and level and plan.remaining(target) > _LITTLE * greatest_now(analysis, target):
            continue
        if kind is StrategyKind.MOVE and target.closely and _only_slides(plan) and _as_few(strategy, found):
            continue
        if (
            kind is not StrategyKind.STEADY
            and not strategy.full
            and _no_better(plan, found, target, _most(kind, before))
        ):
            continue
        if strategy.full and kind is not StrategyKind.STEADY:
            strategy = _surer(strategy, analysis, kit, operator, target, go_on, now)
        strategy = _seen_again(strategy, analysis, kit, operator, target, tolerance, go_on, now)
        found.append(strategy)
        tell(tuple(found))
    if go_on() and not level and all(way.kind is StrategyKind.STEADY for way in found):
        last = _last_resort(analysis, kit, operator, target, go_on, now)
        found = [*last, *found]
    return tuple(found)


#: Ways that are looked at again where none is worth it, cheapest first.
_AT_LAST = (StrategyKind.SLIDES, StrategyKind.MOVE, StrategyKind.BATTERY, StrategyKind.LEAVE_OFF)


def _last_resort(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    target: Target,
    go_on: Callable[[], bool],
    now: Carry | None,
) -> list[Strategy]:
    """Return the best of what is not worth it, where nothing else is left; else as much dead weight as helps."""
    best: Strategy | None = None
    for kind in _AT_LAST:
        plan = _plan(kind, analysis, kit, target, go_on)
        if plan is not None and plan.found and plan.changes:
            way = _strategy(kind, plan, analysis, kit, operator, target, now)
            best = way if best is None or way.cut > best.cut else best
    if best is None or best.cut < _SOME:
        plan = _weighted(analysis, kit, target, go_on, NO_LIMITS, ALL_IT_TAKES)
        if plan is not None and plan.found and plan.changes:
            best = _strategy(StrategyKind.DEAD_WEIGHT, plan, analysis, kit, operator, target, now)
    holds = best is not None and (best.tires is None or best.tires.after <= 1.0)
    return [best] if best is not None and best.cut >= _SOME and holds else []


#: Ways that are sought again with the grips turned, where they fall short.
_BESIDE_GRIPS = frozenset({StrategyKind.GRIPS, StrategyKind.SLIDES, StrategyKind.MOVE, StrategyKind.BATTERY})


def _does_it(found: Sequence[Strategy], analysis: Analysis) -> bool:
    """Whether the order of work of a gimbal or a sled does all of it: then it is the way."""
    return any(
        way.kind is StrategyKind.SLIDES and way.full and not serious_warnings(analysis, way.after) for way in found
    )


#: Ways that nobody takes where it is enough to slide what holds the rig; common practice.
_NEEDLESS = frozenset({StrategyKind.LEAVE_OFF, StrategyKind.DEAD_WEIGHT})


def _slid(
    analysis: Analysis, kit: Kit, operator: Operator, target: Target, tolerance: float, now: Carry | None
) -> Strategy | None:
    """Return the way that slides what holds the rig, None where nothing does: one change, in closed form."""
    case = analysis.support.case(analysis)
    build = None if case is None else analysis.support.with_slide(case)
    if build is None:
        return None
    after = analyse(build, kit, operator, analysis)
    then = target_of(after, tolerance)
    if then is None:
        return None
    plan = replace(_as_it_stands(after, then), changes=1)
    return _strategy(StrategyKind.HOLDER, plan, analysis, kit, operator, target, now)


def _under_limit(
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    target: Target,
    tolerance: float,
    go_on: Callable[[], bool],
    now: Carry | None,
) -> Strategy | None:
    """Return the way that takes off what is too much for a maker's limit, None where none is needed or known."""
    found = []
    for plan in plans_under_limit(analysis, kit, operator, target, go_on):
        after = analyse(plan.build, kit, operator, analysis)
        then = target_of(after, tolerance)
        if then is not None:
            values = _as_it_stands(after, then)
            same = replace(values, changes=plan.changes, added_mass=plan.added_mass, status=plan.status)
            found.append(_strategy(StrategyKind.UNDER_LIMIT, same, analysis, kit, operator, target, now))
    return min(found, key=lambda way: (not way.full, way.effort), default=None)


def _as_it_stands(analysis: Analysis, target: Target) -> Plan:
    """Return the plan that changes nothing more."""
    values = np.array([form_value(analysis, target, form) for form in target.forms])
    return Plan(PlanStatus.PROVEN, analysis.build, {}, values, (), {}, 0.0, 0.0, 0, 0.0, ())


def _seen_again(
    strategy: Strategy,
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    target: Target,
    tolerance: float,
    go_on: Callable[[], bool],
    now: Carry | None,
) -> Strategy:
    """Return a way that takes the screen out of sight sought again with the screen put where it is seen after it."""
    from equilix.core.solver.in_sight import screen_elsewhere

    placed = screen_elsewhere(analysis, strategy.after, {**kit, **strategy.plan.kit}, operator)
    if placed is None:
        return strategy
    there = analyse(analysis.build.with_placed(placed), kit, operator, analysis)
    then = target_of(there, tolerance)
    if then is None:
        return strategy
    if strategy.kind is StrategyKind.HOLDER:
        slid = _slid(there, kit, operator, then, tolerance, None)
        plan = None if slid is None else slid.plan
    else:
        plan = _plan(strategy.kind, there, kit, then, go_on)
    if plan is None or not plan.found or (strategy.full and not plan.meets(then)):
        return strategy
    was = analysis.build.placed(placed.id)
    if (was.parent, was.mount) == (placed.parent, placed.mount):
        plan = replace(plan, moved={**plan.moved, placed.id: placed.setting}, changes=plan.changes + 1)
    else:
        option = Option(placed, carried_parts(there.build, placed.id))
        plan = replace(plan, taken=(*plan.taken, option), changes=plan.changes + 1)
    again = _strategy(strategy.kind, plan, analysis, kit, operator, target, now)
    worse = len(worse_warnings(strategy.after, again.after)) > 0
    return strategy if worse else again


def _with_holder(
    kind: StrategyKind,
    plan: Plan | None,
    slid: Strategy,
    kit: Kit,
    target: Target,
    tolerance: float,
    go_on: Callable[[], bool],
) -> Plan | None:
    """Return a plan that falls short sought again with what holds the rig at its stop, if that closes what is left."""
    if plan is None or plan.meets(target):
        return plan
    then = target_of(slid.after, tolerance)
    both = None if then is None else _plan(kind, slid.after, kit, then, go_on, limits=Limits(beyond=NOTHING))
    if both is None or not both.meets(target):
        return plan
    return replace(both, changes=both.changes + 1, status=PlanStatus.GOOD)


def _with_grips(
    kind: StrategyKind,
    plan: Plan,
    turned: Sequence[TurnedGrips],
    kit: Kit,
    target: Target,
    tolerance: float,
    go_on: Callable[[], bool],
) -> Plan:
    """Return a plan that falls short sought again with the grips turned, where that closes what is left.

    With the grips alone also where it leaves much less.
    """
    best = plan
    for one in turned[:_TURNS] if kind is StrategyKind.GRIPS else turned:
        there, then = one.after, target_of(one.after, tolerance)
        if then is None:
            continue
        limits = Limits(apart=one.apart, beyond=None if kind is StrategyKind.GRIPS else NOTHING)
        again = _plan(kind, there, kit, then, go_on, limits=limits)
        if again is None or not again.found:
            continue
        # Other angles leave other ways.
        again = replace(again, changes=again.changes + one.count, status=PlanStatus.GOOD)
        if again.meets(then):
            return again
        if kind is StrategyKind.GRIPS and again.beyond(then) < _MUCH_LESS * best.beyond(target):
            best = again
    return best


def _after_slides(
    plan: Plan | None,
    found: Sequence[Strategy],
    kit: Kit,
    target: Target,
    tolerance: float,
    go_on: Callable[[], bool],
) -> Plan | None:
    """Return the plan by dead weight sought from where a way ends that falls short, if it costs less so.

    Half a kilogram less is worth many slides.
    """
    short = [
        way for way in found if not way.full and way.plan.added_mass <= 0.0 and way.kind is not StrategyKind.STEADY
    ]
    best = min(short, key=lambda way: way.left, default=None)
    then = target_of(best.after, tolerance) if best is not None else None
    if best is None or then is None:
        return plan
    there = best.after
    weights = dead_weight_variable(there, kit, slides=False)
    if not weights.choices:
        return plan
    limits = Limits(added=MOST_DEAD_WEIGHT, beyond=NOTHING)
    both = find_plan(there.build, kit, then, weights, USUAL_GOALS, limits, go_on, there.assembly)
    if not both.meets(then):
        return plan
    saved = plan.dead_mass - both.dead_mass if plan is not None and plan.meets(target) else math.inf
    if saved * DEAD_KG <= best.effort:
        return plan
    added = both.added_mass + best.plan.added_mass
    return replace(both, changes=both.changes + best.plan.changes, added_mass=added, status=PlanStatus.GOOD)


def _only_what_helps(plan: Plan, analysis: Analysis, kit: Kit, operator: Operator, tolerance: float) -> Plan:
    """Return a plan without changes that could stay undone."""
    if plan.changes < 2:
        return plan
    after = analyse(plan.build, {**kit, **plan.kit}, operator, analysis, plan.assembly)
    return pruned(plan, analysis, after, kit, operator, tolerance)


def _only_slides(plan: Plan) -> bool:
    """Whether a plan hangs nothing elsewhere: only slides are set."""
    return all(option.current for option in plan.taken)


def _as_few(strategy: Strategy, found: Sequence[Strategy]) -> bool:
    """Whether a way that is there already is as full and sets as few: one that is only near enough adds nothing."""
    return any(way.full >= strategy.full and way.plan.changes <= strategy.plan.changes for way in found)


def _no_better(plan: Plan, found: Sequence[Strategy], target: Target, most: float) -> bool:
    """Whether a plan that falls short is not worth a change.

    It leaves more than `most` (kg m) beyond the tolerances, or no less than one that is there already.
    """
    left = plan.beyond(target)
    return left > most or any(way.plan.beyond(target) <= (1.0 + _BETTER) * left for way in found)


def _most(kind: StrategyKind, before: float) -> float:
    """Return what a way of a kind that falls short may leave, of what lies beyond the tolerances `before` it (kg m)."""
    return (_WORTH_ITS_WEIGHT if kind is StrategyKind.DEAD_WEIGHT else _WORTH_DOING) * before


def _worth(kind: StrategyKind, found: Sequence[Strategy], target: Target, before: float) -> Limits:
    """Return within what a plan of a kind is worth a change: a search need not finish what `_no_better` drops."""
    if kind is StrategyKind.STEADY or (kind is StrategyKind.SLIDES and target.closely):
        return NO_LIMITS
    least = min(_most(kind, before), *(way.plan.beyond(target) / (1.0 + _BETTER) for way in found), math.inf)
    # What is only nearly linear may come out otherwise once it is settled.
    bent = target.tolerance if target.curved else 0.0
    return Limits(beyond=max(least, NOTHING) + bent)


def _surer(
    strategy: Strategy,
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    target: Target,
    go_on: Callable[[], bool],
    now: Carry | None,
) -> Strategy:
    """Return a way of the same kind that holds even if the guesses are off, if this one doesn't and there is one."""
    if stays(strategy.after) in (None, Certainty.CLEAR):
        return strategy
    plan = _plan(strategy.kind, analysis, kit, robust_target(analysis, target), go_on)
    if plan is None or not plan.found or plan.changes == 0:
        return strategy
    surer = _strategy(strategy.kind, plan, analysis, kit, operator, target, now)
    return surer if surer.full and stays(surer.after) is Certainty.CLEAR else strategy


def _plan(
    kind: StrategyKind,
    analysis: Analysis,
    kit: Kit,
    target: Target,
    go_on: Callable[[], bool],
    tell: Callable[[Plan], None] | None = None,
    limits: Limits = NO_LIMITS,
) -> Plan | None:
    if not target.curved:
        return _found(kind, analysis, kit, target, go_on, tell, limits)
    first = _found(kind, analysis, kit, target, go_on, None, limits)
    if first is None:
        return None
    asked = iter((first,))

    def search(wanted: Target) -> Plan:
        found = next(asked, None)
        if found is not None:
            return found
        # What met near here before would meet again: it is kept apart at once.
        near = Limits(apart=first.apart)
        return _found(kind, analysis, kit, wanted, go_on, None, near) or first

    slides = balance_slides(analysis)
    return settled(search, analysis, kit, target, slides) if first.found else first


def _found(
    kind: StrategyKind,
    analysis: Analysis,
    kit: Kit,
    target: Target,
    go_on: Callable[[], bool],
    tell: Callable[[Plan], None] | None = None,
    limits: Limits = NO_LIMITS,
) -> Plan | None:
    build, whole = analysis.build, analysis.assembly
    match kind:
        case StrategyKind.GRIPS:
            variable = grips_variable(analysis)
            if not variable.slides:
                # What has to come apart does not by itself.
                return None if limits.apart else _as_it_stands(analysis, target)
            return find_plan(build, kit, target, variable, limits=limits, go_on=go_on, assembly=whole, tell=tell)
        case StrategyKind.CLAMPS:
            variable = clamps_variable(analysis)
            return find_plan(build, kit, target, variable, limits=limits, go_on=go_on, assembly=whole, tell=tell)
        case StrategyKind.FILL:
            variable = fill_variable(analysis, kit)
            if not variable.choices:
                return None
            return find_plan(build, kit, target, variable, limits=limits, go_on=go_on, tell=tell)
        case StrategyKind.SLIDES if target.closely:
            return closest(analysis, kit, target, go_on, limits)
        case StrategyKind.SLIDES:
            variable = slides_variable(analysis)
            return find_plan(build, kit, target, variable, limits=limits, go_on=go_on, assembly=whole, tell=tell)
        case StrategyKind.MOVE:
            variable = move_variable(analysis, kit)
            return find_plan(build, kit, target, variable, limits=limits, go_on=go_on, assembly=whole, tell=tell)
        case StrategyKind.BATTERY:
            variable = battery_variable(analysis, kit)
            if not variable.choices:
                return None
            # Another battery is the point of this way: slides alone are another one.
            others = tuple(
                replace(choice, options=tuple(o for o in choice.options if not o.current))
                for choice in variable.choices
            )
            present = [option.placed.id for choice in variable.choices for option in choice.options if option.current]
            bare = replace(build, parts=tuple(p for p in build.parts if p.id not in present))
            plan = find_plan(bare, kit, target, replace(variable, choices=others), limits=limits, go_on=go_on)
            # Counted against the build as it stands, not against one without its batteries.
            had = sum(kit[placed.part_id].mass or 0.0 for placed in build.parts if placed.id in present)
            return replace(plan, added_mass=plan.added_mass - had)
        case StrategyKind.LEAVE_OFF:
            variable = shed_variable(analysis, kit, analysis.support.removable)
            if not variable.choices:
                return None
            return find_plan(build, kit, target, variable, limits=limits, go_on=go_on, tell=tell)
        case StrategyKind.DEAD_WEIGHT:
            return _weighted(analysis, kit, target, go_on, limits)
        case _:
            goals = (Goal.BEYOND, Goal.STEADINESS)
            exact = replace(target, tolerance=0.0)
            most = Limits(added=MOST_STEADYING)
            return find_plan(build, kit, exact, steadying_variable(analysis, kit), goals, most, go_on, whole)


def _weighted(
    analysis: Analysis,
    kit: Kit,
    target: Target,
    go_on: Callable[[], bool],
    limits: Limits,
    goals: Sequence[Bundle] = USUAL_GOALS,
) -> Plan | None:
    """Return the plan by dead weight, with slides where it is not enough alone; None where none can go on."""
    build, limits = analysis.build, replace(limits, added=MOST_DEAD_WEIGHT)
    weights, with_slides = (dead_weight_variable(analysis, kit, slides) for slides in (False, True))
    if not weights.choices:
        return None

    def alone(within: Limits) -> Plan:
        return find_plan(build, kit, target, weights, goals, within, go_on, analysis.assembly)

    # Without a weight of the kit that fits, slides are a way of their own.
    if not with_slides.choices:
        return alone(limits)
    enough = alone(replace(limits, beyond=NOTHING))
    if enough.found:
        return enough
    both = find_plan(build, kit, target, with_slides, goals, limits, go_on, analysis.assembly)
    if both.meets(target):
        return both
    # With slides a weight may go to fewer places.
    short = alone(limits)
    better = not short.found or (both.found and both.beyond(target) < short.beyond(target) - ROUNDING)
    return both if better else short


def _key(plan: Plan) -> tuple[object, ...]:
    parts = tuple(
        (p.part_id if p.part_id not in plan.kit else "dead", p.parent, p.mount, round(p.setting, 4))
        for p in sorted(plan.build.parts, key=lambda p: p.id)
    )
    # Two ways may differ only in how far what holds the rig is slid.
    return (*parts, plan.build.supports)


def _strategy(
    kind: StrategyKind,
    plan: Plan,
    analysis: Analysis,
    kit: Kit,
    operator: Operator,
    target: Target,
    now: Carry | None = None,
) -> Strategy:
    after = analyse(plan.build, {**kit, **plan.kit}, operator, analysis, plan.assembly)
    equilibrium = after.equilibrium
    assert equilibrium is not None
    full, left, before = plan.meets(target), plan.beyond(target), beyond_now(analysis, target)
    then = _carried(after, operator) if now is not None else None
    return Strategy(
        kind,
        plan,
        after,
        equilibrium.tip_moment,
        equilibrium.tip_uncertainty,
        full,
        _steadier(after, analysis),
        () if full else relaxations(after, plan.remaining(target) - target.tolerance, target_of(after)),
        _tires(now, then),
        (now.to_the_end, then.to_the_end) if now is not None and then is not None else None,
        changes_of(analysis, plan.build, {**kit, **plan.kit}),
        left,
        1.0 - left / before if before > NOTHING else 1.0,
        now is not None and then is not None and bool(then.out_of_reach) and not now.out_of_reach,
    )


def _steadier(after: Analysis, before: Analysis) -> tuple[float, float, float]:
    """Return the roll, pitch and yaw inertia about the pad after over before."""
    sizes = []
    for one in (after, before):
        assert one.body is not None
        assert one.equilibrium is not None
        sizes.append(np.diag(shift_inertia(one.body, one.equilibrium.point)))
    roll, pitch, yaw = (float(v) for v in sizes[0] / sizes[1])
    return roll, pitch, yaw
