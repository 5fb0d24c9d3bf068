"""A rig put together from what is loose: what would go where, what is asked, and what stays off, in words."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.kit.parts import Part
from equilix.document.book import Book
from equilix.document.kinds.assemble import Assembled
from equilix.present.assembly.pictures import place_picture
from equilix.present.assembly.pieces import Piece, PlaceAnswer, answers_of, put_together, where_words
from equilix.present.drawing.scene import Scene


class PartQuestion(Struct, frozen=True, eq=False):
    """What is asked about a part: its name, why, and the answers with a picture each.

    There are none while what would carry the part is not on yet.
    """

    part_id: str
    name: str
    asks: str
    answers: tuple[PlaceAnswer, ...]
    pictures: tuple[Scene, ...] = ()


class TogetherRow(Struct, frozen=True):
    """Where a part goes, in words; typical pieces are of no part of the kit."""

    part_id: str
    words: str


class Together(Struct, frozen=True, eq=False):
    """What is proposed for a `before`: the build with all that is sure, typical pieces for the kit, and words.

    `rows` say where each part goes; `spare` what stays off, and why; `unticked` are parts that are not for this rig.
    """

    before: Build
    build: Build
    new_parts: tuple[Part, ...]
    rows: tuple[TogetherRow, ...]
    questions: tuple[PartQuestion, ...]
    spare: tuple[str, ...]
    preview: Analysis
    unticked: tuple[Part, ...] = ()

    @property
    def added(self) -> tuple[str, ...]:
        """The placed parts that it puts on."""
        return _new(self.build, self.before)

    @property
    def drawn(self) -> tuple[str, ...]:
        """The placed parts that are drawn as a proposal: those, else the best place of what is asked."""
        return _new(self.preview.build, self.before)


def _new(build: Build, before: Build) -> tuple[str, ...]:
    old = {placed.id for placed in before.parts}
    return tuple(placed.id for placed in build.parts if placed.id not in old)


def together(book: Book, build: Build, operator: Operator, without: frozenset[str] = frozenset()) -> Together:
    """Return how the parts of the kit that are not on `build` would go on it, but for those of the ids `without`."""
    found = put_together(book, build, without=without)
    sure = _sure(found, build)
    used = {placed.part_id for placed in sure.parts}
    new = tuple(part for part in found.kit.values() if part.id not in book.parts and part.id in used)
    kit = {**book.parts, **{part.id: part for part in new}}
    there = {placed.id for placed in sure.parts} - {placed.id for placed in build.parts}
    rows = tuple(
        TogetherRow(
            placed.part_id if placed.part_id in book.parts else "",
            f"{found.kit[placed.part_id].name}: {where_words(found, placed)}",
        )
        for placed in found.build.parts
        if placed.id in there
    )
    questions = tuple(
        _question(found.kit[one.part_id], one.asks, answers_of(found, one, build), found.kit) for one in found.questions
    )
    unticked = tuple(part for part in book.kit if part.id in without)
    spare = tuple(f"{found.kit[one.part_id].name}: {one.why}" for one in found.spare)
    drawn = sure if there else next((one.answers[0].build for one in questions if one.answers), sure)
    return Together(build, sure, new, rows, questions, spare, analyse(drawn, kit, operator), unticked)


def asking(book: Book, build: Build, operator: Operator, piece: Piece) -> Together:
    """Return what is asked about one part, with its best place drawn."""
    question = _question(piece.part, piece.asks, piece.answers, book.parts)
    best = piece.answers[0].build if piece.answers else build
    return Together(build, build, (), (), (question,), (), analyse(best, book.parts, operator))


def _question(part: Part, asks: str, answers: tuple[PlaceAnswer, ...], kit: Kit) -> PartQuestion:
    pictures = tuple(place_picture(one.build, kit, one.relation) for one in answers)
    return PartQuestion(part.id, part.name, asks, answers, pictures)


def _sure(found: Assembled, before: Build) -> Build:
    """Return the build with what nobody is asked about, and with nothing on what somebody is."""
    asked = {question.part_id for question in found.questions}
    gone: set[str] = set()
    old = {placed.id for placed in before.parts}
    kept = []
    for placed in found.build.parts:
        if placed.id not in old and placed.parent is not None and (placed.part_id in asked or placed.parent in gone):
            gone.add(placed.id)
        else:
            kept.append(placed)
    return replace(found.build, parts=tuple(kept))
