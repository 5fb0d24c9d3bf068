"""Vest, arm and sled in words and lines."""

from __future__ import annotations

import math
from types import MappingProxyType
from typing import TYPE_CHECKING

from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, warnings_of
from equilix.core.assembly.build import Build, Grasp, Kit
from equilix.core.chosen import with_settings
from equilix.core.frames import X, Y
from equilix.core.kit.parts import MountKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.solver.targets import form_value, target_of
from equilix.core.statics.pose import Pose
from equilix.core.statics.sled import Sled, fastest_drop, hidden_lean
from equilix.core.uncertainty.output_model import output_model, output_uncertainties
from equilix.core.units import Kind
from equilix.present.drawing.figures import At
from equilix.present.drawing.scales import Elevation
from equilix.present.drawing.scene import Scene
from equilix.present.drawing.work_order import THERE, far_words, meets_words, then_more
from equilix.present.supports.text import (
    Bench,
    Chosen,
    FigureRow,
    Page,
    SupportText,
    Verdict,
)
from equilix.present.units import System, figure, number, uncertainty
from equilix.present.words import mid_sentence, slider_of
from equilix.supports.vest.drawing import (
    LENS_QUESTION,
    SEEN,
    degrees,
    draw_lenses,
    draw_page,
    draw_picture,
    fastest,
    lean_uncertainty,
)
from equilix.supports.vest.hanging import VestCase, VestResult, bearing_of
from equilix.supports.vest.mechanics import (
    ON_BEARING,
    SUPPORT,
    order_of_work,
    springs_for,
)
from equilix.supports.vest.outputs import (
    BACK,
    DROP,
    FARTHEST,
    FASTEST,
    ON_VEST,
    PAN_INERTIA,
    PITCH,
    ROLL,
    WOBBLE,
    wished_lever,
)
from equilix.supports.vest.settings import VestSettings

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry

#: m: an arm that floats so little off nobody sets anew; common practice.
_NOT_SEEN = 0.020


