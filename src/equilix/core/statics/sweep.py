"""What a part that turns about an axis comes near to: boxes turned about it, against boxes that stand still."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct


class Passing(Struct, frozen=True):
    """How near part number `first` comes to part number `second` as it turns: `gap` (m) at `angle` (rad).

    A gap below zero is how deep it goes in. `meets` (rad) is the angle nearest to home at which they touch, None if
    they never do.
    """

    first: int
    second: int
    gap: float
    angle: float
    meets: float | None


#: rad between the angles that are tried first; m to which the least gap is found, and rounds that lead there.
_STEP, _FINE, _ROUNDS = math.radians(7.5), 5e-5, 6
_QUARTERS = np.array([0.25, 0.5, 0.75])
#: m by which two parts must lie over each other along the axis to meet.
_OVERLAP = 5e-4


def rectangle_gaps(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Return how far apart (m) convex outlines `first` and `second` (m, c, 2) are, in m places; depth below zero.

    Outlines run round to the left. Apart: the least distance of a corner from a side of the other. Over each other:
    the least way along a side's normal that parts them (separating axes: Ericson, Real-Time Collision Detection, 5.2).
    """
    sides = [np.roll(shape, -1, axis=1) - shape for shape in (first, second)]
    deepest = np.full(len(first), -np.inf)
    nearest = np.full(len(first), np.inf)
    for shape, other, side in ((first, second, sides[0]), (second, first, sides[1])):
        length = np.maximum(np.hypot(side[..., 0], side[..., 1]), 1e-12)
        normal = np.stack([side[..., 1], -side[..., 0]], axis=-1) / length[..., None]
        away = other[:, None, :, :] - shape[:, :, None, :]  # (m, side, corner, 2)
        out = np.einsum("msci,msi->msc", away, normal)
        deepest = np.maximum(deepest, out.min(axis=2).max(axis=1))
        along = np.einsum("msci,msi->msc", away, side) / (length**2)[..., None]
        foot = np.clip(along, 0.0, 1.0)[..., None] * side[:, :, None, :]
        nearest = np.minimum(nearest, np.sqrt(((away - foot) ** 2).sum(axis=-1)).min(axis=(1, 2)))
    result: np.ndarray = np.where(deepest > 0.0, nearest, deepest)
    return result


def outline_across(corners: np.ndarray, axis: int) -> np.ndarray:
    """Return the outline (4 to 8, 2) of a box's `corners` (8, 3) seen along a rig axis, turning left from `axis` to it.

    The two coordinates are those after `axis` in the round x, y, z, so that a turn to the left is the right-hand rule.
    """
    flat = np.round(corners[:, [(axis + 1) % 3, (axis + 2) % 3]], 12)
    points = sorted({(float(a), float(b)) for a, b in flat})
    lower: list[tuple[float, float]] = []
    upper: list[tuple[float, float]] = []
    for chain, order in ((lower, points), (upper, points[::-1])):
        for p in order:
            while len(chain) > 1 and _turns_right(chain[-2], chain[-1], p):
                chain.pop()
            chain.append(p)
    return np.array(lower[:-1] + upper[:-1])


def _turns_right(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> bool:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) <= 0.0


def passing(
    turns: tuple[int, np.ndarray],
    stays: tuple[int, np.ndarray],
    axis: int,
    point: np.ndarray,
    low: float,
    high: float,
    near: float = math.inf,
) -> Passing | None:
    """Return how a turning part passes one that stays, from `low` to `high` (rad, about rig axis number `axis`).

    Each is a part's number and the corners (8, 3) (m) of its box; `point` (3,) is on the axis. None if they lie beside
    each other along the axis, so that they never meet, or stay farther apart than `near` (m).

    A gap changes by no more than the farthest corner moves, so that between two angles it has a lower bound; only
    where that is below the least gap found so far is looked at closer (Piyavskii, USSR Comput. Math. 12 (1972), from
    memory).
    """
    (first, moving), (second, still) = turns, stays
    over = min(moving[:, axis].max(), still[:, axis].max()) - max(moving[:, axis].min(), still[:, axis].min())
    if over < _OVERLAP:
        return None
    centre = point[[(axis + 1) % 3, (axis + 2) % 3]]
    shape, other = outline_across(moving, axis) - centre, outline_across(still, axis) - centre
    reach = float(np.hypot(shape[:, 0], shape[:, 1]).max())

    upright = _upright(shape), _upright(other)

    def gaps(angles: np.ndarray) -> np.ndarray:
        c, s = np.cos(angles), np.sin(angles)
        if upright[0] is not None and upright[1] is not None:
            return _upright_gaps(shape, other, upright[0], upright[1], c, s)
        turn = np.stack([np.stack([c, -s], -1), np.stack([s, c], -1)], -2)
        return rectangle_gaps(shape @ turn.transpose(0, 2, 1), np.broadcast_to(other, (len(angles), *other.shape)))

    tried = np.linspace(low, high, max(math.ceil((high - low) / _STEP), 1) + 1)
    found = gaps(tried)
    for _ in range(_ROUNDS):
        best = float(found.min())
        bound = 0.5 * (found[:-1] + found[1:]) - 0.5 * reach * np.diff(tried)
        if near < best and bool((bound > near).all()):
            return None
        wanted = bound < min(best - _FINE, near)
        if not wanted.any():
            break
        start, way = tried[:-1][wanted], np.diff(tried)[wanted]
        between = (start[:, None] + way[:, None] * _QUARTERS).ravel()
        tried, found = np.concatenate([tried, between]), np.concatenate([found, gaps(between)])
        order = tried.argsort()
        tried, found = tried[order], found[order]
    k = int(found.argmin())
    if float(found[k]) > near:
        return None
    return Passing(first, second, float(found[k]), float(tried[k]), _first_touch(tried, found, gaps))


