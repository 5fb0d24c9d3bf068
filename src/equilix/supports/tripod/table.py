"""How a rig stands on a table without its tripod: on what it rests, and at which angle it tips."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from equilix.core.assembly.resolve import Assembly, Positions, all_corners
from equilix.core.frames import rotation_about
from equilix.core.hull import box_within, convex_hull, edge_distance
from equilix.core.kit.parts import Category
from equilix.core.massprops.bodies import MassProperties
from equilix.core.rounding import ROUNDING, SLIGHT
from equilix.core.sources import common_practice
from equilix.supports.tripod.settings import TripodSettings

#: m: parts whose undersides differ by less stand on a table together.
LEVEL = 0.001
#: m: what is narrower is a line, and carries nothing that is not held.
LINE = common_practice(0.005)
#: Corners over which a rig that falls is followed to where it comes to rest.
ROLLS = 100
#: What can be folded up or turned away before a rig is put down; common practice.
FOLDS = frozenset({Category.GRIP, Category.HANDLE, Category.MONITOR, Category.ARM})


class Resting(Struct, frozen=True, eq=False):
    """A rig on its lowest points on a table: whether it `stands`, and by how much.

    `angle` (rad) is the tilt at which it goes over its nearest edge, negative if it tips by itself; `edge` (2, 2) (m,
    rig frame, from above) that edge; `over` numbers the parts that it stands on.
    """

    stands: bool
    angle: float
    edge: np.ndarray
    over: tuple[int, ...]


def nearest_step(wants: float, settings: TripodSettings) -> float | None:
    """Return the counterbalance (N m) of the head that is nearest to what a rig wants, None if none was entered."""
    if settings.counter is None:
        return None
    wants = min(max(wants, 0.0), settings.counter)
    if settings.steps < 1.0:
        return wants
    each = settings.counter / settings.steps
    return round(wants / each) * each


def folded(assembly: Assembly, positions: Positions, body: MassProperties, table: Resting) -> Resting | None:
    """Return how it rests with all that it stands on and that folds away out of the way, None where that is no better.

    What is folded goes no lower than the rest; its mass is taken to stay where it is.
    """
    gone = frozenset(k for k in table.over if assembly.parts[k].category in FOLDS)
    better = resting(assembly, positions, body, gone) if gone else None
    return better if better is not None and better.angle > table.angle + math.radians(1.0) else None


def resting(
    assembly: Assembly, positions: Positions, body: MassProperties, without: frozenset[int] = frozenset()
) -> Resting | None:
    """Return how a rig stands on a table on its lowest points: the CG inside their hull, from above, or it tips.

    Parts numbered in `without` are out of the way. Its points are the true corners of the parts' boxes, as they are
    turned; what touches in a point or a line does not stand.

    The tilt over an edge is atan2(distance inside it, height): Meriam and Kraige, Statics, ch. 6. None without sizes.
    """
    corners, part = _corners(assembly, positions, without)
    if not len(corners):
        return None
    return _rests(corners, part, body.cg, np.eye(3))


def _corners(
    assembly: Assembly, positions: Positions, without: frozenset[int] = frozenset()
) -> tuple[np.ndarray, np.ndarray]:
    """Return the corners (c, 3) (m, rig frame) of all parts but those `without`, and whose each is (c,)."""
    there = assembly.sized.copy()
    there[list(without)] = False
    parts = np.flatnonzero(there)
    return all_corners(assembly, positions, parts).reshape(-1, 3), np.repeat(parts, 8)


def _rests(corners: np.ndarray, part: np.ndarray, cg: np.ndarray, turn: np.ndarray) -> Resting:
    """Return how a rig turned by `turn` (3, 3) stands on its lowest corners (c, 3), those of `part` (c,)."""
    points, middle = corners @ turn.T, turn @ cg
    floor = float(points[:, 2].min())
    low = points[:, 2] <= floor + LEVEL
    over = tuple(sorted(set(part[low].tolist())))
    hull = convex_hull(points[low, :2]) if int(low.sum()) > 1 else points[low, :2]
    hull = hull if len(hull) else points[low, :2][:1]
    height = float(middle[2]) - floor
    if len(hull) < 3 or _breadth(hull) < LINE:
        # The nearest of its points is what it falls over.
        off = middle[:2] - hull
        nearest = hull[int((off * off).sum(axis=1).argmin())]
        away = float(np.hypot(*(middle[:2] - nearest)))
        return Resting(False, -math.atan2(away, height), np.array([hull[0], hull[-1]]), over)
    inside, edge = edge_distance(hull, middle[:2])
    return Resting(inside >= 0.0, math.atan2(inside, height), edge, over)


def _breadth(hull: np.ndarray) -> float:
    """Return the least width (m) of a hull (m, 2): across one of its sides (rotating calipers)."""
    ways = np.roll(hull, -1, axis=0) - hull
    across = np.stack([-ways[:, 1], ways[:, 0]], axis=1) / np.hypot(ways[:, 0], ways[:, 1])[:, None]
    reach = hull @ across.T
    return float((reach.max(axis=0) - reach.min(axis=0)).min())


def settles(assembly: Assembly, positions: Positions, body: MassProperties) -> Resting | None:
    """Return how a rig that does not stand as it is put down comes to rest: on the face that it rolls on to.

    With `down` pointing to the table the CG is ``max (v - c) . down`` above it, over all corners v. It rolls the way in
    which that falls fastest: over the corners that touch, the point nearest to zero of the hull of their gradients
    (Wolfe, Math. Programming 11 (1976) 128), until another corner touches. None if it stands, or comes to no rest.
    """
    first = resting(assembly, positions, body)
    if first is None or first.stands:
        return None
    corners, part = _corners(assembly, positions)
    off = corners - body.cg
    down = np.array([0.0, 0.0, -1.0])
    for _ in range(ROLLS):
        reach = off @ down
        touch = off[reach >= reach.max() - SLIGHT]
        flat = touch - np.outer(touch @ down, down)
        least = _nearest_zero(flat)
        size = float(np.linalg.norm(least))
        if size < ROUNDING:
            return None  # it balances on what it touches
        way = -least / size
        pivot = touch[int((touch @ way).argmax())]
        falls, comes = -(off - pivot) @ down, (off - pivot) @ way
        angles = np.where(comes > ROUNDING, np.arctan2(falls, comes), np.inf)
        angles[angles < ROUNDING] = np.inf
        turn = float(angles.min())
        if not math.isfinite(turn):
            return None
        down = math.cos(turn) * down + math.sin(turn) * way
        down /= np.linalg.norm(down)
        found = _rests(corners, part, body.cg, _turned_down(down))
        if found.stands:
            return found
    return None


def _nearest_zero(points: np.ndarray) -> np.ndarray:
    """Return the point (3,) nearest to zero of the hull of `points` (n, 3), which lie in a plane through zero."""
    best: np.ndarray = points[int((points * points).sum(axis=1).argmin())]
    least = float(best @ best)
    for k in range(len(points)):
        for other in points[:k]:
            way = points[k] - other
            long = float(way @ way)
            share = 0.0 if long < ROUNDING**2 else min(max(-float(other @ way) / long, 0.0), 1.0)
            there = other + share * way
            if float(there @ there) < least:
                best, least = there, float(there @ there)
    return best


def _turned_down(normal: np.ndarray) -> np.ndarray:
    """Return a turn (3, 3) that takes an outward `normal` (3,) straight down."""
    axis = np.cross(normal, [0.0, 0.0, -1.0])
    size = float(np.linalg.norm(axis))
    if size < ROUNDING:
        return np.eye(3) if normal[2] < 0.0 else np.diag([1.0, -1.0, -1.0])
    return rotation_about((float(axis[0]), float(axis[1]), float(axis[2])), math.atan2(size, -float(normal[2])))


def depth_within(corners: np.ndarray, half: float) -> float:
    """Return how far (m) below zero a box's corners (8, 3) reach within a square column of half side `half` (m)."""
    points = box_within(corners, np.array([-half, -half, -np.inf]), np.array([half, half, np.inf]))
    return -float(points[:, 2].min()) if len(points) else 0.0
