"""A build: parts of the kit joined into one rig, and the person who wears it."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.wish import Wish
from equilix.core.errors import AssemblyError
from equilix.core.keys import KEYS
from equilix.core.kit.parts import AXES, TOUCH_POINTS, Mount, MountKind, Part, Point
from equilix.core.limits import (
    BODY_MASS,
    MAX_LENGTH,
    MAX_ON_PART,
    MAX_PLACED,
    STATURE,
    Bound,
    check_bounds,
    check_count,
    check_line,
    check_name,
    check_number,
    check_point,
    check_text,
    check_whole,
)
from equilix.core.sources import assumed, common_practice


class Side(StrEnum):
    RIGHT = "right"
    LEFT = "left"

    @property
    def outward(self) -> float:
        """The sign of what lies on this side: +1 on the left, where y is above zero."""
        return 1.0 if self is Side.LEFT else -1.0


class Sex(StrEnum):
    """For tables of strength, which know two; who would rather not say gets the mean of both."""

    UNSAID = "rather not say"
    FEMALE = "female"
    MALE = "male"


#: m: where an own connection meets a part of which nobody says.
_NOWHERE: Point = (0.0, 0.0, 0.0)


class Placed(Struct, frozen=True):
    """One part in a build and the joint that ties it to its `parent`: a foot on a mount.

    Usually the parent has the mount and this part the foot; `reversed` tells that it is the other way round.
    `setting` is the slide's travel (m) or the turn's angle (rad); `foot` is the index of the foot;
    `quarter_turns` turns what has the foot to the left about the upright axis of what has the mount. `own` is a
    connection that only this build has, in the frame of what has the mount; then `own_foot` (m) is where the other
    part meets it, and `mount` and `foot` say nothing. The root has no joint: its quarter turns are the whole rig's.
    `sets` names the sets that it belongs to, the outermost first.
    """

    id: str
    part_id: str
    parent: str | None = None
    mount: str = ""
    foot: int = 0
    setting: float = 0.0
    quarter_turns: int = 0
    reversed: bool = False
    own: Mount | None = None
    own_foot: Point = _NOWHERE
    sets: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        check_name(self.id, "The id of a placed part")
        check_name(self.part_id, "The id of a part of the kit")
        check_line(self.mount, "A mount's id")
        check_number(self.setting, -MAX_LENGTH, MAX_LENGTH, "A mark")
        check_whole(self.quarter_turns, 0, 3, "Quarter turns")
        check_whole(self.foot, 0, 1000, "The number of a mount below")
        # One is made anew at every step of a drag: what nobody gave needs no look.
        if self.own_foot is not _NOWHERE:
            check_point(self.own_foot, "Where your own connection meets")
        if self.own is not None and self.own.kind not in (MountKind.OWN, *AXES):
            raise AssemblyError("A connection of one build must be of the kind 'own connection'.")
        if self.sets:
            check_count(self.sets, MAX_ON_PART, "Sets of a placed part")
            for name in self.sets:
                check_name(name, "A set's name")
            if len(set(self.sets)) != len(self.sets):
                raise AssemblyError(f"The placed part {self.id!r} is in one set twice. Remove one.")

    @property
    def joint(self) -> tuple[str, int, float, int, Mount | None, Point]:
        """What ties it to its parent, whichever of the two has the mount."""
        return (self.mount, self.foot, self.setting, self.quarter_turns, self.own, self.own_foot)


class Take(Struct, frozen=True):
    """A take and the rest after it (s)."""

    length: float
    rest: float

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "length": Bound(1.0, 4 * 3600.0, "A take", "s"),
        "rest": Bound(0.0, 12 * 3600.0, "A rest", "s"),
    }

    def __post_init__(self) -> None:
        check_bounds(self, self.BOUNDS)


class Brace(StrEnum):
    """What else steadies a rig in the hands. Elbows: tucked against the ribs, also below a shoulder rig."""

    NONE = "none"
    ELBOWS = "elbows"
    CHEST = "chest"
    HIP = "hip"
    KNEES = "knees"  # sitting, the grips' ends on the thighs


class Grasp(Struct, frozen=True):
    """A place to take hold of: a touch point `mount_id` of a placed part, or one of GRASP_SPOTS on the part itself."""

    placed_id: str
    mount_id: str

    def __post_init__(self) -> None:
        check_name(self.placed_id, "The part a hand holds")
        check_name(self.mount_id, "The place of a hand")


#: Places on a part that no mount is needed for.
UNDER, LEFT_SIDE, RIGHT_SIDE = "under it", "its left side", "its right side"
GRASP_SPOTS = (UNDER, LEFT_SIDE, RIGHT_SIDE)


class Hold(Struct, frozen=True):
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

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "ahead": Bound(0.05, 1.0, "The hands’ distance ahead of the shoulders", "m"),
        "below": Bound(-0.5, 1.0, "The hands’ distance below the shoulders", "m"),
        "thickness": Bound(0.010, 0.080, "The thickness of a grip", "m"),
    }

    def __post_init__(self) -> None:
        check_bounds(self, self.BOUNDS)
        if self.left is not None and self.left == self.right:
            raise AssemblyError("Both hands are at one place. Choose another for one of them.")


#: Hands by themselves at the outermost grips, nothing braced.
BY_ITSELF = Hold()

#: Shares of the stature within which anybody's own heights and reach lie: what is beyond is a slip.
_OF_STATURE = assumed(
    {
        "shoulder_height": (0.7, 0.95, "Shoulder height"),
        "eye_height": (0.85, 0.99, "Eye height"),
        "reach": (0.25, 0.55, "Reach"),
    }
)


class Operator(Struct, frozen=True):
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

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "stature": Bound(*STATURE, "Height", "m"),
        "body_mass": Bound(*BODY_MASS, "Body mass", "kg"),
        "strength": Bound(0.2, 3.0, "Strength"),
        "grip_strength": Bound(50.0, 1200.0, "Grip strength", "N"),
        "percentile": Bound(1.0, 99.0, "A strength percentile"),
    }

    def __post_init__(self) -> None:
        check_name(self.id, "An operator's id")
        check_name(self.name, "An operator's name")
        check_bounds(self, self.BOUNDS)
        for name, (low, high, word) in _OF_STATURE.items():
            value = getattr(self, name)
            if value is not None and not low * self.stature <= value <= high * self.stature:
                raise AssemblyError(
                    f"{word} must be from {100 * low:.0f} to {100 * high:.0f} % of the height, not {value:.3g} m."
                )


class Settings:
    """What a build says of one support: a frozen struct for each, whose last field `kind` is the support's key."""

    __slots__ = ()
    kind: str

    @property
    def hands(self) -> Hold:
        """How hands hold the rig on this support."""
        return BY_ITSELF

    def with_hold(self, hold: Hold) -> Settings:
        """Return the same with the rig held as `hold` says, itself where hands have no part in it."""
        return self