class VestText(SupportText[VestSettings, VestResult]):
    """A sled that hangs, falls and spins, and the arm and vest below it."""

    support = SUPPORT
    noun = "the bearing"
    label = "bearing"
    needs = (
        "Give it a bearing to hang in: put one on the post, or choose a place in the build’s menu, under “Name, note "
        "and bearing”."
    )
    here = "The sled hangs in its bearing here."
    moves = "Hang things elsewhere"
    lens_question = LENS_QUESTION
    closing = (
        "Try the quick release each day. Take the sled off to sit, climb stairs or squeeze through. "
        "Keep others out of its swing. Have somebody walk behind you. The maker’s range comes first. "
        "Body figures are for planning, not medical advice."
    )
    tips = "moment about the bearing"
    starts = ("start-sled-m", "Sled, middle")
    from_above = True
    bears = "Load on the arm"
    no_brace = "the arm carries it"
    left_over = "Left over at the bearing, fore and aft:"
    stuck = "No slide on this sled goes far enough. Lengthen the post, or add weight at one end."
    picture = ("Sled, arm and operator", "from the right. Drag a slide")
    page = Page("Drop and pan", draw_page)
    lens_page = Page("Lenses", draw_lenses)
    bench = Bench("Stopwatch", MappingProxyType({"D": "watch", "H": "pitch"}))
    tolerant = False
    needs_grips = False
    place_word = "Hangs in"
    # Generic classes; common practice. The maker's figures come first.
    sizes = (
        ("Small arm, 1.5 to 5 kg", MappingProxyType({"least": 1.5, "most": 5.0, "arm_mass": 1.6, "vest_mass": 2.6})),
        ("Medium arm, 4 to 11 kg", MappingProxyType({"least": 4.0, "most": 11.0, "arm_mass": 2.6, "vest_mass": 4.0})),
        ("Large arm, 8 to 25 kg", MappingProxyType({"least": 8.0, "most": 25.0, "arm_mass": 4.2, "vest_mass": 5.5})),
    )

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Chosen], ...]:
        found: list[tuple[str, Chosen]] = [("chosen for you: the bearing, an eyelet or the highest grip", None)]
        for placed in build.parts:
            part = kit[placed.part_id]
            for mount in part.mounts:
                if mount.kind in (MountKind.BEARING, MountKind.EYELET, MountKind.GRIP_POINT):
                    found.append((f"{part.name}, {mount.name or mount.kind}", Grasp(placed.id, mount.id)))
        return tuple(found)

    def place(self, settings: VestSettings) -> Chosen:
        return settings.bearing

    def with_place(self, settings: VestSettings, place: Chosen) -> VestSettings:
        assert not isinstance(place, str)
        return replace(settings, bearing=place)

    def lacks(self, analysis: Analysis) -> str:
        there = bearing_of(analysis.assembly, analysis.positions, SUPPORT.settings(analysis.build).bearing)
        return "" if there is not None else "a bearing"

    # The answer

    def verdict(self, case: VestCase, system: System) -> Verdict:
        on_it = case.result
        sled = on_it.sled
        where = _bearing_words(case)
        if sled.below < ON_BEARING:
            return _overturned(case, sled, where, system)
        troubles = _troubles(case)
        steps = [step for step in order_of_work(case.analysis) if step.placed_id and abs(step.to - step.now) >= THERE]
        if not troubles:
            falls = _seconds(sled.drop_time or math.nan)
            fast = fastest(sled)
            upright = "" if fast is None else f"In a free pan it stays upright up to {figure(fast, Kind.RATE, system)}."
            body = f"{upright}{_unsure_words(case, system)}".strip()
            return Verdict(f"Hangs upright, falls in {falls}.", body, note=where)
        head = f"{', '.join(troubles)}."
        head = head[:1].upper() + head[1:]
        leans = _leans(sled)
        if not steps:
            met = meets_words(case.analysis, order_of_work(case.analysis))
            why = f"No slide goes farther, as {met}" if met else "No slide mends that"
            words = f"{why}: put weight at one end, or move something on the base."
            return Verdict(head, words, leans or "forward", where)
        short = _short_words(case)
        if short:
            return Verdict(head, short, leans or "forward", where)
        slider = slider_of(case.analysis, steps[0].placed_id)
        first = f"Set the {slider.name} {slider.way(steps[0].to - steps[0].now)} {far_words(steps[0], system)}"
        return Verdict(head, f"{first}{then_more(len(steps) - 1)}.", leans or "forward", where)

    def mark(self, case: VestCase) -> str:
        if warnings_of(case.analysis):
            return "look"
        return "part" if _troubles(case) else "settled"

    def rows(self, case: VestCase, system: System) -> tuple[FigureRow, ...]:
        on_it, outputs = case.result, output_model(case.analysis)
        assert outputs is not None
        unsure, settings, sled = output_uncertainties(outputs), case.settings, on_it.sled
        rows = []
        lean = sled.lean
        if lean is not None:
            hides = hidden_lean(settings.friction, sled.weight, sled.below)
            notes = (f"friction hides up to {figure(hides, Kind.ANGLE, system, extra=1)}", "")
            ways = (("nose down", "nose up"), ("left side high", "right side high"))
            for value, output, words, note in zip(lean, (PITCH, ROLL), ways, notes, strict=True):
                rows.append(
                    FigureRow(
                        f"Hangs {words[value < 0.0]}",
                        figure(abs(value), Kind.ANGLE, system, extra=1),
                        lean_uncertainty(unsure[output], system),
                        note,
                    )
                )
        timed = ", timed" if (lesson := settings.lesson(sled.mass)) is not None and lesson.tries else ""
        wish = f"wanted {_seconds(settings.drop)}"
        if sled.drop_time is None:
            hangs = "the sled turns over" if sled.below < -ON_BEARING else "the CG lies on the bearing"
            rows.append(FigureRow("Drop time", "none", "", hangs))
        else:
            rows.append(
                FigureRow(
                    f"Drop time{timed}",
                    figure(sled.drop_time, Kind.TIME, system),
                    uncertainty(unsure[DROP], Kind.TIME, system),
                    f"{wish}. Never under {_seconds(fastest_drop(sled.mass, sled.swing))}",
                )
            )
        rows += _pan_rows(sled, settings, unsure, system)
        rows.append(
            FigureRow(
                "Load on the vest",
                figure(on_it.load, Kind.FORCE, system),
                uncertainty(unsure[ON_VEST], Kind.FORCE, system),
                "sled and arm",
            )
        )
        rows.append(
            FigureRow(
                "Moment at the low back",
                figure(math.hypot(on_it.bends, on_it.sways), Kind.MOMENT, system, extra=-1),
                uncertainty(unsure[BACK], Kind.MOMENT, system),
                f"{figure(math.hypot(on_it.bends_least, on_it.sways), Kind.MOMENT, system, extra=-1)} with the trunk "
                "8° back and a low belt",
            )
        )
        side = "right" if on_it.shift[1] > 0.0 else "left"
        rows.append(
            FigureRow(
                "The operator shifts back",
                figure(on_it.shift[0], Kind.LENGTH, system),
                "",
                f"and {figure(abs(on_it.shift[1]), Kind.LENGTH, system)} to the {side}",
            )
        )
        rows.append(_arm_row(case, settings, system))
        return tuple(rows)

    def body_cautions(self, carried: Carry, case: VestCase, system: System) -> tuple[str, ...]:
        on_it, settings = case.result, case.settings
        side = "left" if settings.left else "right"
        load = figure(on_it.load, Kind.FORCE, system)
        most, least = (
            figure(math.hypot(bends, on_it.sways), Kind.MOMENT, system, extra=-1)
            for bends in (on_it.bends, on_it.bends_least)
        )
        back = figure(on_it.shift[0], Kind.LENGTH, system)
        return (
            f"The vest carries {load} of sled and arm, on the {side}. Leaning back from the ankles, {back}, leaves "
            f"{most} at the low back. With the trunk 8° back and a low belt {least} remain. Closer in costs less.",
        )

    def slides_title(self, count: int) -> str:
        return f"Set {count} marks together" if count > 1 else ""

    def effects(self, before: VestCase, after: VestCase, system: System) -> tuple[str, ...]:
        was, then = before.result, after.result
        said = []
        leans = [one.sled.lean for one in (was, then)]
        if leans[0] is not None and leans[1] is not None:
            sizes = [math.hypot(*lean) for lean in leans if lean is not None]
            said.append(f"lean {degrees(sizes[0])} → {degrees(sizes[1])}")
        times = [one.sled.drop_time for one in (was, then)]
        if any(t is not None for t in times):
            words = ["none" if t is None else _seconds(t) for t in times]
            said.append(f"drop {words[0] if times[1] is None else words[0].removesuffix(' s')} → {words[1]}")
        pan = after.settings.pan
        wobbles = [one.sled.wobble_in(pan) for one in (was, then)]
        words = ["–" if w is None or w > FARTHEST else degrees(w) for w in wobbles]
        if words != ["–", "–"]:
            said.append(f"wobble {words[0]} → {words[1]}")
        return tuple(said)

    def offer(self, case: VestCase, system: System) -> tuple[str, Build] | None:
        """The arm's springs are set by hand: one step takes down what they are set for."""
        settings, wanted, on_it = case.settings, springs_for(case.analysis), case.result
        if wanted is None or settings.set_for is None:
            return None
        by = wanted - settings.set_for
        if on_it.arm is None or abs(on_it.arm.height - settings.wanted) < _NOT_SEEN:
            return None
        words = f"Set the springs {'up' if by > 0.0 else 'down'} {figure(abs(by), Kind.MASS, system)}"
        words += f", {number(abs(by) / settings.turn, 1)} turns" if settings.turn else ""
        return words, with_settings(case.build, replace(settings, set_for=wanted))

    def sentence(self, finding: Finding, analysis: Analysis, system: System) -> str:
        """Return how the arm rests on its stop, and what its springs must be set for."""
        wanted, settings = springs_for(analysis), SUPPORT.settings(analysis.build)
        end = "rests on its lower stop" if finding.amount > 0.0 else "stays at its upper stop"
        by = figure(abs(finding.amount), Kind.MASS, system)
        what = f"the sled is {by} too {'much' if finding.amount > 0.0 else 'little'} for its springs"
        said = "" if wanted is None else f" Set the springs for {figure(wanted, Kind.MASS, system)}"
        return f"The arm {end}: {what}.{said}{_turns(settings, wanted)}."

    # Drawings

    worn = True

    def draw_gear(self, scene: Scene, case: VestCase, pose: Pose, at: At, scale: float) -> None:
        from equilix.supports.vest.drawing import draw_vest

        draw_vest(scene, pose, at)

    def draw_picture(
        self,
        case: VestCase,
        system: System,
        width: float,
        height: float,
        selected: str | None,
        preview: Analysis | None,
        held: Elevation | None,
        planned: Analysis | None = None,
    ) -> Elevation | None:
        return draw_picture(case, system, width, height, selected, preview, held, planned)


