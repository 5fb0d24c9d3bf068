"""Build trees: placing, slides, clashes and what can't hold together."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import FindingKind
from equilix.core.assembly.build import Build, Placed, Side
from equilix.core.assembly.fit import FOUNDATIONS, first_setting, sort_by_fit
from equilix.core.assembly.mounts import free_feet, free_mounts
from equilix.core.assembly.resolve import outline_corners, prepare
from equilix.core.errors import AssemblyError
from equilix.core.frames import quarter_turn, rotation_about
from equilix.core.kit.parts import Category, Connection, Foot, Mount, MountKind, Outline, Part, Shape
from equilix.io.shipped import catalogue, starters
from equilix.supports.shoulder import mechanics as shoulder
from tests.rigs.plain import OPERATOR, base, block, rail, random_tree, shoulder_build
from tests.rigs.results import shoulder_result


def chained_pose(build: Build, kit: dict[str, Part], index: int) -> np.ndarray:
    """Return a part's pose (4, 4) by multiplying homogeneous matrices from the root: the second route."""
    placed = build.parts[index]
    pose = np.eye(4)
    pose[:3, :3] = quarter_turn(placed.quarter_turns)
    if placed.parent is None:
        return pose
    parent_index = next(i for i, p in enumerate(build.parts) if p.id == placed.parent)
    mount = kit[build.parts[parent_index].part_id].mount(placed.mount)
    step = np.eye(4)
    step[:3, 3] = mount.at
    if mount.joint is Connection.SLIDE:
        step[:3, 3] += placed.setting * np.array(mount.unit_axis)
    elif mount.joint is Connection.TURN:
        step[:3, :3] = rotation_about(mount.axis, placed.setting)
    foot = np.eye(4)
    foot[:3, 3] = -np.array(kit[placed.part_id].feet[placed.foot].at)
    return chained_pose(build, kit, parent_index) @ step @ pose @ foot


