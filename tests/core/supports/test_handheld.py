"""Handheld: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Hold, Operator, Placed
from equilix.core.errors import AssemblyError
from equilix.core.statics.holding import PALM_LEVER
from tests.rigs.people import PERSON
from tests.rigs.plain import block, grip, shoulder_build


class Hands(unittest.TestCase):
    def test_two_hands_hold_it_sideways_one_only_over_its_palm(self) -> None:
        two = tuple(replace(grip(side), name=side) for side in ("one", "two"))
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        kit |= {part.id: part for part in two}
        placed = [Placed(p.id, p.id, "base", "across", 0, at) for p, at in zip(two, (0.15, -0.15), strict=True)]
        held = replace(build, support="handheld", parts=(*build.parts, *placed))
        equilibrium = analyse(held, kit, PERSON).equilibrium
        self.assertEqual((equilibrium.span, equilibrium.aside), (None, None))
        alone = replace(held, parts=held.parts[:-1])
        equilibrium = analyse(alone, kit, PERSON).equilibrium
        self.assertEqual((equilibrium.span, equilibrium.aside), (None, PALM_LEVER / 2.0))

    def test_limits_are_told_in_shares_of_the_stature(self) -> None:
        with self.assertRaisesRegex(AssemblyError, "from 25 to 55 % of the height"):
            Operator("s", "S", 1.8, reach=1.7)
        with self.assertRaisesRegex(AssemblyError, "from 70 to 95 % of the height"):
            Operator("s", "S", 1.8, shoulder_height=1.0)

    def test_a_thickness_that_was_measured_counts(self) -> None:
        self.assertEqual(Hold(thickness=0.03).thickness, 0.03)
        for wrong in (0.009, 0.081):
            with self.assertRaisesRegex(AssemblyError, "The thickness of a grip"):
                Hold(thickness=wrong)
