"""The mounts of a build: which are taken, which are free, what goes on them, and what moves a part."""

from __future__ import annotations

import math

from msgspec import Struct

from equilix.core.assembly.build import Build, Kit, Link, Placed
from equilix.core.kit.parts import AXES, TOUCH_POINTS, Connection, Foot, Mount, Point

#: m: feet of one part that are nearer than this are one.
SAME_PLACE = 1e-3


def link_of(placed: Placed, build: Build, kit: Kit) -> Link | None:
    """Return the joint between `placed` and its parent, None for the root; AssemblyError if its mount is missing."""
    if placed.parent is None:
        return None
    holder, sitter = build.placed(placed.parent), placed
    if placed.reversed:
        holder, sitter = sitter, holder
    if placed.own is not None:
        return Link(holder.id, sitter.id, placed.own, placed.own_foot)
    return Link(holder.id, sitter.id, kit[holder.part_id].mount(placed.mount), kit[sitter.part_id].feet[placed.foot].at)


class FreeMount(Struct, frozen=True):
    """A mount of a build that still takes a part."""

    placed_id: str
    mount: Mount


class FreeFoot(Struct, frozen=True):
    """A foot of a build's part under which another part can still go."""

    placed_id: str
    number: int
    foot: Foot


def used_mounts(build: Build) -> frozenset[tuple[str, str]]:
    """Return (placed id, mount id) of every mount that something sits on."""
    return frozenset(
        (placed.id if placed.reversed else placed.parent, placed.mount)
        for placed in build.parts
        if placed.parent is not None and placed.own is None
    )


def free_mounts(build: Build, kit: Kit) -> tuple[FreeMount, ...]:
    """Return the mounts of `build` that can still take a part, in part order."""
    used = used_mounts(build)
    return tuple(
        FreeMount(placed.id, mount)
        for placed in build.parts
        for mount in kit[placed.part_id].mounts
        if mount.kind not in TOUCH_POINTS and (mount.shared or (placed.id, mount.id) not in used)
    )


def free_feet(build: Build, kit: Kit) -> tuple[FreeFoot, ...]:
    """Return the feet of `build` that nothing holds yet, in part order.

    Feet at one place are ways to be held there: with one of them in use none is free. Nor is a foot where something
    sits on a mount of the part already, as a pad in the slot by which a base plate would go into a receiver.
    """
    by_id = {placed.id: placed for placed in build.parts}
    used: dict[str, list[Point]] = {}
    for placed in build.parts:
        if placed.parent is not None and placed.own is None:
            holder, sitter = by_id[placed.parent], placed
            if placed.reversed:
                holder, sitter = sitter, holder
            used.setdefault(sitter.id, []).append(kit[sitter.part_id].feet[placed.foot].at)
            used.setdefault(holder.id, []).append(kit[holder.part_id].mount(placed.mount).at)
    return tuple(
        FreeFoot(placed.id, number, foot)
        for placed in build.parts
        for number, foot in enumerate(kit[placed.part_id].feet)
        if foot.kind not in TOUCH_POINTS
        and not any(math.dist(foot.at, at) < SAME_PLACE for at in used.get(placed.id, ()))
    )


def mount_of(placed: Placed, build: Build, kit: Kit) -> Mount | None:
    """Return the mount of the joint between `placed` and its parent, None for the root of a build."""
    link = link_of(placed, build, kit)
    return link.mount if link is not None else None


def mover_of(build: Build, kit: Kit, placed_id: str) -> tuple[Placed, Mount] | None:
    """Return what moves when `placed_id` is pushed: itself, or else the nearest carrier that slides; and on what.

    None if nothing from it down to the root slides.
    """
    placed = build.placed(placed_id)
    own = mount_of(placed, build, kit)
    if own is not None and own.joint is Connection.TURN and own.goes and own.kind not in AXES:
        return placed, own
    while placed.parent is not None:
        mount = mount_of(placed, build, kit)
        if mount is not None and mount.joint is Connection.SLIDE and mount.goes:
            return placed, mount
        placed = build.placed(placed.parent)
    return None


def slides(build: Build, kit: Kit) -> tuple[tuple[Placed, Mount], ...]:
    """Return the placed parts whose joints slide, each with its mount, in part order."""
    found = []
    for placed in build.parts:
        mount = mount_of(placed, build, kit)
        if mount is not None and mount.joint is Connection.SLIDE and mount.goes:
            found.append((placed, mount))
    return tuple(found)
