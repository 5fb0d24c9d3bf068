"""Top bar, rail and status bar."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from equilix.core.assembly.build import Operator
from equilix.core.keys import KEYS
from equilix.core.units import Kind
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, font, text_scale, tint
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.glyphs import paint_brand, paint_chevron, paint_state
from equilix.desktop.widgets.labels import OneLine, label
from equilix.desktop.widgets.plain import cut, set_tip
from equilix.desktop.workspace import Workspace
from equilix.io.files import Obstacle
from equilix.present.balance.panel import Cause
from equilix.present.drawing.scene import Anchor, Scene, rect
from equilix.present.supports.labels import label_for
from equilix.present.units import System, figure


def rail_width() -> int:
    """Return the rail's width (px)."""
    return round(112 * text_scale())


class BrandButton(QAbstractButton):
    """The program's sign and name; opens the menu."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(rail_width())
        self.setAccessibleName("Menu")
        set_tip(self, "Menu (F10)")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        paint_brand(painter, 24, self.height() / 2)
        scene = Scene()
        scene.text(38, self.height() / 2 + 5.5 * text_scale(), "Equilix", 15, 600)
        paint_scene(painter, scene, colors())
        paint_chevron(painter, self.width() - 12, self.height() / 2 + 1)
        _paint_focus(painter, self)
        painter.end()


class Chooser(QAbstractButton):
    """A caption above what is chosen; a click opens a list."""

    def __init__(self, caption: str, width: int) -> None:
        super().__init__()
        self.caption = caption
        self.value = ""
        self.note = ""
        self.opens = True
        self._base_width = width
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(caption)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_value(self, value: str, note: str = "") -> None:
        """Show what is chosen."""
        self.value, self.note = value, note
        self.setAccessibleName(f"{self.caption}: {value}")
        set_tip(self, f"{self.caption}: {value} {note}".strip())
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(round(self._base_width * (1.0 + (text_scale() - 1.0) * 0.3)), round(52 * text_scale()))

    def minimumSizeHint(self) -> QSize:
        return QSize(round(self._base_width * 0.6), round(52 * text_scale()))

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        s = text_scale()
        scene = Scene()
        middle = self.height() / 2
        scene.text(4, middle - 5 * s, self.caption, 12, 400, "ink2")
        painter.setFont(font(15, 600))
        room = self.width() - (26 if self.opens else 8)
        value = cut(self.value, painter.fontMetrics(), room)
        scene.text(4, middle + 13 * s, value, 15, 600)
        used = painter.fontMetrics().horizontalAdvance(value)
        if self.note and used + 12 < room:
            painter.setFont(font(14, 500))
            note = cut(self.note, painter.fontMetrics(), room - used - 10)
            scene.text(4 + used + 8, middle + 13 * s, note, 14, 500)
            used += 8 + painter.fontMetrics().horizontalAdvance(note)
        paint_scene(painter, scene, colors())
        if self.opens:
            paint_chevron(painter, min(4 + used + 14, self.width() - 10), middle + 9 * s)
        _paint_focus(painter, self)
        painter.end()


class Segment(QAbstractButton):
    """One of a row of choices; the chosen one is filled, or tinted with `quiet`."""

    def __init__(self, words: str, tip: str, quiet: bool = False) -> None:
        super().__init__()
        self.words, self.quiet = words, quiet
        self.narrow = self.tight = False
        self.setText(words)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        set_tip(self, tip)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        scene = Scene()
        w, h, on = self.width() - 2.0, self.height() - 2.0, self.isChecked()
        solid = on and not self.quiet and colors().theme != "dark"
        if on:
            scene.path(rect(1, 1, w, h, 5), "accent" if solid else "tint", "accent", 1.2)
        elif self.underMouse():
            scene.path(rect(1, 1, w, h, 5), None, "ghostL", 1.0)
        tone = "onaccent" if solid else "ink" if on else "ink2"
        self.paint_inside(scene, tone, on)
        paint_scene(painter, scene, colors())
        _paint_focus(painter, self)
        painter.end()

    def paint_inside(self, scene: Scene, tone: str, on: bool) -> None:
        """Draw what the choice is called."""
        base = self.height() / 2 + 5 * text_scale()
        scene.text(self.width() / 2, base, self.words, 14, 600 if on else 500, tone, Anchor.MIDDLE)


class UnitSwitch(QWidget):
    """Metric or imperial; the one in force is filled."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.system = System.METRIC
        self.setFixedHeight(round(32 * text_scale()))
        self.fit(False)
        self.setAccessibleName("Units")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.buttons: dict[System, Segment] = {}
        for system, words, name in (
            (System.METRIC, "mm · kg", "Metric units"),
            (System.IMPERIAL, "in · lb", "Imperial units"),
        ):
            button = Segment(words, f"{name} (U switches)")
            button.setAccessibleName(name)
            button.setFixedHeight(round(32 * text_scale()))
            button.clicked.connect(lambda _checked=False, one=system: self.chosen.emit(one.value))
            row.addWidget(button, 1)
            self.buttons[system] = button

    def fit(self, tight: bool) -> None:
        """Take no more room than the words need where that is `tight`."""
        self.setFixedWidth(round((118 if tight else 170) * text_scale()))

    def show_system(self, system: System) -> None:
        self.system = system
        self.buttons[system].setChecked(True)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        scene = Scene()
        scene.path(rect(1, 1, self.width() - 2.0, self.height() - 2.0, 5), None, "ghostL", 1.2)
        paint_scene(painter, scene, colors())
        painter.end()


