"""Facts that one figure of the core stands on, each from a table, a closed form or plain geometry."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import new_warnings, worse_warnings
from equilix.core.assembly.build import Brace, Hold, Operator, Sex, Side, Take
from equilix.core.carry.carried import (
    Carry,
    carry,
    disc_compression,
    gaze_down,
    head_bend,
    head_lever,
    reserves,
    rest_for,
    screen_from_eye,
    see_saw,
    steadiness,
)
from equilix.core.chosen import with_hold, with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown, MountKind
from equilix.core.kit.records import Shared
from equilix.core.kit.uncertainty import mass_uncertainty
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.body import arm_weights, body_of, reach_for
from equilix.core.operator.endurance import POWER_LAW, HoldTime, hold_time
from equilix.core.operator.fatigue import RATES, REST_FACTOR
from equilix.core.operator.head import head_beside, lean_needed
from equilix.core.operator.lifting import Coupling, Lift, lift_from, recommended_limit
from equilix.core.operator.strength import BodyJoint, capacity
from equilix.core.solver.dead_weight import weight_block
from equilix.core.solver.sensitivity import influences
from equilix.core.solver.targets import TOLERANCE, robust_target, target_of
from equilix.core.statics.grasps import thickness_of
from equilix.core.statics.pad import Shoulder, rest
from equilix.core.statics.pose import ABOVE_HIP, BELLY, COLLAR, ON_THIGHS
from equilix.core.uncertainty.montecarlo import Reason, draw_rigs, odds
from equilix.core.uncertainty.output_model import CG_AHEAD, SLIDE_TO_LEVEL, TOTAL_MASS, output_model
from equilix.core.units import from_display, to_display
from equilix.io.shipped import demo_book
from equilix.supports.harness import mechanics as harness
from equilix.supports.harness.settings import HarnessSettings
from equilix.supports.shoulder import mechanics as shoulder
from tests.core.builders import OPERATOR, block, grip, rested, shoulder_build

BOOK = demo_book()
MAN = Operator("m", "M", 1.80, 80.0, sex=Sex.MALE)
WOMAN = Operator("w", "W", 1.64, 60.0, sex=Sex.FEMALE)


class Lifting(unittest.TestCase):
    """Waters et al. (1993), Applications Manual, table of multipliers."""

    def test_each_multiplier_alone(self) -> None:
        best = Lift(0.25, 0.75, 0.25)
        self.assertAlmostEqual(recommended_limit(best), 23.0)
        self.assertAlmostEqual(recommended_limit(replace(best, ahead=0.50)), 23.0 * 0.5)
        self.assertAlmostEqual(recommended_limit(replace(best, height=0.25)), 23.0 * (1 - 0.003 * 50))
        self.assertAlmostEqual(recommended_limit(replace(best, height=1.25)), 23.0 * (1 - 0.003 * 50))
        self.assertAlmostEqual(recommended_limit(replace(best, way=1.00)), 23.0 * (0.82 + 4.5 / 100))
        self.assertAlmostEqual(recommended_limit(replace(best, twist=math.radians(45))), 23.0 * (1 - 0.0032 * 45))
        self.assertEqual(recommended_limit(replace(best, twist=math.radians(136))), 0.0)
        self.assertEqual(recommended_limit(replace(best, way=1.80)), 0.0)
        self.assertAlmostEqual(recommended_limit(replace(best, ahead=0.26)), 23.0 * 25 / 26)
        self.assertAlmostEqual(recommended_limit(replace(best, way=0.26)), 23.0 * (0.82 + 4.5 / 26))
        self.assertAlmostEqual(recommended_limit(replace(best, ahead=0.63)), 23.0 * 25 / 63)
        self.assertAlmostEqual(recommended_limit(replace(best, height=1.75)), 23.0 * (1 - 0.003 * 100))
        self.assertAlmostEqual(recommended_limit(replace(best, way=1.75)), 23.0 * (0.82 + 4.5 / 175))
        self.assertAlmostEqual(recommended_limit(replace(best, twist=math.radians(135))), 23.0 * (1 - 0.0032 * 135))
        self.assertAlmostEqual(recommended_limit(best, 0.85), 23.0 * 0.85)
        low = replace(best, height=0.74)
        for coupling, factor in ((Coupling.GOOD, 1.0), (Coupling.FAIR, 0.95), (Coupling.POOR, 0.90)):
            limit = 23.0 * (1 - 0.003 * 1) * factor
            self.assertAlmostEqual(recommended_limit(replace(low, coupling=coupling)), limit)
        self.assertAlmostEqual(recommended_limit(replace(best, coupling=Coupling.FAIR)), 23.0)
        self.assertAlmostEqual(recommended_limit(replace(best, coupling=Coupling.POOR)), 23.0 * 0.90)

    def test_from_the_floor_to_the_shoulder(self) -> None:
        begins, ends = lift_from("floor", 1.45)
        self.assertAlmostEqual(begins.way, 1.20)
        self.assertEqual((begins.height, ends.height), (0.25, 1.45))
        self.assertAlmostEqual(recommended_limit(ends), 23.0 * 25 / 35 * (1 - 0.003 * 70) * (0.82 + 4.5 / 120))


class Bodies(unittest.TestCase):
    """Drillis and Contini (1966), in Winter (2009), fig. 4.1, over stature; shoes 27 mm."""

    def test_heights_and_a_measured_shoulder_takes_the_trunk_with_it(self) -> None:
        body = body_of(MAN)
        self.assertAlmostEqual(float(body.hips[2]), 0.530 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.eye[2]), 0.936 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.neck[2]), 0.848 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.low_back[2]), 0.588 * 1.80 + 0.027)
        self.assertAlmostEqual(float(body.shoulder_left[1]), 0.129 * 1.80)
        tall = body_of(replace(MAN, shoulder_height=1.55))
        longer = (1.55 - 0.530 * 1.80) / (0.288 * 1.80)
        self.assertAlmostEqual(float(tall.low_back[2] - tall.hips[2]), longer * 0.058 * 1.80)
        self.assertAlmostEqual(float(tall.neck[2] - tall.hips[2]), longer * 0.318 * 1.80)
        self.assertAlmostEqual(body_of(replace(MAN, reach=0.75)).reach, 0.75)

    def test_seated_all_of_the_trunk_comes_down_by_the_thigh(self) -> None:
        stands, sits = body_of(MAN), body_of(MAN, True)
        for one, other in ((stands.eye, sits.eye), (stands.neck, sits.neck), (stands.low_back, sits.low_back)):
            self.assertAlmostEqual(float(one[2] - other[2]), (0.530 - 0.285) * 1.80)
        self.assertAlmostEqual(sits.thigh_top, 0.285 * 1.80 + 0.027 + 0.045 * 1.80)

    def test_elbow_and_wrist_lie_where_the_links_meet(self) -> None:
        """Two links and their law of cosines; the elbow hangs below the line from shoulder to grip."""
        body = body_of(MAN)
        grip_at = body.shoulder(Side.LEFT) + np.array([0.30, -0.05, -0.25])
        arm = reach_for(body, Side.LEFT, grip_at)
        self.assertAlmostEqual(float(np.linalg.norm(arm.elbow - arm.shoulder)), 0.186 * 1.80)
        self.assertAlmostEqual(float(np.linalg.norm(arm.grip - arm.elbow)), (0.146 + 0.040) * 1.80)
        self.assertAlmostEqual(float(np.linalg.norm(arm.wrist - arm.elbow)), 0.146 * 1.80)
        np.testing.assert_allclose(arm.grip, grip_at, atol=1e-12)
        middle = arm.shoulder + (arm.grip - arm.shoulder) * float(
            (arm.elbow - arm.shoulder)
            @ (arm.grip - arm.shoulder)
            / ((arm.grip - arm.shoulder) @ (arm.grip - arm.shoulder))
        )
        self.assertLess(float(arm.elbow[2]), float(middle[2]))
        straight = reach_for(body, Side.LEFT, body.shoulder(Side.LEFT) + np.array([2.0, 0.0, 0.0]))
        self.assertFalse(straight.reached)
        self.assertAlmostEqual(straight.elbow_angle, 0.0, delta=0.05)
        self.assertAlmostEqual(straight.elevation, math.pi / 2, delta=0.05)

    def test_angles_of_an_arm_on_either_side(self) -> None:
        """Plain geometry: elevation from hanging, tuck outwards, the elbow's bend between the links."""
        body = body_of(MAN)
        for side, out in ((Side.LEFT, 1.0), (Side.RIGHT, -1.0)):
            arm = reach_for(body, side, body.shoulder(side) + np.array([0.25, out * 0.15, -0.30]))
            upper, fore = arm.elbow - arm.shoulder, arm.grip - arm.elbow
            lengths = float(np.linalg.norm(upper) * np.linalg.norm(fore))
            self.assertAlmostEqual(arm.elbow_angle, math.acos(float(upper @ fore) / lengths))
            self.assertAlmostEqual(arm.elevation, math.acos(-float(upper[2]) / float(np.linalg.norm(upper))))
            self.assertAlmostEqual(arm.tuck, math.atan2(out * float(upper[1]), -float(upper[2])))

    def test_segment_weights(self) -> None:
        """Winter (2009), table 4.1: hand 0.006, forearm 0.016, upper arm 0.028 of the body; centres from above."""
        body = body_of(MAN)
        arm = reach_for(body, Side.RIGHT, body.shoulder(Side.RIGHT) + np.array([0.2, 0.0, -0.4]))
        upper, fore, hand = arm_weights(body, arm)
        self.assertAlmostEqual(upper.mass + fore.mass + hand.mass, 0.050 * 80.0)
        np.testing.assert_allclose(upper.centre, arm.shoulder + 0.436 * (arm.elbow - arm.shoulder), atol=1e-12)
        np.testing.assert_allclose(fore.centre, arm.elbow + 0.430 * (arm.wrist - arm.elbow), atol=1e-12)
        self.assertAlmostEqual(float(np.linalg.norm(hand.centre - arm.wrist)), 0.506 * 0.0495 * 1.80)


