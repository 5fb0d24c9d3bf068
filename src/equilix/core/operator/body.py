"""Segments of a standing body, and arms that reach a grip.

Body frame: origin on the ground between the feet, x forward, y to the left, z up (m). Lengths are fractions
of stature: Drillis and Contini (1966), in Winter, Biomechanics and Motor Control of Human Movement (2009), fig. 4.1;
masses and centres: Winter, table 4.1 (trunk and head+neck+trunk splits, L5/S1 and C7/T1 heights from memory).
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Operator, Side
from equilix.core.cache import CACHED_PEOPLE
from equilix.core.frames import AHEAD, UP, rotation_about, unit
from equilix.core.rounding import ROUNDING, SLIGHT, as_cosine, negligible
from equilix.core.sources import assumed, common_practice, from_memory, published

_HEIGHTS = "Drillis and Contini (1966), in Winter (2009), fig. 4.1"
#: Height over stature.
EYE, SHOULDER, HIP = published((0.936, 0.818, 0.530), _HEIGHTS)
UPPER_ARM, FOREARM, HAND, HALF_SHOULDERS = published((0.186, 0.146, 0.108, 0.129), _HEIGHTS)
L5S1, C7T1 = from_memory((0.588, 0.848))
KNEE = published(0.285, _HEIGHTS)
#: Half the width at ribs and half the trunk's depth, over stature.
RIBS, DEPTH = assumed((0.088, 0.062))
#: m that shoes add: 25 to 30 mm.
SHOES = common_practice(0.027)
#: m: the eye ahead of the shoulder joints; half a thigh's thickness over stature: assumed.
EYE_AHEAD, HALF_THIGH = assumed((0.08, 0.045))
#: Segment mass over body mass, and its centre over its length from the upper end.
HAND_MASS, HAND_CENTRE = published((0.006, 0.506), "Winter (2009), table 4.1")
FOREARM_MASS, FOREARM_CENTRE = published((0.016, 0.430), "Winter (2009), table 4.1")
UPPER_ARM_MASS, UPPER_ARM_CENTRE = published((0.028, 0.436), "Winter (2009), table 4.1")
#: Head and neck over body mass.
HEAD_MASS = published(0.081, "Winter (2009), table 4.1")
#: Head, neck and what of the trunk lies above L5/S1, without the arms: 0.355 + 0.081.
ABOVE_L5S1_MASS = published(0.355 + HEAD_MASS, "Winter (2009), table 4.1")
#: Wrist to knuckle over stature.
KNUCKLE_FROM_WRIST = from_memory(0.0495, "de Leva, Journal of Biomechanics 29 (1996)")
#: Wrist to the middle of what a fist holds, over stature: about 80 % of the way to the knuckles.
GRIP_FROM_WRIST = common_practice(0.040)
#: Of an arm's length: farther than this it is as good as straight.
_STRAIGHT = assumed(0.9999)


#: m: the head's centre ahead of C7/T1, upright and bent forward by 30 degrees.
HEAD_AHEAD, HEAD_AHEAD_BENT = from_memory((0.03, 0.11), "Vasavada")
#: m: how far the head's centre then lies above C7/T1, so that one turn takes the first into the second.
HEAD_ABOVE = (HEAD_AHEAD_BENT - HEAD_AHEAD * math.cos(math.radians(30.0))) / math.sin(math.radians(30.0))
#: Both arms over body mass.
ARMS_MASS = published(2.0 * (UPPER_ARM_MASS + FOREARM_MASS + HAND_MASS), "Winter (2009), table 4.1")
#: Pelvis over body mass, and the trunk's centre above L5/S1 over its length from C7/T1 downwards.
PELVIS_MASS, TRUNK_CENTRE = from_memory((0.142, 0.63), "Winter (2009), table 4.1")
#: Of stature: how high the ankles are.
ANKLE = published(0.039, "Winter (2009), fig. 4.1")


class Weight(Struct, frozen=True, eq=False):
    """A segment's mass (kg) and centre (3,) (m, body frame)."""

    mass: float
    centre: np.ndarray


