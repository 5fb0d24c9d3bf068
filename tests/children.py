"""Programs that tests start: they end with the test run, however that ends."""

from __future__ import annotations

import ctypes
import os
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

#: Linux: the signal that a process gets when its parent is gone; prctl(2).
_PR_SET_PDEATHSIG = 1


def _end_with_parent() -> None:
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)


def child(*arguments: str, folder: Path | None = None, **options: Any) -> subprocess.Popen[str]:
    """Start this Python with `arguments`; its preferences, claims and recovery files go to `folder`."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", **options.pop("env", {})}
    if folder is not None:
        environment |= {name: str(folder) for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME")}
    return subprocess.Popen(
        [sys.executable, "-P", *arguments],
        stdout=options.pop("stdout", subprocess.PIPE),
        text=True,
        env=environment,
        preexec_fn=_end_with_parent,
        **options,
    )
