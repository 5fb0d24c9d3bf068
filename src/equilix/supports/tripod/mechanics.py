"""A tripod, where a rig rests between takes: its plate in the head's clamp, the head's counterbalance, and a table.

On the head the CG shall lie over the middle of the clamp, fore and aft by sliding the plate; what is left tilts it by
its height alone, and the head's spring holds that. On a table a rig stands on its lowest points, or tips.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import StrEnum
from types import MappingProxyType
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace as changed

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Brace, Build, Hold, Kit, Operator, Placed, Settings, check_build
from equilix.core.assembly.resolve import Assembly, Positions, all_corners, outline_corners
from equilix.core.chosen import settings_of, with_settings
from equilix.core.doubt.gauges import Draws, Gauge, Gauges, Threshold, gauges_of, unsure
from equilix.core.errors import AssemblyError
from equilix.core.frames import AHEAD, STANDARD_GRAVITY, rotation_about
from equilix.core.hull import box_within, convex_hull, edge_distance
from equilix.core.kit.parts import Category, Part
from equilix.core.limits import Bound, check_bounds, check_line, check_number
from equilix.core.massprops.bodies import MassProperties
from equilix.core.rounding import ROUNDING, SLIGHT, negligible
from equilix.core.statics.pose import Hindrance, Pose, at_rest
from equilix.core.statics.stand import Stand, stand_at
from equilix.core.support import Figure, Judged, Support, keyed

if TYPE_CHECKING:
    from equilix.core.solver.lens_marks import LensSetting

#: m of travel of a long dovetail, and of a short quick-release plate, in all; common practice.
LONG_DOVETAIL, SHORT_PLATE = 0.229, 0.076
#: rad: the tilt that the moment is given for.
TILT = math.radians(10.0)
#: m off the balance that nobody feels on a head; common practice.
FELT = 0.002
#: m: half the breadth of a head's clamp, how far aside a CG may lie there; common practice.
_CLAMP = 0.030
#: m: half the length and breadth of what stands below the clamp; assumed.
_HEAD = 0.060
#: m: parts whose undersides differ by less stand on a table together.
_LEVEL = 0.001
#: m: what is narrower is a line, and carries nothing that is not held; common practice.
_LINE = 0.005
#: Corners over which a rig that falls is followed to where it comes to rest.
_ROLLS = 100


class TripodSettings(Struct, Settings, frozen=True):
    """The head: `travel` (m) of the plate in its clamp in all, `slid` (m) how far forward the rig stands in it now.

    `plate` is the placed part that the clamp holds, "" for the usual one. `axis_below` (m) is how far below the clamp
    the head tilts. `counter` (N m) is the greatest counterbalance, None where nobody has entered it, in `steps` equal
    steps, 0 for a continuous one. `height` (m) of the clamp above the ground; `seated` who looks at the screen.
    """

    plate: str = ""
    travel: float = LONG_DOVETAIL
    slid: float = 0.0
    axis_below: float = 0.06
    counter: float | None = None
    steps: float = 0.0
    height: float = 1.40
    seated: float = 0.0
    kind: Literal["tripod"] = "tripod"

    BOUNDS: ClassVar[Mapping[str, Bound]] = {
        "travel": Bound(0.0, 1.0, "The plate's travel", "m"),
        "axis_below": Bound(0.0, 0.5, "The tilt axis below the clamp", "m"),
        "counter": Bound(0.1, 200.0, "The head's counterbalance", "N·m"),
        "steps": Bound(0.0, 100.0, "Steps of the counterbalance"),
        "height": Bound(0.05, 3.0, "The clamp's height", "m"),
        "seated": Bound(0.0, 1.0, "Whether the operator sits"),
    }

    def __post_init__(self) -> None:
        check_line(self.plate, "The part that the clamp holds")
        check_bounds(self, self.BOUNDS)
        check_number(
            self.slid, -self.travel / 2.0 - ROUNDING, self.travel / 2.0 + ROUNDING, "Where the plate stands", "m"
        )


def tripod_of(build: Build) -> TripodSettings:
    """Return a build's tripod, now or if it were put on one."""
    found = settings_of(build, "tripod")
    assert isinstance(found, TripodSettings)
    return found


