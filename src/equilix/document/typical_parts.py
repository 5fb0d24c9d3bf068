"""Parts with the size, mounts and feet that parts of their kind usually have."""

from __future__ import annotations

from functools import cache

from msgspec.structs import replace

from equilix.core.kit.parts import Category, Part
from equilix.document.kinds.makers import made_of
from equilix.document.kinds.naming import named_length, read_name
from equilix.document.kinds.records import PartKind, shipped_kinds
from equilix.document.part_shapes import Size


def guess_category(name: str) -> Category:
    """Return what a part of that name counts as, OTHER if its name says nothing that is known."""
    kind = read_name(name).kind
    return kind.counts if kind is not None else Category.OTHER


def part_kind(category: Category, name: str) -> PartKind:
    """Return the kind that a name says, if that counts as `category`, else the first of those that do."""
    said = read_name(name).kind
    return said if said is not None and said.counts is category else _plain_kinds()[category]


@cache
def _plain_kinds() -> dict[Category, PartKind]:
    """Return the kind for each category of which the name says no more: the first that counts as it."""
    found: dict[Category, PartKind] = {}
    for kind in shipped_kinds().kinds:
        found.setdefault(kind.counts, kind)
    return found


def usual_size(category: Category, name: str) -> Size:
    """Return how large (mm) a part of that category and name usually is."""
    kind = part_kind(category, name)
    long = named_length(name) if category is Category.RODS else None
    return (long, *kind.size[1:]) if long is not None else kind.size


def typical(category: Category, part_id: str, name: str, mass: float | None, size_mm: Size | None = None) -> Part:
    """Return a part of `category` with the mounts and feet that such parts usually have.

    A size that isn't given is the usual one of its kind, common practice.
    """
    made = made_of(part_kind(category, name), part_id, name, None, size_mm or usual_size(category, name))
    return replace(made, mass=mass, note="")
