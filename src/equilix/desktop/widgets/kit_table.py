"""The kit as a table that is typed into."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QComboBox,
    QLineEdit,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from equilix.core.errors import EditError
from equilix.core.kit.parts import HowKnown, Part
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, font, text_scale
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.copying import copy_table
from equilix.desktop.widgets.glyphs import paint_category, paint_how, paint_mount
from equilix.desktop.widgets.kind_box import KindBox
from equilix.desktop.widgets.plain import as_tip, cut
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.workspace import Workspace
from equilix.document.edits.kit import ChangePart, DuplicatePart, RemoveParts
from equilix.document.kinds.of_part import reading_of
from equilix.present.drawing.rig_drawing import letter
from equilix.present.drawing.scene import Anchor, Scene
from equilix.present.kit.history import provenance_words
from equilix.present.kit.kind_words import kind_words
from equilix.present.kit.table import (
    COLUMNS,
    EDITABLE,
    Column,
    cell,
    changed,
    edit_text,
    heading,
    matches,
    mount_kinds,
    odd_words,
)
from equilix.present.units import readable

_Index = QModelIndex | QPersistentModelIndex
_RIGHT = frozenset({Column.MASS, Column.UNCERTAINTY, Column.CG, Column.SIZE, Column.POWER, Column.PRICE})
_WIDTHS = {
    Column.KIND: 40,
    Column.MASS: 62,
    Column.UNCERTAINTY: 45,
    Column.HOW: 84,
    Column.CG: 54,
    Column.SIZE: 84,
    Column.FITS: 91,
    Column.OFFERS: 66,
    Column.POWER: 48,
    Column.PRICE: 54,
}


class KitModel(QAbstractTableModel):
    """The parts of the kit that pass filter and search, one a row."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.parts: list[Part] = []
        self._rows: dict[str, int] = {}
        self.letters: dict[str, str] = {}
        self.words = ""
        self.filter = "all"
        self._asked: tuple[str, str] | None = None  # the part and what was typed when it was asked about
        self.refusal = ""  # why what was typed last could not be taken

    def refresh(self) -> None:
        """Take the kit as it is now."""
        book, build = self.workspace.book, self.workspace.build
        on_build = {placed.part_id: letter(i) for i, placed in enumerate(build.parts)} if build is not None else {}
        parts = [part for part in book.kit if self._passes(part, on_build) and matches(part, self.words)]
        rows = {part.id: row for row, part in enumerate(parts)}
        if list(rows) == list(self._rows):
            self.parts, self.letters = parts, on_build
            if parts:
                self.dataChanged.emit(self.index(0, 0), self.index(len(parts) - 1, len(COLUMNS) - 1))
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, len(COLUMNS) - 1)
            return
        self.beginResetModel()
        self.parts, self.letters, self._rows = parts, on_build, rows
        self.endResetModel()

    def _passes(self, part: Part, on_build: dict[str, str]) -> bool:
        if self.filter == "build":
            return part.id in on_build
        if self.filter == "guessed":
            return part.mass is None or part.mass_known is HowKnown.GUESSED
        return True

    def row_of(self, part_id: str) -> int | None:
        """Return the row of a part, None if it isn't shown."""
        return self._rows.get(part_id)

    def rowCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.parts)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(COLUMNS)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        part, column = self.parts[index.row()], COLUMNS[index.column()]
        system, kinds = self.workspace.system, self.workspace.book.known_kinds
        if role == Qt.ItemDataRole.EditRole:
            return edit_text(part, column, system, kinds)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return cell(part, column, system, kinds)
        if role == Qt.ItemDataRole.ToolTipRole:
            text = cell(part, column, system, kinds)
            lines = [f"{part.name}: {column.value} {text}", provenance_words(part), part.note]
            return as_tip("\n".join(line for line in lines if line))
        return None

    def setData(self, index: _Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        part, column = self.parts[index.row()], COLUMNS[index.column()]
        if str(value) == edit_text(part, column, self.workspace.system, self.workspace.book.known_kinds):
            return False
        return self.change(part, column, str(value))

    def change(self, part: Part, column: Column, text: str) -> bool:
        """Type `text` into a part's cell; say why if it can't be."""
        self.refusal = ""
        try:
            new = changed(part, column, text, self.workspace.system, self.workspace.book.known_kinds)
        except EditError as error:
            self.refusal = readable(str(error), self.workspace.system)
            return False
        question = odd_words(new, part, self.workspace.system) if column in (Column.MASS, Column.SIZE) else ""
        if question and (part.id, text) != self._asked:
            self._asked, self.refusal = (part.id, text), question
            return False
        self._asked = None
        return self.workspace.apply(ChangePart(new, column.value, self.workspace.stamp()))

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        column = COLUMNS[section] if orientation == Qt.Orientation.Horizontal else None
        if column is None:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return heading(column, self.workspace.system, self.workspace.book.currency)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column in _RIGHT else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def flags(self, index: _Index) -> Qt.ItemFlag:
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return base | Qt.ItemFlag.ItemIsEditable if COLUMNS[index.column()] in EDITABLE else base


class KitDelegate(QStyledItemDelegate):
    """Paints the kit's cells and makes their editors."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        model = index.model()
        if not isinstance(model, KitModel):
            return
        part, column = model.parts[index.row()], COLUMNS[index.column()]
        area: QRect = option.rect
        state: QStyle.StateFlag = option.state
        chosen = bool(state & QStyle.StateFlag.State_Selected)
        if chosen:
            fill(painter, area, "tint")
        scene = Scene()
        base = area.center().y() + 4.8 * text_scale()
        text = cell(part, column, model.workspace.system)
        match column:
            case Column.KIND:
                paint_category(painter, part.category, QRectF(area.left() + 2, area.top(), 24, area.height()), "ink")
                mark = model.letters.get(part.id, "")
                scene.text(area.left() + 29, base, mark, 13, 600, "accent" if chosen else "ink2")
            case Column.HOW:
                if part.mass is not None:
                    paint_how(painter, part.mass_known, area.left() + 12, area.center().y() + 0.5)
                scene.text(area.left() + 24, base, text, 13, 400, "ink2")
            case Column.FITS | Column.OFFERS:
                self._paint_mounts(painter, scene, part, column, area, base)
            case Column.NAME:
                self._paint_name(painter, scene, part, model, area, base, chosen)
            case _:
                self._paint_text(painter, scene, text, column, area, base, chosen)
        paint_scene(painter, scene, colors())
        if state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(colors()["accent"])
            painter.drawRect(area.adjusted(0, 0, -1, -1))

    def _paint_text(
        self, painter: QPainter, scene: Scene, text: str, column: Column, area: QRect, base: float, chosen: bool
    ) -> None:
        weight = 600 if column is Column.MASS or (column is Column.NAME and chosen) else 400
        tone = {Column.UNCERTAINTY: "ink3", Column.NAME: "ink", Column.MASS: "ink"}.get(column, "ink2")
        painter.setFont(font(13, weight))
        shown = cut(text, painter.fontMetrics(), area.width() - 6)
        if column in _RIGHT:
            scene.text(area.right() - 4, base, shown, 13, weight, tone, Anchor.END)
        else:
            scene.text(area.left() + 4, base, shown, 13, weight, tone)

    def _paint_name(
        self, painter: QPainter, scene: Scene, part: Part, model: KitModel, area: QRect, base: float, chosen: bool
    ) -> None:
        """Paint a part's name, and beside it what it is to people, as far as there is room for the whole of it."""
        self._paint_text(painter, scene, part.name, Column.NAME, area, base, chosen)
        reading = reading_of(part, model.workspace.book.known_kinds)
        words = kind_words(reading)
        if reading.sure and words.casefold() in part.name.casefold():
            return
        painter.setFont(font(13, 600 if chosen else 400))
        taken = painter.fontMetrics().horizontalAdvance(part.name) + 18
        painter.setFont(font(12.5))
        if taken + painter.fontMetrics().horizontalAdvance(words) + 6 <= area.width():
            scene.text(area.left() + taken, base, words, 12.5, 400, "ink3" if reading.sure else "fwdT")

    def _paint_mounts(
        self, painter: QPainter, scene: Scene, part: Part, column: Column, area: QRect, base: float
    ) -> None:
        needs, offered = mount_kinds(part)
        x = area.left() + 10.0
        y = area.center().y() + 0.5
        if column is Column.FITS:
            if not needs:
                scene.text(area.left() + 4, base, "–", 13, 400, "ink3")
                return
            paint_mount(painter, needs[0], x, y)
            painter.setFont(font(13))
            words = needs[0].value + (f" +{len(needs) - 1}" if len(needs) > 1 else "")
            words = cut(words, painter.fontMetrics(), area.width() - 22)
            scene.text(area.left() + 21, base, words, 13, 400, "ink2")
            return
        for kind in offered[: max(1, int(area.width() / 16))]:
            paint_mount(painter, kind, x, y)
            x += 16.0

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: _Index) -> QWidget:
        column = COLUMNS[index.column()]
        if column is Column.KIND:
            model = index.model()
            box = KindBox(parent)
            if isinstance(model, KitModel):
                box.offer(model.workspace.book.known_kinds)
            return box
        editor = QLineEdit(parent)
        editor.setFont(font(13))
        editor.setStyleSheet("padding: 0 2px; min-height: 0;")
        return editor

    def setEditorData(self, editor: QWidget, index: _Index) -> None:
        text = index.model().data(index, Qt.ItemDataRole.EditRole)
        if isinstance(editor, QComboBox):
            editor.setCurrentText(text)
        elif isinstance(editor, QLineEdit):
            editor.setText(text)

    def setModelData(self, editor: QWidget, model: object, index: _Index) -> None:
        if not isinstance(model, KitModel):
            return
        if isinstance(editor, QComboBox):
            text = editor.currentText()
            if not model.setData(index, text) and model.refusal and isinstance(table := self.parent(), KitTable):
                table.reopen(index, text, model.refusal)
        elif isinstance(editor, QLineEdit):
            text = editor.text()
            if not model.setData(index, text) and model.refusal and isinstance(table := self.parent(), KitTable):
                table.reopen(index, text, model.refusal)


