"""A figure in two rooms is the same number with the same uncertainty in both: walked over rigs of every kind."""

from __future__ import annotations

import re
import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.core.carry.arrangements import carry_uncertainties
from equilix.core.carry.carried import Carry, carry
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.strategies import find_strategies
from equilix.core.solver.trade import trade_off
from equilix.core.uncertainty.montecarlo import sample
from equilix.core.uncertainty.output_model import firsts_of, output_model
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.io.shipped import demo_book
from equilix.present.assembly.build_view import build_model
from equilix.present.balance.odds_view import odds_rows
from equilix.present.balance.panel import balance_model
from equilix.present.balance.ways import ways_of
from equilix.present.carry.carry_view import figures
from equilix.present.sheet import sheet_model
from equilix.present.supports.text import FigureRow
from equilix.present.units import System, figure
from tests.campaigns import campaign
from tests.present.numbers import number
from tests.rigs.plain import block, grip, shoulder_build, worn

BOOK = demo_book()
TALL = Operator("t", "T", 1.88, 90.0)
METRIC = System.METRIC


def rigs() -> list[tuple[Book, Analysis]]:
    """Return the demo's builds, and two of blocks: one that is all but level, one that hangs over."""
    found = [(BOOK, analyse(build, BOOK.parts, BOOK.operators[0])) for build in worn(BOOK)]
    for front in (0.06, 0.22):
        parts = (
            (block("camera", 2.6, (0.16, 0.1, 0.12), Category.BODY), front),
            (block("battery", 1.1, (0.06, 0.1, 0.14), Category.BATTERY), -0.13),
            (replace(grip("l"), mass=0.1), 0.2),
            (replace(grip("r"), mass=0.1), 0.25),
        )
        build, kit = shoulder_build(*parts)
        book = replace(BOOK, kit=tuple(kit.values()), builds=(build,), operators=(TALL,))
        found.append((book, analyse(build, kit, TALL)))
    return found


@campaign
class OneTruth(unittest.TestCase):
    def setUp(self) -> None:
        self.rigs = rigs()

    def panel(self, analysis: Analysis, book: Book) -> dict[str, FigureRow]:
        return {row.label.lower(): row for row in balance_model(analysis, book.operators[0], METRIC).figures}

    def test_panel_and_how_sure(self) -> None:
        for book, analysis in self.rigs:
            outputs = output_model(analysis)
            panel = self.panel(analysis, book)
            shared = 0
            for row in odds_rows(outputs, firsts_of(outputs), None, METRIC):
                name = row.name.lower()
                if name == "cg distance ahead of the pad":
                    name = next(
                        f"cg {side} pad" for side in ("ahead of", "behind", "from") if f"cg {side} pad" in panel
                    )
                if name not in panel:
                    continue
                shared += 1
                value, spread = row.first.split(" ± ")
                self.assertAlmostEqual(abs(number(panel[name].value)), abs(number(value)), places=6, msg=name)
                self.assertAlmostEqual(number(panel[name].uncertainty), number(spread), places=6, msg=name)
            self.assertGreaterEqual(shared, 6)

    def test_what_sampling_calls_first_order_is_what_is_shown(self) -> None:
        _, analysis = self.rigs[-1]
        outputs = output_model(analysis)
        firsts = firsts_of(outputs)
        for output, odds in sample(analysis, outputs, 4_000).items():
            self.assertEqual((odds.first, odds.first_u), firsts[output])

    def test_sheet_build_room_and_trade_off(self) -> None:
        for book, analysis in self.rigs:
            balance = balance_model(analysis, book.operators[0], METRIC)
            self.assertEqual(sheet_model(book, analysis, book.operators[0], METRIC).balance, balance)
            last = [step for step in build_model(analysis, book, METRIC).steps if step.ahead is not None][-1]
            self.assertAlmostEqual(last.ahead, analysis.equilibrium.ahead, places=9)
            curve = trade_off(analysis, book.parts, slides=False)
            self.assertAlmostEqual(curve[0].remaining, abs(analysis.equilibrium.tip_moment), places=9)

    def test_ways_begin_at_the_panels_figures_and_end_at_those_of_the_changed_build(self) -> None:
        walked = 0
        for book, analysis in self.rigs:
            operator = book.operators[0]
            for way in ways_of(find_strategies(analysis, book.parts, operator), analysis, METRIC):
                effect = next((line for line in way.lines if line.startswith("Larger hand")), "")
                found = re.search(r"shoulder ([\d.]+) → ([\d.]+) N", effect)
                if found is None:
                    continue
                walked += 1
                now, then = self.panel(analysis, book), self.panel(way.preview, book)
                label = "on the shoulder, rig alone"
                self.assertEqual(float(found.group(1)), number(now[label].value), way.title)
                self.assertEqual(float(found.group(2)), number(then[label].value), way.title)
        self.assertGreater(walked, 5)

    def test_the_lens_on_the_build_has_the_panels_hand_at_the_place_where_it_stands(self) -> None:
        for book, analysis in self.rigs[:3]:
            table = lens_table(analysis, book.parts, book.operators[0])
            for row in table.rows:
                if row.part is None or row.long_end or row.part.id not in {p.part_id for p in analysis.build.parts}:
                    continue
                build = analysis.build.with_placed(
                    replace(analysis.build.placed(table.placed_id), setting=table.common)
                )
                for placed_id, setting in table.common_along:
                    build = build.with_placed(replace(build.placed(placed_id), setting=setting))
                there = self.panel(analyse(build, book.parts, book.operators[0]), book)
                shown = figure(row.hand_common, Kind.FORCE, METRIC)
                self.assertEqual(shown, there["larger hand, rig alone"].value)

    def test_on_the_body_rig_alone_and_arms_resting_are_two_figures_that_part_by_what_the_arms_weigh(self) -> None:
        """Newton: pad and hands carry the rig's weight in both; with the arms on it the pad carries their share too."""
        for book, analysis in self.rigs:
            found = carry(analysis, book.operators[0], "shoulder")
            assert isinstance(found, Carry)
            weight = analysis.body.mass * STANDARD_GRAVITY
            alone = analysis.equilibrium.holding
            for held in (alone, found.held):
                up = float(held.pad_force[2]) + sum(float(hand.force[2]) for hand in held.hands)
                self.assertAlmostEqual(up, weight, places=6)
            rows = {row.label: row for row in figures(found, (), METRIC, carry_uncertainties(analysis, found))}
            resting = rows["Shoulder, arms resting on the rig"]
            self.assertEqual(resting.value, figure(float(found.held.pad_force[2]), Kind.FORCE, METRIC))
            self.assertNotIn("On the shoulder", rows)
            self.assertGreaterEqual(float(found.held.pad_force[2]), float(alone.pad_force[2]) - 1e-6)


if __name__ == "__main__":
    unittest.main()
