"""A book's own kinds: like one that ships with the program, but by other words, and of another mass and size."""

from __future__ import annotations

from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Point
from equilix.core.limits import MAX_LENGTH, MAX_MASS, check_count, check_name, check_number
from equilix.document.kinds.records import Kinds, PartKind, shipped_kinds

#: Words of one kind at most.
_MOST_WORDS = 50


class OwnKind(Struct, frozen=True):
    """A kind `like` another (its key) that is called by `words`; `mass` (kg) and `size` (m) where they are its own."""

    id: str
    words: tuple[str, ...]
    like: str
    mass: float | None = None
    size: Point | None = None

    def __post_init__(self) -> None:
        check_name(self.id, "A kind's id")
        check_name(self.like, "What a kind is like")
        check_count(self.words, _MOST_WORDS, "A kind's words")
        if not self.words:
            raise AssemblyError("A kind of your own has no words. Type at least one.")
        for word in self.words:
            check_name(word, "A word of a kind")
        if self.mass is not None:
            check_number(self.mass, 0.0, MAX_MASS, "A kind's mass", "kg")
        for side in self.size or ():
            check_number(side, 0.0, MAX_LENGTH, "A kind's size", "m")


@lru_cache(maxsize=16)
def kinds_with(own: tuple[OwnKind, ...]) -> Kinds:
    """Return the kinds that ship with the program and a book's own; those like none that is known are left out."""
    shipped = shipped_kinds()
    known = {kind.key: kind for kind in shipped.kinds}
    return shipped.with_kinds(tuple(_kind(one, known[one.like]) for one in own if one.like in known))


def _kind(one: OwnKind, like: PartKind) -> PartKind:
    size = tuple(round(1000.0 * side, 1) for side in one.size) if one.size is not None else like.size
    return replace(
        like,
        key=one.id,
        like=like.key,
        words=one.words,
        other={},
        mass=one.mass if one.mass is not None else like.mass,
        size=(size[0], size[1], size[2]),
    )
