"""Sets in the Build room by keys and mouse: made, taken off, put on here and on another build, each one step."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QLabel

from equilix.core.errors import FormatError
from equilix.core.kit.parts import Category
from equilix.core.sets import sets_of
from equilix.desktop.dialogs.forms import NameDialog
from equilix.desktop.views.rooms import BUILD
from equilix.desktop.widgets.labels import LinkLabel
from equilix.document.edits.builds import ApplyPlan
from equilix.document.edits.kit import RemoveParts
from equilix.document.edits.sets import ForgetSet, MakeSet
from equilix.io.format import read_book, write_book
from equilix.io.salvage import salvage
from equilix.present.assembly.sets_view import set_choices
from tests.campaigns import campaign
from tests.desktop import by_keys
from tests.desktop.base import DemoWindowTestCase

CTRL = Qt.KeyboardModifier.ControlModifier


def named(name: str) -> Any:
    """Return what types a name and presses Enter."""

    def execute(dialog: NameDialog) -> int:
        dialog.name.setText(name)
        dialog.accept()
        return QDialog.DialogCode(dialog.result())

    return mock.patch.object(NameDialog, "exec", execute)


@campaign
class InTheRoom(DemoWindowTestCase):
    room = BUILD

    def setUp(self) -> None:
        super().setUp()
        self.settle()
        self.view = self.window.build

    def placed(self, category: Category) -> str:
        kit = self.workspace.book.parts
        return next(p.id for p in self.workspace.build.parts if kit[p.part_id].category is category)

    def menu(self, start: str, name: str = "") -> None:
        """Open the menu by S, go down to what begins so, and press Enter."""
        self.key(self.view.drawing, Qt.Key.Key_S)
        self.settle()
        menu = self.view.sets.menu
        self.assertTrue(menu.isVisible())
        words = [action.text() for action in menu.actions()]
        number = next((k for k, text in enumerate(words) if text.startswith(start)), None)
        self.assertIsNotNone(number, words)
        for _ in range(number):
            QTest.keyClick(menu, Qt.Key.Key_Down)
        with named(name):
            QTest.keyClick(menu, Qt.Key.Key_Return)
            self.settle()
            self.settle()

    def links(self) -> list[LinkLabel]:
        doers = self.window.panel.doers.items()
        return [one for key, one in doers if key[0] == "set" and isinstance(one, LinkLabel)]

    def make_power(self) -> None:
        self.workspace.select(self.placed(Category.BATTERY_PLATE))
        self.settle()
        self.menu("Make a set of V-lock plate and the part on it", "Power")

    def test_a_set_is_of_either_side_of_a_joint_and_its_parts_are_shown_before_it_is_made(self) -> None:
        """Selected is the battery plate; its set is the battery's side, the other one is the camera's."""
        self.workspace.select(self.placed(Category.BATTERY_PLATE))
        self.settle()
        shown: list[str] = []

        def seen(dialog: NameDialog) -> int:
            shown.extend(label.text() for label in dialog.findChildren(QLabel))
            self.assertEqual(set(self.view._hinted), other)
            dialog.name.setText("Rest")
            dialog.accept()
            return QDialog.DialogCode(dialog.result())

        build = self.workspace.build
        choices = set_choices(self.workspace.book, build, self.workspace.selected)
        power, other = (set(one.members) for one in choices[:2])
        self.assertIn(self.placed(Category.BATTERY), power)
        self.assertEqual(other, {p.id for p in build.parts} - power)
        with mock.patch.object(NameDialog, "exec", seen):
            self.view.sets.do(choices[1])
            self.settle()
        self.assertEqual({p.id for p in sets_of(self.workspace.build)["Rest"]}, other)
        lens = self.workspace.book.name_of(build.placed(self.placed(Category.LENS)))
        self.assertTrue(any(lens.lower().split(",")[0] in words.lower() for words in shown), shown)
        self.assertEqual(self.view._hinted, ())

    def test_made_taken_off_put_on_and_undone_by_keys(self) -> None:
        before = self.workspace.build
        self.make_power()
        self.assertEqual([len(p) for p in sets_of(self.workspace.build).values()], [2])
        self.menu("Take off Power")
        self.assertEqual(len(self.workspace.build.parts), len(before.parts) - 2)
        self.assertEqual([g.name for g in self.workspace.book.sets], ["Power"])
        self.menu("Put on Power")
        self.assertEqual(self.workspace.book.sets, ())
        again = self.workspace.build
        self.assertEqual({p.part_id: p.setting for p in again.parts}, {p.part_id: p.setting for p in before.parts})
        for _ in range(3):
            QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.workspace.build, before)

    def test_the_panel_lists_sets_and_a_click_takes_one_off(self) -> None:
        self.make_power()
        self.assertIn("In the set Power.", [w.text() for w in self.window.panel.findChildren(QLabel)])
        link = next(link for link in self.links() if link.text() == "Take off Power")
        QTest.mouseClick(link, Qt.MouseButton.LeftButton)
        self.settle()
        self.settle()
        self.assertEqual([link.text() for link in self.links()], ["Put on Power"])
        self.assertTrue(self.workspace.apply(ForgetSet(self.workspace.book.sets[0].id)))
        self.settle()
        self.assertEqual(self.links(), [])

    def test_leaving_out_renaming_and_what_sits_on_it(self) -> None:
        self.make_power()
        self.menu("Take V-lock plate out of the set Power")
        self.assertEqual([len(p) for p in sets_of(self.workspace.build).values()], [1])
        self.menu("Put V-lock plate into the set Power")
        self.menu("Rename Power", "Rear")
        self.assertEqual(list(sets_of(self.workspace.build)), ["Rear"])
        plate = self.placed(Category.BATTERY_PLATE)
        self.workspace.apply(MakeSet(self.workspace.build.id, "Plate", (plate,)))
        before = self.workspace.build
        self.menu("Take off Plate")
        self.assertIs(self.workspace.build, before)
        self.assertIn(
            "1 part outside the set Plate sits on it. Take it off first, or put it into it.", self.refusals[-1]
        )

    def test_a_set_of_which_a_part_is_on_the_other_build_is_refused_there(self) -> None:
        self.make_power()
        self.menu("Take off Power")
        other = self.workspace.book.builds[2]
        self.workspace.choose_build(other.id)
        self.settle()
        self.menu("Put on Power")
        self.assertIn("is on this build already. Take it off first.", self.refusals[-1])
        self.assertIs(self.workspace.build, other)

    def test_a_battery_that_is_swapped_by_a_way_stays_in_the_set(self) -> None:
        self.make_power()
        build, kit = self.workspace.build, self.workspace.book.parts
        battery = build.placed(self.placed(Category.BATTERY))
        spare = next(p for p in kit.values() if p.category is Category.BATTERY and p.id != battery.part_id)
        swapped = replace(battery, part_id=spare.id, sets=())
        self.assertTrue(self.workspace.apply(ApplyPlan(build.with_placed(swapped))))
        self.assertEqual(self.workspace.build.placed(battery.id).sets, ("Power",))

    def test_a_file_keeps_them_and_a_damaged_one_says_what_is_wrong(self) -> None:
        self.make_power()
        self.workspace.apply(MakeSet(self.workspace.build.id, "Camera", (self.placed(Category.BODY),)))
        self.menu("Take off Power")
        book = self.workspace.book
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "sets.equilix"
            write_book(book, path)
            self.assertEqual(read_book(path), book)
            text = path.read_text()
            group = book.sets[0]
            own = text.replace(f'"onto": "{group.onto}"', '"onto": ""')
            self.assertNotEqual(own, text)
            path.write_text(own)
            with self.assertRaisesRegex(FormatError, "Power.*must say where it came off"):
                read_book(path)
            found = salvage(path)
            self.assertEqual(found.book.sets, ())
            self.assertIn("1 set", found.lost)
            path.write_text(text.replace(f'"onto": "{group.onto}"', '"onto": "nothing"'))
            with self.assertRaisesRegex(FormatError, "Set Power: part 'nothing' is not in the kit"):
                read_book(path)


class FromAnEmptyBook(by_keys.ByKeys):
    def test_a_camera_moves_from_one_base_to_another_by_keys(self) -> None:
        self.enter_kit((("Camera box type", "1.9"), ("Base plate", "0.5"), ("Prime lens 50 mm", "0.9")))
        self.build_all()
        build, kit = self.workspace.build, self.workspace.book.parts
        camera = next(p for p in build.parts if kit[p.part_id].category is Category.BODY)
        self.workspace.select(camera.id)
        self.press(Qt.Key.Key_S)
        self.settle()
        menu = self.window.build.sets.menu
        with named("Camera"):
            QTest.keyClick(menu, Qt.Key.Key_Return)
            self.settle()
        made = sets_of(self.workspace.build)["Camera"]
        self.assertEqual({kit[p.part_id].category for p in made}, {Category.BODY, Category.LENS})
        # With nothing selected the set's own line comes first.
        self.choose_first()
        self.assertLess(len(self.workspace.build.parts), len(build.parts))
        self.assertFalse(self.workspace.apply(RemoveParts((camera.part_id,))))
        self.assertIn("The set Camera needs that part", self.window.banner.text.text())
        self.choose_first()
        self.assertEqual(len(self.workspace.build.parts), len(build.parts))
        self.assertEqual(len(sets_of(self.workspace.build)["Camera"]), 2)

    def choose_first(self) -> None:
        self.workspace.select("")
        self.press(Qt.Key.Key_S)
        self.settle()
        QTest.keyClick(self.window.build.sets.menu, Qt.Key.Key_Return)
        self.settle()
        self.settle()
