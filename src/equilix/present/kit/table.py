"""The kit as a table: what each cell shows, and what typing into it means."""

from __future__ import annotations

import csv
import io
import re
from enum import StrEnum

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.errors import AssemblyError, EditError
from equilix.core.kit.kinds import TYPICAL, odd_mass, odd_size
from equilix.core.kit.parts import TOUCH_POINTS, Category, HowKnown, MountKind, Outline, Part, Shape
from equilix.core.kit.uncertainty import whole_mass_uncertainty
from equilix.core.units import Kind
from equilix.document.book import Book, new_id
from equilix.document.kinds.naming import read_name
from equilix.document.kinds.of_part import kind_of_part, reading_of
from equilix.document.kinds.records import Kinds, PartKind, shipped_kinds
from equilix.document.typical_parts import part_kind, typical_of
from equilix.io.csv_escaping import unescaped
from equilix.present.kit.kind_words import in_mm, key_for, kind_words, read_kind, usual, with_kind
from equilix.present.units import System, figure, number, parse, uncertainty, unit_of


class Column(StrEnum):
    """The kit table's columns, left to right."""

    KIND = "kind"
    NAME = "name"
    MASS = "mass"
    UNCERTAINTY = "±"
    HOW = "known by"
    CG = "CG"
    SIZE = "size"
    FITS = "fits"
    OFFERS = "offers"
    POWER = "power"
    PRICE = "price"


COLUMNS = tuple(Column)
EDITABLE = frozenset(
    {
        Column.KIND,
        Column.NAME,
        Column.MASS,
        Column.UNCERTAINTY,
        Column.HOW,
        Column.CG,
        Column.SIZE,
        Column.POWER,
        Column.PRICE,
    }
)
#: What a cell of the column of masses says where nobody knows it; whoever types or pastes it may say more.
MASS_NOT_KNOWN = "?"
_NO_MASS = frozenset({MASS_NOT_KNOWN, "not known", "mass not known", "no mass"})
#: G for a guess was the letter before.
_HOW_KEYS = {"w": HowKnown.WEIGHED, "s": HowKnown.SHEET, "e": HowKnown.GUESSED, "g": HowKnown.GUESSED}
#: Words in which the table shows how a figure is known.
HOW_WORDS = {HowKnown.WEIGHED: "weighed", HowKnown.SHEET: "sheet", HowKnown.GUESSED: "estimated"}


def heading(column: Column, system: System, currency: str) -> str:
    """Return a column's heading with its unit."""
    match column:
        case Column.KIND:
            return ""
        case Column.MASS:
            return f"mass, {unit_of(Kind.MASS, system)}"
        case Column.CG:
            return f"CG, {unit_of(Kind.LENGTH, system)}"
        case Column.SIZE:
            return f"size, {unit_of(Kind.LENGTH, system)}"
        case Column.PRICE:
            return f"price, {currency}"
        case _:
            return column.value


def cell(part: Part, column: Column, system: System, kinds: Kinds | None = None) -> str:
    """Return the text of a part's cell; `kinds` are those that its book knows."""
    match column:
        case Column.KIND:
            return kind_words(reading_of(part, kinds or shipped_kinds()))
        case Column.NAME:
            return part.name
        case Column.MASS:
            if part.mass is None:
                return MASS_NOT_KNOWN
            about = "≈ " if part.mass_known is HowKnown.GUESSED else ""
            return about + figure(part.mass, Kind.MASS, system, unit=False)
        case Column.UNCERTAINTY:
            return uncertainty(whole_mass_uncertainty(part), Kind.MASS, system) if part.mass is not None else ""
        case Column.HOW:
            return HOW_WORDS[part.mass_known] if part.mass is not None else "–"
        case Column.CG:
            near = figure(part.centre[0], Kind.LENGTH, system, unit=False)
            if part.cg_travel:
                return f"{near}–{figure(part.centre[0] + part.cg_travel, Kind.LENGTH, system, unit=False)}"
            return near
        case Column.SIZE:
            return size_text(part, system)
        case Column.FITS:
            found = [foot.kind.value for foot in part.feet]
            return ", ".join(dict.fromkeys(found)) or "–"
        case Column.OFFERS:
            found = [mount.kind.value for mount in part.mounts if mount.kind not in TOUCH_POINTS]
            return ", ".join(dict.fromkeys(found))
        case Column.POWER:
            return power_text(part)
        case Column.PRICE:
            return "" if part.price is None else f"{part.price:,.0f}".replace(",", "\u2009")


