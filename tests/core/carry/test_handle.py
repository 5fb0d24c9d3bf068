"""Handle: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest
from typing import Any

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Placed, Side
from equilix.core.carry.handle import by_the_handle, top_handle
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Mount, MountKind
from equilix.core.kit.parts import Connection as Sliding
from equilix.core.operator.strength import BodyJoint
from tests.rigs.people import MAN
from tests.rigs.plain import block, grip, shoulder_build


class Handle(unittest.TestCase):
    def hung(self, at: float, riding: float = 0.0, low: float = -0.05, high: float = 0.15) -> Any:
        rail = Mount("top", MountKind.LIGHT_RODS, (0.0, 0.0, 0.15), Sliding.SLIDE, (1.0, 0.0, 0.0), low, high)
        top = replace(grip("top"), category=Category.HANDLE, mass=0.3)
        light = block("lamp", riding or 0.001, (0.05, 0.05, 0.05), kind=MountKind.QUARTER_20)
        top = replace(top, mounts=(*top.mounts, Mount("shoe", MountKind.QUARTER_20, (0.06, 0.0, 0.05))))
        build, kit = shoulder_build((block("camera", 3.0, (0.2, 0.1, 0.14), Category.BODY), 0.08))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, rail))
        kit |= {"top": top, "lamp": light}
        parts = (*build.parts, Placed("top", "top", "base", "top", 0, at), Placed("lamp", "lamp", "top", "shoe"))
        found = analyse(replace(build, parts=parts), kit, MAN)
        return found, by_the_handle(found, found.body, MAN)

    def test_it_hangs_with_its_cg_below_the_hand_once_the_handle_has_slid(self) -> None:
        for riding in (0.0, 0.8):
            found, hung = self.hung(0.0, riding)
            place = top_handle(found)
            dx, dz = (found.body.cg - place.point)[[0, 2]]
            self.assertAlmostEqual(math.tan(hung.pitch), dx / -dz)
            self.assertAlmostEqual(hung.holds, found.body.mass * STANDARD_GRAVITY * dx)
            again, level = self.hung(hung.slide, riding, -1.0, 1.0)
            self.assertAlmostEqual(float((again.body.cg - top_handle(again).point)[0]), 0.0, places=9)
            self.assertAlmostEqual(level.pitch, 0.0, places=9)
            self.assertAlmostEqual(hung.room, 0.15 if hung.slide > 0.0 else 0.05)
            self.assertFalse(hung.turns_over)

    def test_in_the_hand_that_hangs_down(self) -> None:
        """The grip holds the weight along the line of the arm, the wrist what is out of line."""
        _, hung = self.hung(0.0)
        self.assertIn(hung.worst.joint, (BodyJoint.WRIST, BodyJoint.HAND, BodyJoint.ELBOW, BodyJoint.SHOULDER))
        self.assertIs(hung.worst.side, Side.RIGHT)
