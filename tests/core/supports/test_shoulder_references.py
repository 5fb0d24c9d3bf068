"""Shoulder statics, uncertainty and remedies against closed forms and SciPy."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.optimize import linprog

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Placed
from equilix.core.assembly.mounts import free_mounts
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind
from equilix.core.kit.uncertainty import SCALE_ACCURACY, Certainty, certainty, mass_uncertainty
from equilix.core.massprops.bodies import MassProperties
from equilix.core.solver.counterweight import lever_of
from equilix.core.solver.dead_weight import weight_block, weight_mounts
from equilix.core.solver.problem import moment_form
from equilix.core.statics.pad import Shoulder, Tip, pad_pressure, rest
from tests.rigs.plain import OPERATOR, PLAIN, base, block, grip, hold_level, left_over, shoulder_build
from tests.rigs.results import shoulder_result

UP_ONLY = (0.0, 0.0, 100.0, 0.0, 0.0, 0.0)


def rig(mass: float, ahead: float, above: float = 0.12, left: float = 0.0) -> MassProperties:
    return MassProperties(mass, np.array([ahead, left, above]), np.eye(3) * 0.1)


def pair(x: float, y: float = 0.1, z: float = -0.1) -> np.ndarray:
    return np.array([[x, y, z], [x, -y, z]])


class HandForces(unittest.TestCase):
    def test_one_lever_closed_form(self) -> None:
        """F = W (x_c - x_end)/(x_grip - x_end): moments about the patch's front end; 8 kg gives 18.8 N."""
        shoulder = Shoulder(span_x=0.060)
        held = hold_level(rig(8.0, 0.060 + 0.030), np.zeros(3), shoulder, pair(0.250 + 0.030), UP_ONLY)
        up = sum(float(hand.force[2]) for hand in held.hands)
        self.assertAlmostEqual(up, 8.0 * STANDARD_GRAVITY * 0.060 / 0.250, places=9)
        self.assertAlmostEqual(up, 18.8, places=1)
        self.assertAlmostEqual(float(held.hands[0].force[2]), up / 2.0, places=9)

    def test_a_tail_heavy_rig_is_pressed_down_and_the_shoulder_carries_more(self) -> None:
        held = hold_level(rig(8.0, -0.10), np.zeros(3), Shoulder(), pair(0.2), UP_ONLY)
        down = -sum(float(hand.force[2]) for hand in held.hands)
        self.assertAlmostEqual(down, 8.0 * STANDARD_GRAVITY * 0.070 / 0.230, places=9)
        self.assertAlmostEqual(float(held.pad_force[2]), 8.0 * STANDARD_GRAVITY + down, places=9)

    @settings(max_examples=80, deadline=None)
    @given(
        st.floats(1.0, 20.0),
        st.floats(-0.25, 0.25),
        st.floats(-0.03, 0.03),
        st.floats(0.05, 0.4),
        st.floats(-0.3, 0.0),
        st.floats(-0.15, 0.05),
    )
    def test_equilibrium_to_1e_9(
        self, mass: float, ahead: float, left: float, grip_x: float, grip_z: float, offset: float
    ) -> None:
        body, pad = rig(mass, ahead + 0.3, 0.1, left - 0.2), np.array([0.3, -0.2, 0.01])
        grips = np.array([[grip_x + 0.3, -0.1, grip_z], [grip_x + 0.3 + offset, -0.3, grip_z]])
        held = hold_level(body, pad, Shoulder(), grips)
        self.assertIsNotNone(held)
        self.assertLess(np.abs(left_over(body.mass, body.cg, pad, held)).max(), 1e-9)
        self.assertGreaterEqual(held.pad_force[2], -1e-6)
        self.assertLessEqual(held.friction, 0.5 * held.pad_force[2] + 1e-6)

    def test_the_least_effort_is_that_of_scipy(self) -> None:
        """The same programme written afresh: friction pyramid by inequalities, solved by HiGHS."""
        body, pad, shoulder, grips = rig(9.0, 0.08), np.zeros(3), Shoulder(), pair(0.22)
        held = hold_level(body, pad, shoulder, grips)
        caps = np.array(PLAIN)
        ours = max(float(np.abs(np.concatenate([hand.force, hand.couple]) / caps).max()) for hand in held.hands)
        best = _least_effort(body, shoulder, grips, caps)
        self.assertGreaterEqual(ours, best * (1.0 - 1e-9))
        self.assertLessEqual(ours, best * 1.003)

    def test_over_the_pad_the_hands_are_free(self) -> None:
        held = hold_level(rig(8.0, 0.02), np.zeros(3), Shoulder(), pair(0.2))
        self.assertLess(held.larger, 1e-3)
        self.assertAlmostEqual(pad_pressure(held.pad_force, Shoulder()), 8.0 * STANDARD_GRAVITY / 0.0036, places=0)

    def test_pressure_of_the_published_size(self) -> None:
        """8 kg on 60 x 70 mm: 19 kPa, above the 14 kPa of Holewijn (1990), from memory."""
        force = np.array([0.0, 0.0, 8.0 * STANDARD_GRAVITY])
        self.assertAlmostEqual(pad_pressure(force, Shoulder(span_y=0.070)) / 1e3, 18.7, places=1)

    def test_without_hands_a_tipping_rig_cannot_be_held(self) -> None:
        none = np.zeros((0, 3))
        self.assertIsNone(hold_level(rig(8.0, 0.1), np.zeros(3), Shoulder(), none))
        self.assertIsNotNone(hold_level(rig(8.0, 0.01), np.zeros(3), Shoulder(), none))


