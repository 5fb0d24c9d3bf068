"""Whether there is a display, and the window on it."""

from __future__ import annotations

import gc
import os
import sys
from importlib import import_module
from pathlib import Path
from typing import NoReturn

#: What a window asks for that draws nothing; what these need comes with them.
_GROUNDWORK = (
    "equilix.core.analyse",
    "equilix.document.history",
    "equilix.io.claims",
    "equilix.io.csv_escaping",
    "equilix.io.log",
    "equilix.io.preferences",
    "equilix.io.recovery",
    "equilix.present.balance.panel",
    "equilix.present.assembly.still_to_come",
    "equilix.present.card",
    "equilix.present.panel",
    "equilix.present.drawing.sockets",
    "equilix.present.supports.labels",
)
#: What it asks for besides where a book is read and looked at, and where an empty one is begun.
_A_BOOK = (
    "equilix.io.format",
    "equilix.supports.shoulder.mechanics",
    "equilix.present.balance.elevation",
    "equilix.present.balance.lens_view",
    "equilix.present.balance.side_panel",
    "equilix.supports.shoulder.text",
)
_NOTHING = (
    "equilix.core.measurement.advice",
    "equilix.core.measurement.bench",
    "equilix.document.edits.kit",
    "equilix.document.weighing",
    "equilix.io.shipped",
    "equilix.present.balance.advice",
    "equilix.present.balance.odds_view",
    "equilix.present.kit.part_preview",
    "equilix.present.kit.table",
    "equilix.present.weigh.bench_drawing",
    "equilix.present.weigh.bench_view",
    "equilix.present.weigh.weighings",
)


def has_display() -> bool:
    """Return whether a window can be shown."""
    return sys.platform != "linux" or any(
        os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    )


def is_no_file(word: str) -> bool:
    """Whether a word on the command line is neither an option nor, by its look or on the disk, a file."""
    return not word.startswith("-") and not Path(word).suffix and os.sep not in word and not os.path.lexists(word)


def lay_groundwork(file: Path | None, demo: bool) -> None:
    """Load what a window asks for that draws nothing, the demo data among it, before the binding that draws.

    Once the binding is there each import goes through a hook of its own: after it, all this takes a fifth longer.
    """
    # Its threads would only wait for each other: no matrix here is larger than a few hundred rows.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    for name in (*_GROUNDWORK, *(_A_BOOK if demo or file is not None else _NOTHING)):
        import_module(name)
    if demo:
        from equilix.io.shipped import demo_book

        demo_book()  # kept: the window asks for it again


def open_it(file: Path | None, demo: bool, theme: str | None) -> NoReturn:
    """Open the window; end the program with its exit code when it closes."""
    # Nothing made while starting is garbage; looking for it would take a tenth of the time.
    gc.disable()
    lay_groundwork(file, demo)
    import equilix.desktop.widgets.binding  # noqa: F401, before the first module that draws
    from equilix.desktop.app import end, open_window

    end(open_window(file, demo=demo, theme=theme))