class Placing(unittest.TestCase):
    def test_random_trees_against_homogeneous_matrices(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(10):
            build, kit = random_tree(rng, 25)
            assembly = prepare(build, kit)
            positions = assembly.at(assembly.settings(build))
            for i in range(len(build.parts)):
                pose = chained_pose(build, kit, i)
                np.testing.assert_allclose(positions.origin[i], pose[:3, 3], atol=1e-12)
                np.testing.assert_allclose(assembly.rotation[i], pose[:3, :3], atol=1e-12)

    def test_cg_is_affine_in_the_slides(self) -> None:
        """c(q) = c0 + A q with A_j = m_j/M axis_j, which holds for slides on slides."""
        rng = np.random.default_rng(5)
        build, kit = random_tree(rng, 30)
        assembly = prepare(build, kit)

        def cg(settings: np.ndarray) -> np.ndarray:
            return assembly.mass @ assembly.at(settings).cg / assembly.mass.sum()

        start = assembly.settings(build)
        slope = assembly.carried_mass()[:, None] / assembly.mass.sum() * assembly.slide_axes
        for _ in range(5):
            move = rng.uniform(-0.2, 0.2, len(start))
            np.testing.assert_allclose(cg(start + move), cg(start) + move @ slope, atol=1e-12)

    def test_origin_is_the_sensor_of_the_camera(self) -> None:
        camera = block("camera", 2.0, category=Category.BODY)
        build, kit = shoulder_build((camera, 0.07))
        figures = analyse(build, kit, OPERATOR)
        np.testing.assert_allclose(figures.positions.origin[1], 0.0, atol=1e-15)
        np.testing.assert_allclose(figures.equilibrium.point, [-0.07, 0.0, 0.0], atol=1e-15)

    def test_an_assembly_is_used_again_only_when_slides_alone_differ(self) -> None:
        build, kit = shoulder_build((block("a", 1.0), 0.1))
        assembly = prepare(build, kit)
        moved = replace(build, parts=(build.parts[0], replace(build.parts[1], setting=0.2)))
        turned = replace(build, parts=(build.parts[0], replace(build.parts[1], quarter_turns=1)))
        self.assertTrue(assembly.matches(moved, kit))
        self.assertTrue(assembly.matches(moved, dict(kit)))
        self.assertFalse(assembly.matches(turned, kit))
        self.assertFalse(assembly.matches(build, {**kit, "a": block("a", 2.0)}))

    def test_an_earlier_analysis_never_changes_the_figures(self) -> None:
        rng = np.random.default_rng(9)
        camera = block("camera", 2.0, category=Category.BODY)
        build, kit = shoulder_build((camera, 0.0), (block("b", 1.0), -0.2))
        previous = None
        for _ in range(20):
            parts = tuple(replace(p, setting=float(rng.uniform(-0.4, 0.4))) if p.parent else p for p in build.parts)
            build = replace(build, parts=parts)
            previous = analyse(build, kit, OPERATOR, previous)
            fresh = analyse(build, kit, OPERATOR)
            np.testing.assert_allclose(previous.body.cg, fresh.body.cg, atol=1e-14)
            np.testing.assert_allclose(previous.body.inertia, fresh.body.inertia, atol=1e-14)
            self.assertEqual(shoulder_result(previous).rest, shoulder_result(fresh).rest)
            self.assertEqual([f.kind for f in previous.findings], [f.kind for f in fresh.findings])


class Refusals(unittest.TestCase):
    def test_builds_that_do_not_hold_together_are_refused_in_words(self) -> None:
        build, kit = shoulder_build((block("a", 1.0), 0.0))
        shoe = block("a", 1.0, kind=MountKind.COLD_SHOE)
        cases = (
            (replace(build, parts=(*build.parts, Placed("x", "gone", "base", "rail"))), kit, "not in the kit"),
            (replace(build, parts=(*build.parts, Placed("x", "a", "base", "nowhere"))), kit, "no mount called"),
            (build, {**kit, "a": shoe}, "needs cold shoe"),
            (
                replace(build, parts=(build.parts[0], Placed("x", "a", "base", "rail", 3))),
                kit,
                "no mount number 4 below",
            ),
            (replace(build, parts=(build.parts[0], Placed("x", "a", "base", "shoulder"))), kit, "takes shoulder"),
        )
        for bad, bad_kit, words in cases:
            with self.subTest(words), self.assertRaisesRegex(AssemblyError, words):
                prepare(bad, bad_kit)

    def test_trees_are_checked_as_they_are_made(self) -> None:
        with self.assertRaisesRegex(AssemblyError, ", which is not on the build. Take one off"):
            Build("b", "B", (Placed("x", "a", "later", "m"),))
        with self.assertRaisesRegex(AssemblyError, "only one part"):
            Build("b", "B", (Placed("x", "a"), Placed("y", "a")))
        with self.assertRaisesRegex(AssemblyError, "in a circle"):
            Build("b", "B", (Placed("x", "a"), Placed("y", "a", "z", "m"), Placed("z", "a", "y", "m")))
        with self.assertRaisesRegex(AssemblyError, "have the id"):
            Build("b", "B", (Placed("x", "a"), Placed("x", "a", "x", "m")))

    def test_two_parts_cannot_share_a_screw(self) -> None:
        screw = Mount("screw", MountKind.QUARTER_20, (0.0, 0.0, 0.0))
        root = block("root", 1.0, mounts=(screw,))
        kit = {"root": root, "a": block("a", 1.0, kind=MountKind.QUARTER_20)}
        kit["b"] = replace(kit["a"], id="b", name="b")
        parts = (Placed("r", "root"), Placed("a", "a", "r", "screw"), Placed("b", "b", "r", "screw"))
        with self.assertRaisesRegex(AssemblyError, "are on one mount of"):
            prepare(Build("b", "B", parts), kit)
        self.assertEqual(free_mounts(Build("b", "B", parts[:2]), kit), ())

    def test_values_are_checked_where_they_enter(self) -> None:
        for make, words in (
            (lambda: Part("a", "", Category.LENS), "name is empty. Type one"),
            (lambda: Part("a", "A", Category.LENS, mass=-1.0), "mass must be from 0"),
            (lambda: Part("a", "A", Category.LENS, mass=float("nan")), "mass must be a number"),
            (lambda: Part("a", "A\nB", Category.LENS), "one line"),
            (lambda: Outline((0.1, 0.2, 0.3), shape=Shape.CYLINDER), "its diameter"),
            (lambda: Outline((0.1, -0.2, 0.3)), "Width must be"),
            (lambda: Mount("m", MountKind.ROSETTE, (0.0, 0.0, 0.0), axis=(0.0, 0.0, 0.0)), "its axis has no length"),
            (lambda: Mount("m", MountKind.ROSETTE, (0.0, 0.0, 0.0), low=1.0, high=0.0), "above the greatest"),
            (lambda: replace(OPERATOR, stature=17.5), "Height must be from 1.2"),
        ):
            with self.subTest(words), self.assertRaisesRegex(AssemblyError, words):
                make()

    def test_quarter_turns_and_feet_end_where_they_do(self) -> None:
        """Four quarter turns are none; a thousand feet are more than any part has."""
        for turns in (0, 1, 2, 3):
            self.assertEqual(Placed("a", "p", quarter_turns=turns).quarter_turns, turns)
        for turns in (-1, 4):
            with self.assertRaisesRegex(AssemblyError, "Quarter turns must be from 0 to 3"):
                Placed("a", "p", quarter_turns=turns)
        self.assertEqual(Placed("a", "p", foot=1000).foot, 1000)
        for foot in (-1, 1001):
            with self.assertRaisesRegex(AssemblyError, "The number of a mount below must be from 0 to 1000"):
                Placed("a", "p", foot=foot)


class Clashes(unittest.TestCase):
    def test_boxes_side_by_side_overlap_by_what_is_missing(self) -> None:
        build, kit = shoulder_build((block("a", 1.0), 0.0), (block("b", 1.0), 0.085))
        clashes = [f for f in analyse(build, kit, OPERATOR).findings if f.kind is FindingKind.CLASH]
        self.assertEqual([f.placed_ids for f in clashes], [("a", "b")])
        self.assertAlmostEqual(clashes[0].amount, 0.015, places=12)
        apart = replace(build, parts=(*build.parts[:2], replace(build.parts[2], setting=0.101)))
        self.assertFalse([f for f in analyse(apart, kit, OPERATOR).findings if f.kind is FindingKind.CLASH])

    def test_turned_boxes_are_told_apart_where_upright_ones_would_not_be(self) -> None:
        """Two diamonds corner to corner: their upright boxes overlap, they don't."""
        turn = Mount("pin", MountKind.ROSETTE, (0.0, 0.0, 0.0), Connection.TURN, (0.0, 1.0, 0.0), -2.0, 2.0)
        holders = [block(f"h{i}", 0.1, (0.01, 0.01, 0.01), Category.CLAMP, mounts=(turn,)) for i in range(2)]
        arms = [block(f"a{i}", 0.1, (0.1, 0.02, 0.1), kind=MountKind.ROSETTE) for i in range(2)]
        kit = {part.id: part for part in (base(), *holders, *arms)}
        lift = replace(holders[1], feet=(Foot(MountKind.LIGHT_RODS, (0.0, 0.0, -0.1)),))
        kit["h1"] = lift
        parts = (
            Placed("base", "base"),
            Placed("h0", "h0", "base", "rail", 0, 0.2),
            Placed("h1", "h1", "base", "rail", 0, 0.3),
            Placed("a0", "a0", "h0", "pin", 0, math.pi / 4),
            Placed("a1", "a1", "h1", "pin", 0, math.pi / 4),
        )
        analysis = analyse(Build("b", "B", parts), kit, OPERATOR)
        self.assertEqual(analysis.assembly.upright.tolist(), [True, True, True, False, False])
        pairs = {f.placed_ids for f in analysis.findings if f.kind is FindingKind.CLASH}
        self.assertNotIn(("a0", "a1"), pairs)

    def test_sweep_finds_what_trying_all_pairs_finds(self) -> None:
        rng = np.random.default_rng(21)
        blocks = [
            (block(f"b{i}", 1.0, tuple(rng.uniform(0.02, 0.08, 3))), float(rng.uniform(-0.5, 0.5))) for i in range(40)
        ]
        build, kit = shoulder_build(*blocks)
        figures = analyse(build, kit, OPERATOR)
        found = {f.placed_ids for f in figures.findings if f.kind is FindingKind.CLASH}
        expected = set()
        for i in range(1, 41):
            for j in range(i + 1, 41):
                gap = abs(figures.positions.centre[i, 0] - figures.positions.centre[j, 0])
                reach = figures.assembly.half_size[i, 0] + figures.assembly.half_size[j, 0]
                across = 2 * min(figures.assembly.half_size[k, a] for k in (i, j) for a in (1, 2))
                if min(reach - gap, across) > 0.004:
                    expected.add((build.parts[i].id, build.parts[j].id))
        self.assertEqual(found, expected)

    def test_travel_is_watched(self) -> None:
        build, kit = shoulder_build((block("a", 1.0), 0.512))
        found = [f for f in analyse(build, kit, OPERATOR).findings if f.kind is FindingKind.OUT_OF_TRAVEL]
        self.assertEqual(found[0].placed_ids, ("a",))
        self.assertAlmostEqual(found[0].amount, 0.012, places=12)

    def test_parts_without_mass_or_size_are_named(self) -> None:
        bare = replace(block("a", None), outline=None)
        build, kit = shoulder_build((bare, 0.3))
        kinds = [f.kind for f in analyse(build, kit, OPERATOR).findings]
        self.assertIn(FindingKind.NO_MASS, kinds)
        self.assertIn(FindingKind.NO_SIZE, kinds)


class Head(unittest.TestCase):
    def wide(self, width: float) -> tuple[Build, dict[str, Part]]:
        body = block("camera", 2.0, (0.15, width, 0.13), Category.BODY)
        body = replace(body, feet=(Foot(MountKind.LIGHT_RODS, (0.0, 0.0, -0.13)),))
        return shoulder_build((body, 0.0))

    def test_lean_grows_with_half_the_width(self) -> None:
        """Head breadth 155 mm, pad 100 mm off the midline: its side is 22.5 mm from the pad's middle."""
        for width, lean in ((0.104, 0.052 - 0.0225), (0.196, 0.098 - 0.0225)):
            build, kit = self.wide(width)
            self.assertAlmostEqual(shoulder_result(analyse(build, kit, OPERATOR)).lean, lean, places=6)

    def test_a_box_body_is_fine_and_a_wide_one_presses(self) -> None:
        for width, presses in ((0.104, False), (0.196, True)):
            build, kit = self.wide(width)
            kinds = [f.kind for f in analyse(build, kit, OPERATOR).findings]
            self.assertEqual(shoulder.PRESSES_ON_HEAD in kinds, presses)

    def test_the_left_shoulder_mirrors_the_right(self) -> None:
        build, kit = self.wide(0.18)
        left = replace(OPERATOR, shoulder=Side.LEFT)
        right_lean = shoulder_result(analyse(build, kit, OPERATOR)).lean
        self.assertAlmostEqual(right_lean, shoulder_result(analyse(build, kit, left)).lean, places=12)


class Fitting(unittest.TestCase):
    def test_new_parts_do_not_start_inside_their_neighbours(self) -> None:
        build, kit = shoulder_build((block("a", 1.0), -0.5), (block("b", 1.0), -0.39))
        kit["c"] = block("c", 1.0)
        free = next(f for f in free_mounts(build, kit) if f.mount.id == "rail")
        setting = first_setting(build, kit, free, kit["c"])
        self.assertGreaterEqual(setting, -0.29 - 1e-9)

    def test_where_nothing_is_free_a_new_part_begins_where_it_meets_others_least(self) -> None:
        """Brute force: blocks all along the rail, two of them 20 mm apart: there it goes into both by 80 mm in all."""
        blocks = [(block(f"b{k}", 1.0), -0.5 + 0.1 * k) for k in range(5)]
        blocks += [(block(f"c{k}", 1.0), 0.02 + 0.096 * k) for k in range(6)]
        build, kit = shoulder_build(*blocks)
        kit["new"] = block("new", 1.0)
        free = next(f for f in free_mounts(build, kit) if f.mount.id == "rail")
        setting = first_setting(build, kit, free, kit["new"])

        def met(x: float) -> float:
            placed = Placed("new", "new", "base", "rail", 0, x)
            found = analyse(replace(build, parts=(*build.parts, placed)), kit, OPERATOR).findings
            return sum(f.amount for f in found if f.kind == FindingKind.CLASH and "new" in f.placed_ids)

        self.assertAlmostEqual(setting, -0.04, delta=0.041)
        self.assertAlmostEqual(met(setting), 0.08, delta=2e-3)
        self.assertAlmostEqual(met(setting), min(met(x) for x in np.linspace(-0.5, 0.5, 101)), delta=2e-3)

    def test_any_part_may_be_first_and_foundations_are_offered_first(self) -> None:
        kit = {part.id: part for part in catalogue()}
        fits, misfits = sort_by_fit(Build("b", "B"), kit, None)
        self.assertEqual((len(fits), misfits), (len(kit), ()))
        first = [part.category in FOUNDATIONS for part in fits]
        self.assertEqual(first, sorted(first, reverse=True))
        self.assertIs(fits[0].category, Category.PLATE)

    def test_outline_corners_of_a_turned_part(self) -> None:
        build, kit = shoulder_build((block("a", 1.0, (0.4, 0.1, 0.2)), 0.0))
        turned = replace(build, parts=(build.parts[0], replace(build.parts[1], quarter_turns=1)))
        assembly = prepare(turned, kit)
        corners = outline_corners(assembly, assembly.at(assembly.settings(turned)), 1)
        np.testing.assert_allclose(np.ptp(corners, axis=0), [0.1, 0.4, 0.2], atol=1e-12)

    def test_starting_builds_hold_together_and_do_not_clash(self) -> None:
        kit = {part.id: part for part in catalogue()}
        self.assertGreaterEqual(len(kit), 100)
        for starter in starters():
            with self.subTest(starter.name):
                found = analyse(starter, kit, OPERATOR).findings
                self.assertFalse([f for f in found if f.kind in (FindingKind.CLASH, FindingKind.OUT_OF_TRAVEL)])

    def test_rail_settings_snap_to_detents(self) -> None:
        detented = replace(rail(), step=0.02)
        self.assertAlmostEqual(detented.snap(0.031), 0.04)
        self.assertAlmostEqual(detented.snap(9.0), 0.5)


class RodsOfTheirOwn(unittest.TestCase):
    def test_rods_stick_out_to_where_their_clamp_reaches_and_ahead_where_it_reaches_both_ways(self) -> None:
        """Common practice: a pair of rods stays 20 mm in its clamp."""
        for low, high, stands in ((-0.3, 0.3, 0.18), (0.0, 0.3, 0.18), (-0.3, 0.0, -0.18)):
            clamp = Mount("clamp", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0), Connection.SLIDE, (1.0, 0.0, 0.0), low, high)
            kit = {"base": replace(base(), mounts=(*base().mounts[:1], clamp))}
            kit["rods"] = block("rods", 0.2, (0.4, 0.08, 0.015), Category.RODS)
            build = Build("b", "B", (Placed("base", "base"),))
            free = next(spot for spot in free_mounts(build, kit) if spot.mount.id == "clamp")
            self.assertAlmostEqual(first_setting(build, kit, free, kit["rods"]), stands)