class KitTable(QTableView):
    """The table; `entry_wanted` asks for the entry row, `bench_wanted` for the bench, `pasted` carries text."""

    entry_wanted = Signal()
    bench_wanted = Signal()
    pasted = Signal(str)

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.kit_model = KitModel(workspace)
        # One of ours: for one that Qt made, the binding looks through all kinds of widgets there are.
        self._port = QWidget(self)
        self.setViewport(self._port)
        self._refused = False
        self.setModel(self.kit_model)
        self.setItemDelegate(KitDelegate(self))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.DoubleClicked
        )
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.verticalHeader().setMinimumSectionSize(14)
        self.horizontalHeader().setHighlightSections(False)
        self.horizontalHeader().setMinimumSectionSize(20)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Kit")
        self.setTabKeyNavigation(False)  # Tab leaves the table; arrows walk in it

    def restyle(self) -> None:
        """Take row height and heading type from the text scale."""
        self.verticalHeader().setDefaultSectionSize(round(20 * text_scale()))
        self.horizontalHeader().setFont(font(12.5))
        self.horizontalHeader().setFixedHeight(round(24 * text_scale()))
        self._fit_columns()

    def _fit_columns(self) -> None:
        """Give the name what the other columns leave; drop price, then size, when it gets narrow."""
        s = text_scale()
        width = self.viewport().width()
        hidden: set[Column] = set()
        for column in (Column.PRICE, Column.SIZE, Column.POWER, Column.OFFERS, Column.FITS, Column.CG):
            if width - sum(w * s for c, w in _WIDTHS.items() if c not in hidden) >= 130 * s:
                break
            hidden.add(column)
        used = sum(w * s for c, w in _WIDTHS.items() if c not in hidden)
        for number, column in enumerate(COLUMNS):
            self.setColumnHidden(number, column in hidden)
            if column is Column.NAME:
                self.setColumnWidth(number, max(int(width - used), 100))
            else:
                self.setColumnWidth(number, int(_WIDTHS[column] * s))

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_columns()
        if self.currentIndex().isValid():
            self.scrollTo(self.currentIndex())  # what was in sight may have come below the edge

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.kit_model.parts:
            painter = QPainter(self.viewport())
            scene = Scene()
            empty = not self.workspace.book.kit
            words = "Add the first part below: name, mass, Enter." if empty else "No part has that name."
            scene.text(self.viewport().width() / 2, self.viewport().height() / 2, words, 15, 500, "ink2", Anchor.MIDDLE)
            paint_scene(painter, scene, colors())
            painter.end()

    def selected_parts(self) -> tuple[Part, ...]:
        """Return the parts whose rows are selected."""
        rows = sorted({index.row() for index in self.selectionModel().selectedRows()})
        return tuple(self.kit_model.parts[row] for row in rows if row < len(self.kit_model.parts))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, modifiers = event.key(), event.modifiers()
        control = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        parts = self.selected_parts()
        column = COLUMNS[self.currentIndex().column()] if self.currentIndex().isValid() else None
        if event.matches(QKeySequence.StandardKey.Paste):
            self.pasted.emit(QGuiApplication.clipboard().text())
        elif event.matches(QKeySequence.StandardKey.Copy):
            self._copy(parts)
        elif key == Qt.Key.Key_Delete and parts:
            self._remove(parts)
        elif control and key == Qt.Key.Key_D and modifiers & Qt.KeyboardModifier.ShiftModifier and parts:
            self.workspace.apply(DuplicatePart(parts[0].id))
        elif key == Qt.Key.Key_Insert or (control and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)):
            self.entry_wanted.emit()
        elif column in (Column.HOW, Column.MASS) and event.text().casefold() in ("w", "s", "g") and parts:
            self.kit_model.change(parts[0], Column.HOW, event.text())
        elif event.text().casefold() == "b" and not control and parts and self.workspace.preferences.single_keys:
            self.bench_wanted.emit()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentIndex().isValid():
            # The editor stores what was typed once this key is dealt with; only then may the row change.
            QTimer.singleShot(0, self._go_down)
        else:
            super().keyPressEvent(event)

    def reopen(self, index: _Index, text: str, words: str) -> None:
        """Open a cell's editor again with what was typed, and say at it why that can't be taken."""
        again = QPersistentModelIndex(index)
        self._refused = True
        QTimer.singleShot(0, lambda: self._open_again(again, text, words))

    def _open_again(self, index: QPersistentModelIndex, text: str, words: str) -> None:
        self._refused = False
        if not index.isValid():
            return
        cell_index = self.kit_model.index(index.row(), index.column())
        self.setCurrentIndex(cell_index)
        self.edit(cell_index)
        editor = QApplication.focusWidget()
        if isinstance(editor, QLineEdit) and self.isAncestorOf(editor):
            # That of a list is a line too.
            editor.setText(text)
            refuse_at(editor, words)

    def _go_down(self) -> None:
        """Go to the row below: Enter has stored what was typed; on the last row it opens the entry row."""
        if self._refused or self.state() == QAbstractItemView.State.EditingState:
            return  # what was typed can't be taken: the cell is open again
        row = self.currentIndex().row() + 1
        if row < self.kit_model.rowCount():
            self.setCurrentIndex(self.kit_model.index(row, self.currentIndex().column()))
        else:
            self.entry_wanted.emit()

    def _remove(self, parts: tuple[Part, ...]) -> None:
        """Remove the parts that no build uses; say which stay, and why."""
        build_of = {placed.part_id: build.name for build in self.workspace.book.builds for placed in build.parts}
        free = tuple(part.id for part in parts if part.id not in build_of)
        stay = [part for part in parts if part.id in build_of]
        if free and not self.workspace.apply(RemoveParts(free)):
            return
        if stay:
            removed = f"Removed {len(free)}. " if free else ""
            more = f" and {len(stay) - 1} more" if len(stay) > 1 else ""
            verb = "are on builds. Take them" if len(stay) > 1 else f"is on build {build_of[stay[0].id]}: take it"
            self.workspace.refused.emit(f"{removed}{stay[0].name}{more} {verb} off there first.")

    def _copy(self, parts: tuple[Part, ...]) -> None:
        # First what pasting reads, then what else is seen.
        first = (Column.NAME, Column.MASS, Column.SIZE, Column.HOW)
        wanted = (*first, *(c for c in COLUMNS if c not in (*first, Column.KIND) and not self._hidden(c)))
        system, currency = self.workspace.system, self.workspace.book.currency
        copy_table(
            [heading(column, system, currency) for column in wanted],
            [[cell(part, column, system) for column in wanted] for part in parts],
        )

    def _hidden(self, column: Column) -> bool:
        return self.isColumnHidden(COLUMNS.index(column))
