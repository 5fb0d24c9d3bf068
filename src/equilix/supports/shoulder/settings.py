"""What a build says of the shoulder."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.build import BY_ITSELF, Hold, Settings
from equilix.core.records import Setting, check_settings
from equilix.core.statics.pad import PAD_FRICTION, PAD_SPAN, SHOULDER_SLOPE, Shoulder
from equilix.core.units import Kind


class ShoulderSettings(Struct, Settings, frozen=True):
    """The pad's useful contact span (m) and friction, how steeply the shoulder falls outwards (rad), and the hands."""

    span_x: Annotated[
        float,
        Setting("Pad’s usable length, fore and aft", Kind.LENGTH, 0.005, 0.5, "The pad's span fore and aft", "m"),
    ] = PAD_SPAN
    span_y: Annotated[float, Setting("Pad’s usable width", Kind.LENGTH, 0.005, 0.5, "The pad's span across", "m")] = (
        PAD_SPAN
    )
    friction: Annotated[float, Setting("Pad’s friction on cloth", None, 0.0, 2.0, "The pad's friction")] = PAD_FRICTION
    slope: Annotated[float, Setting("Slope of the shoulder", Kind.ANGLE, 0.0, 1.0, "The shoulder's slope", "rad")] = (
        SHOULDER_SLOPE
    )
    hold: Hold = BY_ITSELF
    kind: Literal["shoulder"] = "shoulder"

    def __post_init__(self) -> None:
        check_settings(self)

    @property
    def hands(self) -> Hold:
        return self.hold

    def with_hold(self, hold: Hold) -> ShoulderSettings:
        return replace(self, hold=hold)

    @property
    def shoulder(self) -> Shoulder:
        """The shoulder that the pad rests on."""
        return Shoulder(self.span_x, self.span_y, self.friction, self.slope)


USUAL = ShoulderSettings()
