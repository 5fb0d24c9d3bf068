"""What must hold for any rig on any shoulder."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.kit.parts import Category
from equilix.core.massprops.bodies import MassProperties
from equilix.core.solver.problem import moment_form
from equilix.core.statics.hands import Held
from equilix.core.statics.pad import Shoulder
from tests.campaigns import campaign
from tests.rigs.plain import OPERATOR, block, hold_level, left_over, random_tree, shoulder_build

MASS = st.floats(1.0, 20.0)
AHEAD = st.floats(-0.2, 0.2)
LEFT = st.floats(-0.02, 0.02)


def hold(mass: float, ahead: float, left: float, grips: np.ndarray, friction: float = 0.5) -> Held | None:
    body = MassProperties(mass, np.array([ahead, left, 0.12]), np.eye(3) * 0.1)
    return hold_level(body, np.zeros(3), Shoulder(friction=friction), grips)


def effort(holding: Held) -> float:
    """Return the largest share of what a hand readily gives, as the programme weighs it."""
    caps = np.array([20.0, 20.0, 100.0, 1.0, 1.0, 1.0])
    return max(float(np.abs(np.concatenate([h.force, h.couple]) / caps).max()) for h in holding.hands)


@campaign
class Holds(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(MASS, AHEAD, LEFT)
    def test_mirrored_rigs_are_held_by_mirrored_hands(self, mass: float, ahead: float, left: float) -> None:
        grips = np.array([[0.22, 0.11, -0.12], [0.18, -0.09, -0.10]])
        flip = np.array([1.0, -1.0, 1.0])
        one, other = hold(mass, ahead, left, grips), hold(mass, ahead, -left, grips * flip)
        self.assertAlmostEqual(effort(one), effort(other), delta=1e-6 * mass)

    @settings(max_examples=60, deadline=None)
    @given(MASS, AHEAD, LEFT, st.floats(1.1, 4.0))
    def test_effort_grows_in_proportion_to_the_mass(
        self, mass: float, ahead: float, left: float, factor: float
    ) -> None:
        grips = np.array([[0.2, 0.1, -0.1], [0.2, -0.1, -0.1]])
        light, heavy = hold(mass, ahead, left, grips), hold(mass * factor, ahead, left, grips)
        self.assertAlmostEqual(effort(light) * factor, effort(heavy), delta=1e-6 * mass * factor)

    @settings(max_examples=60, deadline=None)
    @given(MASS, st.floats(0.04, 0.2), st.floats(0.02, 0.2))
    def test_grips_farther_forward_hold_a_front_heavy_rig_with_less(
        self, mass: float, ahead: float, more: float
    ) -> None:
        near = np.array([[0.15, 0.1, -0.1], [0.15, -0.1, -0.1]])
        self.assertLessEqual(
            effort(hold(mass, ahead, 0.0, near + np.array([more, 0.0, 0.0]))),
            effort(hold(mass, ahead, 0.0, near)) + 1e-9,
        )

    @settings(max_examples=60, deadline=None)
    @given(MASS, AHEAD, st.floats(0.0, 0.5))
    def test_more_friction_never_makes_it_harder(self, mass: float, ahead: float, friction: float) -> None:
        grips = np.array([[0.2, 0.1, -0.15], [0.2, -0.1, -0.15]])
        rough, smooth = hold(mass, ahead, 0.0, grips, friction + 0.3), hold(mass, ahead, 0.0, grips, friction)
        self.assertLessEqual(effort(rough), effort(smooth) + 1e-7 * mass)

    @settings(max_examples=60, deadline=None)
    @given(MASS, st.floats(-0.029, 0.029), st.floats(-0.029, 0.029))
    def test_over_the_patch_no_hand_is_needed(self, mass: float, ahead: float, left: float) -> None:
        grips = np.array([[0.2, 0.1, -0.1], [0.2, -0.1, -0.1]])
        self.assertLess(effort(hold(mass, ahead, left, grips)), 1e-5)


@campaign
class HardCases(unittest.TestCase):
    def test_nearly_equal_grips_and_places_still_hold_exactly(self) -> None:
        """Coordinates a hair apart or from zero make the programme ill-conditioned; the answer must not be."""
        rng = np.random.default_rng(0)
        for _ in range(700):
            hair = float(rng.choice([0.0, 1e-12, 1e-9, 1e-7, 1e-3, 0.05]))
            ahead = float(rng.choice([0.0, 1e-9, 0.03, -0.03, 0.0300001, rng.uniform(-0.25, 0.25)]))
            left = float(rng.choice([0.0, 1e-10, rng.uniform(-0.03, 0.03)]))
            grips = np.array([[0.25, float(rng.choice([0.1, 1e-9, 0.0])), -0.1], [0.25 + hair, -0.1, 0.0]])
            grips = grips[: int(rng.choice([1, 2, 2, 2]))]
            friction = float(rng.choice([0.0, 1e-12, 1e-4, 1e-3, 0.3, 0.5, 1.0]))
            body = MassProperties(float(rng.uniform(0.5, 20.0)), np.array([ahead, left, 0.12]), np.eye(3))
            held = hold_level(body, np.zeros(3), Shoulder(friction=friction), grips)
            self.assertIsNotNone(held)
            self.assertLess(np.abs(left_over(body.mass, body.cg, np.zeros(3), held)).max(), 1e-9)


class Ways(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 100_000))
    def test_moments_of_any_tree_are_linear_in_every_slide(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        build, kit = random_tree(rng, 12)
        pad = replace(kit["p0"], mounts=(*kit["p0"].mounts, *shoulder_build()[1]["base"].mounts[:1]))
        kit["p0"] = pad
        analysis = analyse(build, kit, OPERATOR)
        form = moment_form(
            analysis.assembly,
            analysis.positions,
            analysis.settings,
            analysis.equilibrium.point,
            0,
            analysis.assembly.mass,
        )
        q = rng.uniform(-0.3, 0.3, len(analysis.assembly.slide_parts))
        changed = build
        for i, setting in zip(analysis.assembly.slide_parts, q, strict=True):
            changed = changed.with_placed(replace(changed.parts[i], setting=float(setting)))
        after = analyse(changed, kit, OPERATOR)
        expected = form.at(q) / after.body.mass
        self.assertAlmostEqual(after.equilibrium.ahead, float(expected[0]), places=10)
        self.assertAlmostEqual(after.equilibrium.left, float(expected[1]), places=10)

    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.1, 8.0), st.floats(-0.45, 0.45), st.floats(0.1, 8.0), st.floats(-0.45, 0.45))
    def test_splitting_a_part_changes_nothing(self, m1: float, x1: float, m2: float, x2: float) -> None:
        assume(abs(x1 - x2) > 0.01)
        whole = shoulder_build((block("a", m1), x1), (block("b", m2, category=Category.BODY), x2))
        halves = shoulder_build(
            (block("a1", m1 / 2), x1), (block("a2", m1 / 2), x1), (block("b", m2, category=Category.BODY), x2)
        )
        one, two = (analyse(build, kit, OPERATOR) for build, kit in (whole, halves))
        self.assertAlmostEqual(one.body.mass, two.body.mass, places=12)
        np.testing.assert_allclose(one.body.cg, two.body.cg, atol=1e-12)
        self.assertAlmostEqual(one.equilibrium.tip_moment, two.equilibrium.tip_moment, places=9)
