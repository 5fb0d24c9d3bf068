"""A part of the kit: what it weighs, how big it is, what it mounts on and what mounts on it.

A part has its own frame: x forward, y left, z up as it sits on the rig. A camera body's origin is
its sensor mark; any other part's origin is wherever its figures are easiest to give.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import StrEnum
from typing import ClassVar

from msgspec import Struct

from equilix.core.errors import AssemblyError
from equilix.core.kit.records import HowKnown, Point, Record, Shared
from equilix.core.limits import (
    MAX_LENGTH,
    MAX_MASS,
    MAX_ON_PART,
    Bound,
    check_count,
    check_line,
    check_name,
    check_number,
    check_point,
    check_text,
)
from equilix.core.rounding import ROUNDING, negligible

__all__ = ["Category", "Connection", "Foot", "HowKnown", "Mount", "MountKind", "Outline", "Part", "Point", "Shape"]


class Shape(StrEnum):
    BOX = "box"
    CYLINDER = "cylinder"  # axis along x


class Category(StrEnum):
    """What a part is, which picks its silhouette and its place in the order of work."""

    BODY = "body"
    CAGE = "cage"
    PLATE = "plate"
    RODS = "rods"
    PAD = "pad"
    BATTERY_PLATE = "battery plate"
    BATTERY = "battery"
    HANDLE = "handle"
    MONITOR = "monitor"
    ARM = "arm"
    ADAPTER = "adapter"
    LENS = "lens"
    LENS_SUPPORT = "lens support"
    FOCUS = "focus"
    MATTE_BOX = "matte box"
    GRIP = "grip"
    CLAMP = "clamp"
    AUDIO = "audio"
    SENDER = "sender"
    WEIGHT = "weight"
    CABLE = "cable"
    GIMBAL = "gimbal part"
    SLED = "sled part"
    BEARING = "bearing"
    OTHER = "other"


class MountKind(StrEnum):
    """A joint between two parts; a foot fits a mount of its own kind."""

    LIGHT_RODS = "15 mm rods"
    LIGHT_ROD_CLAMP = "15 mm rod clamp"
    STUDIO_RODS = "studio 15 mm rods"
    STUDIO_ROD_CLAMP = "studio 15 mm rod clamp"
    RODS_19 = "19 mm rods"
    ROD_CLAMP_19 = "19 mm rod clamp"
    ROSETTE = "rosette"
    COLD_SHOE = "cold shoe"
    ACCESSORY_RAIL = "accessory rail"
    QUARTER_20 = "1/4-20"
    THREE_EIGHTHS_16 = "3/8-16"
    V_LOCK = "V-lock"
    DOVETAIL = "dovetail"
    WEDGE_PLATE = "wedge plate"
    LENS_MOUNT = "lens mount"
    LENS_FRONT = "lens front"
    EYELET = "eyelet"
    GRIP_POINT = "grip point"
    SHOULDER = "shoulder"
    TILT_AXIS = "tilt axis"
    ROLL_AXIS = "roll axis"
    PAN_AXIS = "pan axis"
    BEARING = "bearing"
    STAGE_SEAT = "sled stage seat"
    BEARING_SEAT = "sled bearing seat"
    TUBE_SEAT = "sled tube seat"
    BASE_SEAT = "sled base seat"
    SLED_RAIL = "sled rail"
    OWN = "own connection"  # of one build, where nothing else joins two parts


#: Points that the operator or a hook takes hold of; no part sits on them.
TOUCH_POINTS = frozenset({MountKind.GRIP_POINT, MountKind.SHOULDER, MountKind.EYELET, MountKind.BEARING})


#: A gimbal's axes, the innermost first. They turn freely: how far they are turned is no part of a build.
AXES = (MountKind.TILT_AXIS, MountKind.ROLL_AXIS, MountKind.PAN_AXIS)

RODS = frozenset({MountKind.LIGHT_RODS, MountKind.STUDIO_RODS, MountKind.RODS_19})
#: Slides that several parts stand on side by side; a dovetail, a clamp or a slot takes one.
_SHARED = RODS | {MountKind.ACCESSORY_RAIL, MountKind.QUARTER_20, MountKind.THREE_EIGHTHS_16}


class Connection(StrEnum):
    FIXED = "fixed"
    SLIDE = "slide"
    TURN = "turn"


class Outline(Struct, frozen=True):
    """Box or x-axis cylinder that encloses the part: `size` and `centre` (m) in the part frame."""

    size: Point
    centre: Point = (0.0, 0.0, 0.0)
    shape: Shape = Shape.BOX

    def __post_init__(self) -> None:
        if len(self.size) != 3:
            raise AssemblyError("A size needs length, width and height.")
        for value, word in zip(self.size, ("Length", "Width", "Height"), strict=True):
            check_number(value, 0.0, MAX_LENGTH, word, "m")
        check_point(self.centre, "The middle of the outline")
        if self.shape is Shape.CYLINDER and not math.isclose(self.size[1], self.size[2], rel_tol=ROUNDING):
            raise AssemblyError("A cylinder’s width and height must be equal: its diameter.")


class Mount(Struct, frozen=True):
    """A place that a part offers to others.

    `at` (m) is where a foot meets it at setting 0. A slide moves along `axis` from `low` to `high`
    (m); a turn rotates about `axis` by the right-hand rule from `low` to `high` (rad). `step` is the
    detent (m or rad), 0 if it stops anywhere.
    """

    id: str
    kind: MountKind
    at: Point
    joint: Connection = Connection.FIXED
    axis: Point = (1.0, 0.0, 0.0)
    low: float = 0.0
    high: float = 0.0
    step: float = 0.0
    name: str = ""

    def __post_init__(self) -> None:
        check_name(self.id, "A mount's id")
        check_line(self.name, f"Mount {self.id}: name")
        check_point(self.at, f"Mount {self.id}: place")
        check_point(self.axis, f"Mount {self.id}: axis")
        if negligible(math.hypot(*self.axis)):
            raise AssemblyError(f"Mount {self.id}: its axis has no length. Give it one.")
        for value, word in ((self.low, "lowest mark"), (self.high, "highest mark")):
            check_number(value, -MAX_LENGTH, MAX_LENGTH, f"Mount {self.id}: {word}")
        check_number(self.step, 0.0, MAX_LENGTH, f"Mount {self.id}: step")
        if self.low > self.high:
            raise AssemblyError(f"Mount {self.id}: the least mark is above the greatest. Swap them.")

    @property
    def takes_many(self) -> bool:
        """Whether several parts may sit on it at once; `shared` tells whether people put them there."""
        return self.joint is Connection.SLIDE

    @property
    def shared(self) -> bool:
        """Whether one more part can be put on it beside another."""
        return self.joint is Connection.SLIDE and self.kind in _SHARED

    @property
    def unit_axis(self) -> Point:
        """The axis with length 1."""
        length = math.hypot(*self.axis)
        return (self.axis[0] / length, self.axis[1] / length, self.axis[2] / length)

    @property
    def goes(self) -> bool:
        """Whether it can be set to more than one place."""
        return self.high > self.low

    @property
    def notched(self) -> bool:
        """Whether it stops at detents alone, `step` apart."""
        return self.step != 0.0

    def snap(self, setting: float) -> float:
        """Return the nearest setting that the mount's detents and travel allow; AssemblyError if it is no number."""
        if not math.isfinite(setting):
            raise AssemblyError("A setting must be a number.")
        if self.notched:
            setting = round(setting / self.step) * self.step
        return min(max(setting, self.low), self.high)


