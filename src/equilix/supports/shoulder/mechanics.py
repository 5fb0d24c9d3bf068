"""The shoulder as a support: figures about the pad, of the rig alone."""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis, Finding
from equilix.core.assembly.build import Brace, Hold, Operator
from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.frames import AHEAD, STANDARD_GRAVITY
from equilix.core.kit.parts import Category, MountKind
from equilix.core.operator.head import EASY_LEAN, Head, head_beside, lean_from, lean_needed
from equilix.core.records import Output, TableHolder, Threshold, WarningType
from equilix.core.statics.equilibrium import Equilibrium, SupportResult, equilibrium_at
from equilix.core.statics.pad import SORE_PRESSURE, Rest, Shoulder, pad_pressure, rest
from equilix.core.statics.pose import Hindrance, Pose, in_rig, on_shoulder
from equilix.core.support import (
    CLASH,
    HEAVY_LENS,
    NOT_HELD,
    OUT_OF_TRAVEL,
    SCREEN,
    Case,
    Figure,
    Placement,
    Report,
    Support,
)
from equilix.core.uncertainty.output_model import (
    CG_AHEAD,
    LARGER_HAND,
    SLIDE_TO_LEVEL,
    TIP_MOMENT,
    TOTAL_MASS,
    OutputModel,
    Samples,
    unsure,
)
from equilix.core.units import Kind
from equilix.supports.shoulder.settings import USUAL, ShoulderSettings

PRESSES_ON_HEAD = WarningType(
    "presses on head",
    "{} presses on the head",
    "{part} presses on {operator}'s head. The head must move {amount}.",
    Kind.LENGTH,
    leads=True,
)
SORE_PAD = WarningType(
    "sore pad",
    "the pad will get sore",
    "Mean pad pressure about {amount}. Above about {limit} it will get sore. Rest often, or use a larger, softer pad.",
    Kind.PRESSURE,
    -1,
)
SLIPS_OFF = WarningType(
    "slips off",
    "the pad may slip off a sloping shoulder",
    "The pad may slip off a sloping shoulder. Keep a hand on the rig.",
    serious=True,
)


class ShoulderResult(Struct, SupportResult, frozen=True, eq=False):
    """What a rig on the shoulder has beyond its stand: how it lies over the pad, and how the head gives way.

    `roll_moment` (N m) about the pad, left side up positive; `pressure` (Pa) of the rig alone under the pad; `lean` (m)
    is how far the head must give way to part number `lean_part`.
    """

    rest: Rest
    roll_moment: float
    pressure: float
    head: Head
    lean: float
    lean_part: int


ShoulderCase: TypeAlias = Case[ShoulderSettings, ShoulderResult]


def pad_of(assembly: Assembly, positions: Positions) -> tuple[np.ndarray, int] | None:
    """Return where the pad is (3,) (m, rig frame) and its part's number, None without one."""
    contact = next((i for i, p in enumerate(assembly.touch_points) if p.kind is MountKind.SHOULDER), None)
    return None if contact is None else (positions.touch[contact], assembly.touch_points[contact].part)


# Outputs


def _margin(outputs: OutputModel, samples: Samples) -> np.ndarray:
    settings, offset = outputs.case.settings, np.abs(outputs.offset(samples))
    result: np.ndarray = np.minimum(settings.span_x / 2.0 - offset[:, 0], settings.span_y / 2.0 - offset[:, 1])
    return result


def _pressure(outputs: OutputModel, samples: Samples) -> np.ndarray:
    settings = outputs.case.settings
    result: np.ndarray = outputs.held(samples)[1] / (settings.span_x * settings.span_y)
    return result


def _tips(settings: ShoulderSettings) -> tuple[Threshold, ...]:
    half = settings.span_x / 2.0
    return (Threshold(-half, "tips back"), Threshold(0.0, "level"), Threshold(half, "tips forward"))


def _tips_aside(settings: ShoulderSettings) -> tuple[Threshold, ...]:
    half = settings.span_y / 2.0
    return (Threshold(-half, "tips right"), Threshold(half, "tips left"))


MARGIN = Output(
    "hands-off margin",
    Kind.LENGTH,
    _margin,
    "hands_off_margin_mm",
    signed=True,
    limits=lambda _: (Threshold(0.0, "never let go below"),),
)
ON_SHOULDER = Output(
    "on the shoulder, rig alone",
    Kind.FORCE,
    lambda outputs, samples: outputs.held(samples)[1],
    "on_shoulder_n",
    by_forces=True,
)
PRESSURE = Output(
    "pad pressure",
    Kind.PRESSURE,
    _pressure,
    "pad_pressure_kpa",
    by_forces=True,
    limits=lambda _: (Threshold(SORE_PRESSURE, "sore above"),),
)
LEFT = Output(
    "CG to the left",
    Kind.LENGTH,
    lambda outputs, samples: outputs.offset(samples)[:, 1],
    "cg_left_mm",
    signed=True,
    limits=_tips_aside,
)
ABOVE = Output("CG above", Kind.LENGTH, lambda outputs, samples: outputs.offset(samples)[:, 2], "cg_above_mm")


