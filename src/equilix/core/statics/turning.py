"""Stages that turn in each other, as a gimbal's do: the torques that their motors must give, at rest and moving."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from equilix.core.frames import STANDARD_GRAVITY, UP, cross, rotation_about
from equilix.core.massprops.bodies import MassProperties


class BodyLink(Struct, frozen=True, eq=False):
    """One stage without what it carries: turns about `axis` (3,) through `point` (3,) (m), both with all at home.

    `body` are the stage's own mass properties at home, in the same frame; None for a stage without hardware.
    """

    point: np.ndarray
    axis: np.ndarray
    body: MassProperties | None


class Attitude(Struct, frozen=True):
    """How stages stand and the frame leans (rad): `tilt` nose down, `roll` left side up, `pan` to the left.

    The frame leans first `aside` (left side up), then nose down by `lean`.
    """

    tilt: float = 0.0
    roll: float = 0.0
    pan: float = 0.0
    lean: float = 0.0
    aside: float = 0.0

    @property
    def down(self) -> np.ndarray:
        """The way down (3,) in the leaning frame."""
        turned = rotation_about((0.0, 1.0, 0.0), self.lean) @ rotation_about((1.0, 0.0, 0.0), self.aside)
        result: np.ndarray = -(turned.T @ UP)
        return result


#: Frame and stages as they stand by themselves.
LEVEL = Attitude()


def motor_torques(
    links: Sequence[BodyLink],
    angles: Sequence[float],
    down: np.ndarray,
    rates: Sequence[float] | None = None,
    accelerations: Sequence[float] | None = None,
) -> np.ndarray:
    """Return the torques (k,) (N m) that k motors give about their axes, the outermost first, by the right-hand rule.

    `angles` (rad) are how far each is turned, `rates` (rad/s) and `accelerations` (rad/s2) how it moves, none for
    at rest; `down` (3,) is the way down in the frame. Recursive Newton-Euler: Luh, Walker and Paul, J. Dyn. Syst.
    Meas. Control 102 (1980); Featherstone, Rigid Body Dynamics Algorithms, ch. 5.
    """
    count = len(links)
    rates = [0.0] * count if rates is None else rates
    accelerations = [0.0] * count if accelerations is None else accelerations
    turned = np.eye(3)
    spin, gains = np.zeros(3), np.zeros(3)
    # A frame that accelerates up feels what weight does.
    pull = -STANDARD_GRAVITY * down
    before, place = links[0].point if count else np.zeros(3), links[0].point if count else np.zeros(3)
    axes, places, forces, moments = [], [], [], []
    for link, angle, rate, gain in zip(links, angles, rates, accelerations, strict=True):
        way = turned @ (link.point - before)
        pull = pull + cross(gains, way) + cross(spin, cross(spin, way))
        place, before = place + way, link.point
        axis = turned @ link.axis
        gains = gains + axis * gain + cross(spin, axis * rate)
        spin = spin + axis * rate
        turned = turned @ rotation_about((float(link.axis[0]), float(link.axis[1]), float(link.axis[2])), angle)
        axes.append(axis)
        places.append(place)
        if link.body is None:
            forces.append(np.zeros(3))
            moments.append(np.zeros(3))
            continue
        arm = turned @ (link.body.cg - link.point)
        inertia = turned @ link.body.inertia @ turned.T
        force = link.body.mass * (pull + cross(gains, arm) + cross(spin, cross(spin, arm)))
        forces.append(force)
        moments.append(inertia @ gains + cross(spin, inertia @ spin) + cross(arm, force))
    torques = np.zeros(count)
    force, moment = np.zeros(3), np.zeros(3)
    for k in range(count - 1, -1, -1):
        outer = places[k + 1] - places[k] if k + 1 < count else np.zeros(3)
        moment = moments[k] + moment + cross(outer, force)
        force = force + forces[k]
        torques[k] = float(axes[k] @ moment)
    return torques


def torque_over(weight: float, along: float, up: float, angles: np.ndarray) -> np.ndarray:
    """Return gravity's torque (n,) (N m) on a stage turned by `angles` (n,) (rad) about a level axis.

    ``W (a cos t + u sin t)``: the CG lies `along` (m) and `up` (m) of the axis at home, and turning takes what is up
    along. The moment of a weight about an axis: any statics text.
    """
    result: np.ndarray = weight * (along * np.cos(angles) + up * np.sin(angles))
    return result
