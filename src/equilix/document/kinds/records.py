"""Kinds of parts, one record each in one file of the program's data: all of them common practice."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

import msgspec
from msgspec import Struct

from equilix.core.kit.parts import Category, MountKind
from equilix.data import DATA

#: What stands before a category in a list of holders: every kind that counts as it.
_ALL = "*"


class SeatRule(Struct, frozen=True):
    """One place where such a part goes: `where` it lies of a holder of the kinds `on`, joined `by` the first that fits.

    `at` are the fractions of the half size on the holder's face, ahead and to the left (on a side: ahead and up).
    `less_on` names supports on which people rather don't.
    """

    where: str
    on: tuple[str, ...]
    by: tuple[str, ...] = ()
    slides: bool = False
    at: tuple[float, float] = (0.0, 0.0)
    less_on: tuple[str, ...] = ()

    def ranks(self, kind: PartKind) -> int | None:
        """Return how early such a holder is named, None if it is not."""
        names = (kind.key, kind.base, f"{_ALL}{kind.counts.value}")
        found = (k for k, one in enumerate(self.on) if one in names)
        return next(found, None)


class PartKind(Struct, frozen=True):
    """A kind of part: its words, what it counts as in the mechanics, usual mass (kg) and size (mm), and where it goes.

    A word that ends in a question mark is vague. `other` are words of other languages, by their code. `made` names the
    maker of its mounts and feet, `faces` what each takes; it is drawn as what it counts as. Of `one` a rig has one;
    `ask` differs from rig to rig; what it `needs` may go between as a typical piece. It does no job on the supports
    `idle_on`. A book's own kind is `like` another.
    """

    key: str
    words: tuple[str, ...]
    counts: Category
    mass: float
    size: tuple[float, float, float]
    made: str
    step: str
    seats: tuple[SeatRule, ...] = ()
    faces: dict[str, tuple[str, ...]] = {}
    one: bool = False
    ask: bool = False
    needs: str = ""
    other: dict[str, tuple[str, ...]] = {}
    idle_on: tuple[str, ...] = ()
    like: str = ""

    def __hash__(self) -> int:
        return hash(self.key)

    @property
    def base(self) -> str:
        """The key of the kind that it is like, its own for one that ships with the program."""
        return self.like or self.key

    @property
    def title(self) -> str:
        """What it is called: its first word."""
        return self.words[0].removesuffix("?")

    def phrases(self) -> Iterator[tuple[str, bool]]:
        """Yield its words in all languages, each with whether it is vague."""
        for word in (*self.words, *(word for words in self.other.values() for word in words)):
            yield word.removesuffix("?"), word.endswith("?")


class Kinds(Struct, frozen=True):
    """All kinds, and by which mounts each way of joining is made.

    `claims` are kinds in the order in which they claim their places, what others go on first; `anchors` those that
    stand first, the best one at the front; `pieces_of` a support's key, what its own pieces count as.
    """

    kinds: tuple[PartKind, ...]
    by: dict[str, tuple[MountKind, ...]]
    claims: tuple[str, ...] = ()
    anchors: tuple[str, ...] = ()
    pieces_of: dict[str, tuple[Category, ...]] = {}

    def kind(self, key: str) -> PartKind:
        """Return the kind with that key; KeyError if there is none."""
        return _by_key(self)[key]

    def find(self, key: str) -> PartKind | None:
        """Return the kind with that key, None if there is none."""
        return _by_key(self).get(key)

    def with_kinds(self, own: tuple[PartKind, ...]) -> Kinds:
        """Return these kinds after a book's own, whose words come before theirs."""
        return msgspec.structs.replace(self, kinds=(*own, *self.kinds)) if own else self

    def __hash__(self) -> int:
        return id(self)


@cache
def shipped_kinds() -> Kinds:
    """Return the kinds that ship with the program."""
    return msgspec.json.decode((DATA / "kinds.json").read_bytes(), type=Kinds)


@cache
def _by_key(kinds: Kinds) -> dict[str, PartKind]:
    return {kind.key: kind for kind in kinds.kinds}
