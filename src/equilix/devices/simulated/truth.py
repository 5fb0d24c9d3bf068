"""What made-up parts truly weigh, so that a stand-in scale has something to show.

The truth lies within what was first believed of a part, and stays the same once the part is weighed.
"""

from __future__ import annotations

import math
import random
import zlib

import numpy as np

from equilix.core.kit.parts import Part
from equilix.core.kit.records import CG_QUANTITIES, Quantity
from equilix.core.measurement.bench import Procedure, Setup
from equilix.core.measurement.figures import record_of
from equilix.core.measurement.subjects import UNKNOWN_MASS, Selection


def true_part(part: Part) -> tuple[float, np.ndarray]:
    """Return a part's true mass (kg) and CG (3,) (m, own frame), made up from its id and what was first believed."""
    draw = random.Random(zlib.crc32(part.id.encode()))
    mass, u = _first(part, Quantity.MASS)
    true_mass = max(mass + min(max(draw.gauss(0.0, 1.0), -2.0), 2.0) * u, 0.2 * mass)
    cg = []
    for quantity in CG_QUANTITIES:
        place, uncertainty = _first(part, quantity)
        # Parts are nearly the same on both sides.
        share = 0.2 if quantity is Quantity.CG_Y else 1.0
        cg.append(place + share * min(max(draw.gauss(0.0, 1.0), -2.0), 2.0) * uncertainty)
    return true_mass, np.array(cg)


def _first(part: Part, quantity: Quantity) -> tuple[float, float]:
    for record in part.records:
        if record.quantity is quantity and record.value is not None:
            return record.value, record.uncertainty
    now = record_of(part, quantity)
    return (now.value, now.uncertainty) if now.value is not None else (UNKNOWN_MASS, 0.1 * UNKNOWN_MASS)


def true_whole(taken: Selection) -> tuple[float, np.ndarray]:
    """Return the true mass (kg) and CG (3,) (m, bench frame) of what lies on the bench."""
    truths = [true_part(part) for part in taken.parts]
    mass = np.array([m for m, _ in truths])
    places = np.array([o + r @ c for o, r, (_, c) in zip(taken.origin, taken.rotation, truths, strict=True)])
    return float(mass.sum()), mass @ places / mass.sum()


def simulated_load(procedure: Procedure, taken: Selection, key: str) -> float:
    """Return what the scale would carry (kg) at a step of a procedure; 0 for steps without a scale."""
    mass, cg = true_whole(taken)
    layout = procedure.layout
    axis = 1 if procedure.setup is Setup.SIDEWAYS else 0
    front = mass * (float(cg[axis]) + layout.origin) / layout.span
    tilted = front + mass * (float(cg[2]) + layout.rise) * math.tan(layout.tilt) / layout.span
    return {
        "whole": mass,
        "tray": layout.tray,
        "both": layout.tray + mass,
        "with": layout.rest + mass,
        "without": layout.rest,
        "front": front,
        "back": mass - front,
        "tilted": tilted,
    }.get(key, 0.0)
