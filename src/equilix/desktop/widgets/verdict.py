"""The head of the panel: state and act in large letters, what is to be done at a glance, and another matter's strip."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, font, text_scale
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.enter import presses
from equilix.desktop.widgets.labels import PlainLabel, label, unbroken
from equilix.desktop.widgets.plain import set_tip
from equilix.present.drawing.scene import Scene, polygon
from equilix.present.panel import Doing, Strip

#: px: type of a line that stands in large letters, the first in which it fits on one line.
_HEAD_SIZES, _AMOUNT_SIZES = (32, 28, 24, 21, 18), (44, 34, 27, 20)
#: px of a line's room from which the largest two are used.
_WIDE_LINE = 330.0


class Headline(PlainLabel):
    """Words in the largest type in which they fit on one line; longer ones wrap in the smallest."""

    def __init__(self, text: str, color: str, weight: int = 600, sizes: tuple[int, ...] = _HEAD_SIZES) -> None:
        self._faces = tuple((size, font(size, weight)) for size in sizes)
        self._set_for = ("", -1)
        super().__init__(text, sizes[-1], weight, color, wraps=True)

    def _set_face(self, width: int) -> None:
        if self._set_for == (self.text(), width):
            return
        self._set_for = (self.text(), width)
        margins = self.contentsMargins()
        room = width - margins.left() - margins.right()
        large = room >= _WIDE_LINE * text_scale()
        fits = (
            face
            for size, face in self._faces
            if (large or size <= 24) and QFontMetricsF(face).horizontalAdvance(self.text()) <= room
        )
        self._face = next(fits, self._faces[-1][1])

    def heightForWidth(self, width: int) -> int:
        self._set_face(width)
        return super().heightForWidth(width)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        self._set_face(self.width())
        super().paintEvent(event)


class KeyButton(QPushButton):
    """A button across the panel, with its key beside the word."""

    def __init__(self, words: str, key: str) -> None:
        super().__init__()
        self.words, self.key = words, key
        self.setProperty("role", "apply")
        self.setAccessibleName(words)
        self.setMinimumHeight(round(40 * text_scale()))

    def sizeHint(self) -> QSize:
        hint = super().sizeHint()
        wide = QFontMetricsF(font(16, 600)).horizontalAdvance(self.words)
        wide += QFontMetricsF(font(13)).horizontalAdvance(self.key) + 60.0
        return QSize(max(hint.width(), math.ceil(wide)), hint.height())

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        tone = colors()["onaccent" if self.isEnabled() else "ink3"]
        painter.setPen(tone)
        word, chip = font(16, 600), font(13)
        wide = QFontMetricsF(word).horizontalAdvance(self.words)
        key_wide = QFontMetricsF(chip).horizontalAdvance(self.key) + 14.0
        left = (self.width() - wide - 10.0 - key_wide) / 2.0
        painter.setFont(word)
        painter.drawText(QRectF(left, 0.0, wide + 2.0, self.height()), int(Qt.AlignmentFlag.AlignVCenter), self.words)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        high = QFontMetricsF(chip).height() + 3.0
        box = QRectF(left + wide + 10.0, (self.height() - high) / 2.0, key_wide, high)
        painter.drawRoundedRect(box, 3.0, 3.0)
        painter.setFont(chip)
        painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), self.key)
        painter.end()


class Amount(QWidget):
    """A figure in large type with its unit beside it, on one line."""

    def __init__(self, text: str) -> None:
        super().__init__()
        number, _, unit = text.rpartition(" ")
        self._number, self._unit = (number, unit) if number else (unit, "")
        sizes = (font(size, 600) for size in _AMOUNT_SIZES)
        fits = (face for face in sizes if QFontMetricsF(face).horizontalAdvance(self._number) <= 96 * text_scale())
        self._large, self._small = next(fits, font(_AMOUNT_SIZES[-1], 600)), font(20)
        self._wide = QFontMetricsF(self._large).horizontalAdvance(self._number)
        wide = self._wide + (8.0 + QFontMetricsF(self._small).horizontalAdvance(self._unit) if self._unit else 0.0)
        self.setFixedSize(math.ceil(wide) + 1, math.ceil(QFontMetricsF(self._large).height()))
        self.setAccessibleName(text)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        base = QFontMetricsF(self._large).ascent()
        painter.setPen(colors()["ink" if self.isEnabled() else "ink3"])
        painter.setFont(self._large)
        painter.drawText(QPointF(0.0, base), self._number)
        painter.setPen(colors()["ink2" if self.isEnabled() else "ink3"])
        painter.setFont(self._small)
        painter.drawText(QPointF(self._wide + 8.0, base), self._unit)
        painter.end()


class DoingCard(QWidget):
    """By how much, from mark to mark, what it costs, and the button that does it."""

    apply_wanted = Signal()

    def __init__(self, doing: Doing) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 0, 24, 6)
        column.setSpacing(4)
        deed = doing.deed
        row = QHBoxLayout()
        row.setSpacing(14)
        if deed.amount:
            row.addWidget(Amount(deed.amount), 0, Qt.AlignmentFlag.AlignVCenter)
        beside = QVBoxLayout()
        beside.setSpacing(1)
        if deed.where:
            beside.addWidget(label(deed.where, 14, 500, wrap=True))
        beside.addWidget(label(deed.cost, 13, 400, "ink2", wrap=True))
        row.addLayout(beside, 1)
        column.addLayout(row)
        for words in deed.then:
            column.addWidget(label(f"then {words}", 13, 400, "ink", wrap=True))
        self.button = KeyButton(doing.button, "Enter")
        set_tip(self.button, "Makes this change (Enter). Ctrl+Z takes it back")
        self.button.clicked.connect(self.apply_wanted)
        column.addWidget(self.button)
        foot = QHBoxLayout()
        foot.addWidget(label(doing.others, 13, 500, "accent"), 1)
        foot.addWidget(label(doing.shown, 13, 400, "ink3"))
        column.addLayout(foot)


class StripRow(QWidget):
    """One other matter: a triangle, the words, and where it is shown. A click or Enter shows it."""

    wanted = Signal()

    def __init__(self, strip: Strip) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{strip.words} Show it")
        set_tip(self, "Shows where it is (X)")
        row = QHBoxLayout(self)
        row.setContentsMargins(50, 6, 24, 6)
        row.addWidget(label(unbroken(strip.words.rstrip(".")), 14, 600, "ink", wrap=True), 1)
        row.addWidget(label("show", 14, 600, "accent"))
        self.setMinimumHeight(round(32 * text_scale()))

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "p1")
        scene, y = Scene(), self.height() / 2.0
        scene.path(polygon(((24.0, y + 7.0), (32.0, y - 7.0), (40.0, y + 7.0))), "fwd")
        paint_scene(painter, scene, colors())
        if self.hasFocus():
            painter.setPen(QPen(colors()["accent"], 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.wanted.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if presses(event):
            self.wanted.emit()
            return
        super().keyPressEvent(event)
