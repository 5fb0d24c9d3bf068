"""A powered gimbal: three stages that turn in each other, each balanced about its own axis.

Tilt turns inside roll, roll inside pan. Gravity turns a stage whose CG lies beside its axis, and the motor must hold
that for as long as the stage stands so: balance is what the motors don't have to do. With the frame level pan has no
torque at all, so two leans of the frame tell where its CG is.
"""

from __future__ import annotations

import math
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from equilix.core.analysis import Analysis, Finding
from equilix.core.assembly.build import Build, Hold, Kit, Operator
from equilix.core.cache import cached_for_rig
from equilix.core.frames import AHEAD, STANDARD_GRAVITY
from equilix.core.kit.parts import Category, MountKind
from equilix.core.records import TableHolder, WarningType
from equilix.core.registry import support_for
from equilix.core.solver.plan import Form, Target
from equilix.core.solver.targets import ALLOWED, weight_of
from equilix.core.sources import common_practice
from equilix.core.statics.equilibrium import Equilibrium, equilibrium_at
from equilix.core.statics.pose import Hindrance, Pose, at_rest
from equilix.core.statics.stages import BESIDE, LEAN, NUMBER, Stages, Trouble, peak_torque
from equilix.core.statics.turning import Attitude
from equilix.core.support import CLASH, HEAVY_LENS, ONE_SCREW, OUT_OF_TRAVEL, Figure, Placement, Report, Support
from equilix.core.uncertainty.output_model import CG_AHEAD, SLIDE_TO_LEVEL, TIP_MOMENT, TOTAL_MASS
from equilix.core.units import Kind
from equilix.supports.gimbal.motors import gravity_torques, in_way
from equilix.supports.gimbal.outputs import (
    OUTPUT_OF,
    PAN_PEAK,
    PAN_X,
    PAN_Y,
    PAYLOAD,
    ROLL_PEAK,
    ROLL_Y,
    ROLL_Z,
    TILT_PEAK,
    TILT_Z,
    on_axis,
)
from equilix.supports.gimbal.settings import CARRIERS, USUAL, GimbalSettings
from equilix.supports.gimbal.stages import GimbalCase, beside_axis, passings, payload_of, stages_of, still_coached

if TYPE_CHECKING:
    from equilix.core.solver.lens_marks import LensSetting
    from equilix.core.solver.scales import LensMarks, WorkStep

#: m: farther from every part of its stage than this an axis was placed wrongly.
_OUTSIDE = common_practice(0.15)

OVER_PAYLOAD = WarningType(
    "over the payload",
    "the camera is over the gimbal’s payload",
    "The gimbal carries {amount}. Its maker allows {limit}. Take a part off, or use a larger gimbal.",
    Kind.MASS,
    leads=True,
    makers=True,
)
OVER_MOTOR = WarningType("beyond its motor", "a motor is too weak", "", Kind.MOMENT, leads=True, makers=True)
SWINGS_INTO = WarningType("swings into", "{} hits {}", "", Kind.LENGTH)
CABLES = WarningType(
    "several cables",
    "more than one cable crosses an axis",
    "{amount} cables cross an axis, and each pulls as it bends. Lead all but one off the camera.",
    None,
    -1,
)
AXIS_OUTSIDE = WarningType(
    "axis outside the rig",
    "an axis lies outside the rig",
    "The {short}'s axis lies {amount} from the parts that turn on it. Check its joint.",
    Kind.LENGTH,
)


