"""Who wears a sled, from the side and from ahead."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.operator.body import HALF_SHOULDERS, HIP, KNEE, SHOULDER
from equilix.present.drawing.rig_drawing import (
    DATUM_DASH,
    PREVIEW_DASH,
    Projection,
    draw_parts,
    turned_outline,
)
from equilix.present.drawing.scene import (
    Anchor,
    Scene,
    circle,
    fitted,
    polygon,
    polyline,
    rect,
)
from equilix.present.drawing.silhouettes import View, fill_of

#: px: less height than this is too little for a picture of a sled; and for an arm's lift with its words.
_LEAST, LIFT = 90.0, 64.0

#: Of stature: half the trunk's depth and breadth, half a leg's and an arm's thickness, half a head's height; assumed.
DEEP, BROAD, LEG, HEAD = 0.065, 0.095, 0.036, 0.066


class WearerView(Struct, frozen=True, eq=False):
    """Who wears a vest, body frame (m): `stature`, the `socket` (3,) and the `bearing` (3,), with the arm's way.

    `foot` and `top` are how low and how high the bearing goes, `wanted` where it shall float, `floats` whether that is
    known. The wearer leans back by `back` and aside by `aside` (m). `said` are words above, `notes` below.
    """

    stature: float
    socket: np.ndarray
    bearing: np.ndarray
    foot: float
    top: float
    wanted: float
    floats: bool
    back: float
    aside: float
    said: tuple[str, str]
    tone: str
    notes: tuple[str, str]
    height_words: tuple[str, str]


def draw_wearer(
    scene: Scene, analysis: Analysis, view: WearerView, area: tuple[float, float, float, float], shift: np.ndarray
) -> None:
    """Draw the wearer from the right side and, where there is room, from ahead; `shift` (3,) takes rig to body (m)."""
    left, top, width, height = area
    both = width >= 330.0
    wide = width * (0.62 if both else 1.0)
    floor = top + height - 40.0
    high = max(view.top + 0.42, 1.03 * view.stature)
    scale = (floor - top - 40.0) / high
    reach = float(view.bearing[0]) + 0.34 + 0.20
    scale = min(scale, (wide - 74.0) / reach)
    feet = left + 0.22 * scale + 8.0
    scene.line(left, floor, left + width, floor, "ink", 1.2)
    _draw_side(scene, analysis, view, (feet, floor, scale), shift)
    if (view.top - view.foot) * scale >= LIFT:
        _draw_lift(scene, view, left + wide - 58.0, floor, scale)
    if both:
        _draw_front(scene, analysis, view, (left + wide + 0.5 * (width - wide), floor, scale), shift)
        scene.text(left + wide + 0.5 * (width - wide), floor + 17.0, "from the front", 12, 400, "ink3", Anchor.MIDDLE)
    scene.text(left, top + 14.0, fitted(view.said[0], 13, 1.1 * width), 13, 600, view.tone)
    scene.text(left, top + 31.0, fitted(view.said[1], 12, 1.1 * width), 12, 400, "ink2")
    scene.text(left, floor + 17.0, fitted(view.notes[0], 12, wide), 12, 500)
    scene.text(left, floor + 33.0, fitted(view.notes[1], 12, 1.1 * width), 12, 400, "ink2")


def _limb(scene: Scene, a: tuple[float, float], b: tuple[float, float], half: float, fill: str) -> None:
    """Draw a rounded limb from a to b (px)."""
    way = math.atan2(b[1] - a[1], b[0] - a[0])
    across = (-math.sin(way) * half, math.cos(way) * half)
    scene.path(
        polygon(
            (
                (a[0] + across[0], a[1] + across[1]),
                (b[0] + across[0], b[1] + across[1]),
                (b[0] - across[0], b[1] - across[1]),
                (a[0] - across[0], a[1] - across[1]),
            )
        ),
        fill,
        "ghostL",
        1.0,
    )


def _draw_body(
    scene: Scene, stature: float, at: tuple[float, float, float], lean: float, half: float, legs: float
) -> None:
    """Draw a standing body at `at` (feet x, floor y, px per m), leaned by `lean` (m at its CG) to the left."""
    feet, floor, scale = at
    h = stature * scale

    def place(height: float, aside: float = 0.0) -> tuple[float, float]:
        return feet + aside * h - lean * scale * height / HIP, floor - height * h

    hip = place(HIP)
    for way in (-1.0, 1.0) if legs else (0.0,):
        knee = place(KNEE, way * legs)
        _limb(scene, (feet + way * legs * h, floor - 0.02 * h), knee, 0.75 * LEG * h, "p1")
        _limb(scene, knee, (hip[0] + way * legs * h, hip[1]), LEG * h, "p1")
    shoulder = place(SHOULDER)
    trunk = [
        (hip[0] - half * 0.9 * h, hip[1] + 0.02 * h),
        (hip[0] + half * 0.9 * h, hip[1] + 0.02 * h),
        (shoulder[0] + half * h, shoulder[1]),
        (shoulder[0] - half * h, shoulder[1]),
    ]
    scene.path(polygon(trunk), "p1", "ghostL", 1.0)
    head = place(0.935)
    scene.path(circle(*head, HEAD * h), "p1", "ghostL", 1.0)
    vest = [
        (hip[0] - half * 1.02 * h, hip[1] - 0.04 * h),
        (hip[0] + half * 1.02 * h, hip[1] - 0.04 * h),
        (shoulder[0] + half * 0.92 * h, shoulder[1] + 0.02 * h),
        (shoulder[0] - half * 0.92 * h, shoulder[1] + 0.02 * h),
    ]
    scene.path(polygon(vest), "p2", "line", 1.2)


def _draw_side(
    scene: Scene, analysis: Analysis, view: WearerView, at: tuple[float, float, float], shift: np.ndarray
) -> None:
    feet, floor, scale = at
    h = view.stature * scale
    _draw_body(scene, view.stature, at, view.back, DEEP, 0.0)
    back = view.back * float(view.socket[2]) / (HIP * view.stature)
    socket = (feet + (float(view.socket[0]) - back) * scale, floor - float(view.socket[2]) * scale)

    def bearing(height: float) -> tuple[float, float]:
        return feet + (float(view.bearing[0]) - back) * scale, floor - height * scale

    for height in (view.foot, view.top):
        scene.path(polyline(_links(socket, bearing(height))), None, "ink2", 1.2, PREVIEW_DASH)
    there = bearing(float(view.bearing[2]))
    scene.line(there[0], there[1], there[0], floor, "ink3", 1.0, DATUM_DASH)
    scene.line(socket[0], socket[1], socket[0], floor, "ink3", 1.0, DATUM_DASH)
    shown = Projection(View.SIDE, scale, there[0], there[1], *(float(v) for v in (view.bearing - shift)[[0, 2]]))
    draw_parts(scene, analysis.assembly, analysis.positions, shown)
    links = _links(socket, there)
    for a, b in pairwise(links):
        scene.line(*a, *b, "ink", 4.0)
    for spot in links:
        scene.path(circle(*spot, 3.0), "panel", "ink", 1.2)
    # The operator's own arm only guides: from the shoulder to the post below the bearing.
    shoulder = (feet - view.back * SHOULDER / HIP * scale, floor - SHOULDER * h)
    hand = (there[0], there[1] + 0.10 * scale)
    elbow = (
        (shoulder[0] + hand[0]) / 2.0 - 0.02 * h,
        max((shoulder[1] + hand[1]) / 2.0 + 0.07 * h, shoulder[1] + 0.1 * h),
    )
    _limb(scene, shoulder, elbow, 0.02 * h, "p1")
    _limb(scene, elbow, hand, 0.016 * h, "p1")


def _links(socket: tuple[float, float], bearing: tuple[float, float]) -> list[tuple[float, float]]:
    """Return the arm's joints (px) from socket to bearing: its elbow hangs below the line between them."""
    x, y = (socket[0] + bearing[0]) / 2.0, (socket[1] + bearing[1]) / 2.0
    down = 0.28 * math.hypot(bearing[0] - socket[0], bearing[1] - socket[1])
    return [socket, (x, y + down), bearing]


