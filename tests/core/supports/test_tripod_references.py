"""A rig on a tripod and on a table: moments against MuJoCo, standing against a hull by brute force, marks tried."""

from __future__ import annotations

import math
import unittest
from typing import Any

import mujoco
import numpy as np
from msgspec.structs import replace
from scipy.spatial import ConvexHull

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator, Placed
from equilix.core.carry.carried import carry
from equilix.core.chosen import with_settings
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.hull import convex_hull, edge_distance
from equilix.core.kit.parts import Category, Mount, MountKind, Part
from equilix.core.registry import support_for
from equilix.core.slides import level_setting, slide_of_camera
from equilix.core.solver.strategies import StrategyKind, find_strategies
from equilix.core.statics.pose import Hindrance
from equilix.core.support import case_of, report_of
from equilix.core.uncertainty.output_model import CG_AHEAD, TOTAL_MASS, output_model
from equilix.io.shipped import demo_book
from equilix.supports.tripod import mechanics as tripod
from equilix.supports.tripod.mechanics import plate_marks, slid_to, tilting_moment
from equilix.supports.tripod.settings import LONG_DOVETAIL, TripodSettings
from equilix.supports.tripod.table import nearest_step, resting
from tests.rigs.plain import block, shoulder_build
from tests.rigs.results import tripod_result

MAN = Operator("m", "M", 1.80, 80.0)


def rig(seed: int = 0, settings: TripodSettings | None = None) -> tuple[Build, dict[str, Part]]:
    """Return a lopsided camera with a lens and a battery on a plate, on a tripod."""
    rng = np.random.default_rng(seed)
    nose = Mount("nose", MountKind.LENS_MOUNT, (0.1, 0.0, 0.0))
    heavy, glass = float(rng.uniform(2.0, 4.0)), float(rng.uniform(0.5, 2.0))
    camera = block("camera", heavy, (0.2, 0.1, 0.14), Category.BODY, mounts=(nose,), at=(0.0, 0.0, -0.08))
    camera = replace(camera, cg=(0.0, float(rng.uniform(-0.02, 0.02)), float(rng.uniform(0.0, 0.03))))
    lens = block(
        "lens",
        glass,
        (0.16, 0.09, 0.09),
        Category.LENS,
        kind=MountKind.LENS_MOUNT,
        at=(-0.08, 0, 0),
    )
    build, kit = shoulder_build(
        (camera, float(rng.uniform(-0.03, 0.05))),
        (block("power", 0.9, (0.06, 0.1, 0.1), Category.BATTERY, at=(0.0, 0.0, -0.06)), -0.2),
    )
    kit |= {"lens": lens, "other": replace(lens, id="other", name="other", mass=lens.mass * 1.6)}
    on = Placed("lens", "lens", "camera", "nose")
    build = replace(build, parts=(*build.parts, on), support="tripod")
    return with_settings(build, settings or TripodSettings()), kit


