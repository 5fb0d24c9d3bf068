"""Dead weight: the block of steel, and the mounts that take one."""

from __future__ import annotations

from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.mounts import FreeMount, free_mounts
from equilix.core.kit.parts import Category, Foot, HowKnown, MountKind, Outline, Part
from equilix.core.sources import common_practice

#: kg/m3 of the steel that dead weight is made of.
STEEL = common_practice(7850.0)
#: kg, all together. More than this on a rig cures nothing that hurts less than the cure.
MOST_DEAD_WEIGHT = common_practice(6.0)
#: m from the middle of a rod or screw to the top of a block below it.
_BELOW = common_practice(0.008)
#: kg: standard uncertainty of a weight that is cut to measure.
_CUT = common_practice(0.005)
#: Mounts that a block of dead weight can be bolted to, and the best places first.
WEIGHT_MOUNTS = (
    MountKind.LIGHT_RODS,
    MountKind.STUDIO_RODS,
    MountKind.RODS_19,
    MountKind.QUARTER_20,
    MountKind.THREE_EIGHTHS_16,
)


def weight_mounts(build: Build, kit: Kit) -> tuple[FreeMount, ...]:
    """Return the free mounts of `build` that dead weight can go on."""
    return tuple(free for free in free_mounts(build, kit) if free.mount.kind in WEIGHT_MOUNTS)


def _side(mass: float) -> float:
    """Return the side (m) of a cube of steel of `mass` (kg)."""
    return float((mass / STEEL) ** (1.0 / 3.0))


def hangs_below(mass: float) -> float:
    """Return how far (m) below its mount the middle of a block of `mass` (kg) hangs."""
    return _side(mass) / 2.0 + _BELOW


def weight_block(mass: float, kind: MountKind, part_id: str) -> Part:
    """Return a cube of steel of `mass` (kg) that hangs right below what holds it."""
    side = _side(mass)
    return Part(
        part_id,
        "Counterweight",
        Category.WEIGHT,
        mass,
        HowKnown.SHEET,
        Outline((side, side, side)),
        (0.0, 0.0, 0.0),
        HowKnown.SHEET,
        feet=(Foot(kind, (0.0, 0.0, hangs_below(mass))),),
        mass_u=_CUT,
    )
