"""The lens table: where the camera stands for each lens of the kit, and one place for all."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QCheckBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout

from equilix.core.assembly.mounts import mount_of
from equilix.core.errors import EditError
from equilix.core.registry import support_for
from equilix.core.slides import USUAL_TOLERANCE
from equilix.core.units import Kind
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.jobs.job import Progress
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain_table import PlainTable
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.widgets.worker import Worker
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ApplyPlan
from equilix.present.balance.lens_view import HEADINGS, LensModel, LensRow, lens_model, tolerance_words
from equilix.present.supports import text_of
from equilix.present.units import figure, parse, readable


class LensPanel(Worker):
    """Works the table out when it is looked at; Enter on a row sets the camera to its mark."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.model: LensModel | None = None
        self.tolerance = USUAL_TOLERANCE
        self._key: object = None
        self._held: tuple[object, ...] = ()
        self._placed_id = ""
        self._common = 0.0
        self.table = PlainTable(HEADINGS, "Lens table")
        self.matte = QCheckBox("with matte box")
        self.matte.setChecked(True)
        self.field = QLineEdit()
        self.field.setAccessibleName("Most that may remain with a lens")
        self.field.setFixedWidth(96)
        self.question = label("", 13, 600, "ink")
        self.note = label("", 13, 400, "ink2")
        self.common = label("", 13, 400, "ink2")
        self.take = QPushButton("Apply the chosen mark")
        self.take_common = QPushButton("Apply one mark for all")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 6)
        layout.setSpacing(2)
        layout.addWidget(self.question)
        layout.addWidget(self.table, 1)
        self._words = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        for words in (self.note, self.common):
            words.setWordWrap(True)
            self._words.addWidget(words, 1)
        layout.addLayout(self._words)
        self._below = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._below.setSpacing(8)
        row, buttons = QHBoxLayout(), QHBoxLayout()
        for one in (row, buttons):
            one.setSpacing(8)
            self._below.addLayout(one)
        row.addWidget(self.matte)
        row.addWidget(label("each mark leaves at most", 13, 400, "ink2"))
        row.addWidget(self.field)
        row.addStretch(1)
        buttons.addStretch(1)
        buttons.addWidget(self.take)
        buttons.addWidget(self.take_common)
        layout.addLayout(self._below)
        self.matte.toggled.connect(lambda _on: self.refresh())
        self.field.editingFinished.connect(self._set_tolerance)
        self.table.pressed_key.connect(self._press)
        self.take.clicked.connect(self.take_mark)
        self.take_common.clicked.connect(self.take_one_place)

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        narrow = self.width() < 720 * text_scale()
        self._hide_columns()
        across, down = QBoxLayout.Direction.LeftToRight, QBoxLayout.Direction.TopToBottom
        self._words.setDirection(down if narrow else across)
        self._words.setSpacing(0 if narrow else 12)
        self._below.setDirection(down if self.width() < 560 * text_scale() else across)

    def _hide_columns(self) -> None:
        """Hide what hands bear where there is no room for it, or where no hands hold the rig."""
        build = self.workspace.build
        by_hands = build is not None and support_for(build.support).by_hands
        for column in (3, 5):
            self.table.setColumnHidden(column, not by_hands or self.width() < 720 * text_scale())

    def refresh(self) -> None:
        """Work the table out for the present build, unless it is known."""
        if not self.isVisible():
            return
        w = self.workspace
        analysis = w.analysis()
        self.field.setText(tolerance_words(self.tolerance, w.system))
        self.question.setText("" if analysis is None else text_of(analysis).lens_question)
        self._hide_columns()
        key = (id(analysis), id(w.book.parts), w.operator, self.matte.isChecked(), self.tolerance, w.system)
        if key == self._key:
            return
        self.stop()
        # Held, so that no other object gets their identity.
        self._key, self._held = key, (analysis, w.book.parts)
        if analysis is None:
            self.came(None)
            return
        kit, operator, matte, tolerance = w.book.parts, w.operator, self.matte.isChecked(), self.tolerance

        def work(progress: Progress) -> object:
            from equilix.core.solver.lenses import lens_table

            return lens_table(analysis, kit, operator, matte, tolerance, lambda: progress(0.5))

        self.note.setText("working…")
        self._work.start(work)

    def forget(self) -> None:
        self._key = None

    def came(self, found: object) -> None:
        self.table.restyle(0, {1: 128, 2: 86, 3: 86, 4: 92, 5: 92, 6: 62}, frozenset({1, 2, 3, 4, 5, 6}))
        from equilix.core.solver.lenses import LensTable

        if not isinstance(found, LensTable):
            self.model = None
            self.table.setRowCount(0)
            self.note.setText("Put a lens, a camera slide and a support on the build.")
            self.common.setText("")
            for button in (self.take, self.take_common):
                button.setEnabled(False)
            return
        analysis = self.workspace.analysis()
        now = ""
        if analysis is not None:
            now = next((part.id for part in analysis.assembly.parts if part.category == "lens"), "")
        self.model = lens_model(found, now, self.workspace.system)
        self._placed_id, self._common = found.placed_id, found.common
        self._common_along = found.common_along
        self.table.setRowCount(len(self.model.rows))
        for i, row in enumerate(self.model.rows):
            for k, text in enumerate(row.cells):
                tone = "fwdT" if row.short and k == 1 else ("ink" if k < 2 else "ink2")
                weight = 600 if k == 1 or (k == 0 and row.now) else 400
                tip = self._along(row) if k == 1 else ""
                self.table.put(i, k, text, tone, weight, right=k >= 1, tip=f"{text}{tip}")
        self.note.setText(self.model.note)
        self.common.setText(self.model.common)
        for button in (self.take, self.take_common):
            button.setEnabled(bool(self.model.rows))

    def _along(self, row: LensRow) -> str:
        """Return what goes along to the mark of a row, for its tip."""
        build, kit, system = self.workspace.build, self.workspace.book.parts, self.workspace.system
        words = []
        for placed_id, setting in row.along:
            placed = next((p for p in build.parts if p.id == placed_id), None) if build is not None else None
            mount = mount_of(placed, build, kit) if placed is not None and build is not None else None
            if placed is not None and mount is not None:
                words.append(f"{kit[placed.part_id].name} to {figure(setting - mount.low, Kind.LENGTH, system)}")
        return f"\n\nwith it: {', '.join(words)}" if words else ""

    def take_mark(self) -> None:
        """Set the camera to the mark of the chosen row."""
        row = self.table.currentRow()
        if self.model is None or not 0 <= row < len(self.model.rows):
            self.workspace.said.emit("No lens is chosen. Choose one.")
            return
        chosen = self.model.rows[row]
        self._set(chosen.setting, chosen.along)

    def take_one_place(self) -> None:
        """Set the camera to the one place for all lenses."""
        if self.model is not None:
            self._set(self._common, self._common_along)

    def _set(self, setting: float, along: tuple[tuple[str, float], ...] = ()) -> None:
        """Set the camera, and what is set to the lens along with it, in one step."""
        build = self.workspace.build
        if build is None:
            return
        moved = replace(build.placed(self._placed_id), setting=setting)
        build = build.with_placed(moved)
        for placed_id, place in along:
            if any(placed.id == placed_id for placed in build.parts):
                build = build.with_placed(replace(build.placed(placed_id), setting=place))
        self.workspace.apply(ApplyPlan(build, (), "Slide to the lens mark"))

    def _press(self, key: int) -> None:
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take_mark()

    def _set_tolerance(self) -> None:
        text = tolerance_words(self.tolerance, self.workspace.system)
        if self.field.text() == text:
            return
        try:
            value = parse(self.field.text(), Kind.MOMENT, self.workspace.system)
            if not 0.0 < value <= 50.0:
                raise EditError("This moment must be above 0 and at most 50 N·m.")
        except EditError as error:
            refuse_at(self.field, readable(str(error), self.workspace.system))
            return
        self.tolerance = value
        self.refresh()
