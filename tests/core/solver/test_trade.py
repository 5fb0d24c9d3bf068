"""Trade: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build
from equilix.core.assembly.mounts import mount_of
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Part
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.search_space import (
    lens_followers,
)
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.solver.trade import trade_off
from equilix.core.support import report_of
from tests.rigs.people import PERSON
from tests.rigs.plain import block, shoulder_build, worn
from tests.rigs.searches import BOOK
from tests.rigs.ways import camera_rig, moment


class FallingShort(unittest.TestCase):
    def rig(self, travel: float) -> tuple[Build, dict[str, Part]]:
        """Return a front-heavy rig whose camera slide ends `travel` (m) behind where it stands."""
        build, kit = shoulder_build(
            (block("camera", 3.0, category=Category.BODY), 0.05), (block("lens", 1.5, category=Category.LENS), 0.25)
        )
        slide = replace(kit["base"].mount("rail"), id="cam", low=0.05 - travel, high=0.3)
        fixed = replace(kit["base"].mount("rail"), low=0.25, high=0.25)
        kit["base"] = replace(kit["base"], mounts=(kit["base"].mounts[0], slide, fixed))
        parts = (build.parts[0], replace(build.parts[1], mount="cam"), build.parts[2])
        return replace(build, parts=parts), kit

    def test_what_it_says_would_do_does(self) -> None:
        """So much more travel on the slide, or so much less on the part: put in, and worked out afresh."""
        build, kit = self.rig(0.06)
        ways = {w.kind: w for w in find_strategies(analyse(build, kit, PERSON), kit, PERSON, 0.1)}
        way = ways[StrategyKind.SLIDES]
        self.assertFalse(way.full)
        travel = next(r for r in way.relaxations if r.travel > 0.0)
        lighter = next(r for r in way.relaxations if r.lighter > 0.0)
        slide = kit["base"].mount("cam")
        longer = replace(slide, low=slide.low - travel.travel)
        roomy = {**kit, "base": replace(kit["base"], mounts=(kit["base"].mounts[0], longer, kit["base"].mounts[2]))}
        again = {w.kind: w for w in find_strategies(analyse(build, roomy, PERSON), roomy, PERSON, 0.1)}
        self.assertTrue(again[StrategyKind.SLIDES].full)
        self.assertAlmostEqual(abs(again[StrategyKind.SLIDES].remaining), 0.1, places=6)
        self.assertEqual(lighter.placed_id, "lens")
        less = {**kit, "lens": replace(kit["lens"], mass=1.5 - lighter.lighter)}
        after = analyse(way.plan.build, less, PERSON)
        self.assertAlmostEqual(abs(after.equilibrium.tip_moment), 0.1, places=6)

    def test_the_curve_of_dead_weight_begins_where_sliding_ends(self) -> None:
        build, kit = self.rig(0.06)
        curve = trade_off(analyse(build, kit, PERSON), kit, slides=True)
        # 3 kg slid 60 mm back to -10 mm, 1.5 kg at 250 mm.
        self.assertAlmostEqual(curve[0].remaining, (1.5 * 0.25 - 3.0 * 0.01) * STANDARD_GRAVITY, places=6)

    def test_each_point_of_the_curve_takes_no_more_than_its_share(self) -> None:
        build, kit = self.rig(0.06)
        curve = trade_off(analyse(build, kit, PERSON), kit, slides=False, points=6)
        most = curve[-1].added
        for k, point in enumerate(curve):
            self.assertLessEqual(point.added, most * k / 5 + 1e-6)
        # A block at the end of a rail: each kilogram takes off the same moment.
        slopes = np.diff([p.remaining for p in curve]) / np.diff([p.added for p in curve])
        np.testing.assert_allclose(slopes[:-1], slopes[0], rtol=0.02)

    def test_at_the_one_place_what_is_set_to_the_lens_has_gone_the_camera_s_way(self) -> None:
        for build in worn(BOOK):
            analysis = analyse(build, BOOK.parts, PERSON)
            table = lens_table(analysis, BOOK.parts, PERSON)
            way = table.common - build.placed(table.placed_id).setting
            exact = {f.follower for f in lens_followers(analysis) if f.exact}
            for placed_id, setting in table.common_along:
                moved = setting - build.placed(placed_id).setting
                self.assertGreaterEqual(moved * way, -1e-12)
                if placed_id in exact:
                    mount = mount_of(build.placed(placed_id), build, BOOK.parts)
                    if mount.low + 1e-9 < setting < mount.high - 1e-9:
                        self.assertAlmostEqual(moved, way)

    def test_a_lens_support_stays_under_the_middle_of_its_lens(self) -> None:
        for build in worn(BOOK):
            analysis = analyse(build, BOOK.parts, PERSON)
            assembly = analysis.assembly
            index = {placed.id: i for i, placed in enumerate(build.parts)}
            lens = next(i for i, part in enumerate(assembly.parts) if part.category is Category.LENS)
            middle, half = float(analysis.positions.centre[lens, 0]), float(assembly.edges[lens, 0])
            for follower in lens_followers(analysis):
                i = index[follower.follower]
                if assembly.parts[i].category is not Category.LENS_SUPPORT:
                    self.assertTrue(follower.exact)
                    continue
                x = float(analysis.positions.centre[i, 0])
                self.assertAlmostEqual(x + follower.ahead, max(middle + 0.9 * half, x))
                self.assertAlmostEqual(x + follower.back, min(middle - 0.6 * half, x))

    def test_the_doubt_of_the_moment_sideways(self) -> None:
        """Law of propagation from the parts: u2 = g2 (sum u_m2 (y - y_pad)2 + sum m2 u_y2), no scale in common."""
        build, kit = shoulder_build((block("camera", 3.0, category=Category.BODY), 0.1), (block("b", 1.0), -0.2))
        kit["camera"] = replace(kit["camera"], cg=(0.0, 0.04, 0.0), mass_u=0.05, cg_u=0.003)
        kit["b"] = replace(kit["b"], mass_u=0.02, cg_u=0.002)
        kit["base"] = replace(kit["base"], mass_u=0.0, cg_u=0.0)
        analysis = analyse(build, kit, PERSON)
        found = report_of(analysis, PERSON).figures["roll_moment_nm"]
        variance = (0.05 * 0.04) ** 2 + (3.0 * 0.003) ** 2 + (1.0 * 0.002) ** 2
        self.assertAlmostEqual(found.uncertainty, STANDARD_GRAVITY * math.sqrt(variance), places=6)
        self.assertAlmostEqual(found.value, -3.0 * 0.04 * STANDARD_GRAVITY, places=9)


class Curve(unittest.TestCase):
    def test_dead_weight_at_the_rails_end_against_what_is_left(self) -> None:
        """Lever law: each kilogramme at 0.5 m behind the pad takes g times 0.5 off, a little less for its own size."""
        build, kit = camera_rig(0.1)
        found = analyse(build, kit, PERSON)
        points = trade_off(found, kit, slides=False, points=5)
        self.assertAlmostEqual(points[0].remaining, abs(moment(found)))
        self.assertEqual(points[0].added, 0.0)
        steps = np.diff([p.added for p in points])
        np.testing.assert_allclose(steps, steps[0], rtol=1e-5)
        self.assertLess(points[-1].remaining, 1e-6)
        for one, other in pairwise(points):
            arm = (one.remaining - other.remaining) / STANDARD_GRAVITY / (other.added - one.added)
            self.assertAlmostEqual(arm, 0.5, delta=0.03)
        slid = trade_off(found, kit, slides=True, points=3)
        # Slid back as far as it goes the camera leaves this much for weight.
        left = abs(moment(found)) - 4.2 * STANDARD_GRAVITY * (0.08 + 0.1)
        self.assertAlmostEqual(slid[0].remaining, max(left, 0.0), delta=1e-6)
