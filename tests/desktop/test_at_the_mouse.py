"""What a right click offers, the page of help, and what a window keeps until the next start."""

from __future__ import annotations

from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu, QWidget

from equilix.core.keys import KEYS
from equilix.core.support import case_of
from equilix.desktop.dialogs.help import HelpDialog
from equilix.desktop.views.rooms import BALANCE, BUILD, CARRY, ROOMS, WEIGH
from equilix.desktop.window import MainWindow
from equilix.desktop.workspace import Workspace
from equilix.io.preferences import load_preferences
from equilix.present.supports.labels import label_for
from equilix.present.supports.text import warning_words
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


class RightClick(DemoWindowTestCase):
    def menu_at(self, view: QWidget, place: QPoint) -> QMenu:
        QApplication.sendEvent(view, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, view.mapToGlobal(place)))
        self.settle()
        menus = [menu for menu in view.findChildren(QMenu) if menu.isVisible()]
        self.assertEqual(len(menus), 1)
        return menus[0]

    def choose(self, menu: QMenu, words: str) -> None:
        action = next(one for one in menu.actions() if one.text().startswith(words))
        menu.close()
        action.trigger()
        self.settle()

    def test_a_part_is_selected_and_shown_in_weigh(self) -> None:
        view = self.window.balance.elevation
        menu = self.menu_at(view, self.spot(view, ("part", "lens")))
        self.assertEqual(self.workspace.selected, "lens")
        self.choose(menu, "Show its figures in Weigh")
        self.assertEqual(self.window.room, WEIGH)
        self.assertEqual(self.workspace.kit_selected, self.workspace.build.placed("lens").part_id)

    def test_a_way_is_previewed_and_applied_each_with_its_key_beside(self) -> None:
        self.ways()
        card = self.window.panel.cards[0]
        menu = self.menu_at(card, QPoint(20, 10))
        self.assertEqual([action.text() for action in menu.actions()], ["Preview it\tP"])
        self.choose(menu, "Preview it")
        menu = self.menu_at(self.window.panel.cards[0], QPoint(20, 10))
        self.choose(menu, "Apply it")
        self.assertEqual(self.workspace.history.undo_label, "Apply way")

    def test_a_part_of_a_build_comes_off(self) -> None:
        self.window.go(BUILD)
        self.settle()
        view = self.window.build.drawing
        menu = self.menu_at(view, self.spot(view, ("part", "matte")))
        keys = [action.text().split("\t")[1] for action in menu.actions() if "\t" in action.text()]
        self.assertEqual(keys, ["L", "M", "T", "Delete"])
        self.choose(menu, "Take it off")
        self.assertNotIn("matte", [placed.id for placed in self.workspace.build.parts])

    def test_a_joint_and_the_level_below(self) -> None:
        self.window.go(CARRY)
        self.settle()
        view = self.window.carry.load
        menu = self.menu_at(view, self.spot(view, ("joint", "elbow")))
        self.choose(menu, "Show forces, discs and strength")
        self.assertTrue(self.window.carry.strength)


class Help(DemoWindowTestCase):
    def test_every_line_of_every_room_is_found_by_typing(self) -> None:
        dialog = HelpDialog("Carry", self.window)
        self.addCleanup(dialog.deleteLater)
        # The room that is open comes first.
        self.assertEqual(dialog.shown[0], "Carry")
        for room in ROOMS:
            for line in room.help.split("\n"):
                self.assertIn(line, dialog.shown)
        QTest.keyClicks(dialog.search, "undo")
        self.assertTrue(any("Ctrl+Z" in line for line in dialog.shown))
        self.assertLess(len(dialog.shown), 5)
        dialog.search.setText("xyzzy")
        self.assertEqual(dialog.shown, ("Nothing here has these words. Try another.",))

    def test_f1_opens_it(self) -> None:
        with mock.patch.object(HelpDialog, "exec") as opened:
            self.key(self.window, Qt.Key.Key_F1)
        opened.assert_called_once()


class KeptPlace(DemoWindowTestCase):
    def test_size_and_room_are_kept_for_the_next_start(self) -> None:
        self.window.resize(1170, 770)
        self.window.go(CARRY)
        self.settle()
        self.workspace.saved_book = self.workspace.history.present
        self.window.close()
        kept = load_preferences()
        self.assertEqual(kept.room, CARRY)
        again = MainWindow(Workspace(kept))
        self.addCleanup(again.deleteLater)
        again.restore_place()
        # The screen of the tests is narrower than the window: its height alone can come back.
        self.assertEqual(again.height(), 770)

    def test_what_is_no_place_changes_nothing(self) -> None:
        self.workspace.keep_place("ä not base 64", BALANCE)
        before = self.window.size()
        self.window.restore_place()
        self.assertEqual(self.window.size(), before)


class StartPage(WindowTestCase):
    room = WEIGH

    def test_each_support_has_a_drawn_rig_that_begins_on_it(self) -> None:
        page = self.window.weigh.start_page
        self.wait_for(lambda: all(button._scene.items for button in page.starters))
        self.assertEqual(len(page.starters), len(KEYS))
        for key, button in zip(KEYS, page.starters, strict=True):
            self.assertRegex(button.text(), rf"^{label_for(key).name} +≈ \d")
            self.click(button)
            self.assertEqual((self.window.room, self.workspace.build.support), (BALANCE, key))
            analysis = self.workspace.analysis()
            self.assertIsNotNone(case_of(analysis))
            met = [one for one in analysis.findings if "hits" in warning_words(analysis, one)]
            self.assertEqual(met, [], key)
            self.workspace.undo()
            self.window.go(WEIGH)
            self.settle()
