"""A counterweight's lever: mass wanted at a place, or place for a mass. ``m a = -M``, M the first moment.

A block of steel hangs below its mount, the lower the heavier it is: on a part that stands askew that shifts its arm.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.mounts import FreeMount
from equilix.core.frames import STANDARD_GRAVITY, UP
from equilix.core.kit.parts import Connection
from equilix.core.rounding import SLIGHT, lacking, negligible
from equilix.core.solver.dead_weight import STEEL, hangs_below


class Lever(Struct, frozen=True):
    """A mount as a lever about the support: its own arm (m, forward) is ``start + rise * setting``; `moment` kg m now.

    A block's CG lies by `tilt` (m for each m that it hangs below the mount) farther ahead than that.
    """

    start: float
    rise: float
    low: float
    high: float
    moment: float
    tilt: float

    def arm(self, setting: float, mass: float) -> float:
        """Return the arm (m) ahead of the support of a block of `mass` (kg) at a setting (m)."""
        return self.start + self.rise * setting + self.tilt * hangs_below(mass)

    def mass_at(self, setting: float) -> float | None:
        """Return the mass (kg) that levels the rig from there; None if it pulls the wrong way."""
        # With a cube's side s: STEEL s^3 (arm of a block without a size + tilt s/2) = -moment.
        sides = np.roots([STEEL * self.tilt / 2.0, STEEL * self.arm(setting, 0.0), 0.0, 0.0, self.moment])
        real = [float(side.real) for side in sides if negligible(side.imag) and side.real > SLIGHT]
        return STEEL * min(real) ** 3 if real else None

    def place_for(self, mass: float) -> float | None:
        """Return the setting (m) from which `mass` (kg) levels the rig, maybe beyond the ends; None if none does."""
        if lacking(mass) or negligible(self.rise):
            return None
        return (-self.moment / mass - self.arm(0.0, mass)) / self.rise

    def beyond(self, setting: float) -> float:
        """Return by how much (m) a setting lies beyond the ends, 0 inside."""
        return max(self.low - setting, setting - self.high, 0.0)


def lever_of(analysis: Analysis, free: FreeMount) -> Lever | None:
    """Return the lever of a free mount; None without a support, or if nothing on it counts there."""
    equilibrium = analysis.equilibrium
    if equilibrium is None or analysis.body is None:
        return None
    index = next((i for i, p in enumerate(analysis.build.parts) if p.id == free.placed_id), None)
    if index is None or not equilibrium.of_form(np.ones(len(analysis.build.parts)))[index]:
        return None
    rotation, origin = analysis.assembly.rotation[index], analysis.positions.origin[index]
    at = origin + rotation @ np.array(free.mount.at) - equilibrium.point
    slides = free.mount.joint is Connection.SLIDE
    rise = float(rotation @ np.array(free.mount.unit_axis) @ equilibrium.forward) if slides else 0.0
    low, high = (free.mount.low, free.mount.high) if slides else (0.0, 0.0)
    tilt = -float(rotation @ UP @ equilibrium.forward)
    return Lever(float(at @ equilibrium.forward), rise, low, high, equilibrium.tip_moment / STANDARD_GRAVITY, tilt)
