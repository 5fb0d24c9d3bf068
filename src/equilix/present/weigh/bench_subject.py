"""What can be laid on the bench, and how it is drawn there."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import Part
from equilix.core.measurement.subjects import Selection, take_loose, take_part, take_placed
from equilix.present.weigh.bench_drawing import BenchPlacement, moved


class BenchChoice(Struct, frozen=True):
    """One thing that can be laid on the bench: `key` is "part", "parts", "group" or "rig"."""

    key: str
    words: str


def choices(parts: Sequence[Part], analysis: Analysis | None) -> tuple[BenchChoice, ...]:
    """Return what can be laid there while `parts` are chosen in the kit."""
    found = []
    if len(parts) == 1:
        found.append(BenchChoice("part", f"{parts[0].name} alone"))
    elif parts:
        found.append(BenchChoice("parts", f"{len(parts)} chosen parts together"))
    if analysis is not None and analysis.build.parts:
        if len(parts) == 1 and len(_carried(parts[0], analysis)) > 1:
            found.append(BenchChoice("group", f"{parts[0].name} and everything on it"))
        found.append(BenchChoice("rig", f"The whole build {analysis.build.name}"))
    return tuple(found)


def _carried(part: Part, analysis: Analysis) -> list[int]:
    build = analysis.build
    placed = next((p for p in build.parts if p.part_id == part.id), None)
    if placed is None:
        return []
    carried = set(build.carried_by(placed.id))
    return [i for i, p in enumerate(build.parts) if p.id in carried]


def lay(key: str, parts: Sequence[Part], analysis: Analysis | None) -> tuple[Selection, tuple[BenchPlacement, ...]]:
    """Return what a choice stands for, and its drawing.

    Raises
    ------
    MeasurementError
        If it can't be laid there.
    """
    if key == "part":
        taken = take_part(parts[0])
        return taken, (_part_at(parts[0], 0.0),)
    if key == "parts" or analysis is None:
        taken = take_loose(parts)
        laid = []
        along = -taken.subject.size[0] / 2.0
        for part in parts:
            length = part.outline.size[0] if part.outline is not None else 0.1
            middle = part.outline.centre[0] if part.outline is not None else 0.0
            laid.append(_part_at(part, along + length / 2.0 - middle, equilibrium=True))
            along += length
        return taken, tuple(laid)
    if key == "group":
        indices = _carried(parts[0], analysis)
        index = next(i for i in indices if analysis.build.parts[i].part_id == parts[0].id)
        reference = analysis.positions.origin[index]
        name = f"{parts[0].name} and everything on it"
    else:
        indices = list(range(len(analysis.build.parts)))
        reference = np.zeros(3)
        name = f"Build {analysis.build.name}"
    taken = take_placed(analysis.assembly, analysis.positions, indices, reference, name)
    return taken, (BenchPlacement(analysis.assembly, moved(analysis.positions, -reference), frozenset(indices)),)


def _part_at(part: Part, along: float, equilibrium: bool = False) -> BenchPlacement:
    """Return one part with its own zero at `along` (m); with `equilibrium` its middle lies at height 0."""
    assembly = prepare(Build("bench", "bench", (Placed("part", part.id),)), {part.id: part})
    positions = assembly.at(assembly.settings(assembly.build))
    lift = -part.outline.centre[2] if equilibrium and part.outline is not None else 0.0
    by = np.array([along, 0.0, lift]) - positions.origin[0]
    return BenchPlacement(assembly, moved(positions, by), frozenset({0}))
