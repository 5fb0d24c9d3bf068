"""Brings what is believed of each part and what scales said of parts together into one consistent set.

Weighted least squares over part values and scale gains: every belief and every measurement is one
observation with its standard uncertainty. Outliers are sought by normalised residuals.

Sources: JCGM 100:2008 (GUM), H.3 and clause 8; Baarda, A testing procedure for use in geodetic
networks (1968), for w-tests and the least error that can be found (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import StrEnum

import numpy as np
from msgspec import Struct

from equilix.core.errors import MeasurementError
from equilix.core.kit.parts import Part
from equilix.core.kit.records import CG_QUANTITIES, Instrument, Measurement, Quantity, Sensed
from equilix.core.measurement.figures import record_of
from equilix.core.rounding import EXACT, ROUNDING, SLIGHT, lacking, largest, negligible
from equilix.core.sources import assumed, common_practice, from_memory

#: A normalised residual above this names a wrong value; one in 370 does so by chance (normal distribution).
SUSPICIOUS = common_practice(3.0)
#: Observations whose residuals are this alike can't be told apart.
ALIKE = 0.98
#: Below this share of its own variance an observation's residual can't show anything.
UNTESTABLE = 1e-4
#: A disagreement with less than this chance is one.
UNLIKELY = common_practice(0.01)
#: Found with 80 % power at 0.1 % false alarms.
NONCENTRALITY = from_memory(4.13, "Non-centrality of Baarda's test (1968)")
#: kg, times the mass and m: uncertainties of a part that only the measurements know, so wide that they decide.
_WILD_MASS, _WILD, _WILD_PLACE = assumed((0.1, 10.0, 0.2))
#: Cosine from which an axis of a part lies along one of the rig's.
_ALONG = 0.999


class Belief(Struct, frozen=True):
    """What was known of a part's figure before the measurements: `value` and standard uncertainty `u` in SI."""

    part_id: str
    quantity: Quantity
    value: float
    u: float


class Adjusted(Struct, frozen=True):
    """A figure before and after: `belief`, what single measurements of it alone say, and the reconciled value.

    `normalised` is the belief's residual over its own standard deviation, 0 where it can't be tested;
    `error` estimates by how much the true value differs from the belief if nothing else is wrong, and
    `hidden` is the least such error that would be noticed.
    """

    belief: Belief
    measured: tuple[float, float] | None
    value: float
    u: float
    normalised: float
    error: float
    hidden: float


class Fit(Struct, frozen=True):
    """How one measurement fits: what the reconciled values `expect` of it, and its residual as in `Adjusted`."""

    measurement: Measurement
    expected: float
    normalised: float
    error: float
    hidden: float


class Agreement(StrEnum):
    NOTHING = "nothing measured"
    AGREES = "agrees"
    DISAGREES = "disagrees"
    CANNOT_TELL_WHICH = "disagrees, cannot tell which"


class Reconciled(Struct, frozen=True, eq=False):
    """The adjusted figures, the fits of the measurements and the verdict on them.

    `suspects` index `figures` (first) or `fits` (after them), the most suspicious first; with more than
    one the measurements can't tell these apart. `covariance` (p, p) belongs to `figures` in their order.
    `gains` are the scales' estimated gain errors and standard uncertainties by instrument id.
    """

    figures: tuple[Adjusted, ...]
    fits: tuple[Fit, ...]
    chi_square: float
    redundancy: int
    chance: float
    agreement: Agreement
    suspects: tuple[int, ...]
    covariance: np.ndarray
    gains: dict[str, tuple[float, float]]


def belief_of(part: Part, quantity: Quantity, sources: frozenset[str]) -> Belief:
    """Return what is known of a figure from elsewhere than the measurements named in `sources`.

    The newest record that owes nothing to them; the present value if it has no record of its own. A part
    known only by these measurements is believed to be like a wild guess, so that they decide alone.
    """
    records = [record for record in part.records if record.quantity is quantity]
    for record in reversed(records):
        if record.value is not None and not sources.intersection(record.stamp.source):
            return Belief(part.id, quantity, record.value, record.uncertainty)
    now = record_of(part, quantity)
    if records or now.value is None:
        wild = max(now.value or 0.0, _WILD_MASS) * _WILD if quantity is Quantity.MASS else _WILD_PLACE
        return Belief(part.id, quantity, 1.0 if now.value is None else now.value, wild)
    return Belief(part.id, quantity, now.value, max(now.uncertainty, SLIGHT))


def reconcile(
    kit: Mapping[str, Part], measurements: Sequence[Measurement], instruments: Mapping[str, Instrument]
) -> Reconciled:
    """Return the values that agree best with all beliefs and all measurements that are used.

    Raises
    ------
    MeasurementError
        If a measurement is of a part that the `kit` lacks.
    """
    used = [m for m in measurements if m.used]
    for measurement in used:
        for part_id in measurement.part_ids:
            if part_id not in kit:
                raise MeasurementError(f"A measurement of {measurement.date or 'no date'} is of a part that is gone.")
    problem = _Problem(kit, used, instruments)
    return problem.solve()


