"""Damaged books: what is said of them, what is still read, and what no book may hold."""

from __future__ import annotations

import json
import random
import unittest
from collections.abc import Callable
from typing import Any

import msgspec
from msgspec.structs import replace

from equilix.core.assembly.build import UNDER, Build, Grasp, Hold, Placed
from equilix.core.chosen import hold_of, with_hold
from equilix.core.errors import AssemblyError, FormatError
from equilix.core.kit.parts import Category, Part
from equilix.core.kit.records import HowKnown, Instrument, Method, Quantity, Record, Shared, Stamp
from equilix.core.limits import MAX_NAME, MAX_TEXT, check_name, check_text
from equilix.document.book import Book, new_measurement_ids
from equilix.document.edits.builds import DuplicateBuild, TakeOff
from equilix.document.edits.kit import ChangePart, DuplicatePart
from equilix.document.edits.measure import RemoveMeasurement
from equilix.document.validation import check_book
from equilix.io.format import DamagedBook, decode_book, decode_mended, encode_book
from equilix.io.salvage import salvaged
from equilix.io.shipped import demo_book

CONTENT = encode_book(demo_book())


def changed(change: Callable[[dict[str, Any]], object]) -> bytes:
    content = json.loads(CONTENT)
    change(content)
    return json.dumps(content, ensure_ascii=False).encode("utf-8", "surrogatepass")


class Words(unittest.TestCase):
    def said(self, data: bytes) -> str:
        with self.assertRaises(DamagedBook) as caught:
            decode_book(data, "ferry.equilix")
        text = str(caught.exception)
        self.assertTrue(text.startswith("ferry.equilix"), text)
        return text

    def test_a_book_that_was_cut_off_anywhere_is_called_that(self) -> None:
        draw = random.Random(5)
        for at in [12, 40, len(CONTENT) - 3, *(draw.randrange(30, len(CONTENT) - 2) for _ in range(150))]:
            for tail in (b"", b"\0" * 600, b"\n\n"):
                text = self.said(CONTENT[:at] + tail)
                self.assertIn("ends early, in line", text)
                self.assertIn("open the readable part", text)

    def test_damage_is_told_by_line(self) -> None:
        at = CONTENT.index(b'"builds"')
        line = CONTENT[:at].count(b"\n") + 1
        self.assertIn(f"is damaged in line {line}.", self.said(CONTENT[:at] + b"!!" + CONTENT[at:]))

    def test_what_is_wrong_is_said_in_words_of_the_trade(self) -> None:
        def kit(field: str, value: object) -> Callable[[dict[str, Any]], object]:
            return lambda c: c["kit"][3].update({field: value})

        part = "part 4 (“Base plate, long dovetail”)"
        for change, words in (
            (kit("mass", "heavy"), f"{part}, mass must be a number or nothing, not text."),
            (kit("outline", {"size": [1, 2]}), f"{part}, outline, size must have 3 entries."),
            (kit("outline", {"size": [1, 2, "x"]}), f"{part}, outline, edge 3 must be a number, not text."),
            (kit("category", "spoon"), f"{part}, category is “spoon”, which is not known here."),
            (kit("mass", -1), f"{part}: mass must be from 0 to 500 kg, not -1."),
            (kit("note", 5), f"{part}, note must be text, not a whole number."),
            (lambda c: c["kit"][3].pop("name"), "part 4 has no name."),
            (lambda c: c["kit"][3]["mounts"].append(5), f"{part}, mount 5 must be a group of fields"),
            (
                lambda c: c["builds"][0]["parts"][3].update(foot=5000),
                "build 1 (“A · Long zoom”): The number of a mount below",
            ),
            (lambda c: c["builds"][0]["parts"][3].update(mount="x"), "Camera plate, long has no mount called 'x'."),
            (lambda c: c.update(kit=5), "the kit must be a list, not a whole number."),
            (lambda c: c["measurements"][0].update(instrument=7), "weighing 1, instrument must be text"),
            (lambda c: c["kit"].append(c["kit"][0]), "Two parts have the id "),
        ):
            text = self.said(changed(change))
            self.assertIn(words, text)
            for inner in ("`", "$", "[", "array", "float", "null", "msgspec"):
                self.assertNotIn(inner, text)


