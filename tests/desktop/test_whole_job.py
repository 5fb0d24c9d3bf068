"""From an empty document to a trimmed rig on paper and back, by mouse and keys."""

from __future__ import annotations

import unittest
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from equilix.desktop.views.rooms import BALANCE, BUILD, WEIGH
from equilix.io.format import read_book
from equilix.io.shipped import starters
from tests.campaigns import campaign
from tests.desktop.base import WindowTestCase

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier

KIT = (
    ("Base plate, dovetail", "0.94", "250x90x26"),
    ("Shoulder pad", "380 g", ""),
    ("Camera plate", "0.27 kg", "150x60x10"),
    ("Camera body", "5 lb 12 oz", "166x104x130"),
    ("Rods front, 10 in", "0.14", "254x75x15"),
    ("Rods rear", "0.11", "8 in x 75 mm x 15 mm"),
    ("V-lock battery plate", "0.29", ""),
    ("Battery 98 Wh", "0.75", ""),
    ("Zoom 28-105", "1.36 s", "207x108"),
    ("Rosette clamp", "0.26", ""),
    ("Handgrip left", "0.18", ""),
    ("Handgrip right", "0.18", ""),
)


@campaign
class WholeJob(WindowTestCase):
    def enter_kit(self) -> None:
        self.window.go(WEIGH)
        for name, mass, size in KIT:
            self.keys(self.window.weigh.entry.name_field, name)
            self.keys(self.window.weigh.entry.mass_field, mass)
            self.keys(self.window.weigh.entry.size_field, size)
            self.key(self.window.weigh.entry.size_field, Qt.Key.Key_Return)
        self.assertEqual(self.refusals, [])
        self.assertEqual([part.name for part in self.workspace.book.kit], [name for name, _, _ in KIT])

    def put_on(self, name: str, placed_name: str = "", mount: str = "") -> None:
        """Choose a mount by clicking it in the drawing, then click the part in the tray."""
        build = self.window.build
        if placed_name:
            placed = next(
                p for p in self.workspace.build.parts if self.workspace.book.name_of(p).startswith(placed_name)
            )
            self.press_at(build.drawing, ("mount", placed.id, mount))
        number = next(i for i, offer in enumerate(build.offers) if offer.part.name.startswith(name))
        if number < 9:
            self.key(build.drawing, Qt.Key(Qt.Key.Key_1 + number))
        else:
            self.click(build.tray.parts.places[number])
        self.assertEqual(self.refusals, [])

    def build_rig(self) -> None:
        self.window.go(BUILD)
        self.window.build.acts.begin_empty()
        self.settle()
        self.put_on("Base plate")
        for name, parent, mount in (
            ("Shoulder pad", "Base plate", "slot"),
            ("Camera plate", "Base plate", "dovetail"),
            ("Camera body", "Camera plate", "screw"),
            ("Rods rear", "Base plate", "rear rods"),
            ("Rods front", "Base plate", "front rods"),
            ("V-lock battery plate", "Rods rear", "rods"),
            ("Battery 98", "V-lock", "lock"),
            ("Zoom", "Camera body", "lens"),
            ("Rosette clamp", "Rods front", "rods"),
            ("Handgrip left", "Rosette", "left"),
            ("Handgrip right", "Rosette", "right"),
        ):
            self.put_on(name, parent, mount)
        self.assertEqual(len(self.workspace.build.parts), len(KIT))

    def test_from_nothing_to_a_trimmed_rig_and_back_from_the_file(self) -> None:
        self.enter_kit()
        self.build_rig()
        self.window.go(BALANCE)
        self.settle()
        before = self.window.balance.model.verdict
        self.assertIn("Tips", before.head)
        # Preview the first way, then apply it: nothing changes before Apply.
        view = self.window.balance
        unchanged = self.workspace.book
        self.ways()
        self.key(view.elevation, Qt.Key.Key_P)
        self.assertIs(self.workspace.book, unchanged)
        self.assertIsNotNone(self.workspace.chosen_way)
        self.click(self.window.panel.doing.button)
        self.assertIsNot(self.workspace.book, unchanged)
        # One way after the other, as the trade does it, until it is level.
        for _ in range(3):
            if view.model.verdict.head == "Level":
                break
            self.ways()
            self.key(view.elevation, Qt.Key.Key_P)
            self.key(view.elevation, Qt.Key.Key_Return)
        after = view.model.verdict
        self.assertEqual(after.head, "Level")
        path = self.folder / "ferry.equilix"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.window.menu.named["save"].trigger()
        self.assertFalse(self.workspace.unsaved)
        figures = view.model.figures
        self.workspace.open_book(type(self.workspace.book)(), None)
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            self.window.menu.named["open"].trigger()
        self.settle()
        self.assertEqual(view.model.verdict, after)
        self.assertEqual(view.model.figures, figures)
        self.assertEqual(read_book(path), self.workspace.book)

    def test_every_step_is_named_and_can_be_undone_to_the_empty_book(self) -> None:
        empty = self.workspace.book
        self.enter_kit()
        self.build_rig()
        full = self.workspace.book
        self.assertEqual(self.workspace.history.undo_label, "Put part on")
        self.assertEqual(self.window.menu.named["undo"].text(), "&Undo: Put part on")
        while self.workspace.history.past:
            self.window.menu.named["undo"].trigger()
        self.assertEqual(self.workspace.book, empty)
        while self.workspace.history.future:
            self.window.menu.named["redo"].trigger()
        self.assertEqual(self.workspace.book, full)

    def test_first_verdict_from_a_starting_build_takes_two_clicks(self) -> None:
        self.window.go(BUILD)
        self.settle()
        self.click(self.window.panel.doers["starter", starters()[0].id])
        self.assertGreater(len(self.workspace.build.parts), 10)
        self.click(self.window.rail.buttons[BALANCE])
        self.assertNotEqual(self.window.balance.model.figures, ())
        self.assertTrue(all(part.mass_known == "guessed" for part in self.workspace.book.kit))


if __name__ == "__main__":
    unittest.main()
