"""What a part that turns about an axis comes near to: boxes turned about it, against boxes that stand still."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct

from equilix.core.hull import convex_hull
from equilix.core.rounding import EXACT, ROUNDING


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
#: Where between two angles it is looked closer: few rounds with many angles are quicker than many with few.
_BETWEEN = np.arange(1.0, 16.0) / 16.0
#: m by which two parts must lie over each other along the axis to meet.
OVERLAP = 5e-4


def rectangle_gaps(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Return how far apart (m) convex outlines `first` and `second` (m, c, 2) are, in m places; depth below zero.

    Outlines run round to the left. Apart: the least distance of a corner from a side of the other. Over each other:
    the least way along a side's normal that parts them (separating axes: Ericson, Real-Time Collision Detection, 5.2).
    """
    sides = [np.roll(shape, -1, axis=1) - shape for shape in (first, second)]
    deepest = np.full(len(first), -np.inf)
    nearest = np.full(len(first), np.inf)
    for shape, other, side in ((first, second, sides[0]), (second, first, sides[1])):
        length = np.maximum(np.hypot(side[..., 0], side[..., 1]), EXACT)
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
    return convex_hull(flat)


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
    if over < OVERLAP:
        return None
    centre = point[[(axis + 1) % 3, (axis + 2) % 3]]
    shape, other = outline_across(moving, axis) - centre, outline_across(still, axis) - centre
    reach = float(np.hypot(shape[:, 0], shape[:, 1]).max())

    def gaps(angles: np.ndarray) -> np.ndarray:
        c, s = np.cos(angles), np.sin(angles)
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
        between = (start[:, None] + way[:, None] * _BETWEEN).ravel()
        tried, found = np.concatenate([tried, between]), np.concatenate([found, gaps(between)])
        order = tried.argsort()
        tried, found = tried[order], found[order]
    k = int(found.argmin())
    if float(found[k]) > near:
        return None
    return Passing(first, second, float(found[k]), float(tried[k]), _first_touch(tried, found, gaps))