def _unsure_words(case: VestCase, system: System) -> str:
    """Return that a good drop time rests on guesses, "" where its uncertainty stays within what is wished."""
    outputs = output_model(case.analysis)
    assert outputs is not None
    u = output_uncertainties(outputs, (DROP,))[DROP]
    if COVERAGE * u <= case.settings.room:
        return ""
    return f" The parts give it only to {uncertainty(u, Kind.TIME, system)} s. Time it, or weigh them."


def _seconds(time: float) -> str:
    """Return a time with the digits that a stopwatch in a hand can tell apart."""
    return f"{number(time, 1 if time >= 1.0 else 2)} s"


def _overturned(case: VestCase, sled: Sled, where: str, system: System) -> Verdict:
    """Return the sentence for a sled that does not hang, with how far its bearing must go."""
    lever = wished_lever(case.settings, sled)
    by = figure(lever - sled.below, Kind.LENGTH, system)
    falls = _seconds(case.settings.drop)
    words = f"Bearing up about {by}, or weight on the base, lets it fall in {falls}."
    if sled.below < -ON_BEARING:
        return Verdict("Turns over.", f"The CG is above the bearing. {words}", "forward", where, stops=True)
    words = f"It neither hangs nor falls. {words}"
    return Verdict("The CG lies on the bearing.", words, "forward", where, stops=True)


