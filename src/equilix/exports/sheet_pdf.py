"""Prints the build sheet as PDF: elevation, parts with marks, steps in order, cautions."""

from __future__ import annotations

from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING, Any

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.document.book import Book
from equilix.io.files import write_whole
from equilix.present.balance.elevation import draw_elevation
from equilix.present.drawing.rig_drawing import DATUM_DASH, Projection, bounds, draw_cg, draw_parts
from equilix.present.drawing.scene import Anchor, PathItem, Scene, TextItem
from equilix.present.drawing.silhouettes import View
from equilix.present.sheet import SheetModel, sheet_model
from equilix.present.supports import text_of
from equilix.present.units import System

if TYPE_CHECKING:
    from fpdf import FPDF

#: Colours on paper; chosen so that a grey print loses nothing.
_INK = {
    "paper": "#FFFFFF",
    "panel": "#FFFFFF",
    "ink": "#1C2329",
    "ink2": "#465159",
    "ink3": "#59636A",
    "accent": "#0B616C",
    "onaccent": "#FFFFFF",
    "tint": "#DDEAE8",
    "fwd": "#BD560F",
    "fwdT": "#9A4708",
    "back": "#4456A8",
    "backT": "#3A4A96",
    "ghostL": "#867E6C",
    "p1": "#F1EEE6",
    "p2": "#E4DFD2",
    "p3": "#D3CCBD",
    "line": "#2A333A",
    "rule": "#D9D4C8",
    "rule2": "#BDB7A9",
}
_PX = 0.2352  # mm per px: 784 px of drawing across 184 mm of paper
_LEFT, _TOP, _WIDE, _BOTTOM = 13.0, 12.0, 184.0, 282.0
_FOOT = 290.0
_DRAWING = (784.0, 430.0)


def build_sheet(book: Book, analysis: Analysis, operator: Operator, system: System, date: str = "") -> bytes:
    """Return the sheet of one build as the bytes of a PDF file, A4 upright; `date` stands at the foot of each page."""
    from fpdf import FPDF  # slow to import, and only wanted here

    model = sheet_model(book, analysis, operator, system)
    pdf = FPDF(orientation="portrait", unit="mm", format="A4")
    pdf.set_auto_page_break(auto=False)
    pdf.set_title(f"Build sheet: {model.title}")
    pdf.set_creator("Equilix")
    folder = resources.files("equilix.data") / "fonts"
    for style, file in (("", "Barlow-Regular.ttf"), ("B", "Barlow-SemiBold.ttf")):
        with resources.as_file(folder / file) as path:
            pdf.add_font("Barlow", style, path)
    pdf.add_page()
    y = _head(pdf, model)
    drawing = draw_elevation(analysis, operator, system, *_DRAWING)
    _scene(pdf, drawing.scene, _LEFT, y)
    y += _DRAWING[1] * _PX + 5.0
    if not text_of(analysis).from_above:
        y = _from_above(pdf, analysis, drawing.projection, y)
    y = _figures(pdf, model, y)
    y = _parts(pdf, model, y)
    y = _steps(pdf, model, y)
    y = _lenses(pdf, model, y)
    _cautions(pdf, model, y)
    _feet(pdf, model, date)
    return bytes(pdf.output())


def write_build_sheet(
    path: Path, book: Book, analysis: Analysis, operator: Operator, system: System, date: str = ""
) -> None:
    """Write the sheet to `path`; FormatError if it can't be written."""
    write_whole(build_sheet(book, analysis, operator, system, date), path)


def _feet(pdf: FPDF, model: SheetModel, date: str) -> None:
    """Put build, date and page number at the foot of every page, so that loose pages find each other."""
    pages = len(pdf.pages)
    words = " · ".join(text for text in (model.title, f"printed {date}" if date else "") if text)
    for number in range(1, pages + 1):
        pdf.page = number
        _text(pdf, _LEFT, _FOOT, _cut(pdf, words, 8, _WIDE - 30), 8, color="ink3")
        page = f"page {number} of {pages}"
        pdf.set_font("Barlow", "", 8)
        _text(pdf, _LEFT + _WIDE - pdf.get_string_width(page), _FOOT, page, 8, color="ink3")


def _text(pdf: FPDF, x: float, y: float, text: str, size: float, bold: bool = False, color: str = "ink") -> None:
    pdf.set_font("Barlow", "B" if bold else "", size)
    pdf.set_text_color(*_rgb(color))
    pdf.text(x, y, _printable(pdf, text))


def _printable(pdf: FPDF, text: str) -> str:
    """Return `text` with letters that the type face lacks replaced by a box, so that printing never fails."""
    font: Any = pdf.current_font
    return "".join(c if c == " " or ord(c) in font.cmap else "\u25a1" if 0x25A1 in font.cmap else "?" for c in text)


def _rgb(token: str) -> tuple[int, int, int]:
    code = _INK[token]
    return int(code[1:3], 16), int(code[3:5], 16), int(code[5:7], 16)


