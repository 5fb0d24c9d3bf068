"""Lighten: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Hold, Operator, Take
from equilix.core.carry.carried import Carry, carry, rest_for
from equilix.core.kit.parts import Category, Part
from equilix.core.solver.lighten import (
    LighterKind,
    best_grips,
    best_hold,
    best_steadier,
    grip_joints,
    split_takes,
    ways_to_lighten,
)
from equilix.core.solver.search_space import steadying_variable
from tests.campaigns import campaign
from tests.rigs.carrying import wide
from tests.rigs.people import LEFT_HANDED, MAN, PERSON
from tests.rigs.plain import base, block, shoulder_build, worn
from tests.rigs.searches import BOOK, CARRYING


@campaign
class Lighter(unittest.TestCase):
    def found(self, operator: Operator = MAN) -> tuple[Analysis, dict[str, Part]]:
        build, kit = shoulder_build(
            (block("camera", 3.5, (0.2, 0.1, 0.14), Category.BODY), 0.0),
            (wide("l", 0.14), 0.25),
            (wide("r", -0.14), 0.25),
        )
        return analyse(replace(build, support="handheld"), kit, operator), kit

    def test_only_what_moves_the_hands_alone_is_theirs_to_move(self) -> None:
        """Common practice: up to 1.5 kg of clamps, rods and arms; never what belongs to the camera."""
        found, kit = self.found()
        self.assertEqual({j.placed_id for j in grip_joints(found)}, {"l", "r"})
        for mass, ours in ((1.499, True), (1.501, False)):
            heavy = {**kit, "l": replace(kit["l"], mass=mass)}
            self.assertEqual("l" in {j.placed_id for j in grip_joints(analyse(found.build, heavy, MAN))}, ours)
        fixed = tuple(replace(m, low=0.25, high=0.25) if m.id == "rail" else m for m in kit["base"].mounts)
        stuck = analyse(
            replace(
                found.build,
                parts=tuple(replace(p, setting=0.25) if p.mount == "rail" else p for p in found.build.parts),
            ),
            {**kit, "base": replace(kit["base"], mounts=fixed)},
            MAN,
        )
        self.assertEqual(grip_joints(stuck), ())

    def test_the_best_hold_is_no_worse_than_any_on_a_coarse_net(self) -> None:
        found, _ = self.found()
        best = carry(found, MAN, "handheld", best_hold(found, MAN, "handheld"))
        for ahead in np.arange(0.23, 0.46, 0.045):
            for below in np.arange(0.06, 0.50, 0.08):
                other = carry(found, MAN, "handheld", Hold(ahead=float(ahead), below=float(below)))
                if isinstance(other, Carry) and not other.out_of_reach:
                    self.assertGreaterEqual(best.safe, 0.97 * other.safe)

    def test_grips_moved_for_this_operator_last_longer(self) -> None:
        found, kit = self.found(LEFT_HANDED)
        way = best_grips(found, kit, LEFT_HANDED, "handheld")
        now = carry(found, LEFT_HANDED, "handheld")
        self.assertGreater(way.carried.safe, now.safe)
        for placed_id, by in way.moved:
            self.assertAlmostEqual(
                way.after.build.placed(placed_id).setting - found.build.placed(placed_id).setting, by
            )
        again = carry(way.after, LEFT_HANDED, "handheld")
        self.assertAlmostEqual(again.safe, way.carried.safe)

    def test_ways_are_worth_a_twentieth_more(self) -> None:
        for operator in (MAN, LEFT_HANDED):
            found, kit = self.found(operator)
            now = carry(found, operator, "handheld")
            for way in ways_to_lighten(found, kit, operator, "handheld", (Take(60.0, 60.0),)):
                if way.kind not in (LighterKind.SPLIT, LighterKind.STEADIER):
                    self.assertGreaterEqual(way.carried.safe, 1.05 * now.safe)

    def test_what_steadies_most_is_named_if_it_does_by_a_tenth(self) -> None:
        found, kit = self.found()
        kit["w"] = block("w", 1.2, (0.05, 0.05, 0.05), Category.WEIGHT)
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, replace(base().mount("rail"), id="spare")))
        found = analyse(found.build, kit, MAN)
        now = carry(found, MAN, "handheld")
        way = best_steadier(found, kit, MAN, "handheld")
        if way is not None:
            self.assertGreater(way.carried.steady[1], 1.10 * now.steady[1])
            self.assertGreater(way.carried.to_the_end, 0.0)


@campaign
class Lightening(unittest.TestCase):
    def test_the_steadiest_is_the_steadiest_in_tilt_of_all_that_could_go_on(self) -> None:
        analysis = analyse(BOOK.builds[2], BOOK.parts, PERSON)
        chosen = best_steadier(analysis, BOOK.parts, PERSON, "handheld")
        clashes, seen = len(analysis.findings), []
        for option in steadying_variable(analysis, BOOK.parts).options:
            if option.current:
                continue
            kept = tuple(p for p in analysis.build.parts if p.id != option.placed.id)
            after = analyse(replace(analysis.build, parts=(*kept, option.placed)), BOOK.parts, PERSON)
            then = carry(after, PERSON, "handheld")
            if isinstance(then, Carry) and len(after.findings) <= clashes and not then.out_of_reach:
                seen.append(then.steady[1])
        self.assertGreater(len(seen), 1)
        self.assertAlmostEqual(chosen.carried.steady[1], max(seen))

    def test_split_takes_rest_for_whole_minutes_that_are_enough(self) -> None:
        seen = 0
        for build in worn(BOOK):
            for support in CARRYING:
                now = carry(analyse(build, BOOK.parts, PERSON), PERSON, support)
                assert isinstance(now, Carry)
                takes = (Take(3.2 * now.safe, 30.0),)
                split = split_takes(now, takes)
                if split is None:
                    continue
                seen += 1
                self.assertEqual(len(split), 4)
                self.assertTrue(all(take.length <= now.safe for take in split))
                rest = 60.0 * max(math.ceil(rest_for(now, split[0].length) / 60.0), 1)
                self.assertEqual({take.rest for take in split[:-1]}, {rest})
                self.assertEqual(split[-1].rest, max(30.0, rest))
                self.assertIsNone(split_takes(now, (Take(4.2 * now.safe, 30.0),)))
        self.assertGreater(seen, 1)

    def test_takes_are_split_only_where_that_helps(self) -> None:
        for build in worn(BOOK):
            analysis = analyse(build, BOOK.parts, PERSON)
            for support in CARRYING:
                now = carry(analysis, PERSON, support)
                assert isinstance(now, Carry)
                ways = ways_to_lighten(analysis, BOOK.parts, PERSON, support, build.takes)
                offered = [way for way in ways if way.kind is LighterKind.SPLIT]
                split = split_takes(now, build.takes)
                self.assertEqual([way.takes for way in offered], [] if split is None else [split])
