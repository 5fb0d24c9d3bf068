"""The build from the side and from ahead: its parts, free mounts, clashes, and the slide in hand."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

from msgspec import Struct

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Kit, Placed
from equilix.core.assembly.fit import (
    Spot,
    kind_of,
)
from equilix.core.assembly.mounts import mount_of
from equilix.core.kit.parts import Connection, Mount
from equilix.present.assembly.build_view import clash_words, placed_name, places_left
from equilix.present.assembly.spots import spot_key, spot_point
from equilix.present.drawing.rig_drawing import Projection, bounds, draw_cg, draw_parts
from equilix.present.drawing.scales import SlideScale, draw_scale
from equilix.present.drawing.scene import Region, Scene, circle, hatch, polygon, rect, text_width
from equilix.present.drawing.silhouettes import View
from equilix.present.drawing.sockets import draw_socket
from equilix.present.drawing.tags import Place, Rect, draw_tags
from equilix.present.supports import text_of
from equilix.present.units import System
from equilix.present.words import mid_sentence

#: Clashes that are drawn and listed, the deepest; the others are summed up.
MOST_SHOWN = 6

#: Share of the drawing's height that the side view takes.
SIDE_SHARE = 0.67


class BuildDrawing(Struct, frozen=True):
    """The side and top views in one scene, with their projections and the selected part's scale.

    Above `split` (px) is the side view.
    """

    scene: Scene
    side: Projection
    top: Projection
    scale: SlideScale | None
    tags: dict[int, Place]
    split: float = 0.0


def draw_build(
    analysis: Analysis,
    kit: Kit,
    system: System,
    width: float,
    height: float,
    selected: str | None,
    chosen: Spot | None,
    held: dict[int, Place] | None = None,
) -> BuildDrawing:
    """Return the side and top views at one scale, with free mounts, clashes and the selected part's slide.

    `held` are the tags' places of the drawing before, to keep.
    """
    scene = Scene()
    side_height = round(height * SIDE_SHARE)
    sliding = _sliding(analysis, kit, selected)
    side, top = _projections(analysis, width, height, side_height, 62.0 if sliding is not None else 22.0)
    scene.line(0, side_height, width, side_height, "rule", 1.0)
    boxes = draw_parts(scene, analysis.assembly, analysis.positions, side, selected)
    top_boxes = draw_parts(scene, analysis.assembly, analysis.positions, top, selected)
    if analysis.build.parts:
        y = top.y(0.0)
        scene.line(
            min(b.left for b in top_boxes) - 14,
            y,
            max(b.right for b in top_boxes) + 14,
            y,
            "ink3",
            1.0,
            (9, 2.5, 1.5, 2.5),
        )
    taken: list[Rect] = []
    if analysis.equilibrium is not None:
        taken += _draw_pad(scene, analysis, side, top, height, side_height)
    if analysis.body is not None:
        for projection in (side, top):
            x, y = projection.point(analysis.body.cg)
            draw_cg(scene, x, y, 9.0)
            taken.append(Rect(x - 14, y - 14, x + 14, y + 14))
    places = places_left(analysis.build, kit)
    taken += _draw_sockets(scene, analysis, places, side, chosen)
    _draw_sockets(scene, analysis, places, top, chosen)
    taken += _draw_clashes(scene, analysis, system, side, top, width)
    scale = _scale_for(scene, analysis, system, side, width, side_height, *sliding) if sliding is not None else None
    index = next((i for i, p in enumerate(analysis.build.parts) if p.id == selected), None)
    bottom = side_height - (58 if scale is not None else 8)
    tags = draw_tags(scene, boxes, analysis.assembly.parts, system, Rect(2, 30, width - 2, bottom), taken, index, held)
    return BuildDrawing(scene, side, top, scale, tags, float(side_height))


def draw_moved(scene: Scene, after: Analysis, moved: tuple[str, ...], projection: Projection) -> None:
    """Draw dashed where the parts that a way moves, and all they carry, would be."""
    ids = {placed_id for one in moved for placed_id in after.build.carried_by(one)}
    draw_outlined(scene, after, ids, projection)


def draw_outlined(scene: Scene, analysis: Analysis, ids: Collection[str], projection: Projection) -> None:
    """Draw the outlines of some parts where they stand, dashed, as those that a set would hold."""
    only = frozenset(i for i, placed in enumerate(analysis.build.parts) if placed.id in ids)
    draw_parts(scene, analysis.assembly, analysis.positions, projection, preview=True, only=only)


def _projections(
    analysis: Analysis, width: float, height: float, side_height: float, below: float
) -> tuple[Projection, Projection]:
    low, high = bounds(analysis)
    room_x, room_side, room_top = width - 90.0, side_height - 30.0 - below, height - side_height - 34.0
    scale = min(
        room_x / max(float(high[0] - low[0]), 0.3),
        room_side / max(float(high[2] - low[2]), 0.15),
        room_top / max(float(high[1] - low[1]), 0.15),
        1100.0,
    )
    middle_x = float(low[0] + high[0]) / 2.0
    side = Projection(View.SIDE, scale, width / 2.0, 30.0 + room_side / 2.0, middle_x, float(low[2] + high[2]) / 2.0)
    top = Projection(
        View.TOP,
        scale,
        width / 2.0,
        side_height + 14.0 + (height - side_height - 14.0) / 2.0,
        middle_x,
        float(low[1] + high[1]) / 2.0,
    )
    return side, top


def _draw_pad(
    scene: Scene, analysis: Analysis, side: Projection, top: Projection, height: float, side_height: float
) -> list[Rect]:
    if analysis.equilibrium is None:
        return []
    x, y = side.point(analysis.equilibrium.point)
    scene.path(polygon(((x, y), (x - 9, y + 15), (x + 9, y + 15))), "ink")
    scene.line(x, y + 15, x, side_height, "ink", 1.0)
    scene.line(x, side_height, x, side_height + 12, "ink", 1.0)
    scene.line(x, height - 16, x, height - 4, "ink", 1.0)
    scene.text(x + 6, height - 5, f"{text_of(analysis).label} line", 12, 500, "ink2")
    return [Rect(x - 11, y, x + 11, y + 20)]


def _draw_sockets(
    scene: Scene, analysis: Analysis, places: Sequence[Spot], projection: Projection, chosen: Spot | None
) -> list[Rect]:
    taken: list[Rect] = []
    drawn: list[tuple[float, float]] = []
    for spot in places:
        x, y = projection.point(spot_point(analysis, spot))
        while any(math.hypot(x - a, y - b) < 15.0 for a, b in drawn):
            x += 15.5
        drawn.append((x, y))
        if chosen is not None and spot_key(spot) == spot_key(chosen):
            scene.path(circle(x, y, 12), "accent")
            draw_socket(scene, kind_of(spot), x, y, "onaccent", 1.5)
        else:
            scene.path(circle(x, y, 8.5), "paper", None, 0.0, (), 0.85)
            draw_socket(scene, kind_of(spot), x, y, "accent", 1.5)
        scene.regions.append(
            Region(
                spot_key(spot),
                ((x - 12, y - 12), (x + 12, y - 12), (x + 12, y + 12), (x - 12, y + 12)),
            )
        )
        taken.append(Rect(x - 10, y - 10, x + 10, y + 10))
    return taken


def _draw_clashes(
    scene: Scene,
    analysis: Analysis,
    system: System,
    side: Projection,
    top: Projection,
    width: float,
) -> list[Rect]:
    taken: list[Rect] = []
    told = 0
    clashes = [finding for finding in analysis.findings if finding.clash is not None]
    for finding in clashes[:MOST_SHOWN]:
        clash = finding.clash
        assert clash is not None
        for projection in (side, top):
            down = 2 if projection.view is View.SIDE else 1
            x1, x2 = projection.x(float(clash.low[0])), projection.x(float(clash.high[0]))
            y1, y2 = projection.y(float(clash.high[down])), projection.y(float(clash.low[down]))
            area = ((x1, y1), (x2, y1), (x2, y2), (x1, y2))
            scene.path(hatch(area, 4.0, 1.0), None, "ink", 1.0)
            scene.path(hatch(area, 4.0, -1.0), None, "ink", 1.0)
            if projection.view is View.SIDE:
                cx, cy = (x1 + x2) / 2, (y1 + y2) / 2
                radius = max(20.0, math.hypot(x2 - x1, y2 - y1) / 2 + 5)
                if told < 3:
                    scene.path(circle(cx, cy, radius), None, "ink", 1.4)
                if told < 3 and width >= 640.0:
                    taken.append(_tell(scene, analysis, finding, system, cx, cy, radius, width, told))
                    told += 1
    return taken


def _tell(
    scene: Scene,
    analysis: Analysis,
    finding: Finding,
    system: System,
    cx: float,
    cy: float,
    radius: float,
    width: float,
    line: int,
) -> Rect:
    first, second = (placed_name(analysis, pid) for pid in finding.placed_ids)
    lines = (first, f"hits {mid_sentence(second)}", clash_words(analysis, finding, system).split(":")[0])
    wide = max(text_width(text, 13) for text in lines) + 26
    x = max(8.0, width - wide - 4.0)
    y = 52.0 + line * 62.0
    end_x = cx + radius * 0.7
    end_y = cy + radius * (0.7 if y > cy else -0.7)
    scene.line(end_x, end_y, x - 4, y + 8, "ink", 1.0)
    scene.path(rect(x - 4, y - 14, wide + 6, 54, 4), "paper", None, 0.0, (), 0.85)
    warning_mark(scene, x + 8, y - 4)
    scene.text(x + 22, y, lines[0], 13, 600)
    scene.text(x + 22, y + 16, lines[1], 13, 600)
    scene.text(x + 22, y + 32, lines[2], 12, 500, "ink2")
    return Rect(x - 4, y - 16, x + wide, y + 38)


def warning_mark(scene: Scene, x: float, y: float) -> None:
    """Draw the ink triangle that says: look here."""
    scene.path(polygon(((x, y - 8), (x - 8.5, y + 7), (x + 8.5, y + 7))), "paper", "ink", 1.4)
    scene.line(x, y - 3, x, y + 2, "ink", 1.6)
    scene.path(circle(x, y + 4.6, 1.0), "ink")


def _sliding(analysis: Analysis, kit: Kit, selected: str | None) -> tuple[Placed, Mount] | None:
    """Return the part whose slide is shown: the selected one, or the first that is set beyond its stop."""
    beyond = next((f.placed_ids[0] for f in analysis.findings if f.kind is FindingKind.OUT_OF_TRAVEL), None)
    for placed_id in (selected, beyond):
        placed = next((p for p in analysis.build.parts if p.id == placed_id), None)
        mount = mount_of(placed, analysis.build, kit) if placed is not None else None
        if placed is not None and mount is not None and mount.joint is not Connection.FIXED and mount.goes:
            return placed, mount
    return None


def _scale_for(
    scene: Scene,
    analysis: Analysis,
    system: System,
    side: Projection,
    width: float,
    side_height: float,
    placed: Placed,
    mount: Mount,
) -> SlideScale:
    name = placed_name(analysis, placed.id)
    turn = mount.joint is Connection.TURN
    length = 180.0 if turn else max((mount.high - mount.low) * side.scale, 60.0)
    index = next(i for i, p in enumerate(analysis.build.parts) if p.id == placed.id)
    share = min(max((placed.setting - mount.low) / (mount.high - mount.low), 0.0), 1.0)
    left = min(max(side.x(float(analysis.positions.centre[index, 0])) - share * length, 14.0), width - length - 14.0)
    y = side_height - 34.0
    scale = SlideScale(placed.id, name, left, left + length, y, mount.low, mount.high, placed.setting, None, turn)
    draw_scale(scene, scale, system)
    past = scale.x(placed.setting)
    if not turn and not mount.low - 1e-6 <= placed.setting <= mount.high + 1e-6:
        stop = scale.left if placed.setting < mount.low else scale.right
        area = ((min(past, stop), y - 6), (max(past, stop), y - 6), (max(past, stop), y + 3), (min(past, stop), y + 3))
        scene.path(hatch(area, 4.0), None, "ink", 1.0)
        scene.path(hatch(area, 4.0, -1.0), None, "ink", 1.0)
        scene.line(stop, y - 15, stop, y + 15, "ink", 2.6)
        scene.path(rect(past - 4.5, y - 9, 9, 16, 3), "paper", "ink", 1.3, (3, 2))
    return scale
