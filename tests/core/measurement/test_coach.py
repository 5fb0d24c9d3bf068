"""The coach: its regression against least squares, hidden gimbals to balance, and what contradicts."""

from __future__ import annotations

import math
import unittest
from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Operator
from equilix.core.chosen import with_settings
from equilix.core.measurement.belief import CoachModel, Observation, Response, believe
from equilix.core.measurement.coach import Action, Left, advise, with_scale
from equilix.core.measurement.coaching import TESTS, AxisBench, Coaching, begin
from equilix.core.statics.stages import BESIDE
from equilix.core.statics.turning import Attitude
from equilix.core.uncertainty.output_model import CG_AHEAD, firsts_of, output_model
from equilix.devices.simulated.gimbal_model import GimbalModel, drawn
from equilix.io.shipped import demo_book
from equilix.supports.gimbal import mechanics as gimbal
from equilix.supports.gimbal import outputs as axes
from equilix.supports.gimbal.coaching import benches_of, with_readings
from equilix.supports.gimbal.mechanics import SUPPORT
from equilix.supports.gimbal.motors import gravity_torques
from equilix.supports.gimbal.stages import still_coached
from tests.campaigns import campaign
from tests.rigs.results import gimbal_result

SOMEBODY = Operator("s", "Somebody")
BOOK = demo_book()
WAYS = tuple(way for _, way in TESTS["tilt"])
SCALE_OF = {"tilt": ("plate", "height"), "roll": ("roll", ""), "pan": ("pan", "")}


def turned(model: GimbalModel, session: Coaching, way: tuple[float, float]) -> None:
    """Bring the stand-in to the attitude of a test."""
    angle, name = session.angle_of(way), session.axis.name
    model.hold(angle if name == "tilt" else 0.0, angle if name == "roll" else 0.0, 0.0, angle if name == "pan" else 0.0)


def whole(
    seed: int, effort: bool, change: Callable[[GimbalModel], None] = lambda _: None, wrong: float = 0.0
) -> tuple[Coaching, GimbalModel]:
    """Coach a hidden gimbal on all axes, a share of its looks written down wrongly; return the session and the gimbal
    as it ends."""
    build = next(one for one in BOOK.builds if one.id == "gimbal-light")
    model = drawn(seed)
    model.noise = 0.01
    change(model)
    rng = np.random.default_rng(seed)
    axes = tuple(
        replace(axis, bench=replace(axis.bench, slopes_u=tuple(0.4 * abs(s) for s in axis.bench.slopes)))
        for axis in benches_of(analyse(build, BOOK.parts, SOMEBODY))
    )
    session = begin(axes, {}, effort)
    for step in range(250):
        advice = session.advice()
        if advice.do is Action.DONE:
            break
        if advice.do is Action.LEFT:
            assert advice.why is not None
            session.leave(advice.why)
            continue
        if advice.do is Action.MOVE:
            name = session.axis.name
            session.moved(advice.scale, advice.to)
            model.set(SCALE_OF[name][advice.scale], advice.to)
            continue
        turned(model, session, advice.way)
        name = session.axis.name
        if effort:
            readings = []
            for side in (-1.0, 1.0):
                model.came = side
                readings.append(model.effort(name, 1.0 * step))
            effort_read = sum(readings) / 2.0 if rng.random() >= wrong else float(rng.normal(0.0, 0.3))
            session.read(advice.way, effort_read, model.noise / math.sqrt(2.0))
        else:
            saw = {"positive": Response.FALLS, "negative": Response.BACK, "stays": Response.STAYS}[model.release(name)]
            others = [one for one in Response if one is not saw]
            session.saw(advice.way, saw if rng.random() >= wrong else others[int(rng.integers(2))])
    return session, model


