"""Facts of hands and pads: where they hold, what their patches give, what that asks of each joint."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import LEFT_SIDE, RIGHT_SIDE, UNDER, Brace, Grasp, Hold, Operator, Sex, Side
from equilix.core.carry.carried import Carry, carry
from equilix.core.chosen import with_hold
from equilix.core.frames import STANDARD_GRAVITY
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.kit.records import Shared
from equilix.core.massprops.bodies import MassProperties
from equilix.core.operator.body import arm_weights, body_of, reach_for
from equilix.core.operator.strength import BodyJoint, capacity
from equilix.core.statics.grasps import Place, handle_axis, hands_at, palm_of, places, thickness_of
from equilix.core.statics.hands import (
    CONTACT_FRICTION,
    CONTACT_SPAN,
    Contact,
    Hand,
    HandLoad,
    Measure,
    Prop,
    Statics,
    propped_load,
)
from equilix.core.statics.holding import PALM_LEVER, Grip, measures, taken
from equilix.core.statics.pad import Shoulder, Tip, pad_pressure, rest
from equilix.core.statics.patches import cone_rays, hand_map, pad_rays, patch_rays, tangents
from equilix.core.statics.points import gimbal_torques, hang, shoulder_moments
from equilix.core.statics.sled import sled_figures
from tests.core.builders import block, grip, shoulder_build

MAN = Operator("m", "M", 1.80, 80.0, sex=Sex.MALE)
UP = np.array([0.0, 0.0, 1.0])


def handle(name: str) -> object:
    return replace(grip(name), category=Category.HANDLE)


class Places(unittest.TestCase):
    def setUp(self) -> None:
        parts = (
            (block("camera", 2.0, (0.20, 0.12, 0.14), Category.BODY), 0.05),
            (block("lens", 1.0, (0.16, 0.09, 0.10), Category.LENS), 0.22),
            (handle("top"), 0.06),
            (grip("one"), 0.30),
        )
        build, self.kit = shoulder_build(*parts)
        self.build = build
        self.analysis = analyse(build, self.kit, MAN)

    def offered(self) -> tuple[Place, ...]:
        return places(self.analysis.assembly, self.analysis.positions)

    def at(self, hold: Hold, bare: bool = False) -> dict[str, Side | None]:
        found = hands_at(self.analysis.assembly, self.analysis.positions, hold, bare)
        return {place.grasp.placed_id: place.side for place in found}

    def test_a_lens_from_below_and_a_camera_from_either_side(self) -> None:
        offered = {
            (p.grasp.placed_id, p.grasp.mount_id): p for p in places(self.analysis.assembly, self.analysis.positions)
        }
        index = {p.id: i for i, p in enumerate(self.build.parts)}
        centre = self.analysis.positions.centre
        np.testing.assert_allclose(offered["lens", UNDER].point, centre[index["lens"]] - [0, 0, 0.05], atol=1e-12)
        np.testing.assert_allclose(
            offered["camera", LEFT_SIDE].point, centre[index["camera"]] + [0, 0.06, 0], atol=1e-12
        )
        np.testing.assert_allclose(
            offered["camera", RIGHT_SIDE].point, centre[index["camera"]] - [0, 0.06, 0], atol=1e-12
        )

    def test_the_top_handle_is_no_usual_place_and_a_lone_grip_is_the_stronger_hands(self) -> None:
        self.assertEqual(self.at(Hold()), {"one": None})
        self.assertEqual(len(hands_at(self.analysis.assembly, self.analysis.positions, Hold())), 1)

    def test_the_other_hand_finds_its_own_place(self) -> None:
        self.assertEqual(self.at(Hold(left=Grasp("lens", UNDER))), {"lens": Side.LEFT, "one": Side.RIGHT})
        self.assertEqual(self.at(Hold(right=Grasp("lens", UNDER))), {"lens": Side.RIGHT, "one": Side.LEFT})
        here = next(
            p.grasp for p in places(self.analysis.assembly, self.analysis.positions) if p.grasp.placed_id == "one"
        )
        self.assertEqual(self.at(Hold(right=here)), {"one": Side.RIGHT})
        self.assertEqual(self.at(Hold(left=Grasp("gone", UNDER))), {"one": None})

    def test_without_grips_the_bare_hands_take_the_cameras_right_side_and_the_lens(self) -> None:
        """Common practice; by both sides if there is no lens."""
        for ids, hands in (
            (("camera", "lens"), {("camera", RIGHT_SIDE): Side.RIGHT, ("lens", UNDER): Side.LEFT}),
            (("camera",), {("camera", RIGHT_SIDE): Side.RIGHT, ("camera", LEFT_SIDE): Side.LEFT}),
        ):
            kept = tuple(p for p in self.build.parts if p.id in ("base", *ids))
            found = analyse(replace(self.build, parts=kept), self.kit, MAN)
            self.assertEqual(hands_at(found.assembly, found.positions, Hold()), ())
            bare = hands_at(found.assembly, found.positions, Hold(), bare=True)
            sides = {(p.grasp.placed_id, p.grasp.mount_id): p.side for p in bare}
            self.assertEqual(sides, hands)

    def test_of_three_grips_the_outermost_two(self) -> None:
        wide = []
        for k, y in enumerate((0.02, 0.15, -0.12)):
            part = grip(f"g{k}")
            mount = part.mounts[0]
            wide.append((replace(part, mounts=(replace(mount, at=(mount.at[0], y, mount.at[2])),)), 0.1 + 0.1 * k))
        build, kit = shoulder_build((block("c", 2.0, category=Category.BODY), 0.0), *wide)
        found = analyse(build, kit, MAN)
        hands = hands_at(found.assembly, found.positions, Hold())
        self.assertEqual({p.grasp.placed_id: p.side for p in hands}, {"g1": Side.LEFT, "g2": Side.RIGHT})

    def test_what_the_hand_closes_round_and_along_which_way(self) -> None:
        """Common practice: handles and lenses lie fore and aft, grips stand; a lens is no handle to close round."""
        offered = places(self.analysis.assembly, self.analysis.positions)
        named = {
            p.grasp.placed_id: p for p in offered if p.grasp.mount_id != LEFT_SIDE and p.grasp.mount_id != RIGHT_SIDE
        }
        axes = {name: handle_axis(self.analysis.assembly, place) for name, place in named.items()}
        self.assertEqual(axes, {"top": 0, "lens": 0, "one": 2})
        said = Hold(thickness=0.047)
        self.assertEqual(thickness_of(self.analysis.assembly, named["one"], said), 0.047)
        self.assertEqual(thickness_of(self.analysis.assembly, named["top"], said), 0.047)
        self.assertEqual(thickness_of(self.analysis.assembly, named["lens"], said), 0.035)
        palms = {p.grasp.mount_id: palm_of(p) for p in offered if p.grasp.placed_id in ("lens", "camera")}
        self.assertEqual(palms, {UNDER: (0.0, 0.0, 1.0), LEFT_SIDE: (0.0, -1.0, 0.0), RIGHT_SIDE: None})


class Patches(unittest.TestCase):
    def test_rays_lie_on_the_cone_and_press_at_the_corners(self) -> None:
        """Coulomb: a push of one along the normal and mu across it, at half the span from the middle each way."""
        middle, normal, mu = np.array([0.1, -0.2, 0.3]), np.array([1.0, 0.0, 1.0]) / math.sqrt(2.0), 0.35
        side, up = tangents(normal)
        np.testing.assert_allclose(np.cross(side, up), normal, atol=1e-12)
        rays = patch_rays(middle, side, up, (0.08, 0.05), mu)
        self.assertEqual(rays.shape, (6, 32))
        ways = set()
        for wrench in rays.T:
            force, moment = wrench[:3], wrench[3:]
            self.assertAlmostEqual(float(force @ normal), 1.0)
            self.assertAlmostEqual(float(np.linalg.norm(force - normal)), mu)
            # The point of action, on the patch: M = r x F.
            corners = [middle + 0.04 * a * side + 0.025 * b * up for a in (-1, 1) for b in (-1, 1)]
            hits = [k for k, r in enumerate(corners) if np.allclose(np.cross(r, force), moment, atol=1e-12)]
            self.assertEqual(len(hits), 1)
            turn = math.degrees(math.atan2(float(force @ up), float(force @ side)))
            ways.add((hits[0], round(turn) % 360))
        self.assertEqual(ways, {(k, 45 * n) for k in range(4) for n in range(8)})

    def test_straight_up_has_tangents_too(self) -> None:
        for normal in (UP, -UP, np.array([1.0, 0.0, 0.0]), np.array([0.0, -1.0, 0.0])):
            side, up = tangents(normal)
            for v in (side, up):
                self.assertAlmostEqual(float(np.linalg.norm(v)), 1.0)
            np.testing.assert_allclose(np.cross(side, up), normal, atol=1e-12)

    def test_a_pad_pushes_up_and_next_to_no_friction_is_none(self) -> None:
        rays = pad_rays(Shoulder(0.06, 0.04, 0.5))
        np.testing.assert_allclose(rays[2], 1.0)
        self.assertAlmostEqual(float(np.hypot(rays[0], rays[1]).max()), 0.5)
        np.testing.assert_allclose(sorted(set(np.round(np.abs(pad_rays(Shoulder(0.06, 0.04, 0.0))[3]), 9))), [0.02])
        self.assertEqual(float(np.abs(pad_rays(Shoulder(0.06, 0.04, 0.0009))[:2]).max()), 0.0)
        self.assertGreater(float(np.abs(pad_rays(Shoulder(0.06, 0.04, 0.0011))[:2]).max()), 0.0)

    def test_hands_forces_and_couples_about_a_point(self) -> None:
        rng = np.random.default_rng(2)
        points, origin = rng.normal(size=(3, 3)), rng.normal(size=3)
        given = rng.normal(size=(3, 6))
        wrench = hand_map(points, origin) @ given.ravel()
        force = given[:, :3].sum(axis=0)
        moment = sum(np.cross(p - origin, g[:3]) + g[3:] for p, g in zip(points, given, strict=True))
        np.testing.assert_allclose(wrench, [*force, *moment], atol=1e-12)

    def test_a_patch_of_the_body(self) -> None:
        """Cloth on cloth 0.4, low end, from memory; about as large as a palm."""
        self.assertEqual((CONTACT_FRICTION, CONTACT_SPAN), (0.4, 0.060))
        contact = Contact(np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
        rays = contact.rays(np.array([0.0, 0.0, 0.9]))
        np.testing.assert_allclose(rays[0], 1.0, atol=1e-12)
        # All press at the patch: pitch about the origin is height times push, and half the patch more or less.
        self.assertAlmostEqual(float(rays[4].max()), 0.1 + 0.03)
        self.assertAlmostEqual(float(rays[4].min()), 0.1 - 0.03)
        self.assertAlmostEqual(float(np.hypot(rays[1], rays[2]).max()), 0.4)
        self.assertEqual(len(cone_rays(np.array([1.0, 0, 0]), np.array([0.0, 1, 0]), 0.4)), 8)


class Asked(unittest.TestCase):
    """Moments at each joint by summing levers times forces, link by link."""

    def setUp(self) -> None:
        self.body = body_of(MAN)
        self.point = self.body.shoulder(Side.LEFT) + np.array([0.30, -0.08, -0.22])
        self.arm = reach_for(self.body, Side.LEFT, self.point)
        self.asked = measures(self.body, MAN, self.arm, 0.033)
        self.hand = HandLoad(self.point, np.array([12.0, -7.0, 45.0]), np.array([1.5, -0.8, 0.6]))

    def moment(self, centre: np.ndarray, beyond: int) -> np.ndarray:
        """Return gravity's and the rig's moment (3,) (N m) on what lies beyond a joint."""
        total = np.cross(self.point - centre, -self.hand.force) - self.hand.couple
        for weight in arm_weights(self.body, self.arm)[3 - beyond :]:
            total = total + np.cross(weight.centre - centre, [0.0, 0.0, -weight.mass * STANDARD_GRAVITY])
        return total

    def test_moments_about_three_axes_of_wrist_and_shoulder_and_the_elbows_hinge(self) -> None:
        upper = (self.arm.elbow - self.arm.shoulder) / np.linalg.norm(self.arm.elbow - self.arm.shoulder)
        fore = (self.arm.grip - self.arm.elbow) / np.linalg.norm(self.arm.grip - self.arm.elbow)
        hinge = np.cross(upper, fore) / np.linalg.norm(np.cross(upper, fore))
        loads: dict[BodyJoint, list[float]] = {}
        caps: dict[BodyJoint, list[float]] = {}
        for measure in self.asked:
            loads.setdefault(measure.joint, []).append(measure.load(self.hand))
            caps.setdefault(measure.joint, []).append(measure.capacity)
        wrist = self.moment(self.arm.wrist, 1)
        np.testing.assert_allclose(
            loads[BodyJoint.WRIST], [wrist @ hinge, wrist @ np.cross(hinge, fore), wrist @ fore], atol=1e-9
        )
        np.testing.assert_allclose(loads[BodyJoint.ELBOW], [self.moment(self.arm.elbow, 2) @ hinge], atol=1e-9)
        shoulder = self.moment(self.arm.shoulder, 3)
        np.testing.assert_allclose(
            loads[BodyJoint.SHOULDER],
            [shoulder @ hinge, shoulder @ np.cross(hinge, upper), shoulder @ upper],
            atol=1e-9,
        )
        most = capacity(MAN, BodyJoint.WRIST)
        # Delp (1996), from memory: 11 N m sideways, 7 fore and aft, 8 turning.
        np.testing.assert_allclose(caps[BodyJoint.WRIST], [most, 7 / 11 * most, 8 / 11 * most])
        raising = capacity(MAN, BodyJoint.SHOULDER, self.arm.elbow_angle, self.arm.elevation)
        # Stobbe (1982), from memory: about its own length 45 % of raising.
        np.testing.assert_allclose(caps[BodyJoint.SHOULDER], [raising, raising, 0.45 * raising])
        np.testing.assert_allclose(
            caps[BodyJoint.ELBOW], [capacity(MAN, BodyJoint.ELBOW, self.arm.elbow_angle, self.arm.elevation)]
        )

    def test_what_the_fingers_squeeze(self) -> None:
        """Coulomb: along a handle F/(2 mu), about it C/(mu d); across it the fingers hold, the palm's ends turn."""
        for along in range(3):
            asked = [m for m in measures(self.body, MAN, self.arm, 0.033, along) if m.joint is BodyJoint.HAND]
            found = [m.load(self.hand) for m in asked]
            expected = []
            for k in range(3):
                expected.append(self.hand.force[k] / (2 * 0.6) if k == along else self.hand.force[k])
            for k in range(3):
                expected.append(self.hand.couple[k] / (0.6 * 0.033) if k == along else self.hand.couple[k] / 0.055)
            np.testing.assert_allclose(found, expected, atol=1e-9)
            best = 0.197 * 0.108 * 1.80
            grip_left = max(1.0 - 0.8 * ((0.033 - best) / best) ** 2, 0.4)
            np.testing.assert_allclose([m.capacity for m in asked], 540.0 * grip_left)
        self.assertFalse([m for m in measures(self.body, MAN, self.arm, palm=True) if m.joint is BodyJoint.HAND])

    def test_ribs_push_an_elbow_and_so_turn_the_shoulder(self) -> None:
        prop = Prop(0, np.array([0.0, 1.0, 0.0]), self.arm.elbow - self.arm.shoulder)
        push = np.array([2.0, 30.0, 1.0])
        for measure in self.asked:
            more = propped_load(measure, self.hand, [(prop, push)]) - measure.load(self.hand)
            if measure.joint is BodyJoint.SHOULDER:
                axis = -measure.row[3:]
                self.assertAlmostEqual(more, float(axis @ np.cross(prop.lever, push)))
            else:
                self.assertEqual(more, 0.0)

    def test_a_flat_palm_pushes_along_its_way_and_rubs(self) -> None:
        """Skin on metal 0.3, low end, from memory; two thirds of a palm's breadth between what presses."""
        at = tuple(self.point.tolist())
        _, closed = taken(MAN, False, Grip(Side.LEFT, at, 0.035, 2))
        self.assertFalse(closed.pushes)
        np.testing.assert_array_equal(closed.ways, np.eye(6))
        _, flat = taken(MAN, False, Grip(Side.LEFT, at, 0.035, 2, (0.0, -1.0, 0.0)))
        self.assertTrue(flat.pushes)
        np.testing.assert_allclose(flat.ways[1], -1.0, atol=1e-12)
        self.assertAlmostEqual(float(np.hypot(flat.ways[0], flat.ways[2]).max()), 0.3)
        self.assertEqual(PALM_LEVER, 0.055)
        self.assertAlmostEqual(float(np.abs(flat.ways[3:]).max()), 0.055 / 2 * math.hypot(1.0, 0.3), delta=0.012)


