"""Vest, arm and sled in words and lines."""

from __future__ import annotations

import math
from types import MappingProxyType
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, warnings_of
from equilix.core.assembly.build import Build, Grasp, Kit, Operator, Settings
from equilix.core.chosen import with_settings
from equilix.core.doubt.gauges import Gauge, doubts_of, gauges_of
from equilix.core.frames import X, Y
from equilix.core.kit.parts import MountKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.solver.marks import marks_of
from equilix.core.solver.targets import form_value, target_of
from equilix.core.statics.sled import Sled, fastest_drop, hidden_lean, swing_from
from equilix.present.drawing.scales import Elevation
from equilix.present.drawing.scene import Scene, text_width
from equilix.present.drawing.sled import (
    DropView,
    SledView,
    WearerView,
    WobbleView,
    draw_drop,
    draw_sled,
    draw_wearer,
    draw_wobble,
)
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
from equilix.present.units import Kind, System, doubt, figure, number
from equilix.present.words import mid_sentence, slider_of
from equilix.supports.vest.mechanics import (
    FARTHEST,
    MIDDLE,
    ON_BEARING,
    SOCKET,
    OnVest,
    SledFinding,
    SledGauge,
    VestSettings,
    bearing_of,
    lens_marks,
    measured,
    on_vest_of,
    order_of_work,
    springs_for,
    vest_of,
    wished_lever,
    wobble_doubts,
)

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry

#: rad: a lean that nobody sees; common practice.
_SEEN = math.radians(0.5)
#: px: the order of work below the picture; and s between two marks of a drop.
_ORDER, _EVERY = 150.0, 0.25
#: m: an arm that floats so little off nobody sets anew; common practice.
_NOT_SEEN = 0.020
#: px: the least height in which sled and wearer are drawn side by side.
_BOTH = 150.0
#: rad/s: how far the curve of wobble goes at least, and in how many points.
_PANS, _POINTS = math.radians(40.0), 61