class Body(Struct, frozen=True, eq=False):
    """A standing or seated body: joint centres (3,) and lengths (m), and mass (kg).

    `up` (3,) is the way along the trunk; `trunk` and `head` are what lies above L5/S1 without the arms.
    """

    stature: float
    mass: float
    shoulder_left: np.ndarray
    shoulder_right: np.ndarray
    eye: np.ndarray
    neck: np.ndarray
    low_back: np.ndarray
    hips: np.ndarray
    ankle: np.ndarray
    trunk: Weight
    head: Weight
    pelvis: Weight
    upper_arm: float
    forearm: float
    to_grip: float
    seated: bool = False
    up: np.ndarray = UP

    def shoulder(self, side: Side) -> np.ndarray:
        """Return the shoulder joint's centre."""
        return self.shoulder_left if side is Side.LEFT else self.shoulder_right

    @property
    def reach(self) -> float:
        """From shoulder joint to a grip held with the arm straight (m)."""
        return self.upper_arm + self.forearm + self.to_grip

    @property
    def chest(self) -> float:
        """How far ahead of the joints (m) chest and belly begin."""
        return DEPTH * self.stature

    @property
    def thigh_top(self) -> float:
        """Height (m) of the thighs' upper side of a seated body: half a thigh's thickness above the joints."""
        return float(self.hips[2]) + HALF_THIGH * self.stature


class Lean(Struct, frozen=True):
    """How far (rad) legs and pelvis lean back about the ankles, how far the trunk does, and how far all leans left."""

    ankles: float = 0.0
    trunk: float = 0.0
    aside: float = 0.0


#: Nobody leans.
UPRIGHT = Lean()


@lru_cache(maxsize=CACHED_PEOPLE)
def body_of(operator: Operator, seated: bool = False, lean: Lean = UPRIGHT) -> Body:
    """Return the body of `operator`, with the measured heights and reach where they are given.

    Seated on a seat as high as the knees: hip joints as high as knee joints. Trunk, head and shoulders go with the
    trunk's `lean`, the rest with the ankles'.
    """
    if lean != UPRIGHT:
        return _leaned(body_of(operator, seated), lean)
    h = operator.stature
    shoulder = operator.shoulder_height or SHOULDER * h
    eye = operator.eye_height or EYE * h
    arms = (UPPER_ARM + FOREARM + GRIP_FROM_WRIST) * h
    scale = operator.reach / arms if operator.reach else 1.0
    # Heights between hip and shoulder follow the shoulder.
    trunk = (shoulder - HIP * h) / ((SHOULDER - HIP) * h)

    def at(height: float) -> float:
        return (HIP + (height - HIP) * trunk) * h + SHOES

    half = HALF_SHOULDERS * h
    down = (HIP - KNEE) * h if seated else 0.0
    mass, neck, low, hip = operator.body_mass, at(C7T1) - down, at(L5S1) - down, HIP * h + SHOES - down
    return Body(
        h,
        mass,
        np.array([0.0, half, shoulder + SHOES - down]),
        np.array([0.0, -half, shoulder + SHOES - down]),
        np.array([EYE_AHEAD, 0.0, eye + SHOES - down]),
        np.array([0.0, 0.0, neck]),
        np.array([0.0, 0.0, low]),
        np.array([0.0, 0.0, hip]),
        np.array([0.0, 0.0, ANKLE * h + SHOES]),
        Weight((ABOVE_L5S1_MASS - HEAD_MASS) * mass, np.array([0.0, 0.0, neck - TRUNK_CENTRE * (neck - low)])),
        Weight(HEAD_MASS * mass, np.array([HEAD_AHEAD, 0.0, neck + HEAD_ABOVE])),
        Weight(PELVIS_MASS * mass, np.array([0.0, 0.0, (low + hip) / 2.0])),
        UPPER_ARM * h * scale,
        FOREARM * h * scale,
        GRIP_FROM_WRIST * h * scale,
        seated,
    )


def _leaned(body: Body, lean: Lean) -> Body:
    """Return an upright body as it leans: all turns about the ankles, what is above L5/S1 about that besides."""
    aside = rotation_about((1.0, 0.0, 0.0), -lean.aside)
    low, high = (aside @ rotation_about((0.0, 1.0, 0.0), -back) for back in (lean.ankles, lean.trunk))

    def below(point: np.ndarray) -> np.ndarray:
        result: np.ndarray = body.ankle + low @ (point - body.ankle)
        return result

    joint = below(body.low_back)

    def above(point: np.ndarray) -> np.ndarray:
        result: np.ndarray = joint + high @ (point - body.low_back)
        return result

    return replace(
        body,
        shoulder_left=above(body.shoulder_left),
        shoulder_right=above(body.shoulder_right),
        eye=above(body.eye),
        neck=above(body.neck),
        low_back=joint,
        hips=below(body.hips),
        trunk=Weight(body.trunk.mass, above(body.trunk.centre)),
        head=Weight(body.head.mass, above(body.head.centre)),
        pelvis=Weight(body.pelvis.mass, below(body.pelvis.centre)),
        up=high @ UP,
    )


