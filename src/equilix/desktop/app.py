"""Starts the application."""

from __future__ import annotations

import logging
import os
import sys
import time
from pathlib import Path
from typing import NoReturn

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

import equilix.desktop.widgets.binding  # noqa: F401, before all others
from equilix.data import DATA
from equilix.desktop.jobs.faults import hook_faults
from equilix.desktop.jobs.garbage import collect_for
from equilix.desktop.jobs.job import Job, jobs_running, stop_all
from equilix.desktop.jobs.signals import signals_close
from equilix.desktop.looks.theme import Theme, apply_theme, load_fonts, room_on_screen, set_text_scale
from equilix.desktop.views.rooms import BALANCE, ROOM, WEIGH
from equilix.desktop.window import MainWindow
from equilix.desktop.workspace import Workspace
from equilix.io.claims import tidy_claims
from equilix.io.log import begin_log, wants_all
from equilix.io.preferences import claims_folder, load_preferences, recovery_folder
from equilix.io.recovery import Journal, left_behind

#: s that work in other threads gets to notice that the window is closed.
_PATIENCE = 0.2
#: ms after the start in which the window has the machine to itself.
_WINDOW_FIRST = 250
_ICON = DATA / "icons" / "equilix.svg"


def make_app(theme: Theme) -> QApplication:
    """Return the application with fonts and theme in place."""
    existing = QApplication.instance()
    # The style is named as an option: for one that is handed over, the binding makes the names of all that any style
    # can draw, a fiftieth of a start.
    app = existing if isinstance(existing, QApplication) else QApplication([*sys.argv[:1], "-style", "Fusion"])
    app.setApplicationName("Equilix")
    app.setDesktopFileName("equilix")
    collect_for(app)
    screen = app.primaryScreen()
    # The desktop's text scale reaches Qt as the screen's logical dots per inch; 96 stands for 100 %.
    set_text_scale(screen.logicalDotsPerInch() / 96.0 if screen is not None else 1.0, room_on_screen())
    load_fonts()
    apply_theme(app, theme)
    return app


def open_window(file: Path | None, demo: bool = False, theme: str | None = None) -> int:
    """Open the window on `file`, the demo data or an empty book; return the exit code when it closes."""
    preferences = load_preferences()
    app = make_app(Theme(theme or preferences.theme))
    folder = recovery_folder()
    try:
        journal: Journal | None = Journal(folder)
    except OSError:
        journal = None
    workspace = Workspace(preferences, journal)
    window = MainWindow(workspace)
    hook_faults(window.banner.say)
    if wants_all():
        begin_log()
    if demo:
        from equilix.io.shipped import demo_book

        workspace.open_book(demo_book(), None)
    # A book opens on its verdict; the room that an empty one begins in isn't made for one that can be read.
    known = preferences.room if preferences.room in ROOM else BALANCE
    window.go(known if demo or file is not None else WEIGH)
    window.restore_place()
    window.show()
    if journal is None:
        window.banner.say(
            "The state folder cannot be written. Unsaved work is not kept safe here. Free it or save often."
        )
    if file is not None and not window.files.load(file):
        window.go(WEIGH)

    def after_the_first_picture() -> None:
        from PySide6.QtGui import QIcon

        app.setWindowIcon(QIcon(str(_ICON)))
        tidy_claims(claims_folder())
        # It may lie beside a file on a disk that doesn't answer: it is looked for while the window lives.
        left = Job(lambda _go_on: left_behind(folder)).start()
        left.then(window.files.left_work.offer_recovered)

    # The window first: another thread's work takes turns with its first drawing, and with the first icon the binding
    # makes the names of all that a desktop may have.
    QTimer.singleShot(_WINDOW_FIRST, window, after_the_first_picture)
    with signals_close(window):
        return app.exec()


def end(code: int) -> NoReturn:
    """End the program with `code`: what still works in other threads gets a moment, and then no say.

    Nothing is taken apart on the way out: windows and their library undone in the wrong order crashed at times, and all
    that matters is on the disk by then.
    """
    stop_all()
    end = time.monotonic() + _PATIENCE
    while jobs_running() and time.monotonic() < end:
        time.sleep(0.01)
    logging.shutdown()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)
