"""Tests that take long: `./check all` runs them, and CI does; plain `./check` leaves them out."""

from __future__ import annotations

import os
import unittest
from typing import TypeVar

T = TypeVar("T")


def campaign(what: T) -> T:
    """Mark a test, or a class of them, as one that takes long."""
    return unittest.skipUnless(os.environ.get("EQUILIX_CHECK") == "all", "a campaign: ./check all")(what)  # type: ignore[type-var]
