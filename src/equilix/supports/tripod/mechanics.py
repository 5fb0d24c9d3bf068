"""A tripod, where a rig rests between takes: its plate in the head's clamp, the head's counterbalance, and a table.

On the head the CG shall lie over the middle of the clamp, fore and aft by sliding the plate; what is left tilts it by
its height alone, and the head's spring holds that. On a table a rig stands on its lowest points, or tips.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, TypeAlias

import numpy as np
from msgspec import Struct
from msgspec.structs import replace as changed

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding
from equilix.core.assembly.build import Build, Hold, Kit, Operator, Placed, check_build
from equilix.core.assembly.resolve import Assembly, Positions, outline_corners
from equilix.core.chosen import with_settings
from equilix.core.errors import AssemblyError
from equilix.core.frames import AHEAD, STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Part
from equilix.core.records import Output, Threshold, WarningType
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.solver.choices import first_placed
from equilix.core.sources import assumed, common_practice
from equilix.core.statics.equilibrium import Equilibrium, SupportResult, equilibrium_at
from equilix.core.statics.pose import Hindrance, Pose, at_rest
from equilix.core.support import CLASH, HEAVY_LENS, OUT_OF_TRAVEL, Case, Figure, Placement, Report, Support
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
from equilix.supports.tripod.settings import USUAL, TripodSettings
from equilix.supports.tripod.table import LEVEL, Resting, depth_within, folded, nearest_step, resting

if TYPE_CHECKING:
    from equilix.core.solver.lens_marks import LensSetting

#: rad: the tilt that the moment is given for.
TILT = math.radians(10.0)
#: m off the balance that nobody feels on a head.
FELT = common_practice(0.002)
#: m: half the breadth of a head's clamp, how far aside a CG may lie there.
_CLAMP = common_practice(0.030)
#: m: half the length and breadth of what stands below the clamp.
_HEAD = assumed(0.060)


MEETS_HEAD = WarningType(
    "meets the head",
    "{} hits the head",
    ("{part} reaches {amount} below the plate and hits the head. Fold it away, or clamp another plate."),
    Kind.LENGTH,
    serious=True,
)
OVER_COUNTER = WarningType(
    "over the counterbalance",
    "the counterbalance is too weak",
    "The rig needs {amount} of counterbalance. The head gives {limit}. Tilted, it falls by itself.",
    Kind.MOMENT,
)


class Clamp(Struct, frozen=True):
    """Where the head holds the rig: the clamp's middle `point` (3,) (m, rig frame) under part number `part`."""

    point: np.ndarray
    middle: np.ndarray
    part: int
    usual: bool


class TripodResult(Struct, SupportResult, frozen=True, eq=False):
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


TripodCase: TypeAlias = Case[TripodSettings, TripodResult]


def clamp_of(assembly: Assembly, positions: Positions, build: Build, settings: TripodSettings) -> Clamp | None:
    """Return where the head's clamp is: under the chosen part, else the lowest plate, else the camera or cage.

    None if no such part has a size.
    """
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


# Outputs


def _tilting(outputs: OutputModel, samples: Samples) -> np.ndarray:
    d, weight = outputs.offset(samples), samples.mass * STANDARD_GRAVITY
    height = d[:, 2] + outputs.case.settings.axis_below
    found: np.ndarray = weight * (d[:, 0] * math.cos(TILT) + height * math.sin(TILT))
    return found


def _wants(outputs: OutputModel, samples: Samples) -> np.ndarray:
    height = outputs.offset(samples)[:, 2] + outputs.case.settings.axis_below
    found: np.ndarray = samples.mass * STANDARD_GRAVITY * height
    return found


LEFT = Output(
    "CG to the left", Kind.LENGTH, lambda outputs, samples: outputs.offset(samples)[:, 1], "offset_y_mm", signed=True
)
TILTING = Output("tilting moment at 10 degrees", Kind.MOMENT, _tilting, "tilting_moment_nm", signed=True)
WANTS = Output("counterbalance it needs", Kind.MOMENT, _wants, "counterbalance_nm")


