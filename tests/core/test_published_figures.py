"""Figures that stand in books, each as its book has it: what a change of one would quietly make wrong everywhere."""

from __future__ import annotations

import math
import unittest

from scipy import stats
from scipy.special import ellipk

from equilix.core import frames, units
from equilix.core.carry import carried
from equilix.core.kit.parts import MountKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.measurement import reconcile
from equilix.core.operator import body, head, lifting
from equilix.core.statics import hands, holding, pad, screws, sled
from equilix.supports.harness import mechanics as harness
from equilix.supports.vest import mechanics as vest


class Published(unittest.TestCase):
    def test_units(self) -> None:
        """NIST SP 811 (2008), appendix B.8; the standard acceleration of gravity by the 3rd CGPM (1901)."""
        self.assertEqual(units.KG_PER_LB, 0.453_592_37)
        self.assertAlmostEqual(units.KG_PER_OZ, 0.028_349_523_125, places=15)
        self.assertEqual(units.M_PER_IN, 0.0254)
        self.assertAlmostEqual(units.N_PER_LBF, 4.448_221_615_260_5, places=12)
        self.assertEqual((units.M_PER_MM, units.KG_PER_G), (1e-3, 1e-3))
        self.assertEqual(frames.STANDARD_GRAVITY, 9.806_65)

    def test_statistics(self) -> None:
        """Two standard uncertainties, JCGM 100:2008, 6.3.3; Baarda (1968): 80 % power at 0.1 % false alarms."""
        self.assertEqual(COVERAGE, 2.0)
        self.assertAlmostEqual(reconcile.NONCENTRALITY, stats.norm.ppf(0.9995) + stats.norm.ppf(0.8), delta=0.005)

    def test_mechanics(self) -> None:
        """Complete elliptic integral; threads by ASME B1.1; preload T/(0.2 d), Shigley, ch. 8, from memory."""
        self.assertAlmostEqual(sled.ELLIPTIC_K_HALF, float(ellipk(0.5)), places=9)
        self.assertAlmostEqual(screws._DIAMETER[MountKind.QUARTER_20], 0.25 * 0.0254)
        self.assertAlmostEqual(screws._DIAMETER[MountKind.THREE_EIGHTHS_16], 0.375 * 0.0254)
        self.assertEqual(screws._NUT, 0.2)

    def test_backs_and_necks(self) -> None:
        """NIOSH (1981) for the disc; levers: Chaffin and Andersson; shares: Stobbe (1982); head: Vasavada (2001); the
        neck's range: AAOS (1965); heights: Winter (2009), fig. 4.1; all but the first from memory."""
        self.assertEqual(carried.DISC_LIMIT, 3400.0)
        self.assertEqual((carried.EXTENSOR, carried.ABDOMINAL, carried.LATERAL), (0.05, 0.08, 0.075))
        self.assertEqual(carried.FLEXION_SHARE, 0.57)
        self.assertEqual((body.HEAD_AHEAD, body.HEAD_AHEAD_BENT), (0.03, 0.11))
        # Turned by 30 degrees about C7/T1 the one becomes the other.
        turned = body.HEAD_AHEAD * math.cos(math.pi / 6) + body.HEAD_ABOVE * math.sin(math.pi / 6)
        self.assertAlmostEqual(turned, 0.11)
        self.assertAlmostEqual(math.degrees(carried.NECK_RANGE), 60.0)
        self.assertAlmostEqual(carried.NECK_FLEXION_SHARE * 52.0, 30.0)
        self.assertEqual((body.L5S1, body.C7T1, head.CHIN), (0.588, 0.848, 0.870))
        self.assertEqual((head.HEAD_BREADTH, head.HEAD_LENGTH), (0.155, 0.195))
        self.assertEqual(vest._BODY_CG, 0.53)
        self.assertEqual(lifting.LOAD_CONSTANT, 23.0)

    def test_skin_cloth_and_joints(self) -> None:
        """Low ends of measured friction; Stobbe (1982) and Delp (1996); Holewijn (1990); Whittle; all from memory."""
        self.assertEqual((holding.GRIP_FRICTION, holding.PALM_FRICTION, hands.CONTACT_FRICTION), (0.6, 0.3, 0.4))
        self.assertEqual(holding.AXIAL_SHARE, 0.45)
        self.assertAlmostEqual(holding.WRIST_FLEX_SHARE * 11.0, 7.0)
        self.assertAlmostEqual(holding.FOREARM_TURN_SHARE * 11.0, 8.0)
        self.assertEqual(pad.SORE_PRESSURE, 14_000.0)
        self.assertEqual((harness.STEP_FREQUENCY, harness.STEP_HEIGHT), (1.9, 0.022))


if __name__ == "__main__":
    unittest.main()
