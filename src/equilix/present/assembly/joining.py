"""How a loose part of the kit gets on a build: where it fits, what is missing between, or a connection of one's own."""

from __future__ import annotations

from enum import StrEnum

from equilix.core.kit.parts import Connection, Mount, MountKind, Part, Point
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.records import Kinds, SeatRule, shipped_kinds


class Face(StrEnum):
    """Where a part sits against another."""

    ON_TOP = "on top of"
    UNDER = "under"
    AHEAD = "ahead of"
    BEHIND = "behind"
    LEFT = "left of"
    RIGHT = "right of"


class Moves(StrEnum):
    """How a connection moves."""

    FIXED = "is fixed"
    FORE_AFT = "slides fore and aft"
    ACROSS = "slides across"
    UP_DOWN = "slides up and down"
    TILTS = "turns nose up and down"
    TILT_AXIS = "gimbal tilt axis, turns freely"
    ROLL_AXIS = "gimbal roll axis, turns freely"
    PAN_AXIS = "gimbal pan axis, turns freely"

    @property
    def turns(self) -> bool:
        """Whether it moves by an angle."""
        return self is Moves.TILTS or self in _AXES


_AXIS = {Face.ON_TOP: (2, 1), Face.UNDER: (2, -1), Face.AHEAD: (0, 1), Face.BEHIND: (0, -1)} | {
    Face.LEFT: (1, 1),
    Face.RIGHT: (1, -1),
}
_ALONG: dict[Moves, tuple[Connection, Point]] = {
    Moves.FIXED: (Connection.FIXED, (1.0, 0.0, 0.0)),
    Moves.FORE_AFT: (Connection.SLIDE, (1.0, 0.0, 0.0)),
    Moves.ACROSS: (Connection.SLIDE, (0.0, 1.0, 0.0)),
    Moves.UP_DOWN: (Connection.SLIDE, (0.0, 0.0, 1.0)),
    Moves.TILTS: (Connection.TURN, (0.0, 1.0, 0.0)),
    Moves.TILT_AXIS: (Connection.TURN, (0.0, 1.0, 0.0)),
    Moves.ROLL_AXIS: (Connection.TURN, (1.0, 0.0, 0.0)),
    Moves.PAN_AXIS: (Connection.TURN, (0.0, 0.0, 1.0)),
}
_AXES = {
    Moves.TILT_AXIS: MountKind.TILT_AXIS,
    Moves.ROLL_AXIS: MountKind.ROLL_AXIS,
    Moves.PAN_AXIS: MountKind.PAN_AXIS,
}


def own_connection(
    holder: Part, part: Part, face: Face, moves: Moves, shift: Point, reach: float, words: str
) -> tuple[Mount, Point]:
    """Return the mount, in the frame of `holder`, and where `part` meets it, in its own frame.

    The middles of the two faces meet, moved by `shift` (m; forward, left, up); it moves by `reach` (m or rad)
    either way. AssemblyError if a figure is out of bounds.
    """
    axis, sign = _AXIS[face]
    at = [c + s for c, s in zip(_face(holder, axis, sign), shift, strict=True)]
    joint, along = _ALONG[moves]
    most = reach if joint is not Connection.FIXED else 0.0
    kind = _AXES.get(moves, MountKind.OWN)
    mount = Mount("own", kind, (at[0], at[1], at[2]), joint, along, -most, most, name=words or "own connection")
    foot = _face(part, axis, -sign)
    return mount, (foot[0], foot[1], foot[2])


def _face(part: Part, axis: int, sign: int) -> list[float]:
    if part.outline is None:
        return [0.0, 0.0, 0.0]
    middle = list(part.outline.centre)
    middle[axis] += sign * part.outline.size[axis] / 2.0
    return middle


#: On which face a part lies whose seat is there.
_FACE_OF = {
    "top": Face.ON_TOP,
    "under": Face.UNDER,
    "ahead": Face.AHEAD,
    "front": Face.AHEAD,
    "rods+": Face.AHEAD,
    "behind": Face.BEHIND,
    "back": Face.BEHIND,
    "rods-": Face.BEHIND,
    "left": Face.LEFT,
    "right": Face.RIGHT,
}
#: Seen from the other part.
_OTHER_SIDE = {
    Face.ON_TOP: Face.UNDER,
    Face.UNDER: Face.ON_TOP,
    Face.AHEAD: Face.BEHIND,
    Face.BEHIND: Face.AHEAD,
    Face.LEFT: Face.RIGHT,
    Face.RIGHT: Face.LEFT,
}


def usual_face(holder: Part, part: Part, kinds: Kinds | None = None) -> Face:
    """Return where such a part usually sits against such another: by the seats of its kind, or of the other's."""
    kinds = kinds or shipped_kinds()
    reading, there = reading_of(part, kinds), kind_of_part(holder, kinds)
    kind = reading.kind
    if kind is None:
        return Face.ON_TOP
    own = next((rule for rule in kind.seats if rule.ranks(there) is not None), None)
    other = next((rule for rule in there.seats if rule.ranks(kind) is not None), None)
    if own is None and other is not None:
        return _OTHER_SIDE[_face_of(other, frozenset())]
    own = own or next(iter(kind.seats), None)
    return _face_of(own, reading.traits) if own is not None else Face.ON_TOP


def _face_of(rule: SeatRule, traits: frozenset[str]) -> Face:
    if rule.where == "side":
        return Face.RIGHT if "right" in traits else Face.LEFT
    return _FACE_OF.get(rule.where, Face.ON_TOP)
