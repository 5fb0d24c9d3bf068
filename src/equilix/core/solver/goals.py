"""Goals as terms of the programme: what lies beyond, changes, ways, mass, steadiness."""

from __future__ import annotations

import math

from equilix.core.solver.apart import Apart
from equilix.core.solver.plan import UNIT, Goal


class WithGoals(Apart):
    """The programme with its goals; helper columns are made when first asked for."""

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
            case Goal.CHANGES:
                terms = [
                    (self._moves(column, float(self.now[j]) / UNIT, None), 1.0)
                    for j, column in self.slide_column.items()
                    if j not in self.following
                ]
                for option, b, own in zip(self.options, self.binary, self.travel, strict=True):
                    if option.current:
                        # Taken off counts once, unless something else takes its place: then that counts.
                        if own is not None and option.placed.id in self.freedom.slides:
                            terms.append((self._moves(own, option.placed.setting / UNIT, b), 1.0))
                    else:
                        terms.append((b, 1.0))
                terms += self._removals()
                return terms
            case Goal.TRAVEL:
                terms = []
                for j, column in self.slide_column.items():
                    if j in self.following:
                        continue
                    terms.append((self._distance(column, float(self.now[j]) / UNIT, None), 1.0))
                for option, b, own in zip(self.options, self.binary, self.travel, strict=True):
                    if own is not None and option.current and option.placed.id in self.freedom.slides:
                        terms.append((self._distance(own, option.placed.setting / UNIT, b), 1.0))
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
            place = float(d @ (body.cg - self._point_zero)) / UNIT
            own = self.travel[o]
            middle = place
            if own is not None and body.axis is not None:
                middle += float(d @ body.axis) * (body.low + body.high) / 2.0 / UNIT
            side = 1.0 if middle >= 0.0 else -1.0
            terms[self.binary[o]] = terms.get(self.binary[o], 0.0) - side * body.mass * place
            if own is not None and body.axis is not None:
                terms[own] = terms.get(own, 0.0) - side * body.mass * float(d @ body.axis)
        return list(terms.items())
