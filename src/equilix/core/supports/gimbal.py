"""A powered gimbal: three stages that turn in each other, each balanced about its own axis.

Tilt turns inside roll, roll inside pan. Gravity turns a stage whose CG lies beside its axis, and the motor must hold
that for as long as the stage stands so: balance is what the motors don't have to do. With the frame level pan has no
torque at all, so two leans of the frame tell where its CG is.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from functools import partial
from itertools import pairwise
from types import MappingProxyType
from typing import Literal

import numpy as np

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Brace, Build, Hold, Kit, Operator, Settings, settings_of
from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.doubt.gauges import Draws, Gauge, Gauges, Threshold, gauges_of
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import AXES, Category
from equilix.core.limits import MAX_MASS, check_line, check_number
from equilix.core.massprops.bodies import MassProperties, shift_inertia, spread_inertia
from equilix.core.measurement.coach import Bench
from equilix.core.measurement.coaching import AxisBench, widened
from equilix.core.solver.lenses import with_lens
from equilix.core.solver.plan import Form, Target
from equilix.core.solver.targets import TOLERANCE, form_slopes, form_value
from equilix.core.statics.pose import Hindrance, Pose, at_rest
from equilix.core.statics.stand import Stand, stand_at
from equilix.core.statics.sweep import Passing, nearest_bounds, passing
from equilix.core.statics.turning import Attitude, Link, motor_torques
from equilix.core.supports.support import Figure, Judged, Support, keyed

#: Names of the stages, the innermost first, and the number of the rig axis that each turns about.
STAGES = ("tilt", "roll", "pan")
_ABOUT = {"tilt": 1, "roll": 0, "pan": 2}
#: The rig axes beside which a stage's CG is told, in working order.
BESIDE = {"tilt": ("x", "z"), "roll": ("y", "z"), "pan": ("x", "y")}
#: What a gimbal's make decides: no scale clears it.
BY_MAKE = frozenset({("roll", "z"), ("pan", "y")})
_NUMBER = {"x": 0, "y": 1, "z": 2}
#: rad: how far an axis may lie off the rig's and still be one of a gimbal's; what is off by more was joined wrongly.
_SKEW = math.radians(1.0)
#: rad: the lean of the frame that pan's torque is given for; common practice.
LEAN = math.radians(30.0)
#: m: farther from every part of its stage than this an axis was placed wrongly; common practice.
_OUTSIDE = 0.15

#: How a gimbal is held: the attitude of frame and stages in which the camera looks ahead.
MODES: dict[str, Attitude] = {
    "upright": Attitude(),
    "underslung": Attitude(roll=-math.pi, aside=math.pi),
    "briefcase": Attitude(tilt=math.pi / 2.0, lean=-math.pi / 2.0),
    "vertical framing": Attitude(roll=math.pi / 2.0),
}


#: The supports that can carry a whole gimbal.
CARRIERS = ("handheld", "harness")


@dataclass(frozen=True, slots=True)
class GimbalSettings(Settings):
    """The gimbal: for each stage what its motor is rated for and what its bearing rubs (N m).

    `share` of the rating is the window in which a motor holds for long; with `perfect` below the bearing's friction is
    wanted instead. `most` (kg) is the maker's greatest payload, None where nobody has entered it. `gain` (rad/s2) is
    the acceleration that motors must give, `tilt_use` and `roll_use` (rad) how far the stages turn each way in use,
    `held` how the frame is held. `heat` (W) is what a motor turns into heat at its rating, `idle` (W) what the
    gimbal takes in balance, `energy` (Wh) what its battery holds. `carrier` is the support that holds all of
    it. `cables` leave the camera and cross an axis.
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
    kind: Literal["gimbal"] = "gimbal"

    def __post_init__(self) -> None:
        for stage in STAGES:
            check_number(self.rated(stage), 0.01, 100.0, f"The {stage} motor's rating", "N·m")
            check_number(self.friction(stage), 0.0, 1.0, f"The {stage} bearing's friction", "N·m")
        check_number(self.share, 0.01, 1.0, "The motors' window")
        check_number(self.perfect, 0.0, 1.0, "Whether balance shall be perfect")
        if self.most is not None:
            check_number(self.most, 0.05, MAX_MASS, "The gimbal's greatest payload", "kg")
        check_number(self.gain, 0.0, 200.0, "The wanted acceleration", "rad/s²")
        check_number(self.tilt_use, 0.0, math.pi, "Tilt in use", "rad")
        check_number(self.roll_use, 0.0, math.pi, "Roll in use", "rad")
        check_line(self.way, "How the gimbal is held")
        if self.carrier not in CARRIERS:
            raise AssemblyError(f"A gimbal is carried {' or '.join(CARRIERS)}; {self.carrier!r} is none of these.")
        if self.way not in MODES:
            raise AssemblyError(f"A gimbal is held {', '.join(MODES)}; {self.way!r} is none of these.")
        check_number(self.heat, 0.0, 500.0, "A motor's heat at its rating", "W")
        check_number(self.idle, 0.0, 500.0, "What the gimbal takes in balance", "W")
        check_number(self.energy, 0.1, 1000.0, "The gimbal's battery", "Wh")
        check_number(self.cables, 0.0, 20.0, "Cables that cross an axis")
        for value, word in ((self.pivot_x, "forward"), (self.pivot_y, "left"), (self.pivot_z, "up")):
            check_number(value, -1.0, 1.0, f"Where the axes meet, {word}", "m")

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