def _draw_front(
    scene: Scene, analysis: Analysis, view: WearerView, at: tuple[float, float, float], shift: np.ndarray
) -> None:
    """Draw the wearer from ahead: what is left stands at the right."""
    middle, floor, scale = at
    _draw_body(scene, view.stature, at, view.aside, BROAD + (HALF_SHOULDERS - BROAD) * 0.5, 0.05)
    assembly, positions = analysis.assembly, analysis.positions
    for i in sorted(range(len(assembly.parts)), key=lambda k: float(positions.centre[k, 0])):
        if not assembly.sized[i]:
            continue
        there = positions.centre[i] + shift
        x, y = middle + float(there[1]) * scale, floor - float(there[2]) * scale
        w, h = (2.0 * float(assembly.edges[i, a]) * scale for a in (1, 2))
        askew = turned_outline(assembly, i, 1, 2)
        shape = rect(x - w / 2.0, y - h / 2.0, w, h, 1.5)
        if askew is not None:
            shape = polygon([(x + a * scale, y - b * scale) for a, b in askew])
        scene.path(shape, fill_of(assembly.parts[i].category), "line", 1.0)
    socket = (middle + float(view.socket[1]) * scale, floor - float(view.socket[2]) * scale)
    bearing = (middle + float(view.bearing[1]) * scale, floor - float(view.bearing[2]) * scale)
    for a, b in pairwise(_links(socket, bearing)):
        scene.line(*a, *b, "ink", 3.0)
    scene.path(circle(*bearing, 3.0), "panel", "accent", 1.4)
    h = view.stature * scale
    for way, down in ((1.0, 0.0), (-1.0, 0.10)):
        # One hand at the bearing, the other below it on the post.
        shoulder = (middle + way * HALF_SHOULDERS * h * 0.92, floor - SHOULDER * h)
        hand = (bearing[0] + way * 0.012 * h, bearing[1] + down * scale)
        elbow = (
            0.5 * (shoulder[0] + hand[0]) + way * 0.05 * h,
            max(shoulder[1], 0.5 * (shoulder[1] + hand[1])) + 0.08 * h,
        )
        _limb(scene, shoulder, elbow, 0.02 * h, "p1")
        _limb(scene, elbow, hand, 0.016 * h, "p1")


def _draw_lift(scene: Scene, view: WearerView, x: float, floor: float, scale: float) -> None:
    """Draw how high the bearing goes: shaded where it is wanted, a hollow ring where it floats."""

    def y(height: float) -> float:
        return floor - height * scale

    scene.line(x, y(view.top), x, y(view.foot), "ink2", 1.4)
    for height, words, above in ((view.top, view.height_words[0], -7.0), (view.foot, view.height_words[1], 17.0)):
        scene.line(x - 5.0, y(height), x + 5.0, y(height), "ink2", 1.4)
        scene.text(x + 6.0, y(height) + above, words, 12, 400, "ink2", Anchor.MIDDLE)
    scene.path(rect(x - 5.0, y(view.wanted) - 5.0, 10.0, 10.0), "tint", "accent", 0.8)
    scene.text(x + 10.0, y(view.wanted) - 7.0, "wanted", 12, 500, "accent")
    if view.floats:
        scene.path(circle(x, y(float(view.bearing[2])), 4.5), "panel", view.tone, 1.8)
        if abs(y(float(view.bearing[2])) - y(view.wanted)) > 16.0:
            scene.text(x + 10.0, y(float(view.bearing[2])) + 4.0, "floats", 12, 500, view.tone)
