"""People: heads in profile, closed hands, limbs and standing figures, one family for all rooms.

`at` makes px of a place in the body frame (x ahead, y to the left, z up, m); `scale` is in px per m. Proportions are
those of the body model, from Drillis and Contini (1966); a hand is 85 mm broad, from memory.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from msgspec import Struct

from equilix.core.operator.body import HALF_SHOULDERS, KNEE, Body
from equilix.core.operator.head import HEAD_BREADTH, HEAD_LENGTH
from equilix.present.drawing.scene import Command, Point, Scene, arc, circle, ellipse, polygon, rect

At = Callable[[float, float, float], Point]
#: m: a closed hand about what it holds.
FIST_WIDE, FIST_TALL = 0.074, 0.094
#: Of stature: half a head's height, half a trunk's depth.
HALF_HEAD, DEEP = 0.066, 0.062


class Look(Struct, frozen=True):
    """How people are drawn: fill and line, and faint where they stand behind the rig."""

    fill: str = "p1"
    line: str = "ghostL"
    opacity: float = 1.0


FULL, GHOST = Look(), Look(opacity=0.55)


def draw_limb(scene: Scene, a: Point, b: Point, wide: float, narrow: float, look: Look = FULL) -> None:
    """Draw a limb from `a`, half `wide`, to `b`, half `narrow` (px), with round ends."""
    if math.hypot(b[0] - a[0], b[1] - a[1]) < 0.5:
        return
    angle = math.atan2(b[1] - a[1], b[0] - a[0])
    start = arc(*a, wide, angle + math.pi / 2, angle + 3 * math.pi / 2)
    end = arc(*b, narrow, angle - math.pi / 2, angle + math.pi / 2)
    shape: tuple[Command, ...] = (*start, ("L", *end[0][1:]), *end[1:], ("Z",))
    scene.path(shape, look.fill, look.line, 1.0, (), look.opacity)


#: A head that looks to the right, in its own length and height.
_PROFILE: tuple[Command, ...] = (
    ("M", -0.26, -0.50),
    ("C", -0.36, -0.34, -0.54, -0.20, -0.52, 0.12),
    ("C", -0.50, 0.40, -0.26, 0.50, -0.02, 0.50),
    ("C", 0.24, 0.50, 0.42, 0.34, 0.42, 0.12),
    ("L", 0.40, 0.04),
    ("L", 0.52, -0.13),
    ("C", 0.51, -0.19, 0.44, -0.17, 0.43, -0.19),
    ("L", 0.44, -0.27),
    ("L", 0.41, -0.30),
    ("L", 0.42, -0.36),
    ("C", 0.40, -0.48, 0.26, -0.46, 0.14, -0.42),
    ("L", 0.10, -0.50),
    ("Z",),
)


def head_shape(x: float, y: float, length: float, height: float) -> tuple[Command, ...]:
    """Return a head in profile that looks to the right, about (x, y), `length` by `height` px."""
    return tuple(
        (c[0], *(x + float(v) * length if k % 2 == 0 else y - float(v) * height for k, v in enumerate(c[1:])))
        for c in _PROFILE
    )


def draw_head(scene: Scene, x: float, y: float, length: float, height: float, look: Look = FULL) -> None:
    """Draw such a head."""
    scene.path(head_shape(x, y, length, height), look.fill, look.line, 1.0, (), look.opacity)


def draw_fist(scene: Scene, x: float, y: float, scale: float, look: Look = FULL) -> None:
    """Draw a closed hand about (x, y), seen from the right: the palm, four fingers round the front, the thumb above."""
    w, h = FIST_WIDE * scale, FIST_TALL * scale
    if w < 9.0:
        scene.path(ellipse(x, y, w / 2, h / 2), look.fill, look.line, 1.0, (), look.opacity)
        return

    def block(left: float, top: float, wide: float, tall: float, r: float) -> None:
        shape = rect(x + left * w, y + top * h, wide * w, tall * h, r * h)
        scene.path(shape, look.fill, look.line, 1.0, (), look.opacity)

    block(-0.50, -0.36, 0.74, 0.86, 0.24)
    for k in range(4):
        block(-0.02 - 0.03 * k, -0.36 + 0.215 * k, 0.52, 0.205, 0.10)
    block(-0.34, -0.50, 0.60, 0.20, 0.10)


def bent(shoulder: Point, hand: Point, upper: float, fore: float) -> Point:
    """Return where an elbow hangs (same units, up positive), below the line from shoulder to hand."""
    dx, dy = hand[0] - shoulder[0], hand[1] - shoulder[1]
    reach = min(math.hypot(dx, dy), (upper + fore) * 0.999)
    cos = (upper * upper + reach * reach - fore * fore) / (2.0 * upper * max(reach, 1e-6))
    toward = math.atan2(dy, dx) - math.acos(max(-1.0, min(1.0, cos)))
    return shoulder[0] + upper * math.cos(toward), shoulder[1] + upper * math.sin(toward)


def draw_arm(scene: Scene, a: Point, b: Point, c: Point, stature: float, scale: float, look: Look = FULL) -> None:
    """Draw an arm over shoulder, elbow and grip (px), with its closed hand."""
    h = stature * scale
    draw_limb(scene, a, b, 0.026 * h, 0.021 * h, look)
    draw_limb(scene, b, c, 0.021 * h, 0.014 * h, look)
    draw_fist(scene, *c, scale, look)


def draw_legs(scene: Scene, body: Body, axis: int, at: At, scale: float) -> None:
    """Draw legs and feet, seen along the body's other axis: standing, or seated on a block with the thighs level."""
    h = body.stature
    hip, ankle_x, apart = float(body.hips[2]), -0.01, 0.055 * h
    if body.seated:
        ankle_x, apart = 0.245 * h, 0.10 * h
        back, front = (at(-0.09 * h, 0.13 * h, 0.0)[0], at(0.17 * h, -0.13 * h, 0.0)[0])
        if axis == 1:
            back, front = at(0.0, -0.13 * h, 0.0)[0], at(0.0, 0.13 * h, 0.0)[0]
        seat, floor = at(0.0, 0.0, hip - 0.045 * h)[1], at(0.0, 0.0, 0.0)[1]
        scene.path(rect(back, seat, front - back, floor - seat, 2), "p2", "rule2", 1.0)
    knee = ankle_x + 0.01
    for side in (-1.0, 1.0):
        y = side * apart
        if body.seated and axis == 1:
            scene.path(circle(*at(0.0, y, hip), 0.045 * h * scale), "p1", "ghostL", 1.0)
        else:
            draw_limb(scene, at(0.0, y, hip), at(knee, y, KNEE * h), 0.050 * h * scale, 0.034 * h * scale)
        draw_limb(scene, at(knee, y, KNEE * h), at(ankle_x, y, 0.045 * h), 0.034 * h * scale, 0.020 * h * scale)
        foot = 0.5 * 0.152 * h
        if axis == 0:
            heel, toe = at(ankle_x + 0.01 - 0.45 * foot, y, 0.0), at(ankle_x + 0.01 + 1.5 * foot, y, 0.0)
            top, bend = at(ankle_x, y, 0.05 * h), at(ankle_x + 0.9 * foot, y, 0.026 * h)
            scene.path(
                (
                    ("M", *heel),
                    ("L", heel[0], top[1]),
                    ("L", top[0] + 0.022 * h * scale, top[1]),
                    ("C", *bend, toe[0], bend[1], toe[0], toe[1]),
                    ("Z",),
                ),
                "p1",
                "ghostL",
                1.0,
            )
        else:
            scene.path(ellipse(*at(0.0, y, 0.025 * h), 0.028 * h * scale, 0.025 * h * scale), "p1", "ghostL", 1.0)


