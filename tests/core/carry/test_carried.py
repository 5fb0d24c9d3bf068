"""Carried: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Brace, Grasp, Hold, Side
from equilix.core.carry.carried import Carry, carry, disc_compression, head_lever, see_saw
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category
from equilix.core.operator.body import arm_weights, reach_for
from equilix.core.operator.strength import BodyJoint, capacity
from equilix.core.statics.looking import screen_from_eye
from tests.rigs.carrying import DOWN, rig, wide
from tests.rigs.people import LEFT_HANDED, MAN
from tests.rigs.plain import block, shoulder_build
from tests.rigs.results import shoulder_result


class Body(unittest.TestCase):
    def moment_about(self, carried: Carry, centre: np.ndarray, pushes: bool = True) -> np.ndarray:
        """Return the moment (3,) (N m) of rig, arms and head on all above a joint: Newton, body by body."""
        body = carried.body
        total = np.cross([0.03, 0.0, 0.0], 0.081 * body.mass * DOWN)
        for hand in carried.held.hands:
            total = total - hand.couple - np.cross(hand.point - centre, hand.force)
        if pushes:
            if carried.pad is not None:
                total = total - carried.held.pad_moment - np.cross(carried.pad - centre, carried.held.pad_force)
            for push in carried.held.braced:
                total = total - push.moment - np.cross(push.point - centre, push.force)
        for arm in carried.arms:
            for weight in arm_weights(body, arm):
                total = total + np.cross(weight.centre - centre, weight.mass * DOWN)
        return total

    def load(self, carried: Carry, joint: BodyJoint) -> float:
        return next(j for j in carried.joints if j.joint is joint).load

    def test_low_back_disc_and_hips(self) -> None:
        """Winter (2009), table 4.1: 0.355 and 0.081 of the body above L5/S1 without the arms, 0.050 each arm."""
        for support, hold in (("handheld", Hold()), ("shoulder", Hold()), ("handheld", Hold(brace=Brace.CHEST))):
            carried = rig(support=support, hold=hold)
            moment = self.moment_about(carried, carried.body.low_back)
            np.testing.assert_allclose(carried.back_moment, moment, atol=1e-8)
            self.assertAlmostEqual(self.load(carried, BodyJoint.LOW_BACK), math.hypot(moment[0], moment[1]))
            down = (0.355 + 0.081 + 2 * 0.050) * 80.0 * STANDARD_GRAVITY + carried.mass * STANDARD_GRAVITY
            muscles = (moment[1] / 0.050 if moment[1] >= 0 else -moment[1] / 0.080) + abs(moment[0]) / 0.075
            self.assertAlmostEqual(carried.compression, down + muscles, places=6)
            about_hips = self.moment_about(carried, carried.body.hips)
            heavier = max(carried.right_leg, 1.0 - carried.right_leg)
            self.assertAlmostEqual(self.load(carried, BodyJoint.HIP), heavier * abs(about_hips[1]), places=8)

    def test_a_rig_that_pulls_back_is_held_by_the_weaker_muscles(self) -> None:
        """Bending forward is weaker than straightening up: about 0.57 of it (Stobbe 1982, from memory)."""
        for support, behind, share in (("shoulder", 0.1, 1.0), ("shoulder", 0.3, 0.57), ("handheld", 0.3, 0.57)):
            camera = block("camera", 6.0, (0.2, 0.1, 0.14), Category.BODY)
            build, kit = shoulder_build((camera, -behind), (wide("l", 0.14), 0.22), (wide("r", -0.14), 0.22))
            carried = carry(analyse(replace(build, support=support), kit, MAN), MAN, support)
            self.assertEqual(carried.back_moment[1] < 0.0, share < 1.0)
            back = next(joint for joint in carried.joints if joint.joint is BodyJoint.LOW_BACK)
            self.assertAlmostEqual(back.capacity, share * capacity(MAN, BodyJoint.LOW_BACK))

    def test_a_rig_on_the_hip_spares_the_back_what_the_hip_takes(self) -> None:
        carried = rig(hold=Hold(brace=Brace.HIP))
        moment = self.moment_about(carried, carried.body.low_back, pushes=False)
        np.testing.assert_allclose(carried.back_moment, moment, atol=1e-8)
        # Stobbe (1982), from memory: bending forward is 57 % of straightening up.
        back = next(j for j in carried.joints if j.joint is BodyJoint.LOW_BACK)
        self.assertAlmostEqual(back.capacity, 234.0 * (1.0 if moment[1] >= 0.0 else 0.57))

    def test_the_leg_that_bears_more_is_named_from_half_a_per_cent_on(self) -> None:
        level = rig()
        self.assertAlmostEqual(level.right_leg, 0.5)
        self.assertIsNone(next(j for j in level.joints if j.joint is BodyJoint.HIP).side)
        for operator, side in ((MAN, Side.RIGHT), (LEFT_HANDED, Side.LEFT)):
            loaded = rig(operator, "shoulder")
            self.assertIs(next(j for j in loaded.joints if j.joint is BodyJoint.HIP).side, side)

    def test_the_neck_holds_the_head_where_eye_and_rig_put_it(self) -> None:
        """The head's weight times its lever; bent back against the weaker muscles (Vasavada 2001, memory: 30 of 52)."""
        for ahead, below in ((0.35, 0.1), (0.35, 0.45), (0.30, -0.2)):
            carried = rig(hold=Hold(ahead=ahead, below=below))
            lever = head_lever(carried.gaze)
            neck = carried.joints[0]
            self.assertAlmostEqual(neck.load, 0.081 * 80.0 * STANDARD_GRAVITY * abs(lever))
            self.assertAlmostEqual(neck.capacity, 52.0 if lever >= 0.0 else 30.0)

    def test_a_head_that_gives_way_is_held_aside_as_well(self) -> None:
        parts = (
            (block("camera", 4.0, (0.2, 0.12, 0.5), Category.BODY, at=(0.0, 0.0, -0.25)), 0.0),
            (wide("l", 0.14), 0.22),
        )
        build, kit = shoulder_build(*parts)
        found = analyse(build, kit, MAN)
        self.assertGreater(shoulder_result(found).lean, 0.0)
        carried = carry(found, MAN, "shoulder")
        head = 0.081 * 80.0 * STANDARD_GRAVITY
        self.assertAlmostEqual(carried.joints[0].load, head * math.hypot(0.03, shoulder_result(found).lean))

    def test_of_two_arms_that_bear_as_much_the_one_of_the_operators_shoulder_is_named(self) -> None:
        build, kit = shoulder_build(
            (block("camera", 4.0, (0.2, 0.1, 0.14), Category.BODY), 0.2),
            (wide("l", 0.14), 0.2),
            (wide("r", -0.14), 0.2),
        )
        for side in Side:
            who = replace(MAN, shoulder=side)
            carried = carry(analyse(replace(build, support="handheld"), kit, who), who, "handheld")
            sides = {
                j.side
                for j in carried.joints
                if j.joint in (BodyJoint.SHOULDER, BodyJoint.ELBOW, BodyJoint.WRIST, BodyJoint.HAND)
            }
            self.assertEqual(sides, {side})

    def test_arms_that_hold_nothing_hang(self) -> None:
        """One hand: the other arm hangs straight beside the body and still weighs on the back."""
        one = rig(hold=Hold(left=Grasp("l", "hand")))
        if len(one.arms) == 1:
            free = reach_for(one.body, Side.RIGHT, one.body.shoulder(Side.RIGHT) - np.array([0.0, 0.0, one.body.reach]))
            moment = self.moment_about(one, one.body.low_back)
            for weight in arm_weights(one.body, free):
                moment = moment + np.cross(weight.centre - one.body.low_back, weight.mass * DOWN)
            np.testing.assert_allclose(one.back_moment, moment, atol=1e-8)

    def test_the_screen_must_be_ahead_of_the_eye(self) -> None:
        build, kit = shoulder_build((block("s", 0.3, category=Category.MONITOR), 0.30))
        found = analyse(build, kit, MAN)
        eye = rig().body.eye
        at = found.positions.centre[1]
        for gap, seen in ((0.019, False), (0.021, True)):
            way = screen_from_eye(found.assembly, found.positions, rig().body, eye - at + [gap, 0.0, 0.0])
            self.assertEqual(way is not None, seen)


