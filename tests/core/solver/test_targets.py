"""Targets: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace
from scipy import optimize

from equilix.core.analyse import analyse
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import HowKnown
from equilix.core.solver.targets import (
    TOLERANCE,
    form_arms,
    form_slopes,
    form_value,
    is_level,
    robust_target,
    target_of,
)
from equilix.core.statics.pad import Shoulder
from equilix.io.shipped import demo_book
from tests.rigs.people import PERSON
from tests.rigs.plain import block, rested
from tests.rigs.ways import camera_rig


class Targets(unittest.TestCase):
    def test_each_form_counts_in_its_own_tolerance(self) -> None:
        """Just at its tolerance each form of a target weighs the same."""
        build, kit = camera_rig()
        for tolerance in (0.05, 0.1, 1.0):
            target = target_of(analyse(rested(build, Shoulder(span_y=0.08)), kit, PERSON), tolerance)
            tip, aside = target.forms
            self.assertAlmostEqual(target.tolerance * STANDARD_GRAVITY, tolerance)
            self.assertAlmostEqual(aside.weight * aside.tolerance, TOLERANCE / STANDARD_GRAVITY)
            self.assertEqual(tip.weight, 1.0)
        # However doubtful, a quarter of the half patch is left to aim at.
        guessed = {**kit, "camera": replace(kit["camera"], cg_u=0.2)}
        found = analyse(build, guessed, PERSON)
        self.assertAlmostEqual(target_of(found).forms[1].tolerance, 0.25 * 0.030 * found.body.mass)

    def test_level_is_every_form_within_its_tolerance(self) -> None:
        build, kit = camera_rig()
        found = analyse(build, kit, PERSON)
        for share, level in ((1.001, True), (0.999, False)):
            self.assertIs(is_level(found, target_of(found, share * abs(found.equilibrium.tip_moment))), level)
        beside = {**kit, "camera": replace(kit["camera"], cg=(0.0, 0.06, 0.0))}
        aside = analyse(build, beside, PERSON)
        self.assertFalse(is_level(aside, target_of(aside, 2.0 * abs(aside.equilibrium.tip_moment))))

    def test_the_likeliest_way_to_be_off_by_two_standard_uncertainties(self) -> None:
        """Hasofer and Lind: of all offsets two standard deviations out, the one that moves the moment most."""
        build, kit = camera_rig(0.1, (block("power", 0.9, known=HowKnown.GUESSED), -0.25))
        kit["lens"] = replace(kit["lens"], mass_known=HowKnown.GUESSED)
        found = analyse(build, kit, PERSON)
        uncertainties, arm = found.assembly.uncertainties, (found.positions.cg - found.equilibrium.point)[:, 0]
        u_mass = np.sqrt(uncertainties.mass**2 + (uncertainties.gain**2).sum(axis=0))
        u_place = found.assembly.mass * uncertainties.cg[:, 0]
        n = len(arm)

        def moved(z: np.ndarray) -> float:
            return -float((z[:n] * u_mass) @ arm + z[n:] @ u_place)

        ball = {"type": "eq", "fun": lambda z: float(z @ z) - 4.0}
        exact = {"ftol": 1e-14, "maxiter": 500}
        best = optimize.minimize(moved, np.full(2 * n, 0.3), constraints=[ball], options=exact).x
        robust = robust_target(found, target_of(found))
        ahead, behind = robust.forms[2:]
        heavier = dict(ahead.heavier)
        for k, placed in enumerate(found.build.parts):
            self.assertAlmostEqual(heavier.get(placed.id, 0.0), best[k] * u_mass[k], delta=2e-5)
        self.assertEqual(dict(behind.heavier), {i: -kg for i, kg in ahead.heavier})
        by_places = float(best[n:] @ u_place) / found.body.mass
        self.assertAlmostEqual(ahead.within, 0.030 - by_places, delta=2e-6)
        self.assertTrue(ahead.strict and behind.strict)


class Forms(unittest.TestCase):
    def test_how_forms_grow_with_masses_and_slides_by_trying(self) -> None:
        """Central differences of each form of every kind of target, products of inertia among them."""
        book = demo_book()
        for build_id in ("long-zoom", "gimbal-full", "sled-zoom"):
            build, kit = book.build(build_id), dict(book.parts)
            found = analyse(build, kit, PERSON)
            target = target_of(found)
            for form in target.forms:
                arms, slopes = form_arms(found, target, form), form_slopes(found, target, form)
                for k, placed in enumerate(build.parts):
                    part = kit[placed.part_id]
                    ends = []
                    for dm in (-1e-4, 1e-4):
                        other = analyse(build, {**kit, part.id: replace(part, mass=part.mass + dm)}, PERSON)
                        ends.append(form_value(other, target, form))
                    twins = [j for j, p in enumerate(build.parts) if p.part_id == placed.part_id]
                    grown = (ends[1] - ends[0]) / 2e-4
                    self.assertAlmostEqual(grown, float(arms[twins].sum()), delta=1e-7, msg=(build_id, form.name, k))
                if form.lever is not None or build_id == "sled-zoom":
                    continue  # their wished place moves with the slides
                for j, part_number in enumerate(found.assembly.slide_parts):
                    placed, mount = build.parts[part_number], found.assembly.slide_mounts[j]
                    if mount.step or not mount.low + 1e-3 < placed.setting < mount.high - 1e-3:
                        continue
                    ends = []
                    for ds in (-1e-4, 1e-4):
                        moved = build.with_placed(replace(placed, setting=placed.setting + ds))
                        other = analyse(moved, kit, PERSON)
                        same = next(one for one in target_of(other).forms if one.name == form.name)
                        ends.append(form_value(other, target_of(other), same))
                    grown = (ends[1] - ends[0]) / 2e-4
                    self.assertAlmostEqual(grown, float(slopes[j]), delta=1e-6, msg=(build_id, form.name, placed.id))
