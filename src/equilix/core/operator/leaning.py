"""How a wearer leans: a body that carries a load ahead of it stands with the CG of both over its feet.

It leans back about the ankles, or puts its trunk back at the low back, or both: two ends of how people do it are worked
out, by the ankles alone, which relieves the low back least, and by the trunk as far as it commonly goes, the ankles
doing the rest. What is worn leans along with the trunk, as one piece. Angles are in rad, places in m.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import Side
from equilix.core.frames import STANDARD_GRAVITY, X, Y, Z
from equilix.core.operator.body import ABOVE_L5S1_MASS, ARMS_MASS, Arm, Body, Lean, arm_weights, hanging_arm
from equilix.core.sources import common_practice, from_memory

#: Of stature: how high a standing body's CG is above the ankles.
BODY_CG = from_memory(0.53, "Winter (2009)")
#: rad: how far back the trunk of somebody who wears a rig commonly goes.
TRUNK_BACK = common_practice(math.radians(8.0))
#: m above L5/S1 at which a back frame's straps push the trunk forward.
STRAPS = common_practice(0.35)
#: m below L5/S1 at which the lowest hip belts bear. What a wearer's own does stands in the settings.
LOWEST_BELT = common_practice(0.10)
#: Share of the body's mass above L5/S1, arms among it.
UPPER_MASS = ABOVE_L5S1_MASS + ARMS_MASS


class Worn(Struct, frozen=True, eq=False):
    """What a trunk carries: `mass` (kg) at `at` (3,) (m, body frame), where it would be if the body stood upright.

    Masses may be those of several rigs (d,).
    """

    mass: float | np.ndarray
    at: np.ndarray


def by_the_ankles(body: Body, worn: Sequence[Worn]) -> Lean:
    """Return the lean of an upright `body` and what it wears as one piece, which puts their CG over the feet.

    ``tan a = sum m x / sum m z``, heights above the ankles: moments about the ankles.
    """
    back, aside = _by_the_ankles(body, worn)
    return Lean(float(back), float(back), float(aside))


def _by_the_ankles(body: Body, worn: Sequence[Worn]) -> tuple[np.ndarray, np.ndarray]:
    ahead, left, high = _sums(body, worn)
    high = high + body.mass * BODY_CG * body.stature
    back = np.arctan2(ahead, high)
    # Leaned back, what lies ahead is lower; the sum of heights along the lean is what turns aside.
    return back, -np.arctan2(left, ahead * np.sin(back) + high * np.cos(back))


def low_back_moments(
    body: Body, worn: Sequence[Worn], frame: float, lean: Lean | None = None
) -> tuple[np.ndarray, np.ndarray]:
    """Return the moments (N m) that bend L5/S1 forward and to the left of an upright `body` that then leans.

    It leans by its ankles, or as `lean` has it. What is worn is a frame that leaves the joint a share `frame` of its
    forward moment; see `frame_share`. For masses (d,) of what is worn both are (d,). They are those of `load_above`
    with both arms along the trunk.
    """
    back, aside = _by_the_ankles(body, worn) if lean is None else (np.asarray(lean.trunk), np.asarray(lean.aside))
    arms = [weight for side in Side for weight in arm_weights(body, hanging_arm(body, side))]
    own = [Worn(weight.mass, weight.centre) for weight in (body.trunk, body.head, *arms)]

    def bends(things: Sequence[Worn]) -> tuple[np.ndarray, np.ndarray]:
        forward = left = np.asarray(0.0)
        for one in things:
            x, y, z = (one.at - body.low_back).tolist()
            up = x * np.sin(back) + z * np.cos(back)
            forward = forward + one.mass * (x * np.cos(back) - z * np.sin(back))
            left = left + one.mass * (y * np.cos(aside) + up * np.sin(aside))
        return STANDARD_GRAVITY * forward, STANDARD_GRAVITY * left

    by_worn, by_own = bends(worn), bends(own)
    return frame * by_worn[0] + by_own[0], by_worn[1] + by_own[1]


def by_the_trunk(body: Body, worn: Sequence[Worn]) -> Lean:
    """Return the lean in which the trunk goes back as far as it commonly does, and the ankles do the rest.

    A load that asks for less is met by the trunk alone.
    """
    ahead, left, _ = (float(v) for v in _sums(body, worn))
    ankle, joint = float(body.ankle[Z]), float(body.low_back[Z])
    weight = float(sum(one.mass for one in worn))
    up = upper_lever(body) + float(sum(one.mass * (float(one.at[Z]) - joint) for one in worn))
    trunk = min(TRUNK_BACK, max(math.atan2(ahead, up), 0.0))
    whole = body.mass * BODY_CG * body.stature
    below = whole - upper_lever(body) - UPPER_MASS * body.mass * (joint - ankle)
    # All that is above L5/S1 stands on it, and goes back with it.
    legs = below + (UPPER_MASS * body.mass + weight) * (joint - ankle)
    rest = ahead * math.cos(trunk) - up * math.sin(trunk)
    back = math.asin(min(max(rest / legs, 0.0), 1.0))
    tall = legs * math.cos(back) + ahead * math.sin(trunk) + up * math.cos(trunk)
    return Lean(back, trunk, -math.atan2(left, tall))


def reaching(body: Body, arms: Sequence[Arm]) -> tuple[Worn, ...]:
    """Return what arms that reach for something add to an upright `body` with both arms hanging."""
    found = []
    for arm in arms:
        for held, hangs in zip(arm_weights(body, arm), arm_weights(body, hanging_arm(body, arm.side)), strict=True):
            found += [Worn(held.mass, held.centre), Worn(-hangs.mass, hangs.centre)]
    return tuple(found)


def frame_share(belt: float) -> float:
    """Return the share of a worn frame's forward moment that L5/S1 bears, with its hip belt `belt` (m) below.

    Straps and belt hold the frame by a pair of level forces, ``M/(h + b)`` each: only the straps' acts above the joint.
    """
    return STRAPS / (STRAPS + belt)


def upper_lever(body: Body) -> float:
    """Return the mass times height above L5/S1 (kg m) of all of an upright body that is above it, arms hanging."""
    joint = float(body.low_back[Z])
    arms = [weight for side in Side for weight in arm_weights(body, hanging_arm(body, side))]
    return sum(weight.mass * (float(weight.centre[Z]) - joint) for weight in (body.trunk, body.head, *arms))


def _sums(body: Body, worn: Sequence[Worn]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return mass times how far ahead, left, and above the ankles what is worn lies (kg m)."""
    ahead, left, high = (
        np.asarray(sum(one.mass * float(one.at[way] - body.ankle[way]) for one in worn)) for way in (X, Y, Z)
    )
    return ahead, left, high
