"""Motors of a gimbal, where its axes turn: a disc with two rings seen along its axis, a drum with two bands across."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.kit.parts import MountKind
from equilix.present.drawing.scene import Point, Scene, circle, polygon, polyline

_AXES = frozenset({MountKind.PAN_AXIS, MountKind.ROLL_AXIS, MountKind.TILT_AXIS})
#: A motor's radius over the thickness of its arm, and m that it is at least; its length over its radius.
_RADIUS, _LEAST, _LONG = 0.62, 0.022, 1.5


def draw_motors(
    scene: Scene,
    assembly: Assembly,
    positions: Positions,
    part: int,
    along: int,
    at: Callable[[np.ndarray], Point],
    scale: float,
) -> None:
    """Draw the motors on a part, looking along the rig's axis number `along`; `at` is a point's (3,) pixel."""
    mounts = [mount for mount in assembly.parts[part].mounts if mount.kind in _AXES]
    if not mounts:
        return
    thick = 2.0 * sorted(assembly.edges[part].tolist())[1]
    for mount in mounts:
        centre = positions.origin[part] + assembly.rotation[part] @ np.array(mount.at)
        axis = assembly.rotation[part] @ np.array(mount.unit_axis)
        r = max(_RADIUS * thick, _LEAST) * scale
        x, y = at(centre)
        if abs(float(axis[along])) > 0.7:
            scene.put(circle(0.0, 0.0, r), x, y, "p3", "line", 1.25)
            scene.put((*circle(0.0, 0.0, 0.66 * r), *circle(0.0, 0.0, 0.3 * r)), x, y, None, "line", 1.0)
            continue
        tip = at(centre + axis * 0.1)
        turned = math.atan2(tip[1] - y, tip[0] - x)
        cos, sin = math.cos(turned), math.sin(turned)

        def spot(u: float, v: float, cos: float = cos, sin: float = sin) -> Point:
            return u * cos - v * sin, u * sin + v * cos

        half, cut = 0.5 * _LONG * r, 0.22 * r
        outline = ((-half, -r + cut), (-half + cut, -r), (half - cut, -r), (half, -r + cut))
        corners = [spot(*p) for p in (*outline, *((u, -v) for u, v in reversed(outline)))]
        scene.put(polygon(corners), x, y, "p3", "line", 1.25)
        bands = (
            *polyline((spot(-0.5 * half, -r), spot(-0.5 * half, r))),
            *polyline((spot(0.5 * half, -r), spot(0.5 * half, r))),
        )
        scene.put(bands, x, y, None, "ghostL", 1.0)
