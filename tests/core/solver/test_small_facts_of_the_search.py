"""What searches, benches and sums of many parts stand on, each against brute force, a closed form or plain sums."""

from __future__ import annotations

import math
import re
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator, Placed, Take
from equilix.core.assembly.clash import SLACK
from equilix.core.assembly.mounts import mount_of
from equilix.core.carry.carried import Carry, carry, rest_for
from equilix.core.errors import MeasurementError
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Mount, MountKind, Outline, Shape
from equilix.core.kit.records import Instrument, Measurement, Member, Quantity, Sensed
from equilix.core.measurement.bench import Layout, Procedure, Setup, Subject, suggested_layout
from equilix.core.measurement.methods import Measured, adjust_ends, tilted_height
from equilix.core.measurement.reconcile import belief_of, reconcile
from equilix.core.registry import support_for
from equilix.core.solver.choices import Choice, Option, Variable
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.lighten import LighterKind, best_steadier, split_takes, ways_to_lighten
from equilix.core.solver.plan import Form, Goal, Limits, Target
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import lens_followers, steadying_variable
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.solver.trade import trade_off
from equilix.core.support import report_of
from equilix.io.shipped import demo_book
from tests.campaigns import campaign
from tests.core.builders import base, block, shoulder_build, worn

BOOK = demo_book()
MAN = Operator("m", "M", 1.78, 79.0)


#: On a tripod nobody carries the rig.
CARRYING = tuple(key for key in KEYS if support_for(key).carried)


class Inertia(unittest.TestCase):
    def test_a_round_part_on_a_build_is_a_cylinder_along_its_lens_axis(self) -> None:
        """Meriam and Kraige, appendix B: m r2/2 along, m/12 (3 r2 + L2) across; the box beside it stays a box."""
        barrel = replace(
            block("lens", 1.2, category=Category.LENS), outline=Outline((0.2, 0.08, 0.08), shape=Shape.CYLINDER)
        )
        build, kit = shoulder_build((barrel, 0.1), (block("cube", 0.9, (0.1, 0.06, 0.04)), -0.1))
        inertia = analyse(build, kit, MAN).assembly.inertia
        along, across = 1.2 * 0.04**2 / 2.0, 1.2 / 12.0 * (3.0 * 0.04**2 + 0.2**2)
        np.testing.assert_allclose(np.diag(inertia[1]), [along, across, across], rtol=1e-12)
        sides = [0.06**2 + 0.04**2, 0.1**2 + 0.04**2, 0.1**2 + 0.06**2]
        np.testing.assert_allclose(np.diag(inertia[2]), [0.9 / 12.0 * s for s in sides], rtol=1e-12)


