"""The Carry room: figure, joints, takes, supports, and ways to lighten, by mouse and keys."""

from __future__ import annotations

import unittest
from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel

from equilix.core.assembly.build import Brace, Grasp, Hold, Sex, Side
from equilix.core.chosen import hold_of, with_hold
from equilix.core.operator.strength import BodyJoint
from equilix.core.solver.lighten import LighterKind
from equilix.desktop.dialogs.forms import OperatorDialog
from equilix.desktop.views.rooms import CARRY
from equilix.desktop.widgets.scene_view import SceneView
from equilix.document.edits.builds import ChangeBuild, SetSlide
from equilix.present.drawing.scene import PathItem, TextItem
from equilix.present.units import System
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


class CarryCase(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.choose_build("wide")
        self.key(self.window, Qt.Key.Key_4, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.window.room, CARRY)
        self.view = self.window.carry
        self.settled()

    def settled(self) -> None:
        self.wait_for(lambda: self.view.job is None)

    def press(self, view: SceneView, key: tuple[str, ...]) -> None:
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self.spot(view, key))
        self.settle()
        self.settled()

    def texts(self, view: SceneView) -> str:
        return " | ".join(item.text for item in view.scene.items if isinstance(item, TextItem))

    def in_hands(self) -> None:
        self.press(self.view.others, ("support", "handheld"))

    def choose(self, box: QComboBox, words: str) -> None:
        """Open a list with the keyboard and go down to the entry with `words`."""
        index = next(i for i in range(box.count()) if words in box.itemText(i))
        box.setFocus()
        step = Qt.Key.Key_Down if index > box.currentIndex() else Qt.Key.Key_Up
        for _ in range(abs(index - box.currentIndex())):
            QTest.keyClick(box, step)
        self.settle()
        self.settled()

    def panel_text(self) -> str:
        return " | ".join(w.text() for w in self.window.panel.findChildren(QLabel)).replace("\u00a0", " ")


