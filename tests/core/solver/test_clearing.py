"""Clearing: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import FindingKind
from equilix.core.assembly.build import Build, Placed
from equilix.core.kit.parts import Category, Connection, Mount, MountKind, Part
from equilix.core.solver.clearing import Clearing, ClearingKind, clearings
from tests.rigs.choices import plate
from tests.rigs.people import PERSON
from tests.rigs.plain import block


class Turning(unittest.TestCase):
    """Two parts meet; `wall` is a camera, which is not turned."""

    def turned(self, build: Build, kit: dict[str, Part]) -> Clearing | None:
        analysis = analyse(build, kit, PERSON)
        met = [set(f.placed_ids) for f in analysis.findings if f.kind is FindingKind.CLASH]
        self.assertEqual(met, [{"arm", "wall"}])
        found = {way.kind: way for way in clearings(analysis, kit, ("arm", "wall"))}
        return found.get(ClearingKind.TURN)

    def test_a_joint_is_turned_from_one_end_to_the_other_if_nothing_less_does(self) -> None:
        """An arm of 200 mm that points 60 degrees down, through a wall whose top it clears at 60 degrees up alone."""
        joint = Mount(
            "joint",
            MountKind.ROSETTE,
            (0.0, 0.0, 0.3),
            Connection.TURN,
            (0.0, -1.0, 0.0),
            -math.pi / 3.0,
            math.pi / 3.0,
        )
        wall = Mount("wall", MountKind.QUARTER_20, (0.26, 0.0, 0.3 + 0.077 - 0.25))
        kit = {"base": plate(joint, wall)}
        kit["arm"] = block("arm", 0.2, (0.2, 0.02, 0.02), Category.BODY, kind=MountKind.ROSETTE, at=(-0.1, 0.0, 0.0))
        kit["wall"] = block("wall", 1.0, (0.4, 0.2, 0.5), Category.BODY, kind=MountKind.QUARTER_20)
        kit["wall"] = replace(kit["wall"], feet=(replace(kit["wall"].feet[0], at=(0.0, 0.0, 0.0)),))
        arm = Placed("arm", "arm", "base", "joint", 0, math.radians(-60.0))
        low = replace(kit["base"], outline=None)
        build = Build("b", "b", (Placed("base", "base"), arm, Placed("wall", "wall", "base", "wall")))
        way = self.turned(build, kit | {"base": low})
        self.assertIsNotNone(way)
        self.assertAlmostEqual(way.build.placed("arm").setting, math.radians(60.0))
        self.assertAlmostEqual(way.amount, math.radians(120.0))

    def test_the_least_of_the_quarter_turns_that_clear_it(self) -> None:
        """An arm that points into a wall ahead; what stands on two of the other three sides leaves one turn."""
        foot = Mount("foot", MountKind.QUARTER_20, (0.0, 0.0, 0.2))
        spots = {"wall": (0.08, 0.0), "left": (0.0, 0.08), "back": (-0.08, 0.0), "right": (0.0, -0.08)}
        mounts = tuple(Mount(name, MountKind.THREE_EIGHTHS_16, (x, y, 0.2)) for name, (x, y) in spots.items())
        kit = {"base": replace(plate(foot, *mounts), outline=None)}
        kit["arm"] = block("arm", 0.2, (0.1, 0.02, 0.02), kind=MountKind.QUARTER_20, at=(-0.05, 0.0, 0.0))
        for name in spots:
            category = Category.BODY if name == "wall" else Category.OTHER
            kit[name] = block(name, 0.5, (0.05, 0.05, 0.05), category, kind=MountKind.THREE_EIGHTHS_16)
        for there, quarters in (
            (("back", "right"), 1),
            (("left", "right"), 2),
            (("left", "back"), 3),
            (("back",), 1),
            (("left", "back", "right"), None),
        ):
            others = tuple(Placed(name, name, "base", name) for name in ("wall", *there))
            build = Build("b", "b", (Placed("base", "base"), Placed("arm", "arm", "base", "foot"), *others))
            way = self.turned(build, kit)
            if quarters is None:
                self.assertIsNone(way)
                continue
            self.assertEqual(way.build.placed("arm").quarter_turns, quarters)
            self.assertAlmostEqual(way.amount, math.pi / 2.0 * min(quarters, 4 - quarters))
