"""Lifting the rig from floor, cart, case or tripod: the revised NIOSH equation.

Waters, Putz-Anderson, Garg and Fine, Ergonomics 36 (1993) 749; Applications Manual, DHHS (NIOSH) 94-110. Two-handed,
standing, smooth lifts in room to move; not for one-handed, seated, kneeling, cramped, fast or unstable ones,
nor for carrying.
"""

from __future__ import annotations

import math
from enum import StrEnum

from msgspec import Struct

from equilix.core.sources import common_practice, published

#: kg, the heaviest lift in the best place.
LOAD_CONSTANT = published(23.0, "Waters et al. (1993), the revised NIOSH equation")


class Coupling(StrEnum):
    GOOD = "good"
    FAIR = "fair"
    POOR = "poor"


class Lift(Struct, frozen=True):
    """One lift (m, rad): hands ahead of the ankles, height of the hands where it begins, way up, twist."""

    ahead: float
    height: float
    way: float
    twist: float = 0.0
    coupling: Coupling = Coupling.GOOD


def recommended_limit(lift: Lift, frequency: float = 1.0) -> float:
    """Return the recommended weight limit (kg): ``LC HM VM DM AM FM CM``, metric multipliers of the manual.

    `frequency` is the frequency multiplier, 1 for up to 0.2 lifts a minute for up to an hour.
    """
    h, v, d = 100.0 * lift.ahead, 100.0 * lift.height, 100.0 * lift.way
    horizontal = 0.0 if h > 63.0 else 25.0 / max(h, 25.0)
    vertical = 0.0 if not 0.0 <= v <= 175.0 else 1.0 - 0.003 * abs(v - 75.0)
    distance = 0.0 if d > 175.0 else 0.82 + 4.5 / max(d, 25.0)
    angle = math.degrees(abs(lift.twist))
    asymmetry = 0.0 if angle > 135.0 else 1.0 - 0.0032 * angle
    coupling = {Coupling.GOOD: 1.0, Coupling.FAIR: 0.95 if v < 75.0 else 1.0, Coupling.POOR: 0.90}[lift.coupling]
    return LOAD_CONSTANT * horizontal * vertical * distance * asymmetry * frequency * coupling


#: Where a rig is picked up from: hands above the ground and ahead of the ankles (m).
PLACES = common_practice({"floor": (0.25, 0.40), "case": (0.45, 0.45), "cart": (0.90, 0.35), "tripod": (1.35, 0.40)})

#: m ahead of the ankles where a rig is put on the shoulder.
AT_THE_SHOULDER = common_practice(0.35)


def lift_from(place: str, shoulder_height: float) -> tuple[Lift, Lift]:
    """Return the lift from a place to the shoulder, where it begins and where it ends."""
    height, ahead = PLACES[place]
    way = abs(shoulder_height - height)
    return Lift(ahead, height, way, 0.0, Coupling.FAIR), Lift(AT_THE_SHOULDER, shoulder_height, way, 0.0, Coupling.FAIR)
