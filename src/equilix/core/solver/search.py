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
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.clash import SLACK, find_clashes
from equilix.core.assembly.resolve import Assembly, prepare
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Mount, Part
from equilix.core.solver.choices import (
    Body,
    Choice,
    Follower,
    Freedom,
    Option,
    OptionPlacer,
    holds_together,
    in_old_order,
    what_stays,
    with_options,
)
from equilix.core.solver.dead_weight import weight_block

#: m, the unit of lengths inside the programme, so that its numbers are near 1.
_UNIT = 0.1
#: Programme units (kg x 0.1 m): margin by which an optimum may be missed while the next goal is sought.
_MARGIN = 1e-6
#: Rounds in which parts that came to meet each other are kept apart.
_ROUNDS = 12
#: Parts from which a plan is first sought roughly, and the relative gap at which it is good enough to go on from.
_BIG, _ROUGH_GAP = 30, 0.5
#: s that one goal may take; then the best plan so far stands with its gap. HiGHS can't be stopped in between.
TIME_LIMIT = 4.0
#: Relative gap up to which an optimum counts as proven: what rounding leaves.
PROVEN_GAP = 1e-6
#: m. A slide that moves less than this stays.
STAYS = 1e-6


class Goal(StrEnum):
    """What to make small, one after the other."""

    BEYOND = "moment beyond the tolerance"
    DEAD_MASS = "dead mass"
    ADDED_MASS = "added mass"
    CHANGES = "number of changes"
    MOMENT = "remaining moment"
    TRAVEL = "travel"
    STEADINESS = "mass near the support"  # its opposite is made large


#: Goals met at once, each with its weight; one goal alone otherwise.
Bundle = Goal | tuple[tuple[Goal, float], ...]

#: Fewest changes, then the least moment, then the shortest way, in one go; the weights are made small enough for
#: that order to be exact, see `_Programme._bundle`.
FEWEST_CHANGES: Bundle = ((Goal.CHANGES, 1.0), (Goal.MOMENT, 5.0), (Goal.TRAVEL, 0.02))
#: What all the moment and all the ways may count together, in changes: less than one.
_ALL_MOMENT, _ALL_WAYS = 0.5, 0.2
#: A way over the moment: it never pays for moment while a slide carries more than 4 g.
_WAY_PER_MOMENT = 0.004
USUAL_GOALS: tuple[Bundle, ...] = (Goal.BEYOND, Goal.DEAD_MASS, FEWEST_CHANGES)


@dataclass(frozen=True, eq=False, slots=True)
class Form:
    """One component of the first moment: ``direction . sum m (r - s)`` (kg m), s the support's point.

    Free forms (`within` None) are made zero to within `tolerance` (kg m, None: that of the target), `weight` says how
    much what is left beyond it counts beside other forms. Others must stay within ``+- within * M`` (m times the total
    mass), or unless `strict` no farther outside than they are now. `heavier` (placed id, kg) makes parts
    heavier in this form alone: what would be if guesses were off.
    """

    name: str
    direction: np.ndarray
    within: float | None = None
    heavier: tuple[tuple[str, float], ...] = ()
    strict: bool = False
    tolerance: float | None = None
    weight: float = 1.0


@dataclass(frozen=True, eq=False, slots=True)
class Target:
    """A support's condition: forms about `point` (3,) (m, rig frame), fixed to the placed part `holder`.

    Without a holder the point stays where it is in the frame of the build's first part.
    """

    point: np.ndarray
    holder: str | None
    forms: tuple[Form, ...]
    tolerance: float  # kg m, greatest |form| that counts as none

    def allowed(self, form: Form) -> float:
        """Return how large (kg m) a free form may be and still count as none."""
        return self.tolerance if form.tolerance is None else form.tolerance


@dataclass(frozen=True, slots=True)
class Limits:
    """Bounds on a plan: greatest added mass (kg, dead or not), and pairs of placed ids that must come apart."""

    added: float | None = None
    apart: tuple[tuple[str, str], ...] = ()


class PlanStatus(StrEnum):
    PROVEN = "proven best"
    GOOD = "good, not proven"
    STOPPED = "stopped"
    OUT_OF_TIME = "out of time"
    IMPOSSIBLE = "impossible"


@dataclass(frozen=True, eq=False, slots=True)
class Plan:
    """A changed build and what is left of the moment.

    `values` (f,) kg m are the target's forms as this programme has them; `gap` is the largest relative gap
    that HiGHS left, `binding` says in placed ids what stops it: slides at a stop, pairs that touch.
    """

    status: PlanStatus
    build: Build
    kit: dict[str, Part]
    values: np.ndarray
    taken: tuple[Option, ...]
    moved: dict[str, float]
    dead_mass: float
    added_mass: float
    changes: int
    gap: float
    binding: tuple[tuple[str, ...], ...]
    rounds: int = 1

    @property
    def found(self) -> bool:
        """Whether there is a plan at all, proven best or not."""
        return self.status in (PlanStatus.PROVEN, PlanStatus.GOOD)

    def remaining(self, target: Target) -> float:
        """Return the size (kg m) of the target's first free form, the one that a support is levelled by."""
        free = [abs(float(v)) for v, form in zip(self.values, target.forms, strict=False) if form.within is None]
        return free[0] if free else 0.0

    def beyond(self, target: Target) -> float:
        """Return what the free forms leave beyond their tolerances (kg m), each by its weight; of the first ones that
        both this plan and `target` have: a robust target's extra forms come last."""
        return sum(
            form.weight * max(abs(float(v)) - target.allowed(form), 0.0)
            for v, form in zip(self.values, target.forms, strict=False)
            if form.within is None
        )


