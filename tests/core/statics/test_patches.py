"""Patches: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np

from equilix.core.statics.hands import (
    CONTACT_FRICTION,
    CONTACT_SPAN,
    Contact,
)
from equilix.core.statics.pad import Shoulder
from equilix.core.statics.patches import cone_rays, hand_map, pad_rays, patch_rays, tangents
from tests.rigs.hands import UP


class Patches(unittest.TestCase):
    def test_rays_lie_on_the_cone_and_press_at_the_corners(self) -> None:
        """Coulomb: a push of one along the normal and mu across it, at half the span from the middle each way."""
        middle, normal, mu = np.array([0.1, -0.2, 0.3]), np.array([1.0, 0.0, 1.0]) / math.sqrt(2.0), 0.35
        side, up = tangents(normal)
        np.testing.assert_allclose(np.cross(side, up), normal, atol=1e-12)
        rays = patch_rays(middle, side, up, (0.08, 0.05), mu)
        self.assertEqual(rays.shape, (6, 32))
        ways = set()
        for wrench in rays.T:
            force, moment = wrench[:3], wrench[3:]
            self.assertAlmostEqual(float(force @ normal), 1.0)
            self.assertAlmostEqual(float(np.linalg.norm(force - normal)), mu)
            # The point of action, on the patch: M = r x F.
            corners = [middle + 0.04 * a * side + 0.025 * b * up for a in (-1, 1) for b in (-1, 1)]
            hits = [k for k, r in enumerate(corners) if np.allclose(np.cross(r, force), moment, atol=1e-12)]
            self.assertEqual(len(hits), 1)
            turn = math.degrees(math.atan2(float(force @ up), float(force @ side)))
            ways.add((hits[0], round(turn) % 360))
        self.assertEqual(ways, {(k, 45 * n) for k in range(4) for n in range(8)})

    def test_straight_up_has_tangents_too(self) -> None:
        for normal in (UP, -UP, np.array([1.0, 0.0, 0.0]), np.array([0.0, -1.0, 0.0])):
            side, up = tangents(normal)
            for v in (side, up):
                self.assertAlmostEqual(float(np.linalg.norm(v)), 1.0)
            np.testing.assert_allclose(np.cross(side, up), normal, atol=1e-12)

    def test_a_pad_pushes_up_and_next_to_no_friction_is_none(self) -> None:
        rays = pad_rays(Shoulder(0.06, 0.04, 0.5))
        np.testing.assert_allclose(rays[2], 1.0)
        self.assertAlmostEqual(float(np.hypot(rays[0], rays[1]).max()), 0.5)
        np.testing.assert_allclose(sorted(set(np.round(np.abs(pad_rays(Shoulder(0.06, 0.04, 0.0))[3]), 9))), [0.02])
        self.assertEqual(float(np.abs(pad_rays(Shoulder(0.06, 0.04, 0.0009))[:2]).max()), 0.0)
        self.assertGreater(float(np.abs(pad_rays(Shoulder(0.06, 0.04, 0.0011))[:2]).max()), 0.0)

    def test_hands_forces_and_couples_about_a_point(self) -> None:
        rng = np.random.default_rng(2)
        points, origin = rng.normal(size=(3, 3)), rng.normal(size=3)
        given = rng.normal(size=(3, 6))
        wrench = hand_map(points, origin) @ given.ravel()
        force = given[:, :3].sum(axis=0)
        moment = sum(np.cross(p - origin, g[:3]) + g[3:] for p, g in zip(points, given, strict=True))
        np.testing.assert_allclose(wrench, [*force, *moment], atol=1e-12)

    def test_a_patch_of_the_body(self) -> None:
        """Cloth on cloth 0.4, low end, from memory; about as large as a palm."""
        self.assertEqual((CONTACT_FRICTION, CONTACT_SPAN), (0.4, 0.060))
        contact = Contact(np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
        rays = contact.rays(np.array([0.0, 0.0, 0.9]))
        np.testing.assert_allclose(rays[0], 1.0, atol=1e-12)
        # All press at the patch: pitch about the origin is height times push, and half the patch more or less.
        self.assertAlmostEqual(float(rays[4].max()), 0.1 + 0.03)
        self.assertAlmostEqual(float(rays[4].min()), 0.1 - 0.03)
        self.assertAlmostEqual(float(np.hypot(rays[1], rays[2]).max()), 0.4)
        self.assertEqual(len(cone_rays(np.array([1.0, 0, 0]), np.array([0.0, 1, 0]), 0.4)), 8)
