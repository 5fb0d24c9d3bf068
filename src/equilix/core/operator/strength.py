"""How much the joints can give: maximal voluntary moments and grip, by sex, strength and joint angles.

Means and regressions: Chaffin and Andersson, Occupational Biomechanics, after Stobbe (1982); wrist after Delp
(1996); neck after Vasavada (2001); grip after Mathiowetz (1985); all from memory. A person differs from
them by about 30 % (k = 1) until something of the person's own is known.
"""

from __future__ import annotations

import math
from enum import StrEnum

from equilix.core.assembly.build import Operator, Sex
from equilix.core.sources import assumed, common_practice, from_memory, published

#: Relative standard uncertainty of any capacity of a person who was never measured.
CAPACITY_UNCERTAINTY = common_practice(0.30)


class BodyJoint(StrEnum):
    NECK = "neck"
    SHOULDER = "shoulder"
    ELBOW = "elbow"
    WRIST = "wrist"
    HAND = "hand"
    LOW_BACK = "low back"
    HIP = "hip"


#: N m (hand: N), means of men and women. Hip extension is uncertain.
_MEANS = from_memory(
    {
        BodyJoint.NECK: (52.0, 21.0),
        BodyJoint.WRIST: (11.0, 6.6),
        BodyJoint.HAND: (540.0, 320.0),
        BodyJoint.LOW_BACK: (234.0, 184.0),
        BodyJoint.HIP: (190.0, 97.0),
    }
)
#: 5th and 95th percentile over the mean, men and women.
_SPREADS = from_memory(
    {
        BodyJoint.ELBOW: ((42 / 77, 111 / 77), (16 / 41, 55 / 41)),
        BodyJoint.SHOULDER: ((43 / 71, 101 / 71), (15 / 37, 57 / 37)),
        BodyJoint.LOW_BACK: ((164 / 234, 503 / 234), (71 / 184, 332 / 184)),
        BodyJoint.HAND: ((380 / 540, 540 / 380), (220 / 320, 320 / 220)),
    },
    "Chaffin and Andersson after Stobbe; grip after Mathiowetz",
)
#: Standard normal deviate of the 95th percentile.
_Z95 = published(1.6449, "any table, e.g. Abramowitz and Stegun, ch. 26")
#: Best thickness of a handle over the hand's length.
BEST_THICKNESS = from_memory(0.197, "Kong and Lowe, Int. J. Industrial Ergonomics 35 (2005)")
#: How much the squeeze loses per squared relative distance from the best thickness, and the least that is left:
#: so that a handle half as thick as the best takes a fifth.
THICKNESS_LOSS, LEAST_SQUEEZE = assumed((0.8, 0.4))
#: Of the regressions for elbow and shoulder, men and women.
_ELBOW_GAIN = from_memory((0.1913, 0.1005), "Chaffin and Andersson after Stobbe (1982)")
_SHOULDER_GAIN = from_memory((0.2854, 0.1495), "Chaffin and Andersson after Stobbe (1982)")


def _of_sex(men: float, women: float, sex: Sex) -> float:
    """Return a man's, a woman's, or for who would rather not say the geometric mean of both."""
    if sex is Sex.MALE:
        return men
    return women if sex is Sex.FEMALE else math.sqrt(men * women)


def percentile_factor(joint: BodyJoint, percentile: float, sex: Sex) -> float:
    """Return a percentile's strength over the mean's: lognormal, each half through the table's 5th or 95th.

    Joints without such rows spread by CAPACITY_DOUBT. Who would rather not say gets the geometric mean of both.
    """
    from statistics import NormalDist

    z = NormalDist().inv_cdf(percentile / 100.0) / _Z95
    if joint not in _SPREADS:
        return math.exp(CAPACITY_UNCERTAINTY * _Z95 * z)
    powers = [ratio[0] ** -z if z < 0.0 else ratio[1] ** z for ratio in _SPREADS[joint]]
    return _of_sex(powers[0], powers[1], sex)


def squeeze_factor(thickness: float, hand: float) -> float:
    """Return the share of the grip that is left on a handle of `thickness` (m) for a hand of length `hand` (m).

    1 at the best thickness, falling as a parabola on both sides: an assumption. Common practice has it that thin
    grips tire the fingers in minutes, and thicker, contoured ones far later.
    """
    best = BEST_THICKNESS * hand
    return max(1.0 - THICKNESS_LOSS * ((thickness - best) / best) ** 2, LEAST_SQUEEZE)


def capacity(operator: Operator, joint: BodyJoint, elbow_angle: float = math.pi / 2, elevation: float = 0.0) -> float:
    """Return the greatest moment (N m; hand: N) that a joint of `operator` gives.

    `elbow_angle` (rad) is 0 when straight, `elevation` (rad) that of the upper arm from hanging.
    """
    included = 180.0 - math.degrees(elbow_angle)
    raised = math.degrees(elevation)
    match joint:
        case BodyJoint.ELBOW:
            value = (336.29 + 1.544 * included - 0.0085 * included**2 - 0.5 * raised) * _of_sex(
                *_ELBOW_GAIN, operator.sex
            )
        case BodyJoint.SHOULDER:
            value = (227.338 + 0.525 * included - 0.296 * raised) * _of_sex(*_SHOULDER_GAIN, operator.sex)
        case BodyJoint.HAND if operator.grip_strength is not None:
            return operator.grip_strength
        case _:
            value = _of_sex(*_MEANS[joint], operator.sex)
    if operator.percentile != 50.0:
        value *= percentile_factor(joint, operator.percentile, operator.sex)
    return value * operator.strength
