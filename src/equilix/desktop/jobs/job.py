"""Work that takes longer than a frame: in another thread, with progress, and stopped when no longer wanted."""

from __future__ import annotations

import contextlib
import os
import threading
from collections.abc import Callable
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from shiboken6 import isValid

from equilix.core.errors import EquilixError
from equilix.io.files import Stopped

T = TypeVar("T")
#: How far computing in other threads gives way to the window's, as nice(2) counts.
_NICE = 5
#: Told how far the work is (0 to 1); returns whether to go on.
Progress = Callable[[float], bool]


class Job(QObject, Generic[T]):
    """One piece of work in a thread of its own; `ended` follows, unless the program ends before it.

    The work must not touch anything that changes: books and analyses are frozen. One that `computes` gives way to the
    window, and is waited for where threads must not be in the way; any other waits for a disk or a device, and dies
    with the process however long that keeps it.
    """

    progressed = Signal(float)
    told = Signal(object)  # what there is so far
    ended = Signal()

    def __init__(self, work: Callable[[Progress], T], computes: bool = False) -> None:
        super().__init__()
        self.over = threading.Event()
        self._work = work
        self._computes = computes
        self._stop = threading.Event()
        self._result: T | None = None
        self._error: BaseException | None = None
        self._wanted: Callable[[], object] | None = None
        self._heard = False  # whether the window's thread knows that it is over
        # A daemon is left to itself at the end of the program.
        self._thread = threading.Thread(target=self._run, daemon=not computes)
        self.ended.connect(self._answer, Qt.ConnectionType.QueuedConnection)

    def start(self) -> Job[T]:
        """Begin; returns at once."""
        _retained.add(self)
        _working.add(self)
        self._thread.start()
        return self

    def cancel(self) -> None:
        """Stop as soon as the work asks; its result is thrown away. What waits for a disk is left to itself."""
        self._stop.set()
        if not self._computes:
            _working.discard(self)

    @property
    def cancelled(self) -> bool:
        return self._stop.is_set()

    def _run(self) -> None:
        if self._computes:
            with contextlib.suppress(OSError):
                # Of this thread alone: the window, and the thread that keeps unsaved work, come before any search.
                os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _NICE)
        try:
            self._result = self._work(self._go_on)
        except BaseException as error:  # noqa: BLE001 - carried to the window's thread and raised there
            self._error = error
        self.over.set()
        with contextlib.suppress(RuntimeError):  # the window has gone
            self.ended.emit()
        _working.discard(self)

    def _go_on(self, share: float) -> bool:
        if self.cancelled:
            return False
        with contextlib.suppress(RuntimeError):
            self.progressed.emit(share)
        return True

    def tell(self, result: object) -> None:
        """Say what there is so far; called in the other thread."""
        if not self.cancelled:
            with contextlib.suppress(RuntimeError):
                self.told.emit(result)

    def then(self, call: Callable[[T], object]) -> None:
        """Have `call` called with what comes out, in the window's thread; what went wrong is raised there.

        Nothing is called of a window, or of a part of it, that is gone by then.
        """
        owner = getattr(call, "__self__", None)

        def wanted() -> None:
            gone = isinstance(owner, QObject) and not isValid(owner)
            if not self.cancelled and not gone:
                call(self.result())

        self._wanted = wanted
        if self.over.is_set():
            QTimer.singleShot(0, self._answer)

    def _answer(self) -> None:
        """Call what was wanted at the end, once."""
        self._heard = self.over.is_set()
        wanted, self._wanted = self._wanted, None
        if wanted is not None:
            wanted()

    @property
    def done_with(self) -> bool:
        """Whether its thread is no more, to its last reference, and the window's thread has heard of its end."""
        return self._heard and not self._thread.is_alive()

    def result(self) -> T:
        """Return what came out, or raise what went wrong; Stopped if it was cancelled."""
        if self.cancelled:
            raise Stopped("Stopped.")
        if self._error is not None:
            raise self._error
        return self._result  # type: ignore[return-value]


#: All work under way in other threads.
_working: set[Job[Any]] = set()

# What belongs to the window's thread must not be destroyed in another, which may well hold it last: it would wait for
# the interpreter with the library's lock in its hands, and the window for that lock with the interpreter in its own. So
# a job is kept here, and let go in the window's thread once its own thread has ended.
_retained: set[Job[Any]] = set()


def let_go_of_the_done() -> None:
    """Let go of all work whose thread has ended; called in the window's thread."""
    for job in [job for job in _retained if job.done_with]:
        _retained.discard(job)


class Latest(QObject):
    """One computation at a time: new work puts an end to the old, and only the newest is heard."""

    progressed = Signal(float)
    told = Signal(object)
    done = Signal(object)

    def __init__(self, parent: QObject, delay: int = 0) -> None:
        """Wait `delay` ms before work begins, so that quick changes and the first frame don't pay for it."""
        super().__init__(parent)
        self.job: Job[object] | None = None
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
        self.start_telling(lambda progress, _tell: work(progress))

    def start_telling(self, work: Callable[[Progress, Callable[[object], None]], object]) -> None:
        """Begin `work`, which also gets a function by which it says what it has so far: that comes by `told`."""
        self.stop()
        # The job outlives whoever wants it; a window that is closing meanwhile must not be spoken to.
        job: Job[object] = Job(lambda progress: work(progress, job.tell), computes=True)
        self.job = job
        job.told.connect(self._told, Qt.ConnectionType.QueuedConnection)
        job.progressed.connect(self._progress, Qt.ConnectionType.QueuedConnection)
        job.ended.connect(self._ended, Qt.ConnectionType.QueuedConnection)
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

    def _ended(self) -> None:
        """Hand on what came out; work that came to nothing is over too."""
        job = self.job
        if job is None or self.sender() is not job:
            return
        self.job = None
        with contextlib.suppress(EquilixError):
            self.done.emit(job.result())


def jobs_running() -> bool:
    """Whether any work is under way, also work that is no longer wanted but hasn't noticed."""
    return bool(_working)


def stop_all() -> None:
    """Tell all work that it is no longer wanted."""
    for job in tuple(_working):
        job.cancel()
