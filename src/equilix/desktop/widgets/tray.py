"""The tray: numbered parts of the kit that fit the chosen mount."""

from __future__ import annotations

from PySide6.QtCore import QMimeData, QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QDrag, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QHBoxLayout, QScrollArea, QWidget

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, font, text_scale
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.enter import presses
from equilix.desktop.widgets.glyphs import paint_category
from equilix.desktop.widgets.mime import MIME
from equilix.desktop.widgets.panel import clear_layout
from equilix.desktop.widgets.plain import cut, set_tip
from equilix.present.assembly.build_view import Offer
from equilix.present.drawing.scene import Anchor, Scene


class TrayPlace(QWidget):
    """One part in the tray; a click, its number or dragging it to a mount puts it on."""

    wanted = Signal(int)

    def __init__(self, number: int, offer: Offer, chosen: bool) -> None:
        super().__init__()
        self.number, self.offer, self._chosen = number, offer, chosen
        self._pressed_at: QPoint | None = None
        self.setFixedWidth(round(156 * text_scale()))
        self.setMinimumHeight(round(82 * text_scale()))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{number}: {offer.part.name}, {offer.mass_text}. {offer.effect}")
        set_tip(self, f"{offer.part.name}, {offer.mass_text}\n{offer.effect}".strip())

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        s = text_scale()
        if self._chosen or self.underMouse():
            fill(painter, self.rect(), "tint")
        fill(painter, QRectF(0, 0, self.width(), 3), "accent" if self._chosen else "paper")
        paint_category(painter, self.offer.part.category, QRectF(8, 12 * s, 26, 22), "ink")
        scene = Scene()
        room = self.width() - 46
        painter.setFont(font(14, 600))
        first, _, rest = self.offer.part.name.partition(", ")
        name = cut(first, painter.fontMetrics(), room)
        scene.text(40, 22 * s, name, 14, 600)
        painter.setFont(font(13))
        about = f"{self.offer.mass_text}, {rest}" if rest else self.offer.mass_text
        about = cut(about, painter.fontMetrics(), room - 12)
        scene.text(40, 39 * s, about, 13, 400, "ink2")
        painter.setFont(font(13, 500))
        for line, words in enumerate(self.offer.effect.split("\n")):
            shown = cut(words, painter.fontMetrics(), self.width() - 16)
            scene.text(8, (58 + 16 * line) * s, shown, 13, 400 if line else 500, "ink2" if line else "ink")
        if self.number <= 9:
            scene.text(self.width() - 10, 39 * s, str(self.number), 13, 600, "accent", Anchor.END)
        scene.line(self.width() - 0.5, 10, self.width() - 0.5, self.height() - 8, "rule", 1.0)
        paint_scene(painter, scene, colors())
        if self.hasFocus():
            painter.setPen(QPen(colors()["accent"], 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed_at = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        start = self._pressed_at
        if start is None:
            return
        if (event.position().toPoint() - start).manhattanLength() >= QApplication.startDragDistance():
            self._pressed_at = None
            drag = QDrag(self)
            data = QMimeData()
            data.setData(MIME, self.offer.part.id.encode())
            drag.setMimeData(data)
            drag.exec(Qt.DropAction.CopyAction)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed_at is not None:
            self._pressed_at = None
            self.wanted.emit(self.number - 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if presses(event):
            self.wanted.emit(self.number - 1)
        else:
            super().keyPressEvent(event)


class Tray(QScrollArea):
    """The places side by side; `wanted` carries the number of the one to put on, from 0."""

    wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("tray")
        inner.setStyleSheet("#tray { background: transparent; }")
        self._row = QHBoxLayout(inner)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(0)
        self.setWidget(inner)
        self.places: list[TrayPlace] = []

    def show_offers(self, offers: tuple[Offer, ...]) -> None:
        """Show `offers` in place of what was there."""
        clear_layout(self._row)
        self.places = []
        for number, offer in enumerate(offers, 1):
            place = TrayPlace(number, offer, number == 1)
            place.wanted.connect(self.wanted)
            self.places.append(place)
            self._row.addWidget(place)
        self._row.addStretch(1)
