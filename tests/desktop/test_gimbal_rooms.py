"""A gimbal in the real window: scales by mouse and keys, ways, the coach by hand and with its instrument, own parts."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from equilix.core.analyse import analyse
from equilix.core.keys import KEYS
from equilix.core.measurement.coach import Action
from equilix.core.statics.stages import peak_torque
from equilix.desktop.looks.theme import text_scale
from equilix.desktop.views.rooms import BALANCE
from equilix.desktop.widgets.balance_pages import BENCH, OWN
from equilix.devices.gimbal_lines import Effort, Hello
from equilix.document.edits.builds import ChangeBuild
from equilix.present.drawing.scene import TextItem
from equilix.present.sheet import sheet_model
from equilix.present.words import slider_of
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.gimbal.mechanics import SUPPORT as GIMBAL
from equilix.supports.gimbal.mechanics import order_of_work
from equilix.supports.gimbal.window import CoachBench
from tests.campaigns import campaign
from tests.desktop import by_keys
from tests.desktop.base import DemoWindowTestCase
from tests.desktop.forms import fill
from tests.rigs.results import gimbal_result

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
NUMBER = {key: getattr(Qt.Key, f"Key_{k}") for k, key in enumerate(KEYS, 1)}


@campaign
class OnTheDemo(DemoWindowTestCase):
    build = "gimbal-light"

    def setUp(self) -> None:
        super().setUp()
        self.workspace.choose_build(self.build)
        self.window.go(BALANCE)
        self.settle()

    def offset(self, name: str, k: int) -> float:
        return gimbal_result(self.workspace.analysis()).stage(name).beside[k]

    def test_a_scale_is_dragged_and_all_figures_follow(self) -> None:
        view = self.window.balance
        scale = next(s for s in view.drawing.scales if s.placed_id == "plate")
        before = self.offset("tilt", 0)
        zoom = text_scale()
        start = QPoint(round(scale.x(scale.setting) * zoom), round(scale.y * zoom))
        end = QPoint(round(scale.x(-0.045) * zoom), start.y())
        QTest.mousePress(view.elevation, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(view.elevation, QPoint((start.x() + end.x()) // 2, start.y()))
        QTest.mouseMove(view.elevation, end)
        QTest.mouseRelease(view.elevation, Qt.MouseButton.LeftButton, pos=end)
        self.settle()
        self.assertLess(abs(self.offset("tilt", 0)), abs(before) / 3.0)
        self.assertIn("nose", view.model.verdict.head.casefold() + "nose")
        rows = {row.label: row.value for row in view.model.figures}
        self.assertIn("mm", rows["Tilt, fore-aft"])
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertAlmostEqual(self.offset("tilt", 0), before)

    def test_keys_move_a_scale_and_a_mark_can_be_typed(self) -> None:
        view = self.window.balance
        self.workspace.select("shelf")
        self.settle()
        before = self.workspace.build.placed("shelf").setting
        QTest.keyClick(view.elevation, Qt.Key.Key_Right)
        self.settle()
        self.assertAlmostEqual(self.workspace.build.placed("shelf").setting, before + 0.001)
        view.slides.set_typed("39 mm")
        self.assertAlmostEqual(self.workspace.build.placed("shelf").setting, 0.007)

    def test_the_first_way_by_keys_balances_all_axes_and_the_steps_are_done(self) -> None:
        view = self.window.balance
        self.wait_for(lambda: not view.finder.busy)
        self.assertEqual(view.ways[0].title, "Set the 4 slides")
        QTest.keyClick(view.elevation, Qt.Key.Key_P)
        self.settle()
        QTest.keyClick(view.elevation, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(view.model.verdict.head, "Balanced as far as the guesses go.")
        self.assertTrue(all(abs(step.to - step.now) < 1e-9 for step in order_of_work(self.workspace.analysis())))
        said = [item.text for item in view.drawing.scene.items if isinstance(item, TextItem)]
        self.assertEqual(said.count("already there"), 4)
        self.assertIn("settled", self.window.rail.marks.values() if hasattr(self.window.rail, "marks") else ["settled"])

    def test_a_roll_that_is_off_is_not_level_enough_where_tilt_is(self) -> None:
        build = self.workspace.build
        steps = [step for step in order_of_work(self.workspace.analysis()) if step.placed_id]
        for step in steps:
            build = build.with_placed(replace(build.placed(step.placed_id), setting=step.to))
        side = build.placed(next(step.placed_id for step in steps if step.stage == "roll"))
        off = build.with_placed(replace(side, setting=side.setting + 0.008))
        self.workspace.apply(ChangeBuild(off, "roll off"))
        self.settle()
        self.assertTrue(self.ways())
        self.assertEqual(self.window.balance.finder.note, "")
        self.workspace.apply(ChangeBuild(build, "all on their axes"))
        self.settle()
        self.wait_for(lambda: not self.window.balance.finder.busy)
        self.assertEqual(self.window.balance.finder.note, "It counts as level. No way is needed.")

    def test_its_page_its_form_and_its_sheet(self) -> None:
        view = self.window.balance
        view.pages.show_tab(OWN)
        self.settle()
        said = [item.text for item in view.pages.own.scene.items if isinstance(item, TextItem)]
        for motor in ("Tilt motor", "Roll motor", "Pan motor"):
            self.assertIn(motor, said)
        with fill({"most": "1.5 kg", "perfect": "yes", "cables": "2"}, 2):
            self.window.acts._edit_build()
        self.settle()
        found = GIMBAL.settings(self.workspace.build)
        self.assertEqual((found.most, found.perfect, found.way), (1.5, 1.0, "briefcase"))
        self.assertIn("2 cables cross an axis", " ".join(view.model.cautions))
        self.assertIn("Its maker allows 1.50 kg", " ".join(view.model.cautions))
        w = self.workspace
        verdict = sheet_model(w.book, w.analysis(), w.operator, w.system).balance.verdict
        self.assertTrue(verdict.leads)
        self.assertEqual(verdict.matter, "The camera is over the gimbal’s payload.")

    def test_the_full_build_says_what_swings_in_and_what_to_leave_off(self) -> None:
        self.workspace.choose_build("gimbal-full")
        self.settle()
        view = self.window.balance
        self.assertIn("Video sender hits the pan arm", " ".join(view.model.cautions))
        self.wait_for(lambda: not view.finder.busy)
        # Without it the camera is set so that the sender swings in deeper by a sixth: that is said.
        title = next(way.said for way in view.ways if way.title.startswith("Leave off the matte box"))
        self.assertTrue(
            title.startswith("Leave off the matte box and set plate slide back 11 mm and 2 more; but"), title
        )

    def test_light_and_full_side_by_side(self) -> None:
        texts = " ".join(one.text() for one in self.window.balance.panel.findChildren(QLabel)).replace("\xa0", " ")
        self.assertIn("E · Full gimbal carries 0.88 kg more: with cage, zoom 35–70, matte box, video sender", texts)
        self.assertIn("without prime 50 mm", texts)
        self.assertIn("the busiest motor holds 75 %, here 0 %", texts)

    def test_what_is_said_to_move_moves_that_way(self) -> None:
        """Each scale set on by a centimetre, everything placed anew: the camera has gone the way that is said."""
        analysis = self.workspace.analysis()
        build, kit = analysis.build, self.workspace.book.parts
        sensor, frame = analysis.assembly.sensor, 0
        words = {"forward": (0, 1), "back": (0, -1), "left": (1, 1), "right": (1, -1), "up": (2, 1), "down": (2, -1)}
        for step in order_of_work(analysis):
            if not step.placed_id:
                continue
            moved = build.with_placed(replace(build.placed(step.placed_id), setting=step.now + 0.01))
            after = analyse(moved, kit, self.workspace.operator)
            between = [one.positions.origin[sensor] - one.positions.origin[frame] for one in (analysis, after)]
            axis, sign = words[slider_of(analysis, step.placed_id).way(0.01)]
            self.assertAlmostEqual(sign * float((between[1] - between[0])[axis]), 0.01, places=9)

    # The coach

    def bench(self) -> CoachBench:
        view = self.window.balance
        QTest.mouseClick(view.pages.tabs.buttons[BENCH], Qt.MouseButton.LeftButton)
        self.settle()
        found = view.pages.benches["gimbal"]
        assert isinstance(found, CoachBench)
        return found

    def test_by_hand_to_the_truth_that_the_masses_say(self) -> None:
        """Somebody releases the demo's camera and clicks what its true torques make it do; nothing else is told."""
        bench = self.bench()
        for _ in range(80):
            if bench.session.finished:
                break
            if bench.advice.do is Action.MOVE:
                QTest.mouseClick(bench.done, Qt.MouseButton.LeftButton)
            else:
                name = bench.session.axis.name
                stage = gimbal_result(self.workspace.analysis()).stage(name)
                a, b = (value * stage.weight * (1.0 if name == "tilt" else -1.0) for value in stage.beside)
                if name == "roll":
                    b = -b
                torque = bench.advice.way[0] * a + bench.advice.way[1] * b
                answer = 0 if torque > 0.012 else 1 if torque < -0.012 else 2
                QTest.mouseClick(bench.answers[answer], Qt.MouseButton.LeftButton)
            self.settle()
        self.assertTrue(bench.session.finished)
        self.assertEqual(bench.head.text(), "Balanced on all axes.")
        settings = gimbal.SUPPORT.settings(self.workspace.build)
        for stage in gimbal_result(self.workspace.analysis()).stages:
            self.assertLess(peak_torque(stage), 1.3 * settings.window(stage.name), stage.name)
        # What it found stands in the figures, and can be undone like anything else.
        self.assertEqual([one.stage for one in settings.coached.found], ["tilt", "tilt", "roll", "pan"])
        self.assertIn("as the coach found", self.window.balance.model.verdict.body)
        # Another day, with a session that has seen nothing: one look does not forget it.
        bench.sessions.clear()
        bench.refresh()
        QTest.mouseClick(bench.answers[2], Qt.MouseButton.LeftButton)
        self.settle()
        self.assertEqual(gimbal.SUPPORT.settings(self.workspace.build).coached, settings.coached)
        QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
        self.settle()
        before = gimbal.SUPPORT.settings(self.workspace.build).coached
        self.assertNotEqual(before, settings.coached)

    def test_answers_belong_to_their_questions(self) -> None:
        """What answers an older question, another axis or no motor at all is not kept; asked in words to look again."""

        class Told:
            """A gimbal that says what it is told to say."""

            def __init__(self) -> None:
                self.asked: list[str] = []
                self.says: list[object] = []

            def open(self) -> None: ...

            def close(self) -> None: ...

            def say(self, line: str) -> None:
                self.asked.append(line)

            def poll(self) -> tuple[Any, ...]:
                said, self.says = tuple(self.says), []
                return said

        bench, told = self.bench(), Told()
        bench.link.at = lambda _port: told
        bench.port.setFocus()
        QTest.keyClicks(bench.port, "socket://somewhere:1")
        QTest.keyClick(bench.port, Qt.Key.Key_Return)
        self.wait_for(lambda: bench.link.gimbal is told)
        stale, own = Effort("tilt", 0.5), Effort("tilt", 0.1)
        QTest.mouseClick(bench.read, Qt.MouseButton.LeftButton)
        told.says = [stale, stale, Hello(0.01), Effort("pan", 0.4), own, Effort("roll", 0.4), Effort("tilt", 0.2)]
        self.wait_for(lambda: not bench.busy)
        (look,) = bench.session.looks["tilt"]
        self.assertAlmostEqual(look.effort, 0.15)
        self.assertIn("hello", told.asked)
        QTest.mouseClick(bench.read, Qt.MouseButton.LeftButton)
        told.says = [Hello(0.01), Effort("tilt", 9999.9)]
        self.wait_for(lambda: not bench.busy)
        self.assertEqual(len(bench.session.looks["tilt"]), 1)
        self.assertIn("9999.90 N·m on tilt, whose motor is rated for", self.refusals.pop())
        self.refusals.clear()
        QTest.mouseClick(bench.connect_button, Qt.MouseButton.LeftButton)
        self.assertIsNone(bench.link.gimbal)

    def test_what_contradicts_is_named_and_taken_back(self) -> None:
        bench = self.bench()
        session = bench.session
        for way, answer in (((1.0, 0.0), 0), ((1.0, 0.0), 0), ((1.0, 0.0), 0), ((1.0, 0.0), 1)):
            bench.advice = type(bench.advice)(Action.TEST, way)
            bench.answer(answer)
            self.settle()
        self.assertIn("Observation 4 contradicts the others", bench.warning.text())
        bench.take_back()
        self.settle()
        self.assertEqual(len(session.looks["tilt"]), 3)
        self.assertEqual(bench.warning.text(), "")
        bench.start_over()
        self.assertEqual(bench.session.looks, {})

    def test_with_the_simulated_gimbal_over_its_socket(self) -> None:
        bench = self.bench()
        bench.port.setText("simulated")
        QTest.mouseClick(bench.connect_button, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertIsNotNone(bench.link.gimbal)
        for _ in range(60):
            if bench.session.finished:
                break
            if bench.advice.do is Action.MOVE:
                QTest.mouseClick(bench.done, Qt.MouseButton.LeftButton)
                self.settle()
            else:
                QTest.mouseClick(bench.read, Qt.MouseButton.LeftButton)
                self.wait_for(lambda: not bench.busy)
        self.assertEqual(bench.head.text(), "Balanced on all axes.")
        self.assertLessEqual(bench.session.moves, 8)
        # Pulled out: one sentence, and what was seen stays.
        seen = {name: list(looks) for name, looks in bench.session.looks.items()}
        bench.link.gimbal.say("unplug")
        self.wait_for(lambda: bench.link.gimbal is None)
        self.assertIn("The gimbal was unplugged", self.refusals[-1])
        self.assertEqual(bench.session.looks, seen)
        self.refusals.clear()


class FromAnEmptyBook(by_keys.ByKeys):
    def test_a_gimbal_and_a_camera_of_own_parts_by_keys(self) -> None:
        """Nothing from the catalogue, masses only; every joint is said, three are axes; then a plan that balances."""
        self.enter_kit(
            (
                ("Camera box type", "1.3"),
                ("Prime lens 50 mm", "0.7"),
                ("Gimbal plate", "0.12"),
                ("Gimbal shelf", "0.15"),
                ("Tilt rail", "0.2"),
                ("Tilt arm", "0.4"),
                ("Roll arm", "0.3"),
                ("Roll motor block", "0.5"),
                ("Pan arm", "0.4"),
                ("Gimbal frame", "0.9"),
            )
        )
        joints = {
            "Gimbal plate": ("Camera box type", "under", "slides f", "60 mm", "", "", ""),
            "Gimbal shelf": ("Gimbal plate", "under", "slides a", "30 mm", "", "", ""),
            "Tilt rail": ("Gimbal shelf", "left", "slides u", "45 mm", "", "80 mm", ""),
            "Tilt arm": ("Tilt rail", "left", "gimbal tilt", "", "", "20 mm", ""),
            "Roll arm": ("Tilt arm", "behind", "slides a", "60 mm", "-70 mm", "", "-60 mm"),
            "Roll motor block": ("Roll arm", "behind", "gimbal roll", "", "-10 mm", "", ""),
            "Pan arm": ("Roll motor block", "on top", "slides f", "90 mm", "", "90 mm", ""),
            "Gimbal frame": ("Pan arm", "on top", "gimbal pan", "", "", "", "110 mm"),
        }

        def joined(dialog: Any) -> None:
            holder, face, moves, reach, left, up, ahead = joints[dialog.part.name]
            if not dialog.own.isChecked():
                self.press(Qt.Key.Key_Down)
            self.assertTrue(dialog.own.isChecked())
            dialog.holder.setCurrentIndex(dialog.holder.findText(holder))
            for box, words in ((dialog.face, face), (dialog.moves, moves)):
                box.setFocus()
                self.press(Qt.Key.Key_Home)
                for _ in range(box.count()):
                    if box.currentText().startswith(words):
                        break
                    self.press(Qt.Key.Key_Down)
                self.assertTrue(box.currentText().startswith(words), box.currentText())
            fields = (dialog.reach, *dialog.shift)
            for field, text in zip(fields, (reach, ahead, left, up), strict=True):
                if text:
                    field.setFocus()
                    field.selectAll()
                    self.type(text)

        self.press(Qt.Key.Key_2, ALT)
        self.press(Qt.Key.Key_Return)
        for _ in range(30):
            if self.workspace.build is not None and len(self.workspace.build.parts) == 10:
                break
            before = len(self.workspace.build.parts) if self.workspace.build is not None else 0
            self.next_part(joined, elsewhere=True)
            self.assertGreater(len(self.workspace.build.parts), before, self.window.build.tray.note.text())
        # The bag is one of a gimbal: so is the build that was begun.
        self.assertEqual(self.workspace.build.support, "gimbal")
        self.press(Qt.Key.Key_3, ALT)
        view = self.window.balance
        self.assertFalse(gimbal_result(self.workspace.analysis()).usual)
        self.assertEqual(
            [stage.name for stage in gimbal_result(self.workspace.analysis()).stages], ["tilt", "roll", "pan"]
        )
        self.wait_for(lambda: not view.finder.busy)
        self.press(Qt.Key.Key_P)
        self.press(Qt.Key.Key_Return)
        self.settle()
        # Its masses are typed, its CGs are guessed: it says so.
        self.assertEqual(view.model.verdict.head, "Balanced as far as the guesses go.", view.model.verdict.body)
        self.print()