class SupportButton(Segment):
    """One thing that can carry the rig, with its sign."""

    def __init__(self, support: str, number: int) -> None:
        self._label = label_for(support)
        super().__init__(self._label.name, f"{self._label.tip} (Ctrl+{number})", quiet=True)
        self.support = support
        self.setAccessibleName(f"Support: {self._label.name}")
        self.setFixedHeight(round(32 * text_scale()))

    def sizeHint(self) -> QSize:
        if self.narrow:
            return QSize(34 if self.tight else 40, self.height())
        return QSize(round(66 * text_scale()) + 44, self.height())

    def paint_inside(self, scene: Scene, tone: str, on: bool) -> None:
        h = self.height()
        self._label.sign(scene, h / 2.0, tone)
        if not self.narrow:
            scene.text(42, h / 2 + 5 * text_scale(), self.words, 14, 600 if on else 500, tone)


#: px that brand, book, build, operator and units take at least, and one support with its word.
_BESIDE, _ONE = 790, 118
#: px of the window below which units and margin give way too.
_TIGHT = 800


class SupportSwitch(QWidget):
    """What carries the rig: one button for each support; where the window is narrow only their signs."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Support")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.buttons: dict[str, SupportButton] = {}
        for number, support in enumerate(KEYS, 1):
            button = SupportButton(support, number)
            button.clicked.connect(lambda _checked=False, one=support: self.chosen.emit(one))
            row.addWidget(button)
            self.buttons[support] = button
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        self.show_support(KEYS[0], False)

    def show_support(self, support: str, there: bool = True) -> None:
        """Show what carries the build that is `there`; without one nothing can be chosen."""
        self.support = support
        self.buttons[support].setChecked(True)
        for button in self.buttons.values():
            button.setEnabled(there)

    def fit(self, window_width: int) -> None:
        """Show words or signs alone, by the window's width (px)."""
        narrow = window_width < max(1200, _BESIDE + _ONE * len(self.buttons)) * text_scale()
        for button in self.buttons.values():
            button.narrow, button.tight = narrow, window_width < _TIGHT * text_scale()
            button.setFixedWidth(button.sizeHint().width())
            button.update()
        # The choosers beside it give way, its words never do.
        self.setFixedWidth(sum(button.width() + 4 for button in self.buttons.values()) - 4)


