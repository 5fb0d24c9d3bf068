"""Where figures come from: records, stored weighings, accepted values and their undo."""

from __future__ import annotations

import math
import unittest

import numpy as np
from msgspec.structs import replace

from equilix.core.analyse import analyse
from equilix.core.errors import EditError, MeasurementError
from equilix.core.kit.parts import Category, HowKnown
from equilix.core.kit.records import Instrument, Method, Quantity, Sensed, Stamp
from equilix.core.kit.uncertainty import part_uncertainties, whole_mass_uncertainty
from equilix.core.measurement.bench import Procedure, Setup, suggested_layout
from equilix.core.measurement.reconcile import reconcile
from equilix.core.measurement.subjects import take_loose, take_part, take_placed
from equilix.document.book import Book
from equilix.document.edits.kit import ChangePart, RemoveParts
from equilix.document.edits.measure import PutInstrument, RemoveInstrument, RemoveMeasurement, UseMeasurement
from equilix.document.history import History
from equilix.document.provenance import KEPT, stamped
from equilix.document.weighing import accepted, stored
from equilix.io.format import decode_book, encode_book
from equilix.io.shipped import demo_book
from equilix.present.kit.history import history_rows, provenance_words
from equilix.present.kit.table import Column, changed
from equilix.present.units import System
from tests.rigs.plain import block

STAMP = Stamp("2026-11-24 10:00", "Tove")


class Records(unittest.TestCase):
    def test_every_change_leaves_one_and_the_first_value_is_kept(self) -> None:
        book = demo_book()
        zoom = book.part("zoom")
        history = History(book).push(ChangePart(changed(zoom, Column.MASS, "1.6 kg w", System.METRIC), "mass", STAMP))
        records = history.present.part("zoom").records
        self.assertEqual([r.value for r in records], [1.36, 1.6])
        self.assertEqual([r.known for r in records], [HowKnown.SHEET, HowKnown.WEIGHED])
        self.assertEqual(records[-1].stamp, STAMP)
        self.assertEqual(history.undo().present.part("zoom").records, ())

    def test_what_does_not_touch_a_figure_leaves_none(self) -> None:
        zoom = demo_book().part("zoom")
        self.assertEqual(stamped(zoom, replace(zoom, name="Zoom", price=3.0), STAMP).records, ())

    def test_old_records_make_room_but_the_first_stays(self) -> None:
        part = replace(block("a", 1.0), mass_u=0.1)
        for k in range(KEPT + 10):
            part = stamped(part, replace(part, mass=2.0 + k), STAMP)
        masses = [r.value for r in part.records]
        self.assertEqual(len(masses), KEPT)
        self.assertEqual((masses[0], masses[-1]), (1.0, 2.0 + KEPT + 9))

    def test_words(self) -> None:
        book = demo_book()
        self.assertEqual(
            provenance_words(book.part("body")),
            "mass one scale, Luggage scale, by Maren, 2026-11-16 08:10, CG weighed",
        )
        self.assertEqual(provenance_words(book.part("cables")), "mass not known: weigh it")
        row = history_rows(book.part("body"), System.METRIC)[0]
        self.assertEqual((row.quantity, row.value, row.when), ("mass", "2.620 kg ± 0.02", "2026-11-16 08:10"))


class Storing(unittest.TestCase):
    def setUp(self) -> None:
        self.book = demo_book()
        self.scale = self.book.scales["hanging"]

    def weigh(self, part_id: str, setup: Setup, **readings: float) -> Book:
        taken = take_part(self.book.part(part_id))
        procedure = Procedure(setup, taken.subject, self.scale, suggested_layout(setup, taken.subject))
        for key, value in readings.items():
            procedure = procedure.with_reading(key, value)
        return History(self.book).push(stored(self.book, procedure, taken, "2026-11-24 10:00", "Tove")).present

    def test_a_part_gets_its_figures_doubts_and_records(self) -> None:
        book = self.weigh("matte", Setup.FORE_AFT, whole=0.462, front=0.180, back=0.282)
        part = book.part("matte")
        self.assertIs(part.mass_known, HowKnown.WEIGHED)
        self.assertAlmostEqual(part.mass, 0.462)
        self.assertAlmostEqual(part.mass_u, self.scale.own_uncertainty() * math.sqrt(2 / 3))
        self.assertAlmostEqual(part.shared[0].amount, 0.462 * 0.002 / math.sqrt(3.0))
        self.assertLess(part.cg_axis_u[0], 0.002)
        self.assertIsNone(part.cg_axis_u[1])
        last = [r for r in part.records if r.quantity is Quantity.CG_X][-1]
        self.assertEqual((last.stamp.method, last.stamp.instrument), (Method.TWO_SUPPORTS, "Hanging scale"))
        self.assertEqual(len(book.measurements), len(self.book.measurements) + 2)
        self.assertEqual(set(last.stamp.source), {m.id for m in book.measurements[-2:]})
        self.assertEqual(decode_book(encode_book(book), "x"), book)

    def test_a_measured_part_takes_its_doubt_out_of_the_build(self) -> None:
        before = analyse(self.book.builds[0], self.book.parts, self.book.operators[0])
        book = self.weigh("matte", Setup.FORE_AFT, whole=0.462, front=0.180, back=0.282)
        after = analyse(book.builds[0], book.parts, book.operators[0])
        self.assertLess(float(after.spread.cg[0]), 0.6 * float(before.spread.cg[0]))

    def test_loose_parts_and_assemblies_only_leave_a_weighing(self) -> None:
        taken = take_loose([self.book.part("vplate"), self.book.part("battery-98")])
        procedure = Procedure(Setup.WHOLE, taken.subject, self.scale).with_reading("whole", 1.038)
        book = History(self.book).push(stored(self.book, procedure, taken, "d", "T")).present
        self.assertEqual(book.kit, self.book.kit)
        self.assertEqual(book.measurements[-1].part_ids, ("vplate", "battery-98"))
        procedure = Procedure(Setup.FORE_AFT, taken.subject, self.scale)
        for key, value in (("whole", 1.0), ("front", 0.4)):
            procedure = procedure.with_reading(key, value)
        with self.assertRaisesRegex(MeasurementError, "Loose parts"):
            stored(self.book, procedure, taken, "d", "T")

    def test_a_rig_on_two_supports_is_reconciled_with_its_parts(self) -> None:
        """The rig's CG as the parts have it, measured without error, must fit: nothing moves."""
        analysis = analyse(self.book.builds[0], self.book.parts, self.book.operators[0])
        indices = [i for i in range(len(analysis.assembly.parts)) if analysis.assembly.mass[i] > 0]
        taken = take_placed(analysis.assembly, analysis.positions, indices, np.zeros(3), "rig")
        layout = suggested_layout(Setup.FORE_AFT, taken.subject)
        procedure = Procedure(Setup.FORE_AFT, taken.subject, self.scale, layout)
        whole = analysis.body.mass
        front = whole * (float(analysis.body.cg[0]) + layout.origin) / layout.span
        for key, value in (("whole", whole), ("front", front), ("back", whole - front)):
            procedure = procedure.with_reading(key, value)
        edit = stored(self.book, procedure, taken, "d", "T")
        found = reconcile(self.book.parts, edit.measurements, self.book.scales)
        fit = next(f for f in found.fits if f.measurement.sensed is Sensed.CG)
        self.assertAlmostEqual(fit.expected, fit.measurement.value, places=9)
        self.assertLess(found.chi_square, 1e-9)


