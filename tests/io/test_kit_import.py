"""Kits from foreign tables: matching, merging, round trips, and files that mean harm."""

from __future__ import annotations

import io
import tempfile
import time
import unittest
import zipfile
from pathlib import Path

import openpyxl
from msgspec.structs import replace

from equilix.core.errors import EditError, FormatError
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.kit.records import Method, Quantity, Stamp
from equilix.document.book import Book
from equilix.document.edits.kit import MergeParts
from equilix.document.history import History
from equilix.exports.kit_table import write_kit
from equilix.io.shipped import demo_book
from equilix.io.tables import Formula, read_table
from equilix.present.kit.importing import (
    ImportField,
    ImportRow,
    Match,
    RowState,
    column_letter,
    guess_header,
    guess_matches,
    read_rows,
)

STAMP = Stamp("2026-11-24 10:00", "Tove", Method.IMPORTED, "list.csv")


class Files(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, data: bytes | str, name: str = "list.csv") -> Path:
        path = self.folder / name
        path.write_bytes(data.encode() if isinstance(data, str) else data)
        return path

    def rows(self, data: bytes | str, book: Book | None = None, name: str = "list.csv") -> dict[str, ImportRow]:
        table = read_table(self.file(data, name))
        header = guess_header(table)
        found = read_rows(table, header, guess_matches(table, header), book or Book())
        return {f"{row.number}": row for row in found}


class Matching(Files):
    def test_headings_of_many_kinds(self) -> None:
        table = read_table(self.file("Item;Weight (g);Length, mm;Width;Height;Cost;Remarks;Serial\na;1;2;3;4;5;6;7\n"))
        matches = guess_matches(table, 0)
        wanted = [
            ImportField.NAME,
            ImportField.MASS,
            ImportField.LENGTH,
            ImportField.WIDTH,
            ImportField.HEIGHT,
            ImportField.PRICE,
            None,
            None,
        ]
        self.assertEqual([match.field for match in matches], wanted)
        self.assertEqual(matches[1].unit, "g")
        self.assertEqual(matches[2].unit, "mm")

    def test_a_word_inside_another_is_no_heading(self) -> None:
        table = read_table(self.file("prototype,overweighted,name\n1,2,x\n"))
        self.assertEqual([m.field for m in guess_matches(table, 0)], [None, None, ImportField.NAME])

    def test_a_title_and_empty_rows_above_the_headings(self) -> None:
        rows = self.rows("Rental list;;\n;;\nname;mass (kg);price\nZoom;1.4;100\n")
        self.assertEqual(rows["4"].part.mass, 1.4)

    def test_a_field_can_be_chosen_by_hand(self) -> None:
        table = read_table(self.file("A,B\nZoom,1400\n"))
        row = read_rows(table, 0, (Match(ImportField.NAME), Match(ImportField.MASS, "g")), Book())[0]
        self.assertAlmostEqual(row.part.mass, 1.4)
        self.assertIs(row.part.category, Category.LENS)

    def test_without_names_nothing_is_read(self) -> None:
        table = read_table(self.file("mass\n1\n"))
        self.assertEqual(read_rows(table, 0, guess_matches(table, 0), Book()), ())

    def test_letters_of_columns(self) -> None:
        self.assertEqual(
            [column_letter(i) for i in (0, 25, 26, 51, 52, 701, 702)], ["A", "Z", "AA", "AZ", "BA", "ZZ", "AAA"]
        )


