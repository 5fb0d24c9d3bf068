"""Everything is reached by keys, left again, and says what it is."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication
from PySide6.QtWidgets import QAbstractButton, QComboBox, QDialog, QLineEdit, QWidget

from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, WEIGH
from equilix.io.format import write_book
from equilix.io.shipped import demo_book
from equilix.present.units import System
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


@campaign
class TabWalk(DemoWindowTestCase):
    def quiet(self, room: str) -> None:
        """Wait until nothing that fills the panel is under way."""
        if room == BALANCE:
            self.ways()
        elif room == BUILD:
            self.wait_for(lambda: self.window.build.advice.next and not self.window.build.advice.busy)
        elif room == CARRY:
            self.wait_for(lambda: self.window.carry.job is None)

    @staticmethod
    def sign(widget: QWidget) -> str:
        """Return by what a control is known again when its panel was filled anew."""
        words = widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")
        return f"{type(widget).__name__}: {words}"

    def reachable(self) -> set[QWidget]:
        """Return what Tab should come to: of buttons of which one is chosen, the arrows do the rest."""
        found = set()
        for widget in self.window.findChildren(QWidget):
            if not widget.isVisible() or not widget.isEnabled() or widget.window() is not self.window:
                continue
            if not widget.focusPolicy() & Qt.FocusPolicy.TabFocus or widget.focusProxy() is not None:
                continue
            button = widget if isinstance(widget, QAbstractButton) else None
            if button is not None and (button.autoExclusive() or button.group()) and not button.isChecked():
                continue
            found.add(widget)
        return found

    def test_tab_reaches_everything_in_every_room_and_comes_round(self) -> None:
        for room in (WEIGH, BUILD, BALANCE, CARRY):
            self.window.go(room)
            self.quiet(room)
            start = self.focus()
            wanted = {self.sign(widget) for widget in self.reachable()}
            reached: set[str] = set()
            for _ in range(4 * len(wanted)):
                self.key(self.focus(), Qt.Key.Key_Tab)
                reached.add(self.sign(self.focus()))
                if self.focus() is start:
                    break
            self.assertEqual(sorted(wanted - reached), [], f"never reached in room {room}")
            self.assertIs(self.focus(), start)
            # And back: what can be entered can be left the other way.
            self.key(self.focus(), Qt.Key.Key_Backtab)
            self.assertIsNot(self.focus(), start)

    def test_everything_says_what_it_is(self) -> None:
        for room in (WEIGH, BUILD, BALANCE, CARRY):
            self.window.go(room)
            self.quiet(room)
            for widget in self.reachable():
                with self.subTest(room=room, widget=type(widget).__name__):
                    words = widget.accessibleName()
                    if isinstance(widget, QAbstractButton) and not words:
                        words = widget.text()
                    self.assertGreater(len(words.strip()), 1, widget)
                    if isinstance(widget, QComboBox):
                        self.assertNotEqual(words, widget.currentText())
                    if isinstance(widget, QLineEdit):
                        self.assertTrue(widget.accessibleName(), widget.placeholderText())


@campaign
class Supports(DemoWindowTestCase):
    def test_the_support_is_changed_by_key_mouse_and_menu_in_every_room(self) -> None:
        control = Qt.KeyboardModifier.ControlModifier
        for room in (WEIGH, BUILD, BALANCE, CARRY):
            self.window.go(room)
            self.key(self.focus(), Qt.Key.Key_2, control)
            self.assertEqual(self.workspace.build.support, "handheld")
            self.assertTrue(self.window.top.support.buttons["handheld"].isChecked())
            self.click(self.window.top.support.buttons["shoulder"])
            self.assertEqual(self.workspace.build.support, "shoulder")
        self.window.menu.supports["handheld"].trigger()
        self.assertEqual(self.workspace.build.support, "handheld")
        self.workspace.undo()
        self.settle()
        self.assertTrue(self.window.top.support.buttons["shoulder"].isChecked())
        self.assertTrue(self.window.menu.supports["shoulder"].isChecked())

    def test_narrow_windows_show_signs_with_names(self) -> None:
        button = self.window.top.support.buttons["shoulder"]
        self.window.resize(1500, 800)
        self.settle()
        wide = button.width()
        self.window.resize(1100, 720)
        self.settle()
        self.assertLess(button.width(), wide)
        self.assertEqual(button.accessibleName(), "Support: Shoulder")


class NothingThere(WindowTestCase):
    room = CARRY

    def test_without_a_build_no_support_can_be_chosen(self) -> None:
        self.assertFalse(self.window.top.support.buttons["handheld"].isEnabled())
        self.key(self.window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.workspace.book.builds, ())


class Menus(DemoWindowTestCase):
    def test_every_entry_has_a_letter_of_its_own(self) -> None:
        self.window.refresh()
        menus: list[Any] = [self.window.menu, *(a.menu() for a in self.window.menu.actions() if a.menu() is not None)]
        for menu in menus:
            texts = [a.text().replace("&&", "") for a in menu.actions() if not a.isSeparator()]
            if menu is self.window.menu.recent or menu.title() == "Su&pport":
                continue  # names of files, and keys of their own
            letters = [text.partition("&")[2][:1].casefold() for text in texts]
            self.assertNotIn("", letters, texts)
            self.assertEqual(len(set(letters)), len(letters), sorted(zip(letters, texts, strict=True)))


class CopyAndDrop(DemoWindowTestCase):
    def clipboard(self) -> list[list[str]]:
        return [line.split("\t") for line in QGuiApplication.clipboard().text().split("\n")]

    def test_the_ledger_is_copied_with_headings_units_and_net(self) -> None:
        self.key(self.window.balance.elevation, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        lines = self.clipboard()
        self.assertEqual(lines[0], ["", "part", "moment, N·m", "mass, kg", "distance, mm"])
        self.assertEqual(len(lines), len(self.workspace.build.parts) + 2)
        # What a spreadsheet sums up is the net row: the moments are plain numbers.
        moments = [float(line[2]) for line in lines[1:] if line[2] != "–"]
        self.assertAlmostEqual(sum(moments[:-1]), moments[-1], delta=0.01 * len(moments))
        self.assertIn("<th>distance, mm</th>", QGuiApplication.clipboard().mimeData().html())

    def test_lens_table_and_kit_are_copied_with_headings(self) -> None:
        view = self.window.balance
        self.click(view.pages.tabs.buttons["lenses"])
        self.wait_for(lambda: view.pages.lenses.model)
        self.key(view.pages.lenses.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        lines = self.clipboard()
        self.assertEqual(len(lines), len(view.pages.lenses.model.rows) + 1)
        self.assertTrue(any("mm" in heading or "mark" in heading for heading in lines[0]), lines[0])
        self.window.go(WEIGH)
        table = self.window.weigh.table
        table.selectAll()
        self.key(table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        lines = self.clipboard()
        self.assertEqual(lines[0][:4], ["name", "mass, kg", "size, mm", "known by"])
        self.assertEqual(len(lines), len(self.workspace.book.kit) + 1)

    def test_units_of_a_heading_hold_when_pasted_elsewhere(self) -> None:
        """Copied in kilograms, pasted where pounds are in force: the same part."""
        self.window.go(WEIGH)
        table = self.window.weigh.table
        self.workspace.kit_selected = "matte"
        self.window.weigh.refresh()
        self.key(table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        self.workspace.set_units(System.IMPERIAL)
        self.key(table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        copy, original = self.workspace.book.kit[-1], self.workspace.book.part("matte")
        self.assertEqual(self.refusals, [])
        self.assertAlmostEqual(copy.mass, original.mass)
        self.assertEqual(copy.outline.size, original.outline.size)

    def drop(self, *paths: Path) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        place = QPointF(600, 400)
        action, button, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        enter = QDragEnterEvent(place.toPoint(), action, data, button, none)
        self.window.dragEnterEvent(enter)
        self.assertEqual(enter.isAccepted(), len(paths) == 1)
        self.window.dropEvent(QDropEvent(place, action, data, button, none))
        self.settle()

    def test_a_book_and_a_table_are_dropped_on_the_window(self) -> None:
        path = self.folder / "other.equilix"
        write_book(replace(demo_book(), title="Another"), path)
        self.drop(path)
        self.wait_for(lambda: self.workspace.book.title == "Another")
        table = self.folder / "kit.csv"
        table.write_text("name,mass\nSpare pad,300 g\n")
        with mock.patch(
            "equilix.desktop.dialogs.import_table.ImportDialog.exec", return_value=QDialog.DialogCode.Accepted
        ):
            self.drop(table)
            self.wait_for(lambda: any(part.name == "Spare pad" for part in self.workspace.book.kit))
        self.drop(path, table)
        self.assertEqual(self.workspace.book.title, "Another")
