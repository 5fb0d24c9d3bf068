"""What can be done with sets of parts on a build, in words and edits."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.tree_order import reroot, taken_off
from equilix.core.sets import sets_of
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.document.edits.builds import heart_of
from equilix.document.edits.sets import ForgetSet, MakeSet, PutOnSet, RenameSet, TakeOffSet
from equilix.document.history import Edit
from equilix.present.units import System, figure
from equilix.present.words import short_name

#: Choices of one kind that a menu lists; a crew with more sets than this puts the rest on from their own builds.
MOST = 12


class SetChoice(Struct, frozen=True):
    """One thing to do: `words` on the link or in the menu, what is `said` once it is done, and the `edit`.

    Without an edit a name is asked for first: that of a new set of `members`, or another for the set `old`.
    """

    words: str
    said: str
    edit: Edit | None = None
    members: tuple[str, ...] = ()
    old: str = ""
    suggested: str = ""

    def listed(self, book: Book, build: Build) -> str:
        """Return the names of what a new set would hold."""
        return ", ".join(short_name(book.name_of(build.placed(one))) for one in self.members)

    def named(self, build_id: str, name: str) -> Edit:
        """Return the edit with the name that was asked for."""
        return RenameSet(build_id, self.old, name) if self.old else MakeSet(build_id, name, self.members)


class SetRow(Struct, frozen=True):
    """A set in the panel: what a click does with it, and what it is made of."""

    choice: SetChoice
    note: str


def set_rows(book: Book, build: Build, system: System) -> tuple[SetRow, ...]:
    """Return the sets of a build, then those that are off and could go on it."""
    on = [
        SetRow(_taking_off(build, name), f"{_made_of(book, parts, system)}{_inside(parts, name)}. On this build")
        for name, parts in sets_of(build).items()
    ]
    off = []
    for group in book.sets:
        came = f", taken off {short_name(book.part(group.onto).name)}" if group.onto else ""
        words = f"{_made_of(book, group.parts, system)}, off the build{came}"
        off.append(SetRow(_putting_on(build, group.id, group.name), words))
    return (*on, *off[:MOST])


def set_choices(book: Book, build: Build, selected: str) -> tuple[SetChoice, ...]:
    """Return all that can be done with sets here, what concerns the `selected` placed part first; "" for none."""
    found: list[SetChoice] = []
    there = sets_of(build)
    if selected:
        found += _for_part(book, build, there, selected)
    found += [_taking_off(build, name) for name in there]
    found += [_putting_on(build, group.id, group.name) for group in book.sets[:MOST]]
    found += _elsewhere(book, build)
    for name in there:
        found.append(SetChoice(f"Rename {name}…", f"Renamed {name}", old=name, suggested=name))
    for name in there:
        said = f"Removed the set {name}. Its parts stay on the build"
        found.append(SetChoice(f"Remove the set {name}, keep its parts on", said, MakeSet(build.id, name, ())))
    for group in book.sets[:MOST]:
        said = f"Removed the set {group.name}. Its parts stay in the kit"
        found.append(SetChoice(f"Remove the set {group.name}, keep its parts in the kit", said, ForgetSet(group.id)))
    return tuple(found)


def belongs_to(placed: Placed) -> str:
    """Return in words which sets a part belongs to, the innermost first; "" for none."""
    return f"In the set {', inside '.join(reversed(placed.sets))}." if placed.sets else ""


def _for_part(book: Book, build: Build, there: dict[str, tuple[Placed, ...]], selected: str) -> list[SetChoice]:
    """Return a new set of a part with all that hangs on it, and the sets that it could join or leave."""
    placed, heart = build.placed(selected), heart_of(build, book)
    name = short_name(book.name_of(placed))
    hung = build.carried_by(selected) if selected == heart else taken_off(build, selected, heart)
    more = len(hung) - 1
    along = f" and the {more} parts on it" if more > 1 else " and the part on it" if more else ""
    said = "Set made. S takes it off and puts it on"
    suggested = f"{name[:1].upper()}{name[1:]} set"
    found = []
    if not any({p.id for p in parts} == set(hung) for parts in there.values()):
        found.append(SetChoice(f"Make a set of {name}{along}…", said, members=tuple(hung), suggested=suggested))
    found += _other_side(book, build, there, selected, hung)
    joined = {p.id for p in build.parts if p.parent == selected} | {placed.parent}
    for other, parts in there.items():
        ids = tuple(p.id for p in parts)
        if selected in ids:
            if len(ids) > 1:
                left = tuple(i for i in ids if i != selected)
                said = f"{name} left the set {other}"
                found.append(SetChoice(f"Take {name} out of the set {other}", said, MakeSet(build.id, other, left)))
        elif joined & set(ids):
            found.append(
                SetChoice(
                    f"Put {name} into the set {other}",
                    f"{name} joined the set {other}",
                    MakeSet(build.id, other, (*ids, selected)),
                )
            )
    return found


def _other_side(
    book: Book, build: Build, there: dict[str, tuple[Placed, ...]], selected: str, hung: Sequence[str]
) -> list[SetChoice]:
    """Return a new set of what lies on the other side of the joint between a part and the camera."""
    other = tuple(placed.id for placed in build.parts if placed.id not in hung)
    if not other or any({p.id for p in parts} == set(other) for parts in there.values()):
        return []
    heart = heart_of(build, book)
    next_to = (build if selected == heart else reroot(build, heart)).placed(selected).parent
    if next_to is None:
        return []
    name = short_name(book.name_of(build.placed(next_to)))
    more = len(other) - 1
    along = f" and the {more} parts on its side" if more > 1 else " and the part on its side" if more else ""
    suggested = f"{name[:1].upper()}{name[1:]} set"
    said = "Set made. S takes it off and puts it on"
    return [SetChoice(f"Make a set of {name}{along}…", said, members=other, suggested=suggested)]


def _elsewhere(book: Book, build: Build) -> list[SetChoice]:
    """Return the sets of other builds of which no part is on this one."""
    used = {placed.part_id for placed in build.parts}
    found = []
    for other in book.builds:
        if other.id == build.id:
            continue
        for name, parts in sets_of(other).items():
            if used.isdisjoint(placed.part_id for placed in parts):
                edit = PutOnSet(build.id, on=other.id, name=name)
                found.append(SetChoice(f"Put on {name}, as on {other.name}", f"Put on {name}", edit))
    return found[:MOST]


def _taking_off(build: Build, name: str) -> SetChoice:
    return SetChoice(f"Take off {name}", f"Took off {name}. S puts it on again", TakeOffSet(build.id, name))


def _putting_on(build: Build, set_id: str, name: str) -> SetChoice:
    return SetChoice(f"Put on {name}", f"Put on {name}", PutOnSet(build.id, set_id))


def _made_of(book: Book, parts: tuple[Placed, ...], system: System) -> str:
    masses = [book.part(placed.part_id).mass for placed in parts]
    count = f"{len(parts)} part{'s' if len(parts) > 1 else ''}"
    known = [mass for mass in masses if mass is not None]
    missing = len(masses) - len(known)
    words = f"{count}, {figure(sum(known), Kind.MASS, system)}" if known else count
    return f"{words}, {missing} of them without mass" if missing and known else words


def _inside(parts: tuple[Placed, ...], name: str) -> str:
    around = parts[0].sets[: parts[0].sets.index(name)]
    return f", inside the set {around[-1]}" if around else ""
