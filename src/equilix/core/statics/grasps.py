"""Where hands can take hold of a build, and where the two hands of a hold are."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import LEFT_SIDE, RIGHT_SIDE, UNDER, Grasp, Hold, Side
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.frames import X, Z
from equilix.core.kit.parts import Category, MountKind
from equilix.core.sources import common_practice

#: m: what a hand is taken to close round where the part's own size doesn't tell.
USUAL_THICKNESS = common_practice(0.035)
#: m: nothing thinner or thicker is held in a fist.
THICKNESS = common_practice((0.015, 0.060))


class Place(Struct, frozen=True, eq=False):
    """A place for a hand: `point` (3,) (m, rig frame) on part number `part`; `side` is the hand that holds it.

    `side` is None for a place that is only offered, and for a single one that the stronger hand takes.
    """

    grasp: Grasp
    point: np.ndarray
    part: int
    side: Side | None = None


def places(assembly: Assembly, positions: Positions) -> tuple[Place, ...]:
    """Return every place where a hand can be: grips, handles, under a lens, on either side of a camera body."""
    found = [
        Place(Grasp(point.placed_id, point.mount_id), positions.touch[i], point.part)
        for i, point in enumerate(assembly.touch_points)
        if point.kind is MountKind.GRIP_POINT
    ]
    for i, (placed, part) in enumerate(zip(assembly.build.parts, assembly.parts, strict=True)):
        if not assembly.sized[i]:
            continue
        middle, edges = positions.centre[i], assembly.edges[i]
        if part.category is Category.LENS:
            found.append(Place(Grasp(placed.id, UNDER), middle - [0.0, 0.0, edges[2]], i))
        elif part.category is Category.BODY:
            for spot, way in ((LEFT_SIDE, 1.0), (RIGHT_SIDE, -1.0)):
                found.append(Place(Grasp(placed.id, spot), middle + np.array([0.0, way * edges[1], 0.0]), i))
    return tuple(found)


def hands_at(assembly: Assembly, positions: Positions, hold: Hold, bare: bool = False) -> tuple[Place, ...]:
    """Return where the hands are: as chosen, else by themselves the outermost grips; none, one or two places.

    A chosen place that the build no longer has counts as not chosen. With `bare`, a build without any grip is
    held by its camera's right side and under the lens, or by both sides.
    """
    usual = _usual(assembly, positions)
    if hold.left is None and hold.right is None and (usual or not bare):
        return _sided(usual)
    offered = {place.grasp: place for place in places(assembly, positions)}
    left = offered.get(hold.left) if hold.left is not None else None
    right = offered.get(hold.right) if hold.right is not None else None
    if left is None and right is None:
        return _sided(usual or (_by_the_body(tuple(offered.values())) if bare else ()))
    if left is None:
        left = _other(usual, right, 1.0)
    elif right is None:
        right = _other(usual, left, -1.0)
    pairs = ((left, Side.LEFT), (right, Side.RIGHT))
    return tuple(Place(p.grasp, p.point, p.part, side) for p, side in pairs if p is not None)


def thickness_of(assembly: Assembly, place: Place, hold: Hold) -> float:
    """Return how thick (m) what the hand closes round is: as measured, else from the grip's least width."""
    if assembly.parts[place.part].category not in (Category.GRIP, Category.HANDLE):
        return USUAL_THICKNESS
    if hold.thickness is not None:
        return hold.thickness
    if not assembly.sized[place.part]:
        return USUAL_THICKNESS
    return float(min(max(2.0 * min(assembly.half_size[place.part].tolist()), THICKNESS[0]), THICKNESS[1]))


def handle_axis(assembly: Assembly, place: Place) -> int:
    """Return the axis (x 0, z 2) along which what the hand holds lies: top handles and lenses fore and aft."""
    level = assembly.parts[place.part].category is Category.HANDLE or place.grasp.mount_id == UNDER
    return X if level else Z


#: Which way (3,) a flat palm pushes where there is nothing to close the hand round. A camera's right side is shaped
#: to be gripped.
_PALMS: dict[str, tuple[float, float, float]] = common_practice(
    {
        UNDER: (0.0, 0.0, 1.0),
        LEFT_SIDE: (0.0, -1.0, 0.0),
    }
)


def palm_of(place: Place) -> tuple[float, float, float] | None:
    """Return which way (3,) the palm pushes at a place that no hand can close round, None at grips and handles."""
    return _PALMS.get(place.grasp.mount_id)


def _usual(assembly: Assembly, positions: Positions) -> tuple[Place, ...]:
    """Return the outermost two touch points for hands: grips first, never the top handle."""
    grips = [(i, point) for i, point in enumerate(assembly.touch_points) if point.kind is MountKind.GRIP_POINT]
    chosen = [pair for pair in grips if pair[1].category is Category.GRIP]
    if not chosen:
        chosen = [pair for pair in grips if pair[1].category is not Category.HANDLE]
    if len(chosen) > 2:
        by_side = sorted(chosen, key=lambda pair: float(positions.touch[pair[0], 1]))
        chosen = [by_side[0], by_side[-1]]
    return tuple(Place(Grasp(p.placed_id, p.mount_id), positions.touch[i], p.part) for i, p in chosen)


def _by_the_body(offered: tuple[Place, ...]) -> tuple[Place, ...]:
    by_spot = {place.grasp.mount_id: place for place in reversed(offered)}
    right, other = by_spot.get(RIGHT_SIDE), by_spot.get(UNDER, by_spot.get(LEFT_SIDE))
    return (right, other) if right is not None and other is not None else ()


def _sided(pair: tuple[Place, ...]) -> tuple[Place, ...]:
    """Give the place that is farther left to the left hand."""
    if len(pair) < 2:
        return pair
    left = 0 if pair[0].point[1] >= pair[1].point[1] else 1
    sides = (Side.LEFT, Side.RIGHT) if left == 0 else (Side.RIGHT, Side.LEFT)
    return tuple(Place(p.grasp, p.point, p.part, side) for p, side in zip(pair, sides, strict=True))


def _other(usual: tuple[Place, ...], taken: Place | None, way: float) -> Place | None:
    free = [place for place in usual if taken is None or place.grasp != taken.grasp]
    return max(free, key=lambda place: way * float(place.point[1])) if free else None


#: m, y: what lies in the middle, such as a lens, is for the left hand: the right one stays at the controls.
_MIDDLE = common_practice(-0.020)


def with_hand_at(assembly: Assembly, positions: Positions, hold: Hold, grasp: Grasp) -> Hold | None:
    """Return the hold with a hand at a place: the hand on whose side it is. None where there is none, or a hand is."""
    place = next((one for one in places(assembly, positions) if one.grasp == grasp), None)
    if place is None or any(grasp == one.grasp for one in hands_at(assembly, positions, hold)):
        return None
    return replace(hold, left=grasp) if float(place.point[1]) > _MIDDLE else replace(hold, right=grasp)
