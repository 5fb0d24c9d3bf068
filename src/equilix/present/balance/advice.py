"""What to weigh next, in words."""

from __future__ import annotations

from typing import Any

from equilix.core.analysis import Analysis
from equilix.core.measurement.advice import MINUTES, MOST_LISTED, Advice, Task
from equilix.core.uncertainty.output_model import CG_AHEAD
from equilix.core.units import Kind
from equilix.present.balance.odds_view import kind_of, output_text
from equilix.present.card import AdviceRow
from equilix.present.supports import text_of
from equilix.present.supports.text import FigureRow, SupportText, Verdict
from equilix.present.units import System, figure, uncertainty, unit_of
from equilix.present.words import mid_sentence

_NOTES = {
    Task.PART_MASS: "on one scale",
    Task.PART_CG: "on two supports, fore and aft",
    Task.RIG_MASS: "on one scale, put together",
    Task.RIG_CG: "on two supports, put together",
}
_AXES = ("fore and aft", "sideways", "height, nose let down")


def advice_rows(found: tuple[Advice, ...], analysis: Analysis, output: str, system: System) -> tuple[AdviceRow, ...]:
    """Return the list for the panel."""
    return tuple(_row(advice, analysis, output, system) for advice in found)


def _row(advice: Advice, analysis: Analysis, output: str, system: System) -> AdviceRow:
    part = analysis.assembly.parts[advice.part] if advice.part is not None else None
    name = part.name if part is not None else "Whole rig"
    what = f"CG of the {name}" if advice.task is Task.PART_CG else name
    note = _NOTES[advice.task]
    if advice.task is Task.PART_CG:
        note += f", {_AXES[advice.axis]}"
    before = _plain(text_of(analysis), output, 2.0 * advice.before, system)
    after = _plain(text_of(analysis), output, 2.0 * advice.after, system)
    return AdviceRow(
        what,
        f"−{_cut(advice)}",
        1.0 - advice.after / advice.before if advice.before > 0.0 else 0.0,
        f"± {before} → {after} {unit_of(kind_of(text_of(analysis), output), system)}",
        f"{MINUTES[advice.task]} min; {note}",
    )


def _plain(view: SupportText[Any, Any], output: str, value: float, system: System) -> str:
    return output_text(view, output, value, system, unit=False).lstrip("+")


def weigh_verdict(found: tuple[Advice, ...], analysis: Analysis | None, output: str) -> Verdict:
    """Return the sentence: what to weigh first, and why."""
    if not found or analysis is None:
        return Verdict("No measurement", f"makes the {'CG' if output == CG_AHEAD else 'figure'} surer by 3 %.")
    first = found[0]
    # Builds are often called "A · Long zoom": then the letter is enough.
    name = analysis.build.name.split(" · ")[0]
    where = f" in {name if len(name) <= 24 else name[:23].rstrip() + '…'}"
    what = "the CG" if output == CG_AHEAD else f"the {text_of(analysis).output_name(output)}"
    tail = f"That cuts the ± of {what}{where} by {_cut(first)}."
    if first.part is None:
        head = "Weigh the whole rig." if first.task is Task.RIG_MASS else "Lay the rig on two supports."
        return Verdict(head, tail)
    part = mid_sentence(analysis.assembly.parts[first.part].name.split(",")[0])
    head = f"Weigh the {part}." if first.task is Task.PART_MASS else f"Find the CG of the {part}."
    return Verdict(head, tail)


def after_words(found: tuple[Advice, ...], analysis: Analysis, output: str, system: System) -> str:
    """Return what is left of the uncertainty after the list."""
    count = len(found)
    view = text_of(analysis)
    left = f"± {_plain(view, output, 2.0 * found[-1].after, system)} {unit_of(kind_of(view, output), system)}"
    words = "After this one" if count == 1 else f"After all {count}"
    rest = "" if count >= MOST_LISTED else " Nothing else would cut it by 3 % or more."
    return f"{words}: {left}.{rest}"


def _cut(advice: Advice) -> str:
    """Return by how much a measurement cuts the ±."""
    return f"{100.0 * (1.0 - advice.after / advice.before) if advice.before > 0.0 else 0.0:.0f} %"


def output_words(analysis: Analysis, system: System) -> list[FigureRow]:
    """Return the build's own rows in the panel of the kit."""
    if analysis.equilibrium is None or analysis.spread is None:
        return []
    return [
        FigureRow(
            f"CG distance ahead of the {text_of(analysis).label}",
            figure(analysis.equilibrium.ahead, Kind.LENGTH, system, sign=True),
            uncertainty(analysis.equilibrium.ahead_uncertainty, Kind.LENGTH, system),
        )
    ]