class HeadFinding(StrEnum):
    """What there is to look at on a tripod alone."""

    MEETS_HEAD = "meets the head"
    OVER_COUNTER = "over the counterbalance"


class HeadGauge(StrEnum):
    """Figures of the verdict on a tripod alone, SI."""

    LEFT = "CG to the left"
    TILTING = "tilting moment at 10 degrees"
    WANTS = "counterbalance that it wants"


class Clamp(Struct, frozen=True):
    """Where the head holds the rig: the clamp's middle `point` (3,) (m, rig frame) under part number `part`."""

    point: np.ndarray
    middle: np.ndarray
    part: int
    usual: bool


class Resting(Struct, frozen=True, eq=False):
    """A rig on its lowest points on a table: whether it `stands`, and by how much.

    `angle` (rad) is the tilt at which it goes over its nearest edge, negative if it tips by itself; `edge` (2, 2) (m,
    rig frame, from above) that edge; `over` numbers the parts that it stands on.
    """

    stands: bool
    angle: float
    edge: np.ndarray
    over: tuple[int, ...]


class OnTripod(Struct, frozen=True, eq=False):
    """How a rig lies on the head: the clamp; how far (m) to `slide` it forward to balance, and what is `short` of that.

    `height` (m) of the CG above the tilt axis; `tilting` (N m) about it, 10 degrees nose down, positive nose falls;
    `wants` (N m) the counterbalance that holds it in any tilt, `step` the nearest there is. `table` is how it rests
    without the tripod, None if no part has a size;
    `folded` is how with what folds away, where that is better. `screen` (m) is its screen's height above the ground.
    """

    clamp: Clamp
    slide: float
    short: float
    height: float
    tilting: float
    wants: float
    step: float | None
    table: Resting | None
    folded: Resting | None
    screen: float | None


def on_tripod_of(analysis: Analysis) -> OnTripod | None:
    """Return how a rig lies on a tripod, None on another support or without anything that a clamp could hold."""
    return analysis.more if isinstance(analysis.more, OnTripod) else None


def clamp_of(assembly: Assembly, positions: Positions, build: Build) -> Clamp | None:
    """Return where the head's clamp is: under the chosen part, else the lowest plate, else the camera or cage.

    None if no such part has a size.
    """
    settings = tripod_of(build)
    sized = np.flatnonzero(assembly.sized).tolist()
    of_kind: dict[Category, list[int]] = {}
    for k in sized:
        of_kind.setdefault(assembly.parts[k].category, []).append(k)
    chosen = [k for k in sized if build.parts[k].id == settings.plate] if settings.plate else []
    for several, usual in (
        (chosen, False),
        *((of_kind.get(kind, []), True) for kind in (Category.PLATE, Category.CAGE, Category.BODY)),
    ):
        if several:
            part = min(several, key=lambda k: float(positions.centre[k, 2] - assembly.edges[k, 2]))
            middle = positions.centre[part] - np.array([0.0, 0.0, assembly.edges[part, 2]])
            return Clamp(middle - np.array([settings.slid, 0.0, 0.0]), middle, part, usual)
    return None


def tilting_moment(weight: float, ahead: float, height: float, tilt: float) -> float:
    """Return the moment (N m) about a head's tilt axis, `tilt` (rad) nose down: ``W (dx cos t + dz sin t)``.

    `ahead` and `height` (m) are the CG's from the axis, level.
    """
    return weight * (ahead * math.cos(tilt) + height * math.sin(tilt))


def nearest_step(wants: float, settings: TripodSettings) -> float | None:
    """Return the counterbalance (N m) of the head that is nearest to what a rig wants, None if none was entered."""
    if settings.counter is None:
        return None
    wants = min(max(wants, 0.0), settings.counter)
    if settings.steps < 1.0:
        return wants
    each = settings.counter / settings.steps
    return round(wants / each) * each


#: What can be folded up or turned away before a rig is put down; common practice.
_FOLDS = frozenset({Category.GRIP, Category.HANDLE, Category.MONITOR, Category.ARM})


