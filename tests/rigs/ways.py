"""Rigs and helpers for tests of ways."""

from __future__ import annotations

from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Placed
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Mount, MountKind, Part
from tests.rigs.plain import block, shoulder_build


def camera_rig(travel: float = 0.1, *others: tuple[Part, float]) -> tuple[Build, dict[str, Part]]:
    """Return a camera on a slide of `travel` (m) each way, a lens before it, and others on the rail."""
    front = Mount("mount", MountKind.LENS_MOUNT, (0.07, 0.0, 0.0))
    camera = block("camera", 3.0, (0.14, 0.1, 0.12), Category.BODY, mounts=(front,), at=(0.0, 0.0, -0.06))
    lens = block("lens", 1.2, (0.16, 0.09, 0.09), Category.LENS, kind=MountKind.LENS_MOUNT, at=(-0.08, 0.0, 0.0))
    build, kit = shoulder_build((camera, 0.08), *others)
    plate = kit["base"]
    rail, far = plate.mount("rail"), replace(plate.mount("rail"), id="far", at=(0.0, 0.0, 0.0))
    mounts = (plate.mounts[0], replace(rail, low=-travel, high=travel), plate.mounts[2], far)
    kit["base"] = replace(plate, mounts=mounts)
    kit["lens"] = lens
    parts = tuple(replace(p, mount="far") if p.mount == "rail" and p.id != "camera" else p for p in build.parts)
    parts = tuple(replace(p, setting=min(p.setting, travel)) if p.id == "camera" else p for p in parts)
    return replace(build, parts=(*parts, Placed("lens", "lens", "camera", "mount"))), kit


def moment(analysis: Analysis) -> float:
    """Return the tip moment (N m) by summing every part."""
    lever = (analysis.positions.cg - analysis.equilibrium.point) @ analysis.equilibrium.forward
    return STANDARD_GRAVITY * float(analysis.assembly.mass @ lever)


def with_rail(kit: dict[str, Part], low: float, high: float) -> dict[str, Part]:
    """Return the kit with the camera's slide from `low` to `high` (m)."""
    plate = kit["base"]
    mounts = tuple(replace(m, low=low, high=high) if m.id == "rail" else m for m in plate.mounts)
    return {**kit, "base": replace(plate, mounts=mounts)}


def camera_at(build: Build, setting: float) -> Build:
    return build.with_placed(replace(build.placed("camera"), setting=setting))
