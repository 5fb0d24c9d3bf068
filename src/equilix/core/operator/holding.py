"""How two hands, and a pad if there is one, hold a rig level at the least strain on the arms.

Body frame (x forward, y left, z up). Muscle moments at wrist, elbow and shoulder are linear in the hand's force and
couple (J^T F plus the arm's own weight: Craig, Introduction to Robotics, ch. 5), so the hand forces that keep the
worst share of capacity smallest are a linear programme.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from equilix.core.assembly.build import Operator, Shoulder
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.operator.body import Arm, Body, arm_weights
from equilix.core.operator.strength import Joint, capacity
from equilix.core.solver.lp import LpStatus, solve_surely
from equilix.core.supports.shoulder import HandLoad, hand_map, pad_rays

#: Skin on a rubber grip, low end; from memory. A hand squeezes W/(2 mu) to hold a load along an upright handle.
GRIP_FRICTION = 0.8
#: Turning the upper arm about its own length, over raising it: about 45 % (Stobbe 1982, from memory).
AXIAL_SHARE = 0.45
#: Bending the wrist fore and aft of the palm and turning the forearm, over bending it sideways (Delp 1996, memory).
WRIST_FLEX_SHARE = 7.0 / 11.0
FOREARM_TURN_SHARE = 8.0 / 11.0


@dataclass(frozen=True, eq=False, slots=True)
class Measure:
    """One component of a joint's load: ``row @ [force, couple] + own``, in N m (hand: N), against `capacity`.

    `row` (6,) multiplies what the hand gives to the rig.
    """

    joint: Joint
    row: np.ndarray
    own: float
    capacity: float

    def load(self, hand: HandLoad) -> float:
        """Return the component's load."""
        return float(self.row[:3] @ hand.force + self.row[3:] @ hand.couple) + self.own


def measures(body: Body, operator: Operator, arm: Arm) -> tuple[Measure, ...]:
    """Return what is asked of one arm: hand three components, wrist three, elbow one, shoulder three."""
    weights = arm_weights(body, arm)
    upper = _unit(arm.elbow - arm.shoulder)
    fore = _unit(arm.grip - arm.elbow)
    hinge = np.cross(upper, fore)
    size = float(np.linalg.norm(hinge))
    hinge = hinge / size if size > 1e-9 else np.array([0.0, 1.0, 0.0])
    found: list[Measure] = []

    def about(joint: Joint, centre: np.ndarray, axis: np.ndarray, most: float, carried: int) -> None:
        # Moment of the rig's reaction (-F, -C) and of the segments beyond the joint.
        row = -np.concatenate([np.cross(axis, arm.grip - centre), axis])
        own = sum(
            float(axis @ np.cross(w.centre - centre, [0.0, 0.0, -w.mass * STANDARD_GRAVITY]))
            for w in weights[3 - carried :]
        )
        found.append(Measure(joint, row, own, most))

    grip = capacity(operator, Joint.HAND)
    for k, most in enumerate((grip, grip, 2.0 * GRIP_FRICTION * grip)):
        row = np.zeros(6)
        row[k] = 1.0
        found.append(Measure(Joint.HAND, row, 0.0, most))
    wrist = capacity(operator, Joint.WRIST)
    about(Joint.WRIST, arm.wrist, hinge, wrist, 1)
    about(Joint.WRIST, arm.wrist, np.cross(hinge, fore), WRIST_FLEX_SHARE * wrist, 1)
    about(Joint.WRIST, arm.wrist, fore, FOREARM_TURN_SHARE * wrist, 1)
    about(Joint.ELBOW, arm.elbow, hinge, capacity(operator, Joint.ELBOW, arm.elbow_angle, arm.elevation), 2)
    raising = capacity(operator, Joint.SHOULDER, arm.elbow_angle, arm.elevation)
    about(Joint.SHOULDER, arm.shoulder, hinge, raising, 3)
    about(Joint.SHOULDER, arm.shoulder, np.cross(hinge, upper), raising, 3)
    about(Joint.SHOULDER, arm.shoulder, upper, AXIAL_SHARE * raising, 3)
    return tuple(found)


