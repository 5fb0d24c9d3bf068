"""A gimbal: torques against MuJoCo's inverse dynamics, clearance against turned boxes, plans against brute force."""

from __future__ import annotations

import itertools
import math
import unittest

import mujoco
import numpy as np
from msgspec.structs import replace
from scipy.spatial.transform import Rotation

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.build import Build, Kit, Operator, Placed
from equilix.core.assembly.resolve import outline_corners
from equilix.core.chosen import with_settings
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY, rotation_about
from equilix.core.kit.parts import Category, Foot, HowKnown, Mount, MountKind, Outline, Part
from equilix.core.solver.plan import PlanStatus
from equilix.core.solver.scales import WorkStep
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.statics.stages import LEAN, Stages, Trouble, body_of_parts, peak_torque
from equilix.core.statics.sweep import deepest, outline_across, passing, rectangle_gaps, turned_gaps
from equilix.core.statics.turning import Attitude, BodyLink, motor_torques, torque_over
from equilix.core.support import ONE_SCREW, case_of, report_of
from equilix.core.uncertainty.montecarlo import sample
from equilix.core.uncertainty.output_model import output_model, output_uncertainties
from equilix.io.shipped import demo_book
from equilix.present.balance.panel import balance_model
from equilix.present.units import System
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.gimbal.mechanics import SUPPORT, order_of_work
from equilix.supports.gimbal.motors import gravity_torques, holding_power, links_of, need_of, run_time
from equilix.supports.gimbal.outputs import OUTPUT_OF, PAYLOAD
from equilix.supports.gimbal.settings import MODES, GimbalSettings
from equilix.supports.gimbal.stages import nearest_passing, passings, stages_of
from tests.campaigns import campaign
from tests.rigs.gimbals import X, Y, Z, random_gimbal, thin
from tests.rigs.results import gimbal_result

SOMEBODY = Operator("s", "Somebody")
BOOK = demo_book()


def sum_of_moves(analysis: Analysis, step: WorkStep) -> float:
    """Return by which sign a step's form follows its slide, times what is left: against it the step would go on."""
    j = next(k for k, i in enumerate(analysis.assembly.slide_parts) if analysis.build.parts[i].id == step.placed_id)
    axis = float(analysis.assembly.slide_axes[j]["xyz".index(step.beside)])
    return axis * step.left


def model_of(analysis: Analysis, down: np.ndarray) -> mujoco.MjModel:
    """Return bodies on hinges made of the parts' own masses, CGs and inertias, and of where the axes are."""
    assembly, positions = analysis.assembly, analysis.positions
    on_it = gimbal_result(analysis)
    names = SUPPORT.stages(case_of(analysis))
    axes = {"pan": Z, "roll": X, "tilt": Y}
    text, ends, before = "", "", np.zeros(3)
    for name in ("pan", "roll", "tilt"):
        stage = on_it.stage(name)
        at = stage.point - before
        before = stage.point
        text += f'<body pos="{at[0]} {at[1]} {at[2]}"><joint type="hinge" axis="{" ".join(map(str, axes[name]))}"/>'
        own = [k for k, one in enumerate(names) if one == name]
        mass = sum(float(assembly.mass[k]) for k in own)
        middle = sum(float(assembly.mass[k]) * positions.cg[k] for k in own) / mass
        inertia = np.zeros((3, 3))
        for k in own:
            d = positions.cg[k] - middle
            inertia += assembly.inertia[k] + float(assembly.mass[k]) * (d @ d * np.eye(3) - np.outer(d, d))
        full = " ".join(str(inertia[i, j]) for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2)))
        c = middle - stage.point
        text += f'<inertial pos="{c[0]} {c[1]} {c[2]}" mass="{mass}" fullinertia="{full}"/>'
        ends += "</body>"
    pull = STANDARD_GRAVITY * down
    return mujoco.MjModel.from_xml_string(
        f'<mujoco><compiler balanceinertia="false"/><option gravity="{pull[0]} {pull[1]} {pull[2]}"/>'
        f"<worldbody>{text}{ends}</worldbody></mujoco>"
    )


def inverse(model: mujoco.MjModel, q: np.ndarray, rate: np.ndarray, gain: np.ndarray) -> np.ndarray:
    """Return what the hinges must give (3,) (N m), the outermost first."""
    data = mujoco.MjData(model)
    data.qpos[:], data.qvel[:], data.qacc[:] = q, rate, gain
    mujoco.mj_inverse(model, data)
    result: np.ndarray = data.qfrc_inverse.copy()
    return result


