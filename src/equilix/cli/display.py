"""Whether there is a display, and the window on it."""

from __future__ import annotations

import gc
import os
import sys
from pathlib import Path
from typing import NoReturn


def has_display() -> bool:
    """Return whether a window can be shown."""
    return sys.platform != "linux" or any(
        os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    )


def open_it(file: Path | None, demo: bool, theme: str | None) -> NoReturn:
    """Open the window; end the program with its exit code when it closes."""
    # Nothing made while starting is garbage; looking for it would take a tenth of the time.
    gc.disable()
    from equilix.desktop.app import end, open_window

    end(open_window(file, demo=demo, theme=theme))
