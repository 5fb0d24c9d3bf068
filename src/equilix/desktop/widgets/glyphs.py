"""Small signs in lists: kinds of part, how a figure is known, mounts."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter

from equilix.core.kit.parts import Category, HowKnown, MountKind, Shape
from equilix.desktop.looks.theme import colors
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.present.drawing.scene import Scene, arc, circle, polygon, polyline, rect
from equilix.present.drawing.silhouettes import View, silhouette
from equilix.present.drawing.sockets import draw_socket

_GLYPH_SIZE: dict[Category, tuple[float, float]] = {
    Category.BODY: (18, 14),
    Category.LENS: (20, 13),
    Category.MATTE_BOX: (14, 16),
    Category.BATTERY: (11, 16),
    Category.BATTERY_PLATE: (7, 16),
    Category.HANDLE: (20, 12),
    Category.MONITOR: (7, 15),
    Category.GRIP: (8, 17),
    Category.PAD: (20, 13),
    Category.RODS: (21, 4),
    Category.PLATE: (20, 5),
    Category.SENDER: (10, 15),
    Category.FOCUS: (11, 16),
    Category.LENS_SUPPORT: (12, 15),
    Category.ARM: (16, 12),
    Category.CLAMP: (12, 12),
    Category.ADAPTER: (8, 14),
    Category.AUDIO: (20, 12),
    Category.CAGE: (18, 15),
}


def paint_category(painter: QPainter, category: Category, area: QRectF, color: str) -> None:
    """Paint the glyph of a kind of part in the middle of `area`: lines only, no fill."""
    scene = Scene()
    cx, cy = area.center().x(), area.center().y()
    w, h = _GLYPH_SIZE.get(category, (14, 14))
    if category is Category.WEIGHT:
        scene.path(polygon(((cx - 8, cy + 6), (cx + 8, cy + 6), (cx + 5, cy - 3), (cx - 5, cy - 3))), None, color, 1.3)
        scene.path(circle(cx, cy - 5.5, 2.2), None, color, 1.3)
    elif category is Category.CABLE:
        scene.path((("M", cx - 9, cy + 4), ("C", cx - 2, cy - 12, cx + 2, cy + 14, cx + 9, cy - 4)), None, color, 1.3)
    elif category is Category.BODY:
        scene.path(rect(cx - 10, cy - 6, 15, 12, 2), None, color, 1.3)
        scene.path(
            polygon(((cx + 5, cy - 2.5), (cx + 10, cy - 4.5), (cx + 10, cy + 4.5), (cx + 5, cy + 2.5))),
            None,
            color,
            1.3,
        )
    elif category is Category.LENS:
        outline = ((cx - 10, cy - 4), (cx + 3, cy - 4), (cx + 5, cy - 6), (cx + 10, cy - 6))
        scene.path(polygon((*outline, *((x, 2 * cy - y) for x, y in reversed(outline)))), None, color, 1.3)
        for x in (cx - 6, cx - 2):
            scene.line(x, cy - 4, x, cy + 4, color, 1.2)
    elif category is Category.CLAMP:
        draw_socket(scene, MountKind.ROSETTE, cx, cy, color, 1.3)
    else:
        shape = Shape.CYLINDER if category in (Category.LENS, Category.ADAPTER) else Shape.BOX
        for stroke in silhouette(category, shape, View.SIDE, w, h):
            if stroke.role == "detail" and category not in (Category.BATTERY, Category.SENDER):
                continue
            flipped = tuple(
                (c[0], *(v for u, w2 in zip(c[1::2], c[2::2], strict=True) for v in (cx + float(u), cy - float(w2))))
                for c in stroke.commands
            )
            scene.path(flipped, None, color, 1.3)
    paint_scene(painter, scene, colors())


def paint_how(painter: QPainter, how: HowKnown, x: float, y: float) -> None:
    """Paint the sign of how a figure is known about (x, y), 14 px."""
    scene = Scene()
    if how is HowKnown.WEIGHED:
        scene.path(polygon(((x - 5.5, y + 6), (x + 5.5, y + 6), (x + 3.5, y - 2), (x - 3.5, y - 2))), "accent")
        scene.path(circle(x, y - 4, 2.0), None, "accent", 1.4)
    elif how is HowKnown.SHEET:
        page = ((x - 4.5, y - 6), (x + 2, y - 6), (x + 4.5, y - 3), (x + 4.5, y + 6), (x - 4.5, y + 6))
        scene.path(polygon(page), None, "ink", 1.2)
        for dy in (-1.0, 2.0):
            scene.line(x - 2.2, y + dy, x + 2.2, y + dy, "ink", 1.0)
    else:
        scene.path(circle(x, y, 6), None, "ink", 1.1, (2.2, 1.8))
        for dy in (-1.4, 1.6):
            wave = (
                ("M", x - 2.8, y + dy + 0.5),
                ("C", x - 1, y + dy - 1.6, x + 1, y + dy + 1.6, x + 2.8, y + dy - 0.5),
            )
            scene.path(wave, None, "ink", 1.1)
    paint_scene(painter, scene, colors())


def paint_mount(painter: QPainter, kind: MountKind, x: float, y: float, color: str = "ink2") -> None:
    """Paint a mount's sign about (x, y)."""
    scene = Scene()
    draw_socket(scene, kind, x, y, color, 1.2)
    paint_scene(painter, scene, colors())


def paint_brand(painter: QPainter, x: float, y: float) -> None:
    """Paint the quartered circle that stands for the program."""
    scene = Scene()
    scene.path(circle(x, y, 8), None, "ink", 1.6)
    for start in (-math.pi / 2, math.pi / 2):
        scene.path((*arc(x, y, 8, start, start + math.pi / 2), ("L", x, y), ("Z",)), "ink")
    paint_scene(painter, scene, colors())


def paint_state(painter: QPainter, state: str, x: float, y: float) -> None:
    """Paint a rail mark: "settled", "part", "look" or "none"."""
    scene = Scene()
    if state == "look":
        scene.path(polygon(((x, y - 4.5), (x - 5, y + 4), (x + 5, y + 4))), "fwd")
    else:
        scene.path(
            circle(x, y, 4), "accent" if state == "settled" else None, "accent" if state != "none" else "ink3", 1.3
        )
        if state == "part":
            scene.path((*arc(x, y, 4, math.pi / 2, 3 * math.pi / 2), ("Z",)), "accent")
    paint_scene(painter, scene, colors())


def paint_chevron(painter: QPainter, x: float, y: float, color: str = "ink2") -> None:
    """Paint a small arrow that says: there is a list."""
    scene = Scene()
    scene.path(polyline(((x - 4, y - 2), (x, y + 2.5), (x + 4, y - 2))), None, color, 1.5)
    paint_scene(painter, scene, colors())
