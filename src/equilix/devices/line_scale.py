"""A scale that speaks the line protocol through a serial device, a pseudo-terminal or a socket on this machine."""

from __future__ import annotations

from equilix.devices.line_instrument import LineInstrument
from equilix.devices.line_protocol import parse_line
from equilix.devices.ports import ScaleReading, ScaleState
from equilix.devices.wire import check_port

__all__ = ["SILENCE", "LineScale", "check_port", "serial_devices"]

#: s without a line after which a scale counts as lost: it speaks ten times a second.
SILENCE = 2.0
#: Readings that may come at once.
_HEAP = 3


class LineScale(LineInstrument):
    """A `ScalePort`."""

    what, look_at, silence = "scale", "battery", SILENCE

    def poll(self) -> tuple[ScaleReading, ...]:
        return tuple(reading for piece in self.heard(parse_line) for reading in _fresh(piece))

    def tare(self) -> None:
        self.say("tare")


def _fresh(piece: list[ScaleReading]) -> list[ScaleReading]:
    """Return what came in at once, of a heap of readings the last: of all others nobody knows how old they are."""
    weights = [reading for reading in piece if reading.state is ScaleState.READING]
    if len(weights) <= _HEAP:
        return piece
    return [reading for reading in piece if reading.state is not ScaleState.READING or reading is weights[-1]]


def serial_devices() -> tuple[str, ...]:
    """Return the serial devices of this machine, USB adapters first."""
    from serial.tools import list_ports

    found = sorted(list_ports.comports(), key=lambda port: (port.vid is None, port.device))
    return tuple(port.device for port in found)
