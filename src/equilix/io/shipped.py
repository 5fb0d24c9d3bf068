"""The books that ship with the program: the demo, and generic parts with builds to start from.

Every figure of the generic parts is common practice and is marked as estimated: 15 % on a mass, 10 % of the length on
a CG. The demo is made up: a small crew films the restoration of a wooden harbour ferry.
"""

from __future__ import annotations

from functools import cache

from msgspec.structs import replace

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


#: By support, the starting build that a rig on it is made of, and what that is called.
_FIRST = {
    "shoulder": ("start-documentary", "Documentary shoulder rig"),
    "handheld": ("start-stills", "Light rig in the hands"),
    "harness": ("start-documentary", "Documentary rig on a harness"),
    "gimbal": ("start-gimbal-m", "Gimbal, middle"),
    "vest": ("start-sled-m", "Sled, middle"),
    "tripod": ("start-cinema", "Cinema rig on a tripod"),
}


def first_rigs() -> tuple[Build, ...]:
    """Return one rig to begin from for each support, in their order."""
    by_id = {build.id: build for build in starters()}
    return tuple(
        replace(by_id[start], id=f"{start}-{key}", name=name, support=key) for key, (start, name) in _FIRST.items()
    )


def starter_parts(build: Build) -> tuple[Part, ...]:
    """Return the generic parts that a starting build is made of."""
    wanted = {placed.part_id for placed in build.parts}
    return tuple(part for part in catalogue() if part.id in wanted)
