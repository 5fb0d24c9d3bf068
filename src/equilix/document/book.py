"""The document: a kit of parts, the builds made of it and the people who wear them."""

from __future__ import annotations

from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Operator, Placed
from equilix.core.errors import EditError
from equilix.core.kit.parts import Part
from equilix.core.kit.records import Instrument, Measurement
from equilix.core.limits import check_name
from equilix.core.sets import PartSet
from equilix.document.kinds.own import OwnKind, kinds_with
from equilix.document.kinds.records import Kinds

DEFAULT_OPERATOR = Operator("op1", "Operator")


class Book(Struct, frozen=True, dict=True):
    """Everything that one file holds. Never changed in place; edits return new ones that share the rest.

    `sets` are those that are off; those that are on are told by the placed parts themselves. `kinds` are its own.
    """

    title: str = "New book"
    currency: str = "€"
    kit: tuple[Part, ...] = ()
    builds: tuple[Build, ...] = ()
    operators: tuple[Operator, ...] = (DEFAULT_OPERATOR,)
    instruments: tuple[Instrument, ...] = ()
    measurements: tuple[Measurement, ...] = ()
    sets: tuple[PartSet, ...] = ()
    kinds: tuple[OwnKind, ...] = ()

    def __post_init__(self) -> None:
        check_name(self.title, "The book's title")
        check_name(self.currency, "The currency")

    @cached_property
    def parts(self) -> dict[str, Part]:
        """The kit by part id."""
        return {part.id: part for part in self.kit}

    @cached_property
    def scales(self) -> dict[str, Instrument]:
        """The scales by id."""
        return {instrument.id: instrument for instrument in self.instruments}

    @property
    def known_kinds(self) -> Kinds:
        """The kinds that its parts can be of: its own and those that ship with the program."""
        return kinds_with(self.kinds)

    def part(self, part_id: str) -> Part:
        """Return the part called `part_id`; EditError if the kit has none."""
        try:
            return self.parts[part_id]
        except KeyError:
            raise EditError("That part is not in the kit any more.") from None

    def build(self, build_id: str) -> Build:
        """Return the build called `build_id`; EditError if there is none."""
        for build in self.builds:
            if build.id == build_id:
                return build
        raise EditError("That build is gone from the book.")

    def operator(self, operator_id: str) -> Operator:
        """Return the operator called `operator_id`, or the first one."""
        return next((op for op in self.operators if op.id == operator_id), self.operators[0])

    def with_part(self, part: Part) -> Book:
        """Return the book with `part` in the place of the one with its id, or added."""
        if part.id in self.parts:
            return replace(self, kit=tuple(part if old.id == part.id else old for old in self.kit))
        return replace(self, kit=(*self.kit, part))

    def with_build(self, build: Build) -> Book:
        """Return the book with `build` in the place of the one with its id, or added."""
        if any(old.id == build.id for old in self.builds):
            return replace(self, builds=tuple(build if old.id == build.id else old for old in self.builds))
        return replace(self, builds=(*self.builds, build))

    def name_of(self, placed: Placed) -> str:
        """Return the name of the part that `placed` is."""
        return self.part(placed.part_id).name


def new_id(prefix: str, taken: set[str]) -> str:
    """Return `prefix` with the least number that makes it an id not in `taken`."""
    number = len(taken) + 1
    while f"{prefix}{number}" in taken:
        number += 1
    return f"{prefix}{number}"


def new_part_id(book: Book) -> str:
    """Return an id that no part of the book has."""
    return new_id("part", set(book.parts))


def new_build_id(book: Book) -> str:
    """Return an id that no build of the book has."""
    return new_id("build", {build.id for build in book.builds})


def new_set_id(book: Book) -> str:
    """Return an id that no set that is off has."""
    return new_id("set", {group.id for group in book.sets})


def new_measurement_ids(book: Book, count: int) -> tuple[str, ...]:
    """Return `count` ids that no measurement of the book has."""
    taken = {measurement.id for measurement in book.measurements}
    # Figures go on naming weighings that were thrown away: a new one must not pass for such.
    taken.update(name for part in book.kit for record in part.records for name in record.stamp.source)
    found: list[str] = []
    for _ in range(count):
        found.append(new_id("m", taken))
        taken.add(found[-1])
    return tuple(found)


def new_placed_id(build: Build) -> str:
    """Return an id that no placed part of `build` has."""
    return new_id("p", {placed.id for placed in build.parts})
