"""Edits of sets: made, put on and taken off as one, each one step to undo."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import AssemblyError, EditError
from equilix.core.sets import copied_set, put_set_on, sets_of, take_set_off, with_set
from equilix.document.book import Book, new_set_id
from equilix.document.edits.builds import with_parts


class MakeSet(Struct, frozen=True):
    """Make placed parts of a build a set, or change which parts are in it; with none the set is forgotten."""

    build_id: str
    name: str
    placed_ids: tuple[str, ...]
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Make set {self.name}" if self.placed_ids else f"Remove set {self.name}"

    def apply(self, book: Book) -> Book:
        try:
            return book.with_build(with_set(book.build(self.build_id), self.name, self.placed_ids))
        except AssemblyError as error:
            raise EditError(str(error)) from None


class RenameSet(Struct, frozen=True):
    """Give a set of a build another name."""

    build_id: str
    old: str
    new: str
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Rename set {self.old}"

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        there = sets_of(build)
        if self.old not in there:
            raise EditError(f"This build has no set called {self.old}.")
        if self.new in there and self.new != self.old:
            raise EditError(f"This build has a set called {self.new} already. Choose another name.")
        try:
            parts = tuple(
                replace(p, sets=tuple(self.new if name == self.old else name for name in p.sets)) for p in build.parts
            )
        except AssemblyError as error:
            raise EditError(str(error)) from None
        return book.with_build(replace(build, parts=parts))


class TakeOffSet(Struct, frozen=True):
    """Take a set off a build and keep it."""

    build_id: str
    name: str
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Take off {self.name}"

    def apply(self, book: Book) -> Book:
        try:
            rest, group = take_set_off(book.build(self.build_id), self.name, new_set_id(book))
        except AssemblyError as error:
            raise EditError(str(error)) from None
        return replace(with_parts(book, rest, rest.parts), sets=(*book.sets, group))


class PutOnSet(Struct, frozen=True):
    """Put a set on a build: one that is off (`set_id`), or as it stands on another build (`on`) by its `name`."""

    build_id: str
    set_id: str = ""
    on: str = ""
    name: str = ""
    merge_key: ClassVar[None] = None
    label: ClassVar[str] = "Put set on"

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        group = next((group for group in book.sets if group.id == self.set_id), None)
        try:
            if group is None:
                if not self.on:
                    raise EditError("That set is gone from the book.")
                group = copied_set(book.build(self.on), self.name, new_set_id(book))
            found = put_set_on(build, book.parts, group)
        except AssemblyError as error:
            raise EditError(str(error)) from None
        return replace(
            with_parts(book, found, found.parts), sets=tuple(other for other in book.sets if other.id != self.set_id)
        )


class ForgetSet(Struct, frozen=True):
    """Forget a set that is off; its parts stay in the kit."""

    set_id: str
    merge_key: ClassVar[None] = None
    label: ClassVar[str] = "Remove set"

    def apply(self, book: Book) -> Book:
        left = tuple(group for group in book.sets if group.id != self.set_id)
        if len(left) == len(book.sets):
            raise EditError("That set is gone from the book.")
        return replace(book, sets=left)
