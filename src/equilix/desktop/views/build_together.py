"""Putting together what is loose: a proposal that is shown, taken in one step, or left."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from equilix.desktop.jobs.waiting import run_job
from equilix.document.edits.builds import ApplyPlan
from equilix.io.files import Stopped

if TYPE_CHECKING:
    from equilix.desktop.workspace import Workspace
    from equilix.present.assembly.pieces import Piece
    from equilix.present.assembly.together import Together


class BuildTogether(QObject):
    """Holds the proposal that is shown; `changed` follows each change of it."""

    changed = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._proposed: Together | None = None
        #: Parts, with the build that they were left off, that Enter passes over.
        self.left_off: set[tuple[str, str]] = set()
        self._without: frozenset[str] = frozenset()  # parts that are not for this rig

    @property
    def proposed(self) -> Together | None:
        """What is proposed, as long as the build is the one that it was made for."""
        if self._proposed is not None and self._proposed.before is not self.workspace.build:
            self._proposed = None
        return self._proposed

    @property
    def asked(self) -> str | None:
        """The part that is asked about first, None if none is."""
        found = self.proposed
        return found.questions[0].part_id if found is not None and not found.added and found.questions else None

    @property
    def first_asked(self) -> int | None:
        """The number of the first question that can be answered now, None where something is put on before."""
        found = self.proposed
        if found is None or found.added:
            return None
        return next((k for k, one in enumerate(found.questions) if one.answers), None)

    def propose(self) -> None:
        """Show how the loose parts would go on."""
        from equilix.present.assembly.together import together

        w, build = self.workspace, self.workspace.build
        if build is None:
            return
        book, operator, without = w.book, w.operator, self._without
        try:
            self._proposed = run_job(
                "Putting together what is loose", lambda _go_on: together(book, build, operator, without)
            )
        except Stopped:
            return
        self.changed.emit()

    def tick(self, part_id: str) -> None:
        """Take a part out of what is for this rig, or into it again, and propose anew."""
        self._without ^= {part_id}
        self.propose()

    def ask(self, piece: Piece) -> None:
        """Show what is asked about one part, with its places."""
        from equilix.present.assembly.together import asking

        w, build = self.workspace, self.workspace.build
        if build is not None:
            self._proposed = asking(w.book, build, w.operator, piece)
            self.changed.emit()

    def leave(self) -> None:
        """Show it no more; a part that alone was asked about stays off."""
        found = self.proposed
        if found is not None and not found.added and len(found.questions) == 1:
            self.left_off.add((found.before.id, found.questions[0].part_id))
        self._proposed, self._without = None, frozenset()
        self.changed.emit()

    def put_all(self) -> None:
        """Put on all that is sure, in one step; what is asked is proposed again, and its best place taken after it."""
        found = self.proposed
        if found is None:
            return
        if not found.added:
            if self.first_asked is not None:
                self.answer(self.first_asked, 0)
            return
        self._proposed = None
        done = bool(found.added) and self.workspace.apply(ApplyPlan(found.build, found.new_parts, "Put together"))
        if done and found.questions:
            self.propose()
        else:
            self.changed.emit()

    def answer(self, number: int, choice: int) -> None:
        """Put a part that is asked about where an answer says; what else was asked is asked again."""
        found = self.proposed
        if found is None or not 0 <= choice < len(found.questions[number].answers):
            return
        one = found.questions[number]
        self._proposed = None
        if self.workspace.apply(ApplyPlan(one.answers[choice].build, (), f"Put {one.name} on")):
            if len(found.questions) > 1 or found.added:
                self.propose()
            else:
                self.changed.emit()
