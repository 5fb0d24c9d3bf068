"""Frames, axes and signs, each written once.

Rig frame: origin where the optical axis meets the sensor plane; x forward along
the lens, y to the operator's left, z up; right-handed, as ISO 8855 and REP 103.
It goes with the camera: when the camera slides back on its plate, everything
else moves forward in it.

Positive pitch is about +y: nose down. Positive roll is about +x: left side up.
Positive yaw is about +z: to the left. Angles are radians; products of inertia
carry the minus sign, ``I_xy = -sum m x y``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from equilix.core.rounding import ROUNDING
from equilix.core.sources import published

X, Y, Z = 0, 1, 2
_AXES = np.eye(3)
_AXES.flags.writeable = False
#: Unit vectors (3,) along the lens, to the operator's left, and up.
AHEAD, LEFT, UP = _AXES

#: Standard acceleration of free fall, m/s2.
STANDARD_GRAVITY = published(9.80665, "3rd CGPM 1901; ISO 80000-3")


def rotation_about(axis: tuple[float, float, float], angle: float) -> np.ndarray:
    """Return the (3, 3) matrix that turns vectors by `angle` (rad, right-hand rule) about `axis`.

    The axis need not have unit length. Source: Rodrigues' rotation formula, as in
    Murray, Li and Sastry, A Mathematical Introduction to Robotic Manipulation (1994), eq. 2.14.
    """
    if angle == 0.0:
        return np.eye(3)
    x, y, z = axis
    length = math.sqrt(x * x + y * y + z * z)
    x, y, z = x / length, y / length, z / length
    c, s = math.cos(angle), math.sin(angle)
    t = 1.0 - c
    return np.array(
        [
            [t * x * x + c, t * x * y - s * z, t * x * z + s * y],
            [t * x * y + s * z, t * y * y + c, t * y * z - s * x],
            [t * x * z - s * y, t * y * z + s * x, t * z * z + c],
        ]
    )


def cross(a: Sequence[float] | np.ndarray, b: Sequence[float] | np.ndarray) -> np.ndarray:
    """Return the cross product (3,) of two vectors (3,): for one pair NumPy's own takes ten times as long."""
    ax, ay, az = a
    bx, by, bz = b
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def in_rows(points: Sequence[np.ndarray] | np.ndarray) -> np.ndarray:
    """Return points or directions in rows (n, 3), also where there are none."""
    return np.array(points).reshape(-1, 3)


def unit(v: np.ndarray, otherwise: np.ndarray, least: float = ROUNDING) -> np.ndarray:
    """Return a vector (3,) in unit length, or `otherwise` if it is no longer than `least`: it has no direction."""
    x, y, z = v.tolist()
    size = math.sqrt(x * x + y * y + z * z)
    return v / size if size > least else otherwise.copy()


_QUARTER_TURNS = tuple(np.rint(rotation_about((0.0, 0.0, 1.0), math.pi / 2 * n)) for n in range(4))


def quarter_turn(n: int) -> np.ndarray:
    """Return the (3, 3) turn of `n` quarters to the left about +z, free of rounding."""
    result: np.ndarray = _QUARTER_TURNS[n % 4]
    return result
