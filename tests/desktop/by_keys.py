"""A window that is used by keys alone."""

from __future__ import annotations

from typing import Any
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

from equilix.desktop.views.rooms import WEIGH
from equilix.io.format import decode_book, encode_book
from tests.desktop.base import WindowTestCase

ALT, CONTROL = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier

NONE = Qt.KeyboardModifier.NoModifier


class ByKeys(WindowTestCase):
    """Types like a person: whatever has the keyboard gets the key. `pressed` counts keys beyond names and figures."""

    room = WEIGH

    def setUp(self) -> None:
        super().setUp()
        self.window.activateWindow()
        self.settle()
        self.pressed = 0

    def there(self) -> QWidget:
        widget = QApplication.focusWidget()
        self.assertIsNotNone(widget, "nothing has the keyboard")
        return widget

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = NONE, times: int = 1) -> None:
        for _ in range(times):
            self.pressed += 1
            QTest.keyClick(self.there(), key, modifier)
            self.settle()

    def type(self, text: str) -> None:
        QTest.keyClicks(self.there(), text)
        self.settle()

    def enter_kit(self, parts: tuple[tuple[str, str], ...]) -> None:
        for name, mass in parts:
            self.type(name)
            self.press(Qt.Key.Key_Tab)
            self.type(mass)
            self.press(Qt.Key.Key_Return)
        self.assertEqual([part.name for part in self.workspace.book.kit], [name for name, _ in parts])

    def next_part(self, answer: object = None, key: Qt.Key = Qt.Key.Key_Return, elsewhere: bool = False) -> None:
        """Press Enter for the next part, or J to say how; what is asked is answered with Enter, or `elsewhere`."""

        def execute(dialog: Any) -> int:
            dialog.show()
            dialog.activateWindow()
            self.settle()
            if callable(answer):
                answer(dialog)
            self.press(Qt.Key.Key_Return)
            self.assertFalse(dialog.isVisible(), f"{dialog.windowTitle()} stays open: {dialog.problem.text()}")
            self.window.activateWindow()
            return dialog.result()

        with mock.patch("equilix.desktop.dialogs.join.JoinDialog.exec", execute):
            self.press(key)
            if self.window.build.together.proposed is not None:
                self.press(Qt.Key.Key_J if elsewhere else Qt.Key.Key_Return)
        self.window.activateWindow()
        self.settle()

    def build_all(self) -> None:
        """Begin a build and put on everything that is in the kit."""
        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return)
        self.put_on_the_rest()

    def put_on_the_rest(self) -> None:
        for _ in range(3 * len(self.workspace.book.kit)):
            build = self.workspace.build
            if build is not None and len(build.parts) == len(self.workspace.book.kit):
                return
            before = len(build.parts) if build is not None else 0
            self.next_part()
            self.assertGreater(len(self.workspace.build.parts), before, self.window.build.tray.note.text())
        self.fail("a dead end")

    def level(self) -> None:
        """Go to Balance and take ways until it is level enough, or none is left."""
        self.press(Qt.Key.Key_3, ALT)
        view = self.window.balance
        for _ in range(4):
            self.wait_for(lambda: not view.finder.busy)
            if view.model.verdict.head == "Level" or not view.ways:
                return
            self.press(Qt.Key.Key_P)
            self.press(Qt.Key.Key_Return)

    def print(self) -> str:
        """Print the sheet; return its text."""
        path = self.folder / "sheet.pdf"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.press(Qt.Key.Key_P, CONTROL)
        self.wait_for(path.exists)
        self.assertEqual(path.read_bytes()[:5], b"%PDF-")
        self.assertEqual(self.refusals, [])
        book = self.workspace.book
        self.assertEqual(decode_book(encode_book(book), "x"), book)
        return self.window.status.context.text()

    def names(self) -> list[str]:
        return [self.workspace.book.name_of(placed) for placed in self.workspace.build.parts]
