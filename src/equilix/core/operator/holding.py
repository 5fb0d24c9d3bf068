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
from equilix.core.frames import STANDARD_GRAVITY, Z, cross
from equilix.core.operator.body import HAND, Arm, Body, arm_weights
from equilix.core.operator.strength import BEST_THICKNESS, Joint, capacity, squeeze_factor
from equilix.core.solver.lp import LpStatus, solve_surely
from equilix.core.supports.shoulder import HandLoad, cone_rays, hand_map, pad_rays, patch_rays

#: Skin on a rubber grip, low end; from memory. A hand squeezes W/(2 mu) to hold a load along an upright handle.
GRIP_FRICTION = 0.8
#: Turning the upper arm about its own length, over raising it: about 45 % (Stobbe 1982, from memory).
AXIAL_SHARE = 0.45
#: Bending the wrist fore and aft of the palm and turning the forearm, over bending it sideways (Delp 1996, memory).
WRIST_FLEX_SHARE = 7.0 / 11.0
FOREARM_TURN_SHARE = 8.0 / 11.0
#: m between the middles of what presses at either end of the palm: two thirds of its breadth; assumed.
PALM_LEVER = 0.055
#: m: a patch of the body that the rig rests against has about this size each way; assumed.
CONTACT_SPAN = 0.060
#: Cloth on cloth or rubber, low end; from memory.
CONTACT_FRICTION = 0.4


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


def measures(
    body: Body, operator: Operator, arm: Arm, thickness: float | None = None, along: int = Z
) -> tuple[Measure, ...]:
    """Return what is asked of one arm: hand six components, wrist three, elbow one, shoulder three.

    The hand closes round a handle of `thickness` (m), None for the best one, that lies `along` the x, y or z axis:
    forces across it are held by the fingers, those along it and turning about it by friction, and couples across it by
    both ends of the palm. A force F squeezes F/(2 mu), a couple about the handle C/(mu d), as two opposed pads; couples
    are given in N of squeeze.
    """
    weights = arm_weights(body, arm)
    upper = _unit(arm.elbow - arm.shoulder)
    fore = _unit(arm.grip - arm.elbow)
    hinge = cross(upper, fore)
    size = float(np.linalg.norm(hinge))
    hinge = hinge / size if size > 1e-9 else np.array([0.0, 1.0, 0.0])
    found: list[Measure] = []

    def about(joint: Joint, centre: np.ndarray, axis: np.ndarray, most: float, carried: int) -> None:
        # Moment of the rig's reaction (-F, -C) and of the segments beyond the joint.
        row = -np.concatenate([cross(axis, arm.grip - centre), axis])
        own = sum(
            float(axis @ cross(w.centre - centre, [0.0, 0.0, -w.mass * STANDARD_GRAVITY]))
            for w in weights[3 - carried :]
        )
        found.append(Measure(joint, row, own, most))

    best = BEST_THICKNESS * HAND * body.stature
    thick = best if thickness is None else thickness
    grip = capacity(operator, Joint.HAND) * squeeze_factor(thick, HAND * body.stature)
    for k in range(6):
        row = np.zeros(6)
        if k < 3:
            row[k] = 0.5 / GRIP_FRICTION if k == along else 1.0
        else:
            row[k] = 1.0 / (GRIP_FRICTION * thick) if k - 3 == along else 1.0 / PALM_LEVER
        found.append(Measure(Joint.HAND, row, 0.0, grip))
    wrist = capacity(operator, Joint.WRIST)
    about(Joint.WRIST, arm.wrist, hinge, wrist, 1)
    about(Joint.WRIST, arm.wrist, cross(hinge, fore), WRIST_FLEX_SHARE * wrist, 1)
    about(Joint.WRIST, arm.wrist, fore, FOREARM_TURN_SHARE * wrist, 1)
    about(Joint.ELBOW, arm.elbow, hinge, capacity(operator, Joint.ELBOW, arm.elbow_angle, arm.elevation), 2)
    raising = capacity(operator, Joint.SHOULDER, arm.elbow_angle, arm.elevation)
    about(Joint.SHOULDER, arm.shoulder, hinge, raising, 3)
    about(Joint.SHOULDER, arm.shoulder, cross(hinge, upper), raising, 3)
    about(Joint.SHOULDER, arm.shoulder, upper, AXIAL_SHARE * raising, 3)
    return tuple(found)


