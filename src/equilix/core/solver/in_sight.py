"""Where to put a screen that a way to balance would take out of sight: what people do along with such a way."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding, FindingKind, serious_warnings, worse_warnings
from equilix.core.assembly.build import Build, Kit, Operator, Placed
from equilix.core.assembly.mounts import free_mounts, mount_of
from equilix.core.kit.parts import Category, Connection
from equilix.core.rounding import negligible
from equilix.core.solver.choices import carried_parts, fits, holds_together

#: What is hung elsewhere for the screen's sake: it, the arm that it sits on, the handle of both; common practice.
_GOES = (Category.MONITOR, Category.ARM, Category.HANDLE)
#: Places that are tried along a slide.
_TRIED = 21


def out_of_sight(analysis: Analysis) -> Finding | None:
    """Return that no screen can be watched, None where one can."""
    return next((finding for finding in analysis.findings if finding.kind is FindingKind.SCREEN), None)


def screen_elsewhere(before: Analysis, after: Analysis, kit: Kit, operator: Operator) -> Placed | None:
    """Return the screen, or its arm, placed well `after` a way that takes it out of sight or brings it to the head.

    It goes no farther than it must, and makes nothing else worse. None where it is well, was not seen `before` either,
    or has no such place.
    """
    lost = _in_the_way(before, after)
    if lost is None:
        return None
    screen = [placed.id for placed in after.build.parts].index(lost)
    best, least = None, np.inf
    for placed in _places(after.build, kit, lost):
        builds = [build.with_placed(placed) for build in (after.build, before.build)]
        if not all(holds_together(build, kit) for build in builds):
            continue
        then = analyse(builds[0], kit, operator, after)
        if _in_the_way(before, then) is not None or worse_warnings(after, then):
            continue
        far = float(np.linalg.norm(then.positions.centre[screen] - after.positions.centre[screen]))
        if far < least:
            best, least = placed, far
    return best


def _in_the_way(before: Analysis, after: Analysis) -> str | None:
    """Return the screen, or what carries it, that a way takes out of sight or brings against the head; None if none."""
    lost = out_of_sight(after)
    if lost is not None and out_of_sight(before) is None:
        return lost.placed_ids[0]
    kit = after.assembly.kit
    for finding in serious_warnings(before, after):
        part = finding.placed_ids[0] if len(finding.placed_ids) == 1 else ""
        if part and kit[after.build.placed(part).part_id].category in _GOES and finding.kind is not FindingKind.SCREEN:
            return part
    return None


def _places(build: Build, kit: Kit, screen: str) -> Iterator[Placed]:
    """Yield where the screen could be: along its slide, on other mounts, and its arm likewise."""
    placed = build.placed(screen)
    while placed.parent is not None and kit[placed.part_id].category in _GOES:
        if placed.own is None and not placed.reversed:
            mount = mount_of(placed, build, kit)
            if mount is not None and mount.joint is Connection.SLIDE:
                for to in np.linspace(mount.low, mount.high, _TRIED).tolist():
                    if not negligible(to - placed.setting):
                        yield replace(placed, setting=mount.snap(to))
            gone = {placed.id, *(one.id for one in carried_parts(build, placed.id))}
            stays = replace(build, parts=tuple(one for one in build.parts if one.id not in gone))
            for free in free_mounts(stays, kit):
                foot = fits(kit[placed.part_id], free.mount)
                if foot is not None and (free.placed_id, free.mount.id) != (placed.parent, placed.mount):
                    to_it = {"parent": free.placed_id, "mount": free.mount.id, "foot": foot}
                    yield replace(placed, **to_it, setting=free.mount.snap(0.0))
        placed = build.placed(placed.parent)
