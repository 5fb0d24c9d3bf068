"""The moment ledger: a real table whose bars start at the support line."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QRect,
    QSignalBlocker,
    Qt,
    Signal,
)
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QKeySequence, QPainter, QPaintEvent, QRegion, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QTableView, QVBoxLayout, QWidget

from equilix.core.units import Kind
from equilix.desktop.jobs.faults import shown_once
from equilix.desktop.looks.theme import colors, fill, font, text_scale
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.widgets.copying import copy_table
from equilix.desktop.widgets.plain import as_tip, cut
from equilix.present.balance.elevation import support_line
from equilix.present.balance.panel import BalanceModel, LedgerRow
from equilix.present.drawing.scene import Anchor, Command, Scene, hatch, polygon, rect, text_width
from equilix.present.supports.text import FORE_AFT
from equilix.present.units import System, figure

_Index = QModelIndex | QPersistentModelIndex
_NUMBERS = 64
#: px at the right that the scroll bar may take.
_SCROLL = 12
_COLUMNS = ("part", "pull", "moment", "mass", "arm")


def number_columns(width: float) -> tuple[str, ...]:
    """Return the figures for which a ledger `width` px wide has room."""
    return ("moment", "mass", "arm") if width >= 620 * text_scale() else ("moment", "arm")


def _differs(old: LedgerRow, new: LedgerRow) -> bool:
    """Whether a row looks other than before; moments come out of sums that round differently each time."""
    return abs(old.moment - new.moment) > 1e-6 or replace(old, moment=new.moment) != new


class LedgerModel(QAbstractTableModel):
    """Rows of the ledger; column "pull" holds the moment (N m) for the bar."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[LedgerRow, ...] = ()

    def show_rows(self, rows: tuple[LedgerRow, ...]) -> bool:
        """Show `rows`; return whether they are the same parts, of which only figures have changed."""
        if [row.placed_id for row in rows] == [row.placed_id for row in self.rows]:
            changed = [i for i, (old, new) in enumerate(zip(self.rows, rows, strict=True)) if _differs(old, new)]
            self.rows = rows
            # Row by row: a view paints all that lies between the first and the last that it is told of.
            for i in changed:
                self.dataChanged.emit(self.index(i, 1), self.index(i, len(_COLUMNS) - 1))
            return True
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()
        return False

    def rowCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(_COLUMNS)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return (f"{row.letter}  {row.name}", "", row.moment_text, row.mass_text, row.arm_text)[index.column()]
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return row.spoken
        if role == Qt.ItemDataRole.ToolTipRole:
            return as_tip(row.spoken)
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return _COLUMNS[section]
        return None


def paint_bar(
    scene: Scene, moment: float, line: float, top: float, height: float, px_per_nm: float, chosen: bool = False
) -> None:
    """Add a pointed bar: solid to the right for forward, hatched to the left for back."""
    forward = moment >= 0.0
    outline, hatched = _bar(round(max(abs(moment) * px_per_nm, 2.0), 2), height, forward)
    edge = "accent" if chosen else ("fwd" if forward else "back")
    if forward:
        scene.put(outline, line, top, "fwd", edge if chosen else None, 2.0 if chosen else 1.0)
    else:
        scene.put(outline, line, top, "paper", edge, 2.0 if chosen else 1.2)
        scene.put(hatched, line, top, None, "back", 1.0)


# Kept: of the bars in a ledger most stay as they are while one part slides.
@lru_cache(maxsize=512)
def _bar(length: float, height: float, forward: bool) -> tuple[tuple[Command, ...], tuple[Command, ...]]:
    """Return the outline of a bar from (0, 0), and its hatch where it points back."""
    sign, tip = (1.0 if forward else -1.0), min(6.0, length)
    end = sign * length
    points = ((0.0, 0.0), (end - sign * tip, 0.0), (end, height / 2), (end - sign * tip, height), (0.0, height))
    return polygon(points), () if forward else hatch(points, 3.0)


@lru_cache(maxsize=2048)
def _elided(name: str, weight: int, room: int, factor: float) -> str:
    """Return a part's name, cut off with three dots where it has no room (px)."""
    return cut(name, QFontMetricsF(font(13, weight, factor)), room)


