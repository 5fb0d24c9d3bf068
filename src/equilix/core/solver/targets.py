"""What a way aims at: level fore and aft, the CG surely where it may lie, even if guesses are off."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from equilix.core.analysis import Analysis
from equilix.core.assembly.resolve import Assembly
from equilix.core.cache import cached_for_rig
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.uncertainty import COVERAGE
from equilix.core.rounding import EXACT, SLIGHT, lacking, negligible
from equilix.core.solver.plan import Form, Target
from equilix.core.sources import common_practice

#: N m. A tip moment that hands don't feel on a shoulder rig, the user's to change.
TOLERANCE = common_practice(0.10)
#: kg m: the same as the moment of a mass.
ALLOWED = TOLERANCE / STANDARD_GRAVITY
#: Share of the pad's half width within which the CG is wanted however unsure it is.
_LEAST_ASIDE = common_practice(0.25)


@cached_for_rig
def target_of(analysis: Analysis, tolerance: float = TOLERANCE) -> Target | None:
    """Return the support's condition: it does not tip (to `tolerance`, N m), and beside that way the CG surely lies
    where it may.

    None without a support. A support may have a condition of its own.
    """
    case = analysis.support.case(analysis)
    if case is None:
        return None
    equilibrium, body, spread = case.equilibrium, case.body, case.spread
    own = analysis.support.target(case)
    if own is not None:
        return own
    holder = analysis.build.parts[equilibrium.holder].id
    tip = Form("tip", equilibrium.forward)
    half_y = equilibrium.aside
    if half_y is None:
        return Target(equilibrium.point, holder, (tip,), tolerance / STANDARD_GRAVITY)
    unsure = COVERAGE * float(spread.cg[1])
    aside = max(half_y - unsure, _LEAST_ASIDE * half_y) * body.mass
    # What lies beyond either counts in the tolerances of both: one that can't be met never hides the other.
    weight = weight_of(aside)
    forms = (tip, Form("aside", equilibrium.across, tolerance=aside, weight=weight))
    return Target(equilibrium.point, holder, forms, tolerance / STANDARD_GRAVITY)


def weight_of(allowed: float) -> float:
    """Return what a form counts for whose own tolerance is `allowed`: as many tolerances of each weigh the same."""
    return 1.0 if lacking(allowed) else ALLOWED / allowed


def robust_target(analysis: Analysis, target: Target) -> Target:
    """Return `target` with two forms more: the CG keeps to its room even if masses and CGs are off by their u.

    The likeliest way to be off by two standard uncertainties in all is ``dm_i = 2 u_i^2 a_i / S`` with the arms
    a and ``S^2 = sum u^2 a^2 + sum m^2 u_r^2``; the CGs' share, ``2 sum m^2 u_r^2 / S``, narrows the room. Design
    point of first-order reliability: Hasofer and Lind, J. Eng. Mech. Div. ASCE 100 (1974), from memory.
    Arms are those of the present build.
    """
    assembly, equilibrium, body = analysis.assembly, analysis.equilibrium, analysis.body
    if equilibrium is None or equilibrium.span is None or body is None:
        return target
    arm = (analysis.positions.cg - equilibrium.point) @ equilibrium.forward
    variance = assembly.uncertainties.mass**2 + (assembly.uncertainties.gain**2).sum(axis=0)
    along = np.einsum(
        "nj,nj->n", np.einsum("nij,i->nj", assembly.rotation, equilibrium.forward) ** 2, assembly.uncertainties.cg**2
    )
    by_cg = float(assembly.mass**2 @ along)
    spread = math.sqrt(float(variance @ arm**2) + by_cg)
    if lacking(spread):
        return target
    off = COVERAGE * variance * arm / spread
    half = equilibrium.span - COVERAGE * by_cg / spread / body.mass
    forms = []
    for sign in (1.0, -1.0):
        heavier = tuple(
            (placed.id, sign * float(kg))
            for placed, kg in zip(analysis.build.parts, off, strict=True)
            if not negligible(kg, SLIGHT)
        )
        forms.append(Form("pitch if guesses are off", equilibrium.forward, max(half, 0.0), heavier, strict=True))
    return replace(target, forms=(*target.forms, *forms))


def form_value(analysis: Analysis, target: Target, form: Form) -> float:
    """Return a form's first moment (kg m) on the build that the target is of."""
    mass, away = _masses_in(analysis, form), analysis.positions.cg - target.about(form)[0]
    if form.lever is not None:
        mass = mass * (away @ form.lever)
    return float(mass @ (away @ form.direction)) + form.offset


def form_slopes(analysis: Analysis, target: Target, form: Form) -> np.ndarray:
    """Return how a form's moment grows with each slide (k,) (kg; of a product kg m)."""
    assembly, mass = analysis.assembly, _masses_in(analysis, form)
    point, holder = target.about(form)
    along, moves = assembly.slide_axes @ form.direction, _moves_against(assembly, holder)
    if form.lever is None:
        found: np.ndarray = along * (moves @ mass)
        return found
    away = analysis.positions.cg - point
    first, second = mass * (away @ form.lever), mass * (away @ form.direction)
    slopes: np.ndarray = along * (moves @ first) + (assembly.slide_axes @ form.lever) * (moves @ second)
    return slopes


def form_arms(analysis: Analysis, target: Target, form: Form) -> np.ndarray:
    """Return how a form's moment grows with each part's mass (n,) (m; of a product m2), 0 outside its group."""
    away = analysis.positions.cg - target.about(form)[0]
    arms: np.ndarray = (away @ form.direction) * np.sign(_masses_in(analysis, form))
    return arms if form.lever is None else arms * (away @ form.lever)


def _masses_in(analysis: Analysis, form: Form) -> np.ndarray:
    assembly = analysis.assembly
    return assembly.mass if form.group is None else _masses_of(assembly, form.group)


# Neither changes while slides move. A gimbal's three stages are asked in turn; each kept assembly stays in memory.
@cached_for_rig
def _masses_of(assembly: Assembly, group: frozenset[str]) -> np.ndarray:
    """Return each part's mass (n,) (kg), 0 outside the group of placed parts."""
    result: np.ndarray = assembly.mass * [placed.id in group for placed in assembly.build.parts]
    result.flags.writeable = False
    return result


@cached_for_rig
def _moves_against(assembly: Assembly, holder: str | None) -> np.ndarray:
    """Return 1 where a slide moves a part (k, n) away from a placed part, -1 where it moves that one away, else 0."""
    moves = assembly.carries_all().astype(float)
    held = next((i for i, placed in enumerate(assembly.build.parts) if placed.id == holder), None)
    result: np.ndarray = moves if held is None else moves - moves[:, held, None]
    result.flags.writeable = False
    return result


def is_level(analysis: Analysis, target: Target) -> bool:
    """Return whether every free form of a `target` is within its tolerance on the build as it is."""
    if analysis.body is None:
        return False
    return all(
        negligible(form_value(analysis, target, form), target.allowed(form) + EXACT)
        for form in target.forms
        if form.within is None
    )


def greatest_now(analysis: Analysis, target: Target) -> float:
    """Return the greatest free form (kg m) on the build as it is."""
    return max((abs(form_value(analysis, target, form)) for form in target.forms if form.within is None), default=0.0)


def beyond_now(analysis: Analysis, target: Target) -> float:
    """Return what lies beyond the tolerances on the build as it is, as `Plan.beyond` does (kg m); 0 without a mass."""
    if analysis.body is None:
        return 0.0
    return sum(
        form.weight * max(abs(form_value(analysis, target, form)) - target.allowed(form), 0.0)
        for form in target.forms
        if form.within is None
    )
