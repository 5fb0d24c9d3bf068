"""Where every slide of a rig stands for each lens: one list for window, sheet and command line, on every support."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.build import Kit, Operator
from equilix.core.slides import USUAL_TOLERANCE
from equilix.core.solver.lenses import LensTable, lens_table
from equilix.core.solver.scales import LensMarks

#: Stands for what slides on the support itself: it is no placed part.
OWN_SCALE = ""


class LensSetting(Struct, frozen=True, eq=False):
    """One lens, "" for none, at its `long_end` or not: the settings (m) of the slides by placed part, OWN_SCALE among
    them.

    `left` (N m) is what remains of the moment that the support is judged by; `meets` the pairs of placed parts that
    meet there and do not on the rig as it stands. `reason` says why the lens can't go on.
    """

    lens: str
    marks: tuple[tuple[str, float], ...] = ()
    left: float = 0.0
    meets: tuple[tuple[str, str], ...] = ()
    long_end: bool = False
    reason: str = ""


def of_table(table: LensTable | None) -> tuple[LensSetting, ...]:
    """Return the rows of the usual table: the camera's slide, and what is set to the lens with it."""
    if table is None:
        return ()
    rows = [
        LensSetting(
            row.part.name if row.part is not None else "",
            ((table.placed_id, row.stop), *row.along),
            abs(row.remaining),
            row.meets,
            row.long_end,
        )
        for row in table.rows
    ]
    return (*rows, *(LensSetting(part.name, reason=reason) for part, reason in table.misfits))


def lens_settings(analysis: Analysis, kit: Kit, operator: Operator) -> tuple[LensSetting, ...]:
    """Return where every slide stands for each lens of the kit in the place of the one that is on."""
    support = analysis.support
    if support.lenses_by_camera:
        return of_table(lens_table(analysis, kit, operator, tolerance=USUAL_TOLERANCE))
    case = support.case(analysis)
    return support.lens_settings(case, kit, operator) if case is not None else ()


def of_steps(analysis: Analysis, rows: Iterable[LensMarks]) -> tuple[LensSetting, ...]:
    """Return where all scales stand for each lens."""
    known, support = _met(analysis), analysis.support
    found = []
    for row in rows:
        case = support.case(row.after) if row.after is not None else None
        if row.after is None or case is None:
            found.append(LensSetting(row.lens, reason=row.reason))
            continue
        ends = {step.placed_id: step.to for step in row.steps if step.placed_id}
        meets = tuple(pair for pair in _met(row.after) if pair not in known)
        found.append(LensSetting(row.lens, tuple(ends.items()), support.remaining(case), meets))
    return tuple(found)


def met_since(before: Analysis, after: Analysis) -> tuple[tuple[str, str], ...]:
    """Return the pairs of placed parts that meet on one rig and did not on another."""
    known = _met(before)
    return tuple(pair for pair in _met(after) if pair not in known)


def _met(analysis: Analysis) -> list[tuple[str, str]]:
    clashes = (finding for finding in analysis.findings if finding.kind == FindingKind.CLASH)
    return [(finding.placed_ids[0], finding.placed_ids[1]) for finding in clashes]