def folded(assembly: Assembly, positions: Positions, body: MassProperties, table: Resting) -> Resting | None:
    """Return how it rests with all that it stands on and that folds away out of the way, None where that is no better.

    What is folded goes no lower than the rest; its mass is taken to stay where it is.
    """
    gone = frozenset(k for k in table.over if assembly.parts[k].category in _FOLDS)
    better = resting(assembly, positions, body, gone) if gone else None
    return better if better is not None and better.angle > table.angle + math.radians(1.0) else None


def resting(
    assembly: Assembly, positions: Positions, body: MassProperties, without: frozenset[int] = frozenset()
) -> Resting | None:
    """Return how a rig stands on a table on its lowest points: the CG inside their hull, from above, or it tips.

    Parts numbered in `without` are out of the way. Its points are the true corners of the parts' boxes, as they are
    turned; what touches in a point or a line does not stand.

    The tilt over an edge is atan2(distance inside it, height): Meriam and Kraige, Statics, ch. 6. None without sizes.
    """
    corners, part = _corners(assembly, positions, without)
    if not len(corners):
        return None
    return _rests(corners, part, body.cg, np.eye(3))


def _corners(
    assembly: Assembly, positions: Positions, without: frozenset[int] = frozenset()
) -> tuple[np.ndarray, np.ndarray]:
    """Return the corners (c, 3) (m, rig frame) of all parts but those `without`, and whose each is (c,)."""
    there = assembly.sized.copy()
    there[list(without)] = False
    parts = np.flatnonzero(there)
    return all_corners(assembly, positions, parts).reshape(-1, 3), np.repeat(parts, 8)


def _rests(corners: np.ndarray, part: np.ndarray, cg: np.ndarray, turn: np.ndarray) -> Resting:
    """Return how a rig turned by `turn` (3, 3) stands on its lowest corners (c, 3), those of `part` (c,)."""
    points, middle = corners @ turn.T, turn @ cg
    floor = float(points[:, 2].min())
    low = points[:, 2] <= floor + _LEVEL
    over = tuple(sorted(set(part[low].tolist())))
    hull = convex_hull(points[low, :2]) if int(low.sum()) > 1 else points[low, :2]
    hull = hull if len(hull) else points[low, :2][:1]
    height = float(middle[2]) - floor
    if len(hull) < 3 or _breadth(hull) < _LINE:
        # The nearest of its points is what it falls over.
        off = middle[:2] - hull
        nearest = hull[int((off * off).sum(axis=1).argmin())]
        away = float(np.hypot(*(middle[:2] - nearest)))
        return Resting(False, -math.atan2(away, height), np.array([hull[0], hull[-1]]), over)
    inside, edge = edge_distance(hull, middle[:2])
    return Resting(inside >= 0.0, math.atan2(inside, height), edge, over)


def _breadth(hull: np.ndarray) -> float:
    """Return the least width (m) of a hull (m, 2): across one of its sides (rotating calipers)."""
    ways = np.roll(hull, -1, axis=0) - hull
    across = np.stack([-ways[:, 1], ways[:, 0]], axis=1) / np.hypot(ways[:, 0], ways[:, 1])[:, None]
    reach = hull @ across.T
    return float((reach.max(axis=0) - reach.min(axis=0)).min())


def settles(assembly: Assembly, positions: Positions, body: MassProperties) -> Resting | None:
    """Return how a rig that does not stand as it is put down comes to rest: on the face that it rolls on to.

    With `down` pointing to the table the CG is ``max (v - c) . down`` above it, over all corners v. It rolls the way in
    which that falls fastest: over the corners that touch, the point nearest to zero of the hull of their gradients
    (Wolfe, Math. Programming 11 (1976) 128), until another corner touches. None if it stands, or comes to no rest.
    """
    first = resting(assembly, positions, body)
    if first is None or first.stands:
        return None
    corners, part = _corners(assembly, positions)
    off = corners - body.cg
    down = np.array([0.0, 0.0, -1.0])
    for _ in range(_ROLLS):
        reach = off @ down
        touch = off[reach >= reach.max() - SLIGHT]
        flat = touch - np.outer(touch @ down, down)
        least = _nearest_zero(flat)
        size = float(np.linalg.norm(least))
        if size < ROUNDING:
            return None  # it balances on what it touches
        way = -least / size
        pivot = touch[int((touch @ way).argmax())]
        falls, comes = -(off - pivot) @ down, (off - pivot) @ way
        angles = np.where(comes > ROUNDING, np.arctan2(falls, comes), np.inf)
        angles[angles < ROUNDING] = np.inf
        turn = float(angles.min())
        if not math.isfinite(turn):
            return None
        down = math.cos(turn) * down + math.sin(turn) * way
        down /= np.linalg.norm(down)
        found = _rests(corners, part, body.cg, _turned_down(down))
        if found.stands:
            return found
    return None


