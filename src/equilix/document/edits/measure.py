"""Edits of scales and measurements, and of part figures by them."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import AssemblyError, EditError
from equilix.core.kit.records import Instrument, Measurement, Quantity, Shared, Stamp
from equilix.document.book import Book
from equilix.document.provenance import with_figure


class MeasuredFigure(Struct, frozen=True):
    """A new value of a part's figure (SI), its own standard uncertainty, and mass errors in common with others."""

    part_id: str
    quantity: Quantity
    value: float
    u: float
    shared: tuple[Shared, ...] = ()


def _with_figures(book: Book, figures: tuple[MeasuredFigure, ...], stamp: Stamp) -> Book:
    parts = dict(book.parts)
    for figure in figures:
        part = parts.get(figure.part_id)
        if part is None:
            raise EditError("A weighed part is gone from the kit. Remove its weighing.")
        try:
            parts[part.id] = with_figure(part, figure.quantity, figure.value, figure.u, stamp, figure.shared)
        except AssemblyError as error:
            raise EditError(str(error)) from None
    return replace(book, kit=tuple(parts[part.id] for part in book.kit))


class PutInstrument(Struct, frozen=True):
    """Add a scale, or put it in the place of the one with its id."""

    instrument: Instrument
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Change {self.instrument.name}"

    def apply(self, book: Book) -> Book:
        if self.instrument.id in book.scales:
            return replace(
                book,
                instruments=tuple(self.instrument if i.id == self.instrument.id else i for i in book.instruments),
            )
        return replace(book, instruments=(*book.instruments, self.instrument))


class RemoveInstrument(Struct, frozen=True):
    """Take a scale out of the book; refused while measurements name it."""

    instrument_id: str
    label: ClassVar[str] = "Remove scale"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        if any(m.instrument == self.instrument_id for m in book.measurements):
            raise EditError("This scale has weighings. Remove them first.")
        return replace(book, instruments=tuple(i for i in book.instruments if i.id != self.instrument_id))


class StoreMeasurements(Struct, frozen=True):
    """Add measurements, and set the figures of single parts that follow from them."""

    measurements: tuple[Measurement, ...]
    figures: tuple[MeasuredFigure, ...]
    stamp: Stamp
    what: str
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return f"Store weighing of {self.what}"

    def apply(self, book: Book) -> Book:
        taken = {m.id for m in book.measurements}
        for measurement in self.measurements:
            if measurement.id in taken:
                raise EditError("That weighing is stored already.")
            if any(part_id not in book.parts for part_id in measurement.part_ids):
                raise EditError("A weighed part is gone from the kit. Remove its weighing.")
            if measurement.instrument and measurement.instrument not in book.scales:
                raise EditError("That weighing’s scale is gone from the book. Remove the weighing.")
        book = replace(book, measurements=(*book.measurements, *self.measurements))
        return _with_figures(book, self.figures, self.stamp)


class UseMeasurement(Struct, frozen=True):
    """Count a measurement, or leave it out."""

    measurement_id: str
    used: bool
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return "Count weighing" if self.used else "Leave weighing out"

    def apply(self, book: Book) -> Book:
        return replace(
            book,
            measurements=tuple(
                replace(m, used=self.used) if m.id == self.measurement_id else m for m in book.measurements
            ),
        )


class RemoveMeasurement(Struct, frozen=True):
    """Throw a measurement away. Figures that came of it stay as they are."""

    measurement_id: str
    label: ClassVar[str] = "Remove weighing"
    merge_key: ClassVar[None] = None

    def apply(self, book: Book) -> Book:
        return replace(book, measurements=tuple(m for m in book.measurements if m.id != self.measurement_id))


class AcceptFigures(Struct, frozen=True):
    """Take reconciled values for the figures of parts."""

    figures: tuple[MeasuredFigure, ...]
    stamp: Stamp
    merge_key: ClassVar[None] = None

    @property
    def label(self) -> str:
        return "Accept reconciled value" if len(self.figures) == 1 else f"Accept {len(self.figures)} reconciled values"

    def apply(self, book: Book) -> Book:
        return _with_figures(book, self.figures, self.stamp)
