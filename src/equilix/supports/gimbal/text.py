"""The gimbal in words and lines."""

from __future__ import annotations

import math
from types import MappingProxyType

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding, warnings_of
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.kit.uncertainty import Certainty, certainty
from equilix.core.measurement.lesson import CONTRADICTS
from equilix.core.statics.stages import BESIDE, BY_MAKE, LEAN, Stage, Stages, Trouble, peak_torque
from equilix.core.uncertainty.output_model import CG_AHEAD, output_model
from equilix.core.units import Kind
from equilix.present.drawing.scales import Elevation
from equilix.present.drawing.work_order import THERE, far_words, meets_words, then_more
from equilix.present.supports.text import (
    Bench,
    Chosen,
    FigureRow,
    Page,
    SupportText,
    Verdict,
    index_of,
)
from equilix.present.units import System, figure, number, uncertainty
from equilix.present.words import mid_sentence, minutes, slider_of
from equilix.supports.gimbal.drawing import (
    LENS_QUESTION,
    SIDES,
    axis_uncertainties,
    draw_lenses,
    draw_page,
    draw_picture,
    is_short,
    last_steps,
    offset_beside,
    set_by,
)
from equilix.supports.gimbal.mechanics import (
    OVER_MOTOR,
    SUPPORT,
    order_of_work,
)
from equilix.supports.gimbal.motors import gravity_torques, need_of, run_time
from equilix.supports.gimbal.outputs import OUTPUT_OF
from equilix.supports.gimbal.settings import CARRIERS, MODES, GimbalSettings
from equilix.supports.gimbal.stages import GimbalCase, nearest_passing, passings, payload_of, stages_of, still_coached

#: m from which what it swings past is worth a row.
_NEAR = 0.15


#: What is wrong with a gimbal's axes, and what to do.
_TROUBLES = {
    Trouble.SKEW: "An axis is askew. Join tilt across, roll lengthwise, pan upright.",
    Trouble.ORDER: "The axes are out of order. From the camera outwards: tilt, roll, pan.",
    Trouble.TWICE: "This axis is used twice. Make one of them a fixed joint.",
    Trouble.NO_TILT: "No tilt axis lies between the camera and the rest: join one there.",
    Trouble.NO_MASS: "One gimbal stage has no mass. Enter its parts’ masses.",
}


