"""A rig put together from what is loose: what would go where, what is asked, and what stays off, in words."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator
from equilix.core.kit.parts import Part
from equilix.document.book import Book
from equilix.document.kinds.assemble import Assembled, assemble
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.places import Loose
from equilix.present.words import capitalised, mid_sentence

#: How places are said of what carries a part.
_PLACES = {
    "top": "on top of",
    "under": "under",
    "ahead": "ahead of",
    "behind": "behind",
    "left": "on the left of",
    "right": "on the right of",
    "round": "round",
    "rods": "on",
}


class PlaceAnswer(Struct, frozen=True, eq=False):
    """One answer to what is asked about a part: its words, and the build with the part there."""

    words: str
    build: Build


class PartQuestion(Struct, frozen=True, eq=False):
    """What is asked about a part: its name, why, and the answers; none while what would carry it is not on yet."""

    name: str
    asks: str
    answers: tuple[PlaceAnswer, ...]


class Together(Struct, frozen=True, eq=False):
    """What is proposed for a `before`: the build with all that is sure, typical pieces for the kit, and words.

    `rows` say where each part goes; `spare` what stays off, and why.
    """

    before: Build
    build: Build
    new_parts: tuple[Part, ...]
    rows: tuple[str, ...]
    questions: tuple[PartQuestion, ...]
    spare: tuple[str, ...]
    preview: Analysis

    @property
    def added(self) -> tuple[str, ...]:
        """The placed parts that it puts on."""
        old = {placed.id for placed in self.before.parts}
        return tuple(placed.id for placed in self.build.parts if placed.id not in old)


def together(book: Book, build: Build, operator: Operator) -> Together:
    """Return how the parts of the kit that are not on `build` would go on it."""
    on_it = {placed.part_id for placed in build.parts}
    loose = [Loose(part, reading_of(part)) for part in book.kit if part.id not in on_it]
    known = {placed.id: kind_of_part(book.part(placed.part_id)) for placed in build.parts}
    found = assemble(build, dict(book.parts), loose, known=known)
    sure = _sure(found, build)
    used = {placed.part_id for placed in sure.parts}
    new = tuple(part for part in found.kit.values() if part.id not in book.parts and part.id in used)
    kit = {**book.parts, **{part.id: part for part in new}}
    names = {placed.id: found.kit[placed.part_id].name for placed in found.build.parts}
    there = {placed.id for placed in sure.parts}
    first = () if build.parts else tuple(f"{names[p.id]}: stands first" for p in sure.parts if p.parent is None)
    rows = first + tuple(
        f"{names[joint.placed_id]}: {_PLACES[joint.relation]} {mid_sentence(names[joint.onto])}, {joint.how}"
        f"{', typical piece' if joint.guessed else ''}"
        for joint in found.joints
        if joint.placed_id in there
    )
    on = {placed.id for placed in build.parts}
    questions = tuple(
        PartQuestion(
            found.kit[one.part_id].name,
            one.asks,
            tuple(
                PlaceAnswer(
                    capitalised(f"{_PLACES[choice.relation]} {mid_sentence(names[choice.onto])}"),
                    replace(build, parts=(*build.parts, choice.placed)),
                )
                for choice in one.choices
                if choice.onto in on
            ),
        )
        for one in found.questions
    )
    spare = tuple(f"{found.kit[one.part_id].name}: {one.why}" for one in found.spare)
    return Together(build, sure, new, rows, questions, spare, analyse(sure, kit, operator))


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
