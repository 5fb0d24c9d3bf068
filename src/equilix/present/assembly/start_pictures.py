"""Rigs to begin from, drawn small: each on its support, as it is known at sight."""

from __future__ import annotations

from functools import partial

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.keys import KEYS
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.io.shipped import starters
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
    """Return one rig to begin from for each support that offers one, in their order."""
    by_id = {build.id: build for build in starters()}
    offered = [(key, *text_for(key).starts) for key in KEYS]
    return tuple(
        replace(by_id[start], id=f"{start}-{key}", name=name, support=key) for key, start, name in offered if start
    )


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
        draw_person(scene, analysis, pose, 0.40 * WIDTH, feet, scale, partial(view.draw_gear, case=case))
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
