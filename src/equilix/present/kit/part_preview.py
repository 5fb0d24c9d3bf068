"""One part drawn to scale from the side and from above, with its CG, mounts and sizes."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import TOUCH_POINTS, Connection, Part
from equilix.core.kit.uncertainty import COVERAGE, cg_uncertainty
from equilix.core.units import Kind
from equilix.present.drawing.rig_drawing import Projection, draw_cg, draw_parts
from equilix.present.drawing.scene import Anchor, Region, Scene, circle, rect, text_width
from equilix.present.drawing.silhouettes import View
from equilix.present.drawing.sockets import draw_socket
from equilix.present.units import System, figure


def draw_part_preview(part: Part, system: System, width: float, height: float, chosen: int = -1) -> Scene:
    """Return the drawing of `part` in an area of `width` by `height` px.

    What holds it and what it offers are regions ("place", number, view, px per m): feet are numbered first, then
    mounts. The `chosen` one is ringed.
    """
    scene = Scene()
    if part.outline is None:
        scene.text(width / 2, height / 2 - 8, "Size not known.", 16, 600, "ink2", Anchor.MIDDLE)
        words = "Type length × width × height in the size column."
        scene.text(width / 2, height / 2 + 14, words, 13, 400, "ink3", Anchor.MIDDLE)
        return scene
    # Taken off everything, a part stands in its own frame.
    build = Build("preview", "preview", (Placed("part", part.id),))
    assembly = prepare(build, {part.id: part})
    at_zero = assembly.at(assembly.settings(build))
    shift = at_zero.origin[0]
    length, wide, tall = part.outline.size
    across = max(tall, wide, 0.01)
    # Side by side or one above the other, whichever lets the drawing be larger.
    beside = min((width / 2.0 - 88.0) / max(length, 0.01), (height - 84.0) / across)
    stacked = min((width - 90.0) / max(length, 0.01), (height / 2.0 - 66.0) / across)
    scale = max(min(max(beside, stacked), 2500.0), 60.0)
    if beside >= stacked:
        spots = ((width / 4.0 - 24.0, height / 2.0 - 14.0), (width * 0.75 - 24.0, height / 2.0 - 14.0))
    else:
        spots = ((width / 2.0 - 20.0, height / 4.0 - 6.0), (width / 2.0 - 20.0, height * 0.75 - 12.0))
    cx, cy, cz = part.outline.centre
    at_x, at_y, at_z = cx + float(shift[0]), cy + float(shift[1]), cz + float(shift[2])
    views = (
        (Projection(View.SIDE, scale, *spots[0], at_x, at_z), tall, "side"),
        (Projection(View.TOP, scale, *spots[1], at_x, at_y), wide, "above"),
    )
    roomy = min(width, height) >= 150.0 and scale * length >= 84.0
    if not roomy:
        lone = replace(views[0][0], x0=width / 2.0 - 20.0, y0=height / 2.0 - 10.0)
        views = ((lone, tall, "side"), views[1])
    for projection, across, name in views if roomy else views[:1]:
        draw_parts(scene, assembly, at_zero, projection)
        _dimensions(scene, projection, system, length, across, name, (width, height))
        _mount_signs(scene, part, projection, shift, chosen)
        _cg_mark(scene, part, projection, shift)
    if height < 200.0 or beside < stacked:
        return scene
    bar = next((b for b in (0.5, 0.2, 0.1, 0.05, 0.02) if b * scale <= 160), 0.01)
    x, y = 2.0, height - 8.0
    scene.path(rect(x, y - 4, bar * scale, 4), "ink2")
    scene.text(x + bar * scale + 8, y, figure(bar, Kind.LENGTH, system), 12, 500, "ink2")
    return scene


def _dimensions(
    scene: Scene,
    projection: Projection,
    system: System,
    length: float,
    across: float,
    name: str,
    area: tuple[float, float],
) -> None:
    """Add length and width with their lines, as far as they lie within `area`."""
    w, h = length * projection.scale, across * projection.scale
    left, right = projection.x0 - w / 2, projection.x0 + w / 2
    top, bottom = projection.y0 - h / 2, projection.y0 + h / 2
    y = bottom + 16
    scene.line(left, y, right, y, "ink3", 0.9)
    for x in (left, right):
        scene.line(x, y - 4, x, y + 4, "ink3", 0.9)
    if y + 16 < area[1]:
        scene.text(projection.x0, y + 16, f"{figure(length, Kind.LENGTH, system)}", 12, 500, "ink2", Anchor.MIDDLE)
    x = right + 18
    scene.line(x, top, x, bottom, "ink3", 0.9)
    for edge in (top, bottom):
        scene.line(x - 4, edge, x + 4, edge, "ink3", 0.9)
    words = figure(across, Kind.LENGTH, system)
    if x + 7 + 1.06 * text_width(words, 12) < area[0]:
        scene.text(x + 7, projection.y0 + 4, words, 12, 500, "ink2")
    if top - 8.0 >= 12.0 and h >= 24.0:
        words = f"to the {name}" if name == "side" else f"from {name}"
        scene.text(projection.x0, top - 8, words, 12, 500, "ink3", Anchor.MIDDLE)


def _mount_signs(scene: Scene, part: Part, projection: Projection, shift: np.ndarray, chosen: int) -> None:
    places: list[tuple[float, float]] = []
    for foot in part.feet:
        x, y = projection.point(np.array(foot.at) + shift)
        scene.path(rect(x - 3, y - 3, 6, 6), "ink")
        places.append((x, y))
    for mount in part.mounts:
        axis = np.array(mount.unit_axis)
        if mount.joint is Connection.SLIDE:
            ends = [projection.point(np.array(mount.at) + s * axis + shift) for s in (mount.low, mount.high)]
            scene.line(*ends[0], *ends[1], "accent", 1.4, (4, 3))
        x, y = projection.point(
            np.array(mount.at) + (mount.low + mount.high) / 2.0 * axis * (mount.joint is Connection.SLIDE) + shift
        )
        draw_socket(scene, mount.kind, x, y, "ink2" if mount.kind in TOUCH_POINTS else "accent", 1.4)
        places.append((x, y))
    for number, (x, y) in enumerate(places):
        if number == chosen:
            scene.path(circle(x, y, 10), None, "accent", 2.0)
        key = ("place", str(number), projection.view.value, f"{projection.scale:.3f}")
        scene.regions.append(Region(key, ((x - 8, y - 8), (x + 8, y - 8), (x + 8, y + 8), (x - 8, y + 8))))


def _cg_mark(scene: Scene, part: Part, projection: Projection, shift: np.ndarray) -> None:
    x, y = projection.point(np.array(part.centre) + shift)
    spread = COVERAGE * cg_uncertainty(part)[0] * projection.scale
    scene.line(x - spread, y, x + spread, y, "fwd", 1.6)
    for end in (x - spread, x + spread):
        scene.line(end, y - 5, end, y + 5, "fwd", 1.6)
    draw_cg(scene, x, y, 8.0)
