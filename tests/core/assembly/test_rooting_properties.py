"""A build hangs on whatever part one likes: nothing about the rig depends on it."""

from __future__ import annotations

import unittest
from itertools import combinations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis, stays
from equilix.core.assembly.build import Build, Kit, Placed, check_build
from equilix.core.assembly.mounts import free_feet, free_mounts
from equilix.core.assembly.resolve import prepare
from equilix.core.assembly.tree_order import between, canonical_root, levelled, reroot, side, taken_off, without
from equilix.core.kit.parts import Category, Connection, Foot, Mount, MountKind, Part
from equilix.core.slides import camera_slide
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.strategies import find_strategies
from equilix.io.shipped import demo_book
from tests.campaigns import campaign
from tests.rigs.plain import OPERATOR, block, holds
from tests.rigs.trees import trees

BOOK = demo_book()


def _places(build: Build, kit: dict[str, Part]) -> tuple[np.ndarray, np.ndarray]:
    """Return every part's CG from the first one's, and its rotation, in part order."""
    assembly = prepare(build, kit)
    positions = assembly.at(assembly.settings(build))
    return positions.cg - positions.cg[0], assembly.rotation


@campaign
class Anywhere(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(trees().filter(lambda drawn: holds(*drawn)), st.data())
    def test_nothing_moves_when_the_tree_is_turned_round(
        self, drawn: tuple[Build, dict[str, Part]], data: st.DataObject
    ) -> None:
        build, kit = drawn
        there, stands = _places(build, kit)
        other = data.draw(st.sampled_from(build.parts)).id
        turned = reroot(build, other)
        check_build(turned, kit)
        again, equilibrium = _places(turned, kit)
        np.testing.assert_allclose(again, there, atol=1e-12)
        np.testing.assert_allclose(equilibrium, stands, atol=1e-12)
        self.assertEqual([p.id for p in turned.parts], [p.id for p in build.parts])
        self.assertEqual(reroot(turned, build.parts[0].id), build)
        for one in (canonical_root(turned), levelled(turned, kit)):
            now, way = _places(one, kit)
            np.testing.assert_allclose(now, there, atol=1e-12)
            np.testing.assert_allclose(way, stands, atol=1e-12)

    @settings(max_examples=100, deadline=None)
    @given(trees().filter(lambda drawn: holds(*drawn)), st.data())
    def test_a_slide_moves_the_same_parts_against_each_other(
        self, drawn: tuple[Build, dict[str, Part]], data: st.DataObject
    ) -> None:
        """Against placing anew: distances that change when a setting does are those across the joint."""
        build, kit = drawn
        build = reroot(build, data.draw(st.sampled_from(build.parts)).id)
        assembly = prepare(build, kit)
        now = assembly.settings(build)
        before = assembly.at(now).cg
        for j, keeper in enumerate(assembly.slide_parts):
            moved = now.copy()
            moved[j] += 0.1
            after = assembly.at(moved).cg
            joint = build.parts[keeper].id
            for a, b in combinations(range(len(build.parts)), 2):
                way = (after[a] - after[b]) - (before[a] - before[b])
                apart = between(build, joint, build.parts[a].id, build.parts[b].id)
                self.assertEqual(assembly.parts_two(j, a, b), apart)
                self.assertAlmostEqual(float(np.linalg.norm(way)), 0.1 if apart else 0.0, places=12)
                self.assertEqual(j in assembly.slides_between(a, b), apart)
            self.assertTrue(side(build, joint, joint))

    def test_upright_reverses_as_few_joints_as_can_be(self) -> None:
        for placed in BOOK.builds[0].parts:
            turned = canonical_root(reroot(BOOK.builds[0], placed.id))
            self.assertEqual(turned, BOOK.builds[0])

    def test_a_plate_goes_below_a_camera_worked_by_hand(self) -> None:
        """The foot at 40 mm below meets the mount at 5 mm above: the plate hangs 45 mm lower, 0.1 m along its slide."""
        foot = Foot(MountKind.DOVETAIL, (0.0, 0.0, -0.04))
        camera = replace(block("camera", 2.0, category=Category.BODY), feet=(foot,))
        slot = Mount("slot", MountKind.DOVETAIL, (0.0, 0.0, 0.005), Connection.SLIDE, low=-0.2, high=0.2)
        plate = block("plate", 1.0, mounts=(slot,))
        kit = {"camera": camera, "plate": plate}
        below = Placed("2", "plate", "1", "slot", 0, 0.1, reversed=True)
        build = Build("b", "B", (Placed("1", "camera"), below))
        for one in (build, canonical_root(build)):
            assembly = prepare(one, kit)
            origin = assembly.at(assembly.settings(one)).origin
            np.testing.assert_allclose(origin[1] - origin[0], (-0.1, 0.0, -0.045), atol=1e-15)
        self.assertEqual(canonical_root(build).parts[0], Placed("1", "camera", "2", "slot", 0, 0.1))

    def test_a_mount_and_a_foot_that_are_used_are_not_free(self) -> None:
        build, kit = BOOK.builds[0], BOOK.parts
        for placed in build.parts:
            turned = reroot(build, placed.id)
            self.assertEqual(free_mounts(turned, kit), free_mounts(build, kit))
            self.assertEqual(free_feet(turned, kit), free_feet(build, kit))
        # The handle stands on its screw: its other foot, at the same place, holds nothing more.
        self.assertNotIn("handle", {free.placed_id for free in free_feet(build, kit)})

    def test_what_comes_off_hangs_on_the_camera_no_more(self) -> None:
        build = BOOK.builds[0]
        for root in (p.id for p in build.parts):
            turned = reroot(build, root)
            self.assertEqual(taken_off(turned, "handle", "body"), ("handle", "tilt", "sender", "monitor"))
            off = taken_off(turned, "base", "body")
            self.assertEqual(set(build.carried_by("plate")), {p.id for p in build.parts} - set(off))
            left = without(turned, frozenset(off))
            self.assertEqual({p.id for p in left.parts if p.parent is None}, {"plate"})
            # The camera itself: the largest group that is left.
            stays = {p.id for p in build.parts} - set(taken_off(turned, "body", "body"))
            from_there = reroot(build, "body")
            groups = [set(from_there.carried_by(p.id)) for p in from_there.parts if p.parent == "body"]
            self.assertGreater(len(groups), 2)
            self.assertEqual(stays, max(groups, key=len))
            self.assertIn("base", stays)


class Nothing(unittest.TestCase):
    def test_a_build_without_parts_names_none_that_is_level(self) -> None:
        self.assertEqual(levelled(Build("b", "B", level="gone"), {}).level, "")


@campaign
class DemoReRooted(unittest.TestCase):
    """The demo hung on each of its parts: verdict, camera slide, lens table and ways are the same."""

    kit: Kit
    build: Build
    now: Analysis

    @classmethod
    def setUpClass(cls) -> None:
        cls.kit = BOOK.parts
        cls.build = BOOK.builds[0]
        cls.now = analyse(cls.build, cls.kit, OPERATOR)

    def _turned(self) -> list[Analysis]:
        return [analyse(reroot(self.build, p.id), self.kit, OPERATOR) for p in self.build.parts]

    def test_figures_and_camera_slide(self) -> None:
        slide = camera_slide(self.now.assembly)
        assert slide is not None
        self.assertEqual(self.now.build.parts[self.now.assembly.slide_parts[slide]].id, "plate")
        for placed in self.build.parts:
            # As it is turned, not as analyse would set it upright first.
            turned = reroot(self.build, placed.id)
            assembly = prepare(turned, self.kit)
            np.testing.assert_allclose(
                assembly.at(assembly.settings(turned)).cg, self.now.positions.cg, atol=1e-13, err_msg=placed.id
            )
            found = camera_slide(assembly)
            assert found is not None
            keeper = turned.parts[assembly.slide_parts[found]].id
            # One and the same joint, kept by either of its two parts.
            self.assertIn(keeper, ("plate", "base"))
            self.assertTrue(between(turned, keeper, "plate", "base"))
        for after in self._turned():
            # What all advice is worked out from is the same build: figures, marks and ways follow.
            self.assertEqual(after.build, self.build)
            assert after.equilibrium is not None
            assert self.now.equilibrium is not None
            self.assertAlmostEqual(after.equilibrium.tip_moment, self.now.equilibrium.tip_moment, places=12)
            self.assertEqual(stays(after), stays(self.now))
            self.assertEqual(
                [(f.kind, f.placed_ids) for f in after.findings], [(f.kind, f.placed_ids) for f in self.now.findings]
            )

    def test_lens_table(self) -> None:
        table = lens_table(self.now, self.kit, OPERATOR)
        assert table is not None
        for after in self._turned():
            other = lens_table(after, self.kit, OPERATOR)
            assert other is not None
            self.assertEqual(
                [(r.part and r.part.id, r.long_end) for r in other.rows],
                [(r.part and r.part.id, r.long_end) for r in table.rows],
            )
            np.testing.assert_allclose([r.mark for r in other.rows], [r.mark for r in table.rows], atol=1e-9)

    def test_ways(self) -> None:
        found = find_strategies(self.now, self.kit, OPERATOR)
        for root in ("pad", "monitor"):
            after = analyse(reroot(self.build, root), self.kit, OPERATOR)
            again = find_strategies(after, self.kit, OPERATOR)
            self.assertEqual([w.kind for w in again], [w.kind for w in found])
            for one, other in zip(found, again, strict=True):
                self.assertEqual(set(one.plan.moved), set(other.plan.moved))


if __name__ == "__main__":
    unittest.main()
