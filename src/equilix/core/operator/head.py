"""Where the wearer's head is beside a shoulder rig, and how far the rig pushes it aside."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from equilix.core.assembly.build import Operator
from equilix.core.hull import box_within, convex_hull
from equilix.core.operator.body import EYE, body_of
from equilix.core.sources import assumed, common_practice, from_memory, published

#: m: breadth and length of the head.
HEAD_BREADTH = from_memory(0.155, "NASA-STD-3000 anthropometry")
HEAD_LENGTH = from_memory(0.195, "NASA-STD-3000 anthropometry")
#: m from the midline to the middle of the pad.
PAD_FROM_MIDLINE = common_practice(0.10)
#: m: the ear, and with it the head's middle, ahead of the shoulder joint.
EAR_AHEAD = assumed(0.015)
#: m. People lean the head aside by about this without noticing.
EASY_LEAN = common_practice(0.040)
#: Height over stature.
CHIN = published(0.870, "Drillis and Contini (1966), in Winter, Biomechanics (2009), fig. 4.1")


class Head(Struct, frozen=True, eq=False):
    """The upright head: `centre` (3,) at eye height, half axes along x and y, from `low` to `high` along z (m)."""

    centre: np.ndarray
    half_x: float
    half_y: float
    low: float
    high: float


def head_beside(pad: np.ndarray, operator: Operator) -> Head:
    """Return the head (m, rig frame) of `operator` with the rig's `pad` (3,) on the shoulder.

    Measured heights of shoulder and eye count. The ear stands above the shoulder joint; the pad rests on the right
    shoulder (head to its left) or on the left one.
    """
    inward = -operator.shoulder.outward
    h = operator.stature
    body = body_of(operator)
    eye = float(body.eye[2] - body.shoulder(operator.shoulder)[2])
    centre = pad + np.array([EAR_AHEAD, inward * PAD_FROM_MIDLINE, eye])
    return Head(
        centre,
        HEAD_LENGTH / 2.0,
        HEAD_BREADTH / 2.0,
        float(centre[2]) - (EYE - CHIN) * h,
        float(centre[2]) + (1.0 - EYE) * h,
    )


def lean_needed(head: Head, inward: float, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """Return how far (n,) (m) the head must move aside to clear each box from `low` to `high` (n, 3) (m).

    `inward` is +1 if the head is to the left of the pad, -1 if to the right. Zero where a box is
    above, below, before or behind the head.
    """
    x = head.centre[0]
    found = np.zeros(len(low))
    # Few boxes are beside a head at all.
    within = (low[:, 0] < x + head.half_x) & (high[:, 0] > x - head.half_x)
    beside = np.flatnonzero(within & (low[:, 2] < head.high) & (high[:, 2] > head.low))
    if beside.size:
        near_x = np.clip(x, low[beside, 0], high[beside, 0]) - x
        half = head.half_y * np.sqrt(np.clip(1.0 - (near_x / head.half_x) ** 2, 0.0, None))
        inner = np.maximum(inward * low[beside, 1], inward * high[beside, 1])
        found[beside] = np.maximum(inner - (inward * head.centre[1] - half), 0.0)
    return found


#: Places along the head, fore and aft, at which a turned part is asked how near it comes.
_ACROSS = assumed(129)


def lean_from(head: Head, inward: float, corners: np.ndarray) -> float:
    """Return how far (m) the head must move aside to clear a turned box, `corners` (8, 3) (m); see `lean_needed`.

    What of the box is as high as the head, and beside it fore and aft, bounds it from above as a convex outline.
    """
    x = float(head.centre[0])
    low = np.array([x - head.half_x, -np.inf, head.low])
    beside = box_within(corners, low, np.array([x + head.half_x, np.inf, head.high]))
    if len(beside) < 3:
        return 0.0
    hull = convex_hull(beside[:, :2])
    if len(hull) < 2:
        return 0.0
    at = np.linspace(float(hull[:, 0].min()), float(hull[:, 0].max()), _ACROSS)
    ends = np.stack([hull, np.roll(hull, -1, axis=0)])
    ends = np.where((ends[0, :, 0] <= ends[1, :, 0])[None, :, None], ends, ends[::-1])
    along = ends[1, :, 0] > ends[0, :, 0]
    inner = np.full(len(at), -np.inf)
    for (ax, ay), (bx, by) in zip(ends[0, along], ends[1, along], strict=True):
        on = (at >= ax) & (at <= bx)
        inner[on] = np.maximum(inner[on], inward * (ay + (by - ay) * (at[on] - ax) / (bx - ax)))
    half = head.half_y * np.sqrt(np.clip(1.0 - ((at - x) / head.half_x) ** 2, 0.0, None))
    return max(float((inner - (inward * float(head.centre[1]) - half)).max()), 0.0)
