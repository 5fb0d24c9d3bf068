"""What a build says of its gimbal."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from msgspec import Struct

from equilix.core.assembly.build import Settings
from equilix.core.errors import AssemblyError
from equilix.core.limits import MAX_MASS
from equilix.core.measurement.found import Coached
from equilix.core.records import Setting, check_settings
from equilix.core.statics.turning import Attitude
from equilix.core.units import Kind

#: How a gimbal is held: the attitude of frame and stages in which the camera looks ahead.
MODES: dict[str, Attitude] = {
    "upright": Attitude(),
    "underslung": Attitude(roll=-math.pi, aside=math.pi),
    "briefcase": Attitude(tilt=math.pi / 2.0, lean=-math.pi / 2.0),
    "vertical framing": Attitude(roll=math.pi / 2.0),
}
#: The supports that can carry a whole gimbal.
CARRIERS = ("handheld", "harness", "vest")


class GimbalSettings(Struct, Settings, frozen=True):
    """The gimbal: for each stage what its motor is rated for and what its bearing rubs (N m).

    `share` of the rating is the window in which a motor holds for long; with `perfect` below the bearing's friction is
    wanted instead. `most` is the maker's greatest payload, None where nobody has entered it. `gain` (rad/s2) is the
    acceleration that motors must give. `heat` (W) is what a motor turns into heat at its rating, `idle` (W) what the
    gimbal takes in balance, `energy` (Wh) what its battery holds. Its frame is held in one `way` by the support
    `carrier`. `coached` is what the coach found. Where no axes are joined on a build, they meet at `pivot_x`,
    `pivot_y`, `pivot_z` from the middle of the top of the part that everything sits on.
    """

    most: Annotated[
        float | None,
        Setting("Payload, by the maker", Kind.MASS, 0.05, MAX_MASS, "The gimbal’s payload", "kg"),
    ] = None
    tilt_rated: Annotated[
        float, Setting("Tilt motor’s rating, N·m", None, 0.01, 100.0, "The tilt motor’s rating", "N·m")
    ] = 0.6
    roll_rated: Annotated[
        float, Setting("Roll motor’s rating, N·m", None, 0.01, 100.0, "The roll motor’s rating", "N·m")
    ] = 1.0
    pan_rated: Annotated[
        float, Setting("Pan motor’s rating, N·m", None, 0.01, 100.0, "The pan motor’s rating", "N·m")
    ] = 1.0
    share: Annotated[
        float,
        Setting(
            "Counts as balanced, share of the rating",
            None,
            0.01,
            1.0,
            "The share of the rating that counts as balanced",
        ),
    ] = 0.15
    perfect: Annotated[bool, Setting("Balance to the bearings’ friction instead")] = False
    tilt_friction: Annotated[
        float, Setting("Friction of the tilt bearing, N·m", None, 0.0, 1.0, "The tilt bearing's friction", "N·m")
    ] = 0.010
    roll_friction: Annotated[
        float, Setting("Friction of the roll bearing, N·m", None, 0.0, 1.0, "The roll bearing's friction", "N·m")
    ] = 0.015
    pan_friction: Annotated[
        float, Setting("Friction of the pan bearing, N·m", None, 0.0, 1.0, "The pan bearing's friction", "N·m")
    ] = 0.020
    tilt_use: Annotated[
        float, Setting("Tilt you use, up and down", Kind.ANGLE, 0.0, math.pi, "Tilt you use", "rad")
    ] = math.radians(60.0)
    roll_use: Annotated[
        float, Setting("Roll you use, to each side", Kind.ANGLE, 0.0, math.pi, "Roll you use", "rad")
    ] = math.radians(30.0)
    gain: Annotated[
        float, Setting("Wanted acceleration, rad/s²", None, 0.0, 200.0, "The wanted acceleration", "rad/s²")
    ] = 10.0
    cables: Annotated[float, Setting("Cables across an axis", None, 0.0, 20.0, "Cables across an axis")] = 0.0
    energy: Annotated[float, Setting("Gimbal’s battery, Wh", None, 0.1, 1000.0, "The gimbal's battery", "Wh")] = 40.0
    idle: Annotated[
        float, Setting("Power when balanced, W", None, 0.0, 500.0, "The gimbal’s power when balanced", "W")
    ] = 4.0
    heat: Annotated[
        float, Setting("Motor’s heat at its rating, W", None, 0.0, 500.0, "A motor's heat at its rating", "W")
    ] = 10.0
    pivot_x: Annotated[
        float,
        Setting("Without joints, axes meet ahead by", Kind.LENGTH, -1.0, 1.0, "Where the axes meet, forward", "m"),
    ] = 0.0
    pivot_y: Annotated[float, Setting("", Kind.LENGTH, -1.0, 1.0, "Where the axes meet, left", "m")] = 0.0
    pivot_z: Annotated[
        float, Setting("and above the mount by", Kind.LENGTH, -1.0, 1.0, "Where the axes meet, up", "m")
    ] = 0.065
    way: str = "upright"
    carrier: str = "handheld"
    coached: Coached | None = None
    kind: Literal["gimbal"] = "gimbal"

    def __post_init__(self) -> None:
        check_settings(self)
        if self.carrier not in CARRIERS:
            raise AssemblyError(f"{self.carrier!r} does not carry a gimbal. Use {' or '.join(CARRIERS)}.")
        if self.way not in MODES:
            raise AssemblyError(f"{self.way!r} is no way to hold a gimbal. Use {', '.join(MODES)}.")

    @property
    def pivot(self) -> tuple[float, float, float]:
        """Where the axes meet (m) if none are joined."""
        return self.pivot_x, self.pivot_y, self.pivot_z

    def rated(self, stage: str) -> float:
        """Return what a stage's motor is rated for (N m)."""
        return {"tilt": self.tilt_rated, "roll": self.roll_rated, "pan": self.pan_rated}[stage]

    def friction(self, stage: str) -> float:
        """Return what a stage's bearing rubs (N m)."""
        return {"tilt": self.tilt_friction, "roll": self.roll_friction, "pan": self.pan_friction}[stage]

    def window(self, stage: str) -> float:
        """Return the torque (N m) up to which a stage counts as balanced."""
        return self.friction(stage) if self.perfect else self.share * self.rated(stage)


USUAL = GimbalSettings()
