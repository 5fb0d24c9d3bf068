"""Which parts fit where, why others don't, and where on a slide a new part goes first."""

from __future__ import annotations

from dataclasses import dataclass, replace

from equilix.core.assembly.build import Build, FreeMount, Kit, Placed
from equilix.core.assembly.clash import stands_free
from equilix.core.assembly.parts import TOUCH_POINTS, Category, Joint, MountKind, Part
from equilix.core.assembly.resolve import prepare

#: Order in which people put a rig together; common practice.
ORDER_OF_WORK: tuple[tuple[str, frozenset[Category]], ...] = (
    (
        "Foundation",
        frozenset({Category.PLATE, Category.RODS, Category.BODY, Category.CAGE, Category.CLAMP, Category.PAD}),
    ),
    ("Battery", frozenset({Category.BATTERY_PLATE, Category.BATTERY, Category.SENDER})),
    ("Handle, monitor", frozenset({Category.HANDLE, Category.MONITOR, Category.ARM, Category.AUDIO})),
    ("Lens", frozenset({Category.LENS, Category.ADAPTER, Category.LENS_SUPPORT})),
    ("Focus, matte box", frozenset({Category.FOCUS, Category.MATTE_BOX})),
    ("Support", frozenset({Category.GRIP, Category.WEIGHT, Category.CABLE, Category.OTHER})),
)

#: Categories that a build can begin with: what rests on the shoulder, or what all else is bolted to.
FOUNDATIONS = frozenset({Category.PLATE, Category.PAD, Category.CAGE, Category.BODY})


#: What cameras and what they stand on are carried by, whatever else their screws fit; common practice.
_CARRIED_BY: dict[Category, frozenset[Category]] = {
    Category.BODY: frozenset({Category.PLATE, Category.CAGE}),
    Category.CAGE: frozenset({Category.PLATE}),
    Category.PLATE: frozenset({Category.PLATE, Category.CAGE, Category.BODY}),
}


def step_of(category: Category) -> int:
    """Return the number (from 0) of the step in the order of work at which such a part goes on."""
    return next(i for i, (_, kinds) in enumerate(ORDER_OF_WORK) if category in kinds)


@dataclass(frozen=True, slots=True)
class Misfit:
    """A part that can't go on a mount, and why in words."""

    part: Part
    reason: str


def sort_by_fit(build: Build, kit: Kit, free: FreeMount | None) -> tuple[tuple[Part, ...], tuple[Misfit, ...]]:
    """Return the kit's parts that fit on `free` (None: as first part), by order of work, and the others."""
    on_build = {placed.part_id for placed in build.parts}
    carrier = kit[build.placed(free.placed_id).part_id].category if free is not None else None
    fits: list[Part] = []
    misfits: list[Misfit] = []
    for part in kit.values():
        if part.id in on_build:
            misfits.append(Misfit(part, "is on the build already"))
        elif free is None:
            if part.category in FOUNDATIONS:
                fits.append(part)
            else:
                misfits.append(Misfit(part, "needs something to sit on"))
        elif not any(foot.kind is free.mount.kind for foot in part.feet):
            misfits.append(Misfit(part, _needs(part)))
        elif part.category in _CARRIED_BY and carrier not in _CARRIED_BY[part.category]:
            misfits.append(Misfit(part, "fits, but nobody carries it there"))
        else:
            fits.append(part)
    fits.sort(key=lambda part: _first_key(part) if free is None else step_of(part.category))
    return tuple(fits), tuple(misfits)


def _first_key(part: Part) -> int:
    order = (Category.PLATE, Category.PAD, Category.CAGE, Category.BODY)
    return order.index(part.category)


def _needs(part: Part) -> str:
    kinds = sorted({foot.kind for foot in part.feet if foot.kind not in TOUCH_POINTS})
    return f"needs {' or '.join(kinds)}" if kinds else "has nothing to be held by"


#: m between the places that are tried for a new part on a slide.
_STEP = 0.005


def first_setting(build: Build, kit: Kit, free: FreeMount, part: Part) -> float:
    """Return where on `free` a new `part` of the kit goes: the place nearest the rig's middle that is free (m).

    Rods begin with one end in their clamp, cameras in the middle of their slide.
    """
    mount = free.mount
    foot = next((i for i, foot in enumerate(part.feet) if foot.kind is mount.kind), None)
    if mount.joint is not Joint.SLIDE or foot is None or part.outline is None or mount.kind is MountKind.DOVETAIL:
        return mount.snap(0.0)
    if part.category is Category.RODS:
        outward = 1.0 if mount.low + mount.high >= 0.0 else -1.0
        return mount.snap(outward * (part.outline.size[0] / 2.0 - 0.02))
    trial = replace(build, parts=(*build.parts, Placed("first-setting", part.id, free.placed_id, mount.id, foot)))
    assembly = prepare(trial, kit)
    settings = assembly.settings(trial)
    slide, new = len(settings) - 1, len(trial.parts) - 1
    for candidate in _candidates(mount.low, mount.high, _outward(build, kit, free)):
        settings[slide] = mount.snap(candidate)
        if stands_free(assembly, assembly.at(settings), new):
            return float(settings[slide])
    return mount.snap(0.0)


def _outward(build: Build, kit: Kit, free: FreeMount) -> float:
    """Return +1 if the slide's carrier stands ahead of the rig's middle, -1 if behind."""
    placed = build.placed(free.placed_id)
    return -1.0 if placed.setting < 0.0 and kit[placed.part_id].category is Category.RODS else 1.0


def _candidates(low: float, high: float, outward: float) -> list[float]:
    count = int((high - low) / _STEP + 1e-9)
    places = [low + _STEP * i for i in range(count + 1)]
    return places if outward > 0.0 else [low + high - place for place in places]
