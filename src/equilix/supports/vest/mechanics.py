"""A vest with a spring arm that carries a sled: a post that hangs in a bearing, camera above, battery below.

The sled hangs from its bearing: level where its CG lies on the post, upright in a pan where its products of inertia are
zero besides, and the farther below the bearing its CG lies, the faster it falls from level. Moments and products are
linear in the slides or nearly so; the drop time is not.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from enum import StrEnum
from functools import partial
from types import MappingProxyType
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Brace, Build, Grasp, Hold, Kit, Operator, Settings
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.chosen import settings_of
from equilix.core.doubt.gauges import (
    Draws,
    Gauge,
    Gauges,
    Threshold,
    gauges_of,
    moved_by,
    unsure,
)
from equilix.core.frames import AHEAD, STANDARD_GRAVITY, X, Y, Z
from equilix.core.kit.parts import Category, MountKind
from equilix.core.limits import MAX_MASS, Bound, check_bounds, check_number
from equilix.core.massprops.bodies import MassProperties
from equilix.core.measurement.lesson import CONTRADICTS, Reading, lesson_of
from equilix.core.operator.body import UPRIGHT, body_of
from equilix.core.operator.leaning import LOWEST_BELT, Worn, by_the_ankles, by_the_trunk, frame_share, low_back_moments
from equilix.core.rounding import ROUNDING, SLIGHT, negligible
from equilix.core.solver.plan import Form, Target
from equilix.core.solver.targets import ALLOWED, weight_of
from equilix.core.statics.pose import Hindrance, Pose, worn_at
from equilix.core.statics.sled import ELLIPTIC_K_HALF, Sled, fastest_drop, hidden_lean, leans_in, lever_for, sled_of
from equilix.core.statics.spring_arm import Float, floats, setting_for, shift_back
from equilix.core.statics.stand import Stand, stand_at
from equilix.core.support import Figure, Judged, Support, keyed

if TYPE_CHECKING:
    from equilix.core.solver.lens_marks import LensSetting
    from equilix.core.solver.scales import LensMarks, Step

#: m: a CG nearer to the bearing than this lies on it: it neither hangs nor falls; common practice.
ON_BEARING = 0.0005
#: s: standard uncertainty that all drops timed by one hand share; rad: of a lean read off a level. Common practice.
BY_HAND, BY_LEVEL = 0.10, math.radians(0.3)
#: rad: farther than this a post's lean is not small, and nobody pans on; common practice.
FARTHEST = math.radians(30.0)
#: s: how far off a drop time may be that was asked for as a figure.
_EXACTLY = 0.001
#: Of stature: how high an arm floats in the middle of its way, and the socket; assumed.
MIDDLE, SOCKET = 0.67, 0.60
#: Of stature: how high a standing body's CG is above the ankles; Winter (2009), from memory.
_BODY_CG = 0.53
#: rad/s of a pan that is next to none, and s that a timed drop may take; assumed.
_SLOWEST, _DROPS = 1e-3, (0.1, 60.0)


class VestSettings(Struct, Settings, frozen=True):
    """The sled's wishes, the arm and the vest.

    `bearing` is the touch point in which the sled hangs, None for the usual one; its `friction` in N m. `drop` (s) is
    the wished drop time, met within `room` (s); with `dynamic` the post shall stay upright in a pan too. `pan` (rad/s)
    is what the wobble is told for, and `shows` (rad) from how much of it a picture shows.

    The arm weighs `arm_mass` (kg) and lifts `least` to `most` (kg) by its maker, None where nobody entered it; its
    springs are `set_for` (kg), None where nobody knows, a turn of the screw being `turn` (kg). What they hold falls by
    `evenness` either way over `lift` (m) up and down from the middle; the bearing shall float `wanted` (m) above that.
    The sled hangs `reach` (m) from the socket, `boom` (rad, to the left) aside of straight ahead; the socket sits
    `socket` (m) ahead of the low back and `beside` (m) on the right, or with `left` on the left. The vest weighs
    `vest_mass` (kg), its hips carry `hip_share`, its belt bears `belt` (m) below L5/S1, None where nobody measured it.
    From `second` (kg) on two put it on; `release` if the wearer knows the quick release.

    `tries` (s) are drops timed by hand on a rig of `timed_mass` (kg), `lean_pitch` and `lean_roll` (rad) leans read
    off. Both together taught that the CG lies `shift_x`, `shift_y`, `shift_z` (m) from where the parts have it, and
    that I_yy is `more_inertia` (kg m2) greater; they part by `parted` standard uncertainties, and `suspect` is the
    placed part that the difference is likeliest of; where that is too much, nothing is learned.
    """

    bearing: Grasp | None = None
    friction: float = 0.010
    drop: float = 2.5
    room: float = 0.5
    dynamic: float = 1.0
    pan: float = math.radians(30.0)
    shows: float = math.radians(1.0)
    arm_mass: float = 2.6
    least: float | None = None
    most: float | None = None
    set_for: float | None = None
    turn: float | None = None
    evenness: float = 0.05
    lift: float = 0.27
    wanted: float = 0.0
    reach: float = 0.40
    boom: float = 0.0
    socket: float = 0.17
    beside: float = 0.10
    left: float = 0.0
    vest_mass: float = 4.0
    hip_share: float = 0.8
    belt: float | None = None
    second: float = 10.0
    release: float = 0.0
    tries: tuple[float, ...] = ()
    timed_mass: float | None = None
    lean_pitch: float | None = None
    lean_roll: float | None = None
    shift_x: float = 0.0
    shift_y: float = 0.0
    shift_z: float = 0.0
    more_inertia: float = 0.0
    parted: float = 0.0
    suspect: str = ""
    kind: Literal["vest"] = "vest"

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "friction": Bound(0.0, 1.0, "The bearing's friction", "N·m"),
        "drop": Bound(0.05, 60.0, "The wished drop time", "s"),
        "room": Bound(0.0005, 10.0, "How far the drop time may be off", "s"),
        "dynamic": Bound(0.0, 1.0, "Whether the post shall stay upright in a pan"),
        "pan": Bound(0.0, 20.0, "The pan that wobble is told for", "rad/s"),
        "shows": Bound(1e-3, 1.0, "The lean that shows", "rad"),
        "arm_mass": Bound(0.0, MAX_MASS, "The arm's mass", "kg"),
        "evenness": Bound(0.001, 0.9, "How far the arm's lift falls over its way"),
        "lift": Bound(0.01, 1.0, "The arm's way up and down", "m"),
        "reach": Bound(0.05, 1.5, "How far the sled hangs from the socket", "m"),
        "boom": Bound(-math.pi, math.pi, "The boom's angle", "rad"),
        "socket": Bound(0.0, 0.6, "The socket ahead of the low back", "m"),
        "beside": Bound(0.0, 0.5, "The socket beside the middle", "m"),
        "left": Bound(0.0, 1.0, "Whether the socket sits on the left"),
        "vest_mass": Bound(0.0, MAX_MASS, "The vest's mass", "kg"),
        "hip_share": Bound(0.0, 1.0, "The hips' share"),
        "belt": Bound(0.0, 0.3, "The hip belt below the low back", "m"),
        "second": Bound(0.0, MAX_MASS, "The mass from which two put it on", "kg"),
        "release": Bound(0.0, 1.0, "Whether the quick release is known"),
        "more_inertia": Bound(-10.0, 10.0, "The inertia that was measured", "kg·m²"),
        "parted": Bound(0.0, 1e6, "How far a reading is off"),
        "shift_x": Bound(-1.0, 1.0, "Where the CG was measured, forward", "m"),
        "shift_y": Bound(-1.0, 1.0, "Where the CG was measured, left", "m"),
        "shift_z": Bound(-1.0, 1.0, "Where the CG was measured, up", "m"),
        "least": Bound(0.0, MAX_MASS, "The arm's least load", "kg"),
        "most": Bound(0.0, MAX_MASS, "The arm's greatest load", "kg"),
        "set_for": Bound(0.0, MAX_MASS, "What the springs are set for", "kg"),
        "turn": Bound(0.0, MAX_MASS, "A turn of the arm's screw", "kg"),
        "timed_mass": Bound(0.0, MAX_MASS, "The mass that was timed", "kg"),
        "lean_pitch": Bound(-1.5, 1.5, "A lean that was read", "rad"),
        "lean_roll": Bound(-1.5, 1.5, "A lean that was read", "rad"),
    }

    def __post_init__(self) -> None:
        check_bounds(self, self.BOUNDS)
        check_number(self.wanted, -self.lift, self.lift, "The wished height of the arm", "m")
        if self.most is not None and (self.most <= 0.0 or (self.least is not None and self.least >= self.most)):
            from equilix.core.errors import AssemblyError

            raise AssemblyError(
                "The arm's least load must be below its greatest: enter the maker's range the other way."
            )
        for time in self.tries:
            check_number(time, *_DROPS, "A timed drop", "s")

    @property
    def side(self) -> float:
        """1 with the socket on the left, -1 on the right."""
        return 1.0 if self.left else -1.0


def vest_of(build: Build) -> VestSettings:
    """Return a build's vest, now or if it were carried on one."""
    found = settings_of(build, "vest")
    assert isinstance(found, VestSettings)
    return found


