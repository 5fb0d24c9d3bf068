"""The bare hands in words."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis, warnings_of
from equilix.core.carry.carried import nose_down, top_handle
from equilix.core.doubt.gauges import Gauge, unsure
from equilix.core.kit.parts import Category, Part
from equilix.core.kit.uncertainty import COVERAGE
from equilix.present.drawing.scene import Scene, circle
from equilix.present.supports.labels import LABELS
from equilix.present.supports.text import FORE_AFT, FigureRow, SupportText, Verdict, hand_rows, hands_words
from equilix.present.units import Kind, System, doubt, figure, unit_of
from equilix.present.words import mid_sentence

if TYPE_CHECKING:
    from equilix.present.drawing.rig_drawing import Projection


class HandheldText(SupportText):
    """The line through both hands, and what the wrists must hold about it."""

    name = LABELS["handheld"].name
    noun = "the hands"
    label = "hands"
    needs = "Give the hands something to hold: a grip, a handle, or a lens and a camera with their sizes."
    here = "The hands will hold the rig here."
    moves = "Move the grips"
    lens_question = "Marks that keep it level in the hands, for each lens"
    closing = "Hand figures are the least effort that works, for planning; not medical advice."
    tips = "see-saw"

    def draw_over(self, scene: Scene, analysis: Analysis, projection: Projection) -> None:
        """Draw where the hands hold a rig that nothing else does, and the line through both."""
        if analysis.stand is None:
            return
        points = [place.point for place in analysis.stand.pose.places]
        spots = [(projection.x(float(p[0])), projection.y(float(p[2]))) for p in points]
        if len(spots) == 2:
            (ax, ay), (bx, by) = spots
            scene.line(ax, ay, bx, by, "ink", 1.4)
        for x, y in spots:
            scene.path(circle(x, y, 6.0), "accent", "panel", 1.5)

    def moves_title(self, after: Analysis) -> str:
        held = _held(after)
        return self.moves if any(part.category is Category.GRIP for part in held) else "Move what the hands hold"

    def verdict(self, analysis: Analysis, system: System) -> Verdict:
        return replace(self._says(analysis, system), note=self._no_grips(analysis))

    def _no_grips(self, analysis: Analysis) -> str:
        """Return what two grips would do, where there are none and the hands hold one behind the other."""
        grips = any(part.category is Category.GRIP for part in analysis.assembly.parts)
        if grips or self.sides(analysis) is FORE_AFT:
            return ""
        names = " and ".join(dict.fromkeys(mid_sentence(part.name.split(",")[0]) for part in _held(analysis)))
        return f"There are no grips: the hands hold {names}. A grip at each side would let both carry it level."

    def _says(self, analysis: Analysis, system: System) -> Verdict:
        stand = analysis.stand
        assert stand is not None
        if stand.holding is None:
            why = "Flat palms only push: give one hand something to close round."
            return Verdict("The hands cannot hold it.", why, stops=True)
        u = stand.ahead_doubt
        if abs(stand.ahead) <= COVERAGE * u:
            pm = f"{doubt(u, Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
            return Verdict("Level in the hands", f"fore and aft, within what is known ({pm}).")
        way = "forward" if stand.tip_moment > 0.0 else "back"
        wrists = figure(abs(stand.tip_moment), Kind.MOMENT, system)
        sides = self.sides(analysis)
        tips = sides.more if stand.ahead >= 0.0 else sides.less
        return Verdict(f"Tips {tips}.", f"The wrists hold {wrists}. {hands_words(analysis, system)}", way)

    def mark(self, analysis: Analysis) -> str:
        stand = analysis.stand
        if stand is None or stand.holding is None or warnings_of(analysis):
            return "look"
        return "settled" if abs(stand.ahead) <= COVERAGE * stand.ahead_doubt else "part"

    def figures(self, analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
        stand = analysis.stand
        assert stand is not None
        both = len(stand.pose.places) == 2
        label = f"CG {self.away(analysis)}"
        rows = [
            FigureRow(
                label,
                figure(abs(stand.ahead), Kind.LENGTH, system),
                doubt(stand.ahead_doubt, Kind.LENGTH, system),
                "from the line through both, seen from above" if both else "",
            ),
            FigureRow(
                "See-saw",
                figure(abs(stand.tip_moment), Kind.MOMENT, system),
                doubt(stand.tip_doubt, Kind.MOMENT, system),
                "what only the wrists or a brace can hold",
            ),
        ]
        rows += hand_rows(analysis, (Gauge.LARGER_HAND,), system)
        hung = _hung(analysis)
        if hung is not None:
            rows.append(hung)
        return tuple(rows)


def _held(analysis: Analysis) -> list[Part]:
    """Return the parts that the hands hold."""
    stand = analysis.stand
    return [analysis.assembly.parts[place.part] for place in stand.pose.places] if stand is not None else []


def _hung(analysis: Analysis) -> FigureRow | None:
    """Return how the rig hangs by its top handle, None without one."""
    handle, body = top_handle(analysis), analysis.body
    if handle is None or body is None:
        return None
    point = handle.point
    if body.cg[2] >= point[2]:
        return FigureRow("By the handle", "turns over", "", "the CG is not below the grip")
    u = unsure(analysis, lambda _mass, cg: np.array([nose_down(cg - point)]))
    pitch = math.degrees(nose_down(body.cg - point))
    pm = f"± {max(round(math.degrees(2.0 * float(u[0]))), 1)}°" if u is not None else ""
    return FigureRow("By the handle", f"{abs(pitch):.0f}° nose {'down' if pitch >= 0.0 else 'up'}", pm)


TEXT = HandheldText()
