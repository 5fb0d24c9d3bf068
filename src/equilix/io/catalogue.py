"""The starter catalogue: generic parts with typical figures, so that a rig can be roughed out unweighed.

Every figure is a guess from common practice and is marked as one: 15 % on a mass, 10 % of the
length on a CG. Weigh what matters.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Any

from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.chosen import settings_of, with_settings
from equilix.core.kit.parts import Category, MountKind, Part
from equilix.document import part_shapes as s
from equilix.document import sled_shapes
from equilix.document.gimbal_shapes import chain_of, gimbal

IN = 25.4


@cache
def catalogue() -> tuple[Part, ...]:
    """Return the generic parts, in the order in which a rig is put together."""
    return (*_bodies(), *_foundation(), *_power(), *_top(), *_lenses(), *_front(), *_support(), *_gimbals(), *_sleds())


def _bodies() -> list[Part]:
    return [
        s.small_body("c-body-compact", "Stills-shaped body, compact", 0.48, (60, 125, 75), 18, draw=6),
        s.small_body("c-body-full", "Stills-shaped body, full frame", 0.72, (80, 136, 98), 22, draw=8),
        s.small_body("c-body-cine-stills", "Stills-shaped body, cinema type", 0.78, (85, 130, 78), 24, draw=14),
        s.small_body("c-body-grip", "Stills-shaped body with battery grip", 1.15, (90, 150, 145), 26, draw=10),
        s.body("c-body-cube", "Box body, cube, small", 0.75, (90, 90, 95), 58, draw=15),
        s.body("c-body-box-s", "Box body, small", 1.2, (130, 100, 110), 88, draw=20),
        s.body("c-body-box-m", "Box body, medium", 2.0, (150, 104, 125), 102, draw=28),
        s.body("c-body-box-l", "Box body, large", 2.7, (170, 110, 130), 116, draw=40),
        s.body("c-body-studio", "Studio cinema body", 4.2, (230, 150, 145), 150, draw=75),
        s.body("c-body-long", "Documentary body, long", 1.9, (205, 110, 125), 150, draw=20),
        s.body("c-body-wide", "Documentary body, wide", 2.4, (170, 190, 135), 115, draw=22),
        s.body("c-body-shoulder", "Shoulder-mount news body", 3.3, (310, 140, 180), 240, draw=25),
        s.cage("c-cage-full", "Full cage, stills body", 0.38, (90, 165, 120)),
        s.cage("c-cage-half", "Half cage, stills body", 0.20, (80, 90, 115)),
        s.cage("c-cage-box", "Cage, small box body", 0.45, (125, 125, 135)),
    ]


def _foundation() -> list[Part]:
    plates = [
        s.base_plate("c-base-long", "Base plate, long dovetail (229 mm travel)", 0.98, 250, 229),
        s.base_plate("c-base-mid", "Base plate, medium dovetail (150 mm travel)", 0.72, 180, 150),
        s.base_plate("c-base-short", "Base plate, short quick release (76 mm travel)", 0.46, 110, 76),
        s.base_plate("c-base-printed", "Base plate, printed plastic", 0.28, 120, 76),
        s.camera_plate("c-camplate-long", "Camera plate, long", 0.26, 150),
        s.camera_plate("c-camplate-short", "Camera plate, short", 0.12, 80),
        s.camera_plate("c-camplate-narrow", "Camera plate, narrow", 0.07, 70, 38),
    ]
    lengths = (3, 4, 6, 8, 12, 16, 18)
    pairs = [
        s.rods(
            f"c-rods-{material}-{inch}",
            f"Rods 15 mm, {inch} in pair, {material}",
            round(inch * IN / 1000 * per_metre, 3),
            round(inch * IN, 1),
        )
        for material, per_metre in (("aluminium", 0.54), ("carbon", 0.30), ("steel", 1.25))
        for inch in lengths
        if material != "steel" or inch <= 12
    ]
    pads = [
        s.pad("c-pad-foam", "Shoulder pad, foam", 0.32),
        s.pad("c-pad-wedge", "Shoulder pad, moulded, wide", 0.55, (190, 130, 65)),
        s.pad("c-pad-small", "Shoulder pad, small", 0.20, (110, 90, 50)),
        s.rod_pad("c-pad-rods", "Shoulder pad, rod clamp", 0.42),
    ]
    return [*plates, *pairs, *pads]


#: Generic gimbals: a key, a word, how large and how heavy beside one of the middle size, and what they carry (kg) and
#: their motors are rated for (N m): tilt, roll and pan; common practice.
_GIMBALS = (
    ("s", "small", 0.8, 0.55, 1.6, (0.3, 0.5, 0.5), 20.0),
    ("m", "middle", 1.0, 1.0, 3.2, (0.6, 1.0, 1.0), 40.0),
    ("l", "large", 1.35, 1.8, 6.8, (1.2, 2.0, 2.0), 90.0),
)


def _gimbals() -> list[Part]:
    return [part for key, word, size, mass, *_ in _GIMBALS for part in gimbal(f"c-gimbal-{key}", word, size, mass)]


#: Generic sleds: a key, a word, how long and how heavy beside one of the middle size, and what an arm for it lifts at
#: least and at most and weighs, and its vest (kg); common practice.
_SLEDS = (
    ("s", "small", 0.75, 0.6, (1.5, 5.0, 1.6, 2.6)),
    ("m", "middle", 1.0, 1.0, (4.0, 11.0, 2.6, 4.0)),
    ("l", "large", 1.15, 1.5, (8.0, 25.0, 4.2, 5.5)),
)


def _sleds() -> list[Part]:
    sleds = [
        part for key, word, size, mass, _ in _SLEDS for part in sled_shapes.sled(f"c-sled-{key}", word, size, mass)
    ]
    return [*sleds, sled_shapes.weight("c-sled-disc-100", 0.1), sled_shapes.weight("c-sled-disc-250", 0.25)]


def _power() -> list[Part]:
    sizes = (
        (50, 0.38, (45, 75, 105)),
        (75, 0.52, (48, 82, 112)),
        (98, 0.72, (52, 100, 150)),
        (150, 1.02, (70, 100, 152)),
        (190, 1.35, (86, 102, 155)),
        (230, 1.60, (100, 105, 160)),
        (290, 2.05, (120, 110, 165)),
    )
    batteries = [s.battery(f"c-battery-{wh}", f"V-lock battery {wh} Wh", mass, size, wh) for wh, mass, size in sizes]
    return [
        s.battery_plate("c-vplate", "V-lock plate, rod clamp", 0.30),
        s.battery_plate("c-vplate-light", "V-lock plate, rod clamp, light", 0.18, 14),
        s.battery_plate("c-vplate-hinge", "V-lock plate, hinged", 0.52, 34),
        *batteries,
        s.on_screw(
            "c-battery-slab", "Small camcorder battery, 35 Wh", Category.BATTERY, 0.19, (40, 55, 60), capacity=35
        ),
        s.on_screw("c-sender-s", "Video sender, small", Category.SENDER, 0.16, (24, 60, 80), draw=6),
        s.on_screw("c-sender-m", "Video sender, medium", Category.SENDER, 0.28, (34, 68, 120), draw=9),
        s.on_rods("c-sender-rods", "Video sender, rod clamp", Category.SENDER, 0.34, (52, 72, 92), (0, 0, 60), draw=9),
    ]


def _top() -> list[Part]:
    screens = ((3.5, 0.17, (20, 100, 70), 4), (5, 0.30, (24, 150, 92), 8), (7, 0.48, (28, 185, 122), 12))
    return [
        s.handle("c-handle-s", "Top handle, short", 0.22, 120),
        s.handle("c-handle-m", "Top handle, medium", 0.34, 160),
        s.handle("c-handle-l", "Top handle, long", 0.48, 210, 70),
        s.handle("c-handle-wood", "Top handle, wooden", 0.29, 140),
        s.arm("c-arm-short", "Monitor arm, short", 0.14, 40, 45),
        s.arm("c-arm-mid", "Monitor arm, 7 in", 0.24, 110, 50),
        s.arm("c-arm-long", "Monitor arm, 11 in", 0.34, 180, 60),
        s.arm("c-arm-swivel", "Monitor tilt mount", 0.09, 12, 40),
        *(s.monitor(f"c-monitor-{inch}", f"Monitor {inch} in", mass, size, draw) for inch, mass, size, draw in screens),
        s.monitor("c-monitor-9", "Monitor 9 in", 0.85, (35, 230, 150), 18),
        s.monitor("c-finder", "Electronic viewfinder", 0.46, (130, 70, 65), 4),
        s.on_screw("c-mic-short", "Microphone, short, in mount", Category.AUDIO, 0.12, (150, 40, 60)),
        s.on_screw("c-mic-long", "Microphone, long, in mount", Category.AUDIO, 0.26, (280, 45, 70)),
        s.on_screw("c-audio-rx", "Audio receiver", Category.AUDIO, 0.09, (22, 45, 75), draw=1),
        s.on_screw("c-timecode", "Timecode box", Category.AUDIO, 0.06, (20, 40, 55)),
        s.on_screw("c-recorder", "Audio recorder, small", Category.AUDIO, 0.42, (50, 110, 70), draw=4),
        s.on_screw("c-light", "On-camera light, small", Category.OTHER, 0.20, (35, 90, 65), draw=10),
    ]


def _lenses() -> list[Part]:
    primes = (
        ("pancake", "Prime lens, pancake", 0.15, 30, 62),
        ("wide", "Prime lens, wide, stills", 0.48, 85, 77),
        ("normal", "Prime lens, normal, stills", 0.40, 70, 73),
        ("portrait", "Prime lens, short tele, stills", 0.78, 95, 84),
        ("cine-wide", "Cinema prime, wide", 1.15, 110, 95),
        ("cine-normal", "Cinema prime, normal", 1.05, 100, 95),
        ("cine-long", "Cinema prime, long", 1.35, 130, 95),
        ("anamorphic", "Anamorphic prime", 1.90, 165, 110),
    )
    zooms = (
        ("16-35", "Zoom 16–35, stills", 0.68, 122, 82),
        ("24-70", "Zoom 24–70, stills", 0.89, 136, 88),
        ("24-105", "Zoom 24–105, stills", 0.79, 118, 84),
        ("70-200", "Zoom 70–200, stills", 1.45, 220, 89),
        ("light", "Cinema zoom, light 18–80", 1.20, 185, 85),
        ("compact", "Cinema zoom, compact 28–105", 1.45, 205, 108),
        ("mid", "Cinema zoom 19–90 with drive", 2.80, 230, 130),
        ("long", "Cinema zoom 85–300", 2.95, 280, 126),
        ("studio", "Studio cinema zoom 24–290", 6.50, 410, 145),
        ("news", "News zoom with drive", 1.85, 220, 105),
    )
    return [
        s.adapter("c-adapter-thin", "Lens adapter, thin", 0.12, 18),
        s.adapter("c-adapter", "Lens adapter", 0.22, 26),
        s.adapter("c-adapter-filter", "Lens adapter with filter", 0.38, 26),
        *(s.lens(f"c-prime-{key}", name, mass, length, dia) for key, name, mass, length, dia in primes),
        *(s.lens(f"c-zoom-{key}", name, mass, length, dia) for key, name, mass, length, dia in zooms),
        s.on_rods("c-support", "Lens support, rods", Category.LENS_SUPPORT, 0.18, (24, 80, 60), (0, 0, 22)),
        s.on_rods("c-support-heavy", "Lens support, heavy", Category.LENS_SUPPORT, 0.36, (34, 90, 66), (0, 0, 24)),
    ]


def _front() -> list[Part]:
    return [
        s.on_rods("c-focus-hand", "Follow focus, hand", Category.FOCUS, 0.42, (50, 70, 75), (0, 58, 40)),
        s.on_rods("c-focus-motor", "Focus motor, rod clamp", Category.FOCUS, 0.22, (48, 42, 94), (0, 62, 32), draw=6),
        s.on_rods(
            "c-focus-motor-big", "Focus motor, strong", Category.FOCUS, 0.34, (55, 50, 105), (0, 66, 34), draw=12
        ),
        s.matte_box("c-matte-clip", "Matte box, clip-on, light", 0.34, (90, 140, 125), False),
        s.matte_box("c-matte-clip-2", "Matte box, clip-on, two stage", 0.52, (112, 150, 150), False),
        s.matte_box("c-matte-rods", "Matte box, rod-mounted", 1.10, (140, 190, 160), True),
        s.matte_box("c-hood", "Lens hood, large", 0.12, (70, 110, 110), False),
    ]


def _support() -> list[Part]:
    return [
        s.rosette_clamp("c-rosettes", "Rosette clamp, rods", 0.24),
        s.rosette_clamp("c-rosettes-wide", "Rosette clamp, wide", 0.36, 200),
        s.rosette_clamp("c-rosettes-arms", "Rosette clamp with extension arms", 0.55, 260),
        s.grip("c-grip-rubber-l", "Handgrip, rubber, left", 0.19, 140),
        s.grip("c-grip-rubber-r", "Handgrip, rubber, right", 0.19, 140),
        s.grip("c-grip-wood-l", "Handgrip, wooden, left", 0.26, 155),
        s.grip("c-grip-wood-r", "Handgrip, wooden, right", 0.26, 155),
        s.grip("c-grip-long-l", "Handgrip on long arm, left", 0.38, 240),
        s.grip("c-grip-long-r", "Handgrip on long arm, right", 0.38, 240),
        s.on_rods("c-weight-05", "Counterweight block 0.5 kg", Category.WEIGHT, 0.50, (25, 80, 35), (0, 0, 0)),
        s.on_rods("c-weight-09", "Counterweight block 0.9 kg", Category.WEIGHT, 0.90, (40, 90, 40), (0, 0, 0)),
        s.on_rods("c-weight-15", "Counterweight block 1.5 kg", Category.WEIGHT, 1.50, (55, 95, 45), (0, 0, 0)),
        s.make(
            "c-cables",
            "Cable set, short",
            Category.CABLE,
            0.15,
            (120, 30, 30),
            feet=(s.Foot(MountKind.QUARTER_20), s.Foot(MountKind.LIGHT_RODS)),
        ),
    ]


def chain(items: tuple[tuple[str, str, str, str, float], ...], kit: Mapping[str, Part]) -> tuple[Placed, ...]:
    """Return placed parts from (id, part id, parent id, mount, setting); the first has no parent."""
    part_of = {pid: part for pid, part, *_ in items}
    placed = []
    for pid, part, parent, mount, setting in items:
        foot = 0
        if parent:
            kind = kit[part_of[parent]].mount(mount).kind
            foot = next(i for i, foot in enumerate(kit[part].feet) if foot.kind is kind)
        placed.append(Placed(pid, part, parent or None, mount, foot, setting))
    return tuple(placed)


@cache
def starters() -> tuple[Build, ...]:
    """Return builds to start from, made of catalogue parts."""
    kit = {part.id: part for part in catalogue()}
    foundation = (
        ("base", "c-base-long", "", "", 0.0),
        ("pad", "c-pad-foam", "base", "slot", -0.02),
        ("plate", "c-camplate-long", "base", "dovetail", 0.02),
    )
    rods_and_grips = (
        ("front", "c-rods-aluminium-8", "base", "front rods", 0.12),
        ("rear", "c-rods-aluminium-6", "base", "rear rods", -0.12),
        ("vplate", "c-vplate", "rear", "rods", -0.03),
        ("battery", "c-battery-98", "vplate", "lock", 0.0),
    )
    grips = (
        ("clamp", "c-rosettes", "front", "rods", 0.03),
        ("left", "c-grip-rubber-l", "clamp", "left", 0.0),
        ("right", "c-grip-rubber-r", "clamp", "right", 0.0),
    )
    return (
        Build(
            "start-documentary",
            "Documentary shoulder rig",
            chain(
                (
                    *foundation,
                    ("body", "c-body-box-m", "plate", "screw", 0.0),
                    *rods_and_grips,
                    ("handle", "c-handle-m", "body", "top rear", 0.0),
                    ("tilt", "c-arm-swivel", "handle", "shoe", 0.0),
                    ("screen", "c-monitor-5", "tilt", "screw", 0.0),
                    ("lens", "c-zoom-light", "body", "lens", 0.0),
                    *grips,
                ),
                kit,
            ),
            note="Box body, light zoom, battery on the rear rods.",
        ),
        Build(
            "start-cinema",
            "Cinema shoulder rig, long zoom",
            chain(
                (
                    *foundation[:2],
                    ("plate", "c-camplate-long", "base", "dovetail", -0.02),
                    ("body", "c-body-box-l", "plate", "screw", 0.0),
                    ("front", "c-rods-carbon-12", "base", "front rods", 0.16),
                    *rods_and_grips[1:],
                    ("handle", "c-handle-m", "body", "top rear", 0.0),
                    ("tilt", "c-arm-swivel", "handle", "shoe", 0.0),
                    ("screen", "c-monitor-5", "tilt", "screw", 0.0),
                    ("lens", "c-zoom-compact", "body", "lens", 0.0),
                    ("support", "c-support", "front", "rods", 0.05),
                    ("motor", "c-focus-motor", "front", "rods", -0.02),
                    ("matte", "c-matte-clip", "lens", "front", 0.0),
                    ("clamp", "c-rosettes", "front", "rods", 0.12),
                    *grips[1:],
                ),
                kit,
            ),
            note="Large box body with focus motor and matte box: front-heavy until trimmed.",
        ),
        Build(
            "start-stills",
            "Light shoulder rig, stills body",
            chain(
                (
                    ("base", "c-base-short", "", "", 0.0),
                    ("pad", "c-pad-small", "base", "slot", -0.03),
                    ("plate", "c-camplate-short", "base", "dovetail", 0.03),
                    ("cage", "c-cage-full", "plate", "screw", 0.0),
                    ("body", "c-body-full", "cage", "floor", 0.0),
                    ("front", "c-rods-carbon-6", "base", "front rods", 0.08),
                    ("rear", "c-rods-carbon-8", "base", "rear rods", -0.12),
                    ("vplate", "c-vplate-light", "rear", "rods", -0.05),
                    ("battery", "c-battery-98", "vplate", "lock", 0.0),
                    ("handle", "c-handle-s", "cage", "rail", -0.02),
                    ("lens", "c-zoom-24-70", "body", "lens", 0.0),
                    ("clamp", "c-rosettes", "front", "rods", 0.03),
                    ("left", "c-grip-rubber-l", "clamp", "left", 0.0),
                    ("right", "c-grip-rubber-r", "clamp", "right", 0.0),
                ),
                kit,
            ),
            note="Small body in a cage, the battery as working counterweight.",
        ),
        *_on_gimbals(kit),
        *_on_sleds(kit),
    )


#: What hangs in a gimbal of each size to start from: its body, its lens, and where the scales stand (m).
_HUNG = {
    "s": ("c-body-compact", "c-prime-normal"),
    "m": ("c-body-full", "c-zoom-24-70"),
    "l": ("c-body-box-m", "c-zoom-light"),
}


def _on_gimbals(kit: Mapping[str, Part]) -> tuple[Build, ...]:
    found = []
    for key, word, _, _, most, rated, energy in _GIMBALS:
        body, lens = _HUNG[key]
        parts = chain(
            (
                *chain_of(f"c-gimbal-{key}"),
                ("body", body, "plate", "screw", 0.0),
                ("lens", lens, "body", "lens", 0.0),
            ),
            kit,
        )
        build = Build(f"start-gimbal-{key}", f"Gimbal, {word}", parts, "gimbal", note=f"To {most:g} kg; trim it first.")
        usual: Any = settings_of(build, build.support)
        tilt, roll, pan = rated
        told = replace(usual, most=most, tilt_rated=tilt, roll_rated=roll, pan_rated=pan, energy=energy)
        found.append(with_settings(build, told))
    return tuple(found)


#: What stands on a sled of each size to start from: body, lens, battery, and where the plate and the bearing stand (m).
_ON_SLEDS = {
    "s": ("c-body-full", "c-prime-normal", "c-battery-50", -0.02, 0.01),
    "m": ("c-body-box-m", "c-zoom-light", "c-battery-98", -0.03, 0.02),
    "l": ("c-body-box-l", "c-zoom-light", "c-battery-150", -0.03, 0.02),
}


def _on_sleds(kit: Mapping[str, Part]) -> tuple[Build, ...]:
    found = []
    for key, word, _, _, (least, most, arm, vest) in _SLEDS:
        body, lens, battery, plate, bearing = _ON_SLEDS[key]
        parts = chain(
            (
                *sled_shapes.chain_of(f"c-sled-{key}", {"bearing": bearing}),
                ("plate", "c-camplate-long", "stage", "along", plate),
                ("body", body, "plate", "screw", 0.0),
                ("lens", lens, "body", "lens", 0.0),
                ("battery", battery, "rear", "lock", 0.0),
                ("monitor", "c-monitor-5", "front", "screw", 0.0),
            ),
            kit,
        )
        build = Build(
            f"start-sled-{key}", f"Sled, {word}", parts, "vest", note=f"An arm to {most:g} kg; trim it first."
        )
        usual: Any = settings_of(build, build.support)
        found.append(with_settings(build, replace(usual, least=least, most=most, arm_mass=arm, vest_mass=vest)))
    return tuple(found)


def starter_parts(build: Build) -> tuple[Part, ...]:
    """Return the catalogue parts that a starting build is made of."""
    wanted = {placed.part_id for placed in build.parts}
    return tuple(part for part in catalogue() if part.id in wanted)
