"""In what two states of one book differ, in words."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from equilix.core.assembly.build import Build
from equilix.core.kit.parts import Part
from equilix.document.book import Book
from equilix.document.validation import LISTS
from equilix.present.kit.differing import difference, differing


class Difference(Struct, frozen=True):
    """One thing that differs: what it is, and how it stands here and in the file."""

    what: str
    here: str
    there: str


_THERE, _GONE = "there", "–"


def differences(here: Book, there: Book) -> tuple[Difference, ...]:
    """Return what differs between the book that is open, `here`, and the one in its file, `there`."""
    found = [
        Difference(what, getattr(here, key), getattr(there, key))
        for key, what in (("title", "Title"), ("currency", "Currency"))
        if getattr(here, key) != getattr(there, key)
    ]
    for key, word in LISTS.items():
        old = {thing.id: thing for thing in getattr(here, key)}
        new = {thing.id: thing for thing in getattr(there, key)}
        for thing_id in (*old, *(i for i in new if i not in old)):
            mine, theirs = old.get(thing_id), new.get(thing_id)
            if mine == theirs:
                continue
            what = f"{word.capitalize()} {_called(mine if mine is not None else theirs)}"
            if mine is None or theirs is None:
                found.append(Difference(what, *((_GONE, _THERE) if mine is None else (_THERE, _GONE))))
            else:
                found.append(Difference(what, *_states(mine, theirs, here, there)))
        if not any(d.what.startswith(word.capitalize()) for d in found) and list(old) != list(new):
            found.append(Difference(f"Order of the {word}s", "order here", "another"))
    return tuple(found)


def _called(thing: Any) -> str:
    return str(getattr(thing, "name", "")) or str(thing.id)


def _states(mine: Any, theirs: Any, here: Book, there: Book) -> tuple[str, str]:
    """Return how two states of one thing differ, as far as a line tells."""
    if isinstance(mine, Build) and isinstance(theirs, Build):
        return _build_states(mine, theirs, here, there)
    if isinstance(mine, Part) and isinstance(theirs, Part):
        found = differing(mine, theirs)
        if found:
            return (
                "; ".join(f"{c.what} {c.before}{c.unit}" for c in found),
                "; ".join(f"{c.what} {c.after}{c.unit}" for c in found),
            )
        return "order here", difference(mine, theirs)
    fields = [name for name in type(mine).__struct_fields__ if getattr(mine, name, None) != getattr(theirs, name, None)]
    shown = [name for name in fields if isinstance(getattr(mine, name), str | float | int | bool)][:3]
    if not shown:
        return "order here", "changed"
    return _fields(mine, shown), _fields(theirs, shown)


def _build_states(mine: Build, theirs: Build, here: Book, there: Book) -> tuple[str, str]:
    old = {placed.id: placed for placed in mine.parts}
    new = {placed.id: placed for placed in theirs.parts}
    only_here = [here.name_of(old[i]) for i in old if i not in new]
    only_there = [there.name_of(new[i]) for i in new if i not in old]
    moved = [here.name_of(old[i]) for i in old if i in new and old[i] != new[i]]
    left = [f"{len(mine.parts)} parts"]
    right = [f"{len(theirs.parts)} parts"]
    if mine.name != theirs.name:
        left.append(f"named {mine.name}")
        right.append(f"named {theirs.name}")
    if only_here:
        left.append(f"with {_some(only_here)}")
    if only_there:
        right.append(f"with {_some(only_there)}")
    if moved:
        right.append(f"{_some(moved)} in another place")
    if len(right) == 1 and len(left) == 1:
        right.append("other settings")
    return ", ".join(left), ", ".join(right)


def _some(names: list[str]) -> str:
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def _fields(thing: Any, names: list[str]) -> str:
    return ", ".join(f"{name.replace('_', ' ')} {_value(getattr(thing, name))}" for name in names)


def _value(value: object) -> str:
    text = f"{value:g}" if isinstance(value, float) else str(value)
    return text if len(text) <= 40 else f"{text[:40]}…"
