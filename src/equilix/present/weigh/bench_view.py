"""The bench in words: steps, readings, what they give and how sure it will be."""

from __future__ import annotations

import math

from msgspec import Struct

from equilix.core.errors import EditError, MeasurementError
from equilix.core.kit.records import Quantity, ScaleKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.measurement.bench import Layout, Outcome, Procedure, ProcedureStep, Setup, Unit
from equilix.core.measurement.steady import STEADY_TIME, Trace
from equilix.core.measurement.subjects import Selection
from equilix.core.units import Kind, to_display
from equilix.present.units import System, figure, number, parse, unit_of

#: What a set-up is for, beside its name in the list.
SETUP_NOTES = {
    Setup.WHOLE: "on one scale",
    Setup.TARE: "For small or loose things. The tray is taken off the reading",
    Setup.DIFFERENCE: "For parts that cannot come off alone. With it, then without",
    Setup.FORE_AFT: "Two supports, drawn to scale",
    Setup.SIDEWAYS: "Two supports, seen from behind",
    Setup.HEIGHT: "Two supports, level and then nose down",
    Setup.EDGE: "Balanced on an edge. Needs no scale",
    Setup.HANG: "Hung from points on top. The plumb lines cross in the CG",
}
#: What each set-up needs to be told, by field of the layout.
SETUP_FIELDS = {
    Setup.WHOLE: (),
    Setup.TARE: (),
    Setup.DIFFERENCE: (),
    Setup.FORE_AFT: ("span", "origin"),
    Setup.SIDEWAYS: ("span", "origin"),
    Setup.HEIGHT: ("span", "origin", "rise", "tilt"),
    Setup.EDGE: (),
    Setup.HANG: ("hooks",),
}
FIELD_WORDS = {
    "span": "span",
    "origin": "zero at",
    "rise": "height of the part’s zero",
    "tilt": "tilt",
    "hooks": "hooks",
}
FIELD_TIPS = {
    "span": "From one support to the other",
    "origin": "From the rear (or right) support to the part’s zero",
    "rise": "From the supports up to the part’s zero",
    "tilt": "How far the nose is let down. 15° to 30° is best",
    "hooks": "The hook: forward, up. Put a semicolon between two hooks, as in 20, 60; 90, 60",
}
QUANTITY_WORDS = {
    Quantity.MASS: "Mass",
    Quantity.CG_X: "CG fore and aft",
    Quantity.CG_Y: "CG to the left",
    Quantity.CG_Z: "CG height",
}


class StepRow(Struct, frozen=True):
    """One line of the list of steps; `state` is "done", "now" or "later"."""

    key: str
    number: int
    words: str
    value: str
    state: str


class BenchModel(Struct, frozen=True):
    """All words of the bench. `problem` is what is wrong with the readings; `results` say what they give."""

    title: str
    note: str
    heading: str
    counter: str
    steps: tuple[StepRow, ...]
    formula: str
    results: tuple[tuple[str, str], ...]
    foreseen: bool
    problem: str
    complete: bool


def exact(value: float, kind: Kind, system: System, unit: bool = True) -> str:
    """Return a figure of the bench: one digit finer than elsewhere."""
    return figure(value, kind, system, unit=unit, extra=1)


def plus_minus(standard: float, kind: Kind, system: System) -> str:
    """Return "± x" (k = 2) with as many digits as the uncertainty deserves, at most those of the bench."""
    name = unit_of(kind, system)
    value = to_display(COVERAGE * standard, name)
    most = {"kg": 3, "mm": 1, "lb": 3, "in": 3}[name]
    digits = min(most, max(0, 1 - math.floor(math.log10(value)))) if value > 0.0 else most
    return f"± {number(max(value, 10.0**-most), digits)}"


def step_value(step: ProcedureStep, value: float, system: System) -> str:
    """Return a reading in words."""
    if step.unit is Unit.ANGLE:
        return f"{number(math.degrees(value), 1)}°"
    return exact(value, Kind.MASS if step.unit is Unit.MASS else Kind.LENGTH, system)


