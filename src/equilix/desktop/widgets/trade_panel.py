"""Added mass against remaining moment, worked out when it is looked at."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout

from equilix.core.analysis import Analysis
from equilix.desktop.jobs.job import Progress
from equilix.desktop.jobs.ways_finder import WaysFinder
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.widgets.worker import Worker
from equilix.desktop.workspace import Workspace
from equilix.present.balance.trade_view import draw_trade, draw_waiting


class TradePanel(Worker):
    """`way_chosen` carries the number (from 0) of the way whose mark was clicked."""

    way_chosen = Signal(int)

    def __init__(self, workspace: Workspace, finder: WaysFinder) -> None:
        super().__init__()
        self.workspace, self.finder = workspace, finder
        self.picture = SceneView("Moment that remains, over added mass")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 6)
        layout.addWidget(self.picture)
        self.curves: tuple[tuple[object, ...], tuple[object, ...]] | None = None
        self._work.progressed.connect(self._progress)
        self._analysis: Analysis | None = None
        self._share = 0.0
        self.picture.resized.connect(self.draw)
        self.picture.pressed.connect(self._press)

    def refresh(self) -> None:
        """Work the curves out for the present build, unless they are known."""
        if not self.isVisible():
            return
        analysis = self.workspace.analysis()
        if analysis is not self._analysis:
            self.stop()
            self._analysis, self.curves = analysis, None
            if analysis is not None and analysis.equilibrium is not None:
                self._start(analysis)
        self.draw()

    def _start(self, analysis: Analysis) -> None:
        kit = self.workspace.book.parts

        def work(progress: Progress) -> object:
            from equilix.core.solver.trade import trade_off

            count = 0

            def go_on() -> bool:
                nonlocal count
                count += 1
                return progress(min(count / 60.0, 1.0))

            return trade_off(analysis, kit, False, go_on=go_on), trade_off(analysis, kit, True, go_on=go_on)

        self._work.start(work)

    def forget(self) -> None:
        self._analysis = None

    def _progress(self, share: float) -> None:
        self._share = share
        self.draw()

    def came(self, found: object) -> None:
        if isinstance(found, tuple):
            self.curves = found
            self.draw()

    def draw(self) -> None:
        """Draw what is known for the widget's present size."""
        width, height = self.picture.scene_width, self.picture.scene_height
        if width < 120 or height < 80:
            return
        if self._analysis is None or self._analysis.equilibrium is None:
            words = "Give the parts masses, and the build a support."
            self.picture.show_scene(draw_waiting(words, width, height))
            return
        if self.curves is None:
            words = f"searching, {100 * self._share:.0f} %"
            self.picture.show_scene(draw_waiting(words, width, height))
            return
        still, slid = self.curves
        chosen = self.workspace.chosen_way
        number = next((i for i, w in enumerate(self.finder.ways) if chosen is not None and w.kind is chosen.kind), None)
        tolerance = self.workspace.preferences.tolerance
        scene, tips = draw_trade(
            still,  # type: ignore[arg-type]
            slid,  # type: ignore[arg-type]
            self.finder.ways,
            number,
            tolerance,
            self.workspace.system,
            width,
            height,
        )
        self.picture.tips = tips
        self.picture.show_scene(scene)

    def _press(self, key: tuple[str, ...], _x: float, _y: float) -> None:
        if key and key[0] == "way":
            self.way_chosen.emit(int(key[1]))
