"""How a rigid rig hangs from a free point. Signs as in `equilix.core.frames`."""

from __future__ import annotations

import math

import numpy as np


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
