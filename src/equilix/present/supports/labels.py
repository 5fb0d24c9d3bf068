"""What the top bar shows of each support: its name, its tip and its sign, without its words or its mechanics.

A start needs all of these at once, and of the rest only what the build on the screen is for.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from msgspec import Struct

from equilix.present.drawing.scene import Scene, arc, circle, polyline, rect


class Label(Struct, frozen=True):
    """A support's name, what its tip says, and what draws its `sign`.

    That is 10 to 32 px from the left, about a height (px), in a tone.
    """

    name: str
    tip: str
    sign: Callable[[Scene, float, str], None]


def draw_person(scene: Scene, middle: float, tone: str) -> None:
    """Draw the head and shoulders of a sign about the height `middle` (px)."""
    scene.path(circle(18, middle - 3, 3.4), None, tone, 1.4)
    scene.path((*arc(18, middle + 10, 8, 3.3, 6.1),), None, tone, 1.4)


def _shoulder(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(rect(20, middle - 10, 12, 5, 1), None, tone, 1.4)
    scene.path(polyline(((25, middle + 4), (31, middle - 2))), None, tone, 1.4)


def _handheld(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(rect(24, middle + 1, 12, 5, 1), None, tone, 1.4)
    scene.path(polyline(((24, middle + 7), (30, middle + 6))), None, tone, 1.4)


def _harness(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(arc(18, middle - 2, 10, -math.pi / 2, 0.0), None, tone, 1.4)
    scene.line(28, middle - 2, 28, middle + 3, tone, 1.4)
    scene.path(rect(22, middle + 3, 12, 5, 1), None, tone, 1.4)


def _gimbal(scene: Scene, middle: float, tone: str) -> None:
    scene.path(circle(21, middle + 3, 6), None, tone, 1.4)
    scene.path(polyline(((10, middle - 10), (32, middle - 10))), None, tone, 1.4)
    scene.path(
        polyline(((21, middle - 10), (21, middle - 6), (12, middle - 6), (12, middle + 3), (15, middle + 3))),
        None,
        tone,
        1.4,
    )


def _vest(scene: Scene, middle: float, tone: str) -> None:
    draw_person(scene, middle, tone)
    scene.path(polyline(((22, middle + 6), (28, middle + 9), (32, middle + 3))), None, tone, 1.4)
    scene.line(32, middle - 8, 32, middle + 12, tone, 1.4)
    scene.path(rect(29.5, middle - 11, 5, 4, 1), None, tone, 1.2)


def _tripod(scene: Scene, middle: float, tone: str) -> None:
    scene.path(rect(14, middle - 10, 14, 6, 1), None, tone, 1.4)
    for foot in (12.0, 21.0, 30.0):
        scene.line(21, middle - 4, foot, middle + 10, tone, 1.4)


#: By the keys of the registry.
LABELS = {
    "shoulder": Label("Shoulder", "The rig rests on the shoulder", _shoulder),
    "handheld": Label("Handheld", "The rig is held in the hands", _handheld),
    "harness": Label("Harness", "The rig hangs from an overhead arm by a cable", _harness),
    "gimbal": Label("Gimbal", "The rig hangs in a powered gimbal, balanced about three axes", _gimbal),
    "vest": Label("Vest", "The rig is a sled on a spring arm, carried on a vest", _vest),
    "tripod": Label("Tripod", "The rig stands on a tripod's head, or on a table", _tripod),
}