def _troubles(case: VestCase) -> list[str]:
    """Return what is not as wished, in a few words each: lean, drop, wobble."""
    settings, sled = case.settings, case.result.sled
    found = []
    lean, time = sled.lean, sled.drop_time
    if lean is None or time is None:
        return ["turns over"]
    size = math.hypot(*lean)
    if size > max(hidden_lean(settings.friction, sled.weight, sled.below), SEEN):
        found.append(f"leans {degrees(size)}")
    if abs(time - settings.drop) > settings.room:
        found.append("falls too fast" if time < settings.drop else "falls too slowly")
    target = target_of(case.analysis)
    assert target is not None
    spins = [form for form in target.forms if form.name.startswith("spin")]
    wobble = sled.wobble_in(settings.pan)
    if not found and any(abs(form_value(case.analysis, target, form)) > target.allowed(form) for form in spins):
        pan = f"{math.degrees(settings.pan):.0f}°/s"
        off = wobble is None or wobble > FARTHEST
        found.append(f"wanders in a pan of {pan}" if off else f"wobbles {degrees(wobble or 0.0)} at {pan}")
    return found


def _leans(sled: Sled) -> str:
    lean = sled.lean
    if lean is None or abs(lean[0]) < SEEN:
        return ""
    return "forward" if lean[0] > 0.0 else "back"


