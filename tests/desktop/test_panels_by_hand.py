"""Tables and panels that are used less often, by mouse and keys: mounts, the tray, lenses, counterweight, marks."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLineEdit

from equilix.core.kit.parts import Connection, MountKind, Part
from equilix.desktop.views.rooms import BALANCE, BUILD, WEIGH
from equilix.document.edits.builds import SetSlide, TakeOff
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


class Mounts(DemoWindowTestCase):
    room = WEIGH

    def setUp(self) -> None:
        super().setUp()
        self.window.weigh.show_tab("part")
        self.settle()
        self.choose("matte")
        self.panel = self.window.weigh.part_panel
        self.table = self.panel.mounts

    def choose(self, part_id: str) -> None:
        self.workspace.kit_selected = part_id
        self.window.weigh.part_panel.refresh()
        self.settle()

    @property
    def part(self) -> Part:
        return self.workspace.book.part(self.workspace.kit_selected)

    def button(self, text: str) -> None:
        self.click(next(b for b in self.panel.mount_buttons if b.text() == text))

    def test_feet_mounts_and_slides_are_added_changed_and_taken_away(self) -> None:
        feet, mounts = len(self.part.feet), len(self.part.mounts)
        self.button("+ held by")
        self.assertEqual(len(self.part.feet), feet + 1)
        self.assertIs(self.part.feet[-1].kind, MountKind.QUARTER_20)
        self.button("+ takes")
        self.button("+ slide")
        self.assertEqual([m.id for m in self.part.mounts[mounts:]], ["mount 1", "mount 2"])
        slide = self.part.mounts[-1]
        self.assertEqual((slide.joint, slide.low, slide.high), (Connection.SLIDE, -0.04, 0.04))
        row = len(self.part.feet) + len(self.part.mounts) - 1
        self.table.setCurrentIndex(self.table.mount_model.index(row, 1))
        self.button("−")
        self.assertEqual([m.id for m in self.part.mounts[mounts:]], ["mount 1"])
        for _ in range(4):
            self.workspace.undo()
        self.assertEqual((len(self.part.feet), len(self.part.mounts)), (feet, mounts))

    def test_the_kind_is_chosen_from_a_list_in_the_cell(self) -> None:
        self.button("+ takes")
        model = self.table.mount_model
        row = len(self.part.feet) + len(self.part.mounts) - 1
        index = model.index(row, 1)
        self.table.setCurrentIndex(index)
        self.table.edit(index)
        self.settle()
        box = self.table.findChild(QComboBox)
        self.assertEqual(box.currentText(), "1/4-20")
        box.setCurrentText("cold shoe")
        self.table.itemDelegateForColumn(1).setModelData(box, model, index)
        self.settle()
        self.assertIs(self.part.mounts[-1].kind, MountKind.COLD_SHOE)

    def test_ends_of_a_slide_are_typed_and_those_of_a_fixed_mount_are_not(self) -> None:
        self.button("+ slide")
        model = self.table.mount_model
        row = len(self.part.feet) + len(self.part.mounts) - 1
        self.assertTrue(model.flags(model.index(row, 5)) & Qt.ItemFlag.ItemIsEditable)
        self.assertTrue(model.setData(model.index(row, 6), "60 mm"))
        self.assertAlmostEqual(self.part.mounts[-1].high, 0.060)
        self.assertFalse(model.setData(model.index(row, 5), "80 mm"))
        self.assertIn(": the least mark is above the greatest. Swap them", self.refusals[-1])
        self.assertFalse(model.setData(model.index(row, 2), "far"))
        self.assertIn('"far"', self.refusals[-1])
        self.button("+ takes")
        fixed = model.index(row + 1, 5)
        self.assertFalse(model.flags(fixed) & Qt.ItemFlag.ItemIsEditable)
        self.assertEqual(model.data(fixed), "")

    def test_heads_carry_the_unit_in_force(self) -> None:
        model = self.table.mount_model
        self.assertEqual(model.headerData(2, Qt.Orientation.Horizontal), "x, mm")
        self.key(self.window, Qt.Key.Key_U)
        self.settle()
        self.assertEqual(self.table.mount_model.headerData(2, Qt.Orientation.Horizontal), "x, in")

    def test_without_a_part_nothing_is_added(self) -> None:
        self.choose("")
        model = self.table.mount_model
        before = self.workspace.book
        model.add(True)
        self.assertFalse(model.replace_item(0, None))
        self.assertIs(self.workspace.book, before)
        self.assertEqual(model.rowCount(), 0)


class TrayByHand(DemoWindowTestCase):
    room = BUILD

    def setUp(self) -> None:
        super().setUp()
        self.settle()
        self.view = self.window.build
        self.press_at(self.view.drawing, ("mount", "front", "rods"))

    def test_a_click_puts_the_part_on(self) -> None:
        place = self.view.tray.parts.places[1]
        count, name = len(self.workspace.build.parts), place.offer.part.name
        QTest.mouseClick(place, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertEqual(len(self.workspace.build.parts), count + 1)
        self.assertEqual(self.workspace.book.name_of(self.workspace.build.parts[-1]), name)

    def test_enter_and_space_put_it_on_other_keys_do_not(self) -> None:
        count = len(self.workspace.build.parts)
        place = self.view.tray.parts.places[0]
        place.setFocus()
        QTest.keyClick(place, Qt.Key.Key_A)
        self.settle()
        self.assertEqual(len(self.workspace.build.parts), count)
        QTest.keyClick(place, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(len(self.workspace.build.parts), count + 1)

    def test_a_press_that_is_let_go_elsewhere_after_a_short_way_still_counts_once(self) -> None:
        count = len(self.workspace.build.parts)
        place = self.view.tray.parts.places[0]
        QTest.mousePress(place, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
        QTest.mouseMove(place, QPoint(22, 21))
        QTest.mouseRelease(place, Qt.MouseButton.LeftButton, pos=QPoint(22, 21))
        self.settle()
        self.assertEqual(len(self.workspace.build.parts), count + 1)


class LensesByHand(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go(BALANCE)
        self.view = self.window.balance
        self.click(self.view.pages.tabs.buttons["lenses"])
        self.panel = self.view.pages.lenses

    def test_a_pad_is_needed(self) -> None:
        self.workspace.apply(TakeOff("long-zoom", "pad"))
        self.wait_for(lambda: self.panel.job is None and not self.panel.take.isEnabled())
        self.assertIn("Put a lens, a camera slide and a support on the build", self.panel.note.text())
        self.assertEqual(self.panel.table.rowCount(), 0)

    def test_enter_without_a_row_asks_for_one(self) -> None:
        self.wait_for(lambda: self.panel.model)
        said: list[str] = []
        self.workspace.said.connect(said.append)
        self.panel.table.setCurrentCell(-1, -1)
        self.click(self.panel.take)
        self.assertEqual(said[-1], "No lens is chosen. Choose one.")

    def test_a_tolerance_that_is_none_is_refused_and_stays(self) -> None:
        self.wait_for(lambda: self.panel.model)
        before = self.panel.field.text()
        for text, words in (("lots", '"lots" is not'), ("0 N·m", "must be above 0"), ("60 N·m", "at most 50")):
            self.panel.field.setText(text)
            self.panel.field.editingFinished.emit()
            self.assertIn(words, self.at_field())
            self.assertEqual(self.panel.field.text(), text)
        self.assertNotEqual(before, text)


class CounterweightByHand(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go(BALANCE)
        self.view = self.window.balance
        self.click(self.view.pages.tabs.buttons["weight"])
        self.panel = self.view.pages.weight

    def typed(self, field: QLineEdit, text: str) -> None:
        field.selectAll()
        self.keys(field, text)
        self.key(field, Qt.Key.Key_Return)

    def test_a_light_weight_would_have_to_go_beyond_the_end_and_can_not_be_added(self) -> None:
        self.typed(self.panel.mass_field, "0.5 kg")
        self.assertIn("beyond the end. A heavier one comes closer", self.panel.words.text())
        self.assertFalse(self.panel.add.isEnabled())

    def test_the_place_is_typed_and_the_mass_follows(self) -> None:
        lever = self.panel.lever
        self.typed(self.panel.place_field, "20 mm")
        self.assertAlmostEqual(self.panel.place, lever.low + 0.020)
        self.assertAlmostEqual(self.panel.mass, lever.mass_at(lever.low + 0.020))
        # Beyond the slide it stops at its end.
        self.typed(self.panel.place_field, "3 m")
        self.assertAlmostEqual(self.panel.place, lever.high)

    def test_no_mass_and_no_number_are_refused(self) -> None:
        before = self.panel.mass
        for text, words in (("0", "The mass must be above zero. Type one"), ("heavy", '"heavy" is not')):
            self.typed(self.panel.mass_field, text)
            self.assertIn(words, self.at_field())
            self.assertEqual(self.panel.mass, before)
            self.assertEqual(self.panel.mass_field.text(), text)

    def test_on_the_heavy_side_it_pulls_the_wrong_way(self) -> None:
        for index in range(self.panel.mounts.count()):
            self.panel.mounts.setCurrentIndex(index)
            self.panel.mounts.activated.emit(index)
            self.settle()
            if self.panel.lever is not None and self.panel.mass is None:
                self.assertIn("pulls the wrong way", self.panel.words.text())
                self.assertFalse(self.panel.add.isEnabled())
                break
        else:
            self.fail("no mount lies on the heavy side")

    def test_a_level_rig_wants_no_weight(self) -> None:
        ways = self.ways()
        self.workspace.choose_way(ways[0])
        self.view.apply_way()
        self.settle()
        self.view.pages.show_tab("weight")
        self.settle()
        self.assertAlmostEqual(self.view.model.net.moment, 0.0, places=3)
        self.assertIn("The rig is level. It needs no counterweight", self.panel.words.text())


class MarksByHand(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go(BALANCE)
        self.view = self.window.balance
        self.slides = self.view.slides

    def test_an_angle_is_typed_for_a_rosette_and_must_be_one(self) -> None:
        self.workspace.select("grip-l")
        self.key(self.view.elevation, Qt.Key.Key_3)
        self.assertIn("angle of", self.slides.editor.placeholderText())
        self.keys(self.slides.editor, "0°")
        self.key(self.slides.editor, Qt.Key.Key_Return)
        self.assertAlmostEqual(self.workspace.build.placed("grip-l").setting, 0.5236, places=3)
        self.key(self.view.elevation, Qt.Key.Key_9)
        self.slides.editor.setText("steep")
        self.key(self.slides.editor, Qt.Key.Key_Return)
        self.assertIn('"steep" is not an angle. Type degrees', self.at_field())
        self.assertTrue(self.slides.editor.isVisible())
        self.key(self.slides.editor, Qt.Key.Key_Escape)
        self.assertFalse(self.slides.editor.isVisible())

    def test_nothing_selected_has_no_mark(self) -> None:
        self.workspace.select("")
        self.slides.type_mark()
        self.assertIn("First select a part that slides or turns", self.refusals[-1])
        before = self.workspace.book
        self.slides.nudge(1.0)
        self.assertIs(self.workspace.book, before)

    def test_a_press_beside_the_thumb_brings_it_there(self) -> None:
        self.workspace.select("vplate")
        self.settle()
        scale = next(s for s in self.slides._drawing()[1] if s.placed_id == "vplate")
        start = self.workspace.build.placed("vplate").setting
        x = (scale.left + scale.x(start)) / 2.0
        QTest.mouseClick(self.view.elevation, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(scale.y)))
        self.settle()
        now = self.workspace.build.placed("vplate").setting
        self.assertLess(now, start)
        self.assertAlmostEqual(now, scale.setting_at(round(x)), delta=0.0015)

    def test_a_press_on_nothing_selects_nothing(self) -> None:
        self.workspace.select("lens")
        QTest.mouseClick(self.view.elevation, Qt.MouseButton.LeftButton, pos=QPoint(4, 60))
        self.settle()
        self.assertEqual(self.workspace.selected, "")

    def test_dragging_a_grip_turns_it_by_whole_teeth(self) -> None:
        self.workspace.apply(SetSlide("long-zoom", "grip-r", 0.0))
        self.drag(self.view.elevation, ("part", "grip-r"), 40)
        turned = self.workspace.build.placed("grip-r").setting
        self.assertNotEqual(turned, 0.0)
        teeth = turned / 0.10471975511965977
        self.assertAlmostEqual(teeth, round(teeth), places=6)


class EmptyBalance(WindowTestCase):
    def test_stepping_and_moving_on_an_empty_book_do_nothing(self) -> None:
        self.window.go(BALANCE)
        slides, before = self.window.balance.slides, self.workspace.book
        slides.step_part(1)
        slides.move_to("none", 0.1)
        self.assertEqual(self.workspace.selected, "")
        self.assertEqual(self.refusals, [])
        self.assertIs(self.workspace.book, before)
