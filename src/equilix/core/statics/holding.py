"""What a hand and its arm are asked for when they hold a rig.

Body frame (x forward, y left, z up). Muscle moments at wrist, elbow and shoulder are linear in the hand's force and
couple (J^T F plus the arm's own weight: Craig, Introduction to Robotics, ch. 5).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import Operator, Side
from equilix.core.cache import CACHED_PEOPLE
from equilix.core.frames import LEFT, STANDARD_GRAVITY, UP, Z, cross, unit
from equilix.core.operator.body import HAND, UPRIGHT, Arm, Body, Lean, arm_weights, body_of, reach_for
from equilix.core.operator.strength import BEST_THICKNESS, BodyJoint, capacity, squeeze_factor
from equilix.core.sources import assumed, from_memory
from equilix.core.statics.hands import Hand, Measure
from equilix.core.statics.patches import patch_rays, tangents

#: Skin on a rubber grip, low end of 0.6 to 1.0. A hand squeezes W/(2 mu) to hold a load along a handle.
GRIP_FRICTION = from_memory(0.6)
#: Skin on bare metal, low end of 0.3 to 0.5. A flat palm rubs on a lens or a camera's side.
PALM_FRICTION = from_memory(0.3)
#: Turning the upper arm about its own length, over raising it: about 45 %.
AXIAL_SHARE = from_memory(0.45, "Stobbe 1982")
#: Bending the wrist fore and aft of the palm and turning the forearm, over bending it sideways.
WRIST_FLEX_SHARE = from_memory(7.0 / 11.0, "Delp 1996")
FOREARM_TURN_SHARE = from_memory(8.0 / 11.0, "Delp 1996")
#: m between the middles of what presses at either end of the palm: two thirds of its breadth.
PALM_LEVER = assumed(0.055)


def measures(
    body: Body,
    operator: Operator,
    arm: Arm,
    thickness: float | None = None,
    along: int = Z,
    point: np.ndarray | None = None,
    palm: bool = False,
) -> tuple[Measure, ...]:
    """Return what is asked of one arm: hand six components, wrist three, elbow one, shoulder three.

    `point` (3,) (m) is what is held, the arm's own grip by default: they differ where it is out of reach. A flat
    `palm` squeezes nothing.

    The hand closes round a handle of `thickness` (m), None for the best one, that lies `along` the x, y or z axis:
    forces across it are held by the fingers, those along it and turning about it by friction, and couples across it by
    both ends of the palm. A force F squeezes F/(2 mu), a couple about the handle C/(mu d), as two opposed pads; couples
    are given in N of squeeze.
    """
    held = arm.grip if point is None else point
    weights = arm_weights(body, arm)
    upper = _unit(arm.elbow - arm.shoulder)
    fore = _unit(arm.grip - arm.elbow)
    hinge = unit(cross(upper, fore), LEFT)
    found: list[Measure] = []

    def about(joint: BodyJoint, centre: np.ndarray, axis: np.ndarray, most: float, carried: int) -> None:
        # Moment of the rig's reaction (-F, -C) and of the segments beyond the joint.
        row = -np.concatenate([cross(axis, held - centre), axis])
        own = sum(
            float(axis @ cross(w.centre - centre, [0.0, 0.0, -w.mass * STANDARD_GRAVITY]))
            for w in weights[3 - carried :]
        )
        found.append(Measure(joint, row, own, most))

    best = BEST_THICKNESS * HAND * body.stature
    thick = best if thickness is None else thickness
    grip = capacity(operator, BodyJoint.HAND) * squeeze_factor(thick, HAND * body.stature)
    for k in range(0 if palm else 6):
        row = np.zeros(6)
        if k < 3:
            row[k] = 0.5 / GRIP_FRICTION if k == along else 1.0
        else:
            row[k] = 1.0 / (GRIP_FRICTION * thick) if k - 3 == along else 1.0 / PALM_LEVER
        found.append(Measure(BodyJoint.HAND, row, 0.0, grip))
    wrist = capacity(operator, BodyJoint.WRIST)
    about(BodyJoint.WRIST, arm.wrist, hinge, wrist, 1)
    about(BodyJoint.WRIST, arm.wrist, cross(hinge, fore), WRIST_FLEX_SHARE * wrist, 1)
    about(BodyJoint.WRIST, arm.wrist, fore, FOREARM_TURN_SHARE * wrist, 1)
    about(BodyJoint.ELBOW, arm.elbow, hinge, capacity(operator, BodyJoint.ELBOW, arm.elbow_angle, arm.elevation), 2)
    raising = capacity(operator, BodyJoint.SHOULDER, arm.elbow_angle, arm.elevation)
    about(BodyJoint.SHOULDER, arm.shoulder, hinge, raising, 3)
    about(BodyJoint.SHOULDER, arm.shoulder, cross(hinge, upper), raising, 3)
    about(BodyJoint.SHOULDER, arm.shoulder, upper, AXIAL_SHARE * raising, 3)
    return tuple(found)


class Grip(Struct, frozen=True):
    """A hand's way to hold: `at` (3,) (m, body frame), what it closes round, or the way (3,) in which a palm pushes."""

    side: Side
    at: tuple[float, float, float]
    thickness: float
    along: int
    palm: tuple[float, float, float] | None = None


@lru_cache(maxsize=CACHED_PEOPLE)
def taken(operator: Operator, seated: bool, grip: Grip, lean: Lean = UPRIGHT) -> tuple[Arm, Hand]:
    """Return the arm of a body that may `lean` and holds so, and what the hand can give there.

    A closed hand pushes, pulls and twists any way; a flat palm pushes and rubs.
    """
    body, point = body_of(operator, seated, lean), np.array(grip.at)
    arm = reach_for(body, grip.side, point)
    flat = grip.palm is not None
    asked = measures(body, operator, arm, grip.thickness, grip.along, point, flat)
    if grip.palm is None:
        return arm, Hand(point, asked, np.eye(6))
    side, up = tangents(np.array(grip.palm))
    rays = patch_rays(np.zeros(3), side, up, (PALM_LEVER, PALM_LEVER), PALM_FRICTION)
    return arm, Hand(point, asked, rays, pushes=True)


def _unit(v: np.ndarray) -> np.ndarray:
    return unit(v, -UP)