class Strength(unittest.TestCase):
    def test_regressions_away_from_a_right_angle(self) -> None:
        """Chaffin and Andersson after Stobbe (1982), from memory: worked out by hand at an included angle of 120."""
        bent, raised = math.radians(60.0), math.radians(30.0)
        elbow = (336.29 + 1.544 * 120 - 0.0085 * 120**2 - 0.5 * 30) * 0.1913
        shoulder = (227.338 + 0.525 * 120 - 0.296 * 30) * 0.1495
        self.assertAlmostEqual(capacity(MAN, BodyJoint.ELBOW, bent, raised), elbow)
        self.assertAlmostEqual(capacity(WOMAN, BodyJoint.SHOULDER, bent, raised), shoulder)
        self.assertEqual(capacity(replace(MAN, grip_strength=431.0, strength=2.0), BodyJoint.HAND), 431.0)
        said = replace(MAN, sex=Sex.UNSAID)
        self.assertAlmostEqual(capacity(said, BodyJoint.HIP), math.sqrt(190.0 * 97.0))
        self.assertAlmostEqual(capacity(replace(MAN, strength=1.5), BodyJoint.NECK), 1.5 * 52.0)

    def test_what_was_not_measured_stands_in_by_its_neighbour(self) -> None:
        """Wrist as hand, neck and hip as trunk; factors at rest 30 for shoulder and hand: Looft (2018), memory."""
        self.assertEqual(RATES[BodyJoint.WRIST], RATES[BodyJoint.HAND])
        self.assertEqual({RATES[j] for j in (BodyJoint.NECK, BodyJoint.HIP, BodyJoint.LOW_BACK)}, {(0.00755, 0.00075)})
        self.assertEqual(RATES[BodyJoint.HAND], (0.0098, 0.00064))
        self.assertEqual(POWER_LAW[BodyJoint.WRIST], POWER_LAW[BodyJoint.HAND])
        self.assertEqual({POWER_LAW[j] for j in (BodyJoint.NECK, BodyJoint.HIP, BodyJoint.LOW_BACK)}, {(22.69, -2.27)})
        long = {BodyJoint.SHOULDER, BodyJoint.HAND, BodyJoint.WRIST}
        self.assertEqual({j: REST_FACTOR[j] for j in BodyJoint}, {j: 30.0 if j in long else 15.0 for j in BodyJoint})

    def test_band_of_a_holding_time(self) -> None:
        """Frey-Law and Avin (2010), t = b0 f^b1; a capacity off by 30 % each way."""
        found = hold_time(BodyJoint.LOW_BACK, 0.5)
        self.assertAlmostEqual(found.by_power, 22.69 * 0.5**-2.27)
        self.assertLess(found.low, found.likely)
        self.assertAlmostEqual(found.low, hold_time(BodyJoint.LOW_BACK, 0.5 / 0.7).likely)
        self.assertAlmostEqual(found.high, hold_time(BodyJoint.LOW_BACK, 0.5 / 1.3).likely)
        bound = hold_time(BodyJoint.LOW_BACK, 0.05)
        self.assertTrue(bound.beyond)
        self.assertLess(hold_time(BodyJoint.LOW_BACK, 0.10).low, bound.low)
        self.assertIsInstance(bound, HoldTime)


