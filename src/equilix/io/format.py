"""The document file: JSON with a version, checked as it is read."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct

from equilix.core.assembly.build import Build, Hold, Operator, Settings, Take
from equilix.core.errors import AssemblyError, FormatError
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Part
from equilix.core.kit.records import Instrument, Measurement
from equilix.core.limits import MAX_THINGS, check_count
from equilix.core.records import fields_of
from equilix.core.registry import usual_settings
from equilix.core.sets import PartSet
from equilix.document.book import DEFAULT_OPERATOR, Book
from equilix.document.kinds.own import OwnKind
from equilix.document.validation import as_put_together, check_book, without_lost_names
from equilix.io.files import (
    UNCHECKED,
    Fingerprint,
    GoOn,
    Unchecked,
    go_on_or_stop,
    never_stop,
    read_known,
    shown,
    write_whole,
)
from equilix.io.migrations import brought_up, unknown_fields
from equilix.io.settings import check_known_supports, one_path, settings_from

FORMAT = "equilix book"
VERSION = 8
#: Bytes of a file; its lists take at most MAX_BOOK in one line. A book of 5,000 parts takes about 4 MB.
MAX_FILE = 50_000_000


class _File(Struct, frozen=True):
    format: str
    version: int
    title: str
    currency: str = "€"
    kit: tuple[Part, ...] = ()
    builds: tuple[Build, ...] = ()
    operators: tuple[Operator, ...] = (DEFAULT_OPERATOR,)
    instruments: tuple[Instrument, ...] = ()
    measurements: tuple[Measurement, ...] = ()
    sets: tuple[PartSet, ...] = ()
    kinds: tuple[OwnKind, ...] = ()


class _RawFile(Struct, frozen=True):
    """The same with its lists as they are written, to be read piece by piece."""

    format: str
    version: int
    title: str
    currency: str = "€"
    kit: list[msgspec.Raw] | msgspec.UnsetType = msgspec.UNSET
    builds: list[msgspec.Raw] | msgspec.UnsetType = msgspec.UNSET
    operators: list[msgspec.Raw] | msgspec.UnsetType = msgspec.UNSET
    instruments: list[msgspec.Raw] | msgspec.UnsetType = msgspec.UNSET
    measurements: list[msgspec.Raw] | msgspec.UnsetType = msgspec.UNSET
    sets: list[msgspec.Raw] | msgspec.UnsetType = msgspec.UNSET
    kinds: list[msgspec.Raw] | msgspec.UnsetType = msgspec.UNSET


class _Head(Struct, frozen=True):
    format: str
    version: int


#: The lists of the file and what they hold.
ITEMS: dict[str, type] = {
    "kit": Part,
    "builds": Build,
    "operators": Operator,
    "instruments": Instrument,
    "measurements": Measurement,
    "sets": PartSet,
    "kinds": OwnKind,
}
_MARK = re.compile(rb'"format"\s*:\s*"equilix book"')


class DamagedBook(FormatError):
    """A file that is, or was, an Equilix book, of which something may still be read."""


class Opened(Struct, frozen=True):
    """A book that was read, what its file is known by, and what was put right in it, in words."""

    book: Book
    known: Fingerprint
    mended: tuple[str, ...] = ()


def encode_book(book: Book) -> bytes:
    """Return `book` as the UTF-8 JSON of a file, indented for people unless it would grow too large to be read."""
    compact = encode_compact(book)
    indented = msgspec.json.format(compact, indent=1) + b"\n"
    return indented if len(indented) <= MAX_FILE else compact + b"\n"


def encode_compact(book: Book, lists: Mapping[str, msgspec.Raw] | None = None) -> bytes:
    """Return `book` as JSON in one line; `lists` are its lists where they are encoded already."""
    if lists is None:
        lists = {key: raw for key, (_, raw) in encoded_lists(book, {}).items()}
    head: dict[str, object] = {"format": FORMAT, "version": VERSION, "title": book.title, "currency": book.currency}
    return msgspec.json.encode(head | dict(lists))


def encoded_lists(
    book: Book, before: Mapping[str, tuple[object, msgspec.Raw]]
) -> dict[str, tuple[object, msgspec.Raw]]:
    """Return each of the book's lists with its JSON, taken from `before` where the list is the same one."""
    found = {}
    for key in ITEMS:
        things = getattr(book, key)
        known = before.get(key)
        if known is None or known[0] is not things:
            known = (things, msgspec.Raw(msgspec.json.encode(things)))
        found[key] = known
    return found


