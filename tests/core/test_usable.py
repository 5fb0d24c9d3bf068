"""What makes a rig unusable or asks for care, against sums by hand, however the tree is told."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, Finding, FindingKind, leading, warnings_of
from equilix.core.assembly.build import Build, Operator, Placed
from equilix.core.assembly.tree_order import reroot
from equilix.core.chosen import with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Mount, MountKind, Part
from equilix.core.operator.body import body_of
from equilix.core.statics.screws import one_screws
from equilix.io.shipped import demo_book
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.gimbal.settings import CARRIERS
from equilix.supports.vest import mechanics as vest
from tests.rigs.plain import block, grip, rail, shoulder_build

MAN = Operator("m", "Man", stature=1.75, body_mass=75.0)
FLANGE = Mount("flange", MountKind.LENS_MOUNT, (0.05, 0.0, 0.0))


def of_kind(analysis: Analysis, kind: FindingKind) -> list[Finding]:
    return [finding for finding in analysis.findings if finding.kind is kind]


class HeavyLens(unittest.TestCase):
    def rig(self, mass: float, length: float, *more: Part) -> tuple[Build, dict[str, Part]]:
        body = block("body", 2.0, (0.1, 0.1, 0.1), Category.BODY, mounts=(FLANGE,))
        lens = block(
            "lens", mass, (length, 0.1, 0.1), Category.LENS, kind=MountKind.LENS_MOUNT, at=(-length / 2.0, 0.0, 0.0)
        )
        build, kit = shoulder_build((body, 0.0), *((part, 0.3) for part in more))
        return replace(build, parts=(*build.parts, Placed("lens", "lens", "body", "flange"))), {**kit, "lens": lens}

    def test_its_weight_times_its_lever_bends_the_mount(self) -> None:
        """Statics: m g l/2 of a lens of even mass; the limit is the user's."""
        build, kit = self.rig(2.5, 0.2)
        (found,) = of_kind(analyse(build, kit, MAN), FindingKind.HEAVY_LENS)
        self.assertEqual(found.placed_ids, ("lens",))
        self.assertAlmostEqual(found.amount, 2.5 * STANDARD_GRAVITY * 0.1)
        self.assertEqual(of_kind(analyse(replace(build, mount_limit=2.6), kit, MAN), FindingKind.HEAVY_LENS), [])

    def test_however_the_tree_is_told(self) -> None:
        build, kit = self.rig(2.5, 0.2)
        (usual,) = of_kind(analyse(build, kit, MAN), FindingKind.HEAVY_LENS)
        for root in ("body", "lens"):
            (found,) = of_kind(analyse(reroot(build, root), kit, MAN), FindingKind.HEAVY_LENS)
            self.assertEqual(found.placed_ids, usual.placed_ids)
            self.assertAlmostEqual(found.amount, usual.amount, places=12)

    def test_a_light_one_and_one_with_a_support_are_no_worry(self) -> None:
        build, kit = self.rig(0.8, 0.12)
        self.assertEqual(of_kind(analyse(build, kit, MAN), FindingKind.HEAVY_LENS), [])
        held = block("cradle", 0.1, (0.02, 0.02, 0.02), Category.LENS_SUPPORT)
        build, kit = self.rig(2.5, 0.2, held)
        self.assertEqual(of_kind(analyse(build, kit, MAN), FindingKind.HEAVY_LENS), [])


class Screws(unittest.TestCase):
    def test_a_screw_bears_what_is_beyond_it_however_the_tree_is_told(self) -> None:
        seat = Mount("seat", MountKind.QUARTER_20, (0.0, 0.0, 0.01))
        tall = block("tall", 6.0, (0.08, 0.08, 0.6), kind=MountKind.QUARTER_20, at=(0.0, 0.0, -0.3))
        plate = block("plate", 0.2, (0.1, 0.1, 0.02), Category.PLATE, mounts=(seat, rail()))
        kit = {"tall": tall, "plate": plate}
        build = Build("b", "b", (Placed("plate", "plate"), Placed("tall", "tall", "plate", "seat")))
        told = {}
        for root in ("plate", "tall"):
            found = analyse(reroot(build, root), kit, MAN)
            ids = [placed.id for placed in found.build.parts]
            screws = one_screws(found.assembly, found.positions, ids.index("plate"))
            told[root] = [(ids[one.part], round(one.moment, 9), round(one.holds, 9)) for one in screws]
        self.assertEqual(told["plate"], told["tall"])
        self.assertEqual(len(told["plate"]), 1)


class Screen(unittest.TestCase):
    def test_it_is_out_of_sight_behind_the_eye_and_leads(self) -> None:
        """Common practice: nobody watches what is beside the ear or behind."""
        eye = float(body_of(MAN).eye[0])
        for ahead, seen in ((eye + 0.20, True), (eye - 0.10, False)):
            screen = block("screen", 0.3, (0.02, 0.1, 0.08), Category.MONITOR)
            up = replace(screen, feet=(replace(screen.feet[0], at=(0.0, 0.1, -0.15)),))
            build, kit = shoulder_build((grip("l"), 0.25), (grip("r"), 0.25), (up, ahead))
            found = analyse(build, kit, MAN)
            lost = of_kind(found, FindingKind.SCREEN)
            self.assertEqual([one.placed_ids for one in lost], [] if seen else [("screen",)])
            if not seen:
                self.assertIn(warnings_of(found)[0].kind, ("screen out of sight", "presses on head"))
                self.assertIsNotNone(leading(found))


class CarriedGimbals(unittest.TestCase):
    def test_a_harness_or_vest_whose_limit_nobody_entered_is_asked_for(self) -> None:
        """A maker's limit comes first: a gimbal on it is no exception."""
        book = demo_book()
        build = book.build("gimbal-light")
        for carrier in CARRIERS:
            on = with_settings(build, replace(gimbal.SUPPORT.settings(build), carrier=carrier))
            if carrier == "vest":
                on = with_settings(on, replace(vest.SUPPORT.settings(on), most=None))
            asked = [one for one in analyse(on, book.parts, MAN).findings if one.kind == FindingKind.NO_LIMIT]
            self.assertEqual(len(asked), carrier != "handheld", carrier)


if __name__ == "__main__":
    unittest.main()
