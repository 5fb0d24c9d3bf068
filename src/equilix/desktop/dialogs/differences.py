"""Shows in what the open book and its file differ."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain_table import PlainTable
from equilix.present.book_compare import Difference

#: Rows shown; more only make the list slow to read.
_SHOWN = 500


class DifferencesDialog(QDialog):
    """A table: what differs, how it is here, how it is in the file."""

    def __init__(self, rows: tuple[Difference, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Differences")
        # As high as its rows, up to what a small screen shows.
        self.resize(900, min(150 + 22 * (len(rows) + 1), 480))
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 16)
        column.setSpacing(12)
        count = len(rows)
        words = "No difference: the file holds what is open here." if not rows else ""
        if rows:
            words = f"{count} difference{'s differ' if count > 1 else ' differs'} between this window and the file."
        column.addWidget(label(words, 16, 600, wrap=True))
        self.table = PlainTable(("what", "here", "in the file"), "Differences")
        self.table.restyle(2, {0: 260, 1: 280}, frozenset())
        self.table.setRowCount(min(count, _SHOWN) + (count > _SHOWN))
        for number, row in enumerate(rows[:_SHOWN]):
            for at, text in enumerate((row.what, row.here, row.there)):
                self.table.put(number, at, text)
        if count > _SHOWN:
            self.table.put(_SHOWN, 0, f"and {count - _SHOWN} more differences")
        column.addWidget(self.table, 1)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
