"""Command line: opens the window, or hands over to a subcommand that needs no display."""

from __future__ import annotations

import io
import sys


def main(argv: list[str] | None = None) -> int:
    """Run Equilix with `argv` (without the program's name); return the exit code."""
    arguments = sys.argv[1:] if argv is None else argv
    for stream in (sys.stdout, sys.stderr):
        # A terminal that lacks a sign gets a stand-in for it, not an error.
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")
    if arguments and arguments[0] in ("demo", "sheet"):
        from equilix.cli.books import run as run_on_book

        return run_on_book(arguments[0], arguments[1:])
    if arguments and arguments[0] in ("kinds", "assemble"):
        from equilix.cli.bag import run as run_on_bag

        return run_on_bag(arguments[0], arguments[1:])
    if arguments and arguments[0] == "analyse":
        from equilix.cli.analyse import run

        return run(arguments[1:])
    if arguments and arguments[0] == "instrument":
        from equilix.cli.instrument import run as run_instrument

        return run_instrument(arguments[1:])
    from equilix.cli import display

    if arguments and display.is_no_file(arguments[0]):
        from equilix.cli.errors import unknown_command

        return unknown_command(arguments[0])

    # What nearly every start asks for needs no reading of options, which takes as long as opening a book.
    if display.has_display() and (not arguments or arguments == ["--demo"]):
        return display.open_it(None, demo=bool(arguments), theme=None)
    from equilix.cli.window import run as run_window

    return run_window(arguments)


if __name__ == "__main__":
    sys.exit(main())
