"""The Weigh view as it is laid out: the kit's table and the row that takes parts in, and the panes below."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLineEdit, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.views.bench_session import BenchSession
from equilix.desktop.widgets.bench_panel import BenchPanel
from equilix.desktop.widgets.entry_row import EntryRow
from equilix.desktop.widgets.figure_grid import Rule
from equilix.desktop.widgets.kit_table import KitTable
from equilix.desktop.widgets.labels import OneLine, label
from equilix.desktop.widgets.odds_panel import OddsPanel
from equilix.desktop.widgets.part_panel import PartPanel
from equilix.desktop.widgets.tabs import WordRow
from equilix.desktop.widgets.weighings_panel import WeighingsPanel
from equilix.desktop.workspace import Workspace

#: Of the height, what the table takes of the room until somebody pulls the line between.
_TABLE_SHARE = 0.6


class WeighPage(QWidget):
    """Its widgets, and how they share the room."""

    def __init__(self, workspace: Workspace, session: BenchSession, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.session = session
        self.head = QWidget(self)
        self.splitter = QSplitter(Qt.Orientation.Vertical, self)
        self._upper = QWidget(self.splitter)
        self.below = QWidget(self.splitter)
        self.stack = QStackedWidget(self.below)
        self.table = KitTable(workspace, self._upper)
        self.part_panel = PartPanel(workspace, self.stack)
        self.bench = BenchPanel(workspace, session, self.stack)
        self.weighings = WeighingsPanel(workspace, self.stack)
        self.odds = OddsPanel(workspace, self.stack)
        self.title_note = OneLine("ink3")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a part   Ctrl F")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Find a part")
        self.entry = EntryRow(workspace, self._upper)
        self._lay_out()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        head = QHBoxLayout(self.head)
        head.setContentsMargins(0, 7, 0, 5)
        head.setSpacing(10)
        head.addWidget(label("Kit", 16, 600))
        head.addWidget(self.title_note, 1)
        self.filters = WordRow((("all", "All"), ("build", "On build"), ("guessed", "Estimated")), self.head)
        self.filter_buttons = self.filters.buttons
        head.addWidget(self.filters)
        self.search.setMaximumWidth(round(190 * text_scale()))
        self.search.setMinimumWidth(90)
        head.addWidget(self.search)
        layout.addWidget(self.head)
        self._above = above = QVBoxLayout(self._upper)
        above.setContentsMargins(0, 0, 0, 0)
        above.setSpacing(0)
        above.addWidget(self.table, 1)
        above.addWidget(Rule())
        above.addWidget(self.entry)
        below = QVBoxLayout(self.below)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(4)
        below.addWidget(Rule())
        self.tab_row = tabs = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        tabs.setContentsMargins(0, 5, 0, 2)
        words = (("part", "Part"), ("bench", "Bench"), ("weighings", "Weighings"), ("odds", "How certain"))
        self.tabs = WordRow(words, self.below)
        self.tab_note = OneLine("ink3")
        tabs.addWidget(self.tabs)
        tabs.setSpacing(16)
        tabs.addWidget(self.tab_note, 1)
        tabs.addWidget(self.bench.bar, 100)
        below.addLayout(tabs)
        for widget in (self.part_panel, self.bench, self.weighings, self.odds):
            self.stack.addWidget(widget)
        below.addWidget(self.stack, 1)
        self.splitter.setChildrenCollapsible(False)
        self.splitter.setHandleWidth(3)
        self.splitter.setStretchFactor(0, 50)
        self.splitter.setStretchFactor(1, 50)
        self.divided_by_hand = False
        self.splitter.splitterMoved.connect(self._divide_by_hand)
        layout.addWidget(self.splitter, 1)

    @property
    def preview(self) -> QWidget:
        """The drawing of the chosen part."""
        return self.part_panel.preview

    def _divide(self) -> None:
        """Give table and panes their shares of the height, unless somebody has."""
        if not self.divided_by_hand:
            table = round(_TABLE_SHARE * self.height())
            self.splitter.setSizes([table, self.height() - table])

    def _divide_by_hand(self, _at: int, _number: int) -> None:
        """Leave table and panes as they were pulled."""
        self.divided_by_hand = True

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.entry.how_note.setVisible(self.width() >= 700 * text_scale())
        self.title_note.setVisible(self.width() >= 640 * text_scale())
        # Once the line between has its new height.
        QTimer.singleShot(0, self._divide)
        narrow = self.width() < 740 * text_scale()
        self.tab_row.setDirection(QBoxLayout.Direction.TopToBottom if narrow else QBoxLayout.Direction.LeftToRight)
        self.tab_row.setSpacing(2 if narrow else 16)
