"""Reads a table of parts with their places, what people keep in a spreadsheet, as a build that is one piece."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.errors import AssemblyError, FormatError
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind, Outline, Part, Point, Shape
from equilix.core.limits import MAX_LENGTH, MAX_NAME, MAX_PLACED
from equilix.io.csv_escaping import unescaped
from equilix.io.files import shown
from equilix.io.tables import Cell, RawTable, read_table

COLUMNS = ("name", "mass_kg", "x_mm", "y_mm", "z_mm", "length_mm", "width_mm", "height_mm")
#: Parts: a build may have no more, and what holds them needs a few.
MOST_PARTS = MAX_PLACED - 10
_NUMBERS = COLUMNS[1:]
_NUMBER = re.compile(r"[+-]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][+-]?[0-9]+)?")
#: The way in which each axis of a gimbal turns.
_TURNS = {
    MountKind.PAN_AXIS: (0.0, 0.0, 1.0),
    MountKind.ROLL_AXIS: (1.0, 0.0, 0.0),
    MountKind.TILT_AXIS: (0.0, 1.0, 0.0),
}
#: The part whose frame the table's places are counted in: its mark is the rig's origin.
_ORIGIN = "origin"


class TableRow(Struct, frozen=True):
    """One part and where its own CG is (m, rig frame)."""

    part: Part
    at: Point


def read_parts_table(path: Path) -> tuple[TableRow, ...]:
    """Return the parts of the table at `path`.

    Raises
    ------
    FormatError
        If the file can't be read or a cell doesn't hold what its column needs; the message names the
        file, the row as a spreadsheet counts it, and the column.
    """
    table = read_table(path)
    head, rows = headed(table, COLUMNS, ("shape",))
    if len(rows) > MOST_PARTS:
        raise FormatError(f"{table.name} has more than {MOST_PARTS} parts. Keep only the rig’s.")
    return tuple(_row(table.name, number, cells, head) for number, cells in rows)


def headed(
    table: RawTable, needed: Sequence[str], others: Sequence[str] = ()
) -> tuple[dict[str, int], list[tuple[int, tuple[Cell, ...]]]]:
    """Return where each known column is, and the rows below the header that aren't blank, as a spreadsheet counts.

    Raises
    ------
    FormatError
        If a `needed` column is missing, one stands twice, or a cell stands under no heading.
    """
    rows = [(number, row) for number, row in enumerate(table.rows, 1) if any(cell is not None for cell in row)]
    first, header = rows[0]
    names = [str(cell or "").strip().casefold() for cell in header]
    for column in (*needed, *others):
        if names.count(column) > 1:
            raise FormatError(f"{table.name}: column {column} occurs twice. Keep one.")
    missing = [column for column in needed if column not in names]
    if missing:
        raise FormatError(f"{table.name}: row {first} lacks the column {', '.join(missing)}.")
    for number, row in rows[1:]:
        if any(cell is not None and not name for cell, name in zip(row, names, strict=True)):
            raise FormatError(f"{table.name}, row {number}: a cell stands under no heading. Check the commas.")
    if len(rows) == 1:
        raise FormatError(f"{table.name}: no parts stand below the header. Add some.")
    return {column: names.index(column) for column in (*needed, *others) if column in names}, rows[1:]


def plain_name(name: str) -> str:
    """Return a name as one line of printable text, no longer than a name may be."""
    return "".join(c if c.isprintable() else " " for c in name).strip()[:MAX_NAME]


def _row(file: str, number: int, cells: tuple[Cell, ...], head: dict[str, int]) -> TableRow:
    where = f"{file}, row {number}"
    values = {column: value_of(f"{where}, column {column}", cells[head[column]]) for column in _NUMBERS}
    shape = str((cells[head["shape"]] if "shape" in head else None) or Shape.BOX).casefold()
    if shape not in tuple(Shape):
        raise FormatError(f"{where}, column shape: {_quoted(shape)} is not box or cylinder.")
    size = (values["length_mm"] / 1e3, values["width_mm"] / 1e3, values["height_mm"] / 1e3)
    if shape == Shape.CYLINDER and not math.isclose(size[1], size[2], rel_tol=1e-9):
        raise FormatError(f"{where}: a cylinder’s width_mm and height_mm must be equal.")
    name = unescaped(str(cells[head["name"]] or ""))
    plain = plain_name(name) or f"Part {number}"
    outline = Outline(size, (0.0, 0.0, 0.0), Shape(shape))
    known = HowKnown.SHEET
    part = Part(f"part {number}", plain, Category.OTHER, values["mass_kg"], known, outline, (0.0, 0.0, 0.0), known)
    return TableRow(part, (values["x_mm"] / 1e3, values["y_mm"] / 1e3, values["z_mm"] / 1e3))


def value_of(where: str, cell: Cell) -> float:
    """Return the number in a cell, within what a part may have; FormatError where there is none."""
    column = where.rsplit(" ", 1)[1]
    text = cell.strip() if isinstance(cell, str) else ""
    if not isinstance(cell, float) and _NUMBER.fullmatch(text) is None:
        raise FormatError(f"{where}: {_quoted(text)} is not a number. Correct it.")
    value = cell if isinstance(cell, float) else float(text)
    mass, place = column == "mass_kg", column in ("x_mm", "y_mm", "z_mm")
    if abs(value) > (Part.BOUNDS["mass"].high if mass else 1e3 * MAX_LENGTH):
        raise FormatError(f"{where}: {_quoted(str(cell))} is too large. Correct it.")
    if value < 0.0 and not place:
        raise FormatError(f"{where}: {_quoted(str(cell))} is below zero. Correct it.")
    return value


def _quoted(text: str) -> str:
    if not text:
        return "an empty cell"
    return f'"{text[:40]}…"' if len(text) > 40 else f'"{text}"'


def table_build(
    path: Path, rows: Sequence[TableRow], key: str, mounts: Sequence[MountKind] = (), at: Point = (0.0, 0.0, 0.0)
) -> tuple[Build, Kit]:
    """Return a table's parts as a build with no joints of its own, held `at` a point (m) by `mounts` of a support.

    Raises
    ------
    FormatError
        If the parts don't make a build.
    """
    kit: dict[str, Part] = {}
    placed: list[Placed] = []
    axes = [kind for kind in mounts if kind in _TURNS]
    before: str | None = None
    # Outside each axis stands what it turns on, without mass.
    for kind in (*axes, None):
        name = _ORIGIN if kind is None else str(kind)
        touch = tuple(Mount(str(one), one, at) for one in mounts if kind is None and one not in _TURNS)
        kit[name] = Part(name, name.capitalize(), Category.BODY if kind is None else Category.OTHER, 0.0, mounts=touch)
        joint = None if before is None else _turning(placed[-1].id, at)
        placed.append(Placed(name, name, before, own=joint, own_foot=at if joint is not None else (0.0, 0.0, 0.0)))
        before = name
    for row in rows:
        kit[row.part.id] = row.part
        placed.append(Placed(row.part.id, row.part.id, _ORIGIN, own=Mount("own", MountKind.OWN, row.at)))
    try:
        return Build("table", shown(path)[:MAX_NAME], tuple(placed), key), kit
    except AssemblyError as error:
        raise FormatError(f"{shown(path)}: {error}") from None


def _turning(kind: str, at: Point) -> Mount:
    """Return the joint of one axis of a gimbal at `at` (m), all the way round."""
    axis = MountKind(kind)
    return Mount("own", axis, at, Connection.TURN, _TURNS[axis], -math.pi, math.pi)