def _nearest_zero(points: np.ndarray) -> np.ndarray:
    """Return the point (3,) nearest to zero of the hull of `points` (n, 3), which lie in a plane through zero."""
    best: np.ndarray = points[int((points * points).sum(axis=1).argmin())]
    least = float(best @ best)
    for k in range(len(points)):
        for other in points[:k]:
            way = points[k] - other
            long = float(way @ way)
            share = 0.0 if long < ROUNDING**2 else min(max(-float(other @ way) / long, 0.0), 1.0)
            there = other + share * way
            if float(there @ there) < least:
                best, least = there, float(there @ there)
    return best


def _turned_down(normal: np.ndarray) -> np.ndarray:
    """Return a turn (3, 3) that takes an outward `normal` (3,) straight down."""
    axis = np.cross(normal, [0.0, 0.0, -1.0])
    size = float(np.linalg.norm(axis))
    if size < ROUNDING:
        return np.eye(3) if normal[2] < 0.0 else np.diag([1.0, -1.0, -1.0])
    return rotation_about((float(axis[0]), float(axis[1]), float(axis[2])), math.atan2(size, -float(normal[2])))


def _depth_within(corners: np.ndarray, half: float) -> float:
    """Return how far (m) below zero a box's corners (8, 3) reach within a square column of half side `half` (m)."""
    points = box_within(corners, np.array([-half, -half, -np.inf]), np.array([half, half, np.inf]))
    return -float(points[:, 2].min()) if len(points) else 0.0


def _tilting(gauges: Gauges, draws: Draws) -> np.ndarray:
    stand, settings = gauges.analysis.stand, tripod_of(gauges.analysis.build)
    assert stand is not None
    d = draws.cg - stand.point
    weight = draws.mass * STANDARD_GRAVITY
    found: np.ndarray = weight * (d[:, 0] * math.cos(TILT) + (d[:, 2] + settings.axis_below) * math.sin(TILT))
    return found


def _wants(gauges: Gauges, draws: Draws) -> np.ndarray:
    stand, settings = gauges.analysis.stand, tripod_of(gauges.analysis.build)
    assert stand is not None
    found: np.ndarray = draws.mass * STANDARD_GRAVITY * (draws.cg[:, 2] - stand.point[2] + settings.axis_below)
    return found


#: The gauges' keys on the command line.
_KEYS: dict[str, str] = {
    Gauge.AHEAD: "offset_x_mm",
    HeadGauge.LEFT: "offset_y_mm",
    HeadGauge.TILTING: "tilting_moment_nm",
    HeadGauge.WANTS: "counterbalance_nm",
    Gauge.SLIDE: "slide_to_balance_mm",
}


