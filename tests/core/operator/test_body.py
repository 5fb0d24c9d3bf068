"""Body: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.build import Side
from equilix.core.operator.body import arm_weights, body_of, reach_for
from tests.rigs.people import MAN


class Bodies(unittest.TestCase):
    """Drillis and Contini (1966), in Winter (2009), fig. 4.1, over stature; shoes 27 mm."""

    def test_heights_and_a_measured_shoulder_takes_the_trunk_with_it(self) -> None:
        body = body_of(MAN)
        self.assertAlmostEqual(float(body.hips[2]), 0.530 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.eye[2]), 0.936 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.neck[2]), 0.848 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.low_back[2]), 0.588 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.shoulder_left[1]), 0.129 * 1.80)
        tall = body_of(replace(MAN, shoulder_height=1.55))
        longer = (1.55 - 0.530 * 1.80) / (0.288 * 1.80)
        self.assertAlmostEqual(float(tall.low_back[2] - tall.hips[2]), longer * 0.058 * 1.80)
        self.assertAlmostEqual(float(tall.neck[2] - tall.hips[2]), longer * 0.318 * 1.80)
        self.assertAlmostEqual(body_of(replace(MAN, reach=0.75)).reach, 0.75)

    def test_seated_all_of_the_trunk_comes_down_by_the_thigh(self) -> None:
        stands, sits = body_of(MAN), body_of(MAN, True)
        for one, other in ((stands.eye, sits.eye), (stands.neck, sits.neck), (stands.low_back, sits.low_back)):
            self.assertAlmostEqual(float(one[2] - other[2]), (0.530 - 0.285) * 1.80)
        self.assertAlmostEqual(sits.thigh_top, 0.285 * 1.80 + 0.027 + 0.045 * 1.80)

    def test_elbow_and_wrist_lie_where_the_links_meet(self) -> None:
        """Two links and their law of cosines; the elbow hangs below the line from shoulder to grip."""
        body = body_of(MAN)
        grip_at = body.shoulder(Side.LEFT) + np.array([0.30, -0.05, -0.25])
        arm = reach_for(body, Side.LEFT, grip_at)
        self.assertAlmostEqual(float(np.linalg.norm(arm.elbow - arm.shoulder)), 0.186 * 1.80)
        self.assertAlmostEqual(float(np.linalg.norm(arm.grip - arm.elbow)), (0.146 + 0.040) * 1.80)
        self.assertAlmostEqual(float(np.linalg.norm(arm.wrist - arm.elbow)), 0.146 * 1.80)
        np.testing.assert_allclose(arm.grip, grip_at, atol=1e-12)
        middle = arm.shoulder + (arm.grip - arm.shoulder) * float(
            (arm.elbow - arm.shoulder)
            @ (arm.grip - arm.shoulder)
            / ((arm.grip - arm.shoulder) @ (arm.grip - arm.shoulder))
        )
        self.assertLess(float(arm.elbow[2]), float(middle[2]))
        straight = reach_for(body, Side.LEFT, body.shoulder(Side.LEFT) + np.array([2.0, 0.0, 0.0]))
        self.assertFalse(straight.reached)
        self.assertAlmostEqual(straight.elbow_angle, 0.0, delta=0.05)
        self.assertAlmostEqual(straight.elevation, math.pi / 2, delta=0.05)

    def test_angles_of_an_arm_on_either_side(self) -> None:
        """Plain geometry: elevation from hanging, tuck outwards, the elbow's bend between the links."""
        body = body_of(MAN)
        for side, out in ((Side.LEFT, 1.0), (Side.RIGHT, -1.0)):
            arm = reach_for(body, side, body.shoulder(side) + np.array([0.25, out * 0.15, -0.30]))
            upper, fore = arm.elbow - arm.shoulder, arm.grip - arm.elbow
            lengths = float(np.linalg.norm(upper) * np.linalg.norm(fore))
            self.assertAlmostEqual(arm.elbow_angle, math.acos(float(upper @ fore) / lengths))
            self.assertAlmostEqual(arm.elevation, math.acos(-float(upper[2]) / float(np.linalg.norm(upper))))
            self.assertAlmostEqual(arm.tuck, math.atan2(out * float(upper[1]), -float(upper[2])))

    def test_segment_weights(self) -> None:
        """Winter (2009), table 4.1: hand 0.006, forearm 0.016, upper arm 0.028 of the body; centres from above."""
        body = body_of(MAN)
        arm = reach_for(body, Side.RIGHT, body.shoulder(Side.RIGHT) + np.array([0.2, 0.0, -0.4]))
        upper, fore, hand = arm_weights(body, arm)
        self.assertAlmostEqual(upper.mass + fore.mass + hand.mass, 0.050 * 80.0)
        np.testing.assert_allclose(upper.centre, arm.shoulder + 0.436 * (arm.elbow - arm.shoulder), atol=1e-12)
        np.testing.assert_allclose(fore.centre, arm.elbow + 0.430 * (arm.wrist - arm.elbow), atol=1e-12)
        self.assertAlmostEqual(float(np.linalg.norm(hand.centre - arm.wrist)), 0.506 * 0.0495 * 1.80)
