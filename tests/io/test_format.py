"""The document file: round trips, refusals, the schema, and writing that can't leave half a file."""

from __future__ import annotations

import json
import os
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.errors import FormatError
from equilix.core.kit.parts import Category, HowKnown, Outline, Part
from equilix.document.book import Book
from equilix.io.files import Stopped, write_whole
from equilix.io.format import VERSION, decode_book, decode_mended, encode_book, json_schema, read_book, write_book
from equilix.io.shipped import demo_book
from tests.rigs.progress import kept

SCHEMA = Path(__file__).parents[2] / "docs" / "equilix-book.schema.json"
NAMES = st.text(st.characters(categories=("L", "N", "P", "Zs")), min_size=1, max_size=30).filter(lambda s: s.strip())


class RoundTrip(unittest.TestCase):
    def test_the_demo_comes_back_equal(self) -> None:
        book = demo_book()
        self.assertEqual(decode_book(encode_book(book), "demo"), book)

    @settings(max_examples=60, deadline=None)
    @given(
        NAMES,
        st.one_of(st.none(), st.floats(0.0, 500.0)),
        st.sampled_from(list(HowKnown)),
        st.tuples(*(st.floats(0.0, 10.0) for _ in range(3))),
    )
    def test_any_part_comes_back_equal(
        self, name: str, mass: float | None, known: HowKnown, size: tuple[float, float, float]
    ) -> None:
        if not name.isprintable():
            return
        part = Part("p", name, Category.LENS, mass, known, Outline(size))
        book = Book(kit=(part,))
        self.assertEqual(decode_book(encode_book(book), "x"), book)

    def test_old_files_open(self) -> None:
        folder = Path(__file__).parents[1] / "data" / "old_files"
        files = sorted(folder.glob("*.equilix"))
        self.assertTrue(files)
        for path in files:
            self.assertGreater(len(read_book(path).kit), 0)


class Refusals(unittest.TestCase):
    def refused(self, data: bytes, words: str) -> None:
        with self.assertRaisesRegex(FormatError, words):
            decode_book(data, "book.equilix")

    def changed(self, change: object) -> bytes:
        content = json.loads(encode_book(demo_book()))
        change(content)  # type: ignore[operator]
        return json.dumps(content).encode()

    def test_what_is_not_a_book(self) -> None:
        self.refused(b"", "is empty")
        self.refused(b"\x00\x01", "not an Equilix book")
        self.refused(b"[1, 2]", "not an Equilix book")
        self.refused(b'{"format": "other", "version": 1}', "not an Equilix book")
        self.refused(encode_book(demo_book())[:-500], r"ends early, in line \d+")
        self.refused(b"[" * 100_000, "not an Equilix book")

    def test_newer_versions_are_refused_politely(self) -> None:
        self.refused(self.changed(lambda c: c.update(version=VERSION + 1)), "newer Equilix.*Update.*unchanged")

    def test_broken_contents_are_named(self) -> None:
        def take(content: dict[str, Any]) -> None:
            content["kit"] = [part for part in content["kit"] if part["id"] != "zoom"]

        for change, words in (
            (lambda c: c["kit"][2].update(mass="heavy"), r"part 3 \(“Stills-shaped body”\), mass must be a number"),
            (lambda c: c["kit"][0].update(mass=-3), "mass must be from 0"),
            (lambda c: c["kit"][0].pop("name"), "name"),
            (lambda c: c["kit"][1].update(id=c["kit"][0]["id"]), "have the id"),
            (lambda c: c.update(operators=[]), "list of operators is empty"),
            (take, "not in the kit"),
            (lambda c: c["builds"][0]["parts"][3].update(mount="nowhere"), "no mount called"),
        ):
            with self.subTest(words):
                self.refused(self.changed(change), words)

    def test_files_that_cannot_be_read(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            with self.assertRaisesRegex(FormatError, "does not exist"):
                read_book(Path(folder) / "gone.equilix")
            with self.assertRaisesRegex(FormatError, "is a folder"):
                read_book(Path(folder))


class PieceByPiece(unittest.TestCase):
    def test_a_long_book_lets_others_work_and_can_be_stopped(self) -> None:
        book = demo_book()
        data = encode_book(replace(book, kit=(*book.kit, *(replace(book.kit[0], id=f"x{n}") for n in range(500)))))
        shares: list[float] = []
        decode_mended(data, "x", kept(shares))
        self.assertGreater(len(shares), 10)
        with self.assertRaises(Stopped):
            decode_mended(data, "x", lambda _share: len(shares) > 10_000)

    def test_more_things_than_anybody_owns_are_refused(self) -> None:
        content = json.loads(encode_book(Book()))
        content["measurements"] = [{}] * 20_001
        with self.assertRaisesRegex(FormatError, "20001 is too many. At most 20000"):
            decode_book(json.dumps(content).encode(), "x")


class Schema(unittest.TestCase):
    def test_the_published_schema_is_current(self) -> None:
        self.assertEqual(json.loads(SCHEMA.read_text("utf-8")), json_schema())

    def test_the_demo_keeps_to_the_schema_and_nonsense_does_not(self) -> None:
        schema = json_schema()
        jsonschema.Draft202012Validator.check_schema(schema)
        content = json.loads(encode_book(demo_book()))
        jsonschema.validate(content, schema)
        content["kit"][0]["mass"] = -1.0
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate(content, schema)


class Writing(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "book.equilix"

    def test_a_failed_write_leaves_the_old_file_whole(self) -> None:
        write_book(demo_book(), self.path)
        before = self.path.read_bytes()
        with (
            mock.patch("equilix.io.files.os.replace", side_effect=OSError(28, "No space left on device")),
            self.assertRaisesRegex(FormatError, "the disk is full. Save a copy"),
        ):
            write_book(Book(), self.path)
        self.assertEqual(self.path.read_bytes(), before)
        self.assertEqual([p.name for p in self.folder.iterdir()], ["book.equilix"])

    def test_a_folder_that_is_gone_is_said(self) -> None:
        with self.assertRaisesRegex(FormatError, "cannot be written"):
            write_book(Book(), self.folder / "gone" / "book.equilix")

    def test_links_and_permissions_stay(self) -> None:
        write_whole(b"1", self.path)
        os.chmod(self.path, 0o640)
        link = self.folder / "link.equilix"
        link.symlink_to(self.path)
        write_whole(b"2", link)
        self.assertTrue(link.is_symlink())
        self.assertEqual(self.path.read_bytes(), b"2")
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o640)

    def test_a_book_of_another_title_is_another_book(self) -> None:
        write_book(replace(demo_book(), title="Other"), self.path)
        self.assertNotEqual(read_book(self.path), demo_book())