@campaign
class Torques(unittest.TestCase):
    def test_static_torques_at_500_random_attitudes_and_rigs(self) -> None:
        """MuJoCo's inverse dynamics of bodies on hinges, at rest."""
        rng = np.random.default_rng(11)
        for seed in range(50):
            analysis = analyse(*random_gimbal(seed), SOMEBODY)
            for _ in range(10):
                tilt, roll, pan, lean, aside = (float(v) for v in rng.uniform(-math.pi, math.pi, 5))
                attitude = Attitude(tilt, roll, pan, lean, aside)
                lent = np.eye(3) @ rotation_about(Y, lean) @ rotation_about(X, aside)
                model = model_of(analysis, lent.T @ np.array([0.0, 0.0, -1.0]))
                wanted = inverse(model, np.array([pan, roll, tilt]), np.zeros(3), np.zeros(3))
                found = gravity_torques(SUPPORT.case(analysis), attitude)
                for name, torque in zip(("pan", "roll", "tilt"), wanted.tolist(), strict=True):
                    self.assertAlmostEqual(-found[name], torque, delta=1e-6)

    def test_moving_torques(self) -> None:
        """The same with rates and accelerations."""
        rng = np.random.default_rng(12)
        for seed in range(40):
            analysis = analyse(*random_gimbal(seed), SOMEBODY)
            q, rate, gain = rng.uniform(-3, 3, 3), rng.uniform(-4, 4, 3), rng.uniform(-20, 20, 3)
            down = rng.normal(size=3)
            down /= np.linalg.norm(down)
            links = links_of(SUPPORT.case(analysis))
            found = motor_torques(links, q.tolist(), down, rate.tolist(), gain.tolist())
            wanted = inverse(model_of(analysis, down), q, rate, gain)
            self.assertLess(float(np.abs(found - wanted).max()), 1e-6)

    def test_a_stage_without_a_mass_hands_on_what_turns_in_it(self) -> None:
        """Two axes in one line, nothing on the outer one: both motors give the same (Newton's third law)."""
        rng = np.random.default_rng(31)
        analysis = analyse(*random_gimbal(3), SOMEBODY)
        inner = links_of(SUPPORT.case(analysis))[-1]
        outer = BodyLink(inner.point - 0.07 * inner.axis, inner.axis, None)
        for _ in range(10):
            q, rate, gain = rng.uniform(-2, 2, 2), rng.uniform(-4, 4, 2), rng.uniform(-20, 20, 2)
            down = rng.normal(size=3)
            down /= np.linalg.norm(down)
            both = motor_torques((outer, inner), q.tolist(), down, rate.tolist(), gain.tolist())
            self.assertAlmostEqual(both[0], both[1], places=9)
            alone = motor_torques((inner,), [float(q.sum())], down, [float(rate.sum())], [float(gain.sum())])
            self.assertAlmostEqual(both[1], alone[0], places=9)

    def test_the_peaks_are_the_greatest_over_the_full_turn(self) -> None:
        """Turned through a full turn in MuJoCo, the others level; pan with the frame leaned 30 degrees all ways."""
        angles = np.linspace(-math.pi, math.pi, 721)
        for seed in range(4):
            analysis = analyse(*random_gimbal(seed), SOMEBODY)
            on_it = gimbal_result(analysis)
            level = model_of(analysis, np.array([0.0, 0.0, -1.0]))
            for k, name in ((2, "tilt"), (1, "roll")):
                turned = [inverse(level, np.eye(3)[k] * a, np.zeros(3), np.zeros(3))[k] for a in angles]
                self.assertAlmostEqual(max(np.abs(turned)), peak_torque(on_it.stage(name)), delta=2e-5 * 40)
            leans = []
            for way in angles[::4]:
                down = np.array([math.sin(LEAN) * math.cos(way), math.sin(LEAN) * math.sin(way), -math.cos(LEAN)])
                leans.append(inverse(model_of(analysis, down), np.zeros(3), np.zeros(3), np.zeros(3))[0])
            self.assertAlmostEqual(max(np.abs(leans)), peak_torque(on_it.stage("pan")), delta=1e-3 * max(np.abs(leans)))

    def test_what_a_motor_needs_to_turn(self) -> None:
        """MuJoCo at the wanted acceleration: its own and that of a pan, beside holding and friction."""
        settings = GimbalSettings(gain=12.0)
        analysis = analyse(*random_gimbal(5, settings=settings), SOMEBODY)
        on_it = gimbal_result(analysis)
        weightless = model_of(analysis, np.zeros(3))
        for k, name in ((2, "tilt"), (1, "roll"), (0, "pan")):
            need = need_of(SUPPORT.case(analysis), on_it.stage(name))
            own = abs(inverse(weightless, np.zeros(3), np.zeros(3), 12.0 * np.eye(3)[k])[k])
            self.assertAlmostEqual(need.turn, own, delta=1e-9)
            if name == "tilt":
                # Its product about its own axis loads it; where the axes part, MuJoCo adds the arm between them.
                body = links_of(SUPPORT.case(analysis))[2].body
                d = body.cg - on_it.stages[0].point
                product = body.inertia[1, 2] - body.mass * d[1] * d[2]
                self.assertAlmostEqual(need.products, 12.0 * abs(float(product)), delta=1e-9)
            self.assertAlmostEqual(need.whole, need.hold + need.turn + need.products + need.friction)

    def test_facts_of_the_closed_form(self) -> None:
        """3 kg: W times the way ahead with the rig level, W times the height with its nose straight down."""
        torque = torque_over(30.0, 0.004, 0.009, np.array([0.0, math.pi / 2.0]))
        self.assertAlmostEqual(float(torque[0]), 0.12)
        self.assertAlmostEqual(float(torque[1]), 0.27)

    def test_friction_hides_a_third_of_a_millimetre(self) -> None:
        """0.01 N m at 3 kg: 0.34 mm; perfect balance is what lies below it (common practice)."""
        settings = GimbalSettings(perfect=True, tilt_friction=0.01)
        self.assertAlmostEqual(settings.window("tilt") / (3.0 * STANDARD_GRAVITY), 0.00034, places=5)
        self.assertAlmostEqual(GimbalSettings(tilt_rated=0.6, share=0.15).window("tilt"), 0.09)

    def test_heat_and_run_time(self) -> None:
        """Heat goes with the square of the torque; its mean over the tilt in use by summing many angles."""
        settings = GimbalSettings(heat=10.0, idle=4.0, energy=40.0)
        analysis = analyse(*random_gimbal(2, settings=settings), SOMEBODY)
        on_it = gimbal_result(analysis)
        tilt, roll = on_it.stages[0], on_it.stages[1]
        angles = np.linspace(-settings.tilt_use, settings.tilt_use, 20_001)
        mean = float((torque_over(tilt.weight, *tilt.beside, angles) ** 2).mean()) / settings.tilt_rated**2
        level = (roll.weight * roll.beside[0] / settings.roll_rated) ** 2
        self.assertAlmostEqual(
            holding_power(SUPPORT.case(analysis)), 10.0 * (mean + level), delta=1e-3 * 10.0 * (mean + level)
        )
        lasts, best = run_time(SUPPORT.case(analysis))
        self.assertAlmostEqual(best, 36_000.0)
        self.assertAlmostEqual(lasts, 144_000.0 / (4.0 + holding_power(SUPPORT.case(analysis))))

    def test_ways_to_hold_it(self) -> None:
        """Upright and underslung load no motor but by what lies beside level axes; a briefcase loads pan."""
        analysis = analyse(*random_gimbal(3), SOMEBODY)
        on_it = gimbal_result(analysis)
        upright, under = (gravity_torques(SUPPORT.case(analysis), MODES[way]) for way in ("upright", "underslung"))
        self.assertAlmostEqual(upright["tilt"], under["tilt"], places=9)
        self.assertAlmostEqual(upright["pan"], 0.0, places=12)
        self.assertAlmostEqual(under["pan"], 0.0, places=9)
        case = gravity_torques(SUPPORT.case(analysis), MODES["briefcase"])
        self.assertGreater(abs(case["pan"]), 1e-3)
        tall = gravity_torques(SUPPORT.case(analysis), MODES["vertical framing"])
        self.assertAlmostEqual(tall["roll"], on_it.stage("roll").weight * on_it.stage("roll").beside[1], places=9)

    def test_an_attitude_is_counted_from_how_it_is_held(self) -> None:
        """All angles of the two add up, each on its own axis; against MuJoCo turned by the sums."""
        rng = np.random.default_rng(44)
        build, kit = random_gimbal(45)
        for way, base in MODES.items():
            held = analyse(with_settings(build, replace(gimbal.SUPPORT.settings(build), way=way)), kit, SOMEBODY)
            asked = Attitude(*(float(v) for v in rng.uniform(-1.0, 1.0, 5)))
            said = SUPPORT.turned(SUPPORT.case(held), asked)
            turned = Rotation.from_euler("y", base.lean + asked.lean) * Rotation.from_euler(
                "x", base.aside + asked.aside
            )
            model = model_of(held, turned.inv().apply([0.0, 0.0, -1.0]))
            q = np.array([getattr(base, name) + getattr(asked, name) for name in ("pan", "roll", "tilt")])
            torques = -inverse(model, q, np.zeros(3), np.zeros(3))
            for name, torque in zip(("pan", "roll", "tilt"), torques, strict=True):
                self.assertAlmostEqual(said[f"{name}_torque_nm"].value, torque, places=6, msg=(way, name))


