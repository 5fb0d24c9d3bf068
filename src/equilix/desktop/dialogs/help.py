"""The help: what keys do, room by room, on one page that is searched by typing."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from equilix.core.keys import KEYS
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.views.rooms import ROOMS
from equilix.desktop.widgets.labels import label
from equilix.present.supports.labels import label_for

_EVERYWHERE = (
    "F1: this page. F10: the menu, with preferences: theme, units, single-letter keys, full screen",
    "U: units. Ctrl+D: dark theme. F11: full screen",
    "Ctrl+Z: undo. Ctrl+Shift+Z or Ctrl+Y: redo. Ctrl+P: print the sheet",
    "Right click: what can be done with a part, a way or a mark, each with its key",
    "Tab: on to the next control. Esc: drop what was begun",
)


def sections() -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Return the headings of the help, each with its lines: what goes everywhere, then room by room."""
    rooms, supports = ", ".join(room.name for room in ROOMS), ", ".join(label_for(key).name.lower() for key in KEYS)
    first = (f"Alt+1 to {len(ROOMS)}: {rooms}", f"Ctrl+1 to {len(KEYS)}: {supports}", *_EVERYWHERE)
    return ("Everywhere", first), *((room.name, tuple(room.help.split("\n"))) for room in ROOMS)


class HelpDialog(QDialog):
    """Shows the help; what is typed leaves only the lines that have it."""

    def __init__(self, room: str, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search, for example “slide” or “print”")
        self.search.setAccessibleName("Search the help")
        self.search.textChanged.connect(self._show)
        self._lines = QVBoxLayout()
        self._lines.setSpacing(4)
        inner = QWidget()
        inner.setLayout(self._lines)
        scroller = QScrollArea()
        scroller.setWidgetResizable(True)
        scroller.setWidget(inner)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(self.search)
        column.addWidget(scroller, 1)
        column.addWidget(buttons)
        self.resize(round(620 * text_scale()), round(560 * text_scale()))
        # The room that is open comes first.
        self._sections = sorted(sections(), key=lambda section: section[0] != room)
        self._show("")

    @property
    def shown(self) -> tuple[str, ...]:
        """The lines that are shown, headings among them."""
        found = []
        for k in range(self._lines.count()):
            item = self._lines.itemAt(k)
            widget = item.widget() if item is not None else None
            if widget is not None:
                found.append(widget.accessibleName())
        return tuple(found)

    def _show(self, text: str) -> None:
        from equilix.desktop.widgets.panel import clear_layout

        clear_layout(self._lines)
        wanted = text.casefold().split()
        for heading, lines in self._sections:
            fit = [line for line in lines if all(word in f"{heading} {line}".casefold() for word in wanted)]
            for words, size, weight in ((heading, 16.0, 600), *((line, 14.0, 400) for line in fit)):
                if fit:
                    made = label(words, size, weight, wrap=True)
                    made.setAccessibleName(words)
                    made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
                    self._lines.addWidget(made)
        if not self.shown:
            made = label("Nothing here has these words. Try another.", 14, 400, "ink2")
            made.setAccessibleName(made.text())
            self._lines.addWidget(made)
        self._lines.addStretch(1)
