"""The Balance view: elevation, ledger, verdict, and the ways to balance with what they cost."""

from __future__ import annotations

from typing import TYPE_CHECKING, cast

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.core.assembly.wish import Wish
from equilix.core.errors import EditError
from equilix.core.units import Kind
from equilix.desktop.gestures.slide_parts import SlideParts
from equilix.desktop.jobs.ways_finder import WaysFinder
from equilix.desktop.widgets.balance_pages import BalancePages
from equilix.desktop.widgets.context import Entry
from equilix.desktop.widgets.panel import SidePanel
from equilix.desktop.widgets.refusal import refuse_at
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.book import Book
from equilix.present.balance.elevation import draw_elevation, draw_nothing_yet
from equilix.present.balance.lens_view import tolerance_words
from equilix.present.balance.panel import BalanceModel, balance_model
from equilix.present.balance.side_panel import (
    CAUTIONS,
    TOLERANCE,
    WAYS,
    Sought,
    balance_panel,
    beside_words,
    no_build_panel,
    offer_of,
)
from equilix.present.drawing.scales import Elevation, SlideScale
from equilix.present.panel import Key
from equilix.present.supports import text_for, text_of
from equilix.present.units import System, parse, readable

if TYPE_CHECKING:
    from equilix.present.balance.ways import Way


#: Parts from which tags keep their places while only the selection changes.
_MANY = 30


