"""What the parts of each stage swing past: those of the outer stages, over the angles in use."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
from msgspec import Struct, field

from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.kit.parts import Category
from equilix.core.statics.stages import Stages
from equilix.core.statics.sweep import OVERLAP, TOUCHES, Passing, passing, turned_gaps

#: m: pairs that come nearer than this are looked for at once, since findings and panels ask one after the other.
NEAR = 0.15


class _Pairs(Struct, frozen=True, eq=False):
    """Parts that turn (p,) and what they may pass (p,): `stage` (p,) is the number of the stage that turns.

    They come as near as `gap` (p,) (m) at `angle` (p,) (rad), or, where not `exact` (p,), no nearer than that. How
    `deep` pairs go into each other is worked out once.
    """

    turning: np.ndarray
    passed: np.ndarray
    stage: np.ndarray
    gap: np.ndarray
    angle: np.ndarray
    exact: np.ndarray
    deep: dict[int, Passing | None] = field(default_factory=dict)


#: What was asked last, of how many rigs.
_KEPT: dict[tuple[Assembly, bytes, tuple[tuple[str, float], ...], float], _Pairs] = {}
_MOST_KEPT = 8


def passings(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> tuple[Passing, ...]:
    """Return how the parts of each stage pass those of the outer ones, nearest first.

    `use` (rad) is how far each stage turns either way. A gimbal's own parts are made to pass each other. Only pairs
    that come nearer than `near` (m).
    """
    pairs = _kept(assembly, positions, on_it, use, near)
    asked = (
        _passing(assembly, positions, on_it, use, pairs, k, near) for k in np.flatnonzero(pairs.gap <= near).tolist()
    )
    return tuple(sorted((one for one in asked if one is not None), key=lambda one: one.gap))


def nearest_passing(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> Passing | None:
    """Return the pair that comes nearest, None if none comes nearer than `near` (m)."""
    best, pairs = None, _kept(assembly, positions, on_it, use, near)
    for k in pairs.gap.argsort().tolist():
        if pairs.gap[k] > near:
            break
        found = _passing(assembly, positions, on_it, use, pairs, k, near)
        if found is not None:
            best, near = found, found.gap
    return best


def _kept(assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float) -> _Pairs:
    """Return the pairs of a rig; findings, cautions and drawings ask for the same ones."""
    key = (assembly, positions.centre.tobytes(), tuple(use.items()), max(near, NEAR))
    kept = _KEPT.get(key)
    if kept is None:
        kept = _pairs(assembly, positions, on_it, use, max(near, NEAR))
        # Other threads keep theirs here too: nothing is walked while it may change.
        for old in list(_KEPT)[: max(len(_KEPT) - _MOST_KEPT + 1, 0)]:
            _KEPT.pop(old, None)
        _KEPT[key] = kept
    return kept


@lru_cache(maxsize=16)
def _made_of(assembly: Assembly, stages: tuple[tuple[int, bytes], ...]) -> tuple[np.ndarray, ...]:
    """Return what may pass what on rigs that are joined so, wherever their slides stand: four arrays (p,) of numbers.

    What turns, what it may pass, the stage (its number), and the rig axis that this turns about.
    """
    sized = np.flatnonzero(assembly.sized)
    own = np.array([part.category is Category.GIMBAL for part in assembly.parts])
    found = []
    for number, (about, parts) in enumerate(stages):
        inside = np.frombuffer(parts, dtype=bool)
        inner, outer = sized[inside[sized]], sized[~inside[sized]]
        a, b = np.nonzero(~(own[inner][:, None] & own[outer]))
        found.append(np.stack([inner[a], outer[b], np.full(len(a), number), np.full(len(a), about)]))
    return tuple(np.concatenate(found, axis=1)) if found else (np.zeros(0, dtype=int),) * 4


def _pairs(assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float) -> _Pairs:
    """Return all pairs that may come nearer than `near` (m), of all stages at once."""
    stages = () if on_it.usual else on_it.stages
    first, second, which, about = _made_of(assembly, tuple((one.about, one.parts.tobytes()) for one in stages))
    low, high = positions.centre - assembly.edges, positions.centre + assembly.edges
    over = np.minimum(high[first, about], high[second, about]) - np.maximum(low[first, about], low[second, about])
    beside = over >= OVERLAP
    first, second, which, about = first[beside], second[beside], which[beside], about[beside]
    # Across the axis, in the order in which a turn to the left goes.
    across = np.stack([(about + 1) % 3, (about + 2) % 3], axis=1)
    at = np.array([one.point for one in stages]).reshape(-1, 3)[which[:, None], across]
    turning = [box[first[:, None], across] - at for box in (low, high)]
    staying = [box[second[:, None], across] - at for box in (low, high)]
    gap = _ring_gaps(turning, staying)
    exact, angle = np.zeros(len(gap), dtype=bool), np.zeros(len(gap))
    far = np.array([use[one.name] for one in stages])[which] if len(which) else np.zeros(0)
    # The nearest by their rings first: what is farther apart by its ring than those come need not be looked at.
    upto = near
    for count in (_FIRST, len(gap)):
        asked = np.flatnonzero(~exact & (gap <= upto))
        asked = asked[gap[asked].argsort()][:count]
        if not asked.size:
            break
        gap[asked], angle[asked] = turned_gaps(
            (turning[0][asked], turning[1][asked]), (staying[0][asked], staying[1][asked]), far[asked]
        )
        exact[asked] = True
        upto = min(near, float(gap[asked].min()))
    meets = gap <= TOUCHES
    # A box around a turned part holds all of it: what that stays clear of, the part does.
    exact &= assembly.upright[first] & assembly.upright[second]
    return _Pairs(first, second, which, np.where(meets, -np.inf, gap), angle, exact)


#: Pairs that are looked at first.
_FIRST = 8


def _ring_gaps(turning: Sequence[np.ndarray], staying: Sequence[np.ndarray]) -> np.ndarray:
    """Return how far apart (p,) (m) the rings are in which boxes lie, low and high corners (p, 2) (m) from the axis.

    Below zero they lie over each other. Whatever a part turns by, it stays in its ring.
    """
    rings = []
    for low, high in (turning, staying):
        close, far = np.maximum(np.maximum(low, -high), 0.0), np.maximum(-low, high)
        rings.append((np.hypot(close[:, 0], close[:, 1]), np.hypot(far[:, 0], far[:, 1])))
    (inner, outer), (near, end) = rings
    result: np.ndarray = np.maximum(near - outer, inner - end)
    return result


def _passing(
    assembly: Assembly,
    positions: Positions,
    on_it: Stages,
    use: Mapping[str, float],
    pairs: _Pairs,
    k: int,
    near: float,
) -> Passing | None:
    """Return how pair number `k` passes, None if it comes no nearer than `near` (m)."""
    first, second = int(pairs.turning[k]), int(pairs.passed[k])
    if pairs.exact[k] and pairs.gap[k] > 0.0:
        return Passing(first, second, float(pairs.gap[k]), float(pairs.angle[k]), None)
    if k in pairs.deep:
        return pairs.deep[k]
    stage = on_it.stages[int(pairs.stage[k])]
    corners = [outline_corners(assembly, positions, part) for part in (first, second)]

    def turned(by: float, meets: float | None) -> Passing | None:
        return passing((first, corners[0]), (second, corners[1]), stage.about, stage.point, -by, by, near, meets)

    # What lies over each other at home does not swing in: it meets as it stands, or is made to.
    if not pairs.exact[k]:
        found, home = turned(use[stage.name], None), turned(0.0, None)
        if found is None or found.gap > 0.0:
            return found
        pairs.deep[k] = found if home is None or home.gap > 0.0 else None
    else:
        meets = float(pairs.angle[k])
        pairs.deep[k] = turned(use[stage.name], meets) if meets != 0.0 else None
    return pairs.deep[k]
