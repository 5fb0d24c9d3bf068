"""What the Build view says: order of work, the two drawings with free mounts, what fits, what clashes."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from equilix.core.analyse import Analysis, Finding, FindingKind, analyse
from equilix.core.assembly.build import Build, FreeMount, Kit, Operator, Placed, free_mounts, mount_of
from equilix.core.assembly.fit import ORDER_OF_WORK, Misfit, first_setting, sort_by_fit, step_of
from equilix.core.assembly.parts import Joint, Mount, MountKind, Part
from equilix.core.growth import BATTERY_STEP, ahead_without
from equilix.document.book import Book
from equilix.present.balance import FigureRow, Verdict, mid_sentence
from equilix.present.elevation import SlideScale, draw_scale
from equilix.present.rig_drawing import Projection, bounds, draw_cg, draw_parts
from equilix.present.scene import Region, Scene, circle, hatch, polygon, rect, text_width
from equilix.present.silhouettes import View
from equilix.present.sockets import draw_socket
from equilix.present.tags import Rect, draw_tags
from equilix.present.units import Kind, System, doubt, figure, unit_of

#: Share of the drawing's height that the side view takes.
SIDE_SHARE = 0.67


@dataclass(frozen=True, slots=True)
class StepModel:
    """One step in the order of work and how the rig balances once it is done; `without` the battery (m)."""

    name: str
    done: bool
    clashes: bool
    mass_text: str
    ahead_text: str
    ahead: float | None
    count: int
    without: float | None = None


@dataclass(frozen=True, slots=True)
class Offer:
    """A part that fits the chosen mount, and what it would do."""

    part: Part
    setting: float
    mass_text: str
    effect: str


@dataclass(frozen=True, slots=True)
class BuildModel:
    """All that the Build view shows beside its drawing."""

    verdict: Verdict
    figures: tuple[FigureRow, ...]
    steps: tuple[StepModel, ...]
    current_step: int
    problems: tuple[tuple[str, str, str], ...]  # title, explanation, placed id
    mounts: tuple[FreeMount, ...]


@dataclass(frozen=True, slots=True)
class BuildDrawing:
    """The side and top views in one scene, with their projections and the selected part's scale."""

    scene: Scene
    side: Projection
    top: Projection
    scale: SlideScale | None


def build_model(analysis: Analysis, book: Book, system: System) -> BuildModel:
    """Return what the Build view shows for `analysis`."""
    problems = tuple(_problems(analysis, system))
    steps = tuple(_steps(analysis, system))
    present = [step_of(part.category) for part in analysis.assembly.parts]
    current = min(max(present, default=-1) + 1, len(ORDER_OF_WORK) - 1) if present else 0
    return BuildModel(
        _verdict(analysis, problems, system),
        _figures(analysis, book.currency, system),
        steps,
        current,
        problems,
        mounts_in_order(analysis.build, book.parts),
    )


def mounts_in_order(build: Build, kit: Kit) -> tuple[FreeMount, ...]:
    """Return the free mounts in the order in which people fill them."""
    rank = {
        MountKind.DOVETAIL: 0,
        MountKind.WEDGE_PLATE: 1,
        MountKind.LIGHT_ROD_CLAMP: 2,
        MountKind.V_LOCK: 3,
        MountKind.LENS_MOUNT: 5,
        MountKind.LENS_FRONT: 6,
        MountKind.ROSETTE: 8,
    }
    used = {(placed.parent, placed.mount) for placed in build.parts}

    def order(free: FreeMount) -> tuple[bool, int]:
        on_rods = free.mount.kind in (MountKind.LIGHT_RODS, MountKind.STUDIO_RODS, MountKind.RODS_19)
        return (free.placed_id, free.mount.id) in used and not on_rods, rank.get(free.mount.kind, 4)

    return tuple(sorted(free_mounts(build, kit), key=order))


