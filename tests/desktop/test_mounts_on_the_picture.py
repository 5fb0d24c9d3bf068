"""Feet and mounts of a part are moved on its picture, by mouse and keys."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from equilix.desktop.views.rooms import WEIGH
from tests.desktop.base import DemoWindowTestCase

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


class OnThePicture(DemoWindowTestCase):
    room = WEIGH

    def setUp(self) -> None:
        super().setUp()
        self.workspace.kit_selected = "body"
        self.window.refresh()
        self.settle()
        self.panel = self.window.weigh.part_panel
        self.view = self.panel.preview

    def region(self, number: int, view: str) -> tuple[str, ...]:
        return next(r.key for r in self.view.scene.regions if r.key[:3] == ("place", str(number), view))

    def mount(self, mount_id: str) -> tuple[float, float, float]:
        return self.workspace.book.part("body").mount(mount_id).at

    def drag_by(self, key: tuple[str, ...], dx: int, dy: int) -> None:
        start = self.spot(self.view, key)
        QTest.mousePress(self.view, LEFT, NONE, start)
        for step in (1, 2, 3):
            QTest.mouseMove(self.view, start + QPoint(dx * step // 3, dy * step // 3))
            self.app.processEvents()
        QTest.mouseRelease(self.view, LEFT, NONE, start + QPoint(dx, dy))
        self.settle()

    def test_a_mount_is_dragged_to_scale_in_one_step(self) -> None:
        number = 1 + [m.id for m in self.workspace.book.part("body").mounts].index("top rear")
        key = self.region(number, "side")
        before, book = self.mount("top rear"), self.workspace.book
        scale = float(key[3])
        self.drag_by(key, -12, 6)
        x, y, z = self.mount("top rear")
        self.assertAlmostEqual(x - before[0], -12 / scale, delta=0.001)
        self.assertAlmostEqual(z - before[2], -6 / scale, delta=0.001)
        self.assertEqual(y, before[1])
        self.assertEqual(self.panel.chosen, number)
        self.workspace.undo()
        self.assertEqual(self.workspace.book, book)

    def test_from_above_up_is_to_the_left(self) -> None:
        number = 1 + [m.id for m in self.workspace.book.part("body").mounts].index("side")
        key = self.region(number, "top")
        before = self.mount("side")
        self.drag_by(key, 0, -9)
        x, y, z = self.mount("side")
        self.assertAlmostEqual(y - before[1], 9 / float(key[3]), delta=0.001)
        self.assertAlmostEqual(x, before[0], delta=0.001)
        self.assertEqual(z, before[2])

    def test_keys_choose_push_and_remove(self) -> None:
        self.view.setFocus()
        self.key(self.view, Qt.Key.Key_BracketRight)
        chosen = self.panel.chosen
        self.assertEqual(chosen, 1)
        before = self.mount("lens")
        self.key(self.view, Qt.Key.Key_Right)
        self.key(self.view, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
        self.key(self.view, Qt.Key.Key_PageUp)
        moved = [round(b - a, 6) for a, b in zip(before, self.mount("lens"), strict=True)]
        self.assertEqual(moved, [0.001, 0.001, 0.010])
        # The lens is on it: taking the mount away is refused with a sentence.
        self.key(self.view, Qt.Key.Key_Delete)
        self.assertIn("no mount called", self.refusals[-1])
