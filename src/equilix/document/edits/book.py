"""Edits of the book itself and of its operators."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Operator
from equilix.core.errors import AssemblyError, EditError
from equilix.core.kit.parts import Part
from equilix.document.book import Book


class RenameBook(Struct, frozen=True):
    """Give the book another title."""

    title: str
    label: ClassVar[str] = "Rename book"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        try:
            return replace(book, title=self.title)
        except AssemblyError as error:
            raise EditError(str(error)) from None


class TakeTheirs(Struct, frozen=True):
    """Put the book as somebody else saved it in the place of this one."""

    theirs: Book
    label: ClassVar[str] = "Load the file’s version"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        return self.theirs


class PutOperator(Struct, frozen=True):
    """Add an operator, or put it in the place of the one with its id."""

    operator: Operator
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Change {self.operator.name}"

    def apply(self, book: Book) -> Book:
        if any(old.id == self.operator.id for old in book.operators):
            operators = tuple(self.operator if old.id == self.operator.id else old for old in book.operators)
        else:
            operators = (*book.operators, self.operator)
        return replace(book, operators=operators)


class RemoveOperator(Struct, frozen=True):
    """Take a person out of the book; refused for the only one."""

    operator_id: str
    label: ClassVar[str] = "Remove operator"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        others = tuple(old for old in book.operators if old.id != self.operator_id)
        if not others:
            raise EditError("A book needs one operator. Add another, then remove this one.")
        return replace(book, operators=others)


class AddStarter(Struct, frozen=True):
    """Add a starting build with the parts that it needs."""

    build: Build
    parts: tuple[Part, ...]
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Start from {self.build.name}"

    def apply(self, book: Book) -> Book:
        new = tuple(part for part in self.parts if part.id not in book.parts)
        if any(old.id == self.build.id for old in book.builds):
            raise EditError(f"Build {self.build.name} has the id of another build. Change one.")
        return replace(book, kit=(*book.kit, *new), builds=(*book.builds, self.build))
