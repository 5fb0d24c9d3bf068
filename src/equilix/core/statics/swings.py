"""What the parts of each stage swing past: those of the outer stages, over the angles in use."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

import numpy as np

from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.kit.parts import Category
from equilix.core.statics.stages import Stage, Stages
from equilix.core.statics.sweep import Passing, nearest_bounds, passing

#: What was asked last, of how many rigs.
_KEPT: dict[tuple[Assembly, bytes, tuple[tuple[str, float], ...], float], tuple[Passing, ...]] = {}
_MOST_KEPT = 8


def passings(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> tuple[Passing, ...]:
    """Return how the parts of each stage pass those of the outer ones, nearest first.

    `use` (rad) is how far each stage turns either way. A gimbal's own parts are made to pass each other. Only pairs
    that come nearer than `near` (m).
    """
    # Findings, cautions and drawings ask the same of one rig; what they ask for is kept with all that it depends on.
    key = (assembly, positions.centre.tobytes(), tuple(use.items()), near)
    kept = _KEPT.get(key)
    if kept is None:
        pairs = _pairs(assembly, positions, on_it, use, near)
        found = [one for bound, ask in pairs if bound <= near and (one := ask(near)) is not None]
        kept = tuple(sorted(found, key=lambda one: one.gap))
        # Other threads keep theirs here too: nothing is walked while it may change.
        for old in list(_KEPT)[: max(len(_KEPT) - _MOST_KEPT + 1, 0)]:
            _KEPT.pop(old, None)
        _KEPT[key] = kept
    return kept


def nearest_passing(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> Passing | None:
    """Return the pair that comes nearest, None if none comes nearer than `near` (m)."""
    best = None
    for bound, ask in sorted(_pairs(assembly, positions, on_it, use, near), key=lambda pair: pair[0]):
        if bound > near:
            break
        found = ask(near)
        if found is not None:
            best, near = found, found.gap
    return best


def _pairs(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> list[tuple[float, Callable[[float], Passing | None]]]:
    """Return each pair that may come nearer than `near` (m): how near they can come, and what works it out."""
    sized = np.flatnonzero(assembly.sized)
    own = np.array([part.category is Category.GIMBAL for part in assembly.parts])
    low, high = positions.centre - assembly.edges, positions.centre + assembly.edges
    found: list[tuple[float, Callable[[float], Passing | None]]] = []
    for stage in () if on_it.usual else on_it.stages:
        inner, outer = sized[stage.parts[sized]], sized[~stage.parts[sized]]
        over = np.minimum(high[inner, None, stage.about], high[outer, stage.about])
        over = over - np.maximum(low[inner, None, stage.about], low[outer, stage.about])
        meets = (over > 0.0) & ~(own[inner][:, None] & own[outer])
        pairs = np.array([(inner[a], outer[b]) for a, b in np.argwhere(meets).tolist()], dtype=int).reshape(-1, 2)
        if not len(pairs):
            continue
        seen = [(stage.about + 1) % 3, (stage.about + 2) % 3]
        pairs = pairs[_ring_gaps(low[:, seen] - stage.point[seen], high[:, seen] - stage.point[seen], pairs) <= near]
        if not len(pairs):
            continue
        # A box around a turned part holds all of it: what that stays clear of, the part does.
        bounds = nearest_bounds(low[:, seen], high[:, seen], pairs, stage.point[seen], use[stage.name])
        for (k, other), bound in zip(pairs.tolist(), bounds.tolist(), strict=True):
            found.append((bound, partial(_passing, assembly, positions, k, other, stage, use[stage.name])))
    return found


def _ring_gaps(low: np.ndarray, high: np.ndarray, pairs: np.ndarray) -> np.ndarray:
    """Return how far apart (p,) (m) the rings are in which boxes turn, of `pairs` (p, 2); below zero over each other.

    `low` and `high` (n, 2) (m) are the boxes from the axis: whatever a part turns by, it stays in its ring.
    """
    far = np.hypot(*np.maximum(np.abs(low), np.abs(high)).T)
    close = np.hypot(*np.maximum(np.maximum(low, -high), 0.0).T)
    first, second = pairs[:, 0], pairs[:, 1]
    result: np.ndarray = np.maximum(close[second] - far[first], close[first] - far[second])
    return result


def _passing(
    assembly: Assembly, positions: Positions, k: int, other: int, stage: Stage, use: float, near: float
) -> Passing | None:
    turns, stays = ((part, outline_corners(assembly, positions, part)) for part in (k, other))
    found = passing(turns, stays, stage.about, stage.point, -use, use, near)
    if found is None or found.gap > 0.0:
        return found
    # What lies over each other at home does not swing in: it meets as it stands, or is made to.
    home = passing(turns, stays, stage.about, stage.point, 0.0, 0.0)
    return found if home is not None and home.gap > 0.0 else None
