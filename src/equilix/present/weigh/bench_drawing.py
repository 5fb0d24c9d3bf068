"""Pictures of the bench's set-ups, to scale: how to lay the part, where to read, where its CG comes out."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import RigCache
from equilix.core.errors import MeasurementError
from equilix.core.kit.records import CG_QUANTITIES
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.measurement.bench import Procedure, Setup, axis_of
from equilix.core.units import Kind
from equilix.present.drawing.rig_drawing import GUESSED_DASH, Projection, draw_cg, draw_parts
from equilix.present.drawing.scene import (
    Anchor,
    Scene,
    arc,
    arrow_head,
    circle,
    hatch,
    polygon,
    polyline,
    rect,
    text_width,
)
from equilix.present.drawing.silhouettes import View
from equilix.present.units import System, figure
from equilix.present.weigh.bench_view import exact, lifts, plus_minus


class BenchPlacement(Struct, frozen=True, eq=False):
    """What is drawn on the bench: an assembly in the bench frame and which of its parts lie there."""

    assembly: Assembly
    positions: Positions
    only: frozenset[int]

    def turned(self, pitch: float, about: tuple[float, float]) -> BenchPlacement:
        """Return it turned nose down by `pitch` (rad) about a point (x, z) (m) of the side plane."""
        cos, sin = math.cos(pitch), math.sin(pitch)
        turn = np.array([[cos, 0.0, sin], [0.0, 1.0, 0.0], [-sin, 0.0, cos]])
        pivot = np.array([about[0], 0.0, about[1]])

        def moved(points: np.ndarray) -> np.ndarray:
            result: np.ndarray = (points - pivot) @ turn.T + pivot
            return result

        p = self.positions
        return BenchPlacement(
            replace(self.assembly, rotation=turn @ self.assembly.rotation, cache=RigCache()),
            Positions(p.base, moved(p.origin), moved(p.cg), moved(p.centre), moved(p.touch), moved(p.axis)),
            self.only,
        )


class _Frame(Struct, frozen=True):
    """Bench frame (m, along and up) to px; z = 0 of the frame is the line of contacts."""

    x0: float
    y0: float
    scale: float

    def x(self, along: float) -> float:
        return self.x0 + along * self.scale

    def y(self, up: float) -> float:
        return self.y0 - up * self.scale


def draw_bench(
    procedure: Procedure,
    laid: tuple[BenchPlacement, ...],
    system: System,
    shown: float | None,
    width: float,
    height: float,
) -> Scene:
    """Return the picture of a set-up in `width` by `height` px; `shown` is what the scale shows now (kg)."""
    scene = Scene()
    match procedure.setup:
        case Setup.WHOLE | Setup.TARE | Setup.DIFFERENCE:
            _draw_weighing(scene, procedure, laid, system, shown, width, height)
        case Setup.FORE_AFT | Setup.SIDEWAYS:
            _draw_supports(scene, procedure, laid, system, shown, width, height, 0.0)
        case Setup.HEIGHT:
            tilted = procedure.current is not None and procedure.current.key == "tilted"
            tilted = tilted or "tilted" in procedure.readings
            tilt = procedure.layout.tilt if tilted else 0.0
            _draw_supports(scene, procedure, laid, system, shown, width, height, tilt)
        case Setup.EDGE:
            _draw_edge(scene, procedure, laid, system, width, height)
        case Setup.HANG:
            _draw_hang(scene, procedure, laid, system, width, height)
    return scene


def _ground(scene: Scene, y: float, left: float, right: float) -> None:
    scene.line(left, y, right, y, "line", 1.2)
    strip = ((left, y), (right, y), (right, y + 6), (left, y + 6))
    scene.path(hatch(strip, 6.0), None, "ghostL", 0.9)


def _display(scene: Scene, x: float, y: float, text: str, unit: str) -> None:
    """Draw a hanging scale's box about (x, y)."""
    scene.path(rect(x - 34, y - 27, 68, 54, 6), "p2", "line", 1.3)
    scene.path(rect(x - 27, y - 20, 54, 23, 3), "panel", "line", 1.0)
    scene.text(x, y - 3, text, 14, 600, "ink", Anchor.MIDDLE)
    scene.text(x, y + 19, unit, 12, 500, "ink2", Anchor.MIDDLE)


