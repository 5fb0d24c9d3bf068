"""What may change on a build: slides that move, and parts that go on, come off or change places.

A choice offers options of which at most one (or exactly one) is taken. An option is one part, or one part
with all that sits on it, on one free mount of what stays. All figures are linear in the slides.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Kit, Placed, check_build
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.errors import AssemblyError
from equilix.core.frames import quarter_turn, rotation_about
from equilix.core.kit.parts import AXES, Category, Connection, Mount, Part
from equilix.core.rounding import lacking


class Option(Struct, frozen=True):
    """One way to fill a choice: `placed` goes on, with the parts `carried` that sit on it, in part order.

    `part` is a part that the kit lacks, such as a block of dead weight; with `grows` (kg) its mass is
    free up to that. `dead` marks mass that does no other job, `current` what is on the build now.
    """

    placed: Placed
    carried: tuple[Placed, ...] = ()
    part: Part | None = None
    dead: bool = False
    current: bool = False
    grows: float = 0.0


class Choice(Struct, frozen=True):
    """Options of which at most one is taken, exactly one if `needed`."""

    options: tuple[Option, ...]
    needed: bool = False


class Follower(Struct, frozen=True):
    """A slide that goes along with a leader's, as what is set to the lens does with the camera.

    Its way less the leader's stays from `back` to `ahead` (m); both 0 for what must go along exactly.
    """

    leader: str
    follower: str
    back: float = 0.0
    ahead: float = 0.0

    @property
    def exact(self) -> bool:
        """Whether it goes along exactly, so that its move is none of its own."""
        return self.back == self.ahead


class Variable(Struct, frozen=True):
    """What may change: the placed parts whose slides are free, and the choices.

    Parts named in choices are not part of what stays.
    """

    slides: frozenset[str] = frozenset()
    choices: tuple[Choice, ...] = ()
    followers: tuple[Follower, ...] = ()

    @property
    def options(self) -> tuple[Option, ...]:
        """All options, choice by choice."""
        return tuple(option for choice in self.choices for option in choice.options)


def what_stays(build: Build, variable: Variable) -> Build:
    """Return `build` without the parts that the choices are about."""
    gone = {
        placed.id
        for choice in variable.choices
        for option in choice.options
        if option.current
        for placed in (option.placed, *option.carried)
    }
    return replace(build, parts=tuple(placed for placed in build.parts if placed.id not in gone))


def with_options(stays: Build, taken: Iterable[Option], settings: dict[str, float]) -> Build:
    """Return the build with `taken` options on it and the slides at `settings` (m) by placed id."""
    parts = list(stays.parts)
    for option in taken:
        parts += (option.placed, *option.carried)
    return replace(stays, parts=tuple(replace(p, setting=settings[p.id]) if p.id in settings else p for p in parts))


def in_old_order(changed: Build, old: Build) -> Build:
    """Return `changed` with its parts in the order of `old`, new ones last."""
    rank = {placed.id: i for i, placed in enumerate(old.parts)}
    return replace(changed, parts=tuple(sorted(changed.parts, key=lambda placed: rank.get(placed.id, len(rank)))))


class PointMass(Struct, frozen=True, eq=False):
    """What one option adds: `mass` (kg) and `cg` (3,) (m, base frame, all slides at 0), and how it moves.

    `carriers` (k,) bool: which of the staying build's slides carry it. `axis` (3,) and `low`, `high`,
    `step` (m) belong to its own slide, None if it has none. `boxes` are outlines: middle and half size.
    """

    mass: float
    cg: np.ndarray
    carriers: np.ndarray
    axis: np.ndarray | None
    low: float
    high: float
    step: float


class OptionPlacer:
    """Works out options on one staying build without preparing each of them as a build of its own."""

    def __init__(self, stays: Build, kit: Kit, assembly: Assembly, at_zero: Positions) -> None:
        self._kit = kit
        self._assembly = assembly
        self._origin = at_zero.origin - at_zero.base
        self._index = {placed.id: i for i, placed in enumerate(stays.parts)}
        self._lumps: dict[tuple[Placed, ...], tuple[float, np.ndarray]] = {}

    def body(self, option: Option) -> PointMass:
        """Return what `option` adds, in the base frame.

        Raises
        ------
        AssemblyError
            If its mount is missing or of another kind.
        """
        placed = option.placed
        part = option.part or self._kit[placed.part_id]
        if placed.parent is None or placed.parent not in self._index or placed.reversed or placed.own is not None:
            raise AssemblyError(f"{part.name} has nothing to sit on. Choose a mount.")
        parent = self._index[placed.parent]
        mount = self._assembly.parts[parent].mount(placed.mount)
        foot = part.feet[placed.foot]
        if foot.kind is not mount.kind:
            raise AssemblyError(f"{part.name} needs {foot.kind}, but there is {mount.kind}. Choose another mount.")
        turn = quarter_turn(placed.quarter_turns)
        if mount.joint is Connection.TURN and mount.kind not in AXES:
            turn = rotation_about(mount.unit_axis, placed.setting) @ turn
        base_from_parent = self._assembly.rotation[parent]
        rotation = base_from_parent @ turn
        at = self._origin[parent] + base_from_parent @ np.array(mount.at)
        mass, cg = self._lump(option, part)
        place = at + rotation @ (cg - np.array(foot.at))
        carriers = np.array(
            [self._assembly.carries(j, parent) for j in range(len(self._assembly.slide_parts))], dtype=bool
        )
        slides = mount.joint is Connection.SLIDE and mount.goes and option.grows == 0.0
        axis = base_from_parent @ np.array(mount.unit_axis) if mount.joint is Connection.SLIDE else None
        if axis is not None and not slides:
            place = place + (placed.setting if option.grows else mount.low) * axis
            axis = None
        return PointMass(mass, place, carriers, axis, mount.low, mount.high, mount.step)

    def _lump(self, option: Option, part: Part) -> tuple[float, np.ndarray]:
        """Return mass and CG (own frame) of a part with all that sits on it."""
        if not option.carried:
            return part.mass or 0.0, np.array(part.centre)
        key = (option.placed, *option.carried)
        if key not in self._lumps:
            # Taken off its mount, the group stands in the frame of its first part.
            first = replace(option.placed, parent=None, mount="", foot=0, setting=0.0, quarter_turns=0)
            group = Build("group", "group", (first, *option.carried))
            assembly = prepare(group, self._kit)
            positions = assembly.at(assembly.settings(group))
            cg = positions.cg - positions.origin[0]
            total = float(assembly.mass.sum())
            self._lumps[key] = (total, np.zeros(3) if lacking(total) else assembly.mass @ cg / total)
        return self._lumps[key]


def fits(part: Part, mount: Mount) -> int | None:
    """Return the number of the foot with which `part` sits on `mount`, None if none does."""
    return next((i for i, foot in enumerate(part.feet) if foot.kind is mount.kind), None)


def holds_together(build: Build, kit: Kit) -> bool:
    """Whether `build` can be put together."""
    try:
        check_build(build, kit)
    except AssemblyError:
        return False
    return True


def carried_parts(build: Build, placed_id: str) -> tuple[Placed, ...]:
    """Return what sits on a placed part, without itself, in part order."""
    ids = set(build.carried_by(placed_id)) - {placed_id}
    return tuple(placed for placed in build.parts if placed.id in ids)


def parts_of(build: Build, kit: Kit, kinds: Sequence[Category]) -> tuple[Placed, ...]:
    """Return the placed parts of some kinds, in part order."""
    return tuple(placed for placed in build.parts if kit[placed.part_id].category in kinds)


def with_lens(build: Build, kit: Kit, lens: Placed, part: Part, matte_box: bool) -> Build:
    """Return the build with another lens in the place of `lens`; AssemblyError if something doesn't fit."""
    gone: set[str] = set()
    if not matte_box:
        for placed in carried_parts(build, lens.id):
            if kit[placed.part_id].category is Category.MATTE_BOX:
                gone |= set(build.carried_by(placed.id))
    parts = tuple(
        replace(placed, part_id=part.id) if placed.id == lens.id else placed
        for placed in build.parts
        if placed.id not in gone
    )
    changed = replace(build, parts=parts)
    check_build(changed, kit)
    return changed


