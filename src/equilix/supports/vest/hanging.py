"""Where a sled hangs, what its arm and vest load the wearer with, and how the wearer leans against that."""

from __future__ import annotations

import math
from typing import TypeAlias

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import Grasp, Operator
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.frames import X, Y, Z
from equilix.core.kit.parts import MountKind
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.body import UPRIGHT, body_of
from equilix.core.operator.leaning import LOWEST_BELT, Worn, by_the_ankles, by_the_trunk, frame_share
from equilix.core.sources import assumed
from equilix.core.statics.equilibrium import SupportResult
from equilix.core.statics.pose import Pose, worn_at
from equilix.core.statics.sled import Sled
from equilix.core.statics.spring_arm import Float, floats, shift_back
from equilix.core.support import Case
from equilix.supports.vest.settings import VestSettings

#: Of stature: how high an arm floats in the middle of its way, and the socket.
MIDDLE, SOCKET = assumed((0.67, 0.60))


class Bearing(Struct, frozen=True):
    """Where the sled hangs: `point` (3,) (m, rig frame) on part number `part`; `usual` if it is no bearing."""

    point: np.ndarray
    part: int
    usual: bool


class VestResult(Struct, SupportResult, frozen=True, eq=False):
    """A sled on an arm: how it hangs, and how its `arm` floats, None where nobody knows what its springs are set for.

    `load` (N) is on the vest: sled and arm. `bends` and `sways` (N m) are the moments at L5/S1, forward and to the
    left, of all that is above it with the wearer leaned back by the ankles alone, `bends_least` with the trunk back and
    a low belt. The wearer leans back and aside by `shift` (2,) (m), `tilt` (rad) about the ankles.
    """

    bearing: Bearing
    sled: Sled
    arm: Float | None
    load: float
    bends: float
    bends_least: float
    sways: float
    shift: tuple[float, float]
    tilt: float


VestCase: TypeAlias = Case[VestSettings, VestResult]


def bearing_of(assembly: Assembly, positions: Positions, chosen: Grasp | None) -> Bearing | None:
    """Return where a sled hangs: the chosen place, a bearing, else an eyelet or the highest grip; None without any."""
    points = list(enumerate(assembly.touch_points))
    if chosen is not None:
        for i, point in points:
            if (point.placed_id, point.mount_id) == (chosen.placed_id, chosen.mount_id):
                return Bearing(positions.touch[i], point.part, False)
    for kind in (MountKind.BEARING, MountKind.EYELET, MountKind.GRIP_POINT):
        several = [(i, point) for i, point in points if point.kind is kind]
        if several:
            i, point = max(several, key=lambda pair: float(positions.touch[pair[0], 2]))
            return Bearing(positions.touch[i], point.part, kind is not MountKind.BEARING)
    return None


# The arm and its wearer


def arm_loads(settings: VestSettings, mass: float) -> tuple[tuple[float, float, float], ...]:
    """Return what hangs on the vest, each as kg and m ahead and to the left of the low back: sled, then arm.

    The arm's own weight acts at half its reach.
    """
    ahead, left = settings.reach * math.cos(settings.boom), settings.reach * math.sin(settings.boom)
    beside = settings.side * settings.beside
    return (
        (mass, settings.socket + ahead, beside + left),
        (settings.arm_mass, settings.socket + ahead / 2.0, beside + left / 2.0),
    )


def wearer_shift(settings: VestSettings, mass: float, operator: Operator) -> tuple[float, float]:
    """Return how far (m) back and away from the arm's side a body shifts to stay over its feet."""
    loads = arm_loads(settings, mass)
    worn = (settings.vest_mass, 0.0)
    back, aside = (shift_back(operator.body_mass, [*((load[0], load[way]) for load in loads), worn]) for way in (1, 2))
    return back, aside


def worn_on(settings: VestSettings, mass: float, operator: Operator) -> tuple[Worn, ...]:
    """Return what an upright body would carry, and where: sled of `mass` (kg) at its bearing, arm, and vest."""
    frame = body_of(operator)
    (_, ahead, left), (arm, half, half_left) = arm_loads(settings, mass)
    low = frame.low_back
    height = MIDDLE * operator.stature
    if settings.set_for is not None:
        height += floats(mass, settings.set_for, settings.evenness, settings.lift).height
    socket = SOCKET * operator.stature
    return (
        Worn(mass, np.array([float(low[X]) + ahead, left, height])),
        Worn(arm, np.array([float(low[X]) + half, half_left, (height + socket) / 2.0])),
        Worn(settings.vest_mass, np.array([float(low[X]), 0.0, float(frame.neck[Z] + low[Z]) / 2.0])),
    )


def posed_on(body: MassProperties, bearing: Bearing, settings: VestSettings, operator: Operator) -> Pose:
    """Return how a sled hangs on the arm: its CG below the bearing, which floats where the arm has it.

    The wearer leans back about the ankles, with the belt as high as it may be; eased with the trunk, and a low belt.
    """
    sled, *others = worn_on(settings, body.mass, operator)
    upright = body_of(operator)
    # At rest the CG hangs below the bearing.
    hangs = np.array([body.cg[X], body.cg[Y], bearing.point[Z]])
    pose, unladen = None, worn_at(operator, hangs, sled.at, tuple(others), UPRIGHT, 1.0, 1.0)
    for lean, belt in (
        (by_the_trunk(upright, (sled, *others)), LOWEST_BELT if settings.belt is None else settings.belt),
        (by_the_ankles(upright, (sled, *others)), settings.belt or 0.0),
    ):
        pose = worn_at(
            operator, hangs, sled.at, tuple(others), lean, 1.0 - settings.hip_share, frame_share(belt), pose, unladen
        )
    assert pose is not None
    return pose
