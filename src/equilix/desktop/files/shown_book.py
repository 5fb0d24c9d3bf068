"""The book that is open, which of it is looked at, and its figures: worked out when they are first asked for."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator
from equilix.core.kit.records import Stamp
from equilix.document.book import Book
from equilix.document.history import History
from equilix.io.preferences import Preferences
from equilix.present.units import System

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry
    from equilix.core.statics.pose import Hindrance


class ShownBook(QObject):
    """A book with its history, the chosen build and operator, and how its user likes to see it."""

    def __init__(self, preferences: Preferences) -> None:
        super().__init__()
        self.preferences = preferences
        self.history = History(Book())
        self.saved_book = self.history.present
        self.build_id = ""
        self.operator_id = ""
        self.clock: Callable[[], datetime] = datetime.now
        self._analysis: Analysis | None = None
        self._analysed: tuple[Build, Operator, dict[str, object]] | None = None
        self._carried: dict[str, Carry | Hindrance] = {}
        self._carried_of: Analysis | None = None

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

    def carried(self, support: str) -> Carry | Hindrance:
        """Return what the chosen build costs its operator on `support`, worked out when it is first asked for."""
        from equilix.core.carry.carried import carry
        from equilix.core.statics.pose import Hindrance

        analysis = self.analysis()
        if analysis is None:
            return Hindrance.NO_MASS
        if analysis is not self._carried_of:
            self._carried_of, self._carried = analysis, {}
        if support not in self._carried:
            on_it = analysis
            if analysis.build.support != support:
                on_it = analyse(replace(analysis.build, support=support), self.book.parts, self.operator)
            self._carried[support] = carry(on_it, self.operator, support)
        return self._carried[support]
