"""The registry of supports: a key here, and one module of that name in `core/supports` and in `present/supports`."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING

from equilix.core.keys import KEYS

if TYPE_CHECKING:
    from equilix.core.supports.support import Support


@cache
def support_called(key: str) -> Support:
    """Return the support called `key`; its module is loaded when it is first asked for.

    Raises
    ------
    KeyError
        If there is none.
    """
    if key not in KEYS:
        raise KeyError(key)
    found: Support = import_module(f"equilix.core.supports.{key}").SUPPORT
    return found