#: N m at a lens mount from which a lens wants a support: 1 kg at 200 mm, no mount's maker says.
MOUNT_LIMIT = common_practice(2.0)


class Build(Struct, frozen=True):
    """One rig: its placed parts in part order.

    `support` is the key of what carries it, `supports` what it says of each that differs from the usual, so that
    switching loses nothing. `level` names the part that stands level; the root does if it is empty or not on the build.
    From `mount_limit` (N m) on a lens that hangs on its mount alone is warned of. `wish` is what ways are ordered by.
    """

    id: str
    name: str
    parts: tuple[Placed, ...] = ()
    support: str = KEYS[0]
    supports: tuple[Settings, ...] = ()
    note: str = ""
    takes: tuple[Take, ...] = ()
    level: str = ""
    mount_limit: float = MOUNT_LIMIT
    wish: Wish = Wish.NONE

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "mount_limit": Bound(0.1, 100.0, "The moment that the lens mount takes", "N·m"),
    }

    def __post_init__(self) -> None:
        check_name(self.id, "A build's id")
        check_name(self.name, "A build's name")
        check_bounds(self, self.BOUNDS)
        check_text(self.note, f"Build {self.name}: note")
        check_count(self.parts, MAX_PLACED, f"Build {self.name}: parts")
        check_count(self.takes, MAX_PLACED, f"Build {self.name}: takes")
        if self.support not in KEYS:
            raise AssemblyError(f"Build {self.name}: the support {self.support!r} is not known here. Choose another.")
        kinds = [settings.kind for settings in self.supports]
        if len(set(kinds)) != len(kinds):
            raise AssemblyError(f"Build {self.name}: one support has two settings. Keep one.")
        ids: set[str] = set()
        roots, early = 0, False
        for placed in self.parts:
            if placed.id in ids:
                raise AssemblyError(f"Build {self.name}: two placed parts have the id {placed.id!r}. Rename one.")
            ids.add(placed.id)
            if placed.parent is None:
                roots += 1
            elif placed.parent not in ids:
                early = True
        # Where every part comes after what it sits on, nothing is missing or goes round in a circle.
        for placed in self.parts if early else ():
            if placed.parent is not None and placed.parent not in ids:
                raise AssemblyError(
                    f"Build {self.name}: {placed.id!r} sits on {placed.parent!r}, which is not on the build. Take "
                    "one off."
                )
        if roots > 1:
            raise AssemblyError(f"Build {self.name}: only one part may sit on nothing. Mount the others.")
        if early and len(self.from_root()) != len(self.parts):
            raise AssemblyError(f"Build {self.name}: its parts sit on each other in a circle. Take one off.")

    def from_root(self) -> tuple[int, ...]:
        """Return the numbers of the parts that hang together with the root, each after its parent."""
        children = self._children()
        order: list[int] = []
        waiting = [i for i, placed in enumerate(self.parts) if placed.parent is None]
        while waiting:
            i = waiting.pop()
            order.append(i)
            waiting.extend(reversed(children.get(self.parts[i].id, ())))
        return tuple(order)

    def _children(self) -> dict[str, list[int]]:
        children: dict[str, list[int]] = {}
        for i, placed in enumerate(self.parts):
            if placed.parent is not None:
                children.setdefault(placed.parent, []).append(i)
        return children

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
        """Return the ids of `placed_id` and of all that hangs on it, away from the root, in part order."""
        children = self._children()
        carried = {placed_id}
        waiting = [placed_id]
        while waiting:
            for i in children.get(waiting.pop(), ()):
                carried.add(self.parts[i].id)
                waiting.append(self.parts[i].id)
        return tuple(placed.id for placed in self.parts if placed.id in carried)


