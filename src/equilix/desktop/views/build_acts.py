"""What is done to a build in its room besides putting parts on: begun, joined, taken off, turned."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer

from equilix.core.assembly.build import Build
from equilix.core.assembly.tree_order import taken_off
from equilix.document.book import new_build_id
from equilix.document.edits.book import AddStarter
from equilix.document.edits.builds import AddBuild, QuarterTurn, TakeOff, heart_of
from equilix.document.kinds.of_part import differs
from equilix.io.shipped import starter_parts
from equilix.present.assembly.joining import LooseRow, dropping, is_spare, loose_row

if TYPE_CHECKING:
    from equilix.desktop.views.build import BuildView


class BuildActs(QObject):
    """Acts on the chosen build and its selected part."""

    def __init__(self, view: BuildView) -> None:
        super().__init__(view)
        self.view = view
        self.workspace = view.workspace

    def begin_empty(self) -> None:
        """Add an empty build and show it."""
        book = self.workspace.book
        build = Build(new_build_id(book), f"Build {len(book.builds) + 1}")
        if self.workspace.apply(AddBuild(build)):
            self.workspace.choose_build(build.id)
            self.view.drawing.setFocus()

    def begin_with(self, starter: Build) -> None:
        """Add a copy of a starting build with the parts that it needs."""
        book = self.workspace.book
        build = replace(starter, id=new_build_id(book))
        if self.workspace.apply(AddStarter(build, starter_parts(starter))):
            self.workspace.choose_build(build.id)

    def join_first(self, spares: bool = True) -> None:
        """Join the first part that nothing takes yet, or else any loose part in a way of the user's own, spares too."""
        build = self.workspace.build
        if build is None or self.view.model is None or not build.parts:
            return
        if self.view.loose:
            self.join(self.view.loose[0])
            return
        book, on_build = self.workspace.book, {placed.part_id for placed in build.parts}
        left = [part for part in book.kit if part.id not in on_build]
        part = next((part for part in left if spares or not is_spare(part, build, book)), None)
        if part is not None:
            self.join(loose_row(build, book, part))
        elif left:
            self.workspace.refused.emit("Only spares are left. J puts one on with a connection of your own.")
        else:
            self.workspace.refused.emit("Every part of the kit is on this build. Add the next one in Weigh.")

    def join(self, row: LooseRow) -> None:
        """Let it be chosen how a part is joined to the build, and join it."""
        from equilix.desktop.dialogs.join import JoinDialog

        build = self.workspace.build
        if build is None:
            return
        dialog = JoinDialog(row, build, self.workspace, self.view.window())
        if dialog.exec() == JoinDialog.DialogCode.Accepted and dialog.edit is not None:
            self.workspace.apply(dialog.edit, dialog.part.id)
        self.view.drawing.setFocus()

    def put_on_next(self) -> None:
        """Put the first offer on; what nobody knows, or goes elsewhere from rig to rig, is asked about."""
        view, build = self.view, self.workspace.build
        part = view.offers[0].part
        if build is not None and build.parts and not view.picked and differs(part):
            row = loose_row(build, self.workspace.book, part)
            QTimer.singleShot(0, lambda: self.join(row))
        else:
            view.put_on(0)

    def drop_on_face(self, part_id: str, holder: str, at: tuple[float, float]) -> None:
        """Join a part to the face of another that it was dropped nearest to, `at` a pixel of the drawing."""
        analysis, drawn, book = self.workspace.analysis(), self.view.drawn, self.workspace.book
        if analysis is not None and drawn is not None:
            self.workspace.apply(dropping(book, analysis, drawn, book.part(part_id), holder, at), part_id)

    def take_off(self) -> None:
        """Take the selected part, and what sits on it, off the build."""
        build, selected = self.workspace.build, self.workspace.selected
        if build is not None and selected:
            self._take_off(build, selected)

    def _take_off(self, build: Build, placed_id: str) -> None:
        w = self.workspace
        gone = taken_off(build, placed_id, heart_of(build, w.book))
        name = w.book.name_of(build.placed(placed_id))
        if w.apply(TakeOff(build.id, placed_id)):
            along = len(gone) - 1
            more = f" and {'the part' if along == 1 else f'the {along} parts'} on it" if along else ""
            w.said.emit(f"Took off {name}{more}. Ctrl+Z brings {'them' if along else 'it'} back")

    def turn(self) -> None:
        """Turn the selected part by a quarter."""
        build, selected = self.workspace.build, self.workspace.selected
        if build is not None and selected:
            self.workspace.apply(QuarterTurn(build.id, selected))
