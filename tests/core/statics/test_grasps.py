"""Grasps: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import LEFT_SIDE, RIGHT_SIDE, UNDER, Grasp, Hold, Side
from equilix.core.kit.parts import Category, Part
from equilix.core.statics.grasps import Place, handle_axis, hands_at, palm_of, places, thickness_of
from tests.rigs.hands import handle
from tests.rigs.people import MAN
from tests.rigs.plain import block, grip, shoulder_build


class Places(unittest.TestCase):
    def setUp(self) -> None:
        parts: tuple[tuple[Part, float], ...] = (
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
