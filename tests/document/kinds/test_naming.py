"""Names as operators type them, in five languages, and what each is: common practice."""

from __future__ import annotations

import csv
import unittest
from pathlib import Path

from msgspec.structs import replace

from equilix.core.kit.parts import Category
from equilix.document.kinds.makers import made_of
from equilix.document.kinds.naming import read_name
from equilix.document.kinds.own import OwnKind, kinds_with
from equilix.document.kinds.records import shipped_kinds

NAMES = Path(__file__).parents[2] / "data" / "vocabulary.csv"


class Names(unittest.TestCase):
    def test_what_each_name_is_and_whether_it_is_asked_about(self) -> None:
        rows = list(csv.DictReader(NAMES.read_text("utf-8").splitlines()))
        self.assertGreaterEqual(len(rows), 400)
        for row in rows:
            with self.subTest(row["name"]):
                found = read_name(row["name"])
                self.assertEqual(found.kind.key if found.kind is not None else "", row["kind"])
                self.assertEqual(found.asked, row["asked"] == "yes")

    def test_sides_lengths_and_slips(self) -> None:
        for name, kind, traits, length in (
            ("rods 15 mm 12 in", "rods", set(), 304.8),
            ("Rods 15 mm, 8 in, rear", "rods_rear", {"rear"}, 203.2),
            ("wooden handle left", "side_handle", {"left"}, None),
            ("moniter", "monitor", set(), None),
            ("mattebox", "matte_box", set(), None),
            ("baseplate 15mm rods", "base_plate", set(), None),
        ):
            with self.subTest(name):
                found = read_name(name)
                self.assertEqual((found.kind.key, set(found.traits)), (kind, traits))
                self.assertEqual(found.length is None, length is None)
                self.assertAlmostEqual(found.length or 0.0, length or 0.0)

    def test_two_heads_are_asked_about(self) -> None:
        found = read_name("battery plate or battery")
        self.assertEqual([kind.key for kind in (found.kind, *found.rivals)], ["battery_plate", "battery"])
        self.assertTrue(found.asked)

    def test_a_book_remembers_a_word(self) -> None:
        own = kinds_with((OwnKind("k1", ("the widget", "torch"), "light", mass=0.3),))
        found = read_name("The Widget", own)
        self.assertEqual((found.kind.key, found.kind.base, found.kind.mass), ("k1", "light", 0.3))
        self.assertEqual(read_name("torch left", own).kind.key, "k1")
        # It goes where such parts go.
        seat = found.kind.seats[0]
        self.assertEqual(seat.ranks(own.kind("top_handle")), 0)
        self.assertIsNone(read_name("the widget").kind)


class Records(unittest.TestCase):
    def test_every_kind_is_made_named_and_seated_by_what_there_is(self) -> None:
        kinds = shipped_kinds()
        keys = {kind.key for kind in kinds.kinds}
        self.assertEqual(len(keys), len(kinds.kinds))
        holders = keys | {f"*{category.value}" for category in Category}
        for kind in kinds.kinds:
            with self.subTest(kind.key):
                part = made_of(kind, "a", "A")
                self.assertIs(part.category, kind.counts)
                self.assertIsNotNone(part.outline)
                self.assertIs(read_name(kind.title).kind, kind)
                for seat in kind.seats:
                    self.assertLessEqual(set(seat.on), holders)
                    self.assertLessEqual({by.removesuffix("?") for by in seat.by}, kinds.by.keys())
                self.assertIn(kind.needs or kind.key, keys)
        self.assertLessEqual({*kinds.claims, *kinds.anchors}, keys)

    def test_a_new_kind_is_one_record(self) -> None:
        """A smoke machine's remote, made up here: named, made and seated like any other."""
        light = shipped_kinds().kind("light")
        fogger = replace(light, key="fogger", words=("fog remote",), other={}, mass=0.4)
        kinds = shipped_kinds().with_kinds((fogger,))
        found = read_name("Fog remote, small", kinds)
        self.assertIs(found.kind, fogger)
        self.assertEqual(made_of(fogger, "a", "A").mass, 0.4)
        self.assertIsNone(read_name("Fogg").kind)


if __name__ == "__main__":
    unittest.main()