class Regression(unittest.TestCase):
    def test_many_efforts_come_to_least_squares(self) -> None:
        """numpy.linalg.lstsq of moments and bias, from readings at seven angles; the prior is wide."""
        rng = np.random.default_rng(4)
        bench = CoachModel(spread=(50.0, 50.0), bias=50.0)
        looks = [
            Observation(
                way,
                (0.0, 0.0),
                effort=float(np.array(way) @ (0.31, -0.12) + 0.05 + 0.01 * rng.standard_normal()),
                u=0.01,
            )
            for way in WAYS * 3
        ]
        rows = np.array([[*look.way, 1.0] for look in looks])
        exact = np.linalg.lstsq(rows, np.array([look.effort for look in looks]), rcond=None)[0]
        belief = believe(bench, looks, (0.0, 0.0))
        spread = belief.now.std(axis=0) / math.sqrt(len(belief.now))
        self.assertTrue((np.abs(belief.now.mean(axis=0) - exact[:2]) < 4.0 * spread).all())
        covariance = np.linalg.inv(rows.T @ rows) * 1e-4
        self.assertAlmostEqual(float(belief.now[:, 0].std()), math.sqrt(covariance[0, 0]), delta=3e-4)

    def test_a_known_scale_needs_no_move_to_learn_what_it_does(self) -> None:
        bench = CoachModel(slopes=(22.0, 20.0), slopes_u=(1.1, 1.0))
        looks = [Observation(way, (0.0, 0.0), effort=float(np.array(way) @ (0.4, 0.0)), u=0.005) for way in WAYS]
        belief = believe(bench, looks, (0.0, 0.0))
        self.assertAlmostEqual(float(belief.centre[0]), -0.4 / 22.0, delta=0.0015)
        self.assertTrue(belief.holds(np.array([-0.4 / 22.0, 0.0])))
        self.assertFalse(belief.holds(np.array([0.02, 0.0])))

    def test_one_look_more_goes_on_from_what_was_believed(self) -> None:
        bench, looks = CoachModel(), [Observation(WAYS[0], (0.0, 0.0), Response.FALLS)]
        first = believe(bench, looks, (0.0, 0.0))
        looks.append(Observation(WAYS[1], (0.0, 0.0), Response.FALLS))
        on, anew = believe(bench, looks, (0.0, 0.0), 2, first), believe(bench, looks, (0.0, 0.0), 2)
        self.assertAlmostEqual(float(np.median(on.goals[:, 0])), float(np.median(anew.goals[:, 0])), delta=0.004)


@campaign
class Hidden(unittest.TestCase):
    def test_gimbals_that_nobody_weighed_are_balanced_by_efforts_in_few_moves(self) -> None:
        for seed in range(6):
            session, model = whole(seed, True)
            self.assertTrue(session.finished, seed)
            self.assertLessEqual(session.moves, 8, seed)
            for name, axis in ((axis.name, axis) for axis in session.axes):
                a, b = model.moments(name)
                size = math.hypot(a, b) if axis.scales[1] else abs(a)
                self.assertLess(size, 1.2 * axis.bench.window, (seed, name))

    def test_and_by_releases_alone(self) -> None:
        good = 0
        for seed in range(4):
            session, model = whole(seed, False)
            self.assertTrue(session.finished, seed)
            for axis in session.axes:
                a, b = model.moments(axis.name)
                good += (math.hypot(a, b) if axis.scales[1] else abs(a)) < 1.2 * axis.bench.window
        self.assertGreaterEqual(good, 11)

    def test_advice_ends_in_a_move_within_the_scales_travel(self) -> None:
        bench = CoachModel(limits=((-0.01, 0.01), (-0.01, 0.01)))
        looks = [Observation(way, (0.0, 0.0), effort=float(np.array(way) @ (0.6, 0.0)), u=0.005) for way in WAYS * 2]
        belief = believe(bench, looks, (0.0, 0.0))
        advice = advise(bench, belief, looks, (0.0, 0.0), WAYS, True)
        self.assertIs(advice.do, Action.MOVE)
        self.assertEqual((advice.scale, advice.to), (0, -0.01))
        self.assertEqual(with_scale((0.0, 0.0), 1, 0.004), (0.0, 0.004))


@campaign
class Unfair(unittest.TestCase):
    """Gimbals that do what no coach is told: it may say that it can't tell, but not "balanced" where that is wrong.

    `benchmarks/coach.py --unfair` runs 200 of each kind.
    """

    def wrongly(self, change: Callable[[GimbalModel], None], effort: bool, wrong: float = 0.0) -> tuple[int, int]:
        """Return on how many axes of six gimbals it says "balanced", and on how many of them wrongly."""
        said = false = 0
        for seed in range(6):
            session, model = whole(seed, effort, change, wrong)
            for axis in session.axes:
                if session.is_balanced(axis):
                    a, b = model.moments(axis.name)
                    said += 1
                    false += (math.hypot(a, b) if axis.scales[1] else abs(a)) > 1.2 * axis.bench.window
        return said, false

    def test_motors_that_are_off_by_a_tenth(self) -> None:
        def off(model: GimbalModel) -> None:
            for k, turning in enumerate(model.axes.values()):
                turning.bias = 0.10 if k % 2 else -0.10

        said, false = self.wrongly(off, True)
        self.assertGreaterEqual(said, 15)
        self.assertEqual(false, 0)

    def test_bearings_that_stick_six_times_as_hard(self) -> None:
        def stuck(model: GimbalModel) -> None:
            for turning in model.axes.values():
                turning.friction *= 6.0

        self.assertEqual(self.wrongly(stuck, False)[1], 0)

    def test_entries_that_are_wrong_in_fifteen_of_a_hundred(self) -> None:
        for effort in (True, False):
            said, false = self.wrongly(lambda _: None, effort, 0.15)
            self.assertGreaterEqual(said, 12)
            self.assertEqual(false, 0)