class GimbalSupport(Support[GimbalSettings, Stages]):
    """Three motors about three axes; who carries it stands beside."""

    key = "gimbal"
    holder = TableHolder(
        "pivot",
        (MountKind.PAN_AXIS, MountKind.ROLL_AXIS, MountKind.TILT_AXIS),
        ("tilt_torque_nm", "roll_torque_nm"),
    )
    usual = USUAL
    result_type = Stages
    outputs = (
        CG_AHEAD.on("tilt_offset_x_mm", on_axis),
        TILT_Z,
        ROLL_Y,
        ROLL_Z,
        PAN_X,
        PAN_Y,
        TILT_PEAK,
        ROLL_PEAK,
        PAN_PEAK,
        SLIDE_TO_LEVEL.on("slide_to_level_mm"),
        TIP_MOMENT,
        PAYLOAD,
        TOTAL_MASS,
    )
    watched = False
    carried = False
    gains_from_mass = False
    lenses_by_camera = False
    has_stages = True
    # What sits on the camera and not between it and the gimbal; common practice.
    removable = frozenset(
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

    @cached_property
    def warned(self) -> tuple[WarningType, ...]:  # type: ignore[override]
        """Its own, and among them those of what may carry it: limits first."""
        of_carriers = [kind for key in CARRIERS for kind in support_for(key).warned if kind.carried]
        limits = [kind for kind in of_carriers if kind.leads]
        # To a gimbal they are no more than cautions: what leads here is its own.
        others = [kind.on() for kind in of_carriers if not kind.leads and kind not in limits]
        limits = [kind.on() for kind in limits]
        return (
            OVER_PAYLOAD,
            *dict.fromkeys(limits),
            SWINGS_INTO,
            CLASH,
            OUT_OF_TRAVEL,
            OVER_MOTOR,
            ONE_SCREW,
            HEAVY_LENS,
            *dict.fromkeys(others),
            AXIS_OUTSIDE,
            CABLES,
        )

    def carrier(self, build: Build) -> str:
        return self.settings(build).carrier

    def pose(self, analysis: Analysis, operator: Operator, way: Hold) -> Pose | Hindrance:
        return Hindrance.NOBODY

    def equilibrium(self, placed: Placement[GimbalSettings]) -> tuple[Equilibrium, Stages] | None:
        assembly, positions = placed.assembly, placed.positions
        stages = stages_of(assembly, positions, placed.build, placed.settings)
        if isinstance(stages, Trouble):
            return None
        inner = stages.stages[0]
        nobody = at_rest(placed.operator, -stages.stages[-1].point)
        groups = tuple(stage.parts for stage in stages.stages)
        # A CG that was found elsewhere is an axis that lies elsewhere, seen from the parts.
        at = inner.point - inner.more, inner.holder
        room = (None, None)
        return equilibrium_at(assembly, positions, placed.body, *at, AHEAD, room, nobody, None, groups), stages

    def remaining(self, case: GimbalCase) -> float:
        """Return the greatest torque (N m) of gravity about any axis, over a full turn."""
        return max(peak_torque(stage) for stage in case.result.stages)

    def lens_settings(self, case: GimbalCase, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
        from equilix.core.solver.lens_marks import of_steps

        return of_steps(case.analysis, lens_marks(case.analysis, kit))

    def still(self, case: GimbalCase) -> int | None:
        """Return the frame: a camera slides in its gimbal, whichever of them the build began with."""
        return None if case.result.usual else case.result.stages[-1].holder

    def working_order(self, case: GimbalCase) -> tuple[str, ...]:
        return tuple(step.placed_id for step in order_of_work(case.analysis) if step.placed_id)

    def observed(self, case: GimbalCase) -> tuple[tuple[str, float], ...]:
        coached, stages = case.settings.coached, case.result
        if coached is None or not still_coached(case.analysis.assembly, case.build, coached):
            return ()
        return tuple((OUTPUT_OF[one.stage, one.beside], one.u) for one in coached.found if stages.stage(one.stage))

    def scales(self, case: GimbalCase) -> frozenset[str] | None:
        from equilix.core.solver import scales

        numbers = scales.scales_of(case.analysis, case.result)
        return frozenset(case.build.parts[case.analysis.assembly.slide_parts[j]].id for j in numbers)

    def stages(self, case: GimbalCase) -> tuple[str, ...]:
        names = ["frame"] * len(case.analysis.assembly.parts)
        for stage in reversed(case.result.stages):
            for k in np.flatnonzero(stage.parts).tolist():
                names[k] = stage.name
        return tuple(names)

    def target(self, case: GimbalCase) -> Target:
        """Return six forms, two for each stage: its CG beside its axis, to what the motors' window or friction allows.

        A peak torque within the window is wanted, so each of the two may take its share by Pythagoras.
        """
        on_it, settings, parts = case.result, case.settings, case.build.parts
        forms = []
        for stage in on_it.stages:
            group = frozenset(p.id for p, inside in zip(parts, stage.parts, strict=True) if inside)
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
                        holder=parts[stage.holder].id,
                    )
                )
        if on_it.usual:
            # All three stages are one: what is along an axis stands once.
            seen: dict[str, Form] = {}
            for form in forms:
                seen.setdefault(form.name[-1], form)
            forms = list(seen.values())
        inner = on_it.stages[0]
        holder = parts[inner.holder].id
        return Target(inner.point - inner.more, holder, tuple(forms), ALLOWED, closely=True)

    def findings(self, case: GimbalCase, operator: Operator) -> list[Finding]:
        from equilix.core.statics.screws import one_screws

        on_it, settings, analysis = case.result, case.settings, case.analysis
        assembly = analysis.assembly
        ids = [placed.id for placed in case.build.parts]
        inner = on_it.stages[0]
        found = []
        if settings.most is not None:
            payload = payload_of(case)
            if payload > settings.most:
                found.append(Finding(OVER_PAYLOAD, (ids[inner.holder],), payload, limit=settings.most))
        for stage in on_it.stages:
            peak = peak_torque(stage)
            if peak > settings.rated(stage.name):
                at = (ids[stage.holder],)
                found.append(Finding(OVER_MOTOR, at, peak, limit=settings.rated(stage.name)))
            beside = 0.0 if on_it.usual else beside_axis(assembly, analysis.positions, stage)
            if beside > _OUTSIDE:
                found.append(Finding(AXIS_OUTSIDE, (ids[stage.holder],), beside, limit=_OUTSIDE))
        found += [
            Finding(SWINGS_INTO, (ids[one.first], ids[one.second]), -one.gap, limit=0.0) for one in passings(case)
        ]
        found += [
            Finding(ONE_SCREW, (ids[one.part],), one.moment, limit=one.holds)
            for one in one_screws(assembly, analysis.positions, on_it.stages[-1].holder)
        ]
        carrier, outer = support_for(settings.carrier), (ids[on_it.stages[-1].holder],)
        found += carrier.load_findings(carrier.settings(case.build), case.body.mass, case.spread.mass, outer)
        if settings.cables > 1.0:
            found.append(Finding(CABLES, (ids[inner.holder],), settings.cables, limit=1.0))
        return found

    def hindrance_of(self, analysis: Analysis) -> str:
        found = stages_of(analysis.assembly, analysis.positions, analysis.build, self.settings(analysis.build))
        return str(found) if isinstance(found, Trouble) else "no stages"

    def table_figures(self, case: GimbalCase, figures: dict[str, float | None]) -> dict[str, object]:
        inner = case.result.stages[0]
        return {"offset_mm": (1e3 * (inner.cg - inner.point)).tolist(), **figures}

    def report(self, case: GimbalCase, operator: Operator, figures: dict[str, Figure]) -> Report:
        on_it, settings = case.result, case.settings
        figures |= {
            f"{stage.name}_motor_share": Figure(
                figures[f"{stage.name}_torque_peak_nm"].value / settings.rated(stage.name),
                (figures[f"{stage.name}_torque_peak_nm"].uncertainty or 0.0) / settings.rated(stage.name),
            )
            for stage in on_it.stages
        }
        said = ("no axes are joined: they are put above the lowest part",) if on_it.usual else ()
        return Report({f"{stage.name}_axis_mm": stage.point for stage in on_it.stages}, figures, said=said)

    def turned(self, case: GimbalCase, attitude: Attitude) -> dict[str, Figure]:
        torques = gravity_torques(case, in_way(attitude, case.settings))
        return {f"{name}_torque_nm": Figure(torque) for name, torque in torques.items()}


@cached_for_rig
def order_of_work(analysis: Analysis) -> tuple[WorkStep, ...]:
    """Return the steps that balance a gimbal, in working order; none where it can't be judged."""
    from equilix.core.solver import scales

    case = SUPPORT.case(analysis)
    return () if case is None else scales.order_of_work(analysis, case.result, SUPPORT.target(case))


def lens_marks(analysis: Analysis, kit: Kit) -> tuple[LensMarks, ...]:
    """Return where every scale must stand for each lens of the kit in the place of the one that is on."""
    from equilix.core.solver import scales

    return scales.lens_marks(analysis, kit, order_of_work)


SUPPORT = GimbalSupport()