def _upright(shape: np.ndarray) -> tuple[np.ndarray, np.ndarray] | None:
    """Return middle and half sides (2,) (m) of an outline whose sides lie along the axes, None for any other."""
    low, high = shape.min(axis=0), shape.max(axis=0)
    if len(shape) != 4 or not ((np.abs(shape - low) < 1e-9) | (np.abs(shape - high) < 1e-9)).all():
        return None
    return (low + high) / 2.0, (high - low) / 2.0


def _upright_gaps(
    shape: np.ndarray,
    other: np.ndarray,
    moving: tuple[np.ndarray, np.ndarray],
    still: tuple[np.ndarray, np.ndarray],
    c: np.ndarray,
    s: np.ndarray,
) -> np.ndarray:
    """Return the same as `rectangle_gaps`, (…, a), for rectangles `shape` and `other` (…, 4, 2): one pair or many.

    The first is turned by angles of cosines `c` and sines `s` (a,). Each one's corners are looked at from the other,
    where the sides of that one lie along the axes.
    """
    parted = nearest = None
    for corners, (middle, half), sine in ((shape, still, s), (other, moving, -s)):
        a, b = corners[..., None, :, 0], corners[..., None, :, 1]
        x = c[:, None] * a - sine[:, None] * b - middle[..., None, None, 0]
        y = sine[:, None] * a + c[:, None] * b - middle[..., None, None, 1]
        across, up = half[..., None, 0], half[..., None, 1]
        # All corners beyond the same side: that side parts the two.
        beyond = np.maximum(
            np.maximum(x.min(axis=-1), -x.max(axis=-1)) - across, np.maximum(y.min(axis=-1), -y.max(axis=-1)) - up
        )
        away = np.hypot(np.maximum(np.abs(x) - across[..., None], 0.0), np.maximum(np.abs(y) - up[..., None], 0.0)).min(
            axis=-1
        )
        parted = beyond if parted is None else np.maximum(parted, beyond)
        nearest = away if nearest is None else np.minimum(nearest, away)
    assert parted is not None
    assert nearest is not None
    result: np.ndarray = np.where(parted > 0.0, nearest, parted)
    return result


def nearest_bounds(low: np.ndarray, high: np.ndarray, pairs: np.ndarray, point: np.ndarray, use: float) -> np.ndarray:
    """Return how near (p,) (m) pairs of upright boxes may come at all as the first of each turns by `use` either way.

    `low` and `high` (n, 2) (m) are the boxes seen along the axis, in the order of `outline_across`, `point` (2,) the
    axis; `pairs` (p, 2) number them.
    """
    corners = np.stack([low, np.stack([high[:, 0], low[:, 1]], -1), high, np.stack([low[:, 0], high[:, 1]], -1)], 1)
    corners = corners - point
    middle, half = (low + high) / 2.0 - point, (high - low) / 2.0
    first, second = pairs[:, 0], pairs[:, 1]
    angles = np.linspace(-use, use, max(math.ceil(2.0 * use / _STEP), 1) + 1)
    found = _upright_gaps(
        corners[first],
        corners[second],
        (middle[first], half[first]),
        (middle[second], half[second]),
        np.cos(angles),
        np.sin(angles),
    )
    reach = np.hypot(corners[first][..., 0], corners[first][..., 1]).max(axis=1)
    step = float(angles[1] - angles[0]) if len(angles) > 1 else 0.0
    result: np.ndarray = (0.5 * (found[:, :-1] + found[:, 1:])).min(axis=1) - 0.5 * reach * step
    return result


def _first_touch(tried: np.ndarray, found: np.ndarray, gaps: Callable[[np.ndarray], np.ndarray]) -> float | None:
    """Return the angle nearest to home at which a gap closes."""
    touching = np.flatnonzero(found <= 0.0)
    if touching.size == 0:
        return None
    k = int(touching[np.abs(tried[touching]).argmin()])
    home = k - 1 if tried[k] > 0.0 else k + 1
    if not 0 <= home < len(tried) or found[home] <= 0.0:
        return float(tried[k])
    apart, meets = float(tried[home]), float(tried[k])
    for _ in range(3):
        between = np.linspace(apart, meets, 17)
        first = int((gaps(between) <= 0.0).argmax()) or 16
        apart, meets = float(between[first - 1]), float(between[first])
    return meets
