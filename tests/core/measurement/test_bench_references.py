"""The bench's formulas against a MuJoCo scene, closed forms and what a real display can show."""

from __future__ import annotations

import math
import unittest
from typing import Any

import mujoco
import numpy as np

from equilix.core.errors import MeasurementError
from equilix.core.kit.records import Instrument, Quantity, ScaleKind
from equilix.core.measurement.bench import Layout, Procedure, Setup, Subject, suggested_layout
from equilix.core.measurement.methods import (
    Measured,
    adjust_ends,
    cross_plumb_lines,
    difference,
    side_plumb_line,
    tilted_height,
    two_supports,
    two_supports_uncertainty,
)

G = 9.80665
#: Boxes of a long rig: mass (kg), middle (m) and half size (m), all on the middle plane.
PARTS = (
    (2.62, (0.30, 0.0, 0.11), (0.083, 0.052, 0.065)),
    (1.36, (0.49, 0.0, 0.13), (0.10, 0.054, 0.054)),
    (0.48, (0.63, 0.0, 0.14), (0.05, 0.075, 0.075)),
    (1.04, (0.08, 0.0, 0.10), (0.026, 0.05, 0.075)),
    (0.94, (0.28, 0.0, 0.02), (0.125, 0.045, 0.013)),
)
MASS = sum(mass for mass, _, _ in PARTS)
CG = np.array([mass * np.array(place) for mass, place, _ in PARTS]).sum(axis=0) / MASS
SPAN = 0.70


def _geoms(parts: tuple[Any, ...] = PARTS) -> str:
    return "".join(
        f'<geom type="box" mass="{m}" pos="{p[0]} {p[1]} {p[2]}" size="{s[0]} {s[1]} {s[2]}" '
        'contype="0" conaffinity="0"/>'
        for m, p, s in parts
    )


def _settle(model: mujoco.MjModel, data: mujoco.MjData, seconds: float) -> None:
    for _ in range(int(seconds / model.opt.timestep)):
        mujoco.mj_step(model, data)


def stand_on_sensors(parts: tuple[Any, ...] = PARTS) -> tuple[float, float]:
    """Return what two scales under the ends of the board show (kg): the rig really stands on two touch sensors."""
    post = '<geom type="capsule" fromto="{x} -.05 -.01 {x} .05 -.01" size=".01"/>'
    pad = '<site name="{name}" type="box" pos="{x} 0 -.01" size=".03 .08 .03"/>'
    model = mujoco.MjModel.from_xml_string(f"""
    <mujoco><option timestep="0.0005" gravity="0 0 -{G}" integrator="implicitfast"/>
    <worldbody>
      <body name="a">{post.format(x=0)}{pad.format(name="back", x=0)}</body>
      <body name="b">{post.format(x=SPAN)}{pad.format(name="front", x=SPAN)}</body>
      <body pos="0 0 0.0005"><freejoint/>
        <geom type="box" mass="1e-6" pos="{SPAN / 2} 0 .004" size="{SPAN / 2 + 0.03} .06 .004"/>{_geoms(parts)}</body>
    </worldbody>
    <sensor><touch site="back"/><touch site="front"/></sensor></mujoco>""")
    data = mujoco.MjData(model)
    _settle(model, data, 2.0)
    back, front = data.sensordata / G
    return float(back), float(front)


def lift_by_cord(tilt: float) -> tuple[float, float]:
    """Return the cord's pull (kg) at the front and the true tilt (rad): one end on an edge, the other on a cord."""
    high = 3.0
    model = mujoco.MjModel.from_xml_string(f"""
    <mujoco><option timestep="0.0005" gravity="0 0 -{G}" integrator="implicitfast"/>
    <worldbody>
      <site name="beam" pos="{SPAN * math.cos(tilt)} 0 {high}"/>
      <body><joint type="hinge" axis="0 1 0" damping="4"/>{_geoms()}<site name="eye" pos="{SPAN} 0 0"/></body>
    </worldbody>
    <tendon><spatial name="cord" limited="true" range="0 {high + SPAN * math.sin(tilt)}" solreflimit="0.004 1">
      <site site="beam"/><site site="eye"/></spatial></tendon>
    <sensor><tendonlimitfrc tendon="cord"/></sensor></mujoco>""")
    data = mujoco.MjData(model)
    data.qpos[0] = tilt
    _settle(model, data, 3.0)
    return float(data.sensordata[0]) / G, float(data.qpos[0])


