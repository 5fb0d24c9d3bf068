"""The slides that matter for balance: the camera's and the battery's, and where one would level the rig."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.resolve import Assembly
from equilix.core.kept import RIGS
from equilix.core.kit.parts import Category, MountKind
from equilix.core.rounding import SLIGHT, negligible

#: N m that a lens may leave and still count as served by a mark; common practice.
USUAL_TOLERANCE = 0.5


# The build on screen and a way tried on it; each kept assembly stays in memory.
@lru_cache(maxsize=RIGS)
def camera_slide(assembly: Assembly, holder: int | None = None) -> int | None:
    """Return the number of the slide nearest to the camera between it and part number `holder`, which carries the rig.

    Without one between them, the nearest that moves both against the rest. Without a holder: what rests on the
    shoulder; without a pad: of those that carry the camera.
    """
    if assembly.sensor is None:
        return None
    pads = [point.part for point in assembly.touch_points if point.kind is MountKind.SHOULDER]
    root = assembly.root
    carrying = holder if holder is not None else pads[0] if pads else root
    # Where what carries it goes with the camera, as a hook on its handle does, the camera moves against the rest.
    for far in (carrying, root):
        for j in assembly.slides_between(assembly.sensor, far):
            if assembly.slide_mounts[j].goes:
                return j
    return None


def slide_of_camera(analysis: Analysis) -> int | None:
    """Return the number of the slide that moves the camera against what carries the build."""
    return camera_slide(analysis.assembly, analysis.stand.holder if analysis.stand is not None else None)


def level_slope(analysis: Analysis, slide: int) -> float:
    """Return by how much (kg m for each m) slide number `slide` changes the first form; 0 without a support."""
    stand, assembly = analysis.stand, analysis.assembly
    if stand is None:
        return 0.0
    group = stand.groups[0].tobytes() if stand.groups else None
    return float(assembly.slide_axes[slide] @ stand.forward) * _moved_mass(assembly, slide, stand.holder, group)


@lru_cache(maxsize=RIGS)
def _moved_mass(assembly: Assembly, slide: int, holder: int, group: bytes | None) -> float:
    """Return the mass (kg) that a slide moves against part number `holder`, of a group (n,) bool or all."""
    masses = assembly.mass if group is None else assembly.mass * np.frombuffer(group, dtype=bool)
    return float(masses @ assembly.carried_by(slide) - masses.sum() * assembly.carries(slide, holder))


def level_setting(analysis: Analysis, slide: int) -> float | None:
    """Return where slide number `slide` (m) would have to stand for the rig not to tip, exact since affine.

    None without a support, or where the slide does not move the CG. It may lie beyond the slide's travel.
    """
    stand, body, assembly = analysis.stand, analysis.body, analysis.assembly
    if stand is None or body is None:
        return None
    slope = level_slope(analysis, slide)
    if negligible(slope, SLIGHT):
        return None
    return float(analysis.settings[slide]) - float(stand.of_form(assembly.mass).sum()) * stand.ahead / slope


def battery_slide(assembly: Assembly) -> int | None:
    """Return the number of the innermost slide that carries a battery but not the camera."""
    batteries = [i for i, part in enumerate(assembly.parts) if part.category is Category.BATTERY]
    mass = assembly.carried_mass()
    choices = [
        j
        for j in range(len(assembly.slide_parts))
        if any(assembly.carries(j, i) for i in batteries)
        and not (assembly.sensor is not None and assembly.carries(j, assembly.sensor))
    ]
    return min(choices, key=lambda j: mass[j]) if choices else None
