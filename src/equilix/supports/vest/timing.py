"""What drops timed by hand and leans read off a sled teach of its CG and its inertia."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.measurement.lesson import Reading, lesson_of
from equilix.core.sources import common_practice
from equilix.core.uncertainty.output_model import output_model
from equilix.supports.vest.outputs import DROP, PITCH, ROLL
from equilix.supports.vest.settings import Timed

#: s: standard uncertainty that all drops timed by one hand share; rad: of a lean read off a level.
BY_HAND, BY_LEVEL = common_practice((0.10, math.radians(0.3)))


def readings_of(timed: Timed) -> tuple[Reading, ...]:
    """Return what was timed and read, each with its standard uncertainty."""
    found: list[Reading] = []
    if timed.tries:
        n = len(timed.tries)
        # Tries of one hand scatter, and share what it is late by: more of them don't help against that.
        scatter = float(np.std(timed.tries, ddof=1)) / math.sqrt(n) if n > 1 else 0.0
        found.append(Reading(DROP, float(np.mean(timed.tries)), math.hypot(BY_HAND, scatter)))
    for output, read in ((PITCH, timed.pitch), (ROLL, timed.roll)):
        if read is not None:
            found.append(Reading(output, read, BY_LEVEL))
    return tuple(found)


def with_readings(
    analysis: Analysis, tries: Sequence[float], pitch: float | None = None, roll: float | None = None
) -> Timed | None:
    """Return what drops timed by hand (s) and leans read off (rad) teach; None where nothing hangs or was read.

    `analysis` is of the build without any such lesson.
    """
    outputs, body = output_model(analysis), analysis.body
    if outputs is None or body is None:
        return None
    timed = Timed(tuple(float(t) for t in tries), body.mass, pitch, roll)
    readings = readings_of(timed)
    lesson = lesson_of(outputs, readings) if readings else None
    if lesson is None:
        return None
    return replace(
        timed,
        shift=(float(lesson.moved[1]), float(lesson.moved[2]), float(lesson.moved[3])),
        # I_yy is the second of the inertia's six, which stand last.
        more_inertia=float(lesson.moved[-5]),
        parted=lesson.parted,
        suspect=lesson.suspect,
    )