class Numbers(Files):
    def mass(self, *cells: str, unit: str = "kg") -> list[str | float]:
        text = f"name;mass ({unit})\n" + "".join(f"p{i};{cell}\n" for i, cell in enumerate(cells))
        return [row.part.mass if row.part is not None else row.words for row in self.rows(text).values()]

    def test_points_commas_and_units_in_the_cell(self) -> None:
        found = self.mass("0.41", "0,41", ".5", "1,5 kg", "410 g", "1 lb")
        for value, expected in zip(found, (0.41, 0.41, 0.5, 1.5, 0.41, 0.45359237), strict=True):
            self.assertAlmostEqual(float(value), expected, places=12)

    def test_thousands_where_both_marks_stand(self) -> None:
        self.assertEqual(self.mass("1,234.5", "1.234,5", "12.345.678,5", unit="g")[:2], [1.2345, 1.2345])

    def test_what_could_be_two_numbers_is_asked_for(self) -> None:
        found = self.mass("1.020", "0,5")
        self.assertIn('"1.020" can mean 1020 or 1.020', str(found[0]))
        self.assertEqual(found[1], 0.5)
        self.assertEqual(self.mass("1.020", "0.5"), [1.02, 0.5])
        self.assertEqual(self.mass("1,020", "0,5"), [1.02, 0.5])

    def test_what_is_no_mass_is_named_with_its_field(self) -> None:
        for cell, words in (
            ("1e308", "from 0 to 500 kg"),
            ("1e999", "too large"),
            ("-1", "below zero"),
            ("lots", "not a number"),
            ("nan", "not a number"),
            ("1,2,3.4.5", "not a number"),
            ("=1+1", "not a number"),
            ("#REF!", "the error #REF!"),
            ("0x10", "not a number"),
        ):
            self.assertRegex(str(self.mass(cell)[0]), f"mass.*{words}")


class Merging(Files):
    def book(self) -> Book:
        return demo_book()

    def test_parts_are_known_again_by_name(self) -> None:
        rows = self.rows("name,mass (g)\n  zoom   28–105 ,1598\nNew lens,900\nTop handle,340\n", self.book())
        self.assertEqual([row.state for row in rows.values()], [RowState.CHANGED, RowState.NEW, RowState.SAME])
        self.assertEqual(rows["2"].words, "mass 1.36 → 1.60 kg")
        self.assertEqual(rows["2"].part.id, "zoom")

    def test_empty_cells_change_nothing(self) -> None:
        rows = self.rows("name,mass,price\nZoom 28–105,,\n", self.book())
        self.assertIs(rows["2"].state, RowState.SAME)

    def test_a_weighed_mass_is_not_given_up_unasked(self) -> None:
        rows = self.rows("name,mass\nTop handle,0.36\n", self.book())
        self.assertTrue(rows["2"].loses_weighing)
        self.assertFalse(self.rows("name,mass,how known\nTop handle,0.36,weighed\n", self.book())["2"].loses_weighing)

    def test_names_twice_in_file_or_kit(self) -> None:
        book = Book(kit=(Part("a", "Clamp", Category.CLAMP), Part("b", "clamp", Category.CLAMP)))
        rows = self.rows("name,mass\nClamp,1\nArm,1\narm,2\n,3\n", book)
        self.assertIn("2 parts of the kit have it", rows["2"].words)
        self.assertIs(rows["3"].state, RowState.NEW)
        self.assertIn("row 3 has it already", rows["4"].words)
        self.assertIn("cell is empty", rows["5"].words)

    def test_one_undo_step_and_a_record_for_each_mass(self) -> None:
        book = self.book()
        rows = self.rows("name,mass (g)\nZoom 28–105,1598\nNew lens,900\n", book)
        history = History(book).push(MergeParts((rows["3"].part,), (rows["2"].part,), STAMP))
        merged = history.present
        self.assertEqual(len(merged.kit), len(book.kit) + 1)
        record = merged.part("zoom").records[-1]
        self.assertEqual((record.quantity, record.value, record.stamp), (Quantity.MASS, 1.598, STAMP))
        self.assertEqual(merged.part("zoom").records[0].value, 1.36)
        self.assertEqual(merged.builds, book.builds)
        self.assertIs(history.undo().present, book)

    def test_all_or_nothing(self) -> None:
        book = self.book()
        good, gone = replace(book.part("zoom"), mass=1.5), replace(book.part("zoom"), id="not-there")
        history = History(book)
        with self.assertRaises(EditError):
            history.push(MergeParts((), (good, gone), STAMP))
        self.assertIs(history.present, book)


