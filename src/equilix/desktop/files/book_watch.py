"""Notices when the open book's file is changed, moved or deleted by somebody else."""

from __future__ import annotations

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from equilix.desktop.jobs.job import Job
from equilix.desktop.workspace import Workspace
from equilix.io.files import Obstacle, obstacle

#: ms that a change may take to settle: sync clients write in several steps.
_SETTLED = 200
#: ms between looks where a disk tells of no changes, as network folders do.
_EVERY = 15_000


class BookWatch(QObject):
    """`found` tells, once for each change, that the file is Obstacle.CHANGED or Obstacle.GONE."""

    found = Signal(object)

    def __init__(self, workspace: Workspace, parent: QObject) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SETTLED)
        self._soon.timeout.connect(self.look)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(lambda _path: self._soon.start())
        self._watcher.directoryChanged.connect(lambda _path: self._soon.start())
        self._often = QTimer(self)
        self._often.setInterval(_EVERY)
        self._often.timeout.connect(self.look)
        self._often.start()
        self._job: Job[Obstacle | None] | None = None
        self._asked: object = None
        self._told: object = None

    def follow(self) -> None:
        """Watch the file that the book has now."""
        path = self.workspace.path
        wanted = {str(path), str(path.parent)} if path is not None else set()
        old = {*self._watcher.files(), *self._watcher.directories()}
        if old - wanted:
            self._watcher.removePaths(sorted(old - wanted))
        if wanted - old:
            # A file that was replaced is another one to the disk, and has to be named again.
            self._watcher.addPaths(sorted(wanted - old))

    def look(self) -> None:
        """Compare the file with what it was, in another thread; at most one look at a time."""
        w = self.workspace
        path, known = w.path, w.known
        if path is None or known is None or self._job is not None:
            return
        self._asked = known
        self._job = Job(lambda _go_on: obstacle(path, known)).start()
        self._job.then(self._seen)

    def _seen(self, found: Obstacle | None) -> None:
        self._job = None
        # Saved or opened anew meanwhile: what was looked at is no longer what it is about.
        if self._asked is not self.workspace.known:
            return
        self.follow()
        if found not in (Obstacle.CHANGED, Obstacle.GONE):
            self._told = None
            return
        key = (self._asked, found)
        if key != self._told:
            self._told = key
            self.found.emit(found)

    def close(self) -> None:
        """Stop watching."""
        self._often.stop()
        self._soon.stop()
        if self._job is not None:
            self._job.cancel()
            self._job = None
