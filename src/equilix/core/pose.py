"""Where a rig is on a body: what the hands hold, what it rests on and against."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from equilix.core.analyse import Analysis
from equilix.core.assembly.build import Brace, Hold, Operator, Side, SupportKind
from equilix.core.assembly.parts import Category
from equilix.core.grasps import Place, handle_axis, hands_at, thickness_of
from equilix.core.operator.body import DEPTH, RIBS, Arm, Body, body_of, reach_for
from equilix.core.operator.holding import Contact, Measure, Prop, measures
from equilix.core.operator_head import PAD_FROM_MIDLINE

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
        measures(
            body, operator, arm, thickness_of(analysis.assembly, place, way), handle_axis(analysis.assembly, place)
        )
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
