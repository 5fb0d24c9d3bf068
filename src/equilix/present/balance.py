"""What the Balance view says: verdict, figures, ledger rows and ways to balance."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from equilix.core.analyse import Analysis, Certainty, Finding, FindingKind, warnings_of
from equilix.core.assembly.build import Build, FreeMount, Kit, Operator
from equilix.core.assembly.parts import HowKnown, MountKind
from equilix.core.gauges import Gauge, doubts_of, gauges_of
from equilix.core.supports.hands import HandLoad
from equilix.core.supports.shoulder import Tip
from equilix.core.uncertainty import COVERAGE
from equilix.present.rig_drawing import letter
from equilix.present.units import Kind, System, doubt, figure, unit_of

#: N. Less than this in a hand is not worth a sentence; common practice.
LIGHT_HAND = 1.0


@dataclass(frozen=True, slots=True)
class Verdict:
    """`head` is the answer in few words, `body` what it means; `leans` is "forward", "back" or ""."""

    head: str
    body: str
    leans: str = ""


@dataclass(frozen=True, slots=True)
class FigureRow:
    """One figure of the panel: what, how much, how sure."""

    label: str
    value: str
    doubt: str
    note: str = ""


@dataclass(frozen=True, slots=True)
class LedgerRow:
    """One part's line in the ledger; `moment` (N m) sets its bar."""

    placed_id: str
    letter: str
    name: str
    moment: float
    moment_text: str
    mass_text: str
    arm_text: str
    guessed: bool
    spoken: str


@dataclass(frozen=True, slots=True)
class BalanceModel:
    """All that the Balance view shows."""

    verdict: Verdict
    figures: tuple[FigureRow, ...]
    rows: tuple[LedgerRow, ...]
    net: LedgerRow | None
    net_doubt: float
    cautions: tuple[str, ...]
    cause: str
    moment_unit: str
    mass_unit: str
    length_unit: str


def mid_sentence(name: str) -> str:
    """Return a part's name as inside a sentence: "V-lock" and "L bracket" stay, "Matte box" becomes "matte box"."""
    keeps = len(name) > 1 and not name[1].islower() and not name.startswith("A ")
    return name if keeps else name[:1].lower() + name[1:]


def verdict_of(analysis: Analysis, system: System) -> Verdict:
    """Return the sentence that answers: does it balance, and what does it ask of the hands?"""
    if not analysis.build.parts:
        return Verdict("Nothing here yet.", "Add the first part, or open a kit book.")
    missing = [
        analysis.assembly.parts[i].name for i in range(len(analysis.build.parts)) if analysis.assembly.missing[i]
    ]
    shoulder, spread = analysis.shoulder, analysis.spread
    if analysis.body is None or spread is None:
        return Verdict("Cannot say yet.", f"{missing[0]} has no mass." if missing else "No part has a mass.")
    if shoulder is None:
        return Verdict("Cannot say yet.", "Put a shoulder pad on the build.")
    tail = f" {missing[0]} has no mass and is left out." if missing else ""
    rest = shoulder.rest
    u = float(spread.cg[0])
    if shoulder.holding is None:
        return Verdict("Falls off the shoulder.", "There are no hands to hold it: add a grip." + tail, _leans(rest.tip))
    hands = [hand for hand in shoulder.holding.hands if hand.size >= LIGHT_HAND]
    if not hands and abs(rest.ahead) <= COVERAGE * u and shoulder.hands_off is Certainty.CLEAR:
        pm = doubt(u, Kind.LENGTH, system)
        return Verdict("Level", f"within what is known ({pm} {unit_of(Kind.LENGTH, system)}).{_but(analysis)}" + tail)
    if not hands:
        side = "ahead of" if rest.ahead > 0.0 else "behind"
        where = f"The CG is {figure(abs(rest.ahead), Kind.LENGTH, system)} {side} the pad's middle."
        if shoulder.hands_off is Certainty.CANNOT_SAY and rest.margin_y < rest.margin_x:
            aside = figure(abs(rest.left), Kind.LENGTH, system, unit=False)
            pm = f"{doubt(float(spread.cg[1]), Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
            to = "left" if rest.left > 0.0 else "right"
            body = f"Sideways the CG lies {aside} {pm} to the {to}: too close to the pad's edge to say."
            return Verdict("May stay by itself.", body + tail)
        if shoulder.hands_off is Certainty.CANNOT_SAY:
            return Verdict("May stay by itself.", f"{where} Too close to the pad's edge to say." + tail)
        return Verdict("Stays by itself.", where + _but(analysis) + tail)
    return Verdict(_tips(rest.tip), _hands_words(analysis, system) + tail, _leans(rest.tip))


