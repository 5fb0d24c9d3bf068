"""How sure the verdict's figures are: first order beside sampled rigs, with a histogram."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from equilix.core.analysis import Analysis
from equilix.core.uncertainty.montecarlo import SAMPLES, Odds, sample
from equilix.core.uncertainty.output_model import OutputModel, firsts_of, output_model
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import fill
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain_table import PlainTable
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.widgets.worker import Worker
from equilix.desktop.workspace import Workspace
from equilix.present.balance.odds_view import draw_histogram, odds_rows
from equilix.present.drawing.scene import Scene
from equilix.present.units import number


class ProgressBar(QWidget):
    """A thin bar, filled from the left."""

    def __init__(self) -> None:
        super().__init__()
        self.share = 0.0
        self.setFixedHeight(8)
        self.setAccessibleName("Progress")

    def show_share(self, share: float) -> None:
        """Fill it by a share, 0 to 1."""
        self.share = share
        self.setAccessibleDescription(f"{100 * share:.0f} %")
        self.update()

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, QRectF(0, 1, self.width(), 6), "p1")
        fill(painter, QRectF(0, 1, self.width() * self.share, 6), "accent")
        painter.end()


class OddsPanel(Worker):
    """`changed` follows new odds and another chosen figure, for the panel at the right."""

    changed = Signal()
    works_hidden = True

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.outputs: OutputModel | None = None
        self.odds: dict[str, Odds] | None = None
        self._analysis: Analysis | None = None
        self._firsts: dict[str, tuple[float, float]] = {}
        self.table = PlainTable(
            ("figure", "plain ± (95 %)", "95 % of simulated rigs", ""), "Figures of the headline", self
        )
        self.histogram = SceneView("Histogram", self)
        self.draw_button = QPushButton(f"Simulate {number(SAMPLES / 1000, 0)} 000 rigs")
        self.progress = ProgressBar()
        self.note = label("", 13, 400, "ink3")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 8)
        layout.setSpacing(20)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addWidget(self.table, 1)
        row = QHBoxLayout()
        row.addWidget(self.draw_button)
        row.addWidget(self.progress, 1)
        row.addWidget(self.note)
        left.addLayout(row)
        layout.addLayout(left, 60)
        layout.addWidget(self.histogram, 40)
        self._work.progressed.connect(self.progress.show_share)
        self.draw_button.clicked.connect(self._switch)
        self.table.itemSelectionChanged.connect(self._choose)
        self.histogram.resized.connect(self._draw)

    def refresh(self) -> None:
        """Show the figures of the present build; odds of another one are dropped."""
        if not self.isVisible():
            return
        analysis = self.workspace.analysis()
        if analysis is not self._analysis:
            self.stop()
            self._analysis, self.odds = analysis, None
            self.outputs = output_model(analysis) if analysis is not None else None
            self._firsts = firsts_of(self.outputs) if self.outputs is not None else {}
        self._fill()

    def _fill(self) -> None:
        outputs = self.outputs
        self.draw_button.setEnabled(outputs is not None)
        self.table.restyle(0, {1: 124, 2: 132, 3: 22}, frozenset({1, 2}))
        if outputs is None:
            self.table.setRowCount(0)
            self.note.setText("Give the parts masses, and the build a support.")
            self._draw()
            return
        rows = odds_rows(outputs, self._firsts, self.odds, self.workspace.system)
        self.table.blockSignals(True)
        self.table.setRowCount(len(rows))
        for i, row in enumerate(rows):
            chosen = row.output == self.output
            self.table.put(i, 0, row.name, "ink", 600 if chosen else 400)
            self.table.put(i, 1, row.first, "ink2" if row.agrees else "ink3", right=True)
            self.table.put(i, 2, row.sampled, "ink", 600, right=True)
            self.table.put(i, 3, "" if row.agrees else "≠", "fwdT", 700)
            if chosen:
                self.table.selectRow(i)
        self.table.blockSignals(False)
        if self.job is None:
            self.note.setText("≠: ± would mislead" if any(not row.agrees for row in rows) else "")
        self._draw()
        self.changed.emit()

    @property
    def output(self) -> str:
        """The figure that is looked at."""
        if self.outputs is not None and self.workspace.output not in self.outputs.offered:
            return self.outputs.offered[0]
        return self.workspace.output

    def _choose(self) -> None:
        row = self.table.currentRow()
        if self.outputs is not None and 0 <= row < len(self.outputs.offered):
            self.workspace.choose_output(self.outputs.offered[row])

    def _draw(self) -> None:
        width, height = self.histogram.scene_width, self.histogram.scene_height
        if self.outputs is None or width < 80 or height < 80:
            self.histogram.show_scene(Scene())
            return
        odds = self.odds.get(self.output) if self.odds is not None else None
        self.histogram.show_scene(draw_histogram(self.outputs, odds, self.output, self.workspace.system, width, height))

    # Drawing rigs

    def _switch(self) -> None:
        if self.job is not None:
            self.stop()
        else:
            self.start()

    def start(self) -> None:
        """Begin to draw rigs."""
        analysis, outputs = self._analysis, self.outputs
        if analysis is None or outputs is None:
            return
        self.draw_button.setText("Stop")
        self.progress.show_share(0.0)
        self._work.start(lambda progress: sample(analysis, outputs, progress=progress))

    def draw_now(self) -> None:
        """Draw rigs and wait for them: for pictures."""
        if self._analysis is not None and self.outputs is not None:
            self.odds = sample(self._analysis, self.outputs)
            self.progress.show_share(1.0)
            self._fill()

    def stop(self) -> None:
        """Stop drawing; what was drawn so far is dropped."""
        self._work.stop()
        self._finish()
        self.progress.show_share(0.0)

    def came(self, found: object) -> None:
        if not isinstance(found, dict):
            return
        self._finish()
        self.progress.show_share(1.0)
        self.odds = found
        self._fill()

    def _finish(self) -> None:
        self.draw_button.setText(f"Simulate {number(SAMPLES / 1000, 0)} 000 rigs")
