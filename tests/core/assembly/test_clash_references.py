"""Clashes against the hull of the Minkowski difference, and the sweep against trying all pairs."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy.spatial import ConvexHull

from equilix.core.assembly import clash
from equilix.core.assembly.clash import SLACK, find_clashes, free_way, pairs_met, stands_free
from equilix.core.assembly.resolve import Assembly, Positions, outline_corners, prepare
from equilix.core.kit.parts import Category, HowKnown
from tests.campaigns import campaign
from tests.rigs.plain import block, random_tree, shoulder_build


def depth_by_hull(assembly: Assembly, positions: Positions, first: int, second: int) -> float:
    """Return how far two boxes must move apart at least: from the origin to the hull of all corner differences.

    Ericson, Real-Time Collision Detection (2005), section 9.5: convex bodies overlap if their Minkowski difference
    holds the origin, and the nearest facet is the shortest way out. Zero or less when they are apart.
    """
    a, b = (outline_corners(assembly, positions, part) for part in (first, second))
    hull = ConvexHull((a[:, None, :] - b[None, :, :]).reshape(-1, 3))
    return float(-hull.equations[:, 3].max())


@campaign
class Depths(unittest.TestCase):
    def setUp(self) -> None:
        self.made = []
        for seed in range(8):
            build, kit = random_tree(np.random.default_rng(seed), 14)
            assembly = prepare(build, kit)
            self.made.append((assembly, assembly.at(assembly.settings(build))))

    def test_depth_of_turned_boxes_is_the_shortest_way_out(self) -> None:
        checked = 0
        for assembly, positions in self.made:
            for found in find_clashes(assembly, positions):
                hull = depth_by_hull(assembly, positions, found.first, found.second)
                self.assertAlmostEqual(found.depth, hull, delta=1e-9)
                checked += 1
        self.assertGreater(checked, 40)

    def test_no_pair_that_overlaps_is_missed_and_none_is_made_up(self) -> None:
        for assembly, positions in self.made:
            found = {(c.first, c.second) for c in find_clashes(assembly, positions)}
            count = len(assembly.parts)
            for a in range(count):
                for b in range(a + 1, count):
                    mounted = assembly.parent[b] == a or assembly.parent[a] == b
                    deep = depth_by_hull(assembly, positions, a, b)
                    if abs(deep - SLACK) > 1e-9:
                        self.assertEqual((a, b) in found, not mounted and deep > SLACK, (a, b, deep))

    def test_what_clashes_is_the_same_whatever_was_asked_before(self) -> None:
        """Slides dragged by little and by much, and the same rig asked for the first time."""
        rng = np.random.default_rng(9)
        changes = 0
        for assembly, _ in self.made:
            settings, before = assembly.settings(assembly.build), None
            for step in range(30):
                settings = settings + rng.normal(0.0, 0.05 if step % 10 == 9 else 0.004, len(settings))
                positions = assembly.at(settings)
                found = [(c.first, c.second, c.depth) for c in find_clashes(assembly, positions)]
                anew = prepare(assembly.build, assembly.kit)
                self.assertEqual(found, [(c.first, c.second, c.depth) for c in find_clashes(anew, positions)])
                now = {pair[:2] for pair in found}
                changes += before is not None and now != before
                before = now
        self.assertGreater(changes, 40)

    def test_pairs_that_meet_are_those_that_clash(self) -> None:
        for assembly, positions in self.made:
            clashes = frozenset((c.first, c.second) for c in find_clashes(assembly, positions))
            self.assertEqual(pairs_met(assembly, positions), clashes)

    def test_a_slide_goes_free_to_where_the_first_two_hulls_meet(self) -> None:
        """Turned boxes taken along in steps of a millimetre, each pair asked by its hull."""
        rng = np.random.default_rng(4)
        stopped = gone = 0
        for assembly, positions in self.made[:5]:
            settings = assembly.settings(assembly.build)
            for slide in range(len(settings)):
                way = float(rng.choice([-1.0, 1.0]) * rng.uniform(0.05, 0.4))
                # What meets already is not asked.
                known = pairs_met(assembly, positions)
                goes, pair = free_way(assembly, positions, slide, way, known)
                self.assertLessEqual(abs(goes), abs(way))
                self.assertGreaterEqual(goes * way, 0.0)
                carried = assembly.carried_by(slide)
                count = len(assembly.parts)
                pairs = {
                    (a, b)
                    for a in range(count)
                    for b in range(a + 1, count)
                    if carried[a] != carried[b] and assembly.parent[a] != b and assembly.parent[b] != a
                } - known
                moved = settings.copy()
                for by in np.arange(0.0, abs(goes), 0.001):
                    moved[slide] = settings[slide] + math.copysign(by, way)
                    at = assembly.at(moved)
                    # Boxes whose spheres are apart need no hull.
                    for a, b in pairs:
                        far = float(np.linalg.norm(at.centre[a] - at.centre[b]))
                        if far < float(np.linalg.norm(assembly.half_size[a]) + np.linalg.norm(assembly.half_size[b])):
                            self.assertLess(depth_by_hull(assembly, at, a, b), SLACK + 1e-8)
                if pair is None:
                    self.assertEqual(goes, way)
                    gone += 1
                    continue
                stopped += 1
                for by, meets in ((-1e-6, False), (1e-6, True)):
                    moved[slide] = settings[slide] + goes + math.copysign(by, way * by)
                    deep = depth_by_hull(assembly, assembly.at(moved), *pair)
                    self.assertEqual(deep > SLACK + 1e-9, meets, (slide, pair, deep))
        self.assertGreater(stopped, 8)
        self.assertGreater(gone, 8)

    def test_a_part_stands_free_if_it_is_in_no_clash(self) -> None:
        for assembly, positions in self.made:
            clashing = {i for c in find_clashes(assembly, positions) for i in (c.first, c.second)}
            for part in range(len(assembly.parts)):
                self.assertEqual(stands_free(assembly, positions, part), part not in clashing)

    def test_deepest_first_and_within_the_shared_box(self) -> None:
        for assembly, positions in self.made:
            found = find_clashes(assembly, positions)
            depths = [c.depth for c in found]
            self.assertEqual(depths, sorted(depths, reverse=True))
            for c in found:
                self.assertTrue((c.low < c.high).all())
                for part in (c.first, c.second):
                    reach = assembly.edges[part] + 1e-12
                    self.assertTrue((np.abs(c.low - positions.centre[part]) <= reach).all())
                    self.assertTrue((np.abs(c.high - positions.centre[part]) <= reach).all())

    def test_how_sure_a_clash_is_goes_by_both_sizes(self) -> None:
        """Common practice: 5 % of the half side of a guessed size, 1 % of a sheet's, nothing measured."""
        sizes = {"a": (0.4, 0.1, 0.1), "b": (0.1, 0.3, 0.1)}
        for known, share in ((HowKnown.GUESSED, 0.05), (HowKnown.SHEET, 0.01), (HowKnown.WEIGHED, 0.0)):
            a, b = (replace(block(n, 1.0, sizes[n]), cg_known=known) for n in ("a", "b"))
            build, kit = shoulder_build((a, 0.0), (b, 0.22))
            assembly = prepare(build, kit)
            found = [c for c in find_clashes(assembly, assembly.at(assembly.settings(build))) if c.first and c.second]
            self.assertEqual(len(found), 1)
            self.assertAlmostEqual(found[0].depth, 0.2 + 0.05 - 0.22)
            self.assertAlmostEqual(found[0].uncertainty, share * math.hypot(0.2, 0.15))


