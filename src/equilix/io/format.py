"""The document file: JSON with a version, checked as it is read."""

from __future__ import annotations

import contextlib
import os
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec

from equilix.core.assembly.build import Build, Operator, check_build
from equilix.core.assembly.parts import Part
from equilix.core.errors import AssemblyError, FormatError
from equilix.core.measurement.records import Instrument, Measurement
from equilix.document.book import DEFAULT_OPERATOR, Book

FORMAT = "equilix book"
VERSION = 4
SUFFIX = ".equilix"
#: Bytes. A book of 5,000 parts takes about 4 MB.
MAX_FILE = 200_000_000


@dataclass(frozen=True)
class _File:
    format: str
    version: int
    title: str
    currency: str = "€"
    kit: tuple[Part, ...] = ()
    builds: tuple[Build, ...] = ()
    operators: tuple[Operator, ...] = (DEFAULT_OPERATOR,)
    instruments: tuple[Instrument, ...] = ()
    measurements: tuple[Measurement, ...] = ()


@dataclass(frozen=True)
class _Head:
    format: str
    version: int


def encode_book(book: Book) -> bytes:
    """Return `book` as the UTF-8 JSON of a file, indented for people."""
    content = _File(
        FORMAT,
        VERSION,
        book.title,
        book.currency,
        book.kit,
        book.builds,
        book.operators,
        book.instruments,
        book.measurements,
    )
    return msgspec.json.format(msgspec.json.encode(content), indent=1) + b"\n"


def decode_book(data: bytes, name: str) -> Book:
    """Return the book in the file contents `data`; `name` stands in error messages.

    Raises
    ------
    FormatError
        If it isn't an Equilix book, was written by a newer version, or doesn't hold together.
    """
    if not data.strip():
        raise FormatError(f"{name} is empty.")
    try:
        head = msgspec.json.decode(data, type=_Head)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        raise FormatError(f"{name} is not an Equilix book.") from None
    if head.format != FORMAT:
        raise FormatError(f"{name} is not an Equilix book.")
    if head.version > VERSION:
        raise FormatError(
            f"{name} was written by a newer Equilix (format {head.version}; this one reads up to {VERSION}). "
            "Update Equilix to open it; the file is unchanged."
        )
    if head.version < 1:
        raise FormatError(f"{name} has a format number that never existed: {head.version}.")
    try:
        content = msgspec.json.decode(data, type=_File)
        book = Book(
            content.title,
            content.currency,
            content.kit,
            content.builds,
            content.operators,
            content.instruments,
            content.measurements,
        )
        _check(book)
    except msgspec.ValidationError as error:
        raise FormatError(f"{name}: {_plain(str(error))}") from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        raise FormatError(f"{name} is damaged: it is not complete JSON.") from None
    except AssemblyError as error:
        raise FormatError(f"{name}: {error}") from None
    return book


def _check(book: Book) -> None:
    for things, word in (
        (book.kit, "parts"),
        (book.builds, "builds"),
        (book.operators, "operators"),
        (book.instruments, "instruments"),
        (book.measurements, "measurements"),
    ):
        ids = [thing.id for thing in things]
        if len(set(ids)) != len(ids):
            raise AssemblyError(f"two {word} have the same id.")
    if not book.operators:
        raise AssemblyError("there is no operator; the list operators must hold at least one.")
    for build in book.builds:
        check_build(build, book.parts)
    for measurement in book.measurements:
        for part_id in measurement.part_ids:
            if part_id not in book.parts:
                raise AssemblyError(f"measurement {measurement.id!r} is of a part {part_id!r} that is not in the kit.")


def _plain(message: str) -> str:
    """Return a decoder's message in plain words: where it is and what is wrong."""
    text, _, path = message.partition(" - at `")
    where = path.rstrip("`").replace("$.", "").replace("[...]", "")
    return f"{where or 'the document'}: {text[:1].lower()}{text[1:]}."


def read_book(path: Path) -> Book:
    """Return the book in the file at `path`; FormatError if it can't be read."""
    try:
        if path.stat().st_size > MAX_FILE:
            raise FormatError(f"{path.name} is too large to be an Equilix book.")
        data = path.read_bytes()
    except FileNotFoundError:
        raise FormatError(f"{path.name} is not there; it may have been moved or renamed.") from None
    except IsADirectoryError:
        raise FormatError(f"{path.name} is a folder; choose a file.") from None
    except PermissionError:
        raise FormatError(f"{path.name} may not be read; check its permissions.") from None
    except OSError as error:
        raise FormatError(f"{path.name} can't be read: {error.strerror}.") from None
    return decode_book(data, path.name)


def write_book(book: Book, path: Path) -> None:
    """Write `book` to `path` so that the file is either wholly old or wholly new."""
    write_whole(encode_book(book), path)


def write_whole(data: bytes, path: Path) -> None:
    """Write `data` to `path` in one move; FormatError, with the old file untouched, if that fails."""
    target = path.resolve()  # a link stays a link
    temporary = ""
    try:
        mode = target.stat().st_mode & 0o777 if target.exists() else None
        handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.")
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if mode is None:
            mask = os.umask(0)
            os.umask(mask)
            mode = 0o666 & ~mask
        os.chmod(temporary, mode)
        os.replace(temporary, target)
    except OSError as error:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)
        raise FormatError(f"{path.name} can't be written: {error.strerror}. Save a copy somewhere else.") from None


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of the document file."""
    _, components = msgspec.json.schema_components((_File,), ref_template="#/$defs/{name}")
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


def _add_bounds(components: dict[str, Any]) -> None:
    from equilix.core.limits import BODY_MASS, MAX_MASS, STATURE

    for name, field, low, high in (
        ("Part", "mass", 0.0, MAX_MASS),
        ("Operator", "stature", *STATURE),
        ("Operator", "body_mass", *BODY_MASS),
    ):
        prop = components[name]["properties"][field]
        numeric = [option for option in prop.get("anyOf", [prop]) if option.get("type") == "number"]
        for option in numeric:
            option["minimum"], option["maximum"] = low, high
