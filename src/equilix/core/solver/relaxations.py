"""Which limits keep a target out of reach, and what it would take to lift each."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from equilix.core.analysis import Analysis
from equilix.core.kit.parts import Category
from equilix.core.rounding import SLIGHT, negligible
from equilix.core.solver.plan import Form, Target
from equilix.core.solver.search_space import (
    balance_slides,
)
from equilix.core.solver.targets import (
    form_arms,
    form_slopes,
    form_value,
)
from equilix.core.sources import common_practice

#: m more of travel that anybody could find for a slide.
LONGEST_TRAVEL = common_practice(0.30)

#: m: a part whose arm is shorter tips nothing.
LEVER = common_practice(1e-3)


class Relaxation(Struct, frozen=True):
    """The smallest change of what is given that would let a plan reach the tolerance.

    `travel` (m) more on the slide of `placed_id`, or `lighter` (kg) less on it.
    """

    placed_id: str
    travel: float = 0.0
    lighter: float = 0.0


def relaxations(after: Analysis, lacking: float, target: Target | None = None) -> tuple[Relaxation, ...]:
    """Return what would take a moment of `lacking` (kg m) more off a plan that falls short, smallest first.

    More travel for a slide that stands at its stop, or less mass on the part with the longest arm on the
    heavy side. With a `target` of several forms, for the one of them that lies farthest beyond its tolerance.
    """
    assembly, equilibrium = after.assembly, after.equilibrium
    if equilibrium is None or after.body is None:
        return ()
    # Holding still what tips it: slopes of the form by each slide, arms of it by each part.
    masses = equilibrium.of_form(assembly.mass)
    arms = ((after.positions.cg - equilibrium.point) @ equilibrium.forward) * np.sign(masses)
    holds = assembly.carries_all()[:, equilibrium.holder].astype(float)
    slopes = (assembly.slide_axes @ equilibrium.forward) * (assembly.carries_all() @ masses - masses.sum() * holds)
    side = math.copysign(1.0, equilibrium.tip_moment)
    worst = None if target is None else _worst(after, target)
    if target is not None and worst is not None and worst is not target.forms[0]:
        value = form_value(after, target, worst)
        side, lacking = math.copysign(1.0, value), abs(value) - target.allowed(worst)
        slopes, arms = form_slopes(after, target, worst), form_arms(after, target, worst)
    found = []
    names = balance_slides(after)
    for j, i in enumerate(assembly.slide_parts):
        placed_id = after.build.parts[i].id
        if placed_id not in names:
            continue
        slope, mount, now = float(slopes[j]), assembly.slide_mounts[j], float(after.settings[j])
        helpful = -side * slope
        at_stop = negligible(now - (mount.low if helpful < 0.0 else mount.high), SLIGHT)
        if at_stop and not negligible(slope, SLIGHT) and lacking / abs(slope) <= LONGEST_TRAVEL:
            found.append(Relaxation(placed_id, travel=lacking / abs(slope)))
    found.sort(key=lambda r: r.travel)
    arms = side * arms
    heavy = [
        (float(lacking / arms[i]), i)
        for i, part in enumerate(assembly.parts)
        if arms[i] > LEVER
        and part.category in (Category.LENS, Category.MATTE_BOX, Category.MONITOR, Category.BATTERY)
        and part.mass is not None
        and lacking / arms[i] < part.mass
    ]
    if heavy:
        lighter, i = min(heavy)
        found.append(Relaxation(after.build.parts[i].id, lighter=lighter))
    return tuple(found[:3])


def _worst(after: Analysis, target: Target) -> Form | None:
    """Return the free form that lies farthest beyond its tolerance, counted in tolerances; None if none does."""
    excess = [
        (form.weight * (abs(form_value(after, target, form)) - target.allowed(form)), -k, form)
        for k, form in enumerate(target.forms)
        if form.within is None
    ]
    most = max(excess, key=lambda one: one[:2], default=None)
    return most[2] if most is not None and most[0] > 0.0 else None
