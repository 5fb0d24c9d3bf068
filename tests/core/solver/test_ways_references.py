"""What ways claim, checked against the builds before and after; and what is not known shows in the uncertainty."""

from __future__ import annotations

import json
import math
import subprocess
import sys
import unittest
from itertools import combinations
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from unittest import mock

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, new_warnings, stays
from equilix.core.assembly.build import Build, Placed
from equilix.core.carry.carried import steadiness
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown, Mount, MountKind, Part
from equilix.core.kit.parts import Connection as PartJoint
from equilix.core.kit.uncertainty import Certainty
from equilix.core.operator.endurance import hold_time
from equilix.core.operator.strength import BodyJoint
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.lighten import best_steadier
from equilix.core.solver.plan import Goal, Plan, PlanStatus
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import slides_variable
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.solver.targets import target_of
from equilix.core.statics.pad import Shoulder
from equilix.core.support import with_values
from equilix.io.shipped import catalogue, demo_book, starters
from equilix.present.balance.panel import verdict_of
from equilix.present.balance.ways import Way, ways_of
from equilix.present.carry.light_ways import light_ways
from equilix.present.units import System
from equilix.supports.shoulder import mechanics as shoulder
from tests.rigs.plain import OPERATOR, base, block, grip, rested, shoulder_build, worn
from tests.rigs.results import carried_of, shoulder_result

BOOK = demo_book()
ROOT = Path(__file__).parents[3]


class Ways(unittest.TestCase):
    def test_added_mass_is_what_the_rig_weighs_more(self) -> None:
        """Against the whole rigs: a swapped battery adds the difference, not itself."""
        kit = {part.id: part for part in catalogue()}
        cases = [(build, BOOK.parts) for build in worn(BOOK)] + [(build, kit) for build in starters()[:1]]
        for build, parts in cases:
            before = analyse(build, parts, OPERATOR)
            for way in find_strategies(before, parts, OPERATOR):
                with self.subTest(build=build.name, way=way.kind):
                    more = way.after.body.mass - before.body.mass
                    self.assertAlmostEqual(way.plan.added_mass, more, places=6)

    def test_first_ways_make_nothing_worse_without_saying_so(self) -> None:
        """Random builds from the catalogue, followed and analysed anew; no lens mark has parts meet."""
        program = [sys.executable, str(ROOT / "benchmarks" / "first_ways.py"), "--seed", "11", "--count", "6"]
        done = subprocess.run(program, capture_output=True, text=True, timeout=300, check=True)
        found = json.loads(done.stdout)
        self.assertGreater(found["ways"], 2)
        self.assertEqual((found["worse"], found["unproven"], found["mark_clashes"]), (0, 0, 0), found["cases"])

    def test_marks_of_the_wide_body_are_free_of_clashes(self) -> None:
        """Its zoom's mark once had the body 15 mm inside the battery plate."""
        build = BOOK.builds[2]
        before = analyse(build, BOOK.parts, OPERATOR)
        table = lens_table(before, BOOK.parts, OPERATOR)
        assert table is not None
        row = next(r for r in table.rows if r.part is not None and r.part.id == "zoom-short")
        moved = build.with_placed(replace(build.placed(table.placed_id), setting=row.stop))
        for placed_id, setting in row.along:
            moved = moved.with_placed(replace(moved.placed(placed_id), setting=setting))
        met = [f.placed_ids for f in new_warnings(before, analyse(moved, BOOK.parts, OPERATOR)) if f.clash is not None]
        self.assertEqual(met, [])


def lopsided() -> tuple[Build, dict[str, Part]]:
    """Return a camera 90 mm left of its base plate, its battery on a cross slide."""
    aside = Mount("top", MountKind.LIGHT_RODS, (0.0, 0.09, 0.06))
    kit = {
        "base": base(1.5),
        "plate": block("plate", 0.2, (0.1, 0.1, 0.02), Category.PLATE, mounts=(aside,)),
        "camera": block("camera", 4.0, category=Category.BODY),
        "battery": block("battery", 1.2, (0.08, 0.1, 0.14), Category.BATTERY),
        "l": replace(grip("l"), mass=0.1),
        "r": replace(grip("r"), mass=0.1),
    }
    parts = (
        Placed("base", "base"),
        Placed("plate", "plate", "base", "rail", 0, 0.05),
        Placed("camera", "camera", "plate", "top"),
        Placed("battery", "battery", "base", "across", 0, 0.0),
        Placed("l", "l", "base", "rail", 0, 0.3),
        Placed("r", "r", "base", "rail", 0, 0.32),
    )
    return Build("b", "Lopsided", parts), kit


