"""Reads what can still be read of a damaged book, thing by thing, and says what was lost."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed, check_build
from equilix.core.errors import AssemblyError, FormatError
from equilix.core.kit.parts import Part
from equilix.core.limits import MAX_THINGS, check_name, shortened
from equilix.document.book import DEFAULT_OPERATOR, Book
from equilix.document.validation import LISTS, as_put_together, check_book, without_lost_names
from equilix.io.files import GoOn, go_on_or_stop, never_stop, read_ordinary, shown
from equilix.io.format import ITEMS, MAX_FILE, VERSION
from equilix.io.migrations import brought_up
from equilix.io.settings import settings_from

_DECODER = json.JSONDecoder()
#: Parts on a build up to which each is tried by itself.
_TRIED = 300


class Salvaged(Struct, frozen=True):
    """What was read of a damaged book, and what was not, in words."""

    book: Book
    lost: tuple[str, ...]


def salvage(path: Path, go_on: GoOn = never_stop) -> Salvaged:
    """Return what can be read of the damaged book at `path`; FormatError if that is nothing, Stopped if told to."""
    return salvaged(read_ordinary(path, MAX_FILE, go_on), shown(path), go_on)


def salvaged(data: bytes, name: str, go_on: GoOn = never_stop) -> Salvaged:
    """Return what can be read in the contents `data` of a damaged book; `name` stands in messages."""
    text = data.rstrip(b"\0 \t\r\n").decode("utf-8", "replace")
    whole = _whole(text)
    if whole is not None:
        _bring_up(whole)
    found: dict[str, list[Any]] = {}
    lost: list[str] = []
    for number, (key, kind) in enumerate(ITEMS.items()):
        go_on_or_stop(go_on, number / len(ITEMS))
        things = _listed(whole.get(key)) if whole is not None else _pieces(text, key)
        taken, gone = _taken(things, kind, key)
        found[key] = taken
        if gone:
            lost.append(f"{gone} {LISTS[key]}{'s' if gone > 1 else ''}")
    kit = tuple(found["kit"])
    builds, loose = _builds_that_hold(found["builds"], {part.id: part for part in kit})
    if loose:
        lost.append(f"{loose} placed part{'s' if loose > 1 else ''} of builds")
    weighings = [m for m in found["measurements"] if {part.id for part in kit}.issuperset(m.part_ids)]
    if len(weighings) < len(found["measurements"]):
        lost.append("weighings of parts that are lost")
    parts = {part.id for part in kit}
    groups = [g for g in found["sets"] if parts.issuperset({p.part_id for p in g.parts} | {g.onto} - {""})]
    if len(groups) < len(found["sets"]):
        lost.append("sets of parts that are lost")
    if whole is None:
        lost.append("everything after the damage")
    if not kit and not found["operators"] and not builds:
        raise FormatError(f"No part of {name} can be read. Use an earlier copy.")
    book = Book(
        shortened(_named(whole, text, "title", "Kit book"), ", readable part"),
        _named(whole, text, "currency", "€"),
        kit,
        builds,
        tuple(found["operators"]) or (DEFAULT_OPERATOR,),
        tuple(found["instruments"]),
        tuple(weighings),
        tuple(groups),
        tuple(found["kinds"]),
    )
    book, _ = without_lost_names(book)
    check_book(book)
    book = as_put_together(book)
    return Salvaged(book, tuple(lost))


def _whole(text: str) -> dict[str, Any] | None:
    """Return the whole content if it is good JSON, whatever is in it."""
    try:
        content = msgspec.json.decode(text.encode("utf-8", "replace"))
    except (msgspec.DecodeError, RecursionError):
        return None
    return content if isinstance(content, dict) else None


def _bring_up(whole: dict[str, Any]) -> None:
    version = whole.get("version")
    if isinstance(version, int) and 1 <= version < VERSION:
        brought_up(whole, VERSION)


def _listed(things: Any) -> list[Any]:
    return things[:MAX_THINGS] if isinstance(things, list) else []


#: Stands for a thing that begins but can't be read.
_BROKEN = object()


def _pieces(text: str, key: str) -> Iterator[Any]:
    """Yield the things of one list of a text that is no good JSON as a whole; what can't be read as _BROKEN."""
    start = re.search(rf'(?<!\\)"{key}"\s*:\s*\[', text)
    if start is None:
        return
    at = start.end()
    for _ in range(MAX_THINGS):
        at = _skip(text, at)
        if at >= len(text) or text[at] == "]":
            return
        try:
            thing, at = _DECODER.raw_decode(text, at)
        except (json.JSONDecodeError, RecursionError):
            yield _BROKEN
            # Things of a list begin two spaces in; that of the next list is met behind its bracket.
            following = re.compile(r"\n  \{|\n \]").search(text, at + 1)
            if following is None or following[0].endswith("]"):
                return
            at = following.start() + 3
            continue
        yield thing