class HeadAndEye(unittest.TestCase):
    def test_the_head_beside_the_pad_on_either_side(self) -> None:
        """NASA-STD-3000, from memory: 0.155 by 0.195 m; eye over shoulder by Drillis and Contini."""
        for side, inward in ((Side.RIGHT, 1.0), (Side.LEFT, -1.0)):
            head = head_beside(np.array([0.1, 0.02, -0.1]), replace(MAN, shoulder=side))
            self.assertAlmostEqual(float(head.centre[0]), 0.115)
            self.assertAlmostEqual(float(head.centre[1]), 0.02 + inward * 0.10)
            self.assertAlmostEqual(float(head.centre[2]), -0.1 + (0.936 - 0.818) * 1.80)
            self.assertAlmostEqual(head.high - head.low, (1.0 - 0.870) * 1.80)
            self.assertAlmostEqual(head.high - float(head.centre[2]), 0.064 * 1.80)

    def test_how_far_a_box_pushes_an_ellipse(self) -> None:
        head = head_beside(np.zeros(3), MAN)
        z, x = float(head.centre[2]), float(head.centre[0])
        inner = 0.10 - 0.0775
        low, high = np.array([[x - 0.01, -0.05, z - 0.02]]), np.array([[x + 0.01, inner + 0.03, z + 0.02]])
        self.assertAlmostEqual(float(lean_needed(head, 1.0, low, high)[0]), 0.03)
        ahead = np.array([x + 0.06 - (x - 0.01), 0.0, 0.0])
        at = 0.06 / 0.0975
        narrower = 0.10 - 0.0775 * math.sqrt(1 - at * at)
        pushed = float(lean_needed(head, 1.0, low + ahead, high + ahead)[0])
        self.assertAlmostEqual(pushed, max(inner + 0.03 - narrower, 0.0))
        above = np.array([0.0, 0.0, head.high - z + 0.03])
        self.assertEqual(float(lean_needed(head, 1.0, low + above, high + above)[0]), 0.0)
        behind = np.array([-0.2, 0.0, 0.0])
        self.assertEqual(float(lean_needed(head, 1.0, low + behind, high + behind)[0]), 0.0)

    def test_gaze_and_neck(self) -> None:
        self.assertAlmostEqual(gaze_down(np.array([0.3, 0.4, -0.5])), math.pi / 4)
        self.assertEqual(head_bend(math.radians(20)), 0.0)
        self.assertAlmostEqual(head_bend(math.radians(50)), math.radians(20))
        self.assertAlmostEqual(head_bend(math.radians(-10)), math.radians(-10))
        self.assertAlmostEqual(head_lever(math.radians(120)), head_lever(math.radians(90)))

    def test_the_nearest_screen_ahead_of_the_eye(self) -> None:
        parts = (
            (block("near", 0.3, category=Category.MONITOR), 0.25),
            (block("far", 0.3, category=Category.MONITOR), 0.45),
            (block("behind", 0.3, category=Category.MONITOR), -0.3),
        )
        analysis = analyse(*shoulder_build(*parts), MAN)
        body = body_of(MAN)
        way = screen_from_eye(analysis.assembly, analysis.positions, body, body.eye - np.array([0.05, 0.0, 0.0]))
        self.assertAlmostEqual(float(way[0]), 0.25 - 0.05)


