"""Draws and their summary against the standard's own examples, known distributions and parts drawn one by one."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy import stats

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.kit.records import Shared
from equilix.core.uncertainty.montecarlo import TAILS, Reason, draw_rigs, numerical_tolerance, odds, sample
from equilix.core.uncertainty.output_model import CG_AHEAD, TIP_MOMENT, TOTAL_MASS, output_model
from equilix.supports.shoulder import mechanics as shoulder
from tests.rigs.plain import block, grip, shoulder_build

MAN = Operator("m", "M", 1.76, 74.0)
#: Even steps of chance: what an endless sample looks like in so many values.
EVEN = (np.arange(40_000) + 0.5) / 40_000
NORMAL = stats.norm.ppf(EVEN)


class Summary(unittest.TestCase):
    def test_tolerances_of_the_standards_own_examples(self) -> None:
        """JCGM 101:2008, 7.9.2: a mass of 100.021 47 g with u 0.000 35 g, and a temperature of 321 K with u 2 K."""
        self.assertAlmostEqual(numerical_tolerance(0.000_35, 2), 0.000_005, places=12)
        self.assertAlmostEqual(numerical_tolerance(0.000_35, 1), 0.000_05, places=12)
        self.assertAlmostEqual(numerical_tolerance(2.0, 1), 0.5, places=12)
        # 0.099 6 has two digits as 0.10, not as 0.099.
        self.assertAlmostEqual(numerical_tolerance(0.099_6, 2), 0.005, places=12)
        self.assertAlmostEqual(numerical_tolerance(0.099_4, 2), 0.000_5, places=12)
        self.assertEqual(numerical_tolerance(0.0, 2), 0.0)
        self.assertEqual(numerical_tolerance(math.nan, 2), 0.0)

    def test_mean_spread_points_and_shares_of_known_draws(self) -> None:
        rng = np.random.default_rng(2)
        for values in (
            rng.normal(3.0, 0.4, 9_001),
            rng.gamma(2.0, 0.3, 5_000),
            -rng.gamma(1.0, 0.3, 5_000),
            rng.uniform(-1.0, 1.0, 777),
        ):
            holes = np.concatenate([values, [math.nan, math.inf]])
            found = odds("any", holes, 0.1, 0.2, (0.0, 0.5, 3.0))
            self.assertAlmostEqual(found.mean, float(values.mean()), places=12)
            self.assertAlmostEqual(found.u, float(np.std(values, ddof=1)), places=12)
            # JCGM 101, 7.7.2: order statistics, no interpolation.
            low, high = np.quantile(values, TAILS, method="inverted_cdf")
            self.assertEqual((found.low, found.high), (low, high))
            self.assertEqual((found.first, found.first_u), (0.1, 0.2))
            for share, limit in zip(found.beyond, (0.0, 0.5, 3.0), strict=True):
                self.assertEqual(share, float((values > limit).mean()))
            ends = max(values.min(), found.mean - 4.0 * found.u), min(values.max(), found.mean + 4.0 * found.u)
            counts, edges = np.histogram(values, bins=48, range=ends)
            np.testing.assert_array_equal(found.counts, counts)
            np.testing.assert_allclose(found.edges, edges, rtol=1e-12)

    def test_how_far_the_points_would_move_in_another_run(self) -> None:
        rng = np.random.default_rng(7)
        lows = [odds("any", rng.normal(0.0, 2.0, 4_000), 0.0, 2.0).low for _ in range(400)]
        self.assertAlmostEqual(odds("any", rng.normal(0.0, 2.0, 4_000), 0.0, 2.0).scatter, np.std(lows), delta=0.015)

    def test_too_few_draws_say_what_first_order_says(self) -> None:
        found = odds("any", np.array([math.nan, 3.0]), 1.5, 0.2, (1.0,))
        self.assertEqual((found.mean, found.low, found.high, found.beyond), (1.5, 1.5, 1.5, (1.0,)))
        # One figure without any spread is drawn as one narrow column.
        self.assertEqual(int(found.counts.sum()), 2)
        self.assertAlmostEqual(float(found.edges[-1] - found.edges[0]), 1e-6, delta=1e-9)

    def test_first_order_is_believed_to_a_tenth(self) -> None:
        """Both ends of the 95 % interval within a tenth of u, JCGM 101 clause 8 with a shown k of 2."""
        for shift, agrees in ((0.0, True), (0.095, True), (-0.095, True), (0.105, False), (-0.105, False)):
            self.assertEqual(odds("any", NORMAL + shift, 0.0, 1.0).agrees, agrees, shift)
        for u, agrees in ((1.0, True), (1.045, True), (0.955, True), (1.058, False), (0.942, False)):
            self.assertEqual(odds("any", u * NORMAL, 0.0, 1.0).agrees, agrees, u)
        # Two digits of a small u are coarser than a tenth of it: 0.010 is told to 0.000 5.
        self.assertTrue(odds("any", 0.0101 * NORMAL, 0.0, 0.0101).agrees)

    def test_why_draws_and_first_order_part(self) -> None:
        skewed = stats.skewnorm.ppf(EVEN, 1.6)
        skewed = (skewed - skewed.mean()) / skewed.std()
        little = stats.skewnorm.ppf(EVEN, 0.7)
        little = (little - little.mean()) / little.std()
        self.assertGreater(float((skewed**3).mean()), 0.1)
        self.assertLess(float((little**3).mean()), 0.1)
        # Common practice: a skewness below a tenth is not seen in a picture of so many draws.
        barely, hardly = (stats.lognorm.ppf(EVEN, s) for s in (0.0375, 0.0305))
        barely, hardly = ((it - it.mean()) / it.std() for it in (barely, hardly))
        self.assertTrue(0.1 < float((barely**3).mean()) < 0.125, float((barely**3).mean()))
        self.assertTrue(0.08 < float((hardly**3).mean()) < 0.1, float((hardly**3).mean()))
        flat = math.sqrt(3.0) * (2.0 * EVEN - 1.0)
        tails = stats.t.ppf(EVEN, 3.0)
        for values, first, first_u, why in (
            (np.maximum(NORMAL, -1.0), 0.0, 1.2, Reason.FOLDED),
            (np.minimum(NORMAL, 1.0), 0.0, 1.2, Reason.FOLDED),
            # One in two hundred at the edge is a fold, fewer are not.
            (np.minimum(NORMAL, stats.norm.ppf(0.993)), 0.0, 1.2, Reason.FOLDED),
            (np.minimum(NORMAL, stats.norm.ppf(0.997)), 0.0, 1.2, Reason.FLAT),
            (NORMAL, 0.0, 0.49, Reason.KINK),
            (NORMAL, 0.0, 0.51, Reason.BROAD),
            (NORMAL, 0.0, 1.0 / 0.69, Reason.KINK),
            (NORMAL, 0.0, 1.0 / 0.71, Reason.FLAT),
            (skewed, 0.3, 1.0, Reason.LOPSIDED),
            (-skewed, -0.3, 1.0, Reason.LOPSIDED),
            (1.2 * little, 0.0, 1.0, Reason.BROAD),
            (1.2 * barely, 0.0, 1.0, Reason.LOPSIDED),
            (1.2 * hardly, 0.0, 1.0, Reason.BROAD),
            (np.minimum(NORMAL, stats.norm.ppf(0.9943)), 0.0, 1.2, Reason.FOLDED),
            (np.maximum(NORMAL, stats.norm.ppf(0.0057)), 0.0, 1.2, Reason.FOLDED),
            (flat, 0.0, 1.0, Reason.FLAT),
            (tails, 0.0, 1.2, Reason.BROAD),
        ):
            # In whatever unit, and wherever zero is.
            for unit, zero in ((1.0, 0.0), (0.037, 2.0), (41.0, -300.0)):
                found = odds("any", unit * values + zero, unit * first + zero, unit * first_u)
                self.assertIs(found.why, why, (first, first_u, why, unit))


def rig() -> tuple[Build, dict[str, Part]]:
    """Return a rig of parts that are known in each way there is, two of them weighed with one scale."""
    parts = (
        (block("camera", 2.4, (0.16, 0.12, 0.14), Category.BODY, HowKnown.SHEET), 0.02),
        (block("lens", 1.3, (0.18, 0.09, 0.09), Category.LENS, HowKnown.GUESSED), 0.16),
        (replace(block("pack", 0.9, (0.07, 0.1, 0.14), Category.BATTERY, HowKnown.WEIGHED), scale="s"), -0.14),
        (replace(block("brick", 0.7, (0.1, 0.06, 0.03), Category.WEIGHT, HowKnown.WEIGHED), scale="s"), -0.22),
        (replace(grip("l"), mass=0.12), 0.21),
        (replace(grip("r"), mass=0.13), 0.24),
    )
    return shoulder_build(*parts)


class DrawnRigs(unittest.TestCase):
    def setUp(self) -> None:
        self.build, self.kit = rig()
        self.analysis = analyse(self.build, self.kit, MAN)
        self.outputs = output_model(self.analysis)

    def test_draws_have_the_mean_and_covariance_of_parts_drawn_one_by_one(self) -> None:
        rows = draw_rigs(self.analysis, self.outputs, 60_000, np.random.default_rng(3)).rows
        other = self.one_by_one(self.analysis, 60_000)
        scale = other.std(axis=0)
        np.testing.assert_allclose(rows.mean(axis=0), other.mean(axis=0), atol=float(0.02 * scale.max()))
        self.assertTrue((np.abs(rows.mean(axis=0) - other.mean(axis=0)) < 0.02 * scale).all())
        apart = (np.cov(rows.T) - np.cov(other.T)) / np.outer(scale, scale)
        self.assertLess(float(np.abs(apart).max()), 0.02)

    def one_by_one(self, analysis: Analysis, count: int) -> np.ndarray:
        """Return mass, CG and what the camera's slide carries of drawn parts, each summed as it stands."""
        rng, uncertainties = np.random.default_rng(11), analysis.assembly.uncertainties
        n, root = len(analysis.assembly.parts), math.sqrt(3.0)
        mass = np.repeat(analysis.assembly.mass[None], count, axis=0)
        for i in range(n):
            noise = rng.uniform(-root, root, count) if uncertainties.mass_flat[i] else rng.standard_normal(count)
            mass[:, i] += uncertainties.mass[i] * noise
        for gain, flat in zip(uncertainties.gain, uncertainties.gain_flat, strict=True):
            mass += np.outer(rng.uniform(-root, root, count) if flat else rng.standard_normal(count), gain)
        at = np.empty((count, n, 3))
        for i in range(n):
            off = rng.standard_normal((count, 3)) * uncertainties.cg[i]
            at[:, i] = analysis.positions.cg[i] + off @ analysis.assembly.rotation[i].T
        total = mass.sum(axis=1)
        cg = np.einsum("cn,cnk->ck", mass, at) / total[:, None]
        carried = mass[:, analysis.assembly.carried_by(self.outputs.slide)].sum(axis=1)
        return np.column_stack([total, cg, carried])

    def test_what_a_scales_step_leaves_is_even_and_what_one_scale_adds_goes_together(self) -> None:
        """JCGM 101, 6.4.2: a rectangular distribution ends at the square root of three of its standard deviation."""
        parts, known = list(self.build.parts), dict(self.kit)
        for i, placed in enumerate(parts):
            sure = replace(known[placed.part_id], mass_u=0.0, cg_u=0.0, shared=())
            known[placed.part_id] = sure
            parts[i] = placed
        flat = dict(known)
        flat["pack"] = replace(known["pack"], mass_u=None)
        analysis = analyse(self.build, flat, MAN)
        uncertainties = analysis.assembly.uncertainties
        i = [placed.id for placed in self.build.parts].index("pack")
        self.assertTrue(uncertainties.mass_flat[i])
        drawn = draw_rigs(analysis, output_model(analysis), 20_000, np.random.default_rng(5)).mass
        off = drawn - analysis.body.mass
        if len(uncertainties.gain):
            # The scale's own accuracy is even too: both add up to a trapezium.
            ends = math.sqrt(3.0) * (uncertainties.mass[i] + float(uncertainties.gain[:, i].sum()))
            self.assertLessEqual(float(np.abs(off).max()), ends)
            self.assertGreater(float(np.abs(off).max()), 0.93 * ends)
            own = math.hypot(uncertainties.mass[i], *uncertainties.gain[:, i])
            self.assertAlmostEqual(float(off.std()), own, delta=0.02 * own)
        both = dict(known)
        for name in ("pack", "brick"):
            both[name] = replace(known[name], shared=(Shared("scale s", 0.01, flat=True),))
        analysis = analyse(self.build, both, MAN)
        off = draw_rigs(analysis, output_model(analysis), 20_000, np.random.default_rng(6)).mass - analysis.body.mass
        self.assertAlmostEqual(float(off.std()), 0.02, delta=0.0004)
        self.assertLessEqual(float(np.abs(off).max()), 0.02 * math.sqrt(3.0) + 1e-12)
        self.assertLess(stats.kstest(off, stats.uniform(-0.02 * math.sqrt(3), 0.04 * math.sqrt(3)).cdf).statistic, 0.02)
        for name in ("pack", "brick"):
            both[name] = replace(known[name], shared=(Shared("scale s", 0.01, flat=False),))
        analysis = analyse(self.build, both, MAN)
        off = draw_rigs(analysis, output_model(analysis), 20_000, np.random.default_rng(6)).mass - analysis.body.mass
        self.assertAlmostEqual(float(off.std()), 0.02, delta=0.0004)
        self.assertLess(stats.kstest(off, stats.norm(0.0, 0.02).cdf).statistic, 0.02)

    def test_a_sample_asks_every_gauge_of_the_same_draws(self) -> None:
        told: list[float] = []

        def progress(done: float) -> bool:
            told.append(done)
            return True

        found = sample(self.analysis, self.outputs, 8_000, 4, progress)
        self.assertEqual(set(found), set(self.outputs.offered))
        self.assertEqual(told, sorted(told))
        self.assertAlmostEqual(told[-1], 1.0)
        self.assertTrue(all(0.0 < done <= 1.0 for done in told))
        ahead, tip, mass = (found[output] for output in (CG_AHEAD, TIP_MOMENT, TOTAL_MASS))
        self.assertAlmostEqual(mass.mean, self.analysis.body.mass, delta=4.0 * mass.u / math.sqrt(8_000))
        self.assertAlmostEqual(tip.mean, 9.80665 * mass.mean * ahead.mean, delta=0.02)
        stops = [t.value for t in self.outputs.thresholds(shoulder.LEFT)]
        self.assertEqual(len(found[shoulder.LEFT].beyond), len(stops))
        self.assertIsNone(sample(self.analysis, self.outputs, 8_000, 4, lambda done: done < 0.5))
        again = sample(self.analysis, self.outputs, 8_000, 4)
        self.assertEqual((again[CG_AHEAD].low, again[CG_AHEAD].high), (ahead.low, ahead.high))


if __name__ == "__main__":
    unittest.main()
