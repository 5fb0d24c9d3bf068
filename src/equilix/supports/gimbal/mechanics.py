"""A powered gimbal: three stages that turn in each other, each balanced about its own axis.

Tilt turns inside roll, roll inside pan. Gravity turns a stage whose CG lies beside its axis, and the motor must hold
that for as long as the stage stands so: balance is what the motors don't have to do. With the frame level pan has no
torque at all, so two leans of the frame tell where its CG is.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import StrEnum
from functools import cached_property, lru_cache, partial
from types import MappingProxyType
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Brace, Build, Hold, Kit, Operator, Settings
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.chosen import settings_of
from equilix.core.doubt.gauges import Draws, Gauge, Gauges, Threshold, gauges_of
from equilix.core.errors import AssemblyError
from equilix.core.frames import AHEAD, STANDARD_GRAVITY
from equilix.core.kept import RIGS
from equilix.core.kit.parts import Category
from equilix.core.limits import MAX_MASS, Bound, check_bounds, check_line
from equilix.core.massprops.bodies import MassProperties, shift_inertia
from equilix.core.measurement.found import Coached, Found
from equilix.core.registry import support_for
from equilix.core.rounding import SLIGHT, lacking, negligible
from equilix.core.solver.plan import Form, Target
from equilix.core.solver.targets import ALLOWED, form_slopes, weight_of
from equilix.core.statics import stages as parted
from equilix.core.statics.pose import Hindrance, Pose, at_rest
from equilix.core.statics.stages import (
    BESIDE,
    LEAN,
    NUMBER,
    STAGES,
    Stage,
    Stages,
    Trouble,
    body_of_parts,
    peak_torque,
)
from equilix.core.statics.stand import Stand, stand_at
from equilix.core.statics.turning import Attitude, Link, motor_torques
from equilix.core.support import Figure, Judged, Support, keyed

# A book with a gimbal on another build has its settings alone: what judges one loads with the first that is looked at.
if TYPE_CHECKING:
    from equilix.core.measurement.coaching import AxisBench, Coaching
    from equilix.core.solver.lens_marks import LensSetting
    from equilix.core.solver.scales import LensMarks, Step
    from equilix.core.statics.sweep import Passing

#: m: farther from every part of its stage than this an axis was placed wrongly; common practice.
_OUTSIDE = 0.15

#: Standard uncertainties beyond which it is all the same how far two figures part; assumed.
_FARTHEST_PARTED = 1e6
#: How a gimbal is held: the attitude of frame and stages in which the camera looks ahead.
MODES: dict[str, Attitude] = {
    "upright": Attitude(),
    "underslung": Attitude(roll=-math.pi, aside=math.pi),
    "briefcase": Attitude(tilt=math.pi / 2.0, lean=-math.pi / 2.0),
    "vertical framing": Attitude(roll=math.pi / 2.0),
}


#: The supports that can carry a whole gimbal.
CARRIERS = ("handheld", "harness", "vest")


class GimbalSettings(Struct, Settings, frozen=True):
    """The gimbal: for each stage what its motor is rated for and what its bearing rubs (N m).

    `share` of the rating is the window in which a motor holds for long; with `perfect` below the bearing's friction is
    wanted instead. `most` (kg) is the maker's greatest payload, None where nobody has entered it. `gain` (rad/s2) is
    the acceleration that motors must give, `tilt_use` and `roll_use` (rad) how far the stages turn each way in use,
    `held` how the frame is held. `heat` (W) is what a motor turns into heat at its rating, `idle` (W) what the
    gimbal takes in balance, `energy` (Wh) what its battery holds. `carrier` is the support that holds all of
    it. `cables` leave the camera and cross an axis.
    `coached` is what the coach found of a rig with the parts that it names.
    Where no axes are joined on a build, they meet at `pivot_x`, `pivot_y`, `pivot_z` (m) from the middle of the top of
    the part that everything sits on.
    """

    tilt_rated: float = 0.6
    roll_rated: float = 1.0
    pan_rated: float = 1.0
    tilt_friction: float = 0.010
    roll_friction: float = 0.015
    pan_friction: float = 0.020
    share: float = 0.15
    perfect: float = 0.0
    most: float | None = None
    gain: float = 10.0
    tilt_use: float = math.radians(60.0)
    roll_use: float = math.radians(30.0)
    way: str = "upright"
    heat: float = 10.0
    idle: float = 4.0
    energy: float = 40.0
    cables: float = 0.0
    carrier: str = "handheld"
    pivot_x: float = 0.0
    pivot_y: float = 0.0
    pivot_z: float = 0.065
    coached: Coached | None = None
    kind: Literal["gimbal"] = "gimbal"

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        **{f"{stage}_rated": Bound(0.01, 100.0, f"The {stage} motor's rating", "N·m") for stage in STAGES},
        **{f"{stage}_friction": Bound(0.0, 1.0, f"The {stage} bearing's friction", "N·m") for stage in STAGES},
        "share": Bound(0.01, 1.0, "The motors' window"),
        "perfect": Bound(0.0, 1.0, "Whether balance shall be perfect"),
        "most": Bound(0.05, MAX_MASS, "The gimbal's greatest payload", "kg"),
        "gain": Bound(0.0, 200.0, "The wanted acceleration", "rad/s²"),
        "tilt_use": Bound(0.0, math.pi, "Tilt in use", "rad"),
        "roll_use": Bound(0.0, math.pi, "Roll in use", "rad"),
        "heat": Bound(0.0, 500.0, "A motor's heat at its rating", "W"),
        "idle": Bound(0.0, 500.0, "What the gimbal takes in balance", "W"),
        "energy": Bound(0.1, 1000.0, "The gimbal's battery", "Wh"),
        "cables": Bound(0.0, 20.0, "Cables that cross an axis"),
        "pivot_x": Bound(-1.0, 1.0, "Where the axes meet, forward", "m"),
        "pivot_y": Bound(-1.0, 1.0, "Where the axes meet, left", "m"),
        "pivot_z": Bound(-1.0, 1.0, "Where the axes meet, up", "m"),
    }

    def __post_init__(self) -> None:
        check_bounds(self, self.BOUNDS)
        check_line(self.way, "How the gimbal is held")
        if self.carrier not in CARRIERS:
            raise AssemblyError(f"A gimbal is carried {' or '.join(CARRIERS)}; {self.carrier!r} is none of these.")
        if self.way not in MODES:
            raise AssemblyError(f"A gimbal is held {', '.join(MODES)}; {self.way!r} is none of these.")

    def rated(self, stage: str) -> float:
        """Return what a stage's motor is rated for (N m)."""
        found: float = getattr(self, f"{stage}_rated")
        return found

    def friction(self, stage: str) -> float:
        """Return what a stage's bearing rubs (N m)."""
        found: float = getattr(self, f"{stage}_friction")
        return found

    def window(self, stage: str) -> float:
        """Return the torque (N m) up to which a stage counts as balanced."""
        return self.friction(stage) if self.perfect else self.share * self.rated(stage)


