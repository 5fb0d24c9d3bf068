"""Pose: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Brace, Hold, Side, Take
from equilix.core.carry.carried import (
    Carry,
    carry,
    reserves,
    rest_for,
    steadiness,
)
from equilix.core.chosen import with_hold
from equilix.core.kit.parts import Category
from equilix.core.operator.body import body_of
from equilix.core.operator.strength import BodyJoint
from equilix.core.statics.grasps import thickness_of
from equilix.core.statics.pose import ABOVE_HIP, BELLY, COLLAR, ON_THIGHS
from tests.rigs.bodies import BOOK
from tests.rigs.hands import UP
from tests.rigs.people import MAN, WOMAN
from tests.rigs.plain import OPERATOR, block, grip, shoulder_build


class PosesInNumbers(unittest.TestCase):
    def found(self, brace: Brace, **more: Any) -> Carry:
        build, kit = shoulder_build(
            (block("camera", 2.0, (0.2, 0.1, 0.12), Category.BODY), 0.1), (grip("l"), 0.25), (grip("r"), 0.22)
        )
        carried = carry(analyse(with_hold(build, Hold(brace=brace, **more), "handheld"), kit, MAN), MAN, "handheld")
        assert isinstance(carried, Carry)
        return carried

    def test_where_hip_and_chest_take_it(self) -> None:
        """Assumed: 3 % of the stature above the hip joints; from 16 % above them to 3 % below the shoulders."""
        hips, shoulders, chest = 0.530 * 1.80 + 0.027, 0.818 * 1.80 + 0.027, 0.062 * 1.80
        hip = self.found(Brace.HIP).pose.contacts[0]
        self.assertAlmostEqual(float(hip.point[0]), chest)
        self.assertAlmostEqual(float(hip.point[2]), hips + 0.03 * 1.80)
        for below, height in ((0.0, shoulders - 0.03 * 1.80), (0.9, hips + 0.16 * 1.80)):
            at = self.found(Brace.CHEST, below=below).pose.contacts[0]
            self.assertAlmostEqual(float(at.point[2]), height)
        middle = self.found(Brace.CHEST, below=0.3)
        rear = min(float(c) for c in middle.pose.contacts[0].point[:1])
        self.assertAlmostEqual(rear, chest)

    def test_grips_stand_on_the_thighs(self) -> None:
        """Assumed: 19 % of the stature ahead of the hips; grips' ends within 40 mm of one height both stand."""
        sits = self.found(Brace.KNEES)
        grips = [i for i, p in enumerate(sits.pose.places)]
        self.assertEqual(len(sits.pose.contacts), len(grips))
        middle = np.mean([p.point for p in sits.pose.places], axis=0) + sits.shift
        self.assertAlmostEqual(float(middle[0]), 0.19 * 1.80)
        for contact in sits.pose.contacts:
            self.assertAlmostEqual(float(contact.point[2]), sits.body.thigh_top)
            np.testing.assert_array_equal(contact.normal, UP)

    def test_an_elbow_within_60_mm_of_the_ribs_can_be_tucked(self) -> None:
        """Assumed: an upper arm 2.1 % of the stature thick each way; the trunk an ellipse of 0.062 by 0.088."""
        for ahead in np.linspace(0.24, 0.46, 12).tolist():
            found = self.found(Brace.ELBOWS, ahead=ahead, below=0.30)
            tucked = {prop.hand for prop in found.pose.props}
            for h, arm in enumerate(found.arms):
                x, y, z = (float(v) for v in arm.elbow)
                outside = math.hypot(x / (0.062 * 1.8), y / (0.088 * 1.8))
                gap = math.hypot(x, y) * (1.0 - 1.0 / outside) - 0.021 * 1.8
                self.assertEqual(h in tucked, gap <= 0.060, (ahead, gap, z))
                if h in tucked:
                    prop = next(p for p in found.pose.props if p.hand == h)
                    np.testing.assert_allclose(prop.lever, arm.elbow - arm.shoulder, atol=1e-12)


