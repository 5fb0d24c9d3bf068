"""What each kind of part looks like from the side and from above, to its own size.

Shapes are drawn in a box of `w` by `h` px about the origin, u to the front (right), v up; `Drawn`
keeps their corners so that hatching and hit-testing can use them.
"""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum

from msgspec import Struct

from equilix.core.kit.parts import Category, Shape
from equilix.present.drawing.scene import Command, Point, circle, polygon, polyline, rect


class View(StrEnum):
    SIDE = "side"
    TOP = "top"
    FRONT = "front"


class Stroke(Struct, frozen=True):
    """One stroke of a silhouette: `role` is "outline", "detail" or "dark" (fitting in the darker fill)."""

    commands: tuple[Command, ...]
    role: str


Silhouette = tuple[Stroke, ...]
Draw = Callable[[float, float], Silhouette]


def silhouette(category: Category, shape: Shape, view: View, w: float, h: float, own: Draw | None = None) -> Silhouette:
    """Return the strokes of a part of `category`, `w` long and `h` high (or wide, from above or ahead), in px.

    `own` draws a kind that does not look as what it counts as.
    """
    draw = own or {View.SIDE: _SIDE, View.TOP: _TOP, View.FRONT: {}}[view].get(category)
    if draw is None or min(w, h) < _LEAST.get(category, 3.0):
        along = shape is Shape.CYLINDER and view is not View.FRONT
        draw = draw_barrel if along else _box
    return draw(w, h)


def _outline(*points: Point) -> Stroke:
    return Stroke(polygon(points), "outline")


def _box(w: float, h: float) -> Silhouette:
    return (Stroke(rect(-w / 2, -h / 2, w, h, 2.0), "outline"),)


def draw_body(w: float, h: float) -> Silhouette:
    vent_w, vent_h = min(34.0, w * 0.3), min(36.0, h * 0.42)
    x, y = -w / 2 + w * 0.07, -h / 2 + h * 0.08
    lines = [
        Stroke(polyline(((x + 5, y + vent_h * t), (x + vent_w - 5, y + vent_h * t))), "detail")
        for t in (0.25, 0.45, 0.65, 0.85)
    ]
    return (
        Stroke(rect(-w / 2, -h / 2, w, h, 3.0), "outline"),
        Stroke(rect(x, y, vent_w, vent_h, 2.0), "detail"),
        *lines,
    )


def _body_top(w: float, h: float) -> Silhouette:
    return (
        Stroke(rect(-w / 2, -h / 2, w, h, 3.0), "outline"),
        Stroke(rect(-w / 2 + w * 0.12, h / 2 - 10 - h * 0.2, w * 0.3, h * 0.2, 2.0), "detail"),
    )


def draw_barrel(w: float, h: float) -> Silhouette:
    """A lens: mount neck, ringed barrel, wider front."""
    neck, front = h * 0.34, h / 2
    mid = h * 0.43
    x = -w / 2
    shape = (
        (x, -neck),
        (x + w * 0.07, -neck),
        (x + w * 0.07, -mid),
        (x + w * 0.70, -mid),
        (x + w * 0.76, -front),
        (x + w, -front),
        (x + w, front),
        (x + w * 0.76, front),
        (x + w * 0.70, mid),
        (x + w * 0.07, mid),
        (x + w * 0.07, neck),
        (x, neck),
    )
    rings = []
    for start in (0.14, 0.33, 0.52):
        width = w * 0.1
        left = x + w * start
        rings.append(Stroke(rect(left, -mid - 1.5, width, 2 * mid + 3, 1.0), "dark"))
        count = max(2, int(width / 4))
        rings += [
            Stroke(polyline(((left + width * i / count, -mid), (left + width * i / count, mid))), "detail")
            for i in range(1, count)
        ]
    return (_outline(*shape), *rings)


def _matte(w: float, h: float) -> Silhouette:
    back = w * 0.45
    x = -w / 2
    inner = h * 0.39
    return (
        _outline((x, -inner), (x + back, -inner), (x + w, -h / 2), (x + w, h / 2), (x + back, inner), (x, inner)),
        Stroke(polyline(((x + back, -inner), (x + back, inner))), "detail"),
        Stroke(polyline(((x + back * 0.5, -inner), (x + back * 0.5, inner))), "detail"),
    )


def _battery(w: float, h: float) -> Silhouette:
    inset = min(8.0, w * 0.2)
    ridges = [Stroke(polyline(((-w / 2 + inset, h * t), (w / 2 - inset, h * t))), "detail") for t in (0.34, 0.26, 0.18)]
    return (Stroke(rect(-w / 2, -h / 2, w, h, 4.0), "outline"), *ridges)