class Salvage(unittest.TestCase):
    def test_of_a_cut_off_book_everything_before_the_cut_is_read(self) -> None:
        demo = demo_book()
        for share in (0.3, 0.6, 0.99):
            data = CONTENT[: int(share * len(CONTENT))]
            found = salvaged(data, "ferry.equilix").book
            whole = [part for part in demo.kit if msgspec.json.format(msgspec.json.encode(part), indent=1)]
            count = len(found.kit)
            self.assertEqual(found.kit, tuple(whole[:count]))
            self.assertGreaterEqual(count, min(int(share * len(demo.kit)) - 8, len(demo.kit)))
            check_book(found)
            self.assertEqual(decode_book(encode_book(found), "again"), found)
        self.assertEqual(found.builds, demo.builds)
        self.assertIn("everything after the damage", salvaged(data, "ferry.equilix").lost)

    def test_one_damaged_part_costs_that_part_and_what_sits_on_it_alone(self) -> None:
        at = CONTENT.index(b'"id": "handle"')
        found = salvaged(CONTENT[:at] + b"\xff{{" + CONTENT[at + 3 :], "ferry.equilix")
        self.assertEqual({part.id for part in demo_book().kit} - {part.id for part in found.book.kit}, {"handle"})
        self.assertIn("1 part", found.lost)
        self.assertTrue(any("placed part" in words for words in found.lost))
        build = found.book.builds[0]
        self.assertNotIn("handle", [placed.id for placed in build.parts])
        self.assertNotIn("monitor", [placed.id for placed in build.parts])  # it sits on the handle
        check_book(found.book)

    def test_good_json_with_bad_things_in_it(self) -> None:
        def spoil(content: dict[str, Any]) -> None:
            content["kit"][0]["mass"] = "heavy"
            content["builds"][1]["parts"][-1]["quarter_turns"] = 9
            content["operators"] = "nobody"
            content["title"] = 5

        found = salvaged(changed(spoil), "ferry.equilix")
        self.assertEqual(len(found.book.kit), 59)
        self.assertEqual(len(found.book.builds), 7)
        self.assertEqual(found.book.title, "Kit book, readable part")
        check_book(found.book)

    def test_where_there_is_nothing_it_says_so(self) -> None:
        for data in (b"{}", b'{"format": "equilix book", "version": 4, "ti', b"[" * 100_000, b"\0" * 50):
            with self.assertRaisesRegex(FormatError, "No part of x.equilix can be read"):
                salvaged(data, "x.equilix")

    def test_any_damage_gives_a_whole_book_or_one_sentence(self) -> None:
        draw = random.Random(11)
        for _ in range(60):
            data = bytearray(CONTENT)
            for _ in range(draw.randrange(1, 40)):
                at = draw.randrange(len(data))
                data[at : at + draw.randrange(4)] = draw.randbytes(draw.randrange(4))
            try:
                found = salvaged(bytes(data), "x.equilix").book
            except FormatError as error:
                self.assertTrue(str(error).startswith("can be read. Use an earlier copy"))
                continue
            check_book(found)
            self.assertEqual(decode_book(encode_book(found), "again"), found)