class LensSwap(Struct, frozen=True):
    """A lens of the kit, and the build with it in place of the one that is on, or the `reason` why there is none."""

    lens: Part
    build: Build | None
    reason: str = ""


def first_placed(build: Build, kit: Kit, category: Category) -> Placed | None:
    """Return the first placed part of a category, in build order."""
    return next((placed for placed in build.parts if kit[placed.part_id].category is category), None)


def lens_swaps(build: Build, kit: Kit, matte_box: bool = True) -> Iterator[LensSwap]:
    """Yield every lens of the kit in the place of the one on the build; nothing where none is on.

    What sits on the lens goes along if it fits, without matte boxes if `matte_box` is False.
    """
    lens = first_placed(build, kit, Category.LENS)
    if lens is None:
        return
    for part in kit.values():
        if part.category is not Category.LENS:
            continue
        if part.mass is None:
            yield LensSwap(part, None, "has no mass")
            continue
        try:
            yield LensSwap(part, with_lens(build, kit, lens, part, matte_box))
        except AssemblyError as error:
            yield LensSwap(part, None, str(error))


def without_lens(build: Build, lens: Placed) -> Build:
    """Return the build without `lens` and all that sits on it."""
    gone = build.carried_by(lens.id)
    return replace(build, parts=tuple(placed for placed in build.parts if placed.id not in gone))
