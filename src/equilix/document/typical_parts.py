"""Parts with the size, mounts and feet that parts of their kind usually have."""

from __future__ import annotations

from msgspec.structs import replace

from equilix.core.kit.kinds import TYPICAL
from equilix.core.kit.parts import Category, Foot, MountKind, Outline, Part, Shape
from equilix.document.part_names import is_single, named_length
from equilix.document.part_shapes import (
    Size,
    adapter,
    arm,
    base_plate,
    battery,
    battery_plate,
    bearing,
    body,
    cage,
    camera_plate,
    grip,
    handle,
    lens,
    m,
    make,
    matte_box,
    monitor,
    on_rods,
    on_screw,
    pad,
    rods,
    rosette_clamp,
    sled_piece,
)


def _single(part: Part) -> Part:
    """Return one rod in the middle in place of a pair."""
    assert part.outline is not None
    length, _, height = part.outline.size
    return replace(part, outline=Outline((length, height, height), part.outline.centre))


#: mm: usual parts of a sled by a word of their names, for its post see `TYPICAL`; common practice.
_SLED_SIZES = (
    ("stage", (150.0, 88.0, 30.0)),
    ("base", (260.0, 60.0, 22.0)),
    ("tube", (32.0, 32.0, 300.0)),
    ("slide", (60.0, 60.0, 20.0)),
)


def usual_size(category: Category, name: str) -> Size:
    """Return how large (mm) a part of that kind and name usually is."""
    words = name.casefold()
    if category is Category.SLED:
        found = next((size for word, size in _SLED_SIZES if word in words), None)
        if found is not None:
            return found
    usual = TYPICAL[category][1]
    if category is Category.RODS and (long := named_length(words)) is not None:
        return (long, *usual[1:])
    return usual


def typical(category: Category, part_id: str, name: str, mass: float | None, size_mm: Size | None = None) -> Part:
    """Return a part of `category` with the mounts and feet that such parts usually have.

    A size that isn't given is the category's usual one, common practice.
    """
    usual = usual_size(category, name)
    size = size_mm or usual
    made = _typical(category, part_id, name, mass or 0.0, size, name.casefold())
    if size_mm is not None and made.outline is not None and made.outline.shape is Shape.BOX:
        # What was measured holds, even where such parts usually are as wide as their mounts.
        made = replace(made, outline=replace(made.outline, size=m(size_mm)))
    return replace(made, mass=mass, note="")


def _typical(category: Category, part_id: str, name: str, mass: float, size: Size, words: str) -> Part:
    length, width, height = size
    match category:
        case Category.BODY:
            return body(part_id, name, mass, size, length * 0.68)
        case Category.CAGE:
            # What goes into the shoe must clear a handle on the rail.
            return cage(part_id, name, mass, size, shoe=0.42)
        case Category.PLATE:
            if any(word in words for word in ("base", "bridge", "dovetail")):
                return base_plate(part_id, name, mass, max(length, 80.0), max(length - 25.0, 60.0))
            return camera_plate(part_id, name, mass, length, width)
        case Category.RODS:
            made = rods(part_id, name, mass, length)
            return _single(made) if is_single(words) else made
        case Category.PAD:
            return pad(part_id, name, mass, size)
        case Category.BATTERY_PLATE:
            return battery_plate(part_id, name, mass, length)
        case Category.BATTERY:
            return battery(part_id, name, mass, size, 0.0)
        case Category.HANDLE:
            return handle(part_id, name, mass, length, height)
        case Category.MONITOR:
            return monitor(part_id, name, mass, size, 0.0)
        case Category.ARM:
            return arm(part_id, name, mass, length, height)
        case Category.ADAPTER:
            return adapter(part_id, name, mass, length)
        case Category.LENS:
            return lens(part_id, name, mass, length, max(width, height))
        case Category.MATTE_BOX:
            return matte_box(part_id, name, mass, size, "rod" in words)
        case Category.GRIP:
            return grip(part_id, name, mass, height)
        case Category.CLAMP:
            return rosette_clamp(part_id, name, mass, width + 8)
        case Category.LENS_SUPPORT | Category.WEIGHT:
            return on_rods(part_id, name, category, mass, size, (0, 0, 20 if category is Category.LENS_SUPPORT else 0))
        case Category.FOCUS:
            return on_rods(part_id, name, category, mass, size, (0, 62, 32))
        case Category.BEARING:
            return bearing(part_id, name, mass, size)
        case Category.SLED:
            return sled_piece(part_id, name, mass, size, words)
        case Category.GIMBAL:
            # How such parts are joined, nobody can guess: each is asked for.
            return make(part_id, name, category, mass, size)
        case Category.CABLE:
            return make(
                part_id, name, category, mass, size, feet=(Foot(MountKind.QUARTER_20), Foot(MountKind.LIGHT_RODS))
            )
        case _:
            kinds = (MountKind.QUARTER_20, MountKind.COLD_SHOE)
            return on_screw(part_id, name, category, mass, size, kinds)
