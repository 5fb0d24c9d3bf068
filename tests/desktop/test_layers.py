"""A drawing that moves is painted in layers: it looks as if all of it were painted anew."""

from __future__ import annotations

import unittest

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from equilix.desktop.looks.theme import Theme, colors
from equilix.desktop.painters.layers import Layers
from equilix.desktop.painters.scene_painter import paint_scene
from equilix.desktop.views.rooms import BALANCE
from equilix.present.drawing.scene import Anchor, PathItem, Scene, TextItem, arc, circle, polygon, rect, shift_between
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


def pixels(image: QImage) -> np.ndarray:
    """Return an image's colours (h, w, 4), 0 to 255."""
    image = image.convertToFormat(QImage.Format.Format_RGBA8888)
    flat = np.frombuffer(image.constBits(), dtype=np.uint8)
    return flat.reshape(image.height(), image.bytesPerLine() // 4, 4)[:, : image.width()].astype(int)


class Moved(unittest.TestCase):
    def test_a_shifted_item_is_known_again(self) -> None:
        for make in (
            lambda x, y: PathItem(circle(x, y, 7.0), "paper", "ink"),
            lambda x, y: PathItem(arc(x, y, 30.0, 0.2, 1.4), None, "fwd", 3.0),
            lambda x, y: PathItem(rect(0.0, 0.0, 9.0, 4.0, 2.0), "p1", None, 0.0, (), 0.4, x, y),
            lambda x, y: PathItem(polygon(((x, y), (x + 4, y + 1), (x, y + 9))), "ink"),
            lambda x, y: TextItem(x, y, "1.36 kg", 13, 500, "ink", Anchor.END),
        ):
            shift = shift_between(make(10.0, 20.0), make(13.25, 18.5))
            assert shift is not None
            np.testing.assert_allclose(shift, (3.25, -1.5), atol=1e-9)
            self.assertEqual(shift_between(make(1.0, 2.0), make(1.0, 2.0)), (0.0, 0.0))

    def test_what_differs_otherwise_is_another_item(self) -> None:
        ring = PathItem(circle(0.0, 0.0, 7.0), "paper", "ink")
        others: tuple[PathItem | TextItem, ...] = (
            PathItem(circle(5.0, 0.0, 7.5), "paper", "ink"),
            PathItem(circle(5.0, 0.0, 7.0), "panel", "ink"),
            PathItem(circle(5.0, 0.0, 7.0), "paper", "accent"),
            PathItem(circle(5.0, 0.0, 7.0), "paper", "ink", 2.0),
            PathItem(circle(5.0, 0.0, 7.0), "paper", "ink", 1.25, (2.0, 2.0)),
            PathItem(circle(5.0, 0.0, 7.0), "paper", "ink", 1.25, (), 0.5),
            PathItem(arc(5.0, 0.0, 7.0, 0.0, 1.0), "paper", "ink"),
            PathItem((), "paper", "ink"),
            TextItem(5.0, 0.0, "A"),
        )
        for other in others:
            self.assertIsNone(shift_between(ring, other), other)
        letter = TextItem(0.0, 0.0, "A")
        for text in (
            TextItem(0.0, 0.0, "B"),
            TextItem(0.0, 0.0, "A", 12.0),
            TextItem(0.0, 0.0, "A", 13.0, 600),
            TextItem(0.0, 0.0, "A", 13.0, 400, "ink2"),
            TextItem(0.0, 0.0, "A", anchor=Anchor.END),
            ring,
        ):
            self.assertIsNone(shift_between(letter, text), text)


def moving(at: float, more: bool = False) -> Scene:
    """A scene of things that stand, things that go along with `at` (px), and one that only changes its shape."""
    scene = Scene()
    for k in range(6):
        scene.path(rect(8.0 + 30.0 * k, 12.0, 22.0, 60.0, 3.0), "p1", "line")
        scene.text(12.0 + 30.0 * k, 40.0, "ABCDEF"[k], 13, 600)
    for k in range(5):
        scene.path(circle(20.0 + at + 26.0 * k, 60.0 + k, 11.0), "tint", "accent", 2.0)
        scene.text(20.0 + at + 26.0 * k, 64.0 + k, str(k), 12, 500, "ink", Anchor.MIDDLE)
    scene.line(4.0, 80.0, 20.0 + 1.7 * at, 80.0, "fwd", 3.0)
    scene.text(30.0, 100.0, f"{at:.0f} mm", 13, 600, "fwdT")
    if more:
        scene.path(circle(150.0, 100.0, 6.0), "ink")
    scene.path(rect(100.0, 84.0, 40.0, 20.0), None, "ink", 1.0, (4.0, 3.0))
    scene.line(0.0, 118.0, 199.0, 118.0, "ink", 1.2)
    return scene


class Painted(WindowTestCase):
    def picture(self, step: float, paint: object) -> np.ndarray:
        image = QImage(round(220 * step), round(124 * step), QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(QColor(colors()["paper"]))
        painter = QPainter(image)
        painter.scale(step, step)
        paint(painter)  # type: ignore[operator]
        painter.end()
        return pixels(image)

    def both(self, layers: Layers, scene: Scene, step: float = 1.0, factor: float = 1.0) -> float:
        """Paint a scene in layers and at once; return by how much a pixel differs at most."""
        layers.follow(scene)
        one = self.picture(step, lambda painter: layers.paint(painter, scene, colors(), step, factor))
        other = self.picture(step, lambda painter: paint_scene(painter, scene, colors(), factor))
        return float(np.abs(one - other).max())

    def test_it_looks_as_if_painted_anew(self) -> None:
        for step, factor in ((1.0, 1.0), (1.5, 1.0), (2.0, 1.0), (1.0, 1.5)):
            layers = Layers()
            for at in (0.0, 2.0, 4.0, 18.0, 6.0, -2.0):
                self.assertLessEqual(self.both(layers, moving(at), step, factor), 6.0, (step, factor, at))
            # What stands and what goes along are pictures now; the line and its words alone are painted each time.
            self.assertGreaterEqual(len(layers._layers), 2)
            self.assertEqual(len(layers._loose), 2)

    def test_an_item_that_comes_or_goes(self) -> None:
        layers = Layers()
        for at, more in ((0.0, False), (1.0, False), (2.0, True), (3.0, True), (4.0, False), (5.0, False)):
            self.assertLessEqual(self.both(layers, moving(at, more)), 6.0, at)

    def test_what_went_together_may_part(self) -> None:
        layers = Layers()
        for step in range(6):
            scene = moving(2.0 * step)
            if step >= 3:
                other = moving(0.0).items
                scene.items[12:16] = other[12:16]  # two of those that went along stay behind now
            self.assertLessEqual(self.both(layers, scene), 6.0, step)

    def test_another_theme_in_the_midst_of_it(self) -> None:
        layers = Layers()
        for at in (0.0, 1.0, 2.0):
            self.both(layers, moving(at))
        light = colors()
        self.window.set_theme(Theme.DARK)
        self.assertIsNot(light, colors())
        self.assertLessEqual(self.both(layers, moving(3.0)), 6.0)
        self.assertLessEqual(self.both(layers, moving(4.0), 2.0), 6.0)

    def test_a_part_of_a_pixel_is_rounded_while_it_moves(self) -> None:
        layers = Layers()
        for at in (0.0, 1.0, 2.0):
            self.both(layers, moving(at))
        scene, whole = moving(2.3), moving(2.0)
        layers.follow(scene)
        moved = self.picture(1.0, lambda painter: layers.paint(painter, scene, colors(), 1.0))
        there = self.picture(1.0, lambda painter: paint_scene(painter, whole, colors(), 1.0))
        self.assertLessEqual(float(np.abs(moved - there)[46:72, 8:150].max()), 6.0)


@campaign
class InTheWindow(DemoWindowTestCase):
    """A part dragged by the mouse: in its midst the drawing is near, at its end it is exactly as drawn anew."""

    def grabbed(self, widget: QWidget) -> np.ndarray:
        return pixels(widget.grab().toImage())

    def anew(self) -> np.ndarray:
        view = self.window.balance.elevation
        view.show_scene(view.scene)
        return self.grabbed(view)

    def test_each_kind_of_support(self) -> None:
        for build in ("long-zoom", "gimbal-light", "sled-long"):
            self.workspace.choose_build(build)
            self.window.go(BALANCE)
            self.settle()
            view = self.window.balance.elevation
            start = self.spot(view, ("part", "plate"))
            QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
            for step in range(1, 8):
                QTest.mouseMove(view, start + QPoint(4 * step, 0))
                self.app.processEvents()
            self.assertTrue(self.window.balance.dragging, build)
            self.assertGreater(len(view._layers._layers), 3, build)
            self.assertGreater(len(view.scene.items) - len(view._layers._loose), 0.6 * len(view.scene.items), build)
            moved = self.grabbed(view)
            scene = view.scene
            exact = self.anew()
            # Within a pixel of where it belongs: most of the picture is the same.
            self.assertLess(float((np.abs(moved - exact).max(axis=2) > 60).mean()), 0.04, build)
            view.show_scene(scene, moves=True)
            QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start + QPoint(28, 0))
            self.settle()
            np.testing.assert_array_equal(self.grabbed(view), self.anew(), build)
            ledger = self.window.balance.pages.ledger.table
            before = self.grabbed(ledger.viewport())
            ledger.viewport().update()
            np.testing.assert_array_equal(self.grabbed(ledger.viewport()), before, build)

    def seen(self, widget: QWidget) -> np.ndarray:
        """Return what stands on the screen: what was not painted anew is there as it was painted before."""
        place, size = widget.mapTo(self.window, QPoint(0, 0)), widget.size()
        whole = self.window.screen().grabWindow(self.window.winId())
        return pixels(whole.copy(place.x(), place.y(), size.width(), size.height()).toImage())

    def test_the_ledger_paints_what_changed_and_it_looks_as_if_all_of_it_were_painted(self) -> None:
        for build in ("long-zoom", "gimbal-full"):
            self.workspace.choose_build(build)
            self.window.go(BALANCE)
            self.settle()
            view, rows = self.window.balance.elevation, self.window.balance.pages.ledger.table.viewport()
            start = self.spot(view, ("part", "plate"))
            QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
            first = self.seen(rows)
            for step in range(1, 6):
                QTest.mouseMove(view, start + QPoint(5 * step, 0))
                self.app.processEvents()
            self.assertTrue(self.window.balance.dragging)
            dragged = self.seen(rows)
            self.assertGreater(int((dragged != first).sum()), 200, build)
            rows.update()
            self.app.processEvents()
            np.testing.assert_array_equal(dragged, self.seen(rows), build)
            QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start + QPoint(25, 0))
            self.settle()

    def test_the_gimbals_frame_stays_while_a_plate_is_dragged(self) -> None:
        self.workspace.choose_build("gimbal-light")
        self.window.go(BALANCE)
        self.settle()
        view = self.window.balance.elevation

        def box(part: str) -> tuple[float, float]:
            region = next(r for r in view.scene.regions if r.key == ("part", part))
            return min(x for x, _ in region.polygon), min(y for _, y in region.polygon)

        frame, body = box("frame"), box("body")
        start = self.spot(view, ("part", "plate"))
        QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
        for step in range(1, 8):
            QTest.mouseMove(view, start + QPoint(4 * step, 0))
            self.app.processEvents()
        np.testing.assert_allclose(box("frame"), frame, atol=0.01)
        # What is held goes with the hand: by as many px as the mouse went, less the few that begin a drag.
        self.assertLess(abs(box("body")[0] - body[0] - 28.0), 5.0)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start + QPoint(28, 0))
