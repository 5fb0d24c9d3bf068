"""The bench's procedures: which readings, in which order, what to expect, and what comes out.

A procedure is worked out from a few typed distances and the readings so far; it knows its expected
readings and precision before the first one is taken.
"""

from __future__ import annotations

import math
from enum import StrEnum

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from equilix.core.errors import MeasurementError
from equilix.core.kit.records import Instrument, Method, Quantity
from equilix.core.measurement.methods import (
    EDGE_UNCERTAINTY,
    PLUMB_UNCERTAINTY,
    TAPE_UNCERTAINTY,
    TILT_UNCERTAINTY,
    Measured,
    SupportForces,
    adjust_ends,
    cross_plumb_lines,
    difference,
    side_plumb_line,
    tilted_height,
    two_supports,
    two_supports_uncertainty,
)
from equilix.core.rounding import lacking
from equilix.core.sources import common_practice


class Setup(StrEnum):
    """A way to measure on the bench."""

    WHOLE = "weigh it"
    TARE = "weigh it in a tray"
    DIFFERENCE = "by difference"
    FORE_AFT = "CG fore and aft"
    SIDEWAYS = "CG sideways"
    HEIGHT = "CG height"
    EDGE = "CG on an edge"
    HANG = "CG by hanging"


METHOD = {
    Setup.WHOLE: Method.ONE_SCALE,
    Setup.TARE: Method.TARED,
    Setup.DIFFERENCE: Method.DIFFERENCE,
    Setup.FORE_AFT: Method.TWO_SUPPORTS,
    Setup.SIDEWAYS: Method.TWO_SUPPORTS,
    Setup.HEIGHT: Method.TILTED,
    Setup.EDGE: Method.EDGE,
    Setup.HANG: Method.HUNG,
}


class Unit(StrEnum):
    """What a step reads."""

    MASS = "mass"
    LENGTH = "length"
    ANGLE = "angle"


class ProcedureStep(Struct, frozen=True):
    """One reading: its `key`, what it reads, words, what is `expected` (SI), and whether it may be left out."""

    key: str
    unit: Unit
    words: str
    expected: float | None = None
    optional: bool = False


class Subject(Struct, frozen=True):
    """What lies on the bench: estimated `mass` (kg), `cg` and its u (m), size (m) and outline middle, own axes."""

    name: str
    mass: float
    mass_u: float
    cg: tuple[float, float, float]
    cg_u: tuple[float, float, float]
    size: tuple[float, float, float]
    centre: tuple[float, float, float]


class Layout(Struct, frozen=True):
    """Typed distances (m) and the tilt (rad, nose down).

    `span` between the supports, `origin` from the back (or right) support forward (left) to the part's own
    zero, `rise` of that zero above the line of contacts. `carrier` is the mass (kg) of a board or a tray.
    `hooks` are hang points in the side plane (x, z).
    """

    span: float = 0.320
    origin: float = 0.100
    rise: float = 0.0
    tilt: float = math.radians(20.0)
    tray: float = 0.20
    rest: float = 5.0
    hooks: tuple[tuple[float, float], ...] = ((0.0, 0.05), (0.05, 0.05))


class Outcome(Struct, frozen=True):
    """A figure that a procedure gives."""

    quantity: Quantity
    measured: Measured


