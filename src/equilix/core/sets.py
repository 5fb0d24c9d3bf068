"""Sets: named groups of placed parts that go on and come off a build as one, with their slides, joints and grips.

A set is a label on placed parts, so that whatever is done to a part it stays in its set. Only one joint ties a set to
the rest of its build. A set may lie inside another; two that overlap in part can't come off one by one and are refused.
Off its build it is kept with the joint that it came off.
"""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Grasp, Kit, Placed, check_build
from equilix.core.assembly.fit import Seat, first_setting, seat_at, spots
from equilix.core.assembly.mounts import FreeFoot, free_feet, free_mounts
from equilix.core.assembly.tree_order import canonical_root, reroot, without
from equilix.core.chosen import settings_of, with_settings, without_lost_grasps
from equilix.core.errors import AssemblyError
from equilix.core.limits import MAX_PLACED, check_count, check_line, check_name


class SetGrip(Struct, frozen=True):
    """Where a hand held a set: the support it was on, which hand, and the place."""

    support: str
    left: bool
    at: Grasp


class PartSet(Struct, frozen=True):
    """A set that is off: its placed parts, the first of them with the joint that it came off.

    `onto` is the part of the kit that it sat on, "" for a set that was all of its build.
    """

    id: str
    name: str
    parts: tuple[Placed, ...]
    onto: str = ""
    grips: tuple[SetGrip, ...] = ()

    def __post_init__(self) -> None:
        check_name(self.id, "A set's id")
        check_name(self.name, "A set's name")
        check_line(self.onto, "The part a set came off")
        check_count(self.parts, MAX_PLACED, f"Set {self.name}: parts")
        if not self.parts:
            raise AssemblyError(f"Set {self.name} has no parts. Remove the set.")
        first, *others = self.parts
        ids = {placed.id for placed in self.parts}
        if first.parent in ids:
            raise AssemblyError(
                f"Set {self.name} holds the part that carries it, {first.parent!r}. Take one of them out."
            )
        if (first.parent is None) != (not self.onto):
            raise AssemblyError(f"Set {self.name}: its first part must say where it came off.")
        loose = next((placed for placed in others if placed.parent not in ids), None)
        if loose is not None:
            raise AssemblyError(f"Set {self.name}: {loose.id!r} sits on no part of the set. Take it out.")
        # Circles and ids that stand twice are found as in any build.
        self.alone()

    def alone(self) -> Build:
        """Return the set as a build of its own."""
        return Build("set", self.name, (replace(self.parts[0], parent=None), *self.parts[1:]))


def sets_of(build: Build) -> dict[str, tuple[Placed, ...]]:
    """Return the sets of a build by name, an outer one before those inside it, each with its parts in part order."""
    found: dict[str, tuple[Placed, ...]] = {}
    for placed in build.parts:
        for name in placed.sets:
            found[name] = (*found.get(name, ()), placed)
    return dict(sorted(found.items(), key=lambda item: -len(item[1])))


def _members(build: Build, name: str) -> frozenset[str]:
    ids = frozenset(placed.id for placed in sets_of(build).get(name, ()))
    if not ids:
        raise AssemblyError(f"This build has no set called {name}.")
    return ids


def _hung(build: Build, name: str, ids: frozenset[str]) -> tuple[Build, Placed]:
    """Return the build rooted outside of a group, and the part by which the group hangs on it; its root if it is all.

    Raises
    ------
    AssemblyError
        If the group does not hang together.
    """
    outside = [placed for placed in build.parts if placed.id not in ids]
    if not outside:
        return build, build.parts[build.from_root()[0]]
    root = next((placed for placed in outside if placed.parent is None), outside[0])
    rooted = reroot(build, root.id)
    heads = [placed for placed in rooted.parts if placed.id in ids and placed.parent not in ids]
    if len(heads) != 1:
        raise AssemblyError(f"Set {name}: its parts must form one piece. Add what joins them, or take some out.")
    return rooted, heads[0]


