"""What an axis' releases and motor readings say of where its CG lies: drawn states, weighted by what was seen."""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.rounding import EXACT, ROUNDING
from equilix.core.sources import assumed, common_practice, from_memory


class Response(StrEnum):
    """What a stage did when it was let go."""

    FALLS = "falls the positive way"
    BACK = "falls the negative way"
    STAYS = "stays"


class Observation(Struct, frozen=True):
    """One observation: `way` (2,) in which the test looks, `marks` (m) of the two scales then; what it `saw`, or the
    motor's `effort` (N m, gravity's torque, positive turning the positive way) and its standard uncertainty `u`,
    assumed where nobody says it.
    """

    way: tuple[float, float]
    marks: tuple[float, float]
    saw: Response | None = None
    effort: float = 0.0
    u: float = 0.02


class CoachModel(Struct, frozen=True):
    """What is known before the first test, of one axis; the usual figures are assumed, of a gimbal of the middle size.

    `spread` (N m) are the standard uncertainties of the two moments; `slopes` (N/m) and `slopes_u` what a scale does,
    0 where there is none; `friction` (N m) of the bearing, known to a factor `friction_by`; `bias` (N m) of an effort.
    Of so many looks the share `slip` is seen or written down wrongly, known to a factor `slip_by`. `limits` (m) are the
    ends of each scale, `window` (N m) the torque that counts as balanced; `sees` tells along which of the two ways a
    moment counts, since tests look along it.
    """

    spread: tuple[float, float] = (0.5, 0.35)
    slopes: tuple[float, float] = (20.0, 18.0)
    slopes_u: tuple[float, float] = (8.0, 7.0)
    friction: float = 0.012
    friction_by: float = 3.0
    bias: float = 0.12
    slip: float = 0.06
    slip_by: float = 2.2
    limits: tuple[tuple[float, float], tuple[float, float]] = ((-0.05, 0.05), (-0.03, 0.03))
    window: float = 0.09
    sees: tuple[bool, bool] = (True, True)


#: Spread of a bearing's stiction over itself.
STICTION = assumed(0.15)

#: Slope of the logistic curve that is nearest to the normal one; Johnson and Kotz.
LOGISTIC = from_memory(1.702)


class CoachBelief(Struct, frozen=True, eq=False):
    """What the observations say, in n draws of equal weight.

    `now` (n, 2) N m are the moments as the scales stand, `goals` (n, 2) m where the scales would have to stand, nan
    where there is no scale; `friction` (n,) N m. `inside` is the chance that the axis is within its window.
    `centre` (2,) and `shape` (2, 2) describe the region of the goals: ``(g - c)^T S^-1 (g - c) <= reach``.
    `contradicts` are the numbers of looks that don't go with the others. `looks` and `samples` (n, 7) are what it came
    from: a belief that one look more follows goes on from them.
    """

    now: np.ndarray
    goals: np.ndarray
    friction: np.ndarray
    inside: float
    centre: np.ndarray
    shape: np.ndarray
    reach: float
    contradicts: tuple[int, ...]
    looks: tuple[Observation, ...]
    samples: np.ndarray

    def holds(self, goal: np.ndarray) -> bool:
        """Whether a place (2,) (m) of the scales lies in the region."""
        free = np.isfinite(self.centre)
        off = (goal - self.centre)[free]
        return float(off @ np.linalg.solve(self.shape[np.ix_(free, free)], off)) <= self.reach


#: Draws, and the share of them that must carry the weight.
COUNT, ENOUGH = 2_000, 0.3

#: What covariances of draws are made firm by, so that none is singular: rounding.
FIRM = 1e-15

#: Rounds in which thinned draws move on.
ROUNDS = 6

#: Steps of theirs over the draws' own spread, in turn: large ones and small ones.
STRIDES = (1.0, 0.4, 0.15)

#: Exponent beyond which a chance is 0 or 1 to rounding.
STEEPEST = 40.0

#: Share of the draws that tells a region's shape: the tails of a quotient are long.
CORE = 0.9

#: Of three answers one is right: somebody who guesses slips so often.
MOST_SLIPS = 2.0 / 3.0

#: Chance from which an observation counts as a slip, and from which an axis counts as balanced.
CONTRADICTS, _SURE = 0.6, 0.98

#: Of a normalised residual, from which a reading contradicts the others.
MOST_OFF = common_practice(3.0)

#: Share that a region holds.
REGION = 0.95