def _steps(analysis: Analysis, system: System) -> list[StepModel]:
    clashing = {pid for f in analysis.findings if f.kind is FindingKind.CLASH for pid in f.placed_ids[1:]}
    steps_of = np.array([step_of(part.category) for part in analysis.assembly.parts], dtype=int)
    mass = analysis.assembly.mass
    made = []
    for number_of_step, (name, _) in enumerate(ORDER_OF_WORK):
        here = steps_of <= number_of_step if len(steps_of) else np.zeros(0, dtype=bool)
        total = float(mass[here].sum()) if len(steps_of) else 0.0
        ahead = None
        if total > 0.0 and analysis.shoulder is not None:
            ahead = float(mass[here] @ analysis.positions.cg[here, 0]) / total - float(analysis.shoulder.pad[0])
        own = steps_of == number_of_step if len(steps_of) else np.zeros(0, dtype=bool)
        made.append(
            StepModel(
                name,
                bool(own.any()),
                any(analysis.build.parts[i].id in clashing for i in np.flatnonzero(own).tolist()),
                figure(total, Kind.MASS, system) if total else "",
                figure(ahead, Kind.LENGTH, system, sign=True) if ahead is not None else "",
                ahead,
                int(own.sum()),
                battery_late(analysis, number_of_step),
            )
        )
    return made


def battery_late(analysis: Analysis, step: int) -> float | None:
    """Return where the CG would be (m ahead of the pad) after a later step if the battery only came last."""
    has = any(step_of(part.category) == BATTERY_STEP for part in analysis.assembly.parts)
    return ahead_without(analysis, frozenset({BATTERY_STEP}), step) if has and step >= BATTERY_STEP else None


def _verdict(analysis: Analysis, problems: tuple[tuple[str, str, str], ...], system: System) -> Verdict:
    if not analysis.build.parts:
        return Verdict("Nothing here yet.", "Choose the first part below.")
    if problems:
        count = {1: "One thing", 2: "Two things", 3: "Three things"}.get(len(problems), f"{len(problems)} things")
        words = f"{count} to clear." if len(problems) > 1 else "One thing to clear."
        return Verdict(words, f"{problems[0][0]}.", "forward")
    if analysis.body is None:
        return Verdict("Fits.", "No part has a mass yet.")
    mass = figure(analysis.body.mass, Kind.MASS, system)
    if analysis.shoulder is None:
        return Verdict("Fits.", f"{mass}. A shoulder pad is still to come.")
    ahead = analysis.shoulder.rest.ahead
    where = "ahead of" if ahead >= 0 else "behind"
    return Verdict("Fits.", f"{mass}, {figure(abs(ahead), Kind.LENGTH, system)} {where} the pad.")


def _problems(analysis: Analysis, system: System) -> list[tuple[str, str, str]]:
    said = []
    for finding in analysis.findings:
        if finding.kind is FindingKind.CLASH:
            said.append(
                (_clash_title(analysis, finding), _clash_words(analysis, finding, system), finding.placed_ids[1])
            )
        elif finding.kind is FindingKind.OUT_OF_TRAVEL:
            name = _name(analysis, finding.placed_ids[0])
            past = figure(finding.amount, Kind.LENGTH, system)
            said.append(
                (f"{name}: {past} past the end", "The slide stops short of where it is set.", finding.placed_ids[0])
            )
    return said


def _clash_title(analysis: Analysis, finding: Finding) -> str:
    return f"{_name(analysis, finding.placed_ids[0])} meets {mid_sentence(_name(analysis, finding.placed_ids[1]))}"


def _clash_words(analysis: Analysis, finding: Finding, system: System) -> str:
    depth = figure(finding.amount, Kind.LENGTH, system, unit=False)
    pm = doubt(finding.doubt, Kind.LENGTH, system)
    return f"{depth} {pm} {unit_of(Kind.LENGTH, system)} overlap: move, turn or swap one"


def _name(analysis: Analysis, placed_id: str) -> str:
    return next(
        part.name
        for placed, part in zip(analysis.build.parts, analysis.assembly.parts, strict=True)
        if placed.id == placed_id
    )


