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
from equilix.core.frames import in_rows
from equilix.core.rounding import ROUNDING, lacking
from equilix.core.sources import assumed, common_practice, published
from equilix.core.uncertainty.output_model import (
    OWN_INERTIA,
    OutputModel,
    Samples,
    asks_inertia,
    firsts_of,
    lessons,
    lever_squares,
    six_of,
    six_slopes,
)

#: End points then scatter by about 1 % of u.
SAMPLES = published(100_000, "A tenth of what JCGM 101:2008 takes, clause 7.2")
SEED = published(20_081_101, "A tenth of what JCGM 101:2008 takes, clause 7.2")
#: Draws in one piece: small enough to stay in the processor's cache.
_PIECE = 1_000
_ROOT3 = math.sqrt(3.0)
#: Points between which 95 % of the draws lie.
TAILS = published((0.025, 0.975), "JCGM 101:2008, clause 7.7")
#: Standard deviations between the middle and either tail of a normal distribution.
_NORMAL = published(1.959964, "JCGM 100:2008, table G.1")
#: Share of u by which two intervals may differ and still read alike.
_SEEN = common_practice(0.1)
#: Draws within this share of u of the farthest lie at an edge, and the share of all from which that is a fold.
_EDGE, _AT_EDGE = assumed((1e-3, 0.005))
#: One u over the other below which a straight line says nothing any more: of the line's, and of the drawn one.
_KINKED = assumed((0.5, 0.7))
#: Skewness from which an interval is lopsided to the eye.
_SKEWED = common_practice(0.1)
#: Share of the work that is drawing; the rest is sorting.
_DRAWING = 0.9


class Reason(StrEnum):
    """Why first order and sampling differ."""

    AGREES = "agrees"
    FOLDED = "stopped by a limit"
    KINK = "follows another rule beyond a limit"
    LOPSIDED = "lopsided"
    FLAT = "flat-topped"
    BROAD = "wider than the plain ±"


class Odds(Struct, frozen=True, eq=False):
    """What the draws of one output say, in SI.

    `low` and `high` are the 2.5 and 97.5 % points, `scatter` how far they would move in another run
    (standard); `first` and `first_u` are the first-order estimate and standard uncertainty. `counts` and
    `edges` are a histogram; `beyond` holds for each threshold the share of draws above it.
    """

    output: str
    mean: float
    u: float
    low: float
    high: float
    scatter: float
    first: float
    first_u: float
    tolerance: float
    why: Reason
    counts: np.ndarray
    edges: np.ndarray
    beyond: tuple[float, ...]

    @property
    def agrees(self) -> bool:
        """Whether first order may be used: JCGM 101 clause 8.2."""
        return self.why is Reason.AGREES


