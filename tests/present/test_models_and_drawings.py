"""View models and drawings of the demo, of an empty and of an overfull build."""

from __future__ import annotations

import math
import unittest
from typing import Any

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind, leading, warnings_of
from equilix.core.assembly.build import Build, Placed
from equilix.core.chosen import with_settings
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category
from equilix.core.solver.changes import changes_of
from equilix.core.solver.sensitivity import influences
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.io.shipped import demo_book
from equilix.present.assembly.build_view import build_model, offers
from equilix.present.assembly.drawing import draw_build
from equilix.present.assembly.spots import spot_key
from equilix.present.balance.elevation import draw_elevation, support_line
from equilix.present.balance.panel import balance_model, verdict_of
from equilix.present.balance.ways import influence_words, ways_of
from equilix.present.drawing.rig_drawing import letter
from equilix.present.drawing.scene import PathItem, Region, Scene, TextItem, arc, hatch
from equilix.present.kit.part_preview import draw_part_preview
from equilix.present.sheet import sheet_model
from equilix.present.supports.text import warning_words
from equilix.present.units import System, figure
from equilix.supports.tripod.settings import TripodSettings
from tests.rigs.plain import OPERATOR, base, block, grip, shoulder_build

METRIC, IMPERIAL = System.METRIC, System.IMPERIAL


def demo(number: int = 0) -> tuple[Book, Analysis]:
    book = demo_book()
    return book, analyse(book.builds[number], book.parts, book.operators[0])


class Verdicts(unittest.TestCase):
    def say(self, *blocks: tuple[Any, ...], left_out: bool = False) -> str:
        build, kit = shoulder_build(*blocks)
        verdict = verdict_of(analyse(build, kit, OPERATOR), METRIC)
        return f"{verdict.head} {verdict.body} {verdict.note}"

    def test_each_case_in_plain_words(self) -> None:
        left, right = grip("left"), grip("right")
        heavy = block("heavy", 4.0, category=Category.BODY)
        self.assertRegex(self.say((heavy, 0.2), (left, 0.3), (right, 0.31)), r"Tips forward\. .* N")
        self.assertRegex(
            self.say((heavy, -0.2), (left, 0.3), (right, 0.3)),
            r"Tips back\. To keep it level, mostly down: left hand .* N, right",
        )
        self.assertRegex(
            self.say((heavy, 0.2), (left, 0.4)), r"Tips forward\. One hand gives .* N, mostly (up|forward)"
        )
        self.assertRegex(self.say((heavy, 0.0), (left, 0.3), (right, 0.3)), r"Level fore and aft, within what is known")
        self.assertIn("Falls off the shoulder", self.say((heavy, 0.2)))
        self.assertIn("Stays by itself", self.say((heavy, 0.02), (left, 0.3)))
        self.assertIn(
            "Left out: nothing has no mass", self.say((heavy, 0.2), (left, 0.4), (block("nothing", None), -0.3))
        )

    def test_the_worst_warning_stands_beside_every_verdict_that_does_not_stop_the_work(self) -> None:
        """Common practice: what meets or presses is said wherever it is said how the rig stands."""
        book = demo_book()
        for support in KEYS:
            build = replace(book.builds[2], support=support)  # its focus motor meets the clamp
            analysis = analyse(build, book.parts, book.operators[0])
            if analysis.equilibrium is None:
                continue
            verdict = verdict_of(analysis, METRIC)
            with self.subTest(support=support, head=verdict.head):
                # What makes it unusable leads.
                worst = leading(analysis) or warnings_of(analysis)[0]
                said = warning_words(analysis, worst)
                self.assertEqual(verdict.matter, "" if verdict.stops else f"{said[:1].upper()}{said[1:]}.")
                self.assertEqual(verdict.leads, leading(analysis) is not None and not verdict.stops)

    def test_a_harness_whose_limit_nobody_entered_says_how_it_hangs(self) -> None:
        build = replace(demo_book().builds[0], support="harness")
        verdict = verdict_of(analyse(build, demo_book().parts, OPERATOR), METRIC)
        self.assertEqual(verdict.head, "Enter the maker’s limit first.")
        self.assertRegex(verdict.body, r"^It hangs (level|\d+° nose (down|up))\. ")

    def test_grips_are_asked_for_where_the_hands_hold_one_behind_the_other(self) -> None:
        """Common practice: a camera by its body and its lens rolls about the line between the hands."""
        book = demo_book()
        build = replace(book.builds[1], support="handheld")
        bare = replace(build, parts=tuple(p for p in build.parts if not p.id.startswith("grip")))
        self.assertEqual(verdict_of(analyse(build, book.parts, OPERATOR), METRIC).note, "")
        analysis = analyse(bare, book.parts, OPERATOR)
        self.assertRegex(
            verdict_of(analysis, METRIC).note, "^There are no grips: the hands hold .* and .*[.] One grip a side"
        )
        titles = [way.title for way in ways_of(find_strategies(analysis, book.parts, OPERATOR), analysis, METRIC)]
        self.assertTrue(titles)
        self.assertNotIn("grips", " ".join(titles))

    def test_what_cannot_be_said(self) -> None:
        empty = analyse(Build("b", "B"), {}, OPERATOR)
        self.assertEqual(verdict_of(empty, METRIC).head, "No parts yet.")
        bare = block("camera", 2.0, category=Category.BODY)
        no_pad = analyse(Build("b", "B", (Placed("c", "camera"),)), {"camera": bare}, OPERATOR)
        self.assertIn("shoulder pad", verdict_of(no_pad, METRIC).body)
        weightless = analyse(Build("b", "B", (Placed("x", "x"),)), {"x": block("x", None)}, OPERATOR)
        self.assertIn("has no mass", verdict_of(weightless, METRIC).body)


