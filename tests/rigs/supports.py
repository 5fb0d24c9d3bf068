"""Rigs and helpers for tests of supports."""

from __future__ import annotations

from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.kit.parts import Category, Connection, Mount, MountKind, Part
from tests.rigs.plain import base, block, shoulder_build


def rig_on_a_sliding_pad(travel: float) -> tuple[Build, dict[str, Part]]:
    """Return a camera on a base whose pad slides `travel` (m) either way and stands at its rear stop."""
    contact = Mount("shoulder", MountKind.SHOULDER, (0.0, 0.0, -0.03))
    pad = block("pad", 0.4, (0.1, 0.08, 0.05), Category.PAD, mounts=(contact,), kind=MountKind.DOVETAIL)
    below = Mount("below", MountKind.DOVETAIL, (0.0, 0.0, -0.02), Connection.SLIDE, (1.0, 0.0, 0.0), -travel, travel)
    camera = block("camera", 3.0, (0.14, 0.1, 0.12), Category.BODY)
    build, kit = shoulder_build((camera, 0.15))
    # Of the base's own mounts its shoulder contact gives way to the pad's.
    kit["base"] = replace(base(), mounts=(*base().mounts[1:], below))
    kit["pad"] = pad
    return replace(build, parts=(*build.parts, Placed("pad", "pad", "base", "below", 0, travel))), kit
