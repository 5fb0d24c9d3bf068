"""The drawing of a build, onto which parts of the tray can be dropped."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
)

from equilix.desktop.looks.theme import text_scale
from equilix.desktop.widgets.mime import MIME
from equilix.desktop.widgets.scene_view import SceneView


class BuildDrawingView(SceneView):
    """The drawing, onto which parts of the tray can be dropped."""

    dropped = Signal(str, float, float)
    hovered = Signal(str, float, float)
    left = Signal()

    def __init__(self) -> None:
        super().__init__("Side and top view of the build")
        self.setAcceptDrops(True)
        #: Whether a part can be dropped anywhere: the first one of a build.
        self.takes_anywhere = False

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(MIME):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        place = event.position() / text_scale()
        part_id = bytes(event.mimeData().data(MIME).data()).decode()
        self.hovered.emit(part_id, place.x(), place.y())
        key = self.scene.hit(place.x(), place.y())
        if self.takes_anywhere or (key is not None and key[0] in ("mount", "foot", "part")):
            event.acceptProposedAction()
        else:
            event.ignore()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self.left.emit()

    def dropEvent(self, event: QDropEvent) -> None:
        place = event.position()
        part_id = bytes(event.mimeData().data(MIME).data()).decode()
        self.dropped.emit(part_id, place.x() / text_scale(), place.y() / text_scale())
        event.acceptProposedAction()
