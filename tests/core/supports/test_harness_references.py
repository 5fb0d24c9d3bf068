"""A rig on a harness: how it hangs against a damped pendulum in three dimensions, walking against a simulation."""

from __future__ import annotations

import math
import unittest

import mujoco
import numpy as np
from msgspec.structs import replace
from scipy.integrate import solve_ivp

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Grasp, Operator
from equilix.core.assembly.resolve import outline_corners
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import with_settings
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown, Mount, MountKind, Part
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.support import report_of
from equilix.core.uncertainty.output_model import output_model
from equilix.supports.harness import mechanics as harness
from equilix.supports.harness.mechanics import (
    CARE,
    SUPPORT,
    hook_to_level,
    passes_of,
    peak_share,
    slid_to,
    tilt_force,
    transmissibility,
)
from equilix.supports.harness.settings import HarnessSettings
from tests.campaigns import campaign
from tests.rigs.plain import block, grip, shoulder_build
from tests.rigs.results import harness_result

MAN = Operator("m", "M", 1.80, 80.0)


def rig(seed: int, settings: HarnessSettings | None = None) -> tuple[Build, dict[str, Part]]:
    """Return a lopsided camera on a slide with an eyelet on top, a battery and two grips, on a harness."""
    rng = np.random.default_rng(seed)
    eye = Mount("eye", MountKind.EYELET, (float(rng.uniform(-0.04, 0.04)), 0.0, 0.12))
    camera = replace(block("camera", float(rng.uniform(2.0, 5.0)), (0.2, 0.1, 0.16), Category.BODY), mounts=(eye,))
    camera = replace(camera, cg=(0.01, float(rng.uniform(-0.02, 0.02)), float(rng.uniform(-0.03, 0.03))))
    build, kit = shoulder_build(
        (camera, float(rng.uniform(-0.05, 0.05))),
        (block("power", 0.9, category=Category.BATTERY), -0.25),
        (grip("l"), 0.2),
    )
    return with_settings(replace(build, support="harness"), settings or HarnessSettings(most=15.0)), kit


def at_rest(analysis: Analysis, hook: np.ndarray) -> np.ndarray:
    """Return which way is down (3,), in the rig's frame, once a damped pendulum on a ball joint has come to rest."""
    body = analysis.body
    d = body.cg - hook
    inertia = body.inertia
    full = " ".join(str(inertia[i, j]) for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2)))
    model = mujoco.MjModel.from_xml_string(
        f'<mujoco><option timestep="0.002" gravity="0 0 -{STANDARD_GRAVITY}"/><worldbody><body>'
        f'<joint type="ball" damping="0.6"/>'
        f'<inertial pos="{d[0]} {d[1]} {d[2]}" mass="{body.mass}" fullinertia="{full}"/></body></worldbody></mujoco>'
    )
    data = mujoco.MjData(model)
    for _ in range(40_000):
        mujoco.mj_step(model, data)
    down: np.ndarray = data.xmat[1].reshape(3, 3).T @ np.array([0.0, 0.0, -1.0])
    return down


class Hanging(unittest.TestCase):
    def test_rest_angles_against_a_damped_pendulum(self) -> None:
        """MuJoCo: rigid body on a ball joint with damping, let go level; both tilts to a thousandth of a degree."""
        for seed in range(4):
            analysis = analyse(*rig(seed), MAN)
            found = harness_result(analysis)
            down = at_rest(analysis, found.hook.point)
            # Down in the rig's frame, by the angles of Ry(pitch) Rx(roll).
            pitch = math.asin(float(down[0]))
            roll = math.atan2(-float(down[1]), -float(down[2]))
            self.assertAlmostEqual(math.degrees(found.pitch), math.degrees(pitch), delta=1e-3)
            self.assertAlmostEqual(math.degrees(found.roll), math.degrees(roll), delta=1e-3)
            self.assertTrue(found.stable)
            self.assertAlmostEqual(found.tension, analysis.body.mass * STANDARD_GRAVITY, places=9)

    def test_above_the_hook_it_turns_over(self) -> None:
        build, kit = rig(1)
        low = replace(kit["camera"], mounts=(replace(kit["camera"].mounts[0], at=(0.0, 0.0, -0.2)),))
        found = analyse(build, {**kit, "camera": low}, MAN)
        self.assertFalse(harness_result(found).stable)
        over = next(f for f in found.findings if f.kind == harness.TURNS_OVER)
        self.assertAlmostEqual(over.amount, float(found.body.cg[2] - harness_result(found).hook.point[2]))

    def test_the_force_that_tilts_it_by_ten_degrees(self) -> None:
        """Turned by ten degrees about the hook, moments summed anew: weight times its way out, force times height."""
        d, hook = np.array([0.0, 0.0, -0.18]), np.array([0.0, 0.0, 0.3])
        grips = [np.array([0.0, 0.1, 0.1]), np.array([0.0, -0.1, 0.1])]
        force = tilt_force(50.0, d, hook, grips)
        angle = math.radians(10.0)
        turn = np.array([[math.cos(angle), 0, math.sin(angle)], [0, 1, 0], [-math.sin(angle), 0, math.cos(angle)]])
        swung, held = turn @ d, turn @ (grips[0] * [1, 0, 1] - hook)
        moment = np.cross(swung, [0.0, 0.0, -50.0]) + np.cross(held, [force, 0.0, 0.0])
        other = np.cross(swung, [0.0, 0.0, -50.0]) + np.cross(held, [-force, 0.0, 0.0])
        self.assertAlmostEqual(min(abs(float(moment[1])), abs(float(other[1]))), 0.0, places=9)
        self.assertIsNone(tilt_force(50.0, d, hook, []))
        self.assertIsNone(tilt_force(50.0, d, hook, [np.array([0.0, 0.0, 0.29])]))


