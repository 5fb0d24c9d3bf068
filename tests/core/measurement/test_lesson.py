"""Lesson: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np

from equilix.core.analyse import analyse
from equilix.core.uncertainty.output_model import lessons, output_model
from equilix.io.shipped import demo_book
from equilix.supports.vest import mechanics as vest
from equilix.supports.vest import outputs
from equilix.supports.vest.hanging import VestCase
from equilix.supports.vest.settings import Timed
from equilix.supports.vest.timing import BY_HAND
from tests.rigs.people import PERSON
from tests.rigs.sleds import with_lesson


class Learned(unittest.TestCase):
    def sled(self, tries: tuple[float, ...], pitch: float | None = None, roll: float | None = None) -> VestCase:
        book = demo_book()
        build = book.build("sled-zoom")
        mass = analyse(build, dict(book.parts), PERSON).body.mass
        timed = with_lesson(build, Timed(tries, mass, pitch, roll))
        return vest.SUPPORT.case(analyse(timed, dict(book.parts), PERSON))

    def test_the_doubt_of_a_timed_drop(self) -> None:
        """Of n tries: their scatter over the root of n, GUM 4.2.3, and what one hand is late by in all of them."""
        for tries, unsure in (((1.0, 1.6), math.hypot(BY_HAND, 0.3)), ((1.2,), BY_HAND), ((1.2,) * 20, BY_HAND)):
            observed = dict(vest.SUPPORT.observed(self.sled(tries)))
            self.assertAlmostEqual(observed[outputs.DROP], unsure, places=9)

    def test_lessons_one_after_the_other_are_worth_all_at_once(self) -> None:
        """What is left of a covariance: C - C H^T (H C H^T + R)^-1 H C, all rows of H at once."""
        found = self.sled((2.6, 2.7, 2.5), 0.02, 0.01)
        computed = output_model(found.analysis)
        assert computed is not None
        covariance = computed.covariance()
        left, rows, uncertainties = covariance, [], []
        for gain, gradient, u in lessons(computed, covariance):
            left = left - np.outer(gain, gradient @ left)
            rows.append(gradient)
            uncertainties.append(u * u)
        self.assertEqual(len(rows), 3)
        h = np.array(rows)
        within = h @ covariance @ h.T + np.diag(uncertainties)
        wanted = covariance - covariance @ h.T @ np.linalg.solve(within, h @ covariance)
        size = np.sqrt(np.diag(covariance))
        np.testing.assert_allclose(left / np.outer(size, size), wanted / np.outer(size, size), atol=1e-9)
        # And each figure that was read is surer than before, and than the reading alone.
        for output, u in vest.SUPPORT.observed(found):
            self.assertLess(computed.firsts([output])[output][1], u)
