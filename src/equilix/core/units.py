"""What figures are figures of, and exact factors from the units people use to SI. Inside the program all is SI."""

from __future__ import annotations

import math
from enum import StrEnum

from equilix.core.sources import published


class Kind(StrEnum):
    """What a figure is a figure of."""

    MASS = "mass"
    LENGTH = "length"
    MOMENT = "moment"
    FORCE = "force"
    STATURE = "stature"
    PRESSURE = "pressure"
    ANGLE = "angle"
    SHARE = "share"
    TIME = "time"
    INERTIA = "inertia"
    RATE = "rate"


#: Exact by definition.
KG_PER_LB = published(0.45359237, "international yard and pound agreement of 1959; NIST SP 811 (2008), appendix B")
KG_PER_OZ = published(
    KG_PER_LB / 16.0, "international yard and pound agreement of 1959; NIST SP 811 (2008), appendix B"
)
M_PER_IN = published(0.0254, "international yard and pound agreement of 1959; NIST SP 811 (2008), appendix B")
M_PER_MM = published(1e-3, "international yard and pound agreement of 1959; NIST SP 811 (2008), appendix B")
KG_PER_G = published(1e-3, "international yard and pound agreement of 1959; NIST SP 811 (2008), appendix B")
N_PER_LBF = published(
    KG_PER_LB * 9.80665, "international yard and pound agreement of 1959; NIST SP 811 (2008), appendix B"
)
NM_PER_LBF_IN = N_PER_LBF * M_PER_IN

#: SI value of one display unit.
FACTORS = {
    "mm": M_PER_MM,
    "cm": 1e-2,
    "m": 1.0,
    "in": M_PER_IN,
    "kg": 1.0,
    "g": KG_PER_G,
    "lb": KG_PER_LB,
    "oz": KG_PER_OZ,
    "N": 1.0,
    "lbf": N_PER_LBF,
    "N·m": 1.0,
    "lbf·in": NM_PER_LBF_IN,
    "kPa": 1e3,
    "°": math.pi / 180.0,
    "%": 1e-2,
    "s": 1.0,
    "g·m²": 1e-3,
    "°/s": math.pi / 180.0,
}


def to_display(value: float, unit: str) -> float:
    """Return an SI `value` expressed in display `unit`, one of the keys of `FACTORS`."""
    return value / FACTORS[unit]


def from_display(value: float, unit: str) -> float:
    """Return the SI value of `value` given in display `unit`."""
    return value * FACTORS[unit]
