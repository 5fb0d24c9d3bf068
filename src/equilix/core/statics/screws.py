"""One screw under a load on a lever: whether the joint that it clamps may gap."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from equilix.core.assembly.build import Build, link_of
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, MountKind

#: m: thread diameters; ASME B1.1.
_DIAMETER = {MountKind.QUARTER_20: 0.00635, MountKind.THREE_EIGHTHS_16: 0.009525}
#: N m by which a hand tightens such a screw, and what share of it clamps: preload ``T/(0.2 d)``, Shigley, Mechanical
#: Engineering Design, ch. 8, from memory. Factor for shocks: common practice.
_TIGHT, _NUT, _SHOCK = 1.0, 0.2, 3.0
#: m: the least distance from a screw to the edge over which its joint tips; assumed.
_LEAST_EDGE = 0.010


@dataclass(frozen=True, slots=True)
class OneScrew:
    """Part number `part` sits on one screw: with all that it carries it turns the joint by `moment` (N m) in a shock,
    and the screw holds it shut up to `holds` (N m)."""

    part: int
    moment: float
    holds: float


def one_screws(assembly: Assembly, positions: Positions, build: Build) -> tuple[OneScrew, ...]:
    """Return the joints of one screw that may gap when the rig is turned the worst way, worst first.

    The joint gaps when the moment exceeds preload times the distance from the screw to the edge over which it tips.
    """
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    found = []
    for i, placed in enumerate(build.parts):
        link = link_of(placed, build, assembly.kit)
        if link is None or placed.reversed or link.mount.kind not in _DIAMETER:
            continue
        parent = index[link.holder]
        at = positions.origin[parent] + assembly.rotation[parent] @ np.array(link.mount.at)
        carried = [index[one] for one in build.carried_by(placed.id)]
        mass = float(assembly.mass[carried].sum())
        if mass <= 0.0 or assembly.parts[i].category is Category.CABLE:
            continue
        lever = float(np.linalg.norm(assembly.mass[carried] @ positions.cg[carried] / mass - at))
        sides = [assembly.edges[k, :2].min() for k in (i, parent) if assembly.sized[k]]
        edge = max(float(min(sides)) if sides else 0.0, _LEAST_EDGE)
        moment = _SHOCK * mass * STANDARD_GRAVITY * lever
        holds = _TIGHT / (_NUT * _DIAMETER[link.mount.kind]) * edge
        if moment > holds:
            found.append(OneScrew(i, moment, holds))
    return tuple(sorted(found, key=lambda one: one.holds - one.moment))