class Spine(unittest.TestCase):
    def test_each_muscle_by_its_lever(self) -> None:
        """Chaffin and Andersson: extensors 5 cm, abdominals 8 cm, side 7.5 cm."""
        self.assertAlmostEqual(disc_compression(400.0, np.array([0.0, 20.0, 0.0])), 400.0 + 20.0 / 0.050)
        self.assertAlmostEqual(disc_compression(400.0, np.array([0.0, -20.0, 0.0])), 400.0 + 20.0 / 0.080)
        self.assertAlmostEqual(disc_compression(400.0, np.array([-15.0, 0.0, 9.0])), 400.0 + 15.0 / 0.075)

    def test_see_saw_by_hand(self) -> None:
        hands = np.array([0.2, 0.1, 0.0]), np.array([0.2, -0.1, 0.0])
        self.assertAlmostEqual(see_saw(4.0, np.array([0.27, 0.0, 0.05]), *hands), 4.0 * STANDARD_GRAVITY * 0.07)
        self.assertAlmostEqual(see_saw(4.0, np.array([0.13, 0.0, 0.05]), *hands), -4.0 * STANDARD_GRAVITY * 0.07)
        # Whichever grip is named first, and whichever of them is higher.
        for left, right in ((0.02, -0.03), (-0.03, 0.22), (-0.3, 0.02)):
            pair = np.array([[0.06, 0.12, left], [0.02, -0.12, right]])
            cg = np.array([0.13, 0.01, 0.05])
            # By hand: the line passes x = 0.04 + 0.04 y/0.24 at the CG's y, seen from above; u is along it.
            ahead = 0.13 - (0.04 + 0.04 * 0.01 / 0.24)
            size = math.sqrt(0.04**2 + 0.24**2 + (left - right) ** 2)
            for one, other in ((0, 1), (1, 0)):
                self.assertAlmostEqual(
                    abs(see_saw(4.0, cg, pair[one], pair[other])),
                    4.0 * STANDARD_GRAVITY * ahead * 0.24 / size,
                    places=9,
                )
                self.assertEqual(see_saw(4.0, cg, pair[one], pair[other]) > 0.0, see_saw(4.0, cg, *pair) > 0.0)
                level = np.array([[0.06, 0.12, 0.0], [0.06, -0.12, 0.0]])
                self.assertEqual(see_saw(4.0, cg, pair[one], pair[other]) > 0.0, see_saw(4.0, cg, *level) > 0.0)
        self.assertEqual(see_saw(4.0, np.zeros(3), hands[0], hands[0]), 0.0)


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


