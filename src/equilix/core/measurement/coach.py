"""Balancing one axis of a gimbal by trying: what releases and motor efforts say, and what to do next.

Nothing need be known of the parts. At scale settings q the torque about the axis is ``k . (t + s q)``: t (2,) N m are
the moments along the two ways beside the axis as it stood at first, s (2,) N/m how a scale changes them, k (2,) the way
in which a test looks, as (cos T, sin T) of a tilt by T. Released, a stage falls the way of a torque above the bearing's
friction and stays below it. A motor's effort shows the torque itself, off by a bias that is the same at every angle.
Friction, bias, what a scale does and how often somebody errs are unknowns like the moments: each has a wide prior, and
what was seen tells more of it.

All uncertainty is in the draws: weighted by what was seen, thinned and moved on when few carry the weight (sequential
Monte Carlo with resample-move: Gilks and Berzuini, J. R. Statist. Soc. B 63 (2001), from memory). Efforts enter first
and exactly, as linear regression with a normal prior (Gelman et al., Bayesian Data Analysis, ch. 14).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.measurement.belief import (
    _SURE,
    LOGISTIC,
    STICTION,
    CoachBelief,
    CoachModel,
    Observation,
    logistic,
    slips,
    with_slips,
)
from equilix.core.rounding import EXACT
from equilix.core.sources import assumed


class Action(StrEnum):
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


class CoachAdvice(Struct, frozen=True):
    """`way` (2,) of the test that tells most, or the number of the `scale` and where `to` (m) set it.

    With `again` that test was seen at these marks and does not go with the others; with `probe` the scale is put off on
    purpose, to see where the stage falls. `why` says why an axis is left as it is.
    """

    do: Action
    way: tuple[float, float] = (1.0, 0.0)
    scale: int = 0
    to: float = 0.0
    again: bool = False
    probe: bool = False
    why: Left | None = None


#: How much more a test is worth for being the first of its list.
_FIRST = assumed(1.5)
#: Bits below which no release tells enough to be worth it, and share of the window to which an effort is worth reading.
_TELLS, _FINE = 0.20, 0.30
#: Ways in which a stage is looked at once more where its scales stand before it counts as balanced.
_LAST = 3
#: Looks at the same marks, looks in all, and marks in all after which more of them tell no more.
_LOOKS, _ALL_LOOKS, _PLACES = assumed((12, 45, 14))
#: m: nobody sets a scale finer; share of draws from which a way is off.
_FINEST, _OFF = 1e-4, 0.25
#: Of the friction that is believed: how far a stage is put off its balance to see it fall.
_PROBES = (0.7, 1.2, 2.0, 3.5)


def advise(
    bench: CoachModel,
    belief: CoachBelief,
    looks: Sequence[Observation],
    marks: tuple[float, float],
    ways: Sequence[tuple[float, float]],
    effort: bool,
) -> CoachAdvice:
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
        return CoachAdvice(Action.TEST, again, again=True)
    if belief.inside >= _SURE:
        agreed = [looks[k].way for k in fresh if k not in belief.contradicts]
        unseen = next((way for way in ways[:_LAST] if way not in agreed), None)
        if unseen is None:
            return CoachAdvice(Action.DONE)
        if not worn_out:
            return CoachAdvice(Action.TEST, unseen)
    best = _best_test(bench, belief, tried, ways, effort)
    if best is not None and not worn_out:
        return CoachAdvice(Action.TEST, best)
    return _move(bench, belief, looks, marks, ways, effort)


def _best_test(
    bench: CoachModel,
    belief: CoachBelief,
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
    bench: CoachModel,
    belief: CoachBelief,
    looks: Sequence[Observation],
    marks: tuple[float, float],
    ways: Sequence[tuple[float, float]],
    effort: bool,
) -> CoachAdvice:
    has = [k for k in (0, 1) if bench.slopes[k] != 0.0]
    if not has:
        return CoachAdvice(Action.LEFT, why=Left.NO_SCALE)
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
            return CoachAdvice(Action.MOVE, scale=scale, to=to)
        if abs(wanted - to) > _FINEST and ended is None:
            ended = scale
    if ended is not None:
        return CoachAdvice(Action.LEFT, scale=ended, why=Left.END)
    probe = None if effort or tired else _probe(bench, belief, marks, ways, has)
    if probe is not None:
        return probe
    without = sum(bench.sees) > len(has) and off[turn[0]] <= _OFF
    return CoachAdvice(Action.LEFT, scale=turn[0], why=Left.NO_SCALE if without else Left.UNSURE)


def _probe(
    bench: CoachModel,
    belief: CoachBelief,
    marks: tuple[float, float],
    ways: Sequence[tuple[float, float]],
    has: Sequence[int],
) -> CoachAdvice | None:
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
                moved[:, scale] += belief.samples[:, 2 + scale] * (to - marks[scale])
                tells = _information(belief, moved, way)
                if tells > most:
                    best, most = CoachAdvice(Action.MOVE, scale=scale, to=to, probe=True), tells
    return best


def _information(belief: CoachBelief, now: np.ndarray, way: tuple[float, float]) -> float:
    """Return how much (bits) a release that looks along `way` is expected to tell of the moments `now` (n, 2)."""
    leans = now @ np.array(way)
    steep = LOGISTIC / (STICTION * belief.friction)
    up, down = (logistic((torque - belief.friction) * steep) for torque in (leans, -leans))
    each = np.stack([up, down, np.maximum(1.0 - up - down, EXACT)])
    each = with_slips(each, slips(belief.samples)[:, 0])
    middle = each.mean(axis=1)
    whole = -float((middle * np.log2(middle)).sum())
    return whole + float((each * np.log2(each)).sum(axis=0).mean())


def without(looks: Sequence[Observation], number: int) -> tuple[Observation, ...]:
    """Return the looks without one that was taken back."""
    return tuple(look for k, look in enumerate(looks) if k != number)


def with_scale(marks: tuple[float, float], scale: int, to: float) -> tuple[float, float]:
    """Return the marks with one scale set."""
    return (to, marks[1]) if scale == 0 else (marks[0], to)
