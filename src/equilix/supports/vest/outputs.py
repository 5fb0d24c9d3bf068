"""The outputs of a sled on a vest, and what is wanted of them."""

from __future__ import annotations

import math
from functools import partial

import numpy as np

from equilix.core.frames import STANDARD_GRAVITY, X, Y, Z
from equilix.core.operator.body import body_of
from equilix.core.operator.leaning import Worn, frame_share, low_back_moments
from equilix.core.records import Output, Threshold
from equilix.core.rounding import ROUNDING, SLIGHT
from equilix.core.sources import assumed, common_practice
from equilix.core.statics.sled import ELLIPTIC_K_HALF, Sled, leans_in, lever_for
from equilix.core.uncertainty.output_model import OutputModel, Samples, moved_by
from equilix.core.units import Kind
from equilix.supports.vest.hanging import VestCase, worn_on
from equilix.supports.vest.settings import VestSettings

#: rad: farther than this a post's lean is not small, and nobody pans on.
FARTHEST = common_practice(math.radians(30.0))
#: rad/s of a pan that is next to none.
_SLOWEST = assumed(1e-3)


def wished_lever(settings: VestSettings, sled: Sled) -> float:
    """Return how far (m) below the bearing the CG belongs for the wished drop, or for the fastest if that is slower."""
    found = lever_for(settings.drop, sled.mass, sled.swing)
    return math.sqrt(sled.swing / sled.mass) if found is None else found


def drop_tolerance(settings: VestSettings, sled: Sled, lever: float) -> float:
    """Return how far (m) the CG may be off `lever` with the drop time still within its room.

    The slower end is the nearer one: the longer a drop takes, the less a second more asks of the lever.
    """
    slower = lever_for(settings.drop + settings.room, sled.mass, sled.swing)
    return max(SLIGHT if slower is None else abs(slower - lever), ROUNDING)


def product_that_shows(settings: VestSettings, sled: Sled, lever: float, way: int) -> float:
    """Return the product of inertia (kg m2) from which the post's lean shows in the pan that wobble is told for.

    With the CG `lever` (m) below the bearing and on the post it leans by ``w^2 I_xz/(W L - w^2 (I_xx - I_zz))``; a pan
    that is too fast for such a sled counts as one that has half of what upsets it. Fore and aft and across share.
    """
    back, more = sled.weight * lever, max(float(sled.inertia[way, way] - sled.inertia[Z, Z]), ROUNDING)
    rate = min(max(settings.pan, _SLOWEST) ** 2, 0.5 * back / more)
    return settings.shows / math.sqrt(2.0) * (back - rate * more) / rate


def _about(outputs: OutputModel, samples: Samples) -> tuple[np.ndarray, np.ndarray]:
    """Return the CG (d, 3) (m) from the bearing and the inertia (d, 6) (kg m2) about it, with what was measured."""
    return outputs.of_samples("about", samples, lambda: _about_anew(outputs, samples))


def _about_anew(outputs: OutputModel, samples: Samples) -> tuple[np.ndarray, np.ndarray]:
    case: VestCase = outputs.case
    lesson = case.settings.lesson(case.body.mass)
    d = samples.cg - case.equilibrium.point
    six = samples.seconds.copy()
    x, y, z = d.T
    six += samples.mass[:, None] * np.column_stack(
        [y * y + z * z, x * x + z * z, x * x + y * y, -x * y, -x * z, -y * z]
    )
    six[:, 1] += 0.0 if lesson is None else lesson.more_inertia
    return d, six