def power_text(part: Part) -> str:
    """Return a part's draw or capacity."""
    if part.capacity:
        return f"{part.capacity:g} Wh"
    return f"{part.draw:g} W" if part.draw else ""


def size_text(part: Part, system: System) -> str:
    """Return length × width × height, or length × diameter of a cylinder."""
    if part.outline is None:
        return "–"
    sizes = part.outline.size[:2] if part.outline.shape is Shape.CYLINDER else part.outline.size
    texts = [figure(value, Kind.LENGTH, system, unit=False) for value in sizes]
    return "×".join(texts) if part.outline.shape is Shape.BOX else f"{texts[0]}×ø{texts[1]}"


def mount_kinds(part: Part) -> tuple[tuple[MountKind, ...], tuple[MountKind, ...]]:
    """Return the kinds that a part needs and those that it offers to other parts, for their signs."""
    needs = tuple(dict.fromkeys(foot.kind for foot in part.feet))
    offers = tuple(mount.kind for mount in part.mounts if mount.kind not in TOUCH_POINTS)
    return needs, offers


def matches(part: Part, words: str) -> bool:
    """Whether all `words` occur in the part's name, kind, mounts or note."""
    if not words:
        return True
    text = " ".join(
        (
            part.name,
            part.category,
            part.mass_known,
            part.note,
            *(f.kind for f in part.feet),
            *(m.kind for m in part.mounts),
        )
    ).casefold()
    return all(word in text for word in words.casefold().split())


def edit_text(part: Part, column: Column, system: System, kinds: Kinds | None = None) -> str:
    """Return what the editor of a cell starts with."""
    text = cell(part, column, system, kinds)
    if column is Column.KIND:
        return kind_of_part(part, kinds or shipped_kinds()).title
    if column is Column.MASS:
        return "" if part.mass is None else text.removeprefix("≈ ")
    if column is Column.UNCERTAINTY:
        return text.removeprefix("± ")
    if column is Column.SIZE:
        return "" if text == "–" else text.replace("ø", "")
    if column is Column.CG:
        return text.replace("–", " to ")
    if column is Column.PRICE:
        return "" if part.price is None else f"{part.price:g}"
    return text


def changed(part: Part, column: Column, text: str, system: System, kinds: Kinds | None = None) -> Part:
    """Return `part` with `text` typed into its cell; `kinds` are those that its book knows.

    Raises
    ------
    EditError
        If the text doesn't make sense there; the message shows how to write it.
    """
    text = text.strip()
    try:
        return _changed(part, column, text, system, kinds or shipped_kinds())
    except AssemblyError as error:
        raise EditError(str(error)) from None


def _changed(part: Part, column: Column, text: str, system: System, kinds: Kinds) -> Part:
    match column:
        case Column.NAME:
            return replace(part, name=text)
        case Column.KIND:
            return with_kind(part, read_kind(text, kinds), kinds)
        case Column.MASS:
            mass, how = parse_mass(text, system)
            return replace(part, mass=mass, mass_known=how or part.mass_known, mass_u=None, shared=(), scale="")
        case Column.UNCERTAINTY:
            if not text:
                return replace(part, mass_u=None, shared=())
            return replace(part, mass_u=parse(text.removeprefix("±"), Kind.MASS, system) / 2.0, shared=())
        case Column.HOW:
            return replace(part, mass_known=known_of(text), mass_u=None, shared=())
        case Column.CG:
            # A zoom has two: at its wide end and at its long end.
            near, _, far = text.replace("–", " to ").partition(" to ")
            x = parse(near, Kind.LENGTH, system)
            travel = parse(far, Kind.LENGTH, system) - x if far.strip() else 0.0
            _, y, z = part.centre
            if abs(x - part.centre[0]) < 5e-7:
                return replace(part, cg_travel=travel)
            return replace(part, cg=(x, y, z), cg_axis_u=(None, *part.cg_axis_u[1:]), cg_travel=travel)
        case Column.SIZE:
            return _with_size(part, parse_size(text, system) if text else None, kinds)
        case Column.POWER:
            return _with_power(part, text)
        case Column.PRICE:
            return replace(part, price=_plain(text, "price") if text else None)
        case _:
            raise EditError(f"{column} follows from the part’s mounts. Change them below the table.")


