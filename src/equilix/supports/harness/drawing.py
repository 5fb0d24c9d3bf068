"""A support harness in lines: back frame, strap, belt, the arm over the head, and the rig on its cable."""

from __future__ import annotations

from equilix.core.statics.pose import Pose
from equilix.core.units import Kind
from equilix.present.drawing.figures import DEEP, HALF_HEAD, At
from equilix.present.drawing.person import Gear, draw_person
from equilix.present.drawing.scene import Command, Scene, circle, rect
from equilix.present.units import System, figure
from equilix.supports.harness.mechanics import HarnessCase


def draw_frame(scene: Scene, case: HarnessCase, pose: Pose, at: At, scale: float) -> None:
    """Draw from the right what is worn; `at` makes px of places in the body frame (m), `scale` is px per m."""
    settings = case.settings
    body = pose.body
    h, hook = body.stature, case.result.hook.point + pose.shift
    back, belt = -DEEP * h - 0.045, float(body.low_back[2]) - (settings.belt or 0.0)
    top = float(hook[2]) + settings.cable
    over = max(top, float(body.eye[2]) + HALF_HEAD * h + 0.12)
    ahead = float(hook[0])
    frame: tuple[Command, ...] = (
        ("M", *at(back, 0.0, belt - 0.04)),
        ("L", *at(back, 0.0, over - 0.24)),
        ("C", *at(back, 0.0, over + 0.06), *at(ahead, 0.0, over + 0.12), *at(ahead, 0.0, top)),
    )
    for weight, color in ((8.0, "line"), (5.6, "p2")):
        scene.path(frame, None, color, weight)
    shoulder = float(body.shoulder_left[2])
    strap: tuple[Command, ...] = (
        ("M", *at(back, 0.0, shoulder - 0.10)),
        (
            "C",
            *at(back, 0.0, shoulder + 0.07),
            *at(DEEP * h, 0.0, shoulder + 0.07),
            *at(DEEP * h, 0.0, shoulder - 0.10),
        ),
        ("C", *at(DEEP * h, 0.0, shoulder - 0.22), *at(0.0, 0.0, belt + 0.12), *at(back, 0.0, belt + 0.06)),
    )
    scene.path(strap, None, "line", 3.0)
    left, upper = at(-DEEP * h - 0.02, 0.0, belt + 0.05)
    right, lower = at(DEEP * h + 0.02, 0.0, belt - 0.05)
    scene.path(rect(left, upper, right - left, lower - upper, 4.0), "p3", "line", 1.25)
    buckle = at(DEEP * h - 0.03, 0.0, belt + 0.028)
    scene.path(rect(*buckle, 0.05 * scale, 0.056 * scale, 2.0), "p1", "line", 1.0)
    scene.line(*at(ahead, 0.0, top), *at(ahead, 0.0, float(hook[2])), "ink", 1.4)
    scene.path(circle(*at(ahead, 0.0, top), 3.4), "panel", "ink", 1.3)
    scene.path(circle(*at(ahead, 0.0, float(hook[2])), 3.4), "panel", "accent", 1.6)


def draw_worn(
    scene: Scene, case: HarnessCase, gear: Gear, system: System, area: tuple[float, float, float, float]
) -> None:
    """Draw who wears its `gear` in `area` (left, top, width, height px), the rig on its cable."""
    left, _, width, height = area
    pose = case.equilibrium.pose
    scene.text(left, 26.0, "On the operator", 16, 600)
    tall = 1.22 * pose.body.stature
    floor = height - 58.0
    front = float((case.analysis.positions.centre[:, 0] + case.analysis.assembly.edges[:, 0]).max() + pose.shift[0])
    scale = min((floor - 44.0) / tall, (width - 6.0) / (front + 0.30))
    draw_person(scene, case.analysis, pose, gear, left + 0.26 * scale, floor, scale)
    scene.line(left, floor, left + width, floor, "ink", 1.2)
    away = figure(case.settings.reach, Kind.LENGTH, system)
    scene.text(left, floor + 20.0, f"{figure(case.result.tension, Kind.FORCE, system)} on the cable", 13, 600, "fwdT")
    scene.text(left, floor + 38.0, f"{away} ahead of the low back", 12, 400, "ink2")
