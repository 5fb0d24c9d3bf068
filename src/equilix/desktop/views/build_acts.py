"""What is done to a build in its room besides putting parts on: begun, joined, taken off, turned."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject

from equilix.core.assembly.build import Build
from equilix.core.assembly.tree_order import taken_off
from equilix.core.kit.parts import Part
from equilix.document.book import new_build_id
from equilix.document.edits.book import AddStarter
from equilix.document.edits.builds import AddBuild, QuarterTurn, TakeOff, heart_of
from equilix.document.kinds.support_pieces import usual_support
from equilix.io.shipped import starter_parts
from equilix.present.assembly.pieces import Piece, piece_of

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
        build = Build(new_build_id(book), f"Build {len(book.builds) + 1}", support=usual_support(book.kit))
        if self.workspace.apply(AddBuild(build)):
            self.workspace.choose_build(build.id)
            self.view.drawing.setFocus()

    def begin_with(self, starter: Build) -> None:
        """Add a copy of a starting build with the parts that it needs."""
        book = self.workspace.book
        build = replace(starter, id=new_build_id(book))
        if self.workspace.apply(AddStarter(build, starter_parts(starter))):
            self.workspace.choose_build(build.id)

    def next_piece(self) -> Piece | None:
        """Return what goes on next: the first piece that nobody left off."""
        model, build = self.view.model, self.workspace.build
        if model is None or build is None:
            return None
        left_off = self.view.together.left_off
        return next((one for one in model.loose.pieces if (build.id, one.part.id) not in left_off), None)

    def put_on_next(self) -> None:
        """Put the next piece on; ask about what nobody can know; say why nothing goes on."""
        model, build = self.view.model, self.workspace.build
        if model is None or build is None:
            return
        piece = self.next_piece()
        if piece is not None:
            self.put_on(piece)
            return
        lost = next((one for one in model.loose.off if one.wanted), None)
        if lost is not None:
            self.join(lost.part)
        elif len(build.parts) < len(self.workspace.book.kit):
            self.workspace.refused.emit("Only spares are left. J puts one on with a connection of your own.")
        else:
            self.workspace.refused.emit("Every part of the kit is on this build. Add the next one in Weigh.")

    def put_on(self, piece: Piece) -> None:
        """Put a piece where it goes, or ask where that is."""
        build = self.workspace.build
        if build is None:
            return
        if piece.asks and piece.answers:
            self.view.together.ask(piece)
        else:
            self.workspace.apply(piece.put_on(build), piece.part.id)

    def choose(self, part_id: str) -> None:
        """Put the loose part that was chosen in the panel on: where it goes, else let it be said how."""
        model = self.view.model
        piece = next((one for one in model.loose.pieces if one.part.id == part_id), None) if model is not None else None
        if piece is not None:
            self.put_on(piece)
        else:
            self.join(self.workspace.book.part(part_id))

    def join_first(self) -> None:
        """Let it be said how the part that is asked about is joined, else the first loose one, spares last."""
        model, build = self.view.model, self.workspace.build
        if model is None or build is None or not build.parts:
            return
        asked = self.view.together.asked
        if asked is not None:
            self.join(self.workspace.book.part(asked))
            return
        first = [one.part for one in model.loose.pieces]
        first += [one.part for one in sorted(model.loose.off, key=lambda one: not one.wanted)]
        if first:
            self.join(first[0])
        else:
            self.workspace.refused.emit("Every part of the kit is on this build. Add the next one in Weigh.")

    def join(self, part: Part) -> None:
        """Let it be chosen how a part is joined to the build, and join it."""
        from equilix.desktop.dialogs.join import JoinDialog

        build = self.workspace.build
        if build is None:
            return
        piece = piece_of(self.workspace.book, build, part)
        dialog = JoinDialog(part, piece, build, self.workspace, self.view.window())
        if dialog.exec() == JoinDialog.DialogCode.Accepted and dialog.edit is not None:
            self.workspace.apply(dialog.edit, part.id)
        self.view.drawing.setFocus()

    def lift(self) -> None:
        """Take the part that is asked about in the hand, else the selected one, else the first loose one."""
        model, build, selected = self.view.model, self.workspace.build, self.workspace.selected
        if model is None or build is None:
            return
        asked = self.view.together.asked
        loose = [one.part for one in model.loose.pieces] + [one.part for one in model.loose.off]
        if asked is not None:
            self.view.together.leave()
            self.view.moves.lift_loose(self.workspace.book.part(asked))
        elif selected:
            self.view.moves.lift(selected)
        elif loose:
            self.view.moves.lift_loose(loose[0])
        else:
            self.workspace.refused.emit("First select a part.")

    def take_off(self) -> None:
        """Take the selected part, and what sits on it, off the build."""
        if self.workspace.selected:
            self.take_off_part(self.workspace.selected)

    def take_off_part(self, placed_id: str) -> None:
        """Take a part, and what sits on it, off the build."""
        w, build = self.workspace, self.workspace.build
        if build is None:
            return
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
