"""The sled, its wearer, its drop and its wobble in lines."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Kit
from equilix.core.frames import X, Y
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.solver.marks import marks_of
from equilix.core.statics.pose import Pose
from equilix.core.statics.sled import Sled, hidden_lean, swing_from
from equilix.core.uncertainty.output_model import CG_AHEAD, output_model, output_uncertainties
from equilix.core.units import Kind
from equilix.present.drawing.figures import DEEP, At
from equilix.present.drawing.scales import Elevation
from equilix.present.drawing.scene import Scene, circle, polygon, text_width
from equilix.present.drawing.sled import DropView, SledView, WobbleView, draw_drop, draw_sled, draw_wobble
from equilix.present.drawing.wearer import WearerView, draw_wearer
from equilix.present.drawing.work_order import Work, draw_lens_rows, draw_order, steps_to
from equilix.present.units import System, figure, number, uncertainty
from equilix.supports.vest.hanging import MIDDLE, SOCKET, VestCase, VestResult
from equilix.supports.vest.mechanics import SUPPORT, lens_marks, order_of_work, springs_for
from equilix.supports.vest.outputs import DROP, PITCH, wished_lever, wobble_uncertainties

#: rad: a lean that nobody sees; common practice.
SEEN = math.radians(0.5)
#: px: the order of work below the picture; and s between two marks of a drop.
_ORDER, _EVERY = 150.0, 0.25
#: px: the least height in which sled and wearer are drawn side by side.
_BOTH = 150.0
#: rad/s: how far the curve of wobble goes at least, and in how many points.
_PANS, _POINTS = math.radians(40.0), 61
LENS_QUESTION = "Marks for an upright post and the wanted drop, for each lens"


def degrees(angle: float) -> str:
    """Return an angle (rad) as people read it: "1.2°"."""
    degrees = math.degrees(angle)
    return f"{number(degrees, 1 if degrees < 9.95 else 0)}°"


def lean_uncertainty(u: float, system: System) -> str:
    """Return the uncertainty of a lean; one that may be anything is none to say in degrees."""
    return uncertainty(u, Kind.ANGLE, system) if COVERAGE * u < math.pi / 2.0 else "± ?"


def _work(case: VestCase, planned: Analysis | None = None) -> Work:
    """Return the order of work as it is drawn, up to what is `planned`."""
    steps = order_of_work(case.analysis)
    if planned is not None:
        steps = steps_to(steps, planned, order_of_work(planned))
    return Work(case.analysis, steps, lambda step: abs(step.left) > 1.0, _loose(case))


def _loose(case: VestCase) -> str:
    """Return what no slide is there for, "" if there is one for all."""
    words = {
        ("spin", "x"): "the base has no slide fore and aft",
        ("spin", "y"): "the base has no slide across",
        ("sled", "x"): "no slide levels it fore and aft",
        ("sled", "y"): "no slide levels it across",
        ("drop", "z"): "no slide sets its height",
    }
    for step in order_of_work(case.analysis):
        if not step.placed_id and abs(step.left) > 1.0:
            return words[step.stage, step.beside]
    return ""


def _sled_view(case: VestCase, system: System) -> SledView:
    sled, settings, outputs = case.result.sled, case.settings, output_model(case.analysis)
    assert outputs is not None
    unsure = output_uncertainties(outputs)
    lean = sled.lean
    below, ahead = sled.below, float(sled.offset[X])
    words = (
        f"{figure(abs(below), Kind.LENGTH, system)} {'below' if below >= 0.0 else 'above'}",
        f"{figure(abs(ahead), Kind.LENGTH, system)} {'ahead' if ahead >= 0.0 else 'behind'}",
    )
    bearing = case.result.bearing.point
    wished = bearing - np.array([0.0, 0.0, wished_lever(settings, sled)])
    if lean is None:
        said, tone = "turns over: the CG is above the bearing", "fwdT"
    else:
        pm = lean_uncertainty(unsure[PITCH], system)
        way = "forward" if lean[0] >= 0.0 else "back"
        said, tone = f"post hangs {way} {figure(abs(lean[0]), Kind.ANGLE, system, extra=1)} {pm}", "fwdT"
        if abs(lean[0]) < max(SEEN, hidden_lean(settings.friction, sled.weight, below)):
            said, tone = "post hangs upright, within its friction", "accent"
    pitch = None if lean is None else lean[0]
    return SledView(bearing, bearing + sled.offset, wished, COVERAGE * unsure[CG_AHEAD], pitch, said, tone, words)


def _wearer_view(case: VestCase, system: System) -> tuple[WearerView, np.ndarray]:
    settings, equilibrium = case.settings, case.equilibrium
    # Drawn from an upright body: the drawing leans it.
    pose = equilibrium.pose.unladen or equilibrium.pose
    at = pose.pad
    assert at is not None
    operator = pose.stance.operator
    body = pose.body
    middle = MIDDLE * operator.stature
    socket = np.array(
        [float(body.low_back[0]) + settings.socket, settings.side * settings.beside, SOCKET * operator.stature]
    )
    wanted = springs_for(case.analysis)
    tone = "accent"
    carries = f"The arm carries {figure(case.result.sled.mass, Kind.MASS, system)}"
    if case.result.arm is None or settings.set_for is None:
        said = "springs’ setting not known", carries
        tone = "ink2"
    else:
        off = case.result.arm.height - settings.wanted
        said = "arm’s height as wanted", f"springs set for {figure(settings.set_for, Kind.MASS, system)}. {carries}"
        if abs(off) >= 0.010:
            said = f"arm {figure(abs(off), Kind.LENGTH, system)} too {'high' if off > 0.0 else 'low'}", said[1]
            tone = "fwdT"
        if case.result.arm.over:
            said = f"{'rests on its lower stop' if case.result.arm.over > 0.0 else 'stays at its top'}", said[1]
    reach = settings.reach * math.cos(settings.boom)
    notes = (
        f"bearing {figure(settings.socket + reach, Kind.LENGTH, system)} ahead of the low back",
        f"the operator shifts back {figure(case.result.shift[0], Kind.LENGTH, system)}, hands only guide",
    )
    if wanted is None:
        notes = notes[0], "weigh the parts first"
    ends = (middle - settings.lift, middle + settings.lift)
    words = [figure(end, Kind.STATURE, system) for end in (ends[1], ends[0])]
    view = WearerView(
        operator.stature,
        socket,
        at,
        *ends,
        middle + settings.wanted,
        case.result.arm is not None,
        case.result.shift[0],
        case.result.shift[1],
        (said[0], said[1]),
        tone,
        notes,
        (words[0], words[1]),
    )
    return view, pose.shift


def _falling(sled: Sled) -> tuple[float, ...]:
    """Return the angles (rad from hanging) of a sled let go level every quarter of a second, the last hanging."""
    time = sled.drop_time
    if time is None or time > 12.0:
        return ()
    lever = math.hypot(float(sled.offset[X]), float(sled.offset[2]))
    times = np.arange(0.0, time, _EVERY)
    angles: list[float] = swing_from(math.pi / 2.0, times, sled.mass, sled.swing, lever).tolist()
    return (*angles, 0.0)


def _drop_view(case: VestCase, after: VestResult) -> DropView:
    settings, outputs = case.settings, output_model(case.analysis)
    assert outputs is not None
    sled = case.result.sled
    time = sled.drop_time
    u = 0.0 if time is None else output_uncertainties(outputs, (DROP,))[DROP]
    if time is None:
        words, tone = ("no drop: the sled turns over", "the CG is above the bearing"), "fwdT"
    else:
        pm = uncertainty(u, Kind.TIME, System.METRIC)
        off = time - settings.drop
        said = (
            "as wanted" if abs(off) <= settings.room else "too bottom-heavy" if off < 0.0 else "too little weight below"
        )
        words = (f"now {number(time, 1)} {pm} s", said)
        tone = "accent" if abs(off) <= settings.room else "fwdT"
    ends = settings.drop - settings.room, settings.drop + settings.room
    then = _falling(after.sled) if after.sled.drop_time is not None else ()
    return DropView(_falling(sled), then, time, after.sled.drop_time, u, ends, words, tone)


def _wobble_view(case: VestCase, after: VestResult, system: System) -> WobbleView:
    settings, outputs = case.settings, output_model(case.analysis)
    assert outputs is not None
    sled = case.result.sled
    last = max(_PANS, 1.3 * settings.pan, *(1.15 * (fastest(one) or 0.0) for one in (sled, after.sled)))
    pans = np.linspace(0.0, last, _POINTS)
    now, then = (one.wobbles_in(pans) for one in (sled, after.sled))
    unsure = wobble_uncertainties(outputs, pans)
    products = tuple(
        f"{way} {figure(v, Kind.INERTIA, system, sign=True)}"
        for way, v in zip(("xz", "yz"), sled.products, strict=True)
    )
    return WobbleView(pans, now, unsure, then, settings.shows, fastest(sled), (products[0], products[1]))


def fastest(sled: Sled) -> float | None:
    """Return the pan (rad/s) past which the post does not stay upright, whichever way it goes first."""
    return min((one for one in (sled.fastest_pan(X), sled.fastest_pan(Y)) if one is not None), default=None)


def draw_picture(
    case: VestCase,
    system: System,
    width: float,
    height: float,
    selected: str | None,
    preview: Analysis | None,
    held: Elevation | None,
    planned: Analysis | None = None,
) -> Elevation:
    """Return the sled beside its wearer, and the order of work below, in an area of `width` by `height` px."""
    scene = Scene()
    top, tall = 36.0, height - 36.0 - _ORDER
    # Where there is little room the sled alone is drawn, where there is none only what it does.
    both = tall >= _BOTH
    wide = 0.47 * width if both else width
    area = (0.0, top, wide, max(tall, 30.0))
    before = held.projection if held is not None else None
    projection = draw_sled(scene, case.analysis, _sled_view(case, system), area, selected, preview, before)
    if both:
        scene.line(wide + 8.0, top + 4.0, wide + 8.0, top + tall - 4.0, "rule", 1.0)
        view, shift = _wearer_view(case, system)
        draw_wearer(scene, case.analysis, view, (wide + 20.0, top, width - wide - 20.0, tall), shift)
    scales = draw_order(scene, _work(case, planned), system, (0.0, height - _ORDER + 6.0, width), "all slides set")
    return Elevation(scene, projection, scales, projection.x0, {})


def draw_lenses(case: VestCase, kit: Kit, system: System, width: float, height: float) -> Scene:
    """Return where each slide stands for each lens."""
    scene = Scene()
    rows = lens_marks(case.analysis, kit)
    scene.text(0.0, 18.0, LENS_QUESTION, 14, 600)
    beside = text_width(LENS_QUESTION, 14) + 32.0
    if not rows:
        scene.text(0.0, 48.0, "Put a lens on the build.", 13, 400, "ink2")
        return scene
    words = "Counted from each slide’s low end. Bold: the mark now"
    if width >= beside + text_width(words, 12):
        scene.text(beside, 18.0, words, 12, 400, "ink2")
    draw_lens_rows(scene, _work(case), rows, system, (width, height))
    return scene


def draw_page(case: VestCase, kit: Kit, system: System, width: float, height: float) -> Scene:
    """Return how the sled falls and pans, now and with all marks set."""
    scene = Scene()
    set_so = SUPPORT.case(marks_of(case.analysis)[1])
    after = case.result if set_so is None else set_so.result
    half = 0.48 * width
    draw_drop(scene, _drop_view(case, after), (0.0, 0.0, half, height))
    draw_wobble(scene, _wobble_view(case, after, system), (half + 14.0, 0.0, width - half - 14.0, height))
    return scene


def draw_vest(scene: Scene, pose: Pose, at: At) -> None:
    """Draw the vest and its spring arm from the right; `at` makes px of places in the body frame (m)."""
    body = pose.body
    h, hip, top = body.stature, float(body.hips[2]), float(body.shoulder_left[2])
    half = DEEP * h
    corners = (
        (-half, hip + 0.02),
        (half, hip + 0.02),
        (1.06 * half, top - 0.05),
        (0.5 * half, top + 0.01),
        (-half, top - 0.02),
    )
    scene.path(polygon([at(x, 0.0, z) for x, z in corners]), "p2", "line", 1.2)
    if not pose.worn or pose.pad is None:
        return
    # What is worn hangs in its middle: the spring arm runs from as far on the other side of that to the rig.
    start, end = 2.0 * pose.worn[0].point - pose.pad, pose.pad
    elbow = (start + end) / 2.0
    spots = [at(*(float(v) for v in p)) for p in (start, elbow - np.array([0.0, 0.0, 0.10]), end)]
    for a, b in pairwise(spots):
        scene.line(*a, *b, "ink", 3.0)
    for spot in spots:
        scene.path(circle(*spot, 2.6), "panel", "ink", 1.1)
