"""Each support reduced to a point: what gravity does to a rigid rig about it.

All take the rig's mass properties and a point (3,) (m), both in the rig frame, and use
d = CG - point and W = mass x standard gravity. Signs as in `equilix.core.frames`.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from equilix.core.frames import STANDARD_GRAVITY, X, Y, Z
from equilix.core.massprops.bodies import MassProperties


class ShoulderMoments(Struct, frozen=True):
    """Moments about the pad (N m): pitch positive tips forward, roll negative tips to the left."""

    pitch_moment: float
    roll_moment: float


class Hang(Struct, frozen=True):
    """Rest attitude below a free point (rad): pitch nose down +, roll left side up +; None if undefined."""

    tension: float
    stable: bool
    pitch: float | None
    roll: float | None


class GimbalTorques(Struct, frozen=True):
    """`offset` (3,) of the CG from the pivot, untilted (m); gravity's torques on the rig (N m)."""

    offset: np.ndarray
    tilt_torque: float
    roll_torque: float


def shoulder_moments(body: MassProperties, pad: np.ndarray) -> ShoulderMoments:
    """Return the weight's moments about `pad`: pitch W dx and roll -W dy."""
    d = body.cg - pad
    weight = body.mass * STANDARD_GRAVITY
    return ShoulderMoments(float(weight * d[X]), float(-weight * d[Y]))


def hang_angles(d: np.ndarray) -> tuple[float | None, float | None]:
    """Return (pitch, roll) (rad) at which a rig with CG at `d` (3,) from its free point comes to rest.

    The rest orientation is Rz(heading) Ry(pitch) Rx(roll) with the CG straight below the
    point: pitch = atan2(dx, hypot(dy, dz)), roll = atan2(-dy, -dz). Neither exists with the
    CG in the point itself; roll doesn't with the CG straight ahead of it.
    """
    dx, dy, dz = (float(v) for v in d)
    if dx == dy == dz == 0.0:
        return None, None
    pitch = math.atan2(dx, math.hypot(dy, dz))
    if dy == dz == 0.0:
        return pitch, None
    return pitch, math.atan2(-dy, -dz)


def hang(body: MassProperties, hook: np.ndarray) -> Hang:
    """Return tension (N) and rest attitude of a rig hung freely from `hook`; stable if the CG is below it."""
    d = body.cg - hook
    pitch, roll = hang_angles(d)
    return Hang(body.mass * STANDARD_GRAVITY, bool(d[Z] < 0.0), pitch, roll)


def gimbal_torques(body: MassProperties, pivot: np.ndarray, tilt: float) -> GimbalTorques:
    """Return offset and gravity torques about `pivot` at `tilt` (rad, nose down positive).

    Tilt: W (dx cos T + dz sin T) about +y. Roll: -W dy about +x.
    """
    d = body.cg - pivot
    weight = body.mass * STANDARD_GRAVITY
    torque = weight * (d[X] * math.cos(tilt) + d[Z] * math.sin(tilt))
    return GimbalTorques(d, float(torque), float(-weight * d[Y]))
