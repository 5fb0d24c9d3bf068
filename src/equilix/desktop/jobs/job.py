"""Work that takes longer than a frame: in another thread, with progress, and stopped when no longer wanted."""

from __future__ import annotations

import contextlib
import os
import threading
import time
from collections import deque
from collections.abc import Callable

from PySide6.QtCore import QObject, QRunnable, Qt, QThreadPool, QTimer, Signal

from equilix.core.errors import EquilixError

#: How far work in other threads gives way to the window's, as nice(2) counts.
_NICE = 5
#: Told how far the work is (0 to 1); returns whether to go on.
Progress = Callable[[float], bool]


class Job(QObject):
    """One piece of work. `done` carries its result, `refused` a sentence; after `cancel` nothing more comes.

    The work must not touch anything that changes: books and analyses are frozen.
    """

    progressed = Signal(float)
    told = Signal(object)  # what there is so far
    done = Signal(object)
    refused = Signal(str)
    failed = Signal(object)

    def __init__(self, work: Callable[[Progress], object]) -> None:
        super().__init__()
        self._work = work
        self._stop = threading.Event()
        self.failed.connect(self._raise)

    def start(self) -> None:
        """Begin; returns at once."""
        runner = _Runner(self)
        outlive(self)
        outlive(runner)
        # Nothing else holds it until it has run.
        working.add(runner)
        QThreadPool.globalInstance().start(runner)

    def cancel(self) -> None:
        """Stop as soon as the work asks; its result is thrown away."""
        self._stop.set()

    @property
    def cancelled(self) -> bool:
        return self._stop.is_set()

    def run(self) -> None:
        """Do the work; called in the other thread."""
        try:
            result = self._work(self._go_on)
        except EquilixError as error:
            if not self.cancelled:
                self.refused.emit(str(error))
            return
        except BaseException as error:  # noqa: BLE001 - carried to the window's thread and raised there
            self.failed.emit(error)
            return
        if not self.cancelled:
            self.done.emit(result)

    def _go_on(self, share: float) -> bool:
        if self.cancelled:
            return False
        self.progressed.emit(share)
        return True

    def tell(self, result: object) -> None:
        """Say what there is so far; called in the other thread."""
        if not self.cancelled:
            self.told.emit(result)

    @staticmethod
    def _raise(error: BaseException) -> None:
        raise error


class _Runner(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self.setAutoDelete(False)
        self._job = job

    def run(self) -> None:
        with contextlib.suppress(OSError):
            # Of this thread alone: the window, and the thread that keeps unsaved work, come before any search.
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _NICE)
        try:
            self._job.run()
        finally:
            working.discard(self)
            bury(self)
            bury(self._job)

    def cancel(self) -> None:
        """Tell the work that it is no longer wanted."""
        self._job.cancel()


#: All work under way in other threads.
working: set[object] = set()

# What belongs to the window's thread must not be destroyed in another, which may well hold it last. So all that another
# thread has to do with is kept here, is buried when that thread has done with it, and is let go in the window's thread
# only when it has lain for a while: a thread that buries something still stands beside the grave.
_kept: set[object] = set()
_graves: deque[tuple[float, object]] = deque()
#: s
_REST = 1.0


def outlive(thing: object) -> None:
    """Keep `thing` alive until it is buried."""
    _kept.add(thing)


def bury(thing: object) -> None:
    """Have `thing` let go in the window's thread, some time after now; called in any thread."""
    _graves.append((time.monotonic(), thing))


def let_go() -> None:
    """Let go of what was buried long enough ago; called in the window's thread."""
    while _graves and time.monotonic() - _graves[0][0] > _REST:
        _kept.discard(_graves.popleft()[1])


class Latest(QObject):
    """One piece of work at a time: new work puts an end to the old, and only the newest is heard."""

    progressed = Signal(float)
    told = Signal(object)
    done = Signal(object)

    def __init__(self, parent: QObject, delay: int = 0) -> None:
        """Wait `delay` ms before work begins, so that quick changes and the first frame don't pay for it."""
        super().__init__(parent)
        self.job: Job | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(delay)
        self._timer.timeout.connect(self._begin)

    @property
    def busy(self) -> bool:
        """Whether work is wanted and hasn't answered yet."""
        return self.job is not None

    def start(self, work: Callable[[Progress], object]) -> None:
        """Begin `work` in place of what runs."""
        self.stop()
        self._take(Job(work))

    def start_telling(self, work: Callable[[Progress, Callable[[object], None]], object]) -> None:
        """Begin `work`, which also gets a function by which it says what it has so far: that comes by `told`."""
        self.stop()
        # The job outlives whoever wants it; a window that is closing meanwhile must not be spoken to.
        self._take(job := Job(lambda progress: work(progress, job.tell)))

    def _take(self, job: Job) -> None:
        self.job = job
        self.job.told.connect(self._told, Qt.ConnectionType.QueuedConnection)
        self.job.progressed.connect(self._progress, Qt.ConnectionType.QueuedConnection)
        self.job.done.connect(self._done, Qt.ConnectionType.QueuedConnection)
        self.job.refused.connect(self._ended, Qt.ConnectionType.QueuedConnection)
        self.job.failed.connect(self._ended, Qt.ConnectionType.QueuedConnection)
        self._timer.start()

    def stop(self) -> bool:
        """Stop; return whether anything was under way."""
        if self.job is None:
            return False
        self._timer.stop()
        self.job.cancel()
        self.job = None
        return True

    def _begin(self) -> None:
        if self.job is not None:
            self.job.start()

    def _told(self, result: object) -> None:
        if self.sender() is self.job:
            self.told.emit(result)

    def _progress(self, share: float) -> None:
        if self.sender() is self.job:
            self.progressed.emit(share)

    def _done(self, found: object) -> None:
        if self.sender() is self.job:
            self.job = None
            self.done.emit(found)

    def _ended(self, _why: object) -> None:
        """Work that came to nothing is over too."""
        if self.sender() is self.job:
            self.job = None


def jobs_running() -> bool:
    """Whether any work is under way, also work that is no longer wanted but hasn't noticed."""
    return bool(working)


def stop_all() -> None:
    """Tell all work that it is no longer wanted; what hasn't begun never does."""
    pool = QThreadPool.globalInstance()
    for work in tuple(working):
        if isinstance(work, _Runner):
            work.cancel()
            if pool.tryTake(work):
                working.discard(work)