def find_plan(
    build: Build,
    kit: Kit,
    target: Target,
    freedom: Freedom,
    goals: Sequence[Bundle] = USUAL_GOALS,
    limits: Limits = Limits(),
    go_on: Callable[[], bool] = lambda: True,
    assembly: Assembly | None = None,
    tell: Callable[[Plan], None] | None = None,
) -> Plan:
    """Return the best plan within `freedom`; its status says if it is proven, stopped or impossible.

    On big builds a good plan is found first, without its proof, and given to `tell`.

    Parts that would newly meet are kept apart: the best plan without that condition is looked at, each
    pair that meets in it is added, and so on; the last one is the best of all that keep them apart.
    Boxes stand for parts; turned ones by the upright box around them. `assembly` is that of `build`, if it
    is at hand.
    """
    assembly = assembly or prepare(build, kit)
    programme = _Programme(build, kit, target, freedom, limits, assembly)
    known = _clashing(assembly, build)
    for pair in limits.apart:
        programme.keep_apart(pair)
    # Each round of keeping apart would pay for a whole proof: on big builds only the last ones do.
    gap = _ROUGH_GAP if len(build.parts) > _BIG else 0.0
    plan = programme.solve(goals, go_on, gap)
    for rounds in range(2, 2 * _ROUNDS + 2):
        if not plan.found:
            return plan
        after = prepare(plan.build, {**kit, **plan.kit})
        new = [pair for pair in _clashing(after, plan.build) if pair not in known]
        fresh = [pair for pair in new if programme.keep_apart(pair)]
        if not fresh and (gap == 0.0 or plan.status is PlanStatus.PROVEN):
            return replace(plan, rounds=rounds - 1)
        if not fresh:
            if tell is not None:
                tell(replace(plan, status=PlanStatus.GOOD))
            gap = 0.0
        plan = programme.solve(goals, go_on, gap)
    # Kept apart as often as there are rounds, and never looked at since: it may do, but nobody has proven it.
    return replace(plan, status=PlanStatus.GOOD, gap=math.inf, rounds=2 * _ROUNDS + 1) if plan.found else plan


def _clashing(assembly: Assembly, build: Build) -> list[tuple[str, str]]:
    """Return the pairs that meet on `build`; the assembly may have been prepared at other slide settings."""
    clashes = find_clashes(assembly, assembly.at(assembly.settings(build)))
    return [(build.parts[c.first].id, build.parts[c.second].id) for c in clashes]


@dataclass(slots=True)
class _Rows:
    """Constraint rows as triplets."""

    row: list[int] = field(default_factory=list)
    column: list[int] = field(default_factory=list)
    value: list[float] = field(default_factory=list)
    low: list[float] = field(default_factory=list)
    high: list[float] = field(default_factory=list)

    def add(self, terms: Sequence[tuple[int, float]], low: float, high: float) -> None:
        number = len(self.low)
        for column, value in terms:
            if value != 0.0:
                self.row.append(number)
                self.column.append(column)
                self.value.append(value)
        self.low.append(low)
        self.high.append(high)


@dataclass(frozen=True, eq=False, slots=True)
class _Item:
    """Something with a box in the programme: its middle is ``middle + sum coefficient x`` (units) per axis."""

    middle: np.ndarray  # (3,)
    half: np.ndarray  # (3,)
    terms: tuple[tuple[int, np.ndarray], ...]  # column, (3,) per unit
    present: int | None  # binary's column, None if always there


