"""What every instrument that speaks lines has in common: its link, its silence, and how much nonsense is forgiven."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeVar

from equilix.core.errors import DeviceError
from equilix.devices.line_protocol import LineSplitter
from equilix.devices.wire import Wire, check_port, open_wire

#: Lines in a row that make no sense before it is said: one may be cut.
PATIENCE = 3

T = TypeVar("T")


class LineInstrument:
    """An instrument at `port` that is read without waiting; `clock` gives seconds that only go forward.

    Every call may raise DeviceError when it is lost.
    """

    #: What it is called in sentences, and what to look at when it says nothing.
    what: str
    look_at: str
    #: s without a line after which it counts as lost.
    silence: float

    def __init__(self, port: str, clock: Callable[[], float] = time.monotonic) -> None:
        check_port(port, self.what)
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
        """Reach it; may take seconds where nobody answers."""
        self.close()
        self._lines = LineSplitter()
        self._wire = open_wire(self._port, self.what, self._clock)
        self._last, self._nonsense = self._clock(), 0
        self.say("hello")

    def close(self) -> None:
        """Let go of it; harmless when it is closed already."""
        if self._wire is not None:
            self._wire.close()
            self._wire = None

    def say(self, line: str) -> None:
        """Send a line as it is: a simulated instrument takes more than a real one."""
        if self._wire is None:
            raise DeviceError(f"The {self.what} is not connected. Connect it first.")
        self._wire.say(line)

    def heard(self, parse: Callable[[str, float], T | None], most: int | None = None) -> list[list[T]]:
        """Return what came in since the last call, parsed, in the pieces in which it came, without what says nothing.

        More than `most` lines at once are a flood.
        """
        wire = self._wire
        if wire is None:
            raise DeviceError(f"The {self.what} is not connected. Connect it first.")
        # Asked before what came in is taken, so that nothing said before the end is lost.
        broken = wire.broken
        pieces: list[list[T]] = []
        count = 0
        for piece in wire.take():
            lines = self._lines.feed(piece.data)
            count += len(lines)
            if most is not None and count > most:
                self.close()
                raise DeviceError(f"The {self.what} sends lines too fast. Check that the port is right.")
            pieces.append(self._parsed(lines, piece.time, parse))
        if broken:
            self.close()
            raise DeviceError(f"The {self.what} was unplugged. Check the plug, then connect again.")
        if self._clock() - self._last > self.silence:
            self.close()
            raise DeviceError(
                f"The {self.what} stopped sending. Check its {self.look_at} and plug, then connect again."
            )
        return pieces

    def _parsed(self, lines: list[str], at: float, parse: Callable[[str, float], T | None]) -> list[T]:
        found = []
        for line in lines:
            try:
                said = parse(line, at)
            except DeviceError:
                self._nonsense += 1
                if self._nonsense >= PATIENCE:
                    self.close()
                    raise
                continue
            self._nonsense, self._last = 0, at
            if said is not None:
                found.append(said)
        return found
