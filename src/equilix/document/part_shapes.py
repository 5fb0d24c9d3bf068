"""Makes parts of each family from a few figures: where the outline sits, what they offer and need.

Sizes in mm and masses in kg at this border, since that is how they are listed; SI inside the parts.
A camera body's origin is its sensor mark, so the optical axis is z = 0 and light 15 mm rods run 85 mm
below it; all such distances are common practice.
"""

from __future__ import annotations

import math
from typing import Any

from equilix.core.kit.parts import Category, Connection, Foot, HowKnown, Mount, MountKind, Outline, Part, Shape

#: m below the optical axis; common practice for light 15 mm rods.
ROD_DROP = 0.085
#: m, thickness of a camera plate, and height of the rods below a base plate's top.
PLATE_THICKNESS = 0.010
_ROSETTE_STEP = math.radians(6.0)  # 60 teeth, common practice
_UP = (0.0, 0.0, 1.0)
_LEFT = (0.0, 1.0, 0.0)

Size = tuple[float, float, float]


def make(
    part_id: str,
    name: str,
    category: Category,
    mass: float | None,
    size_mm: Size,
    centre_mm: Size = (0.0, 0.0, 0.0),
    *,
    cg_mm: Size | None = None,
    shape: Shape = Shape.BOX,
    mounts: tuple[Mount, ...] = (),
    feet: tuple[Foot, ...] = (),
    price: float | None = None,
    draw: float | None = None,
    capacity: float | None = None,
) -> Part:
    """Return a part whose figures are estimated."""
    return Part(
        part_id,
        name,
        category,
        mass,
        HowKnown.GUESSED,
        Outline(m(size_mm), m(centre_mm), shape),
        None if cg_mm is None else m(cg_mm),
        HowKnown.GUESSED,
        mounts,
        feet,
        price=price,
        draw=draw,
        capacity=capacity,
        note="Guess from common practice: weigh it." if mass is not None else "",
    )


def m(mm: Size) -> Size:
    return (round(mm[0] / 1000.0, 7), round(mm[1] / 1000.0, 7), round(mm[2] / 1000.0, 7))


def _fixed(mount_id: str, kind: MountKind, x: float, y: float, z: float, name: str = "") -> Mount:
    return Mount(mount_id, kind, m((x, y, z)), name=name)


def on_rods(
    part_id: str,
    name: str,
    category: Category,
    mass: float,
    size_mm: Size,
    centre_mm: Size,
    mounts: tuple[Mount, ...] = (),
    **more: Any,
) -> Part:
    """Return a part that clamps on the rods; its origin is the rods' middle line."""
    return make(
        part_id, name, category, mass, size_mm, centre_mm, mounts=mounts, feet=(Foot(MountKind.LIGHT_RODS),), **more
    )


#: mm: how far the parts of a usual sled slide either way: stage and base across, what sits on them along, the bearing.
_SLED_ACROSS, _SLED_ALONG, _SLED_BEARING = 20.0, 60.0, 120.0


def body(part_id: str, name: str, mass: float, size_mm: Size, back_mm: float, **more: Any) -> Part:
    """Return a camera body: the sensor mark lies `back_mm` ahead of its back, on the middle of its height."""
    length, width, height = size_mm
    front, half = length - back_mm, height / 2.0
    return make(
        part_id,
        name,
        Category.BODY,
        mass,
        size_mm,
        (length / 2.0 - back_mm, 0.0, 0.0),
        mounts=(
            _fixed("lens", MountKind.LENS_MOUNT, front, 0, 0, "lens mount"),
            _fixed("top front", MountKind.QUARTER_20, front - 25, 0, half, "top, front"),
            _fixed("top rear", MountKind.QUARTER_20, front - length * 0.55, 0, half, "top, rear"),
            _fixed("side", MountKind.QUARTER_20, front - length / 2, width / 2, 10, "left side"),
            _fixed("back", MountKind.V_LOCK, -back_mm, 0, 0, "back"),
        ),
        feet=(Foot(MountKind.QUARTER_20, m((front - length / 2, 0, -half))),),
        **more,
    )


def lens(
    part_id: str, name: str, mass: float, length_mm: float, diameter_mm: float, cg_share: float = 0.48, **more: Any
) -> Part:
    """Return a lens whose origin is its flange; the CG lies `cg_share` of its length ahead of it."""
    return make(
        part_id,
        name,
        Category.LENS,
        mass,
        (length_mm, diameter_mm, diameter_mm),
        (length_mm / 2.0, 0.0, 0.0),
        cg_mm=(length_mm * cg_share, 0.0, 0.0),
        shape=Shape.CYLINDER,
        mounts=(_fixed("front", MountKind.LENS_FRONT, length_mm, 0, 0, "lens front"),),
        feet=(Foot(MountKind.LENS_MOUNT),),
        **more,
    )


