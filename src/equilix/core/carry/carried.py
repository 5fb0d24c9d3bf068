"""What a build costs the body that carries it: each joint's share of its strength, and how long that can be held.

An estimate for planning, not medical advice: people differ from the tables by far more than rigs do.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Hold, Operator, Side, Take
from equilix.core.carry.handle import by_the_handle
from equilix.core.carry.loads import Hung, JointLoad, gives_out, joint_load
from equilix.core.chosen import hold_of
from equilix.core.frames import STANDARD_GRAVITY, cross
from equilix.core.massprops.bodies import MassProperties, shift_inertia
from equilix.core.operator.body import (
    ABOVE_L5S1_MASS,
    HEAD_ABOVE,
    HEAD_AHEAD,
    HEAD_MASS,
    UPRIGHT,
    Arm,
    Body,
    arm_weights,
    hanging_arm,
)
from equilix.core.operator.endurance import HoldTime, arm_posture_limit, hold_time
from equilix.core.operator.fatigue import SAFE_SHARE, Block, Reserve, reserve_over, rest_needed
from equilix.core.operator.strength import BodyJoint, capacity
from equilix.core.registry import support_for
from equilix.core.rounding import negligible
from equilix.core.sources import common_practice, from_memory, published
from equilix.core.statics.hands import HandLoad, Held, Push, propped_load
from equilix.core.statics.looking import gaze_down, screen_from_eye, screens
from equilix.core.statics.pose import Hindrance, Pose

#: Lever arms of the low back's muscles (m): extensor 5 cm, side 7.5 cm, abdominals 8 cm. Others take 6 cm for the
#: first.
EXTENSOR = published(0.050, "Chaffin and Andersson, Occupational Biomechanics")
ABDOMINAL, LATERAL = from_memory((0.080, 0.075), "Chaffin and Andersson, Occupational Biomechanics")
#: Bending forward against the abdominals, over straightening up: about 57 %.
FLEXION_SHARE = from_memory(0.57, "Stobbe 1982")
#: rad: how far a neck bends either way.
NECK_RANGE = from_memory(math.radians(60.0), "American Academy of Orthopaedic Surgeons (1965), about 60")
#: Bending the head forward over straightening it: 30 N m of 52.
NECK_FLEXION_SHARE = from_memory(30.0 / 52.0, "Vasavada 2001, men")
#: rad: how far below level the eyes look without the head.
EASY_GAZE = common_practice(math.radians(30.0))
#: m between the feet.
STANCE = common_practice(0.30)
#: N on the lowest disc. To be under it is not to be safe.
DISC_LIMIT = published(3400.0, "NIOSH (1981), action limit")
#: Share by which one time must be longer than another to be told apart.
_LONGER = common_practice(0.001)
#: Share of the weight beyond half from which one leg bears more than the other.
_LEANS = common_practice(0.005)


class Carry(Struct, frozen=True, eq=False):
    """A rig on a body. All vectors in the body frame (m, N, N m).

    `joints` are ordered from neck to hips, of a pair the side that is loaded more; `worst` gives out first.
    `back_moment` (3,) is that of all above L5/S1 (roll, pitch, yaw), `least_back_moment` (3,) at the easier end of how
    people do it; `compression` (N) of the disc.
    `posture` (s) is how long ISO 11226 would have the arms raised like this without any rig. `steady` is the inertia
    in roll, pitch and yaw about pad or grips over that of the camera alone, None without one that has mass and size.
    """

    support: str
    operator: Operator
    hold: Hold
    pose: Pose
    held: Held
    cg: np.ndarray
    mass: float
    joints: tuple[JointLoad, ...]
    back_moment: np.ndarray
    least_back_moment: np.ndarray
    compression: float
    posture: float
    steady: tuple[float, float, float] | None
    gaze: float | None
    has_screen: bool
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
        """The joint that gives out first: that with the least time which is sure of it."""
        return min(self.joints, key=gives_out)

    @property
    def to_the_end(self) -> float:
        """The time (s) to plan with until the first joint gives out: the low end of that joint's."""
        return self.worst.hold.low

    @property
    def lasts(self) -> HoldTime:
        """How long all of it lasts: from the first joint's low end to the earliest of all joints' high ends."""
        return replace(self.worst.hold, high=min(j.hold.high for j in self.joints))

    @property
    def bound(self) -> bool:
        """Whether that is a bound where no rule was fitted, not an estimate."""
        return self.worst.hold.beyond

    def better_than(self, other: Carry) -> bool:
        """Whether takes can be noticeably longer than with `other`, or as long and it ends noticeably later."""
        if abs(self.safe - other.safe) > _LONGER * other.safe:
            return self.safe > other.safe
        return self.to_the_end > (1.0 + _LONGER) * other.to_the_end

    @property
    def unsupported(self) -> bool:
        """Whether the arms hold themselves up: no shoulder carries the rig, nothing the elbows or the grips."""
        return self.pose.pad is None and not self.pose.props and not self.body.seated

    @property
    def safe(self) -> float:
        """How long (s) a take may be: half of the time to the end, and no longer than ISO 11226 has arms raised so."""
        half = SAFE_SHARE * self.to_the_end
        return min(half, self.posture) if self.unsupported else half

    @property
    def by_posture(self) -> bool:
        """Whether raised arms rather than the load set the length of a take."""
        return self.unsupported and self.posture < SAFE_SHARE * self.to_the_end

    @property
    def unwatched(self) -> bool:
        """Whether there is a screen, and none that can be watched like this."""
        return self.gaze is None and self.has_screen

    @property
    def out_of_reach(self) -> bool:
        """Whether an arm is too short, or too long, for its grip."""
        return not all(arm.reached for arm in self.arms)


