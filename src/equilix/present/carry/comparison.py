"""What the builds of a book cost its operators on one support: a table, with those that are looked at first."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator
from equilix.core.carry.carried import Carry, carry
from equilix.core.statics.pose import Hindrance
from equilix.document.book import Book

#: There is room for no more.
_MOST_OPERATORS, _MOST_BUILDS = 4, 6


class Comparison(Struct, frozen=True, eq=False):
    """Of one `book` as it was when the build of `analysis` was looked at: rows of a build's name and what it costs each
    of the `operators`."""

    book: Book
    analysis: Analysis
    operators: tuple[Operator, ...]
    builds: tuple[Build, ...]
    table: tuple[tuple[str, tuple[Carry | Hindrance, ...]], ...]


def compared(book: Book, analysis: Analysis, operator: Operator, support: str) -> Comparison:
    """Return what the builds of a book cost its operators on `support`: first the build and the operator looked at."""
    operators = tuple(sorted(book.operators, key=lambda one: one is not operator)[:_MOST_OPERATORS])
    shown = next((build for build in book.builds if build.id == analysis.build.id), None)
    builds = tuple(sorted(book.builds, key=lambda one: one is not shown)[:_MOST_BUILDS])
    table = tuple(
        (build.name, tuple(carry(analyse(build, book.parts, one), one, support) for one in operators))
        for build in (replace(build, support=support) for build in builds)
    )
    return Comparison(book, analysis, operators, builds, table)
