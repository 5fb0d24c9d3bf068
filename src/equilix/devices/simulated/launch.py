"""Starts the stand-in scale as a program of its own and talks to it as to any other."""

from __future__ import annotations

import contextlib
import select
import subprocess
import sys
import threading

from equilix.core.errors import DeviceError
from equilix.core.kit.records import Instrument
from equilix.devices.line_scale import LineScale
from equilix.devices.ports import Reading

#: s that the program may take to say where it is.
PATIENCE = 10.0


class SimulatedScale:
    """A `ScalePort` that brings its own scale; `put` hangs a load on it."""

    def __init__(self, instrument: Instrument, seed: int = 1, gain: float = 0.0) -> None:
        self._arguments = [
            sys.executable,
            "-P",
            "-m",
            "equilix",
            "instrument",
            "--leash",
            "--step",
            repr(instrument.step),
            "--capacity",
            repr(instrument.capacity),
            "--seed",
            str(seed),
            "--gain",
            repr(gain),
        ]
        self._program: subprocess.Popen[str] | None = None
        self._scale: LineScale | None = None
        self._load = 0.0

    @property
    def name(self) -> str:
        return "simulated scale"

    def open(self) -> None:
        self.close()
        try:
            # It ends when our end of its stdin closes, however this process ends.
            self._program = subprocess.Popen(
                self._arguments, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
            )
        except OSError:
            raise DeviceError("The simulated scale can't be started.") from None
        out = self._program.stdout
        if out is None or not select.select([out], [], [], PATIENCE)[0]:
            self.close()
            raise DeviceError("The simulated scale does not start: try again.")
        try:
            scale = LineScale(out.readline().strip())
            scale.open()
        except DeviceError:
            self.close()
            raise DeviceError("The simulated scale does not start: try again.") from None
        self._scale = scale
        self.put(self._load)

    def poll(self) -> tuple[Reading, ...]:
        return self._reached.poll()

    def tare(self) -> None:
        self._reached.tare()

    def put(self, load: float) -> None:
        """Hang `load` (kg) on it; kept for when it is opened."""
        self._load = load
        if self._scale is not None:
            self._scale.say(f"put {load:.6f}")

    def say(self, line: str) -> None:
        """Send a line as it is, for faults: "shake on", "battery flat", "unplug"."""
        self._reached.say(line)

    def close(self) -> None:
        if self._scale is not None:
            self._scale.close()
            self._scale = None
        if self._program is not None:
            program, self._program = self._program, None
            program.kill()  # it has nothing to lose
            threading.Thread(target=reap, args=(program,), name="stand-in's end", daemon=True).start()

    @property
    def _reached(self) -> LineScale:
        if self._scale is None:
            raise DeviceError("The scale is not connected: connect it first.")
        return self._scale


def reap(program: subprocess.Popen[str]) -> None:
    """Wait for a program that was ended, and let go of its pipes."""
    program.wait()
    for pipe in (program.stdin, program.stdout):
        if pipe is not None:
            with contextlib.suppress(OSError):
                pipe.close()
