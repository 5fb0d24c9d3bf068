"""The program that reads a workbook: a process of its own, with bounds on memory and time, so that no file can harm.

Bytes of the workbook come in at stdin, what was read goes out at stdout as JSON: see `Answer`.
"""

from __future__ import annotations

import io
import math
import re
import resource
import sys
import zipfile
from collections.abc import Iterator
from typing import Any
from xml.etree import ElementTree

import msgspec
from msgspec import Struct, field

#: A kit has some hundred parts; what is larger is something else, or an attack.
MAX_ROWS, MAX_COLUMNS, MAX_CELL = 10_000, 200, 5_000
#: Bytes that a workbook may unfold to, that this process may use, and s that it may compute.
MAX_UNFOLDED, MAX_MEMORY, MAX_SECONDS = 120_000_000, 2_000_000_000, 15
#: What a cell with an error or with a formula that was never worked out begins with on its way out.
ERROR, FORMULA = "\x01", "\x02"


class Answer(Struct, frozen=True):
    """Sheets, and the rows of the chosen one as texts, numbers and nothing; or what is wrong, after "The file"."""

    sheets: list[str] = field(default_factory=list)
    rows: list[list[str | float | bool | None]] = field(default_factory=list)
    wrong: str = ""


class _Refused(Exception):
    """The workbook is not to be read, for the reason in words."""


def main() -> None:
    """Read the workbook at stdin; the wanted sheet is the first argument, empty for the first one."""
    resource.setrlimit(resource.RLIMIT_AS, (MAX_MEMORY, MAX_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MAX_SECONDS, MAX_SECONDS + 1))
    data = sys.stdin.buffer.read()
    try:
        answer = read(data, sys.argv[1] if len(sys.argv) > 1 else "")
    except _Refused as refusal:
        answer = Answer(wrong=str(refusal))
    except MemoryError:
        answer = Answer(wrong="unpacks to more than any kit needs. Save only the sheet with the parts.")
    sys.stdout.buffer.write(msgspec.json.encode(answer))


def read(data: bytes, sheet: str) -> Answer:
    """Return what the workbook `data` holds."""
    from python_calamine import CalamineError, CalamineWorkbook, PasswordError

    archive = _checked_archive(data)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        names = list(book.sheet_names)
        if not names:
            raise _Refused("has no sheet.")
        if sheet and sheet not in names:
            raise _Refused(f"has no sheet “{sheet[:60]}”.")
        chosen = sheet or names[0]
        table = book.get_sheet_by_name(chosen)
        if table.total_height > MAX_ROWS:
            raise _Refused(f"has more than {MAX_ROWS} rows. Keep only the kit’s.")
        if table.total_width > MAX_COLUMNS:
            raise _Refused(f"has more than {MAX_COLUMNS} columns. Keep only the kit’s.")
        rows = [[_plain(value) for value in row] for row in table.to_python(skip_empty_area=False)]
    except PasswordError:
        raise _Refused("is locked with a password. Save it without one.") from None
    except (CalamineError, OSError, ValueError, OverflowError):
        raise _Refused("is damaged or not a workbook. Save it again.") from None
    if archive is not None:
        _mark_faults(archive, rows, names.index(chosen), chosen)
    return Answer(names, rows)


def _plain(value: Any) -> str | float | bool | None:
    if isinstance(value, bool):
        return value
    if isinstance(value, int | float):
        number = float(value)
        return number if math.isfinite(number) else str(value)
    text = value if isinstance(value, str) else str(value)
    # Signs that stand for something here can't come from a cell.
    return text.replace(ERROR, " ").replace(FORMULA, " ")[:MAX_CELL] or None


