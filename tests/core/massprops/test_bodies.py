"""Bodies: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.kit.parts import Category, Outline, Shape
from tests.rigs.people import PERSON
from tests.rigs.plain import block, shoulder_build


class Inertia(unittest.TestCase):
    def test_a_round_part_on_a_build_is_a_cylinder_along_its_lens_axis(self) -> None:
        """Meriam and Kraige, appendix B: m r2/2 along, m/12 (3 r2 + L2) across; the box beside it stays a box."""
        barrel = replace(
            block("lens", 1.2, category=Category.LENS), outline=Outline((0.2, 0.08, 0.08), shape=Shape.CYLINDER)
        )
        build, kit = shoulder_build((barrel, 0.1), (block("cube", 0.9, (0.1, 0.06, 0.04)), -0.1))
        inertia = analyse(build, kit, PERSON).assembly.inertia
        along, across = 1.2 * 0.04**2 / 2.0, 1.2 / 12.0 * (3.0 * 0.04**2 + 0.2**2)
        np.testing.assert_allclose(np.diag(inertia[1]), [along, across, across], rtol=1e-12)
        sides = [0.06**2 + 0.04**2, 0.1**2 + 0.04**2, 0.1**2 + 0.06**2]
        np.testing.assert_allclose(np.diag(inertia[2]), [0.9 / 12.0 * s for s in sides], rtol=1e-12)
