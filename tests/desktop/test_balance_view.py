"""The Balance view under the hand: dragging, keys, typed marks, remedies."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from equilix.core.assembly.build import Build, Placed
from equilix.core.assembly.wish import Wish
from equilix.core.errors import EditError
from equilix.core.kit.parts import Category, HowKnown, Mount, MountKind
from equilix.core.solver.strategies import StrategyKind
from equilix.desktop.looks.theme import colors
from equilix.desktop.views.rooms import BALANCE
from equilix.desktop.widgets.way_card import WayCard
from equilix.document.book import Book
from equilix.document.edits.builds import SetSlide
from equilix.present.balance.side_panel import TOLERANCE, WISH
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase, WindowTestCase
from tests.rigs.plain import block

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class BalanceView(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go(BALANCE)
        self.settle()
        self.view = self.window.balance

    def setting(self, placed_id: str) -> float:
        return self.workspace.build.placed(placed_id).setting

    def test_dragging_the_camera_back_is_one_undo_step_and_moves_the_cg(self) -> None:
        before = self.setting("plate")
        moment = self.view.model.net.moment
        self.drag(self.view.elevation, ("part", "plate"), -40)
        self.assertLess(self.setting("plate"), before)
        self.assertLess(self.view.model.net.moment, moment)
        self.assertEqual(len(self.workspace.history.past), 1)
        self.assertEqual(self.workspace.history.undo_label, "Slide Camera plate, long")
        self.workspace.undo()
        self.assertEqual(self.setting("plate"), before)

    @campaign
    def test_enter_enter_applies_a_way_and_the_keyboard_stays_at_the_work(self) -> None:
        self.ways()
        card = next(card for card in self.window.panel.findChildren(WayCard) if card.number == 1)
        title = card.accessibleName()
        card.setFocus()
        before = self.workspace.book
        self.key(self.focus(), Qt.Key.Key_Return)
        self.assertIsNotNone(self.workspace.chosen_way)
        focused = self.focus()
        self.assertIsInstance(focused, WayCard)
        self.assertEqual(focused.accessibleName(), title)
        self.key(focused, Qt.Key.Key_Return)
        self.assertIsNot(self.workspace.book, before)
        # That card is gone: the keyboard goes to the drawing, never to the menu.
        self.assertIn(self.focus(), (self.view.elevation, *self.window.panel.findChildren(WayCard)))

    def test_ctrl_y_does_again_what_was_undone(self) -> None:
        self.drag(self.view.elevation, ("scale", "plate"), 30)
        moved = self.workspace.book
        self.key(self.view.elevation, Qt.Key.Key_Z, CONTROL)
        self.key(self.view.elevation, Qt.Key.Key_Y, CONTROL)
        self.assertEqual(self.workspace.book, moved)

    def test_undo_works_the_moment_a_drag_ends_and_all_bars_follow(self) -> None:
        before = self.setting("plate")
        self.drag(self.view.elevation, ("scale", "plate"), 30)
        self.assertNotEqual(self.setting("plate"), before)
        self.assertTrue(self.window.menu.named["undo"].isEnabled())
        self.assertIn("Slide Camera plate", self.window.menu.named["undo"].text())
        self.assertIn("*", self.window.windowTitle())
        self.assertEqual(self.window.status.saved.text(), "Not saved yet")
        self.key(self.view.elevation, Qt.Key.Key_Z, CONTROL)
        self.assertEqual(self.setting("plate"), before)
        self.assertNotIn("*", self.window.windowTitle())

    def panel_says(self) -> tuple[list[str], list[str]]:
        """Return the words and the buttons that are seen in the panel."""
        panel = self.window.panel
        return (
            [one.text() for one in panel.findChildren(QLabel) if one.isVisible()],
            [one.text() for one in panel.findChildren(QPushButton) if one.isVisible()],
        )

    @campaign
    def test_while_a_part_is_held_nothing_is_said_to_be_sought(self) -> None:
        self.assertTrue(self.ways())
        self.assertIn("least work first", self.panel_says()[0])
        spot = self.spot(self.view.elevation, ("scale", "plate"))
        QTest.mousePress(self.view.elevation, Qt.MouseButton.LeftButton, pos=spot)
        for far in (15, 25):
            QTest.mouseMove(self.view.elevation, spot + QPoint(far, 0))
            self.settle()
            said, buttons = self.panel_says()
            self.assertTrue({"for the rig before your change", "a new search starts when you let go"} & set(said), said)
            self.assertFalse({"least work first", "seeking"} & set(said), said)
            self.assertNotIn("Stop", buttons)
        QTest.mouseRelease(self.view.elevation, Qt.MouseButton.LeftButton, pos=spot + QPoint(25, 0))
        self.assertTrue(self.ways())
        self.settle()
        self.assertIn("least work first", self.panel_says()[0])

    def test_undo_works_while_the_mouse_still_holds_it(self) -> None:
        before = self.setting("plate")
        spot = self.spot(self.view.elevation, ("scale", "plate"))
        QTest.mousePress(self.view.elevation, Qt.MouseButton.LeftButton, pos=spot)
        QTest.mouseMove(self.view.elevation, spot + QPoint(25, 0))
        self.settle()
        self.key(self.view.elevation, Qt.Key.Key_Z, CONTROL)
        self.assertEqual(self.setting("plate"), before)
        QTest.mouseRelease(self.view.elevation, Qt.MouseButton.LeftButton, pos=spot)

    def test_a_mouse_released_behind_a_dialog_holds_nothing_any_more(self) -> None:
        view = self.view.elevation
        spot = self.spot(view, ("scale", "plate"))
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=spot)
        QTest.mouseMove(view, spot + QPoint(25, 0))
        held = self.setting("plate")
        place = QPointF(spot + QPoint(80, 0))
        moved = QMouseEvent(
            QEvent.Type.MouseMove,
            place,
            view.mapToGlobal(place),
            Qt.MouseButton.NoButton,
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(view, moved)
        self.settle()
        self.assertEqual(self.setting("plate"), held)
        self.assertIsNone(view.held)
        self.assertFalse(self.view.dragging)

    def test_dragging_a_scale_stops_at_the_end_of_travel(self) -> None:
        self.drag(self.view.elevation, ("scale", "vplate"), 700)
        mount = self.workspace.book.part("rods-rear").mount("rods")
        self.assertAlmostEqual(self.setting("vplate"), mount.high, places=9)
        self.assertEqual(self.refusals, [])

    def test_arrow_keys_move_one_ten_and_a_tenth_of_a_millimetre(self) -> None:
        self.press_at(self.view.elevation, ("part", "plate"))
        start = self.setting("plate")
        self.key(self.view.elevation, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.setting("plate") - start, 0.001, places=12)
        self.key(self.view.elevation, Qt.Key.Key_Left, SHIFT)
        self.assertAlmostEqual(self.setting("plate") - start, -0.009, places=12)
        self.key(self.view.elevation, Qt.Key.Key_Right, SHIFT | CONTROL)
        self.assertAlmostEqual(self.setting("plate") - start, -0.0089, places=12)

    def test_rosettes_turn_by_teeth(self) -> None:
        self.workspace.select("grip-l")
        self.key(self.view.elevation, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.setting("grip-l"), 0.10471975511965977, places=12)  # 6 degrees

    def test_a_typed_digit_opens_the_mark_field(self) -> None:
        self.press_at(self.view.elevation, ("part", "plate"))
        self.keys(self.view.elevation, "5")
        editor = self.view.slides.editor
        self.assertTrue(editor.isVisible())
        self.keys(editor, "0 mm")
        self.key(editor, Qt.Key.Key_Return)
        self.assertFalse(editor.isVisible())
        mount = self.workspace.book.part("base").mount("dovetail")
        self.assertAlmostEqual(self.setting("plate"), mount.low + 0.050, places=9)

    def test_a_mark_beyond_the_slide_is_refused_with_its_limits(self) -> None:
        self.workspace.select("plate")
        before = self.setting("plate")
        with self.assertRaisesRegex(EditError, "0 to 229 mm"):
            self.view.slides.set_typed("400 mm")
        with self.assertRaisesRegex(EditError, "not a length"):
            self.view.slides.set_typed("far")
        self.assertEqual(self.setting("plate"), before)

    def test_a_fixed_part_says_that_it_neither_slides_nor_turns(self) -> None:
        self.press_at(self.view.elevation, ("part", "base"))
        self.key(self.view.elevation, Qt.Key.Key_Left)
        self.assertIn("fixed", self.refusals[-1])
        self.assertTrue(self.window.banner.isVisible())

    def test_up_and_down_step_through_the_parts_and_the_ledger_follows(self) -> None:
        self.workspace.select("")
        self.key(self.view.elevation, Qt.Key.Key_Down)
        self.assertEqual(self.workspace.selected, "base")
        self.key(self.view.elevation, Qt.Key.Key_Down)
        self.assertEqual(self.workspace.selected, "pad")
        self.assertEqual(self.view.pages.ledger.table.currentIndex().row(), 1)

    def test_the_row_under_the_mouse_is_shaded_until_the_mouse_leaves(self) -> None:
        port = self.view.pages.ledger.table.viewport()
        place = QPoint(60, self.view.pages.ledger.table.rowViewportPosition(2) + 9)

        def shade() -> QColor:
            self.settle()
            return port.grab().toImage().pixelColor(place.x(), place.y() - 6)

        self.assertEqual(shade(), colors()["paper"])
        QTest.mouseMove(port, place)
        self.assertNotEqual(shade(), colors()["paper"])
        self.app.sendEvent(port, QEvent(QEvent.Type.Leave))
        self.assertEqual(shade(), colors()["paper"])

    def test_choosing_a_ledger_row_selects_the_part(self) -> None:
        self.view.pages.ledger.table.setFocus()
        self.view.pages.ledger.table.selectRow(6)
        self.settle()
        self.assertEqual(self.workspace.selected, self.workspace.build.parts[6].id)

    @campaign
    def test_each_full_way_levels_the_rig_when_applied(self) -> None:
        for kind in (StrategyKind.SLIDES, StrategyKind.BATTERY, StrategyKind.DEAD_WEIGHT):
            index = next(i for i, way in enumerate(self.ways()) if way.kind is kind)
            self.assertTrue(self.view.ways[index].strategy.full)
            before = self.workspace.book
            self.view.choose_way(index)
            self.settle()
            self.assertIs(self.workspace.book, before)
            self.key(self.view.elevation, Qt.Key.Key_Return)
            self.assertLessEqual(abs(self.view.model.net.moment), 0.1001)
            self.assertEqual(self.workspace.history.undo_label, "Apply way")
            self.workspace.undo()
            self.settle()
            self.assertEqual(self.workspace.book, before)

    @campaign
    def test_the_preview_draws_a_ghost_and_escape_drops_it(self) -> None:
        self.ways()
        plain = len(self.view.elevation.scene.items)
        self.key(self.view.elevation, Qt.Key.Key_P)
        self.assertGreater(len(self.view.elevation.scene.items), plain)
        self.key(self.view.elevation, Qt.Key.Key_Escape)
        self.assertEqual(len(self.view.elevation.scene.items), plain)
        self.assertEqual(self.workspace.history.past, ())

    @campaign
    def test_ways_of_a_build_that_changed_meanwhile_are_dropped(self) -> None:
        self.workspace.choose_build("wide")
        self.workspace.choose_build("long-zoom")
        self.workspace.choose_build("wide")
        self.settle()
        moved = next(way.strategy.plan.moved for way in self.ways() if way.kind is StrategyKind.SLIDES)
        self.assertIn("motor", moved)

    @campaign
    def test_escape_stops_a_long_search(self) -> None:
        self.view.finder.clear()
        self.view.finder.seek(self.workspace.analysis())
        self.key(self.view.elevation, Qt.Key.Key_Escape)
        self.assertFalse(self.view.finder.busy)
        self.assertIn("Stopped", self.view.finder.note)
        self.workspace.apply(SetSlide("long-zoom", "plate", 0.01, "plate"))
        self.settle()
        self.assertTrue(self.ways())

    @campaign
    def test_the_moment_that_counts_as_level_is_typed(self) -> None:
        self.ways()
        field = self.doer(TOLERANCE)
        field.setText("6 N·m")
        field.editingFinished.emit()
        self.settle()
        self.wait_for(lambda: not self.view.finder.busy)
        self.assertEqual(self.workspace.preferences.tolerance, 6.0)
        self.assertEqual(self.view.finder.note, "It counts as level. No way is needed.")
        self.doer(TOLERANCE).setText("much")
        self.doer(TOLERANCE).editingFinished.emit()
        self.assertIn('"much" is not a moment', self.at_field())
        self.assertEqual(self.doer(TOLERANCE).text(), "much")
        self.assertEqual(self.workspace.preferences.tolerance, 6.0)
        self.keys(self.doer(TOLERANCE), "x")
        self.assertEqual(self.at_field(), "")

    @campaign
    def test_the_way_that_keys_step_to_stands_at_the_top_and_stays_in_its_place(self) -> None:
        ways = self.ways()
        panel = self.window.panel
        for place in range(len(ways)):
            self.key(self.view.elevation, Qt.Key.Key_P)
            self.settle()
            bottom = panel.doing.button.mapTo(panel.viewport(), QPoint(0, panel.doing.button.height())).y()
            self.assertTrue(0 < bottom <= panel.viewport().height(), (place, bottom))
            self.assertEqual(panel.sentence.text().replace("\xa0", " "), ways[place].deed.act)
        # While one is looked at the others keep their order, whatever they would be ordered by.
        self.assertTrue(self.view.finder.holds())
        kinds = [way.kind for way in self.ways()]
        self.view.finder._words_key = None
        self.view.finder._strategies = tuple(reversed(self.view.finder._strategies))
        self.view.finder._say()
        self.assertEqual([way.kind for way in self.view.finder.ways], kinds)

    @campaign
    def test_a_wish_orders_the_ways_of_this_build_and_can_be_undone(self) -> None:
        first = self.ways()[0].title
        box = self.doer(WISH)
        self.assertEqual([box.itemText(k) for k in range(box.count())][:2], ["least work", "no added mass"])
        box.setCurrentIndex(2)
        box.activated.emit(2)
        self.settle()
        self.assertIs(self.workspace.build.wish, Wish.STEADY)
        full = [way.strategy.steadier[1] for way in self.ways() if way.strategy.full and not way.then]
        self.assertEqual([-round(one, 1) for one in full], sorted(-round(one, 1) for one in full))
        self.assertIn("steadiness first", self.panel_says()[0])
        self.workspace.undo()
        self.assertIs(self.workspace.build.wish, Wish.NONE)
        self.assertEqual(self.ways()[0].title, first)

    @campaign
    def test_the_trade_off_shows_the_ways_and_a_click_chooses_one(self) -> None:
        weight = str([way.kind for way in self.ways()].index(StrategyKind.DEAD_WEIGHT))
        self.click(self.view.pages.tabs.buttons["trade"])
        self.wait_for(lambda: self.view.pages.trade.curves)
        keys = {region.key for region in self.view.pages.trade.picture.scene.regions}
        self.assertIn(("way", weight), keys)
        self.assertGreater(len([k for k in keys if k[0] == "point"]), 5)
        self.assertIn("2.30 kg added", self.view.pages.trade.picture.tips["way", weight])
        self.press_at(self.view.pages.trade.picture, ("way", weight))
        self.assertIs(self.workspace.chosen_way.kind, StrategyKind.DEAD_WEIGHT)

    @campaign
    def test_the_lens_table_sets_the_camera(self) -> None:
        self.click(self.view.pages.tabs.buttons["lenses"])
        panel = self.view.pages.lenses
        model = self.wait_for(lambda: panel.model)
        names = [row.cells[0] for row in model.rows]
        self.assertIn("Zoom 28–105, at its wide end", names)
        self.assertIn("Zoom 28–105, at its long end", names)
        self.assertEqual(len(names), 8)
        self.assertIn("No lens", names)
        row = names.index("Prime 50 mm")
        panel.table.selectRow(row)
        self.key(panel.table, Qt.Key.Key_Return)
        self.assertAlmostEqual(self.setting("plate"), model.rows[row].setting, places=9)
        self.wait_for(lambda: panel.job is None)
        panel.field.setText("0.05 N·m")
        panel.field.editingFinished.emit()
        self.wait_for(lambda: panel.job is None)
        self.assertGreater(len(panel.model.marks), len(model.marks))
        self.click(panel.take_common)
        self.assertIn("One mark for all lenses", panel.model.common)

    def test_the_counterweight_follows_its_lever(self) -> None:
        self.click(self.view.pages.tabs.buttons["weight"])
        panel = self.view.pages.weight
        moment = self.view.model.net.moment / 9.80665
        self.assertAlmostEqual(panel.mass * -panel.lever.arm(panel.place, panel.mass), moment, places=9)
        panel.mass_field.selectAll()
        self.keys(panel.mass_field, "4 k")
        self.view.finder.changed.emit()  # ways that arrive meanwhile leave what is typed alone
        self.keys(panel.mass_field, "g")
        self.key(panel.mass_field, Qt.Key.Key_Return)
        self.assertAlmostEqual(-panel.lever.arm(panel.place, 4.0) * 4.0, moment, places=9)
        self.click(panel.add)
        self.assertAlmostEqual(self.view.model.net.moment, 0.0, places=6)
        self.assertEqual(self.workspace.history.undo_label, "Add counterweight")
        self.assertIn("level", panel.words.text())

    @campaign
    def test_a_drag_before_the_ways_arrive_builds_nothing_and_seeks_nothing(self) -> None:
        self.workspace.choose_build("wide")
        self.assertTrue(self.view.finder.busy)
        head = self.window.panel.head
        self.view.slides._moved = True
        self.view.elevation._held = ("part", "plate")
        for k in range(3):
            self.workspace.apply(SetSlide("wide", "plate", 0.002 * k, "plate"))
            self.settle()
            self.assertIs(self.window.panel.head, head)
            self.assertFalse(self.view.finder.busy)
            said, buttons = self.panel_says()
            self.assertIn("a new search starts when you let go", said)
            self.assertNotIn("seeking", said)
            self.assertNotIn("Stop", buttons)
        self.view.elevation._held = None
        self.view.refresh()
        self.assertTrue(self.ways())

    def test_units_switch_everywhere_and_back(self) -> None:
        self.keys(self.view.elevation, "u")
        self.assertEqual(self.view.model.mass_unit, "lb")
        self.assertIn("lb", self.view.model.figures[0].value)
        self.keys(self.view.elevation, "u")
        self.assertEqual(self.view.model.mass_unit, "kg")

    def test_the_wide_body_presses_on_the_head(self) -> None:
        self.workspace.choose_build("wide")
        self.settle()
        self.assertTrue(any("presses on Maren's head" in caution for caution in self.view.model.cautions))
        self.assertEqual(self.window.rail.buttons[BALANCE].mark, "look")

    def test_the_trimmed_build_is_level(self) -> None:
        self.workspace.choose_build("trimmed")
        self.settle()
        verdict = self.view.model.verdict
        self.assertEqual((verdict.head, verdict.matter), ("Level", "The screen is out of sight."))
        # Steadying may be offered, and is nothing that has to be done: Enter leaves a level rig alone.
        self.ways()
        before = self.workspace.book
        self.assertIsNone(self.window.panel.doing)
        self.key(self.view.elevation, Qt.Key.Key_Return)
        self.assertIs(self.workspace.book, before)
        self.assertTrue(verdict.in_full.startswith(verdict.matter))
        self.assertEqual(self.window.rail.buttons[BALANCE].mark, "look")


class NothingToMove(WindowTestCase):
    """A base on the shoulder with a block screwed on ahead of it: nothing slides, and the kit has nothing else."""

    known = HowKnown.GUESSED

    def setUp(self) -> None:
        mounts = (Mount("pad", MountKind.SHOULDER, (0, 0, 0)), Mount("top", MountKind.QUARTER_20, (0.05, 0.0, 0.01)))
        base = block("base", 1.0, (0.2, 0.1, 0.02), Category.PLATE, mounts=mounts)
        heavy = block("heavy", 2.0, (0.3, 0.1, 0.1), known=self.known, kind=MountKind.QUARTER_20, at=(0.0, 0.0, -0.05))
        parts = (Placed("base", "base"), Placed("heavy", "heavy", "base", "top"))
        self.book = Book(kit=(base, heavy), builds=(Build("rig", "Rig", parts),))
        super().setUp()
        self.wait_for(lambda: not self.window.balance.finder.busy)

    def test_what_lies_within_doubt_is_not_worth_chasing(self) -> None:
        note = self.window.balance.finder.note
        self.assertEqual(self.window.balance.ways, ())
        self.assertIn("What remains is smaller than its ±. Weigh the parts again first", note)
        self.assertTrue(any(note == one.text() for one in self.window.panel.findChildren(QLabel)))


class WeighedAndStillAhead(NothingToMove):
    """The same, weighed: now it is known to tip, and it is said that nothing would help."""

    known = HowKnown.WEIGHED

    def test_what_lies_within_doubt_is_not_worth_chasing(self) -> None:
        note = self.window.balance.finder.note
        self.assertEqual(self.window.balance.ways, ())
        self.assertIn("No way was found", note)
        self.assertTrue(any(note == one.text() for one in self.window.panel.findChildren(QLabel)))