def _skip(text: str, at: int) -> int:
    while at < len(text) and text[at] in ", \t\r\n":
        at += 1
    return at


def _taken(things: Any, kind: type, key: str) -> tuple[list[Any], int]:
    taken: list[Any] = []
    ids: set[str] = set()
    gone = 0
    for thing in things:
        made = _made(thing, kind) if thing is not _BROKEN else None
        if made is None or made.id in ids:
            gone += 1
            continue
        ids.add(made.id)
        taken.append(made)
    return taken, gone


def _made(thing: Any, kind: type) -> Any:
    try:
        return msgspec.convert(thing, kind, dec_hook=settings_from)
    except (msgspec.ValidationError, AssemblyError, RecursionError):
        return _without_its_parts(thing) if kind is Build else None


def _without_its_parts(thing: Any) -> Build | None:
    """Return a build of which single placed parts can't be read."""
    if not isinstance(thing, dict):
        return None
    try:
        build = msgspec.convert({**thing, "parts": []}, Build, dec_hook=settings_from)
    except (msgspec.ValidationError, AssemblyError, RecursionError):
        try:
            build = msgspec.convert({"id": thing.get("id"), "name": thing.get("name")}, Build)
        except (msgspec.ValidationError, AssemblyError):
            return None
    kept: list[Placed] = []
    for placed in _listed(thing.get("parts")):
        made = _made(placed, Placed)
        if made is None:
            continue
        try:
            build = replace(build, parts=(*kept, made))
        except AssemblyError:
            continue
        kept.append(made)
        if len(kept) >= _TRIED:
            break
    return build


def _builds_that_hold(builds: list[Build], kit: dict[str, Part]) -> tuple[tuple[Build, ...], int]:
    """Return the builds with the placed parts that still have something to sit on, and how many have not."""
    kept: list[Build] = []
    loose = 0
    for build in builds:
        parts: tuple[Placed, ...] = ()
        for placed in build.parts if not _holds(build, build.parts, kit) else ():
            if len(parts) < _TRIED and _holds(build, (*parts, placed), kit):
                parts = (*parts, placed)
            else:
                loose += 1
        whole = _holds(build, build.parts, kit)
        kept.append(build if whole else replace(build, parts=parts))
    return tuple(kept), loose


def _holds(build: Build, parts: tuple[Placed, ...], kit: dict[str, Part]) -> bool:
    try:
        bare = Build(build.id, build.name, parts)
        check_build(bare, kit)
    except AssemblyError:
        return False
    return True


def _named(whole: dict[str, Any] | None, text: str, key: str, usual: str) -> str:
    """Return the book's title or currency, `usual` if it can't be read."""
    value: Any = None
    if whole is not None:
        value = whole.get(key)
    else:
        match = re.search(rf'(?<!\\)"{key}"\s*:\s*', text)
        if match is not None:
            try:
                value, _ = _DECODER.raw_decode(text, match.end())
            except json.JSONDecodeError:
                value = None
    try:
        check_name(value if isinstance(value, str) else "", key)
    except AssemblyError:
        return usual
    return str(value)
