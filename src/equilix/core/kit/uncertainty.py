"""How sure the sums are: first-order propagation from how each part's figures are known.

Source: JCGM 100:2008 (GUM), clause 5. Standard uncertainties throughout; k = 2 only where shown.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.kit.kinds import TYPICAL
from equilix.core.kit.parts import HowKnown, Part
from equilix.core.kit.records import Shared
from equilix.core.massprops.bodies import MassProperties
from equilix.core.rounding import lacking
from equilix.core.sources import common_practice, published

#: Relative standard uncertainty of a mass.
SHEET_MASS = common_practice(0.02)
GUESSED_MASS = common_practice(0.15)
#: Standard uncertainty of a guessed CG over the part's size along that axis.
GUESSED_CG = common_practice(0.10)
#: The same for one from a maker's drawing.
SHEET_CG = common_practice(0.03)
#: m, reading a tape or the edge of a table.
WEIGHED_CG = common_practice(0.002)
#: kg, the step of a common hanging scale.
SCALE_STEP = common_practice(0.010)
#: Accuracy limit of a luggage scale over its reading.
SCALE_ACCURACY = common_practice(0.005)
#: Coverage factor for every figure shown with a plus-minus, about 95 %.
COVERAGE = published(2.0, "GUM clause 6.3")


class Uncertainties(Struct, frozen=True, eq=False):
    """Standard uncertainties of n parts: `mass` (n,) kg, `cg` (n, 3) m, part axes; and the scales' common gains.

    `gain` (s, n) holds for each common cause, such as a scale's gain error, the mass error (kg) that it
    brings to each part: one number moves them all, so they add linearly. `gain_flat` (s,) marks the
    rectangular ones and `mass_flat` (n,) masses whose own uncertainty is a scale's step; all else is normal.
    """

    mass: np.ndarray
    cg: np.ndarray
    gain: np.ndarray
    gain_flat: np.ndarray
    mass_flat: np.ndarray


class Spread(Struct, frozen=True, eq=False):
    """Standard uncertainties of a rig: `mass` (kg), `cg` (3,) (m) and each part's share of the CG's variance along x.

    `placed` (n,) is what of each `share` (n,) comes from where the part's own CG lies; the rest comes from its mass.
    """

    mass: float
    cg: np.ndarray
    share: np.ndarray
    placed: np.ndarray

    def worst(self) -> tuple[int, bool]:
        """Return which part has the greatest share, and whether most of that is its own CG's and not its mass's."""
        at = int(self.share.argmax())
        return at, bool(2.0 * self.placed[at] > self.share[at])


def mass_uncertainty(part: Part) -> float:
    """Return the standard uncertainty (kg) of the part's mass, without the scale's common gain error.

    Weighed: step/sqrt(12), a rectangular distribution, GUM clause 4.3.7.
    """
    if part.mass_u is not None:
        return part.mass_u
    if part.mass is None:
        return 0.0
    if part.mass_known is HowKnown.WEIGHED:
        return SCALE_STEP / math.sqrt(12.0)
    return part.mass * (SHEET_MASS if part.mass_known is HowKnown.SHEET else GUESSED_MASS)


def shared_uncertainties(part: Part) -> tuple[Shared, ...]:
    """Return the mass errors that the part has in common with others; a scale's gain if nothing else is known."""
    if part.shared or part.mass is None:
        return part.shared
    if part.mass_known is HowKnown.WEIGHED and part.mass_u is None:
        return (Shared(f"scale {part.scale}", part.mass * SCALE_ACCURACY / math.sqrt(3.0), flat=True),)
    return ()


def whole_mass_uncertainty(part: Part) -> float:
    """Return the standard uncertainty (kg) of the part's mass, common causes included."""
    return math.hypot(mass_uncertainty(part), *(shared.amount for shared in shared_uncertainties(part)))


def cg_uncertainty(part: Part) -> tuple[float, float, float]:
    """Return the standard uncertainty (m) of the part's CG along its own axes."""
    usual = _usual_cg_uncertainty(part)
    if part.cg_axis_u == (None, None, None):
        return usual
    x, y, z = (own if own is not None else u for own, u in zip(part.cg_axis_u, usual, strict=True))
    return (x, y, z)


