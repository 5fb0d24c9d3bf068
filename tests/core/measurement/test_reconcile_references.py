"""Reconciling, advice and Monte Carlo against published examples, campaigns of made-up weighings and brute force."""

from __future__ import annotations

import itertools
import math
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build
from equilix.core.kit.parts import Category, HowKnown, Part
from equilix.core.kit.records import Instrument, Measurement, Member, Quantity, Record, Sensed, Stamp
from equilix.core.measurement.advice import Task, weigh_next
from equilix.core.measurement.reconcile import Agreement, belief_of, reconcile, shared_factors
from equilix.core.statics.hands import Measure
from equilix.core.statics.pad import Shoulder
from equilix.core.statics.pose import Pose
from equilix.core.uncertainty.montecarlo import Reason, odds, sample
from equilix.core.uncertainty.output_model import (
    CG_AHEAD,
    TIP_MOMENT,
    TOTAL_MASS,
    covariance_of,
    inputs_of,
    output_model,
)
from equilix.io.shipped import demo_book
from equilix.supports.shoulder import mechanics as shoulder
from tests.campaigns import campaign
from tests.rigs.plain import OPERATOR, block, grip, hold, shoulder_build

SCALE = Instrument("s", "Scale", step=0.002, accuracy=0.002)
EXACT = Instrument("s", "Scale", step=0.002, accuracy=0.0)


def sheet_part(name: str, mass: float, share: float = 0.02) -> Part:
    return replace(block(name, mass, known=HowKnown.SHEET), mass_u=share * mass)


def weighing(number: int, names: tuple[str, ...], value: float, scale: Instrument = SCALE) -> Measurement:
    return Measurement(
        f"m{number}", Sensed.MASS, tuple(Member(n) for n in names), value, scale.own_uncertainty(), instrument="s"
    )


