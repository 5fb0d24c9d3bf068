"""Facts of pads, hands, heads and coaches that whole rigs hide: each worked out by hand."""

from __future__ import annotations

import itertools
import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Hold, Operator, Placed, Side, check_build
from equilix.core.chosen import with_settings
from equilix.core.errors import AssemblyError
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind, Outline, Part
from equilix.core.kit.uncertainty import Spread
from equilix.core.measurement.belief import CoachBelief, CoachModel, Observation, Response, believe
from equilix.core.measurement.bench import Setup, Subject, suggested_layout
from equilix.core.measurement.coach import Action, advise, with_scale, without
from equilix.core.operator.body import Lean, body_of
from equilix.core.slides import battery_slide
from equilix.core.solver.relaxations import relaxations
from equilix.core.solver.sensitivity import influences
from equilix.core.solver.targets import (
    beyond_now,
    form_arms,
    form_slopes,
    form_value,
    greatest_now,
    is_level,
    robust_target,
    target_of,
)
from equilix.core.statics.equilibrium import left_of
from equilix.core.statics.holding import PALM_LEVER
from equilix.core.statics.pose import hung_at
from equilix.core.statics.screws import one_screws
from equilix.core.statics.stages import Trouble, stages_of
from equilix.core.support import UNITS, ending_of, keyed, report_of, unit_of
from equilix.core.uncertainty.montecarlo import sample
from equilix.core.uncertainty.output_model import CG_AHEAD, TOTAL_MASS, firsts_of, lessons, output_model
from equilix.io.shipped import demo_book
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.gimbal import outputs as axes
from equilix.supports.gimbal.mechanics import order_of_work
from equilix.supports.handheld.mechanics import line_moment
from equilix.supports.shoulder.settings import ShoulderSettings
from equilix.supports.tripod.mechanics import plate_marks, slid_to
from equilix.supports.tripod.settings import TripodSettings
from equilix.supports.tripod.table import nearest_step
from equilix.supports.vest import mechanics as vest
from equilix.supports.vest import outputs
from equilix.supports.vest.hanging import VestCase
from equilix.supports.vest.settings import Timed
from equilix.supports.vest.timing import BY_HAND
from tests.core.builders import base, block, grip, rail, shoulder_build
from tests.core.supports.sleds import with_lesson
from tests.core.supports.test_gimbal_references import random_gimbal

MAN = Operator("m", "M", 1.78, 79.0)


def rig_on_a_sliding_pad(travel: float) -> tuple[Build, dict[str, Part]]:
    """Return a camera on a base whose pad slides `travel` (m) either way and stands at its rear stop."""
    contact = Mount("shoulder", MountKind.SHOULDER, (0.0, 0.0, -0.03))
    pad = block("pad", 0.4, (0.1, 0.08, 0.05), Category.PAD, mounts=(contact,), kind=MountKind.DOVETAIL)
    below = Mount("below", MountKind.DOVETAIL, (0.0, 0.0, -0.02), Connection.SLIDE, (1.0, 0.0, 0.0), -travel, travel)
    camera = block("camera", 3.0, (0.14, 0.1, 0.12), Category.BODY)
    build, kit = shoulder_build((camera, 0.15))
    # Of the base's own mounts its shoulder contact gives way to the pad's.
    kit["base"] = replace(base(), mounts=(*base().mounts[1:], below))
    kit["pad"] = pad
    return replace(build, parts=(*build.parts, Placed("pad", "pad", "base", "below", 0, travel))), kit


def moment(analysis: Analysis) -> float:
    """Return the tip moment (N m) by summing every part."""
    lever = (analysis.positions.cg - analysis.equilibrium.point) @ analysis.equilibrium.forward
    return STANDARD_GRAVITY * float(analysis.assembly.mass @ lever)


