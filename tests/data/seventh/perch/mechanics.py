"""A rig on a flat cushion: its CG lies over it, or it tips."""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from equilix.supports.perch.settings import USUAL, PerchSettings
from msgspec import Struct

from equilix.core.analysis import Analysis, Finding
from equilix.core.assembly.build import Hold, Operator
from equilix.core.frames import AHEAD
from equilix.core.records import Output, Threshold, WarningType
from equilix.core.statics.equilibrium import Equilibrium, SupportResult, equilibrium_at
from equilix.core.statics.pose import Hindrance, Pose, at_rest
from equilix.core.support import CLASH, OUT_OF_TRAVEL, Case, Figure, Placement, Report, Support
from equilix.core.uncertainty.output_model import CG_AHEAD, SLIDE_TO_LEVEL, TIP_MOMENT, TOTAL_MASS, OutputModel, Samples
from equilix.core.units import Kind

OFF_IT = WarningType(
    "off the cushion", "it tips off", "The CG lies {amount} beside the middle.", Kind.LENGTH, leads=True
)


class PerchResult(Struct, SupportResult, frozen=True):
    """How far (m) inside the cushion's edges the CG lies."""

    margin: float


PerchCase: TypeAlias = Case[PerchSettings, PerchResult]


def _margin(outputs: OutputModel, samples: Samples) -> np.ndarray:
    found: np.ndarray = outputs.case.settings.breadth / 2.0 - np.abs(outputs.offset(samples)[:, 0])
    return found


MARGIN = Output(
    "margin on the cushion", Kind.LENGTH, _margin, "margin_mm", signed=True, limits=lambda _: (Threshold(0.0, "tips"),)
)


class PerchSupport(Support[PerchSettings, PerchResult]):
    """A cushion; nobody carries the rig."""

    key = "perch"
    usual = USUAL
    result_type = PerchResult
    outputs = (CG_AHEAD.on("cg_ahead_mm"), SLIDE_TO_LEVEL.on("slide_mm"), MARGIN, TIP_MOMENT.on("tip_nm"), TOTAL_MASS)
    warned = (OFF_IT, CLASH, OUT_OF_TRAVEL)
    watched = False
    carried = False

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        return Hindrance.NOBODY

    def equilibrium(self, placed: Placement[PerchSettings]) -> tuple[Equilibrium, PerchResult]:
        root = next(k for k, one in enumerate(placed.build.parts) if one.parent is None)
        point, half = placed.positions.centre[root], placed.settings.breadth / 2.0
        nobody = at_rest(placed.operator, -point)
        room = (half, half)
        equilibrium = equilibrium_at(
            placed.assembly, placed.positions, placed.body, point, root, AHEAD, room, nobody, None
        )
        return equilibrium, PerchResult(half - abs(equilibrium.ahead))

    def findings(self, case: PerchCase, operator: Operator) -> list[Finding]:
        if case.result.margin >= 0.0:
            return []
        at = (case.build.parts[case.equilibrium.holder].id,)
        return [Finding(OFF_IT, at, abs(case.equilibrium.ahead), limit=case.settings.breadth / 2.0)]

    def report(self, case: PerchCase, operator: Operator, figures: dict[str, Figure]) -> Report:
        return Report({"perch_mm": case.equilibrium.point}, figures)


SUPPORT = PerchSupport()
