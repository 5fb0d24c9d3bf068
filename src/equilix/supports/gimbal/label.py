"""What the top bar shows of it."""

from __future__ import annotations

from equilix.present.drawing.scene import Scene, circle, polyline
from equilix.present.supports.labels import Label


def _sign(scene: Scene, middle: float, tone: str) -> None:
    scene.path(circle(21, middle + 3, 6), None, tone, 1.4)
    scene.path(polyline(((10, middle - 10), (32, middle - 10))), None, tone, 1.4)
    scene.path(
        polyline(((21, middle - 10), (21, middle - 6), (12, middle - 6), (12, middle + 3), (15, middle + 3))),
        None,
        tone,
        1.4,
    )


LABEL = Label("Gimbal", "The rig hangs in a powered gimbal, balanced about three axes", _sign)