class Pads(unittest.TestCase):
    def test_a_pad_at_its_stop_says_how_much_more_travel_levels_the_rig(self) -> None:
        build, kit = rig_on_a_sliding_pad(0.02)
        after = analyse(build, kit, MAN)
        self.assertGreater(moment(after), 0.5)
        more = {r.placed_id: r.travel for r in relaxations(after, moment(after) / STANDARD_GRAVITY) if r.travel > 0.0}
        self.assertIn("pad", more)
        longer = {m.id: replace(m, high=0.5) if m.id == "below" else m for m in kit["base"].mounts}
        kit["base"] = replace(kit["base"], mounts=tuple(longer.values()))
        moved = build.with_placed(replace(build.placed("pad"), setting=0.02 + more["pad"]))
        self.assertAlmostEqual(moment(analyse(moved, kit, MAN)), 0.0, places=9)

    def test_the_doubt_of_the_moment_sideways_counts_from_the_pad(self) -> None:
        """M = sum m g (y - pad), by hand: a part weighed to u_m gives g (y - pad) u_m, its CG gives m g u_y."""
        build, kit = shoulder_build((replace(block("camera", 3.0), mass_u=0.05, cg_u=0.004), 0.02))
        contact = replace(kit["base"].mounts[0], at=(0.0, 0.05, 0.0))
        kit["base"] = replace(kit["base"], mounts=(contact, *kit["base"].mounts[1:]), mass_u=0.03, cg_u=0.002)
        found = analyse(build, kit, MAN)
        judged = report_of(found, MAN).figures["roll_moment_nm"]
        by_mass = math.hypot(0.05 * 0.05, 0.03 * 0.05)
        by_place = math.hypot(3.0 * 0.004, 1.0 * 0.002)
        self.assertAlmostEqual(judged.uncertainty, STANDARD_GRAVITY * math.hypot(by_mass, by_place), delta=1e-6)
        self.assertAlmostEqual(judged.value, 4.0 * STANDARD_GRAVITY * 0.05, places=9)

    def test_a_pad_on_the_left_shoulder_stands_as_far_out(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        spots = []
        for side in Side:
            operator = replace(MAN, shoulder=side)
            spots.append(analyse(build, kit, operator).equilibrium.pose.stance.pad)
        self.assertEqual(spots[0][1], -spots[1][1])
        self.assertEqual(spots[0][::2], spots[1][::2])
        self.assertAlmostEqual(spots[0][2], body_of(MAN).shoulder_right[2])


class Hands(unittest.TestCase):
    def test_two_hands_hold_it_sideways_one_only_over_its_palm(self) -> None:
        two = tuple(replace(grip(side), name=side) for side in ("one", "two"))
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        kit |= {part.id: part for part in two}
        placed = [Placed(p.id, p.id, "base", "across", 0, at) for p, at in zip(two, (0.15, -0.15), strict=True)]
        held = replace(build, support="handheld", parts=(*build.parts, *placed))
        equilibrium = analyse(held, kit, MAN).equilibrium
        self.assertEqual((equilibrium.span, equilibrium.aside), (None, None))
        alone = replace(held, parts=held.parts[:-1])
        equilibrium = analyse(alone, kit, MAN).equilibrium
        self.assertEqual((equilibrium.span, equilibrium.aside), (None, PALM_LEVER / 2.0))

    def test_limits_are_told_in_shares_of_the_stature(self) -> None:
        with self.assertRaisesRegex(AssemblyError, "from 25 to 55 % of the height"):
            Operator("s", "S", 1.8, reach=1.7)
        with self.assertRaisesRegex(AssemblyError, "from 70 to 95 % of the height"):
            Operator("s", "S", 1.8, shoulder_height=1.0)

    def test_a_thickness_that_was_measured_counts(self) -> None:
        self.assertEqual(Hold(thickness=0.03).thickness, 0.03)
        for wrong in (0.009, 0.081):
            with self.assertRaisesRegex(AssemblyError, "The thickness of a grip"):
                Hold(thickness=wrong)


class Heads(unittest.TestCase):
    def test_a_head_with_one_step_is_on_or_off(self) -> None:
        one = TripodSettings(counter=20.0, steps=1.0)
        self.assertEqual([nearest_step(wants, one) for wants in (-3.0, 9.0, 11.0, 30.0)], [0.0, 0.0, 20.0, 20.0])
        self.assertEqual(nearest_step(-3.0, TripodSettings(counter=20.0)), 0.0)


class Sways(unittest.TestCase):
    def test_what_a_part_weighed_badly_moves_the_mark_by(self) -> None:
        """Both ways by two of its own standard uncertainties, the mark solved anew each time."""
        build, kit = shoulder_build((block("camera", 3.0, category=Category.BODY), 0.08), (block("power", 1.5), -0.3))
        kit["power"] = replace(kit["power"], mass_u=0.08)
        found = analyse(build, kit, MAN)
        influence = {s.part: s.shift for s in influences(found)}
        marks = []
        for sign in (-1.0, 1.0):
            other = analyse(build, {**kit, "power": replace(kit["power"], mass=1.5 + 2.0 * sign * 0.08)}, MAN)
            marks.append(0.08 - moment(other) / STANDARD_GRAVITY / 3.0)
        power = next(k for k, placed in enumerate(found.build.parts) if placed.id == "power")
        self.assertAlmostEqual(influence[power] / (abs(marks[1] - marks[0]) / 2.0), 1.0, delta=0.02)


class Sampling(unittest.TestCase):
    def test_its_progress_rises_to_the_end(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        found = analyse(build, kit, MAN)
        heard: list[float] = []
        computed = output_model(found)
        assert computed is not None
        self.assertIsNotNone(sample(found, computed, 4_000, progress=lambda share: heard.append(share) or True))
        self.assertEqual(heard, sorted(heard))
        self.assertTrue(0.0 < heard[0] < heard[-1] == 1.0)
        self.assertTrue(all(share <= 1.0 for share in heard))
        self.assertIsNone(sample(found, computed, 4_000, progress=lambda share: share < 0.95))


class Layouts(unittest.TestCase):
    def test_hooks_are_where_a_rule_can_read_them(self) -> None:
        """A rule reads whole millimetres: common practice."""
        odd = Subject(
            "Part", 1.0, 0.01, (0.0123, 0.0, 0.0046), (0.01,) * 3, (0.2317, 0.1, 0.1013), (0.0123, 0.0, 0.0046)
        )
        for place in suggested_layout(Setup.FORE_AFT, odd).hooks:
            for value in place:
                self.assertAlmostEqual(1000.0 * value, round(1000.0 * value), places=9)


class Coached(unittest.TestCase):
    def test_a_look_that_is_taken_back_is_gone_and_no_other(self) -> None:
        looks = [Observation((1.0, 0.0), (k * 0.01, 0.0), Response.FALLS) for k in range(4)]
        self.assertEqual(without(looks, 1), (looks[0], looks[2], looks[3]))

    def test_it_moves_the_scale_that_is_surely_off(self) -> None:
        """Efforts that say that one scale is off by far more than the window: that one is set, to where it is level."""
        bench = CoachModel()
        slope = bench.slopes[0]
        ways = ((1.0, 0.0), (0.0, 1.0))
        looks = [Observation(way, (0.0, 0.0), effort=float(np.array(way) @ (0.3, 0.0)), u=0.002) for way in ways * 3]
        belief = believe(bench, looks, (0.0, 0.0))
        advice = advise(bench, belief, looks, (0.0, 0.0), ways, True)
        self.assertIs(advice.do, Action.MOVE)
        self.assertEqual(advice.scale, 0)
        self.assertAlmostEqual(advice.to, -0.3 / slope, delta=0.35 * abs(0.3 / slope))
        self.assertIsInstance(belief, CoachBelief)


class Outlines(unittest.TestCase):
    def test_a_cylinder_is_as_wide_as_high(self) -> None:
        from equilix.core.kit.parts import Shape

        with self.assertRaisesRegex(AssemblyError, "diameter"):
            Outline((0.1, 0.05, 0.06), shape=Shape.CYLINDER)
        self.assertEqual(Outline((0.1, 0.06, 0.06), shape=Shape.CYLINDER).size, (0.1, 0.06, 0.06))


class Forms(unittest.TestCase):
    def test_how_forms_grow_with_masses_and_slides_by_trying(self) -> None:
        """Central differences of each form of every kind of target, products of inertia among them."""
        book = demo_book()
        for build_id in ("long-zoom", "gimbal-full", "sled-zoom"):
            build, kit = book.build(build_id), dict(book.parts)
            found = analyse(build, kit, MAN)
            target = target_of(found)
            for form in target.forms:
                arms, slopes = form_arms(found, target, form), form_slopes(found, target, form)
                for k, placed in enumerate(build.parts):
                    part = kit[placed.part_id]
                    ends = []
                    for dm in (-1e-4, 1e-4):
                        other = analyse(build, {**kit, part.id: replace(part, mass=part.mass + dm)}, MAN)
                        ends.append(form_value(other, target, form))
                    twins = [j for j, p in enumerate(build.parts) if p.part_id == placed.part_id]
                    grown = (ends[1] - ends[0]) / 2e-4
                    self.assertAlmostEqual(grown, float(arms[twins].sum()), delta=1e-7, msg=(build_id, form.name, k))
                if form.lever is not None or build_id == "sled-zoom":
                    continue  # their wished place moves with the slides
                for j, part_number in enumerate(found.assembly.slide_parts):
                    placed, mount = build.parts[part_number], found.assembly.slide_mounts[j]
                    if mount.step or not mount.low + 1e-3 < placed.setting < mount.high - 1e-3:
                        continue
                    ends = []
                    for ds in (-1e-4, 1e-4):
                        moved = build.with_placed(replace(placed, setting=placed.setting + ds))
                        other = analyse(moved, kit, MAN)
                        same = next(one for one in target_of(other).forms if one.name == form.name)
                        ends.append(form_value(other, target_of(other), same))
                    grown = (ends[1] - ends[0]) / 2e-4
                    self.assertAlmostEqual(grown, float(slopes[j]), delta=1e-6, msg=(build_id, form.name, placed.id))


class Learned(unittest.TestCase):
    def sled(self, tries: tuple[float, ...], pitch: float | None = None, roll: float | None = None) -> VestCase:
        book = demo_book()
        build = book.build("sled-zoom")
        mass = analyse(build, dict(book.parts), MAN).body.mass
        timed = with_lesson(build, Timed(tries, mass, pitch, roll))
        return vest.SUPPORT.case(analyse(timed, dict(book.parts), MAN))

    def test_the_doubt_of_a_timed_drop(self) -> None:
        """Of n tries: their scatter over the root of n, GUM 4.2.3, and what one hand is late by in all of them."""
        for tries, unsure in (((1.0, 1.6), math.hypot(BY_HAND, 0.3)), ((1.2,), BY_HAND), ((1.2,) * 20, BY_HAND)):
            observed = dict(vest.SUPPORT.observed(self.sled(tries)))
            self.assertAlmostEqual(observed[outputs.DROP], unsure, places=9)

    def test_lessons_one_after_the_other_are_worth_all_at_once(self) -> None:
        """What is left of a covariance: C - C H^T (H C H^T + R)^-1 H C, all rows of H at once."""
        found = self.sled((2.6, 2.7, 2.5), 0.02, 0.01)
        computed = output_model(found.analysis)
        assert computed is not None
        covariance = computed.covariance()
        left, rows, uncertainties = covariance, [], []
        for gain, gradient, u in lessons(computed, covariance):
            left = left - np.outer(gain, gradient @ left)
            rows.append(gradient)
            uncertainties.append(u * u)
        self.assertEqual(len(rows), 3)
        h = np.array(rows)
        within = h @ covariance @ h.T + np.diag(uncertainties)
        wanted = covariance - covariance @ h.T @ np.linalg.solve(within, h @ covariance)
        size = np.sqrt(np.diag(covariance))
        np.testing.assert_allclose(left / np.outer(size, size), wanted / np.outer(size, size), atol=1e-9)
        # And each figure that was read is surer than before, and than the reading alone.
        for output, u in vest.SUPPORT.observed(found):
            self.assertLess(computed.firsts([output])[output][1], u)


class Feet(unittest.TestCase):
    def test_a_foot_that_a_part_does_not_have(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0), 0.02))
        for foot in (1, 2):
            wrong = build.with_placed(replace(build.placed("camera"), foot=foot))
            with self.assertRaisesRegex(AssemblyError, f"camera has no mount number {foot + 1} below"):
                check_build(wrong, kit)
        check_build(build, kit)
        for wrong in (0.5, 1.0):
            with self.assertRaisesRegex(AssemblyError, "number of a mount below must be a whole number"):
                replace(build.placed("camera"), foot=wrong)
            with self.assertRaisesRegex(AssemblyError, "Quarter turns must be a whole number"):
                replace(build.placed("camera"), quarter_turns=wrong)


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
        marks = {mark.battery: mark.mark for mark in plate_marks(analyse(build, kit, MAN), kit, MAN) if not mark.bare}
        self.assertEqual(set(marks), {"small", "large"})
        for battery, mark in marks.items():
            swapped = build.with_placed(replace(build.placed("small"), part_id=battery))
            self.assertAlmostEqual(analyse(slid_to(swapped, mark), kit, MAN).equilibrium.ahead, 0.0, places=9)
        # A heavier pack behind takes the camera forward in its clamp.
        self.assertGreater(marks["large"], marks["small"])

    def test_a_rig_without_a_battery_has_marks_too(self) -> None:
        build, kit = self.rig()
        (mark,) = {(m.battery, m.mark) for m in plate_marks(analyse(build, kit, MAN), kit, MAN) if not m.bare}
        self.assertEqual(mark[0], "")
        self.assertAlmostEqual(analyse(slid_to(build, mark[1]), kit, MAN).equilibrium.ahead, 0.0, places=9)
        spare = block("spare", 0.6, (0.06, 0.1, 0.1), Category.BATTERY)
        again = plate_marks(analyse(build, {**kit, "spare": spare}, MAN), {**kit, "spare": spare}, MAN)
        self.assertEqual({m.battery for m in again}, {""})


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
        analysis = analyse(build, kit, MAN)
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
        analysis = analyse(with_settings(build, rated), book.parts, MAN)
        figures = report_of(analysis, MAN).figures
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
            analysis = analyse(with_settings(build, rests), kit, MAN)
            d = analysis.body.cg - analysis.equilibrium.point
            margin = min(0.04 - abs(float(d[0])), 0.025 - abs(float(d[1])))
            figures = report_of(analysis, MAN).figures
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
            analysis = analyse(build, kit, MAN)
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
        analysis = analyse(replace(build, support="handheld"), kit, MAN)
        judged = report_of(analysis, MAN)
        first, second = np.array(judged.holders["hands_mm"])[:, :2]
        to_it, line = analysis.body.cg[:2] - first, second - first
        away = abs(line[0] * to_it[1] - line[1] * to_it[0]) / math.hypot(*line)
        self.assertGreater(away, 0.01)
        weight = analysis.body.mass * STANDARD_GRAVITY
        self.assertAlmostEqual(judged.figures["line_moment_nm"].value, weight * away)

    def test_a_rig_without_axes_is_one_payload_and_needs_a_mass(self) -> None:
        build, kit = shoulder_build((block("camera", 2.0, (0.2, 0.1, 0.1), Category.BODY), 0.05))
        analysis = analyse(replace(build, support="gimbal"), kit, MAN)
        found = stages_of(analysis.assembly, analysis.positions, (0.0, 0.0, 0.065))
        self.assertTrue(found.usual)
        self.assertEqual([stage.name for stage in found.stages], ["tilt", "roll", "pan"])
        for stage in found.stages:
            self.assertAlmostEqual(stage.mass, analysis.body.mass)
            np.testing.assert_allclose(stage.cg, analysis.body.cg)
        light = {key: replace(part, mass=None) for key, part in kit.items()}
        none = analyse(replace(build, support="gimbal"), light, MAN)
        self.assertIs(stages_of(none.assembly, none.positions, (0.0, 0.0, 0.065)), Trouble.NO_MASS)

    def test_without_axes_each_direction_is_asked_once(self) -> None:
        build, kit = shoulder_build((block("camera", 2.0, (0.2, 0.1, 0.1), Category.BODY), 0.05))
        target = target_of(analyse(replace(build, support="gimbal"), kit, MAN))
        ways = np.array([form.direction for form in target.forms])
        np.testing.assert_array_equal(np.sort(ways @ [1.0, 2.0, 3.0]), [1.0, 2.0, 3.0])

    def test_left_is_a_quarter_turn_from_ahead_however_long_that_is(self) -> None:
        for forward, left in (((2.0, 0.0, 0.0), (0.0, 1.0, 0.0)), ((0.3, 0.4, 0.7), (-0.8, 0.6, 0.0))):
            np.testing.assert_allclose(left_of(np.array(forward)), left)

    def test_where_a_gimbals_verdicts_change(self) -> None:
        build, kit = random_gimbal(42)
        judges = output_model(analyse(build, kit, MAN))
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
        analysis = analyse(build, kit, MAN)
        computed = output_model(analysis)
        figures = report_of(analysis, MAN).figures
        for output, key, share in (
            (axes.TILT_PEAK, "tilt_torque_peak_nm", 1.0),
            (axes.ROLL_PEAK, "roll_torque_peak_nm", 1.0),
            (axes.PAN_PEAK, "pan_torque_peak_nm", 0.5),
        ):
            stage = analysis.result.stage(key.split("_")[0])
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
            assembly = analyse(held, kit, MAN).assembly
            self.assertEqual(assembly.slide_parts[battery_slide(assembly)], power)
        screwed = Mount("back", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0))
        fixed = {**kit, "camera": replace(kit["camera"], mounts=(screwed,))}
        self.assertIsNone(battery_slide(analyse(on("camera", "back"), fixed, MAN).assembly))

    def test_hands_on_what_hangs_are_where_the_rig_hangs(self) -> None:
        build, kit = shoulder_build((block("camera", 3.0, (0.2, 0.1, 0.1), Category.BODY), 0.05), (grip("l"), 0.3))
        assembly = analyse(build, kit, MAN).assembly
        positions = assembly.at(assembly.settings(build))
        hook, at = np.array([0.03, 0.01, 0.2]), np.array([0.25, -0.02, 1.62])
        pose = hung_at(assembly, positions, hook, at, MAN, Hold(), Lean(), 0.7, 0.0)
        place = next(one for one in pose.places)
        np.testing.assert_allclose(pose.stance.grips[0].at, place.point + at - hook)

    def test_one_cable_may_cross_an_axis_two_are_warned_of(self) -> None:
        """Common practice: each cable across an axis works like a spring; more than one is asking for it."""
        book = demo_book()
        build = next(one for one in book.builds if one.id == "gimbal-light")
        for cables, warned in ((0.0, False), (1.0, False), (2.0, True)):
            settings = replace(gimbal.SUPPORT.settings(build), cables=cables)
            kinds = {f.kind for f in analyse(with_settings(build, settings), book.parts, MAN).findings}
            self.assertEqual(gimbal.CABLES in kinds, warned, cables)

    def test_steps_tell_how_far_the_cg_is_off_its_axis(self) -> None:
        """In metres: the stage's CG beside its axis, before the first of its scales and after the last."""
        book = demo_book()
        for name in ("gimbal-light", "gimbal-full"):
            build = next(one for one in book.builds if one.id == name)
            analysis = analyse(build, book.parts, MAN)
            steps = order_of_work(analysis)
            settings = {p.id: p.setting for p in build.parts} | {s.placed_id: s.to for s in steps if s.placed_id}
            parts = tuple(replace(p, setting=settings[p.id]) for p in build.parts)
            ended = analyse(replace(build, parts=parts), book.parts, MAN)
            for form in dict.fromkeys((s.stage, s.beside) for s in steps):
                own = [s for s in steps if (s.stage, s.beside) == form]
                axis = "xyz".index(form[1])
                offsets = []
                for one in (analysis, ended):
                    stage = one.result.stage(form[0])
                    offsets.append(float((stage.cg - stage.point)[axis]))
                self.assertAlmostEqual(own[-1].left, offsets[1], places=9, msg=(name, form))
                if form == (steps[0].stage, steps[0].beside):
                    # Nothing was set before it.
                    self.assertAlmostEqual(own[0].before, offsets[0], places=9)
                for one, other in itertools.pairwise(own):
                    self.assertEqual(one.left, other.before)

    def test_the_room_of_a_robust_way_is_narrowed_by_what_cgs_may_be_off_along_the_rig(self) -> None:
        """``forward . sum m^2 R u^2 R^T . forward``, with parts that stand askew on rosettes."""
        turn = Mount("t", MountKind.ROSETTE, (0.0, 0.0, 0.05), Connection.TURN, (0.0, 1.0, 0.0), -2.0, 2.0)
        build, kit = shoulder_build((block("camera", 2.0, (0.2, 0.1, 0.1), Category.BODY), 0.05))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, turn))
        arm = block("arm", 1.5, (0.3, 0.02, 0.04), Category.ARM, kind=MountKind.ROSETTE, at=(-0.1, 0.0, 0.0))
        kit["arm"] = replace(arm, cg_known=HowKnown.GUESSED)
        build = replace(build, parts=(*build.parts, Placed("arm", "arm", "base", "t", 0, math.radians(35.0))))
        analysis = analyse(build, kit, MAN)
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
            target = target_of(analyse(build, book.parts, MAN))
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


