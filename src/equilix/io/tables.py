"""Reads a table as it is in a CSV or XLSX file: rows of texts and numbers, with bounds on what is taken in."""

from __future__ import annotations

import csv
import itertools
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from equilix.core.errors import FormatError

#: A kit has some hundred parts; what is larger is something else, or an attack.
MAX_ROWS = 20_000
MAX_COLUMNS = 200
MAX_CELL = 500
MAX_BYTES = 60_000_000
#: Bytes that a workbook may unfold to.
MAX_UNFOLDED = 400_000_000


@dataclass(frozen=True, slots=True)
class Formula:
    """A cell with a formula whose result the file doesn't hold."""

    text: str


Cell = str | float | Formula | None


@dataclass(frozen=True, slots=True)
class RawTable:
    """Rows as a spreadsheet numbers them from 1; short ones are filled with None."""

    name: str
    rows: tuple[tuple[Cell, ...], ...]

    @property
    def width(self) -> int:
        """Number of columns."""
        return len(self.rows[0]) if self.rows else 0


def sheet_names(path: Path) -> tuple[str, ...]:
    """Return the sheets of a workbook; empty for a file that has none. FormatError if it can't be read."""
    if not is_workbook(path):
        return ()
    book = _workbook(path, values=True)
    try:
        return tuple(str(name) for name in book.sheetnames)
    finally:
        book.close()


def is_workbook(path: Path) -> bool:
    """Whether the file is to be read as XLSX."""
    return path.suffix.casefold() in (".xlsx", ".xlsm")


def read_table(path: Path, sheet: str = "") -> RawTable:
    """Return the table in the file at `path`, of the named or the first sheet.

    Raises
    ------
    FormatError
        If it can't be read, is no table, or is larger than any kit; the message names the file.
    """
    _check_size(path)
    rows = _workbook_rows(path, sheet) if is_workbook(path) else _csv_rows(path)
    taken: list[tuple[Cell, ...]] = []
    for row in rows:
        if len(taken) >= MAX_ROWS:
            raise FormatError(f"{path.name} has more than {MAX_ROWS} rows: that is no kit. Cut it down and try again.")
        if len(row) > MAX_COLUMNS:
            raise FormatError(f"{path.name}, row {len(taken) + 1} has more than {MAX_COLUMNS} cells: that is no kit.")
        taken.append(tuple(_cell(value) for value in row))
    while taken and all(cell is None for cell in taken[-1]):
        taken.pop()
    if not taken:
        raise FormatError(f"{path.name} has no rows.")
    width = max(len(row) - next((i for i, c in enumerate(reversed(row)) if c is not None), len(row)) for row in taken)
    filled = tuple((row + (None,) * width)[:width] for row in taken)
    return RawTable(path.name, filled)


def _check_size(path: Path) -> None:
    try:
        size = path.stat().st_size
    except FileNotFoundError:
        raise FormatError(f"{path.name} is not there; it may have been moved or renamed.") from None
    except OSError as error:
        raise FormatError(f"{path.name} can't be read: {error.strerror}.") from None
    if path.is_dir():
        raise FormatError(f"{path.name} is a folder; choose a file.")
    if size == 0:
        raise FormatError(f"{path.name} is empty.")
    if size > MAX_BYTES:
        raise FormatError(f"{path.name} is larger than {MAX_BYTES // 1_000_000} MB: that is no kit.")


def _cell(value: Any) -> Cell:
    if value is None or isinstance(value, Formula):
        return value
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return float(value)
    text = " ".join(str(value).split())
    return text[:MAX_CELL] or None


# CSV


