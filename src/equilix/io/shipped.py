"""The books that ship with the program: the demo, and generic parts with builds to start from.

Every figure of the generic parts is common practice and is marked as estimated: 15 % on a mass, 10 % of the length on
a CG. The demo is made up: a small crew films the restoration of a wooden harbour ferry.
"""

from __future__ import annotations

from functools import cache

from equilix.core.assembly.build import Build
from equilix.core.kit.parts import Part
from equilix.data import DATA
from equilix.document.book import Book
from equilix.io.format import decode_book


def _shipped(name: str) -> Book:
    return decode_book((DATA / name).read_bytes(), name)


@cache
def demo_book() -> Book:
    """Return the demo book: one kit, builds on each support, and two operators."""
    return _shipped("demo.equilix")


@cache
def _generic() -> Book:
    return _shipped("catalogue.equilix")


def catalogue() -> tuple[Part, ...]:
    """Return the generic parts, in the order in which a rig is put together."""
    return _generic().kit


def starters() -> tuple[Build, ...]:
    """Return builds to start from, made of generic parts."""
    return _generic().builds


def starter_parts(build: Build) -> tuple[Part, ...]:
    """Return the generic parts that a starting build is made of."""
    wanted = {placed.part_id for placed in build.parts}
    return tuple(part for part in catalogue() if part.id in wanted)