class Figures(unittest.TestCase):
    def test_offsets_by_summing_the_parts_of_each_stage(self) -> None:
        for seed in range(6):
            analysis = analyse(*random_gimbal(seed), SOMEBODY)
            judged = report_of(analysis, SOMEBODY)
            names = SUPPORT.stages(SUPPORT.case(analysis))
            inner = {"tilt": ("tilt",), "roll": ("tilt", "roll"), "pan": ("tilt", "roll", "pan")}
            for stage, beside in (("tilt", "xz"), ("roll", "yz"), ("pan", "xy")):
                own = [k for k, name in enumerate(names) if name in inner[stage]]
                mass = sum(float(analysis.assembly.mass[k]) for k in own)
                cg = sum(float(analysis.assembly.mass[k]) * analysis.positions.cg[k] for k in own) / mass
                off = cg - judged.holders[f"{stage}_axis_mm"]
                for axis in beside:
                    figure = judged.figures[f"{stage}_offset_{axis}_mm"]
                    self.assertAlmostEqual(figure.value, 1e3 * float(off["xyz".index(axis)]), places=9)
            self.assertEqual(names[0], "frame")
            self.assertEqual(names[-1], "tilt")

    def test_doubts_against_drawn_rigs(self) -> None:
        """JCGM 101: parts drawn from their uncertainties, everything worked out anew."""
        analysis = analyse(*random_gimbal(7), SOMEBODY)
        outputs = output_model(analysis)
        drawn = sample(analysis, outputs, 40_000)
        first = output_uncertainties(outputs)
        for output in (*OUTPUT_OF.values(), PAYLOAD):
            ratio = first[output] / drawn[output].u
            self.assertTrue(0.9 < ratio < 1.1, f"{output}: {ratio}")

    def test_an_axis_that_was_turned_counts_as_at_home(self) -> None:
        build, kit = random_gimbal(4)
        level = analyse(build, kit, SOMEBODY)
        turned = analyse(build.with_placed(replace(build.placed("tilt"), setting=0.7)), kit, SOMEBODY)
        self.assertTrue(np.array_equal(level.positions.cg, turned.positions.cg))

    def test_axes_that_make_no_gimbal_are_named(self) -> None:
        build, kit = random_gimbal(4)
        on = kit["roll"].mounts[0]
        sentences: list[str] = []

        def trouble(changed: dict[str, Part]) -> Stages | Trouble:
            found = analyse(build, {**kit, **changed}, SOMEBODY)
            self.assertIsNone(found.equilibrium)
            self.assertTrue(report_of(found, SOMEBODY).hindrance)
            said = balance_model(found, SOMEBODY, System.METRIC).verdict
            self.assertEqual(said.head, "Cannot say yet.")
            sentences.append(said.body)
            return stages_of(found.assembly, found.positions, found.build, SUPPORT.settings(found.build))

        side = kit["side"]
        askew = replace(side, mounts=(replace(side.mounts[0], axis=(0.1, 1.0, 0.0)),))
        self.assertIs(trouble({"side": askew}), Trouble.SKEW)
        # Common practice: a degree is what play and bolts leave; more was joined wrongly.
        for degrees, wrong in ((0.95, False), (1.05, True)):
            leans = replace(side.mounts[0], axis=(math.tan(math.radians(degrees)), 1.0, 0.0))
            found = analyse(build, {**kit, "side": replace(side, mounts=(leans,))}, SOMEBODY)
            said = stages_of(found.assembly, found.positions, found.build, SUPPORT.settings(found.build))
            self.assertEqual(said is Trouble.SKEW, wrong)
        light = {key: replace(kit[key], mass=None) for key in ("tilt", "riser", "cross", "camera", "lens")}
        self.assertIs(trouble(light), Trouble.NO_MASS)
        roll = kit["arm"].mounts[0]
        again = replace(kit["arm"], mounts=(replace(roll, kind=MountKind.PAN_AXIS),))
        feet = replace(kit["roll"], feet=(Foot(MountKind.PAN_AXIS),))
        self.assertIs(trouble({"arm": again, "roll": feet}), Trouble.TWICE)
        plain = replace(side, mounts=(replace(side.mounts[0], kind=MountKind.ROSETTE),))
        self.assertIs(
            trouble({"side": plain, "tilt": replace(kit["tilt"], feet=(Foot(MountKind.ROSETTE),))}), Trouble.NO_TILT
        )
        self.assertEqual(len(set(sentences)), 4)
        self.assertEqual(on.kind, MountKind.DOVETAIL)
        with self.assertRaisesRegex(AssemblyError, "is no way to hold a gimbal"):
            GimbalSettings(way="sideways")
        with self.assertRaisesRegex(AssemblyError, "tilt motor"):
            GimbalSettings(tilt_rated=0.0)

    def test_an_axis_far_from_all_that_turns_on_it_is_named(self) -> None:
        build, kit = random_gimbal(4)
        far = replace(kit["side"].mounts[0], at=(0.0, 0.0, 0.9))
        lost = replace(kit["tilt"], feet=(Foot(MountKind.TILT_AXIS, (0.0, 0.0, 0.9)),))
        found = analyse(build, {**kit, "side": replace(kit["side"], mounts=(far,)), "tilt": lost}, SOMEBODY)
        outside = [f for f in found.findings if f.kind == gimbal.AXIS_OUTSIDE]
        self.assertEqual([f.placed_ids for f in outside], [("tilt",)])
        # How far it passes by the nearest of them, by the corners of each.
        stage = gimbal_result(found).stage("tilt")
        away = []
        for part in np.flatnonzero(stage.parts).tolist():
            beside = outline_corners(found.assembly, found.positions, part)[:, [0, 2]]
            low, high, point = beside.min(axis=0), beside.max(axis=0), stage.point[[0, 2]]
            away.append(math.dist(point, np.clip(point, low, high)))
        self.assertAlmostEqual(outside[0].amount, min(away), places=12)

    def test_while_a_scale_is_dragged_an_axis_is_named_as_if_it_stood_there_from_the_start(self) -> None:
        seen = {True: 0, False: 0}
        for seed in range(6):
            build, kit = random_gimbal(seed, reach=0.6)
            kit["tilt"] = replace(kit["tilt"], feet=(Foot(MountKind.TILT_AXIS, (0.0, 0.0, 0.3)),))
            dragged = analyse(build, kit, SOMEBODY)
            for name, setting in itertools.product(("riser", "camera", "cross"), np.linspace(-0.6, 0.6, 13).tolist()):
                moved = build.with_placed(replace(build.placed(name), setting=setting))
                dragged = analyse(moved, kit, SOMEBODY, dragged)
                at_once = analyse(moved, kit, SOMEBODY)
                amounts = [
                    {f.placed_ids: f.amount for f in one.findings if f.kind == gimbal.AXIS_OUTSIDE}
                    for one in (dragged, at_once)
                ]
                self.assertEqual(amounts[0].keys(), amounts[1].keys(), (seed, name, setting))
                for ids, amount in amounts[1].items():
                    self.assertAlmostEqual(amounts[0][ids], amount, places=12)
                seen[bool(amounts[1])] += 1
        self.assertGreater(min(seen.values()), 10, seen)

    def test_warnings(self) -> None:
        tight = GimbalSettings(most=1.0, cables=3.0, tilt_rated=0.01, share=1.0)
        found = analyse(*random_gimbal(4, settings=tight), SOMEBODY)
        kinds = {finding.kind for finding in found.findings}
        self.assertLessEqual({gimbal.OVER_PAYLOAD, gimbal.CABLES, gimbal.OVER_MOTOR}, kinds)
        over = next(f for f in found.findings if f.kind == gimbal.OVER_PAYLOAD)
        self.assertAlmostEqual(over.amount, 2.3)  # camera and lens


