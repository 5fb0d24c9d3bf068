"""The gimbal in words and lines."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import cached_property
from types import MappingProxyType

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding, warnings_of
from equilix.core.assembly.build import Build, Kit, Operator, Settings
from equilix.core.assembly.resolve import all_corners
from equilix.core.doubt.gauges import Gauge, Gauges, doubts_of, gauges_of
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.uncertainty import COVERAGE, Certainty, certainty
from equilix.core.measurement.lesson import CONTRADICTS
from equilix.core.solver.scales import Step
from equilix.core.statics.stages import BESIDE, BY_MAKE, LEAN, Stage, Stages, Trouble, peak_torque
from equilix.core.statics.turning import torque_over
from equilix.present.drawing.scales import Elevation
from equilix.present.drawing.scene import Scene, fitted, text_width
from equilix.present.drawing.three_axes import AxisView, Curve, draw_curve, draw_views
from equilix.present.drawing.work_order import THERE, Work, draw_lens_rows, draw_order, far_words, meets_words
from equilix.present.supports.labels import LABELS
from equilix.present.supports.text import (
    Chosen,
    Field,
    FigureRow,
    Measured,
    SupportText,
    Verdict,
    index_of,
    screw_words,
)
from equilix.present.units import Kind, System, doubt, figure, number, unit_of
from equilix.present.words import mid_sentence, minutes, slider_of
from equilix.supports.gimbal.mechanics import (
    CARRIERS,
    GAUGE_OF,
    MODES,
    SUPPORT,
    AxisGauge,
    GimbalFinding,
    GimbalSettings,
    gimbal_of,
    gravity_torques,
    lens_marks,
    nearest_passing,
    need_of,
    on_gimbal_of,
    order_of_work,
    passings,
    payload_of,
    run_time,
    stages_of,
    still_coached,
)

#: What a CG beside an axis is called, below zero and above.
_SIDES = {
    ("tilt", "x"): ("back-heavy", "nose-heavy"),
    ("tilt", "z"): ("bottom-heavy", "top-heavy"),
    ("roll", "y"): ("heavy on the right", "heavy on the left"),
    ("roll", "z"): ("bottom-heavy", "top-heavy"),
    ("pan", "x"): ("heavy behind", "heavy ahead"),
    ("pan", "y"): ("heavy on the right", "heavy on the left"),
}
#: m from which what it swings past is worth a row.
_NEAR = 0.15
#: px: the order of work below the views.
_ORDER = 150.0


#: What is wrong with a gimbal's axes, and what to do.
_TROUBLES = {
    Trouble.SKEW: "An axis lies askew: join tilt across, roll ahead and pan upright.",
    Trouble.ORDER: "The axes stand in another order: from the camera outwards it is tilt, roll, pan.",
    Trouble.TWICE: "An axis is there twice: a gimbal has one of each. Let one of the two be a plain joint.",
    Trouble.NO_TILT: "No tilt axis lies between the camera and the rest: join one there.",
    Trouble.NO_MASS: "A stage has no mass: enter what its parts weigh.",
}


class GimbalText(SupportText):
    """Three axes, five scales, three motors."""

    name = LABELS["gimbal"].name
    noun = "the tilt axis"
    label = "tilt axis"
    needs = (
        "Its axes don’t make a gimbal: join the parts by a tilt axis across, a roll axis ahead and a pan axis upright, "
        "from the camera outwards, and give each stage a mass."
    )
    here = "The camera will hang here."
    moves = "Hang things elsewhere"
    lens_question = "Marks of all scales that balance it, for each lens"
    closing = (
        "Motors off and brakes free while you balance; keep fingers out of the joints, and hold the camera until all "
        "three axes stay. The maker’s greatest payload comes first."
    )
    tips = "moment about the tilt axis"
    left_over = "Left over on tilt, fore and aft:"
    stuck = "The scales alone do not reach, and no way was found among what can be moved or left off."
    picture = ("Three axes", "motors off; drag the scales or a part")
    page = "Torque"
    trades = False
    tolerant = False
    compares = True
    bench = "Coach"
    lens_page = True
    place_word = "Held"
    own_warnings = MappingProxyType(
        {
            GimbalFinding.OVER_PAYLOAD: "it is over the gimbal’s payload",
            GimbalFinding.SWINGS_INTO: "{} swings into {}",
            GimbalFinding.OVER_MOTOR: "a motor can’t hold it",
            GimbalFinding.ONE_SCREW: "one screw holds a long lever",
            GimbalFinding.AXIS_OUTSIDE: "an axis lies outside the rig",
            GimbalFinding.CABLES: "several cables cross an axis",
        }
    )

    @cached_property
    def warnings(self) -> Mapping[str, str]:  # type: ignore[override]
        """Its own, and those of what may carry it."""
        from equilix.present.supports import text_for

        found: dict[str, str] = dict(self.own_warnings.items())
        for key in CARRIERS:
            found |= {kind: words for kind, words in text_for(key).warnings.items() if kind not in found}
        return found

    kinds = MappingProxyType(
        {
            AxisGauge.TILT_Z: Kind.LENGTH,
            AxisGauge.ROLL_Y: Kind.LENGTH,
            AxisGauge.ROLL_Z: Kind.LENGTH,
            AxisGauge.PAN_X: Kind.LENGTH,
            AxisGauge.PAN_Y: Kind.LENGTH,
            AxisGauge.TILT_PEAK: Kind.MOMENT,
            AxisGauge.ROLL_PEAK: Kind.MOMENT,
            AxisGauge.PAN_PEAK: Kind.MOMENT,
            AxisGauge.PAYLOAD: Kind.MASS,
        }
    )
    signed = frozenset({AxisGauge.TILT_Z, AxisGauge.ROLL_Y, AxisGauge.ROLL_Z, AxisGauge.PAN_X, AxisGauge.PAN_Y})
    fields = (
        Field("Maker’s greatest payload", "most", Measured.MASS, optional=True),
        Field("Tilt motor, N·m", "tilt_rated", Measured.NUMBER),
        Field("Roll motor, N·m", "roll_rated", Measured.NUMBER),
        Field("Pan motor, N·m", "pan_rated", Measured.NUMBER),
        Field("Balanced within, of the rating", "share", Measured.NUMBER),
        Field("Perfect instead: below the bearings’ friction", "perfect", Measured.YES),
        Field("Friction in tilt, N·m", "tilt_friction", Measured.NUMBER),
        Field("Friction in roll, N·m", "roll_friction", Measured.NUMBER),
        Field("Friction in pan, N·m", "pan_friction", Measured.NUMBER),
        Field("Tilts in use, either way", "tilt_use", Measured.ANGLE),
        Field("Rolls in use, either way", "roll_use", Measured.ANGLE),
        Field("Wanted acceleration, rad/s²", "gain", Measured.NUMBER),
        Field("Cables that cross an axis", "cables", Measured.NUMBER),
        Field("Its battery, Wh", "energy", Measured.NUMBER),
        Field("Takes in balance, W", "idle", Measured.NUMBER),
        Field("A motor’s heat at its rating, W", "heat", Measured.NUMBER),
        Field("Without joined axes they meet, ahead", "pivot_x", Measured.LENGTH),
        Field("and above what all sits on", "pivot_z", Measured.LENGTH),
    )
    # Generic gimbals; common practice.
    sizes = (
        (
            "Small, to 1.6 kg",
            MappingProxyType({"most": 1.6, "tilt_rated": 0.3, "roll_rated": 0.5, "pan_rated": 0.5, "energy": 20.0}),
        ),
        (
            "Middle, to 3.2 kg",
            MappingProxyType({"most": 3.2, "tilt_rated": 0.6, "roll_rated": 1.0, "pan_rated": 1.0, "energy": 40.0}),
        ),
        (
            "Large, to 6.8 kg",
            MappingProxyType({"most": 6.8, "tilt_rated": 1.2, "roll_rated": 2.0, "pan_rated": 2.0, "energy": 90.0}),
        ),
    )

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Chosen], ...]:
        return tuple((f"{words}, {_CARRIED[carrier]}", f"{words}/{carrier}") for carrier in CARRIERS for words in MODES)

    def place(self, settings: Settings) -> Chosen:
        assert isinstance(settings, GimbalSettings)
        return f"{settings.way}/{settings.carrier}"

    def put(self, settings: Settings, place: Chosen) -> Settings:
        assert isinstance(settings, GimbalSettings)
        assert isinstance(place, str)
        way, _, carrier = place.partition("/")
        return replace(settings, way=way, carrier=carrier)

    def where(self, analysis: Analysis) -> str:
        stand = analysis.stand
        if stand is None:
            return ""
        return f"{'ahead of' if stand.ahead >= 0.0 else 'behind'} {self.noun}"

    def needed(self, analysis: Analysis) -> str:
        found = stages_of(analysis.assembly, analysis.positions, analysis.build)
        return _TROUBLES[found] if isinstance(found, Trouble) else self.needs

    def lacks(self, analysis: Analysis) -> str:
        found = stages_of(analysis.assembly, analysis.positions, analysis.build)
        return f"a gimbal: {found}" if isinstance(found, Trouble) else ""

    def gauge(self, gauge: str) -> str:
        return "tilt, CG ahead of its axis" if gauge == Gauge.AHEAD else super().gauge(gauge)

    # The answer

    def verdict(self, analysis: Analysis, system: System) -> Verdict:
        on_it = on_gimbal_of(analysis)
        assert on_it is not None
        settings = gimbal_of(analysis.build)
        worst = _worst(on_it, settings)
        usual = "No axes are joined: they are taken to meet above what everything sits on." if on_it.usual else ""
        usual = usual or _coached_note(analysis, settings)
        if worst is None:
            return _balanced(analysis, on_it, settings, usual)
        stage, beside = worst
        head = f"{_SIDES[stage.name, beside][_beside(stage, beside) > 0.0]} on {stage.name}."
        every = order_of_work(analysis)
        steps = [step for step in every if step.placed_id and abs(step.to - step.now) >= THERE]
        leans = ("back", "forward")[_beside(stage, beside) > 0.0] if (stage.name, beside) == ("tilt", "x") else ""
        if not steps:
            met = meets_words(analysis, every)
            why = f"No scale goes farther, as {met}" if met else "No scale moves that"
            words = f"{why}: hang something elsewhere, or put weight on the other side."
            return Verdict(head[:1].upper() + head[1:], words, leans, usual)
        slider = slider_of(analysis, steps[0].placed_id)
        way = slider.way(steps[0].to - steps[0].now)
        first = f"Set the {slider.name} {way} {far_words(steps[0], system)}"
        more = f", then {len(steps) - 1} more" if len(steps) > 1 else ""
        short = next((step for step in _last(every) if _is_short(step, on_it, settings)), None)
        end = ""
        if short is not None:
            off = figure(abs(short.left), Kind.LENGTH, system)
            side = _SIDES[short.stage, short.beside][short.left > 0.0]
            same = [step for step in every if (step.stage, step.beside) == (short.stage, short.beside)]
            met = meets_words(analysis, same)
            more, end = f"{more}; {off} stay", f"It ends {side}{f', as {met}' if met else ''}. "
        return Verdict(head[:1].upper() + head[1:], f"{first}{more}.", leans, f"{end}{usual}".strip())

    def mark(self, analysis: Analysis) -> str:
        on_it = on_gimbal_of(analysis)
        if on_it is None or warnings_of(analysis):
            return "look"
        return "settled" if _worst(on_it, gimbal_of(analysis.build)) is None else "part"

    def figures(self, analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
        on_it, gauges = on_gimbal_of(analysis), gauges_of(analysis)
        assert on_it is not None
        assert gauges is not None
        unsure, settings = _unsure(gauges), gimbal_of(analysis.build)
        payload = payload_of(analysis, on_it)
        limit = "" if settings.most is None else f"of {figure(settings.most, Kind.MASS, system)}"
        rows = [
            FigureRow(
                "Payload",
                figure(payload, Kind.MASS, system),
                "",
                limit or "enter the maker’s limit",
            )
        ]
        for stage in on_it.stages:
            for beside in BESIDE[stage.name]:
                gauge, value = GAUGE_OF[stage.name, beside], _beside(stage, beside)
                # What no scale clears is only worth a row where there is something.
                if (stage.name, beside) in BY_MAKE and abs(value) < max(2.0 * unsure[gauge], THERE):
                    continue
                if on_it.usual and stage.name != "tilt" and (stage.name, beside) != ("roll", "y"):
                    continue
                rows.append(
                    FigureRow(
                        f"{stage.name.capitalize()}, {_ALONG[beside]}",
                        figure(value, Kind.LENGTH, system, sign=True),
                        doubt(unsure[gauge], Kind.LENGTH, system),
                    )
                )
        stage = max(on_it.stages, key=lambda one: peak_torque(one) / settings.rated(one.name))
        peak, u = peak_torque(stage), unsure[GAUGE_OF[stage.name, ""]]
        rows.append(
            FigureRow(
                f"{stage.name.capitalize()} motor, worst of all",
                f"{100.0 * peak / settings.rated(stage.name):.0f} %",
                f"± {200.0 * u / settings.rated(stage.name):.0f}",
                _sure(peak, u, settings.window(stage.name)),
            )
        )
        rows += self._more_rows(analysis, on_it, settings, system)
        return tuple(rows)

    def _more_rows(
        self, analysis: Analysis, on_it: Stages, settings: GimbalSettings, system: System
    ) -> list[FigureRow]:
        rows = []
        one = nearest_passing(analysis, on_it, _NEAR)
        if one is not None:
            names = [mid_sentence(analysis.assembly.parts[k].name.split(",")[0]) for k in (one.first, one.second)]
            at = f"{number(math.degrees(one.angle), 0, sign=True)}°"
            rows.append(
                FigureRow(
                    "Swings clear by" if one.gap > 0.0 else "Swings in by",
                    figure(abs(one.gap), Kind.LENGTH, system),
                    "",
                    f"{names[0]}, {names[1]}, {at}",
                )
            )
        inner = on_it.stages[0]
        need = need_of(analysis, inner, settings)
        rows.append(
            FigureRow(
                "Tilt motor, moving",
                f"{100.0 * need.whole / settings.rated(inner.name):.0f} %",
                "",
                f"at {settings.gain:g} rad/s², panning too",
            )
        )
        lasts, best = run_time(on_it, settings)
        beyond = any(peak_torque(stage) > settings.rated(stage.name) for stage in on_it.stages)
        if settings.way != "upright":
            rows.append(_held_row(analysis, on_it, settings))
        if beyond:
            rows.append(FigureRow("Life while holding", "–", "", "a motor can’t hold it at its worst"))
        elif math.isfinite(lasts):
            rows.append(
                FigureRow(
                    "Life while holding, about",
                    minutes(lasts),
                    "",
                    f"{minutes(best)} in balance; moves take more",
                )
            )
        rows.append(FigureRow("Power off", _falls(inner, settings), "", ""))
        return rows

    def _carrier(self, analysis: Analysis) -> SupportText:
        from equilix.present.supports import text_for

        return text_for(gimbal_of(analysis.build).carrier)

    def limit_wanted(self, analysis: Analysis) -> str:
        return self._carrier(analysis).limit_wanted(analysis)

    def caution(self, finding: Finding, analysis: Analysis, operator: Operator, system: System) -> str:
        if finding.kind not in self.own_warnings:
            return self._carrier(analysis).load_caution(finding, analysis, system)
        name = analysis.assembly.parts[index_of(analysis, finding.placed_ids[0])].name
        if finding.kind == GimbalFinding.OVER_PAYLOAD:
            carries, most = (figure(v, Kind.MASS, system) for v in (finding.amount, finding.limit or 0.0))
            return f"It carries {carries}, and its maker allows {most}: leave something off, or take a larger gimbal."
        if finding.kind == GimbalFinding.SWINGS_INTO:
            other = analysis.assembly.parts[index_of(analysis, finding.placed_ids[1])].name
            on_it = on_gimbal_of(analysis)
            met = next(
                (
                    one.meets
                    for one in (passings(analysis, on_it, 0.0) if on_it is not None else ())
                    if analysis.build.parts[one.first].id == finding.placed_ids[0]
                    and analysis.build.parts[one.second].id == finding.placed_ids[1]
                ),
                None,
            )
            at = "" if met is None else f" at {number(math.degrees(met), 0, sign=True)}°"
            deep = figure(finding.amount, Kind.LENGTH, system)
            return f"{name} swings into the {mid_sentence(other.split(',')[0])}{at}, by {deep} at most."
        if finding.kind == GimbalFinding.OVER_MOTOR:
            torque, most = (figure(v, Kind.MOMENT, system, extra=1) for v in (finding.amount, finding.limit or 0.0))
            on_it = on_gimbal_of(analysis)
            stages = on_it.stages if on_it is not None else ()
            which = next((one.name for one in stages if peak_torque(one) == finding.amount), "it")
            return f"At its worst angle {which} takes {torque}, and its motor gives {most}."
        if finding.kind == GimbalFinding.ONE_SCREW:
            return screw_words(name, finding, system)
        if finding.kind == GimbalFinding.AXIS_OUTSIDE:
            far = figure(finding.amount, Kind.LENGTH, system)
            return (
                f"The axis of the {mid_sentence(name.split(',')[0])} lies {far} from all that turns on it: check its "
                "joint."
            )
        return f"{finding.amount:.0f} cables cross an axis: each pulls as it bends. Lead all but one off the camera."

    def slides_title(self, count: int, closely: bool = True) -> str:
        if count < 2:
            return ""
        return f"Set the {count} scales" if closely else f"Set {count} scales, enough for the window"

    def effects(self, before: Analysis, after: Analysis, system: System) -> tuple[str, ...]:
        was, then = on_gimbal_of(before), on_gimbal_of(after)
        if was is None or then is None:
            return ()
        settings, words = gimbal_of(after.build), []
        for old, new in zip(was.stages, then.stages, strict=False):
            shares = [100.0 * peak_torque(stage) / settings.rated(stage.name) for stage in (old, new)]
            words.append(f"{new.name} motor {shares[0]:.0f} → {shares[1]:.0f} %")
        return tuple(words)

    def beside(self, analysis: Analysis, other: Analysis, system: System) -> str:
        mine, its = on_gimbal_of(analysis), on_gimbal_of(other)
        if mine is None or its is None:
            return ""
        here, there = ({part.id: part.name for part in one.assembly.parts} for one in (analysis, other))
        more = [mid_sentence(name.split(",")[0]) for part_id, name in there.items() if part_id not in here]
        less = [mid_sentence(name.split(",")[0]) for part_id, name in here.items() if part_id not in there]
        by = payload_of(other, its) - payload_of(analysis, mine)
        words = f"{other.build.name} carries {figure(abs(by), Kind.MASS, system)} {'more' if by > 0.0 else 'less'}"
        words += f": with {', '.join(more)}" if more else ""
        words += f"{',' if more else ':'} without {', '.join(less)}" if less else ""
        set_so = [on_gimbal_of(analyse(set_by(one), one.assembly.kit, _ANYBODY, one)) for one in (analysis, other)]
        shares = []
        for one in set_so:
            assert one is not None
            settings = gimbal_of((analysis if one is set_so[0] else other).build)
            shares.append(max(100.0 * peak_torque(stage) / settings.rated(stage.name) for stage in one.stages))
        return f"{words}. With all scales set the worst motor holds {shares[1]:.0f} %, here {shares[0]:.0f} %."

    # Drawings

    def draw_picture(
        self,
        analysis: Analysis,
        system: System,
        width: float,
        height: float,
        selected: str | None,
        preview: Analysis | None,
        held: Elevation | None,
    ) -> Elevation | None:
        on_it = on_gimbal_of(analysis)
        if on_it is None:
            return None
        scene = Scene()
        top = 36.0
        projection, standing = draw_views(
            scene,
            analysis,
            _views(analysis, on_it, system),
            (0.0, top, width, height - top - _ORDER),
            selected,
            preview,
            held.views if held is not None else (),
        )
        scales = draw_order(scene, _work(analysis, on_it, system), system, (0.0, height - _ORDER + 6.0, width))
        return Elevation(scene, projection, scales, projection.x0, {}, standing)

    def draw_lenses(self, analysis: Analysis, kit: Kit, system: System, width: float, height: float) -> Scene:
        scene = Scene()
        on_it, rows = on_gimbal_of(analysis), lens_marks(analysis, kit)
        scene.text(0.0, 18.0, self.lens_question, 14, 600)
        beside = text_width(self.lens_question, 14) + 32.0
        if on_it is None or not rows:
            scene.text(0.0, 48.0, "No lens is on the build, or no axes are joined.", 13, 400, "ink2")
            return scene
        words = "counted from each scale’s low end; bold: as it stands now"
        if width >= beside + text_width(words, 12):
            scene.text(beside, 18.0, words, 12, 400, "ink2")
        draw_lens_rows(scene, _work(analysis, on_it, system), rows, system, (width, height))
        return scene

    def draw_page(self, analysis: Analysis, system: System, width: float, height: float) -> Scene:
        scene = Scene()
        on_it = on_gimbal_of(analysis)
        if on_it is None:
            return scene
        curves = _curves(analysis, on_it)
        wide = width / len(curves)
        for k, curve in enumerate(curves):
            draw_curve(scene, curve, (k * wide, 0.0, wide - 12.0, height - 20.0))
        legend = "Solid: now, with its doubt. Dashed: after all steps. Tinted: balanced. Hatched: beyond the motor."
        scene.text(0.0, height - 4.0, fitted(legend, 12, 1.12 * width), 12, 400, "ink2")
        return scene


#: The same below a view, where there is little room.
_SHORT = {"x": "fore-aft", "y": "left", "z": "up"}
#: What carries the whole gimbal, in words.
_CARRIED = {"handheld": "in the hands", "harness": "on a harness", "vest": "on a spring arm"}
_ALONG = {"x": "fore-aft", "y": "left-right", "z": "vertical"}
_LOOKS: Mapping[str, tuple[str, str, int, int, bool]] = MappingProxyType(
    {
        "tilt": ("Side", "along the tilt axis", 0, 2, False),
        "pan": ("Top", "along the pan axis", 0, 1, False),
        # From ahead: what is left stands at the right.
        "roll": ("Front", "along the roll axis", 1, 2, False),
    }
)


def _beside(stage: Stage, beside: str) -> float:
    return stage.beside[BESIDE[stage.name].index(beside)]


def _worst(on_it: Stages, settings: GimbalSettings) -> tuple[Stage, str] | None:
    """Return the first stage in working order that is out of its window, and the way in which it is so most."""
    for stage in on_it.stages:
        if peak_torque(stage) > settings.window(stage.name):
            return stage, max(BESIDE[stage.name], key=lambda one: abs(_beside(stage, one)))
    return None


def _balanced(analysis: Analysis, on_it: Stages, settings: GimbalSettings, note: str) -> Verdict:
    """Return the verdict on a gimbal within its windows: as felt, as the guesses go, or surely."""
    gauges = gauges_of(analysis)
    assert gauges is not None
    unsure = _unsure(gauges)
    open_yet = [
        stage.name
        for stage in on_it.stages
        if certainty(settings.window(stage.name) - peak_torque(stage), unsure[GAUGE_OF[stage.name, ""]])
        is not Certainty.CLEAR
    ]
    how = "The bearings’ friction holds" if settings.perfect else "The motors hold"
    if SUPPORT.observed(analysis):
        return Verdict("Balanced on all axes.", f"{how} each axis by itself, as the coach found.", note=note)
    if open_yet:
        which = " and ".join(open_yet)
        words = f"The ± of {which} is wider than the window: weigh the parts, or let the coach look."
        return Verdict("Balanced as far as the guesses go.", words, note=note)
    words = f"{how} each axis by itself at any angle, pan with the frame leaned up to {math.degrees(LEAN):.0f}°."
    return Verdict("Balanced on all axes.", words, note=note)


def _coached_note(analysis: Analysis, settings: GimbalSettings) -> str:
    """Return what is to be said of what the coach found: of other parts, or of figures that it contradicts."""
    coached = settings.coached
    if coached is None:
        return ""
    if not still_coached(analysis.assembly, analysis.build):
        return "What the coach found was of other parts: let it look again."
    if coached.parted > CONTRADICTS:
        suspect = next((k for k, p in enumerate(analysis.build.parts) if p.id == coached.suspect), None)
        name = "a part" if suspect is None else analysis.assembly.parts[suspect].name
        return f"The coach found another balance than the parts’ figures say: check mass and CG of {name}."
    return ""


def _work(analysis: Analysis, on_it: Stages, system: System) -> Work:
    """Return the order of work as it is drawn."""
    steps, settings = order_of_work(analysis), gimbal_of(analysis.build)
    loose = ""
    for step in _last(steps):
        if not loose and not step.placed_id and _is_short(step, on_it, settings):
            off, side = figure(abs(step.left), Kind.LENGTH, system), _SIDES[step.stage, step.beside][step.left > 0.0]
            loose = f"{step.stage} ends {off} {side}: no scale for it"

    def left(step: Step) -> str:
        return f"{figure(abs(step.left), Kind.LENGTH, system)} stay"

    def briefly(step: Step) -> str:
        return figure(abs(step.left), Kind.LENGTH, system).split()[0]

    brackets = "In brackets: what stays beside the axis."
    return Work(analysis, steps, lambda step: _is_short(step, on_it, settings), loose, left, briefly, brackets)


def _last(steps: tuple[Step, ...]) -> list[Step]:
    """Return the last step of each form: what is left in the end."""
    return list({(step.stage, step.beside): step for step in steps}.values())


def _is_short(step: Step, on_it: Stages, settings: GimbalSettings) -> bool:
    stage = on_it.stage(step.stage)
    assert stage is not None
    share = math.sin(LEAN) if step.stage == "pan" else 1.0
    return abs(step.left) * stage.weight * share > settings.window(step.stage)


def _sure(peak: float, u: float, window: float) -> str:
    sure = certainty(window - peak, u)
    words = {Certainty.CLEAR: "inside the window", Certainty.CANNOT_SAY: "may be inside the window"}
    return words.get(sure, "over the window")


def _held_row(analysis: Analysis, on_it: Stages, settings: GimbalSettings) -> FigureRow:
    """Return what the motors hold as the gimbal is held, camera ahead."""
    torques = gravity_torques(analysis, on_it, MODES[settings.way])
    shares = {name: abs(torque) / settings.rated(name) for name, torque in torques.items()}
    worst = max(shares, key=lambda name: shares[name])
    return FigureRow(
        f"Held {settings.way}", f"{100.0 * shares[worst]:.0f} %", "", f"of the {worst} motor, all the time"
    )


def _falls(stage: Stage, settings: GimbalSettings) -> str:
    """Return what a tilt stage does when the power goes off while it stands level."""
    along, up = stage.beside
    if abs(along) * stage.weight > settings.friction("tilt"):
        return "nose falls" if along > 0.0 else "falls back"
    if up * stage.weight > settings.friction("tilt"):
        return "stays, then falls on"
    return "stays level" if -up * stage.weight <= settings.friction("tilt") else "swings back level"


def _reach(analysis: Analysis, stage: Stage) -> tuple[float, float]:
    """Return how far (m) from an axis the parts of a stage reach, ahead and behind."""
    beside = [i for i in range(3) if i != stage.about]
    parts = np.flatnonzero(stage.parts & analysis.assembly.sized)
    corners = all_corners(analysis.assembly, analysis.positions, parts)
    away = corners[..., beside] - stage.point[beside]
    far, forward = np.hypot(away[..., 0], away[..., 1]), away[..., 0] > 0.0
    return float(far[forward].max(initial=0.0)), float(far[~forward].max(initial=0.0))


def _unsure(gauges: Gauges) -> dict[str, float]:
    """Return the standard uncertainties of what is shown of the axes."""
    return doubts_of(gauges, tuple(gauge for gauge in GAUGE_OF.values() if gauge in gauges.offered))


def _views(analysis: Analysis, on_it: Stages, system: System) -> tuple[AxisView, ...]:
    gauges, settings = gauges_of(analysis), gimbal_of(analysis.build)
    assert gauges is not None
    unsure = _unsure(gauges)
    count = len(analysis.assembly.parts)
    everything = frozenset(range(count))
    outside = frozenset(np.flatnonzero(~on_it.stages[-1].parts).tolist())
    views = []
    for name in ("tilt", "pan", "roll"):
        stage = on_it.stage(name)
        if stage is None:
            continue
        title, along, across, up, flips = _LOOKS[name]
        shown = everything - outside if name == "pan" and len(outside) < count else everything
        lies = {
            _SHORT[beside]: figure(_beside(stage, beside), Kind.LENGTH, system, sign=True, unit=False)
            for beside in BESIDE[name]
        }
        unit = unit_of(Kind.LENGTH, system)
        words = f"{', '.join(f'{way} {far}' for way, far in lies.items())} {unit}"
        sweeps: tuple[tuple[float, float, float], ...] = ()
        if name == "tilt":
            # A lens comes round ahead, a tail behind.
            ahead, behind = _reach(analysis, stage)
            sweeps = ((ahead, 0.0, settings.tilt_use), (behind, math.pi, settings.tilt_use))
        share = math.sin(LEAN) if name == "pan" else 1.0
        axes = {"tilt": (0, 2), "pan": (0, 1), "roll": (1, 2)}[name]
        by = {"x": 0, "y": 1, "z": 2}
        doubts = {by[beside]: COVERAGE * unsure[GAUGE_OF[name, beside]] for beside in BESIDE[name]}
        views.append(
            AxisView(
                title,
                along,
                name,
                stage.point,
                stage.cg,
                across,
                up,
                flips,
                settings.window(name) / math.sqrt(2.0) / (stage.weight * share),
                (doubts[axes[0]], doubts[axes[1]]),
                words,
                f"{', '.join(lies.values())} {unit}",
                shown,
                sweeps,
                tuple((other.name, other.point) for other in on_it.stages if other.name != name),
            )
        )
    return tuple(views)


def _curves(analysis: Analysis, on_it: Stages) -> tuple[Curve, ...]:
    """Return the torque on each motor over its angle, now and after all steps; on pan over the frame's lean."""
    gauges, settings = gauges_of(analysis), gimbal_of(analysis.build)
    assert gauges is not None
    unsure = _unsure(gauges)
    # Only its stages are asked for: nothing else of the rig as it will be is worked out.
    wanted, assembly = set_by(analysis), analysis.assembly
    after = stages_of(assembly, assembly.at(assembly.settings(wanted)), wanted)
    assert isinstance(after, Stages)
    found = []
    for stage in on_it.stages:
        then = after.stage(stage.name)
        assert then is not None
        u = [STANDARD_GRAVITY * stage.mass * unsure[GAUGE_OF[stage.name, beside]] for beside in BESIDE[stage.name]]
        if stage.name == "pan":
            # Over the lean, nose down: what lies aside turns it; the worst way counts.
            angles = np.linspace(-math.pi / 4.0, math.pi / 4.0, 61)
            over = "frame leaned the worst way"
            curves = [one.weight * math.hypot(*one.beside) * np.sin(angles) for one in (stage, then)]
            spread = math.hypot(*u) * np.abs(np.sin(angles)) / math.sqrt(2.0)
        else:
            most = math.pi / 2.0 if stage.name == "tilt" else math.pi / 4.0
            angles = np.linspace(-most, most, 61)
            over = "nose down +" if stage.name == "tilt" else "left side up +"
            curves = [_over_turn(one, angles) for one in (stage, then)]
            spread = np.hypot(u[0] * np.cos(angles), u[1] * np.sin(angles))
        found.append(
            Curve(
                f"{stage.name.capitalize()} motor",
                over,
                angles,
                curves[0],
                spread,
                curves[1],
                settings.window(stage.name),
                settings.rated(stage.name),
            )
        )
    return tuple(found)


def _over_turn(stage: Stage, angles: np.ndarray) -> np.ndarray:
    """Return gravity's torque (n,) (N m) about a stage's axis as it turns, the others level."""
    along, up = stage.beside
    if stage.name == "roll":
        # Left is lifted by a positive roll: ``-W (dy cos f - dz sin f)``.
        return -torque_over(stage.weight, along, -up, angles)
    return torque_over(stage.weight, along, up, angles)


def set_by(analysis: Analysis) -> Build:
    """Return the build with all its scales set as the order of work says."""
    build = analysis.build
    for step in order_of_work(analysis):
        if step.placed_id:
            build = build.with_placed(replace(build.placed(step.placed_id), setting=step.to))
    return build


_ANYBODY = Operator("nobody", "Nobody")

TEXT = GimbalText()
