"""A gimbal that lets its motors be read, through a serial device, a pseudo-terminal or a socket on this machine."""

from __future__ import annotations

import time
from collections.abc import Callable

from equilix.core.errors import DeviceError
from equilix.devices.gimbal_lines import Said, parse_gimbal_line
from equilix.devices.line_protocol import LineSplitter
from equilix.devices.wire import Wire, check_port, open_wire

#: s without a line after which it counts as lost: it says four times a second how it stands.
SILENCE = 3.0
#: Lines in a row that make no sense before it is said, and lines at one look from which it is a flood.
PATIENCE, FLOOD = 3, 400


class LineGimbal:
    """Reads a gimbal without waiting; every call may raise DeviceError when it is lost."""

    def __init__(self, port: str, clock: Callable[[], float] = time.monotonic) -> None:
        check_port(port, "gimbal")
        self._port = port
        self._clock = clock
        self._wire: Wire | None = None
        self._lines = LineSplitter()
        self._last = 0.0
        self._nonsense = 0

    @property
    def name(self) -> str:
        """Where it is reached, for people."""
        return self._port

    def open(self) -> None:
        """Reach the gimbal; may take seconds where nobody answers."""
        self.close()
        self._lines = LineSplitter()
        self._wire = open_wire(self._port, "gimbal", self._clock)
        self._last, self._nonsense = self._clock(), 0
        self.say("hello")

    def poll(self) -> tuple[Said, ...]:
        """Return all that it said since the last call, oldest first."""
        wire = self._wire
        if wire is None:
            raise DeviceError("The gimbal is not connected: connect it first.")
        broken = wire.broken
        found: list[Said] = []
        lines = [line for heard in wire.take() for line in self._lines.feed(heard.data)]
        if len(lines) > FLOOD:
            self.close()
            raise DeviceError("The gimbal sends more lines than anybody can read: is it another device or speed?")
        for line in lines:
            try:
                said = parse_gimbal_line(line)
            except DeviceError:
                self._nonsense += 1
                if self._nonsense >= PATIENCE:
                    self.close()
                    raise
                continue
            self._nonsense, self._last = 0, self._clock()
            if said is not None:
                found.append(said)
        if broken:
            self.close()
            raise DeviceError("The gimbal was unplugged: check the plug, then connect again; what you saw is kept.")
        if self._clock() - self._last > SILENCE:
            self.close()
            raise DeviceError("The gimbal has gone silent: check its power and plug, then connect again.")
        return tuple(found)

    def say(self, line: str) -> None:
        """Send a line."""
        if self._wire is None:
            raise DeviceError("The gimbal is not connected: connect it first.")
        self._wire.say(line)

    def close(self) -> None:
        """Let go of it; harmless when it is closed already."""
        if self._wire is not None:
            self._wire.close()
            self._wire = None
