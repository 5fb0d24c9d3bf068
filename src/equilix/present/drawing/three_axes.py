"""Three views of a gimbal, each along one axis, so that the axis is a point and the CG beside it is seen true."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.kit.parts import Shape
from equilix.present.drawing.looks import look_of
from equilix.present.drawing.motors import draw_motors
from equilix.present.drawing.rig_drawing import (
    DATUM_DASH,
    PREVIEW_DASH,
    PartBox,
    Projection,
    draw_cg,
    draw_parts,
    strokes_of,
    turned_outline,
)
from equilix.present.drawing.scales import Standing
from equilix.present.drawing.scene import (
    Anchor,
    Point,
    Region,
    Scene,
    arc,
    arrow_head,
    circle,
    fitted,
    hatch,
    polygon,
    polyline,
    rect,
    text_width,
)
from equilix.present.drawing.silhouettes import View, fill_of

#: How much larger the loupe shows what lies beside an axis.
LOUPE = 5.0
_LOUPE_RADIUS = 27.0


class AxisView(Struct, frozen=True, eq=False):
    """One view: its `title`, the stage it is of, and `lines` below; `point` (3,), `cg` (3,) m in the rig frame.

    `across` and `up` are the numbers of the rig axes that it shows to the right and up, `flips` whether the first runs
    to the left. `words` say where the CG lies, `brief` the same without the ways. `window` (m) is how far beside the
    axis the CG may lie; `parts` are the numbers of those drawn; `sweeps` are radii (m) about the axis, each with the
    way (rad, on the screen) that it looks and how far it turns.
    """

    title: str
    along: str
    stage: str
    point: np.ndarray
    cg: np.ndarray
    across: int
    up: int
    flips: bool
    window: float
    unsure: tuple[float, float]
    words: str
    brief: str
    parts: frozenset[int]
    sweeps: tuple[tuple[float, float, float], ...] = ()
    others: tuple[tuple[str, np.ndarray], ...] = ()


def draw_views(
    scene: Scene,
    analysis: Analysis,
    views: Sequence[AxisView],
    area: tuple[float, float, float, float],
    selected: str | None,
    preview: Analysis | None = None,
    held: Sequence[Standing] = (),
) -> tuple[Projection, tuple[Standing, ...]]:
    """Draw the views side by side in `area` (left, top, width, height px).

    Returns how the first one lies, and how each stands; `held` is that of the drawing before, while something is
    dragged: the outermost part then stays where it is on the screen.
    """
    left, top, width, height = area
    wide = width / len(views)
    room = (wide - 26.0, height - 64.0)
    if len(held) != len(views):
        scale = min(_scale_for(analysis, view, room) for view in views)
        held = [_standing(analysis, view, scale) for view in views]
    frames = []
    for k, (view, standing) in enumerate(zip(views, held, strict=True)):
        x = left + k * wide
        if k:
            scene.line(x, top + 4.0, x, top + height - 4.0, "rule", 1.0)
        frame = _Frame(analysis, view, (x + (16.0 if k else 0.0), top, wide - 26.0, height), standing)
        _draw_view(scene, analysis, frame, selected, preview)
        frames.append(frame)
    return frames[0].projection, tuple(held)


def _standing(analysis: Analysis, view: AxisView, scale: float) -> Standing:
    """Return how a view stands in which all that it shows has the same room on either side."""
    low, high = _bounds(analysis, view)
    across, up = (low + high) / 2.0 - _outermost(analysis, view)
    return Standing(scale, float(across), float(up))


def _outermost(analysis: Analysis, view: AxisView) -> np.ndarray:
    """Return where the outermost part's origin is in a view (2,) (m), to the right and up."""
    root = next((i for i, placed in enumerate(analysis.build.parts) if placed.parent is None), 0)
    sign = -1.0 if view.flips else 1.0
    there: np.ndarray = analysis.positions.origin[root][[view.across, view.up]] * [sign, 1.0]
    return there


def _scale_for(analysis: Analysis, view: AxisView, room: tuple[float, float]) -> float:
    low, high = _bounds(analysis, view)
    return min(room[0] / max(float(high[0] - low[0]), 0.1), room[1] / max(float(high[1] - low[1]), 0.1), 900.0)


