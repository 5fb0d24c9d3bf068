"""The Carry room: figure, joints, takes, supports, and ways to lighten, by mouse and keys."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from equilix.core.analyse import Analysis, analyse
from equilix.core.assembly.build import Operator, Sex, SupportKind, Take
from equilix.core.assembly.parts import Category
from equilix.core.carry import Carry, Hindrance, carry, head_lever, see_saw
from equilix.core.errors import EditError
from equilix.core.lighten import LighterKind, grip_slides, split_takes, ways_to_lighten
from equilix.core.operator.strength import Joint
from equilix.core.supports.points import hang_angles
from equilix.core.supports.shoulder import pad_pressure
from equilix.desktop.dialogs import OperatorDialog
from equilix.desktop.main_window import CARRY
from equilix.desktop.widgets.takes_row import parse_time, time_text
from equilix.document.edits.book import PutOperator
from equilix.document.edits.builds import ChangeBuild
from equilix.io.demo import demo_book
from equilix.io.format import decode_book, encode_book
from equilix.present.carry_drawing import draw_load
from equilix.present.carry_view import hold_words, minutes, share_for
from equilix.present.scene import PathItem, TextItem
from equilix.present.units import System
from tests.core.builders import left_over
from tests.desktop.base import DemoWindowTestCase, WindowTestCase


class CoreOnDemoBuilds(unittest.TestCase):
    def setUp(self) -> None:
        self.book = demo_book()

    def carried(self, build_id: str, operator: Operator, support: SupportKind) -> Carry:
        found = carry(analyse(self.book.build(build_id), self.book.parts, operator), operator, support)
        assert isinstance(found, Carry)
        return found

    def test_everything_is_in_equilibrium(self) -> None:
        for build in self.book.builds:
            for operator in self.book.operators:
                for support in SupportKind:
                    c = self.carried(build.id, operator, support)
                    self.assertLess(abs(left_over(c.mass, c.cg, c.pad, c.held)).max(), 1e-9)
                    self.assertGreater(c.compression, 0.35 * operator.body_mass * 9.8)

    def test_the_shoulder_outlasts_the_hands(self) -> None:
        """Common practice: the same rig lasts several times longer on the shoulder than in two hands."""
        for build in self.book.builds:
            hands, shoulder = (
                self.carried(build.id, self.book.operators[0], s).worst.hold
                for s in (SupportKind.HANDHELD, SupportKind.SHOULDER)
            )
            self.assertGreater(shoulder.likely, 3.0 * hands.likely)

    def test_the_stronger_person_lasts_longer_and_left_mirrors_right(self) -> None:
        one = self.book.operators[0]
        weak, strong = (
            self.carried("wide", replace(one, strength=s), SupportKind.HANDHELD).worst.hold.likely for s in (0.8, 1.2)
        )
        self.assertGreater(strong, 1.3 * weak)
        woman, man = (self.carried("wide", replace(one, sex=s), SupportKind.HANDHELD) for s in (Sex.FEMALE, Sex.MALE))
        self.assertGreater(woman.worst.share, man.worst.share)

    def test_half_of_the_weight_in_each_hand_when_held_beside_the_cg(self) -> None:
        held = self.carried("long-zoom", self.book.operators[0], SupportKind.HANDHELD)
        self.assertAlmostEqual(sum(h.force[2] for h in held.held.hands), held.mass * 9.80665, places=6)
        self.assertIs(held.joints[0].joint, Joint.NECK)

    def test_the_see_saw_is_the_weight_times_the_way_to_the_line_and_staggering_ends_it(self) -> None:
        """W times the distance in plan from the CG to the line, times the cosine of the line's slope."""
        rng = np.random.default_rng(5)
        for _ in range(100):
            cg, a, b = rng.uniform(-0.3, 0.3, (3, 3))
            plan = (a - b)[:2]
            away = abs(plan[0] * (cg - b)[1] - plan[1] * (cg - b)[0]) / np.linalg.norm(plan)
            slope = np.linalg.norm(plan) / np.linalg.norm(a - b)
            self.assertAlmostEqual(abs(see_saw(8.0, cg, a, b)), 8.0 * 9.80665 * away * slope, delta=1e-9)
        cg = np.array([0.05, 0.0, 0.1])
        self.assertAlmostEqual(
            see_saw(8.0, cg, np.array([0.0, 0.1, 0.0]), np.array([0.0, -0.1, 0.0])), 8.0 * 9.80665 * 0.05
        )
        self.assertAlmostEqual(see_saw(8.0, cg, np.array([0.15, 0.1, 0.0]), np.array([-0.05, -0.1, 0.0])), 0.0)

    def test_the_rig_hangs_by_its_handle_as_a_pendulum_does(self) -> None:
        carried = self.carried("long-zoom", self.book.operators[0], SupportKind.HANDHELD)
        analysis = analyse(self.book.build("long-zoom"), self.book.parts, self.book.operators[0])
        handle = next(
            analysis.positions.touch[i]
            for i, point in enumerate(analysis.assembly.touch_points)
            if point.category is Category.HANDLE
        )
        pitch, _ = hang_angles(np.array([1.0, 0.0, 1.0]) * (analysis.body.cg - handle))
        self.assertAlmostEqual(carried.handle.pitch, pitch, places=12)
        self.assertFalse(carried.handle.turns_over)

    def test_looking_up_and_far_down_strain_the_neck(self) -> None:
        """Vasavada (2001), from memory: 0.03 m upright, 0.11 m at 30 degrees; the eyes alone do 0 to 30 (practice)."""
        self.assertAlmostEqual(head_lever(math.radians(15)), 0.03)
        self.assertAlmostEqual(head_lever(math.radians(60)), 0.11)
        self.assertAlmostEqual(head_lever(math.radians(-30)), -0.05)

    def first_parts(self, count: int) -> Analysis:
        build = self.book.build("long-zoom")
        return analyse(replace(build, parts=build.parts[:count]), self.book.parts, self.book.operators[0])

    def test_without_grips_pad_or_mass_it_says_why(self) -> None:
        operator = self.book.operators[0]
        self.assertIs(carry(self.first_parts(1), operator, SupportKind.SHOULDER), Hindrance.NO_PAD)
        self.assertIs(carry(self.first_parts(1), operator, SupportKind.HANDHELD), Hindrance.NO_GRIPS)
        # The front-heavy rig before its grips are on.
        bare = self.first_parts(16)
        self.assertLess(bare.shoulder.rest.margin_x, 0.0)
        self.assertIs(carry(bare, operator, SupportKind.SHOULDER), Hindrance.NOT_HELD)
        kit = {key: replace(part, mass=None) for key, part in self.book.parts.items()}
        empty = analyse(self.book.build("wide"), kit, operator)
        self.assertIs(carry(empty, operator, SupportKind.SHOULDER), Hindrance.NO_MASS)

    def test_a_rig_that_rests_without_hands_strains_no_arm(self) -> None:
        found = carry(self.first_parts(3), self.book.operators[0], SupportKind.SHOULDER)
        assert isinstance(found, Carry)
        self.assertEqual([j.joint for j in found.joints], [Joint.NECK, Joint.LOW_BACK])
        self.assertLess(abs(left_over(found.mass, found.cg, found.pad, found.held)).max(), 1e-9)

    def test_the_grips_go_where_they_are_held_the_longest(self) -> None:
        """No other place along the slide, tried one by one, lasts longer without a clash."""
        operator, build = self.book.operators[0], self.book.build("wide")
        analysis = analyse(build, self.book.parts, operator)
        ways = ways_to_lighten(analysis, self.book.parts, operator, SupportKind.HANDHELD, build.takes)
        way = next(w for w in ways if w.kind is LighterKind.GRIPS)
        (slide,) = grip_slides(analysis)
        placed = analysis.build.parts[analysis.assembly.slide_parts[slide]]
        mount = analysis.assembly.slide_mounts[slide]
        for k in range(40):
            setting = mount.low + (mount.high - mount.low) * k / 39.0
            parts = tuple(replace(p, setting=setting) if p.id == placed.id else p for p in build.parts)
            tried = analyse(replace(build, parts=parts), self.book.parts, operator)
            found = carry(tried, operator, SupportKind.HANDHELD)
            if isinstance(found, Carry) and len(tried.findings) <= len(analysis.findings) and not found.out_of_reach:
                # 10 mm between the places tried.
                self.assertLessEqual(found.worst.hold.likely, 1.06 * way.carried.worst.hold.likely)

    def test_split_takes_keep_their_length_and_stay_within_the_safe_half(self) -> None:
        carried = self.carried("wide", replace(self.book.operators[0], strength=1.6), SupportKind.HANDHELD)
        safe = 0.5 * carried.worst.hold.likely
        takes = (Take(round(1.7 * safe), 60.0), Take(round(0.5 * safe), 60.0))
        cut = split_takes(carried, takes)
        assert cut is not None
        self.assertEqual(len(cut), 3)
        self.assertLessEqual(max(t.length for t in cut), safe)
        self.assertAlmostEqual(sum(t.length for t in cut), sum(t.length for t in takes), delta=3)
        self.assertIsNone(split_takes(carried, (Take(0.4 * safe, 60.0),)))


