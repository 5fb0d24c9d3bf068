"""What the coach believes, against the same posterior summed over a fine grid, and what it advises, against entropies.

Bayes' rule on a grid is exact but for the grid's step (Gelman et al., Bayesian Data Analysis, ch. 10); draws only come
near to it, so the means of several seeds are compared.
"""

from __future__ import annotations

import math
import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
from msgspec.structs import replace
from scipy import stats

from equilix.core.measurement import belief as belief_of
from equilix.core.measurement import coach
from equilix.core.measurement.belief import REGION, CoachBelief, CoachModel, Observation, Response, believe
from equilix.core.measurement.coach import Action, CoachAdvice, Left, advise, without
from tests.campaigns import campaign

LEVEL, UP, ASIDE = (1.0, 0.0), (math.sqrt(0.5), math.sqrt(0.5)), (0.0, 1.0)
AT = (0.0, 0.0)
#: How often somebody errs where that is taken as known.
SLIP = 0.03


def fixed(**known: Any) -> CoachModel:
    """Return a bench on which it is known how often somebody errs."""
    return CoachModel(**({"slip": SLIP, "slip_by": 1.0001} | known))


def chance(torque: np.ndarray, friction: np.ndarray | float, saw: Response) -> np.ndarray:
    """Return the chance of what was seen: it falls where the torque is above a friction that sticks now more, now less,
    and now and then somebody writes down any of the three."""
    steep = belief_of.LOGISTIC / (belief_of.STICTION * np.asarray(friction))
    falls = {sign: stats.logistic.cdf((sign * torque - friction) * steep) for sign in (1.0, -1.0)}
    # Both at once are next to impossible: it stays unless it falls the way that it leans.
    seen = {
        Response.FALLS: falls[1.0],
        Response.BACK: falls[-1.0],
        Response.STAYS: 1.0 - np.maximum(falls[1.0], falls[-1.0]),
    }[saw]
    result: np.ndarray = (1.0 - SLIP) * seen + SLIP / 3.0
    return result


def seeds(
    bench: CoachModel, looks: list[Observation], marks: tuple[float, float] = AT, count: int = 12
) -> list[CoachBelief]:
    return [believe(bench, looks, marks, seed) for seed in range(1, count + 1)]


def mean(beliefs: list[CoachBelief], of: Callable[..., float]) -> float:
    return float(np.mean([of(belief) for belief in beliefs]))


