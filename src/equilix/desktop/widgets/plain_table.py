"""A plain table of texts, styled like the others."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QBrush, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from equilix.desktop.looks.theme import colors, font, text_scale
from equilix.desktop.widgets.copying import copy_table
from equilix.desktop.widgets.plain import set_tip


class PlainTable(QTableWidget):
    """A plain table whose Delete key and Space key are told."""

    pressed_key = Signal(int)

    def __init__(self, headings: tuple[str, ...], name: str, parent: QWidget | None = None) -> None:
        super().__init__(0, len(headings), parent)
        self.setHorizontalHeaderLabels(headings)
        self.setAccessibleName(name)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.horizontalHeader().setHighlightSections(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def restyle(self, stretch: int, widths: dict[int, int], right: frozenset[int]) -> None:
        """Take type and sizes from the text scale; column `stretch` takes what is left."""
        s = text_scale()
        self.verticalHeader().setMinimumSectionSize(14)
        self.verticalHeader().setDefaultSectionSize(round(21 * s))
        header = self.horizontalHeader()
        header.setFont(font(12.5))
        header.setMinimumSectionSize(20)
        header.setFixedHeight(round(22 * s))
        for column in range(self.columnCount()):
            mode = QHeaderView.ResizeMode.Stretch if column == stretch else QHeaderView.ResizeMode.Fixed
            header.setSectionResizeMode(column, mode)
            if column != stretch:
                self.setColumnWidth(column, round(widths[column] * s))
            side = Qt.AlignmentFlag.AlignRight if column in right else Qt.AlignmentFlag.AlignLeft
            item = self.horizontalHeaderItem(column)
            if item is not None:
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)

    def put(
        self,
        row: int,
        column: int,
        text: str,
        tone: str = "ink",
        weight: int = 400,
        right: bool = False,
        tip: str = "",
    ) -> None:
        """Put text into a cell."""
        item = QTableWidgetItem(text)
        item.setFont(font(13, weight))
        item.setForeground(QBrush(colors()[tone]))
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
        set_tip(item, tip or text)
        self.setItem(row, column, item)

    def copy(self) -> None:
        """Copy the chosen rows, or all of them if not several are chosen, with the headings."""
        chosen = sorted({index.row() for index in self.selectedIndexes()})
        rows = chosen if len(chosen) > 1 else list(range(self.rowCount()))
        headings = [self.horizontalHeaderItem(column) for column in range(self.columnCount())]
        cells = [[self.item(row, column) for column in range(self.columnCount())] for row in rows]
        copy_table(
            [item.text() if item is not None else "" for item in headings],
            [[item.text() if item is not None else "" for item in line] for line in cells],
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
            event.accept()
            return
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pressed_key.emit(event.key())
            event.accept()
            return
        super().keyPressEvent(event)
