"""How the coach does on hidden gimbals: moves until it says that an axis is balanced, and whether it is.

    .venv/bin/python benchmarks/coach.py --seed 1 --count 200
    .venv/bin/python benchmarks/coach.py --unfair

Each hidden tilt stage has a mass, offsets, a bearing that sticks by another friction each time, an effort reading with
bias and noise; the coach knows none of them. Run with releases alone and with efforts: on stages like those that are
built, and on stages drawn as wide as the coach believes before its first test, where people slip as often as it takes
for granted. On the latter a region of 95 % has to hold 95 % (simulation-based calibration: Talts et al., 2018, from
memory); the former lie closer together than anybody can know beforehand.

With --unfair the stages do what no coach is told: people write down another thing in 15 of 100 looks, motors are off by
0.10 N m, bearings stick six times as hard. There it may say that it can't tell, and must not say "balanced" wrongly.
"""

from __future__ import annotations

import argparse
import math
import time
from collections.abc import Sequence
from typing import Any

import numpy as np

from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.measurement.belief import CoachModel, Observation, Response, believe
from equilix.core.measurement.coach import Action, CoachAdvice, advise, with_scale

#: Attitudes of the tests: level, and lens down and up by 20, 45 and 70 degrees.
WAYS = tuple((math.cos(math.radians(a)), math.sin(math.radians(a))) for a in (0, 45, -45, 20, -20, 70, -70))
MOST_MOVES, MOST_TESTS = 20, 60
#: Chance that somebody saw or wrote down another thing, as the coach takes it for granted.
SLIP = 0.03
#: N m: spread of a wrong effort.
WRONG = 0.30


class Hidden:
    """A tilt stage nobody has weighed: moments (N m) at the start, what the scales do (N/m), friction, bias, noise."""

    wrong, off, sticks = 0.0, 0.0, 1.0

    def __init__(self, rng: np.random.Generator) -> None:
        mass = float(rng.uniform(0.9, 4.0))
        self.slopes = STANDARD_GRAVITY * mass * rng.uniform(0.85, 1.0, 2)
        self.moments = STANDARD_GRAVITY * mass * np.clip(rng.normal(0.0, (0.014, 0.009)), -0.04, 0.025)
        self.friction = self.sticks * float(rng.uniform(0.006, 0.022))
        # What an instrument says of its own noise is true of it.
        self.bias, self.noise = float(rng.normal(0.0, 0.02)), float(rng.uniform(0.005, 0.02))
        self.bias += self.off * float(rng.choice([-1.0, 1.0])) if self.off else 0.0
        self.rng = rng

    def now(self, marks: tuple[float, float]) -> np.ndarray:
        result: np.ndarray = self.moments + self.slopes * np.array(marks)
        return result

    def release(self, way: tuple[float, float], marks: tuple[float, float]) -> Observation:
        torque = float(self.now(marks) @ np.array(way))
        friction = self.friction * (1.0 + 0.15 * float(self.rng.standard_normal()))
        saw = Response.FALLS if torque > friction else Response.BACK if torque < -friction else Response.STAYS
        if self.rng.random() < self.wrong:
            saw = [one for one in Response if one is not saw][int(self.rng.integers(2))]
        return Observation(way, marks, saw)

    def read(self, way: tuple[float, float], marks: tuple[float, float]) -> Observation:
        torque = float(self.now(marks) @ np.array(way)) + self.bias + self.noise * float(self.rng.standard_normal())
        if self.rng.random() < self.wrong:
            # Another reading than what was asked for.
            torque = float(self.rng.normal(0.0, WRONG))
        return Observation(way, marks, effort=torque, u=self.noise)


class Mistaken(Hidden):
    """Of a hundred looks fifteen are written down wrongly."""

    wrong = 0.15


class Biased(Hidden):
    """Its motors are off by 0.10 N m."""

    off = 0.10


class Sticking(Hidden):
    """Its bearing sticks six times as hard as usual."""

    sticks = 6.0


