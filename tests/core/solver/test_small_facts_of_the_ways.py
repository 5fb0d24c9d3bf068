"""Facts of ways and lens marks: what would do, what sways a mark, curves and marks, each by trying it."""

from __future__ import annotations

import math
import unittest
from itertools import combinations, pairwise

import numpy as np
from msgspec.structs import replace
from scipy import optimize

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator, Placed
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind, Part
from equilix.core.slides import slide_of_camera
from equilix.core.solver.lenses import fewest_marks, lens_table, worst_pair
from equilix.core.solver.relaxations import relaxations
from equilix.core.solver.search_space import balance_slides, battery_variable, move_variable
from equilix.core.solver.sensitivity import influences
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.solver.targets import TOLERANCE, is_level, robust_target, target_of
from equilix.core.solver.trade import trade_off
from equilix.core.statics.pad import Shoulder
from equilix.io.shipped import demo_book
from tests.core.builders import base, block, rested, shoulder_build
from tests.core.supports.test_gimbal_references import random_gimbal

MAN = Operator("m", "M", 1.78, 79.0)


def camera_rig(travel: float = 0.1, *others: tuple[Part, float]) -> tuple[Build, dict[str, Part]]:
    """Return a camera on a slide of `travel` (m) each way, a lens before it, and others on the rail."""
    front = Mount("mount", MountKind.LENS_MOUNT, (0.07, 0.0, 0.0))
    camera = block("camera", 3.0, (0.14, 0.1, 0.12), Category.BODY, mounts=(front,), at=(0.0, 0.0, -0.06))
    lens = block("lens", 1.2, (0.16, 0.09, 0.09), Category.LENS, kind=MountKind.LENS_MOUNT, at=(-0.08, 0.0, 0.0))
    build, kit = shoulder_build((camera, 0.08), *others)
    plate = kit["base"]
    rail, far = plate.mount("rail"), replace(plate.mount("rail"), id="far", at=(0.0, 0.0, 0.0))
    mounts = (plate.mounts[0], replace(rail, low=-travel, high=travel), plate.mounts[2], far)
    kit["base"] = replace(plate, mounts=mounts)
    kit["lens"] = lens
    parts = tuple(replace(p, mount="far") if p.mount == "rail" and p.id != "camera" else p for p in build.parts)
    parts = tuple(replace(p, setting=min(p.setting, travel)) if p.id == "camera" else p for p in parts)
    return replace(build, parts=(*parts, Placed("lens", "lens", "camera", "mount"))), kit


def moment(analysis: Analysis) -> float:
    """Return the tip moment (N m) by summing every part."""
    lever = (analysis.positions.cg - analysis.equilibrium.point) @ analysis.equilibrium.forward
    return STANDARD_GRAVITY * float(analysis.assembly.mass @ lever)


def with_rail(kit: dict[str, Part], low: float, high: float) -> dict[str, Part]:
    """Return the kit with the camera's slide from `low` to `high` (m)."""
    plate = kit["base"]
    mounts = tuple(replace(m, low=low, high=high) if m.id == "rail" else m for m in plate.mounts)
    return {**kit, "base": replace(plate, mounts=mounts)}


def camera_at(build: Build, setting: float) -> Build:
    return build.with_placed(replace(build.placed("camera"), setting=setting))


