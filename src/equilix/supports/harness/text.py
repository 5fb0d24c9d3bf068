"""The support harness in words and lines."""

from __future__ import annotations

import math
from types import MappingProxyType
from typing import TYPE_CHECKING

from msgspec.structs import replace

from equilix.core.analysis import Analysis, warnings_of
from equilix.core.assembly.build import Build, Grasp, Kit, Operator
from equilix.core.kit.parts import Category, MountKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.statics.pose import Pose
from equilix.core.uncertainty.output_model import output_model, output_uncertainties
from equilix.core.units import Kind
from equilix.present.drawing.figures import At
from equilix.present.drawing.scene import Scene, circle, polyline, rect
from equilix.present.supports.text import Chosen, FigureRow, OwnScale, Page, SupportText, Verdict
from equilix.present.units import System, figure, number, uncertainty, unit_of
from equilix.supports.harness.mechanics import (
    PITCH,
    ROLL,
    SHARE,
    STEP_FREQUENCY,
    STEP_HEIGHT,
    SUPPORT,
    TENSION,
    USUAL_BEAT,
    HarnessCase,
    HarnessResult,
    hook_of,
    hook_to_level,
    passes_of,
    slid_to,
)
from equilix.supports.harness.settings import HarnessSettings

if TYPE_CHECKING:
    from equilix.core.carry.carried import Carry
    from equilix.present.drawing.rig_drawing import Projection

#: rad: a tilt that nobody sees; common practice.
_SEEN = math.radians(0.5)


def _draw_page(case: HarnessCase, kit: Kit, system: System, width: float, height: float) -> Scene:
    from equilix.present.drawing.hanging import Walk, draw_bounce, draw_capacity, draw_hang, draw_traces

    scene = Scene()
    on_it, body, spread = case.result, case.body, case.spread
    settings = case.settings
    third = width / 3.0
    most = settings.most
    bar = 74.0
    hang = on_it.hook.point, on_it.pitch if on_it.stable else None
    draw_hang(scene, case.analysis, hang, 0.0, third - 24.0, height - bar)
    if most is not None:
        words = f"{figure(body.mass, Kind.MASS, system)} {uncertainty(spread.mass, Kind.MASS, system)}"
        shares = (body.mass / most, COVERAGE * spread.mass / most, on_it.peak / on_it.tension * body.mass / most)
        draw_capacity(scene, words, figure(most, Kind.MASS, system), shares, height - bar, third - 24.0)
    beat = settings.beat or USUAL_BEAT
    arm = replace(settings, beat=beat)
    words = f"{'with ' if settings.beat is None else ''}a spring arm, {number(beat, 2)} Hz"
    walk = Walk(STEP_FREQUENCY, STEP_HEIGHT, lambda f: passes_of(arm, f), words, settings.beat is not None)
    draw_bounce(scene, walk, third, third - 24.0, height)
    draw_traces(scene, walk, 2.0 * third, third, height, system)
    return scene


