"""What warns of something, as one ordered list of values with its words: read by panel, sheet and command line."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis, leading, warnings_of
from equilix.core.assembly.build import Operator
from equilix.present.supports.text import Verdict, warning_sentence, warning_words
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


def with_matter(verdict: Verdict, analysis: Analysis) -> Verdict:
    """Return a verdict with the worst of what is warned of, what makes the rig unusable first."""
    found = leading(analysis) or next(iter(warnings_of(analysis)), None)
    words = "" if found is None else warning_words(analysis, found)
    if found is None or not words or verdict.stops:
        return verdict
    leads = analysis.support.warning_type(found.kind).leads
    return replace(verdict, matter=f"{words[:1].upper()}{words[1:]}.", about=found.placed_ids, leads=leads)
