"""A sled's plans and marks: against brute force, and free of clashes."""

from __future__ import annotations

import itertools
import math
import unittest
from typing import Any
from unittest import mock

import scipy.optimize
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, FindingKind
from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.kit.parts import Category, Connection, Mount, MountKind, Outline
from equilix.core.solver.marks import marks_of
from equilix.core.solver.plan import PlanStatus
from equilix.core.solver.strategies import Strategy, StrategyKind, find_strategies
from equilix.core.solver.targets import form_value, target_of
from equilix.core.statics.sled import (
    fastest_drop,
)
from equilix.supports.vest import mechanics as vest
from equilix.supports.vest.mechanics import lens_marks
from equilix.supports.vest.settings import VestSettings
from tests.campaigns import campaign
from tests.rigs.results import vest_result
from tests.rigs.sleds import BOOK, SOMEBODY, X, left_of, random_sled


@campaign
class Plans(unittest.TestCase):
    def _ways(self, build: Build, kit: Kit) -> tuple[Strategy, ...]:
        return find_strategies(analyse(build, kit, SOMEBODY), kit, SOMEBODY)

    def test_ways_are_what_they_promise(self) -> None:
        closed = 0
        for seed in range(10):
            build, kit = random_sled(seed, replace(VestSettings(), drop=2.2 + 0.1 * (seed % 4)))
            for way in self._ways(build, kit):
                x, y, xz, yz, time = left_of(way.after)
                if way.kind is StrategyKind.SLIDES and way.full:
                    with self.subTest(seed=seed):
                        if way.plan.binding or len(way.plan.moved) < 5:
                            # A slide ends, or one more was not worth its work: what is left is within its tolerance.
                            self.assertLessEqual(self._score(way.after), 1e-9)
                            continue
                        closed += 1
                        self.assertLess(max(abs(x), abs(y)), 1e-9)
                        self.assertLess(max(abs(xz), abs(yz)), 1e-9)
                        self.assertAlmostEqual(time, vest.SUPPORT.settings(build).drop, delta=1e-3)
                        self.assertIs(way.plan.status, PlanStatus.PROVEN)
        self.assertGreaterEqual(closed, 7)

    def test_no_grid_of_slides_leaves_less(self) -> None:
        for seed, reach in ((0, 0.02), (3, 0.02), (8, 0.02)):
            build, kit = random_sled(seed, reach=reach)
            analysis = analyse(build, kit, SOMEBODY)
            ways = [way for way in self._ways(build, kit) if way.kind is StrategyKind.SLIDES]
            self.assertTrue(ways)
            best = self._score(ways[0].after)
            least = math.inf
            pairs = zip(analysis.assembly.slide_parts, analysis.assembly.slide_mounts, strict=True)
            slides = [(analysis.build.parts[i].id, mount) for i, mount in pairs]
            for share in itertools.product((0.0, 0.5, 1.0), repeat=len(slides)):
                tried = build
                for (placed_id, mount), part in zip(slides, share, strict=True):
                    setting = mount.low + part * (mount.high - mount.low)
                    tried = tried.with_placed(replace(tried.placed(placed_id), setting=setting))
                least = min(least, self._score(analyse(tried, kit, SOMEBODY, analysis)))
            with self.subTest(seed=seed):
                self.assertLessEqual(best, least + 1e-9)

    def _score(self, analysis: Analysis) -> float:
        """Return what lies beyond the tolerances, in tolerances, by the parts alone; a sled that turns over last."""
        target = target_of(analysis)
        return sum(
            max(abs(form_value(analysis, target, form)) / target.allowed(form) - 1.0, 0.0) for form in target.forms
        )

    def test_a_search_asks_highs_at_most_twelve_times(self) -> None:
        kinds: dict[StrategyKind, int] = {}
        whole = scipy.optimize.milp
        from equilix.core.solver import strategies

        found = strategies._found
        count = {"now": 0}
        kind_now: list[StrategyKind] = []

        def counted(*args: Any, **more: Any) -> Any:
            kinds[kind_now[-1]] = kinds.get(kind_now[-1], 0) + 1
            count["now"] += 1
            return whole(*args, **more)

        def noted(kind: StrategyKind, *args: Any) -> Any:
            kind_now.append(kind)
            return found(kind, *args)

        builds = [(b, BOOK.parts) for b in BOOK.builds if b.support == "vest"] + [random_sled(s) for s in (1, 2)]
        for build, kit in builds:
            kinds.clear()
            with mock.patch.object(scipy.optimize, "milp", counted), mock.patch.object(strategies, "_found", noted):
                find_strategies(analyse(build, kit, SOMEBODY), kit, SOMEBODY)
            kinds.pop(StrategyKind.DEAD_WEIGHT, None)
            with self.subTest(build=build.name):
                self.assertLessEqual(max(kinds.values()), 12)

    def test_a_drop_that_cannot_be_had_is_said(self) -> None:
        build, kit = random_sled(2, replace(VestSettings(), drop=0.35, room=0.01))
        analysis = analyse(build, kit, SOMEBODY)
        finding = next(f for f in analysis.findings if f.kind == vest.NO_DROP)
        sled = vest_result(analysis).sled
        self.assertAlmostEqual(finding.limit, fastest_drop(sled.mass, sled.swing), places=12)
        for way in self._ways(build, kit):
            self.assertGreater(vest_result(way.after).sled.drop_time, 0.36)

    def test_level_and_drop_by_feel_leaves_products_alone(self) -> None:
        build, kit = random_sled(4, replace(VestSettings(), dynamic=False))
        analysis = analyse(build, kit, SOMEBODY)
        self.assertEqual([form.name for form in target_of(analysis).forms], ["sled x", "sled y", "drop z"])
        way = next(way for way in self._ways(build, kit) if way.kind is StrategyKind.SLIDES)
        x, y, xz, _, time = left_of(way.after)
        self.assertLess(max(abs(x), abs(y)), 1e-9)
        self.assertAlmostEqual(time, 2.5, delta=1e-3)
        self.assertGreater(abs(xz), 1e-4)

    def test_marks_and_the_first_way_come_to_the_same_sled(self) -> None:
        for build in (b for b in BOOK.builds if b.support == "vest"):
            analysis = analyse(build, BOOK.parts, SOMEBODY)
            steps, after = marks_of(analysis)
            x, y, xz, yz, time = left_of(after)
            self.assertLess(max(abs(x), abs(y), abs(xz), abs(yz)), 1e-9)
            self.assertAlmostEqual(time, 2.5, places=6)
            self.assertEqual(len({step.placed_id for step in steps}), len(steps))

    def test_marks_are_worked_out_once_while_one_of_their_slides_is_dragged(self) -> None:
        """They lie where they lie, wherever it is let go; no rig is looked at again for them."""
        for seed in range(4):
            build, kit = random_sled(seed)
            # Nothing stands in the way.
            kit = {key: replace(part, outline=Outline((0.001, 0.001, 0.001))) for key, part in kit.items()}
            steps, _ = marks_of(analyse(build, kit, SOMEBODY))
            self.assertLess(max(abs(step.left) for step in steps), 1e-6)
            first = analyse(build, kit, SOMEBODY)
            marks_of(first)
            for step in steps:
                moved = build.with_placed(replace(build.placed(step.placed_id), setting=step.now + 0.011))
                then = analyse(moved, kit, SOMEBODY, first)
                with mock.patch("equilix.core.solver.marks.analyse", side_effect=AssertionError("looked at again")):
                    again, _ = marks_of(then)
                for one, other in zip(steps, again, strict=True):
                    self.assertAlmostEqual(one.to, other.to, places=9)

    def test_marks_end_where_parts_would_meet_and_say_which(self) -> None:
        """A long screen behind which the battery comes to lie: a millimetre farther they would clash."""
        held = []
        for seed in range(24):
            build, kit = random_sled(seed, reach=0.3)
            kit["screen"] = replace(kit["screen"], outline=Outline((0.22, 0.15, 0.1)))
            before = analyse(build, kit, SOMEBODY)
            steps, after = marks_of(before)
            self.assertLessEqual(_met(after), _met(before), seed)
            for step in steps:
                if not step.meets:
                    continue
                held.append(step.placed_id)
                farther = step.to + math.copysign(0.001, step.to - step.now)
                beyond = after.build.with_placed(replace(after.build.placed(step.placed_id), setting=farther))
                self.assertIn(step.meets, _met(analyse(beyond, kit, SOMEBODY)), seed)
        self.assertGreater(held.count("battery"), 3)
        self.assertGreater(held.count("camera"), 3)


