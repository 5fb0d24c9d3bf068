"""What the solver writes by itself stays out of the program's own output."""

from __future__ import annotations

import ctypes
import os
import threading
from collections.abc import Iterator
from contextlib import contextmanager

#: Output is one for the whole program: two solvers may not turn it away at once.
_ONE = threading.Lock()


@contextmanager
def silenced_stdout() -> Iterator[None]:
    """Turn standard output away meanwhile; HiGHS prints a line when a row is tight, whatever it is told."""
    with _ONE:
        try:
            kept, nowhere = os.dup(1), os.open(os.devnull, os.O_WRONLY)
        except OSError:
            # There is no output at all.
            yield
            return
        os.dup2(nowhere, 1)
        try:
            yield
        finally:
            # What a pipe or a file takes waits in the C library's own buffer, and would come out later.
            ctypes.CDLL(None).fflush(None)
            os.dup2(kept, 1)
            os.close(kept)
            os.close(nowhere)