class _Problem:
    """Unknowns: masses of all measured parts, their CG along sensed axes, and the gain of each scale."""

    def __init__(
        self, kit: Mapping[str, Part], used: Sequence[Measurement], instruments: Mapping[str, Instrument]
    ) -> None:
        self.used = used
        sources = frozenset(m.id for m in used)
        ids = list(dict.fromkeys(part_id for m in used for part_id in m.part_ids))
        wanted: list[tuple[str, Quantity]] = [(part_id, Quantity.MASS) for part_id in ids]
        for m in used:
            if m.sensed is Sensed.CG:
                for member in m.members:
                    for axis, share in zip(CG_QUANTITIES, member.axis, strict=True):
                        if not negligible(share) and (member.part_id, axis) not in wanted:
                            wanted.append((member.part_id, axis))
        self.beliefs = [belief_of(kit[part_id], quantity, sources) for part_id, quantity in wanted]
        self.column = {key: i for i, key in enumerate(wanted)}
        self.centres = {part_id: kit[part_id].centre for part_id in ids}
        self.scales = [
            instruments[i]
            for i in dict.fromkeys(m.instrument for m in used if m.sensed is Sensed.MASS)
            if i in instruments and not lacking(instruments[i].accuracy)
        ]
        self.gain_column = {scale.id: len(wanted) + k for k, scale in enumerate(self.scales)}
        self.count = len(wanted) + len(self.scales)

    def solve(self) -> Reconciled:
        p, m = self.count, len(self.used)
        prior = np.array([b.value for b in self.beliefs] + [0.0] * len(self.scales))
        prior_u = np.array([b.u for b in self.beliefs] + [scale.gain_uncertainty for scale in self.scales])
        values = np.array([measurement.value for measurement in self.used])
        u = np.maximum([measurement.u for measurement in self.used], ROUNDING)
        x = prior.copy()
        expected, jacobian = self._predict(x)
        # Gauss-Newton: masses enter linearly, CGs as quotients; a few rounds settle to rounding.
        for _ in range(20):
            rows = np.vstack([np.diag(1.0 / prior_u), jacobian / u[:, None]])
            rest = np.concatenate([(prior - x) / prior_u, (values - expected) / u])
            step = np.linalg.lstsq(rows, rest, rcond=None)[0]
            x = x + step
            expected, jacobian = self._predict(x)
            if negligible(largest(step / prior_u), EXACT):
                break
        rows = np.vstack([np.diag(1.0 / prior_u), jacobian / u[:, None]])
        covariance = np.linalg.inv(rows.T @ rows) if p else np.zeros((0, 0))
        rest = np.concatenate([(prior - x) / prior_u, (values - expected) / u])
        # Residual covariance of the scaled observations: 1 - A (A^T A)^-1 A^T.
        residual = np.eye(p + m) - rows @ covariance @ rows.T
        return self._report(x, covariance, rest, residual, expected, np.concatenate([prior_u, u]))

    def _predict(self, x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        expected = np.zeros(len(self.used))
        jacobian = np.zeros((len(self.used), self.count))
        for row, m in enumerate(self.used):
            columns = [self.column[member.part_id, Quantity.MASS] for member in m.members]
            mass = x[columns]
            total = float(mass.sum())
            if m.sensed is Sensed.MASS:
                gain_column = self.gain_column.get(m.instrument)
                gain = float(x[gain_column]) if gain_column is not None else 0.0
                expected[row] = (1.0 + gain) * total
                jacobian[row, columns] = 1.0 + gain
                if gain_column is not None:
                    jacobian[row, gain_column] = total
                continue
            places = np.zeros(len(columns))
            for k, member in enumerate(m.members):
                places[k] = member.offset
                for i, quantity in enumerate(CG_QUANTITIES):
                    column = self.column.get((member.part_id, quantity))
                    share = member.axis[i]
                    places[k] += share * (self.centres[member.part_id][i] if column is None else float(x[column]))
                    if column is not None and not negligible(share):
                        jacobian[row, column] = share * mass[k] / total
            expected[row] = float(mass @ places) / total
            jacobian[row, columns] = (places - expected[row]) / total
        return expected, jacobian

    def _report(
        self,
        x: np.ndarray,
        covariance: np.ndarray,
        rest: np.ndarray,
        residual: np.ndarray,
        expected: np.ndarray,
        u: np.ndarray,
    ) -> Reconciled:
        b, p = len(self.beliefs), self.count
        share = np.diag(residual).copy()
        testable = share > UNTESTABLE
        safe = np.where(testable, share, 1.0)
        normalised = np.where(testable, rest / np.sqrt(safe), 0.0)
        error = np.where(testable, rest * u / safe, 0.0)
        hidden = np.where(testable, NONCENTRALITY * u / np.sqrt(safe), np.inf)
        figures = tuple(
            Adjusted(
                belief,
                self._alone(belief),
                float(x[i]),
                float(np.sqrt(covariance[i, i])),
                # Signs as of the true value against the belief.
                -float(normalised[i]),
                -float(error[i]),
                float(hidden[i]),
            )
            for i, belief in enumerate(self.beliefs)
        )
        fits = tuple(
            Fit(m, float(expected[k]), float(normalised[p + k]), float(error[p + k]), float(hidden[p + k]))
            for k, m in enumerate(self.used)
        )
        chi_square = float(rest @ rest)
        redundancy = len(self.used)
        chance = _chance(chi_square, redundancy)
        order = [*range(b), *range(p, p + len(self.used))]
        suspects, agreement = self._suspects(normalised[order], residual[np.ix_(order, order)], chance)
        gains = {
            scale.id: (float(x[k]), float(np.sqrt(covariance[k, k])))
            for scale, k in ((scale, self.gain_column[scale.id]) for scale in self.scales)
        }
        return Reconciled(figures, fits, chi_square, redundancy, chance, agreement, suspects, covariance[:b, :b], gains)

    def _alone(self, belief: Belief) -> tuple[float, float] | None:
        """Return the weighted mean of measurements of this figure by itself, None without any."""
        found = []
        for m in self.used:
            if len(m.members) != 1 or m.members[0].part_id != belief.part_id:
                continue
            member = m.members[0]
            if m.sensed is Sensed.MASS and belief.quantity is Quantity.MASS:
                found.append((m.value, m.u))
            elif m.sensed is Sensed.CG and belief.quantity is not Quantity.MASS:
                share = member.axis[CG_QUANTITIES.index(belief.quantity)]
                if abs(share) > _ALONG:
                    found.append(((m.value - member.offset) / share, m.u))
        if not found:
            return None
        weights = np.array([1.0 / max(u, ROUNDING) ** 2 for _, u in found])
        mean = float(weights @ [value for value, _ in found] / weights.sum())
        return mean, float(1.0 / np.sqrt(weights.sum()))

    def _suspects(
        self, normalised: np.ndarray, residual: np.ndarray, chance: float
    ) -> tuple[tuple[int, ...], Agreement]:
        if not self.used:
            return (), Agreement.NOTHING
        worst = int(np.abs(normalised).argmax())
        if abs(normalised[worst]) < SUSPICIOUS and chance > UNLIKELY:
            return (), Agreement.AGREES
        scale = np.sqrt(np.maximum(np.diag(residual), 1e-300))
        alike = np.abs(residual[worst]) / (scale[worst] * scale)
        others = [
            i
            for i in np.argsort(-np.abs(normalised)).tolist()
            if i != worst and np.diag(residual)[i] > UNTESTABLE and alike[i] > ALIKE
        ]
        # A reading was taken steady, a belief was only believed: it goes first where the sums can't choose.
        suspects = tuple(sorted((worst, *others), key=lambda i: i >= len(self.beliefs)))
        rivals = sum(i < len(self.beliefs) for i in suspects)
        certain = len(suspects) == 1 or rivals == 1
        return suspects, Agreement.DISAGREES if certain else Agreement.CANNOT_TELL_WHICH


def _chance(chi_square: float, redundancy: int) -> float:
    """Return the chance of a sum of squares at least this large, were all uncertainties right."""
    if redundancy == 0:
        return 1.0
    from scipy.special import chdtrc  # only when there is something to test

    return float(chdtrc(redundancy, chi_square))


def shared_factors(covariance: np.ndarray, least: float = 1e-6) -> tuple[np.ndarray, np.ndarray]:
    """Split a covariance (n, n) (kg2) of masses into own variances (n,) and common factors (f, n) (kg).

    ``diag(own) + factors.T @ factors`` equals it: each connected group of correlated masses becomes
    the rows of a square root, what stands alone stays its own. Loadings below `least` kg are dropped.
    """
    n = len(covariance)
    linked = np.abs(covariance) > least**2
    np.fill_diagonal(linked, False)
    own = np.diag(covariance).copy()
    together = np.flatnonzero(linked.any(axis=1))
    if together.size == 0:
        return own, np.zeros((0, n))
    own[together] = 0.0
    values, vectors = np.linalg.eigh(covariance[np.ix_(together, together)])
    factors = np.zeros((together.size, n))
    factors[:, together] = np.sqrt(np.maximum(values, 0.0))[:, None] * vectors.T
    return own, factors[np.abs(factors).max(axis=1) > least]
