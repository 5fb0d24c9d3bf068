"""Where a rig is on a body: what the hands hold, what it rests on and against."""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum
from functools import cached_property, lru_cache

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Brace, Hold, Operator
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import CACHED_PEOPLE
from equilix.core.frames import AHEAD, STANDARD_GRAVITY, UP
from equilix.core.kit.parts import Category
from equilix.core.operator.body import DEPTH, RIBS, UPRIGHT, Arm, Body, Lean, body_of, worn_place
from equilix.core.operator.head import PAD_FROM_MIDLINE
from equilix.core.operator.leaning import Worn
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.sources import assumed
from equilix.core.statics.grasps import Place, handle_axis, hands_at, palm_of, thickness_of
from equilix.core.statics.hands import Contact, Hand, Held, Measure, Prop, Push, Statics
from equilix.core.statics.holding import Grip, taken
from equilix.core.statics.pad import Shoulder
from equilix.core.statics.patches import pad_rays

#: m: an elbow this near to the ribs can be tucked in; an upper arm's half thickness over the stature.
TUCKED, ARM_RADIUS = assumed((0.060, 0.021))
#: Grips on the thighs, ahead of the hips, over the stature; and m that their ends may differ in height.
ON_THIGHS, LEVEL_ENDS = assumed((0.19, 0.040))

#: Over the stature: where a rig rests above the hip joints; where belly and collar bound the chest that it rests on.
ABOVE_HIP, BELLY, COLLAR = assumed((0.03, 0.16, 0.03))


#: The wrench (6, 1) of a unit pull straight up.
_CABLE = np.array([[0.0], [0.0], [1.0], [0.0], [0.0], [0.0]])


class Hindrance(StrEnum):
    """Why there is nothing to say."""

    NO_MASS = "no mass"
    NO_PAD = "no pad"
    NO_HOOK = "no hook"
    NO_BEARING = "no bearing"
    NOBODY = "nobody carries it"
    NO_GRIPS = "no grips"
    NOT_HELD = "not held"


class Stance(Struct, frozen=True):
    """All that decides what holds a rig, its mass and CG apart: body, hands, pad, braces. Places in m, body frame."""

    operator: Operator
    seated: bool
    grips: tuple[Grip, ...]
    pad: tuple[float, float, float] | None
    shoulder: Shoulder | None
    contacts: tuple[tuple[tuple[float, ...], tuple[float, ...]], ...]
    elbows: bool
    lean: Lean = UPRIGHT


class Pose(Struct, frozen=True, eq=False, dict=True):
    """How a body takes a rig: all in the body frame (m); `shift` (3,) takes rig to body coordinates.

    `props` are the ribs at tucked elbows, `contacts` chest, hip or thighs. `missed`: the brace that was asked for
    can't be reached. `lean` (m): how far the head gives way to the
    rig. `borne` is the share of what lies or hangs on the trunk that the spine carries; a belt takes the rest past it,
    and leaves the low back `frame_share` of its forward moment. `worn` is what the trunk carries besides the rig.
    `eased` is the easier end of how people do it, where there is more than one; `unladen` how they stand before the
    rig's weight makes them lean.
    """

    stance: Stance
    places: tuple[Place, ...]
    shift: np.ndarray
    missed: bool
    lean: float = 0.0
    borne: float = 1.0
    worn: tuple[Push, ...] = ()
    frame_share: float = 1.0
    eased: Pose | None = None
    unladen: Pose | None = None

    @cached_property
    def body(self) -> Body:
        return body_of(self.stance.operator, self.stance.seated, self.stance.lean)

    @cached_property
    def pad(self) -> np.ndarray | None:
        return None if self.stance.pad is None else np.array(self.stance.pad)

    @cached_property
    def arms(self) -> tuple[Arm, ...]:
        return tuple(_taken(self.stance, grip)[0] for grip in self.stance.grips)

    @cached_property
    def asked(self) -> tuple[tuple[Measure, ...], ...]:
        """What is asked of each arm."""
        return tuple(_taken(self.stance, grip)[1].measures for grip in self.stance.grips)

    @cached_property
    def contacts(self) -> tuple[Contact, ...]:
        return _contacts(self.stance)

    @cached_property
    def props(self) -> tuple[Prop, ...]:
        return _props(self.stance)

    def statics(self, arms: bool) -> Statics:
        """Return what holds the rig; with `arms` they rest on it, without it is the rig alone."""
        return _statics(self.stance, arms)


def _taken(stance: Stance, grip: Grip) -> tuple[Arm, Hand]:
    return taken(stance.operator, stance.seated, grip, stance.lean)


def _contacts(stance: Stance) -> tuple[Contact, ...]:
    return tuple(Contact(np.array(point), np.array(normal)) for point, normal in stance.contacts)


