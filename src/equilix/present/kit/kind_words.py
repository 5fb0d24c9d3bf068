"""What a part is to people, in words beside it: as its name says or as somebody chose; and what choosing does."""

from __future__ import annotations

from msgspec.structs import replace

from equilix.core.errors import EditError
from equilix.core.kit.parts import Category, Outline, Part
from equilix.document.kinds.naming import NameReading, read_name
from equilix.document.kinds.of_part import kind_of_part
from equilix.document.kinds.records import Kinds, PartKind
from equilix.document.part_shapes import Size
from equilix.document.typical_parts import part_kind, typical_of


def kind_words(reading: NameReading) -> str:
    """Return what a part is called by what is read of it, with a question mark where that is asked."""
    kind = reading.kind
    if kind is None:
        return "not known"
    pair = ", a pair" if kind.counts is Category.RODS and kind.base != "rod_single" else ""
    return f"{kind.title}{pair}{'' if reading.sure else '?'}"


def titles_of(kinds: Kinds) -> tuple[tuple[str, str], ...]:
    """Return all kinds to choose from, a book's own first: what each is called, and its key."""
    return tuple((kind.title, kind.key) for kind in sorted(kinds.kinds, key=lambda kind: (not kind.like, kind.title)))


def read_kind(text: str, kinds: Kinds) -> PartKind:
    """Return the kind that was typed: its title, a word for it, or what it counts as; EditError if it is none."""
    wanted = text.strip().casefold()
    titled = next((kind for kind in kinds.kinds if kind.title.casefold() == wanted), None)
    if titled is not None:
        return titled
    counted = next((category for category in Category if category.value == wanted), None)
    found = part_kind(counted, "", kinds) if counted is not None else read_name(text, kinds).kind
    if found is None:
        raise EditError(f'"{text[:40]}" is not a kind of part. Choose one from the list.')
    return found


def key_for(name: str, kind: PartKind, kinds: Kinds) -> str:
    """Return what a part keeps of a chosen kind: its key, "" where its name says that for sure."""
    said = read_name(name, kinds)
    return "" if said.kind is kind and said.sure else kind.key


def usual(part: Part, kinds: Kinds, size_mm: Size | None = None) -> Part:
    """Return the part as its kind usually is, of a size (mm) if one is given."""
    return typical_of(kind_of_part(part, kinds), part.id, part.name, part.mass, size_mm)


def usual_outline(part: Part, kinds: Kinds) -> Outline | None:
    """Return the outline that a part of its kind gets when no size is given."""
    return usual(part, kinds).outline


def with_kind(part: Part, kind: PartKind, kinds: Kinds) -> Part:
    """Return the part as another kind; mounts follow the kind unless the part has its own already."""
    chosen = replace(part, category=kind.counts, kind=key_for(part.name, kind, kinds))
    size = in_mm(part.outline.size) if part.outline is not None else None
    as_usual = usual(part, kinds, size)
    if part.mounts != as_usual.mounts or part.feet != as_usual.feet:
        return chosen
    if part.outline is None or part.outline == usual_outline(part, kinds):
        size = None  # nobody measured it: the new kind has its own usual size
    elif size is not None:
        size = _laid(kind.counts, size)
    made = typical_of(kind, part.id, part.name, part.mass, size)
    return replace(chosen, mounts=made.mounts, feet=made.feet, outline=made.outline, cg=made.cg)


def in_mm(size: tuple[float, float, float]) -> Size:
    """Return a size (m) in mm."""
    return (size[0] * 1000.0, size[1] * 1000.0, size[2] * 1000.0)


def _laid(category: Category, size: Size) -> Size:
    """Return a size with its longest side where such parts are longest: grips hang, handles and rods lie."""
    longest = max(range(3), key=lambda k: size[k])
    wanted = {Category.GRIP: 2, Category.HANDLE: 0, Category.RODS: 0, Category.LENS: 0}.get(category, longest)
    sides = list(size)
    sides[longest], sides[wanted] = sides[wanted], sides[longest]
    return sides[0], sides[1], sides[2]
