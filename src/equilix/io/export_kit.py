"""Writes the kit as CSV or XLSX, so that a spreadsheet shows it and Equilix reads it again."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from equilix.document.book import Book
from equilix.io.format import write_whole
from equilix.io.tables import is_workbook
from equilix.present.kit_import import export_rows, harmless


def write_kit(book: Book, path: Path) -> None:
    """Write the kit to `path`, as XLSX if it is called so, else as CSV; FormatError if it can't be written."""
    write_whole(_workbook(book) if is_workbook(path) else _csv(book), path)


def _csv(book: Book) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in export_rows(book):
        writer.writerow(["" if v is None else f"{v:.10g}" if isinstance(v, float) else harmless(v) for v in row])
    # The mark lets spreadsheets see that it is UTF-8.
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def _workbook(book: Book) -> bytes:
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
            cell = WriteOnlyCell(sheet, value=harmless(value))
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
