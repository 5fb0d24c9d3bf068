"""The mixed-integer programme: its columns, the forms of its target, its choices."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.resolve import Assembly, prepare
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Mount
from equilix.core.rounding import EXACT, ROUNDING, negligible
from equilix.core.solver.choices import (
    Follower,
    OptionPlacer,
    Variable,
    what_stays,
)
from equilix.core.solver.choices import PointMass as OptionBody
from equilix.core.solver.plan import UNIT, Form, Goal, Limits, Target


@dataclass(slots=True)
class Rows:
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


class Item(Struct, frozen=True, eq=False):
    """Something with a box in the programme: its middle is ``middle + sum coefficient x`` (units) per axis."""

    middle: np.ndarray  # (3,)
    half: np.ndarray  # (3,) along its own axes
    turn: np.ndarray  # (3, 3) rig_from_own
    upright: bool  # its sides stand along the rig's axes
    terms: tuple[tuple[int, np.ndarray], ...]  # column, (3,) per unit
    present: int | None  # binary's column, None if always there
    on_rods: tuple[str, str, str] | None = None  # rods by holder and mount, and what stands on them and carries it

    def reach(self, ways: np.ndarray) -> np.ndarray:
        """Return how far (k,) (units) the box reaches from its middle along unit vectors (k, 3)."""
        found: np.ndarray = np.abs(ways @ self.turn) @ self.half
        return found


#: The rig's axes, along which upright boxes are told apart.
_UPRIGHT = np.eye(3)


def separating(a: Item, b: Item) -> tuple[np.ndarray, np.ndarray]:
    """Return the unit vectors (k, 3) along which two boxes are told apart, and how far both reach along each (k,).

    Three for upright boxes; else the faces' normals of both and the cross products of their edges: boxes that overlap
    do so along all of them, others are apart along one (Ericson, Real-Time Collision Detection (2005), section 4.4.1).
    """
    if a.upright and b.upright:
        ways = _UPRIGHT
    else:
        faces = np.concatenate([a.turn.T, b.turn.T])
        edges = np.cross(a.turn.T[:, None, :], b.turn.T[None, :, :]).reshape(-1, 3)
        sizes = np.linalg.norm(edges, axis=1)
        ways = np.concatenate([faces, edges[sizes > _PARALLEL] / sizes[sizes > _PARALLEL, None]])
        # One of each: what two boxes have in common stands once.
        ways = ways * np.where(ways[np.arange(len(ways)), np.abs(ways).argmax(axis=1)] < 0.0, -1.0, 1.0)[:, None]
        ways = np.unique(ways.round(12), axis=0)
    return ways, a.reach(ways) + b.reach(ways)


#: Sine of an angle between edges below which they are parallel and tell nothing apart.
_PARALLEL = 1e-6


class Programme:
    """Columns: slides, option binaries, option travels, products, then helpers as goals and pairs need them.

    Slides and travels are counted from their lower ends, in `UNIT`s; moments in kg x `UNIT`.
    """

    def __init__(
        self, build: Build, kit: Kit, target: Target, variable: Variable, limits: Limits, old: Assembly
    ) -> None:
        self._old_assembly = old
        self.old, self.kit, self.target, self.variable, self.limits = build, kit, target, variable, limits
        self.stays = what_stays(build, variable)
        self.assembly = old if len(self.stays.parts) == len(build.parts) else prepare(self.stays, kit)
        zero = np.zeros(len(self.assembly.slide_parts))
        self.at_zero = self.assembly.at(zero)
        self.now = self.assembly.settings(self.stays)
        self.options = variable.options
        placer = OptionPlacer(self.stays, kit, self.assembly, self.at_zero)
        self.bodies = [placer.body(option) for option in self.options]
        self.lower: list[float] = []
        self.upper: list[float] = []
        self.integer: list[int] = []
        self.rows = Rows()
        self._pairs: set[frozenset[str]] = set()
        #: Binaries of two parts on the same rods that change places.
        self.passing: dict[frozenset[str], int] = {}
        self._known_items: dict[str, list[Item]] = {}
        self._make_columns()
        self._make_forms()
        self._make_choices()
        self._goal_terms: dict[Goal, list[tuple[int, float]]] = {}

    def _column(self, low: float, high: float, integer: bool = False) -> int:
        self.lower.append(low)
        self.upper.append(high)
        self.integer.append(int(integer))
        return len(self.lower) - 1

    def _ends(self, terms: Iterable[tuple[int, float]]) -> tuple[float, float]:
        """Return the least and the greatest that terms can come to, each column taken by itself."""
        ends = [sorted((v * self.lower[column], v * self.upper[column])) for column, v in terms]
        return sum(low for low, _ in ends), sum(high for _, high in ends)

    def _make_columns(self) -> None:
        self.slide_column: dict[int, int] = {}  # of free slides and of those that follow one
        self.following: set[int] = set()
        self.ids = [self.stays.parts[i].id for i in self.assembly.slide_parts]
        for j, mount in enumerate(self.assembly.slide_mounts):
            if self.ids[j] in self.variable.slides and mount.goes:
                low, high = mount.low, mount.high
                self.slide_column[j] = self._column(low / UNIT, high / UNIT)
                if mount.notched:
                    self._detent(self.slide_column[j], mount.step, low, high)
        for j, mount in enumerate(self.assembly.slide_mounts):
            follower = next((f for f in self.variable.followers if f.follower == self.ids[j]), None)
            if follower is not None and follower.leader in self.ids and j not in self.slide_column:
                self._follow(follower, self.ids.index(follower.leader), j, mount)
        self.binary = [self._column(0.0, 1.0, integer=True) for _ in self.options]
        self.weight: list[tuple[int, float]] = []  # column and kg for each unit of it
        for option, body, binary in zip(self.options, self.bodies, self.binary, strict=True):
            if not option.grows:
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
            low, high = body.low / UNIT, body.high / UNIT
            if option.current and option.placed.id not in self.variable.slides:
                # It stays where it stands as long as it is there at all.
                low = high = option.placed.setting / UNIT
            column = self._column(min(low, 0.0), max(high, 0.0))
            self.rows.add([(column, 1.0), (binary, -high)], -math.inf, 0.0)
            self.rows.add([(column, 1.0), (binary, -low)], 0.0, math.inf)
            if body.step:
                self._detent(column, body.step, body.low, body.high)
            self.travel.append(column)
        self.product: dict[tuple[int, int], int] = {}

    def _follow(self, follower: Follower, leader: int, j: int, mount: Mount) -> None:
        """Let slide j go along with another, if that one is free."""
        if leader not in self.slide_column or not mount.goes:
            return
        now = float(self.now[j])
        column = self._column(min(mount.low, now) / UNIT, max(mount.high, now) / UNIT)
        self.slide_column[j] = column
        if follower.exact:
            self.following.add(j)
        same = float(self.assembly.slide_axes[leader] @ self.assembly.slide_axes[j])
        rest = now - same * float(self.now[leader])
        low, high = (rest + follower.back) / UNIT, (rest + follower.ahead) / UNIT
        self.rows.add([(column, 1.0), (self.slide_column[leader], -same)], low, high)

    def _detent(self, column: int, step: float, low: float, high: float) -> None:
        """Let a travel stop only at whole steps; counted from zero, as mounts snap."""
        count = self._column(math.ceil(low / step - ROUNDING), math.floor(high / step + ROUNDING), integer=True)
        self.rows.add([(column, 1.0), (count, -step / UNIT)], 0.0, 0.0)

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

    def _make_forms(self) -> None:
        """Write every form as constant + terms (programme units), and the rows of those with a range."""
        cg = self.at_zero.cg - self.at_zero.base
        old_base = self._old_assembly.at(self._old_assembly.settings(self.old)).base
        self._point_zero, self._holder, _ = self._about(self.target.point, self.target.holder, old_base)
        self.forms: list[tuple[float, list[tuple[int, float]]]] = []
        for form in self.target.forms:
            d = form.direction
            point, _, holds = self._about(*self.target.about(form), old_base)
            mass, total, carried = self._masses(form)
            constant = float(mass @ ((cg - point) @ d)) + form.offset
            terms: dict[int, float] = {}
            for j, axis in enumerate(self.assembly.slide_axes):
                slope = float(d @ axis) * (float(carried[j]) - total * holds[j])
                if j in self.slide_column:
                    terms[self.slide_column[j]] = slope
                else:
                    constant += slope * float(self.now[j])
            for o, body in enumerate(self.bodies):
                if form.group is not None and self.options[o].placed.parent not in form.group:
                    continue
                column, per = self.weight[o]
                per = per * self._lever(form, body, point, holds)
                fixed = float(d @ (body.cg - point)) * per
                for j, axis in enumerate(self.assembly.slide_axes):
                    slope = float(d @ axis) * per * (float(body.carriers[j]) - holds[j])
                    if negligible(slope, EXACT):
                        continue
                    if j not in self.slide_column:
                        fixed += slope * float(self.now[j])
                        continue
                    if self.options[o].grows:
                        raise AssemblyError("A weight of free mass can't sit where a free slide moves it.")
                    w = self._product(o, j)
                    terms[w] = terms.get(w, 0.0) + slope
                terms[column] = terms.get(column, 0.0) + fixed / UNIT
                own = self.travel[o]
                if own is not None and body.axis is not None:
                    lever = self._lever(form, body, point, holds)
                    terms[own] = terms.get(own, 0.0) + float(d @ body.axis) * body.mass * lever
            self.forms.append((constant / UNIT, list(terms.items())))
        now = self._now()
        for form, (constant, pairs) in zip(self.target.forms, self.forms, strict=True):
            if form.within is None:
                continue
            value = constant + sum(v * now.get(c, 0.0) for c, v in pairs)
            allowed = form.within * self._masses(form)[1] / UNIT
            added = [(column, form.within * per / UNIT) for column, per in self.weight]
            extra = max(abs(value) - allowed - sum(v * now.get(c, 0.0) for c, v in added), 0.0) + ROUNDING
            if form.strict:
                extra = 0.0
            # |value| <= within (M0 + sum m b), or what it is now.
            self.rows.add([*pairs, *((c, -v) for c, v in added)], -math.inf, allowed + extra - constant)
            self.rows.add([*pairs, *added], -allowed - extra - constant, math.inf)

    def _lever(self, form: Form, body: OptionBody, point: np.ndarray, holds: np.ndarray) -> float:
        """Return what multiplies an option's mass in a form: 1, in a product its lever (m), slides as they are."""
        if form.lever is None:
            return 1.0
        there = body.cg - point
        for j, axis in enumerate(self.assembly.slide_axes):
            there = there + (float(body.carriers[j]) - holds[j]) * float(self.now[j]) * axis
        return float(form.lever @ there)

    def _about(
        self, point: np.ndarray, holder: str | None, old_base: np.ndarray
    ) -> tuple[np.ndarray, int | None, np.ndarray]:
        """Return a point (3,) of the build as it is in the base frame with all slides at 0, what holds it, and which
        slides (k,) move it."""
        index = next((i for i, p in enumerate(self.stays.parts) if p.id == holder), None)
        point = point - old_base
        if index is not None:
            point = point - self._carried_shift(index, self.now)
        moved = [index is not None and self.assembly.carries(j, index) for j in range(len(self.now))]
        return point, index, np.array(moved, dtype=float)

    def _masses(self, form: Form) -> tuple[np.ndarray, float, np.ndarray]:
        """Return masses (n,), their sum, and what each slide carries (k,), of a form's group with its heavier parts."""
        mass, carried = self.assembly.mass, self.assembly.carried_mass()
        if form.group is not None:
            mass = mass * [placed.id in form.group for placed in self.stays.parts]
            carried = np.array([mass @ self.assembly.carried_by(j) for j in range(len(carried))])
        if form.lever is not None:
            frozen = dict(form.frozen)
            mass = mass * [frozen.get(placed.id, 0.0) for placed in self.stays.parts]
            carried = np.array([mass @ self.assembly.carried_by(j) for j in range(len(carried))])
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
        now = {column: float(self.now[j]) / UNIT for j, column in self.slide_column.items()}
        for o, option in enumerate(self.options):
            now[self.binary[o]] = 1.0 if option.current else 0.0
            own = self.travel[o]
            if own is not None:
                now[own] = option.placed.setting / UNIT if option.current else 0.0
        for (o, j), w in self.product.items():
            now[w] = now[self.binary[o]] * now[self.slide_column[j]]
        return now

    def _make_choices(self) -> None:
        first = 0
        for choice in self.variable.choices:
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
            self.rows.add(extra, -math.inf, self.limits.added + had + ROUNDING)
