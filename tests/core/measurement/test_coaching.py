"""Coaching: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

import numpy as np

from equilix.core.measurement.belief import CoachBelief, CoachModel, Observation, Response, believe
from equilix.core.measurement.coach import Action, advise, without


class Coached(unittest.TestCase):
    def test_a_look_that_is_taken_back_is_gone_and_no_other(self) -> None:
        looks = [Observation((1.0, 0.0), (k * 0.01, 0.0), Response.FALLS) for k in range(4)]
        self.assertEqual(without(looks, 1), (looks[0], looks[2], looks[3]))

    def test_it_moves_the_scale_that_is_surely_off(self) -> None:
        """Efforts that say that one scale is off by far more than the window: that one is set, to where it is level."""
        bench = CoachModel()
        slope = bench.slopes[0]
        ways = ((1.0, 0.0), (0.0, 1.0))
        looks = [Observation(way, (0.0, 0.0), effort=float(np.array(way) @ (0.3, 0.0)), u=0.002) for way in ways * 3]
        belief = believe(bench, looks, (0.0, 0.0))
        advice = advise(bench, belief, looks, (0.0, 0.0), ways, True)
        self.assertIs(advice.do, Action.MOVE)
        self.assertEqual(advice.scale, 0)
        self.assertAlmostEqual(advice.to, -0.3 / slope, delta=0.35 * abs(0.3 / slope))
        self.assertIsInstance(belief, CoachBelief)
