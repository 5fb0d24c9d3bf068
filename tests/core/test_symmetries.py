"""What must not matter: left and right, the order of parts, the unit of mass. Whole rigs, every support.

A rig seen in a mirror is held by the other hand with the same force, for as long, and balanced by the same marks. None
of it follows from a formula of the code's own: it is symmetry of the body and of Newton's laws alone.
"""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.analysis import Analysis
from equilix.core.assembly.build import (
    LEFT_SIDE,
    RIGHT_SIDE,
    Brace,
    Build,
    Grasp,
    Hold,
    Kit,
    Operator,
    Placed,
    Side,
    Take,
)
from equilix.core.carry.arrangements import carry_uncertainties
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import hold_of, with_hold, with_settings
from equilix.core.keys import KEYS
from equilix.core.kit.parts import Category, Connection, Foot, Mount, Part
from equilix.core.registry import support_for
from equilix.core.solver.lenses import lens_table
from equilix.core.solver.lighten import ways_to_lighten
from equilix.core.solver.strategies import find_strategies
from equilix.core.uncertainty.output_model import firsts_of, output_model
from equilix.io.shipped import demo_book
from equilix.supports.vest import mechanics as vest
from tests.campaigns import campaign

BOOK = demo_book()
MAREN = BOOK.operators[0]
#: Outputs that look to one side: in a mirror they turn round.
TO_A_SIDE = ("left", "sideways", "left-right", "roll", "across")


def across(point: tuple[float, float, float]) -> tuple[float, float, float]:
    return (point[0], -point[1], point[2])


def mirrored_part(part: Part) -> Part:
    def mount(one: Mount) -> Mount:
        seen = replace(one, at=across(one.at), axis=across(one.axis))
        # A turn is seen to go the other way round.
        return replace(seen, low=-one.high, high=-one.low) if one.joint is Connection.TURN else seen

    outline = part.outline
    return replace(
        part,
        outline=None if outline is None else replace(outline, centre=across(outline.centre)),
        cg=None if part.cg is None else across(part.cg),
        mounts=tuple(mount(one) for one in part.mounts),
        feet=tuple(Foot(foot.kind, across(foot.at)) for foot in part.feet),
    )


def mirrored(build: Build, kit: Kit) -> tuple[Build, dict[str, Part]]:
    """Return the rig as it is seen in a mirror that stands along it."""

    def turns(placed: Placed) -> bool:
        if placed.parent is None:
            return False
        owner = build.placed(placed.parent) if not placed.reversed else placed
        mount = next((m for m in kit[owner.part_id].mounts if m.id == placed.mount), None)
        return mount is not None and mount.joint is Connection.TURN

    def other(grasp: Grasp | None) -> Grasp | None:
        swap = {LEFT_SIDE: RIGHT_SIDE, RIGHT_SIDE: LEFT_SIDE}
        return None if grasp is None else replace(grasp, mount_id=swap.get(grasp.mount_id, grasp.mount_id))

    parts = tuple(
        replace(
            placed,
            setting=-placed.setting if turns(placed) else placed.setting,
            quarter_turns=-placed.quarter_turns % 4,
            own_foot=across(placed.own_foot),
        )
        for placed in build.parts
    )
    seen = replace(build, parts=parts)
    hold = hold_of(build)
    if hold.left is not None or hold.right is not None:
        seen = with_hold(seen, replace(hold, left=other(hold.right), right=other(hold.left)))
    worn = vest.SUPPORT.settings(build)
    # An arm on the right side of the vest is seen on the left.
    arm = replace(worn, left=not worn.left, boom=-worn.boom)
    return with_settings(seen, arm), {key: mirrored_part(part) for key, part in kit.items()}


def other_side(operator: Operator) -> Operator:
    return replace(operator, shoulder=Side.LEFT if operator.shoulder is Side.RIGHT else Side.RIGHT)


def lopsided(build_id: str) -> tuple[Build, dict[str, Part]]:
    """Return a demo build with every CG and one slide pushed aside, so that nothing is the same on both sides."""
    build, kit = BOOK.build(build_id), dict(BOOK.parts)
    rng = np.random.default_rng(len(build_id))
    for placed in build.parts:
        part = kit[placed.part_id]
        x, y, z = part.centre
        kit[part.id] = replace(part, cg=(x, y + float(rng.uniform(-0.012, 0.02)), z))
    return build, kit