def decode_book(data: bytes, name: str) -> Book:
    """Return the book in the file contents `data`; `name` stands in error messages.

    Raises
    ------
    DamagedBook
        If it is an Equilix book that was cut off, is damaged or doesn't hold together.
    FormatError
        If it isn't an Equilix book, or was written by a newer version.
    """
    return decode_mended(data, name)[0]


def decode_mended(data: bytes, name: str, go_on: GoOn = never_stop) -> tuple[Book, tuple[str, ...]]:
    """Return the book in `data` as `decode_book` does, and what was put right in it, in words; Stopped if told to."""
    if not data.strip(b"\0 \t\r\n"):
        raise FormatError(f"{name} is empty. Choose another file.")
    version = _check_head(data, name)
    try:
        data, unknown = _present(data, version, name)
        content = msgspec.json.decode(data, type=_RawFile)
        found = {key: _things(content, key, go_on) for key in ITEMS if getattr(content, key) is not msgspec.UNSET}
        book = Book(content.title, content.currency, **found)
        book, mended = without_lost_names(book)
        check_book(book)
        book = as_put_together(book)
    except (msgspec.ValidationError, AssemblyError, RecursionError) as error:
        from equilix.io.damage import explained

        raise DamagedBook(f"{name}: {explained(data, error)}") from None
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise DamagedBook(f"{name} {_where(data, error)}") from None
    return book, (*mended, *unknown)


def _present(data: bytes, version: int, name: str) -> tuple[bytes, tuple[str, ...]]:
    """Return the contents in the present format, and in words what is in them that it has no place for."""
    content = msgspec.json.decode(data)
    if version < VERSION:
        brought_up(content, VERSION)
        data = msgspec.json.encode(content)
    check_known_supports(content, name)
    said = []
    for (thing, field), count in unknown_fields(content, _File).items():
        many = f", {count} times" if count > 1 else ""
        said.append(
            f"the field {field!r} of {_THING.get(thing, thing.lower())} is not known here and was left out{many}"
        )
    return data, tuple(said)


#: Where the class of a thing is no word of the trade.
_THING = {
    "File": "the book",
    "Part": "a part",
    "Build": "a build",
    "Placed": "a placed part",
    "Operator": "an operator",
    "Instrument": "a scale",
    "Measurement": "a weighing",
    "Mount": "a mount",
    "Foot": "a foot",
    "Outline": "an outline",
    "PartSet": "a set",
    "OwnKind": "a kind of your own",
    "Grip": "where a set is held",
    "Timed": "what was timed of a sled",
    "ShoulderSettings": "what a build says about the shoulder",
    "HandheldSettings": "what a build says of the hands",
}
#: Things that are read in one go: the window gets its turn between two.
_AT_ONCE = 50


def _things(content: _RawFile, key: str, go_on: GoOn) -> tuple[Any, ...]:
    decoder: msgspec.json.Decoder[Any] = msgspec.json.Decoder(ITEMS[key], dec_hook=settings_from)
    raws: list[msgspec.Raw] = getattr(content, key)
    check_count(raws, MAX_THINGS, "Things in one list")
    found = []
    for number, raw in enumerate(raws):
        if number % _AT_ONCE == 0:
            go_on_or_stop(go_on, number / len(raws))
        try:
            found.append(decoder.decode(raw))
        except msgspec.ValidationError as error:
            text, path = one_path(error)
            raise msgspec.ValidationError(f"{text} - at `$.{key}[{number}]{path}`") from None
    return tuple(found)


def _check_head(data: bytes, name: str) -> int:
    try:
        head = msgspec.json.decode(data, type=_Head)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        if isinstance(error, msgspec.ValidationError) or not _looks_like_a_book(data):
            raise FormatError(f"{name} is not an Equilix book. Choose another file.") from None
        raise DamagedBook(f"{name} {_where(data, error)}") from None
    if head.format != FORMAT:
        raise FormatError(f"{name} is not an Equilix book. Choose another file.")
    if head.version > VERSION:
        raise FormatError(
            f"{name} needs a newer Equilix (format {head.version}, this one reads up to {VERSION}). Update "
            "Equilix. The file is unchanged."
        )
    if head.version < 1:
        raise FormatError(f"{name} has the format number {head.version}, which does not exist. Use an earlier copy.")
    return head.version


