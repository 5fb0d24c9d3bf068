"""The programme's rows against the rig itself, resolved again at other settings: far-out masses, and boxes of parts."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import Category, Mount, MountKind
from equilix.core.solver.choices import Choice, Option
from equilix.core.solver.freedoms import Freedom
from equilix.core.solver.plan import UNIT, Goal
from equilix.core.solver.search import NO_LIMITS, _Search, all_free_slides
from equilix.core.solver.targets import Form, Target
from tests.core.builders import OPERATOR, base, block, rail

X = np.array([1.0, 0.0, 0.0])


def sleds(rng: np.random.Generator) -> tuple[Build, dict]:
    """Return a base with a sled on it, a sled on that, a part on each, and one beside them."""
    kit = {"base": base(float(rng.uniform(0.5, 2.0)))}
    for name in ("low", "high"):
        tilted = (float(rng.uniform(0.6, 1.0)), 0.0, float(rng.uniform(-0.4, 0.4)))
        size = tuple(float(v) for v in rng.uniform(0.02, 0.2, 3))
        kit[name] = block(name, float(rng.uniform(0.2, 2.0)), size, mounts=(rail("rail", 0.5, tilted),))
    for name in ("a", "b", "c"):
        kit[name] = block(name, float(rng.uniform(0.2, 3.0)), tuple(float(v) for v in rng.uniform(0.02, 0.2, 3)))
    at = {name: float(rng.uniform(-0.4, 0.4)) for name in kit}
    parts = (
        Placed("base", "base"),
        Placed("low", "low", "base", "rail", 0, at["low"]),
        Placed("high", "high", "low", "rail", 0, at["high"]),
        Placed("a", "a", "high", "rail", 0, at["a"]),
        Placed("b", "b", "low", "rail", 0, at["b"]),
        Placed("c", "c", "base", "rail", 0, at["c"]),
    )
    return Build("b", "b", parts), kit


class AgainstTheRig(unittest.TestCase):
    def programme(self, build: Build, kit: dict, freedom: Freedom | None = None, holder: str = "base") -> _Search:
        analysis = analyse(build, kit, OPERATOR)
        # Beside the base's own CG, which would else lie on neither side.
        self.point = analysis.stand.point + np.array([0.017, 0.0, 0.0])
        target = Target(self.point, holder, (Form("pitch", X),), 0.0)
        free = freedom or Freedom(all_free_slides(analysis.assembly))
        return _Search(build, kit, target, free, NO_LIMITS, analysis.assembly)

    def far_out(self, build: Build, kit: dict, settings: np.ndarray, holder: str) -> np.ndarray:
        """Return (n,) how far ahead of what holds the rig each part's CG lies (m), that point going with `holder`."""
        assembly = prepare(build, kit)
        now = assembly.at(assembly.settings(build))
        then = assembly.at(settings)
        k = next(i for i, p in enumerate(build.parts) if p.id == holder)
        # From the root, as the rig's frame may go along with a slide.
        holds = self.point - now.base + (then.centre[k] - then.base) - (now.centre[k] - now.base)
        return (then.cg - then.base - holds) @ X

    def test_terms_of_steadiness_are_how_the_first_absolute_moment_falls(self) -> None:
        rng = np.random.default_rng(31)
        for holder in ("base", "low", "base", "low", "base", "high"):
            build, kit = sleds(rng)
            programme = self.programme(build, kit, holder=holder)
            terms = dict(programme._terms(Goal.STEADINESS))
            assembly = programme.assembly
            now = assembly.settings(build)
            side = np.sign(self.far_out(build, kit, now, holder))
            for j in range(len(now)):
                step = np.zeros(len(now))
                step[j] = 0.01
                more = self.far_out(build, kit, now + step, holder) - self.far_out(build, kit, now - step, holder)
                slope = -float(assembly.mass @ (side * more)) / 0.02
                self.assertAlmostEqual(terms.get(programme.slide_column[j], 0.0), slope, places=9)

    def test_a_part_put_on_counts_by_its_own_distance(self) -> None:
        rng = np.random.default_rng(32)
        for _ in range(6):
            build, kit = sleds(rng)
            x = float(rng.uniform(-0.4, 0.4))
            low = kit["base"]
            deck = Mount("deck", MountKind.QUARTER_20, (x, 0.0, 0.1))
            kit["base"] = replace(low, mounts=(*low.mounts, deck))
            kit["block"] = block("block", 0.7, category=Category.WEIGHT, kind=MountKind.QUARTER_20)
            option = Option(Placed("block", "block", "base", "deck"))
            freedom = Freedom(frozenset(), (Choice((option,)),))
            programme = self.programme(build, kit, freedom)
            terms = dict(programme._terms(Goal.STEADINESS))
            with_it = Build("b", "b", (*build.parts, option.placed))
            there = self.far_out(with_it, kit, prepare(with_it, kit).settings(with_it), "base")
            self.assertAlmostEqual(terms[programme.binary[0]] * UNIT, -0.7 * abs(float(there[-1])), places=9)

    def test_boxes_of_parts_follow_their_slides(self) -> None:
        rng = np.random.default_rng(33)
        for _ in range(6):
            build, kit = sleds(rng)
            programme = self.programme(build, kit)
            assembly = programme.assembly
            settings = rng.uniform(-0.3, 0.3, len(assembly.slide_parts))
            then = assembly.at(settings)
            x = {column: settings[j] / UNIT for j, column in programme.slide_column.items()}
            for k, placed in enumerate(build.parts):
                (item,) = programme._items(placed.id)
                middle = item.middle + sum((x[column] * axis for column, axis in item.terms), np.zeros(3))
                np.testing.assert_allclose(middle * UNIT, then.centre[k] - then.base, atol=1e-12)
                np.testing.assert_allclose(item.half * UNIT, np.array(kit[placed.part_id].outline.size) / 2, atol=1e-12)