def adapter(part_id: str, name: str, mass: float, length_mm: float) -> Part:
    """Return a lens adapter: a mount behind, a mount in front."""
    return make(
        part_id,
        name,
        Category.ADAPTER,
        mass,
        (length_mm, 66, 66),
        (length_mm / 2.0, 0, 0),
        shape=Shape.CYLINDER,
        mounts=(_fixed("front", MountKind.LENS_MOUNT, length_mm, 0, 0, "lens mount"),),
        feet=(Foot(MountKind.LENS_MOUNT),),
    )


def base_plate(part_id: str, name: str, mass: float, length_mm: float, travel_mm: float, **more: Any) -> Part:
    """Return a base plate: dovetail on top, rod clamps at both ends, a slot for the pad below.

    Its origin is the middle of its top, `travel_mm` is the whole travel of the dovetail.
    """
    half = travel_mm / 2000.0
    rods_z = -(PLATE_THICKNESS * 1000.0)
    return make(
        part_id,
        name,
        Category.PLATE,
        mass,
        (length_mm, 90, 26),
        (0, 0, -13),
        mounts=(
            Mount("dovetail", MountKind.DOVETAIL, (0.0, 0.0, 0.0), Connection.SLIDE, low=-half, high=half, name="top"),
            Mount(
                "front rods",
                MountKind.LIGHT_ROD_CLAMP,
                m((0, 0, rods_z)),
                Connection.SLIDE,
                low=0.03,
                high=0.20,
                name="front rod clamp",
            ),
            Mount(
                "rear rods",
                MountKind.LIGHT_ROD_CLAMP,
                m((0, 0, rods_z)),
                Connection.SLIDE,
                low=-0.20,
                high=-0.03,
                name="rear rod clamp",
            ),
            Mount(
                "slot", MountKind.WEDGE_PLATE, m((0, 0, -26)), Connection.SLIDE, low=-0.06, high=0.06, name="pad slot"
            ),
        ),
        feet=(Foot(MountKind.WEDGE_PLATE, m((0, 0, -26))),),
        **more,
    )


def camera_plate(part_id: str, name: str, mass: float, length_mm: float, width_mm: float = 60) -> Part:
    """Return a plate screwed under the camera that slides in a dovetail; its origin is its top's middle."""
    t = PLATE_THICKNESS * 1000.0
    return make(
        part_id,
        name,
        Category.PLATE,
        mass,
        (length_mm, width_mm, t),
        (0, 0, -t / 2),
        mounts=(_fixed("screw", MountKind.QUARTER_20, 0, 0, 0, "camera screw"),),
        feet=(Foot(MountKind.DOVETAIL, m((0, 0, -t))),),
    )


def rods(part_id: str, name: str, mass: float, length_mm: float, **more: Any) -> Part:
    """Return a pair of 15 mm rods 60 mm apart; the origin is their middle."""
    reach = length_mm / 2000.0 - 0.008
    return make(
        part_id,
        name,
        Category.RODS,
        mass,
        (length_mm, 75, 15),
        mounts=(
            Mount("rods", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0), Connection.SLIDE, low=-reach, high=reach, name="rods"),
        ),
        feet=(Foot(MountKind.LIGHT_ROD_CLAMP),),
        **more,
    )


def pad(part_id: str, name: str, mass: float, size_mm: Size = (150, 110, 60), **more: Any) -> Part:
    """Return a shoulder pad hung under a base plate; its hollow rests 12 mm above its lowest points."""
    height = size_mm[2]
    return make(
        part_id,
        name,
        Category.PAD,
        mass,
        size_mm,
        (0, 0, -height / 2),
        mounts=(_fixed("shoulder", MountKind.SHOULDER, 0, 0, 12 - height, "shoulder"),),
        feet=(Foot(MountKind.WEDGE_PLATE),),
        **more,
    )


def battery_plate(part_id: str, name: str, mass: float, thickness_mm: float = 18, **more: Any) -> Part:
    """Return a V-lock plate that stands on the rods, the battery behind it."""
    return make(
        part_id,
        name,
        Category.BATTERY_PLATE,
        mass,
        (thickness_mm, 95, 150),
        (0, 0, 68),
        mounts=(_fixed("lock", MountKind.V_LOCK, -thickness_mm / 2, 0, 90, "V-lock"),),
        feet=(Foot(MountKind.LIGHT_RODS),),
        **more,
    )


