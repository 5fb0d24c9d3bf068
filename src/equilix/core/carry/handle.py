"""How a rig hangs when it is carried by its top handle, and where the handle would have to be."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.core.carry.loads import Hung, gives_out, joint_load
from equilix.core.chosen import hold_of
from equilix.core.frames import STANDARD_GRAVITY, cross
from equilix.core.kit.parts import Category
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.body import (
    body_of,
)
from equilix.core.sources import assumed, common_practice
from equilix.core.statics.grasps import Place, places
from equilix.core.statics.hands import HandLoad
from equilix.core.statics.holding import taken
from equilix.core.statics.pose import grip_at

#: Of the reach: how far an arm hangs down under what it carries, straight but not locked.
HANGING = assumed(0.999)

#: Share of the rig on a handle's own slide from which sliding it moves the rig, not the handle.
NEARLY_ALL = common_practice(0.9)


def top_handle(analysis: Analysis) -> Place | None:
    """Return the highest handle's place, None without one."""
    held = [
        place
        for place in places(analysis.assembly, analysis.positions)
        if analysis.assembly.parts[place.part].category is Category.HANDLE
    ]
    return max(held, key=lambda place: float(place.point[2])) if held else None


def nose_down(offset: np.ndarray) -> float:
    """Return the pitch (rad), nose down positive, of a rig hung with its CG `offset` (3,) (m) from the hand.

    ``atan2(dx, -dz)``, seen from the side: a hand on a bar keeps it from rolling.
    """
    return math.atan2(float(offset[0]), -float(offset[2]))


def by_the_handle(analysis: Analysis, rig: MassProperties, operator: Operator) -> Hung | None:
    """Return how the rig hangs by its top handle in the stronger hand, None without one.

    See `nose_down`. The arm hangs straight down beside the standing body.
    """
    place = top_handle(analysis)
    if place is None:
        return None
    offset = rig.cg - place.point
    pull = np.array([0.0, 0.0, -rig.mass * STANDARD_GRAVITY])
    body = body_of(operator)
    side = operator.shoulder
    grip = body.shoulder(side) - np.array([0.0, 0.0, HANGING * body.reach])
    by_it = replace(place, side=side)
    asked = taken(operator, False, grip_at(analysis.assembly, operator, by_it, grip, hold_of(analysis.build)))[
        1
    ].measures
    hand = HandLoad(grip, -pull, -cross(offset, pull))
    joints = [joint_load(m.joint, side, abs(m.load(hand)), m.capacity) for m in asked]
    worst = min(joints, key=gives_out)
    dx, dz = float(offset[0]), float(offset[2])
    slide, room = _slide_of_handle(analysis, rig, place, dx)
    return Hung(nose_down(offset), dx, rig.mass * STANDARD_GRAVITY * dx, dz >= 0.0, worst, slide, room)


def _slide_of_handle(analysis: Analysis, rig: MassProperties, place: Place, dx: float) -> tuple[float | None, float]:
    """Return how far (m) forward the handle's own slide must go until the CG hangs below it, and how far it can.

    What rides on the slide goes along and takes the CG with it by its share of the mass, so it is more than `dx`.
    """
    assembly = analysis.assembly
    for j in range(len(assembly.slide_parts) - 1, -1, -1):
        along = float(assembly.slide_axes[j, 0])
        if not assembly.carries(j, place.part) or abs(along) < 0.5:
            continue
        if assembly.sensor is not None and assembly.carries(j, assembly.sensor):
            continue
        share = float(assembly.carried_mass()[j]) / rig.mass
        if share > NEARLY_ALL:
            continue
        need = dx / (1.0 - share)
        mount, now = assembly.slide_mounts[j], float(analysis.settings[j])
        ahead = mount.high - now if need * along > 0.0 else now - mount.low
        return need, max(ahead, 0.0)
    return None, 0.0
