"""Parts in each other's way, judged by their outlines as boxes.

Pairs are found along x by sweeping, then by the separating-axis test for turned boxes: Ericson,
Real-Time Collision Detection (2005), sections 4.4.1 and 7.5. A part touches what it is mounted on, and some
parts are made to reach into others; those pairs are left out.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import cached_for_rig
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.rounding import EXACT, ROUNDING
from equilix.core.sources import common_practice

#: m. Less overlap than this is how closely boxes can describe parts.
SLACK = common_practice(0.004)
#: m. What just touches must not meet by a rounding.
_MEETS = SLACK + ROUNDING
#: Standard uncertainty of a size over itself when it is guessed or from a sheet.
GUESSED_SIZE = common_practice(0.05)
SHEET_SIZE = common_practice(0.01)

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
        # A gimbal's own parts are made to pass each other.
        (Category.GIMBAL, Category.GIMBAL),
        # A sled's too, and its bearing runs on the post.
        (Category.SLED, Category.SLED),
        (Category.SLED, Category.BEARING),
    )
)


class Clash(Struct, frozen=True, eq=False):
    """Parts number `first` and `second` overlap by `depth` (m), standard uncertainty `uncertainty` (m).

    `low` and `high` (3,) (m, rig frame) bound the shared space.
    """

    first: int
    second: int
    depth: float
    uncertainty: float
    low: np.ndarray
    high: np.ndarray


def find_clashes(assembly: Assembly, positions: Positions) -> tuple[Clash, ...]:
    """Return the pairs of parts that overlap by more than `SLACK`, deepest first."""
    if len(assembly.parts) < 2:
        return ()
    if len(assembly.parts) <= _FEW:
        near = _neighbours(assembly, positions.centre)
        first, second, room = near.first, near.second, near.room
    else:
        low, high = positions.centre - assembly.edges, positions.centre + assembly.edges
        first, second = _overlapping_pairs(low, high, assembly.sized)
        if first.size:
            apart = ~_may_touch(assembly, first, second)
            first, second = first[apart], second[apart]
        room = assembly.edges[first] + assembly.edges[second] - SLACK
    if first.size == 0:
        return ()
    depth = (room - np.abs(positions.centre[second] - positions.centre[first])).min(axis=1) + SLACK
    if not assembly.upright.all():
        # The box around a turned part says only that the part itself may meet something.
        turned = np.flatnonzero((depth > _MEETS) & ~(assembly.upright[first] & assembly.upright[second]))
        depth[turned] = _overlap(assembly, positions, first[turned], second[turned])
    order = np.flatnonzero(depth > _MEETS)
    if order.size == 0:
        return ()
    order = order[np.argsort(-depth[order], kind="stable")]
    depth, both = depth[order], np.array([first[order], second[order]])
    centre, edges = positions.centre[both], assembly.edges[both]
    low, high = (centre - edges).max(axis=0), (centre + edges).min(axis=0)
    uncertainty = np.hypot(*_size_uncertainties(assembly)[both])
    found = zip(*both.tolist(), depth.tolist(), uncertainty.tolist(), low, high, strict=True)
    return tuple(Clash(a, b, over, unsure, *ends) for a, b, over, unsure, *ends in found)


def stands_free(assembly: Assembly, positions: Positions, part: int) -> bool:
    """Return whether part number `part` overlaps no other by more than `SLACK`."""
    return touched_by(assembly, positions, part) is None


def touched_by(assembly: Assembly, positions: Positions, part: int) -> int | None:
    """Return the number of the part that part number `part` overlaps deepest, None if none by more than `SLACK`."""
    if not assembly.sized[part]:
        return None
    low, high = positions.centre - assembly.edges + SLACK, positions.centre + assembly.edges
    hit = ((low < high[part]) & (low[part] < high)).all(axis=1) & assembly.sized
    hit[part] = False
    others = np.flatnonzero(hit)
    mine = np.full(others.size, part)
    if others.size:
        apart = ~_may_touch(assembly, mine, others)
        mine, others = mine[apart], others[apart]
    if others.size == 0:
        return None
    depth = _overlap(assembly, positions, mine, others)
    deepest = int(depth.argmax())
    return int(others[deepest]) if float(depth[deepest]) > _MEETS else None


def freest(assembly: Assembly, positions: Positions, part: int, shifts: np.ndarray) -> int:
    """Return the number of the first of `shifts` (k, 3) (m) at which part number `part` alone overlaps no other.

    If there is none, that at which it overlaps others least, counted over all of them as boxes along the rig's axes.
    Upright boxes are told apart along these axes, turned ones by separating axes.
    """
    if not assembly.sized[part]:
        return 0
    others = np.flatnonzero(assembly.sized & (np.arange(len(assembly.parts)) != part))
    others = others[~_may_touch(assembly, np.full(others.size, part), others)]
    if others.size == 0:
        return 0
    gap = np.abs(positions.centre[others][None] - (positions.centre[part] + shifts)[:, None])
    depth = (assembly.edges[others] + assembly.edges[part] - gap).min(axis=2)  # (k, others), of boxes along the axes
    hit = depth > _MEETS
    turned = ~(assembly.upright[others] & assembly.upright[part])
    for k in range(len(shifts)):
        if (hit[k] & ~turned).any():
            continue
        doubtful = others[hit[k] & turned]
        if doubtful.size == 0:
            return k
        moved = positions.centre.copy()
        moved[part] += shifts[k]
        there = replace(positions, centre=moved)
        if float(_overlap(assembly, there, np.full(doubtful.size, part), doubtful).max()) <= _MEETS:
            return k
    return int(np.maximum(depth, 0.0).sum(axis=1).argmin())


def pairs_met(assembly: Assembly, positions: Positions) -> frozenset[tuple[int, int]]:
    """Return the numbers of the pairs of parts that overlap by more than `SLACK`, the lower first."""
    if len(assembly.parts) > _FEW:
        return frozenset((clash.first, clash.second) for clash in find_clashes(assembly, positions))
    first, second, room = _pairs_of(assembly)
    near = np.flatnonzero((np.abs(positions.centre[second] - positions.centre[first]) < room.T - ROUNDING).all(axis=1))
    first, second = first[near], second[near]
    if not assembly.upright.all() and first.size:
        deep = _overlap(assembly, positions, first, second) > _MEETS
        first, second = first[deep], second[deep]
    return frozenset(zip(first.tolist(), second.tolist(), strict=True))


def free_way(
    assembly: Assembly, positions: Positions, slide: int, way: float, but: frozenset[tuple[int, int]] = frozenset()
) -> tuple[float, tuple[int, int] | None]:
    """Return how much of a `way` (m, signed) a slide can go until two parts meet, and which: all, and None if none do.

    Pairs of `but` are not asked. Two boxes that go straight past each other overlap while they do so along every
    separating axis: from where the last of them begins (Ericson, Real-Time Collision Detection (2005), section 5.5.8).
    """
    first, second, room = _pairs_of(assembly)
    carried, axis = assembly.carried_by(slide), assembly.slide_axes[slide]
    # Few are near enough for the boxes around them to meet on the way.
    away = np.abs(positions.centre[second] - positions.centre[first])
    near = (away - np.abs(way * axis) < room.T).all(axis=1) & (carried[first] != carried[second])
    near[near] = [pair not in but for pair in zip(first[near].tolist(), second[near].tolist(), strict=True)]
    first, second = first[near], second[near]
    if first.size == 0:
        return way, None
    unit, reach = _separating(assembly, first, second)
    goes = np.where(carried[second], 1.0, -1.0)[:, None] * (unit @ (math.copysign(1.0, way) * axis))
    apart = np.einsum("pki,pi->pk", unit, positions.centre[second] - positions.centre[first])
    room = reach - SLACK
    passes = np.abs(goes) > EXACT
    speed = np.where(passes, goes, 1.0)
    ends = np.sort(np.array([(-room - apart) / speed, (room - apart) / speed]), axis=0)
    # What goes along an axis without coming nearer lies apart there for good, or never.
    stays = np.where(np.abs(apart) < room - ROUNDING, np.inf, -np.inf)
    begins = np.where(passes, ends[0], -stays).max(axis=1)
    past = np.where(passes, ends[1], stays).min(axis=1)
    meets = np.flatnonzero((begins < past) & (past > ROUNDING) & (begins < abs(way)))
    if meets.size == 0:
        return way, None
    one = int(meets[begins[meets].argmin()])
    return math.copysign(max(float(begins[one]), 0.0), way), (int(first[one]), int(second[one]))


class _Near(Struct, frozen=True, eq=False):
    """Pairs (p,), (p,) that lie no more than `_MARGIN` from each other with the parts' middles at `centre` (n, 3) (m).

    Those whose middles are nearer than `room` (p, 3) (m) along every axis overlap.
    """

    centre: np.ndarray
    first: np.ndarray
    second: np.ndarray
    room: np.ndarray


#: m by which parts may move before it is looked anew which are near each other.
_MARGIN = 0.02


def _neighbours(assembly: Assembly, centre: np.ndarray) -> _Near:
    """Return all pairs that may overlap with the parts' middles at `centre` (n, 3) (m).

    A list of neighbours is made anew only after something has moved far (Verlet, Phys. Rev. 159 (1967), from memory).
    """
    last: _Near | None = assembly.cache.of(_neighbours).get(())
    if last is not None:
        moved = centre - last.centre
        if float((moved.max(axis=0) - moved.min(axis=0)).max()) < _MARGIN:
            return last
    first, second, room = _pairs_of(assembly)
    # Axis by axis: few are near each other along the first, and only those are asked further.
    for axis, middle in enumerate(centre.T.copy()):
        close = np.flatnonzero(np.abs(middle[first] - middle[second]) < room[axis] + _MARGIN)
        first, second, room = first[close], second[close], room[:, close]
    near = _Near(centre, first, second, np.ascontiguousarray(room.T))
    assembly.cache.put(_neighbours, (), near)
    return near


@cached_for_rig
def _pairs_of(assembly: Assembly) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the numbers of all pairs (p,), (p,) that may clash, the lower first, and what room they need (3, p) (m).

    Upright boxes whose middles are nearer than that along every axis overlap. It stays while slides move; what lies
    apart along an axis along which no slide moves one against the other never meets.
    """
    sized = np.flatnonzero(assembly.sized)
    a, b = np.triu_indices(len(sized), 1)
    first, second = sized[a], sized[b]
    apart = ~_may_touch(assembly, first, second) if first.size else np.zeros(0, dtype=bool)
    first, second = first[apart], second[apart]
    room = (assembly.edges[first] + assembly.edges[second] - SLACK).T
    centre, carries = assembly.at(np.zeros(len(assembly.slide_parts))).centre.T, assembly.carries_all().T
    may = np.ones(first.size, dtype=bool)
    for axis, along in enumerate((np.abs(assembly.slide_axes) > EXACT).T):
        # What the same slides carry along an axis stays as it lies there.
        groups: dict[bytes, int] = {}
        group = np.array([groups.setdefault(row.tobytes(), len(groups)) for row in carries[:, along]])
        moves = group[first] != group[second]
        # By as much as a rounding of the settings may bring them nearer.
        may &= moves | (np.abs(centre[axis, first] - centre[axis, second]) <= room[axis] + ROUNDING)
    return first[may], second[may], np.ascontiguousarray(room[:, may])


