"""A counterweight's lever: mass wanted at a place, or place for a mass. ``m a = -M``, M the first moment."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import FreeMount
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Joint
from equilix.core.rounding import SLIGHT, negligible


class Lever(Struct, frozen=True):
    """A mount as a lever about the support: the arm (m, forward) is ``start + rise * setting``; `moment` kg m now."""

    start: float
    rise: float
    low: float
    high: float
    moment: float

    def arm(self, setting: float) -> float:
        """Return the arm (m) ahead of the support at a setting (m)."""
        return self.start + self.rise * setting

    def mass_at(self, setting: float) -> float | None:
        """Return the mass (kg) that levels the rig from there; None if it pulls the wrong way."""
        arm = self.arm(setting)
        if negligible(arm, SLIGHT) or arm * self.moment > 0.0:
            return None
        return -self.moment / arm

    def place_for(self, mass: float) -> float | None:
        """Return the setting (m) from which `mass` (kg) levels the rig, maybe beyond the ends; None if none does."""
        if mass <= 0.0 or negligible(self.rise):
            return None
        return (-self.moment / mass - self.start) / self.rise

    def beyond(self, setting: float) -> float:
        """Return by how much (m) a setting lies beyond the ends, 0 inside."""
        return max(self.low - setting, setting - self.high, 0.0)


def lever_of(analysis: Analysis, free: FreeMount) -> Lever | None:
    """Return the lever of a free mount; None without a support."""
    stand = analysis.stand
    if stand is None or analysis.body is None:
        return None
    index = next((i for i, p in enumerate(analysis.build.parts) if p.id == free.placed_id), None)
    if index is None:
        return None
    rotation, origin = analysis.assembly.rotation[index], analysis.positions.origin[index]
    at = origin + rotation @ np.array(free.mount.at) - stand.point
    slides = free.mount.joint is Joint.SLIDE
    rise = float(rotation @ np.array(free.mount.unit_axis) @ stand.forward) if slides else 0.0
    low, high = (free.mount.low, free.mount.high) if slides else (0.0, 0.0)
    return Lever(float(at @ stand.forward), rise, low, high, stand.tip_moment / STANDARD_GRAVITY)
