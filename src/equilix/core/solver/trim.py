"""One change that brings the CG over the support: a slide moved, the battery moved, a weight added.

Each is solved in closed form from the linear moment form, kept to the slide's travel and detents,
and says by how much it falls short if the travel runs out.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from equilix.core.assembly.build import Build, FreeMount, Kit, Placed, free_mounts
from equilix.core.assembly.parts import (
    Category,
    Foot,
    HowKnown,
    Joint,
    MountKind,
    Outline,
    Part,
)
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.solver.problem import MomentForm

#: kg/m3 of the steel that dead weight is made of; common practice.
STEEL = 7850.0
#: kg. More than this on a shoulder rig cures nothing that hurts less than the cure; common practice.
MOST_DEAD_WEIGHT = 6.0
#: m from the middle of a rod or screw to the top of a block below it; common practice.
_BELOW = 0.008
#: kg m. A first moment below this is level: 1 mm on a 10 g part.
LEVEL = 1e-5

#: Mounts that a block of dead weight can be bolted to, and the best places first.
WEIGHT_MOUNTS = (
    MountKind.LIGHT_RODS,
    MountKind.STUDIO_RODS,
    MountKind.RODS_19,
    MountKind.QUARTER_20,
    MountKind.THREE_EIGHTHS_16,
)


class RemedyKind(StrEnum):
    SLIDE_CAMERA = "slide camera"
    MOVE_BATTERY = "move battery"
    DEAD_WEIGHT = "dead weight"


@dataclass(frozen=True, slots=True)
class Remedy:
    """A change to a build and what is left after it.

    `settings` are the moved parts' new slide settings (m) by placed id. `added` with `added_part` is
    the weight, if any. `ahead_before` and `ahead_after` are the CG's distance ahead of the support (m).
    `shortfall` is the travel (m) or mass (kg) that lacks for a full cure, 0 if it is one.
    """

    kind: RemedyKind
    placed_id: str
    travel_before: float
    travel_after: float
    ahead_before: float
    ahead_after: float
    shortfall: float
    added_part: Part | None = None
    added: Placed | None = None

    @property
    def full(self) -> bool:
        """Whether it brings the CG over the support."""
        return self.shortfall == 0.0

    def applied(self, build: Build, kit: Kit) -> tuple[Build, Kit]:
        """Return `build` and `kit` with the change made."""
        if self.added is not None and self.added_part is not None:
            return (
                replace(build, parts=(*build.parts, self.added)),
                {**kit, self.added_part.id: self.added_part},
            )
        return build.with_placed(replace(build.placed(self.placed_id), setting=self.travel_after)), kit


def slide_remedy(form: MomentForm, assembly: Assembly, slide: int, kind: RemedyKind) -> Remedy | None:
    """Return the move of slide number `slide` that brings the CG over the support fore and aft.

    None if the slide has no effect, or is already as good as its travel and detents allow.
    """
    slope = float(form.slope[slide, 0])
    if abs(slope) < 1e-9:
        return None
    mount = assembly.slide_mounts[slide]
    now = float(form.settings[slide])
    wanted = now - float(form.moment[0]) / slope
    best = mount.snap(wanted)
    if abs(best - now) < 1e-7:
        return None
    moment_after = float(form.moment[0]) + slope * (best - now)
    if abs(moment_after) >= abs(float(form.moment[0])):
        return None
    beyond = max(mount.low - wanted, wanted - mount.high, 0.0)
    return Remedy(
        kind,
        assembly.build.parts[assembly.slide_parts[slide]].id,
        now,
        best,
        float(form.moment[0]) / form.mass,
        moment_after / form.mass,
        beyond if beyond > 1e-9 else 0.0,
    )


def camera_slide(assembly: Assembly) -> int | None:
    """Return the number of the slide that carries the camera, the innermost if there are several."""
    if assembly.sensor is None:
        return None
    carrying = [j for j in range(len(assembly.slide_parts)) if assembly.carries(j, assembly.sensor)]
    return carrying[-1] if carrying else None


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


def dead_weight_remedy(
    form: MomentForm,
    assembly: Assembly,
    positions: Positions,
    support: np.ndarray,
    free: FreeMount,
    part_id: str,
    placed_id: str,
) -> Remedy | None:
    """Return the dead weight at `free` that brings the CG over the support.

    On a slide it goes to the end that needs least. None if it would pull the wrong way there.
    """
    moment = float(form.moment[0])
    if abs(moment) < LEVEL:
        return None
    index = next(i for i, placed in enumerate(assembly.build.parts) if placed.id == free.placed_id)
    at = positions.origin[index] + assembly.rotation[index] @ free.mount.at
    best: tuple[float, float, float] | None = None
    for setting in _ends(free):
        arm = float((at + assembly.rotation[index] @ free.mount.unit_axis * setting - support)[0])
        if arm * moment < 0.0:
            mass = -moment / arm
            if best is None or mass < best[0]:
                best = (mass, setting, arm)
    if best is None:
        return None
    wanted, setting, arm = best
    mass = min(wanted, MOST_DEAD_WEIGHT)
    return Remedy(
        RemedyKind.DEAD_WEIGHT,
        placed_id,
        setting,
        setting,
        moment / form.mass,
        (moment + mass * arm) / (form.mass + mass),
        wanted - mass,
        weight_block(mass, free.mount.kind, part_id),
        Placed(placed_id, part_id, free.placed_id, free.mount.id, 0, setting),
    )


def _ends(free: FreeMount) -> tuple[float, ...]:
    if free.mount.joint is Joint.SLIDE:
        return (free.mount.low, free.mount.high)
    return (0.0,)
