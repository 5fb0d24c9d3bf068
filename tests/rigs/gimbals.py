"""Gimbals for tests."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.chosen import with_settings
from equilix.core.kit.parts import Category, Connection, Foot, HowKnown, Mount, MountKind, Outline, Part
from equilix.core.kit.parts import Point as At
from equilix.supports.gimbal.settings import GimbalSettings

X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


def box(rng: np.random.Generator, key: str, foot: MountKind, mounts: tuple[Mount, ...], point: object) -> Part:
    a, b, c = (float(v) for v in rng.uniform(0.02, 0.16, 3))
    assert callable(point)
    return Part(
        key,
        key,
        Category.GIMBAL,
        float(rng.uniform(0.1, 0.6)),
        HowKnown.SHEET,
        Outline((a, b, c), point(0.05)),
        point(0.06),
        HowKnown.SHEET,
        mounts,
        (Foot(foot, point(0.05)),),
    )


def random_gimbal(
    seed: int, reach: float = 0.3, settings: GimbalSettings | None = None
) -> tuple[Build, dict[str, Part]]:
    """Return a gimbal of boxes joined anyhow: three axes, five scales, a camera with a lens that is off the middle."""
    rng = np.random.default_rng(seed)

    def point(size: float) -> At:
        a, b, c = (float(v) for v in rng.uniform(-size, size, 3))
        return (a, b, c)

    def joint(kind: MountKind, axis: At, turns: bool) -> Mount:
        half = math.pi if turns else reach
        return Mount("on", kind, point(0.15), Connection.TURN if turns else Connection.SLIDE, axis, -half, half)

    steps = (
        ("pan", MountKind.PAN_AXIS, Z, True),
        ("arm", MountKind.DOVETAIL, X, False),
        ("roll", MountKind.ROLL_AXIS, X, True),
        ("side", MountKind.DOVETAIL, Y, False),
        ("tilt", MountKind.TILT_AXIS, Y, True),
        ("riser", MountKind.DOVETAIL, Z, False),
        ("cross", MountKind.DOVETAIL, Y, False),
        ("camera", MountKind.DOVETAIL, X, False),
    )
    kit: dict[str, Part] = {}
    placed = [Placed("frame", "frame")]
    before, foot = "frame", MountKind.QUARTER_20
    for key, kind, axis, turns in steps:
        kit[before] = box(rng, before, foot, (joint(kind, axis, turns),), point)
        setting = 0.0 if turns else float(rng.uniform(-0.05, 0.05))
        placed.append(Placed(key, key, before, "on", 0, setting))
        before, foot = key, kind
    nose = Mount("nose", MountKind.LENS_MOUNT, (0.08, 0.0, 0.0))
    kit["camera"] = replace(box(rng, "camera", foot, (nose,), point), category=Category.BODY, mass=1.5)
    kit["lens"] = replace(box(rng, "lens", MountKind.LENS_MOUNT, (), point), category=Category.LENS, mass=0.8)
    placed.append(Placed("lens", "lens", "camera", "nose"))
    build = Build("g", "Gimbal", tuple(placed), "gimbal")
    return (with_settings(build, settings) if settings is not None else build), kit


def thin(build: Build, kit: dict[str, Part]) -> tuple[Build, dict[str, Part]]:
    """Return it with thin hardware, so that nothing stands in the way of a scale."""
    return build, {key: replace(part, outline=Outline((0.001, 0.001, 0.001))) for key, part in kit.items()}
