"""A rig on a tripod in the real window: the plate slid in its clamp by a button, its marks, own parts by keys."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from equilix.core.chosen import with_settings
from equilix.core.keys import KEYS
from equilix.desktop.views.rooms import BALANCE, CARRY
from equilix.document.edits.builds import ChangeBuild
from equilix.present.drawing.scales import OWN_SCALE
from equilix.present.drawing.scene import TextItem
from equilix.supports.tripod import mechanics as tripod
from equilix.supports.tripod.mechanics import SUPPORT as TRIPOD
from tests.desktop import by_keys
from tests.desktop.base import DemoWindowTestCase
from tests.desktop.forms import fill

CTRL = Qt.KeyboardModifier.ControlModifier
NUMBER = getattr(Qt.Key, f"Key_{KEYS.index('tripod') + 1}")


class OnTheDemo(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        QTest.keyClick(self.window, NUMBER, CTRL)
        self.window.go(BALANCE)
        self.settle()

    def test_the_first_way_slides_the_plate_in_its_clamp_and_undo_slides_it_back(self) -> None:
        view = self.window.balance
        self.assertEqual(view.model.verdict.head, "The nose falls.")
        ways = self.ways()
        self.assertRegex(ways[0].title, "^Slide plate back [0-9]+ mm in the clamp$")
        # What nobody would do where the plate does it: bolt weight on, or leave a part off.
        self.assertFalse([way.title for way in ways if way.kind.name in ("DEAD_WEIGHT", "LEAVE_OFF")])
        QTest.keyClick(view.elevation, Qt.Key.Key_P)
        QTest.keyClick(view.elevation, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(view.model.verdict.head, "Balanced on the head")
        self.assertLess(tripod.SUPPORT.settings(self.workspace.build).slid, 0.0)
        self.assertAlmostEqual(self.workspace.analysis().equilibrium.ahead, 0.0, places=9)
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertEqual(tripod.SUPPORT.settings(self.workspace.build).slid, 0.0)

    def test_a_clamp_that_holds_no_plate_that_slides_says_so(self) -> None:
        build = self.workspace.build
        fixed = with_settings(build, replace(tripod.SUPPORT.settings(build), travel=0.0))
        self.workspace.apply(ChangeBuild(fixed, "a plate that is screwed on"))
        self.settle()
        words = self.window.balance.model.verdict.body
        self.assertRegex(words, "^The plate does not slide in this clamp: the rig has to go back [0-9]+ mm on it\\.")

    def test_the_plate_slides_in_its_clamp_by_mouse(self) -> None:
        self.window.go(BALANCE)
        self.settle()
        view = self.window.balance
        scale = next(s for s in view.drawing.scales if s.placed_id == OWN_SCALE)
        start = QPoint(round(scale.x(scale.setting)), round(scale.y))
        end = QPoint(round(scale.x(-0.02)), start.y())
        before = self.workspace.analysis().equilibrium.ahead
        QTest.mousePress(view.elevation, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(view.elevation, QPoint(start.x() - 4, start.y()))
        QTest.mouseMove(view.elevation, end)
        QTest.mouseRelease(view.elevation, Qt.MouseButton.LeftButton, pos=end)
        self.settle()
        slid = TRIPOD.settings(self.workspace.build).slid
        self.assertAlmostEqual(slid, -0.02, delta=0.004)
        # The rig goes back over a clamp that stays, and takes its CG along.
        self.assertAlmostEqual(self.workspace.analysis().equilibrium.ahead, before + slid, places=9)

    def test_its_marks_for_every_lens(self) -> None:
        view = self.window.balance
        self.assertEqual(view.pages.tabs.buttons["own"].text(), "Plate marks")
        view.pages.show_tab("own")
        self.settle()
        words = [item.text for item in view.pages.own.scene.items if isinstance(item, TextItem)]
        self.assertIn("Plate marks for each lens", words)
        self.assertTrue(any("Prime 50 mm" in text for text in words))
        self.assertTrue(any(text.endswith(" mm") and text.startswith("−") for text in words))

    def test_the_head_is_told_its_counterbalance_and_says_the_step(self) -> None:
        with fill({"counter": "20", "steps": "10", "seated": "yes"}):
            self.window.acts._edit_build()
        self.settle()
        rows = {row.label: row for row in self.window.balance.model.figures}
        self.assertIn("of 10", rows["Counterbalance needed"].note)
        self.assertIn("sitting", rows["Screen height"].note)
        with fill({"seated": "perhaps"}):
            before = self.workspace.build
            self.window.acts._edit_build()
        self.assertIs(self.workspace.build, before)

    def test_in_carry_nobody_carries_it(self) -> None:
        self.window.go(CARRY)
        self.settle()
        said = [label.text() for label in self.window.panel.findChildren(QLabel)]
        self.assertTrue(any("Nobody carries it" in text for text in said), said[:4])
        carry = self.window.carry
        for widget in (carry.takes, carry.reserve, carry.hold):
            self.assertFalse(widget.isVisible())
        words = [item.text for item in carry.others.scene.items if isinstance(item, TextItem)]
        self.assertTrue({"Shoulder", "Handheld", "Harness", "Hold time"} <= set(words), words)
        self.assertFalse({"Tripod", "Other builds, other operators"} & set(words), words)
        self.window.acts.choose_support("shoulder")
        self.settle()
        self.assertTrue(carry.takes.isVisible())


class FromAnEmptyBook(by_keys.ByKeys):
    def test_own_parts_stand_on_a_head_by_keys(self) -> None:
        self.enter_kit((("Camera box type", "1.9"), ("Base plate", "0.5"), ("Prime lens 50 mm", "0.9")))
        self.build_all()
        QTest.keyClick(self.window, NUMBER, CTRL)
        self.window.go(BALANCE)
        self.settle()
        analysis = self.workspace.analysis()
        self.assertIsNotNone(analysis.result)
        view = self.window.balance
        if view.model.verdict.head != "Balanced on the head":
            self.wait_for(lambda: view.ways and not view.finder.busy)
            QTest.keyClick(view.elevation, Qt.Key.Key_P)
            QTest.keyClick(view.elevation, Qt.Key.Key_Return)
            self.settle()
        self.assertEqual(view.model.verdict.head, "Balanced on the head")

    def test_where_nothing_on_the_rig_slides_what_holds_it_does(self) -> None:
        parts = (
            ("Wooden plate", "0.4"),
            ("Camera box type", "1.4"),
            ("Prime lens 35 mm", "0.7"),
            ("Top handle", "0.3"),
        )
        more = (("V-lock battery", "0.6"), ("Monitor 7 in", "0.35"))
        self.enter_kit((*parts, *more))
        self.build_all()
        view = self.window.balance
        for key, title in (("tripod", "Slide plate "), ("harness", "Slide hook ")):
            self.window.acts.choose_support(key)
            self.window.go(BALANCE)
            self.wait_for(lambda: not view.finder.busy)
            self.settle()
            self.assertEqual([way.title[: len(title)] for way in view.ways], [title])
            way, before = view.ways[0], abs(self.workspace.analysis().equilibrium.ahead)
            QTest.keyClick(view.elevation, Qt.Key.Key_P)
            QTest.keyClick(view.elevation, Qt.Key.Key_Return)
            self.wait_for(lambda: not view.finder.busy)
            left = abs(self.workspace.analysis().equilibrium.ahead)
            # The hook's rail may end first: then the card says how much more of it would do.
            self.assertEqual(left > 1e-9, any("more would do" in line for line in way.lines))
            self.assertLess(left, before)
