"""One thing worth measuring, in the panel at the right."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill
from equilix.desktop.widgets.enter import presses
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import set_tip
from equilix.present.card import AdviceRow


class ShareBar(QWidget):
    """A bar for how much of a ± goes."""

    def __init__(self, share: float) -> None:
        super().__init__()
        self._share = share
        self.setFixedHeight(9)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, QRectF(0, 1, self.width(), 7), "p1")
        fill(painter, QRectF(0, 1, self.width() * min(self._share, 1.0), 7), "accent")
        painter.end()


class AdviceCard(QWidget):
    """What to measure, how much uncertainty it takes, and how long; a click or Enter acts on it."""

    chosen = Signal(int)

    def __init__(self, number: int, row: AdviceRow, tip: str = "Lay it on the bench") -> None:
        super().__init__()
        self.number = number
        self.setAccessibleName(f"{number}. {row.title}. {row.share}. {row.change}. {row.note}")
        set_tip(self, tip)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 6, 24, 6)
        box.setSpacing(2)
        head = QHBoxLayout()
        head.addWidget(label(f"{number}  {row.title}", 15, 600 if number == 1 else 500, "ink", wrap=True), 1)
        head.addWidget(label(row.share, 15, 600))
        box.addLayout(head)
        middle = QHBoxLayout()
        middle.setSpacing(12)
        if row.amount > 0.0:
            middle.addWidget(ShareBar(row.amount), 1)
        else:
            middle.addStretch(1)
        middle.addWidget(label(row.change, 13, 500, "ink2"))
        box.addLayout(middle)
        box.addWidget(label(row.note, 13, 400, "ink2", wrap=True))

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.underMouse():
            painter.setOpacity(0.5)
            fill(painter, self.rect(), "tint")
            painter.setOpacity(1.0)
        if self.hasFocus():
            painter.setPen(QPen(colors()["accent"], 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit(self.number - 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if presses(event):
            self.chosen.emit(self.number - 1)
            return
        super().keyPressEvent(event)