class Targets(unittest.TestCase):
    def test_each_form_counts_in_its_own_tolerance(self) -> None:
        """Just at its tolerance each form of a target weighs the same."""
        build, kit = camera_rig()
        for tolerance in (0.05, 0.1, 1.0):
            target = target_of(analyse(rested(build, Shoulder(span_y=0.08)), kit, MAN), tolerance)
            tip, aside = target.forms
            self.assertAlmostEqual(target.tolerance * STANDARD_GRAVITY, tolerance)
            self.assertAlmostEqual(aside.weight * aside.tolerance, TOLERANCE / STANDARD_GRAVITY)
            self.assertEqual(tip.weight, 1.0)
        # However doubtful, a quarter of the half patch is left to aim at.
        guessed = {**kit, "camera": replace(kit["camera"], cg_u=0.2)}
        found = analyse(build, guessed, MAN)
        self.assertAlmostEqual(target_of(found).forms[1].tolerance, 0.25 * 0.030 * found.body.mass)

    def test_level_is_every_form_within_its_tolerance(self) -> None:
        build, kit = camera_rig()
        found = analyse(build, kit, MAN)
        for share, level in ((1.001, True), (0.999, False)):
            self.assertIs(is_level(found, target_of(found, share * abs(found.equilibrium.tip_moment))), level)
        beside = {**kit, "camera": replace(kit["camera"], cg=(0.0, 0.06, 0.0))}
        aside = analyse(build, beside, MAN)
        self.assertFalse(is_level(aside, target_of(aside, 2.0 * abs(aside.equilibrium.tip_moment))))

    def test_the_likeliest_way_to_be_off_by_two_standard_uncertainties(self) -> None:
        """Hasofer and Lind: of all offsets two standard deviations out, the one that moves the moment most."""
        build, kit = camera_rig(0.1, (block("power", 0.9, known=HowKnown.GUESSED), -0.25))
        kit["lens"] = replace(kit["lens"], mass_known=HowKnown.GUESSED)
        found = analyse(build, kit, MAN)
        uncertainties, arm = found.assembly.uncertainties, (found.positions.cg - found.equilibrium.point)[:, 0]
        u_mass = np.sqrt(uncertainties.mass**2 + (uncertainties.gain**2).sum(axis=0))
        u_place = found.assembly.mass * uncertainties.cg[:, 0]
        n = len(arm)

        def moved(z: np.ndarray) -> float:
            return -float((z[:n] * u_mass) @ arm + z[n:] @ u_place)

        ball = {"type": "eq", "fun": lambda z: float(z @ z) - 4.0}
        exact = {"ftol": 1e-14, "maxiter": 500}
        best = optimize.minimize(moved, np.full(2 * n, 0.3), constraints=[ball], options=exact).x
        robust = robust_target(found, target_of(found))
        ahead, behind = robust.forms[2:]
        heavier = dict(ahead.heavier)
        for k, placed in enumerate(found.build.parts):
            self.assertAlmostEqual(heavier.get(placed.id, 0.0), best[k] * u_mass[k], delta=2e-5)
        self.assertEqual(dict(behind.heavier), {i: -kg for i, kg in ahead.heavier})
        by_places = float(best[n:] @ u_place) / found.body.mass
        self.assertAlmostEqual(ahead.within, 0.030 - by_places, delta=2e-6)
        self.assertTrue(ahead.strict and behind.strict)


class WhatWouldDo(unittest.TestCase):
    def short(self, travel: float = 0.02) -> Analysis:
        """Return a rig whose camera stands at its stop and still tips forward."""
        build, kit = camera_rig(travel)
        found = analyse(camera_at(build, -travel), kit, MAN)
        self.assertGreater(moment(found), 0.9)
        return found

    def test_more_travel_levels_it_just_so(self) -> None:
        after = self.short()
        ways = {(r.placed_id, r.travel > 0.0): r for r in relaxations(after, moment(after) / STANDARD_GRAVITY)}
        travel = ways["camera", True].travel
        farther = camera_at(after.build, after.build.placed("camera").setting - travel)
        self.assertAlmostEqual(
            moment(analyse(farther, with_rail(dict(after.assembly.kit), -0.5, 0.5), MAN)), 0.0, places=9
        )

    def test_less_mass_where_the_arm_is_longest(self) -> None:
        after = self.short()
        lacking = 0.3 * 1.2 * float((after.positions.cg[-1] - after.equilibrium.point)[0])
        lens = next(r for r in relaxations(after, lacking) if r.lighter > 0.0)
        self.assertEqual(lens.placed_id, "lens")
        self.assertAlmostEqual(lens.lighter, 0.3 * 1.2)
        lighter = {**after.assembly.kit, "lens": replace(after.assembly.kit["lens"], mass=1.2 - lens.lighter)}
        saved = moment(after) - moment(analyse(after.build, lighter, MAN))
        self.assertAlmostEqual(saved, lacking * STANDARD_GRAVITY)
        # No part gets lighter than nothing, and nobody finds more than 300 mm of travel.
        self.assertFalse([r for r in relaxations(after, 1.01 * lacking / 0.3) if r.lighter > 0.0])
        slope = 4.2
        self.assertTrue([r for r in relaxations(after, 0.299 * slope) if r.travel > 0.0])
        self.assertFalse([r for r in relaxations(after, 0.301 * slope) if r.travel > 0.0])

    def test_a_slide_that_has_room_left_needs_no_more(self) -> None:
        build, kit = camera_rig(0.1)
        after = analyse(build, kit, MAN)
        self.assertFalse([r for r in relaxations(after, 0.1) if r.travel > 0.0])
        # At the other stop more travel that way would only tip it more.
        forward = analyse(camera_at(build, 0.1), kit, MAN)
        self.assertFalse([r for r in relaxations(forward, 0.1) if r.travel > 0.0])

    def test_a_rig_that_tips_back_asks_for_the_other_end(self) -> None:
        build, kit = camera_rig(0.02, (block("power", 6.0), -0.3))
        after = analyse(camera_at(build, 0.02), kit, MAN)
        self.assertLess(moment(after), 0.0)
        travel = next(r for r in relaxations(after, 0.42) if r.travel > 0.0)
        self.assertEqual((travel.placed_id, round(travel.travel, 9)), ("camera", 0.1))


