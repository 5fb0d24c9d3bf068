"""What every support in the registry owes the rooms: walked over all of them, on rigs made at random."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Kit, Operator, Placed, Sex
from equilix.core.carry.carried import Carry, carry
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, HowKnown, Mount, MountKind, Part
from equilix.core.kit.parts import Connection as PartJoint
from equilix.core.registry import support_for
from equilix.core.slides import level_setting, slide_of_camera
from equilix.core.solver.counterweight import lever_of
from equilix.core.solver.dead_weight import weight_block, weight_mounts
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.sensitivity import influences
from equilix.core.solver.strategies import find_strategies
from equilix.core.solver.targets import beyond_now, target_of
from equilix.core.statics.pose import Hindrance
from equilix.core.support import case_of, report_of, unit_of
from equilix.core.uncertainty.output_model import (
    CG_AHEAD,
    LARGER_HAND,
    TIP_MOMENT,
    TOTAL_MASS,
    output_model,
    output_uncertainties,
)
from equilix.io.shipped import demo_book
from equilix.present.balance.elevation import draw_elevation
from equilix.present.balance.panel import balance_model
from equilix.present.balance.ways import ways_of
from equilix.present.drawing.scene import Scene
from equilix.present.supports import text_for
from equilix.present.supports.labels import label_for
from equilix.present.units import System
from equilix.present.words import mid_sentence
from equilix.supports.handheld.mechanics import hands_line, line_moment
from equilix.supports.shoulder import mechanics as shoulder
from tests.rigs.plain import block, grip, left_over, shoulder_build

BOOK = demo_book()
LENA = Operator("l", "Lena", 1.71, 66.0, sex=Sex.FEMALE)


def random_rig(seed: int, key: str) -> tuple[Build, dict[str, Part]]:
    """Return a camera on a slide with a lens, a battery and grips that may be staggered, lopsided by some way."""
    rng = np.random.default_rng(seed)
    nose = Mount("nose", MountKind.LENS_MOUNT, (0.08, 0.0, 0.0), PartJoint.FIXED, (1.0, 0.0, 0.0))
    camera = block(
        "camera", float(rng.uniform(1.0, 4.0)), (0.16, 0.11, 0.13), Category.BODY, HowKnown.SHEET, mounts=(nose,)
    )
    camera = replace(camera, cg=(0.0, float(rng.uniform(-0.01, 0.01)), 0.0))
    lens = block(
        "lens",
        float(rng.uniform(0.4, 2.0)),
        (0.16, 0.09, 0.09),
        Category.LENS,
        HowKnown.GUESSED,
        kind=MountKind.LENS_MOUNT,
    )
    other = replace(lens, id="other", name="Other lens", mass=float(rng.uniform(0.4, 2.0)))
    parts = [
        (camera, float(rng.uniform(-0.05, 0.05))),
        (block("battery", float(rng.uniform(0.5, 1.5)), (0.06, 0.1, 0.14), Category.BATTERY), -0.25),
        (replace(grip("l"), mass=0.1, feet=(replace(grip("l").feet[0], at=(0.0, -0.17, 0.1)),)), 0.28),
        (replace(grip("r"), mass=0.1, feet=(replace(grip("r").feet[0], at=(0.0, 0.17, 0.1)),)), 0.22),
    ]
    build, kit = shoulder_build(*parts)
    kit |= {"lens": lens, "other": other}
    on = replace(build.parts[1], id="lens", part_id="lens", parent="camera", mount="nose", setting=0.0)
    return replace(build, parts=(*build.parts, on), support=key), kit


class Contract(unittest.TestCase):
    def each(self, seeds: range = range(4)) -> list[tuple[str, Analysis, Kit]]:
        found = []
        for key in KEYS:
            for seed in seeds:
                build, kit = random_rig(seed, key)
                found.append((key, analyse(build, kit, LENA), kit))
            for build in BOOK.builds:
                found.append((key, analyse(replace(build, support=key), BOOK.parts, LENA), BOOK.parts))
        # A gimbal without a pad lies on no shoulder, and without a plate on no tripod.
        return [case for case in found if case[1].equilibrium is not None]

    def test_every_part_has_its_share_and_they_are_the_moment(self) -> None:
        """Brute force: each part's weight times its way from the point along the way in which it tips."""
        for key, analysis, _ in self.each():
            equilibrium, assembly = analysis.equilibrium, analysis.assembly
            with self.subTest(key):
                self.assertAlmostEqual(float(np.linalg.norm(equilibrium.forward)), 1.0, places=12)
                self.assertEqual(float(equilibrium.forward[2]), 0.0)
                turns = equilibrium.groups[0] if equilibrium.groups else [True] * len(assembly.parts)
                total = sum(
                    float(m) * STANDARD_GRAVITY * float((r - equilibrium.point) @ equilibrium.forward)
                    for m, r, on_it in zip(assembly.mass, analysis.positions.cg, turns, strict=True)
                    if on_it
                )
                self.assertAlmostEqual(equilibrium.tip_moment, total, places=9)
                self.assertAlmostEqual(float(equilibrium.moment.sum()), total, places=9)

    def test_what_holds_it_is_in_balance(self) -> None:
        for key, analysis, _ in self.each():
            equilibrium = analysis.equilibrium
            if equilibrium.holding is None:
                # Nothing holds it level; what hangs by itself is worn with its weight where it hangs.
                found = carry(analysis, LENA, key)
                if isinstance(found, Carry):
                    pull = [0.0, 0.0, analysis.body.mass * STANDARD_GRAVITY]
                    self.assertLess(np.abs(found.held.pad_force - pull).max(), 1e-6, key)
                    self.assertLess(np.abs(found.held.pad_moment).max(), 1e-6, key)
                else:
                    self.assertIsInstance(found, Hindrance)
                continue
            # Pad or cable: what lies on something pushes there.
            pad = equilibrium.point if float(equilibrium.holding.pad_force[2]) != 0.0 else None
            held = replace(equilibrium.holding, braced=())
            self.assertLess(np.abs(left_over(analysis.body.mass, analysis.body.cg, pad, held)).max(), 1e-7, key)

    def test_the_camera_slid_to_level_is_level(self) -> None:
        for key, analysis, kit in self.each():
            slide = slide_of_camera(analysis)
            setting = level_setting(analysis, slide)
            placed = analysis.build.parts[analysis.assembly.slide_parts[slide]]
            after = analyse(analysis.build.with_placed(replace(placed, setting=setting)), kit, LENA)
            self.assertAlmostEqual(after.equilibrium.tip_moment, 0.0, places=9, msg=key)

    def test_every_gauge_is_finite_and_its_doubt_too(self) -> None:
        for key, analysis, _ in self.each():
            outputs = output_model(analysis)
            for output, u in output_uncertainties(outputs).items():
                value = float(outputs.values(output, outputs.now())[0])
                self.assertTrue(math.isfinite(value) and math.isfinite(u), (key, output))
            values = {output: float(outputs.values(output, outputs.now())[0]) for output in outputs.offered}
            equilibrium = analysis.equilibrium
            self.assertAlmostEqual(values[CG_AHEAD], equilibrium.ahead, places=12)
            self.assertAlmostEqual(values[TIP_MOMENT], equilibrium.tip_moment, places=9)
            self.assertAlmostEqual(values[TOTAL_MASS], analysis.body.mass, places=12)
            if LARGER_HAND in values:
                self.assertAlmostEqual(values[LARGER_HAND], equilibrium.holding.larger, places=6)
            # The stand's own uncertainties, worked out of levers, against the covariance of all that figures rest on.
            if not list(support_for(key).observed(case_of(analysis))):
                slopes, spread = (
                    (outputs.gradient(output) for output in (CG_AHEAD, TIP_MOMENT)),
                    outputs.covariance(),
                )
                ahead_u, moment_u = (math.sqrt(float(h @ spread @ h)) for h in slopes)
                self.assertAlmostEqual(equilibrium.ahead_uncertainty / ahead_u, 1.0, places=5, msg=key)
                self.assertAlmostEqual(equilibrium.tip_uncertainty / moment_u, 1.0, places=5, msg=key)
            first = equilibrium.of_form(analysis.assembly.mass)
            d = first @ analysis.positions.cg / first.sum() - equilibrium.point
            self.assertAlmostEqual(equilibrium.left, float(d @ equilibrium.across), places=12)
            self.assertAlmostEqual(equilibrium.above, float(d[2]), places=12)
            self.assertAlmostEqual(float(np.cross(equilibrium.forward, equilibrium.across)[2]), 1.0, places=12)
            if shoulder.ABOVE in values:
                self.assertAlmostEqual(values[shoulder.LEFT], equilibrium.left, places=12)
                self.assertAlmostEqual(values[shoulder.ABOVE], equilibrium.above, places=12)
                self.assertAlmostEqual(values[shoulder.ON_SHOULDER], float(equilibrium.holding.pad_force[2]), places=6)

    def test_figures_have_units_and_doubts(self) -> None:
        for key, analysis, _ in self.each(range(1)):
            judged = report_of(analysis, LENA)
            self.assertTrue(judged.holders, key)
            self.assertGreater(len(judged.figures), 3)
            for name, figure in judged.figures.items():
                self.assertTrue(unit_of(name) or name.endswith(("_share", "stable", "stands")), name)
                said = figure.uncertainty is not None and math.isfinite(figure.uncertainty)
                # A drop time of what turns over is none, and has no uncertainty.
                self.assertTrue(said or name in ("stable", "stands") or math.isnan(figure.value), name)

    def test_lens_marks_are_level_where_they_can_be_reached(self) -> None:
        for key, analysis, kit in self.each(range(2)):
            table = lens_table(analysis, kit, LENA)
            self.assertIsNotNone(table, key)
            lens = next(
                p for p, q in zip(analysis.build.parts, analysis.assembly.parts, strict=True) if q.category == "lens"
            )
            for row in table.rows:
                if row.part is None or row.long_end or abs(row.mark - row.stop) > 2e-6:
                    continue
                build = analysis.build.with_placed(replace(lens, part_id=row.part.id))
                build = build.with_placed(replace(build.placed(table.placed_id), setting=row.stop))
                for placed_id, setting in row.along:
                    build = build.with_placed(replace(build.placed(placed_id), setting=setting))
                self.assertAlmostEqual(analyse(build, kit, LENA).equilibrium.tip_moment, 0.0, delta=1e-4, msg=key)

    def test_ways_keep_their_promise_and_leave_less(self) -> None:
        walked = 0
        for key, analysis, kit in self.each(range(2)):
            target = target_of(analysis)
            for way in ways_of(find_strategies(analysis, kit, LENA), analysis, System.METRIC):
                again = analyse(way.strategy.plan.build, {**kit, **way.strategy.plan.kit}, LENA)
                self.assertAlmostEqual(again.equilibrium.tip_moment, way.strategy.remaining, places=9, msg=key)
                if way.kind != "as heavy as steadies it":
                    # Where there is more to close than the tip moment, all of it counts.
                    self.assertLessEqual(beyond_now(again, target_of(again)), beyond_now(analysis, target) + 1e-6, key)
                walked += 1
        self.assertGreater(walked, 8)

    def test_a_counterweight_by_its_lever_levels_the_rig(self) -> None:
        hung = dict.fromkeys(KEYS, 0)
        for key, analysis, kit in self.each(range(3)):
            for free in weight_mounts(analysis.build, kit):
                lever = lever_of(analysis, free)
                for end in {lever.low, lever.high} if lever is not None else ():
                    mass = lever.mass_at(end)
                    if mass is None:
                        continue
                    on_it = Placed("w", "w", free.placed_id, free.mount.id, 0, end)
                    build = replace(analysis.build, parts=(*analysis.build.parts, on_it))
                    after = analyse(build, {**kit, "w": weight_block(mass, free.mount.kind, "w")}, LENA)
                    self.assertAlmostEqual(after.equilibrium.tip_moment, 0.0, places=8, msg=key)
                    hung[key] += 1
        self.assertGreater(min(hung.values()), 0, hung)

    def test_every_support_has_a_label_and_a_sign_for_the_top_bar(self) -> None:
        for key in KEYS:
            label = label_for(key)
            self.assertEqual(text_for(key).support, support_for(key))
            self.assertGreater(len(label.tip), len(label.name))
            scene = Scene()
            label.sign(scene, 16.0, "ink")
            x, y = np.array(
                [
                    (float(command[k]) + item.dx, float(command[k + 1]) + item.dy)
                    for item in scene.items
                    for command in item.commands
                    for k in range(1, len(command), 2)
                ]
            ).T
            # A button of 32 px with room for its word.
            self.assertTrue(8.0 <= x.min() < x.max() <= 38.0, (key, x))
            self.assertTrue(2.0 <= y.min() < y.max() <= 30.0, (key, y))

    def test_every_support_has_words_and_a_picture_and_never_those_of_another(self) -> None:
        for key, analysis, _ in self.each(range(1)):
            words = text_for(key)
            model = balance_model(analysis, LENA, System.METRIC)
            drawn = draw_elevation(analysis, LENA, System.METRIC, 800.0, 480.0)
            said = [model.verdict.head, model.verdict.body, model.verdict.note, model.cause.text, *model.cautions]
            said += [text for row in model.figures for text in (row.label, row.note)]
            said += [row.spoken for row in model.rows if "pad" not in row.name.lower()]
            said += [
                words.noun,
                words.needs,
                words.here,
                words.closing,
                *(words.output_name(g) for g in output_model(analysis).offered),
            ]
            self.assertTrue(drawn.scene.items)
            if key != "shoulder":
                for text in said:
                    for part in analysis.assembly.parts:
                        for name in (part.name, part.name.split(",")[0], mid_sentence(part.name.split(",")[0])):
                            text = text.replace(name, "")
                    self.assertNotRegex(text.lower(), r"\bpad\b|on the shoulder", text)
            self.assertIn(words.mark(case_of(analysis)), ("look", "part", "settled"))
            self.assertTrue(all(s.part < len(analysis.assembly.parts) for s in influences(analysis)))


