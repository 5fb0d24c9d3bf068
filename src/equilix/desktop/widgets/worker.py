"""A widget whose figures are worked out in another thread while somebody looks at it."""

from __future__ import annotations

from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QWidget

from equilix.desktop.jobs.job import Job, Latest


class Worker(QWidget):
    """Begins when it is shown, stops when it is hidden; `came` takes what was found."""

    #: Whether work goes on while it is hidden.
    works_hidden = False

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._work = Latest(self)
        self._work.done.connect(self.came)

    @property
    def job(self) -> Job[object] | None:
        """The work under way, None if there is none."""
        return self._work.job

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        if not self.works_hidden:
            self.stop()

    def refresh(self) -> None:
        """Begin what the present build wants, unless it is known."""

    def came(self, found: object) -> None:
        """Show what was found."""

    def stop(self) -> None:
        """Stop working."""
        if self._work.stop():
            self.forget()

    def forget(self) -> None:
        """Take note that what was sought is not known after all."""
