"""The gimbal in lines: three views along its axes, the order of work, the torque on each motor."""

from __future__ import annotations

import math
from collections.abc import Mapping
from types import MappingProxyType

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.resolve import all_corners
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.solver.scales import WorkStep
from equilix.core.statics.stages import BESIDE, LEAN, Stage, Stages
from equilix.core.statics.turning import torque_over
from equilix.core.uncertainty.output_model import OutputModel, output_model, output_uncertainties
from equilix.core.units import Kind
from equilix.present.drawing.scales import Elevation
from equilix.present.drawing.scene import Scene, fitted, text_width
from equilix.present.drawing.three_axes import AxisView, Curve, draw_curve, draw_views
from equilix.present.drawing.work_order import Work, draw_lens_rows, draw_order, steps_to
from equilix.present.units import System, figure, unit_of
from equilix.supports.gimbal.mechanics import lens_marks, order_of_work
from equilix.supports.gimbal.outputs import OUTPUT_OF
from equilix.supports.gimbal.settings import GimbalSettings
from equilix.supports.gimbal.stages import GimbalCase, stages_of

#: What a CG beside an axis is called, below zero and above.
SIDES = {
    ("tilt", "x"): ("back-heavy", "nose-heavy"),
    ("tilt", "z"): ("bottom-heavy", "top-heavy"),
    ("roll", "y"): ("heavy on the right", "heavy on the left"),
    ("roll", "z"): ("bottom-heavy", "top-heavy"),
    ("pan", "x"): ("heavy behind", "heavy ahead"),
    ("pan", "y"): ("heavy on the right", "heavy on the left"),
}
#: px: the order of work below the views.
_ORDER = 150.0
#: The same below a view, where there is little room.
_SHORT = {"x": "fore-aft", "y": "left", "z": "up"}
_LOOKS: Mapping[str, tuple[str, str, int, int, bool]] = MappingProxyType(
    {
        "tilt": ("Side", "seen along the tilt axis", 0, 2, False),
        "pan": ("Top", "seen along the pan axis", 0, 1, False),
        # From ahead: what is left stands at the right.
        "roll": ("Front", "seen along the roll axis", 1, 2, False),
    }
)
LENS_QUESTION = "Marks of all scales that balance it, for each lens"


def offset_beside(stage: Stage, beside: str) -> float:
    """Return how far (m) the CG of a stage lies from its axis along a rig axis."""
    return stage.beside[BESIDE[stage.name].index(beside)]


def _work(case: GimbalCase, system: System, planned: Analysis | None = None) -> Work:
    """Return the order of work as it is drawn, up to what is `planned`."""
    steps, settings = order_of_work(case.analysis), case.settings
    if planned is not None:
        steps = steps_to(steps, planned, order_of_work(planned))
    loose = ""
    for step in last_steps(steps):
        if not loose and not step.placed_id and is_short(step, case.result, settings):
            off, side = figure(abs(step.left), Kind.LENGTH, system), SIDES[step.stage, step.beside][step.left > 0.0]
            loose = f"{step.stage} stays {off} {side}: it has no slide for that"

    def left(step: WorkStep) -> str:
        return f"{figure(abs(step.left), Kind.LENGTH, system)} remain"

    def briefly(step: WorkStep) -> str:
        return figure(abs(step.left), Kind.LENGTH, system).split()[0]

    brackets = "In brackets: distance from the axis that remains."
    return Work(
        case.analysis, steps, lambda step: is_short(step, case.result, settings), loose, left, briefly, brackets
    )


def last_steps(steps: tuple[WorkStep, ...]) -> list[WorkStep]:
    """Return the last step of each form: what is left in the end."""
    return list({(step.stage, step.beside): step for step in steps}.values())


def is_short(step: WorkStep, on_it: Stages, settings: GimbalSettings) -> bool:
    """Whether a step leaves more than its motor's window."""
    stage = on_it.stage(step.stage)
    assert stage is not None
    share = math.sin(LEAN) if step.stage == "pan" else 1.0
    return abs(step.left) * stage.weight * share > settings.window(step.stage)


