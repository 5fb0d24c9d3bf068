"""The registry of supports: what lies in the folder `supports/<key>`, loaded when it is first asked for."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, Any

from equilix.core.keys import KEYS

if TYPE_CHECKING:
    from equilix.core.assembly.build import Settings
    from equilix.core.support import Support


@cache
def usual_settings(key: str) -> Settings:
    """Return the settings of the support called `key` as they usually are; its mechanics need not be loaded for them.

    Raises
    ------
    KeyError
        If there is none.
    """
    if key not in KEYS:
        raise KeyError(key)
    found: Settings = import_module(f"equilix.supports.{key}.settings").USUAL
    return found


@cache
def support_for(key: str) -> Support[Any, Any]:
    """Return the support called `key`; its module is loaded when it is first asked for.

    Raises
    ------
    KeyError
        If there is none.
    """
    if key not in KEYS:
        raise KeyError(key)
    found: Support[Any, Any] = import_module(f"equilix.supports.{key}.mechanics").SUPPORT
    return found
