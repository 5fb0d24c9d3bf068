"""Weighings, what they say of the parts, and taking it for true."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QMenu,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from equilix.core.errors import MeasurementError
from equilix.core.measurement.reconcile import Reconciled, reconcile
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, text_scale
from equilix.desktop.widgets.labels import OneLine
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.plain_table import PlainTable
from equilix.desktop.workspace import Workspace
from equilix.document.edits.measure import RemoveMeasurement, UseMeasurement
from equilix.document.weighing import accepted
from equilix.present.weigh.weighings import WeighingsModel, weighings_model
from equilix.present.words import mid_sentence


class WeighingsPanel(QWidget):
    """`reconciled` follows each new sum, for the panel at the right."""

    reconciled = Signal()

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.found: Reconciled | None = None
        self.model: WeighingsModel | None = None
        self._key: object = None
        self._held: object = None
        self.weighings = PlainTable(("", "scale", "value", "agreement"), "Weighings", self)
        self.figures = PlainTable(("part", "believed", "alone", "reconciled"), "Reconciled figures", self)
        self.accept_button = QPushButton("Accept the chosen rows")
        set_tip(self.accept_button, "Sets the chosen parts to the reconciled values (Enter)")
        self.accept_all = QPushButton("Accept all")
        self.note = OneLine("ink3")
        self._lay_out()
        self.accept_button.clicked.connect(self.accept_chosen)
        self.accept_all.clicked.connect(self.accept_every)
        self.weighings.pressed_key.connect(self._weighing_key)
        self.figures.pressed_key.connect(self._figure_key)
        self.weighings.itemClicked.connect(self._clicked)
        self.weighings.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.weighings.customContextMenuRequested.connect(self._menu)

    def _lay_out(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 8)
        layout.setSpacing(20)
        left = QVBoxLayout()
        left.setSpacing(2)
        left.addWidget(self.weighings, 1)
        left.addWidget(self.note)
        layout.addLayout(left, 45)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.figures, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.accept_button)
        row.addWidget(self.accept_all)
        right.addLayout(row)
        layout.addLayout(right, 55)

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        narrow = self.width() < 700 * text_scale()
        self.weighings.setColumnHidden(3, narrow)
        for column in (1, 2):
            self.figures.setColumnHidden(column, narrow)

    def refresh(self) -> None:
        """Reconcile anew if parts, scales or measurements differ, and show it."""
        if not self.isVisible():
            return
        book = self.workspace.book
        key = (book.measurements, book.instruments, id(book.parts), self.workspace.system, colors().theme)
        if key == self._key:
            return
        try:
            self.found = reconcile(book.parts, book.measurements, book.scales)
        except MeasurementError as error:
            self.workspace.refused.emit(str(error))
            return
        # Held, so that no other object gets its identity.
        self._key, self._held = key, book.parts
        self.model = weighings_model(book, self.found, self.workspace.system)
        self._show(self.model)
        self.reconciled.emit()

    def _show(self, model: WeighingsModel) -> None:
        self.weighings.restyle(1, {0: 22, 2: 66, 3: 76}, frozenset({2}))
        self.figures.restyle(0, {1: 92, 2: 50, 3: 112}, frozenset({1, 2, 3}))
        self.weighings.setRowCount(len(model.weighings))
        for i, weighing in enumerate(model.weighings):
            tone = "ink" if weighing.used else "ink3"
            box = QTableWidgetItem()
            box.setCheckState(Qt.CheckState.Checked if weighing.used else Qt.CheckState.Unchecked)
            set_tip(box, "Counts. Click or Space leaves it out" if weighing.used else "Left out")
            self.weighings.setItem(i, 0, box)
            self.weighings.put(i, 1, weighing.what, tone, tip=f"{weighing.what}\n{weighing.how}")
            misfit = weighing.suspect or weighing.fit not in ("fits", "left out")
            self.weighings.put(i, 2, weighing.value, "fwdT" if misfit else tone, 600, right=True, tip=weighing.fit)
            fit = "fwdT" if misfit else "ink2"
            self.weighings.put(i, 3, weighing.fit, fit, 600 if weighing.suspect else 400)
        self.figures.setRowCount(len(model.figures))
        for i, line in enumerate(model.figures):
            tone = "fwdT" if line.suspect else "ink"
            name = f"{line.name}, {mid_sentence(line.quantity)}" if line.quantity else line.name
            tip = f"{name}: expected {line.belief}, weighed alone {line.measured}"
            self.figures.put(i, 0, name, tone, 600 if line.suspect else 400, tip=tip)
            self.figures.put(i, 1, line.belief, "ink2", right=True)
            self.figures.put(i, 2, line.measured, "ink2", right=True)
            changed = line.changes
            self.figures.put(i, 3, line.value, "ink" if changed else "ink2", 600 if changed else 400, right=True)
        self.note.setText("Space or a click leaves one out. Delete removes it." if model.weighings else "")
        self.accept_button.setEnabled(bool(model.figures))
        self.accept_all.setEnabled(any(line.changes for line in model.figures))

    # Acting

    def accept_chosen(self) -> None:
        """Take the reconciled values of the chosen rows."""
        self._accept(tuple(sorted({index.row() for index in self.figures.selectedIndexes()})))

    def accept_every(self) -> None:
        """Take all reconciled values."""
        if self.model is not None:
            self._accept(tuple(line.index for line in self.model.figures))

    def _accept(self, chosen: tuple[int, ...]) -> None:
        if self.found is None:
            return
        if not chosen:
            self.workspace.said.emit("No row is chosen. Choose the rows to accept.")
            return
        self.workspace.apply(accepted(self.found, chosen, self.workspace.date, self.workspace.by))

    def _chosen_weighing(self) -> str:
        row = self.weighings.currentRow()
        if self.model is None or not 0 <= row < len(self.model.weighings):
            return ""
        return self.model.weighings[row].measurement_id

    def switch_use(self) -> None:
        """Leave the chosen weighing out, or count it again."""
        chosen = self._chosen_weighing()
        if chosen:
            used = next(m.used for m in self.workspace.book.measurements if m.id == chosen)
            self.workspace.apply(UseMeasurement(chosen, not used))

    def _clicked(self, item: QTableWidgetItem) -> None:
        if item.column() == 0:
            self.switch_use()

    def _weighing_key(self, key: int) -> None:
        if key == Qt.Key.Key_Delete and self._chosen_weighing():
            self.workspace.apply(RemoveMeasurement(self._chosen_weighing()))
        elif key == Qt.Key.Key_Space:
            self.switch_use()

    def _figure_key(self, key: int) -> None:
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.accept_chosen()

    def _menu(self, place: QPoint) -> None:
        if not self._chosen_weighing():
            return
        menu = QMenu(self)
        menu.addAction("Count or leave out").triggered.connect(lambda _c=False: self.switch_use())
        menu.addAction("Remove it").triggered.connect(lambda _c=False: self._weighing_key(Qt.Key.Key_Delete))
        menu.popup(self.weighings.viewport().mapToGlobal(place))
