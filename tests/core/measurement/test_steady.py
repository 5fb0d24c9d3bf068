"""Steady: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from equilix.core.measurement.steady import Sample, Trace, trace_of


class Traces(unittest.TestCase):
    def test_steady_from_the_last_time_it_left_its_band(self) -> None:
        """One step each way, 2.1 s: by hand."""
        samples = [Sample(0.0, 1.50), Sample(0.5, 1.60)]
        samples += [Sample(1.0 + 0.3 * k, 1.600 + 0.004 * (k % 2)) for k in range(8)]
        trace = trace_of(0.002, samples)
        self.assertAlmostEqual(trace.steady_for, 2.6)
        self.assertTrue(trace.steady)
        self.assertEqual(trace.last, samples[-1])
        inside = [s.value for s in samples if s.time >= samples[-1].time - 2.1]
        self.assertAlmostEqual(trace.value, sum(inside) / len(inside), places=6)
        self.assertFalse(trace_of(0.0019, samples).steady)
        self.assertEqual(trace.with_sample(Sample(0.2, 9.0)).samples, (Sample(0.2, 9.0),))
        late = trace.with_sample(Sample(10.5, 1.6))
        self.assertEqual(late.samples[0].time, 2.5)
        self.assertEqual((Trace(0.002).steady_for, Trace(0.002).value, Trace(0.002).last), (0.0, None, None))


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