@campaign
class OneMoment(unittest.TestCase):
    """One scale whose effect is known, friction known: one number is left, and a grid of it is a vector."""

    bench = fixed(
        spread=(0.30, 1e-7), slopes=(20.0, 0.0), slopes_u=(1e-6, 1e-9), friction=0.05, friction_by=1.0001, window=0.05
    )
    moments = np.linspace(-1.8, 1.8, 7201)

    def posterior(self, looks: list[Observation]) -> np.ndarray:
        weight = stats.norm.pdf(self.moments, scale=0.30)
        for look in looks:
            torque = look.way[0] * (self.moments + 20.0 * (look.marks[0] - looks[0].marks[0]))
            weight = weight * chance(torque, 0.05, look.saw)
        return weight / weight.sum()

    def test_releases_come_to_the_grids_mean_spread_and_chance(self) -> None:
        for looks in (
            [Observation(LEVEL, AT, Response.FALLS)],
            [Observation(LEVEL, AT, Response.BACK)],
            [Observation(LEVEL, AT, Response.STAYS)],
            [Observation(LEVEL, AT, Response.FALLS), Observation(LEVEL, (-0.006, 0.0), Response.BACK)],
            [Observation(LEVEL, AT, Response.FALLS), Observation(UP, AT, Response.STAYS)],
            [
                Observation(LEVEL, (0.01, 0.0), Response.FALLS),
                Observation(LEVEL, (0.004, 0.0), Response.FALLS),
                Observation(LEVEL, AT, Response.STAYS),
            ],
        ):
            weight, found = self.posterior(looks), seeds(self.bench, looks, looks[0].marks)
            middle = float(weight @ self.moments)
            spread = math.sqrt(float(weight @ (self.moments - middle) ** 2))
            self.assertAlmostEqual(mean(found, lambda b: float(b.now[:, 0].mean())), middle, delta=0.05 * spread)
            self.assertAlmostEqual(mean(found, lambda b: float(b.now[:, 0].std())), spread, delta=0.05 * spread)
            within = float(weight[np.abs(self.moments) <= self.bench.window].sum())
            self.assertAlmostEqual(mean(found, lambda b: b.inside), within, delta=0.02)

    def test_where_the_scale_would_have_to_stand_and_its_region(self) -> None:
        looks = [Observation(LEVEL, (0.01, 0.0), Response.FALLS), Observation(LEVEL, (-0.004, 0.0), Response.BACK)]
        weight = self.posterior(looks)
        goals = 0.01 - self.moments / 20.0
        order = goals.argsort()
        summed = np.cumsum(weight[order])
        median = float(goals[order][np.searchsorted(summed, 0.5)])
        # Half of the region's mass lies either side of the median here: one number, nearly even.
        off = np.abs(goals - median)
        far = off.argsort()
        reach = float(off[far][np.searchsorted(np.cumsum(weight[far]), REGION)])
        for marks in ((-0.004, 0.0), (0.002, 0.0)):
            found = seeds(self.bench, looks, marks)
            self.assertAlmostEqual(mean(found, lambda b: float(b.centre[0])), median, delta=0.03 * reach)
            self.assertTrue(all(math.isnan(b.centre[1]) and np.isnan(b.goals[:, 1]).all() for b in found))
            ends = [math.sqrt(b.reach * float(b.shape[0, 0])) for b in found]  # (g - c)^2 / S <= reach
            self.assertAlmostEqual(float(np.mean(ends)), reach, delta=0.06 * reach)
            for belief, end in zip(found, ends, strict=True):
                for share, holds in ((0.98, True), (1.02, False)):
                    for sign in (1.0, -1.0):
                        goal = np.array([float(belief.centre[0]) + sign * share * end, 0.0])
                        self.assertEqual(belief.holds(goal), holds)
            # As the scale stands now the moment is another one.
            there = float(weight @ self.moments) + 20.0 * (marks[0] - 0.01)
            self.assertAlmostEqual(mean(found, lambda b: float(b.now[:, 0].mean())), there, delta=0.01)

    def test_one_look_more_comes_to_the_same_as_both_at_once(self) -> None:
        looks = [Observation(LEVEL, AT, Response.FALLS), Observation(LEVEL, (-0.012, 0.0), Response.STAYS)]
        weight = self.posterior(looks)
        middle = float(weight @ self.moments)
        spread = math.sqrt(float(weight @ (self.moments - middle) ** 2))
        on = []
        for seed in range(1, 13):
            first = believe(self.bench, looks[:1], AT, seed)
            on.append(believe(self.bench, looks, AT, seed + 50, first))
            self.assertEqual(on[-1].looks, tuple(looks))
        self.assertAlmostEqual(mean(on, lambda b: float(b.now[:, 0].mean())), middle, delta=0.06 * spread)
        self.assertAlmostEqual(mean(on, lambda b: float(b.now[:, 0].std())), spread, delta=0.06 * spread)

    def test_an_unlikely_release_among_many_is_called_a_slip(self) -> None:
        """Bayes: the chance of a slip is its share of the chance of what was seen, on the average of the posterior."""
        looks = [Observation(LEVEL, AT, Response.FALLS)] * 3 + [Observation(LEVEL, AT, Response.BACK)]
        looks = [replace(look) for look in looks]
        weight = self.posterior(looks)
        slip = float(weight @ (SLIP / 3.0 / chance(self.moments, 0.05, Response.BACK)))
        self.assertGreater(slip, 0.9)
        for belief in seeds(self.bench, looks, count=3):
            self.assertEqual(belief.contradicts, (3,))
        # One against one: neither is more likely to be the slip than not.
        self.assertEqual([b.contradicts for b in seeds(self.bench, looks[2:], count=3)], [()] * 3)
        self.assertEqual(without(looks, 3), tuple(looks[:3]))


class Chances(unittest.TestCase):
    def test_one_of_the_three_is_seen(self) -> None:
        """Whatever the moment and the friction, the chances of falling, staying and falling back come to one."""
        rng = np.random.default_rng(3)
        samples = np.zeros((400, 7))
        samples[:, :2] = rng.normal(0.0, 0.2, (400, 2))
        samples[:, 5] = np.log(rng.uniform(0.02, 0.2, 400))
        samples[:, 6] = np.log(rng.uniform(0.005, 0.3, 400))
        looks = [Observation(way, AT, saw) for way in (LEVEL, UP, ASIDE) for saw in Response]
        chances = belief_of._chances(samples, looks, np.zeros(2)).reshape(400, 3, 3)
        self.assertGreater(float(chances.min()), 0.0)
        # Falling both ways at once is next to impossible, but not quite.
        np.testing.assert_allclose(chances.sum(axis=2), 1.0, atol=2e-3)