def _figures(analysis: Analysis, currency: str, system: System) -> tuple[FigureRow, ...]:
    rows = []
    if analysis.body is not None and analysis.spread is not None:
        rows.append(
            FigureRow(
                "On the build",
                figure(analysis.body.mass, Kind.MASS, system),
                doubt(analysis.spread.mass, Kind.MASS, system),
            )
        )
        if analysis.shoulder is not None:
            rows.append(
                FigureRow(
                    "CG ahead of pad, now",
                    figure(analysis.shoulder.rest.ahead, Kind.LENGTH, system, sign=True),
                    doubt(float(analysis.spread.cg[0]), Kind.LENGTH, system),
                )
            )
    if analysis.build.parts:
        low, high = bounds(analysis)
        rows.append(FigureRow("Longest, end to end", figure(float(high[0] - low[0]), Kind.LENGTH, system), ""))
        unsized = sum(f.kind is FindingKind.NO_SIZE for f in analysis.findings)
        if unsized:
            rows.append(FigureRow("Left out of clash checks", f"{unsized}", "", "no size given"))
        prices = [part.price for part in analysis.assembly.parts if part.price is not None]
        if prices:
            rows.append(
                FigureRow(
                    "Price of the build",
                    f"{currency}\u2009{sum(prices):,.0f}".replace(",", "\u2009"),
                    "",
                    f"{len(prices)} of {len(analysis.assembly.parts)} priced",
                )
            )
    return tuple(rows)


def offers(
    analysis: Analysis, kit: Kit, operator: Operator, free: FreeMount | None, system: System, limit: int = 60
) -> tuple[tuple[Offer, ...], tuple[Misfit, ...]]:
    """Return what fits on `free` (None: as first part) with its effect on the CG, and what doesn't and why."""
    fits, misfits = sort_by_fit(analysis.build, kit, free)
    made = []
    for part in fits[:limit]:
        setting = first_setting(analysis.build, kit, free, part) if free is not None else 0.0
        made.append(
            Offer(
                part,
                setting,
                "no mass" if part.mass is None else figure(part.mass, Kind.MASS, system),
                _effect(analysis, kit, operator, free, part, setting, system),
            )
        )
    return tuple(made), misfits


def _effect(
    analysis: Analysis, kit: Kit, operator: Operator, free: FreeMount | None, part: Part, setting: float, system: System
) -> str:
    """Return how far the part would bring the CG forward or back."""
    if free is None or part.mass is None:
        return ""
    if analysis.shoulder is None or analysis.body is None:
        return "carries the rig" if part.mass and any(m.kind is MountKind.SHOULDER for m in part.mounts) else ""
    foot = next(i for i, foot in enumerate(part.feet) if foot.kind is free.mount.kind)
    placed = Placed("effect-preview", part.id, free.placed_id, free.mount.id, foot, setting)
    build = Build(
        analysis.build.id, analysis.build.name, (*analysis.build.parts, placed), shoulder=analysis.build.shoulder
    )
    after = analyse(build, kit, operator)
    if after.shoulder is None:
        return ""
    change = after.shoulder.rest.ahead - analysis.shoulder.rest.ahead
    meets = next((f for f in after.findings if f.kind is FindingKind.CLASH and "effect-preview" in f.placed_ids), None)
    words = f"CG {figure(change, Kind.LENGTH, system, sign=True)}"
    if meets is not None:
        other = next(pid for pid in meets.placed_ids if pid != "effect-preview")
        return f"{words}\nmeets {mid_sentence(_name(analysis, other))}"
    return words


def draw_build(
    analysis: Analysis,
    kit: Kit,
    system: System,
    width: float,
    height: float,
    selected: str | None,
    chosen: FreeMount | None,
) -> BuildDrawing:
    """Return the side and top views at one scale, with free mounts, clashes and the selected part's slide."""
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
    if analysis.shoulder is not None:
        taken += _draw_pad(scene, analysis, side, top, height, side_height)
    if analysis.body is not None:
        for projection in (side, top):
            x, y = projection.point(analysis.body.cg)
            draw_cg(scene, x, y, 9.0)
            taken.append(Rect(x - 14, y - 14, x + 14, y + 14))
    taken += _draw_sockets(scene, analysis, kit, side, chosen)
    _draw_sockets(scene, analysis, kit, top, chosen)
    taken += _draw_clashes(scene, analysis, system, side, top, width)
    scale = _scale_for(scene, analysis, system, side, width, side_height, *sliding) if sliding is not None else None
    index = next((i for i, p in enumerate(analysis.build.parts) if p.id == selected), None)
    bottom = side_height - (58 if scale is not None else 8)
    draw_tags(scene, boxes, analysis.assembly.parts, system, Rect(2, 30, width - 2, bottom), taken, index)
    return BuildDrawing(scene, side, top, scale)


