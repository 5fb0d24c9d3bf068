"""Bags of strangers' words on all six supports, put together as a good assistant would: common practice."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator, check_build
from equilix.core.kit.parts import Category, MountKind
from equilix.document.kinds.assemble import Assembled, assemble
from equilix.document.kinds.makers import made_of, unknown_part
from equilix.document.kinds.naming import read_name
from equilix.document.kinds.places import Loose
from equilix.document.kinds.records import Kinds, PartKind, SeatRule, shipped_kinds

#: Support, what is in the bag, and where each goes: [part, onto, relation], "?" before a part that is asked about; and
#: how many pairs meet by the first answers to what is asked. Looked through by hand: common practice.
BAGS = json.loads((Path(__file__).parents[2] / "data" / "bags.json").read_text("utf-8"))


def bag(*names: str) -> list[Loose]:
    found = []
    for number, name in enumerate(names):
        reading, key = read_name(name), f"p{number}"
        part = (
            unknown_part(key, name, 0.1)
            if reading.kind is None
            else made_of(reading.kind, key, name, length=reading.length)
        )
        found.append(Loose(part, reading))
    return found


def together(support: str, *names: str) -> Assembled:
    found = assemble(Build("b", "B", support=support), {}, bag(*names))
    check_build(found.build, found.kit)
    return found


class Bags(unittest.TestCase):
    def test_each_part_goes_where_people_put_it(self) -> None:
        for row in BAGS:
            with self.subTest(f"{row['support']} {row['names'][0]}"):
                expected = {tuple(joint) for joint in row["joints"]}
                found = together(row["support"], *row["names"])
                name = {key: part.name for key, part in found.kit.items()}
                joints = {
                    (f"{'' if joint.sure else '?'}{name[joint.placed_id]}", name[joint.onto], joint.relation)
                    for joint in found.joints
                }
                self.assertLessEqual(expected, joints)
                self.assertEqual(len(found.clashes), row["clashes"])
                analysis = analyse(found.build, found.kit, Operator("o", "O"))
                self.assertAlmostEqual(analysis.body.mass, sum(found.kit[p.part_id].mass for p in found.build.parts))

    def test_the_order_of_packing_changes_no_place(self) -> None:
        found = together(BAGS[0]["support"], *reversed(BAGS[0]["names"]))
        name = {key: part.name for key, part in found.kit.items()}
        self.assertLessEqual(
            {tuple(row) for row in BAGS[0]["joints"] if "Rods" not in row[0] + row[1]},
            {(name[joint.placed_id], name[joint.onto], joint.relation) for joint in found.joints},
        )

    def test_what_nobody_knows_is_asked_and_a_second_is_a_spare(self) -> None:
        found = together("tripod", "camera", "thing", "Camera B", "gunstock")
        name = {key: part.name for key, part in found.kit.items()}
        self.assertEqual([name[one.part_id] for one in found.spare], ["Camera B"])
        self.assertIn("one cinema camera is on the rig", found.spare[0].why)
        self.assertEqual({name[one.part_id] for one in found.questions}, {"thing", "gunstock"})
        for question in found.questions:
            self.assertTrue(1 <= len(question.choices) <= 3)

    def test_a_typical_piece_goes_between_only_where_it_must(self) -> None:
        found = together("shoulder", "camera", "base plate", "left handle", "right handle")
        guessed = [joint for joint in found.joints if joint.guessed]
        # A base plate takes a rosette at either side: nothing is bought.
        self.assertEqual(guessed, [])
        found = together("shoulder", "camera", "base plate", "lens", "lens support")
        (rods,) = [joint for joint in found.joints if joint.guessed]
        self.assertEqual((found.kit[rods.placed_id].name, rods.relation), ("Rods, typical", "ahead"))

    def test_a_grip_hangs_beside_its_cage_and_the_hook_takes_an_eyelet(self) -> None:
        found = together("harness", "mirrorless", "cage", "side handle", "eyelet")
        self.assertEqual(found.clashes, ())
        mounts = [mount.kind for placed in found.build.parts for mount in found.kit[placed.part_id].mounts]
        self.assertIn(MountKind.EYELET, mounts)

    def test_a_language_that_nobody_knows_is_asked_about(self) -> None:
        found = together("tripod", "相机", "хреновина")
        self.assertEqual(len(found.build.parts), 1)
        self.assertEqual(len(found.questions), 1)
        self.assertEqual(found.spare[0].why, "its name says nothing that is known")

    def test_no_camera_and_nothing_at_all(self) -> None:
        self.assertEqual(together("shoulder").build.parts, ())
        found = together("shoulder", "rods", "base plate")
        self.assertEqual([joint.relation for joint in found.joints], ["ahead"])


class NewKind(unittest.TestCase):
    def test_one_record_and_parts_of_a_new_kind_are_known_made_and_put_on(self) -> None:
        seat = SeatRule("right", ("*cage", "*body"), ("screw",))
        words, size = ("smoke machine", "fogger"), (90.0, 60.0, 60.0)
        fogger = PartKind("fogger", words, Category.OTHER, 0.4, size, "screw", "support", (seat,))
        shipped = shipped_kinds()
        kinds = Kinds((*shipped.kinds, fogger), shipped.by, shipped.claims, shipped.anchors)
        loose = [
            Loose(made_of(reading.kind, name, name), reading)
            for name, reading in ((name, read_name(name, kinds)) for name in ("camera", "small fogger"))
        ]
        found = assemble(Build("b", "B"), {}, loose, kinds)
        (joint,) = found.joints
        self.assertEqual(
            (joint.placed_id, joint.onto, joint.relation, joint.sure), ("small fogger", "camera", "right", True)
        )
        self.assertEqual(found.kit["small fogger"].mass, 0.4)


if __name__ == "__main__":
    unittest.main()
