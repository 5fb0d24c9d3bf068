"""Menus at the mouse: what can be done with what lies there, each with its key beside it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct
from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QWidget

from equilix.desktop.widgets.plain import as_item


class Entry(Struct, frozen=True):
    """One thing to do: its words, the key that does the same, "" for none, and what does it."""

    words: str
    key: str
    act: Callable[[], object]


def context_menu(entries: Sequence[Entry], parent: QWidget) -> QMenu:
    """Return a menu of `entries`; it deletes itself once it is closed."""
    menu = QMenu(parent)
    for entry in entries:
        # The key is told, not bound: the view has it already.
        action = QAction(as_item(entry.words) + (f"\t{entry.key}" if entry.key else ""), menu)
        action.triggered.connect(lambda _checked=False, act=entry.act: act())
        menu.addAction(action)
    menu.aboutToHide.connect(menu.deleteLater)
    return menu


def show_context(entries: Sequence[Entry], parent: QWidget, at: QPoint) -> None:
    """Show a menu of `entries` at a place on the screen, if there are any."""
    if entries:
        context_menu(entries, parent).popup(at)
