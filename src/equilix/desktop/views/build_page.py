"""The Build view as it is laid out and drawn: order of work, side and top views, and the tray below."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from equilix.core.assembly.fit import Spot, kind_of
from equilix.desktop.gestures.slide_parts import SlideParts
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.views.build_advice import BuildAdvice
from equilix.desktop.views.build_together import BuildTogether
from equilix.desktop.widgets.build_drawing import BuildDrawingView
from equilix.desktop.widgets.offer_tray import OfferTray
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.workspace import Workspace
from equilix.present.assembly.build_view import BuildModel
from equilix.present.assembly.drawing import SIDE_SHARE, BuildDrawing, draw_build, draw_moved
from equilix.present.assembly.spots import spot_key, spot_name
from equilix.present.assembly.steps_drawing import draw_steps
from equilix.present.drawing.scales import SlideScale
from equilix.present.drawing.scene import Anchor, Scene


class BuildPage(QWidget):
    """Its widgets, and what is drawn in them: the `model` of the build with the `chosen` place."""

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.model: BuildModel | None = None
        self.drawn: BuildDrawing | None = None
        self.chosen: Spot | None = None
        self._hold_tags = False
        self.steps = SceneView("Order of work")
        self.steps.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.steps.setFixedHeight(round(118 * text_scale()))
        self.drawing = BuildDrawingView()
        self.slides = SlideParts(workspace, self.drawing, self._scale_and_slides, digits=False)
        self.tray = OfferTray()
        self.advice = BuildAdvice(workspace)
        self.together = BuildTogether(workspace)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 0, 24, 0)
        layout.setSpacing(0)
        layout.addWidget(self.steps)
        layout.addWidget(self.drawing, 1)
        layout.addWidget(self.tray)

    def _scale_and_slides(self) -> tuple[float, tuple[SlideScale, ...]]:
        if self.drawn is None:
            return 700.0, ()
        return self.drawn.side.scale, (self.drawn.scale,) if self.drawn.scale is not None else ()

    @property
    def dragging(self) -> bool:
        """Whether a part is being moved by the mouse."""
        return self.slides.dragging

    def draw_over(self, scene: Scene) -> None:
        """Draw what is in the hand over the rest."""

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.tray.note.setVisible(self.width() >= 700 * text_scale())

    def _show_steps(self) -> None:
        self.steps.show_scene(draw_steps(self.model, self.steps.scene_width, self.steps.scene_height))

    def draw(self) -> None:
        """Draw the side and top views for the widget's present size."""
        analysis = self.workspace.analysis()
        if analysis is None or self.drawing.scene_width < 50:
            return
        proposed = self.together.proposed
        if proposed is not None:
            analysis = proposed.preview
        self.drawn = draw_build(
            analysis,
            dict(analysis.assembly.kit) if proposed is not None else self.workspace.book.parts,
            self.workspace.system,
            self.drawing.scene_width,
            self.drawing.scene_height,
            self.workspace.selected,
            self.chosen,
            self.drawn.tags if self._hold_tags and self.drawn is not None else None,
        )
        self._hold_tags = False
        scene = self.drawn.scene
        way = self.advice.chosen
        if way is not None:
            for projection in (self.drawn.side, self.drawn.top):
                draw_moved(scene, way.preview, way.moved, projection)
        if proposed is not None:
            for projection in (self.drawn.side, self.drawn.top):
                draw_moved(scene, proposed.preview, proposed.drawn, projection)
        self.draw_over(scene)
        scene.text(0, 22, "Side", 16, 600)
        scene.text(38, 22, "both views to one scale", 13, 400, "ink3")
        top = round(self.drawing.scene_height * SIDE_SHARE) + 22
        scene.text(0, top, "Top", 16, 600)
        scene.text(38, top, "left side at the top", 13, 400, "ink3")
        if not analysis.build.parts:
            words = "Choose the first part below, or drag it here. A puts all together."
            scene.text(
                self.drawing.scene_width / 2, self.drawing.scene_height * 0.34, words, 15, 500, "ink2", Anchor.MIDDLE
            )
        kit = analysis.assembly.kit
        tips: dict[tuple[str, ...], str] = {
            ("part", placed.id): kit[placed.part_id].name for placed in analysis.build.parts
        }
        if self.model is not None:
            for spot in self.model.mounts:
                tips[spot_key(spot)] = f"{spot_name(spot, analysis.build, kit)} ({kind_of(spot)})"
        self.drawing.tips = tips
        self.drawing.takes_anywhere = not analysis.build.parts
        self.drawing.show_scene(scene, moves=self.dragging)
