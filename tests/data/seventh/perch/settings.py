"""What a build says of its perch."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from equilix.core.assembly.build import Settings
from equilix.core.records import Setting, check_settings
from equilix.core.units import Kind


class PerchSettings(Struct, Settings, frozen=True):
    """How broad the cushion is, and whether it is soft."""

    breadth: Annotated[float, Setting("Breadth of the cushion", Kind.LENGTH, 0.02, 2.0, "A cushion's breadth", "m")] = (
        0.2
    )
    soft: Annotated[bool, Setting("It is soft")] = True
    kind: Literal["perch"] = "perch"

    def __post_init__(self) -> None:
        check_settings(self)


USUAL = PerchSettings()