class SledFinding(StrEnum):
    """What there is to look at on a sled, its arm and its vest alone."""

    TOP_HEAVY = "top-heavy"
    ON_BEARING = "CG on the bearing"
    NO_DROP = "no such drop"
    OVER_ARM = "over the arm's lift"
    UNDER_ARM = "under the arm's lift"
    ON_STOP = "the arm rests on its stop"
    CONTRADICTS = "a timed drop contradicts the masses"
    NO_BATTERY = "no battery on the base"
    ONE_SCREW = "one screw under a lever"
    TWO_TO_LIFT = "two to put it on"
    NO_RELEASE = "quick release not known"


class SledGauge(StrEnum):
    """Figures of the verdict on a vest alone, SI."""

    PITCH = "leans nose down"
    ROLL = "leans left side up"
    DROP = "drop time"
    XZ = "product of inertia fore and aft"
    YZ = "product of inertia across"
    PAN_INERTIA = "inertia in a pan"
    FASTEST = "fastest free pan"
    FASTEST_ASIDE = "fastest free pan, sideways"
    WOBBLE = "pan wobble"
    ON_VEST = "on the vest"
    BACK = "bends the low back"


class Bearing(Struct, frozen=True):
    """Where the sled hangs: `point` (3,) (m, rig frame) on part number `part`; `usual` if it is no bearing."""

    point: np.ndarray
    part: int
    usual: bool