class Trouble(StrEnum):
    """Why the stages of a build are none."""

    SKEW = "an axis lies askew"
    ORDER = "the axes are in another order"
    TWICE = "an axis is there twice"
    NO_TILT = "no tilt axis"
    NO_MASS = "a stage has no mass"


@dataclass(frozen=True, eq=False, slots=True)
class Stage:
    """One stage with all that it carries: `parts` (n,) bool.

    It turns about rig axis number `about` through `point` (3,) (m).
    `holder` is the number of the part that the point is fixed to; `mass` kg, `cg` (3,) m, rig frame, all at home.
    """

    name: str
    about: int
    point: np.ndarray
    holder: int
    parts: np.ndarray
    mass: float
    cg: np.ndarray

    @property
    def weight(self) -> float:
        """Its weight (N)."""
        return self.mass * STANDARD_GRAVITY

    @property
    def offset(self) -> np.ndarray:
        """Its CG (3,) (m) from the axis point."""
        return self.cg - self.point

    @property
    def beside(self) -> tuple[float, float]:
        """The CG (m) from the axis, along the two rig axes beside it, see `BESIDE`."""
        a, b = BESIDE[self.name]
        return float(self.offset[_NUMBER[a]]), float(self.offset[_NUMBER[b]])

    @property
    def axis(self) -> np.ndarray:
        """The axis (3,) in the rig frame."""
        result: np.ndarray = np.eye(3)[self.about]
        return result


@dataclass(frozen=True, eq=False, slots=True)
class OnGimbal:
    """The stages, the innermost first; `usual` if no axes are joined and they are taken to meet at a point."""

    stages: tuple[Stage, ...]
    usual: bool

    def stage(self, name: str) -> Stage | None:
        """Return the stage called `name`, None without one."""
        return next((stage for stage in self.stages if stage.name == name), None)


def on_gimbal_of(analysis: Analysis) -> OnGimbal | None:
    """Return the stages of a build on a gimbal, None on another support."""
    return analysis.more if isinstance(analysis.more, OnGimbal) else None


def stages_of(assembly: Assembly, positions: Positions, build: Build) -> OnGimbal | Trouble:
    """Return the stages that the axes of a build part it into, each with all that turns on it."""
    if not assembly.axes:
        return _as_payload(assembly, positions, build)
    sensor = assembly.sensor if assembly.sensor is not None else len(assembly.parts) - 1
    found = []
    for kind, name in zip(AXES, STAGES, strict=True):
        several = [(k, axis) for k, axis in enumerate(assembly.axes) if axis.kind is kind]
        if len(several) > 1:
            return Trouble.TWICE
        for k, axis in several:
            if abs(float(axis.direction[_ABOUT[name]])) < math.cos(_SKEW):
                return Trouble.SKEW
            parts = axis.beyond if axis.beyond[sensor] else ~axis.beyond
            stage = _stage(name, assembly, positions, positions.axis[k], axis.part, parts)
            if stage is None:
                return Trouble.NO_MASS
            found.append(stage)
    if not found or found[0].name != STAGES[0]:
        return Trouble.NO_TILT
    for inner, outer in pairwise(found):
        if (inner.parts & ~outer.parts).any():
            return Trouble.ORDER
    return OnGimbal(tuple(found), False)


