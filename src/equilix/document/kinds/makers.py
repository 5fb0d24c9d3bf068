"""Parts of a kind as they usually are: size, mounts, feet and how a hand holds them; all common practice."""

from __future__ import annotations

import math
from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.kit.parts import Category, Connection, Foot, HowKnown, Mount, MountKind, Outline, Part
from equilix.document import part_shapes as shapes
from equilix.document.kinds.records import PartKind
from equilix.document.part_shapes import Size, m

_SCREW, _SHOE = MountKind.QUARTER_20, MountKind.COLD_SHOE
_ON_A_SCREW = (Foot(_SCREW), Foot(_SHOE))


class Asked(Struct, frozen=True):
    """A part that is to be made: its mass in kg, its size in mm, and the `words` of its name that say which piece."""

    id: str
    name: str
    category: Category
    mass: float
    size: Size
    words: str


def _screw(mount_id: str, x: float, y: float, z: float, name: str, kind: MountKind = _SCREW) -> Mount:
    return Mount(mount_id, kind, m((x, y, z)), name=name)


def _box(a: Asked) -> Part:
    # How a gimbal's parts are joined, nobody can guess: each is asked for.
    feet = () if a.category is Category.GIMBAL else (Foot(_SCREW),)
    return shapes.make(a.id, a.name, a.category, a.mass, a.size, (0, 0, a.size[2] / 2), feet=feet)


def _on_screw(a: Asked) -> Part:
    return shapes.on_screw(a.id, a.name, a.category, a.mass, a.size)


def _plain_plate(a: Asked) -> Part:
    """A plate with holes: its origin is the middle of its top."""
    length, _, height = a.size
    mounts = (
        _screw("top front", length / 4, 0, 0, "top, front"),
        _screw("top rear", -length / 4, 0, 0, "top, rear"),
        _screw("under", 0, 0, -height, "underside"),
    )
    feet = (Foot(_SCREW, m((0, 0, -height))),)
    return shapes.make(a.id, a.name, a.category, a.mass, a.size, (0, 0, -height / 2), mounts=mounts, feet=feet)


def _top_plate(a: Asked) -> Part:
    """A plate on top of a cage: its origin is the middle of its underside."""
    length, width, height = a.size
    rail = Mount(
        "rail",
        MountKind.ACCESSORY_RAIL,
        m((0, 0, height)),
        Connection.SLIDE,
        low=-length / 3e3,
        high=length / 3e3,
        name="rail",
    )
    mounts = (
        rail,
        _screw("front", length / 2 - 15, 0, height, "front screw"),
        _screw("rear", -length / 2 + 15, 0, height, "rear screw"),
        _screw("shoe", length / 2 - 15, -width / 3, height, "right shoe", _SHOE),
        _screw("left shoe", length / 2 - 15, width / 3, height, "left shoe", _SHOE),
    )
    return shapes.make(
        a.id, a.name, a.category, a.mass, a.size, (0, 0, height / 2), mounts=mounts, feet=(Foot(_SCREW),)
    )


def _shoulder_plate(a: Asked) -> Part:
    """A base that lies on the shoulder, with rod clamps ahead and behind; its origin is the middle of its top."""
    length, _, height = a.size
    clamp = m((0, 0, -10))
    mounts = (
        _screw("shoulder", -length / 6, 0, 12 - height, "shoulder", MountKind.SHOULDER),
        Mount(
            "front rods",
            MountKind.LIGHT_ROD_CLAMP,
            clamp,
            Connection.SLIDE,
            low=0.03,
            high=0.25,
            name="front rod clamp",
        ),
        Mount(
            "rear rods",
            MountKind.LIGHT_ROD_CLAMP,
            clamp,
            Connection.SLIDE,
            low=-0.25,
            high=-0.03,
            name="rear rod clamp",
        ),
    )
    feet = (Foot(MountKind.WEDGE_PLATE), Foot(MountKind.DOVETAIL), Foot(_SCREW))
    return shapes.make(a.id, a.name, a.category, a.mass, a.size, (0, 0, -height / 2), mounts=mounts, feet=feet)


def _eyelet(a: Asked) -> Part:
    held = _screw("eye", 0, 0, a.size[2], "eyelet", MountKind.EYELET)
    return shapes.make(
        a.id, a.name, a.category, a.mass, a.size, (0, 0, a.size[2] / 2), mounts=(held,), feet=_ON_A_SCREW
    )


def _side_panel(a: Asked) -> Part:
    """A plate that stands along the side of a cage."""
    length, width, _ = a.size
    mounts = (
        _screw("front", length / 4, width / 2, 0, "front screw"),
        _screw("rear", -length / 4, width / 2, 0, "rear screw"),
    )
    return shapes.make(a.id, a.name, a.category, a.mass, a.size, mounts=mounts, feet=(Foot(_SCREW),))


def _rosette_arm(a: Asked) -> Part:
    length = a.size[0]
    turn = (-math.pi / 2, math.pi / 2, math.radians(6.0))
    end = Mount(
        "end", MountKind.ROSETTE, m((length, 0, 0)), Connection.TURN, (0.0, 1.0, 0.0), *turn, name="end rosette"
    )
    return shapes.make(
        a.id, a.name, a.category, a.mass, a.size, (length / 2, 0, 0), mounts=(end,), feet=(Foot(MountKind.ROSETTE),)
    )


def _rods(a: Asked) -> Part:
    return shapes.rods(a.id, a.name, a.mass, a.size[0])


def _rod(a: Asked) -> Part:
    made = _rods(a)
    return replace(made, outline=Outline(m((a.size[0], 15, 15))))


