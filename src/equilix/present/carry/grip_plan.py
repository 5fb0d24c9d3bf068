"""The hands from above: where they are, the line between them, how far the CG lies off it, and what staggering does."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import GRASP_SPOTS, LEFT_SIDE, UNDER, Side
from equilix.core.carry.arrangements import Stagger
from equilix.core.carry.carried import Carry
from equilix.core.kit.parts import Category
from equilix.core.statics.grasps import Place, places
from equilix.core.units import Kind
from equilix.present.carry.carry_view import hold_words
from equilix.present.drawing.rig_drawing import draw_cg
from equilix.present.drawing.scene import Anchor, Region, Scene, circle, fitted, rect
from equilix.present.units import System, figure
from equilix.present.words import short_name


def place_name(place: Place, analysis: Analysis) -> str:
    """Return a hand's place in words."""
    part = analysis.assembly.parts[place.part]
    spot = place.grasp.mount_id
    if spot not in GRASP_SPOTS:
        if part.category in (Category.GRIP, Category.HANDLE):
            return part.name
        return f"{part.name}, {part.mount(spot).name or spot}"
    if spot == UNDER:
        return f"Under the {short_name(part.name)}"
    return f"{part.name}, {'left' if spot == LEFT_SIDE else 'right'} side"


def stagger_words(way: Stagger, system: System) -> str:
    """Return what an arrangement of the grips is called."""
    if abs(way.moved) > 0.002:
        return f"{figure(abs(way.moved), Kind.LENGTH, system)} {'forward' if way.moved > 0 else 'back'}, to the CG"
    return "side by side" if abs(way.by) < 0.005 else f"staggered {figure(abs(way.by), Kind.LENGTH, system)}"


def draw_grip_plan(
    analysis: Analysis, carried: Carry, arrangements: Sequence[Stagger], system: System, width: float, height: float
) -> Scene:
    """Return the rig from above, forward to the right, with every place for a hand; regions ("grasp", part, place)."""
    scene = Scene()
    scene.text(0, 18, "Hands, from above", 16, 600)
    # Beside the picture what other arrangements would do; where there is no room, the picture alone.
    right = width * 0.50 if arrangements and width >= 260.0 else width
    top, base = 30.0, height - 8.0
    offered = places(analysis.assembly, analysis.positions)
    sized = np.flatnonzero(analysis.assembly.sized)
    low = (analysis.positions.centre - analysis.assembly.edges)[sized, :2]
    high = (analysis.positions.centre + analysis.assembly.edges)[sized, :2]
    points = np.array([place.point[:2] for place in offered]) if offered else np.zeros((1, 2))
    least = np.minimum(low.min(axis=0) if len(sized) else points.min(axis=0), points.min(axis=0))
    most = np.maximum(high.max(axis=0) if len(sized) else points.max(axis=0), points.max(axis=0))
    span = np.maximum(most - least, 0.10)
    scale = min((right - 24.0) / float(span[0]), (base - top - 40.0) / float(span[1]))
    middle = (least + most) / 2.0

    def at(v: np.ndarray) -> tuple[float, float]:
        return right / 2.0 + (float(v[0]) - middle[0]) * scale, (top + base) / 2.0 - (float(v[1]) - middle[1]) * scale

    for part in sized[np.argsort(analysis.positions.centre[sized, 2])]:
        corner = analysis.positions.centre[part] + analysis.assembly.edges[part] * [-1.0, 1.0, 0.0]
        x, y = at(corner)
        wide, deep = (2.0 * float(v) * scale for v in analysis.assembly.edges[part, :2])
        scene.path(rect(x, y, wide, deep, 1), "p2", "ghostL", 0.8)
    held = {place.grasp for place in carried.pose.places}
    for place in offered:
        x, y = at(place.point)
        if place.grasp not in held:
            scene.path(circle(x, y, 4.0), "panel", "accent", 1.3)
        box = ((x - 9, y - 9), (x + 9, y - 9), (x + 9, y + 9), (x - 9, y + 9))
        scene.regions.append(Region(("grasp", place.grasp.placed_id, place.grasp.mount_id), box))
    hands = [at(place.point) for place in carried.pose.places]
    cg = at(carried.cg - carried.shift)
    if len(hands) == 2:
        _draw_line(scene, hands, cg, carried, system)
    draw_cg(scene, *cg, 6.0)
    for (x, y), arm, load in zip(hands, carried.arms, carried.held.hands, strict=True):
        scene.path(circle(x, y, 6.0), "accent", "panel", 1.5)
        words = f"{arm.side} {figure(load.size, Kind.FORCE, system)}"
        anchor = Anchor.MIDDLE if 40.0 < x < right - 40.0 else Anchor.END if x > 40.0 else Anchor.START
        edge = 12.0 if anchor is Anchor.END else -12.0 if anchor is Anchor.START else 0.0
        # Beside the rig, where no other place for a hand is covered.
        outside = at(least)[1] + 22.0 if arm.side is Side.RIGHT else at(most)[1] - 11.0
        scene.text(x + edge, outside, words, 12.5, 600, "ink", anchor)
    if right < width:
        _draw_arrangements(scene, carried, arrangements, system, right + 12.0, width, top, height)
    return scene