@campaign
class TwoNumbers(unittest.TestCase):
    def test_an_unknown_friction_is_learnt_from_what_stays(self) -> None:
        """Moment and friction on a grid of two; friction is log-normal about what is usual."""
        bench = fixed(spread=(0.08, 1e-7), slopes=(20.0, 0.0), slopes_u=(1e-6, 1e-9), friction=0.04, friction_by=1.8)
        looks = [
            Observation(LEVEL, AT, Response.STAYS),
            Observation(LEVEL, (0.004, 0.0), Response.STAYS),
            Observation(LEVEL, (-0.004, 0.0), Response.STAYS),
            Observation(LEVEL, (0.009, 0.0), Response.FALLS),
        ]
        moment, log = np.meshgrid(np.linspace(-0.4, 0.4, 401), np.linspace(math.log(0.005), math.log(0.3), 401))
        weight = stats.norm.pdf(moment, scale=0.08) * stats.norm.pdf(log, math.log(0.04), math.log(1.8))
        for look in looks:
            weight = weight * chance(moment + 20.0 * look.marks[0], np.exp(log), look.saw)
        weight /= weight.sum()
        found = seeds(bench, looks)
        usual = float((weight * log).sum())
        spread = math.sqrt(float((weight * (log - usual) ** 2).sum()))
        self.assertGreater(usual, math.log(0.06))
        self.assertAlmostEqual(mean(found, lambda b: float(np.log(b.friction).mean())), usual, delta=0.10 * spread)
        self.assertAlmostEqual(mean(found, lambda b: float(np.log(b.friction).std())), spread, delta=0.10 * spread)

    def test_what_a_scale_does_is_learnt_and_it_never_works_backwards(self) -> None:
        """Moment and slope on a grid of two; slopes below zero are cut off."""
        bench = fixed(spread=(0.2, 1e-7), slopes=(20.0, 0.0), slopes_u=(15.0, 1e-9), friction=0.02, friction_by=1.0001)
        for sign in (1.0, -1.0):
            looks = [
                Observation(LEVEL, AT, Response.FALLS),
                Observation(LEVEL, (-sign * 0.010, 0.0), Response.FALLS),
                Observation(LEVEL, (-sign * 0.030, 0.0), Response.BACK),
            ]
            moment, slope = np.meshgrid(np.linspace(-1.2, 1.2, 601), np.linspace(0.0, 90.0, 601))
            weight = stats.norm.pdf(moment, scale=0.2) * stats.norm.pdf(slope, 20.0, 15.0)
            for look in looks:
                weight = weight * chance(moment + sign * slope * look.marks[0], 0.02, look.saw)
            weight /= weight.sum()
            found = seeds(replace(bench, slopes=(sign * 20.0, 0.0)), looks)
            middle = float((weight * slope).sum())
            spread = math.sqrt(float((weight * (slope - middle) ** 2).sum()))
            self.assertTrue(all((sign * b.samples[:, 2] >= 0.0).all() for b in found))
            self.assertAlmostEqual(
                mean(found, lambda b, sign=sign: sign * float(b.samples[:, 2].mean())), middle, delta=0.12 * spread
            )
            self.assertAlmostEqual(mean(found, lambda b: float(b.samples[:, 2].std())), spread, delta=0.12 * spread)

    def test_two_moments_seen_from_three_sides(self) -> None:
        bench = fixed(
            spread=(0.25, 0.15),
            slopes=(20.0, 18.0),
            slopes_u=(1e-6, 1e-6),
            friction=0.03,
            friction_by=1.0001,
            window=0.1,
        )
        looks = [
            Observation(LEVEL, AT, Response.FALLS),
            Observation(UP, AT, Response.STAYS),
            Observation(ASIDE, (0.0, 0.01), Response.BACK),
        ]
        a, b = np.meshgrid(np.linspace(-1.3, 1.3, 521), np.linspace(-1.0, 1.0, 401))
        weight = stats.norm.pdf(a, scale=0.25) * stats.norm.pdf(b, scale=0.15)
        for look in looks:
            torque = look.way[0] * (a + 20.0 * look.marks[0]) + look.way[1] * (b + 18.0 * look.marks[1])
            weight = weight * chance(torque, 0.03, look.saw)
        weight /= weight.sum()
        found = seeds(bench, looks)
        for k, values in enumerate((a, b)):
            middle = float((weight * values).sum())
            spread = math.sqrt(float((weight * (values - middle) ** 2).sum()))
            self.assertAlmostEqual(mean(found, lambda it, k=k: float(it.now[:, k].mean())), middle, delta=0.08 * spread)
            self.assertAlmostEqual(mean(found, lambda it, k=k: float(it.now[:, k].std())), spread, delta=0.08 * spread)
        within = float(weight[np.hypot(a, b) <= 0.1].sum())
        self.assertAlmostEqual(mean(found, lambda it: it.inside), within, delta=0.02)
        # The region holds as much as it says of where the scales would have to stand.
        for belief in found:
            held = np.mean([belief.holds(goal) for goal in belief.goals])
            self.assertAlmostEqual(float(held), REGION, delta=0.002)


