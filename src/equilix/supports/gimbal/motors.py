"""What the motors of a gimbal must give, and how long its battery lasts."""

from __future__ import annotations

import math

from msgspec import Struct

from equilix.core.massprops.bodies import shift_inertia
from equilix.core.rounding import lacking
from equilix.core.statics import stages as parted
from equilix.core.statics.stages import Stage, body_of_parts, peak_torque
from equilix.core.statics.turning import Attitude, BodyLink, motor_torques
from equilix.supports.gimbal.settings import MODES, GimbalSettings
from equilix.supports.gimbal.stages import GimbalCase


def links_of(case: GimbalCase) -> tuple[BodyLink, ...]:
    """Return the stages without what they carry as links, the outermost first."""
    return parted.links_of(case.analysis.assembly, case.analysis.positions.cg, case.result)


def gravity_torques(case: GimbalCase, attitude: Attitude) -> dict[str, float]:
    """Return gravity's torque (N m) about each axis at an attitude; motors hold minus these."""
    turned = {"tilt": attitude.tilt, "roll": attitude.roll, "pan": attitude.pan}
    names = [stage.name for stage in reversed(case.result.stages)]
    torques = motor_torques(links_of(case), [turned[name] for name in names], attitude.down)
    return {name: -float(torque) for name, torque in zip(names, torques, strict=True)}


class Need(Struct, frozen=True):
    """What a motor must give at most (N m): to hold, to accelerate, and for the products of inertia while panning."""

    hold: float
    turn: float
    products: float
    friction: float

    @property
    def whole(self) -> float:
        """All at once."""
        return self.hold + self.turn + self.products + self.friction


def need_of(case: GimbalCase, stage: Stage) -> Need:
    """Return what a stage's motor needs at the wanted acceleration, all turned the worst way.

    ``I alpha`` about the axis with all that it carries; while the gimbal pans with `gain` its products of inertia load
    tilt by ``I_yz alpha`` and roll by ``I_xz alpha`` (Euler's equations: Meriam and Kraige, Dynamics, ch. 7).
    """
    settings = case.settings
    body = body_of_parts(case.analysis.assembly, case.analysis.positions.cg, stage.parts)
    assert body is not None
    inertia = shift_inertia(body, stage.point)
    about = float(inertia[stage.about, stage.about]) * settings.gain
    products = 0.0 if stage.name == "pan" else abs(float(inertia[stage.about, 2])) * settings.gain
    return Need(peak_torque(stage), about, products, settings.friction(stage.name))


def holding_power(case: GimbalCase) -> float:
    """Return the heat (W) of holding, on the mean over the tilt in use: ``P = P_r (tau/tau_r)^2``.

    That is a motor's loss in its copper. Roll and pan stand level, where pan holds nothing.
    """
    settings, found = case.settings, 0.0
    for stage in case.result.stages:
        a, b = stage.beside
        use = settings.tilt_use if stage.name == "tilt" else 0.0
        # Means of cos^2, sin^2 over -u to u; that of their product is zero.
        ripple = 0.5 if lacking(use) else math.sin(2.0 * use) / (4.0 * use)
        level = 0.0 if stage.name == "pan" else a * a * (0.5 + ripple) + b * b * (0.5 - ripple)
        found += settings.heat * stage.weight**2 * level / settings.rated(stage.name) ** 2
    return found


def run_time(case: GimbalCase) -> tuple[float, float]:
    """Return how long (s) its battery lasts as it is balanced, and in perfect balance."""
    settings = case.settings
    energy = settings.energy * 3600.0
    if lacking(settings.idle):
        return math.inf, math.inf
    return energy / (settings.idle + holding_power(case)), energy / settings.idle


def in_way(attitude: Attitude, settings: GimbalSettings) -> Attitude:
    """Return an attitude counted from how the gimbal is held."""
    base = MODES[settings.way]
    return Attitude(
        base.tilt + attitude.tilt,
        base.roll + attitude.roll,
        base.pan + attitude.pan,
        base.lean + attitude.lean,
        base.aside + attitude.aside,
    )