def draw_rigs(analysis: Analysis, outputs: OutputModel, count: int, rng: np.random.Generator) -> Samples:
    """Return `count` draws of the rig from the uncertainties of its parts.

    Normal where only a value and its uncertainty are known (JCGM 101, 6.4.7), rectangular for a scale's step
    and accuracy limit (6.4.2).
    """
    assembly = analysis.assembly
    n = len(assembly.parts)
    uncertainties = assembly.uncertainties
    moved = _moved(analysis)
    groups = outputs.groups
    after_stages = 5 + 4 * len(groups)
    inertial = np.empty((count, after_stages + (6 if asks_inertia(analysis) else 0)))
    normal_mass = np.flatnonzero(np.where(uncertainties.mass_flat, 0.0, uncertainties.mass))
    flat_mass = np.flatnonzero(np.where(uncertainties.mass_flat, uncertainties.mass, 0.0))
    flat_gain, normal_gain = uncertainties.gain[uncertainties.gain_flat], uncertainties.gain[~uncertainties.gain_flat]
    u_cg = uncertainties.cg.ravel()
    doubtful = np.flatnonzero(u_cg)
    owner = doubtful // 3
    # Rig axes' share of each part axis, times its uncertainty, so that one product sums all moments.
    spread = (in_rows(np.transpose(assembly.rotation, (0, 2, 1))) * u_cg[:, None])[doubtful]
    # Mass, first moment and carried mass of the drawn masses, as one product.
    carried = np.zeros(n)
    if outputs.slide is not None:
        carried[:] = [assembly.carries(outputs.slide, i) for i in range(n)]
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
        mass[:, normal_mass] += rng.standard_normal((size, normal_mass.size)) * uncertainties.mass[normal_mass]
        mass[:, flat_mass] += (rng.random((size, flat_mass.size)) - 0.5) * (
            2.0 * _ROOT3 * uncertainties.mass[flat_mass]
        )
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
    return Samples.of(inertial)


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
    outputs: OutputModel,
    count: int = SAMPLES,
    seed: int = SEED,
    progress: Callable[[float], bool] | None = None,
) -> dict[str, Odds] | None:
    """Return the odds of all offered outputs from `count` draws; None if `progress` (0 to 1) said to stop."""
    rng = np.random.default_rng(seed)
    pieces: list[Samples] = []
    done = 0
    step = max(1_000, count // 20)
    while done < count:
        size = min(step, count - done)
        pieces.append(draw_rigs(analysis, outputs, size, rng))
        done += size
        if progress is not None and not progress(_DRAWING * done / count):
            return None
    rows = np.concatenate([p.rows for p in pieces])
    covariance, now = outputs.covariance(), outputs.now().rows[0]
    for gain, gradient, u in lessons(outputs, covariance):
        # Each draw is moved as if it had been measured with an error of its own.
        surprise = rng.standard_normal(count) * u - (rows - now) @ gradient
        rows = rows + surprise[:, None] * gain
    samples = Samples.of(rows)
    firsts = firsts_of(outputs)
    found: dict[str, Odds] = {}
    for output in outputs.offered:
        values = outputs.values(output, samples)
        first, first_u = firsts[output]
        limits = tuple(t.value for t in outputs.thresholds(output))
        found[output] = odds(output, values, first, first_u, limits)
        if progress is not None and not progress(_DRAWING + (1.0 - _DRAWING) * len(found) / len(outputs.offered)):
            return None
    return found


def odds(output: str, values: np.ndarray, first: float, first_u: float, limits: tuple[float, ...] = ()) -> Odds:
    """Return the summary of the draws `values` (d,) beside the first-order `first` and `first_u`."""
    values = values[np.isfinite(values)]
    if values.size < 2:
        flat = np.array([first, first])
        return odds(output, flat, first, first_u, limits)
    # JCGM 101 7.7.2: order statistics. Partition is enough for four of them, and far quicker than a sort.
    low, high = _quantiles(values, TAILS)
    mean, u = float(values.mean()), float(values.std(ddof=1))
    tolerance = numerical_tolerance(u, 2)
    why = _why(values, first, first_u, low, high, mean, u, tolerance)
    counts, edges = _histogram(values, mean, u)
    beyond = tuple(float((values > limit).mean()) for limit in limits)
    return Odds(
        output,
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
) -> Reason:
    """Return whether first order agrees, to two digits of u or a tenth of it, and the likeliest reason if not.

    The interval compared is first +- 1.96 u, since both hold 95 %.
    """
    # k = 2 is shown for 95 %, so a difference of that order is not one that a reader would see.
    allowed = max(tolerance, _SEEN * first_u, ROUNDING * max(abs(first), 1e-3))
    if abs(first - _NORMAL * first_u - low) <= allowed and abs(first + _NORMAL * first_u - high) <= allowed:
        return Reason.AGREES
    edge_high, edge_low = (float((np.abs(values - end) <= _EDGE * u).mean()) for end in (values.max(), values.min()))
    if max(edge_high, edge_low) > _AT_EDGE:
        return Reason.FOLDED
    if first_u < _KINKED[0] * u or u < _KINKED[1] * first_u:
        return Reason.KINK
    skew = float((((values - mean) / u) ** 3).mean())
    if abs(skew) > _SKEWED:
        return Reason.LOPSIDED
    return Reason.FLAT if high - low < 2.0 * _NORMAL * first_u else Reason.BROAD


def _histogram(values: np.ndarray, mean: float, u: float) -> tuple[np.ndarray, np.ndarray]:
    """Return counts in 48 bins over the middle of the draws, four standard deviations each way at most."""
    low = max(float(values.min()), mean - 4.0 * u)
    high = min(float(values.max()), mean + 4.0 * u)
    if not high > low:
        low, high = mean - 0.5e-6, mean + 0.5e-6
    return np.histogram(values, bins=48, range=(low, high))
