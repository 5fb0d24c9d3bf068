"""How a rig's mass, CG, stages and inertia follow each part's figures, by weighing it again with that part changed."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Kit, Placed
from equilix.core.kit.parts import Category, Connection, HowKnown, Mount, MountKind, Part
from equilix.core.kit.records import Shared
from equilix.core.measurement.lesson import suspect
from equilix.core.uncertainty.output_model import (
    CG_AHEAD,
    LARGER_HAND,
    OWN_INERTIA,
    SLIDE_TO_LEVEL,
    Samples,
    inputs_of,
    output_model,
)
from equilix.supports.vest import outputs
from tests.campaigns import campaign
from tests.rigs.gimbals import random_gimbal
from tests.rigs.plain import OPERATOR, block, grip, rail, shoulder_build
from tests.rigs.sleds import random_sled


def on_the_shoulder(seed: int) -> tuple[Build, dict[str, Part]]:
    """Return a camera on a plate that slides, with things on the plate and beside it."""
    rng = np.random.default_rng(seed)
    parts = [(block(name, float(rng.uniform(0.3, 2.0))), float(rng.uniform(-0.4, 0.4))) for name in ("a", "b", "c")]
    camera = (block("camera", 3.0, (0.2, 0.1, 0.12), Category.BODY), float(rng.uniform(-0.2, 0.2)))
    build, kit = shoulder_build(*parts, camera, (grip("l"), 0.4), (grip("r"), 0.45))
    turned = tuple(replace(p, quarter_turns=int(rng.integers(4))) if p.id in ("a", "b") else p for p in build.parts)
    kit = {k: replace(p, cg=tuple(float(v) for v in rng.uniform(-0.03, 0.03, 3))) for k, p in kit.items()}
    return replace(build, parts=(*turned[:1], *turned[1:])), kit


def _shifted(part: Part, by: np.ndarray) -> list[Part]:
    """Return a part with its CG moved along each of its own axes by `by` (3,) (m)."""
    return [
        replace(part, cg=tuple(c + (float(by[j]) if i == j else 0.0) for i, c in enumerate(part.cg))) for j in range(3)
    ]


class AlongATiltedSlide(unittest.TestCase):
    def test_the_slide_that_is_told_makes_it_level(self) -> None:
        """A camera on a wedge: only the level part of its way counts; slid by what is told nothing tips any more."""
        for up in (0.0, 0.5, -0.4):
            build, kit = on_the_shoulder(8)
            plate = kit["base"]
            wedge = Mount("wedge", MountKind.LIGHT_RODS, (0.0, 0.0, 0.3), Connection.SLIDE, (1.0, 0.0, up), -1.5, 1.5)
            kit["base"] = replace(plate, mounts=(*plate.mounts, wedge))
            build = build.with_placed(replace(build.placed("camera"), mount="wedge"))
            analysis = analyse(build, kit, OPERATOR)
            computed = output_model(analysis)
            (by,) = computed.values(SLIDE_TO_LEVEL, computed.now())
            self.assertGreater(abs(float(by)), 0.02)
            moved = build.with_placed(
                replace(build.placed("camera"), setting=build.placed("camera").setting + float(by))
            )
            self.assertAlmostEqual(analyse(moved, kit, OPERATOR).equilibrium.tip_moment, 0.0, places=9)


@campaign
class Slopes(unittest.TestCase):
    def rows(self, build: Build, kit: Kit) -> np.ndarray:
        """Return mass, CG, carried mass, mass and CG of each stage, and the inertia, as one row."""
        computed = output_model(analyse(build, kit, OPERATOR))
        assert computed is not None
        result: np.ndarray = computed.now().rows[0]
        return result

    def test_by_each_mass_and_each_cg(self) -> None:
        rigs = [on_the_shoulder(3), random_gimbal(4), random_sled(5), on_the_shoulder(6), random_sled(7)]
        for build, kit in rigs:
            analysis = analyse(build, kit, OPERATOR)
            computed = output_model(analysis)
            inputs = inputs_of(analysis, computed.slide)
            for k, placed in enumerate(build.parts):
                part = kit[placed.part_id]
                step = 1e-4
                ends = [self.rows(build, {**kit, part.id: replace(part, mass=part.mass + d)}) for d in (step, -step)]
                slope = (ends[0] - ends[1]) / (2.0 * step)
                np.testing.assert_allclose(inputs.mass[k], slope, atol=2e-7, err_msg=f"{build.id} {placed.id}")
                for j in range(3):
                    moved = []
                    for d in (step, -step):
                        cg = list(part.cg)
                        cg[j] += d
                        moved.append(self.rows(build, {**kit, part.id: replace(part, cg=tuple(cg))}))
                    slope = (moved[0] - moved[1]) / (2.0 * step)
                    np.testing.assert_allclose(inputs.cg[k, j], slope, atol=2e-7, err_msg=f"{build.id} {placed.id}")

    def test_the_slide_that_levels_it_where_the_pad_goes_along(self) -> None:
        """A carriage with camera and pad slides over a deck with a heavy battery: moved there, it tips no more."""
        pad = Mount("pad", MountKind.SHOULDER, (0.0, 0.0, -0.1))
        kit = {
            "deck": block("deck", 0.8, (0.4, 0.1, 0.02), Category.PLATE, mounts=(rail("rail", 0.6), rail("back", 0.6))),
            "carriage": block("carriage", 0.5, (0.1, 0.1, 0.05), Category.PLATE, mounts=(pad, rail("top", 0.0))),
            "camera": block("camera", 2.5, (0.2, 0.1, 0.12), Category.BODY),
            "power": block("power", 2.0, category=Category.BATTERY),
        }
        parts = (
            Placed("deck", "deck"),
            Placed("carriage", "carriage", "deck", "rail", 0, 0.2),
            Placed("camera", "camera", "carriage", "top", 0, 0.0),
            Placed("power", "power", "deck", "back", 0, -0.3),
        )
        build = Build("c", "Carriage", parts)
        analysis = analyse(build, kit, OPERATOR)
        computed = output_model(analysis)
        by = float(computed.values(SLIDE_TO_LEVEL, computed.now())[0])
        self.assertGreater(abs(analysis.equilibrium.ahead), 0.05)
        moved = build.with_placed(replace(build.placed("carriage"), setting=0.2 + by))
        self.assertAlmostEqual(analyse(moved, kit, OPERATOR).equilibrium.ahead, 0.0, places=9)
        # Where all that slides is all there is, the pad goes along and nothing is gained: there is no such slide.
        alone = Build("d", "Alone", (parts[0], parts[1], parts[2]))
        light = {**kit, "deck": replace(kit["deck"], mass=0.0)}
        self.assertNotIn(SLIDE_TO_LEVEL, output_model(analyse(alone, light, OPERATOR)).offered)

    def test_hands_are_those_of_the_rigs_that_are_asked(self) -> None:
        """Whatever was asked before: twice as heavy a rig is twice as heavy in closed hands without a pad's help."""
        build, kit = on_the_shoulder(8)
        computed = output_model(analyse(replace(build, support="handheld"), kit, OPERATOR))
        now = computed.now()
        once = computed.values(LARGER_HAND, now)
        twice = computed.values(LARGER_HAND, Samples(2.0 * now.mass, now.cg, now.carried, now.stages, now.seconds))
        np.testing.assert_allclose(twice, 2.0 * once, rtol=1e-6)
        np.testing.assert_allclose(computed.values(LARGER_HAND, now), once)

    def test_the_likeliest_cause_of_a_surprise_is_what_moves_the_figure_most(self) -> None:
        """Each part in turn heavier, its CG elsewhere and its inertia greater by its own uncertainty: squares added."""
        named = set()
        for seed in range(14):
            build, kit = random_sled(seed)
            rng = np.random.default_rng(seed)
            uncertainties = dict.fromkeys(kit, HowKnown.WEIGHED)
            # Most are weighed; two are guessed, one much lighter than the other.
            uncertainties |= dict.fromkeys((str(one) for one in rng.permutation(sorted(kit))[:2]), HowKnown.GUESSED)
            kit = {k: replace(part, mass_known=uncertainties[k], cg_known=uncertainties[k]) for k, part in kit.items()}
            if seed > 7:
                # Known to so little that a part's own inertia may be what matters.
                fine = [10.0 ** rng.uniform(-5.5, -3.0, 2) for _ in kit]
                kit = {
                    k: replace(part, mass_u=float(m), cg_u=float(c))
                    for (k, part), (m, c) in zip(kit.items(), fine, strict=True)
                }
            if seed in (6, 7):
                # One scale for all: its gain moves the heavy ones most.
                weighed = {k: (Shared("scale", 0.02 * part.mass),) for k, part in kit.items()}
                kit = {k: replace(part, mass_u=1e-3, cg_u=1e-5, shared=weighed[k]) for k, part in kit.items()}
            analysis = analyse(build, kit, OPERATOR)
            computed = output_model(analysis)
            for output in (outputs.DROP, outputs.XZ, CG_AHEAD):
                if output not in computed.offered:
                    continue
                u, own = (
                    analysis.assembly.uncertainties,
                    inputs_of(analysis, computed.slide).own @ computed.gradient(output),
                )
                squares = []
                for k, placed in enumerate(build.parts):
                    part = kit[placed.part_id]
                    moved = [OWN_INERTIA * float(own[k])]
                    by = math.sqrt(float(u.mass[k] ** 2 + (u.gain[:, k] ** 2).sum()))
                    for other in (replace(part, mass=part.mass + 0.01 * by), *_shifted(part, 0.01 * u.cg[k])):
                        there = output_model(analyse(build, {**kit, part.id: other}, OPERATOR))
                        change = there.values(output, there.now())[0] - computed.values(output, computed.now())[0]
                        moved.append(100.0 * float(change))
                    squares.append(sum(by * by for by in moved))
                found = suspect(computed, output)
                self.assertEqual(found, build.parts[int(np.argmax(squares))].id, (seed, output))
                named.add(found)
        self.assertGreater(len(named), 2)

    def test_by_a_parts_own_inertia_as_a_share_of_it(self) -> None:
        build, kit = random_sled(11)
        analysis = analyse(build, kit, OPERATOR)
        computed = output_model(analysis)
        own = inputs_of(analysis, computed.slide).own
        # Nothing but the inertia follows it, and there all parts' own add up with what their places make.
        self.assertFalse(own[:, :-6].any())
        away = analysis.positions.cg - analysis.body.cg
        masses = analysis.assembly.mass
        places = sum(m * (d @ d * np.eye(3) - np.outer(d, d)) for m, d in zip(masses, away, strict=True))
        i, j = (0, 1, 2, 0, 0, 1), (0, 1, 2, 1, 2, 2)
        np.testing.assert_allclose(own[:, -6:].sum(axis=0) + places[i, j], analysis.body.inertia[i, j], atol=1e-12)


if __name__ == "__main__":
    unittest.main()