class Sideways(unittest.TestCase):
    def test_the_first_way_brings_the_cg_onto_the_pad_sideways_as_well(self) -> None:
        build, kit = lopsided()
        before = analyse(build, kit, OPERATOR)
        # Plain sums: 4 kg at 90 mm, and 0.2 kg each at 0, over 7.1 kg.
        self.assertAlmostEqual(before.equilibrium.left, 4.0 * 0.09 / 7.1, places=9)
        first = ways_of(find_strategies(before, kit, OPERATOR), before, System.METRIC)[0]
        rest = shoulder_result(first.preview).rest
        self.assertLess(abs(rest.left), 0.030)
        self.assertIs(stays(first.preview), Certainty.CLEAR)
        self.assertIn("bat", first.title)
        # By hand: the battery must go right by 4.0 x 0.09 / 1.2 = 300 mm for the CG to lie in the middle.
        self.assertAlmostEqual(first.strategy.plan.moved["battery"], -0.300, places=6)

    def test_with_nothing_to_move_across_no_way_is_called_full_and_says_by_how_much(self) -> None:
        build, kit = lopsided()
        fixed = replace(kit["base"].mount("across"), low=0.0, high=0.0)
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts[:2], fixed))
        before = analyse(build, kit, OPERATOR)
        for way in ways_of(find_strategies(before, kit, OPERATOR), before, System.METRIC):
            beside = abs(way.preview.equilibrium.left)
            self.assertEqual(way.strategy.full, beside < 0.030, way.title)
            if not way.strategy.full:
                self.assertTrue(
                    any(f"{1000 * beside:.0f} mm to the left, beside the pad" in line for line in way.lines)
                )

    def test_a_cg_near_the_pads_side_does_not_read_level(self) -> None:
        build, kit = shoulder_build((block("c", 4.0, (0.2, 0.4, 0.1), Category.BODY, HowKnown.GUESSED), 0.0))
        kit["c"] = replace(kit["c"], cg=(0.0, 0.027, 0.0), mass_u=0.0)
        words = verdict_of(analyse(build, kit, OPERATOR), System.METRIC)
        self.assertEqual(words.head, "May stay by itself.")
        self.assertRegex(words.body, r"Sideways the CG is \d+ ± \d+ mm to the left")


class MadeWorse(unittest.TestCase):
    def test_a_way_that_presses_harder_on_a_sore_shoulder_says_so_and_stands_behind_one_that_does_not(self) -> None:
        """The slide ends too soon: dead weight levels it, and by its own weight presses a small pad harder."""
        build, kit = shoulder_build((block("c", 6.0, (0.2, 0.1, 0.1), Category.BODY, HowKnown.WEIGHED), 0.2))
        plate = kit["base"]
        kit["base"] = replace(plate, mounts=tuple(replace(m, low=-0.3, high=0.3) for m in plate.mounts))
        kit["b"] = block("b", 1.0, (0.1, 0.1, 0.1), Category.BATTERY)
        on = Placed("b", "b", "base", "rail", 0, 0.0)
        rig = rested(replace(build, parts=(*build.parts, on)), Shoulder(span_x=0.06, span_y=0.06))
        before = analyse(rig, kit, OPERATOR)
        self.assertIn(shoulder.SORE_PAD, [f.kind for f in before.findings])
        ways = ways_of(find_strategies(before, kit, OPERATOR), before, System.METRIC)
        added = [way for way in ways if way.strategy.plan.added_mass > 1.0]
        self.assertTrue(added)
        for way in added:
            self.assertIn("the pad will get sore (worse than now)", way.said)
        self.assertEqual(ways[0].strategy.plan.added_mass, 0.0)
        self.assertNotIn("(worse than now)", ways[0].said)

    def test_two_parts_that_are_warned_of_alike_are_each_named(self) -> None:
        """Both hang below the plate, before the tripod's head: sliding the plate back brings them over it."""
        hung = [block(name, 0.3, (0.05, 0.05, 0.05), at=(0.0, y, 0.06)) for name, y in (("a", 0.03), ("b", -0.03))]
        camera = block("c", 4.0, (0.2, 0.1, 0.1), Category.BODY, at=(0.0, 0.0, -0.06))
        build, kit = shoulder_build((camera, 0.12), *((part, 0.15) for part in hung))
        before = analyse(replace(build, support="tripod"), kit, OPERATOR)
        ways = ways_of(find_strategies(before, kit, OPERATOR), before, System.METRIC)
        way = next(way for way in ways if way.kind is StrategyKind.HOLDER)
        self.assertEqual([f.kind for f in way.preview.findings], ["meets the head"] * 2)
        self.assertRegex(way.said, r"in the clamp; but [ab] hits the head and [ab] hits the head$")
        # One that causes nothing stands before it, though it moves a part.
        self.assertNotIn("but then", ways[0].said)


