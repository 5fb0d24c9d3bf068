"""The shoulder as a support: figures about the pad, of the rig alone."""

from __future__ import annotations

from enum import StrEnum
from types import MappingProxyType
from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import BY_ITSELF, Brace, Build, Hold, Operator, Settings, Shoulder
from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.chosen import hold_of, settings_of
from equilix.core.doubt.gauges import Draws, Gauge, Gauges, Threshold, gauges_of, unsure
from equilix.core.frames import AHEAD, STANDARD_GRAVITY
from equilix.core.kit.parts import Category, MountKind
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.head import EASY_LEAN, Head, head_beside, lean_from, lean_needed
from equilix.core.statics.pad import SORE_PRESSURE, Rest, pad_pressure, rest
from equilix.core.statics.pose import Hindrance, Pose, in_rig, on_shoulder
from equilix.core.statics.stand import Stand, stand_at
from equilix.core.support import Figure, Judged, Support, keyed

#: Foam of usual size on cloth.
USUAL = Shoulder()


class ShoulderSettings(Struct, Settings, frozen=True):
    """How the rig rests on the shoulder, and where the hands are then."""

    rests: Shoulder = USUAL
    hold: Hold = BY_ITSELF
    kind: Literal["shoulder"] = "shoulder"

    @property
    def hands(self) -> Hold:
        return self.hold

    def with_hold(self, hold: Hold) -> ShoulderSettings:
        return replace(self, hold=hold)


def rests_of(build: Build) -> Shoulder:
    """Return how a build rests on the shoulder, now or if it were put there."""
    found = settings_of(build, "shoulder")
    assert isinstance(found, ShoulderSettings)
    return found.rests


class PadFinding(StrEnum):
    """What there is to look at on the shoulder alone."""

    PRESSES_ON_HEAD = "presses on head"
    SORE_PAD = "sore pad"
    SLIPS_OFF = "slips off"


class PadGauge(StrEnum):
    """Figures of the verdict on the shoulder alone."""

    MARGIN = "hands-off margin"
    ON_SHOULDER = "on the shoulder, rig alone"
    PRESSURE = "pad pressure"
    LEFT = "CG to the left"
    ABOVE = "CG above"


class OnShoulder(Struct, frozen=True, eq=False):
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


def on_shoulder_of(analysis: Analysis) -> OnShoulder | None:
    """Return what there is to say of a rig on the shoulder, None if it is on another support or can't lie on it."""
    return analysis.more if isinstance(analysis.more, OnShoulder) else None


def pad_of(assembly: Assembly, positions: Positions) -> tuple[np.ndarray, int] | None:
    """Return where the pad is (3,) (m, rig frame) and its part's number, None without one."""
    contact = next((i for i, p in enumerate(assembly.touch_points) if p.kind is MountKind.SHOULDER), None)
    return None if contact is None else (positions.touch[contact], assembly.touch_points[contact].part)


def _margin(gauges: Gauges, draws: Draws) -> np.ndarray:
    rests, offset = rests_of(gauges.analysis.build), np.abs(gauges.offset(draws))
    return np.minimum(rests.span_x / 2.0 - offset[:, 0], rests.span_y / 2.0 - offset[:, 1])


def _pressure(gauges: Gauges, draws: Draws) -> np.ndarray:
    rests = rests_of(gauges.analysis.build)
    return gauges.held(draws)[1] / (rests.span_x * rests.span_y)


#: The gauges' keys.
_KEYS: dict[str, str] = {
    Gauge.AHEAD: "cg_ahead_mm",
    PadGauge.LEFT: "cg_left_mm",
    PadGauge.ABOVE: "cg_above_mm",
    PadGauge.MARGIN: "hands_off_margin_mm",
    Gauge.SLIDE: "slide_to_level_mm",
    Gauge.TIP_MOMENT: "pitch_moment_nm",
    Gauge.LARGER_HAND: "larger_hand_n",
    PadGauge.ON_SHOULDER: "on_shoulder_n",
    PadGauge.PRESSURE: "pad_pressure_kpa",
}


