"""Loose parts of the kit: how each would go on a build next, what is asked about it, and what stays off, in words."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.kit.parts import Part
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.document.edits.builds import ApplyPlan
from equilix.document.kinds.assemble import Assembled, Question, assemble
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.places import Loose
from equilix.present.units import System, figure
from equilix.present.words import capitalised, mid_sentence

#: How places are said of what carries a part.
PLACES = {
    "top": "on top of",
    "under": "under",
    "ahead": "ahead of",
    "behind": "behind",
    "left": "on the left of",
    "right": "on the right of",
    "round": "round",
    "in": "in",
    "rods": "on",
}
#: Parts that are looked for at once: what a panel can show.
_SHOWN = 8


class PlaceAnswer(Struct, frozen=True, eq=False):
    """One answer to what is asked about a part: its words, the build with the part there, and where that lies."""

    words: str
    build: Build
    relation: str


class Piece(Struct, frozen=True, eq=False):
    """How a loose `part` goes on: `placed` is what goes on, typical pieces before it and itself last.

    `new_parts` are those typical pieces, `words` say where it goes. `asks` is what nobody can know, "" for nothing, and
    `answers` are the places that it may have.
    """

    part: Part
    placed: tuple[Placed, ...]
    new_parts: tuple[Part, ...]
    words: str
    asks: str = ""
    answers: tuple[PlaceAnswer, ...] = ()

    def put_on(self, build: Build) -> ApplyPlan:
        """Return the edit that puts it on."""
        return ApplyPlan(replace(build, parts=(*build.parts, *self.placed)), self.new_parts, f"Put {self.part.name} on")


class StaysOff(Struct, frozen=True, eq=False):
    """A part that stays off, and why; `wanted` where it would go on if anything took it."""

    part: Part
    why: str
    wanted: bool


class LooseParts(Struct, frozen=True, eq=False):
    """What is loose: the pieces that can go on now, the first one first, and what stays off."""

    pieces: tuple[Piece, ...] = ()
    off: tuple[StaysOff, ...] = ()


def put_together(
    book: Book,
    build: Build,
    most: int | None = None,
    only: Part | None = None,
    without: frozenset[str] = frozenset(),
) -> Assembled:
    """Return how the parts of the kit that are not on `build` would go on it.

    All of them, at most so many, `only` one, or `without` those of some ids.
    """
    kinds, on_it = book.known_kinds, {placed.part_id for placed in build.parts} | without
    loose = [Loose(part, reading_of(part, kinds)) for part in book.kit if part.id not in on_it and only in (None, part)]
    known = {placed.id: kind_of_part(book.part(placed.part_id), kinds) for placed in build.parts}
    parts = dict(book.parts)
    return (
        assemble(build, parts, loose, kinds, known)
        if most is None
        else assemble(build, parts, loose, kinds, known, most)
    )


def loose_parts(book: Book, build: Build) -> LooseParts:
    """Return what can go on next, and what stays off."""
    found = put_together(book, build, _SHOWN)
    off = tuple(StaysOff(found.kit[one.part_id], one.why, one.wanted) for one in found.spare)
    pieces = sorted(pieces_of(found, book, build), key=lambda one: bool(one.asks))
    return LooseParts(tuple(pieces), off)


def piece_of(book: Book, build: Build, part: Part) -> Piece | None:
    """Return how one part goes on by itself, None if nothing takes it."""
    return next((one for one in pieces_of(put_together(book, build, only=part), book, build)), None)


def pieces_of(found: Assembled, book: Book, build: Build) -> list[Piece]:
    """Return what can go on `build` now, in order: what hangs on a part that is loose itself follows later."""
    old = {placed.id for placed in build.parts}
    by_id = {placed.id: placed for placed in found.build.parts}
    asked = {question.part_id: question for question in found.questions}
    made = []
    for placed in found.build.parts:
        if placed.id in old or placed.part_id not in book.parts:
            continue
        chain = [placed]
        while (parent := chain[0].parent) is not None and parent not in old and by_id[parent].part_id not in book.parts:
            chain.insert(0, by_id[parent])
        if parent is not None and parent not in old:
            continue
        question = asked.get(placed.part_id)
        new = tuple(found.kit[one.part_id] for one in chain[:-1])
        words, asks = where_words(found, placed), question.asks if question is not None else ""
        made.append(
            Piece(book.part(placed.part_id), tuple(chain), new, words, asks, answers_of(found, question, build))
        )
    return made


def where_words(found: Assembled, placed: Placed) -> str:
    """Return where a part goes and how: "on top of cage, screw"."""
    joint = next((joint for joint in found.joints if joint.placed_id == placed.id), None)
    if joint is None:
        return "stands first"
    onto = mid_sentence(found.kit[found.build.placed(joint.onto).part_id].name)
    return f"{PLACES[joint.relation]} {onto}, {joint.how}{', typical piece' if joint.guessed else ''}"


def answers_of(found: Assembled, question: Question | None, build: Build) -> tuple[PlaceAnswer, ...]:
    """Return the answers to a question that the build as it stands can take."""
    on = {placed.id for placed in build.parts}
    names = {placed.id: found.kit[placed.part_id].name for placed in found.build.parts}
    return tuple(
        PlaceAnswer(
            capitalised(f"{PLACES[choice.relation]} {mid_sentence(names[choice.onto])}"),
            replace(build, parts=(*build.parts, choice.placed)),
            choice.relation,
        )
        for choice in (question.choices if question is not None else ())
        if choice.onto in on
    )


def cg_change(before: float, after: float, system: System) -> str:
    """Return what a part does to the CG, m ahead of the support: "CG +61 → +39 mm"."""
    now = figure(before, Kind.LENGTH, system, sign=True, unit=False)
    return f"CG {now} → {figure(after, Kind.LENGTH, system, sign=True)}"
