"""What a coach knows of a gimbal before the first test, and what its session teaches."""

from __future__ import annotations

import math

from equilix.core.analysis import Analysis
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.measurement.belief import CoachModel
from equilix.core.measurement.coaching import AxisBench, Coaching, widened
from equilix.core.measurement.found import Coached, Found
from equilix.core.measurement.lesson import Reading, lesson_of
from equilix.core.solver.targets import form_slopes
from equilix.core.sources import assumed
from equilix.core.statics.stages import BESIDE, LEAN
from equilix.core.uncertainty.output_model import output_model
from equilix.supports.gimbal.mechanics import SUPPORT, order_of_work
from equilix.supports.gimbal.outputs import OUTPUT_OF
from equilix.supports.gimbal.stages import coached_parts

#: Standard uncertainties beyond which it is all the same how far two figures part.
_FARTHEST_PARTED = assumed(1e6)


def benches_of(analysis: Analysis) -> tuple[AxisBench, ...]:
    """Return what a coach knows of each axis before the first test: scales, their travel and about what they do.

    Moments are gravity's torques: on tilt with what lies forward, on roll and pan against what lies left and forward.
    """
    case = SUPPORT.case(analysis)
    if case is None:
        return ()
    assembly, settings, target = analysis.assembly, case.settings, SUPPORT.target(case)
    known = not bool(assembly.missing.any())
    steps = {(step.stage, step.beside): step.placed_id for step in reversed(order_of_work(analysis))}
    found = []
    for stage in case.result.stages:
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
        bench = CoachModel(
            slopes=(slopes[0], slopes[1]),
            limits=(limits[0], limits[1]),
            friction=max(settings.friction(stage.name), 1e-4),
            window=settings.window(stage.name) / share,
            sees=(True, stage.name == "tilt"),
        )
        found.append(AxisBench(stage.name, widened(bench, known), (scales[0], scales[1])))
    return tuple(found)


def with_readings(analysis: Analysis, session: Coaching) -> Coached | None:
    """Return what a coach's `session` teaches of the axes that it settled; None where there is nothing to learn.

    `analysis` is of the build as its scales stand now, without what a coach found before. What was felt goes before
    what the parts say: where they contradict each other, the parts' uncertainty is too small and counts as larger.
    """
    case, outputs = SUPPORT.case(analysis), output_model(analysis)
    if case is None or outputs is None or case.result.usual:
        return None
    found, readings = [], []
    for axis in session.settled:
        stage = case.result.stage(axis.name)
        if stage is None or not session.looks.get(axis.name):
            continue
        sign = 1.0 if axis.name == "tilt" else -1.0
        moments, uncertainties = session.found(axis)
        for k, beside in enumerate(BESIDE[axis.name]):
            if axis.bench.sees[k]:
                offset, u = sign * float(moments[k]) / stage.weight, float(uncertainties[k]) / stage.weight
                found.append(Found(axis.name, beside, offset, u))
                readings.append(Reading(OUTPUT_OF[axis.name, beside], offset, u))
    lesson = lesson_of(outputs, readings) if readings else None
    if lesson is None:
        return None
    parted, suspect = min(lesson.parted, _FARTHEST_PARTED), lesson.suspect
    if lesson.contradicts:
        lesson = lesson_of(outputs, readings, parted)
        assert lesson is not None
    more = []
    for k, stage in enumerate(case.result.stages):
        shift = lesson.moved[6 + 4 * k : 9 + 4 * k] * stage.mass
        more.append((float(shift[0]), float(shift[1]), float(shift[2])))
    on, mass = coached_parts(analysis.assembly, analysis.build)
    return Coached(on, mass, tuple(found), tuple(more), parted, suspect)
