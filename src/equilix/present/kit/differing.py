"""Rows of a table that differ from the kit, in words, and the kit as rows."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.kit.parts import Part
from equilix.core.kit.records import Quantity
from equilix.core.kit.uncertainty import COVERAGE, whole_mass_uncertainty
from equilix.document.book import Book
from equilix.document.provenance import latest
from equilix.present.kit.table import Column, cell, power_text
from equilix.present.units import System

SHOWN = (Column.NAME, Column.MASS, Column.HOW, Column.CG, Column.SIZE, Column.POWER, Column.PRICE)

EXPORT_HEADINGS = (
    "name",
    "kind",
    "mass, kg",
    "known by",
    "length, mm",
    "width, mm",
    "height, mm",
    "CG ahead of rear end, mm",
    "power",
    "price",
    "note",
    "± of the mass (95 %), kg",
    "last changed",
    "by",
    "how",
)


class Changed(Struct, frozen=True):
    """A figure of a part that differs: before and after, in words, and their unit."""

    what: str
    before: str
    after: str
    unit: str = ""


def differing(old: Part, new: Part) -> tuple[Changed, ...]:
    """Return the figures in which two states of a part differ as they are shown."""
    units = {Column.MASS: " kg", Column.CG: " mm", Column.SIZE: " mm"}
    found = []
    if old.mass is not None and new.mass is not None and old.mass != new.mass:
        texts = [cell(part, Column.MASS, System.METRIC) for part in (old, new)]
        if texts[0] == texts[1]:
            texts = [f"{part.mass:.4g}" for part in (old, new)]
        found.append(Changed("mass", texts[0], texts[1], " kg"))
    for column in SHOWN:
        before, after = cell(old, column, System.METRIC), cell(new, column, System.METRIC)
        if before != after and not (column is Column.MASS and found):
            found.append(Changed(column.value, before or "–", after or "–", units.get(column, "")))
    return tuple(found)


def difference(old: Part, new: Part) -> str:
    """Return what differs between two states of a part, "mass 1.36 → 1.60 kg", empty if nothing does."""
    if old == new:
        return ""
    words = [f"{c.what} {c.before} → {c.after}{c.unit}" for c in differing(old, new)]
    if old.note != new.note:
        words.append("note")
    return "; ".join(words) or "differs only in digits not shown"


def summary(part: Part) -> str:
    texts = [part.category.value]
    if part.mass is not None:
        texts.append(f"{cell(part, Column.MASS, System.METRIC)} kg {cell(part, Column.HOW, System.METRIC)}")
    else:
        texts.append("mass not known")
    if part.outline is not None:
        texts.append(f"{cell(part, Column.SIZE, System.METRIC)} mm")
    return ", ".join(texts)


def export_rows(book: Book) -> list[list[str | float | None]]:
    """Return the kit as a table that can be imported again: headings, then a row a part."""
    rows: list[list[str | float | None]] = [list(EXPORT_HEADINGS)]
    for part in book.kit:
        size = part.outline.size if part.outline is not None else (None, None, None)
        record = latest(part, Quantity.MASS)
        stamp = record.stamp if record is not None else None
        rows.append(
            [
                part.name,
                part.category.value,
                part.mass,
                part.mass_known.value if part.mass is not None else None,
                *(None if v is None else round(1000.0 * v, 4) for v in size),
                round(1000.0 * part.centre[0], 4),
                power_text(part) or None,
                part.price,
                part.note or None,
                None if part.mass is None else round(COVERAGE * whole_mass_uncertainty(part), 5),
                stamp.date if stamp is not None else None,
                stamp.by if stamp is not None else None,
                stamp.method.value if stamp is not None else None,
            ]
        )
    return rows
