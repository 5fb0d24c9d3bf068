"""What the Build view says: order of work, the two drawings with free mounts, what fits, what clashes."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Build, FreeFoot, FreeMount, Kit, Placed, mount_of
from equilix.core.assembly.clash import touched_by
from equilix.core.assembly.fit import (
    ORDER_OF_WORK,
    Misfit,
    Seat,
    Spot,
    best_seats,
    first_setting,
    kind_of,
    seat_at,
    sort_by_fit,
    spots,
    step_of,
)
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import RODS, Joint, Mount, MountKind, Part
from equilix.core.solver.growth import BATTERY_STEP, ahead_without
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.present.build.still_to_come import still_to_come
from equilix.present.drawing.rig_drawing import Projection, bounds, draw_cg, draw_parts
from equilix.present.drawing.scales import SlideScale, draw_scale
from equilix.present.drawing.scene import Region, Scene, circle, hatch, polygon, rect, text_width
from equilix.present.drawing.silhouettes import View
from equilix.present.drawing.sockets import draw_socket
from equilix.present.drawing.tags import Place, Rect, draw_tags
from equilix.present.supports import text_of
from equilix.present.supports.text import FigureRow, Verdict
from equilix.present.units import System, doubt, figure, unit_of
from equilix.present.words import mid_sentence, mount_name

#: Clashes that are drawn and listed, the deepest; the others are summed up.
MOST_SHOWN = 6
#: Share of the drawing's height that the side view takes.
SIDE_SHARE = 0.67


class StepModel(Struct, frozen=True):
    """One step in the order of work and how the rig balances once it is done; `without` the battery (m)."""

    name: str
    done: bool
    clashes: bool
    mass_text: str
    ahead_text: str
    ahead: float | None
    count: int
    without: float | None = None


class Offer(Struct, frozen=True):
    """A part that fits the chosen mount, and what it would do."""

    part: Part
    setting: float | None  # None: not worked out yet
    mass_text: str
    effect: str
    seat: Seat


class BuildModel(Struct, frozen=True):
    """All that the Build view shows beside its drawing."""

    verdict: Verdict
    figures: tuple[FigureRow, ...]
    steps: tuple[StepModel, ...]
    current_step: int
    problems: tuple[tuple[str, str, str], ...]  # title, explanation, placed id
    mounts: tuple[Spot, ...]
    seats: tuple[Seat, ...]  # what is still loose and can go on, each at its best place, in order of work


class BuildDrawing(Struct, frozen=True):
    """The side and top views in one scene, with their projections and the selected part's scale."""

    scene: Scene
    side: Projection
    top: Projection
    scale: SlideScale | None
    tags: dict[int, Place]


def build_model(analysis: Analysis, book: Book, system: System, seats: tuple[Seat, ...] | None = None) -> BuildModel:
    """Return what the Build view shows for `analysis`; `seats`, if only slides moved since they were worked out."""
    problems = tuple(_problems(analysis, system))
    steps = tuple(_steps(analysis, system))
    present = [step_of(part.category) for part in analysis.assembly.parts]
    seats = best_seats(analysis.build, book.parts) if seats is None else seats
    there = {part.category for part in analysis.assembly.parts}
    # The first step for which the kit has something that the build lacks; else the one after the last that is done.
    to_come = still_to_come(analysis, book.parts)
    lacking = [step_of(seat.part.category) for seat in seats if seat.part.category not in there] if to_come else []
    current = min([*lacking, min(max(present, default=-1) + 1, len(ORDER_OF_WORK) - 1)]) if present else 0
    return BuildModel(
        _verdict(analysis, problems, system, to_come),
        _figures(analysis, book.currency, system),
        steps,
        current,
        problems,
        places_left(analysis.build, book.parts),
        seats,
    )


def places_left(build: Build, kit: Kit) -> tuple[Spot, ...]:
    """Return the places of `build` where a part can still go, in part order: all mounts, and feet with a taker.

    The order never depends on what is chosen or loose, so that walking through it always goes the same way.
    """
    loose = {part.id: part for part in kit.values()}
    for placed in build.parts:
        loose.pop(placed.part_id, None)
    rank = {placed.id: i for i, placed in enumerate(build.parts)}
    found = [
        spot
        for spot in spots(build, kit)
        if isinstance(spot, FreeMount) or any(seat_at(build, kit, spot, part) is not None for part in loose.values())
    ]
    return tuple(sorted(found, key=lambda spot: rank[spot.placed_id]))


#: What every rig needs in the end, the word for it, and whether only a rig on the shoulder does.


