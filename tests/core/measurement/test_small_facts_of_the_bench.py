"""Facts of the bench: lever laws, plumb lines, least squares and advice, each worked out by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy import optimize, stats

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Operator, Placed
from equilix.core.errors import MeasurementError
from equilix.core.frames import X, Y, Z
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind
from equilix.core.kit.records import Instrument, Measurement, Member, Quantity, Record, Sensed, Stamp
from equilix.core.kit.uncertainty import cg_uncertainty, whole_mass_uncertainty
from equilix.core.measurement.advice import MINUTES, Task, weigh_next
from equilix.core.measurement.bench import Layout, Procedure, Setup, Subject, axis_of, suggested_layout
from equilix.core.measurement.figures import record_of
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
from equilix.core.measurement.reconcile import Agreement, belief_of, reconcile, shared_factors
from equilix.core.measurement.steady import Sample, trace_of
from equilix.core.measurement.subjects import take_loose, take_part, take_placed
from equilix.core.uncertainty.output_model import CG_AHEAD, TOTAL_MASS, inputs_of, output_model
from tests.core.builders import block, shoulder_build

SCALE = Instrument("s", "Hanging scale", capacity=20.0, step=0.010, accuracy=0.005)
TABLE = replace(SCALE, id="t", name="Table scale", kind="table scale")
LENA = Operator("l", "Lena", 1.71, 64.0)
THING = Subject("Thing", 2.4, 0.05, (0.03, -0.01, 0.02), (0.01, 0.01, 0.01), (0.20, 0.08, 0.10), (0.02, 0.0, 0.01))
SQUARE = Layout(span=0.30, origin=0.12, rise=0.04, tilt=math.radians(20), hooks=((-0.03, 0.06), (0.07, 0.06)))


def done(setup: Setup, **readings: float) -> Procedure:
    return Procedure(setup, THING, SCALE, SQUARE, readings)


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


class Bench(unittest.TestCase):
    def test_readings_that_are_foreseen_are_those_of_the_statics(self) -> None:
        """Moments about the back support: F = W x/L; nose down by t the CG's height carries it ahead by h tan t."""
        for setup, axis in ((Setup.FORE_AFT, 0), (Setup.SIDEWAYS, 1)):
            whole, front, back = (step.expected for step in done(setup).steps)
            self.assertAlmostEqual(front, 2.4 * (THING.cg[axis] + 0.12) / 0.30)
            self.assertAlmostEqual(front + back, whole)
        whole, level, tilted = (step.expected for step in done(Setup.HEIGHT).steps)
        self.assertAlmostEqual(tilted - level, 2.4 * (0.02 + 0.04) * math.tan(math.radians(20)) / 0.30)
        for (x, z), step in zip(SQUARE.hooks, done(Setup.HANG).steps, strict=True):
            self.assertAlmostEqual(math.tan(step.expected), (0.03 - x) / (z - 0.02))
        self.assertEqual(done(Setup.FORE_AFT, whole=2.0, front=0.7).steps[2].expected, 1.3)

    def test_a_cg_beside_the_supports_is_foreseen_just_inside(self) -> None:
        far = replace(THING, cg=(0.4, 0.0, 0.0))
        near = replace(THING, cg=(-0.4, 0.0, 0.0))
        for subject, share in ((far, 0.98), (near, 0.02)):
            front = Procedure(Setup.FORE_AFT, subject, SCALE, SQUARE).steps[1].expected
            self.assertAlmostEqual(front, 2.4 * share)

    def test_what_comes_out_and_how_sure(self) -> None:
        u = SCALE.own_uncertainty()
        mass, place = done(Setup.FORE_AFT, whole=2.40, front=1.20).outcomes()
        self.assertEqual((mass.measured.value, mass.measured.u), (2.40, u))
        self.assertAlmostEqual(place.measured.value, 0.15 - 0.12)
        by_scale = math.hypot(0.30 * 1.2 / 2.4**2 * u, 0.30 / 2.4 * u, 0.5 * TAPE_UNCERTAINTY)
        self.assertAlmostEqual(place.measured.u, math.hypot(by_scale, TAPE_UNCERTAINTY))
        # A condition with equal weights leaves two thirds of each reading's variance.
        checked, _ = done(Setup.FORE_AFT, whole=2.40, front=1.20, back=1.20).outcomes()
        self.assertAlmostEqual(checked.measured.u**2, u**2 * 2 / 3)
        self.assertEqual(place.quantity, Quantity.CG_X)
        self.assertEqual(done(Setup.SIDEWAYS, whole=2.4, front=1.2).outcomes()[1].quantity, Quantity.CG_Y)

    def test_height_from_three_readings(self) -> None:
        tilted = 1.2 + 2.4 * 0.06 * math.tan(math.radians(20)) / 0.30
        _, x, z = done(Setup.HEIGHT, whole=2.4, front=1.2, tilted=tilted).outcomes()
        self.assertAlmostEqual(x.measured.value, 0.03)
        self.assertAlmostEqual(z.measured.value, 0.02)
        rng = np.random.default_rng(4)
        n, u = 40_000, SCALE.own_uncertainty()
        whole, front, nose = (m + u * rng.standard_normal(n) for m in (2.4, 1.2, tilted))
        tilt = math.radians(20) + TILT_UNCERTAINTY * rng.standard_normal(n)
        drawn = 0.30 * (nose - front) / whole / np.tan(tilt) + TAPE_UNCERTAINTY * rng.standard_normal(n)
        # Both places are taken as read on their own wholes: a little cautious.
        self.assertGreater(z.measured.u / float(drawn.std()), 0.98)
        self.assertLess(z.measured.u / float(drawn.std()), 1.15)

    def test_lines_that_miss_each_other_are_not_believed(self) -> None:
        pitches = {f"hang{k}": step.expected for k, step in enumerate(done(Setup.HANG).steps, 1)}
        x, z = done(Setup.HANG, **pitches).outcomes()
        self.assertAlmostEqual(x.measured.value, 0.03)
        self.assertAlmostEqual(z.measured.value, 0.02)
        three = replace(SQUARE, hooks=(*SQUARE.hooks, (0.02, 0.08)))
        pitches["hang3"] = math.atan2(0.01, 0.06)
        for off in (0.0, 0.05, 0.1, 0.12, 0.14, 0.16, 0.18, 0.2, 0.25):
            turned = {**pitches, "hang3": pitches["hang3"] + off}
            procedure = Procedure(Setup.HANG, THING, SCALE, three, turned)
            lines = [
                side_plumb_line(hook, turned[f"hang{k}"], point_u=PLUMB_UNCERTAINTY, angle_u=TILT_UNCERTAINTY)
                for k, hook in enumerate(three.hooks, 1)
            ]
            crossing = cross_plumb_lines(lines)
            # Four standard deviations of the crossing, and 4 mm that a hand may be off; common practice.
            if crossing.miss > 0.004 + 4.0 * math.sqrt(crossing.covariance[0, 0] + crossing.covariance[1, 1]):
                with self.assertRaisesRegex(MeasurementError, f"by {1e3 * crossing.miss:.0f} mm"):
                    procedure.outcomes()
            else:
                procedure.outcomes()

    def test_what_a_scale_can_have_shown(self) -> None:
        whole = done(Setup.WHOLE)
        whole.with_reading("whole", 20.0)
        whole.with_reading("whole", -0.020)
        for value, words in ((20.01, "no more"), (-0.0201, "below zero"), (math.nan, "number")):
            with self.assertRaisesRegex(MeasurementError, words):
                whole.with_reading("whole", value)
        with self.assertRaisesRegex(MeasurementError, "The scale shows zero"):
            done(Setup.WHOLE, whole=0.0).outcomes()
        self.assertIn("hook", whole.steps[0].words)
        self.assertIn("scale", replace(whole, scale=TABLE).steps[0].words)
        for setup, hanging, table in ((Setup.FORE_AFT, "Front end lifted", "Front end on the scale"),):
            self.assertEqual(done(setup).steps[1].words, hanging)
            self.assertEqual(replace(done(setup), scale=TABLE).steps[1].words, table)
        self.assertEqual(done(Setup.SIDEWAYS).steps[1].words, "Left end lifted")

    def test_supports_are_suggested_outside_the_part_and_hooks_on_it(self) -> None:
        """Room for hook, cord and hand: a quarter of the length and 60 mm, to 20 mm; hooks at the quarters."""
        for size, centre in (((0.20, 0.08, 0.10), (0.02, 0.0, 0.01)), ((0.33, 0.21, 0.05), (-0.04, 0.03, -0.02))):
            subject = replace(THING, size=size, centre=centre)
            for setup, axis in ((Setup.FORE_AFT, 0), (Setup.SIDEWAYS, 1)):
                found = suggested_layout(setup, subject)
                low, high = centre[axis] - size[axis] / 2, centre[axis] + size[axis] / 2
                self.assertAlmostEqual(found.span, 1.25 * size[axis] + 0.06, delta=0.0101)
                self.assertAlmostEqual(found.origin + low, 0.1 * size[axis] + 0.01, delta=0.0026)
                self.assertLess(found.origin + high, found.span)
                for step, value in ((0.02, found.span), (0.005, found.origin)):
                    self.assertAlmostEqual(value / step, round(value / step), places=6)
                bottom, top = centre[2] - size[2] / 2, centre[2] + size[2] / 2
                self.assertAlmostEqual(found.rise, 0.008 - bottom)
                back = centre[0] - size[0] / 2
                for share, hook in zip((0.25, 0.75), found.hooks, strict=True):
                    self.assertAlmostEqual(hook[0], back + share * size[0], delta=0.00051)
                    self.assertAlmostEqual(hook[1], top, delta=0.00051)
        self.assertEqual(suggested_layout(Setup.SIDEWAYS, replace(THING, size=(0.2, 0.01, 0.1))).span, 0.12)

    def test_usual_distances(self) -> None:
        """Common practice: tilted by 20 degrees, a tray of 200 g, a rig of 5 kg."""
        usual = Layout()
        self.assertAlmostEqual(usual.tilt, math.radians(20))
        self.assertEqual((usual.span, usual.origin, usual.tray, usual.rest), (0.32, 0.1, 0.2, 5.0))
        self.assertEqual(usual.hooks, ((0.0, 0.05), (0.05, 0.05)))


