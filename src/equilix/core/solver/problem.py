"""What every balance question is made of: linear forms of mass and first moment in the slides.

A support wants some components of the first moment about its point to vanish. Here is that form for
one build; `trim` solves it for one change at a time, and a search over many changes can take the
same form.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.assembly.resolve import Assembly, Positions


class MomentForm(Struct, frozen=True, eq=False):
    """First moment about the support: ``moment + slope.T @ (q - settings)`` (kg m), exact in the slides.

    `moment` (3,) at the present `settings` (k,) (m); `slope` (k, 3) kg; `mass` kg.
    """

    mass: float
    moment: np.ndarray
    slope: np.ndarray
    settings: np.ndarray

    def at(self, settings: np.ndarray) -> np.ndarray:
        """Return the first moment (3,) (kg m) at `settings` (k,)."""
        result: np.ndarray = self.moment + (settings - self.settings) @ self.slope
        return result


def moment_form(
    assembly: Assembly,
    positions: Positions,
    settings: np.ndarray,
    support: np.ndarray,
    support_part: int,
    masses: np.ndarray,
) -> MomentForm:
    """Return the form of `masses` (n,) (kg) about `support` (3,) (m), a point fixed to part number `support_part`."""
    mass = float(masses.sum())
    moment = masses @ (positions.cg - support)
    carried = np.array([masses @ assembly.carried_by(j) for j in range(len(assembly.slide_parts))])
    moves_support = np.array([assembly.carries(j, support_part) for j in range(len(assembly.slide_parts))], dtype=float)
    slope = (carried - mass * moves_support)[:, None] * assembly.slide_axes
    return MomentForm(mass, moment, slope, settings)
