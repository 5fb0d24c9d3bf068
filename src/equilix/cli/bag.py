"""`equilix kinds` and `equilix assemble`: what names say, and a rig put together from a bag."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import click
import msgspec
from msgspec.structs import replace

from equilix.cli.books import check_writable
from equilix.cli.errors import run_command
from equilix.core.assembly.build import Build
from equilix.core.errors import EquilixError
from equilix.core.keys import KEYS
from equilix.core.kit.kinds import ODD_MASS
from equilix.document.book import Book
from equilix.document.kinds.assemble import Assembled, assemble
from equilix.document.kinds.makers import made_of, unknown_part
from equilix.document.kinds.naming import NameReading, read_name
from equilix.document.kinds.places import Loose
from equilix.document.kinds.records import PartKind, shipped_kinds
from equilix.io.bag_table import BagRow, read_bag
from equilix.io.files import UNCHECKED, read_ordinary, shown
from equilix.io.format import write_book

_OPTIONS = {"help_option_names": ["--help"]}
_PATH = click.Path(path_type=Path)
#: Bytes of a list of names.
_MOST = 1_000_000


@click.command(context_settings=_OPTIONS)
@click.argument("names", metavar="NAMES.txt", type=_PATH)
@click.option("--json", "as_json", is_flag=True, help="Print strict JSON.")
def kinds(names: Path, as_json: bool) -> int:
    """Print what each line of NAMES.txt is: its kind, whether it would be asked about, and where it goes."""
    data = read_ordinary(names, _MOST)
    try:
        lines = [line.strip() for line in data.decode("utf-8-sig").splitlines() if line.strip()]
    except UnicodeDecodeError:
        raise EquilixError(f"{shown(names)} is not UTF-8 text. Save it as UTF-8.") from None
    if not lines:
        raise EquilixError(f"{shown(names)} is empty. Choose another file.")
    rows = [_named(line) for line in lines]
    if as_json:
        click.echo(msgspec.json.encode({"kinds": rows}).decode())
    else:
        for row in rows:
            click.echo(f"{row['name']}: {row['kind'] or 'not known'}{' (asked)' if row['asks'] else ''}")
    return 0


def _named(name: str) -> dict[str, object]:
    reading = read_name(name)
    kind = reading.kind
    seat = None
    if kind is not None and kind.seats:
        first = kind.seats[0]
        seat = {"relation": _relation(first.where, reading), "onto": [one.removeprefix("*") for one in first.on]}
    return {"name": name, "kind": kind.key if kind is not None else None, "asks": reading.asked, "seat": seat}


def _relation(where: str, reading: NameReading) -> str:
    """Return a place as the command line calls it: a side by the name, what lies along rods on them."""
    if where == "side":
        return "left" if "left" in reading.traits else "right"
    if where in ("rods+", "rods-", "through"):
        return "rods"
    return {"front": "ahead", "back": "behind"}.get(where, where)


@click.command("assemble", context_settings=_OPTIONS)
@click.argument("bag", metavar="KIT.csv", type=_PATH)
@click.argument("out", metavar="OUT.equilix", type=_PATH)
@click.option("--support", "key", metavar="KEY", required=True, help=f"{' or '.join(KEYS)}.")
@click.option("--replace", "may_replace", is_flag=True, help="Replace OUT.equilix if it is there already.")
@click.option("--json", "as_json", is_flag=True, help="Print strict JSON.")
def assemble_bag(bag: Path, out: Path, key: str, may_replace: bool, as_json: bool) -> int:
    """Put the parts of the table KIT.csv together on a support, and write the book OUT.equilix.

    Columns: name, mass_kg, and if you like length_mm, width_mm, height_mm and kind. Each question is answered by its
    first choice.
    """
    if key not in KEYS:
        raise EquilixError(f"--support {key!r} is not known. Use {', '.join(KEYS)}.")
    rows = read_bag(bag)
    check_writable(out, may_replace, bag)
    found = assemble(Build("rig", "Rig", support=key), {}, [_loose(bag, row) for row in rows])
    asked = {question.part_id: question.asks for question in found.questions}
    parts = tuple(
        replace(part, note=f"Asked: {asked[part.id]}") if part.id in asked else part for part in found.kit.values()
    )
    write_book(
        replace(Book(), title=shown(bag)[:200], kit=parts, builds=(found.build,)),
        out,
        UNCHECKED if may_replace else None,
    )
    click.echo(msgspec.json.encode(_report(found)).decode() if as_json else _text(found))
    return 0


def _loose(path: Path, row: BagRow) -> Loose:
    """Return a row as a part with what its name says; EquilixError where its mass can't be one of such a part."""
    reading = read_name(row.name)
    if row.kind:
        kind = next((one for one in shipped_kinds().kinds if one.key == row.kind), None)
        if kind is None:
            raise EquilixError(f"{shown(path)}, row {row.row}, column kind: {row.kind!r} is not known. Leave it empty.")
        reading = NameReading(kind, traits=reading.traits, length=reading.length)
    part_id = f"part-{row.row}"
    if reading.kind is None:
        return Loose(unknown_part(part_id, row.name, row.mass, row.size), reading)
    _check_mass(path, row, reading.kind)
    return Loose(made_of(reading.kind, part_id, row.name, row.mass, row.size, reading.length), reading)


def _check_mass(path: Path, row: BagRow, kind: PartKind) -> None:
    if row.mass is not None and not kind.mass / ODD_MASS <= row.mass <= kind.mass * ODD_MASS:
        raise EquilixError(
            f"{shown(path)}, row {row.row}, column mass_kg: {row.mass:g} kg is unusual for a {kind.title}. "
            "Give masses in kilograms."
        )


def _report(found: Assembled) -> dict[str, object]:
    names = {part.id: part.name for part in found.kit.values()}
    return {
        "joints": [
            {
                "part": names[joint.placed_id],
                "onto": names[joint.onto],
                "relation": joint.relation,
                "how": joint.how,
                "sure": joint.sure,
                "guessed": joint.guessed,
            }
            for joint in found.joints
        ],
        "questions": [
            {
                "part": names[question.part_id],
                "asks": question.asks,
                "choices": [{"onto": names[one.onto], "relation": one.relation} for one in question.choices],
            }
            for question in found.questions
        ],
        "loose": [{"part": names[one.part_id], "why": one.why} for one in found.spare],
        "clashes": [[names[first], names[second]] for first, second in found.clashes],
    }


def _text(found: Assembled) -> str:
    """Return what was put together as lines to read."""
    names = {part.id: part.name for part in found.kit.values()}
    lines = []
    for joint in found.joints:
        marks = f"{' (typical)' if joint.guessed else ''}{'' if joint.sure else ' (asked)'}"
        lines.append(f"{names[joint.placed_id]}: {joint.relation}, {names[joint.onto]}, {joint.how}{marks}")
    for question in found.questions:
        places = ", ".join(f"{one.relation} of {names[one.onto]}" for one in question.choices)
        lines.append(f"? {names[question.part_id]}: {question.asks} {places}".rstrip())
    lines += [f"- {names[one.part_id]}: {one.why}" for one in found.spare]
    lines += [f"! {names[first]} meets {names[second]}" for first, second in found.clashes]
    return "\n".join(lines)


def run(name: str, arguments: Sequence[str]) -> int:
    """Run the command called `name` with `arguments`; return the exit code."""
    return run_command({"kinds": kinds, "assemble": assemble_bag}[name], arguments, f"equilix {name}")