class OnVest(Struct, frozen=True, eq=False):
    """A sled on an arm: how it hangs, and how its `arm` floats, None where nobody knows what its springs are set for.

    `load` (N) is on the vest: sled and arm. `bends` and `sways` (N m) are the moments at L5/S1, forward and to the
    left, of all that is above it with the wearer leaned back by the ankles alone, `bends_least` with the trunk back and
    a low belt. The wearer leans back and aside by `shift` (2,) (m), `tilt` (rad) about the ankles.
    """

    bearing: Bearing
    sled: Sled
    arm: Float | None
    load: float
    bends: float
    bends_least: float
    sways: float
    shift: tuple[float, float]
    tilt: float


def on_vest_of(analysis: Analysis) -> OnVest | None:
    """Return a sled on its arm, None if the build is on another support or has nothing to hang from."""
    return analysis.more if isinstance(analysis.more, OnVest) else None


def bearing_of(assembly: Assembly, positions: Positions, build: Build) -> Bearing | None:
    """Return where a sled hangs: the chosen place, a bearing, else an eyelet or the highest grip; None without any."""
    chosen = vest_of(build).bearing
    points = list(enumerate(assembly.touch_points))
    if chosen is not None:
        for i, point in points:
            if (point.placed_id, point.mount_id) == (chosen.placed_id, chosen.mount_id):
                return Bearing(positions.touch[i], point.part, False)
    for kind in (MountKind.BEARING, MountKind.EYELET, MountKind.GRIP_POINT):
        several = [(i, point) for i, point in points if point.kind is kind]
        if several:
            i, point = max(several, key=lambda pair: float(positions.touch[pair[0], 2]))
            return Bearing(positions.touch[i], point.part, kind is not MountKind.BEARING)
    return None


def measured(settings: VestSettings, mass: float) -> bool:
    """Whether what was timed or read is of a rig of `mass` (kg) as it is now."""
    return settings.timed_mass is not None and negligible(settings.timed_mass - mass, SLIGHT * max(mass, 1.0))


def _shift(settings: VestSettings, mass: float) -> tuple[np.ndarray, float]:
    """Return how far (3,) (m) the CG was measured from where the parts have it, and how much greater I_yy is."""
    if not measured(settings, mass):
        return np.zeros(3), 0.0
    return np.array([settings.shift_x, settings.shift_y, settings.shift_z]), settings.more_inertia


# The arm and its wearer


def arm_loads(settings: VestSettings, mass: float) -> tuple[tuple[float, float, float], ...]:
    """Return what hangs on the vest, each as kg and m ahead and to the left of the low back: sled, then arm.

    The arm's own weight acts at half its reach.
    """
    ahead, left = settings.reach * math.cos(settings.boom), settings.reach * math.sin(settings.boom)
    beside = settings.side * settings.beside
    return (
        (mass, settings.socket + ahead, beside + left),
        (settings.arm_mass, settings.socket + ahead / 2.0, beside + left / 2.0),
    )


def wearer_shift(settings: VestSettings, mass: float, operator: Operator) -> tuple[float, float]:
    """Return how far (m) back and away from the arm's side a body shifts to stay over its feet."""
    loads = arm_loads(settings, mass)
    worn = (settings.vest_mass, 0.0)
    back, aside = (shift_back(operator.body_mass, [*((load[0], load[way]) for load in loads), worn]) for way in (1, 2))
    return back, aside


def worn_on(settings: VestSettings, mass: float, operator: Operator) -> tuple[Worn, ...]:
    """Return what an upright body would carry, and where: sled of `mass` (kg) at its bearing, arm, and vest."""
    frame = body_of(operator)
    (_, ahead, left), (arm, half, half_left) = arm_loads(settings, mass)
    low = frame.low_back
    height = MIDDLE * operator.stature
    if settings.set_for is not None:
        height += floats(mass, settings.set_for, settings.evenness, settings.lift).height
    socket = SOCKET * operator.stature
    return (
        Worn(mass, np.array([float(low[X]) + ahead, left, height])),
        Worn(arm, np.array([float(low[X]) + half, half_left, (height + socket) / 2.0])),
        Worn(settings.vest_mass, np.array([float(low[X]), 0.0, float(frame.neck[Z] + low[Z]) / 2.0])),
    )


# Where the sled wants to be


def wished_lever(settings: VestSettings, sled: Sled) -> float:
    """Return how far (m) below the bearing the CG belongs for the wished drop, or for the fastest if that is slower."""
    found = lever_for(settings.drop, sled.mass, sled.swing)
    return math.sqrt(sled.swing / sled.mass) if found is None else found


def _drop_tolerance(settings: VestSettings, sled: Sled, lever: float) -> float:
    """Return how far (m) the CG may be off `lever` with the drop time still within its room.

    The slower end is the nearer one: the longer a drop takes, the less a second more asks of the lever.
    """
    slower = lever_for(settings.drop + settings.room, sled.mass, sled.swing)
    return max(SLIGHT if slower is None else abs(slower - lever), ROUNDING)