def _least_effort(body: MassProperties, shoulder: Shoulder, grips: np.ndarray, caps: np.ndarray) -> float:
    corners = [(sx * shoulder.span_x / 2, sy * shoulder.span_y / 2, 0.0) for sx in (-1, 1) for sy in (-1, 1)]
    n = 3 * 4 + 6 * len(grips) + 1
    equal = np.zeros((6, n))
    for i, point in enumerate([*corners, *grips]):
        column = 3 * i if i < 4 else 12 + 6 * (i - 4)
        x, y, z = point
        equal[:3, column : column + 3] = np.eye(3)
        equal[3:, column : column + 3] = [[0, -z, y], [z, 0, -x], [-y, x, 0]]
        if i >= 4:
            equal[3:, column + 3 : column + 6] = np.eye(3)
    weight = np.array([0.0, 0.0, -body.mass * STANDARD_GRAVITY])
    rhs = -np.concatenate([weight, np.cross(body.cg, weight)])
    rows, bounds = [], []
    for i in range(4):
        for k in range(8):  # octagon's faces lie between its rays
            row = np.zeros(n)
            a = math.pi / 4 * (k + 0.5)
            row[3 * i : 3 * i + 3] = [math.cos(a), math.sin(a), -shoulder.friction * math.cos(math.pi / 8)]
            rows.append(row)
    for h in range(len(grips)):
        for k in range(6):
            for sign in (-1.0, 1.0):
                row = np.zeros(n)
                row[12 + 6 * h + k], row[-1] = sign, -caps[k]
                rows.append(row)
    for i in range(n):
        bounds.append((0, None) if i == n - 1 or (i < 12 and i % 3 == 2) else (None, None))
    cost = np.zeros(n)
    cost[-1] = 1.0
    return float(linprog(cost, np.array(rows), np.zeros(len(rows)), equal, rhs, bounds=bounds).fun)


class OverThePad(unittest.TestCase):
    def test_margins_and_tip_angle(self) -> None:
        """atan(margin/height): at 120 mm above the pad and 15 degrees the plumb line moves 31 mm."""
        lies = rest(rig(8.0, 0.010, 0.120, -0.005), np.zeros(3), Shoulder())
        self.assertAlmostEqual(lies.margin_x, 0.020)
        self.assertAlmostEqual(lies.margin_y, 0.025)
        self.assertAlmostEqual(lies.tip_angle, math.atan2(0.020, 0.120))
        self.assertAlmostEqual(0.120 * math.sin(math.radians(15.0)) * 1e3, 31.0, delta=0.1)

    def test_tip_directions(self) -> None:
        for ahead, left, tip in (
            (0.05, 0.0, Tip.FORWARD),
            (-0.05, 0.0, Tip.BACK),
            (0.0, 0.05, Tip.LEFT),
            (0.0, -0.05, Tip.RIGHT),
            (0.01, 0.01, Tip.LEVEL),
        ):
            self.assertIs(rest(rig(8.0, ahead, left=left), np.zeros(3), Shoulder()).tip, tip)

    def test_a_slope_needs_friction(self) -> None:
        lies = rest(rig(8.0, 0.0), np.zeros(3), Shoulder(slope=math.radians(20.0)))
        self.assertAlmostEqual(lies.friction_needed, math.tan(math.radians(20.0)))

    def test_the_moments_carry_the_stated_signs(self) -> None:
        camera = block("camera", 3.0, category=Category.BODY)
        build, kit = shoulder_build((camera, 0.10))
        found = analyse(build, kit, OPERATOR)
        self.assertAlmostEqual(found.equilibrium.tip_moment, 3.0 * STANDARD_GRAVITY * 0.10, places=12)
        self.assertAlmostEqual(float(found.equilibrium.moment.sum()), found.equilibrium.tip_moment, places=12)
        self.assertEqual(shoulder_result(found).roll_moment, 0.0)

    def test_certainty(self) -> None:
        self.assertIs(certainty(0.02, 0.004), Certainty.CLEAR)
        self.assertIs(certainty(-0.02, 0.004), Certainty.OVER)
        self.assertIs(certainty(0.007, 0.004), Certainty.CANNOT_SAY)


