"""Kinds: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from equilix.core.kit.kinds import TYPICAL, odd_mass, odd_size
from equilix.core.kit.parts import Category
from equilix.document.typical_parts import part_kind
from equilix.io.shipped import catalogue


class Kinds(unittest.TestCase):
    def test_usual_figures_are_those_of_parts_that_are_sold(self) -> None:
        """Every part of the catalogue of its kind lies within the factor from which one is asked."""
        for part in catalogue():
            usual, size = TYPICAL[part.category][0], part_kind(part.category, part.name).size
            if part.mass is not None and part.category is not Category.OTHER:
                self.assertFalse(odd_mass(part.category, part.mass), part.name)
                self.assertTrue(usual / 15.0 <= part.mass <= usual * 15.0)
            if part.outline is not None:
                self.assertFalse(odd_size(part.outline.size), part.name)
                self.assertLess(max(size) / 1000.0 / max(part.outline.size), 6.0, part.name)

    def test_what_is_a_thousand_times_off_is_odd(self) -> None:
        for category in Category:
            usual, _ = TYPICAL[category]
            self.assertTrue(odd_mass(category, usual * 1000.0))
            self.assertTrue(odd_mass(category, 0.0))
            self.assertFalse(odd_mass(category, usual))
        self.assertFalse(odd_mass(Category.OTHER, 29.0))
        # Just at a bound nothing is asked.
        self.assertFalse(odd_mass(Category.OTHER, 30.0))
        self.assertFalse(odd_mass(Category.BODY, TYPICAL[Category.BODY][0] * 15.0))
        self.assertFalse(odd_mass(Category.BODY, TYPICAL[Category.BODY][0] / 15.0))
        self.assertFalse(odd_size((0.0005, 0.1, 1.5)))
        self.assertTrue(odd_mass(Category.OTHER, 31.0))
        usual, _ = TYPICAL[Category.BODY]
        self.assertFalse(odd_mass(Category.BODY, usual * 14.9))
        self.assertTrue(odd_mass(Category.BODY, usual * 15.1))
        self.assertTrue(odd_mass(Category.BODY, usual / 15.1))
        self.assertTrue(odd_size((0.1, 0.1, 100.0)))
        self.assertTrue(odd_size((0.1, 0.0001, 0.1)))
        self.assertFalse(odd_size((0.0006, 0.1, 1.49)))
