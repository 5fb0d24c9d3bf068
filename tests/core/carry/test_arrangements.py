"""Arrangements: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.carry.arrangements import USUAL_STAGGER, carry_uncertainties, staggers
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown
from tests.rigs.carrying import wide
from tests.rigs.people import MAN
from tests.rigs.plain import block, shoulder_build
from tests.rigs.results import carried_of


class Arranged(unittest.TestCase):
    def test_side_by_side_staggered_and_under_the_cg(self) -> None:
        """Common practice: rods and rosettes allow 150 mm; the line through both hands then passes under the CG."""
        build, kit = shoulder_build(
            (block("camera", 4.0, (0.2, 0.1, 0.14), Category.BODY), -0.06),
            (wide("l", 0.14), 0.22),
            (wide("r", -0.14), 0.22),
        )
        found = analyse(replace(build, support="handheld"), kit, MAN)
        carried = carried_of(found, MAN, "handheld")
        ways = staggers(found, carried)
        self.assertEqual(USUAL_STAGGER, 0.150)
        self.assertEqual([abs(round(way.by, 6)) for way in ways], [0.0, 0.15, 0.0])
        self.assertEqual(ways[0].moved, 0.0)
        ahead = float(found.body.cg[0] - np.mean([p.point[0] for p in carried.pose.places]))
        self.assertAlmostEqual(ways[0].see_saw, found.body.mass * STANDARD_GRAVITY * ahead)
        self.assertAlmostEqual(ways[2].moved, ahead)
        self.assertAlmostEqual(ways[2].see_saw, 0.0, places=9)
        # Whichever hand goes ahead: the other lasts no longer.
        tilted = math.hypot(0.28, 0.15)
        self.assertAlmostEqual(abs(ways[1].see_saw), found.body.mass * STANDARD_GRAVITY * abs(ahead) * 0.28 / tilted)

    def test_grips_moved_under_a_cg_that_lies_aside_see_saw_no_more(self) -> None:
        """However they are staggered: the line through both hands then passes right under it."""
        for aside in (0.09, -0.05):
            build, kit = shoulder_build(
                (block("camera", 4.0, (0.2, 0.1, 0.14), Category.BODY), -0.06),
                (wide("l", 0.14), 0.28),
                (wide("r", -0.14), 0.20),
            )
            kit["camera"] = replace(kit["camera"], cg=(0.0, aside, 0.0))
            found = analyse(replace(build, support="handheld"), kit, MAN)
            ways = staggers(found, carried_of(found, MAN, "handheld"))
            self.assertGreater(abs(ways[1].see_saw), 0.5)
            self.assertAlmostEqual(ways[-1].see_saw, 0.0, places=9)
            self.assertAlmostEqual(ways[-1].by, 0.08)

    def test_grips_a_little_apart_are_shown_as_they_are(self) -> None:
        for apart, count in ((0.004, 3), (0.006, 4)):
            build, kit = shoulder_build(
                (block("camera", 4.0, category=Category.BODY), 0.0),
                (wide("l", 0.14), 0.2 + apart),
                (wide("r", -0.14), 0.2),
            )
            found = analyse(replace(build, support="handheld"), kit, MAN)
            self.assertEqual(len(staggers(found, carried_of(found, MAN, "handheld"))), count)

    def test_what_is_exactly_known_has_no_doubt_and_what_is_straight_its_slope(self) -> None:
        camera = block("camera", 4.0, (0.2, 0.1, 0.14), Category.BODY, known=HowKnown.GUESSED)
        build, kit = shoulder_build((camera, -0.06), (wide("l", 0.14), 0.22), (wide("r", -0.14), 0.22))
        found = analyse(replace(build, support="handheld"), kit, MAN)
        carried = carried_of(found, MAN, "handheld")
        sure = carry_uncertainties(found, carried)
        self.assertAlmostEqual(sure.see_saw, found.equilibrium.tip_uncertainty, delta=1e-6)
        self.assertEqual(len(sure.joints), len(carried.joints))
        self.assertEqual(len(sure.hands), 2)
        leg = float(found.spread.cg[1]) * found.body.mass / (found.body.mass + 80.0) / 0.30
        self.assertAlmostEqual(sure.right_leg, leg, delta=0.05 * leg + 1e-6)
        self.assertEqual((sure.hang, sure.ahead, sure.holds), (0.0, 0.0, 0.0))