class Choosing(unittest.TestCase):
    def rig(self) -> tuple[Build, dict]:
        spots = tuple(Mount(f"m{k}", MountKind.QUARTER_20, (-0.2 - 0.1 * k, -0.5 * (k + 1), 0.0)) for k in range(2))
        kit = {"base": replace(base(1.0), mounts=(*base().mounts, *spots)), "front": block("front", 3.0)}
        kit["w"] = block("w", 1.0, (0.04, 0.04, 0.04), Category.WEIGHT, kind=MountKind.QUARTER_20)
        return Build("b", "b", (Placed("base", "base"), Placed("front", "front", "base", "rail", 0, 0.2))), kit

    def test_one_part_is_never_in_two_places(self) -> None:
        """3 kg at 200 mm want 0.6 kg m behind: one weight gives 0.3 at most, two of the same would be a lie."""
        build, kit = self.rig()
        choices = tuple(Choice((Option(Placed(f"w{k}", "w", "base", f"m{k}"), dead=True),)) for k in range(2))
        target = Target(np.zeros(3), "base", (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.0)
        plan = find_plan(build, kit, target, Variable(frozenset(), choices), (Goal.MOMENT,))
        self.assertEqual([option.placed.mount for option in plan.taken], ["m1"])
        self.assertAlmostEqual(plan.remaining(target), 3.0 * 0.2 - 1.0 * 0.3)

    def test_two_on_one_rail_go_as_near_as_they_can_and_no_nearer(self) -> None:
        """Both slide: to pull back most the front one goes up to the other, which goes to the rail's end."""
        kit = {"base": base(1.0), "a": block("a", 2.0, (0.10, 0.1, 0.1)), "b": block("b", 1.0, (0.06, 0.1, 0.1))}
        rail = replace(kit["base"].mount("rail"), low=-0.3, high=0.3)
        kit["base"] = replace(kit["base"], mounts=(kit["base"].mounts[0], rail))
        build = Build(
            "b",
            "b",
            (Placed("base", "base"), Placed("a", "a", "base", "rail", 0, 0.2), Placed("b", "b", "base", "rail")),
        )
        far = Target(np.array([-5.0, 0.0, 0.0]), None, (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.0)
        plan = find_plan(build, kit, far, Variable(frozenset({"a", "b"})), (Goal.MOMENT,))
        at = {placed.id: placed.setting for placed in plan.build.parts}
        self.assertAlmostEqual(at["b"], -0.3)
        self.assertAlmostEqual(at["a"] - at["b"], 0.05 + 0.03 - SLACK, delta=2e-5)

    def test_two_that_may_both_go_on_stand_clear_of_each_other_along_one_axis(self) -> None:
        """Both weights are needed, and would overlap as they stand: the cart under one of them makes room, no more.

        A camera of 2 kg 150 mm ahead; 0.8 kg on a fixed mount 200 mm behind, 0.8 kg on a cart there. Left to itself
        the second would end 25 mm from the first; boxes of 50 mm stand clear from 46 mm on.
        """
        camera = block("camera", 2.0, (0.1, 0.1, 0.1), Category.BODY, at=(0.0, 0.0, -0.1))
        seat = Mount("seat", MountKind.QUARTER_20, (0.0, 0.0, 0.05))
        cart = block("cart", 0.001, (0.01, 0.01, 0.01), Category.OTHER, mounts=(seat,))
        build, kit = shoulder_build((camera, 0.15), (cart, -0.2))
        fixed = Mount("fixed", MountKind.QUARTER_20, (-0.2, 0.0, 0.05))
        lane = replace(kit["base"].mount("rail"), id="lane", low=-0.26, high=-0.14)
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, fixed, lane), mass=0.001)
        build = build.with_placed(replace(build.placed("cart"), mount="lane"))
        for name in ("one", "two"):
            kit[name] = block(name, 0.8, (0.05, 0.05, 0.05), Category.WEIGHT, kind=MountKind.QUARTER_20)
        choices = tuple(
            Choice((Option(Placed(name, name, parent, mount)),))
            for name, parent, mount in (("one", "base", "fixed"), ("two", "cart", "seat"))
        )
        target = Target(np.zeros(3), "base", (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.03)
        contact = analyse(build, kit, MAN).equilibrium.point
        target = replace(target, point=contact)
        for apart in ((), (("one", "two"),)):
            plan = find_plan(build, kit, target, Variable(frozenset({"cart"}), choices), limits=Limits(apart=apart))
            self.assertTrue(plan.found)
            self.assertEqual({option.placed.id for option in plan.taken}, {"one", "two"})
            after = analyse(plan.build, {**kit, **plan.kit}, MAN)
            ids = [placed.id for placed in plan.build.parts]
            one, two = (after.positions.centre[ids.index(name)] for name in ("one", "two"))
            gap = abs(float(two[0] - one[0]))
            self.assertGreaterEqual(gap, 0.05 - 0.004 - 1e-6)
            self.assertLessEqual(gap, 0.05)
            self.assertLessEqual(abs(float(after.equilibrium.tip_moment)) / 9.80665, 0.03 + 1e-6)

    def test_no_more_is_added_than_is_allowed(self) -> None:
        build, kit = self.rig()
        kit["v"] = replace(kit["w"], id="v", mass=0.5)
        choices = (
            Choice((Option(Placed("w0", "w", "base", "m0"), dead=True),)),
            Choice((Option(Placed("v1", "v", "base", "m1"), dead=True),)),
        )
        target = Target(np.zeros(3), "base", (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.0)
        for most, added in ((2.0, 1.5), (1.2, 1.0), (0.7, 0.5), (0.3, 0.0)):
            plan = find_plan(build, kit, target, Variable(frozenset(), choices), (Goal.MOMENT,), Limits(added=most))
            self.assertAlmostEqual(plan.added_mass, added)

    def test_a_way_says_what_tires_only_if_more_is_asked_of_the_worst_joint(self) -> None:
        for build in worn(BOOK):
            before = carry(analyse(build, BOOK.parts, MAN), MAN, "shoulder")
            assert isinstance(before, Carry)
            for way in find_strategies(analyse(build, BOOK.parts, MAN), BOOK.parts, MAN):
                after = carry(way.after, MAN, "shoulder")
                assert isinstance(after, Carry)
                more = after.worst.share > before.worst.share + 0.01
                self.assertEqual(way.tires is not None, more, way.kind)
                self.assertEqual(way.lasts, (before.to_the_end, after.to_the_end))
                if way.tires is not None:
                    self.assertEqual((way.tires.before, way.tires.after), (before.worst.share, after.worst.share))

    def test_more_dead_weight_than_needed_is_never_offered(self) -> None:
        """Lever law: at the far end of the rail behind, mass times arm is the moment, to the tolerance."""
        build, kit = shoulder_build((block("camera", 4.0, category=Category.BODY), 0.12))
        kit["base"] = replace(kit["base"], mounts=(kit["base"].mounts[0], replace(kit["base"].mounts[1], low=-0.3)))
        build = replace(build, parts=(build.parts[0], replace(build.parts[1], setting=0.12)))
        fixed = analyse(build, kit, MAN)
        found = {w.kind: w for w in find_strategies(fixed, kit, MAN, 0.1)}
        way = found.get(StrategyKind.DEAD_WEIGHT)
        if way is not None:
            self.assertGreaterEqual(way.plan.dead_mass * 0.3 * 9.80665, 4.0 * 0.12 * 9.80665 - 0.1 - 1e-6)


class FallingShort(unittest.TestCase):
    def rig(self, travel: float) -> tuple[Build, dict]:
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
        ways = {w.kind: w for w in find_strategies(analyse(build, kit, MAN), kit, MAN, 0.1)}
        way = ways[StrategyKind.SLIDES]
        self.assertFalse(way.full)
        travel = next(r for r in way.relaxations if r.travel > 0.0)
        lighter = next(r for r in way.relaxations if r.lighter > 0.0)
        slide = kit["base"].mount("cam")
        longer = replace(slide, low=slide.low - travel.travel)
        roomy = {**kit, "base": replace(kit["base"], mounts=(kit["base"].mounts[0], longer, kit["base"].mounts[2]))}
        again = {w.kind: w for w in find_strategies(analyse(build, roomy, MAN), roomy, MAN, 0.1)}
        self.assertTrue(again[StrategyKind.SLIDES].full)
        self.assertAlmostEqual(abs(again[StrategyKind.SLIDES].remaining), 0.1, places=6)
        self.assertEqual(lighter.placed_id, "lens")
        less = {**kit, "lens": replace(kit["lens"], mass=1.5 - lighter.lighter)}
        after = analyse(way.plan.build, less, MAN)
        self.assertAlmostEqual(abs(after.equilibrium.tip_moment), 0.1, places=6)

    def test_the_curve_of_dead_weight_begins_where_sliding_ends(self) -> None:
        build, kit = self.rig(0.06)
        curve = trade_off(analyse(build, kit, MAN), kit, slides=True)
        # 3 kg slid 60 mm back to -10 mm, 1.5 kg at 250 mm.
        self.assertAlmostEqual(curve[0].remaining, (1.5 * 0.25 - 3.0 * 0.01) * STANDARD_GRAVITY, places=6)

    def test_each_point_of_the_curve_takes_no_more_than_its_share(self) -> None:
        build, kit = self.rig(0.06)
        curve = trade_off(analyse(build, kit, MAN), kit, slides=False, points=6)
        most = curve[-1].added
        for k, point in enumerate(curve):
            self.assertLessEqual(point.added, most * k / 5 + 1e-6)
        # A block at the end of a rail: each kilogram takes off the same moment.
        slopes = np.diff([p.remaining for p in curve]) / np.diff([p.added for p in curve])
        np.testing.assert_allclose(slopes[:-1], slopes[0], rtol=0.02)

    def test_at_the_one_place_what_is_set_to_the_lens_has_gone_the_camera_s_way(self) -> None:
        for build in worn(BOOK):
            analysis = analyse(build, BOOK.parts, MAN)
            table = lens_table(analysis, BOOK.parts, MAN)
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
            analysis = analyse(build, BOOK.parts, MAN)
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
        analysis = analyse(build, kit, MAN)
        found = report_of(analysis, MAN).figures["roll_moment_nm"]
        variance = (0.05 * 0.04) ** 2 + (3.0 * 0.003) ** 2 + (1.0 * 0.002) ** 2
        self.assertAlmostEqual(found.uncertainty, STANDARD_GRAVITY * math.sqrt(variance), places=6)
        self.assertAlmostEqual(found.value, -3.0 * 0.04 * STANDARD_GRAVITY, places=9)


@campaign
class Lightening(unittest.TestCase):
    def test_the_steadiest_is_the_steadiest_in_tilt_of_all_that_could_go_on(self) -> None:
        analysis = analyse(BOOK.builds[2], BOOK.parts, MAN)
        chosen = best_steadier(analysis, BOOK.parts, MAN, "handheld")
        clashes, seen = len(analysis.findings), []
        for option in steadying_variable(analysis, BOOK.parts).options:
            if option.current:
                continue
            kept = tuple(p for p in analysis.build.parts if p.id != option.placed.id)
            after = analyse(replace(analysis.build, parts=(*kept, option.placed)), BOOK.parts, MAN)
            then = carry(after, MAN, "handheld")
            if isinstance(then, Carry) and len(after.findings) <= clashes and not then.out_of_reach:
                seen.append(then.steady[1])
        self.assertGreater(len(seen), 1)
        self.assertAlmostEqual(chosen.carried.steady[1], max(seen))

    def test_split_takes_rest_for_whole_minutes_that_are_enough(self) -> None:
        seen = 0
        for build in worn(BOOK):
            for support in CARRYING:
                now = carry(analyse(build, BOOK.parts, MAN), MAN, support)
                assert isinstance(now, Carry)
                takes = (Take(3.2 * now.safe, 30.0),)
                split = split_takes(now, takes)
                if split is None:
                    continue
                seen += 1
                self.assertEqual(len(split), 4)
                self.assertTrue(all(take.length <= now.safe for take in split))
                rest = 60.0 * max(math.ceil(rest_for(now, split[0].length) / 60.0), 1)
                self.assertEqual({take.rest for take in split[:-1]}, {rest})
                self.assertEqual(split[-1].rest, max(30.0, rest))
                self.assertIsNone(split_takes(now, (Take(4.2 * now.safe, 30.0),)))
        self.assertGreater(seen, 1)

    def test_takes_are_split_only_where_that_helps(self) -> None:
        for build in worn(BOOK):
            analysis = analyse(build, BOOK.parts, MAN)
            for support in CARRYING:
                now = carry(analysis, MAN, support)
                assert isinstance(now, Carry)
                ways = ways_to_lighten(analysis, BOOK.parts, MAN, support, build.takes)
                offered = [way for way in ways if way.kind is LighterKind.SPLIT]
                split = split_takes(now, build.takes)
                self.assertEqual([way.takes for way in offered], [] if split is None else [split])


class Bench(unittest.TestCase):
    def test_what_is_expected_stays_between_the_supports(self) -> None:
        """Lever law: the front reads from 2 to 98 % of the whole, wherever the CG is believed to be."""
        for x, share in ((-5.0, 0.02), (5.0, 0.98)):
            subject = Subject("p", 2.0, 0.1, (x, 0.0, 0.0), (0.02,) * 3, (0.2, 0.1, 0.1), (0.0, 0.0, 0.0))
            layout = suggested_layout(Setup.FORE_AFT, subject)
            procedure = Procedure(Setup.FORE_AFT, subject, Instrument("s", "S"), layout)
            front = next(step for step in procedure.steps if step.key == "front")
            self.assertAlmostEqual(front.expected, share * 2.0)

    def test_three_readings_are_evened_out_by_least_squares(self) -> None:
        """Two unknowns, three readings of one scale: numpy's least squares."""
        found = adjust_ends(2.0, 0.9, 1.13, 0.01)
        sums = np.array([[1.0, 1.0], [1.0, 0.0], [0.0, 1.0]])
        best = np.linalg.lstsq(sums, np.array([2.0, 0.9, 1.13]), rcond=None)[0]
        self.assertAlmostEqual(found.front, float(best[0]))
        self.assertAlmostEqual(found.back, float(best[1]))
        # What the three miss by has the uncertainty of three readings: sqrt(3) u.
        self.assertAlmostEqual(found.closure, 0.03)
        self.assertAlmostEqual(found.closure_u, math.sqrt(3.0) * 0.01)
        self.assertTrue(found.closes)
        self.assertFalse(adjust_ends(2.0, 0.9, 1.136, 0.01).closes)
        with self.assertRaisesRegex(MeasurementError, "more than the whole"):
            adjust_ends(2.0, 2.041, None, 0.01)
        adjust_ends(2.0, 2.039, None, 0.01)

    def test_what_is_known_only_by_these_weighings_decides_nothing(self) -> None:
        """Without any value a wild guess: 1 kg, give or take as much; with one, that and its uncertainty."""
        part = BOOK.kit[0]
        nothing = belief_of(replace(part, mass=None, mass_u=None, records=()), Quantity.MASS, frozenset())
        self.assertEqual((nothing.value, nothing.u), (1.0, 1.0))
        held = belief_of(replace(part, mass=3.0, mass_u=0.02, records=()), Quantity.MASS, frozenset())
        self.assertEqual((held.value, held.u), (3.0, 0.02))

    def test_a_step_beyond_the_supports_is_refused_and_one_within_the_doubt_is_not(self) -> None:
        with self.assertRaisesRegex(MeasurementError, "shows zero"):
            adjust_ends(0.0, 0.1, None, 0.01)

    def test_plumb_lines_that_miss_say_by_how_much(self) -> None:
        subject = Subject("rig", 6.0, 0.1, (0.3, 0, 0.1), (0.02,) * 3, (0.7, 0.15, 0.2), (0.35, 0, 0.1))
        layout = Layout(hooks=((0.0, 0.0), (0.4, 0.0), (0.2, 0.0)))
        procedure = Procedure(Setup.HANG, subject, Instrument("s", "Scale"), layout)
        for key, value in (("hang1", 0.3), ("hang2", -0.3), ("hang3", 0.5)):
            procedure = procedure.with_reading(key, value)
        with self.assertRaises(MeasurementError) as caught:
            procedure.outcomes()
        millimetres = float(re.search(r"by (\d+) mm", str(caught.exception)).group(1))
        self.assertTrue(10.0 < millimetres < 400.0, millimetres)

    def test_height_by_tilting(self) -> None:
        """z = (x_t - x_0)/tan t, its uncertainty by numerical derivatives: JCGM 100:2008, clause 5."""
        level, tilted, tilt, tilt_u = Measured(0.200, 0.001), Measured(0.228, 0.0015), math.radians(15.0), 0.004
        found = tilted_height(level, tilted, tilt, tilt_u)

        def z(x0: float, xt: float, t: float) -> float:
            return (xt - x0) / math.tan(t)

        self.assertAlmostEqual(found.value, z(0.2, 0.228, tilt))
        step = 1e-6
        slopes = (
            (z(0.2 + step, 0.228, tilt) - z(0.2, 0.228, tilt)) / step * 0.001,
            (z(0.2, 0.228 + step, tilt) - z(0.2, 0.228, tilt)) / step * 0.0015,
            (z(0.2, 0.228, tilt + step) - z(0.2, 0.228, tilt)) / step * 0.004,
        )
        self.assertAlmostEqual(found.u, math.hypot(*slopes), delta=2e-3 * found.u)

    def test_what_single_weighings_say_is_their_weighted_mean(self) -> None:
        """Weights 1/u2: JCGM 100:2008, and any text on least squares."""
        part = replace(block("p", 1.0), mass_u=0.2)
        kit = {"p": part, "q": replace(block("q", 1.0), mass_u=0.2)}
        scales = {"s": Instrument("s", "S")}
        weighings = [
            Measurement("a", Sensed.MASS, (Member("p"),), 1.10, 0.01, instrument="s"),
            Measurement("b", Sensed.MASS, (Member("p"),), 1.16, 0.02, instrument="s"),
            Measurement("c", Sensed.MASS, (Member("p"), Member("q")), 2.2, 0.01, instrument="s"),
        ]
        found = reconcile(kit, weighings, scales)
        row = next(f for f in found.figures if f.belief.part_id == "p" and f.belief.quantity is Quantity.MASS)
        weights = np.array([1.0 / 0.01**2, 1.0 / 0.02**2])
        self.assertAlmostEqual(row.measured[0], float(weights @ [1.10, 1.16] / weights.sum()))
        self.assertAlmostEqual(row.measured[1], 1.0 / math.sqrt(weights.sum()))
        other = next(f for f in found.figures if f.belief.part_id == "q" and f.belief.quantity is Quantity.MASS)
        self.assertIsNone(other.measured)


if __name__ == "__main__":
    unittest.main()
