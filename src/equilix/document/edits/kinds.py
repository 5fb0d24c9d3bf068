"""Edits of kinds: what a part is, and what a book remembers of it."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.kit.parts import Part
from equilix.document.book import Book, new_id
from equilix.document.edits.kit import ChangePart
from equilix.document.kinds.own import OwnKind


class SayKind(Struct, frozen=True):
    """Put `part`, which says its kind, in the place of the one with its id; with `own` the book knows that kind too."""

    part: Part
    own: OwnKind | None = None
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Kind of {self.part.name}"

    def apply(self, book: Book) -> Book:
        if self.own is not None:
            said = {word.casefold() for word in self.own.words}
            book = replace(book, kinds=(self.own, *_others(book, said)))
        return ChangePart(self.part, "kind").apply(book)


def _others(book: Book, said: set[str]) -> list[OwnKind]:
    """Return the book's own kinds with the words that they have left beside those that are said anew."""
    left = [(one, tuple(word for word in one.words if word.casefold() not in said)) for one in book.kinds]
    return [replace(one, words=words) for one, words in left if words]


class ForgetKind(Struct, frozen=True):
    """Take a kind of the book's own out of it; parts that say they are of it are what their names say."""

    kind_id: str
    label: ClassVar[str] = "Forget kind"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        kit = tuple(replace(part, kind="") if part.kind == self.kind_id else part for part in book.kit)
        return replace(book, kit=kit, kinds=tuple(one for one in book.kinds if one.id != self.kind_id))


def new_kind_id(book: Book) -> str:
    """Return an id that no kind has."""
    return new_id("own-", {one.id for one in book.kinds})
