"""What counts as nothing: differences that are only rounding, or too small for anybody to set or see."""

from __future__ import annotations

import numpy as np

#: Of lengths (m), masses (kg), moments (N m) and shares: what two ways to the same figure may differ by.
ROUNDING = 1e-9
#: m, kg or kg m: what no scale is set to and no hand can feel.
SLIGHT = 1e-6
#: Of numbers near 1: the last digits that a computer keeps.
EXACT = 1e-12


def largest(values: np.ndarray) -> float:
    """The largest size that a figure of an array has, either way; 0 of none."""
    return float(np.abs(values).max(initial=0.0))


def negligible(value: float, least: float = ROUNDING) -> bool:
    """Whether a figure counts as nothing: it is no larger than `least`, either way."""
    return abs(value) <= least


def lacking(amount: float) -> bool:
    """Whether there is none of a mass, a length or a stiffness, so that nothing can be divided by it."""
    return amount <= 0.0


def as_cosine(value: float) -> float:
    """Return a cosine or a sine that rounding, or more load than there is to hold, may have taken beyond 1."""
    return min(max(value, -1.0), 1.0)


def at_an_end(value: float, low: float, high: float) -> bool:
    """Whether a figure lies at either end of what it may be, or beyond it."""
    return min(value - low, high - value) <= SLIGHT


def lies_between(value: float, low: float, high: float) -> bool:
    """Whether a figure lies between two ends, or at one of them but for rounding."""
    return min(value - low, high - value) >= -ROUNDING
