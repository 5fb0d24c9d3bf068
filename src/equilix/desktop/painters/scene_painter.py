"""Paints a scene with QPainter."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen, QStaticText

from equilix.desktop.looks.theme import Colors, font, text_scale
from equilix.present.drawing.scene import Anchor, Command, Item, PathItem, Scene, TextItem


def paint_scene(painter: QPainter, scene: Scene, colors: Colors, scale: float | None = None) -> None:
    """Paint `scene` back to front in the colours of `colors`.

    `scale` is the factor on type sizes, the desktop's text scale if it isn't given.
    """
    paint_items(painter, scene.items, colors, text_scale() if scale is None else scale)


def paint_items(painter: QPainter, items: Sequence[Item], colors: Colors, factor: float) -> None:
    """Paint `items` back to front; `factor` is that on type sizes."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for item in items:
        if isinstance(item, PathItem):
            _paint_path(painter, item, colors)
        else:
            _paint_text(painter, item, colors, factor)


def _paint_path(painter: QPainter, item: PathItem, colors: Colors) -> None:
    commands = item.commands
    if item.fill is None and item.stroke is not None and len(commands) == 2 and commands[1][0] == "L":
        ends: tuple[Any, ...] = (*commands[0][1:], *commands[1][1:])
        painter.setPen(_pen(colors.hex(item.stroke), item.width, item.dash))
        painter.drawLine(QLineF(*ends).translated(item.dx, item.dy))
        return
    path = path_of(item.commands)
    if item.dx or item.dy:
        path = path.translated(item.dx, item.dy)
    if item.fill is not None:
        painter.fillPath(path, _fill(colors.hex(item.fill), item.opacity))
    if item.stroke is not None and item.width > 0.0:
        painter.strokePath(path, _pen(colors.hex(item.stroke), item.width, item.dash))


# Pens and fills are kept: making one costs more than drawing with it.
@lru_cache(maxsize=1024)
def _pen(color: str, width: float, dash: tuple[float, ...]) -> QPen:
    pen = QPen(QColor(color), width)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap if dash else Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    if dash:
        pen.setDashPattern([length / width for length in dash])
    return pen


@lru_cache(maxsize=256)
def _fill(color: str, opacity: float) -> QColor:
    fill = QColor(color)
    fill.setAlphaF(opacity)
    return fill


@lru_cache(maxsize=2048)
def path_of(commands: tuple[Command, ...]) -> QPainterPath:
    """Return a path's commands as a QPainterPath; never change what it returns."""
    path = QPainterPath()
    for command in commands:
        values: tuple[Any, ...] = command[1:]
        match command[0]:
            case "M":
                path.moveTo(*values)
            case "L":
                path.lineTo(*values)
            case "C":
                path.cubicTo(*values)
            case _:
                path.closeSubpath()
    return path


def _paint_text(painter: QPainter, item: TextItem, colors: Colors, factor: float) -> None:
    shaped, ascent = _shaped(item.text, item.size, item.weight, factor)
    painter.setFont(font(item.size, item.weight, factor))
    painter.setPen(colors[item.color])
    painter.drawStaticText(QPointF(_start(item, factor), item.y - ascent), shaped)


# Most of what is written stays, or only moves: finding its glyphs costs as much as drawing them.
@lru_cache(maxsize=1024)
def _shaped(text: str, size: float, weight: int, factor: float) -> tuple[QStaticText, float]:
    """Return a text with its glyphs found, and how far its first line's top lies above its baseline (px)."""
    shaped = QStaticText(text)
    shaped.setTextFormat(Qt.TextFormat.PlainText)
    return shaped, QFontMetricsF(font(size, weight, factor)).ascent()


def _start(item: TextItem, factor: float) -> float:
    """Return where a line of text begins (px)."""
    if item.anchor is Anchor.START:
        return item.x
    width = _advance(item.text, item.size, item.weight, factor)
    return item.x - (width if item.anchor is Anchor.END else width / 2.0)


def bounds_of(item: Item, factor: float) -> QRectF:
    """Return what an item covers at most (px); `factor` is that on type sizes."""
    if isinstance(item, PathItem):
        half = item.width / 2.0
        return path_of(item.commands).translated(item.dx, item.dy).controlPointRect().adjusted(-half, -half, half, half)
    box = QFontMetricsF(font(item.size, item.weight, factor)).boundingRect(item.text)
    return box.translated(_start(item, factor), item.y)


@lru_cache(maxsize=4096)
def _advance(text: str, size: float, weight: int, factor: float) -> float:
    return QFontMetricsF(font(size, weight, factor)).horizontalAdvance(text)
