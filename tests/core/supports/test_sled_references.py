"""A sled: drops and spins against MuJoCo, arm and back against free bodies, findings and figures."""

from __future__ import annotations

import math
import unittest

import mujoco
import numpy as np
import scipy.optimize
from msgspec.structs import replace
from scipy import optimize
from scipy.integrate import quad
from scipy.special import ellipk

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Grasp
from equilix.core.carry.carried import Carry, carry, load_above
from equilix.core.chosen import with_settings
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY, rotation_about
from equilix.core.kit.parts import Foot, Mount, MountKind
from equilix.core.massprops.bodies import MassProperties, shift_inertia
from equilix.core.operator.body import body_of, worn_place
from equilix.core.registry import support_for
from equilix.core.solver.marks import marks_of
from equilix.core.solver.targets import target_of
from equilix.core.statics.sled import (
    ELLIPTIC_K_HALF,
    Sled,
    drop_time,
    fastest_drop,
    hidden_lean,
    leans_in,
    lever_for,
    sled_of,
    swing_from,
)
from equilix.core.statics.spring_arm import ankle_lean, floats, setting_for, shift_back
from equilix.core.support import ONE_SCREW, report_of, with_values
from equilix.core.uncertainty.montecarlo import draw_rigs, sample
from equilix.core.uncertainty.output_model import Samples, output_model, output_uncertainties
from equilix.supports.gimbal.mechanics import SUPPORT as GIMBAL
from equilix.supports.vest import mechanics as vest
from equilix.supports.vest import outputs
from equilix.supports.vest.hanging import arm_loads, worn_on
from equilix.supports.vest.mechanics import SUPPORT, springs_for
from equilix.supports.vest.outputs import wobble_uncertainties
from equilix.supports.vest.settings import VestSettings
from equilix.supports.vest.timing import with_readings
from tests.campaigns import campaign
from tests.rigs.results import vest_result
from tests.rigs.sleds import BOOK, SOMEBODY, X, Y, body_xml, hanging, hinges, left_of, random_sled, with_lesson


class Drops(unittest.TestCase):
    def test_drop_times_are_mujocos(self) -> None:
        for seed in range(8):
            analysis, sled = hanging(seed)
            model = mujoco.MjModel.from_xml_string(body_xml(analysis, hinges("0 1 0")))
            data = mujoco.MjData(model)
            # Hanging at rest, the sled leans; it is let go a quarter turn from that and stopped as it passes it.
            rest = sled.lean[0] if abs(float(sled.offset[1])) < 1e-12 else math.atan2(sled.offset[0], -sled.offset[2])
            data.qpos[0] = rest + math.pi / 2.0
            before = data.time
            while data.qpos[0] > rest:
                before, gone = data.time, data.qpos[0]
                mujoco.mj_step(model, data)
            met = before + (data.time - before) * (gone - rest) / (gone - data.qpos[0])
            with self.subTest(seed=seed):
                self.assertAlmostEqual(sled.drop_time / met, 1.0, delta=0.002)

    def test_the_formula_is_the_integral(self) -> None:
        # t = integral of d(angle)/rate from level to upright, energy kept: any dynamics text.
        for mass, swing, lever in ((10.0, 1.2, 0.007), (6.0, 0.5, 0.03), (14.0, 2.0, 0.2)):
            pivot = swing + mass * lever**2
            factor = math.sqrt(2.0 * mass * STANDARD_GRAVITY * lever / pivot)
            # cos(angle) = u^2 takes the pole at the start away.
            found = quad(lambda u, f=factor: 2.0 / (f * math.sqrt(1.0 - u**4)), 0.0, 1.0)[0]
            self.assertAlmostEqual(drop_time(mass, swing, lever), found, places=9)

    def test_handbook_values(self) -> None:
        # Abramowitz and Stegun, table 17.1: K(1/2) = 1.85407 46773.
        self.assertAlmostEqual(ELLIPTIC_K_HALF, float(ellipk(0.5)), places=10)
        lever = lever_for(2.45, 10.0, 1.2)
        self.assertAlmostEqual(lever, 0.007, delta=5e-5)
        self.assertAlmostEqual(drop_time(10.0, 1.2, lever), 2.45, places=12)

    def test_no_sled_falls_faster_than_its_fastest(self) -> None:
        for mass, swing in ((8.0, 0.6), (5.0, 0.2), (20.0, 3.0)):
            times = [drop_time(mass, swing, float(lever)) for lever in np.geomspace(1e-3, 3.0, 4000)]
            self.assertAlmostEqual(min(times), fastest_drop(mass, swing), delta=1e-5)
            self.assertIsNone(lever_for(0.999 * fastest_drop(mass, swing), mass, swing))
            self.assertIsNotNone(lever_for(1.001 * fastest_drop(mass, swing), mass, swing))

    def test_the_drawn_fall_is_mujocos(self) -> None:
        analysis, sled = hanging(3)
        model = mujoco.MjModel.from_xml_string(body_xml(analysis, hinges("0 1 0")))
        data = mujoco.MjData(model)
        rest = math.atan2(sled.offset[0], -sled.offset[2])
        data.qpos[0] = rest + math.pi / 2.0
        lever = math.hypot(sled.offset[0], sled.offset[2])
        while data.time < 1.7 * sled.drop_time:
            mujoco.mj_step(model, data)
            drawn = float(swing_from(math.pi / 2.0, np.array([data.time]), sled.mass, sled.swing, lever)[0])
            self.assertAlmostEqual(drawn, data.qpos[0] - rest, delta=2e-3)

    def test_a_top_heavy_sled_has_no_drop(self) -> None:
        body = MassProperties(5.0, np.array([0.0, 0.0, 0.01]), np.diag([0.3, 0.3, 0.05]))
        sled = sled_of(body, np.zeros(3))
        self.assertIsNone(sled.drop_time)
        self.assertIsNone(sled.lean)
        self.assertIsNone(sled.fastest_pan())


