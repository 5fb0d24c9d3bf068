"""The Balance view under the hand: dragging, keys, typed marks, remedies."""

from __future__ import annotations

from PySide6.QtCore import Qt

from equilix.core.errors import EditError
from equilix.core.solver.trim import RemedyKind
from equilix.desktop.main_window import BALANCE
from tests.desktop.base import DemoWindowTestCase

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class BalanceView(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go(BALANCE)
        self.settle()
        self.view = self.window.balance

    def setting(self, placed_id: str) -> float:
        return self.workspace.build.placed(placed_id).setting

    def test_dragging_the_camera_back_is_one_undo_step_and_moves_the_cg(self) -> None:
        before = self.setting("plate")
        moment = self.view.model.net.moment
        self.drag(self.view.elevation, ("part", "plate"), -40)
        self.assertLess(self.setting("plate"), before)
        self.assertLess(self.view.model.net.moment, moment)
        self.assertEqual(len(self.workspace.history.past), 1)
        self.assertEqual(self.workspace.history.undo_label, "Move Camera plate, long")
        self.workspace.undo()
        self.assertEqual(self.setting("plate"), before)

    def test_dragging_a_scale_stops_at_the_end_of_travel(self) -> None:
        self.drag(self.view.elevation, ("scale", "vplate"), 700)
        mount = self.workspace.book.part("rods-rear").mount("rods")
        self.assertAlmostEqual(self.setting("vplate"), mount.high, places=9)
        self.assertEqual(self.refusals, [])

    def test_arrow_keys_move_one_ten_and_a_tenth_of_a_millimetre(self) -> None:
        self.press_at(self.view.elevation, ("part", "plate"))
        start = self.setting("plate")
        self.key(self.view.elevation, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.setting("plate") - start, 0.001, places=12)
        self.key(self.view.elevation, Qt.Key.Key_Left, SHIFT)
        self.assertAlmostEqual(self.setting("plate") - start, -0.009, places=12)
        self.key(self.view.elevation, Qt.Key.Key_Right, SHIFT | CONTROL)
        self.assertAlmostEqual(self.setting("plate") - start, -0.0089, places=12)

    def test_rosettes_turn_by_teeth(self) -> None:
        self.workspace.select("grip-l")
        self.key(self.view.elevation, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.setting("grip-l"), 0.10471975511965977, places=12)  # 6 degrees

    def test_a_typed_digit_opens_the_mark_field(self) -> None:
        self.press_at(self.view.elevation, ("part", "plate"))
        self.keys(self.view.elevation, "5")
        editor = self.view.slides.editor
        self.assertTrue(editor.isVisible())
        self.keys(editor, "0 mm")
        self.key(editor, Qt.Key.Key_Return)
        self.assertFalse(editor.isVisible())
        mount = self.workspace.book.part("base").mount("dovetail")
        self.assertAlmostEqual(self.setting("plate"), mount.low + 0.050, places=9)

    def test_a_mark_beyond_the_slide_is_refused_with_its_limits(self) -> None:
        self.workspace.select("plate")
        before = self.setting("plate")
        with self.assertRaisesRegex(EditError, "0 to 229 mm"):
            self.view.slides.set_typed("400 mm")
        with self.assertRaisesRegex(EditError, "not a length"):
            self.view.slides.set_typed("far")
        self.assertEqual(self.setting("plate"), before)

    def test_a_fixed_part_says_that_it_neither_slides_nor_turns(self) -> None:
        self.press_at(self.view.elevation, ("part", "body"))
        self.key(self.view.elevation, Qt.Key.Key_Left)
        self.assertIn("fixed", self.refusals[-1])
        self.assertTrue(self.window.banner.isVisible())

    def test_up_and_down_step_through_the_parts_and_the_ledger_follows(self) -> None:
        self.workspace.select("")
        self.key(self.view.elevation, Qt.Key.Key_Down)
        self.assertEqual(self.workspace.selected, "base")
        self.key(self.view.elevation, Qt.Key.Key_Down)
        self.assertEqual(self.workspace.selected, "pad")
        self.assertEqual(self.view.ledger.table.currentIndex().row(), 1)

    def test_choosing_a_ledger_row_selects_the_part(self) -> None:
        self.view.ledger.table.setFocus()
        self.view.ledger.table.selectRow(6)
        self.settle()
        self.assertEqual(self.workspace.selected, self.workspace.build.parts[6].id)

    def test_each_full_way_levels_the_rig_when_applied(self) -> None:
        for kind in (RemedyKind.SLIDE_CAMERA, RemedyKind.DEAD_WEIGHT):
            index = next(i for i, way in enumerate(self.view.ways) if way.kind is kind)
            self.assertTrue(self.view.ways[index].remedy.full)
            self.view.choose_way(index)
            self.settle()
            self.key(self.view.elevation, Qt.Key.Key_Return)
            self.assertAlmostEqual(self.view.model.net.moment, 0.0, places=3)
            self.assertEqual(self.workspace.history.undo_label, "Apply way to balance")
            self.workspace.undo()
            self.settle()

    def test_the_preview_draws_a_ghost_and_escape_drops_it(self) -> None:
        plain = len(self.view.elevation.scene.items)
        self.key(self.view.elevation, Qt.Key.Key_P)
        self.assertGreater(len(self.view.elevation.scene.items), plain)
        self.key(self.view.elevation, Qt.Key.Key_Escape)
        self.assertEqual(len(self.view.elevation.scene.items), plain)
        self.assertEqual(self.workspace.history.past, ())

    def test_the_battery_move_admits_that_its_slide_ends_too_soon(self) -> None:
        way = next(way for way in self.view.ways if way.kind is RemedyKind.MOVE_BATTERY)
        self.assertFalse(way.remedy.full)
        self.assertIn("too soon", way.note)

    def test_dead_weight_goes_where_it_is_told(self) -> None:
        box = self.view.mount_box
        other = next(i for i in range(box.count()) if i != box.currentIndex())
        box.activated.emit(other)
        self.settle()
        chosen = self.workspace.weight_mount
        self.assertIsNotNone(chosen)
        way = next(way for way in self.view.ways if way.kind is RemedyKind.DEAD_WEIGHT)
        if way.remedy is not None:
            self.assertEqual(way.remedy.added.parent, chosen.placed_id)

    def test_units_switch_everywhere_and_back(self) -> None:
        self.keys(self.view.elevation, "u")
        self.assertEqual(self.view.model.mass_unit, "lb")
        self.assertIn("lb", self.view.model.figures[0].value)
        self.keys(self.view.elevation, "u")
        self.assertEqual(self.view.model.mass_unit, "kg")

    def test_the_wide_body_presses_on_the_head(self) -> None:
        self.workspace.choose_build("wide")
        self.settle()
        self.assertTrue(any("presses on Maren's head" in caution for caution in self.view.model.cautions))
        self.assertEqual(self.window.rail.buttons[BALANCE].mark, "look")

    def test_the_trimmed_build_is_level(self) -> None:
        self.workspace.choose_build("trimmed")
        self.settle()
        self.assertEqual(self.view.model.verdict.head, "Level")
        self.assertEqual(self.window.rail.buttons[BALANCE].mark, "settled")