def believe(
    bench: CoachModel,
    looks: Sequence[Observation],
    marks: tuple[float, float],
    seed: int = 1,
    held: CoachBelief | None = None,
) -> CoachBelief:
    """Return what `looks` say of an axis whose scales stand at `marks` (m); the first look's scales are the start.

    `held`, what was believed of the same bench before the last look, saves work where that was a release.
    """
    rng = np.random.default_rng(seed)
    start = np.array(looks[0].marks if looks else marks)
    efforts = [k for k, look in enumerate(looks) if look.saw is None]
    wrong = _odd_efforts(bench, looks, efforts, start)
    kept = [look for k, look in enumerate(looks) if k not in wrong]
    mean, spread = _regressed(bench, [look for look in kept if look.saw is None], start)
    root = np.linalg.cholesky(spread + FIRM * np.eye(5))
    samples = np.empty((COUNT, 7))
    samples[:, :5] = mean + rng.standard_normal((COUNT, 5)) @ root.T
    logs, by = np.log([bench.friction, bench.slip]), np.log([bench.friction_by, bench.slip_by])
    samples[:, 5:] = logs + by * rng.standard_normal((COUNT, 2))
    released = [look for look in kept if look.saw is not None]
    precision = np.linalg.inv(spread + FIRM * np.eye(5))

    def prior(points: np.ndarray) -> np.ndarray:
        off = points[:, :5] - mean
        found: np.ndarray = -0.5 * np.einsum("ni,ij,nj->n", off, precision, off)
        # A scale never works backwards.
        found -= 0.5 * (((points[:, 5:] - logs) / by) ** 2).sum(axis=1)
        backwards = points[:, 2:4] * np.sign(bench.slopes) < 0.0
        result: np.ndarray = np.where(backwards.any(axis=1), -np.inf, found)
        return result

    weight = np.maximum(np.isfinite(prior(samples)), EXACT)
    done = 0
    if held is not None and not wrong and tuple(looks[: len(held.looks)]) == held.looks:
        since = looks[len(held.looks) :]
        if held.looks and all(look.saw is not None for look in since):
            samples, weight, done = held.samples, np.ones(COUNT), len(released) - len(since)
    for number, look in enumerate(released[done:], done + 1):
        weight = weight * _chances(samples, [look], start)[:, 0]
        weight /= weight.sum()
        if 1.0 / float((weight**2).sum()) < ENOUGH * COUNT or number == len(released):
            samples = _moved_on(samples, weight, released[:number], start, prior, rng)
            weight = np.ones(COUNT)
    slipped = (slips(samples) / 3.0 / _chances(samples, released, start)).mean(axis=0) if released else np.zeros(0)
    slipped_looks = [look for look, chance in zip(released, slipped.tolist(), strict=True) if chance > CONTRADICTS]
    odd = wrong | {k for k, look in enumerate(looks) if any(look is one for one in slipped_looks)}
    return _summed(bench, samples, np.array(marks) - start, start, tuple(sorted(odd)), tuple(looks))


def _rows(looks: Sequence[Observation], start: np.ndarray) -> np.ndarray:
    """Return the rows (m, 5) by which efforts depend on moments, slopes and bias."""
    rows = np.zeros((len(looks), 5))
    for row, look in zip(rows, looks, strict=True):
        row[:2] = look.way
        row[2:4] = np.array(look.way) * (np.array(look.marks) - start)
        row[4] = 1.0
    return rows


def _before(bench: CoachModel) -> tuple[np.ndarray, np.ndarray]:
    mean = np.array([0.0, 0.0, *bench.slopes, 0.0])
    u = np.array([*bench.spread, *bench.slopes_u, bench.bias])
    return mean, np.diag(np.maximum(u, ROUNDING) ** 2)