class Balanced(unittest.TestCase):
    def test_forces_of_pad_hands_contacts_and_ribs_add_up(self) -> None:
        """Newton: all forces and moments about any point are zero, for random places and rigs."""
        rng = np.random.default_rng(12)
        body = body_of(MAN)
        for _ in range(25):
            hands = []
            arms = []
            for side, out in ((Side.LEFT, 1.0), (Side.RIGHT, -1.0)):
                at = body.shoulder(side) + rng.uniform([0.2, -0.05, -0.35], [0.35, 0.05, -0.1]) * [1, out, 1]
                arm, hand = taken(MAN, False, Grip(side, tuple(at.tolist()), 0.035, 2))
                hands.append(hand)
                arms.append(arm)
            pad = np.array([0.0, -0.1, 1.5])
            contact = Contact(np.array([0.11, 0.0, 1.3]), np.array([1.0, 0.0, 0.0]))
            props = [Prop(0, np.array([0.0, 1.0, 0.0]), arms[0].elbow - arms[0].shoulder)]
            statics = Statics(hands, (pad, pad_rays(Shoulder())), [contact], props)
            mass, cg = float(rng.uniform(3, 12)), pad + rng.uniform([-0.1, -0.05, 0.0], [0.15, 0.05, 0.2])
            held = statics.hold(mass, cg)
            about = rng.normal(size=3)
            force = held.pad_force + np.array([0, 0, -mass * STANDARD_GRAVITY])
            moment = held.pad_moment + np.cross(pad - about, held.pad_force)
            moment = moment + np.cross(cg - about, [0, 0, -mass * STANDARD_GRAVITY])
            for load in held.hands:
                force, moment = force + load.force, moment + load.couple + np.cross(load.point - about, load.force)
            for push in held.braced:
                force, moment = force + push.force, moment + push.moment + np.cross(push.point - about, push.force)
            np.testing.assert_allclose(force, 0.0, atol=1e-8)
            np.testing.assert_allclose(moment, 0.0, atol=1e-8)
            shares = [
                abs(propped_load(m, load, [(props[0], held.propped[0])] if k == 0 else ())) / m.capacity
                for k, (hand, load) in enumerate(zip(hands, held.hands, strict=True))
                for m in hand.measures
            ]
            self.assertAlmostEqual(held.worst, max(shares), places=6)
            self.assertAlmostEqual(held.friction, math.hypot(held.pad_force[0], held.pad_force[1]))
            self.assertEqual(held.larger, max(load.size for load in held.hands))
            # Ribs push outwards of the trunk and rub no more than cloth does.
            self.assertGreaterEqual(float(held.propped[0][1]), -1e-9)
            rub = math.hypot(float(held.propped[0][0]), float(held.propped[0][2]))
            self.assertLessEqual(rub, 0.4 * float(held.propped[0][1]) + 1e-8)

    def test_many_rigs_at_once_are_those_of_each_alone_and_what_nothing_holds_is_no_number(self) -> None:
        up = np.eye(6)[:, 2:3]
        most = Measure(BodyJoint.HAND, np.eye(6)[2], 0.0, 100.0)
        hand = Hand(np.array([0.2, 0.0, 0.0]), (most,), up)
        pad = np.zeros(3), pad_rays(Shoulder())
        statics = Statics([hand], pad)
        rng = np.random.default_rng(3)
        mass = rng.uniform(1.0, 9.0, 60)
        cg = rng.uniform([-0.08, -0.04, 0.0], [0.30, 0.04, 0.2], (60, 3))
        # The patch would have to pull: ahead of the hand; or to reach farther aside than it does.
        cg[:2] = ((0.297, -0.012, 0.085), (0.090, 0.0206, 0.111))
        larger, upward = statics.forces(mass, cg)
        self.assertTrue(np.isnan(larger[:2]).all())
        for k in range(60):
            alone = Statics([hand], pad).hold(mass[k], cg[k])
            # Lever law: aside, what is left on the patch reaches 30 mm, so the hand may lift W (1 - |y|/30 mm) at most;
            # ahead, that at 200 mm and the rest at the patch's edge. Behind, it presses down as hard as it must.
            can = cg[k, 0] <= 0.03 + (0.2 - 0.03) * (1.0 - abs(float(cg[k, 1])) / 0.03)
            self.assertEqual(alone is not None, can, cg[k])
            if alone is None:
                self.assertTrue(math.isnan(larger[k]))
                continue
            self.assertAlmostEqual(larger[k], alone.larger, places=6)
            self.assertAlmostEqual(upward[k], float(alone.pad_force[2]), places=6)
        # Lever law where the patch can do no more: the CG is 40 mm beyond its edge, the hand 170 mm.
        one, pressed = statics.forces(np.array([5.0]), np.array([[0.07, 0.0, 0.1]]))
        self.assertLessEqual(float(one[0]), 5.0 * STANDARD_GRAVITY * 0.07 / 0.20 + 1e-6)
        self.assertAlmostEqual(float(one[0] + pressed[0]), 5.0 * STANDARD_GRAVITY, places=6)


