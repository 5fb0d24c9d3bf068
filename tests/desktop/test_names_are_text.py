"""Whatever a name holds, it is shown as it is: in tips, boxes, menus and titles, in every room."""

from __future__ import annotations

import ast
import unittest
from pathlib import Path
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QHelpEvent, QTextDocument
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QAbstractItemView, QApplication, QLabel, QMenu, QMessageBox, QWidget

import equilix.desktop
from equilix.desktop.dialogs.ask import plain_box
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, WEIGH
from equilix.desktop.widgets.plain import as_item, as_tip, as_title
from equilix.document.book import Book
from equilix.io.shipped import demo_book
from tests.desktop.base import WindowTestCase

#: What Qt would load, obey or swallow.
EVIL = "Cam <img src='/dev/zero'> & <b>x</b> [*]"
DESKTOP = Path(equilix.desktop.__file__).parent


def evil_book() -> Book:
    book = demo_book()
    kit = tuple(replace(part, name=f"{part.name[:20]} {EVIL}", note=EVIL) for part in book.kit)
    builds = tuple(replace(build, name=f"{build.name} {EVIL}", note=EVIL) for build in book.builds)
    operators = tuple(replace(operator, name=f"{operator.name} {EVIL}") for operator in book.operators)
    instruments = tuple(replace(scale, name=f"{scale.name} {EVIL}") for scale in book.instruments)
    return replace(
        book, title=EVIL, currency="<b>", kit=kit, builds=builds, operators=operators, instruments=instruments
    )


class Helper(unittest.TestCase):
    def shown(self, tip: str) -> tuple[str, bool]:
        """Return what Qt shows of a tip, and whether anything in it would be loaded."""
        if not (tip.startswith("<p") or "<" in tip):
            return tip, False
        document = QTextDocument()
        document.setHtml(tip)
        return document.toPlainText(), "\ufffc" in document.toPlainText()

    def test_a_tip_shows_what_was_said(self) -> None:
        for text in (EVIL, "plain", "a\nb", "1 < 2", "<html>", "a & b", "", "two\n<img src=x>\nlines"):
            self.assertEqual(self.shown(as_tip(text)), (text, False))

    def test_an_endless_tip_is_cut(self) -> None:
        self.assertLess(len(as_tip("x" * 100_000)), 2_000)

    def test_marks_for_keys_and_for_changes(self) -> None:
        self.assertEqual(as_item("Salt & pepper"), "Salt && pepper")
        self.assertEqual(as_title("a [*] b"), "a [*][*] b")

    def test_nobody_gives_a_tip_but_the_helper(self) -> None:
        """Every call in the desktop's code, so that the next one cannot be forgotten."""
        found = []
        for path in DESKTOP.rglob("*.py"):
            tree = ast.parse(path.read_text("utf-8"))
            for node in ast.walk(tree):
                if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Attribute):
                    continue
                name = node.func.attr
                guarded = any(
                    isinstance(inner, ast.Call) and isinstance(inner.func, ast.Name) and inner.func.id == "as_tip"
                    for inner in node.args
                )
                tip = name == "setToolTip" or (name == "showText" and "QToolTip" in ast.unparse(node.func))
                box = name == "QMessageBox" or (name in ("information", "warning", "critical", "question"))
                if ((tip and not guarded) or box) and path.name not in ("plain.py", "ask.py"):
                    found.append(f"{path.name}:{node.lineno} {name}")
                if isinstance(node.func, ast.Name) and node.func.id == "QMessageBox" and path.name != "ask.py":
                    found.append(f"{path.name}:{node.lineno} QMessageBox")
        self.assertEqual(found, [])


class EveryRoom(WindowTestCase):
    def setUp(self) -> None:
        self.book = evil_book()
        super().setUp()

    def tips(self) -> list[str]:
        """Return every tip in the window: of widgets, of cells in lists and tables, of things in drawings."""
        found = [w.toolTip() for w in self.window.findChildren(QWidget)]
        for view in self.window.findChildren(QAbstractItemView):
            model = view.model()
            if model is None:
                continue
            for row in range(min(model.rowCount(), 60)):
                for column in range(model.columnCount()):
                    tip = model.index(row, column).data(Qt.ItemDataRole.ToolTipRole)
                    found.append(str(tip) if tip is not None else "")
        return [tip for tip in found if tip]

    def test_no_tip_and_no_label_is_taken_for_markup(self) -> None:
        for room in (WEIGH, BUILD, BALANCE, CARRY):
            self.window.go(room)
            self.workspace.select("lens")
            self.settle()
            tips = self.tips()
            self.assertTrue(any("img" in tip for tip in tips), room)
            for tip in tips:
                self.assertNotIn("<img", tip)
            for label in self.window.findChildren(QLabel):
                self.assertIs(label.textFormat(), Qt.TextFormat.PlainText, label.text()[:60])

    def test_a_tip_over_a_drawing_and_a_real_hover_load_nothing(self) -> None:
        self.window.go(BALANCE)
        view = self.window.balance.elevation
        region = next(region for region in view.scene.regions if region.key == ("part", "lens"))
        x = sum(p[0] for p in region.polygon) / len(region.polygon)
        y = sum(p[1] for p in region.polygon) / len(region.polygon)
        with mock.patch("equilix.desktop.widgets.plain.QToolTip.showText") as shown:
            QTest.mouseMove(view, QPointF(x, y).toPoint())
            self.settle()
        texts = [call.args[1] for call in shown.call_args_list]
        self.assertTrue(any("&lt;img" in text for text in texts), texts)
        for widget in (self.window.top.build, self.window.top.operator):
            place = QPoint(5, 5)
            event = QHelpEvent(QEvent.Type.ToolTip, place, widget.mapToGlobal(place))
            QApplication.sendEvent(widget, event)  # would never come back
            self.settle()

    def test_menus_and_the_title_show_every_sign(self) -> None:
        self.assertIn("[*][*]", self.window.windowTitle())
        shown: list[str] = []
        with mock.patch.object(QMenu, "popup", lambda menu, _place: shown.extend(a.text() for a in menu.actions())):
            self.click(self.window.top.build)
            self.click(self.window.top.operator)
        for text in shown:
            if "img" in text:
                self.assertIn("&&", text)
        self.assertTrue(any("img" in text for text in shown))

    def test_the_question_at_closing_is_plain(self) -> None:
        self.workspace.saved_book = Book()
        boxes: list[QMessageBox] = []

        def look(box: QMessageBox) -> int:
            boxes.append(box)
            self.assertIs(box.textFormat(), Qt.TextFormat.PlainText)
            self.assertIn("<img", box.text())
            box.buttons()[-1].click()
            return 0

        with mock.patch.object(QMessageBox, "exec", look):
            self.window.close()
        self.assertEqual(len(boxes), 1)
        self.assertIs(plain_box(EVIL, None).textFormat(), Qt.TextFormat.PlainText)

    def test_buttons_with_names_show_them_whole(self) -> None:
        self.workspace.open_book(replace(evil_book(), builds=()), None)
        self.window.go(BUILD)
        for button in self.window.findChildren(QAbstractButton):
            if "img" in button.text():
                self.assertIn("&&", button.text())


if __name__ == "__main__":
    unittest.main()
