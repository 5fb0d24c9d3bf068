"""The bare hands in words."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis, warnings_of
from equilix.core.assembly.build import Operator
from equilix.core.carry.handle import nose_down, top_handle
from equilix.core.kit.parts import Category, Part
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.uncertainty.output_model import LARGER_HAND, unsure
from equilix.core.units import Kind
from equilix.present.drawing.scene import Scene
from equilix.present.supports.text import FORE_AFT, FigureRow, SupportText, Verdict, hand_rows, hands_words
from equilix.present.units import System, figure, uncertainty, unit_of
from equilix.present.words import mid_sentence
from equilix.supports.handheld.mechanics import SUPPORT, HandheldCase, HandheldResult
from equilix.supports.handheld.settings import HandheldSettings

if TYPE_CHECKING:
    from equilix.present.drawing.rig_drawing import Projection


class HandheldText(SupportText[HandheldSettings, HandheldResult]):
    """The line through both hands, and what the wrists must hold about it."""

    support = SUPPORT
    noun = "the hands"
    label = "hands"
    needs = "Give the hands something to hold: a grip, a handle, or a lens and a camera with their sizes."
    here = "The hands hold the rig here."
    moves = "Move the grips"
    lens_question = "Marks that keep it level in the hands, for each lens"
    closing = "Hand forces are the least that work, for planning. Not medical advice."
    tips = "see-saw"
    starts = ("start-stills", "Light rig in the hands")
    from_above = True

    room = (0.07, 0.0)
    beside_width = 196.0
    small_room = (0.12, 0.0)

    def draw_wearer(
        self, scene: Scene, case: HandheldCase, projection: Projection, operator: Operator, floor: float
    ) -> None:
        from equilix.supports.handheld.drawing import draw_far_hand

        draw_far_hand(scene, case, projection)

    def draw_over(self, scene: Scene, case: HandheldCase, projection: Projection) -> None:
        from equilix.supports.handheld.drawing import draw_see_saw

        self.draw_hold(scene, case, projection)
        draw_see_saw(scene, [projection.point(place.point) for place in case.equilibrium.pose.places])

    def draw_hold(self, scene: Scene, case: HandheldCase, projection: Projection) -> None:
        from equilix.supports.handheld.drawing import draw_near_hand

        draw_near_hand(scene, case, projection)

    def draw_beside(
        self,
        scene: Scene,
        case: HandheldCase,
        operator: Operator,
        system: System,
        area: tuple[float, float, float, float],
    ) -> None:
        from equilix.supports.handheld.drawing import draw_from_above

        draw_from_above(scene, case, system, area)

    def moves_title(self, after: Analysis) -> str:
        case = SUPPORT.case(after)
        held = _held(case) if case is not None else []
        return self.moves if any(part.category is Category.GRIP for part in held) else "Move what the hands hold"

    def verdict(self, case: HandheldCase, system: System) -> Verdict:
        return replace(self._says(case, system), note=self._no_grips(case))

    def _no_grips(self, case: HandheldCase) -> str:
        """Return what two grips would do, where there are none and the hands hold one behind the other."""
        grips = any(part.category is Category.GRIP for part in case.analysis.assembly.parts)
        if grips or self.sides(case) is FORE_AFT:
            return ""
        names = " and ".join(dict.fromkeys(mid_sentence(part.name.split(",")[0]) for part in _held(case)))
        return f"There are no grips: the hands hold {names}. One grip a side would level it."

    def _says(self, case: HandheldCase, system: System) -> Verdict:
        equilibrium = case.equilibrium
        if equilibrium.holding is None:
            why = "Flat palms only push: give one hand something to close round."
            return Verdict("The hands cannot hold it.", why, stops=True)
        u = equilibrium.ahead_uncertainty
        if abs(equilibrium.ahead) <= COVERAGE * u:
            pm = f"{uncertainty(u, Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
            return Verdict("Level in the hands", f"fore and aft, within what is known ({pm}).")
        way = "forward" if equilibrium.tip_moment > 0.0 else "back"
        wrists = figure(abs(equilibrium.tip_moment), Kind.MOMENT, system)
        sides = self.sides(case)
        tips = sides.more if equilibrium.ahead >= 0.0 else sides.less
        return Verdict(f"Tips {tips}.", f"The wrists hold {wrists}. {hands_words(case, system)}", way)

    def mark(self, case: HandheldCase) -> str:
        equilibrium = case.equilibrium
        if equilibrium.holding is None or warnings_of(case.analysis):
            return "look"
        return "settled" if abs(equilibrium.ahead) <= COVERAGE * equilibrium.ahead_uncertainty else "part"

    def rows(self, case: HandheldCase, system: System) -> tuple[FigureRow, ...]:
        equilibrium = case.equilibrium
        both = len(equilibrium.pose.places) == 2
        label = f"CG {self.away(case)}"
        rows = [
            FigureRow(
                label,
                figure(abs(equilibrium.ahead), Kind.LENGTH, system),
                uncertainty(equilibrium.ahead_uncertainty, Kind.LENGTH, system),
                "from the line through both hands, seen from above" if both else "",
            ),
            FigureRow(
                "See-saw",
                figure(abs(equilibrium.tip_moment), Kind.MOMENT, system),
                uncertainty(equilibrium.tip_uncertainty, Kind.MOMENT, system),
                "what only wrists or a brace can hold",
            ),
        ]
        rows += hand_rows(case, (LARGER_HAND,), system)
        hung = _hung(case)
        if hung is not None:
            rows.append(hung)
        return tuple(rows)


def _held(case: HandheldCase) -> list[Part]:
    """Return the parts that the hands hold."""
    return [case.analysis.assembly.parts[place.part] for place in case.equilibrium.pose.places]


def _hung(case: HandheldCase) -> FigureRow | None:
    """Return how the rig hangs by its top handle, None without one."""
    handle, body = top_handle(case.analysis), case.body
    if handle is None:
        return None
    point = handle.point
    if body.cg[2] >= point[2]:
        return FigureRow("Hung by its handle", "turns over", "", "the CG is above the handle")
    u = unsure(case.analysis, lambda _mass, cg: np.array([nose_down(cg - point)]))
    pitch = math.degrees(nose_down(body.cg - point))
    pm = f"± {max(round(math.degrees(2.0 * float(u[0]))), 1)}°" if u is not None else ""
    return FigureRow("Hung by its handle", f"{abs(pitch):.0f}° nose {'down' if pitch >= 0.0 else 'up'}", pm)


TEXT = HandheldText()
