"""Thirty bags as strangers type them, on all six supports: each a printed sheet by keys alone, or by mouse alone.

Counted is all beyond the names: at most 40 keys, or 15 gestures of the mouse.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import ClassVar
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from equilix.core.keys import KEYS
from equilix.desktop.views.rooms import BALANCE, BUILD, WEIGH
from equilix.document.book import Book
from equilix.present.assembly.side_panel import ANSWER, EMPTY, PUT_ALL, TOGETHER
from tests.campaigns import campaign
from tests.desktop.by_keys import ALT, CONTROL, ByKeys

BAGS = json.loads((Path(__file__).parents[1] / "data" / "bags.json").read_text("utf-8"))
KEYS_ALLOWED, GESTURES_ALLOWED = 40, 15


class Bag(ByKeys):
    """One bag after another in one window."""

    def enter_names(self, names: list[str]) -> None:
        self.workspace.saved_book = self.workspace.history.present
        self.workspace.open_book(Book(), None)
        self.window.go(WEIGH)
        self.window.activateWindow()  # no window manager does it after a dialog
        self.settle()
        self.window.weigh.entry.name_field.setFocus()
        for name in names:
            for letter in name:
                if letter.isascii():
                    self.type(letter)
                else:
                    self.window.weigh.entry.name_field.insert(letter)  # no key of the test's keyboard has it
            self.press(Qt.Key.Key_Return)
        self.assertEqual([part.name for part in self.workspace.book.kit], names)
        self.pressed = 0

    def is_a_rig(self, row: dict[str, object]) -> None:
        """Every joint that an assistant makes is on it, and it is judged and printed."""
        build, book = self.workspace.build, self.workspace.book
        self.assertEqual(build.support, row["support"])
        on_it = set(self.names())
        for part, onto, _ in row["joints"]:  # type: ignore[attr-defined]
            self.assertLessEqual({part.removeprefix("?"), onto}, on_it)
        self.assertEqual(len([placed for placed in build.parts if placed.parent is None]), 1)
        self.assertTrue(self.window.balance.model.verdict.head)
        self.assertGreater(len(book.kit), 0)


@campaign
class ByKeysAlone(Bag):
    rows: ClassVar = BAGS[0::2]

    def test_at_most_forty_keys(self) -> None:
        for row in self.rows:
            with self.subTest(f"{row['support']} {row['names'][0]}"):
                self.enter_names(row["names"])
                self.press(Qt.Key.Key_2, ALT)
                self.press(Qt.Key.Key_Return)
                if self.workspace.build.support != row["support"]:
                    self.press(Qt.Key(Qt.Key.Key_1 + KEYS.index(row["support"])), CONTROL)
                self.press(Qt.Key.Key_A)
                together = self.window.build.together
                while together.proposed is not None and self.pressed < KEYS_ALLOWED:
                    self.press(Qt.Key.Key_Return)
                self.press(Qt.Key.Key_3, ALT)
                self.print()
                self.is_a_rig(row)
                self.assertLessEqual(self.pressed, KEYS_ALLOWED)


@campaign
class ByMouseAlone(Bag):
    rows: ClassVar = BAGS[1::2]

    def test_at_most_fifteen_gestures(self) -> None:
        for row in self.rows:
            with self.subTest(f"{row['support']} {row['names'][0]}"):
                self.enter_names(row["names"])
                self.gestures = 0
                self.tap(self.window.rail.buttons[BUILD])
                self.tap(self.doer(EMPTY))
                if self.workspace.build.support != row["support"]:
                    self.tap(self.window.top.support.buttons[row["support"]])
                self.tap(self.doer(TOGETHER))
                together = self.window.build.together
                self.assertIsNotNone(together.proposed)
                self.tap(self.doer(PUT_ALL))
                while together.first_asked is not None and self.gestures < GESTURES_ALLOWED:
                    self.tap(self.doer(ANSWER, str(together.first_asked), "0"))
                self.tap(self.window.rail.buttons[BALANCE])
                path = self.folder / f"{len(row['names'])}.pdf"
                with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
                    self.window.menu.named["pdf"].trigger()
                    self.gestures += 3  # the menu, its export, the sheet
                    self.wait_for(path.exists)
                self.is_a_rig(row)
                self.assertLessEqual(self.gestures, GESTURES_ALLOWED)

    def tap(self, widget: object) -> None:
        self.gestures += 1
        self.click(widget)  # type: ignore[arg-type]
        self.settle()