class Sweep(unittest.TestCase):
    def test_many_boxes_swept_along_x_give_the_pairs_of_trying_all(self) -> None:
        """The sweep serves more boxes than are tried pair by pair."""
        rng = np.random.default_rng(4)
        count = clash._FEW + 120
        for spread in (0.3, 1.5, 6.0):
            centre, half = rng.uniform(-spread, spread, (count, 3)), rng.uniform(0.01, 0.25, (count, 3))
            low, high = centre - half, centre + half
            sized = rng.random(count) > 0.1
            first, second = clash._overlapping_pairs(low, high, sized)
            found = set(zip(first.tolist(), second.tolist(), strict=True))
            self.assertEqual(len(found), len(first))
            hits = ((low[:, None] + SLACK < high) & (low + SLACK < high[:, None])).all(axis=2)
            hits &= sized[:, None] & sized[None, :]
            a, b = np.nonzero(np.triu(hits, 1))
            self.assertEqual(found, set(zip(a.tolist(), b.tolist(), strict=True)))

    def test_more_parts_than_are_tried_pair_by_pair_clash_as_any_two_of_them(self) -> None:
        """Blocks at random on one rail: they overlap where their places differ by less than their lengths."""
        rng = np.random.default_rng(12)
        blocks = [
            (block(f"b{k}", 1.0, (float(rng.uniform(0.02, 0.08)), 0.05, 0.05)), float(rng.uniform(-4.0, 4.0)))
            for k in range(clash._FEW + 20)
        ]
        build, kit = shoulder_build(*blocks)
        kit["base"] = replace(
            kit["base"], mounts=tuple(replace(m, low=-5.0, high=5.0) for m in kit["base"].mounts if m.id == "rail")
        )
        assembly = prepare(build, kit)
        found = {(c.first, c.second): c for c in find_clashes(assembly, assembly.at(assembly.settings(build)))}
        wanted = {}
        for a, (one, at) in enumerate(blocks, 1):
            for b, (other, there) in enumerate(blocks[a:], a + 1):
                over = (one.outline.size[0] + other.outline.size[0]) / 2.0 - abs(at - there)
                if over > SLACK:
                    wanted[a, b] = min(over, 0.05)
        self.assertGreater(len(wanted), 40)
        self.assertEqual(set(found), set(wanted))
        self.assertEqual(pairs_met(assembly, assembly.at(assembly.settings(build))), set(wanted))
        for pair, over in wanted.items():
            self.assertAlmostEqual(found[pair].depth, over, places=12)

    def test_nothing_overlaps_nothing(self) -> None:
        low = np.arange(600.0).reshape(200, 3) * 3.0
        for sized in (np.ones(200, dtype=bool), np.zeros(200, dtype=bool)):
            first, second = clash._overlapping_pairs(low, low + 0.5, sized)
            self.assertEqual((first.size, second.size), (0, 0))


class MadeToTouch(unittest.TestCase):
    def test_pairs_that_reach_into_each_other_are_the_same_both_ways(self) -> None:
        self.assertTrue((clash._NEST == clash._NEST.T).all())
        codes = clash._CODES
        self.assertTrue(clash._NEST[codes[Category.LENS], codes[Category.MATTE_BOX]])
        self.assertFalse(clash._NEST[codes[Category.MONITOR], codes[Category.MATTE_BOX]])
        # Cables lie anywhere.
        self.assertTrue(clash._NEST[codes[Category.CABLE]].all())


if __name__ == "__main__":
    unittest.main()
