"""Draws a build's parts, to scale, into a scene: shared by every view and by the build sheet."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.core.assembly.resolve import BOX_CORNERS, Assembly, Positions
from equilix.core.hull import convex_hull
from equilix.core.kit.parts import Category, Shape
from equilix.core.operator.body import FOREARM, UPPER_ARM
from equilix.core.operator.head import Head
from equilix.present.drawing.figures import GHOST, bent, draw_head, draw_limb
from equilix.present.drawing.looks import look_of, seen
from equilix.present.drawing.motors import draw_motors
from equilix.present.drawing.scene import Command, PathItem, Point, Region, Scene, circle, polygon, sector
from equilix.present.drawing.silhouettes import Silhouette, Stroke, View, depth_of, fill_of, silhouette

PREVIEW_DASH = (4.0, 3.0)
DATUM_DASH = (9.0, 2.5, 1.5, 2.5)

GUESSED_DASH = (2.4, 2.0)

#: Letters that head the parts, without I and O.
_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"


def letter(index: int) -> str:
    """Return the letter of part number `index`: A, B … Z, then A2, B2 …"""
    turn, place = divmod(index, len(_LETTERS))
    return _LETTERS[place] + (str(turn + 1) if turn else "")


class Projection(Struct, frozen=True):
    """Rig frame (m) to pixels: side view shows x and z, top view x and y; `scale` in px per m.

    (`x0`, `y0`) is the pixel of the rig frame point (`at_x`, `at_v`); `pad_v` is the pad's height there.
    """

    view: View
    scale: float
    x0: float
    y0: float
    at_x: float
    at_v: float
    pad_v: float = 0.0

    def x(self, value: float) -> float:
        return self.x0 + (value - self.at_x) * self.scale

    def y(self, value: float) -> float:
        return self.y0 - (value - self.at_v) * self.scale

    def model(self, pixel: Point) -> Point:
        """Return what a pixel shows (m): how far ahead, and how high or how far to the left."""
        return (pixel[0] - self.x0) / self.scale + self.at_x, (self.y0 - pixel[1]) / self.scale + self.at_v

    def point(self, p: np.ndarray) -> Point:
        """Return the pixel of a point (3,) (m)."""
        return self.x(float(p[0])), self.y(float(p[2 if self.view is View.SIDE else 1]))


class PartBox(Struct, frozen=True):
    """Where a part is drawn: its index and its bounds in px."""

    index: int
    left: float
    top: float
    right: float
    bottom: float

    @property
    def centre(self) -> Point:
        return (self.left + self.right) / 2.0, (self.top + self.bottom) / 2.0

    @property
    def width(self) -> float:
        return self.right - self.left

    @property
    def height(self) -> float:
        return self.bottom - self.top


#: m. Parts of unknown size are drawn as a dashed box of this half size.
_UNSIZED = 0.03


@lru_cache(maxsize=256)
def _lies(assembly: Assembly, index: int, view: View) -> tuple[float, float, float, float]:
    """Return length and height (m) of a part as it is drawn, the angle (rad, up), and -1 if it is mirrored."""
    rotation = assembly.rotation[index]
    half = assembly.half_size[index] if assembly.sized[index] else np.full(3, _UNSIZED)
    down = 2 if view is View.SIDE else 1
    # The part's axis that lies most along the rig's x becomes the drawing's length.
    along = 0 if abs(rotation[0, 0]) >= abs(rotation[0, 1]) else 1
    if abs(rotation[0, 2]) > max(abs(rotation[0, 0]), abs(rotation[0, 1])):
        along = 2
    if view is View.SIDE:
        other = 2 if along != 2 else 0
    else:
        other = 1 if along == 0 else 0
    direction = rotation[:, along] * (1.0 if rotation[0, along] >= 0.0 else -1.0)
    angle = math.atan2(float(direction[down]), float(direction[0]))
    mirror = -1.0 if rotation[0, along] < 0.0 and along == 0 else 1.0
    return 2.0 * float(half[along]), 2.0 * float(half[other]), angle, mirror


@lru_cache(maxsize=2048)
def strokes_of(
    category: Category, kind: str, shape: Shape, view: View, width: float, height: float, angle: float, mirror: float
) -> Silhouette:
    """Return a part's silhouette turned as on the screen, about its own middle (px)."""
    cos, sin = math.cos(angle), math.sin(angle)
    strokes: list[Stroke] = []
    for stroke in silhouette(category, shape, view, width, height, seen(kind, category, view)):
        commands = tuple(_turned(command, cos, sin, mirror) for command in stroke.commands)
        if strokes and stroke.role == strokes[-1].role == "detail":
            # Fine lines that follow each other are painted as one: that halves what a drag paints.
            strokes[-1] = Stroke(strokes[-1].commands + commands, stroke.role)
        else:
            strokes.append(Stroke(commands, stroke.role))
    return tuple(strokes)