class _Programme:
    """Columns: slides, option binaries, option travels, products, then helpers as goals and pairs need them.

    Slides and travels are counted from their lower ends, in `_UNIT`s; moments in kg x `_UNIT`.
    """

    def __init__(self, build: Build, kit: Kit, target: Target, freedom: Freedom, limits: Limits, old: Assembly) -> None:
        self._old_assembly = old
        self.old, self.kit, self.target, self.freedom, self.limits = build, kit, target, freedom, limits
        self.stays = what_stays(build, freedom)
        self.assembly = old if len(self.stays.parts) == len(build.parts) else prepare(self.stays, kit)
        zero = np.zeros(len(self.assembly.slide_parts))
        self.at_zero = self.assembly.at(zero)
        self.now = self.assembly.settings(self.stays)
        self.options = freedom.options
        placer = OptionPlacer(self.stays, kit, self.assembly, self.at_zero)
        self.bodies = [placer.body(option) for option in self.options]
        self.lower: list[float] = []
        self.upper: list[float] = []
        self.integer: list[int] = []
        self.rows = _Rows()
        self._pairs: set[frozenset[str]] = set()
        self._make_columns()
        self._make_forms()
        self._make_choices()
        self._goal_terms: dict[Goal, list[tuple[int, float]]] = {}

    # Columns

    def _column(self, low: float, high: float, integer: bool = False) -> int:
        self.lower.append(low)
        self.upper.append(high)
        self.integer.append(int(integer))
        return len(self.lower) - 1

    def _make_columns(self) -> None:
        self.slide_column: dict[int, int] = {}  # of free slides and of those that follow one
        self.following: set[int] = set()
        self.ids = [self.stays.parts[i].id for i in self.assembly.slide_parts]
        for j, mount in enumerate(self.assembly.slide_mounts):
            if self.ids[j] in self.freedom.slides and mount.high > mount.low:
                low, high = mount.low, mount.high
                self.slide_column[j] = self._column(low / _UNIT, high / _UNIT)
                if mount.step > 0.0:
                    self._detent(self.slide_column[j], mount.step, low, high)
        for j, mount in enumerate(self.assembly.slide_mounts):
            follower = next((f for f in self.freedom.followers if f.follower == self.ids[j]), None)
            if follower is not None and follower.leader in self.ids and j not in self.slide_column:
                self._follow(follower, self.ids.index(follower.leader), j, mount)
        self.binary = [self._column(0.0, 1.0, integer=True) for _ in self.options]
        self.weight: list[tuple[int, float]] = []  # column and kg for each unit of it
        for option, body, binary in zip(self.options, self.bodies, self.binary, strict=True):
            if option.grows <= 0.0:
                self.weight.append((binary, body.mass))
                continue
            mass = self._column(0.0, option.grows)
            self.rows.add([(mass, 1.0), (binary, -option.grows)], -math.inf, 0.0)
            self.weight.append((mass, 1.0))
        self.travel: list[int | None] = []
        for option, body, binary in zip(self.options, self.bodies, self.binary, strict=True):
            if body.axis is None:
                self.travel.append(None)
                continue
            low, high = body.low / _UNIT, body.high / _UNIT
            if option.current and option.placed.id not in self.freedom.slides:
                # It stays where it stands as long as it is there at all.
                low = high = option.placed.setting / _UNIT
            column = self._column(min(low, 0.0), max(high, 0.0))
            self.rows.add([(column, 1.0), (binary, -high)], -math.inf, 0.0)
            self.rows.add([(column, 1.0), (binary, -low)], 0.0, math.inf)
            if body.step > 0.0:
                self._detent(column, body.step, body.low, body.high)
            self.travel.append(column)
        self.product: dict[tuple[int, int], int] = {}

    def _follow(self, follower: Follower, leader: int, j: int, mount: Mount) -> None:
        """Let slide j go along with another, if that one is free."""
        if leader not in self.slide_column or mount.high <= mount.low:
            return
        now = float(self.now[j])
        column = self._column(min(mount.low, now) / _UNIT, max(mount.high, now) / _UNIT)
        self.slide_column[j] = column
        if follower.exact:
            self.following.add(j)
        same = float(self.assembly.slide_axes[leader] @ self.assembly.slide_axes[j])
        rest = now - same * float(self.now[leader])
        low, high = (rest + follower.back) / _UNIT, (rest + follower.ahead) / _UNIT
        self.rows.add([(column, 1.0), (self.slide_column[leader], -same)], low, high)

    def _detent(self, column: int, step: float, low: float, high: float) -> None:
        """Let a travel stop only at whole steps; counted from zero, as mounts snap."""
        count = self._column(math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9), integer=True)
        self.rows.add([(column, 1.0), (count, -step / _UNIT)], 0.0, 0.0)

    def _product(self, o: int, j: int) -> int:
        """Return the column of option o's presence times slide j, exact by McCormick's four rows."""
        key = (o, j)
        if key not in self.product:
            q, b = self.slide_column[j], self.binary[o]
            low, high = self.lower[q], self.upper[q]
            w = self._column(min(low, 0.0), max(high, 0.0))
            self.rows.add([(w, 1.0), (b, -low)], 0.0, math.inf)
            self.rows.add([(w, 1.0), (b, -high)], -math.inf, 0.0)
            self.rows.add([(w, 1.0), (q, -1.0), (b, -high)], -high, math.inf)
            self.rows.add([(w, 1.0), (q, -1.0), (b, -low)], -math.inf, -low)
            self.product[key] = w
        return self.product[key]

    # Moments

    def _make_forms(self) -> None:
        """Write every form as constant + terms (programme units), and the rows of those with a range."""
        base = self.at_zero.base
        holder = self.target.holder
        index = next((i for i, p in enumerate(self.stays.parts) if p.id == holder), None)
        # The target's point is given for the build as it is: take it to the base frame with all slides at 0.
        old_positions = self._old_assembly.at(self._old_assembly.settings(self.old))
        point = self.target.point - old_positions.base
        if index is not None:
            point = point - self._carried_shift(index, self.now)
        self._point_zero = point
        self._holder = index
        holds = np.array(
            [index is not None and self.assembly.carries(j, index) for j in range(len(self.now))], dtype=float
        )
        cg = self.at_zero.cg - base
        self.forms: list[tuple[float, list[tuple[int, float]]]] = []
        for form in self.target.forms:
            d = form.direction
            mass, total, carried = self._masses(form)
            constant = float(mass @ ((cg - point) @ d))
            terms: dict[int, float] = {}
            for j, axis in enumerate(self.assembly.slide_axes):
                slope = float(d @ axis) * (float(carried[j]) - total * holds[j])
                if j in self.slide_column:
                    terms[self.slide_column[j]] = slope
                else:
                    constant += slope * float(self.now[j])
            for o, body in enumerate(self.bodies):
                column, per = self.weight[o]
                fixed = float(d @ (body.cg - point)) * per
                for j, axis in enumerate(self.assembly.slide_axes):
                    slope = float(d @ axis) * per * (float(body.carriers[j]) - holds[j])
                    if abs(slope) < 1e-12:
                        continue
                    if j not in self.slide_column:
                        fixed += slope * float(self.now[j])
                        continue
                    if self.options[o].grows:
                        raise AssemblyError("A weight of free mass can't sit where a free slide moves it.")
                    w = self._product(o, j)
                    terms[w] = terms.get(w, 0.0) + slope
                terms[column] = terms.get(column, 0.0) + fixed / _UNIT
                own = self.travel[o]
                if own is not None and body.axis is not None:
                    terms[own] = terms.get(own, 0.0) + float(d @ body.axis) * body.mass
            self.forms.append((constant / _UNIT, list(terms.items())))
        now = self._now()
        for form, (constant, pairs) in zip(self.target.forms, self.forms, strict=True):
            if form.within is None:
                continue
            value = constant + sum(v * now.get(c, 0.0) for c, v in pairs)
            allowed = form.within * self._masses(form)[1] / _UNIT
            added = [(column, form.within * per / _UNIT) for column, per in self.weight]
            extra = max(abs(value) - allowed - sum(v * now.get(c, 0.0) for c, v in added), 0.0) + 1e-9
            if form.strict:
                extra = 0.0
            # |value| <= within (M0 + sum m b), or what it is now.
            self.rows.add([*pairs, *((c, -v) for c, v in added)], -math.inf, allowed + extra - constant)
            self.rows.add([*pairs, *added], -allowed - extra - constant, math.inf)

    def _masses(self, form: Form) -> tuple[np.ndarray, float, np.ndarray]:
        """Return masses (n,), their sum, and what each slide carries (k,), with a form's own heavier parts."""
        mass, carried = self.assembly.mass, self.assembly.carried_mass()
        if form.heavier:
            more = dict(form.heavier)
            extra = np.array([more.get(placed.id, 0.0) for placed in self.stays.parts])
            mass = mass + extra
            reach = [
                sum(extra[i] for i in range(len(extra)) if extra[i] and self.assembly.carries(j, i))
                for j in range(len(carried))
            ]
            carried = carried + np.array(reach)
        return mass, float(mass.sum()), carried

    def _carried_shift(self, index: int, settings: np.ndarray) -> np.ndarray:
        """Return how far (3,) (m) part number `index` has moved from where it is with all slides at 0."""
        shift = np.zeros(3)
        for j, axis in enumerate(self.assembly.slide_axes):
            if self.assembly.carries(j, index):
                shift += float(settings[j]) * axis
        return shift

    def _now(self) -> dict[int, float]:
        """Return the columns' values for the build as it is."""
        now = {column: float(self.now[j]) / _UNIT for j, column in self.slide_column.items()}
        for o, option in enumerate(self.options):
            now[self.binary[o]] = 1.0 if option.current else 0.0
            own = self.travel[o]
            if own is not None:
                now[own] = option.placed.setting / _UNIT if option.current else 0.0
        for (o, j), w in self.product.items():
            now[w] = now[self.binary[o]] * now[self.slide_column[j]]
        return now

    def _make_choices(self) -> None:
        first = 0
        for choice in self.freedom.choices:
            terms = [(self.binary[first + i], 1.0) for i in range(len(choice.options))]
            self.rows.add(terms, 1.0 if choice.needed else 0.0, 1.0)
            first += len(choice.options)
        # One part can't be in two places, and a mount that takes one part takes one.
        by_part: dict[str, list[int]] = {}
        by_mount: dict[tuple[str | None, str], list[int]] = {}
        for o, option in enumerate(self.options):
            for placed in (option.placed, *option.carried):
                by_part.setdefault(placed.part_id, []).append(o)
            parent = next((p for p in self.stays.parts if p.id == option.placed.parent), None)
            if parent is not None and not self.kit[parent.part_id].mount(option.placed.mount).takes_many:
                by_mount.setdefault((option.placed.parent, option.placed.mount), []).append(o)
        for several in (*by_part.values(), *by_mount.values()):
            if len(several) > 1:
                self.rows.add([(self.binary[o], 1.0) for o in several], 0.0, 1.0)
        if self.limits.added is not None:
            extra = list(self.weight)
            had = sum(b.mass for o, b in zip(self.options, self.bodies, strict=True) if o.current)
            self.rows.add(extra, -math.inf, self.limits.added + had + 1e-9)

    # Pairs that must not meet

    def keep_apart(self, pair: tuple[str, str]) -> bool:
        """Keep two placed parts from meeting; return False if that is asked for already or can't be put in rows."""
        key = frozenset(pair)
        if key in self._pairs or len(key) < 2:
            return False
        self._pairs.add(key)
        several = [(a, b) for a in self._items(pair[0]) for b in self._items(pair[1])]
        done = False
        for a, b in several:
            done |= self._separate(a, b)
        return done

    def _items(self, placed_id: str) -> list[_Item]:
        index = next((i for i, p in enumerate(self.stays.parts) if p.id == placed_id), None)
        if index is not None:
            terms = []
            middle = (self.at_zero.centre[index] - self.at_zero.base) / _UNIT
            for j, axis in enumerate(self.assembly.slide_axes):
                if not self.assembly.carries(j, index):
                    continue
                if j in self.slide_column:
                    terms.append((self.slide_column[j], axis))
                else:
                    middle = middle + float(self.now[j]) / _UNIT * axis
            return [_Item(middle, self.assembly.edges[index] / _UNIT, tuple(terms), None)]
        return [item for o, option in enumerate(self.options) for item in self._option_items(o, option, placed_id)]

    def _option_items(self, o: int, option: Option, placed_id: str) -> list[_Item]:
        members = (option.placed, *option.carried)
        member = next((k for k, p in enumerate(members) if p.id == placed_id), None)
        if member is None:
            return []
        # Placed as a build of its own on what stays: outlines come with its turns.
        trial = replace(self.stays, parts=(*self.stays.parts, replace(option.placed, setting=0.0), *option.carried))
        if self.bodies[o].axis is None:
            trial = replace(self.stays, parts=(*self.stays.parts, *members))
        kit = {**self.kit, option.part.id: option.part} if option.part is not None else self.kit
        if not holds_together(trial, kit):
            return []
        assembly = prepare(trial, kit)
        settings = assembly.settings(trial)
        index = len(self.stays.parts) + member
        for j, i in enumerate(assembly.slide_parts):
            if trial.parts[i].id in self.ids:
                settings[j] = 0.0
        positions = assembly.at(settings)
        middle = (positions.centre[index] - positions.base) / _UNIT
        terms: list[tuple[int, np.ndarray]] = []
        for j, axis in enumerate(self.assembly.slide_axes):
            if not self.bodies[o].carriers[j]:
                continue
            if j in self.slide_column:
                terms.append((self.slide_column[j], axis))
            else:
                middle = middle + float(self.now[j]) / _UNIT * axis
        own, own_axis = self.travel[o], self.bodies[o].axis
        if own is not None and own_axis is not None:
            terms.append((own, own_axis))
        return [_Item(middle, assembly.edges[index] / _UNIT, tuple(terms), self.binary[o])]

    def _keep_order(self, a: _Item, b: _Item, gap: np.ndarray) -> bool:
        """Demand that two parts that pass each other along one axis only, as on a rod, stay in their order.

        Truer than letting them jump over each other: past one another they would have to be taken off, which is a way
        of its own. One row in the place of two binaries. False where that is not how they lie.
        """
        if a.present is not None or b.present is not None:
            return False
        now = self._now()
        moving = []
        order: tuple[dict[int, float], float] | None = None
        for k in range(3):
            terms: dict[int, float] = {}
            for item, side in ((a, 1.0), (b, -1.0)):
                for column, axis in item.terms:
                    terms[column] = terms.get(column, 0.0) + side * float(axis[k])
            terms = {c: v for c, v in terms.items() if abs(v) > 1e-9}
            apart = float(a.middle[k] - b.middle[k])
            if not terms:
                if abs(apart) >= float(gap[k]):
                    return False  # they never meet
                continue
            moving.append(k)
            here = apart + sum(v * now.get(c, 0.0) for c, v in terms.items())
            if abs(here) < float(gap[k]) - 1e-9:
                return False  # they overlap along this axis now
            sign = 1.0 if here > 0.0 else -1.0
            # sign (apart + terms) >= gap
            order = ({c: sign * v for c, v in terms.items()}, float(gap[k]) - sign * apart)
        if len(moving) != 1 or order is None:
            return False
        self.rows.add(list(order[0].items()), order[1], math.inf)
        return True

    def _separate(self, a: _Item, b: _Item) -> bool:
        """Demand that along one of the six directions a lies beyond b, wherever both are there."""
        gap = a.half + b.half - (SLACK - 1e-5) / _UNIT
        if not a.terms and not b.terms and a.present is None and b.present is None:
            return False  # nothing moves one against the other: touching by a rounding is no new clash
        if self._keep_order(a, b, gap):
            return True
        sides: list[tuple[int, float]] = []
        for k in range(3):
            for sign in (1.0, -1.0):
                terms: dict[int, float] = {}
                for item, side in ((a, sign), (b, -sign)):
                    for column, axis in item.terms:
                        terms[column] = terms.get(column, 0.0) + side * float(axis[k])
                terms = {c: v for c, v in terms.items() if abs(v) > 1e-9}
                constant = sign * float(a.middle[k] - b.middle[k]) - float(gap[k])
                best = constant + sum(v * (self.upper[c] if v > 0 else self.lower[c]) for c, v in terms.items())
                worst = constant + sum(v * (self.lower[c] if v > 0 else self.upper[c]) for c, v in terms.items())
                if worst >= 0.0:
                    return False  # they can't meet at all
                if best < 0.0:
                    continue
                z = self._column(0.0, 1.0, integer=True)
                # constant + terms >= worst (1 - z)
                self.rows.add([*terms.items(), (z, worst)], worst - constant, math.inf)
                sides.append((z, 1.0))
        present = [item.present for item in (a, b) if item.present is not None]
        # Some side is chosen unless one of them isn't there.
        self.rows.add([*sides, *((p, -1.0) for p in present)], 1.0 - len(present), math.inf)
        return True

    # Goals

    def _terms(self, goal: Goal) -> list[tuple[int, float]]:
        """Return a goal as terms; helper columns are made when first asked for."""
        if goal not in self._goal_terms:
            self._goal_terms[goal] = self._make_goal(goal)
        return self._goal_terms[goal]

    def _make_goal(self, goal: Goal) -> list[tuple[int, float]]:
        match goal:
            case Goal.BEYOND | Goal.MOMENT:
                found = []
                for form, (constant, terms) in zip(self.target.forms, self.forms, strict=True):
                    if form.within is None:
                        slack = self.target.allowed(form) / _UNIT if goal is Goal.BEYOND else 0.0
                        r = self._column(0.0, math.inf)
                        self.rows.add([*terms, (r, -1.0)], -math.inf, slack - constant)
                        self.rows.add([*terms, (r, 1.0)], -slack - constant, math.inf)
                        found.append((r, form.weight))
                return found
            case Goal.DEAD_MASS:
                return [w for option, w in zip(self.options, self.weight, strict=True) if option.dead]
            case Goal.ADDED_MASS:
                return list(self.weight)
            case Goal.CHANGES:
                terms = [
                    (self._moves(column, float(self.now[j]) / _UNIT, None), 1.0)
                    for j, column in self.slide_column.items()
                    if j not in self.following
                ]
                for option, b, own in zip(self.options, self.binary, self.travel, strict=True):
                    if option.current:
                        # Taken off counts once, unless something else takes its place: then that counts.
                        if own is not None and option.placed.id in self.freedom.slides:
                            terms.append((self._moves(own, option.placed.setting / _UNIT, b), 1.0))
                    else:
                        terms.append((b, 1.0))
                terms += self._removals()
                return terms
            case Goal.TRAVEL:
                terms = []
                for j, column in self.slide_column.items():
                    if j in self.following:
                        continue
                    terms.append((self._distance(column, float(self.now[j]) / _UNIT, None), 1.0))
                for option, b, own in zip(self.options, self.binary, self.travel, strict=True):
                    if own is not None and option.current and option.placed.id in self.freedom.slides:
                        terms.append((self._distance(own, option.placed.setting / _UNIT, b), 1.0))
                return terms
            case _:
                return self._spread()

    def _removals(self) -> list[tuple[int, float]]:
        """Return terms that count choices whose present option is gone and nothing is in its place."""
        terms = []
        first = 0
        for choice in self.freedom.choices:
            columns = self.binary[first : first + len(choice.options)]
            if any(option.current for option in choice.options) and not choice.needed:
                gone = self._column(0.0, 1.0)
                # gone >= 1 - sum of the choice
                self.rows.add([(gone, 1.0), *((c, 1.0) for c in columns)], 1.0, math.inf)
                terms.append((gone, 1.0))
            first += len(choice.options)
        return terms

    def _moves(self, column: int, now: float, present: int | None) -> int:
        """Return a binary that is 1 if the column leaves `now` (while `present`)."""
        c = self._column(0.0, 1.0, integer=True)
        up, down = self.upper[column] - now, now - self.lower[column]
        if present is None:
            self.rows.add([(column, 1.0), (c, -max(up, 0.0))], -math.inf, now)
            self.rows.add([(column, 1.0), (c, max(down, 0.0))], now, math.inf)
            if up < 0.0 or down < 0.0:
                # It stands beyond its stop: it has to move.
                self.lower[c] = 1.0
        else:
            # t - now b <= up c and >= -down c, where t = 0 with b = 0.
            self.rows.add([(column, 1.0), (present, -now), (c, -max(up, 0.0))], -math.inf, 0.0)
            self.rows.add([(column, 1.0), (present, -now), (c, max(down, 0.0))], 0.0, math.inf)
        return c

    def _distance(self, column: int, now: float, present: int | None) -> int:
        e = self._column(0.0, math.inf)
        extra = [] if present is None else [(present, -now)]
        constant = now if present is None else 0.0
        self.rows.add([(column, 1.0), *extra, (e, -1.0)], -math.inf, constant)
        self.rows.add([(column, 1.0), *extra, (e, 1.0)], constant, math.inf)
        return e

    def _spread(self) -> list[tuple[int, float]]:
        """Return the negative of ``sum m |x - s|`` with every part kept on its side: small means far from the support.

        Inertia is quadratic in the slides; the first absolute moment ranks with it and is linear.
        """
        d = self.target.forms[0].direction
        terms: dict[int, float] = {}
        mass = self.assembly.mass
        holds = self._holder
        for i in range(len(mass)):
            place = self.at_zero.cg[i] - self.at_zero.base - self._point_zero
            here = float(d @ place)
            for j, axis in enumerate(self.assembly.slide_axes):
                moves = float(self.assembly.carries(j, i)) - float(
                    holds is not None and self.assembly.carries(j, holds)
                )
                here += moves * float(self.now[j]) * float(d @ axis)
            side = 1.0 if here >= 0.0 else -1.0
            for j, axis in enumerate(self.assembly.slide_axes):
                moves = float(self.assembly.carries(j, i)) - float(
                    holds is not None and self.assembly.carries(j, holds)
                )
                if j in self.slide_column and moves:
                    column = self.slide_column[j]
                    terms[column] = terms.get(column, 0.0) - side * float(mass[i]) * moves * float(d @ axis)
        for o, body in enumerate(self.bodies):
            place = float(d @ (body.cg - self._point_zero)) / _UNIT
            own = self.travel[o]
            middle = place
            if own is not None and body.axis is not None:
                middle += float(d @ body.axis) * (body.low + body.high) / 2.0 / _UNIT
            side = 1.0 if middle >= 0.0 else -1.0
            terms[self.binary[o]] = terms.get(self.binary[o], 0.0) - side * body.mass * place
            if own is not None and body.axis is not None:
                terms[own] = terms.get(own, 0.0) - side * body.mass * float(d @ body.axis)
        return list(terms.items())

    # Solving

    def solve(self, goals: Sequence[Bundle], go_on: Callable[[], bool], rough: float = 0.0) -> Plan:
        """Meet the goals in order, each to within the relative gap `rough`; one that nothing can change is passed over.

        That nothing is beyond the tolerance is first taken for granted, and sought only if it can't be had.
        """
        for goal in goals:
            self._bundle(goal)  # its helper columns and rows stay
        kept = len(self.rows.low)
        hopeful = bool(goals) and goals[0] is Goal.BEYOND and len(goals) > 1
        status = PlanStatus.IMPOSSIBLE
        for hope in (True, False) if hopeful else (False,):
            if hope:
                self.rows.add(self._bundle(Goal.BEYOND), -math.inf, _MARGIN)
            status, x, gap = self._in_order(goals[1:] if hope else goals, go_on, rough)
            # Bounds on met goals hold for this answer only; helper rows stay, since their columns do.
            self._drop_rows(kept)
            if status is PlanStatus.STOPPED:
                return self._nothing(status)
            if x is not None:
                return self._plan(x, gap)
        if any(self._bundle(goal) for goal in goals):
            return self._nothing(status)
        return self._plan(self._as_is(), 0.0)

    def _bundle(self, goal: Bundle, beyond: float = 0.0) -> list[tuple[int, float]]:
        """Return a goal's terms; of several at once each with its weight, `beyond` being what is left of the moment.

        The moment and the ways together stay below one change: the moment is at most all tolerances and what is beyond
        them, a way at most all travel.
        """
        if isinstance(goal, Goal):
            return self._terms(goal)
        weights = dict(goal)
        if Goal.CHANGES in weights:
            most = beyond + sum(
                form.weight * self.target.allowed(form) / _UNIT for form in self.target.forms if form.within is None
            )
            ways = sum(abs(v) * (self.upper[c] - self.lower[c]) for c, v in self._way_columns())
            moment = min(weights[Goal.MOMENT], _ALL_MOMENT / max(most, 1e-9))
            weights[Goal.MOMENT] = moment
            weights[Goal.TRAVEL] = min(weights[Goal.TRAVEL], _ALL_WAYS / max(ways, 1e-9), _WAY_PER_MOMENT * moment)
        return [(column, weight * value) for one, weight in weights.items() for column, value in self._terms(one)]

    def _way_columns(self) -> list[tuple[int, float]]:
        """Return the columns whose ways count, each once."""
        slides = [(column, 1.0) for j, column in self.slide_column.items() if j not in self.following]
        return slides + [(own, 1.0) for own in self.travel if own is not None]

    def _in_order(
        self, goals: Sequence[Bundle], go_on: Callable[[], bool], rough: float
    ) -> tuple[PlanStatus, np.ndarray | None, float]:
        """Return the answer to all goals in order and the largest gap, no answer if the first can't be met.

        The gap is endless if a later goal ran out of time with nothing to show.
        """
        x: np.ndarray | None = None
        gap, beyond = 0.0, 0.0
        for goal in goals:
            terms = self._bundle(goal, beyond)
            if not terms or (x is not None and self._at_least(terms, x)):
                continue
            if not go_on():
                return PlanStatus.STOPPED, None, 0.0
            status, answer, left = self._milp(terms, rough)
            if answer is None:
                if x is None:
                    return status, None, 0.0
                return PlanStatus.GOOD, x, math.inf
            x = answer
            gap = max(gap, left)
            value = sum(v * float(x[c]) for c, v in terms)
            if goal is Goal.BEYOND:
                beyond = value
            self.rows.add(terms, -math.inf, value + _MARGIN)
        return PlanStatus.PROVEN, x, gap

    def _at_least(self, terms: list[tuple[int, float]], x: np.ndarray) -> bool:
        """Whether the answer already meets a goal as well as its columns' bounds allow."""
        least = sum(v * (self.lower[c] if v > 0.0 else self.upper[c]) for c, v in terms)
        value = sum(v * float(x[c]) for c, v in terms)
        return math.isfinite(least) and value <= least + 1e-9

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
        return np.array([(c + sum(v * float(x[k]) for k, v in terms)) * _UNIT for c, terms in self.forms])

    def _plan(self, x: np.ndarray, gap: float) -> Plan:
        taken = [o for o, b in enumerate(self.binary) if x[b] > 0.5 and not self._nothing_of(o, x)]
        moved: dict[str, float] = {}
        settings: dict[str, float] = {}
        exact = x.copy()
        for j, column in self.slide_column.items():
            mount = self.assembly.slide_mounts[j]
            setting = float(x[column]) * _UNIT
            setting = min(max(setting, mount.low), mount.high) if j in self.following else mount.snap(setting)
            if abs(setting - float(self.now[j])) < STAYS:
                setting = float(self.now[j])
            else:
                moved[self.ids[j]] = setting
            settings[self.ids[j]] = setting
            exact[column] = setting / _UNIT
        for o, option in enumerate(self.options):
            exact[self.binary[o]] = 1.0 if o in taken else 0.0
            if option.grows:
                # A free mass that is next to nothing was not taken.
                exact[self.weight[o][0]] = float(x[self.weight[o][0]]) if o in taken else 0.0
            own = self.travel[o]
            if own is None:
                continue
            body = self.bodies[o]
            setting = min(max(float(x[own]) * _UNIT, body.low), body.high)
            if body.step > 0.0:
                setting = round(setting / body.step) * body.step
            if option.current and abs(setting - option.placed.setting) < STAYS:
                setting = option.placed.setting
            elif o in taken and option.current:
                moved[option.placed.id] = setting
            if o in taken:
                settings[option.placed.id] = setting
            exact[own] = setting / _UNIT if o in taken else 0.0
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
        return self.options[o].grows > 0.0 and float(x[self.weight[o][0]]) < 1e-6

    def _gone(self, taken: set[int]) -> int:
        gone, first = 0, 0
        for choice in self.freedom.choices:
            numbers = range(first, first + len(choice.options))
            had = any(option.current for option in choice.options)
            gone += had and not taken.intersection(numbers)
            first += len(choice.options)
        return gone

    def _binding(self, x: np.ndarray) -> tuple[tuple[str, ...], ...]:
        """Return what stops the answer: slides at a stop, and pairs of parts that touch."""
        binding: list[tuple[str, ...]] = []
        for j, column in self.slide_column.items():
            if x[column] <= self.lower[column] + 1e-7 or x[column] >= self.upper[column] - 1e-7:
                binding.append((self.ids[j],))
        for pair in self._pairs:
            a, b = sorted(pair)
            for first in self._items(a):
                for second in self._items(b):
                    gap = self._gap(first, second, x)
                    if gap is not None and gap < 1e-5 / _UNIT:
                        binding.append((a, b))
        return tuple(dict.fromkeys(binding))

    def _gap(self, a: _Item, b: _Item, x: np.ndarray) -> float | None:
        if any(item.present is not None and x[item.present] < 0.5 for item in (a, b)):
            return None
        apart = np.zeros(3)
        for item, side in ((a, 1.0), (b, -1.0)):
            apart += side * item.middle
            for column, axis in item.terms:
                apart += side * float(x[column]) * axis
        return float((np.abs(apart) - a.half - b.half + (SLACK - 1e-5) / _UNIT).max())


def all_free_slides(assembly: Assembly) -> frozenset[str]:
    """Return the placed ids of all parts that can slide."""
    return frozenset(
        assembly.build.parts[i].id
        for i, mount in zip(assembly.slide_parts, assembly.slide_mounts, strict=True)
        if mount.high > mount.low
    )


__all__ = [
    "Body",
    "Choice",
    "Form",
    "Freedom",
    "Goal",
    "Limits",
    "Option",
    "Plan",
    "PlanStatus",
    "Target",
    "all_free_slides",
    "find_plan",
]