@campaign
class Spins(unittest.TestCase):
    def _spun(self, analysis: Analysis, axes: tuple[str, ...], rate: float, time: float, start: float) -> np.ndarray:
        """Return the greatest angles of all hinges but the pan, which turns at `rate`; the first starts off."""
        model = mujoco.MjModel.from_xml_string(body_xml(analysis, hinges(*axes)))
        data = mujoco.MjData(model)
        data.qvel[0] = rate
        data.qpos[1] += start
        most = np.zeros(len(axes) - 1)
        while data.time < time and most.max() < 1.0:
            # The hand keeps the pan steady.
            data.qvel[0] = rate
            mujoco.mj_step(model, data)
            most = np.maximum(most, np.abs(data.qpos[1:]))
        return most

    def test_a_sled_in_balance_stays_upright_and_another_leans_as_computed(self) -> None:
        build, kit = random_sled(5)
        before = analyse(build, kit, SOMEBODY)
        after = marks_of(before)[1]
        sled = vest_result(after).sled
        rate = 0.7 * sled.fastest_pan()
        most = self._spun(after, ("0 0 1", "0 1 0", "1 0 0"), rate, 20.0, 0.0)
        self.assertLess(math.degrees(most.max()), 0.1)
        # Its battery 2 mm aside of its mark: the post rests where pan and weight agree, to first order.
        moved = after.build.placed("battery")
        other = analyse(after.build.with_placed(replace(moved, setting=moved.setting + 0.002)), kit, SOMEBODY)
        lean = vest_result(other).sled.lean_in(rate)[0]
        model = mujoco.MjModel.from_xml_string(body_xml(other, hinges("0 0 1", "0 1 0")))
        data = mujoco.MjData(model)

        def turning(angle: float) -> float:
            data.qpos[:], data.qvel[:] = (0.0, angle), (rate, 0.0)
            mujoco.mj_forward(model, data)
            return float(data.qacc[1])

        rest = scipy.optimize.brentq(turning, lean - 0.2, lean + 0.2)
        self.assertAlmostEqual(lean, rest, delta=0.02 * abs(rest))

    def test_it_topples_past_the_fastest_pan_and_not_before(self) -> None:
        for seed in (1, 2, 4):
            build, kit = random_sled(seed)
            after = marks_of(analyse(build, kit, SOMEBODY))[1]
            fastest = vest_result(after).sled.fastest_pan()
            nudge = math.radians(0.05)
            with self.subTest(seed=seed):
                stays = self._spun(after, ("0 0 1", "0 1 0"), 0.85 * fastest, 12.0, nudge)
                falls = self._spun(after, ("0 0 1", "0 1 0"), 1.15 * fastest, 60.0, nudge)
                self.assertLess(stays.max(), 10.0 * nudge)
                self.assertGreater(falls.max(), math.radians(10.0))

    def test_products_are_about_the_bearing(self) -> None:
        analysis, sled = hanging(6)
        at = vest_result(analysis).bearing.point
        total = np.zeros((3, 3))
        for i in range(len(analysis.assembly.parts)):
            d = analysis.positions.cg[i] - at
            own = analysis.assembly.inertia[i]
            total += own + analysis.assembly.mass[i] * (d @ d * np.eye(3) - np.outer(d, d))
        np.testing.assert_allclose(sled.inertia, total, atol=1e-12)


