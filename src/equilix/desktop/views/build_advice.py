"""What the Build view advises: ways to clear what clashes, what goes on next, and the order on the rods."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from equilix.core.analysis import Analysis, FindingKind
from equilix.core.solver.growth import RodOrder, Suggestion, reordered, rod_orders, suggestions
from equilix.desktop.jobs.job import Latest, Progress
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ApplyPlan
from equilix.present.assembly.build_view import BuildModel
from equilix.present.assembly.clear_view import ClearWay, clear_ways
from equilix.present.assembly.side_panel import Advice

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
        self._analysis: Analysis | None = None
        self._pair: tuple[str, str] | None = None
        self._sought = False  # all ways to clear it were sought
        self._work = Latest(self, _WAIT)
        self._work.done.connect(self._done)

    @property
    def busy(self) -> bool:
        """Whether ways are being sought."""
        return self._work.busy

    def seek(self, analysis: Analysis, model: BuildModel) -> None:
        """Take the build as it is now; ways to clear its clash are sought in another thread."""
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
            alone = [one.placed[0] for one in model.loose.pieces if len(one.placed) == 1 and not one.asks]
            self.next = suggestions(analysis, kit, operator, alone)
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

    def model(self) -> Advice:
        """What is advised now."""
        chosen = self.ways.index(self.chosen) if self.chosen in self.ways else None
        return Advice(self._pair, self.ways, chosen, self.busy, self._sought, self.next, self.orders)

    # Acting

    def choose(self, way: ClearWay | None) -> None:
        """Preview a way, or none."""
        self.chosen = way
        self.changed.emit()

    def choose_number(self, number: int) -> None:
        """Preview a way by its number, or none where it is previewed already."""
        way = self.ways[number]
        self.choose(None if way is self.chosen else way)

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
            self.workspace.apply(ApplyPlan(way.build, (), "Clear clash"))

    def reorder(self, number: int) -> None:
        """Put the parts on a pair of rods in the usual order; say so if they don't fit."""
        order = self.orders[number]
        if self._analysis is None:
            return
        changed = reordered(self._analysis, self.workspace.book.parts, order)
        if changed is None:
            self.workspace.refused.emit("The rods are too short for that order. Use longer rods or fewer parts.")
            return
        self.workspace.apply(ApplyPlan(changed, (), "Reorder rods"))
