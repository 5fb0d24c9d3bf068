"""Parts made from a few figures sit together as the real ones do."""

from __future__ import annotations

import unittest
from typing import cast

import numpy as np

from equilix.core.analyse import analyse
from equilix.core.analysis import FindingKind
from equilix.core.assembly.build import Build, Operator
from equilix.core.assembly.fit import first_setting
from equilix.core.assembly.mounts import free_mounts
from equilix.core.kit.parts import TOUCH_POINTS, Category, Connection, Foot, Mount, MountKind, Part
from equilix.document import part_shapes as s
from equilix.document.book import Book
from equilix.document.edits.builds import PlacePart
from equilix.document.typical_parts import typical
from equilix.io.shipped import catalogue

OPERATOR = Operator("o", "Someone")


def put_together(*steps: tuple[Part, str, str]) -> tuple[Build, dict[str, Part]]:
    """Return a build of (part, parent's part id, mount) put on one after the other, and the kit."""
    book = Book(kit=tuple(part for part, _, _ in steps), builds=(Build("b", "B"),))
    for part, parent, mount in steps:
        build = book.builds[0]
        placed = next((p.id for p in build.parts if p.part_id == parent), None)
        setting = 0.0
        if placed is not None:
            free = next(f for f in free_mounts(build, book.parts) if (f.placed_id, f.mount.id) == (placed, mount))
            setting = first_setting(build, book.parts, free, part)
        book = PlacePart("b", part.id, placed, mount, setting).apply(book)
    return book.builds[0], book.parts


class Sizes(unittest.TestCase):
    def test_a_rods_name_says_how_long_it_is_and_how_thick(self) -> None:
        """Common practice: rods are sold by length, in inches or millimetres, and by diameter."""
        for name, length in (
            ("Rods front 15 in", 381.0),
            ("Rods 15 mm, 8 in", 203.2),
            ("Rods 19 mm 450mm", 450.0),
            ('Rod 12" front', 304.8),
            ("Rods 30 cm", 300.0),
            ("Rods, 4,5 inches", 114.3),
            ("15 mm rods", 203.0),
        ):
            rods = typical(Category.RODS, "r", name, None)
            self.assertAlmostEqual(1000.0 * rods.outline.size[0], length, msg=name)

    def test_a_bridge_plate_is_a_base_plate(self) -> None:
        """Common practice: what bridges camera and shoulder takes a camera plate above and rods at both ends."""
        kinds = [mount.kind for mount in typical(Category.PLATE, "p", "Bridge plate", 1.2).mounts]
        self.assertIn(MountKind.DOVETAIL, kinds)
        self.assertEqual(kinds.count(MountKind.LIGHT_ROD_CLAMP), 2)

    def test_a_usual_cage_goes_round_every_usual_body(self) -> None:
        """Common practice: what is inside a cage is smaller than the cage."""
        cage = typical(Category.CAGE, "cage", "Cage", 0.4)
        body = typical(Category.BODY, "body", "Camera", 2.0)
        floor = cage.mount("floor").at[2]
        top = max(mount.at[2] for mount in cage.mounts)
        self.assertGreaterEqual(top - floor, body.outline.size[2])
        self.assertGreaterEqual(cage.outline.size[1], body.outline.size[1] + 0.016)  # m: two walls