def hang_from(hook: tuple[float, float]) -> float:
    """Return by how much (rad) the rig hangs nose down from a hook (x, z) (m) of its side plane."""
    model = mujoco.MjModel.from_xml_string(f"""
    <mujoco><option timestep="0.001" gravity="0 0 -{G}"/>
    <worldbody><body><joint type="ball" pos="{hook[0]} 0 {hook[1]}" damping="3"/>{_geoms()}</body></worldbody>
    </mujoco>""")
    data = mujoco.MjData(model)
    _settle(model, data, 12.0)
    forward = data.xmat[1].reshape(3, 3)[:, 0]
    return math.atan2(-forward[2], forward[0])


class AgainstMujoco(unittest.TestCase):
    """MuJoCo brings the forces of a rig that stands or hangs; ours turns them back into its CG."""

    def test_two_supports_find_mass_and_cg(self) -> None:
        back, front = stand_on_sensors()
        ends = adjust_ends(back + front, front, back, 0.001)
        self.assertAlmostEqual(ends.whole, MASS, places=3)
        self.assertAlmostEqual(two_supports(ends, SPAN, 0.001).value, CG[0], delta=2e-4)

    def test_difference_finds_the_part_that_was_taken_off(self) -> None:
        whole = sum(stand_on_sensors())
        without = sum(stand_on_sensors(PARTS[:1] + PARTS[2:]))
        self.assertAlmostEqual(difference(Measured(whole, 0.001), Measured(without, 0.001)).value, 1.36, places=3)

    def test_tilted_repeat_finds_the_height(self) -> None:
        level, flat = lift_by_cord(0.0)
        for degrees in (15.0, 25.0):
            pull, tilt = lift_by_cord(math.radians(degrees))
            places = [SPAN * force / MASS for force in (level, pull)]
            self.assertAlmostEqual(flat, 0.0, delta=1e-3)
            height = tilted_height(Measured(places[0], 0.0), Measured(places[1], 0.0), tilt)
            self.assertAlmostEqual(height.value, CG[2], delta=1e-3)

    def test_plumb_lines_cross_in_the_cg(self) -> None:
        hooks = ((0.1, 0.25), (0.5, 0.25), (0.3, 0.22))
        lines = [side_plumb_line(hook, hang_from(hook)) for hook in hooks]
        crossing = cross_plumb_lines(lines)
        np.testing.assert_allclose(crossing.point, [CG[0], CG[2]], atol=2e-4)
        self.assertLess(crossing.miss, 5e-4)

    def test_the_whole_procedure_stores_what_the_scene_weighs(self) -> None:
        back, front = stand_on_sensors()
        subject = Subject("rig", 6.0, 0.1, (0.3, 0, 0.1), (0.02,) * 3, (0.7, 0.15, 0.2), (0.35, 0, 0.1))
        scale = Instrument("s", "Scale", ScaleKind.BENCH, 20.0, 0.001, 0.0)
        procedure = Procedure(Setup.FORE_AFT, subject, scale, Layout(span=SPAN, origin=0.0))
        for key, value in (("whole", back + front), ("front", front), ("back", back)):
            procedure = procedure.with_reading(key, value)
        found = {outcome.quantity: outcome.measured for outcome in procedure.outcomes()}
        self.assertAlmostEqual(found[Quantity.MASS].value, MASS, places=3)
        self.assertAlmostEqual(found[Quantity.CG_X].value, CG[0], delta=3.0 * found[Quantity.CG_X].u)


