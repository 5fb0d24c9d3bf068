"""A tripod in lines: clamp, fluid head with its pan bar, bowl and legs, to a usual size."""

from __future__ import annotations

import math

from equilix.present.drawing.figures import Look, draw_limb
from equilix.present.drawing.scene import Point, Scene, circle, polygon, polyline, rect

#: m: a head of the middle size, assumed; how far below the clamp the bowl's rim and the legs' joints lie.
_CLAMP, _HEAD, _RIM, _BOWL = (0.13, 0.026), (0.115, 0.085), 0.113, 0.066
#: rad: how far legs stand out.
_SPREAD = math.radians(24.0)
_METAL, _GRIP = Look("p2", "line"), Look("p3", "line")


def draw_tripod(scene: Scene, spot: Point, floor: float, scale: float) -> None:
    """Draw what stands below the middle of a clamp's upper side at `spot` (px), cut off at `floor` (px)."""
    x, y = spot

    def at(ahead: float, down: float) -> Point:
        return x + ahead * scale, y + down * scale

    def block(ahead: float, down: float, wide: float, tall: float, fill: str, r: float = 3.0) -> None:
        scene.path(rect(*at(ahead - wide / 2.0, down), wide * scale, tall * scale, r), fill, "line", 1.25)

    # Legs first: what carries them lies before them. Nothing is drawn below the floor.
    hip = _RIM + 0.045
    long = max((floor - y) / scale - hip, 0.0)
    for way in (-1.0, 1.0, 0.0):
        foot = at(way * (0.04 + long * math.tan(_SPREAD)), hip + long)
        top = at(way * 0.04, hip)
        half = 0.021 * scale
        scene.path(
            polygon(
                ((top[0] - half, top[1]), (top[0] + half, top[1]), (foot[0] + half, foot[1]), (foot[0] - half, foot[1]))
            ),
            "p2",
            "line",
            1.25,
        )
        scene.path(polyline(((top[0], top[1]), (foot[0], foot[1]))), None, "ghostL", 1.0)
    # The bar, by which it is panned, points back and down.
    if 0.18 * scale < floor - y:
        draw_limb(scene, at(-0.05, 0.06), at(-0.30, 0.125), 0.008 * scale, 0.008 * scale, _METAL)
        draw_limb(scene, at(-0.27, 0.118), at(-0.37, 0.144), 0.017 * scale, 0.015 * scale, _GRIP)
    bowl = [
        at(_BOWL * math.cos(a), _RIM + 0.014 + 0.062 * math.sin(a)) for a in (k * math.pi / 12.0 for k in range(13))
    ]
    if bowl[6][1] < floor:
        scene.path(polygon(bowl), "p3", "line", 1.25)
    block(0.0, _RIM, 0.185, 0.016, "p2", 2.0)
    block(0.0, _CLAMP[1] + 0.002, *_HEAD, "p3", 6.0)
    cx, cy = at(0.0, _CLAMP[1] + 0.042)
    for share, fill in ((0.032, "p2"), (0.020, "p1"), (0.006, "ink")):
        scene.path(circle(cx, cy, share * scale), fill, "line", 1.1)
    for k in range(10):
        # The steps of the counterbalance.
        angle = math.pi * (0.75 + 1.5 * k / 9.0)
        a, b = (0.026 * scale, 0.031 * scale)
        ends = [(cx + r * math.cos(angle), cy + r * math.sin(angle)) for r in (a, b)]
        scene.line(*ends[0], *ends[1], "ink2", 1.0)
    # The jaws, bevelled to hold the plate.
    wide, deep = _CLAMP
    for way in (-1.0, 1.0):
        jaw = (
            at(way * wide / 2.0, deep),
            at(way * wide / 2.0, -0.004),
            at(way * (wide / 2.0 - 0.012), -0.004),
            at(way * (wide / 2.0 - 0.02), 0.010),
            at(way * (wide / 2.0 - 0.02), deep),
        )
        scene.path(polygon(jaw), "p3", "line", 1.25)
    block(0.0, 0.010, wide - 0.036, deep - 0.010, "p2", 1.0)
