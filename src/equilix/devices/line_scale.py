"""A scale that speaks the line protocol through a serial device, a pseudo-terminal or a socket on this machine."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

from equilix.core.errors import DeviceError
from equilix.devices.line_protocol import LineSplitter, parse_line
from equilix.devices.ports import Reading

BAUD = 9600
#: s without a line after which a scale counts as lost: it speaks ten times a second.
SILENCE = 2.0
#: Lines in a row that make no sense before it is said: one may be cut.
PATIENCE = 3


def check_port(port: str) -> None:
    """Raise DeviceError unless `port` is a device file or a socket on this machine."""
    if "://" not in port:
        if not port.strip():
            raise DeviceError("Name the scale's port, as in /dev/ttyUSB0.")
        return
    parts = urlsplit(port)
    if parts.scheme != "socket" or parts.hostname not in ("127.0.0.1", "localhost", "::1"):
        raise DeviceError(f"{port} is not on this machine: only sockets at 127.0.0.1 are used.")


class LineScale:
    """A `ScalePort`; `clock` gives seconds that only go forward."""

    def __init__(self, port: str, clock: Callable[[], float] = time.monotonic) -> None:
        check_port(port)
        self._port = port
        self._clock = clock
        self._link: Any = None
        self._lines = LineSplitter()
        self._heard = 0.0
        self._nonsense = 0

    @property
    def name(self) -> str:
        return self._port

    def open(self) -> None:
        import serial  # only when a scale is wanted

        self.close()
        self._lines = LineSplitter()
        try:
            self._link = serial.serial_for_url(self._port, baudrate=BAUD, timeout=0, write_timeout=0.5)
        except (serial.SerialException, OSError, ValueError) as error:
            raise DeviceError(f"No scale answers at {self._port}: check plug and switch. ({_why(error)})") from None
        self._heard = self._clock()
        self._say("hello")

    def poll(self) -> tuple[Reading, ...]:
        data = self._take()
        now = self._clock()
        found = []
        for line in self._lines.feed(data):
            try:
                reading = parse_line(line, now)
            except DeviceError:
                self._nonsense += 1
                if self._nonsense >= PATIENCE:
                    raise
                continue
            self._nonsense = 0
            self._heard = now
            if reading is not None:
                found.append(reading)
        if now - self._heard > SILENCE:
            self.close()
            raise DeviceError("The scale has gone silent: check its battery and plug, then connect again.")
        return tuple(found)

    def tare(self) -> None:
        self._say("tare")

    def close(self) -> None:
        if self._link is not None:
            with contextlib.suppress(OSError):
                self._link.close()
            self._link = None

    def say(self, line: str) -> None:
        """Send a line as it is: a simulated scale takes more than a real one."""
        self._say(line)

    def _take(self) -> bytes:
        if self._link is None:
            raise DeviceError("The scale is not connected: connect it first.")
        try:
            # A socket tells of no count waiting; what is there comes at once, since the timeout is zero.
            return bytes(self._link.read(4096))
        except OSError:
            self.close()
            raise DeviceError("The scale was unplugged: check the plug, then connect again.") from None

    def _say(self, line: str) -> None:
        if self._link is None:
            raise DeviceError("The scale is not connected: connect it first.")
        try:
            self._link.write(f"{line}\n".encode("ascii"))
        except OSError:
            self.close()
            raise DeviceError("The scale was unplugged: check the plug, then connect again.") from None


def _why(error: Exception) -> str:
    text = str(error).split("\n", 1)[0]
    return text[:80]


def serial_devices() -> tuple[str, ...]:
    """Return the serial devices of this machine, USB adapters first."""
    from serial.tools import list_ports

    found = sorted(list_ports.comports(), key=lambda port: (port.vid is None, port.device))
    return tuple(port.device for port in found)
