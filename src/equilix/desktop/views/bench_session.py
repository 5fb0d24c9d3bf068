"""What lies on the bench and the scale that is read: lives as long as the window, whatever room is open."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from equilix.core.errors import DeviceError, MeasurementError
from equilix.core.kit.records import Instrument
from equilix.core.measurement.bench import Layout, Procedure, Setup, Unit, suggested_layout
from equilix.core.measurement.steady import Sample, Trace, trace_of
from equilix.core.measurement.subjects import Selection
from equilix.desktop.jobs.job import Progress
from equilix.desktop.jobs.waiting import run_job
from equilix.desktop.workspace import Workspace
from equilix.devices.ports import ScalePort, ScaleReading, ScaleState
from equilix.devices.simulated.scale_model import ScaleModel
from equilix.document.weighing import stored
from equilix.io.files import Stopped
from equilix.present.weigh.bench_drawing import BenchPlacement
from equilix.present.weigh.bench_subject import lay
from equilix.present.weigh.bench_view import far_words, parse_reading

#: The scale that is there when the book has none: read by eye, with the step of a common luggage scale.
BY_EYE = Instrument("eye", "Scale you read by eye")
_POLL = 100  # ms
#: Set-ups that parts in a heap can be put through.
LOOSE_SETUPS = (Setup.WHOLE, Setup.TARE, Setup.DIFFERENCE)


def open_port(instrument: Instrument) -> ScalePort:
    """Return the port of a scale, not opened yet. DeviceError if it has none that can be used."""
    if instrument.port == "simulated":
        from equilix.devices.simulated.launch import SimulatedScale

        return SimulatedScale(instrument)
    from equilix.devices.line_scale import LineScale

    return LineScale(instrument.port)


def _reach(port: ScalePort, go_on: Progress) -> None:
    port.open()
    if not go_on(1.0):
        port.close()  # nobody waits for it any more


class BenchSession(QObject):
    """`changed` follows every change of set-up or readings, `sampled` every look at the scale."""

    changed = Signal()
    sampled = Signal()

    def __init__(self, workspace: Workspace, ports: Callable[[Instrument], ScalePort] = open_port) -> None:
        super().__init__()
        self.workspace = workspace
        self._ports = ports
        self._choice: tuple[str, tuple[str, ...]] = ("", ())
        self.taken: Selection | None = None
        self.laid: tuple[BenchPlacement, ...] = ()
        self.procedure: Procedure | None = None
        self.port: ScalePort | None = None
        self.trace = Trace(BY_EYE.step)
        self.problem, self.overloaded = "", False
        self.lost_at = ""
        self.shown_still = False
        self._scale_id = ""
        self._setup = Setup.WHOLE
        self._layouts: dict[Setup, Layout] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(_POLL)
        self._timer.timeout.connect(self.look)
        workspace.book_changed.connect(self._follow_book)

    # Set-up

    @property
    def scale(self) -> Instrument:
        """The scale in use; the first of the book's until another is chosen."""
        book = self.workspace.book
        if self._scale_id == "eye":
            return BY_EYE
        return book.scales.get(self._scale_id) or next(iter(book.instruments), BY_EYE)

    @property
    def setup(self) -> Setup:
        return self._setup

    @property
    def connected(self) -> bool:
        return self.port is not None or self.shown_still

    def put(self, key: str, part_ids: tuple[str, ...]) -> None:
        """Lay parts of the kit on the bench, by a `BenchChoice` key; readings of what lay there are dropped."""
        self._choice = (key, part_ids)
        self._layouts = {}
        self._lay()

    def clear(self) -> None:
        """Take everything off the bench."""
        self._choice = ("", ())
        self.taken, self.laid = None, ()
        self._begin()

    @property
    def choice(self) -> tuple[str, tuple[str, ...]]:
        """The key and the parts of what lies there; an empty key for nothing."""
        return self._choice

    def _lay(self) -> None:
        key, part_ids = self._choice
        book = self.workspace.book
        try:
            parts = [book.parts[part_id] for part_id in part_ids]
            self.taken, self.laid = lay(key, parts, self.workspace.analysis())
        except MeasurementError as error:
            self.workspace.refused.emit(str(error))
            self.clear()
            return
        if self.taken.loose and self._setup not in LOOSE_SETUPS:
            self._setup = Setup.WHOLE
        self._begin()

    def choose_setup(self, setup: Setup) -> None:
        """Take another way to measure; a weighed whole goes along."""
        if setup is self._setup:
            return
        whole = self.procedure.readings.get("whole") if self.procedure is not None else None
        self._setup = setup
        self._begin()
        if whole is not None and self.procedure is not None and any(s.key == "whole" for s in self.procedure.steps):
            self.procedure = self.procedure.with_reading("whole", whole)
            self._settle()

    def choose_scale(self, scale_id: str) -> None:
        """Take another scale; "eye" for one that is read by eye."""
        if scale_id == self._scale_id:
            return
        self.disconnect_scale()
        self._scale_id = scale_id
        self._begin()

    def set_layout(self, **fields: object) -> None:
        """Change distances or the tilt; the readings stay."""
        if self.procedure is None:
            return
        layout = replace(self.procedure.layout, **fields)
        self._layouts[self._setup] = layout
        hooks = len(layout.hooks) != len(self.procedure.layout.hooks)
        readings = {} if hooks else self.procedure.readings
        self.procedure = replace(self.procedure, layout=layout, readings=readings)
        self._settle()

    def _begin(self) -> None:
        if self.taken is None:
            self.procedure = None
        else:
            subject = self.taken.subject
            layout = self._layouts.get(self._setup) or suggested_layout(self._setup, subject)
            self.procedure = Procedure(self._setup, subject, self.scale, layout)
        self._settle()

    def _follow_book(self) -> None:
        """Take what lies there as the book has it now, or clear the bench if it is gone."""
        key, part_ids = self._choice
        book = self.workspace.book
        if not key or (self.procedure is not None and self.procedure.readings):
            ids = self.taken.parts if self.taken is not None else ()
            if any(part.id not in book.parts for part in ids):
                self.clear()
            return
        if any(part_id not in book.parts for part_id in part_ids) or (key == "rig" and self.workspace.build is None):
            self.clear()
            return
        self._lay()

    # Scale

    def connect_scale(self) -> None:
        """Reach the scale; say why if it can't be."""
        self.disconnect_scale()
        if not self.scale.port:
            self._fail("You read this scale by eye. Type its readings, or enter its port.")
            return
        try:
            port = self._ports(self.scale)
            run_job(f"Connecting to {self.scale.name}", partial(_reach, port))
        except Stopped:
            self.changed.emit()
            return
        except DeviceError as error:
            self._fail(str(error))
            return
        self.port, self.problem, self.lost_at = port, "", ""
        self._timer.start()
        self._settle()

    def disconnect_scale(self) -> None:
        """Let go of the scale."""
        self._timer.stop()
        if self.port is not None:
            self.port.close()
            self.port = None
        self.problem = self.lost_at = ""
        self.trace = Trace(self.scale.step)
        self.changed.emit()

    def look(self) -> None:
        """Take in what the scale has said."""
        if self.port is None:
            return
        try:
            readings = self.port.poll()
        except DeviceError as error:
            self._timer.stop()
            self.port.close()
            self.port = None
            self._fail(str(error))
            return
        for reading in readings:
            self._hear(reading)
        self.sampled.emit()

    def _hear(self, reading: ScaleReading) -> None:
        scale = self.scale
        if reading.state is ScaleState.READING and reading.mass is not None:
            self.trace = self.trace.with_sample(Sample(reading.time, reading.mass))
            if self.overloaded:
                self.problem, self.overloaded = "", False
        elif reading.state is ScaleState.OVERLOAD:
            self.problem, self.overloaded = f"More than {scale.capacity:g} kg: take it off the scale.", True
            self.trace = Trace(scale.step)
        elif reading.state is ScaleState.BATTERY_LOW:
            self.problem = "The scale’s battery is low."
        else:
            self.problem = "The scale’s battery is empty. Change it."
            self.trace = Trace(scale.step)

    def _fail(self, text: str) -> None:
        # The last reading stays to be seen, with its time.
        self.problem = text
        self.lost_at = time.strftime("%H:%M")
        self.workspace.refused.emit(text)
        self.changed.emit()

    # Readings

    @property
    def may_take(self) -> bool:
        """Whether the scale shows a steady reading for a step that waits for one."""
        step = self.procedure.current if self.procedure is not None else None
        return step is not None and step.unit is Unit.MASS and self.connected and self.trace.steady

    def take(self) -> None:
        """Take the scale's reading once it is steady; say why not otherwise."""
        value = self.trace.value
        if not self.may_take or value is None:
            if self.procedure is not None and self.procedure.current is None:
                return
            words = "Wait: the reading still moves." if self.connected else "No scale is connected. Type the reading."
            self.workspace.said.emit(words)
            return
        self._accept(value)

    def type_reading(self, text: str) -> None:
        """Take a typed reading for the present step; EditError or MeasurementError if it can't be one."""
        step = self.procedure.current if self.procedure is not None else None
        if self.procedure is None or step is None:
            return
        value = parse_reading(step, text, self.workspace.system)
        self.procedure = self.procedure.with_reading(step.key, value)
        self._settle()

    @property
    def far_words(self) -> str:
        """What to say of a mass that came out far from what was believed, "" if it did not."""
        if self.procedure is None or self.taken is None:
            return ""
        return far_words(self.procedure, self.taken, self.workspace.system)

    def _accept(self, value: float) -> bool:
        step = self.procedure.current if self.procedure is not None else None
        if self.procedure is None or step is None:
            return False
        try:
            self.procedure = self.procedure.with_reading(step.key, value)
        except MeasurementError as error:
            self.workspace.refused.emit(str(error))
            return False
        self._settle()
        return True

    def repeat(self, key: str = "") -> None:
        """Drop the reading taken last, or the one of a step, to take it again."""
        if self.procedure is None:
            return
        if not key:
            self.procedure = self.procedure.without_last()
        elif key in self.procedure.readings:
            rest = {k: v for k, v in self.procedure.readings.items() if k != key}
            self.procedure = replace(self.procedure, readings=rest)
        self._settle()

    def store(self) -> bool:
        """Store what came out; say why if it can't be. Return whether it could."""
        if self.procedure is None or self.taken is None or not self.procedure.enough:
            return False
        w = self.workspace
        try:
            edit = stored(w.book, self.procedure, self.taken, w.date, w.by)
        except MeasurementError as error:
            w.refused.emit(str(error))
            return False
        taken = self.taken
        self.procedure = replace(self.procedure, readings={})
        if not w.apply(edit):
            return False
        more = "" if taken.single is not None else " Weighings shows what it means for each part."
        w.said.emit(f"Stored {taken.subject.name}.{more}")
        self._settle()
        return True

    def _settle(self) -> None:
        """Start a new trace and, on a stand-in scale, hang what the present step asks for."""
        self.trace = Trace(self.scale.step)
        self.shown_still = False
        put = getattr(self.port, "put", None)
        if put is not None and self.procedure is not None and self.taken is not None:
            from equilix.devices.simulated.truth import simulated_load

            step = self.procedure.current
            try:
                put(simulated_load(self.procedure, self.taken, step.key) if step is not None else 0.0)
            except DeviceError as error:
                self._fail(str(error))
        self.changed.emit()

    def close(self) -> None:
        """Let go of everything; for when the window closes."""
        self._timer.stop()
        if self.port is not None:
            self.port.close()
            self.port = None


def show_still(session: BenchSession, mass: float) -> None:
    """Show a scale that has swung in to `mass` (kg): for pictures, made by the stand-in's own model."""
    model = ScaleModel(session.scale.step, session.scale.capacity)
    model.put(mass, 0.0)
    session.trace = trace_of(session.scale.step, (Sample(0.1 * i, model.reading(0.1 * i)) for i in range(64)))
    session.shown_still = True
    session.changed.emit()
