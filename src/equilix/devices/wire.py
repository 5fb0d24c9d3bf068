"""The link to an instrument, whatever it is: a serial device, a pseudo-terminal or a socket on this machine."""

from __future__ import annotations

import contextlib
import errno
import re
import threading
from collections import deque
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

from msgspec import Struct

from equilix.core.errors import DeviceError

BAUD = 9600
#: s that the wire's thread waits for the next bytes.
_TURN = 0.02
#: Pieces that wait to be heard and lines that wait to be said; more is noise.
_MOST_HEARD, _MOST_SAID = 1_000, 100
#: Bytes that wait to be heard: minutes of an instrument, and read through before anybody notices.
_MOST_BYTES = 65_536


def check_port(port: str, what: str = "scale") -> None:
    """Raise DeviceError unless `port` is a device file or a socket on this machine."""
    if "://" not in port:
        if not port.strip():
            raise DeviceError(f"The {what} has no port. Type one, such as /dev/ttyUSB0.")
        return
    try:
        parts = urlsplit(port)
        host, number = parts.hostname, parts.port
    except ValueError:
        host, number = None, None
        parts = urlsplit("")
    if parts.scheme != "socket" or host not in ("127.0.0.1", "localhost", "::1"):
        raise DeviceError(f"{port} is on another machine. Use a socket such as socket://127.0.0.1:4001.")
    if not number:
        raise DeviceError(f"{port} is not a port. Type it like socket://127.0.0.1:4001.")


class Reply(Struct, frozen=True):
    """Bytes, and when (s) they came in."""

    time: float
    data: bytes


class Wire:
    """The link to an instrument, with a thread of its own: neither a full line nor a silent one holds up the caller.

    What comes in is stamped when it comes; the thread and the link end soon after `close`.
    """

    def __init__(self, link: Any, clock: Callable[[], float]) -> None:
        self._link = link
        self._clock = clock
        self._heard: deque[Reply] = deque(maxlen=_MOST_HEARD)
        self._to_say: deque[bytes] = deque(maxlen=_MOST_SAID)
        self._closing = threading.Event()
        self.broken = False
        threading.Thread(target=self._run, name="wire", daemon=True).start()

    def take(self) -> list[Reply]:
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
                    self._heard.append(Reply(self._clock(), bytes(data)))
                    self._forget_flood()
                while self._to_say and not self._closing.is_set():
                    self._link.write(self._to_say.popleft())
        except (OSError, TypeError, ValueError):
            # pyserial's own errors are OSErrors; a port that vanishes makes it stumble over its own None.
            self.broken = True
        with contextlib.suppress(OSError):
            self._link.close()

    def _forget_flood(self) -> None:
        """Let go of the oldest of what nobody can listen to."""
        waiting = sum(len(piece.data) for piece in list(self._heard))
        with contextlib.suppress(IndexError):
            while waiting > _MOST_BYTES:
                waiting -= len(self._heard.popleft().data)


def open_wire(port: str, what: str, clock: Callable[[], float]) -> Wire:
    """Return the link to an instrument called `what`; may take seconds where nobody answers.

    Raises
    ------
    DeviceError
        If nobody is there.
    """
    import serial  # only when an instrument is wanted

    try:
        link = serial.serial_for_url(port, baudrate=BAUD, timeout=_TURN, write_timeout=0.5)
        if "://" not in port:
            link.reset_input_buffer()  # what waited there is old
    except (serial.SerialException, OSError, ValueError, TypeError) as error:
        why = _why(error)
        raise DeviceError(f"No {what} answers at {port}. {why}") from None
    return Wire(link, clock)


_WHY = {
    errno.ENOENT: "there is no such device, so check its plug",
    errno.EACCES: "ask for access to the group that owns it",
    errno.EPERM: "ask for access to the group that owns it",
    errno.EBUSY: "another program uses it, so close that first",
    errno.ENOTTY: "it is not a serial device",
    errno.EISDIR: "it is a folder",
    errno.ECONNREFUSED: "nothing listens there, so start the device first",
}


def _why(error: Exception) -> str:
    number = getattr(error, "errno", None)
    if number is None:
        inner = re.search(r"\[Errno (\d+)\]", str(error))
        number = int(inner[1]) if inner is not None else 0
    if isinstance(error.__context__, TimeoutError) or "timed out" in str(error):
        return "it refuses. Check whether another program is connected"
    # termios reports under its own name what is no terminal.
    return _WHY.get(errno.ENOTTY if "configure port" in str(error) else number, "check its plug and its switch")
