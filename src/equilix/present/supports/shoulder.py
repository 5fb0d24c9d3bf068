"""The shoulder in words."""

from __future__ import annotations

import math

from equilix.core.analysis import Analysis, Certainty, FindingKind, warnings_of
from equilix.core.doubt.gauges import Gauge
from equilix.core.kit.parts import MountKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.statics.pad import Tip
from equilix.present.supports.view import (
    LIGHT_HAND,
    FigureRow,
    SupportView,
    Verdict,
    but_words,
    hand_rows,
    hands_words,
)
from equilix.present.units import Kind, System, doubt, figure, unit_of


class ShoulderView(SupportView):
    """The pad, and what it and the hands must do."""

    name = "Shoulder"
    tip = "The rig rests on the shoulder"
    noun = "the pad"
    label = "pad"
    needs = "Put a shoulder pad on the build, or choose Handheld at the top of the window."
    here = "The rig will rest here."
    moves = "Move the rig on the pad"
    closing = "Hand and shoulder figures are the least effort that works, for planning; not medical advice."
    tips = "tip moment"

    def lacks(self, analysis: Analysis) -> str:
        touches = {point.kind for point in analysis.assembly.touch_points}
        return "" if MountKind.SHOULDER in touches else "a shoulder pad"

    def verdict(self, analysis: Analysis, system: System) -> Verdict:
        shoulder, spread = analysis.shoulder, analysis.spread
        assert shoulder is not None
        assert spread is not None
        rest = shoulder.rest
        u = float(spread.cg[0])
        if shoulder.holding is None:
            grips = bool(shoulder.pose.places)
            why = (
                "No hands at these grips hold it: move a grip."
                if grips
                else "There are no hands to hold it: add a grip."
            )
            return Verdict("Falls off the shoulder.", why, leans(rest.tip))
        hands = [hand for hand in shoulder.holding.hands if hand.size >= LIGHT_HAND]
        if not hands and abs(rest.ahead) <= COVERAGE * u and shoulder.hands_off is Certainty.CLEAR:
            pm = doubt(u, Kind.LENGTH, system)
            return Verdict("Level", f"within what is known ({pm} {unit_of(Kind.LENGTH, system)}).{but_words(analysis)}")
        if not hands:
            side = "ahead of" if rest.ahead > 0.0 else "behind"
            where = f"The CG is {figure(abs(rest.ahead), Kind.LENGTH, system)} {side} the pad's middle."
            if shoulder.hands_off is Certainty.CANNOT_SAY and rest.margin_y < rest.margin_x:
                aside = figure(abs(rest.left), Kind.LENGTH, system, unit=False)
                pm = f"{doubt(float(spread.cg[1]), Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
                to = "left" if rest.left > 0.0 else "right"
                body = f"Sideways the CG lies {aside} {pm} to the {to}: too close to the pad's edge to say."
                return Verdict("May stay by itself.", body)
            if shoulder.hands_off is Certainty.CANNOT_SAY:
                return Verdict("May stay by itself.", f"{where} Too close to the pad's edge to say.")
            return Verdict("Stays by itself.", where + but_words(analysis))
        return Verdict(tips(rest.tip), hands_words(analysis, system), leans(rest.tip))

    def mark(self, analysis: Analysis) -> str:
        warned = {finding.kind for finding in warnings_of(analysis)}
        over = analysis.shoulder is not None and analysis.shoulder.hands_off is Certainty.OVER
        if over or warned - {FindingKind.SORE_PAD}:
            return "look"
        return "part" if warned else "settled"

    def figures(self, analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
        shoulder, spread = analysis.shoulder, analysis.spread
        assert shoulder is not None
        assert spread is not None
        rows = []
        rest = shoulder.rest
        rows.append(
            FigureRow(
                "CG ahead of pad" if rest.ahead >= 0 else "CG behind pad",
                figure(abs(rest.ahead), Kind.LENGTH, system),
                doubt(float(spread.cg[0]), Kind.LENGTH, system),
            )
        )
        rows.append(
            FigureRow(
                "Tip moment",
                figure(abs(shoulder.pitch_moment), Kind.MOMENT, system),
                doubt(shoulder.moment_doubt, Kind.MOMENT, system),
            )
        )
        rows.append(
            FigureRow(
                "Hands-off margin",
                figure(min(rest.margin_x, rest.margin_y), Kind.LENGTH, system, sign=True),
                doubt(float(spread.cg[0 if rest.margin_x <= rest.margin_y else 1]), Kind.LENGTH, system),
                _hands_off_note(analysis),
            )
        )
        side = "left" if rest.left > 0 else "right"
        rows.append(
            FigureRow(
                f"CG to the {side}" if abs(rest.left) >= 0.0005 else "CG sideways",
                figure(abs(rest.left), Kind.LENGTH, system),
                doubt(float(spread.cg[1]), Kind.LENGTH, system),
            )
        )
        rows += hand_rows(analysis, (Gauge.LARGER_HAND, Gauge.ON_SHOULDER), system)
        return tuple(rows)


def tips(tip: Tip) -> str:
    return {
        Tip.FORWARD: "Tips forward.",
        Tip.BACK: "Tips back.",
        Tip.LEFT: "Tips to the left.",
        Tip.RIGHT: "Tips to the right.",
        Tip.LEVEL: "Stays by itself.",
    }[tip]


def leans(tip: Tip) -> str:
    return {Tip.FORWARD: "forward", Tip.BACK: "back"}.get(tip, "")


def _hands_off_note(analysis: Analysis) -> str:
    shoulder = analysis.shoulder
    if shoulder is None:
        return ""
    if shoulder.hands_off is Certainty.OVER:
        return "outside the pad: never let go"
    if shoulder.hands_off is Certainty.CANNOT_SAY:
        return "cannot say: the pad's edge is within the doubt"
    if shoulder.rest.tip_angle is None:
        return ""
    return f"goes over past {math.degrees(shoulder.rest.tip_angle):.0f}° of tilt"