def _bounds(analysis: Analysis, view: AxisView) -> tuple[np.ndarray, np.ndarray]:
    """Return the low and high corners (2,) (m) of what a view shows, to the right and up."""
    chosen = sorted(view.parts)
    sign = -1.0 if view.flips else 1.0
    centre = analysis.positions.centre[chosen][:, [view.across, view.up]] * [sign, 1.0]
    edges = np.maximum(analysis.assembly.edges[chosen][:, [view.across, view.up]], 0.01)
    return (centre - edges).min(axis=0), (centre + edges).max(axis=0)


class _Frame:
    """Where a view lies on the screen."""

    def __init__(
        self, analysis: Analysis, view: AxisView, area: tuple[float, float, float, float], standing: Standing
    ) -> None:
        self.view, self.area, self.scale = view, area, standing.scale
        self.middle = _outermost(analysis, view) + np.array([standing.across, standing.up])
        left, top, width, height = area
        self.x0, self.y0 = left + width / 2.0, top + 24.0 + (height - 52.0) / 2.0

    @property
    def projection(self) -> Projection:
        kind = View.SIDE if self.view.up == 2 else View.TOP
        return Projection(kind, self.scale, self.x0, self.y0, float(self.middle[0]), float(self.middle[1]))

    def at(self, point: np.ndarray) -> Point:
        """Return the pixel of a point (3,) (m, rig frame)."""
        a = float(point[self.view.across]) * (-1.0 if self.view.flips else 1.0)
        return (
            self.x0 + (a - float(self.middle[0])) * self.scale,
            self.y0 - (float(point[self.view.up]) - float(self.middle[1])) * self.scale,
        )


def _draw_view(scene: Scene, analysis: Analysis, frame: _Frame, selected: str | None, preview: Analysis | None) -> None:
    view = frame.view
    left, top, width, height = frame.area
    scene.text(left, top + 14.0, view.title, 14, 600)
    start = 8.2 * len(view.title) + 6.0
    if start + text_width(view.along, 12) <= width:
        scene.text(left + start, top + 14.0, view.along, 12, 400, "ink3")
    x, y = frame.at(view.point)
    for radius, way, turn in view.sweeps:
        r = radius * frame.scale
        # Cut off where the view ends.
        room = min(y - top - 22.0, top + height - 24.0 - y) / max(r, 1.0)
        half = min(turn, math.asin(min(max(room, 0.0), 1.0)))
        scene.path(arc(x, y, r, way - half, way + half), None, "ink2", 1.0, PREVIEW_DASH)
    if view.across == 0:
        draw_parts(scene, analysis.assembly, analysis.positions, frame.projection, selected, only=view.parts)
    else:
        _draw_blocks(scene, analysis, frame, selected)
    if preview is not None and preview.equilibrium is not None and analysis.equilibrium is not None:
        _draw_changes(scene, analysis, preview, frame)
    for name, point in view.others:
        _draw_line(scene, frame, name, point)
    scene.line(x - 13.0, y, x + 13.0, y, "ink", 1.0)
    scene.line(x, y - 13.0, x, y + 13.0, "ink", 1.0)
    scene.path(circle(x, y, 4.5), "paper", "ink", 1.6)
    draw_cg(scene, *frame.at(view.cg), 8.0)
    _draw_loupe(scene, frame)
    scene.text(left, top + height - 6.0, view.stage, 13, 600, "accent")
    room = 1.1 * (width - 7.4 * len(view.stage) - 8.0)
    words = view.words if text_width(view.words, 12) <= room else fitted(view.brief, 12, room)
    scene.text(left + 7.4 * len(view.stage) + 8.0, top + height - 6.0, words, 12, 500)


def _draw_blocks(scene: Scene, analysis: Analysis, frame: _Frame, selected: str | None) -> None:
    """Draw parts seen from ahead as blocks, those behind first; what is round as circles."""
    assembly, positions, view = analysis.assembly, analysis.positions, frame.view
    for i in sorted(view.parts, key=lambda k: float(positions.centre[k, 0])):
        part = assembly.parts[i]
        if part.outline is None:
            continue
        x, y = frame.at(positions.centre[i])
        w, h = (round(2.0 * float(assembly.edges[i, a]) * frame.scale, 3) for a in (view.across, view.up))
        chosen = analysis.build.parts[i].id == selected
        fill, tone, weight = ("tint", "accent", 2.0) if chosen else (fill_of(part.category), "line", 1.25)
        askew = turned_outline(assembly, i, view.across, view.up)
        if askew is not None and part.outline.shape is not Shape.CYLINDER:
            sign = frame.at(np.eye(3)[view.across])[0] - frame.at(np.zeros(3))[0]
            shape = polygon([(math.copysign(a * frame.scale, a * sign), -b * frame.scale) for a, b in askew])
            scene.put(shape, x, y, fill, tone, weight)
        else:
            for stroke in strokes_of(part.category, look_of(part), part.outline.shape, View.FRONT, w, h, 0.0, 1.0):
                over = None if stroke.role == "detail" else fill if stroke.role == "outline" or chosen else "p2"
                scene.put(
                    stroke.commands, x, y, over, "ghostL" if over is None else tone, 1.0 if over is None else weight
                )
        draw_motors(scene, assembly, positions, i, 0, frame.at, frame.scale)
        corners = ((x - w / 2, y - h / 2), (x + w / 2, y - h / 2), (x + w / 2, y + h / 2), (x - w / 2, y + h / 2))
        scene.regions.append(Region(("part", analysis.build.parts[i].id), corners))


