"""What a coach found of a gimbal: where each stage's CG lies, by its releases and motors, with its uncertainty."""

from __future__ import annotations

import math

from msgspec import Struct

from equilix.core.errors import AssemblyError
from equilix.core.limits import MAX_MASS, check_line, check_number

#: m: no CG lies farther from an axis, or from where the parts have it.
_FARTHEST = 1.0
#: Rig axes along which a CG can be found.
_ALONG = ("x", "y", "z")


class Found(Struct, frozen=True):
    """The CG of a `stage` lies `offset` (m) from its axis along rig axis `beside`, known to `u` (m, standard)."""

    stage: str
    beside: str
    offset: float
    u: float


class Coached(Struct, frozen=True):
    """What was `found` on a gimbal that carried the parts `on`, each as placed part and part, of `mass` (kg) in all.

    It taught that the moments of the stages, the innermost first, are `more` (kg m; forward, left, up) than the parts
    say. The parts' figures part from it by `parted` standard uncertainties, and `suspect` is the placed part that this
    is likeliest of.
    """

    on: tuple[str, ...]
    mass: float
    found: tuple[Found, ...]
    more: tuple[tuple[float, float, float], ...]
    parted: float = 0.0
    suspect: str = ""

    def __post_init__(self) -> None:
        check_number(self.mass, 0.0, MAX_MASS, "The mass that was coached", "kg")
        check_number(self.parted, 0.0, math.inf, "How far the coach's finding is off")
        for one in self.found:
            check_line(one.stage, "A stage that was coached")
            if one.beside not in _ALONG:
                raise AssemblyError(f"A CG is found along {', '.join(_ALONG)}; {one.beside!r} is none of these.")
            check_number(one.offset, -_FARTHEST, _FARTHEST, "Where a stage's CG was found", "m")
            check_number(one.u, 0.0, _FARTHEST, "How surely a stage's CG was found", "m")
        for moments in self.more:
            for moment in moments:
                check_number(moment, -MAX_MASS, MAX_MASS, "A moment that was found", "kg·m")
