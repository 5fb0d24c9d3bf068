"""What a build costs the body that carries it: each joint's share of its strength, and how long that can be held.

An estimate for planning, not medical advice: people differ from the tables by far more than rigs do.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from equilix.core.analyse import Analysis, hand_points
from equilix.core.assembly.build import Operator, Side, SupportKind, Take
from equilix.core.assembly.parts import Category, MountKind
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.massprops.bodies import MassProperties, shift_inertia
from equilix.core.operator.body import ABOVE_L5S1_MASS, HEAD_MASS, Arm, Body, arm_weights, body_of, reach_for
from equilix.core.operator.endurance import HoldTime, arm_posture_limit, hold_time
from equilix.core.operator.fatigue import Block, Reserve, reserve_over, rest_needed
from equilix.core.operator.holding import Held, hold, measures
from equilix.core.operator.strength import Joint, capacity
from equilix.core.operator_head import PAD_FROM_MIDLINE
from equilix.core.supports.shoulder import HandLoad

#: Lever arms of the low back's muscles (m): extensor 5 cm, side 7.5 cm, abdominals 8 cm. Chaffin and Andersson,
#: Occupational Biomechanics; the last two from memory. Others take 6 cm for the first.
EXTENSOR, ABDOMINAL, LATERAL = 0.050, 0.080, 0.075
#: Bending forward against the abdominals, over straightening up: about 57 % (Stobbe 1982, from memory).
FLEXION_SHARE = 0.57
#: m: the head's centre ahead of C7/T1; Vasavada, from memory.
HEAD_AHEAD = 0.03
#: m: the same with the head bent 30 degrees; Vasavada, from memory.
HEAD_AHEAD_BENT = 0.11
#: rad: how far below level the eyes look without the head; common practice.
EASY_GAZE = math.radians(30.0)
#: m between the feet; common practice.
STANCE = 0.30
#: N: NIOSH's (1981) action limit for the lowest disc. To be under it is not to be safe.
DISC_LIMIT = 3400.0
#: The middle of the grips ahead of the shoulders and below them over the stature; common practice: elbows near 90 deg.
HELD_AHEAD, HELD_BELOW = 0.17, 0.15


class Hindrance(StrEnum):
    """Why there is nothing to say."""

    NO_MASS = "no mass"
    NO_PAD = "no pad"
    NO_GRIPS = "no grips"
    NOT_HELD = "not held"


@dataclass(frozen=True, slots=True)
class JointLoad:
    """A joint's greatest component: `load` (N m; hand: N) of `capacity`; `hold` from its share. None side: midline."""

    joint: Joint
    side: Side | None
    load: float
    capacity: float
    hold: HoldTime

    @property
    def share(self) -> float:
        """Load over capacity."""
        return self.load / self.capacity


@dataclass(frozen=True, slots=True)
class Hung:
    """A rig in one hand by its top handle: `pitch` (rad) nose down without a wrist couple, `ahead` (m) of the CG.

    Sliding the handle by `ahead` forward levels it; `holds` (N m) is the couple that holds it level until then.
    `turns_over` if the CG is not below the grip.
    """

    pitch: float
    ahead: float
    holds: float
    turns_over: bool


@dataclass(frozen=True, eq=False, slots=True)
class Carry:
    """A rig on a body. All vectors in the body frame (m, N, N m); `shift` (3,) takes rig to body coordinates.

    `joints` are ordered from neck to low back, of a pair the side that is loaded more; `worst` gives out first.
    `back_moment` (3,) is that of all above L5/S1 (roll, pitch, yaw); `compression` (N) of the disc.
    `posture` (s) is how long ISO 11226 would have the arms raised like this without any rig. `steady` is the inertia
    in roll, pitch and yaw over the bare camera's, None without a camera that has mass and size.
    """

    support: SupportKind
    operator: Operator
    body: Body
    arms: tuple[Arm, ...]
    held: Held
    pad: np.ndarray | None
    shift: np.ndarray
    cg: np.ndarray
    mass: float
    joints: tuple[JointLoad, ...]
    back_moment: np.ndarray
    compression: float
    posture: float
    steady: tuple[float, float, float] | None
    gaze: float | None
    see_saw: float | None
    right_leg: float
    handle: Hung | None

    @property
    def worst(self) -> JointLoad:
        """The joint that gives out first."""
        return min(self.joints, key=lambda j: (j.hold.likely, -j.share))

    @property
    def out_of_reach(self) -> bool:
        """Whether an arm is too short, or too long, for its grip."""
        return not all(arm.reached for arm in self.arms)


