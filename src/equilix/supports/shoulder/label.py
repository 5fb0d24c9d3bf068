"""What the top bar shows of it."""

from __future__ import annotations

from equilix.present.drawing.scene import Scene, polyline, rect
from equilix.present.supports.labels import Label, draw_person


def _sign(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(rect(20, middle - 10, 12, 5, 1), None, tone, 1.4)
    scene.path(polyline(((25, middle + 4), (31, middle - 2))), None, tone, 1.4)


LABEL = Label("Shoulder", "The rig rests on the shoulder", _sign)
