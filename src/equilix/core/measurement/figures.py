"""A part's figures, each as one value with its uncertainty."""

from __future__ import annotations

from equilix.core.kit.parts import HowKnown, Part
from equilix.core.kit.records import CG_QUANTITIES, Quantity, Record, Stamp
from equilix.core.kit.uncertainty import cg_uncertainty, whole_mass_uncertainty

#: The stamp of a figure of which nobody knows where it comes from.
UNSTAMPED = Stamp()


def record_of(part: Part, quantity: Quantity, stamp: Stamp = UNSTAMPED) -> Record:
    """Return the record of a figure as it is in `part`."""
    if quantity is Quantity.MASS:
        return Record(quantity, part.mass, whole_mass_uncertainty(part), part.mass_known, stamp)
    axis = CG_QUANTITIES.index(quantity)
    known = HowKnown.WEIGHED if part.cg_axis_u[axis] is not None else part.cg_known
    return Record(quantity, part.centre[axis], cg_uncertainty(part)[axis], known, stamp)
