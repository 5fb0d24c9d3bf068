"""The lens table against a linear programme and brute force; clearing, growth and the order on rods."""

from __future__ import annotations

import itertools
import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy.optimize import linprog

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind, new_warnings
from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.clash import find_clashes
from equilix.core.assembly.fit import step_of
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import Category, Connection, Mount, MountKind, Part
from equilix.core.solver.clearing import Clearing, ClearingKind, clearings, into_travel
from equilix.core.solver.growth import ahead_without, reordered, rod_orders, suggestions
from equilix.core.solver.lenses import LensMark, fewest_marks, lens_table, worst_pair
from equilix.io.shipped import demo_book
from equilix.present.assembly.pieces import loose_parts
from tests.rigs.plain import OPERATOR, base, block


class OnePlaceForAll(unittest.TestCase):
    def test_two_lenses_by_hand(self) -> None:
        """s_j s_k |q_j - q_k|/(s_j + s_k) at the weighted mean (closed form)."""
        place, value = worst_pair((0.010, 0.070), (5.0, 1.0))
        self.assertAlmostEqual(place, (5.0 * 0.010 + 1.0 * 0.070) / 6.0, places=12)
        self.assertAlmostEqual(value, 5.0 * 1.0 * 0.060 / 6.0, places=12)

    def test_equal_slopes_meet_in_the_middle(self) -> None:
        place, _ = worst_pair((0.0, 0.02, 0.1), (3.0, 3.0, 3.0))
        self.assertAlmostEqual(place, 0.05, places=12)

    def test_against_a_linear_programme(self) -> None:
        """min r with s_j (q - q_j) <= r and >= -r, by HiGHS, on 60 random tables."""
        rng = np.random.default_rng(9)
        for _ in range(60):
            n = int(rng.integers(2, 9))
            marks, slopes = rng.uniform(-0.1, 0.1, n), rng.uniform(0.5, 6.0, n)
            rows = np.concatenate([np.column_stack([slopes, -np.ones(n)]), np.column_stack([-slopes, -np.ones(n)])])
            limits = np.concatenate([slopes * marks, -slopes * marks])
            answer = linprog([0.0, 1.0], A_ub=rows, b_ub=limits, bounds=[(None, None), (0.0, None)])
            place, value = worst_pair(marks.tolist(), slopes.tolist())
            self.assertAlmostEqual(value, answer.fun, places=9)
            self.assertAlmostEqual(float(np.abs(slopes * (place - marks)).max()), value, places=9)


class FewestMarks(unittest.TestCase):
    def test_against_brute_force(self) -> None:
        """No smaller set of right ends meets all intervals; right ends suffice (exchange argument)."""
        rng = np.random.default_rng(10)
        for _ in range(80):
            n = int(rng.integers(1, 8))
            low = rng.uniform(-0.1, 0.1, n)
            intervals = [(float(a), float(a + w)) for a, w in zip(low, rng.uniform(0.0, 0.06, n), strict=True)]
            found = fewest_marks(intervals)
            self.assertTrue(all(any(a - 1e-12 <= p <= b + 1e-12 for p in found) for a, b in intervals))
            ends = [b for _, b in intervals]
            best = next(
                size
                for size in range(1, n + 1)
                if any(
                    all(any(a <= p <= b for p in chosen) for a, b in intervals)
                    for chosen in itertools.combinations(ends, size)
                )
            )
            self.assertEqual(len(found), best)


def _lenses(analysis: Analysis, kit: dict[str, Part]) -> list[LensMark]:
    """Return the rows of lenses, without the one for no lens."""
    return [row for row in lens_table(analysis, kit, OPERATOR).rows if row.part is not None]


