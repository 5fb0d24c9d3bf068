"""The sentence across the top that needs attention."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import fill, font, tint
from equilix.desktop.widgets.labels import label


class Banner(QWidget):
    """A sentence across the top that needs attention, with its buttons."""

    def __init__(self) -> None:
        super().__init__()
        self.text = label("", 14, 500, "ink", wrap=True)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(24, 6, 24, 6)
        self._row.setSpacing(10)
        self._row.addWidget(self.text, 1)
        self.buttons: list[QPushButton] = []
        self._offer: tuple[str, tuple[tuple[str, object], ...]] | None = None
        self._passing = ""
        self.hide()

    def say(self, text: str, buttons: tuple[tuple[str, object], ...] = (), passing: bool = False) -> None:
        """Show `text` and a button for each (words, what it calls); "Close" is added.

        What is on offer waits behind it. What is `passing` goes with the next thing that is done.
        """
        self._passing = text if passing else ""
        self._show(text, (*buttons, ("Close", None)), self.clear)

    def went_on(self) -> None:
        """Take a passing sentence away: something was done after it."""
        if self._passing and self.text.text() == self._passing:
            self.clear()
        self._passing = ""

    def offer(self, text: str, buttons: tuple[tuple[str, object], ...]) -> None:
        """Show `text` until one of its buttons is pressed, whatever else is said meanwhile."""
        self._offer = (text, buttons)
        self._show(text, buttons, self._answered)

    def clear(self) -> None:
        """Take away what was said; what is on offer comes back."""
        self.hide()
        if self._offer is not None:
            self.offer(*self._offer)

    def _answered(self) -> None:
        self._offer = None
        self.hide()

    def _show(self, text: str, buttons: tuple[tuple[str, object], ...], first: Callable[[], None]) -> None:
        """Show `text` with its buttons; each calls `first` before its own."""
        self.text.setText(text)
        self.text.setFont(font(14, 500))
        tint(self.text, "ink")
        self.setAccessibleName(text)
        for old in self.buttons:
            old.setParent(None)
            old.deleteLater()
        self.buttons = []
        for words, call in buttons:
            button = QPushButton(words)
            button.clicked.connect(first)
            if callable(call):
                button.clicked.connect(call)
            self._row.addWidget(button)
            self.buttons.append(button)
        self.show()

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "tint")
        fill(painter, QRectF(0, 0, 4, self.height()), "accent")
        painter.end()
