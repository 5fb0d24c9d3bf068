"""Parts whose weighing may change the advice."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.rounding import SLIGHT, lies_between, negligible
from equilix.core.slides import level_slope, slide_of_camera
from equilix.core.sources import common_practice


class Influence(Struct, frozen=True):
    """A part whose weighing may change the advice: by how far (m, k = 2) the camera's mark could move, and whether
    the slide might then fall short, or no longer do so."""

    part: int
    shift: float
    flips: bool


#: m to which a plate is set by eye.
SET_TO = common_practice(0.001)


def influences(analysis: Analysis, least: float = SET_TO) -> tuple[Influence, ...]:
    """Return the parts whose uncertainty moves the camera plate's mark by more than `least` (m), most first.

    The mark is ``q = -M/S`` with slope S; one mass off by dm moves it by ``-dm a/S``, a its arm once the
    rig is level: M and S both depend on it if the slide carries it.
    """
    assembly, equilibrium, body = analysis.assembly, analysis.equilibrium, analysis.body
    slide = slide_of_camera(analysis)
    if slide is None or equilibrium is None or body is None:
        return ()
    holds = assembly.carries(slide, equilibrium.holder)
    along = float(assembly.slide_axes[slide] @ equilibrium.forward)
    masses = equilibrium.of_form(assembly.mass)
    slope = level_slope(analysis, slide)
    if negligible(slope, SLIGHT):
        return ()
    mount, now = assembly.slide_mounts[slide], float(analysis.settings[slide])
    wanted = now - float(masses.sum()) * equilibrium.ahead / slope
    # Arms with the camera at its mark.
    along *= wanted - now
    carried = np.array([assembly.carries(slide, i) for i in range(len(assembly.parts))], dtype=float)
    arm = (analysis.positions.cg - equilibrium.point) @ equilibrium.forward + along * (carried - float(holds))
    arm = arm * np.sign(masses)
    u = np.sqrt(assembly.uncertainties.mass**2 + (assembly.uncertainties.gain**2).sum(axis=0))
    shift = COVERAGE * np.abs(u * arm / slope)
    found = []
    for i in np.argsort(-shift).tolist():
        if shift[i] < least:
            break
        inside, *ends = (
            lies_between(wanted + sign * float(shift[i]), mount.low, mount.high) for sign in (0.0, -1.0, 1.0)
        )
        found.append(Influence(i, float(shift[i]), any(end != inside for end in ends)))
    return tuple(found)