def _battery_plate(w: float, h: float) -> Silhouette:
    foot = min(h * 0.16, 16.0)
    return (
        Stroke(rect(-w / 2, -h / 2 + foot, w, h - foot, 2.0), "outline"),
        Stroke(rect(-w / 2 - 2, -h / 2, w + 4, foot + 2, 2.0), "dark"),
    )


def draw_handle(w: float, h: float) -> Silhouette:
    post = min(13.0, w * 0.12)
    bar = min(15.0, h * 0.35)
    x, y = -w / 2, -h / 2
    left, right = x + w * 0.10, x + w * 0.45
    shape = (
        (left, y),
        (left, h / 2 - 5),
        (left + 5, h / 2),
        (w / 2, h / 2),
        (w / 2, h / 2 - bar),
        (right + post, h / 2 - bar),
        (right + post, y),
        (right, y),
        (right, h / 2 - bar),
        (left + post, h / 2 - bar),
        (left + post, y),
    )
    return (_outline(*shape),)


def _monitor(w: float, h: float) -> Silhouette:
    glass = max(2.0, w * 0.22)
    return (
        Stroke(rect(-w / 2, -h / 2, w, h, 2.0), "outline"),
        Stroke(rect(-w / 2, -h / 2 + 2, glass, h - 4, 1.0), "dark"),
    )


def _arm(w: float, h: float) -> Silhouette:
    t = min(9.0, w * 0.6, h * 0.6)
    if w < h:
        return (
            Stroke(rect(-t / 2, -h / 2, t, h, 2.0), "outline"),
            Stroke(circle(0, h / 2 - t / 2, t * 0.35), "detail"),
        )
    return (
        _outline(
            (-w / 2, -h / 2),
            (-w / 2 + t, -h / 2),
            (w / 2, h / 2 - t),
            (w / 2, h / 2),
            (w / 2 - t, h / 2),
            (-w / 2, t - h / 2),
        ),
    )


def draw_grip(w: float, h: float) -> Silhouette:
    ring = min(w * 0.42, h * 0.1)
    teeth = Stroke(circle(0, h / 2 - ring - 1, ring), "dark")
    arm = Stroke(rect(-w * 0.14, h * 0.12, w * 0.28, h * 0.26, 1.0), "outline")
    return (
        arm,
        teeth,
        Stroke(circle(0, h / 2 - ring - 1, ring * 0.4), "detail"),
        Stroke(rect(-w * 0.42, -h / 2, w * 0.84, h * 0.64, w * 0.3), "outline"),
    )


def _pad(w: float, h: float) -> Silhouette:
    """A block with a hollow that lies on the shoulder."""
    lip = w * 0.13
    hollow = h * 0.42
    x, y = w / 2, -h / 2
    commands: tuple[Command, ...] = (
        ("M", -x + 3, h / 2),
        ("L", x - 3, h / 2),
        ("L", x, y + 3),
        ("L", x - lip, y),
        ("C", x - lip * 1.8, y + hollow * 1.1, -x + lip * 1.8, y + hollow * 1.1, -x + lip, y),
        ("L", -x, y + 3),
        ("Z",),
    )
    return (Stroke(commands, "outline"),)


def _sender(w: float, h: float) -> Silhouette:
    ribs = [
        Stroke(polyline(((-w / 2 + 3, -h / 2 + h * t), (w / 2 - 3, -h / 2 + h * t))), "detail")
        for t in (0.3, 0.45, 0.6, 0.75)
    ]
    return (Stroke(rect(-w / 2, -h / 2, w, h, 2.0), "outline"), *ribs)


def _rods_side(w: float, h: float) -> Silhouette:
    return (Stroke(rect(-w / 2, -h / 2, w, h, min(h / 2, 4.0)), "outline"),)


def _rods_top(w: float, h: float) -> Silhouette:
    rod = h * 0.2
    return (
        Stroke(rect(-w / 2, h / 2 - rod, w, rod, min(rod / 2, 4.0)), "outline"),
        Stroke(rect(-w / 2, -h / 2, w, rod, min(rod / 2, 4.0)), "outline"),
    )


def _clamp_top(w: float, h: float) -> Silhouette:
    return (Stroke(rect(-w / 2, -h / 2, w, h, 3.0), "outline"),)


def _lens_support(w: float, h: float) -> Silhouette:
    foot = h * 0.34
    return (
        Stroke(rect(-w / 2, -h / 2, w, foot, 2.0), "outline"),
        Stroke(rect(-w * 0.14, -h / 2 + foot, w * 0.28, h * 0.36, 0.0), "outline"),
        _outline((-w * 0.3, h / 2), (w * 0.3, h / 2), (w * 0.2, h * 0.2), (-w * 0.2, h * 0.2)),
    )


