"""A scale that speaks the line protocol through a serial device, a pseudo-terminal or a socket on this machine."""

from __future__ import annotations

import time
from collections.abc import Callable

from equilix.core.errors import DeviceError
from equilix.devices.line_protocol import LineSplitter, parse_line
from equilix.devices.ports import Reading, ScaleState
from equilix.devices.wire import Heard, Wire, check_port, open_wire

#: s without a line after which a scale counts as lost: it speaks ten times a second.
SILENCE = 2.0
#: Lines in a row that make no sense before it is said: one may be cut.
PATIENCE = 3
#: Readings that may come at once.
_HEAP = 3


class LineScale:
    """A `ScalePort`; `clock` gives seconds that only go forward."""

    def __init__(self, port: str, clock: Callable[[], float] = time.monotonic) -> None:
        check_port(port)
        self._port = port
        self._clock = clock
        self._wire: Wire | None = None
        self._lines = LineSplitter()
        self._last = 0.0
        self._nonsense = 0

    @property
    def name(self) -> str:
        return self._port

    def open(self) -> None:
        """Reach the scale; may take seconds where nobody answers."""
        self.close()
        self._lines = LineSplitter()
        self._wire = open_wire(self._port, "scale", self._clock)
        self._last = self._clock()
        self._say("hello")

    def poll(self) -> tuple[Reading, ...]:
        wire = self._wire
        if wire is None:
            raise DeviceError("The scale is not connected: connect it first.")
        # Asked before what came in is taken, so that nothing said before the end is lost.
        broken = wire.broken
        found: list[Reading] = []
        for heard in wire.take():
            found += self._readings(heard)
        if broken:
            self.close()
            raise DeviceError("The scale was unplugged: check the plug, then connect again.")
        if self._clock() - self._last > SILENCE:
            self.close()
            raise DeviceError("The scale has gone silent: check its battery and plug, then connect again.")
        return tuple(found)

    def _readings(self, heard: Heard) -> list[Reading]:
        found = []
        for line in self._lines.feed(heard.data):
            try:
                reading = parse_line(line, heard.time)
            except DeviceError:
                self._nonsense += 1
                if self._nonsense >= PATIENCE:
                    raise
                continue
            self._nonsense = 0
            self._last = heard.time
            if reading is not None:
                found.append(reading)
        weights = [reading for reading in found if reading.state is ScaleState.READING]
        if len(weights) <= _HEAP:
            return found
        # What comes in a heap has waited somewhere: of all but the last nobody knows how old it is.
        return [reading for reading in found if reading.state is not ScaleState.READING or reading is weights[-1]]

    def tare(self) -> None:
        self._say("tare")

    def close(self) -> None:
        if self._wire is not None:
            self._wire.close()
            self._wire = None

    def say(self, line: str) -> None:
        """Send a line as it is: a simulated scale takes more than a real one."""
        self._say(line)

    def _say(self, line: str) -> None:
        if self._wire is None:
            raise DeviceError("The scale is not connected: connect it first.")
        self._wire.say(line)


def serial_devices() -> tuple[str, ...]:
    """Return the serial devices of this machine, USB adapters first."""
    from serial.tools import list_ports

    found = sorted(list_ports.comports(), key=lambda port: (port.vid is None, port.device))
    return tuple(port.device for port in found)