@campaign
class CarryRoom(CarryCase):
    """Everything but the ways to lighten, which are not sought here: that takes a second each time."""

    def setUp(self) -> None:
        patch = mock.patch("equilix.desktop.views.carry.ways_to_lighten", return_value=())
        patch.start()
        self.addCleanup(patch.stop)
        super().setUp()

    def test_it_says_how_long_and_what_gives_out(self) -> None:
        self.assertIn("gives out first", self.window.panel.sentence.text())
        joints = ("Neck", "Shoulders", "Elbows", "Wrists", "Grip", "Low back")
        # Minutes lead; shares of strength and moments are one level down.
        for words in (*joints, "Reserve over the takes", "out at "):
            self.assertIn(words, self.texts(self.view.load))
        self.assertNotRegex(self.texts(self.view.load), r"N·m|%")
        self.key(self.view.load, Qt.Key.Key_F)
        for words in (*joints, "N·m", "of strength"):
            self.assertIn(words, self.texts(self.view.load))
        self.click(self.doer("strength"))
        self.assertIn("Reserve over the takes", self.texts(self.view.load))

    def test_a_click_carries_it_in_the_hands_and_undo_back(self) -> None:
        self.press(self.view.others, ("support", "handheld"))
        self.assertEqual(self.workspace.build.support, "handheld")
        self.assertIn("wrists give out first", self.window.panel.sentence.text())
        self.assertEqual(self.window.top.support.support, "handheld")
        self.assertEqual(self.window.rail.buttons[CARRY].mark, "look")
        self.workspace.undo()
        self.assertEqual(self.workspace.build.support, "shoulder")

    def test_the_arrow_keys_change_the_support(self) -> None:
        self.key(self.view.load, Qt.Key.Key_Right)
        self.settled()
        self.assertEqual(self.workspace.build.support, "handheld")

    def test_a_joint_is_chosen_by_mouse_and_keys_and_its_reserve_shown(self) -> None:
        self.key(self.view.load, Qt.Key.Key_F)
        self.assertIn("neck", self.texts(self.view.reserve))
        self.press_at(self.view.load, ("joint", "shoulder"))
        self.assertIs(self.view.joint, BodyJoint.SHOULDER)
        self.assertIn("shoulders", self.texts(self.view.reserve))
        self.key(self.view.load, Qt.Key.Key_Down)
        self.assertIs(self.view.joint, BodyJoint.ELBOW)
        self.key(self.view.load, Qt.Key.Key_Escape)
        self.assertIsNone(self.view.joint)
        self.assertIn("neck", self.texts(self.view.reserve))
        self.key(self.view.load, Qt.Key.Key_Up)
        self.assertIs(self.view.joint, self.view.carried.worst.joint)

    def test_takes_are_typed_added_and_emptied(self) -> None:
        row = self.view.takes
        length, _ = row.fields[0]
        length.selectAll()
        self.keys(length, "1:30")
        self.key(length, Qt.Key.Key_Return)
        self.assertEqual(self.workspace.build.takes[0].length, 90.0)
        count = len(self.workspace.build.takes)
        self.click(row.more)
        self.assertEqual(len(self.workspace.build.takes), count + 1)
        length, _ = row.fields[-1]
        length.selectAll()
        self.key(length, Qt.Key.Key_Delete)
        self.key(length, Qt.Key.Key_Return)
        self.assertEqual(len(self.workspace.build.takes), count)
        self.assertIn("Take 4", self.texts(self.view.load))

    def test_a_time_that_is_none_is_refused_and_stays(self) -> None:
        length, _ = self.view.takes.fields[1]
        takes = self.workspace.build.takes
        length.selectAll()
        self.keys(length, "a while")
        self.key(length, Qt.Key.Key_Return)
        self.assertIn('Take 2: "a while" is not a time', self.at_field())
        self.assertEqual(self.workspace.build.takes, takes)
        # What was typed stays to be mended.
        self.assertEqual(length.text(), "a while")
        length.selectAll()
        self.keys(length, "5 min")
        self.assertEqual(self.at_field(), "")
        self.key(length, Qt.Key.Key_Return)
        self.assertEqual(self.workspace.build.takes[1].length, 300.0)

    def test_another_build_on_another_body_by_one_click(self) -> None:
        self.press(self.view.others, ("cell", "1", "1"))
        self.assertEqual(self.workspace.operator.name, "Tove")
        self.assertNotEqual(self.workspace.build.id, "wide")

    def test_the_cautions_stand_beside_the_figures(self) -> None:
        said = self.panel_text()
        for words in (
            "The head bends back by",
            "not medical advice",
            "The limits of makers, work safety and the production come first",
            "NIOSH",
            "ISO 11226",
        ):
            self.assertIn(words, said)

    def test_the_operator_dialog_takes_measured_figures(self) -> None:
        dialog = OperatorDialog(self.workspace.operator, self.workspace.system, self.window)
        dialog.sex.setCurrentIndex(1)
        dialog.strength.setText("120 %")
        dialog.measured["reach"].setText("66 cm")
        dialog.measured["grip_strength"].setText("310 N")
        dialog.accept()
        self.assertEqual(dialog.result_operator.sex, Sex.FEMALE)
        self.assertAlmostEqual(dialog.result_operator.strength, 1.2)
        self.assertAlmostEqual(dialog.result_operator.reach, 0.66)
        self.assertIsNone(dialog.result_operator.eye_height)
        dialog.measured["eye_height"].setText("90 cm")
        dialog.accept()
        self.assertIn("Eye height must be from 85 to 99 % of the height", dialog.problem.text())

    def test_strength_is_typed_as_a_share_or_as_a_percentile(self) -> None:
        for text, strength, percentile in (("110 %", 1.1, 50.0), ("25th", 1.0, 25.0), ("p 5", 1.0, 5.0)):
            dialog = OperatorDialog(self.workspace.operator, self.workspace.system, self.window)
            dialog.strength.setText(text)
            dialog.accept()
            self.assertEqual(dialog.problem.text(), "")
            operator = dialog.result_operator
            self.assertEqual((operator.strength, operator.percentile), (strength, percentile))
            # Shown again, and kept when nothing is typed.
            again = OperatorDialog(operator, self.workspace.system, self.window)
            self.assertEqual(again.strength.text(), "5th" if text == "p 5" else text)
            again.accept()
            self.assertEqual(again.result_operator, operator)
        dialog.strength.setText("strong")
        dialog.accept()
        self.assertIn('"strong" is not a strength. Type one, such as 110 %', dialog.problem.text())

    def test_a_brace_is_chosen_by_keys_drawn_and_undone(self) -> None:
        self.in_hands()
        before = self.view.carried.worst.hold.likely
        self.choose(self.view.hold.brace, "chest")
        self.assertIs(hold_of(self.workspace.build).brace, Brace.CHEST)
        self.assertGreater(self.view.carried.worst.hold.likely, 1.5 * before)
        self.assertIn("Chest carries", self.panel_text())
        self.workspace.undo()
        self.assertIs(hold_of(self.workspace.build).brace, Brace.NONE)
        self.assertEqual(self.view.hold.brace.currentIndex(), 0)

    def test_sitting_is_drawn_lower_than_standing(self) -> None:
        self.in_hands()

        def top() -> float:
            return min(
                float(y)
                for item in self.view.load.scene.items
                if isinstance(item, PathItem) and item.fill == "p1" and item.stroke == "ghostL"
                for command in item.commands
                for y in command[2::2]
            )

        standing = top()
        self.choose(self.view.hold.brace, "sitting")
        self.assertGreater(top(), standing + 30.0)
        self.assertIn("locked-off", self.panel_text())

    def test_on_the_shoulder_only_elbows_brace(self) -> None:
        box = self.view.hold.brace
        self.assertEqual([box.itemText(i) for i in range(box.count())], ["none", "elbows on the ribs"])

    def test_a_click_in_the_plan_puts_the_left_hand_under_the_lens(self) -> None:
        self.in_hands()
        self.press_at(self.view.plan, ("grasp", "lens", "under it"))
        self.settled()
        self.assertEqual(hold_of(self.workspace.build).left, Grasp("lens", "under it"))
        self.assertIn("Under the", self.view.hold.left.currentText())
        right = next(p for p in self.view.carried.pose.places if p.side is Side.RIGHT)
        self.assertEqual(right.grasp.placed_id, "grip-r")
        # The other hand's own place does nothing twice.
        hold = hold_of(self.workspace.build)
        self.press_at(self.view.plan, ("grasp", "lens", "under it"))
        self.assertEqual(hold_of(self.workspace.build), hold)

    def test_one_place_for_both_hands_moves_the_other_hand_off_it(self) -> None:
        self.in_hands()
        self.choose(self.view.hold.left, "left side")
        self.assertEqual(hold_of(self.workspace.build).left.mount_id, "its left side")
        self.choose(self.view.hold.right, "left side")
        hold = hold_of(self.workspace.build)
        self.assertEqual(hold.right.mount_id, "its left side")
        self.assertIsNone(hold.left)

    def test_the_plan_says_what_staggering_does(self) -> None:
        self.in_hands()
        words = self.texts(self.view.plan)
        for text in ("Side by side", "Staggered 150 mm", "to the CG", "0.0 N·m", "left 41 N"):
            self.assertIn(text, words)

    def test_the_thickness_of_the_grips_is_typed_or_refused(self) -> None:
        self.in_hands()
        field = self.view.hold.thickness
        self.assertEqual(field.placeholderText(), "36 mm")
        before = next(j for j in self.view.carried.joints if j.joint is BodyJoint.HAND).capacity
        self.keys(field, "18 mm")
        self.key(field, Qt.Key.Key_Return)
        self.settled()
        self.assertAlmostEqual(hold_of(self.workspace.build).thickness, 0.018)
        self.assertLess(next(j for j in self.view.carried.joints if j.joint is BodyJoint.HAND).capacity, before)
        field.selectAll()
        self.keys(field, "2 m")
        self.key(field, Qt.Key.Key_Return)
        self.assertIn("The thickness of a grip must be from 10 mm to 80 mm", self.at_field())
        self.assertAlmostEqual(hold_of(self.workspace.build).thickness, 0.018)
        self.assertEqual(field.text(), "2 m")

    def test_where_the_hands_are_is_typed_and_an_emptied_field_is_the_usual_place(self) -> None:
        row = self.view.hold
        self.assertFalse(row.ahead.isVisible())
        self.in_hands()
        self.assertTrue(row.ahead.isVisible())
        # The upper arm hangs, the elbow is bent by 90 degrees: forearm and fist ahead (Winter, fig. 4.1; 1.71 m tall).
        self.assertEqual(row.ahead.placeholderText(), "318 mm")
        self.assertEqual(row.below.placeholderText(), "318 mm")
        usual = self.view.carried.cg[0]
        self.keys(row.ahead, "35 cm")
        self.key(row.ahead, Qt.Key.Key_Return)
        self.settled()
        self.assertAlmostEqual(hold_of(self.workspace.build).ahead, 0.35)
        self.assertAlmostEqual(self.view.carried.cg[0] - usual, 0.35 - (0.146 + 0.040) * 1.71, delta=1e-9)
        row.below.selectAll()
        self.keys(row.below, "2 km")
        self.key(row.below, Qt.Key.Key_Return)
        self.assertIsNone(hold_of(self.workspace.build).below)
        self.assertEqual(row.below.text(), "2 km")
        self.assertTrue(self.at_field())
        row.ahead.selectAll()
        self.key(row.ahead, Qt.Key.Key_Delete)
        self.key(row.ahead, Qt.Key.Key_Return)
        self.settled()
        self.assertIsNone(hold_of(self.workspace.build).ahead)
        self.assertAlmostEqual(self.view.carried.cg[0], usual)

    def test_fields_fold_as_the_window_narrows_and_nothing_is_cut(self) -> None:
        self.in_hands()
        for width in (1800, 1280, 1024):
            self.window.resize(width, 760)
            self.settle()
            row = self.view.hold
            for _, field in row._shown_pairs:
                self.assertTrue(field.isVisible())
                self.assertLessEqual(field.geometry().right(), row.width())
            lines = {field.geometry().top() // 20 for _, field in row._shown_pairs}
            self.assertEqual(len(lines), {1800: 1, 1280: 2, 1024: 3}[width])

    def test_imperial_and_night_show_the_same(self) -> None:
        self.workspace.set_units(System.IMPERIAL)
        self.key(self.view.load, Qt.Key.Key_F)
        self.assertIn("lbf·in", self.texts(self.view.load))
        self.window.menu.switch_theme()
        self.settle()
        self.assertFalse(self.window.carry.load.grab().isNull())


@campaign
class CarryWays(CarryCase):
    def test_grips_are_previewed_then_applied_then_undone(self) -> None:
        self.press(self.view.others, ("support", "handheld"))
        before = self.view.carried.worst.hold.likely
        parts = self.workspace.build.parts
        index = next(i for i, way in enumerate(self.view.ways) if way.kind is LighterKind.GRIPS)
        self.click(self.window.panel.cards[index])
        self.assertEqual(self.workspace.build.parts, parts)
        self.assertGreater(self.view.shown.worst.hold.likely, 1.5 * before)
        self.click(self.window.panel.cards[index].apply_button)
        self.settled()
        self.assertGreater(self.view.carried.worst.hold.likely, 1.5 * before)
        self.assertNotEqual(self.workspace.build.parts, parts)
        self.workspace.undo()
        self.assertEqual(self.workspace.build.parts, parts)

    def test_a_preview_changes_every_figure_and_dropping_it_puts_them_back(self) -> None:
        self.in_hands()
        before = self.panel_text()
        self.assertIn("± ", before)
        index = next(i for i, way in enumerate(self.view.ways) if way.kind is LighterKind.GRIPS)
        self.click(self.window.panel.cards[index])
        shown = self.panel_text()
        self.assertIn("Then the", shown)
        self.assertRegex(shown, r"See-saw \| 14\.2 → \d\.\d N·m \| ± 0\.\d")
        self.assertRegex(shown, r"Safe take \| 30 → \d+ s")
        self.key(self.view.load, Qt.Key.Key_Escape)
        self.assertEqual(self.panel_text(), before)

    def test_a_posture_is_applied_kept_and_undone(self) -> None:
        self.in_hands()
        # Grips under the CG: the shoulders decide, and they care where it is held.
        self.workspace.apply(SetSlide("wide", "clamp", -0.08))
        self.workspace.apply(ChangeBuild(with_hold(self.workspace.build, Hold(ahead=0.45, below=0.05)), "held far out"))
        self.settled()
        poor = self.view.carried.worst.hold.likely
        index = next(i for i, way in enumerate(self.view.ways) if way.kind is LighterKind.HOLD)
        self.assertRegex(self.view.ways[index].title, r"^Hold it \d+ mm lower and \d+ mm closer$")
        self.click(self.window.panel.cards[index])
        self.click(self.window.panel.cards[index].apply_button)
        self.settled()
        self.assertLess(hold_of(self.workspace.build).ahead, 0.45)
        self.assertGreater(self.view.carried.worst.hold.likely, 1.2 * poor)
        self.workspace.undo()
        self.assertEqual(hold_of(self.workspace.build), Hold(ahead=0.45, below=0.05))

    def test_a_screen_goes_to_another_mount_with_an_arm_of_the_kit(self) -> None:
        self.workspace.choose_build("long-zoom")
        self.settled()
        index = next(i for i, way in enumerate(self.view.ways) if way.kind is LighterKind.SCREEN)
        self.assertIn("monitor arm", self.view.ways[index].title)
        gaze = abs(self.view.carried.gaze)
        self.click(self.window.panel.cards[index])
        self.click(self.window.panel.cards[index].apply_button)
        self.settled()
        self.assertLess(abs(self.view.carried.gaze), gaze)
        self.assertIn("arm", {placed.part_id for placed in self.workspace.build.parts})


class EmptyCarryRoom(WindowTestCase):
    def test_an_empty_book_says_what_to_do(self) -> None:
        self.window.go(CARRY)
        self.settle()
        self.assertEqual(self.window.panel.head.text(), "No parts yet.")
        self.assertEqual(self.window.rail.buttons[CARRY].mark, "none")
        QTest.mouseClick(self.window.carry.others, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
        self.settle()


if __name__ == "__main__":
    unittest.main()