def _bearing_words(case: VestCase) -> str:
    if not case.result.bearing.usual:
        return ""
    part = case.analysis.assembly.parts[case.result.bearing.part].name.split(",")[0]
    return f"No bearing is on it. It hangs from the {mid_sentence(part)}."


def _short_words(case: VestCase) -> str:
    """Return what the slides do not reach, "" if they reach all."""
    words = {
        "sled": "it still hangs off upright",
        "spin": "it still loses upright in a pan",
        "drop": "the drop time is still off",
    }
    short = [step for step in order_of_work(case.analysis) if abs(step.left) > 1.0]
    if not short:
        return ""
    met = meets_words(case.analysis, short)
    stays = ", ".join(dict.fromkeys(words[step.stage] for step in short))
    return f"With its slides alone {stays}{f', as {met}' if met else ''}."


def _pan_rows(sled: Sled, settings: VestSettings, unsure: dict[str, float], system: System) -> list[FigureRow]:
    rows = []
    wobble = sled.wobble_in(settings.pan)
    at = f"{math.degrees(settings.pan):.0f}°/s"
    if wobble is None:
        why = "the sled does not hang" if sled.drop_time is None else "faster than the post stays upright"
        rows.append(FigureRow(f"Pan wobble at {at}", "none", "", why))
    elif wobble > FARTHEST:
        farthest = figure(FARTHEST, Kind.ANGLE, system)
        rows.append(FigureRow(f"Pan wobble at {at}", f"over {farthest}", "", "near the fastest pan that stays upright"))
    else:
        pm = uncertainty(unsure[WOBBLE], Kind.ANGLE, system)
        shows = f"you see it from {degrees(settings.shows)}"
        rows.append(FigureRow(f"Pan wobble at {at}", figure(wobble, Kind.ANGLE, system, extra=1), pm, shows))
    fast, aside = sled.fastest_pan(X), sled.fastest_pan(Y)
    if fast is not None:
        also = "" if aside is None else f"{figure(aside, Kind.RATE, system)} sideways"
        pm = uncertainty(unsure[FASTEST], Kind.RATE, system)
        rows.append(FigureRow("Fastest pan that stays upright", figure(fast, Kind.RATE, system), pm, also))
    rows.append(
        FigureRow(
            "Inertia in a pan",
            figure(float(sled.inertia[2, 2]), Kind.INERTIA, system),
            uncertainty(unsure[PAN_INERTIA], Kind.INERTIA, system),
            "",
        )
    )
    return rows


def _arm_row(case: VestCase, settings: VestSettings, system: System) -> FigureRow:
    wanted = springs_for(case.analysis)
    sets = "" if wanted is None else f"set them for {figure(wanted, Kind.MASS, system)}{_turns(settings, wanted)}"
    if case.result.arm is None or settings.set_for is None:
        return FigureRow("The arm’s springs", "not known: enter what they are set for", "", sets)
    off = case.result.arm.height - settings.wanted
    if abs(off) < 0.010:
        return FigureRow("Arm’s height", "as wanted", "", f"set for {figure(settings.set_for, Kind.MASS, system)}")
    way = "high" if off > 0.0 else "low"
    return FigureRow("Arm’s height", f"{figure(abs(off), Kind.LENGTH, system)} {way}", "", sets)


def _turns(settings: VestSettings, wanted: float | None) -> str:
    """Return by how many turns of the arm's screw its setting changes, "" where nobody knows."""
    if wanted is None or settings.set_for is None or not settings.turn:
        return ""
    turns = (wanted - settings.set_for) / settings.turn
    if abs(turns) < 0.05:
        return ""
    return f", {number(abs(turns), 1)} turns {'up' if turns > 0.0 else 'down'}"


# What the drawings show


TEXT = VestText()
