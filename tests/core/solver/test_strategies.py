"""Strategies: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator, Placed
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, Connection, Foot, Mount, MountKind
from equilix.core.solver.relaxations import relaxations
from equilix.core.solver.strategies import Strategy, StrategyKind, find_strategies
from equilix.core.solver.targets import TOLERANCE, target_of
from tests.rigs.gimbals import random_gimbal
from tests.rigs.people import PERSON
from tests.rigs.plain import base, block, grip
from tests.rigs.ways import camera_at, camera_rig, moment


class FirstWays(unittest.TestCase):
    def test_where_one_slide_does_all_others_do_not_come_first(self) -> None:
        build, kit = camera_rig(0.4)
        ways = find_strategies(analyse(build, kit, PERSON), kit, PERSON)
        self.assertTrue(ways[0].full)
        self.assertEqual(ways[0].plan.changes, 1)
        self.assertAlmostEqual(moment(ways[0].after), 0.0, delta=TOLERANCE + 1e-9)

    def test_dead_weight_that_does_it_alone_is_no_more_than_that_and_moves_nothing(self) -> None:
        """Lever law: the block that brings the moment to the tolerance, at the farthest place behind, no heavier."""
        build, kit = camera_rig(0.06)
        kit["camera"] = replace(kit["camera"], mass=2.0)
        analysis = analyse(camera_at(build, 0.06), kit, PERSON)
        way = next(w for w in find_strategies(analysis, kit, PERSON) if w.kind is StrategyKind.DEAD_WEIGHT)
        self.assertTrue(way.full)
        self.assertEqual(way.plan.moved, {})
        new = next(k for k, p in enumerate(way.plan.build.parts) if p.id not in {q.id for q in build.parts})
        added = way.after.body.mass - analysis.body.mass
        lever = float((way.after.equilibrium.point - way.after.positions.cg[new])[0])
        self.assertAlmostEqual(added * lever * STANDARD_GRAVITY, moment(analysis) - TOLERANCE, delta=1e-4)
        self.assertGreater(lever, 0.45)

    def test_dead_weight_that_falls_short_is_the_last_resort(self) -> None:
        """6 kg at 100 mm behind take 0.6 kg m off: offered where there is nothing else, and not beside what slides."""
        spots = {"front": 0.5, "rear": -0.1}
        mounts = tuple(Mount(name, MountKind.QUARTER_20, (x, 0.0, 0.0)) for name, x in spots.items())
        for ahead, offered in ((1.1, True), (40.0, False)):
            plate = replace(base(0.001), mounts=(base().mounts[0], *mounts))
            kit = {"base": plate, "load": block("load", ahead / 0.5, kind=MountKind.QUARTER_20)}
            build = Build("b", "b", (Placed("base", "base"), Placed("load", "load", "base", "front")))
            found = [way for way in find_strategies(analyse(build, kit, PERSON), kit, PERSON) if not way.full]
            self.assertEqual([way.kind for way in found], [StrategyKind.DEAD_WEIGHT] if offered else [])
            for way in found:
                self.assertAlmostEqual(way.remaining / STANDARD_GRAVITY, ahead - 0.6, places=3)

    def test_a_way_that_falls_short_is_offered_while_it_is_worth_the_hand(self) -> None:
        """1 kg that slides 100 mm back takes 0.1 kg m off: worth it against 0.95, against 12 it is less than 2 %."""
        for ahead, offered in ((0.95, True), (12.0, False)):
            front = Mount("front", MountKind.QUARTER_20, (0.5, 0.0, 0.0))
            slide = Mount("slide", MountKind.LIGHT_RODS, (0.0, 0.0, 0.0), Connection.SLIDE, (1.0, 0.0, 0.0), -0.1, 0.0)
            plate = replace(base(0.001), mounts=(base().mounts[0], front, slide))
            load = block("load", ahead / 0.5, kind=MountKind.QUARTER_20)
            kit = {"base": plate, "load": load, "cart": block("cart", 1.0, (0.02, 0.02, 0.02))}
            parts = (Placed("base", "base"), Placed("load", "load", "base", "front"))
            build = Build("b", "b", (*parts, Placed("cart", "cart", "base", "slide")))
            found = find_strategies(analyse(build, kit, PERSON), kit, PERSON)
            slid = [way for way in found if way.kind is StrategyKind.SLIDES]
            self.assertEqual(len(slid), int(offered), ahead)
            for way in slid:
                self.assertAlmostEqual(way.remaining / STANDARD_GRAVITY, ahead - 0.1, places=3)

    def test_a_way_after_which_nobody_could_hold_it_is_not_offered(self) -> None:
        """Shares of strength go as one over it: between now's and then's the rig is held now, and not with more on."""
        hand = Mount("hand", MountKind.GRIP_POINT, (0.0, 0.0, -0.1))
        holds = tuple(Mount(name, MountKind.COLD_SHOE, (0.0, y, 0.0)) for name, y in (("l", 0.15), ("r", -0.15)))
        seat, front = (Mount(name, MountKind.QUARTER_20, (x, 0.0, 0.0)) for name, x in (("seat", -0.1), ("front", 0.2)))
        kit = {"plate": replace(base(0.001), mounts=(*holds, seat, front))}
        kit["camera"] = block("camera", 5.0, category=Category.BODY, kind=MountKind.QUARTER_20)
        for name in ("left", "right"):
            kit[name] = replace(grip(name), mounts=(hand,), feet=(Foot(MountKind.COLD_SHOE, (0.0, 0.0, 0.0)),))
        on = (Placed("camera", "camera", "plate", "seat"), Placed("left", "left", "plate", "l"))
        parts = (Placed("plate", "plate"), *on, Placed("right", "right", "plate", "r"))
        build = Build("b", "b", parts, support="handheld")

        def heavy(operator: Operator) -> list[Strategy]:
            found = find_strategies(analyse(build, kit, operator), kit, operator)
            return [way for way in found if way.plan.added_mass > 1.0]

        (way,) = heavy(PERSON)
        self.assertGreater(way.tires.after, way.tires.before)
        weak = replace(PERSON, strength=(way.tires.before + way.tires.after) / 2.0)
        self.assertEqual(heavy(weak), [])

    def test_what_would_do_for_a_gimbal_is_on_the_stage_that_is_off(self) -> None:
        """A lens on the tilt stage may be lighter, a screen on the frame changes nothing there."""
        build, kit = random_gimbal(71, reach=0.002)
        screen = replace(block("screen", 3.0, (0.02, 0.1, 0.1), Category.MONITOR, kind=MountKind.COLD_SHOE))
        shoe = Mount("shoe", MountKind.COLD_SHOE, (0.6, 0.0, 0.0))
        kit = {**kit, "screen": screen, "frame": replace(kit["frame"], mounts=(*kit["frame"].mounts, shoe))}
        after = analyse(replace(build, parts=(*build.parts, Placed("screen", "screen", "frame", "shoe"))), kit, PERSON)
        target = target_of(after)
        names = [r.placed_id for r in relaxations(after, 0.05, target) if r.lighter > 0.0]
        self.assertNotIn("screen", names)
        # Holding still what tips it, the first form alone: the same.
        names = [r.placed_id for r in relaxations(after, 0.001) if r.lighter > 0.0]
        self.assertNotIn("screen", names)