def _product_that_shows(settings: VestSettings, sled: Sled, lever: float, way: int) -> float:
    """Return the product of inertia (kg m2) from which the post's lean shows in the pan that wobble is told for.

    With the CG `lever` (m) below the bearing and on the post it leans by ``w^2 I_xz/(W L - w^2 (I_xx - I_zz))``; a pan
    that is too fast for such a sled counts as one that has half of what upsets it. Fore and aft and across share.
    """
    back, more = sled.weight * lever, max(float(sled.inertia[way, way] - sled.inertia[Z, Z]), ROUNDING)
    rate = min(max(settings.pan, _SLOWEST) ** 2, 0.5 * back / more)
    return settings.shows / math.sqrt(2.0) * (back - rate * more) / rate


# Gauges


def _about(gauges: Gauges, draws: Draws) -> tuple[np.ndarray, np.ndarray]:
    """Return the CG (d, 3) (m) from the bearing and the inertia (d, 6) (kg m2) about it, with what was measured."""
    return gauges.of_draws("about", draws, lambda: _about_anew(gauges, draws))


def _about_anew(gauges: Gauges, draws: Draws) -> tuple[np.ndarray, np.ndarray]:
    stand = gauges.analysis.stand
    body = gauges.analysis.body
    assert stand is not None
    assert body is not None
    d = draws.cg - stand.point
    six = draws.seconds.copy()
    x, y, z = d.T
    six += draws.mass[:, None] * np.column_stack([y * y + z * z, x * x + z * z, x * x + y * y, -x * y, -x * z, -y * z])
    six[:, 1] += _shift(vest_of(gauges.analysis.build), body.mass)[1]
    return d, six


