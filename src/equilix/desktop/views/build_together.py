"""Putting together what is loose: a proposal that is shown, taken in one step, or left."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from equilix.desktop.jobs.waiting import run_job
from equilix.document.edits.builds import ApplyPlan
from equilix.io.files import Stopped

if TYPE_CHECKING:
    from equilix.desktop.workspace import Workspace
    from equilix.present.assembly.together import Together


class BuildTogether(QObject):
    """Holds the proposal that is shown; `changed` follows each change of it."""

    changed = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._proposed: Together | None = None

    @property
    def proposed(self) -> Together | None:
        """What is proposed, as long as the build is the one that it was made for."""
        if self._proposed is not None and self._proposed.before is not self.workspace.build:
            self._proposed = None
        return self._proposed

    def propose(self) -> None:
        """Show how the loose parts would go on."""
        from equilix.present.assembly.together import together

        w, build = self.workspace, self.workspace.build
        if build is None:
            return
        book, operator = w.book, w.operator
        try:
            self._proposed = run_job("Putting together what is loose", lambda _go_on: together(book, build, operator))
        except Stopped:
            return
        self.changed.emit()

    def leave(self) -> None:
        """Show it no more."""
        self._proposed = None
        self.changed.emit()

    def put_all(self) -> None:
        """Put on all that is sure, in one step; what is asked is proposed again."""
        found = self.proposed
        if found is None:
            return
        self._proposed = None
        done = bool(found.added) and self.workspace.apply(ApplyPlan(found.build, found.new_parts, "Put together"))
        if done and found.questions:
            self.propose()
        else:
            self.changed.emit()

    def answer(self, number: int, choice: int) -> None:
        """Put a part that is asked about where an answer says."""
        found = self.proposed
        if found is None:
            return
        build = found.questions[number].answers[choice].build
        if self.workspace.apply(ApplyPlan(build, (), "Put on")):
            self.propose()