class Poses(unittest.TestCase):
    def held(self, brace: Brace, **more: Any) -> Carry:
        build, kit = shoulder_build(
            (block("camera", 2.0, (0.2, 0.1, 0.12), Category.BODY), 0.1),
            (grip("l"), 0.25),
            (grip("r"), 0.22),
        )
        way = Hold(brace=brace, **more)
        found = carry(analyse(with_hold(build, way, "handheld"), kit, MAN), MAN, "handheld")
        assert isinstance(found, Carry)
        return found

    def test_where_a_rig_rests_on_thighs_hip_and_chest(self) -> None:
        sits = self.held(Brace.KNEES)
        middle = np.mean([p.point for p in sits.pose.places], axis=0) + sits.shift
        self.assertAlmostEqual(float(middle[0]), ON_THIGHS * MAN.stature)
        hip = self.held(Brace.HIP).pose.contacts[0]
        self.assertAlmostEqual(float(hip.point[2]), (0.530 + ABOVE_HIP) * 1.80 + 0.027)
        self.assertAlmostEqual(float(hip.normal[0]), math.sqrt(0.5))
        chest = self.held(Brace.CHEST, below=0.0).pose.contacts[0]
        body = body_of(MAN)
        self.assertAlmostEqual(float(chest.point[0]), 0.062 * 1.80)
        self.assertLessEqual(float(chest.point[2]), float(body.shoulder_right[2]) - COLLAR * 1.80 + 1e-9)
        low = self.held(Brace.CHEST, below=0.9).pose.contacts[0]
        self.assertAlmostEqual(float(low.point[2]), float(body.hips[2]) + BELLY * 1.80)

    def test_ribs_push_a_tucked_elbow_straight_out_of_the_trunk(self) -> None:
        """The trunk an ellipse from above, 0.062 H deep and 0.088 H broad each way: its normal is its gradient."""
        found = self.held(Brace.ELBOWS, ahead=0.30, below=0.34)
        self.assertTrue(found.pose.props)
        for prop in found.pose.props:
            elbow = found.pose.arms[prop.hand].elbow
            gradient = np.array([elbow[0] / (0.062 * 1.8) ** 2, elbow[1] / (0.088 * 1.8) ** 2, 0.0])
            np.testing.assert_allclose(prop.normal, gradient / np.linalg.norm(gradient), atol=1e-9)

    def test_where_the_hands_are_told_to_be(self) -> None:
        found = self.held(Brace.NONE, ahead=0.31, below=0.22)
        middle = np.mean([p.point for p in found.pose.places], axis=0) + found.shift
        self.assertAlmostEqual(float(middle[0]), 0.31)
        self.assertAlmostEqual(float(body_of(MAN).shoulder_right[2] - middle[2]), 0.22)

    def test_the_leg_on_the_heavier_side(self) -> None:
        """Lever law between feet 0.30 m apart: the shoulder rig lies 0.10 m off the midline."""
        build = BOOK.builds[0]
        found = carry(analyse(build, BOOK.parts, MAN), MAN, "shoulder")
        assert isinstance(found, Carry)
        share = 0.5 - found.mass * float(found.cg[1]) / (found.mass + 80.0) / 0.30
        self.assertAlmostEqual(found.right_leg, share)
        hip = next(joint for joint in found.joints if joint.joint is BodyJoint.HIP)
        self.assertIs(hip.side, Side.RIGHT)

    def test_steadiness_is_a_ratio_about_the_pivot(self) -> None:
        """Parallel axes: I + m (y2 + z2) and so on, both bodies about one point."""
        build, kit = shoulder_build(
            (block("c", 2.0, (0.16, 0.1, 0.12), Category.BODY), 0.1), (block("b", 1.0, (0.06, 0.1, 0.14)), -0.2)
        )
        kit["base"] = replace(kit["base"], mass=0.0, outline=None)
        analysis = analyse(build, kit, MAN)
        pivot = np.array([0.02, -0.03, -0.1])
        rows = list(zip(analysis.assembly.mass, analysis.assembly.inertia, analysis.positions.cg, strict=True))[1:]
        total = sum(
            inertia + m * ((r - pivot) @ (r - pivot) * np.eye(3) - np.outer(r - pivot, r - pivot))
            for m, inertia, r in rows
        )
        m, inertia, r = rows[0]
        bare = inertia + m * ((r - pivot) @ (r - pivot) * np.eye(3) - np.outer(r - pivot, r - pivot))
        np.testing.assert_allclose(steadiness(analysis, pivot), np.diag(total) / np.diag(bare), rtol=1e-12)

    def test_rests_are_those_of_the_joint_that_needs_most(self) -> None:
        found = carry(analyse(BOOK.builds[2], BOOK.parts, WOMAN), WOMAN, "handheld")
        assert isinstance(found, Carry)
        runs = reserves(found, (Take(60.0, 30.0), Take(30.0, 0.0)), 1.0)
        self.assertEqual([run.joint for run in runs], [joint.joint for joint in found.joints])
        self.assertEqual(len(runs[0].time), 121)
        self.assertGreaterEqual(rest_for(found, 40.0), rest_for(found, 20.0))

    def test_what_a_hand_closes_round(self) -> None:
        """Common practice: a fist holds nothing thinner than 15 or thicker than 60 mm; 35 mm where it isn't told."""
        for wide, thick in ((0.020, 0.020), (0.010, 0.015), (0.090, 0.060)):
            part = replace(grip("l"), outline=replace(grip("l").outline, size=(wide, wide + 0.01, 0.1)))
            build, kit = shoulder_build((block("c", 2.0, category=Category.BODY), 0.0), (part, 0.2))
            analysis = analyse(build, kit, OPERATOR)
            place = next(p for p in analysis.equilibrium.pose.places)
            self.assertAlmostEqual(thickness_of(analysis.assembly, place, Hold()), thick)
        kit["l"] = replace(kit["l"], outline=None)
        bare = analyse(build, kit, OPERATOR)
        self.assertAlmostEqual(thickness_of(bare.assembly, bare.equilibrium.pose.places[0], Hold()), 0.035)
