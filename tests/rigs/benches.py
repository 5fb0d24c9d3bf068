"""Rigs and helpers for tests of benches."""

from __future__ import annotations

import math

from msgspec.structs import replace

from equilix.core.assembly.build import Operator
from equilix.core.kit.records import Instrument, Measurement, Member, Sensed
from equilix.core.measurement.bench import Layout, Procedure, Setup, Subject

SCALE = Instrument("s", "Hanging scale", capacity=20.0, step=0.010, accuracy=0.005)


TABLE = replace(SCALE, id="t", name="Table scale", kind="table scale")


LENA = Operator("l", "Lena", 1.71, 64.0)


THING = Subject("Thing", 2.4, 0.05, (0.03, -0.01, 0.02), (0.01, 0.01, 0.01), (0.20, 0.08, 0.10), (0.02, 0.0, 0.01))


SQUARE = Layout(span=0.30, origin=0.12, rise=0.04, tilt=math.radians(20), hooks=((-0.03, 0.06), (0.07, 0.06)))


def done(setup: Setup, **readings: float) -> Procedure:
    return Procedure(setup, THING, SCALE, SQUARE, readings)


def weighing(ident: str, value: float, u: float, *members: Member, sensed: Sensed = Sensed.MASS) -> Measurement:
    return Measurement(ident, sensed, members, value, u, instrument="s" if sensed is Sensed.MASS else "")