def _low_grips(a: Asked) -> Part:
    """A pair of grips below the rods, with their clamp."""
    half, down = a.size[1] / 2 - 20, -a.size[2] * 0.55
    hands = tuple(
        _screw(f"{side} hand", 0, y, down, f"{side} hand", MountKind.GRIP_POINT)
        for side, y in (("left", half), ("right", -half))
    )
    return shapes.on_rods(a.id, a.name, a.category, a.mass, a.size, (0, 0, -a.size[2] / 2), hands)


def _grip(a: Asked) -> Part:
    """A grip with its joint at either side, near its top."""
    made = shapes.grip(a.id, a.name, a.mass, a.size[2])
    half = a.size[1] / 2
    return replace(made, feet=tuple(Foot(MountKind.ROSETTE, m((0, y, 0))) for y in (-half, half)))


#: By the name that a kind gives: what makes its mounts and feet.
MAKERS: dict[str, Callable[[Asked], Part]] = {
    "box": _box,
    "screw": _on_screw,
    "plain_plate": _plain_plate,
    "top_plate": _top_plate,
    "shoulder_plate": _shoulder_plate,
    "eyelet": _eyelet,
    "side_panel": _side_panel,
    "rosette_arm": _rosette_arm,
    "rods": _rods,
    "rod": _rod,
    "on_rods_low": _low_grips,
    "grip": _grip,
    "body": lambda a: shapes.body(a.id, a.name, a.mass, a.size, a.size[0] * 0.68),
    "small_body": lambda a: shapes.body(a.id, a.name, a.mass, a.size, a.size[0] * 0.68),
    "cage": lambda a: shapes.cage(a.id, a.name, a.mass, a.size, shoe=0.42),
    "camera_plate": lambda a: shapes.camera_plate(a.id, a.name, a.mass, a.size[0], a.size[1]),
    "base_plate": lambda a: shapes.base_plate(a.id, a.name, a.mass, max(a.size[0], 80.0), max(a.size[0] - 25.0, 60.0)),
    "pad": lambda a: shapes.pad(a.id, a.name, a.mass, a.size),
    "battery_plate": lambda a: shapes.battery_plate(a.id, a.name, a.mass, a.size[0]),
    "battery": lambda a: shapes.battery(a.id, a.name, a.mass, a.size, 0.0),
    "adapter": lambda a: shapes.adapter(a.id, a.name, a.mass, a.size[0]),
    "lens": lambda a: shapes.lens(a.id, a.name, a.mass, a.size[0], max(a.size[1], a.size[2])),
    "lens_support": lambda a: shapes.on_rods(a.id, a.name, a.category, a.mass, a.size, (0, 0, 20)),
    "on_rods": lambda a: shapes.on_rods(a.id, a.name, a.category, a.mass, a.size, (0, 0, 0)),
    "focus": lambda a: shapes.on_rods(a.id, a.name, a.category, a.mass, a.size, (0, 62, 32)),
    "matte_clip": lambda a: shapes.matte_box(a.id, a.name, a.mass, a.size, False),
    "matte_rods": lambda a: shapes.matte_box(a.id, a.name, a.mass, a.size, True),
    "handle": lambda a: shapes.handle(a.id, a.name, a.mass, a.size[0], a.size[2]),
    "clamp": lambda a: shapes.rosette_clamp(a.id, a.name, a.mass, a.size[1] + 8),
    "arm": lambda a: shapes.arm(a.id, a.name, a.mass, a.size[0], a.size[2]),
    "arm_up": lambda a: shapes.arm(a.id, a.name, a.mass, a.size[0] / 2, a.size[2]),
    "monitor": lambda a: shapes.monitor(a.id, a.name, a.mass, a.size, 0.0),
    "sled": lambda a: (
        shapes.bearing(a.id, a.name, a.mass, a.size)
        if a.category is Category.BEARING
        else shapes.sled_piece(a.id, a.name, a.mass, a.size, a.words)
    ),
    "cable": lambda a: shapes.make(
        a.id, a.name, a.category, a.mass, a.size, feet=(Foot(_SCREW), Foot(MountKind.LIGHT_RODS))
    ),
}


def made_of(
    kind: PartKind,
    part_id: str,
    name: str,
    mass: float | None = None,
    size_mm: Size | None = None,
    length: float | None = None,
) -> Part:
    """Return a part of a kind, with the usual mass (kg) and size (mm) where none is given.

    `length` (mm) is what its name says of it. A mass that is given counts as the maker's, a usual one as estimated.
    """
    size = size_mm or ((length, *kind.size[1:]) if length is not None and kind.counts is Category.RODS else kind.size)
    words = kind.key.replace("_", " ")
    made = MAKERS[kind.made](Asked(part_id, name, kind.counts, kind.mass if mass is None else mass, size, words))
    if size_mm is not None and made.outline is not None and made.outline.size != m(size_mm):
        made = replace(made, outline=replace(made.outline, size=m(size_mm)))
    if mass is not None:
        made = replace(made, mass_known=HowKnown.SHEET, note="")
    return replace(made, category=kind.counts)


#: mm: how large a thing is taken to be of which nobody knows what it is; common practice.
_UNKNOWN: Size = (50.0, 50.0, 50.0)


def unknown_part(part_id: str, name: str, mass: float | None, size_mm: Size | None = None) -> Part:
    """Return a part of no known kind: a box, which stands by a screw."""
    made = shapes.on_screw(part_id, name, Category.OTHER, 0.0, size_mm or _UNKNOWN)
    return replace(made, mass=mass, mass_known=HowKnown.SHEET if mass is not None else HowKnown.GUESSED, note="")
