"""A support harness: the rig hangs from a hook on a cable, its load goes over an arm to a back frame, hips and straps.

The rig is free about its hook: at rest its CG is straight below. What the cable takes off the arms bends the back by
the weight times the cable's way ahead, whatever share of the weight the hips carry: a frame tips, and only the trunk
holds it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from enum import StrEnum
from types import MappingProxyType
from typing import ClassVar, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import BY_ITSELF, Brace, Build, Grasp, Hold, Operator, Settings
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.chosen import hold_of, settings_of, with_settings
from equilix.core.doubt.gauges import Draws, Gauge, Gauges, Threshold, gauges_of, unsure
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, MountKind
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.limits import MAX_MASS, Bound, check_bounds, check_number
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
from equilix.core.rounding import ROUNDING, SLIGHT, negligible
from equilix.core.statics.points import hang_angles
from equilix.core.statics.pose import Hindrance, Pose, hung_at, in_rig
from equilix.core.statics.stand import Stand, stand_at
from equilix.core.support import Figure, Judged, Support, keyed

#: Share of the greatest load from which to take care; common practice.
CARE = 0.90
#: rad: how far aside a rig may hang without anybody minding; common practice.
LEAN = math.radians(2.0)
#: Hz and m: steps while walking and how far the body goes up and down, each way; Whittle, Gait Analysis, from memory.
STEP_FREQUENCY, STEP_HEIGHT = 1.9, 0.022
#: Hz: a spring arm's own beat where nobody has measured one; common practice.
USUAL_BEAT = 0.85
#: m: how far a hook slides either way on a rail or a handle; common practice.
HOOK_ROOM = 0.060
#: rad: what the force at the grips is given for.
_TILT = math.radians(10.0)


#: m off its place that nobody sees on a hanging rig; common practice.
_FELT = 0.001
#: m below the hook from which a CG hangs and hands pull; common practice.
_LEAST_HANG = 0.02


class HarnessSettings(Struct, Settings, frozen=True):
    """The harness and where the rig hangs on it.

    `hook` is the touch point it hangs from, None for the usual one; `pitch` (rad, nose down) is how it shall hang.
    `least` and `most` (kg) are the maker's limits, None where nobody has entered them. `reach` (m) is how far the
    cable runs ahead of the low back, `cable` (m) its length, `hip_share` what the hips take of the weight, `belt`
    (m) how far below L5/S1 their belt bears, None where nobody measured it. `beat` (Hz)
    is a spring arm's own frequency with this load and `damping` its ratio; None: the cable alone, stiff. The hook
    slides by `room` (m) either way from its place, and stands `along` (m) ahead of it.
    """

    hook: Grasp | None = None
    pitch: float = 0.0
    least: float | None = None
    most: float | None = None
    reach: float = 0.45
    cable: float = 0.30
    hip_share: float = 0.8
    belt: float | None = None
    beat: float | None = None
    damping: float = 0.1
    room: float = HOOK_ROOM
    along: float = 0.0
    hold: Hold = BY_ITSELF
    kind: Literal["harness"] = "harness"

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "pitch": Bound(-1.2, 1.2, "The wanted tilt", "rad"),
        "least": Bound(0.0, MAX_MASS, "The least load", "kg"),
        "most": Bound(0.0, MAX_MASS, "The greatest load", "kg"),
        "reach": Bound(0.1, 1.0, "How far the cable runs ahead of the back", "m"),
        "cable": Bound(0.05, 2.0, "The cable's length", "m"),
        "hip_share": Bound(0.0, 1.0, "The hips' share"),
        "belt": Bound(0.0, 0.3, "The hip belt below the low back", "m"),
        "beat": Bound(0.2, 5.0, "A spring arm's own beat", "Hz"),
        "damping": Bound(0.0, 2.0, "A spring arm's damping"),
        "room": Bound(0.0, 0.5, "How far the hook slides", "m"),
    }

    def __post_init__(self) -> None:
        check_bounds(self, self.BOUNDS)
        if self.most is not None and (self.most <= 0.0 or (self.least is not None and self.least >= self.most)):
            raise AssemblyError("The harness's least load must be below its greatest: enter the maker's limits.")
        check_number(self.along, -self.room - ROUNDING, self.room + ROUNDING, "Where the hook stands", "m")

    @property
    def hands(self) -> Hold:
        return self.hold

    def with_hold(self, hold: Hold) -> HarnessSettings:
        return replace(self, hold=hold)

    @property
    def down(self) -> np.ndarray:
        """The way down (3,) in the rig's frame when it hangs as it shall."""
        return np.array([math.sin(self.pitch), 0.0, -math.cos(self.pitch)])


