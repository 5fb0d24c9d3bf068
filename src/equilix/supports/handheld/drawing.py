"""Bare hands in lines: forearms, closed hands, and the line through both palms, from the side and from above."""

from __future__ import annotations

import math

from equilix.core.operator.body import Arm
from equilix.core.units import Kind
from equilix.present.drawing.figures import GHOST, draw_fist, draw_limb
from equilix.present.drawing.rig_drawing import Projection, bounds, draw_cg, draw_parts
from equilix.present.drawing.scene import Point, Scene, circle, polyline
from equilix.present.drawing.silhouettes import View
from equilix.present.units import System, figure
from equilix.supports.handheld.mechanics import HandheldCase


def draw_far_hand(scene: Scene, case: HandheldCase, projection: Projection) -> None:
    """Draw the forearms, and the hand on the far side: the rig lies before them."""
    s = projection.scale
    for arm, far in _arms(case):
        grip, elbow = (projection.point(p - case.equilibrium.pose.shift) for p in (arm.grip, arm.elbow))
        draw_limb(scene, elbow, grip, 0.046 * s, 0.028 * s, GHOST)
        if far:
            draw_fist(scene, *grip, s)


def draw_near_hand(scene: Scene, case: HandheldCase, projection: Projection) -> None:
    """Draw the near hand round its grip."""
    shift = case.equilibrium.pose.shift
    for arm, far in _arms(case):
        if not far:
            draw_fist(scene, *projection.point(arm.grip - shift), projection.scale)


def draw_from_above(scene: Scene, case: HandheldCase, system: System, area: tuple[float, float, float, float]) -> None:
    """Draw it from above in `area` (left, top, width, height px): there the line through both hands is seen true."""
    left, _, width, height = area
    analysis, equilibrium = case.analysis, case.equilibrium
    scene.text(left, 26.0, "From above", 16, 600)
    scene.text(left, 46.0, "left side up", 13, 400, "ink3")
    low, high = bounds(analysis)
    tall = 0.62 * height
    scale = min((width - 8.0) / float(high[0] - low[0]), (tall - 60.0) / float(high[1] - low[1] + 0.1))
    middle = (low + high) / 2.0
    at = left + width / 2.0, 56.0 + (tall - 56.0) / 2.0
    top = Projection(View.TOP, scale, *at, float(middle[0]), float(middle[1]))
    drawn = Scene()
    draw_parts(drawn, analysis.assembly, analysis.positions, top)
    scene.items += drawn.items
    places = equilibrium.pose.places
    spots = [top.point(place.point) for place in places]
    draw_see_saw(scene, spots, 24.0)
    x, y = top.point(case.body.cg)
    if len(spots) == 2 and math.dist(*spots) > 1.0:
        (ax, ay), (bx, by) = spots
        share = ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / math.dist(*spots) ** 2
        tone = "fwd" if equilibrium.ahead >= 0.0 else "back"
        scene.line(x, y, ax + share * (bx - ax), ay + share * (by - ay), tone, 2.4)
    draw_cg(scene, x, y, 7.0)
    y = tall + 22.0
    arm = figure(abs(equilibrium.ahead), Kind.LENGTH, system)
    scene.text(left, y, f"CG {arm} from the {'line' if len(places) == 2 else 'hand'}", 14, 600)
    if equilibrium.holding is not None:
        for place, hand in zip(places, equilibrium.holding.hands, strict=True):
            y += 20.0
            which = "left hand" if float(place.point[1]) > 0.0 else "right hand"
            force = figure(hand.size, Kind.FORCE, system)
            scene.text(left, y, f"{which if len(places) == 2 else 'hand'} {force}", 13)


def _arms(case: HandheldCase) -> list[tuple[Arm, bool]]:
    """Return the arms, those behind the rig first, each with whether it is the far one seen from the right."""
    arms = sorted(case.equilibrium.pose.arms, key=lambda arm: -float(arm.grip[1]))
    return [(arm, len(arms) == 2 and k == 0) for k, arm in enumerate(arms)]


def draw_see_saw(scene: Scene, spots: list[Point], beyond: float = 60.0) -> None:
    """Draw the line through both palms that the rig turns about, some px `beyond` them, and each palm as a ring."""
    if len(spots) == 2 and math.dist(*spots) > 4.0:
        (ax, ay), (bx, by) = spots
        more = beyond / math.dist(*spots)
        dx, dy = more * (bx - ax), more * (by - ay)
        scene.path(polyline(((ax - dx, ay - dy), (bx + dx, by + dy))), None, "accent", 1.5, (6.0, 4.0))
    for x, y in spots:
        scene.path(circle(x, y, 5.0), "panel", "accent", 2.2)
