"""Propagation of distributions by sampling, for figures that are not linear in what is doubtful.

Source: JCGM 101:2008, Propagation of distributions using a Monte Carlo method: clause 6.4 for the
distributions, 7.7 for the shortest report (2.5 and 97.5 % points), 7.9.2 for numerical tolerance and
8 for the comparison with first order.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.doubt.gauges import (
    OWN_INERTIA,
    Draws,
    Gauges,
    asks_inertia,
    firsts_of,
    lessons,
    lever_squares,
    six_of,
    six_slopes,
)
from equilix.core.frames import in_rows
from equilix.core.rounding import ROUNDING, lacking

#: A tenth of what JCGM 101:2008 takes, clause 7.2: end points then scatter by about 1 % of u.
DRAWS = 100_000
SEED = 20_081_101
#: Draws in one piece: small enough to stay in the processor's cache.
_PIECE = 1_000
_ROOT3 = math.sqrt(3.0)
#: JCGM 101:2008, clause 7.7: points between which 95 % of the draws lie.
TAILS = (0.025, 0.975)
#: Standard deviations between the middle and either tail of a normal distribution: JCGM 100:2008, table G.1.
_NORMAL = 1.959964
#: Share of u by which two intervals may differ and still read alike; common practice.
_SEEN = 0.1
#: Draws within this share of u of the farthest lie at an edge, and the share of all from which that is a fold; assumed.
_EDGE, _AT_EDGE = 1e-3, 0.005
#: One u over the other below which a straight line says nothing any more: of the line's, and of the drawn one; assumed.
_KINKED = (0.5, 0.7)
#: Skewness from which an interval is lopsided to the eye; common practice.
_SKEWED = 0.1
#: Share of the work that is drawing; the rest is sorting.
_DRAWING = 0.9


class Why(StrEnum):
    """Why first order and sampling differ."""

    AGREES = "agrees"
    FOLDED = "stopped by a limit"
    KINK = "follows another rule beyond a limit"
    LOPSIDED = "lopsided"
    FLAT = "flat-topped"
    BROAD = "wider than the plain ±"


class Odds(Struct, frozen=True, eq=False):
    """What the draws of one gauge say, in SI.

    `low` and `high` are the 2.5 and 97.5 % points, `scatter` how far they would move in another run
    (standard); `first` and `first_u` are the first-order estimate and standard uncertainty. `counts` and
    `edges` are a histogram; `beyond` holds for each threshold the share of draws above it.
    """

    gauge: str
    mean: float
    u: float
    low: float
    high: float
    scatter: float
    first: float
    first_u: float
    tolerance: float
    why: Why
    counts: np.ndarray
    edges: np.ndarray
    beyond: tuple[float, ...]

    @property
    def agrees(self) -> bool:
        """Whether first order may be used: JCGM 101 clause 8.2."""
        return self.why is Why.AGREES


def draw_rigs(analysis: Analysis, gauges: Gauges, count: int, rng: np.random.Generator) -> Draws:
    """Return `count` draws of the rig from the doubts of its parts.

    Normal where only a value and its doubt are known (JCGM 101, 6.4.7), rectangular for a scale's step
    and accuracy limit (6.4.2).
    """
    assembly = analysis.assembly
    n = len(assembly.parts)
    doubts = assembly.doubts
    moved = _moved(analysis)
    groups = gauges.groups
    after_stages = 5 + 4 * len(groups)
    inertial = np.empty((count, after_stages + (6 if asks_inertia(analysis) else 0)))
    normal_mass = np.flatnonzero(np.where(doubts.mass_flat, 0.0, doubts.mass))
    flat_mass = np.flatnonzero(np.where(doubts.mass_flat, doubts.mass, 0.0))
    flat_gain, normal_gain = doubts.gain[doubts.gain_flat], doubts.gain[~doubts.gain_flat]
    u_cg = doubts.cg.ravel()
    doubtful = np.flatnonzero(u_cg)
    owner = doubtful // 3
    # Rig axes' share of each part axis, times its doubt, so that one product sums all moments.
    spread = (in_rows(np.transpose(assembly.rotation, (0, 2, 1))) * u_cg[:, None])[doubtful]
    # Mass, first moment and carried mass of the drawn masses, as one product.
    carried = np.zeros(n)
    if gauges.slide is not None:
        carried[:] = [assembly.carries(gauges.slide, i) for i in range(n)]
    of_stages = [column for group in groups for column in (group, moved * group[:, None])]
    table = np.column_stack([np.ones(n), moved, carried, *of_stages])
    if asks_inertia(analysis):
        own = six_of(assembly.inertia)
        each = own / np.maximum(assembly.mass, ROUNDING)[:, None] + six_of(lever_squares(moved))
        table = np.column_stack([table, each])
        bent = np.einsum("nka,nac->nkc", np.transpose(assembly.rotation, (0, 2, 1)), six_slopes(moved))
        spread_six = (bent.reshape(-1, 6) * u_cg[:, None])[doubtful]
    for start in range(0, count, _PIECE):
        size = min(_PIECE, count - start)
        mass = np.repeat(assembly.mass[None, :], size, axis=0)
        mass[:, normal_mass] += rng.standard_normal((size, normal_mass.size)) * doubts.mass[normal_mass]
        mass[:, flat_mass] += (rng.random((size, flat_mass.size)) - 0.5) * (2.0 * _ROOT3 * doubts.mass[flat_mass])
        if len(flat_gain):
            mass += ((rng.random((size, len(flat_gain))) - 0.5) * (2.0 * _ROOT3)) @ flat_gain
        if len(normal_gain):
            mass += rng.standard_normal((size, len(normal_gain))) @ normal_gain
        noise = rng.standard_normal((size, doubtful.size))
        noise *= mass[:, owner]
        piece = inertial[start : start + size]
        np.matmul(mass, table, out=piece)
        piece[:, 1:4] += noise @ spread
        for k, group in enumerate(groups):
            within = group[owner]
            piece[:, 6 + 4 * k : 9 + 4 * k] += noise[:, within] @ spread[within]
        if asks_inertia(analysis):
            piece[:, -6:] += noise @ spread_six + rng.standard_normal((size, n)) @ (OWN_INERTIA * own)
    with np.errstate(divide="ignore", invalid="ignore"):
        for first in (0, *range(5, after_stages, 4)):
            inertial[:, first + 1 : first + 4] /= inertial[:, first, None]
            if first == 0 and asks_inertia(analysis):
                # From the reference point to each drawn rig's own CG.
                inertial[:, -6:] -= inertial[:, :1] * six_of(lever_squares(inertial[:, 1:4]))
            inertial[:, first + 1 : first + 4] += _reference(analysis)
    return Draws.of(inertial)


def _reference(analysis: Analysis) -> np.ndarray:
    """Return the point (3,) about which first moments are summed: near the CG, so that nothing cancels."""
    body = analysis.body
    assert body is not None
    return body.cg


def _moved(analysis: Analysis) -> np.ndarray:
    result: np.ndarray = analysis.positions.cg - _reference(analysis)
    return result


def sample(
    analysis: Analysis,
    gauges: Gauges,
    count: int = DRAWS,
    seed: int = SEED,
    progress: Callable[[float], bool] | None = None,
) -> dict[str, Odds] | None:
    """Return the odds of all offered gauges from `count` draws; None if `progress` (0 to 1) said to stop."""
    rng = np.random.default_rng(seed)
    pieces: list[Draws] = []
    done = 0
    step = max(1_000, count // 20)
    while done < count:
        size = min(step, count - done)
        pieces.append(draw_rigs(analysis, gauges, size, rng))
        done += size
        if progress is not None and not progress(_DRAWING * done / count):
            return None
    rows = np.concatenate([p.rows for p in pieces])
    covariance, now = gauges.covariance(), gauges.now().rows[0]
    for gain, gradient, u in lessons(gauges, covariance):
        # Each draw is moved as if it had been measured with an error of its own.
        surprise = rng.standard_normal(count) * u - (rows - now) @ gradient
        rows = rows + surprise[:, None] * gain
    draws = Draws.of(rows)
    firsts = firsts_of(gauges)
    found = {}
    for gauge in gauges.offered:
        values = gauges.values(gauge, draws)
        first, first_u = firsts[gauge]
        limits = tuple(t.value for t in gauges.thresholds(gauge))
        found[gauge] = odds(gauge, values, first, first_u, limits)
        if progress is not None and not progress(_DRAWING + (1.0 - _DRAWING) * len(found) / len(gauges.offered)):
            return None
    return found


def odds(gauge: str, values: np.ndarray, first: float, first_u: float, limits: tuple[float, ...] = ()) -> Odds:
    """Return the summary of the draws `values` (d,) beside the first-order `first` and `first_u`."""
    values = values[np.isfinite(values)]
    if values.size < 2:
        flat = np.array([first, first])
        return odds(gauge, flat, first, first_u, limits)
    # JCGM 101 7.7.2: order statistics. Partition is enough for four of them, and far quicker than a sort.
    low, high = _quantiles(values, TAILS)
    mean, u = float(values.mean()), float(values.std(ddof=1))
    tolerance = numerical_tolerance(u, 2)
    why = _why(values, first, first_u, low, high, mean, u, tolerance)
    counts, edges = _histogram(values, mean, u)
    beyond = tuple(float((values > limit).mean()) for limit in limits)
    return Odds(
        gauge,
        mean,
        u,
        low,
        high,
        _scatter(values.size, u),
        first,
        first_u,
        tolerance,
        why,
        counts,
        edges,
        beyond,
    )


def _quantiles(values: np.ndarray, shares: tuple[float, ...]) -> tuple[float, ...]:
    ranks = [min(max(math.ceil(share * values.size) - 1, 0), values.size - 1) for share in shares]
    parted = np.partition(values, ranks)
    return tuple(float(parted[rank]) for rank in ranks)


def _scatter(count: int, u: float) -> float:
    """Return the standard deviation of a 2.5 % point of `count` normal draws: sqrt(p (1 - p)/n)/density.

    Order statistics: Kendall and Stuart, The Advanced Theory of Statistics, vol. 1, ch. 14 (from memory).
    """
    density = math.exp(-(_NORMAL**2) / 2.0) / math.sqrt(2.0 * math.pi)
    return math.sqrt(TAILS[0] * TAILS[1] / count) / density * u


def numerical_tolerance(u: float, digits: int) -> float:
    """Return half a unit of the last of `digits` significant digits of `u`: JCGM 101:2008 clause 7.9.2."""
    if lacking(u) or not math.isfinite(u):
        return 0.0
    exponent = math.floor(math.log10(u)) - digits + 1
    if round(u / 10.0**exponent) >= 10**digits:
        exponent += 1
    return 0.5 * 10.0**exponent


def _why(
    values: np.ndarray,
    first: float,
    first_u: float,
    low: float,
    high: float,
    mean: float,
    u: float,
    tolerance: float,
) -> Why:
    """Return whether first order agrees, to two digits of u or a tenth of it, and the likeliest reason if not.

    The interval compared is first +- 1.96 u, since both hold 95 %.
    """
    # k = 2 is shown for 95 %, so a difference of that order is not one that a reader would see.
    allowed = max(tolerance, _SEEN * first_u, ROUNDING * max(abs(first), 1e-3))
    if abs(first - _NORMAL * first_u - low) <= allowed and abs(first + _NORMAL * first_u - high) <= allowed:
        return Why.AGREES
    edge_high, edge_low = (float((np.abs(values - end) <= _EDGE * u).mean()) for end in (values.max(), values.min()))
    if max(edge_high, edge_low) > _AT_EDGE:
        return Why.FOLDED
    if first_u < _KINKED[0] * u or u < _KINKED[1] * first_u:
        return Why.KINK
    skew = float((((values - mean) / u) ** 3).mean())
    if abs(skew) > _SKEWED:
        return Why.LOPSIDED
    return Why.FLAT if high - low < 2.0 * _NORMAL * first_u else Why.BROAD


def _histogram(values: np.ndarray, mean: float, u: float) -> tuple[np.ndarray, np.ndarray]:
    """Return counts in 48 bins over the middle of the draws, four standard deviations each way at most."""
    low = max(float(values.min()), mean - 4.0 * u)
    high = min(float(values.max()), mean + 4.0 * u)
    if not high > low:
        low, high = mean - 0.5e-6, mean + 0.5e-6
    return np.histogram(values, bins=48, range=(low, high))
