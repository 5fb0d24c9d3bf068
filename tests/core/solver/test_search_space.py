"""Search space: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Placed
from equilix.core.kit.parts import Category, Mount, MountKind
from equilix.core.solver.search_space import balance_slides, battery_variable, fill_variable, move_variable
from tests.rigs.people import PERSON
from tests.rigs.plain import base, block
from tests.rigs.ways import camera_rig, with_rail


class Freedoms(unittest.TestCase):
    def test_slides_that_are_for_balance(self) -> None:
        """Common practice: what is set to hands, eye or lens is not moved for balance, nor an empty rod."""
        others = (
            (block("power", 0.9, category=Category.BATTERY), -0.2),
            (block("rods", 0.2, category=Category.RODS), 0.2),
            (block("motor", 0.3, category=Category.FOCUS), 0.25),
            (block("screen", 0.3, category=Category.MONITOR), 0.1),
            (block("pad", 0.3, category=Category.PAD), 0.0),
        )
        build, kit = camera_rig(0.1, *others)
        self.assertEqual(balance_slides(analyse(build, kit, PERSON)), {"camera", "power", "pad"})
        self.assertEqual(balance_slides(analyse(build, with_rail(kit, 0.08, 0.08), PERSON)), {"power", "pad"})
        # In the hands a pad that lies on nothing moves nothing but itself.
        self.assertEqual(balance_slides(analyse(replace(build, support="handheld"), kit, PERSON)), {"camera", "power"})

    def test_batteries_of_the_kit_for_the_one_that_is_on(self) -> None:
        rods, screw = MountKind.LIGHT_RODS, MountKind.QUARTER_20
        build, kit = camera_rig(0.1, (block("power", 0.9, category=Category.BATTERY), -0.2))
        for name, mass, kind in (("big", 1.4, rods), ("odd", 1.4, screw), ("blank", None, rods)):
            kit[name] = block(name, mass, category=Category.BATTERY, kind=kind)
        choices = battery_variable(analyse(build, kit, PERSON), kit).choices
        self.assertEqual(len(choices), 1)
        self.assertEqual([o.placed.part_id for o in choices[0].options], ["power", "big"])
        self.assertTrue(choices[0].needed)

    def test_an_empty_plate_takes_any_battery_that_fits_and_a_free_rod_a_plate(self) -> None:
        lock = Mount("lock", MountKind.V_LOCK, (-0.02, 0.0, 0.0))
        plate = block("plate", 0.3, category=Category.BATTERY_PLATE, mounts=(lock,))
        power = block("power", 0.8, category=Category.BATTERY, kind=MountKind.V_LOCK)
        build, kit = camera_rig(0.1, (plate, -0.2))
        odd = replace(power, id="odd", feet=block("x", 1.0).feet)
        kit |= {"power": power, "odd": odd, "lamp": replace(power, id="lamp", category=Category.OTHER)}
        options = fill_variable(analyse(build, kit, PERSON), kit).choices[0].options
        self.assertEqual([(o.placed.part_id, o.placed.parent) for o in options], [("power", "plate")])
        bare = replace(build, parts=tuple(p for p in build.parts if p.id != "plate"))
        kit["rods"] = block("rods", 0.1, category=Category.RODS, mounts=(replace(base().mount("rail"), id="along"),))
        bare = replace(bare, parts=(*bare.parts, Placed("rods", "rods", "base", "far")))
        filled = fill_variable(analyse(bare, kit, PERSON), kit).choices[0].options
        self.assertIn(("rods", "along"), {(o.placed.parent, o.placed.mount) for o in filled})
        for option in filled:
            self.assertEqual(option.placed.part_id, "plate")
            self.assertEqual([p.part_id for p in option.carried], ["power"])
            self.assertEqual(option.carried[0].parent, option.placed.id)
        # A battery that is on is no reason to fill anything.
        kit["on"] = block("on", 0.8, category=Category.BATTERY)
        both = replace(bare, parts=(*bare.parts, Placed("on", "on", "rods", "along")))
        for choice in fill_variable(analyse(both, kit, PERSON), kit).choices:
            self.assertNotIn("plate", [o.placed.part_id for o in choice.options])
        # One that nothing can be swapped for leaves the empty plate to be filled.
        kit["second"] = replace(power, id="second")
        stuck = replace(build, parts=(*build.parts, Placed("power", "power", "plate", "lock")))
        kit["other"] = replace(plate, id="other", mounts=(replace(lock, kind=MountKind.QUARTER_20),))
        kit["screwed"] = block("screwed", 0.5, category=Category.BATTERY, kind=MountKind.QUARTER_20)
        stuck = replace(stuck, parts=(*stuck.parts, Placed("other", "other", "base", "far", 0, -0.3)))
        kit = {i: part for i, part in kit.items() if i not in ("second", "odd")}
        (choice,) = fill_variable(analyse(stuck, kit, PERSON), kit).choices
        self.assertEqual([(o.placed.part_id, o.placed.parent) for o in choice.options], [("screwed", "other")])

    def test_what_may_hang_elsewhere(self) -> None:
        """Common practice: no battery on a lens or a grip; never where it is already; the heaviest few alone."""
        build, kit = camera_rig(0.1, (block("power", 0.9, category=Category.BATTERY), -0.2))
        spare = replace(base().mount("rail"), id="spare")
        kit["lens"] = replace(kit["lens"], mounts=(replace(spare, id="ring"),))
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, spare))
        choices = move_variable(analyse(build, kit, PERSON), kit).choices
        power = next(c for c in choices if c.options[0].placed.id == "power")
        places = {(o.placed.parent, o.placed.mount) for o in power.options if not o.current}
        self.assertTrue(power.options[0].current)
        self.assertIn(("base", "spare"), places)
        self.assertNotIn(("lens", "ring"), places)
        self.assertNotIn((power.options[0].placed.parent, power.options[0].placed.mount), places)
        many = [(block(f"b{k}", 0.3 + 0.1 * k, category=Category.BATTERY), -0.05 * k) for k in range(7)]
        build, kit = camera_rig(0.1, *many)
        kit["base"] = replace(kit["base"], mounts=(*kit["base"].mounts, spare))
        tried = {c.options[0].placed.id for c in move_variable(analyse(build, kit, PERSON), kit).choices}
        self.assertEqual(tried, {f"b{k}" for k in range(2, 7)})
