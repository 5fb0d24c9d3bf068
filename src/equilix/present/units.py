"""Figures as people read and write them: units, signs, digits and what they type."""

from __future__ import annotations

import math
import re
from enum import StrEnum
from functools import lru_cache

from equilix.core.errors import EditError
from equilix.core.kit.parts import Connection, Mount
from equilix.core.limits import MAX_LENGTH, MAX_MASS
from equilix.core.rounding import ROUNDING
from equilix.core.units import FACTORS, Kind, from_display, to_display

MINUS = "−"


class System(StrEnum):
    METRIC = "metric"
    IMPERIAL = "imperial"


#: Units that both systems show.
_EVERYWHERE = {
    Kind.PRESSURE: "kPa",
    Kind.ANGLE: "°",
    Kind.SHARE: "%",
    Kind.TIME: "s",
    Kind.INERTIA: "g·m²",
    Kind.RATE: "°/s",
}
_UNIT = {
    (System.METRIC, Kind.MASS): "kg",
    (System.METRIC, Kind.LENGTH): "mm",
    (System.METRIC, Kind.MOMENT): "N·m",
    (System.METRIC, Kind.FORCE): "N",
    (System.METRIC, Kind.STATURE): "cm",
    **{(system, kind): unit for system in System for kind, unit in _EVERYWHERE.items()},
    (System.IMPERIAL, Kind.MASS): "lb",
    (System.IMPERIAL, Kind.LENGTH): "in",
    (System.IMPERIAL, Kind.MOMENT): "lbf·in",
    (System.IMPERIAL, Kind.FORCE): "lbf",
    (System.IMPERIAL, Kind.STATURE): "in",
}
_DIGITS = {
    "kg": 2,
    "mm": 0,
    "N·m": 1,
    "N": 0,
    "cm": 0,
    "lb": 2,
    "in": 2,
    "lbf·in": 0,
    "lbf": 1,
    "kPa": 1,
    "°": 0,
    "%": 0,
    "s": 1,
    "g·m²": 0,
    "°/s": 0,
}


def unit_of(kind: Kind, system: System) -> str:
    """Return the unit in which `system` shows a `kind` of figure."""
    return _UNIT[system, kind]


def number(value: float, digits: int, sign: bool = False) -> str:
    """Return `value` with `digits` decimals, a true minus, and a plus if `sign`; never a minus zero."""
    if not math.isfinite(value):
        return "–"
    text = f"{abs(value):.{digits}f}"
    if float(text) == 0.0:
        return text
    if value < 0.0:
        return MINUS + text
    return "+" + text if sign else text


# Of the figures in a window most stay while one part is dragged.
@lru_cache(maxsize=4096)
def figure(value: float, kind: Kind, system: System, sign: bool = False, unit: bool = True, extra: int = 0) -> str:
    """Return the SI `value` in the units of `system`, with `extra` decimals more than usual."""
    name = unit_of(kind, system)
    text = number(to_display(value, name), max(0, _DIGITS[name] + extra), sign)
    return f"{text}{'' if name in ('°', '°/s') else ' '}{name}" if unit else text


def uncertainty(standard: float, kind: Kind, system: System) -> str:
    """Return "± x" for k = 2 from a standard uncertainty, with the figure's own decimals, at least one last digit."""
    name = unit_of(kind, system)
    digits = _DIGITS[name]
    value = to_display(2.0 * standard, name)
    least = 10.0**-digits
    if 0.0 < value < least:
        value = least
    return f"± {number(value, digits)}"


# Patterns are compiled, and kept, by the first who needs them: a start needs none.
_TOKEN = r"\s*([+\-−]?\s*(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*([a-z'\"″′]*)\.?"
_FRACTION = r"^\s*(?:(\d+)[\s-]+)?(\d+)\s*/\s*(\d+)\s*(in|inch|inches|\"|″)?\s*$"
_ALIASES = {
    "pound": "lb",
    "pounds": "lb",
    "lbs": "lb",
    "ounce": "oz",
    "ounces": "oz",
    "gram": "g",
    "grams": "g",
    "gr": "g",
    "kilo": "kg",
    "kilos": "kg",
    "kgs": "kg",
    "inch": "in",
    "inches": "in",
    '"': "in",
    "″": "in",
    "'": "ft",
    "′": "ft",
    "feet": "ft",
    "foot": "ft",
}
_EXAMPLE = {
    Kind.MASS: "2.4 kg, 410 g or 5 lb 3 oz",
    Kind.LENGTH: "120 mm, 12 cm or 4 in",
    Kind.STATURE: "172 cm or 5 ft 8 in",
    Kind.MOMENT: "3.1 N·m",
    Kind.FORCE: "11 N",
}


def parse(text: str, kind: Kind, system: System) -> float:
    """Return the SI value of what someone typed; a bare number is in the units of `system`.

    Understands sums such as "5 lb 3 oz", a decimal comma and fractions of an inch.

    Raises
    ------
    EditError
        If it isn't a figure of that kind; the message shows how to write one.
    """
    fraction = re.match(_FRACTION, text, re.IGNORECASE)
    if fraction is not None and kind in (Kind.LENGTH, Kind.STATURE) and int(fraction[3]):
        inches = int(fraction[1] or 0) + int(fraction[2]) / int(fraction[3])
        return from_display(inches, "in")
    question = _doubtful(text, kind, system)
    if question:
        raise EditError(question)
    position, total, count, sign = 0, 0.0, 0, 1.0
    stripped = text.rstrip()
    if kind is Kind.MOMENT:
        stripped = re.sub(r"(?<=[a-zA-Z])[·. ](?=[a-zA-Z])", "", stripped)
    while position < len(stripped):
        match = re.compile(_TOKEN, re.IGNORECASE).match(stripped, position)
        if match is None:
            break
        amount = float(match[1].replace(MINUS, "-").replace(",", ".").replace(" ", ""))
        unit = match[2].lower()
        if count == 0 and match[1].strip()[:1] in ("-", MINUS):
            sign = -1.0
        elif count and amount < 0.0:
            break
        if not unit and count:
            break
        total += abs(amount) * _si_factor(unit, kind, system, text)
        count += 1
        position = match.end()
    if count == 0 or position < len(stripped) or not math.isfinite(total):
        raise EditError(f'"{text.strip()[:40]}" is not a {kind}. Type {_EXAMPLE[kind]}.')
    return sign * total