def harness_of(build: Build) -> HarnessSettings:
    """Return a build's harness, now or if it were hung on one."""
    found = settings_of(build, "harness")
    assert isinstance(found, HarnessSettings)
    return found


#: m that the arm's end stands above the head, about as high as a hand is held up beside it; common practice.
_ABOVE_HEAD = 0.15


class HookFinding(StrEnum):
    """What there is to look at on a harness alone."""

    TURNS_OVER = "turns over"
    OVER_LIMIT = "over the limit"
    NEAR_LIMIT = "near the limit"
    PEAK_OVER_LIMIT = "peak over the limit"
    UNDER_LEAST = "under the least load"


class HookGauge(StrEnum):
    """Figures of the verdict on a harness alone, SI."""

    PITCH = "hangs nose down"
    ROLL = "hangs left side up"
    TENSION = "tension"
    SHARE = "share of the limit"


class Hook(Struct, frozen=True):
    """Where the rig hangs: `point` (3,) (m, rig frame) on part number `part`; `usual` if nobody chose it."""

    point: np.ndarray
    part: int
    usual: bool


class OnHook(Struct, frozen=True, eq=False):
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


def on_hook_of(analysis: Analysis) -> OnHook | None:
    """Return how a rig hangs, None if it is on another support or nothing can take a hook."""
    return analysis.more if isinstance(analysis.more, OnHook) else None


def hook_of(assembly: Assembly, positions: Positions, build: Build) -> Hook | None:
    """Return where a build hangs: where it was chosen, else at an eyelet, the top handle, or on top of cage or camera.

    As far ahead of that as the hook was slid; None if it has none of these.
    """
    found = _place_of(assembly, positions, build)
    if found is None:
        return None
    return replace(found, point=found.point + np.array([harness_of(build).along, 0.0, 0.0]))


def hook_to_level(analysis: Analysis) -> float | None:
    """Return how far (m) forward the hook must slide for the rig to hang as it shall; None if it doesn't hang at all.

    The CG lies ``ahead`` of the hook across the wanted way down; a hook that goes forward takes that off by its way
    across: exact, whatever the travel.
    """
    stand = analysis.stand
    if stand is None or on_hook_of(analysis) is None or negligible(float(stand.forward[0]), SLIGHT):
        return None
    return stand.ahead / float(stand.forward[0])


def slid_to(build: Build, along: float) -> Build:
    """Return the build with its hook at another place (m ahead of where it is fixed), as far as it slides."""
    settings = harness_of(build)
    return with_settings(build, replace(settings, along=min(max(along, -settings.room), settings.room)))


def _place_of(assembly: Assembly, positions: Positions, build: Build) -> Hook | None:
    chosen = harness_of(build).hook
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


# Gauges


def _share(gauges: Gauges, draws: Draws) -> np.ndarray:
    most = harness_of(gauges.analysis.build).most
    return draws.mass / most if most is not None else np.full(len(draws.mass), np.nan)


#: The gauges' keys on the command line.
_KEYS: dict[str, str] = {
    Gauge.AHEAD: "cg_ahead_mm",
    Gauge.SLIDE: "slide_to_hang_mm",
    HookGauge.PITCH: "hang_pitch_deg",
    HookGauge.ROLL: "hang_roll_deg",
    HookGauge.TENSION: "tension_n",
    HookGauge.SHARE: "capacity_share",
}


