"""Points in a plane: the hull around them, and how far inside it one lies."""

from __future__ import annotations

import numpy as np


def convex_hull(points: np.ndarray) -> np.ndarray:
    """Return the hull (m, 2) of `points` (n, 2), counterclockwise; Andrew's monotone chain (1979)."""
    ordered = sorted({(float(x), float(y)) for x, y in points})

    def chain(several: list[tuple[float, float]]) -> list[tuple[float, float]]:
        found: list[tuple[float, float]] = []
        for p in several:
            while len(found) > 1:
                (ax, ay), (bx, by) = found[-2], found[-1]
                if (bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax) > 0.0:
                    break
                found.pop()
            found.append(p)
        return found[:-1]

    return np.array(chain(ordered) + chain(ordered[::-1]))


def edge_distance(hull: np.ndarray, point: np.ndarray) -> tuple[float, np.ndarray]:
    """Return how far (m) a point (2,) lies inside a hull (m, 2), negative outside, and the nearest edge (2, 2)."""
    ends = np.roll(hull, -1, axis=0)
    way, off = ends - hull, point - hull
    inside = (way[:, 0] * off[:, 1] - way[:, 1] * off[:, 0]) / np.hypot(way[:, 0], way[:, 1])
    nearest = int(inside.argmin())
    return float(inside[nearest]), np.array([hull[nearest], ends[nearest]])


#: The faces of a box by the numbers of its corners, as `outline_corners` gives them.
_FACES = [[c for c in range(8) if (c >> axis) & 1 == side] for axis in range(3) for side in (0, 1)]


def box_within(corners: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """Return the corners (n, 3) of what a turned box, `corners` (8, 3), has in common with an upright one.

    Its faces are cut by one side after the other: Sutherland and Hodgman, Comm. ACM 17 (1974) 32. None where they are
    apart. The upright box's own corners within the other are left out: what is asked are reaches along an axis that
    the upright one does not bound.
    """
    found = []
    for face in _FACES:
        a, b, c, d = face
        polygon = [corners[a], corners[b], corners[d], corners[c]]
        for axis in range(3):
            for bound, side in ((low[axis], 1.0), (high[axis], -1.0)):
                if np.isfinite(bound):
                    polygon = _cut(polygon, axis, float(bound), side)
        found += polygon
    return np.array(found).reshape(-1, 3)


def _cut(polygon: list[np.ndarray], axis: int, bound: float, side: float) -> list[np.ndarray]:
    """Return what of a polygon lies on one side of a plane across an axis."""
    kept = []
    for here, there in zip(polygon, [*polygon[1:], *polygon[:1]], strict=True):
        a, b = side * (float(here[axis]) - bound), side * (float(there[axis]) - bound)
        if a >= 0.0:
            kept.append(here)
        if a * b < 0.0:
            kept.append(here + (there - here) * a / (a - b))
    return kept