class OnThePad(unittest.TestCase):
    def test_which_way_it_goes_over(self) -> None:
        square = Shoulder(span_x=0.06, span_y=0.06)
        for cg, tip in (
            ((0.03, 0.0, 0.1), Tip.LEVEL),
            ((0.0301, 0.0, 0.1), Tip.FORWARD),
            ((-0.0301, 0.0, 0.1), Tip.BACK),
            ((0.0, 0.0301, 0.1), Tip.LEFT),
            ((0.0, -0.0301, 0.1), Tip.RIGHT),
            ((0.04, -0.05, 0.1), Tip.RIGHT),
            ((0.05, -0.04, 0.1), Tip.FORWARD),
            ((0.05, 0.05, 0.1), Tip.FORWARD),
        ):
            lies = rest(MassProperties(5.0, np.array(cg), np.eye(3)), np.zeros(3), square)
            self.assertIs(lies.tip, tip, cg)
        edge = rest(MassProperties(5.0, np.array([0.03, 0.0, 0.1]), np.eye(3)), np.zeros(3), square)
        self.assertEqual(edge.tip_angle, 0.0)
        self.assertIsNone(
            rest(MassProperties(5.0, np.array([0.04, 0.0, 0.1]), np.eye(3)), np.zeros(3), square).tip_angle
        )
        level = rest(MassProperties(5.0, np.zeros(3), np.eye(3)), np.zeros(3), square)
        self.assertIsNone(level.tip_angle)
        self.assertAlmostEqual(pad_pressure(np.array([3.0, 4.0, 36.0]), square), 36.0 / 0.0036)

    def test_how_doubtful_the_tip_is_with_one_scale_for_several_parts(self) -> None:
        """Drawn: each mass, the scale's gain that they share, each CG; everything summed anew."""
        rng = np.random.default_rng(6)
        shared = Shared("scale", 0.0)
        camera = replace(
            block("camera", 3.0, category=Category.BODY), mass_u=0.03, shared=(replace(shared, amount=0.09),)
        )
        power = replace(
            block("power", 1.0), mass_u=0.02, shared=(replace(shared, amount=0.03),), mass_known=HowKnown.WEIGHED
        )
        build, kit = shoulder_build((camera, 0.12), (power, -0.25))
        kit["base"] = replace(kit["base"], mass_u=0.01, shared=(Shared("none", 0.0),))
        found = analyse(build, kit, MAN)
        n = 60_000
        uncertainties, cg = found.assembly.uncertainties, found.positions.cg
        gain = rng.standard_normal((n, len(uncertainties.gain)))
        mass = found.assembly.mass + uncertainties.mass * rng.standard_normal((n, len(cg))) + gain @ uncertainties.gain
        x = cg[:, 0] + np.array([c[0] for c in uncertainties.cg]) * rng.standard_normal((n, len(cg)))
        moment = (mass * (x - found.equilibrium.point[0])).sum(axis=1)
        self.assertAlmostEqual(
            found.equilibrium.tip_uncertainty / float(moment.std() * STANDARD_GRAVITY), 1.0, delta=0.015
        )
        self.assertAlmostEqual(
            found.equilibrium.ahead_uncertainty / float((moment / mass.sum(axis=1)).std()), 1.0, delta=0.015
        )


