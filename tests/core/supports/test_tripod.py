"""Tripod: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Placed
from equilix.core.chosen import with_settings
from equilix.core.kit.parts import Category, Mount, MountKind, Part
from equilix.supports.tripod.mechanics import plate_marks, slid_to
from equilix.supports.tripod.settings import TripodSettings
from equilix.supports.tripod.table import nearest_step
from tests.rigs.people import PERSON
from tests.rigs.plain import block, shoulder_build


class Heads(unittest.TestCase):
    def test_a_head_with_one_step_is_on_or_off(self) -> None:
        one = TripodSettings(counter=20.0, steps=1.0)
        self.assertEqual([nearest_step(wants, one) for wants in (-3.0, 9.0, 11.0, 30.0)], [0.0, 0.0, 20.0, 20.0])
        self.assertEqual(nearest_step(-3.0, TripodSettings(counter=20.0)), 0.0)


class PlateMarks(unittest.TestCase):
    def rig(self, *batteries: Part) -> tuple[Build, dict[str, Part]]:
        nose = Mount("nose", MountKind.LENS_MOUNT, (0.1, 0.0, 0.0))
        camera = block("camera", 3.0, (0.2, 0.1, 0.14), Category.BODY, mounts=(nose,), at=(0.0, 0.0, -0.08))
        lens = block("lens", 1.1, (0.16, 0.09, 0.09), Category.LENS, kind=MountKind.LENS_MOUNT, at=(-0.08, 0.0, 0.0))
        build, kit = shoulder_build((camera, 0.02), *((part, -0.2) for part in batteries[:1]))
        kit |= {part.id: part for part in (lens, *batteries)}
        parts = (*build.parts, Placed("lens", "lens", "camera", "nose"))
        return with_settings(replace(build, parts=parts, support="tripod"), TripodSettings(travel=0.4)), kit

    def test_every_battery_that_fits_has_marks_of_its_own(self) -> None:
        small = block("small", 0.6, (0.06, 0.1, 0.1), Category.BATTERY, at=(0.0, 0.0, -0.06))
        large = replace(small, id="large", name="large", mass=1.4)
        build, kit = self.rig(small, large)
        marks = {
            mark.battery: mark.mark for mark in plate_marks(analyse(build, kit, PERSON), kit, PERSON) if not mark.bare
        }
        self.assertEqual(set(marks), {"small", "large"})
        for battery, mark in marks.items():
            swapped = build.with_placed(replace(build.placed("small"), part_id=battery))
            self.assertAlmostEqual(analyse(slid_to(swapped, mark), kit, PERSON).equilibrium.ahead, 0.0, places=9)
        # A heavier pack behind takes the camera forward in its clamp.
        self.assertGreater(marks["large"], marks["small"])

    def test_a_rig_without_a_battery_has_marks_too(self) -> None:
        build, kit = self.rig()
        (mark,) = {(m.battery, m.mark) for m in plate_marks(analyse(build, kit, PERSON), kit, PERSON) if not m.bare}
        self.assertEqual(mark[0], "")
        self.assertAlmostEqual(analyse(slid_to(build, mark[1]), kit, PERSON).equilibrium.ahead, 0.0, places=9)
        spare = block("spare", 0.6, (0.06, 0.1, 0.1), Category.BATTERY)
        again = plate_marks(analyse(build, {**kit, "spare": spare}, PERSON), {**kit, "spare": spare}, PERSON)
        self.assertEqual({m.battery for m in again}, {""})
