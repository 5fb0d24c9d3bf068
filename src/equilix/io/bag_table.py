"""Reads what is in a bag: a table of names and masses, with sizes and kinds where somebody gave them."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from equilix.core.errors import FormatError
from equilix.io.csv_escaping import unescaped
from equilix.io.parts_table import headed, plain_name, value_of
from equilix.io.tables import Cell, read_table

#: Rows: a bag has some dozen things.
MOST_ROWS = 900
_NEEDED = ("name", "mass_kg")
_SIZE = ("length_mm", "width_mm", "height_mm")


class BagRow(Struct, frozen=True):
    """One thing of a bag: its `mass` (kg), `size` (mm) and the key of its `kind`, where the table gives them."""

    row: int
    name: str
    mass: float | None
    size: tuple[float, float, float] | None = None
    kind: str = ""


def read_bag(path: Path) -> tuple[BagRow, ...]:
    """Return what the table at `path` lists.

    Raises
    ------
    FormatError
        If the file can't be read, or a cell doesn't hold what its column needs; the message names file, row and column.
    """
    table = read_table(path)
    head, rows = headed(table, _NEEDED, (*_SIZE, "kind"))
    if len(rows) > MOST_ROWS:
        raise FormatError(f"{table.name} has more than {MOST_ROWS} rows. Keep only the rig’s.")
    return tuple(_row(table.name, number, cells, head) for number, cells in rows)


def _row(file: str, number: int, cells: tuple[Cell, ...], head: dict[str, int]) -> BagRow:
    where = f"{file}, row {number}"
    name = plain_name(unescaped(str(cells[head["name"]] or "")))
    if not name:
        raise FormatError(f"{where}, column name: an empty cell. Give the part a name.")
    mass = cells[head["mass_kg"]]
    kind = str((cells[head["kind"]] if "kind" in head else None) or "").strip()
    size = _size(where, cells, head)
    return BagRow(number, name, None if mass is None else value_of(f"{where}, column mass_kg", mass), size, kind)


def _size(where: str, cells: tuple[Cell, ...], head: dict[str, int]) -> tuple[float, float, float] | None:
    given = [cells[head[column]] if column in head else None for column in _SIZE]
    if all(cell is None for cell in given):
        return None
    length, width, height = (
        value_of(f"{where}, column {column}", cell) for column, cell in zip(_SIZE, given, strict=True)
    )
    return length, width, height
