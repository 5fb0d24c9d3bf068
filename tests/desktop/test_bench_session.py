"""The bench's session without its panel: scales that fail in every way, and readings that nothing is done with."""

from __future__ import annotations

import threading

from msgspec.structs import replace

from equilix.core.errors import DeviceError, EditError
from equilix.core.kit.records import Instrument
from equilix.core.measurement.bench import Setup
from equilix.desktop.views.bench_session import BenchSession, open_port
from equilix.devices.ports import ScaleReading, ScaleState
from equilix.document.edits.kit import RemoveParts
from tests.desktop.base import DemoWindowTestCase
from tests.desktop.held_scale import HeldScale


class Session(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.held = HeldScale()
        self.session = BenchSession(self.workspace, lambda _instrument: self.held)
        self.addCleanup(self.session.close)
        self.said: list[str] = []
        self.workspace.said.connect(self.said.append)
        self.session.put("part", ("motor",))
        self.scale = next(s for s in self.workspace.book.instruments if s.port)
        self.session.choose_scale(self.scale.id)

    def hear(self, *readings: ScaleReading) -> None:
        self.held.waiting.extend(readings)
        self.session.look()

    def test_a_scale_that_can_not_be_opened_says_why_and_when(self) -> None:
        self.held.broken = "The scale does not answer: check its cable."
        self.session.connect_scale()
        self.assertFalse(self.session.connected)
        self.assertEqual(self.session.problem, self.held.broken)
        self.assertRegex(self.session.lost_at, r"^\d\d:\d\d$")
        self.assertEqual(self.refusals[-1], self.held.broken)
        self.held.broken = ""
        self.session.connect_scale()
        self.assertTrue(self.session.connected)
        self.assertEqual((self.session.problem, self.session.lost_at), ("", ""))

    def test_a_scale_that_takes_no_caller_leaves_the_window_alive_and_can_be_given_up(self) -> None:
        release = threading.Event()
        self.addCleanup(release.set)
        closed = threading.Event()

        class Slow(HeldScale):
            def open(self) -> None:
                release.wait(20.0)

            def close(self) -> None:
                closed.set()

        self.held = Slow()
        said = self.stop_job()
        with self.alive():
            self.session.connect_scale()
        self.assertFalse(self.session.connected)
        self.assertEqual(said, [f"Connecting to {self.scale.name}"])
        release.set()
        self.assertTrue(closed.wait(20.0), "a port that nobody wants any more is closed when it is reached")

    def test_a_scale_read_by_eye_has_nothing_to_connect(self) -> None:
        self.session.choose_scale("eye")
        self.session.connect_scale()
        self.assertFalse(self.session.connected)
        self.assertIn("Type its readings, or enter its port", self.session.problem)

    def test_one_that_is_lost_keeps_its_last_reading_to_be_seen(self) -> None:
        self.session.connect_scale()
        self.hear(*(ScaleReading(0.1 * k, ScaleState.READING, 0.22) for k in range(40)))
        self.assertTrue(self.session.may_take)
        self.held.broken = "The scale is gone."
        self.session.look()
        self.assertFalse(self.session.connected)
        self.assertAlmostEqual(self.session.trace.value, 0.22)
        self.assertFalse(self.session.may_take)
        self.session.look()
        self.assertEqual(self.refusals.count("The scale is gone."), 1)

    def test_what_a_scale_says_of_itself(self) -> None:
        self.session.connect_scale()
        for state, words in (
            (ScaleState.OVERLOAD, f"More than {self.scale.capacity:g} kg: take it off the scale."),
            (ScaleState.BATTERY_LOW, "battery is low"),
            (ScaleState.OFF, "The scale’s battery is empty. Change it"),
        ):
            self.hear(ScaleReading(1.0, state))
            self.assertIn(words, self.session.problem)
        self.hear(ScaleReading(2.0, ScaleState.OVERLOAD))
        self.assertIsNone(self.session.trace.value)
        self.hear(ScaleReading(3.0, ScaleState.READING, 1.0))
        self.assertEqual(self.session.problem, "")

    def test_taking_waits_for_a_scale_and_for_rest(self) -> None:
        self.session.take()
        self.assertEqual(self.said[-1], "No scale is connected. Type the reading.")
        self.session.connect_scale()
        self.hear(*(ScaleReading(0.1 * k, ScaleState.READING, 0.2 + 0.05 * (k % 2)) for k in range(40)))
        self.session.take()
        self.assertEqual(self.said[-1], "Wait: the reading still moves.")
        self.assertEqual(self.session.procedure.readings, {})

    def test_a_typed_reading_that_is_none_is_refused_and_after_the_last_step_none_is_wanted(self) -> None:
        with self.assertRaisesRegex(EditError, '"heavy" is not a mass'):
            self.session.type_reading("heavy")
        self.session.type_reading("225 g")
        self.assertIsNone(self.session.procedure.current)
        self.session.type_reading("230 g")
        self.session.take()
        self.session.repeat("no such step")
        self.assertEqual(list(self.session.procedure.readings.values()), [0.225])
        self.session.repeat()
        self.assertEqual(self.session.procedure.readings, {})

    def test_nothing_on_the_bench_stores_nothing(self) -> None:
        self.session.clear()
        before = self.workspace.book
        self.assertFalse(self.session.store())
        self.session.type_reading("1 kg")
        self.session.repeat()
        self.session.set_layout(tilt=0.2)
        self.assertIs(self.workspace.book, before)
        self.assertEqual(self.session.choice, ("", ()))

    def test_a_weighed_whole_goes_along_to_another_set_up(self) -> None:
        self.session.type_reading("0.225")
        self.session.choose_setup(Setup.FORE_AFT)
        self.assertEqual(self.session.procedure.readings, {"whole": 0.225})
        self.session.choose_setup(Setup.FORE_AFT)
        self.assertEqual(self.session.procedure.readings, {"whole": 0.225})

    def test_several_loose_parts_can_only_be_weighed_whole(self) -> None:
        self.session.choose_setup(Setup.FORE_AFT)
        self.session.put("parts", ("motor", "focus"))
        self.assertIs(self.session.setup, Setup.WHOLE)
        self.assertTrue(self.session.taken.loose)

    def test_a_part_that_leaves_the_book_leaves_the_bench_also_half_way(self) -> None:
        self.session.put("part", ("mic",))
        self.session.type_reading("0.13")
        self.workspace.apply(RemoveParts(("mic",)))
        self.assertIsNone(self.session.procedure)
        self.workspace.undo()
        self.session.put("part", ("mic",))
        self.workspace.apply(RemoveParts(("mic",)))
        self.assertEqual(self.session.choice, ("", ()))

    def test_the_rig_without_a_build_can_not_lie_there(self) -> None:
        self.session.put("rig", tuple(sorted({p.part_id for p in self.workspace.build.parts})))
        self.assertIsNotNone(self.session.procedure)
        self.workspace.open_book(replace(self.workspace.book, builds=()), None)
        self.assertIsNone(self.session.procedure)

    def test_a_stand_in_that_dies_while_it_is_loaded_says_so(self) -> None:
        class Dying(HeldScale):
            def put(self, mass: float) -> None:
                if self.broken:
                    raise DeviceError(self.broken)
                self.loaded = mass

        self.held = Dying()
        self.session.connect_scale()
        self.assertGreater(self.held.loaded, 0.0)
        self.held.broken = "The simulated scale has ended."
        self.session.put("part", ("focus",))
        self.assertEqual(self.session.problem, "The simulated scale has ended.")

    def test_ports_are_made_for_stand_ins_and_for_lines(self) -> None:
        from equilix.devices.line_scale import LineScale
        from equilix.devices.simulated.launch import SimulatedScale

        self.assertIsInstance(open_port(Instrument("a", "A", port="simulated")), SimulatedScale)
        self.assertIsInstance(open_port(Instrument("b", "B", port="socket://127.0.0.1:4001")), LineScale)