def _turned(command: Command, cos: float, sin: float, mirror: float) -> Command:
    values = [float(v) for v in command[1:]]
    turned: list[float] = []
    for u, v in zip(values[::2], values[1::2], strict=True):
        turned += (mirror * u * cos - v * sin, -(mirror * u * sin + v * cos))
    return (command[0], *turned)


def turned_outline(assembly: Assembly, part: int, across: int, up: int) -> list[tuple[float, float]] | None:
    """Return the outline (m, from its middle) of a turned part's box seen along an axis, None of an upright one."""
    if assembly.upright[part]:
        return None
    corners = (BOX_CORNERS * assembly.half_size[part]) @ assembly.rotation[part].T
    return [(float(x), float(y)) for x, y in convex_hull(corners[:, [across, up]])]


def draw_parts(
    scene: Scene,
    assembly: Assembly,
    positions: Positions,
    projection: Projection,
    selected: str | None = None,
    preview: bool = False,
    only: frozenset[int] | None = None,
) -> list[PartBox]:
    """Draw the parts back to front; return where each is. `preview` draws dashed accent outlines alone."""
    boxes = []
    order = sorted(
        range(len(assembly.parts)),
        key=lambda i: (
            depth_of(assembly.parts[i].category),
            float(positions.centre[i, 2 if projection.view is View.TOP else 1])
            * (1 if projection.view is View.TOP else -1),
        ),
    )
    for i in order:
        if only is not None and i not in only:
            continue
        part, placed_id = assembly.parts[i], assembly.build.parts[i].id
        x, y = projection.point(positions.centre[i])
        length, tall, angle, mirror = _lies(assembly, i, projection.view)
        lies = _Lies(
            projection.view,
            (round(x, 3), round(y, 3)),
            (length * projection.scale, tall * projection.scale),
            angle,
            mirror,
        )
        shape = part.outline.shape if part.outline is not None else None
        items = _drawn(part.category, look_of(part), shape, lies, placed_id == selected, preview)
        corners, bounds = _bounds(lies)
        scene.items += items
        if not preview:
            scene.regions.append(Region(("part", placed_id), corners))
            seen = 1 if projection.view is View.SIDE else 2
            draw_motors(scene, assembly, positions, i, seen, projection.point, projection.scale)
        boxes.append(PartBox(i, *bounds))
    boxes.sort(key=lambda box: box.index)
    return boxes


class _Lies(Struct, frozen=True):
    """How a part lies on the screen: its `centre` and `size` (px), turned up by `angle`, `mirror` -1 if mirrored."""

    view: View
    centre: Point
    size: tuple[float, float]
    angle: float
    mirror: float


@lru_cache(maxsize=1024)
def _drawn(
    category: Category, kind: str, shape: Shape | None, lies: _Lies, chosen: bool, preview: bool
) -> tuple[PathItem, ...]:
    """Return what a part is drawn of. Kept: of a rig of which one part slides most are where they were."""
    outline = "accent" if preview or chosen else "line"
    if shape is None:
        return (PathItem(polygon(_corners(lies)), None, outline, 1.3, PREVIEW_DASH),)
    items = []
    size = round(lies.size[0], 2), round(lies.size[1], 2)
    for stroke in strokes_of(category, kind, shape, lies.view, *size, round(lies.angle, 6), lies.mirror):
        if preview and stroke.role == "outline":
            items.append(PathItem(stroke.commands, None, "accent", 1.3, PREVIEW_DASH, 1.0, *lies.centre))
        elif preview:
            continue
        elif stroke.role == "detail":
            items.append(PathItem(stroke.commands, None, "accent" if chosen else "ghostL", 1.0, (), 1.0, *lies.centre))
        else:
            fill = "tint" if chosen else ("p2" if stroke.role == "dark" else fill_of(category))
            items.append(PathItem(stroke.commands, fill, outline, 2.0 if chosen else 1.25, (), 1.0, *lies.centre))
    return tuple(items)


def _corners(lies: _Lies) -> tuple[Point, ...]:
    """Return the corners of a part as it lies."""
    cos, sin = math.cos(lies.angle), math.sin(lies.angle)
    (x, y), (a, b) = lies.centre, (lies.size[0] / 2.0, lies.size[1] / 2.0)
    ux, uy, vx, vy = a * cos, -a * sin, -b * sin, -b * cos
    return (
        (x - ux - vx, y - uy - vy),
        (x + ux - vx, y + uy - vy),
        (x + ux + vx, y + uy + vy),
        (x - ux + vx, y - uy + vy),
    )


