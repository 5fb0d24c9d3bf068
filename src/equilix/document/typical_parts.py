"""Parts with the size, mounts and feet that parts of their kind usually have."""

from __future__ import annotations

from functools import lru_cache

from msgspec.structs import replace

from equilix.core.kit.parts import Category, Part
from equilix.document.kinds.makers import made_of
from equilix.document.kinds.naming import named_length, read_name
from equilix.document.kinds.records import Kinds, PartKind, shipped_kinds
from equilix.document.part_shapes import Size


def guess_category(name: str) -> Category:
    """Return what a part of that name counts as, OTHER if its name says nothing that is known."""
    kind = read_name(name).kind
    return kind.counts if kind is not None else Category.OTHER


def part_kind(category: Category, name: str, kinds: Kinds | None = None) -> PartKind:
    """Return the kind that a name says, if that counts as `category`, else the first of those that do."""
    said = read_name(name, kinds).kind
    return said if said is not None and said.counts is category else _plain_kinds(shipped_kinds())[category]


@lru_cache(maxsize=1)
def _plain_kinds(kinds: Kinds) -> dict[Category, PartKind]:
    """Return the kind for each category of which the name says no more: the first that counts as it."""
    found: dict[Category, PartKind] = {}
    for kind in kinds.kinds:
        found.setdefault(kind.counts, kind)
    return found


def typical(category: Category, part_id: str, name: str, mass: float | None, size_mm: Size | None = None) -> Part:
    """Return a part of `category` with the mounts and feet that such parts usually have.

    A size that isn't given is the usual one of its kind, common practice.
    """
    return typical_of(part_kind(category, name), part_id, name, mass, size_mm)


def typical_of(kind: PartKind, part_id: str, name: str, mass: float | None, size_mm: Size | None = None) -> Part:
    """Return a part of a kind, with the usual size where none is given; rods are as long as their name says."""
    long = named_length(name) if kind.counts is Category.RODS else None
    made = made_of(kind, part_id, name, None, size_mm, long)
    return replace(made, mass=mass, note="")