def _stage(
    name: str, assembly: Assembly, positions: Positions, point: np.ndarray, holder: int, parts: np.ndarray
) -> Stage | None:
    masses = assembly.mass * parts
    mass = float(masses.sum())
    if mass <= 0.0:
        return None
    return Stage(name, _ABOUT[name], point, holder, parts, mass, masses @ positions.cg / mass)


def _as_payload(assembly: Assembly, positions: Positions, build: Build) -> OnGimbal | Trouble:
    """Return a build without axes as what a gimbal would carry: all three meet at the point that its settings say."""
    settings = gimbal_of(build)
    root = int(np.flatnonzero(assembly.parent < 0)[0])
    top = float(assembly.edges[root, 2]) if assembly.parts[root].category is not Category.BODY else 0.0
    above = settings.pivot_z if assembly.parts[root].category is not Category.BODY else 0.0
    point = positions.centre[root] + np.array([settings.pivot_x, settings.pivot_y, top + above])
    everything = np.ones(len(assembly.parts), dtype=bool)
    found = [_stage(name, assembly, positions, point, root, everything) for name in STAGES]
    whole = tuple(stage for stage in found if stage is not None)
    return OnGimbal(whole, True) if len(whole) == len(STAGES) else Trouble.NO_MASS


# Torques


def peak_torque(stage: Stage) -> float:
    """Return the greatest torque (N m) of gravity over a stage's full turn, the others level.

    ``W hypot(a, b)`` of the CG beside the axis; of pan with the frame leaned by `LEAN` the worst way, since level it
    has none.
    """
    size = stage.weight * math.hypot(*stage.beside)
    return size * math.sin(LEAN) if stage.name == "pan" else size


def links_of(analysis: Analysis, on_it: OnGimbal) -> tuple[Link, ...]:
    """Return the stages without what they carry as links, the outermost first."""
    assembly, cg = analysis.assembly, analysis.positions.cg
    links = []
    inner = np.zeros(len(assembly.parts), dtype=bool)
    for stage in on_it.stages:
        own = stage.parts & ~inner
        inner = stage.parts
        links.append(Link(stage.point, stage.axis, body_of_parts(assembly, cg, own)))
    return tuple(reversed(links))


def body_of_parts(assembly: Assembly, cg: np.ndarray, which: np.ndarray) -> MassProperties | None:
    """Return the mass properties of some parts (n,) bool whose CGs are `cg` (n, 3) (m), None without a mass."""
    masses = assembly.mass * which
    mass = float(masses.sum())
    if mass <= 0.0:
        return None
    middle = masses @ cg / mass
    own = np.einsum("n,nij->ij", which.astype(float), assembly.inertia)
    return MassProperties(mass, middle, own + spread_inertia(masses, cg - middle))


def gravity_torques(analysis: Analysis, on_it: OnGimbal, attitude: Attitude) -> dict[str, float]:
    """Return gravity's torque (N m) about each axis at an attitude; motors hold minus these."""
    turned = {"tilt": attitude.tilt, "roll": attitude.roll, "pan": attitude.pan}
    names = [stage.name for stage in reversed(on_it.stages)]
    torques = motor_torques(links_of(analysis, on_it), [turned[name] for name in names], attitude.down)
    return {name: -float(torque) for name, torque in zip(names, torques, strict=True)}


@dataclass(frozen=True, slots=True)
class Need:
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


def holding_power(on_it: OnGimbal, settings: GimbalSettings) -> float:
    """Return the heat (W) of holding, on the mean over the tilt in use: ``P = P_r (tau/tau_r)^2``.

    That is a motor's loss in its copper. Roll and pan stand level, where pan holds nothing.
    """
    found = 0.0
    for stage in on_it.stages:
        a, b = stage.beside
        use = settings.tilt_use if stage.name == "tilt" else 0.0
        # Means of cos^2, sin^2 over -u to u; that of their product is zero.
        ripple = math.sin(2.0 * use) / (4.0 * use) if use > 0.0 else 0.5
        level = 0.0 if stage.name == "pan" else a * a * (0.5 + ripple) + b * b * (0.5 - ripple)
        found += settings.heat * stage.weight**2 * level / settings.rated(stage.name) ** 2
    return found


