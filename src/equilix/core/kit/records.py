"""What was measured, with what, when and by whom: plain values that a book stores."""

from __future__ import annotations

import math
from enum import StrEnum

from msgspec import Struct, field

from equilix.core.errors import MeasurementError
from equilix.core.limits import (
    MAX_LENGTH,
    MAX_MASS,
    MAX_ON_PART,
    check_count,
    check_line,
    check_name,
    check_number,
    check_point,
    check_text,
)
from equilix.core.sources import common_practice

Point = tuple[float, float, float]


class HowKnown(StrEnum):
    """Where a figure comes from."""

    WEIGHED = "weighed"
    SHEET = "sheet"
    GUESSED = "guessed"


class Quantity(StrEnum):
    """A figure of a part: its mass, or its CG along one of its own axes."""

    MASS = "mass"
    CG_X = "CG fore and aft"
    CG_Y = "CG sideways"
    CG_Z = "CG height"


#: kg: the smallest scale that there is.
_SMALLEST = common_practice(1e-3)
#: Quantity of the CG along each of a part's axes.
CG_QUANTITIES = (Quantity.CG_X, Quantity.CG_Y, Quantity.CG_Z)


class Method(StrEnum):
    """How a figure was come by."""

    TYPED = "typed"
    ONE_SCALE = "one scale"
    TARED = "one scale, tared"
    DIFFERENCE = "by difference"
    TWO_SUPPORTS = "two supports"
    TILTED = "two supports, tilted"
    EDGE = "knife edge"
    HUNG = "hung from points"
    RECONCILED = "reconciled"
    IMPORTED = "imported"


class Stamp(Struct, frozen=True):
    """When (ISO 8601), by whom, how and with which instrument a figure is set; `source` names its measurements."""

    date: str = ""
    by: str = ""
    method: Method = Method.TYPED
    instrument: str = ""
    source: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        check_line(self.date, "A record's date")
        check_line(self.by, "Who measured")
        check_line(self.instrument, "A record’s scale")
        check_count(self.source, MAX_ON_PART, "A record's weighings")
        for name in self.source:
            check_name(name, "A record's weighing")


class Record(Struct, frozen=True):
    """One value that a part's figure has had: kg or m, `uncertainty` its standard uncertainty."""

    quantity: Quantity
    value: float | None
    uncertainty: float = field(name="doubt")
    known: HowKnown
    stamp: Stamp = Stamp()

    def __post_init__(self) -> None:
        mass = self.quantity is Quantity.MASS
        low, high, unit = (0.0, MAX_MASS, "kg") if mass else (-MAX_LENGTH, MAX_LENGTH, "m")
        if self.value is not None:
            check_number(self.value, low, high, "A recorded value", unit)
        check_number(self.uncertainty, 0.0, MAX_MASS if mass else MAX_LENGTH, "A recorded uncertainty", unit)


class Shared(Struct, frozen=True):
    """A mass error (kg, signed) that a part has in common with others: one unit draw of `source` moves them all.

    `flat` marks a rectangular cause, such as a scale's accuracy limit.
    """

    source: str
    amount: float
    flat: bool = False

    def __post_init__(self) -> None:
        check_text(self.source, "The cause of a shared uncertainty")
        check_number(self.amount, -MAX_MASS, MAX_MASS, "A shared uncertainty", "kg")


class ScaleKind(StrEnum):
    HANGING = "hanging scale"
    BENCH = "bench scale"


class Instrument(Struct, frozen=True):
    """A scale: its `capacity` and `step` (kg), and its `accuracy` limit as a share of the reading.

    `port` is where it speaks: a serial device, a socket on this machine, "simulated", or empty for a
    scale that is read by eye.
    """

    id: str
    name: str
    kind: ScaleKind = ScaleKind.HANGING
    capacity: float = 20.0
    step: float = 0.010
    accuracy: float = 0.005
    port: str = ""
    checked: str = ""

    def __post_init__(self) -> None:
        check_name(self.id, "A scale's id")
        check_name(self.name, "A scale's name")
        check_line(self.port, f"{self.name}: port")
        check_line(self.checked, f"{self.name}: when it was checked")
        check_number(self.capacity, _SMALLEST, MAX_MASS, f"{self.name}: capacity", "kg")
        check_number(self.step, 1e-6, 10.0, f"{self.name}: step", "kg")
        check_number(self.accuracy, 0.0, 0.5, f"{self.name}: accuracy")

    def own_uncertainty(self, readings: int = 1) -> float:
        """Return the standard uncertainty (kg) of a sum or difference of `readings`, without the common gain error.

        Resolution over sqrt(12) each: a rectangular distribution, JCGM 100:2008 F.2.2.1.
        """
        return self.step / math.sqrt(12.0) * math.sqrt(readings)

    @property
    def gain_uncertainty(self) -> float:
        """Standard uncertainty of the gain: the accuracy limit over sqrt(3), JCGM 100:2008 clause 4.3.7."""
        return self.accuracy / math.sqrt(3.0)


class Sensed(StrEnum):
    """What a measurement of an assembly senses."""

    MASS = "mass"
    CG = "CG"


class Member(Struct, frozen=True):
    """A part in a measured assembly: `offset` (m) of its origin along the sensed direction, `axis` that in its frame.

    The part's CG r adds ``offset + axis . r`` to where the assembly's CG lies along the direction.
    """

    part_id: str
    offset: float = 0.0
    axis: Point = (1.0, 0.0, 0.0)

    def __post_init__(self) -> None:
        check_number(self.offset, -MAX_LENGTH, MAX_LENGTH, "The place of a weighed part", "m")
        check_point(self.axis, "A measured direction")


class Measurement(Struct, frozen=True):
    """One measured value (kg, or m from the origin of the sensed direction) of parts taken together.

    `u` is its standard uncertainty without what a scale's gain brings; `used` whether it counts.
    """

    id: str
    sensed: Sensed
    members: tuple[Member, ...]
    value: float
    u: float
    method: Method = Method.ONE_SCALE
    instrument: str = ""
    date: str = ""
    by: str = ""
    note: str = ""
    used: bool = True

    def __post_init__(self) -> None:
        check_name(self.id, "A weighing’s id")
        check_line(self.instrument, "A weighing's scale")
        check_line(self.date, "A weighing's date")
        check_line(self.by, "Who weighed")
        check_text(self.note, "A weighing's note")
        check_count(self.members, MAX_ON_PART, "Parts on the scale")
        if not self.members:
            raise MeasurementError("A weighing needs at least one part.")
        if len({member.part_id for member in self.members}) != len(self.members):
            raise MeasurementError("A part is on the scale twice. Choose it once.")
        low, high, unit = (0.0, MAX_MASS, "kg") if self.sensed is Sensed.MASS else (-MAX_LENGTH, MAX_LENGTH, "m")
        check_number(self.value, low, high, "A weighed figure", unit)
        check_number(self.u, 0.0, high, "A weighing’s uncertainty", unit)

    @property
    def part_ids(self) -> tuple[str, ...]:
        """The parts that were on the scale."""
        return tuple(member.part_id for member in self.members)