class Whole(unittest.TestCase):
    """What names something that is not there, and what has no bound."""

    def test_an_old_hold_on_what_is_gone_is_put_right_and_said(self) -> None:
        data = changed(
            lambda c: c["builds"][0].update(
                supports=[{"kind": "handheld", "hold": {"left": {"placed_id": "gone", "mount_id": UNDER}}}]
            )
        )
        book, mended = decode_mended(data, "x")
        self.assertIsNone(hold_of(book.builds[0]).left)
        self.assertIn("A · Long zoom", mended[0])

    def test_an_old_scale_that_is_gone_is_put_right_and_said(self) -> None:
        book, mended = decode_mended(changed(lambda c: c.update(instruments=[])), "x")
        self.assertEqual({m.instrument for m in book.measurements}, {""})
        self.assertIn("a scale that is gone", mended[0])

    def test_one_part_is_on_a_build_only_once(self) -> None:
        def twice(content: dict[str, Any]) -> None:
            parts = content["builds"][0]["parts"]
            on_rods = next(p for p in parts if p["mount"] == "rods" and p["id"] != parts[0]["id"])
            parts.append({**on_rods, "id": "new"})  # many sit on rods

        with self.assertRaisesRegex(FormatError, "is on it twice, but only once in the kit. Duplicate it"):
            decode_book(changed(twice), "x")

    def test_taking_a_part_off_frees_the_hand_that_held_it(self) -> None:
        book = demo_book()
        build = book.builds[0]
        held = with_hold(build, Hold(left=Grasp("lens", UNDER)))
        after = TakeOff(build.id, "lens").apply(book.with_build(held))
        self.assertIsNone(hold_of(after.build(build.id)).left)
        check_book(after)

    def test_a_part_that_loses_its_grip_point_frees_the_hand(self) -> None:
        book = demo_book()
        build = next(b for b in book.builds if any(p.id == "handle" for p in b.parts))
        handle = book.part(build.placed("handle").part_id)
        grip = next(mount for mount in handle.mounts if mount.kind.value == "grip point")
        book = book.with_build(with_hold(build, Hold(right=Grasp("handle", grip.id))))
        check_book(book)
        bare = replace(handle, mounts=tuple(mount for mount in handle.mounts if mount is not grip))
        after = ChangePart(bare, "mounts").apply(book)
        self.assertIsNone(hold_of(after.build(build.id)).right)
        check_book(after)

    def test_a_thrown_away_weighings_name_is_not_given_out_again(self) -> None:
        book = demo_book()
        named = {f"m{n}" for n in range(1, 30)}
        stamp = Stamp(method=Method.ONE_SCALE, source=tuple(sorted(named)))
        record = Record(Quantity.MASS, 1.0, 0.01, HowKnown.WEIGHED, stamp)
        book = book.with_part(replace(book.kit[0], records=(record,)))
        for weighing in book.measurements:
            book = RemoveMeasurement(weighing.id).apply(book)
        self.assertTrue(named.isdisjoint(new_measurement_ids(book, 20)))

    def test_texts_and_numbers_have_bounds_everywhere(self) -> None:
        long, two = "x" * (MAX_NAME + 1), "a\nb"
        for make in (
            lambda: Part("p", "P", Category.BODY, note="x" * (MAX_TEXT + 1)),
            lambda: Part("p", "P", Category.BODY, note="\x1b[2J"),
            lambda: Part("p", "P", Category.BODY, scale=long),
            lambda: Instrument("i", "I", port=long),
            lambda: Instrument("i", "I", port=two),
            lambda: Instrument("i", "I", checked=long),
            lambda: Stamp(date=long),
            lambda: Stamp(by=two),
            lambda: Stamp(source=("m",) * 5000),
            lambda: Record(Quantity.MASS, 1e9, 0.1, "weighed"),  # type: ignore[arg-type]
            lambda: Record(Quantity.CG_X, 11.0, 0.1, "weighed"),  # type: ignore[arg-type]
            lambda: Record(Quantity.MASS, 1.0, float("nan"), "weighed"),  # type: ignore[arg-type]
            lambda: Shared("x" * (MAX_TEXT + 1), 0.1),
            lambda: Build("b", "B", note="\0"),
            lambda: Build("b", "B", parts=tuple(Placed(f"p{i}", "x", f"p{i - 1}" if i else None) for i in range(1001))),
            lambda: Placed("p", long),
            lambda: Placed("p", "x", mount=two),
        ):
            with self.assertRaises(AssemblyError):
                make()
        Stamp("2026-11-24 10:00", "Maren", Method.TYPED, "Hanging scale", ("m1",))

    def test_emoji_and_joined_letters_are_names_and_marks_that_turn_the_text_are_not(self) -> None:
        """Sequences of Unicode 16.0, emoji-zwj-sequences and emoji-tag sequences."""
        for name in ("👩‍🚀 kit", "🏴\U000e0067\U000e0062\U000e0065\U000e006e\U000e0067\U000e007f", "می‌خواهم", "❤️"):
            check_name(name, "A name")
            check_text(name, "A note")
        for name in ("abc\u202edef", "\u2066x", "x\u200f", "\ud800", "a\x7f", "\u0085"):
            with self.assertRaises(AssemblyError):
                check_name(name, "A name")

    def test_copies_of_long_names_fit(self) -> None:
        book = demo_book()
        part = replace(book.kit[0], name="n" * MAX_NAME)
        book = DuplicatePart(part.id).apply(book.with_part(part))
        self.assertTrue(book.kit[1].name.endswith("n copy"))
        book = DuplicateBuild(book.builds[0].id, "b" * (MAX_NAME + 6)).apply(book)
        self.assertEqual(len(book.builds[1].name), MAX_NAME)
        check_book(book)

    def test_an_empty_book_is_whole(self) -> None:
        check_book(Book())


if __name__ == "__main__":
    unittest.main()