def _csv_rows(path: Path) -> Iterator[list[Any]]:
    encoding = _encoding(path)
    try:
        with path.open(encoding=encoding, newline="") as file:
            head = list(itertools.islice(file, 20))
            delimiter = _delimiter(head)
            lines = _no_zeros(itertools.chain(head, file), path)
            yield from csv.reader(lines, delimiter=delimiter, strict=True)
    except UnicodeDecodeError:
        raise FormatError(f"{path.name} is no text in a usual code: save the table as CSV in UTF-8.") from None
    except csv.Error:
        raise FormatError(f"{path.name} has a quotation mark that is not closed, or stands inside a cell.") from None
    except OSError as error:
        raise FormatError(f"{path.name} can't be read: {error.strerror}.") from None


def _no_zeros(lines: Iterable[str], path: Path) -> Iterator[str]:
    for line in lines:
        if "\0" in line:
            raise FormatError(f"{path.name} is not text; save the table as CSV in UTF-8, or as XLSX.")
        yield line


def _encoding(path: Path) -> str:
    """Return the text's code: UTF-8, UTF-16 if it is marked so, else what older spreadsheets write."""
    with path.open("rb") as file:
        start = file.read(4)
        if start[:2] in (b"\xff\xfe", b"\xfe\xff"):
            return "utf-16"
        file.seek(0)
        try:
            for piece in iter(lambda: file.read(1 << 20), b""):
                # A letter cut by the end of a piece is seen whole with the next bytes.
                (piece + file.read(4) if len(piece) == 1 << 20 else piece).decode("utf-8")
        except UnicodeDecodeError:
            return "cp1252"
    return "utf-8-sig"


def _delimiter(lines: list[str]) -> str:
    """Return the mark that cuts the first lines into most cells of equal number."""
    best, best_score = ",", (0, 0)
    for mark in (";", "\t", ","):
        counts = [len(row) for row in csv.reader(lines, delimiter=mark) if any(cell.strip() for cell in row)]
        if not counts:
            continue
        usual = max(set(counts), key=counts.count)
        score = (counts.count(usual) if usual > 1 else 0, usual)
        if score > best_score:
            best, best_score = mark, score
    return best


# XLSX


def _workbook(path: Path, values: bool) -> Any:
    import openpyxl  # slow to import, and rarely wanted

    try:
        with zipfile.ZipFile(path) as archive:
            if sum(info.file_size for info in archive.infolist()) > MAX_UNFOLDED:
                raise FormatError(
                    f"{path.name} unfolds to more than any kit needs; save only the sheet with the parts."
                )
        return openpyxl.load_workbook(path, read_only=True, data_only=values)
    except (zipfile.BadZipFile, KeyError, ValueError, TypeError, OSError, EOFError) as error:
        raise FormatError(f"{path.name} is no workbook that can be read ({type(error).__name__}).") from None


def _workbook_rows(path: Path, sheet: str) -> Iterator[list[Any]]:
    values, formulas = _workbook(path, values=True), _workbook(path, values=False)
    try:
        names = values.sheetnames
        if sheet and sheet not in names:
            raise FormatError(f"{path.name} has no sheet {sheet!r}.")
        chosen = sheet or names[0]
        if not hasattr(values[chosen], "iter_rows"):
            raise FormatError(f"{path.name}: sheet {chosen!r} holds no table.")
        pairs = zip(_rows(values[chosen]), _rows(formulas[chosen]), strict=False)
        for shown, written in pairs:
            yield [_resolved(v, w) for v, w in zip(shown, written, strict=False)]
    except (zipfile.BadZipFile, KeyError, ValueError, TypeError, EOFError, SyntaxError) as error:
        raise FormatError(f"{path.name} is damaged ({type(error).__name__}): save it anew.") from None
    finally:
        values.close()
        formulas.close()


def _rows(sheet: Any) -> Iterator[tuple[Any, ...]]:
    # The size that a file claims for its sheet may be wrong.
    sheet.reset_dimensions()
    yield from sheet.iter_rows(values_only=True)


def _resolved(shown: Any, written: Any) -> Any:
    if shown is None and written is not None:
        return Formula(str(written)[:MAX_CELL])
    return shown
