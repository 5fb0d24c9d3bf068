"""Relaxations: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Placed
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Mount, MountKind
from equilix.core.solver.relaxations import relaxations
from equilix.core.solver.targets import target_of
from tests.rigs.choices import plate
from tests.rigs.people import PERSON
from tests.rigs.plain import block, grip, rail
from tests.rigs.ways import camera_at, camera_rig, moment, with_rail


class FallingShort(unittest.TestCase):
    def test_what_would_do_is_for_what_lies_farthest_off_in_tolerances(self) -> None:
        """Stages with carts at their stops: more travel fore and aft, or sideways, whichever form is off by more."""
        lane = replace(rail("lane", 0.5, (0.0, 1.0, 0.0)), low=0.0, high=0.5)
        kit = {"base": plate(lane, rail_ends=(0.0, 0.5), mass=3.0), "side": block("side", 1.0, (0.05, 0.05, 0.05))}
        kit |= {"ahead": block("ahead", 1.0, (0.05, 0.05, 0.05)), "grip": grip("grip")}
        build = Build(
            "b",
            "b",
            (
                Placed("base", "base"),
                Placed("ahead", "ahead", "base", "rail"),
                Placed("side", "side", "base", "lane"),
            ),
        )
        seen = set()
        for tip, aside in ((0.25, 0.10), (0.012, 0.35), (0.02, 0.30), (0.02, 0.45), (0.015, 0.20), (0.015, 0.28)):
            heavy = Mount("heavy", MountKind.QUARTER_20, (tip, aside, 0.1))
            there = kit | {"base": replace(kit["base"], mounts=(*kit["base"].mounts, heavy))}
            there["load"] = block("load", 1.0, (0.05, 0.05, 0.05), kind=MountKind.QUARTER_20)
            after = analyse(
                replace(build, parts=(*build.parts, Placed("load", "load", "base", "heavy"))), there, PERSON
            )
            target = target_of(after)
            off = {
                form.name: (abs(1.0 * float(form.direction @ [tip, aside, 0.0])) - target.allowed(form))
                / target.allowed(form)
                for form in target.forms
            }
            worst = max(off, key=off.__getitem__)
            found = relaxations(after, 1.0 * tip, target)
            self.assertTrue(found)
            self.assertEqual({one.placed_id for one in found if one.travel}, {"ahead" if worst == "tip" else "side"})
            seen.add(worst)
        self.assertEqual(seen, {"tip", "aside"})


class WhatWouldDo(unittest.TestCase):
    def short(self, travel: float = 0.02) -> Analysis:
        """Return a rig whose camera stands at its stop and still tips forward."""
        build, kit = camera_rig(travel)
        found = analyse(camera_at(build, -travel), kit, PERSON)
        self.assertGreater(moment(found), 0.9)
        return found

    def test_more_travel_levels_it_just_so(self) -> None:
        after = self.short()
        ways = {(r.placed_id, r.travel > 0.0): r for r in relaxations(after, moment(after) / STANDARD_GRAVITY)}
        travel = ways["camera", True].travel
        farther = camera_at(after.build, after.build.placed("camera").setting - travel)
        self.assertAlmostEqual(
            moment(analyse(farther, with_rail(dict(after.assembly.kit), -0.5, 0.5), PERSON)), 0.0, places=9
        )

    def test_less_mass_where_the_arm_is_longest(self) -> None:
        after = self.short()
        lacking = 0.3 * 1.2 * float((after.positions.cg[-1] - after.equilibrium.point)[0])
        lens = next(r for r in relaxations(after, lacking) if r.lighter > 0.0)
        self.assertEqual(lens.placed_id, "lens")
        self.assertAlmostEqual(lens.lighter, 0.3 * 1.2)
        lighter = {**after.assembly.kit, "lens": replace(after.assembly.kit["lens"], mass=1.2 - lens.lighter)}
        saved = moment(after) - moment(analyse(after.build, lighter, PERSON))
        self.assertAlmostEqual(saved, lacking * STANDARD_GRAVITY)
        # No part gets lighter than nothing, and nobody finds more than 300 mm of travel.
        self.assertFalse([r for r in relaxations(after, 1.01 * lacking / 0.3) if r.lighter > 0.0])
        slope = 4.2
        self.assertTrue([r for r in relaxations(after, 0.299 * slope) if r.travel > 0.0])
        self.assertFalse([r for r in relaxations(after, 0.301 * slope) if r.travel > 0.0])

    def test_a_slide_that_has_room_left_needs_no_more(self) -> None:
        build, kit = camera_rig(0.1)
        after = analyse(build, kit, PERSON)
        self.assertFalse([r for r in relaxations(after, 0.1) if r.travel > 0.0])
        # At the other stop more travel that way would only tip it more.
        forward = analyse(camera_at(build, 0.1), kit, PERSON)
        self.assertFalse([r for r in relaxations(forward, 0.1) if r.travel > 0.0])

    def test_a_rig_that_tips_back_asks_for_the_other_end(self) -> None:
        build, kit = camera_rig(0.02, (block("power", 6.0), -0.3))
        after = analyse(camera_at(build, 0.02), kit, PERSON)
        self.assertLess(moment(after), 0.0)
        travel = next(r for r in relaxations(after, 0.42) if r.travel > 0.0)
        self.assertEqual((travel.placed_id, round(travel.travel, 9)), ("camera", 0.1))