class Screws(unittest.TestCase):
    def test_a_tall_load_on_one_screw_is_named(self) -> None:
        """1/4-20 tightened by 1 N m: 787 N; 20 mm from the edge it gaps from 15.7 N m (Shigley, from memory)."""
        build = next(one for one in BOOK.builds if one.id == "gimbal-light")
        box = Part("tall", "Tall box", Category.OTHER, 2.0, HowKnown.SHEET, Outline((0.04, 0.04, 0.6), (0.0, 0.0, 0.3)))
        box = replace(box, feet=(Foot(MountKind.QUARTER_20),))
        cage = replace(
            BOOK.parts["cage"],
            mounts=(*BOOK.parts["cage"].mounts, Mount("top", MountKind.QUARTER_20, (0.0, 0.0, 0.11))),
        )
        full = next(one for one in BOOK.builds if one.id == "gimbal-full")
        tall = replace(full, parts=(*full.parts, Placed("tall", "tall", "cage", "top")))
        kit = {**BOOK.parts, "tall": box, "cage": cage}
        found = [f for f in analyse(tall, kit, SOMEBODY).findings if f.kind == ONE_SCREW]
        self.assertEqual([f.placed_ids for f in found if f.placed_ids == ("tall",)], [("tall",)])
        one = next(f for f in found if f.placed_ids == ("tall",))
        self.assertAlmostEqual(one.limit, 787.4 * 0.020, delta=0.05)
        self.assertAlmostEqual(one.amount, 3.0 * 2.0 * STANDARD_GRAVITY * 0.3, places=6)
        # Lying flat it is as wide as it was: how thin a box is says nothing of the edge over which it tips.
        thin = replace(box, outline=Outline((0.04, 0.04, 0.004), (0.0, 0.0, 0.3)))
        flat = analyse(tall, {**kit, "tall": thin}, SOMEBODY).findings
        self.assertEqual([f.limit for f in flat if f.placed_ids == ("tall",)], [one.limit])
        calm = analyse(build, BOOK.parts, SOMEBODY)
        self.assertFalse([f for f in calm.findings if f.kind == ONE_SCREW])