class GimbalText(SupportText[GimbalSettings, Stages]):
    """Three axes, five scales, three motors."""

    needs_grips = False
    support = SUPPORT
    noun = "the tilt axis"
    label = "tilt axis"
    needs = (
        "These axes make no gimbal. From the camera outwards join tilt (across), roll (lengthwise) "
        "and pan (upright). Give each stage a mass."
    )
    here = "The camera hangs here."
    moves = "Hang things elsewhere"
    lens_question = LENS_QUESTION
    closing = (
        "Motors off while you balance. Keep fingers out of the joints. Hold the camera until all three "
        "axes stay. The maker’s payload comes first."
    )
    tips = "moment about the tilt axis"
    starts = ("start-gimbal-m", "Gimbal, middle")
    from_above = True
    left_over = "Left over on tilt, fore and aft:"
    stuck = "The slides do not reach, and no other change helps."
    picture = ("Three axes", "motors off. Drag a slide or a part")
    page = Page("Torque", draw_page)
    lens_page = Page("Lenses", draw_lenses)
    tolerant = False
    compares = True
    bench = Bench("Coach")
    place_word = "How it is held"

    # Generic gimbals; common practice.
    sizes = (
        (
            "Small, up to 1.6 kg",
            MappingProxyType({"most": 1.6, "tilt_rated": 0.3, "roll_rated": 0.5, "pan_rated": 0.5, "energy": 20.0}),
        ),
        (
            "Medium, up to 3.2 kg",
            MappingProxyType({"most": 3.2, "tilt_rated": 0.6, "roll_rated": 1.0, "pan_rated": 1.0, "energy": 40.0}),
        ),
        (
            "Large, up to 6.8 kg",
            MappingProxyType({"most": 6.8, "tilt_rated": 1.2, "roll_rated": 2.0, "pan_rated": 2.0, "energy": 90.0}),
        ),
    )

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Chosen], ...]:
        return tuple((f"{words}, {_CARRIED[carrier]}", f"{words}/{carrier}") for carrier in CARRIERS for words in MODES)

    def place(self, settings: GimbalSettings) -> Chosen:
        return f"{settings.way}/{settings.carrier}"

    def with_place(self, settings: GimbalSettings, place: Chosen) -> GimbalSettings:
        assert isinstance(place, str)
        way, _, carrier = place.partition("/")
        return replace(settings, way=way, carrier=carrier)

    def needed(self, analysis: Analysis) -> str:
        found = stages_of(analysis.assembly, analysis.positions, analysis.build, SUPPORT.settings(analysis.build))
        return _TROUBLES[found] if isinstance(found, Trouble) else self.needs

    def lacks(self, analysis: Analysis) -> str:
        found = stages_of(analysis.assembly, analysis.positions, analysis.build, SUPPORT.settings(analysis.build))
        return f"gimbal: {found}" if isinstance(found, Trouble) else ""

    def output_name(self, output: str) -> str:
        return "CG distance ahead of the tilt axis" if output == CG_AHEAD else super().output_name(output)

    # The answer

    def verdict(self, case: GimbalCase, system: System) -> Verdict:
        on_it = case.result
        settings = case.settings
        worst = _worst(on_it, settings)
        usual = "No axes are joined. Equilix puts them above the lowest part." if on_it.usual else ""
        usual = usual or _coached_note(case, settings)
        if worst is None:
            return _balanced(case, settings, usual)
        stage, beside = worst
        head = f"{SIDES[stage.name, beside][offset_beside(stage, beside) > 0.0]} on {stage.name}."
        every = order_of_work(case.analysis)
        steps = [step for step in every if step.placed_id and abs(step.to - step.now) >= THERE]
        leans = ("back", "forward")[offset_beside(stage, beside) > 0.0] if (stage.name, beside) == ("tilt", "x") else ""
        if not steps:
            met = meets_words(case.analysis, every)
            why = f"The slide is at its end: {met}" if met else "No slide moves that"
            words = f"{why}. Hang something elsewhere, or put weight on the other side."
            return Verdict(head[:1].upper() + head[1:], words, leans, usual)
        short = next((step for step in last_steps(every) if is_short(step, on_it, settings)), None)
        if short is not None:
            off = figure(abs(short.left), Kind.LENGTH, system)
            side = SIDES[short.stage, short.beside][short.left > 0.0]
            same = [step for step in every if (step.stage, step.beside) == (short.stage, short.beside)]
            met = meets_words(case.analysis, same)
            # What else would do it is for the ways to say.
            body = f"Its slides alone leave {off}: {side}{f', as {met}' if met else ''}."
            return Verdict(head[:1].upper() + head[1:], body, leans, usual)
        slider = slider_of(case.analysis, steps[0].placed_id)
        way = slider.way(steps[0].to - steps[0].now)
        first = f"Set the {slider.name} {way} {far_words(steps[0], system)}"
        return Verdict(head[:1].upper() + head[1:], f"{first}{then_more(len(steps) - 1)}.", leans, usual)

    def mark(self, case: GimbalCase) -> str:
        if warnings_of(case.analysis):
            return "look"
        return "settled" if _worst(case.result, case.settings) is None else "part"

    def rows(self, case: GimbalCase, system: System) -> tuple[FigureRow, ...]:
        on_it, outputs = case.result, output_model(case.analysis)
        assert outputs is not None
        unsure, settings = axis_uncertainties(outputs), case.settings
        payload = payload_of(case)
        limit = "" if settings.most is None else f"of {figure(settings.most, Kind.MASS, system)}"
        rows = [
            FigureRow(
                "Payload",
                figure(payload, Kind.MASS, system),
                "",
                limit or "not known: enter the maker’s limit",
            )
        ]
        for stage in on_it.stages:
            for beside in BESIDE[stage.name]:
                output, value = OUTPUT_OF[stage.name, beside], offset_beside(stage, beside)
                # What no scale clears is only worth a row where there is something.
                if (stage.name, beside) in BY_MAKE and abs(value) < max(2.0 * unsure[output], THERE):
                    continue
                if on_it.usual and stage.name != "tilt" and (stage.name, beside) != ("roll", "y"):
                    continue
                rows.append(
                    FigureRow(
                        f"{stage.name.capitalize()}, {_ALONG[beside]}",
                        figure(value, Kind.LENGTH, system, sign=True),
                        uncertainty(unsure[output], Kind.LENGTH, system),
                    )
                )
        stage = max(on_it.stages, key=lambda one: peak_torque(one) / settings.rated(one.name))
        peak, u = peak_torque(stage), unsure[OUTPUT_OF[stage.name, ""]]
        rows.append(
            FigureRow(
                f"{stage.name.capitalize()} motor, highest load",
                f"{100.0 * peak / settings.rated(stage.name):.0f} %",
                f"± {200.0 * u / settings.rated(stage.name):.0f}",
                _sure(peak, u, settings.window(stage.name)),
            )
        )
        rows += self._more_rows(case, settings, system)
        return tuple(rows)

    def _more_rows(self, case: GimbalCase, settings: GimbalSettings, system: System) -> list[FigureRow]:
        rows = []
        one = nearest_passing(case, _NEAR)
        if one is not None:
            names = [mid_sentence(case.analysis.assembly.parts[k].name.split(",")[0]) for k in (one.first, one.second)]
            at = f"{number(math.degrees(one.angle), 0, sign=True)}°"
            rows.append(
                FigureRow(
                    "Clearance all round" if one.gap > 0.0 else "Hits by",
                    figure(abs(one.gap), Kind.LENGTH, system),
                    "",
                    f"{names[0]}, {names[1]}, {at}",
                )
            )
        inner = case.result.stages[0]
        need = need_of(case, inner)
        rows.append(
            FigureRow(
                "Tilt motor, while moving",
                f"{100.0 * need.whole / settings.rated(inner.name):.0f} %",
                "",
                f"at {settings.gain:g} rad/s², while panning",
            )
        )
        lasts, best = run_time(case)
        beyond = any(peak_torque(stage) > settings.rated(stage.name) for stage in case.result.stages)
        if settings.way != "upright":
            rows.append(_held_row(case, settings))
        if beyond:
            rows.append(FigureRow("Life while holding", "–", "", "a motor is too weak at its worst angle"))
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

    def slides_title(self, count: int) -> str:
        return f"Set the {count} slides" if count > 1 else ""

    def effects(self, before: GimbalCase, after: GimbalCase, system: System) -> tuple[str, ...]:
        was, then = before.result, after.result
        settings, words = after.settings, []
        for old, new in zip(was.stages, then.stages, strict=False):
            shares = [100.0 * peak_torque(stage) / settings.rated(stage.name) for stage in (old, new)]
            words.append(f"{new.name} motor {shares[0]:.0f} → {shares[1]:.0f} %")
        return tuple(words)

    def beside(self, case: GimbalCase, other: Analysis, system: System) -> str:
        its = SUPPORT.case(other)
        if its is None:
            return ""
        here, there = ({part.id: part.name for part in one.assembly.parts} for one in (case.analysis, other))
        more = [mid_sentence(name.split(",")[0]) for part_id, name in there.items() if part_id not in here]
        less = [mid_sentence(name.split(",")[0]) for part_id, name in here.items() if part_id not in there]
        by = payload_of(its) - payload_of(case)
        words = f"{other.build.name} carries {figure(abs(by), Kind.MASS, system)} {'more' if by > 0.0 else 'less'}"
        words += f": with {', '.join(more)}" if more else ""
        words += f"{',' if more else ':'} without {', '.join(less)}" if less else ""
        shares = []
        for one in (case, its):
            then = SUPPORT.case(analyse(set_by(one), one.analysis.assembly.kit, _ANYBODY, one.analysis)) or one
            shares.append(max(100.0 * peak_torque(s) / then.settings.rated(s.name) for s in then.result.stages))
        return f"{words}. With every slide set, the busiest motor holds {shares[1]:.0f} %, here {shares[0]:.0f} %."

    def sentence(self, finding: Finding, analysis: Analysis, system: System) -> str:
        """Return where a part swings into another, and which motor falls short: the stages say more of it."""
        case = SUPPORT.case(analysis)
        if case is None:
            return ""
        if finding.kind == OVER_MOTOR:
            torque, most = (figure(v, Kind.MOMENT, system, extra=1) for v in (finding.amount, finding.limit or 0.0))
            which = next((one.name for one in case.result.stages if peak_torque(one) == finding.amount), "it")
            return f"At its worst angle {which} needs {torque}. Its motor gives {most}."
        name, other = (analysis.assembly.parts[index_of(analysis, placed_id)].name for placed_id in finding.placed_ids)
        parts = [placed.id for placed in case.build.parts]
        pairs = ((one, (parts[one.first], parts[one.second])) for one in passings(case))
        met = next((one.meets for one, pair in pairs if pair == finding.placed_ids), None)
        at = "" if met is None else f" at {number(math.degrees(met), 0, sign=True)}°"
        deep = figure(finding.amount, Kind.LENGTH, system)
        return f"{name} hits the {mid_sentence(other.split(',')[0])}{at}, by {deep} at most."

    # Drawings

    def draw_picture(
        self,
        case: GimbalCase,
        system: System,
        width: float,
        height: float,
        selected: str | None,
        preview: Analysis | None,
        held: Elevation | None,
        planned: Analysis | None = None,
    ) -> Elevation | None:
        return draw_picture(case, system, width, height, selected, preview, held, planned)


