"""What the scale shows, its trace, the steps of the procedure and its results."""

from __future__ import annotations

from equilix.core.measurement.steady import STEADY_TIME, TRACE_TIME, Trace
from equilix.core.units import Kind
from equilix.present.drawing.scene import (
    Anchor,
    Region,
    Scene,
    circle,
    fitted,
    polyline,
    rect,
    text_width,
)
from equilix.present.units import System, figure
from equilix.present.weigh.bench_view import BenchModel, StepRow, steadiness

BLOCKS = 7


def draw_reading(
    model: BenchModel,
    trace: Trace,
    shown: str,
    unit: str,
    live: bool,
    lost: str,
    hint: str,
    system: System,
    width: float,
    height: float,
) -> Scene:
    """Return the reading, its steadiness, the trace and the list of steps. `lost` says what ails the scale.

    Without a scale `hint` says what to do in the place of the trace.
    """
    scene = Scene()
    scene.text(0, 18, fitted(model.heading, 15, width - 78), 15, 600)
    scene.text(width, 18, model.counter, 12.5, 400, "ink3", Anchor.END)
    tone = "ink" if live else "ink3"
    if shown:
        scene.text(0, 62, shown, 42, 600, tone)
        scene.text(text_width(shown, 42) * 1.02 + 8, 62, unit, 20, 400, "ink2")
    elif model.complete:
        scene.text(0, 56, "typed", 22, 500, "ink3")
    else:
        scene.text(0, 56, "no reading yet", 22, 500, "ink3")
    left = width - BLOCKS * 17 - 1
    blocks = BLOCKS if live or trace.samples else 0
    filled = min(BLOCKS, int(trace.steady_for / STEADY_TIME * BLOCKS + 1e-9)) if live else 0
    for i in range(blocks):
        x = left + i * 17
        scene.path(rect(x, 34, 14, 10, 2), "accent" if i < filled else "p2")
    if lost and text_width(lost, 12.5) > width - left:
        # Too long for its place: where the trace would be.
        words, color, hint = "", "ink", lost
    elif lost:
        words, color = lost, "fwdT"
    elif live:
        words, color = steadiness(trace, system), "accent" if trace.steady else "ink2"
    else:
        words, color = "", "ink3"
    scene.text(left, 62, words, 12.5, 600, color)
    y = 78.0
    if not live and not trace.samples:
        for line in _wrapped(hint, width):
            scene.text(0, y + 14, line, 13, 600 if hint == lost else 400, "fwdT" if hint == lost else "ink2")
            y += 17
        y += 16
    elif height >= 230.0:
        below = 22.0 * len(model.steps) + 18.0 * len(model.results) + 44.0
        tall = min(max(height - 78.0 - below, 26.0), 90.0)
        _draw_trace(scene, trace, width, y, tall)
        scene.text(0, y + tall + 14, "8 s ago", 12, 400, "ink3")
        scene.text(width, y + tall + 14, "now", 12, 400, "ink3", Anchor.END)
        band = figure(trace.band, Kind.MASS, system, extra=1)
        scene.text(width / 2, y + tall + 14, f"shaded: ± {band}", 12, 400, "ink2", Anchor.MIDDLE)
        y += tall + 22.0
    y = _draw_steps(scene, model.steps, width, y)
    _draw_results(scene, model, width, y)
    return scene


def _draw_trace(scene: Scene, trace: Trace, width: float, top: float, tall: float) -> None:
    scene.line(0, top + tall, width, top + tall, "rule2", 1.0)
    if len(trace.samples) < 2:
        return
    newest = trace.samples[-1].time
    middle = trace.value or 0.0
    values = [s.value for s in trace.samples]
    reach = max(max(abs(v - middle) for v in values), 6.0 * trace.band)
    half = (tall - 4) / 2

    def place(time: float, value: float) -> tuple[float, float]:
        return width * (1.0 - (newest - time) / TRACE_TIME), top + 2 + half - (value - middle) / reach * half

    band = max(trace.band / reach * half, 1.0)
    scene.path(rect(0, top + 2 + half - band, width, 2 * band), "accent", None, 0.0, (), 0.22)
    scene.path(polyline([place(s.time, s.value) for s in trace.samples]), None, "ink", 1.4)


def _draw_steps(scene: Scene, rows: tuple[StepRow, ...], width: float, y: float) -> float:
    for row in rows:
        if row.state == "now":
            scene.path(rect(-10, y, width + 20, 21), "tint")
        x, middle = 8.0, y + 10.5
        done = row.state == "done"
        scene.path(
            circle(x, middle, 7.5),
            "accent" if row.state != "later" else None,
            "accent" if done or row.state == "now" else "ink3",
            1.2,
        )
        if done:
            scene.path(
                polyline(((x - 3.4, middle), (x - 0.8, middle + 2.8), (x + 3.6, middle - 2.8))), None, "onaccent", 1.7
            )
        else:
            scene.text(
                x, middle + 4, str(row.number), 12, 600, "onaccent" if row.state == "now" else "ink2", Anchor.MIDDLE
            )
        value_wide = text_width(row.value, 13)
        words = fitted(row.words, 13, width - value_wide - 34)
        scene.text(22, middle + 4.5, words, 13, 600 if row.state == "now" else 400, "ink")
        scene.text(width, middle + 4.5, row.value, 13, 600 if done else 400, "ink" if done else "ink3", Anchor.END)
        scene.regions.append(
            Region(("step", row.key), ((-10, y), (width + 10, y), (width + 10, y + 21), (-10, y + 21)))
        )
        y += 22
    return y + 2


def _draw_results(scene: Scene, model: BenchModel, width: float, y: float) -> None:
    if model.problem:
        for line in _wrapped(model.problem, width):
            scene.text(0, y + 14, line, 13, 600, "fwdT")
            y += 16
        if not model.results:
            return
    for name, value in model.results:
        words = f"{name}, expected" if model.foreseen else name
        scene.text(0, y + 14, words, 13, 400, "ink2")
        tone = "ink3" if model.foreseen else "fwdT"
        scene.text(width, y + 14, value, 13, 400 if model.foreseen else 600, tone, Anchor.END)
        y += 18
    if model.formula:
        scene.text(0, y + 14, fitted(model.formula, 12, width), 12, 400, "ink3")


def _wrapped(text: str, width: float) -> list[str]:
    lines = [""]
    for word in text.split():
        longer = f"{lines[-1]} {word}".strip()
        if text_width(longer, 13) > width and lines[-1]:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines
