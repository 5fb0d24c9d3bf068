"""The log: faults, and with EQUILIX_LOG=debug what was done, in a file of the state folder of bounded size."""

from __future__ import annotations

import logging
import os
import sys
import traceback
from pathlib import Path
from types import TracebackType

import platformdirs

LOG = logging.getLogger("equilix")
#: Bytes of one file, and how many older ones are kept.
_SIZE, _OLDER = 1_000_000, 3
#: How many times a fault that comes again is told: at each power of ten.
_TENS = tuple(10**n for n in range(1, 8))
#: The log file's handler, once it is open.
_open: list[logging.Handler] = []


def log_file() -> Path:
    """Return where the log is written."""
    return Path(platformdirs.user_state_dir("equilix")) / "equilix.log"


def wants_all() -> bool:
    """Whether the log shall tell of all that is done, not of faults alone."""
    return os.environ.get("EQUILIX_LOG", "").casefold() == "debug"


def begin_log() -> bool:
    """Open the log file, once; return whether there is one. It may hold names of files: only its owner reads it."""
    if _open:
        return True
    from logging.handlers import RotatingFileHandler

    path = log_file()
    try:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        handler = RotatingFileHandler(
            path, maxBytes=_SIZE, backupCount=_OLDER, encoding="utf-8", errors="replace", delay=True
        )
        os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, 0o600))
    except OSError:
        return False
    _open.append(handler)
    handler.setFormatter(logging.Formatter("%(asctime)s %(process)d %(levelname)s %(message)s"))
    LOG.addHandler(handler)
    LOG.setLevel(logging.DEBUG if wants_all() else logging.INFO)
    LOG.propagate = False
    return True


def end_log() -> None:
    """Close the log file."""
    while _open:
        handler = _open.pop()
        LOG.removeHandler(handler)
        handler.close()


class Faults:
    """Writes each fault to the log once, and how often it came again; what can't be logged goes to stderr."""

    def __init__(self) -> None:
        self._met: dict[tuple[object, ...], int] = {}

    def write(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> bool:
        """Write a fault down; return whether it is met for the first time."""
        last = traceback.extract_tb(trace)[-1:]
        key = (kind, *((frame.filename, frame.lineno) for frame in last))
        count = self._met[key] = self._met.get(key, 0) + 1
        logged = begin_log()
        if count == 1:
            said = "".join(traceback.format_exception(kind, error, trace))
            if logged:
                LOG.error("fault\n%s", said)
            print(said, file=sys.stderr)
        elif count in _TENS and logged:
            LOG.error("fault, %d times: %s: %s", count, kind.__name__, error)
        return count == 1
