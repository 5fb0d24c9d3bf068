"""What lies on the bench: one part, several loose ones, or parts as they sit on a build."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.errors import MeasurementError
from equilix.core.kit.parts import Part
from equilix.core.kit.records import Member
from equilix.core.kit.uncertainty import (
    GUESSED_MASS,
    cg_spread,
    cg_uncertainty,
    part_uncertainties,
    spread,
    whole_mass_uncertainty,
)
from equilix.core.massprops.bodies import MassProperties
from equilix.core.measurement.bench import Subject
from equilix.core.rounding import lacking
from equilix.core.sources import assumed, common_practice

#: kg, what a part without a mass is taken to weigh until it has been on the scale.
UNKNOWN_MASS = common_practice(0.3)
#: m: how large a part without a size is drawn on the bench.
_NO_SIZE = assumed((0.1, 0.08, 0.08))


class Selection(Struct, frozen=True, eq=False):
    """Parts on the bench: `origin` (n, 3) (m) and `rotation` (n, 3, 3) of each in the bench frame.

    The bench frame has the part's own axes, or the rig's; its zero is the part's own, the sensor mark of a
    whole rig, or the origin of the part that a sub-assembly hangs from. `loose` parts have no places.
    """

    subject: Subject
    parts: tuple[Part, ...]
    origin: np.ndarray
    rotation: np.ndarray
    loose: bool = False

    @property
    def single(self) -> Part | None:
        """The part, if it is one alone."""
        return self.parts[0] if len(self.parts) == 1 else None

    def on_the_scale(self) -> tuple[Member, ...]:
        """Return the parts as members of a weighing."""
        return tuple(Member(part.id) for part in self.parts)

    def along(self, axis: int) -> tuple[Member, ...]:
        """Return the parts as members of a CG measurement along one axis of the bench frame.

        Raises
        ------
        MeasurementError
            If the parts lie there loose.
        """
        if self.loose:
            raise MeasurementError("Loose parts have no common CG. Put them together, or choose one part.")
        members = []
        for part, origin, rotation in zip(self.parts, self.origin, self.rotation, strict=True):
            x, y, z = (float(v) for v in rotation[axis])
            members.append(Member(part.id, float(origin[axis]), (x, y, z)))
        return tuple(members)


def take_part(part: Part) -> Selection:
    """Return one part in its own frame."""
    size = part.outline.size if part.outline is not None else _NO_SIZE
    centre = part.outline.centre if part.outline is not None else part.centre
    mass, u = _mass(part)
    subject = Subject(part.name, mass, u, part.centre, cg_uncertainty(part), size, centre)
    return Selection(subject, (part,), np.zeros((1, 3)), np.eye(3)[None, :, :])


def take_loose(parts: Sequence[Part]) -> Selection:
    """Return several parts that are weighed together in a heap.

    Raises
    ------
    MeasurementError
        If there are none.
    """
    if not parts:
        raise MeasurementError("No part is chosen. Choose one to weigh.")
    masses = [_mass(part) for part in parts]
    sizes = np.array([part.outline.size if part.outline is not None else _NO_SIZE for part in parts])
    size = (float(sizes[:, 0].sum()), float(sizes[:, 1].max()), float(sizes[:, 2].max()))
    zero = (0.0, 0.0, 0.0)
    total = sum(mass for mass, _ in masses)
    uncertainty = float(np.sqrt(sum(u * u for _, u in masses)))
    subject = Subject(f"{len(parts)} parts together", total, uncertainty, zero, zero, size, zero)
    n = len(parts)
    return Selection(subject, tuple(parts), np.zeros((n, 3)), np.repeat(np.eye(3)[None], n, axis=0), loose=True)


def take_placed(
    assembly: Assembly, positions: Positions, indices: Sequence[int], reference: np.ndarray, name: str
) -> Selection:
    """Return the parts numbered `indices` as they sit on a build; `reference` (3,) (m) becomes the zero.

    Raises
    ------
    MeasurementError
        If none of them has a mass, so that nothing can be expected.
    """
    chosen = list(indices)
    mass = assembly.mass[chosen]
    total = float(mass.sum())
    if lacking(total):
        raise MeasurementError("None of these parts has a mass. Weigh them one by one first.")
    parts = tuple(assembly.parts[i] for i in chosen)
    cg = mass @ positions.cg[chosen] / total
    body = MassProperties(total, cg, np.zeros((3, 3)))
    uncertainties = part_uncertainties(parts)
    by_cg = cg_spread(mass, assembly.rotation[chosen], uncertainties).diagonal(axis1=1, axis2=2)
    uncertainty = spread(body, positions.cg[chosen], uncertainties, by_cg)
    low = (positions.centre[chosen] - assembly.edges[chosen]).min(axis=0) - reference
    high = (positions.centre[chosen] + assembly.edges[chosen]).max(axis=0) - reference
    subject = Subject(
        name,
        total,
        uncertainty.mass,
        _point(cg - reference),
        _point(uncertainty.cg),
        _point(high - low),
        _point((low + high) / 2),
    )
    return Selection(subject, parts, positions.origin[chosen] - reference, assembly.rotation[chosen])


def _mass(part: Part) -> tuple[float, float]:
    if part.mass is None:
        return UNKNOWN_MASS, GUESSED_MASS * UNKNOWN_MASS
    return part.mass, whole_mass_uncertainty(part)


def _point(values: np.ndarray) -> tuple[float, float, float]:
    x, y, z = (float(v) for v in values)
    return (x, y, z)
