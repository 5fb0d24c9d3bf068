"""What Enter does: it presses what has the keyboard. In a field it may move that on, and must not press twice."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit

_CHANGES = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


def presses(event: QKeyEvent) -> bool:
    """Whether a key presses what has the keyboard, as a button."""
    return event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space)


class _OnEnter(QObject):
    """Does something at Enter, and keeps the key from what has the keyboard afterwards."""

    def __init__(self, field: QLineEdit, do: Callable[[], object]) -> None:
        super().__init__(field)
        self._do = do
        field.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return False
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter) or event.modifiers() & _CHANGES:
            return False
        self._do()
        return True


def on_enter(field: QLineEdit, do: Callable[[], object]) -> None:
    """Have `do` called at Enter in a field."""
    _OnEnter(field, do)