def supported() -> list[tuple[str, str]]:
    """Return a build for every support that may carry it."""
    usual = [("long-zoom", key) for key in ("shoulder", "handheld", "harness", "tripod")]
    return [*usual, ("wide", "shoulder"), ("gimbal-light", "gimbal"), ("gimbal-full", "gimbal"), ("sled-zoom", "vest")]


def figures(analysis: Analysis) -> dict[str, tuple[float, float]]:
    outputs = output_model(analysis)
    assert outputs is not None
    return firsts_of(outputs)


def near(test: unittest.TestCase, one: float, two: float, what: object, share: float = 1e-6) -> None:
    test.assertAlmostEqual(one, two, delta=share * max(1.0, abs(one)) * 1e-2 + share * abs(one), msg=str(what))


def the_same(test: unittest.TestCase, here: Analysis, there: Analysis, what: object) -> None:
    """Demand the same figures with the same uncertainties, and the same findings."""
    seen = figures(there)
    for output, (value, unsure) in figures(here).items():
        near(test, value, seen[output][0], (what, output))
        near(test, unsure, seen[output][1], (what, output, "doubt"), 1e-5)
    kinds = [sorted((f.kind, tuple(sorted(f.placed_ids))) for f in one.findings) for one in (here, there)]
    test.assertEqual(kinds[0], kinds[1], what)