class Efforts(unittest.TestCase):
    def test_readings_come_to_ridge_regression(self) -> None:
        """The prior as five more readings, by numpy.linalg.lstsq: another way to the same normal posterior."""
        rng = np.random.default_rng(5)
        bench = fixed(spread=(0.4, 0.3), slopes=(20.0, 18.0), slopes_u=(6.0, 5.0), bias=0.04)
        for _ in range(5):
            looks = [
                Observation(way, tuple(rng.uniform(-0.02, 0.02, 2)), effort=float(rng.normal(0.0, 0.3)), u=float(u))
                for way, u in zip((LEVEL, UP, ASIDE), rng.uniform(0.01, 0.05, 3), strict=True)
            ]
            start = np.array(looks[0].marks)
            rows, values, sure = [], [], []
            for look in looks:
                way, moved = np.array(look.way), np.array(look.marks) - start
                rows.append([*way, *(way * moved), 1.0])
                values.append(look.effort)
                sure.append(1.0 / look.u)
            for k, (value, u) in enumerate(zip((0.0, 0.0, 20.0, 18.0, 0.0), (0.4, 0.3, 6.0, 5.0, 0.04), strict=True)):
                rows.append([float(j == k) for j in range(5)])
                values.append(value)
                sure.append(1.0 / u)
            scaled = np.array(rows) * np.array(sure)[:, None]
            exact = np.linalg.lstsq(scaled, np.array(values) * sure, rcond=None)[0]
            spread = np.linalg.inv(scaled.T @ scaled)
            found, after = belief_of._regressed(bench, looks, start)
            np.testing.assert_allclose(found, exact, atol=1e-9)
            np.testing.assert_allclose(after, spread, rtol=1e-8, atol=1e-12)
            np.testing.assert_array_equal(after, after.T)
            beliefs = seeds(bench, looks, looks[-1].marks)
            moved = np.array(looks[-1].marks) - start
            now = exact[:2] + exact[2:4] * moved
            for k in (0, 1):
                way = np.zeros(5)
                way[k], way[2 + k] = 1.0, moved[k]
                u = math.sqrt(float(way @ spread @ way))
                self.assertAlmostEqual(mean(beliefs, lambda b, k=k: float(b.now[:, k].mean())), now[k], delta=0.05 * u)
                self.assertAlmostEqual(mean(beliefs, lambda b, k=k: float(b.now[:, k].std())), u, delta=0.05 * u)

    def test_a_reading_is_odd_from_three_times_its_common_doubt(self) -> None:
        """As in reconciling weighings: three standard uncertainties; common practice."""
        bench = fixed(spread=(0.5, 0.4), slopes_u=(1e-6, 1e-6), bias=0.03)
        ways = (LEVEL, UP, ASIDE, (math.sqrt(0.5), -math.sqrt(0.5)))
        true = np.array([0.21, -0.14])
        looks = [Observation(way, AT, effort=float(np.array(way) @ true), u=0.01) for way in ways]
        rows = np.array([[*look.way, 1.0] for look in looks[:3]]) / 0.01
        prior = np.diag([1 / 0.5, 1 / 0.4, 1 / 0.03]) ** 2
        spread = np.linalg.inv(rows.T @ rows + prior)
        middle = spread @ rows.T @ (np.array([look.effort for look in looks[:3]]) / 0.01)
        row = np.array([*ways[3], 1.0])
        size = math.sqrt(float(row @ spread @ row) + 0.01**2)
        for times, odd in ((2.9, ()), (3.1, (3,)), (-2.9, ()), (-3.1, (3,))):
            off = [*looks[:3], replace(looks[3], effort=float(row @ middle) + times * size)]
            self.assertEqual(believe(bench, off, AT).contradicts, odd, times)
        # Of three nobody can say which is wrong.
        self.assertEqual(believe(bench, [*looks[:2], replace(looks[2], effort=3.0)], AT).contradicts, ())