class TripodSupport(Support[TripodSettings, TripodResult]):
    """The head's clamp; nobody carries the rig."""

    key = "tripod"
    usual = USUAL
    # Nobody carries it.
    removable = frozenset({Category.PAD, Category.GRIP})
    result_type = TripodResult
    hindrance = "no plate"
    outputs = (
        CG_AHEAD.on("offset_x_mm", lambda _: (Threshold(0.0, "balanced"),)),
        SLIDE_TO_LEVEL.on("slide_to_balance_mm"),
        LEFT,
        TIP_MOMENT,
        TILTING,
        WANTS,
        TOTAL_MASS,
    )
    warned = (CLASH, OUT_OF_TRAVEL, MEETS_HEAD, OVER_COUNTER, HEAVY_LENS)
    watched = False
    carried = False
    lenses_by_camera = False
    gains_from_mass = False

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        return Hindrance.NOBODY

    def equilibrium(self, placed: Placement[TripodSettings]) -> tuple[Equilibrium, TripodResult] | None:
        assembly, positions, body = placed.assembly, placed.positions, placed.body
        clamp = clamp_of(assembly, positions, placed.build, placed.settings)
        if clamp is None:
            return None
        nobody = at_rest(placed.operator, -clamp.point)
        equilibrium = equilibrium_at(
            assembly, positions, body, clamp.point, clamp.part, AHEAD, (None, _CLAMP), nobody, None
        )
        return equilibrium, self._result(placed, clamp, equilibrium)

    def _result(self, placed: Placement[TripodSettings], clamp: Clamp, equilibrium: Equilibrium) -> TripodResult:
        assembly, positions, body, settings = placed.assembly, placed.positions, placed.body, placed.settings
        weight = body.mass * STANDARD_GRAVITY
        # Slid forward the rig takes its CG along over a clamp that stays.
        slide = -equilibrium.ahead
        room = settings.travel / 2.0 - math.copysign(1.0, slide) * settings.slid
        height = equilibrium.above + settings.axis_below
        wants = weight * height
        screens = [k for k, part in enumerate(assembly.parts) if part.category is Category.MONITOR]
        screen = max((float(positions.centre[k, 2]) for k in screens), default=None)
        table = resting(assembly, positions, body)
        return TripodResult(
            clamp,
            slide,
            max(abs(slide) - room, 0.0),
            height,
            tilting_moment(weight, equilibrium.ahead, height, TILT),
            wants,
            nearest_step(wants, settings),
            table,
            folded(assembly, positions, body, table) if table is not None else None,
            None if screen is None else settings.height + screen - float(clamp.point[2]),
        )

    def findings(self, case: TripodCase, operator: Operator) -> list[Finding]:
        assembly, positions, clamp = case.analysis.assembly, case.analysis.positions, case.result.clamp
        counter, point, parts = case.settings.counter, clamp.point, case.build.parts
        found = []
        below = point[2] - (positions.centre[:, 2] - assembly.edges[:, 2])
        beside = np.abs(positions.centre[:, :2] - point[:2]) - assembly.edges[:, :2]
        for k in np.flatnonzero(assembly.sized & (below > LEVEL) & (beside < _HEAD).all(axis=1)).tolist():
            if k != clamp.part and assembly.parts[k].category is not Category.CABLE:
                deep = float(below[k])
                if not assembly.upright[k]:
                    # The box around a turned part says only that the part itself may reach down there.
                    deep = depth_within(outline_corners(assembly, positions, k) - point, _HEAD)
                if deep > LEVEL:
                    found.append(Finding(MEETS_HEAD, (parts[k].id,), deep, limit=0.0))
        if counter is not None and case.result.wants > counter:
            found.append(Finding(OVER_COUNTER, (parts[clamp.part].id,), case.result.wants, limit=counter))
        return found

    def with_slide(self, case: TripodCase) -> Build | None:
        slide, now = case.result.slide, case.settings.slid
        then = slid_to(case.build, now + slide)
        felt = abs(slide) > FELT and not negligible(self.settings(then).slid - now, SLIGHT)
        return then if felt else None

    def lens_settings(self, case: TripodCase, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        from equilix.core.solver.lens_marks import OWN_SCALE, LensSetting, met_since

        power = first_placed(case.build, kit, Category.BATTERY)
        battery = kit[power.part_id].name if power is not None else None
        found = []
        for row in plate_marks(case.analysis, kit, operator):
            after = self.case(row.after)
            if after is not None and not row.bare and row.battery in ("", battery):
                marks = ((OWN_SCALE, after.settings.slid),)
                met = met_since(case.analysis, row.after)
                found.append(LensSetting(row.lens, marks, self.remaining(after), met))
        return tuple(found)

    def report(self, case: TripodCase, operator: Operator, figures: dict[str, Figure]) -> Report:
        analysis, clamp, table = case.analysis, case.result.clamp, case.result.table
        assembly, positions = analysis.assembly, analysis.positions
        if table is not None:
            figures["stands"] = Figure(float(table.stands))

            def tips(_mass: float, cg: np.ndarray) -> np.ndarray | None:
                found = resting(assembly, positions, changed(case.body, cg=cg))
                return None if found is None else np.array([found.angle])

            sure = unsure(analysis, tips)
            unsure_by = None if sure is None else math.degrees(float(sure[0]))
            figures["table_tip_deg"] = Figure(math.degrees(table.angle), unsure_by)
        said = (f"no plate is chosen: the clamp holds the middle of {assembly.parts[clamp.part].name}",)
        return Report({"plate_mm": clamp.point}, figures, said=said if clamp.usual else ())


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
    lens, power = (first_placed(build, kit, one) for one in (Category.LENS, Category.BATTERY))
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
                case = SUPPORT.case(found)
                if case is not None:
                    mark = case.settings.slid + case.result.slide
                    after = analyse(slid_to(other, mark), kit, operator, found)
                    battery = pack.name if pack is not None else ""
                    rows.append(PlateMark(glass.name, bare, battery, mark, case.result.short, after))
    # What sits on no lens makes no difference without it.
    return tuple({(row.lens, row.bare, row.battery, row.mark, row.short): row for row in rows}.values())


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
    settings = SUPPORT.settings(build)
    half = settings.travel / 2.0
    return with_settings(build, changed(settings, slid=min(max(mark, -half), half)))


SUPPORT = TripodSupport()
