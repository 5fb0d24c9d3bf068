"""A part in the hand over the drawing: what it would join, what lights up, and the panel's words."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from msgspec import Struct

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator
from equilix.core.assembly.fit import Spot, first_setting, seat_at
from equilix.core.assembly.mounts import FreeFoot
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.errors import AssemblyError
from equilix.document.book import Book
from equilix.document.kinds.dropping import dropped, face_at
from equilix.document.kinds.in_hand import HandPlace, InHand, face_places, joined_by, usual_places
from equilix.document.kinds.places import WAYS, point_of
from equilix.present.assembly.drawing import BuildDrawing
from equilix.present.assembly.pieces import PLACES, cg_change
from equilix.present.assembly.spots import spot_key, spot_point, spot_where
from equilix.present.drawing.rig_drawing import PartBox, Projection, draw_parts
from equilix.present.drawing.scene import Scene, circle, polygon
from equilix.present.drawing.silhouettes import View
from equilix.present.panel import Act, Block, Buttons, Heading, Words
from equilix.present.units import System
from equilix.present.words import capitalised, mid_sentence, short_name

PUT_THERE, NEXT_PLACE, NEXT_HOLDER, HAND_OFF, HAND_LEAVE = (
    "put there",
    "next place",
    "next holder",
    "hand off",
    "put back",
)
_OFF_THE_RIG = "off the rig"


class Target(Struct, frozen=True, eq=False):
    """Where a part in the hand would go now: its place, None for nowhere, and that in words."""

    place: HandPlace | None
    words: str


def target_of(hand: InHand, place: HandPlace) -> Target:
    """Return a place with its words: "on top of cage, screw"."""
    onto = short_name(hand.kit[hand.build.placed(place.onto).part_id].name)
    return Target(place, f"{PLACES[place.relation]} {mid_sentence(onto)}, {place.how}")


def target_at(
    hand: InHand,
    book: Book,
    analysis: Analysis,
    drawn: BuildDrawing,
    spots: tuple[Spot, ...],
    at: tuple[float, float],
    free: bool,
) -> Target:
    """Return what a part in the hand would join at a pixel; `free` with no mount that draws it to itself."""
    key = drawn.scene.hit(*at)
    if key is None or key[0] not in ("part", "mount", "foot"):
        return Target(None, _OFF_THE_RIG)
    if key[1] in hand.ids:
        return Target(None, "")
    spot = next((spot for spot in spots if spot_key(spot) == key), None)
    if spot is not None:
        return _at_spot(hand, spot)
    seen, point = _model_point(analysis, drawn, key[1], at)
    middle, half = _box(analysis.assembly, analysis.positions, key[1])
    where = face_at(point_of(middle - half), point_of(middle + half), point_of(point), seen)
    placed = dropped(hand.rest, hand.kit, hand.part, key[1], where, point, book.known_kinds, free)
    return target_of(hand, HandPlace(key[1], where, joined_by(hand, placed), placed))


def _at_spot(hand: InHand, spot: Spot) -> Target:
    where = spot_where(spot, hand.build, hand.kit)
    seat = seat_at(hand.rest, hand.kit, spot, hand.part)
    if seat is None:
        return Target(None, f"does not fit {where}")
    placed = seat.placed(hand.placed_id, first_setting(hand.rest, hand.kit, spot, hand.part))
    return Target(HandPlace(spot.placed_id, "under" if isinstance(spot, FreeFoot) else "top", "", placed), where)


def _model_point(
    analysis: Analysis, drawn: BuildDrawing, placed_id: str, at: tuple[float, float]
) -> tuple[tuple[int, int], np.ndarray]:
    """Return the axes that the view under a pixel sees, and the point there in the depth of a part (m, rig frame)."""
    seen, up = (drawn.side, 2) if at[1] < drawn.split else (drawn.top, 1)
    point = _box(analysis.assembly, analysis.positions, placed_id)[0].copy()
    point[0], point[up] = seen.model(at)
    return (0, up), point


def _box(assembly: Assembly, positions: Positions, placed_id: str) -> tuple[np.ndarray, np.ndarray]:
    k = next(k for k, placed in enumerate(assembly.build.parts) if placed.id == placed_id)
    return positions.centre[k], assembly.edges[k]


class HandPlaces:
    """The places of a part in the hand, through which keys go: by what it would go onto, the usual ones first."""

    def __init__(self, hand: InHand, book: Book) -> None:
        self.hand = hand
        self._book = book
        self._faces: dict[str, tuple[HandPlace, ...]] = {}

    @cached_property
    def usual(self) -> tuple[HandPlace, ...]:
        return usual_places(self.hand, self._book)

    @cached_property
    def holders(self) -> tuple[str, ...]:
        """What it can go onto: by its usual places, then all else in part order."""
        found = [place.onto for place in self.usual]
        return tuple(dict.fromkeys([*found, *(placed.id for placed in self.hand.rest.parts)]))

    def on(self, holder: str) -> tuple[HandPlace, ...]:
        """Return the places on one part: its usual ones, then the faces that are left."""
        if holder not in self._faces:
            usual = [place for place in self.usual if place.onto == holder]
            there = {place.relation for place in usual}
            more = [place for place in face_places(self.hand, self._book, holder) if place.relation not in there]
            self._faces[holder] = (*usual, *more)
        return self._faces[holder]


# Drawn


def draw_hand(
    scene: Scene,
    hand: InHand,
    target: Target,
    analysis: Analysis,
    drawn: BuildDrawing,
    spots: tuple[Spot, ...],
    at: tuple[float, float] | None,
) -> None:
    """Draw what is in the hand: mounts that fit lit, the face it would join, and dashed where it would be.

    `at` is the pointer's pixel, None by keys.
    """
    for spot in spots:
        if spot.placed_id not in hand.ids and _fits(hand, spot):
            for projection in (drawn.side, drawn.top):
                x, y = projection.point(spot_point(analysis, spot))
                scene.path(circle(x, y, 12), None, "accent", 2.0)
    place = target.place
    if place is not None:
        for projection in (drawn.side, drawn.top):
            _light_face(scene, analysis, place, projection)
            box = _draw_there(scene, hand, hand.put(place.placed), projection)
            if at is None and projection is drawn.side:
                at = box.left, box.top
    if target.words and at is not None:
        scene.note(max(at[0], 4.0), max(at[1] - 12.0, 40.0), target.words, 13.0, "accent" if place else "ink")


def _fits(hand: InHand, spot: Spot) -> bool:
    try:
        return seat_at(hand.rest, hand.kit, spot, hand.part) is not None
    except AssemblyError:
        return False


def _light_face(scene: Scene, analysis: Analysis, place: HandPlace, projection: Projection) -> None:
    middle, half = _box(analysis.assembly, analysis.positions, place.onto)
    up = 1 if projection.view is View.TOP else 2
    left, right = projection.x(float(middle[0] - half[0])), projection.x(float(middle[0] + half[0]))
    low, high = projection.y(float(middle[up] - half[up])), projection.y(float(middle[up] + half[up]))
    axis, sign = WAYS.get(place.relation, (-1, 0.0))
    if axis == up:
        y = high if sign > 0.0 else low
        scene.line(left, y, right, y, "accent", 4.0)
    elif axis == 0:
        x = right if sign > 0.0 else left
        scene.line(x, low, x, high, "accent", 4.0)
    else:
        scene.path(polygon(((left, low), (right, low), (right, high), (left, high))), None, "accent", 2.0)


def _draw_there(scene: Scene, hand: InHand, build: Build, projection: Projection) -> PartBox:
    assembly = prepare(build, hand.kit)
    only = frozenset(k for k, placed in enumerate(build.parts) if placed.id in hand.ids)
    regions = len(scene.regions)
    positions = assembly.at(assembly.settings(build))
    boxes = draw_parts(scene, assembly, positions, projection, preview=True, only=only)
    del scene.regions[regions:]  # what is in the hand is in nobody's way
    return next(box for box in boxes if build.parts[box.index].id == hand.placed_id)


# Said


def hand_blocks(hand: InHand, target: Target | None, count: tuple[int, int], effect: str) -> list[Block]:
    """Return what the panel says of a part in the hand: where it would go, and how to go through its places.

    `count` are the number of the place on its holder and how many there are, `effect` what it does to the CG.
    """
    others = len(hand.along)
    along = f"with {others} part{'s' if others != 1 else ''} on it" if others else ""
    words = capitalised(target.words) if target is not None and target.words else "Nothing takes it."
    if count[1] > 1:
        words += f" (place {count[0]} of {count[1]} there)"
    acts = [
        Act((PUT_THERE,), "Put it there", "Enter. Ctrl+Enter puts a copy there"),
        Act((NEXT_PLACE,), "Other place", "Another side of the same part (Right)"),
        Act((NEXT_HOLDER,), "Other part", "A place on another part (Down)"),
    ]
    if hand.verb == "Move":
        acts.append(Act((HAND_OFF,), "Take off", "It is loose then (Delete)"))
    acts.append(Act((HAND_LEAVE,), "Leave it", "Esc"))
    blocks: list[Block] = [Heading(f"In hand: {short_name(hand.part.name)}", along), Words(f"{words}.", "ink", 15.0)]
    blocks += [Words(effect)] if effect else []
    return [*blocks, Buttons(tuple(acts)), Words("Or drag it onto a face. Alt: exactly there. Ctrl: a copy.", "ink3")]


def hand_effect(hand: InHand, place: HandPlace, before: Analysis, operator: Operator, system: System) -> str:
    """Return what it does to the CG there: "CG +61 → +39 mm"; nothing without a support that it is measured from."""
    after = analyse(hand.put(place.placed), hand.kit, operator)
    if before.equilibrium is None or after.equilibrium is None:
        return ""
    return cg_change(before.equilibrium.ahead, after.equilibrium.ahead, system)