def odd_words(part: Part, old: Part | None, system: System) -> str:
    """Return a question if the part's mass or size is far from what such parts have, "" if not or if it was before."""
    if part.mass is not None and odd_mass(part.category, part.mass) and (old is None or old.mass != part.mass):
        about = figure(TYPICAL[part.category][0], Kind.MASS, system)
        kind = part.category.value
        return (
            f"{figure(part.mass, Kind.MASS, system, extra=1)} is unusual for this kind ({kind}: about {about}). "
            "Enter keeps it."
        )
    if part.outline is not None and odd_size(part.outline.size) and (old is None or old.outline != part.outline):
        size = f"{size_text(part, system)} {unit_of(Kind.LENGTH, system)}"
        return f"{size} is unusual for this kind. Enter keeps it."
    return ""


def _with_size(part: Part, size: tuple[float, float, float] | None, kinds: Kinds) -> Part:
    if size is None:
        return replace(part, outline=None)
    if part.outline is None:
        made = usual(part, kinds, in_mm(size))
        return replace(part, outline=made.outline, cg=made.cg if part.cg is None else part.cg)
    shape = part.outline.shape
    if shape is Shape.CYLINDER and abs(size[1] - size[2]) > 1e-9:
        raise EditError("A cylinder has one diameter. Type length × diameter.")
    old = part.outline
    as_usual = usual(part, kinds, in_mm(old.size))
    if part.mounts == as_usual.mounts and part.feet == as_usual.feet:
        made = usual(part, kinds, in_mm(size))
        cg = made.cg if part.cg == as_usual.cg else part.cg
        return replace(part, outline=made.outline, mounts=made.mounts, feet=made.feet, cg=cg)
    # The side that holds the part stays where it is: the middle moves in proportion.
    centre = tuple(
        c * (new / before) if before > 0.0 else c for c, new, before in zip(old.centre, size, old.size, strict=True)
    )
    return replace(part, outline=Outline(size, (centre[0], centre[1], centre[2]), shape))


def _with_power(part: Part, text: str) -> Part:
    if not text:
        return replace(part, draw=None, capacity=None)
    match = re.fullmatch(r"([0-9.,]+)\s*(wh|w)?", text.casefold())
    if match is None:
        raise EditError(f'"{text[:40]}" is not a power. Type 8 W or 98 Wh.')
    value = _plain(match[1], "power")
    stores = match[2] == "wh" or (match[2] is None and part.category is Category.BATTERY)
    return replace(part, capacity=value, draw=None) if stores else replace(part, draw=value, capacity=None)


def _plain(text: str, what: str) -> float:
    try:
        value = float(text.replace(",", ".").replace(" ", "").replace("\u2009", ""))
    except ValueError:
        raise EditError(f'"{text[:40]}" is not a {what}. Type a number.') from None
    return value


def known_of(text: str) -> HowKnown:
    """Return how known a word or letter says; EditError if none."""
    key = text.strip().casefold()[:1]
    if key == "m":
        key = "s"
    if key not in _HOW_KEYS:
        raise EditError("Known by is W (weighed), S (maker’s sheet) or E (estimated).")
    return _HOW_KEYS[key]


def parse_mass(text: str, system: System) -> tuple[float | None, HowKnown | None]:
    """Return the mass (kg) and, if a letter W, S or E follows or ≈ leads, how it is known; None for an empty text."""
    how = None
    text = text.strip()
    if text.startswith(("≈", "~")):
        how, text = HowKnown.GUESSED, text[1:].strip()
    match = re.fullmatch(r"(.*[0-9a-z.])\s+([wsegWSEG])", text) or re.fullmatch(r"(.*[0-9])([wseWSE])", text)
    # A letter that is a unit too is always the unit: "1.9 g" and "410 G" are grams, "2.4 kg g" is a guess.
    if match is not None and not re.fullmatch(r"[0-9.,]+\s*[gG]", text):
        text, how = match[1], known_of(match[2])
    if not text or text.casefold() in _NO_MASS:
        return None, how
    mass = parse(text, Kind.MASS, system)
    if mass < 0.0:
        raise EditError("The mass is below zero. Type 0 or more.")
    return mass, how


def parse_size(text: str, system: System) -> tuple[float, float, float]:
    """Return length, width and height (m) of "166×104×130", "207 x 108" (length x diameter) or "4 in x 2 in x 2 in"."""
    cells = [c.strip(" ø") for c in re.split(r"[×xX*]", text) if c.strip(" ø")]
    if len(cells) not in (2, 3):
        raise EditError(f'"{text[:40]}" is not a size. Type length × width × height, or length × diameter.')
    if not re.search(r"[a-zA-Z\"″]", " ".join(cells[:-1])):
        unit = re.search(r"[a-zA-Z\"″]+$", cells[-1])
        if unit is not None:
            cells = [*(c + " " + unit[0] for c in cells[:-1]), cells[-1]]
    values = [parse(c, Kind.LENGTH, system) for c in cells]
    if min(values) < 0.0:
        raise EditError("The size is below zero. Type 0 or more.")
    return (values[0], values[1], values[-1])


