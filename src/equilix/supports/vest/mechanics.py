"""A vest with a spring arm that carries a sled: a post that hangs in a bearing, camera above, battery below.

The sled hangs from its bearing: level where its CG lies on the post, upright in a pan where its products of inertia are
zero besides, and the farther below the bearing its CG lies, the faster it falls from level. Moments and products are
linear in the slides or nearly so; the drop time is not.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from equilix.core.analysis import Analysis, Finding
from equilix.core.assembly.build import Hold, Kit, Operator
from equilix.core.frames import AHEAD, STANDARD_GRAVITY, X, Y, Z
from equilix.core.kit.parts import Category, MountKind
from equilix.core.measurement.lesson import CONTRADICTS
from equilix.core.operator.body import body_of
from equilix.core.operator.leaning import LOWEST_BELT, by_the_trunk, frame_share, low_back_moments
from equilix.core.records import TableHolder, WarningType
from equilix.core.rounding import negligible
from equilix.core.solver.plan import Form, Target
from equilix.core.solver.targets import ALLOWED, weight_of
from equilix.core.sources import common_practice, from_memory
from equilix.core.statics.equilibrium import Equilibrium, equilibrium_at
from equilix.core.statics.pose import Hindrance, Pose
from equilix.core.statics.sled import fastest_drop, hidden_lean, sled_of
from equilix.core.statics.spring_arm import floats, setting_for
from equilix.core.support import (
    CLASH,
    HEAVY_LENS,
    NO_LIMIT,
    ONE_SCREW,
    OUT_OF_TRAVEL,
    SCREEN,
    Figure,
    Placement,
    Report,
    Support,
)
from equilix.core.uncertainty.output_model import CG_AHEAD, SLIDE_TO_LEVEL, TIP_MOMENT, TOTAL_MASS, unsure
from equilix.core.units import Kind
from equilix.supports.vest.hanging import Bearing, VestCase, VestResult, bearing_of, posed_on, wearer_shift, worn_on
from equilix.supports.vest.outputs import (
    BACK,
    DROP,
    FASTEST,
    FASTEST_ASIDE,
    ON_VEST,
    PAN_INERTIA,
    PITCH,
    ROLL,
    WOBBLE,
    XZ,
    YZ,
    drop_tolerance,
    product_that_shows,
    upright,
    wished_lever,
)
from equilix.supports.vest.settings import USUAL, VestSettings
from equilix.supports.vest.timing import readings_of

if TYPE_CHECKING:
    from equilix.core.solver.lens_marks import LensSetting
    from equilix.core.solver.scales import LensMarks, WorkStep

#: m: a CG nearer to the bearing than this lies on it: it neither hangs nor falls.
ON_BEARING = common_practice(0.0005)
#: Of stature: how high a standing body's CG is above the ankles.
_BODY_CG = from_memory(0.53, "Winter (2009)")


TOP_HEAVY = WarningType(
    "top-heavy",
    "the sled turns over",
    ("The CG is {amount} above the bearing: the sled turns over. Raise the bearing, or move weight down."),
    Kind.LENGTH,
    leads=True,
)
CG_ON_BEARING = WarningType(
    "CG on the bearing",
    "the CG lies on the bearing",
    "The CG lies on the bearing. Raise the bearing by a few millimetres.",
    least=True,
)
NO_DROP = WarningType(
    "no such drop",
    "no bearing height gives that drop time",
    "A drop of {amount} is not possible. This sled takes {limit} or more. Choose a slower one, or move weight inwards.",
    Kind.TIME,
    1,
    least=True,
)
LIMIT_WANTED = NO_LIMIT.on("Enter what the arm lifts, by its maker, in the build’s menu.", carried=True)
OVER_ARM = WarningType(
    "over the arm's lift",
    "the sled is over the arm’s range",
    "{amount} is {gap} over the arm’s {limit}. Take a part off, or use a larger arm.",
    Kind.MASS,
    leads=True,
    carried=True,
    makers=True,
)
UNDER_ARM = WarningType(
    "under the arm's lift",
    "the sled is under the arm’s range",
    "{amount} is {gap} under the arm’s {limit}: it stays at its top.",
    Kind.MASS,
    carried=True,
    least=True,
    makers=True,
)
ON_STOP = WarningType("the arm rests on its stop", "the arm rests on its stop", "", carried=True)
CONTRADICTED = WarningType(
    "a timed drop contradicts the masses",
    "the timed drop contradicts the masses",
    (
        "The timed drop is {amount} standard uncertainties from the parts’ figure. Time it again. "
        "Then measure the {short}, the likeliest cause."
    ),
)
NO_BATTERY = WarningType(
    "no battery on the base",
    "no battery is on the base",
    "No battery is below the bearing. Put it on the base.",
)
TWO_TO_LIFT = WarningType(
    "two to put it on",
    "two people must put it on",
    "With its arm it is {amount}. Two people put it on and take it off.",
    Kind.MASS,
    carried=True,
)
NO_RELEASE = WarningType(
    "quick release not known",
    "the quick release is untried",
    "Try the quick release with the sled on a stand. Then tick the box.",
    carried=True,
)


class VestSupport(Support[VestSettings, VestResult]):
    """A vest, a spring arm, a sled."""

    key = "vest"
    holder = TableHolder("bearing", (MountKind.BEARING,), ("static_pitch_deg", "static_roll_deg", "drop_time_s"))
    usual = USUAL
    result_type = VestResult
    hindrance = Hindrance.NO_BEARING.value
    outputs = (
        PITCH,
        ROLL,
        CG_AHEAD.on("cg_ahead_mm", upright),
        SLIDE_TO_LEVEL,
        DROP,
        WOBBLE,
        XZ,
        YZ,
        PAN_INERTIA,
        FASTEST,
        FASTEST_ASIDE,
        ON_VEST,
        BACK,
        TIP_MOMENT,
        TOTAL_MASS,
    )
    warned = (
        TOP_HEAVY,
        OVER_ARM,
        SCREEN.on(leads=True),
        CG_ON_BEARING,
        CLASH,
        OUT_OF_TRAVEL,
        LIMIT_WANTED,
        CONTRADICTED,
        NO_DROP,
        ONE_SCREW,
        ON_STOP,
        UNDER_ARM,
        NO_BATTERY,
        HEAVY_LENS,
        TWO_TO_LIFT,
        NO_RELEASE,
    )
    by_inertia = True
    gains_from_mass = False
    lenses_by_camera = False

    def balancing(self, analysis: Analysis) -> frozenset[str] | None:
        """Return all slides that move mass against the bearing, but those that only focus and grips are set by."""
        assembly = analysis.assembly
        found = set()
        fixed = _SET_APART | self.immovable
        for j, i in enumerate(assembly.slide_parts):
            mount = assembly.slide_mounts[j]
            carried = {assembly.parts[k].category for k in np.flatnonzero(assembly.carried_by(j)).tolist()}
            if mount.goes and carried - fixed:
                found.add(analysis.build.parts[i].id)
        return frozenset(found)

    def scales(self, case: VestCase) -> frozenset[str] | None:
        return self.balancing(case.analysis)

    def remaining(self, case: VestCase) -> float:
        """Return the moment (N m) that the CG beside the post turns the sled by."""
        return case.result.sled.weight * math.hypot(*case.result.sled.offset[:2].tolist())

    def lens_settings(self, case: VestCase, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        from equilix.core.solver.lens_marks import of_steps

        return of_steps(case.analysis, lens_marks(case.analysis, kit))

    def missed(self, case: VestCase) -> bool:
        """Return whether the drop time is off what is wished."""
        time = case.result.sled.drop_time
        return time is None or not negligible(time - case.settings.drop, case.settings.room)

    def working_order(self, case: VestCase) -> tuple[str, ...]:
        return tuple(step.placed_id for step in order_of_work(case.analysis) if step.placed_id)

    def observed(self, case: VestCase) -> tuple[tuple[str, float], ...]:
        lesson = case.settings.lesson(case.body.mass)
        if lesson is None or lesson.parted > CONTRADICTS:
            return ()
        return tuple((reading.output, reading.u) for reading in readings_of(lesson))

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        settings = self.settings(analysis.build)
        bearing = bearing_of(analysis.assembly, analysis.positions, settings.bearing)
        if bearing is None:
            return Hindrance.NO_BEARING
        if analysis.body is None:
            return Hindrance.NO_MASS
        return posed_on(analysis.body, bearing, settings, operator)

    def equilibrium(self, placed: Placement[VestSettings]) -> tuple[Equilibrium, VestResult] | None:
        body, settings, operator = placed.body, placed.settings, placed.operator
        bearing = bearing_of(placed.assembly, placed.positions, settings.bearing)
        if bearing is None:
            return None
        posed, lesson = posed_on(body, bearing, settings, operator), settings.lesson(body.mass)
        # A CG that was measured elsewhere is a bearing that lies elsewhere, seen from the parts.
        point = bearing.point if lesson is None else bearing.point - np.array(lesson.shift)
        at, room = (placed.assembly, placed.positions, body, point), (None, None)
        equilibrium = equilibrium_at(*at, bearing.part, AHEAD, room, posed, None)
        back, aside = wearer_shift(settings, body.mass, operator)
        arm = None
        if settings.set_for is not None:
            arm = floats(body.mass, settings.set_for, settings.evenness, settings.lift)
        worn, frame = worn_on(settings, body.mass, operator), body_of(operator)
        (bends, sways), (eased, _) = (
            low_back_moments(frame, worn, pose.frame_share, pose.stance.lean) for pose in (posed, posed.eased or posed)
        )
        return equilibrium, VestResult(
            bearing,
            sled_of(body, point, 0.0 if lesson is None else lesson.more_inertia),
            arm,
            STANDARD_GRAVITY * (body.mass + settings.arm_mass),
            float(bends),
            float(eased),
            float(sways),
            (back, aside),
            posed.stance.lean.ankles,
        )

    def target(self, case: VestCase) -> Target | None:
        """Return the CG on the post and so far below the bearing that it falls as wished, and no products of inertia.

        Level to what the bearing's friction hides; upright in the pan that wobble is told for to what shows.
        """
        analysis, equilibrium, settings, sled = case.analysis, case.equilibrium, case.settings, case.result.sled
        holder = analysis.build.parts[equilibrium.holder].id
        lever = wished_lever(settings, sled)
        # What lies beside the bearing is part of the way to the CG, once it is nearly below it.
        beside = float(sled.offset[X])
        down = math.sqrt(lever * lever - beside * beside) if abs(beside) < 0.5 * lever else lever
        least = max(settings.friction, 1e-4) / STANDARD_GRAVITY

        def form(name: str, way: int, allowed: float, **more: object) -> Form:
            return Form(name, np.eye(3)[way], tolerance=allowed, weight=weight_of(allowed), holder=holder, **more)  # type: ignore[arg-type]

        forms = [form("sled x", X, least, point=equilibrium.point), form("sled y", Y, least, point=equilibrium.point)]
        if settings.dynamic:
            away = analysis.positions.cg - equilibrium.point
            frozen = tuple((p.id, float(z)) for p, z in zip(analysis.build.parts, away[:, Z], strict=True))
            own = analysis.assembly.own_inertia
            for name, way in (("spin x", X), ("spin y", Y)):
                most = product_that_shows(settings, sled, lever, way)
                # The sum of m x z is the product of inertia without its minus sign.
                of_parts = -float(own[way, Z])
                forms.append(
                    form(name, way, most, point=equilibrium.point, lever=np.eye(3)[Z], offset=of_parts, frozen=frozen)
                )
        place = equilibrium.point - np.array([0.0, 0.0, down])
        forms.append(form("drop z", Z, sled.mass * drop_tolerance(settings, sled, lever), point=place))
        return Target(equilibrium.point, holder, tuple(forms), ALLOWED, closely=True, curved=True)

    def findings(self, case: VestCase, operator: Operator) -> list[Finding]:
        from equilix.core.statics.screws import one_screws

        analysis, body, spread, bearing = case.analysis, case.body, case.spread, case.result.bearing
        settings, sled = case.settings, case.result.sled
        ids = [placed.id for placed in case.build.parts]
        at = (ids[bearing.part],)
        u = float(spread.cg[2])
        found = []
        if sled.below < -ON_BEARING:
            found.append(Finding(TOP_HEAVY, at, -sled.below, u, limit=0.0))
        elif sled.below < ON_BEARING:
            found.append(Finding(CG_ON_BEARING, at, sled.below, u, limit=ON_BEARING))
        fastest = fastest_drop(sled.mass, sled.swing)
        if settings.drop < fastest:
            found.append(Finding(NO_DROP, at, settings.drop, limit=fastest))
        found += self.load_findings(settings, body.mass, spread.mass, at)
        lesson = settings.lesson(body.mass)
        if lesson is not None and lesson.parted > CONTRADICTS:
            suspect = (lesson.suspect,) if lesson.suspect in ids else at
            found.append(Finding(CONTRADICTED, suspect, lesson.parted, limit=CONTRADICTS))
        if _bare_base(analysis, bearing):
            found.append(Finding(NO_BATTERY, at))
        found += [
            Finding(ONE_SCREW, (ids[one.part],), one.moment, limit=one.holds)
            for one in one_screws(analysis.assembly, analysis.positions, bearing.part)
        ]
        return found

    def load_findings(self, settings: VestSettings, mass: float, u: float, at: tuple[str, ...]) -> list[Finding]:
        found = []
        if settings.most is None:
            found.append(Finding(LIMIT_WANTED, at, mass, u))
        elif mass > settings.most:
            found.append(Finding(OVER_ARM, at, mass, u, limit=settings.most))
        if settings.least is not None and mass < settings.least:
            found.append(Finding(UNDER_ARM, at, mass, u, limit=settings.least))
        if settings.set_for is not None:
            arm = floats(mass, settings.set_for, settings.evenness, settings.lift)
            if arm.over != 0.0:
                found.append(Finding(ON_STOP, at, arm.over, u, limit=0.0))
        worn = mass + settings.arm_mass
        if worn > settings.second:
            found.append(Finding(TWO_TO_LIFT, at, worn, u, limit=settings.second))
        if not settings.release:
            found.append(Finding(NO_RELEASE, at))
        return found

    def table_figures(self, case: VestCase, figures: dict[str, float | None]) -> dict[str, object]:
        inertia = case.body.inertia
        return {**figures, "pan_products_kg_m2": [float(inertia[X, Z]), float(inertia[Y, Z])]}

    def report(self, case: VestCase, operator: Operator, figures: dict[str, Figure]) -> Report:
        for key in ("drop_time_s", "fastest_pan_deg_s", "fastest_pan_aside_deg_s", "wobble_deg"):
            # There is none: it turns over, or no pan unseats it.
            figures.setdefault(key, Figure(math.nan))
        analysis, body, settings, bearing = case.analysis, case.body, case.settings, case.result.bearing

        def others(mass: float, cg: np.ndarray) -> np.ndarray:
            """Return what the arm and its wearer do with a sled of that mass, and what friction hides."""
            back, aside = wearer_shift(settings, mass, operator)
            worn, upright = worn_on(settings, mass, operator), body_of(operator)
            bends, sways = low_back_moments(upright, worn, frame_share(settings.belt or 0.0))
            low = frame_share(LOWEST_BELT if settings.belt is None else settings.belt)
            eased, _ = low_back_moments(upright, worn, low, by_the_trunk(upright, worn))
            hides = hidden_lean(settings.friction, mass * STANDARD_GRAVITY, float(bearing.point[Z] - cg[Z]))
            set_for = settings.set_for or mass
            height = floats(mass, set_for, settings.evenness, settings.lift).height
            moments = [float(bends), float(eased), float(sways)]
            return np.array([*moments, 1e3 * back, 1e3 * aside, math.degrees(hides), 1e3 * height])

        said_of = others(body.mass, body.cg)
        sure = unsure(analysis, others, said_of)
        assert sure is not None
        back = ("l5s1_moment_nm", "l5s1_moment_least_nm", "l5s1_side_nm")
        names = (*back, "wearer_back_mm", "wearer_aside_mm", "hidden_lean_deg", "floats_mm")
        for name, value, u in zip(names, said_of.tolist(), sure.tolist(), strict=True):
            if name != "floats_mm" or settings.set_for is not None:
                figures[name] = Figure(value, u)
        said = []
        if bearing.usual:
            said.append(f"no bearing is on it: it hangs from {analysis.assembly.parts[bearing.part].name}")
        if settings.timed is not None and settings.lesson(body.mass) is None:
            said.append("the readings were of other parts: time it again")
        return Report({"bearing_mm": bearing.point}, figures, said=tuple(said))


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


def _bare_base(analysis: Analysis, bearing: Bearing) -> bool:
    """Whether a sled has no battery below its bearing."""
    parts = analysis.assembly.parts
    if not any(part.category is Category.SLED for part in parts):
        return False
    low = analysis.positions.cg[:, Z] < bearing.point[Z]
    return not any(part.category is Category.BATTERY and low[i] for i, part in enumerate(parts))


# The arm's setting


def springs_for(analysis: Analysis) -> float | None:
    """Return what (kg) the arm's springs must be set for to float the sled where it shall; None without a mass."""
    settings, body = SUPPORT.settings(analysis.build), analysis.body
    return None if body is None else setting_for(body.mass, settings.wanted, settings.evenness, settings.lift)


def order_of_work(analysis: Analysis) -> tuple[WorkStep, ...]:
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


SUPPORT = VestSupport()
