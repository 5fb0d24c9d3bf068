"""Units: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

from equilix.core.units import from_display, to_display


class Units(unittest.TestCase):
    def test_every_unit_that_is_shown(self) -> None:
        """NIST SP 811 (2008), appendix B: exact by definition."""
        pound, inch = 0.45359237, 0.0254
        force = pound * 9.80665
        for unit, value in {
            "mm": 1e-3, "cm": 1e-2, "m": 1.0, "in": inch, "kg": 1.0, "g": 1e-3, "lb": pound, "oz": pound / 16.0,
            "N": 1.0, "lbf": force, "N·m": 1.0, "lbf·in": force * inch,
            "°": math.pi / 180.0, "%": 0.01, "kPa": 1e3, "s": 1.0, "g·m²": 1e-3,
        }.items():  # fmt: skip
            self.assertAlmostEqual(from_display(3.0, unit), 3.0 * value, places=14)
            self.assertAlmostEqual(to_display(3.0 * value, unit), 3.0, places=12)
