"""Heavier, farther, longer is never told to last longer, on any support: asked of the figures that are shown."""

from __future__ import annotations

import math
import unittest
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Hold, Kit, Operator
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import with_settings
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Part
from equilix.core.operator.endurance import hold_time
from equilix.core.operator.strength import BodyJoint
from equilix.core.registry import support_for
from equilix.io.shipped import catalogue, demo_book, starters
from equilix.present.carry.carry_view import shown_times
from equilix.supports.harness.settings import HarnessSettings
from equilix.supports.vest.settings import VestSettings
from tests.campaigns import campaign

MAN = Operator("o", "Man")


def weighing(kit: Kit, factor: float) -> Kit:
    """Return the kit with every mass multiplied."""
    return {i: replace(part, mass=None if part.mass is None else part.mass * factor) for i, part in kit.items()}


def rigs() -> list[tuple[Build, dict[str, Part]]]:
    book, shop = demo_book(), {part.id: part for part in catalogue()}
    return [(book.builds[k], book.parts) for k in (0, 1, 3, 6)] + [(starters()[k], shop) for k in (2, -1)]


@campaign
class MoreIsNeverBetter(unittest.TestCase):
    def never_rises(self, carried: list[Carry], said: object) -> None:
        """Check each shown time against that of the rig before it."""
        for before, after in pairwise(carried):
            was, now = shown_times(before), shown_times(after)
            for what in was.keys() & now.keys():
                self.assertLessEqual(now[what], was[what] * (1.0 + 1e-6), (said, what))

    def test_mass_from_1_to_16_kg_on_every_support(self) -> None:
        for build, kit in rigs():
            for key in KEYS:
                on_it = replace(build, support=key)
                mass = analyse(on_it, kit, MAN).body.mass
                found = []
                for kg in (1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.5, 11.0, 13.0, 16.0):
                    heavier = weighing(kit, kg / mass)
                    one = carry(analyse(on_it, heavier, MAN), MAN, support_for(key).carrier(on_it))
                    found += [one] if isinstance(one, Carry) else []
                self.never_rises(found, (build.name, key))
                times = [one.to_the_end for one in found if not one.bound]
                self.assertEqual(sorted(times, reverse=True), times)

    def test_distance_ahead(self) -> None:
        """A cable or an arm that reaches farther, hands that are held farther out."""
        book = demo_book()
        for key, settings in (
            ("harness", [HarnessSettings(reach=x) for x in np.linspace(0.25, 0.9, 8)]),
            ("vest", [VestSettings(reach=x) for x in np.linspace(0.2, 0.9, 8)]),
        ):
            build = replace(book.builds[0], support=key)
            found = [carry(analyse(with_settings(build, one), book.parts, MAN), MAN, key) for one in settings]
            # Which joint of an arm bears more goes by where the hand is: the whole, and what comes of it, never gains.
            for times in ([one.to_the_end for one in found], [one.safe for one in found]):
                self.assertEqual(sorted(times, reverse=True), times, key)
        build = replace(book.builds[0], support="handheld")
        holds = [Hold(ahead=x, below=0.25) for x in np.linspace(0.34, 0.52, 6)]
        analysis = analyse(build, book.parts, MAN)
        ends = [carry(analysis, MAN, "handheld", hold).to_the_end for hold in holds]
        self.assertEqual(sorted(ends, reverse=True), ends)

    def test_a_bound_tells_rigs_apart_and_falls_with_the_share(self) -> None:
        """Below 15 % no rule was fitted: a bound, never a constant."""
        for joint in BodyJoint:
            shares = np.linspace(0.01, 0.99, 400)
            for end in ("low", "likely", "high"):
                times = [getattr(hold_time(joint, float(share)), end) for share in shares]
                falls = [b < a or a == b == 0.0 or (math.isinf(a) and math.isinf(b)) for a, b in pairwise(times)]
                self.assertTrue(all(falls), (joint, end))
            self.assertTrue(math.isfinite(hold_time(joint, 0.02).low))

    def test_headline_safe_take_and_order_come_from_one_end_of_one_joint(self) -> None:
        book = demo_book()
        for build in book.builds:
            for key in KEYS:
                on_it = replace(build, support=key)
                one = carry(analyse(on_it, book.parts, MAN), MAN, support_for(key).carrier(on_it))
                if isinstance(one, Carry):
                    self.assertIs(one.worst, min(one.joints, key=lambda j: (j.hold.low, -j.share)))
                    self.assertEqual(one.to_the_end, one.worst.hold.low)
                    self.assertLessEqual(one.safe, 0.5 * one.to_the_end)
                    self.assertEqual(one.bound, one.worst.share < 0.15)