def _drop(gauges: Gauges, draws: Draws) -> np.ndarray:
    d, six = _about(gauges, draws)
    lever = np.hypot(d[:, 0], d[:, 2])
    swing = six[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        found: np.ndarray = ELLIPTIC_K_HALF * np.sqrt(swing / (draws.mass * STANDARD_GRAVITY * lever))
    return np.where(d[:, 2] < 0.0, found, np.nan)


def _fastest(about: int, gauges: Gauges, draws: Draws) -> np.ndarray:
    d, six = _about(gauges, draws)
    more, back = six[:, about] - six[:, 2], -draws.mass * STANDARD_GRAVITY * d[:, 2]
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.sqrt(back / more)
    return np.where((more > 0.0) & (back > 0.0), found, np.nan)


def wobble_at(gauges: Gauges, draws: Draws, pan: float | np.ndarray) -> np.ndarray:
    """Return how much more (d,) (rad) the post leans in a steady `pan` (rad/s), NaN where that is not small.

    For pans (p, 1) (p, d).
    """
    d, six = _about(gauges, draws)
    weight, square = draws.mass * STANDARD_GRAVITY, np.asarray(pan) ** 2
    extra = []
    for way, product in ((0, 4), (1, 5)):
        post = -weight * d[:, 2], weight * d[:, way], six[:, way] - six[:, 2], six[:, product]
        extra.append(leans_in(*post, square) - leans_in(*post, np.zeros(1)))
    found = np.hypot(*extra)
    return np.where(found > FARTHEST, np.nan, found)


def wobble_doubts(gauges: Gauges, pans: np.ndarray) -> np.ndarray:
    """Return the standard uncertainty (n,) (rad) of the wobble at steady `pans` (n,) (rad/s), 0 where there is none."""
    found = wobble_at(gauges, gauges.moved(), pans[:, None])
    return np.nan_to_num(moved_by(np.array(found)))


def _six(number: int, gauges: Gauges, draws: Draws) -> np.ndarray:
    found: np.ndarray = _about(gauges, draws)[1][:, number]
    return found


def _bends(gauges: Gauges, draws: Draws) -> np.ndarray:
    analysis = gauges.analysis
    assert analysis.stand is not None
    assert analysis.body is not None
    operator, settings = analysis.stand.pose.stance.operator, vest_of(analysis.build)
    sled, *others = worn_on(settings, analysis.body.mass, operator)
    drawn = (Worn(draws.mass, sled.at), *others)
    return np.hypot(*low_back_moments(body_of(operator), drawn, frame_share(settings.belt or 0.0)))


#: The gauges' keys on the command line.
_KEYS: dict[str, str] = {
    SledGauge.PITCH: "static_pitch_deg",
    SledGauge.ROLL: "static_roll_deg",
    Gauge.AHEAD: "cg_ahead_mm",
    SledGauge.DROP: "drop_time_s",
    SledGauge.XZ: "pan_product_xz_kg_m2",
    SledGauge.YZ: "pan_product_yz_kg_m2",
    SledGauge.PAN_INERTIA: "pan_inertia_kg_m2",
    SledGauge.FASTEST: "fastest_pan_deg_s",
    SledGauge.FASTEST_ASIDE: "fastest_pan_aside_deg_s",
    SledGauge.WOBBLE: "wobble_deg",
    SledGauge.ON_VEST: "load_on_vest_n",
}


class VestSupport(Support):
    """A vest, a spring arm, a sled."""

    key = "vest"
    usual = VestSettings()
    braces = (Brace.NONE,)
    warnings = (
        SledFinding.TOP_HEAVY,
        SledFinding.OVER_ARM,
        FindingKind.SCREEN,
        SledFinding.ON_BEARING,
        FindingKind.CLASH,
        FindingKind.OUT_OF_TRAVEL,
        FindingKind.NO_LIMIT,
        SledFinding.CONTRADICTS,
        SledFinding.NO_DROP,
        SledFinding.ONE_SCREW,
        SledFinding.ON_STOP,
        SledFinding.UNDER_ARM,
        SledFinding.NO_BATTERY,
        FindingKind.HEAVY_LENS,
        SledFinding.TWO_TO_LIFT,
        SledFinding.NO_RELEASE,
    )
    leads = frozenset({SledFinding.TOP_HEAVY, SledFinding.OVER_ARM, FindingKind.SCREEN})
    carrying = (
        SledFinding.OVER_ARM,
        FindingKind.NO_LIMIT,
        SledFinding.ON_STOP,
        SledFinding.UNDER_ARM,
        SledFinding.TWO_TO_LIFT,
        SledFinding.NO_RELEASE,
    )
    too_little = frozenset({SledFinding.ON_BEARING, SledFinding.NO_DROP, SledFinding.UNDER_ARM})
    makers = frozenset({SledFinding.OVER_ARM, SledFinding.UNDER_ARM})
    gauges = MappingProxyType(
        {
            SledGauge.PITCH: lambda gauges, draws: gauges.hangs(draws)[:, 0],
            SledGauge.ROLL: lambda gauges, draws: gauges.hangs(draws)[:, 1],
            SledGauge.DROP: _drop,
            SledGauge.XZ: lambda gauges, draws: _six(4, gauges, draws),
            SledGauge.YZ: lambda gauges, draws: _six(5, gauges, draws),
            SledGauge.PAN_INERTIA: lambda gauges, draws: _six(2, gauges, draws),
            SledGauge.FASTEST: partial(_fastest, X),
            SledGauge.FASTEST_ASIDE: partial(_fastest, Y),
            SledGauge.WOBBLE: lambda gauges, draws: wobble_at(gauges, draws, vest_of(gauges.analysis.build).pan),
            SledGauge.ON_VEST: lambda gauges, draws: (
                STANDARD_GRAVITY * (draws.mass + vest_of(gauges.analysis.build).arm_mass)
            ),
            SledGauge.BACK: _bends,
        }
    )
    by_inertia = True
    steadies = False
    lenses_by_camera = False
    order = (
        SledGauge.PITCH,
        SledGauge.ROLL,
        Gauge.AHEAD,
        Gauge.SLIDE,
        SledGauge.DROP,
        SledGauge.WOBBLE,
        SledGauge.XZ,
        SledGauge.YZ,
        SledGauge.PAN_INERTIA,
        SledGauge.FASTEST,
        SledGauge.FASTEST_ASIDE,
        SledGauge.ON_VEST,
        SledGauge.BACK,
        Gauge.TIP_MOMENT,
        Gauge.MASS,
    )

    def lacks(self, analysis: Analysis) -> frozenset[str]:
        """Return what a sled that turns over, or that no pan unseats, does not have."""
        on_it = on_vest_of(analysis)
        if on_it is None:
            return frozenset()
        sled, wobble = on_it.sled, on_it.sled.wobble_in(vest_of(analysis.build).pan)
        there = {
            SledGauge.DROP: sled.drop_time,
            SledGauge.FASTEST: sled.fastest_pan(),
            SledGauge.FASTEST_ASIDE: sled.fastest_pan(Y),
            SledGauge.WOBBLE: None if wobble is None or wobble > FARTHEST else wobble,
        }
        return frozenset(gauge for gauge, value in there.items() if value is None)

    def balancing(self, analysis: Analysis) -> frozenset[str] | None:
        """Return all slides that move mass against the bearing, but those that only focus and grips are set by."""
        assembly = analysis.assembly
        found = set()
        idle = _SET_APART | self.idle
        for j, i in enumerate(assembly.slide_parts):
            mount = assembly.slide_mounts[j]
            carried = {assembly.parts[k].category for k in np.flatnonzero(assembly.carried_by(j)).tolist()}
            if mount.goes and carried - idle:
                found.add(analysis.build.parts[i].id)
        return frozenset(found)

    def scales(self, analysis: Analysis) -> frozenset[str] | None:
        return self.balancing(analysis)

    def leaves(self, analysis: Analysis) -> float:
        """Return the moment (N m) that the CG beside the post turns the sled by."""
        on_it = on_vest_of(analysis)
        return 0.0 if on_it is None else on_it.sled.weight * math.hypot(*on_it.sled.offset[:2].tolist())

    def lens_settings(self, analysis: Analysis, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        from equilix.core.solver.lens_marks import of_steps

        rows = lens_marks(analysis, kit)
        return of_steps(analysis, rows, {k: self.leaves(row.after) for k, row in enumerate(rows) if row.after})

    def dropping(self, settings: Settings, time: float) -> Settings:
        assert isinstance(settings, VestSettings)
        return replace(settings, drop=time, room=_EXACTLY)

    def short(self, analysis: Analysis) -> bool | None:
        settings, on_it = vest_of(analysis.build), on_vest_of(analysis)
        time = None if on_it is None else on_it.sled.drop_time
        return time is None or not negligible(time - settings.drop, settings.room)

    def working_order(self, analysis: Analysis) -> tuple[str, ...]:
        return tuple(step.placed_id for step in order_of_work(analysis) if step.placed_id)

    def observed(self, analysis: Analysis) -> tuple[tuple[str, float], ...]:
        settings, body = vest_of(analysis.build), analysis.body
        if body is None or not measured(settings, body.mass) or settings.parted > CONTRADICTS:
            return ()
        return tuple((reading.gauge, reading.u) for reading in _readings(settings))

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        bearing = bearing_of(analysis.assembly, analysis.positions, analysis.build)
        if bearing is None:
            return Hindrance.NO_BEARING
        if analysis.body is None:
            return Hindrance.NO_MASS
        return _posed(analysis.body, bearing, vest_of(analysis.build), operator)

    def stand(
        self, assembly: Assembly, positions: Positions, body: MassProperties, build: Build, operator: Operator
    ) -> Stand | None:
        bearing = bearing_of(assembly, positions, build)
        if bearing is None:
            return None
        settings = vest_of(build)
        posed = _posed(body, bearing, settings, operator)
        # A CG that was measured elsewhere is a bearing that lies elsewhere, seen from the parts.
        point = bearing.point - _shift(settings, body.mass)[0]
        forward = AHEAD
        return stand_at(assembly, positions, body, point, bearing.part, forward, (None, None), posed, None)

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> OnVest:
        settings, bearing = vest_of(build), bearing_of(assembly, positions, build)
        assert bearing is not None
        back, aside = wearer_shift(settings, body.mass, operator)
        arm = None
        if settings.set_for is not None:
            arm = floats(body.mass, settings.set_for, settings.evenness, settings.lift)
        worn, upright = worn_on(settings, body.mass, operator), body_of(operator)
        (bends, sways), (eased, _) = (
            low_back_moments(upright, worn, pose.frame_share, pose.stance.lean)
            for pose in (stand.pose, stand.pose.eased or stand.pose)
        )
        return OnVest(
            bearing,
            sled_of(body, stand.point, _shift(settings, body.mass)[1]),
            arm,
            STANDARD_GRAVITY * (body.mass + settings.arm_mass),
            float(bends),
            float(eased),
            float(sways),
            (back, aside),
            stand.pose.stance.lean.ankles,
        )

    def target(self, analysis: Analysis) -> Target | None:
        """Return the CG on the post and so far below the bearing that it falls as wished, and no products of inertia.

        Level to what the bearing's friction hides; upright in the pan that wobble is told for to what shows.
        """
        on_it, stand, settings = on_vest_of(analysis), analysis.stand, vest_of(analysis.build)
        if on_it is None or stand is None or analysis.body is None:
            return None
        sled = on_it.sled
        holder = analysis.build.parts[stand.holder].id
        lever = wished_lever(settings, sled)
        # What lies beside the bearing is part of the way to the CG, once it is nearly below it.
        beside = float(sled.offset[X])
        down = math.sqrt(lever * lever - beside * beside) if abs(beside) < 0.5 * lever else lever
        least = max(settings.friction, 1e-4) / STANDARD_GRAVITY

        def form(name: str, way: int, allowed: float, **more: object) -> Form:
            return Form(name, np.eye(3)[way], tolerance=allowed, weight=weight_of(allowed), holder=holder, **more)  # type: ignore[arg-type]

        forms = [form("sled x", X, least, point=stand.point), form("sled y", Y, least, point=stand.point)]
        if settings.dynamic:
            away = analysis.positions.cg - stand.point
            frozen = tuple((p.id, float(z)) for p, z in zip(analysis.build.parts, away[:, Z], strict=True))
            own = analysis.assembly.own_inertia
            for name, way in (("spin x", X), ("spin y", Y)):
                most = _product_that_shows(settings, sled, lever, way)
                # The sum of m x z is the product of inertia without its minus sign.
                of_parts = -float(own[way, Z])
                forms.append(
                    form(name, way, most, point=stand.point, lever=np.eye(3)[Z], offset=of_parts, frozen=frozen)
                )
        place = stand.point - np.array([0.0, 0.0, down])
        forms.append(form("drop z", Z, sled.mass * _drop_tolerance(settings, sled, lever), point=place))
        return Target(stand.point, holder, tuple(forms), ALLOWED, closely=True, curved=True)

    def findings(self, analysis: Analysis, operator: Operator) -> tuple[Finding, ...]:
        from equilix.core.statics.screws import one_screws

        on_it, body, spread = on_vest_of(analysis), analysis.body, analysis.spread
        if on_it is None or body is None or spread is None:
            return ()
        settings, sled = vest_of(analysis.build), on_it.sled
        ids = [placed.id for placed in analysis.build.parts]
        at = (ids[on_it.bearing.part],)
        u = float(spread.cg[2])
        found = []
        if sled.below < -ON_BEARING:
            found.append(Finding(SledFinding.TOP_HEAVY, at, -sled.below, u, limit=0.0))
        elif sled.below < ON_BEARING:
            found.append(Finding(SledFinding.ON_BEARING, at, sled.below, u, limit=ON_BEARING))
        fastest = fastest_drop(sled.mass, sled.swing)
        if settings.drop < fastest:
            found.append(Finding(SledFinding.NO_DROP, at, settings.drop, limit=fastest))
        found += self.load_findings(analysis.build, body.mass, spread.mass, at)
        if settings.parted > CONTRADICTS and measured(settings, body.mass):
            suspect = (settings.suspect,) if settings.suspect in ids else at
            found.append(Finding(SledFinding.CONTRADICTS, suspect, settings.parted, limit=CONTRADICTS))
        if _bare_base(analysis, on_it):
            found.append(Finding(SledFinding.NO_BATTERY, at))
        found += [
            Finding(SledFinding.ONE_SCREW, (ids[one.part],), one.moment, limit=one.holds)
            for one in one_screws(analysis.assembly, analysis.positions, on_it.bearing.part)
        ]
        return tuple(found)

    def load_findings(self, build: Build, mass: float, u: float, at: tuple[str, ...]) -> list[Finding]:
        settings, found = vest_of(build), []
        if settings.most is None:
            found.append(Finding(FindingKind.NO_LIMIT, at, mass, u))
        elif mass > settings.most:
            found.append(Finding(SledFinding.OVER_ARM, at, mass, u, limit=settings.most))
        if settings.least is not None and mass < settings.least:
            found.append(Finding(SledFinding.UNDER_ARM, at, mass, u, limit=settings.least))
        if settings.set_for is not None:
            arm = floats(mass, settings.set_for, settings.evenness, settings.lift)
            if arm.over != 0.0:
                found.append(Finding(SledFinding.ON_STOP, at, arm.over, u, limit=0.0))
        worn = mass + settings.arm_mass
        if worn > settings.second:
            found.append(Finding(SledFinding.TWO_TO_LIFT, at, worn, u, limit=settings.second))
        if not settings.release:
            found.append(Finding(SledFinding.NO_RELEASE, at))
        return found

    def thresholds(self, analysis: Analysis, gauge: str) -> tuple[Threshold, ...]:
        settings = vest_of(analysis.build)
        if gauge == SledGauge.DROP:
            ends = (settings.drop - settings.room, settings.drop + settings.room)
            return (Threshold(ends[0], "falls too fast below"), Threshold(ends[1], "too slow above"))
        if gauge == SledGauge.WOBBLE:
            return (Threshold(settings.shows, "shows"),)
        if gauge in (SledGauge.PITCH, SledGauge.ROLL, Gauge.AHEAD, SledGauge.XZ, SledGauge.YZ):
            return (Threshold(0.0, "upright"),)
        return ()

    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        on_it, gauges = on_vest_of(analysis), gauges_of(analysis)
        if analysis.body is None:
            return Judged(hindrance=str(Hindrance.NO_MASS))
        if on_it is None or gauges is None:
            return Judged(hindrance=str(Hindrance.NO_BEARING))
        figures = keyed(gauges, _KEYS)
        for key in ("drop_time_s", "fastest_pan_deg_s", "fastest_pan_aside_deg_s", "wobble_deg"):
            # There is none: it turns over, or no pan unseats it.
            figures.setdefault(key, Figure(math.nan))
        settings, bearing = vest_of(analysis.build), on_it.bearing.point

        def others(mass: float, cg: np.ndarray) -> np.ndarray:
            """Return what the arm and its wearer do with a sled of that mass, and what friction hides."""
            back, aside = wearer_shift(settings, mass, operator)
            worn, upright = worn_on(settings, mass, operator), body_of(operator)
            bends, sways = low_back_moments(upright, worn, frame_share(settings.belt or 0.0))
            low = frame_share(LOWEST_BELT if settings.belt is None else settings.belt)
            eased, _ = low_back_moments(upright, worn, low, by_the_trunk(upright, worn))
            hides = hidden_lean(settings.friction, mass * STANDARD_GRAVITY, float(bearing[Z] - cg[Z]))
            set_for = settings.set_for or mass
            height = floats(mass, set_for, settings.evenness, settings.lift).height
            moments = [float(bends), float(eased), float(sways)]
            return np.array([*moments, 1e3 * back, 1e3 * aside, math.degrees(hides), 1e3 * height])

        said_of = others(analysis.body.mass, analysis.body.cg)
        sure = unsure(analysis, others, said_of)
        assert sure is not None
        back = ("l5s1_moment_nm", "l5s1_moment_least_nm", "l5s1_side_nm")
        names = (*back, "wearer_back_mm", "wearer_aside_mm", "hidden_lean_deg", "floats_mm")
        for name, value, u in zip(names, said_of.tolist(), sure.tolist(), strict=True):
            if name != "floats_mm" or settings.set_for is not None:
                figures[name] = Figure(value, u)
        said = []
        if on_it.bearing.usual:
            part = analysis.assembly.parts[on_it.bearing.part].name
            said.append(f"no bearing is on it: it hangs from {part}")
        if settings.timed_mass is not None and not measured(settings, analysis.body.mass):
            said.append("what was timed was of other parts: time it again")
        return Judged({"bearing_mm": on_it.bearing.point}, figures, said=tuple(said))


#: What only focus and hands are set by.
_SET_APART = frozenset(
    {
        Category.GRIP,
        Category.CLAMP,
        Category.HANDLE,
        Category.LENS_SUPPORT,
        Category.FOCUS,
        Category.MATTE_BOX,
    }
)


def _posed(body: MassProperties, bearing: Bearing, settings: VestSettings, operator: Operator) -> Pose:
    """Return how a sled hangs on the arm: its CG below the bearing, which floats where the arm has it.

    The wearer leans back about the ankles, with the belt as high as it may be; eased with the trunk, and a low belt.
    """
    sled, *others = worn_on(settings, body.mass, operator)
    upright = body_of(operator)
    # At rest the CG hangs below the bearing.
    hangs = np.array([body.cg[X], body.cg[Y], bearing.point[Z]])
    pose, unladen = None, worn_at(operator, hangs, sled.at, tuple(others), UPRIGHT, 1.0, 1.0)
    for lean, belt in (
        (by_the_trunk(upright, (sled, *others)), LOWEST_BELT if settings.belt is None else settings.belt),
        (by_the_ankles(upright, (sled, *others)), settings.belt or 0.0),
    ):
        pose = worn_at(
            operator, hangs, sled.at, tuple(others), lean, 1.0 - settings.hip_share, frame_share(belt), pose, unladen
        )
    assert pose is not None
    return pose


def _bare_base(analysis: Analysis, on_it: OnVest) -> bool:
    """Whether a sled has no battery below its bearing."""
    parts = analysis.assembly.parts
    if not any(part.category is Category.SLED for part in parts):
        return False
    low = analysis.positions.cg[:, Z] < on_it.bearing.point[Z]
    return not any(part.category is Category.BATTERY and low[i] for i, part in enumerate(parts))


# The arm's setting


def springs_for(analysis: Analysis) -> float | None:
    """Return what (kg) the arm's springs must be set for to float the sled where it shall; None without a mass."""
    settings, body = vest_of(analysis.build), analysis.body
    return None if body is None else setting_for(body.mass, settings.wanted, settings.evenness, settings.lift)


def order_of_work(analysis: Analysis) -> tuple[Step, ...]:
    """Return the steps as people work: the base's marks, the stage level, the bearing for the drop.

    `before` and `left` are in tolerances, see `marks_of`.
    """
    from equilix.core.solver.marks import marks_of

    steps, _ = marks_of(analysis)
    order = {"spin": 0, "sled": 1, "drop": 2}
    return tuple(sorted(steps, key=lambda step: order[step.stage]))


def lens_marks(analysis: Analysis, kit: Kit) -> tuple[LensMarks, ...]:
    """Return where every slide must stand for each lens of the kit in the place of the one that is on."""
    from equilix.core.solver import scales

    return scales.lens_marks(analysis, kit, order_of_work)


# What was timed and read


def _readings(settings: VestSettings) -> tuple[Reading, ...]:
    found: list[Reading] = []
    if settings.tries:
        n = len(settings.tries)
        # Tries of one hand scatter, and share what it is late by: more of them don't help against that.
        scatter = float(np.std(settings.tries, ddof=1)) / math.sqrt(n) if n > 1 else 0.0
        found.append(Reading(SledGauge.DROP, float(np.mean(settings.tries)), math.hypot(BY_HAND, scatter)))
    for gauge, read in ((SledGauge.PITCH, settings.lean_pitch), (SledGauge.ROLL, settings.lean_roll)):
        if read is not None:
            found.append(Reading(gauge, read, BY_LEVEL))
    return tuple(found)


def forgotten(settings: VestSettings) -> VestSettings:
    """Return settings in which nothing was timed or read."""
    return replace(
        settings,
        tries=(),
        timed_mass=None,
        lean_pitch=None,
        lean_roll=None,
        shift_x=0.0,
        shift_y=0.0,
        shift_z=0.0,
        more_inertia=0.0,
        parted=0.0,
        suspect="",
    )


def taught(
    analysis: Analysis, tries: Sequence[float], pitch: float | None = None, roll: float | None = None
) -> VestSettings | None:
    """Return the settings that drops timed by hand (s) and leans read off (rad) teach; None where nothing hangs.

    `analysis` is of the build without any such lesson, see `forgotten`.
    """
    gauges, body = gauges_of(analysis), analysis.body
    if gauges is None or body is None or on_vest_of(analysis) is None:
        return None
    settings = replace(
        forgotten(vest_of(analysis.build)),
        tries=tuple(float(t) for t in tries),
        timed_mass=body.mass,
        lean_pitch=pitch,
        lean_roll=roll,
    )
    readings = _readings(settings)
    lesson = lesson_of(gauges, readings) if readings else None
    if lesson is None:
        return None
    return replace(
        settings,
        shift_x=float(lesson.moved[1]),
        shift_y=float(lesson.moved[2]),
        shift_z=float(lesson.moved[3]),
        # I_yy is the second of the inertia's six, which stand last.
        more_inertia=float(lesson.moved[-5]),
        parted=lesson.parted,
        suspect=lesson.suspect,
    )


SUPPORT = VestSupport()
