"""A rig on a cable: how it hangs, how much of the limit it takes, and what walking does to it."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.units import Kind
from equilix.present.drawing.rig_drawing import draw_cg, turned_outline
from equilix.present.drawing.scene import Anchor, Scene, circle, hatch, polygon, polyline, rect
from equilix.present.units import System, figure

#: Share of a limit from which it is marked.
_CARE = 0.90
#: Hz and ratio: what the curve shows.
_LOW, _HIGH, _MOST = 0.5, 3.0, 4.0
#: s of walking that the traces show.
_SECONDS = 3.0


def draw_hang(
    scene: Scene, analysis: Analysis, hang: tuple[np.ndarray, float | None], left: float, width: float, height: float
) -> None:
    """Draw the rig turned as it hangs, from its right side, the cable above and the way down below.

    `hang` is the hook (3,) (m, rig frame) and the pitch (rad, nose down), None where the rig turns over.
    """
    scene.text(left, 18, "How it hangs", 14, 600)
    assembly, positions, body = analysis.assembly, analysis.positions, analysis.body
    if body is None:
        return
    hook_at, pitch = hang
    if pitch is None:
        scene.text(left, 44, "The rig turns over: its CG is above the hook.", 13, 400, "fwdT")
        return
    cos, sin = math.cos(pitch), math.sin(pitch)

    def turned(x: float, z: float) -> tuple[float, float]:
        dx, dz = x - float(hook_at[0]), z - float(hook_at[2])
        return dx * cos + dz * sin, -dx * sin + dz * cos

    sized = [i for i in range(len(assembly.parts)) if assembly.sized[i]]
    boxes = []
    for i in sized:
        cx, cz = float(positions.centre[i, 0]), float(positions.centre[i, 2])
        hx, hz = float(assembly.edges[i, 0]), float(assembly.edges[i, 2])
        upright = [(a * hx, b * hz) for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
        boxes.append([turned(cx + a, cz + b) for a, b in turned_outline(assembly, i, 0, 2) or upright])
    if not boxes:
        return
    corners = np.array([corner for box in boxes for corner in box])
    low, high = corners.min(axis=0), corners.max(axis=0)
    room = (width - 16.0, height - 78.0)
    scale = min(room[0] / max(float(high[0] - low[0]), 0.1), room[1] / max(float(high[1] - low[1]), 0.1), 900.0)
    # The rig in the middle of the room below the words.
    x0 = left + 8.0 + room[0] / 2.0 - scale * float(high[0] + low[0]) / 2.0
    y0 = 52.0 + scale * float(high[1])

    def at(point: tuple[float, float]) -> tuple[float, float]:
        return x0 + scale * point[0], y0 - scale * point[1]

    hook = at((0.0, 0.0))
    scene.line(hook[0], 28.0, hook[0], hook[1], "ink", 1.5)
    for box in boxes:
        scene.path(polygon([at(p) for p in box]), "p2", "line", 1.0, (), 0.9)
    cg = at(turned(float(body.cg[0]), float(body.cg[2])))
    scene.line(hook[0], hook[1], cg[0], cg[1], "fwd", 1.6)
    draw_cg(scene, cg[0], cg[1], 8.0)
    scene.path(circle(hook[0], hook[1], 5.0), "panel", "accent", 1.8)


def draw_capacity(
    scene: Scene, mass: str, limit: str, shares: tuple[float, float, float], top: float, width: float
) -> None:
    """Draw how much of the limit is taken: `shares` are the mass, its U (k = 2) and the peak while walking."""
    share, unsure, peak = shares
    span = max(1.2, share + unsure + 0.05, peak + 0.05)

    def x(value: float) -> float:
        return width * value / span

    y, deep = top + 26.0, 15.0
    scene.path(rect(0.0, y, x(span), deep, 2), "p1")
    over = ((x(1.0), y), (width, y), (width, y + deep), (x(1.0), y + deep))
    scene.path(hatch(over, 5.0), None, "ink2", 1.0)
    scene.path(rect(0.0, y, x(min(share, span)), deep, 2), "fwd" if share + unsure > 1.0 else "accent")
    scene.line(x(share - unsure), y + deep / 2, x(share + unsure), y + deep / 2, "ink", 1.6)
    scene.line(x(_CARE), y - 4, x(_CARE), y + deep, "ink2", 1.2, (3.0, 3.0))
    scene.line(x(1.0), y - 6, x(1.0), y + deep + 3, "ink", 1.8)
    scene.path(polygon(((x(peak), y + deep + 2), (x(peak) - 5, y + deep + 11), (x(peak) + 5, y + deep + 11))), "ink2")
    scene.text(0.0, top + 18.0, f"{mass} of {limit}", 13, 600)
    scene.text(x(peak) - 9.0, y + deep + 13.0, "while you walk", 12, 400, "ink2", Anchor.END)


class Walk(Struct, frozen=True):
    """What walking does: `steps` (Hz) of `height` (m) each way.

    `follows` gives by Hz how much of them a rig on a spring arm follows, called `words`; `sprung` if there is one, else
    the rig follows every step.
    """

    steps: float
    height: float
    follows: Callable[[float], float]
    words: str
    sprung: bool


def draw_bounce(scene: Scene, walk: Walk, left: float, width: float, height: float) -> None:
    """Draw how much of a step the rig follows over the steps' frequency, with the cable alone and a spring arm."""
    scene.text(left, 18, "How much of each step passes on", 14, 600)
    base, top = height - 34.0, 40.0
    inner, right = left + 34.0, left + width

    def x(hertz: float) -> float:
        return inner + (right - inner) * (hertz - _LOW) / (_HIGH - _LOW)

    def y(ratio: float) -> float:
        return base - (base - top) * min(ratio, _MOST) / _MOST

    for ratio in range(5):
        scene.line(inner, y(ratio), right, y(ratio), "rule2", 1.0)
        scene.text(inner - 6.0, y(ratio) + 4.0, f"× {ratio}", 12, 400, "ink2", Anchor.END)
    scene.path(rect(x(walk.steps - 0.1), top, x(walk.steps + 0.1) - x(walk.steps - 0.1), base - top), "p3")
    scene.text(x(walk.steps), top - 6.0, "your steps", 12, 400, "ink2", Anchor.MIDDLE)
    for hertz in (0.5, 1.0, 1.5, 2.0, 2.5, 3.0):
        scene.text(x(hertz), base + 18.0, f"{hertz:g}{' Hz' if hertz == 3.0 else ''}", 12, 400, "ink2", Anchor.MIDDLE)
    scene.path(polyline(((inner, y(1.0)), (right, y(1.0)))), None, "fwd", 1.8)
    scene.note(right - 2.0, y(1.0) - 7.0, "on the cable alone", 12, "fwdT", Anchor.END)
    points = tuple((x(f), y(walk.follows(f))) for f in np.linspace(_LOW, _HIGH, 120).tolist())
    scene.path(polyline(points), None, "accent", 1.8, () if walk.sprung else (6.0, 4.0))
    scene.note(x(1.15), y(2.6), walk.words, 12, "accent")
    scene.path(circle(x(walk.steps), y(walk.follows(walk.steps) if walk.sprung else 1.0), 5.0), "panel", "ink", 1.8)


