"""One call from a build to all its figures: the entry that every front end uses."""

from __future__ import annotations

import numpy as np

from equilix.core.analysis import Analysis, Finding, FindingKind, OnShoulder
from equilix.core.assembly.build import Build, Kit, Operator
from equilix.core.assembly.clash import find_clashes
from equilix.core.assembly.resolve import Assembly, Positions, prepare
from equilix.core.assembly.rooting import upright
from equilix.core.kit.uncertainty import spread
from equilix.core.massprops.bodies import MassProperties, spread_inertia
from equilix.core.operator.head import EASY_LEAN
from equilix.core.registry import support_called
from equilix.core.statics.pad import SORE_PRESSURE


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
