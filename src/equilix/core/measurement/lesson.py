"""What readings of a whole rig, as a timed drop or a lean, teach about where its parts are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.rounding import EXACT, SLIGHT, largest, negligible
from equilix.core.sources import common_practice
from equilix.core.uncertainty.output_model import OWN_INERTIA, OutputModel, Samples, inputs_of

#: Standard uncertainties by which a reading and the parts' figures may part before one of them is wrong.
CONTRADICTS = common_practice(3.0)
_STEPS = common_practice(20)


class Reading(Struct, frozen=True):
    """A `value` (SI) of an output, read with the standard uncertainty `u`."""

    output: str
    value: float
    u: float


class Lesson(Struct, frozen=True, eq=False):
    """How the numbers in `Samples.rows` move, `moved` (c,), by what was read; all zero where the readings contradict.

    The reading farthest from what the parts say is `parted` standard uncertainties off, and `suspect` is the placed
    part whose uncertainty moves that output most.
    """

    moved: np.ndarray
    parted: float
    suspect: str

    @property
    def contradicts(self) -> bool:
        """Whether a reading or a part's figure is wrong."""
        return self.parted > CONTRADICTS


def lesson_of(outputs: OutputModel, readings: Sequence[Reading], wider: float = 1.0) -> Lesson | None:
    """Return what readings teach; None where the rig, or one that differs so little, has no such figures.

    The parts' figures with their uncertainty and the readings with theirs are weighed against each other; the whole's
    mass stays, since that was weighed. With `wider` the parts' uncertainty counts so many times as large, as where
    readings that are sure contradict them (Birge, Phys. Rev. 40 (1932), from memory). Gauss-Newton on the
    least-squares sum: Gelb, Applied Optimal Estimation, ch. 6, from memory.
    """
    covariance = wider**2 * outputs.covariance()
    covariance[0, :] = covariance[:, 0] = 0.0
    which = [reading.output for reading in readings]
    read = np.array([reading.value for reading in readings])
    uncertainties = np.diag([reading.u**2 for reading in readings])
    start = outputs.now().rows[0]
    rows, first = start.copy(), None
    for _ in range(_STEPS):
        said, slopes = _looked_at(outputs, which, rows)
        if not (np.isfinite(said).all() and np.isfinite(slopes).all()):
            return None
        within = slopes @ covariance @ slopes.T + uncertainties
        if first is None:
            surprise = np.abs(read - said) / np.sqrt(np.diag(within))
            worst = int(surprise.argmax())
            first = Lesson(np.zeros(len(start)), float(surprise[worst]), suspect(outputs, which[worst]))
            if first.contradicts:
                # One of them is wrong: nothing is learned until it is known which.
                return first
        step = start + covariance @ slopes.T @ np.linalg.solve(within, read - said + slopes @ (rows - start))
        done = negligible(largest(step - rows), EXACT)
        rows = step
        if done:
            break
    assert first is not None
    return Lesson(rows - start, first.parted, first.suspect)


def suspect(outputs: OutputModel, output: str) -> str:
    """Return the placed part whose uncertainty moves an output most: the likeliest cause of a surprise."""
    analysis = outputs.analysis
    inputs, uncertainties = inputs_of(analysis, outputs.slide), analysis.assembly.uncertainties
    slopes = outputs.gradient(output)
    by_mass = (uncertainties.mass**2 + (uncertainties.gain**2).sum(axis=0)) * (inputs.mass @ slopes) ** 2
    by_cg = ((uncertainties.cg * (inputs.cg @ slopes)) ** 2).sum(axis=1)
    by_own = (OWN_INERTIA * inputs.own @ slopes) ** 2
    return analysis.build.parts[int((by_mass + by_cg + by_own).argmax())].id


def _looked_at(outputs: OutputModel, which: Sequence[str], rows: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return outputs (r,) and their derivatives (r, c) at `rows` (c,)."""
    step, n = SLIGHT, len(rows)
    table = np.concatenate([rows[None, :], rows + step * np.eye(n), rows - step * np.eye(n)])
    samples = Samples.of(table)
    values = np.array([outputs.values(output, samples) for output in which])
    return values[:, 0], (values[:, 1 : 1 + n] - values[:, 1 + n :]) / (2.0 * step)