def worn_place(operator: Operator, at: np.ndarray, lean: Lean) -> np.ndarray:
    """Return where a place (3,) (m) that goes with the trunk of an upright body is when it leans."""
    body, then = body_of(operator), body_of(operator, False, lean)
    turn = rotation_about((1.0, 0.0, 0.0), -lean.aside) @ rotation_about((0.0, 1.0, 0.0), -lean.trunk)
    result: np.ndarray = then.low_back + turn @ (at - body.low_back)
    return result


class Arm(Struct, frozen=True, eq=False):
    """An arm whose hand is at a grip: joint centres (3,), angles (rad), and whether the grip can be reached.

    `elbow_angle` is 0 when straight; `elevation` 0 when the upper arm hangs; `tuck` its swing out to the side.
    """

    side: Side
    shoulder: np.ndarray
    elbow: np.ndarray
    wrist: np.ndarray
    grip: np.ndarray
    elbow_angle: float
    elevation: float
    tuck: float
    reached: bool


def reach_for(body: Body, side: Side, grip: np.ndarray) -> Arm:
    """Return the arm of `body` at `grip` (3,) (m, body frame), elbow as low as it goes, wrist straight.

    Two links: law of cosines, any robotics text (Craig, Introduction to Robotics, ch. 4); the free swivel
    about the line from shoulder to grip is settled by "elbow down". A grip out of reach is met with a straight
    arm that points at it, and said so.
    """
    start = body.shoulder(side)
    a, b = body.upper_arm, body.forearm + body.to_grip
    line = grip - start
    far = float(np.linalg.norm(line))
    reached = abs(a - b) + SLIGHT < far < (a + b) * _STRAIGHT
    along = unit(line, -UP)
    d = min(max(far, abs(a - b) + 1e-4), (a + b) * _STRAIGHT)
    cosine = (a * a + d * d - b * b) / (2.0 * a * d)
    aside = (UP @ along) * along - UP
    if negligible(float(np.linalg.norm(aside)), SLIGHT):
        aside = (AHEAD @ along) * along - AHEAD
    aside = aside / np.linalg.norm(aside)
    elbow = start + a * (cosine * along + math.sqrt(max(1.0 - cosine * cosine, 0.0)) * aside)
    hand = start + d * along
    wrist = hand + (elbow - hand) * (body.to_grip / b)
    upper = (elbow - start) / a
    fore = (hand - elbow) / b
    bend = math.acos(as_cosine(float(upper @ fore)))
    elevation = math.acos(as_cosine(-float(upper[2])))
    outward = side.outward
    tuck = math.atan2(outward * float(upper[1]), max(-float(upper[2]), ROUNDING))
    return Arm(side, start, elbow, wrist, hand, bend, elevation, tuck, reached)


def arm_weights(body: Body, arm: Arm) -> tuple[Weight, Weight, Weight]:
    """Return upper arm, forearm and hand."""
    m = body.mass
    return (
        Weight(UPPER_ARM_MASS * m, arm.shoulder + UPPER_ARM_CENTRE * (arm.elbow - arm.shoulder)),
        Weight(FOREARM_MASS * m, arm.elbow + FOREARM_CENTRE * (arm.wrist - arm.elbow)),
        Weight(HAND_MASS * m, arm.wrist + HAND_CENTRE * KNUCKLE_FROM_WRIST / GRIP_FROM_WRIST * (arm.grip - arm.wrist)),
    )


def hanging_arm(body: Body, side: Side) -> Arm:
    """Return an arm that holds nothing: straight, along the trunk."""
    start, down = body.shoulder(side), -body.up
    elbow, wrist = start + body.upper_arm * down, start + (body.upper_arm + body.forearm) * down
    lean = math.acos(as_cosine(float(body.up[2])))
    return Arm(side, start, elbow, wrist, start + body.reach * down, 0.0, lean, 0.0, True)