# Kept as what they bound is, see `_drawn`.
@lru_cache(maxsize=1024)
def _bounds(lies: _Lies) -> tuple[tuple[Point, ...], tuple[float, float, float, float]]:
    """Return the corners within which the mouse meets a part, and the left, top, right and bottom of its box (px)."""
    corners = _corners(lies)
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    left, top, right, bottom = min(xs), min(ys), max(xs), max(ys)
    return _grown(corners, right - left, bottom - top), (left, top, right, bottom)


def _grown(corners: tuple[Point, ...], wide: float, high: float) -> tuple[Point, ...]:
    """Return the corners moved apart so that a thin part can still be met by the mouse (24 px)."""
    fx, fy = max(1.0, 14.0 / max(wide, 1.0)), max(1.0, 14.0 / max(high, 1.0))
    if fx == fy == 1.0:
        return corners
    (x1, y1), _, (x2, y2), _ = corners
    cx, cy = (x1 + x2) / 2.0, (y1 + y2) / 2.0
    return tuple((cx + (x - cx) * fx, cy + (y - cy) * fy) for x, y in corners)


def bounds(analysis: Analysis) -> tuple[np.ndarray, np.ndarray]:
    """Return the low and high corners (3,) (m) of all parts, the contact included."""
    centre, edges = analysis.positions.centre, analysis.assembly.edges
    if len(centre) == 0:
        return np.array([-0.2, -0.1, -0.2]), np.array([0.2, 0.1, 0.2])
    edges = np.maximum(edges, 0.01)
    return (centre - edges).min(axis=0), (centre + edges).max(axis=0)


def draw_cg(scene: Scene, x: float, y: float, radius: float = 10.5) -> None:
    """Draw the quartered circle of a centre of gravity."""
    scene.put(circle(0.0, 0.0, radius + 3.0), x, y, "paper", None, 0.0, (), 0.9)
    scene.put(circle(0.0, 0.0, radius), x, y, "paper", "ink", 1.6)
    scene.put(sector(0.0, 0.0, radius, -math.pi / 2, 0.0), x, y, "ink")
    scene.put(sector(0.0, 0.0, radius, math.pi / 2, math.pi), x, y, "ink")


def draw_operator(
    scene: Scene,
    projection: Projection,
    pad: np.ndarray,
    head: Head,
    hands: Sequence[np.ndarray],
    operator: Operator,
    floor: float,
) -> None:
    """Draw who wears a rig whose `pad` (3,) (m) is on the shoulder: head, trunk, the near arm; cut off at `floor`."""
    draw_ghost(scene, projection, pad, head, floor)
    if hands:
        nearest = min(hands, key=lambda point: float(point[1]))
        joint, hand = (float(pad[0]), float(pad[2]) - 0.045), (float(nearest[0]), float(nearest[2]))
        elbow = bent(joint, hand, UPPER_ARM * operator.stature, (FOREARM + 0.05) * operator.stature)
        spots = [(projection.x(x), projection.y(z)) for x, z in (joint, elbow, hand)]
        for (a, b), (wide, narrow) in zip(pairwise(spots), ((0.048, 0.036), (0.036, 0.026)), strict=True):
            draw_limb(scene, a, b, wide * projection.scale, narrow * projection.scale, GHOST)


def draw_ghost(scene: Scene, projection: Projection, pad: np.ndarray, head: Head, floor: float) -> None:
    """Draw head and trunk of somebody on whose shoulder `pad` (3,) (m) rests, cut off at `floor` (px)."""
    px, pz = float(pad[0]), float(pad[2])
    s = projection.scale
    top = projection.y(pz)
    back, front = projection.x(px - 0.115), projection.x(px + 0.105)
    scene.path(
        (
            ("M", back, floor),
            ("L", back, top + 0.11 * s),
            ("C", back, top + 0.02 * s, projection.x(px - 0.07), top, projection.x(px), top),
            ("C", projection.x(px + 0.07), top + 0.01 * s, front, top + 0.05 * s, front, top + 0.13 * s),
            ("L", projection.x(px + 0.085), floor),
        ),
        "p1",
        "ghostL",
        1.0,
        (),
        0.55,
    )
    middle = projection.x(float(head.centre[0])), projection.y((head.low + head.high) / 2.0)
    draw_head(scene, *middle, 2.0 * head.half_x * s, (head.high - head.low) * s, GHOST)
