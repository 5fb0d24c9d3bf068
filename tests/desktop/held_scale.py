"""A scale whose readings a test gives."""

from __future__ import annotations

from equilix.core.errors import DeviceError
from equilix.devices.ports import ScaleReading, ScaleState


class HeldScale:
    """A scale whose readings the test gives, on a clock of its own."""

    name = "held"

    def __init__(self) -> None:
        self.waiting: list[ScaleReading] = []
        self.time = 0.0
        self.opened = False
        self.broken = ""

    def open(self) -> None:
        if self.broken:
            raise DeviceError(self.broken)
        self.opened = True

    def poll(self) -> tuple[ScaleReading, ...]:
        if self.broken:
            raise DeviceError(self.broken)
        found, self.waiting = tuple(self.waiting), []
        return found

    def tare(self) -> None:
        pass

    def close(self) -> None:
        self.opened = False

    def show(self, mass: float, seconds: float) -> None:
        for _ in range(round(seconds * 10)):
            self.time += 0.1
            self.waiting.append(ScaleReading(self.time, ScaleState.READING, mass))