class Balance(unittest.TestCase):
    def test_the_ledger_adds_up_to_the_net(self) -> None:
        book, analysis = demo()
        model = balance_model(analysis, book.operators[0], METRIC)
        self.assertAlmostEqual(sum(row.moment for row in model.rows), model.net.moment, places=9)
        self.assertEqual([row.letter for row in model.rows][:9], list("ABCDEFGHJ"))
        self.assertIn("pulls back", next(row.spoken for row in model.rows if row.placed_id == "battery"))

    def test_figures_carry_units_and_doubt(self) -> None:
        book, analysis = demo()
        for system, unit in ((METRIC, "kg"), (IMPERIAL, "lb")):
            model = balance_model(analysis, book.operators[0], system)
            self.assertTrue(model.figures[0].value.endswith(unit))
            self.assertTrue(all(row.uncertainty.startswith("±") for row in model.figures))

    def test_cautions_stand_beside_the_figures(self) -> None:
        book, analysis = demo()
        cautions = " ".join(balance_model(analysis, book.operators[0], METRIC).cautions)
        self.assertIn("kPa", cautions)
        self.assertIn("Not medical advice", cautions)

    def test_ways_say_what_to_change_what_is_left_and_what_it_does(self) -> None:
        book, analysis = demo()
        found = find_strategies(analysis, book.parts, book.operators[0])
        ways = ways_of(found, analysis, METRIC)
        self.assertEqual(
            {way.kind for way in ways},
            {
                StrategyKind.SLIDES,
                StrategyKind.MOVE,
                StrategyKind.BATTERY,
                StrategyKind.FILL,
                StrategyKind.DEAD_WEIGHT,
                StrategyKind.STEADY,
            },
        )
        # Alone the first two would take the screen out of sight: it goes along with them.
        for way in ways[:2]:
            self.assertRegex(way.title, "and hang the top handle elsewhere$|more$")
            self.assertIn("Top handle to cinema body, box type, top, front", way.lines[0])
            self.assertEqual([f for f in way.preview.findings if f.kind is FindingKind.SCREEN], [])
        self.assertIn("Larger hand 9 → 0 N, shoulder 85 → 89 N", ways[0].lines[1])
        self.assertRegex(ways[0].lines[2], r"Proven: less work won’t do\.$|Best found\.$")
        battery, weight = (
            next(way for way in ways if way.kind is kind) for kind in (StrategyKind.BATTERY, StrategyKind.DEAD_WEIGHT)
        )
        self.assertEqual((battery.work, battery.cost), ("3 changes, 65 s", "+410 g"))
        self.assertIn("instead of V-lock battery 98 Wh", battery.lines[0])
        self.assertIn("counterweight on rear rods", weight.lines[0])
        self.assertIn("no other job", weight.lines[1])

    def test_no_way_tells_of_a_move_that_nobody_could_set(self) -> None:
        """Common practice: half a millimetre on a scale is where it stands already."""
        book, analysis = demo()
        strategy = next(s for s in find_strategies(analysis, book.parts, OPERATOR) if s.plan.moved)
        still = next(p for p in analysis.build.parts if p.id == "vplate")
        build = strategy.plan.build.with_placed(replace(strategy.plan.build.placed("vplate"), setting=still.setting))
        hair = build.with_placed(replace(still, setting=still.setting + 0.0004))
        self.assertEqual(changes_of(analysis, hair, book.parts), changes_of(analysis, build, book.parts))

    def test_a_way_that_falls_short_says_by_what(self) -> None:
        book, _ = demo()
        kit = dict(book.parts)
        cut = replace(kit["base"].mount("dovetail"), low=-0.02)
        kit["base"] = replace(kit["base"], mounts=tuple(cut if m.id == cut.id else m for m in kit["base"].mounts))
        analysis = analyse(book.builds[0], kit, book.operators[0])
        ways = ways_of(find_strategies(analysis, kit, book.operators[0]), analysis, METRIC)
        way = next(way for way in ways if way.kind is StrategyKind.SLIDES)
        text = " ".join(way.lines)
        self.assertIn("Falls short", text)
        self.assertIn("more travel for the", text)
        self.assertIn("camera plate at its stop", text)

    def test_what_sways_the_advice_is_said(self) -> None:
        _, analysis = demo()
        self.assertRegex(
            influence_words(influences(analysis), analysis, METRIC), r"Weigh the matte box first. .* ± \d mm"
        )
        self.assertEqual(influence_words((), analysis, METRIC), "")

    def test_without_slides_there_are_no_ways(self) -> None:
        camera = block("camera", 3.0, category=Category.BODY)
        kit = {"base": replace(base(), mounts=(base().mount("shoulder"),)), "camera": camera}
        build = Build("b", "B", (Placed("base", "base"),))
        self.assertEqual(find_strategies(analyse(build, kit, OPERATOR), kit, OPERATOR), ())

    def test_letters_skip_i_and_o(self) -> None:
        letters = [letter(i) for i in range(50)]
        self.assertEqual(len(set(letters)), 50)
        self.assertFalse({"I", "O"} & set(letters))
        self.assertEqual(letters[24], "A2")


