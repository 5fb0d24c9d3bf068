"""Rigs to begin from, drawn small: each on its support, as it is known at sight."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.keys import KEYS
from equilix.core.registry import support_for
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.io.shipped import catalogue, starters
from equilix.present.drawing.person import draw_person
from equilix.present.drawing.rig_drawing import Projection, bounds, draw_parts
from equilix.present.drawing.scene import Scene, rect
from equilix.present.drawing.silhouettes import View
from equilix.present.supports import text_for, text_of
from equilix.present.units import System, figure

#: px of a picture, and what stays free at its edges and below.
WIDTH, HEIGHT = 236.0, 120.0
_EDGE, _FLOOR = 12.0, 6.0
#: Of stature: from there up who wears a rig is shown.
_CUT = 0.36


def first_rigs() -> tuple[Build, ...]:
    """Return one rig to begin from for each support that offers one, in their order, without what is idle there."""
    by_id = {build.id: build for build in starters()}
    offered = [(key, *text_for(key).starts) for key in KEYS]
    return tuple(_put_on(by_id[start], key, name) for key, start, name in offered if start)


def _put_on(start: Build, key: str, name: str) -> Build:
    """Return a starting build on a support, under a name; made for another one, it leaves off what does no job here."""
    kit, idle = {part.id: part for part in catalogue()}, support_for(key).removable
    build = replace(start, id=f"{start.id}-{key}", name=name, support=key)
    if start.support == key:
        return build
    holds = {placed.parent for placed in build.parts}
    parts = (one for one in build.parts if one.id in holds or kit[one.part_id].category not in idle)
    return replace(build, parts=tuple(parts))


def start_picture(build: Build, kit: Kit, operator: Operator) -> Scene:
    """Return a rig on its support in an area of `WIDTH` by `HEIGHT` px."""
    scene = Scene()
    analysis = analyse(build, kit, operator)
    case, view, floor = case_of(analysis), text_of(analysis), HEIGHT - _FLOOR
    if case is None:
        return scene
    if view.worn:
        pose = case.equilibrium.pose
        scale = (floor - _EDGE) / ((1.24 - _CUT) * pose.body.stature)
        feet = floor + _CUT * pose.body.stature * scale
        draw_person(scene, analysis, pose, view.gear(case, pose), 0.40 * WIDTH, feet, scale)
    else:
        low, high = bounds(analysis)
        below, above = view.small_room
        low, high = low - np.array([0.0, 0.0, below]), high + np.array([0.0, 0.0, above])
        span = np.maximum(high - low, 0.1)
        scale = min((WIDTH - 2 * _EDGE) / float(span[0]), (floor - _EDGE) / float(span[2]))
        middle = (low + high) / 2.0
        at_v = float(low[2])
        side = Projection(View.SIDE, scale, WIDTH / 2.0, floor, float(middle[0]), at_v)
        view.draw_wearer(scene, case, side, operator, floor)
        view.draw_stand(scene, *side.point(case.equilibrium.point), floor, scale)
        drawn = Scene()
        draw_parts(drawn, analysis.assembly, analysis.positions, side)
        scene.items += drawn.items
        view.draw_hold(scene, case, side)
    # What goes on below is cut off.
    scene.path(rect(0.0, floor, WIDTH, _FLOOR), "paper")
    scene.line(_EDGE, floor, WIDTH - _EDGE, floor, "rule2", 1.0)
    return scene


def mass_words(build: Build, kit: Kit, system: System) -> str:
    """Return what a rig to begin from weighs, as a guess."""
    mass = sum(kit[placed.part_id].mass or 0.0 for placed in build.parts)
    return f"≈ {figure(mass, Kind.MASS, system)}"