class Points(unittest.TestCase):
    """Kane and Levinson: moments of a weight about a point; a compound pendulum let go from level."""

    BODY = MassProperties(4.0, np.array([0.03, -0.02, -0.15]), np.diag([0.02, 0.03, 0.04]))

    def test_moments_hang_and_torque(self) -> None:
        weight = 4.0 * STANDARD_GRAVITY
        found = shoulder_moments(self.BODY, np.array([0.01, 0.01, 0.0]))
        self.assertAlmostEqual(found.pitch_moment, weight * 0.02)
        self.assertAlmostEqual(found.roll_moment, weight * 0.03)
        hung = hang(self.BODY, np.zeros(3))
        self.assertAlmostEqual(hung.tension, weight)
        self.assertTrue(hung.stable)
        self.assertFalse(hang(self.BODY, np.array([0.0, 0.0, -0.3])).stable)
        self.assertFalse(hang(self.BODY, self.BODY.cg).stable)
        torque = gimbal_torques(self.BODY, np.zeros(3), math.radians(30))
        self.assertAlmostEqual(
            torque.tilt_torque, weight * (0.03 * math.cos(math.pi / 6) - 0.15 * math.sin(math.pi / 6))
        )
        self.assertAlmostEqual(torque.roll_torque, weight * 0.02)

    def test_drop_time_by_integrating_the_pendulum(self) -> None:
        """I a = W L sin: the time from level to straight down, by quadrature of the energy equation."""
        from scipy.integrate import quad

        lever = math.hypot(0.03, 0.15)
        swing = 0.03 + 4.0 * lever**2
        # w^2 = 2 W L cos(t)/I measured from straight down; t = sin^2 removes the root's pole.
        time, _ = quad(lambda s: 2 * s / math.sqrt(math.sin(s * s)) if s > 0 else 2.0, 0.0, math.sqrt(math.pi / 2))
        expected = time * math.sqrt(swing / (2 * 4.0 * STANDARD_GRAVITY * lever))
        self.assertAlmostEqual(sled_figures(self.BODY, np.zeros(3)).drop_time, expected, places=9)
        self.assertIsNone(sled_figures(self.BODY, np.array([0.0, 0.0, -0.2])).drop_time)
        self.assertIsNone(sled_figures(self.BODY, self.BODY.cg).drop_time)


