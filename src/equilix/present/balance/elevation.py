"""The side elevation on its support: rig, wearer, plumb line, ruler, tip arrow and slide scales."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category
from equilix.core.operator.head import head_beside
from equilix.core.slides import battery_slide, slide_of_camera
from equilix.core.solver.plan import STAYS
from equilix.core.support import case_of
from equilix.core.units import Kind, to_display
from equilix.present.drawing.rig_drawing import (
    DATUM_DASH,
    PREVIEW_DASH,
    PartBox,
    Projection,
    bounds,
    draw_cg,
    draw_ghost,
    draw_parts,
)
from equilix.present.drawing.scales import OWN_SCALE, Elevation, SlideScale, draw_scale
from equilix.present.drawing.scene import (
    Anchor,
    Command,
    Scene,
    arc,
    arrow_head,
    rect,
    text_width,
)
from equilix.present.drawing.silhouettes import View
from equilix.present.drawing.tags import RAIL_GAP, Rect, draw_tags
from equilix.present.supports import text_for, text_of
from equilix.present.supports.text import FORE_AFT, own_scale_of
from equilix.present.units import System, figure, number, uncertainty, unit_of

#: Share of the width at which the support line stands.
LINE_SHARE = 0.485
#: Greatest scale, px per m.
MAX_SCALE = 1100.0
_RULER_ROOM = 36.0
_SCALES_ROOM = 52.0
_TITLE_ROOM = 40.0
#: px kept free above and below the rig for a rail of tags.
_RAIL = 2.0 * 8.5 + RAIL_GAP
#: px of width from which there is room for a second picture.
_BESIDE_FROM = 700.0


def support_line(width: float) -> float:
    """Return the pixel at which the support line stands in a work area of `width` px."""
    return round(LINE_SHARE * width)


def draw_elevation(
    analysis: Analysis,
    operator: Operator,
    system: System,
    width: float,
    height: float,
    selected: str | None = None,
    preview: Analysis | None = None,
    held: Elevation | None = None,
    planned: Analysis | None = None,
) -> Elevation:
    """Return the elevation of a build on its support in an area of `width` by `height` px.

    `preview` is the analysis of the build after the chosen remedy. `held` is the drawing before: its
    scale and the places of its tags are kept while something is dragged. An order of work leads to what is `planned`.
    """
    view, case = text_of(analysis), case_of(analysis)
    own = view.draw_picture(case, system, width, height, selected, preview, held, planned) if case is not None else None
    if own is not None:
        return own
    scene = Scene()
    line_x, whole = support_line(width), width
    beside = view.beside_width if width >= _BESIDE_FROM and case is not None else 0.0
    width -= beside
    pad = analysis.equilibrium.point if analysis.equilibrium is not None else np.zeros(3)
    projection = _fit(
        analysis,
        pad,
        (line_x, width, height, 44.0 if beside else 96.0),
        view.room,
        held.projection if held is not None else None,
    )
    ruler_y = height - _RULER_ROOM
    scales = _slide_scales(analysis, projection, width, ruler_y - _SCALES_ROOM, selected, preview)
    floor = ruler_y - (_SCALES_ROOM + 10 if scales else 8)
    if case is not None:
        view.draw_wearer(scene, case, projection, operator, floor)
    # The ghost is cut off here; what hangs lower than the drawing is covered too.
    scene.path(rect(0, floor, width, height - floor + 400.0), "paper")
    _draw_ruler(scene, analysis, projection, system, width, ruler_y)
    view.draw_point(scene, line_x, projection.y(float(pad[2])), height, floor, projection.scale)
    if case is not None:
        view.draw_room(scene, case, projection, ruler_y)
    boxes = draw_parts(scene, analysis.assembly, analysis.positions, projection, selected)
    if preview is not None:
        _draw_preview(scene, analysis, preview, projection)
    if case is not None:
        view.draw_over(scene, case, projection)
    taken = _draw_datums(scene, analysis, projection, boxes)
    taken += _draw_plumb(scene, analysis, projection, system, ruler_y, width)
    arrow = _draw_tip(scene, analysis, projection, system, width, floor)
    if arrow is not None:
        taken.append(arrow)
    for scale in scales:
        draw_scale(scene, scale, system)
    index = next((i for i, p in enumerate(analysis.build.parts) if p.id == selected), None)
    pad_y = projection.y(float(pad[2]))
    taken.append(Rect(line_x - 9, pad_y, line_x + 9, pad_y + 40))
    # Lines that run down from it, and up to what it hangs from.
    taken.append(Rect(line_x - 3, pad_y, line_x + 3, floor + 4))
    taken += view.solid(line_x, pad_y, projection.scale)
    if view.room[1] > 0.0:
        taken.append(Rect(line_x - 5, 44.0, line_x + 5, pad_y))
    tags = draw_tags(
        scene,
        boxes,
        analysis.assembly.parts,
        system,
        Rect(2, _TITLE_ROOM - 6, width - 2, floor + 4),
        taken,
        index,
        held.tags if held is not None else None,
    )
    if beside and case is not None:
        scene.line(width + 8.0, 36.0, width + 8.0, height - 4.0, "rule", 1.0)
        view.draw_beside(scene, case, operator, system, (width + 24.0, 0.0, whole - width - 24.0, height))
    return Elevation(scene, projection, scales, line_x, tags)


def draw_nothing_yet(operator: Operator, width: float, height: float, words: str) -> Scene:
    """Return what is seen before there is a rig: the wearer's ghost, the place of the pad, the ruler's line."""
    scene = Scene()
    line_x, pad_y = support_line(width), height * 0.52
    scale = min(width * 0.6, height) / 0.75
    projection = Projection(View.SIDE, scale, line_x, pad_y, 0.0, 0.0)
    ruler_y = height - _RULER_ROOM
    draw_ghost(scene, projection, np.zeros(3), head_beside(np.zeros(3), operator), ruler_y - 10.0)
    half, deep = 0.075 * scale, 0.05 * scale
    pad = (
        ("M", line_x - half, pad_y - deep),
        ("L", line_x + half, pad_y - deep),
        ("L", line_x + half, pad_y + deep * 0.3),
        (
            "C",
            line_x + half * 0.5,
            pad_y - deep * 0.2,
            line_x - half * 0.5,
            pad_y - deep * 0.2,
            line_x - half,
            pad_y + deep * 0.3,
        ),
        ("Z",),
    )
    scene.path(pad, "p2", "line", 1.25, PREVIEW_DASH, 0.7)
    text_for(KEYS[0]).draw_point(scene, line_x, pad_y, height, ruler_y, scale)
    scene.line(24.0, ruler_y, width - 24.0, ruler_y, "ink", 1.2)
    scene.text(line_x + 0.11 * scale, pad_y - deep, words, 15, 500, "ink2")
    return scene


def _fit(
    analysis: Analysis,
    pad: np.ndarray,
    area: tuple[float, float, float, float],
    room_for: tuple[float, float],
    hold: Projection | None,
) -> Projection:
    """Return how the rig lies in an area (support line, width, height px, px free ahead), with room below and above.

    `room_for` is that room (m).
    """
    line_x, width, height, aside = area
    low, high = bounds(analysis)
    low, high = low - np.array([0.0, 0.0, room_for[0]]), high + np.array([0.0, 0.0, room_for[1]])
    top, bottom = _TITLE_ROOM + _RAIL, height - _RULER_ROOM - _SCALES_ROOM - 14.0 - _RAIL
    back = max(float(pad[0] - low[0]), 0.05)
    front = max(float(high[0] - pad[0]), 0.05)
    tall = max(float(high[2] - low[2]), 0.15)
    room = min((line_x - 26.0) / back, (width - line_x - aside) / front, (bottom - top) / tall, MAX_SCALE)
    if hold is not None:
        # The pad stays where it is on the screen.
        return Projection(
            View.SIDE, hold.scale, line_x, hold.y0, float(pad[0]), hold.at_v + float(pad[2]) - hold.pad_v, float(pad[2])
        )
    middle = (top + bottom) / 2.0
    at_v = float(low[2] + high[2]) / 2.0
    return Projection(View.SIDE, max(room, 50.0), line_x, middle, float(pad[0]), at_v, float(pad[2]))


def _draw_ruler(
    scene: Scene, analysis: Analysis, projection: Projection, system: System, width: float, y: float
) -> None:
    unit = unit_of(Kind.LENGTH, system)
    tick, half, whole = (0.010, 5, 10) if system is System.METRIC else (0.0254 / 2, 2, 4)
    left, right = 24.0, width - 24.0
    scene.line(left, y, right, y, "ink", 1.2)
    first = math.ceil((projection.at_x + (left - projection.x0) / projection.scale) / tick)
    last = math.floor((projection.at_x + (right - projection.x0) / projection.scale) / tick)
    step = tick * whole
    every = next((k for k in (1, 2, 5, 10, 20) if k * step * projection.scale >= 46), 50)
    step_px, zero = tick * projection.scale, projection.x(0.0)
    for n in range(-(-first // (whole * every)) * whole * every, last + 1, whole * every):
        label = number(to_display(n * tick, unit), 0, sign=n != 0)
        scene.text(zero + n * step_px, y + 22, label, 12, 500, "ink" if n == 0 else "ink2", Anchor.MIDDLE)
    long, middle, short = _ruler_ticks(first, last, step_px, half, whole)
    scene.put(long, zero, y, None, "ink", 1.2)
    scene.put(middle, zero, y, None, "ink2", 1.0)
    if step_px >= 4:
        scene.put(short, zero, y, None, "ink3", 0.8)
    words = f"{unit} from the sensor" if analysis.assembly.sensor is not None else unit
    # On the side where the words about the CG do not stand.
    behind = analysis.equilibrium is not None and analysis.equilibrium.ahead < 0.0
    if width >= 640.0 or behind:
        scene.text(right, y - 6, words, 12, 500, "ink3", Anchor.END)
    else:
        scene.text(left, y - 6, words, 12, 500, "ink3")


@lru_cache(maxsize=64)
def _ruler_ticks(first: int, last: int, step: float, half: int, whole: int) -> tuple[tuple[Command, ...], ...]:
    """Return the long, middle and short ticks number `first` to `last` of a ruler, `step` px apart, its zero at 0."""
    long: list[Command] = []
    middle: list[Command] = []
    short: list[Command] = []
    for n in range(first, last + 1):
        ticks, deep = (long, 9.0) if n % whole == 0 else (middle, 6.0) if n % half == 0 else (short, 4.0)
        ticks += (("M", n * step, 0.0), ("L", n * step, deep))
    return tuple(long), tuple(middle), tuple(short)


def _draw_datums(scene: Scene, analysis: Analysis, projection: Projection, boxes: list[PartBox]) -> list[Rect]:
    sensor = analysis.assembly.sensor
    if sensor is None:
        return []
    box = next((b for b in boxes if b.index == sensor), None)
    if box is None:
        return []
    x, y = projection.x(0.0), projection.y(0.0)
    right = max((b.right for b in boxes if analysis.assembly.parts[b.index].category in _ON_AXIS), default=box.right)
    scene.line(box.left - 12, y, right + 16, y, "ink3", 1.0, DATUM_DASH)
    scene.line(x, box.top - 14, x, box.bottom + 8, "ink3", 1.0, DATUM_DASH)
    return []


_ON_AXIS = frozenset({Category.BODY, Category.LENS, Category.ADAPTER, Category.MATTE_BOX})


def _draw_plumb(
    scene: Scene, analysis: Analysis, projection: Projection, system: System, ruler_y: float, width: float
) -> list[Rect]:
    body, spread, equilibrium = analysis.body, analysis.spread, analysis.equilibrium
    if body is None or spread is None:
        return []
    x, y = projection.x(float(body.cg[0])), projection.y(float(body.cg[2]))
    band = max(2.0 * float(spread.cg[0]) * projection.scale, 1.5)
    scene.path(rect(x - band, y, 2 * band, ruler_y - y), "fwd", None, 0.0, (), 0.14)
    scene.line(x, y, x, ruler_y - 7, "fwd", 1.6)
    scene.path(arrow_head(x, ruler_y, math.pi / 2, 9), "fwd")
    draw_cg(scene, x, y)
    taken = [Rect(x - 15, y - 15, x + 15, y + 15), Rect(x - 3, y, x + 3, ruler_y)]
    case = case_of(analysis)
    if case is not None:
        equilibrium = case.equilibrium
        ahead = equilibrium.ahead
        scene.path(
            rect(min(projection.x0, x), ruler_y + 10, abs(x - projection.x0), 3.5), "fwd" if ahead >= 0 else "back"
        )
        words = text_of(analysis).away(case)
        unit = unit_of(Kind.LENGTH, system)
        text = (
            f"CG {figure(abs(ahead), Kind.LENGTH, system, unit=False)} "
            f"{uncertainty(equilibrium.ahead_uncertainty, Kind.LENGTH, system)} {unit}"
        )
        whole = f"{text} {words}"
        color = "fwdT" if ahead >= 0 else "backT"
        room = width - x - 14 if ahead >= 0 else x - 14
        if 1.06 * text_width(whole, 13) <= room:
            text = whole
        start = x + 14 if ahead >= 0 else x - 14
        scene.text(start, ruler_y - 8, text, 13, 500, color, Anchor.START if ahead >= 0 else Anchor.END)
    return taken


def _draw_tip(
    scene: Scene, analysis: Analysis, projection: Projection, system: System, width: float, floor: float
) -> Rect | None:
    equilibrium = analysis.equilibrium
    if equilibrium is None:
        return None
    ahead, u = equilibrium.ahead, equilibrium.ahead_uncertainty
    px, py = projection.x0, projection.y(float(equilibrium.point[2]))
    if abs(ahead) <= 2.0 * u:
        scene.text(px + 20, floor - 6, "level, within what is known", 13, 600, "ink2")
        return Rect(px + 14, floor - 22, px + 200, floor)
    moment = equilibrium.tip_moment
    forward = moment > 0.0
    color = "fwd" if forward else "back"
    radius = min(300.0, (width - px) * 0.72)
    lowest = math.asin(min(max((floor - 14.0 - py) / radius, 0.02), 0.6))
    sweep = min(0.5, 0.16 + abs(moment) / 20.0)
    start = lowest - sweep if forward else math.pi - lowest + sweep
    end = lowest if forward else math.pi - lowest
    weight = min(6.0, 2.0 + abs(moment) * 0.6)
    tip_x, tip_y = px + radius * math.cos(end), py + radius * math.sin(end)
    heading = end + math.pi / 2 if forward else end - math.pi / 2
    case = case_of(analysis)
    sides = text_of(analysis).sides(case) if case is not None else FORE_AFT
    # Seen from the side, nothing turns where it tips aside.
    if sides is FORE_AFT:
        scene.path(arc(px, py, radius, start, end), None, color, weight)
        scene.path(arrow_head(tip_x + 6 * math.cos(heading), tip_y + 6 * math.sin(heading), heading, 13), color)
    unit = unit_of(Kind.MOMENT, system)
    size = f"{figure(abs(moment), Kind.MOMENT, system, unit=False)} "
    size += f"{uncertainty(equilibrium.tip_uncertainty, Kind.MOMENT, system)} {unit}"
    words = f"tips {sides.more if forward else sides.less}"
    mid = start + sweep / 2 if forward else start - sweep / 2
    tx = px + (radius + 14) * math.cos(mid)
    ty = py + radius * math.sin(mid) - 8.0
    anchor = Anchor.START if forward else Anchor.END
    text_color = "fwdT" if forward else "backT"
    room = width - text_width(size, 13) - 4
    if forward and tx > room:
        # No room beside the arrow: the words go above where it begins.
        tx, ty = room, py + radius * math.sin(start) - 30.0
    elif not forward and tx - 1.06 * text_width(size, 13) < 4.0:
        tx, ty = 4.0 + 1.06 * text_width(size, 13), py + radius * math.sin(start) - 30.0
    # On a ground of their own: beside a narrow drawing they may stand before a part.
    scene.note(tx, ty, words, 13, text_color, anchor)
    scene.note(tx, ty + 17, size, 13, text_color, anchor)
    wide = max(text_width(size, 13), text_width(words, 13))
    left = tx if forward else tx - wide
    edge_x = px + radius * math.cos(start)
    return Rect(
        min(left, edge_x - 8, tip_x - 8),
        min(py + radius * math.sin(start) - 8, ty - 16),
        max(left + wide, edge_x + 8, tip_x + 8),
        max(ty + 22, tip_y + 10),
    )


def _draw_preview(scene: Scene, analysis: Analysis, preview: Analysis, projection: Projection) -> None:
    """Draw dashed the parts that the remedy moves, both builds put on the same point of their support."""
    if analysis.equilibrium is None or preview.equilibrium is None:
        return
    shift = preview.equilibrium.point - analysis.equilibrium.point
    moved = Projection(
        projection.view,
        projection.scale,
        projection.x0,
        projection.y0,
        projection.at_x + float(shift[0]),
        projection.at_v + float(shift[2]),
    )
    before = {
        p.id: analysis.positions.centre[i] - analysis.equilibrium.point for i, p in enumerate(analysis.build.parts)
    }
    only = frozenset(
        i
        for i, placed in enumerate(preview.build.parts)
        if placed.id not in before
        or float(np.abs(preview.positions.centre[i] - preview.equilibrium.point - before[placed.id]).max()) > 1e-4
    )
    draw_parts(scene, preview.assembly, preview.positions, moved, preview=True, only=only)


def _slide_scales(
    analysis: Analysis, projection: Projection, width: float, y: float, selected: str | None, preview: Analysis | None
) -> tuple[SlideScale, ...]:
    """Return the scales to show: camera, battery, grips, pad and the selected part, side by side."""
    assembly = analysis.assembly
    wanted = _wanted_slides(analysis, selected)
    after = {}
    if preview is not None:
        after = {
            preview.build.parts[i].id: float(s)
            for i, s in zip(preview.assembly.slide_parts, preview.settings, strict=True)
        }
    made: list[SlideScale] = []
    for j in wanted:
        part = assembly.slide_parts[j]
        mount = assembly.slide_mounts[j]
        placed = analysis.build.parts[part]
        length = max((mount.high - mount.low) * projection.scale, 40.0)
        here = projection.x(float(analysis.positions.centre[part, 0]))
        share = (float(analysis.settings[j]) - mount.low) / (mount.high - mount.low)
        left = here - length * min(max(share, 0.0), 1.0)
        new = after.get(placed.id)
        made.append(
            SlideScale(
                placed.id,
                assembly.parts[part].name,
                left,
                left + length,
                y,
                mount.low,
                mount.high,
                float(analysis.settings[j]),
                new if new is not None and abs(new - float(analysis.settings[j])) > 1e-6 else None,
            )
        )
    own = own_scale_of(analysis)
    if own is not None and analysis.equilibrium is not None:
        length = max((own.high - own.low) * projection.scale, 40.0)
        here = projection.x(float(analysis.equilibrium.point[0]))
        slid = own_scale_of(preview) if preview is not None else None
        then = slid.setting if slid is not None else own.setting
        ends = here - length / 2, here + length / 2
        new = then if abs(then - own.setting) > STAYS else None
        made.insert(0, SlideScale(OWN_SCALE, own.name, *ends, y, own.low, own.high, own.setting, new, signed=True))
    while len(made) > 1 and sum(_scale_room(scale) for scale in made) + 16.0 * len(made) > width:
        made.pop()
    return _side_by_side(made, width)


def _wanted_slides(analysis: Analysis, selected: str | None) -> list[int]:
    assembly = analysis.assembly
    movable = [j for j, mount in enumerate(assembly.slide_mounts) if mount.goes]
    wanted: list[int] = []
    mine = next((j for j in movable if analysis.build.parts[assembly.slide_parts[j]].id == selected), None)
    grips = next((j for j in movable if assembly.parts[assembly.slide_parts[j]].category is Category.CLAMP), None)
    pads = next((j for j in movable if assembly.parts[assembly.slide_parts[j]].category is Category.PAD), None)
    for j in (mine, slide_of_camera(analysis), battery_slide(assembly), grips, pads):
        if j is not None and j in movable and j not in wanted and len(wanted) < 4:
            wanted.append(j)
    return wanted


def _scale_room(scale: SlideScale) -> float:
    """Return how wide a scale and its words are (px)."""
    return max(scale.right - scale.left, text_width(scale.name, 12.5) + 66.0)


def _side_by_side(scales: list[SlideScale], width: float) -> tuple[SlideScale, ...]:
    """Return the scales shifted apart so that neither they nor their words meet, or squeezed to fit."""
    from msgspec.structs import replace

    if not scales:
        return ()
    scales = sorted(scales, key=lambda s: (s.left + s.right) / 2)
    widths = [_scale_room(scale) for scale in scales]
    gap = 16.0
    room = width - 16.0 - gap * (len(scales) - 1)
    if sum(widths) > room:
        widths = [w * room / sum(widths) for w in widths]
    lefts: list[float] = []
    edge = 8.0
    for scale, w in zip(scales, widths, strict=True):
        left = max(edge, (scale.left + scale.right) / 2 - w / 2)
        lefts.append(left)
        edge = left + w + gap
    edge = width - 8.0
    for i in range(len(scales) - 1, -1, -1):
        lefts[i] = min(lefts[i], edge - widths[i])
        edge = lefts[i] - gap
    placed = []
    for scale, left, w in zip(scales, lefts, widths, strict=True):
        length = min(scale.right - scale.left, w)
        start = left + (w - length) / 2
        placed.append(replace(scale, left=start, right=start + length))
    return tuple(placed)
