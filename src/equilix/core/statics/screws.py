"""One screw under a load on a lever: whether the joint that it clamps may gap."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.assembly.resolve import Assembly, Positions
from equilix.core.cache import cached_for_rig
from equilix.core.frames import STANDARD_GRAVITY, in_rows
from equilix.core.kit.parts import Category, MountKind
from equilix.core.rounding import lacking
from equilix.core.sources import assumed, common_practice, from_memory, published
from equilix.core.statics.joints import ties

#: m: thread diameters.
_DIAMETER = published({MountKind.QUARTER_20: 0.00635, MountKind.THREE_EIGHTHS_16: 0.009525}, "ASME B1.1")
#: N m by which a hand tightens such a screw, and a factor for shocks.
_TIGHT, _SHOCK = common_practice((1.0, 3.0))
#: What share of it clamps: preload ``T/(0.2 d)``.
_NUT = from_memory(0.2, "Shigley, Mechanical Engineering Design, ch. 8")
#: m: the least distance from a screw to the edge over which its joint tips.
_LEAST_EDGE = assumed(0.010)


class OneScrew(Struct, frozen=True):
    """Part number `part` sits on one screw: with all that it carries it turns the joint by `moment` (N m) in a shock,
    and the screw holds it shut up to `holds` (N m)."""

    part: int
    moment: float
    holds: float


def one_screws(assembly: Assembly, positions: Positions, holder: int) -> tuple[OneScrew, ...]:
    """Return the joints of one screw that may gap when the rig is turned the worst way, worst first.

    Each carries what lies beyond it, away from part number `holder`, by which the rig is held: however its tree is
    told. The joint gaps when the moment exceeds preload times the distance from the screw to the edge over which it
    tips.
    """
    joints = _clamped(assembly, holder)
    away = joints.shares @ positions.cg - positions.origin[joints.sitter] - joints.foot
    moment = joints.shock * np.sqrt((away * away).sum(axis=1))
    found = [
        OneScrew(int(joints.part[k]), float(moment[k]), float(joints.holds[k]))
        for k in np.flatnonzero(moment > joints.holds).tolist()
    ]
    return tuple(sorted(found, key=lambda one: one.holds - one.moment))


class _Clamped(Struct, frozen=True, eq=False):
    """The j joints that one screw holds, wherever the slides stand: `part` (j,) is the first that it carries.

    The screw is at the foot of `sitter` (j,), `foot` (j, 3) (m) from its origin, rig axes. CGs times `shares` (j, n) is
    the CG of what it carries, whose weight in a shock is `shock` (j,) (N); the joint stays shut to `holds` (j,) (N m).
    """

    part: np.ndarray
    sitter: np.ndarray
    foot: np.ndarray
    shares: np.ndarray
    shock: np.ndarray
    holds: np.ndarray


@cached_for_rig
def _clamped(assembly: Assembly, held: int) -> _Clamped:
    parts, sitters, feet, shares, shocks, holds = [], [], [], [], [], []
    for tie in ties(assembly):
        if tie.mount.kind not in _DIAMETER:
            continue
        carried = tie.beyond(held)
        mass = float(assembly.mass @ carried)
        part = tie.holder if carried[tie.holder] else tie.sitter
        if lacking(mass) or assembly.parts[part].category is Category.CABLE:
            continue
        sides = [assembly.edges[k, :2].min() for k in (tie.holder, tie.sitter) if assembly.sized[k]]
        edge = max(float(min(sides)) if sides else 0.0, _LEAST_EDGE)
        parts.append(part)
        sitters.append(tie.sitter)
        feet.append(tie.foot)
        shares.append(assembly.mass * carried / mass)
        shocks.append(_SHOCK * mass * STANDARD_GRAVITY)
        holds.append(_TIGHT / (_NUT * _DIAMETER[tie.mount.kind]) * edge)
    return _Clamped(
        np.array(parts, dtype=int),
        np.array(sitters, dtype=int),
        in_rows(feet),
        np.array(shares).reshape(-1, len(assembly.parts)),
        np.array(shocks),
        np.array(holds),
    )