class Room(unittest.TestCase):
    def test_sideways_two_degrees_of_lean_are_let_be(self) -> None:
        """Common practice: what hangs h below its hook leans by 2 degrees where its CG is h tan 2 degrees aside."""
        for seed in (2, 5, 8):
            build, kit = rig(seed)
            analysis = analyse(build, kit, MAN)
            below = float(analysis.equilibrium.point[2] - analysis.body.cg[2])
            self.assertGreater(below, 0.02)
            self.assertAlmostEqual(analysis.equilibrium.aside, below * math.tan(math.radians(2.0)))


class UsualHook(unittest.TestCase):
    def test_without_an_eyelet_or_a_handle_it_hangs_from_the_top_of_the_camera(self) -> None:
        """Common practice: a strap goes to what is on top; the CG is then below, and the rig does not turn over."""
        build, kit = shoulder_build((block("camera", 5.0, (0.2, 0.12, 0.16), Category.BODY), 0.0))
        found = analyse(replace(build, support="harness"), kit, MAN)
        hook = harness_result(found).hook
        corners = outline_corners(found.assembly, found.positions, hook.part)
        self.assertTrue(hook.usual)
        np.testing.assert_allclose(hook.point[:2], (corners[:, :2].min(axis=0) + corners[:, :2].max(axis=0)) / 2.0)
        self.assertAlmostEqual(hook.point[2], corners[:, 2].max())
        self.assertNotIn(harness.TURNS_OVER, {finding.kind for finding in found.findings})


@campaign
class WantedTilt(unittest.TestCase):
    def test_the_hook_slid_so_far_hangs_it_as_it_shall(self) -> None:
        """Slid and worked out anew: the rest angle is the wanted one."""
        for seed in range(4):
            for pitch in (0.0, math.radians(9.0)):
                build, kit = rig(seed, HarnessSettings(most=15.0, pitch=pitch, room=0.5))
                way = hook_to_level(SUPPORT.case(analyse(build, kit, MAN)))
                after = analyse(slid_to(build, way), kit, MAN)
                self.assertAlmostEqual(after.equilibrium.ahead, 0.0, places=12)
                # What it leans aside takes a little of the pitch.
                self.assertAlmostEqual(harness_result(after).pitch, pitch, delta=1e-3)

    def test_a_way_hangs_it_as_it_shall(self) -> None:
        for pitch in (0.0, math.radians(12.0), -math.radians(8.0)):
            build, kit = rig(3, HarnessSettings(most=15.0, pitch=pitch))
            analysis = analyse(build, kit, MAN)
            way = next(w for w in find_strategies(analysis, kit, MAN, 0.001) if abs(w.remaining) < 0.001)
            again = analyse(way.after.build, kit, MAN)
            # Levelled in the side plane; hung askew as well, it dips by a hair less.
            self.assertAlmostEqual(math.degrees(harness_result(again).pitch), math.degrees(pitch), delta=0.05)

    def test_the_hook_slid_on_its_rail_is_the_first_way(self) -> None:
        """Common practice: hang it from farther ahead or back before anything on the rig is moved."""
        for seed in range(4):
            for pitch in (0.0, math.radians(9.0)):
                build, kit = rig(seed, HarnessSettings(most=15.0, pitch=pitch, room=0.5))
                found = analyse(build, kit, MAN)
                first = find_strategies(found, kit, MAN)[0]
                if not harness_result(found).stable:
                    self.assertIsNot(first.kind, StrategyKind.HOLDER)
                    continue
                self.assertIs(first.kind, StrategyKind.HOLDER)
                self.assertEqual(first.plan.build.parts, build.parts)
                after = harness_result(analyse(first.plan.build, kit, MAN))
                # Hung askew as well, it dips by a hair less.
                self.assertAlmostEqual(after.pitch, pitch, delta=1e-3)

    def test_a_hooks_own_slide_is_a_way(self) -> None:
        build, kit = rig(2)
        kit["camera"] = replace(kit["camera"], cg=(0.01, 0.0, 0.0))
        handle = replace(grip("top"), category=Category.HANDLE, mass=0.2)
        rail = Mount(
            "over", MountKind.LIGHT_RODS, (0.0, 0.0, 0.2), kit["base"].mounts[1].joint, (1.0, 0.0, 0.0), -0.2, 0.2
        )
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, rail))
        kit["top"] = handle
        top = replace(build.parts[1], id="top", part_id="top", mount="over", setting=0.1)
        hooked = replace(build, parts=(*build.parts, top))
        hooked = with_settings(hooked, HarnessSettings(most=15.0, hook=Grasp("top", "hand")))
        analysis = analyse(hooked, kit, MAN)
        self.assertFalse(harness_result(analysis).hook.usual)
        moved = [set(w.plan.moved) for w in find_strategies(analysis, kit, MAN) if w.full]
        self.assertIn({"top"}, moved)


