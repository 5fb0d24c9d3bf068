"""A wearer leans: against MuJoCo, a free body of the frame, and a worked example of the trade."""

from __future__ import annotations

import math
import unittest

import mujoco
import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Operator, Side
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import with_settings
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.operator.body import ABOVE_L5S1_MASS, ARMS_MASS, Lean, arm_weights, body_of, hanging_arm
from equilix.core.operator.leaning import (
    BODY_CG,
    STRAPS,
    TRUNK_BACK,
    Worn,
    by_the_ankles,
    by_the_trunk,
    frame_share,
    low_back_moments,
)
from equilix.io.shipped import demo_book
from equilix.supports.harness import mechanics as harness
from equilix.supports.harness.settings import HarnessSettings
from equilix.supports.vest.hanging import worn_on
from equilix.supports.vest.settings import VestSettings
from tests.rigs.results import vest_result

MAN = Operator("o", "Man", stature=1.75, body_mass=75.0)


def torques(operator: Operator, worn: tuple[Worn, ...], lean: Lean) -> tuple[np.ndarray, np.ndarray]:
    """Return the moments (3,) (N m) that gravity has about ankles and L5/S1 of two rods with lumps: MuJoCo's inverse.

    Ankles and low back are ball joints; the pose is set by turning them.
    """
    body = body_of(operator)
    upper = ABOVE_L5S1_MASS + ARMS_MASS
    arms = [w for side in Side for w in arm_weights(body, hanging_arm(body, side))]
    above = [(w.mass, w.centre) for w in (body.trunk, body.head, *arms)] + [(float(w.mass), w.at) for w in worn]
    own = sum(w.mass * w.centre for w in (body.trunk, body.head, *arms))
    whole = body.mass * (body.ankle + np.array([0.0, 0.0, BODY_CG * body.stature]))
    below = (whole - own) / ((1.0 - upper) * body.mass)
    # What the head lies ahead of the midline is part of how people stand upright: not balanced by the legs.
    below[:2] = 0.0

    def lumps(things: list[tuple[float, np.ndarray]], origin: np.ndarray) -> str:
        return "".join(
            f'<geom type="sphere" size="0.001" mass="{m!r}" pos="{" ".join(repr(float(v)) for v in at - origin)}"/>'
            for m, at in things
        )

    model = mujoco.MjModel.from_xml_string(
        f"""<mujoco><option gravity="0 0 {-STANDARD_GRAVITY!r}"/><worldbody>
        <body pos="0 0 {float(body.ankle[2])!r}"><joint name="ankles" type="ball"/>
        {lumps([((1.0 - upper) * body.mass, below)], body.ankle)}
        <body pos="0 0 {float(body.low_back[2] - body.ankle[2])!r}"><joint name="low" type="ball"/>
        {lumps(above, body.low_back)}</body></body></worldbody></mujoco>"""
    )
    data = mujoco.MjData(model)

    def quat(axis: np.ndarray, angle: float) -> np.ndarray:
        found = np.zeros(4)
        mujoco.mju_axisAngle2Quat(found, axis, angle)
        return found

    aside = quat(np.array([1.0, 0.0, 0.0]), -lean.aside)
    legs, low = np.zeros(4), quat(np.array([0.0, 1.0, 0.0]), lean.ankles - lean.trunk)
    mujoco.mju_mulQuat(legs, aside, quat(np.array([0.0, 1.0, 0.0]), -lean.ankles))
    data.qpos[:4], data.qpos[4:] = legs, low
    mujoco.mj_forward(model, data)
    found = []
    for k, name in enumerate(("ankles", "low")):
        joint = model.joint(name).id
        turn = data.xmat[model.jnt_bodyid[joint]].reshape(3, 3)
        # Ball joints tell their torque in the axes of what turns.
        found.append(-turn @ data.qfrc_bias[3 * k : 3 * k + 3])
    return found[0], found[1]


class AgainstMuJoCo(unittest.TestCase):
    def test_all_stands_over_the_feet_and_the_low_back_bears_what_gravity_turns(self) -> None:
        rng = np.random.default_rng(5)
        upright = body_of(MAN)
        for _ in range(30):
            worn = tuple(
                Worn(
                    float(rng.uniform(0.5, 12.0)), upright.low_back + rng.uniform([-0.05, -0.3, -0.1], [0.7, 0.3, 0.7])
                )
                for _ in range(3)
            )
            for rule in (by_the_ankles, by_the_trunk):
                lean = rule(upright, worn)
                at_ankles, at_low = torques(MAN, worn, lean)
                head = upright.head.mass * STANDARD_GRAVITY * 0.03
                # But for the head, which lies ahead of an upright body too.
                self.assertLess(abs(at_ankles[1] - head), 0.02, rule)
                self.assertLess(abs(at_ankles[0]), 0.02, rule)
                forward, left = low_back_moments(upright, worn, 1.0, lean)
                self.assertAlmostEqual(float(forward), at_low[1], places=6)
                self.assertAlmostEqual(float(left), -at_low[0], places=6)
                self.assertLessEqual(lean.trunk, max(TRUNK_BACK, lean.ankles) + 1e-12)


