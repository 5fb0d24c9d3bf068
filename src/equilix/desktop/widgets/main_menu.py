"""The menu below the brand: all actions with their keys, and the help that lists the keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import (
    QMenu,
)

from equilix.core.keys import KEYS
from equilix.desktop.looks.theme import Theme
from equilix.desktop.views.rooms import ROOM, ROOMS
from equilix.desktop.widgets.plain import as_item
from equilix.present.supports.labels import label_for
from equilix.present.units import System

if TYPE_CHECKING:
    from equilix.desktop.window import MainWindow


class MainMenu(QMenu):
    """The actions of the window by their names."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window = window
        self.named: dict[str, QAction] = {}
        self.supports: dict[str, QAction] = {}
        files, acts, workspace = window.files, window.acts, window.workspace
        key = QKeySequence.StandardKey
        self._add(self, "new", "&New book", key.New, files.new)
        self._add(self, "open", "&Open…", key.Open, files.choose)
        self.recent = self.addMenu("Open &recent")
        self._add(self, "left", "Unsa&ved work…", "", files.left_work.offer_again)
        self._add(self, "new_build", "New empty &build", "Ctrl+Shift+N", acts.new_build)
        self._add(self, "save", "&Save", key.Save, files.save)
        self._add(self, "save_as", "Save &as…", "Ctrl+Shift+S", files.save_as)
        self.addSeparator()
        export = self.addMenu("&Export")
        self._add(export, "pdf", "Build &sheet (PDF)…", "Ctrl+P", files.tables.export_sheet)
        self._add(export, "csv", "Build as a &table (CSV)…", "", files.tables.export_build)
        for suffix in ("xlsx", "ods", "csv"):
            words = f"Kit (&{suffix.upper()})…"
            self._add(export, f"kit_{suffix}", words, "", partial(files.tables.export_kit, f".{suffix}"))
        self._add(export, "json", "Whole book (&JSON)…", "", files.tables.export_json)
        self._add(self, "import", "&Import a kit…", "Ctrl+I", files.tables.import_kit)
        self.addSeparator()
        self._add(self, "undo", "&Undo", key.Undo, workspace.undo)
        redo = self._add(self, "redo", "Re&do", "Ctrl+Shift+Z", workspace.redo)
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        self.addSeparator()
        supports = self.addMenu("Su&pport")
        for number, kind in enumerate(KEYS, 1):
            choose = partial(acts.choose_support, kind)
            action = self._add(supports, f"support{number}", label_for(kind).name, f"Ctrl+{number}", choose)
            action.setCheckable(True)
            self.supports[kind] = action
        self._add(self, "find", "&Find a part", key.Find, window.find_part)
        self._add(self, "typical", "Add &typical parts…", "Ctrl+T", acts.add_typical)
        self.addSeparator()
        self._add(self, "theme", "Dark the&me", "Ctrl+D", self.switch_theme)
        self._add(self, "units", "S&witch to the other units", "", self.switch_units)
        self._add(self, "single", "Single-letter ke&ys", "", self.switch_single_keys).setCheckable(True)
        self._add(self, "full", "Fu&ll screen", "F11", self.switch_full_screen)
        self._add(self, "help", "&Help and keys", "F1", self.show_help)
        self.addSeparator()
        self._add(self, "quit", "&Quit", key.Quit, window.close)
        self._add(None, "menu", "Menu", "F10", window.open_menu)
        for number, room in enumerate(ROOMS, 1):
            self._add(None, f"room-{room.key}", room.name, f"Alt+{number}", partial(window.go, room.key))
        self.aboutToShow.connect(self._fill_recent)

    def show_help(self) -> None:
        """Show the help, the open room's lines first."""
        from equilix.desktop.dialogs.help import HelpDialog

        HelpDialog(ROOM[self._window.room].name, self._window).exec()

    def _add(
        self,
        menu: QMenu | None,
        name: str,
        text: str,
        keys: QKeySequence | QKeySequence.StandardKey | str,
        slot: Callable[[], object],
    ) -> QAction:
        """Add an action to the window, and to a `menu` if there is one."""
        action = QAction(self._window)
        action.setText(text)  # not with the window: that could be an icon too, and brings all names of icons
        action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _checked=False: slot())
        self._window.addAction(action)
        self.named[name] = action
        if menu is not None:
            menu.addAction(action)
        return action

    def refresh(self) -> None:
        """Show what can be done with the book as it is now."""
        w = self._window.workspace
        self.show_undo()
        for name in ("pdf", "csv"):
            self.named[name].setEnabled(w.build is not None and bool(w.build.parts))
        self.named["theme"].setText("Light t&heme" if w.preferences.theme == Theme.DARK else "Dark the&me")
        self.named["single"].setChecked(w.preferences.single_keys)
        support = w.build.support if w.build is not None else KEYS[0]
        for kind, action in self.supports.items():
            action.setEnabled(w.build is not None)
            action.setChecked(kind == support)

    def show_undo(self) -> None:
        """Show what undo and redo would do."""
        history = self._window.workspace.history
        for name, word, label in (("undo", "&Undo", history.undo_label), ("redo", "Re&do", history.redo_label)):
            self.named[name].setEnabled(bool(label))
            self.named[name].setText(f"{word}: {as_item(label)}" if label else word)

    # Looks

    def switch_theme(self) -> None:
        """Change between day and night."""
        now = self._window.workspace.preferences.theme
        theme = Theme.DARK if now == Theme.LIGHT else Theme.LIGHT
        self._window.workspace.set_preferences(replace(self._window.workspace.preferences, theme=theme.value))
        self._window.set_theme(theme)

    def switch_units(self) -> None:
        """Change between metric and imperial."""
        other = System.IMPERIAL if self._window.workspace.system is System.METRIC else System.METRIC
        self._window.workspace.set_units(other)

    def switch_single_keys(self) -> None:
        """Turn single-letter keys on or off."""
        preferences = self._window.workspace.preferences
        self._window.workspace.set_preferences(replace(preferences, single_keys=not preferences.single_keys))

    def switch_full_screen(self) -> None:
        """Fill the screen, or stop doing so."""
        if self._window.isFullScreen():
            self._window.showNormal()
        else:
            self._window.showFullScreen()

    def _fill_recent(self) -> None:
        self.recent.clear()
        for name in self._window.workspace.preferences.recent:
            path = Path(name)
            action = self.recent.addAction(as_item(f"{path.name}   {path.parent}"))
            action.triggered.connect(lambda _checked=False, p=path: self._window.files.open(p))
        self.recent.setEnabled(bool(self._window.workspace.preferences.recent))
        self.named["left"].setVisible(bool(self._window.files.left_work.left))
