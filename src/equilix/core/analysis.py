"""What one analysis of a build says, and what in it warns: read by everything that stands on it."""

from __future__ import annotations

from enum import StrEnum
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec import Struct, field

from equilix.core.assembly.build import Build
from equilix.core.assembly.clash import Clash
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import RigCache
from equilix.core.kit.uncertainty import Certainty, Spread, certainty
from equilix.core.massprops.bodies import MassProperties
from equilix.core.rounding import SLIGHT
from equilix.core.sources import common_practice
from equilix.core.statics.equilibrium import Equilibrium, SupportResult

if TYPE_CHECKING:
    from equilix.core.support import Support


class FindingKind(StrEnum):
    """What a user should look at on any support; a support may have kinds of its own."""

    NOT_HELD = "cannot be held"
    SCREEN = "screen out of sight"
    CLASH = "clash"
    OUT_OF_TRAVEL = "out of travel"
    NO_LIMIT = "limit not entered"
    HEAVY_LENS = "heavy lens on its mount"
    NO_MASS = "no mass"
    NO_SIZE = "no size"


class Finding(Struct, frozen=True, eq=False):
    """One thing to look at: the placed parts it concerns, an `amount` in SI and its standard uncertainty.

    `limit` is what the amount is held against, None where there is nothing to hold.
    """

    kind: str
    placed_ids: tuple[str, ...]
    amount: float = 0.0
    uncertainty: float = 0.0
    clash: Clash | None = None
    limit: float | None = None


class Analysis(Struct, frozen=True, eq=False):
    """All figures of one build; what can't be worked out is None.

    `equilibrium` is how it lies on the `support` that the build is for, `result` what that support has to say beyond
    it: only its own files look inside, see `Support.case`.
    """

    build: Build
    support: Support[Any, Any]
    assembly: Assembly
    positions: Positions
    settings: np.ndarray
    body: MassProperties | None
    spread: Spread | None
    equilibrium: Equilibrium | None
    result: SupportResult | None
    findings: tuple[Finding, ...]
    #: What was worked out of it.
    cache: RigCache = field(default_factory=RigCache)


def warnings_of(analysis: Analysis) -> tuple[Finding, ...]:
    """Return what is to be looked at before the rig is used, worst first; the others only say what is missing."""
    worst_first = analysis.support.worst_first
    found = [finding for finding in analysis.findings if finding.kind in worst_first]
    return tuple(sorted(found, key=lambda finding: worst_first[finding.kind]))


def leading(analysis: Analysis) -> Finding | None:
    """Return what makes the rig unusable as it is, the worst of it: it comes before any word of balance."""
    support = analysis.support
    return next((finding for finding in warnings_of(analysis) if support.warning_type(finding.kind).leads), None)


def stays(analysis: Analysis) -> Certainty | None:
    """Return whether the rig surely stays where it is if it is let go, None where it can't lie by itself."""
    equilibrium, spread = analysis.equilibrium, analysis.spread
    if equilibrium is None or spread is None or equilibrium.margins is None:
        return None
    along, across = equilibrium.margins
    across_uncertainty = float(np.sqrt(equilibrium.across**2 @ spread.cg**2))
    return certainty(min(along, across), equilibrium.ahead_uncertainty if along <= across else across_uncertainty)


def _about(finding: Finding) -> tuple[str, frozenset[str]]:
    """Return what a warning is of: two parts or a slide, any other the rig, whichever part gives the name."""
    own = finding.kind in (FindingKind.CLASH, FindingKind.OUT_OF_TRAVEL)
    return finding.kind, frozenset(finding.placed_ids) if own else frozenset()


def serious_warnings(before: Analysis, after: Analysis) -> tuple[Finding, ...]:
    """Return the worse warnings of `after` for which nobody would take it."""
    return tuple(one for one in worse_warnings(before, after) if after.support.warning_type(one.kind).serious)


def new_warnings(before: Analysis, after: Analysis) -> tuple[Finding, ...]:
    """Return the warnings of `after` that `before` did not have, worst first."""
    known = {_about(finding) for finding in warnings_of(before)}
    return tuple(finding for finding in warnings_of(after) if _about(finding) not in known)


#: Shares of an amount that is warned of, or of its limit, by which it must rise to be noticeably worse, and where
#: the limit is a maker's.
_NOTICED, _BY_A_MAKER = common_practice((0.1, 0.01))


def worse_warnings(before: Analysis, after: Analysis) -> tuple[Finding, ...]:
    """Return the warnings of `after` that `before` did not have or that go noticeably farther there, worst first."""
    support = after.support

    def beyond(finding: Finding) -> float:
        """Return how far its amount lies past its limit."""
        if not finding.limit:
            return abs(finding.amount)
        less = support.warning_type(finding.kind).least
        return finding.limit - finding.amount if less else finding.amount - finding.limit

    # Of several of a kind the last one stays, the one that goes farthest.
    was = {_about(finding): finding for finding in sorted(warnings_of(before), key=beyond)}

    def counts(finding: Finding) -> bool:
        known = was.get(_about(finding))
        if known is None or finding.limit is None:
            return known is None
        share = _BY_A_MAKER if support.warning_type(finding.kind).makers else _NOTICED
        return beyond(finding) - beyond(known) > max(share * max(abs(known.amount), abs(finding.limit)), SLIGHT)

    return tuple(finding for finding in warnings_of(after) if counts(finding))