class Plans(unittest.TestCase):
    def test_all_scales_set_leave_nothing_where_they_reach(self) -> None:
        """The order of work, applied and worked out anew: below a nanometre; what no scale clears stays as it is."""
        for seed in range(12):
            build, kit = thin(*random_gimbal(seed, reach=1.5))
            analysis = analyse(build, kit, SOMEBODY)
            for step in order_of_work(analysis):
                if step.placed_id:
                    build = build.with_placed(replace(build.placed(step.placed_id), setting=step.to))
            after = gimbal_result(analyse(build, kit, SOMEBODY))
            for name, beside in (("tilt", 0), ("tilt", 1), ("roll", 0), ("pan", 0)):
                self.assertLess(abs(after.stage(name).beside[beside]), 1e-9, (seed, name))

    def test_a_step_ends_where_its_parts_would_meet_and_says_which(self) -> None:
        """A clash that is not there before is not there afterwards; a millimetre farther there would be one."""
        held = free = 0
        for seed in range(60):
            build, kit = random_gimbal(seed, reach=0.3)
            analysis = analyse(build, kit, SOMEBODY)

            def met(one: Build, kit: Kit = kit) -> set[tuple[str, ...]]:
                return {f.placed_ids for f in analyse(one, kit, SOMEBODY).findings if f.kind == FindingKind.CLASH}

            known = met(build)
            steps = order_of_work(analysis)
            for step in steps:
                if not step.placed_id:
                    continue
                build = build.with_placed(replace(build.placed(step.placed_id), setting=step.to))
                if not step.meets:
                    continue
                held += 1
                farther = step.to - math.copysign(0.001, sum_of_moves(analysis, step))
                beyond = build.with_placed(replace(build.placed(step.placed_id), setting=farther))
                self.assertIn(frozenset(step.meets), {frozenset(pair) for pair in met(beyond) - known}, seed)
                self.assertGreater(abs(step.left), 0.0)
            self.assertLessEqual(met(build), known, seed)
            free += not any(step.meets for step in steps)
        self.assertGreater(held, 4)
        self.assertGreater(free, 20)

    def test_each_step_leaves_the_ones_before_it_alone(self) -> None:
        build, kit = thin(*random_gimbal(3, reach=1.5))
        done: list[tuple[str, int]] = []
        axes = {"tilt": "xz", "roll": "yz", "pan": "xy"}
        for step in order_of_work(analyse(build, kit, SOMEBODY)):
            if not step.placed_id:
                continue
            build = build.with_placed(replace(build.placed(step.placed_id), setting=step.to))
            done.append((step.stage, axes[step.stage].index(step.beside)))
            now = gimbal_result(analyse(build, kit, SOMEBODY))
            for name, k in done:
                self.assertLess(abs(now.stage(name).beside[k]), 1e-9, step)

    def test_the_search_by_another_way_finds_the_same_marks(self) -> None:
        """A mixed-integer programme against forward substitution."""
        found = 0
        for seed in range(3):
            build, kit = thin(*random_gimbal(seed, reach=0.6))
            analysis = analyse(build, kit, SOMEBODY)
            ways = find_strategies(analysis, kit, SOMEBODY)
            slides = next(way for way in ways if way.kind is StrategyKind.SLIDES)
            self.assertIs(slides.plan.status, PlanStatus.PROVEN)
            steps = order_of_work(analysis)
            for step in steps:
                if step.placed_id in ("camera", "riser", "arm"):
                    self.assertAlmostEqual(slides.plan.build.placed(step.placed_id).setting, step.to, delta=1e-7)
                    found += 1
            after = gimbal_result(slides.after)
            for name, k in (("tilt", 0), ("tilt", 1), ("roll", 0), ("pan", 0)):
                self.assertLess(abs(after.stage(name).beside[k]), 1e-9)
        self.assertEqual(found, 9)

    def test_out_of_travel_the_plan_is_the_least_of_a_grid(self) -> None:
        """Brute force over all five scales: nothing leaves less, each stage counted in its window."""
        build, kit = thin(*random_gimbal(8, reach=0.03))
        analysis = analyse(build, kit, SOMEBODY)
        ways = find_strategies(analysis, kit, SOMEBODY)
        slides = next(way for way in ways if way.kind is StrategyKind.SLIDES)
        target = SUPPORT.target(case_of(analysis))

        def left(one: Build) -> float:
            stages = gimbal_result(analyse(one, kit, SOMEBODY, analysis))
            total = 0.0
            for form in target.forms:
                name, axis = form.name.split(" ")
                stage = stages.stage(name)
                total += form.weight * abs(stage.mass * float(stage.offset["xyz".index(axis)]))
            return total

        least = left(slides.plan.build)
        for settings in itertools.product((-0.03, 0.0, 0.03), repeat=5):
            one = build
            for key, setting in zip(("camera", "cross", "riser", "side", "arm"), settings, strict=True):
                one = one.with_placed(replace(one.placed(key), setting=setting))
            self.assertGreaterEqual(left(one), least - 1e-6)

    def test_what_is_left_off_cures_what_no_scale_reaches(self) -> None:
        """The demo's full build: the plate ends short; without the matte box all is within the window."""
        build = next(one for one in BOOK.builds if one.id == "gimbal-full")
        analysis = analyse(build, BOOK.parts, SOMEBODY)
        ways = {way.kind: way for way in find_strategies(analysis, BOOK.parts, SOMEBODY)}
        self.assertFalse(ways[StrategyKind.SLIDES].full)
        self.assertTrue(ways[StrategyKind.SLIDES].relaxations)
        off = ways[StrategyKind.LEAVE_OFF]
        self.assertTrue(off.full)
        self.assertNotIn("matte", {placed.id for placed in off.plan.build.parts})
        for stage in gimbal_result(off.after).stages:
            self.assertLessEqual(peak_torque(stage), GimbalSettings().window(stage.name) + 1e-9)


