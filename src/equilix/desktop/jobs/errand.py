"""Errands to disks and devices: done in another thread while the window stays alive, with progress and a Stop."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtCore import QEventLoop, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget
from shiboken6 import isValid

from equilix.desktop.jobs.job import Progress, bury, outlive, working
from equilix.desktop.widgets.panel import label
from equilix.io.files import Stopped

T = TypeVar("T")
#: s for which the window just waits, and after which what is done is shown.
_BLINK, SHOWN_AFTER = 0.02, 0.3


class _Told(QObject):
    """Carries words from the other thread to the window's."""

    ended = Signal()
    progressed = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.wanted: Callable[[], object] | None = None
        self.ended.connect(self.tell, Qt.ConnectionType.QueuedConnection)

    def tell(self) -> None:
        """Call what was wanted at the end, once."""
        wanted, self.wanted = self.wanted, None
        if wanted is not None:
            wanted()


class Errand(Generic[T]):
    """One piece of work in a thread of its own, which dies with the process however long a disk keeps it."""

    def __init__(self, work: Callable[[Progress], T]) -> None:
        self.told = _Told()
        self.over = threading.Event()
        self._stop = threading.Event()
        self._work = work
        self._result: T | None = None
        self._error: BaseException | None = None
        self._thread = threading.Thread(target=self._run, name="errand", daemon=True)
        outlive(self)
        working.add(self)
        self._thread.start()

    def _run(self) -> None:
        try:
            self._result = self._work(self._go_on)
        except BaseException as error:  # noqa: BLE001 - carried to the window's thread and raised there
            self._error = error
        self.over.set()
        working.discard(self)
        with contextlib.suppress(RuntimeError):  # the window has gone
            self.told.ended.emit()
        bury(self)

    def _go_on(self, share: float) -> bool:
        if self._stop.is_set():
            return False
        with contextlib.suppress(RuntimeError):
            self.told.progressed.emit(share)
        return True

    def stop(self) -> None:
        """Stop; a thread that is kept by a disk is left to itself."""
        self._stop.set()
        working.discard(self)

    @property
    def stopped(self) -> bool:
        return self._stop.is_set()

    def then(self, call: Callable[[T], object]) -> None:
        """Have `call` called with what comes out, in the window's thread; what went wrong is raised there.

        Nothing is called of a window, or of a part of it, that is gone by then.
        """
        owner = getattr(call, "__self__", None)
        gone = (lambda: not isValid(owner)) if isinstance(owner, QObject) else (lambda: False)
        self.told.wanted = lambda: None if self.stopped or gone() else call(self.result())
        if self.over.is_set():
            QTimer.singleShot(0, self.told.tell)

    def result(self) -> T:
        """Return what came out, or raise what went wrong."""
        if self._stop.is_set():
            raise Stopped("Stopped.")
        if self._error is not None:
            raise self._error
        return self._result  # type: ignore[return-value]


class ErrandDialog(QDialog):
    """Says what is being done, how far it is, and stops it."""

    def __init__(self, words: str, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Equilix")
        self.setWindowModality(Qt.WindowModality.ApplicationModal)
        self.setAccessibleName(words)
        self.bar = QProgressBar()
        self.bar.setRange(0, 0)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("Progress")
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(self.reject)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 16)
        column.setSpacing(12)
        said = label(words, 14, 500, wrap=True)
        said.setMinimumWidth(360)
        column.addWidget(said)
        column.addWidget(self.bar)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.stop)
        column.addLayout(row)

    def show_share(self, share: float) -> None:
        """Show how far it is."""
        if share > 0.0:
            self.bar.setRange(0, 1000)
            self.bar.setValue(round(1000 * share))

    def closeEvent(self, event: QCloseEvent) -> None:
        self.reject()
        event.accept()


def run_errand(words: str, work: Callable[[Progress], T], parent: QWidget | None = None) -> T:
    """Return what `work` returns, which is done in another thread; the window is painted meanwhile.

    What takes longer than SHOWN_AFTER is told in `words`, with a Stop.

    Raises
    ------
    Stopped
        If the user stopped it; what the thread still does is not heard any more.
    EquilixError
        Whatever the work raised.
    """
    errand = Errand(work)
    if errand.over.wait(_BLINK) or QApplication.instance() is None:
        errand.over.wait()
        return errand.result()
    loop = QEventLoop()
    errand.told.ended.connect(loop.quit, Qt.ConnectionType.QueuedConnection)
    QTimer.singleShot(round(1000 * SHOWN_AFTER), loop.quit)
    if not errand.over.is_set():
        # Keys and clicks wait: what they are meant for is about to change.
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
    if not errand.over.is_set():
        _wait_aloud(errand, words, parent)
    return errand.result()


def _wait_aloud(errand: Errand[T], words: str, parent: QWidget | None) -> None:
    dialog = ErrandDialog(words, parent)
    errand.told.progressed.connect(dialog.show_share, Qt.ConnectionType.QueuedConnection)
    errand.told.ended.connect(dialog.accept, Qt.ConnectionType.QueuedConnection)
    dialog.rejected.connect(errand.stop)
    if not errand.over.is_set():
        dialog.exec()
    dialog.deleteLater()
