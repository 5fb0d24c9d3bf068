"""Paints a scene with QPainter."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen

from equilix.desktop.theme import Colors, font
from equilix.present.scene import Anchor, PathItem, Scene, TextItem


def paint_scene(painter: QPainter, scene: Scene, colors: Colors) -> None:
    """Paint `scene` back to front in the colours of `colors`."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
    for item in scene.items:
        if isinstance(item, PathItem):
            _paint_path(painter, item, colors)
        else:
            paint_text(painter, item, colors)


def _paint_path(painter: QPainter, item: PathItem, colors: Colors) -> None:
    path = path_of(item)
    if item.fill is not None:
        fill = QColor(colors[item.fill])
        fill.setAlphaF(item.opacity)
        painter.fillPath(path, fill)
    if item.stroke is not None:
        pen = QPen(colors[item.stroke], item.width)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap if item.dash else Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        if item.dash:
            pen.setDashPattern([length / item.width for length in item.dash])
        painter.strokePath(path, pen)


def path_of(item: PathItem) -> QPainterPath:
    """Return a path item as a QPainterPath."""
    path = QPainterPath()
    for command in item.commands:
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


def paint_text(painter: QPainter, item: TextItem, colors: Colors) -> None:
    """Paint one line of text."""
    face = font(item.size, item.weight)
    painter.setFont(face)
    painter.setPen(colors[item.color])
    x = item.x
    if item.anchor is not Anchor.START:
        width = QFontMetricsF(face).horizontalAdvance(item.text)
        x -= width if item.anchor is Anchor.END else width / 2.0
    painter.drawText(QPointF(x, item.y), item.text)