class ShoulderSupport(Support[ShoulderSettings, ShoulderResult]):
    """The pad on the shoulder, both hands at the grips."""

    key = "shoulder"
    holder = TableHolder("pad", (MountKind.SHOULDER,), ("pitch_moment_nm", "roll_moment_nm"))
    usual = USUAL
    result_type = ShoulderResult
    hindrance = "no pad"
    braces = (Brace.NONE, Brace.ELBOWS)
    outputs = (
        CG_AHEAD.on("cg_ahead_mm", _tips),
        SLIDE_TO_LEVEL.on("slide_to_level_mm"),
        MARGIN,
        TIP_MOMENT.on("pitch_moment_nm"),
        LARGER_HAND.on("larger_hand_n"),
        ON_SHOULDER,
        PRESSURE,
        LEFT,
        ABOVE,
        TOTAL_MASS,
    )
    warned = (
        NOT_HELD.on(leads=True),
        PRESSES_ON_HEAD,
        SCREEN.on(leads=True),
        CLASH,
        OUT_OF_TRAVEL,
        SLIPS_OFF,
        HEAVY_LENS,
        SORE_PAD,
    )
    by_hands = True
    immovable = frozenset({Category.RODS})

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        pad = pad_of(analysis.assembly, analysis.positions)
        if pad is None:
            return Hindrance.NO_PAD
        shoulder = self.settings(analysis.build).shoulder
        return self._posed(analysis.assembly, analysis.positions, pad[0], shoulder, operator, way)

    def _posed(
        self,
        assembly: Assembly,
        positions: Positions,
        pad: np.ndarray,
        shoulder: Shoulder,
        operator: Operator,
        way: Hold,
    ) -> Pose:
        lean, _ = _lean(assembly, positions, pad, operator)
        return on_shoulder(assembly, positions, pad, shoulder, operator, way, lean)

    def equilibrium(self, placed: Placement[ShoulderSettings]) -> tuple[Equilibrium, ShoulderResult] | None:
        found = pad_of(placed.assembly, placed.positions)
        if found is None:
            return None
        pad, holder = found
        body, shoulder = placed.body, placed.settings.shoulder
        posed = self._posed(placed.assembly, placed.positions, pad, shoulder, placed.operator, placed.settings.hold)
        held = posed.statics(arms=False).hold(body.mass, body.cg + posed.shift)
        room = shoulder.span_x / 2.0, shoulder.span_y / 2.0
        holding = in_rig(held, posed)
        equilibrium = equilibrium_at(placed.assembly, placed.positions, body, pad, holder, AHEAD, room, posed, holding)
        return equilibrium, self._result(placed, equilibrium, shoulder)

    def _result(
        self, placed: Placement[ShoulderSettings], equilibrium: Equilibrium, shoulder: Shoulder
    ) -> ShoulderResult:
        body, holding = placed.body, equilibrium.holding
        weight = body.mass * STANDARD_GRAVITY
        lies = rest(body, equilibrium.point, shoulder)
        presses = weight / (shoulder.span_x * shoulder.span_y)
        if holding is not None:
            presses = pad_pressure(holding.pad_force, shoulder)
        # How far the head gives way is in the pose; which part makes it is looked for only where one does.
        lean, lean_part = equilibrium.pose.lean, 0
        if lean > 0.0:
            lean, lean_part = _lean(placed.assembly, placed.positions, equilibrium.point, placed.operator)
        head = head_beside(equilibrium.point, placed.operator)
        return ShoulderResult(lies, -weight * lies.left, presses, head, lean, lean_part)

    def findings(self, case: ShoulderCase, operator: Operator) -> list[Finding]:
        ids, result = [placed.id for placed in case.build.parts], case.result
        pad, friction = (ids[case.equilibrium.holder],), case.settings.friction
        found = []
        if result.lean > EASY_LEAN:
            found.append(Finding(PRESSES_ON_HEAD, (ids[result.lean_part],), result.lean, limit=EASY_LEAN))
        if result.pressure > SORE_PRESSURE:
            found.append(Finding(SORE_PAD, pad, result.pressure, limit=SORE_PRESSURE))
        if friction < result.rest.friction_needed:
            found.append(Finding(SLIPS_OFF, pad, result.rest.friction_needed, limit=friction))
        return found

    def report(self, case: ShoulderCase, operator: Operator, figures: dict[str, Figure]) -> Report:
        point = case.equilibrium.point
        roll = unsure(case.analysis, lambda mass, cg: (-mass * STANDARD_GRAVITY * (cg - point))[1:2])
        figures["roll_moment_nm"] = Figure(case.result.roll_moment, None if roll is None else float(roll[0]))
        return Report({"pad_mm": point}, figures)


def _lean(assembly: Assembly, positions: Positions, pad: np.ndarray, operator: Operator) -> tuple[float, int]:
    """Return how far (m) the head must give way, and the number of the part that makes it."""
    inward, head = -operator.shoulder.outward, head_beside(pad, operator)
    low, high = positions.centre - assembly.edges, positions.centre + assembly.edges
    lean = np.where(assembly.sized, lean_needed(head, inward, low, high), 0.0)
    # The box around a turned part says only that the part itself may meet the head.
    for k in np.flatnonzero((lean > 0.0) & ~assembly.upright).tolist():
        lean[k] = lean_from(head, inward, outline_corners(assembly, positions, k))
    return float(lean.max(initial=0.0)), int(lean.argmax())


SUPPORT = ShoulderSupport()