def new_part(
    book: Book,
    name: str,
    mass_text: str,
    size: str,
    system: System,
    taken: frozenset[str] = frozenset(),
    how: HowKnown | None = None,
    kind: PartKind | None = None,
) -> Part:
    """Return a part of what was typed in the entry row, with the usual mounts of its kind: `kind`, or its name's.

    Raises
    ------
    EditError
        If the name is empty or a figure can't be read.
    """
    name = name.strip()
    if not name:
        raise EditError("The part has no name. Type one in the first cell.")
    mass, read_how = parse_mass(mass_text, system) if mass_text.strip() else (None, None)
    # Nothing said means a figure from somewhere: never better known than a maker's sheet.
    known = read_how or how or HowKnown.SHEET
    try:
        measured = in_mm(parse_size(size, system)) if size.strip() else None
        part_id = new_id("part", set(book.parts) | taken)
        kinds = book.known_kinds
        found = kind or read_name(name, kinds).kind or part_kind(Category.OTHER, "")
        part = typical_of(found, part_id, name, mass, measured)
        key = key_for(name, kind, kinds) if kind is not None else ""
        return replace(part, mass_known=known, cg_known=HowKnown.GUESSED, kind=key)
    except AssemblyError as error:
        raise EditError(str(error)) from None


class Pasted(Struct, frozen=True):
    """Parts read from pasted rows, and each row that couldn't be read with why."""

    parts: tuple[Part, ...]
    problems: tuple[str, ...]


#: Rows and letters that are pasted at once.
MAX_PASTED, _MAX_LETTERS = 2_000, 2_000_000


def paste(book: Book, text: str, system: System) -> Pasted:
    """Return the parts in rows pasted from a spreadsheet: name, mass, size, how known.

    A header row is skipped. Cells may carry their units.
    """
    if len(text) > _MAX_LETTERS or text.count("\n") > MAX_PASTED:
        return Pasted((), (f"More than {MAX_PASTED} rows were copied. Save them as a table and import it (Ctrl+I).",))
    dialect = "\t" if "\t" in text else ("," if text.count(",") >= text.strip().count("\n") + 1 else ";")
    parts: list[Part] = []
    problems: list[str] = []
    units = ["", "", ""]
    rows = csv.reader(io.StringIO(text.strip("\r\n"), newline=""), delimiter=dialect)
    try:
        listed = list(rows)
    except csv.Error:
        return Pasted((), ("A copied cell never ends. Copy the rows again.",))
    for index, row in enumerate(listed, 1):
        cells = [unescaped(c.strip()) for c in row]
        if not any(cells):
            continue
        if index == 1 and cells[0].casefold() in ("name", "part", "item", "description"):
            units = [_unit_in(heading) for heading in (*cells, "", "", "")]
            continue
        padded = [*cells, "", "", ""]
        padded[1], padded[2] = (_with_unit(padded[k], units[k]) for k in (1, 2))
        try:
            how = known_of(padded[3]) if padded[3] else None
            ids = frozenset(part.id for part in parts)
            parts.append(new_part(book, padded[0], padded[1], padded[2], system, ids, how))
        except (EditError, AssemblyError) as error:
            problems.append(f"Row {index}: {error}")
    return Pasted(tuple(parts), tuple(problems))


def _unit_in(heading: str) -> str:
    """Return the unit that a heading such as "mass, lb" or "size (mm)" names, "" if none."""
    match = re.search(r"[,(]\s*(kg|g|lb|oz|mm|cm|m|in)\s*\)?$", heading.strip(), re.IGNORECASE)
    return match[1].lower() if match is not None else ""


def _with_unit(text: str, unit: str) -> str:
    """Return a bare number with the unit of its column; ≈ and letters stay."""
    return f"{text} {unit}" if unit and text and not re.search(r"[a-zA-Z]", text.replace("x", "")) else text


def summary(book: Book, system: System) -> str:
    """Return the line beside the title: how many parts, how heavy, how many guessed."""
    if not book.kit:
        return "no parts yet"
    total = sum(part.mass or 0.0 for part in book.kit)
    guessed = sum(part.mass is not None and part.mass_known is HowKnown.GUESSED for part in book.kit)
    missing = sum(part.mass is None for part in book.kit)
    words = f"{number(len(book.kit), 0)} parts, {figure(total, Kind.MASS, system)}, {guessed} estimated"
    return words + (f", {missing} with mass not known" if missing else "")