def with_set(build: Build, name: str, ids: tuple[str, ...]) -> Build:
    """Return the build with these placed parts as the set `name`; with none the set is forgotten.

    Raises
    ------
    AssemblyError
        If they don't hang together, or share only some of their parts with another set.
    """
    check_name(name, "A set's name")
    wanted = frozenset(ids)
    for i in wanted:
        build.placed(i)
    if wanted:
        _hung(build, name, wanted)
    groups = {other: frozenset(p.id for p in parts) for other, parts in sets_of(build).items() if other != name}
    for other, members in groups.items():
        if wanted & members and wanted - members and members - wanted:
            raise AssemblyError(f"Set {name} holds only part of set {other}. Put one wholly inside the other.")
    if wanted:
        groups[name] = wanted
    # Outermost first; of two sets with the same parts the older one is the outer.
    order = sorted(groups, key=lambda other: -len(groups[other]))
    parts = tuple(replace(p, sets=tuple(other for other in order if p.id in groups[other])) for p in build.parts)
    return replace(build, parts=parts)


def take_set_off(build: Build, name: str, set_id: str) -> tuple[Build, PartSet]:
    """Return the build without a set, and the set under an id of its own.

    Raises
    ------
    AssemblyError
        If there is no such set, it doesn't hang together any more, or something else sits on it.
    """
    ids = _members(build, name)
    rooted, head = _hung(build, name, ids)
    on_it = [placed for placed in rooted.parts if placed.parent in ids and placed.id not in ids]
    if on_it:
        many = len(on_it) > 1
        said = f"{len(on_it)} parts outside the set {name} sit on it. Take them" if many else ""
        said = said or f"1 part outside the set {name} sits on it. Take it"
        raise AssemblyError(f"{said} off first, or put {'them' if many else 'it'} into it.")
    return without(build, ids), _kept(build, rooted, head, name, set_id)


def copied_set(build: Build, name: str, set_id: str) -> PartSet:
    """Return a set as it stands on a build, whatever else sits on it there; AssemblyError if there is none."""
    ids = _members(build, name)
    rooted, head = _hung(build, name, ids)
    return _kept(build, rooted, head, name, set_id)


def _kept(build: Build, rooted: Build, head: Placed, name: str, set_id: str) -> PartSet:
    """Return a set as it hangs by its `head` on the rest of `rooted`, which is the same build told from outside."""
    ids = _members(build, name)
    members = (head, *(placed for placed in rooted.parts if placed.id in ids and placed.id != head.id))
    # What lies around the set stays where it is; what lies inside goes along.
    parts = tuple(replace(p, sets=p.sets[p.sets.index(name) :]) for p in members)
    onto = rooted.placed(head.parent).part_id if head.parent is not None else ""
    return PartSet(set_id, name, parts, onto, _grips(build, ids))


def _grips(build: Build, ids: frozenset[str]) -> tuple[SetGrip, ...]:
    return tuple(
        SetGrip(settings.kind, left, grasp)
        for settings in build.supports
        for left, grasp in ((True, settings.hands.left), (False, settings.hands.right))
        if grasp is not None and grasp.placed_id in ids
    )


def without_lost_grips(group: PartSet) -> PartSet:
    """Return a set without hands on parts that are not of it."""
    ids = {placed.id for placed in group.parts}
    kept = tuple(grip for grip in group.grips if grip.at.placed_id in ids)
    return group if len(kept) == len(group.grips) else replace(group, grips=kept)


