"""What the top bar shows of it."""

from __future__ import annotations

from equilix.present.drawing.scene import Scene, rect
from equilix.present.supports.labels import Label


def _sign(scene: Scene, middle: float, tone: str) -> None:
    scene.path(rect(14, middle - 10, 14, 6, 1), None, tone, 1.4)
    for foot in (12.0, 21.0, 30.0):
        scene.line(21, middle - 4, foot, middle + 10, tone, 1.4)


LABEL = Label("Tripod", "The rig stands on a tripod's head, or on a table", _sign)