def parse_reading(step: ProcedureStep, text: str, system: System) -> float:
    """Return a typed reading (SI); EditError if it can't be read."""
    if step.unit is Unit.ANGLE:
        return parse_angle(text)
    return parse(text, Kind.MASS if step.unit is Unit.MASS else Kind.LENGTH, system)


def parse_angle(text: str) -> float:
    """Return a typed angle (rad) of "12.5" or "12.5°"; EditError if it is none below a right angle."""
    cleaned = text.strip().rstrip("°").replace(",", ".").replace("−", "-").strip()
    try:
        degrees = float(cleaned)
    except ValueError:
        degrees = math.nan
    if not abs(degrees) < 90.0:
        raise EditError(f'"{text.strip()[:40]}" is not an angle. Type degrees, such as 12.5.')
    return math.radians(degrees)


def bench_model(procedure: Procedure, system: System) -> BenchModel:
    """Return the words for a procedure as it stands."""
    steps = procedure.steps
    current = procedure.current
    rows = []
    for count, step in enumerate(steps, 1):
        if step.key in procedure.readings:
            value, state = step_value(step, procedure.readings[step.key], system), "done"
        else:
            state = "now" if current is not None and step.key == current.key else "later"
            value = "" if step.expected is None else f"expected {step_value(step, step.expected, system)}"
        rows.append(StepRow(step.key, count, step.words, value, state))
    position = next((i for i, row in enumerate(rows, 1) if row.state == "now"), len(rows))
    results, problem, foreseen = _results(procedure, system)
    return BenchModel(
        procedure.subject.name,
        SETUP_NOTES[procedure.setup],
        current.words if current is not None else "All readings taken",
        f"step {position} of {len(rows)}" if current is not None else "store it, or repeat a step",
        tuple(rows),
        _formula(procedure, system),
        results,
        foreseen,
        problem or _closure_words(procedure),
        procedure.enough and not problem,
    )


def _results(procedure: Procedure, system: System) -> tuple[tuple[tuple[str, str], ...], str, bool]:
    """Return what comes out, or what will, and what is wrong with it."""
    try:
        outcomes = procedure.outcomes()
        if outcomes:
            return tuple(_outcome_words(outcome, system) for outcome in outcomes), "", False
        return tuple(_outcome_words(outcome, system) for outcome in procedure.foreseen()), "", True
    except MeasurementError as error:
        return (), str(error), False


def _outcome_words(outcome: Outcome, system: System) -> tuple[str, str]:
    kind = Kind.MASS if outcome.quantity is Quantity.MASS else Kind.LENGTH
    name = unit_of(kind, system)
    value = exact(outcome.measured.value, kind, system, unit=False)
    return QUANTITY_WORDS[outcome.quantity], f"{value} {plus_minus(outcome.measured.u, kind, system)} {name}"


def _closure_words(procedure: Procedure) -> str:
    closure = procedure.closure
    if closure is None or closure[1]:
        return ""
    return f"Ends and whole differ by {abs(closure[0]) * 1000:.0f} g. Level the board and repeat."


def _formula(procedure: Procedure, system: System) -> str:
    """Return how the figure follows, with the numbers in it."""
    layout, readings = procedure.layout, procedure.readings
    if procedure.setup in (Setup.FORE_AFT, Setup.SIDEWAYS):
        span = figure(layout.span, Kind.LENGTH, system, unit=False)
        origin = figure(layout.origin, Kind.LENGTH, system, unit=False)
        front = exact(readings["front"], Kind.MASS, system, unit=False) if "front" in readings else "front"
        if procedure.setup is Setup.SIDEWAYS and "front" not in readings:
            front = "left"
        whole = exact(readings["whole"], Kind.MASS, system, unit=False) if "whole" in readings else "whole"
        return f"CG = {span} × {front} / {whole} − {origin}"
    return {
        Setup.HEIGHT: f"height = shift of the CG / tan {math.degrees(layout.tilt):.0f}°",
        Setup.TARE: "mass = both − tray",
        Setup.DIFFERENCE: "mass = with − without",
        Setup.HANG: "the CG lies below every hook",
    }.get(procedure.setup, "")


