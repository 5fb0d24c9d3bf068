"""The shoulder in words and lines."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from equilix.core.analysis import Analysis, stays, warnings_of
from equilix.core.assembly.build import Operator
from equilix.core.kit.parts import MountKind
from equilix.core.kit.uncertainty import COVERAGE, Certainty
from equilix.core.statics.pad import SORE_PRESSURE, Tip, pad_pressure
from equilix.core.uncertainty.output_model import LARGER_HAND
from equilix.core.units import Kind
from equilix.present.drawing.figures import head_shape
from equilix.present.drawing.scene import Scene, rect
from equilix.present.supports.text import (
    LIGHT_HAND,
    FigureRow,
    SupportText,
    Verdict,
    hand_rows,
    hands_words,
)
from equilix.present.units import System, figure, uncertainty, unit_of
from equilix.present.words import share_text
from equilix.supports.shoulder.mechanics import (
    ABOVE,
    MARGIN,
    ON_SHOULDER,
    PRESSURE,
    SORE_PAD,
    SUPPORT,
    ShoulderCase,
    ShoulderResult,
)
from equilix.supports.shoulder.settings import ShoulderSettings

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry
    from equilix.core.uncertainty.montecarlo import Odds
    from equilix.present.drawing.rig_drawing import Projection


class ShoulderText(SupportText[ShoulderSettings, ShoulderResult]):
    """The pad, and what it and the hands must do."""

    support = SUPPORT
    noun = "the pad"
    label = "pad"
    needs = "Put a shoulder pad on the build, or choose Handheld at the top of the window."
    here = "The rig sits here."
    moves = "Move the rig on the pad"
    lens_question = "Marks that keep it level on the shoulder, for each lens"
    closing = "Hand and shoulder forces are the least that work, for planning. Not medical advice."
    tips = "tipping moment"
    starts = ("start-documentary", "Documentary shoulder rig")
    bears = "Shoulder"
    no_brace = "on the shoulder only tucked elbows brace it"

    def output_name(self, output: str) -> str:
        return f"{ABOVE} {self.noun}" if output == ABOVE else super().output_name(output)

    def body_cautions(self, carried: Carry, case: ShoulderCase, system: System) -> tuple[str, ...]:
        pressure = pad_pressure(carried.held.pad_force, case.settings.shoulder)
        if pressure <= SORE_PRESSURE:
            return ()
        return (
            f"Mean pad pressure {pressure / 1e3:.0f} kPa. Above {SORE_PRESSURE / 1e3:.0f} kPa it will get sore. "
            "Use a wider pad.",
        )

    def effects(self, before: ShoulderCase, after: ShoulderCase, system: System) -> tuple[str, ...]:
        was, then = (one.equilibrium.holding for one in (before, after))
        if was is None or then is None:
            return ()
        old = figure(float(was.pad_force[2]), Kind.FORCE, system, unit=False)
        return (f"shoulder {old} → {figure(float(then.pad_force[2]), Kind.FORCE, system)}",)

    def odds(self, odds: Odds) -> str:
        if odds.output == MARGIN:
            share = share_text(1.0 - odds.beyond[0])
            return f"{share[:1].upper()}{share[1:]} of the simulated rigs fall when you let go."
        if odds.output == PRESSURE:
            share = share_text(odds.beyond[0])
            return f"{share[:1].upper()}{share[1:]} of the simulated rigs make it sore."
        return ""

    small_room = (0.26, 0.0)

    def draw_wearer(
        self, scene: Scene, case: ShoulderCase, projection: Projection, operator: Operator, floor: float
    ) -> None:
        from equilix.present.drawing.rig_drawing import draw_operator

        on_it, equilibrium = case.result, case.equilibrium
        hands = equilibrium.holding.hands if equilibrium.holding is not None else ()
        draw_operator(scene, projection, equilibrium.point, on_it.head, [hand.point for hand in hands], operator, floor)

    def draw_room(self, scene: Scene, case: ShoulderCase, projection: Projection, ruler_y: float) -> None:
        equilibrium = case.equilibrium
        if equilibrium.span is not None:
            middle = float(equilibrium.point[0])
            left, right = projection.x(middle - equilibrium.span), projection.x(middle + equilibrium.span)
            scene.path(rect(left, ruler_y - 3.5, right - left, 7, 0), "p3", "ink2", 0.8)

    def draw_over(self, scene: Scene, case: ShoulderCase, projection: Projection) -> None:
        head, s = case.result.head, projection.scale
        x, y = projection.x(float(head.centre[0])), projection.y((head.low + head.high) / 2.0)
        shape = head_shape(x, y, 2.0 * head.half_x * s, (head.high - head.low) * s)
        scene.path(shape, None, "ghostL", 1.0, (1.2, 2.6))

    def lacks(self, analysis: Analysis) -> str:
        touches = {point.kind for point in analysis.assembly.touch_points}
        return "" if MountKind.SHOULDER in touches else "a pad"

    def verdict(self, case: ShoulderCase, system: System) -> Verdict:
        on_it, equilibrium, spread = case.result, case.equilibrium, case.spread
        rest, hands_off = on_it.rest, stays(case.analysis)
        u = equilibrium.ahead_uncertainty
        if equilibrium.holding is None:
            grips = bool(equilibrium.pose.places)
            why = (
                "No hands at these grips hold it: move a grip."
                if grips
                else "There are no hands to hold it: add a grip."
            )
            return Verdict("Falls off the shoulder.", why, leans(rest.tip), stops=True)
        hands = [hand for hand in equilibrium.holding.hands if hand.size >= LIGHT_HAND]
        if not hands and abs(rest.ahead) <= COVERAGE * u and hands_off is Certainty.CLEAR:
            pm = uncertainty(u, Kind.LENGTH, system)
            return Verdict("Level", f"fore and aft, within what is known ({pm} {unit_of(Kind.LENGTH, system)}).")
        if not hands:
            side = "ahead of" if rest.ahead > 0.0 else "behind"
            where = f"The CG is {figure(abs(rest.ahead), Kind.LENGTH, system)} {side} the pad’s middle."
            if hands_off is Certainty.CANNOT_SAY and rest.margin_y < rest.margin_x:
                aside = figure(abs(rest.left), Kind.LENGTH, system, unit=False)
                pm = f"{uncertainty(float(spread.cg[1]), Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
                to = "left" if rest.left > 0.0 else "right"
                body = f"Sideways the CG is {aside} {pm} to the {to}. The pad’s edge is within that ±."
                return Verdict("May stay by itself.", body)
            if hands_off is Certainty.CANNOT_SAY:
                return Verdict("May stay by itself.", f"{where} The pad’s edge is within ±.")
            return Verdict("Stays by itself.", where)
        return Verdict(tips(rest.tip), hands_words(case, system), leans(rest.tip))

    def mark(self, case: ShoulderCase) -> str:
        warned = {finding.kind for finding in warnings_of(case.analysis)}
        over = stays(case.analysis) is Certainty.OVER
        if over or warned - {SORE_PAD}:
            return "look"
        return "part" if warned else "settled"

    def rows(self, case: ShoulderCase, system: System) -> tuple[FigureRow, ...]:
        on_it, equilibrium, spread = case.result, case.equilibrium, case.spread
        rows = []
        rest = on_it.rest
        near = equilibrium.ahead_uncertainty if rest.margin_x <= rest.margin_y else float(spread.cg[1])
        rows.append(
            FigureRow(
                f"CG {self.away(case, self.label)}",
                figure(abs(rest.ahead), Kind.LENGTH, system),
                uncertainty(equilibrium.ahead_uncertainty, Kind.LENGTH, system),
            )
        )
        rows.append(
            FigureRow(
                "Tipping moment",
                figure(abs(equilibrium.tip_moment), Kind.MOMENT, system),
                uncertainty(equilibrium.tip_uncertainty, Kind.MOMENT, system),
            )
        )
        rows.append(
            FigureRow(
                "Hands-off margin",
                figure(min(rest.margin_x, rest.margin_y), Kind.LENGTH, system, sign=True),
                uncertainty(near, Kind.LENGTH, system),
                _hands_off_note(case),
            )
        )
        side = "left" if rest.left > 0 else "right"
        rows.append(
            FigureRow(
                f"CG to the {side}" if abs(rest.left) >= 0.0005 else "CG to the side",
                figure(abs(rest.left), Kind.LENGTH, system),
                uncertainty(float(spread.cg[1]), Kind.LENGTH, system),
            )
        )
        rows += hand_rows(case, (LARGER_HAND, ON_SHOULDER), system)
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


def _hands_off_note(case: ShoulderCase) -> str:
    on_it, hands_off = case.result, stays(case.analysis)
    if hands_off is Certainty.OVER:
        return "outside the pad: never let go"
    if hands_off is Certainty.CANNOT_SAY:
        return "not known: the pad’s edge is within ±"
    if on_it.rest.tip_angle is None:
        return ""
    return f"tips beyond {math.degrees(on_it.rest.tip_angle):.0f}° nose up or down"


TEXT = ShoulderText()
