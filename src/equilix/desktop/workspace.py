"""The open book and everything about how it is looked at; the only place where edits are applied."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Signal

from equilix.core.errors import EditError, EquilixError, NotWritten
from equilix.core.uncertainty.output_model import CG_AHEAD
from equilix.desktop.files.hold import FileHold, claim_of
from equilix.desktop.files.shown_book import ShownBook
from equilix.desktop.jobs.waiting import run_job
from equilix.document.book import Book
from equilix.document.history import Edit, History
from equilix.io.files import UNCHECKED, ChangedOnDisk, Fingerprint, shown, tidy
from equilix.io.log import LOG
from equilix.io.preferences import Preferences, store_preferences
from equilix.io.recovery import Journal
from equilix.present.units import System

if TYPE_CHECKING:
    from equilix.io.format import Opened
    from equilix.present.balance.ways import Way


class Workspace(ShownBook):
    """Holds history, file, chosen build and operator, selection and the chosen way.

    `book_changed` follows every edit, `view_changed` every change of what is looked at, `said` a plain
    sentence for the status bar and `refused` one that needs the user's attention; `not_saved` says why the book could
    not be saved where it was to be.
    """

    book_changed = Signal()
    view_changed = Signal()
    said = Signal(str)
    refused = Signal(str)
    not_saved = Signal(str)
    damaged = Signal(Path, str)  # a book that can't be read as a whole, and why
    overtaken = Signal()  # the file is not what it was when it was opened

    def __init__(self, preferences: Preferences, journal: Journal | None = None) -> None:
        super().__init__(preferences)
        self.journal = journal
        self.path: Path | None = None
        self.known: Fingerprint | None = None  # the file as it was last read or written here
        self.hold = FileHold()
        self.selected = ""  # placed part
        self.kit_selected = ""  # part of the kit
        self.chosen_way: Way | None = None
        self.output: str = CG_AHEAD  # the figure whose uncertainty is looked at

    # Edits

    def apply(self, edit: Edit, select: str = "") -> bool:
        """Apply `edit`; say why if it can't be done. Return whether it could.

        `select` is a part of the kit that is selected where it is on the build then.
        """
        if self.reading:
            self.refused.emit(self.reading_words + " To change it, save a copy.")
            return False
        try:
            history = self.history.push(edit)
        except EditError as error:
            self.refused.emit(str(error))
            return False
        if history is not self.history:
            LOG.debug("edit: %s", type(edit).__name__)
            if select:
                build = next((b for b in history.present.builds if b.id == self._chosen_id), None)
                placed = [p.id for p in build.parts if p.part_id == select] if build is not None else []
                self.selected = placed[0] if placed else self.selected
            self._set_history(history)
            if select:
                self.close_group()
        return True

    @property
    def _chosen_id(self) -> str:
        return self.build.id if self.build is not None else ""

    def take_back(self, history: History) -> None:
        """Go back to `history`, an earlier one, as if nothing had been done since."""
        if history is not self.history:
            self._set_history(history)

    def close_group(self) -> None:
        """Make the next edit an undo step of its own."""
        self.history = self.history.close_group()

    def undo(self) -> None:
        if self.history.past:
            self.said.emit(f"Undone: {self.history.undo_label}")
            self._set_history(self.history.undo())

    def redo(self) -> None:
        if self.history.future:
            self.said.emit(f"Redone: {self.history.redo_label}")
            self._set_history(self.history.redo())

    def _set_history(self, history: History) -> None:
        self.history = history
        self.chosen_way = None
        self._drop_lost_selection()
        if self.journal is not None:
            if self.unsaved:
                self.journal.keep(self.book, self.path, self.known)
            else:
                self.journal.settle(self.book, self.path, self.known)
        self.book_changed.emit()

    def _drop_lost_selection(self) -> None:
        build = self.build
        ids = {placed.id for placed in build.parts} if build is not None else set()
        if self.selected not in ids:
            self.selected = ""
        if self.kit_selected not in self.book.parts:
            self.kit_selected = ""

    # Files

    @property
    def reading(self) -> bool:
        """Whether the book may only be read: another window has it."""
        return self.hold.elsewhere is not None

    @property
    def reading_words(self) -> str:
        """Why the book may only be read."""
        since = f" since {self.hold.elsewhere}" if self.hold.elsewhere else ""
        return f"“{self._file_name}” is open in another window{since}. Here you can only read it."

    @property
    def _file_name(self) -> str:
        return shown(self.path) if self.path is not None else self.book.title

    def open_book(self, book: Book, path: Path | None, unsaved: bool = False, known: Fingerprint | None = None) -> None:
        """Put `book` in the place of what is open; its file, if it has one, was `known` when it was read."""
        self.hold.take(path, self.clock().strftime("%H:%M"))
        self.history = History(book)
        self.saved_book = Book() if unsaved else book
        self.path, self.known = path, known
        self.build_id = book.builds[0].id if book.builds else ""
        self.operator_id = book.operators[0].id
        self.selected = self.kit_selected = ""
        self.chosen_way = None
        self._analysis = self._analysed = None
        if self.journal is not None:
            if unsaved:
                self.journal.keep(book, path, known)
            else:
                self.journal.settle(book, path, known)
        self.book_changed.emit()

    def claim_again(self) -> bool:
        """Try to have a book that another window had, as its file is now; return whether it worked."""
        return self.path is not None and self.load(self.path) and not self.reading

    def load(self, path: Path) -> bool:
        """Open the file at `path`; say why if it can't be read. Return whether it could."""
        from equilix.io.format import DamagedBook, open_book

        try:
            opened = run_job(f"Opening {shown(path)}", lambda go_on: open_book(path, go_on))
        except DamagedBook as error:
            self.damaged.emit(path, str(error))
            return False
        except EquilixError as error:
            self.refused.emit(str(error))
            return False
        LOG.debug("opened %s", shown(path))
        self.open_book(opened.book, path, known=opened.known)
        self.set_preferences(self.preferences.with_recent(path))
        if opened.mended:
            self.refused.emit(f"Equilix repaired {shown(path)}: {'; '.join(opened.mended)}.")
        return True

    def save(self, path: Path, replace_it: bool = False) -> bool:
        """Write the book to `path`; say why if it can't be written. Return whether it could.

        The book's own file is replaced only if it is what it was, unless `replace_it`; `overtaken` tells if it isn't.
        """
        from equilix.io.format import write_book

        own = path == self.path
        if own and self.reading:
            self.not_saved.emit(f"{self.reading_words} Save a copy elsewhere.")
            return False
        claim = None if own else claim_of(path, self.clock().strftime("%H:%M"))
        if isinstance(claim, str):
            self.not_saved.emit(f"{shown(path)} is open in another window. Save a copy elsewhere.")
            return False
        book = self.book
        known = self.known if own and not replace_it else UNCHECKED
        try:
            written = run_job(f"Saving {shown(path)}", lambda go_on: write_book(book, path, known, go_on))
        except EquilixError as error:
            if claim is not None:
                claim.release()
            if isinstance(error, ChangedOnDisk):
                self.overtaken.emit()
            elif isinstance(error, NotWritten):
                self.not_saved.emit(str(error))
            else:
                self.refused.emit(str(error))
            return False
        LOG.debug("saved %s", shown(path))
        if not own:
            self.hold.replace(claim)
        self.path, self.known = path, written
        self.saved_book = book
        self.close_group()
        if self.journal is not None:
            if self.unsaved:  # changed while it was written
                self.journal.keep(self.book, path, written)
            else:
                self.journal.settle(self.book, path, written)
        self.set_preferences(self.preferences.with_recent(path))
        self.said.emit(f"Saved {shown(path)}")
        run_job("Cleaning up", lambda _go_on: tidy(path))
        return True

    def take_theirs(self, theirs: Opened) -> None:
        """Put the file's present state in the place of the book; undo brings the book back."""
        from equilix.document.edits.book import TakeTheirs

        self.history = self.history.close_group()
        self.known = theirs.known
        history = self.history.push(TakeTheirs(theirs.book))
        self.saved_book = history.present
        self._set_history(history)

    # What is looked at

    def keep_place(self, place: str, room: str) -> None:
        """Keep where the window stands and which room is open, for the next start."""
        kept = replace(self.preferences, place=place, room=room)
        if kept != self.preferences:
            self.preferences = kept
            store_preferences(kept)

    def set_preferences(self, preferences: Preferences) -> None:
        if preferences != self.preferences:
            self.preferences = preferences
            store_preferences(preferences)
            self.view_changed.emit()

    def set_units(self, system: System) -> None:
        self.set_preferences(replace(self.preferences, units=system.value))

    def choose_build(self, build_id: str) -> None:
        if build_id != self.build_id:
            self.build_id = build_id
            self.selected = ""
            self.chosen_way = None
            self.close_group()
            self.view_changed.emit()

    def choose_operator(self, operator_id: str) -> None:
        self.operator_id = operator_id
        self.view_changed.emit()

    def select(self, placed_id: str) -> None:
        if placed_id != self.selected:
            self.selected = placed_id
            self.close_group()
            self.view_changed.emit()

    def choose_output(self, output: str) -> None:
        if output is not self.output:
            self.output = output
            self.view_changed.emit()

    def choose_way(self, way: Way | None) -> None:
        self.chosen_way = way
        self.view_changed.emit()
