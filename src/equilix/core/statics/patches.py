"""Patches that push and rub: friction cones at their corners, as wrenches.

Friction cones as in Murray, Li and Sastry, A Mathematical Introduction to Robotic Manipulation (1994), section 5.2,
each an octagon.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from equilix.core.cache import CACHED_PEOPLE
from equilix.core.frames import LEFT, UP, cross, unit
from equilix.core.rounding import SLIGHT
from equilix.core.statics.pad import Shoulder

#: Friction below which there is none: rays a hair apart only make the programme ill-conditioned.
_NO_FRICTION = 1e-3
_OCTAGON = [(math.cos(math.pi / 4 * i), math.sin(math.pi / 4 * i)) for i in range(8)]


@lru_cache(maxsize=CACHED_PEOPLE)
def pad_rays(shoulder: Shoulder) -> np.ndarray:
    """Return the wrenches (6, 32) about the patch's middle of unit upright force along each cone ray."""
    friction = shoulder.friction if shoulder.friction >= _NO_FRICTION else 0.0
    x, y, _ = np.eye(3)
    wrenches = patch_rays(np.zeros(3), x, y, (shoulder.span_x, shoulder.span_y), friction)
    wrenches.flags.writeable = False
    return wrenches


def patch_rays(
    middle: np.ndarray, side: np.ndarray, up: np.ndarray, span: tuple[float, float], friction: float
) -> np.ndarray:
    """Return the wrenches (6, 32) about the origin of unit pushes at the corners of a patch, along each cone ray.

    The patch of `span` (m) lies about `middle` (3,) (m) along the unit vectors `side` and `up` (3,); it pushes along
    ``side x up``.
    """
    rays = cone_rays(side, up, friction)
    found = []
    for a in (-0.5, 0.5):
        for b in (-0.5, 0.5):
            corner = middle + a * span[0] * side + b * span[1] * up
            found += [np.concatenate([ray, cross(corner, ray)]) for ray in rays]
    return np.array(found).T


def cone_rays(side: np.ndarray, up: np.ndarray, friction: float) -> tuple[np.ndarray, ...]:
    """Return eight rays (3,), each of unit push along ``side x up``, on the octagon inside the friction cone."""
    normal = cross(side, up)
    return tuple(normal + friction * (c * side + s * up) for c, s in _OCTAGON)


def hand_map(points: Sequence[np.ndarray] | np.ndarray, origin: np.ndarray) -> np.ndarray:
    """Return the matrix (6, 6 h) from hands' forces and couples at `points` (h, 3) (m) to the wrench about `origin`."""
    found = np.zeros((6, len(points), 6))
    for h, point in enumerate(points):
        found[:3, h, :3] = found[3:, h, 3:] = np.eye(3)
        found[3:, h, :3] = _cross_matrix(point - origin)
    return found.reshape(6, -1)


def _cross_matrix(v: np.ndarray) -> np.ndarray:
    x, y, z = (float(c) for c in v)
    return np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])


def tangents(normal: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return two unit vectors (3,) across `normal` (3,), with ``side x up`` along it."""
    side = unit(cross(normal, UP), LEFT, SLIGHT)
    return side, cross(normal, side)