class Foot(Struct, frozen=True):
    """How a part is held: the kind of mount it needs and the point `at` (m) that meets it."""

    kind: MountKind
    at: Point = (0.0, 0.0, 0.0)

    def __post_init__(self) -> None:
        check_point(self.at, "The place of a mount below")


class Part(Struct, frozen=True):
    """One part of the kit.

    `mass` (kg) may be None: not known at all, so it is left out of every sum and said so. `cg` (m)
    is in the part frame, None meaning the middle of the outline. `mass_u` and `cg_u` are standard
    uncertainties that replace the ones which `mass_known` and `cg_known` imply, `cg_axis_u` those along
    single axes; `cg_travel` (m) is how far a zoom's CG goes forward to its long end; `shared` are mass
    errors in common with other parts, and `records` all values that the figures have had, newest last.
    `draw` and `capacity` are electrical (W, Wh); `price` is in the book's currency. `kind` is the key of what it is to
    people where somebody has said so, "" where its name does.
    """

    id: str
    name: str
    category: Category
    mass: float | None = None
    mass_known: HowKnown = HowKnown.GUESSED
    outline: Outline | None = None
    cg: Point | None = None
    cg_known: HowKnown = HowKnown.GUESSED
    mounts: tuple[Mount, ...] = ()
    feet: tuple[Foot, ...] = ()
    mass_u: float | None = None
    cg_u: float | None = None
    scale: str = ""
    price: float | None = None
    draw: float | None = None
    capacity: float | None = None
    note: str = ""
    cg_axis_u: tuple[float | None, float | None, float | None] = (None, None, None)
    cg_travel: float = 0.0
    shared: tuple[Shared, ...] = ()
    records: tuple[Record, ...] = ()
    kind: str = ""

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "mass": Bound(0.0, MAX_MASS, "mass", "kg"),
        "mass_u": Bound(0.0, MAX_MASS, "uncertainty of the mass", "kg"),
        "cg_u": Bound(0.0, MAX_LENGTH, "uncertainty of the CG", "m"),
        "cg_travel": Bound(-MAX_LENGTH, MAX_LENGTH, "the CG’s travel", "m"),
        "price": Bound(0.0, 1e7, "price"),
        "draw": Bound(0.0, 1e5, "power draw", "W"),
        "capacity": Bound(0.0, 1e5, "capacity", "Wh"),
    }

    def __post_init__(self) -> None:
        check_name(self.id, "A part's id")
        check_name(self.name, "A part's name")
        who = f"Part {self.name!r}: " if self.name else ""
        for name, bound in self.BOUNDS.items():
            value = getattr(self, name)
            if value is not None:
                check_number(value, bound.low, bound.high, who + bound.what, bound.unit)
        for value in self.cg_axis_u:
            if value is not None:
                check_number(value, 0.0, MAX_LENGTH, who + "uncertainty of the CG", "m")
        if len(self.cg_axis_u) != 3:
            raise AssemblyError(f"{who}the ± of the CG needs three axes.")
        if self.cg is not None:
            check_point(self.cg, who + "CG")
        check_line(self.scale, who + "the scale's name")
        check_line(self.kind, who + "the kind")
        check_text(self.note, who + "note")
        for things, word in (
            (self.mounts, "mounts"),
            (self.feet, "feet"),
            (self.shared, "shared uncertainties"),
            (self.records, "records"),
        ):
            check_count(things, MAX_ON_PART, who + word)
        ids = [mount.id for mount in self.mounts]
        if len(set(ids)) != len(ids):
            raise AssemblyError(f"{who}two mounts have the same id. Change one.")

    @property
    def centre(self) -> Point:
        """The CG (m) in the part frame, or the middle of the outline when it isn't given."""
        if self.cg is not None:
            return self.cg
        return self.outline.centre if self.outline is not None else (0.0, 0.0, 0.0)

    def mount(self, mount_id: str) -> Mount:
        """Return the mount called `mount_id`; AssemblyError if there is none."""
        for mount in self.mounts:
            if mount.id == mount_id:
                return mount
        raise AssemblyError(f"{self.name} has no mount called {mount_id!r}. Choose another.")
