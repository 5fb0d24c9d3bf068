"""Scales of slides below a drawing, and the drawing that they belong to."""

from __future__ import annotations

import math
from functools import lru_cache

from msgspec import Struct

from equilix.core.units import Kind
from equilix.present.drawing.rig_drawing import PREVIEW_DASH, Projection
from equilix.present.drawing.scene import Anchor, Command, Region, Scene, rect, text_width
from equilix.present.drawing.tags import Place
from equilix.present.units import System, figure, number

#: In the place of a placed part's id: a scale of the support's own, as of a plate in its clamp.
OWN_SCALE = "*"


class SlideScale(Struct, frozen=True):
    """A slide's scale below the drawing: settings `low` to `high` (m) between two pixels, and what it shows.

    Marks count from its low end, or as they are, with their sign, if it is `signed`.
    """

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
    signed: bool = False

    def x(self, setting: float) -> float:
        """Return the pixel of a setting (m)."""
        span = self.high - self.low
        return self.left + (setting - self.low) / span * (self.right - self.left) if span else self.left

    def setting_at(self, x: float) -> float:
        """Return the setting (m) at a pixel."""
        return self.low + (x - self.left) / (self.right - self.left) * (self.high - self.low)


class Elevation(Struct, frozen=True):
    """What the elevation shows, and how to read the mouse on it."""

    scene: Scene
    projection: Projection
    scales: tuple[SlideScale, ...]
    line_x: float
    tags: dict[int, Place]
    #: Of a picture of several views: how each lies.
    views: tuple[Standing, ...] = ()


class Standing(Struct, frozen=True):
    """How a view lies: its `scale` (px per m) and its middle, to the right and up from the outermost part (m)."""

    scale: float
    across: float
    up: float


def draw_scale(scene: Scene, scale: SlideScale, system: System, room: float = math.inf) -> None:
    """Draw one slide's scale with its thumb, its name and where it stands, and let the mouse meet it.

    Where there is no `room` (px) for both, the name goes and the mark stays.
    """
    y = scale.y
    scene.line(scale.left, y, scale.right, y, "ink2", 1.0)
    ticks = _ticks(scale.right - scale.left, (scale.high - scale.low) / (math.radians(1.0) if scale.turns else 0.001))
    scene.put(ticks, scale.left, y, None, "ink2", 0.9)
    for x in (scale.left, scale.right):
        scene.line(x, y - 7, x, y + 3, "ink2", 1.4)
    if scale.preview is not None:
        _thumb(scene, scale.x(scale.preview), y, "accent", PREVIEW_DASH)
    _thumb(scene, scale.x(min(max(scale.setting, scale.low), scale.high)), y, "ink", ())
    color = "accent" if scale.preview is not None else "ink2"
    middle = (scale.left + scale.right) / 2
    said = f"{scale.name}  {scale_words(scale, system)}"
    if text_width(said, 12.5) > room:
        said = scale_words(scale, system)
    if scale.signed:
        # The support's own scale lies where plumb lines pass.
        wide = text_width(said, 12.5)
        scene.put(rect(0.0, 0.0, wide + 6.0, 16.0, 2.0), middle - wide / 2.0 - 3.0, y + 8.0, "paper", None, 0.0)
    scene.text(middle, y + 20, said, 12.5, 500, color, Anchor.MIDDLE)
    grab = 14.0
    left, right = scale.left - grab, scale.right + grab
    corners = ((left, y - 13), (right, y - 13), (right, y + 24), (left, y + 24))
    scene.regions.append(Region(("scale", scale.placed_id), corners))


@lru_cache(maxsize=256)
def _ticks(length: float, units: float) -> tuple[Command, ...]:
    """Return the ticks of a scale of so many mm or degrees over `length` px, from (0, 0) to the right."""
    px_per_unit = length / units
    tick = next((t for t in (10, 20, 50, 100) if t * px_per_unit >= 5), 200)
    ticks: list[Command] = []
    for n in range(int(units / tick + 1e-6) + 1):
        x = n * tick * px_per_unit
        ticks += (("M", x, 0.0), ("L", x, -6.0 if n % 5 == 0 else -4.0))
    return tuple(ticks)


def scale_words(scale: SlideScale, system: System) -> str:
    """Return where a slide stands, as a mark, or a turn's angle."""
    if scale.turns:
        return f"{number(math.degrees(scale.setting), 0, sign=True)}°"
    zero = 0.0 if scale.signed else scale.low
    if scale.preview is None:
        return figure(scale.setting - zero, Kind.LENGTH, system, sign=scale.signed)
    after = figure(scale.preview - zero, Kind.LENGTH, system, sign=scale.signed)
    return f"{figure(scale.setting - zero, Kind.LENGTH, system, unit=False, sign=scale.signed)} to {after}"


def _thumb(scene: Scene, x: float, y: float, color: str, dash: tuple[float, ...]) -> None:
    scene.put(rect(-4.5, -9.0, 9.0, 16.0, 3.0), x, y, "paper", color, 1.4, dash)
    if not dash:
        scene.line(x, y - 5, x, y + 3, color, 1.2)