Kit = Mapping[str, Part]


def check_build(build: Build, kit: Kit) -> None:
    """Raise AssemblyError unless every part of `build` is in the `kit` and sits on a mount that fits it."""
    used: dict[tuple[str, str], str] = {}
    feet: set[tuple[str, int]] = set()
    for placed in build.parts:
        if placed.part_id not in kit:
            raise AssemblyError(f"Build {build.name}: part {placed.part_id!r} is not in the kit. Take it off.")
    by_id = {placed.id: placed for placed in build.parts}
    for placed in build.parts:
        if placed.parent is None or placed.own is not None:
            continue
        holder, sitter = by_id[placed.parent], placed
        if placed.reversed:
            holder, sitter = sitter, holder
        part, parent = kit[sitter.part_id], kit[holder.part_id]
        mount = parent.mount(placed.mount)
        if placed.foot >= len(part.feet):
            raise AssemblyError(f"Build {build.name}: {part.name} has no mount number {placed.foot + 1} below.")
        foot = part.feet[placed.foot]
        if foot.kind is not mount.kind or mount.kind in TOUCH_POINTS:
            raise AssemblyError(
                f"Build {build.name}: {part.name} needs {foot.kind}, but {parent.name} takes {mount.kind} there."
            )
        if not mount.takes_many:
            other = used.setdefault((holder.id, placed.mount), sitter.id)
            if other != sitter.id:
                raise AssemblyError(
                    f"Build {build.name}: {part.name} and {kit[by_id[other].part_id].name} are on one mount of "
                    f"{parent.name}. Move one."
                )
        if (sitter.id, placed.foot) in feet:
            raise AssemblyError(
                f"Build {build.name}: mount number {placed.foot + 1} below {part.name} is taken. Choose another."
            )
        feet.add((sitter.id, placed.foot))
    _check_no_part_twice(build, kit)


def _check_no_part_twice(build: Build, kit: Kit) -> None:
    """Raise AssemblyError if a part of the kit, of which there is one, is on `build` more than once."""
    seen: set[str] = set()
    for placed in build.parts:
        if placed.part_id in seen:
            name = kit[placed.part_id].name
            raise AssemblyError(f"Build {build.name}: {name} is on it twice, but only once in the kit. Duplicate it.")
        seen.add(placed.part_id)


class Link(Struct, frozen=True):
    """How two placed parts are tied: `sitter` has a foot at `foot_at` (m, in its frame) on a `mount` of `holder`."""

    holder: str
    sitter: str
    mount: Mount
    foot_at: Point