class Sways(unittest.TestCase):
    def test_by_how_far_a_mark_moves_if_a_part_is_as_heavy_as_it_may_be(self) -> None:
        """Solved anew with the mass two standard uncertainties off; first order, so to a few per cent."""
        for at in (-0.2, 0.3):
            build, kit = camera_rig(0.5, (block("guess", 0.8, known=HowKnown.GUESSED), at))
            found = analyse(build, kit, MAN)
            influence = {s.part: s for s in influences(found)}
            for k, part in enumerate(found.assembly.parts):
                u = math.hypot(found.assembly.uncertainties.mass[k], *found.assembly.uncertainties.gain[:, k])
                marks = []
                for sign in (-1.0, 1.0):
                    other = analyse(build, {**kit, part.id: replace(part, mass=part.mass + 2.0 * sign * u)}, MAN)
                    on_it = [k for k, p in enumerate(other.assembly.parts) if p.id in ("camera", "lens")]
                    marks.append(0.08 - moment(other) / STANDARD_GRAVITY / float(other.assembly.mass[on_it].sum()))
                by_hand = abs(marks[1] - marks[0]) / 2.0
                if by_hand < 0.00095:
                    self.assertNotIn(k, influence)
                elif by_hand > 0.00105:
                    self.assertAlmostEqual(influence[k].shift / by_hand, 1.0, delta=0.05)
            shifts = [s.shift for s in influences(found)]
            self.assertEqual(shifts, sorted(shifts, reverse=True))

    def test_whether_the_slide_may_then_fall_short(self) -> None:
        build, kit = camera_rig(0.5, (block("guess", 0.8, known=HowKnown.GUESSED), 0.3))
        found = analyse(build, kit, MAN)
        mark = 0.08 - moment(found) / STANDARD_GRAVITY / 4.2
        shift = influences(found)[0].shift
        for beyond, flips in ((1.2, False), (0.8, True), (-0.8, True), (-1.2, False)):
            low = mark - beyond * shift
            again = influences(analyse(camera_at(build, max(0.08, low)), with_rail(kit, low, 0.5), MAN))[0]
            self.assertEqual(again.flips, flips, beyond)


