"""Kinds, hands, movers, chains of pieces, traces, what lies on the bench: plain cases worked out by hand."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.assembly.build import Build, Grasp, Hold, Operator, Placed
from equilix.core.assembly.missing import missing_between
from equilix.core.assembly.mounts import mover_of, slides
from equilix.core.chosen import check_grasps, hold_of, with_hold, without_lost_grasps
from equilix.core.errors import AssemblyError, MeasurementError
from equilix.core.kit.kinds import TYPICAL, odd_mass, odd_size
from equilix.core.kit.parts import Category, Connection, Mount, MountKind
from equilix.core.kit.records import Instrument
from equilix.core.kit.uncertainty import whole_mass_uncertainty
from equilix.core.limits import MAX_NAME, check_count, check_line, check_text, shortened
from equilix.core.measurement.bench import Procedure, Setup, Subject
from equilix.core.measurement.steady import Sample, Trace, trace_of
from equilix.core.measurement.subjects import take_loose, take_part, take_placed
from equilix.core.solver.growth import RodOrder
from equilix.document.typical_parts import usual_size
from equilix.io.shipped import catalogue, demo_book
from equilix.supports.shoulder.settings import ShoulderSettings
from tests.core.builders import base, block, grip, shoulder_build

BOOK = demo_book()
MAN = Operator("m", "M", 1.78, 79.0)


class Kinds(unittest.TestCase):
    def test_usual_figures_are_those_of_parts_that_are_sold(self) -> None:
        """Every part of the catalogue of its kind lies within the factor from which one is asked."""
        for part in catalogue():
            usual, size = TYPICAL[part.category][0], usual_size(part.category, part.name)
            if part.mass is not None and part.category is not Category.OTHER:
                self.assertFalse(odd_mass(part.category, part.mass), part.name)
                self.assertTrue(usual / 15.0 <= part.mass <= usual * 15.0)
            if part.outline is not None:
                self.assertFalse(odd_size(part.outline.size), part.name)
                self.assertLess(max(size) / 1000.0 / max(part.outline.size), 6.0, part.name)

    def test_what_is_a_thousand_times_off_is_odd(self) -> None:
        for category in Category:
            usual, _ = TYPICAL[category]
            self.assertTrue(odd_mass(category, usual * 1000.0))
            self.assertTrue(odd_mass(category, 0.0))
            self.assertFalse(odd_mass(category, usual))
        self.assertFalse(odd_mass(Category.OTHER, 29.0))
        # Just at a bound nothing is asked.
        self.assertFalse(odd_mass(Category.OTHER, 30.0))
        self.assertFalse(odd_mass(Category.BODY, TYPICAL[Category.BODY][0] * 15.0))
        self.assertFalse(odd_mass(Category.BODY, TYPICAL[Category.BODY][0] / 15.0))
        self.assertFalse(odd_size((0.0005, 0.1, 1.5)))
        self.assertTrue(odd_mass(Category.OTHER, 31.0))
        usual, _ = TYPICAL[Category.BODY]
        self.assertFalse(odd_mass(Category.BODY, usual * 14.9))
        self.assertTrue(odd_mass(Category.BODY, usual * 15.1))
        self.assertTrue(odd_mass(Category.BODY, usual / 15.1))
        self.assertTrue(odd_size((0.1, 0.1, 100.0)))
        self.assertTrue(odd_size((0.1, 0.0001, 0.1)))
        self.assertFalse(odd_size((0.0006, 0.1, 1.49)))


class Bounds(unittest.TestCase):
    def test_what_is_taken_and_what_is_refused(self) -> None:
        """Just inside and just outside of each bound; the sentence names the field."""
        for make, good, bad, word in (
            (lambda v: Hold(thickness=v), 0.080, 0.081, "thickness"),
            (lambda v: Hold(thickness=v), 0.010, 0.009, "thickness"),
            (lambda v: ShoulderSettings(friction=v), 2.0, 2.01, "friction"),
            (lambda v: ShoulderSettings(friction=v), 0.0, -0.01, "friction"),
            (lambda v: replace(MAN, strength=v), 3.0, 3.01, "Strength"),
            (lambda v: replace(MAN, strength=v), 0.2, 0.19, "Strength"),
            (lambda v: replace(MAN, stature=v), 2.3, 2.31, "Height"),
            (lambda v: replace(MAN, stature=v), 1.2, 1.19, "Height"),
            (lambda v: replace(MAN, body_mass=v), 250.0, 251.0, "mass"),
            (lambda v: replace(MAN, body_mass=v), 30.0, 29.0, "mass"),
        ):
            make(good)
            with self.assertRaisesRegex(AssemblyError, word):
                make(bad)


class Names(unittest.TestCase):
    def test_a_long_name_keeps_room_for_what_comes_behind(self) -> None:
        self.assertEqual(shortened("Rig"), "Rig")
        self.assertEqual(shortened("Rig", ", copy"), "Rig, copy")
        long = shortened("x" * 300, ", copy")
        self.assertEqual(len(long), MAX_NAME)
        self.assertTrue(long.endswith("x, copy"))
        self.assertEqual(shortened("y" * MAX_NAME), "y" * MAX_NAME)
        # As the format's own page says: docs/format.md.
        for check, most in ((check_line, 200), (check_text, 5_000)):
            check("z" * most, "It")
            with self.assertRaisesRegex(AssemblyError, f"more than {most} characters"):
                check("z" * (most + 1), "It")
        check_count(range(5), 5, "Things")
        with self.assertRaisesRegex(AssemblyError, "6 is too many. At most 5"):
            check_count(range(6), 5, "Things")


class Builds(unittest.TestCase):
    def setUp(self) -> None:
        self.build = BOOK.builds[2]
        self.kit = BOOK.parts

    def test_hands_let_go_of_what_is_not_there(self) -> None:
        held = with_hold(self.build, Hold(Grasp("lens", "under it"), Grasp("gone", "hand")))
        left = without_lost_grasps(held, self.kit)
        self.assertEqual(hold_of(left).left, hold_of(held).left)
        self.assertIsNone(hold_of(left).right)
        self.assertIs(without_lost_grasps(self.build, self.kit), self.build)
        with self.assertRaisesRegex(AssemblyError, "a hand holds a part that is not on it"):
            check_grasps(held, self.kit)
        check_grasps(left, self.kit)

    def test_what_moves_when_a_part_is_pushed(self) -> None:
        rosette = Mount("t", MountKind.ROSETTE, (0.0, 0.0, 0.1), Connection.TURN, (0.0, 1.0, 0.0), -1.0, 1.0)
        kit = {"base": replace(base(1.0), mounts=(*base().mounts, rosette))}
        top = Mount("top", MountKind.QUARTER_20, (0.0, 0.0, 0.05))
        kit["cart"] = block("cart", 1.0, mounts=(top,))
        kit["box"] = block("box", 0.3, kind=MountKind.QUARTER_20)
        kit["stick"] = block("stick", 0.2, kind=MountKind.ROSETTE)
        parts = (
            Placed("base", "base"),
            Placed("cart", "cart", "base", "rail", 0, 0.1),
            Placed("box", "box", "cart", "top"),
            Placed("stick", "stick", "base", "t"),
        )
        build = Build("b", "b", parts)
        self.assertEqual(mover_of(build, kit, "box")[0].id, "cart")
        self.assertEqual(mover_of(build, kit, "cart")[1].id, "rail")
        self.assertEqual(mover_of(build, kit, "stick")[0].id, "stick")
        self.assertIsNone(mover_of(build, kit, "base"))
        self.assertEqual([placed.id for placed, _ in slides(build, kit)], ["cart"])
        # A rail and a rosette without any travel hold as fast as a screw.
        still = tuple(replace(mount, low=0.1, high=0.1) for mount in kit["base"].mounts if mount.id in ("rail", "t"))
        others = tuple(mount for mount in kit["base"].mounts if mount.id not in ("rail", "t"))
        kit["base"] = replace(kit["base"], mounts=(*others, *still))
        self.assertEqual([mover_of(build, kit, one) for one in ("box", "cart", "stick")], [None] * 3)
        self.assertEqual(slides(build, kit), ())

    def test_the_fewest_pieces_between(self) -> None:
        """A screen with a screw, a rod clamp with a shoe, a shoe with a screw: both go between, in that order."""
        kit = {"base": replace(base(1.0), category=Category.RODS)}
        shoe = Mount("shoe", MountKind.COLD_SHOE, (0.0, 0.0, 0.02))
        screw = Mount("screw", MountKind.QUARTER_20, (0.0, 0.0, 0.02))
        kit["clamp"] = block("clamp", 0.1, category=Category.CLAMP, mounts=(shoe,))
        kit["tilt"] = block("tilt", 0.1, category=Category.ARM, mounts=(screw,), kind=MountKind.COLD_SHOE)
        screen = block("screen", 0.4, category=Category.MONITOR, kind=MountKind.QUARTER_20)
        build = Build("b", "b", (Placed("base", "base"),))
        chain = missing_between(build, kit, screen, ())
        self.assertEqual([piece.part.id for piece in chain], ["clamp", "tilt", "screen"])
        self.assertEqual([piece.on for piece in chain], ["base", "clamp", "tilt"])
        del kit["tilt"]
        self.assertEqual(missing_between(build, kit, screen, ()), ())

    def test_order_on_rods(self) -> None:
        self.assertTrue(RodOrder("r", ("a", "b"), ("a", "b")).as_wanted)
        self.assertFalse(RodOrder("r", ("b", "a"), ("a", "b")).as_wanted)


class Traces(unittest.TestCase):
    def test_steady_from_the_last_time_it_left_its_band(self) -> None:
        """One step each way, 2.1 s: by hand."""
        samples = [Sample(0.0, 1.50), Sample(0.5, 1.60)]
        samples += [Sample(1.0 + 0.3 * k, 1.600 + 0.004 * (k % 2)) for k in range(8)]
        trace = trace_of(0.002, samples)
        self.assertAlmostEqual(trace.steady_for, 2.6)
        self.assertTrue(trace.steady)
        self.assertEqual(trace.last, samples[-1])
        inside = [s.value for s in samples if s.time >= samples[-1].time - 2.1]
        self.assertAlmostEqual(trace.value, sum(inside) / len(inside), places=6)
        self.assertFalse(trace_of(0.0019, samples).steady)
        self.assertEqual(trace.with_sample(Sample(0.2, 9.0)).samples, (Sample(0.2, 9.0),))
        late = trace.with_sample(Sample(10.5, 1.6))
        self.assertEqual(late.samples[0].time, 2.5)
        self.assertEqual((Trace(0.002).steady_for, Trace(0.002).value, Trace(0.002).last), (0.0, None, None))


class OnTheBench(unittest.TestCase):
    def test_a_part_a_heap_and_what_sits_on_a_build(self) -> None:
        part = BOOK.kit[0]
        taken = take_part(part)
        self.assertIs(taken.single, part)
        # In its own frame: its origin at nothing, its axes those of the scale.
        for axis in range(3):
            (member,) = taken.along(axis)
            self.assertEqual((member.part_id, member.offset), (part.id, 0.0))
            self.assertEqual(tuple(float(v) for v in np.eye(3)[axis]), member.axis)
        self.assertEqual((taken.subject.mass, taken.subject.mass_u), (part.mass, whole_mass_uncertainty(part)))
        unknown = take_part(replace(part, mass=None))
        self.assertEqual(unknown.subject.mass, 0.3)
        self.assertAlmostEqual(unknown.subject.mass_u, 0.045)
        two = BOOK.kit[:2]
        heap = take_loose(two)
        self.assertIsNone(heap.single)
        self.assertAlmostEqual(heap.subject.mass, sum(p.mass for p in two))
        self.assertAlmostEqual(heap.subject.mass_u, math.hypot(*(whole_mass_uncertainty(p) for p in two)))
        self.assertEqual([m.part_id for m in heap.on_the_scale()], [p.id for p in two])
        sizes = np.array([p.outline.size for p in two])
        np.testing.assert_allclose(heap.subject.size, [sizes[:, 0].sum(), sizes[:, 1].max(), sizes[:, 2].max()])
        with self.assertRaisesRegex(MeasurementError, "Loose parts"):
            heap.along(0)
        with self.assertRaisesRegex(MeasurementError, "No part is chosen"):
            take_loose(())

    def test_parts_as_they_sit_on_a_build(self) -> None:
        analysis = analyse(*shoulder_build((block("a", 2.0), 0.1), (block("b", 1.0), 0.4), (grip("g"), 0.2)), MAN)
        zero = np.array([0.05, 0.0, 0.0])
        taken = take_placed(analysis.assembly, analysis.positions, (1, 2), zero, "both")
        self.assertAlmostEqual(taken.subject.mass, 3.0)
        self.assertAlmostEqual(taken.subject.cg[0], (2.0 * 0.1 + 1.0 * 0.4) / 3.0 - 0.05)
        np.testing.assert_allclose(taken.subject.size, [0.4, 0.1, 0.1])
        self.assertAlmostEqual(taken.subject.centre[0], 0.25 - 0.05)
        members = taken.along(0)
        self.assertEqual([m.part_id for m in members], ["a", "b"])
        self.assertAlmostEqual(members[1].offset, 0.4 - 0.05)
        self.assertEqual(members[0].axis, (1.0, 0.0, 0.0))
        build, kit = shoulder_build((block("a", None), 0.1))
        bare = analyse(build, {**kit, "base": replace(kit["base"], mass=None)}, MAN)
        with self.assertRaisesRegex(MeasurementError, "None of these parts has a mass"):
            take_placed(bare.assembly, bare.positions, (1,), zero, "it")

    def test_the_next_reading(self) -> None:
        subject = Subject("p", 2.0, 0.1, (0.0,) * 3, (0.02,) * 3, (0.2, 0.1, 0.1), (0.0,) * 3)
        procedure = Procedure(Setup.TARE, subject, Instrument("s", "S"))
        self.assertEqual(procedure.current.key, "tray")
        self.assertEqual(procedure.with_reading("tray", 0.2).current.key, "both")
        done = procedure.with_reading("tray", 0.2).with_reading("both", 2.2)
        self.assertIsNone(done.current)
        self.assertTrue(done.enough)


if __name__ == "__main__":
    unittest.main()
