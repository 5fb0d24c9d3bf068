"""The Carry room in words, and figures in their proportions."""

from __future__ import annotations

import unittest
from dataclasses import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Operator, Sex, SupportKind, Take
from equilix.core.carry import Carry, carry
from equilix.core.errors import EditError
from equilix.core.operator.strength import Joint
from equilix.core.supports.shoulder import pad_pressure
from equilix.desktop.widgets.takes_row import parse_time, time_text
from equilix.document.edits.book import PutOperator
from equilix.document.edits.builds import ChangeBuild
from equilix.io.demo import demo_book
from equilix.io.format import decode_book, encode_book
from equilix.present.carry_drawing import draw_load
from equilix.present.carry_view import hold_words, minutes, share_for
from equilix.present.scene import PathItem
from equilix.present.units import System


class Words(unittest.TestCase):
    def test_times_are_ranges_in_round_figures(self) -> None:
        held = carry(
            analyse(demo_book().build("wide"), demo_book().parts, demo_book().operators[0]),
            demo_book().operators[0],
            SupportKind.HANDHELD,
        )
        assert isinstance(held, Carry)
        self.assertRegex(hold_words(held.worst.hold), r"^\d+ to \d+ min$")
        self.assertEqual(
            [minutes(t) for t in (8.0, 94.0, 130.0, 1800.0, 7200.0)], ["10 s", "90 s", "2 min", "30 min", "2.0 h"]
        )

    def test_the_mark_on_a_bar_is_where_the_take_would_end(self) -> None:
        """Frey-Law and Avin: a shoulder at half of its strength lasts 52.8 s."""
        self.assertAlmostEqual(share_for(Joint.SHOULDER, 52.8), 0.5, delta=0.002)

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
        build = replace(book.build("wide"), takes=(Take(95.0, 30.0),), support=SupportKind.HANDHELD)
        book = ChangeBuild(build, "takes").apply(book)
        again = decode_book(encode_book(book), "book.equilix")
        self.assertEqual(again.operator(one.id), one)
        self.assertEqual(again.build("wide").takes, build.takes)
        self.assertIs(again.build("wide").support, SupportKind.HANDHELD)

    def test_small_and_tall_operators_are_drawn_in_their_own_proportions(self) -> None:
        book = demo_book()
        for operator in (Operator("s", "S", 1.45, 45.0), Operator("t", "T", 2.05, 110.0)):
            analysis = analyse(book.build("trimmed"), book.parts, operator)
            carried = carry(analysis, operator, SupportKind.SHOULDER)
            assert isinstance(carried, Carry)
            scene = draw_load(analysis, carried, (), System.METRIC, 780.0, 330.0)
            self.assertAlmostEqual(carried.body.shoulder_right[2], 0.818 * operator.stature + 0.027)
            self.assertAlmostEqual(carried.pad[2], carried.body.shoulder_right[2])
            for item in scene.items:
                if isinstance(item, PathItem):
                    for command in item.commands:
                        for x, y in zip(command[1::2], command[2::2], strict=True):
                            self.assertTrue(
                                -2.0 <= float(x) <= 782.0 and -8.0 <= float(y) <= 332.0, (command, operator.name)
                            )
            pressed = pad_pressure(carried.held.pad_force, analysis.build.shoulder)
            self.assertGreater(pressed, 0.0)


if __name__ == "__main__":
    unittest.main()