class Subjects(unittest.TestCase):
    def test_a_part_without_size_or_mass(self) -> None:
        """Common practice: 300 g give or take 15 %, the size of a fist."""
        bare = replace(block("x", 1.0), outline=None, mass=None)
        subject = take_part(bare).subject
        self.assertEqual((subject.mass, subject.size), (0.3, (0.1, 0.08, 0.08)))
        self.assertAlmostEqual(subject.mass_u, 0.045)
        sized = block("y", 1.0, (0.3, 0.2, 0.1))
        self.assertEqual(take_part(sized).subject.size, (0.3, 0.2, 0.1))
        self.assertEqual(take_part(sized).subject.centre, sized.outline.centre)

    def test_a_heap(self) -> None:
        parts = (
            block("a", 1.0, (0.3, 0.2, 0.1)),
            replace(block("b", 0.5), outline=None),
            block("c", 2.0, (0.1, 0.05, 0.2)),
        )
        heap = take_loose(parts)
        self.assertEqual(heap.subject.mass, 3.5)
        self.assertAlmostEqual(heap.subject.mass_u, math.hypot(*(whole_mass_uncertainty(p) for p in parts)))
        self.assertEqual(heap.subject.size, (0.3 + 0.1 + 0.1, 0.2, 0.2))
        self.assertEqual((heap.origin.shape, heap.rotation.shape), ((3, 3), (3, 3, 3)))
        with self.assertRaisesRegex(MeasurementError, "no common CG"):
            heap.along(0)

    def test_what_sits_on_a_build(self) -> None:
        build, kit = shoulder_build((block("a", 2.0, (0.2, 0.1, 0.1)), 0.1), (block("b", 1.0, (0.1, 0.1, 0.3)), -0.2))
        found = analyse(build, kit, LENA)
        chosen = [i for i, p in enumerate(found.assembly.parts) if p.id in ("a", "b")]
        zero = np.array([0.05, 0.0, 0.02])
        taken = take_placed(found.assembly, found.positions, chosen, zero, "Both")
        cgs = found.positions.cg[chosen]
        np.testing.assert_allclose(taken.subject.cg, (2.0 * cgs[0] + 1.0 * cgs[1]) / 3.0 - zero, atol=1e-12)
        low = np.min([found.positions.centre[i] - found.assembly.edges[i] for i in chosen], axis=0)
        high = np.max([found.positions.centre[i] + found.assembly.edges[i] for i in chosen], axis=0)
        np.testing.assert_allclose(taken.subject.size, high - low, atol=1e-12)
        np.testing.assert_allclose(taken.subject.centre, (high + low) / 2 - zero, atol=1e-12)
        members = taken.along(0)
        self.assertEqual([m.axis for m in members], [(1.0, 0.0, 0.0)] * 2)
        np.testing.assert_allclose([m.offset for m in members], found.positions.origin[chosen, 0] - zero[0])


