"""What changes by hand cost: seconds of somebody who knows the rig, with a key in the pocket.

All are common practice, within 40 %.
"""

from __future__ import annotations

from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.mounts import mount_of
from equilix.core.kit.parts import RODS, Category, MountKind
from equilix.core.sources import common_practice

#: s, whole steps of it: what a programme counts in.
STEP = common_practice(5.0)
#: s: set a slide (loosen, mark, fasten), on a rail; each that goes along exactly; turn a rosette or by hand on a screw.
SLIDE, _ON_RAIL, _FOLLOWS, TURN = common_practice((15.0, 10.0, 15.0, 20.0))
#: s: open or close a lock or a wedge, a shoe or a rail, a rod clamp, a lens mount or a dovetail, anything else.
_LOCK, _SHOE, _CLAMP, _SCREW = common_practice((5.0, 10.0, 15.0, 20.0))
#: s: bolt on a block of dead weight; leads of what goes elsewhere, out and in.
_BLOCK, _LEADS = common_practice((40.0, 20.0))
#: s: take a part off its rods and put it on again past another.
PASS = common_practice(30.0)
#: s that a kg costs in an order of ways: one that does no other job, one that does.
DEAD_KG, ADDED_KG = common_practice((400.0, 100.0))
_BY_KIND = {
    MountKind.V_LOCK: _LOCK,
    MountKind.WEDGE_PLATE: _LOCK,
    MountKind.COLD_SHOE: _SHOE,
    MountKind.ACCESSORY_RAIL: _SHOE,
    MountKind.LENS_FRONT: _SHOE,
    MountKind.LENS_MOUNT: _CLAMP,
    MountKind.DOVETAIL: _CLAMP,
    MountKind.LIGHT_ROD_CLAMP: _CLAMP,
    MountKind.STUDIO_ROD_CLAMP: _CLAMP,
    MountKind.ROD_CLAMP_19: _CLAMP,
} | dict.fromkeys(RODS, _CLAMP)
#: What has a lead that goes elsewhere.
_WITH_LEADS = frozenset(
    {Category.BATTERY_PLATE, Category.BATTERY, Category.MONITOR, Category.SENDER, Category.AUDIO, Category.FOCUS}
)


def slide_seconds(kind: MountKind) -> float:
    """Return how long it takes (s) to set a slide of that kind."""
    return _ON_RAIL if kind is MountKind.ACCESSORY_RAIL else SLIDE


def joint_seconds(kind: MountKind) -> float:
    """Return how long it takes (s) to open or to close a joint of that kind."""
    return _BY_KIND.get(kind, _SCREW)


def follower_seconds(count: int) -> float:
    """Return how much longer (s) a slide takes with so many that go along exactly."""
    return _FOLLOWS * count


def placing_seconds(placed: Placed, old: Placed | None, build: Build, after: Build, kit: Kit, block: bool) -> float:
    """Return how long it takes (s) to put a part where it is in `after`: on, elsewhere, or in the place of another."""
    if block:
        return _BLOCK
    there = _joint(placed, after, kit)
    if old is None:
        return there
    part = kit[placed.part_id]
    same = (old.parent, old.mount) == (placed.parent, placed.mount)
    leads = _LEADS if part.category in _WITH_LEADS and not same else 0.0
    return _joint(old, build, kit) + there + leads


def removal_seconds(placed: Placed, build: Build, kit: Kit) -> float:
    """Return how long it takes (s) to take a part off."""
    return _joint(placed, build, kit)


def _joint(placed: Placed, build: Build, kit: Kit) -> float:
    mount = mount_of(placed, build, kit)
    return joint_seconds(mount.kind) if mount is not None else _SCREW
