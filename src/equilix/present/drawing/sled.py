"""A sled at its true lean, its arm and wearer, how it falls and how its post wanders in a pan."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.present.drawing.rig_drawing import (
    DATUM_DASH,
    PREVIEW_DASH,
    Projection,
    bounds,
    draw_cg,
    draw_parts,
)
from equilix.present.drawing.scene import (
    Anchor,
    Command,
    PathItem,
    Region,
    Scene,
    arc,
    circle,
    fitted,
    polygon,
    polyline,
    rect,
    text_width,
)
from equilix.present.drawing.silhouettes import View
from equilix.present.drawing.wearer import _LEAST, WearerView, draw_wearer

#: How much larger the loupe shows where the CG lies below the bearing.
LOUPE = 4.0
_LOUPE_RADIUS = 40.0
#: rad: beyond this the drawing leans no farther; the words have the figure.
_MOST = math.radians(24.0)


class SledView(Struct, frozen=True, eq=False):
    """What is drawn of a sled: its `bearing` (3,) and `cg` (3,) (m, rig frame), the `wished` (3,) place of the CG.

    `unsure` (m) is how far off the CG may lie fore and aft. `lean` (rad) is nose down, None where it does not hang;
    `words` stand above it in a `tone`, and `below` stands under the loupe.
    """

    bearing: np.ndarray
    cg: np.ndarray
    wished: np.ndarray
    unsure: float
    lean: float | None
    words: str
    tone: str
    below: tuple[str, str]


def _as_it_hangs(analysis: Analysis, bearing: np.ndarray, lean: float) -> tuple[float, float, float, float]:
    """Return how far (m) a rig that leans by `lean` (rad) about its bearing reaches back, ahead, down and up of it."""
    assembly, xz = analysis.assembly, [0, 2]
    middle, half = analysis.positions.centre[assembly.sized][:, xz], assembly.edges[assembly.sized][:, xz]
    if not len(middle):
        low, high = bounds(analysis)
        middle, half = ((low + high) / 2.0)[None, xz], ((high - low) / 2.0)[None, xz]
    corners = ((middle - bearing[xz])[:, None] + half[:, None] * _CORNERS).reshape(-1, 2)
    along, up = corners @ (math.cos(lean), math.sin(lean)), corners @ (-math.sin(lean), math.cos(lean))
    return float(along.min()), float(along.max()), float(up.min()), float(up.max())


#: Signs of a box's corners seen from the side.
_CORNERS = np.array([(a, b) for a in (-1.0, 1.0) for b in (-1.0, 1.0)])


def draw_sled(
    scene: Scene,
    analysis: Analysis,
    view: SledView,
    area: tuple[float, float, float, float],
    selected: str | None,
    preview: Analysis | None,
    held: Projection | None = None,
) -> Projection:
    """Draw a sled in `area` (left, top, width, height px); return how it lies before it leans.

    `held` is that of the drawing before, while something is dragged: the bearing then stays where it is on the screen.
    """
    left, top, width, height = area
    low, high = bounds(analysis)
    loupe = min(_LOUPE_RADIUS, 0.11 * width)
    room = (width - 2.0 * loupe - 34.0, height - 46.0)
    lean = min(max(view.lean or 0.0, -_MOST), _MOST)
    if held is not None:
        scale, x0, y0 = held.scale, held.x0, held.y0
    else:
        # What is below the bearing swings back where the nose goes down.
        back, ahead, foot, head = _as_it_hangs(analysis, view.bearing, lean)
        scale = max(min(room[0] / max(ahead - back, 0.1), room[1] / max(head - foot, 0.1), 900.0), 20.0)
        x0 = left + (room[0] - (ahead - back) * scale) / 2.0 - back * scale
        y0 = top + 30.0 + head * scale
    projection = Projection(View.SIDE, scale, x0, y0, float(view.bearing[0]), float(view.bearing[2]))
    upright = Scene()
    _draw_parts(upright, analysis, projection, selected, preview)
    x, up, down = x0, y0 - float(high[2] - view.bearing[2]) * scale, y0 + float(view.bearing[2] - low[2]) * scale
    upright.line(x, up - 12.0, x, down + 8.0, "accent", 1.4, DATUM_DASH)
    if height >= _LEAST:
        scene.line(x, max(up - 12.0, top), x, min(down + 12.0, top + height - 6.0), "ink3", 1.2, DATUM_DASH)
    scene.text(left, top + 14.0, fitted(view.words, 13, 1.1 * width), 13, 600, view.tone)
    if height < _LEAST:
        return projection
    turned(upright, scene, (x0, y0), lean)
    scene.path(circle(x0, y0, 6.0), "panel", "accent", 1.8)
    offset = view.cg - view.bearing
    cos, sin = math.cos(lean), math.sin(lean)
    away = (float(offset[0]) * scale, -float(offset[2]) * scale)
    draw_cg(scene, x0 + away[0] * cos - away[1] * sin, y0 + away[0] * sin + away[1] * cos, 8.0)
    if height >= 2.0 * loupe + 76.0:
        middle = max(top + 0.44 * height, top + 24.0 + loupe)
        _draw_loupe(scene, view, (left + width - loupe - 6.0, middle), loupe, scale, (x0, y0))
    return projection


def _draw_parts(
    scene: Scene, analysis: Analysis, projection: Projection, selected: str | None, preview: Analysis | None
) -> None:
    draw_parts(scene, analysis.assembly, analysis.positions, projection, selected)
    if preview is None or analysis.equilibrium is None or preview.equilibrium is None:
        return
    # The post stays where it is: what else moves is dashed.
    post = next((i for i, p in enumerate(analysis.build.parts) if p.parent is None), 0)
    other = next((i for i, p in enumerate(preview.build.parts) if p.parent is None), 0)
    shift = preview.positions.origin[other] - analysis.positions.origin[post]
    before = {p.id: analysis.positions.centre[i] for i, p in enumerate(analysis.build.parts)}
    for i, placed in enumerate(preview.build.parts):
        there = preview.positions.centre[i] - shift
        if placed.id in before and float(np.abs(there - before[placed.id]).max()) < 1e-4:
            continue
        x, y = projection.point(there)
        w, h = (2.0 * float(preview.assembly.edges[i, a]) * projection.scale for a in (0, 2))
        if w > 0.0 and h > 0.0:
            scene.path(rect(x - w / 2.0, y - h / 2.0, w, h, 1.0), None, "accent", 1.3, PREVIEW_DASH)


def turned(drawn: Scene, scene: Scene, about: tuple[float, float], angle: float) -> None:
    """Add what is `drawn` to `scene`, turned by `angle` (rad, clockwise on the screen) about a point (px)."""
    cos, sin = math.cos(angle), math.sin(angle)
    # Where the corner of the picture goes.
    ahead = about[0] - about[0] * cos + about[1] * sin
    down = about[1] - about[0] * sin - about[1] * cos
    for item in drawn.items:
        if not isinstance(item, PathItem):
            scene.items.append(item)
            continue
        right, below = ahead + item.dx * cos - item.dy * sin, down + item.dx * sin + item.dy * cos
        commands: list[Command] = []
        for command in item.commands:
            # Most are of one point.
            if len(command) == 3:
                name, x, y = command
                commands.append((name, right + x * cos - y * sin, below + x * sin + y * cos))  # type: ignore[operator]
                continue
            name, *values = command
            points: list[float] = []
            for x, y in zip(values[::2], values[1::2], strict=True):
                points += (right + x * cos - y * sin, below + x * sin + y * cos)  # type: ignore[operator]
            commands.append((name, *points))
        scene.path(commands, item.fill, item.stroke, item.width, item.dash, item.opacity)
    for region in drawn.regions:
        polygon = tuple((ahead + x * cos - y * sin, down + x * sin + y * cos) for x, y in region.polygon)
        scene.regions.append(Region(region.key, polygon))


def _draw_loupe(
    scene: Scene,
    view: SledView,
    middle: tuple[float, float],
    radius: float,
    scale: float,
    bearing: tuple[float, float],
) -> None:
    """Draw bearing, CG and the wished place four times as large, as the sled stands level."""
    x, y = middle
    scene.line(bearing[0] + 8.0, bearing[1], x - radius, y, "ink3", 1.0)
    scene.path(circle(x, y, radius), "panel", "ink2", 1.2)
    y -= 0.55 * radius
    half = math.sqrt(radius**2 - (0.55 * radius) ** 2)
    scene.line(x - half + 2.0, y, x + half - 2.0, y, "ink2", 0.9, DATUM_DASH)
    scene.line(x, y - 0.4 * radius, x, y + 1.5 * radius, "accent", 0.9, DATUM_DASH)
    per = scale * LOUPE

    def at(point: np.ndarray) -> tuple[float, float, bool]:
        dx, dy = (float(v) * per for v in (point - view.bearing)[[0, 2]] * [1.0, -1.0])
        size = math.hypot(dx, dy - 0.55 * radius)
        inside = size <= radius - 7.0
        if not inside:
            share = (radius - 7.0) / size
            dx, dy = dx * share, 0.55 * radius + (dy - 0.55 * radius) * share
        return x + dx, y + dy, inside

    a, b, _ = at(view.wished)
    scene.path(circle(a, b, 6.0), None, "accent", 1.6)
    a, b, inside = at(view.cg)
    scene.line(x, y, a, b, "fwd", 1.6)
    if inside:
        u = min(max(view.unsure * per, 1.0), radius)
        scene.line(a - u, b, a + u, b, "fwd", 1.0)
    draw_cg(scene, a, b, 5.5)
    scene.path(circle(x, y, 4.0), "panel", "accent", 1.6)
    # Words below, to the left of the circle's right edge.
    y = middle[1] + radius
    scene.text(x + radius, y + 2.0, f"× {LOUPE:.0f}", 12, 400, "ink3", Anchor.END)
    for k, words in enumerate(view.below):
        scene.text(x + radius, y + 20.0 + 17.0 * k, words, 13, 500, "ink", Anchor.END)


# The arm and who wears it


# How it falls, how it pans


class DropView(Struct, frozen=True, eq=False):
    """A sled let go level: its `angles` (n,) (rad from hanging) every quarter of a second, `then` after all steps.

    `now` and `later` (s) are the drop times, None where there is none; `wished` (s) from and to; `words` beside.
    """

    angles: Sequence[float]
    then: Sequence[float]
    now: float | None
    later: float | None
    unsure: float
    wished: tuple[float, float]
    words: tuple[str, str]
    tone: str


def draw_drop(scene: Scene, view: DropView, area: tuple[float, float, float, float]) -> None:
    """Draw the quarter circle and the scale of times in `area` (left, top, width, height px)."""
    left, top, width, height = area
    scene.text(left, top + 16.0, "Drop time", 14, 600)
    if width > 240.0:
        scene.text(left + 78.0, top + 16.0, "let go level. One mark each 0.25 s", 12, 400, "ink3")
    radius = min(height - 52.0, 0.46 * width)
    x, y = left + 12.0, top + 36.0
    scene.path(arc(x, y, radius, 0.0, math.pi / 2.0), None, "rule2", 1.0, (1.2, 2.6) if not view.angles else ())
    scene.path(rect(x - 8.0, y - 5.0, 16.0, 10.0, 2), "p3", "accent", 1.4)
    for k, angle in enumerate(view.angles):
        a, b = x + radius * math.sin(angle), y + radius * math.cos(angle)
        last = k == len(view.angles) - 1
        scene.line(x, y, a, b, "ink" if last else "rule2", 2.0 if last else 1.0)
        scene.path(circle(a, b, 3.6), "ink" if last else "panel", "ink", 1.3)
    for angle in view.then:
        scene.path(circle(x + (radius + 9.0) * math.sin(angle), y + (radius + 9.0) * math.cos(angle), 2.2), "accent")
    scene.text(x + radius + 16.0, y + 4.0, "0 s", 12, 400, "ink2")
    beside = x + radius + 22.0
    room = left + width - beside - 6.0
    line = y + 34.0
    scene.text(beside, line, fitted(view.words[0], 13, 1.1 * room), 13, 600, view.tone)
    scene.text(beside, line + 18.0, fitted(view.words[1], 12, 1.1 * room), 12, 400, "ink2")
    if room < 96.0 or line + 74.0 > top + height:
        return
    most = max(3.5, 1.25 * (view.now or 0.0), 1.25 * view.wished[1])
    base = line + 48.0

    def at(time: float) -> float:
        return beside + 4.0 + (room - 12.0) * min(time / most, 1.0)

    scene.path(rect(at(view.wished[0]), base - 8.0, at(view.wished[1]) - at(view.wished[0]), 10.0), "tint")
    scene.line(beside, base + 2.0, at(most), base + 2.0, "ink2", 1.0)
    every = 1 if most < 7.0 else 2 if most < 14.0 else 5
    for second in range(0, int(most) + 1, every):
        scene.line(at(second), base + 2.0, at(second), base + 7.0, "ink2", 1.0)
        words = f"{second} s" if second + every > most else f"{second}"
        scene.text(at(second), base + 22.0, words, 12, 400, "ink2", Anchor.MIDDLE)
    if view.now is not None:
        u = 2.0 * view.unsure
        scene.line(at(max(view.now - u, 0.0)), base - 3.0, at(view.now + u), base - 3.0, "fwd", 1.4)
        scene.path(circle(at(view.now), base - 3.0, 4.5), "panel", view.tone, 1.8)
    if view.later is not None:
        scene.path(circle(at(view.later), base - 3.0, 3.6), "accent")
    if height > 150.0 and room > 130.0:
        scene.path(circle(beside + 4.0, base + 40.0, 2.4), "accent")
        scene.text(beside + 13.0, base + 44.0, "after every step", 12, 500, "accent")


class WobbleView(Struct, frozen=True, eq=False):
    """How far (rad) the post leans more in a steady pan (rad/s): `now` with its U, and `then` after all steps.

    NaN past the fastest pan. `shows` (rad) is where a picture shows it; `words` say the product of inertia.
    """

    pans: np.ndarray
    now: np.ndarray
    unsure: np.ndarray
    then: np.ndarray
    shows: float
    fastest: float | None
    words: tuple[str, str]


def draw_wobble(scene: Scene, view: WobbleView, area: tuple[float, float, float, float]) -> None:
    """Draw the wobble over the pan in `area` (left, top, width, height px)."""
    left, top, width, height = area
    scene.text(left, top + 16.0, "Pan wobble", 14, 600)
    if width > 330.0:
        scene.text(left + 88.0, top + 16.0, "how much further the post hangs off upright in a pan", 12, 400, "ink3")
    inner, right, upper, base = left + 34.0, left + width - 104.0, top + 32.0, top + height - 34.0
    if right - inner < 120.0:
        right = left + width - 14.0
    last = float(view.pans[-1])
    seen = np.degrees(np.concatenate([view.now[np.isfinite(view.now)], view.then[np.isfinite(view.then)]]))
    most = min(max(float(np.quantile(seen, 0.9)) if seen.size else 0.0, 3.0 * math.degrees(view.shows)), 24.0)
    step = next(s for s in (1.0, 2.0, 5.0, 10.0) if most / s <= 4.0 or s == 10.0)

    def x(pan: float) -> float:
        return inner + (right - inner) * pan / last

    def y(lean: float) -> float:
        return base - (base - upper) * min(max(math.degrees(lean), 0.0) / most, 1.0)

    scene.path(rect(inner, y(view.shows), right - inner, base - y(view.shows)), "tint", None, 0.0, (), 0.7)
    for k in range(int(most / step) + 1):
        level = y(math.radians(k * step))
        scene.line(inner, level, right, level, "ink2" if k == 0 else "rule2", 1.0)
        scene.text(inner - 6.0, level + 4.0, f"{k * step:g}°", 12, 400, "ink2", Anchor.END)
    most_marks = 5 if right - inner > 240.0 else 3
    every = next(s for s in (10, 20, 30, 60, 90, 180, 360) if math.degrees(last) / s <= most_marks or s == 360)
    whole = range(0, int(math.degrees(last)) + 1, every)
    for degrees in whole:
        words = f"{degrees}" + ("°/s" if degrees == whole[-1] else "")
        scene.text(x(math.radians(degrees)), base + 18.0, words, 12, 400, "ink2", Anchor.MIDDLE)
    scene.line(inner, y(view.shows), right, y(view.shows), "ink", 1.2, PREVIEW_DASH)
    _draw_band(scene, view, x, y, math.radians(most))
    past = [float(p) for p, v in zip(view.pans, view.now, strict=True) if np.isfinite(v) and v >= view.shows]
    if past:
        at = x(past[0])
        scene.line(at, y(view.shows), at, upper + 6.0, "ink2", 1.0)
        scene.path(circle(at, y(view.shows), 4.0), "panel", "ink", 1.4)
        words = f"shows from {math.degrees(past[0]):.0f}°/s"
        wide = text_width(words, 12) + 8.0
        if at + wide < right:
            scene.note(at + 6.0, upper + 14.0, words, 12, "ink")
        elif at - wide > inner:
            scene.note(at - 6.0, upper + 14.0, words, 12, "ink", Anchor.END)
    if view.fastest is not None and view.fastest < last:
        at = x(view.fastest)
        scene.line(at, upper, at, base, "fwd", 1.2)
        scene.note(
            at - 5.0,
            upper + 0.5 * (base - upper),
            f"upright to {math.degrees(view.fastest):.0f}°/s",
            12,
            "fwdT",
            Anchor.END,
        )
    if right < left + width - 60.0:
        scene.text(right + 8.0, y(view.shows) + 4.0, "shows", 12, 500)
        for k, words in enumerate(("product of", "inertia", *view.words)):
            scene.text(
                right + 8.0, upper + 10.0 + 15.0 * k, words, 12, 400 if k < 2 else 500, "ink2" if k < 2 else "ink"
            )


def _draw_band(
    scene: Scene, view: WobbleView, x: Callable[[float], float], y: Callable[[float], float], most: float
) -> None:
    rows = [
        (float(p), float(v), float(u))
        for p, v, u in zip(view.pans, view.now, view.unsure, strict=True)
        if np.isfinite(v) and v <= most
    ]
    if len(rows) > 1:
        upper = [(x(p), y(v + 2.0 * u)) for p, v, u in rows]
        lower = [(x(p), y(v - 2.0 * u)) for p, v, u in reversed(rows)]
        scene.path(polygon(upper + lower), "fwd", None, 0.0, (), 0.16)
        scene.path(polyline([(x(p), y(v)) for p, v, _ in rows]), None, "fwd", 2.0)
    pairs = zip(view.pans, view.then, strict=True)
    then = [(x(float(p)), y(float(v))) for p, v in pairs if np.isfinite(v) and v <= most]
    if len(then) > 1:
        scene.path(polyline(then), None, "accent", 1.8, PREVIEW_DASH)


__all__ = [
    "DropView",
    "SledView",
    "WearerView",
    "WobbleView",
    "draw_drop",
    "draw_sled",
    "draw_wearer",
    "draw_wobble",
    "turned",
]