class WithoutMass(unittest.TestCase):
    def test_parts_that_weigh_nothing_have_no_cg(self) -> None:
        analysis = analyse(*random_gimbal(2), SOMEBODY)
        none = np.zeros(len(analysis.assembly.parts), dtype=bool)
        self.assertIsNone(body_of_parts(analysis.assembly, analysis.positions.cg, none))
        whole = body_of_parts(analysis.assembly, analysis.positions.cg, ~none)
        self.assertAlmostEqual(whole.mass, analysis.body.mass)
        np.testing.assert_allclose(whole.inertia, analysis.body.inertia, atol=1e-12)


class Scales(unittest.TestCase):
    def test_a_plate_that_does_not_slide_is_no_scale_and_the_others_do_the_work(self) -> None:
        """Each is screwed fast in turn where it stands: nothing is asked of it; where none is left nothing is won."""
        for seed in (1, 4):
            build, kit = random_gimbal(seed)
            analysis = analyse(build, kit, SOMEBODY)
            scales = SUPPORT.scales(case_of(analysis))
            for name in sorted(scales):
                placed = build.placed(name)
                holder = build.placed(placed.parent).part_id
                mounts = tuple(
                    replace(m, low=placed.setting, high=placed.setting) if m.id == placed.mount else m
                    for m in kit[holder].mounts
                )
                fast = analyse(build, {**kit, holder: replace(kit[holder], mounts=mounts)}, SOMEBODY)
                self.assertEqual(SUPPORT.scales(SUPPORT.case(fast)), scales - {name})
                steps = order_of_work(fast)
                self.assertNotIn(name, [step.placed_id for step in steps])
                # The mark that it stands at is kept by all that is set.
                self.assertTrue(all(step.left == step.before for step in steps if not step.placed_id))