def carry(
    analysis: Analysis,
    operator: Operator,
    support: str,
    held: Hold | None = None,
) -> Carry | Hindrance:
    """Return what the build costs `operator` carried on the shoulder or in the hands, or why that can't be said.

    `held` is how the hands hold it, the build's own hold by default. On the shoulder the pad lies on top of it,
    10 cm off the midline, and only tucked elbows brace.
    """
    rig = analysis.body
    if rig is None:
        return Hindrance.NO_MASS
    way = hold_of(analysis.build, support) if held is None else held
    posed = support_for(support).pose(analysis, operator, way)
    if isinstance(posed, Hindrance):
        return posed
    return carry_posed(analysis, rig, operator, support, way, posed)


def carry_posed(
    analysis: Analysis,
    rig: MassProperties,
    operator: Operator,
    support: str,
    way: Hold,
    posed: Pose,
) -> Carry | Hindrance:
    """Return what `rig`, posed as `posed`, costs; `carry` with the pose and the rig's mass and CG given."""
    pad, shift, arms = posed.pad, posed.shift, posed.arms
    points = [place.point + shift for place in posed.places]
    cg = rig.cg + shift
    held = posed.statics(arms=True).hold(rig.mass, cg)
    if held is None:
        return Hindrance.NOT_HELD if posed.places else Hindrance.NO_GRIPS
    # Who leans under a load keeps the head where it sees the screen as before.
    looks = posed.unladen or posed
    screen = screen_from_eye(analysis.assembly, analysis.positions, looks.body, looks.shift)
    gaze = gaze_down(screen) if screen is not None else None
    own = _arms_alone(operator, posed.unladen or posed)
    borne = _borne(rig, operator, way, posed, held, gaze, own)
    easier = None
    if posed.eased is not None:
        by_it = posed.eased.statics(arms=True).hold(rig.mass, rig.cg + posed.eased.shift)
        easier = None if by_it is None else _borne(rig, operator, way, posed.eased, by_it, gaze, own)
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
        borne.joints if easier is None else _both_ends(borne, easier),
        borne.moment,
        easier.moment if easier is not None else borne.moment,
        disc_compression(borne.down, borne.moment),
        posture,
        steadiness(analysis, pivot - shift),
        gaze,
        bool(screens(analysis.assembly)),
        see_saw(rig.mass, cg, points[0], points[1]) if len(points) == 2 else None,
        borne.right_leg,
        by_the_handle(analysis, rig, operator),
    )


class _Borne(Struct, frozen=True, eq=False):
    """What one way to stand costs: `joints` from neck to hips, moment (3,) at L5/S1, weight (N) on it, the legs."""

    joints: tuple[JointLoad, ...]
    moment: np.ndarray
    at_hips: float
    down: float
    right_leg: float


def _arm_joints(operator: Operator, posed: Pose, held: Held) -> list[JointLoad]:
    """Return the joints of the arms from the shoulder on, of a pair the side that is loaded more."""
    ribs = list(zip(posed.props, held.propped, strict=True))
    found = []
    for joint in (BodyJoint.SHOULDER, BodyJoint.ELBOW, BodyJoint.WRIST, BodyJoint.HAND):
        each = [
            joint_load(joint, arm.side, abs(propped_load(m, hand, [r for r in ribs if r[0].hand == h])), m.capacity)
            for h, (arm, hand, ms) in enumerate(zip(posed.arms, held.hands, posed.asked, strict=True))
            for m in ms
            if m.joint is joint
        ]
        if each:
            # What asks least of the worst joint often makes several equally bad: which is named must not hang on
            # rounding. The pad's side comes first, then the component with the greater load.
            found.append(max(each, key=lambda j: (round(j.share, 6), j.side is operator.shoulder, j.load)))
    return found


