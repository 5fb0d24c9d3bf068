"""Head: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Side
from equilix.core.carry.carried import head_bend, head_lever
from equilix.core.kit.parts import Category
from equilix.core.operator.body import body_of
from equilix.core.operator.head import head_beside, lean_needed
from equilix.core.statics.looking import gaze_down, screen_from_eye
from tests.rigs.people import LEFT_HANDED, MAN
from tests.rigs.plain import block, shoulder_build


class Head(unittest.TestCase):
    def test_where_the_head_is_and_how_large(self) -> None:
        """NASA-STD-3000: 155 by 195 mm; Drillis and Contini: eye 0.936, chin 0.870, shoulder 0.818 of the stature."""
        pad = np.array([0.05, 0.0, -0.1])
        for operator, inward in ((MAN, 1.0), (LEFT_HANDED, -1.0)):
            h = operator.stature
            head = head_beside(pad, operator)
            beside = np.array([0.015, inward * 0.10, (0.936 - 0.818) * h])
            np.testing.assert_allclose(head.centre, pad + beside, atol=1e-12)
            self.assertEqual((head.half_x, head.half_y), (0.195 / 2, 0.155 / 2))
            self.assertAlmostEqual(head.high - head.centre[2], 0.064 * h)
            self.assertAlmostEqual(head.centre[2] - head.low, 0.066 * h)

    def test_a_box_that_only_touches_pushes_nothing(self) -> None:
        head = head_beside(np.zeros(3), MAN)
        for low_z, high_z in ((head.high, head.high + 0.1), (head.low - 0.1, head.low)):
            low, high = np.array([[-0.1, -0.2, low_z]]), np.array([[0.1, 0.1, high_z]])
            self.assertEqual(float(lean_needed(head, 1.0, low, high)[0]), 0.0)
        inside = lean_needed(head, 1.0, np.array([[-0.1, -0.2, head.low]]), np.array([[0.1, 0.06, head.high]]))
        self.assertAlmostEqual(float(inside[0]), 0.06 - (0.10 - 0.155 / 2))


class HeadAndEye(unittest.TestCase):
    def test_the_head_beside_the_pad_on_either_side(self) -> None:
        """NASA-STD-3000, from memory: 0.155 by 0.195 m; eye over shoulder by Drillis and Contini."""
        for side, inward in ((Side.RIGHT, 1.0), (Side.LEFT, -1.0)):
            head = head_beside(np.array([0.1, 0.02, -0.1]), replace(MAN, shoulder=side))
            self.assertAlmostEqual(float(head.centre[0]), 0.115)
            self.assertAlmostEqual(float(head.centre[1]), 0.02 + inward * 0.10)
            self.assertAlmostEqual(float(head.centre[2]), -0.1 + (0.936 - 0.818) * 1.80)
            self.assertAlmostEqual(head.high - head.low, (1.0 - 0.870) * 1.80)
            self.assertAlmostEqual(head.high - float(head.centre[2]), 0.064 * 1.80)

    def test_how_far_a_box_pushes_an_ellipse(self) -> None:
        head = head_beside(np.zeros(3), MAN)
        z, x = float(head.centre[2]), float(head.centre[0])
        inner = 0.10 - 0.0775
        low, high = np.array([[x - 0.01, -0.05, z - 0.02]]), np.array([[x + 0.01, inner + 0.03, z + 0.02]])
        self.assertAlmostEqual(float(lean_needed(head, 1.0, low, high)[0]), 0.03)
        ahead = np.array([x + 0.06 - (x - 0.01), 0.0, 0.0])
        at = 0.06 / 0.0975
        narrower = 0.10 - 0.0775 * math.sqrt(1 - at * at)
        pushed = float(lean_needed(head, 1.0, low + ahead, high + ahead)[0])
        self.assertAlmostEqual(pushed, max(inner + 0.03 - narrower, 0.0))
        above = np.array([0.0, 0.0, head.high - z + 0.03])
        self.assertEqual(float(lean_needed(head, 1.0, low + above, high + above)[0]), 0.0)
        behind = np.array([-0.2, 0.0, 0.0])
        self.assertEqual(float(lean_needed(head, 1.0, low + behind, high + behind)[0]), 0.0)

    def test_gaze_and_neck(self) -> None:
        self.assertAlmostEqual(gaze_down(np.array([0.3, 0.4, -0.5])), math.pi / 4)
        self.assertEqual(head_bend(math.radians(20)), 0.0)
        self.assertAlmostEqual(head_bend(math.radians(50)), math.radians(20))
        self.assertAlmostEqual(head_bend(math.radians(-10)), math.radians(-10))
        self.assertAlmostEqual(head_lever(math.radians(120)), head_lever(math.radians(90)))

    def test_the_nearest_screen_ahead_of_the_eye(self) -> None:
        parts = (
            (block("near", 0.3, category=Category.MONITOR), 0.25),
            (block("far", 0.3, category=Category.MONITOR), 0.45),
            (block("behind", 0.3, category=Category.MONITOR), -0.3),
        )
        analysis = analyse(*shoulder_build(*parts), MAN)
        body = body_of(MAN)
        way = screen_from_eye(analysis.assembly, analysis.positions, body, body.eye - np.array([0.05, 0.0, 0.0]))
        self.assertAlmostEqual(float(way[0]), 0.25 - 0.05)