def gimbal_of(build: Build) -> GimbalSettings:
    """Return a build's gimbal, now or if it were put on one."""
    found = settings_of(build, "gimbal")
    assert isinstance(found, GimbalSettings)
    return found


class GimbalFinding(StrEnum):
    """What there is to look at on a gimbal alone."""

    OVER_PAYLOAD = "over the payload"
    OVER_MOTOR = "beyond its motor"
    SWINGS_INTO = "swings into"
    CABLES = "several cables"
    AXIS_OUTSIDE = "axis outside the rig"
    ONE_SCREW = "one screw under a lever"


def on_gimbal_of(analysis: Analysis) -> Stages | None:
    """Return the stages of a build on a gimbal, None on another support."""
    return analysis.more if isinstance(analysis.more, Stages) else None


def stages_of(assembly: Assembly, positions: Positions, build: Build) -> Stages | Trouble:
    """Return the stages of a build, or why it has none."""
    settings = gimbal_of(build)
    more = settings.coached.more if settings.coached is not None and still_coached(assembly, build) else ()
    return parted.stages_of(assembly, positions, (settings.pivot_x, settings.pivot_y, settings.pivot_z), more)


def coached_parts(assembly: Assembly, build: Build) -> tuple[tuple[str, ...], float]:
    """Return what a coach looks at: each placed part with its part's id, and their mass (kg)."""
    return tuple(f"{placed.id} {placed.part_id}" for placed in build.parts), assembly.whole


