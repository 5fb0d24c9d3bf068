"""What holds for every book, wherever it comes from: ids are unique, and nothing names what is not there."""

from __future__ import annotations

import msgspec
from msgspec.structs import replace

from equilix.core.assembly.build import Build, check_build
from equilix.core.assembly.tree_order import canonical_root, levelled
from equilix.core.chosen import check_grasps, without_lost_grasps
from equilix.core.errors import AssemblyError, EditError
from equilix.core.limits import MAX_BOOK, MAX_THINGS, check_count
from equilix.core.sets import without_lost_grips
from equilix.document.book import Book

#: The book's lists and the word for one thing in each.
LISTS = {
    "kit": "part",
    "builds": "build",
    "operators": "operator",
    "instruments": "scale",
    "measurements": "weighing",
    "sets": "set",
    "kinds": "kind of part",
}


def check_book(book: Book) -> None:
    """Raise AssemblyError unless `book` holds together."""
    for name, word in LISTS.items():
        things = getattr(book, name)
        check_count(things, MAX_THINGS, f"{word.capitalize()}s")
        ids = [thing.id for thing in things]
        if len(set(ids)) != len(ids):
            twice = next(thing for thing in things if ids.count(thing.id) > 1)
            raise AssemblyError(f"Two {word}s have the id {twice.id!r}. Change one.")
    if not book.operators:
        raise AssemblyError("The list of operators is empty. Add one.")
    for build in book.builds:
        check_build(build, book.parts)
        check_grasps(build, book.parts)
    for group in book.sets:
        for part_id in (*(placed.part_id for placed in group.parts), *((group.onto,) if group.onto else ())):
            if part_id not in book.parts:
                raise AssemblyError(f"Set {group.name}: part {part_id!r} is not in the kit. Remove it from the set.")
    for weighing in book.measurements:
        for part_id in weighing.part_ids:
            if part_id not in book.parts:
                raise AssemblyError(f"Weighing {weighing.id!r} names part {part_id!r}, which is not in the kit.")
        if weighing.instrument and weighing.instrument not in book.scales:
            raise AssemblyError(
                f"Weighing {weighing.id!r} names scale {weighing.instrument!r}, which is not in the book."
            )


def check_room(book: Book, before: Book) -> None:
    """Raise EditError if an edit of `before` made a book that could be saved but not be opened again."""
    sizes = _sizes(before)
    for name, word in LISTS.items():
        things = getattr(book, name)
        if things is getattr(before, name):
            continue
        if len(things) > MAX_THINGS and len(things) > len(getattr(before, name)):
            raise EditError(f"A book holds at most {MAX_THINGS:,} {word}s; remove some first.")
        sizes[name] = len(msgspec.json.encode(things))
    if sum(sizes.values()) > MAX_BOOK:
        raise EditError(
            f"The book would be larger than {MAX_BOOK // 1_000_000} MB. Remove notes, weighings or parts first."
        )
    vars(book)["sizes"] = sizes


def _sizes(book: Book) -> dict[str, int]:
    """Return how many bytes of JSON each list of a book takes, as it was noted when the book was made."""
    known = vars(book).get("sizes")
    return dict(known) if known is not None else {k: len(msgspec.json.encode(getattr(book, k))) for k in LISTS}


def as_put_together(book: Book) -> Book:
    """Return `book` with every build hanging on the part from which it is put together; nothing about a rig changes."""
    builds = tuple(levelled(canonical_root(build), book.parts) for build in book.builds)
    same = all(new is old for new, old in zip(builds, book.builds, strict=True))
    return book if same else replace(book, builds=builds)


def _level_there(build: Build) -> Build:
    there = not build.level or any(placed.id == build.level for placed in build.parts)
    return build if there else replace(build, level="")


def without_lost_names(book: Book) -> tuple[Book, tuple[str, ...]]:
    """Return `book` without what names things that are not there but can be left out, and what was left out in words.

    Earlier versions kept a hand on a part that was taken off, and the scale of a weighing after the scale had gone.
    """
    said: list[str] = []
    builds = tuple(without_lost_grasps(build, book.parts) for build in book.builds)
    for build, mended in zip(book.builds, builds, strict=True):
        if mended is not build:
            said.append(f"Build {build.name}: a hand held a part that is gone. Equilix chose another place")
    levels = tuple(_level_there(build) for build in builds)
    for build, mended in zip(builds, levels, strict=True):
        if mended is not build:
            said.append(f"Build {build.name}: the part to level is gone. Its first part is used")
    builds = levels
    weighings = tuple(
        replace(m, instrument="") if m.instrument and m.instrument not in book.scales else m for m in book.measurements
    )
    lost = sum(m is not old for m, old in zip(weighings, book.measurements, strict=True))
    if lost:
        said.append(f"{lost} weighing{'s name' if lost > 1 else ' names'} a scale that is gone")
    sets = tuple(without_lost_grips(group) for group in book.sets)
    for group, left in zip(book.sets, sets, strict=True):
        if left is not group:
            said.append(f"a hand held the set {group.name} by a part that is not of it; now it is by itself")
    return (replace(book, builds=builds, measurements=weighings, sets=sets), tuple(said)) if said else (book, ())