class Table(unittest.TestCase):
    def setUp(self) -> None:
        self.book = demo_book()
        self.kit = self.book.parts
        self.analysis = analyse(self.book.builds[0], self.kit, OPERATOR)

    def test_each_mark_levels_its_lens(self) -> None:
        table = lens_table(self.analysis, self.kit, OPERATOR, tolerance=0.5)
        self.assertEqual(len(table.rows), 8)
        for row in table.rows:
            if row.part is None:
                continue
            kit = dict(self.kit)
            if row.long_end:
                x, y, z = row.part.centre
                kit[row.part.id] = replace(row.part, cg=(x + row.part.cg_travel, y, z))
            build = self.book.builds[0]
            build = build.with_placed(replace(build.placed("lens"), part_id=row.part.id))
            marked = build.with_placed(replace(build.placed("plate"), setting=row.stop))
            for placed_id, setting in row.along:
                marked = marked.with_placed(replace(marked.placed(placed_id), setting=setting))
            at_mark = analyse(marked, kit, OPERATOR)
            self.assertAlmostEqual(at_mark.equilibrium.tip_moment, row.remaining, places=9)
            self.assertAlmostEqual(at_mark.equilibrium.holding.larger, row.hand, places=6)
            # A mark never has parts meet that do not meet now; where that keeps it from level, it says by how much.
            met = [f for f in new_warnings(analyse(build, kit, OPERATOR), at_mark) if f.kind is FindingKind.CLASH]
            self.assertEqual(met, [])
            if abs(row.mark - row.stop) < 5e-4:
                self.assertAlmostEqual(row.remaining, 0.0, places=5)
            moved = build.with_placed(replace(build.placed("plate"), setting=table.common))
            for placed_id, setting in table.common_along:
                moved = moved.with_placed(replace(moved.placed(placed_id), setting=setting))
            common = analyse(moved, kit, OPERATOR)
            meets = [f for f in new_warnings(analyse(build, kit, OPERATOR), common) if f.kind is FindingKind.CLASH]
            if row.part.id == self.book.builds[0].placed("lens").part_id:
                # A longer or shorter lens lets its support stay elsewhere.
                self.assertEqual(bool(meets), row.meets_common)
                self.assertAlmostEqual(common.equilibrium.tip_moment, row.at_common, places=9)
            self.assertAlmostEqual(common.equilibrium.tip_moment, row.at_common, delta=0.3)
            served = table.marks[row.served_by]
            there = analyse(build.with_placed(replace(build.placed("plate"), setting=served)), kit, OPERATOR)
            if abs(row.mark - row.stop) < 5e-4:
                self.assertLessEqual(abs(there.equilibrium.tip_moment), 0.5 + 1e-9)
            else:
                # Parts are in its way: its mark is the place that was found free of them.
                self.assertAlmostEqual(served, row.stop, places=9)

    def test_no_other_place_is_better_for_all(self) -> None:
        table = lens_table(self.analysis, self.kit, OPERATOR)
        worst = max(abs(row.slope * (table.common - row.mark)) for row in table.rows if row.part is not None)
        for q in np.linspace(table.mount.low, table.mount.high, 400):
            there = max(abs(row.slope * (q - row.mark)) for row in table.rows if row.part is not None)
            self.assertGreaterEqual(there, worst - 1e-9)

    def test_a_zoom_stands_farther_back_at_its_long_end(self) -> None:
        rows = {(r.part.id, r.long_end): r for r in lens_table(self.analysis, self.kit, OPERATOR).rows if r.part}
        wide, tele = rows["zoom", False], rows["zoom", True]
        # dq = -m dx / S for the lens's mass m and its CG's way dx (closed form).
        self.assertAlmostEqual(tele.mark - wide.mark, -1.36 * 0.018 / wide.slope, places=9)

    def test_without_the_matte_box_and_with_lenses_that_do_not_fit(self) -> None:
        plain = {r.part.id: r.mark for r in _lenses(self.analysis, self.kit) if not r.long_end}
        bare = lens_table(self.analysis, self.kit, OPERATOR, matte_box=False)
        for row in bare.rows:
            if row.part is not None and not row.long_end:
                self.assertGreater(row.mark, plain[row.part.id])
        kit = {**self.kit, "zoom-short": replace(self.kit["zoom-short"], mounts=(), mass=0.8)}
        kit["prime-25"] = replace(kit["prime-25"], mass=None)
        table = lens_table(analyse(self.book.builds[0], kit, OPERATOR), kit, OPERATOR)
        self.assertEqual({part.id for part, _ in table.misfits}, {"zoom-short", "prime-25"})

    def test_with_no_lens_the_camera_stands_farther_ahead_at_a_mark_of_its_own(self) -> None:
        """The lens's weight is gone from the front: by plain sums of the parts that stay."""
        row = next(r for r in lens_table(self.analysis, self.kit, OPERATOR).rows if r.part is None)
        build = self.book.builds[0]
        gone = build.carried_by("lens")
        bare = replace(build, parts=tuple(p for p in build.parts if p.id not in gone))
        marked = bare.with_placed(replace(bare.placed("plate"), setting=row.stop))
        for placed_id, setting in row.along:
            marked = marked.with_placed(replace(marked.placed(placed_id), setting=setting))
        at_mark = analyse(marked, self.kit, OPERATOR)
        total = sum(self.kit[p.part_id].mass or 0.0 for p in marked.parts)
        self.assertAlmostEqual(at_mark.body.mass, total)
        self.assertAlmostEqual(at_mark.equilibrium.tip_moment, row.remaining, places=9)
        for other in _lenses(self.analysis, self.kit):
            self.assertGreater(row.mark, other.mark)

    def test_no_lens_no_table(self) -> None:
        empty = analyse(Build("b", "b"), {}, OPERATOR)
        self.assertIsNone(lens_table(empty, {}, OPERATOR))