class Procedure(Struct, frozen=True):
    """A set-up with its subject, scale, layout and the readings taken so far (SI, by step key)."""

    setup: Setup
    subject: Subject
    scale: Instrument
    layout: Layout = Layout()
    readings: dict[str, float] = field(default_factory=dict)

    @property
    def steps(self) -> tuple[ProcedureStep, ...]:
        """The readings in order, with what to expect of each."""
        return _STEPS[self.setup](self)

    @property
    def current(self) -> ProcedureStep | None:
        """The first step without a reading; None when all are taken."""
        return next((step for step in self.steps if step.key not in self.readings), None)

    @property
    def enough(self) -> bool:
        """Whether all readings that are needed are there."""
        return all(step.optional or step.key in self.readings for step in self.steps)

    def with_reading(self, key: str, value: float) -> Procedure:
        """Return the procedure with one more reading, or another one in its place.

        Raises
        ------
        MeasurementError
            If the scale can't have shown it.
        """
        step = next((s for s in self.steps if s.key == key), None)
        if step is None:
            raise MeasurementError("That step belongs to another set-up. Start again.")
        if not math.isfinite(value):
            raise MeasurementError("That is not a number. Type the reading.")
        if step.unit is Unit.MASS and value > self.scale.capacity:
            raise MeasurementError(
                f"More than {self.scale.capacity:g} kg: take it off. {self.scale.name} carries no more."
            )
        if step.unit is Unit.MASS and value < -2.0 * self.scale.step:
            raise MeasurementError("The scale reads below zero. Zero it again.")
        return replace(self, readings={**self.readings, key: value})

    def without_last(self) -> Procedure:
        """Return the procedure without the reading taken last."""
        if not self.readings:
            return self
        last = list(self.readings)[-1]
        return replace(self, readings={k: v for k, v in self.readings.items() if k != last})

    def outcomes(self) -> tuple[Outcome, ...]:
        """Return what the readings so far give.

        Raises
        ------
        MeasurementError
            If they contradict each other.
        """
        return _OUTCOMES[self.setup](self) if self.enough else ()

    def foreseen(self) -> tuple[Outcome, ...]:
        """Return what would come out if every reading were as expected: the precision before the start."""
        filled = {step.key: step.expected or 0.0 for step in self.steps}
        return _OUTCOMES[self.setup](replace(self, readings=filled))

    @property
    def closure(self) -> tuple[float, bool] | None:
        """By how much (kg) ends and whole differ, and whether the scale's uncertainty explains it; None if not read."""
        if not {"whole", "front", "back"} <= set(self.readings):
            return None
        ends = _ends(self)
        return ends.closure, ends.closes


def axis_of(setup: Setup) -> int:
    """Return the part axis along which a set-up finds the CG."""
    return {Setup.SIDEWAYS: 1, Setup.HEIGHT: 2}.get(setup, 0)


#: A layout on two supports, m: how much longer the span is than the part and what room there is beside it, the least
#: span, in which steps span and part are set, how far outside the part the back support stands (of its length, and
#: m), where hooks go along its upper side, and how thick the edges are.
_LONGER, _ROOM, _NARROWEST, _SPAN_STEP, _PLACE_STEP = common_practice((1.25, 0.06, 0.12, 0.02, 0.005))
_OUTSIDE, _HOOKS, _RISE = common_practice(((0.1, 0.01), (0.25, 0.75), 0.008))
#: Share of the span that a CG stays inside either support.
_INSIDE = common_practice(0.02)
#: m by which plumb lines may miss each other beyond four times what is known of them.
_MISSED = common_practice(0.004)


def suggested_layout(setup: Setup, subject: Subject) -> Layout:
    """Return a layout that suits the subject: supports a little outside it, hooks on its upper side."""
    axis = 1 if setup is Setup.SIDEWAYS else 0
    length = subject.size[axis]
    low = subject.centre[axis] - length / 2.0
    # Ahead of the part there must be room for hook, cord and hand.
    span = max(round((length * _LONGER + _ROOM) / _SPAN_STEP) * _SPAN_STEP, _NARROWEST)
    origin = round((_OUTSIDE[0] * length + _OUTSIDE[1] - low) / _PLACE_STEP) * _PLACE_STEP
    bottom = subject.centre[2] - subject.size[2] / 2.0
    top = subject.centre[2] + subject.size[2] / 2.0
    back, front = subject.centre[0] - subject.size[0] / 2.0, subject.centre[0] + subject.size[0] / 2.0
    near = round(back + _HOOKS[0] * (front - back), 3)
    far = round(back + _HOOKS[1] * (front - back), 3)
    return Layout(
        span=round(span, 4),
        origin=round(origin, 4),
        rise=round(-bottom + _RISE, 4),
        hooks=((near, round(top, 3)), (far, round(top, 3))),
    )


