"""The claim on the open book's file: one window at a time may change a book."""

from __future__ import annotations

from pathlib import Path

from equilix.desktop.jobs.waiting import run_job
from equilix.io.claims import Claim, claim_book
from equilix.io.files import Stopped, shown
from equilix.io.preferences import claims_folder


class FileHold:
    """`elsewhere` says since when another window has the book; None: it is ours."""

    def __init__(self) -> None:
        self.elsewhere: str | None = None
        self._claim: Claim | None = None

    def take(self, path: Path | None, since: str) -> None:
        """Give up the old book's claim and take that of the one at `path`, at the time `since`."""
        self.give_up()
        self.elsewhere = None
        if path is not None:
            found = claim_of(path, since)
            if isinstance(found, Claim):
                self._claim = found
            else:
                self.elsewhere = found

    def replace(self, claim: Claim | None) -> None:
        """Hold what was claimed for another file."""
        self.give_up()
        self._claim, self.elsewhere = claim, None

    def give_up(self) -> None:
        """Let other windows change the book."""
        if self._claim is not None:
            self._claim.release()
            self._claim = None


def claim_of(path: Path, since: str) -> Claim | str | None:
    """Claim the book at `path`, which may lie on a disk that doesn't answer: see `claim_book`."""
    try:
        return run_job(f"Checking {shown(path)}", lambda _go_on: claim_book(claims_folder(), path, since))
    except Stopped:
        return None
