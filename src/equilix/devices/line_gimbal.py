"""A gimbal that lets its motors be read, through a serial device, a pseudo-terminal or a socket on this machine."""

from __future__ import annotations

from equilix.devices.gimbal_lines import Said, parse_gimbal_line
from equilix.devices.line_instrument import LineInstrument

#: Lines at one look from which it is a flood.
FLOOD = 400


class LineGimbal(LineInstrument):
    """It says four times a second how it stands, and what it is asked."""

    what, look_at, silence = "gimbal", "power", 3.0

    def poll(self) -> tuple[Said, ...]:
        """Return all that it said since the last call, oldest first."""
        pieces: list[list[Said]] = self.heard(_parsed, FLOOD)
        return tuple(said for piece in pieces for said in piece)


def _parsed(line: str, _at: float) -> Said | None:
    return parse_gimbal_line(line)
