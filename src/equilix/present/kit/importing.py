"""A foreign table becomes parts: which column is what, which row is which part, and what it would change."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from enum import StrEnum

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import AssemblyError, EditError
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.limits import is_plain
from equilix.core.units import from_display
from equilix.document.book import Book, new_id
from equilix.document.kinds.records import Kinds, PartKind
from equilix.document.typical_parts import part_kind, typical_of
from equilix.io.csv_escaping import unescaped
from equilix.io.files import GoOn, go_on_or_stop, never_stop
from equilix.io.tables import Cell, Formula, RawTable
from equilix.present.kit.differing import difference, summary
from equilix.present.kit.kind_words import key_for, read_kind
from equilix.present.kit.table import Column, changed, known_of, power_text
from equilix.present.units import System


class ImportField(StrEnum):
    """What a column of a foreign table can hold."""

    NAME = "name"
    MASS = "mass"
    HOW = "known by"
    LENGTH = "length"
    WIDTH = "width"
    HEIGHT = "height"
    SIZE = "size, L × W × H"
    CG_X = "CG ahead of rear end"
    KIND = "kind"
    PRICE = "price"
    POWER = "power, W or Wh"
    NOTE = "note"


#: Words by which a heading tells what its column holds; the longest match wins.
_HEADINGS: tuple[tuple[ImportField, tuple[str, ...]], ...] = (
    (ImportField.NAME, ("name", "part", "item", "description", "designation", "bezeichnung", "nom", "nombre")),
    (ImportField.MASS, ("mass", "weight", "gewicht", "masse", "poids", "peso")),
    (ImportField.HOW, ("known by", "how known", "known", "source of mass")),
    (ImportField.LENGTH, ("length", "länge", "longueur", "depth")),
    (ImportField.WIDTH, ("width", "breite", "largeur")),
    (ImportField.HEIGHT, ("height", "höhe", "hauteur")),
    (ImportField.SIZE, ("size", "dimensions", "dimension", "l x w x h", "lxwxh", "l × w × h")),
    (ImportField.CG_X, ("cg", "cog", "centre of gravity", "center of gravity", "cg forward")),
    (ImportField.KIND, ("kind", "category", "type")),
    (ImportField.PRICE, ("price", "cost", "value", "preis", "prix")),
    (ImportField.POWER, ("power", "draw", "capacity", "watt")),
    (ImportField.NOTE, ("note", "remark", "comment")),
)
#: Letters of a heading that are looked at.
_HEADING = 200
MASS_UNITS = ("kg", "g", "lb", "oz")
LENGTH_UNITS = ("mm", "cm", "m", "in")
_LENGTHS = frozenset({ImportField.LENGTH, ImportField.WIDTH, ImportField.HEIGHT, ImportField.SIZE, ImportField.CG_X})


class Match(Struct, frozen=True):
    """What a column holds (None: nothing that is taken) and in which unit bare numbers are."""

    field: ImportField | None
    unit: str = ""


def units_for(field: ImportField | None) -> tuple[str, ...]:
    """Return the units that a field may be in."""
    if field is ImportField.MASS:
        return MASS_UNITS
    return LENGTH_UNITS if field in _LENGTHS else ()


def guess_header(table: RawTable) -> int:
    """Return the index of the row that looks most like headings, among the first thirty."""
    best, best_score = 0, 0
    for index, row in enumerate(table.rows[:30]):
        score = len({match.field for match in guess_matches(table, index) if match.field is not None})
        texts = sum(isinstance(value, str) for value in row)
        if score > best_score and texts >= score:
            best, best_score = index, score
    return best


def guess_matches(table: RawTable, header: int) -> tuple[Match, ...]:
    """Return what each column holds, by its heading; a field is given out once."""
    matches: list[Match] = []
    taken: set[ImportField] = set()
    for value in table.rows[header]:
        field = _field_of(value)
        if field in taken:
            field = None
        if field is not None:
            taken.add(field)
        matches.append(Match(field, _unit_of(value, field)))
    return tuple(matches)


def _field_of(value: Cell) -> ImportField | None:
    if not isinstance(value, str):
        return None
    words = value[:_HEADING].casefold()
    best: tuple[int, ImportField] | None = None
    for field, names in _HEADINGS:
        for name in names:
            # A short word must stand by itself: "type" is not in "prototype".
            if re.search(rf"(?<![a-zäöü]){re.escape(name)}(?![a-zäöü])", words) and (
                best is None or len(name) > best[0]
            ):
                best = (len(name), field)
    return best[1] if best is not None else None


def _unit_of(value: Cell, field: ImportField | None) -> str:
    units = units_for(field)
    if not units or not isinstance(value, str):
        return ""
    found = re.findall(r"(?<![a-z])(kg|g|lbs?|oz|mm|cm|m|in|inch|grams?|pounds?)(?![a-z])", value[:_HEADING].casefold())
    names = {"lbs": "lb", "inch": "in", "gram": "g", "grams": "g", "pound": "lb", "pounds": "lb"}
    for unit in found:
        if names.get(unit, unit) in units:
            return str(names.get(unit, unit))
    return units[0]


def heading_text(table: RawTable, header: int, column: int) -> str:
    """Return a column's heading, or its letter if it has none, as under a merged one."""
    value = table.rows[header][column]
    return " ".join(value[:_HEADING].split()) if isinstance(value, str) else f"column {column_letter(column)}"