class Steadiness(unittest.TestCase):
    def test_only_what_stayed_within_a_step_of_its_middle_counts(self) -> None:
        values = [1.50, 1.00, 1.019, 1.00, 1.01]
        trace = trace_of(0.010, (Sample(float(t), v) for t, v in enumerate(values)))
        self.assertEqual(trace.steady_for, 3.0)
        self.assertTrue(trace.steady)
        # The mean of the last 2.1 s alone.
        self.assertAlmostEqual(trace.value, round((1.019 + 1.00 + 1.01) / 3, 6))
        self.assertFalse(trace_of(0.010, (Sample(t, 1.0) for t in (0.0, 2.0))).steady)
        self.assertTrue(trace_of(0.010, (Sample(t, 1.0) for t in (0.0, 2.1))).steady)

    def test_two_readings_of_one_moment_are_both_kept_and_a_clock_set_back_starts_anew(self) -> None:
        both = trace_of(0.010, (Sample(1.0, 1.0), Sample(1.0, 1.002)))
        self.assertEqual(len(both.samples), 2)
        self.assertEqual(len(trace_of(0.010, (Sample(1.0, 1.0), Sample(0.9, 1.0))).samples), 1)
        self.assertEqual(len(trace_of(0.010, (Sample(t, 1.0) for t in (0.0, 8.0))).samples), 2)
        self.assertEqual(len(trace_of(0.010, (Sample(t, 1.0) for t in (0.0, 8.1))).samples), 1)
        self.assertEqual(trace_of(0.010, (Sample(0.0, 1.0 / 3.0),)).value, 0.333333)