class Poses(unittest.TestCase):
    def held(self, brace: Brace, **more: float) -> Carry:
        build, kit = shoulder_build(
            (block("camera", 2.0, (0.2, 0.1, 0.12), Category.BODY), 0.1),
            (grip("l"), 0.25),
            (grip("r"), 0.22),
        )
        way = Hold(brace=brace, **more)
        found = carry(analyse(with_hold(build, way, "handheld"), kit, MAN), MAN, "handheld")
        assert isinstance(found, Carry)
        return found

    def test_where_a_rig_rests_on_thighs_hip_and_chest(self) -> None:
        sits = self.held(Brace.KNEES)
        middle = np.mean([p.point for p in sits.pose.places], axis=0) + sits.shift
        self.assertAlmostEqual(float(middle[0]), ON_THIGHS * MAN.stature)
        hip = self.held(Brace.HIP).pose.contacts[0]
        self.assertAlmostEqual(float(hip.point[2]), (0.530 + ABOVE_HIP) * 1.80 + 0.027)
        self.assertAlmostEqual(float(hip.normal[0]), math.sqrt(0.5))
        chest = self.held(Brace.CHEST, below=0.0).pose.contacts[0]
        body = body_of(MAN)
        self.assertAlmostEqual(float(chest.point[0]), 0.062 * 1.80)
        self.assertLessEqual(float(chest.point[2]), float(body.shoulder_right[2]) - COLLAR * 1.80 + 1e-9)
        low = self.held(Brace.CHEST, below=0.9).pose.contacts[0]
        self.assertAlmostEqual(float(low.point[2]), float(body.hips[2]) + BELLY * 1.80)

    def test_ribs_push_a_tucked_elbow_straight_out_of_the_trunk(self) -> None:
        """The trunk an ellipse from above, 0.062 H deep and 0.088 H broad each way: its normal is its gradient."""
        found = self.held(Brace.ELBOWS, ahead=0.30, below=0.34)
        self.assertTrue(found.pose.props)
        for prop in found.pose.props:
            elbow = found.pose.arms[prop.hand].elbow
            gradient = np.array([elbow[0] / (0.062 * 1.8) ** 2, elbow[1] / (0.088 * 1.8) ** 2, 0.0])
            np.testing.assert_allclose(prop.normal, gradient / np.linalg.norm(gradient), atol=1e-9)

    def test_where_the_hands_are_told_to_be(self) -> None:
        found = self.held(Brace.NONE, ahead=0.31, below=0.22)
        middle = np.mean([p.point for p in found.pose.places], axis=0) + found.shift
        self.assertAlmostEqual(float(middle[0]), 0.31)
        self.assertAlmostEqual(float(body_of(MAN).shoulder_right[2] - middle[2]), 0.22)

    def test_the_leg_on_the_heavier_side(self) -> None:
        """Lever law between feet 0.30 m apart: the shoulder rig lies 0.10 m off the midline."""
        build = BOOK.builds[0]
        found = carry(analyse(build, BOOK.parts, MAN), MAN, "shoulder")
        assert isinstance(found, Carry)
        share = 0.5 - found.mass * float(found.cg[1]) / (found.mass + 80.0) / 0.30
        self.assertAlmostEqual(found.right_leg, share)
        hip = next(joint for joint in found.joints if joint.joint is BodyJoint.HIP)
        self.assertIs(hip.side, Side.RIGHT)

    def test_steadiness_is_a_ratio_about_the_pivot(self) -> None:
        """Parallel axes: I + m (y2 + z2) and so on, both bodies about one point."""
        build, kit = shoulder_build(
            (block("c", 2.0, (0.16, 0.1, 0.12), Category.BODY), 0.1), (block("b", 1.0, (0.06, 0.1, 0.14)), -0.2)
        )
        kit["base"] = replace(kit["base"], mass=0.0, outline=None)
        analysis = analyse(build, kit, MAN)
        pivot = np.array([0.02, -0.03, -0.1])
        rows = list(zip(analysis.assembly.mass, analysis.assembly.inertia, analysis.positions.cg, strict=True))[1:]
        total = sum(
            inertia + m * ((r - pivot) @ (r - pivot) * np.eye(3) - np.outer(r - pivot, r - pivot))
            for m, inertia, r in rows
        )
        m, inertia, r = rows[0]
        bare = inertia + m * ((r - pivot) @ (r - pivot) * np.eye(3) - np.outer(r - pivot, r - pivot))
        np.testing.assert_allclose(steadiness(analysis, pivot), np.diag(total) / np.diag(bare), rtol=1e-12)

    def test_rests_are_those_of_the_joint_that_needs_most(self) -> None:
        found = carry(analyse(BOOK.builds[2], BOOK.parts, WOMAN), WOMAN, "handheld")
        assert isinstance(found, Carry)
        runs = reserves(found, (Take(60.0, 30.0), Take(30.0, 0.0)), 1.0)
        self.assertEqual([run.joint for run in runs], [joint.joint for joint in found.joints])
        self.assertEqual(len(runs[0].time), 121)
        self.assertGreaterEqual(rest_for(found, 40.0), rest_for(found, 20.0))

    def test_what_a_hand_closes_round(self) -> None:
        """Common practice: a fist holds nothing thinner than 15 or thicker than 60 mm; 35 mm where it isn't told."""
        for wide, thick in ((0.020, 0.020), (0.010, 0.015), (0.090, 0.060)):
            part = replace(grip("l"), outline=replace(grip("l").outline, size=(wide, wide + 0.01, 0.1)))
            build, kit = shoulder_build((block("c", 2.0, category=Category.BODY), 0.0), (part, 0.2))
            analysis = analyse(build, kit, OPERATOR)
            place = next(p for p in analysis.equilibrium.pose.places)
            self.assertAlmostEqual(thickness_of(analysis.assembly, place, Hold()), thick)
        kit["l"] = replace(kit["l"], outline=None)
        bare = analyse(build, kit, OPERATOR)
        self.assertAlmostEqual(thickness_of(bare.assembly, bare.equilibrium.pose.places[0], Hold()), 0.035)