def battery(part_id: str, name: str, mass: float, size_mm: Size, capacity: float, **more: Any) -> Part:
    """Return a V-lock battery; its front face meets the plate."""
    half = size_mm[0] / 2.0
    return make(
        part_id,
        name,
        Category.BATTERY,
        mass,
        size_mm,
        feet=(Foot(MountKind.V_LOCK, m((half, 0, 0))),),
        capacity=capacity,
        **more,
    )


def handle(part_id: str, name: str, mass: float, length_mm: float, height_mm: float = 60, **more: Any) -> Part:
    """Return a top handle screwed on by its rear post; a shoe at its front end."""
    middle = length_mm * 0.3
    return make(
        part_id,
        name,
        Category.HANDLE,
        mass,
        (length_mm, 32, height_mm),
        (middle, 0, height_mm / 2),
        mounts=(
            _fixed("shoe", MountKind.COLD_SHOE, middle + length_mm / 2 - 12, 0, height_mm, "front shoe"),
            _fixed("screw", MountKind.QUARTER_20, middle - length_mm / 2 + 12, 0, height_mm, "rear screw"),
            _fixed("grip", MountKind.GRIP_POINT, middle, 0, height_mm - 12, "handle"),
            _fixed("eye", MountKind.EYELET, middle, 0, height_mm, "eyelet"),
        ),
        feet=(Foot(MountKind.QUARTER_20), Foot(MountKind.ACCESSORY_RAIL)),
        **more,
    )


def arm(part_id: str, name: str, mass: float, reach_mm: float, rise_mm: float) -> Part:
    """Return a bracket from a shoe forward and up to a tilting screw."""
    return make(
        part_id,
        name,
        Category.ARM,
        mass,
        (reach_mm, 22, max(rise_mm, 22)),
        (reach_mm / 2, 0, max(rise_mm, 22) / 2),
        mounts=(
            Mount(
                "screw",
                MountKind.QUARTER_20,
                m((reach_mm, 0, max(rise_mm, 22))),
                Connection.TURN,
                _LEFT,
                -math.pi / 2,
                math.pi / 2,
                math.radians(1.0),
                "tilting screw",
            ),
        ),
        feet=(Foot(MountKind.COLD_SHOE), Foot(MountKind.QUARTER_20)),
    )


def monitor(part_id: str, name: str, mass: float, size_mm: Size, draw: float, **more: Any) -> Part:
    """Return a screen held by its lower edge; it looks back at the operator."""
    return make(
        part_id,
        name,
        Category.MONITOR,
        mass,
        size_mm,
        (0, 0, size_mm[2] / 2),
        feet=(Foot(MountKind.QUARTER_20), Foot(MountKind.COLD_SHOE)),
        draw=draw,
        **more,
    )


def bearing(part_id: str, name: str, mass: float, size_mm: Size) -> Part:
    """Return the bearing that a sled turns in, held in its middle, about a post."""
    held = Mount("bearing", MountKind.BEARING, (0.0, 0.0, 0.0), name="bearing")
    seat = (Foot(MountKind.BEARING_SEAT),)
    return make(part_id, name, Category.BEARING, mass, size_mm, mounts=(held,), feet=seat)


def sled_piece(part_id: str, name: str, mass: float, size_mm: Size, words: str) -> Part:
    """Return a stage, a base or a post by its name, with the slides that such parts usually have; common practice."""
    length, _, height = size_mm

    def slide(mount_id: str, kind: MountKind, axis: Size, reach: float, at: Size, title: str) -> Mount:
        return Mount(mount_id, kind, m(at), Connection.SLIDE, axis, -reach / 1e3, reach / 1e3, name=title)

    ahead, left, up = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
    mounts: tuple[Mount, ...]
    feet: tuple[Foot, ...]
    if "base" in words:
        mounts = (
            slide("rear", MountKind.V_LOCK, ahead, _SLED_ALONG, (-length * 0.3, 0, -height), "battery fore and aft"),
            slide("front", MountKind.QUARTER_20, ahead, _SLED_ALONG, (length * 0.4, 0, 0), "monitor fore and aft"),
        )
        feet, middle = (Foot(MountKind.BASE_SEAT),), (0.0, 0.0, -height / 2)
    elif "stage" in words:
        mounts = (slide("along", MountKind.DOVETAIL, ahead, _SLED_ALONG, (0, 0, height), "stage fore and aft"),)
        feet, middle = (Foot(MountKind.STAGE_SEAT),), (0.0, 0.0, height / 2)
    else:
        reach = min(_SLED_BEARING, 0.45 * height)
        mounts = (
            slide("top", MountKind.STAGE_SEAT, left, _SLED_ACROSS, (0, 0, height / 2), "stage across"),
            slide("bearing", MountKind.BEARING_SEAT, up, reach, (0, 0, height * 0.2), "bearing height"),
            slide("low", MountKind.BASE_SEAT, left, _SLED_ACROSS, (0, 0, -height / 2), "base across"),
        )
        feet, middle = (), (0.0, 0.0, 0.0)
    return make(part_id, name, Category.SLED, mass, size_mm, middle, mounts=mounts, feet=feet)


