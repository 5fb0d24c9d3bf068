"""What a support has of its own in the window: one module at most for each, made when it is first shown."""

from __future__ import annotations

from importlib import import_module
from importlib.util import find_spec

from PySide6.QtWidgets import QWidget

from equilix.desktop.workspace import Workspace


def bench_for(key: str, workspace: Workspace) -> QWidget | None:
    """Return the bench of the support called `key`, None if it has none; it has a method `refresh`."""
    name = f"equilix.supports.{key}.window"
    if find_spec(name) is None:
        return None
    found: QWidget = import_module(name).bench(workspace)
    return found
