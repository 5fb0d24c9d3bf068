"""Bags of strangers' words on all six supports, put together as a good assistant would: common practice."""

from __future__ import annotations

import unittest

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Operator, check_build
from equilix.core.kit.parts import MountKind
from equilix.document.kinds.assemble import Assembled, assemble
from equilix.document.kinds.makers import made_of, unknown_part
from equilix.document.kinds.naming import read_name
from equilix.document.kinds.places import Loose

#: Support, what is in the bag, and where each goes: (part, onto, relation); "?" before a part that is asked about.
BAGS: tuple[tuple[str, tuple[str, ...], tuple[tuple[str, str, str], ...]], ...] = (
    (
        "shoulder",
        (
            *(
                "Cinema camera body",
                "Camera plate",
                "Base plate",
                "Shoulder pad",
                "Rods 15 mm 8 in",
                "Rods 15 mm 10 in",
            ),
            *("V-lock battery plate", "V-lock 98 Wh", "Top handle", "Monitor arm", "5 inch monitor", "Zoom 28-105"),
            *("Matte box", "Focus motor", "Rosette clamp", "Left handle", "Right handle", "Lens support"),
        ),
        (
            ("Camera plate", "Cinema camera body", "under"),
            ("Base plate", "Camera plate", "under"),
            ("Shoulder pad", "Base plate", "under"),
            ("Rods 15 mm 8 in", "Base plate", "ahead"),
            ("Rods 15 mm 10 in", "Base plate", "behind"),
            ("V-lock battery plate", "Rods 15 mm 10 in", "rods"),
            ("V-lock 98 Wh", "V-lock battery plate", "behind"),
            ("Top handle", "Cinema camera body", "top"),
            ("Monitor arm", "Top handle", "top"),
            ("5 inch monitor", "Monitor arm", "top"),
            ("Zoom 28-105", "Cinema camera body", "ahead"),
            ("Matte box", "Zoom 28-105", "ahead"),
            ("Focus motor", "Rods 15 mm 8 in", "rods"),
            ("Rosette clamp", "Rods 15 mm 8 in", "rods"),
            ("Left handle", "Rosette clamp", "left"),
            ("Right handle", "Rosette clamp", "right"),
            ("Lens support", "Rods 15 mm 8 in", "rods"),
        ),
    ),
    (
        "handheld",
        ("side handle", "v-lock battery", "mirrorless body", "cage", "50 mm", "top handle", "mic", "battery plate"),
        (
            ("cage", "mirrorless body", "round"),
            ("50 mm", "mirrorless body", "ahead"),
            ("top handle", "cage", "top"),
            ("side handle", "cage", "right"),
            ("battery plate", "cage", "behind"),
            ("v-lock battery", "battery plate", "behind"),
            ("mic", "top handle", "top"),
        ),
    ),
    (
        "shoulder",
        ("Kamera", "Käfig", "Objektiv", "Basisplatte", "Schulterpolster", "Akku", "V-Mount Platte", "Rohre 30 cm"),
        (
            ("Käfig", "Kamera", "round"),
            ("Objektiv", "Kamera", "ahead"),
            ("Schulterpolster", "Basisplatte", "under"),
            ("Rohre 30 cm", "Basisplatte", "behind"),
            ("V-Mount Platte", "Rohre 30 cm", "rods"),
            ("Akku", "V-Mount Platte", "behind"),
        ),
    ),
    (
        "tripod",
        ("Camcorder", "Tripod plate", "mic", "light", "EVF"),
        (
            ("Tripod plate", "Camcorder", "under"),
            ("mic", "Camcorder", "top"),
            ("light", "Camcorder", "top"),
            ("EVF", "Camcorder", "left"),
        ),
    ),
    (
        "harness",
        ("box camera", "top plate", "eyelet", "prime 35", "bridge plate", "dovetail", "transmitter"),
        (
            ("top plate", "box camera", "top"),
            ("eyelet", "top plate", "top"),
            ("prime 35", "box camera", "ahead"),
            ("bridge plate", "box camera", "under"),
            ("dovetail", "bridge plate", "under"),
            ("transmitter", "top plate", "top"),
        ),
    ),
    (
        "gimbal",
        ("mirrorless", "24-70", "gimbal plate", "tilt arm", "roll arm", "pan arm", "gimbal frame"),
        (
            ("24-70", "mirrorless", "ahead"),
            ("?gimbal plate", "mirrorless", "under"),
            ("?tilt arm", "gimbal plate", "right"),
            ("?roll arm", "tilt arm", "behind"),
            ("?pan arm", "roll arm", "top"),
            ("?gimbal frame", "pan arm", "top"),
        ),
    ),
    (
        "vest",
        ("post", "stage", "sled base", "bearing", "camera plate", "cinema camera", "prime lens", "V-lock battery"),
        (
            ("stage", "post", "top"),
            ("sled base", "post", "under"),
            ("bearing", "post", "round"),
            ("camera plate", "stage", "top"),
            ("cinema camera", "camera plate", "top"),
            ("prime lens", "cinema camera", "ahead"),
            ("V-lock battery", "sled base", "behind"),
        ),
    ),
)


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
    def test_each_part_goes_where_people_put_it_and_nothing_meets(self) -> None:
        for support, names, expected in BAGS:
            with self.subTest(f"{support} {names[0]}"):
                found = together(support, *names)
                name = {key: part.name for key, part in found.kit.items()}
                joints = {
                    (f"{'' if joint.sure else '?'}{name[joint.placed_id]}", name[joint.onto], joint.relation)
                    for joint in found.joints
                }
                self.assertLessEqual(set(expected), joints)
                self.assertEqual(found.clashes, ())
                analysis = analyse(found.build, found.kit, Operator("o", "O"))
                self.assertAlmostEqual(analysis.body.mass, sum(found.kit[p.part_id].mass for p in found.build.parts))

    def test_the_order_of_packing_changes_no_place(self) -> None:
        support, names, expected = BAGS[0]
        found = together(support, *reversed(names))
        name = {key: part.name for key, part in found.kit.items()}
        self.assertLessEqual(
            {row for row in expected if "Rods" not in row[0] + row[1]},
            {(name[joint.placed_id], name[joint.onto], joint.relation) for joint in found.joints},
        )

    def test_what_nobody_knows_is_asked_and_a_second_is_a_spare(self) -> None:
        found = together("tripod", "camera", "thing", "Camera B", "gunstock")
        name = {key: part.name for key, part in found.kit.items()}
        self.assertEqual([name[one.part_id] for one in found.spare], ["Camera B"])
        self.assertIn("one cinema camera full frame is on the rig", found.spare[0].why)
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

    def test_no_camera_and_nothing_at_all(self) -> None:
        self.assertEqual(together("shoulder").build.parts, ())
        found = together("shoulder", "rods", "base plate")
        self.assertEqual([joint.relation for joint in found.joints], ["ahead"])


if __name__ == "__main__":
    unittest.main()
