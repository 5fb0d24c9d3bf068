"""What the demo builds cost the body, against statics and common practice."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Operator, Sex, Take
from equilix.core.assembly.mounts import mount_of
from equilix.core.carry.carried import Carry, carry, head_lever, see_saw
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category
from equilix.core.operator.strength import BodyJoint
from equilix.core.registry import support_for
from equilix.core.solver.lighten import split_takes
from equilix.core.statics.grasps import places
from equilix.core.statics.hanging import hang_angles
from equilix.core.statics.pose import Hindrance
from equilix.io.shipped import demo_book
from tests.rigs.plain import left_over, worn

#: On a tripod nobody carries the rig.
CARRYING = tuple(key for key in KEYS if support_for(key).carried)


class CoreOnDemoBuilds(unittest.TestCase):
    def setUp(self) -> None:
        self.book = demo_book()

    def carried(self, build_id: str, operator: Operator, support: str) -> Carry:
        found = carry(analyse(self.book.build(build_id), self.book.parts, operator), operator, support)
        assert isinstance(found, Carry)
        return found

    def test_everything_is_in_equilibrium(self) -> None:
        for build in worn(self.book):
            for operator in self.book.operators:
                for support in CARRYING:
                    c = self.carried(build.id, operator, support)
                    self.assertLess(abs(left_over(c.mass, c.cg, c.pad, c.held)).max(), 1e-9)
                    self.assertGreater(c.compression, 0.35 * operator.body_mass * 9.8)

    def test_on_the_shoulder_the_arms_do_far_less_than_in_two_hands(self) -> None:
        """Common practice: heavy rigs go on the shoulder because the arms give out first."""
        arms = {BodyJoint.SHOULDER, BodyJoint.ELBOW, BodyJoint.WRIST, BodyJoint.HAND}
        for build in worn(self.book):
            hands, shoulder = (
                max(j.share for j in self.carried(build.id, self.book.operators[0], s).joints if j.joint in arms)
                for s in ("handheld", "shoulder")
            )
            self.assertLess(shoulder, hands)

    def test_the_stronger_person_lasts_longer_and_left_mirrors_right(self) -> None:
        one = self.book.operators[0]
        weak, strong = (
            self.carried("wide", replace(one, strength=s), "handheld").worst.hold.likely for s in (0.8, 1.2)
        )
        self.assertGreater(strong, 1.3 * weak)
        woman, man = (self.carried("wide", replace(one, sex=s), "handheld") for s in (Sex.FEMALE, Sex.MALE))
        self.assertGreater(woman.worst.share, man.worst.share)

    def test_half_of_the_weight_in_each_hand_when_held_beside_the_cg(self) -> None:
        held = self.carried("long-zoom", self.book.operators[0], "handheld")
        self.assertAlmostEqual(sum(h.force[2] for h in held.held.hands), held.mass * 9.80665, places=6)
        self.assertIs(held.joints[0].joint, BodyJoint.NECK)

    def test_the_see_saw_is_the_weight_times_the_way_to_the_line_and_staggering_ends_it(self) -> None:
        """W times the distance in plan from the CG to the line, times the cosine of the line's slope."""
        rng = np.random.default_rng(5)
        for _ in range(100):
            cg, a, b = rng.uniform(-0.3, 0.3, (3, 3))
            plan = (a - b)[:2]
            away = abs(plan[0] * (cg - b)[1] - plan[1] * (cg - b)[0]) / np.linalg.norm(plan)
            slope = np.linalg.norm(plan) / np.linalg.norm(a - b)
            self.assertAlmostEqual(abs(see_saw(8.0, cg, a, b)), 8.0 * 9.80665 * away * slope, delta=1e-9)
        cg = np.array([0.05, 0.0, 0.1])
        self.assertAlmostEqual(
            see_saw(8.0, cg, np.array([0.0, 0.1, 0.0]), np.array([0.0, -0.1, 0.0])), 8.0 * 9.80665 * 0.05
        )
        self.assertAlmostEqual(see_saw(8.0, cg, np.array([0.15, 0.1, 0.0]), np.array([-0.05, -0.1, 0.0])), 0.0)

    def test_the_rig_hangs_by_its_handle_as_a_pendulum_does(self) -> None:
        carried = self.carried("long-zoom", self.book.operators[0], "handheld")
        analysis = analyse(self.book.build("long-zoom"), self.book.parts, self.book.operators[0])
        handle = next(
            analysis.positions.touch[i]
            for i, point in enumerate(analysis.assembly.touch_points)
            if point.category is Category.HANDLE
        )
        pitch, _ = hang_angles(np.array([1.0, 0.0, 1.0]) * (analysis.body.cg - handle))
        self.assertAlmostEqual(carried.handle.pitch, pitch, places=12)
        self.assertFalse(carried.handle.turns_over)

    def test_the_handle_takes_with_it_what_rides_on_it_and_says_where_its_slide_ends(self) -> None:
        """Set to what is said, the CG is straight below the handle: worked out afresh from the moved build."""
        for build in worn(self.book):
            analysis = analyse(build, self.book.parts, self.book.operators[0])
            hung = self.carried(build.id, self.book.operators[0], "handheld").handle
            if hung is None or hung.slide is None:
                continue
            placed = build.placed("handle")
            mount = mount_of(placed, build, self.book.parts)
            moved = build.with_placed(replace(placed, setting=placed.setting + hung.slide))
            after = analyse(moved, self.book.parts, self.book.operators[0])
            place = next(p for p in places(after.assembly, after.positions) if p.grasp.placed_id == "handle")
            self.assertAlmostEqual(float(after.body.cg[0] - place.point[0]), 0.0, places=9)
            stop = mount.high if hung.slide > 0.0 else mount.low
            self.assertAlmostEqual(abs(stop - placed.setting), hung.room, places=9)
            self.assertGreaterEqual(abs(hung.slide), abs(hung.ahead))
            self.assertEqual(analysis.body.mass, after.body.mass)

    def test_looking_up_and_far_down_strain_the_neck(self) -> None:
        """Vasavada (2001), from memory: 0.03 m upright, 0.11 m at 30 degrees; the eyes alone do 0 to 30 (practice)."""
        self.assertAlmostEqual(head_lever(math.radians(15)), 0.03)
        self.assertAlmostEqual(head_lever(math.radians(60)), 0.11)
        # The head is one piece: turned back by as much its centre is as far behind the turned neck's own line.
        ahead, above = (
            0.03,
            head_lever(math.radians(60)) / math.sin(math.radians(30)) - 0.03 / math.tan(math.radians(30)),
        )
        turned = ahead * math.cos(math.radians(-30)) + above * math.sin(math.radians(-30))
        self.assertAlmostEqual(head_lever(math.radians(-30)), turned)
        far = [head_lever(math.radians(-a)) for a in (60, 75, 90)]
        self.assertEqual(far[0], far[2])
        self.assertLess(abs(far[1]), math.hypot(ahead, above) + 1e-12)

    def first_parts(self, count: int) -> Analysis:
        build = self.book.build("long-zoom")
        return analyse(replace(build, parts=build.parts[:count]), self.book.parts, self.book.operators[0])

    def test_without_grips_pad_or_mass_it_says_why(self) -> None:
        operator = self.book.operators[0]
        self.assertIs(carry(self.first_parts(1), operator, "shoulder"), Hindrance.NO_PAD)
        self.assertIs(carry(self.first_parts(1), operator, "handheld"), Hindrance.NO_GRIPS)
        # The front-heavy rig before its grips are on.
        bare = self.first_parts(16)
        self.assertLess(bare.equilibrium.margins[0], 0.0)
        self.assertIs(carry(bare, operator, "shoulder"), Hindrance.NO_GRIPS)
        kit = {key: replace(part, mass=None) for key, part in self.book.parts.items()}
        empty = analyse(self.book.build("wide"), kit, operator)
        self.assertIs(carry(empty, operator, "shoulder"), Hindrance.NO_MASS)

    def test_a_rig_that_rests_without_hands_strains_no_arm(self) -> None:
        found = carry(self.first_parts(3), self.book.operators[0], "shoulder")
        assert isinstance(found, Carry)
        self.assertEqual([j.joint for j in found.joints], [BodyJoint.NECK, BodyJoint.LOW_BACK, BodyJoint.HIP])
        self.assertLess(abs(left_over(found.mass, found.cg, found.pad, found.held)).max(), 1e-9)

    def test_split_takes_keep_their_length_and_stay_within_the_safe_half(self) -> None:
        carried = self.carried("wide", replace(self.book.operators[0], strength=1.6), "handheld")
        safe = carried.safe
        takes = (Take(round(1.7 * safe), 60.0), Take(round(0.5 * safe), 60.0))
        cut = split_takes(carried, takes)
        assert cut is not None
        self.assertEqual(len(cut), 3)
        self.assertLessEqual(max(t.length for t in cut), safe)
        self.assertAlmostEqual(sum(t.length for t in cut), sum(t.length for t in takes), delta=3)
        self.assertIsNone(split_takes(carried, (Take(0.4 * safe, 60.0),)))


if __name__ == "__main__":
    unittest.main()
