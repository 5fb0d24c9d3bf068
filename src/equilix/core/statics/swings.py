"""What the parts of each stage swing past: those of the outer stages, over the angles in use."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.cache import cached_for_rig
from equilix.core.kit.parts import Category
from equilix.core.rounding import EXACT
from equilix.core.statics.stages import Stages
from equilix.core.statics.sweep import OVERLAP, TOUCHES, Passing, deepest, passing, turned_gaps


class _Pairs(Struct, frozen=True, eq=False):
    """Parts that turn (p,) and what they may pass (p,): `stage` (p,) is the number of the stage that turns.

    Middles of the two lie at `middles` (2, p, 2) (m), across the axis and from it, the corners of their boxes at `low`
    and `high` (2, p, 2). They come as near as `gap` (p,) (m) at `angle` (p,) (rad), or, where not `exact` (p,), no
    nearer than that; `beside` (p,) ones never meet.
    """

    turning: np.ndarray
    passed: np.ndarray
    stage: np.ndarray
    middles: np.ndarray
    low: np.ndarray
    high: np.ndarray
    gap: np.ndarray
    angle: np.ndarray
    exact: np.ndarray
    beside: np.ndarray


class _Stood(Struct, frozen=True, eq=False):
    """What of a rig meets as it `stood` (s, n, 3): the parts' middles (m) from the point of each stage.

    Its pairs may move by `room` (p,) (m), both parts in all, until another than those in `met` may meet, or one of
    these does something else than go in as it swings.
    """

    made: _Made
    stood: np.ndarray
    room: np.ndarray
    met: dict[int, Passing]
    #: Of each pair both parts' places in what stands, one row after the other.
    both: np.ndarray


#: m: what may come so near is looked at before it meets, so that a drag goes far until all are asked again.
_SOON = 0.03
#: What was kept of a rig that `stood`; of one where none meets, `met` is the pair that came nearest.
_STOOD, _NEAREST = "stood", "nearest"


def passings(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> tuple[Passing, ...]:
    """Return how the parts of each stage pass those of the outer ones, nearest first.

    `use` (rad) is how far each stage turns either way. A gimbal's own parts are made to pass each other. Only pairs
    that come nearer than `near` (m).
    """
    return _passings(assembly, positions, on_it, tuple(use.items()), near)


# Findings, cautions and drawings ask for the same ones.
@cached_for_rig
def _passings(
    assembly: Assembly, positions: Positions, on_it: Stages, uses: tuple[tuple[str, float], ...], near: float
) -> tuple[Passing, ...]:
    use = dict(uses)
    met = _still_met(assembly, positions, on_it, use) if near <= 0.0 else None
    if met is None:
        pairs = _looked_at(_pairs(assembly, positions, on_it), _far(on_it, use), max(near, _SOON))
        met = {}
        for k in np.flatnonzero((pairs.gap <= near) & ~pairs.beside).tolist():
            found = _passing(assembly, positions, on_it, use, pairs, k, near)
            if found is not None:
                met[k] = found
        if near <= 0.0:
            _keep(_STOOD, assembly, positions, on_it, use, pairs, met)
    return tuple(sorted(met.values(), key=lambda one: one.gap))


def nearest_passing(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float], near: float
) -> Passing | None:
    """Return the pair that comes nearest, None if none comes nearer than `near` (m)."""
    met = passings(assembly, positions, on_it, use, 0.0)
    if met:
        return met[0]
    found = _still_nearest(assembly, positions, on_it, use)
    if found is not None:
        return found if found.gap <= near else None
    best, pairs = None, _looked_at(_pairs(assembly, positions, on_it), _far(on_it, use), near)
    number = -1
    for k in np.where(pairs.beside, np.inf, pairs.gap).argsort().tolist():
        if pairs.gap[k] > near or pairs.beside[k]:
            break
        found = _passing(assembly, positions, on_it, use, pairs, k, near)
        if found is not None:
            best, near, number = found, found.gap, k
    if best is not None:
        _keep(_NEAREST, assembly, positions, on_it, use, pairs, {number: best})
    return best


def _turning(on_it: Stages) -> tuple[tuple[int, bytes], ...]:
    """Return the axis that each stage turns about, and which parts (n,) turn on it; none without axes."""
    return () if on_it.usual else tuple((stage.about, stage.parts.tobytes()) for stage in on_it.stages)


def _points(on_it: Stages) -> np.ndarray:
    """Return the points (s, 3) (m) that the stages turn about."""
    return np.array([stage.point for stage in on_it.stages])


def _still_met(
    assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float]
) -> dict[int, Passing] | None:
    """Return what meets, by the pairs' numbers, where no others can than did before; None where they might.

    Moved by so much, two parts come nearer by no more than that, at whatever angle: while one is dragged a little, what
    was clear needs no second look, and what meets is asked how deep.
    """
    last: _Stood | None = assembly.cache.of(_STOOD).get(tuple(use.items()))
    if last is None:
        return None
    points = _points(on_it)
    moved = _moved(last, positions, points)
    if (moved > last.room).any():
        return None
    made, met = last.made, dict(last.met)
    for k, before in last.met.items():
        if moved[k] > EXACT:
            middles = positions.centre.take(made.across[:, k]) - points.take(made.points[k])
            most = use[on_it.stages[int(made.stage[k])].name]
            found = _deep(before.first, before.second, middles, made.half[:, k], most)
            if found is None:
                return None
            met[k] = found
    return met


def _moved(last: _Stood, positions: Positions, points: np.ndarray) -> np.ndarray:
    """Return by how much each pair (p,) (m) has moved against its stage's point, both parts in all."""
    by = positions.centre - points[:, None, :] - last.stood
    moved: np.ndarray = np.sqrt((by * by).sum(axis=2)).take(last.both).sum(axis=0)
    return moved