class Uncertainties(unittest.TestCase):
    def test_first_order_and_sampling_agree(self) -> None:
        # Near balance a drop time and angles bend: there the sled is taken 25 mm below its bearing.
        analysis, _ = hanging(9)
        computed = output_model(analysis)
        first = output_uncertainties(computed)
        odds = sample(analysis, computed, 40_000)
        for output in (
            outputs.XZ,
            outputs.YZ,
            outputs.PAN_INERTIA,
            outputs.ON_VEST,
            outputs.BACK,
            outputs.DROP,
            outputs.FASTEST,
        ):
            with self.subTest(output=output):
                self.assertAlmostEqual(odds[output].u / first[output], 1.0, delta=0.1)

    def test_drawn_inertia_is_that_of_drawn_parts(self) -> None:
        # The same draws made part by part, everything recomputed.
        analysis, _ = hanging(7)
        computed = output_model(analysis)
        rng = np.random.default_rng(4)
        assembly, uncertainties = analysis.assembly, analysis.assembly.uncertainties
        found = []
        for _ in range(4000):
            mass = assembly.mass + rng.standard_normal(len(assembly.mass)) * uncertainties.mass
            errors = rng.standard_normal(uncertainties.cg.shape) * uncertainties.cg
            cg = analysis.positions.cg + np.einsum("nij,nj->ni", assembly.rotation, errors)
            c = mass @ cg / mass.sum()
            own = assembly.inertia * (1.0 + 0.15 * rng.standard_normal(len(mass)))[:, None, None]
            inertia = (own * (mass / assembly.mass)[:, None, None]).sum(axis=0)
            for m, r in zip(mass, cg - c, strict=True):
                inertia += m * (r @ r * np.eye(3) - np.outer(r, r))
            found.append([inertia[0, 0], inertia[1, 1], inertia[2, 2], inertia[0, 1], inertia[0, 2], inertia[1, 2]])
        samples = draw_rigs(analysis, computed, 20_000, np.random.default_rng(1))
        np.testing.assert_allclose(samples.seconds.std(axis=0), np.std(found, axis=0), rtol=0.07)
        np.testing.assert_allclose(samples.seconds.mean(axis=0), np.mean(found, axis=0), atol=1e-3)


class Measured(unittest.TestCase):
    def test_drops_and_leans_correct_the_figures(self) -> None:
        analysis, sled = hanging(8)
        wished = sled.drop_time * 1.08
        before = output_uncertainties(output_model(analysis))
        settings = with_readings(analysis, (wished, wished + 0.02, wished - 0.02), sled.lean[0] + 0.01, sled.lean[1])
        after = analyse(with_lesson(analysis.build, settings), analysis.assembly.kit, SOMEBODY)
        then, uncertainties = vest_result(after).sled, output_uncertainties(output_model(after))
        # The answer lies between what the parts say and what was read, as their uncertainties have it.
        self.assertTrue(sled.drop_time < then.drop_time <= wished + 1e-9)
        self.assertLess(uncertainties[outputs.DROP], before[outputs.DROP])
        self.assertLess(uncertainties[outputs.DROP], 0.10)
        self.assertLess(uncertainties[outputs.PITCH], before[outputs.PITCH])
        self.assertTrue(sled.lean[0] < then.lean[0] <= sled.lean[0] + 0.01)
        # A second search stands on what was measured.
        steps, done = marks_of(after)
        self.assertTrue(steps)
        self.assertAlmostEqual(vest_result(done).sled.drop_time, 2.5, places=6)

    def test_a_lesson_is_the_best_guess_of_many_rigs(self) -> None:
        # Of drawn rigs, those whose drop comes out near a reading: how their mean goes with it is what a lesson says.
        analysis, sled = hanging(8)
        computed = output_model(analysis)
        samples = draw_rigs(analysis, computed, 400_000, np.random.default_rng(3))
        times = computed.values(outputs.DROP, samples)
        means, lessons = [], []
        for share in (0.97, 1.07):
            weight = np.exp(-0.5 * ((times - share * sled.drop_time) / 0.10) ** 2)
            means.append(float(weight @ samples.cg[:, 2] / weight.sum()))
            lessons.append(with_readings(analysis, (share * sled.drop_time,)).shift[2])
        self.assertAlmostEqual((lessons[1] - lessons[0]) / (means[1] - means[0]), 1.0, delta=0.12)

    def test_a_reading_that_contradicts_names_a_part(self) -> None:
        analysis, sled = hanging(8)
        settings = with_readings(analysis, (2.2 * sled.drop_time,) * 3)
        after = analyse(with_lesson(analysis.build, settings), analysis.assembly.kit, SOMEBODY)
        finding = next(f for f in after.findings if f.kind == vest.CONTRADICTED)
        self.assertGreater(finding.amount, 3.0)
        # The likeliest cause is the part whose uncertainty moves the drop time most: each is moved by its uncertainty
        # in turn.
        moved = {}
        for part in analysis.assembly.kit.values():
            kit = dict(analysis.assembly.kit)
            change = 0.0
            for axis in range(3):
                cg = list(part.cg)
                cg[axis] += 0.1 * max(part.outline.size) * 0.05
                kit[part.id] = replace(part, cg=(cg[0], cg[1], cg[2]))
                other = vest_result(analyse(analysis.build, kit, SOMEBODY)).sled.drop_time
                change = math.hypot(change, other - sled.drop_time)
            moved[part.id] = change
        self.assertIn(finding.placed_ids[0], sorted(moved, key=lambda k: -moved[k])[:4])

    def test_other_parts_forget_the_reading(self) -> None:
        analysis, sled = hanging(8)
        settings = with_readings(analysis, (1.1 * sled.drop_time,))
        kit = dict(analysis.assembly.kit)
        kit["glass"] = replace(kit["glass"], mass=kit["glass"].mass + 0.1)
        build = with_lesson(analysis.build, settings)
        there = vest_result(analyse(build, kit, SOMEBODY)).sled
        bare = vest_result(analyse(with_lesson(build, None), kit, SOMEBODY)).sled
        self.assertEqual(there.drop_time, bare.drop_time)
        self.assertTrue(report_of(analyse(build, kit, SOMEBODY), SOMEBODY).said)

    def test_sampling_follows_what_was_measured(self) -> None:
        analysis, sled = hanging(9)
        settings = with_readings(analysis, (sled.drop_time,) * 3)
        after = analyse(with_lesson(analysis.build, settings), analysis.assembly.kit, SOMEBODY)
        computed = output_model(after)
        odds = sample(after, computed, 40_000)
        self.assertAlmostEqual(odds[outputs.DROP].u / output_uncertainties(computed)[outputs.DROP], 1.0, delta=0.1)


