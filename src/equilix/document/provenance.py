"""Where a part's figures come from: every change of a figure leaves a record with its stamp."""

from __future__ import annotations

from msgspec.structs import replace

from equilix.core.kit.parts import HowKnown, Part
from equilix.core.kit.records import CG_QUANTITIES, Quantity, Record, Shared, Stamp
from equilix.core.measurement.figures import record_of

#: Records of one figure that are kept; the first one always is.
KEPT = 40


def latest(part: Part, quantity: Quantity) -> Record | None:
    """Return the newest record of a figure, None if it has none."""
    return next((record for record in reversed(part.records) if record.quantity is quantity), None)


def stamped(old: Part | None, new: Part, stamp: Stamp) -> Part:
    """Return `new` with a record of each figure that differs from `old`, and before it the old one's if it had none."""
    records = list(new.records)
    for quantity in (Quantity.MASS, *CG_QUANTITIES):
        now = record_of(new, quantity, stamp)
        if old is None:
            if quantity is Quantity.MASS and new.mass is not None:
                records.append(now)
            continue
        before = record_of(old, quantity)
        if (now.value, now.uncertainty, now.known) == (before.value, before.uncertainty, before.known):
            continue
        if latest(old, quantity) is None and before.value is not None:
            records.append(before)
        records.append(now)
    return new if len(records) == len(new.records) else replace(new, records=_pruned(records))


def _pruned(records: list[Record]) -> tuple[Record, ...]:
    kept: list[Record] = []
    for quantity in Quantity:
        own = [record for record in records if record.quantity is quantity]
        kept += own if len(own) <= KEPT else [own[0], *own[1 - KEPT :]]
    return tuple(record for record in records if any(record is k for k in kept))


def with_figure(
    part: Part, quantity: Quantity, value: float, u: float, stamp: Stamp, shared: tuple[Shared, ...] = ()
) -> Part:
    """Return `part` with a measured figure: `u` its own standard uncertainty, `shared` what it has in common."""
    if quantity is Quantity.MASS:
        new = replace(part, mass=value, mass_known=HowKnown.WEIGHED, mass_u=u, shared=shared)
        if stamp.instrument:
            new = replace(new, scale=stamp.instrument)
        return stamped(part, new, stamp)
    axis = CG_QUANTITIES.index(quantity)
    cg = list(part.centre)
    uncertainties = list(part.cg_axis_u)
    cg[axis], uncertainties[axis] = value, u
    new = replace(part, cg=(cg[0], cg[1], cg[2]), cg_axis_u=(uncertainties[0], uncertainties[1], uncertainties[2]))
    return stamped(part, new, stamp)
