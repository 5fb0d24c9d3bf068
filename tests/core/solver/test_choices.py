"""Choices: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import itertools
import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.clash import SLACK
from equilix.core.assembly.resolve import prepare
from equilix.core.kit.parts import Category, Connection, Mount, MountKind
from equilix.core.solver.choices import Choice, Option, OptionPlacer, Variable
from equilix.core.solver.plan import Form, Goal, Target
from equilix.core.solver.search import find_plan
from tests.rigs.choices import FORWARD, LEFT, plate
from tests.rigs.plain import block, rail


class WhatAnOptionAdds(unittest.TestCase):
    def test_a_group_with_a_camera_weighs_what_it_weighs_once_it_is_on(self) -> None:
        """The rig's origin is the camera's mark: a group that brings the camera must not count from it."""
        spot = Mount("spot", MountKind.DOVETAIL, (0.12, -0.03, 0.02), Connection.TURN, (0.0, 0.0, 1.0), -1.0, 1.0)
        seat = Mount("seat", MountKind.QUARTER_20, (0.07, 0.02, 0.05))
        kit = {"base": plate(spot), "tail": block("tail", 0.7)}
        kit["bridge"] = block("bridge", 0.3, (0.2, 0.06, 0.02), mounts=(seat,), kind=MountKind.DOVETAIL)
        kit["camera"] = block(
            "camera", 1.9, (0.16, 0.11, 0.12), Category.BODY, kind=MountKind.QUARTER_20, at=(0.01, 0.0, -0.06)
        )
        stays = Build("b", "b", (Placed("base", "base"), Placed("tail", "tail", "base", "rail", 0, -0.2)))
        first = Placed("bridge", "bridge", "base", "spot", 0, 0.4, 1)
        on_it = Placed("camera", "camera", "bridge", "seat", 0, 0.0, 2)
        assembly = prepare(stays, kit)
        placer = OptionPlacer(stays, kit, assembly, assembly.at(np.zeros(1)))
        body = placer.body(Option(first, carried=(on_it,)))
        whole = prepare(replace(stays, parts=(*stays.parts, first, on_it)), kit)
        there = whole.at(np.zeros(1))
        self.assertAlmostEqual(body.mass, 2.2)
        expected = (0.3 * there.cg[2] + 1.9 * there.cg[3]) / 2.2 - there.base
        np.testing.assert_allclose(body.cg, expected, atol=1e-12)

    def test_what_goes_on_a_cart_counts_as_far_as_the_cart_goes(self) -> None:
        """1 kg on a cart of 300 mm each way against 0.4 kg m that stays: the cart goes to its end, whichever it is."""
        seat = Mount("seat", MountKind.QUARTER_20, (0.0, 0.0, 0.1))
        for ahead in (0.4, -0.4):
            far = Mount("far", MountKind.QUARTER_20, (ahead, 0.3, 0.0))
            kit = {"base": plate(far, rail_ends=(-0.3, 0.3), mass=0.001), "load": block("load", 1.0)}
            kit["load"] = replace(kit["load"], feet=(replace(kit["load"].feet[0], kind=MountKind.QUARTER_20),))
            kit["cart"] = block("cart", 0.001, (0.01, 0.01, 0.01), mounts=(seat,))
            kit["w"] = block("w", 1.0, (0.05, 0.05, 0.05), Category.WEIGHT, kind=MountKind.QUARTER_20)
            carts = (Placed("cart", "cart", "base", "rail"), Placed("load", "load", "base", "far"))
            build = Build("b", "b", (Placed("base", "base"), *carts))
            choice = Choice((Option(Placed("w", "w", "cart", "seat")),))
            target = Target(np.zeros(3), "base", (Form("tip", FORWARD),), 0.0)
            plan = find_plan(build, kit, target, Variable(frozenset({"cart"}), (choice,)), (Goal.MOMENT,))
            self.assertEqual(len(plan.taken), 1)
            self.assertAlmostEqual(plan.build.placed("cart").setting, -math.copysign(0.3, ahead), places=6)
            self.assertAlmostEqual(plan.remaining(target), abs(ahead) - 1.001 * 0.3, places=6)

    def test_what_slides_is_kept_apart_from_where_it_goes_not_from_where_it_came_from(self) -> None:
        """A weight taken from the front of its rail is wanted far behind: it goes up to what stands there."""
        kit = {"base": plate(rail_ends=(-0.33, 0.5)), "wall": block("wall", 0.4)}
        kit["w"] = block("w", 1.0, (0.06, 0.06, 0.06), Category.WEIGHT)
        build = Build("b", "b", (Placed("base", "base"), Placed("wall", "wall", "base", "rail", 0, -0.28)))
        choice = Choice((Option(Placed("w", "w", "base", "rail", 0, 0.25)),), needed=True)
        far = Target(np.array([-5.0, 0.0, 0.0]), None, (Form("tip", FORWARD),), 0.0)
        plan = find_plan(build, kit, far, Variable(frozenset({"w"}), (choice,)), (Goal.MOMENT,))
        self.assertAlmostEqual(plan.build.placed("w").setting, -0.28 + 0.05 + 0.03 - SLACK, delta=2e-5)

    def test_what_turns_is_kept_apart_as_it_is_turned(self) -> None:
        """A bar that lies runs into what stands behind it, and one that stands up or hangs down does not."""
        joint = Mount("joint", MountKind.ROSETTE, (-0.2, 0.0, 0.0), Connection.TURN, (0.0, 1.0, 0.0), -2.0, 2.0)
        kit = {"base": plate(joint), "wall": block("wall", 0.4, (0.1, 0.1, 0.06))}
        kit["bar"] = block("bar", 0.5, (0.3, 0.02, 0.02), kind=MountKind.ROSETTE, at=(0.15, 0.0, 0.0))
        build = Build("b", "b", (Placed("base", "base"), Placed("wall", "wall", "base", "rail", 0, -0.3)))
        target = Target(np.zeros(3), "base", (Form("tip", FORWARD),), 0.0)
        for turned, may in ((0.0, False), (math.pi / 2.0, True), (-math.pi / 2.0, True)):
            choice = Choice((Option(Placed("bar", "bar", "base", "joint", 0, turned)),), needed=True)
            plan = find_plan(build, kit, target, Variable(frozenset(), (choice,)), (Goal.MOMENT,))
            self.assertEqual(plan.found, may)


class ShortestWays(unittest.TestCase):
    def test_a_weight_that_is_on_goes_no_farther_than_it_must(self) -> None:
        """1 kg at 200 mm, 50 mm kg allowed: it stops at 50 mm."""
        kit = {"base": plate(mass=0.001), "w": block("w", 1.0, (0.06, 0.06, 0.06), Category.WEIGHT)}
        on = Placed("w", "w", "base", "rail", 0, 0.2)
        build = Build("b", "b", (Placed("base", "base"), on))
        choice = Choice((Option(on, current=True),))
        target = Target(np.zeros(3), "base", (Form("tip", FORWARD),), 0.05)
        variable = Variable(frozenset({"w"}), (choice,))
        plan = find_plan(build, kit, target, variable, (Goal.BEYOND, Goal.ADDED_MASS, Goal.TRAVEL))
        # To leave it off would add least: so it is needed.
        needed = replace(variable, choices=(replace(choice, needed=True),))
        self.assertEqual(plan.taken, ())
        plan = find_plan(build, kit, target, needed, (Goal.BEYOND, Goal.TRAVEL))
        self.assertAlmostEqual(plan.build.placed("w").setting, 0.05, places=6)

    def test_the_way_is_as_long_forward_as_back(self) -> None:
        """Two carts that run against each other, one with a tenth more on it: that one goes, whichever way it goes."""
        lane = Mount("lane", MountKind.LIGHT_RODS, (0.0, 0.3, 0.0), Connection.SLIDE, (-1.0, 0.0, 0.0), -0.5, 0.5)
        kit = {"base": plate(lane, mass=0.001)}
        kit |= {"w": block("w", 1.0, (0.02, 0.02, 0.02), kind=MountKind.QUARTER_20)}
        for heavy, at in itertools.product(("one", "two"), (0.1, -0.1)):
            seat = Mount("seat", MountKind.QUARTER_20, (at, 0.6, 0.0))
            there = kit | {"base": replace(kit["base"], mounts=(*kit["base"].mounts, seat))}
            there |= {name: block(name, 1.1 if name == heavy else 1.0, (0.02, 0.02, 0.02)) for name in ("one", "two")}
            carts = (Placed("one", "one", "base", "rail"), Placed("two", "two", "base", "lane"))
            build = Build("b", "b", (Placed("base", "base"), *carts, Placed("w", "w", "base", "seat")))
            target = Target(np.zeros(3), "base", (Form("tip", FORWARD),), 1e-6)
            plan = find_plan(build, there, target, Variable(frozenset({"one", "two"})), (Goal.BEYOND, Goal.TRAVEL))
            self.assertEqual(set(plan.moved), {heavy})
            self.assertAlmostEqual(abs(plan.moved[heavy]), 0.1 / 1.1, delta=2e-6)

    def test_to_take_off_is_one_change_and_to_move_two_is_two(self) -> None:
        """Two blocks on rails of their own close it together, or a weight that is taken off does."""
        lane = rail("lane", 0.1)
        kit = {"base": plate(lane, rail_ends=(-0.1, 0.1), mass=0.001)}
        kit |= {name: block(name, 1.0, (0.02, 0.02, 0.02)) for name in ("one", "two")}
        kit["w"] = block("w", 1.0, (0.02, 0.02, 0.02), Category.WEIGHT, kind=MountKind.QUARTER_20)
        seat = Mount("seat", MountKind.QUARTER_20, (0.2, 0.1, 0.0))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, seat))
        on = Placed("w", "w", "base", "seat")
        blocks = (Placed("one", "one", "base", "rail"), Placed("two", "two", "base", "lane"))
        build = Build("b", "b", (Placed("base", "base"), *blocks, on))
        variable = Variable(frozenset({"one", "two"}), (Choice((Option(on, current=True),)),))
        target = Target(np.zeros(3), "base", (Form("tip", FORWARD),), 1e-4)
        plan = find_plan(build, kit, target, variable, (Goal.BEYOND, Goal.EFFORT))
        self.assertEqual((plan.taken, plan.moved, plan.changes), ((), {}, 1))
        # Must it stay, the other two go as far as they can, and no less will do.
        kept = replace(variable, choices=(replace(variable.choices[0], needed=True),))
        plan = find_plan(build, kit, target, kept, (Goal.BEYOND, Goal.EFFORT))
        self.assertEqual((len(plan.taken), plan.changes), (1, 2))
        for name in ("one", "two"):
            self.assertAlmostEqual(plan.build.placed(name).setting, -0.1, delta=2e-4)

    def test_what_lies_beyond_its_room_may_stay_so_but_gets_no_worse(self) -> None:
        """A slide askew that levels the rig fore and aft takes it farther aside, where it has no room left."""
        askew = Mount("askew", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0), Connection.SLIDE, (-1.0, 1.0, 0.0), -0.3, 0.3)
        kit = {"base": plate(askew, mass=0.001), "m": block("m", 2.0, (0.05, 0.05, 0.05))}
        kit["w"] = block("w", 1.0, (0.05, 0.05, 0.05), Category.WEIGHT, kind=MountKind.QUARTER_20)
        seat = Mount("seat", MountKind.QUARTER_20, (0.3, 0.2, 0.0))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, seat))
        on = Placed("w", "w", "base", "seat")
        build = Build("b", "b", (Placed("base", "base"), Placed("m", "m", "base", "askew"), on))
        kit["crumb"] = block("crumb", 1e-6, (0.01, 0.01, 0.01), kind=MountKind.QUARTER_20)
        spare = Mount("spare", MountKind.QUARTER_20, (0.0, 0.0, 0.3))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, spare))
        choice = Choice((Option(on, current=True),), needed=True)
        other = Choice((Option(Placed("crumb", "crumb", "base", "spare")),))
        forms = (Form("tip", FORWARD), Form("side", LEFT, within=0.01))
        variable = Variable(frozenset({"m"}), (choice, other))
        for names, expected in (((0, 1), 0.0), ((0,), 0.3 / 2.0 * math.sqrt(2.0))):
            target = Target(np.zeros(3), "base", tuple(forms[k] for k in names), 0.0)
            plan = find_plan(build, kit, target, variable, (Goal.MOMENT,))
            self.assertAlmostEqual(plan.build.placed("m").setting, expected, places=4)
