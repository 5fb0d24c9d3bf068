"""Point supports against closed forms and MuJoCo's dynamics."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.frames import STANDARD_GRAVITY, rotation_about
from equilix.core.massprops.bodies import MassProperties
from equilix.core.statics.points import (
    gimbal_torques,
    hang,
    hang_angles,
    shoulder_moments,
)
from equilix.core.statics.sled import ELLIPTIC_K_HALF, sled_figures

BODY = MassProperties(6.0, np.array([0.03, -0.02, -0.25]), np.diag([0.04, 0.09, 0.08]))


class Points(unittest.TestCase):
    def test_shoulder_signs(self) -> None:
        """M = d x (0, 0, -W): forward tips positive, CG to the left gives a negative roll."""
        moments = shoulder_moments(BODY, np.array([0.0, -0.05, 0.0]))
        expected = np.cross([0.03, 0.03, -0.25], [0.0, 0.0, -6.0 * STANDARD_GRAVITY])
        self.assertAlmostEqual(moments.pitch_moment, expected[1])
        self.assertAlmostEqual(moments.roll_moment, expected[0])

    def test_at_rest_the_cg_hangs_straight_below_the_hook(self) -> None:
        rng = np.random.default_rng(4)
        for _ in range(50):
            d = rng.normal(size=3)
            pitch, roll = hang_angles(d)
            turned = rotation_about((0, 1, 0), pitch) @ rotation_about((1, 0, 0), roll) @ d
            np.testing.assert_allclose(turned[:2], 0.0, atol=1e-12)
            self.assertLess(turned[2], 0.0)

    def test_hanging_in_one_plane_is_the_usual_arctangent(self) -> None:
        pitch, roll = hang_angles(np.array([0.05, 0.0, -0.2]))
        self.assertAlmostEqual(pitch, math.atan2(0.05, 0.2))
        self.assertEqual(roll, 0.0)

    def test_angles_that_do_not_exist(self) -> None:
        self.assertEqual(hang_angles(np.zeros(3)), (None, None))
        self.assertEqual(hang_angles(np.array([0.1, 0.0, 0.0])), (math.pi / 2, None))
        self.assertFalse(hang(BODY, np.array([0.0, 0.0, -0.5])).stable)
        self.assertTrue(hang(BODY, np.zeros(3)).stable)

    def test_gimbal_torque_by_turning_the_rig(self) -> None:
        for tilt in (-0.6, 0.0, 0.4, 1.2):
            for pivot in (np.zeros(3), np.array([0.02, -0.01, 0.03])):
                found = gimbal_torques(BODY, pivot, tilt)
                turned = rotation_about((0, 1, 0), tilt) @ (BODY.cg - pivot)
                torque = np.cross(turned, [0.0, 0.0, -BODY.mass * STANDARD_GRAVITY])
                self.assertAlmostEqual(found.tilt_torque, torque[1], places=12)

    def test_drop_time_of_the_textbook_pendulum(self) -> None:
        """M 10 kg, I 1.2 kg m2, 7 mm: 2.45 s (compound pendulum let go from horizontal)."""
        body = MassProperties(10.0, np.array([0.0, 0.0, -0.007]), np.eye(3) * 1.2)
        self.assertAlmostEqual(sled_figures(body, np.zeros(3)).drop_time, 2.45, places=2)

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
        self.assertAlmostEqual(data.time, sled_figures(body, np.zeros(3)).drop_time, delta=0.002)

    def test_a_top_heavy_sled_has_no_drop_time(self) -> None:
        self.assertIsNone(sled_figures(BODY, np.array([0.0, 0.0, -0.3])).drop_time)
        # It makes no difference from where places are counted.
        away, bearing = np.array([0.11, -0.07, 0.4]), np.array([0.002, 0.001, 0.01])
        here = sled_figures(BODY, bearing)
        there = sled_figures(replace(BODY, cg=BODY.cg + away), bearing + away)
        for name in ("pitch", "roll", "drop_time"):
            self.assertAlmostEqual(getattr(here, name), getattr(there, name), places=9)
        self.assertIsNotNone(sled_figures(BODY, np.zeros(3)).drop_time)
