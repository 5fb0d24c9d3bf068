"""What kind a part of the kit is: what somebody has said, else by its name, where that counts as the part does."""

from __future__ import annotations

from equilix.core.kit.parts import Category, Part
from equilix.document.kinds.naming import NameReading, read_name
from equilix.document.kinds.records import Kinds, PartKind
from equilix.document.typical_parts import part_kind


def reading_of(part: Part, kinds: Kinds) -> NameReading:
    """Return what kind a part is as far as it is known, and what else its name says."""
    said = read_name(part.name, kinds)
    chosen = kinds.find(part.kind)
    if chosen is not None and chosen.counts is part.category:
        return NameReading(chosen, traits=said.traits, length=said.length)
    if said.kind is not None and said.kind.counts is part.category:
        return said
    if part.category is Category.OTHER:
        return NameReading(None, traits=said.traits)
    return NameReading(part_kind(part.category, part.name, kinds), traits=said.traits, length=said.length)


def kind_of_part(part: Part, kinds: Kinds) -> PartKind:
    """Return the kind of a part that is on a build."""
    chosen = kinds.find(part.kind)
    if chosen is not None and chosen.counts is part.category:
        return chosen
    return part_kind(part.category, part.name, kinds)
