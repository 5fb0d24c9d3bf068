"""Writes the kit as CSV, XLSX or ODS, so that a spreadsheet shows it and Equilix reads it again."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from equilix.document.book import Book
from equilix.io.csv_escaping import escaped
from equilix.io.files import write_whole
from equilix.present.kit.differing import export_rows


def write_kit(book: Book, path: Path) -> None:
    """Write the kit to `path`, as what its name says, else as CSV; FormatError if it can't be written."""
    kind = path.suffix.casefold()
    data = _xlsx(book) if kind in (".xlsx", ".xlsm") else _ods(book) if kind == ".ods" else _csv(book)
    write_whole(data, path)


def csv_text(rows: list[list[str | float | None]]) -> str:
    """Return rows as CSV that no spreadsheet takes for more than texts and numbers; texts always in quotes.

    Without quotes, one that cuts at semicolons would take what follows a semicolon for a cell of its own.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n", quoting=csv.QUOTE_NONNUMERIC)
    for row in rows:
        writer.writerow([float(f"{v:.10g}") if isinstance(v, float) else escaped(v) for v in row])
    return out.getvalue()


def _csv(book: Book) -> bytes:
    # The mark lets spreadsheets see that it is UTF-8.
    return b"\xef\xbb\xbf" + csv_text(export_rows(book)).encode()


def _xlsx(book: Book) -> bytes:
    import openpyxl  # slow to import, and rarely wanted
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Font

    workbook = openpyxl.Workbook(write_only=True)
    sheet = workbook.create_sheet("Kit")
    sheet.freeze_panes = "B2"
    sheet.column_dimensions["A"].width = 34
    for number, row in enumerate(export_rows(book)):
        cells = []
        for value in row:
            cell = WriteOnlyCell(sheet, value=escaped(value))
            if isinstance(value, str):
                # Text stays text, whatever it looks like.
                cell.data_type = "s"
            if number == 0:
                cell.font = Font(bold=True)
            cells.append(cell)
        sheet.append(cells)
    out = io.BytesIO()
    workbook.save(out)
    return out.getvalue()


def _ods(book: Book) -> bytes:
    from odfdo import Cell, Document, Row, Table  # slow to import, and rarely wanted

    document = Document("spreadsheet")
    document.body.clear()
    table = Table("Kit")
    for row in export_rows(book):
        line = Row()
        for value in row:
            line.append_cell(Cell(None if value is None else escaped(value)), clone=False)
        table.append_row(line, clone=False)
    document.body.append(table)
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()
