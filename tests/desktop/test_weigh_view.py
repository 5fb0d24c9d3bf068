"""The kit table under the keyboard."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QComboBox, QLineEdit

from equilix.core.kit.parts import Category, HowKnown, MountKind
from equilix.desktop.views.rooms import WEIGH
from equilix.document.edits.kit import ChangePart
from equilix.present.kit.table import COLUMNS, Column
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase


@campaign
class WeighView(DemoWindowTestCase):
    room = WEIGH

    def setUp(self) -> None:
        super().setUp()
        self.settle()
        self.view = self.window.weigh
        self.table = self.view.table

    def at(self, part_id: str, column: Column) -> None:
        row = next(i for i, part in enumerate(self.table.kit_model.parts) if part.id == part_id)
        flags = QItemSelectionModel.SelectionFlag
        index = self.table.kit_model.index(row, COLUMNS.index(column))
        self.table.selectionModel().setCurrentIndex(index, flags.ClearAndSelect | flags.Rows)

    def type_in(self, part_id: str, column: Column, text: str) -> None:
        self.at(part_id, column)
        self.key(self.table, Qt.Key.Key_F2)
        editor = self.table.findChild(QLineEdit)
        editor.selectAll()
        self.keys(editor, text)
        self.key(editor, Qt.Key.Key_Return)

    def test_masses_in_any_unit(self) -> None:
        for text, mass in (("14.5 oz", 0.41106807), ("410 g", 0.41), ("5 lb 3 oz", 2.35301042), ("0,41", 0.41)):
            self.type_in("matte", Column.MASS, text)
            self.assertAlmostEqual(self.workspace.book.part("matte").mass, mass, places=7)
        self.assertEqual(self.refusals, [])

    def test_a_figure_that_cannot_be_read_changes_nothing_and_says_how(self) -> None:
        book = self.workspace.book
        self.type_in("matte", Column.MASS, "heavy")
        self.assertIs(self.workspace.book, book)
        self.assertIn("Type 2.4 kg", self.at_field())
        # The cell is open again with what was typed, and nowhere else.
        editor: Any = self.focus()
        self.assertEqual(editor.text(), "heavy")
        self.assertEqual(self.table.currentIndex().row(), self.table.kit_model.row_of("matte"))
        editor.selectAll()
        self.keys(editor, "0.51 kg")
        self.assertEqual(self.at_field(), "")
        self.key(editor, Qt.Key.Key_Return)
        self.assertAlmostEqual(self.workspace.book.part("matte").mass, 0.51)
        self.workspace.undo()
        self.type_in("matte", Column.MASS, "-3")
        self.assertIs(self.workspace.book, book)
        self.assertIn("below zero", self.at_field())
        self.key(self.focus(), Qt.Key.Key_Escape)
        self.assertEqual(self.at_field(), "")
        self.assertIs(self.workspace.book, book)

    def test_w_s_g_in_the_mass_cell_set_how_it_is_known(self) -> None:
        self.at("matte", Column.MASS)
        self.keys(self.table, "w")
        self.assertIs(self.workspace.book.part("matte").mass_known, HowKnown.WEIGHED)
        self.keys(self.table, "g")
        self.assertIs(self.workspace.book.part("matte").mass_known, HowKnown.GUESSED)

    def test_size_carries_the_mounts_of_a_lens_along(self) -> None:
        self.type_in("zoom-short", Column.SIZE, "150x95")
        part = self.workspace.book.part("zoom-short")
        self.assertEqual(part.outline.size, (0.15, 0.095, 0.095))
        self.assertEqual(part.mount("front").at, (0.15, 0.0, 0.0))

    def test_changing_the_kind_gives_the_mounts_of_that_kind(self) -> None:
        self.keys(self.view.entry.name_field, "Thing")
        self.key(self.view.entry.name_field, Qt.Key.Key_Return)
        part = self.workspace.book.kit[-1]
        self.assertIs(part.category, Category.OTHER)
        self.at(part.id, Column.KIND)
        self.key(self.table, Qt.Key.Key_F2)
        box = self.table.findChild(QComboBox)
        box.setCurrentText("lens")
        self.key(box, Qt.Key.Key_Return)
        self.table.setCurrentIndex(self.table.kit_model.index(0, 1))
        self.settle()
        self.assertIn(MountKind.LENS_MOUNT, [foot.kind for foot in self.workspace.book.kit[-1].feet])

    def test_search_narrows_and_escape_widens(self) -> None:
        self.window.menu.named["find"].trigger()
        self.settle()
        self.keys(self.view.search, "prime 50")
        self.assertEqual([part.id for part in self.table.kit_model.parts], ["prime-50"])
        self.key(self.view.search, Qt.Key.Key_Down)
        self.key(self.view.search, Qt.Key.Key_Escape)
        self.assertEqual(len(self.table.kit_model.parts), len(self.workspace.book.kit))

    def test_filters_count_and_narrow(self) -> None:
        self.click(self.view.filter_buttons["guessed"])
        shown = self.table.kit_model.parts
        self.assertTrue(all(p.mass is None or p.mass_known is HowKnown.GUESSED for p in shown))
        self.assertEqual(self.view.filter_buttons["guessed"].text(), f"Estimated {len(shown)}")
        self.click(self.view.filter_buttons["build"])
        self.assertEqual(len(self.table.kit_model.parts), len(self.workspace.build.parts))

    def test_paste_takes_the_good_rows_and_names_the_bad_ones(self) -> None:
        count = len(self.workspace.book.kit)
        QGuiApplication.clipboard().setText("name\tmass\nSpare clamp\t120 g\nOdd one\tlots\nThin cable\t2 oz\n")
        self.key(self.table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual([part.name for part in self.workspace.book.kit[count:]], ["Spare clamp", "Thin cable"])
        self.assertIn("Row 3", self.refusals[-1])
        self.workspace.undo()
        self.assertEqual(len(self.workspace.book.kit), count)

    def test_a_copied_row_pastes_as_the_same_part(self) -> None:
        self.at("matte", Column.NAME)
        self.key(self.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        self.key(self.table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        copy, original = self.workspace.book.kit[-1], self.workspace.book.part("matte")
        self.assertEqual(self.refusals, [])
        self.assertEqual(
            (copy.name, copy.mass, copy.mass_known, copy.category, copy.outline.size),
            (original.name, original.mass, original.mass_known, original.category, original.outline.size),
        )

    def test_a_copied_row_is_harmless_in_a_spreadsheet_and_comes_back_as_it_was(self) -> None:
        part = self.workspace.book.part("matte")
        self.workspace.apply(ChangePart(replace(part, name="=1+1"), "name"))
        self.at("matte", Column.NAME)
        self.key(self.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue(QGuiApplication.clipboard().text().split("\n")[1].startswith("'=1+1\t"))
        self.key(self.table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.workspace.book.kit[-1].name, "=1+1")

    def test_what_is_pasted_has_bounds_and_odd_names_are_told(self) -> None:
        before = self.workspace.book
        self.view.paste("a,1\n" * 5_000)
        self.assertIn("More than 2000 rows were copied. Save them as a table and import it", self.refusals[-1])
        self.view.paste('"' + "x" * 200_000 + "\t1")
        # How long a cell may be is a setting of the whole process, which reading a parts table raises.
        self.assertRegex(self.refusals[-1], "never ends|more than 200 characters")
        self.view.paste("n" * 300 + "\t1\nGood\t1 kg\na\u202eb\t1")
        self.assertIn("Row 1: A part's name has more than 200 characters", self.refusals[-1])
        self.assertIn("Row 3:", self.refusals[-1])
        self.assertEqual([part.name for part in self.workspace.book.kit[len(before.kit) :]], ["Good"])

    def test_duplicate_and_delete(self) -> None:
        self.at("weight", Column.NAME)
        self.click(self.view.part_panel.duplicate)
        names = [part.name for part in self.workspace.book.kit]
        self.assertEqual(names[names.index("Counterweight block") + 1], "Counterweight block copy")
        self.key(self.table, Qt.Key.Key_Delete)
        self.assertNotIn("Counterweight block", [part.name for part in self.workspace.book.kit])

    def test_of_all_parts_those_on_builds_stay_and_are_named_and_the_others_go(self) -> None:
        self.table.selectAll()
        self.key(self.table, Qt.Key.Key_Delete)
        used = {placed.part_id for build in self.workspace.book.builds for placed in build.parts}
        self.assertEqual({part.id for part in self.workspace.book.kit}, used)
        self.assertRegex(
            self.refusals[-1], r"^Removed \d+\. .* and \d+ more are on builds. Take them off there first\.$"
        )
        self.workspace.undo()
        self.assertEqual(len(self.workspace.book.kit), 60)

    def test_a_part_on_a_build_is_not_removed(self) -> None:
        self.at("zoom", Column.NAME)
        self.key(self.table, Qt.Key.Key_Delete)
        self.assertIn("ake it off there first", self.refusals[-1])
        self.assertIn("zoom", self.workspace.book.parts)

    def test_mount_of_a_used_part_cannot_change_its_kind(self) -> None:
        self.at("body", Column.NAME)
        self.settle()
        model = self.view.part_panel.mounts.mount_model
        row = next(i for i in range(model.rowCount()) if getattr(model.item(i), "id", "") == "lens")
        self.assertFalse(model.setData(model.index(row, 1), "cold shoe"))
        self.assertIn("Take it off there first", self.refusals[-1])

    def test_mounts_are_typed_in_place(self) -> None:
        self.at("prime-50", Column.NAME)
        self.settle()
        model = self.view.part_panel.mounts.mount_model
        self.assertTrue(model.setData(model.index(1, 2), "4 in"))
        self.assertAlmostEqual(self.workspace.book.part("prime-50").mounts[0].at[0], 0.1016)

    def test_weigh_this_next_names_the_largest_doubt(self) -> None:
        self.assertEqual(self.view.panel.head.text(), "Weigh the matte box.")
