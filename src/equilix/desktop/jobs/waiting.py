"""Waits for a job while the window stays alive, and says what is being done where it takes long, with a Stop."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from equilix.desktop.jobs.job import Job, Progress
from equilix.desktop.widgets.labels import label

T = TypeVar("T")
#: s for which the window just waits, and after which what is done is shown.
_BLINK, SHOWN_AFTER = 0.02, 0.3


class WaitingDialog(QDialog):
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


def run_job(words: str, work: Callable[[Progress], T], parent: QWidget | None = None) -> T:
    """Return what `work` returns, which is done in another thread; the window is painted meanwhile.

    What takes longer than SHOWN_AFTER is told in `words`, with a Stop.

    Raises
    ------
    Stopped
        If the user stopped it; what the thread still does is not heard any more.
    EquilixError
        Whatever the work raised.
    """
    job = Job(work).start()
    if job.over.wait(_BLINK) or QApplication.instance() is None:
        job.over.wait()
        return job.result()
    loop = QEventLoop()
    job.ended.connect(loop.quit, Qt.ConnectionType.QueuedConnection)
    QTimer.singleShot(round(1000 * SHOWN_AFTER), loop.quit)
    if not job.over.is_set():
        # Keys and clicks wait: what they are meant for is about to change.
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
    if not job.over.is_set():
        _wait_aloud(job, words, parent)
    return job.result()


def _wait_aloud(job: Job[T], words: str, parent: QWidget | None) -> None:
    before = parent or QApplication.activeWindow()
    dialog = WaitingDialog(words, before)
    job.progressed.connect(dialog.show_share, Qt.ConnectionType.QueuedConnection)
    job.ended.connect(dialog.accept, Qt.ConnectionType.QueuedConnection)
    dialog.rejected.connect(job.cancel)
    if not job.over.is_set():
        dialog.exec()
    dialog.deleteLater()
    if before is not None:
        before.activateWindow()  # not every window manager gives the keyboard back
