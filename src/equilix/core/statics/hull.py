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