#: What carries the whole gimbal, in words.
_CARRIED = {"handheld": "in the hands", "harness": "on a harness", "vest": "on a spring arm"}
_ALONG = {"x": "fore-aft", "y": "left-right", "z": "vertical"}


def _worst(on_it: Stages, settings: GimbalSettings) -> tuple[Stage, str] | None:
    """Return the first stage in working order that is out of its window, and the way in which it is so most."""
    for stage in on_it.stages:
        if peak_torque(stage) > settings.window(stage.name):
            return stage, max(BESIDE[stage.name], key=lambda one: abs(offset_beside(stage, one)))
    return None


def _balanced(case: GimbalCase, settings: GimbalSettings, note: str) -> Verdict:
    """Return the verdict on a gimbal within its windows: as felt, as the guesses go, or surely."""
    outputs = output_model(case.analysis)
    assert outputs is not None
    unsure = axis_uncertainties(outputs)
    open_yet = [
        stage.name
        for stage in case.result.stages
        if certainty(settings.window(stage.name) - peak_torque(stage), unsure[OUTPUT_OF[stage.name, ""]])
        is not Certainty.CLEAR
    ]
    how = "The bearings’ friction holds" if settings.perfect else "The motors hold"
    if SUPPORT.observed(case):
        return Verdict("Balanced on all axes.", f"{how} each axis by itself, as the coach found.", note=note)
    if open_yet:
        which = " and ".join(open_yet)
        words = f"The ± of {which} is wider than the window: weigh the parts, or let the coach look."
        return Verdict("Balanced as far as the guesses go.", words, note=note)
    words = f"{how} each axis by itself at any angle, pan with the frame leaned up to {math.degrees(LEAN):.0f}°."
    return Verdict("Balanced on all axes.", words, note=note)


