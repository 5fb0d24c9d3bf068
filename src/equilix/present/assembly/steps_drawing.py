"""The order of work as a strip: what is done, what clashes, and where the CG lies after each step."""

from __future__ import annotations

from equilix.present.assembly.build_view import BuildModel, StepModel
from equilix.present.drawing.scene import Anchor, Scene, circle, fitted, polygon, polyline, rect


def draw_steps(model: BuildModel | None, width: float, height: float) -> Scene:
    """Return the strip in `width` by `height` px."""
    scene = Scene()
    scene.text(0, 26, "Order of work", 16, 600)
    words = "battery early, the front last"
    if model is not None and any(step.without is not None for step in model.steps) and width > 560.0:
        words += ". Dashed ring: the CG without the battery"
    if width > 330.0:
        scene.text(112, 26, words, 13, 400, "ink3")
    scene.line(0, height - 0.5, width, height - 0.5, "rule", 1.0)
    if model is not None:
        wide = width / len(model.steps)
        for i, step in enumerate(model.steps):
            _draw_step(scene, step, i, i * wide, wide, i == model.current_step)
    return scene


def _draw_step(scene: Scene, step: StepModel, number: int, x: float, wide: float, current: bool) -> None:
    top = 40.0
    if current:
        scene.path(rect(x, top - 2, wide, 80), "tint")
        scene.line(x, top - 2, x + wide, top - 2, "accent", 3.0)
    elif number:
        scene.line(x, top + 8, x, top + 72, "rule", 1.0)
    cx, cy = x + 12, top + 18
    if step.clashes:
        scene.path(circle(cx, cy, 8.5), "paper", "fwd", 1.5)
        scene.path(polygon(((cx, cy - 5), (cx - 5, cy + 3.5), (cx + 5, cy + 3.5))), "fwd")
    elif step.done:
        scene.path(circle(cx, cy, 8.5), "accent")
        scene.path(polyline(((cx - 4, cy), (cx - 1, cy + 3), (cx + 4, cy - 3.5))), None, "onaccent", 1.8)
    else:
        scene.path(circle(cx, cy, 8.5), "paper", "ink3", 1.2)
        scene.text(cx, cy + 4, str(number + 1), 11.5, 600, "ink2", Anchor.MIDDLE)
    scene.text(
        x + 25,
        cy + 5,
        fitted(step.name, 13, wide - 28),
        13,
        500 if step.done or current else 400,
        "ink" if step.done or current else "ink2",
    )
    _draw_beam(scene, step, x + 6, cy + 22, wide - 18)
    if wide >= 112:
        scene.text(x + 6, cy + 46, step.mass_text or "–", 13, 500, "ink" if step.done else "ink3")
    if wide >= 74:
        scene.text(x + wide - 12, cy + 46, step.ahead_text, 13, 500, "ink" if step.done else "ink3", Anchor.END)


def _draw_beam(scene: Scene, step: StepModel, x: float, y: float, wide: float) -> None:
    scene.line(x, y, x + wide, y, "rule2", 1.0)
    zero = x + wide / 2
    scene.path(polygon(((zero, y + 1), (zero - 5, y + 8), (zero + 5, y + 8))), "ink2")
    if step.ahead is None:
        return
    reach = wide / 2 / 0.15
    at = min(max(zero + step.ahead * reach, x), x + wide)
    if step.without is not None:
        late = min(max(zero + step.without * reach, x), x + wide)
        scene.path(circle(late, y, 3.5), "paper", "ink3", 1.2, (2.0, 1.6))
    scene.line(zero, y, at, y, "back" if step.ahead < 0 else "fwd", 1.8)
    scene.path(circle(at, y, 4.5), "accent" if step.done else "paper", "accent", 1.5)
