"""Goals as terms of the programme: what lies beyond, changes, ways, mass, steadiness."""

from __future__ import annotations

import math

import numpy as np

from equilix.core.assembly.mounts import mount_of
from equilix.core.solver.choices import with_options
from equilix.core.solver.clearance import Clearance
from equilix.core.solver.effort import PASS, STEP, follower_seconds, placing_seconds, removal_seconds, slide_seconds
from equilix.core.solver.plan import UNIT, Goal


class WithGoals(Clearance):
    """The programme with its goals; helper columns are made when first asked for."""

    def _terms(self, goal: Goal) -> list[tuple[int, float]]:
        """Return a goal as terms; helper columns are made when first asked for."""
        if goal not in self._goal_terms:
            self._goal_terms[goal] = self._make_goal(goal)
        # Pairs that may pass each other are found while a plan is sought.
        passing = [(z, PASS / STEP) for z in self.passing.values()] if goal is Goal.EFFORT else []
        return [*self._goal_terms[goal], *passing]

    def _make_goal(self, goal: Goal) -> list[tuple[int, float]]:
        match goal:
            case Goal.BEYOND | Goal.MOMENT:
                found = []
                for form, (constant, terms) in zip(self.target.forms, self.forms, strict=True):
                    if form.within is None:
                        slack = self.target.allowed(form) / UNIT if goal is Goal.BEYOND else 0.0
                        r = self._column(0.0, math.inf)
                        self.rows.add([*terms, (r, -1.0)], -math.inf, slack - constant)
                        self.rows.add([*terms, (r, 1.0)], -slack - constant, math.inf)
                        found.append((r, form.weight))
                return found
            case Goal.DEAD_MASS:
                return [w for option, w in zip(self.options, self.weight, strict=True) if option.dead]
            case Goal.ADDED_MASS:
                return list(self.weight)
            case Goal.EFFORT:
                moved = [
                    (self._moves(*place), steps) for place, steps in zip(self._places(), self._setting(), strict=True)
                ]
                # Taken off counts once, unless something else takes its place: then that counts.
                return [*moved, *self._placings(), *self._removals()]
            case Goal.TRAVEL:
                return [(self._distance(*place), 1.0) for place in self._places()]
            case _:
                return self._spread()

    def _places(self) -> list[tuple[int, float, int | None]]:
        """Return what stands somewhere and may go elsewhere: its column, where it stands, and the binary that it is
        there at all, None for what stays on."""
        found: list[tuple[int, float, int | None]] = [
            (column, float(self.now[j]) / UNIT, None)
            for j, column in self.slide_column.items()
            if j not in self.following
        ]
        for option, b, own in zip(self.options, self.binary, self.travel, strict=True):
            if own is not None and option.current and option.placed.id in self.variable.slides:
                found.append((own, option.placed.setting / UNIT, b))
        return found

    def _setting(self) -> list[float]:
        """Return the steps of work to set each of the places, with what goes along."""
        ids = self.ids
        steps = []
        for j in self.slide_column:
            if j in self.following:
                continue
            along = sum(f.leader == ids[j] for f in self.variable.followers if f.exact and f.follower in ids)
            steps.append((slide_seconds(self.assembly.slide_mounts[j].kind) + follower_seconds(along)) / STEP)
        for option, own in zip(self.options, self.travel, strict=True):
            if own is not None and option.current and option.placed.id in self.variable.slides:
                mount = mount_of(option.placed, self.old, self.kit)
                assert mount is not None
                steps.append(slide_seconds(mount.kind) / STEP)
        return steps

    def _placings(self) -> list[tuple[int, float]]:
        """Return the steps of work to put each new option where it goes."""
        terms, first = [], 0
        for choice in self.variable.choices:
            old = next((option.placed for option in choice.options if option.current), None)
            for option, b in zip(choice.options, self.binary[first:], strict=False):
                if option.current:
                    continue
                kit = self.kit if option.part is None else {**self.kit, option.part.id: option.part}
                after = with_options(self.stays, (option,), {})
                new = option.carried if old is None else ()
                seconds = placing_seconds(option.placed, old, self.old, after, kit, option.part is not None)
                seconds += sum(placing_seconds(one, None, self.old, after, kit, False) for one in new)
                terms.append((b, seconds / STEP))
            first += len(choice.options)
        return terms

    def _removals(self) -> list[tuple[int, float]]:
        """Return the steps of work of choices whose present option is gone and nothing is in its place."""
        terms = []
        first = 0
        for choice in self.variable.choices:
            columns = self.binary[first : first + len(choice.options)]
            old = next((option.placed for option in choice.options if option.current), None)
            if old is not None and not choice.needed:
                gone = self._column(0.0, 1.0)
                # gone >= 1 - sum of the choice
                self.rows.add([(gone, 1.0), *((c, 1.0) for c in columns)], 1.0, math.inf)
                terms.append((gone, removal_seconds(old, self.old, self.kit) / STEP))
            first += len(choice.options)
        return terms

    def _moves(self, column: int, now: float, present: int | None) -> int:
        """Return a binary that is 1 if the column leaves `now` (while `present`)."""
        c = self._column(0.0, 1.0, integer=True)
        # What stands beyond its stop has to move: then one of the two is nothing.
        up, down = self.upper[column] - now, now - self.lower[column]
        self._within(column, now, present, (c, max(up, 0.0)), (c, max(down, 0.0)))
        return c

    def _distance(self, column: int, now: float, present: int | None) -> int:
        """Return a column that is as large as the way from `now` (while `present`)."""
        e = self._column(0.0, math.inf)
        self._within(column, now, present, (e, 1.0), (e, 1.0))
        return e

    def _within(
        self, column: int, now: float, present: int | None, up: tuple[int, float], down: tuple[int, float]
    ) -> None:
        """Keep a column within ``now - down`` and ``now + up``, each a column with its factor; at 0 if not `present`.

        What is not there has 0 in its column, so that `now` counts with its binary.
        """
        terms, rest = ([(column, 1.0)], now) if present is None else ([(column, 1.0), (present, -now)], 0.0)
        self.rows.add([*terms, (up[0], -up[1])], -math.inf, rest)
        self.rows.add([*terms, down], rest, math.inf)

    def _spread(self) -> list[tuple[int, float]]:
        """Return the negative of ``sum m |x - s|`` with every part kept on its side: small means far from the support.

        Inertia is quadratic in the slides; the first absolute moment ranks with it and is linear.
        """
        d = self.target.forms[0].direction
        # By how much each slide moves each part (k, n) along d against the holder.
        by = self.assembly.carries_all().astype(float)
        if self._holder is not None:
            by -= by[:, [self._holder]]
        by *= (self.assembly.slide_axes @ np.array(d))[:, None]
        here = (self.at_zero.cg - self.at_zero.base - self._point_zero) @ np.array(d) + self.now @ by
        pulls = by @ np.copysign(self.assembly.mass, here)
        terms = {column: -float(pulls[j]) for j, column in self.slide_column.items() if pulls[j]}
        for o, body in enumerate(self.bodies):
            place = float(d @ (body.cg - self._point_zero)) / UNIT
            own = self.travel[o]
            middle = place
            if own is not None and body.axis is not None:
                middle += float(d @ body.axis) * (body.low + body.high) / 2.0 / UNIT
            side = math.copysign(1.0, middle)
            terms[self.binary[o]] = terms.get(self.binary[o], 0.0) - side * body.mass * place
            if own is not None and body.axis is not None:
                terms[own] = terms.get(own, 0.0) - side * body.mass * float(d @ body.axis)
        return list(terms.items())
