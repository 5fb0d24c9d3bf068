"""The tree of a build turned round: which part the others hang on is a matter of the telling, not of the rig.

A joint is kept by the part farther from the root. Turned round, its other part keeps it, marked as reversed.
Places, slides, turns and what is level stay as they are.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.resolve import prepare
from equilix.core.errors import AssemblyError
from equilix.core.frames import quarter_turn
from equilix.core.rounding import EXACT


def reroot(build: Build, placed_id: str) -> Build:
    """Return `build` with all its parts hanging on `placed_id`, nothing moved; AssemblyError if it is not on it."""
    new = build.placed(placed_id)
    if new.parent is None:
        return build
    path = _up(build, new)
    old = path[-1]
    turned = {new.id: Placed(new.id, new.part_id, quarter_turns=old.quarter_turns, sets=new.sets)}
    for child, parent in pairwise(path):
        mount, foot, setting, quarter_turns, own, own_foot = child.joint
        turned[parent.id] = Placed(
            id=parent.id,
            part_id=parent.part_id,
            parent=child.id,
            mount=mount,
            foot=foot,
            setting=setting,
            quarter_turns=quarter_turns,
            reversed=not child.reversed,
            own=own,
            own_foot=own_foot,
            sets=parent.sets,
        )
    level = build.level or old.id
    return replace(
        build,
        parts=tuple(turned.get(placed.id, placed) for placed in build.parts),
        level="" if level == new.id else level,
    )


def canonical_root(build: Build) -> Build:
    """Return `build` hanging on the part from which the fewest joints are reversed, the first of such parts.

    That is as it is put together: what has the mount first, what has the foot on it.
    """
    if not any(placed.reversed for placed in build.parts):
        return build
    reversed_from: dict[str, int] = {}
    for i in build.from_root():
        placed = build.parts[i]
        if placed.parent is None:
            reversed_from[placed.id] = 0
        else:
            # As seen from the child the joint between the two is turned round, all others are as before.
            reversed_from[placed.id] = reversed_from[placed.parent] + (-1 if placed.reversed else 1)
    return reroot(build, min((p.id for p in build.parts), key=reversed_from.__getitem__))


def levelled(build: Build, kit: Kit) -> Build:
    """Return `build` with its root level where it stands level anyway, so that no other part need be named for it."""
    if not build.level:
        return build
    if not build.parts:
        return replace(build, level="")
    assembly = prepare(build, kit)
    root = build.from_root()[0]
    if np.allclose(assembly.rotation[root], quarter_turn(build.parts[root].quarter_turns), atol=EXACT):
        return replace(build, level="")
    return build


def side(build: Build, joint: str, placed_id: str) -> bool:
    """Whether `placed_id` is on the far side of the joint that `joint` keeps: the one away from the root."""
    return placed_id in build.carried_by(joint)


def between(build: Build, joint: str, first: str, second: str) -> bool:
    """Whether the joint that `joint` keeps parts `first` from `second`, whatever the root."""
    far = build.carried_by(joint)
    return (first in far) != (second in far)


def taken_off(build: Build, placed_id: str, heart: str) -> tuple[str, ...]:
    """Return the ids that come off when `placed_id` does, in part order: it and all that it parts from `heart`.

    If it is the heart itself, what stays is the largest group that still hangs together.
    """
    gone = {placed_id}
    if placed_id != heart:
        gone |= set(reroot(build, heart).carried_by(placed_id))
    else:
        rooted = reroot(build, placed_id)
        groups = [rooted.carried_by(p.id) for p in rooted.parts if p.parent == placed_id]
        stays = max(groups, key=len, default=())
        gone = {p.id for p in build.parts} - set(stays)
    return tuple(p.id for p in build.parts if p.id in gone)


def without(build: Build, gone: frozenset[str]) -> Build:
    """Return `build` without the parts in `gone`; AssemblyError if what stays does not hang together."""
    stays = [placed for placed in build.parts if placed.id not in gone]
    if not stays:
        return replace(build, parts=(), level="")
    rooted = reroot(build, next((p.id for p in stays if p.parent is None), stays[0].id))
    kept = tuple(placed for placed in rooted.parts if placed.id not in gone)
    for placed in kept:
        if placed.parent in gone:
            raise AssemblyError(f"Build {build.name}: without that part the rest falls apart. Take the rest off first.")
    return canonical_root(replace(rooted, parts=kept, level="" if rooted.level in gone else rooted.level))


def _up(build: Build, placed: Placed) -> list[Placed]:
    path = [placed]
    while path[-1].parent is not None:
        path.append(build.placed(path[-1].parent))
    return path
