"""Rigs and helpers for tests of kits."""

from __future__ import annotations

from equilix.io.shipped import demo_book

BOOK = demo_book()
