"""Bench: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import re
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.errors import MeasurementError
from equilix.core.frames import X, Y, Z
from equilix.core.kit.records import Instrument, Measurement, Member, Quantity, Sensed
from equilix.core.measurement.bench import Layout, Procedure, Setup, Subject, axis_of, suggested_layout
from equilix.core.measurement.methods import (
    PLUMB_UNCERTAINTY,
    TAPE_UNCERTAINTY,
    TILT_UNCERTAINTY,
    Measured,
    adjust_ends,
    cross_plumb_lines,
    side_plumb_line,
    tilted_height,
)
from equilix.core.measurement.reconcile import belief_of, reconcile
from tests.rigs.benches import SCALE, SQUARE, TABLE, THING, done
from tests.rigs.plain import block
from tests.rigs.searches import BOOK


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


class Axes(unittest.TestCase):
    def test_each_set_up_finds_the_cg_along_its_own_axis(self) -> None:
        """x forward, y left, z up: ISO 8855."""
        found = {setup: axis_of(setup) for setup in Setup}
        self.assertEqual((found[Setup.SIDEWAYS], found[Setup.HEIGHT]), (Y, Z))
        self.assertEqual({axis for setup, axis in found.items() if setup not in (Setup.SIDEWAYS, Setup.HEIGHT)}, {X})


class Readings(unittest.TestCase):
    def test_what_is_expected_stays_between_the_supports(self) -> None:
        """Lever law: the front reads from 2 to 98 % of the whole, wherever the CG is believed to be."""
        for x, share in ((-5.0, 0.02), (5.0, 0.98)):
            subject = Subject("p", 2.0, 0.1, (x, 0.0, 0.0), (0.02,) * 3, (0.2, 0.1, 0.1), (0.0, 0.0, 0.0))
            layout = suggested_layout(Setup.FORE_AFT, subject)
            procedure = Procedure(Setup.FORE_AFT, subject, Instrument("s", "S"), layout)
            front = next(step for step in procedure.steps if step.key == "front")
            self.assertAlmostEqual(front.expected, share * 2.0)

    def test_three_readings_are_evened_out_by_least_squares(self) -> None:
        """Two unknowns, three readings of one scale: numpy's least squares."""
        found = adjust_ends(2.0, 0.9, 1.13, 0.01)
        sums = np.array([[1.0, 1.0], [1.0, 0.0], [0.0, 1.0]])
        best = np.linalg.lstsq(sums, np.array([2.0, 0.9, 1.13]), rcond=None)[0]
        self.assertAlmostEqual(found.front, float(best[0]))
        self.assertAlmostEqual(found.back, float(best[1]))
        # What the three miss by has the uncertainty of three readings: sqrt(3) u.
        self.assertAlmostEqual(found.closure, 0.03)
        self.assertAlmostEqual(found.closure_u, math.sqrt(3.0) * 0.01)
        self.assertTrue(found.closes)
        self.assertFalse(adjust_ends(2.0, 0.9, 1.136, 0.01).closes)
        with self.assertRaisesRegex(MeasurementError, "more than the whole"):
            adjust_ends(2.0, 2.041, None, 0.01)
        adjust_ends(2.0, 2.039, None, 0.01)

    def test_what_is_known_only_by_these_weighings_decides_nothing(self) -> None:
        """Without any value a wild guess: 1 kg, give or take as much; with one, that and its uncertainty."""
        part = BOOK.kit[0]
        nothing = belief_of(replace(part, mass=None, mass_u=None, records=()), Quantity.MASS, frozenset())
        self.assertEqual((nothing.value, nothing.u), (1.0, 1.0))
        held = belief_of(replace(part, mass=3.0, mass_u=0.02, records=()), Quantity.MASS, frozenset())
        self.assertEqual((held.value, held.u), (3.0, 0.02))

    def test_a_step_beyond_the_supports_is_refused_and_one_within_the_doubt_is_not(self) -> None:
        with self.assertRaisesRegex(MeasurementError, "shows zero"):
            adjust_ends(0.0, 0.1, None, 0.01)

    def test_plumb_lines_that_miss_say_by_how_much(self) -> None:
        subject = Subject("rig", 6.0, 0.1, (0.3, 0, 0.1), (0.02,) * 3, (0.7, 0.15, 0.2), (0.35, 0, 0.1))
        layout = Layout(hooks=((0.0, 0.0), (0.4, 0.0), (0.2, 0.0)))
        procedure = Procedure(Setup.HANG, subject, Instrument("s", "Scale"), layout)
        for key, value in (("hang1", 0.3), ("hang2", -0.3), ("hang3", 0.5)):
            procedure = procedure.with_reading(key, value)
        with self.assertRaises(MeasurementError) as caught:
            procedure.outcomes()
        millimetres = float(re.search(r"by (\d+) mm", str(caught.exception)).group(1))
        self.assertTrue(10.0 < millimetres < 400.0, millimetres)

    def test_height_by_tilting(self) -> None:
        """z = (x_t - x_0)/tan t, its uncertainty by numerical derivatives: JCGM 100:2008, clause 5."""
        level, tilted, tilt, tilt_u = Measured(0.200, 0.001), Measured(0.228, 0.0015), math.radians(15.0), 0.004
        found = tilted_height(level, tilted, tilt, tilt_u)

        def z(x0: float, xt: float, t: float) -> float:
            return (xt - x0) / math.tan(t)

        self.assertAlmostEqual(found.value, z(0.2, 0.228, tilt))
        step = 1e-6
        slopes = (
            (z(0.2 + step, 0.228, tilt) - z(0.2, 0.228, tilt)) / step * 0.001,
            (z(0.2, 0.228 + step, tilt) - z(0.2, 0.228, tilt)) / step * 0.0015,
            (z(0.2, 0.228, tilt + step) - z(0.2, 0.228, tilt)) / step * 0.004,
        )
        self.assertAlmostEqual(found.u, math.hypot(*slopes), delta=2e-3 * found.u)

    def test_what_single_weighings_say_is_their_weighted_mean(self) -> None:
        """Weights 1/u2: JCGM 100:2008, and any text on least squares."""
        part = replace(block("p", 1.0), mass_u=0.2)
        kit = {"p": part, "q": replace(block("q", 1.0), mass_u=0.2)}
        scales = {"s": Instrument("s", "S")}
        weighings = [
            Measurement("a", Sensed.MASS, (Member("p"),), 1.10, 0.01, instrument="s"),
            Measurement("b", Sensed.MASS, (Member("p"),), 1.16, 0.02, instrument="s"),
            Measurement("c", Sensed.MASS, (Member("p"), Member("q")), 2.2, 0.01, instrument="s"),
        ]
        found = reconcile(kit, weighings, scales)
        row = next(f for f in found.figures if f.belief.part_id == "p" and f.belief.quantity is Quantity.MASS)
        weights = np.array([1.0 / 0.01**2, 1.0 / 0.02**2])
        self.assertAlmostEqual(row.measured[0], float(weights @ [1.10, 1.16] / weights.sum()))
        self.assertAlmostEqual(row.measured[1], 1.0 / math.sqrt(weights.sum()))
        other = next(f for f in found.figures if f.belief.part_id == "q" and f.belief.quantity is Quantity.MASS)
        self.assertIsNone(other.measured)


class Layouts(unittest.TestCase):
    def test_hooks_are_where_a_rule_can_read_them(self) -> None:
        """A rule reads whole millimetres: common practice."""
        odd = Subject(
            "Part", 1.0, 0.01, (0.0123, 0.0, 0.0046), (0.01,) * 3, (0.2317, 0.1, 0.1013), (0.0123, 0.0, 0.0046)
        )
        for place in suggested_layout(Setup.FORE_AFT, odd).hooks:
            for value in place:
                self.assertAlmostEqual(1000.0 * value, round(1000.0 * value), places=9)
