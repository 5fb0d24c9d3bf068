"""A whole operator from the right, with the rig and what is worn to carry it, in the pose that the model found."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Side
from equilix.core.operator.body import Body
from equilix.core.statics.pose import Pose
from equilix.present.drawing.figures import At, draw_arm, draw_legs, draw_trunk
from equilix.present.drawing.rig_drawing import Projection, draw_parts
from equilix.present.drawing.scene import Point, Scene
from equilix.present.drawing.silhouettes import View

#: Draws what is worn, given the scene, what makes px of places in the body frame (m), and px per m.
Gear = Callable[[Scene, At, float], None]


def draw_person(
    scene: Scene, analysis: Analysis, pose: Pose, gear: Gear | None, feet: float, floor: float, scale: float
) -> None:
    """Draw somebody who stands at `feet`, `floor` (px) and carries the rig in `pose`, with the `gear` for it."""
    body = pose.body
    off = leaning(body)

    def at(x: float, y: float, z: float) -> Point:
        return place(np.array([x, y, z]))

    def leant(x: float, y: float, z: float) -> Point:
        return place(np.array([x, y, z]) + off(z))

    def place(p: np.ndarray) -> Point:
        return feet + float(p[0]) * scale, floor - float(p[2]) * scale

    def draw_arms(side: Side) -> None:
        for arm in pose.arms:
            if arm.side is side:
                draw_arm(scene, place(arm.shoulder), place(arm.elbow), place(arm.grip), body.stature, scale)

    draw_legs(scene, body, 0, leant, scale)
    draw_trunk(scene, body, 0, leant, scale)
    # Seen from the right: the left arm lies behind the rig.
    draw_arms(Side.LEFT)
    if gear is not None:
        gear(scene, at, scale)
    draw_rig(scene, analysis, pose.shift, feet, floor, scale)
    draw_arms(Side.RIGHT)


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