class Units(unittest.TestCase):
    def test_every_unit_that_is_shown(self) -> None:
        """NIST SP 811 (2008), appendix B: exact by definition."""
        pound, inch = 0.45359237, 0.0254
        force = pound * 9.80665
        for unit, value in {
            "mm": 1e-3, "cm": 1e-2, "m": 1.0, "in": inch, "kg": 1.0, "g": 1e-3, "lb": pound, "oz": pound / 16.0,
            "N": 1.0, "lbf": force, "N·m": 1.0, "lbf·in": force * inch,
            "°": math.pi / 180.0, "%": 0.01, "kPa": 1e3, "s": 1.0, "g·m²": 1e-3,
        }.items():  # fmt: skip
            self.assertAlmostEqual(from_display(3.0, unit), 3.0 * value, places=14)
            self.assertAlmostEqual(to_display(3.0 * value, unit), 3.0, places=12)


class DeadWeight(unittest.TestCase):
    def test_a_cube_of_steel_hangs_right_below_its_rod(self) -> None:
        """Steel 7850 kg/m3; 8 mm from the rod's middle to the block (common practice)."""
        part = weight_block(2.0, MountKind.LIGHT_RODS, "w")
        side = (2.0 / 7850.0) ** (1.0 / 3.0)
        self.assertEqual(part.outline.size, (side, side, side))
        self.assertAlmostEqual(part.feet[0].at[2], side / 2.0 + 0.008)
        self.assertEqual(part.feet[0].at[:2], (0.0, 0.0))