class WhatNext(unittest.TestCase):
    def test_what_a_release_tells_is_its_mutual_information(self) -> None:
        """Entropy of what will be seen less that of what would be seen if all were known: Cover and Thomas, ch. 2."""
        bench = fixed()
        belief = believe(bench, [Observation(LEVEL, AT, Response.FALLS)], AT)
        for way in (LEVEL, UP, ASIDE, (0.6, -0.8)):
            torque = belief.now @ np.array(way)
            each = np.stack([chance(torque, belief.friction, saw) for saw in Response])
            each /= each.sum(axis=0)
            told = stats.entropy(each.mean(axis=1), base=2) - stats.entropy(each, base=2, axis=0).mean()
            self.assertAlmostEqual(coach._information(belief, belief.now, way), float(told), delta=2e-3)

    def test_the_logistic_is_as_near_to_the_normal_curve_as_it_can_be(self) -> None:
        """Johnson and Kotz, from memory: with 1.702 the two are never more than 0.0095 apart."""
        x = np.linspace(-6.0, 6.0, 24001)
        apart = np.abs(stats.logistic.cdf(belief_of.LOGISTIC * x) - stats.norm.cdf(x)).max()
        self.assertLess(float(apart), 0.0096)

    def believed(self, moments: tuple[float, float], u: float, bench: CoachModel) -> CoachBelief:
        """Return a belief that the moments are these, to `u`, in draws that are even."""
        around = np.random.default_rng(2).standard_normal((2000, 2))
        now = np.array(moments) + u * (around - around.mean(axis=0))
        goals = -now / np.array(bench.slopes)
        inside = float((np.hypot(*now.T) <= bench.window).mean())
        samples = np.tile([0.0, 0.0, *bench.slopes, 0.0, math.log(0.012), math.log(SLIP)], (2000, 1))
        return CoachBelief(
            now, goals, np.full(2000, 0.012), inside, goals.mean(axis=0), np.eye(2), 1.0, (), (), samples
        )

    def test_the_first_scale_that_is_off_moves_to_the_middle_of_its_goals(self) -> None:
        bench = fixed(slopes=(20.0, 18.0), window=0.09)
        share = 0.09 / math.sqrt(2.0)
        for moments, scale in (
            ((0.6, 0.02), 0),
            ((0.6, 0.5), 0),
            # Just beyond its share of the window, and just within: then the other's turn.
            ((1.05 * share, 0.5), 0),
            ((0.95 * share, 0.5), 1),
            ((0.0, -0.4), 1),
        ):
            belief = self.believed(moments, 1e-4, bench)
            advice = advise(bench, belief, (), AT, (), False)
            self.assertEqual((advice.do, advice.scale), (Action.MOVE, scale), moments)
            self.assertAlmostEqual(advice.to, -moments[scale] / bench.slopes[scale], delta=1e-5)
        # As far as the scale goes, and no farther.
        far = advise(bench, self.believed((3.0, 0.0), 1e-4, bench), (), AT, (), False)
        self.assertEqual((far.scale, far.to), (0, -0.05))
        back = advise(bench, self.believed((-3.0, 0.0), 1e-4, bench), (), AT, (), False)
        self.assertEqual((back.scale, back.to), (0, 0.05))
        # Where it stands at its end already, it says so instead of asking in circles.
        stuck = advise(bench, self.believed((3.0, 0.0), 1e-4, bench), (), (-0.05, 0.0), (LEVEL, UP), False)
        self.assertEqual((stuck.do, stuck.why, stuck.scale), (Action.LEFT, Left.END, 0))
        # So it does where nothing slides; what a scale can still do comes first.
        none = fixed(slopes=(0.0, 0.0))
        known = replace(self.believed((0.3, 0.0), 1e-4, bench), goals=np.full((2000, 2), np.nan))
        self.assertEqual(advise(none, known, (), AT, (LEVEL,), False).why, Left.NO_SCALE)
        both = advise(bench, self.believed((3.0, 0.4), 1e-4, bench), (), (-0.05, 0.0), (LEVEL, UP), False)
        self.assertEqual((both.do, both.scale), (Action.MOVE, 1))

    def test_it_is_done_from_a_chance_of_98_in_a_hundred_where_the_last_looks_agree(self) -> None:
        bench = fixed()
        belief = replace(self.believed((0.0, 0.0), 1e-4, bench), inside=0.98)
        ways = (LEVEL, UP, ASIDE)
        looks = [Observation(way, AT, Response.STAYS) for way in ways]
        self.assertEqual(advise(bench, belief, looks, AT, ways, False), CoachAdvice(Action.DONE))
        self.assertIsNot(advise(bench, replace(belief, inside=0.979), looks, AT, ways, False).do, Action.DONE)
        # Looks at other marks are no last looks, and what contradicts is asked again.
        for k, way in enumerate(ways):
            self.assertEqual(advise(bench, belief, without(looks, k), AT, ways, False), CoachAdvice(Action.TEST, way))
            elsewhere = [replace(look, marks=(0.01, 0.0)) if j == k else look for j, look in enumerate(looks)]
            self.assertEqual(advise(bench, belief, elsewhere, AT, ways, False), CoachAdvice(Action.TEST, way))
            odd = advise(bench, replace(belief, contradicts=(k,)), looks, AT, ways, False)
            self.assertEqual(odd, CoachAdvice(Action.TEST, way, again=True))

    def test_efforts_are_read_where_they_tell_most_and_level_first(self) -> None:
        """A reading is worth what the belief spreads along it, level by half as much again; twice each is enough."""
        bench = fixed(window=0.09)
        rng = np.random.default_rng(4)
        for _ in range(60):
            ways = (LEVEL, UP, ASIDE)
            spread = rng.uniform(0.005, 0.08, 2)
            belief = self.believed((0.5, 0.5), 1.0, bench)
            belief = replace(belief, now=np.array([0.5, 0.5]) + (belief.now - 0.5) * spread)
            worth = [float((belief.now @ np.array(way)).std()) / (0.30 * 0.09) for way in ways]
            worth[0] *= 1.5
            seen = [way for way in ways if rng.random() < 0.4]
            looks = [Observation(way, AT, effort=0.0) for way in seen for _ in (1, 2)]
            # Looks at other marks do not count.
            looks += [Observation(LEVEL, (0.01, 0.0), effort=0.0)] * 2
            worth = [0.0 if way in seen else value for way, value in zip(ways, worth, strict=True)]
            advice = advise(bench, belief, looks, AT, ways, True)
            if max(worth) >= 1.0:
                self.assertEqual((advice.do, advice.way), (Action.TEST, ways[int(np.argmax(worth))]))
            else:
                self.assertIs(advice.do, Action.MOVE)

    def test_releases_are_tried_where_they_tell_most_each_again_for_half(self) -> None:
        bench = fixed()
        rng = np.random.default_rng(6)
        kinds = set()
        for _ in range(60):
            ways = (LEVEL, UP, ASIDE)
            belief = self.believed(tuple(rng.uniform(-0.06, 0.06, 2)), float(rng.uniform(0.002, 0.05)), bench)
            belief = replace(belief, inside=0.0)
            looks = [Observation(way, AT, Response.STAYS) for way in ways for _ in range(int(rng.integers(0, 3)))]
            worth = [
                coach._information(belief, belief.now, way) / 0.20 * 0.5 ** sum(look.way == way for look in looks)
                for way in ways
            ]
            worth[0] *= 1.5
            advice = advise(bench, belief, looks, AT, ways, False)
            kinds.add(advice.do)
            if max(worth) >= 1.0:
                self.assertEqual((advice.do, advice.way), (Action.TEST, ways[int(np.argmax(worth))]))
            else:
                self.assertIsNot(advice.do, Action.DONE)
        self.assertEqual(kinds, {Action.TEST, Action.MOVE})


if __name__ == "__main__":
    unittest.main()
