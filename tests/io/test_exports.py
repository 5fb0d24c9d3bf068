"""What leaves the program: build sheet, table, starter data."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from pypdf import PdfReader

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.kit.parts import HowKnown
from equilix.exports.build_csv import build_csv, write_build_csv
from equilix.exports.sheet_pdf import build_sheet
from equilix.io.parts_table import read_parts_table
from equilix.io.shipped import catalogue, demo_book, starter_parts, starters
from equilix.present.units import System
from equilix.supports.shoulder import mechanics as shoulder


def demo_analysis(number: int = 0) -> Analysis:
    book = demo_book()
    return analyse(book.builds[number], book.parts, book.operators[0])


class BuildSheet(unittest.TestCase):
    def text(self, number: int = 0, system: System = System.METRIC) -> str:
        book = demo_book()
        data = build_sheet(book, demo_analysis(number), book.operators[0], system)
        reader = PdfReader(io.BytesIO(data))
        return "\n".join(page.extract_text() for page in reader.pages)

    def test_everything_that_the_crew_needs_is_on_it(self) -> None:
        text = self.text()
        book = demo_book()
        for placed in book.builds[0].parts:
            self.assertIn(book.name_of(placed)[:20], text)
        for words in (
            "Tips forward",
            "Parts and marks",
            "Steps in order",
            "Foundation",
            "Cautions",
            "come first",
        ):
            self.assertIn(words, text)
        self.assertIn("120 mm", text)  # camera plate's mark
        self.assertIn("Estimated, weigh first:", text)
        self.assertIn("not medical advice", text)

    def test_clashes_and_the_head_are_cautions(self) -> None:
        text = self.text(2)
        self.assertIn("hits focus motor", text)
        self.assertIn("presses on Maren", text)

    def test_imperial_sheet(self) -> None:
        self.assertIn("lb", self.text(0, System.IMPERIAL))

    def test_letters_that_the_type_lacks_do_not_stop_printing(self) -> None:
        book = demo_book()
        odd = replace(book, title="渡し船 🎥")
        data = build_sheet(odd, demo_analysis(), book.operators[0], System.METRIC)
        self.assertTrue(data.startswith(b"%PDF"))


class Table(unittest.TestCase):
    def test_the_exported_table_gives_the_same_mass_and_cg(self) -> None:
        figures = demo_analysis()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "build.csv"
            write_build_csv(path, figures)
            table = read_parts_table(path)
        mass = np.array([row.part.mass for row in table])
        self.assertAlmostEqual(float(mass.sum()), figures.body.mass, places=9)
        cg = mass @ np.array([row.at for row in table]) / mass.sum()
        np.testing.assert_allclose(cg, figures.body.cg, atol=1e-9)
        self.assertIn("cylinder", build_csv(figures))


class StartingData(unittest.TestCase):
    def test_every_catalogue_part_is_a_guess_with_size_and_says_so(self) -> None:
        parts = catalogue()
        self.assertGreaterEqual(len(parts), 100)
        self.assertEqual(len({part.id for part in parts}), len(parts))
        self.assertEqual(len({part.name for part in parts}), len(parts))
        for part in parts:
            with self.subTest(part.name):
                self.assertIs(part.mass_known, HowKnown.GUESSED)
                self.assertGreater(part.mass, 0.0)
                self.assertIsNotNone(part.outline)
                self.assertIn("common practice", part.note)

    def test_every_part_of_a_starting_build_comes_with_it(self) -> None:
        for starter in starters():
            given = {part.id for part in starter_parts(starter)}
            self.assertEqual(given, {placed.part_id for placed in starter.parts})

    def test_heavier_rods_of_the_same_length(self) -> None:
        """Carbon is lighter than aluminium, steel heavier: common practice."""
        mass = {part.id: part.mass for part in catalogue()}
        self.assertLess(mass["c-rods-carbon-8"], mass["c-rods-aluminium-8"])
        self.assertLess(mass["c-rods-aluminium-8"], mass["c-rods-steel-8"])

    def test_the_demo_tells_its_three_stories(self) -> None:
        heavy, trimmed, wide = (demo_analysis(i) for i in range(3))
        self.assertEqual(len(demo_book().kit), 60)
        self.assertGreater(heavy.equilibrium.ahead, 0.04)
        self.assertLess(abs(trimmed.equilibrium.ahead), 0.003)
        self.assertEqual(heavy.body.mass, trimmed.body.mass)
        self.assertIn(shoulder.PRESSES_ON_HEAD, [f.kind for f in wide.findings])
        self.assertNotIn(shoulder.PRESSES_ON_HEAD, [f.kind for f in heavy.findings])

    def test_json_of_the_table_is_plain(self) -> None:
        self.assertIsInstance(json.dumps(build_csv(demo_analysis())), str)
