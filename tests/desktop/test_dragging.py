"""Whatever is dragged or pushed by keys moves what carries it; Esc puts back; balance is snapped to."""

from __future__ import annotations

from typing import cast

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from equilix.core.slides import level_setting
from equilix.desktop.views.rooms import BUILD
from equilix.desktop.widgets.scene_view import SceneView
from tests.desktop.base import DemoWindowTestCase

NONE = Qt.KeyboardModifier.NoModifier
LEFT = Qt.MouseButton.LeftButton


class Dragging(DemoWindowTestCase):
    def settings(self) -> dict[str, float]:
        return {placed.id: placed.setting for placed in self.workspace.build.parts}

    def test_every_part_drags_the_nearest_carrier_that_slides_and_says_so(self) -> None:
        """What carries what on the demo, from its list of joints."""
        movers = {
            "body": "plate",
            "lens": "plate",
            "matte": "plate",
            "battery": "vplate",
            "handle": "plate",
            "sender": "plate",
            "support": "support",
            "plate": "plate",
        }
        view = self.window.balance.elevation
        for placed_id, mover in movers.items():
            before = self.settings()
            said: list[str] = []
            self.workspace.said.connect(said.append)
            self.drag(view, ("part", placed_id), -24)
            self.workspace.said.disconnect(said.append)
            moved = {key for key, value in self.settings().items() if value != before[key]}
            self.assertEqual(moved, {mover}, placed_id)
            if mover != placed_id:
                name = self.workspace.book.name_of(self.workspace.build.placed(mover))
                self.assertTrue(any(name in words for words in said), (placed_id, said))
            self.workspace.undo()
            self.assertEqual(self.settings(), before)

    def test_what_nothing_carries_says_what_slides(self) -> None:
        before = self.settings()
        self.drag(self.window.balance.elevation, ("part", "base"), 30)
        self.assertEqual(self.settings(), before)
        self.assertIn("Base plate, long dovetail is fixed. These slide: Shoulder pad", self.refusals[-1])

    def test_arrow_keys_push_the_carrier_too(self) -> None:
        view = self.window.balance.elevation
        self.workspace.select("matte")
        before = self.settings()
        self.key(view, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
        self.assertAlmostEqual(self.settings()["plate"], before["plate"] - 0.010, places=9)
        self.assertIn("Camera plate, long slides", self.window.status.context.text())

    def test_escape_puts_back_in_both_rooms(self) -> None:
        for room in (None, BUILD):
            if room is not None:
                self.window.go(room)
            view = cast(SceneView, self.window.view.main_widget)
            before, steps = self.workspace.book, len(self.workspace.history.past)
            start = self.spot(view, ("part", "support"))
            QTest.mousePress(view, LEFT, NONE, start)
            for step in (6, 12, 18):
                QTest.mouseMove(view, start + QPoint(step, 0))
                self.app.processEvents()
            self.assertIsNot(self.workspace.book, before)
            self.key(view, Qt.Key.Key_Escape)
            self.assertIs(self.workspace.book, before)
            QTest.mouseMove(view, start + QPoint(40, 0))
            QTest.mouseRelease(view, LEFT, NONE, start + QPoint(40, 0))
            self.settle()
            self.assertIs(self.workspace.book, before)
            self.assertEqual(len(self.workspace.history.past), steps)

    def test_a_drag_snaps_to_level_and_alt_passes_by(self) -> None:
        analysis = self.workspace.analysis()
        slide = analysis.assembly.slide_parts.index(2)
        level = level_setting(analysis, slide)
        self.assertIsNotNone(level)
        view = self.window.balance.elevation
        scale = self.window.balance._scale_and_slides()[0]
        by = round((level - self.settings()["plate"]) * scale) + 3
        self.drag(view, ("part", "plate"), by, 9)
        self.assertAlmostEqual(self.settings()["plate"], level, places=4)
        # Balance means: no moment about the pad that a hand could feel.
        self.assertLess(abs(self.workspace.analysis().equilibrium.tip_moment), 0.01)
        self.workspace.undo()
        start = self.spot(view, ("part", "plate"))
        QTest.mousePress(view, LEFT, NONE, start)
        for step in range(1, 10):
            QTest.mouseMove(view, start + QPoint(by * step // 9, 0))
            self.app.processEvents()
        from unittest import mock

        alt = "equilix.desktop.gestures.slide_parts.QGuiApplication.keyboardModifiers"
        with mock.patch(alt, return_value=Qt.KeyboardModifier.AltModifier):
            QTest.mouseMove(view, start + QPoint(by - 1, 0))
            self.app.processEvents()
            QTest.mouseRelease(view, LEFT, NONE, start + QPoint(by - 1, 0))
        self.assertGreater(abs(self.settings()["plate"] - level), 0.0005)