def turned_gaps(low: np.ndarray, high: np.ndarray, use: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return how near (p,) (m) two upright boxes come as the first of them turns, and at which angle (p,) (rad).

    `low` and `high` are corners (2, p, 2) (m) from the axis, in the order of `outline_across`; it turns by `use` (p,)
    (rad) either way. Where they meet it is below `TOUCHES`, and the angle that is nearest to home.

    One outline comes nearest to the other with a corner of one of the two, and a corner that turns is nearest to an
    upright box where its circle is level with a side's end, as it crosses a side, or where its way begins or ends.
    """
    # Ends of all sides (p, 8): the turning box's, low and high along both axes, then the same of the other.
    ends = np.concatenate([low[0], high[0], low[1], high[1]], axis=1)
    # Each corner (p, 8, 1) against the other box; seen from what turns, what stays turns the other way.
    px, py = ends[:, _CORNER_X, None], ends[:, _CORNER_Y, None]
    x1, y1, x2, y2 = (ends[:, side, None] for side in _SIDES)
    radius, home = np.hypot(px, py), np.arctan2(py, px)
    by = np.maximum(radius, EXACT)
    across = np.arccos(np.clip(np.concatenate([x1, x2], axis=2) / by, -1.0, 1.0))
    up = np.arcsin(np.clip(np.concatenate([y1, y2], axis=2) / by, -1.0, 1.0))
    turn = np.empty((len(use), 8, 18))
    np.concatenate([across, -across, up, math.pi - up], axis=2, out=turn[..., :8])
    np.arctan2(np.concatenate([y1, y1, y2, y2], axis=2), np.concatenate([x1, x2, x1, x2], axis=2), out=turn[..., 8:12])
    turn[..., 12:16] = _LEVEL
    around = turn[..., :16]
    around -= home
    around -= 2.0 * math.pi * np.round(around / (2.0 * math.pi))
    most = use[:, None, None]
    turn[..., 16:] = most * [-1.0, 1.0]
    np.clip(turn, -most, most, out=turn)
    x, y = radius * np.cos(home + turn), radius * np.sin(home + turn)
    away = np.hypot(np.maximum(np.maximum(x1 - x, x - x2), 0.0), np.maximum(np.maximum(y1 - y, y - y2), 0.0))
    rows, away, by_pair = np.arange(len(use)), away.reshape(len(use), -1), turn.reshape(len(use), -1)
    # Where they meet, the angle nearest to home counts.
    least = np.where(away <= TOUCHES, np.abs(by_pair) - 10.0, away).argmin(axis=1)
    gap = away[rows, least]
    angle = by_pair[rows, least] * np.where(least < by_pair.shape[1] // 2, 1.0, -1.0)
    # At home they may lie over each other without a corner of one within the other, as bars that cross.
    over = (low.max(axis=0) < high.min(axis=0) + TOUCHES).all(axis=1)
    gap[over], angle[over] = 0.0, 0.0
    return gap, angle


def deepest(middles: np.ndarray, halves: np.ndarray, use: float) -> tuple[float, float, float]:
    """Return how deep (m, below zero) an upright rectangle goes into another as it turns, at which angle (rad), and the
    angle nearest to home at which they meet.

    The first of the two `middles` (2, 2) (m, from the axis) with half sides `halves` (2, 2) (m) turns by up to `use`
    (rad) either way, the second stays; above zero they stay so far apart along one of their sides, and the last angle
    says nothing.

    Along each of the four sides' directions what parts them is ``p cos t + q sin t + r`` within a quarter turn, and the
    largest counts. Its least lies where one of these turns back, where two are equal, at a quarter turn or at an end;
    they begin to meet where one of these is zero. All angles are cosines and sines until one is chosen.
    """
    looked_at = _WAVES_AHEAD if use <= 0.5 * math.pi else _WAVES
    count = (len(looked_at) - 24) // 3
    looked_at = looked_at @ np.concatenate((middles, halves)).ravel()
    far, reach = looked_at[:24].reshape(2, 4, 3)
    # A wave's p and q, and an angle's cosine and sine, are one complex number. What does not turn at all gets some way.
    wave = looked_at[24 : 24 + 2 * count].view(complex)
    wave += _BIT
    size = np.abs(wave)
    wave /= size
    zero = np.empty(count, dtype=complex)
    zero.real = level = np.minimum(np.maximum(looked_at[24 + 2 * count :] / size, -1.0), 1.0)
    zero.imag = np.sqrt(1.0 - level * level)
    back, end = wave[: count * 8 // 36], complex(math.cos(use), math.sin(use))
    at = np.concatenate((wave * zero, wave * zero.conj(), back, -back, _QUARTERS, (end, end.conjugate())))
    turned = np.ones((3, len(at)))
    turned[0], turned[1] = at.real, at.imag
    c, s = turned[0], turned[1]
    parted = (np.abs(far @ turned) - reach @ np.abs(turned)).max(axis=0)
    parted[c < end.real] = np.inf
    least = float(parted.min())
    # The nearer to home, the greater the cosine.
    found = [int(np.where(parted <= most, c, -2.0).argmax()) for most in (least + ROUNDING, TOUCHES)]
    deep, meets = (min(max(math.atan2(s[k], c[k]), -use), use) for k in found)
    return least, deep, meets


def _waves(quarters: Sequence[tuple[float, float]]) -> np.ndarray:
    """Return what turns cx, cy, mx, my, a, b, h, k of `deepest` into all that it looks at, (24 + 3 w, 8).

    First how far the middles are from each other along each of four directions, and how far the sides reach there, each
    as what goes with the cosine, with the sine and with neither. Then p and q in turn of w waves, and -r of each: in
    each of the `quarters` (signs of cosine and sine) what parts the two to either side along each direction, and then
    how far any of these eight is beyond another.
    """
    cx, cy, mx, my, a, b, h, k = np.eye(8)
    far = np.array([[cx, -cy, -mx], [cy, cx, -my], [mx, my, -cx], [my, -mx, -cy]])
    reach = np.array([[a, b, h], [b, a, k], [h, k, a], [k, h, b]])
    either = np.array([side * far - np.array([*signs, 1.0])[:, None] * reach for signs in quarters for side in (1, -1)])
    eight = either.reshape(len(quarters), 8, 3, 8)
    first, other = np.triu_indices(8, 1)
    waves = np.concatenate([eight.reshape(-1, 3, 8), (eight[:, first] - eight[:, other]).reshape(-1, 3, 8)])
    in_turn = waves[:, :2].reshape(2 * len(waves), 8)
    return np.concatenate([far.reshape(12, 8), reach.reshape(12, 8), in_turn, -waves[:, 2]])


#: The same with the quarters on either side of home alone, and all round.
_WAVES_AHEAD = _waves([(1.0, 1.0), (1.0, -1.0)])
_WAVES = _waves([(1.0, 1.0), (1.0, -1.0), (-1.0, 1.0), (-1.0, -1.0)])
#: Cosine and sine of home and of each quarter turn from it.
_QUARTERS = np.array([1.0, 1j, -1j, -1.0])
#: m: less than any rounding of what is seen.
_BIT = 1e-18

#: m: boxes nearer than this meet, rounding.
TOUCHES = ROUNDING
#: Of the ends of two boxes' sides, x and y of the low and of the high corner each: the corners of both in turn, and the
#: other box's low x, low y, high x and high y for each of them.
_CORNER_X, _CORNER_Y = np.array([0, 2, 2, 0, 4, 6, 6, 4]), np.array([1, 1, 3, 3, 5, 5, 7, 7])
_SIDES = [np.array([4 + k] * 4 + [k] * 4) for k in range(4)]
#: rad: where a circle is level or upright.
_LEVEL = np.array([0.0, 0.5 * math.pi, math.pi, -0.5 * math.pi])


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
