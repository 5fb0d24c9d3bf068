"""The Build view under the hand."""

from __future__ import annotations

from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent

from equilix.desktop.views.rooms import BUILD
from equilix.desktop.widgets.mime import MIME
from equilix.document.edits.builds import TakeOff
from equilix.present.assembly.side_panel import JOIN, REORDER
from tests.campaigns import campaign
from tests.desktop.base import DemoWindowTestCase


class BuildView(DemoWindowTestCase):
    room = BUILD

    def setUp(self) -> None:
        super().setUp()
        self.settle()
        self.view = self.window.build

    def names(self) -> list[str]:
        return [self.workspace.book.name_of(placed) for placed in self.workspace.build.parts]

    def test_only_fitting_parts_are_offered_and_the_others_say_why(self) -> None:
        self.press_at(self.view.drawing, ("mount", "front", "rods"))
        for offer in self.view.offers:
            self.assertIn("15 mm rods", [foot.kind for foot in offer.part.feet])
        reasons = {misfit.part.id: misfit.reason for misfit in self.view.tray.misfits}
        self.assertEqual(reasons["zoom"], "is on this build already")
        self.assertEqual(reasons["zoom-short"], "needs lens mount")
        self.assertEqual(len(self.view.offers) + len(reasons), len(self.workspace.book.kit))

    def test_a_number_puts_the_part_on_and_selects_it(self) -> None:
        self.press_at(self.view.drawing, ("mount", "front", "rods"))
        name = self.view.offers[0].part.name
        self.key(self.view.drawing, Qt.Key.Key_1)
        self.assertEqual(self.names()[-1], name)
        self.assertEqual(self.workspace.selected, self.workspace.build.parts[-1].id)

    def test_a_part_dropped_on_a_mount_goes_on_there_and_nowhere_else(self) -> None:
        count = len(self.workspace.build.parts)
        for part_id, key, fits in (
            ("focus", ("mount", "front", "rods"), True),
            ("mic", ("mount", "rear", "rods"), False),
        ):
            spot = QPointF(self.spot(self.view.drawing, key))
            data = QMimeData()
            data.setData(MIME, part_id.encode())
            event = QDropEvent(
                spot, Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
            )
            self.view.drawing.dropEvent(event)
            self.settle()
            count += fits
            self.assertEqual(len(self.workspace.build.parts), count)
        self.assertIn("does not fit there", self.refusals[-1])

    def test_delete_takes_a_part_off_with_all_that_sits_on_it(self) -> None:
        self.press_at(self.view.drawing, ("part", "handle"))
        self.key(self.view.drawing, Qt.Key.Key_Delete)
        names = self.names()
        for name in ("Top handle", "Monitor tilt mount", "Field monitor 5 in", "Video sender"):
            self.assertNotIn(name, names)
        self.workspace.undo()
        self.assertIn("Field monitor 5 in", self.names())

    def test_clashes_are_said_drawn_and_select_the_part(self) -> None:
        self.workspace.choose_build("wide")
        self.settle()
        self.assertEqual(self.view.model.verdict.head, "Two things to clear.")
        self.assertEqual(self.window.rail.buttons[BUILD].mark, "look")
        self.click(self.window.panel.doers["select", self.view.model.problems[0][2]])
        self.settle()
        self.assertEqual(self.workspace.selected, "motor")
        # Sliding the motor away clears it.
        for _ in range(5):
            self.key(self.view.drawing, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.view.model.verdict.head, "Fits.")

    def test_a_slide_beyond_its_stop_is_shown(self) -> None:
        from msgspec.structs import replace

        from equilix.document.edits.kit import ChangePart

        base = self.workspace.book.part("base")
        mounts = tuple(replace(m, high=-0.02) if m.id == "dovetail" else m for m in base.mounts)
        self.workspace.apply(ChangePart(replace(base, mounts=mounts), "mounts"))
        self.settle()
        titles = [problem[0] for problem in self.view.model.problems]
        self.assertIn("Camera plate, long: 25 mm beyond the end of its slide", titles)
        self.assertIsNotNone(self.view.drawn.scale)

    def test_brackets_walk_the_mounts_in_order_of_work(self) -> None:
        first = self.view.chosen
        self.key(self.view.drawing, Qt.Key.Key_BracketRight)
        self.assertNotEqual(self.view.chosen, first)
        self.key(self.view.drawing, Qt.Key.Key_BracketLeft)
        self.assertEqual(self.view.chosen, first)

    def test_dragging_in_the_side_view_moves_a_part_on_the_rods(self) -> None:
        before = self.workspace.build.placed("support").setting
        self.workspace.select("support")
        self.settle()
        self.drag(self.view.drawing, ("part", "support"), 20)
        self.assertGreater(self.workspace.build.placed("support").setting, before)

    def test_undo_works_the_moment_a_drag_ends(self) -> None:
        before = self.workspace.book
        view = self.view.drawing
        self.drag(view, ("part", "support"), 20)
        self.assertIsNot(self.workspace.book, before)
        self.key(view, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.workspace.book, before)

    def test_order_strip_counts_up_to_the_whole_rig(self) -> None:
        steps = self.view.model.steps
        self.assertEqual(sum(step.count for step in steps), len(self.workspace.build.parts))
        self.assertEqual(steps[-1].mass_text, self.view.model.figures[0].value)

    def test_turning_and_reordering_can_be_undone(self) -> None:
        book = self.workspace.book
        self.workspace.select("sender")
        self.keys(self.view.drawing, "t")
        self.assertEqual(self.workspace.build.placed("sender").quarter_turns, 1)
        both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        self.key(self.view.drawing, Qt.Key.Key_Up, both)
        self.workspace.undo()
        self.workspace.undo()
        self.assertEqual(self.workspace.book, book)


