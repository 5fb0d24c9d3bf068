"""What is done to the book by menus and forms: its title, builds, operators, scales and typical parts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject
from PySide6.QtWidgets import (
    QDialog,
    QMenu,
    QWidget,
)

from equilix.core.assembly.build import Build, Operator
from equilix.core.limits import shortened
from equilix.core.records import fields_of
from equilix.desktop.views.rooms import BALANCE, BUILD, WEIGH
from equilix.desktop.widgets.plain import as_item
from equilix.document.book import new_id
from equilix.present.supports import text_for

if TYPE_CHECKING:
    from equilix.desktop.window import MainWindow


def build_form_words(support: str) -> str:
    """Return what the menu calls the form of a build on a support."""
    view = text_for(support)
    has_form = bool(fields_of(view.support.usual))
    return f"Name, note and {view.label}…" if has_form else "Name and note…"


def ask_name(title: str, now: str, parent: QWidget) -> str | None:
    """Return the name typed in a small window, None if it was cancelled."""
    from equilix.desktop.dialogs.forms import NameDialog

    dialog = NameDialog(title, now, parent)
    return dialog.name.text().strip() if dialog.exec() == QDialog.DialogCode.Accepted else None


class BookActs(QObject):
    """Asks in forms, applies the edit, and goes where it is seen."""

    def show_in_weigh(self, placed_id: str) -> None:
        """Show a placed part in Weigh, selected."""
        build = self.window.workspace.build
        if build is not None:
            self.window.weigh.list_kit("all", build.placed(placed_id).part_id)
            self.window.go(WEIGH)

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window = window
        self.workspace = window.workspace

    def rename_book(self) -> None:
        """Ask for another title."""
        from equilix.document.edits.book import RenameBook

        title = ask_name("Book", self.workspace.book.title, self.window)
        if title is not None:
            self.workspace.apply(RenameBook(title))

    def choose_build(self) -> None:
        menu = QMenu(self.window)
        w = self.workspace
        for build in w.book.builds:
            action = menu.addAction(as_item(build.name))
            action.setCheckable(True)
            action.setChecked(build is w.build)
            action.triggered.connect(lambda _checked=False, b=build.id: w.choose_build(b))
        menu.addSeparator()
        menu.addAction("New empty build").triggered.connect(lambda _c=False: self.new_build())
        starters = menu.addMenu("New build from a typical one")
        from equilix.io.shipped import starters as starting_builds

        for starter in starting_builds():
            starters.addAction(as_item(starter.name)).triggered.connect(lambda _c=False, s=starter: self._start_from(s))
        if w.build is not None:
            menu.addAction("Duplicate this build").triggered.connect(lambda _c=False: self._duplicate_build())
            menu.addAction(build_form_words(w.build.support)).triggered.connect(lambda _c=False: self._edit_build())
            menu.addAction("Remove this build").triggered.connect(lambda _c=False: self._remove_build())
        menu.popup(self.window.top.build.mapToGlobal(self.window.top.build.rect().bottomLeft()))

    def new_build(self) -> None:
        self.window.build.acts.begin_empty()
        self.window.go(BUILD)

    def _start_from(self, starter: Build) -> None:
        self.window.build.acts.begin_with(starter)
        self.window.go(BUILD)

    def begin_with(self, starter: Build) -> None:
        """Begin an empty book with a typical build, and show at once how it balances."""
        self.window.build.acts.begin_with(starter)
        self.window.go(BALANCE)

    def _duplicate_build(self) -> None:
        from equilix.document.edits.builds import DuplicateBuild

        build = self.workspace.build
        if build is not None and self.workspace.apply(DuplicateBuild(build.id, shortened(build.name, ", copy"))):
            builds = self.workspace.book.builds
            at = next(i for i, b in enumerate(builds) if b.id == build.id)
            self.workspace.choose_build(builds[at + 1].id)

    def choose_support(self, support: str) -> None:
        """Let something else carry the build."""
        from equilix.document.edits.builds import ChangeBuild

        build = self.workspace.build
        if build is not None and build.support != support:
            self.workspace.apply(ChangeBuild(replace(build, support=support), "support"))
        self.window.show_bars()

    def _edit_build(self) -> None:
        from equilix.desktop.dialogs.forms import BuildDialog
        from equilix.document.edits.builds import ChangeBuild

        build = self.workspace.build
        if build is not None:
            dialog = BuildDialog(build, self.workspace.book.parts, self.workspace.system, self.window)
            if dialog.exec() == QDialog.DialogCode.Accepted:
                self.workspace.apply(ChangeBuild(dialog.result_build, "build and pad"))

    def _remove_build(self) -> None:
        from equilix.document.edits.builds import RemoveBuild

        build = self.workspace.build
        if build is not None:
            self.workspace.apply(RemoveBuild(build.id))

    def choose_operator(self) -> None:
        menu = QMenu(self.window)
        w = self.workspace
        for operator in w.book.operators:
            action = menu.addAction(as_item(operator.name))
            action.setCheckable(True)
            action.setChecked(operator is w.operator)
            action.triggered.connect(lambda _c=False, o=operator.id: w.choose_operator(o))
        menu.addSeparator()
        menu.addAction("Change…").triggered.connect(lambda _c=False: self._edit_operator(w.operator))
        ids = {operator.id for operator in w.book.operators}
        fresh = Operator(new_id("op", ids), "Add operator…")
        menu.addAction("Add operator…").triggered.connect(lambda _c=False: self._edit_operator(fresh))
        menu.popup(self.window.top.operator.mapToGlobal(self.window.top.operator.rect().bottomLeft()))

    def _edit_operator(self, operator: Operator) -> None:
        from equilix.desktop.dialogs.forms import OperatorDialog
        from equilix.document.edits.book import PutOperator, RemoveOperator

        w = self.workspace
        known = any(operator.id == other.id for other in w.book.operators)
        dialog = OperatorDialog(operator, w.system, self.window, removable=known)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return
        if dialog.removed:
            if w.apply(RemoveOperator(operator.id)):
                w.choose_operator(w.book.operators[0].id)
        elif w.apply(PutOperator(dialog.result_operator)):
            w.choose_operator(dialog.result_operator.id)

    def add_typical(self) -> None:
        """Let typical parts be chosen from the catalogue."""
        from equilix.desktop.dialogs.forms import CatalogueDialog
        from equilix.document.edits.kit import AddParts

        dialog = CatalogueDialog(self.workspace.book, self.workspace.system, self.window)
        if dialog.exec() == QDialog.DialogCode.Accepted and dialog.chosen_parts:
            self.workspace.apply(AddParts(dialog.chosen_parts))

    def edit_scale(self, change: bool) -> None:
        """Change the scale in use, or add one."""
        from equilix.core.kit.records import Instrument
        from equilix.desktop.dialogs.forms import InstrumentDialog
        from equilix.document.edits.measure import PutInstrument, RemoveInstrument

        w = self.workspace
        scale = self.window.bench.scale
        known = change and scale.id in w.book.scales
        if not known:
            scale = Instrument(new_id("scale", set(w.book.scales)), "Hanging scale")
        dialog = InstrumentDialog(scale, w.system, self.window, removable=known)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return
        if dialog.removed:
            self.window.bench.disconnect_scale()
            if w.apply(RemoveInstrument(scale.id)):
                self.window.bench.choose_scale(next(iter(w.book.scales), "eye"))
        elif w.apply(PutInstrument(dialog.result_instrument)):
            self.window.bench.choose_scale(dialog.result_instrument.id)
