"""Which parts fit where, why others don't, what is missing between, and where on a slide a new part goes first."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Kit, Placed, Side
from equilix.core.assembly.clash import freest, stands_free
from equilix.core.assembly.mounts import FreeFoot, FreeMount, free_feet, free_mounts
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.kit.parts import RODS, TOUCH_POINTS, Category, Connection, Foot, Mount, MountKind, Part
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

#: Where people put a part first if several places fit, best first; common practice.
_RATHER_ON: dict[Category, tuple[Category, ...]] = {
    Category.BODY: (Category.PLATE, Category.CAGE),
    Category.LENS: (Category.ADAPTER, Category.BODY),
    Category.BATTERY: (Category.SLED, Category.BATTERY_PLATE, Category.BODY),
    Category.MONITOR: (Category.SLED, Category.ARM, Category.HANDLE, Category.CAGE, Category.BODY),
    Category.ARM: (Category.HANDLE, Category.CAGE, Category.BODY),
    Category.HANDLE: (Category.CAGE, Category.BODY),
    Category.GRIP: (Category.CLAMP, Category.CAGE, Category.RODS),
    Category.SENDER: (Category.CAGE, Category.HANDLE, Category.BODY),
    Category.AUDIO: (Category.CAGE, Category.HANDLE, Category.BODY),
    Category.MATTE_BOX: (Category.LENS, Category.RODS),
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
    """A `part` at a `spot`, None as the first of a build: by which mount, of the spot or its own, and which foot.

    `astray`: it fits there, on rods that lie on the other side of the camera than people have it.
    """

    part: Part
    spot: Spot | None
    mount: str = ""
    foot: int = 0
    astray: bool = False

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


# Where people would put the parts that are still loose


def best_seats(build: Build, kit: Kit, checked: int = 4) -> tuple[Seat, ...]:
    """Return the parts of the kit that can go on `build` now, each at its best place, in order of work.

    For the first `checked` of them that is the best place at which the part meets no other, if there is one. Those that
    would only go astray come last.
    """
    on_build = {placed.part_id for placed in build.parts}
    loose = [part for part in kit.values() if part.id not in on_build]
    if not build.parts:
        return tuple(Seat(part, None) for part in sorted(loose, key=_first_key))
    assembly = prepare(build, kit)
    positions = assembly.at(assembly.settings(build))
    where = {placed.id: i for i, placed in enumerate(build.parts)}
    ahead = lie_ahead(assembly, positions)
    free = spots(build, kit)
    found: list[list[Seat]] = []
    for part in loose:
        several = [seat for spot in free if (seat := seat_at(build, kit, spot, part)) is not None]
        if part.category is Category.HANDLE:
            several = [seat for seat in several if _on_top(build, kit, seat)] or several
        several.sort(key=lambda seat: _preference(assembly, where, ahead, seat))
        if several:
            found.append(several)
    there = {part.category for part in assembly.parts}
    found.sort(
        key=lambda several: (
            _strays(several[0], ahead),
            several[0].part.category in _ONE_IS_ENOUGH & there,
            work_key(several[0].part),
        )
    )
    # What goes astray is no better place for being free.
    alike = ([s for s in several if _strays(s, ahead) is _strays(several[0], ahead)] for several in found)
    chosen = (_clear(build, kit, several) if number < checked else several[0] for number, several in enumerate(alike))
    return tuple(replace(seat, astray=True) if _strays(seat, ahead) else seat for seat in chosen)


#: m below a part's highest mount, where its top ends.
_TOP = common_practice(0.02)


def _on_top(build: Build, kit: Kit, seat: Seat) -> bool:
    """Whether a place is on top of what carries it, or below a part."""
    if not isinstance(seat.spot, FreeMount):
        return True
    mounts = kit[build.placed(seat.spot.placed_id).part_id].mounts
    return seat.spot.mount.at[2] >= max(mount.at[2] for mount in mounts) - _TOP


def lie_ahead(assembly: Assembly, positions: Positions) -> dict[str, bool]:
    """Return which placed parts lie ahead of the camera's middle."""
    camera = float(positions.centre[assembly.sensor, 0]) if assembly.sensor is not None else 0.0
    ahead = (positions.centre[:, 0] >= camera).tolist()
    return {placed.id: here for placed, here in zip(assembly.build.parts, ahead, strict=True)}


