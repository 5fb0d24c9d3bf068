"""Nonlinear: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.optimize import lsq_linear

from equilix.core.analyse import analyse
from equilix.core.solver.nonlinear import bounded_step
from equilix.core.solver.strategies import StrategyKind, find_strategies
from tests.rigs.sleds import SOMEBODY, random_sled


class Steps(unittest.TestCase):
    def test_a_bounded_step_is_the_least_squares_of_the_library(self) -> None:
        """scipy.optimize.lsq_linear on the same slopes, values and ends of travel."""
        rng = np.random.default_rng(5)
        bound = 0
        for seed in range(40):
            analysis = analyse(*random_sled(seed), SOMEBODY)
            count = len(analysis.assembly.slide_parts)
            free = sorted(rng.choice(count, size=int(rng.integers(1, count + 1)), replace=False).tolist())
            rows = len(free) + int(rng.integers(0, 3))
            slopes, values = rng.normal(size=(rows, count)), rng.normal(size=rows) * float(rng.choice([0.02, 0.3]))
            low, high = analysis.assembly.slide_ends[:, free] - analysis.settings[free]
            exact = lsq_linear(slopes[:, free], -values, (low - 1e-12, high + 1e-12), tol=1e-14).x
            found = bounded_step(analysis, free, slopes, values) or {}
            step = np.array([found.get(j, float(analysis.settings[j])) - analysis.settings[j] for j in free])
            best = float(np.linalg.norm(slopes[:, free] @ exact + values))
            ours = float(np.linalg.norm(slopes[:, free] @ step + values))
            self.assertTrue((low - 1e-9 <= step).all() and (step <= high + 1e-9).all())
            # One step that stays inside is no worse than standing still, and the library's where no end is in the way.
            self.assertLessEqual(ours, float(np.linalg.norm(values)) + 1e-12)
            if ((exact > low + 1e-6) & (exact < high - 1e-6)).all():
                np.testing.assert_allclose(step, exact, atol=1e-7)
            else:
                bound += 1
                self.assertGreaterEqual(ours, best - 1e-9)
            # What stands between its ends can do no more (Karush, Kuhn and Tucker).
            inside = (step > low + 1e-9) & (step < high - 1e-9)
            steeper = slopes[:, free][:, inside].T @ (slopes[:, free] @ step + values)
            np.testing.assert_allclose(steeper, 0.0, atol=1e-9)
        self.assertTrue(5 < bound < 38, bound)

    def test_a_plan_counts_each_slide_that_it_moves_once(self) -> None:
        for seed in (0, 4):
            build, kit = random_sled(seed)
            for way in find_strategies(analyse(build, kit, SOMEBODY), kit, SOMEBODY):
                if way.kind is not StrategyKind.SLIDES:
                    continue
                before = {placed.id: placed.setting for placed in build.parts}
                moved = {p.id for p in way.plan.build.parts if abs(p.setting - before[p.id]) > 1e-6}
                self.assertEqual(way.plan.changes, len(moved))
                self.assertEqual(set(way.plan.moved), moved)
