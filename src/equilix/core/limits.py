"""Greatest and least values that a document may hold; the published schema states the same figures."""

from __future__ import annotations

import math
import unicodedata
from collections.abc import Mapping, Sized

from msgspec import Struct

from equilix.core.errors import AssemblyError
from equilix.core.sources import common_practice

#: kg. A rig on a body is tens of kilograms; the bound only keeps nonsense out of the sums.
MAX_MASS = 500.0
#: m.
MAX_LENGTH = 10.0
#: Characters of a name, and of a note or another free text.
MAX_NAME = 200
MAX_TEXT = 5_000
#: Things of one kind in a book, in a build or on a part: far more than anybody owns, few enough to be worked out.
MAX_THINGS = 20_000
#: Bytes of JSON in one line: a book of 5,000 parts takes about 2 MB.
MAX_BOOK = 49_000_000
MAX_PLACED = 1_000
MAX_ON_PART = 1_000
#: m and kg, for operators: the bounds only keep nonsense out.
STATURE = common_practice((1.2, 2.3))
BODY_MASS = common_practice((30.0, 250.0))


def check_number(value: float, low: float, high: float, what: str, unit: str = "") -> None:
    """Raise AssemblyError unless `value` is a finite number from `low` to `high`."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise AssemblyError(f"{what} must be a number.")
    if not low <= value <= high:
        raise AssemblyError(f"{what} must be from {low:g} to {high:g}{' ' + unit if unit else ''}, not {value:g}.")


class Bound(Struct, frozen=True):
    """From where to where (SI) a number may go, inclusive, and what it and its unit are called when it does not."""

    low: float
    high: float
    what: str
    unit: str = ""


def check_bounds(thing: object, bounds: Mapping[str, Bound]) -> None:
    """Raise AssemblyError unless each of a thing's fields in `bounds` is within its own, or None."""
    for name, bound in bounds.items():
        value = getattr(thing, name)
        if value is not None:
            check_number(value, bound.low, bound.high, bound.what, bound.unit)


def check_whole(value: int, low: int, high: int, what: str) -> None:
    """Raise AssemblyError unless `value` is a whole number from `low` to `high`."""
    check_number(value, low, high, what)
    if not isinstance(value, int):
        raise AssemblyError(f"{what} must be a whole number, not {value:g}.")


def check_point(point: tuple[float, float, float], what: str) -> None:
    """Raise AssemblyError unless `point` is three finite coordinates (m) within the bounds."""
    if len(point) != 3:
        raise AssemblyError(f"{what} must have three coordinates.")
    for value in point:
        check_number(value, -MAX_LENGTH, MAX_LENGTH, what, "m")


def is_plain(sign: str) -> bool:
    """Whether a character may stand in a text: printable, a space of any width, or one that only joins or marks others.

    Zero-width joiner and non-joiner make up emoji and Persian words, tag letters the flags of regions (Unicode 16.0,
    ch. 23). Marks that turn the direction of writing stay out: they make a name look like another.
    """
    if sign.isprintable() or unicodedata.category(sign) == "Zs":
        return True
    return sign in "\u200c\u200d" or "\U000e0020" <= sign <= "\U000e007f"


def check_name(name: str, what: str) -> None:
    """Raise AssemblyError unless `name` is printable text of one line, not empty."""
    if not name.strip():
        raise AssemblyError(f"{what} is empty. Type one.")
    check_line(name, what)


def check_line(text: str, what: str) -> None:
    """Raise AssemblyError unless `text` is one line of printable text, or empty."""
    if len(text) > MAX_NAME:
        raise AssemblyError(f"{what} has more than {MAX_NAME} characters. Shorten it.")
    if not text.isprintable() and not all(map(is_plain, text)):
        raise AssemblyError(f"{what} must be one line of plain text.")


def check_text(text: str, what: str) -> None:
    """Raise AssemblyError unless `text` is printable text, of any number of lines."""
    if len(text) > MAX_TEXT:
        raise AssemblyError(f"{what} has more than {MAX_TEXT} characters. Shorten it.")
    if not text.isprintable() and not all(is_plain(sign) or sign in "\n\t" for sign in text):
        raise AssemblyError(f"{what} must be plain text.")


def check_count(things: Sized, most: int, what: str) -> None:
    """Raise AssemblyError if there are more than `most` things."""
    if len(things) > most:
        raise AssemblyError(f"{what}: {len(things)} is too many. At most {most}.")


def shortened(name: str, more: str = "") -> str:
    """Return `name` with `more` behind it, cut so that both fit into a name."""
    return name if not more and len(name) <= MAX_NAME else f"{name[: MAX_NAME - len(more)].rstrip()}{more}"
