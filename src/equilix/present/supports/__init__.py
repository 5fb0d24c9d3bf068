"""What each support is called and what it says; the registry of its words."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, Any

from equilix.core.keys import KEYS

if TYPE_CHECKING:
    from equilix.core.analysis import Analysis
    from equilix.present.supports.text import SupportText


@cache
def text_for(key: str) -> SupportText[Any, Any]:
    """Return the words of the support called `key`; KeyError if there is none."""
    if key not in KEYS:
        raise KeyError(key)
    found: SupportText[Any, Any] = import_module(f"equilix.supports.{key}.text").TEXT
    return found


def text_of(analysis: Analysis) -> SupportText[Any, Any]:
    """Return the words of the support that a build is for."""
    return text_for(analysis.build.support)