class Freedoms(unittest.TestCase):
    def test_slides_that_are_for_balance(self) -> None:
        """Common practice: what is set to hands, eye or lens is not moved for balance, nor an empty rod."""
        others = (
            (block("power", 0.9, category=Category.BATTERY), -0.2),
            (block("rods", 0.2, category=Category.RODS), 0.2),
            (block("motor", 0.3, category=Category.FOCUS), 0.25),
            (block("screen", 0.3, category=Category.MONITOR), 0.1),
            (block("pad", 0.3, category=Category.PAD), 0.0),
        )
        build, kit = camera_rig(0.1, *others)
        self.assertEqual(balance_slides(analyse(build, kit, MAN)), {"camera", "power", "pad"})
        self.assertEqual(balance_slides(analyse(build, with_rail(kit, 0.08, 0.08), MAN)), {"power", "pad"})
        # In the hands a pad that lies on nothing moves nothing but itself.
        self.assertEqual(balance_slides(analyse(replace(build, support="handheld"), kit, MAN)), {"camera", "power"})

    def test_batteries_of_the_kit_for_the_one_that_is_on(self) -> None:
        rods, screw = MountKind.LIGHT_RODS, MountKind.QUARTER_20
        build, kit = camera_rig(0.1, (block("power", 0.9, category=Category.BATTERY), -0.2))
        for name, mass, kind in (("big", 1.4, rods), ("odd", 1.4, screw), ("blank", None, rods)):
            kit[name] = block(name, mass, category=Category.BATTERY, kind=kind)
        choices = battery_variable(analyse(build, kit, MAN), kit).choices
        self.assertEqual(len(choices), 1)
        self.assertEqual([o.placed.part_id for o in choices[0].options], ["power", "big"])
        self.assertTrue(choices[0].needed)

    def test_an_empty_plate_takes_any_battery_that_fits_and_a_free_rod_a_plate(self) -> None:
        lock = Mount("lock", MountKind.V_LOCK, (-0.02, 0.0, 0.0))
        plate = block("plate", 0.3, category=Category.BATTERY_PLATE, mounts=(lock,))
        power = block("power", 0.8, category=Category.BATTERY, kind=MountKind.V_LOCK)
        build, kit = camera_rig(0.1, (plate, -0.2))
        odd = replace(power, id="odd", feet=block("x", 1.0).feet)
        kit |= {"power": power, "odd": odd, "lamp": replace(power, id="lamp", category=Category.OTHER)}
        options = battery_variable(analyse(build, kit, MAN), kit).choices[0].options
        self.assertEqual([(o.placed.part_id, o.placed.parent) for o in options], [("power", "plate")])
        bare = replace(build, parts=tuple(p for p in build.parts if p.id != "plate"))
        kit["rods"] = block("rods", 0.1, category=Category.RODS, mounts=(replace(base().mount("rail"), id="along"),))
        bare = replace(bare, parts=(*bare.parts, Placed("rods", "rods", "base", "far")))
        filled = battery_variable(analyse(bare, kit, MAN), kit).choices[0].options
        self.assertIn(("rods", "along"), {(o.placed.parent, o.placed.mount) for o in filled})
        for option in filled:
            self.assertEqual(option.placed.part_id, "plate")
            self.assertEqual([p.part_id for p in option.carried], ["power"])
            self.assertEqual(option.carried[0].parent, option.placed.id)
        # A battery that is on is no reason to fill anything.
        kit["on"] = block("on", 0.8, category=Category.BATTERY)
        both = replace(bare, parts=(*bare.parts, Placed("on", "on", "rods", "along")))
        for choice in battery_variable(analyse(both, kit, MAN), kit).choices:
            self.assertNotIn("plate", [o.placed.part_id for o in choice.options])
        # One that nothing can be swapped for leaves the empty plate to be filled.
        kit["second"] = replace(power, id="second")
        stuck = replace(build, parts=(*build.parts, Placed("power", "power", "plate", "lock")))
        kit["other"] = replace(plate, id="other", mounts=(replace(lock, kind=MountKind.QUARTER_20),))
        kit["screwed"] = block("screwed", 0.5, category=Category.BATTERY, kind=MountKind.QUARTER_20)
        stuck = replace(stuck, parts=(*stuck.parts, Placed("other", "other", "base", "far", 0, -0.3)))
        kit = {i: part for i, part in kit.items() if i not in ("second", "odd")}
        (choice,) = battery_variable(analyse(stuck, kit, MAN), kit).choices
        self.assertEqual([(o.placed.part_id, o.placed.parent) for o in choice.options], [("screwed", "other")])

    def test_what_may_hang_elsewhere(self) -> None:
        """Common practice: no battery on a lens or a grip; never where it is already; the heaviest few alone."""
        build, kit = camera_rig(0.1, (block("power", 0.9, category=Category.BATTERY), -0.2))
        spare = replace(base().mount("rail"), id="spare")
        kit["lens"] = replace(kit["lens"], mounts=(replace(spare, id="ring"),))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, spare))
        choices = move_variable(analyse(build, kit, MAN), kit).choices
        power = next(c for c in choices if c.options[0].placed.id == "power")
        places = {(o.placed.parent, o.placed.mount) for o in power.options if not o.current}
        self.assertTrue(power.options[0].current)
        self.assertIn(("base", "spare"), places)
        self.assertNotIn(("lens", "ring"), places)
        self.assertNotIn((power.options[0].placed.parent, power.options[0].placed.mount), places)
        many = [(block(f"b{k}", 0.3 + 0.1 * k, category=Category.BATTERY), -0.05 * k) for k in range(7)]
        build, kit = camera_rig(0.1, *many)
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, spare))
        tried = {c.options[0].placed.id for c in move_variable(analyse(build, kit, MAN), kit).choices}
        self.assertEqual(tried, {f"b{k}" for k in range(2, 7)})


