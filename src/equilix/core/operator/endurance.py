"""How long a joint holds a share of its strength, by several published rules that disagree: ranges, never seconds.

Power law: Frey-Law and Avin, Ergonomics 53 (2010) 109. Classic curve: Rohmert, Int. Z. angew. Physiol. 18 (1960).
Posture limits: ISO 11226:2000 (for postures without outside force: an upper bound with a rig in hand).
All coefficients from memory.
"""

from __future__ import annotations

import math

from msgspec import Struct

from equilix.core.operator.fatigue import time_to_failure
from equilix.core.operator.strength import CAPACITY_UNCERTAINTY, BodyJoint
from equilix.core.rounding import lacking
from equilix.core.sources import from_memory

#: Seconds and exponent of ``t = b0 f^b1``. Wrist, neck and hip were not fitted: hand and trunk stand for them.
POWER_LAW = from_memory(
    {
        BodyJoint.SHOULDER: (14.86, -1.83),
        BodyJoint.ELBOW: (17.98, -2.14),
        BodyJoint.HAND: (33.55, -1.61),
        BodyJoint.WRIST: (33.55, -1.61),
        BodyJoint.LOW_BACK: (22.69, -2.27),
        BodyJoint.NECK: (22.69, -2.27),
        BodyJoint.HIP: (22.69, -2.27),
    },
    "Frey-Law and Avin (2010)",
)
#: Shares between which the power law was fitted.
FITTED = from_memory((0.15, 0.85), "Frey-Law and Avin (2010)")


def power_law(joint: BodyJoint, share: float) -> float:
    """Return the holding time (s) at `share` of capacity; endless for no load. Fitted from 0.15 to 0.85."""
    if lacking(share):
        return math.inf
    b0, b1 = POWER_LAW[joint]
    return float(b0 * share**b1)


def rohmert(share: float) -> float:
    """Return the classic holding time (s): ``-1.5 + 2.1/f - 0.6/f^2 + 0.1/f^3`` minutes, endless below 15 %.

    That there is no limit below 15 % is contradicted by later work: shown for comparison only.
    """
    if share < 0.15:
        return math.inf
    if share >= 1.0:
        return 0.0
    return 60.0 * max(-1.5 + 2.1 / share - 0.6 / share**2 + 0.1 / share**3, 0.0)


#: rad, and s: from where to where a raised upper arm, and a head bent forward, are held for how long.
_ARM, _ARM_TIMES = from_memory(((math.radians(20.0), math.radians(60.0)), (180.0, 60.0)), "ISO 11226:2000")
_HEAD, _HEAD_TIMES = from_memory(((math.radians(25.0), math.radians(85.0)), (480.0, 60.0)), "ISO 11226:2000")


def arm_posture_limit(elevation: float) -> float:
    """Return ISO 11226's holding time (s) for an unsupported raised upper arm (rad): none up to 20 degrees.

    From 20 to 60 degrees it falls from 3 to 1 min; beyond 60 it is not recommended (0).
    """
    return _between(elevation, _ARM, _ARM_TIMES)


def head_posture_limit(bend: float) -> float:
    """Return ISO 11226's holding time (s) for a head bent forward by `bend` (rad): none up to 25 degrees.

    From 25 to 85 degrees it falls from 8 to 1 min; beyond, or bent back without full support, not recommended (0).
    """
    return 0.0 if bend < 0.0 else _between(bend, _HEAD, _HEAD_TIMES)


def _between(angle: float, ends: tuple[float, float], times: tuple[float, float]) -> float:
    if angle <= ends[0]:
        return math.inf
    return 0.0 if angle > ends[1] else times[0] + (times[1] - times[0]) * (angle - ends[0]) / (ends[1] - ends[0])


class HoldTime(Struct, frozen=True):
    """About how long (s): `low` to `high` for a person of unknown strength, `likely` between, and the rules apart.

    `beyond` is set when the share is below what the rules were fitted to: then all is extrapolated, and `low` is a
    bound. All three fall with the share wherever it is: more load is never held for longer.
    """

    low: float
    likely: float
    high: float
    by_power: float
    by_model: float
    by_classic: float
    beyond: bool


def hold_time(joint: BodyJoint, share: float, eased: float | None = None) -> HoldTime:
    """Return the holding time at `share` of capacity: the shorter of power law and fatigue model.

    Low and high are for a capacity off by 30 % each way (k = 1), high with the `eased` share where the same load can be
    held more easily. Below the fitted range the cautious rules are carried on: what they say there is a bound, no
    figure, but one that tells loads apart.
    """

    def shorter(f: float) -> float:
        # More than all strength is not held at all: the power law runs on beyond it and means nothing there.
        return min(power_law(joint, f), time_to_failure(joint, f))

    return HoldTime(
        shorter(share / (1.0 - CAPACITY_UNCERTAINTY)),
        shorter(share),
        shorter((share if eased is None else eased) / (1.0 + CAPACITY_UNCERTAINTY)),
        power_law(joint, share),
        time_to_failure(joint, share),
        rohmert(share),
        share < FITTED[0],
    )
