"""Parts in each other's way, judged by their outlines as boxes.

Pairs are found along x by sweeping, then by the separating-axis test for turned boxes: Ericson,
Real-Time Collision Detection (2005), sections 4.4.1 and 7.5. A part touches what it is mounted on, and some
parts are made to reach into others; those pairs are left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from equilix.core.assembly.parts import Category, HowKnown
from equilix.core.assembly.resolve import Assembly, Positions

#: m. Less overlap than this is how closely boxes can describe parts; common practice.
SLACK = 0.004
#: Standard uncertainty of a size over itself when it is guessed or from a sheet; common practice.
GUESSED_SIZE = 0.05
SHEET_SIZE = 0.01

_NESTING = frozenset(
    frozenset(pair)
    for pair in (
        (Category.LENS, Category.MATTE_BOX),
        (Category.LENS, Category.LENS_SUPPORT),
        (Category.LENS, Category.FOCUS),
        (Category.LENS, Category.ADAPTER),
        (Category.LENS, Category.BODY),
        (Category.CAGE, Category.BODY),
        (Category.CAGE, Category.ADAPTER),
        (Category.CAGE, Category.LENS),
        (Category.CAGE, Category.HANDLE),
        (Category.CAGE, Category.PLATE),
        (Category.RODS, Category.PAD),
        (Category.RODS, Category.PLATE),
        (Category.RODS, Category.RODS),
        (Category.RODS, Category.MATTE_BOX),
        (Category.PLATE, Category.PAD),
        (Category.BATTERY, Category.BATTERY_PLATE),
    )
)


@dataclass(frozen=True, eq=False, slots=True)
class Clash:
    """Parts number `first` and `second` overlap by `depth` (m), standard uncertainty `doubt` (m).

    `low` and `high` (3,) (m, rig frame) bound the shared space.
    """

    first: int
    second: int
    depth: float
    doubt: float
    low: np.ndarray
    high: np.ndarray


def find_clashes(assembly: Assembly, positions: Positions) -> tuple[Clash, ...]:
    """Return the pairs of parts that overlap by more than `SLACK`, deepest first."""
    low = positions.centre - assembly.edges
    high = positions.centre + assembly.edges
    found = []
    for a, b in _overlapping_pairs(low, high, assembly.sized):
        if _may_touch(assembly, a, b):
            continue
        depth = _overlap(assembly, positions, a, b)
        if depth > SLACK:
            doubt = float(np.hypot(_size_doubt(assembly, a), _size_doubt(assembly, b)))
            found.append(Clash(a, b, depth, doubt, np.maximum(low[a], low[b]), np.minimum(high[a], high[b])))
    return tuple(sorted(found, key=lambda clash: -clash.depth))


def _overlapping_pairs(low: np.ndarray, high: np.ndarray, sized: np.ndarray) -> list[tuple[int, int]]:
    order = np.flatnonzero(sized)
    order = order[np.argsort(low[order, 0], kind="stable")]
    low, high = low[order], high[order]
    pairs: list[tuple[int, int]] = []
    live = np.arange(len(order))
    for step in range(1, len(order)):
        live = live[live + step < len(order)]
        near = low[live + step, 0] + SLACK < high[live, 0]
        live = live[near]
        if live.size == 0:
            break
        other = live + step
        hit = (
            (low[other, 1] + SLACK < high[live, 1])
            & (low[live, 1] + SLACK < high[other, 1])
            & (low[other, 2] + SLACK < high[live, 2])
            & (low[live, 2] + SLACK < high[other, 2])
            & (low[live, 0] + SLACK < high[other, 0])
        )
        for i in live[hit].tolist():
            a, b = int(order[i]), int(order[i + step])
            pairs.append((min(a, b), max(a, b)))
    return pairs


def _may_touch(assembly: Assembly, a: int, b: int) -> bool:
    first, second = assembly.build.parts[a], assembly.build.parts[b]
    if second.parent == first.id or first.parent == second.id:
        return True
    kinds = frozenset((assembly.parts[a].category, assembly.parts[b].category))
    return kinds in _NESTING or Category.CABLE in kinds


def _size_doubt(assembly: Assembly, i: int) -> float:
    part = assembly.parts[i]
    share = {HowKnown.GUESSED: GUESSED_SIZE, HowKnown.SHEET: SHEET_SIZE, HowKnown.WEIGHED: 0.0}[part.cg_known]
    return share * float(assembly.half_size[i].max())


def _overlap(assembly: Assembly, positions: Positions, a: int, b: int) -> float:
    """Return the least depth (m) over all separating axes; 0 or less when the boxes are apart."""
    ra, rb = assembly.rotation[a], assembly.rotation[b]
    axes = [ra[:, i] for i in range(3)] + [rb[:, i] for i in range(3)]
    axes += [np.cross(ra[:, i], rb[:, j]) for i in range(3) for j in range(3)]
    d = positions.centre[b] - positions.centre[a]
    least = float("inf")
    for axis in axes:
        length = float(np.linalg.norm(axis))
        if length < 1e-9:
            continue
        unit = axis / length
        reach = np.abs(unit @ ra) @ assembly.half_size[a] + np.abs(unit @ rb) @ assembly.half_size[b]
        least = min(least, float(reach - abs(unit @ d)))
        if least <= 0.0:
            return least
    return least
