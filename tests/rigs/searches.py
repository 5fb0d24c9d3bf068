"""Rigs and helpers for tests of searches."""

from __future__ import annotations

from equilix.core.keys import KEYS
from equilix.core.registry import support_for
from equilix.io.shipped import demo_book

BOOK = demo_book()


#: On a tripod nobody carries the rig.
CARRYING = tuple(key for key in KEYS if support_for(key).carried)
