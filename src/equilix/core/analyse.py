"""One call from a build to all its figures: the entry that every front end uses."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis, Finding, FindingKind
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.assembly.clash import find_clashes
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.assembly.tree_order import canonical_root
from equilix.core.cache import RigCache, cached_for_rig
from equilix.core.kit.uncertainty import spread
from equilix.core.massprops.bodies import MassProperties, spread_inertia
from equilix.core.registry import support_for
from equilix.core.rounding import SLIGHT, lacking
from equilix.core.support import Placement
from equilix.core.usable import common_findings


def analyse(
    build: Build, kit: Kit, operator: Operator, previous: Analysis | None = None, made: Assembly | None = None
) -> Analysis:
    """Return all figures of `build` worn by `operator`; what it is told to hang on makes no difference.

    `previous`, an earlier analysis, or an assembly that was `made` ready, saves work where only slides differ; neither
    ever changes the figures.

    Raises
    ------
    AssemblyError
        If the build doesn't hold together.
    """
    known = [one for one in (made, previous.assembly if previous is not None else None) if one is not None]
    assembly = next((one for one in known if one.matches(build, kit)), None)
    if assembly is None:
        # What differs in slides alone from one that is upright is upright too.
        build = canonical_root(build)
        assembly = next((one for one in known if one.matches(build, kit)), None) or prepare(build, kit)
    settings = assembly.settings(build)
    positions = assembly.at(settings)
    body = _whole(assembly, positions)
    uncertainty = None
    equilibrium = None
    result = None
    support = support_for(build.support)
    if body is not None:
        by_cg = assembly.cg_spread.diagonal(axis1=1, axis2=2)
        uncertainty = spread(body, positions.cg, assembly.uncertainties, by_cg)
        laid = support.equilibrium(Placement(assembly, positions, body, build, operator, support.settings(build)))
        if laid is not None:
            equilibrium, result = laid
    found = Analysis(build, support, assembly, positions, settings, body, uncertainty, equilibrium, result, ())
    case = support.case(found)
    special = support.findings(case, operator) if case is not None else []
    findings = (*common_findings(found), *_findings(found), *special, *_missing(assembly))
    return replace(found, findings=findings, cache=RigCache())


def _whole(assembly: Assembly, positions: Positions) -> MassProperties | None:
    total = assembly.whole
    if lacking(total):
        return None
    cg = assembly.mass @ positions.cg / total
    return MassProperties(total, cg, assembly.own_inertia + spread_inertia(assembly.mass, positions.cg - cg))


def _findings(analysis: Analysis) -> list[Finding]:
    """Return clashes and slides past their ends."""
    assembly, parts = analysis.assembly, analysis.build.parts
    found = [
        Finding(
            FindingKind.CLASH,
            (parts[clash.first].id, parts[clash.second].id),
            clash.depth,
            clash.uncertainty,
            clash,
            0.0,
        )
        for clash in find_clashes(assembly, analysis.positions)
    ]
    beyond = np.maximum(assembly.slide_ends[0] - analysis.settings, analysis.settings - assembly.slide_ends[1])
    for j in np.flatnonzero(beyond > SLIGHT).tolist():
        part = parts[assembly.slide_parts[j]].id
        found.append(Finding(FindingKind.OUT_OF_TRAVEL, (part,), float(beyond[j]), limit=0.0))
    return found


@cached_for_rig
def _missing(assembly: Assembly) -> tuple[Finding, ...]:
    ids = [placed.id for placed in assembly.build.parts]
    found = [Finding(FindingKind.NO_MASS, (ids[i],)) for i in np.flatnonzero(assembly.missing).tolist()]
    return *found, *(Finding(FindingKind.NO_SIZE, (ids[i],)) for i in np.flatnonzero(~assembly.sized).tolist())