class Curve(unittest.TestCase):
    def test_dead_weight_at_the_rails_end_against_what_is_left(self) -> None:
        """Lever law: each kilogramme at 0.5 m behind the pad takes g times 0.5 off, a little less for its own size."""
        build, kit = camera_rig(0.1)
        found = analyse(build, kit, MAN)
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


class Marks(unittest.TestCase):
    def table(self, **more: float) -> tuple[Analysis, object, dict[str, Part]]:
        build, kit = camera_rig(0.3)
        kit["heavy"] = replace(kit["lens"], id="heavy", name="heavy", mass=2.4)
        kit["blank"] = replace(kit["lens"], id="blank", name="blank", mass=None)
        kit["zoom"] = replace(kit["lens"], id="zoom", name="zoom", mass=1.8, cg_travel=0.03)
        found = analyse(build, kit, MAN)
        return found, lens_table(found, kit, MAN, **more), kit

    def test_at_each_mark_the_rig_is_level(self) -> None:
        """Summed part by part with that lens on; the zoom at either end, the camera alone without any."""
        found, table, _ = self.table()
        rows = sorted((r.part.id if r.part else "", r.long_end) for r in table.rows)
        self.assertEqual(rows, [("", False), ("heavy", False), ("lens", False), ("zoom", False), ("zoom", True)])
        self.assertEqual([(p.id, why) for p, why in table.misfits], [("blank", "has no mass")])
        for row in table.rows:
            mass = row.part.mass if row.part else 0.0
            ahead = 0.15 + (0.03 if row.long_end else 0.0)
            others = sum(
                m * float(r[0] - found.equilibrium.point[0])
                for p, m, r in zip(found.assembly.parts, found.assembly.mass, found.positions.cg, strict=True)
                if p.id not in ("camera", "lens")
            )
            mark = -(others + mass * ahead) / (3.0 + mass)
            self.assertAlmostEqual(row.mark, mark, places=6)
            self.assertAlmostEqual(row.slope, 3.0 + mass)
            self.assertAlmostEqual(row.remaining, 0.0, delta=1e-4)

    def test_how_far_off_its_mark_a_lens_may_stand(self) -> None:
        found, table, _ = self.table()
        lens = next(r for r in table.rows if r.part and r.part.id == "lens")
        room = 0.030 - 2.0 * found.equilibrium.ahead_uncertainty
        self.assertAlmostEqual(lens.half, found.body.mass * room / 4.2, places=9)
        given = next(r for r in self.table(tolerance=0.4)[1].rows if r.part and r.part.id == "lens")
        self.assertAlmostEqual(given.half, 0.4 / STANDARD_GRAVITY / 4.2)

    def test_one_place_for_all_makes_the_worst_least(self) -> None:
        _, table, _ = self.table()
        rows = [r for r in table.rows if r.part is not None]
        grid = np.linspace(-0.3, 0.3, 60_001)
        worst = np.max([r.slope * np.abs(grid - r.mark) for r in rows], axis=0)
        self.assertAlmostEqual(table.common, float(grid[worst.argmin()]), delta=2e-5)
        for row in rows:
            left = row.slope * abs(table.common - row.mark) * STANDARD_GRAVITY
            self.assertAlmostEqual(abs(row.at_common), left, delta=1e-4)
        self.assertEqual(table.common_along, ())

    def test_fewest_marks_by_brute_force(self) -> None:
        rng = np.random.default_rng(5)
        for _ in range(60):
            low = rng.uniform(0.0, 1.0, 6)
            spans = [(float(a), float(a + w)) for a, w in zip(low, rng.uniform(0.0, 0.3, 6), strict=True)]
            found = fewest_marks(spans)
            self.assertTrue(all(any(a - 1e-9 <= m <= b + 1e-9 for m in found) for a, b in spans))
            ends = [b for _, b in spans]
            fewer = len(found) - 1
            self.assertFalse(
                any(all(any(a <= m <= b for m in few) for a, b in spans) for few in combinations(ends, fewer))
            )
        self.assertEqual(fewest_marks(((0.0, 0.1), (0.1, 0.2))), (0.1,))

    def test_the_worst_pair_by_a_fine_grid(self) -> None:
        rng = np.random.default_rng(6)
        for _ in range(20):
            marks, slopes = rng.uniform(-0.2, 0.2, 5).tolist(), rng.uniform(1.0, 6.0, 5).tolist()
            place, value = worst_pair(marks, slopes)
            grid = np.linspace(-0.2, 0.2, 40_001)
            cost = np.max([s * np.abs(grid - q) for q, s in zip(marks, slopes, strict=True)], axis=0)
            self.assertAlmostEqual(value, float(cost.min()), delta=1e-4)
            self.assertAlmostEqual(place, float(grid[cost.argmin()]), delta=2e-5)
        self.assertEqual(worst_pair([], []), (0.0, 0.0))

    def test_each_lens_is_served_by_the_nearest_mark_that_serves_it(self) -> None:
        _, table, _ = self.table(tolerance=0.2)
        self.assertGreater(len(table.marks), 1)
        for row in table.rows:
            if row.part is None:
                continue
            off = {k: row.slope * abs(mark - row.mark) * STANDARD_GRAVITY for k, mark in enumerate(table.marks)}
            self.assertLessEqual(off[row.served_by], 0.2 + 1e-6)
            self.assertEqual(off[row.served_by], min(off.values()))
        # One mark less serves them not.
        room = 0.2 / STANDARD_GRAVITY
        groups = [(r.mark - room / r.slope, r.mark + room / r.slope) for r in table.rows if r.part]
        self.assertEqual(len(table.marks), len(fewest_marks(groups)))

    def test_the_slide_is_the_cameras(self) -> None:
        build, kit = camera_rig(0.1, (block("power", 0.9, category=Category.BATTERY), -0.2))
        found = analyse(build, kit, MAN)
        j = slide_of_camera(found)
        self.assertEqual(found.build.parts[found.assembly.slide_parts[j]].id, "camera")
        self.assertIsNone(slide_of_camera(analyse(replace(build, parts=build.parts[:1]), kit, MAN)))