def _overlapping_pairs(low: np.ndarray, high: np.ndarray, sized: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return the pairs of upright boxes that overlap, by sweeping along x; the lower number first."""
    order = np.flatnonzero(sized)
    order = order[np.argsort(low[order, 0], kind="stable")]
    low, high = low[order] + SLACK, high[order]
    first: list[np.ndarray] = []
    second: list[np.ndarray] = []
    live = np.arange(len(order))
    for step in range(1, len(order)):
        live = live[: np.searchsorted(live, len(order) - step)]
        live = live[low[live + step, 0] < high[live, 0]]
        if live.size == 0:
            break
        other = live + step
        hit = ((low[other] < high[live]) & (low[live] < high[other])).all(axis=1)
        first.append(order[live[hit]])
        second.append(order[other[hit]])
    if not first:
        return np.zeros(0, dtype=int), np.zeros(0, dtype=int)
    a, b = np.concatenate(first), np.concatenate(second)
    return np.minimum(a, b), np.maximum(a, b)


#: Up to so many boxes it is quicker to try all pairs at once than to sweep.
_FEW = 150

_CODES = {category: code for code, category in enumerate(Category)}
_NEST = np.zeros((len(_CODES), len(_CODES)), dtype=bool)
for _pair in _NESTING:
    _a, *_rest = (_CODES[category] for category in _pair)
    _b = _rest[0] if _rest else _a
    _NEST[_a, _b] = _NEST[_b, _a] = True
_NEST[_CODES[Category.CABLE], :] = _NEST[:, _CODES[Category.CABLE]] = True


def _may_touch(assembly: Assembly, first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Return for which pairs one sits on the other, or is made to reach into it."""
    mounted = (assembly.parent[second] == first) | (assembly.parent[first] == second)
    touched = np.concatenate([first, second])
    codes = np.array([_CODES[assembly.parts[i].category] for i in touched.tolist()], dtype=int)
    nests: np.ndarray = _NEST[codes[: first.size], codes[first.size :]]
    result: np.ndarray = mounted | nests
    return result


@cached_for_rig
def _size_uncertainties(assembly: Assembly) -> np.ndarray:
    """Return the standard uncertainty (n,) (m) of each part's size."""
    result: np.ndarray = np.array([_SHARE[part.cg_known] for part in assembly.parts]) * assembly.half_size.max(axis=1)
    return result


#: Of a part's size, by how it is known.
_SHARE = {HowKnown.GUESSED: GUESSED_SIZE, HowKnown.SHEET: SHEET_SIZE, HowKnown.WEIGHED: 0.0}


def _overlap(assembly: Assembly, positions: Positions, first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Return the least depth (m) of each pair over all separating axes; 0 or less when the boxes are apart."""
    unit, reach = _separating(assembly, first, second)
    gap = np.abs(np.einsum("pki,pi->pk", unit, positions.centre[second] - positions.centre[first]))
    least: np.ndarray = (reach - gap).min(axis=1)
    return least


def _separating(assembly: Assembly, first: np.ndarray, second: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return the axes (p, 15, 3) that may tell two boxes apart, and how far the two reach along each (p, 15) (m).

    It is endless along what is no axis, as two edges that are parallel have none.
    """
    ra, rb = assembly.rotation[first], assembly.rotation[second]
    faces = np.concatenate([ra, rb], axis=2).transpose(0, 2, 1)
    edges = np.cross(ra.transpose(0, 2, 1)[:, :, None, :], rb.transpose(0, 2, 1)[:, None, :, :]).reshape(-1, 9, 3)
    axes = np.concatenate([faces, edges], axis=1)
    length = np.linalg.norm(axes, axis=2)
    parallel = length < ROUNDING
    unit = axes / np.maximum(length, ROUNDING)[:, :, None]
    reach = np.einsum("pki,pi->pk", np.abs(unit @ ra), assembly.half_size[first])
    reach += np.einsum("pki,pi->pk", np.abs(unit @ rb), assembly.half_size[second])
    return unit, np.where(parallel, np.inf, reach)