class Words(unittest.TestCase):
    def test_times_are_ranges_in_round_figures(self) -> None:
        held = carry(
            analyse(demo_book().build("wide"), demo_book().parts, demo_book().operators[0]),
            demo_book().operators[0],
            SupportKind.HANDHELD,
        )
        assert isinstance(held, Carry)
        self.assertRegex(hold_words(held.worst.hold), r"^\d+ to \d+ min$")
        self.assertEqual(
            [minutes(t) for t in (8.0, 94.0, 130.0, 1800.0, 7200.0)], ["10 s", "90 s", "2 min", "30 min", "2.0 h"]
        )

    def test_the_mark_on_a_bar_is_where_the_take_would_end(self) -> None:
        """Frey-Law and Avin: a shoulder at half of its strength lasts 52.8 s."""
        self.assertAlmostEqual(share_for(Joint.SHOULDER, 52.8), 0.5, delta=0.002)

    def test_takes_are_typed_as_they_are_said(self) -> None:
        for text, seconds in (
            ("3", 180.0),
            ("3 min", 180.0),
            ("90 s", 90.0),
            ("1:30", 90.0),
            ("2,5", 150.0),
            ("1 h", 3600.0),
        ):
            self.assertEqual(parse_time(text, "Take 1"), seconds)
        for seconds in (40.0, 90.0, 180.0, 605.0):
            self.assertEqual(parse_time(time_text(seconds), "Take 1"), seconds)
        with self.assertRaisesRegex(EditError, 'Take 2: "soon" is not a time'):
            parse_time("soon", "Take 2")

    def test_takes_and_bodies_survive_the_file(self) -> None:
        book = demo_book()
        one = replace(book.operators[0], sex=Sex.FEMALE, strength=1.1, reach=0.68, grip_strength=350.0)
        book = PutOperator(one).apply(book)
        build = replace(book.build("wide"), takes=(Take(95.0, 30.0),), support=SupportKind.HANDHELD)
        book = ChangeBuild(build, "takes").apply(book)
        again = decode_book(encode_book(book), "book.equilix")
        self.assertEqual(again.operator(one.id), one)
        self.assertEqual(again.build("wide").takes, build.takes)
        self.assertIs(again.build("wide").support, SupportKind.HANDHELD)

    def test_small_and_tall_operators_are_drawn_in_their_own_proportions(self) -> None:
        book = demo_book()
        for operator in (Operator("s", "S", 1.45, 45.0), Operator("t", "T", 2.05, 110.0)):
            analysis = analyse(book.build("trimmed"), book.parts, operator)
            carried = carry(analysis, operator, SupportKind.SHOULDER)
            assert isinstance(carried, Carry)
            scene = draw_load(analysis, carried, (), System.METRIC, 780.0, 330.0)
            self.assertAlmostEqual(carried.body.shoulder_right[2], 0.818 * operator.stature + 0.027)
            self.assertAlmostEqual(carried.pad[2], carried.body.shoulder_right[2])
            for item in scene.items:
                if isinstance(item, PathItem):
                    for command in item.commands:
                        for x, y in zip(command[1::2], command[2::2], strict=True):
                            self.assertTrue(
                                -2.0 <= float(x) <= 782.0 and -8.0 <= float(y) <= 332.0, (command, operator.name)
                            )
            pressed = pad_pressure(carried.held.pad_force, analysis.build.shoulder)
            self.assertGreater(pressed, 0.0)