@campaign
class InAMirror(unittest.TestCase):
    def pair(self, build_id: str, support: str, hold: Hold | None = None) -> tuple[Analysis, Analysis]:
        build, kit = lopsided(build_id)
        build = replace(build, support=support)
        if hold is not None:
            build = with_hold(build, hold)
        other, seen = mirrored(build, kit)
        return analyse(build, kit, MAREN), analyse(other, seen, other_side(MAREN))

    def test_every_figure_and_its_doubt(self) -> None:
        for build_id, support in supported():
            here, there = self.pair(build_id, support)
            np.testing.assert_allclose(there.body.cg, here.body.cg * [1.0, -1.0, 1.0], atol=1e-12)
            np.testing.assert_allclose(there.spread.cg, here.spread.cg, atol=1e-12)
            seen = figures(there)
            self.assertEqual(set(figures(here)), set(seen), (build_id, support))
            for output, (value, unsure) in figures(here).items():
                other, other_unsure = seen[output]
                aside = any(word in output.lower() for word in TO_A_SIDE)
                if aside and abs(value + other) < abs(value - other):
                    other = -other
                near(self, value, other, (build_id, support, output))
                near(self, unsure, other_unsure, (build_id, support, output, "doubt"), 1e-5)
            self.assertEqual(
                sorted((f.kind, f.placed_ids) for f in here.findings),
                sorted((f.kind, f.placed_ids) for f in there.findings),
                (build_id, support),
            )
            for one, two in zip(here.findings, there.findings, strict=True):
                near(self, one.amount, two.amount, (build_id, support, one.kind))

    def test_the_other_arm_carries_as_much_for_as_long(self) -> None:
        braces = Brace.ELBOWS, Brace.CHEST, Brace.HIP, Brace.KNEES
        holds = [None, *(Hold(brace=brace) for brace in braces)]
        swap = {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}
        tried = 0
        for build_id, support in supported():
            for hold in holds:
                if hold is not None and hold.brace not in support_for(support).braces:
                    continue
                here, there = self.pair(build_id, support, hold)
                one, two = carry(here, MAREN, support), carry(there, other_side(MAREN), support)
                if not isinstance(one, Carry):
                    self.assertEqual(one, two)
                    continue
                assert isinstance(two, Carry)
                tried += 1
                what = (build_id, support, hold)
                self.assertEqual([load.joint for load in one.joints], [load.joint for load in two.joints], what)
                for load, other in zip(one.joints, two.joints, strict=True):
                    near(self, load.load, other.load, (what, load.joint), 1e-5)
                    near(self, load.hold.likely, other.hold.likely, (what, load.joint), 1e-4)
                    if load.side is not None and load.load > 0.0:
                        self.assertEqual(other.side, swap[load.side], (what, load.joint))
                near(self, one.compression, two.compression, what, 1e-5)
                np.testing.assert_allclose(
                    two.back_moment, one.back_moment * [-1.0, 1.0, -1.0], rtol=1e-4, atol=1e-4, err_msg=str(what)
                )
                near(self, one.right_leg, 1.0 - two.right_leg, what, 1e-5)
                near(self, one.posture, two.posture, what)
                if one.steady is not None:
                    np.testing.assert_allclose(one.steady, two.steady, rtol=1e-9)
                for mine, theirs in ((one.gaze, two.gaze), (one.see_saw, two.see_saw)):
                    near(self, abs(mine or 0.0), abs(theirs or 0.0), what)
                sure, seen = carry_uncertainties(here, one), carry_uncertainties(there, two)
                if sure is not None and seen is not None:
                    np.testing.assert_allclose(sorted(sure.hands), sorted(seen.hands), rtol=1e-4, atol=1e-6)
        self.assertGreater(tried, 8)

    def test_the_same_ways_balance_it(self) -> None:
        for build_id, support in (("long-zoom", "shoulder"), ("wide", "handheld"), ("gimbal-light", "gimbal")):
            here, there = self.pair(build_id, support)
            operators = MAREN, other_side(MAREN)
            found = [
                find_strategies(one, dict(one.assembly.kit), operator)
                for one, operator in zip((here, there), operators, strict=True)
            ]
            self.assertEqual([w.kind for w in found[0]], [w.kind for w in found[1]], build_id)
            for one, two in zip(*found, strict=True):
                what = (build_id, one.kind)
                self.assertEqual((one.full, one.plan.changes), (two.full, two.plan.changes), what)
                self.assertAlmostEqual(one.plan.added_mass, two.plan.added_mass, places=6, msg=str(what))
                self.assertAlmostEqual(abs(one.remaining), abs(two.remaining), places=4, msg=str(what))
                np.testing.assert_allclose(one.steadier, two.steadier, rtol=1e-4)

    def test_every_lens_has_the_same_mark(self) -> None:
        for build_id, support in (("long-zoom", "shoulder"), ("wide", "handheld")):
            here, there = self.pair(build_id, support)
            tables = [
                lens_table(one, dict(one.assembly.kit), operator)
                for one, operator in ((here, MAREN), (there, other_side(MAREN)))
            ]
            assert tables[0] is not None
            assert tables[1] is not None
            self.assertGreater(len(tables[0].rows), 3)
            for one, two in zip(tables[0].rows, tables[1].rows, strict=True):
                what = (build_id, one.part and one.part.name)
                self.assertEqual((one.reason, one.served_by), (two.reason, two.served_by), what)
                np.testing.assert_allclose(
                    (one.mark, one.stop, one.slope, one.half, one.at_common, one.hand),
                    (two.mark, two.stop, two.slope, two.half, two.at_common, two.hand),
                    rtol=1e-6,
                    atol=1e-7,
                    err_msg=str(what),
                )
            np.testing.assert_allclose(tables[0].marks, tables[1].marks, atol=1e-7)

    def test_the_same_ways_spare_the_body(self) -> None:
        takes = (Take(60.0, 60.0), Take(120.0, 90.0))
        for build_id, support in (("long-zoom", "shoulder"), ("wide", "handheld")):
            here, there = self.pair(build_id, support)
            found = [
                ways_to_lighten(one, dict(one.assembly.kit), operator, support, takes)
                for one, operator in ((here, MAREN), (there, other_side(MAREN)))
            ]
            self.assertEqual([w.kind for w in found[0]], [w.kind for w in found[1]], build_id)
            self.assertTrue(found[0])
            for one, two in zip(*found, strict=True):
                near(self, one.carried.worst.share, two.carried.worst.share, (build_id, one.kind), 2e-2)
                self.assertEqual(one.takes, two.takes)