#: A mass is far from what was believed beyond so many standard uncertainties and such a share; common practice.
_FAR, _FAR_SHARE = 3.0, 0.05


def far_words(procedure: Procedure, taken: Selection, system: System) -> str:
    """Return what to say if the mass that came out is far from what was believed of it, else ""."""
    believed, uncertainty = procedure.subject.mass, procedure.subject.mass_u
    if any(part.mass is None for part in taken.parts) or not procedure.enough:
        return ""
    try:
        outcomes = procedure.outcomes()
    except MeasurementError:
        return ""
    for outcome in outcomes:
        if outcome.quantity is Quantity.MASS:
            off = abs(outcome.measured.value - believed)
            if off > _FAR * math.hypot(uncertainty, outcome.measured.u) and off > _FAR_SHARE * believed:
                now = exact(outcome.measured.value, Kind.MASS, system)
                before = exact(believed, Kind.MASS, system)
                pm = plus_minus(uncertainty, Kind.MASS, system)
                return f"{now} is far from the expected {before} {pm}. Enter keeps it, Backspace repeats it."
    return ""


def steadiness(trace: Trace, system: System) -> str:
    """Return what the steadiness blocks say."""
    if trace.last is None:
        return "no reading yet"
    if trace.steady:
        return f"steady for {number(trace.steady_for, 1)} s"
    return f"wait {number(max(STEADY_TIME - trace.steady_for, 0.1), 1)} s more"


def lifts(procedure: Procedure) -> bool:
    """Whether the scale hangs and lifts, instead of being stood on."""
    return procedure.scale.kind is ScaleKind.HANGING


def layout_text(name: str, layout: Layout, system: System) -> str:
    """Return a field of the layout as people type it."""
    if name == "tilt":
        return f"{number(math.degrees(layout.tilt), 1)}°"
    if name == "hooks":
        unit = unit_of(Kind.LENGTH, system)
        pairs = (
            f"{figure(x, Kind.LENGTH, system, unit=False)}, {figure(z, Kind.LENGTH, system, unit=False)}"
            for x, z in layout.hooks
        )
        return "; ".join(pairs) + f" {unit}"
    value = {"span": layout.span, "origin": layout.origin, "rise": layout.rise}[name]
    return figure(value, Kind.LENGTH, system)


#: Least and greatest value of a layout's distances (m).
_LAYOUT_RANGE = {"span": (0.03, 3.0), "origin": (-3.0, 3.0), "rise": (-2.0, 2.0)}


def parse_layout(name: str, text: str, system: System) -> object:
    """Return a typed field of the layout (SI). EditError if it can't be that."""
    if name == "tilt":
        tilt = parse_angle(text)
        if not math.radians(6.0) <= abs(tilt) <= math.radians(45.0):
            raise EditError("The tilt must be from 6° to 45°. Less shows no height, more slides.")
        return tilt
    if name == "hooks":
        return _parse_hooks(text, system)
    value = parse(text, Kind.LENGTH, system)
    low, high = _LAYOUT_RANGE[name]
    if not low <= value <= high:
        words = f"{figure(low, Kind.LENGTH, system)} to {figure(high, Kind.LENGTH, system)}"
        raise EditError(f"{FIELD_TIPS[name]} must be from {words}.")
    return value


def _parse_hooks(text: str, system: System) -> tuple[tuple[float, float], ...]:
    unit = unit_of(Kind.LENGTH, system)
    hooks = []
    for pair in text.strip().removesuffix(unit).split(";"):
        cells = pair.split(",")
        if len(cells) != 2:
            raise EditError(f'"{pair.strip()[:30]}" is not a hook. Type forward, up, as in 20, 60; 90, 60.')
        x, z = (parse(cell, Kind.LENGTH, system) for cell in cells)
        hooks.append((x, z))
    if not 2 <= len(hooks) <= 6:
        raise EditError("Give two to six hooks, with a semicolon between them.")
    return tuple(hooks)
