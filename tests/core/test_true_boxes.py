"""Turned parts by their true boxes: kept apart, at the head, and rolling to rest, each against another way to it."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy.optimize import linprog
from scipy.spatial.transform import Rotation

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Operator
from equilix.core.kit.parts import Category, Connection, Mount, MountKind
from equilix.core.operator.head import Head, lean_from, lean_needed
from equilix.core.solver.programme import Item, separating
from equilix.supports.tripod.table import resting, settles
from tests.rigs.plain import block, shoulder_build

MAN = Operator("m", "Man", stature=1.75, body_mass=75.0)
SIGNS = np.array([(a, b, c) for a in (-1, 1) for b in (-1, 1) for c in (-1, 1)])


def overlap(a: Item, b: Item) -> bool:
    """Whether two boxes have a point in common: corners of both mixed to the same point (a linear programme)."""
    corners = [item.middle + (SIGNS * item.half) @ item.turn.T for item in (a, b)]
    rows = np.zeros((5, 16))
    rows[:3, :8], rows[:3, 8:] = corners[0].T, -corners[1].T
    rows[3, :8], rows[4, 8:] = 1.0, 1.0
    return bool(linprog(np.zeros(16), A_eq=rows, b_eq=(0, 0, 0, 1, 1), bounds=(0, None)).status == 0)


class KeptApart(unittest.TestCase):
    def test_boxes_are_told_apart_along_one_of_the_ways_or_overlap(self) -> None:
        rng = np.random.default_rng(2)
        seen = {True: 0, False: 0}
        for _ in range(300):
            upright = bool(rng.random() < 0.2)
            items = [
                Item(
                    rng.uniform(-0.2, 0.2, 3),
                    rng.uniform(0.02, 0.15, 3),
                    np.eye(3) if upright else Rotation.random(random_state=int(rng.integers(1 << 30))).as_matrix(),
                    upright,
                    (),
                    None,
                )
                for _ in range(2)
            ]
            ways, reach = separating(*items)
            gap = np.abs(ways @ (items[0].middle - items[1].middle)) - reach
            if abs(float(gap.max())) < 1e-6:
                continue
            self.assertEqual(bool(gap.max() < 0.0), overlap(*items))
            seen[bool(gap.max() < 0.0)] += 1
        self.assertGreater(min(seen.values()), 50)


class AtTheHead(unittest.TestCase):
    HEAD = Head(np.array([0.02, 0.12, 0.30]), 0.10, 0.08, 0.18, 0.42)

    def test_an_upright_box_asks_as_much_either_way(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(200):
            low = rng.uniform((-0.2, -0.1, 0.0), (0.1, 0.1, 0.4))
            high = low + rng.uniform(0.02, 0.2, 3)
            corners = np.where(SIGNS < 0, low, high)
            exact = float(lean_needed(self.HEAD, 1.0, low[None], high[None])[0])
            # Asked at 129 places fore and aft: between two of them the head bulges by less than this.
            self.assertAlmostEqual(lean_from(self.HEAD, 1.0, corners), exact, delta=2e-4)

    def test_a_turned_box_asks_what_its_points_ask(self) -> None:
        """Points all through the box: the head moves aside until none of them lies in its oval."""
        rng = np.random.default_rng(4)
        grid = np.array(np.meshgrid(*[np.linspace(-1, 1, 41)] * 3)).reshape(3, -1).T
        seen = 0
        for k in range(40):
            turn = Rotation.random(random_state=k).as_matrix()
            middle, half = rng.uniform((-0.1, -0.05, 0.2), (0.1, 0.1, 0.4)), rng.uniform(0.02, 0.12, 3)
            points = middle + (grid * half) @ turn.T
            head = self.HEAD
            inside = (points[:, 2] > head.low) & (points[:, 2] < head.high)
            inside &= np.abs(points[:, 0] - head.centre[0]) < head.half_x
            x, y = points[inside, 0] - head.centre[0], points[inside, 1]
            edge = head.centre[1] - head.half_y * np.sqrt(1.0 - (x / head.half_x) ** 2)
            asked = max(float((y - edge).max(initial=0.0)), 0.0)
            found = lean_from(head, 1.0, middle + (SIGNS * half) @ turn.T)
            self.assertGreaterEqual(found, asked - 5e-4)
            self.assertAlmostEqual(found, asked, delta=0.012)
            seen += found > 0.005
        self.assertGreater(seen, 10)


class RollsToRest(unittest.TestCase):
    def test_a_turned_block_falls_on_the_face_below_its_middle(self) -> None:
        """Statics: on its lower edge a block w by h falls over to the side from tan t = w/h on."""
        wide, high = 0.10, 0.30
        for degrees in (10.0, 17.0, 20.0, 40.0, 70.0):
            part = block("block", 2.0, (wide, 0.1, high), Category.BODY, kind=MountKind.ROSETTE)
            axle = Mount(
                "axle", MountKind.ROSETTE, (0.0, 0.0, 0.5), Connection.TURN, (0.0, 1.0, 0.0), -math.pi, math.pi
            )
            build, kit = shoulder_build((part, 0.0))
            kit["base"] = replace(kit["base"], outline=None, mass=0.0, mounts=(*kit["base"].mounts, axle))
            placed = replace(build.placed("block"), mount="axle", setting=math.radians(degrees))
            found = analyse(replace(build.with_placed(placed), support="tripod"), kit, MAN)
            at_first = resting(found.assembly, found.positions, found.body)
            self.assertFalse(at_first.stands)
            rests = settles(found.assembly, found.positions, found.body)
            self.assertTrue(rests.stands)
            # There it tips about the nearer edge of its face: half of that over half the height.
            on_end = math.tan(math.radians(degrees)) < wide / high
            base, tall = (wide, high) if on_end else (high, wide)
            self.assertAlmostEqual(rests.angle, math.atan2(min(base, 0.1) / 2.0, tall / 2.0), places=6)


if __name__ == "__main__":
    unittest.main()
