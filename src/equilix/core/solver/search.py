"""The best plan there is, proven: a mixed-integer linear programme over slides and choices.

Every support asks for the same thing: some components of the first moment about a point vanish, others
stay inside a range (`Target`). First moments are linear in the slides; what an optional part adds is
linear in its presence b, its own travel t and the products b q with the slides q that carry it. With
``w = b q`` the products are exact: ``l b <= w <= u b`` and ``q - u (1 - b) <= w <= q - l (1 - b)`` for q
in [l, u]: McCormick, Mathematical Programming 10 (1976), exact since b is 0 or 1.

Goals are met one after the other, each optimum kept while the next is sought (lexicographic
programming: Isermann, OR Spektrum 4 (1982)). Solved by HiGHS through SciPy, gap 0.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Sequence

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.clash import SLACK, find_clashes
from equilix.core.assembly.resolve import Assembly, prepare
from equilix.core.rounding import ROUNDING, SLIGHT, at_an_end, negligible
from equilix.core.solver.choices import (
    Option,
    Variable,
    in_old_order,
    with_options,
)
from equilix.core.solver.dead_weight import weight_block
from equilix.core.solver.goals import WithGoals
from equilix.core.solver.plan import (
    LEAST_EFFORT,
    MARGIN,
    NO_LIMITS,
    NOTHING,
    PRICE_SHARE,
    PRICE_STEPS,
    PROVEN_GAP,
    ROUNDS,
    SMALL_MOMENT,
    STAYS,
    SURELY_APART,
    TIME_LIMIT,
    UNIT,
    USUAL_GOALS,
    WAY_PER_MOMENT,
    Bundle,
    Goal,
    Limits,
    Plan,
    PlanStatus,
    Target,
)
from equilix.core.solver.programme import Item, separating
from equilix.core.solver.silenced_stdout import silenced_stdout

#: What all the moment and all the ways may count together, in steps of work: less than one.
_ALL_MOMENT, _ALL_WAYS = 0.5, 0.2
#: Programme units by which goals that are met may be missed where their margins are too tight for the last digit.
_HAIR = 10.0 * MARGIN
#: Parts from which a plan is first sought roughly, and the relative gap at which it is good enough to go on from.
_BIG, _ROUGH_GAP = 30, 0.5


def find_plan(
    build: Build,
    kit: Kit,
    target: Target,
    variable: Variable,
    goals: Sequence[Bundle] = USUAL_GOALS,
    limits: Limits = NO_LIMITS,
    go_on: Callable[[], bool] = lambda: True,
    assembly: Assembly | None = None,
    tell: Callable[[Plan], None] | None = None,
    known: Collection[tuple[str, str]] | None = None,
) -> Plan:
    """Return the best plan within `variable`; its status says if it is proven, stopped or impossible.

    On big builds a good plan is found first, without its proof, and given to `tell`.

    Parts that would newly meet are kept apart: the best plan without that condition is looked at, each
    pair that meets in it is added, and so on; the last one is the best of all that keep them apart.
    `known` are the pairs of placed parts that may meet, by default those that do on `build`. `assembly` is that of
    `build`, if it is at hand.
    """
    assembly = assembly or prepare(build, kit)
    programme = _Search(build, kit, target, variable, limits, assembly)
    known = clashing(assembly, build) if known is None else known
    for pair in limits.apart:
        programme.keep_clear(pair)
    # Each round of keeping apart would pay for a whole proof: on big builds only the last ones do.
    gap = _ROUGH_GAP if len(build.parts) > _BIG else 0.0
    apart = list(limits.apart)
    plan = programme.solve(goals, go_on, gap)
    for _ in range(2 * ROUNDS):
        if not plan.found:
            return plan
        whole = {**kit, **plan.kit}
        after = assembly if assembly.matches(plan.build, whole) else prepare(plan.build, whole)
        new = [pair for pair in clashing(after, plan.build) if pair not in known]
        fresh = [pair for pair in new if programme.keep_clear(pair)]
        apart += fresh
        if not fresh and (gap == 0.0 or plan.status is PlanStatus.PROVEN):
            return replace(plan, assembly=after, apart=tuple(apart))
        if not fresh:
            if tell is not None:
                tell(replace(plan, status=PlanStatus.GOOD))
            gap = 0.0
        plan = programme.solve(goals, go_on, gap)
    # Kept apart as often as there are rounds, and never looked at since: it may do, but nobody has proven it.
    return replace(plan, status=PlanStatus.GOOD, gap=math.inf) if plan.found else plan


def clashing(assembly: Assembly, build: Build) -> list[tuple[str, str]]:
    """Return the pairs that meet on `build`; the assembly may have been prepared at other slide settings."""
    clashes = find_clashes(assembly, assembly.at(assembly.settings(build)))
    return [(build.parts[c.first].id, build.parts[c.second].id) for c in clashes]


class _Search(WithGoals):
    """The programme solved goal by goal, and its answer as a plan."""

    def solve(self, goals: Sequence[Bundle], go_on: Callable[[], bool], rough: float = 0.0) -> Plan:
        """Meet the goals in order, each to within the relative gap `rough`; one that nothing can change is passed over.

        That nothing is beyond the tolerance is first taken for granted, and sought only if it can't be had.
        """
        for goal in goals:
            self._bundle(goal)  # its helper columns and rows stay
        kept = len(self.rows.low)
        first = len(goals) > 1 and goals[0] is Goal.BEYOND
        priced = self._priced(goals)
        most = self.limits.beyond
        tries: tuple[bool, ...] = (True, False) if first and self._within_reach() else (False,)
        if first and most is not None and most <= NOTHING:
            # Where nothing may be left, there is nothing to seek once that can't be had.
            tries = tries[:-1]
        status = PlanStatus.IMPOSSIBLE
        works = any(goal is Goal.EFFORT or (not isinstance(goal, Goal) and Goal.EFFORT in dict(goal)) for goal in goals)
        for z in self.passing.values():
            # Where no work is counted the order on the rods stays.
            self.upper[z] = float(works)
        for hope in tries:
            if hope:
                self.rows.add(self._bundle(Goal.BEYOND), -math.inf, MARGIN)
            status, x, gap = self._in_order(goals[1:] if hope else priced, go_on, rough)
            # Bounds on met goals hold for this answer only; helper rows stay, since their columns do.
            self._drop_rows(kept)
            if status is PlanStatus.STOPPED:
                return self._nothing(status)
            if x is not None:
                return self._plan(x, gap)
        if not tries or any(self._bundle(goal) for goal in goals):
            return self._nothing(status)
        return self._plan(self._as_is(), 0.0)

    def _priced(self, goals: Sequence[Bundle]) -> Sequence[Bundle]:
        """Return goals of which the first can't be met: then all that is done is worth its work.

        What lies beyond has a price in work, and both are sought in one go: nothing is done that takes off less than it
        costs.
        """
        if goals != USUAL_GOALS:
            return goals
        least = max(self.target.tolerance / UNIT, PRICE_SHARE * self._now_beyond(), ROUNDING)
        return (((Goal.BEYOND, PRICE_STEPS / least), *LEAST_EFFORT),)

    def _now_beyond(self) -> float:
        """Return what lies beyond all tolerances on the build as it is (programme units), each form by its weight."""
        now = self._now()
        return sum(
            form.weight
            * max(
                abs(constant + sum(v * now.get(c, 0.0) for c, v in terms)) - self.target.allowed(form) / UNIT,
                0.0,
            )
            for form, (constant, terms) in zip(self.target.forms, self.forms, strict=True)
            if form.within is None
        )

    def _within_reach(self) -> bool:
        """Whether each free form by itself can come within its tolerance, whatever the others do."""
        for form, (constant, terms) in zip(self.target.forms, self.forms, strict=True):
            if form.within is not None:
                continue
            low, high = (constant + end for end in self._ends(terms))
            slack = self.target.allowed(form) / UNIT + MARGIN
            if max(low, -high) > slack:
                return False
        return True

    def _bundle(self, goal: Bundle) -> list[tuple[int, float]]:
        """Return a goal's terms; of several at once each with its weight.

        The moment and the ways together stay below one step of work: the moment is at most all tolerances and what is
        beyond them now, a way at most all travel.
        """
        if isinstance(goal, Goal):
            return self._terms(goal)
        weights = dict(goal)
        if Goal.EFFORT in weights:
            most = self._now_beyond() + sum(
                form.weight * self.target.allowed(form) / UNIT for form in self.target.forms if form.within is None
            )
            ways = sum(self.upper[column] - self.lower[column] for column in self._way_columns())
            moment = weights[Goal.MOMENT]
            if moment == SMALL_MOMENT:
                moment = weights[Goal.MOMENT] = min(moment, _ALL_MOMENT / max(most, ROUNDING))
            weights[Goal.TRAVEL] = min(weights[Goal.TRAVEL], _ALL_WAYS / max(ways, ROUNDING), WAY_PER_MOMENT * moment)
        return [(column, weight * value) for one, weight in weights.items() for column, value in self._terms(one)]

    def _way_columns(self) -> list[int]:
        """Return the columns whose ways count, each once."""
        slides = [column for j, column in self.slide_column.items() if j not in self.following]
        return slides + [own for own in self.travel if own is not None]

    def _in_order(
        self, goals: Sequence[Bundle], go_on: Callable[[], bool], rough: float
    ) -> tuple[PlanStatus, np.ndarray | None, float]:
        """Return the answer to all goals in order and the largest gap, no answer if the first can't be met.

        The gap is endless if a later goal ran out of time with nothing to show.
        """
        x: np.ndarray | None = None
        gap = 0.0
        met: list[int] = []
        for goal in goals:
            terms = self._bundle(goal)
            if not terms or (x is not None and self._at_least(terms, x)):
                continue
            if not go_on():
                return PlanStatus.STOPPED, None, 0.0
            status, answer, left = self._milp(terms, rough)
            if answer is None and status is PlanStatus.IMPOSSIBLE and x is not None:
                # The answer before meets its goals to rounding, a hair better than can be had to the last digit.
                for row in met:
                    self.rows.high[row] += _HAIR
                status, answer, left = self._milp(terms, rough)
            if answer is None:
                if x is None:
                    return status, None, 0.0
                return PlanStatus.GOOD, x, math.inf
            x = answer
            gap = max(gap, left)
            value = sum(v * float(x[c]) for c, v in terms)
            if self.limits.beyond is not None and (
                goal is Goal.BEYOND or (not isinstance(goal, Goal) and Goal.BEYOND in dict(goal))
            ):
                left = sum(v * float(x[c]) for c, v in self._terms(Goal.BEYOND))
                if left * UNIT > self.limits.beyond:
                    return PlanStatus.IMPOSSIBLE, None, 0.0
            met.append(len(self.rows.high))
            self.rows.add(terms, -math.inf, value + MARGIN)
        return PlanStatus.PROVEN, x, gap

    def _at_least(self, terms: list[tuple[int, float]], x: np.ndarray) -> bool:
        """Whether the answer already meets a goal as well as its columns' bounds allow."""
        least, _ = self._ends(terms)
        value = sum(v * float(x[c]) for c, v in terms)
        return math.isfinite(least) and value <= least + ROUNDING

    def _drop_rows(self, count: int) -> None:
        rows = self.rows
        keep = [k for k, row in enumerate(rows.row) if row < count]
        rows.row = [rows.row[k] for k in keep]
        rows.column = [rows.column[k] for k in keep]
        rows.value = [rows.value[k] for k in keep]
        del rows.low[count:], rows.high[count:]

    def _milp(self, terms: list[tuple[int, float]], rough: float) -> tuple[PlanStatus, np.ndarray | None, float]:
        """Return whether it could be met, the answer and its gap; no answer: it is impossible, or time ran out."""
        from scipy.optimize import Bounds, LinearConstraint, milp
        from scipy.sparse import csr_array

        n = len(self.lower)
        cost = np.zeros(n)
        for column, value in terms:
            cost[column] += value
        rows = self.rows
        constraints = []
        if rows.low:
            matrix = csr_array((rows.value, (rows.row, rows.column)), shape=(len(rows.low), n))
            constraints.append(LinearConstraint(matrix, np.array(rows.low), np.array(rows.high)))
        with silenced_stdout():
            answer = milp(
                cost,
                integrality=np.array(self.integer),
                bounds=Bounds(np.array(self.lower), np.array(self.upper)),
                constraints=constraints,
                options={"mip_rel_gap": rough, "time_limit": TIME_LIMIT},
            )
        if answer.x is None:
            # 1: a limit was reached; 2: there is none.
            return (PlanStatus.OUT_OF_TIME if answer.status == 1 else PlanStatus.IMPOSSIBLE), None, 0.0
        gap = getattr(answer, "mip_gap", None)
        return PlanStatus.PROVEN, np.asarray(answer.x), float(gap) if gap is not None else 0.0

    def _as_is(self) -> np.ndarray:
        x = np.zeros(len(self.lower))
        for column, value in self._now().items():
            x[column] = value
        return x

    def _nothing(self, status: PlanStatus) -> Plan:
        values = self._values(self._as_is())
        return Plan(status, self.old, {}, values, (), {}, 0.0, 0.0, 0, 0.0, ())

    def _values(self, x: np.ndarray) -> np.ndarray:
        return np.array([(c + sum(v * float(x[k]) for k, v in terms)) * UNIT for c, terms in self.forms])

    def _plan(self, x: np.ndarray, gap: float) -> Plan:
        taken = [o for o, b in enumerate(self.binary) if x[b] > 0.5 and not self._nothing_of(o, x)]
        moved: dict[str, float] = {}
        settings: dict[str, float] = {}
        exact = x.copy()
        for j, column in self.slide_column.items():
            mount = self.assembly.slide_mounts[j]
            setting = float(x[column]) * UNIT
            setting = min(max(setting, mount.low), mount.high) if j in self.following else mount.snap(setting)
            if negligible(setting - float(self.now[j]), STAYS):
                setting = float(self.now[j])
            else:
                moved[self.ids[j]] = setting
            settings[self.ids[j]] = setting
            exact[column] = setting / UNIT
        for o, option in enumerate(self.options):
            exact[self.binary[o]] = 1.0 if o in taken else 0.0
            if option.grows:
                # A free mass that is next to nothing was not taken.
                exact[self.weight[o][0]] = float(x[self.weight[o][0]]) if o in taken else 0.0
            own = self.travel[o]
            if own is None:
                continue
            body = self.bodies[o]
            setting = min(max(float(x[own]) * UNIT, body.low), body.high)
            if body.step:
                setting = round(setting / body.step) * body.step
            if option.current and negligible(setting - option.placed.setting, STAYS):
                setting = option.placed.setting
            elif o in taken and option.current:
                moved[option.placed.id] = setting
            if o in taken:
                settings[option.placed.id] = setting
            exact[own] = setting / UNIT if o in taken else 0.0
        for (o, j), w in self.product.items():
            exact[w] = exact[self.binary[o]] * exact[self.slide_column[j]]
        options = tuple(self._weighed(o, exact) for o in taken)
        build = in_old_order(with_options(self.stays, options, settings), self.old)
        had = sum(b.mass for o, b in zip(self.options, self.bodies, strict=True) if o.current)
        masses = {o: float(exact[self.weight[o][0]]) * self.weight[o][1] for o in taken}
        total = sum(masses.values())
        dead = sum(mass for o, mass in masses.items() if self.options[o].dead)
        new_parts = {o.part.id: o.part for o in options if o.part is not None}
        along = {self.ids[j] for j in self.following}
        changes = len(moved.keys() - along) + sum(not option.current for option in options) + self._gone(set(taken))
        return Plan(
            PlanStatus.PROVEN if gap <= PROVEN_GAP else PlanStatus.GOOD,
            build,
            dict(new_parts),
            self._values(exact),
            options,
            moved,
            dead,
            total - had,
            changes,
            gap,
            self._binding(exact),
        )

    def _weighed(self, o: int, x: np.ndarray) -> Option:
        """Return an option with the part that its free mass makes of it."""
        option = self.options[o]
        if not option.grows or option.part is None:
            return option
        part = weight_block(float(x[self.weight[o][0]]), option.part.feet[0].kind, option.part.id)
        return replace(option, part=part)

    def _nothing_of(self, o: int, x: np.ndarray) -> bool:
        return bool(self.options[o].grows) and negligible(float(x[self.weight[o][0]]), SLIGHT)

    def _gone(self, taken: set[int]) -> int:
        gone, first = 0, 0
        for choice in self.variable.choices:
            numbers = range(first, first + len(choice.options))
            had = any(option.current for option in choice.options)
            gone += had and not taken.intersection(numbers)
            first += len(choice.options)
        return gone

    def _binding(self, x: np.ndarray) -> tuple[tuple[str, ...], ...]:
        """Return what stops the answer: slides at a stop, and pairs of parts that touch."""
        binding: list[tuple[str, ...]] = []
        for j, column in self.slide_column.items():
            if at_an_end(float(x[column]), self.lower[column], self.upper[column]):
                binding.append((self.ids[j],))
        for pair in self._pairs:
            a, b = sorted(pair)
            for first in self._items(a):
                for second in self._items(b):
                    gap = self._gap(first, second, x)
                    if gap is not None and gap < SURELY_APART:
                        binding.append((a, b))
        return tuple(dict.fromkeys(binding))

    def _gap(self, a: Item, b: Item, x: np.ndarray) -> float | None:
        if any(item.present is not None and x[item.present] < 0.5 for item in (a, b)):
            return None
        apart = np.zeros(3)
        for item, side in ((a, 1.0), (b, -1.0)):
            apart += side * item.middle
            for column, axis in item.terms:
                apart += side * float(x[column]) * axis
        ways, reach = separating(a, b)
        return float((np.abs(ways @ apart) - reach + SLACK / UNIT - SURELY_APART).max())