def draw_moved(scene: Scene, after: Analysis, moved: tuple[str, ...], projection: Projection) -> None:
    """Draw dashed where the parts that a way moves, and all they carry, would be."""
    ids = {placed_id for one in moved for placed_id in after.build.carried_by(one)}
    only = frozenset(i for i, placed in enumerate(after.build.parts) if placed.id in ids)
    draw_parts(scene, after.assembly, after.positions, projection, preview=True, only=only)


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
    if analysis.shoulder is None:
        return []
    x, y = side.point(analysis.shoulder.pad)
    scene.path(polygon(((x, y), (x - 9, y + 15), (x + 9, y + 15))), "ink")
    scene.line(x, y + 15, x, side_height, "ink", 1.0)
    scene.line(x, side_height, x, side_height + 12, "ink", 1.0)
    scene.line(x, height - 16, x, height - 4, "ink", 1.0)
    scene.text(x + 6, height - 5, "pad line", 12, 500, "ink2")
    return [Rect(x - 11, y, x + 11, y + 20)]


def mount_point(analysis: Analysis, placed_id: str, mount: Mount) -> np.ndarray:
    """Return where a mount is (3,) (m, rig frame): a slide's at its end farther from the pad."""
    index = next(i for i, placed in enumerate(analysis.build.parts) if placed.id == placed_id)
    rotation, origin = analysis.assembly.rotation[index], analysis.positions.origin[index]
    setting = 0.0
    if mount.joint is Joint.SLIDE and mount.kind in (MountKind.LIGHT_RODS, MountKind.STUDIO_RODS, MountKind.RODS_19):
        pad_x = float(analysis.shoulder.pad[0]) if analysis.shoulder is not None else 0.0
        ends = [
            origin + rotation @ (np.array(mount.at) + s * np.array(mount.unit_axis)) for s in (mount.low, mount.high)
        ]
        return max(ends, key=lambda end: abs(float(end[0]) - pad_x))
    if mount.joint is Joint.SLIDE:
        setting = (mount.low + mount.high) / 2.0
    point: np.ndarray = origin + rotation @ (np.array(mount.at) + setting * np.array(mount.unit_axis))
    return point


def _draw_sockets(
    scene: Scene, analysis: Analysis, kit: Kit, projection: Projection, chosen: FreeMount | None
) -> list[Rect]:
    taken: list[Rect] = []
    spots: list[tuple[float, float]] = []
    for free in free_mounts(analysis.build, kit):
        x, y = projection.point(mount_point(analysis, free.placed_id, free.mount))
        while any(math.hypot(x - a, y - b) < 15.0 for a, b in spots):
            x += 15.5
        spots.append((x, y))
        is_chosen = chosen is not None and (free.placed_id, free.mount.id) == (chosen.placed_id, chosen.mount.id)
        if is_chosen:
            scene.path(circle(x, y, 12), "accent")
            draw_socket(scene, free.mount.kind, x, y, "onaccent", 1.5)
        else:
            scene.path(circle(x, y, 8.5), "paper", None, 0.0, (), 0.85)
            draw_socket(scene, free.mount.kind, x, y, "accent", 1.5)
        scene.regions.append(
            Region(
                ("mount", free.placed_id, free.mount.id),
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
    for finding in analysis.findings:
        clash = finding.clash
        if clash is None:
            continue
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
    first, second = (_name(analysis, pid) for pid in finding.placed_ids)
    lines = (first, f"meets {mid_sentence(second)}", _clash_words(analysis, finding, system).split(":")[0])
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
        if placed is not None and mount is not None and mount.joint is not Joint.FIXED and mount.high > mount.low:
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
    name = _name(analysis, placed.id)
    turn = mount.joint is Joint.TURN
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
