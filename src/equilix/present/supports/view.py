"""What a support's words have in common: verdict, figures of the panel, what its point is called."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from equilix.core.analysis import Analysis, Finding, FindingKind, warnings_of
from equilix.core.doubt.gauges import Gauge, doubts_of, gauges_of
from equilix.core.statics.hands import HandLoad
from equilix.present.units import Kind, System, doubt, figure

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


class SupportView(ABC):
    """The words of one support."""

    #: What it is called in the top bar, and its tip there.
    name: str
    tip: str
    #: What the rig's weight is judged about: "the pad".
    noun: str
    #: The same as a label: "pad".
    label: str
    #: What is lacking where a build can't lie on this support.
    needs: str
    #: What stands where there is no build yet.
    here: str
    #: The way that moves the rig against what holds it.
    moves: str
    #: The caution that stands below every other one.
    closing: str
    #: What the tip moment is called.
    tips: str

    def where(self, analysis: Analysis) -> str:
        """Return on which side of the point the CG lies: "ahead of the pad"."""
        stand = analysis.stand
        if stand is None:
            return ""
        if abs(float(stand.forward[0])) >= abs(float(stand.forward[1])):
            return f"{'ahead of' if stand.ahead >= 0.0 else 'behind'} {self.noun}"
        left = stand.ahead * float(stand.forward[1]) >= 0.0
        return f"{'left' if left else 'right'} of {self.noun}"

    def lacks(self, analysis: Analysis) -> str:
        """Return in a few words what the build lacks for this support, "" if nothing."""
        return ""

    @abstractmethod
    def verdict(self, analysis: Analysis, system: System) -> Verdict:
        """Return the sentence for a build that lies on this support."""

    @abstractmethod
    def figures(self, analysis: Analysis, system: System) -> tuple[FigureRow, ...]:
        """Return the figures of the panel, the mass apart."""

    @abstractmethod
    def mark(self, analysis: Analysis) -> str:
        """Return the rail's mark for a build that lies on this support: "look", "part" or "settled"."""

    def gauge(self, gauge: Gauge) -> str:
        """Return what a figure is called on this support."""
        if gauge in (Gauge.AHEAD, Gauge.ABOVE):
            return f"{gauge.value} {'of ' if gauge is Gauge.AHEAD else ''}{self.noun}"
        return self.tips if gauge is Gauge.TIP_MOMENT else gauge.value


def mid_sentence(name: str) -> str:
    """Return a part's name as inside a sentence: "V-lock" and "L bracket" stay, "Matte box" becomes "matte box"."""
    keeps = len(name) > 1 and not name[1].islower() and not name.startswith("A ")
    return name if keeps else name[:1].lower() + name[1:]


def index_of(analysis: Analysis, placed_id: str) -> int:
    """Return the number of a placed part."""
    return next(i for i, placed in enumerate(analysis.build.parts) if placed.id == placed_id)


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


def but_words(analysis: Analysis) -> str:
    """Return the worst warning as a sentence behind a good verdict, "" if there is none."""
    found = warnings_of(analysis)
    return f" But {warning_words(analysis, found[0])}." if found else ""


def hands_words(analysis: Analysis, system: System) -> str:
    holding = analysis.stand.holding if analysis.stand is not None else None
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


def hand_rows(analysis: Analysis, asked: Sequence[Gauge], system: System) -> list[FigureRow]:
    """Return rows of forces that hold the rig alone, each with its doubt."""
    gauges = gauges_of(analysis)
    holding = analysis.stand.holding if analysis.stand is not None else None
    if gauges is None or holding is None:
        return []
    offered = tuple(gauge for gauge in asked if gauge in gauges.offered)
    unsure = doubts_of(gauges, offered)
    sizes = {Gauge.LARGER_HAND: holding.larger, Gauge.ON_SHOULDER: float(holding.pad_force[2])}
    return [
        FigureRow(
            gauge.value[:1].upper() + gauge.value[1:],
            figure(sizes[gauge], Kind.FORCE, system),
            doubt(unsure[gauge], Kind.FORCE, system),
        )
        for gauge in offered
    ]
