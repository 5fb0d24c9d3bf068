"""Greatest and least values that a document may hold; the published schema states the same figures."""

from __future__ import annotations

import math

from equilix.core.errors import AssemblyError

#: kg. A rig on a body is tens of kilograms; the bound only keeps nonsense out of the sums.
MAX_MASS = 500.0
#: m.
MAX_LENGTH = 10.0
MAX_NAME = 200
#: m and kg, for operators.
STATURE = (1.2, 2.3)
BODY_MASS = (30.0, 250.0)


def check_number(value: float, low: float, high: float, what: str, unit: str = "") -> None:
    """Raise AssemblyError unless `value` is a finite number from `low` to `high`."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise AssemblyError(f"{what} must be a number.")
    if not low <= value <= high:
        raise AssemblyError(f"{what} must be from {low:g} to {high:g}{' ' + unit if unit else ''}, got {value:g}.")


def check_point(point: tuple[float, float, float], what: str) -> None:
    """Raise AssemblyError unless `point` is three finite coordinates (m) within the bounds."""
    if len(point) != 3:
        raise AssemblyError(f"{what} must have three coordinates.")
    for value in point:
        check_number(value, -MAX_LENGTH, MAX_LENGTH, what, "m")


def check_name(name: str, what: str) -> None:
    """Raise AssemblyError unless `name` is printable text of one line, not empty."""
    if not name.strip():
        raise AssemblyError(f"{what} must not be empty.")
    if len(name) > MAX_NAME:
        raise AssemblyError(f"{what} must have at most {MAX_NAME} characters.")
    if not name.isprintable():
        raise AssemblyError(f"{what} must be one line of plain text.")