class Limits(unittest.TestCase):
    def test_capacity_and_its_doubt_by_drawing(self) -> None:
        """JCGM 101: mass drawn from every part's uncertainty, over the maker's limit."""
        build, kit = rig(5, HarnessSettings(most=6.0))
        kit["power"] = replace(kit["power"], mass_known=HowKnown.GUESSED)
        analysis = analyse(build, kit, MAN)
        figure = report_of(analysis, MAN).figures["capacity_share"]
        rng = np.random.default_rng(1)
        uncertainties = analysis.assembly.uncertainties
        n = 40_000
        mass = (analysis.assembly.mass + uncertainties.mass * rng.standard_normal((n, len(uncertainties.mass)))).sum(
            axis=1
        )
        mass = mass + rng.standard_normal((n, len(uncertainties.gain))) @ uncertainties.gain.sum(axis=1)
        self.assertAlmostEqual(figure.value, analysis.body.mass / 6.0)
        self.assertAlmostEqual(figure.uncertainty / float((mass / 6.0).std()), 1.0, delta=0.02)

    def test_what_is_said_at_each_limit(self) -> None:
        build, kit = rig(0)
        found = analyse(build, kit, MAN)
        mass, u = found.body.mass, found.spread.mass
        for most, kind in (
            (mass + 1.9 * u, harness.OVER_LIMIT),
            (mass + 2.1 * u, harness.NEAR_LIMIT),
            (mass / 0.899, harness.PEAK_OVER_LIMIT),
            (mass * peak_share(1.0) * 1.001, None),
        ):
            kinds = {f.kind for f in analyse(with_settings(build, HarnessSettings(most=most)), kit, MAN).findings}
            own = {harness.TURNS_OVER, *(one for one in harness.SUPPORT.warned if one.carried)}
            self.assertEqual(kinds & own, {kind} if kind else set(), most)
        light = analyse(with_settings(build, HarnessSettings(least=mass + 0.01, most=40.0)), kit, MAN)
        self.assertIn(harness.UNDER_LEAST, {f.kind for f in light.findings})
        self.assertNotIn(
            "capacity_share", report_of(analyse(with_settings(build, HarnessSettings()), kit, MAN), MAN).figures
        )

    def test_where_a_share_of_the_limit_turns_is_where_a_warning_begins(self) -> None:
        build, kit = rig(3)
        mass = analyse(build, kit, MAN).body.mass
        for over, kind in ((1e-6, harness.NEAR_LIMIT), (-1e-6, None)):
            there = analyse(with_settings(build, HarnessSettings(most=mass / (CARE + over))), kit, MAN)
            outputs = output_model(there)
            ends = [threshold.value for threshold in output_model(there).thresholds(harness.SHARE)]
            share = float(outputs.values(harness.SHARE, outputs.now())[0])
            self.assertAlmostEqual(share - over, ends[0], places=9)
            self.assertAlmostEqual(harness_result(there).share, share, places=12)
            near = [f.kind for f in there.findings if f.kind in (harness.NEAR_LIMIT, harness.OVER_LIMIT)]
            self.assertEqual(near, [kind] if kind else [])
            self.assertEqual(ends[1], 1.0)
            self.assertEqual([t.value for t in output_model(there).thresholds(harness.PITCH)], [0.0])
            self.assertEqual(output_model(there).thresholds(harness.TENSION), ())

    def test_the_peak_is_as_unsure_as_what_it_is_a_multiple_of(self) -> None:
        build, kit = rig(3)
        judged = report_of(analyse(build, kit, MAN), MAN)
        rest, peak = judged.figures["tension_n"], judged.figures["peak_tension_n"]
        self.assertGreater(peak.value, rest.value)
        self.assertAlmostEqual(peak.uncertainty / peak.value, rest.uncertainty / rest.value, places=12)

    def test_limits_the_wrong_way_round_are_refused(self) -> None:
        for least, most in ((5.0, 4.0), (5.0, 5.0), (None, 0.0)):
            with self.assertRaisesRegex(AssemblyError, "The least load is not below the greatest"):
                HarnessSettings(least=least, most=most)


