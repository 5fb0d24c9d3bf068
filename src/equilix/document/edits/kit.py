"""Edits of the kit."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import check_build
from equilix.core.chosen import without_lost_grasps
from equilix.core.errors import AssemblyError, EditError
from equilix.core.kit.parts import Part
from equilix.core.kit.records import Stamp
from equilix.core.limits import shortened
from equilix.document.book import Book, new_part_id
from equilix.document.provenance import stamped


def _settled(book: Book) -> Book:
    """Return `book` with no hand on a place that its part doesn't offer any more."""
    builds = tuple(without_lost_grasps(build, book.parts) for build in book.builds)
    changed = any(new is not old for new, old in zip(builds, book.builds, strict=True))
    return replace(book, builds=builds) if changed else book


class AddParts(Struct, frozen=True):
    """Add parts at the end of the kit; their ids must be new. `stamp` says who gave their figures."""

    parts: tuple[Part, ...]
    stamp: Stamp | None = None
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Add {self.parts[0].name}" if len(self.parts) == 1 else f"Add {len(self.parts)} parts"

    def apply(self, book: Book) -> Book:
        for part in self.parts:
            if part.id in book.parts:
                raise EditError(f"{part.name} has the id of another part. Change one.")
        stamp = self.stamp
        parts = self.parts if stamp is None else tuple(stamped(None, part, stamp) for part in self.parts)
        return replace(book, kit=(*book.kit, *parts))


class ChangePart(Struct, frozen=True):
    """Put `part` in the place of the one with its id; `what` names the figure for the undo step.

    With a `stamp` every changed figure leaves a record. With `merges`, changes of the same thing in a row are one step.
    """

    part: Part
    what: str
    stamp: Stamp | None = None
    merges: bool = False

    @property
    def merge_key(self) -> tuple[str, ...] | None:
        return ("part", self.part.id, self.what) if self.merges else None

    @property
    def label(self) -> str:
        return f"Change {self.what} of {self.part.name}"

    def apply(self, book: Book) -> Book:
        old = book.part(self.part.id)
        changed = _settled(book.with_part(self.part if self.stamp is None else stamped(old, self.part, self.stamp)))
        for build in changed.builds:
            if any(placed.part_id == self.part.id for placed in build.parts):
                try:
                    check_build(build, changed.parts)
                except AssemblyError as error:
                    raise EditError(f"{error} Take it off there first.") from None
        return changed


class DuplicatePart(Struct, frozen=True):
    """Add a copy of a part right below it."""

    part_id: str
    label: ClassVar[str] = "Duplicate part"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        part = book.part(self.part_id)
        at = book.kit.index(part) + 1
        # What was measured was the other one.
        copy = replace(part, id=new_part_id(book), name=shortened(part.name, " copy"), records=())
        return replace(book, kit=(*book.kit[:at], copy, *book.kit[at:]))


class RemoveParts(Struct, frozen=True):
    """Take parts out of the kit, with the measurements that they were in; refused while a build uses one."""

    part_ids: tuple[str, ...]
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return "Remove part" if len(self.part_ids) == 1 else f"Remove {len(self.part_ids)} parts"

    def apply(self, book: Book) -> Book:
        gone = set(self.part_ids)
        for build in book.builds:
            for placed in build.parts:
                if placed.part_id in gone:
                    raise EditError(f"{book.name_of(placed)} is on build {build.name}. Take it off there first.")
        for group in book.sets:
            if gone & ({placed.part_id for placed in group.parts} | {group.onto}):
                raise EditError(f"The set {group.name} needs that part. Remove the set in Build first.")
        return replace(
            book,
            kit=tuple(part for part in book.kit if part.id not in gone),
            measurements=tuple(m for m in book.measurements if gone.isdisjoint(m.part_ids)),
        )


class MergeParts(Struct, frozen=True):
    """Add new parts and put changed ones in the place of those with their ids, all or nothing."""

    new: tuple[Part, ...]
    changed: tuple[Part, ...]
    stamp: Stamp
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Import {self._count}"

    @property
    def done(self) -> str:
        """What is said once it is applied."""
        return f"Imported {self._count}"

    @property
    def _count(self) -> str:
        count = len(self.new) + len(self.changed)
        return f"{count} part{'' if count == 1 else 's'}"

    def apply(self, book: Book) -> Book:
        for part in self.new:
            if part.id in book.parts:
                raise EditError(f"{part.name} has the id of another part. Change one.")
        changed = {part.id: stamped(book.part(part.id), part, self.stamp) for part in self.changed}
        kit = (
            *(changed.get(part.id, part) for part in book.kit),
            *(stamped(None, part, self.stamp) for part in self.new),
        )
        merged = _settled(replace(book, kit=kit))
        try:
            for build in merged.builds:
                check_build(build, merged.parts)
        except AssemblyError as error:
            raise EditError(str(error)) from None
        return merged
