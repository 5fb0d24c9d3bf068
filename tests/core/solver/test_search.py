"""Search: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.clash import SLACK
from equilix.core.carry.carried import Carry, carry
from equilix.core.kit.parts import Category, Mount, MountKind, Part
from equilix.core.solver.choices import Choice, Option, Variable
from equilix.core.solver.plan import Form, Goal, Limits, Target
from equilix.core.solver.search import find_plan
from equilix.core.solver.strategies import StrategyKind, find_strategies
from tests.rigs.people import PERSON
from tests.rigs.plain import base, block, shoulder_build, worn
from tests.rigs.searches import BOOK


class Choosing(unittest.TestCase):
    def rig(self) -> tuple[Build, dict[str, Part]]:
        spots = tuple(Mount(f"m{k}", MountKind.QUARTER_20, (-0.2 - 0.1 * k, -0.5 * (k + 1), 0.0)) for k in range(2))
        kit = {"base": replace(base(1.0), mounts=(*base().mounts, *spots)), "front": block("front", 3.0)}
        kit["w"] = block("w", 1.0, (0.04, 0.04, 0.04), Category.WEIGHT, kind=MountKind.QUARTER_20)
        return Build("b", "b", (Placed("base", "base"), Placed("front", "front", "base", "rail", 0, 0.2))), kit

    def test_one_part_is_never_in_two_places(self) -> None:
        """3 kg at 200 mm want 0.6 kg m behind: one weight gives 0.3 at most, two of the same would be a lie."""
        build, kit = self.rig()
        choices = tuple(Choice((Option(Placed(f"w{k}", "w", "base", f"m{k}"), dead=True),)) for k in range(2))
        target = Target(np.zeros(3), "base", (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.0)
        plan = find_plan(build, kit, target, Variable(frozenset(), choices), (Goal.MOMENT,))
        self.assertEqual([option.placed.mount for option in plan.taken], ["m1"])
        self.assertAlmostEqual(plan.remaining(target), 3.0 * 0.2 - 1.0 * 0.3)

    def test_two_on_one_rail_go_as_near_as_they_can_and_no_nearer(self) -> None:
        """Both slide: to pull back most the front one goes up to the other, which goes to the rail's end."""
        kit = {"base": base(1.0), "a": block("a", 2.0, (0.10, 0.1, 0.1)), "b": block("b", 1.0, (0.06, 0.1, 0.1))}
        rail = replace(kit["base"].mount("rail"), low=-0.3, high=0.3)
        kit["base"] = replace(kit["base"], mounts=(kit["base"].mounts[0], rail))
        build = Build(
            "b",
            "b",
            (Placed("base", "base"), Placed("a", "a", "base", "rail", 0, 0.2), Placed("b", "b", "base", "rail")),
        )
        far = Target(np.array([-5.0, 0.0, 0.0]), None, (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.0)
        plan = find_plan(build, kit, far, Variable(frozenset({"a", "b"})), (Goal.MOMENT,))
        at = {placed.id: placed.setting for placed in plan.build.parts}
        self.assertAlmostEqual(at["b"], -0.3)
        self.assertAlmostEqual(at["a"] - at["b"], 0.05 + 0.03 - SLACK, delta=2e-5)

    def test_two_that_may_both_go_on_stand_clear_of_each_other_along_one_axis(self) -> None:
        """Both weights are needed, and would overlap as they stand: the cart under one of them makes room, no more.

        A camera of 2 kg 150 mm ahead; 0.8 kg on a fixed mount 200 mm behind, 0.8 kg on a cart there. Left to itself
        the second would end 25 mm from the first; boxes of 50 mm stand clear from 46 mm on.
        """
        camera = block("camera", 2.0, (0.1, 0.1, 0.1), Category.BODY, at=(0.0, 0.0, -0.1))
        seat = Mount("seat", MountKind.QUARTER_20, (0.0, 0.0, 0.05))
        cart = block("cart", 0.001, (0.01, 0.01, 0.01), Category.OTHER, mounts=(seat,))
        build, kit = shoulder_build((camera, 0.15), (cart, -0.2))
        fixed = Mount("fixed", MountKind.QUARTER_20, (-0.2, 0.0, 0.05))
        lane = replace(kit["base"].mount("rail"), id="lane", low=-0.26, high=-0.14)
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, fixed, lane), mass=0.001)
        build = build.with_placed(replace(build.placed("cart"), mount="lane"))
        for name in ("one", "two"):
            kit[name] = block(name, 0.8, (0.05, 0.05, 0.05), Category.WEIGHT, kind=MountKind.QUARTER_20)
        choices = tuple(
            Choice((Option(Placed(name, name, parent, mount)),))
            for name, parent, mount in (("one", "base", "fixed"), ("two", "cart", "seat"))
        )
        target = Target(np.zeros(3), "base", (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.03)
        contact = analyse(build, kit, PERSON).equilibrium.point
        target = replace(target, point=contact)
        for apart in ((), (("one", "two"),)):
            plan = find_plan(build, kit, target, Variable(frozenset({"cart"}), choices), limits=Limits(apart=apart))
            self.assertTrue(plan.found)
            self.assertEqual({option.placed.id for option in plan.taken}, {"one", "two"})
            after = analyse(plan.build, {**kit, **plan.kit}, PERSON)
            ids = [placed.id for placed in plan.build.parts]
            one, two = (after.positions.centre[ids.index(name)] for name in ("one", "two"))
            gap = abs(float(two[0] - one[0]))
            self.assertGreaterEqual(gap, 0.05 - 0.004 - 1e-6)
            self.assertLessEqual(gap, 0.05)
            self.assertLessEqual(abs(float(after.equilibrium.tip_moment)) / 9.80665, 0.03 + 1e-6)

    def test_no_more_is_added_than_is_allowed(self) -> None:
        build, kit = self.rig()
        kit["v"] = replace(kit["w"], id="v", mass=0.5)
        choices = (
            Choice((Option(Placed("w0", "w", "base", "m0"), dead=True),)),
            Choice((Option(Placed("v1", "v", "base", "m1"), dead=True),)),
        )
        target = Target(np.zeros(3), "base", (Form("tip", np.array([1.0, 0.0, 0.0])),), 0.0)
        for most, added in ((2.0, 1.5), (1.2, 1.0), (0.7, 0.5), (0.3, 0.0)):
            plan = find_plan(build, kit, target, Variable(frozenset(), choices), (Goal.MOMENT,), Limits(added=most))
            self.assertAlmostEqual(plan.added_mass, added)

    def test_a_way_says_what_tires_only_if_more_is_asked_of_the_worst_joint(self) -> None:
        for build in worn(BOOK):
            before = carry(analyse(build, BOOK.parts, PERSON), PERSON, "shoulder")
            assert isinstance(before, Carry)
            for way in find_strategies(analyse(build, BOOK.parts, PERSON), BOOK.parts, PERSON):
                after = carry(way.after, PERSON, "shoulder")
                assert isinstance(after, Carry)
                more = after.worst.share > before.worst.share + 0.01
                self.assertEqual(way.tires is not None, more, way.kind)
                self.assertEqual(way.lasts, (before.to_the_end, after.to_the_end))
                if way.tires is not None:
                    self.assertEqual((way.tires.before, way.tires.after), (before.worst.share, after.worst.share))

    def test_more_dead_weight_than_needed_is_never_offered(self) -> None:
        """Lever law: at the far end of the rail behind, mass times arm is the moment, to the tolerance."""
        build, kit = shoulder_build((block("camera", 4.0, category=Category.BODY), 0.12))
        kit["base"] = replace(kit["base"], mounts=(kit["base"].mounts[0], replace(kit["base"].mounts[1], low=-0.3)))
        build = replace(build, parts=(build.parts[0], replace(build.parts[1], setting=0.12)))
        fixed = analyse(build, kit, PERSON)
        found = {w.kind: w for w in find_strategies(fixed, kit, PERSON, 0.1)}
        way = found.get(StrategyKind.DEAD_WEIGHT)
        if way is not None:
            self.assertGreaterEqual(way.plan.dead_mass * 0.3 * 9.80665, 4.0 * 0.12 * 9.80665 - 0.1 - 1e-6)