def _arms_alone(operator: Operator, posed: Pose) -> list[JointLoad]:
    """Return what the arms' own weight asks of them at a rig that weighs nothing.

    Arms may rest on a rig, the better the heavier it is: that relief is not counted, or more load would read longer.
    """
    middle = posed.pad if posed.pad is not None else np.mean([place.point for place in posed.places], axis=0)
    held = posed.statics(arms=True).hold(0.0, middle)
    return [] if held is None else _arm_joints(operator, posed, held)


def _borne(
    rig: MassProperties,
    operator: Operator,
    way: Hold,
    posed: Pose,
    held: Held,
    gaze: float | None,
    own: list[JointLoad],
) -> _Borne:
    """Return what a body that stands as `posed` bears of a `rig` that is `held` so; its arms no less than their `own`
    weight asks."""
    body, pad, arms = posed.body, posed.pad, posed.arms
    cg = rig.cg + posed.shift
    found = _arm_joints(operator, posed, held)
    if own:
        found = [max(pair, key=lambda j: j.share) for pair in zip(found, own, strict=True)]
    lever = head_lever(gaze or 0.0)
    head = HEAD_MASS * body.mass * STANDARD_GRAVITY * math.hypot(lever, posed.lean)
    neck = capacity(operator, BodyJoint.NECK) * (1.0 if lever >= 0.0 else NECK_FLEXION_SHARE)
    found.insert(0, joint_load(BodyJoint.NECK, None, head, neck))
    pushes = list(held.braced) if way.brace in (Brace.CHEST, Brace.HIP) else []
    if pad is not None:
        pushes.append(Push(pad, held.pad_force, held.pad_moment))
    pushes += posed.worn
    on_back = pushes if way.brace is not Brace.HIP else []
    moment, down = load_above(body, arms, held.hands, on_back, body.low_back, ABOVE_L5S1_MASS, posed.frame_share)
    down -= (1.0 - posed.borne) * sum(float(f[2]) for f in (held.pad_force, *(push.force for push in posed.worn)))
    strength = capacity(operator, BodyJoint.LOW_BACK) * (1.0 if moment[1] >= 0.0 else FLEXION_SHARE)
    found.append(joint_load(BodyJoint.LOW_BACK, None, math.hypot(moment[0], moment[1]), strength))
    right_leg = 0.5
    # Who leans stands with the CG of both over the middle of the feet.
    if not body.seated and posed.stance.lean == UPRIGHT:
        beside = [
            (rig.mass, float(cg[1])),
            *((float(p.force[2]) / STANDARD_GRAVITY, float(p.point[1])) for p in posed.worn),
        ]
        whole = body.mass + sum(mass for mass, _ in beside)
        right_leg -= sum(mass * y for mass, y in beside) / whole / STANCE
    about_hips, _ = load_above(body, arms, held.hands, pushes, body.hips)
    leg = Side.RIGHT if right_leg > 0.5 + _LEANS else Side.LEFT if right_leg < 0.5 - _LEANS else None
    heavier = max(right_leg, 1.0 - right_leg)
    found.append(joint_load(BodyJoint.HIP, leg, heavier * abs(float(about_hips[1])), capacity(operator, BodyJoint.HIP)))
    return _Borne(tuple(found), moment, float(about_hips[1]), down, right_leg)


def _both_ends(one: _Borne, eased: _Borne) -> tuple[JointLoad, ...]:
    """Return each joint with the greater of its shares at both ends of how people do it, and the lesser one.

    Between two ends that bend a joint to either side lies one that does not bend it: nobody leans past that.
    """
    joints, others = one.joints, eased.joints
    past = {
        joint
        for joint, a, b in (
            (BodyJoint.LOW_BACK, one.moment[1], eased.moment[1]),
            (BodyJoint.HIP, one.at_hips, eased.at_hips),
        )
        if float(a) * float(b) < 0.0
    }
    found = []
    by_joint = {other.joint: other for other in others}
    for joint in joints:
        other = by_joint.get(joint.joint, joint)
        least = 0.0 if joint.joint in past else min(joint.share, other.share)
        more = joint if joint.share >= other.share or joint.joint in past else other
        times = hold_time(more.joint, more.share, least)
        found.append(replace(more, least_share=least, hold=times))
    return tuple(found)