class Sense(unittest.TestCase):
    def test_cameras_are_not_offered_on_top_of_cameras(self) -> None:
        kit = {part.id: part for part in catalogue()}
        build = starters()[0]
        for free in free_mounts(build, kit):
            carrier = kit[build.placed(free.placed_id).part_id].category
            fits, misfits = sort_by_fit(build, kit, free)
            for part in fits:
                if part.category is Category.BODY:
                    self.assertIn(carrier, (Category.PLATE, Category.CAGE))
            self.assertEqual(len(fits) + len(misfits), len(kit))

    def test_what_goes_on_rods_begins_as_near_the_plate_behind_as_ahead(self) -> None:
        """A plate, rods and a weight that are their own mirror images: so are the places where it begins."""
        parts = {part.id: part for part in catalogue()}
        rods = parts["c-rods-aluminium-8"]
        kit = {**parts, "other": replace(rods, id="other")}
        on = (
            Placed("front", rods.id, "base", "front rods", 0, 0.08),
            Placed("rear", "other", "base", "rear rods", 0, -0.08),
        )
        build = Build("b", "b", (Placed("base", "c-base-mid"), *on))
        begins = {
            free.placed_id: first_setting(build, kit, free, kit["c-weight-05"])
            for free in free_mounts(build, kit)
            if free.mount.id == "rods"
        }
        self.assertLess(begins["front"], 0.05)
        self.assertAlmostEqual(begins["rear"], -begins["front"], places=9)

    def test_what_comes_under_a_foot_begins_where_its_own_mount_allows(self) -> None:
        """A base plate under rods: its clamps hold them from 30 mm ahead of its middle on, or as far behind."""
        kit = {part.id: part for part in catalogue() if part.id in ("c-base-mid", "c-rods-aluminium-8")}
        build = Build("b", "b", (Placed("rods", "c-rods-aluminium-8"),))
        (spot,) = free_feet(build, kit)
        self.assertAlmostEqual(first_setting(build, kit, spot, kit["c-base-mid"]), 0.03)

    def test_a_new_part_on_rods_starts_clear_of_everything(self) -> None:
        kit = {part.id: part for part in catalogue()}
        build = starters()[0]
        free = next(f for f in free_mounts(build, kit) if (f.placed_id, f.mount.id) == ("front", "rods"))
        for part_id in ("c-weight-05", "c-support"):
            setting = first_setting(build, kit, free, kit[part_id])
            placed = Placed("new", part_id, "front", "rods", 0, setting)
            found = analyse(replace(build, parts=(*build.parts, placed)), kit, OPERATOR).findings
            self.assertFalse([f for f in found if f.kind is FindingKind.CLASH and "new" in f.placed_ids], part_id)


