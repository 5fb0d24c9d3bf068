"""Holding: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np

from equilix.core.assembly.build import Side
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.operator.body import arm_weights, body_of, reach_for
from equilix.core.operator.strength import BodyJoint, capacity
from equilix.core.statics.hands import (
    HandLoad,
    Prop,
    propped_load,
)
from equilix.core.statics.holding import PALM_LEVER, Grip, measures, taken
from tests.rigs.people import MAN


class Asked(unittest.TestCase):
    """Moments at each joint by summing levers times forces, link by link."""

    def setUp(self) -> None:
        self.body = body_of(MAN)
        self.point = self.body.shoulder(Side.LEFT) + np.array([0.30, -0.08, -0.22])
        self.arm = reach_for(self.body, Side.LEFT, self.point)
        self.asked = measures(self.body, MAN, self.arm, 0.033)
        self.hand = HandLoad(self.point, np.array([12.0, -7.0, 45.0]), np.array([1.5, -0.8, 0.6]))

    def moment(self, centre: np.ndarray, beyond: int) -> np.ndarray:
        """Return gravity's and the rig's moment (3,) (N m) on what lies beyond a joint."""
        total = np.cross(self.point - centre, -self.hand.force) - self.hand.couple
        for weight in arm_weights(self.body, self.arm)[3 - beyond :]:
            total = total + np.cross(weight.centre - centre, [0.0, 0.0, -weight.mass * STANDARD_GRAVITY])
        return total

    def test_moments_about_three_axes_of_wrist_and_shoulder_and_the_elbows_hinge(self) -> None:
        upper = (self.arm.elbow - self.arm.shoulder) / np.linalg.norm(self.arm.elbow - self.arm.shoulder)
        fore = (self.arm.grip - self.arm.elbow) / np.linalg.norm(self.arm.grip - self.arm.elbow)
        hinge = np.cross(upper, fore) / np.linalg.norm(np.cross(upper, fore))
        loads: dict[BodyJoint, list[float]] = {}
        caps: dict[BodyJoint, list[float]] = {}
        for measure in self.asked:
            loads.setdefault(measure.joint, []).append(measure.load(self.hand))
            caps.setdefault(measure.joint, []).append(measure.capacity)
        wrist = self.moment(self.arm.wrist, 1)
        np.testing.assert_allclose(
            loads[BodyJoint.WRIST], [wrist @ hinge, wrist @ np.cross(hinge, fore), wrist @ fore], atol=1e-9
        )
        np.testing.assert_allclose(loads[BodyJoint.ELBOW], [self.moment(self.arm.elbow, 2) @ hinge], atol=1e-9)
        shoulder = self.moment(self.arm.shoulder, 3)
        np.testing.assert_allclose(
            loads[BodyJoint.SHOULDER],
            [shoulder @ hinge, shoulder @ np.cross(hinge, upper), shoulder @ upper],
            atol=1e-9,
        )
        most = capacity(MAN, BodyJoint.WRIST)
        # Delp (1996), from memory: 11 N m sideways, 7 fore and aft, 8 turning.
        np.testing.assert_allclose(caps[BodyJoint.WRIST], [most, 7 / 11 * most, 8 / 11 * most])
        raising = capacity(MAN, BodyJoint.SHOULDER, self.arm.elbow_angle, self.arm.elevation)
        # Stobbe (1982), from memory: about its own length 45 % of raising.
        np.testing.assert_allclose(caps[BodyJoint.SHOULDER], [raising, raising, 0.45 * raising])
        np.testing.assert_allclose(
            caps[BodyJoint.ELBOW], [capacity(MAN, BodyJoint.ELBOW, self.arm.elbow_angle, self.arm.elevation)]
        )

    def test_what_the_fingers_squeeze(self) -> None:
        """Coulomb: along a handle F/(2 mu), about it C/(mu d); across it the fingers hold, the palm's ends turn."""
        for along in range(3):
            asked = [m for m in measures(self.body, MAN, self.arm, 0.033, along) if m.joint is BodyJoint.HAND]
            found = [m.load(self.hand) for m in asked]
            expected = []
            for k in range(3):
                expected.append(self.hand.force[k] / (2 * 0.6) if k == along else self.hand.force[k])
            for k in range(3):
                expected.append(self.hand.couple[k] / (0.6 * 0.033) if k == along else self.hand.couple[k] / 0.055)
            np.testing.assert_allclose(found, expected, atol=1e-9)
            best = 0.197 * 0.108 * 1.80
            grip_left = max(1.0 - 0.8 * ((0.033 - best) / best) ** 2, 0.4)
            np.testing.assert_allclose([m.capacity for m in asked], 540.0 * grip_left)
        self.assertFalse([m for m in measures(self.body, MAN, self.arm, palm=True) if m.joint is BodyJoint.HAND])

    def test_ribs_push_an_elbow_and_so_turn_the_shoulder(self) -> None:
        prop = Prop(0, np.array([0.0, 1.0, 0.0]), self.arm.elbow - self.arm.shoulder)
        push = np.array([2.0, 30.0, 1.0])
        for measure in self.asked:
            more = propped_load(measure, self.hand, [(prop, push)]) - measure.load(self.hand)
            if measure.joint is BodyJoint.SHOULDER:
                axis = -measure.row[3:]
                self.assertAlmostEqual(more, float(axis @ np.cross(prop.lever, push)))
            else:
                self.assertEqual(more, 0.0)

    def test_a_flat_palm_pushes_along_its_way_and_rubs(self) -> None:
        """Skin on metal 0.3, low end, from memory; two thirds of a palm's breadth between what presses."""
        at = tuple(self.point.tolist())
        _, closed = taken(MAN, False, Grip(Side.LEFT, at, 0.035, 2))
        self.assertFalse(closed.pushes)
        np.testing.assert_array_equal(closed.ways, np.eye(6))
        _, flat = taken(MAN, False, Grip(Side.LEFT, at, 0.035, 2, (0.0, -1.0, 0.0)))
        self.assertTrue(flat.pushes)
        np.testing.assert_allclose(flat.ways[1], -1.0, atol=1e-12)
        self.assertAlmostEqual(float(np.hypot(flat.ways[0], flat.ways[2]).max()), 0.3)
        self.assertEqual(PALM_LEVER, 0.055)
        self.assertAlmostEqual(float(np.abs(flat.ways[3:]).max()), 0.055 / 2 * math.hypot(1.0, 0.3), delta=0.012)
