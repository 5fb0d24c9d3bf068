"""What the top bar shows of it."""

from __future__ import annotations

import math

from equilix.present.drawing.scene import Scene, arc, rect
from equilix.present.supports.labels import Label, draw_person


def _sign(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(arc(18, middle - 2, 10, -math.pi / 2, 0.0), None, tone, 1.4)
    scene.line(28, middle - 2, 28, middle + 3, tone, 1.4)
    scene.path(rect(22, middle + 3, 12, 5, 1), None, tone, 1.4)


LABEL = Label("Harness", "The rig hangs from an overhead arm by a cable", _sign)
