"""One screw under a load on a lever: whether the joint that it clamps may gap."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import link_of
from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.frames import STANDARD_GRAVITY, in_rows
from equilix.core.kept import RIGS
from equilix.core.kit.parts import Category, MountKind
from equilix.core.rounding import lacking

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
    joints = _clamped(assembly)
    away = joints.shares @ positions.cg - positions.origin[joints.holder] - joints.at
    moment = joints.shock * np.sqrt((away * away).sum(axis=1))
    found = [
        OneScrew(int(joints.part[k]), float(moment[k]), float(joints.holds[k]))
        for k in np.flatnonzero(moment > joints.holds).tolist()
    ]
    return tuple(sorted(found, key=lambda one: one.holds - one.moment))


class _Clamped(Struct, frozen=True, eq=False):
    """The j joints that one screw holds, wherever the slides stand: `part` (j,) sits on `holder` (j,).

    The screw is `at` (j, 3) (m) from the holder's origin, rig axes. CGs times `shares` (j, n) is the CG of what it
    carries, whose weight in a shock is `shock` (j,) (N); the joint stays shut up to `holds` (j,) (N m).
    """

    part: np.ndarray
    holder: np.ndarray
    at: np.ndarray
    shares: np.ndarray
    shock: np.ndarray
    holds: np.ndarray


@lru_cache(maxsize=RIGS)
def _clamped(assembly: Assembly) -> _Clamped:
    build = assembly.build
    index = {placed.id: i for i, placed in enumerate(build.parts)}
    parts, holders, places, shares, shocks, holds = [], [], [], [], [], []
    for i, placed in enumerate(build.parts):
        link = link_of(placed, build, assembly.kit)
        if link is None or placed.reversed or link.mount.kind not in _DIAMETER:
            continue
        parent = index[link.holder]
        carried = np.zeros(len(build.parts))
        carried[[index[one] for one in build.carried_by(placed.id)]] = 1.0
        mass = float(assembly.mass @ carried)
        if lacking(mass) or assembly.parts[i].category is Category.CABLE:
            continue
        sides = [assembly.edges[k, :2].min() for k in (i, parent) if assembly.sized[k]]
        edge = max(float(min(sides)) if sides else 0.0, _LEAST_EDGE)
        parts.append(i)
        holders.append(parent)
        places.append(assembly.rotation[parent] @ np.array(link.mount.at))
        shares.append(assembly.mass * carried / mass)
        shocks.append(_SHOCK * mass * STANDARD_GRAVITY)
        holds.append(_TIGHT / (_NUT * _DIAMETER[link.mount.kind]) * edge)
    return _Clamped(
        np.array(parts, dtype=int),
        np.array(holders, dtype=int),
        in_rows(places),
        np.array(shares).reshape(-1, len(build.parts)),
        np.array(shocks),
        np.array(holds),
    )