def _strays(seat: Seat, ahead: Mapping[str, bool]) -> bool:
    """Whether a part would go on rods that lie where nobody has it."""
    if not isinstance(seat.spot, FreeMount) or seat.spot.mount.kind not in RODS:
        return False
    return out_of_place(seat.part.category, ahead[seat.spot.placed_id])


#: Places of one part that are looked at for others in the way.
_MOST_TRIED = 6


def _clear(build: Build, kit: Kit, several: Sequence[Seat]) -> Seat:
    """Return the first place at which the part meets no other, else the first."""
    for seat in several[:_MOST_TRIED]:
        assert seat.spot is not None
        trial = replace(
            build, parts=(*build.parts, seat.placed("trial", first_setting(build, kit, seat.spot, seat.part)))
        )
        assembly = prepare(trial, kit)
        if stands_free(assembly, assembly.at(assembly.settings(trial)), len(trial.parts) - 1):
            return seat
    return several[0]


#: Of these a rig has one; a second of the kit is a spare.
_ONE_IS_ENOUGH = frozenset(
    {
        Category.BODY,
        Category.CAGE,
        Category.PAD,
        Category.BATTERY_PLATE,
        Category.BATTERY,
        Category.ADAPTER,
        Category.LENS,
        Category.LENS_SUPPORT,
        Category.MATTE_BOX,
    }
)
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


def _preference(
    assembly: Assembly, where: Mapping[str, int], ahead: Mapping[str, bool], seat: Seat
) -> tuple[float, ...]:
    """Return what makes a place better than others, least first: carrier, its side, then height."""
    assert seat.spot is not None
    index = where[seat.spot.placed_id]
    carrier, category = assembly.parts[index].category, seat.part.category
    rather = _RATHER_ON.get(category, ())
    rank = rather.index(carrier) if carrier in rather else len(rather)
    wrong_side = 0.0
    name = seat.part.name.casefold()
    if isinstance(seat.spot, FreeMount) and seat.spot.mount.kind in RODS:
        wrong_side = float(ahead[seat.spot.placed_id] is (category in BEHIND))
    elif category is Category.RODS and isinstance(seat.spot, FreeMount):
        wrong_side = float(("rear" in name or "back" in name) is goes_ahead(seat.spot.mount))
    else:
        wrong_side = float(off_side(seat.part, seat.spot))
    low = 0.0
    if isinstance(seat.spot, FreeMount) and category in (Category.HANDLE, Category.ARM, Category.MONITOR):
        low = -float(seat.spot.mount.at[2])
    elif isinstance(seat.spot, FreeMount) and category is Category.SENDER:
        # The middle of the top is for the handle, a side may be the operator's.
        low = float(seat.spot.mount.at[0])
    under = 0.0 if isinstance(seat.spot, FreeMount) else 1.0
    return (under, float(rank), wrong_side, low)


def off_side(part: Part, spot: Spot | Mount) -> bool:
    """Whether a place lies on the other side than the one that a part's name speaks of."""
    if isinstance(spot, FreeFoot):
        return False
    mount = spot.mount if isinstance(spot, FreeMount) else spot
    words = part.name.casefold().replace(",", " ").split()
    named = [side for side in Side if side.value in words]
    return len(named) == 1 and mount.at[1] * named[0].outward < 0.0


#: What hangs behind the camera, to weigh against the lens; common practice.
BEHIND = frozenset({Category.BATTERY_PLATE, Category.BATTERY, Category.WEIGHT, Category.PAD})
#: Of what goes on rods, what nobody has ahead of the camera, and what nobody has behind it; common practice.
ONLY_BEHIND = frozenset({Category.BATTERY_PLATE, Category.BATTERY})
ONLY_AHEAD = frozenset(
    {Category.FOCUS, Category.LENS_SUPPORT, Category.MATTE_BOX, Category.CLAMP, Category.GRIP, Category.HANDLE}
)


def out_of_place(category: Category, ahead: bool) -> bool:
    """Whether nobody has such a part on rods that lie `ahead` of the camera, or behind it."""
    return category in (ONLY_BEHIND if ahead else ONLY_AHEAD)


def goes_ahead(mount: Mount) -> bool:
    return mount.low + mount.high >= 0.0


# What is missing between


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
