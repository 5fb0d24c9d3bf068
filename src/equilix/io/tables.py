"""Reads a table as it is in a text file or a workbook: rows of texts and numbers, with bounds on what is taken in."""

from __future__ import annotations

import csv
import io
import os
import subprocess
import sys
import time
from pathlib import Path

from msgspec import Struct

from equilix.core.errors import FormatError
from equilix.io.files import GoOn, go_on_or_stop, never_stop, read_ordinary, shown

#: A kit has some hundred parts; what is larger is something else, or an attack.
MAX_ROWS = 10_000
MAX_COLUMNS = 200
MAX_CELL = 5_000
MAX_BYTES = 30_000_000
#: Letters of a line of text.
_MAX_LINE = 200_000
#: s that a workbook may take to be read.
_PATIENCE = 15.0


class Formula(Struct, frozen=True):
    """A cell with a formula whose result the file doesn't hold."""

    text: str


Cell = str | float | Formula | None


class RawTable(Struct, frozen=True):
    """Rows as a spreadsheet numbers them from 1, short ones filled with None, and a workbook's `sheets`."""

    name: str
    rows: tuple[tuple[Cell, ...], ...]
    sheets: tuple[str, ...] = ()

    @property
    def width(self) -> int:
        """Number of columns."""
        return len(self.rows[0]) if self.rows else 0


def read_table(path: Path, sheet: str = "", go_on: GoOn = never_stop) -> RawTable:
    """Return the table in the file at `path`, of the named or the first sheet. What kind it is, its contents tell.

    Raises
    ------
    FormatError
        If it can't be read, is no table, or is larger than any kit; the message names the file.
    Stopped
        If `go_on` says so.
    """
    data = read_ordinary(path, MAX_BYTES, go_on)
    name = shown(path)
    if not data.strip():
        raise FormatError(f"{name} is empty. Choose another file.")
    sheets: tuple[str, ...] = ()
    if data.startswith((b"PK\x03\x04", b"PK\x05\x06", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")):
        sheets, rows = _read_workbook(data, name, sheet, go_on)
    else:
        rows = _read_text(data, name, go_on)
    while rows and all(cell is None for cell in rows[-1]):
        rows.pop()
    if not rows:
        raise FormatError(f"{name} has no rows. Choose another file.")
    width = max(len(row) - next((i for i, c in enumerate(reversed(row)) if c is not None), len(row)) for row in rows)
    return RawTable(name, tuple((row + (None,) * width)[:width] for row in rows), sheets)


def _cell(value: str | float | bool | None) -> Cell:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if value is None or isinstance(value, float):
        return value
    return value.strip()[:MAX_CELL] or None


# Text


def _read_text(data: bytes, name: str, go_on: GoOn) -> list[tuple[Cell, ...]]:
    text = _decoded(data, name)
    if "\0" in text:
        raise FormatError(f"{name} is not text. Save the table as CSV in UTF-8, or as a workbook.")
    lines = list(io.StringIO(text, newline=""))
    for number, line in enumerate(lines, 1):
        if len(line) > _MAX_LINE:
            raise FormatError(f"{name}, line {number} is too long for a kit. Shorten it.")
    reader = csv.reader(lines, delimiter=_delimiter(lines[:20]), strict=True)
    rows: list[tuple[Cell, ...]] = []
    try:
        for row in reader:
            if len(rows) >= MAX_ROWS:
                raise FormatError(f"{name} has more than {MAX_ROWS} rows. Keep only the kit’s.")
            if len(row) > MAX_COLUMNS:
                raise FormatError(
                    f"{name}, row {len(rows) + 1} has more than {MAX_COLUMNS} cells. Keep only the kit’s."
                )
            if len(rows) % 500 == 0:
                go_on_or_stop(go_on, reader.line_num / len(lines))
            rows.append(tuple(_cell(value) for value in row))
    except csv.Error:
        raise FormatError(f"{name}, line {reader.line_num}: a quotation mark is not closed. Close it.") from None
    return rows


def _decoded(data: bytes, name: str) -> str:
    """Return the text: in UTF-16 or UTF-32 if it is marked so, in UTF-8, else in what older spreadsheets write."""
    codes: tuple[str, ...]
    if data[:4] in (b"\xff\xfe\0\0", b"\0\0\xfe\xff"):
        codes = ("utf-32",)
    elif data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        codes = ("utf-16",)
    else:
        codes = ("utf-8-sig", "cp1252")
    for code in codes:
        try:
            return data.decode(code)
        except UnicodeDecodeError:
            continue
    raise FormatError(f"{name} is in an unknown text encoding. Save the table as CSV in UTF-8.")


def _delimiter(lines: list[str]) -> str:
    """Return the mark that cuts the first lines into most cells of equal number."""
    best, best_score = ",", (0, 0)
    for mark in (";", "\t", ","):
        try:
            counts = [len(row) for row in csv.reader(lines, delimiter=mark) if any(cell.strip() for cell in row)]
        except csv.Error:
            continue
        if not counts:
            continue
        usual = max(set(counts), key=counts.count)
        score = (counts.count(usual) if usual > 1 else 0, usual)
        if score > best_score:
            best, best_score = mark, score
    return best


# Workbooks


def _read_workbook(data: bytes, name: str, sheet: str, go_on: GoOn) -> tuple[tuple[str, ...], list[tuple[Cell, ...]]]:
    import msgspec

    from equilix.io.table_reader import ERROR, FORMULA, Answer

    answer = _outcome([sys.executable, "-P", "-m", "equilix.io.table_reader", sheet], data, name, go_on)
    try:
        found = msgspec.json.decode(answer, type=Answer)
    except msgspec.DecodeError:
        raise FormatError(f"{name} is damaged or not a workbook. Save it again.") from None
    if found.wrong:
        raise FormatError(f"{name} {found.wrong}")

    def cell(value: str | float | bool | None) -> Cell:
        if isinstance(value, str) and value.startswith(FORMULA):
            return Formula(value[1:])
        if isinstance(value, str) and value.startswith(ERROR):
            return value[1:] or "#ERR"
        return _cell(value)

    return tuple(found.sheets), [tuple(cell(value) for value in row) for row in found.rows]


def _outcome(command: list[str], data: bytes, name: str, go_on: GoOn) -> bytes:
    """Run the reader on `data` and return what it wrote. It ends with this process, and when it is stopped."""
    try:
        # Through memory, not a pipe: it need not be fed while it is waited for.
        memory = os.memfd_create("table")
        try:
            with os.fdopen(os.dup(memory), "wb") as file:
                file.write(data)
            os.lseek(memory, 0, os.SEEK_SET)
            reader = subprocess.Popen(command, stdin=memory, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
        finally:
            os.close(memory)
    except OSError:
        raise FormatError(f"{name} cannot be read: no reader starts. Close other programs first.") from None
    end = time.monotonic() + _PATIENCE
    try:
        while True:
            try:
                return reader.communicate(timeout=0.05)[0]
            except subprocess.TimeoutExpired:
                go_on_or_stop(go_on, 0.0)
            if time.monotonic() > end:
                raise FormatError(f"{name} takes too long to read. Save only the sheet with the parts.")
    finally:
        if reader.poll() is None:
            reader.kill()
            reader.communicate()
