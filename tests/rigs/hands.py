"""Rigs and helpers for tests of hands."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from equilix.core.kit.parts import Category, Part
from tests.rigs.plain import grip

UP = np.array([0.0, 0.0, 1.0])


def handle(name: str) -> Part:
    return replace(grip(name), category=Category.HANDLE)
