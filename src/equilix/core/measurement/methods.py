"""The set-ups of the bench: from scale readings to a mass or a place of the CG, with its uncertainty.

Distances are along the part's own forward axis unless said otherwise. Every `u` is a standard
uncertainty. A common gain error of one scale changes no place: it cancels in the quotients.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.errors import MeasurementError
from equilix.core.rounding import lacking
from equilix.core.sources import common_practice

#: m, reading a span or an offset off a tape on a marked board.
TAPE_UNCERTAINTY = common_practice(0.0005)
#: rad, a phone's or a digital level's reading.
TILT_UNCERTAINTY = common_practice(math.radians(0.1))
#: m, finding the balance on an edge by hand.
EDGE_UNCERTAINTY = common_practice(0.0015)
#: m, marking a plumb line on the part.
PLUMB_UNCERTAINTY = common_practice(0.0015)
#: Least tilt for the height: below it the uncertainty is more than ten times that of the level reading.
LEAST_TILT = math.radians(6.0)
#: What the least known way over the best known one must be worth for lines to cross.
_SAME_WAY = common_practice(1e-3)


class Measured(Struct, frozen=True):
    """A value in SI and its standard uncertainty `u`."""

    value: float
    u: float


def difference(with_it: Measured, without_it: Measured) -> Measured:
    """Return the mass (kg) of what was taken away between two readings; the same for a tared reading.

    Raises
    ------
    MeasurementError
        If it comes out at or below zero.
    """
    value = with_it.value - without_it.value
    if lacking(value):
        raise MeasurementError("The scale reads no less without the part. Swap the readings.")
    return Measured(value, math.hypot(with_it.u, without_it.u))


class SupportForces(Struct, frozen=True):
    """Adjusted readings (kg) at the `back` and `front` support, and the `closure` by which they missed the whole."""

    back: float
    front: float
    closure: float
    closure_u: float

    @property
    def whole(self) -> float:
        """The whole rig (kg)."""
        return self.back + self.front

    @property
    def closes(self) -> bool:
        """Whether ends and whole agree within what the scale can show (k = 2)."""
        return abs(self.closure) <= 2.0 * self.closure_u


def adjust_ends(whole: float, front: float, back: float | None, u: float) -> SupportForces:
    """Return the support forces (kg) that agree best with the readings of the whole and of each end.

    `u` (kg) is the standard uncertainty of one reading. With all three the excess is shared out in
    equal parts, the least-squares adjustment of one condition with equal weights: Mikhail and
    Ackermann, Observations and Least Squares (1976), ch. 9 (from memory).

    Raises
    ------
    MeasurementError
        If the readings can't belong to a part that lies on both supports.
    """
    if lacking(whole):
        raise MeasurementError("The scale shows zero. Put the part on it.")
    if back is None:
        ends = SupportForces(whole - front, front, 0.0, math.sqrt(3.0) * u)
    else:
        excess = front + back - whole
        ends = SupportForces(back - excess / 3.0, front - excess / 3.0, excess, math.sqrt(3.0) * u)
    slack = 4.0 * u
    if ends.front < -slack or ends.back < -slack:
        raise MeasurementError("One end reads more than the whole. Move the supports apart: the CG lies outside.")
    return ends


def two_supports(
    ends: SupportForces, span: float, u: float, span_u: float = TAPE_UNCERTAINTY, checked: bool = True
) -> Measured:
    """Return the CG's distance (m) ahead of the back support; `u` (kg) is that of one reading.

    ``x = L F2/(F1 + F2)``: moments about the back support, Meriam and Kraige, Statics, ch. 3.
    """
    if lacking(span):
        raise MeasurementError("The distance between the supports is zero. Type it.")
    place = span * ends.front / ends.whole
    return Measured(place, two_supports_uncertainty(ends.back, ends.front, span, u, span_u, checked))


def two_supports_uncertainty(
    back: float, front: float, span: float, u: float, span_u: float = TAPE_UNCERTAINTY, checked: bool = True
) -> float:
    """Return the standard uncertainty (m) of the CG's place from the forces (kg) at both supports.

    First order, JCGM 100:2008 clause 5.1.2. With whole and front read (`checked` False) F1 is their
    difference: ``dx/dW = -L F2/W2``, ``dx/dF2 = L/W``. The third reading adjusts all by a third of
    the excess: adjusted variances 2/3 and covariance of the ends -1/3 of ``u^2``, so with
    ``dx/dF1 = -L F2/W2`` and ``dx/dF2 = L F1/W2``.
    """
    whole = back + front
    by_span = front / whole * span_u
    if not checked:
        return math.hypot(span * front / whole**2 * u, span / whole * u, by_span)
    a, b = -span * front / whole**2, span * back / whole**2
    variance = (2.0 * a * a / 3.0 + 2.0 * b * b / 3.0 - 2.0 * a * b / 3.0) * u * u
    return math.sqrt(variance + by_span**2)


def tilted_height(level: Measured, tilted: Measured, tilt: float, tilt_u: float = TILT_UNCERTAINTY) -> Measured:
    """Return the CG's height (m) above the line of contacts, from the two-support place level and nose down.

    ``z = (x_t - x_0)/tan t`` with the true, unshortened span in both and the lifted end free to roll, so
    that all forces are upright. The two places share the span's error, which is left in: a little cautious.

    Raises
    ------
    MeasurementError
        If the tilt is too small to tell a height.
    """
    if abs(tilt) < LEAST_TILT:
        raise MeasurementError("The tilt is below 6°. Use 15° to 30°.")
    slope = math.tan(tilt)
    value = (tilted.value - level.value) / slope
    by_tilt = value * (1.0 + slope * slope) / slope * tilt_u
    return Measured(value, math.hypot(math.hypot(level.u, tilted.u) / slope, by_tilt))


class PlumbLine(Struct, frozen=True):
    """A vertical through a hook, drawn on a part: a `point` (k,) (m) and the `direction` (k,) in which it runs down.

    `point_u` (m) and `angle_u` (rad) say how well the hook's place and the direction are known.
    """

    point: tuple[float, ...]
    direction: tuple[float, ...]
    point_u: float = PLUMB_UNCERTAINTY
    angle_u: float = TILT_UNCERTAINTY


class PlumbCrossing(Struct, frozen=True, eq=False):
    """Where plumb lines cross: `point` (k,) (m), its covariance (k, k) (m2), and the greatest `miss` (m) of a line."""

    point: np.ndarray
    covariance: np.ndarray
    miss: float


def side_plumb_line(hook: tuple[float, float], pitch: float, **uncertainties: float) -> PlumbLine:
    """Return the plumb line in the part's side plane (x, z) for a hang from `hook` (m), `pitch` (rad) nose down.

    In the part's frame down is (sin pitch, -cos pitch).
    """
    return PlumbLine(hook, (math.sin(pitch), -math.cos(pitch)), **uncertainties)


def cross_plumb_lines(lines: Sequence[PlumbLine]) -> PlumbCrossing:
    """Return the point nearest to all `lines`, by weighted least squares; the CG lies on each.

    Each line tells the place across it. Its uncertainty there grows with the distance from the hook:
    ``u^2 = point_u^2 + (angle_u s)^2``, so the weights are found in a second round.

    Raises
    ------
    MeasurementError
        If there are fewer than two lines, or they run nearly the same way.
    """
    if len(lines) < 2:
        raise MeasurementError("One plumb line is not enough. Hang it from a second point.")
    points = np.array([line.point for line in lines], dtype=float)
    directions = np.array([line.direction for line in lines], dtype=float)
    directions /= np.linalg.norm(directions, axis=1)[:, None]
    k = points.shape[1]
    across = np.eye(k) - directions[:, :, None] * directions[:, None, :]
    u = np.array([line.point_u for line in lines])
    point = np.zeros(k)
    covariance = np.eye(k)
    for _ in range(3):
        weights = across / (u**2)[:, None, None]
        normal = weights.sum(axis=0)
        spread = np.linalg.eigvalsh(normal)
        if spread[0] < _SAME_WAY * spread[-1]:
            raise MeasurementError("The plumb lines run nearly parallel. Hang it from points further apart.")
        covariance = np.linalg.inv(normal)
        point = covariance @ np.einsum("nij,nj->i", weights, points)
        down = np.abs(np.einsum("nj,nj->n", point - points, directions))
        u = np.hypot([line.point_u for line in lines], [line.angle_u for line in lines] * down)
    misses = np.linalg.norm(np.einsum("nij,nj->ni", across, point - points), axis=1)
    return PlumbCrossing(point, covariance, float(misses.max()))
