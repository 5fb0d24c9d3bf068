"""Tables of every kind: what a real office suite writes comes in alike, what goes out comes back and harms nobody.

The files under tests/data/tables were written by LibreOffice 7.4 from a kit that Equilix exported.
"""

from __future__ import annotations

import csv
import io
import os
import random
import tempfile
import threading
import unittest
import zipfile
from pathlib import Path
from unittest import mock

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.errors import FormatError
from equilix.document.book import Book
from equilix.exports.build_csv import write_build_csv
from equilix.exports.kit_table import write_kit
from equilix.io.csv_escaping import escaped, unescaped
from equilix.io.files import Stopped
from equilix.io.parts_table import read_parts_table
from equilix.io.shipped import demo_book
from equilix.io.tables import read_table
from equilix.present.kit.importing import RowState, guess_header, guess_matches, read_rows

TABLES = Path(__file__).parents[1] / "data" / "tables"
EVIL = (
    "=1+1",
    "+cmd|'/C calc'!A0",
    "@SUM(1)",
    "-2+3",
    "'=1",
    "''x",
    "'plain",
    "  =1",
    "\u00a0=2",
    "＝1",
    "＋1",
    "－1",
    "＠x",
    "−1",
    "a;=1+1",
    'say "x", then',
    "plain",
    "tab\tin note",
)


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)


class FromAnOfficeSuite(Folder):
    def test_every_kind_gives_the_same_rows(self) -> None:
        tables = {path.suffix: read_table(path) for path in sorted(TABLES.glob("kit.*"))}
        self.assertEqual(set(tables), {".csv", ".ods", ".xls", ".xlsx"})
        book = Book()
        parts = {}
        for suffix, table in tables.items():
            self.assertEqual(len(table.rows), 43, suffix)
            rows = read_rows(table, guess_header(table), guess_matches(table, guess_header(table)), book)
            self.assertEqual({row.state for row in rows}, {RowState.NEW}, suffix)
            parts[suffix] = [row.part for row in rows]
        for suffix in (".ods", ".xls", ".xlsx"):
            self.assertEqual(parts[suffix], parts[".csv"], suffix)
            self.assertEqual(tables[suffix].sheets, ("Kit",))

    def test_they_are_the_kit_that_went_out(self) -> None:
        for path in sorted(TABLES.glob("kit.*")):
            table = read_table(path)
            rows = read_rows(table, 0, guess_matches(table, 0), demo_book())
            self.assertEqual({row.state for row in rows}, {RowState.SAME}, path.name)

    def test_the_contents_tell_the_kind_whatever_the_name(self) -> None:
        for path in sorted(TABLES.glob("kit.*")):
            other = self.folder / "list.csv"
            other.write_bytes(path.read_bytes())
            self.assertEqual(read_table(other).rows, read_table(path).rows)

    def test_cells_with_an_error_are_told(self) -> None:
        """A formula that divides by zero, stored as ISO/IEC 29500-1 (t="e") and OpenDocument (calcext) say."""
        xlsx = self.divided_by_zero(TABLES / "kit.xlsx")
        table = read_table(xlsx)
        self.assertIn("#DIV/0!", [cell for row in table.rows for cell in row])
        rows = read_rows(table, 0, guess_matches(table, 0), Book())
        words = next(r.words for r in rows if r.state is RowState.PROBLEM)
        self.assertIn("the cell shows the error #DIV/0!", words)

    def divided_by_zero(self, path: Path) -> Path:
        out = self.folder / path.name
        with zipfile.ZipFile(path) as old, zipfile.ZipFile(out, "w") as new:
            for name in old.namelist():
                data = old.read(name)
                if name == "xl/worksheets/sheet1.xml":
                    text = data.decode()
                    at = text.index('r="C2"')
                    start = text.rindex("<c ", 0, at)
                    end = text.index("</c>", at) + 4
                    text = f'{text[:start]}<c r="C2" t="e"><f>1/0</f><v>#DIV/0!</v></c>{text[end:]}'
                    data = text.encode()
                new.writestr(name, data)
        return out


