"""A widget that shows a scene and tells what the mouse meets in it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPoint, QPointF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QWidget

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, text_scale
from equilix.desktop.painters.layers import Layers
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.context import Entry, show_context
from equilix.desktop.widgets.plain import show_tip
from equilix.present.drawing.scene import Scene

#: Regions that a click or a drag does something to.
_HELD = frozenset({"scale", "part", "mount", "foot", "place", "grasp", "cell", "support", "joint"})


class SceneView(QWidget):
    """Shows one scene.

    `pressed`, `dragged` and `released` carry the key of what the mouse went down on (empty for
    nothing) and the place in px; `resized` asks for a scene of the new size.
    """

    pressed = Signal(tuple, float, float)
    dragged = Signal(tuple, float, float)
    released = Signal(tuple, float, float)
    resized = Signal()
    key_pressed = Signal(QKeyEvent)

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.scene = Scene()
        self._layers = Layers()
        self._moves = False
        self.tips: dict[tuple[str, ...], str] = {}
        #: What can be done with what has a key, for the menu at the mouse.
        self.offered: Callable[[tuple[str, ...]], Sequence[Entry]] = lambda _key: ()
        self._held: tuple[str, ...] | None = None
        self._by_key = False
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        # It paints its own ground, so that nothing below it is painted for each step of a drag.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def scene_width(self) -> float:
        """Width for which to draw a scene: with larger text the whole drawing is painted larger."""
        return self.width() / text_scale()

    @property
    def scene_height(self) -> float:
        """Height for which to draw a scene."""
        return self.height() / text_scale()

    @property
    def held(self) -> tuple[str, ...] | None:
        """The key of what the mouse holds, None when it is up."""
        return self._held

    def let_loose(self) -> None:
        """Hold nothing any more, though the mouse is still down."""
        self._held = None

    def show_scene(self, scene: Scene, moves: bool = False) -> None:
        """Show `scene`.

        With `moves` it is one of many that follow each other while something is dragged: what only goes along is
        put down on whole pixels. The last one, without it, is exact.
        """
        if moves:
            self._layers.follow(scene)
        elif self._moves:
            self._layers.forget()
        self.scene, self._moves = scene, moves
        self.update()

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, event.rect(), "paper")
        painter.save()
        painter.scale(text_scale(), text_scale())
        if self._moves:
            self._layers.paint(painter, self.scene, colors(), text_scale() * self.devicePixelRatio())
        else:
            paint_scene(painter, self.scene, colors(), 1.0)
        painter.restore()
        if self.hasFocus() and self._by_key:
            painter.setPen(QPen(colors()["accent"], 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._by_key = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        self.resized.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            place = event.position() / text_scale()
            self._held = self.scene.hit(place.x(), place.y()) or ()
            self.pressed.emit(self._held, place.x(), place.y())

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Select what lies at the mouse, and show what can be done with it."""
        place = QPointF(event.pos()) / text_scale()
        key = self.scene.hit(place.x(), place.y()) or ()
        if not self.offered(key):
            event.ignore()
            return
        if key and key[0] == "part":
            self.pressed.emit(key, place.x(), place.y())
            self.released.emit(key, place.x(), place.y())
        show_context(self.offered(key), self, event.globalPos())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        place = event.position() / text_scale()
        if self._held is not None and not event.buttons() & Qt.MouseButton.LeftButton:
            self._let_go(place.x(), place.y())  # it was released where nobody told, as behind a dialog
        if self._held is not None:
            self.dragged.emit(self._held, place.x(), place.y())
            return
        key = self.scene.hit(place.x(), place.y())
        grips = key is not None and key[0] in _HELD
        self.setCursor(Qt.CursorShape.PointingHandCursor if grips else Qt.CursorShape.ArrowCursor)
        tip = self.tips.get(key, "") if key is not None else ""
        show_tip(self.mapToGlobal(event.position().toPoint() + QPoint(12, 12)), tip, self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self._held is not None:
            place = event.position() / text_scale()
            self._let_go(place.x(), place.y())

    def _let_go(self, x: float, y: float) -> None:
        held, self._held = self._held, None
        if held is not None:
            self.released.emit(held, x, y)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()
        self.key_pressed.emit(event)
