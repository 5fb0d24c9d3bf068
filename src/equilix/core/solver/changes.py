"""What a way changes, counted from the two builds, and how long that takes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from enum import StrEnum

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.mounts import mount_of
from equilix.core.kit.parts import RODS, Connection
from equilix.core.rounding import negligible
from equilix.core.solver.choices import in_old_order
from equilix.core.solver.effort import (
    PASS,
    SLIDE,
    TURN,
    follower_seconds,
    placing_seconds,
    removal_seconds,
    slide_seconds,
)
from equilix.core.solver.plan import STAYS
from equilix.core.solver.search_space import lens_followers
from equilix.core.sources import common_practice

#: m: to less than this nobody sets a mark.
_TO_THE_MARK = common_practice(0.0005)


class ChangeKind(StrEnum):
    SLIDE = "slide"
    TURN = "turn"
    MOVE = "move"
    SWAP = "swap"
    PUT_ON = "put on"
    TAKE_OFF = "take off"
    HOLDER = "slide holder"


class Change(Struct, frozen=True):
    """One change: which placed part, from where to where (m or rad, along its slide), and how long it takes (s).

    `along` are slides that go along with it, `past` are parts on the same rods: it is taken off and put on again beyond
    them. What holds the rig has no placed part.
    """

    kind: ChangeKind
    placed_id: str
    seconds: float
    start: float = 0.0
    end: float = 0.0
    along: tuple[str, ...] = ()
    past: tuple[str, ...] = ()


def changes_of(before: Analysis, after: Build, kit: Kit) -> tuple[Change, ...]:
    """Return what tells `after` from the build that was analysed, `kit` holding the parts of both."""
    build = before.build
    old, new = ({placed.id: placed for placed in one.parts} for one in (build, after))
    moved = {
        i: placed
        for i, placed in new.items()
        if i in old and _joined(old[i]) == _joined(placed) and not negligible(placed.setting - old[i].setting, STAYS)
    }
    exact = [f for f in lens_followers(before) if f.exact and f.follower in moved and f.leader in moved]
    followers = {f.follower for f in exact}
    found = list(_elsewhere(build, after, kit, old, new, before.assembly.kit))
    for i, placed in moved.items():
        mount = mount_of(placed, after, kit)
        by = abs(placed.setting - old[i].setting)
        turns = mount is not None and mount.joint is Connection.TURN
        if mount is None or i in followers or (by < _TO_THE_MARK and not turns):
            continue
        along = tuple(f.follower for f in exact if f.leader == i)
        past = () if turns or mount.kind not in RODS else _passed(placed, old, new)
        seconds = TURN if turns else slide_seconds(mount.kind) + follower_seconds(len(along)) + PASS * len(past)
        kind = ChangeKind.TURN if turns else ChangeKind.SLIDE
        found.append(Change(kind, i, seconds, old[i].setting, placed.setting, along, past))
    if build.supports != after.supports:
        found.append(Change(ChangeKind.HOLDER, "", SLIDE))
    return tuple(found)


def _passed(placed: Placed, old: dict[str, Placed], new: dict[str, Placed]) -> tuple[str, ...]:
    """Return the parts on the same rods that a part comes to lie behind: each pair by the one that goes farther."""
    found = []
    for i, other in new.items():
        was = old.get(i)
        if was is None or i == placed.id or (other.parent, other.mount) != (placed.parent, placed.mount):
            continue
        if (was.parent, was.mount) != (other.parent, other.mount):
            continue
        before, after = old[placed.id].setting - was.setting, placed.setting - other.setting
        far, its = (abs(new[k].setting - old[k].setting) for k in (placed.id, i))
        if before * after < 0.0 and (far, placed.id) > (its, i):
            found.append(i)
    return tuple(found)


def _elsewhere(
    build: Build, after: Build, kit: Kit, old: dict[str, Placed], new: dict[str, Placed], owned: Kit
) -> Iterator[Change]:
    for i, placed in new.items():
        was = old.get(i)
        if was is None:
            if placed.parent in old or placed.parent is None:
                on_it = [new[one] for one in after.carried_by(i) if one not in old]
                seconds = sum(placing_seconds(one, None, build, after, kit, one.part_id not in owned) for one in on_it)
                yield Change(ChangeKind.PUT_ON, i, seconds)
        elif _joined(was) != _joined(placed):
            kind = ChangeKind.SWAP if was.part_id != placed.part_id else ChangeKind.MOVE
            yield Change(kind, i, placing_seconds(placed, was, build, after, kit, False), was.setting, placed.setting)
    for i, placed in old.items():
        if i not in new and (placed.parent in new or placed.parent is None):
            yield Change(ChangeKind.TAKE_OFF, i, removal_seconds(placed, build, kit))


def _joined(placed: Placed) -> tuple[object, ...]:
    return placed.part_id, placed.parent, placed.mount, placed.foot, placed.own, placed.quarter_turns


def with_changes(before: Build, after: Build, changes: Iterable[Change]) -> Build:
    """Return `before` with these of the changes that lead to `after`; AssemblyError if they do not go without the
    others."""
    parts = {placed.id: placed for placed in before.parts}
    new = {placed.id: placed for placed in after.parts}
    supports = before.supports
    for change in changes:
        match change.kind:
            case ChangeKind.SLIDE | ChangeKind.TURN:
                for one in (change.placed_id, *change.along):
                    parts[one] = replace(parts[one], setting=new[one].setting)
            case ChangeKind.MOVE | ChangeKind.SWAP:
                parts[change.placed_id] = new[change.placed_id]
            case ChangeKind.PUT_ON:
                for one in after.carried_by(change.placed_id):
                    parts.setdefault(one, new[one])
            case ChangeKind.TAKE_OFF:
                for one in before.carried_by(change.placed_id):
                    parts.pop(one, None)
            case ChangeKind.HOLDER:
                supports = after.supports
    changed = replace(before, parts=tuple(parts.values()), supports=supports)
    return in_old_order(changed, before)


def effort(changes: Iterable[Change]) -> float:
    """Return how long changes take together (s)."""
    return sum(change.seconds for change in changes)