def _props(stance: Stance) -> tuple[Prop, ...]:
    if not stance.elbows:
        return ()
    body = body_of(stance.operator, stance.seated, stance.lean)
    arms = [_taken(stance, grip)[0] for grip in stance.grips]
    return tuple(prop for h, arm in enumerate(arms) if (prop := _rib_at(body, arm, h)) is not None)


@lru_cache(maxsize=CACHED_PEOPLE)
def _statics(stance: Stance, arms: bool) -> Statics:
    hands = [_taken(stance, grip)[1] for grip in stance.grips]
    pad = None
    if stance.pad is not None:
        # Without a patch of the shoulder it is a cable: it pulls straight up and gives nothing else.
        pad = np.array(stance.pad), _CABLE if stance.shoulder is None else pad_rays(stance.shoulder)
    return Statics(hands, pad, _contacts(stance), _props(stance), arms)


def _exactly(point: np.ndarray) -> tuple[float, float, float]:
    """Return a point rounded to the nanometre: the same place is the same whichever way it was worked out."""
    x, y, z = (round(float(v), 9) + 0.0 for v in point)
    return (x, y, z)


def grip_at(assembly: Assembly, operator: Operator, place: Place, point: np.ndarray, way: Hold) -> Grip:
    """Return how a hand holds a place that stands at `point` (3,) (m, body frame)."""
    return Grip(
        place.side or operator.shoulder,
        _exactly(point),
        thickness_of(assembly, place, way),
        handle_axis(assembly, place),
        palm_of(place),
    )


def on_shoulder(
    assembly: Assembly,
    positions: Positions,
    pad: np.ndarray,
    shoulder: Shoulder,
    operator: Operator,
    way: Hold,
    lean: float = 0.0,
) -> Pose:
    """Return how a rig lies whose pad (3,) (m, rig frame) is on the shoulder; only tucked elbows brace there."""
    places = hands_at(assembly, positions, way)
    outward = operator.shoulder.outward
    body = body_of(operator)
    spot = np.array([0.0, outward * PAD_FROM_MIDLINE, body.shoulder(operator.shoulder)[2]])
    shift = spot - pad
    grips = tuple(grip_at(assembly, operator, place, place.point + shift, way) for place in places)
    elbows = way.brace is Brace.ELBOWS
    stance = Stance(operator, False, grips, _exactly(spot), shoulder, (), elbows)
    return Pose(stance, places, shift, way.brace is not Brace.NONE and not _props(stance), lean)


def at_rest(operator: Operator, shift: np.ndarray) -> Pose:
    """Return the pose of nobody: a rig that stands by itself."""
    return Pose(Stance(operator, False, (), None, None, (), False), (), shift, False)


def worn_at(
    operator: Operator,
    hangs: np.ndarray,
    at: np.ndarray,
    worn: tuple[Worn, ...],
    lean: Lean,
    borne: float,
    frame: float,
    eased: Pose | None = None,
    unladen: Pose | None = None,
) -> Pose:
    """Return how a rig is worn whose point `hangs` (3,) (m, rig frame) is `at` (3,) (m, upright body).

    Hands only guide. It goes with the trunk's `lean`, as what else is `worn` does. `borne` is the share of the weight
    that the spine carries, `frame` that of its forward moment.
    """
    spot = _exactly(worn_place(operator, at, lean))
    stance = Stance(operator, False, (), spot, None, (), False, lean)
    up, none = np.array([0.0, 0.0, STANDARD_GRAVITY]), np.zeros(3)
    pushes = tuple(Push(worn_place(operator, one.at, lean), float(one.mass) * up, none) for one in worn)
    return Pose(
        stance,
        (),
        np.array(spot) - hangs,
        False,
        borne=borne,
        worn=pushes,
        frame_share=frame,
        eased=eased,
        unladen=unladen,
    )


def hung_at(
    assembly: Assembly,
    positions: Positions,
    hook: np.ndarray,
    at: np.ndarray,
    operator: Operator,
    way: Hold,
    lean: Lean,
    borne: float,
    frame: float,
    eased: Pose | None = None,
    unladen: Pose | None = None,
) -> Pose:
    """Return how a rig hangs whose `hook` (3,) (m, rig frame) is on a cable `at` (3,) (m, upright body).

    What it hangs from goes with the trunk's `lean`. `borne` is the share of its weight that the spine carries, `frame`
    that of its forward moment.
    """
    places = hands_at(assembly, positions, way)
    spot = worn_place(operator, at, lean)
    shift = spot - hook
    grips = tuple(grip_at(assembly, operator, place, place.point + shift, way) for place in places)
    stance = Stance(operator, False, grips, _exactly(spot), None, (), False, lean)
    missed = way.brace is not Brace.NONE
    return Pose(stance, places, shift, missed, 0.0, borne, (), frame, eased, unladen)


