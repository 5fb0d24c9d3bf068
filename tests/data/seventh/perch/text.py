"""The perch in words."""

from __future__ import annotations

from equilix.supports.perch.mechanics import SUPPORT, PerchCase, PerchResult
from equilix.supports.perch.settings import PerchSettings

from equilix.core.analysis import warnings_of
from equilix.core.units import Kind
from equilix.present.supports.text import FigureRow, SupportText, Verdict
from equilix.present.units import System, figure


class PerchText(SupportText[PerchSettings, PerchResult]):
    """The cushion, and whether the rig stays on it."""

    support = SUPPORT
    noun = "the cushion"
    label = "cushion"
    needs = "Put a part on the build that can lie on the cushion."
    here = "The rig will rest on the cushion here."
    moves = "Move the cushion"
    closing = "Keep a hand near a rig on a cushion."
    tips = "tip moment"

    def verdict(self, case: PerchCase, system: System) -> Verdict:
        return Verdict("Rests." if case.result.margin >= 0.0 else "Tips off.", "Look at its edges.")

    def rows(self, case: PerchCase, system: System) -> tuple[FigureRow, ...]:
        return (FigureRow("Margin", figure(case.result.margin, Kind.LENGTH, system), ""),)

    def mark(self, case: PerchCase) -> str:
        return "look" if warnings_of(case.analysis) else "settled"


TEXT = PerchText()