class Ends(unittest.TestCase):
    """No circles: where a scale is at its end, or an axis has none, the coach says so and goes on."""

    def test_a_scale_that_is_too_short_is_named_with_what_stays(self) -> None:
        def heavy(model: GimbalModel) -> None:
            model.axes["tilt"].moments = (2.5, 0.0)

        session, model = whole(1, True, heavy)
        why, _ = session.left["tilt"]
        self.assertIs(why, Left.END)
        moments, uncertainties = session.found(session.axes[0])
        true = model.moments("tilt")
        self.assertLess(abs(float(moments[0]) - true[0]), 3.0 * float(uncertainties[0]) + 0.02)
        self.assertLess(len(session.looks["tilt"]), 40)
        self.assertTrue(session.is_balanced(session.axes[1]))

    def test_an_axis_without_a_scale_is_measured_and_named(self) -> None:
        bare = AxisBench("roll", CoachModel(slopes=(0.0, 0.0), slopes_u=(0.0, 0.0), sees=(True, False)), ("", ""))
        for moment, why in ((0.30, Left.NO_SCALE), (0.0, None)):
            session = begin((bare,), {}, True)
            while (advice := session.advice()).do is Action.TEST:
                session.read(advice.way, moment * advice.way[0] + 0.05, 0.01)
            self.assertIs(advice.why, why)
            self.assertAlmostEqual(float(session.found(bare)[0][0]), moment, delta=0.05)

    def test_what_was_done_is_taken_up_again_where_its_scale_moves(self) -> None:
        session, _ = whole(2, True)
        self.assertIs(session.advice().do, Action.DONE)
        session.marks[session.axes[1].scales[0]] = session.standing(session.axes[1])[0] + 0.02
        self.assertIs(session.advice().do, Action.TEST)
        self.assertEqual(session.axis.name, "roll")