class RoundTrip(Files):
    def test_both_formats_come_back_as_the_same_kit(self) -> None:
        book = demo_book()
        for name in ("kit.csv", "kit.xlsx"):
            path = self.folder / name
            write_kit(book, path)
            table = read_table(path)
            found = read_rows(table, 0, guess_matches(table, 0), book)
            self.assertEqual({row.state for row in found}, {RowState.SAME}, [r for r in found if r.words][:3])
            self.assertEqual(len(found), len(book.kit))

    def test_an_empty_book_gets_the_kit_back(self) -> None:
        book = demo_book()
        path = self.folder / "kit.xlsx"
        write_kit(book, path)
        table = read_table(path)
        found = read_rows(table, 0, guess_matches(table, 0), Book())
        for row, part in zip(found, book.kit, strict=True):
            self.assertEqual(row.part.name, part.name)
            self.assertEqual(row.part.category, part.category)
            self.assertAlmostEqual(row.part.mass or 0.0, part.mass or 0.0, places=9)
            if part.mass is not None:
                self.assertIs(row.part.mass_known, part.mass_known)

    def test_names_that_look_like_formulas_stay_text(self) -> None:
        evil = ("=1+1", "+cmd|calc", "@SUM(A1)", "-2 dB pad")
        book = Book(kit=tuple(Part(f"p{i}", name, Category.OTHER, 0.1, HowKnown.SHEET) for i, name in enumerate(evil)))
        for name in ("kit.csv", "kit.xlsx"):
            path = self.folder / name
            write_kit(book, path)
            if name.endswith("xlsx"):
                sheet = openpyxl.load_workbook(path).active
                self.assertEqual({cell.data_type for cell in sheet["A"]}, {"s"})
            else:
                self.assertFalse([line for line in path.read_text("utf-8-sig").splitlines() if line[:1] in "=+-@"])
            table = read_table(path)
            found = read_rows(table, 0, guess_matches(table, 0), book)
            self.assertEqual([row.name for row in found], list(evil))
            self.assertEqual({row.state for row in found}, {RowState.SAME})