@campaign
class Clearance(unittest.TestCase):
    def test_against_boxes_turned_by_hand(self) -> None:
        """Corners and many points of the edges turned by small steps, distances taken point by point: 0.1 mm."""
        rng = np.random.default_rng(5)
        apart = met = 0
        for _ in range(24):
            half, other = rng.uniform(0.02, 0.08, 3), rng.uniform(0.02, 0.08, 3)
            middle = np.array([0.05, 0.0, 0.0]) + rng.uniform(-0.03, 0.03, 3)
            way = rng.uniform(0.0, 2.0 * math.pi)
            far = rng.uniform(0.12, 0.28)
            still = np.array([far * math.cos(way), 0.0, far * math.sin(way)])
            low, high = -1.2, 1.2
            found = passing((0, _corners(middle, half)), (1, _corners(still, other)), 1, np.zeros(3), low, high)
            gap = _gap_by_hand(middle[[0, 2]], half[[0, 2]], still[[0, 2]], other[[0, 2]], low, high)
            if found.gap > 0.0:
                self.assertIsNone(found.meets)
                self.assertAlmostEqual(found.gap, gap, delta=1e-4)
                apart += 1
            else:
                self.assertLess(gap, 1e-3)
                self.assertIsNotNone(found.meets)
                met += 1
        self.assertGreater(apart, 5)
        self.assertGreater(met, 3)

    def test_turned_boxes_by_the_general_way_and_the_short_one(self) -> None:
        """Outlines that stand along the axes have a way of their own: the same gap, apart and over each other."""
        rng = np.random.default_rng(8)
        for _ in range(40):
            half, other = rng.uniform(0.02, 0.08, 3), rng.uniform(0.02, 0.08, 3)
            middle, still = rng.uniform(-0.06, 0.06, 3), rng.uniform(-0.2, 0.2, 3) * [1.0, 0.0, 1.0]
            middle[1] = 0.0
            angle = float(rng.uniform(-2.0, 2.0))
            moving, standing = _corners(middle, half), _corners(still, other)
            short = passing((0, moving), (1, standing), 1, np.zeros(3), angle, angle + 1e-9)
            turned = rotation_about(Y, angle)
            flat = outline_across(moving @ turned.T, 1), outline_across(standing, 1)
            general = float(rectangle_gaps(flat[0][None], flat[1][None])[0])
            self.assertAlmostEqual(short.gap, general, delta=1e-7)

    def test_many_pairs_at_once_against_turning_them_step_by_step(self) -> None:
        rng = np.random.default_rng(9)
        middle, half = rng.uniform(-0.2, 0.2, (400, 2, 2)), rng.uniform(0.005, 0.08, (400, 2, 2))
        low, high, use = middle - half, middle + half, rng.choice([0.3, 1.0, 2.2, math.pi], 400)
        gap, angle = turned_gaps(low.transpose(1, 0, 2), high.transpose(1, 0, 2), use)
        clear = touched = 0
        for k in range(400):
            angles = np.linspace(-use[k], use[k], 2001)
            boxes = [np.array([a, (b[0], a[1]), b, (a[0], b[1])]) for a, b in zip(low[k], high[k], strict=True)]
            turns = np.array([[[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]] for a in angles])
            stepped = rectangle_gaps(boxes[0] @ turns, np.broadcast_to(boxes[1], (2001, 4, 2)))
            least = max(float(stepped.min()), 0.0)
            reach = float(np.hypot(*boxes[0].T).max())
            # Between two steps a corner goes no farther than half a step of its circle.
            self.assertLessEqual(gap[k], least + 1e-12)
            self.assertGreaterEqual(gap[k], least - reach * use[k] / 2000.0)
            if gap[k] > 1e-9:
                clear += 1
                turn = np.array([[math.cos(angle[k]), math.sin(angle[k])], [-math.sin(angle[k]), math.cos(angle[k])]])
                there = rectangle_gaps((boxes[0] @ turn)[None], boxes[1][None])
                self.assertAlmostEqual(float(there[0]), gap[k], delta=1e-12)
                self.assertLessEqual(abs(angle[k]), use[k] + 1e-12)
            elif angle[k] == 0.0:
                self.assertLessEqual(float(stepped[1000]), 1e-9)
            else:
                # It first touches there: it is clear on the way from home, and met at the next step.
                way = np.sign(angle[k]) * angles
                self.assertTrue((stepped[(way >= 0.0) & (way < abs(angle[k]) - use[k] / 1000.0)] > 0.0).all())
                past = (way > abs(angle[k])) & (way < abs(angle[k]) + use[k] / 400.0)
                self.assertLess(float(stepped[past].min(initial=math.inf)), reach * use[k] / 1000.0)
                touched += 1
        self.assertTrue(60 < clear < 340, clear)
        self.assertGreater(touched, 30)

    def test_the_deepest_place_of_a_swing_against_turning_it_step_by_step(self) -> None:
        """Separating axes at 4,001 angles, by corners: none lies deeper, and the nearest of them nearly as deep."""
        rng = np.random.default_rng(17)
        met = 0
        for k in range(220):
            middles, halves = rng.uniform(-0.2, 0.2, (2, 2)), rng.uniform(0.01, 0.15, (2, 2))
            if k >= 200:
                # Alike on either side of home, where the deepest place then often is.
                middles[:, 1] = 0.0
            use = float(rng.uniform(0.05, math.pi))
            depth, at, meets = deepest(middles, halves, use)
            around = np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)])
            first, second = (m + h * around for m, h in zip(middles, halves, strict=True))
            angles = np.append(np.linspace(-use, use, 4001), at)
            c, s = np.cos(angles), np.sin(angles)
            turns = np.stack([np.stack([c, s], -1), np.stack([-s, c], -1)], -2)
            stepped = rectangle_gaps(first @ turns, np.broadcast_to(second, (4002, 4, 2)))
            self.assertLessEqual(abs(at), use)
            if depth >= 0.0:
                self.assertGreaterEqual(float(stepped.min()), depth - 1e-12)
                continue
            met += 1
            # Where they first meet, corner by corner: `turned_gaps` asks circles, not sides.
            low, high = middles - halves, middles + halves
            first_touch = turned_gaps(low[:, None], high[:, None], np.array([use]))[1]
            self.assertAlmostEqual(abs(meets), abs(float(first_touch[0])), places=7)
            self.assertAlmostEqual(float(stepped[-1]), depth, places=12)
            self.assertGreaterEqual(float(stepped.min()), depth - 1e-12)
            self.assertLessEqual(float(stepped[:-1].min()), depth + 2e-4)
        self.assertTrue(40 < met < 190, met)

    def test_what_swings_is_the_same_whatever_was_asked_before(self) -> None:
        """Plates and arms dragged by little and by much, and the same rig asked for the first time."""
        rng = np.random.default_rng(23)
        met: list[set[tuple[int, int]]] = []
        for name in ("gimbal-light", "gimbal-full"):
            build = next(build for build in BOOK.builds if build.id == name)
            now = analyse(build, BOOK.parts, SOMEBODY)
            slides = [build.parts[i].id for i in now.assembly.slide_parts]
            for step in range(40):
                placed = build.placed(slides[int(rng.integers(len(slides)))])
                by = float(rng.normal(0.0, 0.06 if step % 8 == 7 else 0.006))
                build = build.with_placed(replace(placed, setting=placed.setting + by))
                now = analyse(build, BOOK.parts, SOMEBODY, now)
                nearest = nearest_passing(SUPPORT.case(now), 0.15)
                anew = analyse(build, BOOK.parts, SOMEBODY)
                newest = nearest_passing(SUPPORT.case(anew), 0.15)
                self.assertEqual((nearest.first, nearest.second), (newest.first, newest.second))
                self.assertAlmostEqual(nearest.gap, newest.gap, delta=1e-11)
                for near in (0.0, 0.02, 0.15) if step % 4 == 3 else (0.0,):
                    dragged = passings(SUPPORT.case(now), near)
                    anew = analyse(build, BOOK.parts, SOMEBODY)
                    fresh = passings(SUPPORT.case(anew), near)
                    self.assertEqual([(p.first, p.second) for p in dragged], [(p.first, p.second) for p in fresh])
                    for one, other in zip(dragged, fresh, strict=True):
                        # Beyond the nearest ones a swing is turned step by step, to 5e-5 m.
                        self.assertAlmostEqual(one.gap, other.gap, delta=5e-5 if near else 1e-11)
                    nearest = nearest_passing(SUPPORT.case(now), near)
                    self.assertEqual(nearest is None, not fresh)
                    if nearest is not None:
                        self.assertAlmostEqual(nearest.gap, fresh[0].gap, delta=5e-5)
                met.append({(p.first, p.second) for p in passings(SUPPORT.case(now))})
        # Some came to meet on the way, and some no longer do.
        self.assertGreater(sum(a != b for a, b in itertools.pairwise(met)), 2)

    def test_bars_that_cross_meet_though_no_corner_is_within_the_other(self) -> None:
        half = np.array([[[0.2, 0.01]], [[0.01, 0.2]]])
        self.assertEqual(turned_gaps(-half, half, np.array([0.01]))[0].tolist(), [0.0])

    def test_beside_each_other_along_the_axis_they_never_meet(self) -> None:
        one, other = _corners(np.zeros(3), np.full(3, 0.05)), _corners(np.array([0.0, 0.2, 0.0]), np.full(3, 0.05))
        self.assertIsNone(passing((0, one), (1, other), 1, np.zeros(3), -3.0, 3.0))

    def test_the_angle_at_which_it_first_meets(self) -> None:
        """A bar of 0.2 m about its end meets a wall 0.15 m below at asin(0.15/0.2), its thickness aside."""
        bar = _corners(np.array([0.1, 0.0, 0.0]), np.array([0.1, 0.01, 1e-6]))
        wall = _corners(np.array([0.1, 0.0, -0.2]), np.array([0.3, 0.01, 0.05]))
        found = passing((0, bar), (1, wall), 1, np.zeros(3), 0.0, 1.5)
        self.assertAlmostEqual(found.meets, math.asin(0.75), delta=1e-4)
        self.assertLess(found.gap, 0.0)

    def test_the_demo_names_what_swings_in(self) -> None:
        build = next(one for one in BOOK.builds if one.id == "gimbal-full")
        analysis = analyse(build, BOOK.parts, SOMEBODY)
        swings = [f for f in analysis.findings if f.kind == gimbal.SWINGS_INTO]
        self.assertEqual([f.placed_ids for f in swings], [("sender", "pan-arm")])
        one = passings(SUPPORT.case(analysis))[0]
        sender, arm = (outline_corners(analysis.assembly, analysis.positions, k) for k in (one.first, one.second))
        point = gimbal_result(analysis).stages[0].point
        turned = (sender - point) @ rotation_about(Y, one.angle).T + point
        self.assertGreater(turned[:, 2].max(), arm[:, 2].min())