def _draw_changes(scene: Scene, analysis: Analysis, preview: Analysis, frame: _Frame) -> None:
    """Draw dashed what a way moves, both builds put on the same frame."""
    view = frame.view
    # Of the outermost parts the frame stays.
    shift = preview.positions.origin[0] - analysis.positions.origin[0]
    before = {p.id: analysis.positions.centre[i] for i, p in enumerate(analysis.build.parts)}
    for i, placed in enumerate(preview.build.parts):
        there = preview.positions.centre[i] - shift
        if placed.id in before and float(np.abs(there - before[placed.id]).max()) < 1e-4:
            continue
        x, y = frame.at(there)
        w, h = (2.0 * float(preview.assembly.edges[i, a]) * frame.scale for a in (view.across, view.up))
        if w > 0.0 and h > 0.0:
            scene.path(rect(x - w / 2.0, y - h / 2.0, w, h, 1.0), None, "accent", 1.3, PREVIEW_DASH)


def _draw_line(scene: Scene, frame: _Frame, name: str, point: np.ndarray) -> None:
    """Draw another axis as a line across the view."""
    view = frame.view
    left, top, width, height = frame.area
    x, y = frame.at(point)
    number = {"tilt": 1, "roll": 0, "pan": 2}[name]
    if number == view.across:
        scene.line(left, y, left + width, y, "ink3", 1.0, DATUM_DASH)
        scene.text(left + width, y - 5.0, name, 12, 400, "ink2", Anchor.END)
    else:
        scene.line(x, top + 22.0, x, top + height - 24.0, "ink3", 1.0, DATUM_DASH)
        scene.text(x + 5.0, top + 32.0, name, 12, 400, "ink2")


def _draw_loupe(scene: Scene, frame: _Frame) -> None:
    """Draw, five times as large, where the CG lies beside the axis, and the square that counts as balanced."""
    view = frame.view
    left, top, width, height = frame.area
    r = min(_LOUPE_RADIUS, 0.13 * width)
    x, y = left + r + 2.0, top + height - r - 26.0
    per = frame.scale * LOUPE
    scene.path(circle(x, y, r), "panel", "ink2", 1.2)
    half = min(view.window * per, r * 0.7)
    scene.path(rect(x - half, y - half, 2.0 * half, 2.0 * half, 0), "tint", "accent", 0.8)
    scene.line(x - r, y, x + r, y, "ink2", 0.8)
    scene.line(x, y - r, x, y + r, "ink2", 0.8)
    away = (view.cg - view.point)[[view.across, view.up]] * np.array([-1.0 if view.flips else 1.0, 1.0])
    dx, dy = float(away[0]) * per, -float(away[1]) * per
    size = math.hypot(dx, dy)
    if size > r - 5.0:
        # Farther off than the loupe shows: an arrow at its edge.
        dx, dy = dx * (r - 3.0) / size, dy * (r - 3.0) / size
        scene.line(x, y, x + dx, y + dy, "fwd", 1.6)
        scene.path(arrow_head(x + dx, y + dy, math.atan2(dy, dx), 8.0), "fwd")
    else:
        a, b = (min(max(u * per, 1.0), r) for u in view.unsure)
        scene.line(x - a + dx, y + dy, x + a + dx, y + dy, "fwd", 1.0)
        scene.line(x + dx, y - b + dy, x + dx, y + b + dy, "fwd", 1.0)
        scene.path(circle(x + dx, y + dy, 3.5), "ink")
    scene.text(x + r + 4.0, y + r - 1.0, f"× {LOUPE:.0f}", 12, 400, "ink3")


