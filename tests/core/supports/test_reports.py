"""Reports: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import itertools
import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Hold, Placed
from equilix.core.chosen import with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind
from equilix.core.kit.uncertainty import Spread
from equilix.core.measurement.coach import with_scale
from equilix.core.operator.body import Lean
from equilix.core.slides import battery_slide
from equilix.core.solver.targets import (
    beyond_now,
    greatest_now,
    is_level,
    robust_target,
    target_of,
)
from equilix.core.statics.equilibrium import left_of
from equilix.core.statics.pose import hung_at
from equilix.core.statics.stages import Trouble, stages_of
from equilix.core.support import UNITS, ending_of, keyed, report_of, unit_of
from equilix.core.uncertainty.output_model import CG_AHEAD, TOTAL_MASS, firsts_of, output_model
from equilix.io.shipped import demo_book
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.gimbal import outputs as axes
from equilix.supports.gimbal.mechanics import order_of_work
from equilix.supports.handheld.mechanics import line_moment
from equilix.supports.shoulder.settings import ShoulderSettings
from tests.rigs.gimbals import random_gimbal
from tests.rigs.people import PERSON
from tests.rigs.plain import block, grip, rail, shoulder_build
from tests.rigs.results import gimbal_result


class UnitsOfKeys(unittest.TestCase):
    def test_a_key_names_its_unit_and_figures_come_in_it(self) -> None:
        """The SI Brochure (9th ed.): a degree is pi/180 rad, a millimetre 1e-3 m, a kilopascal 1e3 Pa."""
        for key, unit, per in (
            ("cg_ahead_mm", "mm", 1000.0),
            ("hang_pitch_deg", "deg", 180.0 / math.pi),
            ("fastest_pan_deg_s", "deg/s", 180.0 / math.pi),
            ("pitch_moment_nm", "N m", 1.0),
            ("larger_hand_n", "N", 1.0),
            ("pad_pressure_kpa", "kPa", 0.001),
            ("tilt_stage_kg", "kg", 1.0),
            ("drop_time_s", "s", 1.0),
            ("pan_inertia_kg_m2", "kg m2", 1.0),
            ("capacity_share", "", 1.0),
        ):
            self.assertEqual(unit_of(key), unit, key)
            if unit:
                self.assertAlmostEqual(UNITS[ending_of(key)][1], per, places=12, msg=key)
        build, kit = shoulder_build((block("camera", 2.0, (0.2, 0.1, 0.1), Category.BODY), 0.05))
        analysis = analyse(build, kit, PERSON)
        computed = output_model(analysis)
        found = keyed(computed)
        ahead, u = firsts_of(computed)[CG_AHEAD]
        self.assertAlmostEqual(found["cg_ahead_mm"].value, 1000.0 * ahead)
        self.assertAlmostEqual(found["cg_ahead_mm"].uncertainty, 1000.0 * u)
        self.assertAlmostEqual(found["pitch_moment_nm"].value, analysis.equilibrium.tip_moment)
        # What has no key stands in no file.
        self.assertEqual(set(found), {one.key for one in computed.offered if one.key})

    def test_a_motors_share_is_its_peak_over_its_rating_and_so_is_its_doubt(self) -> None:
        book = demo_book()
        build = next(one for one in book.builds if one.id == "gimbal-full")
        rated = replace(gimbal.SUPPORT.settings(build), tilt_rated=0.5, roll_rated=2.0, pan_rated=4.0)
        analysis = analyse(with_settings(build, rated), book.parts, PERSON)
        figures = report_of(analysis, PERSON).figures
        for name, most in (("tilt", 0.5), ("roll", 2.0), ("pan", 4.0)):
            peak, share = figures[f"{name}_torque_peak_nm"], figures[f"{name}_motor_share"]
            self.assertAlmostEqual(share.value, peak.value / most)
            self.assertAlmostEqual(share.uncertainty, peak.uncertainty / most)
            self.assertGreater(share.uncertainty, 0.0)

    def test_hands_off_the_pads_edge_counts_from_the_nearer_side(self) -> None:
        """Half the span less how far the CG lies from the middle, whichever way is less."""
        for aside, ahead in ((0.02, 0.0), (-0.02, 0.0), (0.0, 0.025), (0.004, -0.01)):
            camera = replace(block("camera", 3.0, (0.2, 0.1, 0.1), Category.BODY), cg=(ahead, aside, 0.05))
            build, kit = shoulder_build((camera, 0.0))
            rests = ShoulderSettings(span_x=0.08, span_y=0.05)
            analysis = analyse(with_settings(build, rests), kit, PERSON)
            d = analysis.body.cg - analysis.equilibrium.point
            margin = min(0.04 - abs(float(d[0])), 0.025 - abs(float(d[1])))
            figures = report_of(analysis, PERSON).figures
            self.assertAlmostEqual(figures["hands_off_margin_mm"].value, 1000.0 * margin)

    def test_the_moment_about_the_line_through_both_hands_seen_from_above(self) -> None:
        """Weight times distance from a line, by projecting onto its normal: any heights, either order, no sign."""
        rng = np.random.default_rng(3)
        for _ in range(20):
            hands, cg, mass = rng.uniform(-0.3, 0.3, (2, 3)), rng.uniform(-0.3, 0.3, 3), float(rng.uniform(1.0, 12.0))
            along = hands[1, :2] - hands[0, :2]
            normal = np.array([-along[1], along[0]]) / np.hypot(*along)
            away = abs(float((cg[:2] - hands[1, :2]) @ normal))
            self.assertAlmostEqual(line_moment(mass, cg, hands), mass * 9.80665 * away)
            self.assertAlmostEqual(line_moment(mass, cg, hands[::-1]), mass * 9.80665 * away)
            # One above the other they are a point, seen from above.
            upright = np.array([hands[0], hands[0] + [0.0, 0.0, 0.2]])
            far = float(np.hypot(*(cg - hands[0])[:2]))
            self.assertAlmostEqual(line_moment(mass, cg, upright), mass * 9.80665 * far)

    def test_what_lies_beyond_now_is_each_form_less_what_is_allowed_by_its_weight(self) -> None:
        """Static moments summed part by part: along the rig about its point, and aside of what it lies on."""
        for ahead, aside in ((0.1, 0.03), (0.0, 0.0), (-0.2, -0.05)):
            camera = replace(block("camera", 3.0, (0.2, 0.1, 0.1), Category.BODY), cg=(0.0, aside, 0.0))
            build, kit = shoulder_build((camera, ahead))
            analysis = analyse(build, kit, PERSON)
            target = target_of(analysis, 0.1)
            away, mass = analysis.positions.cg - analysis.equilibrium.point, analysis.assembly.mass
            tip, side = float(mass @ away[:, 0]), float(mass @ away[:, 1])
            half, u = analysis.equilibrium.aside, float(analysis.spread.cg[1])
            room = max(half - 2.0 * u, 0.25 * half) * float(mass.sum())
            # What is beyond either counts in tolerances of both.
            beyond = max(abs(tip) - 0.1 / 9.80665, 0.0) + (0.1 / 9.80665 / room) * max(abs(side) - room, 0.0)
            self.assertAlmostEqual(beyond_now(analysis, target), beyond, places=12)
            self.assertEqual(is_level(analysis, target), beyond == 0.0)
            self.assertAlmostEqual(greatest_now(analysis, target), max(abs(tip), abs(side)))

    def test_the_line_moment_that_is_shown_is_the_weight_times_the_way_to_the_line(self) -> None:
        build, kit = shoulder_build(
            (block("camera", 3.0, (0.2, 0.1, 0.1), Category.BODY), -0.03), (grip("l"), 0.21), (grip("r"), 0.12)
        )
        sides = {"l": 0.15, "r": -0.13}
        for name, y in sides.items():
            kit[name] = replace(kit[name], mounts=(replace(kit[name].mounts[0], at=(0.0, y, 0.0)),))
        analysis = analyse(replace(build, support="handheld"), kit, PERSON)
        judged = report_of(analysis, PERSON)
        first, second = np.array(judged.holders["hands_mm"])[:, :2]
        to_it, line = analysis.body.cg[:2] - first, second - first
        away = abs(line[0] * to_it[1] - line[1] * to_it[0]) / math.hypot(*line)
        self.assertGreater(away, 0.01)
        weight = analysis.body.mass * STANDARD_GRAVITY
        self.assertAlmostEqual(judged.figures["line_moment_nm"].value, weight * away)

    def test_a_rig_without_axes_is_one_payload_and_needs_a_mass(self) -> None:
        build, kit = shoulder_build((block("camera", 2.0, (0.2, 0.1, 0.1), Category.BODY), 0.05))
        analysis = analyse(replace(build, support="gimbal"), kit, PERSON)
        found = stages_of(analysis.assembly, analysis.positions, (0.0, 0.0, 0.065))
        self.assertTrue(found.usual)
        self.assertEqual([stage.name for stage in found.stages], ["tilt", "roll", "pan"])
        for stage in found.stages:
            self.assertAlmostEqual(stage.mass, analysis.body.mass)
            np.testing.assert_allclose(stage.cg, analysis.body.cg)
        light = {key: replace(part, mass=None) for key, part in kit.items()}
        none = analyse(replace(build, support="gimbal"), light, PERSON)
        self.assertIs(stages_of(none.assembly, none.positions, (0.0, 0.0, 0.065)), Trouble.NO_MASS)

    def test_without_axes_each_direction_is_asked_once(self) -> None:
        build, kit = shoulder_build((block("camera", 2.0, (0.2, 0.1, 0.1), Category.BODY), 0.05))
        target = target_of(analyse(replace(build, support="gimbal"), kit, PERSON))
        ways = np.array([form.direction for form in target.forms])
        np.testing.assert_array_equal(np.sort(ways @ [1.0, 2.0, 3.0]), [1.0, 2.0, 3.0])

    def test_left_is_a_quarter_turn_from_ahead_however_long_that_is(self) -> None:
        for forward, left in (((2.0, 0.0, 0.0), (0.0, 1.0, 0.0)), ((0.3, 0.4, 0.7), (-0.8, 0.6, 0.0))):
            np.testing.assert_allclose(left_of(np.array(forward)), left)

    def test_where_a_gimbals_verdicts_change(self) -> None:
        build, kit = random_gimbal(42)
        judges = output_model(analyse(build, kit, PERSON))
        for output in (CG_AHEAD, axes.TILT_Z, axes.ROLL_Y, axes.PAN_X):
            self.assertEqual([one.value for one in judges.thresholds(output)], [0.0], output)
        self.assertEqual(judges.thresholds(TOTAL_MASS), ())
        settings = gimbal.SUPPORT.settings(build)
        for output, name in ((axes.TILT_PEAK, "tilt"), (axes.PAN_PEAK, "pan")):
            found = [one.value for one in judges.thresholds(output)]
            self.assertEqual(found, [settings.window(name), settings.rated(name)])

    def test_torques_at_the_best_estimates_are_those_that_are_shown(self) -> None:
        """What is drawn and what is judged are one: tilt and roll level, pan with the frame leaned 30 degrees."""
        build, kit = random_gimbal(41)
        analysis = analyse(build, kit, PERSON)
        computed = output_model(analysis)
        figures = report_of(analysis, PERSON).figures
        for output, key, share in (
            (axes.TILT_PEAK, "tilt_torque_peak_nm", 1.0),
            (axes.ROLL_PEAK, "roll_torque_peak_nm", 1.0),
            (axes.PAN_PEAK, "pan_torque_peak_nm", 0.5),
        ):
            stage = gimbal_result(analysis).stage(key.split("_")[0])
            across = [k for k in range(3) if k != stage.about]
            peak = stage.mass * STANDARD_GRAVITY * math.hypot(*(stage.cg - stage.point)[across]) * share
            self.assertAlmostEqual(float(computed.values(output, computed.now())[0]), peak)
            self.assertAlmostEqual(figures[key].value, peak)

    def test_the_battery_slide_is_the_innermost_that_leaves_the_camera(self) -> None:
        parts = (
            (block("camera", 3.0, (0.2, 0.1, 0.1), Category.BODY, mounts=(rail("back", 0.3),)), 0.1),
            (block("plate", 0.2, mounts=(rail("wedge", 0.1),)), -0.2),
            (block("power", 0.9, category=Category.BATTERY), -0.3),
        )
        build, kit = shoulder_build(*parts)

        def on(holder: str, mount: str) -> Build:
            sits = replace(build.placed("power"), parent=holder, mount=mount, setting=0.0)
            return build.with_placed(sits)

        power = [p.id for p in build.parts].index("power")
        # On the camera's back its own slide moves it, the camera's does not count.
        for held in (on("plate", "wedge"), on("camera", "back")):
            assembly = analyse(held, kit, PERSON).assembly
            self.assertEqual(assembly.slide_parts[battery_slide(assembly)], power)
        screwed = Mount("back", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0))
        fixed = {**kit, "camera": replace(kit["camera"], mounts=(screwed,))}
        self.assertIsNone(battery_slide(analyse(on("camera", "back"), fixed, PERSON).assembly))

    def test_hands_on_what_hangs_are_where_the_rig_hangs(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0, (0.2, 0.1, 0.1), Category.BODY), 0.05), (grip("l"), 0.3))
        assembly = analyse(build, kit, PERSON).assembly
        positions = assembly.at(assembly.settings(build))
        hook, at = np.array([0.03, 0.01, 0.2]), np.array([0.25, -0.02, 1.62])
        pose = hung_at(assembly, positions, hook, at, PERSON, Hold(), Lean(), 0.7, 0.0)
        place = next(one for one in pose.places)
        np.testing.assert_allclose(pose.stance.grips[0].at, place.point + at - hook)

    def test_one_cable_may_cross_an_axis_two_are_warned_of(self) -> None:
        """Common practice: each cable across an axis works like a spring; more than one is asking for it."""
        book = demo_book()
        build = next(one for one in book.builds if one.id == "gimbal-light")
        for cables, warned in ((0.0, False), (1.0, False), (2.0, True)):
            settings = replace(gimbal.SUPPORT.settings(build), cables=cables)
            kinds = {f.kind for f in analyse(with_settings(build, settings), book.parts, PERSON).findings}
            self.assertEqual(gimbal.CABLES in kinds, warned, cables)

    def test_steps_tell_how_far_the_cg_is_off_its_axis(self) -> None:
        """In metres: the stage's CG beside its axis, before the first of its scales and after the last."""
        book = demo_book()
        for name in ("gimbal-light", "gimbal-full"):
            build = next(one for one in book.builds if one.id == name)
            analysis = analyse(build, book.parts, PERSON)
            steps = order_of_work(analysis)
            settings = {p.id: p.setting for p in build.parts} | {s.placed_id: s.to for s in steps if s.placed_id}
            parts = tuple(replace(p, setting=settings[p.id]) for p in build.parts)
            ended = analyse(replace(build, parts=parts), book.parts, PERSON)
            for form in dict.fromkeys((s.stage, s.beside) for s in steps):
                own = [s for s in steps if (s.stage, s.beside) == form]
                axis = "xyz".index(form[1])
                offsets = []
                for one in (analysis, ended):
                    stage = gimbal_result(one).stage(form[0])
                    offsets.append(float((stage.cg - stage.point)[axis]))
                self.assertAlmostEqual(own[-1].left, offsets[1], places=9, msg=(name, form))
                if form == (steps[0].stage, steps[0].beside):
                    # Nothing was set before it.
                    self.assertAlmostEqual(own[0].before, offsets[0], places=9)
                for step, later in itertools.pairwise(own):
                    self.assertEqual(step.left, later.before)

    def test_the_room_of_a_robust_way_is_narrowed_by_what_cgs_may_be_off_along_the_rig(self) -> None:
        """``forward . sum m^2 R u^2 R^T . forward``, with parts that stand askew on rosettes."""
        turn = Mount("t", MountKind.ROSETTE, (0.0, 0.0, 0.05), Connection.TURN, (0.0, 1.0, 0.0), -2.0, 2.0)
        build, kit = shoulder_build((block("camera", 2.0, (0.2, 0.1, 0.1), Category.BODY), 0.05))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, turn))
        arm = block("arm", 1.5, (0.3, 0.02, 0.04), Category.ARM, kind=MountKind.ROSETTE, at=(-0.1, 0.0, 0.0))
        kit["arm"] = replace(arm, cg_known=HowKnown.GUESSED)
        build = replace(build, parts=(*build.parts, Placed("arm", "arm", "base", "t", 0, math.radians(35.0))))
        analysis = analyse(build, kit, PERSON)
        equilibrium, assembly = analysis.equilibrium, analysis.assembly
        lever = (analysis.positions.cg - equilibrium.point) @ equilibrium.forward
        by_mass = sum((float(lever[i]) * float(assembly.uncertainties.mass[i])) ** 2 for i in range(len(lever)))
        by_mass += float(((assembly.uncertainties.gain @ lever) ** 2).sum())
        by_cg = 0.0
        for i in range(len(lever)):
            axes = assembly.rotation[i]
            for j in range(3):
                by_cg += (float(assembly.mass[i]) * float(axes[0, j]) * float(assembly.uncertainties.cg[i, j])) ** 2
        room = equilibrium.span - 2.0 * by_cg / math.sqrt(by_mass + by_cg) / analysis.body.mass
        plain = target_of(analysis)
        robust = robust_target(analysis, plain)
        self.assertEqual(robust.forms[: len(plain.forms)], plain.forms)
        for form in robust.forms[len(plain.forms) :]:
            self.assertAlmostEqual(form.within, room, delta=0.02 * equilibrium.span)
            self.assertTrue(form.strict)

    def test_what_has_forms_of_its_own_counts_moments_in_the_usual_tolerance(self) -> None:
        book = demo_book()
        for name in ("gimbal-light", "sled-zoom", "long-zoom"):
            build = next(one for one in book.builds if one.id == name)
            target = target_of(analyse(build, book.parts, PERSON))
            self.assertAlmostEqual(target.tolerance * 9.80665, 0.1, places=12)

    def test_the_part_to_look_at_first_and_whether_for_its_place(self) -> None:
        for share, placed, at, by_place in (
            ((0.2, 0.7, 0.1), (0.1, 0.36, 0.1), 1, True),
            ((0.2, 0.7, 0.1), (0.2, 0.34, 0.1), 1, False),
            ((0.9, 0.1), (0.40, 0.1), 0, False),
        ):
            spread = Spread(0.1, np.zeros(3), np.array(share), np.array(placed))
            self.assertEqual(spread.worst(), (at, by_place))

    def test_a_scale_that_is_set_leaves_the_other(self) -> None:
        self.assertEqual(with_scale((0.01, 0.02), 0, 0.05), (0.05, 0.02))
        self.assertEqual(with_scale((0.01, 0.02), 1, 0.05), (0.01, 0.05))
