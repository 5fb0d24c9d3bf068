"""Lenses: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest
from itertools import combinations

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Part
from equilix.core.slides import slide_of_camera
from equilix.core.solver.lenses import LensTable, fewest_marks, lens_table, worst_pair
from tests.rigs.people import PERSON
from tests.rigs.plain import block
from tests.rigs.ways import camera_rig


class Marks(unittest.TestCase):
    def table(self, tolerance: float | None = None) -> tuple[Analysis, LensTable, dict[str, Part]]:
        build, kit = camera_rig(0.3)
        kit["heavy"] = replace(kit["lens"], id="heavy", name="heavy", mass=2.4)
        kit["blank"] = replace(kit["lens"], id="blank", name="blank", mass=None)
        kit["zoom"] = replace(kit["lens"], id="zoom", name="zoom", mass=1.8, cg_travel=0.03)
        found = analyse(build, kit, PERSON)
        return found, lens_table(found, kit, PERSON, tolerance=tolerance), kit

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
        found = analyse(build, kit, PERSON)
        j = slide_of_camera(found)
        self.assertEqual(found.build.parts[found.assembly.slide_parts[j]].id, "camera")
        self.assertIsNone(slide_of_camera(analyse(replace(build, parts=build.parts[:1]), kit, PERSON)))