def _looks_like_a_book(data: bytes) -> bool:
    start = msgspec.json.format(msgspec.json.encode({"format": FORMAT}), indent=1).removesuffix(b"\n}")
    # The very start of one counts too: a file can be cut off anywhere.
    return _MARK.search(data) is not None or start.startswith(data.strip(b"\0 \t\r\n"))


def _where(data: bytes, error: Exception) -> str:
    """Return in words where a file stops making sense."""
    whole = data.rstrip(b"\0 \t\r\n")
    try:
        msgspec.json.decode(whole)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as again:
        error = again
    byte = re.search(r"byte (\d+)", str(error))
    at = int(byte[1]) if byte is not None else 0
    # A letter or a number can be cut in two; then its rest is what makes no sense.
    if "truncated" in str(error) or at >= len(whole) - 4:
        line = whole.count(b"\n") + 1
        return f"ends early, in line {line}. Use an earlier copy, or open the readable part."
    line = data[:at].count(b"\n") + 1
    return f"is damaged in line {line}. Use an earlier copy, or open the readable part."


def read_book(path: Path) -> Book:
    """Return the book in the file at `path`; FormatError if it can't be read."""
    return open_book(path).book


def open_book(path: Path, go_on: GoOn = never_stop) -> Opened:
    """Return the book in the file at `path` and what it is known by.

    Raises
    ------
    FormatError
        If it can't be read; DamagedBook if something of it may be.
    Stopped
        If `go_on` says so.
    """
    data, known = read_known(path, MAX_FILE, go_on)
    book, mended = decode_mended(data, shown(path), go_on)
    go_on_or_stop(go_on, 1.0)
    return Opened(book, known, mended)


def write_book(
    book: Book, path: Path, known: Fingerprint | Unchecked | None = UNCHECKED, go_on: GoOn = never_stop
) -> Fingerprint:
    """Write `book` to `path` so that the file is either wholly old or wholly new; see `write_whole`."""
    return write_whole(encode_book(book), path, known, go_on)


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of the document file."""
    every = tuple(type(usual_settings(key)) for key in KEYS)
    _, components = msgspec.json.schema_components(
        (_File, *every), schema_hook=_any_settings, ref_template="#/$defs/{name}"
    )
    for kind in every:
        components[kind.__name__]["required"] = [*components[kind.__name__].get("required", ()), "kind"]
    components["Book"] = components.pop("_File")
    book = components["Book"]
    book["properties"]["format"] = {"const": FORMAT}
    book["properties"]["version"] = {"const": VERSION}
    _add_bounds(components)
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Equilix book, format {VERSION}",
        "description": "Lengths in m, masses in kg, angles in rad, forces in N. x forward, y left, z up.",
        "$ref": "#/$defs/Book",
        "$defs": components,
    }
    # Through JSON and back, so that it equals the published file.
    result: dict[str, Any] = msgspec.json.decode(msgspec.json.encode(schema))
    return result


def _any_settings(kind: type) -> dict[str, Any]:
    """Return what stands in the schema for settings of whichever support."""
    if kind is not Settings:
        raise NotImplementedError(kind)
    return {"anyOf": [{"$ref": f"#/$defs/{type(usual_settings(key)).__name__}"} for key in KEYS]}


def _add_bounds(components: dict[str, Any]) -> None:
    bounded: tuple[Any, ...] = (Part, Hold, Take, Operator, Build)
    bounds = {kind.__name__: [(name, bound.low, bound.high) for name, bound in kind.BOUNDS.items()] for kind in bounded}
    for settings in map(usual_settings, KEYS):
        records = ((one.name, one.setting.low, one.setting.high) for one in fields_of(settings))
        bounds[type(settings).__name__] = [(name, low, high) for name, low, high in records if low is not None]
    for kind, named in bounds.items():
        for field, low, high in named:
            prop = components[kind]["properties"][field]
            for option in prop.get("anyOf", [prop]):
                if option.get("type") == "number":
                    option["minimum"], option["maximum"] = low, high
