"""Analysis: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import new_warnings, worse_warnings
from equilix.core.chosen import with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.massprops.bodies import MassProperties
from equilix.core.solver.sensitivity import influences
from equilix.core.solver.targets import TOLERANCE, robust_target, target_of
from equilix.core.statics.pad import Shoulder, rest
from equilix.supports.harness import mechanics as harness
from equilix.supports.harness.settings import HarnessSettings
from equilix.supports.shoulder import mechanics as shoulder
from tests.rigs.people import MAN
from tests.rigs.plain import block, rested, shoulder_build


class OverThePatch(unittest.TestCase):
    def test_both_margins_tilt_and_slope(self) -> None:
        shoulder = Shoulder(span_x=0.08, span_y=0.05, slope=math.radians(18))
        lies = rest(MassProperties(5.0, np.array([0.012, -0.007, 0.11]), np.eye(3)), np.zeros(3), shoulder)
        self.assertAlmostEqual(lies.margin_x, 0.028)
        self.assertAlmostEqual(lies.margin_y, 0.018)
        self.assertAlmostEqual(lies.tip_angle, math.atan(0.028 / 0.11))
        self.assertAlmostEqual(lies.friction_needed, math.tan(math.radians(18)))
        below = rest(MassProperties(5.0, np.array([0.0, 0.0, -0.1]), np.eye(3)), np.zeros(3), shoulder)
        self.assertIsNone(below.tip_angle)

    def test_what_is_warned_of_begins_at_its_limit(self) -> None:
        """Holewijn (1990), from memory: 14 kPa hurts; a slope needs mu = tan; a head gives way 40 mm unasked."""
        build, kit = shoulder_build((block("m", 4.0, category=Category.BODY), 0.0))
        kit["base"] = replace(kit["base"], mass=0.0)
        area = 4.0 * STANDARD_GRAVITY / 14e3
        for factor, sore in ((1.02, False), (0.98, True)):
            patch = Shoulder(span_x=math.sqrt(area * factor), span_y=math.sqrt(area * factor))
            kinds = {f.kind for f in analyse(rested(build, patch), kit, MAN).findings}
            self.assertEqual(shoulder.SORE_PAD in kinds, sore)
        for friction, slips in ((0.37, False), (0.35, True)):
            patch = Shoulder(friction=friction, slope=math.radians(20))
            kinds = {f.kind for f in analyse(rested(build, patch), kit, MAN).findings}
            self.assertEqual(shoulder.SLIPS_OFF in kinds, slips)

    def test_what_is_warned_of_already_counts_again_once_it_goes_noticeably_farther(self) -> None:
        """Twice the mass presses twice as hard; a twentieth more, or less of it, nobody can tell."""
        build, kit = shoulder_build((block("m", 4.0, category=Category.BODY), 0.0))
        rig = rested(build, Shoulder(span_x=0.05, span_y=0.05))
        now = analyse(rig, kit, MAN)
        for factor, worse in ((1.05, False), (0.9, False), (1.3, True), (2.0, True)):
            heavier = {**kit, "m": replace(kit["m"], mass=4.0 * factor)}
            then = analyse(rig, heavier, MAN)
            self.assertEqual([f.kind for f in worse_warnings(now, then)], [shoulder.SORE_PAD] * worse, factor)
            self.assertEqual(new_warnings(now, then), ())

    def test_under_a_makers_least_less_is_worse(self) -> None:
        """A harness is made for so much at least: what goes farther below it is worse, what comes nearer is not."""
        build, kit = shoulder_build((block("m", 4.0, category=Category.BODY), 0.0))
        rig = with_settings(replace(build, support="harness"), HarnessSettings(least=8.0, most=20.0))
        now = analyse(rig, kit, MAN)
        for mass, worse in ((3.0, True), (4.5, False)):
            then = analyse(rig, {**kit, "m": replace(kit["m"], mass=mass)}, MAN)
            self.assertEqual(harness.UNDER_LEAST in [f.kind for f in worse_warnings(now, then)], worse)

    def test_over_a_makers_limit_a_little_more_is_worse(self) -> None:
        build, kit = shoulder_build((block("m", 10.0, category=Category.BODY), 0.0))
        rig = with_settings(replace(build, support="harness"), HarnessSettings(least=1.0, most=8.0))
        now = analyse(rig, kit, MAN)
        for mass, worse in ((10.05, False), (10.3, True), (9.0, False)):
            then = analyse(rig, {**kit, "m": replace(kit["m"], mass=mass)}, MAN)
            self.assertEqual([f.kind for f in worse_warnings(now, then)], [harness.OVER_LIMIT] * worse, mass)

    def test_two_that_meet_already_are_counted_by_themselves(self) -> None:
        """One clash grows deeper while another that is deeper by far stays."""
        first, second = block("a", 1.0), block("b", 1.0)
        third, fourth = block("c", 1.0), block("d", 1.0)
        build, kit = shoulder_build((first, -0.30), (second, -0.21), (third, 0.20), (fourth, 0.25))
        now = analyse(build, kit, MAN)
        deeper = analyse(build.with_placed(replace(build.placed("b"), setting=-0.22)), kit, MAN)
        self.assertEqual([set(f.placed_ids) for f in worse_warnings(now, deeper)], [{"a", "b"}])
        apart = analyse(build.with_placed(replace(build.placed("b"), setting=-0.205)), kit, MAN)
        self.assertEqual(worse_warnings(now, apart), ())

    def test_sideways_tolerance_is_the_half_patch_less_the_doubt(self) -> None:
        build, kit = shoulder_build((block("m", 4.0, (0.1, 0.02, 0.1), Category.BODY), 0.1))
        analysis = analyse(rested(build, Shoulder(span_y=0.09)), kit, MAN)
        target = target_of(analysis)
        aside = 0.045 - 2.0 * float(analysis.spread.cg[1])
        self.assertAlmostEqual(target.forms[1].tolerance, aside * analysis.body.mass)
        self.assertAlmostEqual(target.tolerance, TOLERANCE / STANDARD_GRAVITY)
        robust = robust_target(analysis, target)
        self.assertEqual(len(robust.forms), 4)
        self.assertLessEqual(max(form.within for form in robust.forms[2:]), 0.030)

    def test_what_sways_the_mark_is_k_2(self) -> None:
        parts = (
            (block("camera", 3.0, category=Category.BODY), 0.05),
            (block("guess", 1.0, known=HowKnown.GUESSED), 0.35),
        )
        build, kit = shoulder_build(*parts)
        analysis = analyse(build, kit, MAN)
        first = influences(analysis)[0]
        self.assertEqual(analysis.assembly.parts[first.part].id, "guess")
        mark = 0.05 - analysis.equilibrium.tip_moment / (3.0 * STANDARD_GRAVITY)
        self.assertAlmostEqual(mark, 0.05 - (3.0 * 0.05 + 1.0 * 0.35) / 3.0)
        self.assertAlmostEqual(first.shift, 2.0 * 0.15 * 1.0 * 0.35 / 3.0, delta=1e-6)