class GumExample(unittest.TestCase):
    def test_thermometer_calibration(self) -> None:
        """JCGM 100:2008, H.3: a straight line through eleven corrections (table H.6).

        Intercept and slope are the unknowns; as here, the uncertainty of the observations is taken from their
        scatter. Expected: y1 = -0.1712 (0.0029), y2 = 0.00218 (0.00067), r = -0.930, s = 0.0035.
        """
        t = np.array([21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.010, 26.511]) - 20.0
        b = -np.array([171, 169, 166, 159, 164, 165, 156, 157, 159, 161, 160]) / 1000.0
        s = 0.0035
        # A line is the place of one part along directions (1, t): offset and slope are its two coordinates.
        part = replace(block("line", 1.0), mass_u=1e-6, cg_axis_u=(9.0, 9.0, 1e-6))
        observations = [
            Measurement(f"m{i}", Sensed.CG, (Member("line", 0.0, (1.0, float(ti), 0.0)),), float(bi), s)
            for i, (ti, bi) in enumerate(zip(t, b, strict=True))
        ]
        found = reconcile({"line": part}, observations, {})
        at = {f.belief.quantity: i for i, f in enumerate(found.figures)}
        x, y_axis = at[Quantity.CG_X], at[Quantity.CG_Y]
        y = [found.figures[x].value, found.figures[y_axis].value]
        covariance = found.covariance[np.ix_([x, y_axis], [x, y_axis])]
        self.assertAlmostEqual(y[0], -0.1712, places=4)
        self.assertAlmostEqual(y[1], 0.00218, places=5)
        self.assertAlmostEqual(math.sqrt(covariance[0, 0]), 0.0029, places=4)
        self.assertAlmostEqual(math.sqrt(covariance[1, 1]), 0.00067, places=5)
        self.assertAlmostEqual(covariance[0, 1] / math.sqrt(covariance[0, 0] * covariance[1, 1]), -0.930, places=3)
        scatter = b - y[0] - y[1] * t
        self.assertAlmostEqual(math.sqrt(scatter @ scatter / 9), s, places=4)

    def test_the_same_sums_by_reconciling(self) -> None:
        """The library's sums against the plain normal equations written out, for masses and one CG."""
        rng = np.random.default_rng(5)
        kit = {n: sheet_part(n, m) for n, m in (("a", 2.0), ("b", 1.0), ("c", 0.5))}
        sets = (("a", "b"), ("b", "c"), ("a", "b", "c"), ("c",))
        values = [sum(kit[n].mass for n in names) + 0.01 * float(rng.standard_normal()) for names in sets]
        found = reconcile(
            kit, [weighing(i, n, v, EXACT) for i, (n, v) in enumerate(zip(sets, values, strict=True))], {}
        )
        design = np.array([[n in names for n in "abc"] for names in sets], dtype=float)
        prior = np.array([2.0, 1.0, 0.5])
        weights = np.diag(1.0 / (0.02 * prior) ** 2) + design.T @ design / EXACT.own_uncertainty() ** 2
        right = 1.0 / (0.02**2 * prior) + design.T @ np.array(values) / EXACT.own_uncertainty() ** 2
        np.testing.assert_allclose([f.value for f in found.figures], np.linalg.solve(weights, right), rtol=1e-10)
        np.testing.assert_allclose(found.covariance, np.linalg.inv(weights), rtol=1e-8)
        self.assertEqual(found.redundancy, 4)

    def test_a_gain_error_common_to_all_moves_the_sum_and_not_the_shares(self) -> None:
        """Four parts at 2 % of one scale: u(M) 0.068 kg together, 0.037 kg if taken as independent (closed form)."""
        masses = np.array([1.5, 0.9, 0.6, 0.4])
        gain = 0.02 * masses
        self.assertAlmostEqual(gain.sum(), 0.068, places=3)
        self.assertAlmostEqual(math.sqrt((gain**2).sum()), 0.0379, places=3)
        scale = Instrument("s", "Scale", step=1e-6, accuracy=0.02 * math.sqrt(3.0))
        kit = {f"p{i}": sheet_part(f"p{i}", float(m), 0.5) for i, m in enumerate(masses)}
        found = reconcile(kit, [weighing(i, (f"p{i}",), float(m), scale) for i, m in enumerate(masses)], {"s": scale})
        total = math.sqrt(float(found.covariance.sum()))
        self.assertAlmostEqual(total, 0.068, delta=0.002)