class OnTheHead(unittest.TestCase):
    def test_tilting_moments_against_mujoco(self) -> None:
        """The rig as one body on a hinge at the head's axis: the torque that holds it still (inverse dynamics)."""
        for seed in range(5):
            found = analyse(*rig(seed), MAN)
            on_it, body = tripod_result(found), found.body
            axis = on_it.clamp.point - np.array([0.0, 0.0, 0.06])
            d = body.cg - axis
            full = " ".join(str(body.inertia[i, j]) for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2)))
            model = mujoco.MjModel.from_xml_string(
                f'<mujoco><option gravity="0 0 -{STANDARD_GRAVITY}"/><worldbody><body>'
                f'<joint type="hinge" axis="0 1 0"/>'
                f'<inertial pos="{d[0]} {d[1]} {d[2]}" mass="{body.mass}" fullinertia="{full}"/>'
                "</body></worldbody></mujoco>"
            )
            data = mujoco.MjData(model)
            for tilt in np.radians([-40.0, 0.0, 10.0, 55.0]):
                data.qpos[0] = tilt
                mujoco.mj_inverse(model, data)
                weight = body.mass * STANDARD_GRAVITY
                ours = tilting_moment(weight, float(d[0]), float(d[2]), float(tilt))
                self.assertAlmostEqual(ours, -float(data.qfrc_inverse[0]), places=9)
            self.assertAlmostEqual(on_it.tilting, tilting_moment(weight, float(d[0]), float(d[2]), math.radians(10.0)))
            figures = report_of(found, MAN).figures
            self.assertAlmostEqual(figures["tilting_moment_nm"].value, on_it.tilting)
            self.assertAlmostEqual(figures["offset_x_mm"].value, 1e3 * float(d[0]))
            self.assertAlmostEqual(figures["offset_y_mm"].value, 1e3 * float(d[1]))

    def test_a_matched_spring_holds_any_tilt_of_a_balanced_rig(self) -> None:
        """``S sin t = W h sin t``: what is left is nothing at every tilt once the plate is slid and S is W h."""
        build, kit = rig(2)
        level = slid_to(build, tripod_result(analyse(build, kit, MAN)).slide)
        found = analyse(level, kit, MAN)
        on_it = tripod_result(found)
        self.assertAlmostEqual(found.equilibrium.ahead, 0.0, places=12)
        weight = found.body.mass * STANDARD_GRAVITY
        for tilt in np.radians(np.arange(-60.0, 61.0, 20.0)).tolist():
            left = tilting_moment(weight, found.equilibrium.ahead, on_it.height, tilt) - on_it.wants * math.sin(tilt)
            self.assertAlmostEqual(left, 0.0, places=9)

    def test_which_step_to_set(self) -> None:
        ten = TripodSettings(counter=20.0, steps=10.0)
        for wants, step in ((13.3, 14.0), (12.9, 12.0), (0.4, 0.0), (25.0, 20.0), (-3.0, 0.0)):
            self.assertAlmostEqual(nearest_step(wants, ten), step)
        self.assertEqual(nearest_step(13.3, TripodSettings(counter=20.0)), 13.3)
        self.assertIsNone(nearest_step(13.3, TripodSettings()))

    def test_the_plate_goes_as_far_as_it_can_and_says_what_is_missing(self) -> None:
        """Common practice: 229 mm of a long dovetail in all, 38 mm each way of a short plate."""
        self.assertEqual(LONG_DOVETAIL, 0.229)
        for slid in (0.0, 0.02, -0.02):
            build, kit = rig(1, TripodSettings(travel=0.076, slid=slid))
            heavy = {**kit, "lens": replace(kit["lens"], mass=5.0)}
            on_it = tripod_result(analyse(build, heavy, MAN))
            room = 0.038 + slid if on_it.slide < 0.0 else 0.038 - slid
            self.assertAlmostEqual(on_it.short, max(abs(on_it.slide) - room, 0.0))
            self.assertGreater(on_it.short, 0.0)
            moved = slid_to(build, slid + on_it.slide)
            self.assertAlmostEqual(abs(analyse(moved, heavy, MAN).equilibrium.ahead), on_it.short)

    def test_a_plate_at_its_stop_is_not_slid_to_where_it_stands(self) -> None:
        for settings in (TripodSettings(travel=0.076, slid=-0.038), TripodSettings(travel=0.0)):
            build, kit = rig(1, settings)
            analysis = analyse(build, {**kit, "lens": replace(kit["lens"], mass=5.0)}, MAN)
            self.assertLess(tripod_result(analysis).slide, 0.0)
            self.assertIsNone(support_for("tripod").with_slide(case_of(analysis)))
        nearly, kit = rig(1, TripodSettings(travel=0.076, slid=-0.037))
        analysis = analyse(nearly, {**kit, "lens": replace(kit["lens"], mass=5.0)}, MAN)
        self.assertAlmostEqual(
            tripod.SUPPORT.settings(support_for("tripod").with_slide(case_of(analysis))).slid, -0.038
        )

    def test_marks_for_each_lens_balance_it(self) -> None:
        build, kit = rig(3)
        marks = {(m.lens, m.bare): m for m in plate_marks(analyse(build, kit, MAN), kit, MAN)}
        self.assertEqual(set(marks), {(name, bare) for name in ("lens", "other") for bare in (False, True)})
        for name in ("lens", "other"):
            parts = tuple(replace(p, part_id=name) if p.id == "lens" else p for p in build.parts)
            there = slid_to(replace(build, parts=parts), marks[name, False].mark)
            self.assertAlmostEqual(analyse(there, kit, MAN).equilibrium.ahead, 0.0, places=9)

    def test_what_meets_the_head_and_what_is_too_heavy_for_it(self) -> None:
        build, kit = rig(0, TripodSettings(counter=1.0))
        hanging = block("hanging", 0.1, (0.04, 0.04, 0.1), at=(0.0, 0.0, 0.06))
        for at, meets in ((0.0, True), (0.081, False)):
            more = replace(build, parts=(*build.parts, Placed("hanging", "hanging", "base", "rail", 0, at)))
            found = analyse(more, {**kit, "hanging": hanging}, MAN)
            kinds = {f.kind: f for f in found.findings}
            self.assertEqual(tripod.MEETS_HEAD in kinds, meets, at)
            self.assertAlmostEqual(kinds[tripod.OVER_COUNTER].amount, tripod_result(found).wants)

    def test_nobody_carries_it_and_ways_still_balance_it(self) -> None:
        build, kit = rig(4)
        found = analyse(build, kit, MAN)
        self.assertIs(carry(found, MAN, "tripod"), Hindrance.NOBODY)
        way = next(w for w in find_strategies(found, kit, MAN) if abs(w.remaining) <= 0.1 + 1e-9)
        self.assertLessEqual(abs(analyse(way.after.build, kit, MAN).equilibrium.tip_moment), 0.1 + 1e-6)

    def test_its_own_slide_is_the_first_way_and_no_weight_is_bolted_on(self) -> None:
        """Common practice: on a head the plate is slid until nothing tips; it costs no mass and moves no part."""
        tried = 0
        for seed in range(6):
            build, kit = rig(seed, TripodSettings(travel=0.3))
            found = analyse(build, kit, MAN)
            if abs(found.equilibrium.ahead) <= 0.002:
                # Nobody feels that on a head.
                self.assertNotIn(StrategyKind.HOLDER, {way.kind for way in find_strategies(found, kit, MAN)})
                continue
            tried += 1
            first, *others = find_strategies(found, kit, MAN)
            self.assertIs(first.kind, StrategyKind.HOLDER)
            self.assertEqual((first.plan.changes, first.plan.added_mass, first.plan.moved), (1, 0.0, {}))
            self.assertEqual(first.plan.build.parts, build.parts)
            self.assertTrue(first.full)
            self.assertAlmostEqual(
                tripod.SUPPORT.settings(first.plan.build).slid, found.equilibrium.ahead * -1.0, places=9
            )
            self.assertAlmostEqual(analyse(first.plan.build, kit, MAN).equilibrium.ahead, 0.0, places=9)
            self.assertFalse({way.kind for way in others} & {StrategyKind.DEAD_WEIGHT, StrategyKind.LEAVE_OFF})
            self.assertEqual(find_strategies(analyse(first.plan.build, kit, MAN), kit, MAN), ())
        self.assertGreater(tried, 3)

    def test_where_its_slide_ends_too_soon_the_rest_is_done_on_the_rig(self) -> None:
        both = 0
        for room in (0.05, 0.10, 0.20):
            build, kit = rig(0, TripodSettings(travel=0.02))
            # The camera sits fast, the battery slides a little: alone it may not be enough, nor is the plate.
            camera = build.placed("camera")
            seat = Mount("seat", MountKind.LIGHT_RODS, (camera.setting, 0.0, 0.0))
            shoulder, rail, _ = kit["base"].mounts
            kit["base"] = replace(kit["base"], mounts=(shoulder, seat, replace(rail, low=-0.2 - room, high=0.1)))
            fast = replace(camera, mount="seat", setting=0.0)
            build = replace(build, parts=tuple(fast if p.id == "camera" else p for p in build.parts))
            found = analyse(build, kit, MAN)
            ways = {way.kind: way for way in find_strategies(found, kit, MAN)}
            self.assertFalse(ways[StrategyKind.HOLDER].full)
            self.assertAlmostEqual(abs(tripod.SUPPORT.settings(ways[StrategyKind.HOLDER].plan.build).slid), 0.01)
            for way in ways.values():
                if way.kind is not StrategyKind.HOLDER and way.full:
                    whole = {**kit, **way.plan.kit}
                    self.assertLessEqual(abs(analyse(way.plan.build, whole, MAN).equilibrium.tip_moment), 0.1 + 1e-6)
                    alone = analyse(with_settings(way.plan.build, tripod.SUPPORT.settings(build)), whole, MAN)
                    by_plate = tripod.SUPPORT.settings(way.plan.build).slid != 0.0
                    # The plate is touched only where the rest would not be enough without it.
                    self.assertEqual(by_plate, abs(alone.equilibrium.tip_moment) > 0.1 + 1e-6)
                    both += by_plate
        self.assertGreaterEqual(both, 1)

    def test_the_clamp_holds_the_chosen_plate_else_the_lowest_by_its_underside(self) -> None:
        build, kit = rig(1)
        # A thin plate stands above the base, a thick one hangs lower though its middle is higher.
        kit["thin"] = block("thin", 0.1, (0.1, 0.06, 0.01), Category.PLATE, at=(0.0, 0.0, -0.12))
        kit["thick"] = block("thick", 0.1, (0.08, 0.06, 0.09), Category.PLATE, at=(0.0, 0.0, -0.02))
        more = (Placed("thin", "thin", "base", "rail", 0, 0.3), Placed("thick", "thick", "base", "rail", 0, 0.4))
        build = replace(build, parts=(*build.parts, *more))
        found = analyse(build, kit, MAN)
        ids = [placed.id for placed in build.parts]
        bottoms = found.positions.centre[:, 2] - found.assembly.edges[:, 2]
        plates = [k for k, part in enumerate(found.assembly.parts) if part.category is Category.PLATE]
        lowest = min(plates, key=lambda k: bottoms[k])
        self.assertEqual(ids[lowest], "thick")
        clamp = tripod_result(found).clamp
        self.assertEqual((ids[clamp.part], clamp.usual), ("thick", True))
        self.assertAlmostEqual(float(clamp.point[2]), float(bottoms[lowest]))
        self.assertIn("no plate is chosen:", report_of(found, MAN).said[0])
        for name in ("thin", "base", "camera"):
            chosen = analyse(with_settings(build, TripodSettings(plate=name, slid=0.03)), kit, MAN)
            clamp, k = tripod_result(chosen).clamp, ids.index(name)
            self.assertEqual((clamp.part, clamp.usual), (k, False))
            # The rig slid forward: the head is behind the plate's middle.
            under = chosen.positions.centre[k] - [0.03, 0.0, chosen.assembly.edges[k, 2]]
            np.testing.assert_allclose(clamp.point, under, atol=1e-12)
            self.assertEqual(report_of(chosen, MAN).said, ())
        # A name that is not on the build counts as not chosen.
        self.assertTrue(
            tripod_result(analyse(with_settings(build, TripodSettings(plate="gone")), kit, MAN)).clamp.usual
        )

    def test_figures_and_doubts_are_those_of_mass_and_height(self) -> None:
        """W h of what a spring must hold; its uncertainty by moving each part, JCGM 100 clause 5, brute force."""
        build, kit = rig(3, TripodSettings(axis_below=0.05, counter=30.0))
        kit["monitor"] = block("monitor", 0.3, (0.02, 0.15, 0.09), Category.MONITOR, at=(0.0, 0.0, -0.3))
        build = replace(build, parts=(*build.parts, Placed("monitor", "monitor", "base", "rail", 0, 0.25)))
        found = analyse(build, kit, MAN)
        on_it, body = tripod_result(found), found.body
        height = float(body.cg[2] - on_it.clamp.point[2]) + 0.05
        self.assertAlmostEqual(on_it.height, height)
        figures = report_of(found, MAN).figures
        self.assertAlmostEqual(figures["counterbalance_nm"].value, body.mass * STANDARD_GRAVITY * height)
        self.assertAlmostEqual(figures["counterbalance_nm"].value, on_it.wants)
        mark = level_setting(found, slide_of_camera(found)) - found.settings[slide_of_camera(found)]
        self.assertAlmostEqual(figures["slide_to_balance_mm"].value, 1e3 * mark)
        variance = 0.0
        uncertainties, at, mass = found.assembly.uncertainties, found.positions.cg, found.assembly.mass
        for i in range(len(mass)):
            arm = float(at[i, 2] - on_it.clamp.point[2]) + 0.05
            variance += (STANDARD_GRAVITY * arm * uncertainties.mass[i]) ** 2
            variance += (STANDARD_GRAVITY * mass[i] * uncertainties.cg[i, 2]) ** 2
        # What one scale adds to all that it weighed goes together.
        arms = at[:, 2] - on_it.clamp.point[2] + 0.05
        variance += float(((STANDARD_GRAVITY * uncertainties.gain @ arms) ** 2).sum())
        self.assertAlmostEqual(
            figures["counterbalance_nm"].uncertainty, math.sqrt(variance), delta=0.02 * math.sqrt(variance)
        )
        screen = float(found.positions.centre[-1, 2] - on_it.clamp.point[2]) + 1.40
        self.assertAlmostEqual(on_it.screen, screen)
        self.assertEqual(figures["stands"].value, float(on_it.table.stands))
        self.assertAlmostEqual(figures["table_tip_deg"].value, math.degrees(on_it.table.angle))
        self.assertGreater(figures["table_tip_deg"].uncertainty, 0.0)
        outputs = output_model(found)
        self.assertEqual([t.value for t in outputs.thresholds(CG_AHEAD)], [0.0])
        self.assertEqual(outputs.thresholds(TOTAL_MASS), ())
        # As strong as it wants is strong enough.
        just = replace(tripod.SUPPORT.settings(build), counter=on_it.wants)
        kinds = {f.kind for f in analyse(with_settings(build, just), kit, MAN).findings}
        self.assertNotIn(tripod.OVER_COUNTER, kinds)
        weak = replace(tripod.SUPPORT.settings(build), counter=on_it.wants * 0.999)
        kinds = {f.kind for f in analyse(with_settings(build, weak), kit, MAN).findings}
        self.assertIn(tripod.OVER_COUNTER, kinds)

    def test_what_hangs_beside_the_head_meets_it_where_they_overlap(self) -> None:
        """The head is taken as 120 mm square below the clamp: a part 40 mm wide clears it from 80 mm on."""
        build, kit = rig(0)
        hanging = block("hanging", 0.1, (0.04, 0.04, 0.1), at=(0.0, 0.0, 0.06))
        for at, meets in ((0.078, True), (-0.078, True), (0.082, False), (-0.082, False)):
            more = replace(build, parts=(*build.parts, Placed("hanging", "hanging", "base", "rail", 0, at)))
            kinds = {f.kind for f in analyse(more, {**kit, "hanging": hanging}, MAN).findings}
            self.assertEqual(tripod.MEETS_HEAD in kinds, meets, at)

    def test_bare_marks_leave_off_what_sits_on_the_lens(self) -> None:
        build, kit = rig(3)
        front = Mount("front", MountKind.LENS_FRONT, (0.08, 0.0, 0.0))
        kit["lens"] = replace(kit["lens"], mounts=(front,))
        kit["other"] = replace(kit["other"], mounts=(front,))
        shade = block("shade", 0.4, (0.1, 0.12, 0.12), Category.MATTE_BOX, kind=MountKind.LENS_FRONT, at=(-0.05, 0, 0))
        kit["shade"] = shade
        build = replace(build, parts=(*build.parts, Placed("shade", "shade", "lens", "front")))
        marks = {(m.lens, m.bare): m.mark for m in plate_marks(analyse(build, kit, MAN), kit, MAN)}
        for name in ("lens", "other"):
            for bare in (False, True):
                parts = tuple(
                    replace(p, part_id=name) if p.id == "lens" else p
                    for p in build.parts
                    if not (bare and p.id == "shade")
                )
                there = slid_to(replace(build, parts=parts), marks[name, bare])
                self.assertAlmostEqual(analyse(there, kit, MAN).equilibrium.ahead, 0.0, places=9)
            self.assertLess(marks[name, False], marks[name, True])

    def test_a_plate_stands_within_half_its_travel_either_way(self) -> None:
        for slid, may in ((0.05, True), (-0.05, True), (0.0501, False), (-0.0501, False)):
            if may:
                self.assertEqual(TripodSettings(travel=0.1, slid=slid).slid, slid)
            else:
                with self.assertRaisesRegex(AssemblyError, "Mark of the plate"):
                    TripodSettings(travel=0.1, slid=slid)

    def test_settings_out_of_bounds_are_refused(self) -> None:
        refused: tuple[tuple[dict[str, Any], str], ...] = (
            ({"travel": 0.1, "slid": 0.06}, "Mark of the plate"),
            ({"travel": -0.1}, "plate's travel"),
            ({"counter": 0.0}, "counterbalance"),
            ({"height": 9.0}, "clamp's height"),
        )
        for bad, words in refused:
            with self.assertRaisesRegex(AssemblyError, words):
                TripodSettings(**bad)


