"""What a build says of its sled, its spring arm and its vest."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from msgspec import Struct

from equilix.core.assembly.build import Grasp, Settings
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Point
from equilix.core.limits import MAX_MASS, check_line, check_number, check_point
from equilix.core.records import Setting, check_settings
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.sources import assumed
from equilix.core.units import Kind

#: s that a timed drop may take, and rad that a lean may be.
_DROPS, _LEANS = assumed(((0.1, 60.0), 1.5))
#: m, kg m2 and standard uncertainties by which a reading may part from the parts.
_SHIFT, _INERTIA, _PARTED = assumed((1.0, 10.0, 1e6))


class Timed(Struct, frozen=True):
    """Drops of a sled timed by hand, leans read off it, and what both together taught.

    `tries` (s) are the drops of a rig of `mass` (kg), `pitch` and `roll` (rad) the leans, None where none was read.
    The CG lies `shift` (m) from where the parts have it, and I_yy is `more_inertia` (kg m2) greater. Both part by
    `parted` standard uncertainties from what the parts say, and `suspect` is the placed part that this is likeliest
    of; where it is too much, nothing is learned.
    """

    tries: tuple[float, ...]
    mass: float
    pitch: float | None = None
    roll: float | None = None
    shift: Point = (0.0, 0.0, 0.0)
    more_inertia: float = 0.0
    parted: float = 0.0
    suspect: str = ""

    def __post_init__(self) -> None:
        for time in self.tries:
            check_number(time, *_DROPS, "A timed drop", "s")
        check_number(self.mass, 0.0, MAX_MASS, "The mass that was timed", "kg")
        for lean in (self.pitch, self.roll):
            if lean is not None:
                check_number(lean, -_LEANS, _LEANS, "A measured angle", "rad")
        check_point(self.shift, "Where the CG was measured")
        for value in self.shift:
            check_number(value, -_SHIFT, _SHIFT, "Where the CG was measured", "m")
        check_number(self.more_inertia, -_INERTIA, _INERTIA, "The inertia that was measured", "kg·m²")
        check_number(self.parted, 0.0, _PARTED, "How far a reading is off")
        check_line(self.suspect, "The part that a reading doubts")


class VestSettings(Struct, Settings, frozen=True):
    """What is wanted of the sled, and its arm and vest.

    `bearing` is the touch point in which the sled hangs, None for the usual one. The wished `drop` is met within
    `room`; with `dynamic` the post shall stay upright in a pan too. The arm lifts `least` to `most` by its maker, None
    where nobody entered it; its springs are `set_for` (kg), None where nobody knows. What they hold falls by `evenness`
    either way over `lift` up and down from the middle. The `boom` points to the left of straight ahead; the socket is
    on the right, or on the `left`. From `second` on two put it on; `release` if the wearer knows the quick release.
    """

    bearing: Grasp | None = None
    drop: Annotated[float, Setting("Wanted drop time, s", None, 0.05, 60.0, "The wanted drop time", "s")] = 2.5
    room: Annotated[
        float, Setting("Tolerance of the drop time, s", None, 0.0005, 10.0, "The tolerance of the drop time", "s")
    ] = 0.5
    dynamic: Annotated[bool, Setting("Keep upright in a pan too")] = True
    pan: Annotated[
        float,
        Setting(
            "Pan speed for the wobble figure, °/s",
            Kind.ANGLE,
            0.0,
            20.0,
            "The pan speed for the wobble figure",
            "rad/s",
        ),
    ] = math.radians(30.0)
    shows: Annotated[
        float, Setting("Wobble that you see, from", Kind.ANGLE, 1e-3, 1.0, "The wobble you see", "rad")
    ] = math.radians(1.0)
    friction: Annotated[float, Setting("Bearing’s friction, N·m", None, 0.0, 1.0, "The bearing's friction", "N·m")] = (
        0.010
    )
    least: Annotated[
        float | None,
        Setting("Least the arm is made for, by the maker", Kind.MASS, 0.0, MAX_MASS, "The arm's least load", "kg"),
    ] = None
    most: Annotated[
        float | None,
        Setting("Most the arm carries, by the maker", Kind.MASS, 0.0, MAX_MASS, "The arm's greatest load", "kg"),
    ] = None
    set_for: Annotated[
        float | None,
        Setting("Springs are set for", Kind.MASS, 0.0, MAX_MASS, "The mass the springs are set for", "kg"),
    ] = None
    turn: Annotated[
        float | None,
        Setting("One turn of the spring screw, kg", Kind.MASS, 0.0, MAX_MASS, "A turn of the arm's screw", "kg"),
    ] = None
    wanted: Annotated[float, Setting("Wanted height above the arm’s middle", Kind.LENGTH)] = 0.0
    lift: Annotated[
        float,
        Setting(
            "Arm’s travel, up and down from the middle", Kind.LENGTH, 0.01, 1.0, "The arm’s travel, up and down", "m"
        ),
    ] = 0.27
    evenness: Annotated[
        float,
        Setting("Lift lost over its travel, %", None, 0.001, 0.9, "The arm’s lift lost over its travel"),
    ] = 0.05
    arm_mass: Annotated[float, Setting("Mass of the arm", Kind.MASS, 0.0, MAX_MASS, "The arm's mass", "kg")] = 2.6
    vest_mass: Annotated[float, Setting("Mass of the vest", Kind.MASS, 0.0, MAX_MASS, "The vest's mass", "kg")] = 4.0
    reach: Annotated[
        float,
        Setting(
            "Bearing’s distance from the socket", Kind.LENGTH, 0.05, 1.5, "The sled’s distance from the socket", "m"
        ),
    ] = 0.40
    boom: Annotated[
        float, Setting("Boom angle, to the left of ahead", Kind.ANGLE, -math.pi, math.pi, "The boom's angle", "rad")
    ] = 0.0
    socket: Annotated[
        float,
        Setting(
            "Socket’s distance ahead of the low back", Kind.LENGTH, 0.0, 0.6, "The socket ahead of the low back", "m"
        ),
    ] = 0.17
    beside: Annotated[
        float, Setting("Socket’s distance from the middle", Kind.LENGTH, 0.0, 0.5, "The socket beside the middle", "m")
    ] = 0.10
    left: Annotated[bool, Setting("Socket is on the left")] = False
    hip_share: Annotated[float, Setting("Share carried by the hips", None, 0.0, 1.0, "The hips' share")] = 0.8
    belt: Annotated[
        float | None,
        Setting("Hip belt below the low back", Kind.LENGTH, 0.0, 0.3, "The hip belt below the low back", "m"),
    ] = None
    second: Annotated[
        float,
        Setting("Needs two people above", Kind.MASS, 0.0, MAX_MASS, "The mass above which two people put it on", "kg"),
    ] = 10.0
    release: Annotated[bool, Setting("I have tried the quick release")] = False
    timed: Timed | None = None
    kind: Literal["vest"] = "vest"

    def __post_init__(self) -> None:
        check_settings(self)
        check_number(self.wanted, -self.lift, self.lift, "The wanted height of the arm", "m")
        if self.most is not None and (self.most <= 0.0 or (self.least is not None and self.least >= self.most)):
            raise AssemblyError("The least load is not below the greatest. Swap them.")

    @property
    def side(self) -> float:
        """1 with the socket on the left, -1 on the right."""
        return 1.0 if self.left else -1.0

    def lesson(self, mass: float) -> Timed | None:
        """Return what was timed or read, where it is of a rig of `mass` (kg) as it is now."""
        timed = self.timed
        if timed is None or not negligible(timed.mass - mass, SLIGHT * max(mass, 1.0)):
            return None
        return timed


USUAL = VestSettings()