class Clearings(unittest.TestCase):
    def clear(self, build: Build, kit: dict[str, Part]) -> dict[ClearingKind, Clearing]:
        analysis = analyse(build, kit, OPERATOR)
        pair = next((f.placed_ids[0], f.placed_ids[1]) for f in analysis.findings if f.kind is FindingKind.CLASH)
        found = clearings(analysis, kit, pair)
        for way in found:
            assembly = prepare(way.build, kit)
            clashes = find_clashes(assembly, assembly.at(assembly.settings(way.build)))
            now = [{way.build.parts[c.first].id, way.build.parts[c.second].id} for c in clashes]
            self.assertNotIn(set(pair), now)
        return {way.kind: way for way in found}

    def test_sliding_takes_the_shortest_way(self) -> None:
        """Two 100 mm cubes 60 mm apart on one rail: 40 mm less the slack of 4 mm."""
        kit = {"base": base(1.0), "a": block("a", 1.0), "b": block("b", 1.0)}
        build = Build(
            "b",
            "b",
            (
                Placed("base", "base"),
                Placed("a", "a", "base", "rail", 0, 0.13),
                Placed("b", "b", "base", "rail", 0, 0.19),
            ),
        )
        way = self.clear(build, kit)[ClearingKind.SLIDE]
        self.assertEqual(len(way.moved), 1)
        self.assertAlmostEqual(way.amount, 0.036, delta=1e-4)

    def test_a_rosette_is_turned_no_farther_than_it_must(self) -> None:
        turn = Mount(
            "t", MountKind.ROSETTE, (0.0, 0.0, 0.0), Connection.TURN, (0.0, 1.0, 0.0), -1.5, 1.5, math.radians(6.0)
        )
        post = Mount("p", MountKind.QUARTER_20, (0.0, 0.0, 0.15))
        kit = {"base": replace(base(1.0), mounts=(base().mount("shoulder"), turn, post))}
        kit["stick"] = block("stick", 0.2, (0.02, 0.02, 0.2), kind=MountKind.ROSETTE, at=(0.0, 0.0, -0.1))
        kit["lamp"] = block("lamp", 0.2, (0.04, 0.04, 0.04), kind=MountKind.QUARTER_20)
        build = Build(
            "b",
            "b",
            (Placed("base", "base"), Placed("stick", "stick", "base", "t"), Placed("lamp", "lamp", "base", "p")),
        )
        # The same from where it leans already: it is the way that counts, not where it ends.
        leaning = self.clear(build.with_placed(replace(build.placed("stick"), setting=math.radians(6.0))), kit)
        turned = leaning[ClearingKind.TURN]
        ends = turned.build.placed("stick").setting
        self.assertAlmostEqual(turned.amount, abs(ends - math.radians(6.0)))
        way = self.clear(build, kit)[ClearingKind.TURN]
        self.assertAlmostEqual(way.amount - turned.amount, math.radians(6.0))
        self.assertEqual(way.moved, ("stick",))
        step = math.radians(6.0)
        setting = way.build.placed("stick").setting
        nearer = build.with_placed(replace(build.placed("stick"), setting=setting - math.copysign(step, setting)))
        assembly = prepare(nearer, kit)
        self.assertTrue(find_clashes(assembly, assembly.at(assembly.settings(nearer))))

    def test_a_quarter_turn_either_way_is_a_quarter(self) -> None:
        """A long box beside another: turned by 90 degrees it clears, and three quarters are one quarter back."""
        post = Mount("p", MountKind.QUARTER_20, (0.0, 0.0, 0.1))
        kit = {"base": replace(base(1.0), mounts=(base().mount("shoulder"), base().mount("rail"), post))}
        kit["long"] = block("long", 0.3, (0.30, 0.04, 0.04), kind=MountKind.QUARTER_20)
        kit["wall"] = block("wall", 0.3, (0.02, 0.02, 0.02), at=(0.0, 0.0, -0.1))
        parts = (
            Placed("base", "base"),
            Placed("long", "long", "base", "p"),
            Placed("wall", "wall", "base", "rail", 0, 0.12),
        )
        build = Build("b", "b", parts)
        way = self.clear(build, kit)[ClearingKind.TURN]
        self.assertAlmostEqual(way.amount, math.pi / 2)
        self.assertIn(way.build.placed("long").quarter_turns, (1, 3))

    def test_a_smaller_one_of_the_kit_or_another_mount(self) -> None:
        shoes = tuple(Mount(f"s{k}", MountKind.COLD_SHOE, (0.3 * k, 0.0, 0.1)) for k in range(2))
        kit = {"base": replace(base(1.0), mounts=(base().mount("shoulder"), base().mount("rail"), *shoes))}
        kit["big"] = block("big", 0.3, (0.12, 0.05, 0.2), Category.MONITOR, kind=MountKind.COLD_SHOE)
        kit["small"] = block("small", 0.2, (0.02, 0.05, 0.05), Category.MONITOR, kind=MountKind.COLD_SHOE)
        kit["arm"] = block("arm", 0.3, (0.05, 0.05, 0.05), at=(0.0, 0.0, -0.1))
        build = Build(
            "b",
            "b",
            (Placed("base", "base"), Placed("big", "big", "base", "s0"), Placed("arm", "arm", "base", "rail", 0, 0.08)),
        )
        found = self.clear(build, kit)
        self.assertEqual(found[ClearingKind.HANG].build.placed("big").mount, "s1")
        self.assertEqual(found[ClearingKind.SWAP].build.placed("big").part_id, "small")
        self.assertAlmostEqual(found[ClearingKind.SWAP].amount, 0.1)
        # Of several the one whose mass differs least, lighter or heavier.
        for name, mass in (("light", 0.05), ("near", 0.33), ("heavy", 0.6)):
            kit[name] = replace(kit["small"], id=name, mass=mass)
        self.assertEqual(self.clear(build, kit)[ClearingKind.SWAP].build.placed("big").part_id, "near")

    def test_slides_beyond_their_stop_go_back_to_it(self) -> None:
        kit = {"base": base(1.0), "a": block("a", 1.0)}
        build = Build("b", "b", (Placed("base", "base"), Placed("a", "a", "base", "rail", 0, 0.7)))
        way = into_travel(analyse(build, kit, OPERATOR))
        self.assertEqual((way.build.placed("a").setting, way.moved), (0.5, ("a",)))
        self.assertAlmostEqual(way.amount, 0.2)
        inside = build.with_placed(replace(build.placed("a"), setting=0.2))
        self.assertIsNone(into_travel(analyse(inside, kit, OPERATOR)))