def warning_words(analysis: Analysis, finding: Finding) -> str:
    """Return a warning as a short clause."""
    names = [
        mid_sentence(analysis.assembly.parts[index_of(analysis, i)].name.split(",")[0]) for i in finding.placed_ids
    ]
    return {
        FindingKind.PRESSES_ON_HEAD: "it presses on the head",
        FindingKind.CLASH: " meets ".join(names),
        FindingKind.OUT_OF_TRAVEL: f"{names[0]} is past its stop",
        FindingKind.SORE_PAD: "the pad hurts when it lasts",
        FindingKind.SLIPS_OFF: "it slips off a sloping shoulder",
    }[finding.kind]


def _but(analysis: Analysis) -> str:
    """Return the worst warning as a sentence behind a good verdict, "" if there is none."""
    found = warnings_of(analysis)
    return f" But {warning_words(analysis, found[0])}." if found else ""


def _tips(tip: Tip) -> str:
    return {
        Tip.FORWARD: "Tips forward.",
        Tip.BACK: "Tips back.",
        Tip.LEFT: "Tips to the left.",
        Tip.RIGHT: "Tips to the right.",
        Tip.LEVEL: "Stays by itself.",
    }[tip]


def _leans(tip: Tip) -> str:
    return {Tip.FORWARD: "forward", Tip.BACK: "back"}.get(tip, "")


def _hands_words(analysis: Analysis, system: System) -> str:
    holding = analysis.shoulder.holding if analysis.shoulder is not None else None
    if holding is None:
        return ""
    hands = holding.hands
    sizes = [hand.size for hand in hands]
    many, one = _does(hands)
    most = figure(max(sizes), Kind.FORCE, system)
    if len(hands) == 2 and max(sizes) - min(sizes) <= 0.1 * max(sizes):
        return f"Each hand {one} {most} to keep it level."
    if len(hands) == 1:
        return f"One hand {one} {most} to keep it level."
    left, right = sorted(hands, key=lambda hand: -float(hand.point[1]))[:2]
    shares = f"left hand {figure(left.size, Kind.FORCE, system)}, right hand {figure(right.size, Kind.FORCE, system)}"
    return f"The hands {many}: {shares}."


def _does(hands: Sequence[HandLoad]) -> tuple[str, str]:
    """Return what the hands mostly do, all together, and what one of them does."""
    ahead, _, up = (float(v) for v in sum((hand.force for hand in hands), np.zeros(3)))
    if abs(ahead) > abs(up):
        return ("push forward", "pushes forward") if ahead > 0.0 else ("pull back", "pulls back")
    return ("lift", "lifts") if up >= 0.0 else ("press down", "presses down")


def balance_model(analysis: Analysis, operator: Operator, system: System) -> BalanceModel:
    """Return what the Balance view shows for `analysis`."""
    rows: tuple[LedgerRow, ...] = ()
    net = None
    net_doubt = 0.0
    if analysis.shoulder is not None and analysis.body is not None and analysis.spread is not None:
        rows = tuple(_ledger_row(analysis, i, system) for i in range(len(analysis.build.parts)))
        net_doubt = analysis.shoulder.moment_doubt
        net = LedgerRow(
            "",
            "",
            "Net",
            analysis.shoulder.pitch_moment,
            _moment(analysis.shoulder.pitch_moment, system),
            figure(analysis.body.mass, Kind.MASS, system, unit=False),
            figure(analysis.shoulder.rest.ahead, Kind.LENGTH, system, sign=True, unit=False),
            False,
            "",
        )
    return BalanceModel(
        verdict_of(analysis, system),
        _figures(analysis, system),
        rows,
        net,
        net_doubt,
        _cautions(analysis, operator, system),
        _cause(analysis, system),
        unit_of(Kind.MOMENT, system),
        unit_of(Kind.MASS, system),
        unit_of(Kind.LENGTH, system),
    )