def _reach(case: GimbalCase, stage: Stage) -> tuple[float, float]:
    """Return how far (m) from an axis the parts of a stage reach, ahead and behind."""
    beside = [i for i in range(3) if i != stage.about]
    parts = np.flatnonzero(stage.parts & case.analysis.assembly.sized)
    corners = all_corners(case.analysis.assembly, case.analysis.positions, parts)
    away = corners[..., beside] - stage.point[beside]
    far, forward = np.hypot(away[..., 0], away[..., 1]), away[..., 0] > 0.0
    return float(far[forward].max(initial=0.0)), float(far[~forward].max(initial=0.0))


def axis_uncertainties(outputs: OutputModel) -> dict[str, float]:
    """Return the standard uncertainties of what is shown of the axes."""
    return output_uncertainties(outputs, tuple(output for output in OUTPUT_OF.values() if output in outputs.offered))


def _views(case: GimbalCase, system: System) -> tuple[AxisView, ...]:
    outputs, settings = output_model(case.analysis), case.settings
    assert outputs is not None
    unsure = axis_uncertainties(outputs)
    count = len(case.analysis.assembly.parts)
    everything = frozenset(range(count))
    outside = frozenset(np.flatnonzero(~case.result.stages[-1].parts).tolist())
    views = []
    for name in ("tilt", "pan", "roll"):
        stage = case.result.stage(name)
        if stage is None:
            continue
        title, along, across, up, flips = _LOOKS[name]
        shown = everything - outside if name == "pan" and len(outside) < count else everything
        lies = {
            _SHORT[beside]: figure(offset_beside(stage, beside), Kind.LENGTH, system, sign=True, unit=False)
            for beside in BESIDE[name]
        }
        unit = unit_of(Kind.LENGTH, system)
        words = f"{', '.join(f'{way} {far}' for way, far in lies.items())} {unit}"
        sweeps: tuple[tuple[float, float, float], ...] = ()
        if name == "tilt":
            # A lens comes round ahead, a tail behind.
            ahead, behind = _reach(case, stage)
            sweeps = ((ahead, 0.0, settings.tilt_use), (behind, math.pi, settings.tilt_use))
        share = math.sin(LEAN) if name == "pan" else 1.0
        axes = {"tilt": (0, 2), "pan": (0, 1), "roll": (1, 2)}[name]
        by = {"x": 0, "y": 1, "z": 2}
        uncertainties = {by[beside]: COVERAGE * unsure[OUTPUT_OF[name, beside]] for beside in BESIDE[name]}
        views.append(
            AxisView(
                title,
                along,
                name,
                stage.point,
                stage.cg,
                across,
                up,
                flips,
                settings.window(name) / math.sqrt(2.0) / (stage.weight * share),
                (uncertainties[axes[0]], uncertainties[axes[1]]),
                words,
                f"{', '.join(lies.values())} {unit}",
                shown,
                sweeps,
                tuple((other.name, other.point) for other in case.result.stages if other.name != name),
            )
        )
    return tuple(views)