class TripodSupport(Support):
    """The head's clamp; nobody carries the rig."""

    key = "tripod"
    usual = TripodSettings()
    braces = (Brace.NONE,)
    warnings = (
        FindingKind.CLASH,
        FindingKind.OUT_OF_TRAVEL,
        HeadFinding.MEETS_HEAD,
        HeadFinding.OVER_COUNTER,
        FindingKind.HEAVY_LENS,
    )
    leads = frozenset()
    watched = False
    gauges = MappingProxyType(
        {
            HeadGauge.LEFT: lambda gauges, draws: gauges.offset(draws)[:, 1],
            HeadGauge.TILTING: _tilting,
            HeadGauge.WANTS: _wants,
        }
    )
    carried = False
    lenses_by_camera = False
    steadies = False
    order = (
        Gauge.AHEAD,
        Gauge.SLIDE,
        HeadGauge.LEFT,
        Gauge.TIP_MOMENT,
        HeadGauge.TILTING,
        HeadGauge.WANTS,
        Gauge.MASS,
    )

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        return Hindrance.NOBODY

    def stand(
        self, assembly: Assembly, positions: Positions, body: MassProperties, build: Build, operator: Operator
    ) -> Stand | None:
        clamp = clamp_of(assembly, positions, build)
        if clamp is None:
            return None
        forward = AHEAD
        nobody = at_rest(operator, -clamp.point)
        return stand_at(assembly, positions, body, clamp.point, clamp.part, forward, (None, _CLAMP), nobody, None)

    def more(
        self,
        assembly: Assembly,
        positions: Positions,
        body: MassProperties,
        build: Build,
        operator: Operator,
        stand: Stand,
    ) -> OnTripod:
        settings, clamp = tripod_of(build), clamp_of(assembly, positions, build)
        assert clamp is not None
        weight = body.mass * STANDARD_GRAVITY
        # Slid forward the rig takes its CG along over a clamp that stays.
        slide = -stand.ahead
        room = settings.travel / 2.0 - math.copysign(1.0, slide) * settings.slid
        height = stand.above + settings.axis_below
        wants = weight * height
        screens = [k for k, part in enumerate(assembly.parts) if part.category is Category.MONITOR]
        screen = max((float(positions.centre[k, 2]) for k in screens), default=None)
        table = resting(assembly, positions, body)
        return OnTripod(
            clamp,
            slide,
            max(abs(slide) - room, 0.0),
            height,
            tilting_moment(weight, stand.ahead, height, TILT),
            wants,
            nearest_step(wants, settings),
            table,
            folded(assembly, positions, body, table) if table is not None else None,
            None if screen is None else settings.height + screen - float(clamp.point[2]),
        )

    def findings(self, analysis: Analysis, operator: Operator) -> tuple[Finding, ...]:
        on_it, assembly, positions = on_tripod_of(analysis), analysis.assembly, analysis.positions
        if on_it is None:
            return ()
        settings, point = tripod_of(analysis.build), on_it.clamp.point
        found = []
        below = point[2] - (positions.centre[:, 2] - assembly.edges[:, 2])
        beside = np.abs(positions.centre[:, :2] - point[:2]) - assembly.edges[:, :2]
        for k in np.flatnonzero(assembly.sized & (below > _LEVEL) & (beside < _HEAD).all(axis=1)).tolist():
            if k != on_it.clamp.part and assembly.parts[k].category is not Category.CABLE:
                deep = float(below[k])
                if not assembly.upright[k]:
                    # The box around a turned part says only that the part itself may reach down there.
                    deep = _depth_within(outline_corners(assembly, positions, k) - point, _HEAD)
                if deep > _LEVEL:
                    found.append(Finding(HeadFinding.MEETS_HEAD, (analysis.build.parts[k].id,), deep, limit=0.0))
        if settings.counter is not None and on_it.wants > settings.counter:
            at = (analysis.build.parts[on_it.clamp.part].id,)
            found.append(Finding(HeadFinding.OVER_COUNTER, at, on_it.wants, limit=settings.counter))
        return tuple(found)

    def slid(self, analysis: Analysis) -> Build | None:
        on_it, now = on_tripod_of(analysis), tripod_of(analysis.build).slid
        if on_it is None:
            return None
        then = slid_to(analysis.build, now + on_it.slide)
        felt = abs(on_it.slide) > FELT and not negligible(tripod_of(then).slid - now, SLIGHT)
        return then if felt else None

    def lens_settings(self, analysis: Analysis, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        from equilix.core.solver.lens_marks import OWN_SCALE, LensSetting, met_since

        power = _first(analysis, Category.BATTERY)
        battery = kit[power.part_id].name if power is not None else None
        return tuple(
            LensSetting(
                row.lens,
                ((OWN_SCALE, tripod_of(row.after.build).slid),),
                self.leaves(row.after),
                met_since(analysis, row.after),
            )
            for row in plate_marks(analysis, kit, operator)
            if not row.bare and row.battery in ("", battery)
        )

    def thresholds(self, analysis: Analysis, gauge: str) -> tuple[Threshold, ...]:
        return (Threshold(0.0, "balanced"),) if gauge == Gauge.AHEAD else ()

    def judge(self, analysis: Analysis, operator: Operator) -> Judged:
        on_it, gauges = on_tripod_of(analysis), gauges_of(analysis)
        if analysis.body is None:
            return Judged(hindrance="no mass")
        if on_it is None or gauges is None:
            return Judged(hindrance="no plate")
        figures = keyed(gauges, _KEYS)
        if on_it.table is not None:
            figures["stands"] = Figure(float(on_it.table.stands))
            assembly, positions, body = analysis.assembly, analysis.positions, analysis.body

            def tips(_mass: float, cg: np.ndarray) -> np.ndarray | None:
                found = resting(assembly, positions, changed(body, cg=cg))
                return None if found is None else np.array([found.angle])

            sure = unsure(analysis, tips)
            unsure_by = None if sure is None else math.degrees(float(sure[0]))
            figures["table_tip_deg"] = Figure(math.degrees(on_it.table.angle), unsure_by)
        part = analysis.assembly.parts[on_it.clamp.part].name
        said = (f"nobody chose a plate: the clamp holds the middle of {part}",) if on_it.clamp.usual else ()
        return Judged({"plate_mm": on_it.clamp.point}, figures, said=said)


class PlateMark(Struct, frozen=True, eq=False):
    """Where the plate must stand in the clamp: `mark` (m, forward +) for a lens, with or without what sits on it."""

    lens: str
    bare: bool
    battery: str
    mark: float
    short: float
    after: Analysis


def plate_marks(analysis: Analysis, kit: Kit, operator: Operator) -> tuple[PlateMark, ...]:
    """Return where the plate must stand for every lens of the kit in the place of the one on the build.

    With what sits on the lens and without, with each battery of the kit that fits in the place of the one that is on.
    """
    build = analysis.build
    lens, power = _first(analysis, Category.LENS), _first(analysis, Category.BATTERY)
    if lens is None:
        return ()
    packs: list[Part | None] = [part for part in kit.values() if part.category is Category.BATTERY and part.mass]
    if power is None or not packs:
        packs = [None]
    rows = []
    for pack in packs:
        for glass in kit.values():
            if glass.category is not Category.LENS or glass.mass is None:
                continue
            for bare in (False, True):
                other = _fitted(build, kit, lens, glass, bare, power, pack)
                if other is None:
                    continue
                found = analyse(other, kit, operator)
                on_it = on_tripod_of(found)
                if on_it is not None:
                    mark = tripod_of(other).slid + on_it.slide
                    after = analyse(slid_to(other, mark), kit, operator, found)
                    battery = pack.name if pack is not None else ""
                    rows.append(PlateMark(glass.name, bare, battery, mark, on_it.short, after))
    # What sits on no lens makes no difference without it.
    return tuple({(row.lens, row.bare, row.battery, row.mark, row.short): row for row in rows}.values())


def _first(analysis: Analysis, category: Category) -> Placed | None:
    pairs = zip(analysis.build.parts, analysis.assembly.parts, strict=True)
    return next((placed for placed, part in pairs if part.category is category), None)


def _fitted(
    build: Build, kit: Kit, lens: Placed, glass: Part, bare: bool, power: Placed | None, pack: Part | None
) -> Build | None:
    """Return the build with other glass and another battery, None if something doesn't fit."""
    gone = {i for i in build.carried_by(lens.id) if i != lens.id} if bare else set()
    swap = {lens.id: glass.id} | ({power.id: pack.id} if power is not None and pack is not None else {})
    used = {placed.part_id for placed in build.parts if placed.id not in swap and placed.id not in gone}
    if used & set(swap.values()):
        return None
    parts = tuple(
        changed(placed, part_id=swap.get(placed.id, placed.part_id)) for placed in build.parts if placed.id not in gone
    )
    try:
        other = changed(build, parts=parts)
        check_build(other, kit)
    except AssemblyError:
        return None
    return other


def slid_to(build: Build, mark: float) -> Build:
    """Return the build with its plate at another mark in the clamp, as far as it goes."""
    settings = tripod_of(build)
    half = settings.travel / 2.0
    return with_settings(build, changed(settings, slid=min(max(mark, -half), half)))


SUPPORT = TripodSupport()
