"""What the top bar shows of it."""

from __future__ import annotations

from equilix.present.drawing.scene import Scene, rect
from equilix.present.supports.labels import Label


def _sign(scene: Scene, middle: float, tone: str) -> None:
    scene.path(rect(12, middle - 2, 18, 8, 2), None, tone, 1.4)


LABEL = Label("Perch", "The rig rests on a flat cushion", _sign)
