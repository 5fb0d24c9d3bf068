"""Whose weighing would move the camera's mark, by weighing it; what goes along with the camera, by where it ends."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Build, Operator, Placed
from equilix.core.kit.parts import Category, Connection, Mount, MountKind, Part
from equilix.core.slides import level_setting, slide_of_camera
from equilix.core.solver.choices import Follower, Variable
from equilix.core.solver.lenses import _set_with, lens_table
from equilix.core.solver.plan import Goal
from equilix.core.solver.search import find_plan
from equilix.core.solver.search_space import lens_followers
from equilix.core.solver.sensitivity import influences
from equilix.core.solver.targets import target_of
from tests.rigs.plain import block, grip, shoulder_build

MAN = Operator("m", "M", 1.78, 77.0)


def rig(seed: int, support: str) -> tuple[Build, dict[str, Part]]:
    """Return a camera on a plate that slides on the base, a lens, a battery behind, two grips."""
    rng = np.random.default_rng(seed)
    top = Mount("top", MountKind.DOVETAIL, (0.0, 0.0, 0.03), Connection.SLIDE, (1.0, 0.0, 0.0), -0.06, 0.06)
    nose = Mount("nose", MountKind.LENS_MOUNT, (0.09, 0.0, 0.0))
    camera = block(
        "camera", float(rng.uniform(1.5, 3.0)), (0.18, 0.1, 0.12), Category.BODY,
        mounts=(nose,), kind=MountKind.DOVETAIL, at=(0.0, 0.0, -0.06),
    )  # fmt: skip
    lens = block(
        "lens",
        float(rng.uniform(0.6, 1.8)),
        (0.16, 0.09, 0.09),
        Category.LENS,
        kind=MountKind.LENS_MOUNT,
        at=(-0.08, 0, 0),
    )
    build, kit = shoulder_build(
        (
            block("pack", float(rng.uniform(0.5, 1.2)), (0.07, 0.1, 0.14), Category.BATTERY),
            float(rng.uniform(-0.3, -0.1)),
        ),
        (replace(grip("l"), mass=0.2), 0.22),
        (replace(grip("r"), mass=0.2), 0.25),
    )
    kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, top))
    kit |= {"camera": camera, "lens": lens}
    parts = (
        *build.parts,
        Placed("camera", "camera", "base", "top", 0, float(rng.uniform(-0.05, 0.05))),
        Placed("lens", "lens", "camera", "nose"),
    )
    return replace(build, parts=parts, support=support), kit


def mark(analysis: Analysis) -> float:
    found = level_setting(analysis, slide_of_camera(analysis))
    assert found is not None
    return found


class Sways(unittest.TestCase):
    def test_each_part_weighed_heavier_and_lighter_moves_the_mark_as_said(self) -> None:
        """The rig worked out again with one part heavier by a gram: what two standard uncertainties would do."""
        told = flipped = 0
        for support in ("shoulder", "tripod", "harness"):
            for seed in range(12):
                build, kit = rig(seed, support)
                analysis = analyse(build, kit, MAN)
                if slide_of_camera(analysis) is None or analysis.equilibrium is None:
                    continue
                # Every other rig's mark lies at a stop of its plate: there a gram decides.
                if seed % 2:
                    at = mark(analysis)
                    kit["base"] = replace(
                        kit["base"],
                        mounts=(
                            *kit["base"].mounts[:-1],
                            replace(kit["base"].mounts[-1], low=at - 1e-4, high=at + 0.1),
                        ),
                    )
                    analysis = analyse(build, kit, MAN)
                now, found = mark(analysis), influences(analysis, 0.0)
                self.assertEqual(len(found), len(build.parts))
                shifts = [one.shift for one in found]
                self.assertEqual(shifts, sorted(shifts, reverse=True))
                mount = analysis.assembly.slide_mounts[slide_of_camera(analysis)]
                uncertainties = analysis.assembly.uncertainties
                for one in found:
                    part = analysis.assembly.parts[one.part]
                    moved = []
                    for gram in (0.001, -0.001):
                        other = {**kit, part.id: replace(part, mass=(part.mass or 0.0) + gram)}
                        moved.append(mark(analyse(build, other, MAN)))
                    slope = (moved[0] - moved[1]) / 0.002
                    u = float(
                        np.hypot(uncertainties.mass[one.part], np.sqrt((uncertainties.gain[:, one.part] ** 2).sum()))
                    )
                    self.assertAlmostEqual(one.shift, 2.0 * u * abs(slope), delta=2e-6 + 1e-4 * one.shift)
                    inside = mount.low <= now <= mount.high
                    ends = [mount.low <= now + way * one.shift <= mount.high for way in (-1.0, 1.0)]
                    self.assertEqual(one.flips, ends != [inside, inside])
                    flipped += one.flips
                    told += 1
                least = shifts[len(shifts) // 2]
                # From so far on, that itself among them.
                self.assertEqual([one.shift for one in influences(analysis, least)], [s for s in shifts if s >= least])
        # What has no mass yet sways nothing, and nothing else.
        build, kit = rig(3, "shoulder")
        kit["note"] = replace(block("note", 1.0, (0.02, 0.02, 0.02)), mass=None)
        noted = replace(build, parts=(*build.parts, Placed("note", "note", "base", "rail", 0, 0.4)))
        without = {one.part: one.shift for one in influences(analyse(build, kit, MAN), 0.0)}
        heard = {one.part: one.shift for one in influences(analyse(noted, kit, MAN), 0.0)}
        self.assertEqual(heard.pop(len(build.parts)), 0.0)
        self.assertEqual(heard.keys(), without.keys())
        for number, shift in without.items():
            self.assertAlmostEqual(heard[number], shift, places=12)
        self.assertGreater(told, 120)
        self.assertGreater(flipped, 10)


class Marks(unittest.TestCase):
    def test_a_mark_beyond_the_plate_is_where_a_longer_one_would_level_it(self) -> None:
        """Lenses of several masses on plates of 120 mm: the same rig on a plate as long as it takes."""
        beyond = 0
        for support in ("shoulder", "tripod"):
            for seed in range(6):
                build, kit = rig(seed, support)
                kit |= {f"lens {m}": replace(kit["lens"], id=f"lens {m}", mass=m) for m in (0.2, 2.5)}
                analysis = analyse(build, kit, MAN)
                table = lens_table(analysis, kit, MAN)
                for row in table.rows if table is not None else ():
                    if row.part is None:
                        continue
                    fitted = build.with_placed(replace(build.placed("lens"), part_id=row.part.id))
                    there = fitted.with_placed(replace(fitted.placed("camera"), setting=row.mark))
                    self.assertAlmostEqual(analyse(there, kit, MAN).equilibrium.tip_moment, 0.0, delta=2e-4)
                    if abs(row.mark - row.stop) > 1e-3:
                        beyond += 1
                        self.assertLessEqual(abs(row.stop), 0.06 + 1e-9)
                        stopped = fitted.with_placed(replace(fitted.placed("camera"), setting=row.stop))
                        self.assertGreater(abs(analyse(stopped, kit, MAN).equilibrium.tip_moment), 1e-3)
        self.assertGreater(beyond, 5)


class Followers(unittest.TestCase):
    def test_what_is_set_to_the_lens_keeps_its_place_at_it(self) -> None:
        """A motor and a lens support on rods that run either way: seen from the sensor neither has moved."""
        for axis in (1.0, -1.0):
            build, kit = rig(4, "shoulder")
            rods = Mount("rods", MountKind.LIGHT_RODS, (0.2, 0.0, -0.03), Connection.SLIDE, (axis, 0.0, 0.0), -0.2, 0.2)
            kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, rods))
            kit["motor"] = block("motor", 0.2, (0.03, 0.03, 0.06), Category.FOCUS, at=(0.0, 0.0, -0.05))
            kit["under"] = block("under", 0.2, (0.02, 0.08, 0.04), Category.LENS_SUPPORT)
            parts = (
                *build.parts,
                Placed("motor", "motor", "base", "rods", 0, axis * 0.02),
                Placed("under", "under", "base", "rods", 0, axis * -0.03),
            )
            build = replace(build, parts=parts)
            analysis = analyse(build, kit, MAN)
            follows = {one.follower: one for one in lens_followers(analysis)}
            self.assertEqual(set(follows), {"motor", "under"})
            self.assertEqual((follows["motor"].back, follows["motor"].ahead), (0.0, 0.0))
            ids = [placed.id for placed in build.parts]
            lens = ids.index("lens")
            middle, half = float(analysis.positions.centre[lens, 0]), float(analysis.assembly.edges[lens, 0])
            there = float(analysis.positions.centre[ids.index("under"), 0])
            room = min(middle - 0.6 * half - there, 0.0), max(middle + 0.9 * half - there, 0.0)
            # Counted as its own slide counts.
            ends = room if axis > 0.0 else (-room[1], -room[0])
            self.assertAlmostEqual(follows["under"].back, ends[0])
            self.assertAlmostEqual(follows["under"].ahead, ends[1])
            camera = build.placed("camera")
            for setting in (-0.06, -0.01, 0.05):
                moved = analyse(_set_with(analysis, camera, setting), kit, MAN)
                self.assertEqual(moved.build.placed("camera").setting, setting)
                # Coordinates count from the sensor: what kept its place there has not moved.
                for name in ("motor", "lens"):
                    before, after = (float(one.positions.centre[ids.index(name), 0]) for one in (analysis, moved))
                    self.assertAlmostEqual(after, before, places=12, msg=(axis, setting, name))
                under = float(moved.positions.centre[ids.index("under"), 0])
                low, high = middle - 0.6 * half, middle + 0.9 * half
                self.assertTrue(min(low, there) - 1e-9 <= under <= max(high, there) + 1e-9)
                # It stays where it stands on its rods as long as it can.
                stood = build.placed("under").setting
                way = setting - camera.setting
                if min(low, there) <= there - way <= max(high, there):
                    self.assertAlmostEqual(moved.build.placed("under").setting, stood, places=12)
            # Rods that end stop it.
            short = replace(rods, low=-0.025 if axis > 0 else -0.2, high=0.2 if axis > 0 else 0.025)
            kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts[:-1], short))
            parts = tuple(replace(p, setting=0.0) if p.id in ("motor", "under") else p for p in build.parts)
            ended = analyse(replace(build, parts=parts), kit, MAN)
            back = _set_with(ended, camera, camera.setting - 0.04)
            self.assertAlmostEqual(back.placed("motor").setting, -axis * 0.025)

    def test_what_goes_along_exactly_moves_as_far_as_its_leader(self) -> None:
        """A rail of blocks: with two of them together the CG is over the pad where their common way says, in closed
        form; where the follower's rail ends, there they stay."""
        build, kit = shoulder_build(
            (block("lead", 1.5, (0.04, 0.05, 0.05)), 0.21),
            (block("along", 0.8, (0.04, 0.05, 0.05)), 0.09),
            (block("fixed", 1.1, (0.04, 0.05, 0.05)), -0.02),
        )
        analysis = analyse(build, kit, MAN)
        target = target_of(analysis)
        together = Variable(frozenset({"lead"}), (), (Follower("lead", "along"),))
        plan = find_plan(build, kit, target, together, (Goal.MOMENT, Goal.TRAVEL))
        by = -(1.5 * 0.21 + 0.8 * 0.09 - 1.1 * 0.02) / 2.3
        self.assertLess(0.09 + by, -0.06)
        for name, at in (("lead", 0.21), ("along", 0.09)):
            self.assertAlmostEqual(plan.build.placed(name).setting, at + by, places=4)
        short = tuple(replace(m, low=-0.01) if m.id == "rail" else m for m in kit["base"].mounts)
        kit["base"] = replace(kit["base"], mounts=short)
        # Out of the others' way.
        build = build.with_placed(replace(build.placed("fixed"), mount="across", setting=0.3))
        ended = find_plan(build, kit, target, together, (Goal.MOMENT, Goal.TRAVEL))
        self.assertAlmostEqual(ended.build.placed("along").setting, -0.01, places=4)
        self.assertAlmostEqual(ended.build.placed("lead").setting, 0.21 - 0.10, places=4)


if __name__ == "__main__":
    unittest.main()