class _Port(QWidget):
    """What the table's rows are drawn on."""

    left = Signal()

    def leaveEvent(self, event: QEvent) -> None:
        self.left.emit()


class _Table(QTableView):
    """The table, drawn in one piece: the bars' grid behind it, the support line before it.

    It is read and walked as a table; its cells are drawn row by row, those alone that have to be painted anew.
    """

    copied = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.px_per_nm = 40.0
        self.grid = 1.0
        self._under = -1  # row that the mouse is over
        self.entered.connect(self._enter)
        # One of ours: for one that Qt made, the binding looks through all kinds of widgets there are (as long as a
        # whole analysis).
        self._port = _Port(self)
        self._port.left.connect(lambda: self._go_over(-1))
        self._port.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setViewport(self._port)

    def _enter(self, index: QModelIndex) -> None:
        self._go_over(index.row())

    def _go_over(self, row: int) -> None:
        if row != self._under:
            self._under = row
            self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copied.emit()
            event.accept()
            return
        super().keyPressEvent(event)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        fill(painter, event.rect(), "paper")
        paint_scene(painter, self._scene(event.region()), colors())
        painter.end()

    def _scene(self, region: QRegion) -> Scene:
        """Draw the rows that meet a region; only of those are the figures that change as something is dragged."""
        model, scene = self.model(), Scene()
        assert isinstance(model, LedgerModel)
        lefts = [float(self.columnViewportPosition(k)) for k in range(len(_COLUMNS))]
        wides = [float(self.columnWidth(k)) for k in range(len(_COLUMNS))]
        line, height = lefts[1] + wides[1] / 2.0, float(self.viewport().height())
        step = self.px_per_nm * self.grid
        for n in range(-int(wides[1] / 2.0 / step), int(wides[1] / 2.0 / step) + 1):
            if n:
                scene.line(line + n * step, 0.0, line + n * step, height, "rule", 1.0)
        seen = []
        chosen = self.currentIndex().row() if self.selectionModel().hasSelection() else -1
        for k, row in enumerate(model.rows):
            top, tall = float(self.rowViewportPosition(k)), float(self.rowHeight(k))
            if top < height and region.intersects(QRect(0, int(top), int(lefts[-1] + wides[-1]), int(tall))):
                seen.append((row, top, tall, k == chosen))
                if k in (chosen, self._under):
                    shade = 1.0 if k == chosen else 0.5
                    scene.path(rect(0.0, top, lefts[-1] + wides[-1], tall), "tint", None, 0.0, (), shade)
        if region.boundingRect().left() < lefts[1]:
            self._add_names(scene, seen, wides[0])
        for column, weight, tone in ((3, 400, "ink2"), (2, 500, "ink"), (4, 400, "ink2")):
            if self.isColumnHidden(column):
                continue
            right = lefts[column] + wides[column] - 3.0
            for row, top, tall, _ in seen:
                text = (row.moment_text, row.mass_text, row.arm_text)[column - 2]
                scene.text(right, _base(top, tall), text, 13, weight, tone, Anchor.END)
        for row, top, tall, picked in seen:
            paint_bar(scene, row.moment, line, top + 3.0, tall - 6.0, self.px_per_nm, picked)
        scene.line(line, 0.0, line, height, "ink", 1.2)
        return scene

    def _add_names(self, scene: Scene, seen: list[tuple[LedgerRow, float, float, bool]], wide: float) -> None:
        s = text_scale()
        for row, top, tall, picked in seen:
            scene.text(2.0, _base(top, tall), row.letter, 13, 600, "accent" if picked else "ink2")
            left = 18.0 * s + (6.0 if len(row.letter) > 1 else 0.0)
            weight = 600 if picked else 400
            name = _elided(row.name, weight, int(wide - left - 5.0), s)
            scene.text(left, _base(top, tall), name, 13, weight)


def _base(top: float, tall: float) -> float:
    """Return where the letters of a row stand (px)."""
    return top + math.floor((tall - 1.0) / 2.0) + 4.8 * text_scale()


def copy_ledger(model: BalanceModel) -> None:
    """Copy the whole ledger with its net row, headings and units."""
    rows = [*model.rows, *([model.net] if model.net is not None else [])]
    copy_table(
        ["", "part", f"moment, {model.moment_unit}", f"mass, {model.mass_unit}", f"distance, {model.length_unit}"],
        [[row.letter, row.name, row.moment_text, row.mass_text, row.arm_text] for row in rows],
    )


