"""Balancing one axis of a gimbal by trying: what releases and motor efforts say, and what to do next.

Nothing need be known of the parts. At scale settings q the torque about the axis is ``k . (t + s q)``: t (2,) N m are
the moments along the two ways beside the axis as it stood at first, s (2,) N/m how a scale changes them, k (2,) the way
in which a test looks, as (cos T, sin T) of a tilt by T. Released, a stage falls the way of a torque above the bearing's
friction and stays below it. A motor's effort shows the torque itself, off by a bias that is the same at every angle.
Friction, bias, what a scale does and how often somebody errs are unknowns like the moments: each has a wide prior, and
what was seen tells more of it.

All doubt is in the draws: weighted by what was seen, thinned and moved on when few carry the weight (sequential Monte
Carlo with resample-move: Gilks and Berzuini, J. R. Statist. Soc. B 63 (2001), from memory). Efforts enter first and
exactly, as linear regression with a normal prior (Gelman et al., Bayesian Data Analysis, ch. 14).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.rounding import EXACT, ROUNDING


class Saw(StrEnum):
    """What a stage did when it was let go."""

    FALLS = "falls the positive way"
    BACK = "falls the negative way"
    STAYS = "stays"


class Look(Struct, frozen=True):
    """One observation: `way` (2,) in which the test looks, `marks` (m) of the two scales then; what it `saw`, or the
    motor's `effort` (N m, gravity's torque, positive turning the positive way) and its standard uncertainty `u`,
    assumed where nobody says it.
    """

    way: tuple[float, float]
    marks: tuple[float, float]
    saw: Saw | None = None
    effort: float = 0.0
    u: float = 0.02


class Bench(Struct, frozen=True):
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


#: Draws, and the share of them that must carry the weight.
_COUNT, _ENOUGH = 2_000, 0.3
#: What covariances of draws are made firm by, so that none is singular: rounding.
_FIRM = 1e-15
#: Rounds in which thinned draws move on.
_ROUNDS = 6
#: Steps of theirs over the draws' own spread, in turn: large ones and small ones.
_STRIDES = (1.0, 0.4, 0.15)
#: Exponent beyond which a chance is 0 or 1 to rounding.
_STEEPEST = 40.0
#: Share of the draws that tells a region's shape: the tails of a quotient are long.
_CORE = 0.9
#: Spread of a bearing's stiction over itself; assumed.
_STICTION = 0.15
#: Of three answers one is right: somebody who guesses slips so often.
_MOST_SLIPS = 2.0 / 3.0
#: Slope of the logistic curve that is nearest to the normal one; Johnson and Kotz, from memory.
_LOGISTIC = 1.702
#: Chance from which an observation counts as a slip, and from which an axis counts as balanced.
_CONTRADICTS, _SURE = 0.6, 0.98
#: Of a normalised residual, from which a reading contradicts the others; common practice.
_MOST_OFF = 3.0
#: Share that a region holds.
REGION = 0.95


class Belief(Struct, frozen=True, eq=False):
    """What the observations say, in n draws of equal weight.

    `now` (n, 2) N m are the moments as the scales stand, `goals` (n, 2) m where the scales would have to stand, nan
    where there is no scale; `friction` (n,) N m. `inside` is the chance that the axis is within its window.
    `centre` (2,) and `shape` (2, 2) describe the region of the goals: ``(g - c)^T S^-1 (g - c) <= reach``.
    `contradicts` are the numbers of looks that don't go with the others. `looks` and `draws` (n, 7) are what it came
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
    looks: tuple[Look, ...]
    draws: np.ndarray

    def holds(self, goal: np.ndarray) -> bool:
        """Whether a place (2,) (m) of the scales lies in the region."""
        free = np.isfinite(self.centre)
        off = (goal - self.centre)[free]
        return float(off @ np.linalg.solve(self.shape[np.ix_(free, free)], off)) <= self.reach


class Do(StrEnum):
    """What to do next."""

    TEST = "test"
    MOVE = "move"
    DONE = "done"
    LEFT = "left as it is"


