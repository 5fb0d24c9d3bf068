"""Takes and rests as a row of fields, one pair each."""

from __future__ import annotations

import re

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QWidget

from equilix.core.assembly.build import Take
from equilix.core.errors import EditError, EquilixError
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.panel import clear_layout
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.refusal import refuse_at

_TIME = re.compile(r"^\s*(?:(\d+):([0-5]\d)|(\d+(?:[.,]\d*)?)\s*(min|m|s|sec|h)?\.?)\s*$", re.IGNORECASE)
MOST_TAKES = 40


def parse_time(text: str, what: str) -> float:
    """Return seconds from "3", "3 min", "90 s", "1:30" or "1 h"; a bare number is minutes.

    Raises
    ------
    EditError
        If it is none of these; names `what`.
    """
    match = _TIME.match(text)
    if match is None:
        raise EditError(f'{what}: "{text.strip()[:20]}" is not a time. Type 3 min, 90 s or 1:30.')
    if match[1] is not None:
        return 60.0 * int(match[1]) + int(match[2])
    factor = {"s": 1.0, "sec": 1.0, "h": 3600.0}.get((match[4] or "min").lower(), 60.0)
    return float(match[3].replace(",", ".")) * factor


def time_text(seconds: float) -> str:
    """Return seconds as one would type them."""
    if seconds % 60.0 == 0.0:
        return f"{seconds / 60.0:.0f} min"
    if seconds < 60.0:
        return f"{seconds:.0f} s"
    return f"{int(seconds // 60)}:{round(seconds % 60):02d}"


class TakesRow(QScrollArea):
    """`changed` carries the new takes. An emptied take is removed; what can't be read stays, with a sentence."""

    changed = Signal(tuple)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFixedHeight(round(46 * text_scale()))
        self._inner = QWidget()
        self._row = QHBoxLayout(self._inner)
        self._row.setContentsMargins(0, 2, 0, 10)
        self._row.setSpacing(4)
        self.setWidget(self._inner)
        self._shown: tuple[Take, ...] | None = None
        self.fields: list[tuple[QLineEdit, QLineEdit]] = []

    def show_takes(self, takes: tuple[Take, ...]) -> None:
        """Show `takes`, unless they are shown already."""
        if takes == self._shown:
            return
        self._shown = takes
        clear_layout(self._row)
        self.fields = []
        self._row.addWidget(label("Takes", 14, 600))
        for k, take in enumerate(takes, 1):
            pair = []
            for words, seconds, least in (
                (f"Take {k}", take.length, "take"),
                (f"Rest after take {k}", take.rest, "rest"),
            ):
                self._row.addWidget(label(str(k) if least == "take" else "rest", 13, 400, "ink2"))
                field = QLineEdit(time_text(seconds))
                field.setAccessibleName(words)
                set_tip(field, f"{words}: 3 min, 90 s or 1:30" + (". Empty removes it" if least == "take" else ""))
                field.setFixedWidth(round(54 * text_scale()))
                field.editingFinished.connect(self._typed)
                self._row.addWidget(field)
                pair.append(field)
            self.fields.append((pair[0], pair[1]))
        self.more = QPushButton("Add a take")
        self.more.setEnabled(len(takes) < MOST_TAKES)
        self.more.clicked.connect(self._add)
        self._row.addWidget(self.more)
        self._row.addStretch(1)

    def _add(self) -> None:
        takes = self._shown or ()
        last = takes[-1] if takes else Take(180.0, 240.0)
        self.changed.emit((*takes, last))

    def _typed(self) -> None:
        """Read all fields; what can't be read is said and put back."""
        if not any(field.isModified() for pair in self.fields for field in pair):
            return
        found, field = [], self.fields[0][0]
        try:
            for k, (length, rest) in enumerate(self.fields, 1):
                length.setModified(False)
                rest.setModified(False)
                if not length.text().strip():
                    continue
                field = rest
                pause = parse_time(rest.text() or "0", f"Rest after take {k}")
                field = length
                taken = parse_time(length.text(), f"Take {k}")
                found.append(Take(taken, pause))
        except EquilixError as error:
            refuse_at(field, str(error))
            return
        self.changed.emit(tuple(found))