class Accepting(unittest.TestCase):
    def test_values_doubts_and_what_they_share(self) -> None:
        book = demo_book()
        found = reconcile(book.parts, book.measurements, book.scales)
        everything = tuple(range(len(found.figures)))
        after = History(book).push(accepted(found, everything, "2026-11-24 10:00", "Tove")).present
        ids = [f.belief.part_id for f in found.figures]
        uncertainties = part_uncertainties([after.part(i) for i in ids])
        covariance = np.diag(uncertainties.mass**2) + uncertainties.gain.T @ uncertainties.gain
        np.testing.assert_allclose(covariance, found.covariance, atol=1e-9)
        self.assertAlmostEqual(after.part("zoom").mass, 1.6, delta=0.01)
        self.assertIs(after.part("zoom").records[-1].stamp.method, Method.RECONCILED)

    def test_reconciling_again_starts_from_the_first_belief(self) -> None:
        book = demo_book()
        found = reconcile(book.parts, book.measurements, book.scales)
        after = History(book).push(accepted(found, (2,), "d", "T")).present
        again = reconcile(after.parts, after.measurements, after.scales)
        self.assertAlmostEqual(again.chi_square, found.chi_square, places=6)

    def test_one_alone_keeps_its_whole_doubt(self) -> None:
        book = demo_book()
        found = reconcile(book.parts, book.measurements, book.scales)
        index = next(i for i, f in enumerate(found.figures) if f.belief.part_id == "zoom")
        history = History(book).push(accepted(found, (index,), "d", "T"))
        zoom = history.present.part("zoom")
        self.assertAlmostEqual(whole_mass_uncertainty(zoom), found.figures[index].u, places=9)
        self.assertEqual(zoom.shared, ())
        self.assertIs(history.undo().present, book)


class Edits(unittest.TestCase):
    def test_scales_come_and_go(self) -> None:
        history = History(demo_book()).push(PutInstrument(Instrument("new", "Fish scale")))
        self.assertIn("new", history.present.scales)
        history = history.push(PutInstrument(Instrument("new", "Fish scale", step=0.02)))
        self.assertEqual(history.present.scales["new"].step, 0.02)
        history = history.push(RemoveInstrument("new"))
        self.assertNotIn("new", history.present.scales)
        with self.assertRaisesRegex(EditError, "Remove them first"):
            history.push(RemoveInstrument("hanging"))

    def test_weighings_are_left_out_or_removed(self) -> None:
        history = History(demo_book()).push(UseMeasurement("m5", False))
        self.assertFalse(next(m for m in history.present.measurements if m.id == "m5").used)
        found = reconcile(history.present.parts, history.present.measurements, history.present.scales)
        self.assertEqual(len(found.fits), 4)
        history = history.push(RemoveMeasurement("m5"))
        self.assertEqual(len(history.present.measurements), 4)

    def test_a_removed_part_takes_its_weighings_along(self) -> None:
        book = demo_book()
        lone = replace(book, builds=())
        history = History(lone).push(RemoveParts(("support",)))
        self.assertEqual([m.id for m in history.present.measurements], ["m1", "m3", "m4"])
        self.assertEqual(history.undo().present, lone)

    def test_a_category_tells_nothing_of_doubt(self) -> None:
        self.assertEqual(whole_mass_uncertainty(replace(block("a", 1.0, category=Category.LENS), mass_u=0.1)), 0.1)
