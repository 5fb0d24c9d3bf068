"""What one analysis of a build says, and what in it warns: read by everything that stands on it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from equilix.core.assembly.build import Build
from equilix.core.assembly.clash import Clash
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.kit.uncertainty import COVERAGE, Spread
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.head import Head
from equilix.core.statics.hands import Held
from equilix.core.statics.pad import Rest
from equilix.core.statics.pose import Pose
from equilix.core.statics.stand import Stand


class FindingKind(StrEnum):
    """What a user should look at."""

    CLASH = "clash"
    OUT_OF_TRAVEL = "out of travel"
    PRESSES_ON_HEAD = "presses on head"
    SORE_PAD = "sore pad"
    SLIPS_OFF = "slips off"
    NO_MASS = "no mass"
    NO_SIZE = "no size"


@dataclass(frozen=True, eq=False, slots=True)
class Finding:
    """One thing to look at: the placed parts it concerns, an `amount` in SI and its standard uncertainty."""

    kind: FindingKind
    placed_ids: tuple[str, ...]
    amount: float = 0.0
    doubt: float = 0.0
    clash: Clash | None = None


class Certainty(StrEnum):
    """Whether a limit is kept, given the doubt."""

    CLEAR = "clear"
    OVER = "over"
    CANNOT_SAY = "cannot say"


def certainty(margin: float, doubt: float) -> Certainty:
    """Return whether a `margin` to a limit, with standard uncertainty `doubt`, is surely kept."""
    if abs(margin) <= COVERAGE * doubt:
        return Certainty.CANNOT_SAY
    return Certainty.CLEAR if margin > 0.0 else Certainty.OVER


@dataclass(frozen=True, eq=False, slots=True)
class OnShoulder:
    """How the rig lies on the shoulder: `pad` (3,) m, contact part, and all that the pad and hands carry.

    `moment` (n,) N m is each part's share of the pitch about the pad, forward positive. `holding` is what pad and hands
    give to the rig alone, without the arms' own weight, in the rig frame; None if nothing holds it. `lean` (m) is how
    far the head must give way to part number `lean_part`.
    """

    pad: np.ndarray
    pad_part: int
    rest: Rest
    moment: np.ndarray
    pitch_moment: float
    roll_moment: float
    moment_doubt: float
    pose: Pose
    holding: Held | None
    pressure: float
    head: Head
    lean: float
    lean_part: int
    hands_off: Certainty


@dataclass(frozen=True, eq=False, slots=True)
class Analysis:
    """All figures of one build; what can't be worked out is None.

    `stand` is how it lies on the support that the build is for, `shoulder` what more there is to say on a shoulder.
    """

    build: Build
    assembly: Assembly
    positions: Positions
    settings: np.ndarray
    body: MassProperties | None
    spread: Spread | None
    stand: Stand | None
    shoulder: OnShoulder | None
    findings: tuple[Finding, ...]


#: Findings that warn of something; the others only say that a figure is missing.
WARNINGS = (
    FindingKind.PRESSES_ON_HEAD,
    FindingKind.CLASH,
    FindingKind.OUT_OF_TRAVEL,
    FindingKind.SORE_PAD,
    FindingKind.SLIPS_OFF,
)


def warnings_of(analysis: Analysis) -> tuple[Finding, ...]:
    """Return what is to be looked at before the rig is used, worst first."""
    found = [finding for finding in analysis.findings if finding.kind in WARNINGS]
    return tuple(sorted(found, key=lambda finding: WARNINGS.index(finding.kind)))


def new_warnings(before: Analysis, after: Analysis) -> tuple[Finding, ...]:
    """Return the warnings of `after` that `before` did not have, worst first."""
    known = {(finding.kind, frozenset(finding.placed_ids)) for finding in warnings_of(before)}
    kinds = {kind for kind, _ in known}
    return tuple(
        finding
        for finding in warnings_of(after)
        # A clash is of two parts; any other warning is of the rig, whichever part gives the name.
        if (finding.kind, frozenset(finding.placed_ids)) not in known
        and (finding.kind in (FindingKind.CLASH, FindingKind.OUT_OF_TRAVEL) or finding.kind not in kinds)
    )