class ShoulderRig(unittest.TestCase):
    def setUp(self) -> None:
        self.build, self.kit = put_together(
            (s.base_plate("base", "Base", 0.9, 250, 229), "", ""),
            (s.pad("pad", "Pad", 0.4), "base", "slot"),
            (s.camera_plate("plate", "Plate", 0.2, 150), "base", "dovetail"),
            (s.body("body", "Body", 2.5, (160, 104, 130), 110), "plate", "screw"),
            (s.lens("lens", "Lens", 1.4, 200, 100), "body", "lens"),
            (s.matte_box("matte", "Matte box", 0.5, (110, 150, 150), False), "lens", "front"),
            (s.rods("front", "Front rods", 0.1, 254), "base", "front rods"),
            (s.rods("rear", "Rear rods", 0.1, 203.2), "base", "rear rods"),
            (s.battery_plate("vplate", "V-lock plate", 0.3), "rear", "rods"),
            (s.battery("battery", "Battery", 0.75, (52, 100, 150), 98), "vplate", "lock"),
            (s.handle("handle", "Handle", 0.3, 150), "body", "top rear"),
            (s.rosette_clamp("clamp", "Rosettes", 0.25), "front", "rods"),
            (s.grip("left", "Left grip", 0.2), "clamp", "left"),
            (s.grip("right", "Right grip", 0.2), "clamp", "right"),
        )
        self.figures = analyse(self.build, self.kit, OPERATOR)
        self.number = {placed.part_id: i for i, placed in enumerate(self.build.parts)}

    def box(self, part_id: str) -> tuple[np.ndarray, np.ndarray]:
        i = self.number[part_id]
        centre, half = self.figures.positions.centre[i], self.figures.assembly.edges[i]
        return centre - half, centre + half

    def test_rods_run_85_mm_below_the_optical_axis(self) -> None:
        """Common practice for light 15 mm rods, with a body 130 mm tall."""
        for name in ("front", "rear"):
            low, high = self.box(name)
            self.assertAlmostEqual(float(low[2] + high[2]) / 2.0, -0.085, places=6)

    def test_lens_and_matte_box_lie_on_the_optical_axis(self) -> None:
        for name in ("lens", "matte"):
            low, high = self.box(name)
            np.testing.assert_allclose((low + high)[1:], 0.0, atol=1e-12)
        self.assertAlmostEqual(float(self.box("lens")[0][0]), float(self.box("body")[1][0]))

    def test_things_lie_before_behind_above_and_below_each_other(self) -> None:
        self.assertLess(self.box("battery")[1][0], self.box("body")[0][0])
        self.assertAlmostEqual(float(self.box("battery")[1][0]), float(self.box("vplate")[0][0]))
        self.assertAlmostEqual(float(self.box("handle")[0][2]), float(self.box("body")[1][2]))
        self.assertLess(self.box("pad")[1][2], self.box("body")[0][2])
        self.assertLess(self.box("rear")[1][0], self.box("front")[0][0] + 0.1)
        self.assertGreater(self.box("left")[0][1], 0.0)
        self.assertLess(self.box("right")[1][1], 0.0)

    def test_nothing_clashes_where_parts_go_first(self) -> None:
        kinds = [finding.kind for finding in self.figures.findings]
        self.assertNotIn(FindingKind.CLASH, kinds)
        self.assertNotIn(FindingKind.OUT_OF_TRAVEL, kinds)

    def test_it_is_front_heavy_until_trimmed(self) -> None:
        """Camera plate in its middle, long lens, matte box: common practice says front heavy."""
        self.assertGreater(self.figures.equilibrium.ahead, 0.0)
        self.assertEqual(len(self.figures.equilibrium.holding.hands), 2)

    def test_the_contact_lies_in_the_hollow_of_the_pad(self) -> None:
        low, high = self.box("pad")
        pad = self.figures.equilibrium.point
        self.assertTrue(low[2] < pad[2] < high[2])
        self.assertAlmostEqual(float(pad[0]), float(low[0] + high[0]) / 2.0)


class Families(unittest.TestCase):
    def test_feet_and_mounts_lie_on_or_in_the_part(self) -> None:
        """A foot or mount may stand off by a bracket, but never by more than 12 cm."""
        for part in catalogue():
            half = np.array(part.outline.size) / 2.0
            centre = np.array(part.outline.centre)
            for item in (*part.feet, *part.mounts):
                away = np.abs(np.array(cast(Foot | Mount, item).at) - centre) - half
                self.assertLess(float(away.max()), 0.12, f"{part.name}: {item}")

    def test_every_part_can_be_held_and_something_offers_each_kind(self) -> None:
        offered = {mount.kind for part in catalogue() for mount in part.mounts} - TOUCH_POINTS
        for part in catalogue():
            if not part.feet:
                # Hands hold a gimbal's frame, a bearing a sled's post.
                held = {MountKind.GRIP_POINT, MountKind.BEARING_SEAT}
                self.assertTrue(held & {mount.kind for mount in part.mounts}, part.name)
                continue
            self.assertTrue(any(foot.kind in offered for foot in part.feet), part.name)

    def test_slides_have_travel_and_rosettes_sixty_teeth(self) -> None:
        for part in catalogue():
            for mount in part.mounts:
                if mount.joint is Connection.SLIDE:
                    self.assertGreater(mount.high, mount.low, part.name)
                if mount.kind is MountKind.ROSETTE:
                    self.assertAlmostEqual(mount.step * 60.0, 2.0 * np.pi)

    def test_the_long_plate_has_229_mm_and_the_short_one_76(self) -> None:
        """Nine inches against 1.5 inches each way: common practice."""
        for part_id, travel in (("c-base-long", 0.229), ("c-base-short", 0.076)):
            part = next(p for p in catalogue() if p.id == part_id)
            mount = part.mount("dovetail")
            self.assertAlmostEqual(mount.high - mount.low, travel)

    def test_names_that_say_more_choose_other_mounts(self) -> None:
        clip = typical(Category.MATTE_BOX, "a", "Matte box, clip-on", 0.4)
        stands = typical(Category.MATTE_BOX, "b", "Matte box, rod-mounted", 1.1)
        self.assertIs(clip.feet[0].kind, MountKind.LENS_FRONT)
        self.assertIs(stands.feet[0].kind, MountKind.LIGHT_RODS)
        base = typical(Category.PLATE, "c", "Base plate", 0.9, (250, 90, 26))
        self.assertIn(MountKind.DOVETAIL, [mount.kind for mount in base.mounts])
