"""What the Build view advises: ways to clear what clashes, what goes on next, and the order on the rods."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton

from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.fit import ORDER_OF_WORK
from equilix.core.solver.growth import RodOrder, Suggestion, reordered, rod_orders, suggestions
from equilix.core.units import Kind
from equilix.desktop.jobs.job import Latest, Progress
from equilix.desktop.widgets.advice_card import AdviceCard
from equilix.desktop.widgets.panel import SidePanel, WayCard, label
from equilix.desktop.widgets.plain import set_tip
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ApplyPlan, placing
from equilix.present.balance.advice import AdviceRow
from equilix.present.build.build_view import BuildModel, spot_where
from equilix.present.build.clear_view import ClearWay, clear_ways
from equilix.present.supports.text import index_of
from equilix.present.units import figure
from equilix.present.words import mid_sentence, short_name

#: ms without a change before ways are sought: while keys come one after the other nothing else should run.
_WAIT = 250


class BuildAdvice(QObject):
    """`changed` follows new ways and another chosen one."""

    changed = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.ways: tuple[ClearWay, ...] = ()
        self.chosen: ClearWay | None = None
        self.next: tuple[Suggestion, ...] = ()
        self.orders: tuple[RodOrder, ...] = ()
        self.cards: list[WayCard] = []
        self.next_cards: list[AdviceCard] = []
        self.order_buttons: list[QPushButton] = []
        self._analysis: Analysis | None = None
        self._pair: tuple[str, str] | None = None
        self._sought = False  # all ways to clear it were sought
        self._model: BuildModel | None = None
        self._work = Latest(self, _WAIT)
        self._work.done.connect(self._done)

    @property
    def busy(self) -> bool:
        """Whether ways are being sought."""
        return self._work.busy

    def seek(self, analysis: Analysis, model: BuildModel) -> None:
        """Take the build as it is now; ways to clear its clash are sought in another thread."""
        self._model = model
        pair = self._pair_of(analysis)
        if analysis is self._analysis and pair == self._pair:
            return
        self.stop()
        self._analysis, self._pair = analysis, pair
        self.ways, self.chosen, self._sought = (), None, False
        kit, operator = self.workspace.book.parts, self.workspace.operator
        self.orders = rod_orders(analysis)
        self.next = ()
        if not model.problems and analysis.build.parts:
            self.next = suggestions(analysis, kit, operator, model.seats)
        if pair is None:
            from equilix.core.solver.clearing import into_travel

            stop = into_travel(analysis)
            if stop is not None:
                self.ways = clear_ways((stop,), analysis, kit, operator, self.workspace.system)
            return

        def work(progress: Progress) -> object:
            from equilix.core.solver.clearing import clearings

            return clearings(analysis, kit, pair, lambda: progress(0.5))

        self._work.start(work)

    def _pair_of(self, analysis: Analysis) -> tuple[str, str] | None:
        """Return the clash of the selected part, else the deepest."""
        pairs = [(f.placed_ids[0], f.placed_ids[1]) for f in analysis.findings if f.kind is FindingKind.CLASH]
        chosen = [pair for pair in pairs if self.workspace.selected in pair]
        return next(iter(chosen or pairs), None)

    def give_up(self) -> None:
        """Stop seeking because the user said so."""
        self._work.stop()
        self.changed.emit()

    def stop(self) -> None:
        """Stop seeking."""
        if self._work.stop():
            self._analysis = None

    def _done(self, found: object) -> None:
        if self._analysis is None or not isinstance(found, tuple):
            return
        w = self.workspace
        self.ways = clear_ways(found, self._analysis, w.book.parts, w.operator, w.system)
        self._sought = True
        self.changed.emit()

    # Showing

    def fill(self, panel: SidePanel) -> None:
        """Add what is advised to the panel."""
        self.cards, self.next_cards, self.order_buttons = [], [], []
        if self._pair is not None or self.ways:
            self._fill_ways(panel)
        elif self.next and self._model is not None:
            self._fill_next(panel, self._model)
        self._fill_orders(panel)

    def _fill_ways(self, panel: SidePanel) -> None:
        if self._analysis is None:
            return
        panel.add_heading("Ways to clear the clash", "" if self.busy else "fewest and smallest changes first")
        if self.busy:
            panel.add_stop("searching", self.give_up)
        if self._pair is not None:
            names = [short_name(self._analysis.assembly.parts[index_of(self._analysis, i)].name) for i in self._pair]
            panel.add_text(f"Hit: {names[0]} and {names[1]}. Select another part for its own clash.")
        for number, way in enumerate(self.ways, 1):
            card = WayCard(number, way, way is self.chosen)
            card.chosen.connect(self._choose_number)
            card.apply_wanted.connect(self.apply_way)
            self.cards.append(card)
            panel.add_widget(card)
            panel.add_rule()
        if not self.ways and not self.busy:
            words = "No single slide, turn, mount or swap clears it. Take one part off, or change two."
            panel.add_text(words if self._sought else "Stopped. Any change starts a new search.")

    def _fill_next(self, panel: SidePanel, model: BuildModel) -> None:
        kit, system = self.workspace.book.parts, self.workspace.system
        analysis = self._analysis
        if analysis is None:
            return
        panel.add_heading(f"Next: {mid_sentence(ORDER_OF_WORK[model.current_step][0])}")
        for number, one in enumerate(self.next, 1):
            part, spot = one.seat.part, one.seat.spot
            assert spot is not None
            place = spot_where(spot, analysis.build, kit)
            change = ""
            if one.before is not None and one.after is not None:
                before = figure(one.before, Kind.LENGTH, system, sign=True, unit=False)
                change = f"CG {before} → {figure(one.after, Kind.LENGTH, system, sign=True)}"
            mass = figure(part.mass or 0.0, Kind.MASS, system)
            row = AdviceRow(part.name, mass, 0.0, change, place, part.id, None)
            card = AdviceCard(number, row, "Put it there")
            card.chosen.connect(self._put_on)
            self.next_cards.append(card)
            panel.add_widget(card)
            panel.add_rule()

    def _fill_orders(self, panel: SidePanel) -> None:
        analysis = self._analysis
        wrong = [order for order in self.orders if not order.as_wanted]
        if analysis is None or not wrong:
            return
        panel.add_heading("Order on the rods", "from the camera forward or back")
        for order in wrong:
            names = [short_name(analysis.assembly.parts[index_of(analysis, i)].name) for i in order.better]
            holder = short_name(analysis.assembly.parts[index_of(analysis, order.holder)].name)
            row = QHBoxLayout()
            row.setContentsMargins(24, 2, 24, 6)
            row.setSpacing(10)
            text = f"{holder}: {', '.join(names)}"
            row.addWidget(label(text[:1].upper() + text[1:], 13, 400, "ink2", wrap=True), 1)
            button = QPushButton("Reorder")
            set_tip(button, "Common practice: parts set to the lens sit next to the camera, the matte box last")
            button.clicked.connect(partial(self._reorder_later, order))
            row.addWidget(button)
            self.order_buttons.append(button)
            panel.rows.addLayout(row)

    # Acting

    def choose(self, way: ClearWay | None) -> None:
        """Preview a way, or none."""
        self.chosen = way
        self.changed.emit()

    def _choose_number(self, number: int) -> None:
        way = self.ways[number]
        # Rebuilding the panel deletes the card that is still handling its click.
        QTimer.singleShot(0, lambda: self.choose(None if way is self.chosen else way))

    def next_way(self) -> None:
        """Preview the next way."""
        if not self.ways:
            return
        now = self.ways.index(self.chosen) if self.chosen in self.ways else -1
        self.choose(self.ways[(now + 1) % len(self.ways)])

    def apply_way(self) -> None:
        """Make the previewed change."""
        way = self.chosen
        if way is not None:
            edit = ApplyPlan(way.build, (), "Clear clash")
            QTimer.singleShot(0, lambda: self.workspace.apply(edit))

    def _put_on(self, number: int) -> None:
        one, build = self.next[number], self.workspace.build
        if build is not None:
            edit = placing(build.id, one.seat, one.setting)
            QTimer.singleShot(0, lambda: self.workspace.apply(edit))

    def _reorder_later(self, order: RodOrder) -> None:
        QTimer.singleShot(0, lambda: self.reorder(order))

    def reorder(self, order: RodOrder) -> None:
        """Put the parts on a pair of rods in the usual order; say so if they don't fit."""
        if self._analysis is None:
            return
        changed = reordered(self._analysis, self.workspace.book.parts, order)
        if changed is None:
            self.workspace.refused.emit("The rods are too short for that order. Use longer rods or fewer parts.")
            return
        self.workspace.apply(ApplyPlan(changed, (), "Reorder rods"))
