"""The tripod in words and lines."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from types import MappingProxyType
from typing import TYPE_CHECKING

from msgspec.structs import replace

from equilix.core.analysis import Analysis, warnings_of
from equilix.core.assembly.build import Build, Grasp, Kit, Operator
from equilix.core.kit.parts import Category
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.operator.body import body_of
from equilix.core.uncertainty.output_model import output_model, output_uncertainties
from equilix.core.units import Kind
from equilix.present.drawing.scene import Anchor, Scene, fitted, polygon, polyline, rect
from equilix.present.drawing.tags import Rect
from equilix.present.supports.text import Chosen, FigureRow, OwnScale, Page, SupportText, Verdict
from equilix.present.units import System, figure, uncertainty, unit_of
from equilix.present.words import mid_sentence
from equilix.supports.tripod.drawing import draw_tripod
from equilix.supports.tripod.mechanics import (
    FELT,
    LEFT,
    SUPPORT,
    TILTING,
    WANTS,
    PlateMark,
    TripodCase,
    TripodResult,
    clamp_of,
    plate_marks,
    slid_to,
)
from equilix.supports.tripod.settings import LONG_DOVETAIL, SHORT_PLATE, TripodSettings
from equilix.supports.tripod.table import Resting, settles

if TYPE_CHECKING:
    from equilix.present.drawing.rig_drawing import Projection


def _draw_page(case: TripodCase, kit: Kit, system: System, width: float, height: float) -> Scene:
    scene = Scene()
    marks = plate_marks(case.analysis, kit, _ANYBODY)
    scene.text(0.0, 18.0, "Plate marks for each lens", 14, 600)
    scene.text(264.0, 18.0, "Ahead of the clamp’s middle. Counterbalance as above", 13, 400, "ink2")
    if not marks:
        scene.text(0.0, 48.0, "Put a lens on the build.", 13, 400, "ink2")
        return scene
    _draw_marks(scene, marks, case.settings.travel, system, width, height)
    return scene


class TripodText(SupportText[TripodSettings, TripodResult]):
    """The head's clamp, the plate in it, and a table."""

    needs_grips = False
    support = SUPPORT
    noun = "the clamp"
    label = "plate"
    needs = "Give the head something to hold: a base plate, a cage or a camera with its size."
    here = "The rig stands here."
    moves = "Hold it elsewhere"
    lens_question = "Marks of the plate in its clamp, for each lens"
    closing = (
        "Lock the head before you let go. Check that the clamp has closed. The maker’s limits of head "
        "and legs come first."
    )
    tips = "moment on the level head"
    starts = ("start-cinema", "Cinema rig on a tripod")
    # Generic plates; common practice.
    sizes = (
        ("Long dovetail, 229 mm of travel", MappingProxyType({"travel": LONG_DOVETAIL})),
        ("Short quick-release plate, 76 mm of travel", MappingProxyType({"travel": SHORT_PLATE})),
    )
    place_word = "The clamp holds"
    stuck = "No slide on rig or clamp goes far enough. Clamp another plate, or use a longer one."
    page = Page("Plate marks", _draw_page, follows=False)

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Grasp | None], ...]:
        found: list[tuple[str, Grasp | None]] = [("chosen for you: the lowest plate, cage or camera", None)]
        for placed in build.parts:
            part = kit[placed.part_id]
            if part.category in (Category.PLATE, Category.CAGE, Category.BODY) and part.outline is not None:
                found.append((part.name, Grasp(placed.id, _UNDER)))
        return tuple(found)

    def place(self, settings: TripodSettings) -> Grasp | None:
        return Grasp(settings.plate, _UNDER) if settings.plate else None

    def with_place(self, settings: TripodSettings, place: Chosen) -> TripodSettings:
        assert not isinstance(place, str)
        return replace(settings, plate=place.placed_id if place is not None else "")

    def lacks(self, analysis: Analysis) -> str:
        settings = SUPPORT.settings(analysis.build)
        there = clamp_of(analysis.assembly, analysis.positions, analysis.build, settings)
        return "" if there is not None else "a plate for the head"

    def verdict(self, case: TripodCase, system: System) -> Verdict:
        on_it, equilibrium = case.result, case.equilibrium
        where = _plate_words(case)
        if abs(equilibrium.ahead) <= max(COVERAGE * equilibrium.ahead_uncertainty, FELT):
            pm = f"{uncertainty(equilibrium.ahead_uncertainty, Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
            known = f"within what is known ({pm})"
            if COVERAGE * equilibrium.ahead_uncertainty < FELT:
                known = f"to {figure(FELT, Kind.LENGTH, system)}, which nobody feels"
            return Verdict("Balanced on the head", f"fore and aft, {known}.", note=where)
        falls, leans = ("The nose falls.", "forward") if equilibrium.ahead > 0.0 else ("It falls back.", "back")
        far, way = figure(abs(on_it.slide), Kind.LENGTH, system), "forward" if on_it.slide > 0.0 else "back"
        words = f"Slide the plate {way} {far} in its clamp."
        if on_it.short > 0.0:
            missing = f"The plate would have to go {way} {far}; {figure(on_it.short, Kind.LENGTH, system)} are missing."
            slides = case.settings.travel > 0.0
            words = (
                missing if slides else f"The plate does not slide in this clamp: the rig has to go {way} {far} on it."
            )
        return Verdict(falls, words, leans, where)

    def mark(self, case: TripodCase) -> str:
        on_it, equilibrium = case.result, case.equilibrium
        if warnings_of(case.analysis) or on_it.short > 0.0:
            return "look"
        return "settled" if abs(equilibrium.ahead) <= max(COVERAGE * equilibrium.ahead_uncertainty, FELT) else "part"

    def rows(self, case: TripodCase, system: System) -> tuple[FigureRow, ...]:
        on_it, equilibrium, outputs = case.result, case.equilibrium, output_model(case.analysis)
        assert outputs is not None
        unsure, settings = output_uncertainties(outputs), case.settings
        rows = [
            FigureRow(
                f"CG {self.away(case)}",
                figure(abs(equilibrium.ahead), Kind.LENGTH, system),
                uncertainty(equilibrium.ahead_uncertainty, Kind.LENGTH, system),
            ),
            FigureRow(
                f"CG to the {'left' if equilibrium.left > 0.0 else 'right'}"
                if abs(equilibrium.left) >= 0.0005
                else "CG to the side",
                figure(abs(equilibrium.left), Kind.LENGTH, system),
                uncertainty(unsure[LEFT], Kind.LENGTH, system),
            ),
            FigureRow(
                "Moment at 10° nose down",
                figure(on_it.tilting, Kind.MOMENT, system, sign=True),
                uncertainty(unsure[TILTING], Kind.MOMENT, system),
                "above zero the nose falls further",
            ),
            FigureRow(
                "Counterbalance needed",
                figure(on_it.wants, Kind.MOMENT, system),
                uncertainty(unsure[WANTS], Kind.MOMENT, system),
                _step(on_it, settings, system),
            ),
        ]
        if on_it.table is not None:
            angle = math.degrees(on_it.table.angle)
            stands = f"stands up to {angle:.0f}° of tilt" if on_it.table.stands else f"tips {_over(case)}"
            note = f"on {_names(case)}"
            fallen = _settles(case) if not on_it.table.stands else None
            if fallen is not None:
                rests = _part_names(case, fallen.over)
                note += f"; it comes to rest on {rests}, up to {math.degrees(fallen.angle):.0f}°"
            if on_it.folded is not None:
                gone = [k for k in on_it.table.over if k not in on_it.folded.over]
                often = Counter(mid_sentence(case.analysis.assembly.parts[k].name.split(",")[0]) for k in gone)
                names = [name if n == 1 else f"{name}s" for name, n in often.items()]
                then = (
                    f"stands up to {math.degrees(on_it.folded.angle):.0f}° of tilt"
                    if on_it.folded.stands
                    else "tips less"
                )
                note += f". Fold the {' and the '.join(names[:2])} away: {then}"
            rows.append(FigureRow("On a table", stands, "", note))
        if on_it.screen is not None:
            rows.append(_screen_row(case, settings, system))
        return tuple(rows)

    def effects(self, before: TripodCase, after: TripodCase, system: System) -> tuple[str, ...]:
        was, then = before.result, after.result
        old, new = (figure(it.wants, Kind.MOMENT, system, unit=False) for it in (was, then))
        return (f"counterbalance {old} → {figure(then.wants, Kind.MOMENT, system)}",) if old != new else ()

    def own_scale(self, case: TripodCase) -> OwnScale | None:
        on_it, settings = case.result, case.settings
        if settings.travel <= 0.0:
            return None
        half = settings.travel / 2.0
        level = settings.slid + on_it.slide
        return OwnScale("Plate in the clamp", -half, half, settings.slid, level, "plate", " in the clamp")

    def with_slide(self, build: Build, setting: float) -> Build:
        return slid_to(build, setting)

    room = (0.21, 0.0)
    small_room = (0.44, 0.0)

    def draw_point(self, scene: Scene, x: float, y: float, height: float, floor: float, scale: float) -> None:
        """Draw clamp, head, bowl and legs, and the plumb line of the clamp's middle."""
        self.draw_stand(scene, x, y, floor, scale)
        scene.line(x, y + 0.25 * scale, x, height, "ink", 1.2)

    def draw_stand(self, scene: Scene, x: float, y: float, floor: float, scale: float) -> None:
        draw_tripod(scene, (x, y), floor, scale)

    def solid(self, x: float, y: float, scale: float) -> tuple[Rect, ...]:
        return (Rect(x - 0.10 * scale, y, x + 0.10 * scale, y + 0.20 * scale),)

    def draw_room(self, scene: Scene, case: TripodCase, projection: Projection, ruler_y: float) -> None:
        """Draw on the ruler how far the plate can slide in the clamp."""
        on_it, settings = case.result, case.settings
        middle, half = float(on_it.clamp.middle[0]), settings.travel / 2.0
        left, right = projection.x(middle - half), projection.x(middle + half)
        scene.path(rect(left, ruler_y - 3.5, right - left, 7, 0), "p3", "ink2", 0.8)


