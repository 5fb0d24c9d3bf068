"""Lifting: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

from msgspec.structs import replace

from equilix.core.operator.lifting import Coupling, Lift, lift_from, recommended_limit


class Lifting(unittest.TestCase):
    """Waters et al. (1993), Applications Manual, table of multipliers."""

    def test_each_multiplier_alone(self) -> None:
        best = Lift(0.25, 0.75, 0.25)
        self.assertAlmostEqual(recommended_limit(best), 23.0)
        self.assertAlmostEqual(recommended_limit(replace(best, ahead=0.50)), 23.0 * 0.5)
        self.assertAlmostEqual(recommended_limit(replace(best, height=0.25)), 23.0 * (1 - 0.003 * 50))
        self.assertAlmostEqual(recommended_limit(replace(best, height=1.25)), 23.0 * (1 - 0.003 * 50))
        self.assertAlmostEqual(recommended_limit(replace(best, way=1.00)), 23.0 * (0.82 + 4.5 / 100))
        self.assertAlmostEqual(recommended_limit(replace(best, twist=math.radians(45))), 23.0 * (1 - 0.0032 * 45))
        self.assertEqual(recommended_limit(replace(best, twist=math.radians(136))), 0.0)
        self.assertEqual(recommended_limit(replace(best, way=1.80)), 0.0)
        self.assertAlmostEqual(recommended_limit(replace(best, ahead=0.26)), 23.0 * 25 / 26)
        self.assertAlmostEqual(recommended_limit(replace(best, way=0.26)), 23.0 * (0.82 + 4.5 / 26))
        self.assertAlmostEqual(recommended_limit(replace(best, ahead=0.63)), 23.0 * 25 / 63)
        self.assertAlmostEqual(recommended_limit(replace(best, height=1.75)), 23.0 * (1 - 0.003 * 100))
        self.assertAlmostEqual(recommended_limit(replace(best, way=1.75)), 23.0 * (0.82 + 4.5 / 175))
        self.assertAlmostEqual(recommended_limit(replace(best, twist=math.radians(135))), 23.0 * (1 - 0.0032 * 135))
        self.assertAlmostEqual(recommended_limit(best, 0.85), 23.0 * 0.85)
        low = replace(best, height=0.74)
        for coupling, factor in ((Coupling.GOOD, 1.0), (Coupling.FAIR, 0.95), (Coupling.POOR, 0.90)):
            limit = 23.0 * (1 - 0.003 * 1) * factor
            self.assertAlmostEqual(recommended_limit(replace(low, coupling=coupling)), limit)
        self.assertAlmostEqual(recommended_limit(replace(best, coupling=Coupling.FAIR)), 23.0)
        self.assertAlmostEqual(recommended_limit(replace(best, coupling=Coupling.POOR)), 23.0 * 0.90)

    def test_from_the_floor_to_the_shoulder(self) -> None:
        begins, ends = lift_from("floor", 1.45)
        self.assertAlmostEqual(begins.way, 1.20)
        self.assertEqual((begins.height, ends.height), (0.25, 1.45))
        self.assertAlmostEqual(recommended_limit(ends), 23.0 * 25 / 35 * (1 - 0.003 * 70) * (0.82 + 4.5 / 120))
