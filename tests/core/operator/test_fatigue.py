"""Fatigue: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy.integrate import solve_ivp

from equilix.core.assembly.build import Brace, Hold, Take
from equilix.core.carry.carried import Carry, reserves
from equilix.core.operator.endurance import (
    POWER_LAW,
    arm_posture_limit,
    head_posture_limit,
    hold_time,
    power_law,
    rohmert,
)
from equilix.core.operator.fatigue import RATES, REST_FACTOR, Block, reserve_over, rest_needed, time_to_failure
from equilix.core.operator.strength import BodyJoint
from equilix.core.solver.lighten import (
    split_takes,
)
from tests.rigs.carrying import rig


class Takes(unittest.TestCase):
    def test_a_take_is_half_of_the_time_or_what_raised_arms_allow(self) -> None:
        """ISO 11226:2000, from memory: 3 min at 20 degrees to 1 min at 60; common practice: half of the time."""
        for ahead in (0.26, 0.40, 0.52):
            carried = rig(hold=Hold(ahead=ahead, below=0.05), mass=1.0)
            half = 0.5 * min(j.hold.low for j in carried.joints)
            raised = min(arm_posture_limit(arm.elevation) for arm in carried.arms)
            self.assertAlmostEqual(carried.safe, min(half, raised))
            self.assertEqual(carried.by_posture, raised < half)
            self.assertTrue(carried.unsupported)
        self.assertFalse(rig(support="shoulder").unsupported)
        self.assertFalse(rig(hold=Hold(brace=Brace.KNEES)).unsupported)

    def test_better_is_longer_takes_by_a_thousandth_or_as_long_and_a_later_end(self) -> None:
        one = rig(support="shoulder")
        joint = one.joints[0].joint

        def timed(low: float) -> Carry:
            """Return the same carried rig with all joints held for so long (s)."""
            hold = replace(one.joints[0].hold, low=low, likely=2.0 * low, high=3.0 * low, beyond=True)
            return replace(one, joints=tuple(replace(j, hold=hold) for j in one.joints))

        self.assertEqual(timed(100.0).joints[0].joint, joint)
        for a, b, better in (
            (100.11, 100.0, True),
            (100.0, 100.11, False),
            (100.05, 100.0, False),
            (100.0, 100.0, False),
        ):
            self.assertIs(timed(a).better_than(timed(b)), better, (a, b))

    def test_limits_at_their_edges(self) -> None:
        for degrees, seconds in ((20.0, math.inf), (20.001, 180.0), (40.0, 120.0), (60.0, 60.0), (60.001, 0.0)):
            self.assertAlmostEqual(arm_posture_limit(math.radians(degrees)), seconds, delta=0.01)
        for degrees, seconds in (
            (-0.1, 0.0),
            (25.0, math.inf),
            (28.0, 459.0),
            (55.0, 270.0),
            (85.0, 60.0),
            (85.1, 0.0),
        ):
            self.assertAlmostEqual(head_posture_limit(math.radians(degrees)), seconds, delta=0.01)
        self.assertEqual((power_law(BodyJoint.ELBOW, 0.0), rohmert(0.1499)), (math.inf, math.inf))
        self.assertEqual((rohmert(1.0), time_to_failure(BodyJoint.ELBOW, 0.0)), (0.0, math.inf))
        self.assertAlmostEqual(rohmert(0.5), 60.0 * (-1.5 + 4.2 - 2.4 + 0.8))

    def test_what_is_held_at_all_and_with_what_band(self) -> None:
        """A capacity 30 % off either way; over all strength nothing is held; below 15 % a bound."""
        for joint in BodyJoint:
            for share in (0.2, 0.5, 0.8):
                found = hold_time(joint, share)
                rules = [
                    min(power_law(joint, f), time_to_failure(joint, f)) if f < 1.0 else 0.0
                    for f in (share / 0.7, share, share / 1.3)
                ]
                np.testing.assert_allclose([found.low, found.likely, found.high], rules)
                self.assertFalse(found.beyond)
            for share in (1.0, 1.05, 1.2, 3.0):
                self.assertEqual(hold_time(joint, share).likely, 0.0)
            self.assertGreater(hold_time(joint, 0.999).likely, 0.0)
            light = hold_time(joint, 0.1499)
            self.assertTrue(light.beyond)
            self.assertEqual(light.low, min(power_law(joint, 0.1499 / 0.7), time_to_failure(joint, 0.1499 / 0.7)))
            self.assertFalse(hold_time(joint, 0.15).beyond)

    def test_power_laws(self) -> None:
        """Frey-Law and Avin (2010), table 2, from memory."""
        self.assertEqual(POWER_LAW[BodyJoint.SHOULDER], (14.86, -1.83))
        self.assertEqual(POWER_LAW[BodyJoint.ELBOW], (17.98, -2.14))
        self.assertEqual(POWER_LAW[BodyJoint.HAND], (33.55, -1.61))

    def test_a_day_of_takes_by_integrating_three_compartments(self) -> None:
        """Xia and Frey-Law (2008): M' = F C(t) - R M, at most all units that are left; by SciPy's solver."""
        joint, share = BodyJoint.SHOULDER, 0.45
        fatigue, recovery = RATES[joint]
        self.assertEqual((fatigue, recovery), (0.0182, 0.00168))
        blocks = [Block(30.0, 40.0), Block(50.0, 20.0), Block(80.0, 60.0)]
        for factor, curve in ((REST_FACTOR[joint], "left"), (1.0, "least")):
            found = reserve_over(joint, share, blocks, 5.0)
            m, times, values = 0.0, [0.0], [1.0]
            now = 0.0
            for piece in blocks:
                for length, working in ((piece.take, True), (piece.rest, False)):

                    def rate(_t: float, y: np.ndarray, on: bool = working, k: float = factor) -> list[float]:
                        if on:
                            return [fatigue * min(share, 1.0 - y[0]) - recovery * y[0]]
                        return [-k * recovery * y[0]]

                    grid = np.arange(5.0, length + 1e-9, 5.0)
                    solved = solve_ivp(rate, (0.0, length), [m], t_eval=grid, rtol=1e-9, atol=1e-11, max_step=0.2)
                    times += (now + grid).tolist()
                    values += (1.0 - solved.y[0]).tolist()
                    m, now = float(solved.y[0, -1]), now + length
            np.testing.assert_allclose(found.time, times)
            np.testing.assert_allclose(getattr(found, curve), values, atol=2e-4)

    def test_no_rest_helps_a_take_that_is_too_long_by_itself(self) -> None:
        end = time_to_failure(BodyJoint.SHOULDER, 0.5)
        self.assertEqual(rest_needed(BodyJoint.SHOULDER, 0.5, 0.9 * end), math.inf)
        self.assertEqual(rest_needed(BodyJoint.SHOULDER, 0.02, 60.0), 0.0)
        long = rest_needed(BodyJoint.SHOULDER, 0.3, 40.0)
        slow = rest_needed(BodyJoint.SHOULDER, 0.3, 40.0, factor=1.0)
        self.assertAlmostEqual(slow / long, 30.0)

    def test_takes_are_cut_into_as_few_pieces_as_do(self) -> None:
        carried = rig(mass=4.0)
        safe = carried.safe
        self.assertGreater(safe, 5.0)
        cut = split_takes(carried, (Take(1.5 * safe, 600.0),))
        if cut is not None:
            self.assertEqual(len(cut), 2)
            self.assertEqual(cut[0].length, math.ceil(0.75 * safe))
            self.assertGreaterEqual(cut[-1].rest, 600.0)
            self.assertTrue(all(run.fails is None for run in reserves(carried, cut)))
            self.assertEqual(cut[0].rest % 60.0, 0.0)
        self.assertIsNone(split_takes(carried, (Take(max(0.9 * safe, 1.0), 600.0),)))
        self.assertIsNone(split_takes(carried, (Take(4.5 * safe, 600.0),)))
