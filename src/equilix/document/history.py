"""Undo and redo as a value: every step keeps the whole book, which shares what hasn't changed."""

from __future__ import annotations

from typing import Protocol

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import AssemblyError, EditError
from equilix.document.book import Book

DEPTH = 500


class Edit(Protocol):
    """A change to a book: its `label` names the step; edits with equal merge keys in a row are one step."""

    @property
    def label(self) -> str: ...

    @property
    def merge_key(self) -> tuple[str, ...] | None: ...

    def apply(self, book: Book) -> Book: ...


class UndoStep(Struct, frozen=True):
    """A book and the name of the step that led away from it."""

    book: Book
    label: str


class History(Struct, frozen=True):
    """The present book between the steps done and the steps undone."""

    present: Book
    past: tuple[UndoStep, ...] = ()
    future: tuple[UndoStep, ...] = ()
    open_key: tuple[str, ...] | None = None

    def push(self, edit: Edit) -> History:
        """Return the history after `edit`; the same one if it changes nothing. EditError if it can't be done."""
        try:
            book = edit.apply(self.present)
        except AssemblyError as error:
            # What an edit is made of checks itself, wherever it is put together.
            raise EditError(str(error)) from None
        if book == self.present:
            return self
        key = edit.merge_key
        if key is None:  # what is dragged, or repeated by a key, makes no book larger
            from equilix.document.validation import check_room

            check_room(book, self.present)
        if key is not None and key == self.open_key and self.past:
            return History(book, self.past, (), key)
        return History(book, (*self.past, UndoStep(self.present, edit.label))[-DEPTH:], (), key)

    def close_group(self) -> History:
        """Return the history in which the next edit is a step of its own."""
        return self if self.open_key is None else replace(self, open_key=None)

    def undo(self) -> History:
        """Return the history one step back; the same one if there is none."""
        if not self.past:
            return self
        last = self.past[-1]
        return History(last.book, self.past[:-1], (UndoStep(self.present, last.label), *self.future))

    def redo(self) -> History:
        """Return the history one step forward; the same one if there is none."""
        if not self.future:
            return self
        nearest = self.future[0]
        return History(nearest.book, (*self.past, UndoStep(self.present, nearest.label)), self.future[1:])

    @property
    def undo_label(self) -> str:
        """Name of the step that undo takes back, empty if there is none."""
        return self.past[-1].label if self.past else ""

    @property
    def redo_label(self) -> str:
        """Name of the step that redo brings again, empty if there is none."""
        return self.future[0].label if self.future else ""