def _hook(scene: Scene, x: float, y: float) -> None:
    """Draw a hook whose eye is at the top (x, y); 20 px tall."""
    scene.line(x, y, x, y + 5, "line", 1.6)
    scene.path(arc(x, y + 12, 7, -math.pi / 2, math.pi * 0.85), None, "line", 1.8)


def _hanging_scale(scene: Scene, x: float, top: float, shown: float | None, system: System) -> float:
    """Draw beam, scale and hook above; return where the cord begins (px)."""
    scene.line(x - 26, top, x + 26, top, "line", 2.4)
    scene.path(arc(x, top + 8, 8, math.pi, 2 * math.pi), None, "line", 1.6)
    text = "– – –" if shown is None else exact(shown, Kind.MASS, system, unit=False)
    _display(scene, x, top + 36, text, "kg" if system is System.METRIC else "lb")
    _hook(scene, x, top + 63)
    return top + 80


def _platform(scene: Scene, x: float, y: float, half: float, shown: float | None, system: System) -> None:
    """Draw a bench scale whose platform's top is at y."""
    scene.path(rect(x - half, y, 2 * half, 6, 2), "p3", "line", 1.3)
    scene.path(polygon(((x - half * 0.8, y + 6), (x + half * 0.8, y + 6), (x + half, y + 40), (x - half, y + 40))))
    scene.path(rect(x - half * 0.9, y + 8, half * 1.8, 32, 4), "p2", "line", 1.3)
    scene.path(rect(x - 27, y + 13, 54, 21, 3), "panel", "line", 1.0)
    text = "– – –" if shown is None else exact(shown, Kind.MASS, system, unit=False)
    scene.text(x, y + 28, text, 13, 600, "ink", Anchor.MIDDLE)


def _draw_laid(scene: Scene, laid: tuple[BenchPlacement, ...], frame: _Frame, rise: float) -> None:
    """Draw the parts in the side view; their frame's zero lies `rise` (m) above the contacts."""
    for one in laid:
        projection = Projection(View.SIDE, frame.scale, frame.x0, frame.y(rise), 0.0, 0.0)
        draw_parts(scene, one.assembly, one.positions, projection, only=one.only)


def _draw_weighing(
    scene: Scene,
    procedure: Procedure,
    laid: tuple[BenchPlacement, ...],
    system: System,
    shown: float | None,
    width: float,
    height: float,
) -> None:
    subject = procedure.subject
    x = width * 0.42
    length, tall = max(subject.size[0], 0.02), max(subject.size[2], 0.02)
    current = procedure.current
    key = current.key if current is not None else list(procedure.readings)[-1] if procedure.readings else "whole"
    without = key in ("tray", "without")
    tray = procedure.setup is Setup.TARE
    if lifts(procedure):
        top = _hanging_scale(scene, x, 16.0, shown, system)
        room = height - top - 62
        scale = min((width * 0.62) / length, room / tall, 2500.0)
        sling = top + 30
        bottom = sling + tall * scale
        half = length * scale / 2
        for side in (-1, 1):
            scene.line(x, top, x + side * min(half * 0.7, 70), sling + (4 if not without else 0), "line", 1.2)
    else:
        room = height - 110
        scale = min((width * 0.62) / length, room / tall, 2500.0)
        bottom = height - 70
        half = length * scale / 2
        _platform(scene, x, bottom + (6 if tray else 0), max(min(half * 0.9, 90), 54), shown, system)
        _ground(scene, bottom + 46, 10, width - 10)
    if tray:
        wide = half + 10
        scene.path(
            polyline(
                (
                    (x - wide, bottom - 16),
                    (x - wide + 6, bottom + 5),
                    (x + wide - 6, bottom + 5),
                    (x + wide, bottom - 16),
                )
            ),
            None,
            "line",
            1.6,
        )
    frame = _Frame(x - subject.centre[0] * scale, bottom, scale)
    rise = tall / 2.0 - subject.centre[2]
    if without and procedure.setup is Setup.TARE:
        scene.text(x, bottom - 6, "empty", 13, 500, "ink3", Anchor.MIDDLE)
    elif without:
        box = rect(x - half, bottom - tall * scale, 2 * half, tall * scale, 4)
        scene.path(box, None, "ink3", 1.2, GUESSED_DASH)
        scene.text(x, bottom - tall * scale / 2 + 4, "taken off", 13, 500, "ink3", Anchor.MIDDLE)
    else:
        _draw_laid(scene, laid, frame, rise)
    left = x + max(half, 40) + 16
    _note(scene, left, height * 0.62, width, "believed", f"{exact(subject.mass, Kind.MASS, system)}")
    _note(scene, left, height * 0.62 + 36, width, "doubt", f"{plus_minus(subject.mass_u, Kind.MASS, system)}")
    if procedure.setup is Setup.DIFFERENCE:
        words = "Weigh the rig with the part," if not without else "Take the part off, with"
        second = "cables and plates as you use them." if not without else "everything that comes with it."
        scene.text(8, 16, words, 12, 500, "ink2")
        scene.text(8, 32, second, 12, 500, "ink2")
    elif lifts(procedure):
        scene.text(8, height - 14, "Hang it free. No cable pulls, nothing touches it.", 12, 500, "ink2")
    else:
        scene.text(8, height - 4, "Put it in the middle of the platform.", 12, 500, "ink2")


