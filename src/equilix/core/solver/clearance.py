"""Pairs of parts that must not meet, in rows of the programme."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.clash import SLACK
from equilix.core.assembly.mounts import mount_of
from equilix.core.assembly.resolve import Assembly, prepare
from equilix.core.kit.parts import RODS
from equilix.core.rounding import ROUNDING, negligible
from equilix.core.solver.choices import (
    Option,
    holds_together,
)
from equilix.core.solver.plan import SURELY_APART, UNIT
from equilix.core.solver.programme import Item, Programme, separating


class Clearance(Programme):
    """The programme with rows that keep parts from meeting."""

    def keep_clear(self, pair: tuple[str, str]) -> bool:
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

    def _items(self, placed_id: str) -> list[Item]:
        # Asked again for each pair that it is in, and for what binds the answer.
        if placed_id not in self._known_items:
            self._known_items[placed_id] = self._made_items(placed_id)
        return self._known_items[placed_id]

    def _made_items(self, placed_id: str) -> list[Item]:
        index = next((i for i, p in enumerate(self.stays.parts) if p.id == placed_id), None)
        if index is not None:
            terms = []
            middle = (self.at_zero.centre[index] - self.at_zero.base) / UNIT
            for j, axis in enumerate(self.assembly.slide_axes):
                if not self.assembly.carries(j, index):
                    continue
                if j in self.slide_column:
                    terms.append((self.slide_column[j], axis))
                else:
                    middle = middle + float(self.now[j]) / UNIT * axis
            return [_item(self.assembly, index, middle, tuple(terms), None, self._rods_of(index))]
        return [item for o, option in enumerate(self.options) for item in self._option_items(o, option, placed_id)]

    def _rods_of(self, index: int) -> tuple[str, str, str] | None:
        """Return the rods that a part goes along, by holder and mount, and what stands on them and carries it."""
        placed = self.stays.parts[index]
        while placed.parent is not None and not placed.reversed:
            mount = mount_of(placed, self.stays, self.kit)
            if mount is not None and mount.kind in RODS:
                return placed.parent, placed.mount, placed.id
            placed = self.stays.placed(placed.parent)
        return None

    def _option_items(self, o: int, option: Option, placed_id: str) -> list[Item]:
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
        middle = (positions.centre[index] - positions.base) / UNIT
        terms: list[tuple[int, np.ndarray]] = []
        for j, axis in enumerate(self.assembly.slide_axes):
            if not self.bodies[o].carriers[j]:
                continue
            if j in self.slide_column:
                terms.append((self.slide_column[j], axis))
            else:
                middle = middle + float(self.now[j]) / UNIT * axis
        own, own_axis = self.travel[o], self.bodies[o].axis
        if own is not None and own_axis is not None:
            terms.append((own, own_axis))
        return [_item(assembly, index, middle, tuple(terms), self.binary[o])]

    def _keep_order(self, a: Item, b: Item, ways: np.ndarray, gap: np.ndarray) -> bool:
        """Demand that two parts that pass each other along one axis only, as on a rod, stay in their order.

        Past one another they have to be taken off and put on again: on rods that is work, elsewhere it is not done.
        False where that is not how they lie.
        """
        if a.present is not None or b.present is not None:
            return False
        found = _one_axis(a, b)
        if found is None:
            return False
        along, terms = found
        apart = a.middle - b.middle
        # From where to where they overlap along it: while they do along every separating axis.
        low, high = -math.inf, math.inf
        for way, reach in zip(ways, gap, strict=True):
            off, speed = float(way @ apart), float(way @ along)
            if negligible(speed):
                if abs(off) >= reach:
                    return False  # they never meet
                continue
            ends = sorted(((-reach - off) / speed, (reach - off) / speed))
            low, high = max(low, ends[0]), min(high, ends[1])
        if low >= high:
            return False  # they never meet
        here = sum(v * self._now().get(c, 0.0) for c, v in terms.items())
        if low + ROUNDING < here < high - ROUNDING:
            return False  # they overlap now
        beyond = here >= high - ROUNDING
        least, most = self._ends(terms.items())
        z = self._may_pass(a, b) if (least <= low if beyond else most >= high) else None
        if z is None:
            self.rows.add(list(terms.items()), *((high, math.inf) if beyond else (-math.inf, low)))
        elif beyond:
            # It stays beyond, or it is taken off and put on before the other.
            self.rows.add([*terms.items(), (z, high - least)], high, math.inf)
            self.rows.add([*terms.items(), (z, most - low)], -math.inf, most)
        else:
            self.rows.add([*terms.items(), (z, low - most)], -math.inf, low)
            self.rows.add([*terms.items(), (z, least - high)], least, math.inf)
        return True

    def _may_pass(self, a: Item, b: Item) -> int | None:
        """Return the binary that two parts on the same rods change places, None where nobody takes them off for it."""
        if a.on_rods is None or b.on_rods is None or a.on_rods[:2] != b.on_rods[:2]:
            return None
        both = frozenset((a.on_rods[2], b.on_rods[2]))
        if both not in self.passing:
            self.passing[both] = self._column(0.0, 1.0, integer=True)
        return self.passing[both]

    def _separate(self, a: Item, b: Item) -> bool:
        """Demand that along one of the ways that tell boxes apart a lies beyond b, wherever both are there."""
        ways, reach = separating(a, b)
        gap = reach - SLACK / UNIT + SURELY_APART
        if not a.terms and not b.terms and a.present is None and b.present is None:
            return False  # nothing moves one against the other: touching by a rounding is no new clash
        if self._keep_order(a, b, ways, gap):
            return True
        sides: list[tuple[int, float]] = []
        for way, most in zip(ways, gap.tolist(), strict=True):
            for sign in (1.0, -1.0):
                terms: dict[int, float] = {}
                for item, side in ((a, sign), (b, -sign)):
                    for column, axis in item.terms:
                        terms[column] = terms.get(column, 0.0) + side * float(axis @ way)
                terms = {c: v for c, v in terms.items() if not negligible(v)}
                constant = sign * float((a.middle - b.middle) @ way) - most
                worst, best = (constant + end for end in self._ends(terms.items()))
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


def _item(
    assembly: Assembly,
    index: int,
    middle: np.ndarray,
    terms: tuple[tuple[int, np.ndarray], ...],
    present: int | None,
    on_rods: tuple[str, str, str] | None = None,
) -> Item:
    """Return part number `index` of a build as a box in the programme; upright ones along the rig's axes."""
    upright = bool(assembly.upright[index])
    half, turn = (assembly.edges, np.eye(3)) if upright else (assembly.half_size, assembly.rotation[index])
    return Item(middle, half[index] / UNIT, turn, upright, terms, present, on_rods)


def _one_axis(a: Item, b: Item) -> tuple[np.ndarray, dict[int, float]] | None:
    """Return the one axis (3,) along which a moves against b, and by which columns; None if there are more, or none."""
    along: np.ndarray | None = None
    terms: dict[int, float] = {}
    for item, side in ((a, 1.0), (b, -1.0)):
        for column, axis in item.terms:
            if along is None:
                along = axis
            by = float(axis @ along)
            if not negligible(float(np.abs(axis - by * along).max())):
                return None
            terms[column] = terms.get(column, 0.0) + side * by
    terms = {c: v for c, v in terms.items() if not negligible(v)}
    return None if along is None or not terms else (along, terms)
