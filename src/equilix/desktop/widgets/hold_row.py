"""How the rig is held: which hand where, what braces it, and how thick the grips are."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from equilix.core.assembly.build import Brace, Grasp, Hold
from equilix.core.errors import EquilixError
from equilix.core.units import Kind
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.refusal import refuse_at
from equilix.present.carry.carry_view import BRACE_WORDS
from equilix.present.units import System, figure, parse, readable


class HoldRow(QWidget):
    """`changed` carries the new hold, `refused` what can't be read."""

    changed = Signal(Hold)

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 2, 0, 4)
        self._grid.setHorizontalSpacing(5)
        self._grid.setVerticalSpacing(4)
        self.left, self.right, self.brace = QComboBox(), QComboBox(), QComboBox()
        self.thickness, self.ahead, self.below = QLineEdit(), QLineEdit(), QLineEdit()
        self._caption = label("How it is held", 14, 600)
        self._pairs: list[tuple[QWidget, QWidget]] = []
        self._per_line, self._free = 0, True
        for words, box, name in (
            ("left", self.left, "Left hand on"),
            ("right", self.right, "Right hand on"),
            ("brace", self.brace, "Brace"),
        ):
            box.setAccessibleName(name)
            set_tip(box, name)
            box.setMinimumContentsLength(8)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.activated.connect(self._chosen)
            self._pairs.append((label(words, 13, 400, "ink2"), box))
        for words, field, name, tip in (
            ("grips", self.thickness, "Grip thickness", "empty: from the grips’ size in the kit"),
            ("hands ahead by", self.ahead, "How far the hands are ahead of the shoulders", "empty: common practice"),
            ("hands below by", self.below, "How far the hands are below the shoulders", "empty: common practice"),
        ):
            field.setAccessibleName(name)
            set_tip(field, f"{name}; {tip}")
            field.setFixedWidth(round(74 * text_scale()))
            field.editingFinished.connect(self._typed)
            self._pairs.append((label(words, 13, 400, "ink2"), field))
        self.fold(4)
        self._hold = Hold()
        self._system = System.METRIC
        self._offered: tuple[Grasp, ...] = ()
        self._offered_names: tuple[str, ...] = ()

    @property
    def _shown_pairs(self) -> list[tuple[QWidget, QWidget]]:
        return self._pairs if self._free else self._pairs[:4]

    def fold(self, per_line: int) -> None:
        """Lay the fields out, `per_line` to a line."""
        if per_line == self._per_line:
            return
        self._per_line = per_line
        while self._grid.takeAt(0) is not None:
            pass
        for column in range(self._grid.columnCount()):
            self._grid.setColumnStretch(column, 0)
        self._grid.addWidget(self._caption, 0, 0)
        shown = self._shown_pairs
        for k, (words, field) in enumerate(shown):
            line, column = k // per_line, k % per_line
            self._grid.addWidget(words, line, 1 + 2 * column)
            if isinstance(field, QLineEdit):
                # Aligned, or its fixed width would hold the column's.
                self._grid.addWidget(field, line, 2 + 2 * column, Qt.AlignmentFlag.AlignLeft)
            else:
                self._grid.addWidget(field, line, 2 + 2 * column)
                self._grid.setColumnStretch(2 + 2 * column, 1)
        for pair in self._pairs:
            for widget in pair:
                # Shown before it has a parent it would be a window of its own.
                widget.setParent(self)
                widget.setVisible(pair in shown)

    def make_room(self, width: float) -> None:
        """Lay the fields out for a row `width` px wide, at text of 100 %."""
        if self._free:
            self.fold(6 if width >= 1000.0 else 3 if width >= 700.0 else 2)
        else:
            self.fold(4 if width >= 700.0 else 2)

    def show_hold(
        self,
        hold: Hold,
        offered: Sequence[tuple[Grasp, str]],
        braces: Sequence[Brace],
        usual: Sequence[str],
        free: bool,
        system: System,
    ) -> None:
        """Show `hold`, the places that are `offered` with their names, and the `braces` that there are.

        `usual` are thickness, ahead and below where nothing is typed; `free` whether the hands alone place the rig.
        """
        self._hold, self._system = hold, system
        if free is not self._free:
            self._free, self._per_line = free, 0
            self.make_room(self.width() / text_scale())
        self._offered = tuple(grasp for grasp, _ in offered)
        for box, grasp in ((self.left, hold.left), (self.right, hold.right)):
            box.clear()
            box.addItem("chosen for you")
            box.addItems([name for _, name in offered])
            box.setCurrentIndex(self._offered.index(grasp) + 1 if grasp in self._offered else 0)
            widest = max((box.fontMetrics().horizontalAdvance(name) for _, name in offered), default=80)
            box.view().setMinimumWidth(widest + 40)
        self._braces = tuple(braces)
        self.brace.clear()
        self.brace.addItems([BRACE_WORDS[brace] for brace in braces])
        self.brace.setCurrentIndex(self._braces.index(hold.brace) if hold.brace in self._braces else 0)
        for (field, name), words in zip(self._fields(), usual, strict=True):
            value = getattr(hold, name)
            field.setText("" if value is None else figure(value, Kind.LENGTH, system))
            field.setPlaceholderText(words)
            field.setModified(False)

    def _fields(self) -> tuple[tuple[QLineEdit, str], ...]:
        return ((self.thickness, "thickness"), (self.ahead, "ahead"), (self.below, "below"))

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
        for field, name in self._fields():
            if not field.isModified():
                continue
            field.setModified(False)
            text = field.text().strip()
            try:
                value = parse(text, Kind.LENGTH, self._system) if text else None
                hold = replace(self._hold, **{name: value})
            except EquilixError as error:
                refuse_at(field, readable(str(error), self._system))
                continue
            self._say(hold)

    def _say(self, hold: Hold) -> None:
        if hold != self._hold:
            # The box that is still handling its click may go with the row.
            QTimer.singleShot(0, lambda: self.changed.emit(hold))
