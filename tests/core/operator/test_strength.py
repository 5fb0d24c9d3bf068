"""Strength: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

from msgspec.structs import replace
from scipy.stats import norm

from equilix.core.assembly.build import Sex
from equilix.core.operator.endurance import (
    POWER_LAW,
    HoldTime,
    hold_time,
)
from equilix.core.operator.fatigue import RATES, REST_FACTOR
from equilix.core.operator.strength import BodyJoint, capacity, percentile_factor, squeeze_factor
from tests.rigs.people import LEFT_HANDED, MAN, WOMAN


class Strength(unittest.TestCase):
    def test_means_of_men_and_women(self) -> None:
        """Vasavada (2001), Delp (1996), Mathiowetz (1985), Stobbe (1982); all from memory."""
        rows = {
            BodyJoint.NECK: (52.0, 21.0),
            BodyJoint.WRIST: (11.0, 6.6),
            BodyJoint.HAND: (540.0, 320.0),
            BodyJoint.LOW_BACK: (234.0, 184.0),
            BodyJoint.HIP: (190.0, 97.0),
        }
        for joint, (men, women) in rows.items():
            self.assertEqual(capacity(MAN, joint), men)
            self.assertEqual(capacity(LEFT_HANDED, joint), women)

    def test_percentiles_meet_the_tables_fifth_and_ninety_fifth(self) -> None:
        """Chaffin and Andersson after Stobbe, from memory; joints without rows by 30 % as a lognormal."""
        without = math.exp(0.30 * norm.ppf(0.95))
        for joint, sex, low, high in (
            (BodyJoint.ELBOW, Sex.MALE, 42 / 77, 111 / 77),
            (BodyJoint.ELBOW, Sex.FEMALE, 16 / 41, 55 / 41),
            (BodyJoint.SHOULDER, Sex.MALE, 43 / 71, 101 / 71),
            (BodyJoint.SHOULDER, Sex.FEMALE, 15 / 37, 57 / 37),
            (BodyJoint.LOW_BACK, Sex.MALE, 164 / 234, 503 / 234),
            (BodyJoint.LOW_BACK, Sex.FEMALE, 71 / 184, 332 / 184),
            (BodyJoint.HAND, Sex.MALE, 380 / 540, 540 / 380),
            (BodyJoint.HAND, Sex.FEMALE, 220 / 320, 320 / 220),
            *(
                (joint, sex, 1.0 / without, without)
                for joint in (BodyJoint.NECK, BodyJoint.WRIST, BodyJoint.HIP)
                for sex in (Sex.MALE, Sex.FEMALE)
            ),
        ):
            self.assertAlmostEqual(percentile_factor(joint, 5.0, sex), low, delta=2e-4)
            self.assertAlmostEqual(percentile_factor(joint, 95.0, sex), high, delta=2e-4)
            # Between, the lognormal's own quantiles.
            for percentile, end in ((20.0, low), (80.0, high)):
                share = abs(norm.ppf(percentile / 100.0)) / norm.ppf(0.95)
                self.assertAlmostEqual(percentile_factor(joint, percentile, sex), end**share, delta=1e-4)
        self.assertAlmostEqual(percentile_factor(BodyJoint.NECK, 84.1345, Sex.MALE), math.exp(0.30), delta=1e-4)
        both = percentile_factor(BodyJoint.ELBOW, 5.0, Sex.UNSAID)
        self.assertAlmostEqual(both, math.sqrt(42 / 77 * 16 / 41), delta=2e-4)
        weak = replace(MAN, percentile=5.0)
        self.assertAlmostEqual(capacity(weak, BodyJoint.HAND) / 540.0, 380 / 540, delta=2e-4)
        unsaid = replace(weak, sex=Sex.UNSAID)
        self.assertAlmostEqual(capacity(unsaid, BodyJoint.LOW_BACK), math.sqrt(164.0 * 71.0), delta=0.02)
        # At right angles, and hanging, where nothing else is said.
        self.assertEqual(capacity(MAN, BodyJoint.ELBOW), capacity(MAN, BodyJoint.ELBOW, math.pi / 2, 0.0))

    def test_squeeze_about_the_best_thickness(self) -> None:
        """Kong and Lowe (2005), from memory: best at 0.197 of the hand, a fifth lost at half of it (assumed)."""
        for hand in (0.17, 0.19, 0.2):
            best = 0.197 * hand
            self.assertAlmostEqual(squeeze_factor(best, hand), 1.0)
            for off in (0.5, 1.5):
                self.assertAlmostEqual(squeeze_factor(off * best, hand), 0.8)
            self.assertAlmostEqual(squeeze_factor(0.75 * best, hand), 1.0 - 0.8 / 16.0)
            # Some squeeze is always left.
            for off in (0.0, 2.5, 3.0):
                self.assertAlmostEqual(squeeze_factor(off * best, hand), 0.4)


class StrengthMore(unittest.TestCase):
    def test_regressions_away_from_a_right_angle(self) -> None:
        """Chaffin and Andersson after Stobbe (1982), from memory: worked out by hand at an included angle of 120."""
        bent, raised = math.radians(60.0), math.radians(30.0)
        elbow = (336.29 + 1.544 * 120 - 0.0085 * 120**2 - 0.5 * 30) * 0.1913
        shoulder = (227.338 + 0.525 * 120 - 0.296 * 30) * 0.1495
        self.assertAlmostEqual(capacity(MAN, BodyJoint.ELBOW, bent, raised), elbow)
        self.assertAlmostEqual(capacity(WOMAN, BodyJoint.SHOULDER, bent, raised), shoulder)
        self.assertEqual(capacity(replace(MAN, grip_strength=431.0, strength=2.0), BodyJoint.HAND), 431.0)
        said = replace(MAN, sex=Sex.UNSAID)
        self.assertAlmostEqual(capacity(said, BodyJoint.HIP), math.sqrt(190.0 * 97.0))
        self.assertAlmostEqual(capacity(replace(MAN, strength=1.5), BodyJoint.NECK), 1.5 * 52.0)

    def test_what_was_not_measured_stands_in_by_its_neighbour(self) -> None:
        """Wrist as hand, neck and hip as trunk; factors at rest 30 for shoulder and hand: Looft (2018), memory."""
        self.assertEqual(RATES[BodyJoint.WRIST], RATES[BodyJoint.HAND])
        self.assertEqual({RATES[j] for j in (BodyJoint.NECK, BodyJoint.HIP, BodyJoint.LOW_BACK)}, {(0.00755, 0.00075)})
        self.assertEqual(RATES[BodyJoint.HAND], (0.0098, 0.00064))
        self.assertEqual(POWER_LAW[BodyJoint.WRIST], POWER_LAW[BodyJoint.HAND])
        self.assertEqual({POWER_LAW[j] for j in (BodyJoint.NECK, BodyJoint.HIP, BodyJoint.LOW_BACK)}, {(22.69, -2.27)})
        long = {BodyJoint.SHOULDER, BodyJoint.HAND, BodyJoint.WRIST}
        self.assertEqual({j: REST_FACTOR[j] for j in BodyJoint}, {j: 30.0 if j in long else 15.0 for j in BodyJoint})

    def test_band_of_a_holding_time(self) -> None:
        """Frey-Law and Avin (2010), t = b0 f^b1; a capacity off by 30 % each way."""
        found = hold_time(BodyJoint.LOW_BACK, 0.5)
        self.assertAlmostEqual(found.by_power, 22.69 * 0.5**-2.27)
        self.assertLess(found.low, found.likely)
        self.assertAlmostEqual(found.low, hold_time(BodyJoint.LOW_BACK, 0.5 / 0.7).likely)
        self.assertAlmostEqual(found.high, hold_time(BodyJoint.LOW_BACK, 0.5 / 1.3).likely)
        bound = hold_time(BodyJoint.LOW_BACK, 0.05)
        self.assertTrue(bound.beyond)
        self.assertLess(hold_time(BodyJoint.LOW_BACK, 0.10).low, bound.low)
        self.assertIsInstance(bound, HoldTime)
