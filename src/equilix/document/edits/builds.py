"""Edits of builds: what is on them, where it sits and how it is set."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed, check_build
from equilix.core.assembly.fit import Seat
from equilix.core.assembly.mounts import FreeFoot, mount_of
from equilix.core.assembly.tree_order import canonical_root, levelled, taken_off, without
from equilix.core.chosen import settings_of, with_settings, without_lost_grasps
from equilix.core.errors import AssemblyError, EditError
from equilix.core.kit.parts import Category, Connection, Mount, Part, Point
from equilix.core.limits import shortened
from equilix.document.book import Book, new_build_id, new_id, new_part_id, new_placed_id


def _must_be_off(part: Part, build: Build) -> None:
    if any(placed.part_id == part.id for placed in build.parts):
        raise EditError(f"{part.name} is on this build already. Duplicate it in the kit if you own two.")


def with_parts(book: Book, build: Build, parts: tuple[Placed, ...]) -> Book:
    """Return `book` with `build` made of `parts`; EditError if they don't hold together.

    The tree is turned so that what has the mount comes before what has the foot, as far as that can be.
    """
    try:
        changed = replace(build, parts=parts)
        check_build(changed, book.parts)
        changed = levelled(canonical_root(without_lost_grasps(changed, book.parts)), book.parts)
    except AssemblyError as error:
        raise EditError(str(error)) from None
    return book.with_build(changed)


class AddBuild(Struct, frozen=True):
    """Add an empty build, or a given one."""

    build: Build
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Add build {self.build.name}"

    def apply(self, book: Book) -> Book:
        if any(old.id == self.build.id for old in book.builds):
            raise EditError(f"Build {self.build.name} has the id of another build. Change one.")
        return with_parts(book.with_build(self.build), self.build, self.build.parts)


class DuplicateBuild(Struct, frozen=True):
    """Add a copy of a build right after it, under a new name."""

    build_id: str
    name: str
    label: ClassVar[str] = "Duplicate build"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        at = book.builds.index(build) + 1
        copy = replace(build, id=new_build_id(book), name=shortened(self.name))
        return replace(book, builds=(*book.builds[:at], copy, *book.builds[at:]))


class RemoveBuild(Struct, frozen=True):
    """Take a build out of the book."""

    build_id: str
    label: ClassVar[str] = "Remove build"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        book.build(self.build_id)
        return replace(book, builds=tuple(b for b in book.builds if b.id != self.build_id))


class PlacePart(Struct, frozen=True):
    """Put a part of the kit on a mount of a build, or down as its first part (`parent` None).

    With `under`, the number of a free foot of `parent`, the new part goes below it: that foot on its own `mount`.
    """

    build_id: str
    part_id: str
    parent: str | None = None
    mount: str = ""
    setting: float = 0.0
    under: int | None = None
    merge_key: ClassVar[None] = None
    label: ClassVar[str] = "Put part on"

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        part = book.part(self.part_id)
        _must_be_off(part, build)
        placed_id = new_placed_id(build)
        if self.parent is None:
            if build.parts:
                raise EditError("Only the first part sits on nothing. Choose a mount.")
            return with_parts(book, build, (Placed(placed_id, part.id),))
        if self.under is not None:
            return self._below(book, build, part, placed_id)
        try:
            mount = book.part(build.placed(self.parent).part_id).mount(self.mount)
        except AssemblyError as error:
            raise EditError(str(error)) from None
        foot = next((i for i, foot in enumerate(part.feet) if foot.kind is mount.kind), None)
        if foot is None:
            raise EditError(f"{part.name} does not fit {mount.kind}. Choose another mount.")
        placed = Placed(placed_id, part.id, self.parent, self.mount, foot, mount.snap(self.setting))
        return with_parts(book, build, (*build.parts, placed))

    def _below(self, book: Book, build: Build, part: Part, placed_id: str) -> Book:
        try:
            setting = part.mount(self.mount).snap(self.setting)
        except AssemblyError as error:
            raise EditError(str(error)) from None
        foot = self.under or 0
        placed = Placed(placed_id, part.id, self.parent, self.mount, foot, setting, reversed=True)
        return with_parts(book, build, (*build.parts, placed))


def placing(build_id: str, seat: Seat, setting: float) -> PlacePart:
    """Return the edit that puts a part where `seat` says."""
    if seat.spot is None:
        return PlacePart(build_id, seat.part.id)
    under = seat.spot.number if isinstance(seat.spot, FreeFoot) else None
    return PlacePart(build_id, seat.part.id, seat.spot.placed_id, seat.mount, setting, under)


class JoinOwn(Struct, frozen=True):
    """Put a part of the kit on a build by a connection of the user's own: `own` in the frame of `parent` and
    `own_foot` (m) in the part's own, for what no mount is known for."""

    build_id: str
    part_id: str
    parent: str
    own: Mount
    own_foot: Point
    quarter_turns: int = 0
    merge_key: ClassVar[None] = None
    label: ClassVar[str] = "Put part on"

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        part = book.part(self.part_id)
        _must_be_off(part, build)
        try:
            build.placed(self.parent)
            placed = Placed(
                new_placed_id(build),
                part.id,
                self.parent,
                setting=self.own.snap(0.0),
                quarter_turns=self.quarter_turns,
                own=self.own,
                own_foot=self.own_foot,
            )
        except AssemblyError as error:
            raise EditError(str(error)) from None
        return with_parts(book, build, (*build.parts, placed))


