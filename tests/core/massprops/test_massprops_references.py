"""Mass properties against textbook solids, MuJoCo and trimesh."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from equilix.core.errors import MassPropertiesError
from equilix.core.frames import quarter_turn, rotation_about
from equilix.core.massprops.bodies import (
    MassProperties,
    combine_arrays,
    cuboid_inertia,
    cylinder_inertia,
    shift_inertia,
)


def cuboid(mass: float, size: tuple[float, float, float], cg: tuple[float, float, float]) -> MassProperties:
    return MassProperties(mass, np.array(cg), np.diag(cuboid_inertia(mass, np.array(size))))


def random_bodies(rng: np.random.Generator, count: int) -> list[tuple[float, np.ndarray, np.ndarray, np.ndarray]]:
    """Return (mass, half size, place, rotation) of boxes the size of rig parts."""
    bodies = []
    for _ in range(count):
        axis = rng.normal(size=3)
        turn = rotation_about(tuple(axis), rng.uniform(0.0, 3.0))
        bodies.append((rng.uniform(0.05, 4.0), rng.uniform(0.01, 0.15, 3), rng.uniform(-0.5, 0.5, 3), turn))
    return bodies


def combine(bodies: Sequence[MassProperties]) -> MassProperties:
    """Return the mass properties of `bodies`, all in one frame, rigidly joined together."""
    return combine_arrays(
        np.array([body.mass for body in bodies]),
        np.array([body.cg for body in bodies]),
        np.array([body.inertia for body in bodies]),
    )


def express_in(body: MassProperties, rotation: np.ndarray, translation: np.ndarray) -> MassProperties:
    """Return `body` in a new frame: `rotation` (3, 3) new_from_old, `translation` (3,) old origin in new (m)."""
    return MassProperties(body.mass, rotation @ body.cg + translation, rotation @ body.inertia @ rotation.T)


class TextbookSolids(unittest.TestCase):
    def test_two_half_cuboids_give_the_whole(self) -> None:
        """Solid cuboid, I = m/12 (b2 + c2): Meriam and Kraige, Dynamics, table D/4."""
        halves = [cuboid(1.5, (0.1, 0.2, 0.3), (x, 0.0, 0.0)) for x in (-0.05, 0.05)]
        expected = 3.0 / 12.0 * np.diag([0.2**2 + 0.3**2, 0.2**2 + 0.3**2, 0.2**2 + 0.2**2])
        np.testing.assert_allclose(combine(halves).inertia, expected, rtol=1e-12, atol=1e-15)

    def test_cylinder_limits(self) -> None:
        """Thin rod m L2/12 and thin disc m r2/4 across: Meriam and Kraige, Dynamics, table D/4."""
        rod = cylinder_inertia(2.0, 1e-9, 0.6)
        np.testing.assert_allclose(rod[1:], 2.0 * 0.6**2 / 12.0, rtol=1e-12)
        disc = cylinder_inertia(2.0, 0.3, 1e-9)
        np.testing.assert_allclose(disc, [2.0 * 0.09 / 2.0, 2.0 * 0.09 / 4.0, 2.0 * 0.09 / 4.0], rtol=1e-12)

    def test_rod_about_its_end(self) -> None:
        """m L2/3: Meriam and Kraige, Dynamics, table D/4, by the parallel-axis theorem."""
        rod = MassProperties(1.2, np.zeros(3), np.diag([0.0, 1.2 * 0.25 / 12.0, 1.2 * 0.25 / 12.0]))
        end = shift_inertia(rod, np.array([0.25, 0.0, 0.0]))
        np.testing.assert_allclose(np.diag(end), [0.0, 1.2 * 0.25 / 3.0, 1.2 * 0.25 / 3.0], rtol=1e-12, atol=1e-15)

    def test_products_carry_the_minus_sign(self) -> None:
        """I_xy = -sum m x y: Kane and Levinson, Dynamics: Theory and Applications, ch. 3."""
        points = [MassProperties(1.0, np.array([s * 0.1, s * 0.2, 0.0]), np.zeros((3, 3))) for s in (-1.0, 1.0)]
        self.assertAlmostEqual(combine(points).inertia[0, 1], -2.0 * 0.1 * 0.2, places=15)


class AgainstOtherPrograms(unittest.TestCase):
    def test_random_rigs_against_mujoco(self) -> None:
        import mujoco

        rng = np.random.default_rng(7)
        for count in (2, 9, 40):
            bodies = random_bodies(rng, count)
            model = mujoco.MjModel.from_xml_string(_mujoco_xml(bodies))
            data = mujoco.MjData(model)
            mujoco.mj_forward(model, data)
            ours = _ours(bodies)
            self.assertAlmostEqual(ours.mass / model.body_subtreemass[1], 1.0, places=9)
            np.testing.assert_allclose(ours.cg, data.subtree_com[1], rtol=1e-6, atol=1e-9)
            flat = np.zeros(9)
            mujoco.mju_quat2Mat(flat, model.body_iquat[1])
            turn = flat.reshape(3, 3)
            theirs = turn @ np.diag(model.body_inertia[1]) @ turn.T
            scale = np.abs(theirs).max()
            np.testing.assert_allclose(ours.inertia / scale, theirs / scale, atol=1e-6)

    def test_random_rigs_against_trimesh(self) -> None:
        import trimesh

        rng = np.random.default_rng(11)
        bodies = random_bodies(rng, 12)
        cg_sum = np.zeros(3)
        meshes = []
        for mass, half, place, turn in bodies:
            pose = np.eye(4)
            pose[:3, :3], pose[:3, 3] = turn, place
            mesh = trimesh.creation.box(extents=2.0 * half, transform=pose)
            mesh.density = mass / mesh.volume
            meshes.append(mesh)
            cg_sum += mass * mesh.center_mass
        ours = _ours(bodies)
        centre = cg_sum / ours.mass
        np.testing.assert_allclose(ours.cg, centre, rtol=1e-6, atol=1e-12)
        moved: Any = trimesh.transformations
        theirs = sum(mesh.moment_inertia_frame(moved.translation_matrix(centre)) for mesh in meshes)
        np.testing.assert_allclose(ours.inertia, theirs, rtol=1e-6, atol=1e-9)

    def test_cylinder_against_trimesh(self) -> None:
        import trimesh

        mesh = trimesh.creation.cylinder(radius=0.05, height=0.2, sections=4096)
        mesh.density = 1.3 / mesh.volume
        along, across, _ = cylinder_inertia(1.3, 0.05, 0.2)
        np.testing.assert_allclose(np.diag(mesh.moment_inertia), [across, across, along], rtol=1e-5)


def _ours(bodies: list[tuple[float, np.ndarray, np.ndarray, np.ndarray]]) -> MassProperties:
    alone = [
        MassProperties(mass, np.zeros(3), np.diag(cuboid_inertia(mass, 2.0 * half))) for mass, half, _, _ in bodies
    ]
    return combine([express_in(body, turn, place) for body, (_, _, place, turn) in zip(alone, bodies, strict=True)])


def _mujoco_xml(bodies: list[tuple[float, np.ndarray, np.ndarray, np.ndarray]]) -> str:
    import mujoco

    geoms = []
    for mass, half, place, turn in bodies:
        quat = np.zeros(4)
        mujoco.mju_mat2Quat(quat, turn.flatten())
        texts = [" ".join(repr(float(v)) for v in vector) for vector in (half, place, quat)]
        geoms.append(f'<geom type="box" mass="{mass!r}" size="{texts[0]}" pos="{texts[1]}" quat="{texts[2]}"/>')
    return f'<mujoco><worldbody><body name="rig"><freejoint/>{"".join(geoms)}</body></worldbody></mujoco>'


class Invariants(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 10_000))
    def test_moving_then_summing_is_summing_then_moving(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        bodies = [
            express_in(MassProperties(m, np.zeros(3), np.diag(cuboid_inertia(m, 2 * half))), turn, place)
            for m, half, place, turn in random_bodies(rng, 4)
        ]
        turn, shift = rotation_about(tuple(rng.normal(size=3)), 1.1), rng.normal(size=3)
        first = express_in(combine(bodies), turn, shift)
        second = combine([express_in(body, turn, shift) for body in bodies])
        np.testing.assert_allclose(first.cg, second.cg, atol=1e-12)
        np.testing.assert_allclose(first.inertia, second.inertia, atol=1e-12)

    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 10_000))
    def test_tensors_are_physical(self, seed: int) -> None:
        """I1 + I2 >= I3 for the principal moments: Kane and Levinson, ch. 3."""
        bodies = random_bodies(np.random.default_rng(seed), 3)
        whole = _ours(bodies)
        moments = np.linalg.eigvalsh(whole.inertia)
        self.assertGreater(moments[0], 0.0)
        self.assertGreaterEqual(moments[0] + moments[1], moments[2] - 1e-12)

    def test_far_from_the_origin_no_digits_are_lost(self) -> None:
        near = [cuboid(1.0, (0.1, 0.1, 0.1), (x, 0.0, 0.0)) for x in (0.0, 0.3)]
        far = [MassProperties(b.mass, b.cg + 1000.0, b.inertia) for b in near]
        np.testing.assert_allclose(combine(near).inertia, combine(far).inertia, rtol=1e-9)

    def test_quarter_turns_are_exact(self) -> None:
        for n in range(4):
            np.testing.assert_allclose(quarter_turn(n), rotation_about((0.0, 0.0, 2.0), n * np.pi / 2), atol=1e-15)
            self.assertTrue(set(np.unique(quarter_turn(n))) <= {-1.0, 0.0, 1.0})

    def test_no_mass_is_refused(self) -> None:
        with self.assertRaises(MassPropertiesError):
            combine_arrays(np.zeros(0), np.zeros((0, 3)), np.zeros((0, 3)))
        with self.assertRaises(MassPropertiesError):
            combine_arrays(np.zeros(2), np.zeros((2, 3)), np.zeros((2, 3)))