class Uncertainties(unittest.TestCase):
    """First order against sampling: JCGM 100:2008 clause 5.1.2 and JCGM 101:2008."""

    def sampled(self, checked: bool) -> tuple[float, float]:
        rng = np.random.default_rng(3)
        back, front, span, u, span_u = 0.254, 0.208, 0.320, 0.002, 0.0005
        n = 200_000
        whole, ahead, behind = (value + u * rng.standard_normal(n) for value in (back + front, front, back))
        length = span + span_u * rng.standard_normal(n)
        if checked:
            excess = ahead + behind - whole
            places = length * (ahead - excess / 3) / (ahead + behind - 2 * excess / 3)
        else:
            places = length * ahead / whole
        return float(places.std()), two_supports_uncertainty(back, front, span, u, span_u, checked)

    def test_two_readings(self) -> None:
        sampled, first = self.sampled(checked=False)
        self.assertAlmostEqual(first / sampled, 1.0, delta=0.01)

    def test_three_readings_are_surer_and_share_their_excess(self) -> None:
        sampled, first = self.sampled(checked=True)
        self.assertAlmostEqual(first / sampled, 1.0, delta=0.01)
        self.assertLess(first, self.sampled(checked=False)[1])

    def test_derivatives_of_the_published_form(self) -> None:
        """x = L F2/(F1 + F2): dx/dF1 = -L F2/W2, dx/dF2 = L F1/W2, dx/dL = F2/W, by central differences."""
        f1, f2, span, h = 2.6, 3.4, 0.7, 1e-6

        def x(a: float, b: float, length: float) -> float:
            return two_supports(adjust_ends(a + b, b, None, 1e-3), length, 1e-3).value

        whole = f1 + f2
        self.assertAlmostEqual((x(f1 + h, f2, span) - x(f1 - h, f2, span)) / (2 * h), -span * f2 / whole**2, places=6)
        self.assertAlmostEqual((x(f1, f2 + h, span) - x(f1, f2 - h, span)) / (2 * h), span * f1 / whole**2, places=6)
        self.assertAlmostEqual((x(f1, f2, span + h) - x(f1, f2, span - h)) / (2 * h), f2 / whole, places=6)

    def test_height_is_as_doubtful_as_its_tilt_is_small(self) -> None:
        """u(z) = sqrt2 u(x)/tan t: 5.3 times at 15 degrees, 2.5 at 30 (closed form)."""
        for degrees, times in ((15.0, 5.3), (30.0, 2.5)):
            place = Measured(0.3, 0.001)
            tilt = math.radians(degrees)
            height = tilted_height(place, Measured(0.3, 0.001), tilt, tilt_u=0.0)
            self.assertAlmostEqual(height.u / 0.001, times, delta=0.06)
            self.assertAlmostEqual(height.u / 0.001, math.sqrt(2.0) / math.tan(tilt), places=9)

    def test_a_scale_with_a_gain_error_finds_the_same_place(self) -> None:
        for gain in (0.9, 1.0, 1.2):
            ends = adjust_ends(6.0 * gain, 3.4 * gain, 2.6 * gain, 0.001)
            self.assertAlmostEqual(two_supports(ends, 0.7, 0.001).value, 0.7 * 3.4 / 6.0, places=12)

    def test_crossing_covariance_matches_its_scatter(self) -> None:
        rng = np.random.default_rng(8)
        hooks, cg = ((0.0, 0.1), (0.2, 0.1)), np.array([0.08, -0.05])
        found = []
        for _ in range(4000):
            lines = []
            for hook in hooks:
                pitch = math.atan2(cg[0] - hook[0], -(cg[1] - hook[1])) + 0.002 * rng.standard_normal()
                place = tuple(np.array(hook) + 0.0015 * rng.standard_normal(2))
                lines.append(side_plumb_line(place, pitch, point_u=0.0015, angle_u=0.002))
            found.append(cross_plumb_lines(lines).point)
        expected = cross_plumb_lines(
            [
                side_plumb_line(h, math.atan2(cg[0] - h[0], -(cg[1] - h[1])), point_u=0.0015, angle_u=0.002)
                for h in hooks
            ]
        )
        np.testing.assert_allclose(np.cov(np.array(found).T), expected.covariance, rtol=0.12, atol=1e-7)


