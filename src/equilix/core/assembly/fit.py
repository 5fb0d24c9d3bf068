"""Which parts fit where, why others don't, and where on a slide a new part goes first."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.assembly.clash import freest
from equilix.core.assembly.mounts import FreeFoot, FreeMount, free_feet, free_mounts
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import TOUCH_POINTS, Category, Connection, Foot, Mount, MountKind, Part
from equilix.core.rounding import ROUNDING
from equilix.core.sources import common_practice

#: Order in which people put a rig together; common practice.
ORDER_OF_WORK: tuple[tuple[str, frozenset[Category]], ...] = (
    (
        "Foundation",
        frozenset(
            {
                Category.GIMBAL,
                Category.SLED,
                Category.BEARING,
                Category.PLATE,
                Category.RODS,
                Category.BODY,
                Category.CAGE,
                Category.CLAMP,
                Category.PAD,
            }
        ),
    ),
    ("Battery", frozenset({Category.BATTERY_PLATE, Category.BATTERY, Category.SENDER})),
    ("Handle, monitor", frozenset({Category.HANDLE, Category.MONITOR, Category.ARM, Category.AUDIO})),
    ("Lens", frozenset({Category.LENS, Category.ADAPTER, Category.LENS_SUPPORT})),
    ("Focus, matte box", frozenset({Category.FOCUS, Category.MATTE_BOX})),
    ("Support", frozenset({Category.GRIP, Category.WEIGHT, Category.CABLE, Category.OTHER})),
)

#: What builds most often begin with: what rests on the shoulder, or what all else is bolted to. Any part may.
FOUNDATIONS = (Category.PLATE, Category.CAGE, Category.BODY, Category.PAD, Category.GIMBAL, Category.SLED)


#: What cameras and what they stand on are carried by, whatever else their screws fit; common practice.
_CARRIED_BY: dict[Category, frozenset[Category]] = {
    Category.BODY: frozenset({Category.PLATE, Category.CAGE, Category.GIMBAL, Category.OTHER}),
    Category.CAGE: frozenset({Category.PLATE, Category.GIMBAL, Category.OTHER}),
    Category.PLATE: frozenset(
        {
            Category.PLATE,
            Category.CAGE,
            Category.BODY,
            Category.PAD,
            Category.GIMBAL,
            Category.SLED,
            Category.OTHER,
        }
    ),
}

#: A place of a build where a part can still go: on a mount, or under a foot.
Spot = FreeMount | FreeFoot


def step_of(category: Category) -> int:
    """Return the number (from 0) of the step in the order of work at which such a part goes on."""
    return next(i for i, (_, kinds) in enumerate(ORDER_OF_WORK) if category in kinds)


class Misfit(Struct, frozen=True):
    """A part that can't go on a mount, and why in words."""

    part: Part
    reason: str


class Seat(Struct, frozen=True):
    """A `part` at a `spot`, None as the first of a build: by which mount, of the spot or its own, and which foot."""

    part: Part
    spot: Spot | None
    mount: str = ""
    foot: int = 0

    def placed(self, placed_id: str, setting: float = 0.0) -> Placed:
        """Return the part as it is placed there."""
        if self.spot is None:
            return Placed(placed_id, self.part.id)
        under = isinstance(self.spot, FreeFoot)
        return Placed(placed_id, self.part.id, self.spot.placed_id, self.mount, self.foot, setting, reversed=under)


def spots(build: Build, kit: Kit) -> tuple[Spot, ...]:
    """Return all places of `build` where a part can still go: its free mounts, then its free feet."""
    return (*free_mounts(build, kit), *free_feet(build, kit))


def kind_of(spot: Spot) -> MountKind:
    """Return the kind of joint at a spot."""
    return spot.mount.kind if isinstance(spot, FreeMount) else spot.foot.kind


def seat_at(build: Build, kit: Kit, spot: Spot | None, part: Part) -> Seat | None:
    """Return how `part` goes to `spot`, None if it does not fit or nobody would have it carried so."""
    if spot is None:
        return Seat(part, None) if not build.parts else None
    there = kit[build.placed(spot.placed_id).part_id].category
    if isinstance(spot, FreeMount):
        foot = next((i for i, foot in enumerate(part.feet) if foot.kind is spot.mount.kind), None)
        return Seat(part, spot, spot.mount.id, foot) if foot is not None and carries(there, part.category) else None
    mount = next((m.id for m in part.mounts if m.kind is spot.foot.kind), None)
    return Seat(part, spot, mount, spot.number) if mount is not None and carries(part.category, there) else None


def carries(carrier: Category, carried: Category) -> bool:
    return carried not in _CARRIED_BY or carrier in _CARRIED_BY[carried]


