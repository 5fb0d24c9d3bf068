"""`equilix demo` and `equilix sheet`: books without a window."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

import click

from equilix.cli.errors import run_command
from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator
from equilix.core.errors import EquilixError
from equilix.document.book import Book
from equilix.io.claims import is_claimed
from equilix.io.files import Obstacle, obstacle, same_file, shown
from equilix.io.format import read_book, write_book
from equilix.io.preferences import claims_folder

_OPTIONS = {"help_option_names": ["--help"]}
_BOOK = click.Path(path_type=Path)
#: s: how far off a drop time may be that was asked for as a figure.
_EXACTLY = 0.001


@click.command(context_settings=_OPTIONS)
@click.argument("file", metavar="FILE", type=_BOOK)
def demo(file: Path) -> int:
    """Write the demo book to FILE, which must not be there yet."""
    from equilix.io.shipped import demo_book

    check_writable(file, may_replace=None)
    write_book(demo_book(), file, None)
    return 0


@click.command(context_settings=_OPTIONS)
@click.argument("book", metavar="BOOK", type=_BOOK)
@click.argument("out", metavar="OUT.pdf", type=_BOOK)
@click.option("--build", "build_name", metavar="NAME", required=True, help="The build, by its name.")
@click.option("--operator", "operator_name", metavar="NAME", help="The operator. Default: the book's first.")
@click.option(
    "--units", type=click.Choice(["metric", "imperial"]), default="metric", help="Metric unless you say otherwise."
)
@click.option("--replace", "may_replace", is_flag=True, help="Replace OUT.pdf if it is there already.")
def sheet(book: Path, out: Path, build_name: str, operator_name: str | None, units: str, may_replace: bool) -> int:
    """Print the build sheet of a build in BOOK to OUT.pdf, which must not be there yet."""
    from equilix.exports.sheet_pdf import write_build_sheet
    from equilix.present.units import System

    content = read_book(book)
    check_writable(out, may_replace, book)
    operator = operator_called(content, operator_name, book)
    analysis = analyse(build_called(content, build_name, book), content.parts, operator)
    write_build_sheet(out, content, analysis, operator, System(units))
    return 0


def check_writable(out: Path, may_replace: bool | None, book: Path | None = None) -> None:
    """Raise EquilixError where writing `out` would replace what nobody asked to be replaced.

    A `book` that is being read is never replaced, nor one that a window has open, nor what is write-protected or
    somebody else's; what else is there only if it `may_replace` it (None: nobody can say so).
    """
    if not os.path.lexists(out):
        return
    if book is not None and same_file(out, book):
        raise EquilixError(f"{shown(out)} is the book itself; name another file.")
    if is_claimed(claims_folder(), out):
        raise EquilixError(f"{shown(out)} is open in a window; name another file.")
    found = obstacle(out, None)
    if found is not None:
        whose = "is write-protected" if found is Obstacle.PROTECTED else "belongs to somebody else"
        raise EquilixError(f"{shown(out)} {whose}; name another file.")
    if not may_replace:
        way = "name another file" if may_replace is None else "name another file, or add --replace"
        raise EquilixError(f"{shown(out)} is there already; {way}.")


def build_called(book: Book, name: str, path: Path) -> Build:
    """Return the build called `name`; EquilixError with the names there are if it is not there."""
    found = next((build for build in book.builds if name in (build.name, build.id)), None)
    if found is None:
        names = ", ".join(f"“{build.name}”" for build in book.builds) or "none"
        raise EquilixError(f"{shown(path)} has no build “{name}”. It has {names}.")
    return found


def operator_called(book: Book, name: str | None, path: Path) -> Operator:
    """Return the operator called `name`, the book's first without one; EquilixError with the names there are."""
    if name is None:
        return book.operators[0]
    found = next((operator for operator in book.operators if name in (operator.name, operator.id)), None)
    if found is None:
        names = ", ".join(f"“{operator.name}”" for operator in book.operators)
        raise EquilixError(f"{shown(path)} has no operator “{name}”. It has {names}.")
    return found


def run(name: str, arguments: Sequence[str]) -> int:
    """Run the command called `name` with `arguments`; return the exit code."""
    commands = {"demo": demo, "sheet": sheet}
    return run_command(commands[name], arguments, f"equilix {name}")
