"""Any operator, hold and rest of a build: an answer in equilibrium or a reason, and never an error."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import Brace, Grasp, Hold, Operator, Sex, Side
from equilix.core.cache import RigCache
from equilix.core.carry.arrangements import carry_uncertainties, staggers
from equilix.core.carry.carried import Carry, carry, reserves
from equilix.core.keys import KEYS
from equilix.core.statics.grasps import places
from equilix.core.statics.pose import Hindrance
from equilix.io.shipped import demo_book
from equilix.present.carry.carry_drawing import draw_load
from equilix.present.carry.carry_view import figures, more_figures, verdict
from equilix.present.carry.grip_plan import draw_grip_plan
from equilix.present.units import System
from tests.campaigns import campaign
from tests.rigs.plain import left_over, on_both, worn

BOOK = demo_book()

operators = st.builds(
    Operator,
    st.just("o"),
    st.just("O"),
    st.floats(1.30, 2.10),
    st.floats(40.0, 140.0),
    st.sampled_from(Side),
    st.sampled_from(Sex),
    st.floats(0.3, 2.0),
    percentile=st.floats(1.0, 99.0),
)


@st.composite
def analyses(draw: st.DrawFn) -> tuple[Analysis, Operator]:
    """A demo build that may lack parts, some of unknown size or mass, held in some way by somebody."""
    build = draw(st.sampled_from(worn(BOOK)))
    operator = draw(operators)
    gone = draw(st.sets(st.sampled_from([p.id for p in build.parts[1:]]), max_size=6))
    lost = {i for placed_id in gone for i in build.carried_by(placed_id)}
    build = replace(build, parts=tuple(p for p in build.parts if p.id not in lost))
    used = sorted({p.part_id for p in build.parts})
    kit = dict(BOOK.parts)
    for part_id in draw(st.sets(st.sampled_from(used), max_size=4)):
        kit[part_id] = replace(kit[part_id], outline=None)
    for part_id in draw(st.sets(st.sampled_from(used), max_size=3)):
        kit[part_id] = replace(kit[part_id], mass=None)
    first = analyse(build, kit, operator)
    offered = [place.grasp for place in places(first.assembly, first.positions)]
    chosen = st.none() | st.sampled_from([*offered, Grasp("gone", "hand")])
    left, right = draw(chosen), draw(chosen)
    hold = Hold(
        left,
        None if right == left else right,
        draw(st.sampled_from(Brace)),
        draw(st.none() | st.floats(0.05, 1.0)),
        draw(st.none() | st.floats(-0.5, 1.0)),
        draw(st.none() | st.floats(0.010, 0.080)),
    )
    return analyse(on_both(build, hold), kit, operator), operator


@campaign
class AnyCarry(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(analyses(), st.sampled_from(KEYS))
    def test_an_answer_in_equilibrium_or_a_reason(self, analysed: tuple[Analysis, Operator], support: str) -> None:
        analysis, operator = analysed
        found = carry(analysis, operator, support)
        self.assertTrue(verdict(found).head)
        if isinstance(found, Hindrance):
            return
        self.assertLess(abs(left_over(found.mass, found.cg, found.pad, found.held)).max(), 1e-8)
        for joint in found.joints:
            self.assertTrue(math.isfinite(joint.load) and joint.capacity > 0.0, joint)
            self.assertLessEqual(joint.hold.low, joint.hold.high)
        self.assertGreaterEqual(found.safe, 0.0)
        self.assertLessEqual(found.safe, 0.5 * found.to_the_end + 1e-9)
        self.assertGreater(found.compression, 0.0)
        sure = carry_uncertainties(analysis, found)
        for row in (*figures(found, (), System.METRIC, sure), *more_figures(found, System.IMPERIAL, sure)):
            self.assertNotIn("nan", row.value)
        for run in reserves(found, analysis.build.takes, 30.0):
            self.assertTrue(np.isfinite(run.least).all())
        draw_load(analysis, found, (), System.METRIC, 780.0, 330.0)
        draw_grip_plan(analysis, found, staggers(analysis, found), System.METRIC, 330.0, 170.0)

    @settings(max_examples=40, deadline=None)
    @given(analyses(), st.floats(1.05, 1.45))
    def test_the_stronger_of_two_lasts_no_shorter(self, analysed: tuple[Analysis, Operator], factor: float) -> None:
        analysis, operator = analysed
        weak = carry(analysis, operator, "handheld")
        strong = carry(analysis, replace(operator, strength=operator.strength * factor), "handheld")
        if isinstance(weak, Carry) and isinstance(strong, Carry):
            # The grip's own strength scales as well, so every share falls by the same factor.
            self.assertAlmostEqual(strong.held.worst * factor, weak.held.worst, delta=2e-3 * weak.held.worst + 1e-6)

    @settings(max_examples=150, deadline=None)
    @given(analyses(), st.sampled_from(KEYS), st.floats(1.01, 2.0))
    def test_more_mass_at_the_same_place_is_never_held_longer(
        self, analysed: tuple[Analysis, Operator], support: str, factor: float
    ) -> None:
        """A fact of the body. Tucked elbows are left out: ribs may help a heavier load more.

        So are arms that rest on a rig that is lighter than they are, a tenth of the body (de Leva, J. Biomech. 29
        (1996), from memory): a heavier one lies firmer on the shoulder and bears more of them.
        """
        analysis, operator = analysed
        light = carry(analysis, operator, support)
        if isinstance(light, Hindrance) or light.pose.props:
            return
        heavy = carry(
            replace(analysis, body=replace(analysis.body, mass=factor * light.mass), cache=RigCache()),
            operator,
            support,
        )
        presses = any(float(hand.force[2]) < 0.0 for hand in light.held.hands)
        rest = presses and light.mass < 0.1 * operator.body_mass
        if isinstance(heavy, Carry) and not rest:
            self.assertLessEqual(heavy.to_the_end, light.to_the_end * 1.0005)
            self.assertLessEqual(heavy.safe, light.safe * 1.0005)


if __name__ == "__main__":
    unittest.main()