class OnATable(unittest.TestCase):
    def test_hulls_against_qhull(self) -> None:
        rng = np.random.default_rng(7)
        for _ in range(30):
            points = rng.normal(size=(int(rng.integers(4, 20)), 2))
            ours = convex_hull(points)
            theirs = points[ConvexHull(points).vertices]
            self.assertEqual({tuple(p) for p in np.round(ours, 12)}, {tuple(p) for p in np.round(theirs, 12)})
            for probe in rng.normal(size=(10, 2)):
                inside, edge = edge_distance(ours, probe)
                # Brute force: inside if on the left of every edge; nearest line by its foot.
                lines = ConvexHull(points).equations
                self.assertAlmostEqual(inside, -float((lines[:, :2] @ probe + lines[:, 2]).max()), places=9)
                # From its own edge, seen as a line through two points, it is as far.
                (x1, y1), (x2, y2) = edge
                area = (x2 - x1) * (probe[1] - y1) - (y2 - y1) * (probe[0] - x1)
                self.assertAlmostEqual(area / math.hypot(x2 - x1, y2 - y1), inside, places=9)

    def test_what_folds_away_lets_it_stand_on_the_rest(self) -> None:
        """The same rig with the grips' boxes taken away, its CG kept: how it then stands, worked out by itself."""
        book = demo_book()
        build = replace(book.builds[0], support="tripod")
        found = tripod_result(analyse(build, book.parts, MAN))
        self.assertFalse(found.table.stands)
        self.assertTrue(found.folded.stands)
        kit = {
            key: replace(part, outline=None, cg=part.centre) if part.category is Category.GRIP else part
            for key, part in book.parts.items()
        }
        self.assertAlmostEqual(found.folded.angle, tripod_result(analyse(build, kit, MAN)).table.angle, places=9)

    def test_what_folds_away_for_nothing_stays(self) -> None:
        """A handle under the box's middle bears nothing at its edge; one that reaches out is what it stands on."""
        for out in (0.0, 0.15):
            box = block("box", 5.0, (0.2, 0.1, 0.1), Category.BODY)
            build, kit = shoulder_build((box, 0.0), (block("handle", 0.0, (0.02, 0.02, 0.1), Category.HANDLE), out))
            kit["base"] = replace(kit["base"], outline=None, mass=0.0)
            found = tripod_result(analyse(replace(build, support="tripod"), kit, MAN))
            self.assertEqual(found.table.over, (1, 2))
            # Taking away what it stands on the more surely by is no help either.
            self.assertIsNone(found.folded, out)

    def test_points_on_an_edge_are_no_corners(self) -> None:
        grid = np.array([(x, y) for x in (0.0, 0.25, 0.5) for y in (0.0, 0.25, 0.5)])
        corners = {(0.0, 0.0), (0.5, 0.0), (0.5, 0.5), (0.0, 0.5)}
        self.assertEqual([tuple(p) for p in convex_hull(grid)], [(0.0, 0.0), (0.5, 0.0), (0.5, 0.5), (0.0, 0.5)])
        self.assertEqual({tuple(p) for p in convex_hull(np.roll(grid, 4, axis=0))}, corners)

    def test_undersides_that_differ_by_less_than_a_millimetre_stand_together(self) -> None:
        """Common practice: a table, feet and plates give that much; it then stands on both, not on the one in front."""
        for step, both in ((0.0, True), (0.0009, True), (0.0011, False)):
            front = block("front", 1.0, (0.04, 0.1, 0.1), Category.BODY)
            rear = block("rear", 1.0, (0.04, 0.1, 0.1), Category.BATTERY, at=(0.0, 0.0, -step))
            build, kit = shoulder_build((front, 0.2), (rear, -0.2))
            kit["base"] = replace(kit["base"], outline=None, mass=0.0)
            found = analyse(replace(build, support="tripod"), kit, MAN)
            table = resting(found.assembly, found.positions, found.body)
            self.assertEqual(table.over, (1, 2) if both else (1,))
            self.assertEqual(table.stands, both)

    def test_it_stands_or_tips_over_the_nearest_edge(self) -> None:
        """A box 200 by 100 mm, its CG 150 mm up: over its near edge at atan of distance over height."""
        for at, stands in ((0.0, True), (0.099, True), (0.1, True), (0.101, False)):
            box = replace(block("box", 5.0, (0.2, 0.1, 0.1), Category.BODY), cg=(at, 0.0, 0.1))
            build, kit = shoulder_build((box, 0.0))
            kit["base"] = replace(kit["base"], outline=None, mass=0.0)
            found = analyse(replace(build, support="tripod"), kit, MAN)
            table = resting(found.assembly, found.positions, found.body)
            self.assertEqual(table.stands, stands)
            inside = min(0.1 - at, 0.05)
            self.assertAlmostEqual(table.angle, math.atan2(inside, 0.15))
            # The edge that it goes over: the front one, or the one aside.
            middle = table.edge.mean(axis=0) - found.positions.centre[1, :2]
            ends = np.ptp(table.edge, axis=0)
            if inside < 0.05:
                np.testing.assert_allclose(middle, [0.1, 0.0], atol=1e-12)
                np.testing.assert_allclose(ends, [0.0, 0.1], atol=1e-12)
            else:
                np.testing.assert_allclose(np.abs(middle), [0.0, 0.05], atol=1e-12)
                np.testing.assert_allclose(ends, [0.2, 0.0], atol=1e-12)
        self.assertEqual(len(table.over), 1)


if __name__ == "__main__":
    unittest.main()
