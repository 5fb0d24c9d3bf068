"""One screw under a load on a lever: whether the joint that it clamps may gap."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import link_of
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


class OneScrew(Struct, frozen=True):
    """Part number `part` sits on one screw: with all that it carries it turns the joint by `moment` (N m) in a shock,
    and the screw holds it shut up to `holds` (N m)."""

    part: int
    moment: float
    holds: float


def one_screws(assembly: Assembly, positions: Positions) -> tuple[OneScrew, ...]:
    """Return the joints of one screw that may gap when the rig is turned the worst way, worst first.

    The joint gaps when the moment exceeds preload times the distance from the screw to the edge over which it tips.
    """
    found = []
    for i, parent, mount, carried, mass, holds in _clamped(assembly):
        at = positions.origin[parent] + assembly.rotation[parent] @ mount
        away = assembly.mass[carried] @ positions.cg[carried] / mass - at
        moment = _SHOCK * mass * STANDARD_GRAVITY * math.sqrt(float(away @ away))
        if moment > holds:
            found.append(OneScrew(i, moment, holds))
    return tuple(sorted(found, key=lambda one: one.holds - one.moment))


@lru_cache(maxsize=8)
def _clamped(assembly: Assembly) -> tuple[tuple[int, int, np.ndarray, np.ndarray, float, float], ...]:
    """Return what one screw holds, whatever the slides: part, its holder and the place (3,) (m) there, what it carries
    (k,), their mass (kg), and the moment (N m) up to which the joint stays shut."""
    build = assembly.build
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    found = []
    for i, placed in enumerate(build.parts):
        link = link_of(placed, build, assembly.kit)
        if link is None or placed.reversed or link.mount.kind not in _DIAMETER:
            continue
        parent = index[link.holder]
        carried = np.array([index[one] for one in build.carried_by(placed.id)])
        mass = float(assembly.mass[carried].sum())
        if mass <= 0.0 or assembly.parts[i].category is Category.CABLE:
            continue
        sides = [assembly.edges[k, :2].min() for k in (i, parent) if assembly.sized[k]]
        edge = max(float(min(sides)) if sides else 0.0, _LEAST_EDGE)
        holds = _TIGHT / (_NUT * _DIAMETER[link.mount.kind]) * edge
        found.append((i, parent, np.array(link.mount.at), carried, mass, holds))
    return tuple(found)