def _corners(middle: np.ndarray, half: np.ndarray) -> np.ndarray:
    signs = np.array(list(itertools.product((-1.0, 1.0), repeat=3)))
    result: np.ndarray = middle + signs * half
    return result


def _gap_by_hand(
    middle: np.ndarray, half: np.ndarray, still: np.ndarray, other: np.ndarray, low: float, high: float
) -> float:
    """Return the least distance of a turned rectangle's rim (x, z; nose down) from one that stands, by points."""
    t = np.linspace(-1.0, 1.0, 401)
    ones = np.ones_like(t)
    rim = np.concatenate([np.column_stack(pair) for pair in ((t, ones), (t, -ones), (ones, t), (-ones, t))])
    moving, standing = middle + rim * half, still + rim * other
    least = math.inf
    for angle in np.linspace(low, high, 2401):
        c, s = math.cos(angle), math.sin(angle)
        x, z = moving[:, 0] * c + moving[:, 1] * s, -moving[:, 0] * s + moving[:, 1] * c
        a = np.maximum(np.abs(x - still[0]) - other[0], 0.0)
        b = np.maximum(np.abs(z - still[1]) - other[1], 0.0)
        least = min(least, float(np.hypot(a, b).min()))
        if angle in (low, high) or abs(angle) < 1e-3:
            # A corner of the standing one may be nearest too.
            back_x, back_z = standing[:, 0] * c - standing[:, 1] * s, standing[:, 0] * s + standing[:, 1] * c
            a = np.maximum(np.abs(back_x - middle[0]) - half[0], 0.0)
            b = np.maximum(np.abs(back_z - middle[1]) - half[1], 0.0)
            least = min(least, float(np.hypot(a, b).min()))
    return least


if __name__ == "__main__":
    unittest.main()