class Uncertainty(unittest.TestCase):
    def test_one_scale_for_all_adds_linearly(self) -> None:
        """Four parts at 2 %: 0.068 kg together, 0.037 kg if taken as independent (JCGM 100, F.1.2.3)."""
        masses = np.array([1.4, 1.0, 0.6, 0.4])
        self.assertAlmostEqual(0.02 * masses.sum(), 0.068, places=12)
        self.assertAlmostEqual(0.02 * math.hypot(*masses), 0.037, places=3)
        blocks = [(replace(block(f"p{i}", float(m)), mass_u=None), 0.2 * i) for i, m in enumerate(masses)]
        build, kit = shoulder_build(*blocks)
        figures = analyse(build, kit, OPERATOR)
        gain = SCALE_ACCURACY / math.sqrt(3.0) * figures.body.mass
        steps = math.sqrt(5) * 0.010 / math.sqrt(12.0)
        self.assertAlmostEqual(figures.spread.mass, math.hypot(gain, steps), places=12)

    def test_a_common_gain_leaves_the_cg_alone(self) -> None:
        blocks = [(replace(block(f"p{i}", 1.0 + i), cg_u=0.0), 0.3 * i - 0.4) for i in range(3)]
        build, kit = shoulder_build(*blocks)
        kit["base"] = replace(kit["base"], cg_u=0.0)
        figures = analyse(build, kit, OPERATOR)
        arms = (figures.positions.cg[:, 0] - figures.body.cg[0]) / figures.body.mass
        steps = 0.010 / math.sqrt(12.0) * math.hypot(*arms)
        self.assertAlmostEqual(float(figures.spread.cg[0]), steps, places=12)

    def test_first_order_against_monte_carlo(self) -> None:
        """JCGM 101:2008: 200,000 draws of masses and CGs scatter as the first order says."""
        rng = np.random.default_rng(1)
        guess = HowKnown.GUESSED
        blocks = [
            (block("a", 2.0, known=guess), -0.2),
            (block("b", 1.2, known=HowKnown.SHEET), 0.1),
            (block("c", 0.5, known=guess), 0.35),
        ]
        build, kit = shoulder_build(*blocks)
        kit["base"] = replace(kit["base"], mass_u=0.0, cg_u=0.0)
        figures = analyse(build, kit, OPERATOR)
        uncertainties = figures.assembly.uncertainties
        n = 200_000
        mass = figures.assembly.mass + rng.normal(size=(n, 4)) * uncertainties.mass
        x = figures.positions.cg[:, 0] + rng.normal(size=(n, 4)) * uncertainties.cg[:, 0]
        cg = (mass * x).sum(axis=1) / mass.sum(axis=1)
        self.assertAlmostEqual(cg.std() / float(figures.spread.cg[0]), 1.0, delta=0.02)
        moment = STANDARD_GRAVITY * (mass * (x - figures.equilibrium.point[0])).sum(axis=1)
        self.assertAlmostEqual(moment.std() / figures.equilibrium.tip_uncertainty, 1.0, delta=0.02)
        self.assertAlmostEqual(mass.sum(axis=1).std() / figures.spread.mass, 1.0, delta=0.02)

    def test_shares_add_up_and_name_the_worst(self) -> None:
        blocks = [(block("sure", 2.0), 0.0), (block("guess", 1.0, known=HowKnown.GUESSED), 0.4)]
        build, kit = shoulder_build(*blocks)
        share = analyse(build, kit, OPERATOR).spread.share
        self.assertEqual(int(share.argmax()), 2)
        self.assertLessEqual(float(share.sum()), 1.0 + 1e-12)
        self.assertGreater(float(share[2]), 0.9)

    def test_what_is_doubtful_of_the_worst_is_what_helps_when_it_is_known(self) -> None:
        """Another route: one u of the part is taken away at a time, and the CG's variance falls by that share."""
        # Long and heavy near the middle: where its CG lies matters. Small and far out: its mass does.
        for size, at, by_place in (((0.4, 0.1, 0.1), 0.02, True), ((0.02, 0.02, 0.02), 0.5, False)):
            one = replace(block("one", 3.0, size, known=HowKnown.GUESSED), cg_u=size[0] / 8.0)
            build, kit = shoulder_build((block("sure", 2.0), -0.1), (one, at))
            spread = analyse(build, kit, OPERATOR).spread
            self.assertEqual(spread.worst(), (2, by_place))
            for known, share in (
                (replace(one, cg_u=0.0), spread.placed[2]),
                (replace(one, mass_u=0.0), spread.share[2] - spread.placed[2]),
            ):
                left = analyse(build, kit | {"one": known}, OPERATOR).spread.cg[0]
                self.assertAlmostEqual(1.0 - float(left / spread.cg[0]) ** 2, float(share), places=9)

    def test_how_known_sets_the_doubt(self) -> None:
        """Common practice: sheet 2 %, guess 15 %; weighed: step/sqrt(12), JCGM 100, 4.3.7."""
        for known, expected in ((HowKnown.SHEET, 0.04), (HowKnown.GUESSED, 0.30), (HowKnown.WEIGHED, 0.0028868)):
            self.assertAlmostEqual(mass_uncertainty(block("p", 2.0, known=known)), expected, places=6)
        self.assertEqual(mass_uncertainty(replace(block("p", 2.0), mass_u=0.1)), 0.1)


