"""Vest: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Placed
from equilix.core.chosen import with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Connection, Mount, MountKind
from equilix.core.measurement.lesson import CONTRADICTS
from equilix.core.operator.body import UPRIGHT, body_of, worn_place
from equilix.core.statics.sled import ELLIPTIC_K_HALF
from equilix.core.uncertainty.output_model import CG_AHEAD, TOTAL_MASS, output_model
from equilix.supports.vest import mechanics as vest
from equilix.supports.vest import outputs
from equilix.supports.vest.hanging import SOCKET, bearing_of
from equilix.supports.vest.mechanics import SUPPORT
from equilix.supports.vest.settings import Timed, VestSettings
from equilix.supports.vest.timing import readings_of, with_readings
from tests.rigs.plain import block
from tests.rigs.results import vest_result
from tests.rigs.sled_facts import found_on, sled_fastest
from tests.rigs.sleds import SOMEBODY, hanging, random_sled, with_lesson


class Limits(unittest.TestCase):
    def test_a_limit_that_is_just_met_is_kept_and_amounts_are_what_they_say(self) -> None:
        analysis, sled = hanging(2)
        mass = analysis.body.mass
        for name, kind, inside, beyond, amount in (
            ("most", vest.OVER_ARM, mass, mass - 1e-6, mass),
            ("least", vest.UNDER_ARM, mass, mass + 1e-6, mass),
            ("second", vest.TWO_TO_LIFT, mass + 2.6, mass + 2.6 - 1e-6, mass + 2.6),
            ("drop", vest.NO_DROP, sled_fastest(sled), sled_fastest(sled) - 1e-6, sled_fastest(sled) - 1e-6),
        ):
            self.assertNotIn(kind, found_on(analysis, **{name: inside}), name)
            said = found_on(analysis, **{name: beyond})[kind]
            self.assertAlmostEqual(said[0], amount, places=9)
            self.assertAlmostEqual(said[1], inside if name == "drop" else beyond, places=9)
        self.assertNotIn(vest.NO_RELEASE, found_on(analysis, release=True))
        self.assertNotIn(vest.ON_STOP, found_on(analysis, set_for=mass))
        self.assertNotIn(vest.ON_STOP, found_on(analysis))

    def test_top_heavy_says_by_how_much(self) -> None:
        build, kit = random_sled(3)
        low = build.with_placed(replace(build.placed("bearing"), setting=-0.2))
        analysis = analyse(low, kit, SOMEBODY)
        amount, limit = found_on(analysis)[vest.TOP_HEAVY]
        above = float(analysis.body.cg[2] - vest_result(analysis).bearing.point[2])
        self.assertAlmostEqual(amount, above)
        self.assertEqual(limit, 0.0)

    def test_the_verdict_changes_where_it_says(self) -> None:
        analysis, _ = hanging(2)
        settings = replace(vest.SUPPORT.settings(analysis.build), drop=2.4, room=0.3, shows=0.02)
        again = analyse(with_settings(analysis.build, settings), analysis.assembly.kit, SOMEBODY)
        for output, values in (
            (outputs.DROP, [2.1, 2.7]),
            (outputs.WOBBLE, [0.02]),
            (outputs.PITCH, [0.0]),
            (outputs.ROLL, [0.0]),
            (CG_AHEAD, [0.0]),
            (outputs.XZ, [0.0]),
            (outputs.YZ, [0.0]),
            (outputs.BACK, []),
            (TOTAL_MASS, []),
        ):
            np.testing.assert_allclose([t.value for t in output_model(again).thresholds(output)], values)


class Places(unittest.TestCase):
    def test_it_hangs_from_a_bearing_else_an_eyelet_else_the_highest_grip(self) -> None:
        build, kit = random_sled(3)
        touch = {
            "eye": Mount("eye", MountKind.EYELET, (0.0, 0.0, 0.3)),
            "grip": Mount("grip", MountKind.GRIP_POINT, (0.0, 0.0, 0.4)),
            "low": Mount("low", MountKind.GRIP_POINT, (0.0, 0.0, 0.1)),
        }
        without = tuple(p for p in build.parts if p.id != "bearing")

        def hung(*names: str, bearing: bool = False) -> tuple[str, bool, float]:
            mounts = (*kit["camera"].mounts, *(touch[name] for name in names))
            known = {**kit, "camera": replace(kit["camera"], mounts=mounts)}
            rig = build if bearing else replace(build, parts=without)
            analysis = analyse(rig, known, SOMEBODY)
            found = bearing_of(analysis.assembly, analysis.positions, None)
            camera = [p.id for p in rig.parts].index("camera")
            up = float(found.point[2] - analysis.positions.origin[camera, 2])
            return rig.parts[found.part].id, found.usual, round(up, 9)

        self.assertEqual(hung("eye", "grip", bearing=True)[:2], ("bearing", False))
        self.assertEqual(hung("eye", "grip"), ("camera", True, 0.3))
        self.assertEqual(hung("low", "grip"), ("camera", True, 0.4))
        analysis = analyse(replace(build, parts=without), kit, SOMEBODY)
        self.assertIsNone(bearing_of(analysis.assembly, analysis.positions, None))
        self.assertIsNone(analysis.result)

    def test_only_slides_with_mass_on_them_that_go_anywhere_balance(self) -> None:
        """Common practice: grips and focus are set by hand and lens; what does not move is no mark."""
        build, kit = random_sled(3)
        usual = {"bearing", "cross", "camera", "base", "battery", "screen"}
        self.assertEqual(SUPPORT.balancing(analyse(build, kit, SOMEBODY)), usual)
        rail = Mount("rail", MountKind.LIGHT_RODS, (0.0, 0.0, 0.05), Connection.SLIDE, (1.0, 0.0, 0.0), -0.1, 0.1)
        stuck = replace(rail, id="stuck", low=0.0, high=0.0)
        kit["camera"] = replace(kit["camera"], mounts=(*kit["camera"].mounts, rail, stuck))
        for category, counts in ((Category.GRIP, False), (Category.FOCUS, False), (Category.SENDER, True)):
            kit["more"] = block("more", 0.3, (0.05, 0.05, 0.05), category)
            for mount in ("rail", "stuck"):
                parts = (*build.parts, Placed("more", "more", "camera", mount, 0, 0.0))
                found = SUPPORT.balancing(analyse(replace(build, parts=parts), kit, SOMEBODY))
                self.assertEqual(found, usual | ({"more"} if counts and mount == "rail" else set()), (category, mount))

    def test_arm_vest_and_sled_push_where_they_hang(self) -> None:
        settings = replace(VestSettings(), reach=0.5, boom=0.3, socket=0.15, beside=0.12, left=True, hip_share=0.7)
        analysis = analyse(*random_sled(3, settings), SOMEBODY)
        pose, low = analysis.equilibrium.pose, body_of(SOMEBODY).low_back
        sled = pose.shift + np.array([*analysis.body.cg[:2], vest_result(analysis).bearing.point[2]])
        ahead, left = 0.15 + 0.5 * math.cos(0.3), 0.12 + 0.5 * math.sin(0.3)
        # All of it goes with the trunk, which leans back and aside: brought upright again it hangs where it was set.
        lean = pose.stance.lean
        self.assertNotEqual(lean, UPRIGHT)
        back = worn_place(SOMEBODY, np.zeros(3), lean)
        turn = np.column_stack([worn_place(SOMEBODY, axis, lean) - back for axis in np.eye(3)])

        def upright(point: np.ndarray) -> np.ndarray:
            return np.linalg.solve(turn, point - back)

        sled = upright(sled)
        np.testing.assert_allclose(sled[:2], [float(low[0]) + ahead, left], atol=1e-9)
        self.assertAlmostEqual(pose.borne, 0.3)
        arm, worn = pose.worn
        half = [float(low[0]) + 0.15 + 0.25 * math.cos(0.3), 0.12 + 0.25 * math.sin(0.3)]
        np.testing.assert_allclose(upright(arm.point)[:2], half, atol=1e-9)
        self.assertAlmostEqual(float(arm.force[2]), 2.6 * STANDARD_GRAVITY)
        self.assertAlmostEqual(float(worn.force[2]), 4.0 * STANDARD_GRAVITY)
        np.testing.assert_allclose(upright(worn.point)[:2], [float(low[0]), 0.0], atol=1e-9)
        # The arm's middle lies between the socket and the bearing, the vest between hips and neck.
        self.assertAlmostEqual(float(upright(arm.point)[2]), (float(sled[2]) + SOCKET * 1.75) / 2.0)
        self.assertTrue(float(low[2]) < float(upright(worn.point)[2]) < float(body_of(SOMEBODY).neck[2]))
        # Springs that hold more than hangs on them lift it.
        up = analyse(*random_sled(3, replace(settings, set_for=analysis.body.mass * 1.01)), SOMEBODY)
        self.assertGreater(float(up.equilibrium.pose.shift[2]), float(pose.shift[2]))


class Readings(unittest.TestCase):
    def test_drops_by_hand_are_as_sure_as_their_scatter_and_a_thumb(self) -> None:
        """The mean of n readings: s/sqrt(n), JCGM 100:2008, 4.2.3; what all share, a hand's tenth, does not shrink."""
        for tries in ((2.4,), (2.4, 2.5), (2.0, 2.9, 2.5, 2.2)):
            drop, lean = readings_of(Timed(tries, 6.0, pitch=0.01))
            self.assertEqual((drop.output, lean.output, lean.value), (outputs.DROP, outputs.PITCH, 0.01))
            self.assertAlmostEqual(drop.value, sum(tries) / len(tries))
            mean = sum(tries) / len(tries)
            scatter = math.sqrt(sum((t - mean) ** 2 for t in tries) / (len(tries) - 1)) if len(tries) > 1 else 0.0
            self.assertAlmostEqual(drop.u, math.hypot(0.1, scatter / math.sqrt(len(tries))))
        self.assertEqual(readings_of(Timed((), 6.0)), ())

    def test_a_reading_counts_for_the_mass_that_was_timed(self) -> None:
        settings = VestSettings(timed=Timed((2.0,), 6.0))
        for mass in (6.0, 6.0 + 5.9e-6):
            self.assertIs(settings.lesson(mass), settings.timed)
        for mass in (6.0 + 6.1e-6, 6.0 - 6.1e-6):
            self.assertIsNone(settings.lesson(mass))
        self.assertIsNone(VestSettings().lesson(6.0))
        light = VestSettings(timed=Timed((2.0,), 0.5))
        self.assertIs(light.lesson(0.5 + 9e-7), light.timed)

    def test_what_was_learned_is_kept_where_it_belongs(self) -> None:
        """A drop slower than the parts say lies with a CG that is nearer to the bearing, or more inertia; not aside."""
        analysis, sled = hanging(2)
        learned = with_readings(analysis, (sled.drop_time * 1.15,) * 3)
        self.assertGreater(learned.shift[2], 0.0)
        self.assertLess(abs(learned.shift[1]), 0.3 * learned.shift[2])
        self.assertGreater(learned.more_inertia, 0.0)
        self.assertEqual(learned.mass, analysis.body.mass)
        self.assertEqual(len(learned.tries), 3)
        after = analyse(with_lesson(analysis.build, learned), analysis.assembly.kit, SOMEBODY)
        there = vest_result(after).sled
        self.assertTrue(sled.drop_time < there.drop_time < sled.drop_time * 1.16)
        # What was learned of the inertia is in every figure that goes by it, and in no other.
        computed, plain = output_model(after), output_model(analysis)
        # I about the bearing by the parallel axis theorem; K(1/2) sqrt(I/(W L)): a quarter of a period from level.
        lever = math.hypot(there.offset[0], there.offset[2])
        about = there.swing + there.mass * lever**2
        drop = ELLIPTIC_K_HALF * math.sqrt(about / (STANDARD_GRAVITY * there.mass * lever))
        self.assertAlmostEqual(float(computed.values(outputs.DROP, computed.now())[0]), drop)
        self.assertAlmostEqual(there.swing - sled.swing, learned.more_inertia, delta=0.1 * abs(learned.more_inertia))
        for output in (outputs.PAN_INERTIA, outputs.XZ):
            was, then = (float(g.values(output, g.now())[0]) for g in (plain, computed))
            # The CG's shift alone moves these, by m d^2 or m x dz.
            self.assertAlmostEqual(
                then, was, delta=5.0 * abs(learned.shift[0]) + 2.0 * abs(learned.shift[2]) * 0.01 + 1e-6
            )
        leaned = with_readings(analysis, (), None, sled.lean[1] + 0.03)
        self.assertGreater(abs(leaned.shift[1]), 10.0 * abs(leaned.shift[0]))
        self.assertIsNone(with_readings(analysis, ()))
        # Outputs that were read are observed while nothing contradicts, and only then.
        self.assertEqual([output for output, _ in SUPPORT.observed(SUPPORT.case(after))], [outputs.DROP])
        wild = replace(learned, parted=CONTRADICTS + 1e-6)
        found = analyse(with_lesson(after.build, wild), after.assembly.kit, SOMEBODY)
        self.assertEqual(SUPPORT.observed(SUPPORT.case(found)), ())
        just = replace(learned, parted=CONTRADICTS)
        again = analyse(with_lesson(after.build, just), after.assembly.kit, SOMEBODY)
        self.assertEqual(len(SUPPORT.observed(SUPPORT.case(again))), 1)
        self.assertNotIn(vest.CONTRADICTED, {finding.kind for finding in again.findings})