def _at(p: Procedure, axis: int) -> float:
    """Return the estimated place (m) of the CG ahead of the back support, kept inside the supports."""
    return min(max(p.subject.cg[axis] + p.layout.origin, _INSIDE * p.layout.span), (1.0 - _INSIDE) * p.layout.span)


def _whole_steps(p: Procedure) -> tuple[ProcedureStep, ...]:
    where = "hook" if p.scale.kind == "hanging scale" else "scale"
    return (ProcedureStep("whole", Unit.MASS, f"Whole part on the {where}", p.subject.mass),)


def _tare_steps(p: Procedure) -> tuple[ProcedureStep, ...]:
    return (
        ProcedureStep("tray", Unit.MASS, "The empty tray or bag", p.layout.tray),
        ProcedureStep("both", Unit.MASS, "The part in it", p.layout.tray + p.subject.mass),
    )


def _difference_steps(p: Procedure) -> tuple[ProcedureStep, ...]:
    return (
        ProcedureStep("with", Unit.MASS, "The rig with the part", p.layout.rest + p.subject.mass),
        ProcedureStep("without", Unit.MASS, "The rig without it", p.layout.rest),
    )


def _support_steps(p: Procedure) -> tuple[ProcedureStep, ...]:
    first, second = ("Left", "Right") if p.setup is Setup.SIDEWAYS else ("Front", "Back")
    axis = axis_of(p.setup)
    mass = p.readings.get("whole", p.subject.mass)
    front = mass * _at(p, axis) / p.layout.span
    read = p.readings.get("front", front)
    hang = p.scale.kind == "hanging scale"
    words = "end lifted" if hang else "end on the scale"
    return (
        ProcedureStep("whole", Unit.MASS, "Whole part on the hook" if hang else "Whole part on the scale", mass),
        ProcedureStep("front", Unit.MASS, f"{first} {words}", front),
        ProcedureStep("back", Unit.MASS, f"{second} end, as a check", mass - read, optional=True),
    )


def _height_steps(p: Procedure) -> tuple[ProcedureStep, ...]:
    mass = p.readings.get("whole", p.subject.mass)
    front = mass * _at(p, 0) / p.layout.span
    height = p.subject.cg[2] + p.layout.rise
    tilted = p.readings.get("front", front) + mass * height * math.tan(p.layout.tilt) / p.layout.span
    return (
        ProcedureStep("whole", Unit.MASS, "Whole part", mass),
        ProcedureStep("front", Unit.MASS, "Front, board level", front),
        ProcedureStep("tilted", Unit.MASS, f"Front, {math.degrees(p.layout.tilt):.0f}° nose down", tilted),
    )


def _edge_steps(p: Procedure) -> tuple[ProcedureStep, ...]:
    return (ProcedureStep("place", Unit.LENGTH, "Edge, ahead of its zero", p.subject.cg[0]),)


def _hang_steps(p: Procedure) -> tuple[ProcedureStep, ...]:
    steps = []
    for i, (x, z) in enumerate(p.layout.hooks, 1):
        dx, dz = p.subject.cg[0] - x, p.subject.cg[2] - z
        words = f"Hang {i}, nose down"
        steps.append(ProcedureStep(f"hang{i}", Unit.ANGLE, words, math.atan2(dx, -dz)))
    return tuple(steps)


_STEPS = {
    Setup.WHOLE: _whole_steps,
    Setup.TARE: _tare_steps,
    Setup.DIFFERENCE: _difference_steps,
    Setup.FORE_AFT: _support_steps,
    Setup.SIDEWAYS: _support_steps,
    Setup.HEIGHT: _height_steps,
    Setup.EDGE: _edge_steps,
    Setup.HANG: _hang_steps,
}


def _read(p: Procedure, key: str) -> Measured:
    return Measured(p.readings[key], p.scale.own_uncertainty())