class BalanceView(QWidget):
    """Shows how the chosen build balances on its support and lets it be trimmed."""

    build_wanted = Signal()
    open_wanted = Signal()
    #: The placed part whose figures are wanted.
    weigh_wanted = Signal(str)

    def __init__(self, workspace: Workspace, panel: SidePanel, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.panel = panel
        self.finder = WaysFinder(workspace)
        self._compared: tuple[tuple[Analysis, Book, Operator, System], tuple[str, ...]] | None = None
        self.drawing: Elevation | None = None
        self._drawn_of: Analysis | None = None
        self._drawn_way: Way | None = None
        self._planned: Analysis | None = None
        self.model: BalanceModel | None = None
        self.elevation = SceneView("Side view", self)
        self.pages = BalancePages(workspace, self.finder, self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        layout.addWidget(self.elevation, 64)
        layout.addWidget(self.pages, 36)
        self.slides = SlideParts(workspace, self.elevation, self._scale_and_slides)
        self.elevation.offered = self._offered
        self.elevation.resized.connect(self._resized)
        self.elevation.key_pressed.connect(self._key)
        self.pages.way_chosen.connect(self.choose_way)
        self.finder.changed.connect(self._ways_came)
        self.finder.holds = self._looked_at

    @property
    def ways(self) -> tuple[Way, ...]:
        """The ways that are known by now, none of another rig's."""
        return self.finder.ways if self.finder.analysis is self.workspace.analysis() else ()

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

    def refresh(self) -> None:
        """Show the book as it is now. While a part is dragged only figures and drawings follow."""
        analysis = self.workspace.analysis()
        if analysis is None:
            self._show_empty()
            return
        operator, system = self.workspace.operator, self.workspace.system
        self.model = balance_model(analysis, operator, system)
        self.pages.dragging = self.dragging
        follows = self.dragging and self.panel.has_figures
        if not follows:
            # Ways of another rig are no plan for this one.
            self.finder.seek(analysis)
            self.pages.show_for(analysis)
        self.draw()
        self._show_ledger()
        if follows:
            page = text_of(analysis).page
            if page is not None and page.follows:
                self.pages.draw_own()
            # Not even ways that are on their way still count: they would only slow the hand.
            self.finder.stop()
            self._say_old()
            self.panel.refresh(self.model.verdict, self.model.figures)
            return
        self._fill_panel()
        self.pages.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.finder.stop()

    def _show_empty(self) -> None:
        self.model = None
        self.finder.clear()
        self.pages.hide()
        self._draw_empty()
        self.panel.show_model(no_build_panel(), self._act)

    def _draw_empty(self) -> None:
        width, height = self.elevation.scene_width, self.elevation.scene_height
        scene = draw_nothing_yet(self.workspace.operator, width, height, text_for(self.pages.support()).here)
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
        way, top = self.workspace.chosen_way, self.on_top
        planned = top.preview if top is not None else None
        # While only the selection changes on a big build, tags stay where they are.
        many = len(analysis.build.parts) > _MANY and way is None and self._drawn_way is None
        self._drawn_way, self._planned = way, planned
        self.drawing = draw_elevation(
            analysis,
            self.workspace.operator,
            self.workspace.system,
            self.elevation.scene_width,
            self.elevation.scene_height,
            self.workspace.selected,
            way.preview if way is not None else None,
            self.drawing if self.dragging or (many and analysis is self._drawn_of) else None,
            planned,
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

    def _show_ledger(self) -> None:
        if self.model is None:
            return
        way = self.workspace.chosen_way
        after = None
        if way is not None and way.preview.equilibrium is not None:
            after = way.preview.equilibrium.tip_moment
        self.pages.ledger.show_model(self.model, self.workspace.selected, self.workspace.system, after, self.dragging)

    # The panel at the right

    def _looked_at(self) -> bool:
        """Whether a way is previewed, or the mouse rests on one."""
        over = self.isVisible() and any(card.underMouse() for card in self.panel.cards)
        return self.workspace.chosen_way is not None or over

    def _ways_came(self) -> None:
        if self.isVisible() and self.model is not None and not self.dragging:
            self._fill_panel()
            self.pages.refresh()
            top = self.on_top
            if (top.preview if top is not None else None) is not self._planned:
                self.draw()

    def _fill_panel(self) -> None:
        analysis = self.workspace.analysis()
        if self.model is None or analysis is None:
            return
        w = self.workspace
        self.panel.show_model(
            balance_panel(self.model, analysis, self.sought, self._beside(analysis), w.preferences.tolerance, w.system),
            self._act,
        )

    @property
    def on_top(self) -> Way | None:
        """The way at the top of the panel, which Enter applies; None where nothing is to be done."""
        if self.model is None:
            return None
        place = self.sought.on_top(self.model.verdict, self.workspace.system)
        return self.ways[place] if place is not None else None

    @property
    def sought(self) -> Sought:
        """The ways as they are known by now, and which one stands at the top."""
        finder, chosen = self.finder, self.workspace.chosen_way
        place = next((k for k, way in enumerate(self.ways) if chosen is not None and way.kind is chosen.kind), None)
        return Sought(self.ways, finder.busy, finder.possible, finder.note, finder.influence, place)

    def show_matter(self) -> None:
        """Show what the strip warns of: the parts in the picture, else the words of it."""
        about = self.model.verdict.about if self.model is not None else ()
        if about:
            self.workspace.select(about[-1])
        self.panel.reveal(CAUTIONS)

    def _beside(self, analysis: Analysis) -> tuple[str, ...]:
        """Return what other builds of the same camera carry, worked out once for each state of the book."""
        w = self.workspace
        key = (analysis, w.book, w.operator, w.system)
        if self._compared is None or any(a is not b for a, b in zip(key, self._compared[0], strict=True)):
            self._compared = (key, beside_words(*key))
        return self._compared[1]

    def _act(self, key: Key) -> None:
        """Do what was chosen in the panel."""
        match key:
            case ("way", number):
                self.choose_way(int(number))
            case ("apply",):
                self.apply_way()
            case ("show",):
                self.show_matter()
            case ("stop",):
                self.finder.give_up()
            case ("tolerance", text):
                self._set_tolerance(text)
            case ("wish", number):
                self.set_wish(list(Wish)[int(number)])
            case ("offer",):
                self._take_offer()
            case ("build",):
                self.build_wanted.emit()
            case ("open",):
                self.open_wanted.emit()

    def _take_offer(self) -> None:
        from equilix.document.edits.builds import ChangeBuild

        analysis = self.workspace.analysis()
        offer = offer_of(analysis, self.workspace.system) if analysis is not None else None
        if offer is not None:
            words, build = offer
            self.workspace.apply(ChangeBuild(build, words))

    def _say_old(self) -> None:
        """Say, while a part is dragged, that nothing is sought now and that the ways are those from before."""
        self.panel.say_beside(WAYS, "for the rig before your change", "a new search starts when you let go")

    def _set_tolerance(self, text: str) -> None:
        w = self.workspace
        if text == tolerance_words(w.preferences.tolerance, w.system):
            return
        try:
            value = parse(text, Kind.MOMENT, w.system)
            if not 0.0 <= value <= 20.0:
                raise EditError("This moment must be from 0 to 20 N·m.")
        except EditError as error:
            refuse_at(cast(QLineEdit, self.panel.doers[TOLERANCE,]), readable(str(error), w.system))
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
        drop = chosen is not None and chosen.kind is way.kind
        self.workspace.choose_way(None if drop else way)

    def set_wish(self, wish: Wish) -> None:
        """Order the ways of this build by another wish."""
        from equilix.document.edits.builds import ChangeBuild

        build = self.workspace.build
        if build is not None and wish is not build.wish:
            self.workspace.apply(ChangeBuild(replace(build, wish=wish), "wish"))

    def next_way(self) -> None:
        """Preview the next way."""
        if self.ways:
            now = self.sought.chosen
            self.workspace.choose_way(self.ways[0 if now is None else (now + 1) % len(self.ways)])
        elif self.finder.busy:
            self.workspace.said.emit("Still searching.")

    def apply_way(self) -> None:
        """Make the change that stands at the top of the panel: the previewed one, else the first that is needed."""
        top = self.on_top
        if top is None:
            return
        from equilix.document.edits.builds import ApplyPlan

        plan = top.strategy.plan
        edit = ApplyPlan(plan.build, tuple(plan.kit.values()))
        self.workspace.apply(edit)

    def _offered(self, key: tuple[str, ...]) -> list[Entry]:
        """Return what can be done with what lies at the mouse."""
        found = []
        if key and key[0] == "part":
            found.append(Entry("Show its figures in Weigh", "", lambda: self.weigh_wanted.emit(key[1])))
        if self.ways:
            found.append(Entry("Preview the next way", "P", self.next_way))
        if self.on_top is not None:
            found.append(Entry("Apply what stands at the top", "Enter", self.apply_way))
        if self.model is not None and self.model.verdict.matter:
            found.append(Entry("Show the warning", "X", self.show_matter))
        if self.model is not None:
            found.append(Entry("Copy the table of moments", "Ctrl+C", self.pages.ledger.copy))
        return found

    def _key(self, event: QKeyEvent) -> None:
        if event.isAccepted():
            return  # a drag was put back
        key, control = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        single = not control and self.workspace.preferences.single_keys
        if key == Qt.Key.Key_P and single:
            self.next_way()
        elif single and event.text().upper() in self.pages.bench_keys():
            self.pages.to_bench(self.pages.bench_keys()[event.text().upper()])
        elif key == Qt.Key.Key_X and single:
            self.show_matter()
        elif event.matches(QKeySequence.StandardKey.Copy):
            self.pages.ledger.copy()
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
