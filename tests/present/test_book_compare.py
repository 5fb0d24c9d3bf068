"""In what two states of a book differ, in words."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.document.edits.builds import SetSlide, TakeOff
from equilix.document.edits.measure import UseMeasurement
from equilix.io.shipped import demo_book
from equilix.present.book_compare import differences


class Compare(unittest.TestCase):
    def rows(self, there: object) -> dict[str, tuple[str, str]]:
        return {d.what: (d.here, d.there) for d in differences(demo_book(), there)}  # type: ignore[arg-type]

    def test_the_same_book_differs_in_nothing(self) -> None:
        self.assertEqual(differences(demo_book(), demo_book()), ())

    def test_a_parts_figures_stand_on_both_sides_with_their_units(self) -> None:
        book = demo_book()
        zoom = book.part("zoom")
        there = book.with_part(replace(zoom, mass=1.6, name="Zoom, new"))
        self.assertEqual(
            self.rows(there),
            {f"Part {zoom.name}": (f"mass 1.36 kg; name {zoom.name}", "mass 1.60 kg; name Zoom, new")},
        )

    def test_what_is_on_one_side_only(self) -> None:
        book = demo_book()
        there = replace(book, operators=book.operators[:1], kit=(*book.kit, replace(book.kit[0], id="n", name="New")))
        self.assertEqual(self.rows(there), {"Operator Tove": ("there", "–"), "Part New": ("–", "there")})

    def test_builds_say_what_is_off_and_what_is_elsewhere(self) -> None:
        book = TakeOff("long-zoom", "matte").apply(SetSlide("long-zoom", "plate", 0.02).apply(demo_book()))
        here, there = self.rows(book)["Build A · Long zoom"]
        self.assertIn("18 parts, with Matte box", here)
        self.assertEqual(there, "17 parts, Camera plate, long in another place")

    def test_order_and_weighings(self) -> None:
        book = demo_book()
        self.assertIn("Order of the parts", self.rows(replace(book, kit=book.kit[::-1])))
        weighing = book.measurements[0]
        rows = self.rows(UseMeasurement(weighing.id, not weighing.used).apply(book))
        self.assertEqual(list(rows), [f"Weighing {weighing.id}"])


if __name__ == "__main__":
    unittest.main()
