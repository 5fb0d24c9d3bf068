"""From a finished procedure to what the book stores: measurements, and figures of a part weighed alone."""

from __future__ import annotations

import math

from equilix.core.kit.records import (
    CG_QUANTITIES,
    Instrument,
    Measurement,
    Method,
    Quantity,
    Sensed,
    Shared,
    Stamp,
)
from equilix.core.measurement.bench import METHOD, Procedure
from equilix.core.measurement.reconcile import Reconciled, shared_factors
from equilix.core.measurement.subjects import Selection
from equilix.document.book import Book, new_measurement_ids
from equilix.document.edits.measure import AcceptFigures, MeasuredFigure, StoreMeasurements


def scale_gain(scale: Instrument, mass: float) -> tuple[Shared, ...]:
    """Return what a scale's gain error would bring to a part of `mass` (kg) that it weighed."""
    if scale.accuracy <= 0.0:
        return ()
    return (Shared(f"scale {scale.name}", mass * scale.gain_uncertainty, flat=True),)


def stored(book: Book, procedure: Procedure, taken: Selection, date: str, by: str) -> StoreMeasurements:
    """Return the edit that stores what `procedure` found of `taken`.

    A part alone gets its new figures; of an assembly only the measurements are kept, to be reconciled.

    Raises
    ------
    MeasurementError
        If readings lack or contradict each other.
    """
    outcomes = procedure.outcomes()
    scale = procedure.scale
    method = METHOD[procedure.setup]
    measurements = []
    figures = []
    for measurement_id, outcome in zip(new_measurement_ids(book, len(outcomes)), outcomes, strict=True):
        mass = outcome.quantity is Quantity.MASS
        members = taken.on_the_scale() if mass else taken.along(CG_QUANTITIES.index(outcome.quantity))
        measurements.append(
            Measurement(
                measurement_id,
                Sensed.MASS if mass else Sensed.CG,
                members,
                outcome.measured.value,
                outcome.measured.u,
                method,
                scale.id if scale.id in book.scales else "",
                date,
                by,
            )
        )
        if taken.single is not None:
            shared = scale_gain(scale, outcome.measured.value) if mass else ()
            figures.append(
                MeasuredFigure(taken.single.id, outcome.quantity, outcome.measured.value, outcome.measured.u, shared)
            )
    ids = tuple(m.id for m in measurements)
    stamp = Stamp(date, by, method, scale.name, ids)
    return StoreMeasurements(tuple(measurements), tuple(figures), stamp, taken.subject.name)


def accepted(found: Reconciled, chosen: tuple[int, ...], date: str, by: str) -> AcceptFigures:
    """Return the edit that takes the reconciled values of the figures numbered `chosen`.

    Masses that were only weighed together stay correlated: the common part is kept as shared uncertainties.
    """
    masses = [i for i in chosen if found.figures[i].belief.quantity is Quantity.MASS]
    own, factors = shared_factors(found.covariance[masses][:, masses])
    source = f"reconciled {date} {' '.join(fit.measurement.id for fit in found.fits)}"
    figures = []
    for i in chosen:
        adjusted = found.figures[i]
        shared: tuple[Shared, ...] = ()
        u = adjusted.u
        if i in masses:
            column = masses.index(i)
            u = math.sqrt(max(float(own[column]), 0.0))
            shared = tuple(
                Shared(f"{source} {row}", float(factor[column]))
                for row, factor in enumerate(factors)
                if abs(float(factor[column])) > 1e-9
            )
        figures.append(MeasuredFigure(adjusted.belief.part_id, adjusted.belief.quantity, adjusted.value, u, shared))
    ids = tuple(fit.measurement.id for fit in found.fits)
    return AcceptFigures(tuple(figures), Stamp(date, by, Method.RECONCILED, "", ids))
