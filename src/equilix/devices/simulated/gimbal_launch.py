"""Starts the stand-in gimbal as a program of its own and talks to it as to any other."""

from __future__ import annotations

import subprocess
from collections.abc import Sequence

from equilix.core.errors import DeviceError
from equilix.devices.gimbal_lines import Said
from equilix.devices.line_gimbal import LineGimbal
from equilix.devices.simulated.stand_in import end, started


class SimulatedGimbal:
    """A gimbal that brings its own; `axes` are what its command line is told of each axis, none for a drawn one."""

    def __init__(self, seed: int = 1, axes: Sequence[str] = ()) -> None:
        self._words = ["gimbal", "--leash", "--hidden", "--seed", str(seed)]
        for axis in axes:
            self._words += ["--axis", axis]
        self._program: subprocess.Popen[str] | None = None
        self._gimbal: LineGimbal | None = None

    name = "simulated gimbal"

    def open(self) -> None:
        """Start it and reach it."""
        self.close()
        self._program, port = started(self._words, "gimbal")
        try:
            gimbal = LineGimbal(port)
            gimbal.open()
        except DeviceError:
            self.close()
            raise DeviceError("The simulated gimbal does not start. Try again.") from None
        self._gimbal = gimbal

    def poll(self) -> tuple[Said, ...]:
        """Return what it said since the last call."""
        return self._reached.poll()

    def say(self, line: str) -> None:
        """Send a line."""
        self._reached.say(line)

    def close(self) -> None:
        """Let go of it and end it."""
        if self._gimbal is not None:
            self._gimbal.close()
            self._gimbal = None
        if self._program is not None:
            program, self._program = self._program, None
            end(program)

    @property
    def _reached(self) -> LineGimbal:
        if self._gimbal is None:
            raise DeviceError("The gimbal is not connected. Connect it first.")
        return self._gimbal
