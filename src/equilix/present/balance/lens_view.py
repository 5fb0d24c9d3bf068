"""The lens table in words: marks, what is left, hand force, and one place for all."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from equilix.core.units import Kind
from equilix.present.drawing.rig_drawing import letter
from equilix.present.units import System, figure, unit_of

if TYPE_CHECKING:
    from equilix.core.solver.lenses import LensMark, LensTable

HEADINGS = (
    "lens",
    "mark",
    "moment that remains",
    "larger hand",
    "at one mark for all",
    "larger hand, one mark",
    "marked",
)


class LensRow(Struct, frozen=True):
    """One lens, cell by cell; `short` says that its mark lies beyond the slide."""

    cells: tuple[str, str, str, str, str, str, str]
    setting: float
    along: tuple[tuple[str, float], ...]  # placed ids and settings of what goes with the camera
    part_id: str
    short: bool
    now: bool


class LensModel(Struct, frozen=True):
    """The table, the fewest marks and the one place, in words."""

    rows: tuple[LensRow, ...]
    marks: tuple[str, ...]
    common: str
    note: str
    misfits: tuple[str, ...]


def lens_model(table: LensTable, now_part: str, system: System) -> LensModel:
    """Return the lens table for a build whose lens is `now_part`."""
    low = table.mount.low
    marks = tuple(f"{letter(k)} {figure(mark - low, Kind.LENGTH, system)}" for k, mark in enumerate(table.marks))
    rows = tuple(_row(row, table, now_part, system) for row in table.rows)
    count = len(table.marks)
    words = "One mark serves every lens" if count == 1 else f"{count} marks serve every lens"
    worst = max((abs(row.at_common) for row in table.rows if row.part is not None), default=0.0)
    meets = [row.part.name for row in table.rows if row.meets_common and row.part is not None]
    warned = f" Clash: at this mark parts hit with {len(meets)} lenses, first the {meets[0]}." if meets else ""
    common = figure(table.common - low, Kind.LENGTH, system)
    return LensModel(
        rows,
        marks,
        f"One mark for all lenses: {common}. At most {figure(worst, Kind.MOMENT, system)} remains.{warned}",
        f"{words}: {', '.join(marks)}." if marks else "",
        tuple(f"{part.name} {reason}" for part, reason in table.misfits),
    )


def _row(row: LensMark, table: LensTable, now_part: str, system: System) -> LensRow:
    low = table.mount.low
    short = abs(row.mark - row.stop) > 5e-4
    name = "No lens" if row.part is None else row.part.name
    if row.part is not None and row.part.cg_travel:
        name += ", at its long end" if row.long_end else ", at its wide end"
    mark = figure(row.stop - low, Kind.LENGTH, system)
    if short and table.mount.low + 5e-4 < row.stop < table.mount.high - 5e-4:
        mark += ", in the way"  # by parts that would meet; what is left over stands beside it
    elif short:
        beyond = figure(abs(row.mark - row.stop), Kind.LENGTH, system)
        mark += f", {beyond} too little travel"
    return LensRow(
        (
            name,
            mark,
            figure(abs(row.remaining), Kind.MOMENT, system, extra=1),
            figure(row.hand, Kind.FORCE, system),
            figure(row.at_common, Kind.MOMENT, system, sign=True, extra=1) + (" !" if row.meets_common else ""),
            figure(row.hand_common, Kind.FORCE, system),
            letter(row.served_by) if table.marks and row.part is not None else "–",
        ),
        row.stop,
        row.along,
        row.part.id if row.part is not None else "",
        short,
        row.part is not None and row.part.id == now_part,
    )


def tolerance_words(tolerance: float, system: System) -> str:
    """Return a moment that people type, with its unit."""
    return f"{figure(tolerance, Kind.MOMENT, system, unit=False, extra=1)} {unit_of(Kind.MOMENT, system)}"
