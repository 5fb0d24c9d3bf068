"""A part dropped on a face of another: joined as people join such parts, where it was dropped."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.kit.parts import Connection, Mount, MountKind, Part, Point
from equilix.core.sources import common_practice
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.places import JOINT_WORDS, ONLY_BY_MOUNTS, OWN_SLIDES, WAYS, Standing, face_point
from equilix.document.kinds.records import Kinds, SeatRule, shipped_kinds

#: m: so near to where it was dropped a mount of the right kind takes it.
_SNAPS = common_practice(0.015)
#: Ways of joining that have a counterpart on the other part wherever it was dropped on that face.
_BY_MOUNTS = frozenset(
    {"lens", "lensfront", "vlock", "dovetail", "wedge", "rodclamp", "rods", "stage", "bearing", "base"}
)


def dropped(
    build: Build,
    kit: Kit,
    part: Part,
    holder: str,
    where: str,
    at: np.ndarray,
    kinds: Kinds | None = None,
    free: bool = False,
) -> Placed:
    """Return `part` as it is placed on the face `where` of the placed part `holder`, at `at` (3,) (m, rig frame).

    `where` is one of top, under, ahead, behind, left, right. By the part's own seat that fits face and holder; else by
    the first way of joining that the holder's face takes; else by a screw. With `free` no mount draws it to itself.
    """
    kinds = kinds or shipped_kinds()
    known = {placed.id: kind_of_part(kit[placed.part_id], kinds) for placed in build.parts}
    rig = Standing(build, {**kit, part.id: part}, kinds, known)
    rule = _rule(part, rig, holder, where)
    local = rig.local(holder, at)
    for by in () if free else rule.by:
        for placed, _ in rig.by_mounts(part, holder, where, kinds.by.get(by.removesuffix("?"), ())):
            mount = rig.mount_of(placed)
            if by in _BY_MOUNTS or (mount is not None and math.dist(mount.at, local) < _SNAPS):
                return _slid_to(placed, mount, local)
    base = kit[build.placed(holder).part_id]
    axis, sign = WAYS[where]
    plane = face_point(base, (axis, sign), (0.0, 0.0))
    spot = [*local]
    spot[axis] = plane[axis]
    foot = face_point(part, (axis, -sign), (0.0, 0.0))
    slides = rule.slides and axis == 2
    own = Mount(
        "own",
        MountKind.OWN,
        (spot[0], spot[1], spot[2]),
        Connection.SLIDE if slides else Connection.FIXED,
        low=-OWN_SLIDES if slides else 0.0,
        high=OWN_SLIDES if slides else 0.0,
        name=JOINT_WORDS.get(rule.by[0] if rule.by else "screw", "screw"),
    )
    return Placed(rig.id_for(part), part.id, holder, own=own, own_foot=foot)


def dropped_in_middle(
    build: Build, kit: Kit, part: Part, holder: str, where: str, kinds: Kinds | None = None
) -> Placed | None:
    """Return `part` as it is placed in the middle of a face; None without the holder's size."""
    base = kit[build.placed(holder).part_id]
    if base.outline is None:
        return None
    rig = Standing(build, dict(kit), kinds or shipped_kinds(), {})
    middle = rig.in_rig(holder, face_point(base, WAYS[where], (0.0, 0.0)))
    return dropped(build, kit, part, holder, where, middle, kinds)


def _slid_to(placed: Placed, mount: Mount | None, local: Point) -> Placed:
    """Return a part on a slide of its holder where it was dropped along it, as far as that goes."""
    if mount is None or mount.joint is not Connection.SLIDE or placed.reversed:
        return placed
    along = float(np.dot(np.subtract(local, mount.at), mount.unit_axis))
    return replace(placed, setting=mount.snap(along))


def _rule(part: Part, rig: Standing, holder: str, where: str) -> SeatRule:
    """Return the seat of a part that fits face and holder, else one made of what the holder's face takes."""
    kind, there = reading_of(part, rig.kinds).kind, rig.of[holder]
    face = {"under": "bottom", "ahead": "front", "behind": "back"}.get(where, where)
    takes = tuple(by.removesuffix("?") for by in there.faces.get(face, ()) if by)
    if kind is not None:
        for rule in kind.seats:
            sides = ("left", "right") if rule.where == "side" else (rule.where,)
            if rule.ranks(there) is not None and where in sides:
                return rule
        ways = [by for rule in kind.seats for by in rule.by if by in takes]
        if ways:
            return replace(_PLAIN, by=tuple(dict.fromkeys(ways)))
    return replace(_PLAIN, by=tuple(by for by in takes if by not in ONLY_BY_MOUNTS)[:1] or ("screw",))


_PLAIN = SeatRule("top", ())


def face_at(low: Point, high: Point, at: Point, seen: tuple[int, int]) -> str:
    """Return the face of a box from `low` to `high` (m) that a point lies nearest to, of those that are `seen` edge on.

    `seen` are the axes of a picture, across and up.
    """
    best, found = math.inf, "top"
    for name, (axis, sign) in WAYS.items():
        if axis not in seen or name in ("front", "back"):
            continue
        half = max((high[axis] - low[axis]) / 2.0, 1e-6)
        edge = high[axis] if sign > 0.0 else low[axis]
        far = abs(edge - at[axis]) / half
        if far < best:
            best, found = far, name
    return found