class VestText(SupportText):
    """A sled that hangs, falls and spins, and the arm and vest below it."""

    name = LABELS["vest"].name
    noun = "the bearing"
    label = "bearing"
    needs = (
        "Give it a bearing to hang in: put one on the post, or choose a place in the build’s menu, under “Name, note "
        "and bearing”."
    )
    here = "The sled will hang in its bearing here."
    moves = "Hang things elsewhere"
    lens_question = "Marks for an upright post and the wanted drop, for each lens"
    closing = (
        "Try the quick release before each day. Sit down, climb stairs and squeeze through tight rooms without the "
        "sled; keep others out of its swing, and have somebody walk behind you. The maker’s range comes first; body "
        "figures are for planning, not medical advice."
    )
    tips = "turning moment"
    bears = "On the arm"
    no_brace = "the arm carries it"
    left_over = "Left over at the bearing, fore and aft:"
    stuck = "Nothing on this sled slides far enough: a longer post, or weight at one end, would."
    picture = ("Sled, arm and wearer", "right side; drag a slide’s scale")
    page = "Drop and pan"
    lens_page = True
    bench = "Time it"
    bench_keys = MappingProxyType({"D": "watch", "H": "pitch"})
    trades = False
    tolerant = False
    needs_grips = False
    place_word = "Hangs in"
    warnings = MappingProxyType(
        {
            SledFinding.TOP_HEAVY: "it turns over",
            SledFinding.ON_BEARING: "its CG lies on the bearing",
            SledFinding.NO_DROP: "it can’t fall that fast",
            SledFinding.OVER_ARM: "it is over what the arm lifts",
            SledFinding.UNDER_ARM: "it is under what the arm is made for",
            SledFinding.ON_STOP: "the arm rests on its stop",
            SledFinding.CONTRADICTS: "the timed drop contradicts the masses",
            SledFinding.NO_BATTERY: "no battery is on the base",
            SledFinding.ONE_SCREW: "one screw holds a long lever",
            SledFinding.TWO_TO_LIFT: "it takes two to put it on",
            SledFinding.NO_RELEASE: "the quick release isn’t known",
        }
    )
    kinds = MappingProxyType(
        {
            SledGauge.PITCH: Kind.ANGLE,
            SledGauge.ROLL: Kind.ANGLE,
            SledGauge.DROP: Kind.TIME,
            SledGauge.XZ: Kind.INERTIA,
            SledGauge.YZ: Kind.INERTIA,
            SledGauge.PAN_INERTIA: Kind.INERTIA,
            SledGauge.FASTEST: Kind.RATE,
            SledGauge.FASTEST_ASIDE: Kind.RATE,
            SledGauge.WOBBLE: Kind.ANGLE,
            SledGauge.ON_VEST: Kind.FORCE,
            SledGauge.BACK: Kind.MOMENT,
        }
    )
    signed = frozenset({SledGauge.PITCH, SledGauge.ROLL, SledGauge.XZ, SledGauge.YZ})
    fields = (
        Field("Wished drop time, s", "drop", Measured.NUMBER),
        Field("met within, s", "room", Measured.NUMBER),
        Field("Upright in a pan too", "dynamic", Measured.YES),
        Field("Wobble is told for a pan of, a second", "pan", Measured.ANGLE),
        Field("and shows from", "shows", Measured.ANGLE),
        Field("The bearing’s friction, N·m", "friction", Measured.NUMBER),
        Field("Arm lifts at least, by the maker", "least", Measured.MASS, optional=True),
        Field("Arm lifts at most, by the maker", "most", Measured.MASS, optional=True),
        Field("Its springs are set for", "set_for", Measured.MASS, optional=True),
        Field("A turn of its screw is", "turn", Measured.MASS, optional=True),
        Field("It shall float above the middle by", "wanted", Measured.LENGTH),
        Field("Its way up, and down, from the middle", "lift", Measured.LENGTH),
        Field("Its lift falls over that by, of 1", "evenness", Measured.NUMBER),
        Field("The arm weighs", "arm_mass", Measured.MASS),
        Field("The vest weighs", "vest_mass", Measured.MASS),
        Field("Bearing from the socket", "reach", Measured.LENGTH),
        Field("Boom, to the left of ahead", "boom", Measured.ANGLE),
        Field("Socket ahead of the low back", "socket", Measured.LENGTH),
        Field("Socket beside the middle", "beside", Measured.LENGTH),
        Field("The socket sits on the left", "left", Measured.YES),
        Field("Share that the hips carry", "hip_share", Measured.NUMBER),
        Field("Hip belt below the low back", "belt", Measured.LENGTH, optional=True),
        Field("Two put it on from", "second", Measured.MASS),
        Field("I know the quick release", "release", Measured.YES),
    )
    # Generic classes; common practice. The maker's figures come first.
    sizes = (
        ("Small arm, 1.5 to 5 kg", MappingProxyType({"least": 1.5, "most": 5.0, "arm_mass": 1.6, "vest_mass": 2.6})),
        ("Middle arm, 4 to 11 kg", MappingProxyType({"least": 4.0, "most": 11.0, "arm_mass": 2.6, "vest_mass": 4.0})),
        ("Large arm, 8 to 25 kg", MappingProxyType({"least": 8.0, "most": 25.0, "arm_mass": 4.2, "vest_mass": 5.5})),
    )

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Chosen], ...]:
        found: list[tuple[str, Chosen]] = [("by itself: its bearing, else an eyelet or the highest grip", None)]
        for placed in build.parts:
            part = kit[placed.part_id]
            for mount in part.mounts:
                if mount.kind in (MountKind.BEARING, MountKind.EYELET, MountKind.GRIP_POINT):
                    found.append((f"{part.name}, {mount.name or mount.kind}", Grasp(placed.id, mount.id)))
        return tuple(found)

    def place(self, settings: Settings) -> Chosen:
        assert isinstance(settings, VestSettings)
        return settings.bearing

    def put(self, settings: Settings, place: Chosen) -> Settings:
        assert isinstance(settings, VestSettings)
        assert not isinstance(place, str)
        return replace(settings, bearing=place)

    def lacks(self, analysis: Analysis) -> str:
        there = bearing_of(analysis.assembly, analysis.positions, analysis.build)
        return "" if there is not None else "a bearing to hang in"

    # The answer

    def verdict(self, analysis: Analysis, system: System) -> Verdict:
        on_it = on_vest_of(analysis)
        assert on_it is not None
        sled = on_it.sled
        where = _bearing_words(analysis, on_it)
        if sled.below < ON_BEARING:
            return _overturned(analysis, sled, where, system)
        troubles = _troubles(analysis, on_it)
        steps = [step for step in order_of_work(analysis) if step.placed_id and abs(step.to - step.now) >= THERE]
        if not troubles:
            falls = _seconds(sled.drop_time or math.nan)
            fast = _fastest(sled)
            upright = "" if fast is None else f"Let go in a pan, it stays upright to {figure(fast, Kind.RATE, system)}."
            body = f"{upright}{_unsure_words(analysis, system)}".strip()
            return Verdict(f"Hangs upright, falls in {falls}.", body, note=where)
        head = f"{', '.join(troubles)}."
        head = head[:1].upper() + head[1:]
        leans = _leans(sled)
        if not steps:
            met = meets_words(analysis, order_of_work(analysis))
            why = f"No slide goes farther, as {met}" if met else "No slide mends that"
            words = f"{why}: put weight at one end, or move something on the base."
            return Verdict(head, words, leans or "forward", where)
        slider = slider_of(analysis, steps[0].placed_id)
        first = f"Set the {slider.name} {slider.way(steps[0].to - steps[0].now)} {far_words(steps[0], system)}"
        more = f", then {len(steps) - 1} more" if len(steps) > 1 else ""
        short = _short_words(analysis)
        note = f"{short} {where}".strip()
        return Verdict(head, f"{first}{more}.", leans or "forward", note)

    def mark(self, analysis: Analysis) -> str:
        on_it = on_vest_of(analysis)
        if on_it is None or warnings_of(analysis):
            return "look"
        return "part" if _troubles(analysis, on_it) else "settled"

    def figures(self, analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
        on_it, gauges = on_vest_of(analysis), gauges_of(analysis)
        assert on_it is not None
        assert gauges is not None
        unsure, settings, sled = doubts_of(gauges), vest_of(analysis.build), on_it.sled
        rows = []
        lean = sled.lean
        if lean is not None:
            hides = hidden_lean(settings.friction, sled.weight, sled.below)
            notes = (f"friction hides {figure(hides, Kind.ANGLE, system, extra=1)}", "")
            ways = (("nose down", "nose up"), ("left side up", "right side up"))
            for value, gauge, words, note in zip(lean, (SledGauge.PITCH, SledGauge.ROLL), ways, notes, strict=True):
                rows.append(
                    FigureRow(
                        f"Leans {words[value < 0.0]}",
                        figure(abs(value), Kind.ANGLE, system, extra=1),
                        _lean_doubt(unsure[gauge], system),
                        note,
                    )
                )
        timed = " and timed" if settings.tries and measured(settings, sled.mass) else ""
        wish = f"wished {_seconds(settings.drop)}"
        if sled.drop_time is None:
            hangs = "it turns over" if sled.below < -ON_BEARING else "it neither hangs nor falls"
            rows.append(FigureRow("Drop time", "none", "", hangs))
        else:
            rows.append(
                FigureRow(
                    f"Drop time{timed}",
                    figure(sled.drop_time, Kind.TIME, system),
                    doubt(unsure[SledGauge.DROP], Kind.TIME, system),
                    f"{wish}; never under {_seconds(fastest_drop(sled.mass, sled.swing))}",
                )
            )
        rows += _pan_rows(sled, settings, unsure, system)
        rows.append(
            FigureRow(
                "On the vest",
                figure(on_it.load, Kind.FORCE, system),
                doubt(unsure[SledGauge.ON_VEST], Kind.FORCE, system),
                "sled and arm",
            )
        )
        rows.append(
            FigureRow(
                "Moment at the low back",
                figure(math.hypot(on_it.bends, on_it.sways), Kind.MOMENT, system, extra=-1),
                doubt(unsure[SledGauge.BACK], Kind.MOMENT, system),
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
        rows.append(_arm_row(analysis, on_it, settings, system))
        return tuple(rows)

    def caution(self, finding: Finding, analysis: Analysis, operator: Operator, system: System) -> str:
        name = analysis.assembly.parts[index_of(analysis, finding.placed_ids[0])].name
        match finding.kind:
            case SledFinding.TOP_HEAVY:
                above = figure(finding.amount, Kind.LENGTH, system)
                return f"The CG is {above} above the bearing: it turns over. Bearing up, or weight down on the base."
            case SledFinding.ON_BEARING:
                return "The CG lies on the bearing: it neither hangs nor falls. Bearing up by a few millimetres."
            case SledFinding.NO_DROP:
                least = number(finding.limit or 0.0, 2)
                return (
                    f"No drop of {number(finding.amount, 2)} s can be had: {least} s is the fastest that this sled "
                    "falls, wherever its bearing is. Wish for a slower one, or bring its ends closer."
                )
            case SledFinding.CONTRADICTS:
                return (
                    f"What was timed is {number(finding.amount, 1)} standard uncertainties from what the parts say: "
                    f"time it again, then measure the {mid_sentence(name.split(',')[0])}, the likeliest cause."
                )
            case SledFinding.NO_BATTERY:
                return "No battery is below the bearing: put it on the base, where its weight works."
            case SledFinding.ONE_SCREW:
                return screw_words(name, finding, system)
            case _:
                return self.load_caution(finding, analysis, system)

    def limit_wanted(self, analysis: Analysis) -> str:
        return "Enter what the arm lifts, by its maker, in the build’s menu."

    def load_caution(self, finding: Finding, analysis: Analysis, system: System) -> str:
        settings = vest_of(analysis.build)
        mass, limit = (figure(v, Kind.MASS, system) for v in (finding.amount, finding.limit or 0.0))
        match finding.kind:
            case SledFinding.OVER_ARM:
                over = figure(finding.amount - (finding.limit or 0.0), Kind.MASS, system)
                return f"{mass} on an arm that lifts {limit}: {over} too much. Take something off, or a larger arm."
            case SledFinding.UNDER_ARM:
                under = figure((finding.limit or 0.0) - finding.amount, Kind.MASS, system)
                return f"{mass} on an arm made for {limit} and more: {under} too little, it stays at its top."
            case SledFinding.ON_STOP:
                wanted = springs_for(analysis)
                end = "rests on its lower stop" if finding.amount > 0.0 else "stays at its top"
                by = figure(abs(finding.amount), Kind.MASS, system)
                what = f"{by} too {'much' if finding.amount > 0.0 else 'little'} for its springs"
                said = "" if wanted is None else f" Set them for {figure(wanted, Kind.MASS, system)}"
                return f"The arm {end}: {what}.{said}{_turns(settings, wanted)}."
            case SledFinding.TWO_TO_LIFT:
                return f"{mass} with its arm: a second pair of hands puts it on and takes it off."
            case _:
                return "Try the vest’s quick release with the sled on a stand, then tick that you know it."

    def burdens(self, carried: Carry, analysis: Analysis, system: System) -> tuple[str, ...]:
        on_it, settings = on_vest_of(analysis), vest_of(analysis.build)
        if on_it is None:
            return ()
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

    def slides_title(self, count: int, closely: bool = True) -> str:
        if count < 2:
            return ""
        return f"Set {count} marks together" if closely else f"Set {count} marks, near enough"

    def effects(self, before: Analysis, after: Analysis, system: System) -> tuple[str, ...]:
        was, then = on_vest_of(before), on_vest_of(after)
        if was is None or then is None:
            return ()
        said = []
        leans = [one.sled.lean for one in (was, then)]
        if leans[0] is not None and leans[1] is not None:
            sizes = [math.hypot(*lean) for lean in leans if lean is not None]
            said.append(f"lean {_degrees(sizes[0])} → {_degrees(sizes[1])}")
        times = [one.sled.drop_time for one in (was, then)]
        if any(t is not None for t in times):
            words = ["none" if t is None else _seconds(t) for t in times]
            said.append(f"drop {words[0] if times[1] is None else words[0].removesuffix(' s')} → {words[1]}")
        pan = vest_of(after.build).pan
        wobbles = [one.sled.wobble_in(pan) for one in (was, then)]
        words = ["–" if w is None or w > FARTHEST else _degrees(w) for w in wobbles]
        if words != ["–", "–"]:
            said.append(f"wobble {words[0]} → {words[1]}")
        return tuple(said)

    def offer(self, analysis: Analysis, system: System) -> tuple[str, Build] | None:
        """The arm's springs are set by hand: one step takes down what they are set for."""
        settings, wanted, on_it = vest_of(analysis.build), springs_for(analysis), on_vest_of(analysis)
        if wanted is None or on_it is None or settings.set_for is None:
            return None
        by = wanted - settings.set_for
        if on_it.arm is None or abs(on_it.arm.height - settings.wanted) < _NOT_SEEN:
            return None
        words = f"Set the springs {'up' if by > 0.0 else 'down'} {figure(abs(by), Kind.MASS, system)}"
        words += f", {number(abs(by) / settings.turn, 1)} turns" if settings.turn else ""
        return words, with_settings(analysis.build, replace(settings, set_for=wanted))

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
        on_it = on_vest_of(analysis)
        if on_it is None:
            return None
        scene = Scene()
        top, tall = 36.0, height - 36.0 - _ORDER
        # Where there is little room the sled alone is drawn, where there is none only what it does.
        both = tall >= _BOTH
        wide = 0.47 * width if both else width
        area = (0.0, top, wide, max(tall, 30.0))
        before = held.projection if held is not None else None
        projection = draw_sled(scene, analysis, _sled_view(analysis, on_it, system), area, selected, preview, before)
        if both:
            scene.line(wide + 8.0, top + 4.0, wide + 8.0, top + tall - 4.0, "rule", 1.0)
            view, shift = _wearer_view(analysis, on_it, system)
            draw_wearer(scene, analysis, view, (wide + 20.0, top, width - wide - 20.0, tall), shift)
        scales = draw_order(scene, _work(analysis), system, (0.0, height - _ORDER + 6.0, width), "all set together")
        return Elevation(scene, projection, scales, projection.x0, {})

    def draw_lenses(self, analysis: Analysis, kit: Kit, system: System, width: float, height: float) -> Scene:
        scene = Scene()
        rows = lens_marks(analysis, kit)
        scene.text(0.0, 18.0, self.lens_question, 14, 600)
        beside = text_width(self.lens_question, 14) + 32.0
        if not rows:
            scene.text(0.0, 48.0, "No lens is on the build.", 13, 400, "ink2")
            return scene
        words = "counted from each slide’s low end; bold: as it stands now"
        if width >= beside + text_width(words, 12):
            scene.text(beside, 18.0, words, 12, 400, "ink2")
        draw_lens_rows(scene, _work(analysis), rows, system, (width, height))
        return scene

    def draw_page(self, analysis: Analysis, system: System, width: float, height: float) -> Scene:
        scene = Scene()
        on_it = on_vest_of(analysis)
        if on_it is None:
            scene.text(0.0, 18.0, "No bearing to hang in yet: nothing falls and nothing pans.", 13, 400, "ink2")
            return scene
        after = on_vest_of(marks_of(analysis)[1])
        assert after is not None
        half = 0.48 * width
        draw_drop(scene, _drop_view(analysis, on_it, after), (0.0, 0.0, half, height))
        draw_wobble(
            scene, _wobble_view(analysis, on_it, after, system), (half + 14.0, 0.0, width - half - 14.0, height)
        )
        return scene


def _degrees(angle: float) -> str:
    degrees = math.degrees(angle)
    return f"{number(degrees, 1 if degrees < 9.95 else 0)}°"


def _lean_doubt(u: float, system: System) -> str:
    """Return the doubt of a lean; one that may be anything is none to say in degrees."""
    return doubt(u, Kind.ANGLE, system) if COVERAGE * u < math.pi / 2.0 else "± ?"


def _unsure_words(analysis: Analysis, system: System) -> str:
    """Return that a good drop time rests on guesses, "" where its doubt stays within what is wished."""
    gauges = gauges_of(analysis)
    assert gauges is not None
    u = doubts_of(gauges, (SledGauge.DROP,))[SledGauge.DROP]
    if COVERAGE * u <= vest_of(analysis.build).room:
        return ""
    return f" The parts say so only to {doubt(u, Kind.TIME, system)} s: hang it and time it, or weigh them."


def _seconds(time: float) -> str:
    """Return a time with the digits that a stopwatch in a hand can tell apart."""
    return f"{number(time, 1 if time >= 1.0 else 2)} s"


def _overturned(analysis: Analysis, sled: Sled, where: str, system: System) -> Verdict:
    """Return the sentence for a sled that does not hang, with how far its bearing must go."""
    lever = wished_lever(vest_of(analysis.build), sled)
    by = figure(lever - sled.below, Kind.LENGTH, system)
    falls = _seconds(vest_of(analysis.build).drop)
    words = f"Bearing up about {by}, or weight on the base, lets it fall in {falls}."
    if sled.below < -ON_BEARING:
        return Verdict("Turns over.", f"The CG is above the bearing. {words}", "forward", where, stops=True)
    words = f"It neither hangs nor falls. {words}"
    return Verdict("The CG lies on the bearing.", words, "forward", where, stops=True)


def _troubles(analysis: Analysis, on_it: OnVest) -> list[str]:
    """Return what is not as wished, in a few words each: lean, drop, wobble."""
    settings, sled = vest_of(analysis.build), on_it.sled
    found = []
    lean, time = sled.lean, sled.drop_time
    if lean is None or time is None:
        return ["turns over"]
    size = math.hypot(*lean)
    if size > max(hidden_lean(settings.friction, sled.weight, sled.below), _SEEN):
        found.append(f"leans {_degrees(size)}")
    if abs(time - settings.drop) > settings.room:
        found.append("falls too fast" if time < settings.drop else "falls too slowly")
    target = target_of(analysis)
    assert target is not None
    spins = [form for form in target.forms if form.name.startswith("spin")]
    wobble = sled.wobble_in(settings.pan)
    if not found and any(abs(form_value(analysis, target, form)) > target.allowed(form) for form in spins):
        pan = f"{math.degrees(settings.pan):.0f}°/s"
        off = wobble is None or wobble > FARTHEST
        found.append(f"wanders in a pan of {pan}" if off else f"wobbles {_degrees(wobble or 0.0)} at {pan}")
    return found


def _fastest(sled: Sled) -> float | None:
    """Return the pan (rad/s) past which the post does not stay upright, whichever way it goes first."""
    return min((one for one in (sled.fastest_pan(X), sled.fastest_pan(Y)) if one is not None), default=None)


def _leans(sled: Sled) -> str:
    lean = sled.lean
    if lean is None or abs(lean[0]) < _SEEN:
        return ""
    return "forward" if lean[0] > 0.0 else "back"


def _bearing_words(analysis: Analysis, on_it: OnVest) -> str:
    if not on_it.bearing.usual:
        return ""
    part = analysis.assembly.parts[on_it.bearing.part].name.split(",")[0]
    return f"Hung from the {mid_sentence(part)}, as no bearing is on it."


def _short_words(analysis: Analysis) -> str:
    """Return what the slides do not reach, "" if they reach all."""
    words = {
        "sled": "it still leans",
        "spin": "it still wanders in a pan",
        "drop": "the drop time stays off",
    }
    short = [step for step in order_of_work(analysis) if abs(step.left) > 1.0]
    if not short:
        return ""
    met = meets_words(analysis, short)
    return f" Then {', '.join(dict.fromkeys(words[step.stage] for step in short))}{f', as {met}' if met else ''}."


def _work(analysis: Analysis) -> Work:
    """Return the order of work as it is drawn."""
    return Work(analysis, order_of_work(analysis), lambda step: abs(step.left) > 1.0, _loose(analysis))


def _loose(analysis: Analysis) -> str:
    """Return what no slide is there for, "" if there is one for all."""
    words = {
        ("spin", "x"): "no slide fore and aft on the base",
        ("spin", "y"): "no slide across on the base",
        ("sled", "x"): "no slide levels it fore and aft",
        ("sled", "y"): "no slide levels it across",
        ("drop", "z"): "no slide sets its height",
    }
    for step in order_of_work(analysis):
        if not step.placed_id and abs(step.left) > 1.0:
            return words[step.stage, step.beside]
    return ""


def _pan_rows(sled: Sled, settings: VestSettings, unsure: dict[str, float], system: System) -> list[FigureRow]:
    rows = []
    wobble = sled.wobble_in(settings.pan)
    at = f"{math.degrees(settings.pan):.0f}°/s"
    if wobble is None:
        why = "it does not hang" if sled.drop_time is None else "faster than it stays upright"
        rows.append(FigureRow(f"Pan wobble at {at}", "none", "", why))
    elif wobble > FARTHEST:
        farthest = figure(FARTHEST, Kind.ANGLE, system)
        rows.append(FigureRow(f"Pan wobble at {at}", f"over {farthest}", "", "close to the fastest free pan"))
    else:
        pm = doubt(unsure[SledGauge.WOBBLE], Kind.ANGLE, system)
        shows = f"shows from {_degrees(settings.shows)}"
        rows.append(FigureRow(f"Pan wobble at {at}", figure(wobble, Kind.ANGLE, system, extra=1), pm, shows))
    fast, aside = sled.fastest_pan(X), sled.fastest_pan(Y)
    if fast is not None:
        also = "" if aside is None else f"sideways {figure(aside, Kind.RATE, system)}"
        pm = doubt(unsure[SledGauge.FASTEST], Kind.RATE, system)
        rows.append(FigureRow("Fastest free pan", figure(fast, Kind.RATE, system), pm, also))
    rows.append(
        FigureRow(
            "Pan inertia",
            figure(float(sled.inertia[2, 2]), Kind.INERTIA, system),
            doubt(unsure[SledGauge.PAN_INERTIA], Kind.INERTIA, system),
            "",
        )
    )
    return rows


def _arm_row(analysis: Analysis, on_it: OnVest, settings: VestSettings, system: System) -> FigureRow:
    wanted = springs_for(analysis)
    sets = "" if wanted is None else f"set them for {figure(wanted, Kind.MASS, system)}{_turns(settings, wanted)}"
    if on_it.arm is None or settings.set_for is None:
        return FigureRow("The arm’s springs", "not known", "", sets)
    off = on_it.arm.height - settings.wanted
    if abs(off) < 0.010:
        return FigureRow("The arm floats", "as wanted", "", f"set for {figure(settings.set_for, Kind.MASS, system)}")
    way = "high" if off > 0.0 else "low"
    return FigureRow("The arm floats", f"{figure(abs(off), Kind.LENGTH, system)} {way}", "", sets)


def _turns(settings: VestSettings, wanted: float | None) -> str:
    """Return by how many turns of the arm's screw its setting changes, "" where nobody knows."""
    if wanted is None or settings.set_for is None or not settings.turn:
        return ""
    turns = (wanted - settings.set_for) / settings.turn
    if abs(turns) < 0.05:
        return ""
    return f", {number(abs(turns), 1)} turns {'up' if turns > 0.0 else 'down'}"


# What the drawings show


def _sled_view(analysis: Analysis, on_it: OnVest, system: System) -> SledView:
    sled, settings, gauges = on_it.sled, vest_of(analysis.build), gauges_of(analysis)
    assert gauges is not None
    unsure = doubts_of(gauges)
    lean = sled.lean
    below, ahead = sled.below, float(sled.offset[X])
    words = (
        f"{figure(abs(below), Kind.LENGTH, system)} {'below' if below >= 0.0 else 'above'}",
        f"{figure(abs(ahead), Kind.LENGTH, system)} {'ahead' if ahead >= 0.0 else 'behind'}",
    )
    bearing = on_it.bearing.point
    wished = bearing - np.array([0.0, 0.0, wished_lever(settings, sled)])
    if lean is None:
        said, tone = "turns over: the CG is above the bearing", "fwdT"
    else:
        pm = _lean_doubt(unsure[SledGauge.PITCH], system)
        way = "forward" if lean[0] >= 0.0 else "back"
        said, tone = f"post leans {way} {figure(abs(lean[0]), Kind.ANGLE, system, extra=1)} {pm}", "fwdT"
        if abs(lean[0]) < max(_SEEN, hidden_lean(settings.friction, sled.weight, below)):
            said, tone = "post hangs upright, as far as its friction shows", "accent"
    pitch = None if lean is None else lean[0]
    return SledView(bearing, bearing + sled.offset, wished, COVERAGE * unsure[Gauge.AHEAD], pitch, said, tone, words)


def _wearer_view(analysis: Analysis, on_it: OnVest, system: System) -> tuple[WearerView, np.ndarray]:
    settings, stand = vest_of(analysis.build), analysis.stand
    assert stand is not None
    # Drawn from an upright body: the drawing leans it.
    pose = stand.pose.unladen or stand.pose
    at = pose.pad
    assert at is not None
    operator = pose.stance.operator
    body = pose.body
    middle = MIDDLE * operator.stature
    socket = np.array(
        [float(body.low_back[0]) + settings.socket, settings.side * settings.beside, SOCKET * operator.stature]
    )
    wanted = springs_for(analysis)
    tone = "accent"
    carries = f"it carries {figure(on_it.sled.mass, Kind.MASS, system)}"
    if on_it.arm is None or settings.set_for is None:
        said = "the arm’s springs: setting not known", carries
        tone = "ink2"
    else:
        off = on_it.arm.height - settings.wanted
        said = "floats as wanted", f"springs set for {figure(settings.set_for, Kind.MASS, system)}; {carries}"
        if abs(off) >= 0.010:
            said = f"floats {figure(abs(off), Kind.LENGTH, system)} {'high' if off > 0.0 else 'low'}", said[1]
            tone = "fwdT"
        if on_it.arm.over:
            said = f"{'rests on its lower stop' if on_it.arm.over > 0.0 else 'stays at its top'}", said[1]
    reach = settings.reach * math.cos(settings.boom)
    notes = (
        f"bearing {figure(settings.socket + reach, Kind.LENGTH, system)} ahead of the low back",
        f"the operator shifts back {figure(on_it.shift[0], Kind.LENGTH, system)}, hands only guide",
    )
    if wanted is None:
        notes = notes[0], "weigh the parts first"
    ends = (middle - settings.lift, middle + settings.lift)
    words = [figure(end, Kind.STATURE, system) for end in (ends[1], ends[0])]
    view = WearerView(
        operator.stature,
        socket,
        at,
        *ends,
        middle + settings.wanted,
        on_it.arm is not None,
        on_it.shift[0],
        on_it.shift[1],
        (said[0], said[1]),
        tone,
        notes,
        (words[0], words[1]),
    )
    return view, pose.shift


def _falling(sled: Sled) -> tuple[float, ...]:
    """Return the angles (rad from hanging) of a sled let go level every quarter of a second, the last hanging."""
    time = sled.drop_time
    if time is None or time > 12.0:
        return ()
    lever = math.hypot(float(sled.offset[X]), float(sled.offset[2]))
    times = np.arange(0.0, time, _EVERY)
    angles: list[float] = swing_from(math.pi / 2.0, times, sled.mass, sled.swing, lever).tolist()
    return (*angles, 0.0)


def _drop_view(analysis: Analysis, on_it: OnVest, after: OnVest) -> DropView:
    settings, gauges = vest_of(analysis.build), gauges_of(analysis)
    assert gauges is not None
    sled = on_it.sled
    time = sled.drop_time
    u = 0.0 if time is None else doubts_of(gauges, (SledGauge.DROP,))[SledGauge.DROP]
    if time is None:
        words, tone = ("no drop: it turns over", "the CG is above the bearing"), "fwdT"
    else:
        pm = doubt(u, Kind.TIME, System.METRIC)
        off = time - settings.drop
        said = "as wished" if abs(off) <= settings.room else "too bottom-heavy" if off < 0.0 else "too little below"
        words = (f"now {number(time, 1)} {pm} s", said)
        tone = "accent" if abs(off) <= settings.room else "fwdT"
    ends = settings.drop - settings.room, settings.drop + settings.room
    then = _falling(after.sled) if after.sled.drop_time is not None else ()
    return DropView(_falling(sled), then, time, after.sled.drop_time, u, ends, words, tone)


def _wobble_view(analysis: Analysis, on_it: OnVest, after: OnVest, system: System) -> WobbleView:
    settings, gauges = vest_of(analysis.build), gauges_of(analysis)
    assert gauges is not None
    sled = on_it.sled
    last = max(_PANS, 1.3 * settings.pan, *(1.15 * (_fastest(one) or 0.0) for one in (sled, after.sled)))
    pans = np.linspace(0.0, last, _POINTS)
    now, then = (one.wobbles_in(pans) for one in (sled, after.sled))
    unsure = wobble_doubts(gauges, pans)
    products = tuple(
        f"{way} {figure(v, Kind.INERTIA, system, sign=True)}"
        for way, v in zip(("xz", "yz"), sled.products, strict=True)
    )
    return WobbleView(pans, now, unsure, then, settings.shows, _fastest(sled), (products[0], products[1]))


TEXT = VestText()