class NetRow(QWidget):
    """The ledger's last line: all parts together, with its uncertainty."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.model: BalanceModel | None = None
        self.px_per_nm = 40.0
        self.preview = ""
        self.preview_moment: float | None = None
        self.setFixedHeight(round(30 * text_scale()))
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        model = self.model
        painter = QPainter(self)
        fill(painter, event.rect(), "paper")
        scene = Scene()
        width, line = float(self.width()), support_line(self.width())
        scene.line(0, 1, width, 1, "ink", 1.6)
        scene.line(line, 0, line, self.height(), "ink", 1.2)
        if model is not None and model.net is not None:
            net = model.net
            base = self.height() / 2 + 5
            scene.text(2, base, "Total", 14, 600)
            scene.text(2 + 32 * text_scale(), base, f"about {model.noun}", 13, 400, "ink3")
            length = net.moment * self.px_per_nm
            end, tip = line + length, min(7.0, abs(length))
            sign = 1.0 if length >= 0 else -1.0
            points = ((line, 8.0), (end - sign * tip, 8.0), (end, 15.5), (end - sign * tip, 23.0), (line, 23.0))
            scene.path(polygon(points), "p1", "ink", 1.2) if colors().theme == "dark" else scene.path(
                polygon(points), "ink"
            )
            spread = 2.0 * model.net_uncertainty * self.px_per_nm
            tone = "fwd" if length >= 0 else "back"
            scene.line(end - spread, 15.5, end + spread, 15.5, tone, 1.6)
            for x in (end - spread, end + spread):
                scene.line(x, 11, x, 20, tone, 1.6)
            if self.preview_moment is not None:
                x = line + self.preview_moment * self.px_per_nm
                scene.line(x, 5, x, 26, "accent", 1.4, (4, 3))
                anchor, at = (Anchor.END, min(line, x) - 8) if length >= 0 else (Anchor.START, max(line, x) + 8)
                scene.text(at, base, self.preview, 13, 500, "accent", anchor)
            texts = {"moment": net.moment_text, "mass": net.mass_text, "arm": net.arm_text}
            columns = number_columns(width)
            for place, column in enumerate(columns):
                text, right = texts[column], (len(columns) - 1 - place) * _NUMBERS
                scene.text(width - _SCROLL - right * text_scale() - 2, base, text, 14, 600, "ink", Anchor.END)
        paint_scene(painter, scene, colors())
        painter.end()


_TITLE = "Table of moments"


class LedgerHead(QWidget):
    """The ledger's title and column heads."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.model: BalanceModel | None = None
        self.grid_text = ""
        self.setFixedHeight(round(32 * text_scale()))

    @shown_once
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        scene = Scene()
        width, line, s = float(self.width()), support_line(self.width()), text_scale()
        base = 21.0
        scene.line(0, 0.5, width, 0.5, "rule", 1.0)
        scene.text(0, base, _TITLE, 16, 600)
        roomy = width >= 660 * s
        if roomy:
            scene.text(text_width(_TITLE, 16) + 14 * s, base, self.grid_text, 13, 400, "ink3")
        sides = self.model.sides if self.model is not None else FORE_AFT
        for way, tone, sign, anchor in (
            (sides.less, "backT", -1.0, Anchor.END),
            (sides.more, "fwdT", 1.0, Anchor.START),
        ):
            if not roomy:
                continue
            words = f"pulls {way}"
            scene.text(line + sign * 14, base, words, 13, 600, tone, anchor)
            # A little less than it may be: letters are narrower here than the widest.
            x1 = line + sign * (16 + 0.9 * text_width(words, 13) * s)
            x2 = x1 + sign * 24
            scene.line(x1, base - 4, x2, base - 4, tone, 1.4)
            scene.line(x2, base - 4, x2 - sign * 5, base - 8, tone, 1.4)
            scene.line(x2, base - 4, x2 - sign * 5, base, tone, 1.4)
        scene.line(line, 0, line, self.height(), "ink", 1.2)
        if self.model is not None:
            units = {"moment": self.model.moment_unit, "mass": self.model.mass_unit, "arm": self.model.length_unit}
            columns = number_columns(width)
            for place, column in enumerate(columns):
                text, right = f"{column}, {units[column]}", (len(columns) - 1 - place) * _NUMBERS
                scene.text(width - _SCROLL - right * s - 2, base, text, 12.5, 400, "ink2", Anchor.END)
        paint_scene(painter, scene, colors())
        painter.end()


