"""What weighings say, in words: every verdict there can be, on kits whose truth is known."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.kit.records import Instrument, Measurement, Member, Method, Sensed
from equilix.core.measurement.reconcile import Agreement, reconcile
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.present.units import System
from equilix.present.weigh.weighings import WeighingsModel, change_words, weighings_model, what_words
from tests.rigs.plain import block

SCALE = Instrument("s", "Luggage scale", step=0.002, accuracy=0.001)


def part(name: str, mass: float, category: Category = Category.OTHER, known: HowKnown = HowKnown.SHEET) -> Part:
    return replace(block(name.lower(), mass, known=known, category=category), name=name, mass_u=0.02 * mass)


def mass_of(number: int, names: tuple[str, ...], value: float, used: bool = True) -> Measurement:
    return Measurement(
        f"m{number}",
        Sensed.MASS,
        tuple(Member(n) for n in names),
        value,
        SCALE.own_uncertainty(),
        instrument="s",
        date="2026-11-24 09:10",
        used=used,
    )


class Verdicts(unittest.TestCase):
    TRUE = {"a": 2.0, "b": 1.0, "c": 0.5, "d": 1.5}
    SETS = (("a", "b"), ("b", "c"), ("c", "d"), ("a", "d"), ("a", "b", "c", "d"), ("a", "c"))

    def book(self, *measurements: Measurement, **wrong: float) -> Book:
        kinds = {"a": Category.LENS, "b": Category.BODY, "c": Category.MONITOR, "d": Category.CLAMP}
        kit = tuple(part(n.upper(), m + wrong.get(n, 0.0), kinds[n]) for n, m in self.TRUE.items())
        placed = (Placed("a", "a"), Placed("b", "b", "a", "m"))
        return Book(
            "Ferry", "€", kit, (Build("two", "Two", placed[:1]),), instruments=(SCALE,), measurements=measurements
        )

    def weighed(self, off: dict[int, float] | None = None) -> tuple[Measurement, ...]:
        return tuple(
            mass_of(k, names, sum(self.TRUE[n] for n in names) + (off or {}).get(k, 0.0))
            for k, names in enumerate(self.SETS)
        )

    def model(self, book: Book, system: System = System.METRIC) -> WeighingsModel:
        found = reconcile(book.parts, book.measurements, book.scales)
        self.found = found
        return weighings_model(book, found, system)

    def test_nothing_weighed(self) -> None:
        model = self.model(self.book())
        self.assertEqual(model.verdict.head, "Nothing weighed yet.")
        self.assertEqual((model.weighings, model.rows, model.remarks), ((), (), ()))

    def test_it_fits(self) -> None:
        model = self.model(self.book(*self.weighed()))
        self.assertEqual(model.verdict.head, "It fits together.")
        self.assertIn("All 6 weighings", model.verdict.body)
        self.assertEqual({row.fit for row in model.weighings}, {"fits"})
        self.assertFalse(any(line.suspect for line in model.figures))
        self.assertEqual(model.rows[0].value, "6")
        one = self.model(self.book(self.weighed()[0]))
        self.assertIn("One weighing and the expected values agree within ±", one.verdict.body)

    def test_a_part_that_weighs_more_than_its_sheet_is_named_with_what_may_be_forgotten(self) -> None:
        """The lens weighs 120 g more than its sheet says: every weighing with it says so."""
        model = self.model(self.book(*self.weighed(), a=-0.120))
        self.assertEqual(model.verdict.head, "Check the a.")
        self.assertRegex(
            model.verdict.body, r"^It is probably 1[12]\d g heavier than the maker’s sheet says\. Was an adapter"
        )
        self.assertEqual([line.name for line in model.figures if line.suspect], ["A"])
        self.assertTrue(next(line for line in model.figures if line.name == "A").changes)

    def test_a_part_that_weighs_less_gets_no_such_hint(self) -> None:
        model = self.model(self.book(*self.weighed(), b=0.150))
        self.assertEqual(model.verdict.head, "Check the b.")
        self.assertRegex(model.verdict.body, r"^It is probably 1[45]\d g lighter than the maker’s sheet says\.$")

    def test_a_wrong_reading_is_told_from_a_wrong_part(self) -> None:
        model = self.model(self.book(*self.weighed({4: 0.300})))
        self.assertEqual(model.verdict.head, "A reading looks wrong.")
        self.assertRegex(model.verdict.body, r"^A \+ 3 more: probably 300 g too high\. Repeat it\.$")
        suspects = [row for row in model.weighings if row.suspect]
        self.assertEqual([row.measurement_id for row in suspects], ["m4"])
        self.assertRegex(suspects[0].fit, r"^\d+ g more$")
        low = self.model(self.book(*self.weighed({4: -0.300})))
        self.assertIn("too low", low.verdict.body)

    def test_parts_that_were_only_weighed_together_can_not_be_told_apart(self) -> None:
        model = self.model(
            self.book(mass_of(0, ("a", "b"), 3.3), mass_of(1, ("a", "b"), 3.301), mass_of(2, ("c",), 0.5))
        )
        self.assertIs(self.found.agreement, Agreement.CANNOT_TELL_WHICH)
        self.assertEqual(model.verdict.head, "Something is off.")
        for words in ("a", "b", "only weighed together", "Weigh one alone"):
            self.assertIn(words, model.verdict.body)

    def test_what_is_left_out_says_so_and_counts_for_nothing(self) -> None:
        readings = self.weighed({4: 0.300})
        kept = tuple(replace(m, used=m.id != "m4") for m in readings)
        model = self.model(self.book(*kept))
        self.assertEqual(model.verdict.head, "It fits together.")
        self.assertEqual(next(row for row in model.weighings if row.measurement_id == "m4").fit, "left out")

    def test_a_misplaced_cg_is_said_in_directions(self) -> None:
        """The lens's CG was measured 40 mm ahead of where its sheet has it, three times over."""
        lens = replace(part("Lens", 1.0, Category.LENS), cg_axis_u=(0.002, 0.002, 0.002), cg_known=HowKnown.SHEET)
        for by, words in ((0.040, "further forward"), (-0.040, "further back")):
            readings = tuple(
                Measurement(f"c{k}", Sensed.CG, (Member("lens"),), by, 0.0005, Method.TWO_SUPPORTS) for k in range(3)
            )
            book = Book("Ferry", "€", (lens,), measurements=readings)
            model = self.model(book)
            self.assertEqual(model.verdict.head, "Check the lens.")
            self.assertRegex(model.verdict.body, rf"^Its CG is probably \d\d(\.\d)? mm {words}\.$")
            self.assertTrue(all("CG, " in row.how for row in model.weighings))

    def test_chances_are_said_as_people_do(self) -> None:
        for amount, words in ((0.5, "under 1 in 1000"), (0.0, "%")):
            model = self.model(self.book(*self.weighed({4: amount})))
            chance = next(row for row in model.rows if row.label == "Chance of a misfit this large").value
            self.assertIn(words, chance)

    def test_what_could_hide_is_named(self) -> None:
        model = self.model(self.book(*self.weighed()))
        self.assertRegex(model.remarks[0], r"^An error below \d+ g in the [abcd] would not show\.$")

    def test_pounds_and_inches(self) -> None:
        model = self.model(self.book(*self.weighed(), a=-0.120), System.IMPERIAL)
        self.assertRegex(model.verdict.body, r"0\.2\d+ lb heavier")
        self.assertEqual(change_words(0.120, Kind.MASS, System.METRIC), "120 g")

    def test_many_parts_are_counted_or_called_by_their_build(self) -> None:
        book = self.book(*self.weighed())
        self.assertEqual(what_words(book.measurements[0], book), "A + B")
        self.assertEqual(what_words(book.measurements[4], book), "A + 3 more")
        whole = replace(book, builds=(replace(book.builds[0], parts=tuple(Placed(n, n) for n in "a")),))
        self.assertEqual(what_words(mass_of(9, ("a",), 2.0), whole), "A")


if __name__ == "__main__":
    unittest.main()