@dataclass(frozen=True, eq=False, slots=True)
class Held:
    """Forces on the rig: by the hands, and by the pad `pad_force` (3,) (N), `pad_moment` (3,) (N m) about its middle.

    `worst` is the greatest share of capacity in the arms.
    """

    hands: tuple[HandLoad, ...]
    pad_force: np.ndarray
    pad_moment: np.ndarray
    worst: float


def hold(
    mass: float,
    cg: np.ndarray,
    grips: Sequence[np.ndarray],
    asked: Sequence[tuple[Measure, ...]],
    pad: np.ndarray | None = None,
    shoulder: Shoulder | None = None,
) -> Held | None:
    """Return the forces that hold a level rig of `mass` (kg) with CG `cg` (3,) (m) with the least worst share.

    `grips` are the points (3,) (m) of the hands, `asked` the measures of their arms; `pad` (3,) (m) is the middle
    of the patch on the shoulder, None for a rig in the hands alone. None if nothing holds it. A small weight on the
    sum of the shares picks one of several such optima.
    """
    weight = mass * STANDARD_GRAVITY
    rays = pad_rays(shoulder) if pad is not None and shoulder is not None else np.zeros((6, 0))
    origin = pad if pad is not None else cg
    k, c = rays.shape[1], 6 * len(grips)
    component = hand_map(grips, origin)
    rows = [(h, m) for h, arm in enumerate(asked) for m in arm]
    load = np.zeros((len(rows), c))
    own = np.zeros(len(rows))
    for i, (h, m) in enumerate(rows):
        load[i, 6 * h : 6 * h + 6] = m.row * weight / m.capacity
        own[i] = m.own / m.capacity
    r = len(rows)
    matrix = np.zeros((6 + 2 * r, k + 2 * c + 1 + 2 * r))
    matrix[:6, :k] = rays
    matrix[:6, k : k + c] = component
    matrix[:6, k + c : k + 2 * c] = -component
    matrix[3:6] *= 10.0  # levers are about 0.1 m: bring moments to the size of forces
    t = k + 2 * c
    for sign, start in ((1.0, 6), (-1.0, 6 + r)):
        matrix[start : start + r, k : k + c] = sign * load
        matrix[start : start + r, k + c : k + 2 * c] = -sign * load
        matrix[start : start + r, t] = -1.0
        matrix[np.arange(start, start + r), np.arange(t + 1 + start - 6, t + 1 + start - 6 + r)] = 1.0
    rhs = np.zeros(6 + 2 * r)
    rhs[2] = 1.0
    offset = cg - origin
    rhs[3], rhs[4] = 10.0 * offset[1], -10.0 * offset[0]
    rhs[6 : 6 + r], rhs[6 + r :] = -own, own
    cost = np.zeros(matrix.shape[1])
    cost[t] = 1.0
    effort = 1e-4 * np.abs(load).sum(axis=0) / max(r, 1)
    cost[k : k + c] = cost[k + c : k + 2 * c] = effort + 1e-7
    solution = solve_surely(cost, matrix, rhs, None)
    if solution.status is not LpStatus.OPTIMAL:
        return None
    values = (solution.x[k : k + c] - solution.x[k + c : k + 2 * c]) * weight
    hands = tuple(HandLoad(p, values[6 * h : 6 * h + 3], values[6 * h + 3 : 6 * h + 6]) for h, p in enumerate(grips))
    by_pad = rays @ solution.x[:k] * weight
    return Held(hands, by_pad[:3], by_pad[3:], float(solution.x[t]))


def left_over(mass: float, cg: np.ndarray, held: Held, pad: np.ndarray | None) -> np.ndarray:
    """Return what is left (6,) of force (N) and of moment about the CG (N m): zero in equilibrium."""
    force = held.pad_force + np.array([0.0, 0.0, -mass * STANDARD_GRAVITY])
    moment = held.pad_moment + (np.cross(pad - cg, held.pad_force) if pad is not None else 0.0)
    for hand in held.hands:
        force = force + hand.force
        moment = moment + hand.couple + np.cross(hand.point - cg, hand.force)
    return np.concatenate([force, moment])


def _unit(v: np.ndarray) -> np.ndarray:
    size = math.sqrt(float(v @ v))
    return v / size if size > 1e-12 else np.array([0.0, 0.0, -1.0])
