"""Collects reference cycles in the window's thread only, and only while no work runs in another.

Python collects in whichever thread happens to allocate. A cycle that holds widgets must not be freed in a worker's
thread, and freeing one here while a worker is between its own locks has been seen to hang.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer
from shiboken6 import isValid

from equilix.desktop.jobs.job import jobs_running, let_go_of_the_done

#: ms between looks.
_EVERY = 500


_at_work: Collector | None = None


def collect_for(owner: QObject) -> None:
    """Take over from Python's own collector while `owner` lives, once."""
    global _at_work
    if _at_work is None or not isValid(_at_work):
        _at_work = Collector(owner)


class Collector(QObject):
    """Takes over from Python's own collector for as long as it lives."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self._thresholds = gc.get_threshold()
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def look(self) -> None:
        """Collect what is due, by Python's own counts, unless work is running."""
        let_go_of_the_done()
        if jobs_running():
            return
        counts = gc.get_count()
        for generation in (2, 1, 0):
            if counts[generation] > self._thresholds[generation]:
                gc.collect(generation)
                return
