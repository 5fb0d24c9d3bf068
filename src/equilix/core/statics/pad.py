"""A rig on the shoulder: how its CG lies over the pad, and what that presses. The rig is rigid and level."""

from __future__ import annotations

import math
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.massprops.bodies import MassProperties
from equilix.core.sources import common_practice, from_memory

#: Pa. Sustained pressure on the shoulder above about this hurts.
SORE_PRESSURE = from_memory(14e3, "Holewijn, European Journal of Applied Physiology 61 (1990)")


#: m and friction of a pad that nobody measured: 60 mm each way, foam on cloth 0.4 to 0.7.
PAD_SPAN, PAD_FRICTION = common_practice((0.060, 0.5))
#: rad: how steeply a shoulder falls outwards, 15 to 25 degrees.
SHOULDER_SLOPE = from_memory(0.3490658503988659)


class Shoulder(Struct, frozen=True):
    """How a rig rests on the shoulder: useful contact span (m) and friction of the pad, slope (rad) of the shoulder."""

    span_x: float = PAD_SPAN
    span_y: float = PAD_SPAN
    friction: float = PAD_FRICTION
    slope: float = SHOULDER_SLOPE


class Tip(StrEnum):
    """Which way a rig goes if both hands let go."""

    LEVEL = "level"
    FORWARD = "forward"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"


class Rest(Struct, frozen=True):
    """How the CG lies over the pad.

    `margin_x`, `margin_y`: distance (m) from the CG's plumb line to the nearer edge of the contact
    patch, negative outside it. `tip_angle`: tilt (rad) at which it goes over fore or aft, None if it
    already does or if the CG is not above the pad. `sideways`: friction needed on the sloping shoulder.
    """

    ahead: float
    left: float
    above: float
    margin_x: float
    margin_y: float
    tip: Tip
    tip_angle: float | None
    friction_needed: float


def rest(body: MassProperties, pad: np.ndarray, shoulder: Shoulder) -> Rest:
    """Return how `body` lies over the middle of the contact patch at `pad` (3,) (m)."""
    ahead, left, above = (float(v) for v in body.cg - pad)
    margin_x = shoulder.span_x / 2.0 - abs(ahead)
    margin_y = shoulder.span_y / 2.0 - abs(left)
    tip = Tip.LEVEL
    if min(margin_x, margin_y) < 0.0:
        if margin_x <= margin_y:
            tip = Tip.FORWARD if ahead > 0.0 else Tip.BACK
        else:
            tip = Tip.LEFT if left > 0.0 else Tip.RIGHT
    tip_angle = math.atan2(margin_x, above) if above > 0.0 and margin_x >= 0.0 else None
    return Rest(ahead, left, above, margin_x, margin_y, tip, tip_angle, math.tan(shoulder.slope))


def pad_pressure(pad_force: np.ndarray, shoulder: Shoulder) -> float:
    """Return the mean pressure (Pa) under the pad."""
    return float(pad_force[2]) / (shoulder.span_x * shoulder.span_y)