class OneScrewEach(unittest.TestCase):
    def test_the_joint_that_lacks_most_comes_first(self) -> None:
        """Preload T/(0.2 d) (Shigley, ch. 8) times the distance to the edge, against three times weight by lever."""
        seats = tuple(Mount(f"seat{k}", MountKind.QUARTER_20, (0.2 * k - 0.1, 0.0, 0.1)) for k in range(3))
        kit = {"base": replace(base(), mounts=(*base().mounts, *seats))}
        rigs = (("thin", 0.5, 0.02, 2.0), ("stout", 6.0, 0.08, 0.6), ("low", 6.0, 0.08, 0.2))
        for name, mass, broad, tall in rigs:
            kit[name] = block(name, mass, (broad, broad, tall), kind=MountKind.QUARTER_20, at=(0.0, 0.0, -tall / 2.0))
        for order in itertools.permutations(rigs):
            parts = (Placed(name, name, "base", f"seat{k}") for k, (name, *_) in enumerate(order))
            found = analyse(Build("b", "b", (Placed("base", "base"), *parts)), kit, MAN)
            screws = one_screws(found.assembly, found.positions, 0)
            # The stout one lacks 53 - 31 N m, the thin one 15 - 8; the low one is held.
            self.assertEqual([found.build.parts[one.part].id for one in screws], ["stout", "thin"])
            for one, (_, mass, broad, tall) in zip(screws, (rigs[1], rigs[0]), strict=True):
                self.assertAlmostEqual(one.moment, 3.0 * mass * STANDARD_GRAVITY * tall / 2.0)
                self.assertAlmostEqual(one.holds, 1.0 / (0.2 * 0.00635) * broad / 2.0)


if __name__ == "__main__":
    unittest.main()
