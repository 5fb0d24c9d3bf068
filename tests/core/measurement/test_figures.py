"""Figures: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.kit.parts import HowKnown
from equilix.core.kit.records import Quantity
from equilix.core.kit.uncertainty import cg_uncertainty
from equilix.core.measurement.figures import record_of
from tests.rigs.plain import block


class Records(unittest.TestCase):
    def test_an_axis_that_was_measured_counts_as_weighed(self) -> None:
        part = replace(block("p", 1.0, known=HowKnown.GUESSED), cg=(0.1, 0.2, 0.3), cg_axis_u=(None, 0.001, None))
        y, z = record_of(part, Quantity.CG_Y), record_of(part, Quantity.CG_Z)
        self.assertEqual((y.known, y.value, y.uncertainty), (HowKnown.WEIGHED, 0.2, 0.001))
        self.assertEqual((z.known, z.value, z.uncertainty), (HowKnown.GUESSED, 0.3, cg_uncertainty(part)[2]))