class HarnessText(SupportText[HarnessSettings, HarnessResult]):
    """The hook, how the rig hangs from it, and what the maker allows."""

    support = SUPPORT
    noun = "the hook"
    label = "hook"
    needs = "Give it something to hang from: an eyelet, a top handle, or a camera or cage with its size."
    here = "The rig hangs from the hook here."
    moves = "Move the hook"
    lens_question = "Marks at which it hangs as wanted, for each lens"
    closing = (
        "Keep a hand on the rig: a harness does not steady it. Its arm swings. Check the release before "
        "each take. The maker’s limits come first. Body figures are for planning, not medical advice."
    )
    tips = "moment about the hook"
    starts = ("start-documentary", "Documentary rig on a harness")
    bears = "Pull on the cable"
    no_brace = "the cable carries it"

    # Generic classes; common practice. The maker's figures come first.
    sizes = (
        ("Small, 2 to 6.8 kg", MappingProxyType({"least": 2.0, "most": 6.8})),
        ("Medium, 5 to 10 kg", MappingProxyType({"least": 5.0, "most": 10.0})),
        ("Large, 8 to 15 kg", MappingProxyType({"least": 8.0, "most": 15.0})),
    )
    place_word = "Hangs from"
    page = Page("Hanging", _draw_page)
    stuck = "No slide on this build goes far enough. Choose another hook: build list, “Name, note and hook…”."

    def places(self, build: Build, kit: Kit) -> tuple[tuple[str, Grasp | None], ...]:
        found: list[tuple[str, Grasp | None]] = [("chosen for you: eyelet, top handle or the camera’s top", None)]
        for placed in build.parts:
            part = kit[placed.part_id]
            for mount in part.mounts:
                handle = mount.kind is MountKind.GRIP_POINT and part.category is Category.HANDLE
                if handle or mount.kind is MountKind.EYELET:
                    found.append((f"{part.name}, {mount.name or mount.kind}", Grasp(placed.id, mount.id)))
        return tuple(found)

    def place(self, settings: HarnessSettings) -> Grasp | None:
        return settings.hook

    def with_place(self, settings: HarnessSettings, place: Chosen) -> HarnessSettings:
        assert not isinstance(place, str)
        return replace(settings, hook=place)

    def lacks(self, analysis: Analysis) -> str:
        there = hook_of(analysis.assembly, analysis.positions, SUPPORT.settings(analysis.build))
        return "" if there is not None else "a hook"

    def verdict(self, case: HarnessCase, system: System) -> Verdict:
        on_it, equilibrium, body = case.result, case.equilibrium, case.body
        settings = case.settings
        where = _hook_words(case)
        if not on_it.stable:
            above = figure(float(body.cg[2] - on_it.hook.point[2]), Kind.LENGTH, system)
            return Verdict("Turns over.", f"The CG is {above} above the hook.", "forward", where, stops=True)
        if settings.most is None:
            hangs = f"It hangs {_nose(on_it.pitch or 0.0)}."
            menu = "Enter it in the build list, “Name, note and hook…”."
            return Verdict("Enter the maker’s limit first.", f"{hangs} {menu}", "forward", where, stops=True)
        spread = case.spread
        weighs = f"{figure(body.mass, Kind.MASS, system, unit=False)} {uncertainty(spread.mass, Kind.MASS, system)}"
        limit = figure(settings.most, Kind.MASS, system)
        if body.mass + COVERAGE * spread.mass > settings.most:
            unit = unit_of(Kind.MASS, system)
            words = f"{weighs} {unit} on a harness for {limit}."
            return Verdict("Do not hang it.", words, "forward", where, stops=True)
        share = f"{100.0 * body.mass / settings.most:.0f} % of the limit."
        u = equilibrium.ahead_uncertainty
        off = (on_it.pitch or 0.0) - settings.pitch
        if abs(equilibrium.ahead) <= COVERAGE * u or abs(off) < _SEEN:
            so = "level" if settings.pitch == 0.0 else _nose(settings.pitch)
            pm = f"{uncertainty(u, Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
            known = f"within what is known ({pm})"
            if abs(equilibrium.ahead) > COVERAGE * u:
                known = f"to {math.degrees(_SEEN):.1f}°, which nobody sees"
            return Verdict(f"Hangs {so}", f"fore and aft, {known}. {share}", note=where)
        leans = "forward" if off > 0.0 else "back"
        return Verdict(f"Hangs {_nose(on_it.pitch or 0.0)}.", share, leans, where)

    def mark(self, case: HarnessCase) -> str:
        equilibrium = case.equilibrium
        if warnings_of(case.analysis) or case.settings.most is None:
            return "look"
        return "settled" if abs(equilibrium.ahead) <= COVERAGE * equilibrium.ahead_uncertainty else "part"

    def rows(self, case: HarnessCase, system: System) -> tuple[FigureRow, ...]:
        on_it, equilibrium, outputs = case.result, case.equilibrium, output_model(case.analysis)
        assert outputs is not None
        unsure = output_uncertainties(outputs)
        settings = case.settings
        rows = [
            FigureRow(
                f"CG {self.away(case)}",
                figure(abs(equilibrium.ahead), Kind.LENGTH, system),
                uncertainty(equilibrium.ahead_uncertainty, Kind.LENGTH, system),
                "" if settings.pitch == 0.0 else f"of {_nose(settings.pitch)} wanted",
            )
        ]
        if on_it.stable and on_it.pitch is not None and on_it.roll is not None:
            nose = "Hangs nose down" if on_it.pitch >= 0.0 else "Hangs nose up"
            side = "Hangs left side high" if on_it.roll >= 0.0 else "Hangs right side high"
            for name, value, output in ((nose, on_it.pitch, PITCH), (side, on_it.roll, ROLL)):
                pm = uncertainty(unsure[output], Kind.ANGLE, system)
                rows.append(FigureRow(name, figure(abs(value), Kind.ANGLE, system), pm))
        rows.append(
            FigureRow(
                "Pull on the cable",
                figure(on_it.tension, Kind.FORCE, system),
                uncertainty(unsure[TENSION], Kind.FORCE, system),
                f"up to {figure(on_it.peak, Kind.FORCE, system)} while you walk",
            )
        )
        if on_it.share is not None:
            pm = uncertainty(unsure[SHARE], Kind.SHARE, system)
            rows.append(
                FigureRow("Share of the limit", figure(on_it.share, Kind.SHARE, system), pm, "caution from 90 %")
            )
        if on_it.tilt_force is not None:
            force = figure(on_it.tilt_force, Kind.FORCE, system, extra=1)
            rows.append(FigureRow("Pull that tilts it by 10°", force, "", "at the grips"))
        rows.append(
            FigureRow(
                "Share of each step passed on",
                f"× {number(on_it.passes, 2)}",
                "",
                "a stiff cable" if settings.beat is None else f"spring arm, {number(settings.beat, 2)} Hz",
            )
        )
        return tuple(rows)

    def body_cautions(self, carried: Carry, case: HarnessCase, system: System) -> tuple[str, ...]:
        settings = case.settings
        pull = float(carried.held.pad_force[2])
        hips, straps = (
            figure(pull * share, Kind.FORCE, system) for share in (settings.hip_share, 1.0 - settings.hip_share)
        )
        most, least = (
            figure(math.hypot(float(moment[0]), float(moment[1])), Kind.MOMENT, system, extra=-1)
            for moment in (carried.back_moment, carried.least_back_moment)
        )
        return (
            f"The hips carry {hips}, the straps {straps}. Neither lessens how the cable ahead bends the low back: "
            f"{most} leaning back from the ankles, {least} with the trunk 8° back and a low belt.",
        )

    def effects(self, before: HarnessCase, after: HarnessCase, system: System) -> tuple[str, ...]:
        was, then = before.result, after.result
        if was.pitch is None or then.pitch is None or not then.stable:
            return ()
        said = [f"hangs {_nose(was.pitch)} → {_nose(then.pitch)}"]
        if was.share is not None and then.share is not None and abs(was.share - then.share) >= 0.005:
            said.append(f"{100 * was.share:.0f} → {100 * then.share:.0f} % of the limit")
        return tuple(said)

    def own_scale(self, case: HarnessCase) -> OwnScale | None:
        settings, level = case.settings, hook_to_level(case)
        if settings.room <= 0.0:
            return None
        wanted = None if level is None else settings.along + level
        return OwnScale("Hook", -settings.room, settings.room, settings.along, wanted, "hook")

    def with_slide(self, build: Build, setting: float) -> Build:
        return slid_to(build, setting)

    room = (0.0, 0.13)
    beside_width = 200.0
    worn = True

    def draw_point(self, scene: Scene, x: float, y: float, height: float, floor: float, scale: float) -> None:
        """Draw cable, swivel and hook, and the line below it where the CG shall be."""
        scene.line(x, 44.0, x, y - 0.062 * scale, "ink", 1.5)
        scene.line(x, y + 7.0, x, height, "ink", 1.2)
        scene.path(circle(x, y - 0.050 * scale, 0.012 * scale), "panel", "ink", 1.6)
        w, h = 0.030 * scale, 0.026 * scale
        scene.path(rect(x - w / 2.0, y - 0.038 * scale, w, h, 3.0), "p3", "line", 1.25)

    def draw_gear(self, scene: Scene, case: HarnessCase, pose: Pose, at: At, scale: float) -> None:
        from equilix.supports.harness.drawing import draw_frame

        draw_frame(scene, case, pose, at, scale)

    def draw_beside(
        self,
        scene: Scene,
        case: HarnessCase,
        operator: Operator,
        system: System,
        area: tuple[float, float, float, float],
    ) -> None:
        from equilix.supports.harness.drawing import draw_worn

        draw_worn(scene, case, self.gear(case, case.equilibrium.pose), system, area)

    def draw_over(self, scene: Scene, case: HarnessCase, projection: Projection) -> None:
        equilibrium, on_it = case.equilibrium, case.result
        x, y = projection.x(float(equilibrium.point[0])), projection.y(float(equilibrium.point[2]))
        scene.path(circle(x, y, 7.0), "panel", "accent", 1.8)
        # How the rig's own level line will lie once it hangs.
        if on_it.stable and on_it.pitch is not None and abs(on_it.pitch) >= _SEEN:
            for angle, color, dash in ((0.0, "ink3", (1.2, 2.6)), (on_it.pitch, "fwd", (6.0, 4.0))):
                dx, dy = 150.0 * math.cos(angle), 150.0 * math.sin(angle)
                scene.path(polyline(((x, y), (x + dx, y + dy))), None, color, 1.3, dash)


def _nose(pitch: float) -> str:
    """Return a tilt in words: "level", "6° nose down"."""
    if abs(pitch) < _SEEN:
        return "level"
    return f"{abs(math.degrees(pitch)):.0f}° nose {'down' if pitch > 0.0 else 'up'}"


def _hook_words(case: HarnessCase) -> str:
    """Return where it hangs, if nobody has said so."""
    if not case.result.hook.usual:
        return ""
    part = case.analysis.assembly.parts[case.result.hook.part].name.split(",")[0]
    return f"No hook is chosen. It hangs from the {part[:1].lower() + part[1:]}."


TEXT = HarnessText()