class ShoulderSupport(Support):
    """The pad on the shoulder, both hands at the grips."""

    key = "shoulder"
    usual = ShoulderSettings()
    braces = (Brace.NONE, Brace.ELBOWS)
    warnings = (
        FindingKind.NOT_HELD,
        PadFinding.PRESSES_ON_HEAD,
        FindingKind.SCREEN,
        FindingKind.CLASH,
        FindingKind.OUT_OF_TRAVEL,
        PadFinding.SLIPS_OFF,
        FindingKind.HEAVY_LENS,
        PadFinding.SORE_PAD,
    )
    leads = frozenset({FindingKind.NOT_HELD, PadFinding.PRESSES_ON_HEAD, FindingKind.SCREEN})
    by_hands = True
    idle = frozenset({Category.RODS})
    gauges = MappingProxyType(
        {
            PadGauge.MARGIN: _margin,
            PadGauge.ON_SHOULDER: lambda gauges, draws: gauges.held(draws)[1],
            PadGauge.PRESSURE: _pressure,
            PadGauge.LEFT: lambda gauges, draws: gauges.offset(draws)[:, 1],
            PadGauge.ABOVE: lambda gauges, draws: gauges.offset(draws)[:, 2],
        }
    )
    by_forces = frozenset({PadGauge.ON_SHOULDER, PadGauge.PRESSURE})
    order = (
        Gauge.AHEAD,
        Gauge.SLIDE,
        PadGauge.MARGIN,
        Gauge.TIP_MOMENT,
        Gauge.LARGER_HAND,
        PadGauge.ON_SHOULDER,
        PadGauge.PRESSURE,
        PadGauge.LEFT,
        PadGauge.ABOVE,
        Gauge.MASS,
    )

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        pad = pad_of(analysis.assembly, analysis.positions)
        if pad is None:
            return Hindrance.NO_PAD
        return self._posed(analysis.assembly, analysis.positions, pad[0], analysis.build, operator, way)

    def _posed(
        self, assembly: Assembly, positions: Positions, pad: np.ndarray, build: Build, operator: Operator, way: Hold
    ) -> Pose:
        lean, _ = _lean(assembly, positions, pad, operator)
        return on_shoulder(assembly, positions, pad, rests_of(build), operator, way, lean)

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> OnShoulder:
        pad, holding, rests = stand.point, stand.holding, rests_of(build)
        weight = body.mass * STANDARD_GRAVITY
        lies = rest(body, pad, rests)
        presses = (
            pad_pressure(holding.pad_force, rests) if holding is not None else weight / (rests.span_x * rests.span_y)
        )
        # How far the head gives way is in the pose; which part makes it is looked for only where one does.
        lean, lean_part = stand.pose.lean, 0
        if lean > 0.0:
            lean, lean_part = _lean(assembly, positions, pad, operator)
        return OnShoulder(lies, -weight * lies.left, presses, head_beside(pad, operator), lean, lean_part)

    def findings(self, analysis: Analysis, operator: Operator) -> tuple[Finding, ...]:
        on_it, stand = on_shoulder_of(analysis), analysis.stand
        if on_it is None or stand is None:
            return ()
        ids = [placed.id for placed in analysis.build.parts]
        pad, friction = (ids[stand.holder],), rests_of(analysis.build).friction
        found = []
        if on_it.lean > EASY_LEAN:
            found.append(Finding(PadFinding.PRESSES_ON_HEAD, (ids[on_it.lean_part],), on_it.lean, limit=EASY_LEAN))
        if on_it.pressure > SORE_PRESSURE:
            found.append(Finding(PadFinding.SORE_PAD, pad, on_it.pressure, limit=SORE_PRESSURE))
        if friction < on_it.rest.friction_needed:
            found.append(Finding(PadFinding.SLIPS_OFF, pad, on_it.rest.friction_needed, limit=friction))
        return tuple(found)

    def thresholds(self, analysis: Analysis, gauge: str) -> tuple[Threshold, ...]:
        rests = rests_of(analysis.build)
        half_x, half_y = rests.span_x / 2.0, rests.span_y / 2.0
        changes: dict[str, tuple[Threshold, ...]] = {
            Gauge.AHEAD: (
                Threshold(-half_x, "tips back"),
                Threshold(0.0, "level"),
                Threshold(half_x, "tips forward"),
            ),
            PadGauge.LEFT: (Threshold(-half_y, "tips right"), Threshold(half_y, "tips left")),
            PadGauge.MARGIN: (Threshold(0.0, "never let go below"),),
            PadGauge.PRESSURE: (Threshold(SORE_PRESSURE, "hurts above"),),
        }
        return changes.get(gauge, ())

    def stand(
        self, assembly: Assembly, positions: Positions, body: MassProperties, build: Build, operator: Operator
    ) -> Stand | None:
        found = pad_of(assembly, positions)
        if found is None:
            return None
        pad, holder = found
        posed = self._posed(assembly, positions, pad, build, operator, hold_of(build))
        held = posed.statics(arms=False).hold(body.mass, body.cg + posed.shift)
        rests = rests_of(build)
        room = rests.span_x / 2.0, rests.span_y / 2.0
        forward = AHEAD
        return stand_at(assembly, positions, body, pad, holder, forward, room, posed, in_rig(held, posed))

    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        on_it, stand, gauges = on_shoulder_of(analysis), analysis.stand, gauges_of(analysis)
        if analysis.body is None:
            return Judged(hindrance="no mass")
        if on_it is None or stand is None or gauges is None:
            return Judged(hindrance="no pad")
        figures = keyed(gauges, _KEYS)
        roll = _unsure_roll(analysis)
        figures["roll_moment_nm"] = Figure(on_it.roll_moment, roll)
        return Judged({"pad_mm": stand.point}, figures)


def _lean(assembly: Assembly, positions: Positions, pad: np.ndarray, operator: Operator) -> tuple[float, int]:
    """Return how far (m) the head must give way, and the number of the part that makes it."""
    inward, head = -operator.shoulder.outward, head_beside(pad, operator)
    low, high = positions.centre - assembly.edges, positions.centre + assembly.edges
    lean = np.where(assembly.sized, lean_needed(head, inward, low, high), 0.0)
    # The box around a turned part says only that the part itself may meet the head.
    for k in np.flatnonzero((lean > 0.0) & ~assembly.upright).tolist():
        lean[k] = lean_from(head, inward, outline_corners(assembly, positions, k))
    return float(lean.max(initial=0.0)), int(lean.argmax())


def _unsure_roll(analysis: Analysis) -> float | None:
    """Return the standard uncertainty (N m) of the moment sideways about the pad."""
    stand = analysis.stand
    if stand is None:
        return None
    found = unsure(analysis, lambda mass, cg: (-mass * STANDARD_GRAVITY * (cg - stand.point))[1:2])
    return None if found is None else float(found[0])


SUPPORT = ShoulderSupport()
