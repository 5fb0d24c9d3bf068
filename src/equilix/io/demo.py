"""Made-up data to look around in: a small crew films the restoration of a wooden harbour ferry."""

from __future__ import annotations

from functools import cache
from typing import Any

from msgspec.structs import replace

from equilix.core.assembly.build import Build, Operator, Placed, Take
from equilix.core.chosen import settings_of, with_settings
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.kit.records import (
    Instrument,
    Measurement,
    Member,
    Method,
    Quantity,
    ScaleKind,
    Sensed,
    Stamp,
)
from equilix.core.measurement.figures import record_of
from equilix.document import part_shapes as s
from equilix.document import sled_shapes
from equilix.document.book import Book
from equilix.document.gimbal_shapes import chain_of, gimbal
from equilix.document.sled_shapes import sled
from equilix.document.sled_shapes import weight as sled_weight
from equilix.io.catalogue import chain

_W, _S, _G = HowKnown.WEIGHED, HowKnown.SHEET, HowKnown.GUESSED


@cache
def demo_book() -> Book:
    """Return the demo book: one kit, three shoulder builds and two on a gimbal, two operators."""
    kit = tuple(_recorded(part, number) for number, part in enumerate(_kit()))
    builds = _builds({part.id: part for part in kit})
    return Book(
        "Harbour ferry",
        "€",
        kit,
        builds,
        (Operator("maren", "Maren", 1.71, 66.0), Operator("tove", "Tove", 1.84, 81.0)),
        _SCALES,
        _weighings(builds[0]),
    )


_SCALES = (
    Instrument("hanging", "Hanging scale", ScaleKind.HANGING, 20.0, 0.002, 0.002, "simulated", "1 kg block, 08:10"),
    Instrument("bench", "Bench scale", ScaleKind.BENCH, 6.0, 0.001, 0.001, "simulated"),
    Instrument("luggage", "Luggage scale", ScaleKind.HANGING, 40.0, 0.010, 0.005),
)


def _recorded(part: Part, number: int) -> Part:
    """Return a part with the record of its first weighing, if it was weighed."""
    if part.mass_known is not _W or part.mass is None:
        return part
    day, minute = divmod(number * 3, 45)
    stamp = Stamp(f"2026-11-{16 + day:02d} 08:{10 + minute:02d}", "Maren", Method.ONE_SCALE, "Luggage scale")
    return replace(part, scale="Luggage scale", records=(record_of(part, Quantity.MASS, stamp),))


def _weighings(heavy: Build) -> tuple[Measurement, ...]:
    """Return weighings of assemblies on the second day: the zoom turns out heavier than its sheet."""
    together = (
        (("body", "plate"), 2.894, "16:02"),
        (("zoom", "support"), 1.782, "16:04"),
        (("body", "plate", "zoom", "matte"), 4.962, "16:09"),
        (("vplate", "battery-98"), 1.038, "16:12"),
        (tuple(placed.part_id for placed in heavy.parts), 9.418, "16:20"),
    )
    return tuple(
        Measurement(
            f"m{number}",
            Sensed.MASS,
            tuple(Member(part_id) for part_id in parts),
            value,
            _SCALES[0].own_doubt(),
            Method.ONE_SCALE,
            "hanging",
            f"2026-11-23 {time}",
            "Tove",
        )
        for number, (parts, value, time) in enumerate(together, 1)
    )


def _kit() -> list[Part]:
    return [
        *_cameras_and_plates(),
        *_power_and_top(),
        *_optics(),
        *_support(),
        *gimbal("gimbal", "gimbal of the middle size"),
        *(s.known(part, _W, cg=_S) for part in sled("sled", "sled of the middle size")),
        s.known(sled_weight("disc-1", 0.1), _W),
        s.known(sled_weight("disc-2", 0.1, ", second"), _W),
    ]


def _cameras_and_plates() -> list[Part]:
    return [
        s.known(s.body("body", "Cinema body, box type", 2.62, (166, 104, 130), 114, price=3900, draw=38), _W),
        s.known(s.body("wide-body", "Documentary body, wide", 2.31, (180, 196, 138), 124, price=2600, draw=22), _S),
        s.known(s.small_body("small-body", "Stills-shaped body", 0.74, (80, 134, 96), 22, price=1450, draw=9), _W),
        s.known(s.base_plate("base", "Base plate, long dovetail", 0.94, 250, 229, price=310), _W),
        s.known(s.base_plate("base-short", "Base plate, quick release", 0.44, 110, 76, price=140), _S),
        s.known(s.pad("pad", "Shoulder pad, moulded", 0.38, (160, 110, 58), price=85), _W),
        s.pad("pad-spare", "Shoulder pad, foam", 0.30, (140, 105, 58), price=40),
        s.known(s.camera_plate("plate", "Camera plate, long", 0.27, 150), _W),
        s.known(s.camera_plate("plate-short", "Camera plate, short", 0.13, 80), _W),
        s.known(s.rods("rods-front", "Front rods 15 mm, 10 in", 0.14, 254.0, price=45), _W),
        s.known(s.rods("rods-rear", "Rear rods 15 mm, 8 in", 0.11, 203.2, price=38), _W),
        s.known(s.rods("rods-short", "Rods 15 mm, 4 in", 0.06, 101.6, price=24), _S),
        s.cage("cage", "Cage, stills body", 0.36, (90, 165, 120)),
    ]


