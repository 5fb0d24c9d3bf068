"""Figures in the panel, each with its own uncertainty, and the hairlines between."""

from __future__ import annotations

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QVBoxLayout,
)

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import fill
from equilix.desktop.widgets.labels import PlainLabel
from equilix.present.supports.text import FigureRow


class Rule(QFrame):
    """A hairline across the panel."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(1)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "rule")
        painter.end()


class FigureGrids:
    """Adds figures to a column, and renews those that stand there without making anything."""

    def __init__(self, column: QVBoxLayout) -> None:
        self._column = column
        self.cells: list[tuple[PlainLabel, PlainLabel, PlainLabel, PlainLabel | None]] = []
        self._rows: list[FigureRow] = []  # what the cells show

    def forget(self) -> None:
        """Take note that the column is empty."""
        self.cells, self._rows = [], []

    def add(self, rows: tuple[FigureRow, ...]) -> None:
        """Add `rows`."""
        if not rows:
            return
        grid = QGridLayout()
        grid.setContentsMargins(24, 4, 24, 4)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(0, 1)
        grid.setColumnMinimumWidth(2, 52)
        line = 0
        for row in rows:
            grid.addWidget(Rule(), line, 0, 1, 3)
            # A long name goes on below rather than making the whole panel wider than it is.
            name = PlainLabel(row.label, 14, 400, "ink2", wraps=True)
            name.setContentsMargins(0, 4, 0, 1 if row.note else 4)
            value = PlainLabel(row.value, 15, 600, "ink")
            pm = PlainLabel(row.uncertainty, 13, 400, "ink3")
            grid.addWidget(name, line + 1, 0)
            grid.addWidget(value, line + 1, 1)
            grid.addWidget(pm, line + 1, 2)
            line += 2
            note = None
            if row.note:
                note = PlainLabel(row.note, 12.5, 400, "ink3", wraps=True)
                note.setContentsMargins(0, 0, 0, 4)
                grid.addWidget(note, line, 0, 1, 3)
                line += 1
            self.cells.append((name, value, pm, note))
            self._rows.append(row)
        grid.addWidget(Rule(), line, 0, 1, 3)
        self._column.addLayout(grid)

    def refresh(self, rows: tuple[FigureRow, ...]) -> None:
        """Put new figures in the places of the old ones."""
        for k, (row, (name, value, pm, note)) in enumerate(zip(rows, self.cells, strict=False)):
            if row == self._rows[k]:
                continue
            self._rows[k] = row
            name.setText(row.label)
            value.setText(row.value)
            pm.setText(row.uncertainty)
            if note is not None:
                note.setText(row.note)
