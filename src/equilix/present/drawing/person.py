"""A whole operator from the right, with the rig and what is worn to carry it, in the pose that the model found."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Side
from equilix.core.operator.body import Body
from equilix.core.statics.pose import Pose
from equilix.present.drawing.figures import At, draw_arm, draw_legs, draw_trunk
from equilix.present.drawing.rig_drawing import Projection, draw_parts
from equilix.present.drawing.scene import Point, Scene
from equilix.present.drawing.silhouettes import View


class Gear(Protocol):
    """Draws what is worn."""

    def __call__(self, scene: Scene, *, at: At, scale: float) -> None: ...


def draw_person(
    scene: Scene, analysis: Analysis, pose: Pose, feet: float, floor: float, scale: float, gear: Gear
) -> None:
    """Draw somebody who stands at `feet`, `floor` (px) and carries the rig in `pose`."""
    body = pose.body
    off = leaning(body)

    def at(x: float, y: float, z: float) -> Point:
        there = np.array([x, y, z]) + off(z)
        return feet + float(there[0]) * scale, floor - float(there[2]) * scale

    def place(p: np.ndarray) -> Point:
        return feet + float(p[0]) * scale, floor - float(p[2]) * scale

    draw_legs(scene, body, 0, at, scale)
    draw_trunk(scene, body, 0, at, scale)
    arms = sorted(pose.arms, key=lambda arm: -float(arm.shoulder[1]))  # the right one is nearer from the right
    for arm in arms:
        if arm.side is Side.LEFT:
            draw_arm(scene, place(arm.shoulder), place(arm.elbow), place(arm.grip), body.stature, scale)
    gear(scene, at=lambda x, y, z: place(np.array([x, y, z])), scale=scale)
    draw_rig(scene, analysis, pose.shift, feet, floor, scale)
    for arm in arms:
        if arm.side is not Side.LEFT:
            draw_arm(scene, place(arm.shoulder), place(arm.elbow), place(arm.grip), body.stature, scale)


def draw_rig(scene: Scene, analysis: Analysis, shift: np.ndarray, feet: float, floor: float, scale: float) -> None:
    """Draw the rig from the right; `shift` (3,) (m) takes it to the body frame. The mouse does not meet it."""
    side = Projection(View.SIDE, scale, feet + float(shift[0]) * scale, floor - float(shift[2]) * scale, 0.0, 0.0)
    drawn = Scene()
    draw_parts(drawn, analysis.assembly, analysis.positions, side)
    scene.items += drawn.items


def leaning(body: Body) -> Callable[[float], np.ndarray]:
    """Return how far (3,) (m) a body that leans is beside one that stands upright, at each height (m)."""
    spots = np.array([np.zeros(3), body.ankle, body.hips, body.low_back, body.neck, body.eye])
    spots[-1, 0] = spots[-2, 0] + (spots[-2, 0] - spots[-3, 0]) * (spots[-1, 2] - spots[-2, 2]) / (
        spots[-2, 2] - spots[-3, 2]
    )

    def off(height: float) -> np.ndarray:
        return np.array([*(np.interp(height, spots[:, 2], spots[:, k]) for k in (0, 1)), 0.0])

    return off if not body.seated else lambda _height: np.zeros(3)
