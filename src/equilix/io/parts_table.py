"""Reads a table of parts with absolute positions: what people keep in a spreadsheet."""

from __future__ import annotations

import contextlib
import csv
import io
import re
from pathlib import Path

import numpy as np
from msgspec import Struct

from equilix.core.errors import FormatError
from equilix.io.csv_escaping import unescaped
from equilix.io.files import read_ordinary, shown

#: Bytes and rows; a rig has some dozen parts.
MAX_BYTES, MAX_ROWS = 30_000_000, 200_000
COLUMNS = ("name", "mass_kg", "x_mm", "y_mm", "z_mm", "length_mm", "width_mm", "height_mm")
_NUMBERS = COLUMNS[1:]
_NOT_NEGATIVE = {"mass_kg", "length_mm", "width_mm", "height_mm"}
_NUMBER = re.compile(r"[+-]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][+-]?[0-9]+)?")
_LETTERS = frozenset("0123456789+-.eE \t")
_SHAPES = ("box", "cylinder")


class PartsTable(Struct, frozen=True, eq=False):
    """n parts: names, `mass` (n,) kg, `cg` (n, 3) m, `size` (n, 3) m, `cylinder` (n,) bool (axis along x)."""

    names: tuple[str, ...]
    mass: np.ndarray
    cg: np.ndarray
    size: np.ndarray
    cylinder: np.ndarray


def read_parts_table(path: Path) -> PartsTable:
    """Return the parts of the CSV file at `path`.

    Raises
    ------
    FormatError
        If the file can't be read or a cell doesn't hold what its column needs; the message names the
        file, the row as a spreadsheet counts it, and the column.
    """
    text = _read_text(path)
    rows, numbers = _read_rows(text, path)
    header = [cell.strip().casefold() for cell in rows[0]]
    for column in (*COLUMNS, "shape"):
        if header.count(column) > 1:
            raise FormatError(f"{shown(path)}: column {column} occurs twice. Keep one.")
    missing = [column for column in COLUMNS if column not in header]
    if missing:
        raise FormatError(f"{shown(path)}: row 1 lacks the column {', '.join(missing)}.")
    body = rows[1:]
    if not body:
        raise FormatError(f"{shown(path)}: no parts stand below the header. Add some.")
    for row, number in zip(body, numbers[1:], strict=True):
        if len(row) != len(header):
            raise FormatError(
                f"{shown(path)}, row {number}: {len(row)} cells, but the header has {len(header)}. Check the commas."
            )
    columns = list(zip(*body, strict=True))
    by_name = {name: columns[header.index(name)] for name in COLUMNS}
    values = {name: _numbers(by_name[name], name, numbers[1:], path) for name in _NUMBERS}
    shapes = columns[header.index("shape")] if "shape" in header else ("",) * len(body)
    cylinder = _cylinders(shapes, values, numbers[1:], path)
    return PartsTable(
        tuple(unescaped(name) for name in by_name["name"]),
        values["mass_kg"],
        np.column_stack([values[name] for name in ("x_mm", "y_mm", "z_mm")]) / 1000.0,
        np.column_stack([values[name] for name in ("length_mm", "width_mm", "height_mm")]) / 1000.0,
        cylinder,
    )


def _read_text(path: Path) -> str:
    data = read_ordinary(path, MAX_BYTES)
    name = shown(path)
    if not data.strip():
        raise FormatError(f"{name} is empty. Choose another file.")
    if b"\0" in data:
        raise FormatError(f"{name} is not text. Save the table as CSV in UTF-8.")
    # Counted before anything is read from them: each would cost time and memory.
    if max(data.count(b"\n"), data.count(b"\r")) > MAX_ROWS + 1:
        raise FormatError(f"{name} has more than {MAX_ROWS} rows. Keep only the rig’s.")
    if data.count(b",") + data.count(b";") + data.count(b"\t") > MAX_ROWS * 2 * len(COLUMNS):
        raise FormatError(f"{name} has too many cells. Keep only the rig’s.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        row = data[: error.start].count(b"\n") + 1
        raise FormatError(f"{name}, row {row}: not UTF-8 text. Save the table as CSV in UTF-8.") from None


def _read_rows(text: str, path: Path) -> tuple[list[list[str]], list[int]]:
    """Return the rows that aren't blank and the number that a spreadsheet gives to each."""
    first_line = text.lstrip("\r\n").split("\n", 1)[0]
    delimiter = next((d for d in (",", ";", "\t") if d in first_line), ",")
    csv.field_size_limit(max(csv.field_size_limit(), len(text) + 1))
    rows: list[list[str]] = []
    numbers: list[int] = []
    number = 0
    try:
        for number, row in enumerate(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True), 1):
            if any(cell.strip() for cell in row):
                rows.append(row)
                numbers.append(number)
    except csv.Error:
        raise FormatError(f"{shown(path)}, row {number + 1}: a quotation mark is not closed. Close it.") from None
    if not rows:
        raise FormatError(f"{shown(path)} is empty. Choose another file.")
    return rows, numbers


def _numbers(cells: tuple[str, ...], column: str, rows: list[int], path: Path) -> np.ndarray:
    # One look at the letters of the whole column is far quicker than one look at each cell.
    values = np.empty(0)
    if _LETTERS.issuperset("".join(cells)):
        with contextlib.suppress(ValueError):
            values = np.array(list(map(float, cells)))
    if values.size != len(cells):
        for cell, row in zip(cells, rows, strict=True):
            if _NUMBER.fullmatch(cell.strip()) is None:
                raise FormatError(
                    f"{shown(path)}, row {row}, column {column}: {_quote(cell)} is not a number. Correct it."
                )
        values = np.array([float(cell) for cell in cells])
    finite = np.isfinite(values)
    if not finite.all():
        bad = int(np.flatnonzero(~finite)[0])
        raise FormatError(
            f"{shown(path)}, row {rows[bad]}, column {column}: {_quote(cells[bad])} is too large. Correct it."
        )
    if column in _NOT_NEGATIVE and (values < 0.0).any():
        bad = int(np.flatnonzero(values < 0.0)[0])
        raise FormatError(
            f"{shown(path)}, row {rows[bad]}, column {column}: {_quote(cells[bad])} is below zero. Correct it."
        )
    return values


def _cylinders(shapes: tuple[str, ...], values: dict[str, np.ndarray], rows: list[int], path: Path) -> np.ndarray:
    names = [shape.strip().casefold() or "box" for shape in shapes]
    for shape, cell, row in zip(names, shapes, rows, strict=True):
        if shape not in _SHAPES:
            raise FormatError(f"{shown(path)}, row {row}, column shape: {_quote(cell)} is not box or cylinder.")
    cylinder = np.array([shape == "cylinder" for shape in names])
    width, height = values["width_mm"], values["height_mm"]
    uneven = cylinder & (np.abs(width - height) > 1e-9 * np.maximum(width, height))
    if uneven.any():
        bad = int(np.flatnonzero(uneven)[0])
        raise FormatError(f"{shown(path)}, row {rows[bad]}: a cylinder’s width_mm and height_mm must be equal.")
    return cylinder


def _quote(cell: str) -> str:
    shown = "".join(c if c.isprintable() else " " for c in cell.strip())
    if not shown:
        return "an empty cell"
    return f'"{shown[:40]}…"' if len(shown) > 40 else f'"{shown}"'