def _note(scene: Scene, x: float, y: float, width: float, caption: str, value: str) -> None:
    if x + 60 > width:
        return
    scene.text(x, y, caption, 12, 400, "ink3")
    scene.text(x, y + 15, value, 13, 500, "ink2")


def _estimate(procedure: Procedure, axis: int) -> tuple[float, float, bool]:
    """Return the CG (m, part's own axis), its standard uncertainty, and whether it is measured."""
    try:
        for outcome in procedure.outcomes():
            if outcome.quantity is CG_QUANTITIES[axis]:
                return outcome.measured.value, outcome.measured.u, True
    except MeasurementError:
        pass
    return procedure.subject.cg[axis], procedure.subject.cg_u[axis], False


def _draw_supports(
    scene: Scene,
    procedure: Procedure,
    laid: tuple[BenchPlacement, ...],
    system: System,
    shown: float | None,
    width: float,
    height: float,
    tilt: float,
) -> None:
    subject, layout = procedure.subject, procedure.layout
    axis = axis_of(procedure.setup)
    along = 1 if procedure.setup is Setup.SIDEWAYS else 0
    hanging = lifts(procedure)
    span = max(layout.span, 0.02)
    tall = max(subject.size[2], 0.02)
    left_room, right_room = 44.0, 74.0
    # The scale hangs ahead of the part, so that both may be as tall as the picture.
    ahead = span - (subject.centre[along] + subject.size[along] / 2.0 + layout.origin)
    small = height < 210.0
    head = 26.0
    foot = (76.0 if small else 96.0) if hanging else 122.0
    drop = span * math.sin(tilt)
    across = (width - left_room - right_room - 20) / span
    scale = min(across, (height - head - foot) / (tall + drop + 0.01), 2200.0)
    boxed = ahead * scale >= 44.0
    if hanging and not boxed and not small:
        head, boxed = 104.0, True
        scale = min(across, (height - head - foot) / (tall + drop + 0.01), 2200.0)
    scale = max(scale, 20.0)
    x_back = left_room + (width - left_room - right_room - span * scale) / 2.0
    board_y = height - foot - drop * scale
    frame = _Frame(x_back, board_y, scale)
    ground = height - ((46.0 if small else 56.0) if hanging else 46.0)
    cos, sin = math.cos(tilt), math.sin(tilt)
    front_x, front_y = x_back + span * scale * cos, board_y + span * scale * sin
    # Board
    half = 4.0
    ends = [(-16.0, 0.0), (span * scale + 14.0, 0.0)]
    board = [
        (x_back + u * cos - v * sin, board_y + u * sin + v * cos)
        for u, v in ((ends[0][0], -half), (ends[1][0], -half), (ends[1][0], half), (ends[0][0], half))
    ]
    # What lies on it
    rise = max(layout.rise if procedure.setup is Setup.HEIGHT else subject.size[2] / 2 - subject.centre[2], -1.0)
    lift = half / scale
    if along == 0:
        shifted = tuple(
            replace(one, positions=moved(one.positions, np.array([layout.origin, 0.0, rise + lift]))) for one in laid
        )
        turned = tuple(one.turned(tilt, (0.0, 0.0)) for one in shifted) if tilt else shifted
        value, u, measured = _estimate(procedure, 0)
        _guess_band(scene, procedure, frame, 0, board_y, tall + rise + lift)
        _draw_laid(scene, turned, frame, 0.0)
    else:
        value, u, measured = _estimate(procedure, 1)
        _draw_behind(scene, laid, frame, layout.origin, rise + lift)
    scene.path(polygon(board), "p3", "line", 1.3)
    # Supports
    scene.path(polygon(((x_back, board_y + half), (x_back - 13, ground), (x_back + 13, ground))), "line")
    _ground(scene, ground, 8, width - 8)
    if hanging:
        cord = _hanging_scale(scene, front_x, 14.0, shown, system) if boxed else 4.0
        scene.line(front_x, cord, front_x, front_y, "line", 1.2)
        scene.path(circle(front_x, front_y, 3.2), "paper", "line", 1.3)
    else:
        scene.path(
            polygon(((front_x, front_y + half), (front_x - 8, front_y + 22), (front_x + 8, front_y + 22))), "line"
        )
        _platform(scene, front_x, front_y + 22, 36, shown, system)
    # CG and plumb
    height_up = (subject.cg[2] if axis != 2 else _estimate(procedure, 2)[0]) + rise + lift
    place = value + layout.origin
    cg_x = x_back + (place * cos + height_up * sin) * scale
    cg_y = board_y - (height_up * cos - place * sin) * scale
    scene.line(cg_x, cg_y, cg_x, ground + 14, "fwd", 2.0)
    if measured:
        draw_cg(scene, cg_x, cg_y, 9.0)
    else:
        scene.path(circle(cg_x, cg_y, 9.0), "paper", "ink", 1.3, GUESSED_DASH)
    # Forces
    mass = procedure.readings.get("whole", subject.mass)
    key = "tilted" if tilt else "front"
    front_force = procedure.readings.get(key)
    if front_force is None:
        front_force = next((s.expected or 0.0 for s in procedure.steps if s.key == key), 0.0)
    known = key in procedure.readings
    _force(scene, x_back - 20, board_y - 30, mass - front_force, "ink" if known else "ink3", system, Anchor.MIDDLE)
    _force(scene, front_x + 12, front_y - 22, front_force, "accent" if known else "ink3", system, Anchor.START)
    _dimensions(scene, procedure, system, x_back, front_x, cg_x, ground + 20, place, u, measured)
    if tilt:
        scene.path(arc(x_back, board_y, 46, 0.0, tilt), None, "accent", 1.4)
        scene.line(x_back, board_y, x_back + 66, board_y, "ink3", 1.0, (4, 3))
        scene.text(x_back + 52, board_y + 16, f"{math.degrees(tilt):.0f}°", 12, 600, "accent")
    elif procedure.setup is not Setup.SIDEWAYS:
        zero = x_back + layout.origin * scale
        top = board_y - (tall + max(rise - subject.size[2] / 2 + subject.centre[2], 0.0)) * scale - 8
        scene.line(zero, max(top, 20.0), zero, board_y - half, "ink3", 1.0, (9, 2.5, 1.5, 2.5))
        scene.text(zero, max(top, 20.0) - 5, "zero", 12, 400, "ink3", Anchor.MIDDLE)


