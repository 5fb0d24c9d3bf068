"""Sets go off and on as one: nothing about the rig is other afterwards, and what can't be done changes nothing."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Grasp, Hold, Placed
from equilix.core.assembly.tree_order import reroot
from equilix.core.chosen import settings_of, with_hold
from equilix.core.errors import AssemblyError
from equilix.core.kit.parts import TOUCH_POINTS, Category, Foot, Mount, MountKind, Part
from equilix.core.sets import PartSet, SetGrip, copied_set, put_set_on, sets_of, take_set_off, with_set
from equilix.document.validation import without_lost_names
from equilix.io.shipped import demo_book
from tests.rigs.plain import OPERATOR, block, grip, holds, rail
from tests.rigs.trees import trees

BOOK = demo_book()


def spread_of(build: Build, kit: dict[str, Part]) -> np.ndarray:
    """Return (n, n) distances between the parts' middles (m), in the order of their kit ids: they know no frame."""
    centres = analyse(build, kit, OPERATOR).positions.centre
    order = np.argsort([placed.part_id for placed in build.parts])
    at = centres[order]
    return np.linalg.norm(at[:, None, :] - at[None, :, :], axis=2)


class OffAndOn(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(trees(), st.data())
    def test_off_and_on_again_is_the_same_rig(self, tree: tuple[Build, dict[str, Part]], data: st.DataObject) -> None:
        build, kit = tree
        assume(holds(build, kit))
        child = data.draw(st.sampled_from([p for p in build.parts if p.parent is not None]))
        ids = build.carried_by(child.id)
        made = with_set(build, "It", ids)
        # Which part the others hang on is a matter of the telling.
        made = reroot(made, data.draw(st.sampled_from([p.id for p in made.parts])))
        rest, group = take_set_off(made, "It", "set1")
        self.assertEqual({p.id for p in group.parts}, set(ids))
        self.assertEqual({p.id for p in rest.parts}, {p.id for p in build.parts} - set(ids))
        again = put_set_on(rest, kit, group)
        np.testing.assert_allclose(spread_of(again, kit), spread_of(build, kit), atol=1e-9)
        self.assertEqual({p.part_id for p in sets_of(again)["It"]}, {build.placed(i).part_id for i in ids})

    def test_two_halves_weigh_and_pull_what_the_whole_did(self) -> None:
        """The parallel sum of composite bodies: m c = m1 c1 + m2 c2 (any statics text)."""
        for build in BOOK.builds:
            camera = next(p for p in build.parts if BOOK.parts[p.part_id].category is Category.BODY)
            made = with_set(build, "Camera", build.carried_by(camera.id))
            rest, group = take_set_off(made, "Camera", "set1")
            whole, left = (analyse(b, BOOK.parts, OPERATOR) for b in (build, rest))
            names = {p.id for p in group.parts}
            gone = [k for k, p in enumerate(build.parts) if p.id in names]
            masses = np.array([BOOK.parts[build.parts[k].part_id].mass or 0.0 for k in gone])
            self.assertAlmostEqual(whole.body.mass, left.body.mass + masses.sum(), places=9)
            back = analyse(put_set_on(rest, BOOK.parts, group), BOOK.parts, OPERATOR)
            np.testing.assert_allclose(back.body.cg, whole.body.cg, atol=1e-9)

    def test_a_hand_that_has_found_another_place_keeps_it(self) -> None:
        """Off with both grips, then one hand goes to the handle; put on again only the hand that is free goes back."""
        build = next(one for one in BOOK.builds if one.id == "long-zoom")
        grips = [p for p in build.parts if BOOK.parts[p.part_id].category is Category.GRIP]
        spots = [Grasp(p.id, next(m.id for m in BOOK.parts[p.part_id].mounts if m.kind in TOUCH_POINTS)) for p in grips]
        held = with_hold(build, Hold(left=spots[0], right=spots[1]), "handheld")
        made = with_set(held, "Grips", held.carried_by(next(p.parent for p in grips if p.parent)))
        rest, group = take_set_off(made, "Grips", "set1")
        self.assertEqual({grip.left for grip in group.grips}, {True, False})
        handle = next(p for p in rest.parts if BOOK.parts[p.part_id].category is Category.HANDLE)
        there = Grasp(handle.id, next(m.id for m in BOOK.parts[handle.part_id].mounts if m.kind in TOUCH_POINTS))
        for left in (True, False):
            moved = with_hold(rest, Hold(left=there) if left else Hold(right=there), "handheld")
            again = settings_of(put_set_on(moved, BOOK.parts, group), "handheld").hands
            kept, back = (again.left, again.right) if left else (again.right, again.left)
            self.assertEqual(kept, there)
            self.assertIsNotNone(back)
            self.assertNotEqual(back, there)

    def test_a_hand_on_what_is_not_of_the_set_is_let_go(self) -> None:
        build = BOOK.builds[0]
        camera = next(p for p in build.parts if BOOK.parts[p.part_id].category is Category.BODY)
        rest, group = take_set_off(with_set(build, "Camera", build.carried_by(camera.id)), "Camera", "set1")
        lost = replace(group, grips=(SetGrip("handheld", True, Grasp("gone", "grip")),))
        self.assertIsNone(settings_of(put_set_on(rest, BOOK.parts, lost), "handheld").hands.left)
        book, said = without_lost_names(replace(BOOK, sets=(lost,)))
        self.assertEqual((book.sets[0].grips, len(said)), ((), 1))

    def test_it_keeps_its_slides_and_its_grips(self) -> None:
        build = BOOK.builds[0]
        handle = next(p for p in build.parts if BOOK.parts[p.part_id].category is Category.HANDLE)
        at = Grasp(handle.id, "under it")
        held = with_hold(build, Hold(left=at), "handheld")
        camera = next(p for p in build.parts if BOOK.parts[p.part_id].category is Category.BODY)
        made = with_set(held, "Camera", held.carried_by(camera.id))
        rest, group = take_set_off(made, "Camera", "set1")
        self.assertIn(handle.id, {p.id for p in group.parts})
        back = put_set_on(rest, BOOK.parts, group)
        self.assertEqual(settings_of(back, "handheld").hands.left, at)
        self.assertEqual({p.part_id: p.setting for p in back.parts}, {p.part_id: p.setting for p in build.parts})


class Within(unittest.TestCase):
    def setUp(self) -> None:
        self.kit = {p.id: p for p in (block("base", 1.0, mounts=(rail(),)), *self.blocks("a", "b", "c"))}
        parts = (Placed("base", "base"), Placed("a", "a", "base", "rail"), Placed("b", "b", "a", "rail", 0, 0.1))
        self.build = Build("b1", "B", (*parts, Placed("c", "c", "b", "rail")))

    @staticmethod
    def blocks(*names: str) -> list[Part]:
        return [block(name, 0.5, mounts=(rail(),), at=(0.0, 0.0, -0.05)) for name in names]

    def test_an_inner_set_goes_with_the_outer_one_whichever_was_made_first(self) -> None:
        for first, second in ((("outer", "ab"), ("inner", "b")), (("inner", "b"), ("outer", "ab"))):
            made = with_set(with_set(self.build, first[0], tuple(first[1])), second[0], tuple(second[1]))
            self.assertEqual(list(sets_of(made)), ["outer", "inner"])
            self.assertEqual(made.placed("b").sets, ("outer", "inner"))
        made = with_set(made, "outer", ("a", "b", "c"))
        rest, group = take_set_off(made, "outer", "s1")
        back = put_set_on(rest, self.kit, group)
        self.assertEqual(back.placed("b").sets, ("outer", "inner"))
        inner = copied_set(back, "inner", "s2")
        self.assertEqual((inner.onto, [p.sets for p in inner.parts]), ("a", [("inner",)]))

    def refuses(self, words: str, do: object, *rest: object) -> None:
        with self.assertRaisesRegex(AssemblyError, words):
            do(*rest)  # type: ignore[operator]

    def test_what_is_wrong_is_said_in_one_sentence(self) -> None:
        made = with_set(self.build, "ab", ("a", "b"))
        self.refuses(". Put one wholly inside the other", with_set, made, "bc", ("b", "c"))
        self.refuses("Add what joins them, or take some out", with_set, replace(self.build), "ac", ("a", "c"))
        self.refuses("1 part outside the set ab sits on it. Take it off first", take_set_off, made, "ab", "s1")
        two = replace(made, parts=(*made.parts, Placed("d", "d", "a", "rail", 0, 0.2)))
        self.refuses("2 parts outside the set ab sit on it. Take them off first", take_set_off, two, "ab", "s1")
        self.refuses("no set called", take_set_off, made, "other", "s1")
        a = self.build.placed("a")
        self.refuses("holds the part that carries it", PartSet, "s", "S", (replace(a, parent="a"),), "base")
        self.refuses("sits on no part of the set. Take it out", PartSet, "s", "S", (a, Placed("c", "c", "x")), "base")
        self.refuses(": its first part must say where it came off", PartSet, "s", "S", (a,))
        whole = with_set(self.build, "abc", ("a", "b", "c"))
        rest, group = take_set_off(whole, "abc", "s1")
        self.refuses("is on this build already", put_set_on, self.build, self.kit, group)
        bare = {p.id: p for p in (block("stand", 1.0, kind=MountKind.QUARTER_20), *self.kit.values())}
        self.refuses("put that on first", put_set_on, Build("x", "X", (Placed("s", "stand"),)), bare, group)
        self.assertEqual([p.id for p in rest.parts], ["base"])

    def test_a_taken_place_is_named_and_not_another_taken_silently(self) -> None:
        screw = Mount("top", MountKind.QUARTER_20, (0.0, 0.0, 0.05))
        kit = {"base": block("base", 1.0, mounts=(screw,)), "x": self.screwed("x"), "y": self.screwed("y")}
        build = with_set(Build("b", "B", (Placed("base", "base"), Placed("x", "x", "base", "top"))), "X", ("x",))
        rest, group = take_set_off(build, "X", "s")
        taken = replace(rest, parts=(*rest.parts, Placed("y", "y", "base", "top")))
        self.refuses("are on one mount of base", put_set_on, taken, kit, group)

    @staticmethod
    def screwed(name: str) -> Part:
        return replace(block(name, 0.2), feet=(Foot(MountKind.QUARTER_20, (0.0, 0.0, -0.05)),))

    def test_a_whole_handheld_rig_drops_on_another_base(self) -> None:
        kit = {p.id: p for p in (*self.kit.values(), block("sled", 2.0, mounts=(rail(),)), grip("g"))}
        hand = Build("h", "H", (Placed("a", "a"), Placed("g", "g", "a", "rail", 0, 0.2)))
        made = with_set(hand, "Hand", ("a", "g"))
        empty, group = take_set_off(made, "Hand", "s1")
        self.assertEqual((empty.parts, group.onto), ((), ""))
        on_sled = put_set_on(Build("s", "S", (Placed("sled", "sled"),)), kit, group)
        self.assertEqual(on_sled.placed("a").parent, "sled")
        self.assertEqual((on_sled.placed("g").parent, on_sled.placed("g").setting), ("a", 0.2))
        # Under a name that is taken it gets another, and ids stay apart.
        crowded = with_set(Build("s", "S", (Placed("a", "sled"), Placed("c", "c", "a", "rail"))), "Hand", ("c",))
        both = put_set_on(crowded, kit, group)
        self.assertEqual(set(sets_of(both)), {"Hand", "Hand 2"})
        ids = [p.id for p in both.parts]
        self.assertEqual(len(set(ids)), 4)