class Records(unittest.TestCase):
    def test_an_axis_that_was_measured_counts_as_weighed(self) -> None:
        part = replace(block("p", 1.0, known=HowKnown.GUESSED), cg=(0.1, 0.2, 0.3), cg_axis_u=(None, 0.001, None))
        y, z = record_of(part, Quantity.CG_Y), record_of(part, Quantity.CG_Z)
        self.assertEqual((y.known, y.value, y.uncertainty), (HowKnown.WEIGHED, 0.2, 0.001))
        self.assertEqual((z.known, z.value, z.uncertainty), (HowKnown.GUESSED, 0.3, cg_uncertainty(part)[2]))


def weighing(ident: str, value: float, u: float, *members: Member, sensed: Sensed = Sensed.MASS) -> Measurement:
    return Measurement(ident, sensed, members, value, u, instrument="s" if sensed is Sensed.MASS else "")


class Reconciling(unittest.TestCase):
    def setUp(self) -> None:
        self.a = replace(block("a", 2.0, known=HowKnown.SHEET), cg=(0.10, 0.0, 0.0), mass_u=0.10, cg_u=0.02)
        self.b = replace(block("b", 1.0, known=HowKnown.SHEET), cg=(-0.05, 0.0, 0.0), mass_u=0.05, cg_u=0.01)
        self.kit = {"a": self.a, "b": self.b}

    def test_masses_scale_and_place_by_general_least_squares(self) -> None:
        """The same observations minimised by SciPy: two masses, a CG each, the scale's gain."""
        both = (Member("a"), Member("b"))
        placed = (Member("a", 0.30, (1.0, 0.0, 0.0)), Member("b", -0.10, (0.6, 0.8, 0.0)))
        used = [
            weighing("m1", 2.12, 0.01, Member("a")),
            weighing("m2", 3.20, 0.01, *both),
            weighing("m3", 0.245, 0.002, *placed, sensed=Sensed.CG),
        ]
        found = reconcile(self.kit, used, {"s": SCALE})
        gain_u = SCALE.gain_uncertainty

        def residuals(x: np.ndarray) -> np.ndarray:
            a, b, ax, bx, by, gain = x
            place = (a * (0.30 + ax) + b * (-0.10 + 0.6 * bx + 0.8 * by)) / (a + b)
            return np.array(
                [
                    (a - 2.0) / 0.10, (b - 1.0) / 0.05, (ax - 0.10) / 0.02, (bx + 0.05) / 0.01, by / 0.01,
                    gain / gain_u,
                    ((1 + gain) * a - 2.12) / 0.01, ((1 + gain) * (a + b) - 3.20) / 0.01, (place - 0.245) / 0.002,
                ]
            )  # fmt: skip

        best = optimize.least_squares(residuals, [2, 1, 0.1, -0.05, 0, 0], xtol=1e-14, ftol=1e-14, gtol=1e-14)
        values = {(f.belief.part_id, f.belief.quantity): f for f in found.figures}
        masses, places = [("a", Quantity.MASS), ("b", Quantity.MASS)], [("a", Quantity.CG_X), ("b", Quantity.CG_X)]
        keys = [*masses, *places, ("b", Quantity.CG_Y)]
        covariance = np.linalg.inv(best.jac.T @ best.jac)
        for k, key in enumerate(keys):
            self.assertAlmostEqual(values[key].value, best.x[k], places=7)
            self.assertAlmostEqual(values[key].u, math.sqrt(covariance[k, k]), places=6)
        gain, u = found.gains["s"]
        self.assertAlmostEqual(gain, best.x[5], places=7)
        self.assertAlmostEqual(u, math.sqrt(covariance[5, 5]), places=6)
        self.assertAlmostEqual(found.chi_square, float(best.fun @ best.fun), places=6)
        self.assertAlmostEqual(found.chance, float(stats.chi2.sf(found.chi_square, 3)), places=9)
        # Baarda: a residual over its own standard deviation, the error that alone explains it, the least one found.
        hat = np.eye(9) - best.jac @ covariance @ best.jac.T
        for fit, row in zip(found.fits, (6, 7, 8), strict=True):
            u = fit.measurement.u
            self.assertAlmostEqual(fit.normalised, -best.fun[row] / math.sqrt(hat[row, row]), places=4)
            self.assertAlmostEqual(fit.error, -best.fun[row] / hat[row, row] * u, places=5)
            self.assertAlmostEqual(fit.hidden, 4.13 * u / math.sqrt(hat[row, row]), places=6)
        first = values["a", Quantity.MASS]
        self.assertAlmostEqual(first.normalised, best.fun[0] / math.sqrt(hat[0, 0]), places=4)

    def test_several_readings_of_one_figure_alone_are_weighed_by_their_doubt(self) -> None:
        along = Member("a", 0.20, (-1.0, 0.0, 0.0))
        used = [
            weighing("m1", 2.10, 0.01, Member("a")),
            weighing("m2", 2.04, 0.02, Member("a")),
            weighing("m3", 0.09, 0.003, along, sensed=Sensed.CG),
            weighing("m4", 0.10, 0.003, Member("a", 0.0, (0.8, 0.6, 0.0)), sensed=Sensed.CG),
        ]
        found = {f.belief.quantity: f.measured for f in reconcile(self.kit, used, {}).figures}
        mean, u = found[Quantity.MASS]
        self.assertAlmostEqual(mean, (2.10 / 0.01**2 + 2.04 / 0.02**2) / (1 / 0.01**2 + 1 / 0.02**2))
        self.assertAlmostEqual(u, 1 / math.sqrt(1 / 0.01**2 + 1 / 0.02**2))
        # A slanting axis says nothing of one figure alone.
        self.assertAlmostEqual(found[Quantity.CG_X][0], (0.09 - 0.20) / -1.0)
        self.assertIsNone(found[Quantity.CG_Y])

    def test_verdicts(self) -> None:
        same = reconcile(self.kit, [weighing("m", 2.02, 0.01, Member("a"))], {})
        self.assertIs(same.agreement, Agreement.AGREES)
        far = reconcile(self.kit, [weighing("m", 2.45, 0.01, Member("a"))], {})
        self.assertIn(far.agreement, (Agreement.DISAGREES, Agreement.CANNOT_TELL_WHICH))
        # The one belief and the one reading explain it alike: the belief is named first.
        self.assertEqual(far.suspects, (0, 1))
        self.assertIs(far.agreement, Agreement.DISAGREES)
        self.assertIs(reconcile(self.kit, [], {}).agreement, Agreement.NOTHING)
        self.assertEqual(reconcile(self.kit, [], {}).chance, 1.0)
        two = reconcile(self.kit, [weighing("m", 3.60, 0.01, Member("a"), Member("b"))], {})
        self.assertIs(two.agreement, Agreement.CANNOT_TELL_WHICH)

    def test_what_is_believed_before_any_measurement(self) -> None:
        """Common practice: of what only these weighings know, anything up to ten times as much, 200 mm off."""
        mine = Stamp(source=("m1",))
        old = Record(Quantity.MASS, 1.7, 0.2, HowKnown.GUESSED, Stamp())
        new = Record(Quantity.MASS, 2.0, 0.01, HowKnown.WEIGHED, mine)
        known = replace(self.a, records=(old, new))
        self.assertEqual(belief_of(known, Quantity.MASS, frozenset({"m1"})).value, 1.7)
        self.assertEqual(belief_of(known, Quantity.MASS, frozenset({"m2"})).value, 2.0)
        alone = belief_of(replace(self.a, records=(new,)), Quantity.MASS, frozenset({"m1"}))
        self.assertEqual((alone.value, alone.u), (2.0, 20.0))
        light = belief_of(replace(self.a, mass=0.02, records=(new,)), Quantity.MASS, frozenset({"m1"}))
        self.assertEqual(light.u, 1.0)
        nothing = belief_of(replace(self.a, mass=None), Quantity.MASS, frozenset())
        self.assertEqual((nothing.value, nothing.u), (1.0, 1.0))
        place = Record(Quantity.CG_X, 0.1, 0.001, HowKnown.WEIGHED, mine)
        self.assertEqual(belief_of(replace(self.a, records=(place,)), Quantity.CG_X, frozenset({"m1"})).u, 0.2)
        self.assertEqual(belief_of(replace(self.a, mass_u=0.0), Quantity.MASS, frozenset()).u, 1e-6)

    def test_what_masses_share_and_what_each_has_alone(self) -> None:
        covariance = np.array([[4e-4, 3e-4, 0.0], [3e-4, 9e-4, 0.0], [0.0, 0.0, 1e-4]])
        own, factors = shared_factors(covariance)
        np.testing.assert_allclose(np.diag(own) + factors.T @ factors, covariance, atol=1e-15)
        np.testing.assert_allclose(own, [0.0, 0.0, 1e-4])
        # Half a milligram in common is nothing.
        own, factors = shared_factors(np.diag([1e-4, 1e-4]) + 2.5e-13 * (1 - np.eye(2)))
        self.assertEqual(factors.shape, (0, 2))


