"""Subjects: facts that anybody can check by hand or by another route."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.errors import MeasurementError
from equilix.core.kit.records import Instrument
from equilix.core.kit.uncertainty import whole_mass_uncertainty
from equilix.core.measurement.bench import Procedure, Setup, Subject
from equilix.core.measurement.subjects import take_loose, take_part, take_placed
from tests.rigs.benches import LENA
from tests.rigs.kits import BOOK
from tests.rigs.people import PERSON
from tests.rigs.plain import block, grip, shoulder_build


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
        analysis = analyse(*shoulder_build((block("a", 2.0), 0.1), (block("b", 1.0), 0.4), (grip("g"), 0.2)), PERSON)
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
        bare = analyse(build, {**kit, "base": replace(kit["base"], mass=None)}, PERSON)
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


class Subjects(unittest.TestCase):
    def test_a_part_without_size_or_mass(self) -> None:
        """Common practice: 300 g give or take 15 %, the size of a fist."""
        bare = replace(block("x", 1.0), outline=None, mass=None)
        subject = take_part(bare).subject
        self.assertEqual((subject.mass, subject.size), (0.3, (0.1, 0.08, 0.08)))
        self.assertAlmostEqual(subject.mass_u, 0.045)
        sized = block("y", 1.0, (0.3, 0.2, 0.1))
        self.assertEqual(take_part(sized).subject.size, (0.3, 0.2, 0.1))
        self.assertEqual(take_part(sized).subject.centre, sized.outline.centre)

    def test_a_heap(self) -> None:
        parts = (
            block("a", 1.0, (0.3, 0.2, 0.1)),
            replace(block("b", 0.5), outline=None),
            block("c", 2.0, (0.1, 0.05, 0.2)),
        )
        heap = take_loose(parts)
        self.assertEqual(heap.subject.mass, 3.5)
        self.assertAlmostEqual(heap.subject.mass_u, math.hypot(*(whole_mass_uncertainty(p) for p in parts)))
        self.assertEqual(heap.subject.size, (0.3 + 0.1 + 0.1, 0.2, 0.2))
        self.assertEqual((heap.origin.shape, heap.rotation.shape), ((3, 3), (3, 3, 3)))
        with self.assertRaisesRegex(MeasurementError, "no common CG"):
            heap.along(0)

    def test_what_sits_on_a_build(self) -> None:
        build, kit = shoulder_build((block("a", 2.0, (0.2, 0.1, 0.1)), 0.1), (block("b", 1.0, (0.1, 0.1, 0.3)), -0.2))
        found = analyse(build, kit, LENA)
        chosen = [i for i, p in enumerate(found.assembly.parts) if p.id in ("a", "b")]
        zero = np.array([0.05, 0.0, 0.02])
        taken = take_placed(found.assembly, found.positions, chosen, zero, "Both")
        cgs = found.positions.cg[chosen]
        np.testing.assert_allclose(taken.subject.cg, (2.0 * cgs[0] + 1.0 * cgs[1]) / 3.0 - zero, atol=1e-12)
        low = np.min([found.positions.centre[i] - found.assembly.edges[i] for i in chosen], axis=0)
        high = np.max([found.positions.centre[i] + found.assembly.edges[i] for i in chosen], axis=0)
        np.testing.assert_allclose(taken.subject.size, high - low, atol=1e-12)
        np.testing.assert_allclose(taken.subject.centre, (high + low) / 2 - zero, atol=1e-12)
        members = taken.along(0)
        self.assertEqual([m.axis for m in members], [(1.0, 0.0, 0.0)] * 2)
        np.testing.assert_allclose([m.offset for m in members], found.positions.origin[chosen, 0] - zero[0])
