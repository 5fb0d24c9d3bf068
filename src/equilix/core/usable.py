"""What makes a rig unusable, or asks for care, whatever carries it: found the same way on every support."""

from __future__ import annotations

import numpy as np

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category
from equilix.core.statics.joints import ties
from equilix.core.statics.looking import screen_from_eye, screens


def common_findings(analysis: Analysis) -> list[Finding]:
    """Return what there is to look at that does not depend on what the support is."""
    return [*_held(analysis), *_screen(analysis), *_lens(analysis)]


def _held(analysis: Analysis) -> list[Finding]:
    """Return that no hands hold it level, where hands have to."""
    equilibrium = analysis.equilibrium
    if equilibrium is None or equilibrium.holding is not None or not analysis.support.by_hands:
        return []
    parts = [place.part for place in equilibrium.pose.places] or [equilibrium.holder]
    return [Finding(FindingKind.NOT_HELD, tuple(dict.fromkeys(analysis.build.parts[i].id for i in parts)))]


def _screen(analysis: Analysis) -> list[Finding]:
    """Return that there are screens, and that who carries the rig can watch none of them."""
    equilibrium, watched = analysis.equilibrium, analysis.support.watched
    there = screens(analysis.assembly) if watched else []
    if equilibrium is None or not there:
        return []
    pose = equilibrium.pose.unladen or equilibrium.pose
    if screen_from_eye(analysis.assembly, analysis.positions, pose.body, pose.shift) is not None:
        return []
    behind = [float((pose.body.eye - pose.shift - analysis.positions.centre[i])[0]) for i in there]
    nearest = int(np.argmin(behind))
    return [Finding(FindingKind.SCREEN, (analysis.build.parts[there[nearest]].id,), behind[nearest], limit=0.0)]


def mount_moments(analysis: Analysis) -> list[tuple[int, float]]:
    """Return each lens that hangs on a camera or an adapter alone, and the moment (N m) that bends its mount.

    ``sum m g (x - x_flange)`` of all that the lens carries, level: however the tree is told. A lens support takes it
    off the mount.
    """
    assembly, positions = analysis.assembly, analysis.positions
    if any(part.category is Category.LENS_SUPPORT for part in assembly.parts):
        return []
    found = []
    for tie in ties(assembly):
        kinds = assembly.parts[tie.holder].category, assembly.parts[tie.sitter].category
        if kinds[0] not in (Category.BODY, Category.ADAPTER) or kinds[1] is not Category.LENS:
            continue
        carried = assembly.mass * tie.beyond(tie.holder)
        lever = positions.cg - tie.point(positions)
        found.append((tie.sitter, float(STANDARD_GRAVITY * np.hypot(*(carried @ lever)[:2]))))
    return found


def _lens(analysis: Analysis) -> list[Finding]:
    most = analysis.build.mount_limit
    return [
        Finding(FindingKind.HEAVY_LENS, (analysis.build.parts[i].id,), moment, limit=most)
        for i, moment in mount_moments(analysis)
        if moment > most
    ]
