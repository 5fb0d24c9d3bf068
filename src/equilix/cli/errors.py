"""Turns what went wrong on the command line into one or two plain lines."""

from __future__ import annotations

import sys
from collections.abc import Sequence

import click

from equilix.core.errors import EquilixError

#: Exit code for input that the user can mend.
BAD_INPUT = 2


def run_command(command: click.Command, arguments: Sequence[str], name: str) -> int:
    """Run a click `command`; print a mendable error as plain text on stderr and return the exit code."""
    try:
        result = command.main(args=list(arguments), prog_name=name, standalone_mode=False)
    except click.exceptions.NoSuchOption as error:
        return _complain(f"{name}: there is no option {error.option_name}; see {name} --help.")
    except click.exceptions.BadOptionUsage as error:
        takes = "takes no value" if "does not take" in error.message else "needs a value"
        return _complain(f"{name}: option {error.option_name} {takes}; see {name} --help.")
    except click.exceptions.MissingParameter as error:
        wanted = error.param.human_readable_name if error.param is not None else "something"
        return _complain(f"{name}: {wanted} is missing; see {name} --help.")
    except click.BadParameter as error:
        return _complain(f"{name}: {error.message}")
    except click.UsageError as error:
        extra = error.message.startswith("Got unexpected extra")
        return _complain(f"{name}: give one file only." if extra else f"{name}: {error.message}")
    except click.ClickException as error:
        return _complain(f"{name}: {error.format_message()}")
    except EquilixError as error:
        return _complain(f"{name}: {error}")
    return result if isinstance(result, int) else 0


def _complain(message: str) -> int:
    print(message, file=sys.stderr)
    return BAD_INPUT