class Axes(unittest.TestCase):
    def test_each_set_up_finds_the_cg_along_its_own_axis(self) -> None:
        """x forward, y left, z up: ISO 8855."""
        found = {setup: axis_of(setup) for setup in Setup}
        self.assertEqual((found[Setup.SIDEWAYS], found[Setup.HEIGHT]), (Y, Z))
        self.assertEqual({axis for setup, axis in found.items() if setup not in (Setup.SIDEWAYS, Setup.HEIGHT)}, {X})


class Advising(unittest.TestCase):
    def setUp(self) -> None:
        parts = (
            (block("camera", 3.0, (0.16, 0.11, 0.13), Category.BODY, known=HowKnown.SHEET), 0.08),
            (block("lens", 1.5, (0.14, 0.10, 0.10), Category.LENS, known=HowKnown.GUESSED), 0.30),
            (block("power", 0.8, (0.06, 0.10, 0.15), Category.BATTERY, known=HowKnown.GUESSED), -0.25),
        )
        self.analysis = analyse(*shoulder_build(*parts), LENA)
        self.outputs = output_model(self.analysis)

    def test_each_saves_what_a_kalman_update_says(self) -> None:
        """Conditioning a normal distribution on a reading, by its block formula; here on the CG ahead."""
        found = weigh_next(self.analysis, self.outputs, CG_AHEAD, SCALE)
        uncertainties, n = self.analysis.assembly.uncertainties, len(self.analysis.assembly.parts)
        before = np.diag(np.concatenate([uncertainties.mass**2, uncertainties.cg.ravel() ** 2]))
        before[:n, :n] += uncertainties.gain.T @ uncertainties.gain
        inputs = inputs_of(self.analysis, self.outputs.slide)
        forms = np.concatenate([inputs.mass, inputs.cg.reshape(-1, 5)]).T
        gradient = self.outputs.gradient(CG_AHEAD) @ forms
        covariance, at_first = before, math.sqrt(gradient @ before @ gradient)
        self.assertAlmostEqual(found[0].before, at_first, places=12)
        gone = 0.0
        for advice in found:
            row, noise = self.asked(advice.task, advice.part, advice.axis, forms)
            gain = covariance @ row / (row @ covariance @ row + noise**2)
            keep = np.eye(4 * n) - np.outer(gain, row)
            # Joseph's form: the same update by another formula.
            after = keep @ covariance @ keep.T + noise**2 * np.outer(gain, gain)
            self.assertAlmostEqual(advice.after, math.sqrt(gradient @ after @ gradient), places=10)
            self.assertAlmostEqual(advice.share, (advice.before**2 - advice.after**2) / at_first**2, places=12)
            self.assertLessEqual(advice.after, 0.97 * advice.before)
            covariance = after
            gone += advice.share
        self.assertLessEqual(gone, 1.0)
        self.assertLessEqual(len(found), 6)
        self.assertEqual(len(weigh_next(self.analysis, self.outputs, CG_AHEAD, SCALE, most=2)), min(2, len(found)))

    def asked(self, task: Task, part: int | None, axis: int, forms: np.ndarray) -> tuple[np.ndarray, float]:
        """Return what a measurement reads and its noise: each mass read once, each place from two equal ends."""
        assembly, n = self.analysis.assembly, len(self.analysis.assembly.parts)
        row, u = np.zeros(4 * n), SCALE.own_uncertainty()
        if task is Task.PART_MASS:
            row[part] = 1.0
            return row, math.hypot(u, float(assembly.mass[part]) * SCALE.gain_uncertainty)
        if task is Task.RIG_MASS:
            row[:n] = 1.0
            return row, math.hypot(u, float(assembly.mass.sum()) * SCALE.gain_uncertainty)
        if task is Task.PART_CG:
            row[n + 3 * part + axis] = 1.0
            mass, length = float(assembly.mass[part]), max(assembly.parts[part].outline.size[axis], 0.08)
        else:
            row = forms[1]
            mass, length = float(assembly.mass.sum()), float(np.ptp(self.analysis.positions.centre[:, 0])) + 0.2
        span = 1.3 * length
        ends = adjust_ends(mass, mass / 2, mass / 2, u)
        return row, two_supports(ends, span, u).u

    def test_the_axis_that_matters_and_the_minutes(self) -> None:
        """Common practice: a mass takes a minute, a part's CG three, a rig's four."""
        self.assertEqual([MINUTES[task] for task in Task], [1, 3, 1, 4])
        places = [a for a in weigh_next(self.analysis, self.outputs, CG_AHEAD, SCALE) if a.task is Task.PART_CG]
        self.assertTrue(all(a.axis == 0 for a in places))

    def test_of_a_part_that_stands_askew_the_long_side_is_asked(self) -> None:
        """Both its own axes count alike for the CG ahead; where along the long one it lies is what nobody knows."""
        for size, axis in (((0.05, 0.04, 0.4), 2), ((0.4, 0.04, 0.05), 0)):
            turn = Mount("t", MountKind.ROSETTE, (0.1, 0.0, 0.05), Connection.TURN, (0.0, 1.0, 0.0), -2.0, 2.0)
            build, kit = shoulder_build((block("camera", 3.0, category=Category.BODY, known=HowKnown.WEIGHED), 0.0))
            kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, turn))
            kit["arm"] = block("arm", 2.5, size, Category.ARM, HowKnown.GUESSED, kind=MountKind.ROSETTE)
            askew = Placed("arm", "arm", "base", "t", 0, math.radians(45.0))
            analysis = analyse(replace(build, parts=(*build.parts, askew)), kit, LENA)
            found = weigh_next(analysis, output_model(analysis), CG_AHEAD, SCALE)
            self.assertIn((Task.PART_CG, 2, axis), [(a.task, a.part, a.axis) for a in found])

    def test_what_gives_most_a_minute_comes_first(self) -> None:
        found = weigh_next(self.analysis, self.outputs, TOTAL_MASS, SCALE)
        self.assertTrue(all(a.task in (Task.PART_MASS, Task.RIG_MASS) for a in found))
        self.assertIs(found[0].task, Task.RIG_MASS)


if __name__ == "__main__":
    unittest.main()
