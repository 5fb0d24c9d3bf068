"""A sled on its bearing: how fast it falls, where its CG must be for a wished drop, and what it does in a pan.

The post is the pan axis: it goes through the bearing. Angles and signs as in `equilix.core.frames`; inertia and its
products are about the bearing, in rig axes, products with the minus sign.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from equilix.core.frames import STANDARD_GRAVITY, X, Y, Z
from equilix.core.massprops.bodies import MassProperties, shift_inertia
from equilix.core.rounding import EXACT, as_cosine, lacking
from equilix.core.sources import assumed, published
from equilix.core.statics.hanging import hang_angles

#: Complete elliptic integral of the first kind K(m = 1/2).
ELLIPTIC_K_HALF = published(1.8540746773, "Abramowitz and Stegun, ch. 17")


class Sled(Struct, frozen=True, eq=False):
    """A sled on its bearing: `offset` (3,) (m) of the CG from it, `inertia` (3, 3) (kg m2) about it, `mass` (kg).

    `swing` (kg m2) is the inertia about y through the CG, which the drop time goes by.
    """

    mass: float
    offset: np.ndarray
    inertia: np.ndarray
    swing: float

    @property
    def weight(self) -> float:
        """The weight (N)."""
        return self.mass * STANDARD_GRAVITY

    @property
    def below(self) -> float:
        """How far (m) the CG lies below the bearing; negative where it is top-heavy."""
        return -float(self.offset[Z])

    @property
    def hangs(self) -> bool:
        """Whether the CG lies below the bearing."""
        return not lacking(self.below)

    @property
    def lean(self) -> tuple[float, float] | None:
        """Pitch (nose down) and roll (left side up) (rad) at which it rests; None where it does not hang."""
        pitch, roll = hang_angles(self.offset)
        return (pitch, roll) if self.hangs and pitch is not None and roll is not None else None

    @property
    def drop_time(self) -> float | None:
        """The time (s) from horizontal to vertical; None where it does not hang."""
        lever = math.hypot(float(self.offset[X]), float(self.offset[Z]))
        return drop_time(self.mass, self.swing, lever) if self.hangs else None

    @property
    def products(self) -> tuple[float, float]:
        """I_xz and I_yz (kg m2) about the bearing."""
        return float(self.inertia[X, Z]), float(self.inertia[Y, Z])

    def fastest_pan(self, about: int = X) -> float | None:
        """Return the pan (rad/s) past which the bare post is unstable: fore and aft about `X`, sideways about `Y`.

        ``w_c = sqrt(W d/(I_xx - I_zz))``: past it the tilted post's own spin throws it farther than its weight brings
        it back (energy of a steady rotation: Meriam and Kraige, Dynamics, ch. 7). None where no pan does that.
        """
        more = float(self.inertia[about, about] - self.inertia[Z, Z])
        return math.sqrt(self.weight * self.below / more) if self.hangs and not lacking(more) else None

    def lean_in(self, pan: float) -> tuple[float, float] | None:
        """Return pitch and roll (rad) that the post has in a steady `pan` (rad/s); None past the fastest one."""
        if not self.hangs:
            return None
        pitch, roll = (float(self._leans(way, np.array([pan]))[0]) for way in (X, Y))
        return None if math.isnan(pitch) or math.isnan(roll) else (pitch, -roll)

    def _leans(self, way: int, pans: np.ndarray) -> np.ndarray:
        more, product = float(self.inertia[way, way] - self.inertia[Z, Z]), float(self.inertia[way, Z])
        return leans_in(self.weight * self.below, self.weight * float(self.offset[way]), more, product, pans**2)

    def wobbles_in(self, pans: np.ndarray) -> np.ndarray:
        """Return the same as `wobble_in` for several pans (n,) (rad/s), NaN past the fastest."""
        if not self.hangs:
            return np.full(len(pans), np.nan)
        # At rest first, then in each pan.
        leans = (self._leans(way, np.concatenate([[0.0], pans])) for way in (X, Y))
        result: np.ndarray = np.hypot(*(lean[1:] - lean[0] for lean in leans))
        return result

    def wobble_in(self, pan: float) -> float | None:
        """Return how far (rad) the post leans more in a steady `pan` (rad/s) than at rest; None past the fastest."""
        found = float(self.wobbles_in(np.array([pan]))[0])
        return None if math.isnan(found) else found


#: Newton's steps to a lean and how far (rad) one goes: nearly straight, it takes three or four.
_STEPS, _STRIDE = assumed((12, 0.2))


def leans_in(
    back: np.ndarray | float,
    beside: np.ndarray | float,
    more: np.ndarray | float,
    product: np.ndarray | float,
    square: np.ndarray,
) -> np.ndarray:
    """Return how far (rad) a post leans in one plane in steady pans whose `square` is w^2; NaN past the fastest.

    ``W (d sin t - dx cos t) = w^2 ((I_xx - I_zz) sin t cos t - I_xz cos 2t)`` with `back` W d, `beside` W dx, `more`
    I_xx - I_zz and `product` I_xz: the potential of weight and of a steady rotation is least (Meriam and Kraige,
    Dynamics, ch. 7). Leans need not be small; of those that are it is (W dx - w^2 I_xz)/(W d - w^2 (I_xx - I_zz)).
    """
    firm = np.asarray(back - square * more)
    lean = np.arctan2(beside, np.maximum(back, 0.0)) + np.zeros_like(firm)
    with np.errstate(divide="ignore", invalid="ignore"):
        for _ in range(_STEPS):
            sin, cos = np.sin(lean), np.cos(lean)
            double, twice = cos * cos - sin * sin, sin * cos
            off = back * sin - beside * cos - square * (more * twice - product * double)
            slope = back * cos + beside * sin - square * (more * double + 4.0 * product * twice)
            step = np.where(slope > 0.0, off / slope, np.sign(off) * _STRIDE)
            # Without a pan it leans exactly as it began.
            step = np.where(square > 0.0, np.minimum(np.maximum(step, -_STRIDE), _STRIDE), 0.0)
            lean = lean - step
            # What is past the fastest pan has no lean: NaN is no step.
            if not (np.abs(step) > EXACT).any():
                break
    return np.where((firm > 0.0) & (np.asarray(back) > 0.0), lean, np.nan)


def sled_of(body: MassProperties, bearing: np.ndarray, more: float = 0.0) -> Sled:
    """Return the sled that `body` makes on its `bearing` (3,) (m); `more` (kg m2) is measured on top of its I_yy."""
    inertia = shift_inertia(body, bearing)
    inertia = inertia + np.diag([0.0, more, 0.0])
    return Sled(body.mass, body.cg - bearing, inertia, float(body.inertia[Y, Y]) + more)


def drop_time(mass: float, swing: float, lever: float) -> float:
    """Return the time (s) that a body takes from level to upright about a pivot `lever` (m) from its CG.

    ``t = K(1/2) sqrt(I_p/(M g L))``, a quarter period at 90 degrees of amplitude: Abramowitz and Stegun, Handbook of
    Mathematical Functions, ch. 17. `swing` (kg m2) is about the CG.
    """
    return ELLIPTIC_K_HALF * math.sqrt((swing / mass + lever * lever) / (STANDARD_GRAVITY * lever))


def fastest_drop(mass: float, swing: float) -> float:
    """Return the least drop time (s) that there is: with the CG a radius of gyration below, ``K sqrt(2 k/g)``."""
    return ELLIPTIC_K_HALF * math.sqrt(2.0 * math.sqrt(swing / mass) / STANDARD_GRAVITY)


def lever_for(time: float, mass: float, swing: float) -> float | None:
    """Return how far (m) below the bearing the CG must be to fall in `time` (s); None where it can't be so fast.

    The smaller root of ``L^2 - s L + k^2 = 0``, ``s = g t^2/K^2``: the other is a rig on a long string.
    """
    s, k2 = STANDARD_GRAVITY * (time / ELLIPTIC_K_HALF) ** 2, swing / mass
    inside = s * s - 4.0 * k2
    if inside < 0.0:
        return None
    # The sum in place of the difference: nothing cancels for a long drop.
    return 2.0 * k2 / (s + math.sqrt(inside))


def hidden_lean(friction: float, weight: float, below: float) -> float:
    """Return the lean (rad) that a bearing's `friction` (N m) hides: it comes to rest anywhere within plus or minus."""
    return math.pi / 2.0 if lacking(below) else math.asin(as_cosine(friction / (weight * below)))


def swing_from(angle: float, times: np.ndarray, mass: float, swing: float, lever: float) -> np.ndarray:
    """Return the angles (n,) (rad) from hanging of a sled let go at `angle` from hanging, at `times` (n,) (s).

    ``sin(a/2) = k sn(K - w t, k)`` with ``k = sin(angle/2)``: Abramowitz and Stegun, ch. 16 and 17.
    """
    from scipy.special import ellipj, ellipk

    k2 = math.sin(angle / 2.0) ** 2
    rate = math.sqrt(STANDARD_GRAVITY * lever / (swing / mass + lever * lever))
    sn = ellipj(ellipk(k2) - rate * times, k2)[0]
    result: np.ndarray = 2.0 * np.arcsin(math.sqrt(k2) * sn)
    return result
