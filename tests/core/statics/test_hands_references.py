"""What hands give to a rig: unique, even, the same whatever was asked before, and within what a hand can do."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Brace, Grasp, Hold, Operator, Sex
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import hold_of, with_hold
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Foot, MountKind
from equilix.core.operator.body import body_of
from equilix.core.operator.strength import BodyJoint
from equilix.core.statics import least_distance, pose
from equilix.core.statics.hands import Hand, Measure, Statics
from equilix.core.statics.pad import Shoulder
from equilix.core.statics.patches import pad_rays
from equilix.core.statics.pose import usual_hold
from tests.rigs.plain import block, grip, hold_level, left_over, shoulder_build

ANNA = Operator("a", "Anna", 1.66, 61.0, sex=Sex.FEMALE)


def bare() -> Carry:
    """Return a camera with a lens and nothing to hold, in the bare hands."""
    camera = replace(
        block("camera", 1.3, (0.13, 0.1, 0.12), Category.BODY), feet=(Foot(MountKind.LIGHT_RODS, (0, 0, 0)),)
    )
    lens = block("lens", 0.9, (0.15, 0.09, 0.09), Category.LENS)
    build, kit = shoulder_build((camera, 0.0), (lens, 0.14))
    palms = Hold(Grasp("lens", "under it"), Grasp("camera", "its right side"))
    found = carry(analyse(with_hold(build, palms, "handheld"), kit, ANNA), ANNA, "handheld")
    assert isinstance(found, Carry)
    return found


class OneAnswer(unittest.TestCase):
    def rig(self, up: float = 0.0) -> tuple[Carry, ...]:
        build, kit = shoulder_build(
            (replace(block("camera", 5.2, category=Category.BODY), cg=(0.0, 0.0, up)), 0.07),
            (grip("l"), 0.26),
            (grip("r"), 0.2),
        )
        analysis = analyse(build, kit, ANNA)
        found = tuple(carry(analysis, ANNA, support) for support in KEYS)
        return tuple(c for c in found if isinstance(c, Carry))

    def test_weight_acts_straight_down_so_how_high_the_cg_lies_is_nothing_to_level_hands(self) -> None:
        for low, high in zip(self.rig(), self.rig(0.0018), strict=True):
            for one, other in zip(low.held.hands, high.held.hands, strict=True):
                np.testing.assert_allclose(one.force, other.force, atol=1e-6)
            for joint, same in zip(low.joints, high.joints, strict=True):
                self.assertAlmostEqual(joint.load, same.load, delta=1e-6)

    def test_forces_do_not_depend_on_what_was_asked_before(self) -> None:
        afresh = [c.held for c in self.rig()]
        for start in range(5):
            rng = np.random.default_rng(start)
            for shape, met in list(least_distance._LAST_MET.items()):
                least_distance._LAST_MET[shape] = tuple(
                    sorted(rng.permutation(max(met, default=0) + 1)[: len(met)].tolist())
                )
            pose._statics.cache_clear()
            for held, again in zip(afresh, (c.held for c in self.rig()), strict=True):
                np.testing.assert_allclose(held.pad_force, again.pad_force, atol=1e-6)
                for one, other in zip(held.hands, again.hands, strict=True):
                    np.testing.assert_allclose(one.force, other.force, atol=1e-6)
                    np.testing.assert_allclose(one.couple, other.couple, atol=1e-6)

    def test_what_is_the_same_on_both_sides_is_shared_evenly(self) -> None:
        """Symmetry: hands that mirror each other under a CG in the middle give mirrored forces."""
        body = analyse(*shoulder_build((block("m", 6.0), 0.1)), ANNA).body
        held = hold_level(
            replace(body, cg=np.array([0.12, 0.0, 0.1])),
            np.zeros(3),
            Shoulder(),
            np.array([[0.3, 0.15, -0.1], [0.3, -0.15, -0.1]]),
        )
        left, right = held.hands
        np.testing.assert_allclose(left.force, right.force * [1.0, -1.0, 1.0], atol=1e-7)
        np.testing.assert_allclose(left.couple, right.couple * [-1.0, 1.0, -1.0], atol=1e-7)

    def test_two_springs_share_a_weight_as_their_strength_squared(self) -> None:
        """Two hands that can only lift, at one place, of strength a and b: the same share of each, F = W a/(a + b)."""
        up = np.eye(6)[:, 2:3]
        hands = [
            Hand(np.array([0.1, 0.0, 0.0]), (Measure(BodyJoint.HAND, np.eye(6)[2], 0.0, most),), up)
            for most in (100.0, 50.0)
        ]
        held = Statics(hands, origin=np.array([0.1, 0.0, 0.0])).hold(3.0, np.array([0.1, 0.0, 0.2]))
        forces = [float(hand.force[2]) for hand in held.hands]
        self.assertAlmostEqual(forces[0] / forces[1], 2.0, places=3)
        self.assertAlmostEqual(sum(forces), 3.0 * STANDARD_GRAVITY, places=9)
        self.assertAlmostEqual(held.worst, 3.0 * STANDARD_GRAVITY / 150.0, places=4)


class Held(unittest.TestCase):
    """A body stands while its CG lies over the polygon of what it rests on: Meriam and Kraige, Statics."""

    def test_without_hands_a_rig_stays_while_its_cg_lies_over_the_patch(self) -> None:
        rng = np.random.default_rng(41)
        for spans in ((0.09, 0.06), (0.12, 0.04)):
            pad = np.array([0.02, -0.01, 0.0])
            rests = Statics((), (pad, pad_rays(Shoulder(span_x=spans[0], span_y=spans[1]))))
            cg = np.column_stack([pad[:2] + rng.uniform(-1.0, 1.0, (300, 2)) * spans, rng.uniform(-0.1, 0.3, 300)])
            mass = rng.uniform(0.5, 15.0, 300)
            over = (np.abs(cg[:, :2] - pad[:2]) < 0.5 * np.array(spans)).all(axis=1)
            self.assertTrue(50 < over.sum() < 250)
            # One after the other, and then many at once: what was proven of one is asked of all.
            for k in range(120):
                held = rests.hold(float(mass[k]), cg[k])
                self.assertEqual(held is not None, over[k], cg[k])
                if held is not None:
                    self.assertAlmostEqual(float(held.pad_force[2]), mass[k] * STANDARD_GRAVITY, places=6)
            _, upward = rests.forces(mass, cg)
            np.testing.assert_array_equal(np.isfinite(upward), over)
            fresh = Statics((), (pad, pad_rays(Shoulder(span_x=spans[0], span_y=spans[1]))))
            np.testing.assert_allclose(fresh.forces(mass, cg)[1], upward, atol=1e-6)

    def test_two_palms_below_hold_what_lies_over_the_line_between_them(self) -> None:
        """Points that only push up: the polygon is the line, and a CG beside it turns over whatever they do."""
        up = np.eye(6)[:, 2:3]
        strong = (Measure(BodyJoint.HAND, np.eye(6)[2], 0.0, 400.0),)
        places = np.array([[0.1, 0.2, 0.0], [0.1, -0.2, 0.0]])
        palms = Statics([Hand(place, strong, up, pushes=True) for place in places], origin=places.mean(axis=0))
        for x, y, stays in ((0.1, 0.0, True), (0.1, 0.19, True), (0.1, 0.21, False), (0.11, 0.0, False)):
            for mass in (0.3, 3.0, 12.0):
                held = palms.hold(mass, np.array([x, y, 0.1]))
                self.assertEqual(held is not None, stays, (x, y, mass))
        held = palms.hold(4.0, np.array([0.1, 0.1, 0.1]))
        # By levers: the left palm, at 0.2 m, carries three quarters.
        self.assertAlmostEqual(float(held.hands[0].force[2]), 3.0 * STANDARD_GRAVITY, places=9)


class Palms(unittest.TestCase):
    def test_a_flat_palm_pushes_and_rubs_and_never_pulls(self) -> None:
        """Coulomb, skin on metal 0.3, low end, from memory; the palm is under the lens and pushes up."""
        found = bare()
        under = next(
            h for p, h in zip(found.pose.places, found.held.hands, strict=True) if p.grasp.mount_id == "under it"
        )
        self.assertGreater(float(under.force[2]), 0.0)
        self.assertLessEqual(math.hypot(under.force[0], under.force[1]), 0.3 * float(under.force[2]) + 1e-7)
        # Its pressure lies within the palm: the couple is no more than the force times half the palm.
        self.assertLessEqual(abs(float(under.couple[1])), 0.0275 * float(under.force[2]) + 1e-7)
        self.assertLess(abs(left_over(found.mass, found.cg, None, found.held)).max(), 1e-9)

    def test_a_palm_closes_round_nothing_so_no_fingers_tire(self) -> None:
        found = bare()
        palm = next(k for k, p in enumerate(found.pose.places) if p.grasp.mount_id == "under it")
        self.assertNotIn(BodyJoint.HAND, {m.joint for m in found.pose.asked[palm]})


class Postures(unittest.TestCase):
    def test_the_usual_hold_has_the_upper_arm_hanging_and_the_elbow_at_a_right_angle(self) -> None:
        """Drillis and Contini (1966), in Winter (2009), fig. 4.1: forearm 0.146 H, upper arm 0.186 H."""
        ahead, below = usual_hold(ANNA)
        self.assertAlmostEqual(below, 0.186 * 1.66)
        self.assertAlmostEqual(ahead - 0.040 * 1.66, 0.146 * 1.66)
        body = body_of(ANNA)
        build, kit = shoulder_build((block("c", 3.0, category=Category.BODY), 0.0), (grip("l"), 0.1), (grip("r"), 0.1))
        found = carry(analyse(build, kit, ANNA), ANNA, "handheld")
        assert isinstance(found, Carry)
        for arm in found.arms:
            # The grips stand in the middle here, so that the arms turn a little inwards.
            self.assertAlmostEqual(math.degrees(arm.elbow_angle), 90.0, delta=15.0)
            self.assertLess(math.degrees(arm.elevation), 25.0)
        self.assertGreater(body.reach, ahead)

    def test_a_brace_that_helps_nothing_on_a_support_is_said_not_to_count(self) -> None:
        """The body is between a rig in the hands and nothing: on a pad, a hook, an arm or a head no chest bears it."""
        build, kit = shoulder_build((block("c", 3.0, category=Category.BODY), 0.0), (grip("l"), 0.2), (grip("r"), 0.2))
        asked = set()
        for key in KEYS:
            on = replace(build, support=key)
            for brace in (Brace.NONE, Brace.CHEST, Brace.HIP):
                held = with_hold(on, Hold(brace=brace), key)
                found = carry(analyse(held, kit, ANNA), ANNA, key)
                # Some supports leave the hands no part in it.
                if isinstance(found, Carry) and hold_of(held).brace is brace and key != "handheld":
                    self.assertEqual(found.pose.missed, brace is not Brace.NONE, (key, brace))
                    asked.add(key)
        self.assertLessEqual({"shoulder", "harness"}, asked)


if __name__ == "__main__":
    unittest.main()
