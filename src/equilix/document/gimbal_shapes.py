"""Makes the parts of a gimbal: frame, pan arm, roll motor, roll arm, tilt arm, rail, shelf and plates.

Every part is a bar or a block, so that one box stands for it. What moves is a joint of its own: three axes that turn
and five scales that slide. Sizes and masses are common practice, to be weighed and measured.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from equilix.core.kit.parts import Category, Foot, Joint, Mount, MountKind, Part
from equilix.document import part_shapes as s

_SLIDES: dict[str, tuple[float, float, float]] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}

#: The joints of a gimbal from the frame inwards: what goes on what, by which mount.
CHAIN = (
    ("frame", "", ""),
    ("pan-arm", "frame", "pan"),
    ("roll-motor", "pan-arm", "scale"),
    ("roll-arm", "roll-motor", "roll"),
    ("tilt-arm", "roll-arm", "scale"),
    ("rail", "tilt-arm", "tilt"),
    ("shelf", "rail", "scale"),
    ("cross", "shelf", "scale"),
    ("plate", "cross", "scale"),
)


def gimbal(prefix: str, words: str, size: float = 1.0, mass: float = 1.0) -> list[Part]:
    """Return the nine parts of a gimbal, `size` times as large and `mass` times as heavy as one of the middle size."""

    def piece(
        key: str,
        name: str,
        kg: float,
        box: Sequence[float],
        middle: Sequence[float],
        foot: MountKind | None,
        *mounts: Mount,
    ) -> Part:
        scaled = [tuple(size * v for v in several) for several in (box, middle)]
        return s.make(
            f"{prefix}-{key}",
            f"{name}, {words}",
            Category.GIMBAL,
            round(mass * kg, 3),
            (scaled[0][0], scaled[0][1], scaled[0][2]),
            (scaled[1][0], scaled[1][1], scaled[1][2]),
            mounts=mounts,
            feet=() if foot is None else (Foot(foot),),
        )

    def axis(kind: MountKind, along: str, *at: float, most: float) -> Mount:
        x, y, z = (round(size * v / 1000.0, 7) for v in at)
        name = str(kind).split(" ", 1)[0]
        return Mount(name, kind, (x, y, z), Joint.TURN, _SLIDES[along], -most, most, name=str(kind))

    def scale(name: str, along: str, travel: float, *at: float) -> Mount:
        x, y, z = (round(size * v / 1000.0, 7) for v in at)
        reach = round(size * travel / 1000.0, 7)
        return Mount("scale", MountKind.DOVETAIL, (x, y, z), Joint.SLIDE, _SLIDES[along], -reach, reach, name=name)

    hands = tuple(
        Mount(side, MountKind.GRIP_POINT, (0.0, way * round(size * 0.2, 7), round(size * 0.04, 7)), name=f"{side} hand")
        for side, way in (("left", 1.0), ("right", -1.0))
    )
    eye = Mount("eye", MountKind.EYELET, (0.0, 0.0, round(size * 0.06, 7)), name="eyelet")
    slide = MountKind.DOVETAIL
    free, half = math.pi, math.radians(135.0)
    pan = axis(MountKind.PAN_AXIS, "z", 0, 0, 0, most=free)
    roll = axis(MountKind.ROLL_AXIS, "x", 26, 0, -125, most=math.pi / 4)
    tilt = axis(MountKind.TILT_AXIS, "y", 186, 0, 0, most=half)
    plate = s.camera_plate(f"{prefix}-plate", f"Camera plate, {words}", round(0.10 * mass, 3), round(90 * size, 1))
    return [
        piece("frame", "Gimbal frame", 0.95, (44, 420, 60), (0, 0, 30), None, pan, *hands, eye),
        piece(
            "pan-arm",
            "Pan arm",
            0.34,
            (230, 46, 36),
            (-90, 0, -24),
            MountKind.PAN_AXIS,
            scale("pan scale", "x", 35, -180, 0, -42),
        ),
        piece("roll-motor", "Roll motor", 0.46, (52, 52, 150), (0, 0, -75), slide, roll),
        piece(
            "roll-arm",
            "Roll arm",
            0.24,
            (28, 190, 44),
            (14, 70, 0),
            MountKind.ROLL_AXIS,
            scale("roll scale", "y", 40, 28, 120, 0),
        ),
        piece("tilt-arm", "Tilt arm", 0.40, (206, 26, 48), (103, 13, 0), slide, tilt),
        piece(
            "rail",
            "Tilt rail",
            0.16,
            (44, 16, 170),
            (0, -8, -20),
            MountKind.TILT_AXIS,
            scale("height scale", "z", 32, 0, -16, -62),
        ),
        piece("shelf", "Shelf", 0.13, (64, 180, 12), (0, -90, -6), slide, scale("cross scale", "y", 20, 0, -104, 0)),
        piece("cross", "Cross plate", 0.07, (90, 60, 8), (0, 0, 4), slide, scale("plate scale", "x", 55, 0, 0, 8)),
        plate,
    ]


def chain_of(prefix: str, settings: dict[str, float] | None = None) -> tuple[tuple[str, str, str, str, float], ...]:
    """Return the parts of a gimbal as (id, part id, parent id, mount, setting), the frame first."""
    at = settings or {}
    return tuple((key, f"{prefix}-{key}", holder, mount, at.get(key, 0.0)) for key, holder, mount in CHAIN)