class Proof(unittest.TestCase):
    def setUp(self) -> None:
        self.build, self.kit = lopsided()
        self.before = analyse(self.build, self.kit, OPERATOR)
        self.target = target_of(self.before, 0.1)
        self.variable = slides_variable(self.before)

    def plan_with(self, answers: list[object]) -> Plan:
        """Return the plan when HiGHS answers in turn as told; None: as it does."""
        import scipy.optimize as optimize

        real, left = optimize.milp, list(answers)

        def milp(*args: object, **named: Any) -> object:
            told = left.pop(0) if left else None
            return real(*args, **named) if told is None else told

        with mock.patch.object(optimize, "milp", milp):
            return find_plan(self.build, self.kit, self.target, self.variable, (Goal.MOMENT, Goal.EFFORT))

    def test_a_goal_that_ran_out_of_time_is_not_proven_and_one_that_never_began_not_impossible(self) -> None:
        late = SimpleNamespace(status=1, x=None)
        self.assertIs(self.plan_with([]).status, PlanStatus.PROVEN)
        second = self.plan_with([None, late])
        self.assertTrue(second.found)
        self.assertIs(second.status, PlanStatus.GOOD)
        self.assertEqual(second.gap, math.inf)
        self.assertIs(self.plan_with([late]).status, PlanStatus.OUT_OF_TIME)
        self.assertIs(self.plan_with([SimpleNamespace(status=2, x=None)]).status, PlanStatus.IMPOSSIBLE)

    def test_fewest_changes_holds_at_every_tolerance(self) -> None:
        """Brute force over which slides may move: the fewest that reach the tolerance, from 0.01 to 20 N m."""
        rng = np.random.default_rng(5)
        for _ in range(30):
            lanes = tuple(
                Mount(f"r{k}", MountKind.LIGHT_RODS, (0, 0.4 * (k + 1), 0), PartJoint.SLIDE, (1.0, 0, 0), -0.2, 0.2)
                for k in range(3)
            )
            kit = {"base": replace(base(1.0), mounts=(base().mount("shoulder"), *lanes))}
            placed = [Placed("base", "base")]
            for k in range(3):
                kit[f"s{k}"] = block(f"s{k}", float(rng.uniform(2.0, 9.0)), (0.05, 0.05, 0.05))
                placed.append(Placed(f"s{k}", f"s{k}", "base", f"r{k}", 0, float(rng.uniform(0.0, 0.2))))
            build = Build("b", "b", tuple(placed))
            analysis = analyse(build, kit, OPERATOR)
            tolerance = float(10.0 ** rng.uniform(-2.0, math.log10(20.0)))
            whole = target_of(analysis, tolerance)
            target = replace(whole, forms=whole.forms[:1])
            plan = find_plan(build, kit, target, slides_variable(analysis))
            moment = analysis.equilibrium.tip_moment / STANDARD_GRAVITY
            slopes = [kit[f"s{k}"].mass for k in range(3)]
            starts = [p.setting for p in placed[1:]]
            fewest = None
            for count in range(4):
                for moving in combinations(range(3), count):
                    low = moment + sum(slopes[k] * (-0.2 - starts[k]) for k in moving)
                    high = moment + sum(slopes[k] * (0.2 - starts[k]) for k in moving)
                    least = 0.0 if low <= 0.0 <= high else min(abs(low), abs(high))
                    if least <= tolerance / STANDARD_GRAVITY + 1e-9 and fewest is None:
                        fewest = count
            if fewest is not None:
                self.assertEqual(plan.changes, fewest, tolerance)