class Left(StrEnum):
    """Why an axis is left as it is."""

    END = "its scale is at its end"
    NO_SCALE = "nothing slides for it"
    UNSURE = "more looks tell no more"


class Advice(Struct, frozen=True):
    """`way` (2,) of the test that tells most, or the number of the `scale` and where `to` (m) set it.

    With `again` that test was seen at these marks and does not go with the others; with `probe` the scale is put off on
    purpose, to see where the stage falls. `why` says why an axis is left as it is.
    """

    do: Do
    way: tuple[float, float] = (1.0, 0.0)
    scale: int = 0
    to: float = 0.0
    again: bool = False
    probe: bool = False
    why: Left | None = None


def believe(
    bench: Bench, looks: Sequence[Look], marks: tuple[float, float], seed: int = 1, held: Belief | None = None
) -> Belief:
    """Return what `looks` say of an axis whose scales stand at `marks` (m); the first look's scales are the start.

    `held`, what was believed of the same bench before the last look, saves work where that was a release.
    """
    rng = np.random.default_rng(seed)
    start = np.array(looks[0].marks if looks else marks)
    efforts = [k for k, look in enumerate(looks) if look.saw is None]
    wrong = _odd_efforts(bench, looks, efforts, start)
    kept = [look for k, look in enumerate(looks) if k not in wrong]
    mean, spread = _regressed(bench, [look for look in kept if look.saw is None], start)
    root = np.linalg.cholesky(spread + _FIRM * np.eye(5))
    draws = np.empty((_COUNT, 7))
    draws[:, :5] = mean + rng.standard_normal((_COUNT, 5)) @ root.T
    logs, by = np.log([bench.friction, bench.slip]), np.log([bench.friction_by, bench.slip_by])
    draws[:, 5:] = logs + by * rng.standard_normal((_COUNT, 2))
    released = [look for look in kept if look.saw is not None]
    precision = np.linalg.inv(spread + _FIRM * np.eye(5))

    def prior(points: np.ndarray) -> np.ndarray:
        off = points[:, :5] - mean
        found: np.ndarray = -0.5 * np.einsum("ni,ij,nj->n", off, precision, off)
        # A scale never works backwards.
        found -= 0.5 * (((points[:, 5:] - logs) / by) ** 2).sum(axis=1)
        backwards = points[:, 2:4] * np.sign(bench.slopes) < 0.0
        result: np.ndarray = np.where(backwards.any(axis=1), -np.inf, found)
        return result

    weight = np.maximum(np.isfinite(prior(draws)), EXACT)
    done = 0
    if held is not None and not wrong and tuple(looks[: len(held.looks)]) == held.looks:
        since = looks[len(held.looks) :]
        if held.looks and all(look.saw is not None for look in since):
            draws, weight, done = held.draws, np.ones(_COUNT), len(released) - len(since)
    for number, look in enumerate(released[done:], done + 1):
        weight = weight * _chances(draws, [look], start)[:, 0]
        weight /= weight.sum()
        if 1.0 / float((weight**2).sum()) < _ENOUGH * _COUNT or number == len(released):
            draws = _moved_on(draws, weight, released[:number], start, prior, rng)
            weight = np.ones(_COUNT)
    slipped = (_slips(draws) / 3.0 / _chances(draws, released, start)).mean(axis=0) if released else np.zeros(0)
    slips = [look for look, chance in zip(released, slipped.tolist(), strict=True) if chance > _CONTRADICTS]
    odd = wrong | {k for k, look in enumerate(looks) if any(look is one for one in slips)}
    return _summed(bench, draws, np.array(marks) - start, start, tuple(sorted(odd)), tuple(looks))


def _rows(looks: Sequence[Look], start: np.ndarray) -> np.ndarray:
    """Return the rows (m, 5) by which efforts depend on moments, slopes and bias."""
    rows = np.zeros((len(looks), 5))
    for row, look in zip(rows, looks, strict=True):
        row[:2] = look.way
        row[2:4] = np.array(look.way) * (np.array(look.marks) - start)
        row[4] = 1.0
    return rows


