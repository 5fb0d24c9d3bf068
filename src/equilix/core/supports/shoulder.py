"""A rig on the shoulder: what the pad and the hands must do to hold it level.

Pad and two hands together are statically indeterminate, so the hand forces given are the least
effort that works. The rig is rigid and level.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np

from equilix.core.assembly.build import Shoulder
from equilix.core.frames import STANDARD_GRAVITY, cross
from equilix.core.massprops.bodies import MassProperties
from equilix.core.solver.lp import LpSolution, LpStatus, solve_lp, solve_surely

#: Pa. Sustained pressure on the shoulder above about this hurts; Holewijn, European Journal of
#: Applied Physiology 61 (1990), from memory.
SORE_PRESSURE = 14e3

_OCTAGON = [(math.cos(math.pi / 4 * i), math.sin(math.pi / 4 * i)) for i in range(8)]


@dataclass(frozen=True, slots=True)
class HandLimits:
    """What one hand readily gives: force (3,) (N) and couple (3,) (N m) along x, y, z; 0 rules one out.

    Only their ratios steer the share between hands, directions and couples. Hands lift more
    readily than they push level or twist: common practice.
    """

    force: tuple[float, float, float] = (20.0, 20.0, 100.0)
    couple: tuple[float, float, float] = (1.0, 1.0, 1.0)


@dataclass(frozen=True, eq=False, slots=True)
class HandLoad:
    """What one hand gives to the rig at `point` (3,) (m): `force` (3,) (N) and `couple` (3,) (N m), rig axes."""

    point: np.ndarray
    force: np.ndarray
    couple: np.ndarray

    @property
    def size(self) -> float:
        """Size of the force (N)."""
        return float(np.linalg.norm(self.force))


@dataclass(frozen=True, eq=False, slots=True)
class Holding:
    """Least-effort equilibrium: hands, and the pad's `force` (3,) (N) and `moment` (3,) (N m) about its middle."""

    hands: tuple[HandLoad, ...]
    pad_force: np.ndarray
    pad_moment: np.ndarray
    basis: tuple[int, ...]

    @property
    def friction(self) -> float:
        """Level force (N) that rests on friction at the pad."""
        return float(np.hypot(self.pad_force[0], self.pad_force[1]))


class Tip(StrEnum):
    """Which way a rig goes if both hands let go."""

    LEVEL = "level"
    FORWARD = "forward"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"


@dataclass(frozen=True, slots=True)
class Rest:
    """How the CG lies over the pad.

    `margin_x`, `margin_y`: distance (m) from the CG's plumb line to the nearer edge of the contact
    patch, negative outside it. `tip_angle`: tilt (rad) at which it goes over fore or aft, None if it
    already does or if the CG is not above the pad. `sideways`: friction needed on the sloping shoulder.
    """

    ahead: float
    left: float
    above: float
    margin_x: float
    margin_y: float
    tip: Tip
    tip_angle: float | None
    friction_needed: float


def rest(body: MassProperties, pad: np.ndarray, shoulder: Shoulder) -> Rest:
    """Return how `body` lies over the middle of the contact patch at `pad` (3,) (m)."""
    ahead, left, above = (float(v) for v in body.cg - pad)
    margin_x = shoulder.span_x / 2.0 - abs(ahead)
    margin_y = shoulder.span_y / 2.0 - abs(left)
    tip = Tip.LEVEL
    if min(margin_x, margin_y) < 0.0:
        if margin_x <= margin_y:
            tip = Tip.FORWARD if ahead > 0.0 else Tip.BACK
        else:
            tip = Tip.LEFT if left > 0.0 else Tip.RIGHT
    tip_angle = math.atan2(margin_x, above) if above > 0.0 and margin_x >= 0.0 else None
    return Rest(ahead, left, above, margin_x, margin_y, tip, tip_angle, math.tan(shoulder.slope))


def hold_level(
    body: MassProperties,
    pad: np.ndarray,
    shoulder: Shoulder,
    grips: np.ndarray,
    limits: HandLimits = HandLimits(),
    basis: tuple[int, ...] | None = None,
) -> Holding | None:
    """Return the least-effort equilibrium of a level rig on `pad` (3,) with hands at `grips` (h, 3) (m).

    None if no hands at those points can hold it.

    Notes
    -----
    Linear programme: at each corner of the patch a force inside an octagonal friction cone (eight
    rays), at each grip a force and a couple; six equations of equilibrium; minimise t with every hand
    component at most t times its limit. A small weight on the sum picks one of several such optima
    and puts it as an exact corner, so the equations hold to rounding. Friction cones as in Murray,
    Li and Sastry, A Mathematical Introduction to Robotic Manipulation (1994), section 5.2.
    """
    weight = body.mass * STANDARD_GRAVITY
    programme = _Programme(pad, shoulder, grips, limits)
    solution = programme.solve(body.cg - pad, basis)
    if solution.status is not LpStatus.OPTIMAL:
        return None
    values, pad_wrench = programme.read(solution.x * weight)
    hands = tuple(HandLoad(point, v[:3], v[3:]) for point, v in zip(grips, values, strict=True))
    return Holding(hands, pad_wrench[:3], pad_wrench[3:], solution.basis)