def _still_nearest(assembly: Assembly, positions: Positions, on_it: Stages, use: Mapping[str, float]) -> Passing | None:
    """Return how near the pair comes that came nearest before, if it is clear and surely still nearest, else None."""
    last: _Stood | None = assembly.cache.of(_NEAREST).get(tuple(use.items()))
    if last is None:
        return None
    ((k, before),) = last.met.items()
    points, made = _points(on_it), last.made
    room = last.room - _moved(last, positions, points)
    if not made.upright[k] or room[k] < 0.0:
        return None
    middles = positions.centre.take(made.across[:, k]) - points.take(made.points[k])
    low, high = (middles - made.half[:, k])[:, None], (middles + made.half[:, k])[:, None]
    gaps, angles = turned_gaps(low, high, np.array([use[on_it.stages[int(made.stage[k])].name]]))
    room[k] = np.inf
    if gaps[0] <= TOUCHES or (room <= gaps[0]).any():
        return None
    return Passing(before.first, before.second, float(gaps[0]), float(angles[0]), None)


def _keep(
    what: str,
    assembly: Assembly,
    positions: Positions,
    on_it: Stages,
    use: Mapping[str, float],
    pairs: _Pairs,
    met: dict[int, Passing],
) -> None:
    made, middle = _made_of(assembly, _turning(on_it)), positions.centre.ravel()
    # How far the two are past each other along the axis, and how far apart as they stand; below zero they lie over each
    # other.
    past = np.abs(middle[made.along[0]] - middle[made.along[1]]) - made.room
    apart = (pairs.low.max(axis=0) - pairs.high.min(axis=0)).max(axis=1)
    # Beside each other, or over each other as they stand, they don't swing in, nor while they come no nearer.
    room = np.maximum(np.maximum(past, pairs.gap), np.where(made.upright, -apart, -np.inf))
    for k in met:
        room[k] = min(-past[k], apart[k]) if made.upright[k] else 0.0
    stood = positions.centre - _points(on_it)[:, None, :]
    both = made.stage * len(positions.centre) + np.array([made.turning, made.passed])
    found = _Stood(made, stood, np.maximum(room, EXACT), met, both)
    assembly.cache.put(what, tuple(use.items()), found)


def _far(on_it: Stages, use: Mapping[str, float]) -> np.ndarray:
    """Return how far (s,) (rad) each stage turns either way."""
    return np.array([use[stage.name] for stage in on_it.stages])


class _Made(Struct, frozen=True, eq=False):
    """What may pass what on rigs that are joined so, wherever their slides stand: p pairs.

    `turning` and `passed` (p,) are numbers of parts, `stage` (p,) that of the stage. Where coordinates stand in rows of
    three, one part after the other, those of the two across the axis are `across` (2, p, 2), in the order in which a
    turn to the left goes, and of the stages' points `points` (p, 2); `along` (2, p) are those along it. Across it their
    boxes reach `half` (2, p, 2) (m) from their middles; along it they lie beside each other from `room` (p,) (m) on.
    Both parts of `upright` (p,) ones have their sides along the rig's axes.
    """

    turning: np.ndarray
    passed: np.ndarray
    stage: np.ndarray
    across: np.ndarray
    points: np.ndarray
    along: np.ndarray
    half: np.ndarray
    room: np.ndarray
    upright: np.ndarray


