"""Turns what went wrong on the command line into one or two plain lines."""

from __future__ import annotations

import contextlib
import os
import sys
from collections.abc import Sequence
from pathlib import Path

import click

from equilix.core.errors import EquilixError
from equilix.io.files import shown, why

#: Exit code for input that the user can mend.
BAD_INPUT = 2


def run_command(command: click.Command, arguments: Sequence[str], name: str) -> int:
    """Run a click `command`; print a mendable error as plain text on stderr and return the exit code."""
    try:
        result = command.main(args=list(arguments), prog_name=name, standalone_mode=False)
    except click.exceptions.NoSuchOption as error:
        return _complain(f"{name}: there is no option {error.option_name}. See {name} --help.")
    except click.exceptions.BadOptionUsage as error:
        takes = "takes no value" if "does not take" in error.message else "needs a value"
        return _complain(f"{name}: option {error.option_name} {takes}. See {name} --help.")
    except click.exceptions.MissingParameter as error:
        wanted = error.param.human_readable_name if error.param is not None else "something"
        return _complain(f"{name}: {wanted} is missing. See {name} --help.")
    except click.BadParameter as error:
        return _complain(f"{name}: {error.message}")
    except click.UsageError as error:
        extra = error.message.startswith("Got unexpected extra")
        return _complain(f"{name}: name only one file." if extra else f"{name}: {error.message}")
    except click.ClickException as error:
        return _complain(f"{name}: {error.format_message()}")
    except EquilixError as error:
        return _complain(f"{name}: {error}")
    except OSError as error:
        # What reads and writes files says itself what is wrong with them: only the output is left.
        return _unwritten(name, error)
    try:
        if sys.stdout is not None:
            sys.stdout.flush()
    except OSError as error:
        return _unwritten(name, error)
    return result if isinstance(result, int) else 0


def _unwritten(name: str, error: OSError) -> int:
    """Say that the output can't be written; nobody listens any more where a pipe was closed."""
    # Python writes out what is left when it ends, and would complain of it by itself.
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    if isinstance(error, BrokenPipeError):
        return BAD_INPUT
    return _complain(f"{name}: the output can't be written: {why(error)}.")


#: What stands first on the command line.
COMMANDS = ("analyse", "assemble", "demo", "instrument", "kinds", "sheet")


def unknown_command(word: str) -> int:
    """Say that `word` is neither a command nor a file, and what may have been meant; return the exit code."""
    from difflib import get_close_matches

    near = get_close_matches(word, COMMANDS, 1)
    meant = f"did you mean {near[0]}?" if near else f"the commands are {', '.join(COMMANDS)}."
    return _complain(f"equilix: there is no command and no file called {shown(Path(word))}; {meant}")


def _complain(message: str) -> int:
    print(message, file=sys.stderr)
    return BAD_INPUT