class Ledger(QWidget):
    """Head, table and net row; `part_chosen` carries the placed part's id."""

    part_chosen = Signal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.head = LedgerHead(self)
        self.table = _Table(self)
        self.net = NetRow(self)
        self.rows = LedgerModel()
        self.table.setModel(self.rows)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setMouseTracking(True)
        self.table.setTabKeyNavigation(False)
        self.table.horizontalHeader().hide()
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setMinimumSectionSize(12)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.table.setAccessibleName("Table of moments")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.head)
        layout.addWidget(self.table, 1)
        layout.addWidget(self.net)
        self.table.selectionModel().currentRowChanged.connect(self._choose)
        self.table.copied.connect(self.copy)

    def show_model(
        self, model: BalanceModel, selected: str, system: System, preview_moment: float | None, grow_only: bool = False
    ) -> None:
        """Show the ledger; `grow_only` keeps the bars' scale unless one would not fit."""
        half = self._half_bar() - 24.0
        largest = max([abs(row.moment) for row in model.rows] + [1.0])
        if model.net is not None:
            largest = max(largest, abs(model.net.moment) + 2.0 * model.net_uncertainty)
        px = half / largest
        if grow_only:
            px = min(px, self.table.px_per_nm)
        grid = next((g for g in (0.5, 1.0, 2.0, 5.0, 10.0, 20.0) if g * px >= 28), 50.0)
        if system is System.IMPERIAL:
            grid *= 1.1298482902761668  # a grid of 5, 10 … lbf·in
        rescaled = px != self.table.px_per_nm
        self.table.px_per_nm, self.table.grid = px, grid
        self.head.model = self.net.model = model
        self.head.grid_text = f"one line is {figure(grid, Kind.MOMENT, system)}"
        self.net.px_per_nm = px
        self.net.preview_moment = preview_moment
        if preview_moment is not None:
            self.net.preview = f"after: {figure(preview_moment, Kind.MOMENT, system, sign=True, unit=False)}"
        with QSignalBlocker(self.table.selectionModel()):
            same = self.rows.show_rows(model.rows)
            index = next((i for i, row in enumerate(model.rows) if row.placed_id == selected), -1)
            if index >= 0:
                self.table.selectionModel().setCurrentIndex(
                    self.rows.index(index, 0),
                    QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows,
                )
                self.table.scrollTo(self.rows.index(index, 0))
            else:
                self.table.clearSelection()
                self.table.selectionModel().clearCurrentIndex()
        height = round(18 * text_scale())
        if self.table.verticalHeader().defaultSectionSize() != height:
            self.table.verticalHeader().setDefaultSectionSize(height)
        if not grow_only or rescaled or not same:
            self.table.viewport().update()
            self.head.update()
        self.net.update()

    def copy(self) -> None:
        """Copy the ledger as it is seen."""
        if self.head.model is not None:
            copy_ledger(self.head.model)

    def _half_bar(self) -> float:
        line = support_line(self.width())
        return max(
            min(
                self.width() - _SCROLL - len(number_columns(self.width())) * _NUMBERS * text_scale() - line, line - 90.0
            ),
            60.0,
        )

    @shown_once
    def resizeEvent(self, event: QResizeEvent) -> None:
        line, half = support_line(self.width()), self._half_bar()
        numbers = _NUMBERS * text_scale()
        name = line - half
        rest = self.width() - _SCROLL - line - half
        narrow = len(number_columns(self.width())) < 3
        self.table.setColumnHidden(3, narrow)
        first = max(rest - (1 if narrow else 2) * numbers, numbers)
        for column, width in enumerate((name, 2 * half, first, numbers, numbers)):
            self.table.setColumnWidth(column, math.floor(width))

    def _choose(self, current: QModelIndex, _previous: QModelIndex) -> None:
        # Qt makes some row the current one by itself now and then; only the user's choice counts.
        if current.isValid() and self.table.hasFocus():
            self.part_chosen.emit(self.rows.rows[current.row()].placed_id)