def _whole_outcome(p: Procedure) -> tuple[Outcome, ...]:
    read = _read(p, "whole")
    if lacking(read.value):
        raise MeasurementError("The scale shows zero. Put the part on it.")
    return (Outcome(Quantity.MASS, read),)


def _ends(p: Procedure) -> SupportForces:
    return adjust_ends(p.readings["whole"], p.readings["front"], p.readings.get("back"), p.scale.own_uncertainty())


def _support_outcome(p: Procedure) -> tuple[Outcome, ...]:
    ends = _ends(p)
    checked = "back" in p.readings
    u = p.scale.own_uncertainty()
    place = two_supports(ends, p.layout.span, u, TAPE_UNCERTAINTY, checked)
    axis = axis_of(p.setup)
    mass_u = u * math.sqrt(2.0 / 3.0) if checked else u
    quantity = (Quantity.CG_X, Quantity.CG_Y)[axis]
    found = Measured(place.value - p.layout.origin, math.hypot(place.u, TAPE_UNCERTAINTY))
    return (Outcome(Quantity.MASS, Measured(ends.whole, mass_u)), Outcome(quantity, found))


def _height_outcome(p: Procedure) -> tuple[Outcome, ...]:
    u = p.scale.own_uncertainty()
    whole = p.readings["whole"]
    places = []
    for key in ("front", "tilted"):
        ends = adjust_ends(whole, p.readings[key], None, u)
        # The span's error cancels in the difference of both places; only the readings' uncertainty counts.
        places.append(
            Measured(
                p.layout.span * ends.front / ends.whole,
                two_supports_uncertainty(ends.back, ends.front, p.layout.span, u, 0.0, checked=False),
            )
        )
    height = tilted_height(places[0], places[1], p.layout.tilt)
    level = two_supports(adjust_ends(whole, p.readings["front"], None, u), p.layout.span, u, checked=False)
    return (
        Outcome(Quantity.MASS, Measured(whole, u)),
        Outcome(Quantity.CG_X, Measured(level.value - p.layout.origin, math.hypot(level.u, TAPE_UNCERTAINTY))),
        Outcome(Quantity.CG_Z, Measured(height.value - p.layout.rise, math.hypot(height.u, TAPE_UNCERTAINTY))),
    )


def _edge_outcome(p: Procedure) -> tuple[Outcome, ...]:
    return (Outcome(Quantity.CG_X, Measured(p.readings["place"], EDGE_UNCERTAINTY)),)


def _hang_outcome(p: Procedure) -> tuple[Outcome, ...]:
    lines = [
        side_plumb_line(hook, p.readings[f"hang{i}"], point_u=PLUMB_UNCERTAINTY, angle_u=TILT_UNCERTAINTY)
        for i, hook in enumerate(p.layout.hooks, 1)
    ]
    crossing = cross_plumb_lines(lines)
    if crossing.miss > 4.0 * math.sqrt(float(np.trace(crossing.covariance))) + _MISSED:
        raise MeasurementError(
            f"The plumb lines miss each other by {1000 * crossing.miss:.0f} mm. Hang it again and let it rest."
        )
    u = np.sqrt(np.diag(crossing.covariance))
    return (
        Outcome(Quantity.CG_X, Measured(float(crossing.point[0]), float(u[0]))),
        Outcome(Quantity.CG_Z, Measured(float(crossing.point[1]), float(u[1]))),
    )


_OUTCOMES = {
    Setup.WHOLE: _whole_outcome,
    Setup.TARE: lambda p: (Outcome(Quantity.MASS, difference(_read(p, "both"), _read(p, "tray"))),),
    Setup.DIFFERENCE: lambda p: (Outcome(Quantity.MASS, difference(_read(p, "with"), _read(p, "without"))),),
    Setup.FORE_AFT: _support_outcome,
    Setup.SIDEWAYS: _support_outcome,
    Setup.HEIGHT: _height_outcome,
    Setup.EDGE: _edge_outcome,
    Setup.HANG: _hang_outcome,
}