class Growth(unittest.TestCase):
    def setUp(self) -> None:
        self.book = demo_book()

    def test_the_battery_pulls_every_later_step_back(self) -> None:
        """Common practice: the battery early balances everything that follows; here by plain sums."""
        build = self.book.builds[0]
        analysis = analyse(build, self.book.parts, OPERATOR)
        battery = frozenset({step_of(Category.BATTERY)})
        kept = [
            p
            for p, part in zip(build.parts, analysis.assembly.parts, strict=True)
            if step_of(part.category) not in battery and step_of(part.category) <= 3
        ]
        index = [build.parts.index(p) for p in kept]
        mass = analysis.assembly.mass[index]
        by_hand = float(mass @ analysis.positions.cg[index, 0] / mass.sum() - analysis.equilibrium.point[0])
        self.assertAlmostEqual(ahead_without(analysis, battery, 3), by_hand, places=12)

    def test_what_is_suggested_fits_and_does_what_it_says(self) -> None:
        build = self.book.builds[0]
        gone = {"matte", "clamp", "grip-l", "grip-r", "support"}
        build = replace(build, parts=tuple(p for p in build.parts if p.id not in gone))
        analysis = analyse(build, self.book.parts, OPERATOR)
        ready = [one.placed[0] for one in loose_parts(self.book, build).pieces]
        found = suggestions(analysis, self.book.parts, OPERATOR, ready, 4)
        self.assertEqual(len(found), 4)
        # Three at a glance.
        self.assertEqual(suggestions(analysis, self.book.parts, OPERATOR, ready), found[:3])
        for one in found:
            placed = one.placed
            after = analyse(replace(build, parts=(*build.parts, placed)), self.book.parts, OPERATOR)
            self.assertAlmostEqual(after.equilibrium.ahead, one.after, places=12)
            self.assertFalse([f for f in after.findings if f.kind is FindingKind.CLASH and placed.id in f.placed_ids])

    def test_rods_too_short_for_an_order_are_said_so(self) -> None:
        short = replace(base().mount("rail"), low=-0.05, high=0.05)
        kit = {"base": replace(base(1.0), category=Category.RODS, mounts=(base().mount("shoulder"), short))}
        kit["m"] = block("m", 0.3, (0.1, 0.1, 0.1), Category.FOCUS)
        kit["c"] = block("c", 0.3, (0.1, 0.1, 0.1), Category.SENDER)
        build = Build(
            "b",
            "b",
            (
                Placed("base", "base"),
                Placed("c", "c", "base", "rail", 0, -0.05),
                Placed("m", "m", "base", "rail", 0, 0.0),
            ),
        )
        analysis = analyse(build, kit, OPERATOR)
        order = rod_orders(analysis)[0]
        self.assertEqual((order.now, order.better), (("c", "m"), ("m", "c")))
        done = reordered(analysis, kit, order)
        self.assertEqual(done.placed("m").setting, -0.05)
        self.assertAlmostEqual(done.placed("c").setting, 0.046, delta=1e-4)
        kit["c"] = replace(kit["c"], outline=replace(kit["c"].outline, size=(0.15, 0.1, 0.1)))
        self.assertIsNone(reordered(analyse(build, kit, OPERATOR), kit, order))
