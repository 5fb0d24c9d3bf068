"""The order of work of a gimbal or a sled, each step with its scale, and the marks of all scales for every lens."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.kit.parts import Category
from equilix.core.rounding import at_an_end
from equilix.core.solver.scales import LensMarks, WorkStep
from equilix.core.units import Kind
from equilix.present.drawing.scales import SlideScale, draw_scale
from equilix.present.drawing.scene import Anchor, Scene, circle, fitted, polyline, rect, text_width
from equilix.present.units import System, figure
from equilix.present.words import mid_sentence, slider_of

#: What a step is called, and how it is checked by hand; common practice.
STEPS = {
    ("tilt", "x"): ("Tilt, fore-aft", "let go level, it stays"),
    ("tilt", "z"): ("Tilt, height", "lens up or down, it stays"),
    ("roll", "y"): ("Roll, sideways", "let go level, it stays"),
    ("roll", "z"): ("Roll, height", "rolled aside, it stays"),
    ("pan", "x"): ("Pan, fore-aft", "frame leaned, no drift"),
    ("pan", "y"): ("Pan, sideways", "frame leaned, no drift"),
    ("spin", "x"): ("Spin, fore-aft", "spun, it stays upright"),
    ("spin", "y"): ("Spin, sideways", "spun, it stays upright"),
    ("sled", "x"): ("Level, fore-aft", "hangs upright"),
    ("sled", "y"): ("Level, sideways", "hangs upright"),
    ("drop", "z"): ("Drop", "let go level, count"),
}
#: m: a scale nearer than this to its mark stands there; half a tick.
THERE = 0.0005


class Work(Struct, frozen=True, eq=False):
    """What is drawn: the `steps` of a build, whether one ends `short`, and what is left with no scale for it, "".

    `left` says what stays of a step that is short, `briefly` the same in brackets, which `brackets` explains.
    """

    analysis: Analysis
    steps: tuple[WorkStep, ...]
    short: Callable[[WorkStep], bool]
    loose: str
    left: Callable[[WorkStep], str] = lambda step: "too little travel"
    briefly: Callable[[WorkStep], str] = lambda step: "short"
    brackets: str = ""


def steps_to(steps: Sequence[WorkStep], planned: Analysis, left: Sequence[WorkStep]) -> tuple[WorkStep, ...]:
    """Return the steps up to the marks of a build that is `planned`, whose own order of work says what is `left`."""
    marks = {placed.id: placed.setting for placed in planned.build.parts}
    stays = {(step.stage, step.beside): step.before for step in reversed(left)}
    return tuple(
        replace(
            step,
            to=marks.get(step.placed_id, step.to),
            left=stays.get((step.stage, step.beside), step.left),
            meets=(),
        )
        for step in steps
    )


def then_more(count: int) -> str:
    """Return how many slides are set after the first, "" for none."""
    return f", then {count} more slide{'' if count == 1 else 's'}" if count > 0 else ""


def far_words(step: WorkStep, system: System) -> str:
    """Return how far a step goes."""
    return figure(abs(step.to - step.now), Kind.LENGTH, system)


def meets_words(analysis: Analysis, steps: Sequence[WorkStep]) -> str:
    """Return which two parts end one of the steps early, "" if none do."""
    return _met_words(analysis, next((step.meets for step in steps if step.meets), ()))


def _met_words(analysis: Analysis, met: tuple[str, ...], called: Mapping[str, str] = MappingProxyType({})) -> str:
    pairs = zip(analysis.build.parts, analysis.assembly.parts, strict=True)
    names = {placed.id: mid_sentence(part.name.split(",")[0]) for placed, part in pairs if placed.id in met}
    return " meets ".join(called.get(placed_id, names[placed_id]) for placed_id in met)


def draw_order(
    scene: Scene,
    work: Work,
    system: System,
    area: tuple[float, float, float],
    words: str = "One slide at a time. No step upsets the ones before it.",
) -> tuple[SlideScale, ...]:
    """Draw the steps side by side in `area` (left, top, width px); only the first that is not done is tinted."""
    left, top, width = area
    scene.line(left, top - 6.0, left + width, top - 6.0, "rule", 1.0)
    scene.text(left, top + 14.0, "Order of work", 14, 600)
    if width >= 560.0 and not work.loose:
        scene.text(left + 102.0, top + 14.0, words, 12, 400, "ink3")
    steps = [step for step in work.steps if step.placed_id]
    if not steps:
        scene.text(left, top + 46.0, "Nothing slides on this build.", 13, 400, "ink2")
        return ()
    if work.loose and width >= 480.0:
        scene.text(left + width, top + 14.0, work.loose, 12, 500, "fwdT", Anchor.END)
    wide = width / len(steps)
    present = next((k for k, step in enumerate(steps) if abs(step.to - step.now) >= THERE), None)
    made = []
    for k, step in enumerate(steps):
        x = left + k * wide
        made.append(_draw_step(scene, work, step, (x, top + 24.0, wide - 8.0), (k, present), system))
    return tuple(made)


def _draw_step(
    scene: Scene,
    work: Work,
    step: WorkStep,
    area: tuple[float, float, float],
    turn: tuple[int, int | None],
    system: System,
) -> SlideScale:
    x, y, width = area
    number_of, present = turn
    done = abs(step.to - step.now) < THERE
    if number_of == present:
        scene.path(rect(x, y, width, 114.0, 0), "tint")
        scene.line(x, y, x + width, y, "accent", 3.0)
    inner, room = x + 8.0, width - 16.0
    title, check = STEPS[step.stage, step.beside]
    scene.path(circle(inner + 9.0, y + 18.0, 9.0), "accent" if done else "panel", "accent", 1.4)
    if done:
        scene.path(
            polyline(((inner + 4.5, y + 18.0), (inner + 8.0, y + 21.5), (inner + 13.5, y + 14.5))),
            None,
            "onaccent",
            1.8,
        )
    else:
        scene.text(inner + 9.0, y + 22.5, str(number_of + 1), 13, 600, "accent", Anchor.MIDDLE)
    if text_width(title, 14) > 1.15 * (room - 25.0):
        # The way below says in which direction.
        title = title.split(",")[0]
    scene.text(inner + 25.0, y + 23.0, fitted(title, 14, 1.15 * (room - 25.0)), 14, 600)
    analysis = work.analysis
    part = next(k for k, placed in enumerate(analysis.build.parts) if placed.id == step.placed_id)
    mount = analysis.assembly.slide_mounts[analysis.assembly.slide_parts.index(part)]
    scale = SlideScale(
        step.placed_id,
        slider_of(analysis, step.placed_id).name,
        inner + 6.0,
        inner + room - 6.0,
        y + 52.0,
        mount.low,
        mount.high,
        step.now,
        None if done else step.to,
    )
    draw_scale(scene, scale, system, width)
    if done:
        words = "already there"
    else:
        words = f"{slider_of(analysis, step.placed_id).way(step.to - step.now)} {far_words(step, system)}"
    short = work.short(step)
    if short:
        left = work.left(step)
        beside = text_width(f"{words}; {left}", 13) <= 1.1 * room
        # What stays, and why, is worth more than how it is checked: it would not stay as the check says.
        ends = "the slide is at its end" if at_an_end(step.to, mount.low, mount.high) else check
        words, check = (f"{words}; {left}", meets_words(analysis, [step]) or ends) if beside else (words, left)
    tone = "fwdT" if short else "ink" if not done else "ink2"
    scene.text(inner, y + 90.0, fitted(words, 13, 1.2 * room), 13, 600 if not done else 400, tone)
    if text_width(check, 12) > 1.12 * room:
        check = check.split(",")[0]
    scene.text(inner, y + 107.0, fitted(check, 12, 1.12 * room), 12, 400, "ink2")
    return scale


def draw_lens_rows(
    scene: Scene, work: Work, rows: tuple[LensMarks, ...], system: System, size: tuple[float, float]
) -> None:
    """Draw a row for each lens, a column for each scale; what stays beside the axis in words below the mark."""
    (width, height), analysis = size, work.analysis
    steps = [step for step in work.steps if step.placed_id]
    left, wide = 190.0, (width - 190.0) / max(len(steps), 1)
    for k, step in enumerate(steps):
        title = slider_of(analysis, step.placed_id).name
        scene.text(left + k * wide, 42.0, fitted(title, 12, wide - 8.0), 12, 500, "ink2")
    lows = {
        analysis.build.parts[i].id: mount.low
        for i, mount in zip(analysis.assembly.slide_parts, analysis.assembly.slide_mounts, strict=True)
    }
    table = [
        [_mark(work, marks, step, lows[step.placed_id], wide - 8.0, system) for step in steps]
        if not marks.reason
        else []
        for marks in rows
    ]
    notes = _met_notes(analysis, rows)
    if any(mark is not None and mark.brackets for line in table for mark in line):
        notes.append(work.brackets)
    most = _rows_beside(len(rows), len(notes), height - 56.0)
    if len(rows) > most:
        notes.insert(0, f"{len(rows) - most} more steps do not fit here.")
    for row, (marks, line) in enumerate(zip(rows[:most], table, strict=False)):
        y = 62.0 + 21.0 * row
        scene.line(0.0, y - 15.0, width, y - 15.0, "rule", 1.0)
        scene.text(0.0, y, fitted(marks.lens, 13, left - 12.0), 13, 500)
        if marks.reason:
            scene.text(left, y, fitted(marks.reason, 13, width - left), 13, 400, "ink2")
        for k, mark in enumerate(line):
            if mark is not None:
                weight, tone = (600 if mark.there else 400), ("fwdT" if mark.short else "ink")
                scene.text(left + k * wide, y, fitted(mark.words, 13, wide - 8.0), 13, weight, tone)
    y = 64.0 + 21.0 * min(len(rows), most)
    for k, words in enumerate(notes):
        if y + 19.0 * k <= height - 4.0:
            scene.text(0.0, y + 19.0 * k, fitted(words, 13, width), 13, 400, "ink2")


def _rows_beside(rows: int, notes: int, room: float) -> int:
    """Return how many of the `rows` are shown in `room` (px) with as many lines of notes below them."""
    fit = int((room - 19.0 * notes) / 21.0)
    if fit < rows:
        # One line more says how many do not fit.
        fit = int((room - 19.0 * (notes + 1)) / 21.0)
    return min(max(fit, 1), rows)


class _Mark(Struct, frozen=True):
    """Where a scale stands for a lens, in words; whether it stands there, and whether something stays."""

    words: str
    there: bool
    short: bool
    brackets: bool


def _mark(work: Work, marks: LensMarks, step: WorkStep, low: float, room: float, system: System) -> _Mark | None:
    """Return the mark of a step's scale for a lens, counted from its `low` end (m), None where it has none.

    What stays is said behind it, in brackets where it has no more than `room` (px).
    """
    its = next((one for one in marks.steps if one.placed_id == step.placed_id), None)
    if its is None:
        return None
    words, short, brackets = figure(its.to - low, Kind.LENGTH, system), work.short(its), False
    if short:
        whole = f"{words}, {work.left(its)}"
        brackets = text_width(whole, 13) > room
        words = f"{words} ({work.briefly(its)})" if brackets else whole
    return _Mark(words, abs(its.to - its.now) < THERE, short, brackets and bool(work.brackets))


def _met_notes(analysis: Analysis, rows: tuple[LensMarks, ...]) -> list[str]:
    """Return what meets at which lens' marks, or ends one of its steps early, a line for each pair of parts."""
    lens = next(
        placed.id
        for placed, part in zip(analysis.build.parts, analysis.assembly.parts, strict=True)
        if part.category is Category.LENS
    )
    found: dict[str, list[str]] = {}
    for marks in rows:
        # What ends a step early only touches there.
        ended = [("in the way: ", step.meets) for step in marks.steps]
        for before, pair in dict.fromkeys([("", marks.meets), *ended]):
            if pair:
                found.setdefault(before + _met_words(analysis, pair, {lens: "the lens"}), []).append(marks.lens)
    return [
        f"{'Every lens' if len(lenses) == len(rows) > 1 else ', '.join(lenses)}: {words}."
        for words, lenses in found.items()
    ]
