"""Reconcile: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy import optimize, stats

from equilix.core.kit.parts import HowKnown
from equilix.core.kit.records import Member, Quantity, Record, Sensed, Stamp
from equilix.core.measurement.reconcile import Agreement, belief_of, reconcile, shared_factors
from tests.rigs.benches import SCALE, weighing
from tests.rigs.plain import block


class Reconciling(unittest.TestCase):
    def setUp(self) -> None:
        self.a = replace(block("a", 2.0, known=HowKnown.SHEET), cg=(0.10, 0.0, 0.0), mass_u=0.10, cg_u=0.02)
        self.b = replace(block("b", 1.0, known=HowKnown.SHEET), cg=(-0.05, 0.0, 0.0), mass_u=0.05, cg_u=0.01)
        self.kit = {"a": self.a, "b": self.b}

    def test_masses_scale_and_place_by_general_least_squares(self) -> None:
        """The same observations minimised by SciPy: two masses, a CG each, the scale's gain."""
        both = (Member("a"), Member("b"))
        placed = (Member("a", 0.30, (1.0, 0.0, 0.0)), Member("b", -0.10, (0.6, 0.8, 0.0)))
        used = [
            weighing("m1", 2.12, 0.01, Member("a")),
            weighing("m2", 3.20, 0.01, *both),
            weighing("m3", 0.245, 0.002, *placed, sensed=Sensed.CG),
        ]
        found = reconcile(self.kit, used, {"s": SCALE})
        gain_u = SCALE.gain_uncertainty

        def residuals(x: np.ndarray) -> np.ndarray:
            a, b, ax, bx, by, gain = x
            place = (a * (0.30 + ax) + b * (-0.10 + 0.6 * bx + 0.8 * by)) / (a + b)
            return np.array(
                [
                    (a - 2.0) / 0.10, (b - 1.0) / 0.05, (ax - 0.10) / 0.02, (bx + 0.05) / 0.01, by / 0.01,
                    gain / gain_u,
                    ((1 + gain) * a - 2.12) / 0.01, ((1 + gain) * (a + b) - 3.20) / 0.01, (place - 0.245) / 0.002,
                ]
            )  # fmt: skip

        best = optimize.least_squares(residuals, [2, 1, 0.1, -0.05, 0, 0], xtol=1e-14, ftol=1e-14, gtol=1e-14)
        values = {(f.belief.part_id, f.belief.quantity): f for f in found.figures}
        masses, places = [("a", Quantity.MASS), ("b", Quantity.MASS)], [("a", Quantity.CG_X), ("b", Quantity.CG_X)]
        keys = [*masses, *places, ("b", Quantity.CG_Y)]
        covariance = np.linalg.inv(best.jac.T @ best.jac)
        for k, key in enumerate(keys):
            self.assertAlmostEqual(values[key].value, best.x[k], places=7)
            self.assertAlmostEqual(values[key].u, math.sqrt(covariance[k, k]), places=6)
        gain, u = found.gains["s"]
        self.assertAlmostEqual(gain, best.x[5], places=7)
        self.assertAlmostEqual(u, math.sqrt(covariance[5, 5]), places=6)
        self.assertAlmostEqual(found.chi_square, float(best.fun @ best.fun), places=6)
        self.assertAlmostEqual(found.chance, float(stats.chi2.sf(found.chi_square, 3)), places=9)
        # Baarda: a residual over its own standard deviation, the error that alone explains it, the least one found.
        hat = np.eye(9) - best.jac @ covariance @ best.jac.T
        for fit, row in zip(found.fits, (6, 7, 8), strict=True):
            u = fit.measurement.u
            self.assertAlmostEqual(fit.normalised, -best.fun[row] / math.sqrt(hat[row, row]), places=4)
            self.assertAlmostEqual(fit.error, -best.fun[row] / hat[row, row] * u, places=5)
            self.assertAlmostEqual(fit.hidden, 4.13 * u / math.sqrt(hat[row, row]), places=6)
        first = values["a", Quantity.MASS]
        self.assertAlmostEqual(first.normalised, best.fun[0] / math.sqrt(hat[0, 0]), places=4)

    def test_several_readings_of_one_figure_alone_are_weighed_by_their_doubt(self) -> None:
        along = Member("a", 0.20, (-1.0, 0.0, 0.0))
        used = [
            weighing("m1", 2.10, 0.01, Member("a")),
            weighing("m2", 2.04, 0.02, Member("a")),
            weighing("m3", 0.09, 0.003, along, sensed=Sensed.CG),
            weighing("m4", 0.10, 0.003, Member("a", 0.0, (0.8, 0.6, 0.0)), sensed=Sensed.CG),
        ]
        found = {f.belief.quantity: f.measured for f in reconcile(self.kit, used, {}).figures}
        mean, u = found[Quantity.MASS]
        self.assertAlmostEqual(mean, (2.10 / 0.01**2 + 2.04 / 0.02**2) / (1 / 0.01**2 + 1 / 0.02**2))
        self.assertAlmostEqual(u, 1 / math.sqrt(1 / 0.01**2 + 1 / 0.02**2))
        # A slanting axis says nothing of one figure alone.
        self.assertAlmostEqual(found[Quantity.CG_X][0], (0.09 - 0.20) / -1.0)
        self.assertIsNone(found[Quantity.CG_Y])

    def test_verdicts(self) -> None:
        same = reconcile(self.kit, [weighing("m", 2.02, 0.01, Member("a"))], {})
        self.assertIs(same.agreement, Agreement.AGREES)
        far = reconcile(self.kit, [weighing("m", 2.45, 0.01, Member("a"))], {})
        self.assertIn(far.agreement, (Agreement.DISAGREES, Agreement.CANNOT_TELL_WHICH))
        # The one belief and the one reading explain it alike: the belief is named first.
        self.assertEqual(far.suspects, (0, 1))
        self.assertIs(far.agreement, Agreement.DISAGREES)
        self.assertIs(reconcile(self.kit, [], {}).agreement, Agreement.NOTHING)
        self.assertEqual(reconcile(self.kit, [], {}).chance, 1.0)
        two = reconcile(self.kit, [weighing("m", 3.60, 0.01, Member("a"), Member("b"))], {})
        self.assertIs(two.agreement, Agreement.CANNOT_TELL_WHICH)

    def test_what_is_believed_before_any_measurement(self) -> None:
        """Common practice: of what only these weighings know, anything up to ten times as much, 200 mm off."""
        mine = Stamp(source=("m1",))
        old = Record(Quantity.MASS, 1.7, 0.2, HowKnown.GUESSED, Stamp())
        new = Record(Quantity.MASS, 2.0, 0.01, HowKnown.WEIGHED, mine)
        known = replace(self.a, records=(old, new))
        self.assertEqual(belief_of(known, Quantity.MASS, frozenset({"m1"})).value, 1.7)
        self.assertEqual(belief_of(known, Quantity.MASS, frozenset({"m2"})).value, 2.0)
        alone = belief_of(replace(self.a, records=(new,)), Quantity.MASS, frozenset({"m1"}))
        self.assertEqual((alone.value, alone.u), (2.0, 20.0))
        light = belief_of(replace(self.a, mass=0.02, records=(new,)), Quantity.MASS, frozenset({"m1"}))
        self.assertEqual(light.u, 1.0)
        nothing = belief_of(replace(self.a, mass=None), Quantity.MASS, frozenset())
        self.assertEqual((nothing.value, nothing.u), (1.0, 1.0))
        place = Record(Quantity.CG_X, 0.1, 0.001, HowKnown.WEIGHED, mine)
        self.assertEqual(belief_of(replace(self.a, records=(place,)), Quantity.CG_X, frozenset({"m1"})).u, 0.2)
        self.assertEqual(belief_of(replace(self.a, mass_u=0.0), Quantity.MASS, frozenset()).u, 1e-6)

    def test_what_masses_share_and_what_each_has_alone(self) -> None:
        covariance = np.array([[4e-4, 3e-4, 0.0], [3e-4, 9e-4, 0.0], [0.0, 0.0, 1e-4]])
        own, factors = shared_factors(covariance)
        np.testing.assert_allclose(np.diag(own) + factors.T @ factors, covariance, atol=1e-15)
        np.testing.assert_allclose(own, [0.0, 0.0, 1e-4])
        # Half a milligram in common is nothing.
        own, factors = shared_factors(np.diag([1e-4, 1e-4]) + 2.5e-13 * (1 - np.eye(2)))
        self.assertEqual(factors.shape, (0, 2))
