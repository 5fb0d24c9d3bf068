"""The lines that a gimbal and the application say to each other; see docs/instruments.md."""

from __future__ import annotations

import math
import re

from msgspec import Struct

from equilix.core.errors import DeviceError

_NUMBER = r"([+-]?\d{1,4}(?:\.\d{1,6})?)"
_EFFORT = re.compile(rf"effort (tilt|roll|pan) {_NUMBER} Nm")
_FELL = re.compile(r"fell (tilt|roll|pan) (positive|negative|stays)")
_AT = re.compile(rf"at {_NUMBER} {_NUMBER} {_NUMBER} {_NUMBER} deg")
_MARKS = re.compile(r"marks((?: (?:plate|height|roll|pan) [+-]?\d{1,4}(?:\.\d{1,4})?)+) mm")
_HELLO = re.compile(rf"hello gimbal, noise {_NUMBER} Nm")


class Effort(Struct, frozen=True):
    """What the motor of an `axis` holds, gravity's torque (N m)."""

    axis: str
    torque: float


class Drop(Struct, frozen=True):
    """What an `axis` did when it was let go: "positive", "negative" or "stays"."""

    axis: str
    way: str


class At(Struct, frozen=True):
    """How it stands: tilt, roll, the frame's lean and lean aside (rad)."""

    angles: tuple[float, float, float, float]


class Marks(Struct, frozen=True):
    """Where its scales stand (m from the middle)."""

    marks: dict[str, float]


class Hello(Struct, frozen=True):
    """It is there; `noise` (N m) is the standard uncertainty of one effort."""

    noise: float


Said = Effort | Drop | At | Marks | Hello


def parse_gimbal_line(line: str) -> Said | None:
    """Return what a gimbal said; None for an answer that says nothing more.

    Raises
    ------
    DeviceError
        If it is not a line of this protocol.
    """
    text = line.strip()
    if (match := _EFFORT.fullmatch(text)) is not None:
        return Effort(match[1], float(match[2]))
    if (match := _FELL.fullmatch(text)) is not None:
        return Drop(match[1], match[2])
    if (match := _AT.fullmatch(text)) is not None:
        tilt, roll, lean, aside = (math.radians(float(match[k])) for k in range(1, 5))
        return At((tilt, roll, lean, aside))
    if (match := _MARKS.fullmatch(text)) is not None:
        words = match[1].split()
        return Marks({name: float(value) / 1000.0 for name, value in zip(words[::2], words[1::2], strict=True)})
    if (match := _HELLO.fullmatch(text)) is not None:
        return Hello(float(match[1]))
    if not text or text.startswith(("done", "what?")):
        return None
    shown = "".join(c if c.isprintable() and c.isascii() else "?" for c in text[:30])
    raise DeviceError(f'"{shown}" is not a line of a gimbal. Check that the port is the gimbal’s.')
