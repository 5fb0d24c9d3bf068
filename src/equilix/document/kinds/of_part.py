"""What kind a part of the kit is: by its name, where that counts as the part does."""

from __future__ import annotations

from equilix.core.kit.parts import Category, Part
from equilix.document.kinds.naming import NameReading, read_name
from equilix.document.kinds.records import PartKind
from equilix.document.typical_parts import part_kind


def reading_of(part: Part) -> NameReading:
    """Return what a part's name says, or what it counts as where somebody has said so."""
    said = read_name(part.name)
    if said.kind is not None and said.kind.counts is part.category:
        return said
    if part.category is Category.OTHER:
        return NameReading(None, traits=said.traits)
    return NameReading(part_kind(part.category, part.name), traits=said.traits, length=said.length)


def kind_of_part(part: Part) -> PartKind:
    """Return the kind of a part that is on a build."""
    return part_kind(part.category, part.name)


def differs(part: Part) -> bool:
    """Whether nobody can know where a part goes: it is of no known kind, or goes elsewhere from rig to rig."""
    kind = reading_of(part).kind
    return kind is None or kind.ask