def _moment(value: float, system: System) -> str:
    return figure(value, Kind.MOMENT, system, sign=True, unit=False, extra=1)


def _ledger_row(analysis: Analysis, i: int, system: System) -> LedgerRow:
    part = analysis.assembly.parts[i]
    shoulder = analysis.shoulder
    moment = float(shoulder.moment[i]) if shoulder is not None else 0.0
    pad_x = float(shoulder.pad[0]) if shoulder is not None else 0.0
    arm = float(analysis.positions.cg[i, 0]) - pad_x
    guessed = part.mass_known is HowKnown.GUESSED
    mass = "no mass" if part.mass is None else figure(part.mass, Kind.MASS, system, unit=False)
    if guessed and part.mass is not None:
        mass = f"≈ {mass}"
    pulls = "pulls forward" if moment >= 0.0 else "pulls back"
    spoken = (
        f"{letter(i)}, {part.name}, {mass} {unit_of(Kind.MASS, system)} {part.mass_known}, "
        f"{figure(abs(arm), Kind.LENGTH, system)} {'ahead of' if arm >= 0 else 'behind'} the pad, "
        f"{pulls} {figure(abs(moment), Kind.MOMENT, system, extra=1)}"
    )
    return LedgerRow(
        analysis.build.parts[i].id,
        letter(i),
        part.name,
        moment,
        "–" if part.mass is None else _moment(moment, system),
        mass,
        figure(arm, Kind.LENGTH, system, sign=True, unit=False),
        guessed,
        spoken,
    )


