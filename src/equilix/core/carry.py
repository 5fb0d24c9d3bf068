"""What a build costs the body that carries it: each joint's share of its strength, and how long that can be held.

An estimate for planning, not medical advice: people differ from the tables by far more than rigs do.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from equilix.core.analyse import Analysis
from equilix.core.assembly.build import Brace, Hold, Operator, Side, SupportKind, Take
from equilix.core.assembly.parts import Category, MountKind
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.frames import STANDARD_GRAVITY, cross
from equilix.core.grasps import Place, hands_at, thickness_of
from equilix.core.massprops.bodies import MassProperties, shift_inertia
from equilix.core.operator.body import (
    ABOVE_HIP_MASS,
    ABOVE_L5S1_MASS,
    DEPTH,
    HEAD_MASS,
    RIBS,
    Arm,
    Body,
    arm_weights,
    body_of,
    reach_for,
)
from equilix.core.operator.endurance import HoldTime, arm_posture_limit, hold_time
from equilix.core.operator.fatigue import SAFE_SHARE, Block, Reserve, reserve_over, rest_needed
from equilix.core.operator.holding import Contact, Held, Measure, Prop, Push, hold, measures, propped_load
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
#: m: an elbow this near to the ribs can be tucked in; an upper arm's half thickness over the stature. Assumed.
TUCKED, ARM_RADIUS = 0.060, 0.021
#: Grips on the thighs, ahead of the hips, over the stature; and m that their ends may differ in height. Assumed.
ON_THIGHS, LEVEL_ENDS = 0.19, 0.040


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
class Pose:
    """How a body takes a rig: all in the body frame (m); `shift` (3,) takes rig to body coordinates.

    `props` are the ribs at tucked elbows, `contacts` chest, hip or thighs. `missed`: the brace that was asked for
    can't be reached.
    """

    body: Body
    places: tuple[Place, ...]
    arms: tuple[Arm, ...]
    asked: tuple[tuple[Measure, ...], ...]
    shift: np.ndarray
    pad: np.ndarray | None
    contacts: tuple[Contact, ...]
    props: tuple[Prop, ...]
    missed: bool


@dataclass(frozen=True, eq=False, slots=True)
class Carry:
    """A rig on a body. All vectors in the body frame (m, N, N m).

    `joints` are ordered from neck to hips, of a pair the side that is loaded more; `worst` gives out first.
    `back_moment` (3,) is that of all above L5/S1 (roll, pitch, yaw); `compression` (N) of the disc.
    `posture` (s) is how long ISO 11226 would have the arms raised like this without any rig. `steady` is the inertia
    in roll, pitch and yaw over the bare camera's, None without a camera that has mass and size.
    """

    support: SupportKind
    operator: Operator
    hold: Hold
    pose: Pose
    held: Held
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
    def body(self) -> Body:
        return self.pose.body

    @property
    def arms(self) -> tuple[Arm, ...]:
        return self.pose.arms

    @property
    def pad(self) -> np.ndarray | None:
        return self.pose.pad

    @property
    def shift(self) -> np.ndarray:
        return self.pose.shift

    @property
    def worst(self) -> JointLoad:
        """The joint that gives out first."""
        return min(self.joints, key=lambda j: (j.hold.likely, -j.share))

    def better_than(self, other: Carry) -> bool:
        """Whether takes can be noticeably longer than with `other`, or as long and it ends noticeably later."""
        if abs(self.safe - other.safe) > 0.001 * other.safe:
            return self.safe > other.safe
        return self.worst.hold.cautious > 1.001 * other.worst.hold.cautious

    @property
    def unsupported(self) -> bool:
        """Whether the arms hold themselves up: no shoulder carries the rig, nothing the elbows or the grips."""
        return self.pose.pad is None and not self.pose.props and not self.body.seated

    @property
    def safe(self) -> float:
        """How long (s) a take may be: half of the time to the end, and no longer than ISO 11226 has arms raised so."""
        half = SAFE_SHARE * self.worst.hold.cautious
        return min(half, self.posture) if self.unsupported else half

    @property
    def by_posture(self) -> bool:
        """Whether raised arms rather than the load set the length of a take."""
        return self.unsupported and self.posture < SAFE_SHARE * self.worst.hold.cautious

    @property
    def out_of_reach(self) -> bool:
        """Whether an arm is too short, or too long, for its grip."""
        return not all(arm.reached for arm in self.arms)


def carry(
    analysis: Analysis,
    operator: Operator,
    support: SupportKind,
    held: Hold | None = None,
    like: Carry | None = None,
) -> Carry | Hindrance:
    """Return what the build costs `operator` carried on the shoulder or in the hands, or why that can't be said.

    `held` is how the hands hold it, the build's own hold by default. On the shoulder the pad lies on top of it,
    10 cm off the midline, and only tucked elbows brace. `like`, a similar one, saves work.
    """
    rig = analysis.body
    if rig is None:
        return Hindrance.NO_MASS
    way = analysis.build.hold if held is None else held
    posed = pose(analysis, operator, support, way)
    if isinstance(posed, Hindrance):
        return posed
    return _carry(analysis, rig, operator, support, way, posed, like)


def pose(analysis: Analysis, operator: Operator, support: SupportKind, way: Hold) -> Pose | Hindrance:
    """Return where the rig is on the body, and what holds and braces it there."""
    on_shoulder = analysis.shoulder if support is SupportKind.SHOULDER else None
    if support is SupportKind.SHOULDER and on_shoulder is None:
        return Hindrance.NO_PAD
    places = hands_at(analysis.assembly, analysis.positions, way, bare=on_shoulder is None)
    if on_shoulder is None and not places:
        return Hindrance.NO_GRIPS
    seated = on_shoulder is None and way.brace is Brace.KNEES
    body = body_of(operator, seated)
    pad: np.ndarray | None = None
    contacts: tuple[Contact, ...] = ()
    if on_shoulder is not None:
        outward = 1.0 if operator.shoulder is Side.LEFT else -1.0
        pad = np.array([0.0, outward * PAD_FROM_MIDLINE, body.shoulder(operator.shoulder)[2]])
        shift = pad - on_shoulder.pad
    else:
        shift, contacts = _in_the_hands(analysis, operator, body, places, way)
    sides = [place.side or operator.shoulder for place in places]
    arms = tuple(reach_for(body, side, place.point + shift) for side, place in zip(sides, places, strict=True))
    asked = tuple(
        measures(body, operator, arm, thickness_of(analysis.assembly, place, way))
        for arm, place in zip(arms, places, strict=True)
    )
    props = (
        tuple(prop for h, arm in enumerate(arms) if (prop := _rib_at(body, arm, h)) is not None)
        if way.brace is Brace.ELBOWS
        else ()
    )
    braced = bool(contacts) or bool(props)
    missed = way.brace is not Brace.NONE and not braced and (on_shoulder is None or way.brace is Brace.ELBOWS)
    return Pose(body, places, arms, asked, shift, pad, contacts, props, missed)


def _in_the_hands(
    analysis: Analysis, operator: Operator, body: Body, places: Sequence[Place], way: Hold
) -> tuple[np.ndarray, tuple[Contact, ...]]:
    """Return the shift (3,) from rig to body, and what the rig rests against."""
    middle = np.mean([place.point for place in places], axis=0)
    usual = usual_hold(operator)
    ahead = usual[0] if way.ahead is None else way.ahead
    below = usual[1] if way.below is None else way.below
    shift = np.array([ahead, 0.0, body.shoulder_right[2] - below]) - middle
    assembly, positions = analysis.assembly, analysis.positions
    if way.brace is Brace.KNEES:
        ends = []
        for place in places:
            grip = assembly.parts[place.part].category is Category.GRIP and assembly.sized[place.part]
            drop = positions.centre[place.part] - [0.0, 0.0, assembly.edges[place.part, 2]] if grip else place.point
            ends.append(np.array(drop))
        lowest = min(float(end[2]) for end in ends)
        shift = np.array([ON_THIGHS * body.stature - middle[0], -middle[1], body.thigh_top - lowest])
        up = np.array([0.0, 0.0, 1.0])
        return shift, tuple(Contact(end + shift, up) for end in ends if end[2] < lowest + LEVEL_ENDS)
    if way.brace not in (Brace.CHEST, Brace.HIP) or not assembly.sized.any():
        return shift, ()
    rear = np.where(assembly.sized, positions.centre[:, 0] - assembly.edges[:, 0], np.inf)
    last = int(rear.argmin())
    spot = np.array([rear[last], positions.centre[last, 1], positions.centre[last, 2]])
    if way.brace is Brace.HIP:
        spot[2] -= assembly.edges[last, 2]
        shift[0] = body.chest - spot[0]
        shift[2] = body.hips[2] + 0.03 * body.stature - spot[2]
        return shift, (Contact(spot + shift, np.array([1.0, 0.0, 1.0]) / math.sqrt(2.0)),)
    shift[0] = body.chest - spot[0]
    low, high = body.hips[2] + 0.16 * body.stature, body.shoulder_right[2] - 0.03 * body.stature
    shift[2] += min(max(spot[2] + shift[2], low), high) - (spot[2] + shift[2])
    return shift, (Contact(spot + shift, np.array([1.0, 0.0, 0.0])),)


def _rib_at(body: Body, arm: Arm, hand: int) -> Prop | None:
    """Return the ribs at an elbow that is near enough to be tucked in: the trunk an ellipse, seen from above."""
    deep, broad = DEPTH * body.stature, RIBS * body.stature
    x, y, z = (float(v) for v in arm.elbow)
    outside = math.hypot(x / deep, y / broad)
    if outside < 1e-6 or not body.hips[2] < z < body.shoulder_right[2]:
        return None
    gap = math.hypot(x, y) * (1.0 - 1.0 / outside) - ARM_RADIUS * body.stature
    if gap > TUCKED:
        return None
    normal = np.array([x / deep**2, y / broad**2, 0.0])
    return Prop(hand, normal / np.linalg.norm(normal), arm.elbow - arm.shoulder)


def usual_hold(operator: Operator) -> tuple[float, float]:
    """Return how far ahead of and below the shoulders (m) a rig is usually held."""
    return HELD_AHEAD * operator.stature, HELD_BELOW * operator.stature


def best_hold(analysis: Analysis, operator: Operator) -> Hold | None:
    """Return the place where the rig is held the longest in the hands, None if it can't be or a brace settles it.

    Tries places 60 mm apart within reach that leave room for the chest, then 30 mm apart about the best; the eye is
    not asked.
    """
    now = analysis.build.hold
    if now.brace not in (Brace.NONE, Brace.ELBOWS):
        return None
    found: Carry | None = None
    like: Carry | None = None
    tried: set[tuple[int, int]] = set()

    def try_at(ahead: int, below: int) -> None:
        nonlocal found, like
        if (ahead, below) in tried or not 220 <= ahead <= 460 or not 50 <= below <= 500:
            return
        tried.add((ahead, below))
        held = replace(now, ahead=ahead / 1000.0, below=below / 1000.0)
        carried = carry(analysis, operator, SupportKind.HANDHELD, held, like)
        if isinstance(carried, Hindrance):
            return
        like = carried
        if not carried.out_of_reach and (found is None or carried.better_than(found)):
            found = carried

    for ahead in range(220, 461, 60):
        for below in range(50, 500, 60):
            try_at(ahead, below)
    for _ in range(2):
        if found is None or found.hold.ahead is None or found.hold.below is None:
            return None
        ahead, below = round(1000.0 * found.hold.ahead), round(1000.0 * found.hold.below)
        for dx in (-30, 0, 30):
            for dz in (-30, 0, 30):
                try_at(ahead + dx, below + dz)
    return found.hold if found is not None else None


def _carry(
    analysis: Analysis,
    rig: MassProperties,
    operator: Operator,
    support: SupportKind,
    way: Hold,
    posed: Pose,
    like: Carry | None = None,
) -> Carry | Hindrance:
    body, pad, shift, arms = posed.body, posed.pad, posed.shift, posed.arms
    points = [place.point + shift for place in posed.places]
    cg = rig.cg + shift
    held = hold(
        rig.mass,
        cg,
        points,
        posed.asked,
        pad,
        analysis.build.shoulder,
        posed.contacts,
        posed.props,
        like.held.basis if like is not None else (),
    )
    if held is None:
        return Hindrance.NOT_HELD
    ribs = list(zip(posed.props, held.propped, strict=True))
    found: list[JointLoad] = []
    for joint in (Joint.SHOULDER, Joint.ELBOW, Joint.WRIST, Joint.HAND):
        each = [
            _joint(joint, arm.side, abs(propped_load(m, hand, [r for r in ribs if r[0].hand == h])), m.capacity)
            for h, (arm, hand, ms) in enumerate(zip(arms, held.hands, posed.asked, strict=True))
            for m in ms
            if m.joint is joint
        ]
        if each:
            found.append(max(each, key=lambda j: j.share))
    lean = analysis.shoulder.lean if pad is not None and analysis.shoulder is not None else 0.0
    screen = screen_from_eye(analysis.assembly, analysis.positions, body, shift)
    gaze = gaze_down(screen) if screen is not None else None
    head = HEAD_MASS * body.mass * STANDARD_GRAVITY * math.hypot(head_lever(gaze or 0.0), lean)
    found.insert(0, _joint(Joint.NECK, None, head, capacity(operator, Joint.NECK)))
    pushes = list(held.braced) if way.brace in (Brace.CHEST, Brace.HIP) else []
    if pad is not None:
        pushes.append(Push(pad, held.pad_force, held.pad_moment))
    on_back = pushes if way.brace is not Brace.HIP else []
    moment, down = load_above(body, arms, held.hands, on_back, body.low_back, ABOVE_L5S1_MASS)
    strength = capacity(operator, Joint.LOW_BACK) * (1.0 if moment[1] >= 0.0 else FLEXION_SHARE)
    found.append(_joint(Joint.LOW_BACK, None, math.hypot(moment[0], moment[1]), strength))
    right_leg = 0.5 - rig.mass * float(cg[1]) / (rig.mass + body.mass) / STANCE if not body.seated else 0.5
    about_hips, _ = load_above(body, arms, held.hands, pushes, body.hips, ABOVE_HIP_MASS)
    leg = Side.RIGHT if right_leg > 0.505 else Side.LEFT if right_leg < 0.495 else None
    heavier = max(right_leg, 1.0 - right_leg)
    found.append(_joint(Joint.HIP, leg, heavier * abs(float(about_hips[1])), capacity(operator, Joint.HIP)))
    posture = min((arm_posture_limit(arm.elevation) for arm in arms), default=math.inf)
    pivot = pad if pad is not None else np.mean(points, axis=0)
    return Carry(
        support,
        operator,
        way,
        posed,
        held,
        cg,
        rig.mass,
        tuple(found),
        moment,
        disc_compression(down, moment),
        posture,
        steadiness(analysis, pivot - shift),
        gaze,
        see_saw(rig.mass, cg, points[0], points[1]) if len(points) == 2 else None,
        right_leg,
        by_the_handle(analysis, rig),
    )


def screen_from_eye(assembly: Assembly, positions: Positions, body: Body, shift: np.ndarray) -> np.ndarray | None:
    """Return the way (3,) (m) from the eye to the middle of the nearest screen ahead of it, None if there is none."""
    spots = [
        positions.centre[i] + shift - body.eye
        for i, part in enumerate(assembly.parts)
        if part.category is Category.MONITOR
    ]
    ahead = [d for d in spots if d[0] > 0.02]
    return min(ahead, key=lambda v: float(v @ v)) if ahead else None


def gaze_down(d: np.ndarray) -> float:
    """Return how far below level (rad) a direction (3,) points."""
    return math.atan2(-float(d[2]), math.hypot(float(d[0]), float(d[1])))


def head_bend(gaze: float) -> float:
    """Return how far (rad) the head bends forward for a `gaze` below level; negative: back.

    The eyes do 30 degrees of looking down and nothing of looking up; the neck does the rest.
    """
    return gaze - EASY_GAZE if gaze > EASY_GAZE else min(gaze, 0.0)


def head_lever(gaze: float) -> float:
    """Return how far (m) the head's centre lies ahead of C7/T1 for a `gaze` (rad) below level.

    Bending back moves the centre back alike. Between upright and 30 degrees linear.
    """
    bend = head_bend(gaze)
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
    return float(line / size @ cross(cg - right, pull))


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


def load_above(
    body: Body,
    arms: Sequence[Arm],
    hands: Sequence[HandLoad],
    pushes: Sequence[Push],
    centre: np.ndarray,
    mass: float,
) -> tuple[np.ndarray, float]:
    """Return moment (3,) (N m) about `centre` (3,) of the rig and all of the body above it, and the weight (N) on it.

    `pushes` are what the body above `centre` gives the rig besides the hands; `mass` is that of head and trunk above
    it, over the body's. The trunk stands upright, its own centre over the joint. Pitch positive bends forward. Arms
    that hold no grip hang straight down. What the ribs give the elbows stays inside.
    """
    down = mass * body.mass * STANDARD_GRAVITY
    moment = cross([HEAD_AHEAD, 0.0, 0.0], [0.0, 0.0, -HEAD_MASS * body.mass * STANDARD_GRAVITY])
    for push in pushes:
        moment -= push.moment + cross(push.point - centre, push.force)
        down += float(push.force[2])
    for hand in hands:
        moment -= hand.couple + cross(hand.point - centre, hand.force)
        down += float(hand.force[2])
    hanging = [
        reach_for(body, side, body.shoulder(side) - np.array([0.0, 0.0, body.reach]))
        for side in Side
        if side not in {arm.side for arm in arms}
    ]
    for arm in (*arms, *hanging):
        for weight in arm_weights(body, arm):
            pull = np.array([0.0, 0.0, -weight.mass * STANDARD_GRAVITY])
            moment += cross(weight.centre - centre, pull)
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


@dataclass(frozen=True, eq=False, slots=True)
class Stagger:
    """Two grips as they might be: `by` (m) the one ahead of the other, `moved` (m) both; and what that would cost.

    `see_saw` (N m) is signed as in `Carry.see_saw`.
    """

    by: float
    moved: float
    see_saw: float
    worst: JointLoad


#: m: a stagger that rods and rosettes commonly allow; common practice.
USUAL_STAGGER = 0.150


def staggers(analysis: Analysis, carried: Carry) -> tuple[Stagger, ...]:
    """Return the grips side by side, as they are, staggered, and moved until their line passes under the CG.

    Each is held about the same middle, without asking whether the rig's slides and rosettes allow it. The
    staggered ones have that hand ahead that lasts longer. None without two hands off the shoulder, or on the thighs.
    """
    places = carried.pose.places
    if analysis.body is None or carried.pad is not None or len(places) != 2 or carried.hold.brace is Brace.KNEES:
        return ()
    # Against chest or hip the rig stays, and the hands move along it; held free, the hands stay.
    braced = bool(carried.pose.contacts)
    first, second = (place.point for place in places)
    now = float(first[0] - second[0])
    middle = (first + second) / 2.0

    def at(by: float, moved: float) -> Stagger | None:
        shifts = (middle[0] + by / 2.0 + moved - first[0], middle[0] - by / 2.0 + moved - second[0])
        shift = carried.shift if braced else carried.shift - [moved, 0.0, 0.0]
        moved_places = tuple(
            replace(place, point=place.point + np.array([x, 0.0, 0.0])) for place, x in zip(places, shifts, strict=True)
        )
        arms = tuple(
            reach_for(carried.body, arm.side, place.point + shift)
            for arm, place in zip(carried.arms, moved_places, strict=True)
        )
        asked = tuple(
            measures(carried.body, carried.operator, arm, thickness_of(analysis.assembly, place, carried.hold))
            for arm, place in zip(arms, places, strict=True)
        )
        posed = replace(carried.pose, places=moved_places, arms=arms, asked=asked, shift=shift, props=())
        assert analysis.body is not None
        found = _carry(analysis, analysis.body, carried.operator, carried.support, carried.hold, posed, carried)
        if isinstance(found, Hindrance):
            return None
        return Stagger(by, moved, found.see_saw or 0.0, found.worst)

    ways = [at(0.0, 0.0)]
    if abs(now) > 0.005:
        ways.append(at(now, 0.0))
    apart = max((at(USUAL_STAGGER, 0.0), at(-USUAL_STAGGER, 0.0)), key=lambda s: s.worst.hold.likely if s else 0.0)
    ways.append(apart)
    # Where the line passes beside the CG, at the CG's own way across.
    across = float(first[1] - second[1])
    slope = now / across if abs(across) > 1e-6 else 0.0
    on_line = middle[0] + slope * (analysis.body.cg[1] - middle[1])
    ways.append(at(now, float(analysis.body.cg[0] - on_line)))
    return tuple(way for way in ways if way is not None)


@dataclass(frozen=True, eq=False, slots=True)
class CarryDoubts:
    """Standard uncertainties of a Carry's figures that come from the rig's mass and CG; those of the body come on top.

    `joints` of each joint's load, `hands` of the forces' sizes, in the order of the Carry's; `hang` (rad), `ahead` (m)
    and `holds` (N m) of the rig by its handle.
    """

    joints: tuple[float, ...]
    hands: tuple[float, ...]
    on_pad: float
    back: float
    compression: float
    see_saw: float
    right_leg: float
    hang: float
    ahead: float
    holds: float


def doubts_of(analysis: Analysis, carried: Carry) -> CarryDoubts | None:
    """Return how sure the figures of `carried` are, first order: JCGM 100:2008 (GUM), clause 5.

    Mass and the CG's axes are each moved by their standard uncertainty; taken as independent. None where a rig that
    differs so little can't be held.
    """
    rig, doubt = analysis.body, analysis.spread
    if rig is None or doubt is None:
        return None
    now = _sizes(carried)
    variance = np.zeros(len(now))
    for k, u in enumerate((doubt.mass, *doubt.cg)):
        if u <= 0.0:
            continue
        moved = replace(rig, mass=rig.mass + u) if k == 0 else replace(rig, cg=rig.cg + float(u) * np.eye(3)[k - 1])
        other = _carry(analysis, moved, carried.operator, carried.support, carried.hold, carried.pose, carried)
        if isinstance(other, Hindrance):
            return None
        variance += (_sizes(other) - now) ** 2
    j, h = len(carried.joints), len(carried.held.hands)
    found = [float(u) for u in np.sqrt(variance)]
    return CarryDoubts(tuple(found[:j]), tuple(found[j : j + h]), *found[j + h :])


def _sizes(carried: Carry) -> np.ndarray:
    hung = carried.handle
    return np.array(
        [
            *(joint.load for joint in carried.joints),
            *(hand.size for hand in carried.held.hands),
            float(carried.held.pad_force[2]),
            math.hypot(float(carried.back_moment[0]), float(carried.back_moment[1])),
            carried.compression,
            carried.see_saw or 0.0,
            carried.right_leg,
            *((hung.pitch, hung.ahead, hung.holds) if hung is not None else (0.0, 0.0, 0.0)),
        ]
    )
