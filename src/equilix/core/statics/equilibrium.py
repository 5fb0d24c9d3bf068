"""What every support has in common: the point that the weight is judged about, and the way in which it tips.

The first form of a support is ``forward . sum m (r - point)``: ledger, slides to level, lens table, counterweight,
trade-off and search read nothing else of it.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import cached_for_rig
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.massprops.bodies import MassProperties
from equilix.core.statics.hands import Held
from equilix.core.statics.pose import Pose


class SupportResult:
    """What a support has to say of a rig beyond how it lies on it: only the support's own files look inside."""

    __slots__ = ()


class Equilibrium(Struct, frozen=True, eq=False):
    """How a build lies on its support, rig frame (m).

    `point` (3,) goes with part number `holder`; `forward` (3,) is the unit vector in which it tips, level unless it
    shall be tilted. `span` and `aside` (m) are how far from the point the CG may lie that way and beside it, None where
    there is no such room, or where it makes no difference. `ahead`, `left` and `above` (m) place the CG from the point,
    along `forward`, across it and up. `moment` (n,) N m is each part's share of `tip_moment`, positive ahead;
    `tip_uncertainty` and `ahead_uncertainty` (m) are standard uncertainties.
    `holding` is what holds the rig alone, None if nothing does, and `pose` how. `groups` (n,) bool are the parts of its
    stages where it has some, that of the first form first: only they have a share in it.
    """

    point: np.ndarray
    holder: int
    forward: np.ndarray
    span: float | None
    aside: float | None
    ahead: float
    left: float
    above: float
    moment: np.ndarray
    tip_moment: float
    tip_uncertainty: float
    ahead_uncertainty: float
    pose: Pose
    holding: Held | None
    groups: tuple[np.ndarray, ...] = ()

    def of_form(self, mass: np.ndarray) -> np.ndarray:
        """Return the masses (n,) that have a share in the first form."""
        return mass * self.groups[0] if self.groups else mass

    @property
    def margins(self) -> tuple[float, float] | None:
        """How far (m) the CG lies inside the room that it has, along `forward` and across; None without such room."""
        if self.span is None or self.aside is None:
            return None
        return self.span - abs(self.ahead), self.aside - abs(self.left)

    @property
    def outside(self) -> float:
        """How far (m) the CG lies outside that room, 0 inside or where there is none."""
        return max(-min(self.margins), 0.0) if self.margins is not None else 0.0

    @property
    def across(self) -> np.ndarray:
        """The level unit vector (3,) to the left of `forward`."""
        return left_of(self.forward)


def left_of(forward: np.ndarray) -> np.ndarray:
    """Return the level unit vector (3,) to the left of `forward` (3,)."""
    size = math.hypot(float(forward[0]), float(forward[1]))
    return np.array([-forward[1] / size, forward[0] / size, 0.0])


@cached_for_rig
def _of_group(assembly: Assembly, group: bytes | None) -> tuple[float, np.ndarray]:
    """Return the mass (kg) of a group of parts (n,) bool, None for all, and what their CGs add to a covariance."""
    if group is None:
        return assembly.whole, assembly.cg_spread_in_all
    inside = np.frombuffer(group, dtype=bool)
    return float(assembly.mass[inside].sum()), assembly.cg_spread[inside].sum(axis=0)


def _by_masses(assembly: Assembly, arm: np.ndarray) -> float:
    """Return the variance that the parts' masses bring to what each of them adds `arm` (n,) times its mass to."""
    uncertainties, own = assembly.uncertainties, assembly.uncertainties.mass * arm
    if not len(uncertainties.gain):
        return float(own @ own)
    common = uncertainties.gain @ arm
    return float(own @ own + common @ common)


def equilibrium_at(
    assembly: Assembly,
    positions: Positions,
    body: MassProperties,
    point: np.ndarray,
    holder: int,
    forward: np.ndarray,
    room: tuple[float | None, float | None],
    pose: Pose,
    holding: Held | None,
    groups: tuple[np.ndarray, ...] = (),
) -> Equilibrium:
    """Return the stand of a rig about `point`, see `Equilibrium`; `room` is its `span` and `aside`."""
    lever = (positions.cg - point) @ forward
    masses = assembly.mass
    if groups:
        # Parts of outer stages do not turn on the innermost axis.
        lever = lever * groups[0]
        masses = masses * groups[0]
    total, inside = _of_group(assembly, groups[0].tobytes() if groups else None)
    # First-order: M = sum m g (r - point) . forward.
    by_cg = float(forward @ inside @ forward)
    variance = _by_masses(assembly, lever) + by_cg
    d = (masses @ positions.cg / total if groups else body.cg) - point
    ahead = float(d @ forward)
    # The same of ``c = sum m r / M``: dc/dm_i = (r_i - c)/M.
    off = lever - ahead if not groups else (lever - ahead) * groups[0]
    spread = math.sqrt(_by_masses(assembly, off) + by_cg) / total
    left = float(left_of(forward) @ d)
    return Equilibrium(
        point,
        holder,
        forward,
        *room,
        ahead,
        left,
        float(d[2]),
        assembly.mass * STANDARD_GRAVITY * lever,
        total * STANDARD_GRAVITY * ahead,
        STANDARD_GRAVITY * math.sqrt(variance),
        spread,
        pose,
        holding,
        groups,
    )