@cached_for_rig
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
    both = np.array([first, second])
    sides, along = 3 * both[:, :, None] + across, 3 * both + axis
    reach = assembly.edges.ravel()[along]
    room = np.where(2.0 * reach.min(axis=0) < OVERLAP, -1.0, reach.sum(axis=0) - OVERLAP)
    upright = assembly.upright[first] & assembly.upright[second]
    half, points = assembly.edges.ravel()[sides], 3 * which[:, None] + across
    return _Made(first, second, which, sides, points, along, half, room, upright)


# Whether any meet, and which comes nearest, is asked of the same ones.
@cached_for_rig
def _pairs(assembly: Assembly, positions: Positions, on_it: Stages) -> _Pairs:
    """Return all pairs, of all stages at once, with bounds of how near they come."""
    made, middle = _made_of(assembly, _turning(on_it)), positions.centre.ravel()
    beside = np.abs(middle[made.along[0]] - middle[made.along[1]]) > made.room
    middles = middle[made.across] - _points(on_it).take(made.points)
    low, high = middles - made.half, middles + made.half
    gap = _ring_gaps(low, high)
    # As they stand they lie over each other: these do not swing in.
    exact = (low.max(axis=0) < high.min(axis=0) + TOUCHES).all(axis=1)
    gap[exact] = -np.inf
    return _Pairs(made.turning, made.passed, made.stage, middles, low, high, gap, np.zeros(len(gap)), exact, beside)


def _looked_at(pairs: _Pairs, far: np.ndarray, near: float) -> _Pairs:
    """Return pairs of which the nearest were looked at, if they may come nearer than `near` (m).

    `far` (rad) is how far each stage turns either way.
    """
    gap, angle, exact = pairs.gap.copy(), pairs.angle.copy(), pairs.exact.copy()
    # The nearest first: what is farther apart by its bound than those come need not be looked at. All that meet count.
    upto = near
    for count in (_FIRST, len(gap)):
        asked = np.flatnonzero(~(exact | pairs.beside) & (gap <= upto))
        asked = asked[gap[asked].argsort()][:count]
        if not asked.size:
            break
        gap[asked], angle[asked] = turned_gaps(pairs.low[:, asked], pairs.high[:, asked], far[pairs.stage[asked]])
        exact[asked] = True
        upto = min(upto, max(float(gap[asked].min()), 0.0))
    gap[exact & (gap <= TOUCHES)] = -np.inf
    return replace(pairs, gap=gap, angle=angle, exact=exact)


#: Pairs that are looked at first.
_FIRST = 8


def _ring_gaps(low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """Return how far apart (p,) (m) the rings are in which two boxes lie, low and high corners (2, p, 2) (m).

    Below zero they lie over each other. Whatever a part turns by, it stays in its ring about the axis.
    """
    close, far = np.maximum(np.maximum(low, -high), 0.0), np.maximum(-low, high)
    inner, outer = np.hypot(close[..., 0], close[..., 1]), np.hypot(far[..., 0], far[..., 1])
    result: np.ndarray = np.maximum(inner[1] - outer[0], inner[0] - outer[1])
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
    stage = on_it.stages[int(pairs.stage[k])]
    most = use[stage.name]
    if upright and pairs.exact[k]:
        # What lies over each other at home does not swing in: it meets as it stands, or is made to.
        if pairs.angle[k] == 0.0:
            return None
        return _deep(first, second, pairs.middles[:, k], (pairs.high[:, k] - pairs.low[:, k]) / 2.0, most)
    corners = [outline_corners(assembly, positions, part) for part in (first, second)]

    def turned(by: float) -> Passing | None:
        return passing((first, corners[0]), (second, corners[1]), stage.about, stage.point, -by, by, near)

    found, home = turned(most), turned(0.0)
    if found is None or found.gap > 0.0:
        return found
    return found if home is None or home.gap > 0.0 else None


def _deep(first: int, second: int, middles: np.ndarray, halves: np.ndarray, most: float) -> Passing | None:
    """Return how deep upright part number `first` goes into one that stays, None if it doesn't; see `deepest`."""
    gap, angle, meets = deepest(middles, halves, most)
    return Passing(first, second, gap, angle, meets) if gap <= TOUCHES else None