def draw_traces(scene: Scene, walk: Walk, left: float, width: float, height: float, system: System) -> None:
    """Draw three seconds of walking: how high the rig goes, with the cable alone and with a spring arm."""
    scene.text(left, 18, "Rig height over 3 s of walking", 14, 600)
    room = max((height - 60.0) / 2.0, 40.0)
    sprung = walk.follows(walk.steps)
    for k, (words, passes, color, text) in enumerate(
        (("on the cable alone", 1.0, "fwd", "fwdT"), ("with a spring arm", sprung, "accent", "accent"))
    ):
        middle = 46.0 + room * (k + 0.5)
        amplitude = min(passes, 2.0) * 0.26 * room
        points = tuple(
            (
                left + (width - 120.0) * t / _SECONDS,
                middle - amplitude * math.sin(2.0 * math.pi * walk.steps * t),
            )
            for t in np.linspace(0.0, _SECONDS, 150).tolist()
        )
        scene.line(left, middle, left + width - 120.0, middle, "rule2", 1.0)
        scene.path(polyline(points), None, color, 1.8)
        scene.text(left + width - 112.0, middle - 3.0, words, 13, 600, text)
        swing = figure(2.0 * passes * walk.height, Kind.LENGTH, system)
        scene.text(left + width - 112.0, middle + 15.0, f"{swing} up and down", 12, 400, "ink2")
