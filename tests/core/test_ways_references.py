"""What ways claim, checked against the builds before and after; and what is not known shows in the doubt."""

from __future__ import annotations

import json
import subprocess
import sys
import unittest
from dataclasses import replace
from pathlib import Path

from equilix.core.analyse import analyse, new_warnings
from equilix.core.operator.endurance import hold_time
from equilix.core.operator.strength import Joint
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.strategies import find_strategies
from equilix.io.catalogue import catalogue, starters
from equilix.io.demo import demo_book
from tests.core.builders import OPERATOR

BOOK = demo_book()
ROOT = Path(__file__).parents[2]


class Ways(unittest.TestCase):
    def test_added_mass_is_what_the_rig_weighs_more(self) -> None:
        """Against the whole rigs: a swapped battery adds the difference, not itself."""
        kit = {part.id: part for part in catalogue()}
        cases = [(build, BOOK.parts) for build in BOOK.builds] + [(build, kit) for build in starters()[:1]]
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
        row = next(r for r in table.rows if r.part.id == "zoom-short")
        moved = build.with_placed(replace(build.placed(table.placed_id), setting=row.stop))
        for placed_id, setting in row.along:
            moved = moved.with_placed(replace(moved.placed(placed_id), setting=setting))
        met = [f.placed_ids for f in new_warnings(before, analyse(moved, BOOK.parts, OPERATOR)) if f.clash is not None]
        self.assertEqual(met, [])


class Known(unittest.TestCase):
    def test_more_than_all_strength_cannot_be_held(self) -> None:
        for joint in Joint:
            self.assertEqual(hold_time(joint, 1.0).likely, 0.0)
            self.assertEqual(hold_time(joint, 2.8).high, 0.0)
            self.assertGreater(hold_time(joint, 0.99).likely, 0.0)

    def test_a_part_without_a_size_widens_the_doubt(self) -> None:
        """Clearing the body's size moves the CG by more than the old doubt: the new one must cover that."""
        build = BOOK.builds[0]
        kit = dict(BOOK.parts)
        before = analyse(build, kit, OPERATOR)
        kit["body"] = replace(kit["body"], outline=None)
        after = analyse(build, kit, OPERATOR)
        shift = abs(after.shoulder.rest.ahead - before.shoulder.rest.ahead)
        self.assertGreater(shift, 2.0 * before.spread.cg[0])
        self.assertLess(shift, 2.0 * after.spread.cg[0])


if __name__ == "__main__":
    unittest.main()