class ArmAndWearer(unittest.TestCase):
    def test_a_load_floats_where_the_springs_hold_it(self) -> None:
        for load, set_for in ((8.0, 8.0), (8.0, 8.2), (8.0, 7.7)):
            there = floats(load, set_for, 0.05, 0.25)
            held = set_for * (1.0 - 0.05 * there.height / there.reach)
            self.assertAlmostEqual(held, load, places=12)
            self.assertEqual(there.over, 0.0)
        self.assertAlmostEqual(floats(8.0, 7.0, 0.05, 0.25).over, 8.0 - 7.0 * 1.05, places=12)
        self.assertAlmostEqual(floats(8.0, 9.0, 0.05, 0.25).over, 8.0 - 9.0 * 0.95, places=12)
        # A little beyond either end it rests on it already.
        for load in (7.0 * 0.945, 7.0 * 1.055):
            end = floats(load, 7.0, 0.05, 0.25)
            self.assertEqual(abs(end.height), 0.25)
            self.assertAlmostEqual(abs(end.over), 7.0 * 0.005, places=12)
        self.assertAlmostEqual(floats(8.0, setting_for(8.0, 0.1, 0.05, 0.25), 0.05, 0.25).height, 0.1, places=12)
        # Higher or lower than it reaches is asked for as its end.
        for height, most in ((0.4, 1.0), (-0.4, -1.0)):
            self.assertAlmostEqual(setting_for(8.0, height, 0.05, 0.25), 8.0 / (1.0 - most * 0.05))

    def test_the_back_bears_sled_and_arm_wherever_the_boom_points(self) -> None:
        for boom, left in ((0.0, False), (40.0, False), (-70.0, True), (120.0, True)):
            settings = replace(VestSettings(), boom=math.radians(boom), left=left, set_for=7.0)
            build, kit = random_sled(3, settings)
            analysis = analyse(build, kit, SOMEBODY)
            on_it = vest_result(analysis)
            carried = carry(analysis, SOMEBODY, "vest")
            self.assertIsInstance(carried, Carry)
            lean = carried.pose.stance.lean
            bare = body_of(SOMEBODY, False, lean)
            own, _ = load_above(bare, (), (), (), bare.low_back)
            moment = carried.back_moment - own
            # Socket, bearing and the arm's middle go with the trunk, each where an upright body would have it.
            total = np.zeros(3)
            for one in worn_on(settings, analysis.body.mass, SOMEBODY):
                at = worn_place(SOMEBODY, one.at, lean) - bare.low_back
                total += np.cross(at, [0.0, 0.0, -one.mass * STANDARD_GRAVITY])
            with self.subTest(boom=boom):
                np.testing.assert_allclose(moment[:2], total[:2], atol=1e-5)
                np.testing.assert_allclose([on_it.bends, -on_it.sways], carried.back_moment[[1, 0]], atol=1e-6)
                self.assertAlmostEqual(on_it.load, (analysis.body.mass + 2.6) * STANDARD_GRAVITY, places=9)
                sled, arm, _ = worn_on(settings, analysis.body.mass, SOMEBODY)
                direction = np.array([math.cos(math.radians(boom)), math.sin(math.radians(boom)), 0.0])
                socket = np.array([0.17, 0.10 if left else -0.10, 0.0])
                low = body_of(SOMEBODY).low_back
                np.testing.assert_allclose((sled.at - low)[:2], (socket + 0.40 * direction)[:2], atol=1e-12)
                np.testing.assert_allclose((arm.at - low)[:2], (socket + 0.20 * direction)[:2], atol=1e-12)

    def test_the_wearer_leans_until_all_is_over_the_feet(self) -> None:
        # 75 kg with 12 kg at 0.45 m: 62 mm, about 3.7 degrees about the ankles (two bodies on a line).
        self.assertAlmostEqual(shift_back(75.0, [(12.0, 0.45)]), 12.0 * 0.45 / 87.0, places=12)
        self.assertAlmostEqual(math.degrees(ankle_lean(shift_back(75.0, [(12.0, 0.45)]), 0.95)), 3.7, delta=0.1)
        # Nobody leans farther than to lie down.
        self.assertEqual((ankle_lean(1.2, 1.0), ankle_lean(-1.2, 1.0)), (math.pi / 2.0, -math.pi / 2.0))
        analysis = analyse(*random_sled(3), SOMEBODY)
        on_it, settings = vest_result(analysis), vest.SUPPORT.settings(analysis.build)
        back, aside = on_it.shift
        loads = [
            *arm_loads(settings, analysis.body.mass),
            (settings.vest_mass, 0.0, 0.0),
            (SOMEBODY.body_mass, 0.0, 0.0),
        ]
        whole = sum(kg for kg, _, _ in loads)
        self.assertAlmostEqual(sum(kg * (ahead - back) for kg, ahead, _ in loads) / whole, 0.0, places=12)
        self.assertAlmostEqual(sum(kg * (left - aside) for kg, _, left in loads) / whole, 0.0, places=12)