class Drawings(unittest.TestCase):
    def check(self, scene: Scene, width: float, height: float) -> None:
        for item in scene.items:
            numbers = (
                [v for command in item.commands for v in command[1:]]
                if isinstance(item, PathItem)
                else [item.x, item.y]
            )
            self.assertTrue(all(math.isfinite(float(v)) for v in numbers))
        for item in scene.items:
            if isinstance(item, TextItem):
                self.assertTrue(-1 <= item.x <= width + 1 and 0 <= item.y <= height + 1, item.text)

    def test_every_demo_build_in_every_size(self) -> None:
        book = demo_book()
        for number in range(3):
            _, analysis = demo(number)
            for width, height in ((784.0, 484.0), (520.0, 360.0), (1400.0, 800.0)):
                drawing = draw_elevation(analysis, book.operators[0], METRIC, width, height, "plate")
                self.check(drawing.scene, width, height)
                built = draw_build(analysis, book.parts, METRIC, width, height, "motor", None)
                self.check(built.scene, width, height)

    def test_the_support_line_stands_under_the_pad(self) -> None:
        book, analysis = demo()
        drawing = draw_elevation(analysis, book.operators[0], METRIC, 784.0, 484.0)
        self.assertEqual(drawing.line_x, support_line(784.0))
        self.assertAlmostEqual(drawing.projection.x(float(analysis.equilibrium.point[0])), drawing.line_x)

    def test_one_scale_both_ways(self) -> None:
        _, analysis = demo()
        book = demo_book()
        p = draw_elevation(analysis, book.operators[0], METRIC, 784.0, 484.0).projection
        self.assertAlmostEqual(p.x(0.1) - p.x(0.0), p.y(0.0) - p.y(0.1))

    def test_an_empty_and_an_overfull_build(self) -> None:
        empty = analyse(Build("b", "B"), {}, OPERATOR)
        self.check(draw_build(empty, {}, METRIC, 784.0, 480.0, None, None).scene, 784.0, 480.0)
        self.check(draw_elevation(empty, OPERATOR, METRIC, 784.0, 480.0).scene, 784.0, 480.0)
        many = [(block(f"p{i}", 0.5, (0.02, 0.05, 0.05)), -0.5 + i / 120) for i in range(120)]
        build, kit = shoulder_build(*many)
        analysis = analyse(build, kit, OPERATOR)
        self.check(draw_elevation(analysis, OPERATOR, METRIC, 784.0, 480.0).scene, 784.0, 480.0)
        self.check(draw_build(analysis, kit, METRIC, 784.0, 480.0, "p3", None).scene, 784.0, 480.0)

    def test_scales_read_back_what_they_show(self) -> None:
        book, analysis = demo()
        for scale in draw_elevation(analysis, book.operators[0], METRIC, 784.0, 484.0).scales:
            self.assertAlmostEqual(scale.setting_at(scale.x(scale.setting)), scale.setting, places=9)

    def test_every_kit_part_has_a_preview(self) -> None:
        for part in demo_book().kit:
            self.check(draw_part_preview(part, METRIC, 416.0, 240.0), 416.0, 240.0)
        self.check(draw_part_preview(replace(block("x", 1.0), outline=None), METRIC, 416.0, 240.0), 416.0, 240.0)

    def test_hits_and_hatching(self) -> None:
        triangle = ((0.0, 0.0), (10.0, 0.0), (0.0, 10.0))
        self.assertTrue(Region(("a",), triangle).contains(2.0, 2.0))
        self.assertFalse(Region(("a",), triangle).contains(8.0, 8.0))
        for command in hatch(triangle, 2.0):
            x, y = float(command[1]), float(command[2])
            self.assertTrue(x >= -1e-9 and y >= -1e-9 and x + y <= 10.0 + 1e-9)
        x, y = (float(v) for v in arc(0.0, 0.0, 5.0, 0.0, 1.2)[-1][-2:])
        self.assertAlmostEqual(math.hypot(x, y), 5.0)


