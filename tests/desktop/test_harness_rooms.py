"""A rig on a harness in the real window: from an empty book by keys, its limit, its page, its sheet."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from equilix.core.keys import KEYS
from equilix.desktop.dialogs.book_acts import build_form_words
from equilix.desktop.dialogs.forms import BuildDialog
from equilix.desktop.views.rooms import BALANCE, CARRY
from equilix.present.drawing.scales import OWN_SCALE
from equilix.present.drawing.scene import TextItem
from equilix.present.sheet import sheet_model
from equilix.supports.harness.mechanics import SUPPORT as HARNESS
from equilix.supports.harness.settings import HarnessSettings
from tests.campaigns import campaign
from tests.desktop import by_keys
from tests.desktop.base import DemoWindowTestCase
from tests.desktop.forms import fill
from tests.rigs.results import harness_result

CTRL = Qt.KeyboardModifier.ControlModifier
NUMBER = {key: getattr(Qt.Key, f"Key_{k}") for k, key in enumerate(KEYS, 1)}


@campaign
class OnTheDemo(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        QTest.keyClick(self.window, NUMBER["harness"], CTRL)
        self.settle()

    def said(self) -> list[str]:
        return [item.text for item in self.window.balance.pages.own.scene.items if isinstance(item, TextItem)]

    def test_no_verdict_until_the_makers_limit_is_entered(self) -> None:
        self.assertEqual(self.workspace.build.support, "harness")
        self.window.go(BALANCE)
        self.settle()
        self.assertEqual(self.window.balance.model.verdict.head, "Enter the maker’s limit first.")
        self.assertEqual(build_form_words("harness"), "Name, note and hook…")
        with fill({"most": "12 kg", "least": "5"}):
            self.window.acts._edit_build()
        self.settle()
        self.assertTrue(self.window.balance.model.verdict.head.startswith("Hangs"))
        found = HARNESS.settings(self.workspace.build)
        self.assertIsInstance(found, HarnessSettings)
        self.assertEqual((found.most, found.least), (12.0, 5.0))
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertEqual(self.window.balance.model.verdict.head, "Enter the maker’s limit first.")

    def test_over_the_limit_it_says_not_to_hang_it(self) -> None:
        with fill({"most": "9.2 kg"}):
            self.window.acts._edit_build()
        self.window.go(BALANCE)
        self.settle()
        self.assertEqual(self.window.balance.model.verdict.head, "Do not hang it.")
        self.assertIn("9.20 kg", self.window.balance.model.verdict.body)

    def test_limits_upside_down_stay_in_the_form(self) -> None:
        before = self.workspace.build
        with fill({"most": "4 kg", "least": "9 kg"}):
            self.window.acts._edit_build()
        self.assertIs(self.workspace.build, before)

    def test_a_class_fills_in_its_limits_and_a_hook_can_be_chosen(self) -> None:
        dialog = BuildDialog(self.workspace.build, self.workspace.book.parts, self.workspace.system, self.window)
        dialog.sizes.setCurrentIndex(2)
        dialog.sizes.activated.emit(2)
        self.assertEqual((dialog.fields["least"].text(), dialog.fields["most"].text()), ("5.00 kg", "10.00 kg"))
        self.assertGreater(dialog.place.count(), 1)
        dialog.place.setCurrentIndex(1)
        dialog.fields["beat"].setText("0.85")
        dialog.accept()
        found = HARNESS.settings(dialog.result_build)
        self.assertEqual((found.most, found.beat), (10.0, 0.85))
        self.assertIsNotNone(found.hook)

    def test_the_hook_slides_by_mouse_keys_and_the_first_way_until_it_hangs_level(self) -> None:
        with fill({"most": "12 kg", "room": "200 mm"}):
            self.window.acts._edit_build()
        self.window.go(BALANCE)
        self.settle()
        view = self.window.balance
        scale = next(s for s in view.drawing.scales if s.placed_id == OWN_SCALE)
        start = QPoint(round(scale.x(scale.setting)), round(scale.y))
        end = QPoint(round(scale.x(0.03)), start.y())
        before = harness_result(self.workspace.analysis()).pitch
        QTest.mousePress(view.elevation, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(view.elevation, QPoint(start.x() + 4, start.y()))
        QTest.mouseMove(view.elevation, end)
        QTest.mouseRelease(view.elevation, Qt.MouseButton.LeftButton, pos=end)
        self.settle()
        found = HARNESS.settings(self.workspace.build)
        self.assertAlmostEqual(found.along, 0.03, delta=0.002)
        self.assertNotEqual(harness_result(self.workspace.analysis()).pitch, before)
        QTest.keyClick(view.elevation, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.settle()
        self.assertAlmostEqual(HARNESS.settings(self.workspace.build).along, found.along + 0.010)
        first = self.ways()[0]
        self.assertRegex(first.title, "^Slide hook back [0-9]+ mm(;|$)")
        self.assertRegex(first.lines[0], "^Mark [+−0-9]+ → ")
        QTest.keyClick(view.elevation, Qt.Key.Key_P)
        QTest.keyClick(view.elevation, Qt.Key.Key_Return)
        self.settle()
        self.assertAlmostEqual(harness_result(self.workspace.analysis()).pitch, 0.0, places=9)
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertEqual(HARNESS.settings(self.workspace.build).along, 0.0)

    def test_its_page_shows_the_hang_the_limit_and_the_steps(self) -> None:
        with fill({"most": "12 kg"}):
            self.window.acts._edit_build()
        self.window.go(BALANCE)
        self.settle()
        view = self.window.balance
        self.assertEqual(view.pages.tabs.buttons["own"].text(), "Hanging")
        view.pages.show_tab("own")
        self.settle()
        words = self.said()
        for expected in (
            "How it hangs",
            "How much of each step passes on",
            "Rig height over 3 s of walking",
            "on the cable alone",
        ):
            self.assertIn(expected, words)
        self.assertTrue(any("of 12.00 kg" in text for text in words))
        # Another support has no such page, and its ledger is there again.
        QTest.keyClick(self.window, NUMBER["shoulder"], CTRL)
        self.settle()
        self.assertFalse(view.pages.tabs.buttons["own"].isVisible())
        self.assertEqual(view.pages.tabs.key, "ledger")

    def test_the_first_way_is_applied_by_keys_and_hangs_it_level(self) -> None:
        with fill({"most": "14 kg"}):
            self.window.acts._edit_build()
        self.window.go(BALANCE)
        self.ways()
        QTest.keyClick(self.window.balance.elevation, Qt.Key.Key_P)
        self.wait_for(lambda: self.workspace.chosen_way)
        QTest.keyClick(self.window.balance.elevation, Qt.Key.Key_Return)
        self.settle()
        self.assertLess(abs(harness_result(self.workspace.analysis()).pitch), 0.01)

    def test_what_it_costs_the_body(self) -> None:
        self.window.go(CARRY)
        self.settle()
        said = [label.text() for label in self.window.panel.findChildren(QLabel)]
        self.assertTrue(any("the cable ahead bends the low back" in text for text in said))
        self.assertIn("Pull on the cable, arms resting on the rig", said)

    def test_its_sheet(self) -> None:
        w = self.workspace
        model = sheet_model(w.book, w.analysis(), w.operator, w.system)
        self.assertIn("maker’s limit", model.balance.verdict.head)


class FromAnEmptyBook(by_keys.ByKeys):
    def test_own_parts_are_hung_level_by_keys(self) -> None:
        self.enter_kit((("Camera box type", "1.9"), ("Top handle wooden", "0.3"), ("Prime lens 50 mm", "0.9")))
        self.build_all()
        QTest.keyClick(self.window, NUMBER["harness"], CTRL)
        self.settle()
        with fill({"most": "6 kg"}):
            self.window.acts._edit_build()
        self.window.go(BALANCE)
        self.settle()
        analysis = self.workspace.analysis()
        self.assertIsNotNone(analysis.equilibrium)
        self.assertTrue(harness_result(analysis).stable)
        self.assertIn("Hangs", self.window.balance.model.verdict.head)
