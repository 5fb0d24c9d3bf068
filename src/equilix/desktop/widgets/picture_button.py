"""A button that shows a small picture with words below it: one of a few answers."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, text_scale
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.present.assembly.pictures import HEIGHT, WIDTH
from equilix.present.drawing.scene import Scene

#: px at the picture's edges and beside its words.
_EDGE = 6
_WRAPPED = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignVCenter


class PictureButton(QAbstractButton):
    """Shows `scene` and its `words`; `first` is the answer that Enter takes."""

    def __init__(self, scene: Scene, words: str, first: bool, size: tuple[float, float] = (WIDTH, HEIGHT)) -> None:
        super().__init__()
        self._wide, self._tall = size
        font = self.font()
        font.setPixelSize(round(13 * text_scale()))
        self.setFont(font)
        self._scene, self._first = scene, first
        self.setText(words)
        self.setAccessibleName(words)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.MinimumExpanding)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_scene(self, scene: Scene) -> None:
        """Show another picture."""
        self._scene = scene
        self.update()

    def sizeHint(self) -> QSize:
        scale = text_scale()
        wide = round((self._wide + 2) * scale)
        words = self.fontMetrics().boundingRect(0, 0, wide - 2 * _EDGE, 1000, _WRAPPED, self.text())
        return QSize(wide, round(self._tall * scale) + words.height() + _EDGE)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        palette, scale = colors(), text_scale()
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        strong = self._first or self.hasFocus() or self.underMouse()
        painter.setPen(QPen(palette["accent" if strong else "rule"], 2.0 if strong else 1.0))
        painter.setBrush(palette["paper"])
        painter.drawRoundedRect(box, 4, 4)
        painter.save()
        painter.translate((self.width() - self._wide * scale) / 2.0, 0.0)
        painter.scale(scale, scale)
        painter.setClipRect(QRectF(1.0, 2.0, self._wide - 2.0, self._tall - 2.0))
        paint_scene(painter, self._scene, palette, 1.0)
        painter.restore()
        painter.setPen(palette["accent" if self._first else "ink"])
        words = self.rect().adjusted(_EDGE, round(self._tall * scale), -_EDGE, -2)
        painter.drawText(words, _WRAPPED, self.text())
        painter.end()