def _room(pdf: FPDF, y: float, height: float) -> float:
    """Return where to go on, on a new page if `height` mm don't fit any more."""
    if y + height <= _BOTTOM:
        return y
    pdf.add_page()
    return _TOP + 4.0


def _head(pdf: FPDF, model: SheetModel) -> float:
    _text(pdf, _LEFT, _TOP + 5, _cut(pdf, model.title, 18, _WIDE, True), 18, bold=True)
    _text(pdf, _LEFT, _TOP + 11, _cut(pdf, model.subtitle, 9.5, _WIDE), 9.5, color="ink2")
    answer = model.balance.verdict
    y = _TOP + 19.0
    pdf.set_font("Barlow", "B", 13)
    words = _printable(pdf, f"{answer.in_full} {answer.note}".rstrip())
    lines: Any = pdf.multi_cell(_WIDE, 5.6, words, dry_run=True, output="LINES")
    for line in lines:
        _text(pdf, _LEFT, y, str(line), 13, bold=True, color="fwdT")
        y += 5.6
    return y - 3.6


def _from_above(pdf: FPDF, analysis: Analysis, side: Projection, y: float) -> float:
    """Print the rig from above at `y` (mm), as large as the side view and below it; return where to go on."""
    low, high = bounds(analysis)
    tall = float(high[1] - low[1]) * side.scale + 30.0
    y = _room(pdf, y, tall * _PX + 4.0)
    scene = Scene()
    scene.text(0.0, 14.0, "From above, left side up", 12, 600)
    middle = float(low[1] + high[1]) / 2.0
    top = Projection(View.TOP, side.scale, side.x0, 22.0 + (tall - 22.0) / 2.0, side.at_x, middle)
    draw_parts(scene, analysis.assembly, analysis.positions, top)
    line = top.y(0.0)
    scene.line(_DRAWING[0] * 0.1, line, _DRAWING[0] * 0.9, line, "rule2", 1.0, DATUM_DASH)
    if analysis.body is not None:
        draw_cg(scene, *top.point(analysis.body.cg), 7.0)
    _scene(pdf, scene, _LEFT, y)
    return y + tall * _PX + 4.0


def _cut(pdf: FPDF, text: str, size: float, width: float, bold: bool = False) -> str:
    pdf.set_font("Barlow", "B" if bold else "", size)
    text = _printable(pdf, text)
    if pdf.get_string_width(text) <= width:
        return text
    while text and pdf.get_string_width(text + "…") > width:
        text = text[:-1]
    return text + "…"