def _power_and_top() -> list[Part]:
    return [
        s.known(s.battery_plate("vplate", "V-lock plate, rod clamp", 0.29, price=120), _W),
        s.known(s.battery("battery-98", "V-lock battery 98 Wh", 0.75, (52, 100, 150), 98, price=290), _W),
        s.known(s.battery("battery-98b", "V-lock battery 98 Wh, second", 0.76, (52, 100, 150), 98, price=290), _W),
        s.known(s.battery("battery-150", "V-lock battery 150 Wh", 1.16, (72, 100, 152), 150, price=410), _S),
        s.known(s.handle("handle", "Top handle", 0.34, 150, price=95), _W),
        s.arm("tilt", "Monitor tilt mount", 0.10, 12, 48),
        s.arm("arm", "Monitor arm, 7 in", 0.24, 110, 46),
        s.monitor("monitor", "Field monitor 5 in", 0.32, (24, 150, 92), 8, price=420),
        s.known(s.monitor("finder", "Electronic viewfinder", 0.44, (130, 70, 64), 4, price=980), _S),
        s.on_screw("sender", "Video sender", Category.SENDER, 0.20, (34, 68, 88), draw=7, price=540),
        s.on_screw("mic", "Microphone, short, in mount", Category.AUDIO, 0.13, (150, 38, 58), price=210),
        s.known(s.on_screw("receiver", "Audio receiver", Category.AUDIO, 0.09, (22, 45, 75), draw=1), _W),
        s.known(s.on_screw("timecode", "Timecode box", Category.AUDIO, 0.06, (20, 40, 55)), _W),
    ]


def _optics() -> list[Part]:
    return [
        replace(s.known(s.lens("zoom", "Zoom 28–105", 1.36, 207, 108, 0.45, price=1650), _S, cg=_S), cg_travel=0.018),
        replace(s.known(s.lens("zoom-short", "Zoom 35–70", 0.82, 132, 95, price=980), _W), cg_travel=0.009),
        s.known(s.lens("prime-25", "Prime 25 mm", 1.02, 105, 95, price=720), _S),
        s.known(s.lens("prime-50", "Prime 50 mm", 0.98, 100, 95, price=720), _S),
        s.known(s.lens("prime-85", "Prime 85 mm", 1.14, 115, 95, price=760), _S),
        s.known(s.adapter("adapter", "Lens adapter", 0.21, 26), _W),
        s.known(s.on_rods("support", "Lens support, rods", Category.LENS_SUPPORT, 0.18, (24, 84, 56), (0, 0, 20)), _W),
        s.known(
            s.on_rods("motor", "Focus motor, rod clamp", Category.FOCUS, 0.22, (48, 42, 94), (0, 64, 30), draw=6), _S
        ),
        s.known(s.on_rods("focus", "Follow focus, hand", Category.FOCUS, 0.41, (50, 66, 75), (0, 58, 38)), _W),
        s.matte_box("matte", "Matte box, clip-on", 0.48, (112, 150, 150), False, price=260),
        s.matte_box("matte-rods", "Matte box, rod-mounted", 1.08, (140, 190, 158), True),
    ]


def _support() -> list[Part]:
    return [
        s.known(s.rosette_clamp("clamp", "Rosette clamp, rods", 0.26), _W),
        s.known(s.grip("grip-l", "Handgrip, left", 0.18, 150, price=90), _W),
        s.known(s.grip("grip-r", "Handgrip, right", 0.18, 150, price=90), _W),
        s.known(s.on_rods("weight", "Counterweight block", Category.WEIGHT, 0.90, (40, 90, 40), (0, 0, 0)), _W),
        replace(
            s.make("cables", "Cable set", Category.CABLE, None, (120, 30, 30), feet=(s.Foot(s.MountKind.LIGHT_RODS),)),
            note="Not weighed yet.",
        ),
    ]


def _builds(kit: dict[str, Part]) -> tuple[Build, ...]:
    heavy = chain(
        (
            ("base", "base", "", "", 0.0),
            ("pad", "pad", "base", "slot", -0.01),
            ("plate", "plate", "base", "dovetail", 0.005),
            ("body", "body", "plate", "screw", 0.0),
            ("rear", "rods-rear", "base", "rear rods", -0.14),
            ("front", "rods-front", "base", "front rods", 0.14),
            ("vplate", "vplate", "rear", "rods", -0.04),
            ("battery", "battery-98", "vplate", "lock", 0.0),
            ("handle", "handle", "body", "top rear", 0.0),
            ("tilt", "tilt", "handle", "shoe", 0.0),
            ("sender", "sender", "handle", "screw", 0.0),
            ("monitor", "monitor", "tilt", "screw", 0.2617993877991494),
            ("lens", "zoom", "body", "lens", 0.0),
            ("support", "support", "front", "rods", 0.025),
            ("matte", "matte", "lens", "front", 0.0),
            ("clamp", "clamp", "front", "rods", 0.07),
            ("grip-l", "grip-l", "clamp", "left", 0.0),
            ("grip-r", "grip-r", "clamp", "right", 0.0),
        ),
        kit,
    )
    return (
        Build("long-zoom", "A · Long zoom", heavy, note="Shoot day 2 · fore deck, morning", takes=_TAKES),
        Build("trimmed", "B · Long zoom, trimmed", _trimmed(heavy), note="Shoot day 2 · fore deck, noon", takes=_TAKES),
        Build("wide", "C · Wide body", _wide(heavy), note="Shoot day 3 · engine room", takes=_TAKES),
        *_on_gimbal(kit),
        *_on_sled(kit),
    )


