"""Scales of slides below a drawing, and the drawing that they belong to."""

from __future__ import annotations

import math
from dataclasses import dataclass

from equilix.present.drawing.rig_drawing import PREVIEW_DASH, Projection
from equilix.present.drawing.scene import Anchor, Command, Region, Scene, polyline, rect
from equilix.present.drawing.tags import Place
from equilix.present.units import Kind, System, figure, number

#: In the place of a placed part's id: a scale of the support's own, as of a plate in its clamp.
OWN_SCALE = "*"


@dataclass(frozen=True, slots=True)
class SlideScale:
    """A slide's scale below the drawing: settings `low` to `high` (m) between two pixels, and what it shows."""

    placed_id: str
    name: str
    left: float
    right: float
    y: float
    low: float
    high: float
    setting: float
    preview: float | None
    turns: bool = False

    def x(self, setting: float) -> float:
        """Return the pixel of a setting (m)."""
        span = self.high - self.low
        return self.left + (setting - self.low) / span * (self.right - self.left) if span else self.left

    def setting_at(self, x: float) -> float:
        """Return the setting (m) at a pixel."""
        return self.low + (x - self.left) / (self.right - self.left) * (self.high - self.low)


@dataclass(frozen=True, slots=True)
class Elevation:
    """What the elevation shows, and how to read the mouse on it."""

    scene: Scene
    projection: Projection
    scales: tuple[SlideScale, ...]
    line_x: float
    tags: dict[int, Place]
    #: Of a picture of several views: how each lies.
    views: tuple[Standing, ...] = ()


@dataclass(frozen=True, slots=True)
class Standing:
    """How a view lies: its `scale` (px per m) and its middle, to the right and up from the outermost part (m)."""

    scale: float
    across: float
    up: float


def draw_scale(scene: Scene, scale: SlideScale, system: System, words: bool = True) -> None:
    """Draw one slide's scale with its thumb, its name and where it stands, and let the mouse meet it."""
    y = scale.y
    scene.line(scale.left, y, scale.right, y, "ink2", 1.0)
    per_unit = math.radians(1.0) if scale.turns else 0.001
    px_per_unit = (scale.right - scale.left) / ((scale.high - scale.low) / per_unit)
    tick = next((t for t in (10, 20, 50, 100) if t * px_per_unit >= 5), 200)
    ticks: list[Command] = []
    for n in range(int((scale.high - scale.low) / per_unit / tick + 1e-6) + 1):
        x = scale.left + n * tick * px_per_unit
        ticks += (("M", x, y), ("L", x, y - (6 if n % 5 == 0 else 4)))
    scene.path(ticks, None, "ink2", 0.9)
    for x in (scale.left, scale.right):
        scene.line(x, y - 7, x, y + 3, "ink2", 1.4)
    if scale.preview is not None:
        _thumb(scene, scale.x(scale.preview), y, "accent", PREVIEW_DASH)
    _thumb(scene, scale.x(min(max(scale.setting, scale.low), scale.high)), y, "ink", ())
    color = "accent" if scale.preview is not None else "ink2"
    middle = (scale.left + scale.right) / 2
    if words:
        scene.text(middle, y + 20, f"{scale.name}  {scale_words(scale, system)}", 12.5, 500, color, Anchor.MIDDLE)
    grab = 14.0
    left, right = scale.left - grab, scale.right + grab
    corners = ((left, y - 13), (right, y - 13), (right, y + 24), (left, y + 24))
    scene.regions.append(Region(("scale", scale.placed_id), corners))


def scale_words(scale: SlideScale, system: System) -> str:
    """Return where a slide stands, as a mark counted from its low end, or a turn's angle."""
    if scale.turns:
        return f"{number(math.degrees(scale.setting), 0, sign=True)}°"
    now = scale.setting - scale.low
    if scale.preview is None:
        return figure(now, Kind.LENGTH, system)
    after = figure(scale.preview - scale.low, Kind.LENGTH, system)
    return f"{figure(now, Kind.LENGTH, system, unit=False)} to {after}"


def _thumb(scene: Scene, x: float, y: float, color: str, dash: tuple[float, ...]) -> None:
    scene.path(rect(x - 4.5, y - 9, 9, 16, 3), "paper", color, 1.4, dash)
    if not dash:
        scene.path(polyline(((x, y - 5), (x, y + 3))), None, color, 1.2)
