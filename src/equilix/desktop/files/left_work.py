"""Work of sessions that ended without tidying up: it is offered until somebody answers."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from equilix.core.errors import EquilixError
from equilix.desktop.jobs.waiting import run_job
from equilix.io.recovery import Recovered

if TYPE_CHECKING:
    from equilix.desktop.files.book_files import BookFiles

#: ms between looks whether restored work is on the disk.
_KEPT = 100


class LeftWork(QObject):
    """Offers it in the banner, opens it, or throws it away."""

    def __init__(self, files: BookFiles) -> None:
        super().__init__(files)
        self._files = files
        self.window = files.window
        self.workspace = files.workspace
        self.left: tuple[Recovered, ...] = ()  # what nobody has answered yet

    def offer_recovered(self, recovered: tuple[Recovered, ...]) -> None:
        """Offer the work that earlier sessions left behind, one by one."""
        if not recovered:
            return
        self.left = recovered
        newest, others = recovered[0], recovered[1:]
        when = time.strftime("%d %B, %H:%M", time.localtime(newest.time))
        more = f" {len(others)} older {'one waits' if len(others) == 1 else 'ones wait'} too." if others else ""

        def go_on() -> None:
            self.left = others
            QTimer.singleShot(0, self, lambda: self.offer_recovered(others))

        def later() -> None:
            self.window.say("The unsaved work is kept: Unsaved work, in the menu, or the next start offers it again.")

        def restore() -> None:
            if self._restore(newest):
                go_on()
            else:
                self.offer_recovered(recovered)

        def throw_away() -> None:
            newest.discard()
            go_on()

        if newest.book is None:
            words = f"The unsaved work of {when} cannot be read: {newest.reason}{more}"
            answers = (("Open the readable part", restore), ("Discard it", throw_away), ("Later", later))
        else:
            words = f"“{newest.book.title}” was not saved when Equilix ended ({when}).{more}"
            answers = (("Restore", restore), ("Discard it", throw_away), ("Later", later))
        self.window.banner.offer(words, answers)

    def offer_again(self) -> None:
        """Offer what earlier sessions left, and nobody has answered yet."""
        self.offer_recovered(self.left)

    def _restore(self, work: Recovered) -> bool:
        """Open left work; its snapshot goes only when the new one is on the disk. Return whether it was opened."""
        if not self._files.may_drop_work():
            return False
        if work.book is None:
            from equilix.io.salvage import salvage

            try:
                found = run_job("Reading the readable part", lambda go_on: salvage(work.snapshot, go_on))
            except EquilixError as error:
                self.window.refuse(str(error))
                return False
            book, path = found.book, None
        else:
            book, path = work.book, work.path
        self.workspace.open_book(book, path, unsaved=True, known=work.known)
        self._files.opened()
        self._files.watch.look()
        self._discard_when_kept(work)
        return True

    def _discard_when_kept(self, work: Recovered) -> None:
        journal = self.workspace.journal
        if journal is None:
            return  # nothing keeps it but the old snapshot
        if journal.settled:
            work.discard()
        else:
            QTimer.singleShot(_KEPT, self, lambda: self._discard_when_kept(work))
