"""Opens the window: on a file, on the demo data, or only to take pictures of it."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

import click

from equilix import __version__
from equilix.cli.display import has_display, open_it
from equilix.cli.errors import run_command
from equilix.core.errors import EquilixError


@click.command(context_settings={"help_option_names": ["--help"]})
@click.argument("file", required=False, type=click.Path(path_type=Path), metavar="[FILE]")
@click.option("--demo", is_flag=True, help="Open the demo data.")
@click.option("--shots", type=click.Path(path_type=Path), metavar="DIR", help="Save a picture of each room, then exit.")
@click.option("--theme", type=click.Choice(["light", "dark"]), help="Light or dark.")
@click.option("--version", is_flag=True, help="Print the version and exit.")
def window(file: Path | None, demo: bool, shots: Path | None, theme: str | None, version: bool) -> int:
    """Open Equilix. `equilix analyse --help` tells about parts tables."""
    if version:
        click.echo(f"Equilix {__version__}")
        return 0
    if file is not None and demo:
        raise EquilixError("give a file or --demo, not both.")
    if shots is not None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        from equilix.desktop.looks.shots import take_shots

        return take_shots(shots, theme or "light", demo=demo, file=file)
    if not has_display():
        raise EquilixError("no display is found. Use a desktop session, or set QT_QPA_PLATFORM=offscreen.")
    return open_it(file, demo=demo, theme=theme)


def run(arguments: Sequence[str]) -> int:
    """Run with `arguments`; return the exit code."""
    return run_command(window, arguments, "equilix")