def still_coached(assembly: Assembly, build: Build) -> bool:
    """Whether a build still has all that was on it, of the same mass, when the coach found where its CGs lie.

    What was added since has its own figures; where a part is another, nobody knows what was found of it.
    """
    coached = gimbal_of(build).coached
    if coached is None:
        return False
    on = set(coached.on)
    held = [f"{placed.id} {placed.part_id}" in on for placed in build.parts]
    mass = float(assembly.mass[np.array(held, dtype=bool)].sum())
    return sum(held) == len(on) and negligible(mass - coached.mass, SLIGHT * max(mass, 1.0))


def links_of(analysis: Analysis, on_it: Stages) -> tuple[Link, ...]:
    """Return the stages without what they carry as links, the outermost first."""
    return parted.links_of(analysis.assembly, analysis.positions.cg, on_it)


def gravity_torques(analysis: Analysis, on_it: Stages, attitude: Attitude) -> dict[str, float]:
    """Return gravity's torque (N m) about each axis at an attitude; motors hold minus these."""
    turned = {"tilt": attitude.tilt, "roll": attitude.roll, "pan": attitude.pan}
    names = [stage.name for stage in reversed(on_it.stages)]
    torques = motor_torques(links_of(analysis, on_it), [turned[name] for name in names], attitude.down)
    return {name: -float(torque) for name, torque in zip(names, torques, strict=True)}


class Need(Struct, frozen=True):
    """What a motor must give at most (N m): to hold, to accelerate, and for the products of inertia while panning."""

    hold: float
    turn: float
    products: float
    friction: float

    @property
    def whole(self) -> float:
        """All at once."""
        return self.hold + self.turn + self.products + self.friction


def need_of(analysis: Analysis, stage: Stage, settings: GimbalSettings) -> Need:
    """Return what a stage's motor needs at the wanted acceleration, all turned the worst way.

    ``I alpha`` about the axis with all that it carries; while the gimbal pans with `gain` its products of inertia load
    tilt by ``I_yz alpha`` and roll by ``I_xz alpha`` (Euler's equations: Meriam and Kraige, Dynamics, ch. 7).
    """
    body = body_of_parts(analysis.assembly, analysis.positions.cg, stage.parts)
    assert body is not None
    inertia = shift_inertia(body, stage.point)
    about = float(inertia[stage.about, stage.about]) * settings.gain
    products = 0.0 if stage.name == "pan" else abs(float(inertia[stage.about, 2])) * settings.gain
    return Need(peak_torque(stage), about, products, settings.friction(stage.name))


def holding_power(on_it: Stages, settings: GimbalSettings) -> float:
    """Return the heat (W) of holding, on the mean over the tilt in use: ``P = P_r (tau/tau_r)^2``.

    That is a motor's loss in its copper. Roll and pan stand level, where pan holds nothing.
    """
    found = 0.0
    for stage in on_it.stages:
        a, b = stage.beside
        use = settings.tilt_use if stage.name == "tilt" else 0.0
        # Means of cos^2, sin^2 over -u to u; that of their product is zero.
        ripple = 0.5 if lacking(use) else math.sin(2.0 * use) / (4.0 * use)
        level = 0.0 if stage.name == "pan" else a * a * (0.5 + ripple) + b * b * (0.5 - ripple)
        found += settings.heat * stage.weight**2 * level / settings.rated(stage.name) ** 2
    return found


def run_time(on_it: Stages, settings: GimbalSettings) -> tuple[float, float]:
    """Return how long (s) its battery lasts as it is balanced, and in perfect balance."""
    energy = settings.energy * 3600.0
    if lacking(settings.idle):
        return math.inf, math.inf
    return energy / (settings.idle + holding_power(on_it, settings)), energy / settings.idle


def _use(build: Build) -> dict[str, float]:
    """Return how far (rad) each stage turns either way in use; pan goes all the way round."""
    settings = gimbal_of(build)
    return {"tilt": settings.tilt_use, "roll": settings.roll_use, "pan": math.pi}


def passings(analysis: Analysis, on_it: Stages, near: float = 0.0) -> tuple[Passing, ...]:
    """Return how parts swing past others, nearest first: pairs that come nearer than `near` (m)."""
    from equilix.core.statics import swings

    return swings.passings(analysis.assembly, analysis.positions, on_it, _use(analysis.build), near)