def _figures(pdf: FPDF, model: SheetModel, y: float) -> float:
    figures = model.balance.figures
    per_row = 4
    wide = _WIDE / per_row
    for i, row in enumerate(figures):
        x = _LEFT + (i % per_row) * wide
        line = y + (i // per_row) * 10.0
        _text(pdf, x, line, row.label, 8, color="ink2")
        _text(pdf, x, line + 4.6, f"{row.value}  {row.uncertainty}", 10.5, bold=True)
    return y + (-(-len(figures) // per_row)) * 10.0 + 3.0


def _heading(pdf: FPDF, text: str, y: float) -> float:
    y = _room(pdf, y, 16.0)
    _text(pdf, _LEFT, y + 4.0, text, 11.5, bold=True)
    pdf.set_draw_color(*_rgb("rule2"))
    pdf.set_line_width(0.2)
    pdf.line(_LEFT, y + 5.6, _LEFT + _WIDE, y + 5.6)
    return y + 10.0


def _parts(pdf: FPDF, model: SheetModel, y: float) -> float:
    y = _heading(pdf, "Parts and marks", y)
    columns = (0.0, 8.0, 78.0, 98.0, 113.0, 130.0, 166.0)
    widths = (8.0, 68.0, 19.0, 14.0, 16.0, 35.0, 18.0)
    for row in model.rows:
        y = _room(pdf, y, 5.0)
        cells = (row.letter, row.name, row.mass, row.uncertainty, row.how, row.sits_on, row.mark)
        for i, (x, width, text) in enumerate(zip(columns, widths, cells, strict=True)):
            bold = i in (0, 2, 6)
            _text(
                pdf,
                _LEFT + x,
                y,
                _cut(pdf, text, 9, width - 1.0, bold),
                9,
                bold=bold,
                color="ink" if i != 3 else "ink3",
            )
        y += 4.7
    y = _room(pdf, y, 6.0)
    _text(pdf, _LEFT, y + 1.0, _cut(pdf, model.guesses, 9, _WIDE), 9, color="ink2")
    return y + 6.0


def _paragraph(pdf: FPDF, text: str, x: float, y: float, width: float, size: float = 9.0, color: str = "ink") -> float:
    """Print `text` over as many lines as it needs; return where the next one goes."""
    pdf.set_font("Barlow", "", size)
    lines: Any = pdf.multi_cell(width, 4.4, _printable(pdf, text), dry_run=True, output="LINES")
    for line in lines:
        y = _room(pdf, y, 5.0)
        _text(pdf, x, y, str(line), size, color=color)
        y += 4.4
    return y


def _steps(pdf: FPDF, model: SheetModel, y: float) -> float:
    y = _heading(pdf, "Steps in order", y)
    for number, (name, doings, balance) in enumerate(model.steps, 1):
        y = _room(pdf, y, 11.0)
        _text(pdf, _LEFT, y, f"{number}  {name}", 10, bold=True)
        _text(pdf, _LEFT + 60.0, y, f"up to here {balance}", 9, color="ink2")
        y += 4.8
        for doing in doings:
            y = _paragraph(pdf, doing, _LEFT + 5.0, y, _WIDE - 5.0)
        y += 1.6
    return y + 1.0


def _lenses(pdf: FPDF, model: SheetModel, y: float) -> float:
    """Print the lens table: where every slide stands for each lens."""
    table = model.lenses
    if table is None:
        return y
    # The card stays in one piece, where a page has room for it.
    rows = min(4.7 * (len(table.rows) + 1), _BOTTOM - _TOP - 30.0)
    y = _heading(pdf, table.question, _room(pdf, y, 18.0 + rows))
    page, top = pdf.page, y - 3.9
    first = 56.0
    wide = (_WIDE - first) / (len(table.headings) - 1)
    places = [0.0, *(first + k * wide for k in range(len(table.headings) - 1))]
    widths = [first - 1.0, *(wide - 1.0 for _ in places[1:])]
    for x, width, text in zip(places, widths, table.headings, strict=True):
        _text(pdf, _LEFT + x, y, _cut(pdf, text, 8, width), 8, color="ink2")
    y += 4.7
    for number, row in enumerate(table.rows):
        y = _room(pdf, y, 5.0)
        for x, width, text in zip(places, widths, row, strict=True):
            bold = number == table.now
            _text(pdf, _LEFT + x, y, _cut(pdf, text, 9, width, bold), 9, bold=bold)
        y += 4.7
    if pdf.page == page:
        pdf.set_draw_color(*_rgb("ink2"))
        pdf.set_dash_pattern(dash=1.6, gap=1.2)
        pdf.rect(_LEFT - 2.0, top, _WIDE + 4.0, y - top - 2.0)
        pdf.set_dash_pattern()
        pdf.set_font("Barlow", "", 7.5)
        words = f"{model.title}: cut out, tape to the rig"
        _text(pdf, _LEFT + _WIDE - pdf.get_string_width(words), y + 1.4, words, 7.5, color="ink2")
        y += 4.4
    for words in table.notes:
        y = _paragraph(pdf, words, _LEFT, y + 0.6, _WIDE, color="ink2")
    return y + 3.0


def _cautions(pdf: FPDF, model: SheetModel, y: float) -> float:
    y = _heading(pdf, "Cautions", y)
    for caution in model.cautions:
        y = _room(pdf, y, 5.0)
        _text(pdf, _LEFT, y, "–", 9)
        y = _paragraph(pdf, caution, _LEFT + 4.0, y, _WIDE - 4.0) + 0.8
    return y


def _scene(pdf: FPDF, scene: Scene, left: float, top: float) -> None:
    """Print a scene with its px scaled to paper."""
    for item in scene.items:
        if isinstance(item, PathItem):
            _path(pdf, item, left, top)
        else:
            _label(pdf, item, left, top)


def _label(pdf: FPDF, item: TextItem, left: float, top: float) -> None:
    size = item.size * _PX * 72.0 / 25.4
    pdf.set_font("Barlow", "B" if item.weight >= 600 else "", size)
    text = _printable(pdf, item.text)
    width = pdf.get_string_width(text)
    x = left + item.x * _PX
    if item.anchor is not Anchor.START:
        x -= width if item.anchor is Anchor.END else width / 2.0
    pdf.set_text_color(*_rgb(item.color))
    pdf.text(x, top + item.y * _PX, text)


def _path(pdf: FPDF, item: PathItem, left: float, top: float) -> None:
    from fpdf.enums import PathPaintRule

    with pdf.new_path() as path:
        path.style.fill_color = _INK[item.fill] if item.fill is not None else None
        path.style.stroke_color = _INK[item.stroke] if item.stroke is not None else None
        path.style.fill_opacity = item.opacity
        path.style.stroke_width = max(item.width * _PX, 0.05)
        path.style.stroke_dash_pattern = [length * _PX for length in item.dash] if item.dash else None
        fills, strokes = item.fill is not None, item.stroke is not None and item.width > 0.0
        rules = {
            (True, True): PathPaintRule.STROKE_FILL_NONZERO,
            (True, False): PathPaintRule.FILL_NONZERO,
            (False, True): PathPaintRule.STROKE,
        }
        path.style.paint_rule = rules.get((fills, strokes), PathPaintRule.DONT_PAINT)
        path.style.auto_close = False
        for command in item.commands:
            values = [float(v) * _PX for v in command[1:]]
            x, y = left + item.dx * _PX, top + item.dy * _PX
            points = [v + (x if i % 2 == 0 else y) for i, v in enumerate(values)]
            match command[0]:
                case "M":
                    path.move_to(*points)
                case "L":
                    path.line_to(*points)
                case "C":
                    path.curve_to(*points)
                case _:
                    path.close()
