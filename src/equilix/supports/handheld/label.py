"""What the top bar shows of it."""

from __future__ import annotations

from equilix.present.drawing.scene import Scene, polyline, rect
from equilix.present.supports.labels import Label, draw_person


def _sign(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(rect(24, middle + 1, 12, 5, 1), None, tone, 1.4)
    scene.path(polyline(((24, middle + 7), (30, middle + 6))), None, tone, 1.4)


LABEL = Label("Handheld", "The rig is held in the hands", _sign)
