"""Everything is reached by keys, left again, and says what it is."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit, QWidget

from equilix.core.assembly.build import SupportKind
from equilix.desktop.main_window import BALANCE, BUILD, CARRY, WEIGH
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


class TabWalk(DemoWindowTestCase):
    def quiet(self, room: int) -> None:
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
            chosen_of_several = isinstance(widget, QAbstractButton) and (widget.autoExclusive() or widget.group())
            if chosen_of_several and not widget.isChecked():
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


class Supports(DemoWindowTestCase):
    def test_the_support_is_changed_by_key_mouse_and_menu_in_every_room(self) -> None:
        control = Qt.KeyboardModifier.ControlModifier
        for room in (WEIGH, BUILD, BALANCE, CARRY):
            self.window.go(room)
            self.key(self.focus(), Qt.Key.Key_2, control)
            self.assertIs(self.workspace.build.support, SupportKind.HANDHELD)
            self.assertTrue(self.window.top.support.buttons[SupportKind.HANDHELD].isChecked())
            self.click(self.window.top.support.buttons[SupportKind.SHOULDER])
            self.assertIs(self.workspace.build.support, SupportKind.SHOULDER)
        self.window.support_actions[SupportKind.HANDHELD].trigger()
        self.assertIs(self.workspace.build.support, SupportKind.HANDHELD)
        self.workspace.undo()
        self.settle()
        self.assertTrue(self.window.top.support.buttons[SupportKind.SHOULDER].isChecked())
        self.assertTrue(self.window.support_actions[SupportKind.SHOULDER].isChecked())

    def test_narrow_windows_show_signs_with_names(self) -> None:
        button = self.window.top.support.buttons[SupportKind.SHOULDER]
        wide = button.width()
        self.window.resize(1100, 720)
        self.settle()
        self.assertLess(button.width(), wide)
        self.assertEqual(button.accessibleName(), "Support: Shoulder")


class NothingThere(WindowTestCase):
    room = CARRY

    def test_without_a_build_no_support_can_be_chosen(self) -> None:
        self.assertFalse(self.window.top.support.buttons[SupportKind.HANDHELD].isEnabled())
        self.key(self.window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.workspace.book.builds, ())