def _regressed(bench: CoachModel, looks: Sequence[Observation], start: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return mean (5,) and covariance (5, 5) of moments, slopes and bias after effort readings."""
    mean, spread = _before(bench)
    if not looks:
        return mean, spread
    rows, values = _rows(looks, start), np.array([look.effort for look in looks])
    weighted = rows / np.array([look.u**2 for look in looks])[:, None]
    after = np.linalg.inv(np.linalg.inv(spread) + weighted.T @ rows)
    after = 0.5 * (after + after.T)
    return mean + after @ weighted.T @ (values - rows @ mean), after


def _odd_efforts(
    bench: CoachModel, looks: Sequence[Observation], efforts: list[int], start: np.ndarray
) -> frozenset[int]:
    """Return the effort readings that the others contradict, the worst first until none is left.

    Each is held against what all others foretell of it: its residual over their common uncertainty.
    """
    gone: set[int] = set()
    while len(efforts) - len(gone) > 3:
        off = {}
        for k in efforts:
            if k in gone:
                continue
            others = [looks[j] for j in efforts if j not in gone and j != k]
            mean, spread = _regressed(bench, others, start)
            row = _rows([looks[k]], start)[0]
            off[k] = abs(looks[k].effort - float(row @ mean)) / math.sqrt(float(row @ spread @ row) + looks[k].u ** 2)
        worst = max(off, key=lambda k: off[k])
        if off[worst] < MOST_OFF:
            break
        gone.add(worst)
    return frozenset(gone)


def _chances(samples: np.ndarray, looks: Sequence[Observation], start: np.ndarray) -> np.ndarray:
    """Return the chance (n, m) of what was seen in each of m releases, that somebody slips among them."""
    torque = samples[:, :4] @ _rows(looks, start)[:, :4].T
    friction = np.exp(samples[:, 5])[:, None]
    saw = np.array(
        [{Response.FALLS: 1.0, Response.BACK: -1.0, Response.STAYS: 0.0}[look.saw or Response.STAYS] for look in looks]
    )
    steep = LOGISTIC / (STICTION * friction)
    # One that stays is one that falls neither way; whichever way it leans, the other is next to impossible.
    away = np.where(saw == 0.0, np.abs(torque), torque * saw) - friction
    falls = logistic(away * steep)
    seen = np.where(saw == 0.0, 1.0 - falls, falls)
    return with_slips(seen, slips(samples))


def slips(samples: np.ndarray) -> np.ndarray:
    """Return the chance (n, 1) that somebody saw or wrote down another thing: then it is any of the three."""
    result: np.ndarray = np.minimum(np.exp(samples[:, 6:]), MOST_SLIPS)
    return result


def with_slips(chance: np.ndarray, slip: np.ndarray) -> np.ndarray:
    result: np.ndarray = (1.0 - slip) * chance + slip / 3.0
    return result


def logistic(x: np.ndarray) -> np.ndarray:
    result: np.ndarray = 1.0 / (1.0 + np.exp(-np.clip(x, -STEEPEST, STEEPEST)))
    return result


def _moved_on(
    samples: np.ndarray,
    weight: np.ndarray,
    looks: Sequence[Observation],
    start: np.ndarray,
    prior: object,
    rng: np.random.Generator,
) -> np.ndarray:
    """Return draws of equal weight, moved on by random steps that keep their distribution (Metropolis)."""
    assert callable(prior)
    places = (np.arange(COUNT) + rng.random()) / COUNT
    samples = samples[np.minimum(np.searchsorted(np.cumsum(weight), places), COUNT - 1)]
    step = np.cov(samples.T) + FIRM * np.eye(7)
    root = np.linalg.cholesky(step) * (2.0 / math.sqrt(7.0))

    def level(points: np.ndarray) -> np.ndarray:
        result: np.ndarray = prior(points) + np.log(_chances(points, looks, start)).sum(axis=1)
        return result

    now = level(samples)
    for k in range(ROUNDS):
        tried = samples + STRIDES[k % len(STRIDES)] * (rng.standard_normal(samples.shape) @ root.T)
        there = level(tried)
        taken = np.log(rng.random(COUNT)) < there - now
        samples = np.where(taken[:, None], tried, samples)
        now = np.where(taken, there, now)
    return samples


def _summed(
    bench: CoachModel,
    samples: np.ndarray,
    moved: np.ndarray,
    start: np.ndarray,
    contradicts: tuple[int, ...],
    looks: tuple[Observation, ...],
) -> CoachBelief:
    now = samples[:, :2] + samples[:, 2:4] * moved
    has = np.array(bench.slopes) != 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        goals = np.where(has, start - samples[:, :2] / samples[:, 2:4], np.nan)
    centre, shape, reach = np.full(2, np.nan), np.eye(2), 0.0
    if has.any():
        # The middle half tells the size: tails of a quotient are long.
        free = np.flatnonzero(has)
        centre[free] = np.median(goals[:, free], axis=0)
        off = goals[:, free] - centre[free]
        near = np.abs(off) <= np.quantile(np.abs(off), CORE, axis=0)
        core = off[near.all(axis=1)]
        spread = np.cov(core.T).reshape(len(free), len(free)) + FIRM * np.eye(len(free))
        shape[np.ix_(free, free)] = spread
        far = np.einsum("ni,ij,nj->n", off, np.linalg.inv(spread), off)
        reach = float(np.quantile(far, REGION))
    peak = np.hypot(*(now * np.array(bench.sees)).T)
    inside = float((peak <= bench.window).mean())
    return CoachBelief(now, goals, np.exp(samples[:, 5]), inside, centre, shape, reach, contradicts, looks, samples)