class CarryRoom(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.choose_build("wide")
        self.key(self.window, Qt.Key.Key_4, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.window.room, CARRY)
        self.view = self.window.carry
        self.settled()

    def settled(self) -> None:
        self.wait_for(lambda: self.view.job is None)

    def press(self, view: object, key: tuple[str, ...]) -> None:
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self.spot(view, key))
        self.settle()
        self.settled()

    def texts(self, view: object) -> str:
        return " | ".join(item.text for item in view.scene.items if isinstance(item, TextItem))

    def test_it_says_how_long_and_what_gives_out(self) -> None:
        self.assertIn("gives out first", self.window.panel.sentence.text())
        for words in ("Neck", "Shoulders", "Elbows", "Wrists", "Grip", "Low back", "N·m"):
            self.assertIn(words, self.texts(self.view.load))

    def test_a_click_carries_it_in_the_hands_and_undo_back(self) -> None:
        self.press(self.view.others, ("support", "handheld"))
        self.assertIs(self.workspace.build.support, SupportKind.HANDHELD)
        self.assertIn("wrists give out first", self.window.panel.sentence.text())
        self.assertEqual(self.window.top.support.support, SupportKind.HANDHELD)
        self.assertEqual(self.window.rail.buttons[CARRY].mark, "look")
        self.workspace.undo()
        self.assertIs(self.workspace.build.support, SupportKind.SHOULDER)

    def test_the_arrow_keys_change_the_support(self) -> None:
        self.key(self.view.load, Qt.Key.Key_Right)
        self.settled()
        self.assertIs(self.workspace.build.support, SupportKind.HANDHELD)

    def test_grips_are_previewed_then_applied_then_undone(self) -> None:
        self.press(self.view.others, ("support", "handheld"))
        before = self.view.carried.worst.hold.likely
        parts = self.workspace.build.parts
        index = next(i for i, way in enumerate(self.view.ways) if way.kind is LighterKind.GRIPS)
        self.click(self.view.cards[index])
        self.assertEqual(self.workspace.build.parts, parts)
        self.assertGreater(self.view.shown.worst.hold.likely, 1.5 * before)
        self.click(self.view.cards[index].apply_button)
        self.settled()
        self.assertGreater(self.view.carried.worst.hold.likely, 1.5 * before)
        self.assertNotEqual(self.workspace.build.parts, parts)
        self.workspace.undo()
        self.assertEqual(self.workspace.build.parts, parts)

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
        self.assertIn("Take 4", self.texts(self.view.reserve))

    def test_a_time_that_is_none_is_refused_and_put_back(self) -> None:
        length, _ = self.view.takes.fields[1]
        takes = self.workspace.build.takes
        length.selectAll()
        self.keys(length, "a while")
        self.key(length, Qt.Key.Key_Return)
        self.assertIn('Take 2: "a while" is not a time', self.refusals[-1])
        self.assertEqual(self.workspace.build.takes, takes)
        self.assertEqual(self.view.takes.fields[1][0].text(), time_text(takes[1].length))

    def test_another_build_on_another_body_by_one_click(self) -> None:
        self.press(self.view.others, ("cell", "1", "1"))
        self.assertEqual(self.workspace.operator.name, "Tove")
        self.assertNotEqual(self.workspace.build.id, "wide")

    def test_the_cautions_stand_beside_the_figures(self) -> None:
        from PySide6.QtWidgets import QLabel

        said = " ".join(w.text() for w in self.window.panel.findChildren(QLabel))
        for words in ("not medical advice", "Makers’ limits", "NIOSH", "ISO 11226"):
            self.assertIn(words, said.replace("\u00a0", " "))

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
        self.assertIn("Eye height must be from 85 to 99 % of the stature", dialog.problem.text())

    def test_imperial_and_night_show_the_same(self) -> None:
        self.workspace.set_units(System.IMPERIAL)
        self.assertIn("lbf·in", self.texts(self.view.load))
        self.window.switch_theme()
        self.settle()
        self.assertFalse(self.view.load.grab().isNull())


class EmptyCarryRoom(WindowTestCase):
    def test_an_empty_book_says_what_to_do(self) -> None:
        self.window.go(CARRY)
        self.settle()
        self.assertEqual(self.window.panel.head.text(), "Nothing here yet.")
        self.assertEqual(self.window.rail.buttons[CARRY].mark, "none")
        QTest.mouseClick(self.window.carry.others, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
        self.settle()


if __name__ == "__main__":
    unittest.main()
