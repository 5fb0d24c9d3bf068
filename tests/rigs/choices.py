"""Rigs and helpers for tests of choices."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from equilix.core.kit.parts import Mount, Part
from tests.rigs.plain import base

FORWARD, LEFT = np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])


def ends(mount: Mount, low: float, high: float) -> Mount:
    return replace(mount, low=low, high=high)


def plate(*more: Mount, rail_ends: tuple[float, float] = (-0.5, 0.5), mass: float = 1.0) -> Part:
    """Return the base of `builders` with its rail cut to its ends and more mounts."""
    plain = base(mass)
    along, across = ends(plain.mount("rail"), *rail_ends), plain.mount("across")
    return replace(plain, mounts=(plain.mounts[0], along, across, *more))
