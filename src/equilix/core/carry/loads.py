"""Loads of joints, and a rig that hangs from a hand."""

from __future__ import annotations

from msgspec import Struct

from equilix.core.assembly.build import Side
from equilix.core.operator.endurance import HoldTime, hold_time
from equilix.core.operator.strength import BodyJoint


class JointLoad(Struct, frozen=True):
    """A joint's greatest component: `load` (N m; hand: N) of `capacity`; `hold` from its share. None side: midline.

    `least_share` is what it comes to at the easier end of how people do it.
    """

    joint: BodyJoint
    side: Side | None
    load: float
    capacity: float
    least_share: float
    hold: HoldTime

    @property
    def share(self) -> float:
        """Load over capacity."""
        return self.load / self.capacity


class Hung(Struct, frozen=True):
    """A rig in one hand by its top handle: `pitch` (rad) nose down without a wrist couple, `ahead` (m) of the CG.

    `holds` (N m) is the couple that holds it level. `slide` (m) is how far forward the handle's own slide must go until
    it hangs level, with what rides on it, None without one; `room` (m) how far that slide goes that way. `turns_over`
    if the CG is not below the grip. `worst` gives out first in the arm that hangs down and holds it level.
    """

    pitch: float
    ahead: float
    holds: float
    turns_over: bool
    worst: JointLoad
    slide: float | None = None
    room: float = 0.0


def gives_out(joint: JointLoad) -> tuple[float, float]:
    """Return what joints are ordered by, the one that gives out first before the others."""
    return joint.hold.low, -joint.share


def joint_load(joint: BodyJoint, side: Side | None, load: float, most: float) -> JointLoad:
    return JointLoad(joint, side, load, most, load / most, hold_time(joint, load / most))
