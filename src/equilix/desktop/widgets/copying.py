"""Copies a table as it is seen, with headings and units: as text in columns, and as a table for spreadsheets."""

from __future__ import annotations

import re
from collections.abc import Sequence

from PySide6.QtCore import QMimeData
from PySide6.QtGui import QGuiApplication

from equilix.io.csv_escaping import escaped

_NUMBER = r"[+\-−]?\d[\d\u2009]*([.,]\d+)?"


def _cell(text: str) -> str:
    """Return a text as a spreadsheet should take it: figures as numbers, the rest as text that it does not run."""
    if re.fullmatch(_NUMBER, text):
        return text.replace("−", "-").replace("\u2009", "").removeprefix("+")
    return str(escaped(text))


def copy_table(headings: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
    """Put `rows` under their `headings` on the clipboard; texts that a spreadsheet would run are made harmless."""
    import html

    lines = [[_cell(text) for text in line] for line in (headings, *rows)]
    data = QMimeData()
    data.setText("\n".join("\t".join(line) for line in lines))
    cells = [
        "".join(f"<{tag}>{html.escape(text)}</{tag}>" for text in line)
        for line, tag in zip(lines, ("th", *("td" for _ in rows)), strict=True)
    ]
    table = "".join(f"<tr>{line}</tr>" for line in cells)
    data.setHtml(f'<meta charset="utf-8"><table>{table}</table>')
    QGuiApplication.clipboard().setMimeData(data)