class HandsLine(unittest.TestCase):
    def test_staggered_grips_end_the_see_saw_only_where_their_line_passes_under_the_cg(self) -> None:
        """Statics, seen from above: W times the CG's distance from the line through both hands."""
        hands = np.array([[0.25, 0.15, -0.1], [0.05, -0.15, -0.1]])
        for cg in (np.array([0.15, 0.0, 0.1]), np.array([0.05, 0.0, 0.1]), np.array([0.2, 0.1, 0.0])):
            point, forward = hands_line(hands, cg)
            away = abs(float((cg - point) @ forward))
            self.assertAlmostEqual(line_moment(5.0, cg, hands), 5.0 * STANDARD_GRAVITY * away, places=9)
            self.assertAlmostEqual(float((hands[1] - hands[0])[:2] @ forward[:2]), 0.0, places=12)
            self.assertAlmostEqual(float((cg - point)[:2] @ (hands[1] - hands[0])[:2]), 0.0, places=12)
        self.assertAlmostEqual(line_moment(5.0, np.array([0.15, 0.0, 0.1]), hands), 0.0, places=9)

    def test_hands_behind_each_other_tip_to_the_side(self) -> None:
        _, forward = hands_line(np.array([[0.3, 0.0, 0.0], [0.0, 0.0, 0.0]]), np.array([0.1, 0.02, 0.0]))
        np.testing.assert_allclose(forward, [0.0, 1.0, 0.0], atol=1e-12)

    def test_words_name_the_side_to_which_it_tips(self) -> None:
        """Grips behind each other under a lopsided rig: it turns about the line along the rig, to the left."""
        parts = (
            (replace(block("camera", 3.0, category=Category.BODY), cg=(0.0, 0.05, 0.0)), 0.1),
            (replace(grip("l"), mass=0.1), 0.3),
            (replace(grip("r"), mass=0.1), -0.1),
        )
        build, kit = shoulder_build(*parts)
        analysis = analyse(replace(build, support="handheld"), kit, LENA)
        self.assertAlmostEqual(abs(float(analysis.equilibrium.forward[1])), 1.0)
        words = text_for("handheld").verdict(case_of(analysis), System.METRIC)
        self.assertEqual(words.head, "Tips to the left.")
        self.assertEqual(text_for("handheld").where(case_of(analysis)), "left of the hands")


if __name__ == "__main__":
    unittest.main()