def carry(
    analysis: Analysis, operator: Operator, support: SupportKind, held_at: tuple[float, float] | None = None
) -> Carry | Hindrance:
    """Return what the build costs `operator` carried on the shoulder or in the hands, or why that can't be said.

    On the shoulder the pad lies on top of it, 10 cm off the midline. In the hands, the middle of the grips is
    `held_at` (ahead of, below) the shoulders (m), by default usual shares of the stature.
    """
    rig = analysis.body
    if rig is None:
        return Hindrance.NO_MASS
    if support is SupportKind.SHOULDER and analysis.shoulder is None:
        return Hindrance.NO_PAD
    numbers = hand_points(analysis.assembly, analysis.positions)
    grips = analysis.positions.touch[list(numbers)].reshape(-1, 3)
    if support is SupportKind.HANDHELD and len(grips) == 0:
        return Hindrance.NO_GRIPS
    body = body_of(operator)
    if support is SupportKind.SHOULDER and analysis.shoulder is not None:
        outward = 1.0 if operator.shoulder is Side.LEFT else -1.0
        spot = np.array([0.0, outward * PAD_FROM_MIDLINE, body.shoulder(operator.shoulder)[2]])
        return _carry(analysis, rig, operator, body, support, grips, spot - analysis.shoulder.pad, spot)
    middle = grips.mean(axis=0)
    ahead, below = held_at or usual_hold(operator)
    spot = np.array([ahead, 0.0, body.shoulder_right[2] - below])
    return _carry(analysis, rig, operator, body, support, grips, spot - middle, None)


def usual_hold(operator: Operator) -> tuple[float, float]:
    """Return how far ahead of and below the shoulders (m) a rig is usually held."""
    return HELD_AHEAD * operator.stature, HELD_BELOW * operator.stature


def best_hold(analysis: Analysis, operator: Operator) -> tuple[float, float] | None:
    """Return where (ahead of, below the shoulders; m) the rig is held the longest in the hands, None if it can't be.

    Tries places 30 mm apart within reach that leave room for the chest; the eye is not asked.
    """
    found: tuple[float, tuple[float, float]] | None = None
    for ahead in np.arange(0.22, 0.47, 0.03):
        for below in np.arange(0.05, 0.50, 0.03):
            place = (float(ahead), float(below))
            carried = carry(analysis, operator, SupportKind.HANDHELD, place)
            if isinstance(carried, Hindrance):
                return None
            lasts = carried.worst.hold.likely
            if not carried.out_of_reach and (found is None or lasts > found[0]):
                found = lasts, place
    return found[1] if found is not None else None


