"""Exports a build as the parts table that `equilix analyse` reads: absolute places in the rig frame."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.kit.parts import Shape
from equilix.exports.kit_table import csv_text
from equilix.io.files import write_whole
from equilix.io.parts_table import COLUMNS


def build_csv(analysis: Analysis) -> str:
    """Return the table's text: one row for each part with a mass, its own CG in the rig frame (mm).

    Boxes are the outlines along the rig's axes, so that the inertia of parts turned by other than
    quarter turns is that of the upright box around them. A cylinder keeps its shape while its axis
    lies along x.
    """
    rows: list[list[str | float | None]] = [[*COLUMNS, "shape"]]
    assembly, positions = analysis.assembly, analysis.positions
    for i, part in enumerate(assembly.parts):
        if part.mass is None:
            continue
        size = 2000.0 * assembly.edges[i]
        round_part = part.outline is not None and part.outline.shape is Shape.CYLINDER
        along = bool(np.isclose(abs(assembly.rotation[i, 0, 0]), 1.0))
        if round_part and along:
            size[1:] = 2000.0 * assembly.half_size[i, 1]
        numbers = [part.mass, *(1000.0 * positions.cg[i]), *size]
        shape = "cylinder" if round_part and along else "box"
        rows.append([part.name, *(float(value) for value in numbers), shape])
    return csv_text(rows)


def write_build_csv(path: Path, analysis: Analysis) -> None:
    """Write the table to `path`; FormatError if it can't be written."""
    write_whole(build_csv(analysis).encode(), path)
