"""Tiredness over takes and rests: the three-compartment model in closed form.

Resting, active and tired muscle units sum to 1 (Xia and Frey-Law, J. Biomech. 41 (2008) 3046); F and R by joint
from Frey-Law, Looft and Heitsman (2012), the rest factor r from Looft et al. (2018); from memory. With a fast
controller the active share equals the target f while there are units left, so that in a take
``M' = F f - R M`` and in a rest ``M' = -r R M`` for the tired share M: each block is one exponential.
Once too few are left, all that are left work: ``M' = F (1 - M) - R M``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.operator.strength import BodyJoint
from equilix.core.rounding import ROUNDING, lacking
from equilix.core.sources import common_practice, from_memory

#: 1/s: fatigue and recovery. Hand and trunk stand for wrist, neck and hip.
RATES = from_memory(
    {
        BodyJoint.SHOULDER: (0.0182, 0.00168),
        BodyJoint.ELBOW: (0.00912, 0.00094),
        BodyJoint.HAND: (0.0098, 0.00064),
        BodyJoint.WRIST: (0.0098, 0.00064),
        BodyJoint.LOW_BACK: (0.00755, 0.00075),
        BodyJoint.NECK: (0.00755, 0.00075),
        BodyJoint.HIP: (0.00755, 0.00075),
    },
    "Frey-Law, Looft and Heitsman (2012)",
)
#: How many times faster than under load a joint recovers at rest.
REST_FACTOR = from_memory(
    {joint: 30.0 if joint in (BodyJoint.SHOULDER, BodyJoint.HAND, BodyJoint.WRIST) else 15.0 for joint in BodyJoint},
    "Looft et al. (2018)",
)
#: Share of the time to failure up to which a take is called safe.
SAFE_SHARE = common_practice(0.5)


def time_to_failure(joint: BodyJoint, share: float, tired: float = 0.0) -> float:
    """Return the time (s) until the capacity left, 1 - M, falls to `share`, from a tired share `tired`.

    Closed form ``t = -ln((M_end - M_inf)/(M_0 - M_inf))/R`` with M_inf = F f/R; endless below the critical share.
    """
    if lacking(share):
        return math.inf
    fatigue, recovery = RATES[joint]
    settles, ends = fatigue * share / recovery, 1.0 - share
    if tired >= ends:
        return 0.0
    if settles <= ends:
        return math.inf
    return -math.log((ends - settles) / (tired - settles)) / recovery


class Block(Struct, frozen=True):
    """A take of `take` seconds and the rest after it."""

    take: float
    rest: float


class Reserve(Struct, frozen=True, eq=False):
    """What is left of a joint's capacity at `time` (n,) (s): `left` (n,) with the rest factor, `least` (n,) without.

    `fails` is when the take in hand can't be held any more (s), None if that never comes.
    """

    joint: BodyJoint
    time: np.ndarray
    left: np.ndarray
    least: np.ndarray
    fails: float | None
    fails_least: float | None


def reserve_over(joint: BodyJoint, share: float, blocks: Sequence[Block], step: float = 1.0) -> Reserve:
    """Return a joint's reserve over takes at `share` of capacity and rests, every `step` seconds."""
    left, fails = _run(joint, share, blocks, step, REST_FACTOR[joint])
    least, fails_least = _run(joint, share, blocks, step, 1.0)
    return Reserve(joint, np.arange(len(left)) * step, left, least, fails, fails_least)


def _run(
    joint: BodyJoint, share: float, blocks: Sequence[Block], step: float, factor: float
) -> tuple[np.ndarray, float | None]:
    """Return 1 - M on the grid of `step`, and when the load can't be held any more (s)."""
    fatigue, recovery = RATES[joint]
    pieces: list[tuple[float, float, float, float]] = []  # begins, tired then, rate, settles at
    now, m = 0.0, 0.0
    fails: float | None = None

    def go(length: float, rate: float, settles: float) -> None:
        nonlocal now, m
        pieces.append((now, m, rate, settles))
        m = settles + (m - settles) * math.exp(-rate * length)
        now += length

    for block in blocks:
        end = time_to_failure(joint, share, m)
        held = min(end, block.take)
        go(held, recovery, fatigue * share / recovery)
        if end < block.take:
            if fails is None:
                fails = now
            go(block.take - held, fatigue + recovery, fatigue / (fatigue + recovery))
        go(block.rest, factor * recovery, 0.0)
    grid = np.arange(math.floor(now / step + ROUNDING) + 1) * step
    if not pieces:
        return np.ones(len(grid)), fails
    begin, tired, rate, settles = np.array(pieces).T
    at = np.searchsorted(begin, grid + ROUNDING, side="right") - 1
    ends = settles[at]
    return 1.0 - (ends + (tired[at] - ends) * np.exp(-rate[at] * (grid - begin[at]))), fails


def rest_needed(joint: BodyJoint, share: float, take: float, factor: float | None = None) -> float:
    """Return the rest (s) after which a take as long can be repeated for ever with half its capacity in hand.

    Solved for the tired share that the cycle settles at: a take may end no more tired than half-way from
    fresh to failure.
    """
    fatigue, recovery = RATES[joint]
    rate = recovery * (REST_FACTOR[joint] if factor is None else factor)
    settles, allowed = fatigue * share / recovery, SAFE_SHARE * (1.0 - share)
    decay = math.exp(-recovery * take)
    # Begin: m0; end of take: settles + (m0 - settles) decay <= allowed.
    begin = settles + (allowed - settles) / decay
    if begin >= allowed:
        return 0.0
    if lacking(begin):
        return math.inf
    return math.log(allowed / begin) / rate
