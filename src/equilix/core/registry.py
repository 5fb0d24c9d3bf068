"""Supports: each a class of its own; this is the registry."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from equilix.core.supports.support import Support

#: Key, module and class of every support, in the order in which rooms offer them.
_REGISTRY = {
    "shoulder": ("equilix.core.supports.shoulder", "TheShoulder"),
    "handheld": ("equilix.core.supports.handheld", "InTheHands"),
}
KEYS = tuple(_REGISTRY)


@cache
def support_called(key: str) -> Support:
    """Return the support called `key`; its module is loaded when it is first asked for.

    Raises
    ------
    KeyError
        If there is none.
    """
    module, name = _REGISTRY[key]
    found: Support = getattr(import_module(module), name)()
    return found