class PosesInNumbers(unittest.TestCase):
    def found(self, brace: Brace, **more: float) -> Carry:
        build, kit = shoulder_build(
            (block("camera", 2.0, (0.2, 0.1, 0.12), Category.BODY), 0.1), (grip("l"), 0.25), (grip("r"), 0.22)
        )
        carried = carry(analyse(with_hold(build, Hold(brace=brace, **more), "handheld"), kit, MAN), MAN, "handheld")
        assert isinstance(carried, Carry)
        return carried

    def test_where_hip_and_chest_take_it(self) -> None:
        """Assumed: 3 % of the stature above the hip joints; from 16 % above them to 3 % below the shoulders."""
        hips, shoulders, chest = 0.530 * 1.80 + 0.027, 0.818 * 1.80 + 0.027, 0.062 * 1.80
        hip = self.found(Brace.HIP).pose.contacts[0]
        self.assertAlmostEqual(float(hip.point[0]), chest)
        self.assertAlmostEqual(float(hip.point[2]), hips + 0.03 * 1.80)
        for below, height in ((0.0, shoulders - 0.03 * 1.80), (0.9, hips + 0.16 * 1.80)):
            at = self.found(Brace.CHEST, below=below).pose.contacts[0]
            self.assertAlmostEqual(float(at.point[2]), height)
        middle = self.found(Brace.CHEST, below=0.3)
        rear = min(float(c) for c in middle.pose.contacts[0].point[:1])
        self.assertAlmostEqual(rear, chest)

    def test_grips_stand_on_the_thighs(self) -> None:
        """Assumed: 19 % of the stature ahead of the hips; grips' ends within 40 mm of one height both stand."""
        sits = self.found(Brace.KNEES)
        grips = [i for i, p in enumerate(sits.pose.places)]
        self.assertEqual(len(sits.pose.contacts), len(grips))
        middle = np.mean([p.point for p in sits.pose.places], axis=0) + sits.shift
        self.assertAlmostEqual(float(middle[0]), 0.19 * 1.80)
        for contact in sits.pose.contacts:
            self.assertAlmostEqual(float(contact.point[2]), sits.body.thigh_top)
            np.testing.assert_array_equal(contact.normal, UP)

    def test_an_elbow_within_60_mm_of_the_ribs_can_be_tucked(self) -> None:
        """Assumed: an upper arm 2.1 % of the stature thick each way; the trunk an ellipse of 0.062 by 0.088."""
        for ahead in np.linspace(0.24, 0.46, 12).tolist():
            found = self.found(Brace.ELBOWS, ahead=ahead, below=0.30)
            tucked = {prop.hand for prop in found.pose.props}
            for h, arm in enumerate(found.arms):
                x, y, z = (float(v) for v in arm.elbow)
                outside = math.hypot(x / (0.062 * 1.8), y / (0.088 * 1.8))
                gap = math.hypot(x, y) * (1.0 - 1.0 / outside) - 0.021 * 1.8
                self.assertEqual(h in tucked, gap <= 0.060, (ahead, gap, z))
                if h in tucked:
                    prop = next(p for p in found.pose.props if p.hand == h)
                    np.testing.assert_allclose(prop.lever, arm.elbow - arm.shoulder, atol=1e-12)


if __name__ == "__main__":
    unittest.main()
