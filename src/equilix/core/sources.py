"""Where a constant comes from, declared where it stands: `docs/make-sources` lists them.

Each function returns its value as it is.
"""

from __future__ import annotations

from typing import TypeVar

T = TypeVar("T")


def published(value: T, source: str) -> T:
    """Return a value that stands in a `source` that was at hand."""
    return value


def from_memory(value: T, source: str = "") -> T:
    """Return a value written down without its `source` at hand."""
    return value


def common_practice(value: T) -> T:
    """Return a fact of the trade, or a usual choice."""
    return value


def assumed(value: T) -> T:
    """Return a value without a source; none decides a verdict alone."""
    return value
