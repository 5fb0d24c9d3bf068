"""A stand-in gimbal as a program: answers the lines of a gimbal at a loopback socket."""

from __future__ import annotations

import math

from equilix.core.errors import DeviceError
from equilix.devices.line_protocol import MAX_LINE
from equilix.devices.simulated.gimbal_model import AXES, SCALES, GimbalModel, Turning
from equilix.devices.simulated.program import Unplugged

#: Most degrees that it can be turned or leaned to.
_MOST = 180.0


class GimbalTalk:
    """One caller's lines: how it stands goes out four times a second, requests are answered as they come."""

    pace = 0.25

    def __init__(self, model: GimbalModel, start: float) -> None:
        self.model = model
        self._start = start
        self._rest = b""
        self._noisy = False

    def line(self, now: float) -> str | None:
        """Return the next line of itself."""
        if self._noisy:
            return "\x07\x7f~ 0x3f"
        m = self.model
        return "at " + " ".join(f"{math.degrees(a):.1f}" for a in (m.tilt, m.roll, m.lean, m.aside)) + " deg"

    def answers(self, data: bytes, now: float) -> list[str]:
        """Return the answers to what came in."""
        *lines, self._rest = (self._rest + data[: 8 * MAX_LINE]).split(b"\n")
        self._rest = self._rest[:MAX_LINE]
        return [self._answer(line.decode("ascii", "backslashreplace").strip(), now) for line in lines if line.strip()]

    def _answer(self, text: str, now: float) -> str:
        word, *rest = text.split()
        match word, rest:
            case "hello", []:
                return f"hello gimbal, noise {self.model.noise:.4f} Nm"
            case "marks", []:
                return "marks " + " ".join(f"{k} {1e3 * self.model.marks[k]:+.2f}" for k in SCALES) + " mm"
            case "hold", [_, _, _, _]:
                angles = [_number(text, _MOST) for text in rest]
                if None not in angles:
                    tilt, roll, lean, aside = (math.radians(a or 0.0) for a in angles)
                    self.model.hold(tilt, roll, lean, aside)
                    return "done"
            case "effort", [axis] if axis in AXES:
                return f"effort {axis} {self.model.effort(axis, now - self._start):+.4f} Nm"
            case "release", [axis] if axis in AXES:
                return f"fell {axis} {self.model.release(axis)}"
            case "set", [scale, to] if scale in SCALES:
                place = _number(to, 1000.0)
                if place is not None:
                    self.model.set(scale, place / 1000.0)
                    return "done"
            case "garble", []:
                self._noisy = True
                return "done"
            case "unplug", []:
                raise Unplugged
        return f"what? {''.join(sign if ' ' <= sign <= '~' else '?' for sign in text[:40])}"


def _number(text: str, most: float) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) and abs(value) <= most else None


def told_axis(words: str, model: GimbalModel) -> tuple[str, Turning]:
    """Return an axis as the command line tells it: "tilt:0.31,-0.12:plate=22.1,0:height=0,20.3" in N m and N/m.

    Raises
    ------
    DeviceError
        If it can't be read.
    """
    name, *rest = words.split(":")
    pairs = [_pair(part.rpartition("=")[2]) for part in rest]
    scales = [part.partition("=")[0] for part in rest[1:]]
    if name not in AXES or not rest or None in pairs or not set(scales) <= set(SCALES):
        raise DeviceError(f"--axis {words[:40]!r} cannot be read. Write it as tilt:0.31,-0.12:plate=22,0.")
    slopes = {scale: pair for scale, pair in zip(scales, pairs[1:], strict=True) if pair is not None}
    return name, Turning(pairs[0] or (0.0, 0.0), slopes, model.axes[name].friction, model.axes[name].bias)


def _pair(text: str) -> tuple[float, float] | None:
    first, _, second = text.partition(",")
    a, b = _number(first, 1e4), _number(second, 1e4)
    return None if a is None or b is None else (a, b)