def _carry(
    analysis: Analysis,
    rig: MassProperties,
    operator: Operator,
    body: Body,
    support: SupportKind,
    grips: np.ndarray,
    shift: np.ndarray,
    pad: np.ndarray | None,
) -> Carry | Hindrance:
    points = [g + shift for g in grips]
    arms = tuple(reach_for(body, side, p) for side, p in zip(_sides(points, operator), points, strict=True))
    asked = [measures(body, operator, arm) for arm in arms]
    cg = rig.cg + shift
    held = hold(rig.mass, cg, points, asked, pad, analysis.build.shoulder)
    if held is None:
        return Hindrance.NOT_HELD
    found: list[JointLoad] = []
    for joint in (Joint.SHOULDER, Joint.ELBOW, Joint.WRIST, Joint.HAND):
        each = [
            _joint(joint, arm.side, abs(m.load(hand)), m.capacity)
            for arm, hand, ms in zip(arms, held.hands, asked, strict=True)
            for m in ms
            if m.joint is joint
        ]
        if each:
            found.append(max(each, key=lambda j: j.share))
    lean = analysis.shoulder.lean if pad is not None and analysis.shoulder is not None else 0.0
    gaze = gaze_to_screen(analysis, body, shift)
    head = HEAD_MASS * body.mass * STANDARD_GRAVITY * math.hypot(head_lever(gaze or 0.0), lean)
    found.insert(0, _joint(Joint.NECK, None, head, capacity(operator, Joint.NECK)))
    moment, down = back_load(body, arms, held.hands, pad, held.pad_force, held.pad_moment)
    strength = capacity(operator, Joint.LOW_BACK) * (1.0 if moment[1] >= 0.0 else FLEXION_SHARE)
    found.append(_joint(Joint.LOW_BACK, None, math.hypot(moment[0], moment[1]), strength))
    posture = min((arm_posture_limit(arm.elevation) for arm in arms), default=math.inf)
    return Carry(
        support,
        operator,
        body,
        arms,
        held,
        pad,
        shift,
        cg,
        rig.mass,
        tuple(found),
        moment,
        disc_compression(down, moment),
        posture,
        steadiness(analysis, (pad if pad is not None else np.mean(points, axis=0)) - shift),
        gaze,
        see_saw(rig.mass, cg, points[0], points[1]) if len(points) == 2 else None,
        0.5 - rig.mass * float(cg[1]) / (rig.mass + body.mass) / STANCE,
        by_the_handle(analysis, rig),
    )


def gaze_to_screen(analysis: Analysis, body: Body, shift: np.ndarray) -> float | None:
    """Return how far below level (rad) the eye looks at the middle of the nearest screen ahead of it, None if none."""
    assembly = analysis.assembly
    spots = [
        analysis.positions.centre[i] + shift - body.eye
        for i, part in enumerate(assembly.parts)
        if part.category is Category.MONITOR
    ]
    ahead = [d for d in spots if d[0] > 0.02]
    if not ahead:
        return None
    d = min(ahead, key=lambda v: float(v @ v))
    return math.atan2(-float(d[2]), math.hypot(float(d[0]), float(d[1])))


def head_lever(gaze: float) -> float:
    """Return how far (m) the head's centre lies ahead of C7/T1 for a `gaze` (rad) below level.

    The eyes do 30 degrees of it, the neck the rest; looking up bends it back, which moves the centre back alike.
    Between upright and 30 degrees linear.
    """
    bend = gaze - EASY_GAZE if gaze > EASY_GAZE else min(gaze, 0.0)
    return HEAD_AHEAD + (HEAD_AHEAD_BENT - HEAD_AHEAD) * min(bend, math.radians(60.0)) / math.radians(30.0)


def see_saw(mass: float, cg: np.ndarray, first: np.ndarray, second: np.ndarray) -> float:
    """Return the weight's moment (N m) about the line through two grips, positive where the CG lies ahead of it.

    ``u . ((c - g1) x (0, 0, -W))`` with u along the line from right to left. Zero if the line, seen from above,
    passes under the CG: so staggered grips can end it.
    """
    left, right = (first, second) if first[1] >= second[1] else (second, first)
    line = left - right
    size = float(np.linalg.norm(line))
    if size < 1e-9:
        return 0.0
    pull = np.array([0.0, 0.0, -mass * STANDARD_GRAVITY])
    return float(line / size @ np.cross(cg - right, pull))


def by_the_handle(analysis: Analysis, rig: MassProperties) -> Hung | None:
    """Return how the rig hangs by its top handle, None without one. Nose down by ``atan2(dx, -dz)``."""
    spots = [
        analysis.positions.touch[i]
        for i, point in enumerate(analysis.assembly.touch_points)
        if point.kind is MountKind.GRIP_POINT and point.category is Category.HANDLE
    ]
    if not spots:
        return None
    dx, _, dz = (float(v) for v in rig.cg - max(spots, key=lambda spot: float(spot[2])))
    return Hung(math.atan2(dx, -dz), dx, rig.mass * STANDARD_GRAVITY * dx, dz >= 0.0)


