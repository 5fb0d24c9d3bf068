"""Starts a stand-in as a program of its own, and ends it again."""

from __future__ import annotations

import contextlib
import select
import subprocess
import sys
import threading
from collections.abc import Sequence

from equilix.core.errors import DeviceError

#: s that the program may take to say where it is.
_PATIENCE = 10.0


def started(words: Sequence[str], what: str) -> tuple[subprocess.Popen[str], str]:
    """Return a stand-in called `what`, run by `equilix instrument` with `words`, and where it can be reached.

    It ends when our end of its stdin closes, however this process ends.

    Raises
    ------
    DeviceError
        If it can't be started.
    """
    command = [sys.executable, "-P", "-m", "equilix", "instrument", *words]
    try:
        program = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
        )
    except OSError:
        raise DeviceError(f"The simulated {what} cannot start.") from None
    out = program.stdout
    if out is None or not select.select([out], [], [], _PATIENCE)[0]:
        end(program)
        raise DeviceError(f"The simulated {what} does not start. Try again.")
    return program, out.readline().strip()


def end(program: subprocess.Popen[str]) -> None:
    """End a stand-in, which has nothing to lose, without waiting for it."""
    program.kill()
    threading.Thread(target=_reap, args=(program,), name="stand-in's end", daemon=True).start()


def _reap(program: subprocess.Popen[str]) -> None:
    program.wait()
    for pipe in (program.stdin, program.stdout):
        if pipe is not None:
            with contextlib.suppress(OSError):
                pipe.close()