def _usual_cg_uncertainty(part: Part) -> tuple[float, float, float]:
    if part.cg_u is not None:
        return (part.cg_u,) * 3
    if part.cg is None and part.outline is None:
        # Neither measured nor drawn: anywhere within such a part as is usual, a rectangular distribution (GUM 4.3.7).
        return _of_its_kind(part)
    if part.cg_known is HowKnown.WEIGHED:
        return (WEIGHED_CG,) * 3
    share = SHEET_CG if part.cg_known is HowKnown.SHEET else GUESSED_CG
    if part.outline is None:
        return _of_its_kind(part)
    x, y, z = part.outline.size
    return (share * x, share * y, share * z)


def _of_its_kind(part: Part) -> tuple[float, float, float]:
    x, y, z = (side / 1000.0 / math.sqrt(12.0) for side in TYPICAL[part.category][1])
    return (x, y, z)


def part_uncertainties(parts: Sequence[Part]) -> Uncertainties:
    """Return the standard uncertainties of `parts`, in their order."""
    n = len(parts)
    common = [shared_uncertainties(part) for part in parts]
    sources = {shared.source: shared.flat for several in common for shared in several}
    rows = {source: row for row, source in enumerate(sorted(sources))}
    gain = np.zeros((len(rows), n))
    for column, several in enumerate(common):
        for shared in several:
            gain[rows[shared.source], column] += shared.amount
    return Uncertainties(
        np.array([mass_uncertainty(part) for part in parts]),
        np.array([cg_uncertainty(part) for part in parts]).reshape(n, 3),
        gain,
        np.array([sources[source] for source in rows], dtype=bool),
        np.array([part.mass_known is HowKnown.WEIGHED and part.mass_u is None for part in parts], dtype=bool),
    )


def cg_spread(mass: np.ndarray, rotation: np.ndarray, uncertainties: Uncertainties) -> np.ndarray:
    """Return ``m^2 R diag(u^2) R^T`` (n, 3, 3) (kg2 m2): what each part's doubtful CG adds to the static moment.

    `mass` (n,) (kg), `rotation` (n, 3, 3) from the parts' axes to the whole's.
    """
    found: np.ndarray = np.einsum("n,nij,nj,nkj->nik", mass**2, rotation, uncertainties.cg**2, rotation)
    return found


def spread(body: MassProperties, cg: np.ndarray, uncertainties: Uncertainties, by_cg: np.ndarray) -> Spread:
    """Return the standard uncertainties of the whole from those of its n parts.

    Parameters
    ----------
    body : the whole's mass properties.
    cg : (n, 3) m of the parts, in the frame of `body`.
    by_cg : (n, 3) kg2 m2, the diagonals of `cg_spread`.

    Notes
    -----
    c = sum(m r)/M gives dc/dm_i = (r_i - c)/M and dc/dr_i = m_i/M.
    """
    from_mass = (cg - body.cg) / body.mass
    squares, own = from_mass * from_mass, uncertainties.mass * uncertainties.mass
    placed = by_cg[:, 0] / body.mass**2
    variance = own @ squares + by_cg.sum(axis=0) / body.mass**2
    if len(uncertainties.gain):
        common = uncertainties.gain @ from_mass
        variance += (common * common).sum(axis=0)
    along = float(variance[0])
    per = 0.0 if lacking(along) else 1.0 / along
    return Spread(_in_all(uncertainties), np.sqrt(variance), (own * squares[:, 0] + placed) * per, placed * per)


def _in_all(uncertainties: Uncertainties) -> float:
    """Return the standard uncertainty (kg) of the whole's mass: it stays while slides move."""
    return math.sqrt(float((uncertainties.mass**2).sum() + (uncertainties.gain.sum(axis=1) ** 2).sum()))


class Certainty(StrEnum):
    """Whether a limit is kept, given the uncertainty."""

    CLEAR = "clear"
    OVER = "over"
    CANNOT_SAY = "cannot say"


def certainty(margin: float, uncertainty: float) -> Certainty:
    """Return whether a `margin` to a limit, with standard uncertainty `uncertainty`, is surely kept."""
    if abs(margin) <= COVERAGE * uncertainty:
        return Certainty.CANNOT_SAY
    return Certainty.CLEAR if margin > 0.0 else Certainty.OVER