class WithAGimbal(unittest.TestCase):
    def test_a_gimbal_on_the_arm_weighs_there_with_all_its_stages(self) -> None:
        build = next(one for one in BOOK.builds if one.support == "gimbal")
        build = with_settings(build, replace(GIMBAL.settings(build), carrier="vest"))
        self.assertEqual(support_for("gimbal").carrier(build), "vest")
        analysis = analyse(build, BOOK.parts, SOMEBODY)
        carried = carry(analysis, SOMEBODY, "vest")
        self.assertIsInstance(carried, Carry)
        whole = sum(BOOK.parts[placed.part_id].mass for placed in build.parts)
        self.assertAlmostEqual(float(carried.held.pad_force[2]), whole * STANDARD_GRAVITY, places=6)
        # From its frame it hangs on the arm by the eyelet, as nobody chose a place.
        on_it = vest_result(analyse(replace(build, support="vest"), BOOK.parts, SOMEBODY))
        self.assertTrue(on_it.bearing.usual)
        self.assertAlmostEqual(on_it.load, (whole + 2.6) * STANDARD_GRAVITY, places=9)

    def test_a_gimbal_on_a_sled_is_one_set_and_its_one_screw_is_named(self) -> None:
        kit = dict(BOOK.parts)
        hung = next(one for one in BOOK.builds if one.support == "gimbal")
        sled = next(one for one in BOOK.builds if one.support == "vest")
        stays = tuple(p for p in sled.parts if p.id not in ("plate", "body", "lens", "receiver"))
        screw = Mount("screw", MountKind.QUARTER_20, (0.0, 0.0, 0.034))
        kit["sled-stage"] = replace(kit["sled-stage"], mounts=(*kit["sled-stage"].mounts, screw))
        kit["gimbal-frame"] = replace(kit["gimbal-frame"], feet=(Foot(MountKind.QUARTER_20, (0.0, 0.0, -0.4)),))
        frame = replace(hung.parts[0], parent="stage", mount="screw")
        self.assertEqual((hung.parts[0].parent, hung.parts[0].id), (None, "frame"))
        build = replace(sled, parts=(*stays, frame, *hung.parts[1:]))
        analysis = analyse(build, kit, SOMEBODY)
        on_it = vest_result(analysis)
        x, y, xz, yz, _ = left_of(analysis)
        np.testing.assert_allclose(on_it.sled.offset[:2], (x, y), atol=1e-12)
        np.testing.assert_allclose(on_it.sled.products, (xz, yz), atol=1e-12)
        screws = [f for f in analysis.findings if f.kind == ONE_SCREW]
        self.assertIn("frame", [f.placed_ids[0] for f in screws])
        # 3 for shocks, the weight times its way from the screw: a free body of the gimbal alone.
        finding = next(f for f in screws if f.placed_ids[0] == "frame")
        ids = [p.id for p in build.parts]
        carried = [ids.index(i) for i in build.carried_by("frame")]
        mass = analysis.assembly.mass[carried]
        at = analysis.positions.origin[ids.index("stage")] + np.array(screw.at)
        away = mass @ analysis.positions.cg[carried] / mass.sum() - at
        self.assertAlmostEqual(finding.amount, 3.0 * mass.sum() * STANDARD_GRAVITY * np.linalg.norm(away), places=9)
        # As a gimbal, the sled is its frame: no stage of it.
        on = support_for("gimbal")
        stages = on.stages(on.case(analyse(replace(build, support="gimbal"), kit, SOMEBODY)))
        self.assertTrue(all(stages[ids.index(p.id)] == "frame" for p in stays))