def nearest_passing(analysis: Analysis, on_it: Stages, near: float) -> Passing | None:
    """Return the pair that comes nearest, None if none comes nearer than `near` (m)."""
    from equilix.core.statics import swings

    return swings.nearest_passing(analysis.assembly, analysis.positions, on_it, _use(analysis.build), near)


@lru_cache(maxsize=RIGS)
def order_of_work(analysis: Analysis) -> tuple[Step, ...]:
    """Return the steps that balance a gimbal, in working order; none where it can't be judged."""
    from equilix.core.solver import scales

    on_it, target = on_gimbal_of(analysis), SUPPORT.target(analysis)
    return () if on_it is None or target is None else scales.order_of_work(analysis, on_it, target)


def lens_marks(analysis: Analysis, kit: Kit) -> tuple[LensMarks, ...]:
    """Return where every scale must stand for each lens of the kit in the place of the one that is on."""
    from equilix.core.solver import scales

    return scales.lens_marks(analysis, kit, order_of_work)


def benches_of(analysis: Analysis) -> tuple[AxisBench, ...]:
    """Return what a coach knows of each axis before the first test: scales, their travel and about what they do.

    Moments are gravity's torques: on tilt with what lies forward, on roll and pan against what lies left and forward.
    """
    from equilix.core.measurement.coach import Bench
    from equilix.core.measurement.coaching import AxisBench, widened

    on_it, target = on_gimbal_of(analysis), SUPPORT.target(analysis)
    if on_it is None or target is None:
        return ()
    assembly, settings = analysis.assembly, gimbal_of(analysis.build)
    known = not bool(assembly.missing.any())
    steps = {(step.stage, step.beside): step.placed_id for step in reversed(order_of_work(analysis))}
    found = []
    for stage in on_it.stages:
        sign = 1.0 if stage.name == "tilt" else -1.0
        scales, slopes, limits = [], [], []
        for beside in BESIDE[stage.name]:
            placed_id = (
                "" if (stage.name, beside) in (("roll", "z"), ("pan", "y")) else steps.get((stage.name, beside), "")
            )
            form = next((f for f in target.forms if f.name == f"{stage.name} {beside}"), None)
            if placed_id and form is not None:
                index = next(i for i, p in enumerate(analysis.build.parts) if p.id == placed_id)
                j = assembly.slide_parts.index(index)
                mount = assembly.slide_mounts[j]
                scales.append(placed_id)
                slopes.append(sign * STANDARD_GRAVITY * float(form_slopes(analysis, target, form)[j]))
                limits.append((mount.low, mount.high))
            else:
                scales.append("")
                slopes.append(0.0)
                limits.append((0.0, 0.0))
        share = math.sin(LEAN) if stage.name == "pan" else 1.0
        bench = Bench(
            slopes=(slopes[0], slopes[1]),
            limits=(limits[0], limits[1]),
            friction=max(settings.friction(stage.name), 1e-4),
            window=settings.window(stage.name) / share,
            sees=(True, stage.name == "tilt"),
        )
        found.append(AxisBench(stage.name, widened(bench, known), (scales[0], scales[1])))
    return tuple(found)


def taught(analysis: Analysis, session: Coaching) -> Coached | None:
    """Return what a coach's `session` teaches of the axes that it settled; None where there is nothing to learn.

    `analysis` is of the build as its scales stand now, without what a coach found before. What was felt goes before
    what the parts say: where they contradict each other, the parts' doubt is too small and counts as larger.
    """
    from equilix.core.measurement.lesson import Reading, lesson_of

    on_it, gauges = on_gimbal_of(analysis), gauges_of(analysis)
    if on_it is None or gauges is None or on_it.usual:
        return None
    found, readings = [], []
    for axis in session.settled:
        stage = on_it.stage(axis.name)
        if stage is None or not session.looks.get(axis.name):
            continue
        sign = 1.0 if axis.name == "tilt" else -1.0
        moments, doubts = session.found(axis)
        for k, beside in enumerate(BESIDE[axis.name]):
            if axis.bench.sees[k]:
                offset, u = sign * float(moments[k]) / stage.weight, float(doubts[k]) / stage.weight
                found.append(Found(axis.name, beside, offset, u))
                readings.append(Reading(GAUGE_OF[axis.name, beside], offset, u))
    lesson = lesson_of(gauges, readings) if readings else None
    if lesson is None:
        return None
    parted, suspect = min(lesson.parted, _FARTHEST_PARTED), lesson.suspect
    if lesson.contradicts:
        lesson = lesson_of(gauges, readings, parted)
        assert lesson is not None
    more = []
    for k, stage in enumerate(on_it.stages):
        shift = lesson.moved[6 + 4 * k : 9 + 4 * k] * stage.mass
        more.append((float(shift[0]), float(shift[1]), float(shift[2])))
    on, mass = coached_parts(analysis.assembly, analysis.build)
    return Coached(on, mass, tuple(found), tuple(more), parted, suspect)