class IntoTheFigures(unittest.TestCase):
    """What a coach finds on a gimbal whose camera is not as it was entered stands in verdict, ways and figures."""

    def test_figures_come_to_what_was_felt_with_its_doubt(self) -> None:
        build = next(one for one in BOOK.builds if one.id == "gimbal-light")
        camera = BOOK.parts[build.placed("body").part_id]
        middle = camera.cg or (camera.outline.centre if camera.outline else (0.0, 0.0, 0.0))
        kit = dict(BOOK.parts)
        kit[camera.id] = replace(camera, cg=(middle[0] + 0.008, middle[1] + 0.003, middle[2] + 0.004))
        session = begin(benches_of(analyse(build, BOOK.parts, SOMEBODY)), {}, True)
        rng = np.random.default_rng(0)
        while (advice := session.advice()).do is not Action.DONE:
            for axis in session.axes:
                session.marks |= {one: build.placed(one).setting for one in axis.scales if one}
            if advice.do is Action.MOVE:
                placed = build.placed(session.moved(advice.scale, advice.to))
                build = build.with_placed(replace(placed, setting=advice.to))
                continue
            self.assertIs(advice.do, Action.TEST)
            angle, name = session.angle_of(advice.way), session.axis.name
            at = {"tilt": Attitude(tilt=angle), "roll": Attitude(roll=angle), "pan": Attitude(aside=angle)}[name]
            true = analyse(build, kit, SOMEBODY)
            torque = gravity_torques(gimbal.SUPPORT.case(true), at)[name]
            session.read(advice.way, torque + 0.05 + 0.01 * float(rng.standard_normal()), 0.01)
        bare = analyse(build, BOOK.parts, SOMEBODY)
        told = with_settings(build, replace(gimbal.SUPPORT.settings(build), coached=with_readings(bare, session)))
        coached, true = analyse(told, BOOK.parts, SOMEBODY), analyse(build, kit, SOMEBODY)
        for output in (CG_AHEAD, axes.TILT_Z, axes.ROLL_Y, axes.PAN_X):
            (value, u), (other, _), (_, wide) = (firsts_of(output_model(one))[output] for one in (coached, true, bare))
            self.assertLess(abs(value - other), 3.0 * u, output)
            self.assertLess(u, 0.4 * wide, output)
        # Stages, motors and forms agree: one figure, one truth.
        on_it = gimbal_result(coached)
        assert on_it is not None
        target = SUPPORT.target(SUPPORT.case(coached))
        for stage in on_it.stages:
            for beside, off in zip(BESIDE[stage.name], stage.beside, strict=True):
                form = next(one for one in target.forms if one.name == f"{stage.name} {beside}")
                parts = coached.assembly.mass * stage.parts
                direct = form.direction @ (parts @ coached.positions.cg - parts.sum() * form.point) / parts.sum()
                self.assertAlmostEqual(float(direct), off, places=9)
        level = gravity_torques(gimbal.SUPPORT.case(coached), Attitude())
        self.assertAlmostEqual(level["tilt"], on_it.stages[0].weight * on_it.stages[0].beside[0], places=9)
        # With another lens nobody knows what was found of the first.
        self.assertTrue(still_coached(coached.assembly, told, gimbal.SUPPORT.settings(told).coached))
        lens = replace(told.placed("lens"), part_id="prime-25")
        then = analyse(told.with_placed(lens), BOOK.parts, SOMEBODY)
        self.assertFalse(still_coached(then.assembly, then.build, gimbal.SUPPORT.settings(then.build).coached))


class Contradictions(unittest.TestCase):
    def test_an_effort_that_does_not_go_with_the_others_is_named(self) -> None:
        looks = [Observation(way, (0.0, 0.0), effort=float(np.array(way) @ (0.3, 0.1)), u=0.01) for way in WAYS]
        looks[3] = replace(looks[3], effort=-0.4)
        belief = believe(CoachModel(), looks, (0.0, 0.0))
        self.assertEqual(belief.contradicts, (3,))
        right = [look for k, look in enumerate(looks) if k != 3]
        self.assertEqual(believe(CoachModel(), right, (0.0, 0.0)).contradicts, ())
        # It does not pull what is believed.
        self.assertAlmostEqual(float(belief.now[:, 0].mean()), 0.3, delta=0.02)

    def test_a_release_that_does_not_go_with_the_others_is_named(self) -> None:
        looks = [Observation((1.0, 0.0), (0.0, 0.0), Response.FALLS)] * 3 + [
            Observation((1.0, 0.0), (0.0, 0.0), Response.BACK)
        ]
        self.assertEqual(believe(CoachModel(), looks, (0.0, 0.0)).contradicts, (3,))


class OfTheBuild(unittest.TestCase):
    def test_what_a_bench_says_of_its_scales_is_what_they_do(self) -> None:
        """A scale moved, everything worked out anew: torque over the way, with the sign that the tests see."""
        build = next(one for one in BOOK.builds if one.id == "gimbal-light")
        analysis = analyse(build, BOOK.parts, SOMEBODY)
        level = {"tilt": Attitude(), "roll": Attitude(), "pan": Attitude(aside=math.radians(30.0))}
        for axis in benches_of(analysis):
            placed = build.placed(axis.scales[0])
            after = analyse(build.with_placed(replace(placed, setting=placed.setting + 0.01)), BOOK.parts, SOMEBODY)
            look = level[axis.name]
            torques = [gravity_torques(gimbal.SUPPORT.case(one), look)[axis.name] for one in (analysis, after)]
            share = math.sin(math.radians(30.0)) if axis.name == "pan" else 1.0
            self.assertAlmostEqual((torques[1] - torques[0]) / 0.01 / share, axis.bench.slopes[0], places=6)
            # What counts as balanced is what the motor may hold at that attitude.
            settings = gimbal.SUPPORT.settings(build)
            rated = {"tilt": settings.tilt_rated, "roll": settings.roll_rated, "pan": settings.pan_rated}[axis.name]
            self.assertAlmostEqual(axis.bench.window * share, settings.share * rated, places=12)


if __name__ == "__main__":
    unittest.main()
