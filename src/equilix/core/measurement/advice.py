"""What to weigh next: the measurement that takes most uncertainty off the figure that is looked at.

A measurement of a linear form a of the doubtful figures with standard uncertainty r, made while their
covariance is P, leaves ``P - P a a'P/(a'P a + r^2)``: the least-squares update, as in Kalman,
Journal of Basic Engineering 82 (1960). A figure with gradient g so loses ``(g'P a)^2/(a'P a + r^2)``.
"""

from __future__ import annotations

import math
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.kit.records import Instrument
from equilix.core.measurement.methods import two_supports_uncertainty
from equilix.core.rounding import EXACT
from equilix.core.sources import common_practice
from equilix.core.uncertainty.output_model import OutputModel, inputs_of

#: A measurement that leaves more than this share of a figure's uncertainty changes nothing.
WORTHWHILE = common_practice(0.97)
#: Measurements that are listed at most: more than anybody does at once.
MOST_LISTED = common_practice(6)

#: m: shortest part on two supports, and what a rig is longer than the middles of its parts; supports stand so many
#: times farther apart than a part is long.
_SHORTEST, _BEYOND, _FARTHER = common_practice((0.08, 0.2, 1.3))


class Task(StrEnum):
    """A thing to measure."""

    PART_MASS = "weigh the part"
    PART_CG = "part on two supports"
    RIG_MASS = "weigh the whole rig"
    RIG_CG = "whole rig on two supports"


#: min that each takes an assistant.
MINUTES = common_practice({Task.PART_MASS: 1, Task.PART_CG: 3, Task.RIG_MASS: 1, Task.RIG_CG: 4})


class Advice(Struct, frozen=True):
    """One measurement: of part number `part` (None: the whole rig), along its own `axis` if of a CG.

    `before` and `after` are the figure's standard uncertainty if done in the listed order, `share` what
    it takes off the first variance.
    """

    task: Task
    part: int | None
    axis: int
    before: float
    after: float
    share: float


def weigh_next(
    analysis: Analysis, outputs: OutputModel, output: str, scale: Instrument, most: int = MOST_LISTED
) -> tuple[Advice, ...]:
    """Return the measurements with `scale` that help the `output` most, each after those before it.

    Greedy: first what takes most off the variance for each minute it takes, then the same after it. It
    ends when nothing left is worthwhile.
    """
    problem = _Problem(analysis, outputs, output, scale)
    found: list[Advice] = []
    covariance = problem.covariance
    first = problem.uncertainty(covariance)
    before = first
    done = np.zeros(len(problem.tasks), dtype=bool)
    while len(found) < most and before > EXACT:
        reached = problem.forms @ covariance
        variance = np.einsum("ij,ij->i", reached, problem.forms) + problem.noise**2
        gains = (reached @ problem.gradient) ** 2 / variance
        worthwhile = (gains > (1.0 - WORTHWHILE**2) * before**2) & ~done
        if not worthwhile.any():
            break
        best = int(np.where(worthwhile, gains / problem.minutes, 0.0).argmax())
        after = math.sqrt(max(before**2 - float(gains[best]), 0.0))
        done[best] = True
        task, part, axis = problem.tasks[best]
        found.append(Advice(task, part, axis, before, after, (before**2 - after**2) / first**2))
        covariance = covariance - np.outer(reached[best], reached[best]) / variance[best]
        before = after
    return tuple(found)


class _Problem:
    """Doubtful figures: n masses, then n CGs of three axes each."""

    def __init__(self, analysis: Analysis, outputs: OutputModel, output: str, scale: Instrument) -> None:
        assembly, body = analysis.assembly, analysis.body
        assert body is not None
        n = len(assembly.parts)
        uncertainties = assembly.uncertainties
        self.covariance = np.diag(np.concatenate([uncertainties.mass**2, uncertainties.cg.ravel() ** 2]))
        self.covariance[:n, :n] += uncertainties.gain.T @ uncertainties.gain
        inputs = inputs_of(analysis, outputs.slide)
        forms = np.concatenate([inputs.mass, inputs.cg.reshape(-1, inputs.mass.shape[1])]).T
        self.gradient = outputs.gradient(output) @ forms
        rows: list[np.ndarray] = []
        noise: list[float] = []
        self.tasks: list[tuple[Task, int | None, int]] = []
        for i, part in enumerate(assembly.parts):
            row = np.zeros(4 * n)
            row[i] = 1.0
            rows.append(row)
            noise.append(_mass_noise(scale, float(assembly.mass[i])))
            self.tasks.append((Task.PART_MASS, i, 0))
            if part.mass and part.outline is not None:
                axis = int(np.abs(self.gradient[n + 3 * i : n + 3 * i + 3] * uncertainties.cg[i]).argmax())
                row = np.zeros(4 * n)
                row[n + 3 * i + axis] = 1.0
                rows.append(row)
                noise.append(_place_noise(scale, part.mass, part.outline.size[axis]))
                self.tasks.append((Task.PART_CG, i, axis))
        whole = np.zeros(4 * n)
        whole[:n] = 1.0
        rows.append(whole)
        noise.append(_mass_noise(scale, body.mass))
        self.tasks.append((Task.RIG_MASS, None, 0))
        rows.append(forms[1])
        length = float(np.ptp(analysis.positions.centre[:, 0])) + _BEYOND
        noise.append(_place_noise(scale, body.mass, length))
        self.tasks.append((Task.RIG_CG, None, 0))
        self.minutes = np.array([float(MINUTES[task]) for task, _, _ in self.tasks])
        self.forms = np.array(rows)
        self.noise = np.array(noise)

    def uncertainty(self, covariance: np.ndarray) -> float:
        """Return the figure's standard uncertainty."""
        return math.sqrt(max(float(self.gradient @ covariance @ self.gradient), 0.0))


def _mass_noise(scale: Instrument, mass: float) -> float:
    return math.hypot(scale.own_uncertainty(), mass * scale.gain_uncertainty)


def _place_noise(scale: Instrument, mass: float, length: float) -> float:
    """Return the uncertainty (m) of a CG on two supports a little farther apart than the part is long."""
    half = max(mass, scale.step) / 2.0
    return two_supports_uncertainty(half, half, max(length, _SHORTEST) * _FARTHER, scale.own_uncertainty())
