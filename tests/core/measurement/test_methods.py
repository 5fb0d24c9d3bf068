"""Methods: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy import optimize

from equilix.core.errors import MeasurementError
from equilix.core.measurement.methods import (
    EDGE_UNCERTAINTY,
    LEAST_TILT,
    PLUMB_UNCERTAINTY,
    TAPE_UNCERTAINTY,
    TILT_UNCERTAINTY,
    Measured,
    PlumbLine,
    adjust_ends,
    cross_plumb_lines,
    side_plumb_line,
    tilted_height,
    two_supports,
)


class Methods(unittest.TestCase):
    def test_what_tape_level_edge_and_plumb_line_are_good_for(self) -> None:
        """Common practice: half a millimetre on a tape, 0.1 degree on a level, 1.5 mm by hand; 6 degrees at least."""
        self.assertEqual((TAPE_UNCERTAINTY, EDGE_UNCERTAINTY, PLUMB_UNCERTAINTY), (0.0005, 0.0015, 0.0015))
        self.assertAlmostEqual(TILT_UNCERTAINTY, math.pi / 1800)
        self.assertAlmostEqual(LEAST_TILT, math.pi / 30)

    def test_ends_that_miss_the_whole_are_put_right_alike(self) -> None:
        """Least squares with one condition: numpy's lstsq on the three readings of two forces."""
        whole, front, back, u = 3.00, 1.04, 1.99, 0.005
        ends = adjust_ends(whole, front, back, u)
        best = np.linalg.lstsq(np.array([[1, 1], [0, 1], [1, 0]]), np.array([whole, front, back]), rcond=None)[0]
        self.assertAlmostEqual(ends.back, best[0])
        self.assertAlmostEqual(ends.front, best[1])
        # Three readings enter the closure, each with u.
        self.assertAlmostEqual(ends.closure_u, math.sqrt(3 * u**2))
        self.assertEqual(adjust_ends(whole, front, None, u).closure_u, ends.closure_u)
        for miss, closes in ((1.9, True), (2.1, False)):
            self.assertEqual(adjust_ends(3.0, 1.0 + miss * math.sqrt(3) * u, 2.0, u).closes, closes)

    def test_an_end_may_read_below_zero_by_what_a_scale_may_err(self) -> None:
        for front in (-0.019, 3.019):
            adjust_ends(3.0, front, None, 0.005)
        for front in (-0.021, 3.021):
            with self.assertRaisesRegex(MeasurementError, "Move the supports apart:"):
                adjust_ends(3.0, front, None, 0.005)

    def test_places_and_their_doubt_by_drawing_readings(self) -> None:
        """JCGM 101: draw every reading and the span, put each drawn set through the lever law."""
        rng = np.random.default_rng(8)
        n, u, span = 40_000, 0.01, 0.4
        whole, front, back = (m + u * rng.standard_normal(n) for m in (3.0, 1.2, 1.8))
        spans = span + TAPE_UNCERTAINTY * rng.standard_normal(n)
        excess = front + back - whole
        for checked, places in (
            (False, spans * front / whole),
            (True, spans * (front - excess / 3) / (front + back - 2 * excess / 3)),
        ):
            found = two_supports(adjust_ends(3.0, 1.2, 1.8 if checked else None, u), span, u, TAPE_UNCERTAINTY, checked)
            self.assertAlmostEqual(found.value, span * 1.2 / 3.0)
            self.assertAlmostEqual(found.u / float(places.std()), 1.0, delta=0.02)

    def test_height_by_tilting_and_its_doubt_by_drawing(self) -> None:
        rng = np.random.default_rng(9)
        level, tilted, tilt = Measured(0.10, 0.0006), Measured(0.14, 0.0008), math.radians(18)
        n = 40_000
        z = (
            tilted.value + tilted.u * rng.standard_normal(n) - level.value - level.u * rng.standard_normal(n)
        ) / np.tan(tilt + TILT_UNCERTAINTY * rng.standard_normal(n))
        found = tilted_height(level, tilted, tilt)
        self.assertAlmostEqual(found.value, 0.04 / math.tan(tilt))
        self.assertAlmostEqual(found.u / float(z.std()), 1.0, delta=0.02)
        with self.assertRaisesRegex(MeasurementError, "6°"):
            tilted_height(level, tilted, math.radians(5.9))
        tilted_height(level, tilted, math.radians(6.1))

    def test_plumb_lines_meet_where_the_weighted_distances_are_least(self) -> None:
        """Minimised by SciPy, each line's distance over its own uncertainty at the crossing."""
        hooks = ((-0.05, 0.06), (0.08, 0.07), (0.0, 0.09))
        aim = np.array([0.02, -0.03])
        lines = []
        for k, hook in enumerate(hooks):
            x, z = float(aim[0]), float(aim[1]) + 0.001 * (k - 1)
            lines.append(side_plumb_line(hook, math.atan2(x - hook[0], hook[1] - z), point_u=0.001 * (k + 1)))
        found = cross_plumb_lines(lines)
        uncertainty = [
            math.hypot(0.001 * (k + 1), TILT_UNCERTAINTY * math.dist(found.point, hooks[k])) for k in range(3)
        ]

        def cost(point: np.ndarray) -> float:
            total = 0.0
            for line, u in zip(lines, uncertainty, strict=True):
                d = np.array(line.direction)
                away = point - np.array(line.point)
                total += float(np.linalg.norm(away - (away @ d) * d) / u) ** 2
            return total

        best = optimize.minimize(cost, aim, method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-12}).x
        np.testing.assert_allclose(found.point, best, atol=2e-6)
        self.assertAlmostEqual(found.miss, max(self.away(line, found.point) for line in lines))
        with self.assertRaisesRegex(MeasurementError, "nearly parallel"):
            cross_plumb_lines([PlumbLine((0.0, 0.0), (0.0, -1.0)), PlumbLine((0.01, 0.0), (0.03, -1.0))])

    @staticmethod
    def away(line: PlumbLine, point: np.ndarray) -> float:
        d, gone = np.array(line.direction), point - np.array(line.point)
        return abs(float(d[0] * gone[1] - d[1] * gone[0]))
