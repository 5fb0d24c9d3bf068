"""`equilix analyse`: what the window shows of a build in a book, or of a table of parts with their places."""

from __future__ import annotations

import math
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import click
import msgspec
from msgspec.structs import replace

from equilix.cli.books import build_called, check_writable, operator_called
from equilix.cli.errors import run_command
from equilix.cli.report import build_report, carry_report, lenses_report, text_of, ways_report
from equilix.cli.ways import after_way, is_full, kept
from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.core.errors import EquilixError
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Point
from equilix.core.records import TableHolder
from equilix.core.registry import support_for
from equilix.core.statics.turning import Attitude
from equilix.core.support import case_of, with_values
from equilix.document.book import Book
from equilix.io.files import shown
from equilix.io.format import read_book, write_book
from equilix.io.parts_table import read_parts_table, table_build

#: s: how far off a drop time may be that was asked for as a figure.
_EXACTLY = 0.001
#: What only a build in a book has, and what only a parts table needs: options by the names of their parameters.
_OF_BUILDS = (
    *("operator", "pitch", "roll", "pan", "lean", "drop_time", "ways", "lenses", "carry"),
    *("way", "changes", "write"),
)
#: What holds a parts table, by support.
_HOLDERS = {key: support_for(key).holder for key in KEYS}
_OF_TABLES = tuple(holder.point for holder in _HOLDERS.values() if holder is not None)
_NOBODY = Operator("nobody", "Nobody")


class _Point(click.ParamType[Point]):
    """X,Y,Z in millimetres; becomes metres."""

    name = "X,Y,Z"

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> Point:
        option = param.opts[0] if param is not None else "the point"
        try:
            x, y, z = (_plain_number(cell) / 1000.0 for cell in str(value).split(","))
        except ValueError:
            raise click.UsageError(f"{option} needs three numbers in mm, such as {option} -120,0,80.") from None
        return x, y, z


class _Number(click.ParamType[float]):
    """A number, of degrees unless it says something else."""

    def __init__(self, unit: str = "degrees", such_as: str = "10") -> None:
        self.name, self._unit, self._such_as = unit, unit, such_as

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> float:
        try:
            return _plain_number(str(value))
        except ValueError:
            option = param.opts[0] if param is not None else "It"
            raise click.UsageError(f"{option} needs {self._unit}, such as {self._such_as}.") from None


class _Numbers(click.ParamType[tuple[int, ...]]):
    """Whole numbers with commas between."""

    name = "numbers"

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> tuple[int, ...]:
        try:
            return tuple(int(_plain_number(one.strip())) for one in str(value).split(","))
        except ValueError:
            option = param.opts[0] if param is not None else "It"
            raise click.UsageError(f"{option} needs numbers with commas between, such as 1,3.") from None


def _plain_number(text: str) -> float:
    """Return a finite number written with ASCII digits; ValueError for anything else."""
    if not text.isascii() or "_" in text:
        raise ValueError(text)
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(text)
    return value


@click.command(context_settings={"help_option_names": ["--help"]})
@click.argument("file", metavar="FILE", type=click.Path(path_type=Path))
@click.option("--build", "build_name", metavar="NAME", help="The build in the book, by its name.")
@click.option("--support", "key", metavar="KEY", help=f"{' or '.join(KEYS)}. Default: the build's own.")
@click.option("--operator", metavar="NAME", help="The operator. Default: the book's first.")
@click.option("--pitch", type=_Number(), metavar="DEG", help="Wanted tilt of a hanging rig, nose down.")
@click.option("--tilt", type=_Number(), metavar="DEG", help="Tilt of a gimbal, nose down.")
@click.option("--roll", type=_Number(), metavar="DEG", help="Roll of a gimbal, left side high.")
@click.option("--pan", type=_Number(), metavar="DEG", help="Pan of a gimbal, to the left.")
@click.option("--lean", type=_Number(), metavar="DEG", help="Tilt of the gimbal's frame, nose down.")
@click.option("--drop-time", type=_Number("seconds", "2.5"), metavar="S", help="Wanted drop time of a sled.")
@click.option("--ways", is_flag=True, help="Print the ways as well.")
@click.option("--way", type=int, metavar="N", help="Print the build as way N leaves it; the first one is 1.")
@click.option("--changes", type=_Numbers(), metavar="1,3", help="With --way: only these of its changes.")
@click.option(
    "--write", type=click.Path(path_type=Path), metavar="OUT", help="With --way: keep the book with it there."
)
@click.option("--lenses", is_flag=True, help="Also where every slide stands for each lens.")
@click.option("--carry", is_flag=True, help="Also what it costs the operator's joints, and for how long.")
@click.option("--pad", type=_Point(), help="Of a table: middle of the shoulder pad's contact (mm).")
@click.option("--hook", type=_Point(), help="Of a table: the hook the rig hangs from (mm).")
@click.option("--pivot", type=_Point(), help="Of a table: where the gimbal's axes meet (mm).")
@click.option("--bearing", type=_Point(), help="Of a table: the sled's bearing (mm).")
@click.option("--json", "as_json", is_flag=True, help="Print strict JSON with all digits.")
def analyse_file(file: Path, build_name: str | None, key: str | None, as_json: bool, **asked: Any) -> int:
    """Print what the window shows of a build in the book FILE, or mass, CG, inertia and figures of a parts table.

    A table's columns: name, mass_kg, x_mm, y_mm, z_mm, length_mm, width_mm, height_mm and, if you like, shape
    (box or cylinder). x forward, y left, z up; x, y, z is each part's own centre of gravity.
    """
    if build_name is None:
        result, brief = _of_table(file, key, asked)
    else:
        result = brief = _of_build(file, build_name, key, asked)
    click.echo(msgspec.json.encode(brief).decode() if as_json else text_of(result))
    return 0