def reframed(part: Part, by: np.ndarray) -> Part:
    """Return the same part described from another point of it."""

    def moved(point: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = (float(v) for v in np.array(point) + by)
        return (x, y, z)

    outline = part.outline
    return replace(
        part,
        outline=None if outline is None else replace(outline, centre=moved(outline.centre)),
        cg=None if part.cg is None else moved(part.cg),
        mounts=tuple(replace(mount, at=moved(mount.at)) for mount in part.mounts),
        feet=tuple(Foot(foot.kind, moved(foot.at)) for foot in part.feet),
    )


class FromAnotherPoint(unittest.TestCase):
    def test_where_a_part_is_described_from_does_not_matter(self) -> None:
        """But for a camera's, whose mark is where the rig is counted from."""
        rng = np.random.default_rng(8)
        for build_id, support in supported():
            build, kit = lopsided(build_id)
            build = replace(build, support=support)
            other = {
                key: part if part.category is Category.BODY else reframed(part, rng.uniform(-0.1, 0.1, 3))
                for key, part in kit.items()
            }
            here, there = analyse(build, kit, MAREN), analyse(build, other, MAREN)
            np.testing.assert_allclose(there.body.cg, here.body.cg, atol=1e-12)
            np.testing.assert_allclose(there.body.inertia, here.body.inertia, atol=1e-12)
            np.testing.assert_allclose(there.positions.centre, here.positions.centre, atol=1e-12)
            the_same(self, here, there, (build_id, support))


class InAnotherOrder(unittest.TestCase):
    def test_the_order_of_parts_does_not_matter(self) -> None:
        rng = np.random.default_rng(3)
        for build_id, support in supported():
            build, kit = lopsided(build_id)
            build = replace(build, support=support)
            order = rng.permutation(len(build.parts))
            other = replace(build, parts=tuple(build.parts[k] for k in order))
            here, there = analyse(build, kit, MAREN), analyse(other, kit, MAREN)
            the_same(self, here, there, (build_id, support))
            one, two = carry(here, MAREN, support), carry(there, MAREN, support)
            if isinstance(one, Carry):
                assert isinstance(two, Carry)
                near(self, one.worst.share, two.worst.share, (build_id, support), 1e-6)


class InAnotherUnitOfMass(unittest.TestCase):
    def test_forces_grow_with_all_masses_alike(self) -> None:
        """Lengths, angles and times of a rig that is twice as heavy in every part stay as they are; forces double."""
        for build_id, support in supported():
            if support == "vest":
                continue  # its arm carries what it is set to
            build, kit = lopsided(build_id)
            build = replace(build, support=support)
            heavy = {
                key: replace(
                    part,
                    mass=None if part.mass is None else 2.0 * part.mass,
                    mass_u=None if part.mass is None else 0.02 * part.mass * 2.0,
                )
                for key, part in kit.items()
            }
            light = {key: replace(p, mass_u=None if p.mass is None else 0.02 * p.mass) for key, p in kit.items()}
            here, there = analyse(build, light, MAREN), analyse(build, heavy, MAREN)
            np.testing.assert_allclose(there.body.cg, here.body.cg, atol=1e-12)
            np.testing.assert_allclose(there.body.inertia, 2.0 * here.body.inertia, rtol=1e-12)
            np.testing.assert_allclose(there.spread.cg, here.spread.cg, rtol=1e-9)
            self.assertAlmostEqual(there.equilibrium.tip_moment, 2.0 * here.equilibrium.tip_moment, places=9)
            self.assertAlmostEqual(there.equilibrium.tip_uncertainty, 2.0 * here.equilibrium.tip_uncertainty, places=9)
            self.assertAlmostEqual(there.equilibrium.ahead_uncertainty, here.equilibrium.ahead_uncertainty, places=12)
            # Who wears a frame leans the farther the heavier it is, as the body stays as heavy as it was.
            if here.equilibrium.holding is not None and support != "harness":
                self.assertAlmostEqual(
                    there.equilibrium.holding.larger, 2.0 * here.equilibrium.holding.larger, places=5
                )
                np.testing.assert_allclose(
                    there.equilibrium.holding.pad_force, 2.0 * here.equilibrium.holding.pad_force, rtol=1e-5, atol=1e-4
                )


class Everywhere(unittest.TestCase):
    def test_every_support_is_looked_at(self) -> None:
        self.assertEqual({support for _, support in supported()}, set(KEYS))
