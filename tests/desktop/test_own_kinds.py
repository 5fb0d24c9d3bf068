"""What somebody says of a part's kind: of this part, or of all that the book calls so."""

from __future__ import annotations

from typing import Any
from unittest import mock

from PySide6.QtCore import Qt

from equilix.desktop.views.rooms import WEIGH
from equilix.io.format import decode_book, encode_book
from tests.desktop.by_keys import ByKeys


class OwnKinds(ByKeys):
    def say(self, kind: str, remembers: int) -> None:
        """Say in the window what the chosen part is."""

        def execute(dialog: Any) -> int:
            dialog.show()
            dialog.activateWindow()
            self.settle()
            dialog.kind_box.setFocus()
            dialog.kind_box.lineEdit().selectAll()
            self.type(kind)
            dialog.remembers.setCurrentIndex(remembers)
            dialog.accept()
            self.assertFalse(dialog.isVisible(), dialog.problem.text())
            self.window.activateWindow()
            self.settle()
            return int(dialog.result())

        with mock.patch("equilix.desktop.dialogs.kind.KindDialog.exec", execute):
            self.click(self.window.weigh.part_panel.kind)

    def test_a_word_that_nobody_knows_is_said_once_and_remembered(self) -> None:
        self.enter_kit((("Camera", "2.1"), ("Widget", "0.3")))
        self.window.go(WEIGH)
        self.window.weigh.list_kit("all", self.workspace.book.kit[1].id)
        self.settle()
        self.say("light", remembers=2)
        book = self.workspace.book
        self.assertEqual((book.kinds[0].like, book.kinds[0].mass, book.kinds[0].words), ("light", 0.3, ("Widget",)))
        self.assertEqual(decode_book(encode_book(book), "x"), book)
        # Another one is of that kind by its name, and goes where lights go without a question.
        self.window.weigh.entry.name_field.setFocus()
        self.type("widget left")
        self.assertEqual(self.window.weigh.entry.kind_box.currentText(), "kind: Widget")
        self.window.weigh.entry.name_field.clear()
        self.press(Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
        self.press(Qt.Key.Key_Return, times=3)
        self.assertEqual(self.names(), ["Camera", "Widget"])
        for _ in range(4):
            self.workspace.undo()
        self.assertEqual(self.workspace.book.kinds, ())

    def test_of_one_part_alone(self) -> None:
        self.enter_kit((("Camera", "2.1"), ("Widget", "0.3"), ("Widget", "0.3")))
        self.window.weigh.list_kit("all", self.workspace.book.kit[1].id)
        self.settle()
        self.say("side handle", remembers=0)
        self.assertEqual([part.kind for part in self.workspace.book.kit], ["", "side_handle", ""])
        self.assertEqual([part.category for part in self.workspace.book.kit], ["body", "grip", "other"])
        self.assertEqual(self.workspace.book.kinds, ())
