"""A build: parts of the kit joined into one rig, and the person who wears it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from equilix.core.assembly.parts import TOUCH_POINTS, Joint, Mount, Part
from equilix.core.errors import AssemblyError
from equilix.core.limits import (
    BODY_MASS,
    MAX_LENGTH,
    MAX_PLACED,
    STATURE,
    check_count,
    check_line,
    check_name,
    check_number,
    check_text,
)


class Side(StrEnum):
    RIGHT = "right"
    LEFT = "left"


class SupportKind(StrEnum):
    """What carries the rig; the others join these one by one."""

    SHOULDER = "shoulder"
    HANDHELD = "handheld"


class Sex(StrEnum):
    """For tables of strength, which know two; who would rather not say gets the mean of both."""

    UNSAID = "rather not say"
    FEMALE = "female"
    MALE = "male"


@dataclass(frozen=True, slots=True)
class Placed:
    """One part in a build: which mount of which placed part it sits on, and where.

    `setting` is the slide's travel (m) or the turn's angle (rad); `foot` is the index of the foot
    that holds it; `quarter_turns` turns the part to the left about its upright axis.
    """

    id: str
    part_id: str
    parent: str | None = None
    mount: str = ""
    foot: int = 0
    setting: float = 0.0
    quarter_turns: int = 0

    def __post_init__(self) -> None:
        check_name(self.id, "A placed part's id")
        check_name(self.part_id, "The id of a part of the kit")
        check_line(self.mount, "A mount's id")
        check_number(self.setting, -MAX_LENGTH, MAX_LENGTH, "A setting")
        check_number(self.quarter_turns, 0, 3, "Quarter turns")
        check_number(self.foot, 0, 1000, "A foot's number")


@dataclass(frozen=True, slots=True)
class Shoulder:
    """How the rig rests on the shoulder: useful contact span (m) and friction.

    Spans of 60 mm and friction 0.5 (foam on cloth 0.4 to 0.7, from memory) are common practice.
    `slope` (rad) is how steeply the shoulder falls outwards (15 to 25 degrees, from memory).
    """

    span_x: float = 0.060
    span_y: float = 0.060
    friction: float = 0.5
    slope: float = 0.3490658503988659

    def __post_init__(self) -> None:
        check_number(self.span_x, 0.005, 0.5, "The pad's span fore and aft", "m")
        check_number(self.span_y, 0.005, 0.5, "The pad's span across", "m")
        check_number(self.friction, 0.0, 2.0, "The pad's friction")
        check_number(self.slope, 0.0, 1.0, "The shoulder's slope", "rad")


@dataclass(frozen=True, slots=True)
class Take:
    """A take and the rest after it (s)."""

    length: float
    rest: float

    def __post_init__(self) -> None:
        check_number(self.length, 1.0, 4 * 3600.0, "A take", "s")
        check_number(self.rest, 0.0, 12 * 3600.0, "A rest", "s")


class Brace(StrEnum):
    """What else steadies a rig in the hands. Elbows: tucked against the ribs, also below a shoulder rig."""

    NONE = "none"
    ELBOWS = "elbows"
    CHEST = "chest"
    HIP = "hip"
    KNEES = "knees"  # sitting, the grips' ends on the thighs


@dataclass(frozen=True, slots=True)
class Grasp:
    """A place to take hold of: a touch point `mount_id` of a placed part, or one of GRASP_SPOTS on the part itself."""

    placed_id: str
    mount_id: str

    def __post_init__(self) -> None:
        check_name(self.placed_id, "A grasp's placed part")
        check_name(self.mount_id, "A grasp's place")


#: Places on a part that no mount is needed for.
UNDER, LEFT_SIDE, RIGHT_SIDE = "under it", "its left side", "its right side"
GRASP_SPOTS = (UNDER, LEFT_SIDE, RIGHT_SIDE)


@dataclass(frozen=True, slots=True)
class Hold:
    """How a rig is held: the hands' places (None: by themselves, the outermost grips), and what braces it.

    `ahead`, `below`: the middle of the hands from the shoulders (m), None where people usually hold it.
    `thickness` (m) of the handgrips, None from their own size.
    """

    left: Grasp | None = None
    right: Grasp | None = None
    brace: Brace = Brace.NONE
    ahead: float | None = None
    below: float | None = None
    thickness: float | None = None

    def __post_init__(self) -> None:
        for value, low, high, word in (
            (self.ahead, 0.05, 1.0, "How far ahead of the shoulders it is held"),
            (self.below, -0.5, 1.0, "How far below the shoulders it is held"),
            (self.thickness, 0.010, 0.080, "A grip's thickness"),
        ):
            if value is not None:
                check_number(value, low, high, word, "m")
        if self.left is not None and self.left == self.right:
            raise AssemblyError("Both hands can't be at the same place: choose another for one of them.")


@dataclass(frozen=True, slots=True)
class Operator:
    """Who wears the rig: stature (m) and body mass (kg), and what was measured of the person.

    `strength` is a factor on what the tables give for `percentile` of people, 50 being the mean. Heights without
    shoes and `reach` from shoulder joint to a held grip in m, `grip_strength` in N; None takes the usual share of
    the stature or the tables' mean.
    """

    id: str
    name: str
    stature: float = 1.75
    body_mass: float = 75.0
    shoulder: Side = Side.RIGHT
    sex: Sex = Sex.UNSAID
    strength: float = 1.0
    shoulder_height: float | None = None
    eye_height: float | None = None
    reach: float | None = None
    grip_strength: float | None = None
    percentile: float = 50.0

    def __post_init__(self) -> None:
        check_name(self.id, "An operator's id")
        check_name(self.name, "An operator's name")
        check_number(self.stature, *STATURE, "Stature", "m")
        check_number(self.body_mass, *BODY_MASS, "Body mass", "kg")
        check_number(self.strength, 0.2, 3.0, "Strength")
        check_number(self.percentile, 1.0, 99.0, "A strength percentile")
        for value, low, high, word in (
            (self.shoulder_height, 0.7, 0.95, "Shoulder height"),
            (self.eye_height, 0.85, 0.99, "Eye height"),
            (self.reach, 0.25, 0.55, "Reach"),
        ):
            if value is not None and not low * self.stature <= value <= high * self.stature:
                raise AssemblyError(
                    f"{word} must be from {100 * low:.0f} to {100 * high:.0f} % of the stature, got {value:.3g} m."
                )
        if self.grip_strength is not None:
            check_number(self.grip_strength, 50.0, 1200.0, "Grip strength", "N")


@dataclass(frozen=True, slots=True)
class Build:
    """One rig: its placed parts in part order, each after the part it sits on."""

    id: str
    name: str
    parts: tuple[Placed, ...] = ()
    support: SupportKind = SupportKind.SHOULDER
    shoulder: Shoulder = Shoulder()
    note: str = ""
    takes: tuple[Take, ...] = ()
    hold: Hold = Hold()

    def __post_init__(self) -> None:
        check_name(self.id, "A build's id")
        check_name(self.name, "A build's name")
        check_text(self.note, f"Build {self.name}: note")
        check_count(self.parts, MAX_PLACED, f"Build {self.name}: parts")
        check_count(self.takes, MAX_PLACED, f"Build {self.name}: takes")
        seen: set[str] = set()
        for placed in self.parts:
            if placed.id in seen:
                raise AssemblyError(f"Build {self.name}: two placed parts have the id {placed.id!r}.")
            if placed.parent is not None and placed.parent not in seen:
                raise AssemblyError(
                    f"Build {self.name}: {placed.id!r} stands before the part that it sits on, {placed.parent!r}."
                )
            seen.add(placed.id)
        if sum(placed.parent is None for placed in self.parts) > 1:
            raise AssemblyError(f"Build {self.name}: only the first part may sit on nothing.")

    def placed(self, placed_id: str) -> Placed:
        """Return the placed part called `placed_id`; AssemblyError if there is none."""
        for placed in self.parts:
            if placed.id == placed_id:
                return placed
        raise AssemblyError(f"Build {self.name} has no part {placed_id!r}.")

    def with_placed(self, changed: Placed) -> Build:
        """Return the build with `changed` in the place of the placed part with its id."""
        return replace(self, parts=tuple(changed if placed.id == changed.id else placed for placed in self.parts))

    def carried_by(self, placed_id: str) -> tuple[str, ...]:
        """Return the ids of `placed_id` and of all that sits on it, in part order."""
        carried = {placed_id}
        for placed in self.parts:
            if placed.parent in carried:
                carried.add(placed.id)
        return tuple(placed.id for placed in self.parts if placed.id in carried)


Kit = Mapping[str, Part]


def check_build(build: Build, kit: Kit) -> None:
    """Raise AssemblyError unless every part of `build` is in the `kit` and sits on a mount that fits it."""
    by_id = {placed.id: placed for placed in build.parts}
    used: dict[tuple[str, str], str] = {}
    for placed in build.parts:
        part = kit.get(placed.part_id)
        if part is None:
            raise AssemblyError(f"Build {build.name}: part {placed.part_id!r} is not in the kit.")
        if placed.parent is None:
            continue
        parent = kit[by_id[placed.parent].part_id]
        mount = parent.mount(placed.mount)
        if placed.foot >= len(part.feet):
            raise AssemblyError(f"Build {build.name}: {part.name} has no foot number {placed.foot + 1}.")
        foot = part.feet[placed.foot]
        if foot.kind is not mount.kind or mount.kind in TOUCH_POINTS:
            raise AssemblyError(
                f"Build {build.name}: {part.name} needs {foot.kind}, but {parent.name} offers {mount.kind} there."
            )
        if not mount.takes_many:
            other = used.setdefault((placed.parent, placed.mount), placed.id)
            if other != placed.id:
                raise AssemblyError(
                    f"Build {build.name}: {part.name} and {kit[by_id[other].part_id].name} "
                    f"sit on the same mount of {parent.name}."
                )
    _check_no_part_twice(build, kit)


def _check_no_part_twice(build: Build, kit: Kit) -> None:
    """Raise AssemblyError if a part of the kit, of which there is one, is on `build` more than once."""
    seen: set[str] = set()
    for placed in build.parts:
        if placed.part_id in seen:
            name = kit[placed.part_id].name
            raise AssemblyError(f"Build {build.name}: {name} is on it twice; there is only one in the kit.")
        seen.add(placed.part_id)


def check_grasps(build: Build, kit: Kit) -> None:
    """Raise AssemblyError if a hand holds something that is not on `build`."""
    if without_lost_grasps(build, kit) is not build:
        raise AssemblyError(f"Build {build.name}: a hand holds something that is not on it.")


def _is_there(grasp: Grasp, by_id: Mapping[str, Placed], kit: Kit) -> bool:
    placed = by_id.get(grasp.placed_id)
    part = kit.get(placed.part_id) if placed is not None else None
    if part is None:
        return False
    return grasp.mount_id in GRASP_SPOTS or any(mount.id == grasp.mount_id for mount in part.mounts)


def without_lost_grasps(build: Build, kit: Kit) -> Build:
    """Return `build` with hands by themselves where they would hold what is not on it any more."""
    by_id = {placed.id: placed for placed in build.parts}
    left, right = (g if g is None or _is_there(g, by_id, kit) else None for g in (build.hold.left, build.hold.right))
    if left is build.hold.left and right is build.hold.right:
        return build
    return replace(build, hold=replace(build.hold, left=left, right=right))


@dataclass(frozen=True, slots=True)
class FreeMount:
    """A mount of a build that still takes a part."""

    placed_id: str
    mount: Mount


def free_mounts(build: Build, kit: Kit) -> tuple[FreeMount, ...]:
    """Return the mounts of `build` that can still take a part, in part order."""
    used = {(placed.parent, placed.mount) for placed in build.parts}
    return tuple(
        FreeMount(placed.id, mount)
        for placed in build.parts
        for mount in kit[placed.part_id].mounts
        if mount.kind not in TOUCH_POINTS and (mount.takes_many or (placed.id, mount.id) not in used)
    )


def mount_of(placed: Placed, build: Build, kit: Kit) -> Mount | None:
    """Return the mount that `placed` sits on, None for the first part of a build."""
    if placed.parent is None:
        return None
    return kit[build.placed(placed.parent).part_id].mount(placed.mount)


def slides(build: Build, kit: Kit) -> tuple[tuple[Placed, Mount], ...]:
    """Return the placed parts that slide, each with its mount, in part order."""
    found = []
    for placed in build.parts:
        mount = mount_of(placed, build, kit)
        if mount is not None and mount.joint is Joint.SLIDE and mount.high > mount.low:
            found.append((placed, mount))
    return tuple(found)