def _coached_note(case: GimbalCase, settings: GimbalSettings) -> str:
    """Return what is to be said of what the coach found: of other parts, or of figures that it contradicts."""
    coached = settings.coached
    if coached is None:
        return ""
    if not still_coached(case.analysis.assembly, case.build, coached):
        return "What the coach found was of other parts: let it look again."
    if coached.parted > CONTRADICTS:
        suspect = next((k for k, p in enumerate(case.build.parts) if p.id == coached.suspect), None)
        name = "a part" if suspect is None else case.analysis.assembly.parts[suspect].name
        return f"The coach found another balance than the parts’ figures say: check mass and CG of {name}."
    return ""


def _sure(peak: float, u: float, window: float) -> str:
    sure = certainty(window - peak, u)
    words = {Certainty.CLEAR: "within the motor limit", Certainty.CANNOT_SAY: "may be within the motor limit"}
    return words.get(sure, "over the motor limit")


def _held_row(case: GimbalCase, settings: GimbalSettings) -> FigureRow:
    """Return what the motors hold as the gimbal is held, camera ahead."""
    torques = gravity_torques(case, MODES[settings.way])
    shares = {name: abs(torque) / settings.rated(name) for name, torque in torques.items()}
    worst = max(shares, key=lambda name: shares[name])
    return FigureRow(
        f"Held {settings.way}", f"{100.0 * shares[worst]:.0f} %", "", f"of the {worst} motor’s rating, all the time"
    )


def _falls(stage: Stage, settings: GimbalSettings) -> str:
    """Return what a tilt stage does when the power goes off while it stands level."""
    along, up = stage.beside
    if abs(along) * stage.weight > settings.friction("tilt"):
        return "nose falls" if along > 0.0 else "tail falls"
    if up * stage.weight > settings.friction("tilt"):
        return "stays, then falls further"
    return "stays level" if -up * stage.weight <= settings.friction("tilt") else "swings back level"


_ANYBODY = Operator("nobody", "Nobody")

TEXT = GimbalText()