def _figures(analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
    body, spread, shoulder = analysis.body, analysis.spread, analysis.shoulder
    if body is None or spread is None:
        return ()
    rows = [FigureRow("Total mass", figure(body.mass, Kind.MASS, system), doubt(spread.mass, Kind.MASS, system))]
    if shoulder is None:
        return tuple(rows)
    rest = shoulder.rest
    rows.append(
        FigureRow(
            "CG ahead of pad" if rest.ahead >= 0 else "CG behind pad",
            figure(abs(rest.ahead), Kind.LENGTH, system),
            doubt(float(spread.cg[0]), Kind.LENGTH, system),
        )
    )
    rows.append(
        FigureRow(
            "Tip moment",
            figure(abs(shoulder.pitch_moment), Kind.MOMENT, system),
            doubt(shoulder.moment_doubt, Kind.MOMENT, system),
        )
    )
    rows.append(
        FigureRow(
            "Hands-off margin",
            figure(min(rest.margin_x, rest.margin_y), Kind.LENGTH, system, sign=True),
            doubt(float(spread.cg[0 if rest.margin_x <= rest.margin_y else 1]), Kind.LENGTH, system),
            _hands_off_note(analysis),
        )
    )
    side = "left" if rest.left > 0 else "right"
    rows.append(
        FigureRow(
            f"CG to the {side}" if abs(rest.left) >= 0.0005 else "CG sideways",
            figure(abs(rest.left), Kind.LENGTH, system),
            doubt(float(spread.cg[1]), Kind.LENGTH, system),
        )
    )
    if shoulder.holding is not None:
        gauges = gauges_of(analysis)
        asked = (Gauge.LARGER_HAND, Gauge.ON_SHOULDER) if shoulder.holding.hands else (Gauge.ON_SHOULDER,)
        unsure = doubts_of(gauges, asked) if gauges is not None else {}
        sizes = {Gauge.LARGER_HAND: shoulder.holding.larger, Gauge.ON_SHOULDER: float(shoulder.holding.pad_force[2])}
        rows += [
            FigureRow(
                gauge.value[:1].upper() + gauge.value[1:],
                figure(sizes[gauge], Kind.FORCE, system),
                doubt(unsure[gauge], Kind.FORCE, system),
            )
            for gauge in asked
        ]
    return tuple(rows)


def _hands_off_note(analysis: Analysis) -> str:
    shoulder = analysis.shoulder
    if shoulder is None:
        return ""
    if shoulder.hands_off is Certainty.OVER:
        return "outside the pad: never let go"
    if shoulder.hands_off is Certainty.CANNOT_SAY:
        return "cannot say: the pad's edge is within the doubt"
    if shoulder.rest.tip_angle is None:
        return ""
    return f"goes over past {math.degrees(shoulder.rest.tip_angle):.0f}° of tilt"


#: Clashes that are named one by one; more are counted.
MOST_CLASHES = 4


def _cautions(analysis: Analysis, operator: Operator, system: System) -> tuple[str, ...]:
    said = []
    clashes = sum(finding.kind is FindingKind.CLASH for finding in analysis.findings)
    if clashes > MOST_CLASHES:
        said.append(f"{clashes} pairs of parts meet: see Build.")
    for finding in analysis.findings:
        if finding.kind is FindingKind.CLASH and clashes > MOST_CLASHES:
            continue
        if finding.kind is FindingKind.PRESSES_ON_HEAD:
            part = analysis.assembly.parts[index_of(analysis, finding.placed_ids[0])].name
            lean = figure(finding.amount, Kind.LENGTH, system)
            said.append(f"{part} presses on {operator.name}'s head: it must give way {lean}.")
        elif finding.kind is FindingKind.SORE_PAD:
            said.append(
                f"Pad pressure about {finding.amount / 1000.0:.0f} kPa: over about 14 kPa hurts when it lasts. "
                "Rest often; a larger, softer pad helps."
            )
        elif finding.kind is FindingKind.SLIPS_OFF:
            said.append("The pad is too smooth for a sloping shoulder: keep a hand on the rig.")
        elif finding.kind is FindingKind.CLASH:
            first, second = (analysis.assembly.parts[index_of(analysis, pid)].name for pid in finding.placed_ids)
            said.append(f"{first} meets {mid_sentence(second)}: see Build.")
        elif finding.kind is FindingKind.OUT_OF_TRAVEL:
            part = analysis.assembly.parts[index_of(analysis, finding.placed_ids[0])].name
            said.append(f"{part} is {figure(finding.amount, Kind.LENGTH, system)} past the end of its slide.")
    said.append("Hand and shoulder figures are the least effort that works, for planning; not medical advice.")
    return tuple(said)


def index_of(analysis: Analysis, placed_id: str) -> int:
    """Return the number of a placed part."""
    return next(i for i, placed in enumerate(analysis.build.parts) if placed.id == placed_id)


def _cause(analysis: Analysis, system: System) -> str:
    """Return why the CG is as doubtful as it is, for the status bar."""
    spread = analysis.spread
    if spread is None or not analysis.build.parts:
        return ""
    guessed = int((analysis.assembly.guessed & ~analysis.assembly.missing).sum())
    pm = f"CG {doubt(float(spread.cg[0]), Kind.LENGTH, system)} {unit_of(Kind.LENGTH, system)}"
    if not guessed:
        return f"{pm}; every part is weighed or by its sheet."
    worst = int(spread.share.argmax())
    share = f"{100.0 * float(spread.share[worst]):.0f} % of the doubt is {analysis.assembly.parts[worst].name}"
    many = "1 part is guessed" if guessed == 1 else f"{guessed} parts are guessed"
    return f"{pm}, because {many}; {share}:"


def mount_name(free: FreeMount, build: Build, kit: Kit) -> str:
    """Return a mount's place in words: "rods of Rear rods 15 mm"."""
    part = kit[build.placed(free.placed_id).part_id]
    if free.mount.kind is MountKind.LIGHT_RODS:
        return part.name
    return f"{part.name}, {free.mount.name or free.mount.id}"


def number_mm(value: float, system: System) -> str:
    """Return a length with its sign and without its unit."""
    return figure(value, Kind.LENGTH, system, sign=True, unit=False)
