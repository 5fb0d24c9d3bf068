"""How much the joints can give: maximal voluntary moments and grip, by sex, strength and joint angles.

Means and regressions: Chaffin and Andersson, Occupational Biomechanics, after Stobbe (1982); wrist after Delp
(1996); neck after Vasavada (2001); grip after Mathiowetz (1985); all from memory. A person differs from
them by about 30 % (k = 1) until something of the person's own is known.
"""

from __future__ import annotations

import math
from enum import StrEnum

from equilix.core.assembly.build import Operator, Sex

#: Relative standard uncertainty of any capacity of a person who was never measured.
CAPACITY_DOUBT = 0.30


class Joint(StrEnum):
    NECK = "neck"
    SHOULDER = "shoulder"
    ELBOW = "elbow"
    WRIST = "wrist"
    HAND = "hand"
    LOW_BACK = "low back"


#: N m (hand: N), means of men and women.
_MEANS = {
    Joint.NECK: (52.0, 21.0),
    Joint.WRIST: (11.0, 6.6),
    Joint.HAND: (540.0, 320.0),
    Joint.LOW_BACK: (234.0, 184.0),
}
_ELBOW_GAIN = (0.1913, 0.1005)
_SHOULDER_GAIN = (0.2854, 0.1495)


def _of_sex(men: float, women: float, sex: Sex) -> float:
    """Return a man's, a woman's, or for who would rather not say the geometric mean of both."""
    if sex is Sex.MALE:
        return men
    return women if sex is Sex.FEMALE else math.sqrt(men * women)


def capacity(operator: Operator, joint: Joint, elbow_angle: float = math.pi / 2, elevation: float = 0.0) -> float:
    """Return the greatest moment (N m; hand: N) that a joint of `operator` gives.

    `elbow_angle` (rad) is 0 when straight, `elevation` (rad) that of the upper arm from hanging.
    """
    included = 180.0 - math.degrees(elbow_angle)
    raised = math.degrees(elevation)
    match joint:
        case Joint.ELBOW:
            value = (336.29 + 1.544 * included - 0.0085 * included**2 - 0.5 * raised) * _of_sex(
                *_ELBOW_GAIN, operator.sex
            )
        case Joint.SHOULDER:
            value = (227.338 + 0.525 * included - 0.296 * raised) * _of_sex(*_SHOULDER_GAIN, operator.sex)
        case Joint.HAND if operator.grip_strength is not None:
            return operator.grip_strength
        case _:
            value = _of_sex(*_MEANS[joint], operator.sex)
    return value * operator.strength
