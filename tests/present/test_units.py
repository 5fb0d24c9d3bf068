"""What people read and type."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from equilix.core.errors import EditError
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.units import FACTORS, Kind, from_display, to_display
from equilix.document.book import Book
from equilix.document.typical_parts import guess_category, typical
from equilix.present.kit.table import Column, cell, changed, new_part, parse_mass, parse_size, paste
from equilix.present.units import System, figure, number, parse, uncertainty, unit_of

METRIC, IMPERIAL = System.METRIC, System.IMPERIAL


class Factors(unittest.TestCase):
    def test_exact_definitions(self) -> None:
        """NIST SP 811 (2008), appendix B.8: pound 0.453 592 37 kg, inch 25.4 mm, lbf·in 0.112 984 8 N·m."""
        self.assertEqual(FACTORS["lb"], 0.45359237)
        self.assertEqual(FACTORS["in"], 0.0254)
        self.assertAlmostEqual(FACTORS["oz"], 0.028349523125, places=15)
        self.assertAlmostEqual(FACTORS["lbf"], 4.4482216152605, places=12)
        self.assertAlmostEqual(FACTORS["lbf·in"], 0.1129848, places=7)

    def test_every_unit_round_trips(self) -> None:
        for unit in FACTORS:
            self.assertAlmostEqual(from_display(to_display(1.234, unit), unit), 1.234, places=14)


class Typing(unittest.TestCase):
    def test_masses(self) -> None:
        for text, kilograms in (
            ("2.4 kg", 2.4),
            ("2,4", 2.4),
            ("410g", 0.41),
            ("5 lb 3 oz", 5 * 0.45359237 + 3 * 0.45359237 / 16),
            ("5lb3oz", 5 * 0.45359237 + 3 * 0.45359237 / 16),
            ("14.5 OZ", 14.5 * 0.45359237 / 16),
            ("2 pounds", 2 * 0.45359237),
            (".5", 0.5),
            ("1 stone", 6.35029318),
        ):
            self.assertAlmostEqual(parse(text, Kind.MASS, METRIC), kilograms, places=9, msg=text)
        self.assertAlmostEqual(parse("2", Kind.MASS, IMPERIAL), 2 * 0.45359237)

    def test_lengths(self) -> None:
        for text, metres in (
            ("4 in", 0.1016),
            ('4"', 0.1016),
            ("1 1/2 in", 0.0381),
            ("3/8", 0.375 * 0.0254),
            ("12 cm", 0.12),
            ("-38", -0.038),
            ("−38 mm", -0.038),
            ("1 ft 2 in", 14 * 0.0254),
            ("5'8\"", 68 * 0.0254),
        ):
            self.assertAlmostEqual(parse(text, Kind.LENGTH, METRIC), metres, places=9, msg=text)
        self.assertAlmostEqual(parse("172", Kind.STATURE, METRIC), 1.72)
        self.assertAlmostEqual(parse("68", Kind.STATURE, IMPERIAL), 68 * 0.0254)

    def test_what_cannot_be_read_shows_how_to_write_it(self) -> None:
        for text in ("", "heavy", "3 in", "1 2", "1e3", "2.4.5", "nan", "inf", "5 lb 3", "1/0", "--3", "3 parsecs"):
            with self.subTest(text), self.assertRaisesRegex(EditError, "is not a mass. Type 2.4 kg"):
                parse(text, Kind.MASS, METRIC)

    @settings(max_examples=150, deadline=None)
    @given(st.text(max_size=20))
    def test_any_text_gives_a_number_or_a_sentence(self, text: str) -> None:
        for kind in (Kind.MASS, Kind.LENGTH):
            try:
                value = parse(text, kind, METRIC)
            except EditError as error:
                self.assertIn("Type", str(error))
            else:
                self.assertTrue(abs(value) < 1e300)

    @settings(max_examples=100, deadline=None)
    @given(st.floats(0.01, 99.0), st.sampled_from([METRIC, IMPERIAL]))
    def test_what_is_shown_can_be_typed_again(self, mass: float, system: System) -> None:
        shown = figure(mass, Kind.MASS, system)
        self.assertAlmostEqual(parse(shown, Kind.MASS, system), mass, delta=0.0051)

    def test_how_known_rides_behind_the_mass(self) -> None:
        for text, expected in (
            ("2.4 w", (2.4, HowKnown.WEIGHED)),
            ("1.2kg s", (1.2, HowKnown.SHEET)),
            ("≈ 0.4", (0.4, HowKnown.GUESSED)),
            ("0.5 g", (0.0005, None)),
            ("410g", (0.41, None)),
            ("2.4 kg G", (2.4, HowKnown.GUESSED)),
            ("410 G", (0.41, None)),
            ("1.9 g", (0.0019, None)),
            ("~ 0.4", (0.4, HowKnown.GUESSED)),
            ("", (None, None)),
        ):
            mass, how = parse_mass(text, METRIC)
            self.assertEqual(how, expected[1], text)
            if expected[0] is None:
                self.assertIsNone(mass)
            else:
                self.assertAlmostEqual(mass, expected[0], msg=text)

    def test_sizes(self) -> None:
        for text, size in (
            ("166×104×130", (0.166, 0.104, 0.130)),
            ("166 x 104 x 130 mm", (0.166, 0.104, 0.130)),
            ("207×ø108", (0.207, 0.108, 0.108)),
            ("4x2x1 in", (0.1016, 0.0508, 0.0254)),
            ("8 in x 75 mm x 15 mm", (0.2032, 0.075, 0.015)),
        ):
            for a, b in zip(parse_size(text, METRIC), size, strict=True):
                self.assertAlmostEqual(a, b, places=9, msg=text)
        for bad in ("120", "1x2x3x4", "axb", "-1x2x3"):
            with self.assertRaises(EditError):
                parse_size(bad, METRIC)


class Showing(unittest.TestCase):
    def test_numbers(self) -> None:
        self.assertEqual(number(-3.14, 1), "−3.1")
        self.assertEqual(number(-0.04, 1, sign=True), "0.0")
        self.assertEqual(number(2.0, 0, sign=True), "+2")
        self.assertEqual(figure(0.0381, Kind.LENGTH, METRIC), "38 mm")
        self.assertEqual(figure(0.0381, Kind.LENGTH, IMPERIAL), "1.50 in")
        self.assertEqual(unit_of(Kind.MOMENT, IMPERIAL), "lbf·in")

    def test_a_doubt_is_twice_the_standard_one_and_never_nothing(self) -> None:
        self.assertEqual(uncertainty(0.002, Kind.LENGTH, METRIC), "± 4")
        self.assertEqual(uncertainty(0.0001, Kind.LENGTH, METRIC), "± 1")
        self.assertEqual(uncertainty(0.0, Kind.LENGTH, METRIC), "± 0")


class KitCells(unittest.TestCase):
    def test_names_speak_of_kinds(self) -> None:
        for name, category in (
            ("Zoom 28-105", Category.LENS),
            ("Telephoto 180", Category.LENS),
            ("Macro 100", Category.LENS),
            ("V-lock battery plate", Category.BATTERY_PLATE),
            ("V-lock battery 98 Wh", Category.BATTERY),
            ("Shoulder pad", Category.PAD),
            ("Handgrip left", Category.GRIP),
            ("Top handle", Category.HANDLE),
            ("Matte box", Category.MATTE_BOX),
            ("Handles on rods", Category.GRIP),
            ("Rods for shoulder pad", Category.RODS),
            ("Thing for the lens", Category.LENS),
            ("Something", Category.OTHER),
            ("Gimbal bearing", Category.BEARING),
            ("Gimbal frame", Category.GIMBAL),
            ("Sled monitor 7 in", Category.MONITOR),
            ("Sled stage", Category.SLED),
            ("Base with rails", Category.SLED),
            ("Base plate", Category.PLATE),
            ("Rod clamp", Category.CLAMP),
            ("Mirrorless", Category.BODY),
            ("Camcorder", Category.BODY),
            ("On-camera light", Category.OTHER),
            ("Camera, light body", Category.BODY),
            ("24-70", Category.LENS),
            ("35mm T1.5", Category.LENS),
            ("50 mm", Category.LENS),
            ("15 mm", Category.OTHER),  # rods are called so too
            ("7", Category.OTHER),
            ("Teleconverter", Category.ADAPTER),
            ("XLR adapter", Category.AUDIO),
            ("Zoom demand", Category.FOCUS),
            ("EVF", Category.MONITOR),
            ("Shotgun", Category.AUDIO),
            ("Shoulder rest", Category.PAD),
            ("Counter balance", Category.WEIGHT),
            ("Power bank", Category.BATTERY),
        ):
            self.assertIs(guess_category(name), category, name)

    def test_every_kind_has_a_usual_shape_that_something_can_hold(self) -> None:
        for category in Category:
            part = typical(category, "p", f"A {category}", 1.0)
            self.assertIsNotNone(part.outline)
            # How a gimbal is joined, nobody can guess; on a post all else sits.
            asked = category in (Category.GIMBAL, Category.SLED)
            self.assertEqual(bool(part.feet), not asked, category)

    def test_typing_into_cells(self) -> None:
        part = new_part(Book(), "Matte box", "0.48", "112x150x150", METRIC)
        for column, text, shown in (
            (Column.NAME, "Matte box, clip-on", "Matte box, clip-on"),
            (Column.MASS, "1 lb", "0.45"),
            (Column.HOW, "s", "sheet"),
            (Column.UNCERTAINTY, "20 g", "± 0.02"),
            (Column.CG, "47 mm", "47"),
            (Column.POWER, "8 W", "8 W"),
            (Column.POWER, "98 wh", "98 Wh"),
            (Column.PRICE, "1 260", "1\u2009260"),
            (Column.SIZE, "", "–"),
        ):
            part = changed(part, column, text, METRIC)
            self.assertEqual(cell(part, column, METRIC), shown)

    def test_cells_that_cannot_be_read(self) -> None:
        part = new_part(Book(), "Zoom", "1", "", METRIC)
        for column, text in (
            (Column.NAME, " "),
            (Column.MASS, "-1"),
            (Column.MASS, "600 kg"),
            (Column.HOW, "x"),
            (Column.POWER, "much"),
            (Column.PRICE, "dear"),
            (Column.SIZE, "100x90x80"),
            (Column.KIND, "spoon"),
            (Column.FITS, "rods"),
        ):
            with self.subTest(column=column, text=text), self.assertRaises(EditError):
                changed(part, column, text, METRIC)

    def test_paste_reads_comma_tables_too(self) -> None:
        pasted = paste(Book(), 'Clamp,120 g\n"Arm, long",240 g\n', METRIC)
        self.assertEqual([part.name for part in pasted.parts], ["Clamp", "Arm, long"])
        self.assertEqual(len({part.id for part in pasted.parts}), 2)


class Moments(unittest.TestCase):
    def test_what_is_shown_can_be_typed(self) -> None:
        for text in ("0.10 N·m", "0.1 N m", "0.1 Nm", "0.1", "0,1 N.m"):
            self.assertAlmostEqual(parse(text, Kind.MOMENT, System.METRIC), 0.1)
        self.assertAlmostEqual(parse("2 lbf·in", Kind.MOMENT, System.METRIC), 0.2259696580552334)
