"""The Balance view: elevation, ledger, verdict, and the ways to balance with what they cost."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.errors import EditError
from equilix.core.keys import KEYS
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.desktop.gestures.slide_parts import SlideParts
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.jobs.ways_finder import WaysFinder
from equilix.desktop.looks.theme import colors
from equilix.desktop.widgets.ledger import Ledger
from equilix.desktop.widgets.panel import SidePanel, WayCard, label
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.widgets.tabs import WordRow
from equilix.desktop.workspace import Workspace
from equilix.present.balance.elevation import draw_elevation, draw_nothing_yet
from equilix.present.balance.lens_view import tolerance_words
from equilix.present.balance.panel import BalanceModel, balance_model
from equilix.present.drawing.scales import Elevation, SlideScale
from equilix.present.supports import text_for, text_of
from equilix.present.supports.text import Page, Verdict
from equilix.present.units import parse, readable

if TYPE_CHECKING:
    from equilix.desktop.widgets.counterweight_panel import CounterweightPanel
    from equilix.desktop.widgets.lens_panel import LensPanel
    from equilix.desktop.widgets.trade_panel import TradePanel
    from equilix.present.balance.ways import Way

LEDGER, TRADE, LENSES, WEIGHT, OWN, BENCH = "ledger", "trade", "lenses", "weight", "own", "bench"


_Page = TypeVar("_Page", bound=QWidget)
#: Parts from which tags keep their places while only the selection changes.
_MANY = 30


class BalanceView(QWidget):
    """Shows how the chosen build balances on its support and lets it be trimmed."""

    build_wanted = Signal()
    open_wanted = Signal()

    def __init__(self, workspace: Workspace, panel: SidePanel, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.panel = panel
        self.finder = WaysFinder(workspace)
        self.cards: list[WayCard] = []
        # What the panel says of the ways' order, and of how far they are sought with the button that stops it.
        self._order: QLabel | None = None
        self._sought: tuple[QLabel, QPushButton] | None = None
        self.drawing: Elevation | None = None
        self._drawn_of: Analysis | None = None
        self._drawn_way: Way | None = None
        self.model: BalanceModel | None = None
        self.elevation = SceneView("Side view", self)
        self.tab_row = QWidget(self)
        self.stack = QStackedWidget(self)
        self.ledger = Ledger(self.stack)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        layout.addWidget(self.elevation, 64)
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
        row = QHBoxLayout(self.tab_row)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(self.tabs)
        row.addStretch(1)
        layout.addWidget(self.tab_row)
        self.own = SceneView("Drawings of this support", self.stack)
        self.own.resized.connect(self._draw_own)
        self.own_lenses = SceneView("Marks for every lens", self.stack)
        self.own_lenses.resized.connect(self._draw_lenses)
        # A support's bench is made when it is first shown.
        self.bench_holder = QWidget(self.stack)
        QVBoxLayout(self.bench_holder).setContentsMargins(0, 0, 0, 0)
        self.benches: dict[str, QWidget] = {}
        for widget in (self.ledger, self.own, self.bench_holder, self.own_lenses):
            self.stack.addWidget(widget)
        self._asked: dict[QWidget, Callable[[], None]] = {}  # pages that were looked at, and what renews them
        layout.addWidget(self.stack, 36)
        self.slides = SlideParts(workspace, self.elevation, self._scale_and_slides)
        self.elevation.resized.connect(self._resized)
        self.elevation.key_pressed.connect(self._key)
        self.ledger.part_chosen.connect(workspace.select)
        self.tabs.chosen.connect(self.show_tab)
        self.finder.changed.connect(self._ways_came)

    # Pages are made when they are first looked at: the window opens on the ledger.

    @cached_property
    def trade(self) -> TradePanel:
        """Added mass against what is left."""
        from equilix.desktop.widgets.trade_panel import TradePanel

        made = TradePanel(self.workspace, self.finder)
        made.way_chosen.connect(self.choose_way)
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

    @property
    def ways(self) -> tuple[Way, ...]:
        """The ways that are known by now."""
        return self.finder.ways

    @property
    def dragging(self) -> bool:
        return self.slides.dragging

    def _scale_and_slides(self) -> tuple[float, tuple[SlideScale, ...]]:
        if self.drawing is None:
            return 700.0, ()
        return self.drawing.projection.scale, self.drawing.scales

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered."""
        return self.elevation

    def show_tab(self, key: str) -> None:
        """Show ledger, trade-off, lenses or the counterweight below the elevation."""
        self.tabs.choose(key)
        self._turn_to(key)
        self._refresh_tab()

    def refresh(self) -> None:
        """Show the book as it is now. While a part is dragged only figures and drawings follow."""
        analysis = self.workspace.analysis()
        if analysis is None:
            self._show_empty()
            return
        operator, system = self.workspace.operator, self.workspace.system
        self.model = balance_model(analysis, operator, system)
        follows = self.dragging and self.panel.has_figures
        if not follows:
            self._show_tabs(analysis)
        self.draw()
        self._show_ledger()
        if follows:
            page = text_of(analysis).page
            if page is not None and page.follows:
                self._draw_own()
            # Not even ways that are on their way still count: they would only slow the hand.
            self.finder.stop()
            self._say_old()
            self.panel.refresh(self.model.verdict, self.model.figures)
            return
        self.finder.seek(analysis)
        self._fill_panel()
        self._refresh_tab()

    def _show_tabs(self, analysis: Analysis) -> None:
        """Show the words of the pages that there are for a build's support."""
        self.tab_row.show()
        self.stack.show()
        text = text_of(analysis)
        self.tabs.show_word(OWN, text.page.word if text.page is not None else "")
        self.tabs.show_word(TRADE, "Add mass or slide" if text.tolerant else "")
        self.tabs.show_word(BENCH, text.bench.word if text.bench is not None else "")
        self._turn_to(self.tabs.key)
        self.tabs.restyle()
        self.tabs.make_room(self.width() - 2 * 24)

    def _refresh_tab(self) -> None:
        current = self.stack.currentWidget()
        if current in self._asked:
            self._asked[current]()
        self._show_bench()
        self._draw_lenses()
        self._draw_own()

    def _turn_to(self, key: str) -> None:
        """Turn the lower view to a tab; a support may have lens marks of its own."""
        if key == LENSES and text_for(self._support()).lens_page:
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
        key = self._support()
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

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.tabs.make_room(self.width() - 2 * 24)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.finder.stop()

    def _show_empty(self) -> None:
        self.model = None
        self.finder.clear()
        self.tab_row.hide()
        self.stack.hide()
        self._draw_empty()
        self.panel.begin()
        self.panel.add_verdict(Verdict("No parts yet.", "Add a part or open a book."))
        holder = QVBoxLayout()
        holder.setContentsMargins(24, 6, 24, 6)
        holder.setSpacing(8)
        for words, signal in (("Start a build", self.build_wanted), ("Open a book…", self.open_wanted)):
            button = QPushButton(words)
            button.clicked.connect(signal)
            holder.addWidget(button)
        self.panel.rows.addLayout(holder)
        self.panel.end()

    def _support(self) -> str:
        build = self.workspace.build
        return build.support if build is not None else KEYS[0]

    def _draw_empty(self) -> None:
        width, height = self.elevation.scene_width, self.elevation.scene_height
        scene = draw_nothing_yet(self.workspace.operator, width, height, text_for(self._support()).here)
        scene.text(0, 26, "Side view", 16, 600)
        self.elevation.show_scene(scene)

    def _resized(self) -> None:
        # Before anything was shown it has no size to be drawn for.
        if self.model is not None or self.workspace.analysis() is None:
            self.draw()

    def draw(self) -> None:
        """Draw the elevation for the widget's present size."""
        analysis = self.workspace.analysis()
        if analysis is None and self.elevation.scene_width >= 50 and self.isVisible():
            self._draw_empty()
        if analysis is None or self.elevation.scene_width < 50:
            return
        way = self.workspace.chosen_way
        # While only the selection changes on a big build, tags stay where they are.
        many = len(analysis.build.parts) > _MANY and way is None and self._drawn_way is None
        self._drawn_way = way
        self.drawing = draw_elevation(
            analysis,
            self.workspace.operator,
            self.workspace.system,
            self.elevation.scene_width,
            self.elevation.scene_height,
            self.workspace.selected,
            way.preview if way is not None else None,
            self.drawing if self.dragging or (many and analysis is self._drawn_of) else None,
        )
        self._drawn_of = analysis
        scene = self.drawing.scene
        title, beside = text_of(analysis).picture
        scene.text(0, 26, title, 16, 600)
        if self.elevation.scene_width >= 560.0:
            scene.text(8.6 * len(title), 26, beside, 13, 400, "ink3")
        if self.model is not None and not self.dragging:
            self.elevation.tips = {("part", row.placed_id): row.spoken for row in self.model.rows}
            self.elevation.setAccessibleDescription(". ".join(row.spoken for row in self.model.rows))
        self.elevation.show_scene(scene, moves=self.dragging)

    def _draw_own(self) -> None:
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

    def _show_ledger(self) -> None:
        if self.model is None:
            return
        way = self.workspace.chosen_way
        after = None
        if way is not None and way.preview is not None and way.preview.stand is not None:
            after = way.preview.stand.tip_moment
        self.ledger.show_model(self.model, self.workspace.selected, self.workspace.system, after, self.dragging)

    # The panel at the right

    def _ways_came(self) -> None:
        if self.isVisible() and self.model is not None and not self.dragging:
            self._fill_panel()
            self._refresh_tab()

    def _fill_panel(self) -> None:
        if self.model is None:
            return
        panel = self.panel
        w, finder = self.workspace, self.finder
        shown = (
            self.model.verdict,
            self.model.figures,
            self.model.cautions,
            self.ways,
            finder.busy,
            finder.possible,
            finder.note,
            finder.sway,
            w.chosen_way,
            w.preferences,
            colors().theme,
        )
        if panel.filled == shown:
            return
        panel.begin()
        self._order, self._sought = None, None
        panel.add_verdict(self.model.verdict)
        panel.add_figures(self.model.figures)
        self.cards = []
        self._add_offer()
        if self.finder.possible:
            self._order = panel.add_heading("Ways to balance", "" if finder.busy else "worse ones last")
            if finder.busy:
                so_far = f"{len(self.ways)} ways so far, still searching" if self.ways else "seeking"
                self._sought = panel.add_stop(so_far, finder.give_up)
            if text_for(self._support()).tolerant:
                self._add_tolerance()
            chosen = self.workspace.chosen_way
            for number, way in enumerate(self.ways, 1):
                is_chosen = chosen is not None and chosen.kind is way.kind and way.strategy is not None
                card = WayCard(number, way, is_chosen)
                card.chosen.connect(self.choose_way)
                card.apply_wanted.connect(self.apply_way)
                self.cards.append(card)
                panel.add_widget(card)
                panel.add_rule()
            if self.finder.note:
                panel.add_text(self.finder.note)
        self._add_beside()
        panel.add_heading("Cautions")
        if self.finder.sway:
            panel.add_text(self.finder.sway)
        for caution in self.model.cautions:
            panel.add_text(caution)
        panel.end()
        panel.filled = shown

    def _say_old(self) -> None:
        """Say, while a part is dragged, that nothing is sought now and that the ways are those from before."""
        if self._sought is not None:
            words, button = self._sought
            words.setText("a new search starts when you let go")
            button.hide()
        elif self._order is not None:
            self._order.setText("for the rig before your change")
        # Once for each drag: with its end the panel is filled anew.
        self._order, self._sought = None, None

    def _add_beside(self) -> None:
        """Add what other builds of the same camera on the same support carry besides."""
        analysis = self.workspace.analysis()
        case = case_of(analysis) if analysis is not None else None
        if analysis is None or case is None or not text_of(analysis).compares or analysis.assembly.sensor is None:
            return
        book, camera = self.workspace.book, analysis.assembly.parts[analysis.assembly.sensor].id
        others = [
            build
            for build in book.builds
            if build.id != analysis.build.id
            and build.support == analysis.build.support
            and any(placed.part_id == camera for placed in build.parts)
        ]
        if not others:
            return
        self.panel.add_heading("Compared with it")
        for build in others[:3]:
            other = analyse(build, book.parts, self.workspace.operator)
            self.panel.add_text(text_of(analysis).beside(case, other, self.workspace.system))

    def _add_offer(self) -> None:
        """Add what cures it without a hand on the rig, as sliding a plate in its clamp."""
        analysis = self.workspace.analysis()
        case = case_of(analysis) if analysis is not None else None
        offer = text_of(case.analysis).offer(case, self.workspace.system) if case is not None else None
        if offer is None:
            return
        words, build = offer
        from equilix.document.edits.builds import ChangeBuild

        button = QPushButton(words)
        button.clicked.connect(lambda: self.workspace.apply(ChangeBuild(build, words)))
        row = QHBoxLayout()
        row.setContentsMargins(24, 4, 24, 4)
        row.addWidget(button)
        row.addStretch(1)
        self.panel.rows.addLayout(row)
        self.offer_button = button

    def _add_tolerance(self) -> None:
        """Add the field for the moment that counts as level."""
        row = QHBoxLayout()
        row.setContentsMargins(24, 0, 24, 4)
        row.setSpacing(8)
        row.addWidget(label("counts as level below", 13, 400, "ink2"))
        field = QLineEdit(tolerance_words(self.workspace.preferences.tolerance, self.workspace.system))
        field.setAccessibleName("Moment that counts as level")
        set_tip(field, "Nobody feels a tipping moment below this. Common practice: 0.1 N·m")
        field.setFixedWidth(100)
        field.editingFinished.connect(lambda: self._set_tolerance(field))
        row.addWidget(field)
        row.addStretch(1)
        self.tolerance_field = field
        self.panel.rows.addLayout(row)

    def _set_tolerance(self, field: QLineEdit) -> None:
        w = self.workspace
        if field.text() == tolerance_words(w.preferences.tolerance, w.system):
            return
        try:
            value = parse(field.text(), Kind.MOMENT, w.system)
            if not 0.0 <= value <= 20.0:
                raise EditError("This moment must be from 0 to 20 N·m.")
        except EditError as error:
            refuse_at(field, readable(str(error), w.system))
            return
        # The field goes with the panel that is rebuilt.
        QTimer.singleShot(0, lambda: w.set_preferences(replace(w.preferences, tolerance=value)))

    # Ways

    def choose_way(self, index: int) -> None:
        """Preview way number `index`; a second time drops the preview."""
        if not 0 <= index < len(self.ways):
            return
        way = self.ways[index]
        chosen = self.workspace.chosen_way
        if way.strategy is None:
            return
        drop = chosen is not None and chosen.kind is way.kind
        # Rebuilding the panel deletes the card that is still handling its click.
        QTimer.singleShot(0, lambda: self.workspace.choose_way(None if drop else way))

    def next_way(self) -> None:
        """Preview the next way that can be had."""
        possible = [i for i, way in enumerate(self.ways) if way.strategy is not None]
        if not possible:
            if self.finder.busy:
                self.workspace.said.emit("Still searching.")
            return
        chosen = self.workspace.chosen_way
        now = next((i for i in possible if chosen is not None and self.ways[i].kind is chosen.kind), None)
        following = possible[0] if now is None else possible[(possible.index(now) + 1) % len(possible)]
        self.workspace.choose_way(self.ways[following])

    def apply_way(self) -> None:
        """Make the previewed change."""
        way, build = self.workspace.chosen_way, self.workspace.build
        if way is None or way.strategy is None or build is None:
            return
        from equilix.document.edits.builds import ApplyPlan

        plan = way.strategy.plan
        edit = ApplyPlan(plan.build, tuple(plan.kit.values()))
        QTimer.singleShot(0, lambda: self.workspace.apply(edit))

    def _bench_keys(self) -> Mapping[str, str]:
        bench = text_for(self._support()).bench
        return bench.keys if bench is not None else {}

    def _to_bench(self, name: str) -> None:
        """Show the support's bench, and give the keyboard to what has that `name` there."""
        self.show_tab(BENCH)
        made = self.benches.get(self._support())
        widget = getattr(made, name, None)
        if isinstance(widget, QWidget):
            widget.setFocus()

    def _key(self, event: QKeyEvent) -> None:
        if event.isAccepted():
            return  # a drag was put back
        key, control = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        single = not control and self.workspace.preferences.single_keys
        if key == Qt.Key.Key_P and single:
            self.next_way()
        elif single and event.text().upper() in self._bench_keys():
            self._to_bench(self._bench_keys()[event.text().upper()])
        elif event.matches(QKeySequence.StandardKey.Copy):
            self.ledger.copy()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.apply_way()
        elif key == Qt.Key.Key_Escape:
            if self.finder.busy:
                self.finder.give_up()
            else:
                self.workspace.choose_way(None)
        else:
            return
        event.accept()
