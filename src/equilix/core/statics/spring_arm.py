"""A spring arm: what it lifts, how high a load floats on it, and what its wearer must lean for it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from equilix.core.rounding import ROUNDING, as_cosine, lacking


class Float(Struct, frozen=True):
    """How a load floats: `height` (m) of the bearing from the middle of the arm's way, within plus or minus `reach`.

    `over` (kg) is what it carries beyond what the springs hold at the foot of their way; negative: what is lacking to
    keep it from the top. 0 where it floats between.
    """

    height: float
    reach: float
    over: float


def floats(load: float, set_for: float, evenness: float, reach: float) -> Float:
    """Return how a `load` (kg) floats on springs set for `set_for` (kg).

    What they hold falls evenly from ``1 + evenness`` of that at the foot to ``1 - evenness`` at the top, `reach` (m)
    either way of the middle; common practice: 5 %.
    """
    room = max(evenness * set_for, ROUNDING)
    floating = min(max(load, set_for - room), set_for + room)
    share = min(max((set_for - load) / room, -1.0), 1.0)
    return Float(share * reach, reach, load - floating)


def setting_for(load: float, height: float, evenness: float, reach: float) -> float:
    """Return what (kg) the springs must be set for so that `load` (kg) floats `height` (m) above the middle."""
    return load if lacking(reach) else load / (1.0 - evenness * min(max(height / reach, -1.0), 1.0))


def shift_back(body: float, loads: Sequence[tuple[float, float]]) -> float:
    """Return how far (m) a body of `body` (kg) shifts away from `loads` (kg, m from its plumb line) to stay over its
    feet: the whole's CG goes back to where the body's was."""
    total = body + sum(mass for mass, _ in loads)
    return sum(mass * reach for mass, reach in loads) / total


def ankle_lean(shift: float, height: float) -> float:
    """Return the lean (rad) about the ankles that shifts a body whose CG is `height` (m) above them by `shift` (m)."""
    return math.asin(as_cosine(shift / height))