def _steps(analysis: Analysis, system: System) -> list[StepModel]:
    clashing = {pid for f in analysis.findings if f.kind is FindingKind.CLASH for pid in f.placed_ids[1:]}
    steps_of = np.array([step_of(part.category) for part in analysis.assembly.parts], dtype=int)
    mass = analysis.assembly.mass
    made = []
    for number_of_step, (name, _) in enumerate(ORDER_OF_WORK):
        here = steps_of <= number_of_step if len(steps_of) else np.zeros(0, dtype=bool)
        total = float(mass[here].sum()) if len(steps_of) else 0.0
        ahead = None
        if total > 0.0 and analysis.stand is not None:
            arms = (analysis.positions.cg[here] - analysis.stand.point) @ analysis.stand.forward
            ahead = float(mass[here] @ arms) / total
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


def _verdict(
    analysis: Analysis, problems: tuple[tuple[str, str, str], ...], system: System, to_come: tuple[str, ...]
) -> Verdict:
    if not analysis.build.parts:
        return Verdict("No parts yet.", "Choose the first part below.")
    if problems:
        count = {1: "One thing", 2: "Two things", 3: "Three things"}.get(len(problems), f"{len(problems)} things")
        words = f"{count} to clear." if len(problems) > 1 else "One thing to clear."
        return Verdict(words, f"{problems[0][0]}.", "forward")
    if analysis.body is None:
        return Verdict("Fits.", "No part has a mass yet.")
    mass = figure(analysis.body.mass, Kind.MASS, system)
    if to_come:
        return Verdict("Fits so far.", f"{mass}. Still to come: {listed(to_come)}.")
    if analysis.stand is None:
        return Verdict("Fits.", f"{mass}.")
    ahead = analysis.stand.ahead
    where = "ahead of" if ahead >= 0 else "behind"
    return Verdict("Fits.", f"{mass}, {figure(abs(ahead), Kind.LENGTH, system)} {where} {text_of(analysis).noun}.")


def listed(words: Sequence[str]) -> str:
    """Return "a, b and c"."""
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else list(words))


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
                (
                    f"{name}: {past} beyond the end of its slide",
                    "The slide ends before this mark.",
                    finding.placed_ids[0],
                )
            )
    return said


def _clash_title(analysis: Analysis, finding: Finding) -> str:
    return f"{_name(analysis, finding.placed_ids[0])} hits {mid_sentence(_name(analysis, finding.placed_ids[1]))}"


def _clash_words(analysis: Analysis, finding: Finding, system: System) -> str:
    depth = figure(finding.amount, Kind.LENGTH, system, unit=False)
    pm = doubt(finding.doubt, Kind.LENGTH, system)
    return f"{depth} {pm} {unit_of(Kind.LENGTH, system)} deep. Move, turn or swap one."


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
                "Mass of the build",
                figure(analysis.body.mass, Kind.MASS, system),
                doubt(analysis.spread.mass, Kind.MASS, system),
            )
        )
        if analysis.stand is not None:
            rows.append(
                FigureRow(
                    f"CG distance ahead of the {text_of(analysis).label}",
                    figure(analysis.stand.ahead, Kind.LENGTH, system, sign=True),
                    doubt(analysis.stand.ahead_doubt, Kind.LENGTH, system),
                )
            )
    if analysis.build.parts:
        low, high = bounds(analysis)
        rows.append(FigureRow("Overall length", figure(float(high[0] - low[0]), Kind.LENGTH, system), ""))
        unsized = sum(f.kind is FindingKind.NO_SIZE for f in analysis.findings)
        if unsized:
            rows.append(FigureRow("Not checked for clashes", f"{unsized}", "", "size not known"))
        prices = [part.price for part in analysis.assembly.parts if part.price is not None]
        if prices:
            rows.append(
                FigureRow(
                    "Price of the build",
                    f"{currency}\u2009{sum(prices):,.0f}".replace(",", "\u2009"),
                    "",
                    f"{len(prices)} of {len(analysis.assembly.parts)} parts priced",
                )
            )
    return tuple(rows)


#: Offers whose effect is worked out: what the tray can show at once.
_WORKED_OUT = 12


def offers(
    analysis: Analysis,
    kit: Kit,
    spot: Spot | None,
    seats: Sequence[Seat],
    system: System,
    limit: int = 60,
) -> tuple[tuple[Offer, ...], tuple[Misfit, ...]]:
    """Return what fits at `spot` (None: as first part) with its effect on the CG, and what doesn't and why.

    Parts that belong there more than anywhere else, by `seats`, come first.
    """
    fits, misfits = sort_by_fit(analysis.build, kit, spot)
    here = {seat.part.id for seat in seats if seat.spot == spot}
    ordered = sorted(fits, key=lambda part: part.id not in here)
    made: list[Offer] = []
    for part in ordered[:limit]:
        seat = seat_at(analysis.build, kit, spot, part)
        assert seat is not None
        shown = len(made) < _WORKED_OUT
        setting = first_setting(analysis.build, kit, spot, part) if spot is not None and shown else None
        mass = "mass not known" if part.mass is None else figure(part.mass, Kind.MASS, system)
        effect = _effect(analysis, kit, seat, setting or 0.0, system) if shown else ""
        made.append(Offer(part, setting, mass, effect, seat))
    return tuple(made), misfits


