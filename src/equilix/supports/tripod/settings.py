"""What a build says of its tripod's head."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from equilix.core.assembly.build import Settings
from equilix.core.limits import check_line, check_number
from equilix.core.records import Setting, check_settings
from equilix.core.rounding import ROUNDING
from equilix.core.sources import common_practice
from equilix.core.units import Kind

#: m of travel of a long dovetail, and of a short quick-release plate, in all.
LONG_DOVETAIL, SHORT_PLATE = common_practice((0.229, 0.076))


class TripodSettings(Struct, Settings, frozen=True):
    """The head and its clamp.

    `plate` is the placed part that the clamp holds, "" for the usual one; it stands `slid` (m) ahead of the middle of
    its `travel`. `counter` (N m) is the greatest counterbalance, None where nobody has entered it, in equal `steps`, 0
    for a continuous one.
    """

    plate: str = ""
    travel: Annotated[
        float, Setting("Travel of the plate in the clamp", Kind.LENGTH, 0.0, 1.0, "The plate's travel", "m")
    ] = LONG_DOVETAIL
    slid: Annotated[float, Setting("Rig’s distance ahead of the middle", Kind.LENGTH)] = 0.0
    axis_below: Annotated[
        float, Setting("Tilt axis below the clamp", Kind.LENGTH, 0.0, 0.5, "The tilt axis below the clamp", "m")
    ] = 0.06
    counter: Annotated[
        float | None,
        Setting("Head’s greatest counterbalance, N·m", None, 0.1, 200.0, "The head's counterbalance", "N·m"),
    ] = None
    steps: Annotated[
        float, Setting("Counterbalance steps, 0 for none", None, 0.0, 100.0, "Steps of the counterbalance")
    ] = 0.0
    height: Annotated[float, Setting("Height of the clamp", Kind.LENGTH, 0.05, 3.0, "The clamp's height", "m")] = 1.40
    seated: Annotated[bool, Setting("Operator sits")] = False
    kind: Literal["tripod"] = "tripod"

    def __post_init__(self) -> None:
        check_line(self.plate, "The part that the clamp holds")
        check_settings(self)
        half = self.travel / 2.0 + ROUNDING
        check_number(self.slid, -half, half, "Mark of the plate", "m")


USUAL = TripodSettings()