class FirstWays(unittest.TestCase):
    def test_where_one_slide_does_all_others_do_not_come_first(self) -> None:
        build, kit = camera_rig(0.4)
        ways = find_strategies(analyse(build, kit, MAN), kit, MAN)
        self.assertTrue(ways[0].full)
        self.assertEqual(ways[0].plan.changes, 1)
        self.assertAlmostEqual(moment(ways[0].after), 0.0, delta=TOLERANCE + 1e-9)

    def test_dead_weight_that_does_it_alone_is_no_more_than_that_and_moves_nothing(self) -> None:
        """Lever law: the block that brings the moment to the tolerance, at the farthest place behind, no heavier."""
        build, kit = camera_rig(0.06)
        kit["camera"] = replace(kit["camera"], mass=2.0)
        analysis = analyse(camera_at(build, 0.06), kit, MAN)
        way = next(w for w in find_strategies(analysis, kit, MAN) if w.kind is StrategyKind.DEAD_WEIGHT)
        self.assertTrue(way.full)
        self.assertEqual(way.plan.moved, {})
        new = next(k for k, p in enumerate(way.plan.build.parts) if p.id not in {q.id for q in build.parts})
        added = way.after.body.mass - analysis.body.mass
        lever = float((way.after.equilibrium.point - way.after.positions.cg[new])[0])
        self.assertAlmostEqual(added * lever * STANDARD_GRAVITY, moment(analysis) - TOLERANCE, delta=1e-4)
        self.assertGreater(lever, 0.45)

    def test_dead_weight_that_falls_short_is_offered_from_half_of_it_on(self) -> None:
        """6 kg at 100 mm behind take 0.6 kg m off: that is worth hanging on against 1.1, and not against 1.3."""
        spots = {"front": 0.5, "rear": -0.1}
        mounts = tuple(Mount(name, MountKind.QUARTER_20, (x, 0.0, 0.0)) for name, x in spots.items())
        for ahead, offered in ((1.1, True), (1.3, False)):
            plate = replace(base(0.001), mounts=(base().mounts[0], *mounts))
            kit = {"base": plate, "load": block("load", ahead / 0.5, kind=MountKind.QUARTER_20)}
            build = Build("b", "b", (Placed("base", "base"), Placed("load", "load", "base", "front")))
            found = [way for way in find_strategies(analyse(build, kit, MAN), kit, MAN) if not way.full]
            self.assertEqual([way.kind for way in found], [StrategyKind.DEAD_WEIGHT] if offered else [])
            for way in found:
                self.assertAlmostEqual(way.remaining / STANDARD_GRAVITY, ahead - 0.6, places=3)

    def test_a_way_that_falls_short_is_offered_from_a_tenth_of_it_on(self) -> None:
        """1 kg that slides 100 mm back takes 0.1 kg m off: worth the hand against 0.95, and not against 1.1."""
        for ahead, offered in ((0.95, True), (1.1, False)):
            front = Mount("front", MountKind.QUARTER_20, (0.5, 0.0, 0.0))
            slide = Mount("slide", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0), Connection.SLIDE, (1.0, 0.0, 0.0), -0.1, 0.0)
            plate = replace(base(0.001), mounts=(base().mounts[0], front, slide))
            load = block("load", ahead / 0.5, kind=MountKind.QUARTER_20)
            kit = {"base": plate, "load": load, "cart": block("cart", 1.0, (0.02, 0.02, 0.02))}
            parts = (Placed("base", "base"), Placed("load", "load", "base", "front"))
            build = Build("b", "b", (*parts, Placed("cart", "cart", "base", "slide")))
            found = find_strategies(analyse(build, kit, MAN), kit, MAN)
            slid = [way for way in found if way.kind is StrategyKind.SLIDES]
            self.assertEqual(len(slid), int(offered), ahead)
            for way in slid:
                self.assertAlmostEqual(way.remaining / STANDARD_GRAVITY, ahead - 0.1, places=3)

    def test_a_way_after_which_nobody_could_hold_it_is_not_offered(self) -> None:
        """Fact of the body: of arms half as strong, 6 kg more are more than all strength."""
        weak = replace(MAN, strength=0.5)
        build, kit = demo_book().builds[1], demo_book().parts
        bare = replace(build, support="handheld", parts=tuple(p for p in build.parts if not p.id.startswith("grip")))
        for operator, offered in ((MAN, True), (weak, False)):
            found = find_strategies(analyse(bare, kit, operator), kit, operator)
            heavy = [way for way in found if way.plan.added_mass > 5.0]
            self.assertEqual(bool(heavy), offered, operator.strength)
            for way in found:
                self.assertTrue(way.tires is None or way.tires.after <= 1.0)

    def test_what_would_do_for_a_gimbal_is_on_the_stage_that_is_off(self) -> None:
        """A lens on the tilt stage may be lighter, a screen on the frame changes nothing there."""
        build, kit = random_gimbal(71, reach=0.002)
        screen = replace(block("screen", 3.0, (0.02, 0.1, 0.1), Category.MONITOR, kind=MountKind.COLD_SHOE))
        shoe = Mount("shoe", MountKind.COLD_SHOE, (0.6, 0.0, 0.0))
        kit = {**kit, "screen": screen, "frame": replace(kit["frame"], mounts=(*kit["frame"].mounts, shoe))}
        after = analyse(replace(build, parts=(*build.parts, Placed("screen", "screen", "frame", "shoe"))), kit, MAN)
        target = target_of(after)
        names = [r.placed_id for r in relaxations(after, 0.05, target) if r.lighter > 0.0]
        self.assertNotIn("screen", names)
        # Holding still what tips it, the first form alone: the same.
        names = [r.placed_id for r in relaxations(after, 0.001) if r.lighter > 0.0]
        self.assertNotIn("screen", names)


if __name__ == "__main__":
    unittest.main()