def run_time(on_it: OnGimbal, settings: GimbalSettings) -> tuple[float, float]:
    """Return how long (s) its battery lasts as it is balanced, and in perfect balance."""
    energy = settings.energy * 3600.0
    if settings.idle <= 0.0:
        return math.inf, math.inf
    return energy / (settings.idle + holding_power(on_it, settings)), energy / settings.idle


# What it swings past


def passings(analysis: Analysis, on_it: OnGimbal, near: float = 0.0) -> tuple[Passing, ...]:
    """Return how the parts of each stage pass those of the outer ones over the angles in use, nearest first.

    Pan turns all the way round. A gimbal's own parts are made to pass each other. Only pairs that come nearer than
    `near` (m).
    """
    found = [one for bound, ask in _pairs(analysis, on_it) if bound <= near and (one := ask(near)) is not None]
    return tuple(sorted(found, key=lambda one: one.gap))


def nearest_passing(analysis: Analysis, on_it: OnGimbal, near: float) -> Passing | None:
    """Return the pair that comes nearest, None if none comes nearer than `near` (m)."""
    best = None
    for bound, ask in sorted(_pairs(analysis, on_it), key=lambda pair: pair[0]):
        if bound > near:
            break
        found = ask(near)
        if found is not None:
            best, near = found, found.gap
    return best


def _pairs(analysis: Analysis, on_it: OnGimbal) -> list[tuple[float, Callable[[float], Passing | None]]]:
    """Return every pair that may meet: how near (m) they can come at all, and what works it out."""
    assembly, positions = analysis.assembly, analysis.positions
    settings = gimbal_of(analysis.build)
    use = {"tilt": settings.tilt_use, "roll": settings.roll_use, "pan": math.pi}
    sized = np.flatnonzero(assembly.sized)
    own = np.array([part.category is Category.GIMBAL for part in assembly.parts])
    low, high = positions.centre - assembly.edges, positions.centre + assembly.edges
    found: list[tuple[float, Callable[[float], Passing | None]]] = []
    for stage in () if on_it.usual else on_it.stages:
        inner, outer = sized[stage.parts[sized]], sized[~stage.parts[sized]]
        over = np.minimum(high[inner, None, stage.about], high[outer, stage.about])
        over = over - np.maximum(low[inner, None, stage.about], low[outer, stage.about])
        meets = (over > 0.0) & ~(own[inner][:, None] & own[outer])
        pairs = np.array([(inner[a], outer[b]) for a, b in np.argwhere(meets).tolist()], dtype=int).reshape(-1, 2)
        if not len(pairs):
            continue
        seen = [(stage.about + 1) % 3, (stage.about + 2) % 3]
        # A box around a turned part holds all of it: what that stays clear of, the part does.
        bounds = nearest_bounds(low[:, seen], high[:, seen], pairs, stage.point[seen], use[stage.name])
        for (k, other), bound in zip(pairs.tolist(), bounds.tolist(), strict=True):
            found.append((bound, partial(_passing, analysis, k, other, stage, use[stage.name])))
    return found


def _passing(analysis: Analysis, k: int, other: int, stage: Stage, use: float, near: float) -> Passing | None:
    corners = [outline_corners(analysis.assembly, analysis.positions, part) for part in (k, other)]
    return passing((k, corners[0]), (other, corners[1]), stage.about, stage.point, -use, use, near)


# The order of work


@dataclass(frozen=True, slots=True)
class Step:
    """One scale to set: the slide of `placed_id` from `now` to `to` (m) clears the stage's CG `beside` its axis.

    `left` (m) of the stage's CG is what stays there, since the slide ends or nothing slides; `before` (m) what is there
    now, with all earlier steps done. `placed_id` is empty where no slide moves it, or it need not move.
    """

    stage: str
    beside: str
    placed_id: str
    now: float
    to: float
    before: float
    left: float


