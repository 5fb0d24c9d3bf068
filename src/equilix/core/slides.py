"""The slides that matter for balance: the camera's and the battery's, and where one would level the rig."""

from __future__ import annotations

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.resolve import Assembly
from equilix.core.cache import cached_for_rig
from equilix.core.kit.parts import Category, MountKind
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.sources import common_practice

#: N m that a lens may leave and still count as served by a mark.
USUAL_TOLERANCE = common_practice(0.5)


# The build on screen and a way tried on it; each kept assembly stays in memory.
@cached_for_rig
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
    return camera_slide(analysis.assembly, analysis.equilibrium.holder if analysis.equilibrium is not None else None)


def level_slope(analysis: Analysis, slide: int) -> float:
    """Return by how much (kg m for each m) slide number `slide` changes the first form; 0 without a support."""
    equilibrium, assembly = analysis.equilibrium, analysis.assembly
    if equilibrium is None:
        return 0.0
    group = equilibrium.groups[0].tobytes() if equilibrium.groups else None
    return float(assembly.slide_axes[slide] @ equilibrium.forward) * _moved_mass(
        assembly, slide, equilibrium.holder, group
    )


@cached_for_rig
def _moved_mass(assembly: Assembly, slide: int, holder: int, group: bytes | None) -> float:
    """Return the mass (kg) that a slide moves against part number `holder`, of a group (n,) bool or all."""
    masses = assembly.mass if group is None else assembly.mass * np.frombuffer(group, dtype=bool)
    return float(masses @ assembly.carried_by(slide) - masses.sum() * assembly.carries(slide, holder))


def level_setting(analysis: Analysis, slide: int) -> float | None:
    """Return where slide number `slide` (m) would have to stand for the rig not to tip, exact since affine.

    None without a support, or where the slide does not move the CG. It may lie beyond the slide's travel.
    """
    equilibrium, body, assembly = analysis.equilibrium, analysis.body, analysis.assembly
    if equilibrium is None or body is None:
        return None
    slope = level_slope(analysis, slide)
    if negligible(slope, SLIGHT):
        return None
    return float(analysis.settings[slide]) - float(equilibrium.of_form(assembly.mass).sum()) * equilibrium.ahead / slope


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


def _slide_of(analysis: Analysis, placed_id: str) -> int | None:
    """Return which slide moves a placed part, None if none does."""
    index = next((i for i, placed in enumerate(analysis.build.parts) if placed.id == placed_id), -1)
    slides = analysis.assembly.slide_parts
    return slides.index(index) if index in slides else None


def level_of(analysis: Analysis, placed_id: str) -> float | None:
    """Return where a placed part would have to stand (m) for the rig to be level, None if it can't be."""
    slide = _slide_of(analysis, placed_id)
    return level_setting(analysis, slide) if slide is not None else None


def direction_of(analysis: Analysis, placed_id: str) -> float:
    """Return +1 if a greater setting moves a placed part forward, else -1."""
    slide = _slide_of(analysis, placed_id)
    return -1.0 if slide is not None and float(analysis.assembly.slide_axes[slide][0]) < 0.0 else 1.0