@campaign
class Campaigns(unittest.TestCase):
    """Made-up weighings of a kit whose truth is known."""

    NAMES = tuple(f"p{i}" for i in range(8))
    MASSES = np.array([2.6, 1.4, 0.5, 0.35, 0.62, 1.3, 0.2, 1.04])
    SETS = (
        ("p0", "p1"),
        ("p1", "p2"),
        ("p2", "p3"),
        ("p3", "p4", "p5"),
        ("p5", "p6"),
        ("p6", "p7", "p0"),
        ("p0", "p4"),
        ("p1", "p5"),
        ("p2", "p7"),
        NAMES,
    )

    def campaign(self, rng: np.random.Generator, wrong: int | None = None, amount: float = 0.0) -> tuple[Any, ...]:
        truth = self.MASSES * (1.0 + 0.02 * rng.standard_normal(8))
        kit = {n: sheet_part(n, float(m)) for n, m in zip(self.NAMES, self.MASSES, strict=True)}
        if wrong is not None:
            truth[wrong] = self.MASSES[wrong] + amount
        gain = 1.0 + rng.uniform(-SCALE.accuracy, SCALE.accuracy)
        measurements = []
        for number, names in enumerate(self.SETS):
            shown = gain * sum(truth[self.NAMES.index(n)] for n in names)
            shown = round((shown + 1e-9 * rng.uniform()) / SCALE.step) * SCALE.step
            measurements.append(weighing(number, names, float(shown)))
        return truth, reconcile(kit, measurements, {"s": SCALE})

    def test_95_percent_intervals_hold_the_truth(self) -> None:
        rng = np.random.default_rng(11)
        inside, count, chances = 0, 0, []
        for _ in range(500):
            truth, found = self.campaign(rng)
            for mass, figure in zip(truth, sorted(found.figures, key=lambda f: f.belief.part_id), strict=True):
                inside += abs(figure.value - mass) <= 1.96 * figure.u
                count += 1
            chances.append(found.chance)
        self.assertGreaterEqual(inside / count, 0.92)
        self.assertLessEqual(inside / count, 0.98)
        # Nothing is wrong, so chi-square's chance is spread evenly: JCGM 100 G.6 and any statistics text.
        self.assertAlmostEqual(float(np.mean(chances)), 0.5, delta=0.05)

    def test_gains_of_two_scales_against_least_squares(self) -> None:
        """Three masses and two gains are the unknowns, what is believed of each is a row too: numpy's own answer."""
        rng = np.random.default_rng(12)
        other = Instrument("t", "Other", step=0.005, accuracy=0.004)
        for _ in range(5):
            names, masses = ("a", "b", "c"), rng.uniform(0.5, 3.0, 3)
            kit = {n: sheet_part(n, float(m), 0.05) for n, m in zip(names, masses, strict=True)}
            groups = (("a",), ("b",), ("a", "b"), ("b", "c"), ("a", "b", "c"))
            scales = (SCALE, other, other, SCALE, other)
            true = masses * (1.0 + 0.02 * rng.standard_normal(3))
            shown = [float(sum(true[names.index(n)] for n in g) * rng.uniform(0.999, 1.001)) for g in groups]
            readings = [
                replace(weighing(k, g, v, s), instrument=s.id)
                for k, (g, v, s) in enumerate(zip(groups, shown, scales, strict=True))
            ]
            found = reconcile(kit, readings, {"s": SCALE, "t": other})
            rows, right = [], []
            for k, mass in enumerate(masses):
                rows.append(np.eye(5)[k] / (0.05 * mass))
                right.append(1.0 / 0.05)
            for k, scale in enumerate((SCALE, other)):
                rows.append(np.eye(5)[3 + k] / scale.gain_uncertainty)
                right.append(0.0)
            for group, value, scale in zip(groups, shown, scales, strict=True):
                row = np.array(
                    [float(n in group) for n in names] + [value * (scale is SCALE), value * (scale is other)]
                )
                rows.append(row / scale.own_uncertainty())
                right.append(value / scale.own_uncertainty())
            best = np.linalg.lstsq(np.array(rows), np.array(right), rcond=None)[0]
            by_name = {f.belief.part_id: f.value for f in found.figures}
            np.testing.assert_allclose([by_name[n] for n in names], best[:3], rtol=2e-5)

    def test_a_wrong_part_is_named_first(self) -> None:
        rng = np.random.default_rng(12)
        named = 0
        for k in range(200):
            wrong = int(rng.integers(8))
            amount = float(rng.choice([-1.0, 1.0]) * rng.uniform(0.12, 0.3) * max(self.MASSES[wrong], 0.6))
            amount = max(amount, -0.8 * self.MASSES[wrong])
            _, found = self.campaign(rng, wrong, amount)
            first = found.suspects[0] if found.suspects else -1
            if 0 <= first < len(found.figures) and found.figures[first].belief.part_id == self.NAMES[wrong]:
                named += 1
                self.assertAlmostEqual(found.figures[first].error, amount, delta=0.08 + 0.1 * abs(amount), msg=str(k))
        self.assertGreaterEqual(named, 180)

    def test_parts_weighed_only_together_cannot_be_told_apart(self) -> None:
        kit = {n: sheet_part(n, float(m)) for n, m in zip(self.NAMES, self.MASSES, strict=True)}
        total = float(self.MASSES.sum()) + 0.6
        found = reconcile(kit, [weighing(0, self.NAMES, total)], {"s": SCALE})
        self.assertIs(found.agreement, Agreement.CANNOT_TELL_WHICH)
        suspects = {found.figures[i].belief.part_id for i in found.suspects if i < len(found.figures)}
        self.assertEqual(suspects, set(self.NAMES))

    def test_a_pair_that_always_goes_together_is_named_together(self) -> None:
        kit = {n: sheet_part(n, float(m)) for n, m in zip(self.NAMES, self.MASSES, strict=True)}
        sets = (("p0", "p1"), ("p0", "p1", "p2"), ("p2",), ("p2", "p3"), ("p3",))
        truth = dict(zip(self.NAMES, self.MASSES, strict=True))
        truth["p1"] += 0.4
        found = reconcile(
            kit, [weighing(i, s, float(sum(truth[n] for n in s))) for i, s in enumerate(sets)], {"s": SCALE}
        )
        self.assertIs(found.agreement, Agreement.CANNOT_TELL_WHICH)
        suspects = {found.figures[i].belief.part_id for i in found.suspects if i < len(found.figures)}
        self.assertEqual(suspects, {"p0", "p1"})

    def test_a_wrong_reading_is_named_when_others_contradict_it(self) -> None:
        kit = {"a": sheet_part("a", 1.0), "b": sheet_part("b", 2.0)}
        good = [
            weighing(0, ("a",), 1.0),
            weighing(1, ("b",), 2.0),
            weighing(2, ("a",), 1.002),
            weighing(3, ("b",), 2.0),
        ]
        found = reconcile(kit, [*good, weighing(4, ("a", "b"), 3.25)], {"s": SCALE})
        self.assertIs(found.agreement, Agreement.DISAGREES)
        fit = found.fits[found.suspects[0] - len(found.figures)]
        self.assertEqual(fit.measurement.id, "m4")
        self.assertAlmostEqual(fit.error, 0.25, delta=0.01)

    def test_without_redundancy_nothing_is_claimed(self) -> None:
        unknown = replace(block("a", 1.0, known=HowKnown.GUESSED), mass_u=5.0)
        found = reconcile({"a": unknown}, [weighing(0, ("a",), 1.7)], {})
        self.assertIs(found.agreement, Agreement.AGREES)
        self.assertGreater(found.figures[0].hidden, 15.0)
        self.assertIs(reconcile({"a": unknown}, [], {}).agreement, Agreement.NOTHING)

    def test_a_measured_cg_of_an_assembly_moves_the_guessed_place(self) -> None:
        """Two parts, one of a known place: c = (m1 x1 + m2 x2)/M solved for x2 by hand."""
        known = replace(block("a", 2.0), mass_u=1e-6, cg_axis_u=(1e-6, 1e-6, 1e-6))
        guessed = replace(block("b", 1.0), mass_u=1e-6, cg_axis_u=(0.02, 1e-6, 1e-6))
        m = Measurement("m", Sensed.CG, (Member("a", 0.10), Member("b", 0.40)), 0.21, 1e-6)
        found = reconcile({"a": known, "b": guessed}, [m], {})
        place = {(f.belief.part_id, f.belief.quantity): f.value for f in found.figures}
        self.assertAlmostEqual(place["b", Quantity.CG_X], (3.0 * 0.21 - 2.0 * 0.10) - 0.40, places=5)

    def test_a_belief_owes_nothing_to_the_weighings_it_is_tested_by(self) -> None:
        records = (
            Record(Quantity.MASS, 1.36, 0.027, HowKnown.SHEET),
            Record(Quantity.MASS, 1.60, 0.002, HowKnown.WEIGHED, Stamp(source=("m1",))),
        )
        part = replace(block("zoom", 1.60), mass_u=0.002, records=records)
        self.assertEqual(belief_of(part, Quantity.MASS, frozenset({"m1"})).value, 1.36)
        self.assertEqual(belief_of(part, Quantity.MASS, frozenset({"m2"})).value, 1.60)

    def test_shared_factors_give_the_covariance_back(self) -> None:
        rng = np.random.default_rng(2)
        root = rng.normal(size=(5, 5)) * 0.01
        covariance = root @ root.T
        covariance[4] = covariance[:, 4] = 0.0
        covariance[4, 4] = 0.0009
        own, factors = shared_factors(covariance)
        np.testing.assert_allclose(np.diag(own) + factors.T @ factors, covariance, atol=1e-10)
        self.assertAlmostEqual(own[4], 0.0009)
        self.assertTrue((factors[:, 4] == 0.0).all())