def order_of_work(analysis: Analysis) -> tuple[Step, ...]:
    """Return the steps that balance a gimbal, in working order; each leaves the ones before it alone.

    First moments are linear in the slides, and a slide of an outer stage moves nothing against the axes within it, so
    that solving the rows one after the other is exact (forward substitution: Golub and Van Loan, ch. 3).
    """
    on_it, target = on_gimbal_of(analysis), SUPPORT.target(analysis)
    if on_it is None or target is None:
        return ()
    assembly = analysis.assembly
    values = np.array([form_value(analysis, target, form) for form in target.forms])
    slopes = np.array([form_slopes(analysis, target, form) for form in target.forms]).reshape(len(values), -1)
    settings = analysis.settings.astype(float).copy()
    usable = scales_of(analysis, on_it)
    least = 1e-6
    steps: list[Step] = []
    used: set[int] = set()
    for f, form in enumerate(target.forms):
        stage = on_it.stage(form.name.split(" ")[0])
        assert stage is not None
        before = float(values[f]) / stage.mass
        several = [
            j for j in usable if j not in used and abs(slopes[f, j]) > least and (np.abs(slopes[:f, j]) <= least).all()
        ]
        # The coarse scale carries more.
        several.sort(key=lambda j: -abs(float(slopes[f, j])))
        done = 0
        for j in several:
            if abs(values[f]) <= 1e-12 * stage.mass and done:
                break
            mount = assembly.slide_mounts[j]
            now = float(settings[j])
            to = mount.snap(now - float(values[f]) / float(slopes[f, j]))
            values = values + slopes[:, j] * (to - now)
            settings[j] = to
            used.add(j)
            placed = analysis.build.parts[assembly.slide_parts[j]].id
            left = float(values[f]) / stage.mass
            steps.append(Step(stage.name, form.name.split(" ")[1], placed, now, to, before, left))
            before, done = left, done + 1
        if not several:
            steps.append(Step(stage.name, form.name.split(" ")[1], "", 0.0, 0.0, before, before))
    return tuple(steps)


@dataclass(frozen=True, eq=False, slots=True)
class LensMarks:
    """Where all scales stand for one `lens`: the steps from how they stand now; `reason` why it can't go on."""

    lens: str
    steps: tuple[Step, ...]
    reason: str = ""


def lens_marks(analysis: Analysis, kit: Kit) -> tuple[LensMarks, ...]:
    """Return where every scale must stand for each lens of the kit in the place of the one that is on.

    What sits on the lens goes along where it fits.
    """
    pairs = zip(analysis.build.parts, analysis.assembly.parts, strict=True)
    lens = next((placed for placed, part in pairs if part.category is Category.LENS), None)
    if lens is None:
        return ()
    found = []
    for part in kit.values():
        if part.category is not Category.LENS:
            continue
        if part.mass is None:
            found.append(LensMarks(part.name, (), "has no mass"))
            continue
        try:
            other = with_lens(analysis.build, kit, lens, part, True)
        except AssemblyError as error:
            found.append(LensMarks(part.name, (), str(error)))
            continue
        found.append(LensMarks(part.name, order_of_work(analyse(other, kit, _NOBODY))))
    return tuple(found)


_NOBODY = Operator("nobody", "Nobody")


def scales_of(analysis: Analysis, on_it: OnGimbal) -> tuple[int, ...]:
    """Return the numbers of the slides that are a gimbal's scales: those between the camera and the frame."""
    assembly = analysis.assembly
    if assembly.sensor is None:
        return ()
    root = int(np.flatnonzero(assembly.parent < 0)[0])
    outside = [k for k in range(len(assembly.parts)) if not on_it.stages[-1].parts[k]]
    far = outside[0] if outside else root
    between = assembly.slides_between(assembly.sensor, far)
    return tuple(j for j in between if assembly.slide_mounts[j].high > assembly.slide_mounts[j].low)


