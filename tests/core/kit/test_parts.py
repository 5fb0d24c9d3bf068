"""Parts: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.assembly.build import check_build
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Outline
from tests.rigs.plain import block, shoulder_build


class Outlines(unittest.TestCase):
    def test_a_cylinder_is_as_wide_as_high(self) -> None:
        from equilix.core.kit.parts import Shape

        with self.assertRaisesRegex(AssemblyError, "diameter"):
            Outline((0.1, 0.05, 0.06), shape=Shape.CYLINDER)
        self.assertEqual(Outline((0.1, 0.06, 0.06), shape=Shape.CYLINDER).size, (0.1, 0.06, 0.06))


class Feet(unittest.TestCase):
    def test_a_foot_that_a_part_does_not_have(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        for foot in (1, 2):
            wrong = build.with_placed(replace(build.placed("camera"), foot=foot))
            with self.assertRaisesRegex(AssemblyError, f"camera has no mount number {foot + 1} below"):
                check_build(wrong, kit)
        check_build(build, kit)
        for odd in (0.5, 1.0):
            with self.assertRaisesRegex(AssemblyError, "number of a mount below must be a whole number"):
                replace(build.placed("camera"), foot=odd)
            with self.assertRaisesRegex(AssemblyError, "Quarter turns must be a whole number"):
                replace(build.placed("camera"), quarter_turns=odd)