def put_set_on(build: Build, kit: Kit, group: PartSet) -> Build:
    """Return the build with a set on it: by the joint that it came off, or else by the first that fits.

    Raises
    ------
    AssemblyError
        If nothing on the build takes it, its place is taken, or a part of it is on the build already.
    """
    used = {placed.part_id for placed in build.parts}
    twice = next((placed for placed in group.parts if placed.part_id in used), None)
    if twice is not None:
        raise AssemblyError(
            f"{kit[twice.part_id].name} of set {group.name} is on this build already. Take it off first."
        )
    taken_names = set(sets_of(build))
    named = {name: _free(name, taken_names) for placed in group.parts for name in placed.sets}
    there = {placed.id for placed in build.parts}
    fresh: dict[str, str] = {}
    for placed in group.parts:
        fresh[placed.id] = _free(placed.id, there)
        there.add(fresh[placed.id])
    parts = tuple(
        replace(
            placed,
            id=fresh[placed.id],
            parent=fresh.get(placed.parent or ""),
            sets=tuple(named[name] for name in placed.sets),
        )
        for placed in group.parts
    )
    alone = replace(group.alone(), parts=parts)
    found = _by_its_joint(build, kit, group, parts) or _by_what_fits(build, kit, alone)
    if found is None:
        raise AssemblyError(
            f"No part of this build takes the set {group.name}"
            + (f". It came off {kit[group.onto].name}: put that on first." if group.onto in kit else ".")
        )
    for grip in without_lost_grips(group).grips:
        settings = settings_of(found, grip.support)
        hold, at = settings.hands, replace(grip.at, placed_id=fresh[grip.at.placed_id])
        # A hand that has found another place since keeps it.
        if grip.left and hold.left is None:
            found = with_settings(found, settings.with_hold(replace(hold, left=at)))
        elif not grip.left and hold.right is None:
            found = with_settings(found, settings.with_hold(replace(hold, right=at)))
    return without_lost_grasps(found, kit)


def _by_its_joint(build: Build, kit: Kit, group: PartSet, parts: tuple[Placed, ...]) -> Build | None:
    """Return the build with the set where it came off, None if that is not there; AssemblyError if it is taken."""
    if not group.onto:
        return replace(build, parts=parts) if not build.parts else None
    same = [placed.id for placed in build.parts if placed.part_id == group.onto]
    if not same:
        return None
    found = replace(build, parts=(*build.parts, replace(parts[0], parent=same[0]), *parts[1:]))
    check_build(found, kit)
    return canonical_root(found)


def _by_what_fits(build: Build, kit: Kit, alone: Build) -> Build | None:
    """Return the build with a set by the first place that takes it, its first parts before others, or None."""
    if not build.parts:
        return replace(build, parts=alone.parts)
    places = spots(build, kit)
    for placed_id, ends in _ends(alone, kit):
        part = kit[alone.placed(placed_id).part_id]
        for spot in places:
            seat = seat_at(build, kit, spot, part)
            if seat is None:
                continue
            # Under a foot the set brings the mount, on a mount it brings the foot.
            end = seat.mount if isinstance(spot, FreeFoot) else seat.foot
            if end in ends:
                parts = _seated(build, kit, alone, placed_id, seat)
                return canonical_root(replace(build, parts=(*build.parts, *parts)))
    return None


def _ends(alone: Build, kit: Kit) -> Iterator[tuple[str, frozenset[str | int]]]:
    """Yield the parts of a set, what carries it first, with their free mounts (ids) and free feet (numbers)."""
    found: dict[str, set[str | int]] = {placed.id: set() for placed in alone.parts}
    for mount in free_mounts(alone, kit):
        found[mount.placed_id].add(mount.mount.id)
    for foot in free_feet(alone, kit):
        found[foot.placed_id].add(foot.number)
    for k in alone.from_root():
        name = alone.parts[k].id
        if found[name]:
            yield name, frozenset(found[name])


def _seated(build: Build, kit: Kit, alone: Build, placed_id: str, seat: Seat) -> tuple[Placed, ...]:
    assert seat.spot is not None
    rooted = reroot(alone, placed_id)
    setting = first_setting(build, kit, seat.spot, seat.part)
    head = replace(seat.placed(placed_id, setting), sets=rooted.placed(placed_id).sets)
    return tuple(head if placed.id == placed_id else placed for placed in rooted.parts)


def _free(wanted: str, taken: set[str]) -> str:
    name, n = wanted, 2
    while name in taken:
        name, n = f"{wanted} {n}", n + 1
    return name
