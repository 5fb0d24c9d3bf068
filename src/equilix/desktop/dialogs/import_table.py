"""Importing a kit: which column is what, what each row would change, and one button that does it all or nothing."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from equilix.core.errors import EquilixError
from equilix.core.kit.parts import HowKnown, Part
from equilix.desktop.jobs.waiting import run_job
from equilix.desktop.looks.theme import colors, font, text_scale
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import as_tip, as_title, set_tip
from equilix.document.book import Book
from equilix.io.files import Stopped, shown
from equilix.io.tables import RawTable, read_table
from equilix.present.kit.importing import (
    ImportField,
    ImportRow,
    Match,
    RowState,
    guess_header,
    guess_matches,
    heading_text,
    read_rows,
    units_for,
)
from equilix.present.kit.table import HOW_WORDS

#: Rows shown of each kind; more only make the list slow to read.
_SHOWN = 400
_ORDER = (RowState.PROBLEM, RowState.CHANGED, RowState.NEW, RowState.SAME)
_TITLES = {
    RowState.PROBLEM: "cannot be read, not imported",
    RowState.CHANGED: "change parts of the kit",
    RowState.NEW: "are new",
    RowState.SAME: "are in the kit already",
}


class ImportDialog(QDialog):
    """Shows the table at `path` against `book`; `chosen_new` and `chosen_changed` are the ticked parts.

    Raises FormatError when it is made if the file can't be read.
    """

    def __init__(self, path: Path, book: Book, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(as_title(f"Import {shown(path)}"))
        self.resize(940, 660)
        self._path, self._book = path, book
        self.table: RawTable = self._fetch("", parent)
        self.rows: tuple[ImportRow, ...] = ()
        self._groups: dict[RowState, QTreeWidgetItem] = {}
        self._unticked: set[int] = set()
        self.sheet = QComboBox()
        self.header = QSpinBox()
        self.how = QComboBox()
        self.columns = QTableWidget(0, 4)
        self.tree = QTreeWidget()
        self.problem = label("", 13, 500, "fwdT", wrap=True)
        self._lay_out()
        self.sheet.addItems(self.table.sheets)
        self.sheet.setVisible(len(self.table.sheets) > 1)
        self._take_table()
        self.sheet.activated.connect(self._change_sheet)
        self.header.valueChanged.connect(lambda _value: self._guess())
        self.how.currentIndexChanged.connect(lambda _index: self._read())
        self.tree.itemChanged.connect(self._tick)

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setSpacing(8)
        head = QHBoxLayout()
        head.addWidget(label("Choose what each column is", 16, 600), 1)
        head.addWidget(self.sheet)
        head.addWidget(label("row with the headings", 13, 400, "ink2"))
        self.header.setMinimum(1)
        self.header.setAccessibleName("Row of the headings")
        head.addWidget(self.header)
        head.addWidget(label("masses count as", 13, 400, "ink2"))
        self.how.addItems([HOW_WORDS[how] for how in HowKnown])
        self.how.setCurrentIndex(list(HowKnown).index(HowKnown.SHEET))
        self.how.setAccessibleName("How masses are known")
        head.addWidget(self.how)
        column.addLayout(head)
        self.columns.setHorizontalHeaderLabels(["heading", "first rows", "imported as", "unit"])
        self.columns.verticalHeader().hide()
        self.columns.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.columns.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.columns.setShowGrid(False)
        self.columns.setAccessibleName("Columns of the file")
        self.columns.verticalHeader().setDefaultSectionSize(round(34 * text_scale()))
        self.columns.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for index, width in enumerate((210, 350, 190, 100)):
            self.columns.setColumnWidth(index, width)
        column.addWidget(self.columns, 42)
        column.addWidget(label("What changes", 16, 600))
        self.tree.setHeaderLabels(["part", "row", "what"])
        self.tree.setAccessibleName("What changes")
        self.tree.setUniformRowHeights(True)
        self.tree.setColumnWidth(0, 330)
        self.tree.setColumnWidth(1, 60)
        column.addWidget(self.tree, 58)
        column.addWidget(self.problem)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.take = buttons.addButton("Import", QDialogButtonBox.ButtonRole.AcceptRole)
        self.take.setProperty("role", "apply")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    # Columns

    def _fetch(self, sheet: str, parent: QWidget | None) -> RawTable:
        path = self._path
        return run_job(f"Reading {shown(path)}", lambda go_on: read_table(path, sheet, go_on), parent)

    def _change_sheet(self, _index: int) -> None:
        try:
            self.table = self._fetch(self.sheet.currentText(), self)
        except EquilixError as error:
            self.problem.setText(str(error))
            return
        self._take_table()

    def _take_table(self) -> None:
        self.problem.setText("")
        self.header.blockSignals(True)
        self.header.setMaximum(len(self.table.rows))
        self.header.setValue(guess_header(self.table) + 1)
        self.header.blockSignals(False)
        self._guess()

    def _guess(self) -> None:
        """Match columns anew by the chosen row of headings."""
        header = self.header.value() - 1
        matches = guess_matches(self.table, header)
        self.columns.setRowCount(self.table.width)
        self.field_boxes: list[QComboBox] = []
        self.unit_boxes: list[QComboBox] = []
        for i, match in enumerate(matches):
            self.columns.setItem(i, 0, self._cell(heading_text(self.table, header, i)))
            examples = [row[i] for row in self.table.rows[header + 1 : header + 40] if row[i] is not None][:3]
            texts = (f"{v:g}" if isinstance(v, float) else v if isinstance(v, str) else v.text for v in examples if v)
            self.columns.setItem(i, 1, self._cell("   ".join(texts), "ink2"))
            fields = QComboBox()
            fields.addItems(["not imported", *(field.value for field in ImportField)])
            fields.setCurrentIndex(0 if match.field is None else list(ImportField).index(match.field) + 1)
            fields.setAccessibleName(f"{heading_text(self.table, header, i)} is imported as")
            units = QComboBox()
            units.setAccessibleName(f"Unit of {heading_text(self.table, header, i)}")
            self.field_boxes.append(fields)
            self.unit_boxes.append(units)
            self._fill_units(i, match.unit)
            fields.currentIndexChanged.connect(lambda _index, k=i: self._change_field(k))
            units.currentIndexChanged.connect(lambda _index: self._read())
            for column, box in ((2, fields), (3, units)):
                self.columns.setCellWidget(i, column, _padded(box))
        self._read()

    @staticmethod
    def _cell(text: str, tone: str = "ink") -> QTableWidgetItem:
        item = QTableWidgetItem(text)
        item.setFont(font(13))
        item.setForeground(colors()[tone])
        set_tip(item, text)
        return item

    def _fill_units(self, i: int, unit: str) -> None:
        box = self.unit_boxes[i]
        units = units_for(self._field(i))
        box.blockSignals(True)
        box.clear()
        box.addItems(units)
        if unit in units:
            box.setCurrentIndex(units.index(unit))
        box.blockSignals(False)
        box.setEnabled(bool(units))

    def _change_field(self, changed: int) -> None:
        """A field is given to one column only: the other gives it up."""
        field = self._field(changed)
        for i, box in enumerate(self.field_boxes):
            if i != changed and field is not None and self._field(i) is field:
                box.blockSignals(True)
                box.setCurrentIndex(0)
                box.blockSignals(False)
                self._fill_units(i, "")
        self._fill_units(changed, "")
        self._read()

    def _field(self, i: int) -> ImportField | None:
        index = self.field_boxes[i].currentIndex()
        return list(ImportField)[index - 1] if index > 0 else None

    def matches(self) -> tuple[Match, ...]:
        """What each column is taken as."""
        return tuple(Match(self._field(i), units.currentText()) for i, units in enumerate(self.unit_boxes))

    # Rows

    def _read(self) -> None:
        how = list(HowKnown)[self.how.currentIndex()]
        table, header, matches, book = self.table, self.header.value() - 1, self.matches(), self._book
        try:
            self.rows = run_job(
                f"Reading {len(table.rows)} rows",
                lambda go_on: read_rows(table, header, matches, book, how, go_on),
                self,
            )
        except Stopped:
            self.rows = ()
        # A weighed mass doesn't give way to a sheet's unasked.
        self._unticked = {row.number for row in self.rows if row.loses_weighing}
        self._show()

    def _show(self) -> None:
        self.tree.blockSignals(True)
        self.tree.clear()
        self._groups = {}
        for state in _ORDER:
            rows = [row for row in self.rows if row.state is state]
            if not rows:
                continue
            count = len(rows)
            words = f"{count} row{'' if count == 1 else 's'} {_TITLES[state]}"
            if count == 1:
                words = words.replace("are ", "is ").replace("change ", "changes ").replace("stay", "stays")
                words = words.replace("as they are", "as it is")
            group = QTreeWidgetItem(self.tree, [words])
            group.setFirstColumnSpanned(True)
            group.setFont(0, font(13, 600))
            if state is RowState.PROBLEM:
                group.setForeground(0, colors()["fwdT"])
            ticks = state in (RowState.NEW, RowState.CHANGED)
            items = []
            for row in rows[:_SHOWN]:
                words = f"{row.words}. Tick it to replace the weighed figure" if row.loses_weighing else row.words
                item = QTreeWidgetItem([row.name, str(row.number), words])
                item.setToolTip(2, as_tip(row.words))
                item.setData(0, Qt.ItemDataRole.UserRole, row.number)
                if ticks:
                    on = row.number not in self._unticked
                    item.setCheckState(0, Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
                items.append(item)
            if count > _SHOWN:
                items.append(QTreeWidgetItem([f"and {count - _SHOWN} more rows", "", ""]))
            group.addChildren(items)
            group.setExpanded(state is not RowState.SAME)
            self._groups[state] = group
        self.tree.blockSignals(False)
        self._count()

    def _tick(self, item: QTreeWidgetItem, _column: int) -> None:
        number = item.data(0, Qt.ItemDataRole.UserRole)
        if not isinstance(number, int):
            return
        if item.checkState(0) == Qt.CheckState.Checked:
            self._unticked.discard(number)
        else:
            self._unticked.add(number)
        self._count()

    def _count(self) -> None:
        count = len(self.chosen_new) + len(self.chosen_changed)
        self.take.setText(f"Import {count} part{'' if count == 1 else 's'}")
        self.take.setEnabled(count > 0)
        fields = {match.field for match in self.matches()}
        self.problem.setText("" if ImportField.NAME in fields else "No column holds the names. Choose one.")

    def _chosen(self, state: RowState) -> tuple[Part, ...]:
        return tuple(
            row.part
            for row in self.rows
            if row.state is state and row.part is not None and row.number not in self._unticked
        )

    @property
    def chosen_new(self) -> tuple[Part, ...]:
        """The new parts that are ticked."""
        return self._chosen(RowState.NEW)

    @property
    def chosen_changed(self) -> tuple[Part, ...]:
        """The changed parts that are ticked."""
        return self._chosen(RowState.CHANGED)


def _padded(box: QComboBox) -> QWidget:
    """Return a list with a little room around it, for a table's cell."""
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 2, 10, 2)
    row.addWidget(box)
    return holder