@dataclass(frozen=True, eq=False, slots=True)
class Contact:
    """A patch of the body at `point` (3,) (m) that can push the rig along `normal` (3,) and rub, never pull."""

    point: np.ndarray
    normal: np.ndarray

    def rays(self, origin: np.ndarray) -> np.ndarray:
        """Return the wrenches (6, 32) about `origin` (3,) of unit pushes at the corners, along each cone ray."""
        side, up = _tangents(self.normal)
        return patch_rays(self.point - origin, side, up, (CONTACT_SPAN, CONTACT_SPAN), CONTACT_FRICTION)


@dataclass(frozen=True, eq=False, slots=True)
class Prop:
    """Ribs that can push the elbow of hand number `hand` along `normal` (3,); `lever` (3,) (m) is shoulder to elbow."""

    hand: int
    normal: np.ndarray
    lever: np.ndarray


def _tangents(normal: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return two unit vectors (3,) across `normal` (3,), with ``side x up`` along it."""
    side = cross(normal, [0.0, 0.0, 1.0])
    side = _unit(side) if float(np.linalg.norm(side)) > 1e-6 else np.array([0.0, 1.0, 0.0])
    return side, cross(normal, side)


@dataclass(frozen=True, eq=False, slots=True)
class Push:
    """What a part of the body gives: `force` (3,) (N) and `moment` (3,) (N m) at `point` (3,) (m)."""

    point: np.ndarray
    force: np.ndarray
    moment: np.ndarray


@dataclass(frozen=True, eq=False, slots=True)
class Held:
    """Forces on the rig: by the hands, and by the pad `pad_force` (3,) (N), `pad_moment` (3,) (N m) about its middle.

    `braced` are those by contacts, `propped` (3,) (N) those on the elbows by the ribs. `worst` is the greatest share
    of capacity in the arms; `basis` starts the search for a similar hold.
    """

    hands: tuple[HandLoad, ...]
    pad_force: np.ndarray
    pad_moment: np.ndarray
    worst: float
    braced: tuple[Push, ...] = ()
    propped: tuple[np.ndarray, ...] = ()
    basis: tuple[int, ...] = ()


def hold(
    mass: float,
    cg: np.ndarray,
    grips: Sequence[np.ndarray],
    asked: Sequence[tuple[Measure, ...]],
    pad: np.ndarray | None = None,
    shoulder: Shoulder | None = None,
    contacts: Sequence[Contact] = (),
    props: Sequence[Prop] = (),
    basis: tuple[int, ...] = (),
) -> Held | None:
    """Return the forces that hold a level rig of `mass` (kg) with CG `cg` (3,) (m) with the least worst share.

    `grips` are the points (3,) (m) of the hands, `asked` the measures of their arms; `pad` (3,) (m) is the middle
    of the patch on the shoulder, None for a rig in the hands alone; `contacts` and `props` help. None if nothing
    holds it. `basis` of a similar hold saves work. A small weight on the sum of the joints' shares picks one of
    several such optima.
    """
    weight = mass * STANDARD_GRAVITY
    origin = pad if pad is not None else cg
    pushes = [pad_rays(shoulder)] if pad is not None and shoulder is not None else []
    pushes += [contact.rays(origin) for contact in contacts]
    rays = np.concatenate(pushes, axis=1) if pushes else np.zeros((6, 0))
    cones = [cone_rays(*_tangents(prop.normal), CONTACT_FRICTION) for prop in props]
    k, c, p = rays.shape[1], 6 * len(grips), 8 * len(props)
    component = hand_map(grips, origin)
    # Columns: pushes, hands plus, hands minus, ribs on elbows, a share per joint, the worst share, slacks.
    joints = sorted({(h, m.joint) for h, arm in enumerate(asked) for m in arm})
    share_of = {key: k + 2 * c + p + n for n, key in enumerate(joints)}
    t = k + 2 * c + p + len(joints)
    rows: list[np.ndarray] = []
    rhs: list[float] = []
    for h, arm in enumerate(asked):
        for m in arm:
            row = np.zeros(t + 1)
            load = m.row * weight / m.capacity
            plus = slice(k + 6 * h, k + 6 * h + 6)
            minus = slice(k + c + 6 * h, k + c + 6 * h + 6)
            row[plus], row[minus] = load, -load
            for n, (prop, cone) in enumerate(zip(props, cones, strict=True)):
                if m.joint is Joint.SHOULDER and prop.hand == h:
                    # The measure's axis is what it multiplies the couple with, the other way round.
                    turned = [float(-m.row[3:] @ cross(prop.lever, ray)) for ray in cone]
                    start = k + 2 * c + 8 * n
                    row[start : start + 8] = np.array(turned) * weight / m.capacity
            share = share_of[h, m.joint]
            own = m.own / m.capacity
            if np.count_nonzero(load) == 1 and own == 0.0:
                # One component: its plus and minus parts, of which one is zero, are its size.
                row = np.abs(row)
                row[share] = -1.0
                rows.append(row)
                rhs.append(0.0)
                continue
            for sign in (1.0, -1.0):
                signed = sign * row
                signed[share] = -1.0
                rows.append(signed)
                rhs.append(-sign * own)
    for share in share_of.values():
        row = np.zeros(t + 1)
        row[share], row[t] = 1.0, -1.0
        rows.append(row)
        rhs.append(0.0)
    n = len(rows)
    matrix = np.zeros((6 + n, t + 1 + n))
    matrix[:6, :k] = rays
    matrix[:6, k : k + c] = component
    matrix[:6, k + c : k + 2 * c] = -component
    matrix[3:6] *= 10.0  # levers are about 0.1 m: bring moments to the size of forces
    matrix[6:, : t + 1] = np.array(rows).reshape(n, t + 1)
    matrix[6 + np.arange(n), t + 1 + np.arange(n)] = 1.0
    offset = cg - origin
    right = np.concatenate([[0.0, 0.0, 1.0, 10.0 * offset[1], -10.0 * offset[0], 0.0], rhs])
    cost = np.zeros(matrix.shape[1])
    cost[t] = 1.0
    cost[list(share_of.values())] = 1e-3
    cost[k : k + 2 * c + p] = 1e-6
    solution = solve_surely(cost, matrix, right, basis or None)
    if solution.status is not LpStatus.OPTIMAL:
        return None
    x = solution.x
    values = (x[k : k + c] - x[k + c : k + 2 * c]) * weight
    hands = tuple(HandLoad(at, values[6 * h : 6 * h + 3], values[6 * h + 3 : 6 * h + 6]) for h, at in enumerate(grips))
    given, start = [], 0
    for block in pushes:
        given.append(block @ x[start : start + block.shape[1]] * weight)
        start += block.shape[1]
    by_pad = given.pop(0) if pad is not None and shoulder is not None else np.zeros(6)
    braced = tuple(
        Push(contact.point, w[:3], w[3:] - cross(contact.point - origin, w[:3]))
        for contact, w in zip(contacts, given, strict=True)
    )
    propped = tuple(
        np.array(cone).T @ x[k + 2 * c + 8 * n : k + 2 * c + 8 * n + 8] * weight for n, cone in enumerate(cones)
    )
    return Held(hands, by_pad[:3], by_pad[3:], float(x[t]), braced, propped, solution.basis)


def propped_load(measure: Measure, hand: HandLoad, props: Sequence[tuple[Prop, np.ndarray]]) -> float:
    """Return a measure's load with the ribs' pushes (3,) (N) on the elbow of that hand."""
    load = measure.load(hand)
    if measure.joint is Joint.SHOULDER:
        load += sum(float(-measure.row[3:] @ cross(prop.lever, push)) for prop, push in props)
    return load


def _unit(v: np.ndarray) -> np.ndarray:
    size = math.sqrt(float(v @ v))
    return v / size if size > 1e-12 else np.array([0.0, 0.0, -1.0])