# Gauges


class AxisGauge(StrEnum):
    """Figures of the verdict on a gimbal alone, SI."""

    TILT_Z = "tilt, CG above its axis"
    ROLL_Y = "roll, CG left of its axis"
    ROLL_Z = "roll, CG above its axis"
    PAN_X = "pan, CG forward of its axis"
    PAN_Y = "pan, CG left of its axis"
    TILT_PEAK = "tilt motor, worst"
    ROLL_PEAK = "roll motor, worst"
    PAN_PEAK = "pan motor, worst"
    PAYLOAD = "turns on the tilt axis"


#: What each gauge is of: a stage's number, and the rig axis along which its CG is told; None for the peak.
_OF: dict[str, tuple[int, str | None]] = {
    AxisGauge.TILT_Z: (0, "z"),
    AxisGauge.ROLL_Y: (1, "y"),
    AxisGauge.ROLL_Z: (1, "z"),
    AxisGauge.PAN_X: (2, "x"),
    AxisGauge.PAN_Y: (2, "y"),
    AxisGauge.TILT_PEAK: (0, None),
    AxisGauge.ROLL_PEAK: (1, None),
    AxisGauge.PAN_PEAK: (2, None),
}
#: The gauge of each form of the target, and of each stage's peak.
GAUGE_OF: dict[tuple[str, str], str] = {("tilt", "x"): Gauge.AHEAD}
GAUGE_OF |= {(STAGES[k], beside or ""): gauge for gauge, (k, beside) in _OF.items()}


def _value(gauge: str, gauges: Gauges, draws: Draws) -> np.ndarray:
    number, beside = _OF[gauge]
    on_it = on_gimbal_of(gauges.analysis)
    assert on_it is not None
    k = next((k for k, stage in enumerate(on_it.stages) if stage.name == STAGES[number]), None)
    if k is None:
        return np.full(len(draws.mass), np.nan)
    off = draws.stages[:, k, 1:] + on_it.stages[k].more - on_it.stages[k].point
    if beside is not None:
        result: np.ndarray = off[:, NUMBER[beside]]
        return result
    a, b = (off[:, NUMBER[one]] for one in BESIDE[STAGES[number]])
    share = math.sin(LEAN) if STAGES[number] == "pan" else 1.0
    peak: np.ndarray = draws.stages[:, k, 0] * STANDARD_GRAVITY * np.hypot(a, b) * share
    return peak


#: The gauges' keys on the command line.
_KEYS: dict[str, str] = {
    Gauge.AHEAD: "tilt_offset_x_mm",
    AxisGauge.TILT_Z: "tilt_offset_z_mm",
    AxisGauge.ROLL_Y: "roll_offset_y_mm",
    AxisGauge.ROLL_Z: "roll_offset_z_mm",
    AxisGauge.PAN_X: "pan_offset_x_mm",
    AxisGauge.PAN_Y: "pan_offset_y_mm",
    AxisGauge.TILT_PEAK: "tilt_torque_peak_nm",
    AxisGauge.ROLL_PEAK: "roll_torque_peak_nm",
    AxisGauge.PAN_PEAK: "pan_torque_peak_nm",
    AxisGauge.PAYLOAD: "tilt_stage_kg",
    Gauge.SLIDE: "slide_to_level_mm",
}