class Out(Folder):
    def evil_book(self) -> Book:
        kit = tuple(
            replace(part, name=name if name != "tab\tin note" else "noted", note=name)
            for part, name in zip(demo_book().kit, EVIL, strict=False)
        )
        return replace(demo_book(), kit=kit, builds=(), measurements=())

    def test_every_kind_comes_back_as_it_was(self) -> None:
        for book in (self.evil_book(), demo_book()):
            for suffix in (".csv", ".xlsx", ".ods"):
                path = self.folder / f"kit{suffix}"
                write_kit(book, path)
                table = read_table(path)
                found = read_rows(table, 0, guess_matches(table, 0), book)
                self.assertEqual([row.name for row in found], [part.name for part in book.kit], suffix)
                self.assertEqual({row.state for row in found}, {RowState.SAME}, suffix)
                fresh = read_rows(table, 0, guess_matches(table, 0), Book())
                self.assertEqual(
                    [(row.part.name, row.part.note) for row in fresh], [(part.name, part.note) for part in book.kit]
                )

    def cells(self, path: Path) -> list[str]:
        text = path.read_bytes().decode("utf-8-sig")
        return [cell for row in csv.reader(io.StringIO(text, newline="")) for cell in row]

    def is_number(self, text: str) -> bool:
        try:
            float(text)
        except ValueError:
            return False
        return True

    def test_no_cell_of_a_csv_begins_like_a_formula(self) -> None:
        """The list of signs is that of the OWASP page on CSV injection, with their full-width forms."""
        kit = self.folder / "kit.csv"
        write_kit(self.evil_book(), kit)
        demo = demo_book()
        parts = dict(demo.parts)
        names = iter(EVIL)
        for placed in demo.builds[0].parts[: len(EVIL) - 1]:
            parts[placed.part_id] = replace(parts[placed.part_id], name=next(names))
        build = self.folder / "build.csv"
        write_build_csv(build, analyse(demo.builds[0], parts, demo.operators[0]))
        for path in (kit, build):
            for cell in self.cells(path):
                bare = cell.strip(" \u00a0\t\r\n")
                if not self.is_number(cell):
                    self.assertNotIn(bare[:1], tuple("=+-@＝＋－＠−\t\r"), cell)
        back = read_parts_table(build)
        self.assertEqual([row.part.name for row in back[: len(EVIL) - 1]], [name.strip() for name in EVIL[:-1]])

    def test_texts_are_in_quotes_so_that_semicolons_cut_nothing(self) -> None:
        path = self.folder / "kit.csv"
        write_kit(self.evil_book(), path)
        self.assertIn('"a;=1+1"', path.read_text("utf-8-sig"))

    def test_any_text_comes_back(self) -> None:
        draw = random.Random(2)
        signs = "'=+-@ \t;,\"x１＝"
        for _ in range(3000):
            text = "".join(draw.choice(signs) for _ in range(draw.randrange(0, 6)))
            self.assertEqual(unescaped(str(escaped(text))), text)
            guarded = escaped(text).lstrip(" \t")
            self.assertFalse(guarded[:1] in ("=", "+", "-", "@", "＝"), (text, guarded))


class Bounds(Folder):
    def refused(self, path: Path, words: str) -> None:
        with self.assertRaisesRegex(FormatError, f"^{path.name}.*{words}"):
            read_table(path)

    def archive(self, sheet: bytes, name: str = "big.xlsx") -> Path:
        out = self.folder / name
        with zipfile.ZipFile(TABLES / "kit.xlsx") as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
            for inner in old.namelist():
                new.writestr(inner, sheet if inner == "xl/worksheets/sheet1.xml" else old.read(inner))
        return out

    SHEET = (
        b'<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
        b"<sheetData>%s</sheetData></worksheet>"
    )

    def test_ten_million_rows_in_half_a_megabyte(self) -> None:
        path = self.archive(self.SHEET % (b"<row/>" * 10_000_000))
        self.assertLess(path.stat().st_size, 700_000)
        self.refused(path, "unpacks to more than any kit")

    def test_two_cells_at_the_ends_of_a_sheet(self) -> None:
        cells = b'<row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="XFD1048576"><v>1</v></c></row>'
        self.refused(self.archive(self.SHEET % cells), "more than|without harm|damaged")

    def test_one_text_without_an_end(self) -> None:
        cell = b'<row r="1"><c r="A1" t="inlineStr"><is><t>' + b"x" * 130_000_000 + b"</t></is></c></row>"
        self.refused(self.archive(self.SHEET % cell), "unpacks to more")

    def test_too_many_rows_and_columns(self) -> None:
        self.refused(self.archive(self.SHEET % (b"<row><c><v>1</v></c></row>" * 10_002)), "more than 10000 rows")
        self.refused(self.archive(self.SHEET % (b"<row>" + b"<c><v>1</v></c>" * 300 + b"</row>")), "more than 200 col")

    def test_a_workbook_with_a_password_is_told(self) -> None:
        """An encrypted package is an OLE file with the stream EncryptedPackage: MS-OFFCRYPTO 2.3.4.4."""
        data = (TABLES / "kit.xls").read_bytes()
        path = self.folder / "locked.xlsx"
        path.write_bytes(data.replace("Workbook".encode("utf-16-le"), "Wxrkbook".encode("utf-16-le")))
        self.refused(path, "no workbook|damaged|password")

    def test_the_reader_can_be_stopped_and_leaves_no_process(self) -> None:
        with mock.patch("equilix.io.tables.sys.executable", "/bin/sleep"):
            with self.assertRaises((Stopped, FormatError)):
                read_table(TABLES / "kit.xlsx", go_on=lambda _share: False)
        children = Path(f"/proc/self/task/{threading.get_native_id()}/children").read_text().split()
        self.assertEqual([c for c in children if "sleep" in Path(f"/proc/{c}/comm").read_text()], [])

    def test_damaged_workbooks_of_every_kind_end_in_one_sentence(self) -> None:
        draw = random.Random(8)
        for path in sorted(TABLES.glob("kit.*")):
            data = path.read_bytes()
            for _ in range(6):
                hurt = bytearray(data)
                for _ in range(draw.choice((1, 4, 30))):
                    hurt[draw.randrange(len(hurt))] = draw.randrange(256)
                other = self.folder / path.name
                other.write_bytes(bytes(hurt[: draw.choice((len(hurt), len(hurt) // 2))]))
                try:
                    read_table(other)
                except FormatError as error:
                    self.assertTrue(str(error).startswith(path.name), error)
                    self.assertNotIn("\n", str(error))

    def test_a_reader_that_dies_is_a_damaged_file(self) -> None:
        with mock.patch("equilix.io.tables.sys.executable", "/bin/false"):
            self.refused(TABLES / "kit.ods", "is damaged or not a workbook. Save it again")
        with mock.patch("equilix.io.tables.sys.executable", os.devnull):
            self.refused(TABLES / "kit.ods", "no reader starts")


if __name__ == "__main__":
    unittest.main()
