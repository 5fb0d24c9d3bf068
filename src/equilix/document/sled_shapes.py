"""Makes the parts of a sled: post and lower tube, stage, bearing, base with its slides, and weights for its ends.

What slides is a joint of its own. The post is the root: stage above, bearing about it, base below. Sizes and masses are
common practice, to be weighed and measured.
"""

from __future__ import annotations

import math

from equilix.core.kit.parts import Category, Foot, Joint, Mount, MountKind, Part
from equilix.document import part_shapes as s

_X, _Y, _Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)

#: The joints of a sled from the post on: what goes on what, by which mount.
CHAIN = (
    ("post", "", ""),
    ("bearing", "post", "bearing"),
    ("stage", "post", "top"),
    ("tube", "post", "length"),
    ("base", "tube", "end"),
    ("rear", "base", "rear"),
    ("front", "base", "front"),
)


def sled(prefix: str, words: str, size: float = 1.0, mass: float = 1.0) -> list[Part]:
    """Return the parts of a sled, with a post `size` times as long and `mass` times as heavy as one of middle size."""

    def slide(
        mount_id: str, kind: MountKind, axis: tuple[float, float, float], reach: float, *at: float, name: str
    ) -> Mount:
        x, y, z = (round(v / 1000.0, 7) for v in at)
        travel = round(reach / 1000.0, 7)
        return Mount(mount_id, kind, (x, y, z), Joint.SLIDE, axis, -travel, travel, name=name)

    def fixed(mount_id: str, kind: MountKind, *at: float, name: str) -> Mount:
        x, y, z = (round(v / 1000.0, 7) for v in at)
        return Mount(mount_id, kind, (x, y, z), name=name)

    def piece(
        key: str,
        name: str,
        kg: float,
        box: tuple[float, float, float],
        middle: tuple[float, float, float],
        *mounts: Mount,
        foot: MountKind | None = None,
        category: Category = Category.SLED,
    ) -> Part:
        feet = () if foot is None else (Foot(foot),)
        part_id, title = f"{prefix}-{key}", f"{name}, {words}"
        return s.make(part_id, title, category, round(mass * kg, 3), box, middle, mounts=mounts, feet=feet)

    half = round(225.0 * size, 1)
    low = round(300.0 * size, 1)
    return [
        piece(
            "post",
            "Post",
            0.42,
            (40, 40, 2 * half),
            (0, 0, 0),
            slide("top", MountKind.STAGE_SEAT, _Y, 20, 0, 0, half, name="stage across"),
            slide("bearing", MountKind.BEARING_SEAT, _Z, 120, 0, 0, half - 150, name="bearing height"),
            slide("length", MountKind.TUBE_SEAT, _Z, 60, 0, 0, 40 - half, name="post length"),
        ),
        piece(
            "bearing",
            "Bearing",
            0.31,
            (74, 74, 50),
            (0, 0, 0),
            fixed("bearing", MountKind.BEARING, 0, 0, 0, name="bearing"),
            foot=MountKind.BEARING_SEAT,
            category=Category.BEARING,
        ),
        piece(
            "stage",
            "Stage",
            0.54,
            (150, 88, 34),
            (0, 0, 17),
            slide("along", MountKind.DOVETAIL, _X, 55, 0, 0, 34, name="stage fore and aft"),
            fixed("weight", MountKind.THREE_EIGHTHS_16, -68, 0, 34, name="weight screw"),
            foot=MountKind.STAGE_SEAT,
        ),
        piece(
            "tube",
            "Lower tube",
            0.20,
            (32, 32, low),
            (0, 0, -low / 2),
            slide("end", MountKind.BASE_SEAT, _Y, 20, 0, 0, -low, name="base across"),
            foot=MountKind.TUBE_SEAT,
        ),
        piece(
            "base",
            "Base",
            0.38,
            (260, 56, 20),
            (0, 0, -10),
            slide("rear", MountKind.SLED_RAIL, _X, 60, -50, 0, -20, name="battery fore and aft"),
            slide("front", MountKind.SLED_RAIL, _X, 60, 110, 0, 0, name="monitor fore and aft"),
            fixed("rear weight", MountKind.THREE_EIGHTHS_16, -120, 0, 0, name="rear weight screw"),
            fixed("front weight", MountKind.THREE_EIGHTHS_16, 70, 0, 0, name="front weight screw"),
            foot=MountKind.BASE_SEAT,
        ),
        piece(
            "rear",
            "Battery slide",
            0.16,
            (24, 84, 130),
            (0, 0, -65),
            fixed("lock", MountKind.V_LOCK, -12, 0, -86, name="V-lock"),
            fixed("screw", MountKind.QUARTER_20, 24, 0, -120, name="front screw"),
            foot=MountKind.SLED_RAIL,
        ),
        piece(
            "front",
            "Monitor slide",
            0.14,
            (60, 60, 16),
            (20, 0, 8),
            Mount(
                "screw",
                MountKind.QUARTER_20,
                (0.036, 0.0, 0.016),
                Joint.TURN,
                _Y,
                -math.pi / 2,
                math.pi / 2,
                math.radians(1.0),
                "tilting screw",
            ),
            foot=MountKind.SLED_RAIL,
        ),
    ]


def weight(part_id: str, kg: float, words: str = "") -> Part:
    """Return a disc of steel with a screw, for either end of a sled."""
    return s.on_screw(
        part_id,
        f"Sled weight, {1000 * kg:.0f} g{words}",
        Category.WEIGHT,
        kg,
        (46, 46, 8 if kg < 0.15 else 16),
        (MountKind.THREE_EIGHTHS_16,),
    )


def chain_of(prefix: str, settings: dict[str, float] | None = None) -> tuple[tuple[str, str, str, str, float], ...]:
    """Return the parts of a sled as (id, part id, parent id, mount, setting), the post first."""
    at = settings or {}
    return tuple((key, f"{prefix}-{key}", holder, mount, at.get(key, 0.0)) for key, holder, mount in CHAIN)
