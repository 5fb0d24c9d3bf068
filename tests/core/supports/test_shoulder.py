"""Shoulder: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Side
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.operator.body import body_of
from equilix.core.solver.relaxations import relaxations
from equilix.core.support import report_of
from tests.rigs.people import PERSON
from tests.rigs.plain import block, shoulder_build
from tests.rigs.supports import rig_on_a_sliding_pad
from tests.rigs.ways import moment


class Pads(unittest.TestCase):
    def test_a_pad_at_its_stop_says_how_much_more_travel_levels_the_rig(self) -> None:
        build, kit = rig_on_a_sliding_pad(0.02)
        after = analyse(build, kit, PERSON)
        self.assertGreater(moment(after), 0.5)
        more = {r.placed_id: r.travel for r in relaxations(after, moment(after) / STANDARD_GRAVITY) if r.travel > 0.0}
        self.assertIn("pad", more)
        longer = {m.id: replace(m, high=0.5) if m.id == "below" else m for m in kit["base"].mounts}
        kit["base"] = replace(kit["base"], mounts=tuple(longer.values()))
        moved = build.with_placed(replace(build.placed("pad"), setting=0.02 + more["pad"]))
        self.assertAlmostEqual(moment(analyse(moved, kit, PERSON)), 0.0, places=9)

    def test_the_doubt_of_the_moment_sideways_counts_from_the_pad(self) -> None:
        """M = sum m g (y - pad), by hand: a part weighed to u_m gives g (y - pad) u_m, its CG gives m g u_y."""
        build, kit = shoulder_build((replace(block("camera", 3.0), mass_u=0.05, cg_u=0.004), 0.02))
        contact = replace(kit["base"].mounts[0], at=(0.0, 0.05, 0.0))
        kit["base"] = replace(kit["base"], mounts=(contact, *kit["base"].mounts[1:]), mass_u=0.03, cg_u=0.002)
        found = analyse(build, kit, PERSON)
        judged = report_of(found, PERSON).figures["roll_moment_nm"]
        by_mass = math.hypot(0.05 * 0.05, 0.03 * 0.05)
        by_place = math.hypot(3.0 * 0.004, 1.0 * 0.002)
        self.assertAlmostEqual(judged.uncertainty, STANDARD_GRAVITY * math.hypot(by_mass, by_place), delta=1e-6)
        self.assertAlmostEqual(judged.value, 4.0 * STANDARD_GRAVITY * 0.05, places=9)

    def test_a_pad_on_the_left_shoulder_stands_as_far_out(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        spots = []
        for side in Side:
            operator = replace(PERSON, shoulder=side)
            spots.append(analyse(build, kit, operator).equilibrium.pose.stance.pad)
        self.assertEqual(spots[0][1], -spots[1][1])
        self.assertEqual(spots[0][::2], spots[1][::2])
        self.assertAlmostEqual(spots[0][2], body_of(PERSON).shoulder_right[2])