class Curve(Struct, frozen=True, eq=False):
    """Torque (N m) on one motor over an angle (rad): `now`, with its standard uncertainty, and `then` after all steps.

    `window` and `rated` (N m) are what counts as balanced and what the motor can do.
    """

    title: str
    over: str
    angles: np.ndarray
    now: np.ndarray
    unsure: np.ndarray
    then: np.ndarray
    window: float
    rated: float


def draw_curve(scene: Scene, curve: Curve, area: tuple[float, float, float, float]) -> None:
    """Draw one motor's torque in `area` (left, top, width, height px): the zone that counts as balanced is shaded."""
    left, top, width, height = area
    scene.text(left, top + 16.0, curve.title, 14, 600)
    beside = 7.8 * len(curve.title) + 6.0
    if width - beside >= text_width(curve.over, 12):
        scene.text(left + beside, top + 16.0, curve.over, 12, 400, "ink3")
    inner, right, upper, base = left + 40.0, left + width - 8.0, top + 30.0, top + height - 24.0
    most = 1.12 * max(
        float(np.abs(curve.now).max() + 2.0 * curve.unsure.max()), float(np.abs(curve.then).max()), curve.window * 1.4
    )
    if most < curve.rated < 1.6 * most:
        most = 1.1 * curve.rated
    low, high = float(curve.angles[0]), float(curve.angles[-1])

    def x(angle: float) -> float:
        return inner + (right - inner) * (angle - low) / (high - low)

    def y(torque: float) -> float:
        return (upper + base) / 2.0 - (base - upper) / 2.0 * max(min(torque / most, 1.0), -1.0)

    scene.path(rect(inner, y(curve.window), right - inner, y(-curve.window) - y(curve.window), 0), "tint")
    for limit in (curve.rated, -curve.rated):
        if abs(limit) < most:
            edge = upper if limit > 0.0 else base
            corners = ((inner, y(limit)), (right, y(limit)), (right, edge), (inner, edge))
            scene.path(hatch(corners, 5.0), None, "rule2", 1.0)
            scene.line(inner, y(limit), right, y(limit), "ink", 1.4)
    step = _step(most)
    for n in range(-4, 5):
        value = n * step
        if abs(value) > most:
            continue
        scene.line(inner, y(value), right, y(value), "rule2" if n else "ink2", 1.0)
        words = f"{'+' if n > 0 else '−' if n < 0 else ''}{abs(value):g}" + (" N·m" if n == 0 else "")
        scene.text(inner - 5.0, y(value) + 4.0, words.removesuffix(" N·m"), 12, 400, "ink2", Anchor.END)
    scene.text(inner - 5.0, upper - 2.0, "N·m", 12, 400, "ink3", Anchor.END)
    marks = 4 if right - inner >= 170.0 else 2 if right - inner >= 110.0 else 1
    for k in range(0 if right - inner >= 80.0 else marks, marks + 1):
        angle = low + (high - low) * k / marks
        anchor = Anchor.END if k == marks else Anchor.MIDDLE if marks > 1 else Anchor.START
        degrees = round(math.degrees(angle))
        words = f"{'+' if degrees > 0 else '−' if degrees < 0 else ''}{abs(degrees)}°"
        scene.text(x(angle), base + 17.0, words, 12, 400, "ink2", anchor)
    pairs = list(zip(curve.angles.tolist(), curve.now.tolist(), curve.unsure.tolist(), strict=True))
    band = [(x(a), y(t + 2.0 * u)) for a, t, u in pairs] + [(x(a), y(t - 2.0 * u)) for a, t, u in reversed(pairs)]
    scene.path(polygon(band), "fwd", None, 0.0, (), 0.16)
    scene.path(polyline([(x(a), y(t)) for a, t, _ in pairs]), None, "fwd", 2.0)
    then = list(zip(curve.angles.tolist(), curve.then.tolist(), strict=True))
    scene.path(polyline([(x(a), y(t)) for a, t in then]), None, "accent", 1.6, PREVIEW_DASH)


def _step(most: float) -> float:
    """Return a round distance between lines, about three to either side of zero."""
    rough = most / 2.4
    size = 10.0 ** math.floor(math.log10(rough))
    return next(k * size for k in (1.0, 2.0, 5.0, 10.0) if k * size >= rough)


__all__ = ["AxisView", "Curve", "PartBox", "draw_curve", "draw_views"]
