"""The shoulder as a support: figures about the pad, of the rig alone."""

from __future__ import annotations

import numpy as np

from equilix.core.analysis import Analysis, OnShoulder, certainty
from equilix.core.assembly.build import Brace, Build, Hold, Operator, Side
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.doubt.gauges import Gauge, firsts_of, gauges_of, unsure
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import MountKind
from equilix.core.kit.uncertainty import Spread
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.head import head_beside, lean_needed
from equilix.core.statics.pad import pad_pressure, rest
from equilix.core.statics.pose import Hindrance, Pose, in_rig, on_shoulder
from equilix.core.statics.stand import Stand, stand_at
from equilix.core.supports.support import Figure, Judged, Support

#: The gauges' keys, and how much of the key's unit one SI unit is.
_KEYS = {
    Gauge.AHEAD: ("cg_ahead_mm", 1e3),
    Gauge.LEFT: ("cg_left_mm", 1e3),
    Gauge.ABOVE: ("cg_above_mm", 1e3),
    Gauge.MARGIN: ("hands_off_margin_mm", 1e3),
    Gauge.SLIDE: ("slide_to_level_mm", 1e3),
    Gauge.TIP_MOMENT: ("pitch_moment_nm", 1.0),
    Gauge.LARGER_HAND: ("larger_hand_n", 1.0),
    Gauge.ON_SHOULDER: ("on_shoulder_n", 1.0),
    Gauge.PRESSURE: ("pad_pressure_kpa", 1e-3),
}


class TheShoulder(Support):
    """The pad on the shoulder, both hands at the grips."""

    key = "shoulder"
    braces = (Brace.NONE, Brace.ELBOWS)

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        if analysis.shoulder is None:
            return Hindrance.NO_PAD
        pad, shoulder = analysis.shoulder.pad, analysis.build.shoulder
        return on_shoulder(analysis.assembly, analysis.positions, pad, shoulder, operator, way)

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        doubt: Spread,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> OnShoulder:
        pad, holding = stand.point, stand.holding
        weight = body.mass * STANDARD_GRAVITY
        lies = rest(body, pad, build.shoulder)
        head = head_beside(pad, operator)
        inward = 1.0 if operator.shoulder is Side.RIGHT else -1.0
        lean = lean_needed(head, inward, positions.centre - assembly.edges, positions.centre + assembly.edges)
        lean = np.where(assembly.sized, lean, 0.0)
        margin_doubt = doubt.cg[0] if lies.margin_x <= lies.margin_y else doubt.cg[1]
        return OnShoulder(
            pad=pad,
            pad_part=stand.holder,
            rest=lies,
            moment=stand.moment,
            pitch_moment=stand.tip_moment,
            roll_moment=-weight * lies.left,
            moment_doubt=stand.tip_doubt,
            pose=stand.pose,
            holding=holding,
            pressure=pad_pressure(holding.pad_force, build.shoulder)
            if holding is not None
            else weight / (build.shoulder.span_x * build.shoulder.span_y),
            head=head,
            lean=float(lean.max(initial=0.0)),
            lean_part=int(lean.argmax()),
            hands_off=certainty(min(lies.margin_x, lies.margin_y), float(margin_doubt)),
        )

    def stand(
        self, assembly: Assembly, positions: Positions, body: MassProperties, build: Build, operator: Operator
    ) -> Stand | None:
        contact = next((i for i, p in enumerate(assembly.touch_points) if p.kind is MountKind.SHOULDER), None)
        if contact is None:
            return None
        pad = positions.touch[contact]
        posed = on_shoulder(assembly, positions, pad, build.shoulder, operator, build.hold)
        held = posed.statics(arms=False).hold(body.mass, body.cg + posed.shift)
        return stand_at(
            assembly,
            positions,
            body,
            pad,
            assembly.touch_points[contact].part,
            np.array([1.0, 0.0, 0.0]),
            build.shoulder.span_y / 2.0,
            posed,
            in_rig(held, posed),
        )

    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        shoulder, gauges, body = analysis.shoulder, gauges_of(analysis), analysis.body
        if body is None:
            return Judged(hindrance="no mass")
        if shoulder is None or gauges is None:
            return Judged(hindrance="no pad")
        figures = {}
        for gauge, (value, u) in firsts_of(gauges).items():
            if gauge in _KEYS:
                key, per = _KEYS[gauge]
                figures[key] = Figure(value * per, u * per)
        roll = _unsure_roll(analysis)
        figures["roll_moment_nm"] = Figure(shoulder.roll_moment, roll)
        return Judged({"pad_mm": shoulder.pad}, figures)


def _unsure_roll(analysis: Analysis) -> float | None:
    """Return the standard uncertainty (N m) of the moment sideways about the pad."""
    shoulder = analysis.shoulder
    if shoulder is None:
        return None
    pad = shoulder.pad
    found = unsure(analysis, lambda mass, cg: (-mass * STANDARD_GRAVITY * (cg - pad))[1:2])
    return None if found is None else float(found[0])
