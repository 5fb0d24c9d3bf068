"""The lens table in words, on any support: one row a lens, one column a slide, with what is left and what hits."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Kit, Operator
from equilix.core.kit.parts import Category
from equilix.core.slides import USUAL_TOLERANCE
from equilix.core.solver.lens_marks import OWN_SCALE, LensSetting, lens_settings, of_table
from equilix.core.solver.lenses import lens_table
from equilix.core.support import case_of
from equilix.core.units import Kind
from equilix.present.balance.lens_view import lens_model
from equilix.present.supports import text_of
from equilix.present.units import System, figure
from equilix.present.words import short_name, slider_of


class LensSheet(Struct, frozen=True):
    """What question the table answers, its `headings`, and its rows of words; `now` is that of the lens that is on."""

    question: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    now: int
    notes: tuple[str, ...] = ()


def lens_sheet(analysis: Analysis, kit: Kit, operator: Operator, system: System) -> LensSheet | None:
    """Return the marks of all lenses of the kit on this build; None with fewer than two lenses to choose from."""
    support = analysis.support
    notes: tuple[str, ...] = ()
    on = next((part for part in analysis.assembly.parts if part.category is Category.LENS), None)
    if support.lenses_by_camera:
        table = lens_table(analysis, kit, operator, tolerance=USUAL_TOLERANCE)
        settings = of_table(table)
        if table is not None:
            model = lens_model(table, on.id if on is not None else "", system)
            notes = tuple(words for words in (model.note, model.common) if words)
    else:
        settings = lens_settings(analysis, kit, operator)
    if len(settings) < 2:
        return None
    slides = tuple(dict.fromkeys(slide for row in settings for slide, _ in row.marks))
    hits = any(row.meets for row in settings)
    headings = ("lens", *(slide_name(analysis, slide) for slide in slides), "left over", *(("hits",) if hits else ()))
    rows = tuple(_row(row, slides, hits, analysis, system) for row in settings)
    now = next((k for k, row in enumerate(settings) if on is not None and row.lens == on.name), -1)
    return LensSheet(text_of(analysis).lens_question, headings, rows, now, notes)


def slide_name(analysis: Analysis, slide: str) -> str:
    """Return what the slide of a placed part, or the support's own, is called."""
    if slide == OWN_SCALE:
        case = case_of(analysis)
        scale = text_of(analysis).own_scale(case) if case is not None else None
        return scale.name if scale is not None else ""
    return slider_of(analysis, slide).name


def lens_name(row: LensSetting) -> str:
    """Return a row's lens in words."""
    return (row.lens or "No lens") + (", long end" if row.long_end else "")


def hit_names(row: LensSetting, analysis: Analysis) -> tuple[str, ...]:
    """Return the names of the parts that hit others at a lens's marks, each once."""
    names = {p.id: part.name for p, part in zip(analysis.build.parts, analysis.assembly.parts, strict=True)}
    return tuple(dict.fromkeys(names[one] for pair in row.meets for one in pair if one in names))


def _row(row: LensSetting, slides: tuple[str, ...], hits: bool, analysis: Analysis, system: System) -> tuple[str, ...]:
    if row.reason:
        return (lens_name(row), *("" for _ in slides), row.reason, *(("",) if hits else ()))
    marks = dict(row.marks)
    cells = [_mark(analysis, slide, marks.get(slide), system) for slide in slides]
    names = {p.id: part.name for p, part in zip(analysis.build.parts, analysis.assembly.parts, strict=True)}
    said = "; ".join(f"{short_name(names[a])} and {short_name(names[b])}" for a, b in row.meets)
    left = figure(row.left, Kind.MOMENT, system, extra=1)
    return (lens_name(row), *cells, left, *((said,) if hits else ()))


def _mark(analysis: Analysis, slide: str, setting: float | None, system: System) -> str:
    """Return a mark as it is read off the slide; one that stays where it is, as it stands now."""
    if slide == OWN_SCALE:
        return "" if setting is None else figure(setting, Kind.LENGTH, system, sign=True)
    placed = analysis.build.placed(slide)
    return figure(
        (placed.setting if setting is None else setting) - slider_of(analysis, slide).low, Kind.LENGTH, system
    )