def sort_by_fit(build: Build, kit: Kit, spot: Spot | None) -> tuple[tuple[Part, ...], tuple[Misfit, ...]]:
    """Return the kit's parts that fit at `spot` (None: as first part), by order of work, and the others."""
    on_build = {placed.part_id for placed in build.parts}
    fits: list[Part] = []
    misfits: list[Misfit] = []
    for part in kit.values():
        if part.id in on_build:
            misfits.append(Misfit(part, "is on this build already"))
        elif seat_at(build, kit, spot, part) is not None:
            fits.append(part)
        elif spot is not None and _joins(spot, part):
            misfits.append(Misfit(part, "fits, but puts the load where nobody carries it"))
        else:
            misfits.append(Misfit(part, _needs(part)))
    fits.sort(key=lambda part: (_first_key(part), 0) if spot is None else work_key(part))
    return tuple(fits), tuple(misfits)


def _joins(spot: Spot, part: Part) -> bool:
    own: Sequence[Foot | Mount] = part.feet if isinstance(spot, FreeMount) else part.mounts
    return any(thing.kind is kind_of(spot) for thing in own)


def _first_key(part: Part) -> int:
    return (
        FOUNDATIONS.index(part.category) if part.category in FOUNDATIONS else len(FOUNDATIONS) + step_of(part.category)
    )


def _needs(part: Part) -> str:
    kinds = sorted({foot.kind for foot in part.feet if foot.kind not in TOUCH_POINTS})
    return f"needs {' or '.join(kinds)}" if kinds else "has no mount that holds it"


#: Within one step of the work; common practice.
_WITHIN_STEP = (
    Category.GIMBAL,
    Category.SLED,
    Category.BEARING,
    Category.PLATE,
    Category.CAGE,
    Category.BODY,
    Category.PAD,
    Category.RODS,
    Category.CLAMP,
    Category.BATTERY_PLATE,
    Category.BATTERY,
    Category.HANDLE,
    Category.ARM,
    Category.MONITOR,
    Category.ADAPTER,
    Category.LENS,
    Category.LENS_SUPPORT,
)


def work_key(part: Part) -> tuple[int, int]:
    """Return what parts are sorted by to stand in the order of work."""
    within = _WITHIN_STEP.index(part.category) if part.category in _WITHIN_STEP else len(_WITHIN_STEP)
    return step_of(part.category), within


#: m between the places that are tried for a new part on a slide.
_STEP = 0.005

#: m of rods that stay in what clamps them.
_HELD = common_practice(0.02)


def first_setting(build: Build, kit: Kit, spot: Spot, part: Part) -> float:
    """Return where at `spot` a new `part` of the kit goes: the place nearest the rig's middle that is free (m).

    Where none is free, it is the one at which it meets others least.
    Rods begin with one end in their clamp, cameras in the middle of their slide.
    """
    if isinstance(spot, FreeFoot):
        own = next(mount for mount in part.mounts if mount.kind is spot.foot.kind)
        return own.snap(0.0)
    mount = spot.mount
    foot = next((i for i, foot in enumerate(part.feet) if foot.kind is mount.kind), None)
    if mount.joint is not Connection.SLIDE or foot is None or part.outline is None or mount.kind is MountKind.DOVETAIL:
        return mount.snap(0.0)
    if part.category is Category.RODS:
        outward = math.copysign(1.0, mount.low + mount.high)
        return mount.snap(outward * (part.outline.size[0] / 2.0 - _HELD))
    trial = replace(build, parts=(*build.parts, Placed("first-setting", part.id, spot.placed_id, mount.id, foot)))
    assembly = prepare(trial, kit)
    settings = assembly.settings(trial)
    new = len(trial.parts) - 1
    slide = assembly.slide_parts.index(new)
    places = np.array([mount.snap(c) for c in _candidates(mount.low, mount.high, _outward(build, kit, spot))])
    settings[slide] = 0.0
    shifts = places[:, None] * assembly.slide_axes[slide]
    return float(places[freest(assembly, assembly.at(settings), new, shifts)])


def _outward(build: Build, kit: Kit, free: FreeMount) -> float:
    """Return +1 if the slide's carrier stands ahead of the rig's middle, -1 if behind."""
    placed = build.placed(free.placed_id)
    return -1.0 if placed.setting < 0.0 and kit[placed.part_id].category is Category.RODS else 1.0


def _candidates(low: float, high: float, outward: float) -> list[float]:
    count = int((high - low) / _STEP + ROUNDING)
    places = [low + _STEP * i for i in range(count + 1)]
    return places if outward > 0.0 else [low + high - place for place in places]