class Level(unittest.TestCase):
    def test_the_part_that_stands_level_does_and_the_others_lean_round_it(self) -> None:
        """A camera on a tilted wedge: by turns about y, R(a) R(-a) = 1 (Meriam and Kraige, Dynamics, ch. 7)."""
        for angle, turns in ((0.3, 0), (-0.2, 1), (0.25, 3)):
            wedge = Mount("wedge", MountKind.QUARTER_20, (0.05, 0.0, 0.02), Connection.TURN, (0.0, 1.0, 0.0), -0.5, 0.5)
            plate = base(1.0)
            kit = {
                "base": replace(plate, mounts=(*plate.mounts, wedge)),
                "camera": block("camera", 2.0, (0.2, 0.1, 0.1), kind=MountKind.QUARTER_20),
                "other": block("other", 1.0),
            }
            parts = (
                Placed("base", "base", quarter_turns=turns),
                Placed("other", "other", "base", "rail", 0, -0.2),
                Placed("camera", "camera", "base", "wedge", 0, angle),
            )
            for level in ("camera", "base", "", "gone"):
                build = Build("b", "B", parts, level=level)
                turned = prepare(build, kit).rotation
                stands = 2 if level == "camera" else 0
                np.testing.assert_allclose(turned[stands], turned[stands].round(), atol=1e-12)
                leaning = turned[2 - stands]
                self.assertAlmostEqual(math.acos(float(leaning[2, 2])), abs(angle), places=9)
                # What lies on the plate leans with it.
                np.testing.assert_allclose(turned[1], turned[0], atol=1e-12)
