"""Hands: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np

from equilix.core.assembly.build import Side
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.operator.body import body_of
from equilix.core.operator.strength import BodyJoint
from equilix.core.statics.hands import (
    Contact,
    Hand,
    Measure,
    Prop,
    Statics,
    propped_load,
)
from equilix.core.statics.holding import Grip, taken
from equilix.core.statics.pad import Shoulder
from equilix.core.statics.patches import pad_rays
from tests.rigs.people import MAN


class Balanced(unittest.TestCase):
    def test_forces_of_pad_hands_contacts_and_ribs_add_up(self) -> None:
        """Newton: all forces and moments about any point are zero, for random places and rigs."""
        rng = np.random.default_rng(12)
        body = body_of(MAN)
        for _ in range(25):
            hands = []
            arms = []
            for side, out in ((Side.LEFT, 1.0), (Side.RIGHT, -1.0)):
                at = body.shoulder(side) + rng.uniform([0.2, -0.05, -0.35], [0.35, 0.05, -0.1]) * [1, out, 1]
                arm, hand = taken(MAN, False, Grip(side, tuple(at.tolist()), 0.035, 2))
                hands.append(hand)
                arms.append(arm)
            pad = np.array([0.0, -0.1, 1.5])
            contact = Contact(np.array([0.11, 0.0, 1.3]), np.array([1.0, 0.0, 0.0]))
            props = [Prop(0, np.array([0.0, 1.0, 0.0]), arms[0].elbow - arms[0].shoulder)]
            statics = Statics(hands, (pad, pad_rays(Shoulder())), [contact], props)
            mass, cg = float(rng.uniform(3, 12)), pad + rng.uniform([-0.1, -0.05, 0.0], [0.15, 0.05, 0.2])
            held = statics.hold(mass, cg)
            about = rng.normal(size=3)
            force = held.pad_force + np.array([0, 0, -mass * STANDARD_GRAVITY])
            moment = held.pad_moment + np.cross(pad - about, held.pad_force)
            moment = moment + np.cross(cg - about, [0, 0, -mass * STANDARD_GRAVITY])
            for load in held.hands:
                force, moment = force + load.force, moment + load.couple + np.cross(load.point - about, load.force)
            for push in held.braced:
                force, moment = force + push.force, moment + push.moment + np.cross(push.point - about, push.force)
            np.testing.assert_allclose(force, 0.0, atol=1e-8)
            np.testing.assert_allclose(moment, 0.0, atol=1e-8)
            shares = [
                abs(propped_load(m, load, [(props[0], held.propped[0])] if k == 0 else ())) / m.capacity
                for k, (hand, load) in enumerate(zip(hands, held.hands, strict=True))
                for m in hand.measures
            ]
            self.assertAlmostEqual(held.worst, max(shares), places=6)
            self.assertAlmostEqual(held.friction, math.hypot(held.pad_force[0], held.pad_force[1]))
            self.assertEqual(held.larger, max(load.size for load in held.hands))
            # Ribs push outwards of the trunk and rub no more than cloth does.
            self.assertGreaterEqual(float(held.propped[0][1]), -1e-9)
            rub = math.hypot(float(held.propped[0][0]), float(held.propped[0][2]))
            self.assertLessEqual(rub, 0.4 * float(held.propped[0][1]) + 1e-8)

    def test_many_rigs_at_once_are_those_of_each_alone_and_what_nothing_holds_is_no_number(self) -> None:
        up = np.eye(6)[:, 2:3]
        most = Measure(BodyJoint.HAND, np.eye(6)[2], 0.0, 100.0)
        hand = Hand(np.array([0.2, 0.0, 0.0]), (most,), up)
        pad = np.zeros(3), pad_rays(Shoulder())
        statics = Statics([hand], pad)
        rng = np.random.default_rng(3)
        mass = rng.uniform(1.0, 9.0, 60)
        cg = rng.uniform([-0.08, -0.04, 0.0], [0.30, 0.04, 0.2], (60, 3))
        # The patch would have to pull: ahead of the hand; or to reach farther aside than it does.
        cg[:2] = ((0.297, -0.012, 0.085), (0.090, 0.0206, 0.111))
        larger, upward = statics.forces(mass, cg)
        self.assertTrue(np.isnan(larger[:2]).all())
        for k in range(60):
            alone = Statics([hand], pad).hold(mass[k], cg[k])
            # Lever law: aside, what is left on the patch reaches 30 mm, so the hand may lift W (1 - |y|/30 mm) at most;
            # ahead, that at 200 mm and the rest at the patch's edge. Behind, it presses down as hard as it must.
            can = cg[k, 0] <= 0.03 + (0.2 - 0.03) * (1.0 - abs(float(cg[k, 1])) / 0.03)
            self.assertEqual(alone is not None, can, cg[k])
            if alone is None:
                self.assertTrue(math.isnan(larger[k]))
                continue
            self.assertAlmostEqual(larger[k], alone.larger, places=6)
            self.assertAlmostEqual(upward[k], float(alone.pad_force[2]), places=6)
        # Lever law where the patch can do no more: the CG is 40 mm beyond its edge, the hand 170 mm.
        one, pressed = statics.forces(np.array([5.0]), np.array([[0.07, 0.0, 0.1]]))
        self.assertLessEqual(float(one[0]), 5.0 * STANDARD_GRAVITY * 0.07 / 0.20 + 1e-6)
        self.assertAlmostEqual(float(one[0] + pressed[0]), 5.0 * STANDARD_GRAVITY, places=6)