_UNDER = "plate"
_ANYBODY = Operator("nobody", "Nobody")


def _draw_marks(
    scene: Scene, marks: tuple[PlateMark, ...], travel: float, system: System, width: float, height: float
) -> None:
    """Draw a row for each lens and battery: its name, a rule with its marks, with and without what sits on the lens."""
    keys = list(dict.fromkeys((mark.lens, mark.battery) for mark in marks))
    most = max(int((height - 64.0) / 22.0), 1)
    left, right = 330.0, width - 210.0
    half = travel / 2.0

    def x(value: float) -> float:
        return (left + right) / 2.0 + (right - left) / 2.0 * max(min(value / half, 1.15), -1.15) / 1.15

    scene.text(right + 20.0, 40.0, "with everything on it", 12, 400, "ink2")
    scene.text(width, 40.0, "lens alone", 12, 400, "ink2", Anchor.END)
    for row, (lens, battery) in enumerate(keys[:most]):
        y = 60.0 + 22.0 * row
        words = f"{lens}, {battery}" if battery else lens
        scene.text(0.0, y, fitted(words, 13, left - 20.0), 13)
        scene.line(x(-half), y - 4.0, x(half), y - 4.0, "rule2", 1.4)
        for end in (-half, half):
            scene.line(x(end), y - 9.0, x(end), y + 1.0, "ink2", 1.0)
        for mark in marks:
            if (mark.lens, mark.battery) != (lens, battery):
                continue
            at = x(mark.mark)
            tone = "fwd" if mark.short > 0.0 else "accent"
            corners = ((at, y - 4.0), (at - 5.0, y - 13.0), (at + 5.0, y - 13.0))
            if mark.bare:
                scene.path(polyline((*corners, corners[0])), None, tone, 1.3)
            else:
                scene.path(polygon(corners), tone)
            text = figure(mark.mark, Kind.LENGTH, system, sign=True)
            if mark.short > 0.0:
                text = f"{figure(mark.short, Kind.LENGTH, system)} too little travel"
            color = "fwdT" if mark.short > 0.0 else "ink"
            if mark.bare:
                scene.text(width, y, text, 13, 600, color, Anchor.END)
            else:
                scene.text(right + 104.0, y, text, 13, 600, color, Anchor.END)
    if len(keys) > most:
        scene.text(0.0, 60.0 + 22.0 * most, f"{len(keys) - most} more lenses do not fit here.", 12, 400, "ink2")


