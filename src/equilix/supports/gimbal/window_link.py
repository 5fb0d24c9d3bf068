"""A gimbal that can be read, at a port or as a stand-in: its motor is read with the rig held from either side."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial
from typing import Protocol

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from equilix.core.errors import DeviceError
from equilix.desktop.jobs.job import Progress
from equilix.desktop.jobs.waiting import run_job
from equilix.devices.gimbal_lines import Effort, Hello, Said
from equilix.io.files import Stopped
from equilix.present.units import number

#: ms between two looks at what the gimbal said, and s that an answer may take.
_LOOK, _PATIENCE = 50, 5.0
#: rad: from so far to either side an attitude is approached, so that friction cancels.
_APPROACH = math.radians(5.0)
#: N m: how a gimbal's readings scatter until it says so itself.
_NOISE = 0.02
#: Of its rating: a motor holds no more, so a reading beyond is none.
_HOLDS = 2.0
#: Where a typed port is no port: the stand-in.
SIMULATED = "simulated"


class Gimbal(Protocol):
    """A gimbal that can be read."""

    def open(self) -> None: ...

    def poll(self) -> tuple[Said, ...]: ...

    def say(self, line: str) -> None: ...

    def close(self) -> None: ...


class GimbalLink(QObject):
    """`answered` brings the way that was asked, the mean effort (N m) and its noise; `lost`, `refused` say why not."""

    answered = Signal(object, float, float)
    lost = Signal(str)
    refused = Signal(str)

    def __init__(self, parent: QObject, at: Callable[[str], Gimbal] | None = None) -> None:
        super().__init__(parent)
        self.gimbal: Gimbal | None = None
        #: What makes the gimbal at a port.
        self.at = at or gimbal_at
        #: The way that is asked about, None for none.
        self.asked: tuple[float, float] | None = None
        self._axis, self._rated = "", 0.0
        self._noise = _NOISE
        self._efforts: list[float] = []
        self._greeted = False
        self._waited = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK)
        self._timer.timeout.connect(self._listen)

    @property
    def connected(self) -> bool:
        return self.gimbal is not None

    def reach(self, port: str, parent: QWidget) -> bool:
        """Reach the gimbal at `port`; False if the user stopped it. DeviceError where it can't be reached."""
        gimbal = self.at(port)
        try:
            run_job(f"Reaching the gimbal at {port}", partial(_reach, gimbal), parent)
        except Stopped:
            return False
        self.gimbal = gimbal
        self._timer.start()
        return True

    def let_go(self) -> None:
        self._timer.stop()
        self.asked = None
        if self.gimbal is not None:
            self.gimbal.close()
            self.gimbal = None

    def _lose(self, error: DeviceError) -> None:
        self.let_go()
        self.lost.emit(str(error))

    def ask(self, axis: str, angle: float, way: tuple[float, float], rated: float) -> None:
        """Bring the gimbal to `angle` (rad) on an axis from either side, and read its motor, `rated` (N m), there."""
        if self.gimbal is None or self.asked is not None:
            return
        self.asked, self._axis, self._rated = way, axis, rated
        self._efforts, self._waited = [], 0.0
        # Answers come in the order of the questions: what comes before this greeting answers an older one.
        self._greeted = False
        self.say("hello")
        for side in (-1.0, 1.0):
            for at in (angle + side * _APPROACH, angle):
                held = {"tilt": (at, 0.0, 0.0, 0.0), "roll": (0.0, at, 0.0, 0.0), "pan": (0.0, 0.0, 0.0, at)}[axis]
                self.say("hold " + " ".join(f"{math.degrees(v):.2f}" for v in held))
            self.say(f"effort {axis}")

    def say(self, line: str) -> None:
        """Send a line."""
        if self.gimbal is not None:
            try:
                self.gimbal.say(line)
            except DeviceError as error:
                self._lose(error)

    def _listen(self) -> None:
        if self.gimbal is None:
            return
        try:
            said = self.gimbal.poll()
        except DeviceError as error:
            self._lose(error)
            return
        for one in said:
            if isinstance(one, Hello):
                self._noise = max(one.noise, 1e-4)
                self._greeted, self._efforts = True, []
            elif isinstance(one, Effort) and self.asked is not None and self._greeted:
                self._hear(one)
        if self.asked is None:
            return
        self._waited += _LOOK / 1000.0
        if len(self._efforts) >= 2:
            way, self.asked = self.asked, None
            self.answered.emit(way, sum(self._efforts) / len(self._efforts), self._noise / math.sqrt(2.0))
        elif self._waited > _PATIENCE:
            self.asked = None
            self.refused.emit("The gimbal did not answer. Read the motor again.")

    def _hear(self, effort: Effort) -> None:
        """Keep an effort that answers the question; one that no motor can hold ends it."""
        if effort.axis != self._axis:
            return
        if abs(effort.torque) <= _HOLDS * self._rated:
            self._efforts.append(effort.torque)
            return
        self.asked = None
        self.refused.emit(
            f"The gimbal says {number(effort.torque, 2)} N·m on {effort.axis}, whose motor is rated for"
            f" {number(self._rated, 2)}: read it again, or enter the motor’s rating."
        )


def gimbal_at(port: str) -> Gimbal:
    if port == SIMULATED:
        from equilix.devices.simulated.gimbal_launch import SimulatedGimbal

        return SimulatedGimbal(3)
    from equilix.devices.line_gimbal import LineGimbal

    return LineGimbal(port)


def _reach(gimbal: Gimbal, go_on: Progress) -> None:
    gimbal.open()
    if not go_on(1.0):
        # Nobody waits for it any more.
        gimbal.close()
