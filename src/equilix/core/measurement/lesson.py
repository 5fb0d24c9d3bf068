"""What readings of a whole rig, as a timed drop or a lean, teach about where its parts are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.doubt.gauges import OWN_INERTIA, Draws, Gauges, inputs_of
from equilix.core.rounding import EXACT, SLIGHT, largest, negligible

#: Standard uncertainties by which a reading and the parts' figures may part before one of them is wrong; common
#: practice.
CONTRADICTS = 3.0
_STEPS = 20


class Reading(Struct, frozen=True):
    """A `value` (SI) of a gauge, read with the standard uncertainty `u`."""

    gauge: str
    value: float
    u: float


class Lesson(Struct, frozen=True, eq=False):
    """How the numbers in `Draws.rows` move, `moved` (c,), by what was read; all zero where the readings contradict.

    The reading farthest from what the parts say is `parted` standard uncertainties off, and `suspect` is the placed
    part whose doubt moves that gauge most.
    """

    moved: np.ndarray
    parted: float
    suspect: str

    @property
    def contradicts(self) -> bool:
        """Whether a reading or a part's figure is wrong."""
        return self.parted > CONTRADICTS


def lesson_of(gauges: Gauges, readings: Sequence[Reading], wider: float = 1.0) -> Lesson | None:
    """Return what readings teach; None where the rig, or one that differs so little, has no such figures.

    The parts' figures with their doubt and the readings with theirs are weighed against each other; the whole's mass
    stays, since that was weighed. With `wider` the parts' doubt counts so many times as large, as where readings that
    are sure contradict them (Birge, Phys. Rev. 40 (1932), from memory). Gauss-Newton on the least-squares sum: Gelb,
    Applied Optimal Estimation, ch. 6, from memory.
    """
    covariance = wider**2 * gauges.covariance()
    covariance[0, :] = covariance[:, 0] = 0.0
    which = [reading.gauge for reading in readings]
    read = np.array([reading.value for reading in readings])
    doubts = np.diag([reading.u**2 for reading in readings])
    start = gauges.now().rows[0]
    rows, first = start.copy(), None
    for _ in range(_STEPS):
        said, slopes = _looked_at(gauges, which, rows)
        if not (np.isfinite(said).all() and np.isfinite(slopes).all()):
            return None
        within = slopes @ covariance @ slopes.T + doubts
        if first is None:
            surprise = np.abs(read - said) / np.sqrt(np.diag(within))
            worst = int(surprise.argmax())
            first = Lesson(np.zeros(len(start)), float(surprise[worst]), suspect(gauges, which[worst]))
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


def suspect(gauges: Gauges, gauge: str) -> str:
    """Return the placed part whose doubt moves a gauge most: the likeliest cause of a surprise."""
    analysis = gauges.analysis
    inputs, doubts = inputs_of(analysis, gauges.slide), analysis.assembly.doubts
    slopes = gauges.gradient(gauge)
    by_mass = (doubts.mass**2 + (doubts.gain**2).sum(axis=0)) * (inputs.mass @ slopes) ** 2
    by_cg = ((doubts.cg * (inputs.cg @ slopes)) ** 2).sum(axis=1)
    by_own = (OWN_INERTIA * inputs.own @ slopes) ** 2
    return analysis.build.parts[int((by_mass + by_cg + by_own).argmax())].id


def _looked_at(gauges: Gauges, which: Sequence[str], rows: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return gauges (r,) and their derivatives (r, c) at `rows` (c,)."""
    step, n = SLIGHT, len(rows)
    table = np.concatenate([rows[None, :], rows + step * np.eye(n), rows - step * np.eye(n)])
    draws = Draws.of(table)
    values = np.array([gauges.values(gauge, draws) for gauge in which])
    return values[:, 0], (values[:, 1 : 1 + n] - values[:, 1 + n :]) / (2.0 * step)