def _of_build(file: Path, build_name: str, key: str | None, asked: dict[str, Any]) -> dict[str, object]:
    """Return the report of a build in a book, with what else is `asked` of it."""
    for name in _OF_TABLES:
        if asked[name] is not None:
            raise EquilixError(f"{_option(name)} works only with a parts table. Leave it out.")
    content = read_book(file)
    build = build_called(content, build_name, file)
    operator = operator_called(content, asked["operator"], file)
    chosen = build.support if key is None else key
    if chosen not in KEYS:
        raise EquilixError(f"--support {chosen!r} is not known. Use {', '.join(KEYS)}.")
    build = replace(build, support=chosen)
    if asked["pitch"] is not None:
        build = with_values(build, chosen, {"pitch": math.radians(asked["pitch"])})
    if asked["drop_time"] is not None:
        build = with_values(build, chosen, {"drop": asked["drop_time"], "room": _EXACTLY})
    analysis = analyse(build, content.parts, operator)
    done = asked["way"] is not None
    if done:
        analysis = _after_way(analysis, content, operator, chosen, asked, file)
    elif asked["changes"] is not None or asked["write"] is not None:
        raise EquilixError("--changes and --write belong to a way. Name it with --way.")
    result = build_report(analysis, operator, chosen, _attitude(asked, chosen))
    if done:
        result["full"] = is_full(analysis)
    if asked["lenses"]:
        result["lenses"] = lenses_report(analysis, content, operator)
    if asked["carry"]:
        result["carry"] = carry_report(analysis, operator)
    if asked["ways"]:
        result["ways"] = list(ways_report(analysis, content, operator, chosen))
    return result


def _after_way(
    analysis: Analysis, book: Book, operator: Operator, key: str, asked: dict[str, Any], file: Path
) -> Analysis:
    """Return the rig after the way that is asked for, and write the book with it where that is asked."""
    after = after_way(analysis, book, operator, key, asked["way"], asked["changes"])
    if asked["write"] is not None:
        out: Path = asked["write"]
        if out.suffix.lower() != ".equilix":
            raise EquilixError(f"{out.name}: a book’s name ends in .equilix. Call it {out.stem}.equilix.")
        check_writable(out, False, file)
        write_book(kept(book, after), out, None)
    return after


def _of_table(file: Path, key: str | None, asked: dict[str, Any]) -> tuple[dict[str, object], dict[str, object]]:
    """Return the report of a parts table as a build, and what of it is printed as JSON."""
    for name in _OF_BUILDS:
        if asked[name] not in (None, False):
            raise EquilixError(f"{_option(name)} works only with --build NAME of a book.")
    holder, point = _held_at(key, asked)
    rows = read_parts_table(file)
    build, kit = table_build(file, rows, key or KEYS[0], holder.mounts if holder is not None else (), point)
    analysis = analyse(build, kit, _NOBODY)
    if analysis.body is None:
        raise EquilixError(f"{shown(file)}, column mass_kg: the total is zero. Give at least one part a mass.")
    whole = build_report(analysis, _NOBODY, build.support, _attitude(asked, build.support))
    found = whole["figures"]
    assert isinstance(found, dict)
    names = holder.figures if holder is not None else ()
    case = case_of(analysis)
    said = {name: found[name]["value"] if name in found else None for name in names}
    brief = {name: whole[name] for name in ("mass_kg", "cg_mm", "inertia_kg_m2")}
    told = analysis.support.table_figures(case, said) if case is not None and holder is not None else said or None
    listed = {name: one for name, one in found.items() if name in names}
    return {**brief, "build": build.name, "figures": listed}, {**brief, "support": told}


def _held_at(key: str | None, asked: dict[str, Any]) -> tuple[TableHolder | None, Point]:
    """Return what holds a table on a support, and where; EquilixError where the options don't fit each other."""
    known = {name: holder for name, holder in _HOLDERS.items() if holder is not None}
    if key is not None and key not in known:
        *most, last = known
        raise EquilixError(f"--support {key!r} is not known. Use {', '.join(most)} or {last}.")
    wanted = known[key] if key is not None else None
    for name, holder in known.items():
        if asked[holder.point] is not None and holder is not wanted:
            raise EquilixError(f"{_option(holder.point)} works only with --support {name}.")
    if asked["tilt"] is not None and (key is None or not support_for(key).has_stages):
        raise EquilixError("--tilt works only with --support gimbal.")
    if wanted is None:
        return None, (0.0, 0.0, 0.0)
    if asked[wanted.point] is None:
        raise EquilixError(f"--support {key} needs {_option(wanted.point)} X,Y,Z in mm.")
    return wanted, asked[wanted.point]


def _option(name: str) -> str:
    return f"--{name.replace('_', '-')}"


def _attitude(asked: dict[str, Any], key: str) -> Attitude:
    """Return the attitude that the options say; EquilixError where nothing turns or an angle is no angle."""
    given = {name: asked[name] for name in ("tilt", "roll", "pan", "lean") if asked[name] is not None}
    if given and not support_for(key).has_stages:
        raise EquilixError(f"{_option(next(iter(given)))} needs a support that turns, such as --support gimbal.")
    for name, value in given.items():
        if abs(value) > 360.0:
            raise EquilixError(f"{_option(name)} must be from -360 to 360 degrees.")
    return Attitude(**{name: math.radians(value) for name, value in given.items()})


def run(arguments: Sequence[str]) -> int:
    """Run the subcommand with `arguments`; return the exit code."""
    return run_command(analyse_file, arguments, "equilix analyse")