def _curves(case: GimbalCase) -> tuple[Curve, ...]:
    """Return the torque on each motor over its angle, now and after all steps; on pan over the frame's lean."""
    outputs, settings = output_model(case.analysis), case.settings
    assert outputs is not None
    unsure = axis_uncertainties(outputs)
    # Only its stages are asked for: nothing else of the rig as it will be is worked out.
    wanted, assembly = set_by(case), case.analysis.assembly
    after = stages_of(assembly, assembly.at(assembly.settings(wanted)), wanted, settings)
    assert isinstance(after, Stages)
    found = []
    for stage in case.result.stages:
        then = after.stage(stage.name)
        assert then is not None
        u = [STANDARD_GRAVITY * stage.mass * unsure[OUTPUT_OF[stage.name, beside]] for beside in BESIDE[stage.name]]
        if stage.name == "pan":
            # Over the lean, nose down: what lies aside turns it; the worst way counts.
            angles = np.linspace(-math.pi / 4.0, math.pi / 4.0, 61)
            over = "frame tilted the worst way"
            curves = [one.weight * math.hypot(*one.beside) * np.sin(angles) for one in (stage, then)]
            spread = math.hypot(*u) * np.abs(np.sin(angles)) / math.sqrt(2.0)
        else:
            most = math.pi / 2.0 if stage.name == "tilt" else math.pi / 4.0
            angles = np.linspace(-most, most, 61)
            over = "nose down +" if stage.name == "tilt" else "left side high +"
            curves = [_over_turn(one, angles) for one in (stage, then)]
            spread = np.hypot(u[0] * np.cos(angles), u[1] * np.sin(angles))
        found.append(
            Curve(
                f"{stage.name.capitalize()} motor",
                over,
                angles,
                curves[0],
                spread,
                curves[1],
                settings.window(stage.name),
                settings.rated(stage.name),
            )
        )
    return tuple(found)


def _over_turn(stage: Stage, angles: np.ndarray) -> np.ndarray:
    """Return gravity's torque (n,) (N m) about a stage's axis as it turns, the others level."""
    along, up = stage.beside
    if stage.name == "roll":
        # Left is lifted by a positive roll: ``-W (dy cos f - dz sin f)``.
        return -torque_over(stage.weight, along, -up, angles)
    return torque_over(stage.weight, along, up, angles)


def set_by(case: GimbalCase) -> Build:
    """Return the build with all its scales set as the order of work says."""
    build = case.build
    for step in order_of_work(case.analysis):
        if step.placed_id:
            build = build.with_placed(replace(build.placed(step.placed_id), setting=step.to))
    return build


def draw_picture(
    case: GimbalCase,
    system: System,
    width: float,
    height: float,
    selected: str | None,
    preview: Analysis | None,
    held: Elevation | None,
    planned: Analysis | None = None,
) -> Elevation:
    """Return three views along the axes, and the order of work below, in an area of `width` by `height` px."""
    scene = Scene()
    top = 36.0
    projection, standing = draw_views(
        scene,
        case.analysis,
        _views(case, system),
        (0.0, top, width, height - top - _ORDER),
        selected,
        preview,
        held.views if held is not None else (),
    )
    scales = draw_order(scene, _work(case, system, planned), system, (0.0, height - _ORDER + 6.0, width))
    return Elevation(scene, projection, scales, projection.x0, {}, standing)


def draw_lenses(case: GimbalCase, kit: Kit, system: System, width: float, height: float) -> Scene:
    """Return where each scale stands for each lens."""
    scene = Scene()
    rows = lens_marks(case.analysis, kit)
    scene.text(0.0, 18.0, LENS_QUESTION, 14, 600)
    beside = text_width(LENS_QUESTION, 14) + 32.0
    if not rows:
        scene.text(0.0, 48.0, "Put a lens on the build, and join the axes.", 13, 400, "ink2")
        return scene
    words = "Counted from each slide’s low end. Bold: the mark now"
    if width >= beside + text_width(words, 12):
        scene.text(beside, 18.0, words, 12, 400, "ink2")
    draw_lens_rows(scene, _work(case, system), rows, system, (width, height))
    return scene


def draw_page(case: GimbalCase, kit: Kit, system: System, width: float, height: float) -> Scene:
    """Return the torque on each motor over its angle."""
    scene = Scene()
    curves = _curves(case)
    wide = width / len(curves)
    for k, curve in enumerate(curves):
        draw_curve(scene, curve, (k * wide, 0.0, wide - 12.0, height - 20.0))
    legend = "Solid: now, with ±. Dashed: after every step. Tinted: balanced. Hatched: beyond the motor."
    scene.text(0.0, height - 4.0, fitted(legend, 12, 1.12 * width), 12, 400, "ink2")
    return scene