def _checked_archive(data: bytes) -> zipfile.ZipFile | None:
    """Return the archive that the workbook is, None for one of the old kind; refuse what unfolds without bounds."""
    if not data.startswith(b"PK"):
        return None
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        unfolded = rows = 0
        for info in archive.infolist():
            # What it says of its own size need not be true.
            with archive.open(info) as member:
                while piece := member.read(1 << 20):
                    unfolded += len(piece)
                    rows += piece.count(b"<row") + piece.count(b":row") + piece.count(b"table-row")
                    if unfolded > MAX_UNFOLDED or rows > 8 * MAX_ROWS:
                        raise _Refused("unpacks to more than any kit needs. Save only the sheet with the parts.")
    except (zipfile.BadZipFile, zipfile.LargeZipFile, NotImplementedError, RuntimeError, OSError, EOFError, ValueError):
        raise _Refused("is damaged. Save it again.") from None
    except Exception as error:
        if type(error).__module__ in ("zlib", "lzma", "_lzma"):
            raise _Refused("is damaged. Save it again.") from None
        raise
    return archive


# Cells that show an error, and formulas that were never worked out: the reader gives both as empty.


def _mark_faults(archive: zipfile.ZipFile, rows: list[list[Any]], index: int, name: str) -> None:
    try:
        if "content.xml" in archive.namelist():
            faults = _faults_of_ods(archive, name)
        else:
            faults = _faults_of_xlsx(archive, index)
        for row, column, text in faults:
            if row < len(rows) and column < len(rows[row]) and rows[row][column] is None:
                rows[row][column] = text
    except (ElementTree.ParseError, KeyError, IndexError, ValueError):
        # The reader could make sense of it; this closer look can't.
        return


_MAIN = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
_RELATION = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id"


def _faults_of_xlsx(archive: zipfile.ZipFile, index: int) -> Iterator[tuple[int, int, str]]:
    """Yield row, column and text of faulty cells; ISO/IEC 29500-1, 18.3.1.4 (c), 18.3.1.40 (f)."""
    sheets = ElementTree.fromstring(archive.read("xl/workbook.xml")).iter(f"{_MAIN}sheet")
    relation = [sheet.attrib[_RELATION] for sheet in sheets][index]
    relations = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
    target = next(r.attrib["Target"] for r in relations if r.attrib["Id"] == relation)
    path = target.lstrip("/") if target.startswith("/") else f"xl/{target}"
    with archive.open(path) as file:
        for _, cell in ElementTree.iterparse(file):
            if cell.tag != f"{_MAIN}c":
                continue
            value, formula = cell.find(f"{_MAIN}v"), cell.find(f"{_MAIN}f")
            empty = value is None or not value.text
            place = re.fullmatch(r"([A-Z]{1,3})(\d{1,7})", cell.attrib.get("r", ""))
            if place is not None and cell.attrib.get("t") == "e" and value is not None:
                yield (*_place(place), f"{ERROR}{(value.text or '')[:20]}")
            elif place is not None and formula is not None and empty and cell.attrib.get("t") != "str":
                yield (*_place(place), f"{FORMULA}={(formula.text or '')[:MAX_CELL]}")
            cell.clear()


def _place(match: re.Match[str]) -> tuple[int, int]:
    column = 0
    for letter in match[1]:
        column = 26 * column + ord(letter) - 64
    return int(match[2]) - 1, column - 1


_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_ERROR_TYPE = "{urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0}value-type"


def _faults_of_ods(archive: zipfile.ZipFile, name: str) -> Iterator[tuple[int, int, str]]:
    """Yield row, column and text of cells that show an error; OpenDocument 1.3, part 3, 9.1."""
    root = ElementTree.fromstring(archive.read("content.xml"))
    table = next(t for t in root.iter(f"{_TABLE}table") if t.attrib.get(f"{_TABLE}name") == name)
    row = 0
    for line in table.iter(f"{_TABLE}table-row"):
        column = 0
        for cell in line:
            if cell.attrib.get(_ERROR_TYPE) == "error":
                yield row, column, f"{ERROR}{''.join(cell.itertext())[:20]}"
            column += int(cell.attrib.get(f"{_TABLE}number-columns-repeated", "1"))
        row += int(line.attrib.get(f"{_TABLE}number-rows-repeated", "1"))


if __name__ == "__main__":
    main()
