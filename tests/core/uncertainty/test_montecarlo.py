"""Montecarlo: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from equilix.core.analyse import analyse
from equilix.core.uncertainty.montecarlo import sample
from equilix.core.uncertainty.output_model import output_model
from tests.rigs.people import PERSON
from tests.rigs.plain import block, shoulder_build
from tests.rigs.progress import kept


class Sampling(unittest.TestCase):
    def test_its_progress_rises_to_the_end(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        found = analyse(build, kit, PERSON)
        heard: list[float] = []
        computed = output_model(found)
        assert computed is not None
        self.assertIsNotNone(sample(found, computed, 4_000, progress=kept(heard)))
        self.assertEqual(heard, sorted(heard))
        self.assertTrue(0.0 < heard[0] < heard[-1] == 1.0)
        self.assertTrue(all(share <= 1.0 for share in heard))
        self.assertIsNone(sample(found, computed, 4_000, progress=lambda share: share < 0.95))
