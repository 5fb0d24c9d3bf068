"""One body's mass properties: primitive solids, joining, moving, principal axes."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.errors import MassPropertiesError
from equilix.core.rounding import lacking

#: The unit tensor (3, 3).
_UNIT = np.eye(3)


class MassProperties(Struct, frozen=True, eq=False):
    """Mass (kg), centre of gravity `cg` (3,) (m) and `inertia` (3, 3) about it (kg m2), all in one frame."""

    mass: float
    cg: np.ndarray
    inertia: np.ndarray


def cuboid_inertia(mass: np.ndarray | float, size: np.ndarray) -> np.ndarray:
    """Return the principal moments (..., 3) (kg m2) of uniform solid boxes of `size` (..., 3) (m).

    Source: m/12 (b2 + c2), Meriam and Kraige, Engineering Mechanics: Dynamics, table D/4.
    """
    squares = np.asarray(size, dtype=float) ** 2
    result: np.ndarray = np.asarray(mass)[..., None] / 12.0 * (squares.sum(axis=-1, keepdims=True) - squares)
    return result


def cylinder_inertia(mass: np.ndarray | float, radius: np.ndarray | float, length: np.ndarray | float) -> np.ndarray:
    """Return the principal moments (..., 3) (kg m2) of solid cylinders whose axis is x; lengths in m.

    Source: m r2/2 along, m/12 (3 r2 + L2) across, Meriam and Kraige, Dynamics, table D/4.
    """
    along = np.asarray(mass) * np.asarray(radius) ** 2 / 2.0
    across = np.asarray(mass) / 12.0 * (3.0 * np.asarray(radius) ** 2 + np.asarray(length) ** 2)
    return np.stack([along, across, across], axis=-1)


def combine_arrays(mass: np.ndarray, cg: np.ndarray, inertia: np.ndarray) -> MassProperties:
    """Return the mass properties of n bodies given as arrays in one frame.

    Parameters
    ----------
    mass : (n,) kg
    cg : (n, 3) m
    inertia : (n, 3, 3) kg m2 about each body's own CG, or (n, 3) when each is diagonal.

    Raises
    ------
    MassPropertiesError
        If the total mass is not positive.

    Notes
    -----
    Parallel-axis theorem, ``I_P = I_C + m (d.d E - d d^T)``: Kane and Levinson,
    Dynamics: Theory and Applications (1985), ch. 3. Two passes, CG first, so that a
    rig far from its origin loses no digits.
    """
    total = float(mass.sum())
    if lacking(total):
        raise MassPropertiesError(f"The total mass is {total:g} kg. Give at least one part a mass.")
    centre = mass @ cg / total
    steiner = spread_inertia(mass, cg - centre)
    own = np.diag(inertia.sum(axis=0)) if inertia.ndim == 2 else inertia.sum(axis=0)
    tensor = own + steiner
    return MassProperties(total, centre, (tensor + tensor.T) / 2.0)


def spread_inertia(mass: np.ndarray, d: np.ndarray) -> np.ndarray:
    """Return the inertia (3, 3) (kg m2) of point masses `mass` (n,) (kg) at `d` (n, 3) (m) about the origin."""
    second = (mass[:, None] * d).T @ d
    tensor: np.ndarray = second.trace() * _UNIT - second
    return tensor


def shift_inertia(body: MassProperties, point: np.ndarray) -> np.ndarray:
    """Return the inertia (3, 3) (kg m2) of `body` about `point` (3,) (m), axes unchanged."""
    d = body.cg - point
    result: np.ndarray = body.inertia + body.mass * (d @ d * np.eye(3) - np.outer(d, d))
    return result
