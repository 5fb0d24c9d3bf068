"""Points: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np

from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.massprops.bodies import MassProperties
from equilix.core.statics.points import gimbal_torques, hang, shoulder_moments
from equilix.core.statics.sled import sled_figures


class Points(unittest.TestCase):
    """Kane and Levinson: moments of a weight about a point; a compound pendulum let go from level."""

    BODY = MassProperties(4.0, np.array([0.03, -0.02, -0.15]), np.diag([0.02, 0.03, 0.04]))

    def test_moments_hang_and_torque(self) -> None:
        weight = 4.0 * STANDARD_GRAVITY
        found = shoulder_moments(self.BODY, np.array([0.01, 0.01, 0.0]))
        self.assertAlmostEqual(found.pitch_moment, weight * 0.02)
        self.assertAlmostEqual(found.roll_moment, weight * 0.03)
        hung = hang(self.BODY, np.zeros(3))
        self.assertAlmostEqual(hung.tension, weight)
        self.assertTrue(hung.stable)
        self.assertFalse(hang(self.BODY, np.array([0.0, 0.0, -0.3])).stable)
        self.assertFalse(hang(self.BODY, self.BODY.cg).stable)
        torque = gimbal_torques(self.BODY, np.zeros(3), math.radians(30))
        self.assertAlmostEqual(
            torque.tilt_torque, weight * (0.03 * math.cos(math.pi / 6) - 0.15 * math.sin(math.pi / 6))
        )
        self.assertAlmostEqual(torque.roll_torque, weight * 0.02)

    def test_drop_time_by_integrating_the_pendulum(self) -> None:
        """I a = W L sin: the time from level to straight down, by quadrature of the energy equation."""
        from scipy.integrate import quad

        lever = math.hypot(0.03, 0.15)
        swing = 0.03 + 4.0 * lever**2
        # w^2 = 2 W L cos(t)/I measured from straight down; t = sin^2 removes the root's pole.
        time, _ = quad(lambda s: 2 * s / math.sqrt(math.sin(s * s)) if s > 0 else 2.0, 0.0, math.sqrt(math.pi / 2))
        expected = time * math.sqrt(swing / (2 * 4.0 * STANDARD_GRAVITY * lever))
        self.assertAlmostEqual(sled_figures(self.BODY, np.zeros(3)).drop_time, expected, places=9)
        self.assertIsNone(sled_figures(self.BODY, np.array([0.0, 0.0, -0.2])).drop_time)
        self.assertIsNone(sled_figures(self.BODY, self.BODY.cg).drop_time)
