"""What the Balance view says: verdict, figures, ledger rows and ways to balance."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.build import Operator
from equilix.core.kit.parts import HowKnown, Part
from equilix.core.support import Case, case_of
from equilix.core.units import Kind
from equilix.present.cautions import cautions_of, with_matter
from equilix.present.drawing.rig_drawing import letter
from equilix.present.kit.table import HOW_WORDS
from equilix.present.supports import text_of
from equilix.present.supports.text import FORE_AFT, FigureRow, Sides, Verdict
from equilix.present.units import MINUS, System, figure, uncertainty, unit_of
from equilix.present.words import mid_sentence

#: Stands for a figure that there is not.
NOTHING = "–"
#: What stands before a figure that goes back or forward.
_SIGNS = MINUS + "+"


class LedgerRow(Struct, frozen=True):
    """One part's line in the ledger; `moment` (N m) sets its bar.

    `known` is how its mass is known, `about` what the arm is counted from, "" for a part that does not turn there;
    `units` are those of moment, mass and arm.
    """

    placed_id: str
    letter: str
    name: str
    moment: float
    moment_text: str
    mass_text: str
    arm_text: str
    guessed: bool
    known: str = ""
    about: str = ""
    units: tuple[str, str, str] = ("", "", "")
    sides: Sides = FORE_AFT

    @property
    def spoken(self) -> str:
        """What assistive tools and tips say of the part."""
        moment, mass, arm = self.units
        said = f"{self.letter}, {self.name}, {self.mass_text} {mass} {self.known}".rstrip()
        if not self.about:
            return f"{said}, does not turn on this axis"
        where = self.sides.below if self.arm_text.startswith(MINUS) else self.sides.above
        said += f", {self.arm_text.lstrip(_SIGNS)} {arm} {where} {self.about}"
        if self.moment_text == NOTHING:
            return said
        way = self.sides.more if self.moment >= 0.0 else self.sides.less
        return f"{said}, pulls {way} {self.moment_text.lstrip(_SIGNS)} {moment}"


class Cause(Struct, frozen=True):
    """Why the CG is doubtful, and the words of what would help: it is for the part `part_id`, or "" for all guessed."""

    text: str = ""
    cure: str = ""
    part_id: str = ""


class BalanceModel(Struct, frozen=True):
    """All that the Balance view shows."""

    verdict: Verdict
    figures: tuple[FigureRow, ...]
    rows: tuple[LedgerRow, ...]
    net: LedgerRow | None
    net_uncertainty: float
    cautions: tuple[str, ...]
    cause: Cause
    noun: str
    moment_unit: str
    mass_unit: str
    length_unit: str
    sides: Sides = FORE_AFT


def verdict_of(analysis: Analysis, system: System) -> Verdict:
    """Return the sentence that answers: does it balance, and what does it ask of the hands?"""
    if not analysis.build.parts:
        return Verdict("No parts yet.", "Add a part or open a book.", known=False)
    missing = [
        analysis.assembly.parts[i].name for i in range(len(analysis.build.parts)) if analysis.assembly.missing[i]
    ]
    if analysis.body is None or analysis.spread is None:
        why = f"{missing[0]} has no mass." if missing else "No part has a mass."
        return Verdict("Cannot say yet.", why, known=False)
    words = text_of(analysis)
    case = case_of(analysis)
    if case is None:
        return Verdict("Cannot say yet.", words.needed(analysis), known=False)
    found = words.verdict(case, system)
    tail = f" Left out: {missing[0]} has no mass." if missing else ""
    return with_matter(replace(found, body=f"{found.body}{tail}".strip()), analysis)


def balance_model(analysis: Analysis, operator: Operator, system: System) -> BalanceModel:
    """Return what the Balance view shows for `analysis`."""
    rows: tuple[LedgerRow, ...] = ()
    net = None
    net_uncertainty = 0.0
    case = case_of(analysis)
    if case is not None:
        equilibrium = case.equilibrium
        rows = _ledger_rows(case, system)
        net_uncertainty = equilibrium.tip_uncertainty
        net = LedgerRow(
            "",
            "",
            "Total",
            equilibrium.tip_moment,
            _moment(equilibrium.tip_moment, system),
            figure(float(equilibrium.of_form(analysis.assembly.mass).sum()), Kind.MASS, system, unit=False),
            figure(equilibrium.ahead, Kind.LENGTH, system, sign=True, unit=False),
            False,
        )
    return BalanceModel(
        verdict_of(analysis, system),
        figures_of(analysis, system),
        rows,
        net,
        net_uncertainty,
        _cautions(analysis, operator, system),
        _cause(analysis, system),
        text_of(analysis).noun,
        unit_of(Kind.MOMENT, system),
        unit_of(Kind.MASS, system),
        unit_of(Kind.LENGTH, system),
        FORE_AFT if case is None else text_of(analysis).sides(case),
    )


def figures_of(analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
    """Return the panel's figures: the mass, and what the support says."""
    body, spread = analysis.body, analysis.spread
    if body is None or spread is None:
        return ()
    mass = FigureRow("Total mass", figure(body.mass, Kind.MASS, system), uncertainty(spread.mass, Kind.MASS, system))
    case = case_of(analysis)
    return (mass, *(text_of(analysis).rows(case, system) if case is not None else ()))


