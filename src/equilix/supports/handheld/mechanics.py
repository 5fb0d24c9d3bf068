"""The bare hands as a support: the line through both of them, what each carries, how it hangs by its handle."""

from __future__ import annotations

import math
from typing import TypeAlias

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Hold, Operator
from equilix.core.carry.arrangements import carry_uncertainties
from equilix.core.carry.carried import carry
from equilix.core.frames import AHEAD, STANDARD_GRAVITY
from equilix.core.kit.parts import Category
from equilix.core.rounding import ROUNDING, SLIGHT, negligible
from equilix.core.statics.equilibrium import Equilibrium, SupportResult, equilibrium_at
from equilix.core.statics.holding import PALM_LEVER
from equilix.core.statics.pose import Hindrance, Pose, in_rig, in_the_hands
from equilix.core.support import Case, Figure, Placement, Report, Support
from equilix.core.uncertainty.output_model import CG_AHEAD, LARGER_HAND, SLIDE_TO_LEVEL, TIP_MOMENT, TOTAL_MASS, unsure
from equilix.supports.handheld.settings import USUAL, HandheldSettings


class HandheldResult(Struct, SupportResult, frozen=True, eq=False):
    """Where the hands are: `points` (h, 3) (m, rig frame)."""

    points: np.ndarray


HandheldCase: TypeAlias = Case[HandheldSettings, HandheldResult]


class HandheldSupport(Support[HandheldSettings, HandheldResult]):
    """Two hands, or one, and nothing else but a brace."""

    key = "handheld"
    usual = USUAL
    result_type = HandheldResult
    outputs = (CG_AHEAD, SLIDE_TO_LEVEL, TIP_MOMENT, LARGER_HAND, TOTAL_MASS)
    braces = tuple(Brace)
    in_hands = True
    # Nothing rests on a shoulder.
    removable = frozenset({Category.PAD})
    by_hands = True

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        return in_the_hands(analysis.assembly, analysis.positions, operator, way)

    def equilibrium(self, placed: Placement[HandheldSettings]) -> tuple[Equilibrium, HandheldResult] | None:
        assembly, positions, body = placed.assembly, placed.positions, placed.body
        posed = in_the_hands(assembly, positions, placed.operator, placed.settings.hold)
        if isinstance(posed, Hindrance):
            return None
        points = np.array([place.point for place in posed.places])
        point, forward = hands_line(points, body.cg)
        held = posed.statics(arms=False).hold(body.mass, body.cg + posed.shift)
        # Two hands carry any weight beside each other; under one alone it must lie.
        room = (None, None) if len(points) == 2 else (None, PALM_LEVER / 2.0)
        holder = posed.places[0].part
        equilibrium = equilibrium_at(
            assembly, positions, body, point, holder, forward, room, posed, in_rig(held, posed)
        )
        return equilibrium, HandheldResult(points)

    def hindrance_of(self, analysis: Analysis) -> str:
        found = self.pose(analysis, Operator("nobody", "Nobody"), self.settings(analysis.build).hold)
        return found.value if isinstance(found, Hindrance) else ""

    def report(self, case: HandheldCase, operator: Operator, figures: dict[str, Figure]) -> Report:
        analysis = case.analysis
        found = carry(analysis, operator, self.key)
        if isinstance(found, Hindrance):
            return Report(hindrance=found.value)
        points = np.array([place.point for place in found.pose.places])
        sure = carry_uncertainties(analysis, found)
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
        return Report({"hands_mm": points}, figures)


def hands_line(hands: np.ndarray, cg: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return the point (3,) (m) of the line through the `hands` (h, 3) beside the CG, and the level way across it.

    Hands behind each other have their line along the rig: then the way across it is to the left.
    """
    if len(hands) < 2:
        return hands[0], AHEAD
    line = hands[1] - hands[0]
    size = float(np.hypot(line[0], line[1]))
    if negligible(size, SLIGHT):
        return hands.mean(axis=0), AHEAD
    forward = np.array([line[1], -line[0], 0.0]) / size
    if forward[0] < -ROUNDING or (negligible(forward[0]) and forward[1] < 0.0):
        forward = -forward
    share = float((cg - hands[0])[:2] @ line[:2]) / size**2
    return hands[0] + share * line, forward


def line_moment(mass: float, cg: np.ndarray, hands: np.ndarray) -> float:
    """Return the weight (N) times the CG's distance (m) from the line through two `hands` (2, 3) (m), from above.

    What two point forces can't carry, whatever they are: the couple that wrists, a brace or a shoulder must give, for
    hands at one height. The CG `cg` (3,) (m) is in the frame of the hands. Without sign.
    """
    along = (hands[1] - hands[0])[:2]
    away = (cg - hands[0])[:2]
    size = float(np.linalg.norm(along))
    if negligible(size):
        return mass * STANDARD_GRAVITY * float(np.linalg.norm(away))
    return mass * STANDARD_GRAVITY * abs(float(along[0] * away[1] - along[1] * away[0])) / size


def _first(found: np.ndarray | None) -> float | None:
    return None if found is None else float(found[0])


SUPPORT = HandheldSupport()