@campaign
class ClearingAndNext(DemoWindowTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.choose_build("wide")
        self.window.go(BUILD)
        self.settle()
        self.view = self.window.build

    def test_a_clash_is_cleared_by_the_first_way_and_comes_back_with_undo(self) -> None:
        advice = self.view.advice
        self.wait_for(lambda: advice.ways)
        clashes = len(self.view.model.problems)
        plain = len(self.view.drawing.scene.items)
        self.key(self.view.drawing, Qt.Key.Key_P)
        self.assertGreater(len(self.view.drawing.scene.items), plain)
        self.assertIs(advice.chosen, advice.ways[0])
        before = self.workspace.book
        self.click(self.window.panel.cards[0].apply_button)
        self.assertLess(len(self.view.model.problems), clashes)
        self.assertEqual(self.workspace.history.undo_label, "Clear clash")
        self.workspace.undo()
        self.assertEqual(self.workspace.book, before)

    def test_escape_drops_the_preview(self) -> None:
        self.wait_for(lambda: self.view.advice.ways)
        self.key(self.view.drawing, Qt.Key.Key_P)
        self.key(self.view.drawing, Qt.Key.Key_Escape)
        self.assertIsNone(self.view.advice.chosen)

    def test_what_goes_on_next_is_offered_with_its_effect_and_put_on(self) -> None:
        self.workspace.choose_build("long-zoom")
        for part in ("matte", "clamp", "support"):
            self.workspace.apply(TakeOff("long-zoom", part))
        self.settle()
        advice = self.view.advice
        # In order of work: the clamp for the grips, then what is set to the lens.
        self.assertEqual([one.placed.part_id for one in advice.next], ["clamp", "matte-rods", "support"])
        self.assertEqual(advice.next[2].placed.parent, "front")
        self.assertGreater(advice.next[2].after, advice.next[2].before)
        self.click(self.window.panel.doers[JOIN, "support"])
        self.assertIn("support", [placed.part_id for placed in self.workspace.build.parts])

    def test_the_strip_shows_the_rig_without_its_battery(self) -> None:
        step = self.view.model.steps[3]
        self.assertGreater(step.without, step.ahead)
        self.assertIsNone(self.view.model.steps[0].without)

    def test_parts_on_rods_are_put_in_the_usual_order(self) -> None:
        order = next(o for o in self.view.advice.orders if o.holder == "front")
        self.assertEqual((order.now, order.better), (("motor", "clamp"), ("clamp", "motor")))
        self.click(next(button for key, button in self.window.panel.doers.items() if key[0] == REORDER))
        order = next(o for o in self.view.advice.orders if o.holder == "front")
        self.assertTrue(order.as_wanted)
