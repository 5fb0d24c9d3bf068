"""Starts the stand-in scale as a program of its own and talks to it as to any other."""

from __future__ import annotations

import subprocess

from equilix.core.errors import DeviceError
from equilix.core.kit.records import Instrument
from equilix.devices.line_scale import LineScale
from equilix.devices.ports import ScaleReading
from equilix.devices.simulated.stand_in import end, started


class SimulatedScale:
    """A `ScalePort` that brings its own scale; `put` hangs a load on it."""

    def __init__(self, instrument: Instrument, seed: int = 1, gain: float = 0.0) -> None:
        self._words = [
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
        self._program, port = started(self._words, "scale")
        try:
            scale = LineScale(port)
            scale.open()
        except DeviceError:
            self.close()
            raise DeviceError("The simulated scale does not start. Try again.") from None
        self._scale = scale
        self.put(self._load)

    def poll(self) -> tuple[ScaleReading, ...]:
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
            end(program)

    @property
    def _reached(self) -> LineScale:
        if self._scale is None:
            raise DeviceError("The scale is not connected. Connect it first.")
        return self._scale