@campaign
class Sampling(unittest.TestCase):
    def test_jcgm_101_additive_model(self) -> None:
        """JCGM 101:2008, 9.2.2: four standard normals added, u = 2.0, 95 % interval [-3.92, 3.92]."""
        rng = np.random.default_rng(1)
        found = odds(CG_AHEAD, rng.standard_normal((400_000, 4)).sum(axis=1), 0.0, 2.0)
        self.assertAlmostEqual(found.u, 2.0, delta=0.01)
        self.assertAlmostEqual(found.low, -3.92, delta=0.03)
        self.assertAlmostEqual(found.high, 3.92, delta=0.03)
        self.assertIs(found.why, Reason.AGREES)

    def test_jcgm_101_rectangular_model(self) -> None:
        """JCGM 101:2008, 9.2.3: four rectangular ones of the same u, 95 % interval [-3.88, 3.88]."""
        rng = np.random.default_rng(1)
        values = rng.uniform(-math.sqrt(3), math.sqrt(3), (400_000, 4)).sum(axis=1)
        found = odds(CG_AHEAD, values, 0.0, 2.0)
        self.assertAlmostEqual(found.high, 3.88, delta=0.03)

    def test_jcgm_101_one_dominating_rectangle(self) -> None:
        """JCGM 101:2008, 9.2.4: the fourth ten times as wide, u = sqrt(103), interval [-17.0, 17.0] against 19.9."""
        rng = np.random.default_rng(1)
        values = rng.uniform(-math.sqrt(3), math.sqrt(3), (400_000, 4)) @ np.array([1.0, 1.0, 1.0, 10.0])
        found = odds(CG_AHEAD, values, 0.0, math.sqrt(103.0))
        self.assertAlmostEqual(found.u, math.sqrt(103.0), delta=0.04)
        self.assertAlmostEqual(found.high, 17.0, delta=0.1)
        self.assertIs(found.why, Reason.FLAT)

    def test_jcgm_101_mass_calibration(self) -> None:
        """JCGM 101:2008, 9.3: first order gives u = 0.054 mg, sampling 0.075 mg (values from memory)."""
        rng = np.random.default_rng(1)
        n = 400_000
        reference, extra = 100_000.0 + 0.050 * rng.standard_normal(n), 1.234 + 0.020 * rng.standard_normal(n)
        air, weight, known = rng.uniform(1.1, 1.3, n), rng.uniform(7000, 9000, n), rng.uniform(7950, 8050, n)
        values = (reference + extra) * (1.0 + (air - 1.2) * (1.0 / weight - 1.0 / known)) - 100_000.0
        found = odds(TOTAL_MASS, values, 1.234, math.hypot(0.050, 0.020))
        self.assertAlmostEqual(found.first_u, 0.054, places=3)
        self.assertAlmostEqual(found.u, 0.075, delta=0.001)
        self.assertAlmostEqual(found.low, 1.084, delta=0.006)
        self.assertAlmostEqual(found.high, 1.385, delta=0.006)
        self.assertFalse(found.agrees)

    def test_first_order_agrees_where_all_is_straight(self) -> None:
        book = demo_book()
        analysis = analyse(book.builds[0], book.parts, book.operators[0])
        outputs = output_model(analysis)
        found = sample(analysis, outputs, 40_000)
        for output in (CG_AHEAD, TOTAL_MASS, TIP_MOMENT, shoulder.ABOVE):
            self.assertTrue(found[output].agrees, output)
            self.assertAlmostEqual(found[output].u / found[output].first_u, 1.0, delta=0.02, msg=output)
        covariance = covariance_of(analysis, inputs_of(analysis, outputs.slide))
        self.assertAlmostEqual(math.sqrt(covariance[1, 1]), float(analysis.spread.cg[0]), places=9)
        self.assertAlmostEqual(math.sqrt(covariance[0, 0]), analysis.spread.mass, places=9)

    def test_a_balanced_rig_says_why_first_order_misleads(self) -> None:
        book = demo_book()
        analysis = analyse(book.builds[1], book.parts, book.operators[0])
        found = sample(analysis, output_model(analysis), 40_000)
        self.assertFalse(found[shoulder.MARGIN].agrees)
        self.assertIn(found[shoulder.MARGIN].why, (Reason.KINK, Reason.FOLDED, Reason.LOPSIDED))
        self.assertLessEqual(found[shoulder.MARGIN].high, 0.030 + 1e-9)

    def test_drawing_stops_when_told(self) -> None:
        book = demo_book()
        analysis = analyse(book.builds[0], book.parts, book.operators[0])
        seen: list[float] = []

        def stop_half_way(share: float) -> bool:
            seen.append(share)
            return share < 0.4

        self.assertIsNone(sample(analysis, output_model(analysis), 50_000, progress=stop_half_way))
        self.assertEqual(seen, sorted(seen))
        self.assertLess(seen[-1], 0.6)

    def test_hands_of_many_rigs_at_once_are_those_of_each_alone(self) -> None:
        """Parametric programming against the linear programme solved afresh for each draw."""
        build, kit = shoulder_build(
            (block("front", 3.0, category=Category.BODY), 0.2),
            (block("back", 1.0), -0.1),
            (grip("l"), 0.25),
            (grip("r"), 0.2),
        )
        analysis = analyse(build, kit, OPERATOR)
        posed = analysis.equilibrium.pose
        rng = np.random.default_rng(4)
        offset = np.column_stack([rng.uniform(-0.15, 0.2, 300), rng.uniform(-0.06, 0.06, 300), np.full(300, 0.1)])
        mass = analysis.body.mass * rng.uniform(0.5, 1.5, 300)
        cg = posed.pad + offset
        larger, upward = posed.statics(arms=False).forces(mass, cg)
        for k in range(0, 300, 7):
            afresh = hold(
                float(mass[k]),
                cg[k],
                [np.array(grip.at) for grip in posed.stance.grips],
                _alone(posed),
                posed.pad,
                Shoulder(),
            )
            self.assertAlmostEqual(larger[k], afresh.larger, places=6)
            self.assertAlmostEqual(upward[k], float(afresh.pad_force[2]), places=6)


