"""How the rig is held: which hand where, what braces it, and how thick the grips are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from equilix.core.assembly.build import Brace, Grasp, Hold
from equilix.core.errors import EquilixError
from equilix.desktop.theme import text_scale
from equilix.desktop.widgets.panel import label
from equilix.present.units import Kind, System, figure, parse

BRACES = {
    Brace.NONE: "none",
    Brace.ELBOWS: "elbows on ribs",
    Brace.CHEST: "on the chest",
    Brace.HIP: "on the hip",
    Brace.KNEES: "sitting, on thighs",
}


class HoldRow(QWidget):
    """`changed` carries the new hold, `refused` what can't be read."""

    changed = Signal(Hold)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 2, 0, 4)
        self._grid.setHorizontalSpacing(5)
        self._grid.setVerticalSpacing(4)
        self.left, self.right, self.brace = QComboBox(), QComboBox(), QComboBox()
        self.thickness = QLineEdit()
        self._caption = label("Held", 14, 600)
        self._pairs: list[tuple[QWidget, QWidget]] = []
        self._folded: bool | None = None
        for words, box, name in (
            ("left", self.left, "Left hand at"),
            ("right", self.right, "Right hand at"),
            ("brace", self.brace, "Brace"),
        ):
            box.setAccessibleName(name)
            box.setToolTip(name)
            box.setMinimumContentsLength(8)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.activated.connect(self._chosen)
            self._pairs.append((label(words, 13, 400, "ink2"), box))
        self.thickness.setAccessibleName("Thickness of the grips")
        self.thickness.setToolTip("How thick the handgrips are; empty: from their own size in the kit")
        self.thickness.setFixedWidth(round(62 * text_scale()))
        self.thickness.editingFinished.connect(self._typed)
        self._pairs.append((label("grips", 13, 400, "ink2"), self.thickness))
        self.fold(False)
        self._hold = Hold()
        self._system = System.METRIC
        self._offered: tuple[Grasp, ...] = ()
        self._offered_names: tuple[str, ...] = ()

    def fold(self, folded: bool) -> None:
        """Lay the fields out in one row, or `folded` in two."""
        if folded is self._folded:
            return
        self._folded = folded
        while self._grid.takeAt(0) is not None:
            pass
        for column in range(self._grid.columnCount()):
            self._grid.setColumnStretch(column, 0)
        self._grid.addWidget(self._caption, 0, 0)
        for k, (words, field) in enumerate(self._pairs):
            line, column = (k // 2, k % 2) if folded else (0, k)
            self._grid.addWidget(words, line, 1 + 2 * column)
            if field is self.thickness:
                # Aligned, or its fixed width would hold the column's.
                self._grid.addWidget(field, line, 2 + 2 * column, Qt.AlignmentFlag.AlignLeft)
            else:
                self._grid.addWidget(field, line, 2 + 2 * column)
                self._grid.setColumnStretch(2 + 2 * column, 1)

    def show_hold(
        self,
        hold: Hold,
        offered: Sequence[tuple[Grasp, str]],
        braces: Sequence[Brace],
        usual_thickness: str,
        system: System,
    ) -> None:
        """Show `hold`, the places that are `offered` with their names, and the `braces` that there are."""
        self._hold, self._system = hold, system
        self._offered = tuple(grasp for grasp, _ in offered)
        for box, grasp in ((self.left, hold.left), (self.right, hold.right)):
            box.clear()
            box.addItem("by itself")
            box.addItems([name for _, name in offered])
            box.setCurrentIndex(self._offered.index(grasp) + 1 if grasp in self._offered else 0)
            widest = max((box.fontMetrics().horizontalAdvance(name) for _, name in offered), default=80)
            box.view().setMinimumWidth(widest + 40)
        self._braces = tuple(braces)
        self.brace.clear()
        self.brace.addItems([BRACES[brace] for brace in braces])
        self.brace.setCurrentIndex(self._braces.index(hold.brace) if hold.brace in self._braces else 0)
        self.thickness.setText("" if hold.thickness is None else figure(hold.thickness, Kind.LENGTH, system))
        self.thickness.setPlaceholderText(usual_thickness)
        self.thickness.setModified(False)

    def _chosen(self) -> None:
        def grasp(box: QComboBox) -> Grasp | None:
            return self._offered[box.currentIndex() - 1] if box.currentIndex() > 0 else None

        left, right = grasp(self.left), grasp(self.right)
        if left is not None and left == right:
            # The hand that was there before gives way.
            if self.sender() is self.left:
                right = None
            else:
                left = None
        brace = self._braces[max(self.brace.currentIndex(), 0)]
        self._say(replace(self._hold, left=left, right=right, brace=brace))

    def _typed(self) -> None:
        if not self.thickness.isModified():
            return
        self.thickness.setModified(False)
        text = self.thickness.text().strip()
        try:
            thick = parse(text, Kind.LENGTH, self._system) if text else None
            hold = replace(self._hold, thickness=thick)
        except EquilixError as error:
            self.refused.emit(str(error))
            old = self._hold.thickness
            self.thickness.setText("" if old is None else figure(old, Kind.LENGTH, self._system))
            return
        self._say(hold)

    def _say(self, hold: Hold) -> None:
        if hold != self._hold:
            # The box that is still handling its click may go with the row.
            QTimer.singleShot(0, lambda: self.changed.emit(hold))