class _Programme:
    """The linear programme for one pad and its grips; only the right-hand side depends on the CG.

    Columns: pad rays, hands plus, hands minus, t, slacks. Forces in units of the weight.
    """

    def __init__(self, pad: np.ndarray, shoulder: Shoulder, grips: np.ndarray, limits: HandLimits) -> None:
        self.rays = pad_rays(shoulder)
        caps = np.array([*limits.force, *limits.couple])
        self.used = np.flatnonzero(caps > 0.0)
        self.hands = len(grips)
        component = hand_map(grips, pad).reshape(6, self.hands, 6)[:, :, self.used].reshape(6, -1)
        self.components = c = component.shape[1]
        per_cap = np.tile(caps[self.used], self.hands) / 100.0
        k = self.rays.shape[1]
        matrix = np.zeros((6 + c, k + 3 * c + 1))
        matrix[:6, :k] = self.rays
        matrix[:6, k : k + c] = component
        matrix[:6, k + c : k + 2 * c] = -component
        matrix[3:6] *= 10.0  # levers are about 0.1 m: bring moments to the size of forces
        rows = np.arange(c)
        matrix[6 + rows, k + rows] = 1.0
        matrix[6 + rows, k + c + rows] = 1.0
        matrix[6:, k + 2 * c] = -per_cap
        matrix[6 + rows, k + 2 * c + 1 + rows] = 1.0
        self.matrix = matrix
        self.cost = np.zeros(matrix.shape[1])
        self.cost[k : k + 2 * c] = 1e-4 / np.tile(per_cap, 2)
        self.cost[k + 2 * c] = 1.0

    def rhs(self, offset: np.ndarray) -> np.ndarray:
        """Return the right-hand side for a CG `offset` (3,) (m) from the pad."""
        rhs = np.zeros(len(self.matrix))
        rhs[2] = 1.0
        rhs[3] = 10.0 * offset[1]
        rhs[4] = -10.0 * offset[0]
        return rhs

    def solve(self, offset: np.ndarray, basis: tuple[int, ...] | None) -> LpSolution:
        solve = solve_surely if self.hands else solve_lp
        return solve(self.cost, self.matrix, self.rhs(offset), basis)

    def read(self, x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Return hand wrenches (..., h, 6) and the pad's (..., 6) from solutions `x` (..., n)."""
        k, c = self.rays.shape[1], self.components
        values = np.zeros((*x.shape[:-1], self.hands, 6))
        if self.hands:
            component = x[..., k : k + c] - x[..., k + c : k + 2 * c]
            values[..., self.used] = component.reshape(*x.shape[:-1], self.hands, len(self.used))
        return values, x[..., :k] @ self.rays.T


class HandSweep:
    """Larger hand force and pad force, in units of the weight, for many places of the CG at once.

    One optimal basis serves every right-hand side for which it stays feasible, since the reduced costs
    don't depend on it: parametric programming, Chvatal, Linear Programming (1983), ch. 10. So each basis
    is found once, and all draws within its region are one small matrix product.
    """

    def __init__(self, pad: np.ndarray, shoulder: Shoulder, grips: np.ndarray) -> None:
        self._programme = _Programme(pad, shoulder, grips, HandLimits())
        self._bases: dict[tuple[int, ...], np.ndarray] = {}

    def at(self, offset: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Return the larger hand's force (d,) and the pad's upward force (d,) for CG `offset` (d, 3) (m) from the pad.

        Not a number where no hands at these grips can hold it.
        """
        hand = np.full(len(offset), np.nan)
        pad = np.full(len(offset), np.nan)
        left = np.arange(len(offset))
        for basis in [*self._bases]:
            left = self._fill(basis, offset, left, hand, pad)
        while left.size:
            first = int(left[left.size // 2])
            solution = self._programme.solve(offset[first], None)
            served = left.size
            if solution.status is LpStatus.OPTIMAL and solution.basis:
                if solution.basis not in self._bases:
                    self._bases[solution.basis] = self._affine(solution.basis)
                left = self._fill(solution.basis, offset, left, hand, pad)
            if left.size == served or first in left:
                # Infeasible, or on the very edge of its region: this one alone.
                if solution.status is LpStatus.OPTIMAL:
                    values, wrench = self._programme.read(solution.x)
                    hand[first] = max((float(np.linalg.norm(v[:3])) for v in values), default=0.0)
                    pad[first] = wrench[2]
                left = left[left != first]
        return hand, pad

    def _affine(self, basis: tuple[int, ...]) -> np.ndarray:
        """Return the basic values (m, 3) for unit weight and per m of offset forward and left."""
        p = self._programme
        origin = p.rhs(np.zeros(3))
        parts = np.column_stack([origin, p.rhs(np.array([1.0, 0, 0])) - origin, p.rhs(np.array([0, 1.0, 0])) - origin])
        values: np.ndarray = np.linalg.lstsq(p.matrix[:, list(basis)], parts, rcond=1e-13)[0]
        return values

    def _fill(
        self, basis: tuple[int, ...], offset: np.ndarray, left: np.ndarray, hand: np.ndarray, pad: np.ndarray
    ) -> np.ndarray:
        """Serve those of `left` for which `basis` is feasible; return the others."""
        if not left.size:
            return left
        affine = self._bases[basis]
        level = np.column_stack([np.ones(left.size), offset[left, :2]])
        basic = level @ affine.T
        feasible = (basic >= -1e-11).all(axis=1)
        served = left[feasible]
        if served.size:
            p = self._programme
            # What is read depends on the basis alone: fold it into the three coefficients.
            x = np.zeros((3, p.matrix.shape[1]))
            x[:, list(basis)] = affine.T
            values, wrench = p.read(x)
            forces = np.einsum("dk,khf->dhf", level[feasible], values[:, :, :3])
            hand[served] = np.sqrt((forces**2).sum(axis=2)).max(axis=1, initial=0.0)
            pad[served] = level[feasible] @ wrench[:, 2]
        return left[~feasible]


@lru_cache(maxsize=16)
def pad_rays(shoulder: Shoulder) -> np.ndarray:
    """Return the wrenches (6, 32) about the patch's middle of unit upright force along each cone ray."""
    # Next to no friction counts as none: rays a hair apart only make the programme ill-conditioned.
    friction = shoulder.friction if shoulder.friction >= 1e-3 else 0.0
    x, y, _ = np.eye(3)
    wrenches = patch_rays(np.zeros(3), x, y, (shoulder.span_x, shoulder.span_y), friction)
    wrenches.flags.writeable = False
    return wrenches


def patch_rays(
    middle: np.ndarray, side: np.ndarray, up: np.ndarray, span: tuple[float, float], friction: float
) -> np.ndarray:
    """Return the wrenches (6, 32) about the origin of unit pushes at the corners of a patch, along each cone ray.

    The patch of `span` (m) lies about `middle` (3,) (m) along the unit vectors `side` and `up` (3,); it pushes along
    ``side x up``.
    """
    rays = cone_rays(side, up, friction)
    found = []
    for a in (-0.5, 0.5):
        for b in (-0.5, 0.5):
            corner = middle + a * span[0] * side + b * span[1] * up
            found += [np.concatenate([ray, cross(corner, ray)]) for ray in rays]
    return np.array(found).T


def cone_rays(side: np.ndarray, up: np.ndarray, friction: float) -> tuple[np.ndarray, ...]:
    """Return eight rays (3,), each of unit push along ``side x up``, on the octagon inside the friction cone."""
    normal = cross(side, up)
    return tuple(normal + friction * (c * side + s * up) for c, s in _OCTAGON)


def hand_map(points: Sequence[np.ndarray] | np.ndarray, origin: np.ndarray) -> np.ndarray:
    """Return the matrix (6, 6 h) from hands' forces and couples at `points` (h, 3) (m) to the wrench about `origin`."""
    found = np.zeros((6, len(points), 6))
    for h, point in enumerate(points):
        found[:3, h, :3] = found[3:, h, 3:] = np.eye(3)
        found[3:, h, :3] = _cross_matrix(point - origin)
    return found.reshape(6, -1)


def _cross_matrix(v: np.ndarray) -> np.ndarray:
    x, y, z = (float(c) for c in v)
    return np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])


def pad_pressure(pad_force: np.ndarray, shoulder: Shoulder) -> float:
    """Return the mean pressure (Pa) under the pad."""
    return float(pad_force[2]) / (shoulder.span_x * shoulder.span_y)