def _effect(analysis: Analysis, kit: Kit, seat: Seat, setting: float, system: System) -> str:
    """Return how far the part would bring the CG forward or back, and what it would meet."""
    if seat.spot is None:
        return ""
    pad = "holds the rig" if any(m.kind is MountKind.SHOULDER for m in seat.part.mounts) else ""
    trial = replace(analysis.build, parts=(*analysis.build.parts, seat.placed("effect-preview", setting)))
    assembly = prepare(trial, kit)
    positions = assembly.at(assembly.settings(trial))
    words = pad
    if analysis.stand is not None and analysis.body is not None and seat.part.mass is not None:
        # What is there stays as it is: the CG comes nearer to the new part by its share of the whole.
        far = positions.cg[-1, 0] - positions.cg[:-1] @ np.array([1.0, 0.0, 0.0]) @ assembly.mass[:-1] / float(
            assembly.mass[:-1].sum()
        )
        change = float(far) * seat.part.mass / float(assembly.mass.sum())
        words = f"CG {figure(change, Kind.LENGTH, system, sign=True)}"
    other = touched_by(assembly, positions, len(trial.parts) - 1)
    if other is not None:
        return f"{words}\nhits {mid_sentence(assembly.parts[other].name)}".strip()
    return words


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
    if analysis.stand is not None:
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
    return BuildDrawing(scene, side, top, scale, tags)


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
    if analysis.stand is None:
        return []
    x, y = side.point(analysis.stand.point)
    scene.path(polygon(((x, y), (x - 9, y + 15), (x + 9, y + 15))), "ink")
    scene.line(x, y + 15, x, side_height, "ink", 1.0)
    scene.line(x, side_height, x, side_height + 12, "ink", 1.0)
    scene.line(x, height - 16, x, height - 4, "ink", 1.0)
    scene.text(x + 6, height - 5, f"{text_of(analysis).label} line", 12, 500, "ink2")
    return [Rect(x - 11, y, x + 11, y + 20)]


def spot_point(analysis: Analysis, spot: Spot) -> np.ndarray:
    """Return where a place for a part is (3,) (m, rig frame): a pair of rods at its end farther from the pad."""
    index = next(i for i, placed in enumerate(analysis.build.parts) if placed.id == spot.placed_id)
    rotation, origin = analysis.assembly.rotation[index], analysis.positions.origin[index]
    if isinstance(spot, FreeFoot):
        below: np.ndarray = origin + rotation @ np.array(spot.foot.at)
        return below
    mount, setting = spot.mount, 0.0
    if mount.joint is Joint.SLIDE and mount.kind in RODS:
        pad_x = float(analysis.stand.point[0]) if analysis.stand is not None else 0.0
        ends = [
            origin + rotation @ (np.array(mount.at) + s * np.array(mount.unit_axis)) for s in (mount.low, mount.high)
        ]
        return max(ends, key=lambda end: abs(float(end[0]) - pad_x))
    if mount.joint is Joint.SLIDE:
        setting = (mount.low + mount.high) / 2.0
    point: np.ndarray = origin + rotation @ (np.array(mount.at) + setting * np.array(mount.unit_axis))
    return point


def spot_key(spot: Spot) -> tuple[str, str, str]:
    """Return by what a drawing knows a place again."""
    if isinstance(spot, FreeFoot):
        return ("foot", spot.placed_id, str(spot.number))
    return ("mount", spot.placed_id, spot.mount.id)


def spot_name(spot: Spot, build: Build, kit: Kit) -> str:
    """Return a place in words: "rods of Rear rods 15 mm", "below Camera, 1/4-20"."""
    if isinstance(spot, FreeMount):
        return mount_name(spot, build, kit)
    return f"below {kit[build.placed(spot.placed_id).part_id].name}, {spot.foot.kind}"


def spot_title(spot: Spot, build: Build, kit: Kit) -> str:
    """Return what the tray is called for a place: "Fits rods of Rear rods 15 mm"."""
    return f"{'Fits' if isinstance(spot, FreeMount) else 'Goes'} {spot_name(spot, build, kit)}"


def spot_where(spot: Spot, build: Build, kit: Kit) -> str:
    """Return a place within a sentence: "on rods of …", "below Camera, …"."""
    name = mid_sentence(spot_name(spot, build, kit))
    return f"on {name}" if isinstance(spot, FreeMount) else name


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
    first, second = (_name(analysis, pid) for pid in finding.placed_ids)
    lines = (first, f"hits {mid_sentence(second)}", _clash_words(analysis, finding, system).split(":")[0])
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
        if placed is not None and mount is not None and mount.joint is not Joint.FIXED and mount.goes:
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