def _step(on_it: TripodResult, settings: TripodSettings, system: System) -> str:
    if settings.counter is None or on_it.step is None:
        return "enter the head’s greatest, for the step"
    if settings.steps >= 1.0:
        number = round(on_it.step / (settings.counter / settings.steps))
        return f"step {number} of {settings.steps:.0f}: {figure(on_it.step, Kind.MOMENT, system)}"
    return f"set it to {100.0 * on_it.step / settings.counter:.0f} %"


def _settles(case: TripodCase) -> Resting | None:
    return settles(case.analysis.assembly, case.analysis.positions, case.body)


def _names(case: TripodCase) -> str:
    assert case.result.table is not None
    return _part_names(case, case.result.table.over)


def _part_names(case: TripodCase, parts: Sequence[int]) -> str:
    names = [case.analysis.assembly.parts[k].name.split(",")[0] for k in parts]
    often = Counter(name[:1].lower() + name[1:] if name[1:2].islower() else name for name in names)
    kinds = [name if n == 1 else f"{n} {name}s" for name, n in often.items()]
    left = sum(n for n in list(often.values())[2:])
    return " and ".join(kinds[:2]) + (f" and {left} more" if left else "")


def _over(case: TripodCase) -> str:
    """Return over which edge of what it stands on the rig tips."""
    assert case.result.table is not None
    edge = case.result.table.edge
    across = abs(float(edge[1][0] - edge[0][0])) < abs(float(edge[1][1] - edge[0][1]))
    body = case.body
    if across:
        return "forward" if float(body.cg[0]) > float(edge[:, 0].mean()) else "back"
    return "to the left" if float(body.cg[1]) > float(edge[:, 1].mean()) else "to the right"


def _screen_row(case: TripodCase, settings: TripodSettings, system: System) -> FigureRow:
    assert case.result.screen is not None
    equilibrium = case.equilibrium
    eye = float(body_of(equilibrium.pose.stance.operator, settings.seated).eye[2])
    off = case.result.screen - eye
    words = figure(case.result.screen, Kind.LENGTH, system)
    side = "above" if off > 0.0 else "below"
    sits = "sitting" if settings.seated else "standing"
    note = f"{figure(abs(off), Kind.LENGTH, system)} {side} the eye, operator {sits}"
    return FigureRow("Screen height", words, "", note)


def _plate_words(case: TripodCase) -> str:
    if not case.result.clamp.usual:
        return ""
    part = case.analysis.assembly.parts[case.result.clamp.part].name.split(",")[0]
    return f"No plate is chosen. The clamp holds the {part[:1].lower() + part[1:]}."


TEXT = TripodText()
