"""What the parts of each stage swing past: those of the outer stages, over the angles in use."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.kit.parts import Category
from equilix.core.rounding import EXACT
from equilix.core.statics.stages import Stages
from equilix.core.statics.sweep import OVERLAP, TOUCHES, Passing, deepest, passing, turned_gaps


class _Pairs(Struct, frozen=True, eq=False):
    """Parts that turn (p,) and what they may pass (p,): `stage` (p,) is the number of the stage that turns.

    Middles of the two lie at `middles` (2, p, 2) (m), across the axis and from it. They come as near as `gap` (p,) (m)
    at `angle` (p,) (rad), or, where not `exact` (p,), no nearer than that; `beside` (p,) ones never meet. The nearest
    are exact, if they come nearer than `near` (m). `boxes` are their low and high corners (p, 2) (m), of what turns and
    of what stays. How `deep` pairs go into each other is worked out once.
    """

    turning: np.ndarray
    passed: np.ndarray
    stage: np.ndarray
    middles: np.ndarray
    gap: np.ndarray
    angle: np.ndarray
    exact: np.ndarray
    beside: np.ndarray
    near: float
    boxes: tuple[np.ndarray, ...]
    deep: dict[int, Passing | None] = field(default_factory=dict)


#: What was asked last, of how many rigs.
_KEPT: dict[tuple[Assembly, tuple[tuple[int, bytes], ...], tuple[tuple[str, float], ...], bytes], _Pairs] = {}
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
        _passing(assembly, positions, on_it, use, pairs, k, near)
        for k in np.flatnonzero((pairs.gap <= near) & ~pairs.beside).tolist()
    )
    return tuple(sorted((one for one in asked if one is not None), key=lambda one: one.gap))


def nearest_passing(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> Passing | None:
    """Return the pair that comes nearest, None if none comes nearer than `near` (m)."""
    best, pairs = None, _kept(assembly, positions, on_it, use, near)
    for k in np.where(pairs.beside, np.inf, pairs.gap).argsort().tolist():
        if pairs.gap[k] > near or pairs.beside[k]:
            break
        found = _passing(assembly, positions, on_it, use, pairs, k, near)
        if found is not None:
            best, near = found, found.gap
    return best


def _kept(assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float) -> _Pairs:
    """Return the pairs of a rig; findings, cautions and drawings ask for the same ones."""
    stages = () if on_it.usual else tuple((one.about, one.parts.tobytes()) for one in on_it.stages)
    key = (assembly, stages, tuple(use.items()), positions.centre.tobytes())
    kept = _KEPT.get(key)
    if kept is None:
        # Other threads keep theirs here too: nothing is walked while it may change.
        last = [pairs for known, pairs in list(_KEPT.items()) if known[:3] == key[:3]]
        kept = _pairs(assembly, positions, on_it, _made_of(assembly, stages), last[-1] if last else None)
    if kept.near < near:
        kept = _looked_at(kept, np.array([use[one.name] for one in on_it.stages]), near)
        for old in list(_KEPT)[: max(len(_KEPT) - _MOST_KEPT + 1, 0)]:
            _KEPT.pop(old, None)
        _KEPT[key] = kept
    return kept


class _Made(Struct, frozen=True, eq=False):
    """What may pass what on rigs that are joined so, wherever their slides stand: p pairs.

    `turning` and `passed` (p,) are numbers of parts, `stage` (p,) that of the stage. Where coordinates stand in rows of
    three, one part after the other, those across the axis are `turns` and `stays` (p, 2), in the order in which a turn
    to the left goes, and of the stages' points `points` (p, 2); `along` (2, p) are those along it.
    """

    turning: np.ndarray
    passed: np.ndarray
    stage: np.ndarray
    turns: np.ndarray
    stays: np.ndarray
    points: np.ndarray
    along: np.ndarray


@lru_cache(maxsize=16)
def _made_of(assembly: Assembly, stages: tuple[tuple[int, bytes], ...]) -> _Made:
    """Return what may pass what; `stages` are the axis that each turns about, and which parts (n,) turn on it."""
    sized = np.flatnonzero(assembly.sized)
    own = np.array([part.category is Category.GIMBAL for part in assembly.parts])
    found = [np.zeros((4, 0), dtype=int)]
    for number, (about, parts) in enumerate(stages):
        inside = np.frombuffer(parts, dtype=bool)
        inner, outer = sized[inside[sized]], sized[~inside[sized]]
        a, b = np.nonzero(~(own[inner][:, None] & own[outer]))
        found.append(np.stack([inner[a], outer[b], np.full(len(a), number), np.full(len(a), about)]))
    first, second, which, axis = np.concatenate(found, axis=1)
    across = np.stack([(axis + 1) % 3, (axis + 2) % 3], axis=1)
    turns, stays, points = (3 * row[:, None] + across for row in (first, second, which))
    return _Made(first, second, which, turns, stays, points, 3 * np.array([first, second]) + axis)


def _pairs(
    assembly: Assembly,
    positions: Positions,
    on_it: Stages,
    made: _Made,
    before: _Pairs | None,
) -> _Pairs:
    """Return all pairs, of all stages at once, `made` of what may pass what, with bounds of how near they come.

    `before` is what was found of the same rig as it stood another time.

    Moved by so much, two parts come nearer by no more than that, at whatever angle: most need not be looked at again.
    """
    stages = () if on_it.usual else on_it.stages
    middle = positions.centre.ravel()
    low, high = middle - assembly.edges.ravel(), middle + assembly.edges.ravel()
    beside = high[made.along].min(axis=0) - low[made.along].max(axis=0) < OVERLAP
    at = np.array([one.point for one in stages]).ravel()[made.points]
    middles = np.array([middle[made.turns] - at, middle[made.stays] - at])
    turning, staying = [box[made.turns] - at for box in (low, high)], [box[made.stays] - at for box in (low, high)]
    gap = _ring_gaps(turning, staying)
    exact, angle = np.zeros(len(gap), dtype=bool), np.zeros(len(gap))
    deep: dict[int, Passing | None] = {}
    if before is not None:
        by = middles - before.middles
        moved = np.sqrt((by * by).sum(axis=2)).sum(axis=0)
        same = before.exact & (moved <= EXACT)
        gap = np.where(same, before.gap, np.maximum(gap, np.maximum(before.gap, 0.0) - moved))
        exact, angle = same, np.where(same, before.angle, 0.0)
        deep = {k: found for k, found in before.deep.items() if same[k]}
    boxes = (*turning, *staying)
    return _Pairs(made.turning, made.passed, made.stage, middles, gap, angle, exact, beside, -np.inf, boxes, deep)


def _looked_at(pairs: _Pairs, far: np.ndarray, near: float) -> _Pairs:
    """Return pairs of which the nearest were looked at, if they may come nearer than `near` (m).

    `far` (rad) is how far each stage turns either way.
    """
    gap, angle, exact = pairs.gap.copy(), pairs.angle.copy(), pairs.exact.copy()
    open_ones = ~pairs.beside
    # The nearest first: what is farther apart by its bound than those come need not be looked at. All that meet count.
    upto = min(near, max(float(gap[exact & open_ones].min(initial=np.inf)), 0.0))
    for count in (_FIRST, len(gap)):
        asked = np.flatnonzero(~exact & open_ones & (gap <= upto))
        asked = asked[gap[asked].argsort()][:count]
        if not asked.size:
            break
        low, high, its_low, its_high = (box[asked] for box in pairs.boxes)
        gap[asked], angle[asked] = turned_gaps((low, high), (its_low, its_high), far[pairs.stage[asked]])
        exact[asked] = True
        upto = min(upto, max(float(gap[asked].min()), 0.0))
    gap[exact & (gap <= TOUCHES)] = -np.inf
    return replace(pairs, gap=gap, angle=angle, exact=exact, near=near)


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
    # A box around a turned part holds all of it: what that stays clear of, the part does.
    upright = bool(assembly.upright[first] and assembly.upright[second])
    if upright and pairs.exact[k] and pairs.gap[k] > 0.0:
        return Passing(first, second, float(pairs.gap[k]), float(pairs.angle[k]), None)
    if k in pairs.deep:
        return pairs.deep[k]
    stage = on_it.stages[int(pairs.stage[k])]
    most = use[stage.name]
    if upright and pairs.exact[k]:
        # What lies over each other at home does not swing in: it meets as it stands, or is made to.
        meets = float(pairs.angle[k])
        if meets == 0.0:
            pairs.deep[k] = None
        else:
            across = [(stage.about + 1) % 3, (stage.about + 2) % 3]
            gap, angle = deepest(pairs.middles[:, k], assembly.edges[[first, second]][:, across], most)
            pairs.deep[k] = Passing(first, second, gap, angle, meets)
        return pairs.deep[k]
    corners = [outline_corners(assembly, positions, part) for part in (first, second)]

    def turned(by: float) -> Passing | None:
        return passing((first, corners[0]), (second, corners[1]), stage.about, stage.point, -by, by, near)

    found, home = turned(most), turned(0.0)
    if found is None or found.gap > 0.0:
        return found
    pairs.deep[k] = found if home is None or home.gap > 0.0 else None
    return pairs.deep[k]