def moved(positions: Positions, by: np.ndarray) -> Positions:
    """Return all places moved `by` (3,) (m)."""
    return Positions(
        positions.base + by,
        positions.origin + by,
        positions.cg + by,
        positions.centre + by,
        positions.touch + by,
        positions.axis + by,
    )


def _guess_band(scene: Scene, procedure: Procedure, frame: _Frame, axis: int, bottom: float, up: float) -> None:
    """Draw the old guess of the CG with its uncertainty, pale."""
    spread = COVERAGE * procedure.subject.cg_u[axis]
    centre = procedure.subject.cg[axis] + procedure.layout.origin
    left, right = frame.x(centre - spread), frame.x(centre + spread)
    if right - left > 3.0:
        scene.path(rect(left, frame.y(up) - 22, right - left, bottom - frame.y(up) + 22), "p1", None, 0.0, (), 0.8)


def _draw_behind(scene: Scene, laid: tuple[BenchPlacement, ...], frame: _Frame, origin: float, rise: float) -> None:
    """Draw the parts from behind, as boxes: left is to the right of a reader's back support."""
    for one in laid:
        for i in sorted(one.only, key=lambda k: float(one.positions.centre[k, 0])):
            y, z = float(one.positions.centre[i, 1]), float(one.positions.centre[i, 2])
            half_y, half_z = float(one.assembly.edges[i, 1]), float(one.assembly.edges[i, 2])
            x = frame.x(origin + y - half_y)
            top = frame.y(rise + z + half_z)
            scene.path(rect(x, top, 2 * half_y * frame.scale, 2 * half_z * frame.scale, 3), "p1", "line", 1.2)


