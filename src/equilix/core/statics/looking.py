"""Where the eye of somebody who carries a rig meets its screen."""

from __future__ import annotations

import math

import numpy as np

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.kit.parts import Category
from equilix.core.operator.body import Body
from equilix.core.sources import common_practice

#: m: a screen that is not so far ahead of the eye is not looked at.
_IN_SIGHT = common_practice(0.02)


def screens(assembly: Assembly) -> list[int]:
    """Return the numbers of the parts that are looked at."""
    return [i for i, part in enumerate(assembly.parts) if part.category is Category.MONITOR]


def screen_from_eye(assembly: Assembly, positions: Positions, body: Body, shift: np.ndarray) -> np.ndarray | None:
    """Return the way (3,) (m) from the eye to the middle of the nearest screen ahead of it, None if there is none."""
    spots = [positions.centre[i] + shift - body.eye for i in screens(assembly)]
    ahead = [d for d in spots if d[0] > _IN_SIGHT]
    return min(ahead, key=lambda v: float(v @ v)) if ahead else None


def gaze_down(d: np.ndarray) -> float:
    """Return how far below level (rad) a direction (3,) points."""
    return math.atan2(-float(d[2]), math.hypot(float(d[0]), float(d[1])))