class Refused(unittest.TestCase):
    def test_bad_readings_get_one_sentence(self) -> None:
        cases = (
            (lambda: adjust_ends(1.0, 1.2, None, 0.001), "Move the supports apart:"),
            (lambda: adjust_ends(0.0, 0.0, None, 0.001), "The scale shows zero"),
            (lambda: difference(Measured(1.0, 0.0), Measured(1.0, 0.0)), "Swap the readings"),
            (lambda: tilted_height(Measured(0, 0), Measured(0, 0), math.radians(3)), "The tilt is below 6°"),
            (lambda: cross_plumb_lines([side_plumb_line((0, 0), 0.1)]), "second point"),
            (lambda: cross_plumb_lines([side_plumb_line((0, 0), 0.1)] * 2), "further apart"),
        )
        for call, words in cases:
            with self.assertRaisesRegex(MeasurementError, words):
                call()

    def test_plumb_lines_that_miss_each_other_are_not_averaged(self) -> None:
        subject = Subject("rig", 6.0, 0.1, (0.3, 0, 0.1), (0.02,) * 3, (0.7, 0.15, 0.2), (0.35, 0, 0.1))
        layout = Layout(hooks=((0.1, 0.25), (0.5, 0.25), (0.3, 0.22)))
        procedure = Procedure(Setup.HANG, subject, Instrument("s", "Scale"), layout)
        for key, value in (("hang1", 0.9), ("hang2", -0.7), ("hang3", 0.6)):
            procedure = procedure.with_reading(key, value)
        lines = [side_plumb_line(hook, angle) for hook, angle in zip(layout.hooks, (0.9, -0.7, 0.6), strict=True)]
        with self.assertRaisesRegex(MeasurementError, "miss each other") as refused:
            procedure.outcomes()
        # Said in mm, as far as the lines are from where they nearly meet.
        said = float(str(refused.exception).split(" by ")[1].split(" mm")[0])
        self.assertAlmostEqual(said, 1000.0 * cross_plumb_lines(lines).miss, delta=2.0)

    def test_a_scale_shows_no_more_than_it_carries(self) -> None:
        subject = Subject("rig", 6.0, 0.1, (0, 0, 0), (0.02,) * 3, (0.7, 0.15, 0.2), (0, 0, 0))
        procedure = Procedure(Setup.WHOLE, subject, Instrument("s", "Scale", capacity=5.0))
        with self.assertRaisesRegex(MeasurementError, "More than 5 kg"):
            procedure.with_reading("whole", 5.5)
        with self.assertRaisesRegex(MeasurementError, "below zero"):
            procedure.with_reading("whole", -0.5)


class Procedures(unittest.TestCase):
    def test_a_reading_can_be_taken_back(self) -> None:
        subject = Subject("part", 0.48, 0.07, (0.04, 0, 0), (0.01,) * 3, (0.11, 0.15, 0.15), (0.044, 0, 0))
        first = Procedure(Setup.FORE_AFT, subject, Instrument("s", "Scale"), suggested_layout(Setup.FORE_AFT, subject))
        second = first.with_reading("whole", 0.462).with_reading("front", 0.208)
        self.assertEqual(second.without_last().readings, {"whole": 0.462})
        self.assertEqual(second.without_last().without_last().without_last().readings, {})
        self.assertEqual(first.readings, {})

    def test_precision_is_known_before_the_first_reading_and_kept(self) -> None:
        """What is foreseen is what comes out when every reading is as expected, for every set-up."""
        subject = Subject("part", 1.3, 0.05, (0.09, 0.01, 0.02), (0.01,) * 3, (0.2, 0.1, 0.1), (0.1, 0, 0))
        for setup in Setup:
            procedure = Procedure(setup, subject, Instrument("s", "Scale"), suggested_layout(setup, subject))
            foreseen = procedure.foreseen()
            for step in procedure.steps:
                procedure = procedure.with_reading(step.key, step.expected or 0.0)
            self.assertEqual([o.quantity for o in procedure.outcomes()], [o.quantity for o in foreseen])
            for outcome, expected in zip(procedure.outcomes(), foreseen, strict=True):
                self.assertAlmostEqual(outcome.measured.u, expected.measured.u, places=6)
                truth = {Quantity.MASS: 1.3, Quantity.CG_X: 0.09, Quantity.CG_Y: 0.01, Quantity.CG_Z: 0.02}
                self.assertAlmostEqual(outcome.measured.value, truth[outcome.quantity], places=6)

    def test_ends_that_do_not_make_the_whole_are_said_so(self) -> None:
        subject = Subject("part", 0.48, 0.07, (0.04, 0, 0), (0.01,) * 3, (0.11, 0.15, 0.15), (0.044, 0, 0))
        procedure = Procedure(Setup.FORE_AFT, subject, Instrument("s", "Scale", step=0.002))
        for key, value in (("whole", 0.462), ("front", 0.208), ("back", 0.268)):
            procedure = procedure.with_reading(key, value)
        excess, closes = procedure.closure
        self.assertAlmostEqual(excess, 0.014)
        self.assertFalse(closes)