class Believed(Hidden):
    """A stage drawn from what the coach believes of any stage; somebody slips in three of a hundred releases."""

    def __init__(self, rng: np.random.Generator) -> None:
        super().__init__(rng)
        bench = CoachModel()
        self.slopes = np.full(2, -1.0)
        while (self.slopes <= 0.0).any():
            self.slopes = rng.normal(bench.slopes, bench.slopes_u)
        self.moments = rng.normal(0.0, bench.spread)
        self.friction = bench.friction * bench.friction_by ** float(rng.standard_normal())
        self.bias = float(rng.normal(0.0, bench.bias))

    def release(self, way: tuple[float, float], marks: tuple[float, float]) -> Observation:
        look = super().release(way, marks)
        if self.rng.random() < SLIP:
            look = Observation(way, marks, list(Response)[int(self.rng.integers(3))])
        return look


def coached(hidden: Hidden, bench: CoachModel, effort: bool, seed: int) -> tuple[int, int, bool, bool, bool, float]:
    """Return moves, tests, whether the coach ended, whether it is balanced, whether its region holds the truth, and
    the longest step (s)."""
    marks = (0.0, 0.0)
    looks: list[Any] = []
    moves = tests = 0
    longest, belief = 0.0, None
    while True:
        before = time.perf_counter()
        belief = believe(bench, looks, marks, seed + len(looks), belief)
        advice: CoachAdvice = advise(bench, belief, looks, marks, WAYS, effort)
        longest = max(longest, time.perf_counter() - before)
        if advice.do in (Action.DONE, Action.LEFT) or moves > MOST_MOVES or tests > MOST_TESTS:
            break
        if advice.do is Action.MOVE:
            # Nobody sets a scale finer than half a tenth.
            marks = with_scale(marks, advice.scale, round(advice.to, 4))
            moves += 1
        else:
            looks.append((hidden.read if effort else hidden.release)(advice.way, marks))
            tests += 1
    inside = float(np.hypot(*hidden.now(marks))) <= bench.window
    truth = -hidden.moments / hidden.slopes
    return moves, tests, advice.do is Action.DONE, inside, belief.holds(truth), longest


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--unfair", action="store_true")
    arguments = parser.parse_args()
    kinds: tuple[tuple[Any, str], ...] = ((Hidden, "hidden tilt stages"), (Believed, "stages drawn as believed"))
    if arguments.unfair:
        kinds = ((Mistaken, "with 15 % wrong"), (Biased, "with a bias of 0.10 N m"), (Sticking, "that stick by six"))
    for effort in (True, False):
        for kind, words in kinds:
            rng = np.random.default_rng(arguments.seed)
            found = [coached(kind(rng), CoachModel(), effort, 1000 * k) for k in range(arguments.count)]
            told(f"{'motor effort' if effort else 'releases alone'}, {arguments.count} {words}", found)


def told(title: str, found: Sequence[tuple[int, int, bool, bool, bool, float]]) -> None:
    """Print what came of some stages."""
    moves, tests = (np.array([one[k] for one in found]) for k in (0, 1))
    ended, inside, holds = (np.array([one[k] for one in found]) for k in (2, 3, 4))
    good = inside & ended & (moves <= 6)
    print(f"{title}:")
    print(f"  inside the window within 6 moves {100 * good.mean():.1f} % (wanted: 95)")
    print(f"  said to be balanced {100 * ended.mean():.1f} %, of these truly {100 * inside[ended].mean():.1f} %")
    wrongly = 100 * (ended & ~inside).mean()
    print(f"  said to be balanced and is not {wrongly:.1f} % of all (wanted: at most 2 of unfair ones)")
    print(f"  truth inside the 95 % region {100 * holds.mean():.1f} % (wanted: 92 to 98)")
    print(f"  moves {np.median(moves):.0f} in the middle, {moves.max()} at most; tests {np.median(tests):.0f}")
    steps = np.array([one[5] for one in found])
    print(
        f"  longest step {1e3 * np.median(steps):.0f} ms in the middle, {1e3 * steps.max():.0f} ms at most (wanted: 50)"
    )


if __name__ == "__main__":
    main()