class HarnessSupport(Support):
    """A hook on a cable ahead of the body, hands at the grips to guide."""

    key = "harness"
    usual = HarnessSettings()
    braces = (Brace.NONE,)
    warnings = (
        HookFinding.TURNS_OVER,
        HookFinding.OVER_LIMIT,
        FindingKind.NO_LIMIT,
        FindingKind.SCREEN,
        FindingKind.CLASH,
        FindingKind.OUT_OF_TRAVEL,
        HookFinding.PEAK_OVER_LIMIT,
        HookFinding.NEAR_LIMIT,
        HookFinding.UNDER_LEAST,
        FindingKind.HEAVY_LENS,
    )
    leads = frozenset({HookFinding.TURNS_OVER, HookFinding.OVER_LIMIT, FindingKind.NO_LIMIT, FindingKind.SCREEN})
    carrying = (
        HookFinding.OVER_LIMIT,
        FindingKind.NO_LIMIT,
        HookFinding.PEAK_OVER_LIMIT,
        HookFinding.NEAR_LIMIT,
        HookFinding.UNDER_LEAST,
    )
    too_little = frozenset({HookFinding.UNDER_LEAST})
    makers = frozenset({HookFinding.OVER_LIMIT, HookFinding.NEAR_LIMIT, HookFinding.PEAK_OVER_LIMIT})
    gauges = MappingProxyType(
        {
            HookGauge.PITCH: lambda gauges, draws: gauges.hangs(draws)[:, 0],
            HookGauge.ROLL: lambda gauges, draws: gauges.hangs(draws)[:, 1],
            HookGauge.TENSION: lambda gauges, draws: draws.mass * STANDARD_GRAVITY,
            HookGauge.SHARE: _share,
        }
    )
    order = (
        HookGauge.PITCH,
        Gauge.AHEAD,
        Gauge.SLIDE,
        HookGauge.ROLL,
        Gauge.TIP_MOMENT,
        HookGauge.TENSION,
        HookGauge.SHARE,
        Gauge.MASS,
    )

    def lacks(self, analysis: Analysis) -> frozenset[str]:
        return frozenset({HookGauge.SHARE}) if harness_of(analysis.build).most is None else frozenset()

    def slid(self, analysis: Analysis) -> Build | None:
        on_it, by, now = on_hook_of(analysis), hook_to_level(analysis), harness_of(analysis.build).along
        # What turns over is not cured by hanging it elsewhere along the rig.
        if on_it is None or by is None or not on_it.stable:
            return None
        then = slid_to(analysis.build, now + by)
        felt = abs(by) > _FELT and not negligible(harness_of(then).along - now, SLIGHT)
        return then if felt else None

    def tilted(self, settings: Settings, pitch: float) -> Settings:
        assert isinstance(settings, HarnessSettings)
        return replace(settings, pitch=pitch)

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        hook = hook_of(analysis.assembly, analysis.positions, analysis.build)
        if hook is None:
            return Hindrance.NO_HOOK
        if analysis.body is None:
            return Hindrance.NO_MASS
        return self._posed(
            analysis.assembly, analysis.positions, hook, analysis.body.mass, analysis.build, operator, way
        )

    def _posed(
        self,
        assembly: Assembly,
        positions: Positions,
        hook: Hook,
        mass: float,
        build: Build,
        operator: Operator,
        way: Hold,
    ) -> Pose:
        """The cable runs `reach` ahead of the low back, and the hook hangs a cable's length below the arm's end.

        The wearer leans back about the ankles, with the belt as high as it may be; eased with the trunk and a low belt.
        """
        settings, upright = harness_of(build), body_of(operator)
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

    def stand(
        self, assembly: Assembly, positions: Positions, body: MassProperties, build: Build, operator: Operator
    ) -> Stand | None:
        hook = hook_of(assembly, positions, build)
        if hook is None:
            return None
        posed = self._posed(assembly, positions, hook, body.mass, build, operator, hold_of(build))
        down = harness_of(build).down
        # What holds it level says nothing of a rig that shall hang tilted: there the cable alone does.
        level = harness_of(build).pitch == 0.0
        held = posed.statics(arms=False).hold(body.mass, body.cg + posed.shift) if level else None
        forward = np.array([-down[2], 0.0, down[0]])
        room = None, max(float((body.cg - hook.point) @ down), _LEAST_HANG) * math.tan(LEAN)
        return stand_at(assembly, positions, body, hook.point, hook.part, forward, room, posed, in_rig(held, posed))

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> OnHook:
        settings, hook = harness_of(build), hook_of(assembly, positions, build)
        assert hook is not None
        d = body.cg - hook.point
        pitch, roll = hang_angles(d)
        weight = body.mass * STANDARD_GRAVITY
        passes = passes_of(settings)
        return OnHook(
            hook,
            pitch,
            roll,
            bool(d[2] < 0.0),
            weight,
            weight * peak_share(passes),
            passes,
            tilt_force(weight, d, hook.point, [place.point for place in stand.pose.places]),
            body.mass / settings.most if settings.most is not None else None,
        )

    def findings(self, analysis: Analysis, operator: Operator) -> tuple[Finding, ...]:
        on_it, body, spread = on_hook_of(analysis), analysis.body, analysis.spread
        if on_it is None or body is None or spread is None:
            return ()
        at = (analysis.build.parts[on_it.hook.part].id,)
        found = []
        if not on_it.stable:
            above = float(body.cg[2] - on_it.hook.point[2])
            found.append(Finding(HookFinding.TURNS_OVER, at, above, float(spread.cg[2]), limit=0.0))
        return (*found, *self.load_findings(analysis.build, body.mass, spread.mass, at))

    def load_findings(self, build: Build, mass: float, u: float, at: tuple[str, ...]) -> list[Finding]:
        settings = harness_of(build)
        found, most = [], settings.most
        peak = mass * peak_share(passes_of(settings))
        if most is None:
            found.append(Finding(FindingKind.NO_LIMIT, at, mass, u))
        elif mass + COVERAGE * u > most:
            found.append(Finding(HookFinding.OVER_LIMIT, at, mass, u, limit=most))
        elif mass > CARE * most:
            found.append(Finding(HookFinding.NEAR_LIMIT, at, mass, u, limit=most))
        elif peak > most:
            found.append(Finding(HookFinding.PEAK_OVER_LIMIT, at, peak, u, limit=most))
        if settings.least is not None and mass < settings.least:
            found.append(Finding(HookFinding.UNDER_LEAST, at, mass, u, limit=settings.least))
        return found

    def thresholds(self, analysis: Analysis, gauge: str) -> tuple[Threshold, ...]:
        settings = harness_of(analysis.build)
        if gauge == HookGauge.PITCH:
            return (Threshold(settings.pitch, "as it shall"),)
        if gauge == HookGauge.SHARE:
            return (Threshold(CARE, "take care"), Threshold(1.0, "do not hang it"))
        if gauge == Gauge.AHEAD:
            return (Threshold(0.0, "as it shall"),)
        return ()

    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        on_it, stand, gauges = on_hook_of(analysis), analysis.stand, gauges_of(analysis)
        if analysis.body is None:
            return Judged(hindrance="no mass")
        if on_it is None or stand is None or gauges is None:
            return Judged(hindrance="no hook")
        figures = keyed(gauges, _KEYS)
        tension = figures["tension_n"]
        share = on_it.peak / on_it.tension
        figures["peak_tension_n"] = Figure(on_it.peak, None if tension.doubt is None else tension.doubt * share)
        figures["stable"] = Figure(float(on_it.stable))
        if on_it.tilt_force is not None:
            grips, hook = [place.point for place in stand.pose.places], on_it.hook.point

            def force(mass: float, cg: np.ndarray) -> np.ndarray | None:
                found = tilt_force(mass * STANDARD_GRAVITY, cg - hook, hook, grips)
                return None if found is None else np.array([found])

            sure = unsure(analysis, force)
            figures["tilt_force_n"] = Figure(on_it.tilt_force, None if sure is None else float(sure[0]))
        part = analysis.assembly.parts[on_it.hook.part].name
        said = (f"nobody chose a hook: it hangs from {part}",) if on_it.hook.usual else ()
        return Judged({"hook_mm": on_it.hook.point}, figures, said=said)


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
