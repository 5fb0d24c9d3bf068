"""Labels: one line, plain text that wraps, and words that can be followed."""

from __future__ import annotations

import math
import re
from functools import lru_cache

from PySide6.QtCore import QMimeData, QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QDrag, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QApplication,
    QLabel,
    QSizePolicy,
)

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, font, tint
from equilix.desktop.widgets.enter import presses
from equilix.desktop.widgets.mime import MIME
from equilix.desktop.widgets.plain import cut, set_tip

#: px: words that wrap would like to be so wide at most.
USUAL_WIDTH = 240


@lru_cache(maxsize=2048)
def unbroken(text: str) -> str:
    """Return `text` with spaces that don't break between a number and its unit or its sign."""
    return re.sub(r"(?<=\d) (?=[a-zA-Z%°N])|(?<=±) (?=\d)", "\u00a0", text)


def label(text: str, size: float = 14, weight: int = 400, color: str = "ink", wrap: bool = False) -> QLabel:
    """Return a label in the given type."""
    made = QLabel(unbroken(text))
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setFont(font(size, weight))
    tint(made, color)
    made.setWordWrap(wrap)
    return made


class OneLine(QLabel):
    """A line that ends in three dots where there is no room for all of it; its tip then has the rest.

    `least` px are kept for it, if it needs them.
    """

    def __init__(self, tone: str, size: float = 13, weight: int = 400, least: int = 0) -> None:
        super().__init__()
        self.tone, self._rest, self._more, self._least = tone, "", "", least
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setFont(font(size, weight))

    def tell(self, more: str) -> None:
        """Have the tip say `more` than the line."""
        self._more = more
        self._say()

    def _say(self) -> None:
        set_tip(self, "\n".join(filter(None, (self._rest, self._more))))

    def minimumSizeHint(self) -> QSize:
        hint = super().minimumSizeHint()
        return QSize(min(hint.width(), self._least), hint.height())

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(colors()[self.tone])
        shown = cut(self.text(), painter.fontMetrics(), self.width())
        rest = self.text() if shown != self.text() else ""
        if rest != self._rest:
            self._rest = rest
            self._say()
        if len(shown) > 1:  # dots alone say nothing
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft), shown)
        painter.end()


class PlainLabel(QLabel):
    """Words that change with every step of a drag: it paints itself, ground and all.

    It asks for another layout only where the words need more room, or other lines, than they have: a usual label lays
    the whole panel out again each time.
    """

    def __init__(self, text: str, size: float, weight: int, color: str, wraps: bool = False) -> None:
        super().__init__()
        self._shown = ""
        self.setTextFormat(Qt.TextFormat.PlainText)
        self._face, self._color, self._wraps = font(size, weight), color, wraps
        side = Qt.AlignmentFlag.AlignLeft if wraps else Qt.AlignmentFlag.AlignRight
        self._flags = int(Qt.AlignmentFlag.AlignVCenter | side) | (int(Qt.TextFlag.TextWordWrap) if wraps else 0)
        self._heights: dict[int, int] = {}
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        if wraps:
            # The policy says it: a method of ours would be asked two thousand times while the panel is laid out.
            policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
            policy.setHeightForWidth(True)
            self.setSizePolicy(policy)
        self.setText(text)

    def text(self) -> str:
        return self._shown

    def setText(self, text: str) -> None:
        text = unbroken(text)
        if text == self._shown:
            return
        self._shown = text
        self._heights.clear()
        self.setAccessibleName(text)
        # What isn't seen is not laid out yet, or will be as it is shown.
        if not self.isVisible():
            self.updateGeometry()
            return
        if self._wraps:
            if self.heightForWidth(self.width()) != self.height():
                self.updateGeometry()
        elif self.sizeHint().width() > self.width():
            self.updateGeometry()
        self.update()

    def set_color(self, color: str) -> None:
        """Show the words in another colour of the palette."""
        if color != self._color:
            self._color = color
            self.update()

    def heightForWidth(self, width: int) -> int:
        if not self._wraps:
            return -1
        if width not in self._heights:
            margins = self.contentsMargins()
            room = QRectF(0.0, 0.0, max(width - margins.left() - margins.right(), 1), 10_000.0)
            box = QFontMetricsF(self._face).boundingRect(room, int(Qt.TextFlag.TextWordWrap), self._shown)
            self._heights[width] = math.ceil(box.height()) + margins.top() + margins.bottom()
        return self._heights[width]

    def sizeHint(self) -> QSize:
        metrics, margins = QFontMetricsF(self._face), self.contentsMargins()
        width = math.ceil(metrics.horizontalAdvance(self._shown)) + margins.left() + margins.right()
        if self._wraps:
            width = min(width, USUAL_WIDTH)
            return QSize(width, self.heightForWidth(width))
        return QSize(width, math.ceil(metrics.height()) + margins.top() + margins.bottom())

    def minimumSizeHint(self) -> QSize:
        if not self._wraps:
            return self.sizeHint()
        metrics, margins = QFontMetricsF(self._face), self.contentsMargins()
        widest = max((metrics.horizontalAdvance(word) for word in self._shown.split(" ")), default=0.0)
        return QSize(math.ceil(widest) + margins.left() + margins.right(), math.ceil(metrics.height()))

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "panel")
        painter.setFont(self._face)
        painter.setPen(colors()[self._color])
        painter.drawText(self.contentsRect(), self._flags, self._shown)
        painter.end()


class LinkLabel(QLabel):
    """Words that wrap and can be clicked, or chosen with Enter."""

    clicked = Signal()

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)
        self.setFont(font(14, 600))
        tint(self, "accent")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        #: The part of the kit that can be dragged away by it, "" for none.
        self.part_id = ""
        self._pressed = QPoint()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.position().toPoint()
        if not self.part_id:
            self.clicked.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        far = (event.position().toPoint() - self._pressed).manhattanLength()
        if not self.part_id or far < QApplication.startDragDistance():
            return
        drag, data = QDrag(self), QMimeData()
        data.setData(MIME, self.part_id.encode())
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.CopyAction)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.part_id and self.rect().contains(event.position().toPoint()):
            self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if presses(event):
            self.clicked.emit()
        else:
            super().keyPressEvent(event)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.hasFocus():
            painter = QPainter(self)
            painter.setPen(QPen(colors()["accent"], 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
            painter.end()
