"""How sure the figures of a carried rig are, and what its grips would cost side by side, staggered, or under the CG."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace
from equilix.core.carry.carried import Carry, carry_posed
from equilix.core.carry.loads import JointLoad
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.sources import common_practice
from equilix.core.statics.pose import Hindrance, held_at
from equilix.core.uncertainty.output_model import unsure


class Stagger(Struct, frozen=True, eq=False):
    """Two grips as they might be: `by` (m) the one ahead of the other, `moved` (m) both; and what that would cost.

    `see_saw` (N m) is signed as in `Carry.see_saw`.
    """

    by: float
    moved: float
    see_saw: float
    worst: JointLoad


#: m: a stagger that rods and rosettes commonly allow.
USUAL_STAGGER = common_practice(0.150)

#: m by which one hand is ahead of the other before it counts as staggered.
_STAGGERED = common_practice(0.005)


def staggers(analysis: Analysis, carried: Carry) -> tuple[Stagger, ...]:
    """Return the grips side by side, as they are, staggered, and moved until their line passes under the CG.

    Each is held about the same middle, without asking whether the rig's slides and rosettes allow it. The
    staggered ones have that hand ahead that lasts longer. None without two hands off the shoulder, or on the thighs.
    """
    places = carried.pose.places
    if analysis.body is None or carried.pad is not None or len(places) != 2 or carried.hold.brace is Brace.KNEES:
        return ()
    # Against chest or hip the rig stays, and the hands move along it; held free, the hands stay.
    braced = bool(carried.pose.contacts)
    first, second = (place.point for place in places)
    now = float(first[0] - second[0])
    middle = (first + second) / 2.0

    def at(by: float, moved: float) -> Stagger | None:
        shifts = (middle[0] + by / 2.0 + moved - first[0], middle[0] - by / 2.0 + moved - second[0])
        shift = carried.shift if braced else carried.shift - [moved, 0.0, 0.0]
        moved_places = tuple(
            replace(place, point=place.point + np.array([x, 0.0, 0.0])) for place, x in zip(places, shifts, strict=True)
        )
        posed = held_at(
            analysis.assembly, carried.operator, moved_places, shift, carried.pose.contacts, carried.hold, elbows=False
        )
        assert analysis.body is not None
        found = carry_posed(analysis, analysis.body, carried.operator, carried.support, carried.hold, posed)
        if isinstance(found, Hindrance):
            return None
        return Stagger(by, moved, found.see_saw or 0.0, found.worst)

    ways = [at(0.0, 0.0)]
    if abs(now) > _STAGGERED:
        ways.append(at(now, 0.0))
    apart = max((at(USUAL_STAGGER, 0.0), at(-USUAL_STAGGER, 0.0)), key=lambda s: s.worst.hold.low if s else 0.0)
    ways.append(apart)
    # Where the line passes beside the CG, at the CG's own way across.
    across = float(first[1] - second[1])
    slope = now / across if not negligible(across, SLIGHT) else 0.0
    on_line = middle[0] + slope * (analysis.body.cg[1] - middle[1])
    ways.append(at(now, float(analysis.body.cg[0] - on_line)))
    return tuple(way for way in ways if way is not None)


class CarryUncertainties(Struct, frozen=True, eq=False):
    """Standard uncertainties of a Carry's figures that come from the rig's mass and CG; those of the body come on top.

    `joints` of each joint's load, `hands` of the forces' sizes, in the order of the Carry's; `hang` (rad), `ahead` (m)
    and `holds` (N m) of the rig by its handle.
    """

    joints: tuple[float, ...]
    hands: tuple[float, ...]
    on_pad: float
    back: float
    compression: float
    see_saw: float
    right_leg: float
    hang: float
    ahead: float
    holds: float


def carry_uncertainties(analysis: Analysis, carried: Carry) -> CarryUncertainties | None:
    """Return how sure the figures of `carried` are.

    Mass and CG are moved together as the parts' uncertainties move them, as `output_model.uncertainties_of` does. None
    where a rig that differs so little can't be held.
    """
    rig = analysis.body
    if rig is None or analysis.spread is None:
        return None

    def sizes(mass: float, cg: np.ndarray) -> np.ndarray | None:
        moved = replace(rig, mass=mass, cg=cg)
        other = carry_posed(analysis, moved, carried.operator, carried.support, carried.hold, carried.pose)
        return None if isinstance(other, Hindrance) else _sizes(other)

    sure = unsure(analysis, sizes, _sizes(carried))
    if sure is None:
        return None
    found = [float(u) for u in sure]
    j, h = len(carried.joints), len(carried.held.hands)
    return CarryUncertainties(tuple(found[:j]), tuple(found[j : j + h]), *found[j + h :])


def _sizes(carried: Carry) -> np.ndarray:
    hung = carried.handle
    return np.array(
        [
            *(joint.load for joint in carried.joints),
            *(hand.size for hand in carried.held.hands),
            float(carried.held.pad_force[2]),
            math.hypot(float(carried.back_moment[0]), float(carried.back_moment[1])),
            carried.compression,
            carried.see_saw or 0.0,
            carried.right_leg,
            *((hung.pitch, hung.ahead, hung.holds) if hung is not None else (0.0, 0.0, 0.0)),
        ]
    )