def draw_trunk(scene: Scene, body: Body, axis: int, at: At, scale: float, aside: float = 0.0) -> None:
    """Draw trunk, neck and head, which is `aside` (m) of the middle."""
    h = body.stature
    hip, top = float(body.hips[2]), float(body.shoulder_left[2])
    half = DEEP * h if axis == 0 else (HALF_SHOULDERS + 0.012) * h
    waist, hips = (0.055 * h, 0.062 * h) if axis == 0 else (0.085 * h, 0.098 * h)
    trunk = (
        (half * 0.72, top + 0.012 * h),
        (half, top - 0.03 * h),
        (waist, (top + 2.0 * hip) / 3.0),
        (hips, hip),
        (hips * 0.8, hip - 0.03 * h),
    )
    outline = [*trunk, *((-w, z) for w, z in reversed(trunk))]
    scene.path(polygon([at(w, 0.0, z) if axis == 0 else at(0.0, w, z) for w, z in outline]), "p1", "ghostL", 1.0)
    neck, eye = float(body.neck[2]), float(body.eye[2])
    thick = 0.028 * h * scale
    draw_limb(scene, at(0.0, 0.0, neck - 0.02 * h), at(0.012, aside * 0.6, neck + 0.05 * h), thick, 0.9 * thick)
    x, y = at(0.02, aside, eye - 0.012)
    if axis == 0:
        draw_head(scene, x, y, HEAD_LENGTH * scale, 2.0 * HALF_HEAD * h * scale)
    else:
        scene.path(ellipse(x, y, HEAD_BREADTH / 2.0 * scale, HALF_HEAD * h * scale), "p1", "ghostL", 1.0)
