"""Limits: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.assembly.build import Hold
from equilix.core.errors import AssemblyError
from equilix.core.limits import MAX_NAME, check_count, check_line, check_text, shortened
from equilix.supports.shoulder.settings import ShoulderSettings
from tests.rigs.people import PERSON


class Bounds(unittest.TestCase):
    def test_what_is_taken_and_what_is_refused(self) -> None:
        """Just inside and just outside of each bound; the sentence names the field."""
        for make, good, bad, word in (
            (lambda v: Hold(thickness=v), 0.080, 0.081, "thickness"),
            (lambda v: Hold(thickness=v), 0.010, 0.009, "thickness"),
            (lambda v: ShoulderSettings(friction=v), 2.0, 2.01, "friction"),
            (lambda v: ShoulderSettings(friction=v), 0.0, -0.01, "friction"),
            (lambda v: replace(PERSON, strength=v), 3.0, 3.01, "Strength"),
            (lambda v: replace(PERSON, strength=v), 0.2, 0.19, "Strength"),
            (lambda v: replace(PERSON, stature=v), 2.3, 2.31, "Height"),
            (lambda v: replace(PERSON, stature=v), 1.2, 1.19, "Height"),
            (lambda v: replace(PERSON, body_mass=v), 250.0, 251.0, "mass"),
            (lambda v: replace(PERSON, body_mass=v), 30.0, 29.0, "mass"),
        ):
            make(good)
            with self.assertRaisesRegex(AssemblyError, word):
                make(bad)


class Names(unittest.TestCase):
    def test_a_long_name_keeps_room_for_what_comes_behind(self) -> None:
        self.assertEqual(shortened("Rig"), "Rig")
        self.assertEqual(shortened("Rig", ", copy"), "Rig, copy")
        long = shortened("x" * 300, ", copy")
        self.assertEqual(len(long), MAX_NAME)
        self.assertTrue(long.endswith("x, copy"))
        self.assertEqual(shortened("y" * MAX_NAME), "y" * MAX_NAME)
        # As the format's own page says: docs/format.md.
        for check, most in ((check_line, 200), (check_text, 5_000)):
            check("z" * most, "It")
            with self.assertRaisesRegex(AssemblyError, f"more than {most} characters"):
                check("z" * (most + 1), "It")
        check_count(range(5), 5, "Things")
        with self.assertRaisesRegex(AssemblyError, "6 is too many. At most 5"):
            check_count(range(6), 5, "Things")