def _drop(outputs: OutputModel, samples: Samples) -> np.ndarray:
    d, six = _about(outputs, samples)
    lever = np.hypot(d[:, 0], d[:, 2])
    swing = six[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        found: np.ndarray = ELLIPTIC_K_HALF * np.sqrt(swing / (samples.mass * STANDARD_GRAVITY * lever))
    return np.where(d[:, 2] < 0.0, found, np.nan)


def _fastest(about: int, outputs: OutputModel, samples: Samples) -> np.ndarray:
    d, six = _about(outputs, samples)
    more, back = six[:, about] - six[:, 2], -samples.mass * STANDARD_GRAVITY * d[:, 2]
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.sqrt(back / more)
    return np.where((more > 0.0) & (back > 0.0), found, np.nan)


def wobble_at(outputs: OutputModel, samples: Samples, pan: float | np.ndarray) -> np.ndarray:
    """Return how much more (d,) (rad) the post leans in a steady `pan` (rad/s), NaN where that is not small.

    For pans (p, 1) (p, d).
    """
    d, six = _about(outputs, samples)
    weight, square = samples.mass * STANDARD_GRAVITY, np.asarray(pan) ** 2
    extra = []
    for way, product in ((0, 4), (1, 5)):
        post = -weight * d[:, 2], weight * d[:, way], six[:, way] - six[:, 2], six[:, product]
        extra.append(leans_in(*post, square) - leans_in(*post, np.zeros(1)))
    found = np.hypot(*extra)
    return np.where(found > FARTHEST, np.nan, found)


def wobble_uncertainties(outputs: OutputModel, pans: np.ndarray) -> np.ndarray:
    """Return the standard uncertainty (n,) (rad) of the wobble at steady `pans` (n,) (rad/s), 0 where there is none."""
    found = wobble_at(outputs, outputs.moved(), pans[:, None])
    result: np.ndarray = np.nan_to_num(moved_by(np.array(found)))
    return result


def _six(number: int, outputs: OutputModel, samples: Samples) -> np.ndarray:
    found: np.ndarray = _about(outputs, samples)[1][:, number]
    return found


def _bends(outputs: OutputModel, samples: Samples) -> np.ndarray:
    case: VestCase = outputs.case
    operator = case.equilibrium.pose.stance.operator
    sled, *others = worn_on(case.settings, case.body.mass, operator)
    drawn = (Worn(samples.mass, sled.at), *others)
    result: np.ndarray = np.hypot(*low_back_moments(body_of(operator), drawn, frame_share(case.settings.belt or 0.0)))
    return result


def _wobble(outputs: OutputModel, samples: Samples) -> np.ndarray:
    return wobble_at(outputs, samples, outputs.case.settings.pan)


def _load(outputs: OutputModel, samples: Samples) -> np.ndarray:
    found: np.ndarray = STANDARD_GRAVITY * (samples.mass + outputs.case.settings.arm_mass)
    return found


def _wobbles(case: VestCase) -> bool:
    wobble = case.result.sled.wobble_in(case.settings.pan)
    return wobble is not None and wobble <= FARTHEST


def _drop_ends(settings: VestSettings) -> tuple[Threshold, ...]:
    low, high = settings.drop - settings.room, settings.drop + settings.room
    return (Threshold(low, "too slow above"), Threshold(high, "too slow above"))


def upright(_: VestSettings) -> tuple[Threshold, ...]:
    """Return where a figure says that the post is upright."""
    return (Threshold(0.0, "upright"),)


# What a sled that turns over, or that no pan unseats, does not have is not there.
PITCH = Output(
    "hangs nose down",
    Kind.ANGLE,
    lambda outputs, samples: outputs.hangs(samples)[:, 0],
    "static_pitch_deg",
    signed=True,
    limits=upright,
)
ROLL = Output(
    "hangs left side high",
    Kind.ANGLE,
    lambda outputs, samples: outputs.hangs(samples)[:, 1],
    "static_roll_deg",
    signed=True,
    limits=upright,
)
DROP = Output(
    "drop time",
    Kind.TIME,
    _drop,
    "drop_time_s",
    limits=_drop_ends,
    there=lambda case: case.result.sled.drop_time is not None,
)
XZ = Output(
    "product of inertia fore and aft",
    Kind.INERTIA,
    partial(_six, 4),
    "pan_product_xz_kg_m2",
    signed=True,
    limits=upright,
)
YZ = Output(
    "product of inertia across", Kind.INERTIA, partial(_six, 5), "pan_product_yz_kg_m2", signed=True, limits=upright
)
PAN_INERTIA = Output("inertia in a pan", Kind.INERTIA, partial(_six, 2), "pan_inertia_kg_m2")
FASTEST = Output(
    "fastest pan that stays upright",
    Kind.RATE,
    partial(_fastest, X),
    "fastest_pan_deg_s",
    there=lambda case: case.result.sled.fastest_pan() is not None,
)
FASTEST_ASIDE = Output(
    "fastest pan that stays upright, sideways",
    Kind.RATE,
    partial(_fastest, Y),
    "fastest_pan_aside_deg_s",
    there=lambda case: case.result.sled.fastest_pan(Y) is not None,
)
WOBBLE = Output(
    "pan wobble",
    Kind.ANGLE,
    _wobble,
    "wobble_deg",
    limits=lambda settings: (Threshold(settings.shows, "shows"),),
    there=_wobbles,
)
ON_VEST = Output("load on the vest", Kind.FORCE, _load, "load_on_vest_n")
BACK = Output("moment at the low back", Kind.MOMENT, _bends)
