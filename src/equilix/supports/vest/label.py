"""What the top bar shows of it."""

from __future__ import annotations

from equilix.present.drawing.scene import Scene, polyline, rect
from equilix.present.supports.labels import Label, draw_person


def _sign(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(polyline(((22, middle + 6), (28, middle + 9), (32, middle + 3))), None, tone, 1.4)
    scene.line(32, middle - 8, 32, middle + 12, tone, 1.4)
    scene.path(rect(29.5, middle - 11, 5, 4, 1), None, tone, 1.2)


LABEL = Label("Vest", "The rig is a sled on a spring arm, carried on a vest", _sign)