def _limited(build: Build) -> Build:
    """Return a build with what the maker of its support says that it carries (kg)."""
    return _with(build, {"most": 3.2})


def _with(build: Build, values: dict[str, float]) -> Build:
    """Return a build with settings of the support that it is for."""
    usual: Any = settings_of(build, build.support)
    return with_settings(build, replace(usual, **values))


def _on_gimbal(kit: dict[str, Part]) -> tuple[Build, ...]:
    """Return the small body on a gimbal, light and in full dress, as it was put on: not balanced yet."""
    light = (
        *chain_of("gimbal", {"plate": -0.02, "shelf": -0.010, "tilt-arm": 0.004}),
        ("body", "small-body", "plate", "screw", 0.0),
        ("lens", "prime-50", "body", "lens", 0.0),
    )
    full = (
        *chain_of("gimbal", {"plate": -0.03, "shelf": -0.014, "tilt-arm": -0.006, "roll-motor": 0.010}),
        ("cage", "cage", "plate", "screw", 0.0),
        ("body", "small-body", "cage", "floor", 0.0),
        ("lens", "zoom-short", "body", "lens", 0.0),
        ("matte", "matte", "lens", "front", 0.0),
        ("sender", "sender", "cage", "shoe", 0.0),
    )
    return (
        _limited(Build("gimbal-light", "D · Light gimbal", chain(light, kit), "gimbal", note="Shoot day 3 · gangway")),
        _limited(Build("gimbal-full", "E · Full gimbal", chain(full, kit), "gimbal", note="Shoot day 3 · wheelhouse")),
    )


def _on_sled(kit: dict[str, Part]) -> tuple[Build, ...]:
    """Return the box body on a sled, with a prime and with the zoom, as it was put on: not balanced yet."""
    long = (
        *sled_shapes.chain_of("sled", {"bearing": 0.031, "rear": 0.012, "stage": 0.0015, "base": -0.002}),
        ("plate", "plate", "stage", "along", -0.011),
        ("body", "body", "plate", "screw", 0.0),
        ("lens", "prime-50", "body", "lens", 0.0),
        ("receiver", "receiver", "body", "top rear", 0.0),
        ("battery", "battery-98", "rear", "lock", 0.0),
        ("monitor", "monitor", "front", "screw", -0.4363323129985824),
    )
    zoom = (
        *sled_shapes.chain_of("sled", {"bearing": 0.058, "rear": -0.018, "tube": -0.020, "stage": -0.001}),
        ("plate", "plate", "stage", "along", -0.032),
        ("body", "body", "plate", "screw", 0.0),
        ("lens", "zoom-short", "body", "lens", 0.0),
        ("handle", "handle", "body", "top rear", 0.0),
        ("battery", "battery-98b", "rear", "lock", 0.0),
        ("monitor", "monitor", "front", "screw", 0.0),
        ("disc-1", "disc-1", "base", "front weight", 0.0),
    )
    arm = {"least": 3.0, "most": 11.0, "set_for": 7.6, "turn": 0.2, "release": True}
    return tuple(
        _with(Build(key, name, chain(parts, kit), "vest", note=note), arm | {"set_for": set_for})
        for key, name, parts, note, set_for in (
            ("sled-long", "F · Long sled", long, "Shoot day 2 · along the quay", 7.0),
            ("sled-zoom", "G · Zoom sled", zoom, "Shoot day 3 · gangway", 7.4),
        )
    )


#: A morning on the fore deck.
_TAKES = (Take(180.0, 180.0), Take(240.0, 240.0), Take(210.0, 240.0), Take(360.0, 300.0))


def _trimmed(parts: tuple[Placed, ...]) -> tuple[Placed, ...]:
    """Return the same build with the camera plate and the battery moved back."""
    settings = {"plate": -0.080, "vplate": -0.075}
    return tuple(replace(placed, setting=settings.get(placed.id, placed.setting)) for placed in parts)


def _wide(parts: tuple[Placed, ...]) -> tuple[Placed, ...]:
    """Return the build around the wide body, with a shorter zoom and a motor not yet in its place."""
    swapped = {"body": "wide-body", "zoom": "zoom-short"}
    gone = {"support"}
    kept = (placed for placed in parts if placed.id not in gone)
    return (
        *(replace(placed, part_id=swapped.get(placed.part_id, placed.part_id)) for placed in kept),
        Placed("motor", "motor", "front", "rods", 0, 0.045),
    )
