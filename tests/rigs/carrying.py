"""Rigs and helpers for tests of carrying."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Hold, Operator
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import with_hold
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Part
from tests.rigs.people import MAN
from tests.rigs.plain import block, grip, shoulder_build

DOWN = np.array([0.0, 0.0, -STANDARD_GRAVITY])


def rig(operator: Operator = MAN, support: str = "handheld", hold: Hold | None = None, mass: float = 4.0) -> Carry:
    """Return a camera with a screen and two grips beside each other, carried."""
    screen = (block("screen", 0.3, (0.02, 0.15, 0.1), Category.MONITOR), 0.2)
    parts = (
        (block("camera", mass, (0.2, 0.1, 0.14), Category.BODY), 0.05),
        screen,
        (wide("l", 0.14), 0.22),
        (wide("r", -0.14), 0.22),
    )
    build, kit = shoulder_build(*parts)
    build = with_hold(replace(build, support=support), hold or Hold())
    found = carry(analyse(build, kit, operator), operator, support)
    assert isinstance(found, Carry)
    return found


def wide(name: str, y: float) -> Part:
    part = grip(name)
    return replace(part, mounts=(replace(part.mounts[0], at=(0.0, y, -0.05)),))