def rosette_clamp(part_id: str, name: str, mass: float, apart_mm: float = 150) -> Part:
    """Return a rod clamp with a rosette on either side, `apart_mm` from each other."""
    half = apart_mm / 2000.0
    turn = (-math.radians(90.0), math.radians(90.0), _ROSETTE_STEP)
    return on_rods(
        part_id,
        name,
        Category.CLAMP,
        mass,
        (34, apart_mm - 8, 34),
        (0, 0, -4),
        (
            Mount("left", MountKind.ROSETTE, (0.0, half, -0.004), Connection.TURN, _LEFT, *turn, name="left rosette"),
            Mount(
                "right", MountKind.ROSETTE, (0.0, -half, -0.004), Connection.TURN, _LEFT, *turn, name="right rosette"
            ),
        ),
    )


def grip(part_id: str, name: str, mass: float, length_mm: float = 150, **more: Any) -> Part:
    """Return a handgrip on a toothed rosette; the hand holds it below its middle."""
    return make(
        part_id,
        name,
        Category.GRIP,
        mass,
        (36, 36, length_mm),
        (0, 0, -length_mm / 2 + 10),
        mounts=(_fixed("hand", MountKind.GRIP_POINT, 0, 0, -length_mm * 0.6, "hand"),),
        feet=(Foot(MountKind.ROSETTE),),
        **more,
    )


def matte_box(part_id: str, name: str, mass: float, size_mm: Size, on_the_rods: bool, **more: Any) -> Part:
    """Return a matte box, clipped on the lens front or standing on the rods."""
    centre = (size_mm[0] / 2 - 12, 0, 0)
    foot = (
        Foot(MountKind.LIGHT_RODS, (0.0, 0.0, -ROD_DROP))
        if on_the_rods
        else Foot(MountKind.LENS_FRONT, (0.0, 0.0, 0.0))
    )
    return make(part_id, name, Category.MATTE_BOX, mass, size_mm, centre, feet=(foot,), **more)


def on_screw(
    part_id: str,
    name: str,
    category: Category,
    mass: float,
    size_mm: Size,
    kinds: tuple[MountKind, ...] = (MountKind.QUARTER_20, MountKind.COLD_SHOE),
    **more: Any,
) -> Part:
    """Return a small part that stands on a screw or a shoe."""
    feet = tuple(Foot(kind) for kind in kinds)
    return make(part_id, name, category, mass, size_mm, (0, 0, size_mm[2] / 2), feet=feet, **more)


def cage(part_id: str, name: str, mass: float, size_mm: Size, wall_mm: float = 8, shoe: float = 0.25) -> Part:
    """Return a cage whose origin is the middle of its floor's top; rails above, rosettes at the sides.

    Its shoe lies a share of the width beside the middle of the top.
    """
    length, width, height = size_mm
    top = height - wall_mm
    turn = (-math.radians(90.0), math.radians(90.0), _ROSETTE_STEP)
    rail = (length / 2 - 15) / 1000.0
    return make(
        part_id,
        name,
        Category.CAGE,
        mass,
        size_mm,
        (0, 0, height / 2 - wall_mm),
        mounts=(
            _fixed("floor", MountKind.QUARTER_20, 0, 0, 0, "camera screw"),
            Mount(
                "rail",
                MountKind.ACCESSORY_RAIL,
                m((0, 0, top)),
                Connection.SLIDE,
                low=-rail,
                high=rail,
                name="top rail",
            ),
            _fixed("shoe", MountKind.COLD_SHOE, length / 2 - 15, width * shoe, top, "shoe"),
            Mount("left", MountKind.ROSETTE, m((0, width / 2, 50)), Connection.TURN, _LEFT, *turn, name="left rosette"),
            Mount(
                "right", MountKind.ROSETTE, m((0, -width / 2, 50)), Connection.TURN, _LEFT, *turn, name="right rosette"
            ),
        ),
        feet=(Foot(MountKind.QUARTER_20, m((0, 0, -wall_mm))), Foot(MountKind.DOVETAIL, m((0, 0, -wall_mm)))),
    )
