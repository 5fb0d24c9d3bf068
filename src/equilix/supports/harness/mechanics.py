"""A support harness: the rig hangs from a hook on a cable, its load goes over an arm to a back frame, hips and straps.

The rig is free about its hook: at rest its CG is straight below. What the cable takes off the arms bends the back by
the weight times the cable's way ahead, whatever share of the weight the hips carry: a frame tips, and only the trunk
holds it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding
from equilix.core.assembly.build import Build, Grasp, Hold, Operator
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.chosen import with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, MountKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.body import UPRIGHT, body_of
from equilix.core.operator.leaning import (
    LOWEST_BELT,
    Worn,
    by_the_ankles,
    by_the_trunk,
    frame_share,
    reaching,
)
from equilix.core.records import Output, TableHolder, Threshold, WarningType
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.sources import common_practice, from_memory
from equilix.core.statics.equilibrium import Equilibrium, SupportResult, equilibrium_at
from equilix.core.statics.hanging import hang_angles
from equilix.core.statics.pose import Hindrance, Pose, hung_at, in_rig
from equilix.core.support import (
    CLASH,
    HEAVY_LENS,
    NO_LIMIT,
    OUT_OF_TRAVEL,
    SCREEN,
    Case,
    Figure,
    Placement,
    Report,
    Support,
)
from equilix.core.uncertainty.output_model import (
    CG_AHEAD,
    SLIDE_TO_LEVEL,
    TIP_MOMENT,
    TOTAL_MASS,
    OutputModel,
    Samples,
    unsure,
)
from equilix.core.units import Kind
from equilix.supports.harness.settings import USUAL, HarnessSettings

#: Share of the greatest load from which to take care.
CARE = common_practice(0.90)
#: rad: how far aside a rig may hang without anybody minding.
LEAN = common_practice(math.radians(2.0))
#: Hz and m: steps while walking and how far the body goes up and down, each way; Whittle, Gait Analysis.
STEP_FREQUENCY, STEP_HEIGHT = from_memory((1.9, 0.022))
#: Hz: a spring arm's own beat where nobody has measured one.
USUAL_BEAT = common_practice(0.85)
#: rad: what the force at the grips is given for.
_TILT = math.radians(10.0)


#: m off its place that nobody sees on a hanging rig.
_FELT = common_practice(0.001)
#: m below the hook from which a CG hangs and hands pull.
_LEAST_HANG = common_practice(0.02)


#: m that the arm's end stands above the head, about as high as a hand is held up beside it.
_ABOVE_HEAD = common_practice(0.15)


TURNS_OVER = WarningType(
    "turns over",
    "the rig turns over",
    "The CG is {amount} above the hook: the rig turns over. Raise the hook, or add weight below.",
    Kind.LENGTH,
    leads=True,
)
LIMIT_WANTED = NO_LIMIT.on(
    "Enter the harness’s greatest load first, in the build’s menu under “Name, note and hook”.",
    leads=True,
    carried=True,
)
OVER_LIMIT = WarningType(
    "over the limit",
    "the rig may be over the maker’s limit",
    ("{amount} {pm} is over the harness’s {limit}. Do not hang it. Take a part off, or use a larger harness."),
    Kind.MASS,
    leads=True,
    carried=True,
    makers=True,
)
NEAR_LIMIT = WarningType(
    "near the limit",
    "the rig is close to the maker’s limit",
    f"{{amount}} is over {100 * CARE:.0f} % of the maker’s {{limit}}. Ask the maker whether that is at rest.",
    Kind.MASS,
    carried=True,
    makers=True,
)
PEAK_OVER_LIMIT = WarningType(
    "peak over the limit",
    "each step is over the maker’s limit",
    "Each step pulls like {amount}. The maker allows {limit}. A spring arm helps.",
    Kind.MASS,
    carried=True,
    makers=True,
)
UNDER_LEAST = WarningType(
    "under the least load",
    "the rig is lighter than the harness is made for",
    "{amount} is below the harness’s least, {limit}. Its arm may spring up.",
    Kind.MASS,
    carried=True,
    least=True,
)


class Hook(Struct, frozen=True):
    """Where the rig hangs: `point` (3,) (m, rig frame) on part number `part`; `usual` if nobody chose it."""

    point: np.ndarray
    part: int
    usual: bool


class HarnessResult(Struct, SupportResult, frozen=True, eq=False):
    """How a rig hangs: `pitch` nose down and `roll` left side up (rad), None where undefined; `tension` (N), at rest.

    `stable` if the CG is below the hook. `peak` (N) is the greatest tension while walking, `passes` how much of the
    steps the rig follows. `tilt_force` (N) at the grips holds it 10 degrees off, None without grips below the hook.
    `share` of the greatest load, None without that limit.
    """

    hook: Hook
    pitch: float | None
    roll: float | None
    stable: bool
    tension: float
    peak: float
    passes: float
    tilt_force: float | None
    share: float | None


HarnessCase: TypeAlias = Case[HarnessSettings, HarnessResult]


def hook_of(assembly: Assembly, positions: Positions, settings: HarnessSettings) -> Hook | None:
    """Return where a build hangs: where it was chosen, else at an eyelet, the top handle, or on top of cage or camera.

    As far ahead of that as the hook was slid; None if it has none of these.
    """
    found = _place_of(assembly, positions, settings.hook)
    if found is None:
        return None
    return replace(found, point=found.point + np.array([settings.along, 0.0, 0.0]))


def hook_to_level(case: HarnessCase) -> float | None:
    """Return how far (m) forward the hook must slide for the rig to hang as wanted; None where that does nothing.

    The CG lies ``ahead`` of the hook across the wanted way down; a hook that goes forward takes that off by its way
    across: exact, whatever the travel.
    """
    forward = float(case.equilibrium.forward[0])
    return None if negligible(forward, SLIGHT) else case.equilibrium.ahead / forward


def slid_to(build: Build, along: float) -> Build:
    """Return the build with its hook at another place (m ahead of where it is fixed), as far as it slides."""
    settings = SUPPORT.settings(build)
    return with_settings(build, replace(settings, along=min(max(along, -settings.room), settings.room)))


def _place_of(assembly: Assembly, positions: Positions, chosen: Grasp | None) -> Hook | None:
    points = list(enumerate(assembly.touch_points))
    if chosen is not None:
        for i, point in points:
            if (point.placed_id, point.mount_id) == (chosen.placed_id, chosen.mount_id):
                return Hook(positions.touch[i], point.part, False)
    eyelets = [(i, p) for i, p in points if p.kind is MountKind.EYELET]
    handles = [(i, p) for i, p in points if p.kind is MountKind.GRIP_POINT and p.category is Category.HANDLE]
    for several in (eyelets, handles):
        if several:
            i, point = max(several, key=lambda pair: float(positions.touch[pair[0], 2]))
            return Hook(positions.touch[i], point.part, True)
    for category in (Category.CAGE, Category.BODY):
        for k, part in enumerate(assembly.parts):
            if part.category is category and assembly.sized[k]:
                top = positions.centre[k] + np.array([0.0, 0.0, assembly.edges[k, 2]])
                return Hook(top, k, True)
    return None


# Walking


def transmissibility(ratio: float | np.ndarray, damping: float) -> float | np.ndarray:
    """Return how much of a base's movement a load on a spring follows, at `ratio` of its frequency to the spring's own.

    ``sqrt((1 + (2 z r)^2)/((1 - r^2)^2 + (2 z r)^2))``: Rao, Mechanical Vibrations, ch. 3.
    """
    r = np.asarray(ratio, dtype=float)
    through = (2.0 * damping * r) ** 2
    found = np.sqrt((1.0 + through) / ((1.0 - r**2) ** 2 + through))
    return float(found) if found.ndim == 0 else found


def passes_of(settings: HarnessSettings, frequency: float = STEP_FREQUENCY) -> float:
    """Return how much of the steps at `frequency` (Hz) the rig follows; a stiff cable follows every one."""
    if settings.beat is None:
        return 1.0
    return float(transmissibility(frequency / settings.beat, settings.damping))


def peak_share(passes: float, frequency: float = STEP_FREQUENCY, height: float = STEP_HEIGHT) -> float:
    """Return the greatest tension while walking over that at rest: ``1 + |T| A w^2/g``."""
    return 1.0 + passes * height * (2.0 * math.pi * frequency) ** 2 / STANDARD_GRAVITY


# Outputs


def _share(outputs: OutputModel, samples: Samples) -> np.ndarray:
    return samples.mass / (outputs.case.settings.most or math.nan)


def _as_wanted(_: HarnessSettings) -> tuple[Threshold, ...]:
    return (Threshold(0.0, "as wanted"),)


PITCH = Output(
    "hangs nose down",
    Kind.ANGLE,
    lambda outputs, samples: outputs.hangs(samples)[:, 0],
    "hang_pitch_deg",
    signed=True,
    limits=lambda settings: (Threshold(settings.pitch, "as wanted"),),
)
ROLL = Output(
    "hangs left side high",
    Kind.ANGLE,
    lambda outputs, samples: outputs.hangs(samples)[:, 1],
    "hang_roll_deg",
    signed=True,
)
TENSION = Output("tension", Kind.FORCE, lambda outputs, samples: samples.mass * STANDARD_GRAVITY, "tension_n")
SHARE = Output(
    "share of the limit",
    Kind.SHARE,
    _share,
    "capacity_share",
    limits=lambda _: (Threshold(CARE, "caution"), Threshold(1.0, "do not hang it")),
    there=lambda case: case.settings.most is not None,
)


class HarnessSupport(Support[HarnessSettings, HarnessResult]):
    """A hook on a cable ahead of the body, hands at the grips to guide."""

    key = "harness"
    holder = TableHolder("hook", (MountKind.EYELET,), ("tension_n", "stable", "hang_pitch_deg", "hang_roll_deg"))
    usual = USUAL
    # Nothing rests on a shoulder.
    removable = frozenset({Category.PAD})
    result_type = HarnessResult
    hindrance = "no hook"
    outputs = (
        PITCH,
        CG_AHEAD.on("cg_ahead_mm", _as_wanted),
        SLIDE_TO_LEVEL.on("slide_to_hang_mm"),
        ROLL,
        TIP_MOMENT,
        TENSION,
        SHARE,
        TOTAL_MASS,
    )
    warned = (
        TURNS_OVER,
        OVER_LIMIT,
        LIMIT_WANTED,
        SCREEN.on(leads=True),
        CLASH,
        OUT_OF_TRAVEL,
        PEAK_OVER_LIMIT,
        NEAR_LIMIT,
        UNDER_LEAST,
        HEAVY_LENS,
    )

    def with_slide(self, case: HarnessCase) -> Build | None:
        by, now = hook_to_level(case), case.settings.along
        # What turns over is not cured by hanging it elsewhere along the rig.
        if by is None or not case.result.stable:
            return None
        then = slid_to(case.build, now + by)
        felt = abs(by) > _FELT and not negligible(self.settings(then).along - now, SLIGHT)
        return then if felt else None

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        settings = self.settings(analysis.build)
        hook = hook_of(analysis.assembly, analysis.positions, settings)
        if hook is None:
            return Hindrance.NO_HOOK
        if analysis.body is None:
            return Hindrance.NO_MASS
        return self._posed(analysis.assembly, analysis.positions, hook, analysis.body.mass, settings, operator, way)

    def _posed(
        self,
        assembly: Assembly,
        positions: Positions,
        hook: Hook,
        mass: float,
        settings: HarnessSettings,
        operator: Operator,
        way: Hold,
    ) -> Pose:
        """The cable runs `reach` ahead of the low back, and the hook hangs a cable's length below the arm's end.

        The wearer leans back about the ankles, with the belt as high as it may be; eased with the trunk and a low belt.
        """
        upright = body_of(operator)
        height = upright.stature + _ABOVE_HEAD - settings.cable
        at = np.array([float(upright.low_back[0]) + settings.reach, 0.0, height])
        reach = hung_at(assembly, positions, hook.point, at, operator, way, UPRIGHT, 1.0, 1.0)
        arms = reaching(upright, reach.arms)
        bare = hung_at(assembly, positions, hook.point, at, operator, way, by_the_ankles(upright, arms), 1.0, 1.0)
        pose: Pose | None = None
        for lean_of, belt in (
            (by_the_trunk, LOWEST_BELT if settings.belt is None else settings.belt),
            (by_the_ankles, settings.belt or 0.0),
        ):
            pose = hung_at(
                assembly,
                positions,
                hook.point,
                at,
                operator,
                way,
                lean_of(upright, (Worn(mass, at), *arms)),
                1.0 - settings.hip_share,
                frame_share(belt),
                pose,
                bare,
            )
        assert pose is not None
        return pose

    def equilibrium(self, placed: Placement[HarnessSettings]) -> tuple[Equilibrium, HarnessResult] | None:
        assembly, positions, body, settings = placed.assembly, placed.positions, placed.body, placed.settings
        hook = hook_of(assembly, positions, settings)
        if hook is None:
            return None
        posed = self._posed(assembly, positions, hook, body.mass, settings, placed.operator, settings.hold)
        down = settings.down
        # What holds it level says nothing of a rig that shall hang tilted: there the cable alone does.
        level = settings.pitch == 0.0
        held = posed.statics(arms=False).hold(body.mass, body.cg + posed.shift) if level else None
        forward = np.array([-down[2], 0.0, down[0]])
        room = None, max(float((body.cg - hook.point) @ down), _LEAST_HANG) * math.tan(LEAN)
        holding = in_rig(held, posed)
        equilibrium = equilibrium_at(assembly, positions, body, hook.point, hook.part, forward, room, posed, holding)
        return equilibrium, _result(body, hook, settings, [place.point for place in posed.places])

    def findings(self, case: HarnessCase, operator: Operator) -> list[Finding]:
        hook, body, spread = case.result.hook, case.body, case.spread
        at = (case.build.parts[hook.part].id,)
        found = []
        if not case.result.stable:
            found.append(Finding(TURNS_OVER, at, float(body.cg[2] - hook.point[2]), float(spread.cg[2]), limit=0.0))
        return [*found, *self.load_findings(case.settings, body.mass, spread.mass, at)]

    def load_findings(self, settings: HarnessSettings, mass: float, u: float, at: tuple[str, ...]) -> list[Finding]:
        found, most = [], settings.most
        peak = mass * peak_share(passes_of(settings))
        if most is None:
            found.append(Finding(LIMIT_WANTED, at, mass, u))
        elif mass + COVERAGE * u > most:
            found.append(Finding(OVER_LIMIT, at, mass, u, limit=most))
        elif mass > CARE * most:
            found.append(Finding(NEAR_LIMIT, at, mass, u, limit=most))
        elif peak > most:
            found.append(Finding(PEAK_OVER_LIMIT, at, peak, u, limit=most))
        if settings.least is not None and mass < settings.least:
            found.append(Finding(UNDER_LEAST, at, mass, u, limit=settings.least))
        return found

    def table_figures(self, case: HarnessCase, figures: dict[str, float | None]) -> dict[str, object]:
        return {**figures, "stable": case.result.stable}

    def report(self, case: HarnessCase, operator: Operator, figures: dict[str, Figure]) -> Report:
        analysis, result, point = case.analysis, case.result, case.result.hook.point
        tension = figures["tension_n"]
        share = result.peak / result.tension
        figures["peak_tension_n"] = Figure(
            result.peak, None if tension.uncertainty is None else tension.uncertainty * share
        )
        figures["stable"] = Figure(float(result.stable))
        # With the CG in the hook it stays as it is held; straight ahead of it there is no roll.
        for key, angle in (("hang_pitch_deg", result.pitch), ("hang_roll_deg", result.roll)):
            if angle is None:
                figures[key] = Figure(math.nan)
        if result.tilt_force is not None:
            grips = [place.point for place in case.equilibrium.pose.places]

            def force(mass: float, cg: np.ndarray) -> np.ndarray | None:
                found = tilt_force(mass * STANDARD_GRAVITY, cg - point, point, grips)
                return None if found is None else np.array([found])

            sure = unsure(analysis, force)
            figures["tilt_force_n"] = Figure(result.tilt_force, None if sure is None else float(sure[0]))
        part = analysis.assembly.parts[result.hook.part].name
        said = (f"no hook is chosen: it hangs from {part}",) if result.hook.usual else ()
        return Report({"hook_mm": point}, figures, said=said)


def _result(body: MassProperties, hook: Hook, settings: HarnessSettings, grips: Sequence[np.ndarray]) -> HarnessResult:
    """Return how a rig hangs from its hook, with hands at `grips` (m)."""
    d = body.cg - hook.point
    pitch, roll = hang_angles(d)
    weight, passes = body.mass * STANDARD_GRAVITY, passes_of(settings)
    return HarnessResult(
        hook,
        pitch,
        roll,
        bool(d[2] < 0.0),
        weight,
        weight * peak_share(passes),
        passes,
        tilt_force(weight, d, hook.point, grips),
        body.mass / settings.most if settings.most is not None else None,
    )


def tilt_force(weight: float, d: np.ndarray, hook: np.ndarray, grips: Sequence[np.ndarray]) -> float | None:
    """Return the level force (N) at the grips that tilts a hanging rig by 10 degrees, None without grips below it.

    Moments about the hook: the CG at `d` (3,) (m) from it swings ``|d| sin 10`` out, the hands pull with the height
    that they then have below the hook.
    """
    if not grips:
        return None
    below = float(hook[2]) - float(np.mean([point[2] for point in grips]))
    if below < _LEAST_HANG or d[2] >= 0.0:
        return None
    return weight * math.hypot(float(d[0]), float(d[2])) * math.sin(_TILT) / (below * math.cos(_TILT))


SUPPORT = HarnessSupport()
