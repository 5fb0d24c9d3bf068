"""The pages below the elevation: moments, added mass, lenses, counterweight, and the support's own page and bench."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from equilix.core.analysis import Analysis
from equilix.core.keys import KEYS
from equilix.core.support import case_of
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.jobs.ways_finder import WaysFinder
from equilix.desktop.widgets.ledger import Ledger
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.widgets.tabs import WordRow
from equilix.desktop.workspace import Workspace
from equilix.present.supports import text_for, text_of
from equilix.present.supports.text import Page

if TYPE_CHECKING:
    from equilix.desktop.widgets.counterweight_panel import CounterweightPanel
    from equilix.desktop.widgets.lens_panel import LensPanel
    from equilix.desktop.widgets.trade_panel import TradePanel

LEDGER, TRADE, LENSES, WEIGHT, OWN, BENCH = "ledger", "trade", "lenses", "weight", "own", "bench"

_Page = TypeVar("_Page", bound=QWidget)


class BalancePages(QWidget):
    """Pages are made when they are first looked at: the window opens on the ledger."""

    way_chosen = Signal(int)

    def __init__(self, workspace: Workspace, finder: WaysFinder, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.finder = finder
        self.dragging = False  # a part of the rig, so that drawings move
        self.tab_row = QWidget(self)
        self.stack = QStackedWidget(self)
        self.ledger = Ledger(self.stack)
        self.tabs = WordRow(
            (
                (LEDGER, "Moments"),
                (TRADE, "Add mass or slide"),
                (LENSES, "Lenses"),
                (WEIGHT, "Counterweight"),
                (OWN, ""),
                (BENCH, ""),
            ),
            self.tab_row,
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        row = QHBoxLayout(self.tab_row)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(self.tabs)
        row.addStretch(1)
        column.addWidget(self.tab_row)
        self.own = SceneView("Drawings of this support", self.stack)
        self.own.resized.connect(self.draw_own)
        self.own_lenses = SceneView("Marks for every lens", self.stack)
        self.own_lenses.resized.connect(self._draw_lenses)
        # A support's bench is made when it is first shown.
        self.bench_holder = QWidget(self.stack)
        QVBoxLayout(self.bench_holder).setContentsMargins(0, 0, 0, 0)
        self.benches: dict[str, QWidget] = {}
        for widget in (self.ledger, self.own, self.bench_holder, self.own_lenses):
            self.stack.addWidget(widget)
        self._asked: dict[QWidget, Callable[[], None]] = {}  # pages that were looked at, and what renews them
        column.addWidget(self.stack, 1)
        self.ledger.part_chosen.connect(workspace.select)
        self.tabs.chosen.connect(self.show_tab)

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.tabs.make_room(self.width())

    @cached_property
    def trade(self) -> TradePanel:
        """Added mass against what is left."""
        from equilix.desktop.widgets.trade_panel import TradePanel

        made = TradePanel(self.workspace, self.finder)
        made.way_chosen.connect(self.way_chosen)
        return self._added(made, made.refresh)

    @cached_property
    def lenses(self) -> LensPanel:
        """The marks for every lens."""
        from equilix.desktop.widgets.lens_panel import LensPanel

        made = LensPanel(self.workspace)
        return self._added(made, made.refresh)

    @cached_property
    def weight(self) -> CounterweightPanel:
        """What dead weight would do."""
        from equilix.desktop.widgets.counterweight_panel import CounterweightPanel

        made = CounterweightPanel(self.workspace)
        return self._added(made, made.refresh)

    def _added(self, page: _Page, refresh: Callable[[], None]) -> _Page:
        self.stack.addWidget(page)
        self._asked[page] = refresh
        return page

    def show_tab(self, key: str) -> None:
        """Show ledger, trade-off, lenses or the counterweight below the elevation."""
        self.tabs.choose(key)
        self._turn_to(key)
        self.refresh()

    def show_for(self, analysis: Analysis) -> None:
        """Show the words of the pages that there are for a build's support."""
        self.show()
        text = text_of(analysis)
        self.tabs.show_word(OWN, text.page.word if text.page is not None else "")
        self.tabs.show_word(TRADE, "Add mass or slide" if text.tolerant else "")
        self.tabs.show_word(BENCH, text.bench.word if text.bench is not None else "")
        self._turn_to(self.tabs.key)
        self.tabs.restyle()
        self.tabs.make_room(self.width())

    def refresh(self) -> None:
        current = self.stack.currentWidget()
        if current in self._asked:
            self._asked[current]()
        self._show_bench()
        self._draw_lenses()
        self.draw_own()

    def _turn_to(self, key: str) -> None:
        """Turn the lower view to a tab; a support may have lens marks of its own."""
        if key == LENSES and text_for(self.support()).lens_page:
            self.stack.setCurrentWidget(self.own_lenses)
        else:
            pages = {TRADE: "trade", LENSES: "lenses", WEIGHT: "weight", OWN: "own", BENCH: "bench_holder"}
            self.stack.setCurrentWidget(getattr(self, pages.get(key, "ledger")))

    def _draw_lenses(self) -> None:
        analysis = self.workspace.analysis()
        if analysis is not None:
            self._draw_page(self.own_lenses, text_of(analysis).lens_page, analysis)

    def _show_bench(self) -> None:
        """Show the bench of the support, where it has one and it is looked at."""
        if self.stack.currentWidget() is not self.bench_holder:
            return
        key = self.support()
        if key not in self.benches:
            from equilix.desktop.widgets.own_bench import bench_for

            made = bench_for(key, self.workspace)
            if made is None:
                return
            self.benches[key] = made
            layout = self.bench_holder.layout()
            assert layout is not None
            layout.addWidget(made)
        for one, widget in self.benches.items():
            widget.setVisible(one == key)
        refresh = getattr(self.benches[key], "refresh", None)
        if callable(refresh):
            refresh()

    def support(self) -> str:
        build = self.workspace.build
        return build.support if build is not None else KEYS[0]

    def draw_own(self) -> None:
        """Draw the support's own page, where it has one and it is seen."""
        analysis = self.workspace.analysis()
        if analysis is not None:
            self._draw_page(self.own, text_of(analysis).page, analysis)

    def _draw_page(self, view: SceneView, page: Page | None, analysis: Analysis) -> None:
        case = case_of(analysis)
        if page is None or case is None or not view.isVisible() or view.scene_width < 50:
            return
        size = view.scene_width, view.scene_height
        view.show_scene(page.draw(case, self.workspace.book.parts, self.workspace.system, *size), moves=self.dragging)

    def bench_keys(self) -> Mapping[str, str]:
        bench = text_for(self.support()).bench
        return bench.keys if bench is not None else {}

    def to_bench(self, name: str) -> None:
        """Show the support's bench, and give the keyboard to what has that `name` there."""
        self.show_tab(BENCH)
        made = self.benches.get(self.support())
        widget = getattr(made, name, None)
        if isinstance(widget, QWidget):
            widget.setFocus()