class TopBar(QWidget):
    """Brand, book, build, operator and units."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(round(52 * text_scale()))
        self.brand = BrandButton()
        self.brand.setFixedHeight(52)
        self.book = Chooser("Book", 150)
        self.book.opens = False
        self.build = Chooser("Build", 236)
        self.support = SupportSwitch()
        self.operator = Chooser("Operator", 230)
        self.units = UnitSwitch()
        self._row = row = QHBoxLayout(self)
        row.setSpacing(14)
        row.addWidget(self.brand)
        row.addSpacing(6)
        row.addWidget(self.book)
        row.addWidget(self.build)
        row.addWidget(self.support)
        row.addStretch(1)
        row.addWidget(self.operator)
        row.addStretch(1)
        row.addWidget(self.units)

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.support.fit(self.width())
        tight = self.width() < _TIGHT * text_scale()
        self.units.fit(tight)
        self._row.setContentsMargins(0, 0, 10 if tight else 24, 0)

    def show_operator(self, operator: Operator, system: System) -> None:
        """Show who wears the rig."""
        stature = figure(operator.stature, Kind.STATURE, system, extra=-2)
        mass = figure(operator.body_mass, Kind.MASS, system, extra=-2)
        self.operator.show_value(operator.name, f"{stature} · {mass}")

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "paper")
        painter.setPen(QPen(colors()["rule2"], 1))
        painter.drawLine(QPointF(0, self.height() - 0.5), QPointF(self.width(), self.height() - 0.5))
        painter.drawLine(QPointF(rail_width() - 0.5, 0), QPointF(rail_width() - 0.5, self.height()))
        painter.end()


class RailButton(QAbstractButton):
    """One room: its key, its verb, and a mark for how it stands."""

    def __init__(self, number: int, text: str) -> None:
        super().__init__()
        self.number = number
        self.mark = "none"
        self._said = ""
        self.toggled.connect(lambda _on: self._say())
        self.setText(text)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFixedSize(rail_width(), round(44 * text_scale()))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        set_tip(self, f"{text} (Alt+{number})")

    def show_mark(self, mark: str) -> None:
        """Show how the room stands: "settled", "part", "look" or "none"."""
        words = {"settled": "settled", "part": "partly done", "look": "needs attention", "none": "not started"}[mark]
        self.mark = mark
        self._said = words
        self._say()
        self.update()

    def _say(self) -> None:
        self.setAccessibleName(f"{self.text()}, {self._said}{', open' if self.isChecked() else ''}")

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        on = self.isChecked()
        if on or self.underMouse():
            painter.setOpacity(1.0 if on else 0.5)
            fill(painter, self.rect(), "tint")
            painter.setOpacity(1.0)
        if on:
            fill(painter, QRectF(0, 0, 3, self.height()), "accent")
        scene = Scene()
        base = self.height() / 2 + 5 * text_scale()
        scene.text(16, base, str(self.number), 13, 500, "ink2")
        scene.text(16 + 16 * text_scale(), base, self.text(), 15, 600 if on else 500, "accent" if on else "ink")
        paint_scene(painter, scene, colors())
        paint_state(painter, self.mark, self.width() - 11, self.height() / 2)
        _paint_focus(painter, self)
        painter.end()


class Rail(QWidget):
    """The rooms, top to bottom, and the key to their marks."""

    chosen = Signal(str)

    def __init__(self, rooms: Mapping[str, str]) -> None:
        super().__init__()
        self.setFixedWidth(rail_width())
        self.buttons = {key: RailButton(number, name) for number, (key, name) in enumerate(rooms.items(), 1)}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 0)
        column.setSpacing(4)
        for key, button in self.buttons.items():
            column.addWidget(button)
            button.clicked.connect(lambda _checked=False, k=key: self.chosen.emit(k))
        column.addStretch(1)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "rail")
        painter.setPen(QPen(colors()["rule2"], 1))
        painter.drawLine(QPointF(self.width() - 0.5, 0), QPointF(self.width() - 0.5, self.height()))
        scene = Scene()
        keys = (("settled", "settled"), ("part", "partly done"), ("look", "attention"), ("none", "not started"))
        y = self.height() - 92.0 * text_scale()
        for mark, words in keys:
            paint_state(painter, mark, 20, y)
            scene.text(32, y + 4.5, words, 13, 400, "ink2")
            y += 19 * text_scale()
        paint_scene(painter, scene, colors())
        painter.end()


class StatusBar(QWidget):
    """Whether all is saved, what was said last, and what the figures' uncertainty comes from."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(round(28 * text_scale()))
        self.saved = label("", 13, 500, "ink2")
        self.cause = OneLine("ink2")
        self.link = QPushButton()
        self.part_id = ""
        self.link.setProperty("role", "link")
        self.link.hide()
        self.context = OneLine("ink3")
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 0, 24, 0)
        row.setSpacing(8)
        self.saved.setMinimumWidth(round(106 * text_scale()))
        row.addWidget(self.saved)
        row.addSpacing(8)
        row.addWidget(self.cause)
        row.addWidget(self.link)
        row.addStretch(1)
        row.addWidget(self.context)

    def say(self, cause: Cause) -> None:
        """Show why the CG is doubtful, with a link to what would help."""
        self.cause.setText(cause.text)
        self.link.setText(cause.cure)
        self.link.setVisible(bool(cause.cure))
        self.part_id = cause.part_id

    def show_saved(self, workspace: Workspace, trouble: Obstacle | None, saved_at: str) -> None:
        """Say whether all is saved; `trouble` is what others did to the file."""
        if workspace.journal is not None and workspace.journal.problem:
            self.saved.setText(workspace.journal.problem)
        elif workspace.reading:
            self.saved.setText("Read only")
        elif trouble is Obstacle.CHANGED:
            self.saved.setText("Changed by somebody else")
        elif trouble is Obstacle.GONE:
            self.saved.setText("The file is gone")
        elif workspace.unsaved:
            self.saved.setText("Not saved yet")
        else:
            self.saved.setText(f"Saved {saved_at}".strip() if workspace.path is not None else "No changes")

    def restyle(self) -> None:
        """Take type and colours from the theme."""
        self.saved.setFont(font(13, 500))
        tint(self.saved, "ink2")
        for line in (self.cause, self.context):
            line.setFont(font(13, 400))
        self.update()

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        fill(painter, self.rect(), "rail")
        painter.setPen(QPen(colors()["rule2"], 1))
        painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
        painter.end()


def _paint_focus(painter: QPainter, widget: QWidget) -> None:
    if widget.hasFocus():
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colors()["accent"], 2))
        painter.drawRect(widget.rect().adjusted(1, 1, -1, -1))
