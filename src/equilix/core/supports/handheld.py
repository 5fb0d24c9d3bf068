"""The bare hands as a support: the line through both of them, what each carries, how it hangs by its handle."""

from __future__ import annotations

import math

import numpy as np

from equilix.core.analyse import Analysis
from equilix.core.arrangements import doubts_of
from equilix.core.assembly.build import Operator, SupportKind
from equilix.core.carry import carry
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.pose import Hindrance
from equilix.core.supports.support import Figure, Judged, Support, unsure


class InTheHands(Support):
    """Two hands, or one, and nothing else but a brace."""

    key = "handheld"

    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        found = carry(analysis, operator, SupportKind.HANDHELD)
        if isinstance(found, Hindrance):
            return Judged(hindrance=found.value)
        points = np.array([place.point for place in found.pose.places])
        figures: dict[str, Figure] = {}
        sure = doubts_of(analysis, found)
        if len(points) == 2:
            line = unsure(analysis, lambda mass, cg: np.array([line_moment(mass, cg, points)]))
            figures["line_moment_nm"] = Figure(line_moment(found.mass, found.cg - found.shift, points), _first(line))
            figures["see_saw_nm"] = Figure(found.see_saw or 0.0, sure.see_saw if sure is not None else None)
        for h, (arm, hand) in enumerate(zip(found.arms, found.held.hands, strict=True)):
            key = f"{arm.side.value}_hand_n"
            figures[key] = Figure(hand.size, sure.hands[h] if sure is not None else None)
        if found.handle is not None and not found.handle.turns_over:
            figures["handle_hang_deg"] = Figure(
                math.degrees(found.handle.pitch), math.degrees(sure.hang) if sure is not None else None
            )
        return Judged({"hands_mm": points}, figures)


def line_moment(mass: float, cg: np.ndarray, hands: np.ndarray) -> float:
    """Return the weight (N) times the CG's distance (m) from the line through two `hands` (2, 3) (m), from above.

    What two point forces can't carry, whatever they are: the couple that wrists, a brace or a shoulder must give, for
    hands at one height. The CG `cg` (3,) (m) is in the frame of the hands. Without sign.
    """
    along = (hands[1] - hands[0])[:2]
    away = (cg - hands[0])[:2]
    size = float(np.linalg.norm(along))
    if size < 1e-9:
        return mass * STANDARD_GRAVITY * float(np.linalg.norm(away))
    return mass * STANDARD_GRAVITY * abs(float(along[0] * away[1] - along[1] * away[0])) / size


def _first(found: np.ndarray | None) -> float | None:
    return None if found is None else float(found[0])
