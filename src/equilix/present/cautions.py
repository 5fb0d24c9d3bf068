"""What warns of something, as one ordered list of values with its words: read by panel, sheet and command line."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.analysis import Analysis, Finding, FindingKind, leading, warnings_of
from equilix.core.assembly.build import Operator
from equilix.present.supports import text_of
from equilix.present.supports.text import index_of, warning_words
from equilix.present.units import Kind, System, figure
from equilix.present.words import mid_sentence


class Caution(Struct, frozen=True):
    """One thing to look at: its `kind`, the placed parts that it concerns, and what is said of it.

    `leads` if it makes the rig unusable as it is.
    """

    kind: str
    placed_ids: tuple[str, ...]
    says: str
    leads: bool = False


def cautions_of(analysis: Analysis, operator: Operator, system: System) -> tuple[Caution, ...]:
    """Return every warning of an analysis, worst first."""
    leads = leading_kinds(analysis)
    return tuple(
        Caution(
            str(finding.kind),
            finding.placed_ids,
            caution_words(finding, analysis, operator, system),
            finding.kind in leads,
        )
        for finding in warnings_of(analysis)
    )


def leading_kinds(analysis: Analysis) -> frozenset[str]:
    """Return the kinds of warnings that come before any word of balance on a build's support."""

    return analysis.support.leads


def lead_words(analysis: Analysis) -> str:
    """Return what makes the rig unusable as a sentence, "" if nothing does."""
    found = leading(analysis)
    words = "" if found is None else warning_words(analysis, found)
    return f"{words[:1].upper()}{words[1:]}." if words else ""


def caution_words(finding: Finding, analysis: Analysis, operator: Operator, system: System) -> str:
    """Return a warning as a sentence for the panel, whatever support it is of."""
    parts = [analysis.assembly.parts[index_of(analysis, placed_id)].name for placed_id in finding.placed_ids]
    match finding.kind:
        case FindingKind.CLASH:
            return f"{parts[0]} hits {mid_sentence(parts[1])}, {figure(finding.amount, Kind.LENGTH, system)}."
        case FindingKind.OUT_OF_TRAVEL:
            return f"{parts[0]} is {figure(finding.amount, Kind.LENGTH, system)} past the end of its slide."
        case FindingKind.NOT_HELD:
            return "No hands at these grips hold it level. Move a grip, or add one."
        case FindingKind.SCREEN:
            return f"The {mid_sentence(parts[0])} is beside or behind the eye. Move it forward to watch it."
        case FindingKind.NO_LIMIT:
            return text_of(analysis).limit_wanted(analysis)
        case FindingKind.HEAVY_LENS:
            moment, most = (figure(v, Kind.MOMENT, system) for v in (finding.amount, finding.limit or 0.0))
            return (
                f"{parts[0]} bends its mount by {moment}, over the {most} of this build. "
                "Put a lens support under it, set until the mount is free."
            )
        case _:
            return text_of(analysis).caution(finding, analysis, operator, system)
