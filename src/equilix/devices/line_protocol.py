"""The lines that instruments and the application say to each other; see docs/instruments.md.

ASCII, one statement a line, ended by a line feed. Pure functions: no port, no clock.
"""

from __future__ import annotations

import math
import re

from equilix.core.errors import DeviceError
from equilix.devices.ports import ScaleReading, ScaleState

#: Longest line that makes sense; more without a line feed is noise.
MAX_LINE = 120
_MASS = re.compile(r"mass ([+-]?\d{1,6}(?:\.\d{1,6})?) kg")


def reading_line(mass: float, step: float) -> str:
    """Return the line for a reading (kg) of a scale with that `step` (kg)."""
    decimals = max(0, min(6, math.ceil(-math.log10(step)))) if step < 1.0 else 0
    return f"mass {mass:.{decimals}f} kg"


def parse_line(line: str, time: float) -> ScaleReading | None:
    """Return what a scale said; None for a greeting or an answer that is no reading.

    Raises
    ------
    DeviceError
        If it is not a line of this protocol.
    """
    text = line.strip()
    match = _MASS.fullmatch(text)
    if match is not None:
        return ScaleReading(time, ScaleState.READING, float(match[1]))
    for state in (ScaleState.OVERLOAD, ScaleState.BATTERY_LOW, ScaleState.OFF):
        if text == state.value:
            return ScaleReading(time, state)
    if not text or text.startswith(("hello", "done", "what?")):
        return None
    shown = "".join(c if c.isprintable() and c.isascii() else "?" for c in text[:30])
    raise DeviceError(f'"{shown}" is not a reading. Check the port and its speed.')


class LineSplitter:
    """Cuts a stream of bytes into lines; a start in the middle of a line is thrown away with it."""

    def __init__(self) -> None:
        self._rest = b""

    def feed(self, data: bytes) -> list[str]:
        """Return the lines that `data` completes.

        Raises
        ------
        DeviceError
            If a line never ends.
        """
        *lines, self._rest = (self._rest + data).split(b"\n")
        if len(self._rest) > MAX_LINE or any(len(line) > MAX_LINE for line in lines):
            self._rest = b""
            raise DeviceError("The device sends no lines. Check the port and its speed.")
        return [line.decode("ascii", "replace").rstrip("\r") for line in lines]