def _met(analysis: Analysis) -> set[tuple[str, ...]]:
    return {finding.placed_ids for finding in analysis.findings if finding.kind == FindingKind.CLASH}


class Chosen(unittest.TestCase):
    def test_a_product_is_closed_by_the_slide_that_moves_it_most_while_the_cg_is_held(self) -> None:
        """Each slide that is left is pushed in turn, the one that levels follows by bisection, and all is summed anew:
        Meriam and Kraige, Dynamics, products of inertia about the CG's axis."""
        asked = 0
        for seed in range(12):
            build, kit = random_sled(seed, VestSettings(dynamic=True))
            if seed % 2:
                # Heavy, but at the camera's height: with the camera set against it, it moves next to nothing.
                rear = Mount("deck", MountKind.DOVETAIL, (-0.15, 0.0, 0.28), Connection.SLIDE, X, -0.05, 0.05)
                kit["post"] = replace(kit["post"], mounts=(*kit["post"].mounts, rear))
                kit["spare"] = replace(kit["battery"], id="spare", mass=2.2)
                build = replace(build, parts=(*build.parts, Placed("spare", "spare", "post", "deck")))
            analysis = analyse(build, kit, SOMEBODY)
            by = {step.stage + " " + step.beside: step.placed_id for step in marks_of(analysis)[0]}
            for axis, way in (("x", 0), ("y", 1)):
                level, spin = by[f"sled {axis}"], by[f"spin {axis}"]
                if not (level and spin):
                    continue
                others = [by[name] for name in by if name not in (f"spin {axis}",)]
                moved = {}
                for j, i in enumerate(analysis.assembly.slide_parts):
                    name = build.parts[i].id
                    if name not in others and abs(float(analysis.assembly.slide_axes[j][way])) > 0.9:
                        moved[name] = abs(self._product(build, kit, name, level, way))
                self.assertEqual(max(moved, key=moved.get), spin, (seed, axis, moved))
                asked += len(moved) > 1
        self.assertGreater(asked, 3)

    def test_the_stage_levels_it_however_heavy_the_base_is(self) -> None:
        """Common practice: level on the stage; the base, though it moves more, is for the spin."""
        build, kit = random_sled(5)
        for heavy in ("battery", "screen", "base"):
            kit[heavy] = replace(kit[heavy], mass=8.0)
        steps = {f"{step.stage} {step.beside}": step.placed_id for step in marks_of(analyse(build, kit, SOMEBODY))[0]}
        self.assertEqual((steps["sled x"], steps["sled y"]), ("camera", "cross"))

    def _product(self, build: Build, kit: Kit, name: str, level: str, way: int) -> float:
        """Return how much (kg m2) the product of inertia changes by for 5 mm of a slide, the CG held where it was."""

        def at(follow: float) -> tuple[float, float]:
            then = build.with_placed(replace(build.placed(name), setting=build.placed(name).setting + 0.005))
            then = then.with_placed(replace(then.placed(level), setting=then.placed(level).setting + follow))
            left = left_of(analyse(then, kit, SOMEBODY))
            return left[way], left[2 + way]

        now = left_of(analyse(build, kit, SOMEBODY))
        follow = scipy.optimize.brentq(lambda by: at(by)[0] - now[way], -0.1, 0.1, xtol=1e-12)
        return at(follow)[1] - now[2 + way]


class LensMarks(unittest.TestCase):
    def test_every_lens_at_its_marks_hangs_drops_and_spins(self) -> None:
        build = next(one for one in BOOK.builds if one.id == "sled-long")
        analysis, closed = analyse(build, BOOK.parts, SOMEBODY), 0
        rows = lens_marks(analysis, BOOK.parts)
        self.assertEqual(len(rows), sum(part.category is Category.LENS for part in BOOK.kit))
        for row in rows:
            lens = next(part for part in BOOK.kit if part.name == row.lens)
            other = build.with_placed(replace(build.placed("lens"), part_id=lens.id))
            for step in row.steps:
                other = other.with_placed(replace(other.placed(step.placed_id), setting=step.to))
            x, y, xz, yz, time = left_of(analyse(other, BOOK.parts, SOMEBODY))
            if any(abs(step.left) > 1e-6 for step in row.steps):
                continue
            closed += 1
            with self.subTest(lens=row.lens):
                self.assertLess(max(abs(x), abs(y), abs(xz), abs(yz)), 1e-9)
                self.assertAlmostEqual(time, 2.5, places=6)
        self.assertGreaterEqual(closed, 4)


if __name__ == "__main__":
    unittest.main()
