"""Signs for mounts: drawn where a mount is free, and in lists beside its name."""

from __future__ import annotations

import math

from equilix.core.kit.parts import MountKind
from equilix.present.drawing.scene import Scene, arc, circle, polygon, polyline, rect

#: px, across a sign in a drawing.
SIZE = 14.0


def draw_socket(scene: Scene, kind: MountKind, x: float, y: float, color: str, width: float = 1.4) -> None:
    """Draw the sign of a `kind` of mount about (x, y)."""
    if kind in (MountKind.LIGHT_RODS, MountKind.STUDIO_RODS, MountKind.RODS_19):
        scene.path(circle(x - 4, y, 3.2), None, color, width)
        scene.path(circle(x + 4, y, 3.2), None, color, width)
    elif kind in (MountKind.LIGHT_ROD_CLAMP, MountKind.STUDIO_ROD_CLAMP, MountKind.ROD_CLAMP_19):
        scene.path(rect(x - 7, y - 4.5, 14, 9, 2), None, color, width)
        scene.path(circle(x - 3.2, y, 2), None, color, width)
        scene.path(circle(x + 3.2, y, 2), None, color, width)
    elif kind in (MountKind.QUARTER_20, MountKind.THREE_EIGHTHS_16):
        scene.path(circle(x, y, 5.5), None, color, width)
        scene.path(arc(x, y, 3.0, 0.6, 4.6), None, color, width)
        scene.path(circle(x, y, 1.0), color)
    elif kind in (MountKind.COLD_SHOE, MountKind.ACCESSORY_RAIL):
        points = ((x - 6, y - 3), (x - 6, y + 4), (x + 6, y + 4), (x + 6, y - 3), (x + 3, y - 3), (x + 3, y + 1))
        scene.path(polyline((*points, (x - 3, y + 1), (x - 3, y - 3), (x - 6, y - 3))), None, color, width)
    elif kind is MountKind.ROSETTE:
        scene.path(circle(x, y, 3.0), None, color, width)
        for i in range(8):
            a = i * math.pi / 4
            scene.line(
                x + 4.2 * math.cos(a), y + 4.2 * math.sin(a), x + 6.4 * math.cos(a), y + 6.4 * math.sin(a), color, width
            )
    elif kind in (MountKind.DOVETAIL, MountKind.WEDGE_PLATE):
        scene.path(
            polygon(((x - 4, y - 3.5), (x + 4, y - 3.5), (x + 7, y + 3.5), (x - 7, y + 3.5))), None, color, width
        )
    elif kind is MountKind.LENS_MOUNT:
        scene.path(circle(x, y, 5.5), None, color, width)
        for i in range(3):
            a = -math.pi / 2 + i * math.tau / 3
            scene.path(circle(x + 3.0 * math.cos(a), y + 3.0 * math.sin(a), 0.9), color)
    elif kind is MountKind.LENS_FRONT:
        scene.path(arc(x, y, 5.5, -1.1, 4.2), None, color, width)
    elif kind is MountKind.V_LOCK:
        scene.path(polygon(((x - 5.5, y - 5), (x + 5.5, y - 5), (x, y + 6))), None, color, width)
    else:
        scene.path(rect(x - 5, y - 4, 10, 8, 1.5), None, color, width)