def _focus(w: float, h: float) -> Silhouette:
    foot = h * 0.22
    gear = min(w * 0.42, h * 0.22)
    return (
        Stroke(rect(-w * 0.3, -h / 2, w * 0.6, foot, 2.0), "dark"),
        Stroke(rect(-w / 2, -h / 2 + foot, w, h - foot - gear, 4.0), "outline"),
        Stroke(circle(0, h / 2 - gear, gear), "outline"),
        Stroke(circle(0, h / 2 - gear, gear * 0.35), "detail"),
    )


def _weight(w: float, h: float) -> Silhouette:
    return (
        Stroke(rect(-w / 2, -h / 2, w, h, 2.0), "outline"),
        Stroke(polyline(((-w / 2, 0), (w / 2, 0))), "detail"),
    )


def _audio(w: float, h: float) -> Silhouette:
    if w < 1.5 * h:
        return _sender(w, h)
    tube = h * 0.4
    return (
        Stroke(rect(-w / 2, h / 2 - tube, w, tube, tube / 2), "outline"),
        Stroke(rect(-4, -h / 2, 8, h - tube, 1.0), "outline"),
    )


def _cage(w: float, h: float) -> Silhouette:
    t = min(8.0, w * 0.12)
    return (
        Stroke(
            (*rect(-w / 2, -h / 2, w, h, 3.0), *reversed_rect(-w / 2 + t, -h / 2 + t, w - 2 * t, h - 2 * t)), "outline"
        ),
    )


def reversed_rect(x: float, y: float, w: float, h: float) -> tuple[Command, ...]:
    """Return a rectangle run the other way round, which cuts a hole."""
    return polygon(((x, y), (x, y + h), (x + w, y + h), (x + w, y)))


_SIDE: dict[Category, Draw] = {
    Category.BODY: draw_body,
    Category.CAGE: _cage,
    Category.LENS: draw_barrel,
    Category.ADAPTER: _box,
    Category.MATTE_BOX: _matte,
    Category.BATTERY: _battery,
    Category.BATTERY_PLATE: _battery_plate,
    Category.HANDLE: draw_handle,
    Category.MONITOR: _monitor,
    Category.ARM: _arm,
    Category.GRIP: draw_grip,
    Category.PAD: _pad,
    Category.SENDER: _sender,
    Category.RODS: _rods_side,
    Category.LENS_SUPPORT: _lens_support,
    Category.FOCUS: _focus,
    Category.WEIGHT: _weight,
    Category.AUDIO: _audio,
}
_TOP: dict[Category, Draw] = {
    Category.BODY: _body_top,
    Category.LENS: draw_barrel,
    Category.MATTE_BOX: _matte,
    Category.RODS: _rods_top,
    Category.CLAMP: _clamp_top,
    Category.SENDER: _sender,
}

#: px. Kinds with details of fixed size are drawn plain when smaller than this.
_LEAST = {Category.BODY: 26.0, Category.AUDIO: 10.0, Category.CAGE: 18.0}

#: Which fill a part gets: bodies light, fittings darker, what touches the operator darkest.
FILL: dict[Category, str] = {
    Category.PAD: "p3",
    Category.GRIP: "p3",
    Category.PLATE: "p2",
    Category.RODS: "p2",
    Category.CLAMP: "p2",
    Category.BATTERY_PLATE: "p2",
    Category.LENS_SUPPORT: "p2",
    Category.MATTE_BOX: "p2",
    Category.HANDLE: "p2",
    Category.ARM: "p2",
    Category.WEIGHT: "p3",
    Category.GIMBAL: "p3",
    Category.SLED: "p2",
    Category.BEARING: "p3",
}


def fill_of(category: Category) -> str:
    """Return the colour token of a category's fill."""
    return FILL.get(category, "p1")


#: Back to front in the side view; what isn't named lies in the middle.
_DEPTH = {
    Category.GIMBAL: 0,
    Category.SLED: 0,
    Category.RODS: 0,
    Category.PAD: 1,
    Category.PLATE: 2,
    Category.BATTERY_PLATE: 3,
    Category.CAGE: 5,
    Category.LENS: 6,
    Category.MATTE_BOX: 7,
    Category.LENS_SUPPORT: 8,
    Category.FOCUS: 8,
    Category.CLAMP: 9,
    Category.GRIP: 10,
}


def depth_of(category: Category) -> int:
    """Return the drawing order of a category, small ones first."""
    return _DEPTH.get(category, 4)
