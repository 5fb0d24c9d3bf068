"""What a trim may touch: the camera's slide, mounts that take dead weight, and the block of steel that goes there."""

from __future__ import annotations

from equilix.core.analyse import Analysis
from equilix.core.assembly.build import Build, FreeMount, Kit, free_mounts
from equilix.core.assembly.parts import (
    Category,
    Foot,
    HowKnown,
    MountKind,
    Outline,
    Part,
)
from equilix.core.assembly.resolve import Assembly

#: kg/m3 of the steel that dead weight is made of; common practice.
STEEL = 7850.0
#: kg. More than this on a shoulder rig cures nothing that hurts less than the cure; common practice.
MOST_DEAD_WEIGHT = 6.0
#: m from the middle of a rod or screw to the top of a block below it; common practice.
_BELOW = 0.008
#: Mounts that a block of dead weight can be bolted to, and the best places first.
WEIGHT_MOUNTS = (
    MountKind.LIGHT_RODS,
    MountKind.STUDIO_RODS,
    MountKind.RODS_19,
    MountKind.QUARTER_20,
    MountKind.THREE_EIGHTHS_16,
)


def camera_slide(assembly: Assembly, holder: int | None = None) -> int | None:
    """Return the number of the slide nearest to the camera between it and part number `holder`, which carries the rig.

    Without a holder: what rests on the shoulder; without a pad: of those that carry the camera.
    """
    if assembly.sensor is None:
        return None
    pads = [point.part for point in assembly.touch_points if point.kind is MountKind.SHOULDER]
    root = next(i for i, parent in enumerate(assembly.parent.tolist()) if parent < 0)
    between = assembly.slides_between(assembly.sensor, holder if holder is not None else pads[0] if pads else root)
    return next((j for j in between if assembly.slide_mounts[j].high > assembly.slide_mounts[j].low), None)


def slide_of_camera(analysis: Analysis) -> int | None:
    """Return the number of the slide that moves the camera against what carries the build."""
    return camera_slide(analysis.assembly, analysis.stand.holder if analysis.stand is not None else None)


def level_setting(analysis: Analysis, slide: int) -> float | None:
    """Return where slide number `slide` (m) would have to stand for the rig not to tip, exact since affine.

    None without a support, or where the slide does not move the CG. It may lie beyond the slide's travel.
    """
    stand, body, assembly = analysis.stand, analysis.body, analysis.assembly
    if stand is None or body is None:
        return None
    holds = assembly.carries(slide, stand.holder)
    along = float(assembly.slide_axes[slide] @ stand.forward)
    slope = along * (float(assembly.carried_mass()[slide]) - body.mass * holds)
    if abs(slope) < 1e-6:
        return None
    return float(analysis.settings[slide]) - body.mass * stand.ahead / slope


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


def weight_mounts(build: Build, kit: Kit) -> tuple[FreeMount, ...]:
    """Return the free mounts of `build` that dead weight can go on."""
    return tuple(free for free in free_mounts(build, kit) if free.mount.kind in WEIGHT_MOUNTS)


def weight_block(mass: float, kind: MountKind, part_id: str) -> Part:
    """Return a cube of steel of `mass` (kg) that hangs right below what holds it."""
    side = (mass / STEEL) ** (1.0 / 3.0)
    return Part(
        part_id,
        "Dead weight",
        Category.WEIGHT,
        mass,
        HowKnown.SHEET,
        Outline((side, side, side)),
        (0.0, 0.0, 0.0),
        HowKnown.SHEET,
        feet=(Foot(kind, (0.0, 0.0, side / 2.0 + _BELOW)),),
        mass_u=0.005,
    )