class Samples(unittest.TestCase):
    def test_each_kind_of_doubt_is_drawn_as_wide_as_it_is(self) -> None:
        """JCGM 101, 6.4: rectangular for a scale's step, normal for what is guessed, one gain for all of one scale."""
        rng = np.random.default_rng(3)
        for known, gain in ((HowKnown.WEIGHED, 0.0), (HowKnown.GUESSED, 0.0), (HowKnown.WEIGHED, 0.02)):
            part = block("m", 3.0, category=Category.BODY, known=known)
            if known is HowKnown.WEIGHED:
                part = replace(part, shared=(Shared("scale", gain, flat=True),) if gain else (Shared("none", 0.0),))
            build, kit = shoulder_build((part, 0.1))
            kit["base"] = replace(kit["base"], mass_u=0.0, shared=(Shared("none", 0.0),), cg_u=0.0)
            analysis = analyse(build, kit, MAN)
            drawn = draw_rigs(analysis, output_model(analysis), 20_000, rng)
            u = math.hypot(mass_uncertainty(part), gain)
            self.assertAlmostEqual(float(drawn.mass.std()) / u, 1.0, delta=0.02)
            self.assertAlmostEqual(float(drawn.mass.mean()), 4.0, delta=0.01)
            self.assertAlmostEqual(float(drawn.cg[:, 0].std()) / float(analysis.spread.cg[0]), 1.0, delta=0.03)

    def test_where_the_verdict_changes(self) -> None:
        """The edges of the pad's useful span, the limit of pressure (Holewijn), the ends of the slide."""
        build, kit = shoulder_build((block("camera", 3.0, category=Category.BODY), 0.1), (grip("l"), 0.3))
        analysis = analyse(rested(build, Shoulder(span_x=0.07, span_y=0.05)), kit, MAN)
        outputs = output_model(analysis)
        self.assertEqual([t.value for t in outputs.thresholds(CG_AHEAD)], [-0.035, 0.0, 0.035])
        self.assertEqual([t.value for t in outputs.thresholds(shoulder.LEFT)], [-0.025, 0.025])
        self.assertEqual([t.value for t in outputs.thresholds(shoulder.MARGIN)], [0.0])
        self.assertEqual([t.value for t in outputs.thresholds(shoulder.PRESSURE)], [14e3])
        for stop, found in zip((-0.6, 0.4), outputs.thresholds(SLIDE_TO_LEVEL), strict=True):
            self.assertAlmostEqual(found.value, stop)
        values = {g: float(outputs.values(g, outputs.now())[0]) for g in outputs.offered}
        rest_now = analysis.result.rest
        self.assertAlmostEqual(values[shoulder.MARGIN], min(0.035 - abs(rest_now.ahead), 0.025 - abs(rest_now.left)))
        self.assertAlmostEqual(values[shoulder.PRESSURE], values[shoulder.ON_SHOULDER] / (0.07 * 0.05))

    def test_ends_scatter_as_order_statistics_say(self) -> None:
        """Kendall and Stuart: sqrt(p (1 - p)/n) over the density, here 2.671 u/sqrt(n) at 2.5 %; 2 digits of u."""
        values = np.random.default_rng(4).normal(10.0, 2.0, 10_000)
        found = odds(TOTAL_MASS, values, 10.0, 2.0, (10.0, 13.92))
        self.assertAlmostEqual(found.scatter / (2.671 * found.u / 100.0), 1.0, delta=0.002)
        self.assertAlmostEqual(found.low, 10.0 - 1.96 * 2.0, delta=0.12)
        self.assertAlmostEqual(found.high, 10.0 + 1.96 * 2.0, delta=0.12)
        self.assertAlmostEqual(found.beyond[0], 0.5, delta=0.02)
        self.assertAlmostEqual(found.beyond[1], 0.025, delta=0.005)
        self.assertIs(found.why, Reason.AGREES)
        self.assertEqual(int(found.counts.sum()), int(((values >= found.edges[0]) & (values <= found.edges[-1])).sum()))

    def test_why_first_order_misleads(self) -> None:
        rng = np.random.default_rng(5)
        normal = rng.normal(0.0, 1.0, 20_000)
        flat = rng.uniform(-math.sqrt(3.0), math.sqrt(3.0), 20_000)
        for values, first_u, why in (
            (np.maximum(normal, 0.0), 1.0, Reason.FOLDED),
            (normal, 0.4, Reason.KINK),
            (np.exp(normal * 0.4) - 1.0, 0.45, Reason.LOPSIDED),
            (flat, 1.0, Reason.FLAT),
            (normal * 1.25, 1.0, Reason.BROAD),
        ):
            self.assertIs(odds(TOTAL_MASS, values, 0.0, first_u).why, why)


if __name__ == "__main__":
    unittest.main()
