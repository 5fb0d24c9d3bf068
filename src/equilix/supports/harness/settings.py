"""What a build says of its support harness."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import BY_ITSELF, Grasp, Hold, Settings
from equilix.core.errors import AssemblyError
from equilix.core.limits import MAX_MASS, check_number
from equilix.core.records import Setting, check_settings
from equilix.core.rounding import ROUNDING
from equilix.core.sources import common_practice
from equilix.core.units import Kind

#: m: how far a hook slides either way on a rail or a handle.
HOOK_ROOM = common_practice(0.060)


class HarnessSettings(Struct, Settings, frozen=True):
    """The harness and where the rig hangs on it.

    `hook` is the touch point it hangs from, None for the usual one, and `pitch` how it shall hang. `least` and `most`
    are the maker's limits, None where nobody has entered them. A spring arm has its own frequency `beat` (Hz) with this
    load; None: the cable alone, stiff.
    """

    hook: Grasp | None = None
    most: Annotated[
        float | None,
        Setting("Most the harness carries, by the maker", Kind.MASS, 0.0, MAX_MASS, "The greatest load", "kg"),
    ] = None
    least: Annotated[
        float | None,
        Setting("Least it is made for, by the maker", Kind.MASS, 0.0, MAX_MASS, "The least load it is made for", "kg"),
    ] = None
    pitch: Annotated[float, Setting("Wanted tilt, nose down", Kind.ANGLE, -1.2, 1.2, "The wanted tilt", "rad")] = 0.0
    reach: Annotated[
        float,
        Setting(
            "Cable’s distance ahead of the low back", Kind.LENGTH, 0.1, 1.0, "Cable’s distance ahead of the back", "m"
        ),
    ] = 0.45
    cable: Annotated[float, Setting("Length of the cable", Kind.LENGTH, 0.05, 2.0, "The cable's length", "m")] = 0.30
    room: Annotated[
        float,
        Setting("Travel of the hook, each way", Kind.LENGTH, 0.0, 0.5, "Travel of the hook", "m"),
    ] = HOOK_ROOM
    along: Annotated[float, Setting("Hook’s distance ahead of its mount", Kind.LENGTH)] = 0.0
    hip_share: Annotated[float, Setting("Share carried by the hips", None, 0.0, 1.0, "The hips' share")] = 0.8
    belt: Annotated[
        float | None,
        Setting("Hip belt below the low back", Kind.LENGTH, 0.0, 0.3, "The hip belt below the low back", "m"),
    ] = None
    beat: Annotated[
        float | None,
        Setting("Spring arm’s natural frequency, Hz", None, 0.2, 5.0, "A spring arm’s natural frequency", "Hz"),
    ] = None
    damping: Annotated[float, Setting("Spring arm’s damping", None, 0.0, 2.0, "A spring arm's damping")] = 0.1
    hold: Hold = BY_ITSELF
    kind: Literal["harness"] = "harness"

    def __post_init__(self) -> None:
        check_settings(self)
        if self.most is not None and (self.most <= 0.0 or (self.least is not None and self.least >= self.most)):
            raise AssemblyError("The least load is not below the greatest. Enter the maker’s limits.")
        check_number(self.along, -self.room - ROUNDING, self.room + ROUNDING, "Where the hook stands", "m")

    @property
    def hands(self) -> Hold:
        return self.hold

    def with_hold(self, hold: Hold) -> HarnessSettings:
        return replace(self, hold=hold)

    @property
    def down(self) -> np.ndarray:
        """The way down (3,) in the rig's frame when it hangs as it shall."""
        return np.array([math.sin(self.pitch), 0.0, -math.cos(self.pitch)])


USUAL = HarnessSettings()