def _before(bench: Bench) -> tuple[np.ndarray, np.ndarray]:
    mean = np.array([0.0, 0.0, *bench.slopes, 0.0])
    u = np.array([*bench.spread, *bench.slopes_u, bench.bias])
    return mean, np.diag(np.maximum(u, ROUNDING) ** 2)


def _regressed(bench: Bench, looks: Sequence[Look], start: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return mean (5,) and covariance (5, 5) of moments, slopes and bias after effort readings."""
    mean, spread = _before(bench)
    if not looks:
        return mean, spread
    rows, values = _rows(looks, start), np.array([look.effort for look in looks])
    weighted = rows / np.array([look.u**2 for look in looks])[:, None]
    after = np.linalg.inv(np.linalg.inv(spread) + weighted.T @ rows)
    after = 0.5 * (after + after.T)
    return mean + after @ weighted.T @ (values - rows @ mean), after


def _odd_efforts(bench: Bench, looks: Sequence[Look], efforts: list[int], start: np.ndarray) -> frozenset[int]:
    """Return the effort readings that the others contradict, the worst first until none is left.

    Each is held against what all others foretell of it: its residual over their common doubt.
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
        if off[worst] < _MOST_OFF:
            break
        gone.add(worst)
    return frozenset(gone)


def _chances(draws: np.ndarray, looks: Sequence[Look], start: np.ndarray) -> np.ndarray:
    """Return the chance (n, m) of what was seen in each of m releases, that somebody slips among them."""
    torque = draws[:, :4] @ _rows(looks, start)[:, :4].T
    friction = np.exp(draws[:, 5])[:, None]
    saw = np.array([{Saw.FALLS: 1.0, Saw.BACK: -1.0, Saw.STAYS: 0.0}[look.saw or Saw.STAYS] for look in looks])
    steep = _LOGISTIC / (_STICTION * friction)
    # One that stays is one that falls neither way; whichever way it leans, the other is next to impossible.
    away = np.where(saw == 0.0, np.abs(torque), torque * saw) - friction
    falls = _logistic(away * steep)
    seen = np.where(saw == 0.0, 1.0 - falls, falls)
    return _with_slips(seen, _slips(draws))


def _slips(draws: np.ndarray) -> np.ndarray:
    """Return the chance (n, 1) that somebody saw or wrote down another thing: then it is any of the three."""
    result: np.ndarray = np.minimum(np.exp(draws[:, 6:]), _MOST_SLIPS)
    return result


def _with_slips(chance: np.ndarray, slip: np.ndarray) -> np.ndarray:
    result: np.ndarray = (1.0 - slip) * chance + slip / 3.0
    return result


def _logistic(x: np.ndarray) -> np.ndarray:
    result: np.ndarray = 1.0 / (1.0 + np.exp(-np.clip(x, -_STEEPEST, _STEEPEST)))
    return result


def _moved_on(
    draws: np.ndarray,
    weight: np.ndarray,
    looks: Sequence[Look],
    start: np.ndarray,
    prior: object,
    rng: np.random.Generator,
) -> np.ndarray:
    """Return draws of equal weight, moved on by random steps that keep their distribution (Metropolis)."""
    assert callable(prior)
    places = (np.arange(_COUNT) + rng.random()) / _COUNT
    draws = draws[np.minimum(np.searchsorted(np.cumsum(weight), places), _COUNT - 1)]
    step = np.cov(draws.T) + _FIRM * np.eye(7)
    root = np.linalg.cholesky(step) * (2.0 / math.sqrt(7.0))

    def level(points: np.ndarray) -> np.ndarray:
        result: np.ndarray = prior(points) + np.log(_chances(points, looks, start)).sum(axis=1)
        return result

    now = level(draws)
    for k in range(_ROUNDS):
        tried = draws + _STRIDES[k % len(_STRIDES)] * (rng.standard_normal(draws.shape) @ root.T)
        there = level(tried)
        taken = np.log(rng.random(_COUNT)) < there - now
        draws = np.where(taken[:, None], tried, draws)
        now = np.where(taken, there, now)
    return draws


def _summed(
    bench: Bench,
    draws: np.ndarray,
    moved: np.ndarray,
    start: np.ndarray,
    contradicts: tuple[int, ...],
    looks: tuple[Look, ...],
) -> Belief:
    now = draws[:, :2] + draws[:, 2:4] * moved
    has = np.array(bench.slopes) != 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        goals = np.where(has, start - draws[:, :2] / draws[:, 2:4], np.nan)
    centre, shape, reach = np.full(2, np.nan), np.eye(2), 0.0
    if has.any():
        # The middle half tells the size: tails of a quotient are long.
        free = np.flatnonzero(has)
        centre[free] = np.median(goals[:, free], axis=0)
        off = goals[:, free] - centre[free]
        near = np.abs(off) <= np.quantile(np.abs(off), _CORE, axis=0)
        core = off[near.all(axis=1)]
        spread = np.cov(core.T).reshape(len(free), len(free)) + _FIRM * np.eye(len(free))
        shape[np.ix_(free, free)] = spread
        far = np.einsum("ni,ij,nj->n", off, np.linalg.inv(spread), off)
        reach = float(np.quantile(far, REGION))
    peak = np.hypot(*(now * np.array(bench.sees)).T)
    inside = float((peak <= bench.window).mean())
    return Belief(now, goals, np.exp(draws[:, 5]), inside, centre, shape, reach, contradicts, looks, draws)


#: How much more a test is worth for being the first of its list; assumed.
_FIRST = 1.5
#: Bits below which no release tells enough to be worth it, and share of the window to which an effort is worth reading.
_TELLS, _FINE = 0.20, 0.30
#: Ways in which a stage is looked at once more where its scales stand before it counts as balanced.
_LAST = 3
#: Looks at the same marks, looks in all, and marks in all after which more of them tell no more; assumed.
_LOOKS, _ALL_LOOKS, _PLACES = 12, 45, 14
#: m: nobody sets a scale finer; share of draws from which a way is off.
_FINEST, _OFF = 1e-4, 0.25
#: Of the friction that is believed: how far a stage is put off its balance to see it fall.
_PROBES = (0.7, 1.2, 2.0, 3.5)


def advise(
    bench: Bench,
    belief: Belief,
    looks: Sequence[Look],
    marks: tuple[float, float],
    ways: Sequence[tuple[float, float]],
    effort: bool,
) -> Advice:
    """Return the next test or move: the test that tells most while one tells enough, else the first scale that is off.

    `ways` are the tests there are; with `effort` the motor can be read. Balanced is what is so surely, and what the
    last looks, where the scales now stand, agree with; where no look and no move tells more it is left as it is.
    """
    fresh = [k for k, look in enumerate(looks) if look.marks == marks]
    tried = [looks[k].way for k in fresh]
    worn_out = len(fresh) >= _LOOKS or len(looks) >= _ALL_LOOKS
    odd = [looks[k].way for k in fresh if k in belief.contradicts]
    again = next((way for way in odd if tried.count(way) < 2 + odd.count(way)), None)
    if again is not None and not worn_out:
        return Advice(Do.TEST, again, again=True)
    if belief.inside >= _SURE:
        agreed = [looks[k].way for k in fresh if k not in belief.contradicts]
        unseen = next((way for way in ways[:_LAST] if way not in agreed), None)
        if unseen is None:
            return Advice(Do.DONE)
        if not worn_out:
            return Advice(Do.TEST, unseen)
    best = _best_test(bench, belief, tried, ways, effort)
    if best is not None and not worn_out:
        return Advice(Do.TEST, best)
    return _move(bench, belief, looks, marks, ways, effort)


def _best_test(
    bench: Bench,
    belief: Belief,
    tried: Sequence[tuple[float, float]],
    ways: Sequence[tuple[float, float]],
    effort: bool,
) -> tuple[float, float] | None:
    """Return the test that tells most, None where none tells enough."""
    best, most = None, 0.0
    for way in ways:
        if effort:
            tells = float((belief.now @ np.array(way)).std()) / (_FINE * bench.window)
            tells = 0.0 if tried.count(way) >= 2 else tells
        else:
            # The same test again says little new.
            tells = _information(belief, belief.now, way) / _TELLS * 0.5 ** tried.count(way)
        # Level is what people try first, and the easiest to hold.
        tells *= _FIRST if way == ways[0] else 1.0
        if tells > most:
            best, most = way, tells
    return best if most >= 1.0 else None


def _move(
    bench: Bench,
    belief: Belief,
    looks: Sequence[Look],
    marks: tuple[float, float],
    ways: Sequence[tuple[float, float]],
    effort: bool,
) -> Advice:
    has = [k for k in (0, 1) if bench.slopes[k] != 0.0]
    if not has:
        return Advice(Do.LEFT, why=Left.NO_SCALE)
    share = bench.window / math.sqrt(sum(bench.sees))
    off = {k: float((np.abs(belief.now[:, k]) > share).mean()) for k in has}
    turn = [k for k in has if off[k] > _OFF] or [max(has, key=lambda k: off[k])]
    ended = None
    tired = len({look.marks for look in looks} | {marks}) > _PLACES or len(looks) >= _ALL_LOOKS
    for scale in turn:
        low, high = bench.limits[scale]
        wanted = float(np.median(belief.goals[:, scale]))
        to = min(max(wanted, low), high)
        if abs(to - marks[scale]) >= _FINEST and not tired:
            return Advice(Do.MOVE, scale=scale, to=to)
        if abs(wanted - to) > _FINEST and ended is None:
            ended = scale
    if ended is not None:
        return Advice(Do.LEFT, scale=ended, why=Left.END)
    probe = None if effort or tired else _probe(bench, belief, marks, ways, has)
    if probe is not None:
        return probe
    without = sum(bench.sees) > len(has) and off[turn[0]] <= _OFF
    return Advice(Do.LEFT, scale=turn[0], why=Left.NO_SCALE if without else Left.UNSURE)


def _probe(
    bench: Bench,
    belief: Belief,
    marks: tuple[float, float],
    ways: Sequence[tuple[float, float]],
    has: Sequence[int],
) -> Advice | None:
    """Return the move off the balance after which a release tells most, None where none tells enough.

    A stage that stays whatever is tried may stick: where it begins to fall, on either side, its middle lies between.
    """
    friction = float(np.median(belief.friction))
    best, most = None, _TELLS
    for scale in has:
        way = max(ways, key=lambda one: abs(one[scale]))
        low, high = bench.limits[scale]
        for size in _PROBES:
            for sign in (1.0, -1.0):
                to = marks[scale] + sign * size * friction / abs(bench.slopes[scale])
                if not low <= to <= high or abs(to - marks[scale]) < _FINEST:
                    continue
                moved = belief.now.copy()
                moved[:, scale] += belief.draws[:, 2 + scale] * (to - marks[scale])
                tells = _information(belief, moved, way)
                if tells > most:
                    best, most = Advice(Do.MOVE, scale=scale, to=to, probe=True), tells
    return best


def _information(belief: Belief, now: np.ndarray, way: tuple[float, float]) -> float:
    """Return how much (bits) a release that looks along `way` is expected to tell of the moments `now` (n, 2)."""
    leans = now @ np.array(way)
    steep = _LOGISTIC / (_STICTION * belief.friction)
    up, down = (_logistic((torque - belief.friction) * steep) for torque in (leans, -leans))
    each = np.stack([up, down, np.maximum(1.0 - up - down, EXACT)])
    each = _with_slips(each, _slips(belief.draws)[:, 0])
    middle = each.mean(axis=1)
    whole = -float((middle * np.log2(middle)).sum())
    return whole + float((each * np.log2(each)).sum(axis=0).mean())


def without(looks: Sequence[Look], number: int) -> tuple[Look, ...]:
    """Return the looks without one that was taken back."""
    return tuple(look for k, look in enumerate(looks) if k != number)


def with_scale(marks: tuple[float, float], scale: int, to: float) -> tuple[float, float]:
    """Return the marks with one scale set."""
    return (to, marks[1]) if scale == 0 else (marks[0], to)
