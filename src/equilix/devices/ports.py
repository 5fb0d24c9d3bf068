"""What the application asks of an instrument, whatever it speaks through."""

from __future__ import annotations

from enum import StrEnum
from typing import Protocol

from msgspec import Struct


class ScaleState(StrEnum):
    """What a scale says of itself."""

    READING = "reading"
    OVERLOAD = "overload"
    BATTERY_LOW = "battery low"
    OFF = "off"


class ScaleReading(Struct, frozen=True):
    """One thing a scale said at `time` (s, on a clock that only goes forward): `mass` (kg) only if it is a reading."""

    time: float
    state: ScaleState
    mass: float | None = None


class ScalePort(Protocol):
    """A scale that is read without waiting. Every call may raise DeviceError when the scale is lost."""

    @property
    def name(self) -> str:
        """Where it is reached, for people."""

    def open(self) -> None:
        """Reach the scale."""

    def poll(self) -> tuple[ScaleReading, ...]:
        """Return all that came in since the last call, oldest first; empty if nothing did."""

    def tare(self) -> None:
        """Make the present load the zero."""

    def close(self) -> None:
        """Let go of the scale; harmless when it is closed already."""
