"""The bench, weighings, odds and import in the real window, with a scale that the test holds."""

from __future__ import annotations

import tempfile
import time
from datetime import datetime
from pathlib import Path
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QPushButton

from equilix.core.kit.parts import HowKnown
from equilix.core.kit.records import Method
from equilix.core.measurement.bench import Setup
from equilix.core.uncertainty.output_model import TOTAL_MASS
from equilix.desktop.dialogs.forms import HistoryDialog, InstrumentDialog, OperatorDialog
from equilix.desktop.dialogs.import_table import ImportDialog
from equilix.desktop.views.rooms import BALANCE, WEIGH
from equilix.devices.ports import ScaleReading, ScaleState
from equilix.present.units import System
from equilix.present.weigh.side_panel import OUTPUT
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase, WindowTestCase
from tests.desktop.held_scale import HeldScale


class BenchCase(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.clock = lambda: datetime(2026, 11, 24, 10, 30)
        self.said: list[str] = []
        self.workspace.said.connect(self.said.append)
        self.held = HeldScale()
        self.session = self.window.bench
        self.session._ports = lambda instrument: self.held
        self.window.go(WEIGH)
        self.view = self.window.weigh
        self.bench = self.view.bench

    def choose(self, part_id: str) -> None:
        row = self.view.table.kit_model.row_of(part_id)
        self.view.table.setCurrentIndex(self.view.table.kit_model.index(row, 1))
        self.settle()

    def lay(self, part_id: str, setup: Setup) -> None:
        self.choose(part_id)
        self.keys(self.view.table, "b")
        index = list(Setup).index(setup)
        self.bench.setup_box.setCurrentIndex(index)
        self.bench.setup_box.activated.emit(index)
        self.settle()

    def look(self) -> None:
        self.session.look()
        self.settle()


@campaign
class OnTheBench(BenchCase):
    def test_b_lays_the_part_and_space_takes_only_steady_readings(self) -> None:
        self.lay("matte", Setup.FORE_AFT)
        self.assertEqual(self.session.taken.subject.name, "Matte box, clip-on")
        self.click(self.bench.connect_button)
        self.assertTrue(self.held.opened)
        self.held.show(0.5, 0.5)
        self.held.show(0.462, 1.0)
        self.look()
        self.assertEqual(self.bench.take_button.text(), "Wait: the reading still moves")
        self.key(self.bench.reading, Qt.Key.Key_Space)
        self.assertEqual(self.session.procedure.readings, {})
        self.assertEqual(self.said[-1], "Wait: the reading still moves.")
        self.held.show(0.462, 1.5)
        self.look()
        self.assertEqual(self.bench.take_button.text(), "Read the scale")
        self.key(self.bench.reading, Qt.Key.Key_Space)
        self.assertAlmostEqual(self.session.procedure.readings["whole"], 0.462)
        self.assertEqual(self.session.procedure.current.key, "front")
        self.assertFalse(self.session.may_take)

    def test_the_whole_way_to_a_weighed_part_and_back(self) -> None:
        self.lay("matte", Setup.FORE_AFT)
        self.click(self.bench.connect_button)
        before = self.workspace.book
        for mass in (0.462, 0.180, 0.282):
            self.held.show(mass, 2.5)
            self.look()
            self.key(self.bench.reading, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue(self.bench.model.complete)
        self.key(self.bench.reading, Qt.Key.Key_Return)
        part = self.workspace.book.part("matte")
        self.assertIs(part.mass_known, HowKnown.WEIGHED)
        self.assertAlmostEqual(part.mass, 0.462, places=6)
        stamp = part.records[-1].stamp
        self.assertEqual((stamp.date, stamp.by, stamp.method), ("2026-11-24 10:30", "Maren", Method.TWO_SUPPORTS))
        # The list goes on with the next part, which lies on the bench already.
        self.assertEqual(self.session.taken.single.id, self.workspace.kit_selected)
        self.assertNotEqual(self.workspace.kit_selected, "matte")
        self.window.menu.named["undo"].trigger()
        self.assertEqual(self.workspace.book, before)

    def test_typed_readings_repeat_and_backspace(self) -> None:
        self.lay("matte", Setup.FORE_AFT)
        for text in ("462 g", "0,208"):
            self.keys(self.bench.typed, text)
            self.key(self.bench.typed, Qt.Key.Key_Return)
        self.assertEqual(self.session.procedure.readings, {"whole": 0.462, "front": 0.208})
        self.keys(self.bench.typed, "lots")
        self.key(self.bench.typed, Qt.Key.Key_Return)
        self.assertIn('"lots" is not a mass', self.at_field())
        self.assertEqual(self.bench.typed.text(), "lots")
        self.bench.typed.clear()
        self.key(self.bench.typed, Qt.Key.Key_Backspace)
        self.assertEqual(self.session.procedure.readings, {"whole": 0.462})
        self.press_at(self.bench.reading, ("step", "whole"))
        self.assertEqual(self.session.procedure.readings, {})

    def test_pulled_out_while_reading_keeps_what_was_taken(self) -> None:
        self.lay("matte", Setup.FORE_AFT)
        self.click(self.bench.connect_button)
        self.held.show(0.462, 2.5)
        self.look()
        self.key(self.bench.reading, Qt.Key.Key_Space)
        self.held.show(0.2, 0.4)
        self.look()
        self.held.broken = "The scale was unplugged: check the plug, then connect again."
        self.look()
        self.assertIn("unplugged", self.refusals[-1])
        self.assertFalse(self.session.connected)
        self.assertEqual(self.session.procedure.readings, {"whole": 0.462})
        self.assertAlmostEqual(self.session.trace.last.value, 0.2)
        self.assertTrue(self.session.lost_at)
        self.held.broken = ""
        self.click(self.bench.connect_button)
        self.assertTrue(self.session.connected)
        self.assertEqual(self.session.problem, "")

    def test_overload_and_flat_battery_are_shown(self) -> None:
        self.lay("matte", Setup.WHOLE)
        self.click(self.bench.connect_button)
        self.held.waiting.append(ScaleReading(1.0, ScaleState.OVERLOAD))
        self.look()
        self.assertEqual(self.session.problem, "More than 20 kg: take it off the scale.")
        self.held.waiting.append(ScaleReading(2.0, ScaleState.OFF))
        self.look()
        self.assertIn("empty", self.session.problem)
        self.assertFalse(self.session.may_take)

    def test_a_scale_without_a_port_is_typed(self) -> None:
        self.lay("matte", Setup.WHOLE)
        self.bench.scale_box.activated.emit(2)
        self.settle()
        self.assertEqual(self.session.scale.name, "Luggage scale")
        self.assertFalse(self.bench.connect_button.isEnabled())

    def test_readings_stay_while_rooms_and_themes_change(self) -> None:
        self.lay("matte", Setup.FORE_AFT)
        self.session.type_reading("0.462")
        self.window.go(BALANCE)
        self.window.menu.switch_theme()
        self.addCleanup(self.window.menu.switch_theme)
        self.window.go(WEIGH)
        self.window.weigh.show_tab("bench")
        self.settle()
        self.assertEqual(self.window.weigh.bench.model.steps[0].state, "done")

    def test_readings_keep_their_part_whatever_is_chosen(self) -> None:
        self.lay("matte", Setup.FORE_AFT)
        self.session.type_reading("0.462")
        self.choose("zoom")
        self.assertEqual(self.session.taken.single.id, "matte")
        self.assertEqual(self.bench.subject_box.currentText(), "Matte box, clip-on")
        self.session.repeat()
        self.choose("handle")
        self.assertEqual(self.session.taken.single.id, "handle")

    def test_a_part_that_is_removed_leaves_the_bench(self) -> None:
        self.lay("weight", Setup.WHOLE)
        self.session.type_reading("0.9")
        self.choose("weight")
        self.key(self.view.table, Qt.Key.Key_Delete)
        self.assertNotIn("weight", self.workspace.book.parts)
        self.assertIsNone(self.session.procedure)

    def test_distances_are_typed_and_checked(self) -> None:
        self.lay("zoom", Setup.HEIGHT)
        self.keys_into(self.bench.fields["tilt"], "25")
        self.assertAlmostEqual(self.session.procedure.layout.tilt, 0.4363, places=3)
        self.keys_into(self.bench.fields["tilt"], "3")
        self.assertIn("6° to 45°", self.at_field())
        self.keys_into(self.bench.fields["span"], "30 cm")
        self.assertAlmostEqual(self.session.procedure.layout.span, 0.30)
        self.keys_into(self.bench.fields["span"], "30 m")
        self.assertIn("30 mm to 3000 mm", self.at_field())

    def keys_into(self, field: QLineEdit, text: str) -> None:
        field.selectAll()
        self.keys(field, text)
        self.key(field, Qt.Key.Key_Return)

    def test_every_set_up_is_drawn_for_a_part_and_for_the_rig(self) -> None:
        for key, ids in (("part", ("zoom",)), ("rig", ())):
            for setup in Setup:
                self.view.show_tab("bench")
                self.bench.bring(key, ids, setup)
                self.settle()
                self.assertGreater(len(self.bench.picture.scene.items), 10, setup)
                texts = [item.text for item in self.bench.picture.scene.items if hasattr(item, "text")]
                self.assertTrue(texts, setup)
                self.assertEqual(self.bench.model.problem, "", setup)

    def test_several_parts_and_what_sits_on_one(self) -> None:
        model = self.view.table.kit_model
        self.choose("vplate")
        selection = self.view.table.selectionModel()
        flags = selection.SelectionFlag.Select | selection.SelectionFlag.Rows
        selection.select(model.index(model.row_of("battery-98"), 0), flags)
        self.keys(self.view.table, "b")
        self.assertTrue(self.session.taken.loose)
        self.assertEqual(self.bench.setup_box.count(), 3)
        self.keys(self.bench.typed, "1.038")
        self.key(self.bench.typed, Qt.Key.Key_Return)
        self.click(self.bench.store_button)
        self.assertEqual(set(self.workspace.book.measurements[-1].part_ids), {"vplate", "battery-98"})
        self.choose("plate")
        index = [self.bench.subject_box.itemText(i) for i in range(self.bench.subject_box.count())].index(
            "Camera plate, long and everything on it"
        )
        self.bench.subject_box.activated.emit(index)
        self.assertEqual(len(self.session.taken.parts), 8)

    def test_the_shipped_stand_in_serves_the_bench(self) -> None:
        from equilix.desktop.views.bench_session import open_port

        self.session._ports = open_port
        self.lay("handle", Setup.WHOLE)
        self.click(self.bench.connect_button)
        self.addCleanup(self.session.close)
        end = time.monotonic() + 15.0
        while not self.session.may_take and time.monotonic() < end:
            self.app.processEvents()
        self.key(self.bench.reading, Qt.Key.Key_Space)
        self.assertAlmostEqual(self.session.procedure.readings["whole"], 0.34, delta=0.03)


class Advice(BenchCase):
    def test_a_click_lays_the_advised_thing_on_the_bench(self) -> None:
        self.assertEqual(self.view.panel.head.text(), "Weigh the matte box.")
        self.click(self.window.panel.advised[0])
        self.assertEqual(self.session.taken.single.id, "matte")
        self.assertEqual(self.view.tabs.key, "bench")
        self.key(self.window.panel.advised[1], Qt.Key.Key_Return)
        self.assertEqual(self.session.choice[0], "rig")
        self.assertIs(self.session.setup, Setup.FORE_AFT)

    def test_another_figure_another_order(self) -> None:
        names = [self.doer(OUTPUT).itemText(i) for i in range(self.doer(OUTPUT).count())]
        self.doer(OUTPUT).activated.emit(names.index(TOTAL_MASS))
        self.settle()
        self.assertEqual(self.view.panel.head.text(), "Weigh the whole rig.")
        self.assertIn("kg", self.window.panel.advised[0].accessibleName())


@campaign
class Weighings(BenchCase):
    def setUp(self) -> None:
        super().setUp()
        self.click(self.view.tabs.buttons["weighings"])

    def test_the_zoom_is_named_with_how_much(self) -> None:
        self.assertEqual(self.view.panel.head.text(), "Check the zoom 28–105.")
        self.assertRegex(self.view.panel.sentence.text(), r"probably 24\d.g heavier than the maker’s sheet says")
        self.assertIn("hood", self.view.panel.sentence.text())

    def test_accept_one_undo_accept_all(self) -> None:
        figures = self.view.weighings.figures
        row = next(i for i in range(figures.rowCount()) if figures.item(i, 0).text() == "Zoom 28–105")
        figures.selectRow(row)
        self.click(self.view.weighings.accept_button)
        self.assertAlmostEqual(self.workspace.book.part("zoom").mass, 1.598, delta=0.004)
        self.window.menu.named["undo"].trigger()
        self.assertEqual(self.workspace.book.part("zoom").mass, 1.36)
        self.settle()
        self.click(self.view.weighings.accept_all)
        self.assertIs(self.workspace.book.part("matte").mass_known, HowKnown.WEIGHED)
        self.settle()
        self.assertFalse(self.view.weighings.accept_all.isEnabled())

    def test_left_out_and_removed(self) -> None:
        table = self.view.weighings.weighings
        table.selectRow(4)
        self.key(table, Qt.Key.Key_Space)
        self.assertFalse(self.workspace.book.measurements[4].used)
        self.assertEqual(table.item(4, 3).text(), "left out")
        table.selectRow(4)
        self.key(table, Qt.Key.Key_Delete)
        self.assertEqual(len(self.workspace.book.measurements), 4)

    def test_imperial(self) -> None:
        self.workspace.set_units(System.IMPERIAL)
        self.addCleanup(self.workspace.set_units, System.METRIC)
        self.settle()
        self.assertIn("lb", self.view.weighings.figures.item(0, 3).text())


@campaign
class HowSure(BenchCase):
    def test_draws_come_with_progress_and_the_window_lives(self) -> None:
        self.click(self.view.tabs.buttons["odds"])
        odds = self.view.odds
        self.assertEqual(odds.table.item(0, 2).text(), "")
        shares: list[float] = []
        ticks: list[int] = []
        timer = QTimer()
        timer.timeout.connect(lambda: ticks.append(1))
        timer.start(5)
        self.click(odds.draw_button)
        odds.job.progressed.connect(shares.append)
        end = time.monotonic() + 30.0
        while odds.odds is None and time.monotonic() < end:
            self.app.processEvents()
        self.assertIsNotNone(odds.odds)
        self.assertGreater(len(shares), 3)
        self.assertGreater(len(ticks), 3)
        self.assertIn("mm", odds.table.item(0, 2).text())
        self.assertIn("All of the simulated rigs tip forward", self.view.panel.sentence.text())
        odds.table.selectRow(2)
        self.settle()
        self.assertIs(self.workspace.output, odds.outputs.offered[2])

    def test_stopping_and_changing_the_build_drop_the_draws(self) -> None:
        self.click(self.view.tabs.buttons["odds"])
        odds = self.view.odds
        self.click(odds.draw_button)
        self.click(odds.draw_button)
        self.assertIsNone(odds.job)
        self.click(odds.draw_button)
        self.workspace.choose_build("wide")
        self.settle()
        self.assertIsNone(odds.job)
        self.assertIsNone(odds.odds)


class Dialogs(BenchCase):
    def test_import_shows_and_takes_only_what_is_ticked(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "list.csv"
        path.write_text("Item;Weight (g);Mark\nZoom 28–105;1598;x\nSlow zoom;3210;x\nOdd;lots;x\n")
        seen: list[ImportDialog] = []

        def answer() -> None:
            dialog: Any = QApplication.activeModalWidget()
            seen.append(dialog)
            self.assertEqual([row.state.value for row in dialog.rows], ["changed", "new", "problem"])
            dialog.field_boxes[1].setCurrentIndex(0)
            self.assertEqual([row.state.value for row in dialog.rows], ["same", "new", "new"])
            dialog.field_boxes[1].setCurrentIndex(2)
            dialog.unit_boxes[1].setCurrentIndex(1)
            group = dialog.tree.topLevelItem(2)
            group.child(0).setCheckState(0, Qt.CheckState.Unchecked)
            self.assertEqual(dialog.take.text(), "Import 1 part")
            dialog.accept()

        QTimer.singleShot(50, answer)
        before = self.workspace.book
        self.window.files.tables.import_path(path)
        self.assertEqual(len(seen), 1)
        self.assertAlmostEqual(self.workspace.book.part("zoom").mass, 1.598)
        self.assertEqual(len(self.workspace.book.kit), len(before.kit))
        self.window.menu.named["undo"].trigger()
        self.assertEqual(self.workspace.book, before)

    def test_a_file_that_is_no_table_changes_nothing(self) -> None:
        self.window.files.tables.import_path(Path("/nonexistent/list.csv"))
        self.assertIn("list.csv does not exist", self.window.banner.text.text())

    def test_a_scale_is_changed_and_bad_figures_are_said(self) -> None:
        dialog = InstrumentDialog(self.session.scale, System.METRIC)
        dialog.step.setText("5 g")
        dialog.port.setCurrentText("socket://192.0.2.7:1")
        dialog.accept()
        self.assertIn("is on another machine", dialog.problem.text())
        dialog.port.setCurrentText("")
        dialog.accept()
        self.assertEqual(dialog.result(), QDialog.DialogCode.Accepted)
        self.assertAlmostEqual(dialog.result_instrument.step, 0.005)

    def answered(self, press: str) -> None:
        """Press a button of the window that opens."""

        def answer() -> None:
            dialog: Any = QApplication.activeModalWidget()
            buttons = {b.text(): b for b in dialog.findChildren(QPushButton)}
            # A window that lacks the button must not wait for ever.
            buttons.get(press, buttons["Cancel"]).click()

        QTimer.singleShot(50, answer)

    def test_a_scale_is_removed_unless_weighings_were_made_with_it(self) -> None:
        before = self.workspace.book
        used = {m.instrument for m in before.measurements}
        for scale in before.instruments:
            self.session.choose_scale(scale.id)
            self.answered("Remove")
            self.window.weigh.scale_wanted.emit(True)
            self.settle()
            if scale.id in used:
                self.assertIn("This scale has weighings. Remove them first", self.refusals[-1])
                self.assertIn(scale.id, self.workspace.book.scales)
            else:
                self.assertNotIn(scale.id, self.workspace.book.scales)
                self.assertNotEqual(self.session.scale.id, scale.id)
        while self.workspace.history.past:
            self.workspace.undo()
        self.assertEqual(self.workspace.book, before)

    def test_an_operator_is_removed_but_not_the_last_one(self) -> None:
        first, second = self.workspace.book.operators[:2]
        self.workspace.choose_operator(second.id)
        for operator in self.workspace.book.operators[1:]:
            self.answered("Remove")
            self.window.acts._edit_operator(operator)
        self.assertEqual(self.workspace.book.operators, (first,))
        self.assertIs(self.workspace.operator, first)
        self.answered("Remove")
        self.window.acts._edit_operator(first)
        self.assertIn("Add another, then remove this one", self.refusals[-1])
        self.assertEqual(self.workspace.book.operators, (first,))
        fresh = OperatorDialog(replace(first, id="new"), System.METRIC)
        self.assertFalse(hasattr(fresh, "remove"))

    def test_history_lists_the_records(self) -> None:
        dialog = HistoryDialog(self.workspace.book.part("body"), System.METRIC)
        self.assertEqual(dialog.tree.topLevelItemCount(), 1)
        self.assertIn("by Maren", dialog.tree.topLevelItem(0).text(3))


class Empty(WindowTestCase):
    def test_an_empty_book_has_an_empty_bench(self) -> None:
        self.window.go(WEIGH)
        for key in ("bench", "weighings", "odds", "part"):
            self.window.weigh.show_tab(key)
            self.settle()
        self.assertIsNone(self.window.bench.procedure)
        self.assertEqual(self.window.weigh.weighings.figures.rowCount(), 0)

    def test_the_first_scale_is_added(self) -> None:
        self.window.go(WEIGH)

        def answer() -> None:
            dialog: Any = QApplication.activeModalWidget()
            dialog.name.setText("Kitchen scale")
            dialog.accept()

        QTimer.singleShot(50, answer)
        self.window.weigh.scale_wanted.emit(True)
        self.assertEqual(self.workspace.book.instruments[0].name, "Kitchen scale")
        self.assertIs(self.window.bench.scale, self.workspace.book.instruments[0])
