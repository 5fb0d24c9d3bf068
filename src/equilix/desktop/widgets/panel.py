"""The right panel: one plain sentence, the figures behind it, and what can be done."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from functools import lru_cache

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, font, tint
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.plain import set_tip
from equilix.present.card import Card
from equilix.present.drawing.scene import Scene, arrow_head, circle, polygon, rect
from equilix.present.supports.text import FigureRow, Verdict


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


def clear_layout(layout: QVBoxLayout | QHBoxLayout | QGridLayout) -> None:
    """Take everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        inner = item.layout()
        if widget is not None:
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
        elif isinstance(inner, QVBoxLayout | QHBoxLayout | QGridLayout):
            clear_layout(inner)


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
        shown = painter.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
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
            width = min(width, _USUAL_WIDTH)
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


#: px: words that wrap would like to be so wide at most.
_USUAL_WIDTH = 240


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

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
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


class Rule(QFrame):
    """A hairline across the panel."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(1)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "rule")
        painter.end()


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
        self._possible = way.possible
        self.setAccessibleName(f"{number}. {way.said}. {' '.join(way.lines)}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus if self._possible else Qt.FocusPolicy.NoFocus)
        if self._possible:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 8, 24, 9)
        outer.setSpacing(3)
        tone = "ink" if self._possible else "ink3"
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(label(str(number), 15, 600, "accent" if self._possible else "ink3"))
        head.addWidget(label(way.title, 15, 600, tone, wrap=True), 1)
        if self._possible:
            head.addWidget(label(way.cost, 14, 400, "ink2"))
        outer.addLayout(head)
        if way.warns:
            warned = label(f"{way.warns[:1].upper()}{way.warns[1:]}.", 13, 500, "fwdT", wrap=True)
            warned.setContentsMargins(16, 0, 0, 0)
            outer.addWidget(warned)
        if self._possible:
            row = QHBoxLayout()
            row.setContentsMargins(16, 0, 0, 0)
            row.setSpacing(6)
            row.addWidget(beam(way.before, way.after))
            row.addWidget(label(way.after_text, 13, wrap=True), 1)
            outer.addLayout(row)
        # What to do stands always; the rest when it is chosen.
        for line in way.lines if is_chosen else way.lines[:1]:
            note = label(line, 13, 400, "ink2" if self._possible else "ink3", wrap=True)
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
        if self._possible:
            self.chosen.emit(self.number - 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self._possible:
            if self._is_chosen:
                self.apply_wanted.emit()
            else:
                self.chosen.emit(self.number - 1)
            return
        super().keyPressEvent(event)


def _sign(widget: QWidget) -> tuple[str, str]:
    """Return by what a widget of the panel is known again when the panel is filled anew."""
    words = widget.text() if isinstance(widget, QAbstractButton) else ""
    return type(widget).__name__, widget.accessibleName() or words


class SidePanel(QScrollArea):
    """The panel at the right; a view fills it from top to bottom."""

    WIDTH = 336
    #: The keyboard was in the panel, and what had it is gone.
    focus_lost = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._inner = QWidget()
        self.rows = QVBoxLayout(self._inner)
        self.rows.setContentsMargins(0, 10, 0, 12)
        self.rows.setSpacing(0)
        self.setWidget(self._inner)
        self._cells: list[tuple[PlainLabel, PlainLabel, PlainLabel, PlainLabel | None]] = []
        self._rows: list[FigureRow] = []  # what the cells show
        #: What a room put in it last, so that it need not be put in again; None once anything else is shown.
        self.filled: object = None

    @property
    def has_figures(self) -> bool:
        """Whether figures stand in the panel that `refresh` can renew."""
        return bool(self._cells)

    def begin(self) -> None:
        """Empty the panel; what had the keyboard gets it back once the panel is filled again."""
        focused = QApplication.focusWidget() if self.has_keyboard() else None
        if focused is not None:
            sign = _sign(focused)
            QTimer.singleShot(0, self, lambda: self._give_back(sign))
        clear_layout(self.rows)
        self._cells, self._rows = [], []
        self.filled = None
        tint(self._inner, "panel", QPalette.ColorRole.Window)

    def has_keyboard(self) -> bool:
        """Whether the keyboard is in the panel."""
        focused = QApplication.focusWidget()
        return focused is not None and self._inner.isAncestorOf(focused)

    def _give_back(self, sign: tuple[str, str]) -> None:
        for widget in self._inner.findChildren(QWidget):
            if widget.focusPolicy() != Qt.FocusPolicy.NoFocus and widget.isEnabled() and _sign(widget) == sign:
                widget.setFocus(Qt.FocusReason.OtherFocusReason)
                return
        self.focus_lost.emit()

    def add_verdict(self, verdict: Verdict) -> None:
        """Add the sentence on top."""
        tone = {"forward": "fwdT", "back": "backT"}.get(verdict.leans, "accent")
        box = QVBoxLayout()
        box.setContentsMargins(24, 0, 24, 8)
        box.setSpacing(0)
        self.head = PlainLabel(verdict.head, 24, 600, tone, wraps=True)
        self.sentence = PlainLabel(verdict.body, 24, 600, "ink", wraps=True)
        box.addWidget(self.head)
        box.addWidget(self.sentence)
        self.note = PlainLabel(verdict.note, 13, 400, "ink2", wraps=True)
        self.note.setContentsMargins(0, 6, 0, 0)
        if not verdict.note:
            self.note.hide()
        box.addWidget(self.note)
        self.rows.addLayout(box)

    def add_figures(self, rows: tuple[FigureRow, ...]) -> None:
        """Add the figures, each with its own doubt."""
        if not rows:
            return
        grid = QGridLayout()
        grid.setContentsMargins(24, 4, 24, 4)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(0, 1)
        grid.setColumnMinimumWidth(2, 52)
        line = 0
        for row in rows:
            grid.addWidget(Rule(), line, 0, 1, 3)
            # A long name goes on below rather than making the whole panel wider than it is.
            name = PlainLabel(row.label, 14, 400, "ink2", wraps=True)
            name.setContentsMargins(0, 4, 0, 1 if row.note else 4)
            value = PlainLabel(row.value, 15, 600, "ink")
            pm = PlainLabel(row.doubt, 13, 400, "ink3")
            grid.addWidget(name, line + 1, 0)
            grid.addWidget(value, line + 1, 1)
            grid.addWidget(pm, line + 1, 2)
            line += 2
            note = None
            if row.note:
                note = PlainLabel(row.note, 12.5, 400, "ink3", wraps=True)
                note.setContentsMargins(0, 0, 0, 4)
                grid.addWidget(note, line, 0, 1, 3)
                line += 1
            self._cells.append((name, value, pm, note))
            self._rows.append(row)
        grid.addWidget(Rule(), line, 0, 1, 3)
        self.rows.addLayout(grid)

    def refresh(self, verdict: Verdict, rows: tuple[FigureRow, ...]) -> None:
        """Put new figures in the places of the old ones, without building anything: for dragging."""
        self.filled = None
        tone = {"forward": "fwdT", "back": "backT"}.get(verdict.leans, "accent")
        self.head.set_color(tone)
        self.head.setText(verdict.head)
        self.sentence.setText(verdict.body)
        if self.note.text() != verdict.note:
            self.note.setText(verdict.note)
            self.note.setVisible(bool(verdict.note))
        for k, (row, (name, value, pm, note)) in enumerate(zip(rows, self._cells, strict=False)):
            if row == self._rows[k]:
                continue
            self._rows[k] = row
            name.setText(row.label)
            value.setText(row.value)
            pm.setText(row.doubt)
            if note is not None:
                note.setText(row.note)

    def add_heading(self, text: str, note: str = "") -> QLabel | None:
        """Add a section's heading; return the label of its note, if it has one."""
        row = QHBoxLayout()
        row.setContentsMargins(24, 10, 24, 6)
        row.addWidget(label(text, 16, 600), 1)
        beside = label(note, 13, 400, "ink3") if note else None
        if beside is not None:
            row.addWidget(beside)
        self.rows.addLayout(row)
        return beside

    def add_stop(self, words: str, stop: Callable[[], object]) -> tuple[QLabel, QPushButton]:
        """Add how far some work is, and a button that ends it; return both."""
        row = QHBoxLayout()
        row.setContentsMargins(24, 0, 24, 4)
        said = label(words, 13, 400, "ink2", wrap=True)
        row.addWidget(said, 1)
        button = QPushButton("Stop")
        set_tip(button, "Stop (Esc)")
        button.setAccessibleName("Stop the search")
        # Stopping fills the panel anew, and with it goes the button that is still handling its click.
        button.clicked.connect(lambda: QTimer.singleShot(0, stop))
        row.addWidget(button)
        self.rows.addLayout(row)
        return said, button

    def add_text(self, text: str, color: str = "ink2", size: float = 13) -> QLabel:
        """Add a paragraph; return its label."""
        made = label(text, size, 400, color, wrap=True)
        made.setContentsMargins(24, 3, 24, 4)
        self.rows.addWidget(made)
        return made

    def add_rule(self) -> None:
        """Add a hairline."""
        row = QHBoxLayout()
        row.setContentsMargins(24, 0, 24, 0)
        row.addWidget(Rule())
        self.rows.addLayout(row)

    def add_widget(self, widget: QWidget) -> None:
        """Add any widget across the whole width."""
        self.rows.addWidget(widget)

    def end(self) -> None:
        """Fill what is left."""
        self.rows.addStretch(1)
