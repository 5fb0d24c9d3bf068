"""Ctrl+C in the terminal, and the system's wish that the program end: the window closes, its work is kept."""

from __future__ import annotations

import contextlib
import os
import signal
from collections.abc import Iterator
from typing import TYPE_CHECKING

from PySide6.QtCore import QSocketNotifier
from PySide6.QtWidgets import QApplication

if TYPE_CHECKING:
    from equilix.desktop.window import MainWindow

_WANTED = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


@contextlib.contextmanager
def signals_close(window: MainWindow) -> Iterator[None]:
    """While it lasts, a signal ends the application with the shell's exit code for it; unsaved work stays kept.

    Python runs its handlers only between statements of its own, which a waiting window never comes to; the signal's
    number is sent through a pipe that the window's loop listens to.
    """
    ear, mouth = os.pipe()
    os.set_blocking(ear, False)
    os.set_blocking(mouth, False)
    notifier = QSocketNotifier(ear, QSocketNotifier.Type.Read)

    def heard() -> None:
        numbers = os.read(ear, 64)
        if numbers:
            window.end_at_once()
            QApplication.exit(128 + numbers[0])

    notifier.activated.connect(heard)
    old_wakeup = signal.set_wakeup_fd(mouth, warn_on_full_buffer=False)
    old = {number: signal.signal(number, lambda _number, _frame: None) for number in _WANTED}
    try:
        yield
    finally:
        notifier.setEnabled(False)
        signal.set_wakeup_fd(old_wakeup)
        for number, handler in old.items():
            signal.signal(number, handler)
        os.close(ear)
        os.close(mouth)