def _force(scene: Scene, x: float, y: float, mass: float, color: str, system: System, anchor: Anchor) -> None:
    """Draw an upward arrow with its reading."""
    scene.line(x, y + 18, x, y - 4, color, 2.0)
    scene.path(arrow_head(x, y - 8, -math.pi / 2, 8), color)
    words = exact(mass, Kind.MASS, system)
    if anchor is Anchor.MIDDLE:
        scene.text(max(x, text_width(words, 12) / 2 + 2), y - 14, words, 12, 600, color, Anchor.MIDDLE)
    else:
        scene.text(x + 8, y + 8, words, 12, 600, color, anchor)


def _dimensions(
    scene: Scene,
    procedure: Procedure,
    system: System,
    x_back: float,
    x_front: float,
    cg_x: float,
    y: float,
    place: float,
    u: float,
    measured: bool,
) -> None:
    for x in (x_back, x_front, cg_x):
        scene.line(x, y - 5, x, y + 5, "ink", 1.0)
    scene.line(x_back, y, cg_x, y, "fwd", 2.4)
    scene.line(cg_x, y, x_front, y, "ink", 1.0)
    about = "" if measured else "≈ "
    words = f"{about}{figure(place, Kind.LENGTH, system, unit=False)} {plus_minus(u, Kind.LENGTH, system)}"
    unit = "mm" if system is System.METRIC else "in"
    span = f"span {figure(procedure.layout.span, Kind.LENGTH, system)}"
    left = (x_back + cg_x) / 2
    right = max((cg_x + x_front) / 2, left + (text_width(words, 13) + text_width(span, 13)) / 2 + 30)
    scene.text(left, y + 18, f"{words} {unit}", 12.5, 600, "fwdT", Anchor.MIDDLE)
    scene.text(right, y + 18, span, 12.5, 500, "ink2", Anchor.MIDDLE)


