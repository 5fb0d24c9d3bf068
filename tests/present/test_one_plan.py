"""One plan: headline, order of work and first way set the same slides by the same figures, in the same order."""

from __future__ import annotations

import re
import unittest

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator
from equilix.core.assembly.tree_order import reroot
from equilix.core.kit.parts import Category, Part
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.io.shipped import demo_book, starter_parts, starters
from equilix.present.balance.change_words import move_of
from equilix.present.balance.panel import verdict_of
from equilix.present.balance.ways import ways_of
from equilix.present.drawing.work_order import THERE
from equilix.present.units import System
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.vest import mechanics as vest

METRIC = System.METRIC
SOMEBODY = Operator("s", "Somebody")
MODULES = {"gimbal": gimbal, "vest": vest}


def rigs() -> list[tuple[Build, dict[str, Part]]]:
    """Return all gimbals and sleds of demo and start page, as they are told and told from the camera outwards."""
    book = demo_book()
    found = [(build, dict(book.parts)) for build in book.builds]
    found += [(build, {part.id: part for part in starter_parts(build)}) for build in starters()]
    found = [(build, kit) for build, kit in found if build.support in MODULES]
    for build, kit in tuple(found):
        camera = next(placed.id for placed in build.parts if kit[placed.part_id].category is Category.BODY)
        found.append((reroot(build, camera), kit))
    return found


class OnePlan(unittest.TestCase):
    def test_headline_order_and_first_way_say_the_same(self) -> None:
        seen = 0
        for build, kit in rigs():
            analysis = analyse(build, kit, SOMEBODY)
            order = MODULES[build.support].order_of_work(analysis)
            steps = [step for step in order if step.placed_id and abs(step.to - step.now) >= THERE]
            said = [move_of(step.placed_id, step.to, analysis, METRIC).says for step in steps]
            ways = ways_of(find_strategies(analysis, kit, SOMEBODY), analysis, METRIC)
            with self.subTest(build=build.name, root=build.parts[0].id):
                way = next(way for way in ways if way.kind is StrategyKind.SLIDES)
                whole = "; ".join(said)
                # Of one slide, which the title names, the line says the mark alone.
                done = "To mark " + whole.split(" to mark ")[1] if len(said) == 1 else whole
                self.assertEqual(way.lines[0].casefold(), done.casefold())
                # Where that does all of it, nobody need look further.
                self.assertEqual(ways[0] is way, way.strategy.full)
                body = verdict_of(analysis, METRIC).body
                if not way.strategy.full:
                    self.assertRegex(body, r"^(Its|With its) slides alone ")
                    continue
                spoken = re.search(r"Set the (.*?)(?:, then (\w+) more slides?)?[.;]", body)
                self.assertIsNotNone(spoken, body)
                self.assertEqual(spoken[1], said[0].split(" to mark ")[0])
                self.assertEqual(int(spoken[2] or 0), len(said) - 1)
                seen += 1
        self.assertGreaterEqual(seen, 16)

    def test_a_camera_slides_in_its_gimbal_whichever_of_them_the_build_began_with(self) -> None:
        book = demo_book()
        told = set()
        build = book.build("gimbal-light")
        for placed in build.parts:
            analysis = analyse(reroot(build, placed.id), book.parts, SOMEBODY)
            told.add(verdict_of(analysis, METRIC).body)
        self.assertEqual(len(told), 1, told)


if __name__ == "__main__":
    unittest.main()
