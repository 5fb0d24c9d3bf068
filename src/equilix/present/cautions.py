"""What warns of something, as one ordered list of values with its words: read by panel, sheet and command line."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.analysis import Analysis, leading, warnings_of
from equilix.core.assembly.build import Operator
from equilix.present.supports.text import warning_sentence, warning_words
from equilix.present.units import System


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
    known = analysis.support.warning_type
    return tuple(
        Caution(
            str(finding.kind),
            finding.placed_ids,
            warning_sentence(analysis, finding, operator, system),
            known(finding.kind).leads,
        )
        for finding in warnings_of(analysis)
    )


def lead_words(analysis: Analysis) -> str:
    """Return what makes the rig unusable as a sentence, "" if nothing does."""
    found = leading(analysis)
    words = "" if found is None else warning_words(analysis, found)
    return f"{words[:1].upper()}{words[1:]}." if words else ""