class BuildAndSheet(unittest.TestCase):
    def test_effects_in_the_tray_come_true(self) -> None:
        book, analysis = demo()
        model = build_model(analysis, book, METRIC)
        free = next(spot for spot in model.mounts if spot_key(spot) == ("mount", "rear", "rods"))
        found, misfits = offers(analysis, book.parts, free, model.loose, METRIC)
        self.assertTrue(found)
        self.assertTrue(all(misfit.reason for misfit in misfits))
        weight = next(offer for offer in found if offer.part.id == "weight")
        self.assertTrue(weight.effect.startswith("CG −"))
        for offer in found:
            if offer.part.mass is None:
                continue
            placed = offer.seat.placed("new", offer.setting)
            after = analyse(
                replace(analysis.build, parts=(*analysis.build.parts, placed)), book.parts, book.operators[0]
            )
            change = after.equilibrium.ahead - analysis.equilibrium.ahead
            self.assertEqual(offer.effect.split("\n")[0], f"CG {figure(change, Kind.LENGTH, METRIC, sign=True)}")

    def test_the_sheet_says_where_what_slides_on_the_support_is_set(self) -> None:
        book, analysis = demo()
        on_head = with_settings(replace(analysis.build, support="tripod"), TripodSettings(slid=-0.048))
        sheet = sheet_model(book, analyse(on_head, book.parts, book.operators[0]), book.operators[0], METRIC)
        self.assertEqual(sheet.steps[-1][1][-1], "Plate in the clamp to mark −48 mm")

    def test_the_sheet_lists_each_part_once_with_its_mark(self) -> None:
        book, analysis = demo()
        sheet = sheet_model(book, analysis, book.operators[0], METRIC)
        self.assertEqual(len(sheet.rows), len(analysis.build.parts))
        self.assertEqual(sum(len(doings) for _, doings, _ in sheet.steps), len(sheet.rows))
        marks = {row.name: row.mark for row in sheet.rows}
        # A mark says from which end it counts, and so does each step.
        data = {row.datum for row in sheet.rows if row.mark.endswith("mm")}
        self.assertEqual(data, {"from the rear end"})
        said = [doing for _, doings, _ in sheet.steps for doing in doings]
        self.assertTrue(any(doing.endswith("mark 120 mm from the rear end") for doing in said), said)
        self.assertEqual(marks["Camera plate, long"], "120 mm")
        self.assertEqual(marks["Field monitor 5 in"], "+15°")