def in_the_hands(assembly: Assembly, positions: Positions, operator: Operator, way: Hold) -> Pose | Hindrance:
    """Return how a rig is held that nothing but hands and braces carry."""
    places = hands_at(assembly, positions, way, bare=True)
    if not places:
        return Hindrance.NO_GRIPS
    seated = way.brace is Brace.KNEES
    body = body_of(operator, seated)
    shift, contacts = _in_the_hands(assembly, positions, operator, body, places, way)
    return held_at(assembly, operator, places, shift, contacts, way)


def in_rig(held: Held | None, posed: Pose) -> Held | None:
    """Return what holds a rig with the hands' places in the rig frame."""
    if held is None:
        return None
    return replace(held, hands=tuple(replace(hand, point=hand.point - posed.shift) for hand in held.hands))


def held_at(
    assembly: Assembly,
    operator: Operator,
    places: Sequence[Place],
    shift: np.ndarray,
    contacts: Sequence[Contact],
    way: Hold,
    elbows: bool | None = None,
) -> Pose:
    """Return the pose of a rig in the hands with its `shift` (3,) (m) from rig to body coordinates given.

    `elbows` says whether those near the ribs are tucked; by default as the `way` has it.
    """
    grips = tuple(grip_at(assembly, operator, place, place.point + shift, way) for place in places)
    touched = tuple((_exactly(contact.point), tuple(contact.normal.tolist())) for contact in contacts)
    elbows = way.brace is Brace.ELBOWS if elbows is None else elbows
    stance = Stance(operator, way.brace is Brace.KNEES, grips, None, None, touched, elbows)
    missed = way.brace is not Brace.NONE and not contacts and not _props(stance)
    return Pose(stance, tuple(places), shift, missed)


def _in_the_hands(
    assembly: Assembly, positions: Positions, operator: Operator, body: Body, places: Sequence[Place], way: Hold
) -> tuple[np.ndarray, tuple[Contact, ...]]:
    """Return the shift (3,) from rig to body, and what the rig rests against."""
    middle = np.mean([place.point for place in places], axis=0)
    usual = usual_hold(operator)
    ahead = usual[0] if way.ahead is None else way.ahead
    below = usual[1] if way.below is None else way.below
    shift = np.array([ahead, 0.0, body.shoulder_right[2] - below]) - middle
    if way.brace is Brace.KNEES:
        ends = []
        for place in places:
            grip = assembly.parts[place.part].category is Category.GRIP and assembly.sized[place.part]
            drop = positions.centre[place.part] - [0.0, 0.0, assembly.edges[place.part, 2]] if grip else place.point
            ends.append(np.array(drop))
        lowest = min(float(end[2]) for end in ends)
        shift = np.array([ON_THIGHS * body.stature - middle[0], -middle[1], body.thigh_top - lowest])
        return shift, tuple(Contact(end + shift, UP) for end in ends if end[2] < lowest + LEVEL_ENDS)
    if way.brace not in (Brace.CHEST, Brace.HIP) or not assembly.sized.any():
        return shift, ()
    rear = np.where(assembly.sized, positions.centre[:, 0] - assembly.edges[:, 0], np.inf)
    last = int(rear.argmin())
    spot = np.array([rear[last], positions.centre[last, 1], positions.centre[last, 2]])
    if way.brace is Brace.HIP:
        spot[2] -= assembly.edges[last, 2]
        shift[0] = body.chest - spot[0]
        shift[2] = body.hips[2] + ABOVE_HIP * body.stature - spot[2]
        return shift, (Contact(spot + shift, (AHEAD + UP) / math.sqrt(2.0)),)
    shift[0] = body.chest - spot[0]
    low, high = body.hips[2] + BELLY * body.stature, body.shoulder_right[2] - COLLAR * body.stature
    shift[2] += min(max(spot[2] + shift[2], low), high) - (spot[2] + shift[2])
    return shift, (Contact(spot + shift, AHEAD),)


def _rib_at(body: Body, arm: Arm, hand: int) -> Prop | None:
    """Return the ribs at an elbow that is near enough to be tucked in: the trunk an ellipse, seen from above."""
    deep, broad = DEPTH * body.stature, RIBS * body.stature
    x, y, z = (float(v) for v in arm.elbow)
    outside = math.hypot(x / deep, y / broad)
    if negligible(outside, SLIGHT) or not body.hips[2] < z < body.shoulder_right[2]:
        return None
    gap = math.hypot(x, y) * (1.0 - 1.0 / outside) - ARM_RADIUS * body.stature
    if gap > TUCKED:
        return None
    normal = np.array([x / deep**2, y / broad**2, 0.0])
    return Prop(hand, normal / np.linalg.norm(normal), arm.elbow - arm.shoulder)


def usual_hold(operator: Operator) -> tuple[float, float]:
    """Return how far ahead of and below the shoulders (m) a rig is usually held.

    The upper arm hangs, the elbow is bent by 90 degrees: the grip is a forearm and a fist ahead, an upper arm below.
    """
    body = body_of(operator)
    return body.forearm + body.to_grip, body.upper_arm
