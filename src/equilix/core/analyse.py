"""One call from a build to all its figures: the entry that every front end uses."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.assembly.clash import Clash, find_clashes
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.assembly.rooting import upright
from equilix.core.massprops.bodies import MassProperties, spread_inertia
from equilix.core.operator_head import EASY_LEAN, Head
from equilix.core.pose import Pose
from equilix.core.supports import support_called
from equilix.core.supports.hands import Held
from equilix.core.supports.shoulder import SORE_PRESSURE, Rest
from equilix.core.supports.stand import Stand
from equilix.core.uncertainty import COVERAGE, Spread, spread


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


def analyse(build: Build, kit: Kit, operator: Operator, previous: Analysis | None = None) -> Analysis:
    """Return all figures of `build` worn by `operator`; what it is told to hang on makes no difference.

    `previous`, an earlier analysis, saves work when only slides have moved; it never changes the figures.

    Raises
    ------
    AssemblyError
        If the build doesn't hold together.
    """
    build = upright(build)
    if previous is not None and previous.assembly.matches(build, kit):
        assembly = previous.assembly
    else:
        assembly = prepare(build, kit)
    settings = assembly.settings(build)
    positions = assembly.at(settings)
    body = _whole(assembly, positions)
    doubt = None
    stand = None
    shoulder = None
    if body is not None:
        doubt = spread(body, assembly.mass, positions.cg, assembly.rotation, assembly.doubts)
        on_it = support_called(build.support.value)
        stand = on_it.stand(assembly, positions, body, build, operator)
        if stand is not None:
            shoulder = on_it.more(assembly, positions, body, doubt, build, operator, stand)
    findings = _findings(assembly, positions, settings, shoulder, build, operator)
    return Analysis(build, assembly, positions, settings, body, doubt, stand, shoulder, findings)


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


def _whole(assembly: Assembly, positions: Positions) -> MassProperties | None:
    total = float(assembly.mass.sum())
    if total <= 0.0:
        return None
    cg = assembly.mass @ positions.cg / total
    return MassProperties(total, cg, assembly.own_inertia + spread_inertia(assembly.mass, positions.cg - cg))


def _findings(
    assembly: Assembly,
    positions: Positions,
    settings: np.ndarray,
    shoulder: OnShoulder | None,
    build: Build,
    operator: Operator,
) -> tuple[Finding, ...]:
    ids = [placed.id for placed in build.parts]
    found = [
        Finding(FindingKind.CLASH, (ids[clash.first], ids[clash.second]), clash.depth, clash.doubt, clash)
        for clash in find_clashes(assembly, positions)
    ]
    for part, mount, setting in zip(assembly.slide_parts, assembly.slide_mounts, settings, strict=True):
        beyond = max(mount.low - setting, setting - mount.high)
        if beyond > 1e-6:
            found.append(Finding(FindingKind.OUT_OF_TRAVEL, (ids[part],), float(beyond)))
    if shoulder is not None:
        found.extend(_wearing_findings(assembly, positions, shoulder, build, operator, ids))
    found.extend(Finding(FindingKind.NO_MASS, (ids[i],)) for i in np.flatnonzero(assembly.missing).tolist())
    found.extend(Finding(FindingKind.NO_SIZE, (ids[i],)) for i in np.flatnonzero(~assembly.sized).tolist())
    return tuple(found)


def _wearing_findings(
    assembly: Assembly,
    positions: Positions,
    shoulder: OnShoulder,
    build: Build,
    operator: Operator,
    ids: list[str],
) -> list[Finding]:
    found = []
    if shoulder.lean > EASY_LEAN:
        found.append(Finding(FindingKind.PRESSES_ON_HEAD, (ids[shoulder.lean_part],), shoulder.lean))
    if shoulder.pressure > SORE_PRESSURE:
        found.append(Finding(FindingKind.SORE_PAD, (ids[shoulder.pad_part],), shoulder.pressure))
    if build.shoulder.friction < shoulder.rest.friction_needed:
        found.append(Finding(FindingKind.SLIPS_OFF, (ids[shoulder.pad_part],), shoulder.rest.friction_needed))
    return found
