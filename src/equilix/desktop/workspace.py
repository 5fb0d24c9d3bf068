"""The open book and everything about how it is looked at; the only place where edits are applied."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from equilix.core.analyse import Analysis, analyse
from equilix.core.assembly.build import Build, FreeMount, Operator, SupportKind
from equilix.core.errors import EditError, EquilixError
from equilix.core.gauges import Gauge
from equilix.core.measurement.records import Stamp
from equilix.document.book import Book
from equilix.document.history import Edit, History
from equilix.io.format import read_book, write_book
from equilix.io.preferences import Preferences, store_preferences
from equilix.io.recovery import Journal
from equilix.present.units import System

if TYPE_CHECKING:
    from equilix.core.carry import Carry
    from equilix.core.pose import Hindrance
    from equilix.present.ways import Way


class Workspace(QObject):
    """Holds history, file, chosen build and operator, selection and the chosen way.

    `book_changed` follows every edit, `view_changed` every change of what is looked at, `said` a plain
    sentence for the status bar and `refused` one that needs the user's attention.
    """

    book_changed = Signal()
    view_changed = Signal()
    said = Signal(str)
    refused = Signal(str)

    def __init__(self, preferences: Preferences, journal: Journal | None = None) -> None:
        super().__init__()
        self.preferences = preferences
        self.journal = journal
        self.history = History(Book())
        self.saved_book = self.history.present
        self.path: Path | None = None
        self.build_id = ""
        self.operator_id = ""
        self.selected = ""  # placed part
        self.kit_selected = ""  # part of the kit
        self.chosen_way: Way | None = None
        self.weight_mount: FreeMount | None = None
        self.gauge = Gauge.AHEAD  # the figure whose doubt is looked at
        self.clock: Callable[[], datetime] = datetime.now
        self._analysis: Analysis | None = None
        self._analysed: tuple[Build, Operator, dict[str, object]] | None = None
        self._carried: dict[SupportKind, Carry | Hindrance] = {}
        self._carried_of: Analysis | None = None

    # What is open

    @property
    def book(self) -> Book:
        return self.history.present

    @property
    def build(self) -> Build | None:
        """The chosen build; the first one if the chosen one is gone."""
        return next((b for b in self.book.builds if b.id == self.build_id), next(iter(self.book.builds), None))

    @property
    def operator(self) -> Operator:
        return self.book.operator(self.operator_id)

    @property
    def system(self) -> System:
        return System(self.preferences.units)

    @property
    def unsaved(self) -> bool:
        return self.history.present is not self.saved_book

    @property
    def date(self) -> str:
        """Date and minute for records."""
        return self.clock().strftime("%Y-%m-%d %H:%M")

    @property
    def by(self) -> str:
        """Who weighs: the name in the preferences, else the operator's."""
        return self.preferences.by or self.operator.name

    def stamp(self) -> Stamp:
        """Return the stamp of a figure that is typed now."""
        return Stamp(self.date, self.by)

    def analysis(self) -> Analysis | None:
        """Return the figures of the chosen build, worked out when they are first asked for."""
        build = self.build
        if build is None:
            return None
        key = (build, self.operator, self.book.parts)
        old = self._analysed
        if old is None or old[0] is not build or old[1] is not key[1] or old[2] is not key[2]:
            self._analysis = analyse(build, self.book.parts, self.operator, self._analysis)
            self._analysed = key  # type: ignore[assignment]
        return self._analysis

    def carried(self, support: SupportKind) -> Carry | Hindrance:
        """Return what the chosen build costs its operator on `support`, worked out when it is first asked for."""
        from equilix.core.carry import carry
        from equilix.core.pose import Hindrance

        analysis = self.analysis()
        if analysis is None:
            return Hindrance.NO_MASS
        if analysis is not self._carried_of:
            self._carried_of, self._carried = analysis, {}
        if support not in self._carried:
            self._carried[support] = carry(analysis, self.operator, support)
        return self._carried[support]

    # Edits

    def apply(self, edit: Edit) -> bool:
        """Apply `edit`; say why if it can't be done. Return whether it could."""
        try:
            history = self.history.push(edit)
        except EditError as error:
            self.refused.emit(str(error))
            return False
        if history is not self.history:
            self._set_history(history)
        return True

    def close_group(self) -> None:
        """Make the next edit an undo step of its own."""
        self.history = self.history.close_group()

    def undo(self) -> None:
        if self.history.past:
            self.said.emit(f"Undone: {self.history.undo_label}")
            self._set_history(self.history.undo())

    def redo(self) -> None:
        if self.history.future:
            self.said.emit(f"Done again: {self.history.redo_label}")
            self._set_history(self.history.redo())

    def _set_history(self, history: History) -> None:
        self.history = history
        self.chosen_way = None
        self._drop_lost_selection()
        if self.journal is not None:
            if self.unsaved:
                self.journal.keep(self.book, self.path)
            else:
                self.journal.forget()
        self.book_changed.emit()

    def _drop_lost_selection(self) -> None:
        build = self.build
        ids = {placed.id for placed in build.parts} if build is not None else set()
        if self.selected not in ids:
            self.selected = ""
        if self.kit_selected not in self.book.parts:
            self.kit_selected = ""
        if self.weight_mount is not None and self.weight_mount.placed_id not in ids:
            self.weight_mount = None

    # Files

    def open_book(self, book: Book, path: Path | None, unsaved: bool = False) -> None:
        """Put `book` in the place of what is open."""
        self.history = History(book)
        self.saved_book = Book() if unsaved else book
        self.path = path
        self.build_id = book.builds[0].id if book.builds else ""
        self.operator_id = book.operators[0].id
        self.selected = self.kit_selected = ""
        self.chosen_way = None
        self.weight_mount = None
        self._analysis = self._analysed = None
        if self.journal is not None:
            if unsaved:
                self.journal.keep(book, path)
            else:
                self.journal.forget()
        self.book_changed.emit()

    def load(self, path: Path) -> bool:
        """Open the file at `path`; say why if it can't be read. Return whether it could."""
        try:
            book = read_book(path)
        except EquilixError as error:
            self.refused.emit(str(error))
            return False
        self.open_book(book, path)
        self.set_preferences(self.preferences.with_recent(path))
        return True

    def save(self, path: Path) -> bool:
        """Write the book to `path`; say why if it can't be written. Return whether it could."""
        try:
            write_book(self.book, path)
        except EquilixError as error:
            self.refused.emit(str(error))
            return False
        self.path = path
        self.saved_book = self.history.present
        self.close_group()
        if self.journal is not None:
            self.journal.forget()
        self.set_preferences(self.preferences.with_recent(path))
        self.said.emit(f"Saved {path.name}")
        return True

    # What is looked at

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
            self.weight_mount = None
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

    def choose_gauge(self, gauge: Gauge) -> None:
        if gauge is not self.gauge:
            self.gauge = gauge
            self.view_changed.emit()

    def choose_way(self, way: Way | None) -> None:
        self.chosen_way = way
        self.view_changed.emit()

    def choose_weight_mount(self, free: FreeMount | None) -> None:
        self.weight_mount = free
        self.chosen_way = None
        self.view_changed.emit()
