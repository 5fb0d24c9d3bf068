"""How a rig hangs from a free point, and how fast a sled falls: closed forms, quadrature and MuJoCo's dynamics."""

from __future__ import annotations

import math
import unittest

import numpy as np

from equilix.core.frames import STANDARD_GRAVITY, rotation_about
from equilix.core.massprops.bodies import MassProperties
from equilix.core.statics.hanging import hang_angles
from equilix.core.statics.sled import ELLIPTIC_K_HALF, sled_of


class Hanging(unittest.TestCase):
    def test_at_rest_the_cg_hangs_straight_below_the_hook(self) -> None:
        rng = np.random.default_rng(4)
        for _ in range(50):
            d = rng.normal(size=3)
            pitch, roll = hang_angles(d)
            assert pitch is not None
            assert roll is not None
            turned = rotation_about((0, 1, 0), pitch) @ rotation_about((1, 0, 0), roll) @ d
            np.testing.assert_allclose(turned[:2], 0.0, atol=1e-12)
            self.assertLess(turned[2], 0.0)

    def test_closed_forms(self) -> None:
        for cg, expected in (
            ((0.05, 0.0, -0.2), (math.atan2(0.05, 0.2), 0.0)),
            ((0.0, 0.0, 0.0), (None, None)),
            ((0.1, 0.0, 0.0), (math.pi / 2, None)),
        ):
            with self.subTest(cg):
                self.assertEqual(hang_angles(np.array(cg)), expected)


class Falling(unittest.TestCase):
    BODY = MassProperties(4.0, np.array([0.03, -0.02, -0.15]), np.diag([0.02, 0.03, 0.04]))

    def test_drop_time_by_integrating_the_pendulum(self) -> None:
        """I a = W L sin: the time from level to straight down, by quadrature of the energy equation."""
        from scipy.integrate import quad

        lever = math.hypot(0.03, 0.15)
        swing = 0.03 + 4.0 * lever**2
        # w^2 = 2 W L cos(t)/I measured from straight down; t = sin^2 removes the root's pole.
        time, _ = quad(lambda s: 2 * s / math.sqrt(math.sin(s * s)) if s > 0 else 2.0, 0.0, math.sqrt(math.pi / 2))
        expected = time * math.sqrt(swing / (2 * 4.0 * STANDARD_GRAVITY * lever))
        self.assertAlmostEqual(sled_of(self.BODY, np.zeros(3)).drop_time, expected, places=9)
        for bearing in (np.array([0.0, 0.0, -0.2]), self.BODY.cg):
            self.assertIsNone(sled_of(self.BODY, bearing).drop_time)

    def test_drop_time_of_the_textbook_pendulum(self) -> None:
        """M 10 kg, I 1.2 kg m2, 7 mm: 2.45 s (compound pendulum let go from horizontal)."""
        body = MassProperties(10.0, np.array([0.0, 0.0, -0.007]), np.eye(3) * 1.2)
        self.assertAlmostEqual(sled_of(body, np.zeros(3)).drop_time, 2.45, places=2)

    def test_elliptic_integral(self) -> None:
        """K(m = 1/2): Abramowitz and Stegun, table 17.1."""
        from scipy.special import ellipk

        self.assertAlmostEqual(ELLIPTIC_K_HALF, float(ellipk(0.5)), places=10)

    def test_drop_time_against_mujoco(self) -> None:
        import mujoco

        xml = """<mujoco><option gravity="0 0 -9.80665" timestep="0.0002" integrator="RK4"/><worldbody>
          <body pos="0 0 1" euler="0 90 0"><joint type="hinge" axis="0 1 0"/>
          <inertial pos="0 0 -0.05" mass="5" diaginertia="0.1 0.1 0.1"/></body></worldbody></mujoco>"""
        model = mujoco.MjModel.from_xml_string(xml)
        data = mujoco.MjData(model)
        while data.qpos[0] > -math.pi / 2 and data.time < 10.0:
            mujoco.mj_step(model, data)
            if abs(data.qpos[0]) > math.pi / 2:
                break
        body = MassProperties(5.0, np.array([0.0, 0.0, -0.05]), np.eye(3) * 0.1)
        self.assertAlmostEqual(data.time, sled_of(body, np.zeros(3)).drop_time, delta=0.002)