def _alone(posed: Pose) -> list[tuple[Measure, ...]]:
    """Return what is asked of the arms with their own weight left out."""
    return [tuple(replace(m, own=0.0) for m in asked) for asked in posed.asked]


class Advising(unittest.TestCase):
    def setUp(self) -> None:
        book = demo_book()
        self.book = book
        self.analysis = analyse(book.builds[0], book.parts, book.operators[0])

    def test_the_promised_reduction_is_what_comes(self) -> None:
        """Measure what is advised, with the scale's uncertainty: the figure's uncertainty falls to the promised one."""
        scale = Instrument("s", "Scale", step=0.002, accuracy=0.0)
        advice = weigh_next(self.analysis, output_model(self.analysis), TOTAL_MASS, scale)[0]
        self.assertIs(advice.task, Task.RIG_MASS)
        self.assertAlmostEqual(advice.before, self.analysis.spread.mass, places=9)
        advice = weigh_next(self.analysis, output_model(self.analysis), CG_AHEAD, scale)[0]
        self.assertIs(advice.task, Task.PART_MASS)
        part = self.analysis.assembly.parts[advice.part]
        measured = replace(part, mass_u=scale.own_uncertainty(), mass_known=HowKnown.WEIGHED, shared=())
        after = analyse(self.book.builds[0], {**self.book.parts, part.id: measured}, self.book.operators[0])
        self.assertAlmostEqual(advice.before, float(self.analysis.spread.cg[0]), places=9)
        self.assertAlmostEqual(advice.after, float(after.spread.cg[0]), delta=1e-6)

    def test_no_other_single_weighing_would_take_more_a_minute(self) -> None:
        scale = Instrument("s", "Scale", step=0.002, accuracy=0.0)
        first = weigh_next(self.analysis, output_model(self.analysis), CG_AHEAD, scale)[0]
        best = first.before**2 - first.after**2
        for part in self.analysis.assembly.parts:
            if part.mass is None:
                continue
            known = replace(part, mass_u=scale.own_uncertainty(), shared=())
            other = analyse(self.book.builds[0], {**self.book.parts, part.id: known}, self.book.operators[0])
            self.assertLessEqual(first.before**2 - float(other.spread.cg[0]) ** 2, best * (1.0 + 1e-6))

    def test_weighing_the_whole_rig_leaves_the_doubt_of_the_scale(self) -> None:
        """Of two that say the same, each weighs by its 1/u^2 (JCGM 100, H): what is left is u v / hypot(u, v)."""
        scale = Instrument("s", "Scale", step=0.05, accuracy=0.0)
        build, kit = shoulder_build(*((sheet_part(f"p{k}", 1.0 + k, 0.04), 0.2 * k - 0.4) for k in range(4)))
        analysis = analyse(build, kit, OPERATOR)
        found = weigh_next(analysis, output_model(analysis), TOTAL_MASS, scale, most=1)[0]
        self.assertIs(found.task, Task.RIG_MASS)
        u, noise = analysis.spread.mass, scale.own_uncertainty()
        self.assertAlmostEqual(found.before, u, places=9)
        self.assertAlmostEqual(found.after, u * noise / math.hypot(u, noise), places=9)

    def test_it_ends_when_nothing_is_worth_the_minutes(self) -> None:
        scale = Instrument("s", "Scale", step=0.002, accuracy=0.0)
        found = weigh_next(self.analysis, output_model(self.analysis), CG_AHEAD, scale, most=50)
        self.assertLess(len(found), 50)
        self.assertEqual(len({(a.task, a.part, a.axis) for a in found}), len(found))
        for one, following in itertools.pairwise(found):
            self.assertAlmostEqual(one.after, following.before, places=12)

    def test_what_is_advised_takes_three_hundredths_of_the_doubt_and_what_is_not_takes_less(self) -> None:
        """Common practice, WORTHWHILE: each step leaves at most 97 % of the u before it; nothing left would."""
        scale = Instrument("s", "Scale", step=0.002, accuracy=0.0)
        advised = weigh_next(self.analysis, output_model(self.analysis), TOTAL_MASS, scale, most=50)
        for one in advised:
            self.assertLessEqual(one.after, 0.97 * one.before + 1e-12)
        kit = dict(self.book.parts)
        for one in advised:
            if one.part is not None:
                part = self.analysis.assembly.parts[one.part]
                kit[part.id] = replace(kit[part.id], mass_u=scale.own_uncertainty(), shared=())
        left = analyse(self.book.builds[0], kit, self.book.operators[0])
        if all(one.part is not None for one in advised):
            for part in left.assembly.parts:
                known = {**kit, part.id: replace(kit[part.id], mass_u=scale.own_uncertainty(), shared=())}
                after = analyse(self.book.builds[0], known, self.book.operators[0]).spread.mass
                self.assertGreater(after, 0.97 * left.spread.mass, part.id)

    def test_a_build_without_pad_or_mass_has_no_gauges(self) -> None:
        empty = analyse(Build("b", "b"), {}, OPERATOR)
        self.assertIsNone(output_model(empty))