class Spine(unittest.TestCase):
    def test_each_muscle_by_its_lever(self) -> None:
        """Chaffin and Andersson: extensors 5 cm, abdominals 8 cm, side 7.5 cm."""
        self.assertAlmostEqual(disc_compression(400.0, np.array([0.0, 20.0, 0.0])), 400.0 + 20.0 / 0.050)
        self.assertAlmostEqual(disc_compression(400.0, np.array([0.0, -20.0, 0.0])), 400.0 + 20.0 / 0.080)
        self.assertAlmostEqual(disc_compression(400.0, np.array([-15.0, 0.0, 9.0])), 400.0 + 15.0 / 0.075)

    def test_see_saw_by_hand(self) -> None:
        hands = np.array([0.2, 0.1, 0.0]), np.array([0.2, -0.1, 0.0])
        self.assertAlmostEqual(see_saw(4.0, np.array([0.27, 0.0, 0.05]), *hands), 4.0 * STANDARD_GRAVITY * 0.07)
        self.assertAlmostEqual(see_saw(4.0, np.array([0.13, 0.0, 0.05]), *hands), -4.0 * STANDARD_GRAVITY * 0.07)
        # Whichever grip is named first, and whichever of them is higher.
        for left, right in ((0.02, -0.03), (-0.03, 0.22), (-0.3, 0.02)):
            pair = np.array([[0.06, 0.12, left], [0.02, -0.12, right]])
            cg = np.array([0.13, 0.01, 0.05])
            # By hand: the line passes x = 0.04 + 0.04 y/0.24 at the CG's y, seen from above; u is along it.
            ahead = 0.13 - (0.04 + 0.04 * 0.01 / 0.24)
            size = math.sqrt(0.04**2 + 0.24**2 + (left - right) ** 2)
            for one, other in ((0, 1), (1, 0)):
                self.assertAlmostEqual(
                    abs(see_saw(4.0, cg, pair[one], pair[other])),
                    4.0 * STANDARD_GRAVITY * ahead * 0.24 / size,
                    places=9,
                )
                self.assertEqual(see_saw(4.0, cg, pair[one], pair[other]) > 0.0, see_saw(4.0, cg, *pair) > 0.0)
                level = np.array([[0.06, 0.12, 0.0], [0.06, -0.12, 0.0]])
                self.assertEqual(see_saw(4.0, cg, pair[one], pair[other]) > 0.0, see_saw(4.0, cg, *level) > 0.0)
        self.assertEqual(see_saw(4.0, np.zeros(3), hands[0], hands[0]), 0.0)
