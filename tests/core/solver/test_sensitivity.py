"""Sensitivity: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.solver.sensitivity import influences
from tests.rigs.people import PERSON
from tests.rigs.plain import block, shoulder_build
from tests.rigs.ways import camera_at, camera_rig, moment, with_rail


class Sways(unittest.TestCase):
    def test_by_how_far_a_mark_moves_if_a_part_is_as_heavy_as_it_may_be(self) -> None:
        """Solved anew with the mass two standard uncertainties off; first order, so to a few per cent."""
        for at in (-0.2, 0.3):
            build, kit = camera_rig(0.5, (block("guess", 0.8, known=HowKnown.GUESSED), at))
            found = analyse(build, kit, PERSON)
            influence = {s.part: s for s in influences(found)}
            for k, part in enumerate(found.assembly.parts):
                u = math.hypot(found.assembly.uncertainties.mass[k], *found.assembly.uncertainties.gain[:, k])
                marks = []
                for sign in (-1.0, 1.0):
                    other = analyse(build, {**kit, part.id: replace(part, mass=part.mass + 2.0 * sign * u)}, PERSON)
                    on_it = [k for k, p in enumerate(other.assembly.parts) if p.id in ("camera", "lens")]
                    marks.append(0.08 - moment(other) / STANDARD_GRAVITY / float(other.assembly.mass[on_it].sum()))
                by_hand = abs(marks[1] - marks[0]) / 2.0
                if by_hand < 0.00095:
                    self.assertNotIn(k, influence)
                elif by_hand > 0.00105:
                    self.assertAlmostEqual(influence[k].shift / by_hand, 1.0, delta=0.05)
            shifts = [s.shift for s in influences(found)]
            self.assertEqual(shifts, sorted(shifts, reverse=True))

    def test_whether_the_slide_may_then_fall_short(self) -> None:
        build, kit = camera_rig(0.5, (block("guess", 0.8, known=HowKnown.GUESSED), 0.3))
        found = analyse(build, kit, PERSON)
        mark = 0.08 - moment(found) / STANDARD_GRAVITY / 4.2
        shift = influences(found)[0].shift
        for beyond, flips in ((1.2, False), (0.8, True), (-0.8, True), (-1.2, False)):
            low = mark - beyond * shift
            again = influences(analyse(camera_at(build, max(0.08, low)), with_rail(kit, low, 0.5), PERSON))[0]
            self.assertEqual(again.flips, flips, beyond)


class SwaysMore(unittest.TestCase):
    def test_what_a_part_weighed_badly_moves_the_mark_by(self) -> None:
        """Both ways by two of its own standard uncertainties, the mark solved anew each time."""
        build, kit = shoulder_build((block("camera", 3.0, category=Category.BODY), 0.08), (block("power", 1.5), -0.3))
        kit["power"] = replace(kit["power"], mass_u=0.08)
        found = analyse(build, kit, PERSON)
        influence = {s.part: s.shift for s in influences(found)}
        marks = []
        for sign in (-1.0, 1.0):
            other = analyse(build, {**kit, "power": replace(kit["power"], mass=1.5 + 2.0 * sign * 0.08)}, PERSON)
            marks.append(0.08 - moment(other) / STANDARD_GRAVITY / 3.0)
        power = next(k for k, placed in enumerate(found.build.parts) if placed.id == "power")
        self.assertAlmostEqual(influence[power] / (abs(marks[1] - marks[0]) / 2.0), 1.0, delta=0.02)
