"""What the Build view says: order of work, the two drawings with free mounts, what fits, what clashes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Build, Kit
from equilix.core.assembly.clash import touched_by
from equilix.core.assembly.fit import (
    ORDER_OF_WORK,
    Misfit,
    Seat,
    Spot,
    first_setting,
    seat_at,
    sort_by_fit,
    spots,
    step_of,
)
from equilix.core.assembly.mounts import FreeMount
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import MountKind, Part
from equilix.core.solver.growth import BATTERY_STEP, ahead_without
from equilix.core.units import Kind
from equilix.document.book import Book
from equilix.present.assembly.pieces import LooseParts, loose_parts
from equilix.present.assembly.spots import spot_of
from equilix.present.assembly.still_to_come import still_to_come
from equilix.present.drawing.rig_drawing import bounds
from equilix.present.supports import text_of
from equilix.present.supports.text import FigureRow, Verdict
from equilix.present.units import System, figure, uncertainty, unit_of
from equilix.present.words import mid_sentence


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
    loose: LooseParts


def build_model(analysis: Analysis, book: Book, system: System, loose: LooseParts | None = None) -> BuildModel:
    """Return what the Build view shows for `analysis`; `loose`, if only slides moved since that was worked out."""
    problems = tuple(_problems(analysis, system))
    steps = tuple(_steps(analysis, system))
    present = [step_of(part.category) for part in analysis.assembly.parts]
    loose = loose_parts(book, analysis.build) if loose is None else loose
    there = {part.category for part in analysis.assembly.parts}
    # The first step for which the kit has something that the build lacks; else the one after the last that is done.
    to_come = still_to_come(analysis, book.parts)
    lacking = [step_of(one.part.category) for one in loose.pieces if one.part.category not in there] if to_come else []
    current = min([*lacking, min(max(present, default=-1) + 1, len(ORDER_OF_WORK) - 1)]) if present else 0
    return BuildModel(
        _verdict(analysis, problems, system, to_come),
        _figures(analysis, book.currency, system),
        steps,
        current,
        problems,
        places_left(analysis.build, book.parts),
        loose,
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
        if total > 0.0 and analysis.equilibrium is not None:
            arms = (analysis.positions.cg[here] - analysis.equilibrium.point) @ analysis.equilibrium.forward
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
        return Verdict("No parts yet.", "Choose the first part below.", known=False)
    if problems:
        count = {1: "One thing", 2: "Two things", 3: "Three things"}.get(len(problems), f"{len(problems)} things")
        words = f"{count} to clear." if len(problems) > 1 else "One thing to clear."
        return Verdict(words, f"{problems[0][0]}.", "forward")
    if analysis.body is None:
        return Verdict("Fits.", "No part has a mass yet.")
    mass = figure(analysis.body.mass, Kind.MASS, system)
    if to_come:
        return Verdict("Fits so far.", f"{mass}. Still to come: {listed(to_come)}.")
    if analysis.equilibrium is None:
        return Verdict("Fits.", f"{mass}.")
    ahead = analysis.equilibrium.ahead
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
                (_clash_title(analysis, finding), clash_words(analysis, finding, system), finding.placed_ids[1])
            )
        elif finding.kind is FindingKind.OUT_OF_TRAVEL:
            name = placed_name(analysis, finding.placed_ids[0])
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
    one, other = (placed_name(analysis, placed_id) for placed_id in finding.placed_ids)
    return f"{one} hits {mid_sentence(other)}"


def clash_words(analysis: Analysis, finding: Finding, system: System) -> str:
    depth = figure(finding.amount, Kind.LENGTH, system, unit=False)
    pm = uncertainty(finding.uncertainty, Kind.LENGTH, system)
    return f"{depth} {pm} {unit_of(Kind.LENGTH, system)} deep. Move, turn or swap one."


def placed_name(analysis: Analysis, placed_id: str) -> str:
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
                uncertainty(analysis.spread.mass, Kind.MASS, system),
            )
        )
        if analysis.equilibrium is not None:
            rows.append(
                FigureRow(
                    f"CG distance ahead of the {text_of(analysis).label}",
                    figure(analysis.equilibrium.ahead, Kind.LENGTH, system, sign=True),
                    uncertainty(analysis.equilibrium.ahead_uncertainty, Kind.LENGTH, system),
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
    loose: LooseParts,
    system: System,
    limit: int = 60,
) -> tuple[tuple[Offer, ...], tuple[Misfit, ...]]:
    """Return what fits at `spot` (None: as first part) with its effect on the CG, and what doesn't and why.

    The part of the `loose` ones that goes on next comes first, then the others that can go on now.
    """
    fits, misfits = sort_by_fit(analysis.build, kit, spot)
    rank = {one.part.id: k for k, one in enumerate(loose.pieces)}
    ordered = sorted(fits, key=lambda part: rank.get(part.id, len(rank)))
    made: list[Offer] = []
    for part in ordered[:limit]:
        seat = seat_at(analysis.build, kit, spot, part)
        assert seat is not None
        shown = len(made) < _WORKED_OUT
        setting = _setting_of(loose, spot, part)
        if setting is None and spot is not None and shown:
            setting = first_setting(analysis.build, kit, spot, part)
        mass = "mass not known" if part.mass is None else figure(part.mass, Kind.MASS, system)
        effect = _effect(analysis, kit, seat, setting or 0.0, system) if shown else ""
        made.append(Offer(part, setting, mass, effect, seat))
    return tuple(made), misfits


def _setting_of(loose: LooseParts, spot: Spot | None, part: Part) -> float | None:
    """Return where a loose part goes along the slide of a place (m), if that is where it goes next."""
    piece = next((one for one in loose.pieces if one.part.id == part.id), None)
    if piece is None or spot is None or spot_of(piece.placed[-1], (spot,)) is None:
        return None
    return piece.placed[-1].setting


def _effect(analysis: Analysis, kit: Kit, seat: Seat, setting: float, system: System) -> str:
    """Return how far the part would bring the CG forward or back, and what it would meet."""
    if seat.spot is None:
        return ""
    pad = "holds the rig" if any(m.kind is MountKind.SHOULDER for m in seat.part.mounts) else ""
    trial = replace(analysis.build, parts=(*analysis.build.parts, seat.placed("effect-preview", setting)))
    assembly = prepare(trial, kit)
    positions = assembly.at(assembly.settings(trial))
    words = pad
    if analysis.equilibrium is not None and analysis.body is not None and seat.part.mass is not None:
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
