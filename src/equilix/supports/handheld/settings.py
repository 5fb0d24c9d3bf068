"""What a build says of the bare hands."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import BY_ITSELF, Hold, Settings


class HandheldSettings(Struct, Settings, frozen=True):
    """Where the hands are, and what braces the rig."""

    hold: Hold = BY_ITSELF
    kind: Literal["handheld"] = "handheld"

    @property
    def hands(self) -> Hold:
        return self.hold

    def with_hold(self, hold: Hold) -> HandheldSettings:
        return replace(self, hold=hold)


USUAL = HandheldSettings()