def head_bend(gaze: float) -> float:
    """Return how far (rad) the head bends forward for a `gaze` below level; negative: back.

    The eyes do 30 degrees of looking down and nothing of looking up; the neck does the rest.
    """
    return max(gaze - EASY_GAZE, 0.0) + min(gaze, 0.0)


def head_lever(gaze: float) -> float:
    """Return how far (m) the head's centre lies ahead of C7/T1 for a `gaze` (rad) below level; negative: behind.

    The head turns about C7/T1 as one piece, as far as a neck does.
    """
    bend = min(max(head_bend(gaze), -NECK_RANGE), NECK_RANGE)
    return HEAD_AHEAD * math.cos(bend) + HEAD_ABOVE * math.sin(bend)


def see_saw(mass: float, cg: np.ndarray, first: np.ndarray, second: np.ndarray) -> float:
    """Return the weight's moment (N m) about the line through two grips, positive where the CG lies ahead of it.

    ``u . ((c - g1) x (0, 0, -W))`` with u along the line from right to left. Zero if the line, seen from above,
    passes under the CG: so staggered grips can end it.
    """
    left, right = (first, second) if first[1] >= second[1] else (second, first)
    line = left - right
    size = float(np.linalg.norm(line))
    if negligible(size):
        return 0.0
    pull = np.array([0.0, 0.0, -mass * STANDARD_GRAVITY])
    return float(line / size @ cross(cg - right, pull))


def load_above(
    body: Body,
    arms: Sequence[Arm],
    hands: Sequence[HandLoad],
    pushes: Sequence[Push],
    centre: np.ndarray,
    mass: float = 0.0,
    frame: float = 1.0,
) -> tuple[np.ndarray, float]:
    """Return moment (3,) (N m) about `centre` (3,) of the rig and all of the body above it, and the weight (N) on it.

    `pushes` are what the body above `centre` gives the rig besides the hands, `frame` the share of their forward moment
    that comes to bear on it; `mass` is that of head and trunk above it, over the body's: only the weight asks for it.
    What of the body is above `centre` has its own moment where the trunk leans. Pitch positive bends forward. Arms that
    hold no grip hang along the trunk. What the ribs give the elbows stays inside.
    """
    down = mass * body.mass * STANDARD_GRAVITY
    moment = np.zeros(3)
    for push in pushes:
        moment -= push.moment + cross(push.point - centre, push.force)
        down += float(push.force[2])
    moment[1] *= frame
    for hand in hands:
        moment -= hand.couple + cross(hand.point - centre, hand.force)
        down += float(hand.force[2])
    for own in (body.head, body.trunk, *((body.pelvis,) if body.pelvis.centre[2] > centre[2] else ())):
        moment += cross(own.centre - centre, [0.0, 0.0, -own.mass * STANDARD_GRAVITY])
    hanging = [hanging_arm(body, side) for side in Side if side not in {arm.side for arm in arms}]
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
    return down + max(pitch / EXTENSOR, -pitch / ABDOMINAL) + abs(float(moment[0])) / LATERAL


def steadiness(analysis: Analysis, pivot: np.ndarray) -> tuple[float, float, float] | None:
    """Return roll, pitch and yaw inertia about `pivot` (3,) (m, rig frame) over that of the camera alone about it.

    The angular answer to a torque well above resonance goes as 1/(I w2), I about what the rig turns about: pad or
    grips. The camera stands where it stands, so one that nothing is put on comes to 1. None without a sized camera.
    """
    rig, camera = analysis.body, analysis.assembly.sensor
    if rig is None or camera is None:
        return None
    assembly = analysis.assembly
    body = MassProperties(float(assembly.mass[camera]), analysis.positions.cg[camera], assembly.inertia[camera])
    bare = np.diag(shift_inertia(body, pivot))
    if not (np.diag(assembly.inertia[camera]) > 0.0).all():
        return None
    roll, pitch, yaw = (float(v) for v in np.diag(shift_inertia(rig, pivot)) / bare)
    return roll, pitch, yaw


def reserves(carried: Carry, takes: Sequence[Take], step: float = 1.0) -> tuple[Reserve, ...]:
    """Return each joint's reserve over the takes, in the order of `carried.joints`."""
    blocks = [Block(take.length, take.rest) for take in takes]
    return tuple(reserve_over(j.joint, j.share, blocks, step) for j in carried.joints)


def rest_for(carried: Carry, take: float) -> float:
    """Return the rest (s) that the joint that needs most of it needs for takes of `take` seconds, the longer band."""
    return max(rest_needed(j.joint, j.share, take) for j in carried.joints)