def _joint(joint: Joint, side: Side | None, load: float, most: float) -> JointLoad:
    return JointLoad(joint, side, load, most, hold_time(joint, load / most))


def _sides(points: Sequence[np.ndarray], operator: Operator) -> tuple[Side, ...]:
    """Return which hand takes which grip: the one farther left the left hand; a single one the dominant side."""
    if len(points) < 2:
        return (operator.shoulder,) * len(points)
    left = int(np.argmax([p[1] for p in points]))
    return tuple(Side.LEFT if i == left else Side.RIGHT for i in range(len(points)))


def back_load(
    body: Body,
    arms: Sequence[Arm],
    hands: Sequence[HandLoad],
    pad: np.ndarray | None,
    pad_force: np.ndarray,
    pad_moment: np.ndarray,
) -> tuple[np.ndarray, float]:
    """Return moment (3,) (N m) about L5/S1 of the rig and of all of the body above it, and the weight (N) on it.

    The trunk stands upright, its own centre over the joint. Pitch positive bends forward. Arms that hold no
    grip hang straight down.
    """
    moment = -pad_moment.copy()
    down = ABOVE_L5S1_MASS * body.mass * STANDARD_GRAVITY
    if pad is not None:
        moment -= np.cross(pad - body.low_back, pad_force)
        down += float(pad_force[2])
    moment += np.cross([HEAD_AHEAD, 0.0, 0.0], [0.0, 0.0, -HEAD_MASS * body.mass * STANDARD_GRAVITY])
    for hand in hands:
        moment -= hand.couple + np.cross(hand.point - body.low_back, hand.force)
        down += float(hand.force[2])
    hanging = [
        reach_for(body, side, body.shoulder(side) - np.array([0.0, 0.0, body.reach]))
        for side in Side
        if side not in {arm.side for arm in arms}
    ]
    for arm in (*arms, *hanging):
        for weight in arm_weights(body, arm):
            pull = np.array([0.0, 0.0, -weight.mass * STANDARD_GRAVITY])
            moment += np.cross(weight.centre - body.low_back, pull)
            down -= pull[2]
    return moment, down


def disc_compression(down: float, moment: np.ndarray) -> float:
    """Return the disc's compression (N): weight above, plus the muscles' pull against `moment` (3,) (N m).

    One muscle for each direction; Chaffin and Andersson, Occupational Biomechanics. No co-contraction: too low
    for small moments.
    """
    pitch = float(moment[1])
    return down + (pitch / EXTENSOR if pitch >= 0.0 else -pitch / ABDOMINAL) + abs(float(moment[0])) / LATERAL


def steadiness(analysis: Analysis, pivot: np.ndarray) -> tuple[float, float, float] | None:
    """Return roll, pitch and yaw inertia about `pivot` (3,) (m, rig frame) over the bare camera's about its own CG.

    The angular answer to a torque well above resonance goes as 1/(I w2). None without a sized camera.
    """
    rig, camera = analysis.body, analysis.assembly.sensor
    if rig is None or camera is None:
        return None
    bare = np.diag(analysis.assembly.inertia[camera])
    if not (bare > 0.0).all():
        return None
    whole = np.diag(shift_inertia(rig, pivot))
    roll, pitch, yaw = (float(v) for v in whole / bare)
    return roll, pitch, yaw


def reserves(carried: Carry, takes: Sequence[Take], step: float = 1.0) -> tuple[Reserve, ...]:
    """Return each joint's reserve over the takes, in the order of `carried.joints`."""
    blocks = [Block(take.length, take.rest) for take in takes]
    return tuple(reserve_over(j.joint, j.share, blocks, step) for j in carried.joints)


def rest_for(carried: Carry, take: float) -> float:
    """Return the rest (s) that the joint that needs most of it needs for takes of `take` seconds, the longer band."""
    return max(rest_needed(j.joint, j.share, take) for j in carried.joints)
