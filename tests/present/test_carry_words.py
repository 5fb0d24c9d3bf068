"""The Carry room in words, and figures in their proportions."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Grasp, Hold, Operator, Sex, Take
from equilix.core.carry.arrangements import staggers
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import with_hold
from equilix.core.errors import EditError
from equilix.core.keys import KEYS
from equilix.core.operator.strength import BodyJoint
from equilix.core.solver.lighten import ways_to_lighten
from equilix.core.statics.grasps import places
from equilix.core.statics.pad import pad_pressure
from equilix.desktop.widgets.takes_row import parse_time, time_text
from equilix.document.edits.book import PutOperator
from equilix.document.edits.builds import ChangeBuild
from equilix.io.format import decode_book, encode_book
from equilix.io.shipped import demo_book
from equilix.present.carry.carry_drawing import draw_load, load_height
from equilix.present.carry.carry_view import changed_figures, figures, hold_words, share_for
from equilix.present.carry.comparison import Comparison
from equilix.present.carry.grip_plan import draw_grip_plan, place_name
from equilix.present.carry.light_ways import light_ways
from equilix.present.carry.others_drawing import draw_others, others_height
from equilix.present.drawing.scene import Anchor, PathItem, Scene, TextItem, text_width
from equilix.present.supports.text import FigureRow
from equilix.present.units import System
from equilix.present.words import minutes
from equilix.supports.shoulder import mechanics as shoulder
from tests.rigs.results import carried_of


class Words(unittest.TestCase):
    def test_times_are_ranges_in_round_figures(self) -> None:
        held = carry(
            analyse(demo_book().build("wide"), demo_book().parts, demo_book().operators[0]),
            demo_book().operators[0],
            "handheld",
        )
        assert isinstance(held, Carry)
        self.assertRegex(hold_words(held.worst.hold), r"^\d+ to \d+ min$")
        self.assertEqual(
            [minutes(t) for t in (8.0, 94.0, 130.0, 1800.0, 7200.0)], ["10 s", "90 s", "2 min", "30 min", "2.0 h"]
        )

    def test_a_brace_that_can_not_help_says_what_carries_it_instead(self) -> None:
        book = demo_book()
        for key, why in (
            ("shoulder", "on the shoulder only tucked elbows brace it"),
            ("harness", "the cable carries it"),
        ):
            build = with_hold(replace(book.builds[0], support=key), Hold(brace=Brace.CHEST))
            held = carry(analyse(build, book.parts, book.operators[0]), book.operators[0], key)
            assert isinstance(held, Carry)
            row = next(row for row in figures(held, (), System.METRIC) if row.label == "Brace")
            self.assertEqual((row.value, row.note), ("not used", why))

    def test_the_mark_on_a_bar_is_where_the_take_would_end(self) -> None:
        """Frey-Law and Avin: a shoulder at half of its strength lasts 52.8 s."""
        self.assertAlmostEqual(share_for(BodyJoint.SHOULDER, 52.8), 0.5, delta=0.002)

    def test_takes_are_typed_as_they_are_said(self) -> None:
        for text, seconds in (
            ("3", 180.0),
            ("3 min", 180.0),
            ("90 s", 90.0),
            ("1:30", 90.0),
            ("2,5", 150.0),
            ("1 h", 3600.0),
        ):
            self.assertEqual(parse_time(text, "Take 1"), seconds)
        for seconds in (40.0, 90.0, 180.0, 605.0):
            self.assertEqual(parse_time(time_text(seconds), "Take 1"), seconds)
        with self.assertRaisesRegex(EditError, 'Take 2: "soon" is not a time'):
            parse_time("soon", "Take 2")

    def test_takes_and_bodies_survive_the_file(self) -> None:
        book = demo_book()
        one = replace(book.operators[0], sex=Sex.FEMALE, strength=1.1, reach=0.68, grip_strength=350.0)
        book = PutOperator(one).apply(book)
        build = replace(book.build("wide"), takes=(Take(95.0, 30.0),), support="handheld")
        book = ChangeBuild(build, "takes").apply(book)
        again = decode_book(encode_book(book), "book.equilix")
        self.assertEqual(again.operator(one.id), one)
        self.assertEqual(again.build("wide").takes, build.takes)
        self.assertEqual(again.build("wide").support, "handheld")

    def test_small_and_tall_operators_are_drawn_in_their_own_proportions(self) -> None:
        book = demo_book()
        for operator in (Operator("s", "S", 1.45, 45.0), Operator("t", "T", 2.05, 110.0)):
            analysis = analyse(book.build("trimmed"), book.parts, operator)
            carried = carry(analysis, operator, "shoulder")
            assert isinstance(carried, Carry)
            scene = draw_load(analysis, carried, (), System.METRIC, 780.0, 330.0)
            self.assertAlmostEqual(carried.body.shoulder_right[2], 0.818 * operator.stature + 0.027)
            self.assertAlmostEqual(carried.pad[2], carried.body.shoulder_right[2])
            for item in scene.items:
                if isinstance(item, PathItem):
                    for command in item.commands:
                        for x, y in zip(command[1::2], command[2::2], strict=True):
                            at = float(x) + item.dx, float(y) + item.dy
                            within = -2.0 <= at[0] <= 782.0 and -8.0 <= at[1] <= 332.0
                            self.assertTrue(within, (command, at, operator.name))
            pressed = pad_pressure(carried.held.pad_force, shoulder.SUPPORT.settings(analysis.build).shoulder)
            self.assertGreater(pressed, 0.0)

    def test_ways_say_what_to_do_in_plain_words(self) -> None:
        book = demo_book()
        build, operator = book.build("wide"), book.operators[0]
        held = with_hold(build, Hold(ahead=0.45, below=0.02))
        for made, support in ((build, "handheld"), (held, "handheld")):
            analysis = analyse(made, book.parts, operator)
            now = carried_of(analysis, operator, support)
            assert isinstance(now, Carry)
            found = ways_to_lighten(analysis, book.parts, operator, support, made.takes)
            self.assertTrue(found)
            for card in light_ways(found, now, analysis, System.METRIC):
                self.assertRegex(card.title, r"^(Slide|Turn|Hold it|Tuck|Rest|Sit|Split|Put|Steadier:) ")
                self.assertIsNotNone(card.build)
                for line in card.lines:
                    self.assertTrue(line.endswith("."), line)
        titles = [w.title for w in light_ways(found, now, analysis, System.IMPERIAL)]
        self.assertTrue(all(" mm" not in title for title in titles), titles)

    def test_what_changes_is_written_from_old_to_new(self) -> None:
        before = (FigureRow("A", "41 N up", "± 2"), FigureRow("B", "2° nose up", ""), FigureRow("C", "5", ""))
        after = (
            FigureRow("A", "22 N up", "± 2"),
            FigureRow("B", "3° nose down", "", "low mode"),
            FigureRow("C", "5", ""),
        )
        rows = changed_figures(before, after)
        self.assertEqual(rows[0].value, "41 → 22 N up")
        self.assertEqual((rows[1].value, rows[1].note), ("3° nose down", "before: 2° nose up; low mode"))
        self.assertEqual(rows[2], after[2])

    def test_a_place_has_a_name_that_can_be_told_from_the_others(self) -> None:
        book = demo_book()
        analysis = analyse(book.build("wide"), book.parts, book.operators[0])
        names = [place_name(place, analysis) for place in places(analysis.assembly, analysis.positions)]
        self.assertEqual(len(set(names)), len(names))
        self.assertIn("Under the zoom 35–70", names)


def boxes(scene: Scene) -> list[tuple[float, float, float, float, str]]:
    """Return left, top, right and bottom of every text, a little less than it may take."""
    found = []
    for item in scene.items:
        if isinstance(item, TextItem) and item.text:
            wide = 0.82 * text_width(item.text, item.size)
            left = {Anchor.START: item.x, Anchor.MIDDLE: item.x - wide / 2, Anchor.END: item.x - wide}[item.anchor]
            found.append((left, item.y - 0.72 * item.size, left + wide, item.y, item.text))
    return found


class Legible(unittest.TestCase):
    """No text on another, none outside, at every width and height that a window gives."""

    SIZES = ((780.0, 330.0), (900.0, 420.0), (560.0, 225.0), (520.0, 240.0), (430.0, 540.0))

    def check(self, scene: Scene, width: float, height: float, what: str) -> None:
        found = boxes(scene)
        for k, (left, top, right, bottom, text) in enumerate(found):
            self.assertGreaterEqual(left, -1.0, (what, text))
            self.assertLessEqual(right, width + 1.0, (what, text))
            self.assertLessEqual(bottom, height + 1.0, (what, text))
            for other in found[k + 1 :]:
                apart = right <= other[0] or other[2] <= left or bottom <= other[1] or other[3] <= top
                self.assertTrue(apart, (what, text, other[4]))

    def carried(self, operator: Operator, support: str, hold: Hold) -> tuple[Analysis, Carry]:
        book = demo_book()
        analysis = analyse(with_hold(book.build("wide"), hold, support), book.parts, operator)
        found = carried_of(analysis, operator, support)
        assert isinstance(found, Carry)
        return analysis, found

    def test_figure_and_bars(self) -> None:
        for operator in (Operator("s", "S", 1.45, 45.0), Operator("t", "T", 2.05, 110.0)):
            for support, hold in (
                ("shoulder", Hold()),
                ("handheld", Hold()),
                ("handheld", Hold(brace=Brace.KNEES)),
            ):
                analysis, found = self.carried(operator, support, hold)
                for width, height in self.SIZES:
                    self.assertLessEqual(load_height(width, 0.0), height + 20.0)
                    scene = draw_load(analysis, found, (), System.METRIC, width, height)
                    self.check(scene, width, height, f"{operator.name} {support} {hold.brace} {width}")

    def test_the_hands_from_above(self) -> None:
        for hold in (Hold(), Hold(left=Grasp("lens", "under it"))):
            analysis, found = self.carried(demo_book().operators[0], "handheld", hold)
            for width, height in ((330.0, 175.0), (430.0, 200.0), (230.0, 140.0)):
                scene = draw_grip_plan(analysis, found, staggers(analysis, found), System.METRIC, width, height)
                self.check(scene, width, height, f"plan {width} {hold.left}")

    def test_the_other_supports_and_builds(self) -> None:
        """Also with five supports, which there will be."""
        book = demo_book()
        analysis, found = self.carried(book.operators[0], "handheld", Hold())
        for count in (2, 5):
            options = [(KEYS[k % 2], found) for k in range(count)]
            table = tuple((build.name, (found, found)) for build in book.builds)
            others = Comparison(book, analysis, book.operators[:2], book.builds, table)
            for width in (780.0, 560.0, 430.0):
                height = others_height(width, count)
                scene = draw_others(options, "handheld", others, width, height)
                self.check(scene, width, height, f"others {count} {width}")


if __name__ == "__main__":
    unittest.main()
