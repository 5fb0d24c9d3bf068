"""A scale that speaks the line protocol through a serial device, a pseudo-terminal or a socket on this machine."""

from __future__ import annotations

import contextlib
import errno
import re
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from equilix.core.errors import DeviceError
from equilix.devices.line_protocol import LineSplitter, parse_line
from equilix.devices.ports import Reading, ScaleState

BAUD = 9600
#: s without a line after which a scale counts as lost: it speaks ten times a second.
SILENCE = 2.0
#: Lines in a row that make no sense before it is said: one may be cut.
PATIENCE = 3
#: s that the wire's thread waits for the next bytes.
_TURN = 0.02
#: Pieces that wait to be heard and lines that wait to be said; more is noise.
_MOST_HEARD, _MOST_SAID = 1_000, 100
#: Readings that may come at once.
_HEAP = 3


def check_port(port: str) -> None:
    """Raise DeviceError unless `port` is a device file or a socket on this machine."""
    if "://" not in port:
        if not port.strip():
            raise DeviceError("Name the scale's port, as in /dev/ttyUSB0.")
        return
    try:
        parts = urlsplit(port)
        host, number = parts.hostname, parts.port
    except ValueError:
        host, number = None, None
        parts = urlsplit("")
    if parts.scheme != "socket" or host not in ("127.0.0.1", "localhost", "::1"):
        raise DeviceError(f"{port} is not on this machine: only sockets as in socket://127.0.0.1:4001 are used.")
    if not number:
        raise DeviceError(f"{port} names no port: write it as in socket://127.0.0.1:4001.")


@dataclass(frozen=True, slots=True)
class _Heard:
    """Bytes, and when (s) they came in."""

    time: float
    data: bytes


class _Wire:
    """The link to a scale, served by a thread of its own: neither a full line nor a silent one holds up the caller.

    What comes in is stamped when it comes; the thread and the link end soon after `close`.
    """

    def __init__(self, link: Any, clock: Callable[[], float]) -> None:
        self._link = link
        self._clock = clock
        self._heard: deque[_Heard] = deque(maxlen=_MOST_HEARD)
        self._to_say: deque[bytes] = deque(maxlen=_MOST_SAID)
        self._closing = threading.Event()
        self.broken = False
        threading.Thread(target=self._run, name="scale", daemon=True).start()

    def take(self) -> list[_Heard]:
        """Return what came in since the last call, oldest first."""
        found = []
        with contextlib.suppress(IndexError):
            while True:
                found.append(self._heard.popleft())
        return found

    def say(self, line: str) -> None:
        """Have a line sent."""
        self._to_say.append(f"{line}\n".encode("ascii", "replace"))

    def close(self) -> None:
        """Let go of the link."""
        self._closing.set()

    def _run(self) -> None:
        try:
            while not self._closing.is_set():
                data = self._link.read(4096)
                if data:
                    self._heard.append(_Heard(self._clock(), bytes(data)))
                while self._to_say and not self._closing.is_set():
                    self._link.write(self._to_say.popleft())
        except (OSError, TypeError, ValueError):
            # pyserial's own errors are OSErrors; a port that vanishes makes it stumble over its own None.
            self.broken = True
        with contextlib.suppress(OSError):
            self._link.close()


class LineScale:
    """A `ScalePort`; `clock` gives seconds that only go forward."""

    def __init__(self, port: str, clock: Callable[[], float] = time.monotonic) -> None:
        check_port(port)
        self._port = port
        self._clock = clock
        self._wire: _Wire | None = None
        self._lines = LineSplitter()
        self._last = 0.0
        self._nonsense = 0

    @property
    def name(self) -> str:
        return self._port

    def open(self) -> None:
        """Reach the scale; may take seconds where nobody answers."""
        import serial  # only when a scale is wanted

        self.close()
        self._lines = LineSplitter()
        try:
            link = serial.serial_for_url(self._port, baudrate=BAUD, timeout=_TURN, write_timeout=0.5)
            if "://" not in self._port:
                link.reset_input_buffer()  # what waited there is old
        except (serial.SerialException, OSError, ValueError, TypeError) as error:
            raise DeviceError(f"No scale answers at {self._port}: {_why(error)}.") from None
        self._last = self._clock()
        self._wire = _Wire(link, self._clock)
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

    def _readings(self, heard: _Heard) -> list[Reading]:
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


_WHY = {
    errno.ENOENT: "there is no such device; check its plug",
    errno.EACCES: "you may not use it; ask to be put into the group that owns it",
    errno.EPERM: "you may not use it; ask to be put into the group that owns it",
    errno.EBUSY: "another program uses it; close that first",
    errno.ENOTTY: "it is no serial device",
    errno.EISDIR: "it is a folder",
    errno.ECONNREFUSED: "nobody listens there; start the scale first",
}


def _why(error: Exception) -> str:
    number = getattr(error, "errno", None)
    if number is None:
        inner = re.search(r"\[Errno (\d+)\]", str(error))
        number = int(inner[1]) if inner is not None else 0
    if isinstance(error.__context__, TimeoutError) or "timed out" in str(error):
        return "it takes no caller; is another program connected to it"
    # termios reports under its own name what is no terminal.
    return _WHY.get(errno.ENOTTY if "configure port" in str(error) else number, "check its plug and its switch")


def serial_devices() -> tuple[str, ...]:
    """Return the serial devices of this machine, USB adapters first."""
    from serial.tools import list_ports

    found = sorted(list_ports.comports(), key=lambda port: (port.vid is None, port.device))
    return tuple(port.device for port in found)