class GimbalSupport(Support):
    """Three motors about three axes; who carries it stands beside."""

    key = "gimbal"
    usual = GimbalSettings()
    braces = (Brace.NONE,)
    leads = frozenset({GimbalFinding.OVER_PAYLOAD, GimbalFinding.OVER_MOTOR})
    watched = False
    makers = frozenset({GimbalFinding.OVER_PAYLOAD, GimbalFinding.OVER_MOTOR})
    gauges = MappingProxyType(
        {gauge: partial(_value, gauge) for gauge in _OF}
        | {AxisGauge.PAYLOAD: lambda gauges, draws: gauges.load(draws)[0]}
    )
    # What sits on the camera and not between it and the gimbal; common practice.
    sheds = frozenset(
        {
            Category.MATTE_BOX,
            Category.MONITOR,
            Category.SENDER,
            Category.AUDIO,
            Category.HANDLE,
            Category.FOCUS,
            Category.GRIP,
            Category.LENS_SUPPORT,
            Category.WEIGHT,
        }
    )
    carried = False
    steadies = False
    lenses_by_camera = False
    turns = True
    order = (
        Gauge.AHEAD,
        AxisGauge.TILT_Z,
        AxisGauge.ROLL_Y,
        AxisGauge.ROLL_Z,
        AxisGauge.PAN_X,
        AxisGauge.PAN_Y,
        AxisGauge.TILT_PEAK,
        AxisGauge.ROLL_PEAK,
        AxisGauge.PAN_PEAK,
        Gauge.SLIDE,
        Gauge.TIP_MOMENT,
        AxisGauge.PAYLOAD,
        Gauge.MASS,
    )

    @cached_property
    def warnings(self) -> tuple[str, ...]:  # type: ignore[override]
        """Its own, and among them those of what may carry it: limits first."""
        carriers = [support_for(key) for key in CARRIERS]
        limits = [kind for one in carriers for kind in one.carrying if kind in one.leads]
        others = [kind for one in carriers for kind in one.carrying if kind not in one.leads and kind not in limits]
        return (
            GimbalFinding.OVER_PAYLOAD,
            *dict.fromkeys(limits),
            GimbalFinding.SWINGS_INTO,
            FindingKind.CLASH,
            FindingKind.OUT_OF_TRAVEL,
            GimbalFinding.OVER_MOTOR,
            GimbalFinding.ONE_SCREW,
            FindingKind.HEAVY_LENS,
            *dict.fromkeys(others),
            GimbalFinding.AXIS_OUTSIDE,
            GimbalFinding.CABLES,
        )

    def carrier(self, build: Build) -> str:
        return gimbal_of(build).carrier

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        return Hindrance.NOBODY

    def stand(
        self, assembly: Assembly, positions: Positions, body: MassProperties, build: Build, operator: Operator
    ) -> Stand | None:
        on_it = stages_of(assembly, positions, build)
        if isinstance(on_it, Trouble):
            return None
        inner = on_it.stages[0]
        forward = AHEAD
        nobody = at_rest(operator, -on_it.stages[-1].point)
        groups = tuple(stage.parts for stage in on_it.stages)
        # A CG that was found elsewhere is an axis that lies elsewhere, seen from the parts.
        point = inner.point - inner.more
        return stand_at(assembly, positions, body, point, inner.holder, forward, (None, None), nobody, None, groups)

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> Stages:
        on_it = stages_of(assembly, positions, build)
        assert isinstance(on_it, Stages)
        return on_it

    def leaves(self, analysis: Analysis) -> float:
        """Return the greatest torque (N m) of gravity about any axis, over a full turn."""
        on_it = on_gimbal_of(analysis)
        return 0.0 if on_it is None else max(peak_torque(stage) for stage in on_it.stages)

    def lens_settings(self, analysis: Analysis, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        from equilix.core.solver.lens_marks import of_steps

        rows = lens_marks(analysis, kit)
        return of_steps(analysis, rows, {k: self.leaves(row.after) for k, row in enumerate(rows) if row.after})

    def still(self, analysis: Analysis) -> int | None:
        """Return the frame: a camera slides in its gimbal, whichever of them the build began with."""
        on_it = on_gimbal_of(analysis)
        return None if on_it is None or on_it.usual else on_it.stages[-1].holder

    def working_order(self, analysis: Analysis) -> tuple[str, ...]:
        return tuple(step.placed_id for step in order_of_work(analysis) if step.placed_id)

    def observed(self, analysis: Analysis) -> tuple[tuple[str, float], ...]:
        coached, on_it = gimbal_of(analysis.build).coached, on_gimbal_of(analysis)
        if coached is None or on_it is None or not still_coached(analysis.assembly, analysis.build):
            return ()
        return tuple((GAUGE_OF[one.stage, one.beside], one.u) for one in coached.found if on_it.stage(one.stage))

    def scales(self, analysis: Analysis) -> frozenset[str] | None:
        from equilix.core.solver import scales

        on_it = on_gimbal_of(analysis)
        if on_it is None:
            return None
        numbers = scales.scales_of(analysis, on_it)
        return frozenset(analysis.build.parts[analysis.assembly.slide_parts[j]].id for j in numbers)

    def stages(self, analysis: Analysis) -> tuple[str, ...]:
        on_it = on_gimbal_of(analysis)
        if on_it is None:
            return ()
        names = ["frame"] * len(analysis.assembly.parts)
        for stage in reversed(on_it.stages):
            for k in np.flatnonzero(stage.parts).tolist():
                names[k] = stage.name
        return tuple(names)

    def target(self, analysis: Analysis) -> Target | None:
        """Return six forms, two for each stage: its CG beside its axis, to what the motors' window or friction allows.

        A peak torque within the window is wanted, so each of the two may take its share by Pythagoras.
        """
        on_it, settings = on_gimbal_of(analysis), gimbal_of(analysis.build)
        if on_it is None:
            return None
        forms = []
        for stage in on_it.stages:
            group = frozenset(p.id for p, inside in zip(analysis.build.parts, stage.parts, strict=True) if inside)
            allowed = settings.window(stage.name) / STANDARD_GRAVITY / math.sqrt(2.0)
            if stage.name == "pan":
                allowed /= math.sin(LEAN)
            for beside in BESIDE[stage.name]:
                forms.append(
                    Form(
                        f"{stage.name} {beside}",
                        np.eye(3)[NUMBER[beside]],
                        tolerance=allowed,
                        weight=weight_of(allowed),
                        group=None if on_it.usual else group,
                        point=stage.point - stage.more,
                        holder=analysis.build.parts[stage.holder].id,
                    )
                )
        if on_it.usual:
            # All three stages are one: what is along an axis stands once.
            seen: dict[str, Form] = {}
            for form in forms:
                seen.setdefault(form.name[-1], form)
            forms = list(seen.values())
        inner = on_it.stages[0]
        holder = analysis.build.parts[inner.holder].id
        return Target(inner.point - inner.more, holder, tuple(forms), ALLOWED, closely=True)

    def findings(self, analysis: Analysis, operator: Operator) -> tuple[Finding, ...]:
        from equilix.core.statics.screws import one_screws

        on_it, settings = on_gimbal_of(analysis), gimbal_of(analysis.build)
        if on_it is None:
            return ()
        assembly = analysis.assembly
        ids = [placed.id for placed in analysis.build.parts]
        inner = on_it.stages[0]
        found = []
        if settings.most is not None:
            payload = payload_of(analysis, on_it)
            if payload > settings.most:
                found.append(Finding(GimbalFinding.OVER_PAYLOAD, (ids[inner.holder],), payload, limit=settings.most))
        for stage in on_it.stages:
            peak = peak_torque(stage)
            if peak > settings.rated(stage.name):
                at = (ids[stage.holder],)
                found.append(Finding(GimbalFinding.OVER_MOTOR, at, peak, limit=settings.rated(stage.name)))
            beside = 0.0 if on_it.usual else _beside_axis(assembly, analysis.positions, stage)
            if beside > _OUTSIDE:
                found.append(Finding(GimbalFinding.AXIS_OUTSIDE, (ids[stage.holder],), beside, limit=_OUTSIDE))
        found += [
            Finding(GimbalFinding.SWINGS_INTO, (ids[one.first], ids[one.second]), -one.gap, limit=0.0)
            for one in passings(analysis, on_it, 0.0)
        ]
        found += [
            Finding(GimbalFinding.ONE_SCREW, (ids[one.part],), one.moment, limit=one.holds)
            for one in one_screws(assembly, analysis.positions, on_it.stages[-1].holder)
        ]
        if analysis.body is not None and analysis.spread is not None:
            carrier, outer = support_for(settings.carrier), (ids[on_it.stages[-1].holder],)
            found += carrier.load_findings(analysis.build, analysis.body.mass, analysis.spread.mass, outer)
        if settings.cables > 1.0:
            found.append(Finding(GimbalFinding.CABLES, (ids[inner.holder],), settings.cables, limit=1.0))
        return tuple(found)

    def thresholds(self, analysis: Analysis, gauge: str) -> tuple[Threshold, ...]:
        settings = gimbal_of(analysis.build)
        number, beside = _OF.get(gauge, (0, "x"))
        if gauge in _OF and beside is None:
            return (
                Threshold(settings.window(STAGES[number]), "window"),
                Threshold(settings.rated(STAGES[number]), "rating"),
            )
        return (Threshold(0.0, "on its axis"),) if gauge in _OF or gauge == Gauge.AHEAD else ()

    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        on_it, gauges = on_gimbal_of(analysis), gauges_of(analysis)
        if analysis.body is None:
            return Judged(hindrance="no mass")
        if on_it is None or gauges is None:
            found = stages_of(analysis.assembly, analysis.positions, analysis.build)
            return Judged(hindrance=str(found) if isinstance(found, Trouble) else "no stages")
        settings = gimbal_of(analysis.build)
        figures = keyed(gauges, _KEYS)
        figures |= {
            f"{stage.name}_motor_share": Figure(
                figures[f"{stage.name}_torque_peak_nm"].value / settings.rated(stage.name),
                (figures[f"{stage.name}_torque_peak_nm"].doubt or 0.0) / settings.rated(stage.name),
            )
            for stage in on_it.stages
        }
        said = ("no axes are joined: they are taken to meet above what everything sits on",) if on_it.usual else ()
        return Judged({f"{stage.name}_axis_mm": stage.point for stage in on_it.stages}, figures, said=said)

    def at_attitude(self, analysis: Analysis, attitude: Attitude) -> dict[str, Figure]:
        on_it = on_gimbal_of(analysis)
        if on_it is None:
            return {}
        torques = gravity_torques(analysis, on_it, in_way(attitude, gimbal_of(analysis.build)))
        return {f"{name}_torque_nm": Figure(torque) for name, torque in torques.items()}


def _beside_axis(assembly: Assembly, positions: Positions, stage: Stage) -> float:
    """Return how far (m) a stage's axis passes by its nearest part, 0 where it goes through one or none has a size."""
    last = _nearest_parts(assembly)
    near = last.get(stage.name)
    if near is not None:
        # The part that was near before mostly still is: then no other need be asked.
        centre, edges, point = positions.centre[near].tolist(), assembly.edges[near].tolist(), stage.point.tolist()
        across = [max(abs(centre[k] - point[k]) - edges[k], 0.0) for k in range(3) if k != stage.about]
        if math.hypot(*across) == 0.0:
            return 0.0
    away = np.maximum(np.abs(positions.centre - stage.point) - assembly.edges, 0.0)
    away[:, stage.about] = 0.0
    squares = np.where(stage.parts & assembly.sized, (away**2).sum(axis=1), np.inf)
    last[stage.name] = int(squares.argmin())
    nearest = float(squares[last[stage.name]])
    return math.sqrt(nearest) if math.isfinite(nearest) else 0.0


@lru_cache(maxsize=RIGS)
def _nearest_parts(assembly: Assembly) -> dict[str, int]:
    """Return the part that was last nearest to each stage's axis, by the stage's name; it is looked at first."""
    return {}


def payload_of(analysis: Analysis, on_it: Stages) -> float:
    """Return the mass (kg) that a gimbal carries beyond its own parts."""
    return _payload(analysis.assembly, on_it.stages[0].parts.tobytes())


@lru_cache(maxsize=RIGS)
def _payload(assembly: Assembly, turning: bytes) -> float:
    """Return what (kg) of the `turning` parts (n,) bool is not the gimbal's."""
    own = np.array([part.category is Category.GIMBAL for part in assembly.parts])
    return float(assembly.mass[np.frombuffer(turning, dtype=bool) & ~own].sum())


def in_way(attitude: Attitude, settings: GimbalSettings) -> Attitude:
    """Return an attitude counted from how the gimbal is held."""
    base = MODES[settings.way]
    return Attitude(
        base.tilt + attitude.tilt,
        base.roll + attitude.roll,
        base.pan + attitude.pan,
        base.lean + attitude.lean,
        base.aside + attitude.aside,
    )


SUPPORT = GimbalSupport()
