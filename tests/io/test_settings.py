"""What a build says of each support: kept through switching and saving, refused in words where it can't be."""

from __future__ import annotations

import json
import unittest
from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from equilix.core.assembly.build import Brace, Hold
from equilix.core.chosen import hold_of, settings_of, with_hold, with_settings
from equilix.core.errors import AssemblyError, FormatError
from equilix.core.keys import KEYS
from equilix.core.registry import support_for
from equilix.io.format import DamagedBook, decode_book, decode_mended, encode_book
from equilix.io.salvage import salvaged
from equilix.io.shipped import demo_book
from equilix.supports.shoulder.mechanics import SUPPORT as SHOULDER
from equilix.supports.shoulder.settings import ShoulderSettings

BOOK = demo_book()
ELBOWS, CHEST = Hold(brace=Brace.ELBOWS), Hold(brace=Brace.CHEST, ahead=0.3)


def supported(settings: Any, content: dict[str, Any]) -> None:
    content["builds"][0].update(supports=settings)


def changed(change: Callable[[dict[str, Any]], object]) -> bytes:
    content = json.loads(encode_book(BOOK))
    change(content)
    return json.dumps(content).encode()


class Kept(unittest.TestCase):
    def test_switching_there_and_back_loses_nothing(self) -> None:
        build = with_hold(BOOK.builds[0], ELBOWS)
        build = with_settings(build, replace(SHOULDER.settings(build), span_x=0.08))
        handheld = with_hold(replace(build, support="handheld"), CHEST)
        back = replace(handheld, support="shoulder")
        self.assertEqual((hold_of(back), hold_of(handheld)), (ELBOWS, CHEST))
        self.assertEqual(settings_of(handheld, "shoulder"), settings_of(build, "shoulder"))
        again = decode_book(encode_book(BOOK.with_build(handheld)), "x").build(build.id)
        self.assertEqual(again, handheld)

    def test_what_is_usual_is_not_kept(self) -> None:
        build = BOOK.builds[0]
        for key in KEYS:
            usual = support_for(key).usual
            self.assertEqual(usual.kind, key)
            self.assertEqual(settings_of(replace(build, supports=()), key), usual)
            other = with_hold(build, CHEST, key)
            self.assertEqual(with_settings(other, usual), build)

    def test_two_of_one_kind_are_refused(self) -> None:
        twice = (ShoulderSettings(), ShoulderSettings(hold=CHEST))
        with self.assertRaisesRegex(AssemblyError, ": one support has two settings. Keep one"):
            replace(BOOK.builds[0], supports=twice)
        with self.assertRaisesRegex(AssemblyError, "the support 'stilts' is not known here"):
            replace(BOOK.builds[0], support="stilts")


class Refused(unittest.TestCase):
    def test_a_support_of_a_later_version_is_said_and_nothing_is_lost(self) -> None:
        for change in (
            lambda c: c["builds"][1].update(support="stilts"),
            lambda c: c["builds"][1].update(supports=[{"kind": "stilts", "height": 1.0}]),
        ):
            with self.assertRaisesRegex(
                FormatError, "uses the support “stilts”, not known here. Update Equilix.*unchanged"
            ) as caught:
                decode_book(changed(change), "Ferry")
            # It is no damage: nobody is offered to open it without what is not known here.
            self.assertNotIsInstance(caught.exception, DamagedBook)

    def test_bad_settings_say_which_build_and_which_field(self) -> None:
        for settings, words in (
            ([{"kind": "shoulder", "span_x": "wide"}], "build 1.*support 1, span x must be a number"),
            ([{"kind": "shoulder", "span_x": 9.0}], "build 1.*span fore and aft must be"),
            ([{"kind": "handheld", "hold": {"brace": "wall"}}], "build 1.*brace is “wall”, which is not known"),
            ([{"span_x": 0.06}], "build 1.*support 1"),
            ([7], "build 1.*support 1"),
            ("shoulder", "build 1.*must be a list"),
        ):
            with self.subTest(words), self.assertRaisesRegex(DamagedBook, words):
                decode_book(changed(partial(supported, settings)), "Ferry")

    def test_what_else_there_is_can_still_be_read(self) -> None:
        data = changed(lambda c: c["builds"][0].update(supports=[{"kind": "shoulder", "span_x": "wide"}]))
        found = salvaged(data, "Ferry").book
        self.assertEqual([b.name for b in found.builds], [b.name for b in BOOK.builds])
        self.assertEqual(len(found.kit), len(BOOK.kit))

    def test_fields_that_nobody_knows_are_said(self) -> None:
        data = changed(lambda c: c["builds"][0].update(supports=[{"kind": "shoulder", "colour": "red"}]))
        _, said = decode_mended(data, "Ferry")
        self.assertIn(
            "the field 'colour' of what a build says about the shoulder is not known here and was left out", said
        )


if __name__ == "__main__":
    unittest.main()
