"""A part in the hand: taken hold of on a rig with what hangs on it, or loose, and the places that it can have there."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.mounts import mount_of
from equilix.core.assembly.tree_order import canonical_root, reroot, taken_off, without
from equilix.core.errors import EditError
from equilix.core.kit.parts import Part
from equilix.core.limits import shortened
from equilix.document.book import Book
from equilix.document.edits.builds import ApplyPlan, heart_of
from equilix.document.kinds.assemble import places_on
from equilix.document.kinds.dropping import dropped_in_middle
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.places import JOINT_WORDS, Loose

#: Ids of what is not on the rig yet, and of a copy that is not in the kit.
_NEW, _COPY = "in hand", "copy in hand"


class HandPlace(Struct, frozen=True, eq=False):
    """A place that a part in the hand can have: onto which placed part, where it lies of that, and how it is joined."""

    onto: str
    relation: str
    how: str
    placed: Placed


class InHand(Struct, frozen=True, eq=False):
    """A `part` in the hand: `rest` is the rig `build` without it, `along` what hangs on it and comes along.

    `kit` are the parts of all of them, `placed_id` is what it is called on the rig, and `verb` what is done with it.
    """

    build: Build
    rest: Build
    kit: dict[str, Part]
    part: Part
    placed_id: str
    along: tuple[Placed, ...] = ()
    verb: str = "Put"

    @property
    def ids(self) -> tuple[str, ...]:
        """The placed ids of what is in the hand."""
        return (self.placed_id, *(placed.id for placed in self.along))

    def put(self, placed: Placed) -> Build:
        """Return the rig with the part, and what hangs on it, where `placed` has it."""
        old = next((one for one in self.build.parts if one.id == self.placed_id), None)
        sets = old.sets if old is not None else ()
        now = {one.id: one for one in (*self.rest.parts, *self.along)}
        now[self.placed_id] = replace(placed, id=self.placed_id, part_id=self.part.id, sets=sets)
        order = [one.id for one in self.build.parts if one.id in now]
        order += [one for one in now if one not in order]
        return canonical_root(replace(self.rest, parts=tuple(now[one] for one in order)))

    def edit(self, placed: Placed) -> ApplyPlan:
        """Return the edit that puts it there."""
        new = (self.part,) if self.part.id == _COPY else ()
        return ApplyPlan(self.put(placed), new, f"{self.verb} {self.part.name}{' on' if self.verb == 'Put' else ''}")


def take_hold(book: Book, build: Build, placed_id: str) -> InHand:
    """Return a part of a build in the hand; EditError if all that stands hangs on it."""
    placed = build.placed(placed_id)
    gone = frozenset(taken_off(build, placed_id, heart_of(build, book)))
    name = book.name_of(placed)
    if len(gone) == len(build.parts):
        raise EditError(f"The whole rig hangs on {name}. Move the other parts.")
    hung = reroot(build, placed_id).parts
    along = tuple(one for one in hung if one.id in gone and one.id != placed_id)
    return InHand(build, without(build, gone), dict(book.parts), book.part(placed.part_id), placed_id, along, "Move")


def loose_in_hand(book: Book, build: Build, part: Part) -> InHand:
    """Return a part of the kit that is not on a build in the hand."""
    return InHand(build, build, dict(book.parts), part, _NEW)


def copy_in_hand(book: Book, build: Build, placed_id: str) -> InHand:
    """Return a copy of a part of a build in the hand, a new one of the kit."""
    part = book.part(build.placed(placed_id).part_id)
    copy = replace(part, id=_COPY, name=shortened(part.name, " copy"), records=())
    return InHand(build, build, {**book.parts, _COPY: copy}, copy, _NEW, verb="Copy")


def usual_places(hand: InHand, book: Book) -> tuple[HandPlace, ...]:
    """Return the places that such a part usually has on the rig as it stands, the best one first."""
    kinds = book.known_kinds
    known = {one.id: kind_of_part(hand.kit[one.part_id], kinds) for one in hand.rest.parts}
    found = places_on(hand.rest, hand.kit, Loose(hand.part, reading_of(hand.part, kinds)), kinds, known)
    return tuple(HandPlace(one.onto, one.relation, one.how, one.placed) for one in found)


def face_places(hand: InHand, book: Book, holder: str) -> Iterator[HandPlace]:
    """Yield a place on each face of a placed part."""
    for where in ("top", "under", "ahead", "behind", "left", "right"):
        placed = dropped_in_middle(hand.rest, hand.kit, hand.part, holder, where, book.known_kinds)
        if placed is not None:
            yield HandPlace(holder, where, joined_by(hand, placed), placed)


def joined_by(hand: InHand, placed: Placed) -> str:
    """Return how a part would be joined, in words."""
    if placed.own is not None:
        return placed.own.name or JOINT_WORDS["screw"]
    mount = mount_of(placed, hand.put(placed), hand.kit)
    return str(mount.kind) if mount is not None else ""
