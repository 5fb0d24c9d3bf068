"""Build: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.assembly.build import Build, Grasp, Hold, Placed
from equilix.core.assembly.mounts import mover_of, slides
from equilix.core.chosen import check_grasps, hold_of, with_hold, without_lost_grasps
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import Connection, Mount, MountKind
from equilix.core.solver.growth import RodOrder
from tests.rigs.kits import BOOK
from tests.rigs.plain import base, block


class Builds(unittest.TestCase):
    def setUp(self) -> None:
        self.build = BOOK.builds[2]
        self.kit = BOOK.parts

    def test_hands_let_go_of_what_is_not_there(self) -> None:
        held = with_hold(self.build, Hold(Grasp("lens", "under it"), Grasp("gone", "hand")))
        left = without_lost_grasps(held, self.kit)
        self.assertEqual(hold_of(left).left, hold_of(held).left)
        self.assertIsNone(hold_of(left).right)
        self.assertIs(without_lost_grasps(self.build, self.kit), self.build)
        with self.assertRaisesRegex(AssemblyError, "a hand holds a part that is not on it"):
            check_grasps(held, self.kit)
        check_grasps(left, self.kit)

    def test_what_moves_when_a_part_is_pushed(self) -> None:
        rosette = Mount("t", MountKind.ROSETTE, (0.0, 0.0, 0.1), Connection.TURN, (0.0, 1.0, 0.0), -1.0, 1.0)
        kit = {"base": replace(base(1.0), mounts=(*base().mounts, rosette))}
        top = Mount("top", MountKind.QUARTER_20, (0.0, 0.0, 0.05))
        kit["cart"] = block("cart", 1.0, mounts=(top,))
        kit["box"] = block("box", 0.3, kind=MountKind.QUARTER_20)
        kit["stick"] = block("stick", 0.2, kind=MountKind.ROSETTE)
        parts = (
            Placed("base", "base"),
            Placed("cart", "cart", "base", "rail", 0, 0.1),
            Placed("box", "box", "cart", "top"),
            Placed("stick", "stick", "base", "t"),
        )
        build = Build("b", "b", parts)
        self.assertEqual(mover_of(build, kit, "box")[0].id, "cart")
        self.assertEqual(mover_of(build, kit, "cart")[1].id, "rail")
        self.assertEqual(mover_of(build, kit, "stick")[0].id, "stick")
        self.assertIsNone(mover_of(build, kit, "base"))
        self.assertEqual([placed.id for placed, _ in slides(build, kit)], ["cart"])
        # A rail and a rosette without any travel hold as fast as a screw.
        still = tuple(replace(mount, low=0.1, high=0.1) for mount in kit["base"].mounts if mount.id in ("rail", "t"))
        others = tuple(mount for mount in kit["base"].mounts if mount.id not in ("rail", "t"))
        kit["base"] = replace(kit["base"], mounts=(*others, *still))
        self.assertEqual([mover_of(build, kit, one) for one in ("box", "cart", "stick")], [None] * 3)
        self.assertEqual(slides(build, kit), ())

    def test_order_on_rods(self) -> None:
        self.assertTrue(RodOrder("r", ("a", "b"), ("a", "b")).as_wanted)
        self.assertFalse(RodOrder("r", ("b", "a"), ("a", "b")).as_wanted)
