"""How a loose part of the kit gets on a build: where it fits, what is missing between, or a connection of one's own."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build
from equilix.core.assembly.fit import Seat, step_of
from equilix.core.assembly.missing import Piece, missing_between
from equilix.core.kit.parts import Category, Connection, Mount, MountKind, Part, Point
from equilix.document.book import Book, new_id
from equilix.document.edits.builds import ApplyPlan
from equilix.document.kinds.dropping import dropped, face_at
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.records import SeatRule
from equilix.io.shipped import catalogue
from equilix.present.assembly.drawing import BuildDrawing
from equilix.present.words import mid_sentence, short_name


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


def usual_face(holder: Part, part: Part) -> Face:
    """Return where such a part usually sits against such another: by the seats of its kind, or of the other's."""
    reading, there = reading_of(part), kind_of_part(holder)
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


# What is loose


class LooseRow(Struct, frozen=True):
    """A part that is still loose, in words where it goes or what is missing, and the pieces that would join it."""

    part: Part
    words: str
    pieces: tuple[Piece, ...]
    new_parts: tuple[Part, ...]


def loose_rows(build: Build, book: Book, seats: Sequence[Seat], most: int = 3) -> tuple[LooseRow, ...]:
    """Return the first parts that nothing on `build` takes and of whose kind there is none on it, in order of work."""
    on_build = {placed.part_id for placed in build.parts}
    if not on_build:
        return ()
    there = {book.part(part_id).category for part_id in on_build}
    seated = {seat.part.id for seat in seats if not seat.astray}
    strays = {seat.part.id for seat in seats if seat.astray}
    loose = [
        part
        for part in book.kit
        if part.id not in on_build
        and part.id not in seated
        # A part that fits nothing by itself is always asked for.
        and (part.category not in there or not part.feet)
    ]
    loose.sort(key=lambda part: step_of(part.category))
    rows: list[LooseRow] = []
    for part in loose[:_LOOKED_AT]:
        row = loose_row(build, book, part)
        if part.id in strays and len(row.pieces) == 1:
            continue
        # What only waits for other parts of the kit follows by itself.
        if (row.new_parts or not row.pieces) and len(rows) < most:
            rows.append(row)
    return tuple(rows)


#: Of these one is all that a build takes: another one in the kit is a spare; common practice.
_ONE_IS_ENOUGH = frozenset(
    {Category.BODY, Category.LENS, Category.ADAPTER, Category.MATTE_BOX, Category.PAD, Category.BATTERY}
)


def is_spare(part: Part, build: Build, book: Book) -> bool:
    """Whether a part is of a kind of which one is enough, and there is one on the build."""
    there = {book.part(placed.part_id).category for placed in build.parts}
    return part.category in _ONE_IS_ENOUGH & there


#: Loose parts for which it is worked out what is missing.
_LOOKED_AT = 8


def loose_row(build: Build, book: Book, part: Part) -> LooseRow:
    """Return what it takes to get `part` on `build`."""
    stock = _typical_stock(book)
    pieces = missing_between(build, book.parts, part, stock)
    ids = {piece.part.id for piece in pieces}
    new = tuple(one for one in stock if one.id in ids and one.id not in book.parts)
    between = pieces[:-1]
    if not pieces:
        return LooseRow(part, "Nothing here takes this part. Say where it goes.", (), ())
    if not between:
        return LooseRow(part, "fits.", pieces, new)
    bought = [piece.part for piece in between if piece.part in new]
    own = [piece.part for piece in between if piece.part not in new]
    said = []
    if own:
        said.append(f"needs {listed_parts(own)} between")
    if bought:
        kinds = " and ".join(dict.fromkeys(_a(one) for one in bought))
        single = len(bought) == 1 and bought[0].category is not Category.RODS
        said.append(f"{kinds} {'is' if single else 'are'} missing, and none is loose in your kit")
    return LooseRow(part, f"{'; '.join(said)}.", pieces, new)


def listed_parts(parts: Sequence[Part]) -> str:
    """Return the parts' names as words in a sentence."""
    return " and ".join(mid_sentence(short_name(part.name)) for part in parts)


def _a(part: Part) -> str:
    word = mid_sentence(short_name(part.name))
    if part.category is Category.RODS:  # rods are spoken of as two
        return word
    return f"{'an' if word[:1].casefold() in 'aeiou' else 'a'} {word}"


#: The typical piece of each kind to be had between two parts, of as many pieces the first ones rather: rods and what is
#: clamped on them before a second plate or a cage; common practice.
_TYPICAL_BETWEEN = (
    "c-rods-aluminium-8",
    "c-rosettes",
    "c-camplate-long",
    "c-base-mid",
    "c-vplate",
    "c-arm-swivel",
    "c-arm-short",
    "c-handle-m",
    "c-cage-full",
    "c-adapter",
)


def _typical_stock(book: Book) -> tuple[Part, ...]:
    """Return the typical pieces under ids that the kit has not got yet."""
    by_id = {part.id: part for part in catalogue()}
    taken = set(book.parts)
    found = []
    for part_id in _TYPICAL_BETWEEN:
        part = by_id[part_id]
        if part_id in taken:
            part = replace(part, id=new_id(f"{part_id}-", taken), name=f"{part.name}, another")
        found.append(part)
    return tuple(found)


# Dropped on a face


def dropping(
    book: Book, analysis: Analysis, drawn: BuildDrawing, part: Part, holder: str, at: tuple[float, float]
) -> ApplyPlan:
    """Return the edit that joins a part to the face of `holder` that it was dropped nearest to, `at` a pixel."""
    assembly, positions = analysis.assembly, analysis.positions
    k = next(k for k, placed in enumerate(analysis.build.parts) if placed.id == holder)
    middle, half = positions.centre[k], assembly.edges[k]
    side = at[1] < drawn.split
    seen, up = (drawn.side, 2) if side else (drawn.top, 1)
    point = middle.copy()
    point[0], point[up] = seen.model(at)
    where = face_at(_three(middle - half), _three(middle + half), _three(point), (0, up))
    placed = dropped(analysis.build, book.parts, part, holder, where, point)
    build = replace(analysis.build, parts=(*analysis.build.parts, placed))
    return ApplyPlan(build, (), f"Put {part.name} on")


def _three(values: np.ndarray) -> Point:
    x, y, z = (float(value) for value in values)
    return x, y, z
