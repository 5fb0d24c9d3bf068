"""Sets in the Build view: their lines in the panel, and the menu of what can be done with them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, QPoint, QTimer, Signal
from PySide6.QtWidgets import QDialog, QMenu, QWidget

from equilix.desktop.widgets.plain import as_item
from equilix.desktop.workspace import Workspace
from equilix.present.assembly.sets_view import SetChoice, SetRow, set_choices, set_rows


class BuildSets(QObject):
    """Makes sets of the chosen build, takes them off and puts them on; `hinted` names parts to be shown meanwhile."""

    hinted = Signal(tuple)

    def __init__(self, workspace: Workspace, view: QWidget) -> None:
        super().__init__(view)
        self.workspace = workspace
        self.view = view
        self.menu: QMenu | None = None

    def rows(self) -> tuple[SetRow, ...]:
        """The sets of the build, with what each would do."""
        build = self.workspace.build
        return set_rows(self.workspace.book, build, self.workspace.system) if build is not None else ()

    def open_menu(self) -> None:
        """Show what can be done with sets, what concerns the selected part first."""
        workspace, build = self.workspace, self.workspace.build
        if build is None:
            return
        choices = set_choices(workspace.book, build, workspace.selected)
        if not choices:
            workspace.refused.emit("Select the part a set hangs on. Then press S again.")
            return
        self.menu = QMenu(self.view)
        for choice in choices:
            action = self.menu.addAction(as_item(choice.words))
            action.triggered.connect(partial(self._later, choice))
            action.hovered.connect(partial(self.hinted.emit, choice.members))
        self.menu.aboutToHide.connect(partial(self.hinted.emit, ()))
        self.menu.setActiveAction(self.menu.actions()[0])
        self.menu.popup(self.view.mapToGlobal(QPoint(40, 60)))

    def _later(self, choice: SetChoice) -> None:
        # The panel is filled anew by it, and with it the words that are being clicked.
        QTimer.singleShot(0, lambda: self.do(choice))

    def do(self, choice: SetChoice) -> None:
        """Do it, asking for a name first where one is wanted."""
        from equilix.desktop.dialogs.forms import NameDialog

        workspace, build = self.workspace, self.workspace.build
        if build is None:
            return
        edit = choice.edit
        if edit is None:
            listed, title = choice.listed(workspace.book, build), "Rename set" if choice.old else "New set"
            dialog = NameDialog(title, choice.suggested, self.view.window(), listed)
            self.hinted.emit(choice.members)
            accepted = dialog.exec() == QDialog.DialogCode.Accepted
            self.hinted.emit(())
            if not accepted:
                return
            edit = choice.named(build.id, dialog.name.text().strip())
        if workspace.apply(edit):
            workspace.said.emit(choice.said)