def heart_of(build: Build, book: Book) -> str:
    """Return the placed part that a rig is built round: the first camera, else the root; "" for an empty build."""
    cameras = [p.id for p in build.parts if book.part(p.part_id).category is Category.BODY]
    roots = [p.id for p in build.parts if p.parent is None]
    return (cameras or roots or [""])[0]


class TakeOff(Struct, frozen=True):
    """Take a part off a build, and what then hangs on the camera no more."""

    build_id: str
    placed_id: str
    label: ClassVar[str] = "Take part off"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        try:
            build.placed(self.placed_id)
            left = without(build, frozenset(taken_off(build, self.placed_id, heart_of(build, book))))
        except AssemblyError as error:
            raise EditError(str(error)) from None
        return with_parts(book, left, left.parts)


class SetSlide(Struct, frozen=True):
    """Move a part along its slide (m) or turn it on its rosette (rad), to the nearest detent."""

    build_id: str
    placed_id: str
    setting: float
    name: str = ""

    @property
    def label(self) -> str:
        return f"Slide {self.name}" if self.name else "Slide part"

    @property
    def merge_key(self) -> tuple[str, ...]:
        return ("setting", self.build_id, self.placed_id)

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        try:
            placed = build.placed(self.placed_id)
            mount = mount_of(placed, build, book.parts)
        except AssemblyError as error:
            raise EditError(str(error)) from None
        if mount is None or mount.joint is Connection.FIXED:
            raise EditError(f"{book.name_of(placed)} is fixed: it neither slides nor turns.")
        return book.with_build(build.with_placed(replace(placed, setting=mount.snap(self.setting))))


class QuarterTurn(Struct, frozen=True):
    """Turn a part by a quarter to the left about its upright axis."""

    build_id: str
    placed_id: str
    label: ClassVar[str] = "Turn part"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        try:
            placed = build.placed(self.placed_id)
        except AssemblyError as error:
            raise EditError(str(error)) from None
        return book.with_build(build.with_placed(replace(placed, quarter_turns=(placed.quarter_turns + 1) % 4)))


class SwapOrder(Struct, frozen=True):
    """Put a part one place earlier (`by` -1) or later (+1) in part order."""

    build_id: str
    placed_id: str
    by: int
    label: ClassVar[str] = "Reorder parts"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        build = book.build(self.build_id)
        order = list(build.parts)
        at = next((i for i, p in enumerate(order) if p.id == self.placed_id), None)
        if at is None or not 0 <= at + self.by < len(order):
            raise EditError("It is at the end of the order already.")
        order[at], order[at + self.by] = order[at + self.by], order[at]
        return with_parts(book, build, tuple(order))


def _sets_of_swapped(placed: Placed, before: Placed | None) -> tuple[str, ...]:
    """Return the sets of a planned part: one that comes in the place of another belongs where that one did."""
    there = before is not None and not placed.sets and placed.parent == before.parent
    return before.sets if before is not None and there else placed.sets


class ApplyPlan(Struct, frozen=True, eq=False):
    """Put a planned build in the place of the one it was made from, with the parts that the kit lacks."""

    build: Build
    new_parts: tuple[Part, ...] = ()
    label: str = "Apply way"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        old = book.build(self.build.id)
        names: dict[str, str] = {}
        for part in self.new_parts:
            names[part.id] = new_part_id(book)
            book = book.with_part(replace(part, id=names[part.id]))
        before = {placed.id: placed for placed in old.parts}
        taken = set(before)
        placed_names: dict[str, str] = {}
        for placed in self.build.parts:
            if placed.id not in before:
                placed_names[placed.id] = new_id("p", taken)
                taken.add(placed_names[placed.id])
        parts = tuple(
            replace(
                placed,
                id=placed_names.get(placed.id, placed.id),
                part_id=names.get(placed.part_id, placed.part_id),
                parent=placed_names.get(placed.parent, placed.parent) if placed.parent is not None else None,
                sets=_sets_of_swapped(placed, before.get(placed.id)),
            )
            for placed in self.build.parts
        )
        # What holds it may have been slid too.
        held = with_settings(old, settings_of(self.build, self.build.support))
        return with_parts(book, replace(held, level=self.build.level), parts)


class ChangeBuild(Struct, frozen=True):
    """Put `build` in the place of the one with its id, for its pad, note or support figures.

    With `merges`, changes of the same thing in a row are one step: arrow keys run through a list's entries.
    """

    build: Build
    what: str
    merges: bool = False

    @property
    def merge_key(self) -> tuple[str, ...] | None:
        return ("change", self.build.id, self.what) if self.merges else None

    @property
    def label(self) -> str:
        return f"Change {self.what}"

    def apply(self, book: Book) -> Book:
        book.build(self.build.id)
        return with_parts(book, self.build, self.build.parts)