def _draw_line(
    scene: Scene,
    hands: Sequence[tuple[float, float]],
    cg: tuple[float, float],
    carried: Carry,
    system: System,
) -> None:
    """Draw the line through the hands, and the way from it to the CG."""
    (ax, ay), (bx, by) = hands
    length = math.hypot(bx - ax, by - ay)
    if length < 2.0 or carried.see_saw is None:
        return
    ux, uy = (bx - ax) / length, (by - ay) / length
    scene.line(ax - 10 * ux, ay - 10 * uy, bx + 10 * ux, by + 10 * uy, "ink", 1.4)
    along = (cg[0] - ax) * ux + (cg[1] - ay) * uy
    fx, fy = ax + along * ux, ay + along * uy
    if math.hypot(cg[0] - fx, cg[1] - fy) > 8.0:
        scene.line(fx, fy, cg[0], cg[1], "fwd", 2.0)
        first, second = (place.point for place in carried.pose.places)
        line = (second - first)[:2]
        off = (carried.cg - carried.shift - first)[:2]
        away = abs(float(line[0] * off[1] - line[1] * off[0])) / float(np.linalg.norm(line))
        words = figure(away, Kind.LENGTH, system)
        # On the CG's far side: between it and the line the hands are near.
        behind = cg[0] < fx
        anchor = Anchor.END if behind else Anchor.START
        scene.note(cg[0] + (-11.0 if behind else 11.0), cg[1] + 4.5, words, 12.5, "fwdT", anchor)


def _draw_arrangements(
    scene: Scene,
    carried: Carry,
    arrangements: Sequence[Stagger],
    system: System,
    left: float,
    right: float,
    top: float,
    height: float,
) -> None:
    """Write see-saw and hold of each arrangement; the build's own on a tint. As many as there is room for."""
    pitch = max(min(37.0, (height - top - 32.0) / max(len(arrangements) - 1, 1)), 33.0)
    arrangements = arrangements[: max(int((height - top - 32.0) / pitch) + 1, 1)]
    first, second = (place.point for place in carried.pose.places)
    now = float(first[0] - second[0])
    scene.text(right - 4.0, 18.0, "see-saw, holding time", 12, 400, "ink3", Anchor.END)
    for k, way in enumerate(arrangements):
        y = top + 12.0 + pitch * k
        if abs(way.moved) < 1e-9 and abs(way.by - now) < 0.005:
            scene.path(rect(left - 6.0, y - 14.0, right - left + 6.0, 34.0, 3), "tint")
        words = stagger_words(way, system)
        scene.text(left, y, fitted(words[:1].upper() + words[1:], 12.5, right - left + 12.0), 12.5, 600)
        moment = figure(abs(way.see_saw), Kind.MOMENT, system)
        scene.text(left, y + 16.0, moment, 12, 400, "ink2")
        scene.text(right - 4.0, y + 16.0, hold_words(way.worst.hold), 12, 400, "ink2", Anchor.END)