#: A comma before three figures: a decimal comma for some, a mark of thousands for others.
_THOUSANDS = r"(?<![\d.,])([1-9]\d{0,2}),(\d{3})(?![\d.,])\s*([a-z]*)"


def _doubtful(text: str, kind: Kind, system: System) -> str:
    """Return a question where a figure may be meant in two ways, both of them possible; "" where it is clear."""
    match = re.search(_THOUSANDS, text, re.IGNORECASE)
    if match is None:
        return ""
    most = {Kind.MASS: MAX_MASS, Kind.LENGTH: MAX_LENGTH}.get(kind, math.inf)
    if 1000.0 * float(f"{match[1]}.{match[2]}") * _si_factor(match[3].lower(), kind, system, text) > most:
        return ""
    unit = f" {match[3] or unit_of(kind, system)}"
    whole, part = f"{match[1]}{match[2]}{unit}", f"{match[1]}.{match[2]}{unit}"
    return f'"{text.strip()[:40]}" can mean {whole} or {part}. Type one of them.'


_BOUNDS = r"from (-?[\d.e+-]+) to (-?[\d.e+-]+) (kg|m), not (-?[\d.e+-]+)\."
_WHOSE = r"(?P<name>[^:]*): Part (['\"])(?P=name)\2: |Part (['\"])(?P<other>.*?)\3: "


def readable(message: str, system: System) -> str:
    """Return a refusal of the core in the user's units, and without the words of the program for things."""

    def bounds(match: re.Match[str]) -> str:
        kind = Kind.MASS if match[3] == "kg" else Kind.LENGTH
        low, high, got = (figure(float(match[k]), kind, system) for k in (1, 2, 4))
        return f"from {low} to {high}, not {got}."

    named = re.sub(_WHOSE, lambda match: f"{match['name'] or match['other']}: ", message)
    return re.sub(_BOUNDS, bounds, named)


#: Moments as people type them, once the dot between the units is gone.
_MOMENTS = {"nm": "N·m", "lbfin": "lbf·in", "inlbf": "lbf·in", "inlb": "lbf·in", "lbin": "lbf·in"}


def _si_factor(unit: str, kind: Kind, system: System, text: str) -> float:
    name = _ALIASES.get(unit, unit) or unit_of(kind, system)
    if kind is Kind.MOMENT:
        name = _MOMENTS.get(name, name)
    if kind is Kind.FORCE:
        name = {"n": "N", "newton": "N", "lb": "lbf"}.get(name, name)
    known = FACTORS.get(name)
    if known is not None and _dimension(name) is (Kind.LENGTH if kind is Kind.STATURE else kind):
        return known
    factor = _from_units_library(name, kind)
    if factor is None:
        raise EditError(f'"{text.strip()[:40]}" is not a {kind}. Type {_EXAMPLE[kind]}.')
    return factor


def _dimension(unit: str) -> Kind:
    if unit in ("kg", "g", "lb", "oz"):
        return Kind.MASS
    if unit in ("N", "lbf"):
        return Kind.FORCE
    return Kind.MOMENT if unit in ("N·m", "lbf·in") else Kind.LENGTH


def _from_units_library(name: str, kind: Kind) -> float | None:
    """Return the SI factor of a rarer unit (stone, ft, µm …), None if there is none of that kind."""
    import pint  # slow to import, and rarely wanted

    base = {Kind.MASS: "kg", Kind.MOMENT: "N*m", Kind.FORCE: "N"}.get(kind, "m")
    try:
        return float(pint.application_registry.Quantity(1.0, name).to(base).magnitude)
    except (pint.errors.UndefinedUnitError, pint.errors.DimensionalityError, pint.errors.DefinitionSyntaxError):
        return None


def parse_mark(text: str, mount: Mount, name: str, system: System) -> float:
    """Return the setting (m or rad) that is typed: an angle, or a mark counted from the slide's low end.

    Raises
    ------
    EditError
        If the text can't be read, or the slide of the part called `name` doesn't reach so far.
    """
    if mount.joint is Connection.TURN:
        try:
            setting = math.radians(float(text.strip().rstrip("°").replace("−", "-").replace(",", ".")))
        except ValueError:
            raise EditError(f'"{text[:30]}" is not an angle. Type degrees, such as 30.') from None
        limits = f"{math.degrees(mount.low):.0f}° to {math.degrees(mount.high):.0f}°"
    else:
        setting = mount.low + parse(text, Kind.LENGTH, system)
        limits = f"0 to {figure(mount.high - mount.low, Kind.LENGTH, system)}"
    if not mount.low - ROUNDING <= setting <= mount.high + ROUNDING:
        raise EditError(f"The {name} goes from {limits}.")
    return setting
