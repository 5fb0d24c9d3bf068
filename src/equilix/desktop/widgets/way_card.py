"""A way as a card: what it does, what it brings, and the button that applies it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.context import Entry, show_context
from equilix.desktop.widgets.enter import presses
from equilix.desktop.widgets.labels import label
from equilix.desktop.widgets.plain import set_tip
from equilix.present.card import Card
from equilix.present.drawing.scene import Scene, arrow_head, circle, polygon, rect


class CgBeam(QWidget):
    """Where the CG is now (ring) and would be (disc) about the pad's wedge, for one way to balance."""

    def __init__(self, before: float, after: float) -> None:
        super().__init__()
        self._before, self._after = before, after
        self.setFixedSize(QSize(106, 22))

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        span = max(abs(self._before), abs(self._after), 0.02) * 1.25
        scene = Scene()
        y, zero = 8.0, 30.0 if self._before >= 0 else 76.0
        px = 60.0 / span
        before = min(max(zero + self._before * px, 6.0), 100.0)
        after = min(max(zero + self._after * px, 6.0), 100.0)
        scene.path(rect(zero - 9, y - 6, 18, 12), "accent", None, 0, (), 0.22)
        scene.line(2, y, 104, y, "ink3", 1.0)
        scene.path(polygon(((zero, y + 6), (zero - 5, y + 13), (zero + 5, y + 13))), "ink2")
        if abs(after - before) > 10:
            heading = 0.0 if after > before else 3.14159265
            tip = after - 5 if after > before else after + 5
            scene.line(before, y, tip, y, "accent", 1.6)
            scene.path(arrow_head(tip, y, heading, 6), "accent")
        scene.path(circle(before, y, 4.5), "panel", "fwd" if self._before >= 0 else "back", 1.6)
        scene.path(circle(after, y, 4.5), "accent")
        painter = QPainter(self)
        paint_scene(painter, scene, colors())
        painter.end()


class ShareBeam(QWidget):
    """Share of strength now (ring) and then (disc) on a scale that ends at its greater."""

    def __init__(self, before: float, after: float) -> None:
        super().__init__()
        self._before, self._after = before, after
        self.setFixedSize(QSize(106, 22))

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        most = max(self._before, self._after, 0.05) * 1.1
        scene = Scene()
        y = 11.0
        before, after = (8.0 + 90.0 * v / most for v in (self._before, self._after))
        scene.line(4, y, 104, y, "ink3", 1.0)
        scene.line(4, y - 6, 4, y + 6, "ink3", 1.2)
        if abs(after - before) > 10:
            scene.line(before, y, after + (5 if after < before else -5), y, "accent", 1.6)
            heading = 3.14159265 if after < before else 0.0
            scene.path(arrow_head(after + (5 if after < before else -5), y, heading, 6), "accent")
        scene.path(circle(before, y, 4.5), "panel", "accent", 1.6)
        scene.path(circle(after, y, 4.5), "accent")
        painter = QPainter(self)
        paint_scene(painter, scene, colors())
        painter.end()


#: Letters of a cost that stand beside a title; longer ones stand below it.
_BESIDE = 10


class WayCard(QWidget):
    """One way to balance, clear or lighten; a click or Enter chooses it, which previews it.

    `beam` draws before and after. `shown` says how a preview shows; without it there is nothing to apply.
    """

    chosen = Signal(int)
    apply_wanted = Signal()

    def __init__(
        self,
        number: int,
        way: Card,
        is_chosen: bool,
        beam: type[CgBeam | ShareBeam] = CgBeam,
        shown: str = "shown dashed in the drawing",
    ) -> None:
        super().__init__()
        self.number = number
        self._is_chosen = is_chosen
        self.setAccessibleName(f"{number}. {way.said}. {' '.join(way.lines)}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 8, 24, 9)
        outer.setSpacing(3)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(label(str(number), 15, 600, "accent"))
        head.addWidget(label(way.title, 15, 600, wrap=True), 1)
        beside = len(way.cost) <= _BESIDE
        if beside:
            head.addWidget(label(way.cost, 14, 400, "ink2"))
        outer.addLayout(head)
        under = " · ".join(filter(None, ("" if beside else way.cost, way.work)))
        if under:
            cost = label(under, 13, 400, "ink2")
            cost.setContentsMargins(16, 0, 0, 0)
            outer.addWidget(cost)
        if way.warns:
            warned = label(f"{way.warns[:1].upper()}{way.warns[1:]}.", 13, 500, "fwdT", wrap=True)
            warned.setContentsMargins(16, 0, 0, 0)
            outer.addWidget(warned)
        if is_chosen:
            row = QHBoxLayout()
            row.setContentsMargins(16, 0, 0, 0)
            row.setSpacing(6)
            row.addWidget(beam(way.before, way.after))
            row.addWidget(label(way.after_text, 13, wrap=True), 1)
            outer.addLayout(row)
        for line in way.lines if is_chosen else () if under else way.lines[:1]:
            note = label(line, 13, 400, "ink2", wrap=True)
            note.setContentsMargins(16, 0, 0, 0)
            outer.addWidget(note)
        if is_chosen and shown:
            self._add_apply(outer, shown)

    def _add_apply(self, outer: QVBoxLayout, words: str) -> None:
        row = QHBoxLayout()
        row.setContentsMargins(16, 4, 0, 0)
        row.setSpacing(12)
        self.apply_button = QPushButton("Apply")
        self.apply_button.setProperty("role", "apply")
        set_tip(self.apply_button, "Makes this change (Enter). Ctrl+Z takes it back")
        self.apply_button.clicked.connect(self.apply_wanted)
        row.addWidget(self.apply_button)
        row.addWidget(label(words, 13, 400, "ink2"))
        row.addStretch()
        outer.addLayout(row)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._is_chosen:
            fill(painter, self.rect(), "tint")
            fill(painter, QRectF(0, 0, 3, self.height()), "accent")
        if self.hasFocus():
            painter.setPen(QPen(colors()["accent"], 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit(self.number - 1)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        look = Entry("Drop the preview" if self._is_chosen else "Preview it", "P", self._choose)
        apply = [Entry("Apply it", "Enter", self.apply_wanted.emit)] if self._is_chosen else []
        show_context([look, *apply], self, event.globalPos())

    def _choose(self) -> None:
        self.chosen.emit(self.number - 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if presses(event):
            if self._is_chosen:
                self.apply_wanted.emit()
            else:
                self.chosen.emit(self.number - 1)
            return
        super().keyPressEvent(event)


def sign(widget: QWidget) -> tuple[str, str]:
    """Return by what a widget of the panel is known again when the panel is filled anew."""
    words = widget.text() if isinstance(widget, QAbstractButton) else ""
    return type(widget).__name__, widget.accessibleName() or words