class Levers(unittest.TestCase):
    def setUp(self) -> None:
        camera = block("camera", 3.0, category=Category.BODY)
        battery = block("battery", 1.0, category=Category.BATTERY)
        self.build, self.kit = shoulder_build((camera, 0.1), (battery, -0.15), (grip("g"), 0.2))
        self.figures = analyse(self.build, self.kit, OPERATOR)
        self.form = moment_form(
            self.figures.assembly,
            self.figures.positions,
            self.figures.settings,
            self.figures.equilibrium.point,
            0,
            self.figures.assembly.mass,
        )

    def test_the_form_agrees_with_the_analysis_anywhere(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(10):
            q = rng.uniform(-0.4, 0.4, 3)
            parts = (
                self.build.parts[0],
                *(replace(p, setting=float(s)) for p, s in zip(self.build.parts[1:], q, strict=True)),
            )
            equilibrium = analyse(replace(self.build, parts=parts), self.kit, OPERATOR).equilibrium
            self.assertAlmostEqual(STANDARD_GRAVITY * float(self.form.at(q)[0]), equilibrium.tip_moment, places=12)

    def test_a_lever_says_mass_and_place_by_hand(self) -> None:
        """m a = -M: 0.3 - 0.15 + 0.0002 kg m to undo, at the rail's end 0.5 m behind."""
        free = next(f for f in weight_mounts(self.build, self.kit) if f.mount.id == "rail")
        lever = lever_of(self.figures, free)
        moment = 3.0 * 0.1 - 0.15 + 0.0002
        self.assertAlmostEqual(lever.mass_at(-0.5), moment / 0.5, places=12)
        self.assertIsNone(lever.mass_at(0.3))
        self.assertAlmostEqual(lever.place_for(0.6), -moment / 0.6, places=12)
        self.assertAlmostEqual(lever.beyond(lever.place_for(0.1)), moment / 0.1 - 0.5, places=12)
        self.assertEqual(lever.beyond(0.1), 0.0)
        block_part = weight_block(lever.mass_at(-0.5), free.mount.kind, "w")
        placed = Placed("w", "w", "base", "rail", 0, -0.5)
        after = analyse(replace(self.build, parts=(*self.build.parts, placed)), {**self.kit, "w": block_part}, OPERATOR)
        self.assertAlmostEqual(after.equilibrium.ahead, 0.0, places=12)

    def test_a_lever_is_what_a_block_hung_there_weighs(self) -> None:
        """Mounts off their part's origin, on an arm that stands askew: a block of steel hung there, weighed again."""
        turn = Mount("t", MountKind.ROSETTE, (0.1, 0.0, 0.05), Connection.TURN, (0.0, 1.0, 0.0), -2.0, 2.0)
        screws = (
            Mount("end", MountKind.QUARTER_20, (0.16, 0.01, 0.04)),
            Mount("along", MountKind.DOVETAIL, (0.05, 0.0, -0.03), Connection.SLIDE, (1.0, 0.0, 0.0), -0.04, 0.08),
        )
        plate = self.kit["base"]
        arm = block("arm", 0.4, (0.3, 0.02, 0.04), Category.ARM, kind=MountKind.ROSETTE, mounts=screws)
        kit = {**self.kit, "base": replace(plate, mounts=(*plate.mounts, turn)), "arm": arm}
        placed = Placed("arm", "arm", "base", "t", 0, math.radians(35.0))
        build = replace(self.build, parts=(*self.build.parts, placed))
        before = analyse(build, kit, OPERATOR)
        asked = [free for free in free_mounts(build, kit) if free.placed_id == "arm"]
        self.assertEqual({free.mount.id for free in asked}, {"end", "along"})
        for free in asked:
            lever = lever_of(before, free)
            for setting in {lever.low, lever.high}:
                hung = Placed("w", "w", "arm", free.mount.id, 0, setting)
                for mass in (0.5, 4.0):
                    there = {**kit, "w": weight_block(mass, free.mount.kind, "w")}
                    after = analyse(replace(build, parts=(*build.parts, hung)), there, OPERATOR)
                    more = (after.equilibrium.tip_moment - before.equilibrium.tip_moment) / STANDARD_GRAVITY
                    self.assertAlmostEqual(more, mass * lever.arm(setting, mass), places=12)

    def test_a_block_on_an_arm_askew_levels_what_it_is_to_level(self) -> None:
        """The mass that a place asks for and the place that a mass asks for, each hung there and weighed again."""
        turn = Mount("t", MountKind.ROSETTE, (-0.2, 0.0, 0.05), Connection.TURN, (0.0, 1.0, 0.0), -3.0, 3.0)
        slide = Mount("along", MountKind.LIGHT_RODS, (0.0, 0.0, -0.03), Connection.SLIDE, (1.0, 0.0, 0.0), -0.15, 0.15)
        arm = block("arm", 0.01, (0.3, 0.02, 0.04), Category.ARM, kind=MountKind.ROSETTE, mounts=(slide,))
        kit = {**self.kit, "base": replace(self.kit["base"], mounts=(*self.kit["base"].mounts, turn)), "arm": arm}
        levelled = 0
        for degrees in (-120.0, -60.0, -35.0, 0.0, 35.0, 60.0, 90.0, 150.0):
            placed = Placed("arm", "arm", "base", "t", 0, math.radians(degrees))
            build = replace(self.build, parts=(*self.build.parts, placed))
            before = analyse(build, kit, OPERATOR)
            lever = lever_of(before, next(f for f in free_mounts(build, kit) if f.mount.id == "along"))
            for setting in (-0.15, 0.0, 0.15):
                mass = lever.mass_at(setting)
                if mass is None:
                    continue
                hung = Placed("w", "w", "arm", "along", 0, setting)
                there = {**kit, "w": weight_block(mass, MountKind.LIGHT_RODS, "w")}
                after = analyse(replace(build, parts=(*build.parts, hung)), there, OPERATOR)
                self.assertAlmostEqual(after.equilibrium.tip_moment, 0.0, places=9)
                if degrees != 90.0:
                    self.assertAlmostEqual(lever.place_for(mass), setting, places=9)
                levelled += 1
        self.assertGreater(levelled, 12)

    def test_a_slide_that_carries_the_pad_moves_the_support(self) -> None:
        """The pad on a slide of the base: moving it forward by d moves the CG back by d from the pad."""
        pad_part = replace(block("pad", 0.0), mounts=(base().mount("shoulder"),))
        plain = replace(base(), mounts=tuple(m for m in base().mounts if m.id != "shoulder"))
        kit = {**self.kit, "base": plain, "pad": pad_part}
        parts = (*self.build.parts, Placed("pad", "pad", "base", "rail", 0, 0.0))
        build = replace(self.build, parts=parts)
        figures = analyse(build, kit, OPERATOR)
        form = moment_form(
            figures.assembly,
            figures.positions,
            figures.settings,
            figures.equilibrium.point,
            figures.equilibrium.holder,
            figures.assembly.mass,
        )
        slide = figures.assembly.slide_parts.index(len(parts) - 1)
        self.assertAlmostEqual(float(form.slope[slide, 0]), -figures.body.mass, places=12)