def _draw_edge(
    scene: Scene, procedure: Procedure, laid: tuple[BenchPlacement, ...], system: System, width: float, height: float
) -> None:
    subject = procedure.subject
    length, tall = max(subject.size[0], 0.02), max(subject.size[2], 0.02)
    scale = min(width * 0.62 / length, (height - 150) / tall, 2200.0)
    value, u, measured = _estimate(procedure, 0)
    ground = height - 56.0
    edge_y = ground - 48.0
    x = width * 0.45
    frame = _Frame(x - value * scale, edge_y, scale)
    _guess_band(scene, replace(procedure, layout=replace(procedure.layout, origin=0.0)), frame, 0, edge_y, tall)
    _draw_laid(scene, laid, frame, tall / 2 - subject.centre[2])
    scene.path(polygon(((x, edge_y), (x - 22, ground), (x + 22, ground))), "line")
    _ground(scene, ground, 8, width - 8)
    zero = frame.x(0.0)
    scene.line(zero, frame.y(tall) - 24, zero, edge_y, "ink3", 1.0, (9, 2.5, 1.5, 2.5))
    scene.text(zero - 5, frame.y(tall) - 16, "zero", 12, 400, "ink3", Anchor.END)
    cg_y = frame.y(tall / 2 - subject.centre[2] + subject.cg[2])
    if measured:
        draw_cg(scene, x, cg_y, 9.0)
    else:
        scene.path(circle(x, cg_y, 9.0), "paper", "ink", 1.3, GUESSED_DASH)
    y = ground + 20
    for end in (zero, x):
        scene.line(end, y - 5, end, y + 5, "ink", 1.0)
    scene.line(zero, y, x, y, "fwd", 2.4)
    words = f"{figure(value, Kind.LENGTH, system, unit=False)} {plus_minus(u, Kind.LENGTH, system)}"
    unit = "mm" if system is System.METRIC else "in"
    scene.text((zero + x) / 2, y + 18, f"{words} {unit}", 12.5, 600, "fwdT", Anchor.MIDDLE)
    scene.text(8, 20, "Roll it until it tips neither way. Measure from its zero to the edge.", 12, 500, "ink2")


def _draw_hang(
    scene: Scene, procedure: Procedure, laid: tuple[BenchPlacement, ...], system: System, width: float, height: float
) -> None:
    subject, layout = procedure.subject, procedure.layout
    current = procedure.current
    steps = procedure.steps
    index = next((i for i, s in enumerate(steps) if current is not None and s.key == current.key), len(steps) - 1)
    hook = layout.hooks[index]
    step = steps[index]
    pitch = procedure.readings.get(step.key, step.expected or 0.0)
    size = math.hypot(subject.size[0], subject.size[2]) + 0.02
    x, top = width * 0.46, 44.0
    scale = min((height - top - 52) / size, width * 0.7 / size, 2000.0)
    frame = _Frame(x - hook[0] * scale, top + hook[1] * scale, scale)
    turned = tuple(one.turned(pitch, hook) for one in laid)
    scene.line(x - 40, 10, x + 40, 10, "line", 2.4)
    scene.line(x, 10, x, top, "line", 1.2)
    _draw_laid(scene, turned, frame, 0.0)
    cos, sin = math.cos(pitch), math.sin(pitch)

    def on_screen(point: tuple[float, float]) -> tuple[float, float]:
        dx, dz = point[0] - hook[0], point[1] - hook[1]
        return x + (dx * cos + dz * sin) * scale, top - (-dx * sin + dz * cos) * scale

    for i, (other, other_step) in enumerate(zip(layout.hooks, steps, strict=True), 1):
        px, py = on_screen(other)
        scene.path(circle(px, py, 4.0), "paper", "accent" if other == hook else "ink2", 1.6)
        scene.text(px + 8, py - 6, str(i), 12, 600, "accent" if other == hook else "ink2")
        angle = procedure.readings.get(other_step.key)
        if angle is not None and other != hook:
            down = (other[0] + size * math.sin(angle), other[1] - size * math.cos(angle))
            scene.line(px, py, *on_screen(down), "ink2", 1.2, (4, 3))
    scene.line(x, top, x, height - 38, "fwd", 1.8)
    scene.path(polygon(((x, height - 26), (x - 5, height - 38), (x + 5, height - 38))), "fwd")
    cx, _, mx = _estimate(procedure, 0)
    cz, _, mz = _estimate(procedure, 2)
    place = on_screen((cx, cz))
    if mx and mz:
        draw_cg(scene, *place, 9.0)
    else:
        scene.path(circle(*place, 9.0), "paper", "ink", 1.3, GUESSED_DASH)
    words = "expect" if step.key not in procedure.readings else "read"
    scene.text(
        x + 50, 26, f"{words} {abs(math.degrees(pitch)):.0f}° nose {'down' if pitch >= 0 else 'up'}", 12, 600, "accent"
    )
    scene.text(8, height - 4, "Let it come to rest. Hold an angle gauge along the lens.", 12, 500, "ink2")