class Hostile(Files):
    def refused(self, path: Path, words: str) -> None:
        with self.assertRaisesRegex(FormatError, words):
            read_table(path)

    def workbook(self, rows: list[list[object]], merge: str = "", name: str = "list.xlsx") -> Path:
        workbook = openpyxl.Workbook()
        for row in rows:
            workbook.active.append(row)
        if merge:
            workbook.active.merge_cells(merge)
        path = self.folder / name
        workbook.save(path)
        return path

    def test_formulas_without_a_result_are_named(self) -> None:
        path = self.workbook([["name", "mass"], ["Zoom", "=1+0.4"], ["Arm", 0.2]])
        table = read_table(path)
        self.assertEqual(table.rows[1][1], Formula("=1+0.4"))
        found = read_rows(table, 0, guess_matches(table, 0), Book())
        self.assertIn("formula without a result (=1+0.4)", found[0].words)
        self.assertIs(found[1].state, RowState.NEW)

    def test_merged_headings(self) -> None:
        path = self.workbook(
            [
                ["Kit of the ferry", None, None],
                ["name", "size", None, None],
                [None, "length", "width", "height"],
                ["Arm", 100, 20, 20],
            ],
            "B2:D2",
        )
        table = read_table(path)
        self.assertEqual(guess_header(table), 2)
        matches = (Match(ImportField.NAME), *guess_matches(table, 2)[1:])
        row = read_rows(table, 2, matches, Book())[0]
        self.assertEqual(row.part.outline.size, (0.1, 0.02, 0.02))

    def test_numbers_beyond_reason_in_a_workbook(self) -> None:
        table = read_table(self.workbook([["name", "mass"], ["Zoom", 1e308], ["Arm", True], ["Clamp", "1,2"]]))
        found = read_rows(table, 0, guess_matches(table, 0), Book())
        self.assertIn("from 0 to 500 kg", found[0].words)
        self.assertIn("not a number", found[1].words)
        self.assertEqual(found[2].part.mass, 1.2)

    def test_several_sheets(self) -> None:
        workbook = openpyxl.Workbook()
        workbook.active.title = "Read me"
        workbook.active.append(["hello"])
        workbook.create_sheet("Parts").append(["name", "mass"])
        workbook["Parts"].append(["Zoom", 1.4])
        workbook.save(self.folder / "two.xlsx")
        self.assertEqual(read_table(self.folder / "two.xlsx").sheets, ("Read me", "Parts"))
        self.assertEqual(read_table(self.folder / "two.xlsx", "Parts").rows[1], ("Zoom", 1.4))
        with self.assertRaisesRegex(FormatError, "no sheet"):
            read_table(self.folder / "two.xlsx", "Nope")

    def test_files_that_are_something_else(self) -> None:
        self.refused(self.file(b""), "is empty")
        self.refused(self.file(b"\n\n \n"), "is empty")
        self.refused(self.file(b"PK\x03\x04nonsense", "list.xlsx"), "list.xlsx is damaged")
        self.refused(self.file(b"name,mass\n\0\0\0,1\n"), "not text")
        self.refused(self.file(b'name,mass\n"Zoom,1\n' + b"x" * 200_000), "not closed")
        self.refused(self.folder / "gone.csv", "does not exist")
        self.refused(self.folder, "is a folder")
        damaged = self.workbook([["name", "mass"], ["Zoom", 1.4]], name="cut.xlsx").read_bytes()
        self.refused(self.file(damaged[: len(damaged) // 2], "cut.xlsx"), "cut.xlsx is damaged")

    def test_a_damaged_sheet_inside_a_good_archive(self) -> None:
        path = self.workbook([["name", "mass"], ["Zoom", 1.4]])
        out = io.BytesIO()
        with zipfile.ZipFile(path) as old, zipfile.ZipFile(out, "w") as new:
            for info in old.infolist():
                data = old.read(info)
                new.writestr(info, data[: len(data) // 2] if "sheet1" in info.filename else data)
        self.refused(self.file(out.getvalue(), "hurt.xlsx"), "damaged|no workbook")

    def test_an_archive_that_unfolds_without_end(self) -> None:
        path = self.folder / "bomb.xlsx"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            for i in range(2):
                archive.writestr(f"xl/worksheets/sheet{i}.xml", b"0" * 70_000_000)
        self.refused(path, "unpacks to more")

    def test_fifty_megabytes_are_turned_away_soon(self) -> None:
        line = "Clamp number %07d,0.12,100,20,20,some words that fill the line a little\n"
        data = "name,mass,length,width,height,note\n" + "".join(line % i for i in range(730_000))
        path = self.file(data)
        self.assertGreater(path.stat().st_size, 50_000_000)
        start = time.process_time()
        self.refused(path, "larger than 30 MB")
        self.assertLess(time.process_time() - start, 10.0)
        rows = "name,mass\n" + "a,1\n" * 20_000
        self.refused(self.file(rows, "long.csv"), "more than 10000 rows")

    def test_text_in_older_codes(self) -> None:
        self.assertEqual(read_table(self.file("name;Länge\nZoom;1\n".encode("cp1252"))).rows[0][1], "Länge")
        self.assertEqual(read_table(self.file("name\tmass\nÄrm\t1\n".encode("utf-16"))).rows[1], ("Ärm", "1"))
        self.assertEqual(read_table(self.file(b"\xef\xbb\xbfname,mass\nArm,1\n")).rows[0], ("name", "mass"))

    def test_rows_of_uneven_length_and_endless_cells(self) -> None:
        table = read_table(self.file("name,mass\nA\nB,1,2,3\n" + "C" * 6000 + ",1\n"))
        self.assertEqual({len(row) for row in table.rows}, {4})
        self.assertEqual(len(str(table.rows[3][0])), 5000)
        found = read_rows(table, 0, guess_matches(table, 0), Book())
        self.assertIn("more than 200 characters", found[2].words)
        self.refused(self.file("a," * 300 + "\n"), "more than 200 cells")

    def test_five_thousand_rows(self) -> None:
        text = "name,mass (g),length,width,height\n" + "".join(
            f"Clamp {i},{100 + i % 90},60,40,30\n" for i in range(5000)
        )
        found = self.rows(text)
        self.assertEqual(len(found), 5000)
        self.assertEqual({row.state for row in found.values()}, {RowState.NEW})
        self.assertEqual(len({row.part.id for row in found.values()}), 5000)