def benches_of(analysis: Analysis) -> tuple[AxisBench, ...]:
    """Return what a coach knows of each axis before the first test: scales, their travel and about what they do.

    Moments are gravity's torques: on tilt with what lies forward, on roll and pan against what lies left and forward.
    """
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
        )
        if scales[0]:
            found.append(AxisBench(stage.name, widened(bench, known), (scales[0], scales[1])))
    return tuple(found)


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
    off = draws.stages[:, k, 1:] - on_it.stages[k].point
    if beside is not None:
        result: np.ndarray = off[:, _NUMBER[beside]]
        return result
    a, b = (off[:, _NUMBER[one]] for one in BESIDE[STAGES[number]])
    share = math.sin(LEAN) if STAGES[number] == "pan" else 1.0
    peak: np.ndarray = draws.stages[:, k, 0] * STANDARD_GRAVITY * np.hypot(a, b) * share
    return peak


#: The gauges' keys on the command line, and how much of the key's unit one SI unit is.
_KEYS: dict[str, tuple[str, float]] = {
    Gauge.AHEAD: ("tilt_offset_x_mm", 1e3),
    AxisGauge.TILT_Z: ("tilt_offset_z_mm", 1e3),
    AxisGauge.ROLL_Y: ("roll_offset_y_mm", 1e3),
    AxisGauge.ROLL_Z: ("roll_offset_z_mm", 1e3),
    AxisGauge.PAN_X: ("pan_offset_x_mm", 1e3),
    AxisGauge.PAN_Y: ("pan_offset_y_mm", 1e3),
    AxisGauge.TILT_PEAK: ("tilt_torque_peak_nm", 1.0),
    AxisGauge.ROLL_PEAK: ("roll_torque_peak_nm", 1.0),
    AxisGauge.PAN_PEAK: ("pan_torque_peak_nm", 1.0),
    AxisGauge.PAYLOAD: ("tilt_stage_kg", 1.0),
    Gauge.SLIDE: ("slide_to_level_mm", 1e3),
}


class TheGimbal(Support):
    """Three motors about three axes; who carries it stands beside."""

    key = "gimbal"
    usual = GimbalSettings()
    braces = (Brace.NONE,)
    warnings = (
        GimbalFinding.OVER_PAYLOAD,
        GimbalFinding.SWINGS_INTO,
        FindingKind.CLASH,
        FindingKind.OUT_OF_TRAVEL,
        GimbalFinding.OVER_MOTOR,
        GimbalFinding.AXIS_OUTSIDE,
        GimbalFinding.CABLES,
    )
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
        forward = np.array([1.0, 0.0, 0.0])
        nobody = at_rest(operator, -on_it.stages[-1].point)
        groups = tuple(stage.parts for stage in on_it.stages)
        return stand_at(
            assembly, positions, body, inner.point, inner.holder, forward, (None, None), nobody, None, groups
        )

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> OnGimbal:
        on_it = stages_of(assembly, positions, build)
        assert isinstance(on_it, OnGimbal)
        return on_it

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
                        np.eye(3)[_NUMBER[beside]],
                        tolerance=allowed,
                        weight=TOLERANCE / STANDARD_GRAVITY / allowed,
                        group=None if on_it.usual else group,
                        point=stage.point,
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
        return Target(inner.point, holder, tuple(forms), TOLERANCE / STANDARD_GRAVITY, closely=True)

    def findings(self, analysis: Analysis, operator: Operator) -> tuple[Finding, ...]:
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
            sized = np.flatnonzero(stage.parts & assembly.sized).tolist()
            beside = [i for i in range(3) if i != stage.about]
            if sized and not on_it.usual:
                away = np.abs(analysis.positions.centre[sized] - stage.point) - assembly.edges[sized]
                least = float(np.hypot(*np.maximum(away[:, beside], 0.0).T).min())
                if least > _OUTSIDE:
                    found.append(Finding(GimbalFinding.AXIS_OUTSIDE, (ids[stage.holder],), least, limit=_OUTSIDE))
        found += [
            Finding(GimbalFinding.SWINGS_INTO, (ids[one.first], ids[one.second]), -one.gap, limit=0.0)
            for one in passings(analysis, on_it, 0.0)
        ]
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


def payload_of(analysis: Analysis, on_it: OnGimbal) -> float:
    """Return the mass (kg) that a gimbal carries beyond its own parts."""
    inner = on_it.stages[0].parts
    own = np.array([part.category is Category.GIMBAL for part in analysis.assembly.parts])
    return float(analysis.assembly.mass[inner & ~own].sum())


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


SUPPORT = TheGimbal()
