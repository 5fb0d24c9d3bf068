"""What each support is called and what it says; the registry of its words."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING

from equilix.core.keys import KEYS

if TYPE_CHECKING:
    from equilix.core.analysis import Analysis
    from equilix.present.supports.view import SupportView


@cache
def words_for(key: str) -> SupportView:
    """Return the words of the support called `key`; KeyError if there is none."""
    if key not in KEYS:
        raise KeyError(key)
    found: SupportView = import_module(f"equilix.present.supports.{key}").VIEW
    return found


def view_of(analysis: Analysis) -> SupportView:
    """Return the words of the support that a build is for."""
    return words_for(analysis.build.support)


__all__ = ["KEYS", "view_of", "words_for"]