class Findings(unittest.TestCase):
    def _kinds(self, settings: VestSettings, seed: int = 3, **slides: float) -> set[str]:
        build, kit = random_sled(seed, settings)
        for placed_id, setting in slides.items():
            build = build.with_placed(replace(build.placed(placed_id), setting=setting))
        return {str(finding.kind) for finding in analyse(build, kit, SOMEBODY).findings}

    def test_each_has_its_cause(self) -> None:
        usual = replace(VestSettings(), release=True)
        self.assertIn(vest.TOP_HEAVY, self._kinds(usual, bearing=-0.2))
        self.assertNotIn(vest.TOP_HEAVY, self._kinds(usual, bearing=0.2))
        self.assertIn(vest.OVER_ARM, self._kinds(replace(usual, least=1.0, most=4.0)))
        self.assertIn(vest.UNDER_ARM, self._kinds(replace(usual, least=9.0, most=20.0)))
        self.assertIn(vest.ON_STOP, self._kinds(replace(usual, set_for=3.0)))
        self.assertIn(vest.NO_RELEASE, self._kinds(replace(usual, release=False)))
        self.assertIn(vest.TWO_TO_LIFT, self._kinds(replace(usual, second=5.0)))
        with self.assertRaisesRegex(AssemblyError, "least load is not below"):
            replace(usual, least=9.0, most=4.0)

    def test_the_cg_on_the_bearing_is_said(self) -> None:
        build, kit = random_sled(3)
        analysis = analyse(build, kit, SOMEBODY)
        bearing = build.placed("bearing")
        for _ in range(4):
            sled = vest_result(analysis).sled
            bearing = replace(bearing, setting=bearing.setting - sled.below)
            analysis = analyse(build.with_placed(bearing), kit, SOMEBODY)
        self.assertIn(vest.CG_ON_BEARING, [finding.kind for finding in analysis.findings])

    def test_a_base_without_a_battery_is_said(self) -> None:
        build, kit = random_sled(3)
        bare = replace(build, parts=tuple(p for p in build.parts if p.id != "battery"))
        found = [str(f.kind) for f in analyse(bare, kit, SOMEBODY).findings]
        self.assertIn(vest.NO_BATTERY, found)

    def test_springs_for_a_wished_height(self) -> None:
        analysis = analyse(*random_sled(3, replace(VestSettings(), wanted=0.1)), SOMEBODY)
        kg = springs_for(analysis)
        there = floats(analysis.body.mass, kg, 0.05, 0.27)
        self.assertAlmostEqual(there.height, 0.1, places=9)


class OneTruth(unittest.TestCase):
    """What outputs work out for many draws is what the sled itself says, and what several pans say each pan says."""

    def test_gauges_say_what_the_sled_says(self) -> None:
        for seed in range(6):
            analysis, sled = hanging(seed)
            computed = output_model(analysis)
            now = computed.now()
            pan = vest.SUPPORT.settings(analysis.build).pan
            said = {
                outputs.PITCH: sled.lean[0],
                outputs.ROLL: sled.lean[1],
                outputs.DROP: sled.drop_time,
                outputs.XZ: sled.products[0],
                outputs.YZ: sled.products[1],
                outputs.PAN_INERTIA: float(sled.inertia[2, 2]),
                outputs.FASTEST: sled.fastest_pan(),
                outputs.FASTEST_ASIDE: sled.fastest_pan(1),
                outputs.WOBBLE: sled.wobble_in(pan),
                outputs.ON_VEST: vest_result(analysis).load,
                outputs.BACK: math.hypot(vest_result(analysis).bends, vest_result(analysis).sways),
            }
            for output, value in said.items():
                if output in computed.offered:
                    self.assertAlmostEqual(float(computed.values(output, now)[0]), value, places=9, msg=output)
            pans = np.linspace(0.0, 1.4 * sled.fastest_pan(), 15)
            one_by_one = [sled.wobble_in(float(rate)) for rate in pans]
            np.testing.assert_allclose(
                sled.wobbles_in(pans), [math.nan if w is None else w for w in one_by_one], atol=1e-12
            )
            self.assertIsNone(one_by_one[-1])
            found = wobble_uncertainties(computed, pans[:5])
            self.assertEqual(found[0], 0.0)
            self.assertTrue((np.diff(found) > 0.0).all())

    def test_friction_hides_what_it_can_hold(self) -> None:
        # At the hidden lean the weight turns the sled by just the bearing's friction.
        for friction, weight, below in ((0.01, 70.0, 0.008), (0.02, 100.0, 0.03)):
            lean = hidden_lean(friction, weight, below)
            self.assertAlmostEqual(weight * below * math.sin(lean), friction, places=12)
        # 0.005 to 0.02 N m at 0.69 N m: 0.4 to 1.7 degrees; common practice.
        self.assertAlmostEqual(math.degrees(hidden_lean(0.005, 69.0, 0.01)), 0.415, delta=0.001)
        self.assertAlmostEqual(math.degrees(hidden_lean(0.02, 69.0, 0.01)), 1.661, delta=0.001)
        self.assertAlmostEqual(hidden_lean(1.0, 69.0, 0.01), math.pi / 2.0)
        self.assertAlmostEqual(hidden_lean(0.01, 69.0, 0.0), math.pi / 2.0)
        self.assertAlmostEqual(hidden_lean(0.01, 69.0, -0.01), math.pi / 2.0)

    def test_measured_inertia_is_added_to_the_swing_alone(self) -> None:
        body = MassProperties(8.0, np.array([0.0, 0.0, -0.01]), np.diag([0.9, 1.0, 0.05]))
        plain, more = sled_of(body, np.zeros(3)), sled_of(body, np.zeros(3), 0.2)
        self.assertAlmostEqual(more.swing, 1.2)
        self.assertAlmostEqual(more.inertia[1, 1] - plain.inertia[1, 1], 0.2)
        np.testing.assert_allclose(np.delete(more.inertia.ravel(), 4), np.delete(plain.inertia.ravel(), 4))
        self.assertGreater(more.drop_time, plain.drop_time)

    def test_a_figure_of_speech_has_a_least_and_a_most(self) -> None:
        on_top = sled_of(MassProperties(8.0, np.zeros(3), np.diag([0.9, 1.0, 0.05])), np.zeros(3))
        self.assertIsNone(on_top.drop_time)
        self.assertIsNone(on_top.lean)
        self.assertIsNone(on_top.wobble_in(0.5))
        self.assertTrue(np.isnan(on_top.wobbles_in(np.array([0.0, 0.5]))).all())
        # A disc that spins about its short axis: no pan unseats it.
        disc = sled_of(MassProperties(5.0, np.array([0.0, 0.0, -0.02]), np.diag([0.1, 0.1, 0.4])), np.zeros(3))
        self.assertIsNone(disc.fastest_pan())
        self.assertAlmostEqual(disc.wobble_in(20.0), 0.0, places=12)


