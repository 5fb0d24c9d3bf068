"""Rigs and helpers for tests of bodies."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.kit.parts import Category, HowKnown, MountKind
from equilix.core.kit.records import Shared
from equilix.core.kit.uncertainty import mass_uncertainty
from equilix.core.solver.dead_weight import weight_block
from equilix.core.statics.pad import Shoulder
from equilix.core.uncertainty.montecarlo import Reason, draw_rigs, odds
from equilix.core.uncertainty.output_model import CG_AHEAD, SLIDE_TO_LEVEL, TOTAL_MASS, output_model
from equilix.io.shipped import demo_book
from equilix.supports.shoulder import mechanics as shoulder
from tests.rigs.people import MAN
from tests.rigs.plain import block, grip, rested, shoulder_build
from tests.rigs.results import shoulder_result

BOOK = demo_book()


class DeadWeight(unittest.TestCase):
    def test_a_cube_of_steel_hangs_right_below_its_rod(self) -> None:
        """Steel 7850 kg/m3; 8 mm from the rod's middle to the block (common practice)."""
        part = weight_block(2.0, MountKind.LIGHT_RODS, "w")
        side = (2.0 / 7850.0) ** (1.0 / 3.0)
        self.assertEqual(part.outline.size, (side, side, side))
        self.assertAlmostEqual(part.feet[0].at[2], side / 2.0 + 0.008)
        self.assertEqual(part.feet[0].at[:2], (0.0, 0.0))


class Samples(unittest.TestCase):
    def test_each_kind_of_doubt_is_drawn_as_wide_as_it_is(self) -> None:
        """JCGM 101, 6.4: rectangular for a scale's step, normal for what is guessed, one gain for all of one scale."""
        rng = np.random.default_rng(3)
        for known, gain in ((HowKnown.WEIGHED, 0.0), (HowKnown.GUESSED, 0.0), (HowKnown.WEIGHED, 0.02)):
            part = block("m", 3.0, category=Category.BODY, known=known)
            if known is HowKnown.WEIGHED:
                part = replace(part, shared=(Shared("scale", gain, flat=True),) if gain else (Shared("none", 0.0),))
            build, kit = shoulder_build((part, 0.1))
            kit["base"] = replace(kit["base"], mass_u=0.0, shared=(Shared("none", 0.0),), cg_u=0.0)
            analysis = analyse(build, kit, MAN)
            drawn = draw_rigs(analysis, output_model(analysis), 20_000, rng)
            u = math.hypot(mass_uncertainty(part), gain)
            self.assertAlmostEqual(float(drawn.mass.std()) / u, 1.0, delta=0.02)
            self.assertAlmostEqual(float(drawn.mass.mean()), 4.0, delta=0.01)
            self.assertAlmostEqual(float(drawn.cg[:, 0].std()) / float(analysis.spread.cg[0]), 1.0, delta=0.03)

    def test_where_the_verdict_changes(self) -> None:
        """The edges of the pad's useful span, the limit of pressure (Holewijn), the ends of the slide."""
        build, kit = shoulder_build((block("camera", 3.0, category=Category.BODY), 0.1), (grip("l"), 0.3))
        analysis = analyse(rested(build, Shoulder(span_x=0.07, span_y=0.05)), kit, MAN)
        outputs = output_model(analysis)
        self.assertEqual([t.value for t in outputs.thresholds(CG_AHEAD)], [-0.035, 0.0, 0.035])
        self.assertEqual([t.value for t in outputs.thresholds(shoulder.LEFT)], [-0.025, 0.025])
        self.assertEqual([t.value for t in outputs.thresholds(shoulder.MARGIN)], [0.0])
        self.assertEqual([t.value for t in outputs.thresholds(shoulder.PRESSURE)], [14e3])
        for stop, found in zip((-0.6, 0.4), outputs.thresholds(SLIDE_TO_LEVEL), strict=True):
            self.assertAlmostEqual(found.value, stop)
        values = {g: float(outputs.values(g, outputs.now())[0]) for g in outputs.offered}
        rest_now = shoulder_result(analysis).rest
        self.assertAlmostEqual(values[shoulder.MARGIN], min(0.035 - abs(rest_now.ahead), 0.025 - abs(rest_now.left)))
        self.assertAlmostEqual(values[shoulder.PRESSURE], values[shoulder.ON_SHOULDER] / (0.07 * 0.05))

    def test_ends_scatter_as_order_statistics_say(self) -> None:
        """Kendall and Stuart: sqrt(p (1 - p)/n) over the density, here 2.671 u/sqrt(n) at 2.5 %; 2 digits of u."""
        values = np.random.default_rng(4).normal(10.0, 2.0, 10_000)
        found = odds(TOTAL_MASS, values, 10.0, 2.0, (10.0, 13.92))
        self.assertAlmostEqual(found.scatter / (2.671 * found.u / 100.0), 1.0, delta=0.002)
        self.assertAlmostEqual(found.low, 10.0 - 1.96 * 2.0, delta=0.12)
        self.assertAlmostEqual(found.high, 10.0 + 1.96 * 2.0, delta=0.12)
        self.assertAlmostEqual(found.beyond[0], 0.5, delta=0.02)
        self.assertAlmostEqual(found.beyond[1], 0.025, delta=0.005)
        self.assertIs(found.why, Reason.AGREES)
        self.assertEqual(int(found.counts.sum()), int(((values >= found.edges[0]) & (values <= found.edges[-1])).sum()))

    def test_why_first_order_misleads(self) -> None:
        rng = np.random.default_rng(5)
        normal = rng.normal(0.0, 1.0, 20_000)
        flat = rng.uniform(-math.sqrt(3.0), math.sqrt(3.0), 20_000)
        for values, first_u, why in (
            (np.maximum(normal, 0.0), 1.0, Reason.FOLDED),
            (normal, 0.4, Reason.KINK),
            (np.exp(normal * 0.4) - 1.0, 0.45, Reason.LOPSIDED),
            (flat, 1.0, Reason.FLAT),
            (normal * 1.25, 1.0, Reason.BROAD),
        ):
            self.assertIs(odds(TOTAL_MASS, values, 0.0, first_u).why, why)