class Frame(unittest.TestCase):
    def test_a_belt_below_the_joint_takes_part_of_the_moment_past_it(self) -> None:
        """Free body of a back frame, three equations for belt and straps; cut at L5/S1, only the straps are above."""
        rng = np.random.default_rng(6)
        for _ in range(20):
            pull, ahead, belt, share = rng.uniform([20.0, 0.2, 0.0, 0.0], [150.0, 0.7, 0.15, 1.0])
            # Unknown: level and upright force of belt and straps on the frame (belt x, belt z, straps x, straps z).
            rows = np.array(
                [
                    [1.0, 0.0, 1.0, 0.0],  # along
                    [0.0, 1.0, 0.0, 1.0],  # up
                    [-belt, 0.0, STRAPS, 0.0],  # about L5/S1, nose down positive
                    [0.0, 1.0 - share, 0.0, -share],  # the hips' share
                ]
            )
            belt_x, _, straps_x, _ = np.linalg.solve(rows, [0.0, pull, -pull * ahead, 0.0])
            self.assertAlmostEqual(belt_x, -straps_x)
            self.assertAlmostEqual(-straps_x * STRAPS, frame_share(belt) * pull * ahead, places=9)


class OfTheTrade(unittest.TestCase):
    def test_sleds_on_a_vest(self) -> None:
        """A worked example, 75 kg and 1.75 m: upright, by the ankles, trunk 8 degrees back; 1.5 N m off at most."""
        upright = body_of(MAN)
        for mass, moments in ((7.0, (51.0, 45.0, 36.0)), (12.0, (78.0, 68.0, 62.0))):
            worn = worn_on(VestSettings(), mass, MAN)
            for lean, wanted in zip(
                (Lean(), by_the_ankles(upright, worn), by_the_trunk(upright, worn)), moments, strict=True
            ):
                found = float(low_back_moments(upright, worn, 1.0, lean)[0])
                self.assertLess(abs(found - wanted), 1.5, (mass, wanted))
        # 75 kg with 12 kg at 0.45 m, as high as arms hold it: about 3.7 degrees about the ankles.
        low = upright.low_back + np.array([0.45, 0.0, 0.0])
        lean = by_the_ankles(upright, (Worn(12.0, np.array([low[0], 0.0, upright.ankle[2] + 1.10])),))
        self.assertAlmostEqual(math.degrees(lean.ankles), 3.7, delta=0.05)
        self.assertAlmostEqual(frame_share(0.10), 0.78, delta=0.003)

    def test_usual_takes_on_vest_and_harness(self) -> None:
        """Common practice: takes of 10 to 30 minutes. The upper end reaches that, the lower does not."""
        book = demo_book()
        sled = next(b for b in book.builds if b.support == "vest")
        carried = carry(analyse(sled, book.parts, MAN), MAN, "vest")
        assert isinstance(carried, Carry)
        self.assertLess(carried.lasts.low, 600.0)
        self.assertGreater(carried.lasts.high, 900.0)


class OnePosture(unittest.TestCase):
    """What leans in the panel leans in Carry: the CG of wearer and rig is over the feet, and one moment is said."""

    def test_on_vest_and_harness(self) -> None:
        book = demo_book()
        for build in book.builds:
            for key in ("vest", "harness"):
                analysis = analyse(replace(build, support=key), book.parts, MAN)
                carried = carry(analysis, MAN, key)
                if not isinstance(carried, Carry):
                    continue
                body = carried.body
                arms = [*carried.arms, *(hanging_arm(body, s) for s in Side if s not in {a.side for a in carried.arms})]
                upper = [body.trunk, body.head, *(w for arm in arms for w in arm_weights(body, arm))]
                mass = sum(w.mass for w in upper)
                legs = MAN.body_mass - mass
                # The rest of the body, on the line through its joints.
                still = body_of(MAN)
                own = [still.trunk, still.head, *(w for s in Side for w in arm_weights(still, hanging_arm(still, s)))]
                high = MAN.body_mass * BODY_CG * MAN.stature - sum(w.mass * (w.centre - still.ankle)[2] for w in own)
                low = body.ankle + (body.low_back - body.ankle) * high / legs / (still.low_back - still.ankle)[2]
                moment = sum(w.mass * w.centre[:2] for w in upper) + legs * low[:2]
                moment = moment + sum(p.force[2] / STANDARD_GRAVITY * p.point[:2] for p in carried.pose.worn)
                moment = moment + carried.mass * carried.cg[:2]
                whole = MAN.body_mass + carried.mass + sum(p.force[2] for p in carried.pose.worn) / STANDARD_GRAVITY
                at_rest = body.head.mass * 0.03 / whole
                off = moment / whole - [at_rest, 0.0]
                if key == "harness":
                    # A rig that hangs askew is drawn level, its CG beside the hook; hands that lift come on top.
                    off = off - carried.mass * (carried.cg - carried.pad)[:2] / whole
                with self.subTest(build=build.name, support=key):
                    self.assertLess(np.abs(off).max(), 0.004)
                    if key == "vest":
                        said = vest_result(analysis)
                        self.assertAlmostEqual(float(carried.back_moment[1]), said.bends, places=6)
                        self.assertAlmostEqual(-float(carried.back_moment[0]), said.sways, places=6)
                        self.assertAlmostEqual(float(carried.least_back_moment[1]), said.bends_least, places=6)
                        self.assertLess(said.bends_least, said.bends)

    def test_a_belt_that_is_measured_leaves_no_range_but_that_of_the_trunk(self) -> None:
        book = demo_book()
        build = replace(book.builds[0], support="harness")
        spans = []
        for belt in (None, 0.05):
            settings = HarnessSettings(belt=belt)
            self.assertIsInstance(harness.SUPPORT.settings(with_settings(build, settings)), HarnessSettings)
            carried = carry(analyse(with_settings(build, settings), book.parts, MAN), MAN, "harness")
            assert isinstance(carried, Carry)
            spans.append((carried.least_back_moment[1], carried.back_moment[1]))
        (low, high), (least, most) = spans
        self.assertLess(low, least)
        self.assertLess(most, high)