class Figures(unittest.TestCase):
    """What stands on the command line is what the window's parts say, each from a second route."""

    def test_what_the_arm_does_to_its_wearer(self) -> None:
        settings = replace(VestSettings(), set_for=6.0, boom=math.radians(25.0), evenness=0.2)
        analysis = analyse(*random_sled(3, settings), SOMEBODY)
        found, mass, u = report_of(analysis, SOMEBODY).figures, analysis.body.mass, analysis.spread.mass
        left = -0.10 + 0.40 * math.sin(math.radians(25.0))
        half = -0.10 + 0.20 * math.sin(math.radians(25.0))
        carried = carry(analysis, SOMEBODY, "vest")
        self.assertAlmostEqual(found["l5s1_moment_nm"].value, float(carried.back_moment[1]), places=6)
        self.assertAlmostEqual(found["l5s1_side_nm"].value, -float(carried.back_moment[0]), places=6)
        self.assertAlmostEqual(found["l5s1_moment_least_nm"].value, float(carried.least_back_moment[1]), places=6)
        # A kilogram more: what it turns, less what leaning farther back gives.
        self.assertLess(found["l5s1_moment_nm"].uncertainty, STANDARD_GRAVITY * 0.57 * u)
        self.assertGreater(found["l5s1_moment_nm"].uncertainty, 0.6 * STANDARD_GRAVITY * 0.40 * u)
        ahead = 0.17 + 0.40 * math.cos(math.radians(25.0))
        half_ahead = 0.17 + 0.20 * math.cos(math.radians(25.0))
        whole = 75.0 + mass + 2.6 + 4.0
        self.assertAlmostEqual(found["wearer_back_mm"].value, 1e3 * (mass * ahead + 2.6 * half_ahead) / whole, places=9)
        self.assertAlmostEqual(found["wearer_aside_mm"].value, 1e3 * (mass * left + 2.6 * half) / whole, places=9)
        self.assertAlmostEqual(found["load_on_vest_n"].uncertainty, STANDARD_GRAVITY * u, places=6)
        self.assertAlmostEqual(found["floats_mm"].value, 1e3 * 0.27 * (6.0 - mass) / (0.2 * 6.0), places=6)
        # What a milligram more lets it sink: the springs hold 20 % less over 27 cm.
        self.assertAlmostEqual(found["floats_mm"].uncertainty, 1e3 * 0.27 / (0.2 * 6.0) * u, delta=0.01)

    def test_a_chosen_place_goes_before_every_other(self) -> None:
        build = next(one for one in BOOK.builds if one.id == "sled-zoom")
        usual = vest_result(analyse(build, BOOK.parts, SOMEBODY)).bearing
        self.assertFalse(usual.usual)
        chosen = replace(vest.SUPPORT.settings(build), bearing=Grasp("handle", "eye"))
        analysis = analyse(with_settings(build, chosen), BOOK.parts, SOMEBODY)
        bearing = vest_result(analysis).bearing
        self.assertEqual(analysis.build.parts[bearing.part].id, "handle")
        self.assertFalse(bearing.usual)
        # One that is gone is as if nobody had chosen.
        gone = replace(chosen, bearing=Grasp("handle", "nothing"))
        again = vest_result(analyse(with_settings(build, gone), BOOK.parts, SOMEBODY)).bearing
        np.testing.assert_allclose(again.point, usual.point)

    def test_short_is_by_more_than_its_room(self) -> None:
        analysis, sled = hanging(4)
        for off, room, short in ((0.2, 0.3, False), (0.2, 0.1, True), (-0.2, 0.1, True), (-0.2, 0.3, False)):
            wished = with_values(analysis.build, "vest", {"drop": sled.drop_time + off, "room": room})
            asked = SUPPORT.case(analyse(wished, analysis.assembly.kit, SOMEBODY))
            self.assertIs(SUPPORT.missed(asked), short)

    def test_products_at_their_tolerance_just_show(self) -> None:
        settings = replace(VestSettings(), pan=math.radians(25.0))
        analysis = analyse(*random_sled(5, settings), SOMEBODY)
        target, sled = target_of(analysis), vest_result(analysis).sled
        allowed = {form.name: target.allowed(form) for form in target.forms}
        lever = lever_for(2.5, sled.mass, sled.swing)
        inertia = np.array(sled.inertia)
        inertia[0, 2] = inertia[2, 0] = allowed["spin x"]
        inertia[1, 2] = inertia[2, 1] = allowed["spin y"]
        there = Sled(sled.mass, np.array([0.0, 0.0, -lever]), inertia, sled.swing)
        # The tolerance is of small leans: at a degree the true one is a part in three thousand less.
        self.assertAlmostEqual(there.wobble_in(settings.pan) / settings.shows, 1.0, places=3)
        # A CG off by what the bearing's friction holds is level.
        self.assertAlmostEqual(allowed["sled x"] * STANDARD_GRAVITY, settings.friction, places=12)
        self.assertEqual(allowed["sled x"], allowed["sled y"])
        # Half a second off the wished drop, on the side where that is less.
        ends = [abs(lever_for(t, sled.mass, sled.swing) - lever) for t in (2.0, 3.0)]
        self.assertAlmostEqual(allowed["drop z"], sled.mass * min(ends), places=9)

    def test_leans_in_a_pan_are_where_the_potential_is_least_however_large(self) -> None:
        """Weight and steady rotation about the vertical: V = -W d cos t - W dx sin t - w^2 I(t)/2, I about the vertical
        through the bearing; by a search for its least value (Meriam and Kraige, Dynamics, ch. 7)."""
        rng = np.random.default_rng(7)
        seen = 0.0
        for _ in range(60):
            weight, below, beside = 60.0, float(rng.uniform(0.01, 0.05)), float(rng.uniform(-0.02, 0.02))
            more, product, pan = float(rng.uniform(-0.3, 0.3)), float(rng.uniform(-0.2, 0.2)), float(rng.uniform(0, 2))
            found = leans_in(weight * below, weight * beside, more, product, np.array([pan**2]))[0]
            if pan**2 * more >= weight * below:
                self.assertTrue(math.isnan(found))
                continue

            def potential(t: float, of: tuple[float, ...] = (weight, below, beside, more, product, pan)) -> float:
                weight, below, beside, more, product, pan = of
                about = more * math.sin(t) ** 2 - product * math.sin(2.0 * t)
                return -weight * (below * math.cos(t) + beside * math.sin(t)) - 0.5 * pan**2 * about

            least = optimize.minimize_scalar(potential, bracket=(found - 0.05, found, found + 0.05), tol=1e-12)
            self.assertAlmostEqual(float(least.x), found, delta=1e-5)
            seen = max(seen, abs(found))
        self.assertGreater(seen, 0.5)

    def test_products_in_a_pan_that_no_such_sled_stands(self) -> None:
        """Past the pan at which half of what brings it back is gone, what shows is ``shows/sqrt 2 (I_xx - I_zz)``."""
        settings = replace(VestSettings(), pan=math.radians(720.0))
        analysis = analyse(*random_sled(5, settings), SOMEBODY)
        target, sled = target_of(analysis), vest_result(analysis).sled
        for name, way in (("spin x", 0), ("spin y", 1)):
            form = next(form for form in target.forms if form.name == name)
            more = float(sled.inertia[way, way] - sled.inertia[2, 2])
            self.assertGreater(more, 0.0)
            self.assertAlmostEqual(target.allowed(form), settings.shows / math.sqrt(2.0) * more, places=12)

    def test_a_top_heavy_sled_has_no_drop_and_says_so(self) -> None:
        build, kit = random_sled(3)
        bearing = replace(build.placed("bearing"), setting=-0.2)
        found = report_of(analyse(build.with_placed(bearing), kit, SOMEBODY), SOMEBODY).figures
        for key in ("drop_time_s", "fastest_pan_deg_s", "fastest_pan_aside_deg_s", "wobble_deg"):
            self.assertTrue(math.isnan(found[key].value), key)
        self.assertGreater(found["pan_inertia_kg_m2"].value, 0.0)

    def test_hips_take_weight_off_the_disc(self) -> None:
        down = {}
        for share in (0.0, 0.8):
            analysis = analyse(*random_sled(3, replace(VestSettings(), hip_share=share)), SOMEBODY)
            carried = carry(analysis, SOMEBODY, "vest")
            down[share] = carried.compression
            worn = analysis.body.mass + 2.6 + 4.0
        self.assertAlmostEqual(down[0.0] - down[0.8], 0.8 * worn * STANDARD_GRAVITY, places=6)


class Frames(unittest.TestCase):
    def test_lean_hangs_the_cg_below(self) -> None:
        for seed in range(6):
            _, sled = hanging(seed)
            pitch, roll = sled.lean
            turned = rotation_about(Y, pitch) @ rotation_about(X, roll) @ sled.offset
            np.testing.assert_allclose(turned[:2], 0.0, atol=1e-12)
            self.assertLess(turned[2], 0.0)

    def test_inertia_about_the_bearing(self) -> None:
        analysis, sled = hanging(1)
        np.testing.assert_allclose(sled.inertia, shift_inertia(analysis.body, vest_result(analysis).bearing.point))

    def test_rows_keep_the_inertia(self) -> None:
        analysis, _ = hanging(1)
        computed = output_model(analysis)
        now = computed.now()
        again = Samples.of(now.rows)
        np.testing.assert_array_equal(now.rows, again.rows)
        self.assertEqual(again.seconds.shape, (1, 6))
        self.assertEqual(again.stages.shape, (1, 0, 4))


if __name__ == "__main__":
    unittest.main()