class OverALimit(unittest.TestCase):
    """Common practice: what is over a maker's limit is made lighter before anybody trims it."""

    def ways(self, spare: float) -> tuple[Analysis, tuple[Way, ...]]:
        build = replace(BOOK.builds[0], support="harness")
        mass = analyse(build, BOOK.parts, OPERATOR).body.mass
        before = analyse(with_values(build, "harness", {"most": mass - spare}), BOOK.parts, OPERATOR)
        return before, ways_of(find_strategies(before, BOOK.parts, OPERATOR), before, System.METRIC)

    def test_what_does_no_job_comes_off_first_and_the_hook_follows(self) -> None:
        # Nothing rests on a shoulder, and it hangs level again on its hook: off come the pad (380 g) and the matte box
        # (480 g), for with its ± the pad alone would not be enough.
        before, ways = self.ways(0.3)
        first, mass = ways[0], before.body.mass
        self.assertRegex(first.title, r"^Leave off the shoulder pad and the matte box and 1 more$")
        self.assertAlmostEqual(first.preview.body.mass, mass - 0.86, places=6)
        self.assertIn(f"{mass - 0.86:.2f} kg then, within the maker’s {mass - 0.3:.2f} kg.", first.lines)
        self.assertTrue(first.strategy.full)
        self.assertFalse(first.stops(System.METRIC))
        self.assertEqual([way for way in ways if way.kind is StrategyKind.STEADY], [])

    def test_where_nothing_that_may_stay_off_is_enough_no_way_is_at_the_top(self) -> None:
        _, ways = self.ways(6.0)
        self.assertTrue(ways[0].stops(System.METRIC))


class Filled(unittest.TestCase):
    def test_an_empty_battery_plate_is_filled_before_dead_weight_is_bought(self) -> None:
        build = BOOK.builds[2]
        bare = replace(build, parts=tuple(p for p in build.parts if BOOK.parts[p.part_id].category != "battery"))
        before = analyse(bare, BOOK.parts, OPERATOR)
        ways = ways_of(find_strategies(before, BOOK.parts, OPERATOR), before, System.METRIC)
        way = next(way for way in ways if way.kind is StrategyKind.FILL)
        added = way.preview.body.mass - before.body.mass
        self.assertGreater(added, 0.5)
        self.assertEqual(way.cost, f"+{1000 * added:.0f} g")
        self.assertTrue(way.strategy.full)

    def test_a_camera_alone_is_as_steady_as_itself_about_any_pivot(self) -> None:
        """Parallel axes, Meriam and Kraige, appendix B: both sides shift by the same, so that the ratio is 1."""
        build, kit = shoulder_build((block("c", 2.0, (0.15, 0.1, 0.12), Category.BODY), 0.1))
        kit["base"] = replace(kit["base"], mass=0.0, outline=None)
        for way in steadiness(analyse(build, kit, OPERATOR), np.array([0.03, -0.1, -0.2])):
            self.assertAlmostEqual(way, 1.0, places=9)

    def test_steadier_in_the_hands_says_what_it_costs(self) -> None:
        build = BOOK.builds[2]
        analysis = analyse(build, BOOK.parts, OPERATOR)
        now = carried_of(analysis, OPERATOR, "handheld")
        way = best_steadier(analysis, BOOK.parts, OPERATOR, "handheld")
        self.assertGreater(way.carried.steady[1], 1.1 * now.steady[1])
        self.assertLessEqual(way.carried.to_the_end, now.to_the_end * 1.0005)
        card = light_ways((way,), now, analysis, System.METRIC)[0]
        self.assertTrue(card.title.startswith("Steadier: "))
        self.assertIn("tilt ×", card.lines[1])


class Known(unittest.TestCase):
    def test_more_than_all_strength_cannot_be_held(self) -> None:
        for joint in BodyJoint:
            self.assertEqual(hold_time(joint, 1.0).likely, 0.0)
            self.assertEqual(hold_time(joint, 2.8).high, 0.0)
            self.assertGreater(hold_time(joint, 0.99).likely, 0.0)

    def test_a_part_without_a_size_widens_the_doubt(self) -> None:
        """Clearing the body's size moves the CG by more than the old uncertainty: the new one must cover that."""
        build = BOOK.builds[0]
        kit = dict(BOOK.parts)
        before = analyse(build, kit, OPERATOR)
        kit["body"] = replace(kit["body"], outline=None)
        after = analyse(build, kit, OPERATOR)
        shift = abs(after.equilibrium.ahead - before.equilibrium.ahead)
        self.assertGreater(shift, 2.0 * before.spread.cg[0])
        self.assertLess(shift, 2.0 * after.spread.cg[0])


if __name__ == "__main__":
    unittest.main()