def _moment(value: float, system: System) -> str:
    return figure(value, Kind.MOMENT, system, sign=True, unit=False, extra=1)


def _ledger_rows(case: Case[Any, Any], system: System) -> tuple[LedgerRow, ...]:
    analysis, equilibrium = case.analysis, case.equilibrium
    noun, sides = text_of(analysis).noun, text_of(analysis).sides(case)
    arms = (analysis.positions.cg - equilibrium.point) @ equilibrium.forward
    units = unit_of(Kind.MOMENT, system), unit_of(Kind.MASS, system), unit_of(Kind.LENGTH, system)
    rows = []
    for i, (placed, part) in enumerate(zip(analysis.build.parts, analysis.assembly.parts, strict=True)):
        moment = float(equilibrium.moment[i])
        turns = not equilibrium.groups or bool(equilibrium.groups[0][i])
        mass, guessed, known = _mass_words(part, system)
        rows.append(
            LedgerRow(
                placed.id,
                letter(i),
                part.name,
                moment,
                NOTHING if part.mass is None or not turns else _moment(moment, system),
                mass,
                figure(float(arms[i]), Kind.LENGTH, system, sign=True, unit=False),
                guessed,
                known,
                noun if turns else "",
                units,
                sides,
            )
        )
    return tuple(rows)


@lru_cache(maxsize=1024)
def _mass_words(part: Part, system: System) -> tuple[str, bool, str]:
    """Return a part's mass as the ledger shows it, whether it is guessed, and how it is known."""
    guessed = part.mass_known is HowKnown.GUESSED
    if part.mass is None:
        return "mass not known", guessed, HOW_WORDS[part.mass_known]
    return (
        ("≈ " if guessed else "") + figure(part.mass, Kind.MASS, system, unit=False),
        guessed,
        HOW_WORDS[part.mass_known],
    )


#: Clashes that are named one by one; more are counted.
MOST_CLASHES = 4


def _cautions(analysis: Analysis, operator: Operator, system: System) -> tuple[str, ...]:
    found = cautions_of(analysis, operator, system)
    clashes = sum(one.kind == FindingKind.CLASH for one in found)
    many = clashes > MOST_CLASHES
    said = [one.says for one in found if not (many and one.kind == FindingKind.CLASH)]
    if many:
        leads = sum(one.leads for one in found)
        said.insert(leads, f"{clashes} pairs of parts hit each other. See Build.")
    return (*said, text_of(analysis).closing)


def _cause(analysis: Analysis, system: System) -> Cause:
    """Return why the CG is as doubtful as it is, for the status bar."""
    spread = analysis.spread
    if spread is None or not analysis.build.parts:
        return Cause()
    guessed = sum(p.mass_known is HowKnown.GUESSED and p.mass is not None for p in analysis.assembly.parts)
    pm = f"CG {uncertainty(float(spread.cg[0]), Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
    worst, by_place = spread.worst()
    part = analysis.assembly.parts[worst]
    cut = f"{100.0 * (1.0 - math.sqrt(max(1.0 - float(spread.share[worst]), 0.0))):.0f} %"
    sure = f"were it sure, {cut} less"
    # Weighing a part says nothing of where along it its mass lies.
    if by_place and part.cg_known is not HowKnown.WEIGHED:
        return Cause(
            f"{pm}, most of it where the CG of {mid_sentence(part.name)} lies; {sure}:", "find the CG", part.id
        )
    if not guessed:
        return Cause(f"{pm}; every known mass is weighed or by its sheet.")
    return Cause(f"{pm}, most of it by the mass of {mid_sentence(part.name)}; {sure}:", "weigh it")
