"""The Carry view as it is laid out: how its drawings and rows share the room."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QScrollArea, QVBoxLayout, QWidget

from equilix.core.analysis import Analysis
from equilix.core.chosen import hold_of
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category
from equilix.core.registry import support_for
from equilix.core.statics.grasps import hands_at, places, thickness_of
from equilix.core.statics.pose import usual_hold
from equilix.core.units import Kind
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.hold_row import HoldRow
from equilix.desktop.widgets.scene_view import SceneView
from equilix.desktop.widgets.takes_row import TakesRow
from equilix.desktop.workspace import Workspace
from equilix.present.carry.carry_drawing import STACKED, load_height
from equilix.present.carry.grip_plan import place_name
from equilix.present.carry.lanes_drawing import lanes_height
from equilix.present.carry.others_drawing import others_height
from equilix.present.units import figure


def carrying() -> tuple[str, ...]:
    """Return the supports on which somebody carries the rig."""
    return tuple(key for key in KEYS if support_for(key).carried)


class CarryPage(QWidget):
    """Its widgets: load, hold, reserve and hands, takes, and the other supports."""

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        #: Whether shares of strength and moments are shown, one level below the reserve.
        self.strength = False
        self.load = SceneView("Load on the operator")
        self.reserve = SceneView("Strength left over the takes")
        self.plan = SceneView("Hands, from above")
        self.hold = HoldRow()
        self.takes = TakesRow()
        self.others = SceneView("This build, carried another way")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        self.scroller = QScrollArea()
        self.scroller.setWidgetResizable(True)
        self.scroller.setFrameShape(QScrollArea.Shape.NoFrame)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        whole.addWidget(self.scroller)
        inner = QWidget()
        self.scroller.setWidget(inner)
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(24, 10, 24, 8)
        layout.setSpacing(4)
        layout.addWidget(self.load, 50)
        layout.addWidget(self.hold)
        self._middle = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._middle.setSpacing(18)
        self._middle.addWidget(self.reserve, 57)
        self._middle.addWidget(self.plan, 43)
        layout.addLayout(self._middle, 30)
        self._column = layout
        layout.addWidget(self.takes)
        layout.addWidget(self.others, 18)

    @property
    def main_widget(self) -> QWidget:
        """What takes the keyboard when the room is entered."""
        return self.load

    @property
    def dragging(self) -> bool:
        return False

    @property
    def support(self) -> str:
        """What carries the rig: its support, or what holds that."""
        build = self.workspace.build
        return support_for(build.support).carrier(build) if build is not None else KEYS[0]

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._make_room()

    def _make_room(self) -> None:
        """Give every drawing the height that it needs at this width; what does not fit scrolls."""
        scale = text_scale()
        # The bar that scrolls takes its width from the drawings, and they decide by theirs.
        bar = self.scroller.verticalScrollBar().sizeHint().width()
        width = (self.width() - 48 - bar) / scale
        self.hold.make_room(width)
        others = others_height(width, len(carrying()))
        below = self.hold.sizeHint().height() / scale + 140.0 + 46.0 + others + 40.0
        load = load_height(width, self.height() / scale - below) if self.strength else lanes_height(7)
        self.load.setMinimumHeight(round(load * scale))
        self.others.setMinimumHeight(round(others * scale))
        stacked = width < STACKED
        direction = QBoxLayout.Direction.TopToBottom if stacked else QBoxLayout.Direction.LeftToRight
        if self._middle.direction() is not direction:
            self._middle.setDirection(direction)
        for view in (self.reserve, self.plan):
            view.setMinimumHeight(round(140 * scale))

    def _show_hold(self, analysis: Analysis) -> None:
        hold, system = hold_of(analysis.build), self.workspace.system
        offered = [
            (place.grasp, place_name(place, analysis)) for place in places(analysis.assembly, analysis.positions)
        ]
        thick = [
            thickness_of(analysis.assembly, place, replace(hold, thickness=None))
            for place in hands_at(analysis.assembly, analysis.positions, hold)
            if analysis.assembly.parts[place.part].category is Category.GRIP
        ]
        places_usual = (figure(value, Kind.LENGTH, system) for value in usual_hold(self.workspace.operator))
        usual = (figure(thick[0], Kind.LENGTH, system) if thick else "", *places_usual)
        on_it = support_for(self.support)
        self.hold.show_hold(hold, offered, on_it.braces, usual, on_it.in_hands, system)
        self._make_room()
