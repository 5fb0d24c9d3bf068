"""A sled in the real window: slides by mouse and keys, ways, the stopwatch, and own parts from an empty book."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from equilix.core.keys import KEYS
from equilix.core.support import case_of
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.views.rooms import BALANCE, CARRY
from equilix.desktop.widgets.balance_pages import BENCH, OWN
from equilix.desktop.widgets.refusal import refusal_of
from equilix.present.drawing.scene import TextItem
from equilix.present.sheet import sheet_model
from equilix.present.supports import text_for
from equilix.supports.vest import mechanics as vest
from equilix.supports.vest.mechanics import SUPPORT as VEST
from equilix.supports.vest.mechanics import order_of_work
from equilix.supports.vest.window import TimingBench
from tests.campaigns import campaign
from tests.desktop import by_keys
from tests.desktop.base import DemoWindowTestCase
from tests.desktop.forms import fill
from tests.rigs.results import vest_result

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
NUMBER = {key: getattr(Qt.Key, f"Key_{k}") for k, key in enumerate(KEYS, 1)}


@campaign
class OnTheDemo(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.choose_build("sled-long")
        self.window.go(BALANCE)
        self.settle()

    @property
    def sled(self) -> Any:
        return vest_result(self.workspace.analysis()).sled

    def said(self) -> str:
        items = self.window.balance.drawing.scene.items
        return " | ".join(item.text for item in items if isinstance(item, TextItem))

    def rows(self) -> dict[str, str]:
        return {row.label: row.value for row in self.window.balance.model.figures}

    def test_the_bearing_is_dragged_and_everything_follows(self) -> None:
        view = self.window.balance
        before, page = self.sled.drop_time, self.rows()["Drop time"]
        scale = next(one for one in view.drawing.scales if one.placed_id == "bearing")
        zoom = text_scale()
        start = QPoint(round(scale.x(scale.setting) * zoom), round(scale.y * zoom))
        end = QPoint(round(scale.x(0.0) * zoom), start.y())
        QTest.mousePress(view.elevation, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(view.elevation, QPoint((start.x() + end.x()) // 2, start.y()))
        QTest.mouseMove(view.elevation, end)
        QTest.mouseRelease(view.elevation, Qt.MouseButton.LeftButton, pos=end)
        self.settle()
        self.assertGreater(self.sled.drop_time, 1.5 * before)
        self.assertNotEqual(self.rows()["Drop time"], page)
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertAlmostEqual(self.sled.drop_time, before)

    def test_the_first_way_by_keys_levels_drops_and_spins(self) -> None:
        view = self.window.balance
        self.wait_for(lambda: not view.finder.busy)
        self.assertEqual(view.ways[0].title, "Set 5 marks together")
        QTest.keyClick(view.elevation, Qt.Key.Key_P)
        self.settle()
        QTest.keyClick(view.elevation, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(view.model.verdict.head, "Hangs upright, falls in 2.5 s.")
        self.assertLess(max(abs(p) for p in self.sled.products), 1e-9)
        self.assertTrue(all(abs(step.to - step.now) < 1e-6 for step in order_of_work(self.workspace.analysis())))
        self.assertEqual(self.said().count("already there"), 5)
        self.assertIn("post hangs upright", self.said())

    def test_the_first_step_alone_leaves_the_others_where_they_were(self) -> None:
        """Marks hold: set one after the other in the order of work, they come to the sled that all promise."""
        for step in order_of_work(self.workspace.analysis()):
            self.workspace.select(step.placed_id)
            self.window.balance.slides.set_typed(f"{1e3 * (step.to - self.low(step.placed_id)):.4f} mm")
            self.settle()
        self.assertEqual(self.window.balance.model.verdict.head, "Hangs upright, falls in 2.5 s.")

    def low(self, placed_id: str) -> float:
        assembly = self.workspace.analysis().assembly
        ids = [self.workspace.build.parts[i].id for i in assembly.slide_parts]
        return assembly.slide_mounts[ids.index(placed_id)].low

    def test_its_page_its_form_its_sheet_and_what_it_costs(self) -> None:
        view = self.window.balance
        view.pages.show_tab(OWN)
        self.settle()
        said = [item.text for item in view.pages.own.scene.items if isinstance(item, TextItem)]
        for words in ("Drop time", "Pan wobble", "too bottom-heavy", "shows"):
            self.assertIn(words, said)
        with fill({"drop": "3", "set_for": "8.2 kg", "second": "9 kg", "release": "no"}):
            self.window.acts._edit_build()
        self.settle()
        found = VEST.settings(self.workspace.build)
        self.assertEqual((found.drop, found.set_for, found.release), (3.0, 8.2, 0.0))
        cautions = " ".join(view.model.cautions)
        for words in (
            ". Two people put it on and take it off",
            "quick release",
            "The arm stays at its upper stop",
            "Take the sled off to sit, climb stairs or squeeze through",
        ):
            self.assertIn(words, cautions)
        w = self.workspace
        self.assertIn("falls too fast", sheet_model(w.book, w.analysis(), w.operator, w.system).balance.verdict.head)
        self.window.go(CARRY)
        self.wait_for(lambda: self.window.carry.job is None)
        shown = " ".join(one.text() for one in self.window.carry.panel.findChildren(QLabel)).replace("\xa0", " ")
        self.assertIn("leaves 44 N·m at the low back", shown)

    def test_a_range_upside_down_is_refused_in_the_form(self) -> None:
        before = self.workspace.build
        with fill({"least": "9 kg", "most": "4 kg"}):
            self.window.acts._edit_build()
        self.assertIs(self.workspace.build, before)

    def test_top_heavy_says_so_everywhere(self) -> None:
        self.workspace.select("bearing")
        self.window.balance.slides.set_typed("0 mm")
        self.settle()
        view = self.window.balance
        self.assertEqual(view.model.verdict.head, "Turns over.")
        self.assertIn("turns over: the CG is above the bearing", self.said())
        self.assertEqual(self.rows()["Drop time"], "none")
        view.pages.show_tab(BENCH)
        self.settle()
        found = view.pages.benches["vest"]
        assert isinstance(found, TimingBench)
        self.assertIn("The sled turns over", found.head.text())
        self.assertFalse(found.watch.isEnabled())

    def test_the_springs_are_set_by_the_offer(self) -> None:
        self.assertIn("139 mm low", self.rows()["Arm’s height"])
        words, build = text_for("vest").offer(case_of(self.workspace.analysis()), self.workspace.system)
        self.assertIn("Set the springs up 0.18 kg, 0.9 turns", words.replace("\xa0", " "))
        self.assertAlmostEqual(vest.SUPPORT.settings(build).set_for, 7.18)

    # The stopwatch

    def bench(self, key: Qt.Key) -> TimingBench:
        view = self.window.balance
        view.elevation.setFocus()
        QTest.keyClick(view.elevation, key)
        self.settle()
        found = view.pages.benches["vest"]
        assert isinstance(found, TimingBench)
        return found

    def test_three_drops_by_space_are_taken_and_can_be_undone(self) -> None:
        bench = self.bench(Qt.Key.Key_D)
        self.assertTrue(bench.watch.hasFocus())
        time = {"now": 100.0}
        bench.clock = lambda: time["now"]
        for drop in (1.20, 1.25, 1.30):
            QTest.keyClick(bench.watch, Qt.Key.Key_Space)
            self.settle()
            time["now"] += drop
            QTest.keyClick(bench.watch, Qt.Key.Key_Space)
            self.settle()
            time["now"] += 3.0
        self.assertEqual(bench.tries["sled-long"], [1.2, 1.25, 1.3])
        self.assertIn("3 readings: mean 1.25 s", bench.head.text())
        before = self.sled.drop_time
        uncertainty = next(row.uncertainty for row in self.window.balance.model.figures if row.label == "Drop time")
        QTest.mouseClick(bench.take_it, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertTrue(before < self.sled.drop_time < 1.25)
        row = next(row for row in self.window.balance.model.figures if row.label == "Drop time, timed")
        self.assertLessEqual(row.uncertainty, uncertainty)
        self.assertIn("1.25 s from 3 tries", bench.lesson.text())
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertAlmostEqual(self.sled.drop_time, before)

    def test_a_double_press_is_no_drop(self) -> None:
        bench = self.bench(Qt.Key.Key_D)
        bench.clock = lambda: 5.0
        bench.press()
        bench.press()
        self.assertEqual(bench.tries.get("sled-long", []), [])

    def test_typed_times_and_a_read_lean(self) -> None:
        bench = self.bench(Qt.Key.Key_H)
        self.assertTrue(bench.pitch.hasFocus())
        bench.typed.setText("1.2 x")
        QTest.keyClick(bench.typed, Qt.Key.Key_Return)
        self.assertIn("“x” is not a time", refusal_of(self.window))
        bench.typed.setText("1.2 1.3 1,25")
        bench.pitch.setText("90")
        QTest.keyClick(bench.pitch, Qt.Key.Key_Return)
        self.assertIn("degrees", refusal_of(self.window))
        bench.pitch.setText("15")
        before = self.sled.lean[0]
        QTest.keyClick(bench.pitch, Qt.Key.Key_Return)
        self.settle()
        self.assertLess(self.sled.lean[0], before)
        self.assertIn("a measured angle", bench.lesson.text())
        QTest.mouseClick(bench.again, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertAlmostEqual(self.sled.lean[0], before)

    def test_a_drop_that_contradicts_the_masses_names_a_part(self) -> None:
        bench = self.bench(Qt.Key.Key_D)
        bench.typed.setText("3.4 3.4 3.4")
        bench.take()
        self.settle()
        cautions = " ".join(self.window.balance.model.cautions)
        self.assertIn("standard uncertainties from the parts’ figure", cautions)
        self.assertIn("the likeliest cause", cautions)

    def test_the_drawn_sled_falls_as_the_figures_say(self) -> None:
        bench = self.bench(Qt.Key.Key_D)
        time = {"now": 10.0}
        bench.clock = lambda: time["now"]
        bench.let_fall()
        seen = []
        for share in (0.0, 0.5, 0.999):
            time["now"] = 10.0 + share * self.sled.drop_time
            bench._tick()
            path = [item for item in bench.picture.scene.items if not isinstance(item, TextItem)][2]
            xs = [float(command[1]) for command in path.commands if len(command) > 2]
            seen.append(max(xs) - min(xs))
        # The post lies across at first and hangs in the end.
        self.assertGreater(seen[0], seen[1])
        self.assertGreater(seen[1], seen[2])
        self.assertLess(seen[2], 0.1 * seen[0])
        time["now"] += 10.0
        bench._tick()
        self.assertIsNone(bench.fell)

    def test_tries_are_each_builds_own(self) -> None:
        bench = self.bench(Qt.Key.Key_D)
        bench.tries["sled-long"] = [1.2]
        self.workspace.choose_build("sled-zoom")
        self.settle()
        self.assertEqual(bench.listed.text(), "not timed yet")


@campaign
class FromAnEmptyBook(by_keys.ByKeys):
    def test_a_sled_of_own_parts_by_keys(self) -> None:
        """Nothing from the catalogue, masses only; Enter for each part; then a plan that levels, drops and spins."""
        self.enter_kit(
            (
                ("Camera box type", "2.1"),
                ("Prime lens 50 mm", "0.8"),
                ("Camera plate", "0.2"),
                ("Sled stage", "0.5"),
                ("Sled post", "0.7"),
                ("Bearing", "0.3"),
                ("Sled base", "0.5"),
                ("Battery 98 Wh", "0.8"),
                ("Monitor 5 in", "0.3"),
            )
        )
        self.build_all()
        QTest.keyClick(self.window, NUMBER["vest"], CTRL)
        self.settle()
        self.press(Qt.Key.Key_3, ALT)
        view = self.window.balance
        self.assertFalse(vest_result(self.workspace.analysis()).bearing.usual)
        self.wait_for(lambda: not view.finder.busy)
        self.press(Qt.Key.Key_P)
        self.press(Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(view.model.verdict.head, "Hangs upright, falls in 2.5 s.", view.model.verdict.body)
        self.assertLess(max(abs(p) for p in vest_result(self.workspace.analysis()).sled.products), 1e-9)
        self.print()

    def test_a_heavy_sled_under_other_names(self) -> None:
        """A bearing called a gimbal's, a monitor called the sled's; a motor brings no cage onto the base."""
        parts = (
            ("Cinema camera", "3.1"),
            ("Zoom lens 20-70", "1.4"),
            ("Camera plate", "0.25"),
            ("Post carbon", "0.8"),
            ("Stage of the sled", "0.6"),
            ("Gimbal bearing", "0.4"),
            ("Base with rails", "0.5"),
            ("Battery V-lock", "1.1"),
            ("Sled monitor 7 in", "0.55"),
            ("Wireless video", "0.2"),
            ("Focus motor", "0.2"),
        )
        self.enter_kit(parts)
        self.build_all()
        build, book = self.workspace.build, self.workspace.book
        on = {book.name_of(p): book.name_of(build.placed(p.parent)) for p in build.parts if p.parent}
        self.assertEqual(on["Battery V-lock"], "Base with rails")
        self.assertEqual(on["Sled monitor 7 in"], "Base with rails")
        self.assertEqual(on["Gimbal bearing"], "Post carbon")
        self.assertEqual(len(build.parts), len(parts))
        QTest.keyClick(self.window, NUMBER["vest"], CTRL)
        self.settle()
        self.press(Qt.Key.Key_3, ALT)
        view = self.window.balance
        self.wait_for(lambda: not view.finder.busy)
        self.press(Qt.Key.Key_P)
        self.press(Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(view.model.verdict.head, "Hangs upright, falls in 2.5 s.")
        # All of it is guessed but the masses: it says how far that may be relied on.
        self.assertIn("The parts give it only to", view.model.verdict.body)
