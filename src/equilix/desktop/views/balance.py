"""The Balance view: elevation, ledger, verdict and ways to balance."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QPushButton, QVBoxLayout, QWidget

from equilix.core.analyse import Analysis
from equilix.core.solver.trim import RemedyKind, weight_mounts
from equilix.desktop.gestures.slide_parts import SlideParts
from equilix.desktop.widgets.ledger import Ledger
from equilix.desktop.widgets.panel import SidePanel, WayCard
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.document.edits.builds import ApplyRemedy
from equilix.present.balance import (
    BalanceModel,
    Verdict,
    Way,
    balance_model,
    mount_name,
    ways_to_balance,
)
from equilix.present.elevation import Elevation, SlideScale, draw_elevation, draw_nothing_yet


class BalanceView(QWidget):
    """Shows how the chosen build balances on the shoulder and lets it be trimmed."""

    build_wanted = Signal()
    open_wanted = Signal()

    def __init__(self, workspace: Workspace, panel: SidePanel) -> None:
        super().__init__()
        self.workspace = workspace
        self.panel = panel
        self.ways: tuple[Way, ...] = ()
        self.cards: list[WayCard] = []
        self.mount_box: QComboBox | None = None
        self.drawing: Elevation | None = None
        self.model: BalanceModel | None = None
        self.elevation = SceneView("Elevation, right side")
        self.ledger = Ledger()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        layout.addWidget(self.elevation, 67)
        layout.addWidget(self.ledger, 33)
        self.slides = SlideParts(workspace, self.elevation, self._scale_and_slides)
        self.slides.settled.connect(self.refresh)
        self.elevation.resized.connect(self.draw)
        self.elevation.key_pressed.connect(self._key)
        self.ledger.part_chosen.connect(workspace.select)

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
        self.ledger.show()
        self.draw()
        self._show_ledger()
        if self.dragging and self.cards:
            self.panel.refresh(self.model.verdict, self.model.figures)
        else:
            self._fill_panel(analysis)

    def _show_empty(self) -> None:
        self.model = None
        self.ways = ()
        self.ledger.hide()
        self._draw_empty()
        self.panel.begin()
        self.panel.add_verdict(Verdict("Nothing here yet.", "Add the first part, or open a kit book."))
        holder = QVBoxLayout()
        holder.setContentsMargins(24, 6, 24, 6)
        holder.setSpacing(8)
        for words, signal in (("Start a build", self.build_wanted), ("Open a kit book…", self.open_wanted)):
            button = QPushButton(words)
            button.clicked.connect(signal)
            holder.addWidget(button)
        self.panel.rows.addLayout(holder)
        self.panel.end()

    def _draw_empty(self) -> None:
        width, height = self.elevation.scene_width, self.elevation.scene_height
        scene = draw_nothing_yet(self.workspace.operator, width, height, "The rig will rest here.")
        scene.text(0, 26, "Elevation", 16, 600)
        self.elevation.show_scene(scene)

    def draw(self) -> None:
        """Draw the elevation for the widget's present size."""
        analysis = self.workspace.analysis()
        if analysis is None and self.elevation.scene_width >= 50 and self.isVisible():
            self._draw_empty()
        if analysis is None or self.elevation.scene_width < 50:
            return
        way = self.workspace.chosen_way
        self.drawing = draw_elevation(
            analysis,
            self.workspace.operator,
            self.workspace.system,
            self.elevation.scene_width,
            self.elevation.scene_height,
            self.workspace.selected,
            way.preview if way is not None else None,
            self.drawing if self.dragging else None,
        )
        scene = self.drawing.scene
        scene.text(0, 26, "Elevation", 16, 600)
        scene.text(78, 26, "right side, level; drag parts or marks", 13, 400, "ink3")
        if self.model is not None:
            self.elevation.tips = {("part", row.placed_id): row.spoken for row in self.model.rows}
            self.elevation.setAccessibleDescription(". ".join(row.spoken for row in self.model.rows))
        self.elevation.show_scene(scene)

    def _show_ledger(self) -> None:
        if self.model is None:
            return
        way = self.workspace.chosen_way
        after = None
        if way is not None and way.preview is not None and way.preview.shoulder is not None:
            after = way.preview.shoulder.pitch_moment
        self.ledger.show_model(self.model, self.workspace.selected, self.workspace.system, after, self.dragging)

    def _fill_panel(self, analysis: Analysis) -> None:
        if self.model is None:
            return
        panel = self.panel
        panel.begin()
        panel.add_verdict(self.model.verdict)
        panel.add_figures(self.model.figures)
        self.cards = []
        self.ways = ways_to_balance(
            analysis,
            self.workspace.book.parts,
            self.workspace.operator,
            self.workspace.system,
            self.workspace.weight_mount,
        )
        if self.ways:
            level = self.model.verdict.head == "Level"
            panel.add_heading("Ways to balance", "finer than the doubt" if level else "least change first")
            chosen = self.workspace.chosen_way
            for number, way in enumerate(self.ways, 1):
                is_chosen = chosen is not None and chosen.kind is way.kind and way.remedy is not None
                extra = self._mount_chooser(analysis, way) if way.kind is RemedyKind.DEAD_WEIGHT else None
                card = WayCard(number, way, is_chosen, extra)
                card.chosen.connect(self.choose_way)
                card.apply_wanted.connect(self.apply_way)
                self.cards.append(card)
                panel.add_widget(card)
                panel.add_rule()
        panel.add_heading("Mind")
        for caution in self.model.cautions:
            panel.add_text(caution)
        panel.end()

    def _mount_chooser(self, analysis: Analysis, way: Way) -> QComboBox | None:
        """Return the list of mounts on which dead weight can go."""
        kit, build = self.workspace.book.parts, analysis.build
        mounts = weight_mounts(build, kit)
        if not mounts:
            return None
        box = QComboBox()
        box.setAccessibleName("Mount for the dead weight")
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        chosen, added = self.workspace.weight_mount, way.remedy.added if way.remedy is not None else None
        current = (chosen.placed_id, chosen.mount.id) if chosen is not None else None
        if current is None and added is not None and added.parent is not None:
            current = (added.parent, added.mount)
        for free in mounts:
            box.addItem(mount_name(free, build, kit), free)
            if current == (free.placed_id, free.mount.id):
                box.setCurrentIndex(box.count() - 1)
        box.activated.connect(lambda index: self.workspace.choose_weight_mount(mounts[index]))
        self.mount_box = box
        return box

    # Ways

    def choose_way(self, index: int) -> None:
        """Preview way number `index`; a second time drops the preview."""
        way = self.ways[index]
        chosen = self.workspace.chosen_way
        if way.remedy is None:
            return
        drop = chosen is not None and chosen.kind is way.kind
        # Rebuilding the panel deletes the card that is still handling its click.
        QTimer.singleShot(0, lambda: self.workspace.choose_way(None if drop else way))

    def next_way(self) -> None:
        """Preview the next way that can be had."""
        possible = [i for i, way in enumerate(self.ways) if way.remedy is not None]
        if not possible:
            return
        chosen = self.workspace.chosen_way
        now = next((i for i in possible if chosen is not None and self.ways[i].kind is chosen.kind), None)
        following = possible[0] if now is None else possible[(possible.index(now) + 1) % len(possible)]
        self.workspace.choose_way(self.ways[following])

    def apply_way(self) -> None:
        """Make the previewed change."""
        way, build = self.workspace.chosen_way, self.workspace.build
        if way is None or way.remedy is None or build is None:
            return
        remedy = way.remedy
        QTimer.singleShot(0, lambda: self.workspace.apply(ApplyRemedy(build.id, remedy)))

    def _key(self, event: QKeyEvent) -> None:
        key, control = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if key == Qt.Key.Key_P and not control and self.workspace.preferences.single_keys:
            self.next_way()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.apply_way()
        elif key == Qt.Key.Key_Escape:
            self.workspace.choose_way(None)
        else:
            return
        event.accept()
