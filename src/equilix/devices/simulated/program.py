"""A stand-in scale as a program: speaks the line protocol at a pseudo-terminal or a loopback socket.

It serves one caller at a time and never listens beyond this machine.
"""

from __future__ import annotations

import contextlib
import math
import os
import pty
import select
import socket
import sys
import threading
import time
import tty
from collections.abc import Callable
from typing import Protocol

from msgspec.structs import replace

from equilix.core.errors import DeviceError
from equilix.devices.line_protocol import MAX_LINE, reading_line
from equilix.devices.simulated.scale_model import ScaleModel

#: s between two lines.
PACE = 0.1
HOST = "127.0.0.1"
#: s that a caller may take to take a line in.
_PATIENCE = 2.0


class _Link(Protocol):
    def send(self, data: bytes) -> None: ...

    def take(self, wait: float) -> bytes: ...


class _SocketLink:
    def __init__(self, connection: socket.socket) -> None:
        self._connection = connection

    def send(self, data: bytes) -> None:
        self._connection.sendall(data)

    def take(self, wait: float) -> bytes:
        if not select.select([self._connection], [], [], wait)[0]:
            return b""
        data = self._connection.recv(1024)
        if not data:
            raise ConnectionError
        return data


class _TerminalLink:
    def __init__(self, master: int) -> None:
        self._master = master

    def send(self, data: bytes) -> None:
        # A terminal that nobody reads fills up; what does not fit is lost, as on a wire.
        if select.select([], [self._master], [], 0)[1]:
            os.write(self._master, data)

    def take(self, wait: float) -> bytes:
        if not select.select([self._master], [], [], wait)[0]:
            return b""
        return os.read(self._master, 1024)


class Talk(Protocol):
    """What one caller hears: a line of itself now and then, and answers to what comes in. Times in s."""

    @property
    def pace(self) -> float:
        """s between two lines of itself."""

    def line(self, now: float) -> str | None:
        """Return the next line of itself, None to say nothing."""

    def answers(self, data: bytes, now: float) -> list[str]:
        """Return the answers to what came in."""


class Unplugged(Exception):
    """The stand-in was told to pull its plug."""


class Conversation:
    """One caller's lines: readings go out ten times a second, requests are answered as they come."""

    pace = PACE

    def __init__(self, model: ScaleModel) -> None:
        self.model = model
        self._rest = b""

    def line(self, now: float) -> str | None:
        """Return the next line of itself, None when its battery is flat."""
        if self.model.off:
            return None
        if self.model.overloaded(now):
            return "overload"
        return reading_line(self.model.reading(now), self.model.step)

    def answers(self, data: bytes, now: float) -> list[str]:
        """Return the answers to what came in."""
        *lines, self._rest = (self._rest + data[: 8 * MAX_LINE]).split(b"\n")
        self._rest = self._rest[:MAX_LINE]
        return [self._answer(line.decode("ascii", "backslashreplace").strip(), now) for line in lines if line.strip()]

    def _answer(self, text: str, now: float) -> str:
        word, _, rest = text.partition(" ")
        match word:
            case "hello":
                return f"hello scale, step {self.model.step:g} kg, capacity {self.model.capacity:g} kg"
            case "tare":
                self.model.tare(now)
                return "done"
            case "put":
                with contextlib.suppress(ValueError):
                    load = float(rest)
                    if math.isfinite(load):
                        self.model.put(min(max(load, 0.0), 1000.0), now)
                        return "done"
            case "shake":
                self.model.faults = replace(self.model.faults, unsteady=rest.strip() == "on")
                return "done"
            case "battery":
                if rest.strip() in ("full", "low", "flat"):
                    self.model.battery = {"full": 1.0, "low": 0.1, "flat": 0.0}[rest.strip()]
                    return {"full": "done", "low": "battery low", "flat": "off"}[rest.strip()]
            case "unplug":
                raise Unplugged
        return f"what? {''.join(sign if ' ' <= sign <= '~' else '?' for sign in text[:40])}"


def serve_link(link: _Link, talk: Talk) -> None:
    """Talk to one caller until the link breaks."""
    due = time.monotonic()
    while True:
        now = time.monotonic()
        if now >= due:
            line = talk.line(now)
            if line is not None:
                link.send(line.encode("ascii") + b"\n")
            due = max(due + talk.pace, now)
        data = link.take(max(due - time.monotonic(), 0.0))
        for answer in talk.answers(data, time.monotonic()) if data else ():
            link.send(answer.encode("ascii") + b"\n")


def end_with_parent() -> None:
    """End this program as soon as its stdin is closed, as it is when the program that started it ends."""

    def watch() -> None:
        while os.read(0, 1024):
            pass
        os._exit(0)

    threading.Thread(target=watch, name="leash", daemon=True).start()


def run_socket(talk: Callable[[], Talk], port: int = 0) -> None:
    """Serve at a loopback socket, each caller with a `talk` of its own; prints its address first.

    Returns when it is told to unplug.
    """
    with socket.socket() as server:
        server.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            server.bind((HOST, port))
        except OSError:
            raise DeviceError(f"Port {port} is taken. Choose another, or leave it out.") from None
        server.listen(1)
        print(f"socket://{HOST}:{server.getsockname()[1]}", flush=True)
        while True:
            connection, _ = server.accept()
            with connection:
                connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
                # A caller that doesn't listen is not waited for.
                connection.settimeout(_PATIENCE)
                try:
                    serve_link(_SocketLink(connection), talk())
                except Unplugged:
                    return
                except OSError:
                    continue


def run_terminal(model: ScaleModel) -> None:
    """Serve at a pseudo-terminal; prints its device file first. Returns when it is told to unplug."""
    master, slave = pty.openpty()
    tty.setraw(slave)
    print(os.ttyname(slave), flush=True)
    try:
        serve_link(_TerminalLink(master), Conversation(model))
    except Unplugged:
        return
    except OSError:
        print("the terminal is gone", file=sys.stderr)
    finally:
        os.close(master)
        os.close(slave)