def column_letter(column: int) -> str:
    """Return the letter by which a spreadsheet names a column."""
    letters = ""
    column += 1
    while column:
        column, rest = divmod(column - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


# Numbers


class _Marks(Struct, frozen=True):
    """Which decimal marks a column uses without uncertainty."""

    point: bool
    comma: bool


_GROUPED = re.compile(r"[+-]?\d{1,3}([.,' ]\d{3})+")
_PLAIN = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?")


def _marks(texts: Sequence[str]) -> _Marks:
    sure = [t for t in texts if not _GROUPED.fullmatch(t)]
    return _Marks(any(re.search(r"\d\.\d|^\.\d", t) for t in sure), any(re.search(r"\d,\d|^,\d", t) for t in sure))


def parse_number(text: str, marks: _Marks) -> float:
    """Return a number with a decimal point or comma; EditError if it is none, or could be two."""
    text = text.strip().replace("−", "-").replace("\u00a0", " ").replace("\u2009", " ")
    if "," in text and "." in text:
        decimal = max(",.", key=text.rfind)
        thousands = "." if decimal == "," else ","
        whole, _, rest = text.rpartition(decimal)
        if decimal in whole or not re.fullmatch(rf"[+-]?\d{{1,3}}(\{thousands}\d{{3}})*", whole) or not rest.isdigit():
            raise EditError(f'"{text[:40]}" is not a number. Type digits, such as 2.4.')
        text = f"{whole.replace(thousands, '')}.{rest}"
    elif _GROUPED.fullmatch(text):
        mark = re.sub(r"[+\-\d]", "", text)
        if len(mark) > 1 or mark in "' ":
            text = re.sub(r"[.,' ]", "", text)
        elif (mark == "," and marks.point) or (mark == "." and marks.comma):
            whole = text.replace(mark, "")
            raise EditError(f'"{text}" can mean {whole} or {text.replace(mark, ".", 1)}. Type it without "{mark}".')
    if not _PLAIN.fullmatch(text):
        raise EditError(f'"{text[:40]}" is not a number. Type digits, such as 2.4.')
    value = float(text.replace(",", "."))
    if not math.isfinite(value):
        raise EditError(f'"{text[:40]}" is too large. Check the unit.')
    return value


# Rows


class RowState(StrEnum):
    NEW = "new"
    CHANGED = "changed"
    SAME = "same"
    PROBLEM = "problem"


class ImportRow(Struct, frozen=True):
    """One row of the table: its number there, what would come of it, and the changes or the problem in words.

    `loses_weighing`: a weighed mass would give way to one that was not weighed.
    """

    number: int
    name: str
    state: RowState
    words: str
    part: Part | None = None
    loses_weighing: bool = False


def read_rows(
    table: RawTable,
    header: int,
    matches: Sequence[Match],
    book: Book,
    how: HowKnown = HowKnown.SHEET,
    go_on: GoOn = never_stop,
) -> tuple[ImportRow, ...]:
    """Return what each row below the header would do to the kit of `book`.

    Parts are known again by their name, whatever its case and spaces. Empty cells change nothing. `how`
    says how masses are known where no column does. Raises Stopped if `go_on` says so.
    """
    columns = {match.field: i for i, match in enumerate(matches) if match.field is not None}
    if ImportField.NAME not in columns:
        return ()
    units = {match.field: match.unit for match in matches if match.field is not None}
    marks = {
        field: _marks([v.strip() for row in table.rows[header + 1 :] if isinstance(v := row[column], str)])
        for field, column in columns.items()
    }
    by_name: dict[str, list[Part]] = {}
    for part in book.kit:
        by_name.setdefault(plain_name(part.name), []).append(part)
    reader = _RowReader(book, columns, units, marks, how, by_name)
    found = []
    for number, row in enumerate(table.rows[header + 1 :], header + 2):
        if number % 100 == 0:
            go_on_or_stop(go_on, number / len(table.rows))
        if any(value is not None for value in row):
            found.append(reader.read(number, row))
    return tuple(found)


def plain_name(name: str) -> str:
    """Return a name by which parts are known again."""
    return " ".join(name.casefold().split())


class _RowReader:
    def __init__(
        self,
        book: Book,
        columns: dict[ImportField, int],
        units: dict[ImportField, str],
        marks: dict[ImportField, _Marks],
        how: HowKnown,
        by_name: dict[str, list[Part]],
    ) -> None:
        self.columns, self.units, self.marks, self.how, self.by_name = columns, units, marks, how, by_name
        self.ids = set(book.parts)
        self.kinds = book.known_kinds
        self.seen: dict[str, int] = {}

    def read(self, number: int, row: tuple[Cell, ...]) -> ImportRow:
        raw = row[self.columns[ImportField.NAME]]
        name = "" if raw is None or isinstance(raw, Formula) else (f"{raw:g}" if isinstance(raw, float) else raw)
        name = unescaped(name)
        if not all(map(is_plain, name)):
            name = " ".join(name.split())  # spreadsheets break lines in a cell
        try:
            if isinstance(raw, Formula):
                raise EditError(f"name: {_no_result(raw)}")
            return self._read(number, name, row)
        except (EditError, AssemblyError) as error:
            text = str(error).removeprefix(f"Part {name!r}: ")
            return ImportRow(number, name or "–", RowState.PROBLEM, text)

    def _read(self, number: int, name: str, row: tuple[Cell, ...]) -> ImportRow:
        if not name:
            raise EditError("name: the cell is empty. Give the part a name.")
        key = plain_name(name)
        if key in self.seen:
            raise EditError(f"name: row {self.seen[key]} has it already. Keep one.")
        self.seen[key] = number
        values = {field: self._value(field, row[column]) for field, column in self.columns.items()}
        known = self.by_name.get(key, [])
        if len(known) > 1:
            raise EditError(f"name: {len(known)} parts of the kit have it. Rename them first.")
        old = known[0] if known else None
        part = self._part(name, values, old)
        if old is None:
            return ImportRow(number, name, RowState.NEW, summary(part), part)
        words = difference(old, part)
        if not words:
            return ImportRow(number, name, RowState.SAME, "", old)
        loses = old.mass_known is HowKnown.WEIGHED and part.mass_known is not HowKnown.WEIGHED
        return ImportRow(number, name, RowState.CHANGED, words, part, loses)

    def _value(self, field: ImportField, value: Cell) -> float | str | None:
        """Return a cell's value: SI for masses and lengths, text for words."""
        if isinstance(value, Formula):
            raise EditError(f"{field}: {_no_result(value)}")
        if value is None or field is ImportField.NAME:
            return value
        if isinstance(value, str):
            value = unescaped(value)
        if isinstance(value, str) and value.startswith("#") and value.rstrip("!?/0AN").isupper():
            raise EditError(f"{field}: the cell shows the error {value}. Correct it in the spreadsheet.")
        if field not in (ImportField.MASS, ImportField.PRICE, *_LENGTHS) or field is ImportField.SIZE:
            return f"{value:g}" if isinstance(value, float) else value
        try:
            return self._number(field, value)
        except EditError as error:
            raise EditError(f"{field}: {error}") from None

    def _number(self, field: ImportField, value: float | str) -> float:
        unit = self.units[field]
        if isinstance(value, str):
            text = value.strip().removeprefix("≈").strip()
            match = re.fullmatch(r"(.*?\d[.,]?)\s*(kg|g|lbs?|oz|mm|cm|m|in|\"|″)", text, re.IGNORECASE)
            if match is not None:
                text, unit = match[1], {"lbs": "lb", '"': "in", "″": "in"}.get(match[2].casefold(), match[2].casefold())
            value = parse_number(text, self.marks[field])
        if not math.isfinite(value):
            raise EditError("the number is too large. Check the unit.")
        if field is ImportField.PRICE:
            return value
        if unit not in units_for(field):
            raise EditError(f"in {unit or 'which unit'}? Choose one of {', '.join(units_for(field))}.")
        si = from_display(value, unit)
        if field is not ImportField.CG_X and si < 0.0:
            raise EditError(f"{value:g} {unit} is below zero. Check it.")
        return si

    def _part(self, name: str, values: dict[ImportField, float | str | None], old: Part | None) -> Part:
        size = self._size(values)
        if old is None:
            said = values.get(ImportField.KIND)
            kind = _kind(said if isinstance(said, str) else name, self.kinds)
            part_id = new_id("part", self.ids)
            self.ids.add(part_id)
            mm = None if size is None else (size[0] * 1e3, size[1] * 1e3, size[2] * 1e3)
            part = typical_of(kind, part_id, name, None, mm)
            key = key_for(name, kind, self.kinds) if isinstance(said, str) else ""
            part = replace(part, cg_known=HowKnown.GUESSED, mass_known=self.how, kind=key)
        else:
            part = old
            if size is not None and (part.outline is None or _differ(part.outline.size, size)):
                text = " × ".join(f"{1e3 * v:.6g} mm" for v in size)
                part = changed(part, Column.SIZE, text, System.METRIC)
        mass = values.get(ImportField.MASS)
        if isinstance(mass, float) and (part.mass is None or abs(part.mass - mass) > 5e-7):
            part = replace(part, mass=mass, mass_known=self.how, mass_u=None, shared=(), scale="")
        known = values.get(ImportField.HOW)
        if isinstance(known, str) and known_of(known) is not part.mass_known:
            part = replace(part, mass_known=known_of(known), mass_u=None, shared=())
        along = values.get(ImportField.CG_X)
        if isinstance(along, float) and abs(part.centre[0] - along) > 5e-7:
            part = replace(part, cg=(along, *part.centre[1:]), cg_axis_u=(None, *part.cg_axis_u[1:]))
        price = values.get(ImportField.PRICE)
        if isinstance(price, float) and price != part.price:
            part = replace(part, price=price)
        power = values.get(ImportField.POWER)
        if isinstance(power, str) and power != power_text(part):
            part = changed(part, Column.POWER, power, System.METRIC)
        note = values.get(ImportField.NOTE)
        if isinstance(note, str) and note != part.note:
            part = replace(part, note=note)
        return part

    def _size(self, values: dict[ImportField, float | str | None]) -> tuple[float, float, float] | None:
        text = values.get(ImportField.SIZE)
        if isinstance(text, str):
            cells = [c.strip(" ø") for c in re.split(r"[×xX*]", text) if c.strip(" ø")]
            if len(cells) not in (2, 3):
                raise EditError(f'{ImportField.SIZE}: "{text[:40]}" is not a size. Type length × width × height.')
            marks = _marks(cells)
            try:
                sizes = [self._number_text(cell_text, marks) for cell_text in cells]
            except EditError as error:
                raise EditError(f"{ImportField.SIZE}: {error}") from None
            return (sizes[0], sizes[1], sizes[-1])
        found = [values.get(field) for field in (ImportField.LENGTH, ImportField.WIDTH, ImportField.HEIGHT)]
        length, width, height = found
        if length is None and width is None and height is None:
            return None
        if not isinstance(length, float) or not isinstance(width, float):
            raise EditError("length, width or height is missing. Give all three, or length and diameter.")
        return (length, width, height if isinstance(height, float) else width)

    def _number_text(self, text: str, marks: _Marks) -> float:
        match = re.fullmatch(r"(.*?\d[.,]?)\s*(mm|cm|m|in|\"|″)", text, re.IGNORECASE)
        unit = self.units[ImportField.SIZE]
        if match is not None:
            text, unit = match[1], {'"': "in", "″": "in"}.get(match[2], match[2].casefold())
        value = from_display(parse_number(text, marks), unit)
        if value < 0.0:
            raise EditError(f"{text} is below zero. Check it.")
        return value


def _no_result(formula: Formula) -> str:
    return (
        f"the cell holds a formula without a result ({formula.text[:30]}). Save the workbook once, or type the value."
    )


def _kind(text: str, kinds: Kinds) -> PartKind:
    """Return the kind that a table or a name says, a plain part of no known kind where it says none."""
    try:
        return read_kind(text, kinds)
    except EditError:
        return part_kind(Category.OTHER, "")


def _differ(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    return any(abs(x - y) > 5e-5 for x, y in zip(a, b, strict=True))
