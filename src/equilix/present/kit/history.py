"""Where a figure of a part comes from, and what it was before, in words."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.kit.parts import HowKnown, Part
from equilix.core.kit.records import Quantity, Stamp
from equilix.core.units import Kind
from equilix.present.kit.table import HOW_WORDS
from equilix.present.units import System, figure, uncertainty


def stamp_words(stamp: Stamp) -> str:
    """Return when, by whom, how and on which scale."""
    when = stamp.date
    return ", ".join(
        text for text in (stamp.method.value, stamp.instrument, f"by {stamp.by}" if stamp.by else "", when) if text
    )


def provenance_words(part: Part) -> str:
    """Return in one line where a part's mass and CG come from."""
    if part.mass is None:
        return "mass not known: weigh it"
    last = next((r for r in reversed(part.records) if r.quantity is Quantity.MASS), None)
    by = {HowKnown.WEIGHED: "weighed", HowKnown.SHEET: "from the maker’s sheet", HowKnown.GUESSED: "estimated"}
    words = f"mass {by[part.mass_known]}"
    if last is not None and last.value == part.mass and stamp_words(last.stamp):
        words = f"mass {stamp_words(last.stamp)}"
    if part.cg_axis_u != (None, None, None):
        axes = [name for name, u in zip(("x", "y", "z"), part.cg_axis_u, strict=True) if u is not None]
        return f"{words}, CG {', '.join(axes)} measured"
    return f"{words}, CG {by[part.cg_known]}"


class HistoryRow(Struct, frozen=True):
    """One record of a part's figure in words."""

    quantity: str
    value: str
    known: str
    how: str
    when: str


def history_rows(part: Part, system: System) -> tuple[HistoryRow, ...]:
    """Return the records of a part, newest first."""
    rows = []
    for record in reversed(part.records):
        kind = Kind.MASS if record.quantity is Quantity.MASS else Kind.LENGTH
        value = "not known"
        if record.value is not None:
            value = f"{figure(record.value, kind, system, extra=1)} {uncertainty(record.uncertainty, kind, system)}"
        by = f" by {record.stamp.by}" if record.stamp.by else ""
        how = record.stamp.method.value + (f", {record.stamp.instrument}" if record.stamp.instrument else "")
        if record.stamp == Stamp():
            how = "earlier value"
        rows.append(HistoryRow(record.quantity.value, value, HOW_WORDS[record.known], how + by, record.stamp.date))
    return tuple(rows)