@campaign
class Walking(unittest.TestCase):
    def test_what_a_spring_arm_passes_on_by_simulating_it(self) -> None:
        """Rao, Mechanical Vibrations, ch. 3, base excitation; m x'' = -k (x - y) - c (x' - y'), integrated to rest."""
        for beat, damping in ((0.85, 0.1), (1.4, 0.3), (2.5, 0.05)):
            w0, w = 2 * math.pi * beat, 2 * math.pi * 1.9

            def rate(t: float, s: np.ndarray, w0: float = w0, w: float = w, z: float = damping) -> list[float]:
                y, v = math.sin(w * t), w * math.cos(w * t)
                return [s[1], -(w0**2) * (s[0] - y) - 2 * z * w0 * (s[1] - v)]

            late = np.linspace(60.0, 62.0, 2000)
            solved = solve_ivp(rate, (0.0, 62.0), [0.0, 0.0], t_eval=late, rtol=1e-8, atol=1e-10)
            amplitude = float(np.ptp(solved.y[0])) / 2.0
            self.assertAlmostEqual(transmissibility(1.9 / beat, damping) / amplitude, 1.0, delta=0.01)
            self.assertAlmostEqual(
                passes_of(HarnessSettings(beat=beat, damping=damping)), transmissibility(1.9 / beat, damping)
            )

    def test_well_known_points_of_the_curve(self) -> None:
        """Any damping passes all on at sqrt 2; at resonance 1/(2 z) nearly; a stiff cable follows every step."""
        for damping in (0.05, 0.2, 0.7):
            self.assertAlmostEqual(transmissibility(math.sqrt(2.0), damping), 1.0)
        self.assertAlmostEqual(transmissibility(1.0, 0.05), 10.0, delta=0.06)
        self.assertAlmostEqual(transmissibility(0.0, 0.1), 1.0)
        self.assertEqual(passes_of(HarnessSettings()), 1.0)
        # Steps of 22 mm at 1.9 Hz: A w^2 = 3.1 m/s2, a third of the weight more.
        self.assertAlmostEqual(peak_share(1.0), 1.0 + 0.022 * (2 * math.pi * 1.9) ** 2 / 9.80665)
        self.assertAlmostEqual(peak_share(0.3), 1.0 + 0.3 * (peak_share(1.0) - 1.0))


class OnTheBack(unittest.TestCase):
    def test_the_hips_take_weight_off_the_disc_but_not_the_bending(self) -> None:
        """A free body of the back frame: the cable ahead bends the trunk by W a, whatever the belt carries."""
        found = {}
        for share in (0.0, 0.8):
            build, kit = rig(0, HarnessSettings(most=15.0, hip_share=share, reach=0.40, belt=0.0))
            carried = carry(analyse(build, kit, MAN), MAN, "harness")
            assert isinstance(carried, Carry)
            found[share] = carried
        none, most = found[0.0], found[0.8]
        np.testing.assert_allclose(none.back_moment, most.back_moment, atol=1e-9)
        tension = float(most.held.pad_force[2])
        self.assertAlmostEqual(none.compression - most.compression, 0.8 * tension)
        # Where an upright body would have it; who leans back takes it along.
        self.assertAlmostEqual(float(most.pose.unladen.pad[0]), 0.40, delta=0.05)
        self.assertLess(float(most.pad[0] - most.body.low_back[0]), 0.40)

    def test_a_cable_pulls_straight_up_and_nothing_else(self) -> None:
        build, kit = rig(1)
        carried = carry(analyse(build, kit, MAN), MAN, "harness")
        np.testing.assert_allclose(carried.held.pad_force[:2], 0.0, atol=1e-9)
        np.testing.assert_allclose(carried.held.pad_moment, 0.0, atol=1e-9)
        self.assertGreater(float(carried.held.pad_force[2]), 0.0)


if __name__ == "__main__":
    unittest.main()
